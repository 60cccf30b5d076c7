"""Pages one below the other, as wide as there is room or whole; what is seen of them is painted beside the window."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractScrollArea, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.paper.leaves import Page
from umber_trunk.core.errors import Wanted, go_on_if

GAP = 14
WIDEST = 1100
"""Pixels a page is wide at most: more makes no line easier to read."""


class PagesView(QAbstractScrollArea):
    """Shows pages; `say` instead of them while there are none."""

    def __init__(self, crashed: Callable[[Exception], Any], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pages: Sequence[Page] = ()
        self.said = ""
        self.whole = False
        self._images: dict[int, QImage] = {}
        self._width = 0
        self._beside = Background(self)
        self._beside.answered.connect(self._came)
        self._beside.crashed.connect(crashed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def busy(self) -> bool:
        """Whether a page that is seen is still being painted."""
        return self._beside.busy

    def show_pages(self, pages: Sequence[Page], keep_place: bool = False) -> None:
        """Other pages, from the first on."""
        self.pages, self.said, self._images = pages, "", {}
        self._fit()
        if not keep_place:
            self.verticalScrollBar().setValue(0)
        self._ask()

    def say(self, text: str) -> None:
        """No pages, but a word why."""
        self._beside.drop()
        self.pages, self.said, self._images = (), text, {}
        self._fit()

    def show_whole(self, whole: bool) -> None:
        """Each page whole, or as wide as there is room."""
        self.whole = whole
        self._images = {}
        self._fit()
        self._ask()

    def _page_width(self) -> int:
        """Pixels a page is wide."""
        room = self.viewport().rect()
        wide = max(min(room.width() - 2 * GAP, WIDEST), 60)
        if self.whole and self.pages:
            widest = max(page.wide / page.tall for page in self.pages)
            wide = min(wide, max(int((room.height() - 2 * GAP) * widest), 60))
        return wide

    def _boxes(self) -> list[QRectF]:
        """Where each page lies, from the top of all."""
        found, y = list[QRectF](), float(GAP)
        left = max((self.viewport().width() - self._width) / 2, GAP)
        for page in self.pages:
            tall = self._width * page.tall / page.wide
            found.append(QRectF(left, y, self._width, tall))
            y += tall + GAP
        return found

    def _fit(self) -> None:
        wide = self._page_width()
        if wide != self._width:
            self._width, self._images = wide, {}
        boxes, bar = self._boxes(), self.verticalScrollBar()
        bar.setRange(0, max(round(boxes[-1].bottom() + GAP - self.viewport().height()), 0) if boxes else 0)
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(40)
        self.viewport().update()

    def _seen(self) -> list[int]:
        """Pages in sight."""
        top = self.verticalScrollBar().value()
        sight = QRectF(0, top, self.viewport().width(), self.viewport().height())
        return [number for number, box in enumerate(self._boxes()) if box.intersects(sight)]

    def _ask(self) -> None:
        """Has painted what is in sight and isn't there; what is out of sight is forgotten."""
        seen = self._seen()
        near = range(seen[0] - 1, seen[-1] + 2) if seen else range(0)
        self._images = {number: image for number, image in self._images.items() if number in near}
        missing = [number for number in seen if number not in self._images]
        if not missing:
            return
        pages, wide, ratio = self.pages, self._width, self.devicePixelRatioF()

        def work(wanted: Wanted) -> tuple[Sequence[Page], int, dict[int, QImage]]:
            made = {}
            for number in missing:
                go_on_if(wanted)
                made[number] = pages[number].image(round(wide * ratio))
                made[number].setDevicePixelRatio(ratio)
            return pages, wide, made

        self._beside.ask(work)

    def _came(self, what: tuple[Sequence[Page], int, dict[int, QImage]]) -> None:
        pages, wide, made = what
        if pages is self.pages and wide == self._width:
            self._images.update(made)
            self.viewport().update()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self.viewport().update()
        self._ask()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._fit()
        self._ask()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), theme.PAPER_DIM)
        if not self.pages:
            painter.setPen(theme.INK)
            painter.drawText(
                self.viewport().rect().adjusted(GAP, GAP, -GAP, -GAP),
                int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap),
                self.said,
            )
        top, boxes = self.verticalScrollBar().value(), self._boxes()
        for number in self._seen():
            box = boxes[number].translated(0, -top)
            painter.fillRect(box, Qt.GlobalColor.white)
            if number in self._images:
                painter.drawImage(box.topLeft(), self._images[number])
            painter.setPen(QPen(theme.GRIP, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box)
        painter.end()
