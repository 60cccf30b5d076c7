"""The shelf as lanes: each coil with what is reserved on it, job by job, and what is left."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.shop.shop_look import ShopLook
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.kit.coils import Coil


class CoilLanes(QWidget):
    """Painted lanes, in the order of size and colour; `lit` is the job whose pieces stand out."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown: ShopLook | None = None
        self.lit = ""
        self.setAccessibleName(tr("Coils and what is reserved on them"))

    def show_look(self, shown: ShopLook) -> None:
        """The shelf as it stands."""
        self.shown = shown
        self.setAccessibleDescription("; ".join(self._told()))
        self.setMinimumHeight(round(len(shown.coils) * self._row() + 2 * self._row()))
        self.update()

    def light(self, job: str) -> None:
        """A job's pieces stand out."""
        self.lit = job
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(520, 400)

    def _row(self) -> float:
        return QFontMetricsF(theme.font()).height() + 9

    def _name(self, coil: Coil) -> str:
        cable = self.shown.parts.named(coil.size) if self.shown is not None else None
        return f"{coil.id}  {cable.name if cable is not None else show_size(coil.size)} {coil.colour}".rstrip()

    def _told(self) -> list[str]:
        if self.shown is None:
            return []
        left = self.shown.plan.left_m
        return [
            tr("{coil}: {left:.1f} m left", coil=self._name(one.coil), left=left.get(one.coil.id, one.left_m))
            for one in self.shown.coils
        ]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.shown is None:
            return
        metrics, row = QFontMetricsF(theme.font()), self._row()
        if not self.shown.coils:
            painter.setPen(theme.INK_SOFT)
            painter.drawText(
                self.rect(),
                int(Qt.AlignmentFlag.AlignCenter),
                tr("No coil is on the shelf: umber shelf reads a stock list."),
            )
            return
        by: dict[str, list[tuple[float, float, str]]] = {}
        for cut in self.shown.plan.cuts:
            by.setdefault(cut.coil, []).append((cut.at_m, cut.piece.length_m, cut.job))
        names = {one.coil.id: self._name(one.coil) for one in self.shown.coils}
        name_w = min(max(metrics.horizontalAdvance(text) for text in names.values()) + 16, 0.42 * self.width())
        longest = max(one.left_m for one in self.shown.coils) or 1.0
        left_w = metrics.horizontalAdvance("0000.0 m left") + 10
        lane = self.width() - name_w - left_w - 16
        painter.setFont(theme.font())
        for number, one in enumerate(self.shown.coils):
            y = 4 + number * row
            painter.setPen(theme.INK)
            name = metrics.elidedText(names[one.coil.id], Qt.TextElideMode.ElideRight, name_w - 20)
            hue, __, stripe = (one.coil.colour or "white").partition("/")
            painter.setBrush(theme.wire_brush(hue))
            painter.drawRect(QRectF(2, y + 3, 10, row - 12))
            if stripe:
                painter.fillRect(QRectF(6, y + 4, 3, row - 13), theme.wire_brush(stripe))
            painter.drawText(QPointF(16, y + metrics.ascent()), name)
            whole = QRectF(name_w, y + 1, max(lane * one.left_m / longest, 2), row - 8)
            painter.setPen(QPen(theme.GRIP, 1))
            painter.setBrush(theme.PAPER_BRIGHT)
            painter.drawRect(whole)
            scale = lane / longest
            for at, length, job in by.get(one.coil.id, []):
                box = QRectF(name_w + at * scale, y + 1, max(length * scale, 1.0), row - 8)
                painter.setPen(QPen(theme.PAPER, 0.6))
                painter.setBrush(theme.TIGHT if job == self.lit else theme.GOOD_PALE)
                painter.drawRect(box)
            self._jobs(painter, by.get(one.coil.id, []), name_w, y, scale, row)
            rest = self.shown.plan.left_m.get(one.coil.id, one.left_m)
            painter.setFont(theme.font())
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QPointF(whole.right() + 8, y + metrics.ascent()), tr("{rest:.1f} m left", rest=rest))

    @staticmethod
    def _jobs(
        painter: QPainter, cuts: list[tuple[float, float, str]], left: float, y: float, scale: float, row: float
    ) -> None:
        """The job's name over its stretch of the lane, where it has room."""
        small = theme.font(8)
        metrics = QFontMetricsF(small)
        painter.setFont(small)
        painter.setPen(theme.INK)
        spans: dict[str, list[float]] = {}
        for at, length, job in cuts:
            span = spans.setdefault(job, [at, at + length])
            span[0], span[1] = min(span[0], at), max(span[1], at + length)
        end = -1.0
        for job, (start, stop) in sorted(spans.items(), key=lambda item: item[1]):
            wide = metrics.horizontalAdvance(job)
            x = max(left + start * scale + 3, end)
            if x + wide <= left + stop * scale:
                painter.drawText(QPointF(x, y + 1 + (row - 8 + metrics.ascent() - metrics.descent()) / 2), job)
                end = x + wide + 4
