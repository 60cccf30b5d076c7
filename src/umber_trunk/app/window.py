"""The window: rail on top, the trunk picture, the desk of the stage, and one line of what is worst."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.desks.kit.desk import FILTERS, KitDesk
from umber_trunk.app.desks.needs.desk import NeedsDesk
from umber_trunk.app.desks.runs.desk import RunsDesk
from umber_trunk.app.desks.sizes.desk import SizesDesk
from umber_trunk.app.document import Document
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.finder import Finder
from umber_trunk.app.sheets.import_sheet import ImportDialog
from umber_trunk.app.sheets.kept import CopiesSheet, RevisionsSheet
from umber_trunk.app.sheets.why import WhySheet
from umber_trunk.app.trunk.view import TrunkView
from umber_trunk.app.widgets.desk import Desk
from umber_trunk.app.widgets.plain import Label, menu_text, plain_of
from umber_trunk.app.widgets.rail import STAGE_NAMES, StageRail
from umber_trunk.app.widgets.worst import WorstLine
from umber_trunk.core.errors import UmberError
from umber_trunk.core.results import Results

KEYS = "Alt+1 … Alt+4 desks   ·   F1 why   ·   F8 next thing open   ·   Ctrl+F find   ·   F6 picture   ·   Ctrl+Z undo"
HOME_OF = {
    "loads": "needs",
    "supplies": "needs",
    "zones": "needs",
    "segments": "runs",
    "wires": "sizes",
}
"""Which desk shows a table's parts; ends are shown on the picture alone."""


class Window(QMainWindow):
    """One open harness.

    Signals: wants_file(object): open this path (None: ask for a new one) in place of this window.
    """

    wants_file = Signal(object)

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document = document
        self.settings = settings
        self.rail = StageRail()
        self.trunk = TrunkView(document)
        self.desks: dict[str, Desk] = {
            "needs": NeedsDesk(document), "runs": RunsDesk(document), "sizes": SizesDesk(document), "kit": KitDesk(document),
        }  # fmt: skip
        self.stack = QStackedWidget()
        self.why = WhySheet(self.stack)
        self.worst = WorstLine()
        self.status = Label()
        self._lay_out()
        self._wire_up()
        self._actions()
        self.show_stage("needs")
        self.say(KEYS)
        self._title()
        self.resize(1280, 800)

    def _lay_out(self) -> None:
        bar = QWidget()
        bar.setObjectName("bar")
        bar.setStyleSheet(f"#bar {{ background: {theme.UMBER.name()}; }}")
        self.menu_button = QPushButton("Harness")
        self.find_button = QPushButton("Find  Ctrl+F")
        self.name = Label()
        self.name.setStyleSheet(f"color: {theme.CHALK.name()}; font-weight: bold;")
        top = QHBoxLayout(bar)
        top.setContentsMargins(10, 0, 10, 0)
        for widget, share in (
            (self.menu_button, 0),
            (self.name, 0),
            (self.rail, 1),
            (self.find_button, 0),
        ):
            top.addWidget(widget, share)
        for desk in self.desks.values():
            self.stack.addWidget(desk)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.split.addWidget(self.trunk)
        self.split.addWidget(self.stack)
        self.split.setSizes([310, 400])
        self.split.setChildrenCollapsible(False)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(bar)
        layout.addWidget(self.worst)
        layout.addWidget(self.split, 1)
        self.status.setContentsMargins(12, 3, 12, 3)
        self.status.setStyleSheet(f"background: {theme.CHALK_DIM.name()};")
        layout.addWidget(self.status)
        self.setCentralWidget(whole)

    def _wire_up(self) -> None:
        self.rail.chosen.connect(self.show_stage)
        self.trunk.canvas.picked.connect(self.pick)
        self.worst.chosen.connect(self.go_to)
        self.document.changed.connect(self._title)
        self.document.analysed.connect(self._analysed)
        self.document.noted.connect(self.say)
        self.document.refused.connect(lambda text: self.say(text, fault=True))
        for desk in self.desks.values():
            desk.why.connect(self.why.show_why)
            desk.picked.connect(lambda table, part: self.trunk.canvas.select({(table, part)}))
            desk.said.connect(self.say)
        sizes = self.desks["sizes"]
        assert isinstance(sizes, SizesDesk)
        sizes.paint_by.currentIndexChanged.connect(lambda _: self._paint_by(str(sizes.paint_by.currentData())))
        sizes.looked_at.connect(self.trunk.canvas.look_at)
        self.find_button.clicked.connect(self.find)

    def _actions(self) -> None:
        """Every command once: menu, key and callback."""
        menu = QMenu(self)
        plan: list[tuple[str, str, Callable[[], object]] | None] = [
            ("New harness…", "Ctrl+N", self.new_file), ("Open…", "Ctrl+O", self.open_file), ("Recent", "", lambda: None), None,
            ("Import wire list…", "Ctrl+I", self.import_list),
            *((f"Export {FILTERS[kind][0].lower()}…", key, lambda kind=kind: self._export(kind))
              for kind, key in (("pdf", "Ctrl+P"), ("xlsx", "Ctrl+E"), ("cuts-csv", ""), ("wires-csv", ""), ("json", ""))), None,
            ("Undo", "Ctrl+Z", self.document.undo), ("Redo", "Ctrl+Shift+Z", self.document.redo), ("Find…", "Ctrl+F", self.find),
            ("Revisions…", "Ctrl+H", self.show_revisions), ("Copies kept by day…", "", self.show_copies),
            ("Why is this so?", "F1", self.ask_why), ("Next thing open", "F8", self.worst.step), None,
            *((f"{name} desk", f"Alt+{n}", lambda stage=stage: self.show_stage(stage)) for n, (stage, name) in enumerate(STAGE_NAMES, 1)),
            ("To the trunk picture", "F6", self.trunk.canvas.setFocus), None,
            ("Larger text", "Ctrl++", lambda: self.scale(1.1)), ("Smaller text", "Ctrl+-", lambda: self.scale(1 / 1.1)),
            ("Usual text size", "Ctrl+0", lambda: self.scale(0)), None, ("Close", "Ctrl+Q", self.close),
        ]  # fmt: skip
        self.actions_by_name: dict[str, QAction] = {}
        for entry in plan:
            if entry is None:
                menu.addSeparator()
                continue
            name, key, act = entry
            if name == "Recent":
                menu.addMenu(self._recent_menu(menu))
                continue
            action = QAction(name, self)
            if key:
                action.setShortcuts(
                    [QKeySequence(key), QKeySequence("Ctrl+=")] if key == "Ctrl++" else [QKeySequence(key)]
                )
            action.triggered.connect(lambda _=False, act=act: act())
            menu.addAction(action)
            self.addAction(action)
            self.actions_by_name[name] = action
        menu.aboutToShow.connect(self._name_undo)
        self.menu_button.setMenu(menu)

    def _recent_menu(self, parent: QMenu) -> QMenu:
        recent = QMenu("Recent harnesses", parent)
        paths = [path for path in self.settings.recent() if path != self.document.path]
        for path in paths:
            recent.addAction(menu_text(str(path)), lambda path=path: self.wants_file.emit(path))
        recent.setEnabled(bool(paths))
        return recent

    def _name_undo(self) -> None:
        project = self.document.project
        for name, label in (("Undo", project.can_undo()), ("Redo", project.can_redo())):
            self.actions_by_name[name].setText(f"{name}: {menu_text(label, 60)}" if label else name)
            self.actions_by_name[name].setEnabled(bool(label) and not project.read_only)

    def _title(self) -> None:
        name = self.document.design.project.name
        self.setWindowTitle(f"{name} – Umber Trunk".replace("[*]", "[*][*]"))
        self.name.setText(name if len(name) < 34 else name[:32] + "…")
        self.name.setToolTip(plain_of(str(self.document.path)))
        if self.document.project.read_only:
            self.say(
                f"Read only: {self.document.project.why_read_only}. Nothing can be changed here.",
                fault=True,
            )

    def _analysed(self, analysis: Results) -> None:
        self.rail.show_findings(analysis.findings)
        self.worst.show_findings(analysis.findings, self.stage)

    @property
    def stage(self) -> str:
        """The stage on screen."""
        return self.rail.current

    def show_stage(self, stage: str) -> None:
        """Brings a stage's desk up and paints the trunk its way."""
        self.rail.show_stage(stage)
        self.stack.setCurrentWidget(self.desks[stage])
        self.trunk.canvas.show_stage(stage)
        if self.document.analysis is not None:
            self.worst.show_findings(self.document.analysis.findings, stage)
        desk = self.desks[stage]
        if isinstance(desk, NeedsDesk):
            desk.line.setFocus()
        elif desk.views:
            desk.views[0][1].setFocus()

    def pick(self, table: str, part: str) -> None:
        """A part was chosen on the picture: halo, status line, and its row where this desk has one."""
        self.trunk.canvas.select({(table, part)})
        self.say(self.trunk.canvas.describe((table, part)))
        self.desks[self.stage].reveal(table, part)
        sizes = self.desks[self.stage]
        if table == "segments" and isinstance(sizes, SizesDesk):
            sizes.show_segment(part)
        if table == "ends":
            load = next((row.id for row in self.document.design.loads if row.plus.end == part), None)
            if load and self.stage == "needs":
                self.desks["needs"].reveal("loads", load)
            self.trunk.canvas.select({("ends", part)})

    def go_to(self, table: str, part: str) -> None:
        """Shows a part wherever it is at home."""
        home = HOME_OF.get(table)
        if home and not self.desks[self.stage].reveal(table, part):
            self.show_stage(home)
            self.desks[home].reveal(table, part)
        self.trunk.canvas.select({(table, part)})
        self.say(self.trunk.canvas.describe((table, part)))

    def say(self, text: str, fault: bool = False) -> None:
        """One line at the bottom."""
        paper, ink = (theme.OXIDE, theme.CHALK_BRIGHT) if fault else (theme.CHALK_DIM, theme.UMBER_DEEP)
        self.status.setStyleSheet(f"background: {paper.name()}; color: {ink.name()};")
        self.status.setText(("✕ " if fault else "") + text)

    def find(self) -> None:
        """Opens the finder."""
        finder = Finder(self.document.design, self)
        finder.found.connect(self.go_to)
        finder.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        finder.open()

    def ask_why(self) -> None:
        """Why is the figure in the current cell what it is?"""
        if not self.document.fresh:
            self.say("The figures are still being worked out.")
        elif not self.desks[self.stage].ask_why():
            self.say("Choose a figure in a table first: volts, temperature, size, cut length.")

    def show_revisions(self) -> RevisionsSheet:
        """Every kept revision, to go to or to freeze."""
        sheet = RevisionsSheet(self.document, self)
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()
        return sheet

    def show_copies(self) -> CopiesSheet:
        """The copies kept by day, those of this harness first."""
        sheet = CopiesSheet(self.document.path.stem, self)
        sheet.restored.connect(self.wants_file)
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()
        return sheet

    def new_file(self) -> None:
        """Asks for a name and starts an empty harness there."""
        self.wants_file.emit(None)

    def open_file(self) -> None:
        """Asks for a harness file."""
        name, _ = QFileDialog.getOpenFileName(
            self,
            "Open a harness",
            str(self.document.path.parent),
            "Harness (*.umber);;Any file (*)",
        )
        if name:
            self.wants_file.emit(Path(name))

    def import_list(self) -> None:
        """Asks for a list and opens the import sheet."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Import a wire list", "", "Wire lists (*.csv *.tsv *.txt *.xlsx *.xls *.ods);;Any file (*)"
        )
        if name:
            self.import_from(Path(name))

    def import_from(self, path: Path) -> ImportDialog | None:
        """Opens the import sheet on a file, or says why it can't be read."""
        try:
            dialog = ImportDialog(self.document, path, self)
        except UmberError as why:
            self.say(str(why), fault=True)
            return None
        dialog.accepted.connect(lambda: self.show_stage("runs"))
        dialog.unread.connect(lambda text: self.say(text, fault=True))
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()
        return dialog

    def _export(self, kind: str) -> None:
        kit = self.desks["kit"]
        assert isinstance(kit, KitDesk)
        kit.export(kind)

    def _paint_by(self, paint: str) -> None:
        self.trunk.canvas.paint_by = paint
        self.trunk.canvas.update()

    def scale(self, factor: float) -> None:
        """Text larger or smaller; 0 is the usual size."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        scale = 1.0 if factor == 0 else max(0.7, min(2.0, self.settings.scale * factor))
        self.settings.scale = scale
        theme.apply_theme(app, scale)
        for desk in self.desks.values():
            for _, view in desk.views:
                view.fit_columns()
                view.verticalHeader().setDefaultSectionSize(round(view.fontMetrics().height() * 1.55))
        self.trunk.canvas.fit()
        self.rail.updateGeometry()

    def closeEvent(self, event: QCloseEvent) -> None:
        sizes = self.desks["sizes"]
        assert isinstance(sizes, SizesDesk)
        sizes.close_background()
        self.document.close()
        super().closeEvent(event)
