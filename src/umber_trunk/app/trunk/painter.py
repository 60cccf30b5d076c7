"""Draws a layout with a story into any painter: the screen's, a picture's, the printer's."""

from __future__ import annotations

from bisect import bisect_right
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from umber_trunk.app import theme
from umber_trunk.app.trunk.hits import Drawn, Hits
from umber_trunk.app.trunk.shelf import shelf_height, strays_drawn
from umber_trunk.app.trunk.story import Limb, Story
from umber_trunk.app.trunk.tags import WIDEST, Line, TagWords, least_slot, measured
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import EDGE, Layout, Tag
from umber_trunk.core.picture.notice import notices, uses
from umber_trunk.core.results import Results

MARGIN = 10.0
CHIP_PLACES = (0.5, 0.7, 0.32, 0.85, 0.6, 0.18)


class TrunkPainter:
    """Paints one design; `selected` are (table, id) pairs drawn with a halo. `zoom` widens the picture, `pan` is how
    far its left edge lies outside the box, in pixels."""

    def __init__(
        self,
        design: Design,
        layout: Layout,
        story: Story,
        selected: set[tuple[str, str]],
        results: Results | None = None,
        zoom: float = 1.0,
        pan: float = 0.0,
    ) -> None:
        self.index = index_of(design)
        self.layout, self.story, self.selected = layout, story, selected
        self.zoom, self.pan = zoom, pan
        self.words = TagWords(
            self.index, layout, story, results.once(notices) if results else {}, results.once(uses) if results else {}
        )
        self.hits = Hits()
        self.taken: list[QRectF] = []

    def paint(self, painter: QPainter, box: QRectF) -> Hits:
        """Draws into `box`; returns what lies where."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.whole = box
        line = measured(8).height()
        shelf = shelf_height(box, self.layout)
        strip = line * 0.9 if self.zoom > 1.001 else 0.0
        foot = line + 6
        self.box = box.adjusted(MARGIN, 4, -MARGIN, -foot - shelf - strip)
        self.most = self._lines()
        self.rows = (0.0,) if self.zoom > 1.001 else self.layout.rows(self._rows_there_is_room_for())
        self.tags = [(tag, *self._sized(tag)) for tag in self.layout.tags]
        self._reach = self._vertical_reach()
        if self.layout.at:
            self._limbs(painter)
        if self.layout.strays:
            shown = QRectF(box.left() + MARGIN, box.bottom() - foot - shelf, box.width() - 2 * MARGIN, shelf)
            strays_drawn(painter, shown, self.index, self.layout.strays, self.hits)
        if strip:
            self._overview(painter, QRectF(self.box.left(), self.box.bottom() + 2, self.box.width(), strip - 4))
        self._legend(painter, QRectF(box.left() + MARGIN, box.bottom() - foot + 2, box.width() - 2 * MARGIN, line + 2))
        return self.hits

    def place(self, point: str) -> QPointF:
        """Screen position of a point; of a folded one that of its tag."""
        return self._at(*self.layout.at[point])

    def spine_y(self, y: float) -> float:
        """Height on screen of the spine of the row that a height lies in."""
        tall = self.box.height() / len(self.rows)
        row = min(max(int((y - self.box.top()) / tall), 0), len(self.rows) - 1)
        return self._reach[0] + row * tall

    def slot_width(self) -> float:
        """Screen width of one slot."""
        widest = max(stop - start for start, stop in pairwise([*self.rows, self.layout.width]))
        return self.box.width() * self.zoom / widest

    def _rows_there_is_room_for(self) -> int:
        """Rows that trees which stand apart can fill, with room for two lines in every tag."""
        line = measured(bold=True).height()
        sides = sum(any(tag.side == side for tag in self.layout.tags) for side in (-1, 1))
        return max(int(self.box.height() // (line * (5.0 + 3.4 * sides))), 1)

    def _lines(self) -> int:
        """How many lines tags may have, so that those above, those below and the spine between them fit."""
        sides = sum(any(tag.side == side for tag in self.layout.tags) for side in (-1, 1)) or 1
        high = measured(bold=True).height()
        return max(1, min(4, int((self.box.height() - 3.4 * high) / sides / high - 0.5)))

    def _sized(self, tag: Tag) -> tuple[list[Line], float, float]:
        wide = min(self.slot_width() - 6, WIDEST)
        lines = self.words.lines(tag, wide - 8, self.most)
        return lines, wide, sum(measured(bold=line.bold).height() for line in lines) + 4

    def _vertical_reach(self) -> tuple[float, float, float]:
        """(y of the spine, pixels from it to the leaves above, and below), leaving room for the tags."""
        high = {side: max((h for tag, _, _, h in self.tags if tag.side == side), default=0.0) for side in (-1, 0, 1)}
        above, below, tip = high[-1] + 6, high[1] + 6, high[0] + 20
        tall = self.box.height() / len(self.rows)
        free = max(tall - above - max(below, tip * 0.6), 30.0)
        up = free / 2 if above > 6 else min(24.0, free / 2) if below > 6 else max((tall - tip) / 2, 6.0)
        spine = self.box.top() + above + up
        return spine, up, max(self.box.top() + tall - below - spine, 12.0)

    def _at(self, x: float, y: float) -> QPointF:
        spine, up, down = self._reach
        row = bisect_right(self.rows, x + 1e-9) - 1
        across = self.box.left() - self.pan + (x - self.rows[row]) * self.slot_width()
        return QPointF(across, spine + row * self.box.height() / len(self.rows) + y / EDGE * (up if y < 0 else down))

    def _limbs(self, painter: QPainter) -> None:
        shown = self._ways()
        for (near, far), segments in shown.items():
            self._way(painter, self._path(near, far), segments)
        self._stubs(painter)
        for segment in self.layout.loops:
            self._loop(painter, segment)
        for tag, lines, wide, high in self.tags:
            self._tag(painter, tag, lines, wide, high)
        order = sorted(shown.items(), key=lambda way: self._matters(way[1]), reverse=True)
        for (near, far), segments in order:
            self._chip(painter, self._path(near, far), segments)

    def _matters(self, segments: list[str]) -> tuple[bool, bool, float]:
        limbs = [self.story.limbs[s] for s in segments]
        chosen = any(("segments", s) in self.selected for s in segments)
        return chosen, any(limb.alarm for limb in limbs), max(limb.bundle_mm for limb in limbs)

    def _ways(self) -> dict[tuple[str, str], list[str]]:
        """(near, far) visible places → the segments drawn between them, thickest first; folded ones have none."""
        seen, parents = self.layout.fold_of, self.index.parents
        found: dict[tuple[str, str], list[str]] = {}
        for point, (parent, segment, _) in parents.items():
            if segment and point in self.layout.at and parent in self.layout.at:
                near, far = seen.get(parent, parent), seen.get(point, point)
                if near != far:
                    found.setdefault((near, far), []).append(segment)
        for segments in found.values():
            segments.sort(key=lambda s: -self.story.limbs[s].bundle_mm)
        self._place_of = {key: self.layout.at[points[0]] for key, points in self.layout.inside.items()}
        return found

    def _path(self, near: str, far: str) -> QPainterPath:
        start, stop = (self._at(*(self._place_of.get(name) or self.layout.at[name])) for name in (near, far))
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

    def _way(self, painter: QPainter, path: QPainterPath, segments: list[str]) -> None:
        limb = self._worst([self.story.limbs[s] for s in segments])
        thick = self._thickness(self.story.limbs[segments[0]])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        cap = Qt.PenCapStyle.RoundCap
        if any(("segments", segment) in self.selected for segment in segments):
            painter.setPen(QPen(theme.TIGHT, thick + 8, Qt.PenStyle.SolidLine, cap))
            painter.drawPath(path)
        painter.setPen(QPen(limb.colour if limb.wires else theme.GRIP, thick, Qt.PenStyle.SolidLine, cap))
        painter.drawPath(path)
        if limb.dashed or limb.alarm:
            dash = QPen(theme.PAPER_BRIGHT, max(1.2, thick * 0.35), Qt.PenStyle.CustomDashLine, Qt.PenCapStyle.FlatCap)
            dash.setDashPattern([2.0, 3.5] if limb.alarm else [5.0, 4.0])
            painter.setPen(dash)
            painter.drawPath(path)
        for segment in segments:
            self.hits.segments[segment] = (path, thick)

    @staticmethod
    def _worst(limbs: list[Limb]) -> Limb:
        return next((limb for limb in limbs if limb.alarm), limbs[0])

    def _stubs(self, painter: QPainter) -> None:
        """Tags of stations on the spine hang on a thin line."""
        for tag, *_ in self.tags:
            x, y = self.layout.at[tag.point]
            if tag.side and (x, y) != (tag.x, tag.y):
                painter.setPen(QPen(theme.GRIP, 1.5))
                painter.drawLine(self._at(x, y), self._at(tag.x, tag.y))

    def _loop(self, painter: QPainter, segment: str) -> None:
        """A segment that closes a loop is drawn as one, bulging away from the spine."""
        part, seen = self.index.segments[segment], self.layout.fold_of
        if part.a not in self.layout.at or part.b not in self.layout.at:
            return
        if seen.get(part.a, part.a) == seen.get(part.b, part.b):
            return
        a, b = self.place(part.a), self.place(part.b)
        bulge = QPointF(0, -26.0 if a.y() + b.y() <= 2 * self.spine_y(a.y()) else 26.0)
        path = QPainterPath(a)
        path.cubicTo(a + bulge, b + bulge, b)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.BROKEN, 2.5, Qt.PenStyle.DashLine))
        painter.drawPath(path)
        self.hits.segments[segment] = (path, 3.0)

    def _tag(self, painter: QPainter, tag: Tag, lines: list[Line], wide: float, high: float) -> None:
        """End names at one point, or what a fold holds; below or above the leaf, or beside the spine's tip."""
        anchor = self._at(tag.x, tag.y)
        if tag.side == 0:
            top = min(anchor.y() + 14, self.box.bottom() - high)
            left = anchor.x() - wide / 2
            if self.zoom <= 1.001:
                left = min(max(left, self.box.left()), self.box.right() - wide)
        else:
            top = anchor.y() + 4 if tag.side > 0 else anchor.y() - 4 - high
            left = anchor.x() - wide / 2
        box = QRectF(left, top, wide, high)
        if box.left() < self.whole.left() or box.right() > self.whole.right():
            return  # outside of what is looked at
        picked = any(("ends", end) in self.selected for end in tag.ends)
        painter.setPen(QPen(theme.TIGHT if picked else theme.GRIP, 2 if picked else 1))
        painter.setBrush(theme.TIGHT_PALE if picked else theme.PAPER_BRIGHT)
        if tag.fold:  # a pile of three
            for step in (4.0, 2.0):
                painter.drawRoundedRect(
                    box.adjusted(step, -step if tag.side < 0 else step, -step, 0 if tag.side < 0 else step), 4, 4
                )
        painter.drawRoundedRect(box, 4, 4)
        y = box.top() + 2
        for line in lines:
            tall = measured(bold=line.bold).height()
            painter.setFont(theme.font(8.5, bold=line.bold))
            painter.setPen(theme.BROKEN if line.alarm else theme.INK if line.bold else theme.INK_SOFT)
            room = QRectF(box.left(), y, box.width(), tall)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, line.text)
            if line.end:
                self.hits.named.append((room, line.end))
            y += tall
        if not tag.fold:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.INK)
            painter.drawEllipse(self.place(tag.point), 3.2, 3.2)
        self.hits.tags.append((box, tag))
        self._taken(
            box, " ".join(line.text for line in lines), "folds" if tag.fold else "ends", tag.fold or tag.ends[0]
        )

    def _taken(self, box: QRectF, text: str, table: str, part: str) -> None:
        self.taken.append(box)
        self.hits.texts.append(Drawn(box, text, table, part))

    def _chip(self, painter: QPainter, path: QPainterPath, segments: list[str]) -> None:
        """A segment's figure where there is room beside all others; none where there is not."""
        limb = self._worst([self.story.limbs[s] for s in segments])
        if not limb.text or path.length() < 18:
            return
        face, room = measured(8), measured(8).height() + 2
        flat = abs(path.currentPosition().y() - path.elementAt(0).y) < 1
        texts = (
            [limb.text]
            if len(segments) == 1
            else [tr("{count} limbs, {limb}", count=len(segments), limb=limb.text), limb.text]
        )
        if len(segments) == 1 and not limb.text.startswith(f"{limb.wires} w"):
            texts = [f"{limb.text}  ×{limb.wires}", limb.text]
        for text in texts:
            wide = face.horizontalAdvance(text) + 8
            if flat and wide > path.length() - 6:
                continue
            for share in CHIP_PLACES if not flat else (0.5, 0.35, 0.65):
                middle = path.pointAtPercent(share)
                chip = QRectF(middle.x() - wide / 2, middle.y() - room / 2, wide, room)
                if self._free(chip):
                    painter.setPen(QPen(limb.colour, 1))
                    painter.setBrush(theme.PAPER_BRIGHT)
                    painter.drawRoundedRect(chip, 3, 3)
                    painter.setFont(theme.font(8))
                    painter.setPen(theme.BROKEN if limb.alarm else theme.INK)
                    painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, text)
                    self._taken(chip, text, "segments", segments[0])
                    return

    def _free(self, box: QRectF) -> bool:
        grown = box.adjusted(-1, -1, 1, 1)
        return self.whole.contains(box) and not any(grown.intersects(other) for other in self.taken)

    def _overview(self, painter: QPainter, strip: QRectF) -> None:
        """The whole picture as a line of marks, with the part that is looked at framed."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRoundedRect(strip, 3, 3)
        for tag, lines, *_ in self.tags:
            x = strip.left() + tag.x / self.layout.width * strip.width()
            painter.setBrush(theme.BROKEN if any(line.alarm for line in lines) else theme.INK_SOFT)
            painter.drawRect(QRectF(x - 1.5, strip.top() + 2, 3, strip.height() - 4))
        share = strip.width() / (self.box.width() * self.zoom)
        painter.setPen(QPen(theme.TIGHT, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(
            QRectF(strip.left() + self.pan * share, strip.top(), self.box.width() * share, strip.height()), 3, 3
        )
        self.hits.overview = strip

    def _legend(self, painter: QPainter, line: QRectF) -> None:
        face = measured(8)
        painter.setFont(theme.font(8))
        x = line.left()
        folded = sum(bool(tag.fold) for tag in self.layout.tags)
        how = "" if theme.on_paper() else tr(": click one, or Space, to open it; Ctrl + wheel widens")
        parts: list[tuple[QColor | None, str]] = [
            *self.story.legend,
            *([(None, tr("{folded} folded{how}", folded=folded, how=how))] if folded else []),
            (None, tr("line width is bundle thickness; lengths are written, not drawn to scale")),
        ]
        for colour, text in parts:
            wide = face.horizontalAdvance(text)
            if x + 18 + wide > line.right():
                return
            if colour is not None:
                painter.fillRect(QRectF(x, line.center().y() - 4, 14, 8), colour)
                x += 18
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QRectF(x, line.top(), wide + 2, line.height()), Qt.AlignmentFlag.AlignVCenter, text)
            x += wide + 16


def room_in(width: float, zoom: float = 1.0) -> float:
    """How many slots a picture of a width has room for, at the present text size."""
    return max((width - 2 * MARGIN) * zoom / least_slot(), 4.0)
