"""What is told beside a board: the legend with a bar to measure, every peg's place, what to know; put where nothing
lies, or in rows above."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from umber_trunk.core.board.along_limbs import MARKS
from umber_trunk.core.board.cards import Block, table_block
from umber_trunk.core.board.draft import Draft
from umber_trunk.core.board.grid import Grid, boxes_of
from umber_trunk.core.results import stamp
from umber_trunk.core.sentences import say
from umber_trunk.core.strokes import Box, Line, Ring, Shape, Spot, Words, frame, moved, wide_of

BAR_MM, PEG_ROWS, ROW_GAP_MM = 100.0, 32, 6.0
"""The bar to measure a print by; pegs listed in a column; between the parts of the legend."""


def tables(draft: Draft) -> float:
    """The legend, the bar and every peg where nothing lies, what has no place there in rows above, inside of the
    board: (the height of it all)."""
    width, top = draft.laid.size
    grid = Grid(width, top, max(10.0, max(width, top) / 400))
    for shape in draft.shapes:
        for box in boxes_round(shape, 2.0):
            grid.take(box)
    x, y, row = ROW_GAP_MM, top + ROW_GAP_MM, 0.0
    for block in [_legend(draft), *(_titled(title, rows) for title, rows in _peg_blocks(draft))]:
        spot = _free(grid, block.wide_mm + 2 * ROW_GAP_MM, block.tall_mm + 2 * ROW_GAP_MM)
        if spot is not None:
            draft.shapes += moved(block.shapes, spot[0] + ROW_GAP_MM, spot[1] + ROW_GAP_MM)
            grid.take((*spot, spot[0] + block.wide_mm + 2 * ROW_GAP_MM, spot[1] + block.tall_mm + 2 * ROW_GAP_MM))
            continue
        if x > ROW_GAP_MM and x + block.wide_mm + ROW_GAP_MM > width:
            x, y, row = ROW_GAP_MM, y + row + ROW_GAP_MM, 0.0
        draft.shapes += moved(block.shapes, x, y)
        x, row = x + block.wide_mm + ROW_GAP_MM, max(row, block.tall_mm)
    return top if not row else 10.0 * math.ceil((y + row + ROW_GAP_MM) / 10 - 1e-6)


def _legend(draft: Draft) -> Block:
    """What the drawing is of, a bar to measure, what each sign means."""
    signs: list[tuple[str, list[Shape]]] = [
        ("fork, where limbs part", [Ring("fixtures", (6.0, 0.0), 3.0)]), ("post, where a limb turns", [Ring("fixtures", (6.0, 0.0), 1.8)]),
        ("clip", [Ring("fixtures", (6.0, 0.0), 1.2)]), ("where labels go", [frame("labels", (3.0, -1.5, 9.0, 1.5), 0.3)]),
    ]  # fmt: skip
    for kind in dict.fromkeys(cover.kind for limb in draft.limbs.values() for cover in limb.covers):
        pitch, strokes = MARKS.get(kind, (0.0, ()))
        drawn: list[Shape] = (
            [Ring("coverings", (6.0, 0.0), 1.8)]
            if not pitch
            else [
                Line("coverings", ((at + a * pitch / 2, 1.5), (at + b * pitch / 2, -1.5)), 0.25)
                for at in (2.0 + pitch / 2, 2.0 + 1.5 * pitch)
                for a, b in strokes
            ]
        )
        signs.append((str(kind), drawn))
    lines = [
        draft.design.project.name,
        draft.results.once(stamp),
        say("board.size", wide=draft.laid.size[0], tall=draft.laid.size[1]),
        *notes(draft),
    ]
    tall = 6.0 * len(signs) + 5.0 * len(lines) + 14.0
    shapes: list[Shape] = []
    y = tall - 5.0
    for number, text in enumerate(lines):
        shapes.append(Words("board", (0.0, y), text, 4.0 if number == 0 else 3.0))
        y -= 5.0
    y -= 4.0
    shapes.append(Line("board", ((0.0, y), (BAR_MM, y)), 0.5, "bar"))
    shapes += [Line("board", ((x, y - 1.5), (x, y + 1.5)), 0.5) for x in (0.0, BAR_MM)]
    shapes.append(Words("board", (BAR_MM + 3.0, y - 1.5), "100 mm: measure this bar before trusting a print", 3.0))
    for text, drawn in signs:
        y -= 6.0
        shapes += [*moved(drawn, 0.0, y + 1.2), Words("board", (24.0, y), text, 2.6)]
    wide = max(wide_of(text, 4.0) for text in [*lines, "x" * 40]) if lines else 100.0
    return Block(
        max(wide, BAR_MM + 3.0 + wide_of("100 mm: measure this bar before trusting a print", 3.0)),
        tall,
        tuple(shapes),
    )


def _peg_blocks(draft: Draft) -> list[tuple[str, list[list[str]]]]:
    """Every peg but clips with its place from the board's lower left corner, for who builds the board with a
    tape."""
    rows = [
        [
            peg.what,
            peg.name,
            f"x {peg.x_mm:.0f}",
            f"y {peg.y_mm:.0f}",
            f"{peg.along_mm:.0f} along" if peg.along_mm is not None else "",
            peg.more,
        ]
        for peg in sorted(draft.pegs, key=lambda peg: (peg.what, peg.x_mm))
        if peg.what != "clip"
    ]
    heading = say("board.pegs")
    return [(heading, rows[start : start + PEG_ROWS]) for start in range(0, len(rows), PEG_ROWS)]


def notes(draft: Draft) -> Sequence[str]:
    """What to know before the board is built: what doesn’t fit, is too near, or was left out."""
    laid = draft.laid
    notes = []
    if not laid.fits:
        notes.append(
            say(
                "board.doesnt-fit",
                wide=laid.board.width_mm,
                tall=laid.board.height_mm,
                drawn_wide=laid.size[0],
                drawn_tall=laid.size[1],
            )
        )
    if laid.gap_mm < laid.board.gap_mm - 1.0:
        notes.append(say("board.limbs-near", near=laid.gap_mm, asked=laid.board.gap_mm))
    if laid.left_out:
        notes.append(say("board.not-laid", names=", ".join(laid.left_out)))
    if laid.unkept:
        notes.append(say("board.no-room", names=", ".join(laid.unkept)))
    notes += laid.told
    return notes


def boxes_round(shape: Shape, more: float) -> Iterator[Box]:
    """What a shape takes up, and a little more: of a line each piece, a slanted one in short parts."""
    if isinstance(shape, Words):
        (x, y), wide = shape.at, wide_of(shape.text, shape.tall_mm)
        yield x - more, y - more, x + wide + more, y + shape.tall_mm + more
    elif isinstance(shape, Ring):
        (x, y), r = shape.at, shape.radius_mm + more
        yield x - r, y - r, x + r, y + r
    else:
        spots = (*shape.spots, shape.spots[0]) if shape.closed else shape.spots
        yield from boxes_of(spots, shape.wide_mm / 2 + more, 50.0)


def _free(grid: Grid, wide: float, tall: float) -> Spot | None:
    """A place for a box where nothing lies, the lowest and then the leftmost; None where there is none."""
    step = 2 * grid.cell
    for row in range(int(max(grid.height - tall, -1.0) / step) + 1 if grid.height >= tall else 0):
        for column in range(int(max(grid.width - wide, -1.0) / step) + 1 if grid.width >= wide else 0):
            x, y = column * step, row * step
            if grid.clear((x, y, x + wide, y + tall)):
                return x, y
    return None


def _titled(title: str, rows: Sequence[Sequence[str]]) -> Block:
    """A table under its title."""
    table = table_block(rows, {})
    return Block(
        max(table.wide_mm, wide_of(title, 3.0)),
        table.tall_mm + 5.0,
        (Words("tables", (0.0, table.tall_mm + 1.0), title, 3.0), *table.shapes),
    )
