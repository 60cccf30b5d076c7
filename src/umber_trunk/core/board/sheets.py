"""Which sheets a board is printed on: only where something lies, each row of sheets moved to what lies in it, as few as
there can be.

For every way up and every height the rows could begin at, each row is covered from its left: a sheet begins where the
first thing does that no sheet covers yet (which is the fewest for one row). Columns are tried likewise. Of all the one
with the fewest sheets is taken.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.board.drawing import Drawing
from umber_trunk.core.board.legend import boxes_round
from umber_trunk.core.errors import InputError
from umber_trunk.core.strokes import Box, Shape

SIZES = {
    "a4": (297.0, 210.0),
    "a3": (420.0, 297.0),
    "a2": (594.0, 420.0),
    "a1": (841.0, 594.0),
    "a0": (1189.0, 841.0),
    "letter": (279.4, 215.9),
}
"""Sheets by name: longer side, shorter side in mm."""
SHEET_NAMES = (*SIZES, "roll", "single")
EDGE_MM, FOOT_MM = 10.0, 8.0
"""White round a sheet, and the line of words at its foot."""
MOST_MM = 5000.0
"""A PDF page can't be much longer (14 400 units of 1/72 inch); a longer roll goes on on the next page."""
OFFSETS = 8
"""So many heights are tried for the first row, or column."""


@dataclass(frozen=True)
class Tile:
    """One sheet: its number, where its free room's lower left corner lies on the board, what lies on it."""

    number: int
    left_mm: float
    low_mm: float
    shapes: tuple[Shape, ...]


@dataclass(frozen=True)
class Sheets:
    """All sheets of a board: the paper's size, the room on each, how much two share."""

    page_mm: tuple[float, float]
    room_mm: tuple[float, float]
    overlap_mm: float
    tiles: tuple[Tile, ...]


def sheets_of(made: Drawing, sheet: str, overlap_mm: float) -> Sheets:
    """The sheets for a board on a paper by name. InputError where it isn't known, or the board is too long for a single
    one."""
    if sheet not in SHEET_NAMES:
        raise InputError.of("any.no-sheet-known-here", sheet=sheet, known=", ".join(SHEET_NAMES))
    whole = (made.width_mm + 2 * EDGE_MM, made.height_mm + 2 * EDGE_MM + FOOT_MM)
    if sheet == "single" and max(whole) > MOST_MM:
        raise InputError.of("board.sheet-too-long", width_mm=whole[0], height_mm=whole[1], most_mm=MOST_MM)
    if sheet in ("roll", "single"):
        page = (min(whole[0], MOST_MM), min(whole[1], MOST_MM))
        return _covered(made, page, overlap_mm)
    long, short = SIZES[sheet]
    return min(
        (_covered(made, page, overlap_mm) for page in ((long, short), (short, long))),
        key=lambda found: len(found.tiles),
    )


def _covered(made: Drawing, page: tuple[float, float], overlap: float) -> Sheets:
    wide, tall = room = (page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - FOOT_MM)
    boxes: list[tuple[Box, Shape]] = []
    for shape in made.shapes:
        if (
            shape.layer != "board" or getattr(shape, "name", "") != "board"
        ):  # the board's bare edge is printed nowhere by itself
            boxes += [(box, shape) for box in boxes_round(shape, 0.5)]
    bare = [box for box, _ in boxes]
    turned = [(low, left, high, right) for left, low, right, high in bare]
    rows = sorted(_in_rows(bare, wide, tall, overlap), key=lambda at: (-at[1], at[0]))
    columns = sorted((left, -low) for low, left in _in_rows(turned, tall, wide, overlap))
    best = rows if len(rows) <= len(columns) else [(left, -low) for left, low in columns]
    tiles = [
        Tile(
            number,
            left,
            low,
            tuple(
                dict.fromkeys(
                    shape
                    for box, shape in boxes
                    if box[0] < left + wide and box[2] > left and box[1] < low + tall and box[3] > low
                )
            ),
        )
        for number, (left, low) in enumerate(best, 1)
    ]
    edge = next((shape for shape in made.shapes if getattr(shape, "name", "") == "board"), None)
    if edge is not None:
        tiles = [Tile(one.number, one.left_mm, one.low_mm, (edge, *one.shapes)) for one in tiles]
    return Sheets(page, room, overlap, tuple(tiles))


def _in_rows(boxes: Sequence[Box], wide: float, tall: float, overlap: float) -> list[tuple[float, float]]:
    """Lower left corners of as few sheets as cover boxes, in rows, each moved to what lies in it."""
    step, best = tall - overlap, list[tuple[float, float]]()
    lowest = min((box[1] for box in boxes), default=0.0)
    for number in range(OFFSETS):
        low, reached = lowest - 0.5 - step * number / OFFSETS, -math.inf
        found: list[tuple[float, float]] = []
        while left := [box for box in boxes if box[3] > reached]:
            if reached > -math.inf:  # on from the row below, or from where something lies again
                low = max(min(box[1] for box in left) - 0.5, reached - overlap)
            row = sorted((box[0], box[2]) for box in left if box[1] < low + tall and box[3] > low)
            found += [(at, low) for at in _cover(row, wide, overlap)]
            reached = low + tall
        if not best or len(found) < len(best):
            best = found
    return best


def _cover(spans: Sequence[tuple[float, float]], wide: float, overlap: float) -> list[float]:
    """Left edges of as few sheets as cover spans sorted by their beginning, neighbours sharing the overlap where
    something goes on."""
    lefts: list[float] = []
    reached = -math.inf
    for low, high in spans:
        if high <= reached:
            continue
        if low >= reached:
            lefts.append(low - 0.5)
            reached = lefts[-1] + wide
        while high > reached:
            lefts.append(reached - overlap)
            reached = lefts[-1] + wide
    return lefts
