"""What stands on a board drawing, as plain pieces on named layers: SVG, DXF, paper and screen draw the same ones.

All in mm from the board's lower left corner, y up.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from umber_trunk.core.board.along_limbs import coverings, reels, splices
from umber_trunk.core.board.asked import Card
from umber_trunk.core.board.cards import card_blocks
from umber_trunk.core.board.draft import Draft, Peg, widths
from umber_trunk.core.board.fixtures import end_outlines, fixtures
from umber_trunk.core.board.fold import Folded, fold
from umber_trunk.core.board.legend import notes, tables
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.way import Board
from umber_trunk.core.results import Results, stamp
from umber_trunk.core.strokes import Box, Line, Shape, frame, moved
from umber_trunk.core.units import show_length

MOST_MM = 200_000.0
"""The longest side of a board that is drawn."""
TEXT_MM = 4.0
"""Height of what is written on a board."""
LAYERS = ("board", "limbs", "coverings", "ends", "faces", "fixtures", "labels", "dimensions", "tables", "moved")


@dataclass(frozen=True)
class Drawing:
    """A whole board: its size, its shapes in order, the table of pegs, what is told beside it; `stamp` says which
    harness it is of."""

    width_mm: float
    height_mm: float
    shapes: tuple[Shape, ...]
    pegs: tuple[Peg, ...]
    folded: Folded
    title: str
    notes: tuple[str, ...]
    stamp: str = ""


def folded(results: Results) -> Folded:
    """The project's board; for `Results.once`."""
    return laid_out(results)


def laid_out(results: Results, board: Board | None = None, wanted: Wanted = always) -> Folded:
    """A board of a size, the project's unless said, with a card beside each end."""
    cards = {
        end: Card(point, block.wide_mm, block.tall_mm) for end, (point, block) in results.once(card_blocks).items()
    }
    return fold(results.design, board, wanted, widths(results), results.shelf, cards)


def drawing(results: Results) -> Drawing:
    """The drawing of the project's board; for `Results.once`."""
    return draw_board(results, results.once(folded))


def draw_board(results: Results, laid: Folded) -> Drawing:
    """Everything on a board as it is laid. InputError for a board that nobody builds on."""
    if max(laid.size) > MOST_MM:
        index = index_of(results.design)
        longest = sorted(laid.lines, key=lambda one: -index.segments[one].measure.length_m)[:3]
        told = ", ".join(f"{one} {show_length(index.segments[one].measure.length_m)}" for one in longest)
        raise InputError.of(
            "board.no-board-at-true-scale",
            width_m=laid.size[0] / 1000,
            height_m=laid.size[1] / 1000,
            most_m=MOST_MM / 1000,
            told=told,
        )
    return _drawn(Draft(results, laid))


def _drawn(draft: Draft) -> Drawing:
    width, height = draft.laid.size
    along = draft.along()
    for segment, line in draft.laid.lines.items():
        draft.shapes.append(Line("limbs", tuple(line), max(draft.thick.get(segment, 1.0), 1.0), segment))
    reels(draft)
    coverings(draft)
    fixtures(draft, along)
    end_outlines(draft)
    splices(draft)
    _cards(draft)
    _moved(draft)
    _labels(draft, along)
    height = tables(draft)
    corners = frame("board", (0.0, 0.0, width, height), 0.5, "board")
    told = tuple(notes(draft))
    title = f"{draft.design.project.name}: board"
    return Drawing(
        width, height, (corners, *draft.shapes), tuple(draft.pegs), draft.laid, title, told, draft.results.once(stamp)
    )


def _cards(draft: Draft) -> None:
    """Faces and tables beside their ends, each with a thin line to its end."""
    blocks = draft.results.once(card_blocks)
    for end, box in draft.laid.cards.items():
        point, block = blocks[end]
        draft.shapes += moved(block.shapes, box[0], box[1])
        draft.labels.take([(box[0] - 1, box[1] - 1, box[2] + 1, box[3] + 1)])
        if point in draft.laid.spots:
            at = draft.laid.spots[point]
            near = (min(max(at[0], box[0]), box[2]), min(max(at[1], box[1]), box[3]))
            if math.dist(at, near) > 2.0:
                draft.shapes.append(Line("dimensions", (at, near), 0.18, f"to {end}"))


def _moved(draft: Draft) -> None:
    """Where something lay on the board that is screwed together, and lies elsewhere now."""
    for segment, old in draft.laid.was.items():
        draft.shapes.append(Line("moved", tuple(old), 0.6, f"{segment} before"))


def _labels(draft: Draft, along: dict[str, float]) -> None:
    """Names of ends that have no card, then length and wires of segments, then running dimensions and angles, each
    where nothing lies yet; what has no place is in the tables."""
    for segment, line in draft.laid.lines.items():
        draft.labels.take_line(line, max(draft.thick.get(segment, 0.0) / 2, 2.0) + 1.0, 12.0)
    draft.labels.take(outlines(draft.shapes))
    for point in draft.laid.tips:
        ends = draft.index.ends_at.get(point, ())
        if point in draft.laid.spots:
            at, tip, way = draft.laid.spots[point], draft.laid.tips[point], draft.laid.ways.get(point, (1.0, 0.0))
            middle = (at[0] + way[0] * tip.deep_mm / 2, at[1] + way[1] * tip.deep_mm / 2)
            carded = any(end.id in draft.laid.cards for end in ends)
            said = ", ".join(end.id for end in ends) if carded else draft.index.point_name(point)
            draft.placed("labels", middle, said, TEXT_MM if not carded else 3.2, max(tip.wide_mm, tip.deep_mm) / 2 + 3)
    for segment, line in draft.laid.lines.items():
        long, wires = draft.index.segments[segment].measure.length_m, len(draft.index.contents.get(segment, ()))
        a, b = max(pairwise(line), key=lambda piece: math.dist(*piece))
        draft.placed(
            "labels",
            ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2),
            f"{segment}  {1e3 * long:.0f}" + (f"  {wires} w" if wires else ""),
            3.2,
            5.0,
        )
    for peg in draft.pegs:
        if peg.what == "fork":
            said = " ".join(filter(None, (f"{peg.along_mm:.0f}" if peg.along_mm is not None else "", peg.more)))
            draft.placed("dimensions", (peg.x_mm, peg.y_mm), said, 2.6, 9.0)


def outlines(shapes: Iterable[Shape]) -> list[Box]:
    """What the outlines of ends take up."""
    found = []
    for shape in shapes:
        if isinstance(shape, Line) and shape.layer == "ends":
            xs, ys = [x for x, _ in shape.spots], [y for _, y in shape.spots]
            found.append((min(xs), min(ys), max(xs), max(ys)))
    return found
