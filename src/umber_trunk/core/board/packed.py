"""A trunk laid in rows with all that lies upon them, while it is looked at: which row a spot lies on, how far apart the
rows have to be."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.grid import EAST, Spot
from umber_trunk.core.board.piles import CELL_MM, OUTSIDE_MM, Pile


@dataclass
class Packed:
    """The trunk's rows as they lie, and what is piled upon them: by (leg of the trunk, 0 to the north or east, 1 to the
    south or west)."""

    rows: list[tuple[Spot, Spot]]
    piles: dict[tuple[int, int], Pile]
    pieces: list[list[Spot]]
    corners: list[Spot]
    least: list[float]
    spans: list[tuple[float, float, float, float]] = field(default_factory=list)
    """Left, right, low and high of each row."""

    def __post_init__(self) -> None:
        self.spans = [(min(a[0], b[0]), max(a[0], b[0]), min(a[1], b[1]), max(a[1], b[1])) for a, b in self.rows]

    def needed(self) -> list[float]:
        """How far apart each two rows have to be for what lies between them."""
        found = []
        for leg in range(0, len(self.rows) - 2, 2):
            low, high = self._by_x(leg, 0), self._by_x(leg + 2, 1)
            size = max(len(low), len(high))
            both = np.zeros(size)
            both[: len(low)] += low
            both[: len(high)] += high
            found.append(max(float(both.max()) if size else 0.0, self.least[leg // 2]))
        return found

    def _by_x(self, leg: int, side: int) -> NDArray[np.float64]:
        """The heights upon a side of a row by squares from the left, a square on each side given to both."""
        pile = self.piles[leg, side]
        x0 = pile.shelf.start[0]
        first = x0 - OUTSIDE_MM if pile.shelf.flow == EAST else x0 + OUTSIDE_MM - len(pile.sky) * CELL_MM
        sky = pile.sky if pile.shelf.flow == EAST else pile.sky[::-1]
        shift = math.floor((first + 2 * OUTSIDE_MM) / CELL_MM)
        wide = sky.copy()
        np.maximum(wide[:-1], sky[1:], out=wide[:-1])
        np.maximum(wide[1:], sky[:-1], out=wide[1:])
        return np.concatenate([np.zeros(max(shift, 0)), wide[max(-shift, 0) :]])

    def leg_of(self, spot: Spot) -> int:
        """The leg of the trunk that a point lies on, a level one where it lies in an arc."""
        best, least, (x, y) = 0, math.inf, spot
        for leg, (left, right, low, high) in enumerate(self.spans):
            across = left - x if x < left else x - right if x > right else 0.0
            up = low - y if y < low else y - high if y > high else 0.0
            off = math.hypot(across, up) + (0.01 if leg % 2 else 0.0)
            if not off:
                return leg
            if off < least:
                best, least = leg, off
        return best


def middle_of(piece: Sequence[Spot]) -> tuple[Spot, Spot]:
    """The middle of a line, and the direction there."""
    rest = sum(math.dist(a, b) for a, b in pairwise(piece)) / 2
    for a, b in pairwise(piece):
        far = math.dist(a, b)
        if rest <= far and far > 0:
            way = ((b[0] - a[0]) / far, (b[1] - a[1]) / far)
            return (a[0] + way[0] * rest, a[1] + way[1] * rest), way
        rest -= far
    return piece[-1], (1.0, 0.0)


def last_way(line: Sequence[Spot]) -> Spot:
    """The direction a line ends in."""
    for a, b in pairwise(line[::-1]):
        far = math.dist(a, b)
        if far > 1e-9:
            return (a[0] - b[0]) / far, (a[1] - b[1]) / far
    return (1.0, 0.0)
