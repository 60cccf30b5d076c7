"""The open harness: holds the project file, commits edits, and analyses each design in the background."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from umber_trunk.app.background import Background
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.store.project import ProjectFile


class Document(QObject):
    """One project file as the window sees it.

    Signals:
        changed(): another design is shown (edit, undo, redo); it is on disk already.
        analysed(Results): figures of the design shown; late results of older designs are dropped.
        refused(str): an edit that could not be made, as a sentence.
        noted(str): what a habit decided while an edit was read.
        crashed(Exception): a bug met in the background.
    """

    changed = Signal()
    analysed = Signal(object)
    refused = Signal(str)
    noted = Signal(str)
    crashed = Signal(object)

    def __init__(self, project: ProjectFile, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.project = project
        self.analysis: Results | None = None
        self._background = Background(self)
        self._background.answered.connect(self._arrived)
        self._background.crashed.connect(self.crashed)

    @property
    def design(self) -> Design:
        """The design shown."""
        return self.project.design

    @property
    def path(self) -> Path:
        """Where it is kept."""
        return self.project.path

    @property
    def fresh(self) -> bool:
        """Whether the figures belong to the design shown."""
        return self.analysis is not None and self.analysis.design is self.design

    def start(self) -> None:
        """Asks for the first figures."""
        self._analyse()

    def apply(self, edit: Callable[[Design], Design], label: str) -> bool:
        """Makes an edit, commits it, then shows it. A refusal is signalled and changes nothing."""
        try:
            design = edit(self.design)
            if design == self.design:
                return True
            self.project.commit(design, label)
        except UmberError as why:
            self.refused.emit(str(why))
            return False
        self._shown()
        notes: list[str] = getattr(edit, "notes", [])
        if notes:
            self.noted.emit(" ".join(notes))
        return True

    def undo(self) -> None:
        """Takes the latest edit back."""
        self._moved(self.project.undo)

    def go_to(self, seq: int) -> None:
        """Shows any kept revision."""
        self._moved(lambda: self.project.go_to(seq))

    def redo(self) -> None:
        """Brings the edit undone last back."""
        self._moved(self.project.redo)

    def close(self) -> None:
        """Forgets what is being worked out and closes the file."""
        self._background.drop()
        self.project.close()

    def _moved(self, move: Callable[[], bool]) -> None:
        try:
            if move():
                self._shown()
        except UmberError as why:
            self.refused.emit(str(why))

    def _shown(self) -> None:
        self.changed.emit()
        self._analyse()

    def _analyse(self) -> None:
        design, before = self.design, self.analysis
        self._background.ask(lambda wanted: analyse(design, before, wanted))

    def _arrived(self, analysis: Results) -> None:
        self.analysis = analysis
        self.analysed.emit(analysis)
