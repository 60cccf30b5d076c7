"""The rail of stages across the top: a cable with a tag for each stage and what is open in it."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.core.findings import Finding, Severity

STAGE_NAMES = (("needs", "Needs"), ("runs", "Runs"), ("sizes", "Sizes"), ("kit", "Kit"))


class StageRail(QWidget):
    """Signals: chosen(str) with the stage's id. Left and right keys move, Alt + digit jumps (window)."""

    chosen = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.current = "needs"
        self.open: dict[str, tuple[int, int]] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Stages")

    def sizeHint(self) -> QSize:
        return QSize(560, round(46 * QFontMetricsF(theme.font()).height() / 15))

    def show_findings(self, findings: list[Finding]) -> None:
        """Counts faults and warnings of each stage."""
        faults = Counter(f.stage for f in findings if f.severity is Severity.FAULT)
        others = Counter(f.stage for f in findings if f.severity is Severity.WARNING)
        self.open = {stage: (faults[stage], others[stage]) for stage, _ in STAGE_NAMES}
        self.update()

    def show_stage(self, stage: str) -> None:
        """Marks the stage on screen."""
        self.current = stage
        self.update()

    def _cells(self) -> list[QRectF]:
        wide = self.width() / len(STAGE_NAMES)
        return [QRectF(i * wide, 0, wide, self.height()) for i in range(len(STAGE_NAMES))]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for (stage, _), cell in zip(STAGE_NAMES, self._cells(), strict=True):
            if cell.contains(event.position()):
                self.chosen.emit(stage)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        ids = [stage for stage, _ in STAGE_NAMES]
        self.chosen.emit(ids[(ids.index(self.current) + step) % len(ids)])

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        painter.setPen(QPen(theme.UMBER_SOFT, 3))
        painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
        for number, ((stage, name), cell) in enumerate(zip(STAGE_NAMES, self._cells(), strict=True), 1):
            self._paint_tag(painter, cell, stage, name, number)
        if self.hasFocus():
            painter.setPen(QPen(theme.VERDIGRIS_PALE, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _paint_tag(self, painter: QPainter, cell: QRectF, stage: str, name: str, number: int) -> None:
        faults, others = self.open.get(stage, (0, 0))
        here = stage == self.current
        font = theme.font(11.5, bold=here)
        metrics = QFontMetricsF(font)
        badge = f"✕ {faults}" if faults else f"△ {others}" if others else "✓"
        badge_font = theme.font(9, bold=True)
        badge_wide = QFontMetricsF(badge_font).horizontalAdvance(badge) + 12
        wide = metrics.horizontalAdvance(name) + badge_wide + 44
        box = QRectF(
            cell.center().x() - wide / 2,
            cell.center().y() - metrics.height() / 2 - 6,
            wide,
            metrics.height() + 12,
        )
        path = QPainterPath()
        path.moveTo(box.left() + 10, box.top())
        path.lineTo(box.topRight())
        path.lineTo(box.bottomRight())
        path.lineTo(box.left() + 10, box.bottom())
        path.lineTo(box.left(), box.center().y())
        path.closeSubpath()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.CHALK_BRIGHT if here else theme.UMBER)
        painter.drawPath(path)
        painter.setBrush(theme.UMBER_DEEP if here else theme.UMBER_SOFT)
        painter.drawEllipse(QPointF(box.left() + 13, box.center().y()), 3, 3)
        painter.setFont(font)
        painter.setPen(theme.UMBER_DEEP if here else theme.CHALK)
        painter.drawText(box.adjusted(24, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        mark = QRectF(box.right() - badge_wide - 8, box.center().y() - 10, badge_wide, 20)
        colour = theme.OXIDE if faults else theme.OCHRE if others else theme.VERDIGRIS
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawRoundedRect(mark, 4, 4)
        painter.setPen(QColor("white"))
        painter.setFont(badge_font)
        painter.drawText(mark, Qt.AlignmentFlag.AlignCenter, badge)
        self.setToolTip("Alt+1 … Alt+4. ✕ faults, △ things to look at, ✓ nothing open.")
