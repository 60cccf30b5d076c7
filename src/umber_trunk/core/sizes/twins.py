"""Conductors in parallel when one of them lets go: what its twins then carry, and how hot they get.

A pair sized for half of its current each is sound as long as both lugs are. One that opens leaves all of it to the
other; one that reads a milliohm too much leaves it most. Nothing at the load shows it, so the case is reckoned and
told: with one gone the harness is solved anew; with a bad lug the currents go by their conductances, and the rise
between those two answers by the square of the current.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.harness.edits import change, drop, put
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import solve
from umber_trunk.core.solve.used import Figures

BAD_LUG_OHM = 1e-3
"""What a bad lug adds to one of two conductors in parallel."""
MOST = 12
"""So many groups are solved anew: each takes a solution of the whole harness."""


@dataclass(frozen=True)
class Twin:
    """`wires` share a current; `worst` is the one that suffers. Now, with one conductor open, and with one lug of
    BAD_LUG_OHM more: amperes in a conductor of it and its hottest place [°C], beside what its jacket stands."""

    wires: tuple[str, ...]
    conductors: int
    worst: str
    amps: float
    conductor_c: float
    open_amps: float
    open_c: float
    bad_amps: float
    bad_c: float
    limit_c: float

    @property
    def ok(self) -> bool:
        """Whether the others stand it if one opens."""
        return self.open_c <= self.limit_c

    @property
    def told(self) -> str:
        """The case in words."""
        return say(
            "twins.told",
            of=self.conductors,
            open_a=self.open_amps,
            open_c=self.open_c,
            bad_a=self.bad_amps,
            bad_c=self.bad_c,
        )


def side_by_side(plant: Plant) -> list[list[int]]:
    """Rows of wires that join the same two nodes, where those are two conductors or more."""
    return plant.index.once_wired("side by side", lambda: _side_by_side(plant))


def _side_by_side(plant: Plant) -> list[list[int]]:
    found: dict[tuple[int, int], list[int]] = defaultdict(list)
    wires = len(plant.wires)
    for row, (a, b) in enumerate(zip(plant.network.a[:wires].tolist(), plant.network.b[:wires].tolist(), strict=True)):
        if a != b:
            found[min(a, b), max(a, b)].append(row)
    return [rows for rows in found.values() if len(rows) > 1 or plant.parallel[rows[0]] > 1]


@dataclass(frozen=True)
class _Group:
    """Rows of wires that share a current, the one whose loss weighs most, and the heat it leaves them, about."""

    rows: list[int]
    gone: int
    watts: float


def twins(results: Results) -> tuple[Twin, ...]:
    """Groups of conductors in parallel that carry a current: of very many the MOST whose twins would lose most."""
    return _solved(results, _groups(results.figures))


def endangered(results: Results) -> tuple[Twin, ...]:
    """Those of them that one open conductor may bring beyond what they stand, the others left unsolved: `_stands` says
    so."""
    found = results.figures
    return _solved(results, [group for group in _groups(found) if not _stands(found, group)])


def twin_of(results: Results, wire_id: str) -> Twin | None:
    """What becomes of the others that share a wire's current; None where it has it alone."""
    row = results.plant.row.get(wire_id, -1)
    group = next((group for group in _groups(results.figures) if row in group.rows), None)
    return _solved(results, [group])[0] if group is not None else None


def _groups(found: Figures) -> list[_Group]:
    plant = found.solution.plant
    groups = []
    for rows in side_by_side(plant):
        amps = np.array([found.wires[plant.wires[row].id].amps for row in rows]) / plant.parallel[rows]
        if amps.max() >= 0.1:
            watts = float(np.max(np.square(amps) / plant.area_mm2[rows]))
            groups.append(_Group(rows, rows[int(np.argmax(amps))], watts))
    return groups


def _stands(found: Figures, group: _Group) -> bool:
    """Whether the others surely stand it: all of a wire's rise, its neighbours' part too, as the square of its current,
    in a resistance as warm as its jacket's limit."""
    plant = found.solution.plant
    left = {row: int(plant.parallel[row]) - (row == group.gone) for row in group.rows}
    for row in (row for row, count in left.items() if count):
        wire = found.wires[plant.wires[row].id]
        ohm = {one: float(found.cases[wire.case].wire_ohm[one]) * float(plant.parallel[one]) for one in group.rows}
        total = sum(found.wires[plant.wires[one].id].amps for one in group.rows)
        alone = total / sum(count / ohm[one] for one, count in left.items() if count) / ohm[row]
        alpha, air = (
            float(plant.bodies.alpha_per_k[row]),
            min(float(case.ambient_c[row]) for case in found.solution.cases),
        )
        grown = (1 + alpha * (wire.limit_c - 20)) / (1 + alpha * (wire.conductor_c - 20))
        now = max(wire.amps / float(plant.parallel[row]), 1e-9)
        if air + (wire.conductor_c - air) * (alone / now) ** 2 * max(grown, 1.0) > wire.limit_c:
            return False
    return True


def _solved(results: Results, groups: list[_Group]) -> tuple[Twin, ...]:
    found = results.figures
    plant = found.solution.plant
    sizes = {wire.id: found.wires[wire.id].size for wire in plant.wires}
    heaviest = sorted(range(len(groups)), key=lambda at: -groups[at].watts)[:MOST]
    made: list[Twin] = []
    for group in (groups[at] for at in sorted(heaviest)):
        then = figures(solve(_without(results.design, plant, group.gone), sizes, shelf=plant.shelf))
        made.append(_judged(found, then, plant, group.rows, group.gone))
    return tuple(made)


def _without(design: Design, plant: Plant, row: int) -> Design:
    """The design with one conductor less."""
    wire = plant.wires[row]
    if wire.parallel > 1:
        return put(design, "wires", change(wire, parallel=wire.parallel - 1))
    return drop(design, "wires", [wire.id])


def _judged(found: Figures, then: Figures, plant: Plant, rows: list[int], gone: int) -> Twin:
    parallel = {row: int(plant.parallel[row]) for row in rows}
    left = {row: parallel[row] - (row == gone) for row in rows}
    names = {row: plant.wires[row].id for row in rows}
    worst = max((row for row in rows if left[row]), key=lambda row: then.wires[names[row]].conductor_c)
    now, after = found.wires[names[worst]], then.wires[names[worst]]
    one, alone = now.amps / parallel[worst], after.amps / left[worst]
    ohm = {row: float(found.cases[now.case].wire_ohm[row]) * parallel[row] for row in rows}
    siemens = sum(count / ohm[row] for row, count in left.items() if count)
    bad = 1 / (ohm[gone] + BAD_LUG_OHM)
    shared = sum(found.wires[names[row]].amps for row in rows) / (siemens + bad) / ohm[worst]
    spread = alone**2 - one**2
    part = min(max((shared**2 - one**2) / spread, 0.0), 1.0) if spread > 0 else 0.0
    return Twin(
        tuple(names.values()),
        sum(parallel.values()),
        names[worst],
        one,
        now.conductor_c,
        alone,
        after.conductor_c,
        shared,
        now.conductor_c + part * (after.conductor_c - now.conductor_c),
        now.limit_c,
    )
