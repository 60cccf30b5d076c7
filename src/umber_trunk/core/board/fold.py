"""The layout of a harness on a board: of many ways to lay it out that which fits with the fewest folds.

Zero is at the board's lower left corner, x to the right, y up, all in mm at 1:1.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from random import Random

from umber_trunk.core.board.crossing import crossings
from umber_trunk.core.board.grow import NOTHING, Branch, Grown, NoRoomError, Tip, lay_bare, lay_branch, lay_trunk
from umber_trunk.core.board.rays import Spot, World
from umber_trunk.core.board.spread import spread
from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, EndKind
from umber_trunk.core.harness.way import Board
from umber_trunk.core.picture.layout import Picture

MARGIN_MM = 15.0
GAPS = (1.0, 0.65, 0.4)
"""Shares of the wanted gap that are tried, the next only where none fits."""
COMPACT = (100.0, 1.6)
"""How far folds may stretch: across whatever is free, or in patches a little longer than wide."""
LEAST_MM = 1e-3
MOST_LAID = 25_000
"""Segments laid in all tries before any fits; then every limb lies straight, on as large a board as that takes."""
PATIENCE = 26_000
"""Legs of folds looked at in one try, times segments: large harnesses get fewer for each."""
WORK = 60
"""So many segments are laid again, in other ways, to save folds once one way fits."""
LARGER = (1.0, 1.2, 1.45, 1.75, 2.1, 2.6, 4.0)


@dataclass(frozen=True)
class Folded:
    """A harness on a board. `lines`: segment → points from its a-side; `spots`: point → place; `ways`: point → the direction in
    which its limb ends there; `folds`: (segment, where). `fits`: all of it lies inside the board asked for; else `needed`
    (width, height) is a board that it lies inside, the one it is drawn on. `left_out` are segments that close a loop; `unkept`
    those whose wanted angle has no room."""

    board: Board
    lines: dict[str, list[Spot]]
    spots: dict[str, Spot]
    ways: dict[str, Spot]
    folds: tuple[tuple[str, Spot], ...]
    fits: bool
    needed: tuple[float, float]
    gap_mm: float
    trunk: tuple[str, ...]
    left_out: tuple[str, ...] = ()
    unkept: tuple[str, ...] = ()
    tips: dict[str, Tip] = field(default_factory=dict)

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of what it is drawn on."""
        return (self.board.width_mm, self.board.height_mm) if self.fits else self.needed


def tips_of(design: Design, shelf: Shelf | None = None) -> dict[str, Tip]:
    """What lies at each point: outlines of its ends, beside one another."""
    shelf, found = shelf_for(design, shelf), dict[str, Tip]()
    for end in design.ends:
        if end.point is None or end.kind is EndKind.SPLICE:
            continue
        bodies = [part for body in end.housings if (part := shelf.get(body.part, Housing))]
        wide, deep = (20.0, 20.0) if end.stud_mm else (24.0, 24.0)
        if bodies:
            wide, deep = (
                sum(part.width_mm for part in bodies) + 6 * (len(bodies) - 1),
                max(part.depth_mm for part in bodies),
            )
        before = found.get(end.point)
        found[end.point] = Tip(
            wide + (before.wide_mm + 6 if before else 0.0), max(deep, before.deep_mm if before else 0.0)
        )
    return found


def fold(
    design: Design,
    board: Board | None = None,
    wanted: Wanted = always,
    wide_mm: Mapping[str, float] | None = None,
    shelf: Shelf | None = None,
) -> Folded:
    """The harness on a board, the project's unless said, with limbs as thick as `wide_mm` says by segment. Always answers: where nothing fits, on the smallest larger board that
    does. Asks between tries whether it is still `wanted`."""
    board = board or design.project.board
    index, tips = index_of(design), tips_of(design, shelf)
    trees = _trees(index, tips, Picture(design).spine, wide_mm or {})
    whole = (board.width_mm, board.height_mm)
    if not trees:
        return Folded(board, {}, {}, {}, (), True, whole, board.gap_mm, (), index.loops, (), tips)
    covered = sum(
        one.long_mm * max(2 * one.half_mm, 1.0) for tree in trees for one in (*tree.trunks[0], *tree.beside[0])
    )
    laid = 0
    for larger in LARGER:
        width, height = board.width_mm * larger, board.height_mm * larger
        if covered > width * height or laid > MOST_LAID:
            continue  # no way lays more than there is room for
        best: tuple[int, Grown, float, tuple[str, ...]] | None = None
        work = 0
        for gap, number, rows, compact, draw in _tries(larger > 1):
            go_on_if(wanted)
            if best is not None and (gap < best[2] or not best[0] or work > WORK):
                break
            if best is None and draw:
                continue
            work += len(design.segments) if best is not None else 0
            laid += len(design.segments)
            if best is None and laid > MOST_LAID:
                break
            made = _tried(trees, number, width, height, board.gap_mm * gap, rows, compact, draw)
            if made is not None and (best is None or len(made.folds) < best[0]):
                trunk = tuple(one.segment for tree in trees for one in tree.trunks[min(number, len(tree.trunks) - 1)])
                best = (len(made.folds), made, gap, trunk)
        if best is not None:
            return _settled(design, board, best, larger, tips, index.loops)
    return _spread_out(design, board, trees, tips, index.loops)


def _spread_out(
    design: Design, board: Board, trees: list[_Tree], tips: dict[str, Tip], loops: tuple[str, ...]
) -> Folded:
    """Every limb straight, on as large a board as that takes."""
    whole, top = Grown(), 0.0
    for tree in trees:
        part = spread([*tree.trunks[0], *tree.beside[0]], (0.0, 0.0))
        if tree.lone:
            part.spots[tree.lone], part.ways[tree.lone] = (0.0, 0.0), (1.0, 0.0)
        up = top - min(y for _, y in part.spots.values())
        whole.lines |= {name: [(x, y + up) for x, y in line] for name, line in part.lines.items()}
        whole.spots |= {point: (x, y + up) for point, (x, y) in part.spots.items()}
        whole.ways |= part.ways
        top = max(y for _, y in whole.spots.values()) + 100.0
    trunk = tuple(one.segment for tree in trees for one in tree.trunks[0])
    return _settled(design, board, (0, whole, 0.0, trunk), 2.0, tips, loops)


@dataclass(frozen=True)
class _Tree:
    """One tree: ways that can be its trunk, for each what lies at its beginning, and the segments beside it in an order in which
    each hangs on what is laid; `lone`: a point without segments."""

    trunks: list[list[Branch]]
    firsts: list[Tip]
    beside: list[list[Branch]]
    lone: str = ""


def _trees(index: Index, tips: dict[str, Tip], spine: Sequence[str], wide_mm: Mapping[str, float]) -> list[_Tree]:
    used = {segment for _, segment, _ in index.parents.values() if segment}
    near = {
        point: [(segment, other) for segment, other in others if segment in used]
        for point, others in index.neighbours.items()
    }
    found = []
    for root in [point for point, (_, segment, _) in index.parents.items() if not segment]:
        if not near[root]:
            if root in index.ends_at:
                found.append(_Tree([[]], [tips.get(root, NOTHING)], [[]], root))
            continue
        ways = [_longest(index, near, root)]
        if len(spine) > 1 and spine[0] == root and list(spine) != ways[0]:
            ways.append(list(spine))
        made = [_branches(index, near, way, tips, wide_mm) for way in ways]
        firsts = [tips.get(way[0], NOTHING) for way in ways]
        found.append(_Tree([trunk for trunk, _ in made], firsts, [beside for _, beside in made]))
    return found


Near = dict[str, list[tuple[str, str]]]


def _mm(index: Index, segment: str) -> float:
    return 1e3 * index.segments[segment].measure.length_m


def _longest(index: Index, near: Near, root: str) -> list[str]:
    """Points of the longest way through a tree, from the end nearer to its root."""

    def furthest(start: str) -> list[str]:
        far: dict[str, tuple[float, str]] = {start: (0.0, "")}
        order = [start]
        for here in order:
            for segment, other in near[here]:
                if other not in far:
                    far[other] = (far[here][0] + _mm(index, segment), here)
                    order.append(other)
        last = max(range(len(order)), key=lambda at: (far[order[at]][0], at))  # of equals the one most points on
        way = [order[last]]
        while way[-1] != start:
            way.append(far[way[-1]][1])
        return way[::-1]

    way = furthest(furthest(root)[-1])
    return way if index.parents[way[0]][2] <= index.parents[way[-1]][2] else way[::-1]


def _branches(
    index: Index, near: Near, way: Sequence[str], tips: dict[str, Tip], wide_mm: Mapping[str, float]
) -> tuple[list[Branch], list[Branch]]:
    """(the trunk's segments in order, the others: what carries more before what carries less, leaves last)."""
    before: dict[str, tuple[str, str]] = {}
    order, seen = list(way), set(way)
    for here in order:
        for segment, other in near[here]:
            if other not in seen:
                seen.add(other)
                before[other] = (here, segment)
                order.append(other)
    weight = dict.fromkeys(order, 0.0)
    for point in reversed(order):
        if point in before:
            start, segment = before[point]
            weight[start] += weight[point] + max(
                _mm(index, segment), LEAST_MM
            )  # what carries anything weighs something

    def branch(segment: str, start: str, end: str, carried: float) -> Branch:
        part = index.segments[segment]
        return Branch(
            segment,
            start,
            end,
            _mm(index, segment),
            carried,
            part.turn_deg,
            tips.get(end, NOTHING),
            wide_mm.get(segment, 0.0) / 2,
        )

    trunk = []
    for here, onward in pairwise(way):
        segment = next(name for name, other in near[here] if other == onward)
        trunk.append(branch(segment, here, onward, 1.0))
    beside = [branch(before[point][1], before[point][0], point, weight[point]) for point in order if point in before]
    return trunk, beside


def _tries(larger: bool) -> Iterator[tuple[float, int, int, float, int]]:
    """(share of the gap, which trunk, rows beyond the fewest, how compact folds are, seed of chance): a few of each gap, then
    by chance."""
    if larger:
        yield from ((1.0, 0, 0, compact, 0) for compact in COMPACT)
        return
    for gap in GAPS:
        if gap == GAPS[0]:
            yield gap, 0, 0, COMPACT[0], 0
        yield gap, 0, 0, COMPACT[1], 0
        if gap == GAPS[1]:
            yield gap, 1, 0, COMPACT[1], 0
        if gap == GAPS[-1]:
            yield gap, 0, 1, COMPACT[1], 0
        for draw in range(1, 40):
            yield gap, draw % 2, (draw // 2) % 2, COMPACT[(draw // 4) % 2], draw


def _tried(
    trees: list[_Tree], number: int, width: float, height: float, gap: float, more: int, compact: float, seed: int
) -> Grown | None:
    """All trees laid on one board; None where one has no room or, looked at once more, lines cross."""
    if number and all(len(tree.trunks) == 1 for tree in trees):
        return None
    world, grown = (
        World(width, height, MARGIN_MM, gap, compact, PATIENCE // sum(_count(tree) for tree in trees)),
        Grown(),
    )
    share = [max(_size(tree), 1.0) for tree in trees]
    low, draw = 0.0, Random(seed)
    try:
        for tree, part in zip(trees, share, strict=True):
            tall = height * part / sum(share)
            _lay_trunk(grown, world, tree, number, width, (low, low + tall), more)
            low += tall
        for tree in trees:
            _lay_carrying(grown, world, tree.beside[min(number, len(tree.beside) - 1)], draw)
        _lay_bare(grown, world, [one for tree in trees for one in tree.beside[min(number, len(tree.beside) - 1)]], draw)
    except NoRoomError:
        return None
    return None if crossings(grown.lines) else grown


def _count(tree: _Tree) -> int:
    return len(tree.trunks[0]) + len(tree.beside[0]) + 1


def _size(tree: _Tree) -> float:
    return sum(one.long_mm for one in (*tree.trunks[0], *tree.beside[0]))


def _lay_trunk(
    grown: Grown, world: World, tree: _Tree, number: int, width: float, band: tuple[float, float], more: int
) -> None:
    low, high = band
    if tree.lone:
        spot = (width / 2, (low + high) / 2)
        grown.spots[tree.lone], grown.ways[tree.lone] = spot, (1.0, 0.0)
        world.add(spot, (spot[0] + 1.0, spot[1]), max(tree.firsts[0].wide_mm, tree.firsts[0].deep_mm) / 2)
        return
    number = min(number, len(tree.trunks) - 1)
    trunk, first = tree.trunks[number], tree.firsts[number]
    long, edge = sum(one.long_mm for one in trunk), MARGIN_MM + 20.0
    left = MARGIN_MM + max(20.0, first.deep_mm)
    room = width - left - edge - trunk[-1].tip.deep_mm
    rows = max(1, math.ceil(long / room - 1e-9)) + more
    if rows == 1:
        lay_trunk(grown, world, trunk, first, left + (room - long) / 2, [(low + high) / 2], width - edge)
        return
    if (high - low) / rows < 2 * world.gap:
        raise NoRoomError("")
    heights = [low + (high - low) * (row + 0.5) / rows for row in range(rows)]
    # room beside the turns, so that what hangs there can leave
    aside = min(max((rows * room - long) / (2 * rows), 0.0), 0.2 * width)
    lay_trunk(grown, world, trunk, first, left + aside, heights, width - edge - aside - trunk[-1].tip.deep_mm)


def _lay_carrying(grown: Grown, world: World, beside: list[Branch], draw: Random) -> None:
    """What carries others, the most first."""
    waiting = sorted((one for one in beside if one.weight > 0), key=lambda one: (-one.weight, one.segment))
    while waiting:
        one = next(one for one in waiting if one.start in grown.spots)
        waiting.remove(one)
        lay_branch(grown, world, one, draw)


def _lay_bare(grown: Grown, world: World, beside: list[Branch], draw: Random) -> None:
    """What carries nothing: first what the builder wants at an angle, then where least is free."""
    bare = [one for one in beside if one.weight <= 0]
    room = {start: float(world.free(grown.spots[start]).mean()) for start in {one.start for one in bare}}
    bare.sort(
        key=lambda one: (
            one.turn_deg is None, room[one.start] * draw.uniform(0.8, 1.2) - 0.5 * one.long_mm, one.segment,
        )
    )  # fmt: skip
    lay_bare(grown, world, bare, draw)


def _settled(
    design: Design, board: Board, best: tuple[int, Grown, float, tuple[str, ...]], larger: float, tips: dict[str, Tip], loops: tuple[str, ...]
) -> Folded:  # fmt: skip
    """Each line from its segment's a-side; a larger board cut down to what is used."""
    _, grown, gap, trunk = best
    dx = dy = 0.0
    needed = (board.width_mm, board.height_mm)
    if larger > 1:
        reach = [spot for line in grown.lines.values() for spot in line] + list(grown.spots.values())
        out = MARGIN_MM + max([0.0, *(max(tip.deep_mm, tip.wide_mm / 2) for tip in tips.values())])
        dx, dy = out - min(x for x, _ in reach), out - min(y for _, y in reach)
        needed = (
            10.0 * math.ceil((max(x for x, _ in reach) + dx + out) / 10),
            10.0 * math.ceil((max(y for _, y in reach) + dy + out) / 10),
        )

    def at(spot: Spot) -> Spot:
        return spot[0] + dx, spot[1] + dy

    lines = {}
    for segment in design.segments:
        line = grown.lines.get(segment.id)
        if line is not None:
            moved = [at(spot) for spot in line]
            here = at(grown.spots[segment.a])
            lines[segment.id] = moved if math.dist(moved[0], here) <= math.dist(moved[-1], here) else moved[::-1]
    return Folded(
        board, lines, {point: at(spot) for point, spot in grown.spots.items()}, grown.ways,
        tuple((segment, at(spot)) for segment, spot in grown.folds), larger == 1.0, needed, board.gap_mm * gap, trunk, loops,
        tuple(grown.unkept), tips,
    )  # fmt: skip
