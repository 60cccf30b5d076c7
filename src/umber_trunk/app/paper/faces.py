"""Pin maps and faces on paper at true scale: one millimetre on the page is one on the connector."""

from __future__ import annotations

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QRectF
from PySide6.QtGui import QPageLayout, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgRenderer

from umber_trunk.app.paper.pages import able_to_draw, page_layout
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.svg import faces_svg
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import UmberError
from umber_trunk.core.results import Results

DOTS_PER_MM = 600 / 25.4
MARGIN_MM = 10.0


def pin_maps_pdf(results: Results) -> bytes:
    """Every end whose housing is known, both sides of its face and who is where. UmberError where there is none."""
    ends = list(dict.fromkeys(end.id for end, _, _ in places_of(results.design, results.shelf).housings()))
    if not ends:
        raise UmberError("No end has a housing from the catalogue yet; choose one on the Ends desk.")
    able_to_draw()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(600)
    writer.setTitle(f"{results.design.project.name}: pin maps")
    layout: QPageLayout = page_layout(results.design.project)
    layout.setMode(QPageLayout.Mode.FullPageMode)
    layout.setMargins(QMarginsF(0, 0, 0, 0))
    writer.setPageLayout(layout)
    page = layout.fullRect(QPageLayout.Unit.Millimeter)
    painter = QPainter(writer)
    y = MARGIN_MM
    for number, end in enumerate(ends):
        for side in ("wire", "mating"):
            svg = QSvgRenderer(QByteArray(faces_svg(faces_in(results, end, side)).encode()))
            box = svg.viewBoxF()
            if y > MARGIN_MM and y + box.height() > page.height() - MARGIN_MM:
                writer.newPage()
                y = MARGIN_MM
            svg.render(
                painter,
                QRectF(MARGIN_MM * DOTS_PER_MM, y * DOTS_PER_MM, box.width() * DOTS_PER_MM, box.height() * DOTS_PER_MM),
            )
            y += box.height()
        if number + 1 < len(ends) and y > page.height() / 2:
            writer.newPage()
            y = MARGIN_MM
    painter.end()
    buffer.close()
    return bytes(data.data())
