"""The least copper (or cost, or number of sizes) for the whole harness, with bounds that prove it.

For a radial harness with constant currents every drop is linear in "group g takes step s", so the choice is
a mixed-integer linear program. What isn't linear (temperatures, power loads, currents that share) is handled
outside: linearise at the latest sizes, solve the program, solve the harness with its answer; an answer that
breaks a limit is cut off with all that are thinner where it broke. The sizes returned have been solved and
hold; they are done when the program, linearised there, has nothing better to offer.

Two bounds come with them. `bound` is that of the program linearised at the harness as it comes out: how
good the choice is at these temperatures. `floor` needs no such assumption: nothing that holds is under it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sizes.bars import Predicted
from umber_trunk.core.sizes.floor import Best, Floor
from umber_trunk.core.sizes.groups import Group, groups_of
from umber_trunk.core.sizes.optimum import Change, Optimum
from umber_trunk.core.sizes.program import LIGHTEST, Answer, Program, Rows, Weights
from umber_trunk.core.sizes.propose import Proposal, all_met, propose
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.margins import allowed_drop, figures
from umber_trunk.core.solve.plant import Plant, build_plant
from umber_trunk.core.solve.solution import Solution, solve
from umber_trunk.core.solve.used import Figures, Limit, WireFigures
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]
KeepGoing = Callable[[float], bool]
ROUNDS = 20
"""Programs solved, each with what broke a limit cut off."""
MOST_CUT = 60_000
"""Entries of the cuts of one round."""
GAP = 0.002
"""A share of the mass that the program may leave open."""
TRIALS = 40
"""Harnesses solved with some wires a step thinner."""
PROVING = 0.9
"""Share of the search that is done, as far as can be said, when only the floor is left to raise."""
PROGRAM_NODES = 20_000  # far more than needed; counted, so that how fast the machine is doesn't choose the sizes
ALWAYS: KeepGoing = lambda _: True  # noqa: E731 the usual "go on"


def _optimum(design: Design, plant: Plant, search: _Search, start: Proposal, before: float) -> Optimum:
    """The best of a search so far; wires that carry nothing have no size in it."""
    best = search.best
    sizes = {wire: size for wire, size in search.sizes(best.levels).items() if wire in start.sizes}
    chosen = {wire.id: wire.size for wire in design.wires}
    changes = tuple(Change(w, chosen[w], s) for w, s in sizes.items() if chosen[w] != s)
    copper = _copper(plant, best.found)
    return Optimum(
        sizes, changes, copper, before, best.value, search.bound, search.floor, search.rounds, best.met, best.found
    )


def optimise(
    design: Design,
    weights: Weights = LIGHTEST,
    keep_going: KeepGoing = ALWAYS,
    nodes: int = PROGRAM_NODES,
    with_floor: bool = True,
    better: Callable[[Optimum], None] | None = None,
    shelf: Shelf | None = None,
    patient: bool = False,
) -> Optimum:
    """Chooses the sizes of all wires that aren't locked. `keep_going` is told the share done, as far as can be said,
    before each round and may end the search there; the best verified sizes so far are returned. A single program may
    look at so many `nodes`. `better` is told the first choice that was solved, each that beats it, and each time its
    floor rises.
    A `patient` one goes on raising the floor of a small harness, for a minute or two, where it is still open."""
    plant = build_plant(design, shelf=shelf)
    groups = groups_of(plant, frozenset(wire.id for wire in plant.wires if wire.locked and wire.size))
    groups = [_on_shelf(group, design) for group in groups]
    free = _unchosen(design, groups, plant)
    start = propose(free, shelf=plant.shelf)
    before = _copper(plant, figures(solve(design, start.sizes, shelf=plant.shelf)))
    # a group no case loads has no size, and gets none
    known = [[start.sizes[w] for row in group.rows if (w := plant.wires[row].id) in start.sizes] for group in groups]
    groups = [group for group, labels in zip(groups, known, strict=True) if labels]
    levels = [_level(group, labels[0]) for group, labels in zip(groups, filter(None, known), strict=True)]
    search = _Search(free, plant, groups, levels, weights, nodes, with_floor)

    def optimum() -> Optimum:
        return _optimum(design, plant, search, start, before)

    def told() -> None:
        if better is not None:
            better(optimum())

    going = [True]

    def on(share: float) -> bool:
        going[0] = going[0] and keep_going(share)
        return going[0]

    told()
    search.run(on, told)
    if with_floor and going[0]:
        search.prove(on, told, patient)
    return optimum()


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


@dataclass(frozen=True)
class _Choice:
    """Steps taken, the harness solved with them, what they are worth, and whether all limits hold."""

    levels: list[int]
    found: Figures
    value: float
    met: bool

    def beats(self, other: _Choice) -> bool:
        """Better for sure: it holds where the other doesn't, or is worth less."""
        return self.met and (not other.met or self.value < other.value - 1e-12)


class _Search:
    """Attributes: best, the best choice so far; bound, that of the last program, linearised at it; floor, what nothing
    that holds is under, where it is wanted; rounds."""

    def __init__(
        self,
        design: Design,
        plant: Plant,
        groups: list[Group],
        levels: list[int],
        weights: Weights,
        nodes: int,
        with_floor: bool,
    ) -> None:
        self.design, self.plant, self.groups = design, plant, groups
        self.of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
        self.program = Program(groups, weights)
        self.nodes = nodes
        self.cuts: list[dict[int, int]] = []
        self.bound, self.rounds = 0.0, 0
        self.best = self._choice(levels)
        self.floor: float | None = None
        self._floors = Floor(groups, self.program, self._solved, nodes)
        if with_floor and groups:
            self.floor = min(self._floors.close_in(self._known_best), self.best.value)

    def run(self, keep_going: KeepGoing, bettered: Callable[[], None]) -> None:
        """Rounds of program and solve until the program has nothing better to offer at the best sizes. An answer
        that breaks a limit is where the next round linearises, since its wires are as warm as they may be."""
        base, proven = self.best, False
        while self.groups and self.rounds < ROUNDS:
            if not keep_going(self.rounds / (self.rounds + 3)):
                return
            answer = self._program(base)
            self.rounds += 1
            if answer.levels is None or self._no_better(answer.levels):
                proven = base is self.best
                if proven:
                    break
                base = self.best
                continue
            tried = self._choice(answer.levels, base.found)
            if not tried.met and not self._cut(tried):
                break
            if tried.beats(self.best):
                self.best = tried
                bettered()
            base = tried
        if not proven and self.groups:
            if self.best.met:
                self._stepped_down(keep_going, bettered)
            self._program(self.best)

    def _stepped_down(self, keep_going: KeepGoing, bettered: Callable[[], None]) -> None:
        """Where many wires may each be a step thinner but not all of them, the program only learns by cuts which: they
        are tried together, then by halves, what saves most first."""
        stuck: set[int] = set()
        many = len(self.groups)
        for _ in range(TRIALS):
            here = Predicted(self.best.found, self.groups, self.best.levels)
            lower = [
                number
                for number, level in enumerate(self.best.levels)
                if level > self._floors.least[number] and number not in stuck and here.least(number, level - 1) < level
            ]
            if not lower or not keep_going(self.rounds / (self.rounds + 3)):
                break
            lower = sorted(lower, key=self._saving, reverse=True)[:many]
            tried = self._choice(
                [level - (number in lower) for number, level in enumerate(self.best.levels)], self.best.found
            )
            if tried.beats(self.best):
                self.best, many = tried, 2 * len(lower)
                bettered()
            elif len(lower) == 1:
                stuck |= set(lower)
            else:
                many = len(lower) // 2

    def _saving(self, number: int) -> float:
        masses, level = self.groups[number].masses, self.best.levels[number]
        return float(masses[level] - masses[level - 1])

    def _no_better(self, levels: list[int]) -> bool:
        return self.best.met and self.program.objective(levels) >= self.best.value * (1 - GAP / 2)

    def _program(self, base: _Choice) -> Answer:
        """The program linearised at a choice; at the best one, its bound is kept."""
        rows, predicted = self._limits(base)
        rows.extend(self._floors.rows)
        least = [predicted.least(number, 0) for number in range(len(self.groups))]
        if base.met:
            least = [min(lowest, level) for lowest, level in zip(least, base.levels, strict=True)]
        least = [max(pair) for pair in zip(least, self._floors.least, strict=True)]
        answer = self.program.solve(rows, least, self.nodes, GAP / 2, self.cuts)
        if base is self.best:
            self.bound = self.best.value if answer.nothing and self.best.met else min(answer.bound, self.best.value)
        return answer

    @property
    def _known_best(self) -> Best:
        return Best(self.best.found, self.best.levels, self.best.value, self.best.met)

    def prove(self, keep_going: KeepGoing, told: Callable[[], None], patient: bool) -> None:
        """Raises the floor as far as it goes."""
        if not self.groups:
            self.floor = 0.0
            return

        def risen(floor: float) -> None:
            self.floor = max(self.floor or 0.0, floor)
            told()

        self.floor = self._floors.bound(self._known_best, risen, lambda: keep_going(PROVING), patient)

    def _solved(self, levels: Sequence[int]) -> Solution:
        return solve(self.design, self.sizes(levels), shelf=self.plant.shelf)

    def _choice(self, levels: list[int], warm: Figures | None = None) -> _Choice:
        found = figures(
            solve(self.design, self.sizes(levels), warm=warm.solution if warm else None, shelf=self.plant.shelf)
        )
        return _Choice(levels, found, self.program.objective(levels), all_met(found))

    def sizes(self, levels: Sequence[int]) -> dict[str, str]:
        """Wire id → size at these steps."""
        return {
            self.plant.wires[row].id: group.steps[level].size.label
            for group, level in zip(self.groups, levels, strict=True)
            for row in group.rows
        }

    def _limits(self, here: _Choice) -> tuple[Rows, Predicted]:
        """Rows for drops and heat at a choice, and what bars single steps there."""
        predicted = Predicted(here.found, self.groups, here.levels)
        rows = self._rows(here, predicted)
        predicted.add_rows(rows)
        return rows, predicted

    def _cut(self, tried: _Choice) -> bool:
        """What broke, for good: as long as none of the groups that heat a wire too hot is thicker, it stays so;
        as long as none on a load's way is, its drop does. False when nothing thicker could mend it."""
        predicted = Predicted(tried.found, self.groups, tried.levels)
        hot = sorted(
            (wire for wire in tried.found.wires.values() if _own_worst(wire) > MET), key=lambda wire: -_own_worst(wire)
        )
        broken, entries = [], 0
        for wire in hot:
            broken.append(predicted.beside(wire.row))
            entries += len(broken[-1])
            if entries > MOST_CUT:
                break  # those beside it are cut by nearly the same
        cases = tried.found.cases
        for entry in tried.found.loads.values():
            if not entry.ok and entry.case in cases:
                legs = Ways(tried.found.solution.plant, cases[entry.case]).of(entry.row)
                broken.append({self.of_row[leg.branch] for leg in legs if leg.branch in self.of_row})
        cuts = [{number: tried.levels[number] for number in groups} for groups in broken]
        cuts = [cut for cut in cuts if any(level < len(self.groups[n].steps) - 1 for n, level in cut.items())]
        self.cuts += cuts
        return bool(cuts)

    def _rows(self, here: _Choice, predicted: Predicted) -> Rows:
        """One row for each fed load in each case, linearised at a choice."""
        rows = Rows()
        for at, case in enumerate(here.found.solution.cases):
            ways = Ways(here.found.solution.plant, case)
            for entry in here.found.loads.values():
                volts = float(case.load_v[entry.row])
                if not case.running[entry.row] or not np.isfinite(volts):
                    continue
                lost, allowed = entry.nominal_v - volts, allowed_drop(case, here.found.solution, entry.row)
                dip, least = float(case.surge_v[entry.row]), entry.load.min_volts
                if least is not None and np.isfinite(dip) and entry.nominal_v > dip:
                    allowed = min(allowed, (entry.nominal_v - least) * lost / (entry.nominal_v - dip))
                self._add_row(rows, ways, entry.row, allowed - lost, partial(predicted.ohm_ratios, at))
        return rows

    def _add_row(self, rows: Rows, ways: Ways, load: int, spare: float, ratios: Callable[[int], Floats]) -> None:
        now = 0.0
        volts: dict[int, Floats] = {}
        for leg in ways.of(load):
            number = self.of_row.get(leg.branch)
            if number is None:
                continue
            own = leg.volts - leg.amps * float(self.plant.joint_ohm[leg.branch])
            now += own
            volts[number] = volts.get(number, np.zeros(1)) + own * ratios(leg.branch)
        if volts:
            rows.add(volts, max(spare + now, 0.0))


def _own_worst(wire: WireFigures) -> float:
    return max((use.used for use in wire.uses if use.limit in (Limit.HEAT, Limit.FUSE, Limit.SURGE)), default=0.0)
