"""Which steps heat, starts and fuses rule out, as predicted at a solved harness.

What is predicted there guides the search and may be wrong elsewhere: a choice is solved before it is believed. What
holds at whatever sizes the others have, and may stand in a proof of the least copper, is `certain.py`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.program import Rows
from umber_trunk.core.solve.margins import fuse_tables
from umber_trunk.core.solve.solution import CaseSolution, Solution
from umber_trunk.core.solve.thermal import Shares, heat_shares
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]


WARM_FROM, WARM_SHARE = 0.4, 0.8
"""Wires that use more than this of their heat limit, and than this share of what the warmest wire of their bundle
uses, get a row of the program; the others are watched by bars."""
MOST_ENTRIES = 400_000
"""Figures of the program's heat rows: of a thousand wires in one bundle the hottest get a row, the others bars."""
SMALL_SHARE = 0.02
"""What a wire gives another, of that one's room, to stand in its row; less is taken as it is."""


class Predicted:
    """Heat, starts and fuses at steps other than those solved, linearised at a solved harness.

    A wire's rise is the sum of what every wire beside it gives, and each share goes with that wire's loss:
    warm wires get a row of the program over all of them. Cool ones, starts and fuses bar single steps while
    all other wires stay.
    """

    def __init__(self, found: Figures, groups: Sequence[Group], levels: Sequence[int]) -> None:
        self.found, self.groups, self.levels = found, groups, levels
        self._of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
        self._cases = [_Hottest.of(found.solution, case) for case in found.solution.cases]
        self._rowed = [self._warm(hot) for hot in self._cases]

    def _warm(self, hot: _Hottest) -> set[int]:
        """The free wires of one case that get a row: the warmest of each bundle."""
        plant, heat = self.found.solution.plant, self.found.solution.heat
        used = hot.rise / np.maximum(plant.limit_c - hot.air, 1e-6)
        bundle = heat.bundle[hot.pair] if len(heat.bundle) else np.zeros(len(used), dtype=np.intp)
        most = np.zeros(len(heat.bundles.segment))
        np.maximum.at(most, bundle, used)
        near = (used > WARM_FROM) & (used > WARM_SHARE * most[bundle])
        rows = [
            row
            for row in sorted(np.flatnonzero(near).tolist(), key=lambda row: (-used[row], row))
            if row in self._of_row and int(hot.pair[row]) in hot.shares.beside
        ]
        steps = max((len(group.steps) for group in self.groups), default=1)
        entries = np.cumsum([steps * len(hot.shares.beside[int(hot.pair[row])]) for row in rows])
        return set(rows[: int(np.searchsorted(entries, MOST_ENTRIES))])

    def add_rows(self, rows: Rows) -> None:
        """One row for each warm wire in each case: kelvin given by all wires beside it, against its limit."""
        plant, wire = self.found.solution.plant, self.found.solution.heat.wire
        for hot, rowed in zip(self._cases, self._rowed, strict=True):
            for row in sorted(rowed):
                pair = int(hot.pair[row])
                room, kelvin = float(plant.limit_c[row] - hot.air[row]), dict[int, Floats]()
                left = room
                for other, share in zip(hot.shares.beside[pair], hot.shares.kelvin[pair], strict=True):
                    number = self._of_row.get(int(wire[other]))
                    if number is None or share < SMALL_SHARE * room:
                        left -= float(share)
                    else:
                        grown = float(share) * self._grown(number, float(hot.celsius[wire[other]]), other == pair)
                        kelvin[number] = kelvin.get(number, np.zeros(1)) + grown
                if kelvin:
                    rows.add(kelvin, max(left, 0.0))

    def ohm_ratios(self, case: int, row: int) -> Floats:
        """Hot resistance of a wire at every step over that now: its own part of the rise goes with its loss."""
        number, hot, solved = self._of_row[row], self._cases[case], self.found.solution.cases[case]
        group, level = self.groups[number], self.levels[number]
        own = float(hot.own[row] / hot.rise[row]) if hot.rise[row] > 0 else 1.0
        cold = np.array([step.ohm_per_m_20 for step in group.steps])
        width = np.array([step.outer_mm for step in group.steps])
        air, mean = float(solved.ambient_c[row]), float(solved.mean_c[row])
        loss = cold / cold[level] * (width[level] / width) ** 0.5
        rise = np.minimum((mean - air) * (1 - own + own * loss), 300.0)
        hotter = cold * (1 + group.steps[level].metal.alpha_per_k * (air + rise - 20))
        result: Floats = hotter / hotter[level]
        return result

    def beside(self, row: int) -> set[int]:
        """Groups of the wires that heat a wire where it runs hottest in any case, its own among them."""
        wire = self.found.solution.heat.wire
        pairs = [pair for hot in self._cases for pair in hot.shares.beside.get(int(hot.pair[row]), ())]
        return {self._of_row[int(wire[pair])] for pair in pairs if int(wire[pair]) in self._of_row}

    def _grown(self, number: int, celsius: float, own: bool) -> Floats:
        """What a wire's share becomes at every step, over that now; its own wire at its limit."""
        group = self.groups[number]
        here = group.steps[self.levels[number]]
        return np.array([_growth(here, step, celsius, own) for step in group.steps])

    def least(self, number: int, lowest: int) -> int:
        """The first step from `lowest` up that bars leave free."""
        group = self.groups[number]
        while lowest < len(group.steps) - 1 and not all(self._holds(number, row, lowest) for row in group.rows):
            lowest += 1
        return lowest

    def _holds(self, number: int, row: int, level: int) -> bool:
        group = self.groups[number]
        here, step = group.steps[self.levels[number]], group.steps[level]
        for case, hot, rowed in zip(self.found.solution.cases, self._cases, self._rowed, strict=True):
            celsius, limit = self._celsius(hot, number, row, level), step.jacket.limit_c
            if celsius > limit and row not in rowed:
                return False
            start = float(case.surge_c[row] - case.conductor_c[row]) * (here.size.area_mm2 / step.size.area_mm2) ** 2
            if min(celsius, limit) + start > step.jacket.short_c:
                return False
        return bool(self._fuse_used[row][level] <= MET) if row in self._fuse_used else True

    def _celsius(self, hot: _Hottest, number: int, row: int, level: int) -> float:
        group = self.groups[number]
        here, step = group.steps[self.levels[number]], group.steps[level]
        own = float(hot.own[row]) * (_growth(here, step, float(hot.celsius[row]), True) - 1)
        return float(hot.air[row] + hot.rise[row]) + own

    @cached_property
    def _fuse_used(self) -> dict[int, Floats]:
        """Guarded free row → use of its fuse's limit at every step of its group."""
        rows = [row for row in self._of_row if self.found.guards[row] is not None]
        steps = [self.groups[self._of_row[row]].steps for row in rows]
        celsius = []
        for row, made in zip(rows, steps, strict=True):
            number = self._of_row[row]
            hottest = [max(self._celsius(hot, number, row, level) for hot in self._cases) for level in range(len(made))]
            celsius.append(np.minimum(np.array(hottest), np.array([step.jacket.limit_c for step in made])))
        return dict(zip(rows, fuse_tables(self.found, rows, steps, celsius), strict=True))


@dataclass(frozen=True)
class _Hottest:
    """One case, columns over wires where each runs hottest: its pair, air, rise, the part of it that is its
    own, conductor temperature; and who gives the rest."""

    pair: NDArray[np.intp]
    air: Floats
    rise: Floats
    own: Floats
    celsius: Floats
    shares: Shares

    @classmethod
    def of(cls, solution: Solution, case: CaseSolution) -> _Hottest:
        heat, plant = solution.heat, solution.plant
        order = np.lexsort((case.pair_c, heat.wire))
        last = order[np.append(heat.wire[order][1:] != heat.wire[order][:-1], True)] if len(order) else order
        air = heat.ambient_c if case.case.ambient_c is None else np.full_like(heat.ambient_c, case.case.ambient_c)
        shares = heat_shares(heat, plant, case.warming, case.pair_c, case.case.ambient_c, last)
        mine = np.array(
            [float(shares.kelvin[p][shares.beside[p] == p][0]) if p in shares.beside else np.nan for p in last.tolist()]
        )
        rise = np.maximum(case.pair_c[last] - air[last], 0.0)
        mine = np.where(np.isnan(mine), rise, mine)
        pair = np.zeros(len(plant.wires), dtype=np.intp)
        pair[heat.wire[last]] = last
        found = np.zeros((4, len(plant.wires)))
        found[:, heat.wire[last]] = [air[last], rise, mine, case.pair_c[last]]
        return cls(pair, found[0], found[1], found[2], found[3], shares)


def _growth(here: Conductor, step: Conductor, celsius: float, own: bool) -> float:
    """What a wire's heat does at another step over that at `here`. Where it is the wire's own limit that is
    asked about it runs at that limit, and a warmer film gives off more per kelvin: a little less than the loss."""
    loss = step.ohm_per_m_20 / here.ohm_per_m_20
    if not own:
        return loss
    alpha, limit = step.metal.alpha_per_k, step.jacket.limit_c
    warmth = (1 + alpha * (limit - 20)) / (1 + alpha * (min(celsius, limit) - 20))
    return float((loss * warmth * (here.outer_mm / step.outer_mm) ** 0.5) ** 0.93)
