"""Cells that are painted: use of a limit as a bar, a wire's colours as a swatch with their words."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from umber_trunk.app import theme
from umber_trunk.app.widgets.rows_model import RowsModel
from umber_trunk.core.usual import MET

FULL_SCALE = 1.25


class PaintedCell(QStyledItemDelegate):
    """Bars and swatches where a column asks for them; plain text elsewhere."""

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        model = index.model()
        assert isinstance(model, RowsModel)
        column, drawn = model.columns[index.column()], model.told(index.row(), index.column())[2]
        if column.bar is None and column.swatch is None and column.stack is None:
            super().paint(painter, option, index)
            return
        style = option.widget.style() if option.widget else None
        if style is not None:  # the ground alone: what the cell says is painted over it
            style.drawPrimitive(QStyle.PrimitiveElement.PE_PanelItemViewItem, option, painter, option.widget)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if column.bar is not None:
            self._bar(painter, QRectF(option.rect), drawn)
        elif column.stack is not None:
            self._stack(painter, QRectF(option.rect), drawn or [])
        elif column.swatch is not None:
            self._swatch(painter, QRectF(option.rect), *(drawn or ("", "")))
        painter.restore()

    def _bar(self, painter: QPainter, cell: QRectF, used: float | None) -> None:
        """A bar to 125 % with a line at the limit; the number beside it, a cross when broken."""
        if used is None:
            return
        text_wide = 46 * theme.text_scale()
        lane = cell.adjusted(6, cell.height() / 2 - 4, -text_wide - 4, -cell.height() / 2 + 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRect(lane)
        full = lane.width() / FULL_SCALE
        bar = QRectF(lane.left(), lane.top(), min(used, FULL_SCALE) * full, lane.height())
        painter.setBrush(theme.use_color(used))
        painter.drawRect(bar)
        painter.setPen(QPen(theme.INK, 1.5))
        painter.drawLine(
            QPointF(lane.left() + full, lane.top() - 3),
            QPointF(lane.left() + full, lane.bottom() + 3),
        )
        broken = used > MET
        painter.setFont(theme.font(9, bold=broken))
        painter.setPen(theme.BROKEN if broken else theme.INK)
        shown = f"{100 * used:.0f} %" if used < 3 else f"× {used:.1f}" if used < 100 else "× 99+"
        place = QRectF(cell.right() - text_wide - 2, cell.top(), text_wide, cell.height())
        painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shown)

    def _stack(self, painter: QPainter, cell: QRectF, parts: Sequence[tuple[QColor, float]]) -> None:
        """Parts one after another; one too thin to see is still a pixel and a half."""
        lane = cell.adjusted(6, cell.height() / 2 - 5, -6, -cell.height() / 2 + 5)
        least = 1.5
        shown = [(colour, share) for colour, share in parts if share > 1e-6]
        room = lane.width() - least * len(shown)
        x = lane.left()
        painter.setPen(Qt.PenStyle.NoPen)
        for colour, share in shown:
            wide = least + share * room
            painter.setBrush(colour)
            painter.drawRect(QRectF(x, lane.top(), wide, lane.height()))
            x += wide

    def _swatch(self, painter: QPainter, cell: QRectF, colour: str, stripe: str) -> None:
        """A bit of wire in its colour with the stripe along it, and the words."""
        wire = QRectF(cell.left() + 4, cell.center().y() - 4.5, 26, 9)
        painter.setPen(QPen(theme.INK_SOFT, 0.8))
        painter.setBrush(theme.wire_brush(colour) if colour else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(wire, 4, 4)
        if stripe:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.wire_brush(stripe))
            painter.drawRect(wire.adjusted(1, 3.2, -1, -3.2))
        painter.setPen(theme.INK)
        painter.setFont(theme.font(9))
        words = f"{colour}/{stripe}" if stripe else colour or "any"
        painter.drawText(cell.adjusted(36, 0, -2, 0), Qt.AlignmentFlag.AlignVCenter, words)
