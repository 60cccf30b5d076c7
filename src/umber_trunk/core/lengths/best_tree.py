"""The tree that fits a list of lengths best, as far as exchanges of neighbouring branches find it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.lengths.gaps import completed
from umber_trunk.core.lengths.trees import Floats, Tree, incidence, joined, least_squares, sides, swapped

EXCHANGES = 250
"""So many exchanges of neighbouring branches are tried."""
DERIVED = 0.05
"""What a length that only follows from the list weighs beside one that is listed."""


@dataclass(frozen=True)
class Rows:
    """A list in numbers: `pairs` (R, 2) of ends, `lengths_m` (R,), `trust` (R,) beside a listed length."""

    ends: int
    pairs: NDArray[np.int_]
    lengths_m: Floats
    trust: Floats

    @cached_property
    def weight(self) -> Floats:
        """Trust over each length, so that misfits are shares."""
        made: Floats = self.trust / np.maximum(self.lengths_m, 1e-3 * float(self.lengths_m.max()))
        return made

    @property
    def left_over(self) -> int:
        """How many lengths are left to check the others with: choosing a shape uses some up, as its segments do."""
        return len(self.pairs) - (2 * self.ends - 3) - max(0, self.ends - 3)

    def where(self, some: NDArray[np.bool_]) -> Rows:
        """Some of its lengths."""
        return Rows(self.ends, self.pairs[some], self.lengths_m[some], self.trust[some])

    def without(self, row: int) -> Rows:
        """With one length less."""
        return self.where(np.arange(len(self.pairs)) != row)


@dataclass(frozen=True)
class Fit:
    """A tree with the lengths that fit a list best: `wrong` is the sum of squared misfits, each as a share of its
    length."""

    tree: Tree
    edges: list[tuple[int, int]]
    long: Floats
    wrong: float

    @cached_property
    def sides(self) -> Floats:
        """(nodes, edges), as `trees.sides`."""
        return sides(self.tree, self.edges)

    def splits(self, ends: int) -> dict[bytes, int]:
        """split of the ends → number of its edge."""
        leaves = self.sides[:ends] > 0.5
        return {(column ^ column[0]).tobytes(): at for at, column in enumerate(leaves.T)}


def fitted(tree: Tree, rows: Rows) -> Fit:
    """The best lengths for one shape."""
    edges = tree.edges
    table = incidence(tree, edges, rows.pairs) * rows.weight[:, None]
    right = rows.lengths_m * rows.weight
    long = least_squares(table, right)
    return Fit(tree, edges, long, float(np.sum(np.square(table @ long - right))))


def best_tree(rows: Rows, wanted: Wanted, exchanges: int = EXCHANGES) -> tuple[Fit, NDArray[np.bool_]]:
    """(the tree with its lengths, which pairs of ends are listed or follow from the list by four ends)."""
    total, count = np.zeros((rows.ends, rows.ends)), np.zeros((rows.ends, rows.ends))
    for (i, j), length in zip(rows.pairs.tolist(), rows.lengths_m.tolist(), strict=True):
        for a, b in ((i, j), (j, i)):
            total[a, b] += length
            count[a, b] += 1
    listed = np.where(count > 0, total / np.maximum(count, 1), np.nan)
    np.fill_diagonal(listed, 0.0)
    whole, known = completed(listed, wanted)
    pairs = np.argwhere(np.triu(known, 1))
    one, other = pairs.T
    trust = np.where(count[one, other] > 0, 1.0, DERIVED)
    more = Rows(rows.ends, pairs, whole[one, other], trust)
    found = _exchanged(fitted(joined(whole, wanted), more), more, wanted, exchanges)
    return fitted(found.tree, rows), known


def _exchanged(fit: Fit, rows: Rows, wanted: Wanted, most: int) -> Fit:
    """Neighbouring branches swapped across a segment, the shortest first, as long as the list fits better for it."""
    tree, tried, better = fit.tree, 0, True
    while better and tried < most and fit.wrong > 1e-12:
        better = False
        inner = sorted(
            (float(long), a, b) for (a, b), long in zip(fit.edges, fit.long, strict=True) if min(a, b) >= tree.leaves
        )
        for _, a, b in inner:
            one = min(tree.near[a] - {b})
            for other in sorted(tree.near[b] - {a}):
                go_on_if(wanted)
                tried += 1
                swapped(tree, a, one, b, other)
                made = fitted(tree, rows)
                if made.wrong < fit.wrong * (1 - 1e-6):
                    fit, better = made, True
                    break
                swapped(tree, a, other, b, one)
            if better or tried >= most:
                break
    return fit
