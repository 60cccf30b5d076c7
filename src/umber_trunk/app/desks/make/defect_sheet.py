"""Faults of a crimp and its end as drawings: what a look finds, and what it comes to."""

from __future__ import annotations

import math
from functools import partial

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QGridLayout, QSizePolicy, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import heading
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.make.measuring import DEFECTS, defect_told

COPPER = QColor("#b77a4c")
WORDS = 0.44
"""Share of a card's height that its words may take."""
WRAPPED = int(Qt.TextFlag.TextWordWrap)
COMES_TO = {"again": word("do the step again"), "rework": word("start this end over"), "scrap": word("scrap the wire")}
ACROSS = 4


class DefectTile(QWidget):
    """One fault, drawn: contact from the left, wire from the right, the fault in red. Signal: chosen(code)."""

    chosen = Signal(str)

    def __init__(self, code: str) -> None:
        super().__init__()
        self.code = code
        self.told, self.comes_to = defect_told(code), DEFECTS[code]
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.words = f"{self.told}\n→ {tr(COMES_TO[self.comes_to])}"
        wide, tall = round(190 * theme.text_scale()), round(134 * theme.text_scale())
        room = QRect(0, 0, wide - 20, 10_000)
        needs = QFontMetrics(theme.font(9.5, bold=True)).boundingRect(room, WRAPPED, self.words).height()
        self.setMinimumSize(QSize(wide, max(tall, math.ceil(needs / WORDS) + 4)))
        self.setAccessibleName(f"{self.told}: {tr(COMES_TO[self.comes_to])}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() is Qt.MouseButton.LeftButton:
            self.chosen.emit(self.code)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.code)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        painter.setPen(QPen(theme.HEADING if self.hasFocus() else theme.GRIP, 2.5 if self.hasFocus() else 1.2))
        painter.setBrush(theme.PAPER_BRIGHT)
        painter.drawRoundedRect(whole, 6, 6)
        tall = WORDS * whole.height()
        painter.setFont(theme.font(9.5, bold=True))
        painter.setPen(theme.INK)
        words = QRectF(whole.left() + 8, whole.bottom() - tall - 2, whole.width() - 16, tall)
        painter.drawText(words, WRAPPED, self.words)
        picture = QRectF(whole.left() + 10, whole.top() + 6, whole.width() - 20, 0.44 * whole.height())
        _draw(painter, picture, self.code)
        painter.end()


def _x(room: QRectF, share: float) -> float:
    """A share of the room's width, from the left."""
    return room.left() + share * room.width()


def _draw(painter: QPainter, room: QRectF, code: str) -> None:
    """The crimp as it should be, and what is wrong with it. Places are shares of the room: tongue to 0.22, wire barrel
    0.3 to 0.52, insulation wings 0.58 to 0.72, wire from there on."""
    x, wide, middle, tall = partial(_x, room), room.width(), room.center().y(), room.height()

    def bar(start: float, stop: float, height: float) -> QRectF:
        return QRectF(x(start), middle - height * tall / 2, (stop - start) * wide, height * tall)

    metal = theme.PAPER_DIM
    painter.setPen(QPen(theme.INK, 1.1))
    painter.setBrush(COPPER)
    insulation = 0.46 if code == "insulation-in" else 0.66 if code == "short-strip" else 0.56
    tip = 0.44 if code == "short-strip" else 0.27
    painter.drawRect(bar(tip, insulation, 0.22))
    painter.setBrush(theme.SLATE)
    painter.drawRect(bar(insulation, 1.0, 0.4))
    painter.setBrush(metal)
    painter.drawRect(bar(0.0, 0.22, 0.3))
    squeeze = {"under": 0.5, "over": 0.2}.get(code, 0.32)
    barrel = QPainterPath()
    bell = 0.0 if code == "no-bell" else 0.1
    barrel.moveTo(x(0.29), middle - (squeeze + bell) * tall / 2)
    barrel.lineTo(x(0.33), middle - squeeze * tall / 2)
    barrel.lineTo(x(0.49), middle - squeeze * tall / 2)
    barrel.lineTo(x(0.53), middle - (squeeze + bell) * tall / 2)
    barrel.lineTo(x(0.53), middle + (squeeze + bell) * tall / 2)
    barrel.lineTo(x(0.49), middle + squeeze * tall / 2)
    barrel.lineTo(x(0.33), middle + squeeze * tall / 2)
    barrel.lineTo(x(0.29), middle + (squeeze + bell) * tall / 2)
    barrel.closeSubpath()
    painter.setBrush(QColor(metal.red(), metal.green(), metal.blue(), 190))
    painter.drawPath(barrel)
    painter.drawRect(bar(0.6, 0.72, 0.5))
    edge = insulation if code == "insulation-in" else tip
    _wrong(painter, room, code, edge)


def _wrong(painter: QPainter, room: QRectF, code: str, edge: float) -> None:
    """What is wrong with the crimp, drawn over it; `edge` is where the insulation, or the strip, ends."""
    x, wide, middle, tall = partial(_x, room), room.width(), room.center().y(), room.height()
    painter.setPen(QPen(theme.BROKEN, 2.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if code == "strand-out":
        strand = QPainterPath(QPointF(x(0.54), middle))
        strand.quadTo(QPointF(x(0.45), middle - 0.75 * tall), QPointF(x(0.34), middle - 0.4 * tall))
        painter.drawPath(strand)
    elif code in ("insulation-in", "short-strip"):
        painter.drawLine(QPointF(x(edge), middle - 0.45 * tall), QPointF(x(edge), middle + 0.45 * tall))
    elif code == "no-bell":
        for end in (0.29, 0.53):
            painter.drawEllipse(QPointF(x(end), middle - 0.16 * tall), 0.12 * tall, 0.12 * tall)
    elif code == "pierced":
        for side in (-1, 1):
            painter.drawLine(
                QPointF(x(0.66), middle + side * 0.28 * tall), QPointF(x(0.66), middle + side * 0.06 * tall)
            )
    elif code == "under":
        for spot in range(3):
            painter.drawEllipse(QPointF(x(0.36 + 0.05 * spot), middle), 0.07 * tall, 0.07 * tall)
    elif code == "over":
        painter.drawLine(QPointF(x(0.38), middle - 0.1 * tall), QPointF(x(0.42), middle - 0.3 * tall))
        painter.drawLine(QPointF(x(0.42), middle - 0.1 * tall), QPointF(x(0.45), middle - 0.32 * tall))
    elif code == "nicked":
        painter.drawLine(QPointF(x(0.555), middle - 0.2 * tall), QPointF(x(0.575), middle))
        painter.drawLine(QPointF(x(0.595), middle - 0.2 * tall), QPointF(x(0.575), middle))
    elif code == "not-seated":
        painter.drawRect(QRectF(x(-0.01), middle - 0.4 * tall, 0.15 * wide, 0.8 * tall))
        painter.drawLine(QPointF(x(0.18), middle - 0.45 * tall), QPointF(x(0.26), middle - 0.45 * tall))
    elif code == "wrong-cavity":
        for at, side in ((0.06, -1), (0.06, 1)):
            painter.drawEllipse(QPointF(x(at), middle + side * 0.32 * tall), 0.12 * tall, 0.12 * tall)
        painter.drawLine(QPointF(x(0.02), middle + 0.2 * tall), QPointF(x(0.1), middle + 0.44 * tall))
    elif code == "jacket-cut":
        painter.drawLine(QPointF(x(0.82), middle - 0.24 * tall), QPointF(x(0.9), middle + 0.1 * tall))


class DefectSheet(QDialog):
    """All faults to choose from; `code` is the one chosen."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("A fault seen"))
        self.code = ""
        whole = QVBoxLayout(self)
        whole.addWidget(heading("What do you see?"))
        grid = QGridLayout()
        self.tiles: list[DefectTile] = []
        for number, code in enumerate(DEFECTS):
            tile = DefectTile(code)
            tile.chosen.connect(self._take)
            grid.addWidget(tile, number // ACROSS, number % ACROSS)
            self.tiles.append(tile)
        whole.addLayout(grid)

    def _take(self, code: str) -> None:
        self.code = code
        self.accept()
