"""Which core is which, drawn: the near ends in a row, the far ones below, what is joined as arcs, what is found as
lines between."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy

from umber_trunk.app import theme
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.prove.entering import CoresSeen

MOST_THIN = 26
"""Cores up to which a line is drawn for each far one that a near one may still be."""


class CoresView(DrawnPane):
    """Draws what is known of the cores of one cable."""

    def __init__(self) -> None:
        super().__init__()
        self.seen: CoresSeen | None = None
        self.lines: dict[str, int] = {}
        """How many lines of each kind were drawn: joined, open, found."""
        self.places: dict[tuple[int, str], QRectF] = {}
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("The cores, near and far"))

    def show_seen(self, seen: CoresSeen | None) -> None:
        """How far it is."""
        self.seen = seen
        if seen is not None:
            self.setAccessibleDescription(
                tr(
                    "{count} of {cores} found; joined here: {near}; joined there: {far}",
                    count=len(seen.names),
                    cores=seen.cores,
                    near=_pairs(seen.near),
                    far=_pairs(seen.far),
                )
            )
        self.update()

    def parts_told(self) -> list[Part]:
        seen = self.seen
        if seen is None:
            return []
        return [
            (
                box,
                tr("core {core} {place}", core=core, place=place),
                tr("is {names} there", names=seen.names[core])
                if place == "here" and core in seen.names
                else tr("not found yet")
                if place == "here"
                else "",
            )
            for (core, place), box in self.places.items()
        ]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.lines = {"joined": 0, "open": 0, "found": 0}
        if self.seen is not None:
            self._draw(painter, QRectF(self.rect()).adjusted(12, 6, -12, -6), self.seen)
        painter.end()
        self.heard()

    def _draw(self, painter: QPainter, room: QRectF, seen: CoresSeen) -> None:
        face = theme.font(9.5, bold=True)
        metrics = QFontMetricsF(face)
        side = metrics.horizontalAdvance("there ") + 8
        step = (room.width() - side) / max(seen.cores, 1)
        radius = min(0.42 * step, metrics.height() * 0.8)
        top, bottom = room.top() + 0.26 * room.height(), room.bottom() - 0.26 * room.height()

        def at(core: int, y: float) -> QPointF:
            return QPointF(room.left() + side + (core - 0.5) * step, y)

        if seen.cores <= MOST_THIN:
            painter.setPen(QPen(theme.PAPER_DIM, 1.2))
            for near, left in seen.may.items():
                if len(left) > 1:
                    for far in left:
                        painter.drawLine(at(near, top + radius), at(far, bottom - radius))
                        self.lines["open"] += 1
        painter.setPen(QPen(theme.GOOD, 2.2))
        for near, far in seen.names.items():
            painter.drawLine(at(near, top + radius), at(far, bottom - radius))
            self.lines["found"] += 1
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.TIGHT, 2.4))
        for pairs, y, up in ((seen.near, top, -1), (seen.far, bottom, 1)):
            for one, other in pairs:
                a, b = at(one, y + up * radius), at(other, y + up * radius)
                lift = up * min(14 + 0.12 * abs(b.x() - a.x()), 0.2 * room.height())
                path = QPainterPath(a)
                path.cubicTo(a + QPointF(0, 1.3 * lift), b + QPointF(0, 1.3 * lift), b)
                painter.drawPath(path)
                self.lines["joined"] += 1
        painter.setFont(face)
        told = set(seen.names.values())
        for y, words, known in ((top, "here", set(seen.names)), (bottom, "there", told)):
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QRectF(room.left(), y - 12, side - 6, 24), int(Qt.AlignmentFlag.AlignVCenter), words)
            for core in range(1, seen.cores + 1):
                spot = at(core, y)
                painter.setPen(QPen(theme.GOOD if core in known else theme.GRIP, 1.6))
                painter.setBrush(theme.GOOD_PALE if core in known else theme.PAPER)
                painter.drawEllipse(spot, radius, radius)
                box = self.places[core, words] = QRectF(spot.x() - radius, spot.y() - radius, 2 * radius, 2 * radius)
                if metrics.horizontalAdvance(str(core)) < 2 * radius:
                    painter.setPen(theme.INK)
                    painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), str(core))


def _pairs(pairs: tuple[tuple[int, int], ...]) -> str:
    return ", ".join(tr("{a} with {b}", a=a, b=b) for a, b in pairs) or "none"
