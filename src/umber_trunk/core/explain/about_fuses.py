"""Derivations about fuses and starts."""

from __future__ import annotations

import numpy as np

from umber_trunk.core.catalog.conductors import Conductor, show_size
from umber_trunk.core.fuses.fit import FuseDuty, Start, duties, fuse_duties
from umber_trunk.core.harness.end import End, Link, LinkKind
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.damage import source_of
from umber_trunk.core.physics.fuses import CONTINUOUS_SHARE, CONVENTIONAL_MULTIPLE, DERATING_PER_K, opening_s
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.sentences import Message
from umber_trunk.core.solve.solution import start_temperatures
from umber_trunk.core.solve.used import Figures, Limit, WireFigures
from umber_trunk.core.units import show_seconds, significant
from umber_trunk.core.usual import MET
from umber_trunk.core.why import Derivation, Input, Said, estimated, why


def why_protection(
    title: Said, band: Said, judged: Protected, cond: Conductor, rule: str, steps: tuple[Said, ...] = ()
) -> Derivation:
    """The overload where fuse and wire are closest, by the house's rule. `band` names the fuse."""
    ok = judged.used <= MET
    size, i2 = show_size(cond.size.label), CONVENTIONAL_MULTIPLE * judged.rating_a
    beside = (
        Input("I_z", why("i-z", size=size), f"{significant(judged.ampacity_a)} A"),
        Input("I_n", why("rating"), f"{judged.rating_a:g} A"),
        Input("I₂/I_z", why("i2"), f"{i2 / max(judged.ampacity_a, 1e-9):.2f}"),
    )  # fmt: skip
    if rule != "curve":
        formula = why("rule.iec.formula") if rule == "iec" else "I_n ≤ 1.5·I_z"
        return Derivation(
            title=title,
            verdict=why("rule.verdict", band=band, ok=ok),
            formula=formula,
            inputs=beside,
            steps=steps,
            result=why("used", percent=100 * judged.used),
            limit="100 %",
            source=estimated(why(f"rule.{rule}")),
        )
    for_ever = not np.isfinite(judged.seconds)
    long = why("for-ever") if for_ever else why("for", time=show_seconds(judged.seconds))
    return Derivation(
        title=title,
        verdict=why("curve.verdict", band=band, ok=ok, amps=significant(judged.worst_a), long=long),
        formula=why("curve.formula"),
        inputs=(
            Input("I", why("curve.i"), f"{significant(judged.worst_a)} A"),
            Input("t", why("curve.t"), long),
            Input("θ(t)", why("curve.theta"), f"{judged.allowed_c:.0f} °C"),
            Input("I_w", why("curve.i-w", size=size), f"{significant(judged.withstand_a)} A"),
            *beside,
        ),
        steps=steps,
        result=why("curve.result", percent=100 * judged.used),
        limit="100 %",
        source=estimated(why("curve.source", source=source_of(cond))),
    )


def why_fuse(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Whether the fuse before a wire opens before the wire is damaged, at the overload where it is closest."""
    guard, judged = found.guards[row.row], found.protected.get(row.row)
    name = row.wire.name or row.wire.id
    if guard is None or judged is None:
        bare = why("fuse.bare" if row.row in found.bare else "fuse.unrated")
        return Derivation(why("fuse.of-wire", wire=name), bare, "–", (), why("fuse.none"))
    cond = found.solution.plant.conductors[row.row]
    told = [why("fuse.far-short", amps=significant(guard.fault_a))]
    if len(found.solution.cases) > 1:
        told.append(why("fuse.worst", case=found.case_name(judged.case)))
    title = why("fuse.title", link=guard.link_id, wire=name)
    return why_protection(
        title, why("fuse.band", rating=guard.rating_a), judged, cond, design.project.fuse_rule, tuple(told)
    )


def why_start(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """The hardest start on a wire's way: what it heats the wire to, and how far the worst load dips."""
    name, duty = row.wire.name or row.wire.id, duties(found.solution)[row.row]
    dip = next(use for use in row.uses if use.limit is Limit.DIP)
    steps = list[Message]()
    if dip.subject:
        entry = found.loads[dip.subject]
        volts = min(
            (float(c.surge_v[entry.row]) for c in found.solution.cases if np.isfinite(c.surge_v[entry.row])),
            default=np.nan,
        )
        steps = [why("start.dips", load=entry.load.name, volts=volts, least=entry.load.min_volts)]
    if not duty.starts:
        return Derivation(
            why("start.title", wire=name),
            why("sentence", said=steps[0]) if steps else why("start.none"),
            "–",
            (),
            why("start.dip-used", percent=100 * dip.used),
        )
    rise, start = max(((_rise_k(found, row, start), start) for start in duty.starts), key=lambda pair: pair[0])
    cond = found.solution.plant.conductors[row.row]
    return Derivation(
        title=why("start.title", wire=name),
        verdict=why(
            "start.verdict",
            load=start.load,
            rise=rise,
            hot_c=row.conductor_c + rise,
            limit_c=cond.jacket.short_c,
        ),
        formula=why("start-formula"),
        inputs=(
            Input("I", why("start.i", load=start.load), f"{significant(start.amps)} A"),
            Input("t", why("start.t"), f"{start.seconds:g} s"),
            Input("T", why("running"), f"{row.conductor_c:.0f} °C"),
            Input("C", why("stored"), f"{cond.kg_per_m * cond.metal.heat_j_kg_k:.1f} J/m·K"),
        ),
        steps=tuple(steps),
        result=f"T + θ = {row.conductor_c + rise:.1f} °C",
        limit=why("short-time", limit_c=cond.jacket.short_c),
        source=estimated(why("start-source")),
    )


def _rise_k(found: Figures, row: WireFigures, start: Start) -> float:
    """The largest over the cases in which the wire is loaded."""
    solution, at = found.solution, row.row
    through = np.zeros((len(solution.plant.wires), 1))
    through[at] = start.amps
    seconds = np.array([start.seconds])
    return max(
        float(start_temperatures(solution.plant, solution.heat, case, through, seconds)[at, 0] - case.conductor_c[at])
        for case in solution.cases
    )


def why_link(found: Figures, end: End, link: Link) -> Derivation:
    """What a fuse, switch or coupler carries against what it stands all day, and the starts it has to ride."""
    plant = found.solution.plant
    duty = fuse_duties(found.solution)[plant.links.index((end.id, link))]
    title = why("link.title", kind=why(f"link.kind.{link.kind}"), link=link.id, end=end.name)
    if link.rating_a is None:
        fits = duty.fitting() if link.kind is LinkKind.FUSE else None
        open_ = why("link.open", amps=significant(duty.amps), fits=fits)
        return Derivation(title, open_, "–", (), why("open"))
    most = duty.all_day_a(link.rating_a, link.kind)
    inputs = [
        Input("I", why("link.i"), f"{significant(duty.amps)} A"),
        Input("I_n", why("rating"), f"{link.rating_a:g} A"),
    ]
    if link.kind is LinkKind.FUSE:
        inputs.append(Input("Tₐ", why("link.air"), f"{duty.ambient_c:g} °C"))
    return Derivation(
        title=title,
        verdict=why("link.verdict", amps=significant(duty.amps), most=significant(most)),
        formula=f"I ≤ I_n·({CONTINUOUS_SHARE:g} − {DERATING_PER_K:g}·(Tₐ − 25 °C))"
        if link.kind is LinkKind.FUSE
        else "I ≤ I_n",
        inputs=tuple(inputs),
        steps=tuple(_starts_told(link.rating_a, duty)) if link.kind is LinkKind.FUSE else (),
        result=why("used", percent=100 * duty.amps / most) if most > 0 else why("link.nothing"),
        limit="100 %",
        source=estimated(why("link.source")),
    )


def _starts_told(rating_a: float, duty: FuseDuty) -> list[Message]:
    told = []
    for start in duty.starts:
        fastest = float(opening_s(rating_a, np.array([start.amps]))[0][0])
        told.append(
            why(
                "link.start",
                load=start.load,
                amps=significant(start.amps),
                seconds=start.seconds,
                opens=show_seconds(fastest),
                held=fastest > start.seconds,
            )
        )
    return told
