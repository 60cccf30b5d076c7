"""The least copper (or cost, or number of sizes) for the whole harness, with a bound that proves it.

For a radial harness with constant currents every drop is linear in "group g takes step s", so the
choice is a mixed-integer linear program (HiGHS through SciPy). What isn't linear (temperatures, power
loads, currents that share) is handled outside: solve the program, solve the harness with its sizes,
linearise there, repeat. The bound and the gap are those of the last program; the sizes returned have
been solved and hold.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sizing.feeds import Ways
from umber_trunk.core.sizing.groups import Group, groups_of
from umber_trunk.core.sizing.margins import Figures, Limit, WireFigures, figures, fuse_use
from umber_trunk.core.sizing.plant import Plant, build_plant
from umber_trunk.core.sizing.propose import all_met, lone_ampacities, propose
from umber_trunk.core.sizing.solve import CaseSolution, solve

Floats = NDArray[np.float64]
ROUNDS = 8
GAP = 0.002


@dataclass(frozen=True)
class Weights:
    """What counts: 1 kg of conductor, 1 of its price, one more different size on the shelf."""

    mass: float = 1.0
    cost: float = 0.0
    sizes: float = 0.0


@dataclass(frozen=True)
class Change:
    """One wire's size before and after; before is None where nobody had chosen."""

    wire_id: str
    before: str | None
    after: str


@dataclass(frozen=True)
class Optimum:
    """Sizes of all free wires. objective, bound and gap are in the weights' unit; gap is a share of the
    objective. met: every limit holds when the harness is solved with these sizes."""

    sizes: dict[str, str]
    changes: tuple[Change, ...]
    copper_kg: float
    copper_before_kg: float
    objective: float
    bound: float
    gap: float
    rounds: int
    met: bool
    figures: Figures

    def apply(self, design: Design) -> Design:
        """The design with these sizes chosen, as one edit."""
        for change in self.changes:
            design = set_size(design, [change.wire_id], change.after)
        return design


@dataclass
class _Rows:
    """Drop constraints: group volts at every step, and what is left for them."""

    volts: list[dict[int, Floats]] = field(default_factory=list)
    left: list[float] = field(default_factory=list)


def optimise(
    design: Design,
    weights: Weights = Weights(),
    keep_going: Callable[[float], bool] = lambda _: True,
    seconds: float = 8.0,
) -> Optimum:
    """Chooses the sizes of all wires that aren't locked. `keep_going` is told the share done before each
    round and may end the search there; the best verified sizes so far are returned."""
    plant = build_plant(design)
    groups = groups_of(plant, frozenset(wire.id for wire in plant.wires if wire.locked and wire.size))
    groups = [_on_shelf(group, design) for group in groups]
    free = _unchosen(design, groups, plant)
    start = propose(free)
    before = _copper(plant, figures(solve(design, start.sizes)))
    levels = [_level(group, start.sizes[plant.wires[group.rows[0]].id]) for group in groups]
    search = _Search(free, plant, groups, levels, start.figures, weights, seconds)
    return search.run(design, before, keep_going)


def _unchosen(design: Design, groups: list[Group], plant: Plant) -> Design:
    ids = [plant.wires[row].id for group in groups for row in group.rows]
    return set_size(design, ids, None)


def _on_shelf(group: Group, design: Design) -> Group:
    """Only the steps that lie on the shelf, if the project lists any that would do."""
    shelf = {parse_size(label).label for label in design.project.shelf}
    steps = tuple(step for step in group.steps if step.size.label in shelf)
    return Group(group.rows, steps or group.steps, group.metre_conductors)


def _level(group: Group, label: str) -> int:
    area = parse_size(label).area_mm2
    return min(int(np.searchsorted(group.areas, area - 1e-9)), len(group.steps) - 1)


def _copper(plant: Plant, found: Figures) -> float:
    built = found.solution.plant.conductors
    return float(sum(c.kg_per_m * m * p for c, m, p in zip(built, plant.length_m, plant.parallel, strict=True)))


class _Search:
    def __init__(
        self, design: Design, plant: Plant, groups: list[Group], levels: list[int], found: Figures,
        weights: Weights, seconds: float,
    ) -> None:  # fmt: skip
        self.design, self.plant, self.groups, self.levels = design, plant, groups, levels
        self.found, self.weights, self.seconds = found, weights, seconds
        self.of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
        self.least = [self._least_level(number) for number in range(len(groups))]
        self.starts = np.concatenate([[0], np.cumsum([len(g.steps) for g in groups])]).astype(int)
        self.labels = sorted({step.size.label for group in groups for step in group.steps})
        self.tighten = 1.0
        self.bound = 0.0

    def run(self, design: Design, before_kg: float, keep_going: Callable[[float], bool]) -> Optimum:
        """Rounds until the program's sizes hold and stay the same."""
        best: tuple[float, list[int], Figures] | None = None
        if self.levels:
            self.found = self._solved(self.levels)
        if all_met(self.found):
            best = (self._objective(self.levels), self.levels, self.found)
        done = 0
        for number in range(ROUNDS if self.groups else 0):
            if not keep_going(number / ROUNDS):
                break
            chosen = self._program()
            done = number + 1
            if chosen is None:
                break
            same = chosen == self.levels
            self.levels, self.found = chosen, self._solved(chosen)
            if all_met(self.found):
                value = self._objective(chosen)
                if best is None or value < best[0] - 1e-12:
                    best = (value, chosen, self.found)
                if same or value <= self.bound * (1 + GAP) + 1e-12:
                    break
                continue
            self._learn()
        value, levels, found = best or (self._objective(self.levels), self.levels, self.found)
        return self._optimum(design, before_kg, value, levels, found, done)

    def _solved(self, levels: list[int]) -> Figures:
        return figures(solve(self.design, self._sizes(levels), warm=self.found.solution))

    def _sizes(self, levels: list[int]) -> dict[str, str]:
        return {
            self.plant.wires[row].id: group.steps[level].size.label
            for group, level in zip(self.groups, levels, strict=True)
            for row in group.rows
        }

    def _prices(self, group: Group) -> Floats:
        each = group.masses * self.weights.mass
        price = group.masses * group.steps[0].metal.price_per_kg * self.weights.cost
        result: Floats = each + price
        return result

    def _objective(self, levels: list[int]) -> float:
        total = sum(float(self._prices(g)[at]) for g, at in zip(self.groups, levels, strict=True))
        kinds = {g.steps[at].size.label for g, at in zip(self.groups, levels, strict=True)}
        return total + self.weights.sizes * len(kinds)

    def _least_level(self, number: int) -> int:
        """The first step a lone wire in cool air and its fuse could live with: a necessary condition."""
        group, rows = self.groups[number], list(self.groups[number].rows)
        amps = max(
            (float(np.max(case.heat_a[rows] / self.plant.parallel[rows])) for case in self.found.solution.cases),
            default=0.0,
        )
        carries = lone_ampacities(group.steps, self.plant.design.project.ambient_c - 20.0)
        least = min(int(np.searchsorted(carries, amps)), len(group.steps) - 1)
        for row in rows:
            guard = self.found.guards[row]
            air = float(min(case.ambient_c[row] for case in self.found.solution.cases))
            while guard and least < len(group.steps) - 1:
                if fuse_use(guard, group.steps[least], self.plant.wires[row].parallel, air, air) <= 1:
                    break
                least += 1
        return least

    def _learn(self) -> None:
        """What broke although the program allowed it: hot groups go up for good, drops get tighter."""
        for number, group in enumerate(self.groups):
            for row in group.rows:
                wire = self.found.wires[self.plant.wires[row].id]
                if _own_worst(wire) > 1 + 1e-6:
                    self.least[number] = min(self.levels[number] + 1, len(group.steps) - 1)
        worst = max((entry.used for entry in self.found.loads.values()), default=0.0)
        if worst > 1 + 1e-6:
            self.tighten *= max(1 - 1.05 * (worst - 1), 0.9)

    def _rows(self) -> _Rows:
        """One row for each fed load in each case, linearised at the present sizes."""
        rows = _Rows()
        for case in self.found.solution.cases:
            ways = Ways(self.found.solution.plant, case)
            for entry in self.found.loads.values():
                volts = float(case.load_v[entry.row])
                if not case.running[entry.row] or not np.isfinite(volts):
                    continue
                lost, allowed = entry.nominal_v - volts, entry.allowed_v
                dip, least = float(case.surge_v[entry.row]), entry.load.min_volts
                if least is not None and np.isfinite(dip) and entry.nominal_v > dip:
                    allowed = min(allowed, (entry.nominal_v - least) * lost / (entry.nominal_v - dip))
                self._add_row(rows, case, ways, entry.row, lost, allowed)
        return rows

    def _add_row(self, rows: _Rows, case: CaseSolution, ways: Ways, load: int, lost: float, allowed: float) -> None:
        now = 0.0
        volts: dict[int, Floats] = {}
        for leg in ways.of(load):
            number = self.of_row.get(leg.branch)
            if number is None:
                continue
            fixed = leg.amps * float(self.plant.joint_ohm[leg.branch])
            now += leg.volts - fixed
            volts[number] = volts.get(number, np.zeros(1)) + (leg.volts - fixed) * self._ratios(
                number, case, leg.branch
            )
        if volts:
            rows.volts.append(volts)
            rows.left.append(max((allowed - (lost - now)), 0.0) * self.tighten)

    def _ratios(self, number: int, case: CaseSolution, row: int) -> Floats:
        """Hot resistance of every step over that of the present one; its warmth scaled with the loss."""
        group, level = self.groups[number], self.levels[number]
        here = group.steps[level]
        cold = np.array([step.ohm_per_m_20 for step in group.steps])
        width = np.array([step.outer_mm for step in group.steps])
        air, mean = float(case.ambient_c[row]), float(case.mean_c[row])
        rise = np.minimum((mean - air) * cold / here.ohm_per_m_20 * (here.outer_mm / width) ** 0.75, 300.0)
        alpha = here.metal.alpha_per_k
        hot = cold * (1 + alpha * (air + rise - 20))
        result: Floats = hot / hot[level]
        return result

    def _program(self) -> list[int] | None:
        """One program; None when no choice of steps meets the rows."""
        count, rows = int(self.starts[-1]), self._rows()
        kinds = len(self.labels) if self.weights.sizes > 0 else 0
        cost = np.concatenate([*(self._prices(g) for g in self.groups), np.full(kinds, self.weights.sizes)])
        constraints = [self._one_each(count + kinds)]
        if rows.left:
            constraints.append(self._drops(rows, count + kinds))
        if kinds:
            constraints.append(self._kinds(count))
        upper = np.ones(count + kinds)
        for number, least in enumerate(self.least):
            upper[self.starts[number] : self.starts[number] + least] = 0
        answer = milp(
            cost, integrality=np.ones(count + kinds), bounds=Bounds(0, upper), constraints=constraints,
            options={"time_limit": self.seconds / 2, "mip_rel_gap": GAP},
        )  # fmt: skip
        if answer.x is None:
            return None
        self.bound = float(answer.mip_dual_bound)
        return [int(np.argmax(answer.x[a:b])) for a, b in zip(self.starts, self.starts[1:], strict=False)]

    def _one_each(self, width: int) -> LinearConstraint:
        rows = np.repeat(np.arange(len(self.groups)), np.diff(self.starts))
        ones = sparse.csc_matrix((np.ones(len(rows)), (rows, np.arange(len(rows)))), shape=(len(self.groups), width))
        return LinearConstraint(ones, 1, 1)

    def _drops(self, rows: _Rows, width: int) -> LinearConstraint:
        at: list[int] = []
        col: list[int] = []
        value: list[float] = []
        for row, volts in enumerate(rows.volts):
            for number, steps in volts.items():
                at += [row] * len(steps)
                col += range(self.starts[number], self.starts[number + 1])
                value += list(steps)
        table = sparse.csc_matrix((value, (at, col)), shape=(len(rows.left), width))
        return LinearConstraint(table, -np.inf, np.array(rows.left))

    def _kinds(self, count: int) -> LinearConstraint:
        """A step may be taken only if its size is on the list of sizes used."""
        labels = [step.size.label for group in self.groups for step in group.steps]
        rows = np.arange(count)
        cols = count + np.array([self.labels.index(label) for label in labels])
        values = np.concatenate([np.ones(count), -np.ones(count)])
        table = sparse.csc_matrix(
            (values, (np.concatenate([rows, rows]), np.concatenate([rows, cols]))),
            shape=(count, count + len(self.labels)),
        )
        return LinearConstraint(table, -np.inf, 0)

    def _optimum(
        self, design: Design, before_kg: float, value: float, levels: list[int], found: Figures, rounds: int
    ) -> Optimum:
        sizes = self._sizes(levels)
        chosen = {wire.id: wire.size for wire in design.wires}
        changes = tuple(Change(w, chosen[w], s) for w, s in sizes.items() if chosen[w] != s)
        gap = max(0.0, (value - self.bound) / value) if value > 0 else 0.0
        copper = _copper(self.plant, found)
        return Optimum(sizes, changes, copper, before_kg, value, self.bound, gap, rounds, all_met(found), found)


def _own_worst(wire: WireFigures) -> float:
    return max((use.used for use in wire.uses if use.limit in (Limit.HEAT, Limit.FUSE, Limit.SURGE)), default=0.0)
