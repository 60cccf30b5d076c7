"""What is piled upon a straight side of the trunk: each limb upon what lies there already.

    ──────────┐
    ────┐     │
    ────●─────●──▷ s

Places along the side (s) grow with the flow, the offset grows away from it, both in mm. A limb rises at its column
until it is clear of what lies beyond, then turns and goes with the flow; what is too long for the side goes to and
fro, and what hangs at its end goes on, or back over it, where there is more room.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.grid import Spot, Way
from umber_trunk.core.board.limbs import (
    LEAST_RADIUS_MM,
    NOTHING,
    TIP_CLEAR_MM,
    Branch,
    Reel,
    Tip,
    arc,
    arc_long,
    saved,
    wound_in,
)

CELL_MM = 10.0
"""How finely the heights upon a row are kept."""
OUT_MM = 8.0
"""Steps by which a limb's lane is moved out where others lie in it."""
MOST_OUT = 40
"""A limb is moved out by so much at a time, so often at most, until nothing is in its way."""
HOP_MM = 20.0
"""How high a limb that leaves beside others goes aslant before it rises."""
LEAST_STEP_MM = 3.0
"""Limbs rise from a fork so far apart at least."""
LEAST_SPAN_MM = 140.0
"""No legs of a limb that goes to and fro are shorter."""
OUTSIDE_MM = 3000.0
"""How far the heights are kept beyond both ends of a shelf."""


class NoWayError(Exception):
    """Something that has no place in this form; `looks`: what was looked at by then."""

    def __init__(self, why: str, looks: int = 0) -> None:
        super().__init__(why)
        self.looks = looks


class Shelf(NamedTuple):  # thousands are made for a board: a tuple is the quickest
    """One side of a straight piece of the trunk: where it begins, the direction of its flow, the direction away from
    it, how long it is."""

    start: Spot
    flow: Way
    up: Way
    long_mm: float

    def at(self, s: float, off: float) -> Spot:
        """A place upon it."""
        return self.start[0] + self.flow[0] * s + self.up[0] * off, self.start[1] + self.flow[1] * s + self.up[1] * off

    def s_of(self, spot: Spot) -> float:
        """How far along the flow a spot lies."""
        return (spot[0] - self.start[0]) * self.flow[0] + (spot[1] - self.start[1]) * self.flow[1]

    def off_of(self, spot: Spot) -> float:
        """How far away from it a spot lies."""
        return (spot[0] - self.start[0]) * self.up[0] + (spot[1] - self.start[1]) * self.up[1]


@dataclass
class Placed:
    """One limb as it lies: its line from where it hangs, its corners, the last direction, its reel."""

    line: list[Spot]
    corners: list[Spot]
    way: Spot
    reel: Reel | None = None


class End(NamedTuple):
    """Where a limb ends: its place and offset, whether it flows on there (1), came back there (-1) or stands up (0),
    and how long it lies level there."""

    s: float
    off: float
    flows: int
    level_mm: float = 0.0


@dataclass
class Pile:
    """What lies upon a shelf: how far out it is taken, by place; limbs longer than `overlong_mm` are wound up; a limb
    is folded in no less than a share `over` of the shelf, and reaches beyond its end for it, unless the shelf is
    `closed` there. Limbs named in `other` go back over the limb they hang on where they would go on, and the other way
    round."""

    shelf: Shelf
    gap: float
    stand_mm: float
    overlong_mm: float
    over: float
    other: frozenset[str] = frozenset()
    closed: bool = False
    sky: NDArray[np.float64] = field(default_factory=lambda: np.zeros(0))
    placed: dict[str, Placed] = field(default_factory=dict)
    looks: int = 0

    def __post_init__(self) -> None:
        if not len(self.sky):
            self.sky = np.zeros(int((self.shelf.long_mm + 2 * OUTSIDE_MM) / CELL_MM) + 1)

    def cells(self, low: float, high: float) -> slice:
        """The places of the sky between two places along the shelf."""
        first, last = int((low + OUTSIDE_MM) / CELL_MM + 1e-6), -int(-(high + OUTSIDE_MM) / CELL_MM + 1e-6)
        if first < 0:
            first = 0
        return slice(first, last if last > first else first + 1)

    def most(self, low: float, high: float) -> float:
        """How far out anything lies between two places."""
        self.looks += 1
        found = self.sky[self.cells(low, high)]
        return float(np.maximum.reduce(found)) if len(found) else 0.0

    def raise_to(self, low: float, high: float, off: float) -> None:
        """Taken up to an offset between two places."""
        there = self.sky[self.cells(low, high)]
        np.maximum(there, off, out=there)

    def hang(
        self,
        one: Branch,
        on: Mapping[str, Sequence[Branch]],
        s: float,
        off: float,
        column: float,
        flows: bool,
        begin: Spot | None = None,
    ) -> None:
        """A limb that hangs at a place and rises at a column, and all that hangs on it."""
        end = self._lay(one, s, off, column, flows, begin)
        on_it = sorted(on.get(one.end, ()), key=lambda more: (reach_of(more, on), more.segment))
        if not end.flows:
            for number, more in enumerate(on_it):
                self.hang(more, on, end.s, end.off, end.s - LEAST_STEP_MM * number, False)
            return
        if not on_it:
            return
        other = self._mirrored(column + self.gap)
        ahead, behind = (self, other) if end.flows > 0 else (other, self)
        at, back_at = (pile.shelf.s_of(self.shelf.at(end.s, 0.0)) for pile in (ahead, behind))
        level = end.level_mm - self.gap * (len(on_it) + 2)
        onward, backward = ahead.shelf.long_mm - at, level if end.flows > 0 else behind.shelf.long_mm - back_at
        goes_on, goes_back = self._parted(on_it, onward, backward, on)
        # the limb itself lies before its end, so that columns there are free above it
        step = min(self.gap, max(end.level_mm / (len(on_it) + 1), LEAST_STEP_MM))
        for number, more in enumerate(goes_on):
            ahead.hang(more, on, at, end.off, at - step * number, number == 0)
        for number, more in enumerate(goes_back):
            behind.hang(more, on, back_at, end.off, back_at + step * (len(on_it) - 1 - number), False)
        self.placed |= other.placed
        self.looks += other.looks

    def _parted(
        self, on_it: list[Branch], onward: float, behind: float, on: Mapping[str, Sequence[Branch]]
    ) -> tuple[list[Branch], list[Branch]]:
        """(what goes on with the flow, what goes back over the limb it hangs on): half of what fits there whole, what
        has more room there."""
        down, back = list[Branch](), list[Branch]()
        for one in on_it:
            least = max(LEAST_SPAN_MM, 6 * max(one.radius_mm, LEAST_RADIUS_MM) + one.tip.deep_mm)
            whole = (
                one.weight <= 0
                and 2 * self.gap * len(on_it) + self.stand_mm < one.long_mm <= behind - one.tip.deep_mm
                and 2 * len(back) + 1 < len(on_it)
            )
            goes_back = whole or (onward < min(reach_of(one, on), behind) and behind >= least)
            if one.segment in self.other:
                goes_back = not goes_back and behind >= least
            (back if goes_back else down).append(one)
        return down, back

    def _mirrored(self, least: float) -> Pile:
        """The same pile with its flow turned round, down to a place."""
        whole = len(self.sky) * CELL_MM - 2 * OUTSIDE_MM
        flow = (-self.shelf.flow[0], -self.shelf.flow[1])
        return Pile(
            Shelf(self.shelf.at(whole, 0.0), flow, self.shelf.up, whole - least),
            self.gap,
            self.stand_mm,
            self.overlong_mm,
            0.0,
            self.other,
            True,
            self.sky[::-1],
        )

    def _lay(self, one: Branch, s: float, off: float, column: float, flows: bool, begin: Spot | None) -> End:
        shelf, clear = self.shelf, one.half_mm + self.gap / 2
        tip = one.tip if one.weight <= 0 else NOTHING
        half = tip.wide_mm / 2 + TIP_CLEAR_MM if tip.wide_mm else clear
        # a fork lies in the trunk's middle, or in an arc: so much of the limb lies before the shelf's own place for it
        foot_spot = shelf.at(s, off)
        start = begin or foot_spot
        led = [start] if math.dist(start, foot_spot) < 1e-6 else [start, foot_spot]
        if one.long_mm <= 1e-9:
            self.placed[one.segment] = Placed([start, start], [], (1.0, 0.0))
            return End(s, off, int(flows), one.long_mm)
        if flows and (there := self._straight_on(one, led, s, off, tip, half)) is not None:
            return there
        hop = [] if abs(column - s) < 1e-6 else [shelf.at(column, off + HOP_MM)]
        hopped = math.dist(start, hop[0]) if hop else math.dist(start, foot_spot)
        if hop and hopped > one.long_mm - 2.0:
            hop, hopped, column = [], math.dist(start, foot_spot), s
        led = [start, *hop] if hop else led
        foot, radius = off + (HOP_MM if hop else 0.0), max(one.radius_mm, LEAST_RADIUS_MM)
        rest = one.long_mm - hopped
        out = max(self.most(column - clear, column + clear) + clear, foot + radius)
        for _ in range(MOST_OUT):
            lane = rest - (out - foot) + saved(radius)
            if lane <= radius + 1.0 or rest <= self.stand_mm:
                return self._stand(one, led, s, column, foot + rest, foot, half, tip)
            lane = min(lane, self._open_mm(one, lane))
            deep = tip.deep_mm + TIP_CLEAR_MM if tip.wide_mm else clear
            span, folded = self._folded_in(one, column, lane + deep, deep)
            reach = span if folded else lane
            needed = self.most(column - clear, column + reach + (0.0 if tip.wide_mm or folded else clear)) + clear
            if tip.wide_mm and not folded:
                needed = max(needed, self.most(column + lane, column + lane + deep) + half)
            if needed <= out + 1e-6:
                break
            out = max(out + OUT_MM, needed)
        else:
            raise NoWayError(one.segment)
        corner = shelf.at(column, out)
        middle = (
            corner[0] + (shelf.flow[0] - shelf.up[0]) * radius,
            corner[1] + (shelf.flow[1] - shelf.up[1]) * radius,
        )
        turned = arc(middle, radius, shelf.up, shelf.flow)
        begun = [*led, *turned]
        if folded:
            return self._to_and_fro(
                one, begun, turned[len(turned) // 2], column, out, lane - radius, span, tip, half, radius
            )
        return self._on(
            one, begun, [turned[len(turned) // 2]], column, out, rest - (out - foot) + saved(radius), tip, half, True
        )

    def _folded_in(self, one: Branch, column: float, reach: float, deep: float) -> tuple[float, bool]:
        """(between which width a limb is folded, whether it is). NoWayError where a closed shelf leaves it none."""
        room, radius = self.shelf.long_mm - column, max(one.radius_mm, LEAST_RADIUS_MM)
        span = room if self.closed else max(room, LEAST_SPAN_MM, 5 * radius, self.over * self.shelf.long_mm)
        folded = reach > span and one.long_mm <= self.overlong_mm
        if reach > span and self.closed:
            span -= deep
            if not folded or span < 5 * radius:
                raise NoWayError(one.segment)
        return span, folded

    def _straight_on(self, one: Branch, led: list[Spot], s: float, off: float, tip: Tip, half: float) -> End | None:
        """On with the flow from where it hangs, to and fro where that would reach far beyond the shelf; None where
        something is in its way."""
        clear, radius = one.half_mm + self.gap / 2, max(one.radius_mm, LEAST_RADIUS_MM)
        lane, deep = one.long_mm - math.dist(led[0], led[-1]), tip.deep_mm + TIP_CLEAR_MM if tip.wide_mm else clear
        span, folded = self._folded_in(one, s, lane + deep, deep)
        if self.most(s + clear, s + (span + clear if folded else lane + deep)) + max(half, clear) > off + 1e-6:
            return None
        if folded:
            return self._to_and_fro(one, led, None, s - radius, off, lane, span + radius, tip, half, radius)
        return self._on(one, led, [], s, off, lane, tip, half, False)

    def _open_mm(self, one: Branch, lane: float) -> float:
        """How much of a limb lies open, what is wound up left out."""
        return lane - wound_in(lane, one.radius_mm)[1] if one.long_mm > self.overlong_mm else lane

    def _on(
        self,
        one: Branch,
        begun: list[Spot],
        corners: list[Spot],
        column: float,
        out: float,
        lane: float,
        tip: Tip,
        half: float,
        bent: bool,
    ) -> End:
        """Straight on from a column, so much of it; wound up where it is overlong."""
        clear, reel = one.half_mm + self.gap / 2, None
        if one.long_mm > self.overlong_mm:
            (radius, turns), wound = wound_in(lane, one.radius_mm)
            if turns:
                lane -= wound
                far = column + lane / 2
                reel = Reel(self.shelf.at(far, out + radius), radius, turns, one.long_mm - wound - lane / 2)
                self.raise_to(far - radius - self.gap, far + radius + self.gap, out + 2 * radius + self.gap)
        end = column + lane
        self.placed[one.segment] = Placed(
            [*begun, self.shelf.at(end, out)], corners, (float(self.shelf.flow[0]), float(self.shelf.flow[1])), reel
        )
        s = self.shelf.s_of(begun[0])
        self.raise_to(min(column, s) - (clear if bent else 0.0), end + clear, out + clear)
        if tip.wide_mm:
            self.raise_to(end, end + tip.deep_mm + TIP_CLEAR_MM, out + half)
        return End(end, out, 1, lane)

    def _to_and_fro(
        self,
        one: Branch,
        begun: list[Spot],
        corner: Spot | None,
        column: float,
        out: float,
        lane: float,
        span: float,
        tip: Tip,
        half: float,
        radius: float,
    ) -> End:
        """Folded between its column and the shelf's end: `lane` is left after the first corner."""
        shelf, clear = self.shelf, one.half_mm + self.gap / 2
        pitch = max(2 * clear, 2 * radius, clear + half)
        first, turn = span - 2 * radius, 2 * arc_long(radius) + pitch - 2 * radius
        inner = max(span - 3 * radius, 2.0)
        line, corners = list(begun), [] if corner is None else [corner]
        s, off, way, rest, legs = column + radius, out, 1, lane, 0
        while True:
            far = first if legs == 0 else inner
            if rest <= far + radius:
                s += way * rest
                line.append(shelf.at(s, off))
                break
            if rest < far + turn + 2.0:  # the turn has to be whole: it comes sooner
                far = rest - turn - 2.0
                if far < 2.0:
                    s += way * rest
                    line.append(shelf.at(s, off))
                    break
            s += way * far
            flow = (shelf.flow[0] * way, shelf.flow[1] * way)
            back = (-flow[0], -flow[1])
            spot = shelf.at(s, off)
            middle = (spot[0] + shelf.up[0] * radius, spot[1] + shelf.up[1] * radius)
            line += arc(middle, radius, flow, shelf.up)
            far_spot = (middle[0] + shelf.up[0] * (pitch - 2 * radius), middle[1] + shelf.up[1] * (pitch - 2 * radius))
            line += arc(far_spot, radius, shelf.up, back)
            corners += [line[-8], line[-3]]
            rest, off, way, legs = rest - far - turn, off + pitch, -way, legs + 1
            if legs > 40:
                raise NoWayError(one.segment)
        # exactly as long as it is: what arcs made more or less is taken from the last piece
        long = sum(math.dist(a, b) for a, b in pairwise(line))
        flow = (shelf.flow[0] * way, shelf.flow[1] * way)
        line[-1] = (line[-1][0] + flow[0] * (one.long_mm - long), line[-1][1] + flow[1] * (one.long_mm - long))
        self.placed[one.segment] = Placed(line, corners, (float(flow[0]), float(flow[1])))
        self.raise_to(
            column - max(clear, tip.deep_mm if way < 0 else 0.0), column + span + clear, off + max(clear, half)
        )
        if way > 0 and tip.wide_mm:
            self.raise_to(s, s + tip.deep_mm + TIP_CLEAR_MM + radius, off + half)
        return End(s, off, way, abs(line[-1][0] - line[-2][0]) + abs(line[-1][1] - line[-2][1]))

    def _stand(
        self, one: Branch, line: list[Spot], s: float, column: float, top: float, foot: float, half: float, tip: Tip
    ) -> End:
        """A limb that is too short to lie upon others stands up from where it hangs."""
        clear = one.half_mm + self.gap / 2
        self.placed[one.segment] = Placed(
            [*line, self.shelf.at(column, top)], [], (float(self.shelf.up[0]), float(self.shelf.up[1]))
        )
        self.raise_to(column - half, column + half, top + tip.deep_mm + self.gap / 2)
        self.raise_to(min(column, s) - clear, max(column, s) + clear, foot + clear)
        return End(column, top, 0)


def reach_of(one: Branch, on: Mapping[str, Sequence[Branch]]) -> float:
    """How far a limb and what hangs on it reach, all in one line."""
    return one.long_mm + max((reach_of(more, on) for more in on.get(one.end, ())), default=one.tip.deep_mm)
