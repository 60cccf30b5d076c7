"""Verdicts with what their inputs' ± does to them: a dot at the use, a band of two σ on either side, the limit as a
mark in every row."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.sizes.sure import Sure, of_hundred

ROW_PT = 2.4
"""Height of a row, in heights of a line."""
MOST_USED = 1.5
"""Uses beyond are drawn at the edge."""


class WhiskersView(QWidget):
    """Draws verdicts in the order given. Signals: chosen(kind, id), by a click or Enter."""

    chosen = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[Sure, str]] = []
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(tr("How sure each verdict is"))

    def show_rows(self, rows: Sequence[tuple[Sure, str]]) -> None:
        """Verdicts and the names to show them by."""
        self.rows, self.at = list(rows), 0
        self.setFixedHeight(self.sizeHint().height())
        self._tell()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(320, round(self._line * (ROW_PT * max(len(self.rows), 1) + 1.6)))

    @property
    def _line(self) -> float:
        return QFontMetricsF(theme.font(9)).height()

    def _tell(self) -> None:
        if self.rows:
            one, name = self.rows[self.at]
            self.setAccessibleDescription(
                tr(
                    "{name}: {chance}; most of the doubt is {because}",
                    name=name,
                    chance=of_hundred(one.chance),
                    because=one.because,
                )
            )

    def choose(self, at: int) -> None:
        """Another row."""
        if self.rows:
            self.at = max(0, min(at, len(self.rows) - 1))
            self._tell()
            self.update()
            self.chosen.emit(self.rows[self.at][0].kind, self.rows[self.at][0].id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Return: 0, Qt.Key.Key_Enter: 0}.get(
            Qt.Key(event.key())
        )
        if step is None:
            super().keyPressEvent(event)
        else:
            self.choose(self.at + step)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.choose(int((event.position().y() - 1.4 * self._line) / (ROW_PT * self._line)))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        if self.rows:
            self._draw(painter, QRectF(self.rect()).adjusted(8, 0, -8, 0))
        else:
            invite(painter, self, tr("Each verdict stands here with what its doubts do to it, once it is worked out."))
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF) -> None:
        bold, plain = theme.font(9, bold=True), theme.font(9)
        line, words = self._line, QFontMetricsF(bold)
        right = max(words.horizontalAdvance(of_hundred(one.chance)) for one, _ in self.rows) + 10
        plot = QRectF(room.left() + 4, 1.4 * line, room.width() - right - 8, ROW_PT * line * len(self.rows))

        def x(used: float) -> float:
            return plot.left() + plot.width() * min(max(used, 0.0), MOST_USED) / MOST_USED

        painter.setFont(plain)
        painter.setPen(theme.INK_SOFT)
        for share in (0.0, 0.5, 1.0, 1.5):
            text = "limit" if share == 1.0 else f"{100 * share:.0f} %"
            wide = QFontMetricsF(plain).horizontalAdvance(text)
            painter.drawText(QPointF(min(max(x(share) - wide / 2, plot.left()), plot.right() - wide), 1.1 * line), text)
        for number, (one, name) in enumerate(self.rows):
            top = plot.top() + number * ROW_PT * line
            if number == self.at:
                painter.fillRect(QRectF(room.left() - 6, top, room.width() + 12, ROW_PT * line), theme.PAPER_DIM)
            ink = theme.BROKEN if one.chance < 0.5 else theme.TIGHT_TEXT if one.chance < 0.95 else theme.GOOD
            painter.setPen(theme.INK)
            painter.setFont(plain)
            told = f"{name}  ·  {one.because}" if one.because and one.chance < 0.995 else name
            painter.drawText(
                QPointF(plot.left(), top + line),
                QFontMetricsF(plain).elidedText(told, Qt.TextElideMode.ElideRight, plot.width()),
            )
            middle = top + 1.75 * line
            painter.setPen(QPen(theme.GRIP, 1))
            painter.drawLine(QPointF(plot.left(), middle), QPointF(plot.right(), middle))
            painter.setPen(QPen(theme.BROKEN, 2))
            painter.drawLine(QPointF(x(1.0), middle - 0.5 * line), QPointF(x(1.0), middle + 0.5 * line))
            painter.setPen(QPen(ink, 5.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            painter.drawLine(QPointF(x(one.used - 2 * one.sd), middle), QPointF(x(one.used + 2 * one.sd), middle))
            painter.setPen(QPen(theme.PAPER_BRIGHT, 1.5))
            painter.setBrush(ink)
            painter.drawEllipse(QPointF(x(one.used), middle), 5.0, 5.0)
            painter.setFont(bold)
            painter.setPen(ink)
            painter.drawText(
                QRectF(plot.right() + 6, top, right, ROW_PT * line),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                of_hundred(one.chance),
            )
