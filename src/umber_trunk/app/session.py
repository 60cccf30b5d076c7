"""Starts the window: opens files, swaps them, and is the one place where bugs end."""

from __future__ import annotations

import os
import signal
import sys
import traceback
from contextlib import suppress
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPoint, QSocketNotifier, Qt, Signal, qVersion
from PySide6.QtWidgets import QApplication, QFileDialog, QMainWindow, QMessageBox, QWidget

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.doorbell import Doorbell, ring
from umber_trunk.app.settings import Settings
from umber_trunk.app.sharing import Sharing
from umber_trunk.app.widgets.plain import box, choice, tell
from umber_trunk.app.widgets.words import tr
from umber_trunk.app.window import Window
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.voice import LANGUAGE_ASKED, speak
from umber_trunk.store.catalogues import stocked_shelf
from umber_trunk.store.database import HELD
from umber_trunk.store.files import is_shop
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.report import write_report

if TYPE_CHECKING:
    from umber_trunk.app.shop.shop_window import ShopWindow


class OpenElsewhereError(UmberError):
    """Another window has the file, and came to the front."""


class Session(QObject):
    """The windows of the program, one for each open harness. `window` is the one opened or used last.

    Signals: worked(): something was done at a window; left(): one is gone.
    """

    worked = Signal()
    left = Signal()

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        self.makes_ahead = False
        """Whether desks are made before they are wanted."""
        self.windows: list[Window] = []
        self.shops: list[ShopWindow] = []
        self.welcome: QWidget | None = None
        self._opening: ProjectFile | None = None
        self._crashing = False

    @property
    def window(self) -> Window | None:
        """The window opened or used last."""
        return self.windows[-1] if self.windows else None

    def show_welcome(self) -> None:
        """The first screen without a file."""
        from umber_trunk.app.sheets.welcome import Welcome

        self.welcome = Welcome(self.settings)
        self.welcome.wants_file.connect(self.wanted)
        self.welcome.wants.connect(self.wanted_for)
        self.welcome.show()

    def wanted_for(self, path: Path, what: str) -> None:
        """Opens a harness and what is wanted of it, or a new harness for a list to import."""
        before = self.window
        self.wanted(None if what == "list" else path)
        window = self.window
        if window is None or (window is before and what == "list"):
            return
        if what == "list":
            window.import_from(path)
        elif what == "repair":
            window.show_stage("ends")
            window.desks["ends"].reveal("looks", "")
        elif what == "unit":
            window.show_stage("keep")
        elif what == "bench":
            window.show_stage("make")
        elif what == "practice":
            window.show_stage("prove")
            window.desks["prove"].reveal("drills", "")

    def wanted(self, path: Path | None) -> None:
        """Opens a path, or asks for the name of a new one; says so when it can't be."""
        parent = self.window or self.welcome
        if path is None:
            name, _ = QFileDialog.getSaveFileName(parent, tr("New harness"), "harness.umber", "Harness (*.umber)")
            if not name:
                return
            path = Path(name) if name.endswith(".umber") else Path(name + ".umber")
        try:
            if is_shop(path):
                self.show_shop(path)
            else:
                self.show_file(path)
        except OpenElsewhereError as why:
            if self.window is not None:
                self.window.say(str(why))
        except UmberError as why:
            tell(parent, str(why))

    def show_shop(self, path: Path) -> ShopWindow:
        """The window on a shop's file, made or brought to the front; UmberError where it can't be read."""
        from umber_trunk.app.shop.shop_window import ShopWindow  # here: a harness alone never asks

        known = next((one for one in self.shops if _same(path, one.path)), None)
        if known is None:
            known = ShopWindow(path)
            known.crashed.connect(self.crashed)
            known.wants_file.connect(self.wanted)
            known.wants_bench.connect(lambda path: self.wanted_for(path, "bench"))
            known.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            made = known
            known.closed.connect(lambda: self.shops.remove(made))
            self.shops.append(known)
            if self.welcome is not None:
                self.welcome.close()
                self.welcome = None
        to_front(known)
        return known

    def show_file(self, path: Path) -> Window:
        """A window on a file, made if it isn't there yet, or the one that has it already; UmberError leaves all windows
        as they are. OpenElsewhereError when another program has the file and its window came to the front."""
        known = next((one for one in self.windows if _same(path, one.document.path)), None)
        if known is not None:
            self.windows.sort(key=lambda one: one is known)  # the one used last is the last
            to_front(known)
            return known
        if os.path.lexists(path):
            project = ProjectFile.open(path)
            if project.why_read_only == HELD and ring(path):
                project.close()
                raise OpenElsewhereError.of("window.open-already-its-window", path=path.name)
        else:
            project = ProjectFile.create(path, Design(project=Project(name=path.stem)))
        self._opening = project
        shelf, broken = stocked_shelf(None, path)
        document = Document(project, self, shelf)
        document.crashed.connect(self.crashed)
        document.restocked.connect(self._restocked)
        window = Window(document, self.settings)
        window.wants_file.connect(self.wanted)
        bell = Doorbell(path, window)
        bell.rang.connect(lambda: to_front(window))
        window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        window.closed.connect(lambda: self._gone(window))
        for done in (document.changed, document.analysed, document.logged, document.progressed, window.rail.chosen):
            done.connect(self.worked)
            done.connect(window.ahead.touch)
        if self.makes_ahead:
            document.prepared.connect(window.ahead.begin)
        if self.welcome is not None:
            self.welcome.close()
            self.welcome = None
        self.settings.opened(path)
        if self.settings.trouble:
            window.say(self.settings.trouble, fault=True)
            self.settings.trouble = ""
        if broken:
            window.say(broken)
        if self.window is not None:
            window.move(self.window.pos() + QPoint(28, 28))
        self.windows.append(window)
        window.show()
        document.start()
        return window

    def _restocked(self, shelf: Shelf) -> None:
        """The shop's catalogue holds other parts: every open harness is told."""
        for window in self.windows:
            window.document.restock(shelf)

    def _gone(self, window: Window) -> None:
        if window in self.windows:
            self.windows.remove(window)
            window.document.deleteLater()
            self.left.emit()

    def restyle(self) -> None:
        """The desktop went light or dark."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply_theme(app, self.settings.scale)
        for window in self.windows:
            window.restyle()

    def close_all(self) -> None:
        """Closes every window."""
        for window in [*self.windows, *self.shops]:
            window.close()

    def crashed(self, error: BaseException) -> None:
        """The one end of all bugs: everything shown is on disk; a report is written, and the harness may be gone on
        with as it was before, or mended as it is."""
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
            report = tr("A report is in\n{path}", path=write_report(error, f", Qt {qVersion()}"))
        except UmberError as why:
            report = tr("{why} It begins: {error}", why=why, error=f"{type(error).__name__}: {str(error)[:200]}")
        project = self._opening
        before = _before(project)
        asked = box(
            self.window,
            tr("The program met a bug of its own. Every edit shown is in the file."),
            f"{before[1]}\n\n{report}" if before else report,
            grave=True,
        )
        stop = choice(asked, tr("Stop"), QMessageBox.ButtonRole.RejectRole)
        go_on = (
            choice(asked, tr("Go on with the revision before"), QMessageBox.ButtonRole.AcceptRole) if before else None
        )
        mend = choice(asked, tr("Mend it as it is"), QMessageBox.ButtonRole.ActionRole) if self._can_stay() else None
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
            if self.window is not None and self._can_stay():
                self.window.close()
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
    return line[-2].seq, tr(
        "It is at revision {now}, “{label}”. You can go on with revision {before}, “{label_before}”; the other stays "
        "among the revisions.",
        now=line[-1].seq,
        label=line[-1].label,
        before=line[-2].seq,
        label_before=line[-2].label,
    )


def to_front(window: QMainWindow) -> None:
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
        session.close_all()
        QApplication.exit(130)

    signal.signal(signal.SIGINT, stopped)


def run(path: Path | None) -> int:
    """The whole program with a window; UmberError if the file can't be opened."""
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Umber Trunk")
    app.setDesktopFileName("umber-trunk")
    app.setWindowIcon(theme.icon())
    settings = Settings()
    speak(os.environ.get(LANGUAGE_ASKED) or settings.language)
    theme.load_fonts()
    theme.apply_theme(app, settings.scale)
    session = Session(settings)
    session.makes_ahead = True
    sharing = Sharing(app)
    session.worked.connect(sharing.touch)
    session.left.connect(sharing.gone)
    app.styleHints().colorSchemeChanged.connect(lambda _: session.restyle())
    _heed_ctrl_c(app, session)

    def hook(_: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        session.crashed(error.with_traceback(trace))

    sys.excepthook = hook
    if path is None:
        session.show_welcome()
    else:
        try:
            if is_shop(path):
                session.show_shop(path)
            else:
                session.show_file(path)
        except OpenElsewhereError as why:
            sys.stderr.write(f"umber: {why}\n")
            return 0
        except UmberError:
            raise
        except Exception as why:  # noqa: BLE001 a bug while the window is made ends where all bugs do
            session.crashed(why)
            if session.window is None and not session.shops:
                return 70
    return app.exec()
