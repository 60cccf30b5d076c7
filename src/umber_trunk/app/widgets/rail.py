"""The rail of stages across the top: a cable with a tag for each stage and what is open in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.stages import STAGES, Stage
from umber_trunk.core.status import StageState

POINTS = (11.5, 10.5, 9.5, 8.5, 7.5)


class StageRail(QWidget):
    """Signals: chosen(str) with the stage's id. Left and right keys move, Alt + digit jumps (window).

    Tags have name and count side by side; where many stages or large text leave less room, the count goes below the
    name, and then the letters shrink until all names are whole.
    """

    chosen = Signal(str)

    def __init__(self, stages: Sequence[Stage] = STAGES, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.stages = stages
        self.current = stages[0].id
        self.states: dict[str, StageState] = {}
        self.open: dict[str, tuple[int, int]] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(tr("Stages"))

    def sizeHint(self) -> QSize:
        return QSize(560, round(46 * QFontMetricsF(theme.font()).height() / 15))

    def minimumSizeHint(self) -> QSize:
        return QSize(50 * len(self.stages), self.sizeHint().height())

    def show_states(self, states: Sequence[StageState], findings: list[Finding]) -> None:
        """What each stage is at; before that is known, its faults and warnings are counted."""
        was = self.states, self.open
        self.states = {one.stage: one for one in states}
        faults = Counter(f.stage for f in findings if f.severity is Severity.FAULT)
        others = Counter(f.stage for f in findings if f.severity is Severity.WARNING)
        self.open = {stage.id: (faults[stage.id], others[stage.id]) for stage in self.stages}
        if was == (self.states, self.open):
            return
        self.setAccessibleDescription(
            "; ".join(
                f"{tr(s.name)}: {self.states[s.id].why}"
                if s.id in self.states
                else tr(
                    "{stage}: {faults} faults, {warnings} warnings",
                    stage=tr(s.name),
                    faults=faults[s.id],
                    warnings=others[s.id],
                )
                for s in self.stages
            )
        )
        self.update()

    def show_stage(self, stage: str) -> None:
        """Marks the stage on screen."""
        self.current = stage
        self.update()

    def cells(self) -> list[QRectF]:
        """Where each stage's tag has its room."""
        wide = self.width() / len(self.stages)
        return [QRectF(at * wide, 0, wide, self.height()) for at in range(len(self.stages))]

    def _stage_at(self, at: QPointF) -> Stage | None:
        return next((stage for stage, cell in zip(self.stages, self.cells(), strict=True) if cell.contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        stage = self._stage_at(event.position())
        if stage is not None:
            self.chosen.emit(stage.id)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            stage = self._stage_at(QPointF(event.pos()))
            state = self.states.get(stage.id) if stage else None
            told = (
                tr(
                    "{asks} Alt+{stage}. {why}",
                    asks=tr(stage.asks),
                    stage=self.stages.index(stage) + 1,
                    why=state.why if state else tr("Looking …"),
                )
                if stage
                else ""
            )
            QToolTip.showText(event.globalPos(), plain_of(told), self)
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        ids = [stage.id for stage in self.stages]
        self.chosen.emit(ids[(ids.index(self.current) + step) % len(ids)])

    def _badge(self, stage: str) -> str:
        faults, others = self.open.get(stage, (0, 0))
        state = self.states.get(stage)
        if state is not None and (state.state == "faults" or not faults):
            return state.badge
        return f"✕ {faults}" if faults else f"△ {others}" if others else "–"  # not looked at yet

    def fitting(self) -> tuple[float, bool]:
        """(points of the names, whether counts go below them) so that every tag fits its room."""
        room = self.width() / len(self.stages) - 6
        for points in POINTS:
            names, badges = (
                QFontMetricsF(theme.font(points, bold=True)),
                QFontMetricsF(theme.font(points - 2.5, bold=True)),
            )
            beside = max(
                names.horizontalAdvance(tr(s.name)) + badges.horizontalAdvance(self._badge(s.id)) + 56
                for s in self.stages
            )
            if beside <= room:
                return points, False
            below = max(
                max(names.horizontalAdvance(tr(s.name)), badges.horizontalAdvance(self._badge(s.id)) + 10) + 22
                for s in self.stages
            )
            if below <= room and names.height() + badges.height() + 8 <= self.height():
                return points, True
        return POINTS[-1], True

    def tags(self) -> list[tuple[QRectF, QRectF, QRectF]]:
        """(tag, name, count) of each stage, as they are painted."""
        points, below = self.fitting()
        names, badges = QFontMetricsF(theme.font(points, bold=True)), QFontMetricsF(theme.font(points - 2.5, bold=True))
        found = []
        for stage, cell in zip(self.stages, self.cells(), strict=True):
            name = names.horizontalAdvance(tr(stage.name))
            mark = badges.horizontalAdvance(self._badge(stage.id)) + 10
            middle = cell.center()
            if below:
                wide = max(name, mark) + 20
                high = names.height() + badges.height() + 6
                tag = QRectF(middle.x() - wide / 2, middle.y() - high / 2, wide, high)
                text = QRectF(middle.x() + 5 - name / 2, tag.top() + 1, name + 2, names.height())
                count = QRectF(middle.x() + 5 - mark / 2, text.bottom() + 1, mark, badges.height() + 1)
            else:
                wide = name + mark + 46
                tag = QRectF(middle.x() - wide / 2, middle.y() - names.height() / 2 - 6, wide, names.height() + 12)
                text = QRectF(tag.left() + 24, tag.top(), name + 2, tag.height())
                count = QRectF(tag.right() - mark - 8, middle.y() - badges.height() / 2 - 2, mark, badges.height() + 4)
            found.append((tag, text, count))
        return found

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        painter.setPen(QPen(theme.BAR_SOFT, 3))
        painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
        points, _below = self.fitting()
        fonts = theme.font(points, bold=True), theme.font(points), theme.font(points - 2.5, bold=True)
        for stage, places in zip(self.stages, self.tags(), strict=True):
            self._paint_tag(painter, stage, places, fonts)
        if self.hasFocus():
            painter.setPen(QPen(theme.BAR_INK, 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -2, -2))

    def _paint_tag(
        self, painter: QPainter, stage: Stage, places: tuple[QRectF, QRectF, QRectF], fonts: tuple[QFont, QFont, QFont]
    ) -> None:
        box, text, mark = places
        badge = self._badge(stage.id)
        here = stage.id == self.current
        path = QPainterPath()
        path.moveTo(box.left() + 10, box.top())
        for corner in (
            box.topRight(),
            box.bottomRight(),
            QPointF(box.left() + 10, box.bottom()),
            QPointF(box.left(), box.center().y()),
        ):
            path.lineTo(corner)
        path.closeSubpath()
        paper = QColor("#fdfaf4") if here else theme.BAR
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(paper)
        painter.drawPath(path)
        painter.setBrush(theme.BAR if here else theme.BAR_SOFT)
        painter.drawEllipse(QPointF(box.left() + 9, box.center().y()), 2.6, 2.6)
        painter.setFont(fonts[0] if here else fonts[1])
        painter.setPen(theme.ink_on(paper))
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, tr(stage.name))
        colour = {"✕": theme.BROKEN, "△": theme.TIGHT, "✓": theme.GOOD, "–": theme.BAR_SOFT}.get(badge[0], theme.SLATE)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawRoundedRect(mark, 4, 4)
        painter.setPen(theme.ink_on(colour))
        painter.setFont(fonts[2])
        painter.drawText(mark, Qt.AlignmentFlag.AlignCenter, self._badge(stage.id))
