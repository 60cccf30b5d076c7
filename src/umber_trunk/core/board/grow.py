"""Limbs laid one after another into what is free: the trunk in rows, what carries others next, what carries nothing last.

Each goes straight where it can, best where most stays free beside it; else it is folded, along itself where that is
possible. What has no place at all ends the try.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from random import Random

import numpy as np

from umber_trunk.core.board.rays import ANGLES, DIRECTIONS, WAYS, Floats, Spot, World

MOST_LEGS, MOST_TAKEN = 40, 30
LEGS_LOOKED_AT = 4
"""So many directions are tried first where a limb has to be folded."""


class NoRoomError(Exception):
    """A limb that has no place in this try: its segment, "" for the trunk."""


@dataclass(frozen=True)
class Tip:
    """What lies at a point: how wide it is across its limb and how far it reaches beyond."""

    wide_mm: float = 0.0
    deep_mm: float = 0.0


NOTHING = Tip()


@dataclass(frozen=True)
class Branch:
    """One segment to lay, from a point that is laid to one that isn't; `weight` is what hangs beyond it, in mm; `turn_deg` the
    builder's wish for its angle to the limb before, `half_mm` half its thickness."""

    segment: str
    start: str
    end: str
    long_mm: float
    weight: float
    turn_deg: float | None = None
    tip: Tip = NOTHING
    half_mm: float = 0.0


@dataclass
class Grown:
    """What is laid. `lines`: segment → points from the laid end on; `ways`: point → the direction its segment ends in; `folds`:
    (segment, where)."""

    lines: dict[str, list[Spot]] = field(default_factory=dict)
    spots: dict[str, Spot] = field(default_factory=dict)
    ways: dict[str, Spot] = field(default_factory=dict)
    folds: list[tuple[str, Spot]] = field(default_factory=list)
    unkept: list[str] = field(default_factory=list)


def lay_trunk(
    grown: Grown, world: World, trunk: Sequence[Branch], first: Tip, left: float, rows: Sequence[float], right: float
) -> None:
    """The trunk, `first` at its beginning, from the left along rows, each at its height, turned at `left` and `right`. NoRoomError where the rows don't
    hold it."""
    whole = sum(one.long_mm for one in trunk)
    line, rest = [(left, rows[0])], whole
    folds: list[Spot] = []
    for number, height in enumerate(rows):
        x = line[-1][0]
        target = right if number % 2 == 0 else left
        if abs(target - x) >= rest - 1e-9:
            line.append((x + math.copysign(rest, target - x), height))
            rest = 0.0
            break
        line.append((target, height))
        rest -= abs(target - x)
        if number + 1 == len(rows):
            raise NoRoomError("")
        rise = rows[number + 1] - height
        folds.append((target, height))
        if abs(rise) >= rest:
            line.append((target, height + math.copysign(rest, rise)))
            rest = 0.0
            break
        line.append((target, rows[number + 1]))
        rest -= abs(rise)
    pieces = _cut(line, [one.long_mm for one in trunk])
    grown.spots[trunk[0].start] = line[0]
    for one, piece in zip(trunk, pieces, strict=True):
        _laid(grown, world, one, piece)
        for fold in folds:
            if any(math.dist(fold, spot) < 1e-6 for spot in piece[1:-1]):
                grown.folds.append((one.segment, fold))
    grown.ways[trunk[0].start] = (-1.0, 0.0)
    _add_tip(world, line[0], (-1.0, 0.0), first)
    _add_tip(world, line[-1], grown.ways[trunk[-1].end], trunk[-1].tip)


def _cut(line: list[Spot], lengths: list[float]) -> list[list[Spot]]:
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
            step = math.dist(here, line[number])
            share = rest / step
            here = (here[0] + share * (line[number][0] - here[0]), here[1] + share * (line[number][1] - here[1]))
            piece.append(here)
        if len(piece) == 1:
            piece.append(here)
        pieces.append(piece)
    return pieces


def _laid(grown: Grown, world: World, one: Branch, line: list[Spot], owner: int = -1) -> None:
    grown.lines[one.segment] = line
    grown.spots[one.end] = line[-1]
    before, last = line[-2], line[-1]
    long = math.dist(before, last)
    if long > 0:
        grown.ways[one.end] = ((last[0] - before[0]) / long, (last[1] - before[1]) / long)
    else:
        grown.ways[one.end] = grown.ways.get(one.start, (1.0, 0.0))
    world.add_line(
        [spot for number, spot in enumerate(line) if number == 0 or spot != line[number - 1]], one.half_mm, owner
    )


def _add_tip(world: World, at: Spot, way: Spot, tip: Tip, owner: int = -1) -> None:
    if tip.wide_mm:
        world.add(*_outline(at, way, tip), tip.wide_mm / 2, owner)


def _outline(at: Spot, way: Spot | Floats, tip: Tip) -> tuple[Spot, Spot]:
    """The middle line of what lies at a limb's end."""
    half = tip.wide_mm / 2
    deep = max(tip.deep_mm - half, 1.0)
    near = min(half, deep)
    return (at[0] + way[0] * near, at[1] + way[1] * near), (at[0] + way[0] * deep, at[1] + way[1] * deep)


def lay_branch(grown: Grown, world: World, one: Branch, draw: Random, owner: int = -1) -> None:
    """One segment from where it hangs, straight if it can be; `owner` is the number it can be taken away by."""
    start = grown.spots[one.start]
    if one.long_mm <= 1e-9:
        _laid(grown, world, one, [start, start])
        return
    wished = _wished(grown, world, one, start) if one.turn_deg is not None else None
    line = wished or _straight(grown, world, one, start, draw) or _folded(world, one, start)
    if line is None:
        raise NoRoomError(one.segment)
    if wished is None and one.turn_deg is not None:
        grown.unkept.append(one.segment)
    grown.folds += [(one.segment, spot) for spot in _turns(line)]
    _laid(grown, world, one, line, owner)
    if one.weight <= 0:
        _add_tip(world, line[-1], grown.ways[one.end], one.tip, owner)


def lay_bare(grown: Grown, world: World, waiting: Sequence[Branch], draw: Random) -> None:
    """Limbs that carry nothing, in an order. One that finds no place takes that of what lies nearest to where it hangs; what
    was taken away is laid again after it."""
    numbered = dict(enumerate(waiting))
    queue, taken = list(numbered), 0
    while queue:
        owner = queue.pop(0)
        one, away = numbered[owner], list[int]()
        while True:
            try:
                lay_branch(grown, world, one, draw, owner)
                break
            except NoRoomError:
                near = [other for other in world.nearest(grown.spots[one.start]) if other not in away]
                if taken >= MOST_TAKEN or len(away) >= 4 or not near:
                    raise
                other = near[0] if draw.random() < 0.8 else near[min(1, len(near) - 1)]
                taken += 1
                away.append(other)
                _taken_away(grown, world, numbered[other], other)
        queue = [*away, *queue]


def _taken_away(grown: Grown, world: World, one: Branch, owner: int) -> None:
    world.take_away(owner)
    del grown.lines[one.segment], grown.spots[one.end], grown.ways[one.end]
    grown.folds[:] = [fold for fold in grown.folds if fold[0] != one.segment]
    grown.unkept[:] = [segment for segment in grown.unkept if segment != one.segment]


def _turns(line: list[Spot]) -> list[Spot]:
    """Where a line is folded; the two corners of a turn back are one fold."""
    found: list[Spot] = []
    for number in range(1, len(line) - 1):
        step = math.dist(line[number - 1], line[number])
        if number > 1 and found and found[-1] == line[number - 1] and step < 80:
            continue
        found.append(line[number])
    return found


def _fits(world: World, one: Branch, start: Spot, way: Floats, long: float) -> bool:
    """Whether the outline at the end of a straight way has its place."""
    if one.weight > 0 or not one.tip.wide_mm:
        return True
    end = (start[0] + way[0] * long, start[1] + way[1] * long)
    return world.clear(*_outline(end, way, one.tip), one.tip.wide_mm / 2)


def _need(one: Branch) -> float:
    """How far a straight way has to be free: beyond one that carries others there has to be room for them."""
    return one.long_mm + (min(0.25 * one.weight, 250.0) if one.weight > 0 else one.tip.deep_mm)


def _wished(grown: Grown, world: World, one: Branch, start: Spot) -> list[Spot] | None:
    """At the angle the builder wants to the limb before."""
    back = grown.ways.get(one.start, (1.0, 0.0))
    angle = math.atan2(back[1], back[0]) + math.radians(one.turn_deg or 0.0)
    way = np.array([[math.cos(angle), math.sin(angle)]])
    if float(world.free(start, one.half_mm, way)[0]) < one.long_mm or not _fits(world, one, start, way[0], one.long_mm):
        return None
    return [start, (start[0] + way[0, 0] * one.long_mm, start[1] + way[0, 1] * one.long_mm)]


def _straight(grown: Grown, world: World, one: Branch, start: Spot, draw: Random) -> list[Spot] | None:
    free = world.free(start, one.half_mm)
    need = _need(one)
    able = np.flatnonzero(free >= need - 1e-9)
    if not len(able):
        able = np.flatnonzero(free >= one.long_mm + (one.tip.deep_mm if one.weight <= 0 else world.gap))
    if not len(able):
        return None
    room = np.minimum(free, 1.6 * need)
    beside = sum(np.minimum(np.roll(room, by), room) for by in (-2, -1, 1, 2)) / (4 * need)
    back = grown.ways.get(one.start, (1.0, 0.0))
    turned = np.abs((ANGLES - math.atan2(back[1], back[0]) + math.pi) % (2 * math.pi) - math.pi)
    square = -0.35 * np.abs(turned - math.pi / 2) / (math.pi / 2)
    neat = 0.06 * (np.arange(DIRECTIONS) % 6 == 0)
    score = beside + square + neat + np.array([0.12 * draw.random() for _ in range(DIRECTIONS)])
    for at in sorted(able.tolist(), key=lambda at: -score[at]):
        if _fits(world, one, start, WAYS[at], one.long_mm):
            return [start, (start[0] + float(WAYS[at, 0]) * one.long_mm, start[1] + float(WAYS[at, 1]) * one.long_mm)]
    return None


def _folded(world: World, one: Branch, start: Spot) -> list[Spot] | None:
    """A way with turns: out as far as is free, back beside itself, and so on, taken back where it leads nowhere; of those
    from the most promising directions the one with the fewest turns."""
    longest = _longest(world, one)
    free = world.free(start, one.half_mm, reach=longest + 100.0)
    kept: list[int] = []
    for at in np.argsort(-free, kind="stable").tolist():
        if free[at] < 1.2 * world.gap or len(kept) == LEGS_LOOKED_AT:
            break
        if all(min((at - other) % DIRECTIONS, (other - at) % DIRECTIONS) > 2 for other in kept):
            kept.append(at)
    best: list[Spot] | None = None
    for at in kept:
        mark, budget = world.mark(), [min(MOST_LEGS, world.patience)]
        before = budget[0]
        line = _leg(world, one, [start], one.long_mm, at, float(free[at]), budget)
        world.back(mark)
        world.patience -= before - budget[0]
        if line is not None and (best is None or len(line) < len(best)):
            best = line
    return best


def _longest(world: World, one: Branch) -> float:
    """How long a leg of a fold may be."""
    return max(8 * world.gap, world.compact * math.sqrt(one.long_mm * world.gap))


def _leg(
    world: World, one: Branch, line: list[Spot], rest: float, at: int, free: float, budget: list[int]
) -> list[Spot] | None:
    """The way on along a direction, with all that has to follow; None where it leads nowhere."""
    budget[0] -= 1
    here, way = line[-1], WAYS[at]
    deep = one.tip.deep_mm if one.weight <= 0 else world.gap
    if rest + deep <= free + 1e-9 and _fits(world, one, here, way, rest):
        return [*line, (here[0] + float(way[0]) * rest, here[1] + float(way[1]) * rest)]
    longest = _longest(world, one)
    leg = min(free, longest, rest - 2.2 * world.gap)
    if leg < 0.5 * world.gap or budget[0] <= 0:
        return None
    spot = (here[0] + float(way[0]) * leg, here[1] + float(way[1]) * leg)
    mark = world.mark()
    world.add(here, spot, one.half_mm)
    for aside, onward, far in _next_legs(world, spot, at, rest - leg, longest + 100.0, one.half_mm):
        inner = world.mark()
        more, left = [*line, spot], rest - leg
        if aside is not None:
            left -= math.dist(spot, aside)
            if left <= 0.2 * world.gap:
                continue
            world.add(spot, aside, one.half_mm)
            more.append(aside)
        found = _leg(world, one, more, left, onward, far, budget)
        world.back(inner)
        if found is not None:
            world.back(mark)
            return found
        if budget[0] <= 0:
            break
    world.back(mark)
    return None


def _next_legs(
    world: World, spot: Spot, at: int, rest: float, reach: float, half_mm: float
) -> list[tuple[Spot | None, int, float]]:
    """Where to go on from a turn, the best first: back beside the leg just laid where that is worth it, else wherever is most
    free. Each (the corner to step aside to, direction, how far)."""
    step = 1.08 * (world.gap + 2 * half_mm)
    quarter, half = DIRECTIONS // 4, DIRECTIONS // 2
    back = (at + half) % DIRECTIONS
    free = world.free(spot, half_mm, reach=reach)
    found: list[tuple[float, tuple[Spot | None, int, float]]] = []
    for side in (quarter, -quarter):
        way = (at + side) % DIRECTIONS
        if free[way] < step:
            continue
        aside = (spot[0] + float(WAYS[way, 0]) * step, spot[1] + float(WAYS[way, 1]) * step)
        mark = world.mark()
        world.add(spot, aside, half_mm)
        far = float(world.free(aside, half_mm, WAYS[back : back + 1], reach)[0])
        world.back(mark)
        if far > step:
            found.append((2.0 * min(far, rest), (aside, back, far)))
    order = np.argsort(-free, kind="stable")[:12].tolist()
    for onward in order[:1] + [one for one in order[1:] if min((one - order[0]) % DIRECTIONS, (order[0] - one) % DIRECTIONS) > 4][:1]:  # fmt: skip
        if free[onward] >= 1.2 * world.gap:
            found.append((min(float(free[onward]), rest), (None, onward, float(free[onward]))))
    return [one for _, one in sorted(found, key=lambda entry: -entry[0])[:3]]
