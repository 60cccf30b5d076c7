"""A trunk in small: its limbs as lines, thick where many wires lie, without words; painted on any thread."""

from __future__ import annotations

from bisect import bisect_right
from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPen

from umber_trunk.app import theme
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.layout import EDGE, Picture

MOST_SLOTS = 60.0
"""Slots a small picture has room for: what doesn't fit is folded, as on the large one."""


def small_trunk(design: Design, width: int, height: int, ratio: float = 1.0) -> QImage:
    """The design's trunk in an image of that size in pixels of the screen, transparent round it."""
    image = QImage(round(width * ratio), round(height * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_small(painter, QRectF(6, 6, width - 12, height - 12), design)
    painter.end()
    return image


def paint_small(painter: QPainter, room: QRectF, design: Design, lit: frozenset[str] = frozenset()) -> None:
    """The trunk in a room of a painter; limbs in which a wire lies that is `lit` stand out, by hue and by width."""
    index = index_of(design)
    layout = Picture(design).lay_out(MOST_SLOTS)
    rows = layout.rows(max(int(room.height() // 16), 1))
    wide = max(stop - start for start, stop in pairwise([*rows, layout.width]))
    tall = room.height() / len(rows)
    most = max((len(wires) for wires in index.contents.values()), default=1) or 1

    def at(point: str) -> QPointF:
        x, y = layout.at[point]
        row = bisect_right(rows, x + 1e-9) - 1
        return QPointF(
            room.left() + (x - rows[row]) / wide * room.width(),
            room.top() + (row + 0.5) * tall + y / EDGE * 0.46 * tall,
        )

    painter.setBrush(Qt.BrushStyle.NoBrush)
    for point, (parent, segment, _) in index.parents.items():
        if segment and point in layout.at and parent in layout.at:
            a, b = at(parent), at(point)
            if a == b:
                continue
            path = QPainterPath(a)
            rise = QPointF(0, 0.55 * (b.y() - a.y()))
            path.cubicTo(a + rise, b - rise, b)
            shown = not lit.isdisjoint(index.contents[segment])
            bright, pale = (theme.INK, theme.GRIP) if theme.on_paper() else (theme.TIGHT, theme.SLATE)
            ink = bright if shown else pale if lit else theme.INK_SOFT
            pen = QPen(
                ink,
                3.4 if shown else (1.2 + 4.0 * (len(index.contents[segment]) / most) ** 0.5) * (0.5 if lit else 1.0),
            )
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPath(path)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.INK)
    for point in layout.at:
        if index.ends_at.get(point):
            painter.drawEllipse(at(point), 1.8, 1.8)
