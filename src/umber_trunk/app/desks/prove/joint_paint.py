"""A joint under its nut, drawn so that one sees where a tip goes: stud, tongue, barrel, strands, jacket.

   ○ stud      barrel        jacket
┌──┴────┐  ┌──────────┐ ╔════════════
│tongue ├──┤          ├─╢ strands …
└───────┘  └──────────┘ ╚════════════
"""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF

from umber_trunk.app import theme

COPPER, STEEL = QColor("#b77a4c"), QColor("#8d8a84")
SPOTS = {"stud": 0.13, "tongue": 0.28, "strand": 0.66}
"""Where a tip is set → how far along the joint, from the stud to the wire."""


def draw_joint(painter: QPainter, room: QRectF, spot: str) -> None:
    """The joint, with a ring round the place of the tip."""
    tall = min(room.height() * 0.34, room.width() * 0.16)
    y = room.center().y() + 0.1 * tall
    x, wide = room.left() + 4, room.width() - 8
    painter.setPen(QPen(theme.INK_SOFT, 1))
    painter.setBrush(COPPER)
    painter.drawRoundedRect(QRectF(x, y - tall / 3, 0.40 * wide, tall / 1.5), tall / 3, tall / 3)
    painter.drawRect(QRectF(x + 0.38 * wide, y - tall / 2, 0.24 * wide, tall))
    painter.setPen(QPen(COPPER, 1.4))
    for strand in range(-2, 3):
        painter.drawLine(
            QPointF(x + 0.62 * wide, y + strand * tall / 6), QPointF(x + 0.71 * wide, y + strand * tall / 6)
        )
    painter.setPen(QPen(theme.INK_SOFT, 1))
    painter.setBrush(theme.HEADING)
    painter.drawRect(QRectF(x + 0.71 * wide, y - tall / 2.2, 0.29 * wide, tall / 1.1))
    painter.setBrush(STEEL)
    painter.drawEllipse(QPointF(x + 0.13 * wide, y), tall / 4, tall / 4)
    at = QPointF(x + SPOTS[spot] * wide, y)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.BROKEN, 2.4))
    painter.drawEllipse(at, tall / 2.6, tall / 2.6)
    painter.drawLine(QPointF(at.x(), at.y() - tall / 2.6), QPointF(at.x() - tall / 3, room.top() + 2))


MOST_STUDS = 9


def draw_end(painter: QPainter, room: QRectF, kind: str, label: str, beside: tuple[str, ...]) -> None:
    """An end that has no face: studs on a bar, one stud, a bare end, the frame; a ring round the place of the tip."""
    face = theme.font(9, bold=True)
    line = QFontMetricsF(face).height()
    y = room.center().y() - 0.4 * line
    painter.setFont(face)
    if kind in ("stud", "bar"):
        shown, at = _near(beside or (label,), label)
        step = room.width() / len(shown)
        size = min(0.36 * step, 0.26 * room.height(), 22.0)
        if kind == "bar" or len(shown) > 1:
            painter.setPen(QPen(theme.INK_SOFT, 1))
            painter.setBrush(COPPER)
            painter.drawRect(QRectF(room.left() + 2, y - 0.7 * size, room.width() - 4, 1.4 * size))
        for n, name in enumerate(shown):
            spot = QPointF(room.left() + (n + 0.5) * step, y)
            painter.setPen(QPen(theme.INK, 1.2))
            painter.setBrush(STEEL)
            painter.drawPolygon(_hexagon(spot, size))
            painter.setBrush(theme.PAPER_DIM)
            painter.drawEllipse(spot, 0.45 * size, 0.45 * size)
            if n == at:
                _ring(painter, spot, size + 4)
            painter.setPen(theme.INK if n == at else theme.INK_SOFT)
            words = QFontMetricsF(face).elidedText(name, Qt.TextElideMode.ElideRight, step - 2)
            painter.drawText(
                QRectF(spot.x() - step / 2, y + size + 5, step, line), int(Qt.AlignmentFlag.AlignHCenter), words
            )
        return
    tall = min(0.3 * room.height(), 18.0)
    if kind == "earth":
        x = room.center().x()
        painter.setPen(QPen(theme.INK, 2.2))
        painter.drawLine(QPointF(x, y - 1.6 * tall), QPointF(x, y))
        for n, half in enumerate((1.5, 1.0, 0.5)):
            painter.drawLine(
                QPointF(x - half * tall, y + n * 0.45 * tall), QPointF(x + half * tall, y + n * 0.45 * tall)
            )
        _ring(painter, QPointF(x, y - tall), 0.5 * tall)
        return
    bare = 0.42 * room.width()
    painter.setPen(QPen(COPPER, 1.6))
    for strand in range(-3, 4):
        painter.drawLine(
            QPointF(room.left() + 4, y + 0.3 * strand * tall / 2),
            QPointF(room.left() + bare, y + 0.25 * strand * tall / 2),
        )
    painter.setPen(QPen(theme.INK_SOFT, 1))
    painter.setBrush(theme.HEADING)
    painter.drawRect(QRectF(room.left() + bare, y - tall / 2, room.width() - bare - 4, tall))
    _ring(painter, QPointF(room.left() + 0.5 * bare, y), 0.6 * tall)
    painter.setPen(theme.INK)
    painter.drawText(
        QRectF(room.left(), y + tall + 2, room.width(), line),
        int(Qt.AlignmentFlag.AlignHCenter),
        QFontMetricsF(face).elidedText(label, Qt.TextElideMode.ElideRight, room.width()),
    )


def _near(names: tuple[str, ...], label: str) -> tuple[tuple[str, ...], int]:
    """The places round the one looked for, at most so many, and where it is among them."""
    at = names.index(label) if label in names else 0
    first = min(max(at - MOST_STUDS // 2, 0), max(len(names) - MOST_STUDS, 0))
    return names[first : first + MOST_STUDS], at - first


def _hexagon(middle: QPointF, size: float) -> QPolygonF:
    return QPolygonF(
        [middle + QPointF(math.cos(math.radians(60 * n)), math.sin(math.radians(60 * n))) * size for n in range(6)]
    )


def _ring(painter: QPainter, at: QPointF, radius: float) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(theme.BROKEN, 2.4))
    painter.drawEllipse(at, radius, radius)
