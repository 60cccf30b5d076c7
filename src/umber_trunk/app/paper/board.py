"""The board on paper at true scale: on one long sheet, or in tiles with overlap, marks to join them by, and a bar on each."""

from __future__ import annotations

import math

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen, QPolygonF

from umber_trunk.app import theme
from umber_trunk.app.paper.pages import able_to_draw
from umber_trunk.core.board.drawing import BAR_MM, Drawing, Line, Ring, Words, drawing
from umber_trunk.core.board.svg_board import INK, extent
from umber_trunk.core.results import Results

DPI = 1200
SHEETS = {"a4": (297.0, 210.0), "a3": (420.0, 297.0), "letter": (279.4, 215.9)}
"""Landscape sizes in mm."""
EDGE_MM = 10.0
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
        page = (min(width + 2 * EDGE_MM, MOST_MM), min(height + 2 * EDGE_MM + 8, MOST_MM))
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
            _Tiles(painter, writer, made, page, overlap_mm).draw()
        finally:
            painter.end()
    return bytes(buffer.data().data())


def tiles_of(width: float, height: float, page: tuple[float, float], overlap: float) -> tuple[int, int]:
    """How many sheets across and up."""
    room = (page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - 8)
    across, up = (
        max(1, math.ceil((long - overlap) / (free - overlap) - 1e-9))
        for long, free in zip((width, height), room, strict=True)
    )
    return across, up


class _Tiles:
    def __init__(
        self, painter: QPainter, writer: QPdfWriter, made: Drawing, page: tuple[float, float], overlap: float
    ) -> None:
        self.painter, self.writer, self.made, self.page, self.overlap = painter, writer, made, page, overlap
        self.room = (page[0] - 2 * EDGE_MM, page[1] - 2 * EDGE_MM - 8)

    def draw(self) -> None:
        width, height = extent(self.made)
        across, up = tiles_of(width, height, self.page, self.overlap)
        self.painter.scale(DPI / 25.4, DPI / 25.4)
        number = 0
        for row in range(up):
            for column in range(across):
                if number:
                    self.writer.newPage()
                number += 1
                self._tile(column, row, across, up)

    def _tile(self, column: int, row: int, across: int, up: int) -> None:
        painter, (wide, tall) = self.painter, self.room
        left, low = column * (wide - self.overlap), row * (tall - self.overlap)
        painter.save()
        painter.setClipRect(QRectF(EDGE_MM, EDGE_MM, wide, tall))
        paint_board(painter, self.made, EDGE_MM - left, EDGE_MM + tall + low)
        painter.restore()
        self._marks(column, row, across, up)

    def _marks(self, column: int, row: int, across: int, up: int) -> None:
        """Corners, the lines to lay the next sheet on, and a bar to measure."""
        painter, (wide, tall) = self.painter, self.room
        painter.setPen(QPen(theme.INK, 0.2))
        for x in (EDGE_MM, EDGE_MM + wide):
            for y in (EDGE_MM, EDGE_MM + tall):
                painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
                painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setPen(QPen(theme.INK_SOFT, 0.15, Qt.PenStyle.DashLine))
        if column + 1 < across:
            x = EDGE_MM + wide - self.overlap
            painter.drawLine(QPointF(x, EDGE_MM), QPointF(x, EDGE_MM + tall))
        if row + 1 < up:
            y = EDGE_MM + self.overlap
            painter.drawLine(QPointF(EDGE_MM, y), QPointF(EDGE_MM + wide, y))
        foot = EDGE_MM + tall + 9
        painter.setPen(QPen(theme.INK, 0.3))
        painter.drawLine(QPointF(EDGE_MM, foot), QPointF(EDGE_MM + BAR_MM, foot))
        for x in (EDGE_MM, EDGE_MM + BAR_MM):
            painter.drawLine(QPointF(x, foot - 1.5), QPointF(x, foot + 1.5))
        said = f"{BAR_MM:g} mm at 1:1   {self.made.title}   sheet {column + 1} of {across} across, {row + 1} of {up} up"
        words(painter, EDGE_MM + BAR_MM + 3, foot + 1, said, 2.6, theme.INK)


def paint_board(
    painter: QPainter, made: Drawing, left: float, bottom: float, dark: bool = False, least_mm: float = 0.0
) -> None:
    """All shapes in mm, the board's lower left corner at (left, bottom) of a painter whose unit is 1 mm, y down; no line thinner
    than `least_mm`."""

    def at(spot: tuple[float, float]) -> QPointF:
        return QPointF(left + spot[0], bottom - spot[1])

    for shape in made.shapes:
        ink = theme.INK if dark and shape.layer in ("ends", "labels", "tables") else QColor(INK[shape.layer])
        if isinstance(shape, Words):
            words(painter, left + shape.at[0], bottom - shape.at[1], shape.text, shape.tall_mm, ink)
            continue
        pen = QPen(ink, max(shape.wide_mm if isinstance(shape, Line) else 0.4, least_mm))
        if isinstance(shape, Line) and shape.layer == "limbs":
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if isinstance(shape, Ring):
            painter.drawEllipse(at(shape.at), shape.radius_mm, shape.radius_mm)
        elif shape.closed:
            painter.drawPolygon(QPolygonF([at(spot) for spot in shape.spots]))
        else:
            painter.drawPolyline(QPolygonF([at(spot) for spot in shape.spots]))


def words(painter: QPainter, x: float, y: float, text: str, tall: float, ink: QColor) -> None:
    """Text whose letters are so many mm tall, whatever the painter's scale: drawn at 40 units and shrunk."""
    font = QFont(theme.font(10))
    font.setPixelSize(40)
    painter.save()
    painter.translate(x, y)
    painter.scale(tall / 40, tall / 40)
    painter.setFont(font)
    painter.setPen(ink)
    painter.drawText(QPointF(0, 0), text)
    painter.restore()
