"""Why a fit holds or doesn't: the rule, its figures, where they come from."""

from __future__ import annotations

from umber_trunk.core.ends.judging import CONTACT_RISE_K, Fit
from umber_trunk.core.units import significant
from umber_trunk.core.why import Derivation, Input, Said, why

HEAT = "contact.heat"
RULES = (
    "part.fits", "boot.wire", "contact.soldered", "seal.size", "contact.shared", "grommet.single", "barrel.area",
    "wings.insulation", "seal.insulation", "grommet.insulation", "clamp.area", "ferrule.area", "ferrule.collar",
    "tool.die", "contact.current", "contact.heat", "stud.hole", "stud.stack", "shrink.passes", "shrink.grips",
    "shrink.clear", "gland.jacket", "bend.room", "lead.weakest",
)  # fmt: skip
"""Rules whose title and formula stand under why.rule-of and why.formula-of."""


def why_fit(fit: Fit) -> Derivation:
    """The derivation of one fit."""
    title: Said = fit.rule.replace(".", " ").capitalize()
    formula = why("fit.agree")
    if fit.rule in RULES:
        title = why(f"rule-of.{fit.rule}")
        formula = why(f"formula-of.{fit.rule}", **({"kelvin": CONTACT_RISE_K} if fit.rule == HEAT else {}))
    inputs = []
    if fit.value is not None:
        inputs.append(Input("is", why("fit.found"), f"{significant(fit.value)} {fit.unit}"))
    if fit.low is not None:
        inputs.append(Input("least", why("fit.sheet"), f"{fit.low:g} {fit.unit}"))
    if fit.high is not None:
        inputs.append(Input("most", why("fit.sheet"), f"{fit.high:g} {fit.unit}"))
    if fit.part:
        inputs.append(Input("part", why("fit.proposed" if fit.proposed else "fit.chosen"), fit.part))
    verdict = fit.message if fit.ok else f"{fit.message} {fit.cure}"
    off = why("fit.holds" if fit.ok else "fit.not")
    if fit.off:
        off = why("fit.off", off=significant(fit.off), unit=fit.unit)
    steps = (why("fit.would", options=", ".join(fit.options)),) if fit.options else ()
    return Derivation(title, verdict, formula, tuple(inputs), off, "", fit.source or why("fit.source"), steps)
