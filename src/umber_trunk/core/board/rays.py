"""What lies on the board, asked by rays: how far one can go from a point in each direction before coming too near anything."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Spot = tuple[float, float]

DIRECTIONS = 48
ANGLES: Floats = np.linspace(0.0, 2 * math.pi, DIRECTIONS, endpoint=False)
WAYS: Floats = np.round(np.column_stack([np.cos(ANGLES), np.sin(ANGLES)]), 15)
NARROWEST = math.cos(math.radians(11.0))
"""Cosine of the least angle between two limbs at one point."""


class World:
    """Pieces of lines and outlines on a board. A piece is kept clear of by `gap` beside its own half width; near the point a
    ray starts from less is asked, as much as there is. What has to be folded is folded into patches `compact` times as long as
    they would be square; after `patience` legs looked at nothing more is."""

    def __init__(self, width: float, height: float, margin: float, gap: float, compact: float, patience: int) -> None:
        self.low, self.high, self.gap = margin, (width - margin, height - margin), gap
        self.compact, self.patience = compact, patience
        self._rows = np.empty((256, 6))
        self._count = 0

    def mark(self) -> int:
        """How much lies here, to come back to."""
        return self._count

    def back(self, mark: int) -> None:
        """Takes away what was added since."""
        self._count = mark

    def add(self, a: Spot, b: Spot, half: float = 0.0, owner: int = -1) -> None:
        """A straight piece, its half width, and a number for what can be taken away again."""
        if self._count == len(self._rows):
            self._rows = np.concatenate([self._rows, np.empty_like(self._rows)])
        self._rows[self._count] = (*a, *b, half, owner)
        self._count += 1

    def add_line(self, line: Sequence[Spot], half: float = 0.0, owner: int = -1) -> None:
        """All pieces of a line of a half width."""
        for number in range(len(line) - 1):
            self.add(line[number], line[number + 1], half, owner)

    def take_away(self, owner: int) -> None:
        """Everything with this number."""
        rows = self._rows[: self._count]
        left = rows[rows[:, 5] != owner]
        self._rows[: len(left)] = left
        self._count = len(left)

    def nearest(self, start: Spot) -> list[int]:
        """Numbers of what could be taken away, the nearest to a point first."""
        rows = self._rows[: self._count]
        rows = rows[rows[:, 5] >= 0]
        along = rows[:, 2:4] - rows[:, :2]
        square = np.maximum((along**2).sum(1), 1e-12)
        t = np.clip(((np.array(start) - rows[:, :2]) * along).sum(1) / square, 0.0, 1.0)
        off = np.hypot(*(rows[:, :2] + t[:, None] * along - np.array(start)).T) - rows[:, 4]
        return list(dict.fromkeys(rows[np.argsort(off, kind="stable"), 5].astype(int).tolist()))

    def free(self, start: Spot, half: float = 0.0, ways: Floats = WAYS, reach: float = math.inf) -> Floats:
        """How far from a start in each direction (k,), nothing beyond `reach` looked at; 0 where a piece that meets it there is
        too near in angle."""
        p = np.array(start)
        rows = self._near(start, reach)
        found = np.minimum(self._to_edge(p, ways, half), reach)
        if not len(rows):
            return found
        a, b, width = rows[:, :2], rows[:, 2:4], rows[:, 4]
        along = b - a
        long = np.hypot(along[:, 0], along[:, 1])
        unit = along / np.maximum(long, 1e-12)[:, None]
        t = np.clip(((p - a) * unit).sum(1), 0.0, long)
        off = np.hypot(*(a + t[:, None] * unit - p).T)
        met = off < 1e-6
        for row in np.flatnonzero(met & (long > 1e-9)):
            for other in (a[row], b[row]):
                far = other - p
                size = math.hypot(far[0], far[1])
                if size > 1e-6:
                    found[ways @ (far / size) > NARROWEST] = 0.0
        away = ~met
        if not away.any():
            return found
        clear = np.minimum(self.gap + width[away] + half, 0.6 * off[away])
        hit = _first_hits(p, ways, a[away], unit[away], long[away], clear)
        result: Floats = np.minimum(found, hit)
        return result

    def _near(self, start: Spot, reach: float) -> Floats:
        """Pieces that a ray so long could come near to."""
        rows = self._rows[: self._count]
        if reach == math.inf:
            return rows
        out = reach + self.gap + 80.0
        x, y = start
        low = np.minimum(rows[:, :2], rows[:, 2:4])
        high = np.maximum(rows[:, :2], rows[:, 2:4])
        near = (low[:, 0] < x + out) & (high[:, 0] > x - out) & (low[:, 1] < y + out) & (high[:, 1] > y - out)
        found: Floats = rows[near]
        return found

    def _to_edge(self, p: Floats, ways: Floats, half: float) -> Floats:
        found = np.full(len(ways), np.inf)
        for axis in (0, 1):
            up, down = ways[:, axis] > 1e-12, ways[:, axis] < -1e-12
            found[up] = np.minimum(found[up], (self.high[axis] - half - p[axis]) / ways[up, axis])
            found[down] = np.minimum(found[down], (self.low + half - p[axis]) / ways[down, axis])
        result: Floats = np.maximum(found, 0.0)
        return result

    def clear(self, a: Spot, b: Spot, half: float) -> bool:
        """Whether a piece of a half width could lie here: nothing nearer than the halves together and a third of the gap."""
        rows = self._rows[: self._count]
        for x, y in (a, b):
            if not (self.low + half <= x <= self.high[0] - half and self.low + half <= y <= self.high[1] - half):
                return False
        if not len(rows):
            return True
        middle = (np.array(a) + np.array(b)) / 2
        reach = math.dist(a, b) / 2
        along = rows[:, 2:4] - rows[:, :2]
        long = np.hypot(along[:, 0], along[:, 1])
        unit = along / np.maximum(long, 1e-12)[:, None]
        t = np.clip(((middle - rows[:, :2]) * unit).sum(1), 0.0, long)
        off = np.hypot(*(rows[:, :2] + t[:, None] * unit - middle).T)
        return bool((off > rows[:, 4] + max(half, reach) + self.gap / 3).all())


def _first_hits(p: Floats, ways: Floats, a: Floats, unit: Floats, long: Floats, clear: Floats) -> Floats:
    """(k,) the least distance along each way at which a point is within `clear` (n,) of any of n pieces: circles round their
    ends, and lines beside them."""
    x, y = ways[:, :1], ways[:, 1:]
    square = clear**2
    start = a - p
    hits = np.full((len(ways), len(a)), np.inf)
    for to in (start, start + long[:, None] * unit):
        ahead = x * to[:, 0] + y * to[:, 1]
        under = square - (x * to[:, 1] - y * to[:, 0]) ** 2
        reach = ahead - np.sqrt(np.maximum(under, 0.0))
        np.minimum(hits, np.maximum(reach, 0.0), out=hits, where=(under > 0) & (ahead > 0))
    off = unit[:, 1] * start[:, 0] - unit[:, 0] * start[:, 1]
    towards = y * unit[:, 0] - x * unit[:, 1]
    towards[np.abs(towards) < 1e-15] = 1e-15
    t = (np.sign(off) * clear - off) / towards
    place = -(start * unit).sum(1) + t * (x * unit[:, 0] + y * unit[:, 1])
    good = (t >= 0) & (place >= 0) & (place <= long) & (np.sign(off) * towards < 0)
    np.minimum(hits, t, out=hits, where=good)
    found: Floats = hits.min(axis=1)
    return found
