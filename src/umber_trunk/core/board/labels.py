"""Texts put beside places where nothing lies yet: on paper in mm, on screen in pixels."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.grid import Box, Spot

"""Left, bottom, right, top: least first."""
TURNS = 16
"""Directions round a place in which a label is tried."""


class Labels:
    """What is taken up within bounds, and room for more beside it."""

    def __init__(self, bounds: Box) -> None:
        self.bounds = bounds
        self._boxes: NDArray[np.float64] = np.empty((0, 4))

    def take(self, boxes: Iterable[Box]) -> None:
        """Nothing is put there any more."""
        self._boxes = np.concatenate([self._boxes, np.array(list(boxes), dtype=float).reshape(-1, 4)])

    def take_line(self, line: Sequence[Spot], half: float, step: float) -> None:
        """Nothing is put within `half` of a line."""
        spots = [
            (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)
            for a, b in pairwise(line)
            for t in np.linspace(0.0, 1.0, max(1, math.ceil(math.dist(a, b) / step)) + 1).tolist()
        ]
        self.take((x - half, y - half, x + half, y + half) for x, y in spots)

    def put(self, at: Spot, wide: float, tall: float, reaches: Sequence[float], pad: float = 1.0) -> Spot | None:
        """The lower left corner of a text beside a place, as near as can be; None where there is no room at any
        reach."""
        far, boxes = max(reaches, default=0.0) + wide + tall + 2 * pad, self._boxes
        near = boxes[
            (boxes[:, 2] > at[0] - far)
            & (boxes[:, 3] > at[1] - far)
            & (boxes[:, 0] < at[0] + far)
            & (boxes[:, 1] < at[1] + far)
        ]
        low, high = near[:, :2], near[:, 2:]
        for reach in reaches:
            for turn in range(TURNS):
                angle = turn * 2 * math.pi / TURNS
                aside = wide if 4 < turn < 12 else wide / 2 if turn in (4, 12) else 0.0
                x, y = at[0] + reach * math.cos(angle) - aside, at[1] + reach * math.sin(angle) - tall / 2
                box = (x - pad, y - pad, x + wide + pad, y + tall + pad)
                if (
                    box[0] < self.bounds[0]
                    or box[1] < self.bounds[1]
                    or box[2] > self.bounds[2]
                    or box[3] > self.bounds[3]
                ):
                    continue
                if not ((low < box[2:]) & (high > box[:2])).all(axis=1).any():
                    self.take([box])
                    return x, y
        return None
