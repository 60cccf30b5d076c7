"""Printed pages: a sheet of values and the picture of the trunk, drawn onto a PDF or a printer."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import assert_never

from PySide6.QtCore import QByteArray, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen
from PySide6.QtSvg import QSvgRenderer

from umber_trunk.app import theme
from umber_trunk.app.paper.labels import PER_MM, draw_code
from umber_trunk.app.paper.leaves import Leaves
from umber_trunk.app.trunk.painter import TrunkPainter, room_in
from umber_trunk.app.trunk.small import paint_small
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.trunk.tags import least_slot
from umber_trunk.app.widgets.board_paint import paint_board
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest
from umber_trunk.core.printed import TICK, Contents, Drawn, Figure, PaperTable, Part, Printed, Trunk
from umber_trunk.core.results import Results, stamp
from umber_trunk.core.stages import stage_of

GAP = 10.0
MOST_SHRUNK = 2.2  # text of the picture stays over 3.8 points


def wrapping(text: str, width: float, metrics: QFontMetricsF) -> int:
    """How a text is wrapped into a width: between words, inside one only where it is wider than the whole."""
    widest = max((metrics.horizontalAdvance(word) for word in re.split(r"[ \n]", text)), default=0.0)
    return int(Qt.TextFlag.TextWrapAnywhere if widest > width else Qt.TextFlag.TextWordWrap)


def piece_places(text: str, width: float, metrics: QFontMetricsF) -> list[tuple[float, float, str]]:
    """(x, y, text) of each piece of a cell, from line to line as they fit."""
    found, x, y = list[tuple[float, float, str]](), 0.0, 0.0
    for piece in (one.strip() for one in text.split(TICK)):
        if not piece and not found and text.strip(TICK):
            continue
        wide = 11 + metrics.horizontalAdvance(piece) + 9
        if x and x + wide > width:
            x, y = 0.0, y + metrics.height() + 1
        found.append((x, y, piece))
        x += wide
    return found


class Pages:
    """Draws page after page; units are 1/96 inch. `begins`: parts by name → the page each begins on."""

    def __init__(
        self,
        leaves: Leaves,
        results: Results,
        two_sided: bool = False,
        known: Mapping[str, int] = MappingProxyType({}),
    ) -> None:
        self.leaves, self.results, self.two_sided, self.known = leaves, results, two_sided, known
        self.width, self.height = leaves.wide, leaves.tall
        self.page, self.y = 1, 0.0
        self.begins: dict[str, int] = {}
        self.sheet: Printed | None = None

    def draw(self, sheets: Sequence[Printed]) -> None:
        """All of them, each on a page of its own; on both sides of the paper, each on a front."""
        try:
            for sheet in sheets:
                if self.sheet is not None:
                    self.foot()
                    self._turn()
                    if self.two_sided and self.page % 2 == 0:
                        self._turn()
                self.sheet = sheet
                self.head(sheet)
                for number, part in enumerate(sheet.parts):
                    self.y += 14 * (number > 0)
                    self._part(part)
            if self.sheet is not None:
                self.foot()
        finally:
            self.leaves.end()

    @property
    def painter(self) -> QPainter:
        """Draws on the page that is under way."""
        return self.leaves.painter

    def _turn(self) -> None:
        self.leaves.turn()
        self.page += 1
        self.y = 0.0

    def _part(self, part: Part) -> None:
        match part:
            case PaperTable():
                self._begun(part.name, self._height(part.titles, part.shares, theme.font(8.5, bold=True)) + 40)
                self.table(part.titles, part.shares, part.right, part.rows)
            case Figure():
                self._figure(part)
            case Trunk():
                self._trunk(part)
            case Contents():
                self._contents(part)
            case _:
                assert_never(part)

    def _begun(self, name: str, room: float) -> None:
        """A part with a name begins on a page where so much of it has room."""
        if name:
            self.row_or_page(room)
            self.begins.setdefault(name, self.page)

    def head(self, sheet: Printed) -> None:
        """Title and state of the sheet, its code beside them."""
        wide = self.width - (50 if sheet.code else 0)
        self.text(QRectF(0, 0, wide, 24), sheet.title, theme.font(14, bold=True))
        mark = "" if sheet.sound else "✕ "
        told, metrics = f"{mark}{sheet.state}", QFontMetricsF(theme.font(9))
        tall = metrics.boundingRect(QRectF(0, 0, wide, 1e4), int(Qt.TextFlag.TextWordWrap), told).height()
        self.text(
            QRectF(0, 24, wide, tall),
            told,
            theme.font(9),
            (theme.GOOD if sheet.sound else theme.BROKEN).name(),
            int(Qt.TextFlag.TextWordWrap),
        )
        if sheet.of_harness:
            self.text(QRectF(0, 24 + tall, wide, 14), self.results.once(stamp), theme.font(7.5), theme.INK_SOFT.name())
        self.y = 46 + tall
        if sheet.code:
            draw_code(self.painter, sheet.code, QRectF(self.width - 46, 0, 42, 42))
            self.y = max(self.y, 52.0)

    def _contents(self, part: Contents) -> None:
        """Each part with a name and its page."""
        assert self.sheet is not None
        names = [name for one in self.sheet.parts if (name := getattr(one, "name", ""))]
        rows = [(name, str(self.known.get(name, ""))) for name in names]
        self.table((part.title, "Page"), (0.86, 0.14), (1,), rows)

    def _trunk(self, part: Trunk) -> None:
        """The trunk, whole where that can still be read at this width, else with its quiet branches folded."""
        design, results = self.results.design, self.results
        tall = part.tall_mm * PER_MM
        self._begun(part.name, tall)
        self.row_or_page(tall + (14 if part.title else 0))
        if part.title:
            self.text(QRectF(0, self.y, self.width, 14), part.title, theme.font(8), theme.INK_SOFT.name())
            self.y += 14
        picture = Picture(design)
        room = min(picture.lay_out().width, room_in(self.width * MOST_SHRUNK))
        wide = max(self.width, room * least_slot())
        shrink = self.width / wide
        if part.lit:
            paint_small(self.painter, QRectF(6, self.y, self.width - 12, tall), design, frozenset(part.lit))
        else:
            layout = picture.lay_out(room_in(wide), interest(index_of(design), results))
            story = tell(stage_of("kit").paints, design, results)
            self.painter.save()
            self.painter.translate(0, self.y)
            self.painter.scale(shrink, shrink)
            TrunkPainter(design, layout, story, set(), results).paint(self.painter, QRectF(0, 0, wide, tall / shrink))
            self.painter.restore()
        self.y += tall + 8

    def _figure(self, part: Figure) -> None:
        """Drawings in rows, at true scale where they fit: what is smaller says so."""
        small = theme.font(7.5)
        line = QFontMetricsF(small).height() + 1
        rows = self._rows(part)
        talls = [
            max(tall + self._caption(one, scale, room) * line for one, _, tall, scale, room in row) for row in rows
        ]
        titled = QFontMetricsF(theme.font(10, bold=True)).height() + 4
        self._begun(part.name, (talls[0] if talls else 0.0) + titled)
        self.row_or_page((talls[0] if talls else 0.0) + titled)
        self.text(QRectF(0, self.y, self.width, titled), part.title, theme.font(10, bold=True))
        self.y += titled
        for row, tall in zip(rows, talls, strict=True):
            self.row_or_page(tall)
            x = 0.0
            for one, wide, high, scale, room in row:
                self._drawing(one, QRectF(x, self.y, wide, high), scale)
                under = QRectF(x, self.y + high, room, self._caption(one, scale, room) * line)
                self.text(under, self._told(one, scale), small, theme.INK_SOFT.name(), int(Qt.TextFlag.TextWordWrap))
                x += room + GAP
            self.y += tall + 4

    def _rows(self, part: Figure) -> list[list[tuple[Drawn, float, float, float, float]]]:
        """(drawing, width, height, scale, room for its caption), row by row: as many across as asked, else as many as
        fit."""
        if part.across:
            room = (self.width - GAP * (part.across - 1)) / part.across
            sized = [(one, *self._fitted(one, room), room) for one in part.drawings]
            return [sized[start : start + part.across] for start in range(0, len(sized), part.across)]
        rows: list[list[tuple[Drawn, float, float, float, float]]] = [[]]
        x = 0.0
        for one in part.drawings:
            wide, tall, scale = self._fitted(one, self.width)
            room = max(wide, 120.0 if self._told(one, scale) else 0.0)
            if x and x + room > self.width:
                rows.append([])
                x = 0.0
            rows[-1].append((one, wide, tall, scale, room))
            x += room + GAP
        return [row for row in rows if row]

    def _fitted(self, one: Drawn, room: float) -> tuple[float, float, float]:
        """(width, height, scale) of a drawing in a room: true to scale where it fits."""
        wide, tall = one.wide_mm * PER_MM, one.tall_mm * PER_MM
        scale = min(1.0, room / max(wide, 1e-6), (self.height - 90) / max(tall, 1e-6))
        return wide * scale, tall * scale, scale

    def _told(self, one: Drawn, scale: float) -> str:
        return "; ".join(
            filter(None, (one.caption, f"drawn at {100 * scale:.0f} % of its size" if scale < 0.999 else ""))
        )

    def _caption(self, one: Drawn, scale: float, room: float) -> int:
        """How many lines are said under a drawing."""
        told = self._told(one, scale)
        if not told:
            return 0
        metrics = QFontMetricsF(theme.font(7.5))
        return max(
            round(
                metrics.boundingRect(QRectF(0, 0, room, 1e4), int(Qt.TextFlag.TextWordWrap), told).height()
                / metrics.height()
            ),
            1,
        )

    def _drawing(self, one: Drawn, box: QRectF, scale: float) -> None:
        if one.svg:
            self.painter.setFont(theme.font(8))  # what an SVG text doesn't say it takes from here
            QSvgRenderer(QByteArray(one.svg.replace("B612, sans-serif", "B612").encode())).render(self.painter, box)
            return
        self.painter.save()
        self.painter.setClipRect(box.adjusted(-1, -1, 1, 1))
        self.painter.translate(box.left(), box.bottom())
        self.painter.scale(PER_MM * scale, PER_MM * scale)
        paint_board(self.painter, one.shapes, 0, 0, False, 0.12 / scale)
        self.painter.restore()

    def table(
        self,
        titles: Sequence[str],
        shares: Sequence[float],
        right: Sequence[int],
        rows: Sequence[Sequence[str]],
    ) -> None:
        bold, plain = theme.font(8.5, bold=True), theme.font(8.5)
        head = self._height(titles, shares, bold)
        first = self._height(rows[0], shares, plain) if rows else 0.0
        self.row_or_page(head + first)
        self.cells(titles, shares, right, bold, head)
        for number, cells in enumerate(rows):
            line = self._height(cells, shares, plain)
            if self.row_or_page(line):
                self.cells(titles, shares, right, bold, head)
            if number % 2:
                self.painter.fillRect(QRectF(0, self.y, self.width, line), theme.PAPER)
            self.cells(cells, shares, right, plain, line)

    def _height(self, cells: Sequence[str], shares: Sequence[float], font: QFont) -> float:
        """Height of a row whose texts wrap: nothing on paper is cut."""
        metrics = QFontMetricsF(font)
        tall = metrics.height()
        for text, share in zip(cells, shares, strict=True):
            room = QRectF(0, 0, share * self.width - 6, 1e5)
            if TICK in text and text != TICK:
                places = piece_places(text, room.width(), metrics)
                tall = max(tall, places[-1][1] + metrics.height() if places else 0.0)
                continue
            if "\n" not in text and metrics.horizontalAdvance(text) <= room.width():
                continue  # one line: most cells are
            tall = max(tall, metrics.boundingRect(room, wrapping(text, room.width(), metrics), text).height())
        return tall + 4

    def row_or_page(self, room: float) -> bool:
        """Turns the page when `room` is not left; says whether it did."""
        if self.y + room <= self.height - 24:
            return False
        self.foot()
        self._turn()
        return True

    def cells(
        self,
        cells: Sequence[str],
        shares: Sequence[float],
        right: Sequence[int],
        font: QFont,
        line: float,
    ) -> None:
        x, metrics = 0.0, QFontMetricsF(font)
        for number, (text, share) in enumerate(zip(cells, shares, strict=True)):
            box = QRectF(x + 3, self.y, share * self.width - 6, line)
            side = Qt.AlignmentFlag.AlignRight if number in right else Qt.AlignmentFlag.AlignLeft
            if text == TICK:
                self.painter.setPen(QPen(theme.INK, 0.8))
                self.painter.drawRect(QRectF(box.left() + 8, box.center().y() - 4.5, 9, 9))
            elif TICK in text:
                self._pieces(text, box, font)
            else:
                if number in right:
                    box.adjust(0, 0, -5, 0)  # a figure never touches what stands in the next column
                self.text(
                    box, text, font, flags=side | Qt.AlignmentFlag.AlignVCenter | wrapping(text, box.width(), metrics)
                )
            x += share * self.width
        self.y += line
        self.painter.setPen(QPen(theme.PAPER_DIM, 0.6))
        self.painter.drawLine(0, round(self.y), round(self.width), round(self.y))

    def _pieces(self, text: str, box: QRectF, font: QFont) -> None:
        """A row of pieces, a box to tick before each."""
        self.painter.setFont(font)
        metrics = QFontMetricsF(font)
        for x, y, piece in piece_places(text, box.width(), metrics):
            self.painter.setPen(QPen(theme.INK, 0.8))
            self.painter.drawRect(QRectF(box.left() + x, box.top() + 2 + y + metrics.height() / 2 - 4, 8, 8))
            self.painter.drawText(
                QRectF(box.left() + x + 11, box.top() + 2 + y, box.width(), metrics.height()),
                int(Qt.AlignmentFlag.AlignVCenter),
                piece,
            )

    def foot(self) -> None:
        """The note and the number of the page."""
        self.text(
            QRectF(0, self.height - 16, self.width, 14),
            self.sheet.note if self.sheet is not None else "",
            theme.font(7.5),
            theme.INK_SOFT.name(),
        )
        page = QRectF(0, self.height - 16, self.width, 14)
        self.text(page, tr("page {number}", number=self.page), theme.font(7.5), flags=Qt.AlignmentFlag.AlignRight)

    def text(
        self,
        box: QRectF,
        text: str,
        font: QFont,
        colour: str = theme.LIGHT["INK"],
        flags: int = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    ) -> None:
        self.painter.setFont(font)
        self.painter.setPen(QColor(colour))
        self.painter.drawText(box, int(flags), text)
