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
        for load, legs in self._legs.items():
            if not all(self._known[leg.branch] for leg in legs):
                continue
            left, volts = wiring_rule(self.solution, load, inside)[0], dict[int, Floats]()
            for leg in legs:
                amps = float(self._least[leg.branch])
                number = of_row.get(leg.branch)
                if number is not None:
                    joint = amps * float(plant.joint_ohm[leg.branch])
                    left -= joint
                    volts[number] = volts.get(number, np.zeros(1)) + amps * self._cold_ohm(groups[number], leg.branch)
                elif leg.branch < len(plant.wires):
                    left -= amps * float(cold[leg.branch])
                else:
                    left -= amps * float(plant.link_ohm[leg.branch - len(plant.wires)])
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
