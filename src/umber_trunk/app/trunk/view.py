"""The trunk picture as a widget: always as wide as the window, folds and unfolds, zooms, pans, picks, drags
branches."""

from __future__ import annotations

from collections.abc import Callable, Container
from dataclasses import replace

from PySide6.QtCore import QEvent, QPointF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAccessible,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QGestureEvent, QPinchGesture, QToolTip, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.painter import TrunkPainter
from umber_trunk.app.trunk.story import Story
from umber_trunk.app.trunk.tags import measured
from umber_trunk.app.trunk.wish import Shown, Wish
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.readable import Part, PartsForReaders
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import Layout
from umber_trunk.core.picture.notice import points_of
from umber_trunk.core.results import Results
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.stages import STAGES, stage_of
from umber_trunk.core.units import show_length

Subject = tuple[str, str]
DRAG_LEAST = 10
AT_ONCE = 150
"""Ends and segments that are painted within a few ms."""
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


class TrunkCanvas(QWidget):
    """Signals: picked(table, id) when a segment, end or wire is chosen; folds_kept(dict) when the builder folds or
    unfolds."""

    picked = Signal(str, str)
    folds_kept = Signal(object)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.stage = STAGES[0].id
        self.paints = ""
        self.zoom, self.pan = 1.0, 0.0
        self.figures: Figures | None = None
        self.selected: set[Subject] = set()
        self.kept: dict[str, bool] = {}
        self._chosen: set[str] = set()
        self._near: str = ""
        self.shown: Shown | None = None
        self._untold = True
        self._wished = 0
        self._asked: tuple[int, int, int] | None = None
        self._beside = Background(self)
        self._beside.answered.connect(self._arrived)
        self._beside.crashed.connect(document.crashed)
        self._press: tuple[QPointF, str] | None = None
        self._pointer = QPointF()
        self._drag: QPointF | None = None
        self._grip: QPointF | None = None
        self._rest = QTimer(self, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(self._rested)
        self._readers = PartsForReaders(self, pressed=True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Trunk picture")
        self.setAccessibleDescription("Arrow keys go from end to end, Space opens or folds a branch, + and − zoom.")
        self.grabGesture(Qt.GestureType.PinchGesture)
        document.changed.connect(self._redraw)
        self._next = QTimer(self, singleShot=True, interval=0)  # a turn after the desk's
        self._next.timeout.connect(self._retell)
        document.analysed.connect(lambda _: self._next.start())
        document.progressed.connect(self._retell)

    def sizeHint(self) -> QSize:
        return QSize(900, 300)

    def minimumSizeHint(self) -> QSize:
        """Two lines above and below a spine, whatever the text size; narrow windows fold more."""
        return QSize(300, round(10.6 * measured(bold=True).height()))

    def _redraw(self) -> None:
        """Another design: where nothing of the tree and of the wires' ways is new, the picture stays until the figures
        come."""
        self.figures = None
        if self.shown is None or not self._same_tree(self.shown.picture.index.design):
            self._retell()

    def _same_tree(self, was: Design) -> bool:
        now = self.document.design
        if self.at_once:
            before, after = index_of(was), index_of(now)
            return before.parents is after.parents and before.contents is after.contents
        return was.ends is now.ends and was.segments is now.segments and was.points is now.points

    def _retell(self) -> None:
        """Forgets what depends on figures, stage or text size."""
        self._untold = True
        self._repaint()

    def _repaint(self) -> None:
        """Something is shown otherwise from now on."""
        self._wished += 1
        self.update()

    def look_at(self, figures: Figures | None) -> None:
        """Paints the stage from these figures (one case) until the design changes."""
        self.figures = figures
        self._retell()

    def restyle(self) -> None:
        """Another text size or colour scheme."""
        self.updateGeometry()
        self._retell()

    def show_stage(self, stage: str) -> None:
        """Paints another stage's answer."""
        self.stage, self.paints, self.figures = stage, "", None
        self._retell()

    def paint_by(self, paints: str) -> None:
        """Another of a stage's paintings; "" is its own."""
        self.paints = paints
        self._retell()

    def select(self, subjects: set[Subject]) -> None:
        """Halo round these parts; a wire lights up its whole way and both ends. What is folded there opens."""
        index = index_of(self.document.design)
        shown: set[Subject] = set()
        chosen: set[str] = set()
        for table, part in subjects:
            chosen |= set(points_of(index, table, part))
            if table == "wires" and part in index.wires:
                shown |= {("segments", s) for s in index.routes[part].segments}
                shown |= {("ends", pin.end) for pin in (index.wires[part].start, index.wires[part].finish)}
            elif table == "loads" and part in index.loads:
                shown.add(("ends", index.loads[part].plus.end))
            elif table == "fuses":
                shown.add(("ends", part.rsplit(" ", 1)[0]))
            elif table == "points":
                shown |= {("ends", end.id) for end in index.ends_at.get(part, ())}
                shown |= {("segments", segment) for segment, _ in index.neighbours.get(part, ())}
            else:
                shown.add((table, part))
        if chosen != self._chosen or shown != self.selected:
            self._chosen, self.selected = chosen, shown
            self._repaint()

    @property
    def results(self) -> Results | None:
        """The results painted: of the design shown, of one case where that is looked at."""
        results = self.document.now
        if results is not None and self.figures is not None:
            return results.with_figures(self.figures)
        return results

    @property
    def at_once(self) -> bool:
        """Whether it is small enough to be painted when the window asks for it; a larger one is painted beside the
        window."""
        return len(self.document.design.ends) + len(self.document.design.segments) <= AT_ONCE

    @property
    def busy(self) -> bool:
        """Whether a picture is being painted beside the window."""
        return self._beside.busy

    def close_background(self) -> None:
        """Forgets what is being painted."""
        self._beside.drop()

    @property
    def picture(self) -> Layout:
        """The layout shown; of a small picture for the present width, zoom and interests."""
        if self.shown is None or self.at_once:
            self.shown = self._laid_anew()
        return self.shown.layout

    @property
    def hits(self) -> Hits:
        return self.shown.hits if self.shown is not None else Hits()

    @property
    def told(self) -> Story | None:
        return self.shown.story if self.shown is not None else None

    @property
    def painter(self) -> TrunkPainter | None:
        return self.shown.painter if self.shown is not None else None

    def _wish(self) -> Wish:
        return Wish(
            self.document.design,
            self.document.now,
            self.results,
            self.paints or stage_of(self.stage).paints,
            self.document.progress,
            self.document.redline,
            frozenset(self.selected),
            frozenset(self._chosen),
            self._near,
            dict(self.kept),
            (self.width(), self.height()),
            self.devicePixelRatioF(),
            self.zoom,
            self.pan,
            self.shown,
        )

    def _laid_anew(self) -> Shown:
        """The places as they are to be now; what was painted stays known where they are the same."""
        laid, was = self._wish().laid(), self.shown
        if was is not None and laid.layout is was.layout and laid.picture is was.picture:
            return was
        return replace(laid, hits=self.hits, painter=self.painter, story=self.told)

    def _ask(self) -> None:
        """Has it painted beside the window; what was wished meanwhile is asked for when that is done."""
        wished = self._wished, self.width(), self.height()
        if wished == self._asked or self._beside.busy:
            return
        self._asked = wished
        wish = self._wish()
        self._beside.ask(lambda _: wish.image())

    def _arrived(self, shown: Shown) -> None:
        self.shown = shown
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            self._paint(painter)
        finally:
            painter.end()  # a painter that outlives its widget takes the program along
        if QAccessible.isActive():
            QTimer.singleShot(0, self, self.tell_readers)

    def _paint(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), theme.PAPER)
        if not self.at_once:
            self._ask()
            if self.shown is not None and self.shown.image is not None:
                painter.drawImage(0, 0, self.shown.image)
        elif not self.picture.tags and not self.picture.strays:
            self._paint_empty(painter)
            return
        else:
            laid = self._laid_anew()
            self.shown = self._wish().painted(painter, laid, None if self._untold else self.told)
            self._untold = False
        if self._drag is not None and self._press is not None and self.painter is not None:
            painter.setPen(QPen(theme.TIGHT, 2, Qt.PenStyle.DashLine))
            painter.drawLine(self.painter.place(self._press[1]), self._drag)
        if self.hasFocus():
            painter.setPen(QPen(theme.GOOD, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def tell_readers(self) -> None:
        """Brings what a screen reader finds on the picture up to date."""
        painted = self.document.design if self.at_once or self.shown is None else self.shown.picture.index.design
        self._readers.show_parts(_told_parts(self.hits, painted, self.told))

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(13))
        painter.drawText(
            self.rect(),
            int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap),
            "The trunk draws itself from what you enter.\nStart with the source, in the line below:  supply 24 V at "
            "battery",
        )

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
        if under is not None and under[0] == "folds" and self._near != under[1]:
            self._near = under[1]
            self._repaint()

    def leaveEvent(self, event: QEvent) -> None:
        self._rest.stop()
        if self._near:
            self._near = ""
            self._repaint()
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
        self._near = ""
        self.folds_kept.emit(self.kept)
        self._repaint()

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
            self._repaint()
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
        self._repaint()

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
        index = index_of(self.document.design)
        table, part = subject
        if table == "folds":
            points = self.picture.inside.get(part, ())
            names = [end.name for point in points for end in index.ends_at.get(point, ())]
            more = f" and {len(names) - 8} more" if len(names) > 8 else ""
            return f"{len(names)} ends folded: {', '.join(names[:8])}{more}. Click to open."
        if table == "segments" and part in index.segments:
            segment = index.segments[part]
            ends = [index.points[p].name or p for p in (segment.a, segment.b) if p in index.points]
            zone = index.zones.get(segment.zone or "")
            air = f", {zone.name} {zone.ambient_c:g} °C" if zone else ""
            measure = segment.measure
            loop = ", closes a loop" if part in self.picture.loops else ""
            return (
                f"{part}: {' to '.join(ends)}, {show_length(measure.length_m)} ± {show_length(measure.plus_minus_m)} "
                f"({measure.method}), {len(index.contents[part])} wires{air}{loop}"
            )
        if table == "ends" and part in index.ends:
            end = index.ends[part]
            wires = sum(part in (w.start.end, w.finish.end) for w in self.document.design.wires)
            return (
                f"{end.name} ({end.kind}), {wires} wires. Drag it, or Shift + ↑ ↓, to move its branch; Space folds it."
            )
        return part


def _told_parts(hits: Hits, design: Design, story: Story | None) -> list[Part]:
    """Each tag and figure with its name and state."""
    index, found = index_of(design), list[Part]()
    for one in hits.texts:
        if one.table == "segments":
            name, alarm = f"segment {index.segment_name(one.part)}", story is not None and story.limbs[one.part].alarm
        elif one.table == "folds":
            name, alarm = "folded branch", "✕" in one.text
        else:
            name, alarm = f"end {index.ends[one.part].name}", story is not None and story.leaves[one.part].alarm
        found.append((one.box, name, f"{one.text}{', needs a look' if alarm else ''}"))
    return found
