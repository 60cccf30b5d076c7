"""Whether any two lines of a layout cross or lie on one another: looked at once more, whatever the layout promises."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.grid import Spot

Floats = NDArray[np.float64]
TOUCH_MM = 1e-6
"""Lines closer than this touch: the rounding of their ends."""


def pieces_of(lines: Mapping[str, Sequence[Spot]]) -> tuple[Floats, Floats, list[str]]:
    """(starts (n, 2), ends (n, 2), the segment of each) of all straight pieces that have a length."""
    rows, names = [], []
    for name, line in lines.items():
        for a, b in pairwise(line):
            if a != b:
                rows.append((*a, *b))
                names.append(name)
    table = np.array(rows, dtype=float).reshape(-1, 4)
    return table[:, :2], table[:, 2:], names


def crossings(lines: Mapping[str, Sequence[Spot]]) -> list[tuple[str, str]]:
    """Pairs of segments that meet anywhere but at a point they share; a segment that meets itself is a pair too."""
    start, end, names = pieces_of(lines)
    n = len(start)
    if n < 2:
        return []
    low, high = np.minimum(start, end) - TOUCH_MM, np.maximum(start, end) + TOUCH_MM
    near = np.ones((n, n), dtype=bool)
    for axis in (0, 1):
        near &= (low[:, None, axis] <= high[None, :, axis]) & (low[None, :, axis] <= high[:, None, axis])
    i, j = np.nonzero(np.triu(near, 1))
    a, b, c, d = start[i], end[i], start[j], end[j]

    def side(p: Floats, q: Floats, r: Floats) -> Floats:
        """Distance of r to the left of the line from p to q."""
        along = q - p
        found: Floats = (along[:, 0] * (r - p)[:, 1] - along[:, 1] * (r - p)[:, 0]) / np.hypot(along[:, 0], along[:, 1])
        return found

    ca, cb, ac, ad = side(a, b, c), side(a, b, d), side(c, d, a), side(c, d, b)
    meets = (np.minimum(ca, cb) <= TOUCH_MM) & (np.maximum(ca, cb) >= -TOUCH_MM)
    meets &= (np.minimum(ac, ad) <= TOUCH_MM) & (np.maximum(ac, ad) >= -TOUCH_MM)
    shared = np.zeros(len(i), dtype=bool)
    doubled = np.zeros(len(i), dtype=bool)
    for one, far_one in ((a, b), (b, a)):
        for other, far_other in ((c, d), (d, c)):
            same = np.hypot(*(one - other).T) <= 1e-5
            shared |= same
            # from one point in one direction: they lie on one another
            u, v = far_one - one, far_other - other
            cosine = (u * v).sum(1) / np.maximum(np.hypot(*u.T) * np.hypot(*v.T), 1e-12)
            doubled |= same & (cosine > 1 - 1e-9)
    wrong = meets & (~shared | doubled)
    return [(names[one], names[other]) for one, other in zip(i[wrong].tolist(), j[wrong].tolist(), strict=True)]
