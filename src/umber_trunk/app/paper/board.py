"""The board on paper at true scale: on one long sheet, or in tiles with overlap, marks to join them by, and a bar on each."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from umber_trunk.app import theme
from umber_trunk.app.paper.pages import able_to_draw
from umber_trunk.app.widgets.board_paint import paint_board, words
from umber_trunk.core.board.drawing import BAR_MM, WIDE, Drawing, Line, Ring, Shape, Words, drawing
from umber_trunk.core.board.svg_board import extent
from umber_trunk.core.results import Results

DPI = 1200
Size = tuple[float, float]
SHEETS = {"a4": (297.0, 210.0), "a3": (420.0, 297.0), "letter": (279.4, 215.9)}
"""Landscape sizes in mm."""
EDGE_MM, FOOT_MM = 10.0, 8.0
MOST_SPOTS = 60
"""Points of a line that is drawn whole on every sheet it lies on."""
MOST_MM = 5000.0
"""A PDF page can't be much longer; a longer roll goes on on the next page."""


def board_pdf(results: Results) -> bytes:
    """The project's board on the project's sheet; for exports."""
    return pdf_of(results.once(drawing), results.design.project.board.sheet, results.design.project.board.overlap_mm)


def pdf_of(made: Drawing, sheet: str, overlap_mm: float) -> bytes:
    """A board drawing as a PDF whose millimetres are millimetres."""
    able_to_draw()
    width, height = extent(made)
    if sheet == "roll":
        page = (min(width + 2 * EDGE_MM, MOST_MM), min(height + 2 * EDGE_MM + FOOT_MM, MOST_MM))
    else:
        page = SHEETS[sheet]
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(DPI)
    writer.setTitle(made.title)
    size = QPageSize(QSizeF(*page), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.ExactMatch)
    layout = QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
    layout.setMode(QPageLayout.Mode.FullPageMode)
    writer.setPageLayout(layout)
    with theme.as_on_paper():
        painter = QPainter(writer)
        try:
            painter.scale(DPI / 25.4, DPI / 25.4)
            of = tiles_of(width, height, page, overlap_mm)
            for number, (at, shapes) in enumerate(used_tiles(made, page, overlap_mm).items()):
                if number:
                    writer.newPage()
                draw_tile(painter, replace(made, shapes=shapes), page, overlap_mm, at, of)
        finally:
            painter.end()
    return bytes(buffer.data().data())


def tiles_of(width: float, height: float, page: tuple[float, float], overlap: float) -> tuple[int, int]:
    """How many sheets across and up."""
    room = (page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - FOOT_MM)
    across, up = (
        max(1, math.ceil((long - overlap) / (free - overlap) - 1e-9))
        for long, free in zip((width, height), room, strict=True)
    )
    return across, up


def used_tiles(made: Drawing, page: Size, overlap: float) -> dict[tuple[int, int], tuple[Shape, ...]]:
    """(column, row) of the sheets that have anything on them but the board's bare edge, with what lies on each; the others aren't printed."""
    across, up = tiles_of(*extent(made), page, overlap)
    wide, tall = page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - FOOT_MM
    found: dict[tuple[int, int], dict[int, Shape]] = {}
    edges = [shape for shape in made.shapes if isinstance(shape, Line) and shape.name == "board"]
    for shape in made.shapes:
        if isinstance(shape, Line) and shape.name == "board":
            continue
        for part, low, high in _boxes(shape):
            columns, rows = (
                _reached(low[0], high[0], wide, overlap, across),
                _reached(low[1], high[1], tall, overlap, up),
            )
            for at in ((column, row) for column in columns for row in rows):
                found.setdefault(at, {})[id(part)] = part
    whole = {at: (*edges, *mine.values()) for at, mine in found.items()}
    return dict(sorted(whole.items(), key=lambda one: (one[0][1], one[0][0]))) or {(0, 0): tuple(made.shapes)}


def _reached(low: float, high: float, long: float, overlap: float, many: int) -> range:
    """The sheets in a row that a span lies on."""
    step = long - overlap
    first, last = math.floor((low - long) / step) + 1, math.ceil(high / step) - 1
    return range(max(first, 0), min(last, many - 1) + 1)


def _boxes(shape: Shape) -> Iterator[tuple[Shape, Size, Size]]:
    """What a shape takes up, a line piece by short piece; of a long line each piece is a shape of its own."""
    if isinstance(shape, Words):
        yield shape, shape.at, (shape.at[0] + WIDE * shape.tall_mm * len(shape.text), shape.at[1] + shape.tall_mm)
    elif isinstance(shape, Ring):
        x, y, r = *shape.at, shape.radius_mm
        yield shape, (x - r, y - r), (x + r, y + r)
    else:
        half = shape.wide_mm / 2
        long = len(shape.spots) > MOST_SPOTS and not shape.closed
        for a, b in pairwise([*shape.spots, shape.spots[0]] if shape.closed else shape.spots):
            part = replace(shape, spots=(a, b)) if long else shape
            steps = max(1, math.ceil(math.dist(a, b) / 50))
            for step in range(steps):
                spots = [(a[0] + (b[0] - a[0]) * t / steps, a[1] + (b[1] - a[1]) * t / steps) for t in (step, step + 1)]
                xs, ys = [x for x, _ in spots], [y for _, y in spots]
                yield part, (min(xs) - half, min(ys) - half), (max(xs) + half, max(ys) + half)


def draw_tile(
    painter: QPainter, made: Drawing, page: Size, overlap: float, at: tuple[int, int], of: tuple[int, int], least_mm: float = 0.0
) -> None:  # fmt: skip
    """One sheet of a board, in mm from its upper left corner: what lies on it, corners, the lines to lay the next sheet on, and
    a bar to measure."""
    wide, tall = page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - FOOT_MM
    (column, row), (across, up) = at, of
    left, low = column * (wide - overlap), row * (tall - overlap)
    painter.save()
    painter.setClipRect(QRectF(EDGE_MM, EDGE_MM, wide, tall))
    paint_board(painter, made, EDGE_MM - left, EDGE_MM + tall + low, False, least_mm)
    painter.restore()
    painter.setPen(QPen(theme.INK, max(0.2, least_mm)))
    for x in (EDGE_MM, EDGE_MM + wide):
        for y in (EDGE_MM, EDGE_MM + tall):
            painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
    painter.setPen(QPen(theme.INK_SOFT, max(0.15, least_mm), Qt.PenStyle.DashLine))
    if column + 1 < across:
        x = EDGE_MM + wide - overlap
        painter.drawLine(QPointF(x, EDGE_MM), QPointF(x, EDGE_MM + tall))
    if row + 1 < up:
        y = EDGE_MM + overlap
        painter.drawLine(QPointF(EDGE_MM, y), QPointF(EDGE_MM + wide, y))
    foot = EDGE_MM + tall + FOOT_MM + 1
    painter.setPen(QPen(theme.INK, max(0.3, least_mm)))
    painter.drawLine(QPointF(EDGE_MM, foot), QPointF(EDGE_MM + BAR_MM, foot))
    for x in (EDGE_MM, EDGE_MM + BAR_MM):
        painter.drawLine(QPointF(x, foot - 1.5), QPointF(x, foot + 1.5))
    said = f"{BAR_MM:g} mm at 1:1   {made.title}   sheet {column + 1} of {across} across, {row + 1} of {up} up"
    words(painter, EDGE_MM + BAR_MM + 3, foot + 1, said, 2.6, theme.INK)
