"""Why a fit holds or doesn't: the rule, its figures, where they come from."""

from __future__ import annotations

from umber_trunk.core.ends.judging import CONTACT_RISE_K, Fit
from umber_trunk.core.units import significant
from umber_trunk.core.why import Derivation, Input, why

RULES = {
    "part.fits": ("A part for this wire", "some part on the shelf has A, D and I within its limits"),
    "boot.wire": ("Boot on its wire", "least outside ≤ D ≤ most outside"),
    "contact.soldered": ("Solder in place of a crimp", "only where the house does so, up to its current"),
    "seal.size": ("Seal for the cavity", "size and family of seal and cavity agree"),
    "contact.shared": ("Wires in one contact", "one, by the house’s practice"),
    "grommet.single": ("Wires in one bore", "one"),
    "barrel.area": ("Conductor in its barrel", "least area ≤ Σ A of all conductors in the barrel ≤ most area"),
    "wings.insulation": ("Insulation in its wings", "least outside ≤ D ≤ most outside"),
    "seal.insulation": ("Insulation in its seal", "least outside ≤ D ≤ most outside"),
    "grommet.insulation": ("Insulation in the grommet’s bore", "least outside ≤ D ≤ most outside"),
    "clamp.area": ("Conductor in its clamp", "least area ≤ Σ A ≤ most area"),
    "ferrule.area": ("Conductor in its ferrule", "least area ≤ A ≤ most area"),
    "ferrule.collar": ("Insulation in the collar", "as many wires as it is made for, each ≤ the collar"),
    "tool.die": ("Die for the barrel", "the sheet gives a crimp height near this area"),
    "contact.current": ("Current of the contact", "|Σ I| through the contact ≤ rated current × share for the loaded cavities"),
    "contact.heat": ("Temperature of the contact", f"T = T_wire + {CONTACT_RISE_K:g} K · (I/I_rated)² ≤ T_limit"),
    "stud.hole": ("Stud in its hole", "hole − 1.6 mm ≤ stud ≤ hole"),
    "stud.stack": ("Lugs on one stud", "at most four, the largest current lowest"),
    "shrink.passes": ("Shrink over what it passes", "supplied bore > the widest of wire and barrel"),
    "shrink.grips": ("Shrink on what it grips", "recovered bore < the thinnest of wire and barrel"),
    "shrink.clear": ("Shrink off the flat", "length over the barrel ≤ barrel"),
    "gland.jacket": ("Jacket in its gland", "least jacket ≤ D ≤ most jacket"),
    "bend.room": ("Room to bend", "room ≥ the housing’s own, or four times the thickest wire"),
    "lead.weakest": ("Weakest part of the lead", "I ≤ least of all rated currents on it"),
}  # fmt: skip


def why_fit(fit: Fit) -> Derivation:
    """The derivation of one fit."""
    title, formula = RULES.get(fit.rule, (fit.rule.replace(".", " ").capitalize(), why("fit.agree")))
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
