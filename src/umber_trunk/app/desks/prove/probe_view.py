"""The reading to take now: both places lit on their faces, the reading large against its own band, and what speaks for which fault."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from umber_trunk.app import theme
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.keyed import KeyedView
from umber_trunk.core.ends.faces import Face
from umber_trunk.core.prove.testsheet import show

LEAST_POINT = 7.0


@dataclass(frozen=True)
class Place:
    """Where a lead goes: the end and cavity in words, its face if the catalogue has one, how it is found in a cabinet, how to hold the probe."""

    name: str
    cavity: str
    face: Face | None
    found: str = ""
    how: str = ""


@dataclass(frozen=True)
class ProbeCard:
    """Everything the desk shows of the task now."""

    verb: str
    text: str
    told: str = ""
    caution: str = ""
    unit: str = ""
    expect: float | None = None
    low: float | None = None
    high: float | None = None
    last: tuple[str, bool] | None = None
    value: float | None = None
    places: tuple[Place, ...] = ()
    done: int = 0
    whole: int = 0
    left: str = ""
    suspects: tuple[tuple[str, float, str], ...] = ()
    said: str = ""
    wrong: bool = False
    over: bool = False


class ProbeView(KeyedView):
    """Paints a task's card. Space accepts, or reads the meter; Backspace takes back."""

    def __init__(self) -> None:
        super().__init__("The reading to take now", "Nothing to prove yet: enter wires first.")
        self._face = FaceView()
        self._face.most_scale, self._face.most_point = 9.0, 9.5

    def show_card(self, card: ProbeCard | None) -> None:
        """Another task."""
        self.card = card
        if card is not None:
            self.setAccessibleDescription(f"{card.verb}. {card.text} {card.told}")
        self.update()

    def draw(self, painter: QPainter, card: ProbeCard) -> None:
        """Words and band on the left, both places on the right."""
        whole = QRectF(self.rect())
        painter.fillRect(QRectF(whole.left(), whole.top(), whole.width(), 6), theme.PAPER_DIM)
        if card.whole:
            painter.fillRect(QRectF(whole.left(), whole.top(), whole.width() * card.done / card.whole, 6), theme.GOOD)
        room = whole.adjusted(14, 12, -14, -6)
        line = QFontMetricsF(theme.font(9.5)).height()
        foot = QRectF(room.left(), room.bottom() - 1.3 * line, room.width(), 1.3 * line)
        self._foot(painter, foot, card)
        room.setBottom(foot.top() - 2)
        sized = bool(card.unit)
        faced = list(card.places)
        right = 0.42 * room.width() if faced else 0.0
        left = QRectF(room.left(), room.top(), room.width() - right - (10 if faced else 0), room.height())
        y = self._words(painter, left, card, line)
        if sized and not card.over:
            y = self._band(
                painter, QRectF(left.left(), y, left.width(), min(5.2 * line, left.bottom() - y)), card, line
            )
        if card.suspects:
            self._suspects(painter, QRectF(left.left(), y + 4, left.width(), left.bottom() - y - 4), card, line)
        if faced:
            self._places(painter, QRectF(left.right() + 10, room.top(), right, room.height()), card, line)

    def _words(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> float:
        wrap = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap)
        y = room.top()
        rows = [
            ("verb", card.verb, 15.0, True, theme.BROKEN if card.wrong and card.over else theme.HEADING),
            ("text", card.text, 12.5, False, theme.INK),
            ("told", card.told, 9.5, False, theme.INK_SOFT),
        ]
        if card.caution:
            rows.append(("caution", "⚠ " + card.caution, 9.5, True, theme.BROKEN))
        if card.said:
            rows.append(("said", card.said, 9.5, True, theme.BROKEN if card.wrong else theme.GOOD))
        for name, text, points, bold, ink in rows:
            if not text:
                continue
            face = theme.font(points, bold)
            needed = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width(), 1e4), wrap, text)
            while needed.height() > room.bottom() - y and points > LEAST_POINT:
                points -= 0.5
                face = theme.font(points, bold)
                needed = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width(), 1e4), wrap, text)
            box = QRectF(room.left(), y, room.width(), needed.height() + 2)
            painter.setFont(face)
            painter.setPen(ink)
            painter.drawText(box, wrap, text)
            self.drawn[name] = box
            y = box.bottom() + 0.25 * line
        return y

    def _band(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> float:
        """The reading large, and under it the band with the expected figure; the scale goes a little beyond what is allowed."""
        shown = self.typed or (card.last[0] if card.last is not None else "–")
        big = theme.font(20, bold=True)
        tall = QFontMetricsF(big).height()
        painter.setFont(big)
        bad = card.last is not None and not card.last[1] and not self.typed
        painter.setPen(theme.BROKEN if bad else theme.INK if self.typed else theme.INK_SOFT)
        value = QRectF(room.left(), room.top(), room.width(), tall)
        note = "" if self.typed else "  before this: " if card.last is not None else ""
        small = theme.font(9.5)
        lead = QFontMetricsF(small).horizontalAdvance(note)
        if note:
            painter.setFont(small)
            painter.setPen(theme.INK_SOFT)
            painter.drawText(QRectF(value.left(), value.top(), lead, tall), Qt.AlignmentFlag.AlignVCenter, note)
            painter.setFont(big)
            painter.setPen(theme.BROKEN if bad else theme.INK_SOFT)
        painter.drawText(
            QRectF(value.left() + lead, value.top(), value.width() - lead, tall),
            Qt.AlignmentFlag.AlignVCenter,
            shown + (" ✕" if bad else " ✓" if card.last is not None and not self.typed else ""),
        )
        self.drawn["value"] = value
        y = value.bottom() + 4
        bar = QRectF(room.left() + 4, y, room.width() - 8, 0.8 * line)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRoundedRect(bar, 3, 3)
        painter.setFont(theme.font(9))
        words = QRectF(bar.left(), bar.bottom() + 2, bar.width(), line)
        if card.low is not None and card.high is not None and card.high > card.low:
            span = card.high - card.low
            start, end = max(card.low - 0.6 * span, 0.0), card.high + 0.6 * span

            def at(ohm: float) -> float:
                return bar.left() + bar.width() * (min(max(ohm, start), end) - start) / (end - start)

            painter.setBrush(theme.GOOD)
            painter.drawRoundedRect(QRectF(at(card.low), bar.top(), at(card.high) - at(card.low), bar.height()), 3, 3)
            if card.expect is not None:
                painter.setPen(QPen(theme.PAPER_BRIGHT, 2))
                painter.drawLine(QPointF(at(card.expect), bar.top()), QPointF(at(card.expect), bar.bottom()))
            painter.setPen(theme.INK)
            painter.drawText(
                words,
                Qt.AlignmentFlag.AlignLeft,
                f"{show(card.low, card.unit)} to {show(card.high, card.unit)}, expected {show(card.expect or 0.0, card.unit)}",
            )
        else:
            edge = card.low if card.low is not None else card.high
            painter.setBrush(theme.GOOD)
            good = (
                QRectF(bar.center().x(), bar.top(), bar.width() / 2, bar.height())
                if card.low is not None
                else QRectF(bar.left(), bar.top(), bar.width() / 2, bar.height())
            )
            painter.drawRoundedRect(good, 3, 3)
            painter.setPen(theme.INK)
            said = (
                "nothing leads: at least "
                if card.expect is None and card.low is not None
                else "at least "
                if card.low is not None
                else "at most "
            )
            painter.drawText(
                words,
                Qt.AlignmentFlag.AlignLeft,
                said + show(edge or 0.0, card.unit) if edge is not None else "a reading",
            )
        self.drawn["band"] = bar.united(words)
        return words.bottom() + 2

    def _suspects(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> None:
        wrap = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap)
        y = room.top()
        for words, share, more in card.suspects:
            text = words + (f"\n{more}" if more else "")
            face = theme.font(9.5)
            needed = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width() - 58, 1e4), wrap, text).height()
            if y + max(needed, 1.8 * line) > room.bottom():
                break
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.BROKEN if share >= 0.5 else theme.TIGHT)
            painter.drawRoundedRect(QRectF(room.left(), y + 2, max(46 * share, 2), 0.7 * line), 2, 2)
            painter.setFont(theme.font(9, bold=True))
            painter.setPen(theme.INK)
            painter.drawText(
                QRectF(room.left(), y + 0.8 * line, 50, line), Qt.AlignmentFlag.AlignLeft, f"{100 * share:.0f} %"
            )
            painter.setFont(face)
            box = QRectF(room.left() + 56, y, room.width() - 58, max(needed, 1.8 * line))
            painter.drawText(box, wrap, text)
            self.drawn[f"suspect {words}"] = box
            y = box.bottom() + 4

    def _places(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> None:
        """Both places, one under the other, the cavity lit, the side in words."""
        shown = card.places[:2]
        tall = room.height() / len(shown)
        for number, place in enumerate(shown):
            box = QRectF(room.left(), room.top() + number * tall, room.width(), tall - 6)
            painter.setPen(QPen(theme.GRIP, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 4, 4)
            painter.setFont(theme.font(9.5, bold=True))
            painter.setPen(theme.HEADING)
            title = f"{'red' if number == 0 else 'black'} lead: {place.name} {place.cavity}"
            head = QRectF(box.left() + 6, box.top() + 2, box.width() - 12, line + 2)
            painter.drawText(
                head,
                Qt.AlignmentFlag.AlignVCenter,
                QFontMetricsF(painter.font()).elidedText(title, Qt.TextElideMode.ElideMiddle, head.width()),
            )
            inner = QRectF(box.left() + 6, head.bottom(), box.width() - 12, box.bottom() - head.bottom() - 4)
            wide = min(0.5 * inner.width(), 1.5 * inner.height())
            left, right = QRectF(inner.topLeft(), QSizeF(wide, inner.height())), inner.adjusted(wide + 10, 0, 0, 0)
            self.drawn[f"place {number}"] = box
            painter.save()
            painter.setClipRect(inner)
            if place.face is not None:
                self._face.face, self._face.current, self._face.wrong, self._face.stacks = (
                    place.face,
                    place.cavity,
                    {},
                    {},
                )
                self._face.draw_alone(painter, left.adjusted(4, 2, -4, -4), place.face)
            else:
                painter.setFont(theme.font(16, bold=True))
                painter.setPen(theme.INK)
                words = f"{place.name} {place.cavity}".strip()
                painter.drawText(left, int(Qt.AlignmentFlag.AlignCenter) | int(Qt.TextFlag.TextWordWrap), words)
            self._how(painter, right, place)
            painter.restore()

    def _how(self, painter: QPainter, room: QRectF, place: Place) -> None:
        """From which side, how the probe is held, and where it is found: what can do harm first."""
        side = f"{place.face.words} · {place.face.form}, {place.face.contacts}s" if place.face is not None else ""
        y, wrap = room.top(), int(Qt.TextFlag.TextWordWrap)
        for words, bold in ((side, True), (place.how, False), (place.found, False)):
            if not words:
                continue
            painter.setFont(theme.font(8.5, bold=bold))
            painter.setPen(theme.HEADING if bold else theme.INK_SOFT)
            line = QRectF(room.left(), y, room.width(), room.bottom() - y)
            painter.drawText(line, wrap, words)
            y += painter.boundingRect(line, wrap, words).height() + 2

    def _foot(self, painter: QPainter, room: QRectF, card: ProbeCard) -> None:
        painter.setFont(theme.font(9))
        painter.setPen(theme.INK_SOFT)
        painter.drawText(
            room,
            Qt.AlignmentFlag.AlignVCenter,
            f"{card.done} of {card.whole} done" + (f" · {card.left}" if card.left else ""),
        )
        if self.typed:
            painter.setPen(theme.INK)
            painter.drawText(
                room, int(Qt.AlignmentFlag.AlignVCenter) | int(Qt.AlignmentFlag.AlignRight), f"{self.typed}▏"
            )


def shown_value(value: float | None, unit: str) -> str:
    """A reading as it is shown large."""
    return "" if value is None else "nothing" if math.isinf(value) else show(value, unit)
