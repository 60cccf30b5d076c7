"""What is laid on a board so far: where each limb goes, and what lies at its end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from umber_trunk.core.board.grid import Box, Spot, boxes_of
from umber_trunk.core.board.limbs import Branch, Laid, Reel, Tip
from umber_trunk.core.board.pieces import turns


@dataclass
class Grown:
    """What is laid. `lines`: segment → points from the laid end on; `ways`: point → the direction its segment ends in;
    `folds` and `corners`: (segment, where), two corners of a turn back being one fold; `boxes`: what each takes up."""

    lines: dict[str, list[Spot]] = field(default_factory=dict)
    spots: dict[str, Spot] = field(default_factory=dict)
    ways: dict[str, Spot] = field(default_factory=dict)
    folds: list[tuple[str, Spot]] = field(default_factory=list)
    corners: list[tuple[str, Spot]] = field(default_factory=list)
    reels: dict[str, Reel] = field(default_factory=dict)
    boxes: dict[str, tuple[Box, ...]] = field(default_factory=dict)
    spans: dict[str, Box] = field(default_factory=dict)
    unkept: list[str] = field(default_factory=list)
    clear: dict[str, float] = field(default_factory=dict)

    def put(self, one: Branch, laid: Laid, clear: float) -> None:
        """A limb lies there."""
        self.lines[one.segment], self.boxes[one.segment] = list(laid.line), laid.boxes
        xs, ys = [x for x, _ in laid.line], [y for _, y in laid.line]
        self.spans[one.segment] = (min(xs), min(ys), max(xs), max(ys))
        self.spots[one.end], self.ways[one.end] = laid.line[-1], laid.way
        self.clear[one.start] = max(self.clear.get(one.start, 0.0), clear)
        self.clear[one.end] = max(self.clear.get(one.end, 0.0), clear)
        if laid.reel is not None:
            self.reels[one.segment] = laid.reel
        self.corners += [(one.segment, spot) for spot in laid.corners]
        self.folds += [(one.segment, spot) for spot in turns(laid.corners)]

    def moved(self, dx: float, dy: float) -> Grown:
        """All of it elsewhere."""

        def at(spot: Spot) -> Spot:
            return spot[0] + dx, spot[1] + dy

        return Grown(
            {name: [at(spot) for spot in line] for name, line in self.lines.items()},
            {point: at(spot) for point, spot in self.spots.items()},
            dict(self.ways),
            [(name, at(spot)) for name, spot in self.folds],
            [(name, at(spot)) for name, spot in self.corners],
            {name: replace(reel, at=at(reel.at)) for name, reel in self.reels.items()},
            unkept=list(self.unkept),
        )

    def take(self, other: Grown) -> None:
        """Another tree beside this."""
        self.lines |= other.lines
        self.spots |= other.spots
        self.ways |= other.ways
        self.reels |= other.reels
        self.folds += other.folds
        self.corners += other.corners

    def drop(self, one: Branch) -> None:
        """A limb that carries nothing is taken away again; what it asked of its point stays asked."""
        del self.lines[one.segment], self.spots[one.end], self.ways[one.end], self.boxes[one.segment]
        self.reels.pop(one.segment, None)
        for rows in (self.folds, self.corners):
            rows[:] = [row for row in rows if row[0] != one.segment]
        self.unkept[:] = [name for name in self.unkept if name != one.segment]


AHEAD = (1.0, 0.0)
"""The direction of what hangs on nothing."""


def tip_boxes(grown: Grown, tips: Mapping[str, Tip], clear: float, cell: float) -> list[Box]:
    """Boxes over what lies at ends, with so much clear round it."""
    found: list[Box] = []
    for point, tip in tips.items():
        if tip.wide_mm and point in grown.spots:
            (x, y), (u, v) = grown.spots[point], grown.ways.get(point, AHEAD)
            found += boxes_of([(x, y), (x + u * tip.deep_mm, y + v * tip.deep_mm)], tip.wide_mm / 2 + clear, cell)
    return found
