"""Which steps heat, starts and fuses rule out: as predicted at a solved harness, and for good."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.special import digamma

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.constants import FILLING_W_MK
from umber_trunk.core.physics.film import film_w_m2k, surface_rise_k
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response
from umber_trunk.core.physics.shield import shields
from umber_trunk.core.physics.surroundings import Outside, Surroundings
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.program import Rows
from umber_trunk.core.solve.margins import Figures, fuse_tables
from umber_trunk.core.solve.solution import CaseSolution, Solution
from umber_trunk.core.solve.thermal import Shares, heat_shares
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]


WARM_FROM, WARM_SHARE = 0.4, 0.8
"""Wires that use more than this of their heat limit, and than this share of what the warmest wire of their bundle
uses, get a row of the program; the others are watched by bars."""
MOST_ENTRIES = 400_000
"""Figures of the program's heat rows: of a thousand wires in one bundle the hottest get a row, the others bars."""

SMALL_SHARE = 0.02  # what a wire gives another, of that one's room, to stand in its row; less is taken as it is


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


class Certain:
    """Steps ruled out whatever sizes all other wires get.

    A wire is at least as hot as its own loss alone would make it on a surface as wide as its bundle could
    ever be: by the maximum principle no point is hotter than the source, and other losses only add. The
    resistance is that at ambient.
    """

    def __init__(self, found: Figures, groups: Sequence[Group], amps: Sequence[Floats], widest: Solution) -> None:
        """amps: least heating current of every wire, one array (wires,) for each case; `widest` is the same
        harness with every group at its last step."""
        self.found, self.groups, self.amps = found, groups, amps
        self._width = widest.heat.bundles.radius_m * 2
        self._lone = set(found.solution.heat.lone.tolist())

    def least(self, number: int) -> int:
        """The first step of a group that isn't ruled out."""
        group, level = self.groups[number], self._coolest(number)
        for row in group.rows:
            fits = np.flatnonzero(self._fuse_used[row] <= MET) if row in self._fuse_used else np.zeros(1, dtype=np.intp)
            level = max(level, int(fits[0]) if len(fits) else len(group.steps) - 1)
        return level

    @cached_property
    def _fuse_used(self) -> dict[int, Floats]:
        """Guarded free row → what is held for ever, at every step, were the wire alone in the coolest air on the widest
        bundle: never more than its real use."""
        found, plant = self.found, self.found.solution.plant
        heat, project = found.solution.heat, plant.design.project
        first = {int(row): pair for pair, row in reversed(list(enumerate(heat.wire.tolist())))}
        rows = [(row, group) for group in self.groups for row in group.rows if found.guards[row] is not None]
        if not rows:
            return {}
        many = np.array([row for row, group in rows for _ in group.steps], dtype=np.intp)
        steps = [step for _, group in rows for step in group.steps]
        wide = np.array(
            [0.0 if first[row] in self._lone else float(self._width[heat.bundle[first[row]]]) for row in many.tolist()]
        )
        wide = np.maximum(wide, np.array([step.outer_mm / 1e3 for step in steps]))
        air = np.min([case.ambient_c for case in found.solution.cases], axis=0)[many]
        none, one = np.zeros(len(many)), np.ones(len(many))
        jacket = np.array([np.log(s.outer_mm / s.conductor_mm) / (2 * np.pi * s.jacket.k_w_mk) for s in steps])
        alone = Standing(
            air, air, jacket, none, none, one, wide / 2, one, none, none, Outside.of([Surroundings()] * len(many)),
            np.array([s.ohm_per_m_20 for s in steps]), np.array([s.metal.alpha_per_k for s in steps]), none,
            Response.of(np.ones((len(many), 1)), np.ones((len(many), 1))),
        )  # fmt: skip
        guards = [guard for row in many.tolist() if (guard := found.guards[row]) is not None]
        answer = shields(
            np.array([g.rating_a for g in guards]), alone, steps, plant.parallel[many], np.array([g.fault_a for g in guards]),
            project.fuse_rule, project.fuse_allowance_k, steady_only=True,
        )  # fmt: skip
        ends = np.cumsum([len(group.steps) for _, group in rows])
        return {row: part for (row, _), part in zip(rows, np.split(answer.used, ends[:-1]), strict=True)}

    def _coolest(self, number: int) -> int:
        """The first step whose least rise fits, over all stretches and cases at once: arrays (places, steps).

        All that is sure to be lost in the bundle warms its rim. Of what others lose a wire feels at least `least_share`;
        of its own all, since no point is hotter than the source.
        """
        group = self.groups[number]
        amps, air, width, blown, others = self._places(group)
        outer = np.array([step.outer_mm / 1e3 for step in group.steps])
        jacket = np.array([np.log(s.outer_mm / s.conductor_mm) / (2 * np.pi * s.jacket.k_w_mk) for s in group.steps])
        cold = np.array([step.ohm_per_m_20 for step in group.steps])
        alpha, limit = group.steps[0].metal.alpha_per_k, group.steps[0].jacket.limit_c
        watts = np.square(amps)[:, None] * cold * (1 + alpha * (air[:, None] - 20))
        wide = np.where(np.isnan(width)[:, None], outer, width[:, None])
        across, wind = (np.broadcast_to(column[:, None], watts.shape) for column in (air, blown))
        share = least_share(wide, np.maximum(limit - across, 1.0), across, wind)
        felt = np.where(share > LEAST_FELT, others[:, None], 0.0)
        total = np.maximum(watts + felt, 1e-12)
        rise = surface_rise_k(total, wide, across, wind) * (watts + share * felt) / total
        holds = np.all(air[:, None] + rise + watts * jacket <= limit + 0.01, axis=0)
        return int(np.argmax(holds)) if holds.any() else len(group.steps) - 1

    def _places(self, group: Group) -> tuple[Floats, ...]:
        """(amps in one conductor, air, width of the bundle or NaN for a lone wire, air speed, W/m that the others in it
        lose at least) of every stretch of the group in every case."""
        solution = self.found.solution
        heat, bundles, rows = solution.heat, solution.heat.bundles, []
        for row in group.rows:
            for pair in np.flatnonzero(heat.wire == row):
                bundle = int(heat.bundle[pair])
                tube = bundles.outside.bore_m[bundle] + 2 * bundles.outside.tube_wall_m[bundle]
                width = (
                    np.nan
                    if pair in self._lone
                    else max(self._width[bundle] + 2 * float(bundles.sleeve_m[bundle]), tube)
                )
                for number, (case, amps) in enumerate(zip(solution.cases, self.amps, strict=True)):
                    own = case.case.ambient_c
                    air = float(bundles.ambient_c[bundle]) if own is None else own
                    lost, total = self._least_w[number]
                    others = max(float(total[bundle] - lost[pair]), 0.0)
                    rows.append(
                        (amps[row] / solution.plant.parallel[row], air, width, float(bundles.air_m_s[bundle]), others)
                    )
        table = np.array(rows, dtype=float).reshape(-1, 5)
        return tuple(table[:, column] for column in range(5))

    @cached_property
    def _least_w(self) -> list[tuple[Floats, Floats]]:
        """For each case: W/m that every pair loses at least, free wires made of their last step, and their sums by bundle."""
        solution = self.found.solution
        plant, heat = solution.plant, solution.heat
        ohm = plant.bodies.ohm_per_m_20.copy()
        for group in self.groups:
            ohm[list(group.rows)] = group.steps[-1].ohm_per_m_20
        found = []
        for case, amps in zip(solution.cases, self.amps, strict=True):
            warm = ohm * (1 + plant.bodies.alpha_per_k * (case.ambient_c - 20))
            lost = (np.square(amps / plant.parallel) * warm)[heat.wire]
            found.append((lost, np.bincount(heat.bundle, lost, minlength=len(heat.bundles.segment)).astype(float)))
        return found


LEAST_FELT = 0.25  # under this share a neighbour's heat might help the film more than it warms


def least_share(width_m: Floats, most_rise_k: Floats, air_c: Floats, air_m_s: Floats) -> Floats:
    """The least of its neighbours' heat that a wire can feel, over what it would feel were the rim evenly warm.

    The answer of a disc with a film at its rim is least between opposite points of the rim, where the series of
    `physics.bundle` sums to 1 − 2·Bi·β(1 + Bi), β(x) = ½[ψ((x+1)/2) − ψ(x/2)]; metal across it only evens it out.
    """
    film = film_w_m2k(width_m, most_rise_k, air_c, air_m_s)
    biot = film * width_m / 2 / FILLING_W_MK
    beta = (digamma((biot + 2) / 2) - digamma((biot + 1) / 2)) / 2
    result: Floats = np.clip(1 - 2 * biot * beta, 0.0, 1.0)
    return result
