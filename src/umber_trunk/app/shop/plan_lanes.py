"""The plan as lanes: by hand, by tool or by job, a bar a run of tasks, today's line, the days promised at the ends."""

from __future__ import annotations

from bisect import bisect_right
from collections import defaultdict
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.moments import Day, day_at, days_on, end_of
from umber_trunk.core.planning.tasks import NEVER, Placed
from umber_trunk.store.shop_plan import ShopPlan, runs

WAYS = ("hand", "tool", "job")
LEAST_PX, IDLE = 2.0, 0.12
"""A bar is that wide at least; a day on which nothing is done has such a share of another's width."""


@dataclass(frozen=True)
class Bar:
    """A run as it was painted: where, of which job, its tasks."""

    box: QRectF
    job: str
    tasks: tuple[Placed, ...]


class Axis:
    """Moments from left to right: hours in which somebody is here, those of days on which nothing is done narrow,
    nights not at all."""

    def __init__(self, shown: ShopPlan, left: float, wide: float) -> None:
        floor = shown.plan.floor
        ends = [one.end for one in shown.plan.placed if one.end < NEVER]
        last = max([*ends, *(one.p90 for one in shown.ready if one.p90 < NEVER)], default=floor.now + 86_400)
        busy = {
            day_at(moment, shown.zone)
            for one in shown.plan.placed
            if one.end < NEVER
            for moment in (one.start, one.end)
        }
        day, stop = day_at(floor.now, shown.zone), day_at(last, shown.zone)
        self.days: list[tuple[Day, float]] = []
        self._knots: list[tuple[float, float]] = []
        rows = []
        while day <= stop:
            begins, over = end_of(days_on(day, -1), shown.zone), end_of(day, shown.zone)
            spans = [span for hand in floor.hands for span in hand.spans if begins <= span[0] < over]
            if spans:
                first, until = max(min(a for a, _ in spans), floor.now), max(b for _, b in spans)
                share = 1.0 if day in busy else IDLE
                rows.append((day, first, max(until, first + 1), (max(until, first + 1) - first) * share))
            day = days_on(day, 1)
        total, x = sum(row[3] for row in rows) or 1.0, left
        for day, first, until, weight in rows:
            self.days.append((day, x))
            self._knots += [(float(first), x), (float(until), x + wide * weight / total)]
            x += wide * weight / total

    def __call__(self, moment: float) -> float:
        """Where a moment lies."""
        if not self._knots:
            return 0.0
        at = bisect_right(self._knots, (moment, 1e18))
        if at == 0:
            return self._knots[0][1]
        if at == len(self._knots):
            return self._knots[-1][1]
        (a, x), (b, y) = self._knots[at - 1], self._knots[at]
        return x + (y - x) * (moment - a) / max(b - a, 1e-9)


class PlanLanes(QWidget):
    """Painted lanes.

    Signals: picked(job): a bar was chosen.
    """

    picked = Signal(str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown: ShopPlan | None = None
        self.way, self.lit = "hand", ""
        self.bars: list[Bar] = []
        self.setMouseTracking(True)
        self.setAccessibleName(tr("The plan in lanes"))

    def show_plan(self, shown: ShopPlan) -> None:
        """A plan."""
        self.shown = shown
        told = [
            tr("{job} ready {p90} with 90 %", job=one.job, p90=shown.told(one.p90) or "never") for one in shown.ready
        ]
        self.setAccessibleDescription("; ".join(told))
        line = QFontMetricsF(theme.font()).height() + 14
        self.setMinimumHeight(round((len(self._lanes()) + 2) * line))
        self.update()

    def show_way(self, way: str) -> None:
        """Lanes by hand, by tool or by job."""
        self.way = way
        if self.shown is not None:
            self.show_plan(self.shown)

    def light(self, job: str) -> None:
        """A job's bars stand out."""
        self.lit = job
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(900, 420)

    def _row(self) -> float:
        """A lane's height: taller where there are few."""
        line, lanes = QFontMetricsF(theme.font()).height(), max(len(self._lanes()), 1)
        return max(line + 14, min(3.2 * line, (self.height() - 2 * line) / (lanes + 1)))

    def _lanes(self) -> dict[str, list[list[Placed]]]:
        if self.shown is None:
            return {}
        found: dict[str, list[list[Placed]]] = defaultdict(list)
        if self.way == "hand":
            found |= {hand.id: [] for hand in self.shown.plan.floor.hands}
        if self.way == "job":
            found |= {one.job: [] for one in self.shown.ready}
        for run in runs(self.shown.plan):
            first = run[0]
            name = {"hand": first.who, "tool": first.task.tool or "by hand", "job": first.task.job}[self.way]
            found[name].append(run)
        return dict(found)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.bars = []
        if self.shown is None or not self.shown.plan.placed:
            painter.setPen(theme.INK_SOFT)
            told = (
                tr("Working it out …")
                if self.shown is None
                else tr("Nothing is left to plan: no accepted job has anything to make.")
            )
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignCenter), told)
            return
        lanes, row = self._lanes(), self._row()
        metrics = QFontMetricsF(theme.font())
        left = max(metrics.horizontalAdvance(name) for name in lanes) + 16
        x_of = Axis(self.shown, left, self.width() - left - 16)
        self._days(painter, x_of, row, len(lanes))
        for number, (name, mine) in enumerate(lanes.items()):
            y = (number + 1) * row
            painter.setFont(theme.font(bold=name == self.lit))
            painter.setPen(theme.INK)
            painter.drawText(QPointF(4, y + metrics.ascent() + 4), name)
            for run in mine:
                start, stop = x_of(run[0].start), x_of(run[-1].end)
                box = QRectF(start, y + 2, max(stop - start, LEAST_PX), row - 8)
                self._bar(painter, box, run)
            if self.way == "job":
                self._promise(painter, name, x_of, y, row)

    def _days(self, painter: QPainter, x_of: Axis, row: float, lanes: int) -> None:
        assert self.shown is not None
        small = theme.font(8.5)
        metrics = QFontMetricsF(small)
        painter.setFont(small)
        end = -1e9
        for day, x in x_of.days:
            painter.setPen(QPen(theme.GRIP, 1))
            painter.drawLine(QPointF(x, row - 4), QPointF(x, (lanes + 1) * row))
            told = f"{day:%a} {day.day} {day:%b}"
            if x > end + 8 and x + 3 + metrics.horizontalAdvance(told) < self.width():
                painter.setPen(theme.INK_SOFT)
                painter.drawText(QPointF(x + 3, metrics.ascent() + 4), told)
                end = x + 3 + metrics.horizontalAdvance(told)
        x = x_of(self.shown.plan.floor.now)
        painter.setPen(QPen(theme.TIGHT, 2))
        painter.drawLine(QPointF(x, row - 8), QPointF(x, (lanes + 1) * row))

    def _bar(self, painter: QPainter, box: QRectF, run: list[Placed]) -> None:
        first = run[0]
        job, lit = first.task.job, first.task.job == self.lit
        painter.setPen(QPen(theme.PAPER, 0.8))
        painter.setBrush(theme.TIGHT if lit else theme.GOOD_PALE)
        painter.drawRoundedRect(box, 2, 2)
        if first.set_up:
            painter.fillRect(QRectF(box.left(), box.top(), 2.5, box.height()), theme.HEADING)
        small = theme.font(8)
        metrics = QFontMetricsF(small)
        told = {"hand": job, "tool": f"{first.who} {job}", "job": first.who}[self.way]
        if metrics.horizontalAdvance(told) + 6 <= box.width():
            painter.setFont(small)
            painter.setPen(theme.ink_on(theme.TIGHT) if lit else theme.INK)
            painter.drawText(box.adjusted(4, 0, 0, 0), int(Qt.AlignmentFlag.AlignVCenter), told)
        self.bars.append(Bar(box, job, tuple(run)))

    def _promise(self, painter: QPainter, job: str, x_of: Axis, y: float, row: float) -> None:
        """From 50 to 90 % as a band, the day promised as a mark."""
        assert self.shown is not None
        one = next((ready for ready in self.shown.ready if ready.job == job), None)
        if one is None or one.p90 >= NEVER:
            return
        a, b = x_of(one.p50), x_of(one.p90)
        painter.setPen(QPen(theme.GOOD, 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(a, y + row / 2 - 5, max(b - a, 3), 8))
        due = self.shown.plan.floor.of_job[job].due
        if due is not None and due <= max(placed.end for placed in self.shown.plan.placed) + 3600:
            x = x_of(due)
            painter.setPen(QPen(theme.BROKEN if one.late and one.late > 0.5 else theme.INK, 2))
            painter.drawLine(QPointF(x, y), QPointF(x, y + row - 4))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for bar in self.bars:
            if bar.box.adjusted(-2, -2, 2, 2).contains(event.position()):
                self.picked.emit(bar.job)
                return

    def told_at(self, spot: QPointF) -> str:
        """What a bar says."""
        for bar in self.bars:
            if bar.box.contains(spot) and self.shown is not None:
                first, last = bar.tasks[0], bar.tasks[-1]
                when = tr(
                    "{start} to {end}",
                    start=(self.shown.told(first.start) or "")[:16],
                    end=(self.shown.told(last.end) or "")[11:16],
                )
                what = ", ".join(dict.fromkeys(one.task.what for one in bar.tasks))
                tool = f"{first.task.tool or 'by hand'} {first.task.setting}".rstrip()
                return f"{bar.job}: {what[:160]}\n{first.who}, {tool}\n{when.replace('T', ' ')}"
        return ""

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.setToolTip(plain_of(self.told_at(event.position())))
