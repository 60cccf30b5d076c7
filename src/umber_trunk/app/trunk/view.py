"""The trunk picture as a widget: picks with mouse and keys, drags branches, scrolls when it is wide."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QScrollArea, QToolTip, QWidget

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.painter import Hits, TrunkPainter
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.core.harness.edits import change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import Layout, lay_out
from umber_trunk.core.solve.margins import Figures
from umber_trunk.core.units import show_length

Subject = tuple[str, str]
DRAG_LEAST = 10


def move_branch(design: Design, point: str, side: int | None, lean: float | None) -> Design:
    """The builder's wish for the picture: a branch's side and how far it leans."""
    part = index_of(design).points[point]
    wish = {
        "side": part.side if side is None else side,
        "lean": part.lean if lean is None else lean,
    }
    return put(design, "points", change(part, **wish))


class TrunkCanvas(QWidget):
    """Signals: picked(table, id) when a segment, end or wire is chosen."""

    picked = Signal(str, str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.stage = "needs"
        self.paint_by = "margin"
        self.zoom = 1.0
        self.figures: Figures | None = None
        self.selected: set[Subject] = set()
        self._layout: Layout = lay_out(document.design)
        self._hits = Hits()
        self._painter: TrunkPainter | None = None
        self._press: tuple[QPointF, str] | None = None
        self._drag: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Trunk picture")
        document.changed.connect(self._redraw)
        document.analysed.connect(lambda _: self.update())

    def _redraw(self) -> None:
        self._layout = lay_out(self.document.design)
        self.figures = None
        self.fit()
        self.update()

    def look_at(self, figures: Figures | None) -> None:
        """Paints the Sizes stage from these figures (one case) until the design changes."""
        self.figures = figures
        self.update()

    def fit(self) -> None:
        """Takes the width the labels need at the present zoom, at least the room there is."""
        area = self.parentWidget()
        room = (area.width() if area else 1200) * self.zoom
        painter = self._new_painter()
        self.setMinimumSize(QSize(round(painter.content_width(room)), 150))

    def show_stage(self, stage: str) -> None:
        """Paints another stage's answer."""
        self.stage = stage
        self.update()

    def select(self, subjects: set[Subject]) -> None:
        """Halo round these parts; a wire lights up its whole way and both ends."""
        index = index_of(self.document.design)
        shown: set[Subject] = set()
        for table, part in subjects:
            if table == "wires" and part in index.wires:
                shown |= {("segments", s) for s in index.routes[part].segments}
                shown |= {("ends", pin.end) for pin in (index.wires[part].start, index.wires[part].finish)}
            elif table == "loads" and part in index.loads:
                shown.add(("ends", index.loads[part].plus.end))
            else:
                shown.add((table, part))
        self.selected = shown
        self.update()

    def _new_painter(self) -> TrunkPainter:
        analysis = self.document.analysis if self.document.fresh else None
        if analysis is not None and self.figures is not None and self.stage == "sizes":
            analysis = replace(analysis, figures=self.figures)
        story = tell(self.stage, self.document.design, analysis, self.paint_by)
        return TrunkPainter(self.document.design, self._layout, story, self.selected)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.CHALK)
        if not self._layout.tags and not self._layout.strays:
            self._paint_empty(painter)
            return
        self._painter = self._new_painter()
        self._hits = self._painter.paint(painter, QRectF(self.rect()))
        if self._drag is not None and self._press is not None:
            painter.setPen(QPen(theme.OCHRE, 2, Qt.PenStyle.DashLine))
            painter.drawLine(self._painter.place(self._press[1]), self._drag)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(theme.UMBER_SOFT)
        painter.setFont(theme.font(13))
        painter.drawText(
            self.rect(), Qt.AlignmentFlag.AlignCenter,
            "The trunk draws itself from what you enter.\nStart with the source, in the line below:  supply 24 V at battery",
        )  # fmt: skip

    def _under(self, at: QPointF) -> Subject | None:
        for box, tag in self._hits.tags:
            if box.contains(at) and tag.ends:
                line = int((at.y() - box.top()) / max(box.height() / min(len(tag.ends), 3), 1))
                return "ends", tag.ends[min(line, len(tag.ends) - 1) if len(tag.ends) > 1 else 0]
        for box, wires in self._hits.strays:
            if box.contains(at):
                return "wires", wires[0]
        for segment, shape in self._hits.segments.items():
            if shape.contains(at):
                return "segments", segment
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._under(event.position())
        if found is None:
            return
        if found[0] == "ends":
            point = index_of(self.document.design).ends[found[1]].point
            if point in self._layout.branch_of:
                self._press = (event.position(), point)
        self.picked.emit(*found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press and (event.position() - self._press[0]).manhattanLength() > DRAG_LEAST:
            self._drag = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        press, self._press = self._press, None
        dragged, self._drag = self._drag, None
        if press is None or dragged is None or self._painter is None:
            return
        self.drop_branch(press[1], event.position() - press[0], event.position().y())

    def drop_branch(self, point: str, moved: QPointF, y: float) -> None:
        """A branch was dragged: over the spine it changes side, sideways it leans."""
        if self._painter is None:
            return
        top = self._layout.branch_of[point]
        below = y > self._painter.spine_y
        side = 1 if below else -1
        was = 1 if self._layout.at[top][1] > 0 else -1
        if side != was:
            self.document.apply(lambda d: move_branch(d, top, side, None), "branch to the other side")
            return
        lean = index_of(self.document.design).points[point].lean + moved.x() / self._painter.slot_width()
        lean = max(-3.0, min(3.0, round(lean, 2)))
        self.document.apply(lambda d: move_branch(d, point, None, lean), "branch leaned")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        order: list[Subject] = [
            ("ends", end) for tag in sorted(self._layout.tags, key=lambda t: t.x) for end in tag.ends
        ]
        order += [("segments", segment.id) for segment in self.document.design.segments]
        step = {
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Down: 1,
            Qt.Key.Key_Up: -1,
        }.get(Qt.Key(event.key()))
        here = next((i for i, subject in enumerate(order) if subject in self.selected), -1)
        if step and order:
            self.picked.emit(*order[(here + step) % len(order)])
        elif event.key() == Qt.Key.Key_F and here >= 0 and order[here][0] == "ends":
            self.flip(order[here][1])
        else:
            super().keyPressEvent(event)

    def flip(self, end: str) -> None:
        """Takes the branch of an end to the other side of the trunk."""
        point = index_of(self.document.design).ends[end].point
        top = self._layout.branch_of.get(point or "")
        if top:
            side = -1 if self._layout.at[top][1] > 0 else 1
            self.document.apply(lambda d: move_branch(d, top, side, None), "branch to the other side")

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom = max(1.0, min(6.0, self.zoom * (1.15 if event.angleDelta().y() > 0 else 1 / 1.15)))
            self.fit()
        else:
            super().wheelEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self._under(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), plain_of(self.describe(found)) if found else "", self)
            return True
        return super().event(event)

    def describe(self, subject: Subject) -> str:
        """One line about a part, for tips and the status line."""
        index = index_of(self.document.design)
        table, part = subject
        if table == "segments" and part in index.segments:
            segment = index.segments[part]
            ends = [index.points[p].name or p for p in (segment.a, segment.b) if p in index.points]
            zone = index.zones.get(segment.zone or "")
            air = f", {zone.name} {zone.ambient_c:g} °C" if zone else ""
            measure = segment.measure
            return (
                f"{part}: {' to '.join(ends)}, {show_length(measure.length_m)} ± {show_length(measure.plus_minus_m)} "
                f"({measure.method}), {len(index.contents[part])} wires{air}"
            )
        if table == "ends" and part in index.ends:
            end = index.ends[part]
            wires = sum(part in (w.start.end, w.finish.end) for w in self.document.design.wires)
            return f"{end.name} ({end.kind}), {wires} wires. Drag it, or press F, to move its branch."
        return part


class TrunkView(QScrollArea):
    """The canvas in a scrolling frame; Ctrl + wheel widens it."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.canvas = TrunkCanvas(document)
        self.setWidget(self.canvas)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(170)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.canvas.fit()

    def sizeHint(self) -> QSize:
        return QSize(1200, 300)

    def reveal(self, point: QPoint) -> None:
        """Scrolls so that a place is in view."""
        self.ensureVisible(point.x(), point.y())
