"""Pages to draw on one after another: of a PDF or a printer, or kept to be looked at."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPagedPaintDevice, QPageLayout, QPainter, QPicture

PIXELS_AN_INCH = 96.0
MM_AN_INCH = 25.4


class Leaves(ABC):
    """One page after another. `painter` draws on the latest in units of which `per_inch` are an inch, from the upper
    left corner of what may be printed on; `wide` and `tall` are what may be printed on."""

    painter: QPainter
    wide: float
    tall: float

    @abstractmethod
    def turn(self) -> None:
        """On to the next page."""

    def end(self) -> None:
        """No more is drawn."""
        self.painter.end()


class DeviceLeaves(Leaves):
    """Pages of a PDF or a printer."""

    def __init__(self, device: QPagedPaintDevice, per_inch: float = PIXELS_AN_INCH) -> None:
        self._device = device
        self.painter = QPainter(device)
        across, down = device.logicalDpiX() / per_inch, device.logicalDpiY() / per_inch
        self.painter.scale(across, down)
        self.wide, self.tall = device.width() / across, device.height() / down

    def turn(self) -> None:
        self._device.newPage()


class KeptLeaves(Leaves):
    """Pages kept as what was drawn on them, on a layout of paper."""

    def __init__(self, layout: QPageLayout, per_inch: float = PIXELS_AN_INCH) -> None:
        self.layout, self._per_inch = layout, per_inch
        self.pictures: list[QPicture] = []
        room = layout.paintRect(QPageLayout.Unit.Inch)
        self.wide, self.tall = room.width() * per_inch, room.height() * per_inch
        self._begin()

    def _begin(self) -> None:
        picture = QPicture()
        self.pictures.append(picture)
        self.painter = QPainter(picture)
        self.painter.scale(picture.logicalDpiX() / self._per_inch, picture.logicalDpiY() / self._per_inch)

    def turn(self) -> None:
        self.painter.end()
        self._begin()

    def pages(self) -> list[Page]:
        """What was drawn, once it has ended."""
        inch = QPageLayout.Unit.Inch
        paper, room = self.layout.fullRect(inch), self.layout.paintRect(inch)
        return [Page(one, paper.width(), paper.height(), room.left(), room.top()) for one in self.pictures]


@dataclass(frozen=True)
class Page:
    """One page kept [inch]: its paper, and where what may be printed on begins."""

    picture: QPicture
    wide: float
    tall: float
    left: float
    top: float

    def image(self, width: int) -> QImage:
        """The page so many pixels wide."""
        per_inch = width / self.wide
        image = QImage(width, max(round(self.tall * per_inch), 1), QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        painter.translate(self.left * per_inch, self.top * per_inch)
        painter.setClipRect(QRectF(0, 0, (self.wide - self.left) * per_inch, (self.tall - self.top) * per_inch))
        painter.scale(per_inch / self.picture.logicalDpiX(), per_inch / self.picture.logicalDpiY())
        painter.drawPicture(0, 0, self.picture)
        painter.end()
        return image
