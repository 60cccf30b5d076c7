"""The order as lanes: time to the right, a lane for each pair of hands and each tool, both schools on one scale."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.plot import bar, hatched, invite, scale_below
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.make.lanes import Bar, Lanes

LEAST_LANE, MOST_LANE = 8.0, 30.0


@dataclass(frozen=True)
class Shown:
    """One school's order: what it is, in words, and its lanes."""

    words: str
    lanes: Lanes


class LanesView(DrawnPane):
    """Draws one order or two. A click or the arrow keys choose a bar: `chosen(steps of the first order)`."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.shown: tuple[Shown, ...] = ()
        self.current: Bar | None = None
        self.drawn: list[tuple[QRectF, int, Bar]] = []
        """Where each bar was painted, and of which order."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(170)
        self.setAccessibleName(tr("The order in time"))

    def show_orders(self, shown: tuple[Shown, ...]) -> None:
        """Another order, the other school's below it."""
        self.shown, self.current = shown, None
        self.setAccessibleDescription("; ".join(one.words for one in shown))
        self.update()

    def parts_told(self) -> list[Part]:
        return [
            (box, f"{one.lane}: {one.text}", _told(one) + (tr(", decides how long it takes") if one.critical else ""))
            for box, _, one in self.drawn
        ]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.drawn = []
        if not self.shown or not any(one.lanes.bars for one in self.shown):
            invite(
                painter,
                self,
                tr("The order is being planned …") if not self.shown else tr("Nothing is to be made yet."),
            )
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(10, 6, -12, -6))
        painter.end()
        self.heard()

    def _draw(self, painter: QPainter, room: QRectF) -> None:
        head, small = theme.font(9.5, bold=True), theme.font(8.5)
        line, fine = QFontMetricsF(head).height(), QFontMetricsF(small)
        names = [one.lanes.names if n == 0 else one.lanes.names[: one.lanes.hands] for n, one in enumerate(self.shown)]
        many = sum(map(len, names))
        free = room.height() - len(self.shown) * (line + 4) - 2 * fine.height() - 6
        tall = min(max(free / many, LEAST_LANE), MOST_LANE)
        gutter = min(max(fine.horizontalAdvance(name) for row in names for name in row) + 10, 0.2 * room.width())
        span = max(one.lanes.span_s for one in self.shown)
        y = room.top()
        plot = QRectF(room.left() + gutter, y, room.width() - gutter, room.height() - 2 * fine.height() - 4)
        painter.setFont(small)
        ends = min(plot.bottom(), y + len(self.shown) * (line + 4) + many * tall)
        plot.setBottom(ends)
        in_hours = span > 3 * 3600
        scale_below(
            painter,
            plot,
            0.0,
            span / (3600 if in_hours else 60),
            lambda value: f"{value:g} {'h' if in_hours else 'min'}",
        )
        for number, one in enumerate(self.shown):
            painter.setFont(head)
            painter.fillRect(QRectF(room.left(), y, room.width(), line + 1), theme.PAPER_BRIGHT)
            painter.setPen(theme.HEADING if number == 0 else theme.INK_SOFT)
            painter.drawText(
                QRectF(room.left(), y, room.width(), line),
                int(Qt.AlignmentFlag.AlignLeft),
                QFontMetricsF(head).elidedText(one.words, Qt.TextElideMode.ElideRight, room.width()),
            )
            y += line + 2
            painter.setFont(small)
            for name in names[number]:
                painter.setPen(theme.INK_SOFT)
                painter.drawText(
                    QRectF(room.left(), y, gutter - 6, tall),
                    int(Qt.AlignmentFlag.AlignVCenter),
                    fine.elidedText(name, Qt.TextElideMode.ElideRight, gutter - 6),
                )
                for one_bar in one.lanes.of(name):
                    self._bar(painter, plot, y, tall, span, number, one_bar, fine)
                y += tall
            y += 2
        self._legend(painter, QRectF(room.left(), plot.bottom() + fine.height() + 4, room.width(), fine.height()), fine)

    def _bar(
        self,
        painter: QPainter,
        plot: QRectF,
        y: float,
        tall: float,
        span: float,
        order: int,
        one: Bar,
        fine: QFontMetricsF,
    ) -> None:
        left = plot.left() + one.start_s / span * plot.width()
        wide = max((one.end_s - one.start_s) / span * plot.width(), 1.0)
        box = QRectF(left, y + 1, wide, tall - 2)
        self.drawn.append((box, order, one))
        chosen = order == 0 and self.current is not None and set(one.steps) & set(self.current.steps)
        ink = theme.HEADING if chosen else theme.TIGHT if one.critical else theme.GRIP
        paper = hatched(theme.INK_SOFT) if one.set_up else theme.TIGHT_PALE if one.critical else theme.GOOD_PALE
        bar(painter, box, paper, ink, heavy=bool(chosen))
        if not one.set_up and wide > fine.horizontalAdvance(one.op) + 6:
            painter.setPen(theme.INK)
            painter.drawText(
                box.adjusted(3, 0, -2, 0),
                int(Qt.AlignmentFlag.AlignVCenter),
                fine.elidedText(one.text, Qt.TextElideMode.ElideRight, wide - 5),
            )

    def _legend(self, painter: QPainter, room: QRectF, fine: QFontMetricsF) -> None:
        """What the colours say, and the bar that was chosen in words."""
        x = room.left()
        one_hand = self.shown[0].lanes.hands == 1
        lit = (
            tr("the longest row of steps that wait for each other")
            if one_hand
            else tr("what decides how long it takes")
        )
        for paper, ink, words in (
            (theme.TIGHT_PALE, theme.TIGHT, lit),
            (theme.GOOD_PALE, theme.GRIP, tr("other work")),
            (hatched(theme.INK_SOFT), theme.GRIP, tr("a tool is set up")),
        ):
            bar(painter, QRectF(x, room.top() + 2, 14, room.height() - 4), paper, ink)
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QPointF(x + 19, room.bottom() - fine.descent()), words)
            x += fine.horizontalAdvance(words) + 38
        if self.current is not None:
            painter.setPen(theme.HEADING)
            said = f"{self.current.lane}: {_told(self.current)}"
            painter.drawText(
                QRectF(x, room.top(), room.right() - x, room.height()),
                int(Qt.AlignmentFlag.AlignRight),
                fine.elidedText(said, Qt.TextElideMode.ElideRight, max(room.right() - x, 0.0)),
            )

    def choose(self, one: Bar | None) -> None:
        """Another bar, or none."""
        self.current = one
        if one is not None:
            self.setAccessibleDescription(f"{one.lane}: {_told(one)}")
            self.chosen.emit(one.steps)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        hit = next(
            (
                one
                for box, order, one in self.drawn
                if order == 0 and box.adjusted(-1, 0, 1, 0).contains(event.position())
            ),
            None,
        )
        if hit is not None:
            self.choose(hit)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        rows = [one for _, order, one in self.drawn if order == 0]
        key = event.key()
        if not rows or key not in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down):
            super().keyPressEvent(event)
            return
        if self.current is None:
            self.choose(rows[0])
            return
        here = self.current
        mine = [one for one in rows if one.lane == here.lane]
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            at = mine.index(here) + (1 if key == Qt.Key.Key_Right else -1)
            self.choose(mine[min(max(at, 0), len(mine) - 1)])
            return
        names = self.shown[0].lanes.names
        lane = names[min(max(names.index(here.lane) + (1 if key == Qt.Key.Key_Down else -1), 0), len(names) - 1)]
        near = min(
            (one for one in rows if one.lane == lane), key=lambda one: abs(one.start_s - here.start_s), default=None
        )
        self.choose(near or here)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            hit = next((one for box, _, one in self.drawn if box.contains(QPointF(event.pos()))), None)
            QToolTip.showText(event.globalPos(), plain_of(_told(hit)) if hit is not None else "", self)
            return True
        return super().event(event)


def _told(one: Bar) -> str:
    many = tr(", {count} steps", count=len(one.steps)) if len(one.steps) > 1 else ""
    return tr(
        "{one}{many}, {start_s:.0f} to {end_s:.0f} min",
        one=one.text,
        many=many,
        start_s=one.start_s / 60,
        end_s=one.end_s / 60,
    )
