"""An inferred trunk as a picture: solid where every tree that fits the list agrees, broken where they don't, a ring on
what to measure."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.lengths.angles import equal_angles
from umber_trunk.core.lengths.infer import Inferred

MARGIN, RING, LEGEND = 58.0, 7.0, 20.0


class DoubtsView(QWidget):
    """Draws a proposal; `called` names its points."""

    def __init__(self) -> None:
        super().__init__()
        self.found: Inferred | None = None
        self.called: Callable[[str], str] = str
        self.spots: dict[str, tuple[float, float]] = {}
        self.setMinimumHeight(230)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("The inferred trunk with its doubts"))

    def show_tree(self, found: Inferred, called: Callable[[str], str]) -> None:
        """Another proposal."""
        self.found, self.called = found, called
        self.spots = equal_angles(found)
        unsure = sum(not one.sure for one in found.segments)
        self.setAccessibleDescription(
            tr("{count} segments, {unsure} not sure", count=len(found.segments), unsure=unsure)
        )
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        if self.found is not None and self.spots:
            self._draw(painter, self.found, QRectF(self.rect()))
        painter.end()

    def _draw(self, painter: QPainter, found: Inferred, room: QRectF) -> None:
        at = self._scaled(room.adjusted(MARGIN, 22, -MARGIN, -22 - LEGEND))
        painter.setFont(theme.font(9))
        metrics = QFontMetricsF(painter.font())
        taken: list[QRectF] = []
        for one in found.segments:
            ink = theme.HEADING if one.sure else theme.TIGHT_TEXT
            pen = QPen(ink, 2.6 if one.sure else 1.8, Qt.PenStyle.SolidLine if one.sure else Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawLine(at[one.a], at[one.b])
        point_of = {end: point for point, ends in found.points.items() for end in ends}
        centre = room.center()
        for point, ends in found.points.items():
            spot = at[point]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.HEADING)
            painter.drawEllipse(spot, 3, 3)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if ends:
                painter.setPen(theme.INK)
                words = metrics.elidedText(self.called(point), theme.MIDDLE, 110)
                right = spot.x() >= centre.x()
                wide = metrics.horizontalAdvance(words) + 2
                box = QRectF(spot.x() + 10 if right else spot.x() - 10 - wide, spot.y() - 8, wide, 16)
                box.moveLeft(min(max(box.left(), 2), self.width() - wide - 2))
                if not any(box.intersects(other) for other in taken):
                    taken.append(box)
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        taken += [QRectF(spot.x() - 6, spot.y() - 6, 12, 12) for spot in at.values()]  # no figure hides a point
        for one in sorted(found.segments, key=lambda row: row.sure):
            words = f"{one.length_m:.2f} ± {one.sd_m:.2f}"
            wide = metrics.horizontalAdvance(words) + 6
            box = QRectF(0, 0, wide, 14)
            box.moveCenter((at[one.a] + at[one.b]) * 0.5)
            if any(box.intersects(other) for other in taken):
                continue
            taken.append(box)
            painter.fillRect(box, theme.PAPER_BRIGHT)
            painter.setPen(theme.INK if one.sure else theme.TIGHT_TEXT)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        if found.next is not None:
            painter.setPen(QPen(theme.BROKEN, 2.0))
            for end in (found.next.a, found.next.b):
                painter.drawEllipse(at[point_of[end]], RING, RING)
        self._legend(painter, room, found)

    def _legend(self, painter: QPainter, room: QRectF, found: Inferred) -> None:
        """What the lines mean, and what to do next."""
        words = tr("solid: every tree that fits agrees; broken: they differ")
        if found.next is not None:
            a, b = (next(p for p, ends in found.points.items() if end in ends) for end in (found.next.a, found.next.b))
            words += tr(
                ". Rings: measure from {a} to {b} next, it tells most ({bits:.1f} bits)",
                a=self.called(a),
                b=self.called(b),
                bits=found.next.bits,
            )
        painter.setPen(theme.INK_SOFT)
        line = QRectF(8, room.bottom() - LEGEND, room.width() - 16, LEGEND)
        words = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, line.width())
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, words)

    def _scaled(self, room: QRectF) -> dict[str, QPointF]:
        """point → its place in the room, one scale for both ways."""
        xs, ys = [x for x, _ in self.spots.values()], [y for _, y in self.spots.values()]
        wide, high = max(xs) - min(xs), max(ys) - min(ys)
        scale = min(room.width() / max(wide, 1e-6), room.height() / max(high, 1e-6))
        middle = (0.5 * (max(xs) + min(xs)), 0.5 * (max(ys) + min(ys)))
        return {
            point: QPointF(room.center().x() + scale * (x - middle[0]), room.center().y() - scale * (y - middle[1]))
            for point, (x, y) in self.spots.items()
        }
