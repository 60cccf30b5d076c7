"""Limbs laid one after another into what is free round limbs that lie already: what is new beside pins, what is wished
at an angle.

Each goes straight where it can, else round a corner, else beside itself. What has no place takes that of its
neighbours, which are laid again after it; where that doesn't help either it is said which limb it was.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from itertools import islice, pairwise
from random import Random

from umber_trunk.core.board.grid import WAYS, Box, Grid, Spot, Way, along, boxes_of
from umber_trunk.core.board.grown import Grown, tip_boxes
from umber_trunk.core.board.limbs import TIP_CLEAR_MM, Branch, Laid, Leaving, Tip, Ways
from umber_trunk.core.board.pieces import gap_between, go_together, to_box

MOST_TAKEN = 16
"""So often a limb may take its neighbours' place in one try."""
ROUND_MM = 260.0
"""Neighbours whose place is taken lie within so much of where the limb hangs."""
FANS = (1, -1, 2, -2, 3, -3, 4, -4)
"""Lanes to either side of a point in which one more limb may leave it, the nearest first."""
MOST_OF_A_KIND, MOST_CHOICE = 3, 12
"""So many ways of one kind, and of all kinds, are weighed for a limb."""
MOST_WIDENED = 12
"""So often the box is made a little larger in one try."""
MOST_BACK = 3
"""So often a limb is laid again, since something had no place on it."""


def _round_about(a: Spot, b: Spot, reach: float) -> Box:
    """The box round two places, so much larger on all sides."""
    return min(a[0], b[0]) - reach, min(a[1], b[1]) - reach, max(a[0], b[0]) + reach, max(a[1], b[1]) + reach


def _beyond(one: Box, other: Box) -> bool:
    """Whether boxes lie apart."""
    return one[0] > other[2] or one[2] < other[0] or one[1] > other[3] or one[3] < other[1]


class NoRoomError(Exception):
    """A limb that has no place in this try: its segment, "" where several have none."""


class Growing:
    """Limbs laid onto a grid, with a gap between them; what is laid again is laid otherwise, by drawn numbers that are
    always the same."""

    def __init__(self, grid: Grid, gap: float, overlong_mm: float = math.inf) -> None:
        self.grid, self.gap, self.draw, self.free_choice = grid, gap, Random(0), True
        self.grown = Grown()
        self.wider, self.overlong_mm = (0, 3), overlong_mm
        self.fixed: list[Box] = []
        self.taken: dict[str, set[Way]] = {}

    def lies(self, laid: Grown, ones: Mapping[str, Branch], tips: Mapping[str, Tip]) -> None:
        """What lies already stays where it is."""
        self.grown = laid
        for name, line in laid.lines.items():
            one = ones[name]
            clear = one.half_mm + self.gap / 2
            xs, ys = [x for x, _ in line], [y for _, y in line]
            laid.spans[name] = (min(xs), min(ys), max(xs), max(ys))
            laid.boxes[name] = tuple(boxes_of(line, clear, self.grid.cell))
            for point in (one.start, one.end):
                laid.clear[point] = max(laid.clear.get(point, 0.0), clear)
            for point, way in (
                (one.start, (line[1][0] - line[0][0], line[1][1] - line[0][1])),
                (one.end, (line[-2][0] - line[-1][0], line[-2][1] - line[-1][1])),
            ):
                here = point if math.dist(laid.spots[point], line[0] if point == one.start else line[-1]) < 1e-6 else ""
                if here:
                    self._leaves(here, way)
        self.fixed += tip_boxes(laid, tips, TIP_CLEAR_MM, self.grid.cell)
        for reel in laid.reels.values():
            (x, y), r = reel.at, reel.radius_mm + self.gap / 2
            self.fixed.append((x - r, y - r, x + r, y + r))
        self._afresh()

    # limbs

    def branch(self, one: Branch) -> None:
        """One limb from where it hangs. NoRoomError where it has no place."""
        grown, ways = self.grown, Ways(self.grid, one, self.gap)
        start = grown.spots[one.start]
        if one.long_mm <= 1e-9:
            grown.put(one, Laid((start, start), (), grown.ways.get(one.start, (1.0, 0.0)), ()), ways.clear)
            return
        laid = self._wished(ways, start) if one.turn_deg is not None else None
        if laid is None:
            if one.turn_deg is not None:
                grown.unkept.append(one.segment)
            laid = self._found(ways, start)
        if laid is None:
            raise NoRoomError(one.segment)
        grown.put(one, laid, ways.clear)
        self._take(laid.boxes)
        (ax, ay), (bx, by) = laid.line[0], laid.line[1]
        self._leaves(one.start, (bx - ax, by - ay))
        self._leaves(one.end, (-laid.way[0], -laid.way[1]))

    def _found(self, ways: Ways, start: Spot) -> Laid | None:
        one = ways.one
        straight = list(self._leavings(ways, start))
        fan = _Kept(leave for leave in self._fan(ways, start) if leave.used < one.long_mm - 4.0)
        kinds: Sequence[tuple[Callable[[Leaving], Iterator[Laid]], Iterable[Leaving]]] = (
            (ways.straight, straight),
            (ways.straight, fan),
            (ways.cornered, straight),
            (ways.cornered, fan),
            (ways.twice, straight),
            (ways.to_and_fro, straight),
            (ways.to_and_fro, fan),
            (ways.wound_up, straight),
            (ways.wound_up, fan),
        )
        if one.long_mm > self.overlong_mm:
            kinds = kinds[-2:]
        found: list[Laid] = []
        if one.weight > 0:
            for kind, leaves in kinds[:-2]:
                for leave in islice(leaves, 6):
                    found += islice(kind(leave), 4)
                if len(found) >= MOST_CHOICE:
                    break
            kinds = kinds[-2:] if not found else ()
        for kind, leaves in kinds:
            found += islice((laid for leave in leaves for laid in islice(kind(leave), 2)), MOST_OF_A_KIND)
            if found:
                break
        if not found:
            return self._stub(ways, start, straight)
        worth = self._room if one.weight > 0 else self._snug
        return max(found, key=lambda laid: worth(ways, laid))

    def _stub(self, ways: Ways, start: Spot, leaves: Sequence[Leaving]) -> Laid | None:
        """A limb shorter than its point's own things are wide: straight, beside nothing."""
        one = ways.one
        for leave in leaves:
            if one.long_mm <= leave.skip + ways.clear and not ways.tip.wide_mm:
                return Laid(
                    (start, along(start, leave.way, one.long_mm)), (), (float(leave.way[0]), float(leave.way[1])), ()
                )
        return None

    def _room(self, ways: Ways, laid: Laid) -> float:
        """How much is free round the end of a limb that carries others, for what hangs on it."""
        half = min(max(math.sqrt(ways.one.weight * self.gap * 2) / 2, 3 * self.gap), 500.0)
        x, y = laid.line[-1]
        free = 1.0 - self.grid.taken_in((x - half, y - half, x + half, y + half))
        return free - 0.06 * len(laid.corners) + (0.0 if self.free_choice else self.draw.uniform(0, 0.25))

    def _snug(self, ways: Ways, laid: Laid) -> float:
        """How much of what lies round a limb that carries nothing is taken already: the rest stays in one piece."""
        boxes = laid.boxes[-2:]
        beside = sum(
            self.grid.taken_in((b[0] - self.gap, b[1] - self.gap, b[2] + self.gap, b[3] + self.gap)) for b in boxes
        ) / max(len(boxes), 1)
        return beside - 0.1 * len(laid.corners) + (0.0 if self.free_choice else self.draw.uniform(0, 0.15))

    def _leavings(self, ways: Ways, start: Spot) -> Iterator[Leaving]:
        """Directions in which nothing leaves the point yet: square to the limb before first, the tighter of two sides
        first."""
        used = self.taken.get(ways.one.start, set())
        back = self.grown.ways.get(ways.one.start, (1.0, 0.0))
        free = [way for way in WAYS if way not in used]
        runs = {way: self.grid.run(along(start, way, self._skip(ways, start, way)), way, ways.clear) for way in free}
        jitter = {way: 0.0 if self.free_choice else self.draw.random() for way in free}
        for way in sorted(
            free, key=lambda way: (abs(way[0] * back[0] + way[1] * back[1]) > 0.5, jitter[way] > 0.7, runs[way])
        ):
            yield Leaving((), start, way, self._skip(ways, start, way))

    def _skip(self, ways: Ways, start: Spot, way: Way) -> float:
        """How far the point's own things reach in a direction, to the next line between squares."""
        clear = self.grown.clear.get(ways.one.start, ways.clear)
        at = start[0] * way[0] + start[1] * way[1]
        return self.grid.up_to(at + clear) - at

    def _fan(self, ways: Ways, start: Spot) -> Iterator[Leaving]:
        """Beside what already leaves the point: a short piece aslant, then on beside it."""
        pitch = self.grid.up_to(ways.clear + self.gap / 2)
        for step in FANS:
            for way in WAYS:
                rise, side = self._skip(ways, start, way), (-way[1], way[0])
                at = (
                    start[0] + way[0] * rise + side[0] * step * pitch,
                    start[1] + way[1] * rise + side[1] * step * pitch,
                )
                if self.grid.run(at, way, ways.clear) >= 2 * ways.clear and self._apart(start, at):
                    yield Leaving((start,), at, way, 0.0, math.dist(start, at))

    def _apart(self, a: Spot, b: Spot) -> bool:
        """Whether a slanted beginning crosses nothing and keeps half a gap from what isn't its point's."""
        reach = 0.5 * self.gap
        wide = _round_about(a, b, reach)
        for name, line in self.grown.lines.items():
            if _beyond(self.grown.spans[name], wide):
                continue
            mine = line[0] == a or line[-1] == a
            near = reach if not mine else 0.5
            close = _round_about(a, b, near)
            for c, d in pairwise(line):
                if _beyond(_round_about(c, d, 0.0), close):
                    continue
                if mine and (c == a or d == a):
                    if go_together(a, b, c, d):
                        return False
                elif gap_between(a, b, c, d) < near:
                    return False
        return True

    def _wished(self, ways: Ways, start: Spot) -> Laid | None:
        """At the angle the builder wants to the limb before."""
        one = ways.one
        back = self.grown.ways.get(one.start, (1.0, 0.0))
        angle = math.atan2(back[1], back[0]) + math.radians(one.turn_deg or 0.0)
        way = (math.cos(angle), math.sin(angle))
        end = (start[0] + way[0] * one.long_mm, start[1] + way[1] * one.long_mm)
        boxes = list(boxes_of([start, end], ways.clear, self.grid.cell))
        reach = self.grown.clear.get(one.start, ways.clear) + 2 * ways.clear
        far = [
            box
            for box in boxes
            if math.dist(start, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)) > reach or len(boxes) == 1
        ]
        if ways.tip.wide_mm:
            tip = (end[0] + way[0] * ways.tip.deep_mm, end[1] + way[1] * ways.tip.deep_mm)
            far += boxes_of([end, tip], ways.tip.wide_mm / 2, self.grid.cell)
        laid = Laid((start, end), (), way, (*boxes, *far))
        inside = all(0 <= x <= self.grid.width and 0 <= y <= self.grid.height for x, y in laid.line)
        crossed = any(
            (c != start and d != start and gap_between(start, end, c, d) < 0.5)
            or ((c == start or d == start) and go_together(start, end, c, d))
            for line in self.grown.lines.values()
            for c, d in pairwise(line)
        )
        return laid if inside and not crossed and all(self.grid.clear(box) for box in far) else None

    def beside(self, beside: Iterable[Branch]) -> None:
        """All that isn't laid yet, each limb with what hangs on it: first what had no place before, then the heaviest.
        What finds no place takes that of what lies nearest to where it hangs."""
        on: dict[str, list[Branch]] = {}
        for one in beside:
            if one.segment not in self.grown.lines:
                on.setdefault(one.start, []).append(one)
        heads = {one.segment: one for point, many in on.items() if point in self.grown.spots for one in many}
        parts = {name: list(_below(one, on)) for name, one in heads.items()}
        heavy = {
            name: sum(one.long_mm for one in mine) * (1.0 if self.free_choice else self.draw.uniform(0.6, 1.4))
            for name, mine in parts.items()
        }
        wished = {name: any(one.turn_deg is not None for one in mine) for name, mine in parts.items()}
        widened = 0
        queue, taken = sorted(heads, key=lambda name: (not wished[name], -heavy[name], name)), 0
        while queue:
            name = queue.pop(0)
            away: list[str] = []
            while True:
                try:
                    self._with_all(parts[name])
                    break
                except NoRoomError:
                    near = [
                        other
                        for other in self._nearest(self.grown.spots[heads[name].start], parts)
                        if other not in away and other != name
                    ]
                    if taken >= MOST_TAKEN or len(away) >= 3 or not near:
                        if widened >= MOST_WIDENED:
                            raise
                        widened += 1
                        self.grid.widen(*self.wider)
                        away = []
                        continue
                    taken += 1
                    other = near[0] if self.draw.random() < 0.7 else near[min(1, len(near) - 1)]
                    away.append(other)
                    self._away(parts[other])
            queue = [*away, *queue]

    def _with_all(self, mine: Sequence[Branch]) -> None:
        """A limb and what hangs on it, the first of all anew where that has no place. NoRoomError where none of some
        ways will do."""
        tries = 1 if len(mine) == 1 else MOST_BACK
        grid, free_choice = self.grid.mark(), self.free_choice
        used = {point: set(ways) for point, ways in self.taken.items()}
        clear = dict(self.grown.clear)
        try:
            for number in range(tries):
                self.free_choice = free_choice and number == 0
                laid: list[Branch] = []
                try:
                    for one in mine:
                        self.branch(one)
                        laid.append(one)
                    return
                except NoRoomError:
                    for one in reversed(laid):
                        self.grown.drop(one)
                    self.grid.back(grid)
                    self.taken = {point: set(ways) for point, ways in used.items()}
                    self.grown.clear = dict(clear)
                    if number + 1 == tries:
                        raise
        finally:
            self.free_choice = free_choice

    def _away(self, mine: Sequence[Branch]) -> None:
        """A limb and what hangs on it are taken away; its direction is free again."""
        a, b = self.grown.lines[mine[0].segment][:2]
        axis = _axis((b[0] - a[0], b[1] - a[1]))
        if axis is not None:
            self.taken[mine[0].start].discard(axis)
        for one in reversed(mine):
            self.taken.pop(one.end, None)
            self.grown.drop(one)
        self._afresh()

    def _afresh(self) -> None:
        """The grid of what lies, and what is kept free, now."""
        self.grid.empty()
        self._take(self.fixed)
        for boxes in self.grown.boxes.values():
            self._take(boxes)

    def _nearest(self, start: Spot, parts: Mapping[str, Sequence[Branch]]) -> list[str]:
        """What could be taken away, the nearest to a place first."""
        found = []
        for name, mine in parts.items():
            boxes = [box for one in mine for box in self.grown.boxes.get(one.segment, ())]
            off = min((to_box(start, box) for box in boxes), default=math.inf)
            if off < ROUND_MM:
                found.append((off, name))
        return [name for _, name in sorted(found)]

    def _take(self, boxes: Iterable[Box]) -> None:
        for box in boxes:
            self.grid.take(box)

    def _leaves(self, point: str, way: Spot) -> None:
        axis = _axis(way)
        if axis is not None:
            self.taken.setdefault(point, set()).add(axis)


class _Kept(Iterable[Leaving]):
    """Ways to leave a point, looked for when first asked for."""

    def __init__(self, source: Iterable[Leaving]) -> None:
        self._source, self._known = iter(source), list[Leaving]()

    def __iter__(self) -> Iterator[Leaving]:
        yield from self._known
        for leave in self._source:
            self._known.append(leave)
            yield leave


def _below(one: Branch, on: Mapping[str, list[Branch]]) -> Iterator[Branch]:
    """A limb and all that hangs on it: at each point what carries more first, then the longest."""
    yield one
    for more in sorted(on.get(one.end, ()), key=lambda more: (-more.weight, -more.long_mm, more.segment)):
        yield from _below(more, on)


def _axis(way: Spot) -> Way | None:
    """Which of the four directions a way goes in, None for a slanted one."""
    if abs(way[0]) < 1e-6 < abs(way[1]):
        return (0, 1 if way[1] > 0 else -1)
    if abs(way[1]) < 1e-6 < abs(way[0]):
        return (1 if way[0] > 0 else -1, 0)
    return None
