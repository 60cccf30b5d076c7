"""Stretches that hold two conductors: every step of the one with every step of the other, laid and solved as they would
be.

Loads draw the least they may and losses start from cold wires, so what breaks a limit here breaks it in the harness. A
feed and its return lie so, and many circuits' last metre does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.bundle import Sections, Strands, rim_film_w_m2k
from umber_trunk.core.physics.heat import WireBodies
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.protection import protection
from umber_trunk.core.physics.response import Response
from umber_trunk.core.physics.surroundings import Outside
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.sizes.program import Rows
from umber_trunk.core.solve.heat_plan import led_w_m_k
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.usual import MET

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
PASSES = 5
"""Rounds of warmth and ohms."""


def held_used(found: Figures, rows: Ints, made: list[Conductor], standing: Standing) -> Floats:
    """What is held for ever of what the fuses before guarded wire rows (m,) may let through, over what the wires so
    made bear."""
    plant = found.solution.plant
    guards = [guard for row in rows.tolist() if (guard := found.guards[row]) is not None]
    rating, fault = np.array([(guard.rating_a, guard.fault_a) for guard in guards]).reshape(-1, 2).T
    project = plant.design.project
    return protection(
        rating,
        standing,
        made,
        plant.parallel[rows],
        fault,
        project.fuse_rule,
        project.fuse_allowance_k,
        steady_only=True,
    ).used


@dataclass(frozen=True)
class Abreast:
    """What two in a stretch rule out: never[group] are its steps that no other step mends; either (group, step, group,
    steps): the first with any of the last. celsius: for each case and pair its least temperature at every step of its
    group."""

    never: dict[int, NDArray[np.bool_]]
    either: list[tuple[int, int, int, NDArray[np.bool_]]]
    celsius: list[dict[int, Floats]]

    @classmethod
    def of(cls, found: Figures, groups: Sequence[Group], amps: Sequence[Floats]) -> Abreast:
        """amps: least heating current of every wire, one array (wires,) for each case."""
        table = _Combinations.of(found, groups)
        never: dict[int, NDArray[np.bool_]] = {}
        either = []
        bad, warm = table.solved(amps) if len(table.first) else (np.zeros(0, dtype=bool), [])
        celsius = [table.least_c(one, groups) for one in warm]
        for at in np.split(np.arange(len(bad)), np.flatnonzero(np.diff(table.first)) + 1) if len(bad) else []:
            (a, b), broken = table.numbers[at[0]].tolist(), bad[at]
            steps = table.steps[at]
            if a < 0 or b < 0 or a == b:
                number, side = (b, 1) if a < 0 else (a, 0)
                out = never.setdefault(number, np.zeros(len(groups[number].steps), dtype=bool))
                out[steps[broken, side]] = True
                continue
            grid = broken.reshape(len(groups[a].steps), len(groups[b].steps))
            for number, lost in ((a, grid.all(axis=1)), (b, grid.all(axis=0))):
                never[number] = never.get(number, np.zeros(len(groups[number].steps), dtype=bool)) | lost
            either += [(a, step, b, row) for step, row in enumerate(grid) if row.any() and not row.all()]
        return cls(never, either, celsius)

    def add_rows(self, rows: Rows, groups: Sequence[Group]) -> None:
        """One row for a step and all that can't lie beside it."""
        for a, step, b, against in self.either:
            rows.add({a: np.eye(len(groups[a].steps))[step], b: against.astype(float)}, 1.0)


@dataclass(frozen=True)
class _Combinations:
    """m combinations of steps in stretches of two, those of one stretch together: first pair of the stretch (m,), both
    pairs, numbers of their groups (−1: as it is) and steps (m, 2), what they are made of."""

    found: Figures
    first: Ints
    pairs: Ints
    numbers: Ints
    steps: Ints
    made: list[tuple[Conductor, Conductor]]

    @classmethod
    def of(cls, found: Figures, groups: Sequence[Group]) -> _Combinations:
        plant, heat = found.solution.plant, found.solution.heat
        of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
        rows: list[tuple[int, int, int, int, int, int]] = []
        made = []
        for pairs in (pairs for batch in heat.batches if batch.pairs.shape[1] == 2 for pairs in batch.pairs.tolist()):
            wires = [int(heat.wire[pair]) for pair in pairs]
            a, b = (of_row.get(row, -1) for row in wires)
            if a < 0 and b < 0:
                continue
            one, other = (
                groups[n].steps if n >= 0 else (plant.conductors[row],) for n, row in zip((a, b), wires, strict=True)
            )
            for s, t in ((s, t) for s in range(len(one)) for t in range(len(other)) if a != b or s == t):
                rows.append((pairs[0], pairs[1], a, b, s, t))
                made.append((one[s], other[t]))
        table = np.array(rows, dtype=np.intp).reshape(-1, 6)
        return cls(found, table[:, 0], table[:, :2], table[:, 2:4], table[:, 4:], made)

    def least_c(self, celsius: Floats, groups: Sequence[Group]) -> dict[int, Floats]:
        """Pair → the least of its temperatures (m, 2) at every step of its group."""
        found: dict[int, Floats] = {}
        for side in (0, 1):
            order = np.lexsort((self.steps[:, side], self.pairs[:, side]))
            for at in np.split(order, np.flatnonzero(np.diff(self.pairs[order, side])) + 1):
                number = int(self.numbers[at[0], side])
                if number >= 0:
                    least = np.full(len(groups[number].steps), np.inf)
                    np.minimum.at(least, self.steps[at, side], celsius[at, side])
                    found[int(self.pairs[at[0], side])] = least
        return found

    def solved(self, amps: Sequence[Floats]) -> tuple[NDArray[np.bool_], list[Floats]]:
        """(which break a limit for sure (m,); for each case the temperatures (m, 2) that both have at least)."""
        bodies, limit = self._bodies
        outer, core, jacket_k, jacket, ohm, alpha = (
            column.reshape(-1, 2)
            for column in (
                bodies.outer_m,
                bodies.conductor_m,
                bodies.jacket_w_mk,
                bodies.jacket_km_w,
                bodies.ohm_per_m_20,
                bodies.alpha_per_k,
            )
        )
        strands = Strands(outer, core, jacket_k)
        d = outer.sum(axis=1)
        x = (d[:, None] - outer) / 2 * np.array([1.0, -1.0])
        sections = Sections.of(np.stack([x, 0 * x], axis=-1), strands, d)
        solution = self.found.solution
        plant, heat = solution.plant, solution.heat
        bundle, wire = heat.bundle[self.first], heat.wire[self.pairs]
        bad, warm = np.zeros(len(self.first), dtype=bool), []
        for case, known in zip(solution.cases, amps, strict=True):
            air = (
                heat.bundles.ambient_c[bundle]
                if case.case.ambient_c is None
                else np.full(len(bundle), case.case.ambient_c)
            )
            square = np.square(known[wire] / plant.parallel[wire])
            celsius = np.repeat(air[:, None], 2, axis=1)
            for _ in range(PASSES):
                lost = square * ohm * (1 + alpha * (celsius - 20))
                film = self._film(sections, lost.sum(axis=1), air, bundle)
                celsius = air[:, None] + sections.rise_k(np.maximum(lost, 1e-12), film) + lost * jacket
                celsius = np.minimum(
                    celsius, np.maximum(limit + 1.0, air[:, None])
                )  # beyond the limit nothing is asked
            free = self.numbers >= 0
            bad |= ((celsius > limit + 0.01) & free).any(axis=1)
            own = np.maximum(sections.own_km_w(), 0.0) + jacket
            for side in (0, 1):
                bad |= free[:, side] & self._blown(side, sections, own[:, side], lost, celsius[:, side], air, bundle)
            warm.append(celsius)
        return bad, warm

    @cached_property
    def _outside(self) -> Outside:
        """What stands round each, led along by what lies there."""
        heat = self.found.solution.heat
        bodies, _ = self._bodies
        led = led_w_m_k(bodies.ohm_per_m_20, bodies.alpha_per_k).reshape(-1, 2).sum(axis=1)
        return replace(heat.bundles.outside.at(heat.bundle[self.first]), led_w_m_k=led)

    def _film(self, sections: Sections, total: Floats, air: Floats, bundle: Ints) -> Floats:
        bundles = self.found.solution.heat.bundles
        return rim_film_w_m2k(
            total,
            sections.radius_m,
            air,
            sections.rim_share,
            bundles.sleeve_m[bundle],
            bundles.air_m_s[bundle],
            self._outside,
        )

    def _blown(
        self, side: int, sections: Sections, own: Floats, lost: Floats, celsius: Floats, air: Floats, bundle: Ints
    ) -> NDArray[np.bool_]:
        """Where what the fuse before the wire at one side may let through for ever is more than that wire bears."""
        solution, guards = self.found.solution, self.found.guards
        plant, heat = solution.plant, solution.heat
        rows = heat.wire[self.pairs[:, side]]
        at = np.flatnonzero(np.array([guards[row] is not None for row in rows.tolist()], dtype=bool))
        broken = np.zeros(len(rows), dtype=bool)
        if not len(at):
            return broken
        made = [self.made[place][side] for place in at.tolist()]
        bundles = heat.bundles
        standing = Standing(
            celsius=celsius[at],
            air_c=air[at],
            own_km_w=own[at],
            own_w=lost[at, side],
            total_w=lost[at].sum(axis=1),
            alike=plant.parallel[rows[at]],
            radius_m=sections.radius_m[at],
            rim_share=sections.rim_share[at],
            sleeve_m=bundles.sleeve_m[bundle[at]],
            air_m_s=bundles.air_m_s[bundle[at]],
            outside=self._outside.at(at),
            ohm_20=np.array([one.ohm_per_m_20 for one in made]),
            alpha=np.array([one.metal.alpha_per_k for one in made]),
            amps=0 * own[at],
            response=Response.of(np.ones((len(at), 1)), np.ones((len(at), 1))),
        )
        used = held_used(self.found, rows[at], made, standing)
        broken[at] = used > MET
        return broken

    @cached_property
    def _bodies(self) -> tuple[WireBodies, Floats]:
        """(what both are made of, flat: the two of each combination one after the other; their jackets' limits (m,
        2))."""
        flat = [one for both in self.made for one in both]
        return WireBodies.of(flat), np.array([one.jacket.limit_c for one in flat]).reshape(-1, 2)
