"""Unrooted trees of ends while they are worked on: their shape from distances, their ways as a matrix, their lengths.

Neighbour joining (N. Saitou, M. Nei 1987) finds a shape from a whole table of distances; lengths are least squares
without negative ones. Every tree here has its ends at leaves; a point where an end lies on the way is a leaf on a twig
of no length.

        a        c          split of the middle segment: {a, b} | {c, d}
         \\      /           way a–c: its row of `incidence` has a one for each segment on it
          x----y
         /      \\
        b        d
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, go_on_if

Floats = NDArray[np.float64]


@dataclass
class Tree:
    """An unrooted tree while it is worked on: leaves are 0…n−1, further nodes come after; `near` are neighbours."""

    leaves: int
    near: dict[int, set[int]] = field(default_factory=lambda: defaultdict(set))

    def join(self, a: int, b: int) -> None:
        self.near[a].add(b)
        self.near[b].add(a)

    def part(self, a: int, b: int) -> None:
        self.near[a].discard(b)
        self.near[b].discard(a)

    @property
    def edges(self) -> list[tuple[int, int]]:
        return sorted((a, b) for a, others in self.near.items() for b in others if a < b)


def joined(table: Floats, wanted: Wanted) -> Tree:
    """Neighbour joining on a whole table of distances."""
    n = len(table)
    tree = Tree(n)
    if n == 1:
        return tree
    active, far = list(range(n)), table.astype(float)
    names = list(range(n))
    fresh = n
    while len(active) > 3:
        go_on_if(wanted)
        m = len(active)
        d = far[np.ix_(active, active)]
        total = d.sum(axis=1)
        score = (m - 2) * d - total[:, None] - total[None, :]
        np.fill_diagonal(score, np.inf)
        i, j = np.unravel_index(int(np.argmin(score)), score.shape)
        a, b = active[i], active[j]
        tree.join(names[a], fresh)
        tree.join(names[b], fresh)
        row = 0.5 * (far[a] + far[b] - far[a, b])
        far[a], far[:, a] = row, row
        far[a, a] = 0.0
        names[a] = fresh
        active.remove(b)
        fresh += 1
    if len(active) == 3:
        for one in active:
            tree.join(names[one], fresh)
    elif len(active) == 2:
        tree.join(names[active[0]], names[active[1]])
    return tree


def swapped(tree: Tree, a: int, one: int, b: int, other: int) -> None:
    """`one`, hung on a, and `other`, hung on b, change places."""
    tree.part(a, one)
    tree.part(b, other)
    tree.join(a, other)
    tree.join(b, one)


def sides(tree: Tree, edges: Sequence[tuple[int, int]]) -> Floats:
    """(nodes, edges): one where a node lies beyond an edge as seen from the first edge's first node. A column is that
    edge's split."""
    if not edges:
        return np.zeros((max(tree.near, default=0) + 1, 0))
    number = {edge: at for at, edge in enumerate(edges)}
    root = edges[0][0]
    above: dict[int, tuple[int, int]] = {}
    order, seen = [root], {root}
    for node in order:
        for other in tree.near[node]:
            if other not in seen:
                seen.add(other)
                above[other] = (node, number[min(node, other), max(node, other)])
                order.append(other)
    ways = np.zeros((max(order) + 1, len(edges)))
    for node in order[1:]:
        parent, edge = above[node]
        ways[node] = ways[parent]
        ways[node, edge] = 1.0
    return ways


def incidence(
    tree: Tree, edges: Sequence[tuple[int, int]], pairs: Sequence[tuple[int, int]] | NDArray[np.int_]
) -> Floats:
    """(pairs, edges): which edges lie on the way of each pair."""
    ways = sides(tree, edges)
    both = np.asarray(pairs, dtype=int).reshape(-1, 2)
    found: Floats = np.abs(ways[both[:, 0]] - ways[both[:, 1]])
    return found


def least_squares(table: Floats, lengths: Floats) -> Floats:
    """Lengths of the edges, none negative; of many answers the one with the least lengths."""
    if not table.shape[1]:
        return np.zeros(0)
    from scipy.linalg import LinAlgError, cho_solve, cholesky, solve_triangular

    square, right = table.T @ table, table.T @ lengths
    scale = float(np.trace(square)) / len(square)
    try:
        root = cholesky(square + 1e-13 * scale * np.eye(len(square)), check_finite=False)
        free = cho_solve((root, False), right, check_finite=False)
        free += cho_solve((root, False), right - square @ free, check_finite=False)
    except LinAlgError:
        free = np.linalg.lstsq(table, lengths, rcond=None)[0]
    if free.min() >= -1e-7:
        result: Floats = np.maximum(free, 0.0)
        return result
    from scipy.optimize import nnls

    root = cholesky(square + 1e-12 * scale * np.eye(len(square)), check_finite=False)
    found: Floats = nnls(root, solve_triangular(root, right, trans=1, check_finite=False), maxiter=50 * len(square))[0]
    return found
