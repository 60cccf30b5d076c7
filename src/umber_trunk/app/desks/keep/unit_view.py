"""A unit as a page to look at: its life as a line, its ends and its proof as dots within their bands, its lot beside
it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QToolTip

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.plot import banded, invite, waiting
from umber_trunk.app.widgets.readable import DrawnPane, Part
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.keep.portrait import FAR, Portrait, Row
from umber_trunk.core.keep.unit_record import state_said
from umber_trunk.core.moments import moment

LARGE = ("begun", "made", "proven", "ended", "mended")


@dataclass(frozen=True)
class Small:
    """Another unit of the lot, small: its name, state, how many of its readings are out, remakes; `lit` wires came from
    the coil that is looked at."""

    key: str
    name: str
    state: str
    places: tuple[tuple[float, bool], ...]
    remakes: int
    lit: int = 0


class UnitView(DrawnPane):
    """Draws one unit. Signals: wants_unit(key) for a small one, wants_coil(coil): its wires are lit; wants_end(end)."""

    wants_unit = Signal(str)
    wants_coil = Signal(str)
    wants_end = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.portrait: Portrait | None = None
        self.nothing = ""
        """Why there is no unit to show, once that is known."""
        self.lot: tuple[Small, ...] = ()
        self.here, self.coil = "", ""
        self.hits: list[tuple[QRectF, str, str, str]] = []
        """What is drawn where: (place, kind, key, words)."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(360, 240)
        self.setAccessibleName(tr("The unit"))

    def show_unit(self, portrait: Portrait | None, lot: tuple[Small, ...] = (), here: str = "", coil: str = "") -> None:
        """Another unit, with its lot; `coil`: whose wires are lit in all of them."""
        self.portrait, self.lot, self.here, self.coil = portrait, lot, here, coil
        if portrait is not None:
            many = sum(len(row.spots) for row in (*portrait.crimps, *portrait.tests))
            self.setAccessibleDescription(
                tr(
                    "{portrait}: {many} readings, {outside} out of their bands; ",
                    portrait=portrait.name,
                    many=many,
                    outside=portrait.outside,
                )
                + "; ".join(one.told for one in portrait.life)
            )
        self.update()

    def parts_told(self) -> list[Part]:
        return [(box, f"{kind} {key}".strip(), words) for box, kind, key, words in self.hits]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.hits = []
        if self.portrait is None:
            invite(painter, self, self.nothing) if self.nothing else waiting(painter, self)
        else:
            self._draw(painter, QRectF(self.rect()).adjusted(10, 6, -10, -6), self.portrait)
        painter.end()
        self.heard()

    def _draw(self, painter: QPainter, room: QRectF, one: Portrait) -> None:
        painter.setFont(theme.font(9))
        line = QFontMetricsF(painter.font()).height()
        life = QRectF(room.left(), room.top(), room.width(), 2.9 * line)
        self._life(painter, life, one)
        foot = line * (2.6 if len(self.lot) > 1 else 0.0) + (1.9 * line if one.coils else 0.0)
        body = QRectF(room.left(), life.bottom() + 4, room.width(), room.bottom() - life.bottom() - foot - 8)
        half = body.width() * (0.5 if one.tests else 1.0) - 6
        self._rows(
            painter,
            QRectF(body.left(), body.top(), half, body.height()),
            tr("Measured at its ends, between their limits"),
            one.crimps,
        )
        if one.tests:
            self._rows(
                painter,
                QRectF(body.right() - half, body.top(), half, body.height()),
                tr("Its proof, each in its band"),
                one.tests,
            )
        y = body.bottom() + 4
        if one.coils:
            self._coils(painter, QRectF(room.left(), y, room.width(), 1.6 * line), one)
            y += 1.9 * line
        if len(self.lot) > 1:
            self._lot(painter, QRectF(room.left(), y, room.width(), room.bottom() - y))

    def _life(self, painter: QPainter, room: QRectF, one: Portrait) -> None:
        """Begun, made, proven and what ended it as large dots with their words, all else as marks between; evenly
        apart, in the order of time."""
        metrics = QFontMetricsF(painter.font())
        large = [each for each in one.life if each.kind in LARGE]
        y = room.top() + metrics.height() + 4
        left, right = room.left() + 8, room.right() - 8
        painter.setPen(QPen(theme.INK_SOFT, 1.6))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        step = (right - left) / max(len(one.life), 1)
        wide = (right - left) / max(len(large), 1)
        for n, each in enumerate(one.life):
            x = left + (n + 0.5) * step if len(one.life) > len(large) else left + (n + 0.1) * step
            ink = {
                "proven": theme.GOOD,
                "made": theme.GOOD,
                "ended": theme.BROKEN,
                "fault": theme.BROKEN,
                "scrapped": theme.BROKEN,
            }.get(each.kind, theme.INK)
            big = each.kind in LARGE
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            painter.drawEllipse(QPointF(x, y), 5.5 if big else 3.0, 5.5 if big else 3.0)
            self.hits.append((QRectF(x - 7, y - 7, 14, 14), "life", "", f"{each.told}, {moment(each.at_ms)}"))
            if big:
                at = min(max(x - 6, room.left()), room.right() - min(wide, 320))
                painter.setPen(ink)
                said = metrics.elidedText(each.told, Qt.TextElideMode.ElideRight, wide - 10)
                painter.drawText(QPointF(at, y - 8), said)
                painter.setPen(theme.INK_SOFT)
                painter.drawText(QPointF(at, y + metrics.height() + 3), moment(each.at_ms))

    def _rows(self, painter: QPainter, room: QRectF, title: str, rows: tuple[Row, ...]) -> None:
        metrics = QFontMetricsF(painter.font())
        line = metrics.height()
        painter.setFont(theme.font(9.5, bold=True))
        painter.setPen(theme.HEADING)
        painter.drawText(
            QRectF(room.left(), room.top(), room.width(), line + 2), int(Qt.AlignmentFlag.AlignLeft), title
        )
        painter.setFont(theme.font(9))
        if not rows:
            painter.setPen(theme.INK_SOFT)
            painter.drawText(
                QRectF(room.left(), room.top() + line + 4, room.width(), line * 2),
                int(Qt.TextFlag.TextWordWrap),
                tr("nothing was measured at the bench yet"),
            )
            return
        free = room.height() - line - 6
        wanted = len(rows) * (line + 1)
        columns = 2 if wanted > free and room.width() > 480 else 1
        each = -(-len(rows) // columns)
        tall = min(max(free / each, line + 1), 2.2 * line)
        many = max(int(free // tall), 1)
        gutter = min(max(metrics.horizontalAdvance(row.name) for row in rows) + 10, 0.36 * room.width() / columns)
        wide = room.width() / columns
        for n, row in enumerate(rows[: many * columns]):
            place = QRectF(room.left() + n // many * wide, room.top() + line + 6 + n % many * tall, wide - 6, tall)
            if n == many * columns - 1 and len(rows) > many * columns:
                painter.setPen(theme.INK_SOFT)
                painter.drawText(
                    place, int(Qt.AlignmentFlag.AlignVCenter), tr("and {count} more, in words", count=len(rows) - n)
                )
            else:
                self._row(painter, place, gutter, row, metrics)

    def _row(self, painter: QPainter, room: QRectF, gutter: float, row: Row, metrics: QFontMetricsF) -> None:
        painter.setPen(theme.INK)
        painter.drawText(
            QRectF(room.left(), room.top(), gutter - 8, room.height()),
            int(Qt.AlignmentFlag.AlignVCenter),
            metrics.elidedText(row.name, Qt.TextElideMode.ElideRight, gutter - 8),
        )
        if row.end:
            self.hits.append((QRectF(room.left(), room.top(), gutter, room.height()), "end", row.end, row.name))
        bare = [tr("{good} as they should be", good=row.good)] * bool(row.good) + [
            tr("{bad} not ✕", bad=row.bad)
        ] * bool(row.bad)
        said = "  ".join([*([str(len(row.spots))] if row.spots else []), ", ".join([*bare, *row.marks])]).strip()
        aside = min(metrics.horizontalAdvance(said) + 8, (0.4 if row.spots else 0.8) * room.width())
        band = QRectF(room.left() + gutter, room.top() + 2, room.width() - gutter - aside - 6, room.height() - 4)
        if row.spots:
            drawn = banded(painter, band, [(spot.at, spot.ok) for spot in row.spots], FAR)
            for spot, point in zip(row.spots, drawn, strict=True):
                self.hits.append((QRectF(point.x() - 4, point.y() - 5, 8, 10), "spot", row.end, spot.told))
        painter.setPen(theme.BROKEN if row.bad else theme.TIGHT_TEXT if row.marks else theme.INK_SOFT)
        words = QRectF(room.right() - aside, room.top(), aside, room.height())
        painter.drawText(
            words, int(Qt.AlignmentFlag.AlignVCenter), metrics.elidedText(said, Qt.TextElideMode.ElideRight, aside)
        )
        if row.marks:
            self.hits.append((words, "mark", row.end, "; ".join(row.marks)))

    def _coils(self, painter: QPainter, room: QRectF, one: Portrait) -> None:
        """The coils its wires came from; the chosen one is lit across the lot."""
        metrics, x = QFontMetricsF(painter.font()), room.left()
        painter.setPen(theme.INK_SOFT)
        painter.drawText(QRectF(x, room.top(), 90, room.height()), int(Qt.AlignmentFlag.AlignVCenter), tr("from coils"))
        x += metrics.horizontalAdvance(tr("from coils")) + 10
        rows = sorted(one.coils, key=lambda row: row[0] != self.coil)  # the chosen one stands first
        for n, (coil, wires) in enumerate(rows):
            text = f"{coil}  {len(wires)}"
            box = QRectF(x, room.top() + 1, metrics.horizontalAdvance(text) + 14, room.height() - 2)
            if box.right() > room.right() - 40 and n < len(rows) - 1:
                painter.setPen(theme.INK_SOFT)
                painter.drawText(
                    QRectF(x, room.top(), room.right() - x, room.height()),
                    int(Qt.AlignmentFlag.AlignVCenter),
                    f"+ {len(rows) - n}  ↑ ↓",
                )
                break
            chosen = coil == self.coil
            painter.setPen(QPen(theme.HEADING if chosen else theme.GRIP, 2 if chosen else 1))
            painter.setBrush(theme.TIGHT_PALE if chosen else theme.PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(theme.INK)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)
            self.hits.append((box, "coil", coil, f"{coil}: {', '.join(wires)}"))
            x = box.right() + 6

    def _lot(self, painter: QPainter, room: QRectF) -> None:
        """The other units of its lot, small: state, readings in one band, remakes, what came from the coil looked
        at."""
        metrics = QFontMetricsF(painter.font())
        wide = min(room.width() / len(self.lot), 190.0)
        for n, one in enumerate(self.lot):
            box = QRectF(room.left() + n * wide, room.top(), wide - 6, room.height())
            if box.right() > room.right() + 1:
                break
            ink = _ink(one.state)
            painter.setPen(
                QPen(theme.HEADING if one.key == self.here else theme.GRIP, 2.2 if one.key == self.here else 1)
            )
            painter.setBrush(theme.TIGHT_PALE if one.lit else theme.PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.fillRect(QRectF(box.left() + 1, box.top() + 1, 4, box.height() - 2), ink)
            lit = tr(" · {lit} of {coil}", lit=one.lit, coil=self.coil) if one.lit else ""
            again = tr(" · {remakes} again", remakes=one.remakes) if one.remakes else ""
            painter.setPen(theme.INK)
            said = f"{one.name}{again}{lit}"
            painter.drawText(
                QRectF(box.left() + 10, box.top() + 1, box.width() - 14, metrics.height()),
                int(Qt.AlignmentFlag.AlignLeft),
                metrics.elidedText(said, Qt.TextElideMode.ElideRight, box.width() - 14),
            )
            banded(
                painter,
                QRectF(
                    box.left() + 10,
                    box.top() + metrics.height() + 2,
                    box.width() - 16,
                    box.height() - metrics.height() - 5,
                ),
                list(one.places),
                FAR,
                small=True,
            )
            self.hits.append((box, "unit", one.key, f"{one.name}: {state_said(one.state)}{again}{lit}"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        for box, kind, key, _ in reversed(self.hits):
            if box.contains(event.position()) and key:
                self._wanted(kind, key)
                return

    def _wanted(self, kind: str, key: str) -> None:
        {
            "unit": self.wants_unit,
            "coil": self.wants_coil,
            "end": self.wants_end,
            "spot": self.wants_end,
            "mark": self.wants_end,
        }[kind].emit(key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and len(self.lot) > 1:
            keys = [one.key for one in self.lot]
            at = keys.index(self.here) if self.here in keys else 0
            self.wants_unit.emit(keys[(at + (1 if key == Qt.Key.Key_Right else -1)) % len(keys)])
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.portrait is not None and self.portrait.coils:
            names = ["", *(coil for coil, _ in self.portrait.coils)]
            at = names.index(self.coil) if self.coil in names else 0
            self.wants_coil.emit(names[(at + (1 if key == Qt.Key.Key_Down else -1)) % len(names)])
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            told = next((words for box, _, _, words in reversed(self.hits) if box.contains(QPointF(event.pos()))), "")
            QToolTip.showText(event.globalPos(), plain_of(told), self)
            return True
        return super().event(event)


STATES: Mapping[str, str] = {"proven": "GOOD", "faulty": "BROKEN", "proven in simulation": "TIGHT"}


def _ink(state: str) -> QColor:
    found: QColor = getattr(theme, STATES.get(state, "GRIP"))
    return found
