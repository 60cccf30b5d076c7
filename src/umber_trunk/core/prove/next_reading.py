"""The reading that tells most next: of all that could part what is still believed, per minute of walking and reading,
about which act of repair is called for.

    bits told = entropy of the acts + entropy of what could be read − entropy of both together
"""

from __future__ import annotations

import math
from collections.abc import Set
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.belief import Belief, weights_of
from umber_trunk.core.prove.checklist import SECONDS
from umber_trunk.core.prove.faults import IN_LINE, act_of
from umber_trunk.core.prove.meter import SHAKEN
from umber_trunk.core.prove.millivolts import part_probe, test_amps
from umber_trunk.core.prove.netlist import Netlist, Point
from umber_trunk.core.prove.plan import WALK_S
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.suspicion import ALIKE_SD, ALIKE_SHARE, Judge

Floats = NDArray[np.float64]
LEAST_BITS = 0.03
"""A reading that is expected to tell less than this isn't worth walking for."""
MOVE_S = 4.0
"""To move a probe."""
SUPPLY_S = 60.0
"""Setting up the supply and its clamps, for a first reading of millivolts."""


@dataclass(frozen=True)
class Next:
    """The reading that tells most for its time: expected information in bits, and seconds. `again`: one taken already,
    whose probe may have slipped."""

    probe: Probe
    bits: float
    seconds: float
    again: bool = False


def best_reading(
    judge: Judge,
    top: list[Belief],
    held: tuple[Point, ...],
    had: Set[Probe],
) -> Next | None:
    """Of all pairs of points where the beliefs differ, and of millivolts across the parts of their wires, the reading
    expected to tell most per minute about which act of repair is called for."""
    points = judge.points_of([fault for one in top for fault in one.state.faults])
    asked = [*_pairs(judge, points, held, had), *_parts(judge, top, had), *_bends(judge, top, held, had)]
    if not asked:
        return None
    values = _predicted(judge, top, points, asked)
    bits = _told_of_acts(
        judge, top, values, np.array([judge.net.part_ohm(p.wire, p.part)[1] if p.part else 0.0 for p, _ in asked])
    )
    seconds = np.array([took for _, took in asked])
    best = int(np.argmax(bits / seconds * (bits > LEAST_BITS)))
    if bits[best] <= LEAST_BITS:
        return None
    close = np.flatnonzero(bits > 0.98 * bits.max())
    best = int(close[np.argmin(seconds[close])]) if bits[best] < 0.6 * bits.max() else best
    return Next(asked[best][0], float(bits[best]), float(seconds[best]))


def acts_of(net: Netlist, one: Belief) -> tuple[tuple[str, ...], ...]:
    """The acts of repair that mend all of a belief's faults, by what they are rather than how they are said."""
    return tuple(sorted({act_of(net, fault).key for fault in one.state.faults}))


def _pairs(judge: Judge, points: list[Point], held: tuple[Point, ...], had: Set[Probe]) -> list[tuple[Probe, float]]:
    """(reading, seconds) between every two points that weren't read."""
    kind = judge.meter.kind
    known = {frozenset((*probe.a, *probe.b)) for probe in had if probe.single and probe.kind == kind}
    return [
        (Probe(kind, (a,), (b,)), _seconds(a, b, held))
        for n, a in enumerate(points)
        for b in points[n + 1 :]
        if frozenset((a, b)) not in known
    ]


def _parts(judge: Judge, top: list[Belief], had: Set[Probe]) -> list[tuple[Probe, float]]:
    """(reading, seconds) across the parts of the wires the beliefs call bad, that weren't read."""
    wires = dict.fromkeys(
        fault.where[0] for one in top for fault in one.state.faults if fault.what in IN_LINE and fault.what != "open"
    )
    found = []
    for wire in wires:
        amps = test_amps(judge.net, wire, judge.meter)
        for part in judge.net.parts(wire) if amps else ():
            probe = part_probe(judge.net, wire, part, amps)
            if not any((one.wire, one.part) == (wire, part) for one in had):
                found.append((probe, SECONDS["millivolt"] + SUPPLY_S))
    return found


def _bends(judge: Judge, top: list[Belief], held: tuple[Point, ...], had: Set[Probe]) -> list[tuple[Probe, float]]:
    """(reading, seconds) over each wire alone that may make and break, while its ends are bent."""
    wires = dict.fromkeys(fault.where[0] for one in top for fault in one.state.faults if fault.what == "flicker")
    kind = SHAKEN[judge.meter.kind]
    bends = ((a, b) for wire in wires if judge.net.reached(wire) for a, b in [judge.net.places(wire)])
    return [
        (probe, _seconds(a, b, held) + SECONDS["shake"])
        for a, b in bends
        if (probe := Probe(kind, (a,), (b,))) not in had and Probe(kind, (b,), (a,)) not in had
    ]


def _seen_as(one: Belief, probe: Probe) -> float:
    """What a belief says that a part or a bent wire reads; one that makes and breaks will have broken while it was
    bent."""
    seen = one.state.see(probe)
    return math.inf if seen.breaks > 0.5 else seen.ohm


def _predicted(judge: Judge, top: list[Belief], points: list[Point], asked: list[tuple[Probe, float]]) -> Floats:
    """(beliefs, readings): what each would read."""
    place = {point: n for n, point in enumerate(points)}
    tables = np.array([one.state.table(points) for one in top]) if len(points) > 1 else np.zeros((len(top), 0, 0))
    columns = [
        np.array([_seen_as(one, probe) for one in top])
        if probe.part or probe.kind in SHAKEN.values()
        else tables[:, place[probe.a[0]], place[probe.b[0]]]
        for probe, _ in asked
    ]
    return np.array(columns).T


def _told_of_acts(judge: Judge, top: list[Belief], values: Floats, own_sd: Floats) -> Floats:
    """Bits each reading is expected to tell about the acts of repair: the mutual information of what it reads (figures
    nearer than the errors are one) and the act."""
    order = np.argsort(values, axis=0)
    ranked = np.take_along_axis(values, order, axis=0)
    mass = weights_of(top)[order]
    with np.errstate(invalid="ignore"):
        gap = np.diff(ranked, axis=0)
        floor = np.where(own_sd > 0, own_sd, judge.meter.floor_ohm)
        sd = np.hypot(floor, ALIKE_SHARE * ranked[:-1])
        split = (gap > ALIKE_SD * sd) | (np.isinf(ranked[1:]) & np.isfinite(ranked[:-1]))
    split &= ~np.isnan(gap) | (np.isinf(ranked[1:]) & np.isfinite(ranked[:-1]))
    classes = np.vstack([np.zeros((1, values.shape[1]), dtype=int), np.cumsum(split, axis=0)])
    names = [acts_of(judge.net, one) for one in top]
    number = {act: n for n, act in enumerate(dict.fromkeys(names))}
    act = np.array([number[name] for name in names])[order]
    both = np.zeros((len(top), len(number), values.shape[1]))
    columns = np.arange(values.shape[1])
    for row in range(len(top)):
        np.add.at(both, (classes[row], act[row], columns), mass[row])
    return _entropies(both.sum(axis=1)) + _entropies(both.sum(axis=0)) - _entropies(both.reshape(-1, values.shape[1]))


def _entropies(shares: Floats) -> Floats:
    """Entropy in bits of each column."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found: Floats = -np.where(shares > 0, shares * np.log2(shares), 0.0).sum(axis=0)
    return found


def _seconds(a: Point, b: Point, held: tuple[Point, ...]) -> float:
    """Time for a reading: leads to move, ends to walk to."""
    fresh = [point for point in (a, b) if point not in held]
    ends = {point[0] for point in held}
    return SECONDS["continuity"] + MOVE_S * len(fresh) + WALK_S * len({point[0] for point in fresh} - ends)
