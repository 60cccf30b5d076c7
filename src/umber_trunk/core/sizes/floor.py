"""What no choice of sizes can go under: a relaxed program that holds whatever the temperatures turn out to be.

Every wire is taken as cold as its surroundings and every load as modest as it may be, so each row asks for
less than the real harness does; only steps that are ruled out for certain are barred. The optimum of that
program is a lower bound for every set of sizes that meets all limits. Rows are made only for loads whose
current has one way, since where ways share it the sizes decide how.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.harness.model import LoadKind
from umber_trunk.core.physics.transient import rms_factor
from umber_trunk.core.sizes.bars import Certain
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.program import Program, Rows
from umber_trunk.core.solve.feeds import Leg, Ways
from umber_trunk.core.solve.margins import Figures, wiring_rule
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import CaseSolution, Solution

Floats = NDArray[np.float64]


def floor_of(
    found: Figures, groups: Sequence[Group], of_row: dict[int, int], program: Program, widest: Solution, nodes: int
) -> float | None:
    """Lower bound of the program's objective; None when even the relaxed program has no answer in time."""
    rows, heating = Rows(), []
    for case in found.solution.cases:
        modest = _Modest(found.solution, case)
        heating.append(modest.heating_a)
        modest.add_rows(rows, groups, of_row)
    certain = Certain(found, groups, heating, widest)
    answer = program.solve(rows, [certain.least(number) for number in range(len(groups))], nodes, 3e-3)
    return answer.bound if answer.levels is not None else None


def certain_levels(found: Figures, groups: Sequence[Group], widest: Solution) -> list[int]:
    """The first step of each group that no choice up to `widest` can go under."""
    heating = [_Modest(found.solution, case).heating_a for case in found.solution.cases]
    certain = Certain(found, groups, heating, widest)
    return [certain.least(number) for number in range(len(groups))]


class _Modest:
    """One case with every load drawing the least it may.

    Attributes: heating_a, least current that heats each wire (wires,); 0 where ways share it.
    """

    def __init__(self, solution: Solution, case: CaseSolution) -> None:
        self.solution, self.case, plant = solution, case, solution.plant
        branches = len(plant.wires) + len(plant.links)
        self._amps, self._least, self._heating = np.zeros(branches), np.zeros(branches), np.zeros(branches)
        ways = Ways(plant, case)
        self._legs: dict[int, list[Leg]] = {}
        for row in np.flatnonzero(case.running & np.isfinite(case.load_v)).tolist():
            legs = self._legs[row] = ways.of(row)
            on = [leg.branch for leg in legs]
            least = _least_a(solution, row)
            load = plant.loads[row]
            self._amps[on] += case.load_a[row]
            self._least[on] += least
            self._heating[on] += least * rms_factor(load.on_s, load.period_s)
        through = np.abs(np.concatenate([case.wire_a, case.link_a]))
        self._known = np.abs(self._amps - through) <= 1e-6 + 1e-4 * through
        self.heating_a = np.where(self._known, self._heating, 0.0)[: len(plant.wires)]

    def add_rows(self, rows: Rows, groups: Sequence[Group], of_row: dict[int, int]) -> None:
        """One row for each load whose whole way is known."""
        plant = self.solution.plant
        if plant.ac:
            return
        cold = plant.wire_ohm(self.case.ambient_c)
        inside = 0.0
        if len(plant.source_ohm) == 1:
            inside = float(plant.source_ohm[0]) * sum(_least_a(self.solution, row) for row in self._legs)
        starting = self._starts()
        for load, legs in self._legs.items():
            if not all(self._known[leg.branch] for leg in legs):
                continue
            self._add_row(
                rows,
                groups,
                of_row,
                wiring_rule(self.solution, load, inside)[0],
                {leg.branch: float(self._least[leg.branch]) for leg in legs},
                cold,
            )
            for starts in starting:
                self._add_dip(rows, groups, of_row, (load, starts), cold)

    def _starts(self) -> list[int]:
        """Loads that draw more when they start."""
        plant, case = self.solution.plant, self.case
        return [
            row for row in self._legs if (surge := plant.loads[row].surge_a) is not None and surge > case.load_a[row]
        ]

    def _add_dip(
        self, rows: Rows, groups: Sequence[Group], of_row: dict[int, int], who: tuple[int, int], cold: Floats
    ) -> None:
        """A load that has a lowest voltage while another, or it itself, starts on top of what all draw at least: the source loses its
        share first. With several sources nobody can say beforehand which gives the start."""
        load, starts = who
        plant, least_v = self.solution.plant, self.solution.plant.loads[load].min_volts
        if least_v is None or len(plant.source_ohm) != 1:
            return
        more = float(plant.loads[starts].surge_a or 0.0) - _least_a(self.solution, starts)
        total = more + sum(_least_a(self.solution, row) for row in self._legs)
        left = float(plant.nominal_v[load]) - least_v - float(plant.source_ohm[0]) * total
        on_its_way = {leg.branch for leg in self._legs[starts]}
        amps = {
            leg.branch: float(self._least[leg.branch]) + more * (leg.branch in on_its_way) for leg in self._legs[load]
        }
        self._add_row(rows, groups, of_row, left, amps, cold)

    def _add_row(
        self,
        rows: Rows,
        groups: Sequence[Group],
        of_row: dict[int, int],
        left: float,
        through: dict[int, float],
        cold: Floats,
    ) -> None:
        """Volts lost along a way with so many amperes in each branch of it, at least, against those there are."""
        plant, volts = self.solution.plant, dict[int, Floats]()
        for branch, amps in through.items():
            number = of_row.get(branch)
            if number is not None:
                left -= amps * float(plant.joint_ohm[branch])
                volts[number] = volts.get(number, np.zeros(1)) + amps * self._cold_ohm(groups[number], branch)
            elif branch < len(plant.wires):
                left -= amps * float(cold[branch])
            else:
                left -= amps * float(plant.link_ohm[branch - len(plant.wires)])
        if volts and left > 0:
            rows.add(volts, left)

    def _cold_ohm(self, group: Group, row: int) -> Floats:
        plant = self.solution.plant
        warmth = 1 + group.steps[0].metal.alpha_per_k * (float(self.case.ambient_c[row]) - 20)
        per_m = np.array([step.ohm_per_m_20 for step in group.steps]) * warmth
        result: Floats = per_m * float(plant.length_m[row] / plant.parallel[row])
        return result


def _least_a(solution: Solution, row: int) -> float:
    """The least a load may draw when it is fed within its drop: power at full volts, resistance at the lowest."""
    plant: Plant = solution.plant
    load, nominal = plant.loads[row], float(plant.nominal_v[row])
    if load.kind is LoadKind.CURRENT:
        return load.value
    if load.kind is LoadKind.POWER:
        return load.value / nominal
    sag = max(float(np.nan_to_num(case.sag_v[row])) for case in solution.cases)
    return max(nominal - wiring_rule(solution, row, 0.0)[0] - 2 * sag, 0.0) / load.value
