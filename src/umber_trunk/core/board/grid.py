"""What lies on a board, kept as bits of whole numbers: one number a row of small squares, and one a column.

A row with a band asked for costs one "and", however long the band is, and how far one can go from a place in one of the
four directions is the lowest (or highest) bit set beyond it:

    row 7   0000111100000000     a limb lies there
    asked   0111110000000000     "and" of both isn't 0: taken

Squares are half a gap wide. Whatever lies there takes its own half width and half a gap round it, rounded outward, so
that two things whose squares don't touch are a whole gap apart.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise
from math import ceil, floor

from umber_trunk.core.strokes import Box as Box
from umber_trunk.core.strokes import Spot as Spot

Way = tuple[int, int]
MOST_SQUARES = 4000
"""Squares across a grid at most."""
"""Left, bottom, right, top in mm."""

EAST, NORTH, WEST, SOUTH = WAYS = ((1, 0), (0, 1), (-1, 0), (0, -1))
"""The ways a limb may run, as steps of the grid, turning left from one to the next."""
NEARLY = 1e-6
"""Share of a square that rounding may lose."""


class Grid:
    """Squares of `cell` mm on a board of `width` × `height` mm; `looks` counts what was asked of it."""

    def __init__(self, width: float, height: float, cell: float) -> None:
        self.cell = cell
        self.columns, self.rows = max(int(width / cell + NEARLY), 1), max(int(height / cell + NEARLY), 1)
        self.width, self.height = self.columns * cell, self.rows * cell
        self.looks = 0
        self.empty()

    def empty(self) -> None:
        """Nothing lies here any more."""
        self._by_row = [0] * self.rows
        self._by_column = [0] * self.columns

    def widen(self, columns: int, rows: int) -> None:
        """So many squares more to the right and above."""
        self._by_column += [0] * columns
        self._by_row += [0] * rows
        self.columns, self.rows = self.columns + columns, self.rows + rows
        self.width, self.height = self.columns * self.cell, self.rows * self.cell

    def mark(self) -> tuple[list[int], list[int]]:
        """What lies here, to come back to."""
        return self._by_row.copy(), self._by_column.copy()

    def back(self, mark: tuple[list[int], list[int]]) -> None:
        """As it was."""
        self._by_row, self._by_column = mark[0].copy(), mark[1].copy()

    def _span(self, low: float, high: float) -> tuple[int, int]:
        """(first, last) squares that a stretch of an axis lies on."""
        return floor(low / self.cell + NEARLY), ceil(high / self.cell - NEARLY) - 1

    def clear(self, box: Box) -> bool:
        """Whether nothing lies in a box, and it lies on the board."""
        self.looks += 1
        left, right = self._span(box[0], box[2])
        low, high = self._span(box[1], box[3])
        if left < 0 or low < 0 or right >= self.columns or high >= self.rows:
            return False
        if right - left < high - low:
            mask = ((1 << (high - low + 1)) - 1) << low
            return not any(taken & mask for taken in self._by_column[left : right + 1])
        mask = ((1 << (right - left + 1)) - 1) << left
        return not any(taken & mask for taken in self._by_row[low : high + 1])

    def taken_in(self, box: Box) -> float:
        """Which share of a box is taken; what isn't on the board counts as taken."""
        self.looks += 1
        left, right = self._span(box[0], box[2])
        low, high = self._span(box[1], box[3])
        whole = max((right - left + 1) * (high - low + 1), 1)
        left, low, right, high = max(left, 0), max(low, 0), min(right, self.columns - 1), min(high, self.rows - 1)
        if right < left or high < low:
            return 1.0
        lines, first, last, start, many = (
            (self._by_column, left, right, low, high - low + 1)
            if right - left < high - low
            else (self._by_row, low, high, left, right - left + 1)
        )
        mask = ((1 << many) - 1) << start
        taken = sum((line & mask).bit_count() for line in lines[first : last + 1])
        return 1.0 - ((right - left + 1) * (high - low + 1) - taken) / whole

    def take(self, box: Box) -> None:
        """A box is taken, as far as it lies on the board."""
        left, right = self._span(box[0], box[2])
        low, high = self._span(box[1], box[3])
        left, low, right, high = max(left, 0), max(low, 0), min(right, self.columns - 1), min(high, self.rows - 1)
        if right < left or high < low:
            return
        across, up = ((1 << (right - left + 1)) - 1) << left, ((1 << (high - low + 1)) - 1) << low
        for row in range(low, high + 1):
            self._by_row[row] |= across
        for column in range(left, right + 1):
            self._by_column[column] |= up

    def run(self, at: Spot, way: Way, half: float) -> float:
        """How far a band of a half width is free from a place on, in mm; to the board's edge at most."""
        self.looks += 1
        x, y = at if way[0] else (at[1], at[0])
        lines, many = (self._by_row, self.rows) if way[0] else (self._by_column, self.columns)
        edge = self.width if way[0] else self.height
        first, last = self._span(y - half, y + half)
        if first < 0 or last >= many or not -NEARLY <= x <= edge + NEARLY:
            return 0.0
        taken = 0
        for line in lines[first : last + 1]:
            taken |= line
        if way[0] + way[1] > 0:
            at_cell = floor(x / self.cell + NEARLY)
            beyond = taken >> at_cell
            return edge - x if not beyond else max((at_cell + (beyond & -beyond).bit_length() - 1) * self.cell - x, 0.0)
        before = taken & ((1 << ceil(x / self.cell - NEARLY)) - 1)
        return x if not before else max(x - before.bit_length() * self.cell, 0.0)

    def up_to(self, at: float) -> float:
        """The next line between squares at or beyond a place on an axis."""
        return ceil(at / self.cell - NEARLY) * self.cell


def boxes_of(line: Sequence[Spot], half: float, step: float) -> Iterable[Box]:
    """Boxes that hold a line of a half width: one a level or upright piece, many short ones along a slanted one."""
    for a, b in pairwise(line):
        parts = 1 if abs(a[0] - b[0]) < NEARLY or abs(a[1] - b[1]) < NEARLY else max(1, ceil(math.dist(a, b) / step))
        for part in range(parts):
            x, y = a[0] + (b[0] - a[0]) * part / parts, a[1] + (b[1] - a[1]) * part / parts
            u, v = a[0] + (b[0] - a[0]) * (part + 1) / parts, a[1] + (b[1] - a[1]) * (part + 1) / parts
            yield min(x, u) - half, min(y, v) - half, max(x, u) + half, max(y, v) + half


def along(at: Spot, way: Way, far: float) -> Spot:
    """The place so far on in a direction."""
    return at[0] + way[0] * far, at[1] + way[1] * far


def block(at: Spot, way: Way, far: float, low: float, high: float) -> Box:
    """The box from a place so far on in a direction, from `low` to `high` beside it (to the left of the direction is
    more)."""
    x, y = along(at, way, far)
    aside = (-way[1], way[0])
    xs = (at[0] + aside[0] * low, at[0] + aside[0] * high, x + aside[0] * low, x + aside[0] * high)
    ys = (at[1] + aside[1] * low, at[1] + aside[1] * high, y + aside[1] * low, y + aside[1] * high)
    return min(xs), min(ys), max(xs), max(ys)
