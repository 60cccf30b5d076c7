"""What no choice of sizes can go under: a relaxed program that holds whatever the temperatures turn out to be.

Every wire is taken as cold as its surroundings and every load as modest as it may be, so each row asks for
less than the real harness does; only steps that are ruled out for certain are barred. The optimum of that
program is a lower bound for every set of sizes that meets all limits. Rows are made only for loads whose
current has one way, since where ways share it the sizes decide how.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.harness.model import LoadKind
from umber_trunk.core.physics.transient import rms_factor
from umber_trunk.core.sizes.certain import Known
from umber_trunk.core.sizes.certain_rows import CertainRows
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.program import Program, Rows
from umber_trunk.core.sizes.propose import all_met
from umber_trunk.core.solve.feeds import Leg, Ways
from umber_trunk.core.solve.margins import figures, wiring_rule
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import CaseSolution, Solution
from umber_trunk.core.solve.used import Figures, Limit

Floats = NDArray[np.float64]


CLOSINGS = 4
"""Times that what is ruled out narrows what else can be."""
BRANCHES, PATIENT_BRANCHES = 10, 1000
"""Times that what is left open is parted in two: always, and by who has the patience."""
CLOSE, ENOUGH = 0.02, 0.03
"""Shares of the best that may stay open: that is closed to at first, and in the end."""
FEW_GROUPS = 60
"""Of so many at most the patient may hope to close it."""
BARRED = 1.001
"""A limit used so far is broken, whatever a thousandth of the current elsewhere does to it."""
FLOOR_NODES = 300  # the floor may end early: a bound found by then holds


@dataclass(frozen=True)
class Best:
    """The best choice known: the harness solved with it, its steps, what it is worth, and whether all limits hold."""

    found: Figures
    levels: Sequence[int]
    value: float
    met: bool


@dataclass(frozen=True)
class _Part:
    """Part of all choices, groups from `least` to `most`: nothing in it that holds is worth less than `bound`; `answer`
    is the best of the relaxed program."""

    least: list[int]
    most: list[int]
    bound: float
    answer: list[int]


class Floor:
    """Lower bounds of a program's objective.

    What is ruled out narrows what else can be: nothing better than the best has thicker wires than its worth leaves
    room for, and thinner neighbours leave a wire less room. What is open then is parted at the group whose step in the
    relaxed program is furthest below the best's: in each part more is known, so that each has a bound of its own, and
    the least of them holds.
    """

    def __init__(
        self,
        groups: Sequence[Group],
        program: Program,
        solve_at: Callable[[Sequence[int]], Solution],
        nodes: int,
    ) -> None:
        """solve_at gives the harness with its groups at some steps; a single program may look at so many `nodes`."""
        self._groups, self._program, self._solve_at = groups, program, solve_at
        self._nodes = min(nodes, FLOOR_NODES)
        self._known: Known | None = None
        self._whole: _Part | None = None
        self.rows, self.least = Rows(), [0] * len(groups)

    def close_in(self, best: Best) -> float:
        """Closes in on all choices; `rows` and `least` are then what each that holds and is no dearer than the best
        must meet. The bound."""
        every = [0] * len(self._groups), [len(group.steps) - 1 for group in self._groups]
        if self._whole is not None and best.met:
            every = self._whole.least, self._whole.most
        self._whole = self._part(best, *every, 0.0, whole=True)
        return self._whole.bound if self._whole else best.value if best.met else 0.0

    def bound(
        self,
        best: Best,
        told: Callable[[float], None] = lambda _: None,
        keep_going: Callable[[], bool] = lambda: True,
        patient: bool = False,
    ) -> float | None:
        """What no choice that holds is worth less than; None when nothing holds that is known. `told` hears the bound
        each time it rises; the search for a higher one may be ended. A `patient` one goes on long where few groups are
        chosen."""
        self.close_in(best)
        parts = [self._whole] if self._whole else []
        times = PATIENT_BRANCHES if patient and len(self._groups) <= FEW_GROUPS else BRANCHES
        parted = 0 if best.met else times
        while parted < times:
            if not parts:
                return best.value
            lowest = min(parts, key=lambda part: part.bound)
            told(min(lowest.bound, best.value))
            if lowest.bound >= best.value * (1 - (CLOSE if parted < BRANCHES else ENOUGH)) or not keep_going():
                break
            if self._barred(lowest):
                parts.remove(lowest)
                continue
            where = self._parted(best, lowest)
            if where is None:
                break
            parted += 1
            parts.remove(lowest)
            at, level = where
            raised, lowered = lowest.least.copy(), lowest.most.copy()
            raised[at], lowered[at] = level + 1, level
            for least, most in ((raised, lowest.most), (lowest.least, lowered)):
                part = self._part(best, least, most, lowest.bound)
                if part is not None and part.bound < best.value:
                    parts.append(part)
        if not parts:
            return best.value if best.met else None
        return min(min(part.bound for part in parts), best.value if best.met else np.inf)

    def _part(self, best: Best, least: list[int], most: list[int], bound: float, whole: bool = False) -> _Part | None:
        """The choices from `least` to `most`, of which `bound` is known, closed in on; None when there are none better
        than the best. Sections are tried while the whole is closed in on; a part leaves no more open."""
        answer = list(least)
        for _ in range(CLOSINGS):
            closing = _Closing(best, self._groups, least, most, self._solve_at(most), None if whole else self._known)
            higher, rows = closing.certain.steps, closing.rows()
            if whole:
                self._known, self.rows, self.least = closing.certain.found_out, rows, higher
            if any(low > high for low, high in zip(higher, most, strict=True)):
                return None
            found = self._program.solve(rows, higher, self._nodes, 3e-3, most=most)
            if found.nothing:
                return None
            bound, answer = max(bound, found.bound), found.levels or higher
            lower = most
            if best.met:
                dearest = self._program.dearest(best.value, higher)
                reduced = self._program.reduced(best.value, rows, higher, most)
                lower = [max(min(these), low) for *these, low in zip(most, dearest, reduced, higher, strict=True)]
            if (higher, lower) == (least, most) or bound >= best.value * (1 - CLOSE):
                break
            least, most = higher, lower
        return _Part(least, most, bound, answer)

    def _parted(self, best: Best, part: _Part) -> tuple[int, int] | None:
        """(group, step): where a part falls in two, those up to the step and those above; None where nothing is open.
        The group lies beside the wires whose limit the relaxed program's answer breaks most, as it is solved: how warm
        those get hangs on what isn't chosen yet beside them. Of these it stands furthest below the best's step, by its
        worth, or has most left open."""
        found = figures(self._solve_at(part.answer))
        near = self._beside(found, _broken(found))
        open_ = []
        for number, (group, low, high) in enumerate(zip(self._groups, part.least, part.most, strict=True)):
            step, now, masses = part.answer[number], best.levels[number], group.masses
            if low < high:
                below = low <= step < min(now, high)
                left = float(masses[now] - masses[step] if below else masses[high] - masses[low])
                open_.append((number in near, below, left, -number))
        if not open_:
            return None
        _, below, _, number = max(open_)
        low, high, step = part.least[-number], part.most[-number], part.answer[-number]
        return -number, step if below else max(low, min(step, high) - 1)

    def _barred(self, part: _Part) -> bool:
        """Whether no choice of a part holds, in which one wire's limit, or one load's, hangs on no group that is open:
        the harness solved with all others at their last step, where they draw least, breaks it too. (A resistance draws
        more the better others feed it: with one there is, a single choice tells of itself alone.)"""
        found = figures(self._solve_at(part.most))
        if all_met(found):
            return False
        if part.least == part.most:
            return True
        rows = _broken(found)
        near = self._beside(found, rows)
        alone = all(part.least[number] == part.most[number] for number in near)
        resistive = any(load.kind is LoadKind.RESISTANCE for load in found.solution.plant.loads)
        return alone and not resistive and max(wire.worst.used for wire in found.wires.values()) > BARRED

    def _beside(self, found: Figures, rows: Iterable[int]) -> set[int]:
        """The groups of these wires and of all that share a stretch with one of them."""
        heat = found.solution.heat
        stretches = np.unique(heat.bundle[np.isin(heat.wire, list(rows))])
        wires = {*rows, *heat.wire[np.isin(heat.bundle, stretches)].tolist()}
        return {number for number, group in enumerate(self._groups) if wires.intersection(group.rows)}


def _broken(found: Figures) -> list[int]:
    """The wires of the limit that is broken most: one, or all on the way of a load."""
    broken = [wire for wire in found.wires.values() if not wire.ok]
    if not broken:
        return []
    worst = max(broken, key=lambda wire: wire.worst.used).worst
    if worst.limit not in (Limit.DROP, Limit.DIP):
        return [next(wire.row for wire in broken if wire.worst == worst)]
    return [wire.row for wire in found.wires.values() if any(use == worst for use in wire.uses)]


class _Closing:
    """What can be said given that every group is at least at one step and at most at another; `widest` is the harness
    at the last."""

    def __init__(
        self,
        best: Best,
        groups: Sequence[Group],
        least: list[int],
        most: list[int],
        widest: Solution,
        known: Known | None,
    ) -> None:
        self._groups, solution = groups, best.found.solution
        self._modest = [_Modest(solution, case, wide) for case, wide in zip(solution.cases, widest.cases, strict=True)]
        self.certain = CertainRows(
            best.found, groups, [modest.heating_a for modest in self._modest], least, most, known
        )

    def rows(self) -> Rows:
        """Volts for every load whose way is known, room for every wire that asks for it."""
        rows = Rows()
        of_row = {row: number for number, group in enumerate(self._groups) for row in group.rows}
        for number, modest in enumerate(self._modest):
            modest.add_rows(rows, self._groups, of_row, partial(self.certain.mean_c, number))
        self.certain.add_rows(rows)
        return rows


class _Modest:
    """One case with every load drawing the least it may; `widest` is the same case with the thickest wires there may
    be.

    Attributes: heating_a, least current that heats each wire (wires,); 0 where ways share it.
    """

    def __init__(self, solution: Solution, case: CaseSolution, widest: CaseSolution) -> None:
        self.solution, self.case, plant = solution, case, solution.plant
        self._least_of = {row: _least_a(solution, row, widest) for row in range(len(plant.loads))}
        branches = len(plant.wires) + len(plant.links)
        self._amps, self._least, self._heating = np.zeros(branches), np.zeros(branches), np.zeros(branches)
        ways = Ways(plant, case)
        self._legs: dict[int, list[Leg]] = {}
        for row in np.flatnonzero(case.running & np.isfinite(case.load_v)).tolist():
            legs = self._legs[row] = ways.of(row)
            on = [leg.branch for leg in legs]
            least = self._least_of[row]
            load = plant.loads[row]
            self._amps[on] += case.load_a[row]
            self._least[on] += least
            self._heating[on] += least * rms_factor(load.on_s, load.period_s)
        through = np.abs(np.concatenate([case.wire_a, case.link_a]))
        self._known = np.abs(self._amps - through) <= 1e-6 + 1e-4 * through
        self.heating_a = np.where(self._known, self._heating, 0.0)[: len(plant.wires)]

    def add_rows(
        self, rows: Rows, groups: Sequence[Group], of_row: dict[int, int], mean_c: Callable[[int], Floats]
    ) -> None:
        """One row for each load whose whole way is known; mean_c gives the least temperatures of a free wire at its
        steps."""
        plant = self.solution.plant
        if plant.ac:
            return
        ways = _Free(groups, of_row, plant.wire_ohm(self.case.ambient_c), mean_c)
        inside = 0.0
        if len(plant.source_ohm) == 1:
            inside = float(plant.source_ohm[0]) * sum(self._least_of[row] for row in self._legs)
        starting = self._starts()
        for load, legs in self._legs.items():
            if not all(self._known[leg.branch] for leg in legs):
                continue
            through = {leg.branch: float(self._least[leg.branch]) for leg in legs}
            self._add_row(rows, ways, wiring_rule(self.solution, load, inside)[0], through)
            for starts in starting:
                self._add_dip(rows, ways, load, starts)

    def _starts(self) -> list[int]:
        """Loads that draw more when they start."""
        plant, case = self.solution.plant, self.case
        return [
            row for row in self._legs if (surge := plant.loads[row].surge_a) is not None and surge > case.load_a[row]
        ]

    def _add_dip(self, rows: Rows, ways: _Free, load: int, starts: int) -> None:
        """A load that has a lowest voltage while another, or it itself, starts on top of what all draw at least: the
        source loses its share first. With several sources nobody can say beforehand which gives the start."""
        plant, least_v = self.solution.plant, self.solution.plant.loads[load].min_volts
        if least_v is None or len(plant.source_ohm) != 1:
            return
        more = float(plant.loads[starts].surge_a or 0.0) - self._least_of[starts]
        total = more + sum(self._least_of[row] for row in self._legs)
        left = float(plant.nominal_v[load]) - least_v - float(plant.source_ohm[0]) * total
        on_its_way = {leg.branch for leg in self._legs[starts]}
        amps = {
            leg.branch: float(self._least[leg.branch]) + more * (leg.branch in on_its_way) for leg in self._legs[load]
        }
        self._add_row(rows, ways, left, amps)

    def _add_row(self, rows: Rows, ways: _Free, left: float, through: dict[int, float]) -> None:
        """Volts lost along a way with so many amperes in each branch of it, at least, against those there are."""
        plant, volts = self.solution.plant, dict[int, Floats]()
        for branch, amps in through.items():
            number = ways.of_row.get(branch)
            if number is not None:
                left -= amps * float(plant.joint_ohm[branch])
                volts[number] = volts.get(number, np.zeros(1)) + amps * ways.ohm(plant, branch)
            elif branch < len(plant.wires):
                left -= amps * float(ways.fixed_ohm[branch])
            else:
                left -= amps * float(plant.link_ohm[branch - len(plant.wires)])
        if volts and left > 0:
            rows.add(volts, left)


class _Free:
    """Least resistances: of wires that are free at every step of their groups, of the others as they are."""

    def __init__(
        self, groups: Sequence[Group], of_row: dict[int, int], fixed_ohm: Floats, mean_c: Callable[[int], Floats]
    ) -> None:
        self.groups, self.of_row, self.fixed_ohm, self.mean_c = groups, of_row, fixed_ohm, mean_c
        self._known: dict[int, Floats] = {}

    def ohm(self, plant: Plant, row: int) -> Floats:
        """Of a free wire (steps,)."""
        if row not in self._known:
            group = self.groups[self.of_row[row]]
            warmth = 1 + group.steps[0].metal.alpha_per_k * (self.mean_c(row) - 20)
            per_m = np.array([step.ohm_per_m_20 for step in group.steps]) * warmth
            self._known[row] = per_m * float(plant.length_m[row] / plant.parallel[row])
        return self._known[row]


def _least_a(solution: Solution, row: int, widest: CaseSolution) -> float:
    """The least a load may draw when it is fed within its drop: resistance at the lowest volts, power at the highest.
    Those are what the thickest wires leave it while every load draws the least it may with them; beside a resistance,
    which draws less through thin wires and so leaves others more, no less than its nominal ones."""
    plant: Plant = solution.plant
    load, nominal = plant.loads[row], float(plant.nominal_v[row])
    if load.kind is LoadKind.CURRENT:
        return load.value
    if load.kind is LoadKind.POWER:
        most = float(widest.load_v[row])
        if not np.isfinite(most) or any(one.kind is LoadKind.RESISTANCE for one in plant.loads):
            most = max(nominal, float(np.nan_to_num(most)))
        return load.value / max(most, 1e-9)
    sag = max(float(np.nan_to_num(case.sag_v[row])) for case in solution.cases)
    return max(nominal - wiring_rule(solution, row, 0.0)[0] - 2 * sag, 0.0) / load.value
