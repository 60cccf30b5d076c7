"""The trunk picture as it is shown: painted at once, or beside the window where it is large; what is chosen has a halo.

document, stage, figures, size → wish → laid out → painted (here, or beside the window) → shown
"""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QAccessible, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.painter import TrunkPainter
from umber_trunk.app.trunk.picture_words import Subject, halo_of, told_parts
from umber_trunk.app.trunk.story import Story
from umber_trunk.app.trunk.tags import measured
from umber_trunk.app.trunk.wish import Shown, Wish
from umber_trunk.app.widgets.readable import PartsForReaders
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import Layout
from umber_trunk.core.results import Results
from umber_trunk.core.solve.used import Figures
from umber_trunk.core.stages import STAGES, stage_of

AT_ONCE = 150
"""Ends and segments that are painted within a few ms."""


class PictureShown(QWidget):
    """The picture without the hands on it. `shown` is what was painted last."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.stage = STAGES[0].id
        self.paints = ""
        self.zoom, self.pan = 1.0, 0.0
        self.figures: Figures | None = None
        self.selected: set[Subject] = set()
        self.kept: dict[str, bool] = {}
        self.near = ""
        """The fold that is open while the pointer is near it."""
        self.shown: Shown | None = None
        self._chosen: set[str] = set()
        self._untold = True
        self._wished = 0
        self._asked: tuple[int, int, int] | None = None
        self._beside = Background(self)
        self._beside.answered.connect(self._arrived)
        self._beside.crashed.connect(document.crashed)
        self._readers = PartsForReaders(self, pressed=True)
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
        self.repaint_soon()

    def repaint_soon(self) -> None:
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
        shown, chosen = halo_of(index_of(self.document.design), subjects)
        if chosen != self._chosen or shown != self.selected:
            self._chosen, self.selected = chosen, shown
            self.repaint_soon()

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
            self.near,
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
        self.paint_over(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.GOOD, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def tell_readers(self) -> None:
        """Brings what a screen reader finds on the picture up to date."""
        painted = self.document.design if self.at_once or self.shown is None else self.shown.picture.index.design
        self._readers.show_parts(told_parts(self.hits, painted, self.told))

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(13))
        painter.drawText(
            self.rect(),
            int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap),
            tr(
                "The trunk draws itself from what you enter.\nStart with the source, in the line below:  supply "
                "24 V at battery"
            ),
        )

    def paint_over(self, painter: QPainter) -> None:
        """What hands draw over the picture."""
