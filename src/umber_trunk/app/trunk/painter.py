"""Draws a layout with a story into any painter: the screen's, a picture's, the printer's."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPainterPathStroker, QPen

from umber_trunk.app import theme
from umber_trunk.app.trunk.story import Limb, Story
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import Layout, Tag
from umber_trunk.core.units import show_length

LEAST_SLOT = 84.0
LINES = 3


@dataclass
class Hits:
    """What was drawn where, for the mouse: shapes of segments, boxes of tags and strays."""

    segments: dict[str, QPainterPath] = field(default_factory=dict)
    tags: list[tuple[QRectF, Tag]] = field(default_factory=list)
    strays: list[tuple[QRectF, tuple[str, ...]]] = field(default_factory=list)


class TrunkPainter:
    """Paints one design; `selected` are (table, id) pairs drawn with a halo."""

    def __init__(self, design: Design, layout: Layout, story: Story, selected: set[tuple[str, str]]) -> None:
        self.index = index_of(design)
        self.layout = layout
        self.story = story
        self.selected = selected
        self.hits = Hits()

    def content_width(self, room: float) -> float:
        """Width the picture wants: the room given, or more when labels would be squeezed."""
        return max(room, self.layout.width * LEAST_SLOT * theme.font().pointSizeF() / theme.BASE_POINT)

    def paint(self, painter: QPainter, box: QRectF) -> Hits:
        """Draws into `box`; returns what lies where."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shelf = self._shelf_height(box)
        self.box = box.adjusted(10, 4, -10, -24 - shelf)
        self._reach = self._vertical_reach()
        if self.layout.at:
            for segment in self.index.segments:
                self._segment(painter, segment)
            for segment in self.index.segments:
                self._segment_text(painter, segment)
            for tag in self.layout.tags:
                self._tag(painter, tag)
        if self.layout.strays:
            self._shelf(painter, QRectF(box.left() + 10, box.bottom() - 22 - shelf, box.width() - 20, shelf))
        self._legend(painter, QRectF(box.left() + 10, box.bottom() - 20, box.width() - 20, 16))
        return self.hits

    def place(self, point: str) -> QPointF:
        """Screen position of a point."""
        x, y = self.layout.at[point]
        return self._at(x, y)

    @property
    def spine_y(self) -> float:
        """Height of the spine on screen."""
        return self._reach[0]

    def slot_width(self) -> float:
        """Screen width of one slot."""
        return self.box.width() / self.layout.width

    def _vertical_reach(self) -> tuple[float, float, float]:
        """(y of the spine, pixels from it to the leaves above, and below), leaving room for the labels."""
        above = max((self._tag_size(t)[1] for t in self.layout.tags if t.side < 0), default=0.0) + 6
        below = max((self._tag_size(t)[1] for t in self.layout.tags if t.side > 0), default=0.0) + 6
        tip = max((self._tag_size(t)[1] for t in self.layout.tags if t.side == 0), default=0.0) + 20
        free = max(self.box.height() - above - max(below, tip * 0.6), 60.0)
        up = free / 2 if above > 6 else 24.0
        spine = self.box.top() + above + up
        return spine, up, max(self.box.bottom() - below - spine, 30.0)

    def _at(self, x: float, y: float) -> QPointF:
        spine, up, down = self._reach
        return QPointF(self.box.left() + x * self.slot_width(), spine + y / 0.62 * (up if y < 0 else down))

    def _tag_size(self, tag: Tag) -> tuple[float, float]:
        wide = min(self.slot_width() - (6 if len(tag.ends) == 1 else 1), 190.0)
        lines = self._tag_lines(tag, wide)
        return wide, sum(QFontMetricsF(theme.font(8.5, bold=b)).height() for _, b, _ in lines) + 4

    def _path(self, segment: str) -> QPainterPath | None:
        part = self.index.segments[segment]
        if part.a not in self.layout.at or part.b not in self.layout.at:
            return None
        parents = self.index.parents
        near, far = (part.a, part.b) if parents[part.b][0] == part.a else (part.b, part.a)
        start, stop = self.place(near), self.place(far)
        path = QPainterPath(start)
        if abs(start.y() - stop.y()) < 1:
            path.lineTo(stop)
        else:
            rise = (stop.y() - start.y()) * 0.55
            path.cubicTo(start + QPointF(0, rise), QPointF(stop.x(), stop.y() - rise), stop)
        return path

    def _thickness(self, limb: Limb) -> float:
        """Bundle diameter at about two pixels to a millimetre, kept readable at both ends."""
        return min(max(2.5, 1.5 + limb.bundle_mm * 0.55), 20.0) if limb.wires else 1.5

    def _segment(self, painter: QPainter, segment: str) -> None:
        path, limb = self._path(segment), self.story.limbs[segment]
        if path is None:
            return
        thick = self._thickness(limb)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        cap = Qt.PenCapStyle.RoundCap
        if ("segments", segment) in self.selected:
            painter.setPen(QPen(theme.OCHRE_PALE.darker(115), thick + 9, Qt.PenStyle.SolidLine, cap))
            painter.drawPath(path)
        colour = limb.colour if limb.wires else theme.CHALK_DIM.darker(120)
        painter.setPen(QPen(colour, thick, Qt.PenStyle.SolidLine, cap))
        painter.drawPath(path)
        if limb.dashed or limb.alarm:
            dash = QPen(
                theme.CHALK_BRIGHT,
                max(1.2, thick * 0.35),
                Qt.PenStyle.CustomDashLine,
                Qt.PenCapStyle.FlatCap,
            )
            dash.setDashPattern([2.0, 3.5] if limb.alarm else [5.0, 4.0])
            painter.setPen(dash)
            painter.drawPath(path)
        stroker = QPainterPathStroker()
        stroker.setWidth(max(thick, 14))
        self.hits.segments[segment] = stroker.createStroke(path)

    def _segment_text(self, painter: QPainter, segment: str) -> None:
        path, limb = self._path(segment), self.story.limbs[segment]
        if path is None or not limb.text or path.length() < 26:
            return
        font = theme.font(8)
        metrics = QFontMetricsF(font)
        count = f"×{limb.wires}"
        texts = [limb.text] if limb.text.startswith(f"{limb.wires} w") else [limb.text, count]
        whole = "  ".join(texts)
        if metrics.horizontalAdvance(whole) > path.length() - 4 and abs(path.angleAtPercent(0.5) % 180) < 30:
            whole = texts[0]
        flat = abs(path.currentPosition().y() - path.elementAt(0).y) < 1
        # nearer the tip on a branch, where it has parted from its neighbours
        middle = path.pointAtPercent(0.5 if flat else 0.7)
        wide = metrics.horizontalAdvance(whole) + 8
        if flat and wide > path.length() - 6:
            return
        chip = QRectF(middle.x() - wide / 2, middle.y() - metrics.height() / 2 - 1, wide, metrics.height() + 2)
        painter.setPen(QPen(limb.colour, 1))
        painter.setBrush(theme.CHALK_BRIGHT)
        painter.drawRoundedRect(chip, 3, 3)
        painter.setFont(font)
        painter.setPen(theme.OXIDE if limb.alarm else theme.UMBER_DEEP)
        painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, whole)

    def _tag(self, painter: QPainter, tag: Tag) -> None:
        """End names at one point; below or above the leaf, or beside the spine's tip."""
        wide, height = self._tag_size(tag)
        lines = self._tag_lines(tag, wide)
        anchor = self._at(tag.x, tag.y)
        if tag.side == 0:
            top = anchor.y() + 14
            left = min(max(anchor.x() - wide / 2, self.box.left() - 6), self.box.right() + 6 - wide)
        else:
            top = anchor.y() + 4 if tag.side > 0 else anchor.y() - 4 - height
            left = anchor.x() - wide / 2
        box = QRectF(left, top, wide, height)
        picked = any(("ends", end) in self.selected for end in tag.ends)
        painter.setPen(QPen(theme.OCHRE if picked else theme.CHALK_DIM.darker(115), 2 if picked else 1))
        painter.setBrush(theme.OCHRE_PALE if picked else theme.CHALK_BRIGHT)
        painter.drawRoundedRect(box, 4, 4)
        y = box.top() + 2
        for text, bold, alarm in lines:
            font = theme.font(8.5, bold=bold)
            height = QFontMetricsF(font).height()
            painter.setFont(font)
            painter.setPen(theme.OXIDE if alarm else theme.UMBER_DEEP if bold else theme.UMBER_SOFT)
            painter.drawText(
                QRectF(box.left() + 1, y, box.width() - 2, height),
                Qt.AlignmentFlag.AlignCenter,
                text,
            )
            y += height
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.UMBER_DEEP)
        painter.drawEllipse(self.place(tag.point), 3.2, 3.2)
        self.hits.tags.append((box, tag))

    def _tag_lines(self, tag: Tag, wide: float) -> list[tuple[str, bool, bool]]:
        """(text, bold, alarm) lines: one end in up to two lines with its figure, several as a short list."""
        bold = QFontMetricsF(theme.font(8.5, bold=True))
        if len(tag.ends) == 1:
            end, leaf = self.index.ends[tag.ends[0]], self.story.leaves[tag.ends[0]]
            lines = [(text, True, False) for text in _wrapped(end.name, bold, wide - 8)]
            return [*lines, (leaf.text, False, leaf.alarm)] if leaf.text else lines
        lines = []
        for end_id in tag.ends[:LINES]:
            leaf = self.story.leaves[end_id]
            name = bold.elidedText(self.index.ends[end_id].name, Qt.TextElideMode.ElideRight, wide - 4)
            lines.append((name, True, leaf.alarm))
        if len(tag.ends) > LINES:
            lines.append((f"and {len(tag.ends) - LINES} more", False, False))
        return lines

    def _shelf_height(self, box: QRectF) -> float:
        if not self.layout.strays:
            return 0.0
        if not self.layout.tags:
            return box.height() - 30
        return min(box.height() * 0.38, 26.0 + 20.0 * ((len(self.layout.strays) + 2) // 3))

    def _shelf(self, painter: QPainter, shelf: QRectF) -> None:
        """Straight runs of wires that wait to be laid, in columns."""
        painter.fillRect(shelf, theme.CHALK_DIM)
        painter.setFont(theme.font(8.5, bold=True))
        painter.setPen(theme.UMBER)
        waiting = sum(len(stray.wires) for stray in self.layout.strays)
        painter.drawText(
            shelf.adjusted(8, 3, 0, 0),
            f"{waiting} wires wait to be laid onto the trunk (straight runs of their listed length)",
        )
        row_height = QFontMetricsF(theme.font(8)).height() + 5
        rows = max(1, int((shelf.height() - 22) / row_height))
        columns = max(
            1,
            int(shelf.width() // 400),
            min(int(shelf.width() // 300), -(-len(self.layout.strays) // rows)),
        )
        rows = min(rows, -(-len(self.layout.strays) // columns))
        shown = self.layout.strays[: rows * columns]
        hidden = len(self.layout.strays) - len(shown)
        for number, stray in enumerate(shown):
            column, row = divmod(number, rows)
            wide = shelf.width() / columns
            cell = QRectF(
                shelf.left() + column * wide + 8,
                shelf.top() + 22 + row * row_height,
                wide - 16,
                row_height,
            )
            if hidden and number == len(shown) - 1:
                painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter, f"… and {hidden + 1} more runs")
                break
            self._stray(painter, cell, stray.a, stray.b, stray.wires, stray.length_m)

    def _stray(
        self,
        painter: QPainter,
        cell: QRectF,
        a: str,
        b: str,
        wires: tuple[str, ...],
        length_m: float,
    ) -> None:
        font = theme.font(8)
        metrics = QFontMetricsF(font)
        painter.setFont(font)
        third = cell.width() * 0.32
        names = [self.index.ends[end].name if end in self.index.ends else end for end in (a, b)]
        left = metrics.elidedText(names[0], Qt.TextElideMode.ElideRight, third)
        right = metrics.elidedText(names[1], Qt.TextElideMode.ElideRight, third)
        painter.setPen(theme.UMBER_DEEP)
        painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, left)
        painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right)
        from_x = cell.left() + metrics.horizontalAdvance(left) + 6
        to_x = cell.right() - metrics.horizontalAdvance(right) - 6
        y = cell.center().y()
        pen = QPen(theme.OCHRE, min(1.5 + 0.6 * len(wires), 6))
        pen.setDashPattern([3, 1.5])
        painter.setPen(pen)
        painter.drawLine(QPointF(from_x, y), QPointF(to_x, y))
        text = f"×{len(wires)}  {show_length(length_m)}" if length_m else f"×{len(wires)}  no length"
        wide = metrics.horizontalAdvance(text) + 8
        chip = QRectF((from_x + to_x - wide) / 2, y - metrics.height() / 2, wide, metrics.height())
        painter.fillRect(chip, theme.CHALK_DIM)
        painter.setPen(theme.UMBER_DEEP)
        painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, text)
        self.hits.strays.append((cell, wires))

    def _legend(self, painter: QPainter, line: QRectF) -> None:
        font = theme.font(8)
        metrics = QFontMetricsF(font)
        painter.setFont(font)
        x = line.left()
        parts: list[tuple[QColor | None, str]] = [
            *self.story.legend,
            (None, "line width is bundle thickness; lengths are written, not drawn to scale"),
        ]
        for colour, text in parts:
            if colour is not None:
                painter.fillRect(QRectF(x, line.center().y() - 4, 14, 8), colour)
                x += 18
            painter.setPen(theme.UMBER_SOFT)
            wide = metrics.horizontalAdvance(text)
            if x + wide > line.right():
                return
            painter.drawText(QRectF(x, line.top(), wide + 2, line.height()), Qt.AlignmentFlag.AlignVCenter, text)
            x += wide + 16


def _wrapped(text: str, metrics: QFontMetricsF, wide: float) -> list[str]:
    """The text in one or two lines, the second cut short if need be."""
    if metrics.horizontalAdvance(text) <= wide:
        return [text]
    words, first = text.split(), ""
    while words and metrics.horizontalAdvance(f"{first} {words[0]}".strip()) <= wide:
        first = f"{first} {words.pop(0)}".strip()
    if not first:
        return [metrics.elidedText(text, Qt.TextElideMode.ElideRight, wide)]
    return [first, metrics.elidedText(" ".join(words), Qt.TextElideMode.ElideRight, wide)]
