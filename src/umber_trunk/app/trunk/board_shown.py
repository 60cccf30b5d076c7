"""The board as it is shown: laid out beside the window, painted to scale with a rule along two edges.

A place on the widget is origin + mm · scale, y up; zoom and pan change both.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.board_paint import paint_board
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.board.drawing import Drawing, draw_board, drawing, folded, laid_out, outlines
from umber_trunk.core.board.labels import Labels
from umber_trunk.core.errors import InputError, Wanted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.results import Results
from umber_trunk.core.strokes import Words

RULE = 20.0
NEAR = 9.0
PROGRESS_MS = 150


class BoardShown(QWidget):
    """The board without the hands on it. Signal: said(str)."""

    said = Signal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.made: Drawing | None = None
        self._wrong = ""
        self.chosen = ""
        self.lit: frozenset[tuple[str, str]] = frozenset()
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self._named: tuple[object, list[tuple[QRectF, str, bool]]] = (None, [])
        self.results: Results | None = None
        self.tries = 0
        self._progress = QTimer(self, interval=PROGRESS_MS)
        self._progress.timeout.connect(self._show_progress)
        self._background = Background(self)
        self._background.answered.connect(self._arrived)
        self._background.crashed.connect(document.crashed)
        document.analysed.connect(self._follow)
        document.changed.connect(self.update)
        self.setMinimumHeight(140)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("The board at 1:1"))

    @property
    def busy(self) -> bool:
        """Whether the board is being laid out."""
        return self._background.busy

    def light(self, subjects: Iterable[tuple[str, str]]) -> None:
        """Limbs and ends to stand out: what a step touches."""
        found = frozenset(subjects)
        if found != self.lit:
            self.lit = found
            self.update()

    def close_background(self) -> None:
        """Forgets a layout under way."""
        self._background.drop()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._follow()

    def _follow(self, _: object = None) -> None:
        results = self.document.now
        if results is None or not self.isVisible() or results is self.results:
            return
        self.results = results

        def work(wanted: Wanted) -> Drawing | str:
            def asked() -> bool:
                self.tries += 1
                return wanted()

            if not results.has(drawing):
                laid = results.know(folded, laid_out(results, None, asked))
                try:
                    results.know(drawing, draw_board(results, laid))
                except InputError as why:
                    return str(why)
            return results.once(drawing)

        self.tries = 0
        self._background.ask(work)
        self._progress.start()
        self.update()

    def _show_progress(self) -> None:
        if not self.busy:
            self._progress.stop()
        self.update()

    def _arrived(self, made: Drawing | str) -> None:
        self._wrong = made if isinstance(made, str) else ""
        if isinstance(made, str):
            self.made = None
            self.said.emit(made)
            self.update()
            return
        self.made = made
        notes = " ".join(made.notes)
        self.said.emit(
            notes
            or tr(
                "{segments} segments at 1:1 on {width_mm:g} × {height_mm:g} mm, {folds} folds. Drag a limb to "
                "turn it; P keeps it where it lies, Shift+P the whole board.",
                segments=len(made.folded.lines),
                width_mm=made.width_mm,
                height_mm=made.height_mm,
                folds=len(made.folded.folds),
            )
        )
        self.update()

    # where things are

    def scale(self) -> float:
        """Pixels for a millimetre."""
        if self.made is None:
            return 1.0
        wide = max(self.width() - RULE - 16, 50) / self.made.width_mm
        tall = max(self.height() - RULE - 16, 50) / self.made.height_mm
        return min(wide, tall) * self.zoom

    def origin(self) -> QPointF:
        """Where the board's lower left corner is."""
        assert self.made is not None
        scale = self.scale()
        free = max(self.width() - RULE - self.made.width_mm * scale, 0.0) / 2
        spare = max(self.height() - RULE - self.made.height_mm * scale, 0.0) / 2
        return QPointF(RULE + free, self.height() - RULE - spare) + self.pan

    def place(self, x: float, y: float) -> QPointF:
        """A place on the board, in mm, on the widget."""
        origin, scale = self.origin(), self.scale()
        return QPointF(origin.x() + x * scale, origin.y() - y * scale)

    def segment_at(self, at: QPointF) -> str:
        """The limb under a place on the widget, "" for none."""
        best, found = NEAR, ""
        for name, line in self.made.folded.lines.items() if self.made else ():
            for a, b in pairwise(line):
                off = distance_to(at, self.place(*a), self.place(*b))
                if off < best:
                    best, found = off, name
        return found

    # painting

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), theme.PAPER)
            if self.made is None or self.busy:
                painter.setPen(theme.INK_SOFT)
                painter.setFont(theme.font(12))
                said = self._wrong or tr("The figures are being worked out …")
                if self.busy:
                    said = f"{tr('Laying the board out … Esc stops it')}\n{self.tries} {tr('ways tried')}"
                painter.drawText(
                    QRectF(self.rect()), int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap), said
                )
            if self.made is not None and not self.busy:
                self._paint(painter, self.made)
        finally:
            painter.end()

    def _paint(self, painter: QPainter, made: Drawing) -> None:
        scale, origin = self.scale(), self.origin()
        painter.fillRect(QRectF(self.place(0, made.height_mm), self.place(made.width_mm, 0)), theme.PAPER_BRIGHT)
        close = scale * 3.0 >= 6.5
        painter.save()
        painter.setClipRect(QRectF(RULE, 0, self.width() - RULE, self.height() - RULE))
        painter.translate(origin)
        painter.scale(scale, scale)
        kept = made.shapes if close else tuple(shape for shape in made.shapes if not isinstance(shape, Words))
        paint_board(painter, kept, 0, 0, theme.is_dark(), 1.2 / scale)
        painter.restore()
        self._lights(painter, made)
        if self.chosen in made.folded.lines:
            painter.setPen(QPen(theme.TIGHT, max(3.0, 2 * scale), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            for a, b in pairwise(made.folded.lines[self.chosen]):
                painter.drawLine(self.place(*a), self.place(*b))
        if not close:
            self._names(painter, made)
        self.paint_over(painter)
        self._rules(painter, made)
        if self.hasFocus():
            painter.setPen(QPen(theme.GOOD, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def _lights(self, painter: QPainter, made: Drawing) -> None:
        """What is lit, by hue and by width; a square on each limb that is kept where it lies."""
        scale, index = self.scale(), index_of(self.document.design)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.TIGHT, max(4.0, 6 * scale), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for table, name in sorted(self.lit):
            if table == "segments" and name in made.folded.lines:
                painter.drawPolyline([self.place(*spot) for spot in made.folded.lines[name]])
            elif (
                table == "ends"
                and name in index.ends
                and (at := made.folded.spots.get(index.ends[name].point or "")) is not None
            ):
                painter.drawEllipse(self.place(*at), max(9.0, 18 * scale), max(9.0, 18 * scale))
        painter.setPen(QPen(theme.PAPER_BRIGHT, 1))
        painter.setBrush(theme.GOOD)
        for pin in self.document.design.project.board.pins:
            if (line := made.folded.lines.get(pin.segment)) is not None:
                a, b = (self.place(*spot) for spot in (line[(len(line) - 1) // 2], line[len(line) // 2]))
                middle = QPointF((a.x() + b.x()) / 2, (a.y() + b.y()) / 2)
                painter.drawRect(QRectF(middle.x() - 4, middle.y() - 4, 8, 8))

    def _names(self, painter: QPainter, made: Drawing) -> None:
        """Names of ends and lengths of limbs at the size of the screen's text, as many as don't touch; placed anew only
        where the board or the view of it is another."""
        font = theme.font(9)
        painter.setFont(font)
        metrics = QFontMetricsF(font)
        seen = (id(made), self.width(), self.height(), self.zoom, self.pan.x(), self.pan.y(), metrics.height())
        if self._named[0] != seen:
            self._named = (seen, self._placed_names(made, metrics))
        for box, text, quiet in self._named[1]:
            painter.setPen(theme.INK_SOFT if quiet else theme.INK)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)

    def _placed_names(self, made: Drawing, metrics: QFontMetricsF) -> list[tuple[QRectF, str, bool]]:
        index = index_of(self.document.design)
        labels = Labels((RULE, 0.0, float(self.width()), self.height() - RULE))
        for line in made.folded.lines.values():
            labels.take_line([self.place(*spot).toTuple() for spot in line], 2.0 + 3 * self.scale(), 10.0)
        wide, tall = made.width_mm, made.height_mm
        edge = [(0.0, 0.0), (wide, 0.0), (wide, tall), (0.0, tall), (0.0, 0.0)]
        labels.take_line([self.place(*corner).toTuple() for corner in edge], 2.0, 4.0)
        for left, low, right, high in (*outlines(made.shapes), *made.folded.cards.values()):
            one, other = self.place(left, high), self.place(right, low)
            labels.take([(one.x() - 2, one.y() - 2, other.x() + 2, other.y() + 2)])
        wanted = [
            (made.folded.spots[point], index.point_name(point), False)
            for point in made.folded.tips
            if point in made.folded.spots
        ]
        for name, line in made.folded.lines.items():
            if name in index.segments:
                a, b = max(pairwise(line), key=lambda piece: math.dist(*piece))
                middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
                wanted.append((middle, f"{name} {1e3 * index.segments[name].measure.length_m:.0f}", True))
        found = []
        for place, text, quiet in wanted:
            wide, tall = metrics.horizontalAdvance(text) + 2, metrics.height()
            spot = labels.put(self.place(*place).toTuple(), wide, tall, (10.0, 18.0, 28.0), 0.0)
            if spot is not None:
                found.append((QRectF(*spot, wide, tall), text, quiet))
        return found

    def _rules(self, painter: QPainter, made: Drawing) -> None:
        """A rule in mm along the lower and the left edge, zero at the board's corner."""
        scale, origin = self.scale(), self.origin()
        step = next((one for one in (10, 20, 50, 100, 200, 500, 1000, 2000, 5000) if one * scale >= 48), 10_000)
        painter.setFont(theme.font(7.5))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRect(QRectF(0, self.height() - RULE, self.width(), RULE))
        painter.drawRect(QRectF(0, 0, RULE, self.height()))
        painter.setPen(QPen(theme.INK, 1))
        for number in range(int(made.width_mm / step) + 1):
            x = origin.x() + number * step * scale
            if x >= RULE:
                painter.drawLine(QPointF(x, self.height() - RULE), QPointF(x, self.height() - RULE + 6))
                if x + 2 + metrics.horizontalAdvance(f"{number * step}") < self.width():
                    painter.drawText(QPointF(x + 2, self.height() - 5), f"{number * step}")
        for number in range(int(made.height_mm / step) + 1):
            y = origin.y() - number * step * scale
            if y <= self.height() - RULE:
                painter.drawLine(QPointF(RULE - 6, y), QPointF(RULE, y))
            if metrics.horizontalAdvance(f"{number * step}") + 4 < y <= self.height() - RULE:
                painter.save()
                painter.translate(RULE - 8, y - 2)
                painter.rotate(-90)
                painter.drawText(QPointF(0, 0), f"{number * step}")
                painter.restore()
        painter.drawText(QPointF(2, self.height() - 5), "mm")

    def paint_over(self, painter: QPainter) -> None:
        """What hands draw over the board."""


def distance_to(at: QPointF, a: QPointF, b: QPointF) -> float:
    """From a place to a piece of line, in pixels."""
    dx, dy = b.x() - a.x(), b.y() - a.y()
    square = dx * dx + dy * dy
    t = 0.0 if square == 0 else max(0.0, min(1.0, ((at.x() - a.x()) * dx + (at.y() - a.y()) * dy) / square))
    return math.hypot(at.x() - a.x() - t * dx, at.y() - a.y() - t * dy)
