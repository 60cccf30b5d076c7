"""Ways a limb can be laid from where it hangs: straight, round a corner, round two, to and fro, or wound up on a peg.

    straight      a corner     two           to and fro     wound up
                                 ┌────          ┌─┐ ┌─
    ●──────       ●───┐        ●─┘           ●──┘ │ │       ●───(◎)───
                      │                           └─┘

Corners are arcs of the limb's least radius; what the arcs save is laid at the end, so that a limb is as long as it is.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from umber_trunk.core.board.grid import Box, Grid, Spot, Way, along, block, boxes_of

CHORDS = 4
"""Straight pieces that stand for a quarter of a turn."""
TURN = tuple(
    (math.cos(angle), math.sin(angle)) for angle in (math.pi / 2 * chord / CHORDS for chord in range(CHORDS + 1))
)
"""Cosine and sine at the ends of each of them."""
LEAST_RADIUS_MM = 12.5
"""No limb is bent tighter, however thin: what a peg is."""
REEL_RADIUS_MM = 90.0
"""A limb that is wound up lies round this radius, where it may be bent so far."""
REEL_LEAD_MM = 420.0
"""About how much of a limb that is wound up lies open: half before its peg, half beyond."""
TIP_CLEAR_MM = 0.5
"""Round the outline of what lies at an end."""
MOST_LEGS = 9
"""So often a limb goes to and fro at most."""


@dataclass(frozen=True)
class Tip:
    """What lies at a point: how wide it is across its limb and how far it reaches beyond."""

    wide_mm: float = 0.0
    deep_mm: float = 0.0


NOTHING = Tip()
"""Nothing lies there."""


@dataclass(frozen=True)
class Branch:
    """One segment to lay, from a point that is laid to one that isn't; `weight` is what hangs beyond it, in mm;
    `turn_deg` the builder's wish for its angle to the limb before, `half_mm` half its thickness, `radius_mm` how tight
    it may be bent."""

    segment: str
    start: str
    end: str
    long_mm: float
    weight: float
    turn_deg: float | None = None
    tip: Tip = NOTHING
    half_mm: float = 0.0
    radius_mm: float = LEAST_RADIUS_MM


@dataclass(frozen=True)
class Reel:
    """Whole turns of a limb on a peg beside its way: the middle, the turns' radius, how many, and between which lengths
    along the limb they lie."""

    at: Spot
    radius_mm: float
    turns: int
    from_mm: float

    @property
    def long_mm(self) -> float:
        """How much of the limb is wound up."""
        return 2 * math.pi * self.radius_mm * self.turns


@dataclass(frozen=True)
class Laid:
    """A way found: its line, where it is bent, its last direction, the boxes it takes up."""

    line: tuple[Spot, ...]
    corners: tuple[Spot, ...]
    way: Spot
    boxes: tuple[Box, ...]
    reel: Reel | None = None


@dataclass(frozen=True)
class Leaving:
    """Where a limb can leave a point: from `at` in a direction, after the points `before`, so much of it `used` by
    then; what lies within `skip` is the point's own."""

    before: tuple[Spot, ...]
    at: Spot
    way: Way
    skip: float
    used: float = 0.0


def saved(radius: float) -> float:
    """What a corner of a radius saves beside two straight pieces."""
    return 2 * radius - arc_long(radius)


def arc_long(radius: float) -> float:
    """A quarter of a turn, in chords."""
    return CHORDS * 2 * radius * math.sin(math.pi / (4 * CHORDS))


def arc(middle: Spot, radius: float, way: Way, onward: Way) -> list[Spot]:
    """A quarter of a turn from one direction into the next, its ends with it."""
    (x, y), (from_x, from_y), (to_x, to_y) = middle, way, onward
    return [(x + radius * (from_x * on - to_x * out), y + radius * (from_y * on - to_y * out)) for out, on in TURN]


def wound_in(long_mm: float, least_mm: float) -> tuple[tuple[float, int], float]:
    """((radius, whole turns), how much is wound up) of so much of a limb that bends no tighter than `least_mm`; no
    turns where it is too short."""
    radius = max(REEL_RADIUS_MM, least_mm)
    turns = max(math.floor((long_mm - REEL_LEAD_MM) / (2 * math.pi * radius)), 0)
    if not turns:
        return (0.0, 0), 0.0
    radius = min((long_mm - REEL_LEAD_MM) / (2 * math.pi * turns), 1.25 * radius)
    return (radius, turns), 2 * math.pi * radius * turns


def bent(
    before: Sequence[Spot], at: Spot, legs: Sequence[tuple[Way, float]], radius: float
) -> tuple[list[Spot], list[Spot]]:
    """(the line along legs with arcs for corners, the arcs' middles)."""
    line, corners, here = [*before, at], list[Spot](), at
    for number, (way, far) in enumerate(legs):
        corner = along(here, way, far)
        if number + 1 == len(legs):
            line.append(corner)
            break
        onward = legs[number + 1][0]
        middle = along(along(corner, way, -radius), onward, radius)
        line += arc(middle, radius, way, onward)
        half = math.sqrt(0.5)
        corners.append(
            (middle[0] + radius * half * (way[0] - onward[0]), middle[1] + radius * half * (way[1] - onward[1]))
        )
        here = corner
    return line, corners


def cut(line: Sequence[Spot], lengths: Sequence[float]) -> list[list[Spot]]:
    """A line cut into pieces of these lengths."""
    pieces, here, number = [], line[0], 1
    for length in lengths:
        piece, rest = [here], length
        while number < len(line):
            step = math.dist(here, line[number])
            if step > rest + 1e-9 or (step > rest - 1e-9 and number == len(line) - 1):
                break
            here, rest = line[number], rest - step
            if step > 0:
                piece.append(here)
            number += 1
        if rest > 1e-12 and number < len(line):
            share = rest / math.dist(here, line[number])
            here = (here[0] + share * (line[number][0] - here[0]), here[1] + share * (line[number][1] - here[1]))
            piece.append(here)
        if len(piece) == 1:
            piece.append(here)
        pieces.append(piece)
    return pieces


class Ways:
    """The ways of one limb on a grid; `clear` is what it keeps free on each side: half its thickness and half a gap."""

    def __init__(self, grid: Grid, one: Branch, gap: float) -> None:
        self.grid, self.one, self.clear = grid, one, one.half_mm + gap / 2
        self.radius = max(one.radius_mm, LEAST_RADIUS_MM)
        self.tip = one.tip if one.weight <= 0 else NOTHING
        self.step = grid.cell * (2 if one.weight <= 0 else 8)

    def straight(self, leave: Leaving) -> Iterator[Laid]:
        """Straight on."""
        rest = self.one.long_mm - leave.used
        if self._leg(leave.at, leave.way, rest, leave.skip) and self._ends(leave.at, leave.way, rest):
            yield self._made(leave, [(leave.way, rest)])

    def cornered(self, leave: Leaving) -> Iterator[Laid]:
        """Round one corner: the first place where it goes, to either side."""
        rest = self.one.long_mm - leave.used
        least = max(leave.skip + self.clear, self.radius)
        free = self.grid.run(along(leave.at, leave.way, leave.skip), leave.way, self.clear) + leave.skip - self.clear
        far, most = self._on_grid(leave, least), min(free, rest - self.radius)
        while far <= most + 1e-9:
            corner = along(leave.at, leave.way, far)
            left = rest - far + saved(self.radius)
            for side in sides(leave.way):
                if (
                    self._leg(corner, side, left, self.clear)
                    and self._ends(corner, side, left)
                    and self._bend_clear(corner, leave.way, side)
                ):
                    yield self._made(leave, [(leave.way, far), (side, left)])
            far += self.step

    def twice(self, leave: Leaving) -> Iterator[Laid]:
        """Round two corners: aside by a few widths or as far as is free, then on or back."""
        rest = self.one.long_mm - leave.used
        least, cell = max(leave.skip + self.clear, self.radius), self.grid.cell
        free = self.grid.run(along(leave.at, leave.way, leave.skip), leave.way, self.clear) + leave.skip - self.clear
        far, most = self._on_grid(leave, least), min(free, rest - 3 * self.radius)
        while far <= most + 1e-9:
            corner = along(leave.at, leave.way, far)
            for side in sides(leave.way):
                wide = self.grid.run(along(corner, side, self.clear), side, self.clear)
                nearest, most_aside = (
                    self.grid.up_to(max(2 * self.radius, 2 * self.clear)),
                    min(wide, rest - far - self.radius),
                )
                for aside in (nearest, nearest + 4 * cell, nearest + 12 * cell):
                    if aside > most_aside + 1e-9:
                        break
                    turn, left = along(corner, side, aside), rest - far - aside + 2 * saved(self.radius)
                    for onward in (leave.way, (-leave.way[0], -leave.way[1])):
                        if onward != leave.way and aside < self.clear + self._tip_half():
                            continue  # it would lie on its own beginning
                        if (
                            self._leg(turn, onward, left, self.clear)
                            and self._ends(turn, onward, left)
                            and self._bend_clear(corner, leave.way, side)
                            and self._bend_clear(turn, side, onward)
                        ):
                            yield self._made(leave, [(leave.way, far), (side, aside), (onward, left)])
            far += self.step

    def to_and_fro(self, leave: Leaving) -> Iterator[Laid]:
        """Beside itself, in as few legs as go: a block that is free whole."""
        rest, start = self.one.long_mm - leave.used, leave.skip + self.clear
        pitch = self.grid.up_to(max(2 * self.clear, 2 * self.radius))
        last_pitch = self.grid.up_to(max(pitch, self.clear + self._tip_half()))
        free = self.grid.run(along(leave.at, leave.way, leave.skip), leave.way, self.clear) + leave.skip - self.clear
        out, back = leave.way, (-leave.way[0], -leave.way[1])
        for legs in range(3, MOST_LEGS + 1):
            wide = (legs - 2) * pitch + last_pitch
            whole = rest + 2 * (legs - 1) * saved(self.radius) - wide - start
            each = self.grid.up_to(whole / legs)
            last = whole - (legs - 1) * each
            if start + each > free or last < self.radius:
                continue
            if each < 2 * self.radius:
                return
            for side in sides(out):
                sign = 1 if side == sides(out)[0] else -1
                low, high = sorted((-sign * self.clear, sign * (wide + self.clear)))
                beyond = (
                    self.clear
                    if legs % 2 == 0 or last + self.tip.deep_mm <= each
                    else max(last + self.tip.deep_mm - each, self.clear)
                )
                if not self.grid.clear(
                    block(along(leave.at, out, leave.skip), out, self.clear + each + beyond, low, high)
                ):
                    continue
                made: list[tuple[Way, float]] = [(out, start + each)]
                for number in range(1, legs):
                    made += [
                        (side, pitch if number + 1 < legs else last_pitch),
                        ((out, back)[number % 2], each if number + 1 < legs else last),
                    ]
                turn = along(along(leave.at, out, start + (each if legs % 2 == 0 else 0.0)), side, wide)
                if self._leg(turn, made[-1][0], last, self.clear) and self._ends(turn, made[-1][0], last):
                    yield self._made(leave, made)

    def _tip_half(self) -> float:
        return self.tip.wide_mm / 2 + TIP_CLEAR_MM if self.tip.wide_mm else self.clear

    def wound_up(self, leave: Leaving) -> Iterator[Laid]:
        """What is too long to lie on the board: its ends out, the rest in whole turns on a peg."""
        rest = self.one.long_mm - leave.used
        (radius, turns), wound = wound_in(rest, self.radius)
        if not turns:
            return
        open_mm = rest - wound
        before = self.grid.up_to(max(open_mm / 2, leave.skip + self.clear + radius))
        if open_mm < before + radius:
            return
        for side in sides(leave.way):
            foot = along(leave.at, leave.way, before)
            sign = 1 if side == (-leave.way[1], leave.way[0]) else -1
            low, high = sorted((-sign * self.clear, sign * (2 * radius + self.clear)))
            box = block(along(foot, leave.way, -radius - self.clear), leave.way, 2 * (radius + self.clear), low, high)
            if (
                self.grid.clear(box)
                and self._leg(leave.at, leave.way, open_mm, leave.skip)
                and self._ends(leave.at, leave.way, open_mm)
            ):
                found = self._made(leave, [(leave.way, open_mm)])
                reel = Reel(along(foot, side, radius), radius, turns, leave.used + before)
                yield Laid(found.line, found.corners, found.way, (*found.boxes, box), reel)

    def _on_grid(self, leave: Leaving, least: float) -> float:
        """How far to the first line between squares that is so far on: what turns there lies side by side with
        others."""
        at = leave.at[0] * leave.way[0] + leave.at[1] * leave.way[1]
        return self.grid.up_to(at + least) - at

    def _leg(self, at: Spot, way: Way, far: float, skip: float) -> bool:
        """Whether a straight piece has its place, but for what lies within `skip` of its beginning."""
        beyond = far - skip + (0.0 if self.tip.wide_mm else self.clear)
        return beyond <= 0 or self.grid.run(along(at, way, skip), way, self.clear) >= beyond - 1e-6

    def _ends(self, at: Spot, way: Way, far: float) -> bool:
        """Whether what lies at the end has its place."""
        if not self.tip.wide_mm:
            return True
        half = self._tip_half()
        return self.grid.clear(block(along(at, way, far), way, self.tip.deep_mm + TIP_CLEAR_MM, -half, half))

    def _bend_clear(self, corner: Spot, way: Way, onward: Way) -> bool:
        """Whether the inside of a wide arc is free."""
        if self.radius <= self.clear:
            return True
        x, y = along(along(corner, way, -self.radius), onward, self.radius)
        inner = along(along(corner, way, -self.clear), onward, self.clear)
        return self.grid.clear((min(x, inner[0]), min(y, inner[1]), max(x, inner[0]), max(y, inner[1])))

    def _made(self, leave: Leaving, legs: list[tuple[Way, float]]) -> Laid:
        line, corners = bent(leave.before, leave.at, legs, self.radius)
        boxes, here = list(boxes_of([*leave.before, leave.at], self.one.half_mm + 2.0, self.grid.cell)), leave.at
        for number, (way, far) in enumerate(legs):
            boxes.append(block(here, way, far + self.clear, -self.clear, self.clear))
            here = along(here, way, far)
            if number + 1 < len(legs) and self.radius > self.clear:
                onward = legs[number + 1][0]
                x, y = along(along(here, way, -self.radius), onward, self.radius)
                boxes.append((min(x, here[0]), min(y, here[1]), max(x, here[0]), max(y, here[1])))
        way = legs[-1][0]
        if self.tip.wide_mm:
            half = self._tip_half()
            boxes.append(block(here, way, self.tip.deep_mm + TIP_CLEAR_MM, -half, half))
        return Laid(tuple(line), tuple(corners), (float(way[0]), float(way[1])), tuple(boxes))


def sides(way: Way) -> tuple[Way, Way]:
    """To the left and to the right of a direction."""
    return (-way[1], way[0]), (way[1], -way[0])
