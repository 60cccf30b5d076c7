"""What is drawn of a board so far, and where along its limbs a thing lies.

Every place is told by a segment and how far it is from the segment's a-side; a limb that is wound up has a stretch
without a place:

    a ───────╮╭───── b        0 … begun: on the line; begun … begun + long: on the reel; beyond: on the line again
             ◎
All in mm from the board's lower left corner, y up.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from umber_trunk.core.board.fold import Folded
from umber_trunk.core.board.labels import Labels
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results
from umber_trunk.core.strokes import Ring, Shape, Spot, Words, wide_of


@dataclass(frozen=True)
class Peg:
    """A place to mark with a tape: what goes there, from the board's lower left corner, and how far along the trunk and
    the limbs from the zero."""

    what: str
    name: str
    x_mm: float
    y_mm: float
    along_mm: float | None
    more: str = ""


class Draft:
    """A board being drawn: how it is laid, the shapes and pegs so far, where labels still have room."""

    def __init__(self, results: Results, laid: Folded) -> None:
        self.results, self.laid = results, laid
        self.design, self.index = results.design, index_of(results.design)
        self.shapes: list[Shape] = []
        self.pegs: list[Peg] = []
        width, height = laid.size
        self.labels = Labels((1.0, 1.0, width - 1.0, height - 1.0))
        self.limbs = results.once(dressed)
        self.thick = widths(results)

    def along(self) -> dict[str, float]:
        """How far each point is along the limbs from the trunk's first point, the zero of the running dimensions."""
        ends = [{self.index.segments[name].a, self.index.segments[name].b} for name in self.laid.trunk[:2]]
        zero = sorted(ends[0] - ends[1]) if len(ends) > 1 else [self.index.segments[name].a for name in self.laid.trunk]
        found: dict[str, float] = {}
        for start in [*zero, *self.laid.spots]:  # a further tree has its own zero
            if start in found:
                continue
            found[start] = 0.0
            queue = [start]
            for here in queue:
                for segment, other in self.index.neighbours[here]:
                    if other not in found and segment in self.laid.lines:
                        found[other] = found[here] + 1e3 * self.index.segments[segment].measure.length_m
                        queue.append(other)
        return found

    def at(self, segment: str, far: float) -> tuple[Spot, Spot] | None:
        """(place, direction) so far along a segment from its a-side; None within what is wound up."""
        reel, whole = self.laid.reels.get(segment), 1e3 * self.index.segments[segment].measure.length_m
        line = self.laid.lines[segment]
        if reel is not None:
            begun = self.reel_from(segment)
            if begun < far < begun + reel.long_mm:
                return None
            far = far - reel.long_mm if far >= begun + reel.long_mm else far
            whole -= reel.long_mm
        rest = min(max(far, 0.0), whole)
        for a, b in pairwise(line):
            step = math.dist(a, b)
            if step > 0 and rest <= step + 1e-6:
                way = ((b[0] - a[0]) / step, (b[1] - a[1]) / step)
                return (a[0] + way[0] * rest, a[1] + way[1] * rest), way
            rest -= step
        return None

    def reel_from(self, segment: str) -> float:
        """How far from its a-side what is wound up begins."""
        reel, open_mm = self.laid.reels[segment], sum(math.dist(a, b) for a, b in pairwise(self.laid.lines[segment]))
        nearest = min(
            range(21), key=lambda step: math.dist(along_line(self.laid.lines[segment], open_mm * step / 20), reel.at)
        )
        return open_mm * nearest / 20

    @property
    def spliced(self) -> bool:
        """Whether any splice lies on it."""
        return any(end.join is not None for end in self.design.ends)

    def peg(self, what: str, name: str, at: Spot, along: float | None, radius: float, more: str = "") -> None:
        """A peg, told in the table and drawn as a ring."""
        self.pegs.append(Peg(what, name, at[0], at[1], along, more))
        self.shapes.append(Ring("fixtures", at, radius, f"{what} {name}"))

    def placed(self, layer: str, at: Spot, text: str, tall: float, off: float) -> None:
        """Text beside a place, where there is room for it on the board."""
        spot = self.labels.put(at, wide_of(text, tall), tall, [off + more for more in (0, 6, 14, 26, 40)])
        if spot is not None:
            self.shapes.append(Words(layer, spot, text, tall))


def along_line(line: Sequence[Spot], far: float) -> Spot:
    """The place so far along a line."""
    for a, b in pairwise(line):
        step = math.dist(a, b)
        if step > 0 and far <= step:
            return a[0] + (b[0] - a[0]) * far / step, a[1] + (b[1] - a[1]) * far / step
        far -= step
    return line[-1]


def widths(results: Results) -> dict[str, float]:
    """How thick each limb is, in mm, with what covers it; to a hundredth, so that every machine draws the same
    board."""
    return {limb.segment: round(limb.outside_mm, 2) for limb in results.once(dressed).values()}
