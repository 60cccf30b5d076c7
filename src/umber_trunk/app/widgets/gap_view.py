"""A search while it runs: the best that holds comes down from above, what nothing can be under comes up from below."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr


class GapView(QWidget):
    """Draws pairs (best, floor or None where none is known), one for each thing found, in their order; `say` words a
    value."""

    def __init__(self, say: Callable[[float], str]) -> None:
        super().__init__()
        self.pairs: list[tuple[float, float | None]] = []
        self._say = say
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(tr("What is found and what is proven"))

    def clear(self) -> None:
        """Starts over."""
        self.pairs = []
        self.setAccessibleDescription("")
        self.update()

    def add(self, best: float, floor: float | None) -> None:
        """One more thing found; what says nothing new is left out."""
        if self.pairs and self.pairs[-1] == (best, floor):
            return
        self.pairs.append((best, floor))
        self.setAccessibleDescription(tr("{best} holds; {gap}", best=self._say(best), gap=self._open(best, floor)))
        self.update()

    def _open(self, best: float, floor: float | None) -> str:
        if floor is None or best <= 0:
            return tr("no bound yet")
        return tr("{best:.1f} % open", best=100 * max(best - floor, 0.0) / best)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        painter.setFont(theme.font(9))
        if not self.pairs:
            painter.setPen(theme.INK_SOFT)
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                tr("The best so far and what nothing can be under, as they close."),
            )
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(10, 12, -10, -12))
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF) -> None:
        metrics = QFontMetricsF(painter.font())
        best, floor = self.pairs[-1]
        words = [
            tr("{best} holds", best=self._say(best)),
            self._open(best, floor),
            "" if floor is None else tr("nothing under {floor}", floor=self._say(floor)),
        ]
        plot = room.adjusted(
            0, metrics.height(), -max(map(metrics.horizontalAdvance, words)) - 16, -metrics.height() / 2
        )
        known = [value for pair in self.pairs for value in pair if value is not None]
        low, high = min(known), max(known)
        if high - low < 0.02 * high:
            low, high = low - 0.01 * high, high + 0.01 * high

        def at(number: int, value: float) -> QPointF:
            return QPointF(
                plot.left() + plot.width() * number / len(self.pairs),
                plot.bottom() - plot.height() * (value - low) / (high - low),
            )

        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(8))
        for y, value in ((plot.top() - 3, high), (room.bottom() + 6, low)):
            painter.drawText(QPointF(plot.left(), y), self._say(value))
        painter.setFont(theme.font(9))
        above = [at(n + side, pair[0]) for n, pair in enumerate(self.pairs) for side in (0, 1)]
        below = [at(n + side, pair[1]) for n, pair in enumerate(self.pairs) for side in (0, 1) if pair[1] is not None]
        if below:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.TIGHT_PALE)
            painter.drawPolygon(QPolygonF(above[-len(below) :] + below[::-1]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line, ink, style in ((above, theme.INK, Qt.PenStyle.SolidLine), (below, theme.GOOD, Qt.PenStyle.DashLine)):
            painter.setPen(QPen(ink, 2.2, style))
            painter.drawPolyline(line)
        self._words(painter, plot, words, above[-1].y(), below[-1].y() if below else plot.bottom(), metrics.height())

    @staticmethod
    def _words(painter: QPainter, plot: QRectF, words: list[str], top: float, bottom: float, line: float) -> None:
        """Beside the ends of both lines, what is open between them; they make room for each other."""
        middle = (top + bottom) / 2
        first, last = min(top, middle - line), max(bottom, middle + line)
        for y, text, ink in zip((first, middle, last), words, (theme.INK, theme.TIGHT_TEXT, theme.GOOD), strict=True):
            painter.setPen(ink)
            painter.drawText(QPointF(plot.right() + 10, y + line / 3), text)
