"""Sheets as a PDF on the project’s paper, or onto leaves that are drawn anywhere."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF
from PySide6.QtGui import QPageLayout, QPageSize, QPdfWriter

from umber_trunk.app import theme
from umber_trunk.app.paper.drawable import able_to_draw
from umber_trunk.app.paper.leaves import PIXELS_AN_INCH, DeviceLeaves, KeptLeaves, Leaves
from umber_trunk.app.paper.pages import Pages
from umber_trunk.core.buy.lines import Buy
from umber_trunk.core.buy.shopping_sheet import shopping_sheet
from umber_trunk.core.harness.project import Project
from umber_trunk.core.papers.papers import Asked, paper_of
from umber_trunk.core.printed import Contents, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.stages import fetched


def page_layout(project: Project) -> QPageLayout:
    """The project's paper, with its margins."""
    return QPageLayout(
        QPageSize(QPageSize.PageSizeId.Letter if project.paper == "letter" else QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Landscape if project.landscape else QPageLayout.Orientation.Portrait,
        QMarginsF(12, 12, 12, 12),
        QPageLayout.Unit.Millimeter,
    )


def pdf_writer(results: Results, title: str) -> tuple[QPdfWriter, QBuffer]:
    """A PDF on the project's paper, to be drawn on, and where its bytes are then."""
    able_to_draw()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(int(PIXELS_AN_INCH))
    writer.setPageLayout(page_layout(results.design.project))
    writer.setTitle(title)
    writer.setCreator("")
    return writer, buffer


def pdf_of(results: Results, sheets: Sequence[Printed], two_sided: bool = False) -> bytes:
    """Sheets on the project's paper, as many pages as they take."""
    writer, buffer = pdf_writer(results, sheets[0].title if sheets else results.design.project.name)
    draw_on(DeviceLeaves(writer), sheets, results, two_sided)
    return bytes(buffer.data().data())


def paper_pdf(results: Results, kind: str, asked: Asked | None = None, two_sided: bool = False) -> bytes:
    """One paper by its name; b"" where it has nothing to say. A board and labels have pages of their own size."""
    paper, asked = paper_of(kind), asked or Asked()
    if paper.made is None:
        drawn: bytes = fetched(paper.own)(results, asked)
        return drawn
    sheets = paper.made(results, asked)
    return pdf_of(results, sheets, two_sided) if sheets else b""


def shopping_pdf(results: Results, buys: Sequence[Buy], units: int) -> bytes:
    """The shopping list on the project's paper."""
    return pdf_of(results, [shopping_sheet(results, buys, units)])


def draw_on(leaves: Leaves, sheets: Sequence[Printed], results: Results, two_sided: bool = False) -> int:
    """All pages of sheets, in the colours of paper; how many. Where a sheet has contents, it is laid out once before,
    to know its pages."""
    with theme.as_on_paper():
        begins: dict[str, int] = {}
        if any(isinstance(part, Contents) for sheet in sheets for part in sheet.parts):
            before = Pages(KeptLeaves(page_layout(results.design.project)), results, two_sided)
            before.draw(sheets)
            begins = before.begins
        pages = Pages(leaves, results, two_sided, begins)
        pages.draw(sheets)
        return pages.page
