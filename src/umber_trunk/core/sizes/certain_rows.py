"""What is certain of steps as rows of a program: what the sizes of others must leave to a wire, so that a choice that
can't hold is no choice.

    Σ over groups of what each of its steps asks of a stretch  ≤  what the stretch has        [mm², places, kelvin]
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.film import film_w_m2k
from umber_trunk.core.sizes.certain import Certain
from umber_trunk.core.sizes.program import Rows
from umber_trunk.core.sizes.tried import RANKS
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]


class CertainRows(Certain):
    """What is ruled out, with the rows that follow from it."""

    def add_rows(self, rows: Rows) -> None:
        """All of them: room, heat, ranks."""
        self._add_room_rows(rows)
        self._add_heat_rows(rows)
        self._add_rank_rows(rows)

    def _add_room_rows(self, rows: Rows) -> None:
        """One row for each stretch of a wire that asks for room: squares of the widths of all that lies there, against
        what is asked at its steps [mm²]."""
        places = self._places
        need = self._need_mm2()
        for pair in np.unique(places.pair[need > 0]).tolist():
            at = np.flatnonzero(places.pair == pair)
            number, bundle = int(places.number[at[0]]), int(places.bundle[at[0]])
            asked = {other: -many * self._squares[other] for other, many in places.members[bundle].items()}
            asked[number] = asked[number] + need[at]
            rows.add(asked, float(places.fixed_mm2[bundle]))
        self._abreast.add_rows(rows, self.groups)

    def _add_rank_rows(self, rows: Rows) -> None:
        """One row for each stretch and rank: no more wires may be at steps that only the better places bear than there
        are such places."""
        places = self._places
        count = np.array([sum(members.values()) for members in places.members])
        low, high = np.array(self.lowest, dtype=np.intp), np.array(self.highest, dtype=np.intp)
        at = np.flatnonzero(
            ~self._never
            & (count[places.bundle] > 2)
            & (places.step >= low[places.number])
            & (places.step <= high[places.number])
        )
        for rank in range(len(RANKS) - 1, 0, -1):
            at = at[self._used(at, self._widest_mm[at], rank) > MET]
            for bundle in np.unique(places.bundle[at]).tolist():
                here = at[places.bundle[at] == bundle]
                asking = {
                    number: np.zeros(len(self.groups[number].steps))
                    for number in np.unique(places.number[here]).tolist()
                }
                for number, step in zip(places.number[here].tolist(), places.step[here].tolist(), strict=True):
                    asking[number][step] += 1.0
                better = float(self.tried.better[bundle, rank])
                if sum(float(steps.max()) for steps in asking.values()) > better:
                    rows.add(asking, better)

    def _add_heat_rows(self, rows: Rows) -> None:
        """One row for each stretch of a wire that the least its stretch loses may bring to its limit: kelvin that every
        group's steps give it, at the film that the widest stretch has when the wire is at its limit."""
        places, heat = self._places, self.found.solution.heat
        first = np.flatnonzero(np.append(True, places.pair[1:] != places.pair[:-1])) if len(self._all) else self._all
        widest = np.zeros(len(heat.bundles.segment))
        np.maximum.at(widest, places.bundle, self._outside_m(self._all, self._widest_mm))
        wide, wind = widest[places.bundle], heat.bundles.air_m_s[places.bundle]
        own = places.jacket_km_w + np.where(wind > 0, 0.0, self._own_km_w(self._all, wide, lively=True))
        for case in range(len(self.amps)):
            air = self._air_c[case]
            room = np.maximum(places.limit_c - air, 1e-6)
            rim = 1 / (np.pi * wide * film_w_m2k(wide, room, air, wind))
            share = self._share(places.bundle, wide, np.maximum(room, 1.0), air, wind)
            lost = self._lost_w(case)
            given, fixed = self._given_w(case, lost)
            for at in first.tolist():
                number, bundle = int(places.number[at]), int(places.bundle[at])
                mine = slice(at, at + len(self.groups[number].steps))
                if self._two[bundle]:
                    continue
                felt = share[at] * rim[at]
                alone = lost[mine] * (own[mine] + (1 - share[at]) * rim[at])
                least = sum(float(steps[self.lowest[other]]) for other, steps in given[bundle].items()) + fixed[bundle]
                if felt * least + float(alone[self.lowest[number]]) <= room[at]:
                    continue
                kelvin = {other: felt * steps for other, steps in given[bundle].items()}
                kelvin[number] = kelvin[number] + alone
                rows.add(kelvin, max(float(room[at]) + 0.01 - felt * fixed[bundle], 0.0))

    def _lost_w(self, case: int) -> Floats:
        """W/m that one conductor loses at every place in a case, at least."""
        places, plant = self._places, self.found.solution.plant
        square = np.square(self.amps[case][places.row] / plant.parallel[places.row])
        result: Floats = square * places.ohm_20 * (1 + places.alpha * (self._least_c[case] - 20))
        return result

    def _given_w(self, case: int, lost: Floats) -> tuple[list[dict[int, Floats]], Floats]:
        """For each stretch W/m that each group there loses at its steps, at least, and what all others lose."""
        places, heat = self._places, self.found.solution.heat
        given: list[dict[int, Floats]] = [
            {number: np.zeros(len(self.groups[number].steps)) for number in members} for members in places.members
        ]
        for at in np.flatnonzero(places.step == 0).tolist():
            number = int(places.number[at])
            given[int(places.bundle[at])][number] += lost[at : at + len(self.groups[number].steps)]
        least, _ = self._least_w[case]
        fixed = np.bincount(heat.bundle, least, minlength=len(given))
        free = np.flatnonzero(places.step == 0)
        fixed -= np.bincount(places.bundle[free], least[places.pair[free]], minlength=len(given))
        return given, np.maximum(fixed, 0.0)
