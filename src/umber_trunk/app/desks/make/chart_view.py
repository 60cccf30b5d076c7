"""A control chart: every reading in its order, its limits and the part's, CUSUM below, broken rules ringed."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite, waiting
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.make.charts import rule_told
from umber_trunk.core.make.measuring import KINDS, kind_told
from umber_trunk.core.make.runs import Run


class ChartView(QWidget):
    """Draws one run."""

    def __init__(self) -> None:
        super().__init__()
        self.run: Run | None = None
        self.given = False
        self.setMinimumSize(320, 220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("Control chart"))

    def show_run(self, run: Run | None) -> None:
        """Another run."""
        self.run, self.given = run, True
        self.setAccessibleDescription(run.chart.told if run is not None else "")
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        if not self.given:
            waiting(painter, self)
        elif self.run is None:
            invite(
                painter, self, tr("Nothing was measured yet. Readings are typed at the bench, or come from a gauge.")
            )
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(12, 8, -12, -8), self.run)
        painter.end()

    def _draw(self, painter: QPainter, room: QRectF, run: Run) -> None:
        found = run.chart
        bold, small = theme.font(11.5, bold=True), theme.font(8.5)
        metrics, fine = QFontMetricsF(bold), QFontMetricsF(small)
        bad = found.verdict == "check the die"
        painter.setFont(bold)
        painter.setPen(theme.BROKEN if bad else theme.TIGHT_TEXT if found.verdict in ("few", "coarse") else theme.GOOD)
        told = ("✕ " if bad else "") + found.told
        head = QRectF(room.left(), room.top(), room.width(), 2 * metrics.height())
        painter.drawText(head, int(Qt.TextFlag.TextWordWrap), told)
        unit = KINDS[run.kind][1]
        painter.setFont(small)
        painter.setPen(theme.INK_SOFT)
        under = QRectF(room.left(), head.bottom() + 2, room.width(), fine.height())
        name = tr(
            "{kind} in {unit} · limits of the part: {source}", kind=kind_told(run.kind), unit=unit, source=run.source
        )
        painter.drawText(
            under, int(Qt.AlignmentFlag.AlignLeft), fine.elidedText(name, Qt.TextElideMode.ElideRight, room.width())
        )
        body = QRectF(room.left(), under.bottom() + 8, room.width(), room.bottom() - under.bottom() - 8)
        steady = math.isfinite(found.low)
        upper = QRectF(body.left(), body.top(), body.width(), body.height() * (0.68 if steady else 1.0))
        self._individuals(painter, upper, run, unit, fine)
        if steady:
            self._sums(
                painter,
                QRectF(body.left(), upper.bottom() + 14, body.width(), body.bottom() - upper.bottom() - 14),
                run,
                fine,
            )

    def _individuals(self, painter: QPainter, room: QRectF, run: Run, unit: str, fine: QFontMetricsF) -> None:
        found = run.chart
        lines = [(found.mean, "mean", theme.INK_SOFT, False), (found.low, "low", theme.GOOD, True), (found.high, "high", theme.GOOD, True)]  # fmt: skip
        parts = [
            (value, name, theme.BROKEN, False)
            for value, name in ((run.low, tr("part min")), (run.high, tr("part max")))
            if value is not None
        ]
        shown = [*(v for v, *_ in lines if math.isfinite(v)), *(float(v) for v, *_ in parts), *found.values]
        low, high = min(shown), max(shown)
        margin = 0.08 * (high - low) or 0.05 * abs(high) or 1.0
        low, high = low - margin, high + margin
        gutter = max(fine.horizontalAdvance(f"{v:.4g}") for v in (low, high, *found.values)) + 74
        plot = QRectF(room.left() + 6, room.top(), room.width() - gutter - 6, room.height() - fine.height())

        def y(value: float) -> float:
            return plot.bottom() - (value - low) / (high - low) * plot.height()

        taken: list[float] = []
        for value, name, ink, dashed in [*parts, *lines]:
            if value is None or not math.isfinite(value):
                continue
            painter.setPen(
                QPen(
                    ink, 1.6 if ink is theme.BROKEN else 1.2, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
                )
            )
            painter.drawLine(QPointF(plot.left(), y(value)), QPointF(plot.right(), y(value)))
            if all(abs(y(value) - other) > fine.height() for other in taken):
                taken.append(y(value))
                painter.drawText(QPointF(plot.right() + 6, y(value) + fine.height() / 3), f"{name} {value:.4g}")
        self._points(painter, plot, run, y)
        painter.setPen(theme.INK_SOFT)
        many = len(found.values)
        painter.drawText(
            QRectF(plot.left(), plot.bottom() + 1, plot.width(), fine.height()),
            int(Qt.AlignmentFlag.AlignRight),
            tr("reading {many}", many=many),
        )
        painter.drawText(
            QRectF(plot.left(), plot.bottom() + 1, plot.width(), fine.height()),
            int(Qt.AlignmentFlag.AlignLeft),
            tr("reading 1; limits learnt from the first {base}", base=found.base),
        )

    def _points(self, painter: QPainter, plot: QRectF, run: Run, y: object) -> None:
        found = run.chart
        many = len(found.values)
        step = plot.width() / max(many, 1)
        spots = [
            QPointF(plot.left() + (at + 0.5) * step, y(value))  # type: ignore[operator]
            for at, value in enumerate(found.values)
        ]
        painter.setPen(QPen(theme.SLATE, 1.2))
        painter.drawPolyline(spots)
        broken = {(alarm.rule, alarm.at) for alarm in found.alarms}
        ringed = {at for rule, at in broken if (rule, at - 1) not in broken}  # where a rule begins to be broken
        for at, spot in enumerate(spots):
            out = (run.low is not None and found.values[at] < run.low) or (
                run.high is not None and found.values[at] > run.high
            )
            colour = QColor(theme.BROKEN if out or at in ringed else theme.INK)
            painter.setPen(QPen(colour, 1.5))
            painter.setBrush(colour if not (at in ringed and not out) else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(spot, 3.2, 3.2)
            if at in ringed:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(spot, 6.5, 6.5)

    def _sums(self, painter: QPainter, room: QRectF, run: Run, fine: QFontMetricsF) -> None:
        found = run.chart
        most = found.heights
        high = min(max(most[-1] * 1.2, *found.high_sum, *found.low_sum), 4 * most[-1])
        plot = QRectF(room.left() + 6, room.top() + fine.height(), room.width() - 90, room.height() - fine.height())
        middle = plot.center().y()

        def y(value: float) -> float:
            return middle - value / high * plot.height() / 2

        painter.setPen(QPen(theme.BROKEN, 1, Qt.PenStyle.DashLine))
        step = plot.width() / max(len(found.values), 1)
        for side in (1, -1):
            painter.drawPolyline(
                [QPointF(plot.left() + (at + 0.5) * step, y(side * top)) for at, top in enumerate(most)]
            )
        painter.drawText(QPointF(plot.right() + 6, y(most[-1]) + 4), f"{most[-1]:.1f} σ")
        for at, (up, down) in enumerate(zip(found.high_sum, found.low_sum, strict=True)):
            for value, sign in ((min(up, high), 1), (min(down, high), -1)):
                over = value > most[at]
                box = QRectF(
                    plot.left() + at * step + 0.15 * step,
                    min(y(0), y(sign * value)),
                    0.7 * step,
                    abs(y(sign * value) - y(0)),
                )
                painter.fillRect(box, theme.BROKEN if over else theme.GOOD_PALE)
        painter.setPen(QPen(theme.INK_SOFT, 1))
        painter.drawLine(QPointF(plot.left(), middle), QPointF(plot.right(), middle))
        last = tr(" · last rule broken: {rules}", rules=rule_told(found.alarms[-1].rule)) if found.alarms else ""
        words = tr("small shifts added up, each reading against those before it, in σ (CUSUM){last}", last=last)
        painter.drawText(
            QRectF(room.left(), room.top() - 2, room.width(), fine.height()),
            int(Qt.AlignmentFlag.AlignLeft),
            fine.elidedText(words, Qt.TextElideMode.ElideRight, room.width()),
        )
