"""The question of coils as mixed-integer programs for HiGHS: first the fewest pieces short, then the least waste, then
the fewest coils.

Each asks only of plans that are as good in what counts before it, and its dual bound holds for those. Nodes are
counted, so that no clock chooses the plan.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from typing import Any, Protocol

import numpy as np

from umber_trunk.core.kit.coils import TENTHS

MOST_PAIRS = 2500
"""Pairs of piece and coil up to which the program is solved whole."""
Fill = dict[int, list[int]]
"""Number of a coil → numbers of the pieces on it."""


class Puzzle(Protocol):
    """Whole-number lengths: what each piece needs, what each coil has, which coils a piece fits on, the least rest that
    is kept."""

    need: list[int]
    room: list[int]
    fits: list[list[int]]
    usable: int


class CoilProgram:
    """x of each kind of piece on each coil (whole numbers), y: opened, z: its rest is kept, w: its waste, s: pieces
    short. Pieces of one length that suit the same coils are of one kind."""

    def __init__(self, puzzle: Puzzle) -> None:
        self.puzzle = puzzle
        kinds: dict[tuple[int, tuple[int, ...]], list[int]] = defaultdict(list)
        for piece, options in enumerate(puzzle.fits):
            if options:
                kinds[puzzle.need[piece], tuple(options)].append(piece)
        self.kinds = list(kinds.items())
        self.pairs = [(k, coil) for k, ((_, options), _) in enumerate(self.kinds) for coil in options]
        self.hopeless = sum(not options for options in puzzle.fits)

    def fewest_short(self, nodes: int, shortest: bool = False) -> tuple[Fill | None, int]:
        """(a filling if one was found, the fewest pieces any leaves short): rooms and pieces alone, since nothing else
        counts before it.
        `shortest`: of fillings with as many pieces one of the shortest."""
        n, k = len(self.pairs), len(self.kinds)
        rooms, kinds = self._tables(n)
        table, low, high = (
            [rooms, kinds],
            [np.full(len(self.puzzle.room), -np.inf), np.zeros(k)],
            [self._room(), self._many()],
        )
        cost = -np.ones(n)
        if shortest and n:
            length = np.array([self.kinds[kind][0][0] for kind, _ in self.pairs])
            cost += length / (2.0 * float(length.max()) * float(self._many().sum()))
        found, bound = self._solved(cost, np.ones(n), self._most(), table, low, high, nodes)
        served = (
            math.floor(-bound + 1e-6 + (0.5 if shortest else 0)) if math.isfinite(bound) else int(self._many().sum())
        )
        return found, max(int(self._many().sum()) - served, 0) + self.hopeless

    def least_waste(self, short: int, nodes: int) -> tuple[Fill | None, float]:
        """(a filling that leaves no more than `short`, what none of those can waste less than)."""
        return self._kept(short, math.inf, "waste", nodes)

    def fewest_opened(self, short: int, waste: int, nodes: int) -> tuple[Fill | None, float]:
        """(a filling that leaves no more short and wastes no more, what none of those can open less than)."""
        return self._kept(short, waste, "opened", nodes)

    def _kept(self, short: int, waste: float, goal: str, nodes: int) -> tuple[Fill | None, float]:
        """x, then y: opened, z: its rest is kept, w: its waste."""
        from scipy.sparse import coo_array, hstack, vstack

        n, m, k = len(self.pairs), len(self.puzzle.room), len(self.kinds)
        room, usable = self._room(), self.puzzle.usable / TENTHS
        rooms, kinds = self._tables(n)
        each, none = coo_array(np.eye(m)), coo_array((m, m))
        columns = [
            hstack([-1 * rooms, each * room, none, none]),  # the rest is never under nothing
            hstack([-1 * rooms, each * room, -usable * each, none]),  # what is kept is usable
            hstack([rooms, each * -room, each * room, each]),  # what isn't kept is waste
            hstack([coo_array((m, n)), each, -1 * each, none]),
            hstack([kinds, coo_array((k, 3 * m))]),
            coo_array(np.concatenate([np.ones(n), np.zeros(3 * m)])[None, :]),
        ]
        served = float(self._many().sum()) - (short - self.hopeless)
        low = [np.zeros(4 * m), np.zeros(k), [served]]
        high = [np.full(4 * m, np.inf), self._many(), [np.inf]]
        if math.isfinite(waste):
            columns.append(coo_array(np.concatenate([np.zeros(n + 2 * m), np.ones(m)])[None, :]))
            low.append([0.0])
            high.append([waste / TENTHS + 1e-9])
        cost = np.zeros(n + 3 * m)
        cost[n + 2 * m :] = 1.0 if goal == "waste" else 0.0
        cost[n : n + m] = 1.0 if goal == "opened" else 0.0
        whole = np.concatenate([np.ones(n + 2 * m), np.zeros(m)])
        most = np.concatenate([self._most(), np.ones(2 * m), np.minimum(room, usable)])
        found, bound = self._solved(cost, whole, most, [vstack(columns)], low, high, nodes)
        return found, max(bound, 0.0) * (TENTHS if goal == "waste" else 1) if math.isfinite(bound) else 0.0

    def _room(self) -> Any:
        return np.array(self.puzzle.room) / TENTHS

    def _many(self) -> Any:
        return np.array([float(len(held)) for _, held in self.kinds])

    def _most(self) -> Any:
        """So many pieces of a kind can come from a coil."""
        return np.array(
            [
                min(
                    len(self.kinds[kind][1]),
                    self.puzzle.room[coil] // self.kinds[kind][0][0] if self.kinds[kind][0][0] else np.inf,
                )
                for kind, coil in self.pairs
            ]
        )

    def _tables(self, n: int) -> tuple[Any, Any]:
        """(coils, pairs) [m] taken of each coil, (kinds, pairs) how many of each kind."""
        from scipy.sparse import coo_array

        at = np.arange(n)
        kind, coil = (np.array(side, dtype=int) for side in zip(*self.pairs, strict=True)) if n else (at, at)
        length = np.array([self.kinds[k][0][0] / TENTHS for k in kind.tolist()])
        rooms = coo_array((length, (coil, at)), shape=(len(self.puzzle.room), n))
        return rooms, coo_array((np.ones(n), (kind, at)), shape=(len(self.kinds), n))

    def _solved(
        self,
        cost: Any,
        whole: Any,
        most: Any,
        tables: Sequence[Any],
        low: Sequence[Any],
        high: Sequence[Any],
        nodes: int,
    ) -> tuple[Fill | None, float]:
        """(the filling, the proven bound on the cost)."""
        from scipy.optimize import Bounds, LinearConstraint, milp  # here: most shelves never need it
        from scipy.sparse import vstack

        exact = len(self.pairs) <= MOST_PAIRS  # beyond, only the bound of the relaxed program is had in time
        rows = LinearConstraint(vstack(tables).tocsc(), np.concatenate([*low]), np.concatenate([*high]))
        found = milp(
            cost,
            integrality=whole if exact else 0 * whole,
            bounds=Bounds(0, most),
            constraints=rows,
            options={"node_limit": max(nodes, 20), "mip_rel_gap": 1e-4},
        )
        bound = getattr(found, "mip_dual_bound", None) if exact else found.fun
        filled = self._filled(found.x) if exact and found.x is not None else None
        return filled, -math.inf if bound is None else float(bound)

    def _filled(self, x: Any) -> Fill | None:
        """The pieces behind the numbers; None where rounding overfills a coil."""
        open_pieces = [list(held) for _, held in self.kinds]
        fill: Fill = defaultdict(list)
        for at, (kind, coil) in enumerate(self.pairs):
            for _ in range(round(float(x[at]))):
                if open_pieces[kind]:
                    fill[coil].append(open_pieces[kind].pop(0))
        over = any(sum(self.puzzle.need[p] for p in held) > self.puzzle.room[c] for c, held in fill.items())
        return None if over else dict(fill)
