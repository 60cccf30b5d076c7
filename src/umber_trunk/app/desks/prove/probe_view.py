"""The reading to take now: both places lit on their faces, the reading large against its own band, and what speaks for
which fault."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from umber_trunk.app import theme
from umber_trunk.app.desks.prove.joint_paint import draw_end, draw_joint
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.keyed import KeyedView
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.ends.faces import Face
from umber_trunk.core.prove.testsheet import show

LEAST_POINT = 7.0
WRAP = int(Qt.TextFlag.TextWordWrap)


@dataclass(frozen=True)
class Place:
    """Where a lead goes: the end and cavity in words, its face if the catalogue has one, how it is found in a cabinet,
    how to hold the probe."""

    name: str
    cavity: str
    face: Face | None
    found: str = ""
    how: str = ""
    kind: str = ""
    """What the end is where it has no face: stud, bar, bare …; `beside` are all its places, in their order."""
    beside: tuple[str, ...] = ()
    spot: str = ""
    """Where on the joint under its nut a tip goes, see `joint_paint.SPOTS`."""


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
        super().__init__(tr("The reading to take now"), tr("Nothing to prove yet: enter wires first."))
        self.whole_words = True
        """Whether all words about how the probes are held had room; where they are found comes after them."""
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

    def _value(self, painter: QPainter, room: QRectF, card: ProbeCard) -> float:
        """What is being typed, large, or the reading before; where it ends."""
        before = card.last if not self.typed else None
        note, mark = (tr("  before this: "), " ✓" if before[1] else " ✕") if before is not None else ("", "")
        small, big = theme.font(9.5), theme.font(20, bold=True)
        lead, tall = QFontMetricsF(small).horizontalAdvance(note), QFontMetricsF(big).height()
        value = self.drawn["value"] = QRectF(room.left(), room.top(), room.width(), tall)
        painter.setFont(small)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(value, Qt.AlignmentFlag.AlignVCenter, note)
        painter.setFont(big)
        painter.setPen(
            theme.INK if self.typed else theme.BROKEN if before is not None and not before[1] else theme.INK_SOFT
        )
        shown = self.typed or (before[0] if before is not None else "–")
        painter.drawText(value.adjusted(lead, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, shown + mark)
        return value.bottom()

    def _band(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> float:
        """The reading large, and under it the band with the expected figure; the scale goes a little beyond what is
        allowed."""
        bar = QRectF(room.left() + 4, self._value(painter, room, card) + 4, room.width() - 8, 0.8 * line)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRoundedRect(bar, 3, 3)
        painter.setBrush(theme.GOOD)
        if card.low is not None and card.high is not None and card.high > card.low:
            span = card.high - card.low
            start, end = max(card.low - 0.6 * span, 0.0), card.high + 0.6 * span

            def at(ohm: float) -> float:
                return bar.left() + bar.width() * (min(max(ohm, start), end) - start) / (end - start)

            painter.drawRoundedRect(QRectF(at(card.low), bar.top(), at(card.high) - at(card.low), bar.height()), 3, 3)
            if card.expect is not None:
                painter.setPen(QPen(theme.PAPER_BRIGHT, 2))
                painter.drawLine(QPointF(at(card.expect), bar.top()), QPointF(at(card.expect), bar.bottom()))
        else:
            left = bar.center().x() if card.low is not None else bar.left()
            painter.drawRoundedRect(QRectF(left, bar.top(), bar.width() / 2, bar.height()), 3, 3)
        painter.setFont(theme.font(9))
        painter.setPen(theme.INK)
        words = QRectF(bar.left(), bar.bottom() + 2, bar.width(), 4 * line)
        words.setHeight(
            max(painter.boundingRect(words, WRAP, _band_words(card)).height(), line)
        )  # never cut: a unit may be last
        painter.drawText(words, WRAP, _band_words(card))
        self.drawn["band"] = bar.united(words)
        return words.bottom() + 2

    def _suspects(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> None:
        wrap = int(Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap)
        y = room.top()
        for number, (words, share, more) in enumerate(card.suspects):
            text = words + (f"\n{more}" if more else "")
            face = theme.font(9.5)
            needed = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width() - 58, 1e4), wrap, text).height()
            if y + max(needed, 1.8 * line) > room.bottom():
                painter.setFont(theme.font(9))
                painter.setPen(theme.INK_SOFT)
                left = len(card.suspects) - number
                words = tr("… and {left} more, up to {share:.0f} %", left=left, share=100 * share)
                painter.drawText(QRectF(room.left(), min(y, room.bottom() - line), room.width(), line), words)
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
            self.drawn[tr("suspect {words}", words=words)] = box
            y = box.bottom() + 4

    def _places(self, painter: QPainter, room: QRectF, card: ProbeCard, line: float) -> None:
        """Both places, one under the other, the cavity lit, the side in words."""
        shown, self.whole_words = card.places[:2], True
        tall = room.height() / len(shown)
        for number, place in enumerate(shown):
            box = QRectF(room.left(), room.top() + number * tall, room.width(), tall - 6)
            painter.setPen(QPen(theme.GRIP, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 4, 4)
            painter.setFont(theme.font(9.5, bold=True))
            painter.setPen(theme.HEADING)
            lead = tr("red lead") if number == 0 else tr("black lead")
            title = f"{lead}: {place.name} {place.cavity}"
            head = QRectF(box.left() + 6, box.top() + 2, box.width() - 12, line + 2)
            painter.drawText(
                head,
                Qt.AlignmentFlag.AlignVCenter,
                QFontMetricsF(painter.font()).elidedText(title, Qt.TextElideMode.ElideMiddle, head.width()),
            )
            inner = QRectF(box.left() + 6, head.bottom(), box.width() - 12, box.bottom() - head.bottom() - 4)
            told = _how(place)
            most = min(
                0.5 * inner.width(), 1.5 * inner.height()
            )  # the face gives way to how the probe is held, which can do harm
            wide = next(
                (w for w in (most, 0.7 * most, 0.45 * most) if _tall(told, inner.width() - w - 10) <= inner.height()),
                0.0,
            )
            left = QRectF(inner.topLeft(), QSizeF(wide, inner.height()))
            right = inner.adjusted(wide + 10 if wide else 0, 0, 0, 0)
            harm = [one for one in told if one[0] != place.found]
            self.whole_words &= _tall(harm, right.width()) <= right.height()
            self.drawn[f"place {number}"] = box
            painter.save()
            painter.setClipRect(inner)
            if wide and place.spot:
                draw_joint(painter, left, place.spot)
            elif wide and place.face is not None:
                self._face.face, self._face.current = place.face, place.cavity
                self._face.wrong, self._face.stacks = {}, {}
                self._face.draw_alone(painter, left.adjusted(4, 2, -4, -4), place.face)
            elif wide:
                draw_end(painter, left, place.kind, place.cavity, place.beside)
            y = right.top()
            for text, bold in told:
                painter.setFont(theme.font(8.5, bold=bold))
                painter.setPen(theme.HEADING if bold else theme.INK_SOFT)
                painter.drawText(QRectF(right.left(), y, right.width(), right.height()), WRAP, text)
                y += _tall([(text, bold)], right.width())
            painter.restore()

    def _foot(self, painter: QPainter, room: QRectF, card: ProbeCard) -> None:
        painter.setFont(theme.font(9))
        painter.setPen(theme.INK_SOFT)
        painter.drawText(
            room,
            Qt.AlignmentFlag.AlignVCenter,
            tr("{done} of {whole} done").format(done=card.done, whole=card.whole)
            + (f" · {card.left}" if card.left else ""),
        )
        if self.typed:
            painter.setPen(theme.INK)
            painter.drawText(
                room, int(Qt.AlignmentFlag.AlignVCenter) | int(Qt.AlignmentFlag.AlignRight), f"{self.typed}▏"
            )


def _band_words(card: ProbeCard) -> str:
    """The band in words; a figure and its unit stay together."""

    def told(value: float) -> str:
        return show(value, card.unit).replace(" ", "\u00a0")

    if card.low is not None and card.high is not None and card.high > card.low:
        return tr(
            "{low} to {high}, expected {expect}",
            low=told(card.low),
            high=told(card.high),
            expect=told(card.expect or 0.0),
        )
    if card.low is not None:
        return tr("{open?nothing leads: }at least {low}", open=card.expect is None, low=told(card.low))
    return tr("at most {high}", high=told(card.high)) if card.high is not None else "a reading"


def _how(place: Place) -> list[tuple[str, bool]]:
    """(words, bold): from which side, how the probe is held, and where it is found; what can do harm first."""
    side = f"{place.face.words} · {place.face.kind_told}" if place.face is not None else ""
    return [one for one in ((side, True), (place.how, False), (place.found, False)) if one[0]]


def _tall(told: list[tuple[str, bool]], wide: float) -> float:
    """Height of words, wrapped to a width, one under another."""
    room = QRectF(0, 0, wide, 1e4)
    return sum(
        QFontMetricsF(theme.font(8.5, bold=bold)).boundingRect(room, WRAP, text).height() + 2 for text, bold in told
    )


def shown_value(value: float | None, unit: str) -> str:
    """A reading as it is shown large."""
    return "" if value is None else tr("nothing") if math.isinf(value) else show(value, unit)
