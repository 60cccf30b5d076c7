"""The board on paper at true scale: on one sheet, on a roll, or on as few sheets as hold what lies there, with an index
of them."""

from __future__ import annotations

import math

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from umber_trunk.app import theme
from umber_trunk.app.paper.drawable import able_to_draw
from umber_trunk.app.paper.leaves import MM_AN_INCH, DeviceLeaves, Leaves
from umber_trunk.app.widgets.board_paint import paint_board, words
from umber_trunk.core.board.drawing import Drawing, drawing
from umber_trunk.core.board.legend import BAR_MM
from umber_trunk.core.board.sheets import EDGE_MM, FOOT_MM, Sheets, Tile, sheets_of
from umber_trunk.core.papers.papers import Asked
from umber_trunk.core.results import Results

DPI = 1200
TICK_MM = 50.0
"""Ticks to lay sheets together by stand at every so many mm of the board."""


def paper_of(results: Results, _: Asked) -> bytes:
    """The project's board on the project's sheet."""
    return pdf_of(results.once(drawing), results.design.project.board.sheet, results.design.project.board.overlap_mm)


def pdf_of(made: Drawing, sheet: str, overlap_mm: float) -> bytes:
    """A board drawing as a PDF whose millimetres are millimetres: an index first where there are several sheets."""
    able_to_draw()
    sheets = sheets_of(made, sheet, overlap_mm)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(DPI)
    writer.setTitle(made.title)
    writer.setCreator("")
    writer.setPageLayout(board_layout(sheets))
    draw_board_on(DeviceLeaves(writer, MM_AN_INCH), made, sheet, overlap_mm)
    return bytes(buffer.data().data())


def board_layout(sheets: Sheets) -> QPageLayout:
    """Paper as large as a sheet of the board, drawn on to its edges."""
    size = QPageSize(QSizeF(*sheets.page_mm), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.ExactMatch)
    layout = QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
    layout.setMode(QPageLayout.Mode.FullPageMode)
    return layout


def draw_board_on(leaves: Leaves, made: Drawing, sheet: str, overlap_mm: float) -> None:
    """All sheets of a board onto pages as large as the sheet, in millimetres."""
    sheets = sheets_of(made, sheet, overlap_mm)
    with theme.as_on_paper():
        try:
            if len(sheets.tiles) > 1:
                draw_index(leaves.painter, made, sheets)
            for number, tile in enumerate(sheets.tiles):
                if number or len(sheets.tiles) > 1:
                    leaves.turn()
                draw_tile(leaves.painter, made, sheets, tile)
        finally:
            leaves.end()


def draw_index(painter: QPainter, made: Drawing, sheets: Sheets, least_mm: float = 0.0) -> None:
    """The board in small with its sheets numbered, and which harness it is of."""
    wide, tall = sheets.room_mm
    words(painter, EDGE_MM, EDGE_MM + 6, made.title, 5.0, theme.INK)
    told = (
        f"{made.stamp}   board {made.width_mm:.0f} × {made.height_mm:.0f} mm   {len(sheets.tiles)} sheets, laid "
        f"together by their ticks, which stand at every {TICK_MM:.0f} mm"
    )
    words(painter, EDGE_MM, EDGE_MM + 12, told, 2.8, theme.INK_SOFT)
    top, room = EDGE_MM + 18, tall - 14
    lefts, lows = [tile.left_mm for tile in sheets.tiles], [tile.low_mm for tile in sheets.tiles]
    low_x, low_y = min(0.0, *lefts), min(0.0, *lows)
    high_x, high_y = max(made.width_mm, max(lefts) + wide), max(made.height_mm, max(lows) + tall)
    scale = min(wide / (high_x - low_x), room / (high_y - low_y))
    painter.save()
    painter.translate(EDGE_MM - low_x * scale, top + room + low_y * scale)
    painter.scale(scale, scale)
    paint_board(painter, made.shapes, 0, 0, False, max(0.15 / scale, least_mm))
    for tile in sheets.tiles:
        painter.setPen(QPen(theme.TIGHT, 0.35 / scale))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(tile.left_mm, -tile.low_mm - tall, wide, tall))
        words(
            painter,
            tile.left_mm + 4 / scale,
            -tile.low_mm - tall + 8 / scale,
            str(tile.number),
            6.0 / scale,
            theme.TIGHT,
        )
    painter.restore()


def draw_tile(painter: QPainter, made: Drawing, sheets: Sheets, tile: Tile, least_mm: float = 0.0) -> None:
    """One sheet of a board, in mm from its upper left corner: what lies on it, crosses at its corners, ticks to lay it
    to its neighbours by, and a bar to measure."""
    wide, tall = sheets.room_mm
    painter.save()
    painter.setClipRect(QRectF(EDGE_MM, EDGE_MM, wide, tall))
    paint_board(painter, tile.shapes, EDGE_MM - tile.left_mm, EDGE_MM + tall + tile.low_mm, False, least_mm)
    painter.restore()
    painter.setPen(QPen(theme.INK, max(0.2, least_mm)))
    for x in (EDGE_MM, EDGE_MM + wide):
        for y in (EDGE_MM, EDGE_MM + tall):
            painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
    if len(sheets.tiles) > 1:
        _ticks(painter, sheets, tile, least_mm)
    foot = EDGE_MM + tall + FOOT_MM + 1
    painter.setPen(QPen(theme.INK, max(0.3, least_mm)))
    painter.drawLine(QPointF(EDGE_MM, foot), QPointF(EDGE_MM + BAR_MM, foot))
    for x in (EDGE_MM, EDGE_MM + BAR_MM):
        painter.drawLine(QPointF(x, foot - 1.5), QPointF(x, foot + 1.5))
    said = (
        f"{BAR_MM:g} mm at 1:1   {made.title} · {made.stamp}   sheet {tile.number} of {len(sheets.tiles)}, from x "
        f"{tile.left_mm:.0f} y {tile.low_mm:.0f}"
    )
    words(painter, EDGE_MM + BAR_MM + 3, foot + 1, said, 2.6, theme.INK)


def _ticks(painter: QPainter, sheets: Sheets, tile: Tile, least_mm: float) -> None:
    """At each edge, at the same places of the board on every sheet, with how far they are from its corner."""
    wide, tall = sheets.room_mm
    painter.setPen(QPen(theme.INK_SOFT, max(0.15, least_mm)))
    for number in range(math.ceil(tile.left_mm / TICK_MM), math.floor((tile.left_mm + wide) / TICK_MM) + 1):
        x = EDGE_MM + number * TICK_MM - tile.left_mm
        for y in (EDGE_MM, EDGE_MM + tall):
            painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        words(painter, x + 0.6, EDGE_MM - 0.6, f"{number * TICK_MM:.0f}", 1.8, theme.INK_SOFT)
    for number in range(math.ceil(tile.low_mm / TICK_MM), math.floor((tile.low_mm + tall) / TICK_MM) + 1):
        y = EDGE_MM + tall - (number * TICK_MM - tile.low_mm)
        for x in (EDGE_MM, EDGE_MM + wide):
            painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y))
        words(painter, EDGE_MM - 9.0, y - 0.4, f"{number * TICK_MM:.0f}", 1.8, theme.INK_SOFT)
