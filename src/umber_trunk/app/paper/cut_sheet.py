"""The cut sheet on paper: the picture, the cut list and what to buy, as a PDF."""

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
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Project
from umber_trunk.core.kit.cutlist import buys, cuts
from umber_trunk.core.kit.paper_units import length_text, size_text
from umber_trunk.core.kit.tables import case_rows, caution_rows, fuse_rows
from umber_trunk.core.picture.layout import Picture
from umber_trunk.core.picture.notice import interest
from umber_trunk.core.results import Results
from umber_trunk.core.stages import stage_of

SCREEN_DPI = 96.0
_kept: list[QApplication] = []  # where the shell had none, for the life of the process
MOST_SHRUNK = 2.2  # text of the picture stays over 3.8 points

CUT_SHARES = (0.07, 0.12, 0.1, 0.12, 0.16, 0.16, 0.095, 0.095, 0.03, 0.05)
CUT_SHARES_WIDE = (0.06, 0.1, 0.12, 0.11, 0.14, 0.14, 0.13, 0.13, 0.025, 0.045)


def wrapping(text: str, width: float, metrics: QFontMetricsF) -> int:
    """How a text is wrapped into a width: between words, inside one only where it is wider than the whole."""
    widest = max((metrics.horizontalAdvance(word) for word in re.split(r"[ \n]", text)), default=0.0)
    return int(Qt.TextFlag.TextWrapAnywhere if widest > width else Qt.TextFlag.TextWordWrap)


def tight(text: str) -> str:
    """A figure in two series that breaks only between them."""
    return re.sub(r" (?!= |\()(?<!= )", "\u00a0", text).replace("=\u00a0", "= ")


def page_layout(project: Project) -> QPageLayout:
    """The project's paper, with its margins."""
    return QPageLayout(
        QPageSize(QPageSize.PageSizeId.Letter if project.paper == "letter" else QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Landscape if project.landscape else QPageLayout.Orientation.Portrait,
        QMarginsF(12, 12, 12, 12),
        QPageLayout.Unit.Millimeter,
    )


def cut_sheet_pdf(results: Results) -> bytes:
    """The cut sheet on the project's paper, as many pages as it takes."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _kept.append(QApplication([]))
        theme.load_fonts()
        theme.apply_theme(_kept[0])
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(int(SCREEN_DPI))
    writer.setPageLayout(page_layout(results.design.project))
    writer.setTitle(f"{results.design.project.name}: cut sheet")
    with theme.as_on_paper():
        draw_on(writer, results)
    return bytes(buffer.data().data())


def draw_on(device: QPagedPaintDevice, results: Results) -> None:
    """All pages onto a PDF or a printer."""
    _Sheet(device, results).draw()


class _Sheet:
    """Draws page after page; units are screen pixels at 96 dpi, scaled up to the writer."""

    def __init__(self, writer: QPagedPaintDevice, results: Results) -> None:
        self.writer = writer
        self.results = results
        self.painter = QPainter(writer)
        factor = writer.logicalDpiX() / SCREEN_DPI
        self.painter.scale(factor, factor)
        self.width, self.height = writer.width() / factor, writer.height() / factor
        self.page = 1
        self.y = 0.0

    def draw(self) -> None:
        """The whole sheet."""
        self._head()
        self._picture()
        design = self.results.design
        units = design.project.units
        self._table(
            ("Wire", "Circuit", "Size", "Colour", "From", "To", "Finished", "Cut", "n", "Done"),
            CUT_SHARES if units == "metric" else CUT_SHARES_WIDE, (2, 6, 7, 8),
            [
                (r.wire.id, r.wire.circuit, tight(size_text(r.size, units)), r.colour, r.start, r.finish, tight(length_text(r.finished_m, units)),
                 tight(length_text(r.cut_m, units)), str(r.count), "☐") for r in self.results.once(cuts)
            ],
        )  # fmt: skip
        self.y += 14
        self._table(
            ("To buy", "Made of", "Colour", "Pieces", "Length", "Conductor", "Cost"),
            (0.12, 0.36, 0.16, 0.08, 0.1, 0.1, 0.08), (3, 4, 5, 6),
            [(tight(size_text(t.size, units)), t.spec, t.colour, str(t.pieces), tight(length_text(t.metres, units)), f"{t.copper_kg:.3f} kg", f"{t.cost:.2f}") for t in self.results.once(buys)],
        )  # fmt: skip
        for rows, shares in (
            (fuse_rows(self.results), (0.2, 0.08, 0.14, 0.1, 0.1, 0.28, 0.1)), (case_rows(design), (0.2, 0.1, 0.7)),
            (caution_rows(self.results.findings), (0.08, 0.52, 0.4)),
        ):  # fmt: skip
            if len(rows) > 1:
                self.y += 14
                shown = [[show_size(str(cell)) for cell in row] for row in rows]
                self._table([title.capitalize() for title in shown[0]], shares, (), shown[1:])
        self._foot()
        self.painter.end()

    def _head(self) -> None:
        self._text(
            QRectF(0, 0, self.width, 24),
            f"{self.results.design.project.name}: cut sheet",
            theme.font(14, bold=True),
        )
        faults = sum(f.severity == 0 for f in self.results.findings)
        state = f"{faults} faults are open: see the Sizes desk before cutting" if faults else "no faults open"
        self._text(
            QRectF(0, 24, self.width, 16),
            state,
            theme.font(9),
            theme.BROKEN.name() if faults else theme.GOOD.name(),
        )
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

    def _table(
        self,
        titles: Sequence[str],
        shares: Sequence[float],
        right: Sequence[int],
        rows: Sequence[Sequence[str]],
    ) -> None:
        bold, plain = theme.font(8.5, bold=True), theme.font(8.5)
        head = self._height(titles, shares, bold)
        first = self._height(rows[0], shares, plain) if rows else 0.0
        self._row_or_page(head + first)
        self._cells(titles, shares, right, bold, head)
        for number, cells in enumerate(rows):
            line = self._height(cells, shares, plain)
            if self._row_or_page(line):
                self._cells(titles, shares, right, bold, head)
            if number % 2:
                self.painter.fillRect(QRectF(0, self.y, self.width, line), theme.PAPER)
            self._cells(cells, shares, right, plain, line)

    def _height(self, cells: Sequence[str], shares: Sequence[float], font: QFont) -> float:
        """Height of a row whose texts wrap: nothing on paper is cut."""
        metrics = QFontMetricsF(font)
        tall = metrics.height()
        for text, share in zip(cells, shares, strict=True):
            room = QRectF(0, 0, share * self.width - 6, 1e5)
            tall = max(tall, metrics.boundingRect(room, wrapping(text, room.width(), metrics), text).height())
        return tall + 4

    def _row_or_page(self, room: float) -> bool:
        """Turns the page when `room` is not left; says whether it did."""
        if self.y + room <= self.height - 24:
            return False
        self._foot()
        self.writer.newPage()
        self.page += 1
        self.y = 0.0
        return True

    def _cells(
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
            if text == "☐":
                self.painter.setPen(QPen(theme.INK, 0.8))
                self.painter.drawRect(QRectF(box.left() + 8, box.center().y() - 4.5, 9, 9))
            else:
                self._text(
                    box, text, font, flags=side | Qt.AlignmentFlag.AlignVCenter | wrapping(text, box.width(), metrics)
                )
            x += share * self.width
        self.y += line
        self.painter.setPen(QPen(theme.PAPER_DIM, 0.6))
        self.painter.drawLine(0, round(self.y), round(self.width), round(self.y))

    def _foot(self) -> None:
        note = "Engineering estimates: the applicable code, class or vehicle rule and a licensed person decide. Disconnect the source first."
        self._text(
            QRectF(0, self.height - 16, self.width, 14),
            note,
            theme.font(7.5),
            theme.INK_SOFT.name(),
        )
        page = QRectF(0, self.height - 16, self.width, 14)
        self._text(page, f"page {self.page}", theme.font(7.5), flags=Qt.AlignmentFlag.AlignRight)

    def _text(
        self, box: QRectF, text: str, font: QFont, colour: str = theme.INK.name(),
        flags: int = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    ) -> None:  # fmt: skip
        self.painter.setFont(font)
        self.painter.setPen(QColor(colour))
        self.painter.drawText(box, int(flags), text)
