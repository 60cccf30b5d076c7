"""A board drawing on any painter whose unit is a millimetre: on paper and on screen alike."""

from __future__ import annotations

import math
from collections.abc import Iterable

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF

from umber_trunk.app import theme
from umber_trunk.core.board.svg_board import INK
from umber_trunk.core.strokes import Line, Ring, Shape, Words

NIGHT = {
    "limbs": theme.RETURN,
    "coverings": theme.INK_SOFT,
    "moved": theme.BROKEN,
    "fixtures": theme.GOOD,
    "board": theme.INK_SOFT,
    "dimensions": theme.TIGHT_TEXT,
}
"""Inks by night; every other layer in that of text."""


def paint_board(
    painter: QPainter, shapes: Iterable[Shape], left: float, bottom: float, dark: bool = False, least_mm: float = 0.0
) -> None:
    """All shapes in mm, the board's lower left corner at (left, bottom) of a painter whose unit is 1 mm, y down; no
    line thinner than `least_mm`."""

    def at(spot: tuple[float, float]) -> QPointF:
        return QPointF(left + spot[0], bottom - spot[1])

    for shape in shapes:
        ink = (
            QColor(shape.ink) if shape.ink else NIGHT.get(shape.layer, theme.INK) if dark else QColor(INK[shape.layer])
        )
        if isinstance(shape, Words):
            words(painter, left + shape.at[0], bottom - shape.at[1], shape.text, shape.tall_mm, ink)
            continue
        pen = QPen(ink, max(shape.wide_mm if isinstance(shape, Line) else 0.4, least_mm))
        if isinstance(shape, Line) and shape.layer == "limbs":
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        painter.setBrush(QColor(shape.fill) if shape.fill else Qt.BrushStyle.NoBrush)
        if isinstance(shape, Ring):
            painter.drawEllipse(at(shape.at), shape.radius_mm, shape.radius_mm)
        elif shape.closed:
            painter.drawPolygon(QPolygonF([at(spot) for spot in shape.spots]))
        else:
            painter.drawPolyline(QPolygonF([at(spot) for spot in shape.spots]))


def words(painter: QPainter, x: float, y: float, text: str, tall: float, ink: QColor) -> None:
    """Text whose letters are so many mm tall, whatever the painter's scale: drawn at 40 units and shrunk; none where it
    would be less than a pixel."""
    seen = painter.combinedTransform()
    if math.hypot(seen.m11(), seen.m12()) * tall < 1.0:
        return
    font = QFont(theme.font(10))
    font.setPixelSize(40)
    painter.save()
    painter.translate(x, y)
    painter.scale(tall / 40, tall / 40)
    painter.setFont(font)
    painter.setPen(ink)
    painter.drawText(QPointF(0, 0), text)
    painter.restore()
