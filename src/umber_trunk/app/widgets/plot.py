"""The pieces that pictures of figures are put together from: a scale with round steps, dots between limits, bars,
hatching."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.words import tr

LARGEST = 22.0
"""Letters of an invitation [pt]."""
ROUND = (1.0, 2.0, 5.0, 10.0)


def round_steps(low: float, high: float, most: int) -> list[float]:
    """At most so many round values from `low` to `high`, evenly apart by 1, 2 or 5 times a power of ten; the ends alone
    where nothing lies between."""
    span = high - low
    if not (span > 0 and math.isfinite(span)) or most < 2:
        return [low]
    rough = span / most
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(power * one for one in ROUND if power * one >= rough * (1 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    return [n * step for n in range(first, math.floor(high / step + 1e-9) + 1)] or [low, high]


def waiting(painter: QPainter, pane: QWidget) -> None:
    """What stands in a pane that nothing was given yet: until it is, nothing is said of what there is."""
    invite(painter, pane, tr("Working it out …"))


def invite(painter: QPainter, pane: QWidget, text: str, room: QRectF | None = None) -> None:
    """What to do where a pane has nothing to show, in letters as large as the room takes."""
    pane.setProperty("invites", True)
    box = (room or QRectF(pane.rect())).adjusted(16, 10, -16, -10)
    flags, point = int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap), LARGEST
    while point > theme.BASE_POINT:
        said = QFontMetricsF(theme.font(point)).boundingRect(QRectF(0, 0, box.width(), 9999), flags, text)
        if said.width() <= box.width() and said.height() <= 0.8 * box.height():
            break
        point -= 1.0
    painter.setFont(theme.font(point))
    painter.setPen(theme.INK_SOFT)
    painter.drawText(box, flags, text)


def scale_below(painter: QPainter, plot: QRectF, low: float, high: float, say: Callable[[float], str]) -> None:
    """A scale under a plot: a fine line up and a figure at each round step, as many as there is room for."""
    metrics = QFontMetricsF(painter.font())
    wide = max(metrics.horizontalAdvance(say(value)) for value in (low, high)) + 18
    for value in round_steps(low, high, max(int(plot.width() / max(wide, 40.0)), 2)):
        x = plot.left() + (value - low) / (high - low) * plot.width() if high > low else plot.left()
        painter.setPen(QPen(theme.PAPER_DIM, 1))
        painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
        painter.setPen(theme.INK_SOFT)
        text = say(value)
        left = min(
            max(x - metrics.horizontalAdvance(text) / 2, plot.left()), plot.right() - metrics.horizontalAdvance(text)
        )
        painter.drawText(QPointF(left, plot.bottom() + metrics.ascent() + 2), text)


def hatched(colour: QColor) -> QBrush:
    """What isn't the work itself: a set-up, a wait."""
    return QBrush(colour, Qt.BrushStyle.BDiagPattern)


def bar(painter: QPainter, box: QRectF, paper: QColor | QBrush, ink: QColor, heavy: bool = False) -> None:
    """A bar of a lane."""
    painter.setPen(QPen(ink, 2.2 if heavy else 1.0))
    painter.setBrush(paper)
    painter.drawRect(box)


def dots(painter: QPainter, room: QRectF, values: Sequence[float], low: float | None, high: float | None) -> None:
    """Readings in their order between their limits; those beyond them in the colour of what is broken."""
    known = [*values, *(value for value in (low, high) if value is not None)]
    if not known:
        return
    least, most = min(known), max(known)
    span = (most - least) or 1.0

    def y(value: float) -> float:
        return room.bottom() - 3 - (value - least) / span * (room.height() - 6)

    painter.setPen(QPen(theme.BROKEN, 1.2, Qt.PenStyle.DashLine))
    for limit in (low, high):
        if limit is not None:
            painter.drawLine(QPointF(room.left(), y(limit)), QPointF(room.right(), y(limit)))
    step = room.width() / max(len(values), 1)
    painter.setPen(Qt.PenStyle.NoPen)
    for at, value in enumerate(values):
        out = (low is not None and value < low) or (high is not None and value > high)
        painter.setBrush(theme.BROKEN if out else theme.INK)
        painter.drawEllipse(QPointF(room.left() + (at + 0.5) * step, y(value)), 2.6, 2.6)


def banded(
    painter: QPainter, room: QRectF, places: Sequence[tuple[float, bool]], far: float, small: bool = False
) -> list[QPointF]:
    """Readings as dots on a band whose limits are at 0 and 1, drawn from 1 − `far` to `far`; those that lie on one
    another are stacked. Where each is."""
    span = 2 * far - 1.0
    y, size = room.center().y(), 2.0 if small else 3.0

    def x(at: float) -> float:
        return room.left() + (at - 1.0 + far) / span * room.width()

    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.GOOD_PALE)
    painter.drawRect(QRectF(x(0.0), room.top() + 1, x(1.0) - x(0.0), room.height() - 2))
    stacked: dict[int, int] = {}
    found = []
    for at, ok in places:
        column = round(x(at) / (2 * size))
        level = stacked[column] = stacked.get(column, 0) + 1
        lift = (level // 2) * 2 * size * (1 if level % 2 else -1)
        spot = QPointF(x(at), min(max(y + lift, room.top() + size), room.bottom() - size))
        painter.setBrush(theme.INK if ok else theme.BROKEN)
        if ok:
            painter.drawEllipse(spot, size, size)
        else:
            painter.drawRect(QRectF(spot.x() - size, spot.y() - size, 2 * size, 2 * size))
        found.append(spot)
    return found
