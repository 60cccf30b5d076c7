"""The layout of a harness on a board: of many ways to fold its trees, found by a counted search, that which takes the least room.

Zero is at the board's lower left corner, x to the right, y up, all in mm at 1:1.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from random import Random
from types import MappingProxyType

import numpy as np
from scipy.spatial import cKDTree

from umber_trunk.core.board.crossing import crossings
from umber_trunk.core.board.grid import Box, Grid, Spot, boxes_of
from umber_trunk.core.board.grow import Growing, Grown, NoRoomError, turns
from umber_trunk.core.board.limbs import LEAST_RADIUS_MM, NOTHING, Branch, Reel, Tip
from umber_trunk.core.board.pins import NOTHING_KEPT, Kept, keep_pins
from umber_trunk.core.board.ribbon import Form, NoWayError, Ribbon, ribbon
from umber_trunk.core.board.spread import spread
from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, EndKind
from umber_trunk.core.harness.way import Board
from umber_trunk.core.picture.layout import Picture

MARGIN_MM = 10.0
LEAST_MM = 1e-3
WORK = 14_000
"""What may be looked at for one board, limbs laid beside a trunk; more where nothing is found by then."""
MOST_WORK = 8.0
"""So many times that for the largest trees."""
ENOUGH = 1.55
"""Room beside what is needed at least, with which the search ends."""
POOR = 2.9
"""Room beside what is needed, with which the search goes on four times as long."""
FEW = 40
"""A tree of fewer segments is small."""
ROUGHLY = 1.15
"""What takes so many times the rows of the best isn't laid to its end."""
STALE = 25
"""So many ways in a row without a better one, and the search goes on from another beginning."""
COOLING = 0.04
"""A way that is worse by up to so much is gone on from, now and then."""
FOLD_MM2 = 5_000.0
"""What a fold more may cost in room: a turn of the trunk, or of a limb beyond its first."""
SHAPES = (2.0, 1.4, 2.8, 1.0, 3.6, 0.7)
MOST_FORMS = 40
"""So many ways of folding are tried at least, while none goes."""
MOST_TRUNKS = 5
MOST_SQUARES = 4000
BLOCK_GAP_MM = 30.0
CARD_GAP_MM, CARD_CLEAR_MM = 6.0, 5.0
CARD_STEP_MM = 20.0
CARD_REACHES = (12.0, 30.0, 55.0, 90.0, 140.0, 200.0, 280.0)
"""How far from its end a card may lie, tried one after another; then wherever there is room, looked at every so far."""
LOOK_MM, FORK_ROOM_MM = 8.0, 110.0
"""How close together places along limbs are looked at, and how far from a fork limbs may be close."""


@dataclass(frozen=True)
class Folded:
    """A harness on a board. `lines`: segment → points from its a-side; `spots`: point → place; `ways`: point → the direction in
    which its limb ends there; `folds` and `corners`: (segment, where); `tips`, `reels`, `cards`: what lies at points, what is wound
    up by segment, boxes by end. `size` (width, height) is the board it lies on; `fits`: that is no larger than the one asked for.
    `was`: where a limb that was pinned lay before; `told`: what the builder is told of pins. `left_out` are segments that close a loop; `unkept`
    those whose wanted angle has no room."""

    board: Board
    lines: dict[str, list[Spot]]
    spots: dict[str, Spot]
    ways: dict[str, Spot]
    folds: tuple[tuple[str, Spot], ...]
    fits: bool
    size: tuple[float, float]
    gap_mm: float
    trunk: tuple[str, ...]
    left_out: tuple[str, ...] = ()
    unkept: tuple[str, ...] = ()
    tips: dict[str, Tip] = field(default_factory=dict)
    corners: tuple[tuple[str, Spot], ...] = ()
    reels: dict[str, Reel] = field(default_factory=dict)
    cards: dict[str, Box] = field(default_factory=dict)
    was: dict[str, list[Spot]] = field(default_factory=dict)
    told: tuple[str, ...] = ()


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


@dataclass(frozen=True)
class Card:
    """What is told beside an end: its face and table, so wide and so tall."""

    point: str
    wide_mm: float
    tall_mm: float


@dataclass(frozen=True)
class _Asked:
    """What a board is to hold: its size, cards by end, what lies at points, and whether it is still wanted."""

    board: Board
    cards: Mapping[str, Card]
    tips: Mapping[str, Tip]
    wanted: Wanted
    wide_mm: Mapping[str, float]

    def half(self, segment: str) -> float:
        """Half of how thick a limb is."""
        return self.wide_mm.get(segment, 0.0) / 2

    @property
    def overlong_mm(self) -> float:
        """A limb longer than this is wound up on a peg."""
        return 2 * max(self.board.width_mm, self.board.height_mm)


def fold(
    design: Design,
    board: Board | None = None,
    wanted: Wanted = always,
    wide_mm: Mapping[str, float] | None = None,
    shelf: Shelf | None = None,
    cards: Mapping[str, Card] = MappingProxyType({}),
    work: int = WORK,
) -> Folded:
    """The harness on a board, the project's unless said, with limbs as thick as `wide_mm` says by segment and a card beside each end. Always
    answers: where the board doesn't hold it, on the smallest larger one found. Searches by counted `work`, so that every machine finds the same;
    asks between tries whether it is still `wanted`."""
    board = board or design.project.board
    index, tips = index_of(design), tips_of(design, shelf)
    trees = _trees(index, tips, Picture(design).spine, wide_mm or {}, design.project.bend_times)
    if not trees:
        return Folded(
            board, {}, {}, {}, (), True, (board.width_mm, board.height_mm), board.gap_mm, (), index.loops, (), tips
        )
    asked = _Asked(board, cards, tips, wanted, wide_mm or {})
    kept = keep_pins(index, board.pins, lambda root: _rooted(index, root, asked, design.project.bend_times))
    blocks = [_block(tree, asked, work) for tree in trees if not tree.points & kept.grown.spots.keys()]
    laid = _side_by_side(blocks, asked) if blocks else Grown()
    if kept.grown.lines:
        beyond = extent_of(kept.grown, tips, {})[3] + BLOCK_GAP_MM if blocks else 0.0
        laid = laid.moved(MARGIN_MM, beyond)
        laid.take(kept.grown)
    missing = []
    for tree in trees:
        if any(one.segment not in laid.lines for one in tree.all):
            root = next(point for point in (tree.trunks[0][0].start, *sorted(tree.points)) if point in laid.spots)
            missing += [
                one for one in _rooted(index, root, asked, design.project.bend_times) if one.segment not in laid.lines
            ]
    try:
        grown = around(trees, laid, missing, asked) if missing else laid
    except NoRoomError:
        if wished := tuple(one.id for one in design.segments if one.turn_deg is not None):
            plain = design.model_copy(
                update={"segments": tuple(one.model_copy(update={"turn_deg": None}) for one in design.segments)}
            )
            return replace(fold(plain, board, wanted, wide_mm, shelf, cards, work), unkept=wished)
        if not board.pins:
            return _settled(design, asked, _straight(trees, asked), (), index.loops)
        again = fold(design, board.model_copy(update={"pins": ()}), wanted, wide_mm, shelf, cards, work)
        return replace(
            again, board=board, told=(*again.told, "What is new has no place beside what was kept: all is laid anew.")
        )
    held = [tree for tree in trees if tree.points & kept.grown.spots.keys()]
    trunk = (*(name for one in blocks for name in one.trunk), *(one.segment for tree in held for one in tree.trunks[0]))
    return _settled(design, asked, grown, trunk, index.loops, kept)


def _rooted(index: Index, root: str, asked: _Asked, bend_times: float) -> list[Branch]:
    """All segments of the tree a point is in, each from the side that is nearer to it, in an order in which each hangs on those before."""
    return _branches(index, _near_in(index), [root], dict(asked.tips), asked.wide_mm, bend_times)[1]


def _straight(trees: Sequence[_Tree], asked: _Asked) -> Grown:
    """Every limb straight, tree above tree."""
    return _side_by_side([_spread(tree, asked) for tree in trees], asked)


@dataclass(frozen=True)
class _Block:
    """One tree laid by itself, from zero on."""

    grown: Grown
    wide: float
    tall: float
    trunk: tuple[str, ...]


def _block(tree: _Tree, asked: _Asked, work: int) -> _Block:
    """A tree in as little room as is found: rows of several lengths and limbs on either side, changed a little at a time from the best; straight
    limbs where nothing goes."""
    if tree.lone:
        tip = tree.firsts[0]
        return _blocked(Grown({}, {tree.lone: (0.0, 0.0)}, {tree.lone: (1.0, 0.0)}), {tree.lone: tip}, ())
    search = _Search(tree, asked, work * min(max(1.0, len(tree.all) / 55) ** 2, MOST_WORK))
    while search.goes_on:
        go_on_if(asked.wanted)
        search.step()
    search.press()
    return search.best or _spread(tree, asked)


def _spread(tree: _Tree, asked: _Asked) -> _Block:
    part = Grown({}, {tree.lone: (0.0, 0.0)}, {tree.lone: (1.0, 0.0)}) if tree.lone else spread(tree.all, (0.0, 0.0))
    return _blocked(part, asked.tips, tuple(one.segment for one in tree.trunks[0]))


class _Search:
    """Ways to fold one tree: some shapes of each trunk first, then the best of them changed; one that is a little worse is gone on from now and then
    (simulated annealing, S. Kirkpatrick and others, 1983)."""

    def __init__(self, tree: _Tree, asked: _Asked, work: float) -> None:
        self.tree, self.asked, self.left, self.work = tree, asked, work, work
        self.need = sum(min(one.long_mm, asked.overlong_mm) for one in tree.all) * asked.board.gap_mm
        self.need += (
            sum(card.wide_mm * card.tall_mm for card in asked.cards.values() if card.point in tree.points) + 1e4
        )
        self.begun = len(SHAPES) + 2 * (len(tree.trunks) - 1)
        self.heads = [one.segment for one in tree.all]
        self.draw, self.forms, self.form, self.number = Random(0), 0, Form(0.0), 0
        self.best: _Block | None = None
        self.best_form, self.best_number = self.form, 0
        self.least = self.now = math.inf
        self.rough = math.inf
        """Rows' length times how far apart they are, of the best: what takes much more isn't laid to its end."""
        self.stale, self.beginnings = 0, list[tuple[float, int, Form, int]]()

    @property
    def longer(self) -> int:
        """How much longer a small tree that takes much room is searched for."""
        return 4 if self.least > POOR and len(self.tree.all) < FEW else 1

    @property
    def goes_on(self) -> bool:
        """Whether anything is left to try."""
        if self.best is None:
            return self.forms < MOST_FORMS and self.left > -self.work
        return (
            self.least > ENOUGH and self.left > 0 and self.forms < (MOST_FORMS + 8 * len(self.tree.all)) * self.longer
        )

    def step(self) -> None:
        """One way more."""
        tree, asked, number, form = self.tree, self.asked, *self._next()
        self.forms += 1
        trunk, first, beside = tree.trunks[number], tree.firsts[number], _unwished(tree.beside[number])
        most = math.inf if self.best is None else ROUGHLY * self.rough
        try:
            made = ribbon(trunk, first, beside, asked.board.gap_mm, asked.overlong_mm, form, most)
        except NoWayError as why:
            self.left -= max(why.looks, 20 * len(tree.all)) / self.longer
            return
        self.left -= (made.looks + len(tree.all)) / self.longer
        grown = _grown(made)
        block = _blocked(grown, asked.tips, tuple(one.segment for one in trunk))
        score = self._score(block)
        if self.forms <= self.begun:
            self.beginnings.append((score, self.forms, replace(form, heights=made.heights), number))
        self.stale += 1
        if score < self.now * (
            1.0 + (COOLING * self.draw.random() if self.forms > self.begun else 0.0)
        ) and not crossings(grown.lines):
            self.stale = self.stale if score >= self.now else 0
            self.now, self.form, self.number = score, replace(form, heights=made.heights), number
            if score < self.least:
                self.best, self.least, self.best_form, self.best_number = block, score, self.form, number
                self.rough = form.row_mm * sum(made.heights) + 1.0

    def press(self) -> None:
        """The best once more, its rows pressed together as far as they go."""
        if self.best is None:
            return
        form = replace(self.best_form, slack=0.08)
        tree, number = self.tree, self.best_number
        trunk, beside = tree.trunks[number], _unwished(tree.beside[number])
        for slack in (0.3, 0.08):
            try:
                made = ribbon(
                    trunk,
                    tree.firsts[number],
                    beside,
                    self.asked.board.gap_mm,
                    self.asked.overlong_mm,
                    replace(form, slack=slack),
                )
            except NoWayError:
                return
            grown = _grown(made)
            block = _blocked(grown, self.asked.tips, tuple(one.segment for one in trunk))
            if self._score(block) < self.least and not crossings(grown.lines):
                self.best, self.least, form = block, self._score(block), replace(form, heights=made.heights)

    def _next(self) -> tuple[int, Form]:
        """(which trunk, how it is folded)."""
        if self.forms < len(SHAPES):
            return 0, _form(self.forms, self.need, self.tree.trunks[0], self.asked.board)
        if self.forms < self.begun or self.best is None:
            number = (self.forms - len(SHAPES)) // 2 % len(self.tree.trunks)
            return number, _form(self.forms, self.need, self.tree.trunks[number], self.asked.board)
        if self.stale > STALE and len(self.beginnings) > 1:
            # nothing better round here: on from the next best beginning, and never from it again
            self.beginnings.sort()
            self.beginnings.pop(0)
            self.now, _, self.form, self.number = self.beginnings[0]
            self.stale = 0
        return self.number, _changed(self.form, self.heads, self.asked.board, self.draw)

    def _score(self, block: _Block) -> float:
        """Less is better: room beside what is needed, a little for each fold, more where the board doesn't hold it."""
        wide, tall = block.wide + 2 * MARGIN_MM, block.tall + 2 * MARGIN_MM
        fits = wide <= self.asked.board.width_mm and tall <= self.asked.board.height_mm
        turns: dict[str, int] = dict.fromkeys(block.grown.lines, -1) | dict.fromkeys(block.trunk, 0)
        for name, _ in block.grown.folds:
            turns[name] += 1
        return (wide * tall + FOLD_MM2 * sum(max(many, 0) for many in turns.values())) / self.need + (
            0.0 if fits else 2.0
        )


def _form(number: int, need: float, trunk: Sequence[Branch], board: Board) -> Form:
    """The n-th way to fold a ribbon to begin with."""
    shape = SHAPES[number] if number < len(SHAPES) else (2.0, 1.2)[number % 2]
    most = board.width_mm - 2 * MARGIN_MM - 50.0
    width = min(math.sqrt(2.0 * need * shape), most) if number else most  # the straightest first
    long = sum(min(one.long_mm, board.width_mm) for one in trunk)
    return Form(width if long > width else long + 1.0)


def _changed(form: Form, heads: Sequence[str], board: Board, draw: Random) -> Form:
    """A way that differs a little: its rows' length, where it begins, how tall limbs stand, limbs on the other side."""
    kind = draw.random()
    if kind < 0.25:
        row = form.row_mm * draw.uniform(0.9, 1.1)
        return replace(form, row_mm=min(max(row, 60.0), max(board.width_mm - 2 * MARGIN_MM, form.row_mm)))
    if kind < 0.4:
        return replace(form, in_mm=draw.choice((0.0, draw.uniform(0.0, 0.7) * form.row_mm)))
    if kind < 0.45 or not heads:
        return replace(form, stand_mm=draw.choice((30.0, 60.0, 110.0, 160.0)), over=draw.choice((0.05, 0.1, 0.2, 0.35)))
    return replace(form, other=form.other ^ {draw.choice(heads) for _ in range(draw.choice((1, 1, 2, 3)))})


def _unwished(beside: Sequence[Branch]) -> list[Branch]:
    """Without what the builder wants at an angle, and what hangs on it."""
    wished: set[str] = set()
    found = []
    for one in beside:
        if one.turn_deg is not None or one.start in wished:
            wished.add(one.end)
        else:
            found.append(one)
    return found


def _grown(made: Ribbon) -> Grown:
    grown = Grown(spots=made.spots, ways=made.ways)
    for name, one in made.placed.items():
        grown.lines[name] = one.line
        grown.corners += [(name, spot) for spot in one.corners]
        grown.folds += [(name, spot) for spot in turns(one.corners)]
        if one.reel is not None:
            grown.reels[name] = one.reel
    return grown


def _blocked(grown: Grown, tips: Mapping[str, Tip], trunk: tuple[str, ...]) -> _Block:
    """Moved so that all of it lies at zero and beyond."""
    low_x, low_y, high_x, high_y = extent_of(grown, tips, {})
    return _Block(grown.moved(-low_x, -low_y), high_x - low_x, high_y - low_y, trunk)


def _side_by_side(blocks: Sequence[_Block], asked: _Asked) -> Grown:
    """Trees in rows, the tallest first, in the width that takes the least room on the board."""
    if len(blocks) == 1:
        return blocks[0].grown
    order = sorted(range(len(blocks)), key=lambda at: (-blocks[at].tall, at))
    widest = max(block.wide for block in blocks)
    best: tuple[float, list[tuple[int, float, float]]] = (math.inf, [])
    for limit in sorted(
        {
            widest,
            *(widest + sum(blocks[at].wide + BLOCK_GAP_MM for at in order[:many]) for many in range(1, len(order))),
        }
    ):
        x = y = row = wide = 0.0
        places = []
        for at in order:
            if x and x + blocks[at].wide > limit:
                x, y, row = 0.0, y + row + BLOCK_GAP_MM, 0.0
            places.append((at, x, y))
            x, row = x + blocks[at].wide + BLOCK_GAP_MM, max(row, blocks[at].tall)
            wide = max(wide, x - BLOCK_GAP_MM)
        tall = y + row
        over = wide + 2 * MARGIN_MM > asked.board.width_mm or tall + 2 * MARGIN_MM > asked.board.height_mm
        best = min(best, (wide * tall * (4.0 if over else 1.0), places))
    whole = Grown()
    for at, x, y in best[1]:
        whole.take(blocks[at].grown.moved(x, y))
    return whole


def around(trees: Sequence[_Tree], laid: Grown, missing: Sequence[Branch], asked: _Asked) -> Grown:
    """Limbs laid into what is free between those that lie, else to the right of them and above, else anywhere round them. NoRoomError where they
    have no place there either."""
    out = min(sum(one.long_mm for one in missing), 3000.0) + 100.0
    low_x, low_y, high_x, high_y = extent_of(laid, asked.tips, {})
    ones = {one.segment: one for tree in trees for one in tree.all}
    fair: Grown | None = None
    for before, beyond in ((0.0, 0.0), (0.0, out), (out, out)):
        wide, tall = high_x - low_x + before + beyond, high_y - low_y + before + beyond
        grid = Grid(wide, tall, max(asked.board.gap_mm / 2, wide / MOST_SQUARES))
        growing = Growing(grid, asked.board.gap_mm, overlong_mm=asked.overlong_mm)
        growing.lies(laid.moved(before - low_x, before - low_y), ones, asked.tips)
        if not beyond:
            growing.wider = (0, 0)
        try:
            growing.beside(missing)
        except NoRoomError:
            continue
        made = growing.grown.moved(low_x - before, low_y - before)
        if not made.unkept:
            return made
        fair = fair or made  # an angle that is wanted may have its room further out
    if fair is not None:
        return fair
    raise NoRoomError("")


@dataclass(frozen=True)
class _Tree:
    """One tree: ways that can be its trunk, for each what lies at its beginning, and the segments beside it in an order in which
    each hangs on what is laid; `lone`: a point without segments."""

    trunks: list[list[Branch]]
    firsts: list[Tip]
    beside: list[list[Branch]]
    lone: str = ""

    @property
    def all(self) -> list[Branch]:
        """Every segment."""
        return [*self.trunks[0], *self.beside[0]]

    @property
    def points(self) -> set[str]:
        """Every point."""
        return {point for one in self.all for point in (one.start, one.end)} | ({self.lone} if self.lone else set())


def _trees(
    index: Index, tips: dict[str, Tip], spine: Sequence[str], wide_mm: Mapping[str, float], bend_times: float
) -> list[_Tree]:
    near = _near_in(index)
    found = []
    for root in [point for point, (_, segment, _) in index.parents.items() if not segment]:
        if not near[root]:
            if root in index.ends_at:
                found.append(_Tree([[]], [tips.get(root, NOTHING)], [[]], root))
            continue
        ways = [_longest(index, near, root)]
        if len(spine) > 1 and spine[0] == root and list(spine) != ways[0]:
            ways.append(list(spine))
        ways += [way for way in _other_ways(index, near, ways[0]) if way not in ways][:MOST_TRUNKS]
        # what is wanted at an angle is no part of a trunk, if that can be
        ways = [
            way for way in ways if not any(index.segments[name].turn_deg is not None for name in _along_way(near, way))
        ] or ways
        made = [_branches(index, near, way, tips, wide_mm, bend_times) for way in ways]
        firsts = [tips.get(way[0], NOTHING) for way in ways]
        found.append(_Tree([trunk for trunk, _ in made], firsts, [beside for _, beside in made]))
    return found


Near = dict[str, list[tuple[str, str]]]


def _near_in(index: Index) -> Near:
    """Point → what hangs on it: (segment, other point), of those that are laid."""
    used = {segment for _, segment, _ in index.parents.values() if segment}
    return {
        point: [(segment, other) for segment, other in others if segment in used]
        for point, others in index.neighbours.items()
    }


def _mm(index: Index, segment: str) -> float:
    return 1e3 * index.segments[segment].measure.length_m


def _far_from(index: Index, near: Near, start: str) -> dict[str, tuple[float, str]]:
    """Point → (mm from the start, the point before), nearer forks first."""
    far: dict[str, tuple[float, str]] = {start: (0.0, "")}
    order = [start]
    for here in order:
        for segment, other in near[here]:
            if other not in far:
                far[other] = (far[here][0] + _mm(index, segment), here)
                order.append(other)
    return far


def _way_to(far: Mapping[str, tuple[float, str]], point: str) -> list[str]:
    """The points from where distances were taken to one of them."""
    way = [point]
    while far[way[-1]][1]:
        way.append(far[way[-1]][1])
    return way[::-1]


def _longest(index: Index, near: Near, root: str) -> list[str]:
    """Points of the longest way through a tree, from the end nearer to its root."""

    def furthest(start: str) -> list[str]:
        far = _far_from(index, near, start)
        order = list(far)
        last = max(range(len(order)), key=lambda at: (far[order[at]][0], at))  # of equals the one most points on
        return _way_to(far, order[last])

    way = furthest(furthest(root)[-1])
    return way if index.parents[way[0]][2] <= index.parents[way[-1]][2] else way[::-1]


def _along_way(near: Near, way: Sequence[str]) -> list[str]:
    """The segments of a way."""
    return [next(name for name, other in near[a] if other == b) for a, b in pairwise(way)]


def _other_ways(index: Index, near: Near, longest: Sequence[str]) -> list[list[str]]:
    """Other ways from end to end that could be the trunk, the longest first: from both ends of the longest to every other, if they aren't short."""
    found: list[tuple[float, list[str]]] = []
    for start in (longest[0], longest[-1]):
        far = _far_from(index, near, start)
        for point in far:
            if len(near[point]) == 1 and point not in (longest[0], longest[-1]):
                found.append((far[point][0], _way_to(far, point)))
    most = max((long for long, _ in found), default=0.0)
    return [way for long, way in sorted(found, key=lambda one: (-one[0], one[1])) if long > 0.4 * most]


def _branches(
    index: Index, near: Near, way: Sequence[str], tips: dict[str, Tip], wide_mm: Mapping[str, float], bend_times: float
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
            max(LEAST_RADIUS_MM, bend_times * wide_mm.get(segment, 0.0)),
        )

    trunk = []
    for segment, (here, onward) in zip(_along_way(near, way), pairwise(way), strict=True):
        trunk.append(branch(segment, here, onward, max(weight[onward], 1.0)))
    beside = [branch(before[point][1], before[point][0], point, weight[point]) for point in order if point in before]
    return trunk, beside


def place_cards(grown: Grown, asked: _Asked, wide: float, tall: float) -> dict[str, Box]:
    """End → its card's box: as near to its end as there is room inside of what lies, what has none in rows above."""
    if not asked.cards:
        return {}
    grid = Grid(wide, tall, max(10.0, max(wide, tall) / MOST_SQUARES))
    for name, line in grown.lines.items():
        for box in boxes_of(line, CARD_CLEAR_MM + asked.half(name), grid.cell):
            grid.take(box)
    for point, tip in asked.tips.items():
        if tip.wide_mm and point in grown.spots:
            (x, y), (u, v) = grown.spots[point], grown.ways.get(point, (1.0, 0.0))
            for box in boxes_of([(x, y), (x + u * tip.deep_mm, y + v * tip.deep_mm)], tip.wide_mm / 2 + 2.0, grid.cell):
                grid.take(box)
    for reel in grown.reels.values():
        (x, y), r = reel.at, reel.radius_mm + CARD_CLEAR_MM
        grid.take((x - r, y - r, x + r, y + r))
    found: dict[str, Box] = {}
    left: list[tuple[str, Card]] = []
    for end, card in sorted(asked.cards.items(), key=lambda one: (-one[1].wide_mm * one[1].tall_mm, one[0])):
        at = grown.spots.get(card.point)
        spot = None if at is None else _near(grid, at, grown.ways.get(card.point, (1.0, 0.0)), card)
        if spot is None:
            left.append((end, card))
            continue
        found[end] = (spot[0], spot[1], spot[0] + card.wide_mm, spot[1] + card.tall_mm)
        grid.take(found[end])
    widest = max([wide, *(card.wide_mm for _, card in left)])
    x, y, row = 0.0, tall + 2 * CARD_GAP_MM, 0.0
    for end, card in sorted(left, key=lambda one: (-one[1].tall_mm, one[0])):
        if x and x + card.wide_mm > widest:
            x, y, row = 0.0, y + row + CARD_GAP_MM, 0.0
        found[end] = (x, y, x + card.wide_mm, y + card.tall_mm)
        x, row = x + card.wide_mm + CARD_GAP_MM, max(row, card.tall_mm)
    return found


def _near(grid: Grid, at: Spot, way: Spot, card: Card) -> Spot | None:
    """The place for a card next to a limb's end: ahead of it first, then round it, further and further, then the nearest there is."""
    ahead = math.atan2(way[1], way[0])
    for reach in CARD_REACHES:
        for turn in range(12):
            angle = ahead + (turn + 1) // 2 * (math.pi / 6) * (1 if turn % 2 else -1)
            x = at[0] + math.cos(angle) * (reach + card.wide_mm / 2) - card.wide_mm / 2
            y = at[1] + math.sin(angle) * (reach + card.tall_mm / 2) - card.tall_mm / 2
            x, y = max(0.0, min(x, grid.width - card.wide_mm)), max(0.0, min(y, grid.height - card.tall_mm))
            if grid.clear((x, y, x + card.wide_mm, y + card.tall_mm)):
                return x, y
    free = [
        (math.hypot(x + card.wide_mm / 2 - at[0], y + card.tall_mm / 2 - at[1]), x, y)
        for x in np.arange(0.0, grid.width - card.wide_mm, CARD_STEP_MM).tolist()
        for y in np.arange(0.0, grid.height - card.tall_mm, CARD_STEP_MM).tolist()
        if grid.clear((x, y, x + card.wide_mm, y + card.tall_mm))
    ]
    return min(free)[1:] if free else None


def _settled(
    design: Design,
    asked: _Asked,
    grown: Grown,
    trunk: tuple[str, ...],
    loops: tuple[str, ...],
    kept: Kept = NOTHING_KEPT,
) -> Folded:
    """Cards put beside it; each line from its segment's a-side; all of it a margin from the lower left corner."""
    board = asked.board
    low_x, low_y, high_x, high_y = extent_of(grown, asked.tips, {})
    if not kept.grown.lines:
        grown = grown.moved(-low_x, -low_y)
        high_x, high_y = high_x - low_x, high_y - low_y
    cards = place_cards(grown, asked, high_x, high_y)
    if (
        kept.grown.lines
    ):  # what is screwed together keeps its places, unless something lies beyond the board's corner now
        dx, dy = max(MARGIN_MM - low_x, 0.0), max(MARGIN_MM - low_y, 0.0)
        _, _, high_x, high_y = extent_of(grown, asked.tips, cards)
    else:
        low_x, low_y, high_x, high_y = extent_of(grown, asked.tips, cards)
        dx, dy = MARGIN_MM - low_x, MARGIN_MM - low_y
    size = (_tens(high_x + dx + MARGIN_MM), _tens(high_y + dy + MARGIN_MM))
    grown = grown.moved(dx, dy)
    lines = {}
    for segment in design.segments:
        line = grown.lines.get(segment.id)
        if line is not None:
            here = grown.spots[segment.a]
            lines[segment.id] = line if math.dist(line[0], here) <= math.dist(line[-1], here) else line[::-1]
    return Folded(
        board, lines, grown.spots, grown.ways, tuple(grown.folds), size[0] <= board.width_mm and size[1] <= board.height_mm, size, nearest_mm(grown, board.gap_mm, asked), trunk,
        loops, (*grown.unkept, *(one.id for one in design.segments if one.turn_deg and one.id in trunk)), dict(asked.tips), tuple(grown.corners), grown.reels,
        {end: (a + dx, b + dy, c + dx, d + dy) for end, (a, b, c, d) in cards.items()},
        kept.moved_in(lines),
        kept.told(lines),
    )  # fmt: skip


def nearest_mm(grown: Grown, gap: float, asked: _Asked) -> float:
    """The least clear space between two limbs away from where limbs part; the gap at most. Looked at once more, by places along them."""
    limbs: dict[Spot, int] = {}
    for line in grown.lines.values():
        for end in (line[0], line[-1]):
            limbs[end] = limbs.get(end, 0) + 1
    spots: list[Spot] = []
    owner: list[int] = []
    halves: list[float] = []
    for number, (name, line) in enumerate(grown.lines.items()):
        for a, b in pairwise(line):
            many = max(int(math.dist(a, b) / LOOK_MM), 1)
            spots += [(a[0] + (b[0] - a[0]) * t / many, a[1] + (b[1] - a[1]) * t / many) for t in range(many + 1)]
            owner += [number] * (many + 1)
            halves += [asked.half(name)] * (many + 1)
    forks = [spot for spot, many in limbs.items() if many > 1]
    places, names, half = np.array(spots).reshape(-1, 2), np.array(owner), np.array(halves)
    if forks and len(places):
        away = cKDTree(np.array(forks)).query(places)[0] > FORK_ROOM_MM
        places, names, half = places[away], names[away], half[away]
    if len(places) < 2:
        return gap
    pairs = cKDTree(places).query_pairs(gap + 2 * float(half.max()), output_type="ndarray")
    pairs = pairs[names[pairs[:, 0]] != names[pairs[:, 1]]]
    if not len(pairs):
        return gap
    a, b = pairs.T
    clear = np.hypot(*(places[a] - places[b]).T) - half[a] - half[b]
    return min(gap, max(math.floor(float(clear.min()) + 0.6), 0.0))


def _tens(mm: float) -> float:
    return 10.0 * math.ceil(mm / 10 - 1e-6)


def extent_of(grown: Grown, tips: Mapping[str, Tip], cards: Mapping[str, Box]) -> Box:
    """The box round all that lies: limbs, what lies at their ends, reels, cards."""
    boxes = (
        [(x, y, x, y) for line in grown.lines.values() for x, y in line]
        + [(x, y, x, y) for x, y in grown.spots.values()]
        + list(cards.values())
    )
    boxes += [
        (r.at[0] - r.radius_mm, r.at[1] - r.radius_mm, r.at[0] + r.radius_mm, r.at[1] + r.radius_mm)
        for r in grown.reels.values()
    ]
    for point, tip in tips.items():
        if point in grown.spots:
            (x, y), way = grown.spots[point], grown.ways.get(point, (1.0, 0.0))
            for far, off in (
                (0.0, tip.wide_mm / 2),
                (0.0, -tip.wide_mm / 2),
                (tip.deep_mm, tip.wide_mm / 2),
                (tip.deep_mm, -tip.wide_mm / 2),
            ):
                u, v = x + way[0] * far - way[1] * off, y + way[1] * far + way[0] * off
                boxes.append((u, v, u, v))
    return (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
