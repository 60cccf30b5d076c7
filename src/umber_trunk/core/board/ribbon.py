"""A harness laid as a ribbon: the trunk in rows, to and fro, what hangs on it in the rows between.

Two rows and the turn that joins them close a space on one side; all that hangs there flows to its open side:

     ───●────────●────┐
     ←──┘  ←─────┘    │
     ←───┐   ←──┐     │
     ────●──────●─────┘

Limbs are taken from the open side on. Each lies upon what lies there already, so whatever starts further in lies
further out, none crosses another, and none closes another's way. How far apart the rows have to be is what comes out,
not what is asked: the highest pile on the lower row and what hangs from the upper one.

Places along a row (s) grow with the flow, the offset grows away from the row, both in mm.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.grid import EAST, NORTH, SOUTH, WEST, Spot
from umber_trunk.core.board.limbs import (
    LEAST_RADIUS_MM,
    TIP_CLEAR_MM,
    Branch,
    Reel,
    Tip,
    arc,
    cut,
    saved,
    wound_in,
)
from umber_trunk.core.board.packed import Packed, last_way, middle_of
from umber_trunk.core.board.piles import LEAST_SPAN_MM, NoWayError, Pile, Placed, Shelf, reach_of

TURN_MM = 300.0
"""What lies within so much of a turn of the trunk is taken to lie in it."""
OUTSIDE_WORTH = 4.0
"""What it costs to lie outside of an upright leg, in limbs that lie upon one another."""
MOST_PASSES = 8
"""Rounds in which rows may come closer again; after as many more it is given up."""


@dataclass(frozen=True)
class Form:
    """How a ribbon is folded: the length of its rows, how far the first is pushed in, how tall a limb may stand up, in
    what share of a row one is folded at least, limbs that lie on the other side than where least lies (what hangs on a
    limb: that go back over it where others would go on, and the other way round), how far apart its rows are tried
    first, and how much further than they have to be they may lie, in gaps."""

    row_mm: float
    in_mm: float = 0.0
    stand_mm: float = 60.0
    over: float = 0.2
    other: frozenset[str] = frozenset()
    heights: tuple[float, ...] = ()
    slack: float = 0.6


@dataclass
class Ribbon:
    """A tree laid as a ribbon: limbs by segment, each from where it hangs; what was looked at."""

    placed: dict[str, Placed]
    spots: dict[str, Spot]
    ways: dict[str, Spot]
    looks: int
    heights: tuple[float, ...] = ()


def ribbon(
    trunk: Sequence[Branch],
    first: Tip,
    rest: Iterable[Branch],
    gap: float,
    overlong_mm: float,
    form: Form,
    most_mm2: float = math.inf,
) -> Ribbon:
    """A tree laid, its rows as far apart as what lies between them asks for. NoWayError where that comes to no end, or
    takes more than `most_mm2`."""
    on: dict[str, list[Branch]] = {}
    for one in rest:
        on.setdefault(one.start, []).append(one)
    laying = _Laying(list(trunk), first, on, gap, overlong_mm, form)
    heights, looks = [*form.heights, *[5.0 * gap + 2 * laying.half] * 60], 0
    best: tuple[float, Packed, tuple[float, ...]] | None = None
    slack = form.slack * gap
    for number in range(2 * MOST_PASSES):
        made = laying.packed(heights)
        looks += sum(pile.looks for pile in made.piles.values()) + len(trunk)
        needed = made.needed()
        pairs = list(zip(needed, heights, strict=False))
        if all(want <= have + 1e-6 for want, have in pairs):
            if best is None or sum(heights[: len(needed)]) < best[0]:
                best = (sum(heights[: len(needed)]), made, tuple(heights[: len(needed)]))
            if all(have - want < slack for want, have in pairs):
                break
        # where a row is moved what hangs on it moves too, so that this comes to rest step by step
        if number and form.row_mm * sum(needed) > most_mm2:
            raise NoWayError("large", looks)
        rests = number < MOST_PASSES
        heights = [
            want + 2.0 if want > have or (rests and have - want > slack) else have for want, have in pairs
        ] + heights[len(needed) :]
        if not rests and best is not None:
            break
    if best is None:
        raise NoWayError("rows", looks)
    return replace(laying.ribbon(best[1], looks), heights=best[2])


class _Laying:
    def __init__(
        self, trunk: list[Branch], first: Tip, on: dict[str, list[Branch]], gap: float, overlong_mm: float, form: Form
    ) -> None:
        self.trunk, self.first, self.on, self.gap, self.overlong_mm, self.form = (
            trunk,
            first,
            on,
            gap,
            overlong_mm,
            form,
        )
        self.half = max(one.half_mm for one in trunk)
        self.reels: dict[str, tuple[float, int]] = {}
        self.long: list[float] = []
        for one in trunk:
            (radius, turns), wound = (
                wound_in(one.long_mm, one.radius_mm) if one.long_mm > overlong_mm else ((0.0, 0), 0.0)
            )
            if turns:
                self.reels[one.segment] = (radius, turns)
            self.long.append(one.long_mm - wound)
        self.ends = [0.0]
        for long in self.long:
            self.ends.append(self.ends[-1] + long)
        self.points = [trunk[0].start, *(one.end for one in trunk)]
        self.reach = {one.segment: reach_of(one, on) for many in on.values() for one in many}

    def packed(self, heights: Sequence[float]) -> Packed:
        """Everything laid, with rows so far apart."""
        rows, line, corners = self._rows(heights)
        pieces = cut(line, self.long)
        spots = [pieces[0][0], *(piece[-1] for piece in pieces)]
        made = Packed(rows, {}, pieces, corners, self._least)
        for leg, (a, b) in enumerate(rows):
            for side in (0, 1):
                made.piles[leg, side] = self._pile(rows, leg, side, a, b)
        self._trunk_on(made, spots)
        self._hang(made, spots)
        return made

    def _rows(self, heights: Sequence[float]) -> tuple[list[tuple[Spot, Spot]], list[Spot], list[Spot]]:
        """(legs of the trunk's square way, its line with arcs, the arcs' middles)."""
        rest, x, y, way, row = sum(self.long), self.form.in_mm, 0.0, EAST, 0
        self._least: list[float] = []
        square, turned = [(x, y)], [(x, y)]
        corners: list[Spot] = []
        legs: list[tuple[Spot, Spot]] = []
        width = self.form.row_mm
        whole = rest
        while True:
            target = width if way == EAST else 0.0
            far = abs(target - x)
            radius = self._radius_about(whole - rest + far)
            # never less than a bend short of the end: then the row is made longer by it
            if rest <= far + 2 * radius + 2.0:
                x += way[0] * rest
                turned.append((x, y))
                legs.append((square[-1], (x, y)))
                return legs, turned, corners
            self._least.append(2 * radius + 1.0)
            rise = max(heights[row] if row < len(heights) else heights[-1], self._least[-1])
            back = WEST if way == EAST else EAST
            first = arc((target - way[0] * radius, y + radius), radius, way, NORTH)
            legs.append((square[-1], (target, y)))
            turned += first
            corners.append(first[len(first) // 2])
            square.append((target, y))
            rest -= far - saved(radius)
            if rest <= rise:
                turned.append((target, y + rest))
                legs.append((square[-1], (target, y + rest)))
                return legs, turned, corners
            second = arc((target - way[0] * radius, y + rise - radius), radius, NORTH, back)
            turned += second
            corners.append(second[len(second) // 2])
            legs.append((square[-1], (target, y + rise)))
            square.append((target, y + rise))
            rest -= rise - saved(radius)
            x, y, way, row = target, y + rise, back, row + 1

    def _radius_about(self, walked: float) -> float:
        """How wide the trunk turns so far along it: as wide as its thickest part there asks for."""
        near = [
            one.radius_mm
            for one, low, high in zip(self.trunk, self.ends, self.ends[1:], strict=False)
            if high > walked - TURN_MM and low < walked + TURN_MM
        ]
        return max([LEAST_RADIUS_MM, *near])

    def _pile(self, rows: Sequence[tuple[Spot, Spot]], leg: int, side: int, a: Spot, b: Spot) -> Pile:
        """One side of a leg, flowing to the open end of what it bounds: to the north side 0, to the south 1; beside
        upright legs outward alone."""
        if leg % 2:
            out = EAST if (leg // 2) % 2 == 0 else WEST
            up = out if side == 0 else (-out[0], -out[1])
            return self._upon(Shelf(a, NORTH, up, math.dist(a, b)))
        row = leg // 2
        east = row % 2 == 0
        left, right = (a, b) if east else (b, a)
        # the north of a row is closed where it turns; the south where it came from
        flow = (WEST if east else EAST) if side == 0 else (EAST if east else WEST)
        if (side == 0 and leg + 2 >= len(rows)) or (side == 1 and leg == 0):
            flow = WEST if flow == EAST else EAST  # nothing closes it there: out over the longer way
        if flow == EAST:
            return self._upon(Shelf((0.0, a[1]), EAST, NORTH if side == 0 else SOUTH, max(self.form.row_mm, right[0])))
        return self._upon(
            Shelf(
                (max(self.form.row_mm, right[0]), a[1]),
                WEST,
                NORTH if side == 0 else SOUTH,
                max(self.form.row_mm, right[0]) - min(0.0, left[0]),
            )
        )

    def _upon(self, shelf: Shelf) -> Pile:
        return Pile(shelf, self.gap, self.form.stand_mm, self.overlong_mm, self.form.over, self.form.other)

    def _trunk_on(self, made: Packed, spots: Sequence[Spot]) -> None:
        """The trunk's own thickness, what lies at its ends, its reels."""
        for one, piece in zip(self.trunk, made.pieces, strict=True):
            legs = [made.leg_of(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)) for a, b in pairwise(piece)]
            first = 0
            for at, leg in enumerate(legs):
                if at + 1 < len(legs) and legs[at + 1] == leg:
                    continue  # a stretch upon one leg is taken up at once
                for side in (0, 1):
                    pile = made.piles[leg, side]
                    along = [pile.shelf.s_of(spot) for spot in piece[first : at + 2]]
                    pile.raise_to(min(along), max(along), one.half_mm + self.gap / 2)
                first = at + 1
        last = len(made.rows) - 1
        for tip, leg, spot, away in (
            (self.first, 0, spots[0], made.rows[0][1]),
            (self.trunk[-1].tip, last, spots[-1], made.rows[last][0]),
        ):
            if tip.wide_mm:
                for side in (0, 1):
                    pile = made.piles[leg, side]
                    here = pile.shelf.s_of(spot)
                    beyond = here + (tip.deep_mm if pile.shelf.s_of(away) < here else -tip.deep_mm)
                    low, high = min(here, beyond) - TIP_CLEAR_MM, max(here, beyond) + TIP_CLEAR_MM
                    pile.raise_to(low, high, tip.wide_mm / 2 + TIP_CLEAR_MM)
        for one, piece in zip(self.trunk, made.pieces, strict=True):
            if one.segment in self.reels:
                (x, y), _ = middle_of(piece)
                leg = min(
                    range(len(made.rows)), key=lambda at: abs(made.rows[at][0][1] - y) + abs(made.rows[at][1][1] - y)
                )
                pile, radius = made.piles[leg, 0], self.reels[one.segment][0]
                here = pile.shelf.s_of((x, y))
                pile.raise_to(here - radius - self.gap, here + radius + self.gap, 2 * radius + self.gap)

    def _hang(self, made: Packed, spots: Sequence[Spot]) -> None:
        """Every limb of the trunk, where less lies; upon each shelf from the end of its flow on. What hangs on an
        upright leg lies upon the row below it, further in than all of that row, or outside."""
        load: dict[tuple[int, int], NDArray[np.float64]] = {}
        units: dict[tuple[int, int], list[tuple[float, float, int, Branch]]] = {key: [] for key in made.piles}
        for number, point in enumerate(self.points):
            leg = made.leg_of(spots[number])
            for one in sorted(self.on.get(point, ()), key=lambda one: (-self.reach[one.segment], one.segment)):
                costs = {
                    key: self._cost(made, load, key, one, spots[number])
                    for key in (((leg, 0), (leg, 1)) if not leg % 2 else ((leg - 1, 0), (leg, 0)))
                }
                best, other = sorted(costs, key=lambda key: costs[key])
                if one.segment in self.form.other:
                    best = other
                pile = made.piles[best]
                at, span, legs = self._span(pile, one, spots[number])
                if best not in load:
                    load[best] = np.zeros(len(pile.sky))
                load[best][pile.cells(at, at + span)] += legs * (2 * one.half_mm + self.gap) / self.gap
                units[best].append((at, pile.shelf.off_of(spots[number]), number, one))
        for key, mine in units.items():
            pile = made.piles[key]
            places = sorted(
                {(at, -off, number) for at, off, number, _ in mine},
                key=lambda place: (-round(place[0]), -place[1], place[2]),
            )
            for place, (at, less, number) in enumerate(places):
                here = sorted(
                    (one for _, _, other, one in mine if other == number),
                    key=lambda one: (self.reach[one.segment], one.segment),
                )
                before = (
                    places[place + 1][0]
                    if place + 1 < len(places)
                    else max(at - 10 * self.gap, 0.0 if not key[0] % 2 else -1e3)
                )
                step = min(self.gap, max((at - before - self.gap / 2) / (len(here) + 1), 3.0))
                upright = -less > self.half + 1.0
                for count, one in enumerate(here):
                    begin = spots[number]
                    if upright:
                        pile.hang(one, self.on, at, -less, at + self.half + self.gap * (len(here) - count), True, begin)
                    else:
                        pile.hang(one, self.on, at, self.half, at - step * count, False, begin)

    def _span(self, pile: Pile, one: Branch, spot: Spot) -> tuple[float, float, int]:
        """(where a limb hangs, how far it lies, in how many legs)."""
        at, reach = pile.shelf.s_of(spot), self.reach[one.segment]
        room = max(pile.shelf.long_mm - at, LEAST_SPAN_MM, 5 * one.radius_mm, pile.over * pile.shelf.long_mm)
        legs = max(math.ceil(min(reach, self.overlong_mm) / room), 1)
        return at, min(reach, room), legs

    def _cost(
        self,
        made: Packed,
        load: Mapping[tuple[int, int], NDArray[np.float64]],
        key: tuple[int, int],
        one: Branch,
        spot: Spot,
    ) -> float:
        """How high a limb would lie there, in widths of thin ones."""
        pile = made.piles[key]
        at, span, legs = self._span(pile, one, spot)
        cells = load[key][pile.cells(at, at + span)] if key in load else ()
        wide = (2 * max(one.half_mm, one.radius_mm if legs > 1 else 0.0) + self.gap) / self.gap
        return (
            (float(np.maximum.reduce(cells)) if len(cells) else 0.0)
            + 1.5 * (legs - 1) * wide
            + (OUTSIDE_WORTH if key[0] % 2 else 0.0)
        )

    def ribbon(self, made: Packed, looks: int) -> Ribbon:
        """What was laid, with the trunk."""
        placed = {name: one for pile in made.piles.values() for name, one in pile.placed.items()}
        spots: dict[str, Spot] = {}
        ways: dict[str, Spot] = {}
        for one, piece in zip(self.trunk, made.pieces, strict=True):
            spots.setdefault(one.start, piece[0])
            spots[one.end] = piece[-1]
            mine = [
                spot
                for spot in made.corners
                if any(math.dist(spot, a) + math.dist(spot, b) <= math.dist(a, b) + 0.5 for a, b in pairwise(piece))
            ]
            placed[one.segment] = Placed(piece, mine, last_way(piece))
            ways[one.end] = placed[one.segment].way
            if one.segment in self.reels:
                radius, turns = self.reels[one.segment]
                (x, y), _ = middle_of(piece)
                placed[one.segment].reel = Reel((x, y + radius), radius, turns, self.long[self.trunk.index(one)] / 2)
        ways[self.trunk[0].start] = last_way(made.pieces[0][::-1])
        for many in self.on.values():
            for one in many:
                spots[one.end], ways[one.end] = placed[one.segment].line[-1], placed[one.segment].way
        return Ribbon(placed, spots, ways, looks)
