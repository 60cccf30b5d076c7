"""Sizes for the wires nobody has sized: the smallest steps that meet heat, fuse and drop.

A quick climb, good enough to work with at every keystroke; the optimiser proves the least copper.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from heapq import heapify, heappop, heappush

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.heat import WireBodies, ampacity_a
from umber_trunk.core.sizes.groups import Group, groups_of
from umber_trunk.core.solve.feeds import Leg, Ways
from umber_trunk.core.solve.margins import allowed_drop, figures, fuse_tables
from umber_trunk.core.solve.plant import Plant, build_plant
from umber_trunk.core.solve.solution import Solution, solve
from umber_trunk.core.solve.used import Figures, Limit
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]
ROUNDS = 14
"""In which sizes that break a limit are raised."""
OWN_FUSE_TIMES = 4.0
"""How many times the copper its load asks for a wire may get for the sake of the fuse before it; beyond that it wants
its own."""


@dataclass(frozen=True)
class Proposal:
    """Sizes by wire id for all free wires that carry anything, and the figures they give. `met`: every limit holds."""

    sizes: dict[str, str]
    figures: Figures
    met: bool


def propose(
    design: Design, warm: Solution | None = None, wanted: Wanted = always, shelf: Shelf | None = None
) -> Proposal:
    """Climbs from the smallest sizes until every limit holds or the series ends. Where every size is chosen the
    passes start from `warm`, the solution of a like harness. Stopped once the answer isn't `wanted`."""
    plant = build_plant(design, shelf=shelf) if any(wire.size is None for wire in design.wires) else None
    groups = groups_of(plant, frozenset(w.id for w in plant.wires if w.size is not None)) if plant else []
    if plant is None or not groups:
        found = figures(solve(design, warm=warm, shelf=shelf))
        return Proposal({}, found, all_met(found))
    of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
    levels = _start(design, plant, groups, of_row)
    for _ in range(ROUNDS):
        go_on_if(wanted)
        sizes = _labels(plant, groups, levels)
        found = figures(solve(design, sizes, shelf=plant.shelf))
        higher = _raised(found, groups, levels, of_row)
        if higher == levels:
            break
        levels = higher
    else:
        found = figures(solve(design, sizes, shelf=plant.shelf))
    go_on_if(wanted)
    return _trimmed(design, plant, groups, levels, of_row, found)


def _start(design: Design, plant: Plant, groups: list[Group], of_row: dict[int, int]) -> list[int]:
    """The least any group can be: with the thickest wires currents are lowest, so what a lone wire in
    air and the bare drop ask for then is asked for always."""
    top = [len(group.steps) - 1 for group in groups]
    found = figures(solve(design, _labels(plant, groups, top), shelf=plant.shelf))
    levels = []
    for group in groups:
        rows = list(group.rows)
        amps = max(
            (float(np.max(case.heat_a[rows] / plant.parallel[rows])) for case in found.solution.cases),
            default=0.0,
        )
        carries = lone_ampacities(group.steps, plant.design.project.ambient_c - 20.0)
        levels.append(min(int(np.searchsorted(carries, amps)), len(group.steps) - 1))
    return _drops_met(found, groups, top, levels, of_row)


def lone_ampacities(steps: tuple[Conductor, ...], ambient_c: float) -> Floats:
    """Current each step carries alone in still air at its jacket's limit."""
    spec = (steps[0].metal.id, steps[0].make.id, steps[0].jacket.id)
    return _ampacity_table(tuple(step.size.label for step in steps), *spec, ambient_c)


@lru_cache(maxsize=64)
def _ampacity_table(labels: tuple[str, ...], metal: str, make: str, jacket: str, ambient_c: float) -> Floats:
    steps = [conductor(label, metal, make, jacket) for label in labels]
    limit = np.array([step.jacket.limit_c for step in steps])
    return ampacity_a(limit, WireBodies.of(steps), np.full(len(limit), ambient_c))


def _labels(plant: Plant, groups: Sequence[Group], levels: Sequence[int]) -> dict[str, str]:
    return {
        plant.wires[row].id: group.steps[level].size.label
        for group, level in zip(groups, levels, strict=True)
        for row in group.rows
    }


def _raised(found: Figures, groups: list[Group], levels: list[int], of_row: dict[int, int]) -> list[int]:
    """One climb: each group up to what heat, surge heat and fuse ask, then what the drops ask."""
    plant = found.solution.plant
    higher, blown = levels.copy(), list[tuple[int, int]]()
    for number, group in enumerate(groups):
        for row in group.rows:
            uses = {use.limit: use.used for use in found.wires[plant.wires[row].id].uses}
            need = group.areas[levels[number]] * _area_factor(uses[Limit.HEAT], 0.6)
            up = min(int(np.searchsorted(group.areas, need * (1 - 1e-9))), len(group.steps) - 1)
            if uses.get(Limit.FUSE, 0.0) > MET:
                blown.append((number, row))
            higher[number] = max(higher[number], up)
    _fuses_met(found, groups, levels, higher, blown)
    return _drops_met(found, groups, levels, higher, of_row)


def _fuses_met(
    found: Figures, groups: list[Group], levels: list[int], higher: list[int], blown: list[tuple[int, int]]
) -> None:
    """Raises each of these (group, row) to the first step above its level that its fuse protects, were it no warmer
    than its air."""
    rows = [row for _, row in blown]
    steps = [groups[number].steps[levels[number] + 1 :] for number, _ in blown]
    air = [float(max(case.ambient_c[row] for case in found.solution.cases)) for row in rows]
    tables = fuse_tables(found, rows, steps, [np.full(len(made), c) for made, c in zip(steps, air, strict=True)])
    for (number, _), used in zip(blown, tables, strict=True):
        fits = np.flatnonzero(used <= MET)
        group, at = groups[number], higher[number]
        if len(fits) and group.areas[levels[number] + 1 + int(fits[0])] > OWN_FUSE_TIMES * group.areas[at]:
            continue  # a fuse of its own is the cure, not copper for somebody else's
        up = levels[number] + 1 + int(fits[0]) if len(fits) else len(groups[number].steps) - 1
        higher[number] = max(higher[number], min(up, len(groups[number].steps) - 1))


@dataclass
class _DropRow:
    """One load in one case: volts its groups cost at the solved levels, and how far it is over."""

    volts: dict[int, float]
    over_v: float


def _drops_met(
    found: Figures, groups: list[Group], levels: list[int], higher: list[int], of_row: dict[int, int]
) -> list[int]:
    """`higher`, raised until every load's predicted drop fits in every case; `levels` are those solved."""
    rows: list[_DropRow] = []
    for case in found.solution.cases:
        ways = Ways(found.solution.plant, case)
        for entry in found.loads.values():
            volts = float(case.load_v[entry.row])
            if not case.running[entry.row] or not np.isfinite(volts):
                continue
            lost, allowed = entry.nominal_v - volts, allowed_drop(case, found.solution, entry.row)
            surge, least = float(case.surge_v[entry.row]), entry.load.min_volts
            if least is not None and np.isfinite(surge) and surge < least:
                allowed = min(allowed, (entry.nominal_v - least) * lost / max(entry.nominal_v - surge, 1e-9))
            row = _drop_row(lost, allowed, ways.of(entry.row), groups, levels, higher, of_row)
            if row is not None:
                rows.append(row)
    return _climbed(rows, groups, levels, higher)


def _drop_row(
    lost_v: float,
    allowed_v: float,
    legs: list[Leg],
    groups: list[Group],
    levels: list[int],
    higher: list[int],
    of_row: dict[int, int],
) -> _DropRow | None:
    """lost_v is the load's whole drop at `levels`; what its free wires don't explain (source, joints of
    fixed wires, fuses) stays. None where even the thickest steps of all would not do: no size is proposed that can't
    help."""
    volts: dict[int, float] = {}
    for leg in legs:
        number = of_row.get(leg.branch)
        if number is not None:
            volts[number] = volts.get(number, 0.0) + leg.volts
    fixed = max(lost_v - sum(volts.values()), 0.0)
    then = sum(value * _shrink(groups[n], levels[n], higher[n]) for n, value in volts.items())
    least = sum(value * _shrink(groups[n], levels[n], len(groups[n].steps) - 1) for n, value in volts.items())
    if fixed + least > allowed_v:
        return None
    return _DropRow(volts, fixed + then - allowed_v * (1 - 1e-7))


def _shrink(group: Group, level: int, other: int) -> float:
    """Drop at another step over that at `level`."""
    return float(group.areas[level] / group.areas[other])


def _climbed(rows: list[_DropRow], groups: list[Group], levels: list[int], higher: list[int]) -> list[int]:
    """Steps up, the one first that takes most volts off all loads that are over, for its copper.

    A step's worth only falls as others are taken, so a heap of old worths finds the best lazily.
    """
    level = higher.copy()
    serving: dict[int, list[_DropRow]] = defaultdict(list)
    for row in rows:
        if row.over_v > 0:
            for number in row.volts:
                serving[number].append(row)

    def saved(number: int, row: _DropRow) -> float:
        group, at = groups[number], level[number]
        return row.volts[number] * (_shrink(group, levels[number], at) - _shrink(group, levels[number], at + 1))

    def worth(number: int) -> float:
        group, at = groups[number], level[number]
        if at + 1 >= len(group.steps):
            return 0.0
        taken = sum(min(saved(number, row), row.over_v) for row in serving[number] if row.over_v > 0)
        return taken / max(float(group.masses[at + 1] - group.masses[at]), 1e-12)

    heap = [(-worth(number), number) for number in serving]
    heapify(heap)
    while heap:
        _, number = heappop(heap)
        now = worth(number)
        if now <= 0:
            continue
        if heap and now < -heap[0][0] * (1 - 1e-12):
            heappush(heap, (-now, number))
            continue
        for row in serving[number]:
            row.over_v -= saved(number, row)
        level[number] += 1
        heappush(heap, (-worth(number), number))
    return level


def _area_factor(used: float, power: float) -> float:
    """Growth of area that brings a use back to 1; cautious power, at most tenfold a round."""
    return float(np.clip(used, 1e-9, 1e3) ** power) if used > MET else 0.0


def _trimmed(
    design: Design, plant: Plant, groups: list[Group], levels: list[int], of_row: dict[int, int], found: Figures
) -> Proposal:
    """Takes back steps that later ones made needless, keeping only what a fresh solve confirms."""
    for _ in range(3):
        lower = _Slack(found, groups, levels, of_row).shrunk()
        if lower == levels:
            break
        tried = figures(solve(design, _labels(plant, groups, lower), warm=found.solution, shelf=plant.shelf))
        mended = [min(m, b) for m, b in zip(_raised(tried, groups, lower, of_row), levels, strict=True)]
        if mended != lower:
            tried = figures(solve(design, _labels(plant, groups, mended), warm=found.solution, shelf=plant.shelf))
        if mended == levels or (all_met(found) and not all_met(tried)):
            break
        levels, found = mended, tried
    sizes = {key: size for key, size in _labels(plant, groups, levels).items() if found.wires[key].size_known}
    return Proposal(sizes, found, all_met(found))


class _Slack:
    """What each load's drop and each group's other limits leave, kept up to date as groups shrink."""

    def __init__(self, found: Figures, groups: list[Group], levels: list[int], of_row: dict[int, int]) -> None:
        self.groups, self.levels = groups, levels.copy()
        self.left: list[float] = []
        self.on_way: list[list[tuple[int, float]]] = [[] for _ in groups]
        for case in found.solution.cases:
            ways = Ways(found.solution.plant, case)
            for entry in found.loads.values():
                volts = float(case.load_v[entry.row])
                if case.running[entry.row] and np.isfinite(volts):
                    self._add(
                        allowed_drop(case, found.solution, entry.row) - (entry.nominal_v - volts),
                        ways.of(entry.row),
                        of_row,
                    )
        self.other = [self._others(found, group) for group in groups]

    def _add(self, left: float, legs: list[Leg], of_row: dict[int, int]) -> None:
        """One load in one case: its slack, and the volts each group costs it now."""
        volts: dict[int, float] = {}
        for leg in legs:
            if leg.branch in of_row:
                number = of_row[leg.branch]
                volts[number] = volts.get(number, 0.0) + leg.volts
        for number, value in volts.items():
            self.on_way[number].append((len(self.left), value))
        self.left.append(left)

    @staticmethod
    def _others(found: Figures, group: Group) -> float:
        wires = [found.wires[found.solution.plant.wires[row].id] for row in group.rows]
        return max(
            (use.used for wire in wires for use in wire.uses if use.limit in (Limit.HEAT, Limit.FUSE)),
            default=0.0,
        )

    def shrunk(self) -> list[int]:
        """Levels after taking steps back, most copper first, while every prediction stays met."""
        start = self.levels.copy()
        moving = True
        while moving:
            moving = False
            for number in sorted(range(len(self.groups)), key=self._gain, reverse=True):
                moving |= self._step_back(number, start[number])
        return self.levels

    def _gain(self, number: int) -> float:
        masses, level = self.groups[number].masses, self.levels[number]
        return float(masses[level] - masses[level - 1]) if level else 0.0

    def _step_back(self, number: int, start: int) -> bool:
        level, areas = self.levels[number], self.groups[number].areas
        if level == 0 or self.other[number] * (areas[start] / areas[level - 1]) ** 1.5 > 1:
            return False
        more = float(areas[start] / areas[level - 1] - areas[start] / areas[level])
        if any(self.left[load] < volts * more * 1.02 for load, volts in self.on_way[number]):
            return False
        for load, volts in self.on_way[number]:
            self.left[load] -= volts * more
        self.levels[number] -= 1
        return True


def all_met(found: Figures) -> bool:
    """Every limit of every wire and load holds."""
    return found.wires_ok and all(row.ok for row in found.loads.values())
