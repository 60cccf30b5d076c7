"""The papers page: what each paper is for, how it will look, and all that a build needs written in one go."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPageLayout
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
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

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.paper.leaves import DeviceLeaves, KeptLeaves, Leaves, Page
from umber_trunk.app.paper.look import Look, draw_paper
from umber_trunk.app.paper.pages_view import PagesView
from umber_trunk.app.paper.pdf import paper_pdf
from umber_trunk.app.widgets.desk import button, heading
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.board.sheets import SHEET_NAMES
from umber_trunk.core.errors import InputError, UmberError, Wanted, go_on_if
from umber_trunk.core.harness.project import Project
from umber_trunk.core.papers.papers import PAPERS, Asked, Paper
from umber_trunk.core.results import Results
from umber_trunk.core.stages import exports
from umber_trunk.store.files import write_whole
from umber_trunk.store.project import ProjectFile

MEASURES = (("Metric", "metric"), ("Inches and gauges", "inch"), ("Both", "both"))
SHEETS = (("A4", "a4"), ("Letter", "letter"))
OTHERS = ("wires-csv", "json", "lengths-csv", "board-svg", "board-dxf", "xlsx", "cuts-csv", "labels-csv", "tests-csv")
"""What else is written for other programs."""


def asked_of(project: ProjectFile, look: Look) -> tuple[Asked, str]:
    """(what papers are for: units, and the coils on the shelf, read on a connection of its own; why the shelf can't be
    read, "" where it can)."""
    try:
        with project.beside() as mine, mine.floor.shelf() as shelf:
            return Asked(look.units, tuple(held.now for held in shelf.coils())), ""
    except UmberError as why:
        return Asked(look.units), tr(" Without coils, since the shelf can’t be read: {why}", why=why)


class PapersSheet(QDialog):
    """Papers at the left with what they are for, the chosen one at the right as it will come out."""

    def __init__(
        self,
        document: Document,
        results: Results,
        export: Callable[[str], None],
        write: Callable[[Callable[[], str]], None],
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self.document, self.results, self.export, self._write_beside = document, results, export, write
        self.setWindowTitle(tr("Papers"))
        self.resize(1180, 760)
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
        self._asked(results.design.project)
        self.preview = PagesView(document.crashed.emit)
        self.preview.setAccessibleName(tr("How it comes out"))
        self.whole.toggled.connect(self.preview.show_whole)
        self._beside = Background(self)
        self._beside.answered.connect(self._arrived)
        self._beside.crashed.connect(document.crashed)
        self.told = Label()
        self.told.setWordWrap(True)
        self._ways_out()
        self._laid_out()
        self.list.currentRowChanged.connect(lambda _: self.show_paper())
        for signal in (
            self.units.valueChanged,
            self.measure.currentIndexChanged,
            self.sheet.currentIndexChanged,
            self.board.currentIndexChanged,
            self.lying.toggled,
            self.two_sided.toggled,
        ):
            signal.connect(lambda *_: self.show_paper())
        self.list.setCurrentRow(0)

    def _asked(self, project: Project) -> None:
        """What is asked of the papers: for how many units, in which measures, on which sheets."""
        self.units = QSpinBox(minimum=1, maximum=1000)
        self.units.setAccessibleName(tr("Units"))
        self.measure, self.sheet, self.board = QComboBox(), QComboBox(), QComboBox()
        for box, rows, now, name in (
            (self.measure, MEASURES, project.units, tr("Units of measure")),
            (self.sheet, SHEETS, project.paper, tr("Sheet")),
            (
                self.board,
                [(one.upper() if len(one) == 2 else one.capitalize(), one) for one in SHEET_NAMES],
                project.board.sheet,
                tr("Sheet for the board"),
            ),
        ):
            for label, data in rows:
                box.addItem(tr(label), data)
            box.setCurrentIndex(max(box.findData(now), 0))
            box.setAccessibleName(name)
        self.lying, self.two_sided = QCheckBox(tr("Lying")), QCheckBox(tr("Both sides"))
        self.lying.setChecked(project.landscape)
        self.two_sided.setToolTip(tr("Each sheet begins on a front"))
        self.whole = QCheckBox(tr("Whole pages"))

    def _ways_out(self) -> None:
        """As PDF, to the printer, for other programs."""
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
                self.whole,
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

    def look(self) -> Look:
        """How papers are asked for now."""
        return Look(
            self.units.value(),
            self.measure.currentData(),
            self.sheet.currentData(),
            self.lying.isChecked(),
            self.board.currentData(),
            self.two_sided.isChecked(),
        )

    def show_paper(self) -> None:
        """The chosen paper anew, worked out beside the window."""
        results, paper, look, project = self.results, self.paper, self.look(), self.document.project
        self.wrote(tr(paper.purpose), False)
        self.preview.say(tr("Working it out…"))

        def work(wanted: Wanted) -> tuple[str, list[Page]]:
            kept: list[KeptLeaves] = []

            def on(layout: QPageLayout, per_inch: float) -> Leaves:
                go_on_if(wanted)
                kept.append(KeptLeaves(layout, per_inch))
                return kept[-1]

            asked, but = asked_of(project, look)
            try:
                said = draw_paper(on, results, paper, look, asked)
            except UmberError as why:
                return str(why), []
            return f"{tr(said)}{but}", kept[-1].pages()

        self._beside.ask(work)

    def _arrived(self, what: tuple[str, list[Page]]) -> None:
        said, pages = what
        if not pages:
            self.preview.say(said)
            return
        self.told.setText(f"{tr('One page') if len(pages) == 1 else tr('{count} pages', count=len(pages))}. {said}")
        self.preview.show_pages(pages)

    @property
    def busy(self) -> bool:
        """Whether the paper that is shown is still being worked out or painted."""
        return self._beside.busy or self.preview.busy

    def write_all(self) -> None:
        """Every paper that is ticked, into a folder that is asked for."""
        folder = QFileDialog.getExistingDirectory(self, tr("Papers into which folder?"), str(self.document.path.parent))
        if folder:
            self.write_into(Path(folder))

    def write_into(self, folder: Path) -> None:
        """Every paper that is ticked as PDF into a folder, written beside the window: all of them or none."""
        stem = self.document.path.stem
        self._write(
            [
                (paper, folder / f"{stem}-{paper.kind}.pdf")
                for number, paper in enumerate(PAPERS)
                if self.list.item(number).checkState() == Qt.CheckState.Checked
            ]
        )

    def write_one(self) -> None:
        """The paper that is shown, as PDF."""
        name = self.document.path.with_name(f"{self.document.path.stem}-{self.paper.kind}.pdf")
        chosen, _ = QFileDialog.getSaveFileName(self, tr(self.paper.title), str(name), "PDF (*.pdf)")
        if chosen:
            self._write([(self.paper, Path(chosen))])

    def _write(self, papers: Sequence[tuple[Paper, Path]]) -> None:
        results, look, project = self.results, self.look(), self.document.project

        def work() -> str:
            told, (asked, but) = look.told(results), asked_of(project, look)
            made = [(path, paper_pdf(told, paper.kind, asked, look.two_sided)) for paper, path in papers]
            written = [path for path, data in made if data]
            if not written:
                raise InputError.of("window.nothing-to-say-on-any")
            for path, data in made:
                if data:
                    write_whole(path, data)
            if len(papers) == 1:
                return tr("{written} is written.{but}", written=written[0], but=but)
            return tr(
                "{count} {count|paper is|papers are} written to {parent}.{but}",
                count=len(written),
                parent=written[0].parent,
                but=but,
            )

        self._begun(work)

    def print_one(self) -> None:
        """The paper that is shown, by the desktop's own print dialog."""
        results, paper, look, project = self.results, self.paper, self.look(), self.document.project
        printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)
        printer.setDocName(f"{results.design.project.name}: {paper.title}")
        printer.setPageOrientation(
            QPageLayout.Orientation.Landscape
            if look.lying and paper.kind != "board"
            else QPageLayout.Orientation.Portrait
        )
        if QPrintDialog(printer, self).exec() != QDialog.DialogCode.Accepted:
            return

        def on(layout: QPageLayout, per_inch: float) -> Leaves:
            printer.setPageLayout(layout)
            return DeviceLeaves(printer, per_inch)

        def work() -> str:
            asked, but = asked_of(project, look)
            draw_paper(on, results, paper, look, asked)
            return tr(
                "{title}: sent to {printer}.{but}",
                title=paper.title,
                printer=printer.printerName() or printer.outputFileName() or "the printer",
                but=but,
            )

        self._begun(work)

    def _begun(self, work: Callable[[], str]) -> None:
        self.told.setText(tr("Working it out; it is written as soon as that is done."))
        self._write_beside(work)

    def wrote(self, said: str, fault: bool) -> None:
        """What was written, or why it couldn't be."""
        self.told.setText(said)
        self.told.setProperty("role", "fault" if fault else "")
        theme.restyle(self.told)

    def _other(self, at: int) -> None:
        kind = self.others.itemData(at)
        self.others.setCurrentIndex(0)
        if kind:
            self.export(kind)
