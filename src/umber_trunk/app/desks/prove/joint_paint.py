"""A joint under its nut, drawn so that one sees where a tip goes: stud, tongue, barrel, strands, jacket.

   ○ stud      barrel        jacket
┌──┴────┐  ┌──────────┐ ╔════════════
│tongue ├──┤          ├─╢ strands …
└───────┘  └──────────┘ ╚════════════
"""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

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
