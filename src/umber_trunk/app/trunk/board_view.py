"""The board under the hands, a mode of the trunk picture: limbs are turned by dragging, and kept where they lie."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.board_shown import NEAR, BoardShown
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.board.pins import pin_of, pins_of
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Pinned

TURN_STEP_DEG = 5.0
MOST_ZOOM = 40.0


class BoardView(BoardShown):
    """Signals: picked(table, id), said(str)."""

    picked = Signal(str, str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._grip: QPointF | None = None
        self._drag: tuple[str, QPointF] | None = None

    def paint_over(self, painter: QPainter) -> None:
        """A limb on its way to another angle."""
        if self._drag is not None and (start := self.start_of(self._drag[0])) is not None:
            painter.setPen(QPen(theme.TIGHT, 2, Qt.PenStyle.DashLine))
            painter.drawLine(self.place(*start), self._drag[1])

    def start_of(self, segment: str) -> tuple[float, float] | None:
        """Where a limb hangs: the end of it that is nearer to the trunk's root."""
        index = index_of(self.document.design)
        part = index.segments.get(segment)
        if part is None or self.made is None:
            return None
        near = part.a if index.parents.get(part.b, ("", "", 0))[1] == segment else part.b
        return self.made.folded.spots.get(near)

    def turned(self, segment: str, at: QPointF) -> float | None:
        """The angle to the limb before that a drag to a place asks for, in steps; None for a limb of the trunk."""
        start = self.start_of(segment)
        if start is None or self.made is None or segment in self.made.folded.trunk:
            return None
        index, part = index_of(self.document.design), index_of(self.document.design).segments[segment]
        near = part.a if index.parents.get(part.b, ("", "", 0))[1] == segment else part.b
        way = self.made.folded.ways.get(near, (1.0, 0.0))
        here = self.place(*start)
        asked = math.degrees(math.atan2(here.y() - at.y(), at.x() - here.x())) - math.degrees(
            math.atan2(way[1], way[0])
        )
        asked = (asked + 180) % 360 - 180
        return round(asked / TURN_STEP_DEG) * TURN_STEP_DEG

    def turn(self, segment: str, angle: float | None) -> None:
        """Keeps an angle for a limb; the board is laid out anew, a pin of this limb and of what hangs on it is let
        go."""

        def edit(design: Design) -> Design:
            index = index_of(design)
            part = index.segments[segment]
            far = part.b if index.parents.get(part.b, ("", "", 0))[1] == segment else part.a
            beyond, queue = {segment}, [far]
            for here in queue:
                for point, (parent, name, _) in index.parents.items():
                    if parent == here and name:
                        beyond.add(name)
                        queue.append(point)
            pins = tuple(pin for pin in design.project.board.pins if pin.segment not in beyond)
            return _pinned(put(design, "segments", change(part, turn_deg=angle)), pins)

        self.document.apply(edit, f"{segment} turned on the board")

    def pin(self) -> None:
        """Keeps the chosen limb where it lies, or lets it go."""
        if self.made is None or self.chosen not in self.made.folded.lines:
            self.said.emit(tr("Choose a limb first: click it, or N for the next."))
            return
        name, made = self.chosen, self.made.folded
        kept = {pin.segment for pin in self.document.design.project.board.pins}

        def edit(design: Design) -> Design:
            pins = [pin for pin in design.project.board.pins if pin.segment != name]
            return _pinned(design, (*pins, *(() if name in kept else (pin_of(made, name),))))

        self.document.apply(edit, f"{name} {'let go' if name in kept else 'kept'} on the board")

    def pin_all(self) -> None:
        """The board is screwed together: every limb stays where it lies; or all are let go."""
        if self.made is None:
            return
        made = self.made.folded
        pins = () if self.document.design.project.board.pins else pins_of(made)
        self.document.apply(
            lambda design: _pinned(design, pins), "the board kept as it lies" if pins else "the board let go"
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self.segment_at(event.position())
        self._grip = None if found else event.position()
        if found:
            self.chosen = found
            self._drag = (found, event.position())
            self.picked.emit("segments", found)
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if found := self.segment_at(event.position()):
            self._drag, self.chosen = None, found
            self.pin()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self.pan += event.position() - self._grip
            self._grip = event.position()
            self.update()
        elif self._drag is not None and event.buttons():
            self._drag = (self._drag[0], event.position())
            angle = self.turned(*self._drag)
            self.said.emit(
                tr("{drag} at {angle:+g}° to the limb before", drag=self._drag[0], angle=angle)
                if angle is not None
                else tr("The trunk stays level; drag what hangs on it.")
            )
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._grip = None
        drag, self._drag = self._drag, None
        if drag is not None and self.made is not None:
            start = self.start_of(drag[0])
            angle = self.turned(drag[0], event.position())
            if (
                start is not None
                and angle is not None
                and _far(self.place(*start), event.position()) > NEAR
                and self._moved(drag[0], event.position())
            ):
                self.turn(drag[0], angle)
        self.update()

    def _moved(self, segment: str, at: QPointF) -> bool:
        """Whether a limb was let go somewhere else than on itself."""
        return self.segment_at(at) != segment

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoom_by(1.2 if event.angleDelta().y() > 0 else 1 / 1.2, event.position())

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Nearer or further, a place staying where it is; 0 shows the whole board."""
        if factor == 0:
            self.zoom, self.pan = 1.0, QPointF(0, 0)
            self.update()
            return
        if self.made is None:
            return
        at = at or QPointF(self.width() / 2, self.height() / 2)
        origin, scale = self.origin(), self.scale()
        spot = ((at.x() - origin.x()) / scale, (origin.y() - at.y()) / scale)
        self.zoom = max(1.0, min(MOST_ZOOM, self.zoom * factor))
        if self.zoom == 1.0:
            self.pan = QPointF(0, 0)
        else:
            self.pan += at - self.place(*spot)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (40, 0), Qt.Key.Key_Right: (-40, 0), Qt.Key.Key_Up: (0, 40), Qt.Key.Key_Down: (0, -40),
        }  # fmt: skip
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape and self.busy:
            self._background.drop()
            self.results = None
            self.said.emit(tr("Stopped. Show the board again to lay it out."))
            self.update()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_Home:
            self.zoom_by(0)
        elif key == Qt.Key.Key_N and self.made is not None:
            names = list(self.made.folded.lines)
            at = names.index(self.chosen) + 1 if self.chosen in names else 0
            self.chosen = names[at % len(names)] if names else ""
            self.picked.emit("segments", self.chosen)
            self.update()
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight) and self.chosen:
            self._turn_by(15.0 if key == Qt.Key.Key_BracketLeft else -15.0)
        elif key == Qt.Key.Key_P:
            self.pin_all() if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else self.pin()
        elif key in steps and self.zoom > 1:
            self.pan += QPointF(*steps[key])
            self.update()
        else:
            super().keyPressEvent(event)

    def _turn_by(self, degrees: float) -> None:
        """Turns the chosen limb from where it is."""
        if self.made is None or self.chosen in self.made.folded.trunk or self.chosen not in self.made.folded.lines:
            self.said.emit(tr("The trunk stays level; drag what hangs on it."))
            return
        start = self.start_of(self.chosen)
        line = self.made.folded.lines[self.chosen]
        if start is None:
            return
        onward = line[1] if math.dist(line[0], start) < 1e-6 else line[-2]
        wished = (
            index_of(self.document.design).segments[self.chosen].turn_deg
        )  # what has no room now is turned from what was wanted
        asked = self.turned(self.chosen, self.place(*onward)) if wished is None else wished
        if asked is not None:
            self.turn(self.chosen, (asked + degrees + 180) % 360 - 180)


def _pinned(design: Design, pins: tuple[Pinned, ...]) -> Design:
    """A design whose board keeps these limbs."""
    made: Design = change(design, project=change(design.project, board=change(design.project.board, pins=pins)))
    return made


def _far(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())
