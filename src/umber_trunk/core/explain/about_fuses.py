"""Derivations about fuses and starts."""

from __future__ import annotations

import numpy as np

from umber_trunk.core.catalog.conductors import Conductor, show_size
from umber_trunk.core.explain.about_wires import ESTIMATE
from umber_trunk.core.fuses.fit import FuseDuty, Start, duties, fuse_duties
from umber_trunk.core.harness.end import End, Link, LinkKind
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.damage import source_of
from umber_trunk.core.physics.fuses import CONTINUOUS_SHARE, CONVENTIONAL_MULTIPLE, DERATING_PER_K, opening_s
from umber_trunk.core.physics.protection import RULES, Protected
from umber_trunk.core.solve.solution import start_temperatures
from umber_trunk.core.solve.used import Figures, Limit, WireFigures
from umber_trunk.core.units import show_seconds, significant
from umber_trunk.core.usual import MET
from umber_trunk.core.why import Derivation, Input


def why_protection(
    title: str, band: str, judged: Protected, cond: Conductor, rule: str, steps: tuple[str, ...] = ()
) -> Derivation:
    """The overload where fuse and wire are closest, by the house's rule. `band` names the fuse."""
    ok = judged.used <= MET
    size, i2 = show_size(cond.size.label), CONVENTIONAL_MULTIPLE * judged.rating_a
    beside = (
        Input("I_z", f"{size} carries for ever where it lies, its neighbours at their own load", f"{significant(judged.ampacity_a)} A"),
        Input("I_n", "rating", f"{judged.rating_a:g} A"),
        Input("I₂/I_z", "what surely opens the fuse, over I_z", f"{i2 / max(judged.ampacity_a, 1e-9):.2f}"),
    )  # fmt: skip
    if rule != "curve":
        formula = "I_n ≤ I_z  and  I₂ ≤ 1.45·I_z" if rule == "iec" else "I_n ≤ 1.5·I_z"
        return Derivation(
            title=title,
            verdict=f"{band} {'meets' if ok else 'breaks'} the house rule.",
            formula=formula,
            inputs=beside,
            steps=steps,
            result=f"{100 * judged.used:.0f} % used",
            limit="100 %",
            source=RULES[rule] + ". " + ESTIMATE,
        )
    for_ever = not np.isfinite(judged.seconds)
    long = "for ever" if for_ever else f"for {show_seconds(judged.seconds)}"
    verdict = "opens before the jacket is harmed, at every overload" if ok else "may open too late for the wire"
    return Derivation(
        title=title,
        verdict=f"{band} {verdict}; closest at {significant(judged.worst_a)} A, which it may hold {long}.",
        formula="for every overload I: I ≤ the current the wire stands for the slowest opening at I",
        inputs=(
            Input("I", "overload where the two are closest", f"{significant(judged.worst_a)} A"),
            Input("t", "slowest fuse of its kind, or past the time from which the class counts", long),
            Input("θ(t)", "what the jacket stands for so long", f"{judged.allowed_c:.0f} °C"),
            Input("I_w", f"what brings {size} there in that time", f"{significant(judged.withstand_a)} A"),
            *beside,
        ),
        steps=steps,
        result=f"{100 * judged.used:.0f} % of the current the wire stands for as long",
        limit="100 %",
        source=f"{source_of(cond)}; band as ISO 8820-3 blades, bolt-down links generic. " + ESTIMATE,
    )


def why_fuse(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Whether the fuse before a wire opens before the wire is damaged, at the overload where it is closest."""
    guard, judged = found.guards[row.row], found.protected.get(row.row)
    name = row.wire.name or row.wire.id
    if guard is None or judged is None:
        bare = "nothing stands between it and the source" if row.row in found.bare else "none is rated on its way"
        return Derivation(f"Fuse of {name}", f"No fuse guards this wire: {bare}.", "–", (), "no fuse")
    cond = found.solution.plant.conductors[row.row]
    told = [f"a short at its far end draws {significant(guard.fault_a)} A at most"]
    if len(found.solution.cases) > 1:
        told.append(f"worst in “{found.case_name(judged.case)}”")
    title = f"Fuse {guard.link_id} before {name}"
    return why_protection(title, f"{guard.rating_a:g} A", judged, cond, design.project.fuse_rule, tuple(told))


def why_start(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """The hardest start on a wire's way: what it heats the wire to, and how far the worst load dips."""
    name, duty = row.wire.name or row.wire.id, duties(found.solution)[row.row]
    dip = next(use for use in row.uses if use.limit is Limit.DIP)
    steps = []
    if dip.subject:
        entry = found.loads[dip.subject]
        volts = min(
            (float(c.surge_v[entry.row]) for c in found.solution.cases if np.isfinite(c.surge_v[entry.row])),
            default=np.nan,
        )
        steps = [
            f"{entry.load.name} dips to {volts:.2f} V while a load starts; it works down to {entry.load.min_volts:g} V"
        ]
    if not duty.starts:
        return Derivation(
            f"Starts through {name}",
            steps[0] + "." if steps else "No load starts through this wire.",
            "–",
            (),
            f"{100 * dip.used:.0f} % of the dip allowed",
        )
    rise, start = max(((_rise_k(found, row, start), start) for start in duty.starts), key=lambda pair: pair[0])
    cond = found.solution.plant.conductors[row.row]
    return Derivation(
        title=f"Starts through {name}",
        verdict=f"{start.load} starting warms it by {rise:.1f} K to {row.conductor_c + rise:.0f} °C; its jacket stands "
        f"{cond.jacket.short_c:g} °C for a short time.",
        formula="θ(t) from the heat network of metal, jacket in shells, neighbours and film, R rising with θ",
        inputs=(
            Input("I", f"in this wire while {start.load} starts", f"{significant(start.amps)} A"),
            Input("t", "for as long", f"{start.seconds:g} s"),
            Input("T", "running temperature", f"{row.conductor_c:.0f} °C"),
            Input("C", "heat stored in the metal", f"{cond.kg_per_m * cond.metal.heat_j_kg_k:.1f} J/m·K"),
        ),
        steps=tuple(steps),
        result=f"T + θ = {row.conductor_c + rise:.1f} °C",
        limit=f"{cond.jacket.short_c:g} °C for a short time",
        source="heat balance in time; adiabatic limit as IEC 60724, jackets taking heat as IEC 60949. " + ESTIMATE,
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
    title = f"{link.kind.capitalize()} {link.id} in {end.name}"
    if link.rating_a is None:
        fits = duty.fitting() if link.kind is LinkKind.FUSE else None
        advice = f"; {fits:g} A would fit" if fits else ""
        return Derivation(
            title, f"It has no rating yet and carries {significant(duty.amps)} A{advice}.", "–", (), "open"
        )
    most = duty.all_day_a(link.rating_a, link.kind)
    inputs = [
        Input("I", "worst current of all cases", f"{significant(duty.amps)} A"),
        Input("I_n", "rating", f"{link.rating_a:g} A"),
    ]
    if link.kind is LinkKind.FUSE:
        inputs.append(Input("Tₐ", "air at its place", f"{duty.ambient_c:g} °C"))
    return Derivation(
        title=title,
        verdict=f"It carries {significant(duty.amps)} A; all day it stands {significant(most)} A.",
        formula=f"I ≤ I_n·({CONTINUOUS_SHARE:g} − {DERATING_PER_K:g}·(Tₐ − 25 °C))"
        if link.kind is LinkKind.FUSE
        else "I ≤ I_n",
        inputs=tuple(inputs),
        steps=tuple(_starts_told(link.rating_a, duty)) if link.kind is LinkKind.FUSE else (),
        result=f"{100 * duty.amps / most:.0f} % used" if most > 0 else "it stands nothing at that warmth",
        limit="100 %",
        source="usual continuous share and slope of blade fuses; a maker's sheet overrides them. " + ESTIMATE,
    )


def _starts_told(rating_a: float, duty: FuseDuty) -> list[str]:
    told = []
    for start in duty.starts:
        fastest = float(opening_s(rating_a, np.array([start.amps]))[0][0])
        held = "rides through" if fastest > start.seconds else "may open"
        told.append(
            f"{start.load} starts: {significant(start.amps)} A for {start.seconds:g} s, "
            f"the fastest opens after {show_seconds(fastest)}: {held}"
        )
    return told
