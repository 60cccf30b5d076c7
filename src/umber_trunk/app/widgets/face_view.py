"""A connector's face as an instrument: cavities in their places, wires in their colours, the side always in words."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite, waiting
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.hues import code_of
from umber_trunk.core.ends.faces import Face, Spot

EDGE = 14.0
FILLED = "•"
PASSING_MS = 1200
"""How long after a letter that begins no label the keys go to the window: a wire's number being typed."""
CODED = 17.0
"""Radius of a contact from which the letters of its wire's colours stand in it."""
LABEL_ROOM = 0.46
"""Share of the distance between two cavities that a contact's circle may take as its radius."""


@dataclass(frozen=True)
class Lug:
    """A lug on a stud, in words and colours."""

    text: str
    colour: str
    wrong: bool = False


class FaceView(QWidget):
    """Draws one face. Click or arrow keys choose a cavity; typing its label does too. Signals: chosen(label);
    wants(label) on a double click or Enter; turned() on Space."""

    to_scale = True  # a pane as wide or as tall as its drawing is full
    chosen = Signal(str)
    wants = Signal(str)
    turned = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.face: Face | None = None
        self.given = False
        self.current = ""
        self.wrong: dict[str, str] = {}
        self.lit: dict[str, str] = {}
        """Cavities that are filled next, each with its number in the order of doing, or a dot where it is."""
        self.stacks: dict[str, list[Lug]] = {}
        self.noun = "stud"
        self.most_scale, self.most_point = 14.0, 9.5
        """How large a millimetre and a label may get; larger where it is read from afar."""
        self._places: dict[str, QRectF] = {}
        self._typed = ""
        self._passing = QTimer(self, singleShot=True, interval=PASSING_MS)
        self.setMinimumHeight(170)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Connector face"))

    def show_face(self, face: Face | None, wrong: dict[str, str], current: str) -> None:
        """Another face, what is wrong by label, and which cavity is chosen."""
        self.face, self.wrong, self.current, self.stacks, self.given = face, wrong, current, {}, True
        if face is not None:
            self.setAccessibleDescription(
                tr("{face}, {words}; chosen {current}", face=face.name, words=face.words, current=current or "none")
            )
        self.update()

    def show_stack(self, stacks: dict[str, list[Lug]], current: str, noun: str = "stud") -> None:
        """Studs with what is on them, from below, in place of a face."""
        self.face, self.stacks, self.current, self.wrong, self.noun = None, stacks, current, {}, noun
        self.setAccessibleDescription(
            "; ".join(f"{label}: {', '.join(lug.text for lug in lugs)}" for label, lugs in stacks.items())
        )
        self.update()

    def place_of(self, label: str) -> QRectF:
        """Where a cavity is drawn."""
        return self._places.get(label, QRectF())

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self._places.clear()
        if self.stacks:
            self._draw_stacks(painter, QRectF(self.rect()))
        elif not self.given:
            waiting(painter, self)
        elif self.face is None:
            invite(painter, self, tr("No catalogue part is chosen for this end. Type or pick a housing above."))
        else:
            self.draw(painter, QRectF(self.rect()), self.face)
        painter.end()

    def _draw_stacks(self, painter: QPainter, room: QRectF) -> None:
        """Each stud upright, its lugs on it from below with the largest current lowest, the wire in its colours."""
        line = QFontMetricsF(theme.font(9)).height()
        wide = room.width() / len(self.stacks)
        for number, (label, lugs) in enumerate(self.stacks.items()):
            left = room.left() + number * wide
            foot = room.bottom() - 2.2 * line
            tall = min(2.2 * line, (foot - room.top() - 3 * line) / max(len(lugs), 1))
            middle = left + min(0.24 * wide, 46)
            painter.setPen(QPen(theme.INK_SOFT, 1.5))
            painter.setBrush(theme.GRIP)
            painter.drawRect(QRectF(middle - 7, foot - tall * len(lugs) - line, 14, tall * len(lugs) + line))
            painter.drawRect(QRectF(middle - 24, foot, 48, 6))
            for place, lug in enumerate(lugs):
                lane = QRectF(middle - 20, foot - (place + 1) * tall + 2, wide * 0.7, tall - 4)
                painter.setPen(QPen(theme.BROKEN if lug.wrong else theme.INK, 2.5 if lug.wrong else 1.2))
                painter.setBrush(theme.wire_brush(lug.colour) if lug.colour else theme.PAPER_DIM)
                painter.drawRoundedRect(lane, 6, 6)
                painter.setBrush(theme.PAPER_BRIGHT)
                painter.drawEllipse(QPointF(middle, lane.center().y()), 8, min(8.0, tall / 2 - 3))
                painter.setFont(theme.font(9, bold=True))
                painter.setPen(theme.ink_on(theme.wire_colour(lug.colour)) if lug.colour else theme.INK)
                space = lane.adjusted(34, 0, -4, 0)
                said = QFontMetricsF(painter.font()).elidedText(
                    lug.text + (" ✕" if lug.wrong else ""), Qt.TextElideMode.ElideRight, space.width()
                )
                painter.drawText(space, Qt.AlignmentFlag.AlignVCenter, said)
            chosen = label == self.current
            painter.setFont(theme.font(9.5, bold=chosen))
            painter.setPen(theme.HEADING)
            place_of = QRectF(left + 6, foot + 8, wide - 12, 1.6 * line)
            self._places[label] = QRectF(left, room.top(), wide, room.height())
            painter.drawText(
                place_of,
                Qt.AlignmentFlag.AlignLeft,
                f"{'▸ ' if chosen else ''}{self.noun} {label}" + (tr(", from below") if self.noun == "stud" else ""),
            )

    def draw(self, painter: QPainter, room: QRectF, face: Face) -> None:
        """The face as large as fits, its words above."""
        title = theme.font(min(self.most_point, 14.0), bold=True)
        head = QFontMetricsF(title).height() + 4
        painter.setFont(title)
        painter.setPen(theme.HEADING)
        metrics = QFontMetricsF(title)
        told = f"{face.words}  ·  {face.kind_told}"
        painter.drawText(
            room.adjusted(EDGE, 6, -EDGE, 0),
            Qt.AlignmentFlag.AlignTop,
            metrics.elidedText(told, Qt.TextElideMode.ElideRight, room.width() - 2 * EDGE),
        )
        self.draw_alone(painter, room.adjusted(EDGE, head + 10, -EDGE, -EDGE), face)

    def draw_alone(self, painter: QPainter, inner: QRectF, face: Face) -> None:
        """The face as large as fits, without words."""
        small = QFontMetricsF(theme.font(8.5)).height()
        scale = min(inner.width() / face.width_mm, inner.height() / face.height_mm, self.most_scale)
        middle = inner.center()
        self._outline(painter, face, middle, scale)
        if face.turned_deg:
            self._turn(painter, face, middle, scale)
        radius = _radius(face, scale)
        for spot in face.spots:
            at = middle + QPointF(spot.x_mm, -spot.y_mm) * scale
            self._spot(painter, spot, at, radius, small)
            if spot.label in self.lit:
                self._light(painter, at, radius, self.lit[spot.label])

    def _light(self, painter: QPainter, at: QPointF, radius: float, number: str) -> None:
        """A cavity that is filled in this handful: its number, a dot once it is."""
        done = number == FILLED
        painter.setPen(QPen(theme.GOOD if done else theme.TIGHT, 3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, radius + 3, radius + 3)
        size = max(0.5 * radius, 8.0)
        badge = QRectF(at.x() + 0.55 * radius, at.y() - radius - 0.6 * size, 2 * size, 2 * size)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.GOOD if done else theme.TIGHT_PALE)
        painter.drawEllipse(badge)
        painter.setFont(theme.font(max(0.75 * size, 6.5), bold=True))
        painter.setPen(theme.PAPER_BRIGHT if done else theme.TIGHT_TEXT)
        painter.drawText(badge, int(Qt.AlignmentFlag.AlignCenter), number)

    def _outline(self, painter: QPainter, face: Face, middle: QPointF, scale: float) -> None:
        body = QRectF(0, 0, face.width_mm * scale, face.height_mm * scale)
        body.moveCenter(middle)
        path = QPainterPath()
        if face.shape == "round":
            path.addEllipse(body)
        else:
            path.addRoundedRect(body, 2.2 * scale, 2.2 * scale)
        if face.keyed:
            key = QPainterPath()
            wide = max(0.12 * body.width(), 7.0)
            key.addRoundedRect(QRectF(middle.x() - wide / 2, body.top() - 1, wide, max(4.0, 0.7 * scale)), 2, 2)
            path = path.subtracted(key)
        painter.setPen(QPen(theme.INK_SOFT, 2))
        painter.setBrush(theme.PAPER_DIM)
        painter.drawPath(path)

    def _turn(self, painter: QPainter, face: Face, middle: QPointF, scale: float) -> None:
        """An arc over the face with its arrow: so far this half is turned as it plugs in."""
        reach = QPointF(face.width_mm, face.height_mm) * (scale * 0.5)
        lane = QRectF(middle.x() - reach.x() * 0.7, middle.y() - reach.y() * 0.62, reach.x() * 1.4, reach.y() * 1.24)
        painter.setPen(QPen(theme.TIGHT_TEXT, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawArc(lane, 0, round(16 * face.turned_deg))
        end = math.radians(face.turned_deg)
        tip = lane.center() + QPointF(math.cos(end) * lane.width() / 2, -math.sin(end) * lane.height() / 2)
        for aside in (-4.0, 4.0):
            painter.drawLine(tip, tip + QPointF(aside, -7.0))
        painter.setFont(theme.font(9, bold=True))
        painter.drawText(
            QRectF(lane.left(), middle.y() - reach.y() - 16, lane.width(), 15),
            Qt.AlignmentFlag.AlignCenter,
            tr("plugs in turned by {turned_deg:g}°", turned_deg=face.turned_deg),
        )

    def _spot(self, painter: QPainter, spot: Spot, at: QPointF, radius: float, small: float) -> None:
        circle = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
        self._places[spot.label] = circle
        painter.save()
        if spot.wires:
            paper = theme.wire_colour(spot.colour) if spot.colour else theme.PAPER_BRIGHT
            painter.setPen(QPen(theme.INK, 1.2))
            painter.setBrush(theme.wire_brush(spot.colour) if spot.colour else paper)
            painter.drawEllipse(circle)
            if spot.stripe:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.wire_brush(spot.stripe))
                painter.drawPie(circle.adjusted(1, 1, -1, -1), 212 * 16, 116 * 16)
        else:
            painter.setPen(QPen(theme.INK_SOFT, 1.2, Qt.PenStyle.SolidLine if spot.plugged else Qt.PenStyle.DashLine))
            painter.setBrush(theme.GRIP if spot.plugged else theme.PAPER_BRIGHT)
            painter.drawEllipse(circle)
            if spot.plugged:
                painter.drawLine(
                    circle.topLeft() + QPointF(0.3 * radius, 0.3 * radius),
                    circle.bottomRight() - QPointF(0.3 * radius, 0.3 * radius),
                )
            paper = theme.GRIP if spot.plugged else theme.PAPER_BRIGHT
        if spot.turn_deg and radius > 6:
            up = math.radians(spot.turn_deg + 90)
            tip = at + QPointF(math.cos(up), -math.sin(up)) * (radius + 2)
            painter.setPen(QPen(theme.INK, 2))
            painter.drawLine(at + QPointF(math.cos(up), -math.sin(up)) * (0.7 * radius), tip)
        if spot.label in self.wrong:
            painter.setPen(QPen(theme.BROKEN, 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(circle.adjusted(-3, -3, 3, 3))
        if spot.label == self.current:
            painter.setPen(QPen(theme.HEADING, 2.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(circle.adjusted(-5, -5, 5, 5), 4, 4)
        painter.setFont(theme.font(min(self.most_point, max(6.0, radius * 0.62)), bold=True))
        painter.setPen(theme.ink_on(QColor(paper)))
        text = spot.label + ("✕" if spot.label in self.wrong else "")
        code = code_of(spot.colour, spot.stripe) if spot.wires and radius > CODED else ""
        if QFontMetricsF(painter.font()).horizontalAdvance(text) < 2 * radius - 2:
            painter.drawText(circle.adjusted(0, 0, 0, -0.5 * radius if code else 0), Qt.AlignmentFlag.AlignCenter, text)
        if code:
            painter.setFont(theme.font(max(0.34 * radius, 6.0)))
            painter.drawText(circle.adjusted(0, 0.45 * radius, 0, 0), Qt.AlignmentFlag.AlignCenter, code)
        painter.restore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        label = self._at(event.position())
        if label:
            self.setFocus()
            self._choose(label)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if label := self._at(event.position()):
            self.wants.emit(label)

    def _at(self, point: QPointF) -> str:
        return next((label for label, circle in self._places.items() if circle.contains(point)), "")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        key, said = Qt.Key(event.key()), event.text().strip()
        enter = key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if self._passing.isActive():  # a wire's number, typed or scanned, is for the window
            super().keyPressEvent(event)
            if enter:
                self._passing.stop()
            else:
                self._passing.start()
        elif key in steps:
            self._walk(*steps[key])
        elif key == Qt.Key.Key_Space:
            self.turned.emit()
        elif enter and self.current:
            self.wants.emit(self.current)
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier or not said:
            super().keyPressEvent(event)
        elif self.face is None or not self._type(said):
            self._passing.start()
            super().keyPressEvent(event)

    def _type(self, text: str) -> bool:
        """A label typed chooses its cavity, as far as it leads to one; False where no label begins so."""
        assert self.face is not None
        labels = [spot.label for spot in self.face.spots]
        taken = False
        for typed in (self._typed + text, text):
            if any(label.lower().startswith(typed.lower()) for label in labels):
                self._typed = typed
                found = next((label for label in labels if label.lower() == typed.lower()), "")
                if found:
                    self._choose(found)
                taken = True
                break
        return taken

    def _walk(self, dx: int, dy: int) -> None:
        """To the nearest cavity that way."""
        if self.face is None:
            return
        here = next((spot for spot in self.face.spots if spot.label == self.current), None)
        if here is None:
            self._choose(self.face.spots[0].label)
            return
        best: tuple[float, str] | None = None
        for spot in self.face.spots:
            x, y = spot.x_mm - here.x_mm, spot.y_mm - here.y_mm
            along, aside = x * dx + y * dy, abs(x * dy) + abs(y * dx)
            if along > 1e-6 and (best is None or along + 2 * aside < best[0]):
                best = (along + 2 * aside, spot.label)
        if best is not None:
            self._choose(best[1])

    def _choose(self, label: str) -> None:
        self._typed = self._typed if self._typed.lower() == label.lower() else ""
        self.current = label
        self.update()
        self.chosen.emit(label)


def _radius(face: Face, scale: float) -> float:
    apart = [
        math.dist((a.x_mm, a.y_mm), (b.x_mm, b.y_mm)) for n, a in enumerate(face.spots) for b in face.spots[n + 1 :]
    ]
    return max(
        3.0,
        min(
            LABEL_ROOM * min(apart, default=10.0) * scale,
            26.0,
            0.22 * min(face.width_mm, face.height_mm) * scale if len(face.spots) < 4 else 26.0,
        ),
    )
