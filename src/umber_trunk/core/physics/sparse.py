"""SciPy's sparse parts behind a door: they take longer to load than a window to open, so they are when first used."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csc_matrix

Ints = NDArray[np.intp]
MOST_WHOLE = 200
"""Unknowns up to which a system is solved whole: that takes about as long as sparse then, without loading SciPy."""


def components(heads: Ints | Sequence[int], tails: Ints | Sequence[int], nodes: int) -> tuple[int, Ints]:
    """(count, the component of each node) of a graph with these edges, whichever way they point.

    Every node takes the least number it hears of: its own, a neighbour's, that of who is named by it. In NumPy, since
    loading SciPy's graphs is a good part of what a command takes."""
    head, tail = np.asarray(heads, dtype=np.intp), np.asarray(tails, dtype=np.intp)
    least = np.arange(nodes)
    while True:
        lower = np.minimum(least[head], least[tail])
        heard = least.copy()
        np.minimum.at(heard, least[head], lower)
        np.minimum.at(heard, least[tail], lower)
        heard = heard[heard]
        if np.array_equal(heard, least):
            break
        least = heard
    named, side = np.unique(least, return_inverse=True)
    return len(named), side


def rings(heads: Ints, tails: Ints, nodes: int) -> Ints:
    """The ring of each node: those that reach one another along the edges are of one (SciPy's strong components)."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    graph = coo_matrix((np.ones(len(heads)), (heads, tails)), shape=(nodes, nodes))
    side: Ints = connected_components(graph, directed=True, connection="strong")[1]
    return side


def columns(entries: Any, shape: tuple[int, int]) -> csc_matrix:
    """A matrix by columns, from another one or from (values, (rows, columns))."""
    from scipy.sparse import csc_matrix

    return csc_matrix(entries, shape=shape)


def solved(entries: tuple[Any, tuple[Ints, Ints]], rows: int, side: Any) -> Any:
    """x of A·x = side for a nearly symmetric A with a strong diagonal, its entries (values, (rows, columns)) added up
    where they fall together. A small one whole (LAPACK), a large one sparse (SuperLU): that depends on its size alone,
    so that an answer never does on what was loaded before."""
    if rows <= MOST_WHOLE:
        values, places = entries
        whole = np.zeros((rows, rows), dtype=values.dtype)
        np.add.at(whole, places, values)
        return np.linalg.solve(whole, side)
    from scipy.sparse.linalg import splu

    return splu(columns(entries, (rows, rows)), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.01).solve(side)
