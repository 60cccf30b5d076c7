"""The trunk picture under the hands: it folds and unfolds, zooms, pans, picks, drags branches."""

from __future__ import annotations

from collections.abc import Callable, Container

from PySide6.QtCore import QEvent, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QGestureEvent, QPinchGesture, QToolTip, QWidget

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.picture_shown import PictureShown
from umber_trunk.app.trunk.picture_words import Subject, described
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design

DRAG_LEAST = 10
REST_MS = 450
MOST_ZOOM = 12.0


def move_branch(design: Design, point: str, side: int | None, lean: float | None) -> Design:
    """The builder's wish for the picture: a branch's side and how far it leans."""
    part = index_of(design).points[point]
    wish = {
        "side": part.side if side is None else side,
        "lean": part.lean if lean is None else lean,
    }
    return put(design, "points", change(part, **wish))


class TrunkCanvas(PictureShown):
    """Signals: picked(table, id) when a segment, end or wire is chosen; folds_kept(dict) when the builder folds or
    unfolds."""

    picked = Signal(str, str)
    folds_kept = Signal(object)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(document, parent)
        self._press: tuple[QPointF, str] | None = None
        self._pointer = QPointF()
        self._drag: QPointF | None = None
        self._grip: QPointF | None = None
        self._rest = QTimer(self, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(self._rested)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Trunk picture"))
        self.setAccessibleDescription(tr("Arrow keys go from end to end, Space opens or folds a branch, + and − zoom."))
        self.grabGesture(Qt.GestureType.PinchGesture)

    def paint_over(self, painter: QPainter) -> None:
        """A branch on its way to another place."""
        if self._drag is not None and self._press is not None and self.painter is not None:
            painter.setPen(QPen(theme.TIGHT, 2, Qt.PenStyle.DashLine))
            painter.drawLine(self.painter.place(self._press[1]), self._drag)

    def under(self, at: QPointF) -> Subject | None:
        found = self._drawn_at(at)
        index = index_of(self.document.design)
        here: dict[str, Container[str]] = {"ends": index.ends, "segments": index.segments, "wires": index.wires}
        return (
            found if found is not None and found[1] in here.get(found[0], (found[1],)) else None
        )  # it may just have been removed

    def _drawn_at(self, at: QPointF) -> Subject | None:
        for box, tag in self.hits.tags:
            if box.contains(at) and tag.fold:
                return "folds", tag.fold
            if box.contains(at) and tag.ends:
                return "ends", self.hits.end_at(at, tag)
        for box, wires in self.hits.strays:
            if box.contains(at):
                return "wires", wires[0]
        segment = self.hits.segment_at(at)
        return ("segments", segment) if segment else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        strip = self.hits.overview
        if strip is not None and strip.contains(event.position()):
            self._pan_to(
                (event.position().x() - strip.left()) / strip.width() * self.width() * self.zoom - self.width() / 2
            )
            return
        found = self.under(event.position())
        if found is None:
            self._grip = event.position()
            return
        if found[0] == "folds":
            self.unfold(found[1])
            return
        if found[0] == "ends":
            point = index_of(self.document.design).ends[found[1]].point
            if point in self.picture.branch_of:
                self._press = (event.position(), point)
        self.picked.emit(*found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._grip is not None:
            self._pan_to(self.pan - (at.x() - self._grip.x()))
            self._grip = at
        elif self._press and (at - self._press[0]).manhattanLength() > DRAG_LEAST:
            self._drag = at
            self.update()
        else:
            self._pointer = at
            self._rest.start()

    def _rested(self) -> None:
        """The pointer rests on a fold: it opens for as long as the pointer stays near."""
        under = self.under(self._pointer)
        if under is not None and under[0] == "folds" and self.near != under[1]:
            self.near = under[1]
            self.repaint_soon()

    def leaveEvent(self, event: QEvent) -> None:
        self._rest.stop()
        if self.near:
            self.near = ""
            self.repaint_soon()
        super().leaveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._grip = None
        press, self._press = self._press, None
        dragged, self._drag = self._drag, None
        if press is None or dragged is None or self.painter is None:
            return
        self.drop_branch(press[1], event.position() - press[0], event.position().y())

    def drop_branch(self, point: str, moved: QPointF, y: float) -> None:
        """A branch was dragged: over the spine it changes side, sideways it leans."""
        if self.painter is None:
            return
        layout = self.picture
        top = layout.branch_of[point]
        side = 1 if y > self.painter.spine_y(y) else -1
        was = 1 if layout.at[top][1] > 0 else -1
        if side != was:
            self.document.apply(lambda d: move_branch(d, top, side, None), "branch to the other side")
            return
        lean = index_of(self.document.design).points[point].lean + moved.x() / self.painter.slot_width()
        lean = max(-3.0, min(3.0, round(lean, 2)))
        self.document.apply(lambda d: move_branch(d, point, None, lean), "branch leaned")

    def unfold(self, key: str) -> None:
        """Opens a fold, for good."""
        self.kept = {**self.kept, key: True}
        self._kept()

    def fold_at(self, point: str) -> None:
        """Folds the innermost branch or run that a point lies in."""
        layout = self.picture
        holders = [
            knot
            for knot in (self.shown.picture.knots.values() if self.shown is not None else ())
            if knot.foldable and point in knot.points and knot.key not in layout.inside
        ]
        if holders:
            self.kept = {**self.kept, min(holders, key=lambda knot: knot.count).key: False}
            self._kept()

    def show_all(self) -> None:
        """All of it in the window, folded as the program chooses."""
        self.zoom_by(0.0)
        self.kept = {}
        self._kept()

    def _kept(self) -> None:
        self.near = ""
        self.folds_kept.emit(self.kept)
        self.repaint_soon()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        layout = self.picture
        tags = sorted(layout.tags, key=lambda tag: tag.x)
        order: list[Subject] = [
            one for tag in tags for one in ([("folds", tag.fold)] if tag.fold else [("ends", end) for end in tag.ends])
        ]
        order += [
            ("segments", segment.id) for segment in self.document.design.segments if segment.id in self.hits.segments
        ]
        keys: dict[int, Callable[[], None]] = {
            Qt.Key.Key_Plus: lambda: self.zoom_by(1.25),
            Qt.Key.Key_Equal: lambda: self.zoom_by(1.25),
            Qt.Key.Key_Minus: lambda: self.zoom_by(0.8),
            Qt.Key.Key_Home: self.show_all,
        }
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(
            Qt.Key(event.key())
        )
        here = next((at for at, subject in enumerate(order) if subject in self.selected), -1)
        shifted = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            super().keyPressEvent(event)
        elif shifted and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and here >= 0 and order[here][0] == "ends":
            self.flip(order[here][1], -1 if event.key() == Qt.Key.Key_Up else 1)
        elif step and order:
            self._go(order[(here + step) % len(order)])
        elif event.key() == Qt.Key.Key_Space and here >= 0:
            table, part = order[here]
            if table == "folds":
                self.unfold(part)
            elif table == "ends":
                self.fold_at(index_of(self.document.design).ends[part].point or "")
        elif event.key() in keys:
            keys[event.key()]()
        else:
            super().keyPressEvent(event)

    def _go(self, subject: Subject) -> None:
        if subject[0] == "folds":
            tag = next(tag for tag in self.picture.tags if tag.fold == subject[1])
            self.selected = {subject, *(("ends", end) for end in tag.ends)}
            self.repaint_soon()
            return
        self.picked.emit(*subject)

    def flip(self, end: str, side: int = 0) -> None:
        """Takes the branch of an end to a side of the trunk, the other one unless said."""
        point = index_of(self.document.design).ends[end].point
        layout = self.picture
        top = layout.branch_of.get(point or "")
        was = 1 if top and layout.at[top][1] > 0 else -1
        if top and side != was:
            side = side or -was
            self.document.apply(lambda d: move_branch(d, top, side, None), "branch to the other side")

    def zoom_by(self, factor: float, at: float | None = None) -> None:
        """Wider or narrower round a place across; 0 shows all of it again."""
        at = self.width() / 2 if at is None else at
        zoom = 1.0 if factor == 0 else max(1.0, min(MOST_ZOOM, self.zoom * factor))
        self.pan = (self.pan + at) * zoom / self.zoom - at
        self.zoom = zoom
        self._pan_to(self.pan)

    def _pan_to(self, pan: float) -> None:
        self.pan = max(0.0, min(pan, self.width() * (self.zoom - 1)))
        self.repaint_soon()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._pan_to(self.pan)
        super().resizeEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom_by(1.15 if event.angleDelta().y() > 0 else 1 / 1.15, event.position().x())
        elif self.zoom > 1:
            turned = event.angleDelta()
            self._pan_to(self.pan - (turned.x() or turned.y()) / 2)
        else:
            super().wheelEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self.under(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), plain_of(self.describe(found)) if found else "", self)
            return True
        if isinstance(event, QGestureEvent):
            pinch = event.gesture(Qt.GestureType.PinchGesture)
            if isinstance(pinch, QPinchGesture):
                self.zoom_by(pinch.scaleFactor(), self.mapFromGlobal(pinch.hotSpot().toPoint()).x())
                return True
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self.zoom_by(1 + event.value(), event.position().x())
            return True
        return super().event(event)

    def describe(self, subject: Subject) -> str:
        """One line about a part, for tips and the status line."""
        return described(index_of(self.document.design), subject, self.picture)
