"""Straight pieces of lines on a board: how far apart they are, where a line of them is folded."""

from __future__ import annotations

import math
from collections.abc import Sequence

from umber_trunk.core.board.grid import Box, Spot


def turns(corners: Sequence[Spot]) -> list[Spot]:
    """Where a line is folded; the two corners of a turn back are one fold."""
    found: list[Spot] = []
    before: Spot | None = None
    for corner in corners:
        if before is not None and math.dist(before, corner) < 80:
            before = None
            continue
        found.append(corner)
        before = corner
    return found


def to_box(at: Spot, box: Box) -> float:
    """From a place to a box."""
    return math.hypot(max(box[0] - at[0], at[0] - box[2], 0.0), max(box[1] - at[1], at[1] - box[3], 0.0))


def go_together(a: Spot, b: Spot, c: Spot, d: Spot) -> bool:
    """Whether two pieces that share a place go the same way from it."""
    here = a if a in (c, d) else b
    u = (b[0] - a[0], b[1] - a[1]) if here == a else (a[0] - b[0], a[1] - b[1])
    v = (d[0] - c[0], d[1] - c[1]) if here == c else (c[0] - d[0], c[1] - d[1])
    long = math.hypot(*u) * math.hypot(*v)
    return long > 0 and (u[0] * v[0] + u[1] * v[1]) / long > 0.985


def gap_between(a: Spot, b: Spot, c: Spot, d: Spot) -> float:
    """The distance between two straight pieces, 0 where they cross."""

    def turn(p: Spot, q: Spot, r: Spot) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    if turn(a, b, c) * turn(a, b, d) < 0 and turn(c, d, a) * turn(c, d, b) < 0:
        return 0.0
    return min(_to_piece(a, c, d), _to_piece(b, c, d), _to_piece(c, a, b), _to_piece(d, a, b))


def _to_piece(p: Spot, a: Spot, b: Spot) -> float:
    x, y = b[0] - a[0], b[1] - a[1]
    square = x * x + y * y
    t = 0.0 if square == 0 else max(0.0, min(1.0, ((p[0] - a[0]) * x + (p[1] - a[1]) * y) / square))
    return math.hypot(p[0] - a[0] - t * x, p[1] - a[1] - t * y)
