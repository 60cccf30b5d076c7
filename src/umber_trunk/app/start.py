"""Starts the window: opens files, swaps them, and is the one place where bugs end."""

from __future__ import annotations

import platform
import sys
import tempfile
import traceback
from datetime import datetime
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QObject, qVersion
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from umber_trunk import __version__
from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.settings import Settings
from umber_trunk.app.welcome import Welcome
from umber_trunk.app.window import Window
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design, Project
from umber_trunk.store.project import ProjectFile


def write_report(error: BaseException) -> Path:
    """A bug's report with what a developer needs; the harness itself is on disk already."""
    lines = [
        f"Umber Trunk {__version__}, Python {platform.python_version()}, Qt {qVersion()}, {platform.platform()}",
        datetime.now().isoformat(timespec="seconds"), "",
        "".join(traceback.format_exception(error)),
    ]  # fmt: skip
    path = Path(tempfile.gettempdir()) / f"umber-{datetime.now():%Y%m%d-%H%M%S}.umber-report.txt"
    path.write_text("\n".join(lines), "utf-8")
    return path


class Session(QObject):
    """Holds the one window on screen and puts another in its place."""

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.settings = settings
        self.window: Window | None = None
        self.welcome: Welcome | None = None

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
            self.show_file(path)
        except UmberError as why:
            QMessageBox.warning(parent, "Umber Trunk", str(why))

    def show_file(self, path: Path) -> Window:
        """A window on a file, made if it isn't there yet; UmberError leaves the old window as it is."""
        if path.exists():
            project = ProjectFile.open(path)
        else:
            project = ProjectFile.create(path, Design(project=Project(name=path.stem)))
        document = Document(project, self)
        document.crashed.connect(self.crashed)
        window = Window(document, self.settings)
        window.wants_file.connect(self.wanted)
        if self.window is not None:
            self.window.close()
            self.window.deleteLater()
        if self.welcome is not None:
            self.welcome.close()
        self.settings.opened(path)
        self.window = window
        window.show()
        document.start()
        return window

    def crashed(self, error: BaseException) -> None:
        """The one end of all bugs: report, say so, stop."""
        report = write_report(error)
        traceback.print_exception(error)
        QMessageBox.critical(
            self.window, "Umber Trunk",
            f"The program met a bug of its own and will stop. Every edit shown is in the file. A report is in\n{report}",
        )  # fmt: skip
        QApplication.exit(70)


def run(path: Path | None) -> int:
    """The whole program with a window; UmberError if the file can't be opened."""
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Umber Trunk")
    settings = Settings()
    theme.load_fonts()
    theme.apply_theme(app, settings.scale)
    session = Session(settings)

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            QApplication.exit(130)
        else:
            session.crashed(error.with_traceback(trace))

    sys.excepthook = hook
    if path is None:
        session.show_welcome()
    else:
        session.show_file(path)
    return app.exec()
