"""SciPy's sparse parts behind a door: they take longer to load than a window to open, so they are when first used."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csc_matrix

Ints = NDArray[np.intp]


def components(
    heads: Ints | Sequence[int], tails: Ints | Sequence[int], nodes: int, strong: bool = False
) -> tuple[int, Ints]:
    """(count, the component of each node) of a graph with these edges; `strong`: along the edges only."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    graph = coo_matrix((np.ones(len(heads)), (heads, tails)), shape=(nodes, nodes))
    count, side = connected_components(graph, directed=strong, connection="strong" if strong else "weak")
    return int(count), side


def columns(entries: Any, shape: tuple[int, int]) -> csc_matrix:
    """A matrix by columns, from another one or from (values, (rows, columns))."""
    from scipy.sparse import csc_matrix

    return csc_matrix(entries, shape=shape)


def factored(matrix: csc_matrix) -> Any:
    """LU factors of a nearly symmetric matrix with a strong diagonal (SuperLU)."""
    from scipy.sparse.linalg import splu

    return splu(matrix, permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.01)
