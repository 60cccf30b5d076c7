"""Every command of the window once: menu, key and what it does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QDialog, QFileDialog, QMenu

from umber_trunk.app.widgets.asked import one_of
from umber_trunk.app.widgets.lists import list_asked
from umber_trunk.app.widgets.plain import menu_text
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.stages import STAGES
from umber_trunk.core.voice import NAMES

if TYPE_CHECKING:
    from umber_trunk.app.window import Window

ON_PICTURE = (
    ("← →", "from end to end"), ("Space", "open a fold, fold the branch of an end"), ("Shift+↑  Shift+↓", "move a branch above or below"),
    ("+  −", "wider, narrower"), ("Home", "all of it, folded as the program chooses"),
)  # fmt: skip
ON_FACE = (
    ("← → ↑ ↓", "from cavity to cavity"), ("a label", "typed: that cavity"), ("Space", "look from the other side"),
    ("Enter", "put the wire chosen in the pin map here"),
)  # fmt: skip
ON_BOARD = (
    ("F7", "on Runs and Make: the board at 1:1, or the trunk again"), ("N", "the next limb"), ("[  ]", "turn it by 15°"), ("P", "keep it where it lies, or let it go"), ("Shift+P", "the board is screwed together: keep all, or let all go"), ("← → ↑ ↓", "move the view"),
    ("+  −  Home", "nearer, further, all of it"), ("Esc", "stop laying out"),
)  # fmt: skip
ELSEWHERE = (
    ("Tab", "in the line: take what is suggested"), ("↑  ↓", "in the line: lines said before"),
    ("F3  F4", "at the bench: whole handfuls or pieces; who works. On the Prove desk: not right; read on by the meter"), ("← →", "at the bench: one piece of the handful; Esc lets it go"), ("F2  Enter", "in a table: correct a cell"), ("+  −", "on the Sizes desk: a step up or down"), ("a wire's number", "typed or scanned outside of a text: go to that wire"),
)  # fmt: skip


@dataclass(frozen=True)
class Command:
    """One command; without a name a line between commands."""

    name: str = ""
    key: str = ""
    act: Callable[[], object] = lambda: None


class Commands:
    """The menu of one window, its actions by name, and the sheets they open."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.menu = QMenu(window)
        self.by_name: dict[str, QAction] = {}
        document = window.document
        line = Command()
        plan = [
            Command("New harness…", "Ctrl+N", lambda: window.wants_file.emit(None)),
            Command("Open…", "Ctrl+O", self.open_file),
            Command("Recent"),
            line,
            Command("Import wire list…", "Ctrl+I", self.import_list),
            Command("Papers…", "Ctrl+Shift+P", self.show_papers),
            Command("Workbook…", "Ctrl+E", partial(window.export, "xlsx")),
            Command("Print…", "Ctrl+P", partial(self.show_papers, "cut")),
            line,
            Command("Undo", "Ctrl+Z", document.undo),
            Command("Redo", "Ctrl+Shift+Z", document.redo),
            Command("Find…", "Ctrl+F", window.open_finder),
            Command("Revisions…", "Ctrl+H", self.show_revisions),
            Command("Copies kept by day…", "", self.show_copies),
            Command("Catalogue…", "Ctrl+K", self.show_catalogue),
            Command("Variants…", "Ctrl+Shift+V", self.show_variants),
            Command("The shop…", "Ctrl+Shift+S", self.show_shop),
            Command("Why is this so?", "F1", window.ask_why),
            Command("Next thing open", "F8", window.worst.step),
            Command("Mend what is open…", "F5", window.worst.mend),
            line,
            *(
                Command(f"{stage.name} desk", f"Alt+{n}", partial(window.show_stage, stage.id))
                for n, stage in enumerate(STAGES, 1)
            ),
            Command("To the trunk picture", "F6", window.to_picture),
            line,
            Command("Larger text", "Ctrl++", lambda: window.scale(1.1)),
            Command("Smaller text", "Ctrl+-", lambda: window.scale(1 / 1.1)),
            Command("Usual text size", "Ctrl+0", lambda: window.scale(0)),
            Command("Language…", "", self.choose_language),
            line,
            Command("User guide", "Shift+F1", self.show_guide),
            Command("Keys", "", self.show_keys),
            Command("About Umber Trunk", "", self.show_about),
            line,
            Command("Close", "Ctrl+Q", window.close),
        ]
        self.plan = tuple(plan)
        for command in plan:
            self._add(command)
        self.menu.aboutToShow.connect(self._name_undo)

    def _add(self, command: Command) -> None:
        if not command.name:
            self.menu.addSeparator()
        elif command.name == "Recent":
            self.menu.addMenu(self._recent_menu())
        else:
            action = QAction(tr(command.name), self.window)
            if command.key:
                keys = [command.key, "Ctrl+="] if command.key == "Ctrl++" else [command.key]
                action.setShortcuts([QKeySequence(key) for key in keys])
            action.triggered.connect(lambda _=False: command.act())
            self.menu.addAction(action)
            self.window.addAction(action)
            self.by_name[command.name] = action

    def _recent_menu(self) -> QMenu:
        recent = QMenu(tr("Recent harnesses"), self.menu)
        paths = [path for path in self.window.settings.recent() if path != self.window.document.path]
        for path in paths:
            recent.addAction(menu_text(str(path)), lambda path=path: self.window.wants_file.emit(path))
        recent.setEnabled(bool(paths))
        return recent

    def _name_undo(self) -> None:
        project = self.window.document.project
        for name, label in (("Undo", project.can_undo()), ("Redo", project.can_redo())):
            self.by_name[name].setText(f"{tr(name)}: {menu_text(label, 60)}" if label else tr(name))
            self.by_name[name].setEnabled(bool(label) and not project.read_only)

    def _opened(self, sheet: QDialog) -> QDialog:
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()
        return sheet

    def choose_language(self) -> None:
        """The language from the next start on: what is shown keeps the one it was said in."""
        question = tr(
            "From the next start on. What is typed in a line, papers, and records already made stay English in any "
            "language."
        )
        names = list(NAMES.values())
        chosen, meant = one_of(self.window, tr("Language"), question, names)
        if meant and chosen in names:
            self.window.settings.language = list(NAMES)[names.index(chosen)]
            self.window.say(f"{tr('Language')}: {chosen}. {tr('It is spoken from the next start on.')}")

    def open_file(self) -> None:
        """Asks for a harness file."""
        name, _ = QFileDialog.getOpenFileName(
            self.window, tr("Open a harness"), str(self.window.document.path.parent), "Harness (*.umber);;Any file (*)"
        )
        if name:
            self.window.wants_file.emit(Path(name))

    def import_list(self) -> None:
        """Asks for a list and opens the import sheet."""
        path = list_asked(self.window)
        if path is not None:
            self.window.import_from(path)

    def show_papers(self, kind: str = "") -> QDialog | None:
        """The papers page, at one of them."""
        from umber_trunk.app.sheets.papers import PapersSheet
        from umber_trunk.core.papers.papers import PAPERS

        results = self.window.document.now
        if results is None:
            self.window.say(tr("The figures are still being worked out; try again in a moment."))
            return None
        sheet = PapersSheet(self.window.document, results, self.window.export, self.window.writer.write, self.window)
        self.window.writer.wrote.connect(sheet.wrote)
        sheet.list.setCurrentRow(next((number for number, paper in enumerate(PAPERS) if paper.kind == kind), 0))
        return self._opened(sheet)

    def show_revisions(self) -> QDialog:
        """Every kept revision, to go to or to freeze."""
        from umber_trunk.app.sheets.kept import RevisionsSheet

        return self._opened(RevisionsSheet(self.window.document, self.window))

    def show_copies(self) -> QDialog:
        """The copies kept by day, those of this harness first."""
        from umber_trunk.app.sheets.kept import CopiesSheet

        self.window.document.project.copies_kept()
        sheet = CopiesSheet(self.window.document.path.stem, self.window)
        sheet.restored.connect(self.window.wants_file)
        return self._opened(sheet)

    def show_catalogue(self) -> QDialog:
        """The parts there are; a form and files for more."""
        from umber_trunk.app.sheets.catalogue import CatalogueSheet

        return self._opened(CatalogueSheet(self.window.document, self.window))

    def show_variants(self) -> QDialog:
        """Options and variants of this harness, one beside another."""
        from umber_trunk.app.sheets.variants_sheet import VariantsSheet

        ends = [part for table, part in self.window.trunk.selected if table == "ends"]
        sheet = VariantsSheet(self.window.document, ends, self.window)
        sheet.wants_file.connect(self.window.wants_file)
        return self._opened(sheet)

    def show_shop(self) -> None:
        """The shop's window: the file that is set, or beside this harness, or the one that is asked for."""
        from umber_trunk.store.shop_file import ShopFile
        from umber_trunk.store.shop_place import SHOP_NAME, shop_beside

        path = shop_beside(self.window.document.path)
        if path is None:
            there = self.window.document.path.with_name(SHOP_NAME)
            name, _ = QFileDialog.getSaveFileName(
                self.window,
                tr("The shop’s file, or a new one"),
                str(there),
                "Shop (*.umber *.umbershelf)",
                options=QFileDialog.Option.DontConfirmOverwrite,
            )
            if not name:
                return
            path = Path(name)
            if not path.exists():
                try:
                    ShopFile.create(path).close()
                except UmberError as why:
                    self.window.say(str(why), fault=True)
                    return
        self.window.wants_file.emit(path)

    def show_guide(self) -> QDialog:
        """The user guide."""
        from umber_trunk.app.sheets.help import GuideSheet

        return self._opened(GuideSheet(self.window))

    def show_keys(self) -> QDialog:
        """Every key, by what it does."""
        from umber_trunk.app.sheets.help import KeysSheet

        rows = [(command.key, command.name) for command in self.plan if command.key]
        return self._opened(
            KeysSheet(
                [
                    (tr("Everywhere"), rows),
                    (tr("On the picture"), ON_PICTURE),
                    (tr("On a connector’s face"), ON_FACE),
                    (tr("On the board"), ON_BOARD),
                    (tr("Elsewhere"), ELSEWHERE),
                ],
                self.window,
            )
        )

    def show_about(self) -> QDialog:
        """What this is, and the licences of what it is made of."""
        from umber_trunk.app.sheets.help import AboutSheet

        return self._opened(AboutSheet(self.window))
