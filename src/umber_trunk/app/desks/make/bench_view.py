"""The step now, as large as the room allows: read at two metres, moved on by one key, a foot switch or a scanner."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from umber_trunk.app import theme
from umber_trunk.app.desks.make.bench_card import Card, Chip, SetUp
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.keyed import KeyedView
from umber_trunk.app.widgets.plot import dots
from umber_trunk.app.widgets.readable import Part
from umber_trunk.app.widgets.strip_view import StripView
from umber_trunk.app.widgets.words import tr

LEAST_POINT, MOST_POINT = 7.0, 60.0
LETTERS = 20.0
"""The window's height over that of a capital on the line to act on, at least."""
READ_POINT = 9.5
"""Letters that are still read standing at the bench."""
HEAD_SHARE = 0.46
"""Share of the card that this line may take; `MOST_SHARE` where its letters would else be too small."""
MOST_SHARE = 0.62


class BenchView(KeyedView):
    """Paints a step's card."""

    def __init__(self) -> None:
        super().__init__(tr("The step now"), tr("No build is open: begin one on the right, or go on with one."))
        self.points: dict[str, float] = {}
        """How large the letters of each part were painted."""
        self.chip_boxes: list[QRectF] = []
        self._strip, self._face = StripView(), FaceView()

    def show_card(self, card: Card | None) -> None:
        """Another step."""
        self.card = card
        if card is not None:
            filled = (
                tr(
                    " {done} of {whole} done.",
                    done=sum(chip.state == "done" for chip in card.chips),
                    whole=len(card.chips),
                )
                if len(card.chips) > 1
                else ""
            )
            self.setAccessibleDescription(
                f"{card.verb}. {card.headline}{filled} {card.text} {card.wanted} {card.attests}"
            )
        self.update()

    def parts_told(self) -> list[Part]:
        card: Card | None = self.card
        chips = card.chips if card is not None and len(card.chips) > 1 else ()
        return [
            *super().parts_told(),
            *((box, chip.name, chip.state) for chip, box in zip(chips, self.chip_boxes, strict=False)),
        ]

    def draw(self, painter: QPainter, card: Card) -> None:
        """The handful in letters to be read from afar, its pieces in a row, what is known of the one in hand beside its
        picture."""
        self.points = {}
        whole = QRectF(self.rect())
        self._progress(painter, QRectF(whole.left(), whole.top(), whole.width(), 8), card)
        room = whole.adjusted(18, 12, -18, -8)
        foot = min(0.14 * room.height(), 84.0)
        y = self._verb(painter, room, card)
        pictured = (
            card.strip is not None or card.face is not None or card.length_m is not None or card.set_up is not None
        )
        y = self._headline(painter, QRectF(room.left(), y, room.width(), room.bottom() - foot - y), card)
        if len(card.chips) > 1:
            y = self._chips(painter, QRectF(room.left(), y + 4, room.width(), room.bottom() - foot - y), card) + 6
        lower = QRectF(room.left(), y, room.width(), max(room.bottom() - foot - y, 0.0))
        wide = lower.width() * (0.56 if pictured else 1.0)
        self._facts(painter, QRectF(lower.left(), lower.top(), wide - 12, lower.height()), card)
        if pictured:
            self._picture(painter, QRectF(lower.left() + wide, lower.top(), lower.width() - wide, lower.height()), card)
        self._foot(painter, QRectF(room.left(), room.bottom() - foot, room.width(), foot), card)

    def _progress(self, painter: QPainter, bar: QRectF, card: Card) -> None:
        painter.fillRect(bar, theme.PAPER_DIM)
        share = card.done / card.whole if card.whole else 0.0
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), theme.GOOD)

    def _verb(self, painter: QPainter, room: QRectF, card: Card) -> float:
        """The kind of work and how far the whole build is, in one line."""
        count = f"{min(card.done + 1, card.whole)} / {card.whole}"
        face = theme.font(min(max(room.height() / 42, 9.0), 16.0), bold=True)
        metrics = QFontMetricsF(face)
        wide = metrics.horizontalAdvance(count) + 12
        painter.setFont(face)
        painter.setPen(theme.GOOD)
        line = QRectF(room.left(), room.top(), room.width(), metrics.height())
        painter.drawText(
            line.adjusted(0, 0, -wide, 0),
            int(Qt.AlignmentFlag.AlignLeft),
            metrics.elidedText(card.verb, Qt.TextElideMode.ElideRight, room.width() - wide),
        )
        painter.setPen(theme.INK_SOFT)
        painter.drawText(line, int(Qt.AlignmentFlag.AlignRight), count)
        self.points["verb"], self.drawn["verb"] = face.pointSizeF(), line
        return line.bottom()

    def _headline(self, painter: QPainter, room: QRectF, card: Card) -> float:
        """The line to act on: as large as it goes in two lines, its capitals a twentieth of the window's height where
        it can be."""
        said, flags = card.headline or card.text, int(Qt.TextFlag.TextWordWrap)
        point, least = MOST_POINT, self.window().height() / LETTERS
        while True:
            face = theme.font(point, bold=True)
            metrics = QFontMetricsF(face)
            box = metrics.boundingRect(QRectF(0, 0, room.width(), 9999), flags, said)
            lines = 2 if metrics.capHeight() > least else 3
            modest = metrics.capHeight() <= 1.15 * least or self.height() > 0.7 * self.window().height()
            share = HEAD_SHARE if metrics.capHeight() > least else MOST_SHARE
            fits = (
                modest
                and box.width() <= room.width()
                and box.height() <= min(lines * 1.02 * metrics.lineSpacing(), share * room.height())
            )
            if fits or point <= LEAST_POINT:
                break
            point -= 1.5
        painter.setFont(face)
        painter.setPen(theme.INK)
        painter.drawText(QRectF(room.left(), room.top(), room.width(), box.height() + 2), flags, said)
        self.points["text"] = point
        self.drawn["text"] = QRectF(room.left(), room.top(), box.width(), box.height())
        return room.top() + box.height()

    def _chips(self, painter: QPainter, room: QRectF, card: Card) -> float:
        """The pieces in a row that fills up; two rows where one is too narrow for their names."""
        many = len(card.chips)
        face = theme.font(min(max(room.height() / 30, 8.0), 12.0), bold=True)
        metrics = QFontMetricsF(face)
        widest = max(metrics.horizontalAdvance(chip.name) for chip in card.chips) + 12
        a_row = max(min(many, int(room.width() // (min(widest, 150.0) + 4))), 1)
        rows = -(-many // a_row)
        a_row = -(-many // rows)
        wide, tall = min(room.width() / a_row, 170.0), metrics.height() + 12
        painter.setFont(face)
        self.chip_boxes = []
        first = next((n for n, chip in enumerate(card.chips) if chip.state != "done"), -1)
        for n, chip in enumerate(card.chips):
            box = QRectF(room.left() + (n % a_row) * wide, room.top() + (n // a_row) * (tall + 4), wide - 4, tall)
            self.chip_boxes.append(box)
            self._chip(painter, box, chip, metrics, n == card.chosen, n == first and card.chosen < 0)
        bottom = room.top() + rows * (tall + 4)
        self.drawn["pieces"] = QRectF(room.left(), room.top(), room.width(), bottom - room.top())
        return bottom

    def _chip(
        self, painter: QPainter, box: QRectF, chip: Chip, metrics: QFontMetricsF, chosen: bool, first: bool
    ) -> None:
        paper, ink = {
            "done": (theme.GOOD_PALE, theme.GOOD),
            "begun": (theme.TIGHT_PALE, theme.TIGHT),
            "held": (theme.BROKEN_PALE, theme.BROKEN),
        }.get(chip.state, (theme.PAPER_BRIGHT, theme.GRIP))
        painter.setPen(QPen(theme.HEADING if chosen or first else ink, 3.0 if chosen else 2.0 if first else 1.2))
        painter.setBrush(paper)
        painter.drawRoundedRect(box, 4, 4)
        if chip.colour:
            band = QRectF(box.left() + 3, box.bottom() - 7, box.width() - 6, 4)
            painter.fillRect(band, theme.wire_brush(chip.colour))
            if chip.stripe:
                painter.fillRect(
                    QRectF(band.left(), band.top() + 1.2, band.width(), 1.6), theme.wire_brush(chip.stripe)
                )
        painter.setPen(theme.INK)
        said = ("✕ " if chip.state == "held" else "") + chip.name
        painter.drawText(
            box.adjusted(3, 0, -3, -6),
            int(Qt.AlignmentFlag.AlignCenter),
            metrics.elidedText(said, Qt.TextElideMode.ElideRight, box.width() - 6),
        )

    def _facts(self, painter: QPainter, room: QRectF, card: Card) -> None:
        """What is known of the piece in hand, what is wanted, what was said, cautions: as large as all of it goes;
        where that is too small to be read, what the headline says already goes first, then the last facts."""
        lines = [(card.text, theme.INK, True)] if card.headline and card.text.rstrip(".") != card.headline else []
        lines += [(text, theme.INK_SOFT, False) for text in card.facts]
        spare = list(range(len(lines)))
        if card.wanted:
            lines.append((card.wanted, theme.TIGHT_TEXT, True))
        if card.said:
            lines.append((card.said, theme.BROKEN if card.wrong else theme.GOOD, True))
        if self.typed:
            lines.append((f"▸ {self.typed}▏", theme.INK, True))
        lines += [(f"⚠ {text}", theme.BROKEN, False) for text in card.cautions]
        if card.attests:
            lines.append((card.attests, theme.HEADING, True))
        flags, point = int(Qt.TextFlag.TextWordWrap), 20.0
        while True:
            below = QFontMetricsF(theme.font(point, bold=True))
            rects = [below.boundingRect(QRectF(0, 0, room.width(), 9999), flags, text).height() for text, _, _ in lines]
            if sum(rects) + 3 * (len(lines) + 1) <= room.height():
                break
            if point > READ_POINT:
                point -= 0.5
            elif spare:
                gone = 0 if spare[0] == 0 and card.headline and card.text == lines[0][0] else len(spare) - 1
                del lines[gone]
                spare = spare[:-1]
            elif point > 6.5:
                point -= 0.5
            else:
                break
        y = room.top() + 3
        for (text, ink, bold), height in zip(lines, rects, strict=True):
            painter.setFont(theme.font(point, bold=bold))
            painter.setPen(ink)
            painter.drawText(QRectF(room.left(), y, room.width(), height + 2), flags, text)
            y += height + 3
        self.points["facts"] = point
        self.drawn["facts"] = QRectF(room.left(), room.top(), room.width(), max(y - room.top() - 3, 0.0))

    def _picture(self, painter: QPainter, room: QRectF, card: Card) -> None:
        self.drawn["picture"] = room
        if card.set_up is not None:
            alone = card.strip is None and card.face is None and card.length_m is None
            high = self._set_up(painter, room if alone else room.adjusted(0, 0.45 * room.height(), 0, 0), card.set_up)
            if alone:
                return
            room = QRectF(room.left(), room.top(), room.width(), room.height() - high - 6)
        if card.face is not None:
            self._face.current, self._face.wrong, self._face.lit = card.cavity, {}, dict(card.lit)
            self._face.most_scale, self._face.most_point = 40.0, 26.0
            self._face.draw(painter, room, card.face)
        elif card.strip is not None:
            self._strip.strip, self._strip.cable = card.strip, None
            line = QFontMetricsF(theme.font(9)).height() + 1
            self._strip.draw_scene(
                painter, room.adjusted(0, 0.1 * room.height(), 0, -0.1 * room.height()), card.strip, line
            )
        elif card.length_m is not None:
            self._rule(painter, room, card)

    def _set_up(self, painter: QPainter, room: QRectF, one: SetUp) -> float:
        """The sheet of a tool before its first piece, at the foot of a room: what to set, what the first-off must keep,
        how its readings lie."""
        bold, fine = theme.font(12, bold=True), theme.font(10)
        head, line = QFontMetricsF(bold), QFontMetricsF(fine)
        setting = [tr("set: {setting}", setting=one.setting)] if one.setting else []
        rows = [
            *setting,
            *(tr("first-off: {text}", text=text) for text in one.limits),
            *([one.told] if one.told else []),
        ]
        drawn = 46.0 if len(one.values) > 1 else 0.0
        tall = min(head.height() + len(rows) * (line.height() + 2) + drawn + 18, room.height())
        box = QRectF(room.left(), room.bottom() - tall, room.width(), tall)
        painter.setPen(QPen(theme.TIGHT, 1.5))
        painter.setBrush(theme.PAPER)
        painter.drawRoundedRect(box, 5, 5)
        self.drawn["set-up"] = box
        inner = box.adjusted(10, 6, -10, -6)
        painter.setFont(bold)
        painter.setPen(theme.HEADING)
        painter.drawText(
            inner,
            int(Qt.AlignmentFlag.AlignLeft),
            head.elidedText(tr("Set up: {tool}", tool=one.tool), Qt.TextElideMode.ElideRight, inner.width()),
        )
        y = inner.top() + head.height() + 2
        painter.setFont(fine)
        for text in rows:
            if y + line.height() > box.bottom() - drawn:
                break
            painter.setPen(theme.INK)
            painter.drawText(
                QRectF(inner.left(), y, inner.width(), line.height()),
                int(Qt.AlignmentFlag.AlignLeft),
                line.elidedText(text, Qt.TextElideMode.ElideRight, inner.width()),
            )
            y += line.height() + 2
        if drawn:
            dots(
                painter,
                QRectF(inner.left(), box.bottom() - drawn, inner.width(), drawn - 8),
                one.values,
                one.low,
                one.high,
            )
        return tall

    def _rule(self, painter: QPainter, room: QRectF, card: Card) -> None:
        """The length to cut on a rule, the wire above it in its colours."""
        assert card.length_m is not None
        middle = room.center().y()
        start, stop = room.left() + 10, room.right() - 14
        base, mark = theme.wire_brush(card.colour), theme.wire_brush(card.stripe) if card.stripe else None
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
        painter.drawText(
            QRectF(room.left(), middle + 24, room.width(), QFontMetricsF(face).height() + 4),
            int(Qt.AlignmentFlag.AlignCenter),
            f"{1e3 * card.length_m:.0f} mm",
        )

    def _foot(self, painter: QPainter, room: QRectF, card: Card) -> None:
        """What was just done, what comes next, what is left."""
        painter.setPen(QPen(theme.PAPER_DIM, 1))
        painter.drawLine(room.topLeft(), room.topRight())
        face = theme.font(min(max(room.height() / 6.5, 10.0), 13.0))
        metrics = QFontMetricsF(face)
        painter.setFont(face)
        columns = ((0.0, 0.32, tr("done"), card.before), (0.34, 0.36, tr("next"), card.coming))
        for at, wide, title, rows in columns:
            x, width = room.left() + at * room.width(), wide * room.width()
            self._rows(painter, QRectF(x, room.top() + 4, width, room.height() - 4), title, rows, metrics)
        painter.setPen(theme.INK_SOFT)
        aside = QRectF(room.left() + 0.72 * room.width(), room.top() + 4, 0.28 * room.width(), metrics.height())
        for n, text in enumerate(text for text in (card.lay_out, card.left) if text):
            painter.drawText(
                aside.translated(0, n * metrics.height()),
                int(Qt.AlignmentFlag.AlignRight),
                metrics.elidedText(text, Qt.TextElideMode.ElideRight, aside.width()),
            )
        self.drawn["foot"] = room

    def _rows(self, painter: QPainter, room: QRectF, title: str, rows: Sequence[str], metrics: QFontMetricsF) -> None:
        y = room.top()
        for number, text in enumerate(rows):
            if y + metrics.height() > room.bottom() + 1:
                break
            lead = f"{title}: " if number == 0 else ""
            painter.setPen(theme.INK if title == "next" and number == 0 else theme.INK_SOFT)
            painter.drawText(
                QRectF(room.left(), y, room.width(), metrics.height()),
                int(Qt.AlignmentFlag.AlignLeft),
                metrics.elidedText(lead + text, Qt.TextElideMode.ElideRight, room.width()),
            )
            y += metrics.height()
