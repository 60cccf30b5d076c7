"""A length that all others of a list contradict: without it they fit so much better than any other's absence makes
them.

The question is asked of whole fits, each with its own shape, since one wrong length bends the tree it is fitted with.
Which lengths are tried is told by the misfits of the best tree and by fours of ends: of the three sums of opposite
lengths the two larger are equal, and a wrong length spoils most of the fours it is in.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.lengths.best_tree import Fit, Rows, best_tree
from umber_trunk.core.lengths.trees import Floats, incidence

CONTRADICTED, LEAST_OFF, ALIKE = 30.0, 0.05, 2.0
"""A length is suspect where all others fit so many times better without it (F of one degree), it is off by so large a
share, and no other's absence does as well within so many times."""
LEAST_FREE, TRIED, FEWER = 2, 6, 40
"""So many lengths must be left to check the others with; so many of them are tried, each with so many exchanges."""
FOURS = 4000
"""Fours of ends that are tried in all for which listed length is off."""


@dataclass(frozen=True)
class Sifted:
    """A list without what it contradicts: its best tree, which pairs follow, the row left out, or rows one of which
    must be wrong."""

    rows: Rows
    fit: Fit
    known: NDArray[np.bool_]
    row: int | None = None
    either: tuple[int, ...] = ()


def suspect_of(rows: Rows, wanted: Wanted) -> Sifted:
    """The list's best tree, one wrong length left out if there is one and the others tell which."""
    fit, known = best_tree(rows, wanted)
    plain = Sifted(rows, fit, known)
    off = _misfits(fit, rows)
    free = rows.left_over
    if free <= LEAST_FREE or float(np.abs(off).max()) < 0.25 * LEAST_OFF:
        return plain
    worst = np.argsort(-np.abs(off), kind="stable")[:TRIED]
    spoilt = np.argsort(-_spoilt(rows), kind="stable")[:TRIED]
    tried: list[tuple[float, int, Fit, NDArray[np.bool_]]] = []
    for row in dict.fromkeys([*worst.tolist(), *spoilt.tolist()]):
        go_on_if(wanted)
        less = rows.without(row)
        if _whole(less):
            made, follows = best_tree(less, wanted, FEWER)
            tried.append((made.wrong, row, made, follows))
    tried.sort(key=lambda one: one[:2])
    if not tried:
        return plain
    least, row, made, follows = tried[0]
    better = (fit.wrong - least) / max(least / (free - 1), 1e-9)
    if better < CONTRADICTED:
        return plain
    alike = tuple(sorted(one[1] for one in tried if one[0] <= ALIKE * least + 1e-9))
    if len(alike) > 1:
        return Sifted(rows, fit, known, None, alike)
    if abs(float(_misfits(made, rows)[row])) < LEAST_OFF:
        return plain
    return Sifted(rows.without(row), made, follows, row)


def _misfits(fit: Fit, rows: Rows) -> Floats:
    """(rows,): how much longer the tree makes each, as a share."""
    made: Floats = (incidence(fit.tree, fit.edges, rows.pairs) @ fit.long - rows.lengths_m) * rows.weight
    return made


def _whole(rows: Rows) -> bool:
    """Whether its lengths still join all ends."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    i, j = rows.pairs.T
    joined = coo_array((np.ones(len(i)), (i, j)), shape=(rows.ends, rows.ends))
    return int(connected_components(joined, directed=False)[0]) == 1


def _spoilt(rows: Rows) -> Floats:
    """(rows,): the median share by which the fours a row is in are off; 0 where it is in none."""
    number = {}
    for at, (i, j) in enumerate(rows.pairs.tolist()):
        number[i, j] = number[j, i] = at
    near: dict[int, set[int]] = {}
    for i, j in number:
        near.setdefault(i, set()).add(j)
    draw = np.random.default_rng(13)
    shares: list[list[float]] = [[] for _ in rows.lengths_m]
    each = max(4, FOURS // len(rows.pairs))
    for at, (i, j) in enumerate(rows.pairs.tolist()):
        both = sorted(near[i] & near[j])
        for k in draw.permutation(len(both))[:each].tolist():
            others = [m for m in both if m > both[k] and m in near[both[k]]]
            for m in others[:2]:
                six = [number[pair] for pair in ((i, j), (both[k], m), (i, both[k]), (j, m), (i, m), (j, both[k]))]
                sums = np.sort(rows.lengths_m[six].reshape(3, 2).sum(axis=1))
                shares[at].append(float((sums[2] - sums[1]) / sums[2]))
    return np.array([np.median(some) if some else 0.0 for some in shares])
