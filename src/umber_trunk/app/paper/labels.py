"""Labels at size, as flags and wraps, each with its code to scan."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import lru_cache
from itertools import groupby

import segno
from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSizeF, Qt
from PySide6.QtGui import QFontMetricsF, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen

from umber_trunk.app import theme
from umber_trunk.app.paper.drawable import able_to_draw
from umber_trunk.app.paper.leaves import MM_AN_INCH, PIXELS_AN_INCH, Leaves
from umber_trunk.core.make.book import WireLabel
from umber_trunk.core.papers.label_forms import LabelForm, label_forms
from umber_trunk.core.papers.papers import Asked
from umber_trunk.core.results import Results

PER_MM = PIXELS_AN_INCH / MM_AN_INCH
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
                painter.fillRect(
                    QRectF(left + x * side, top + y * side, side * (wide + 0.02), side * 1.02), Qt.GlobalColor.black
                )
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


def draw_form(painter: QPainter, one: LabelForm) -> None:
    """A label as it lies on its roll, in screen pixels: a wrap's code stands first, then its wire's name along the
    wire, line after line."""
    boxes = [QRectF(a * PER_MM, b * PER_MM, (c - a) * PER_MM, (d - b) * PER_MM) for a, b, c, d in one.prints]
    if not one.turned:
        for box in boxes:
            draw_label(painter, one.label, box)
        return
    draw_code(painter, one.label.code, boxes[0].adjusted(1, 1, -1, -1))
    for box in boxes[1:]:
        painter.save()
        painter.translate(box.left(), box.bottom())
        painter.rotate(-90)
        line = QRectF(0, 0, box.height(), box.width())
        point = line.height() * 0.62
        while (
            point > 3 and QFontMetricsF(theme.font(point, bold=True)).horizontalAdvance(one.label.wire) > line.width()
        ):
            point -= 0.3
        painter.setFont(theme.font(point, bold=True))
        painter.setPen(Qt.GlobalColor.black)
        painter.drawText(line, int(Qt.AlignmentFlag.AlignCenter), one.label.wire)
        painter.restore()


def paper_of(results: Results, _: Asked) -> bytes:
    """One plain label a page, each page as large as the label."""
    return forms_pdf(label_forms(results))


def draw_overview(leaves: Leaves, results: Results) -> None:
    """Labels as they come off the roll, many on a page: to look at, or to cut out."""
    with theme.as_on_paper():
        x = y = row = 0.0
        for one in label_forms(results):
            wide, tall = one.long_mm * PER_MM, one.roll_mm * PER_MM
            if x and x + wide > leaves.wide:
                x, y = 0.0, y + row + 4
            if y + tall > leaves.tall:
                leaves.turn()
                x = y = 0.0
            painter = leaves.painter
            painter.save()
            painter.translate(x, y)
            painter.setPen(QPen(theme.INK_SOFT, 0.5))
            painter.drawRect(QRectF(0, 0, wide, tall))
            draw_form(painter, one)
            painter.restore()
            x, row = x + wide + 6, tall
        leaves.end()


def forms_pdf(made: Iterable[LabelForm], told: Callable[[int], None] = lambda _: None) -> bytes:
    """Labels one a page, each page as long as its label."""
    able_to_draw()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(int(PIXELS_AN_INCH))  # letters are sized by it
    writer.setTitle("labels")
    writer.setCreator("")
    painter: QPainter | None = None
    with theme.as_on_paper():
        for number, one in enumerate(made):
            told(number)
            size = QPageSize(
                QSizeF(one.long_mm, one.roll_mm),
                QPageSize.Unit.Millimeter,
                "label",
                QPageSize.SizeMatchPolicy.ExactMatch,
            )
            layout = QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
            layout.setMode(QPageLayout.Mode.FullPageMode)
            writer.setPageLayout(layout)
            if painter is None:
                painter = QPainter(writer)
            else:
                writer.newPage()
            draw_form(painter, one)
    if painter is not None:
        painter.end()
    return bytes(buffer.data().data())
