"""The drill's bench: two ends with their places, a needle between them. A place chosen on either side sets a tip; with
both set the needle moves."""

from __future__ import annotations

import math
from collections.abc import Set
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.prove.cards import face_at
from umber_trunk.app.widgets.desk import button
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.prove.netlist import Netlist, Point

DECADES = (-3, 8)
"""The dial of an ohmmeter: a milliohm to a hundred megohms, evenly in the logarithm; nothing is at its left stop."""


class Needle(QWidget):
    """A dial with its needle, what a sound unit would show marked on it."""

    to_scale = True  # a pane as wide or as tall as its drawing is full

    def __init__(self) -> None:
        super().__init__()
        self.share: float | None = None
        self.sound: float | None = None
        self.words = ""
        self.setMinimumSize(190, 130)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Meter"))

    def show_reading(self, share: float | None, sound: float | None, words: str) -> None:
        """Another reading: how far along the dial it is, how far a sound one, and both in words."""
        self.share, self.sound, self.words = share, sound, words
        self.setAccessibleDescription(words)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        painter.setFont(theme.font(9))
        tall = 2 * QFontMetricsF(painter.font()).height()
        room = QRectF(self.rect()).adjusted(10, 8, -10, -tall - 8)
        radius = min(room.width() / 2, room.height()) - 4
        middle = QPointF(room.center().x(), room.top() + radius + 6)
        painter.setPen(QPen(theme.INK_SOFT, 2))
        painter.drawArc(QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius), 20 * 16, 140 * 16)
        if self.sound is not None:
            painter.setPen(QPen(theme.GOOD, 5))
            painter.drawLine(_on(middle, radius - 5, self.sound), _on(middle, radius + 3, self.sound))
        if self.share is not None:
            painter.setPen(QPen(theme.BROKEN, 2.4))
            painter.drawLine(middle, _on(middle, radius - 8, self.share))
        painter.setPen(theme.INK)
        words = QRectF(self.rect()).adjusted(6, self.height() - tall - 6, -6, -2)
        painter.drawText(
            words,
            int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap),
            self.words or tr("Choose a place on either side."),
        )
        painter.end()


def _on(middle: QPointF, radius: float, share: float) -> QPointF:
    angle = math.radians(160 - 140 * min(max(share, 0.0), 1.0))
    return QPointF(middle.x() + radius * math.cos(angle), middle.y() - radius * math.sin(angle))


def dial(ohm: float) -> float:
    """How far along the dial an ohmmeter's needle stands: nothing at the left, no ohms at the right."""
    if math.isinf(ohm):
        return 0.0
    low, high = DECADES
    return (high - math.log10(max(ohm, 1e-3))) / (high - low)


class Side(QWidget):
    """One end and its places. Signal: chosen()."""

    chosen = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self._net: Netlist | None = None
        self.labels: dict[str, Point] = {}
        self._only: Set[Point] = frozenset()
        self.ends = QComboBox()
        self.ends.setAccessibleName(name)
        self.face = FaceView()
        self.face.setMinimumHeight(110)
        self.face.chosen.connect(self.pick)
        self.ends.currentIndexChanged.connect(lambda _: self._show())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.ends)
        column.addWidget(self.face, 1)
        self.places = QWidget()
        self.grid = QGridLayout(self.places)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setSpacing(4)
        column.addWidget(self.places, 1)
        self.place: Point | None = None

    def offer(self, net: Netlist, ends: list[str], at: int, only: Set[Point]) -> None:
        """The ends there are to set a tip at; where there are any, at these places `only`."""
        self._net, self._only = net, only
        self.ends.blockSignals(True)
        self.ends.clear()
        for end in ends:
            self.ends.addItem(net.index.ends[end].name, end)
        self.ends.setCurrentIndex(min(at, len(ends) - 1))
        self.ends.blockSignals(False)
        self._show()

    def _show(self) -> None:
        net, end = self._net, self.ends.currentData()
        self.place = None
        if net is None or end is None:
            return
        cavities = {cavity.id: cavity for cavity in net.index.ends[end].cavities}
        points = [(end, cavity) for cavity in cavities if (end, cavity) in (self._only or net.node_of)]
        self.labels = {cavities[point[1]].label or point[1]: point for point in points}
        face = face_at(net, points[0], "") if points else None
        if face is not None:
            self.face.show_face(face, {}, "")
        self.face.setVisible(face is not None)
        self._offer_places(net, face is None)

    def _offer_places(self, net: Netlist, wanted: bool) -> None:
        """A button a place, with what arrives there, where an end has no face."""
        while (item := self.grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        self.places.setVisible(wanted)
        for number, (label, point) in enumerate(self.labels.items() if wanted else ()):
            wires = [wire for wire in net.arriving.get(point[0], ()) if point in net.places(wire)]
            words = f"{label}  {', '.join(wires[:2])}{' …' if len(wires) > 2 else ''}"
            self.grid.addWidget(button(words, partial(self.pick, label), tip=", ".join(wires)), number // 5, number % 5)

    def pick(self, label: str) -> None:
        """The lead is put on a cavity, by its label."""
        self.place = self.labels.get(label)
        self.chosen.emit()


class DrillBench(QWidget):
    """Both sides with the needle between. Signal: probed(point, point)."""

    probed = Signal(object, object)

    def __init__(self) -> None:
        super().__init__()
        self.red, self.black, self.needle = Side(tr("Red lead")), Side(tr("Black lead")), Needle()
        self._red_last = False
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.red, 4)
        row.addWidget(self.needle, 3)
        row.addWidget(self.black, 4)
        for side in (self.red, self.black):
            side.chosen.connect(self._both)

    def offer(
        self,
        net: Netlist,
        ends: list[str],
        first: tuple[str, str] | None = None,
        only: Set[Point] = frozenset(),
    ) -> None:
        """The ends of a drill; `first`, those shown at once."""
        for side, at in ((self.red, 0), (self.black, 1)):
            side.offer(net, ends, ends.index(first[at]) if first is not None and first[at] in ends else at, only)
        self.needle.show_reading(None, None, "")

    def take_end(self, end: str) -> bool:
        """An end chosen on the trunk: for the red lead, the next one for the black; False for one no tip goes to."""
        side = self.black if self._red_last else self.red
        at = side.ends.findData(end)
        if at < 0:
            return False
        self._red_last = not self._red_last
        side.ends.setCurrentIndex(at)
        side.face.setFocus()
        return True

    def _both(self) -> None:
        if self.red.place is not None and self.black.place is not None and self.red.place != self.black.place:
            self.probed.emit(self.red.place, self.black.place)
