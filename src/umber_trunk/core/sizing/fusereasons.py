"""Derivations about fuses and starts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_trunk.core.catalog.conductors import Conductor, show_size
from umber_trunk.core.harness.model import Design, End, Link, LinkKind
from umber_trunk.core.physics.fuses import (
    CONTINUOUS_SHARE,
    DERATING_PER_K,
    NEVER_S,
    Protection,
    damage_s,
    opening_s,
    protects,
)
from umber_trunk.core.physics.transient import adiabatic_k, heat_capacity_j_mk
from umber_trunk.core.sizing.fit import FuseDuty, Start, duties, fuse_duties
from umber_trunk.core.sizing.margins import Figures, Limit, WireFigures
from umber_trunk.core.sizing.reasons import ESTIMATE
from umber_trunk.core.sizing.solve import counted_seconds, surge_rise_k
from umber_trunk.core.units import significant
from umber_trunk.core.why import Derivation, Input


def show_seconds(seconds: float) -> str:
    """A time in words a builder reads: ms, s, min or h."""
    if seconds >= 0.5 * NEVER_S:
        return "never"
    for limit, divisor, unit in ((1.0, 1e-3, "ms"), (120.0, 1.0, "s"), (7200.0, 60.0, "min")):
        if seconds < limit:
            return f"{significant(seconds / divisor, 2)} {unit}"
    return f"{significant(seconds / 3600, 2)} h"


def why_protection(title: str, band: str, shield: Protection, wire: Guarded, steps: tuple[str, ...] = ()) -> Derivation:
    """Slowest opening against the wire's time at the overload where the two are closest. `band` names the fuse."""
    amps = np.array([shield.worst_a])
    slow = float(opening_s(shield.rating_a, amps)[1][0])
    stands = float(damage_s(wire.cond, amps, wire.start_c, wire.ambient_c, wire.parallel)[0])
    verdict = "opens before the wire is damaged, at every overload" if shield.ok else "may open too late for the wire"
    short, size = wire.cond.jacket.short_c, show_size(wire.cond.size.label)
    return Derivation(
        title=title,
        verdict=f"{band} {verdict}; closest at {significant(shield.worst_a)} A.",
        formula="slowest opening at I  <  time of the wire to its short-time limit at I, for every I",
        inputs=(
            Input("I", "overload where the two are closest", f"{significant(shield.worst_a)} A"),
            Input("t_fuse", "slowest fuse of its kind", show_seconds(slow)),
            Input("t_wire", f"{size} from {wire.start_c:.0f} to {short:g} °C", show_seconds(stands)),
            Input("k", "of the adiabatic limit, S·k = I·√t", f"{adiabatic_k(wire.cond.metal, wire.start_c, short):.0f} A·√s/mm²"),
        ),
        steps=steps, result=f"{100 * shield.used:.0f} % of the current the wire stands for as long", limit="100 %",
        source="band as ISO 8820-3 blades, bolt-down links generic; IEC 60724 at high currents, a first-order body "
        "below. " + ESTIMATE,
    )  # fmt: skip


@dataclass(frozen=True)
class Guarded:
    """The wire a fuse protects: what it is, how warm it starts, the air round it, conductors side by side."""

    cond: Conductor
    start_c: float
    ambient_c: float
    parallel: int


def why_fuse(design: Design, found: Figures, row: WireFigures) -> Derivation:
    """Whether the fuse before a wire opens before the wire is damaged, at the overload where it is closest."""
    guard = found.guards[row.row]
    name = row.wire.name or row.wire.id
    if guard is None:
        bare = "nothing stands between it and the source" if row.row in found.bare else "none is rated on its way"
        return Derivation(f"Fuse of {name}", f"No fuse guards this wire: {bare}.", "–", (), "no fuse")
    cond = found.solution.plant.conductors[row.row]
    air = max(float(case.ambient_c[row.row]) for case in found.solution.cases)
    wire = Guarded(cond, min(row.conductor_c, cond.jacket.short_c - 1), air, row.wire.parallel)
    shield = protects(guard.rating_a, cond, wire.start_c, air, wire.parallel, guard.fault_a)
    told = (f"a short at its far end draws {significant(guard.fault_a)} A at most",)
    return why_protection(f"Fuse {guard.link_id} before {name}", f"{guard.rating_a:g} A", shield, wire, told)


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
            f"Starts through {name}", steps[0] + "." if steps else "No load starts through this wire.", "–", (), f"{100 * dip.used:.0f} % of the dip allowed",
        )  # fmt: skip
    rises = [(_rise_k(found, row, start), start) for start in duty.starts]
    rise, start = max(rises, key=lambda pair: pair[0])
    cond = found.solution.plant.conductors[row.row]
    counted = float(counted_seconds(found.solution.heat, found.solution.plant, np.array([start.seconds]))[row.row, 0])
    return Derivation(
        title=f"Starts through {name}",
        verdict=f"{start.load} starting warms it by {rise:.1f} K to {row.conductor_c + rise:.0f} °C; its jacket stands "
        f"{cond.jacket.short_c:g} °C for a short time.",
        formula="ΔT = (1 + α·(T − 20))/α · (exp(α·r₂₀·(I² − I₀²)·t/C) − 1)",
        inputs=(
            Input("I", f"in this wire while {start.load} starts", f"{significant(start.amps)} A"),
            Input("t", f"seconds that count of {start.seconds:g} s, since heat escapes meanwhile", show_seconds(counted)),
            Input("T", "running temperature", f"{row.conductor_c:.0f} °C"),
            Input("C", "heat stored in metal and half the jacket", f"{heat_capacity_j_mk(cond):.1f} J/m·K"),
        ),
        steps=tuple(steps), result=f"T + ΔT = {row.conductor_c + rise:.1f} °C", limit=f"{cond.jacket.short_c:g} °C for a short time",
        source="heat balance without loss over the seconds that count; IEC 60724. " + ESTIMATE,
    )  # fmt: skip


def _rise_k(found: Figures, row: WireFigures, start: Start) -> float:
    """The largest over the cases in which the wire is loaded."""
    solution, at = found.solution, row.row
    counted = counted_seconds(solution.heat, solution.plant, np.array([start.seconds]))
    through = np.zeros((len(solution.plant.wires), 1))
    through[at] = start.amps
    return max(
        float(surge_rise_k(solution.plant, through, case.heat_a, case.conductor_c, counted)[at, 0]) for case in solution.cases
    )  # fmt: skip


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
        formula=f"I ≤ I_n·({CONTINUOUS_SHARE:g} − {DERATING_PER_K:g}·(Tₐ − 25 °C))" if link.kind is LinkKind.FUSE else "I ≤ I_n",
        inputs=tuple(inputs), steps=tuple(_starts_told(link.rating_a, duty)) if link.kind is LinkKind.FUSE else (),
        result=f"{100 * duty.amps / most:.0f} % used" if most > 0 else "it stands nothing at that warmth", limit="100 %",
        source="usual continuous share and slope of blade fuses; a maker's sheet overrides them. " + ESTIMATE,
    )  # fmt: skip


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
