"""The window: rail on top, the trunk picture, the desk of the stage, and one line of what is worst."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMessageBox,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.carrying import Carrying
from umber_trunk.app.commands import Commands
from umber_trunk.app.document import Document
from umber_trunk.app.made_ahead import Desks, MadeAhead
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.why import WhySheet
from umber_trunk.app.trunk.view import TrunkCanvas
from umber_trunk.app.typed_wire import TypedWire
from umber_trunk.app.widgets.callout import Callout
from umber_trunk.app.widgets.desk import Desk, scrolling
from umber_trunk.app.widgets.lists import LISTS
from umber_trunk.app.widgets.plain import Label, box, choice, plain_of, tell
from umber_trunk.app.widgets.rail import StageRail
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.app.widgets.worst import WorstLine
from umber_trunk.app.writing import Writer
from umber_trunk.core.errors import UmberError
from umber_trunk.core.findings import Finding
from umber_trunk.core.harness.model import Design
from umber_trunk.core.stages import STAGES, stage_of

if TYPE_CHECKING:
    from umber_trunk.app.sheets.mend_sheet import MendSheet
    from umber_trunk.app.trunk.board_view import BoardView

KEYS = word("F1 why   ·   F8 next thing open   ·   Ctrl+F find   ·   F6 picture   ·   Ctrl+Z undo   ·   ? all keys")


class Window(Carrying):
    """One open harness.

    Signals: wants_file(object): open this path (None: ask for a new one); closed(): it is gone.
    """

    wants_file = Signal(object)
    closed = Signal()

    def __init__(self, document: Document, settings: Settings) -> None:
        super().__init__()
        self.document = document
        self.settings = settings
        self.rail = StageRail()
        self.trunk = TrunkCanvas(document)
        self.trunk.kept = settings.folds(document.path)
        self.stack = QStackedWidget()
        self.worst = WorstLine()
        self.status = Label()
        self.typed = TypedWire(document, self)
        self.frames: dict[Desk, QWidget] = {}
        """What each desk scrolls in."""
        self.desks = Desks(document, self.adopt)
        self.ahead = MadeAhead(self.desks, self)
        self.writer = Writer(self)
        self._why: WhySheet | None = None
        self._board: BoardView | None = None
        self._before_board: list[int] = []
        self._lay_out()
        self._wire_up()
        self.commands = Commands(self)
        self.menu_button.setMenu(self.commands.menu)
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.show_stage(STAGES[0].id)
        theme.dress(self)
        self.say(tr(KEYS))
        self._title()

    def _lay_out(self) -> None:
        bar = QWidget()
        bar.setObjectName("bar")
        self.menu_button = QPushButton(tr("Harness"))
        self.menu_button.setProperty("role", "menu")
        self.find_button = QPushButton(tr("Find  Ctrl+F"))
        self.name = Label()
        self.name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        top = QHBoxLayout(bar)
        top.setContentsMargins(12, 0, 12, 0)
        top.setSpacing(10)
        for widget, share in ((self.menu_button, 0), (self.name, 3), (self.rail, 12), (self.find_button, 0)):
            top.addWidget(widget, share)
        self.split = QSplitter(Qt.Orientation.Vertical)
        self.pictures = QStackedWidget()
        self.pictures.addWidget(self.trunk)
        self.split.addWidget(self.pictures)
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
        self.status.setObjectName("status")
        self.status.setContentsMargins(12, 3, 12, 3)
        self.status.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.status.setWordWrap(True)
        layout.addWidget(self.status)
        self.setCentralWidget(whole)

    def _wire_up(self) -> None:
        self.callout = Callout(self)
        self.rail.chosen.connect(self.show_stage)
        self.document.logged.connect(self._show_states)
        self.document.looked.connect(self._show_states)
        self.trunk.picked.connect(self.pick)
        self.trunk.folds_kept.connect(lambda kept: self.settings.keep_folds(self.document.path, kept))
        self.worst.chosen.connect(self.show_finding)
        self.worst.mending.connect(self.mend)
        self.document.changed.connect(self._title)
        self._tell = QTimer(
            self, singleShot=True, interval=0
        )  # a turn of its own: the desk and the picture are painted first
        self._tell.timeout.connect(self._show_states)
        self.document.analysed.connect(lambda _: self._tell.start())
        self.document.noted.connect(self.say)
        self.document.refused.connect(self._refused)
        self.document.applied.connect(self._settle)
        self.document.moved.connect(self._file_moved)
        self.find_button.clicked.connect(self.open_finder)
        self.writer.wrote.connect(self.say)
        self.writer.crashed.connect(self.document.crashed)
        self.typed.found.connect(lambda wire: self.go_to("wires", wire))
        self.typed.none.connect(
            lambda number: self.say(tr("There is no wire {number} in this harness.", number=number), fault=True)
        )
        self.typed.told.connect(
            lambda text: self.say(tr("Going to wire {text} … Enter", text=text) if text else tr(KEYS))
        )

    def _file_moved(self, said: str, design: Design) -> None:
        """Another program changed the file: it is left alone, and what is shown may be kept as a new one."""
        self.say(said, fault=True)
        asked = box(
            self, said, tr("The file stays as that program left it. What you see here isn’t in it."), grave=True
        )
        keep = choice(asked, tr("Keep what is here as a new file…"), QMessageBox.ButtonRole.AcceptRole)
        choice(asked, tr("Leave it"), QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        if asked.clickedButton() is not keep:
            return
        name, _ = QFileDialog.getSaveFileName(
            self,
            tr("Keep as a new harness"),
            str(self.document.path.with_name(f"{self.document.path.stem} kept.umber")),
            "Harness (*.umber)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if not name:
            return
        path = Path(name if name.endswith(".umber") else f"{name}.umber")
        try:
            self.document.project.kept_as(path, design)
        except UmberError as why:
            tell(self, str(why))
            return
        self.wants_file.emit(path)

    def adopt(self, desk: Desk) -> None:
        """Puts a desk that was just made among the others."""
        self.frames[desk] = scrolling(desk)
        self.stack.addWidget(self.frames[desk])
        desk.why.connect(lambda derivation: self.why.show_why(derivation))
        desk.picked.connect(lambda table, part: self.trunk.select({(table, part)}))
        desk.said.connect(self.say)
        desk.looked_at.connect(self.trunk.look_at)
        desk.painted.connect(self.trunk.paint_by)
        desk.wants_export.connect(self.export)
        desk.wants_papers.connect(lambda kind: self.commands.show_papers(kind))
        desk.boarded.connect(self.show_board)
        desk.wants_part.connect(self.go_to)
        desk.lit.connect(self.light)

    @property
    def why(self) -> WhySheet:
        """The why sheet, made when first asked."""
        if self._why is None:
            self._why = WhySheet(self.stack)
        return self._why

    def _title(self) -> None:
        name = self.document.design.project.name
        self.setWindowTitle(f"{name} – Umber Trunk".replace("[*]", "[*][*]"))
        self._show_name()
        self.name.setToolTip(plain_of(f"{name}\n{self.document.path}"))
        if self.document.project.read_only:
            self.say(
                tr(
                    "Read only: {why_read_only}. Nothing can be changed here.",
                    why_read_only=self.document.project.why_read_only,
                ),
                fault=True,
            )

    def _show_name(self) -> None:
        name, face = self.document.design.project.name, self.name.fontMetrics()
        self.name.setText(face.elidedText(name, theme.MIDDLE, max(self.name.width() - 4, 40)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_name()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._show_name()

    def mend(self, finding: Finding) -> MendSheet | None:
        """The edits that mend a finding, tried in the background; one click does one."""
        from umber_trunk.app.sheets.mend_sheet import MendSheet

        results = self.document.now
        if results is None:
            self.say(tr("The figures are still being worked out; try again in a moment."))
            return None
        sheet = MendSheet(self.document, results, finding, self)
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()
        return sheet

    def _show_states(self) -> None:
        """The rail and the line say what stands now."""
        self.rail.show_states(self.document.states, self.document.findings)
        self._show_worst(self.stage)

    def _show_worst(self, stage: str) -> None:
        state = next((one for one in self.document.states if one.stage == stage), None)
        self.worst.show_findings(self.document.findings, stage, state)

    @property
    def stage(self) -> str:
        """The stage on screen."""
        return self.rail.current

    def show_stage(self, stage: str) -> None:
        """Brings a stage's desk up and paints the trunk its way."""
        self.document.stage = stage_of(stage)
        self.rail.show_stage(stage)
        desk = self.desks[stage]
        self.show_board(desk.on_board)
        self.trunk.show_stage(stage)
        self.stack.setCurrentWidget(self.frames[desk])
        if self.document.results is not None:
            self._show_worst(stage)
        desk.begin()

    def say(self, text: str, fault: bool = False) -> None:
        """One line at the bottom."""
        if bool(self.status.property("fault")) != fault:
            self.status.setProperty("fault", fault)
            theme.restyle(self.status)
        self.status.setText(("✕ " if fault else "") + text)

    def _refused(self, text: str) -> None:
        """Said where the hands are, and on the line at the bottom."""
        self.say(text, fault=True)
        self.callout.show_text(text)

    def _settle(self) -> None:
        """What was refused before is done with."""
        self.callout.hide()
        if self.status.property("fault"):
            self.say("")

    def open_finder(self) -> None:
        """Opens the finder."""
        from umber_trunk.app.sheets.finder import Finder

        finder = Finder(self.document.design, self)
        finder.found.connect(self.go_to)
        finder.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        finder.open()

    def ask_why(self) -> None:
        """Why is the figure in the current cell what it is?"""
        if not self.document.fresh:
            self.say(tr("The figures are still being worked out."))
        elif not self.desks[self.stage].ask_why():
            self.say(tr("Choose a figure in a table first: volts, temperature, size, cut length."))

    def event(self, event: QEvent) -> bool:
        if event.type() in (QEvent.Type.ShortcutOverride, QEvent.Type.HoverMove, QEvent.Type.WindowActivate):
            self.ahead.touch()
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A wire's number typed or scanned where no text is entered goes to that wire."""
        if event.text() == "?":
            self.commands.show_keys()
        elif not self.typed.takes(event):
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A harness dropped is opened, a list is imported."""
        for path in [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]:
            if path.suffix.lower() == ".umber":
                self.wants_file.emit(path)
            elif path.suffix.lower() in LISTS:
                self.import_from(path)
            else:
                self.say(
                    tr(
                        "{path}: drop a harness (.umber) or a wire list ({lists}).",
                        path=path.name,
                        lists=", ".join(LISTS),
                    ),
                    fault=True,
                )
        event.acceptProposedAction()

    def scale(self, factor: float) -> None:
        """Text larger or smaller; 0 is the usual size."""
        self.settings.scale = 1.0 if factor == 0 else max(0.7, min(2.0, self.settings.scale * factor))
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply_theme(app, self.settings.scale)
        for window in app.topLevelWidgets():
            if isinstance(window, Window):
                window.restyle()

    def restyle(self) -> None:
        """Another text size or colour scheme."""
        for desk in self.desks.values():
            for _, view in desk.views:
                view.restyle()
            desk.update()
        self.trunk.restyle()
        if self._board is not None:
            self._board.update()
        self.rail.updateGeometry()
        self.rail.update()
        self._show_name()

    def _keep_states(self) -> None:
        """What the stages are at is remembered for the first screen, with what stood in the file; a file that can't be
        read is no matter."""
        from umber_trunk.app.glances import standing  # here: the window starts without the first screen's

        project = self.document.project
        with suppress(UmberError):
            self.settings.keep_states(
                project.path, standing(project), [(one.stage, one.badge) for one in self.document.states]
            )

    def closeEvent(self, event: QCloseEvent) -> None:
        for desk in self.desks.values():
            desk.close_background()
        self.ahead.stop()
        self.writer.finish()
        self.trunk.close_background()
        if self._board is not None:
            self._board.close_background()
        if self.document.states:
            self._keep_states()
        self.document.close()
        super().closeEvent(event)
        self.closed.emit()
