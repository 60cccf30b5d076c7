"""The papers page: what each paper is for, how it will look, and all that a build needs written in one go."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMarginsF, QSizeF, Qt
from PySide6.QtGui import QPageLayout, QPageSize
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrintPreviewWidget
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.document import Document
from umber_trunk.app.paper.pages import draw_on, page_layout, paper_pdf
from umber_trunk.app.widgets.desk import button, heading
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.board.drawing import drawing
from umber_trunk.core.board.sheets import SHEET_NAMES, sheets_of
from umber_trunk.core.errors import UmberError
from umber_trunk.core.papers.papers import PAPERS, Asked, Paper, in_units
from umber_trunk.core.results import Results
from umber_trunk.core.stages import exports
from umber_trunk.store.files import write_whole

MEASURES = (("Metric", "metric"), ("Inches and gauges", "inch"), ("Both", "both"))
SHEETS = (("A4", "a4"), ("Letter", "letter"))
OTHERS = ("wires-csv", "json", "lengths-csv", "board-svg", "board-dxf", "xlsx", "cuts-csv", "labels-csv", "tests-csv")
"""What else is written for other programs."""


class PapersSheet(QDialog):
    """Papers at the left with what they are for, the chosen one at the right as it will come out."""

    def __init__(self, document: Document, results: Results, export: Callable[[str], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.document, self.results, self.export = document, results, export
        self.setWindowTitle(tr("Papers"))
        self.resize(1180, 760)
        project = results.design.project
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Papers"))
        for paper in PAPERS:
            item = QListWidgetItem(f"{tr(paper.title)}\n{tr(paper.purpose)}")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if paper.needed else Qt.CheckState.Unchecked)
            item.setToolTip(plain_of(paper.purpose))
            self.list.addItem(item)
        self.list.setWordWrap(True)
        self.list.setMinimumWidth(330)
        self.units = QSpinBox(minimum=1, maximum=1000)
        self.units.setAccessibleName(tr("Units"))
        self.measure, self.sheet, self.board = QComboBox(), QComboBox(), QComboBox()
        for box, rows, now, name in ((self.measure, MEASURES, project.units, "Units of measure"), (self.sheet, SHEETS, project.paper, "Sheet"),
                                     (self.board, [(one.upper() if len(one) == 2 else one.capitalize(), one) for one in SHEET_NAMES], project.board.sheet, "Sheet for the board")):  # fmt: skip
            for label, data in rows:
                box.addItem(tr(label), data)
            box.setCurrentIndex(max(box.findData(now), 0))
            box.setAccessibleName(tr(name))
        self.lying, self.two_sided = QCheckBox(tr("Lying")), QCheckBox(tr("Both sides"))
        self.lying.setChecked(project.landscape)
        self.two_sided.setToolTip("Each sheet begins on a front")
        self.printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)  # the preview does not own it
        self.preview = QPrintPreviewWidget(self.printer)
        self.preview.paintRequested.connect(self._paint)
        self.told = Label()
        self.told.setWordWrap(True)
        self.all = button(
            tr("All that this build needs…"),
            self.write_all,
            primary=True,
            tip=tr("Writes every paper that is ticked, as PDF into one folder"),
        )
        self.one = button(tr("Save this one…"), self.write_one)
        self.print = button(tr("Print this one…"), self.print_one)
        self.others = QComboBox()
        self.others.setAccessibleName(tr("For other programs"))
        self.others.addItem(tr("For other programs…"), "")
        for kind in OTHERS:
            self.others.addItem(tr(exports()[kind].title), kind)
        self.others.activated.connect(self._other)
        self._laid_out()
        self.list.currentRowChanged.connect(lambda _: self.show_paper())
        for signal in (self.units.valueChanged, self.measure.currentIndexChanged, self.sheet.currentIndexChanged, self.board.currentIndexChanged,
                       self.lying.toggled, self.two_sided.toggled):  # fmt: skip
            signal.connect(lambda *_: self.show_paper())
        self.list.setCurrentRow(0)

    def _laid_out(self) -> None:
        layout = QHBoxLayout(self)
        left = QVBoxLayout()
        left.addWidget(heading(tr("Papers")))
        left.addWidget(self.list, 1)
        left.addWidget(self.all)
        left.addWidget(self.others)
        right = QVBoxLayout()
        right.addLayout(
            Flow(
                Label(tr("Units")),
                self.units,
                self.measure,
                self.sheet,
                self.lying,
                self.two_sided,
                Label(tr("Board on")),
                self.board,
                None,
                self.one,
                self.print,
            )
        )
        right.addWidget(self.told)
        right.addWidget(self.preview, 1)
        layout.addLayout(left, 2)
        layout.addLayout(right, 5)

    @property
    def paper(self) -> Paper:
        """The one that is shown."""
        return PAPERS[max(self.list.currentRow(), 0)]

    def asked(self) -> Asked:
        """What they are for: units, and the coils on the shelf."""
        project = self.document.project
        try:
            with project.floor.shelf() as shelf:
                coils = tuple(held.now for held in shelf.coils())
        except UmberError:
            coils = ()
        return Asked(self.units.value(), coils)

    def shown(self) -> Results:
        """The results as they are told on paper."""
        made = in_units(self.results, self.measure.currentData(), self.sheet.currentData(), self.lying.isChecked())
        if made.design.project.board.sheet == self.board.currentData():
            return made
        board = made.design.project.board.model_copy(update={"sheet": self.board.currentData()})
        return in_units(made, "", "", None, board)

    def show_paper(self) -> None:
        """The chosen paper anew."""
        results, paper = self.shown(), self.paper
        layout = page_layout(results.design.project)
        if paper.kind == "board":
            try:
                sheets = sheets_of(
                    results.once(drawing), self.board.currentData(), results.design.project.board.overlap_mm
                )
                size = QPageSize(
                    QSizeF(*sheets.page_mm), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.ExactMatch
                )
                layout = QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0))
                layout.setMode(QPageLayout.Mode.FullPageMode)
                self.told.setText(
                    f"{len(sheets.tiles)} {'sheet' if len(sheets.tiles) == 1 else 'sheets'}, only where something lies; the index comes first."
                )
            except UmberError as why:
                self.told.setText(str(why))
        else:
            self.told.setText(tr(paper.purpose))
        self.printer.setPageLayout(layout)
        self.printer.setDocName(f"{results.design.project.name}: {paper.title}")
        self.preview.updatePreview()

    def _paint(self, printer: QPrinter) -> None:
        results, paper = self.shown(), self.paper
        try:
            if paper.kind == "board":
                from umber_trunk.app.paper.board import draw_board_on

                draw_board_on(
                    printer, results.once(drawing), self.board.currentData(), results.design.project.board.overlap_mm
                )
            elif paper.kind == "labels":
                from umber_trunk.app.paper.labels import draw_overview

                draw_overview(printer, results)
            elif paper.made is not None:
                sheets = paper.made(results, self.asked())
                if not sheets:
                    self.told.setText(tr("This harness has nothing to say on it."))
                draw_on(printer, sheets, results, self.two_sided.isChecked())
        except UmberError as why:
            self.told.setText(str(why))

    def write_all(self) -> None:
        """Every paper that is ticked, into a folder that is asked for."""
        folder = QFileDialog.getExistingDirectory(self, tr("Papers into which folder?"), str(self.document.path.parent))
        if folder:
            self.write_into(Path(folder))

    def write_into(self, folder: Path) -> list[Path]:
        """Every paper that is ticked as PDF into a folder; says what was written, or why not."""
        results, stem = self.shown(), self.document.path.stem
        ticked = [
            paper for number, paper in enumerate(PAPERS) if self.list.item(number).checkState() == Qt.CheckState.Checked
        ]
        made: list[tuple[Path, bytes]] = []
        try:
            for paper in ticked:
                if data := paper_pdf(results, paper.kind, self.asked(), self.two_sided.isChecked()):
                    made.append((folder / f"{stem}-{paper.kind}.pdf", data))
            for path, data in made:
                write_whole(path, data)
        except UmberError as why:
            self.told.setText(str(why))
            return []
        self.told.setText(f"{len(made)} {'paper is' if len(made) == 1 else 'papers are'} written to {folder}.")
        return [path for path, _ in made]

    def write_one(self) -> None:
        """The paper that is shown, as PDF."""
        name = self.document.path.with_name(f"{self.document.path.stem}-{self.paper.kind}.pdf")
        chosen, _ = QFileDialog.getSaveFileName(self, tr(self.paper.title), str(name), "PDF (*.pdf)")
        if chosen:
            try:
                write_whole(
                    Path(chosen), paper_pdf(self.shown(), self.paper.kind, self.asked(), self.two_sided.isChecked())
                )
            except UmberError as why:
                self.told.setText(str(why))
                return
            self.told.setText(f"{chosen} is written.")

    def print_one(self) -> None:
        """The paper that is shown, by the desktop's own print dialog."""
        if QPrintDialog(self.printer, self).exec() == QDialog.DialogCode.Accepted:
            self._paint(self.printer)

    def _other(self, at: int) -> None:
        kind = self.others.itemData(at)
        self.others.setCurrentIndex(0)
        if kind:
            self.export(kind)
