"""The coils as they lie on the shelf: each a ring as full as what is left on it, what is to be cut from it hatched."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.plot import hatched
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr

HUB = 0.3
"""Radius of a coil's hub over that of the fullest coil."""
LEAST_CELL, MOST_CELL = 74.0, 200.0


@dataclass(frozen=True)
class OnShelf:
    """A coil: what was on it once, what is left, what is left after the plan, how many pieces it gives."""

    name: str
    size: str
    colour: str
    stripe: str
    full_m: float
    left_m: float
    then_m: float
    pieces: int

    @property
    def told(self) -> str:
        """In words."""
        cut = (
            tr(", {pieces} pieces to cut, {then_m:.2f} m then", pieces=self.pieces, then_m=self.then_m)
            if self.pieces
            else ""
        )
        return tr(
            "{name}: {size} {value}, {left_m:.2f} of {full_m:.2f} m{cut}",
            name=self.name,
            size=self.size,
            value="/".join(filter(None, (self.colour, self.stripe))),
            left_m=self.left_m,
            full_m=self.full_m,
            cut=cut,
        )


class ShelfView(DrawnPane):
    """Draws the shelf, coils of a size beside each other. A click or the arrow keys choose one: `chosen(name)`."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.coils: tuple[OnShelf, ...] = ()
        self.current = ""
        self.hits: list[tuple[QRectF, OnShelf]] = []
        self._first = 0
        """The first row of the shelf shown, where it has more than there is room for."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)
        self.setAccessibleName(tr("The shelf"))

    def show_coils(self, coils: Sequence[OnShelf], current: str = "") -> None:
        """What lies on it now."""
        self.coils, self.current = tuple(coils), current
        self.setAccessibleDescription(
            tr(
                "{count} coils, {coils} of them to be cut from",
                count=len(self.coils),
                coils=sum(bool(one.pieces) for one in self.coils),
            )
        )
        self.update()

    def parts_told(self) -> list[Part]:
        return [(cell, tr("coil {one}", one=one.name), one.told) for cell, one in self.hits]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.hits = []
        if self.coils:
            self._draw(painter, QRectF(self.rect()).adjusted(8, 4, -8, -4))
        painter.end()
        self.heard()

    def _grid(self, room: QRectF) -> tuple[int, int, float]:
        """(coils beside each other, rows in all, side of a place): as large as all of them fit, down to the least."""
        many = len(self.coils)
        for beside in range(1, 200):
            side = min(room.width() / beside, MOST_CELL)
            rows = -(-many // beside)
            if rows * side * 1.1 <= room.height() or room.width() / (beside + 1) < LEAST_CELL * theme.text_scale():
                return beside, rows, side
        return many, 1, LEAST_CELL

    def _draw(self, painter: QPainter, room: QRectF) -> None:
        painter.setFont(theme.font(8.5))
        metrics = QFontMetricsF(painter.font())
        beside, rows, side = self._grid(room)
        tall = min(side * 1.1, room.height())
        seen = max(int(room.height() // tall), 1)
        here = next((n for n, one in enumerate(self.coils) if one.name == self.current), 0) // beside
        self._first = min(max(self._first, here - seen + 1), here, max(rows - seen, 0)) if rows > seen else 0
        most = max(one.full_m for one in self.coils) or 1.0
        for row in range(self._first, min(self._first + seen, rows)):
            y = room.top() + (row - self._first) * tall
            painter.setPen(QPen(theme.GRIP, 3))
            painter.drawLine(
                QPointF(room.left(), y + tall - 2 * metrics.height() - 2),
                QPointF(room.right(), y + tall - 2 * metrics.height() - 2),
            )
            for n, one in enumerate(self.coils[row * beside : (row + 1) * beside]):
                self._coil(painter, QRectF(room.left() + n * side, y, side, tall), one, most, metrics)
        if rows > seen:
            painter.setPen(theme.INK_SOFT)
            painter.drawText(
                room,
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop),
                tr(
                    "row {first} to {last} of {rows}, ↑ ↓",
                    first=self._first + 1,
                    last=self._first + seen,
                    rows=rows,
                ),
            )

    def _coil(self, painter: QPainter, cell: QRectF, one: OnShelf, most: float, metrics: QFontMetricsF) -> None:
        line = metrics.height()
        body = cell.adjusted(3, 2, -3, -2 * line - 4)
        radius = min(body.width(), body.height()) / 2
        middle = QPointF(body.center().x(), body.bottom() - radius)
        hub = HUB * radius

        def out(metres: float) -> float:
            """Radius of a ring with so much on it: its area is as what is wound on it."""
            return math.sqrt(hub**2 + (radius**2 - hub**2) * min(max(metres / most, 0.0), 1.0))

        full, left, then = out(one.full_m), out(one.left_m), out(one.then_m)
        middle = QPointF(middle.x(), body.bottom() - max(full, hub + 4))
        painter.setPen(QPen(theme.GRIP, 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, full, full)
        painter.setPen(QPen(theme.INK, 1))
        painter.setBrush(theme.wire_brush(one.colour) if one.colour else theme.GRIP)
        painter.drawPath(_ring(middle, hub, left))
        if one.stripe and left - hub > 4:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.wire_brush(one.stripe))
            half = (left - hub) / 2
            painter.drawPath(_ring(middle, hub + 0.72 * half, hub + 1.28 * half))
        if one.pieces and left > then:
            painter.setPen(QPen(theme.TIGHT, 1.5))
            painter.setBrush(theme.PAPER_BRIGHT)
            painter.drawPath(_ring(middle, then, left))
            painter.setBrush(hatched(theme.TIGHT))
            painter.drawPath(_ring(middle, then, left))
        painter.setPen(QPen(theme.INK_SOFT, 1))
        painter.setBrush(theme.PAPER)
        painter.drawEllipse(middle, hub, hub)
        chosen = one.name == self.current
        if chosen:
            painter.setPen(QPen(theme.HEADING, 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(cell.adjusted(1, 0, -1, 0), 5, 5)
        for n, (said, ink) in enumerate(
            ((f"{one.name}  {one.size}", theme.INK), (f"{one.left_m:.1f} m", theme.INK_SOFT))
        ):
            painter.setPen(ink)
            place = QRectF(cell.left() + 2, cell.bottom() - (2 - n) * line, cell.width() - 4, line)
            painter.drawText(
                place,
                int(Qt.AlignmentFlag.AlignHCenter),
                metrics.elidedText(said, Qt.TextElideMode.ElideRight, place.width()),
            )
        self.hits.append((cell, one))

    def _choose(self, name: str) -> None:
        self.current = name
        one = next(each for each in self.coils if each.name == name)
        self.setAccessibleDescription(one.told)
        self.chosen.emit(name)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        hit = next((one for cell, one in self.hits if cell.contains(event.position())), None)
        if hit is not None:
            self._choose(hit.name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        beside, *_ = self._grid(QRectF(self.rect()).adjusted(8, 4, -8, -4)) if self.coils else (1,)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -beside, Qt.Key.Key_Down: beside}.get(
            Qt.Key(event.key())
        )
        if step is None or not self.coils:
            super().keyPressEvent(event)
            return
        at = next((n for n, one in enumerate(self.coils) if one.name == self.current), -step if step > 0 else 0)
        self._choose(self.coils[min(max(at + step, 0), len(self.coils) - 1)].name)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            hit = next((one for cell, one in self.hits if cell.contains(QPointF(event.pos()))), None)
            QToolTip.showText(event.globalPos(), plain_of(hit.told) if hit is not None else "", self)
            return True
        return super().event(event)


def _ring(middle: QPointF, inner: float, outer: float) -> QPainterPath:
    path = QPainterPath()
    path.addEllipse(middle, outer, outer)
    hole = QPainterPath()
    hole.addEllipse(middle, inner, inner)
    return path.subtracted(hole)
