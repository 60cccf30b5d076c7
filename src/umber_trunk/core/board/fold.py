"""The layout of a harness on a board: of many ways to fold its trees, found by a counted search, that which takes the
least room.

Zero is at the board's lower left corner, x to the right, y up, all in mm at 1:1.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from types import MappingProxyType

from umber_trunk.core.board.asked import Asked, Card
from umber_trunk.core.board.card_places import place_cards
from umber_trunk.core.board.grid import MOST_SQUARES, Box, Grid, Spot
from umber_trunk.core.board.grow import Growing, NoRoomError
from umber_trunk.core.board.grown import Grown
from umber_trunk.core.board.limbs import Branch, Reel, Tip
from umber_trunk.core.board.lying import extent_of, nearest_mm
from umber_trunk.core.board.pins import NOTHING_KEPT, Kept, keep_pins
from umber_trunk.core.board.search import MARGIN_MM, WORK, Block, block_of, spread_block
from umber_trunk.core.board.trunks import Tree, rooted, trees_in
from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Board
from umber_trunk.core.picture.layout import Picture

BLOCK_GAP_MM = 30.0
"""Between harnesses that hang together by nothing, and between what is kept and what is laid anew."""


@dataclass(frozen=True)
class Folded:
    """A harness on a board. `lines`: segment → points from its a-side; `spots`: point → place; `ways`: point → the
    direction in which its limb ends there; `folds` and `corners`: (segment, where); `tips`, `reels`, `cards`: what lies
    at points, what is wound up by segment, boxes by end. `size` (width, height) is the board it lies on; `fits`: that
    is no larger than the one asked for.
    `was`: where a limb that was pinned lay before; `told`: what the builder is told of pins. `left_out` are segments
    that close a loop; `unkept` those whose wanted angle has no room."""

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


def fold(
    design: Design,
    board: Board | None = None,
    wanted: Wanted = always,
    wide_mm: Mapping[str, float] | None = None,
    shelf: Shelf | None = None,
    cards: Mapping[str, Card] = MappingProxyType({}),
    work: int = WORK,
) -> Folded:
    """The harness on a board, the project's unless said, with limbs as thick as `wide_mm` says by segment and a card
    beside each end. Always answers: where the board doesn't hold it, on the smallest larger one found. Searches by
    counted `work`, so that every machine finds the same; asks between tries whether it is still `wanted`."""
    board = board or design.project.board
    index, tips = index_of(design), tips_of(design, shelf)
    trees = trees_in(index, tips, Picture(design).spine, wide_mm or {}, design.project.bend_times)
    if not trees:
        return Folded(
            board, {}, {}, {}, (), True, (board.width_mm, board.height_mm), board.gap_mm, (), index.loops, (), tips
        )
    asked = Asked(board, cards, tips, wanted, wide_mm or {})

    def from_root(root: str) -> list[Branch]:
        return rooted(index, root, tips, asked.wide_mm, design.project.bend_times)

    kept = keep_pins(index, board.pins, from_root)
    blocks = [block_of(tree, asked, work) for tree in trees if not tree.points & kept.grown.spots.keys()]
    laid = _beside_kept(blocks, kept, asked)
    missing = _not_laid(trees, laid, from_root)
    try:
        grown = around(trees, laid, missing, asked) if missing else laid
    except NoRoomError:
        return _laid_otherwise(design, asked, trees, index, partial(fold, work=work, shelf=shelf))
    held = [tree for tree in trees if tree.points & kept.grown.spots.keys()]
    trunk = (*(name for one in blocks for name in one.trunk), *(one.segment for tree in held for one in tree.trunks[0]))
    return _settled(design, asked, grown, trunk, index.loops, kept)


def _beside_kept(blocks: Sequence[Block], kept: Kept, asked: Asked) -> Grown:
    """What is laid anew beside one another, and above it what was kept where it lay."""
    laid = _side_by_side(blocks, asked) if blocks else Grown()
    if kept.grown.lines:
        beyond = extent_of(kept.grown, asked.tips, {})[3] + BLOCK_GAP_MM if blocks else 0.0
        laid = laid.moved(MARGIN_MM, beyond)
        laid.take(kept.grown)
    return laid


def _not_laid(trees: Sequence[Tree], laid: Grown, from_root: Callable[[str], list[Branch]]) -> list[Branch]:
    """Limbs that are new since the rest was kept, as they hang on what lies."""
    missing: list[Branch] = []
    for tree in trees:
        if any(one.segment not in laid.lines for one in tree.all):
            root = next(point for point in (tree.trunks[0][0].start, *sorted(tree.points)) if point in laid.spots)
            missing += [one for one in from_root(root) if one.segment not in laid.lines]
    return missing


def _laid_otherwise(
    design: Design, asked: Asked, trees: Sequence[Tree], index: Index, again: Callable[..., Folded]
) -> Folded:
    """What has no room by the angles that are wanted is laid without them; else without what was kept; else straight
    out."""
    board, said = asked.board, (asked.board, asked.wanted, asked.wide_mm)
    if wished := tuple(one.id for one in design.segments if one.turn_deg is not None):
        plain = tuple(one.model_copy(update={"turn_deg": None}) for one in design.segments)
        found = again(design.model_copy(update={"segments": plain}), *said, cards=asked.cards)
        return replace(found, unkept=wished)
    if not board.pins:
        return _settled(design, asked, _straight(trees, asked), (), index.loops)
    found = again(design, board.model_copy(update={"pins": ()}), *said[1:], cards=asked.cards)
    return replace(
        found, board=board, told=(*found.told, "What is new has no place beside what was kept: all is laid anew.")
    )


def _straight(trees: Sequence[Tree], asked: Asked) -> Grown:
    """Every limb straight, tree above tree."""
    return _side_by_side([spread_block(tree, asked) for tree in trees], asked)


def _side_by_side(blocks: Sequence[Block], asked: Asked) -> Grown:
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


def around(trees: Sequence[Tree], laid: Grown, missing: Sequence[Branch], asked: Asked) -> Grown:
    """Limbs laid into what is free between those that lie, else to the right of them and above, else anywhere round
    them. NoRoomError where they have no place there either."""
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


def _settled(
    design: Design,
    asked: Asked,
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
        _, _, high_x, high_y = extent_of(grown, asked.tips, cards, asked.wide_mm)
    else:
        low_x, low_y, high_x, high_y = extent_of(grown, asked.tips, cards, asked.wide_mm)
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
        board,
        lines,
        grown.spots,
        grown.ways,
        tuple(grown.folds),
        size[0] <= board.width_mm and size[1] <= board.height_mm,
        size,
        nearest_mm(grown, board.gap_mm, asked),
        trunk,
        loops,
        (*grown.unkept, *(one.id for one in design.segments if one.turn_deg and one.id in trunk)),
        dict(asked.tips),
        tuple(grown.corners),
        grown.reels,
        {end: (a + dx, b + dy, c + dx, d + dy) for end, (a, b, c, d) in cards.items()},
        kept.moved_in(lines),
        kept.told(lines),
    )


def _tens(mm: float) -> float:
    return 10.0 * math.ceil(mm / 10 - 1e-6)
