"""Below the trunk: wires that wait to be laid, as straight runs of their listed length."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from umber_trunk.app import theme
from umber_trunk.app.trunk.hits import Hits
from umber_trunk.app.trunk.tags import measured
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import Index
from umber_trunk.core.picture.layout import Layout, Stray
from umber_trunk.core.units import show_length


def shelf_height(box: QRectF, layout: Layout) -> float:
    """Room for the runs that wait, at most a part of the picture."""
    if not layout.strays:
        return 0.0
    if not layout.tags:
        return box.height() - measured(8).height() - 14
    row = measured(8).height() + 5
    return min(box.height() * 0.38, 1.6 * row + row * ((len(layout.strays) + 2) // 3))


def strays_drawn(painter: QPainter, shelf: QRectF, index: Index, strays: Sequence[Stray], hits: Hits) -> None:
    """Straight runs of wires that wait to be laid, in columns."""
    painter.fillRect(shelf, theme.PAPER_DIM)
    title, row_height = measured(bold=True).height() + 3, measured(8).height() + 5
    painter.setFont(theme.font(8.5, bold=True))
    painter.setPen(theme.HEADING)
    waiting = sum(len(stray.wires) for stray in strays)
    told = tr("{waiting} wires wait to be laid onto the trunk (straight runs of their listed length)", waiting=waiting)
    painter.drawText(
        QRectF(shelf.left() + 8, shelf.top() + 1, shelf.width() - 16, title),
        Qt.AlignmentFlag.AlignVCenter,
        measured(bold=True).elidedText(told, theme.MIDDLE, shelf.width() - 16),
    )
    rows = max(1, int((shelf.height() - title) / row_height))
    least = 300 * theme.text_scale()
    columns = max(1, int(shelf.width() // (least + 100)), min(int(shelf.width() // least), -(-len(strays) // rows)))
    rows = min(rows, -(-len(strays) // columns))
    shown = strays[: rows * columns]
    hidden = len(strays) - len(shown)
    for number, stray in enumerate(shown):
        column, row = divmod(number, rows)
        wide = shelf.width() / columns
        cell = QRectF(shelf.left() + column * wide + 8, shelf.top() + title + row * row_height, wide - 16, row_height)
        if hidden and number == len(shown) - 1:
            painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter, tr("… and {hidden} more runs", hidden=hidden + 1))
            break
        _stray(painter, cell, index, stray)
        hits.strays.append((cell, stray.wires))


def _stray(painter: QPainter, cell: QRectF, index: Index, stray: Stray) -> None:
    face = measured(8)
    painter.setFont(theme.font(8))
    third = cell.width() * 0.32
    names = [index.ends[end].name if end in index.ends else end for end in (stray.a, stray.b)]
    left, right = (face.elidedText(name, theme.MIDDLE, third) for name in names)
    painter.setPen(theme.INK)
    painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, left)
    painter.drawText(cell, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right)
    from_x, to_x = cell.left() + face.horizontalAdvance(left) + 6, cell.right() - face.horizontalAdvance(right) - 6
    y = cell.center().y()
    pen = QPen(theme.TIGHT, min(1.5 + 0.6 * len(stray.wires), 6))
    pen.setDashPattern([3, 1.5])
    painter.setPen(pen)
    painter.drawLine(QPointF(from_x, y), QPointF(to_x, y))
    count = len(stray.wires)
    text = f"×{count}  {show_length(stray.length_m)}" if stray.length_m else tr("×{count}  no length", count=count)
    wide = face.horizontalAdvance(text) + 8
    chip = QRectF((from_x + to_x - wide) / 2, y - face.height() / 2, wide, face.height())
    painter.fillRect(chip, theme.PAPER_DIM)
    painter.setPen(theme.INK)
    painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, text)
