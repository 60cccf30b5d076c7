"""Joins on one segment moved apart: each keeps clear of the others, of bends, clamps and wet low points, as near its
wish as can be.

    ──bend──┤    ●──●   ● ├─clamp─┤  ●      ├──     ● joins, each with half its length on either side

Each goes to its own nearest place where those leave room for one another: nothing can be nearer. Else which free
stretch takes which join is a small integer program (HiGHS), so that a place is found wherever there is one, and inside
a stretch a linear program keeps each as near its wish as its neighbours let it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

APART_M = 0.01
"""Kept free between two joins, so that their ends never touch."""
NODES = 10_000
"""Of the search for stretches: counted, so that no clock chooses."""


@dataclass(frozen=True)
class Piece:
    """A join to place: half its length and where it is wanted; `held` ones stay."""

    key: str
    half_m: float
    wish_m: float
    held: bool = False


@dataclass(frozen=True)
class Placed:
    """Where each join's middle goes, by its key, and the keys of those for which there is no room."""

    at_m: dict[str, float]
    crowded: tuple[str, ...]


Stretch = tuple[float, float]


def free_stretches(length_m: float, taken: Sequence[Stretch]) -> list[Stretch]:
    """What is left of 0…length once the taken stretches are out, in order."""
    free, here = [], 0.0
    for low, high in sorted(taken):
        if low > here:
            free.append((here, min(low, length_m)))
        here = max(here, high)
    if here < length_m:
        free.append((here, length_m))
    return [(low, high) for low, high in free if high - low > 1e-12]


def stagger(length_m: float, joins: Sequence[Piece], taken: Sequence[Stretch] = ()) -> Placed:
    """Places joins on a segment of a length beside what is `taken` by bends, clamps and low points."""
    held = [one for one in joins if one.held]
    loose = [one for one in joins if not one.held]
    blocked = [*taken, *((one.wish_m - one.half_m - APART_M, one.wish_m + one.half_m + APART_M) for one in held)]
    free = free_stretches(length_m, blocked)
    chosen = _assigned(free, loose)
    at = {one.key: one.wish_m for one in held}
    crowded = [one.key for number, one in enumerate(loose) if chosen[number] < 0]
    for place, stretch in enumerate(free):
        inside = [one for number, one in enumerate(loose) if chosen[number] == place]
        at |= _spread(stretch, inside)
    at |= {one.key: min(max(one.wish_m, 0.0), length_m) for one in loose if one.key in crowded}
    return Placed(at, tuple(crowded))


def _assigned(free: list[Stretch], loose: list[Piece]) -> list[int]:
    """The stretch of each join, −1 for those left over: as few as can be, then as near their wishes as can be."""
    if not loose:
        return []
    if not free:
        return [-1] * len(loose)
    n, m = len(loose), len(free)
    far = np.array([[_distance(one, stretch) for stretch in free] for one in loose])
    nearest, wide = far.argmin(axis=1), np.array([2 * piece.half_m + APART_M for piece in loose])
    room = np.array([high - low + APART_M + 1e-12 for low, high in free])
    if far.min(axis=1).max() < 1e6 and (np.bincount(nearest, wide, m) <= room).all():
        return [int(place) for place in nearest]
    from scipy.optimize import Bounds, LinearConstraint, milp  # here, as below: few harnesses are that crowded

    cost = np.concatenate([far.ravel(), np.full(n, 1e3 * (1 + far[far < 1e6].max(initial=0.0)))])
    rows = np.zeros((n + m, n * m + n))
    for one in range(n):
        rows[one, one * m : one * m + m] = 1
        rows[one, n * m + one] = 1
    for place in range(m):
        rows[n + place, place : n * m : m] = wide
    upper = np.concatenate([(far < 1e6).astype(float).ravel(), np.ones(n)])
    found = milp(
        cost,
        integrality=np.ones(len(cost)),
        bounds=Bounds(0, upper),
        constraints=LinearConstraint(rows, [*np.ones(n), *np.full(m, -np.inf)], [*np.ones(n), *room]),
        options={"node_limit": NODES},
    )
    if found.x is None:
        return [-1] * n
    taken = found.x[: n * m].reshape(n, m) > 0.5
    return [int(np.argmax(row)) if row.any() else -1 for row in taken]


def _distance(one: Piece, stretch: Stretch) -> float:
    """How far a join's middle is from its wish in a stretch; very far where it doesn't fit at all."""
    low, high = stretch[0] + one.half_m, stretch[1] - one.half_m
    if high < low - 1e-12:
        return 1e6
    return max(low - one.wish_m, one.wish_m - high, 0.0)


def _spread(stretch: Stretch, inside: list[Piece]) -> dict[str, float]:
    """Middles of the joins in one stretch, in the order of their wishes."""
    if not inside:
        return {}
    row = sorted(inside, key=lambda one: (one.wish_m, one.key))
    n = len(row)
    bounds = [(stretch[0] + one.half_m, max(stretch[1] - one.half_m, stretch[0] + one.half_m)) for one in row]
    own = [min(max(one.wish_m, low), high) for one, (low, high) in zip(row, bounds, strict=True)]
    apart = [before.half_m + one.half_m + APART_M for before, one in pairwise(row)]
    if all(two - one >= least for (one, two), least in zip(pairwise(own), apart, strict=True)):
        return {one.key: place for one, place in zip(row, own, strict=True)}
    from scipy.optimize import linprog

    # columns: place of each, then how far each is from its wish
    cost = np.concatenate([np.zeros(n), np.ones(n)])
    table, most = [], []
    for at, one in enumerate(row):
        for sign in (1.0, -1.0):
            line = np.zeros(2 * n)
            line[at], line[n + at] = sign, -1.0
            table.append(line)
            most.append(sign * one.wish_m)
        if at:
            line = np.zeros(2 * n)
            line[at - 1], line[at] = 1.0, -1.0
            table.append(line)
            most.append(-apart[at - 1])
    found = linprog(cost, np.array(table), np.array(most), bounds=[*bounds, *[(0, None)] * n])
    if found.x is None:
        here, at_m = stretch[0], {}
        for one in row:
            at_m[one.key] = here + one.half_m
            here += 2 * one.half_m + APART_M
        return at_m
    return {one.key: float(place) for one, place in zip(row, found.x[:n], strict=True)}
