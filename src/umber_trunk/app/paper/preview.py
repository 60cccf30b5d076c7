"""The cut sheet before it is printed."""

from __future__ import annotations

from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QWidget

from umber_trunk.app import theme
from umber_trunk.app.paper.cut_sheet import draw_on, page_layout
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.results import Results


def preview(results: Results, parent: QWidget | None = None) -> QPrintPreviewDialog:
    """The pages as they will come out, with the desktop's own print dialog behind them."""
    printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)
    printer.setPageLayout(page_layout(results.design.project))
    printer.setDocName(results.design.project.name)
    dialog = QPrintPreviewDialog(printer, parent)
    dialog.setWindowTitle(tr("Print the cut sheet"))
    dialog.resize(960, 720)

    def paint(target: QPrinter) -> None:
        with theme.as_on_paper():
            draw_on(target, results)

    dialog.paintRequested.connect(paint)
    dialog.setProperty("printer", printer)  # the dialog does not own it
    return dialog
