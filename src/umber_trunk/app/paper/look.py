"""A paper as somebody asks to see it: drawn on pages to look at, or on a printer's."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QPageLayout

from umber_trunk.app.paper.board import board_layout, draw_board_on
from umber_trunk.app.paper.labels import draw_overview
from umber_trunk.app.paper.leaves import MM_AN_INCH, PIXELS_AN_INCH, Leaves
from umber_trunk.app.paper.pdf import draw_on, page_layout
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.board.sheets import sheets_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.papers.papers import Asked, Paper, in_units
from umber_trunk.core.results import Results

OnPages = Callable[[QPageLayout, float], Leaves]
"""Pages of a layout, with so many units an inch."""


@dataclass(frozen=True)
class Look:
    """How papers are asked for: units to make, of measure, the sheet and how it lies, the board's sheet, one or both
    sides printed."""

    units: int
    measure: str
    sheet: str
    lying: bool
    board: str
    two_sided: bool

    def told(self, results: Results) -> Results:
        """The results as they are told on paper."""
        kept = results.design.project.board
        board = None if kept.sheet == self.board else kept.model_copy(update={"sheet": self.board})
        return in_units(results, self.measure, self.sheet, self.lying, board)


def draw_paper(on: OnPages, results: Results, paper: Paper, look: Look, asked: Asked) -> str:
    """Draws one paper; what is to be said beside it. UmberError where it can't be drawn or has nothing to say."""
    results = look.told(results)
    if paper.kind == "board":
        made, overlap = results.once(drawing), results.design.project.board.overlap_mm
        sheets = sheets_of(made, look.board, overlap)
        draw_board_on(on(board_layout(sheets), MM_AN_INCH), made, look.board, overlap)
        many = len(sheets.tiles)
        return (
            tr("One sheet, as large as the board.")
            if many == 1
            else tr("{many} sheets, only where something lies; the index comes first.", many=many)
        )
    if paper.made is None:
        draw_overview(on(page_layout(results.design.project), PIXELS_AN_INCH), results)
        return paper.purpose
    drawn = paper.made(results, asked)
    if not drawn:
        raise InputError.of("window.nothing-to-say-on", title=paper.title.lower())
    draw_on(on(page_layout(results.design.project), PIXELS_AN_INCH), drawn, results, look.two_sided)
    return paper.purpose
