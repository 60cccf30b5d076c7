"""The cut sheet before it is printed."""

from __future__ import annotations

from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QWidget

from umber_trunk.app.paper.pages import draw_on, page_layout
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.papers.cut_paper import cut_sheet
from umber_trunk.core.results import Results


class CutSheetPreview(QPrintPreviewDialog):
    """The pages as they will come out, with the desktop's own print dialog behind them."""

    def __init__(self, results: Results, parent: QWidget | None = None) -> None:
        self.results = results
        self.printer_kept = QPrinter(QPrinter.PrinterMode.ScreenResolution)  # the dialog does not own it
        self.printer_kept.setPageLayout(page_layout(results.design.project))
        self.printer_kept.setDocName(results.design.project.name)
        super().__init__(self.printer_kept, parent)
        self.setWindowTitle(tr("Print the cut sheet"))
        self.resize(960, 720)
        self.paintRequested.connect(self._paint)

    def _paint(self, printer: QPrinter) -> None:
        draw_on(printer, [cut_sheet(self.results)], self.results)
