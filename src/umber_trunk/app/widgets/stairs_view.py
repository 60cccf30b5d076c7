"""A loop's volts as stairs, from the supply down to nothing: a tread a place, a line a current."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.prove.loops import TREADS, Stairs

SHADES = (0.30, 0.55, 0.8, 1.0)
"""How strong the line of each current is, the least first."""


class StairsView(QWidget):
    """Draws one loop: hot, with what −20 °C makes of it dotted beside."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Stairs] = []
        self.setMinimumHeight(140)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Volts of the loop as stairs"))

    def show_rows(self, rows: Sequence[Stairs]) -> None:
        """Another loop's stairs."""
        self.rows = list(rows)
        if rows:
            worst = max((one for one in rows if one.hot), key=lambda one: one.ma)
            self.setAccessibleDescription(
                tr(
                    "{worst}: {left_v:.2f} V left at {ma:g} mA, needs {need_v:g} V",
                    worst=worst.name,
                    left_v=worst.left_v,
                    ma=worst.ma,
                    need_v=worst.need_v,
                )
            )
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        painter.setFont(theme.font(9))
        if not self.rows:
            invite(painter, self, tr("Choose a loop that is fed: its volts stand here as stairs."))
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(46, 24, -10, -22))
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF) -> None:
        first = self.rows[0]
        top = first.volts[0] * 1.04
        wide = room.width() / len(TREADS)
        line = QFontMetricsF(painter.font()).height()

        def y(volts: float) -> float:
            return room.bottom() - room.height() * volts / top

        currents = ", ".join(f"{ma:g}" for ma in sorted({one.ma for one in self.rows}))
        painter.setFont(theme.font(9.5, bold=True))
        painter.setPen(theme.HEADING)
        painter.drawText(
            QPointF(room.left() - 40, room.top() - 8),
            QFontMetricsF(painter.font()).elidedText(
                tr(
                    "{loop}: at {currents} mA, the darker the more; dotted at −20 °C",
                    loop=first.name,
                    currents=currents,
                ),
                Qt.TextElideMode.ElideRight,
                room.width() + 40,
            ),
        )
        painter.setFont(theme.font(9))
        painter.setPen(QPen(theme.INK_SOFT, 0.6))
        for volts in range(0, int(top) + 1, 4 if top > 10 else 2):
            painter.drawLine(QPointF(room.left(), y(volts)), QPointF(room.right(), y(volts)))
            painter.drawText(
                QRectF(room.left() - 44, y(volts) - line / 2, 38, line),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                f"{volts} V",
            )
        for n, name in enumerate(TREADS):
            box = QRectF(room.left() + n * wide, room.bottom() + 2, wide, line + 2)
            painter.drawText(
                box,
                Qt.AlignmentFlag.AlignCenter,
                QFontMetricsF(painter.font()).elidedText(name, Qt.TextElideMode.ElideRight, wide - 2),
            )
        worst = max((one for one in self.rows if one.hot), key=lambda one: one.ma)
        self._needed(painter, QRectF(room.left() + 2 * wide, 0, wide, 0), worst, y)
        for one in sorted(self.rows, key=lambda row: (row.hot, row.ma)):
            self._line(painter, room, wide, one, y)

    def _needed(self, painter: QPainter, column: QRectF, worst: Stairs, y: Callable[[float], float]) -> None:
        """What the instrument needs, as a band beside its step at the highest current."""
        at = worst.volts[3]
        ink = theme.GOOD if worst.ok else theme.BROKEN
        band = QRectF(QPointF(column.right() - 9, y(at + worst.need_v)), QPointF(column.right() - 3, y(at)))
        painter.fillRect(band, ink)
        painter.setPen(ink)
        words = tr(
            "needs {need_v:g} V, {left_v:.2f} V left at {ma:g} mA {ok?✓}{ok!✕}",
            need_v=worst.need_v,
            left_v=worst.left_v,
            ma=worst.ma,
            ok=bool(worst.ok),
        )
        line = QFontMetricsF(painter.font()).height()
        room = QRectF(column.right() + 4, band.top() + 2, 2.9 * column.width(), 2 * line)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap), words)

    def _line(self, painter: QPainter, room: QRectF, wide: float, one: Stairs, y: Callable[[float], float]) -> None:
        ink = QColor(theme.HEADING)
        rank = sorted({row.ma for row in self.rows}).index(one.ma)
        ink.setAlphaF(SHADES[min(rank, len(SHADES) - 1)])
        painter.setPen(QPen(ink, 1.8 if one.hot else 1.0, Qt.PenStyle.SolidLine if one.hot else Qt.PenStyle.DotLine))
        corners = []
        for n, volts in enumerate(one.volts):
            left = room.left() + n * wide
            corners += [QPointF(left, y(volts)), QPointF(left + wide, y(volts))]
        painter.drawPolyline(QPolygonF(corners))
