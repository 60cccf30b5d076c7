"""The build book: the traveller's steps, a strip drawing of every end, the faces, the labels with their codes; labels at size."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import lru_cache
from itertools import groupby

import segno
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFontMetricsF, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen
from PySide6.QtSvg import QSvgRenderer

from umber_trunk.app import theme
from umber_trunk.app.paper.pages import SCREEN_DPI, Pages, able_to_draw, pdf_writer
from umber_trunk.app.widgets.strip_view import StripView
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.strip import Strip, strip_of, tenths
from umber_trunk.core.ends.svg import faces_svg
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.kit.printed import Printed
from umber_trunk.core.make.book import LABEL_MM, WireLabel, bags, kit_sheets, labels, traveller
from umber_trunk.core.prove.loops import loop_sheet
from umber_trunk.core.prove.testsheet import test_sheet
from umber_trunk.core.results import Results

PER_MM = SCREEN_DPI / 25.4
GAP = 14.0


def traveller_pdf(results: Results) -> bytes:
    """The step list alone."""
    return _written(results, traveller(results), False)


def book_pdf(results: Results) -> bytes:
    """The whole book."""
    return _written(results, traveller(results), True)


def _written(results: Results, sheet: Printed, whole: bool) -> bytes:
    writer, buffer = pdf_writer(results, sheet.title)
    with theme.as_on_paper():
        Book(writer, sheet, results).bind(whole)
    return bytes(buffer.data().data())


def tests_pdf(results: Results) -> bytes:
    """The test list to be filled in by hand."""
    return _written(results, test_sheet(results), False)


def loops_pdf(results: Results) -> bytes:
    """A sheet for each loop: its stairs, cores, tags and spares."""
    return _written(results, loop_sheet(results), False)


def kit_pdf(results: Results) -> bytes:
    """A page for each lead that others are to build: what is in its bag, its length, what to do."""
    writer, buffer = pdf_writer(results, f"{results.design.project.name}: kit")
    with theme.as_on_paper():
        book: Book | None = None
        for sheet in kit_sheets(results, bags(results)):
            if book is None:
                book = Book(writer, sheet, results)
            else:
                book.turn(sheet)
            book.sheet_alone()
        if book is not None:
            book.foot()
            book.painter.end()
    return bytes(buffer.data().data())


class Book(Pages):
    """Pages with drawings after the tables."""

    def bind(self, whole: bool) -> None:
        """Everything, in its order."""
        try:
            self.head()
            self._code(self.results.design.project.name)
            self._tables()
            if whole:
                self._strips()
                self._faces()
                self._labels()
            self.foot()
        finally:
            self.painter.end()

    def sheet_alone(self) -> None:
        """Head and tables of the sheet."""
        self.head()
        self._tables()

    def turn(self, sheet: Printed) -> None:
        """A new page for another sheet."""
        self.foot()
        self.writer.newPage()
        self.page += 1
        self.y, self.sheet = 0.0, sheet

    def _tables(self) -> None:
        for number, table in enumerate(self.sheet.tables):
            self.y += 14 * (number > 0)
            self.table(table.titles, table.shares, table.right, table.rows)

    def _code(self, text: str) -> None:
        """A code beside the title that says which harness this is."""
        draw_code(self.painter, text, QRectF(self.width - 46, 0, 42, 42))
        self.y = max(self.y, 50.0)

    def _section(self, title: str, room: float) -> None:
        self.y += GAP
        self.row_or_page(room + 24)
        self.text(QRectF(0, self.y, self.width, 20), title, theme.font(12, bold=True))
        self.y += 26

    def _strips(self) -> None:
        """Two drawings a row, one for each different way an end is made, with the wires that are made so."""
        alike: dict[tuple[object, ...], list[Strip]] = {}
        for end in places_of(self.results.design, self.results.shelf).ends:
            made = strip_of(self.results, end) if end.made is not None else None
            if made is not None:
                alike.setdefault((made.part, made.strip_mm, round(made.outer_mm, 2), made.crimp_height_mm), []).append(
                    made
                )
        if not alike:
            return
        view, wide, tall = StripView(), self.width / 2 - 8, 150.0
        self._section("Strip drawings", tall)
        for number, group in enumerate(alike.values()):
            if number % 2 == 0 and number:
                self.y += tall + 6
            if number % 2 == 0:
                self.row_or_page(tall)
            box = QRectF(0 if number % 2 == 0 else wide + 16, self.y, wide, tall)
            one = group[0]
            wires = ", ".join(f"{s.wire} at {s.end} {s.cavity}" for s in group[:4]) + (f" and {len(group) - 4} more" if len(group) > 4 else "")  # fmt: skip
            self._one_strip(view, one, wires, box)
        self.y += tall + 6

    def _one_strip(self, view: StripView, one: Strip, wires: str, box: QRectF) -> None:
        face = theme.font(8.5, bold=True)
        metrics = QFontMetricsF(face)
        for row, (text, bold) in enumerate(((one.part_name, True), (wires, False), (f"strip {tenths(one.strip_mm)} mm" + (f", crimp to {one.crimp_height_mm:.2f} ± {one.crimp_plus_minus_mm:g} mm" if one.crimp_height_mm else ""), False))):  # fmt: skip
            line = QRectF(box.left(), box.top() + row * (metrics.height() + 1), box.width(), metrics.height() + 1)
            self.text(line, metrics.elidedText(text, Qt.TextElideMode.ElideRight, box.width() - 4), theme.font(8.5, bold=bold))  # fmt: skip
        view.draw_scene(self.painter, box.adjusted(4, 3 * metrics.height() + 4, -4, -2), one, metrics.height())

    def _faces(self) -> None:
        ends = list(
            dict.fromkeys(end.id for end, _, _ in places_of(self.results.design, self.results.shelf).housings())
        )
        first = True
        for end in ends:
            svg = QSvgRenderer(QByteArray(faces_svg(faces_in(self.results, end, "wire")).encode()))
            box = svg.viewBoxF()
            wide = min(box.width() * PER_MM, self.width)
            tall = box.height() * wide / box.width()
            if first:
                self._section("Faces, seen from the wire side", tall)
                first = False
            self.row_or_page(tall)
            svg.render(self.painter, QRectF(0, self.y, wide, tall))
            self.y += tall + 6

    def _labels(self) -> None:
        wide, tall = 62 * PER_MM, 12 * PER_MM
        across = max(int(self.width // (wide + 6)), 1)
        made = labels(self.results)
        if not made:
            return
        self._section("Labels", tall)
        for number, one in enumerate(made):
            if number and number % across == 0:
                self.y += tall + 4
            if number % across == 0:
                self.row_or_page(tall)
            draw_label(self.painter, one, QRectF((number % across) * (wide + 6), self.y, wide, tall), True)
        self.y += tall + 4


QUIET = 2
"""Modules of white round a code."""


@lru_cache(maxsize=4096)
def _modules(text: str) -> tuple[bytearray, ...]:
    """The squares of a QR code, row by row: both ends of a wire bear the same one."""
    rows: tuple[bytearray, ...] = segno.make(text, micro=False, error="m").matrix
    return rows


def draw_code(painter: QPainter, text: str, box: QRectF) -> None:
    """A QR code in a square, its quiet zone around it."""
    matrix = _modules(text)
    side = min(box.width(), box.height()) / (len(matrix) + 2 * QUIET)
    left, top = box.left() + QUIET * side, box.top() + QUIET * side
    whole = side * (len(matrix) + 2 * QUIET)
    painter.fillRect(QRectF(box.left(), box.top(), whole, whole), Qt.GlobalColor.white)
    for y, row in enumerate(matrix):
        x = 0
        for dark, run in groupby(row):
            wide = len(list(run))
            if dark:  # a whole run at once, a hair larger: squares drawn singly leave white lines on some printers
                painter.fillRect(QRectF(left + x * side, top + y * side, side * (wide + 0.02), side * 1.02), Qt.GlobalColor.black)  # fmt: skip
            x += wide


def draw_label(painter: QPainter, one: WireLabel, box: QRectF, framed: bool = False) -> None:
    """Code on the left, two lines beside it as large as they fit."""
    if framed:
        painter.setPen(QPen(theme.INK_SOFT, 0.5))
        painter.drawRect(box)
    side = box.height() - 2
    draw_code(painter, one.code, QRectF(box.left() + 1, box.top() + 1, side, side))
    room = QRectF(box.left() + side + 3, box.top(), box.width() - side - 4, box.height())
    painter.setPen(Qt.GlobalColor.black)
    for row, (text, bold) in enumerate(((one.first, True), (one.second, False))):
        line = QRectF(room.left(), room.top() + row * room.height() / 2, room.width(), room.height() / 2)
        point = line.height() * 0.62
        while point > 3 and QFontMetricsF(theme.font(point, bold=bold)).horizontalAdvance(text) > line.width():
            point -= 0.4
        painter.setFont(theme.font(point, bold=bold))
        shown = QFontMetricsF(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, line.width())
        painter.drawText(line, int(Qt.AlignmentFlag.AlignVCenter), shown)


def labels_pdf(results: Results) -> bytes:
    """One label a page, each page as large as the label."""
    return labels_at(labels(results), *LABEL_MM)


def labels_at(
    made: Iterable[WireLabel], width_mm: float, height_mm: float, told: Callable[[int], None] = lambda _: None
) -> bytes:
    """Labels of a size, one a page, for tape and heat-shrink printers; `told` how many are drawn."""
    able_to_draw()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(int(SCREEN_DPI))  # letters are sized by it
    size = QPageSize(QSizeF(width_mm, height_mm), QPageSize.Unit.Millimeter, "label", QPageSize.SizeMatchPolicy.ExactMatch)  # fmt: skip
    layout = QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
    layout.setMode(QPageLayout.Mode.FullPageMode)
    writer.setPageLayout(layout)
    writer.setTitle("labels")
    painter = QPainter(writer)
    with theme.as_on_paper():
        for number, one in enumerate(made):
            told(number)
            if number:
                writer.newPage()
            draw_label(painter, one, QRectF(0, 0, width_mm * PER_MM, height_mm * PER_MM))
    painter.end()
    return bytes(buffer.data().data())
