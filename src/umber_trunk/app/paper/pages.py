"""Printed pages: a sheet of values and the picture of the trunk, drawn onto a PDF or a printer."""

from __future__ import annotations

import os
import re
from collections.abc import Sequence

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QGuiApplication,
    QPagedPaintDevice,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
)
from PySide6.QtWidgets import QApplication

from umber_trunk.app import theme
from umber_trunk.app.trunk.painter import TrunkPainter, room_in
from umber_trunk.app.trunk.story import tell
from umber_trunk.app.trunk.tags import least_slot
from umber_trunk.core.buy.shopping import Buy
from umber_trunk.core.buy.shopping_sheet import shopping_sheet
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Project
from umber_trunk.core.kit.printed import TICK, Printed, cut_sheet
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest
from umber_trunk.core.results import Results
from umber_trunk.core.stages import stage_of

SCREEN_DPI = 96.0
_kept: list[QApplication] = []  # where the shell had none, for the life of the process
MOST_SHRUNK = 2.2  # text of the picture stays over 3.8 points


def wrapping(text: str, width: float, metrics: QFontMetricsF) -> int:
    """How a text is wrapped into a width: between words, inside one only where it is wider than the whole."""
    widest = max((metrics.horizontalAdvance(word) for word in re.split(r"[ \n]", text)), default=0.0)
    return int(Qt.TextFlag.TextWrapAnywhere if widest > width else Qt.TextFlag.TextWordWrap)


def page_layout(project: Project) -> QPageLayout:
    """The project's paper, with its margins."""
    return QPageLayout(
        QPageSize(QPageSize.PageSizeId.Letter if project.paper == "letter" else QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Landscape if project.landscape else QPageLayout.Orientation.Portrait,
        QMarginsF(12, 12, 12, 12),
        QPageLayout.Unit.Millimeter,
    )


def able_to_draw() -> None:
    """Makes Qt ready to draw text where the shell had no window."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _kept.append(QApplication([]))
        theme.load_fonts()
        theme.apply_theme(_kept[0])


def cut_sheet_pdf(results: Results) -> bytes:
    """The cut sheet on the project's paper, as many pages as it takes."""
    return _pdf(cut_sheet(results), results)


def shopping_pdf(results: Results, buys: Sequence[Buy], units: int) -> bytes:
    """The shopping list on the project's paper."""
    return _pdf(shopping_sheet(results, buys, units), results, pictured=False)


def pdf_writer(results: Results, title: str) -> tuple[QPdfWriter, QBuffer]:
    """A PDF on the project's paper, to be drawn on, and where its bytes are then."""
    able_to_draw()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(int(SCREEN_DPI))
    writer.setPageLayout(page_layout(results.design.project))
    writer.setTitle(title)
    return writer, buffer


def _pdf(sheet: Printed, results: Results, pictured: bool = True) -> bytes:
    writer, buffer = pdf_writer(results, sheet.title)
    draw_on(writer, sheet, results, pictured)
    return bytes(buffer.data().data())


def draw_on(device: QPagedPaintDevice, sheet: Printed, results: Results, pictured: bool = True) -> None:
    """All pages of a sheet onto a PDF or a printer, the trunk under its head where it is `pictured`, in the colours of paper."""
    with theme.as_on_paper():
        Pages(device, sheet, results).draw(pictured)


class Pages:
    """Draws page after page; units are screen pixels at 96 dpi, scaled up to the device."""

    def __init__(self, writer: QPagedPaintDevice, sheet: Printed, results: Results) -> None:
        self.writer, self.sheet, self.results = writer, sheet, results
        self.painter = QPainter(writer)
        factor = writer.logicalDpiX() / SCREEN_DPI
        self.painter.scale(factor, factor)
        self.width, self.height = writer.width() / factor, writer.height() / factor
        self.page = 1
        self.y = 0.0

    def draw(self, pictured: bool) -> None:
        """The whole sheet."""
        try:
            self.head()
            if pictured:
                self._picture()
            for number, table in enumerate(self.sheet.tables):
                self.y += 14 * (number > 0)
                self.table(table.titles, table.shares, table.right, table.rows)
            self.foot()
        finally:
            self.painter.end()

    def head(self) -> None:
        """Title and state of the sheet."""
        self.text(QRectF(0, 0, self.width, 24), self.sheet.title, theme.font(14, bold=True))
        colour = theme.GOOD if self.sheet.sound else theme.BROKEN
        self.text(QRectF(0, 24, self.width, 16), self.sheet.state, theme.font(9), colour.name())
        self.y = 46

    def _picture(self) -> None:
        """The trunk, whole where that can still be read at this width, else with its quiet branches folded."""
        design, results = self.results.design, self.results
        box = QRectF(0, self.y, self.width, 300)
        picture = Picture(design)
        room = min(picture.lay_out().width, room_in(self.width * MOST_SHRUNK))
        wide = max(self.width, room * least_slot())
        layout = picture.lay_out(room_in(wide), interest(index_of(design), results))
        story = tell(stage_of("kit").paints, design, results)
        shrink = self.width / wide
        self.painter.save()
        self.painter.translate(0, self.y)
        self.painter.scale(shrink, shrink)
        TrunkPainter(design, layout, story, set(), results).paint(
            self.painter, QRectF(0, 0, wide, box.height() / shrink)
        )
        self.painter.restore()
        self.y = box.bottom() + 12

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
            if "\n" not in text and metrics.horizontalAdvance(text) <= room.width():
                continue  # one line: most cells are
            tall = max(tall, metrics.boundingRect(room, wrapping(text, room.width(), metrics), text).height())
        return tall + 4

    def row_or_page(self, room: float) -> bool:
        """Turns the page when `room` is not left; says whether it did."""
        if self.y + room <= self.height - 24:
            return False
        self.foot()
        self.writer.newPage()
        self.page += 1
        self.y = 0.0
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
            else:
                self.text(
                    box, text, font, flags=side | Qt.AlignmentFlag.AlignVCenter | wrapping(text, box.width(), metrics)
                )
            x += share * self.width
        self.y += line
        self.painter.setPen(QPen(theme.PAPER_DIM, 0.6))
        self.painter.drawLine(0, round(self.y), round(self.width), round(self.y))

    def foot(self) -> None:
        """The note and the number of the page."""
        self.text(
            QRectF(0, self.height - 16, self.width, 14),
            self.sheet.note,
            theme.font(7.5),
            theme.INK_SOFT.name(),
        )
        page = QRectF(0, self.height - 16, self.width, 14)
        self.text(page, f"page {self.page}", theme.font(7.5), flags=Qt.AlignmentFlag.AlignRight)

    def text(
        self, box: QRectF, text: str, font: QFont, colour: str = theme.LIGHT["INK"],
        flags: int = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    ) -> None:  # fmt: skip
        self.painter.setFont(font)
        self.painter.setPen(QColor(colour))
        self.painter.drawText(box, int(flags), text)
