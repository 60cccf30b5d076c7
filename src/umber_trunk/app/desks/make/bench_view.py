"""The step now, as large as the room allows: read at two metres, moved on by one key, a foot switch or a scanner."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from umber_trunk.app import theme
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.keyed import KeyedView
from umber_trunk.app.widgets.strip_view import StripView
from umber_trunk.core.ends.faces import Face
from umber_trunk.core.ends.strip import Strip

LEAST_POINT, MOST_POINT = 7.0, 60.0


@dataclass(frozen=True)
class Card:
    """Everything the bench shows of a step, as words and pictures."""

    verb: str
    text: str
    facts: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    wanted: str = ""
    said: str = ""
    wrong: bool = False
    done: int = 0
    whole: int = 0
    left: str = ""
    coming: tuple[str, ...] = ()
    before: tuple[str, ...] = ()
    strip: Strip | None = None
    face: Face | None = None
    cavity: str = ""
    length_m: float | None = None
    colour: str = ""
    stripe: str = ""


class BenchView(KeyedView):
    """Paints a step's card."""

    def __init__(self) -> None:
        super().__init__("The step now", "No build is open: begin one on the right, or go on with one.")
        self.points: dict[str, float] = {}
        """How large the letters of each part were painted."""
        self._strip, self._face = StripView(), FaceView()

    def show_card(self, card: Card | None) -> None:
        """Another step."""
        self.card = card
        if card is not None:
            self.setAccessibleDescription(f"{card.verb}. {card.text} {card.wanted}")
        self.update()

    def draw(self, painter: QPainter, card: Card) -> None:
        """The step, as large as the room allows."""
        self.points = {}
        whole = QRectF(self.rect())
        self._progress(painter, QRectF(whole.left(), whole.top(), whole.width(), 8), card)
        room = whole.adjusted(18, 16, -18, -8)
        foot = min(0.2 * room.height(), 96.0)
        pictured = card.strip is not None or card.face is not None or card.length_m is not None
        left = QRectF(room.left(), room.top(), room.width() * (0.62 if pictured else 1.0), room.height() - foot)
        y = self._verb(painter, left, card)
        y = self._text(painter, QRectF(left.left(), y, left.width() - 12, left.bottom() - y), card)
        if pictured:
            picture = QRectF(left.right() + 8, room.top(), room.right() - left.right() - 8, room.height() - foot)
            self._picture(painter, picture, card)
        self._foot(painter, QRectF(room.left(), room.bottom() - foot, room.width(), foot), card)

    def _progress(self, painter: QPainter, bar: QRectF, card: Card) -> None:
        painter.fillRect(bar, theme.PAPER_DIM)
        share = card.done / card.whole if card.whole else 0.0
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), theme.GOOD)

    def _verb(self, painter: QPainter, room: QRectF, card: Card) -> float:
        point = min(max(room.height() / 11, LEAST_POINT), 34.0)
        count = f"{min(card.done + 1, card.whole)} / {card.whole}"
        while True:
            face, small = theme.font(point, bold=True), theme.font(max(point * 0.55, 6.5))
            metrics, wide = QFontMetricsF(face), QFontMetricsF(small).horizontalAdvance(count) + 12
            if point <= LEAST_POINT or metrics.horizontalAdvance(card.verb) + wide <= room.width() - 12:
                break
            point -= 1.0
        painter.setFont(face)
        painter.setPen(theme.GOOD)
        painter.drawText(QRectF(room.left(), room.top(), room.width() - wide, metrics.height()), int(Qt.AlignmentFlag.AlignLeft), metrics.elidedText(card.verb, Qt.TextElideMode.ElideRight, room.width() - wide))  # fmt: skip
        painter.setFont(small)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(QRectF(room.right() - wide - 12, room.top(), wide, metrics.height()), int(Qt.AlignmentFlag.AlignRight) | int(Qt.AlignmentFlag.AlignVCenter), count)  # fmt: skip
        self.points["verb"] = point
        self.drawn["verb"] = QRectF(room.left(), room.top(), room.width(), metrics.height())
        return room.top() + metrics.height()

    def _text(self, painter: QPainter, room: QRectF, card: Card) -> float:
        """The sentence in the largest letters that fit, then facts, what is wanted, cautions."""
        lines = [(text, theme.INK_SOFT, False) for text in card.facts]
        if card.wanted:
            lines.append((card.wanted, theme.TIGHT_TEXT, True))
        if card.said:
            lines.append((card.said, theme.BROKEN if card.wrong else theme.GOOD, True))
        if self.typed:
            lines.append((f"▸ {self.typed}▏", theme.INK, True))
        lines += [(f"⚠ {text}", theme.BROKEN, False) for text in card.cautions]
        point = MOST_POINT
        while True:
            small = min(max(point * 0.55, 6.5), 20.0)
            face, lesser = theme.font(point, bold=True), theme.font(small)
            below = QFontMetricsF(lesser)
            rects = [below.boundingRect(QRectF(0, 0, room.width(), 9999), int(Qt.TextFlag.TextWordWrap), text).height() for text, _, _ in lines]  # fmt: skip
            box = QFontMetricsF(face).boundingRect(QRectF(0, 0, room.width(), 9999), int(Qt.TextFlag.TextWordWrap), card.text)  # fmt: skip
            if (box.height() + sum(rects) + 6 * (len(lines) + 1) <= room.height() and box.width() <= room.width()) or point <= LEAST_POINT:  # fmt: skip
                break
            point -= 1.5
        painter.setFont(face)
        painter.setPen(theme.INK)
        flags = int(Qt.TextFlag.TextWordWrap)
        painter.drawText(QRectF(room.left(), room.top(), room.width(), box.height() + 2), flags, card.text)
        self.points["text"], self.drawn["text"] = point, QRectF(room.left(), room.top(), box.width(), box.height())
        y = room.top() + box.height() + 6
        for (text, ink, bold), height in zip(lines, rects, strict=True):
            painter.setFont(theme.font(small, bold=bold))
            painter.setPen(ink)
            painter.drawText(QRectF(room.left(), y, room.width(), height + 2), flags, text)
            y += height + 6
        self.drawn["facts"] = QRectF(room.left(), room.top() + box.height() + 6, room.width(), y - room.top() - box.height() - 6)  # fmt: skip
        return y

    def _picture(self, painter: QPainter, room: QRectF, card: Card) -> None:
        self.drawn["picture"] = room
        if card.face is not None:
            self._face.current, self._face.wrong = card.cavity, {}
            self._face.most_scale, self._face.most_point = 40.0, 26.0
            self._face.draw(painter, room, card.face)
        elif card.strip is not None:
            self._strip.strip, self._strip.cable = card.strip, None
            line = QFontMetricsF(theme.font(9)).height() + 1
            self._strip.draw_scene(painter, room.adjusted(0, 0.1 * room.height(), 0, -0.1 * room.height()), card.strip, line)  # fmt: skip
        elif card.length_m is not None:
            self._rule(painter, room, card)

    def _rule(self, painter: QPainter, room: QRectF, card: Card) -> None:
        """The length to cut on a rule, the wire above it in its colours."""
        assert card.length_m is not None
        middle = room.center().y()
        start, stop = room.left() + 10, room.right() - 14
        base, mark = theme.wire_colour(card.colour), theme.wire_colour(card.stripe) if card.stripe else None
        painter.setPen(QPen(theme.INK_SOFT, 1))
        painter.setBrush(base)
        painter.drawRoundedRect(QRectF(start, middle - 34, stop - start, 18), 4, 4)
        if mark is not None:
            painter.fillRect(QRectF(start + 2, middle - 28, stop - start - 4, 5), mark)
        painter.setBrush(QColor(theme.TIGHT_PALE))
        painter.drawRect(QRectF(start, middle - 8, stop - start, 26))
        for step in range(21):
            x = start + (stop - start) * step / 20
            painter.drawLine(QPointF(x, middle - 8), QPointF(x, middle - 8 + (14 if step % 5 == 0 else 7)))
        face = theme.font(min(max(room.width() / 16, 16.0), 30.0), bold=True)
        painter.setFont(face)
        painter.setPen(theme.INK)
        painter.drawText(QRectF(room.left(), middle + 24, room.width(), QFontMetricsF(face).height() + 4), int(Qt.AlignmentFlag.AlignCenter), f"{1e3 * card.length_m:.0f} mm")  # fmt: skip

    def _foot(self, painter: QPainter, room: QRectF, card: Card) -> None:
        """What was just done, what comes next, what is left."""
        painter.setPen(QPen(theme.PAPER_DIM, 1))
        painter.drawLine(room.topLeft(), room.topRight())
        face = theme.font(min(max(room.height() / 6.5, 10.0), 13.0))
        metrics = QFontMetricsF(face)
        painter.setFont(face)
        columns = ((0.0, 0.28, "done", card.before), (0.3, 0.52, "next", card.coming))
        for at, wide, title, rows in columns:
            x, width = room.left() + at * room.width(), wide * room.width()
            self._rows(painter, QRectF(x, room.top() + 4, width, room.height() - 4), title, rows, metrics)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(QRectF(room.left() + 0.83 * room.width(), room.top() + 4, 0.17 * room.width(), room.height()), int(Qt.AlignmentFlag.AlignRight) | int(Qt.TextFlag.TextWordWrap), card.left)  # fmt: skip
        self.drawn["foot"] = room

    def _rows(self, painter: QPainter, room: QRectF, title: str, rows: Sequence[str], metrics: QFontMetricsF) -> None:
        y = room.top()
        for number, text in enumerate(rows):
            if y + metrics.height() > room.bottom() + 1:
                break
            lead = f"{title}: " if number == 0 else ""
            painter.setPen(theme.INK if title == "next" and number == 0 else theme.INK_SOFT)
            painter.drawText(QRectF(room.left(), y, room.width(), metrics.height()), int(Qt.AlignmentFlag.AlignLeft), metrics.elidedText(lead + text, Qt.TextElideMode.ElideRight, room.width()))  # fmt: skip
            y += metrics.height()
