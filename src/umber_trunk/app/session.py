"""Starts the window: opens files, swaps them, and is the one place where bugs end."""

from __future__ import annotations

import os
import signal
import sys
import traceback
from contextlib import suppress
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QObject, QSocketNotifier, Qt, qVersion
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.doorbell import Doorbell, ring
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.welcome import Welcome
from umber_trunk.app.widgets.plain import box, choice, tell
from umber_trunk.app.window import Window
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design, Project
from umber_trunk.store.database import HELD
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.report import write_report


class OpenElsewhereError(UmberError):
    """Another window has the file, and came to the front."""


class Session(QObject):
    """Holds the one window on screen and puts another in its place."""

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        self.window: Window | None = None
        self.welcome: Welcome | None = None
        self._opening: ProjectFile | None = None
        self._crashing = False

    def show_welcome(self) -> None:
        """The first screen without a file."""
        self.welcome = Welcome(self.settings)
        self.welcome.wants_file.connect(self.wanted)
        self.welcome.show()

    def wanted(self, path: Path | None) -> None:
        """Opens a path, or asks for the name of a new one; says so when it can't be."""
        parent = self.window or self.welcome
        if path is None:
            name, _ = QFileDialog.getSaveFileName(parent, "New harness", "harness.umber", "Harness (*.umber)")
            if not name:
                return
            path = Path(name) if name.endswith(".umber") else Path(name + ".umber")
        try:
            if self.window is not None and _same(path, self.window.document.path):
                to_front(self.window)
            else:
                self.show_file(path)
        except OpenElsewhereError as why:
            if self.window is not None:
                self.window.say(str(why))
        except UmberError as why:
            tell(parent, str(why))

    def show_file(self, path: Path) -> Window:
        """A window on a file, made if it isn't there yet; UmberError leaves the old window as it is. OpenElsewhereError when
        another window has the file and came to the front."""
        if os.path.lexists(path):
            project = ProjectFile.open(path)
            if project.why_read_only == HELD and ring(path):
                project.close()
                raise OpenElsewhereError(f"{path.name} is open already; its window is in front.")
        else:
            project = ProjectFile.create(path, Design(project=Project(name=path.stem)))
        self._opening = project
        document = Document(project, self)
        document.crashed.connect(self.crashed)
        window = Window(document, self.settings)
        window.wants_file.connect(self.wanted)
        bell = Doorbell(path, window)
        bell.rang.connect(lambda: to_front(window))
        if self.window is not None:
            self.window.close()
            self.window.deleteLater()
        if self.welcome is not None:
            self.welcome.close()
        self.settings.opened(path)
        if self.settings.trouble:
            window.say(self.settings.trouble, fault=True)
            self.settings.trouble = ""
        self.window = window
        window.show()
        document.start()
        return window

    def crashed(self, error: BaseException) -> None:
        """The one end of all bugs: everything shown is on disk; a report is written, and the harness may be gone on with
        as it was before, or mended as it is."""
        if self._crashing:
            return
        self._crashing = True
        try:
            self._offer_to_go_on(error)
        finally:
            self._crashing = False

    def _offer_to_go_on(self, error: BaseException) -> None:
        traceback.print_exception(error)
        try:
            report = f"A report is in\n{write_report(error, f', Qt {qVersion()}')}"
        except UmberError as why:
            report = f"{why} It begins: {type(error).__name__}: {str(error)[:200]}"
        project = self._opening
        before = _before(project)
        asked = box(
            self.window, "The program met a bug of its own. Every edit shown is in the file.",
            f"{before[1]}\n\n{report}" if before else report, grave=True,
        )  # fmt: skip
        stop = choice(asked, "Stop", QMessageBox.ButtonRole.RejectRole)
        go_on = choice(asked, "Go on with the revision before", QMessageBox.ButtonRole.AcceptRole) if before else None
        mend = choice(asked, "Mend it as it is", QMessageBox.ButtonRole.ActionRole) if self._can_stay() else None
        asked.setEscapeButton(stop)
        asked.exec()
        chosen = asked.clickedButton()
        if go_on is not None and chosen is go_on and before is not None and project is not None:
            self._go_back(project.path, before[0])
        elif mend is None or chosen is not mend:
            QApplication.exit(70)

    def _can_stay(self) -> bool:
        return self.window is not None and self._opening is self.window.document.project

    def _go_back(self, path: Path, seq: int) -> None:
        """Opens the file anew at an earlier revision; the one that broke the program stays among the revisions."""
        try:
            if self.window is not None:
                self.window.close()
                self.window.deleteLater()
                self.window = None
            if self._opening is not None:
                self._opening.close()
            with ProjectFile.open(path) as project:
                project.go_to(seq)
            self.show_file(path)
        except UmberError as why:
            tell(None, str(why))
            QApplication.exit(70)


def _same(a: Path, b: Path) -> bool:
    with suppress(OSError, ValueError):
        return os.path.samefile(a, b)
    return False


def _before(project: ProjectFile | None) -> tuple[int, str] | None:
    """The revision before the one shown, and what to say of both."""
    if project is None or project.read_only:
        return None
    try:
        line = [row for row in project.history() if row.seq <= project.head]
    except UmberError:
        return None
    if len(line) < 2:
        return None
    return line[-2].seq, (
        f"It is at revision {line[-1].seq}, “{line[-1].label}”. You can go on with revision {line[-2].seq}, "
        f"“{line[-2].label}”; the other stays among the revisions."
    )


def to_front(window: Window) -> None:
    """Brings a window up over all others, as far as the desktop allows."""
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.show()
    window.raise_()
    window.activateWindow()
    QApplication.alert(window)


def _heed_ctrl_c(app: QApplication, session: Session) -> None:
    """Ctrl-C in the shell wakes the event loop, which otherwise hears of it at the next event."""
    reader, writer = os.pipe2(os.O_NONBLOCK | os.O_CLOEXEC)
    signal.set_wakeup_fd(writer, warn_on_full_buffer=False)
    notifier = QSocketNotifier(reader, QSocketNotifier.Type.Read, app)
    notifier.activated.connect(lambda: os.read(reader, 64))

    def stopped(*_: object) -> None:
        if session.window is not None:
            session.window.close()
        QApplication.exit(130)

    signal.signal(signal.SIGINT, stopped)


def run(path: Path | None) -> int:
    """The whole program with a window; UmberError if the file can't be opened."""
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Umber Trunk")
    settings = Settings()
    theme.load_fonts()
    theme.apply_theme(app, settings.scale)
    session = Session(settings)
    _heed_ctrl_c(app, session)

    def hook(_: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        session.crashed(error.with_traceback(trace))

    sys.excepthook = hook
    if path is None:
        session.show_welcome()
    else:
        try:
            session.show_file(path)
        except OpenElsewhereError as why:
            sys.stderr.write(f"umber: {why}\n")
            return 0
        except UmberError:
            raise
        except Exception as why:  # noqa: BLE001 a bug while the window is made ends where all bugs do
            session.crashed(why)
            if session.window is None:
                return 70
    return app.exec()
