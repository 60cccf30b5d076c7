"""Which steps are ruled out whatever sizes all other wires get, and what room the others must make for the rest.

What is asked of a step here is never more than what the real harness asks of it: by the maximum principle no point is
hotter than the source, other losses only add, resistances are those of what is sure to be warm, and the rim is no
narrower than the bundle is. Two things are no theorem but were looked for in thousands of cross-sections
(`tests/core/sizes/test_certain.py`):

- How far a wire runs above the rim by its own loss (`tried`).
- What gives off heat, a band drawn tight round the laid wires, is no longer than `BANDS` has it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import Strands
from umber_trunk.core.physics.film import film_w_m2k, surface_rise_k
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response
from umber_trunk.core.physics.surroundings import Outside, Surroundings
from umber_trunk.core.sizes.abreast import Abreast, held_used
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.step_places import Places
from umber_trunk.core.sizes.tried import DRAWN_LEAST, DRAWN_MOST, SECTIONS, Tried, least_share
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

BANDS = ((1, np.inf, 1.0), (2, np.inf, 1.158), (3, np.inf, 1.25), (9, np.inf, 1.4), (9, 3.0, 1.28))
"""A band drawn tight round wires whose widths squared add up to S is as long at most as a circle so many times √S wide:
of so many wires or more, the thickest at most so many times as wide as the thinnest. The last that fits counts; two
alike have (2 + π)/(π·√2)."""
EVEN_LESS = 0.1
"""Of the rim's rise: what a wire might be further from the others' heat than in the sections tried."""
LEAST_FELT = 0.25  # under this share a neighbour's heat might help the film more than it warms
HALVINGS = 7
"""Of the widths a place may have, when the one it needs is looked for."""


@dataclass(frozen=True)
class Known:
    """Sections tried and stretches of two: dear to find, and true of every part of what was open."""

    tried: Tried
    abreast: Abreast


class Certain:
    """What is ruled out for good, given that every group is at least at one step and at most at another.

    A place holds if its stretch is wide enough; no width that stretch may have under what it needs will do.
    """

    def __init__(
        self,
        found: Figures,
        groups: Sequence[Group],
        amps: Sequence[Floats],
        least: Sequence[int],
        most: Sequence[int],
        known: Known | None = None,
    ) -> None:
        """amps: least heating current of every wire, one array (wires,) for each case; least, most: the first and the
        last step that each group may take; known: what was found where no less was open."""
        self.found, self.groups, self.amps = found, groups, amps
        self.lowest, self.highest = list(least), list(most)
        self._places = Places.of(found, groups)
        self._known_answers: dict[tuple[int, bool], tuple[Floats, Floats]] = {}
        self._known = known
        self._all = np.arange(len(self._places.step))
        self._squares = [np.square([step.outer_mm for step in group.steps]) for group in groups]

    @property
    def found_out(self) -> Known:
        """What holds wherever less is open too."""
        return Known(self.tried, self._abreast)

    @cached_property
    def steps(self) -> list[int]:
        """The first step of each group that isn't ruled out."""
        places, first = self._places, list(self.lowest)
        for number, group in enumerate(self.groups):
            barred = np.zeros(len(group.steps), dtype=bool)
            np.logical_or.at(barred, places.step[places.number == number], self._never[places.number == number])
            barred |= self._abreast.never.get(number, False)
            free = np.flatnonzero(~barred)
            first[number] = max(first[number], int(free[0]) if len(free) else len(group.steps) - 1)
        return first

    @cached_property
    def _abreast(self) -> Abreast:
        """What stretches of two conductors rule out."""
        if self._known is not None:
            return self._known.abreast
        return Abreast.of(self.found, self.groups, self.amps)

    @cached_property
    def _never(self) -> NDArray[np.bool_]:
        """Places that don't hold even in the widest stretch."""
        never = np.zeros(len(self._all), dtype=bool)
        at = np.flatnonzero(~self._two[self._places.bundle])
        never[at] = self._used(at, self._widest_mm[at]) > MET
        return never

    def mean_c(self, case: int, row: int) -> Floats:
        """The least mean temperature of a free wire at every step of its group in a case [°C]."""
        places, heat = self._places, self.found.solution.heat
        at = np.flatnonzero(places.row == row)
        found: Floats = np.bincount(
            places.step[at],
            heat.weight[places.pair[at]] * self._least_c[case][at],
            minlength=int(places.step[at].max()) + 1,
        ).astype(float)
        return found

    @cached_property
    def _least_c(self) -> list[Floats]:
        """For each case the least temperature of every place [°C]: what its sure loss gives in the widest stretch."""
        found = [self._celsius(case, self._all, self._widest_mm) for case in range(len(self.amps))]
        first = {
            pair: at
            for at, (pair, step) in enumerate(zip(self._places.pair.tolist(), self._places.step.tolist(), strict=True))
            if not step
        }
        for celsius, both in zip(found, self._abreast.celsius, strict=False):
            for pair, steps in both.items():
                mine = slice(first[pair], first[pair] + len(steps))
                celsius[mine] = np.maximum(celsius[mine], steps)
        return found

    @cached_property
    def _widest_mm(self) -> Floats:
        """Width (places,) that the band round each stretch has as a circle, at most, the place's own group at its
        step."""
        places = self._places
        squares = places.fixed_mm2.copy()
        for bundle, members in enumerate(places.members):
            for number, many in members.items():
                squares[bundle] += many * self._squares[number][self.highest[number]]
        own = np.array(
            [
                m[n]
                for m, n in zip(
                    (places.members[b] for b in places.bundle.tolist()), places.number.tolist(), strict=True
                )
            ]
        )
        top = np.array([self._squares[n][self.highest[n]] for n in range(len(self.groups))])
        total = squares[places.bundle] + own * (np.square(places.outer_mm) - top[places.number])
        widest: Floats = np.maximum(np.sqrt(np.maximum(total, 0.0)) * self._band[places.bundle], places.outer_mm)
        return widest

    @cached_property
    def _lone(self) -> NDArray[np.bool_]:
        """Stretches that hold one conductor."""
        heat = self.found.solution.heat
        found = np.zeros(len(heat.bundles.segment), dtype=bool)
        found[heat.bundle[heat.lone]] = True
        return found

    @cached_property
    def _band(self) -> Floats:
        """Width of the circle as long as the band round each stretch, at most, over the root of its wires' squares."""
        plant, heat = self.found.solution.plant, self.found.solution.heat
        thin, thick = plant.bodies.outer_m * 1e3, plant.bodies.outer_m * 1e3
        for group, low, high in zip(self.groups, self.lowest, self.highest, strict=True):
            thin[list(group.rows)], thick[list(group.rows)] = group.steps[low].outer_mm, group.steps[high].outer_mm
        count = np.bincount(heat.bundle, minlength=len(heat.bundles.segment))
        least, most = np.full(len(count), np.inf), np.zeros(len(count))
        np.minimum.at(least, heat.bundle, thin[heat.wire])
        np.maximum.at(most, heat.bundle, thick[heat.wire])
        found = np.ones(len(count))
        for many, ratio, band in BANDS:
            found[(count >= many) & (most <= ratio * least)] = band
        return found

    @cached_property
    def _two(self) -> NDArray[np.bool_]:
        """Stretches that hold two conductors, which `Abreast` looks at."""
        heat = self.found.solution.heat
        two: NDArray[np.bool_] = np.bincount(heat.bundle, minlength=len(heat.bundles.segment)) == 2
        return two

    def _need_mm2(self) -> Floats:
        """Squares of the widths (places,) that a stretch must hold for the place: 0 where its step alone will do or
        where nothing will."""
        places, need = self._places, np.zeros(len(self._all))
        low, high = places.outer_mm.copy(), self._widest_mm.copy()
        open_ = ~self._never & ~self._lone[places.bundle] & ~self._two[places.bundle]
        open_ &= places.step >= np.array(self.lowest, dtype=np.intp)[places.number]
        at = np.flatnonzero(open_)
        at = at[self._used(at, low[at]) > MET]
        for _ in range(HALVINGS if len(at) else 0):
            middle = np.sqrt(low[at] * high[at])
            over = self._used(at, middle) > MET
            low[at], high[at] = np.where(over, middle, low[at]), np.where(over, high[at], middle)
        need[at] = np.square(low[at] / self._band[places.bundle[at]])
        return need

    def _outside_m(self, at: Ints, packed_mm: Floats) -> Floats:
        """Width of what gives off heat round a packed width: a cover on it, or the tube it lies in."""
        bundles, bundle = self.found.solution.heat.bundles, self._places.bundle[at]
        result: Floats = np.maximum(packed_mm / 1e3 + 2 * bundles.sleeve_m[bundle], bundles.outside.conduit_m[bundle])
        return result

    def _used(self, at: Ints, packed_mm: Floats, rank: int = 0) -> Floats:
        """The least use (m,) of heat's and the fuse's limit at places (m,) in stretches packed so wide: over 1 will
        never do. rank says which of the places there are taken by others."""
        places, air_of = self._places, self._air_c
        used = np.zeros(len(at))
        for case in range(len(self.amps)):
            room = places.limit_c[at] - air_of[case][at]
            rise = self._celsius(case, at, packed_mm, rank) - air_of[case][at]
            used = np.maximum(used, np.where(room > 0, rise / (np.maximum(room, 1e-9) + 0.01), 2.0))
            guarded = np.flatnonzero(self._guarded[at])
            if len(guarded):
                held = self._held(case, at[guarded], packed_mm[guarded], rank)
                used[guarded] = np.maximum(used[guarded], held)
        return used

    @cached_property
    def _air_c(self) -> list[Floats]:
        """Air (places,) in each case."""
        heat, bundle = self.found.solution.heat, self._places.bundle
        cases = [one.case.ambient_c for one in self.found.solution.cases]
        return [heat.bundles.ambient_c[bundle] if own is None else np.full(len(bundle), own) for own in cases]

    @cached_property
    def _guarded(self) -> NDArray[np.bool_]:
        return np.array([self.found.guards[row] is not None for row in self._places.row.tolist()], dtype=bool)

    def _felt(self, case: int, at: Ints, wide_m: Floats) -> tuple[Floats, Floats]:
        """(W/m that others in the stretch lose at least, the share of their rise that the place feels at least)."""
        places, bundles = self._places, self.found.solution.heat.bundles
        lost, total = self._least_w[case]
        others = np.maximum(total[places.bundle[at]] - lost[places.pair[at]], 0.0)
        air, wind = self._air_c[case][at], bundles.air_m_s[places.bundle[at]]
        share = self._share(places.bundle[at], wide_m, np.maximum(places.limit_c[at] - air, 1.0), air, wind)
        return np.where(share > LEAST_FELT, others, 0.0), share

    def _share(self, bundle: Ints, wide_m: Floats, room_k: Floats, air_c: Floats, air_m_s: Floats) -> Floats:
        """Of the rise that the others' heat gives the rim, what a wire feels at least: by the closed form, or by the
        sections tried."""
        rim = 1 / (np.pi * wide_m * film_w_m2k(wide_m, room_k, air_c, air_m_s))
        tried = np.clip(1 - EVEN_LESS + self.tried.apart_km_w[bundle] / rim, 0.0, 1.0)
        result: Floats = np.maximum(least_share(wide_m, room_k, air_c, air_m_s), tried)
        return result

    def _celsius(self, case: int, at: Ints, packed_mm: Floats, rank: int = 0) -> Floats:
        """Temperature (m,) of places (m,) at least, all others at the last step they may take. What it is sure to be
        warmed to tells its resistance, which warms it a little more."""
        places, plant, bundles = self._places, self.found.solution.plant, self.found.solution.heat.bundles
        row, air = places.row[at], self._air_c[case][at]
        wind, wide = bundles.air_m_s[places.bundle[at]], self._outside_m(at, packed_mm)
        felt, share = self._felt(case, at, wide)
        own = places.jacket_km_w[at] + np.where(wind > 0, 0.0, self._own_km_w(at, wide, rank, lively=True))
        square, celsius = np.square(self.amps[case][row] / plant.parallel[row]), air
        for _ in range(3):
            watts = square * places.ohm_20[at] * (1 + places.alpha[at] * (celsius - 20))
            total = np.maximum(watts + felt, 1e-12)
            celsius = air + surface_rise_k(total, wide, air, wind) * (watts + share * felt) / total + watts * own
            celsius = np.minimum(
                celsius, np.maximum(places.limit_c[at] + 1.0, air)
            )  # beyond the limit nothing is asked
        return celsius

    def _held(self, case: int, at: Ints, packed_mm: Floats, rank: int) -> Floats:
        """What is held for ever of what the fuse may let through (m,): never more than its real use."""
        places, none = self._places, np.zeros(len(at))
        row, air = places.row[at], self._air_c[case][at]
        wind, wide = self.found.solution.heat.bundles.air_m_s[places.bundle[at]], self._outside_m(at, packed_mm)
        felt, share = self._felt(case, at, wide)
        warm = np.where(felt > 0, share * surface_rise_k(np.maximum(felt, 1e-12), wide, air, wind), 0.0)
        made = [places.made[place] for place in at.tolist()]
        standing = Standing(
            celsius=air + warm,
            air_c=air,
            own_km_w=places.jacket_km_w[at] + self._own_km_w(at, wide, rank),
            own_w=none,
            total_w=felt,
            alike=none + 1,
            radius_m=wide / 2,
            rim_share=none + 1,
            sleeve_m=none,
            air_m_s=wind,
            outside=Outside.of([Surroundings()] * len(at)),
            ohm_20=places.ohm_20[at],
            alpha=places.alpha[at],
            amps=none,
            response=Response.of(np.ones((len(at), 1)), np.ones((len(at), 1))),
        )
        return held_used(self.found, row, made, standing)

    @cached_property
    def _least_w(self) -> list[tuple[Floats, Floats]]:
        """For each case: W/m that every pair loses at least, free wires made of the last step they may take, and sums
        by bundle."""
        solution = self.found.solution
        plant, heat = solution.plant, solution.heat
        ohm = plant.bodies.ohm_per_m_20.copy()
        for group, step in zip(self.groups, self.highest, strict=True):
            ohm[list(group.rows)] = group.steps[step].ohm_per_m_20
        found = []
        for case, amps in zip(solution.cases, self.amps, strict=True):
            warm = ohm * (1 + plant.bodies.alpha_per_k * (case.ambient_c - 20))
            lost = (np.square(amps / plant.parallel) * warm)[heat.wire]
            found.append((lost, np.bincount(heat.bundle, lost, minlength=len(heat.bundles.segment)).astype(float)))
        return found

    def _own_km_w(self, at: Ints, wide_m: Floats, rank: int = 0, lively: bool = False) -> Floats:
        """The least rise over the rim per W/m of its own that places (m,) can have in stretches so wide outside,
        jackets apart: at least that of the best section tried, and no less than what the best section is in all, its
        rim counted, over the rim here. Beyond some width a wider bundle is no cooler: what the rim gains is lost on the
        way to it."""
        least, answer = self._answers(rank, lively)
        result: Floats = np.maximum(least[at], answer[at] - 1 / (np.pi * wide_m * self._lively_film[at]))
        return result

    def _answers(self, rank: int, lively: bool) -> tuple[Floats, Floats]:
        """(own rise, own rise and rim's) per W/m of its own, the least of all sections tried, of every place."""
        key = (rank, lively)
        if key not in self._known_answers:
            places = self._places
            self._known_answers[key] = self.tried.answers(
                places.bundle, places.outer_mm, self._lively_film, rank, lively
            )
        return self._known_answers[key]

    @cached_property
    def _lively_film(self) -> Floats:
        """The film (places,) that a stretch has at most while the place is within its limit."""
        places, bundles = self._places, self.found.solution.heat.bundles
        narrow, wind = self.tried.narrowest_m(places.bundle, places.outer_mm), bundles.air_m_s[places.bundle]
        films = [film_w_m2k(narrow, np.maximum(places.limit_c - air, 1.0), air, wind) for air in self._air_c]
        result: Floats = np.max(films, axis=0)
        return result

    @cached_property
    def tried(self) -> Tried:
        """The best places in each stretch, at the steps that are open."""
        if self._known is not None:
            return self._known.tried
        heat = self.found.solution.heat
        many = sum(
            len(batch.bundles) for batch in heat.batches if batch.pairs.shape[1] > 2 and batch.sections is not None
        )
        draw = np.random.default_rng(len(self.groups))
        tried, drawn = [self.lowest], min(SECTIONS // max(many, 1), DRAWN_MOST)
        if drawn >= DRAWN_LEAST:
            low, high = np.array(self.lowest, dtype=np.intp), np.array(self.highest, dtype=np.intp)
            tried += [self.highest, *(self._drawn(draw, kind, low, high).tolist() for kind in range(2, drawn))]
        lost = np.max([one for one, _ in self._least_w], axis=0)
        return Tried.of(heat, [self._strands(steps) for steps in tried], lost)

    @staticmethod
    def _drawn(draw: np.random.Generator, kind: int, low: Ints, high: Ints) -> Ints:
        """Steps of all groups: a few raised, each any step, or each the first or the last."""
        anywhere = low + np.floor(draw.random(len(low)) * (high - low + 1)).astype(np.intp)
        if kind % 3 == 1:
            return anywhere
        ends = np.where(draw.random(len(low)) < draw.random(), low, high)
        return ends if kind % 3 == 2 else np.where(draw.random(len(low)) < 0.2, anywhere, low)

    def _strands(self, steps: Sequence[int]) -> Strands:
        bodies = self.found.solution.plant.bodies
        outer, core, jacket = bodies.outer_m.copy(), bodies.conductor_m.copy(), bodies.jacket_w_mk.copy()
        for group, level in zip(self.groups, steps, strict=True):
            step, rows = group.steps[level], list(group.rows)
            outer[rows], core[rows], jacket[rows] = step.outer_mm / 1e3, step.conductor_mm / 1e3, step.jacket.k_w_mk
        return Strands(outer, core, jacket)
