"""The open harness: holds the project file, commits edits, and works each design out in the background."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from umber_trunk.app.background import Background
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf, generic
from umber_trunk.core.errors import UmberError, Wanted, go_on_if
from umber_trunk.core.findings import Finding
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.picture.notice import notices, uses
from umber_trunk.core.results import Results, revision_told
from umber_trunk.core.stages import STAGES, Stage, fetched
from umber_trunk.core.status import Facts, StageState, stage_states
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.watch import MovedError

if TYPE_CHECKING:
    from umber_trunk.core.make.bench_state import Progress
    from umber_trunk.core.prove.redline import Redline

AFTER_PAINT_MS = 40
WATCH_MS = 1500
"""How often it is seen whether the file still is the one that was opened."""
LOOK_MS = 500
"""How long after the last act the stages are looked at."""


class Document(QObject):
    """One project file as the window sees it.

    Signals:
        changed(): another design is shown (edit, undo, redo); it is on disk already.
        analysed(Results): results of the design shown, those the stage on screen draws from worked out; late results of
            older designs are dropped.
        prepared(): what the other stages draw from is worked out too.
        refused(str): an edit that could not be made, as a sentence.
        applied(): an edit was made; what was refused before is done with.
        noted(str): what a habit decided while an edit was read.
        crashed(Exception): a bug met in the background.
        logged(): something was measured at the bench, or taken back.
        progressed(): the build on the bench is further, or another is open.
        looked(): what the stages are at was worked out anew.
        moved(str, Design): another program changed the file; what of the harness isn't in it any more.
        restocked(Shelf): the shop's catalogue holds other parts from now on.
    """

    changed = Signal()
    analysed = Signal(object)
    prepared = Signal()
    refused = Signal(str)
    noted = Signal(str)
    applied = Signal()
    crashed = Signal(object)
    logged = Signal()
    progressed = Signal()
    restocked = Signal(object)
    moved = Signal(str, object)
    looked = Signal()

    def __init__(self, project: ProjectFile, parent: QObject | None = None, shelf: Shelf | None = None) -> None:
        super().__init__(parent)
        self.project = project
        self._stock = shelf or generic()
        self.results: Results | None = None
        self.stage = STAGES[0]
        self.progress: Progress | None = None
        self._redlines: dict[str, Redline | None] = {}
        self.facts: Facts | None = None
        self.states: tuple[StageState, ...] = ()
        """What each stage is at; () until it was worked out once."""
        self._told_moved = ""
        self._watching = QTimer(self, interval=WATCH_MS)
        self._watching.timeout.connect(self._watch)
        self._background, self._ahead, self._looker = Background(self), Background(self), Background(self)
        self._reader = Background(self)
        self._reader.answered.connect(self._has_read)
        self._ways: deque[Callable[[], int | None]] = deque()
        self._looker.answered.connect(self._has_looked)
        self._look_soon = QTimer(self, singleShot=True, interval=LOOK_MS)
        self._look_soon.timeout.connect(self._look)
        self._background.answered.connect(self._arrived)
        self._soon = QTimer(self, singleShot=True, interval=AFTER_PAINT_MS)
        self._soon.timeout.connect(self._go_ahead)
        self._ahead.answered.connect(lambda _: self._prepared())
        for work in (self._background, self._ahead, self._looker, self._reader):
            work.crashed.connect(self.crashed)

    @property
    def design(self) -> Design:
        """The design shown."""
        return self.project.design

    @property
    def shelf(self) -> Shelf:
        """What the design shown is made of: the copies it carries, then the shop's parts, then those that ship."""
        return self._stock.carrying(self.design.parts)

    def restock(self, shelf: Shelf) -> None:
        """Other parts on the shelf: what isn't chosen yet is proposed anew."""
        if shelf is not self._stock:
            self._stock = shelf
            self.restocked.emit(shelf)
            self._shown()

    @property
    def path(self) -> Path:
        """Where it is kept."""
        return self.project.path

    @property
    def fresh(self) -> bool:
        """Whether the results belong to the design shown."""
        return self.results is not None and self.results.design is self.design and self.results.shelf is self.shelf

    @property
    def now(self) -> Results | None:
        """The results of the design shown, None while they are worked out."""
        return self.results if self.fresh else None

    @property
    def findings(self) -> list[Finding]:
        """What the design's checks and the log of the bench have to say, faults first."""
        known = self.results.findings if self.results is not None else []
        found = self.facts.findings if self.facts is not None else ()
        return sorted([*known, *found], key=lambda one: one.severity) if found else known

    def look(self) -> None:
        """Looks at what the stages are at, once nothing more happens for a moment."""
        self._look_soon.start()

    def _look(self) -> None:
        """Reads the log and the shelf beside the window, on a connection of its own."""
        mine, results = self.project, self.now
        if results is None:
            return

        def work(wanted: Wanted) -> tuple[Facts, tuple[StageState, ...]]:
            from umber_trunk.store.facts import facts_of, warmed  # here: the window starts without the bench

            try:
                with mine.beside() as project:
                    facts = facts_of(project, results, wanted)
                    warmed(project)
            except UmberError as why:
                facts = Facts(wrong=why.message)
            return facts, stage_states(results, facts)

        self._looker.ask(work)

    def _has_looked(self, answer: tuple[Facts, tuple[StageState, ...]]) -> None:
        self.facts, self.states = answer
        self.looked.emit()

    def _prepared(self) -> None:
        self.prepared.emit()
        self.look()

    def is_at(self, progress: Progress | None) -> None:
        """How far the build on the bench is."""
        self.progress = progress
        self.progressed.emit()
        self.look()

    def is_proving(self, stage: str, redline: Redline | None) -> None:
        """How far the unit is that a stage's desk has open: it paints that stage, and none of another unit."""
        if redline != self._redlines.get(stage):
            self._redlines[stage] = redline
            self.progressed.emit()

    @property
    def redline(self) -> Redline | None:
        """That of the unit open on the desk of the stage on screen."""
        return self._redlines.get(self.stage.id)

    def measured(self) -> None:
        """The log has readings more or fewer."""
        self.logged.emit()
        self.look()

    @property
    def ahead(self) -> bool:
        """Whether what the stages draw from is still being worked out."""
        return self._background.busy or self._ahead.busy or self._soon.isActive() or self._reader.busy

    @property
    def looking(self) -> bool:
        """Whether what the stages are at is still being looked at."""
        return self._looker.busy or self._look_soon.isActive()

    def start(self) -> None:
        """Asks for the first figures."""
        self._analyse()
        self._watching.start()

    def _watch(self) -> None:
        """Says at once what another program did to the file, and once."""
        said = self.project.moved()
        if said and said != self._told_moved:
            self._has_moved(said, self.design)
        elif not said:
            self._told_moved = ""

    def _has_moved(self, said: str, design: Design) -> None:
        self._told_moved = self.project.moved() or said
        self.moved.emit(said, design)

    def apply(self, edit: Callable[[Design], Design], label: str) -> bool:
        """Makes an edit, commits it, then shows it. A refusal is signalled and changes nothing."""
        try:
            design = edit(self.design)
            if design == self.design:
                return True
            self.project.commit(design, label)
            self._ways.clear()  # what was still to be undone was of the design before
        except MovedError as why:
            self._has_moved(str(why), design)
            return False
        except UmberError as why:
            self.refused.emit(str(why))
            return False
        self._shown()
        self.applied.emit()
        if isinstance(edit, Typed) and edit.notes:
            self.noted.emit(" ".join(edit.notes))
        return True

    def undo(self) -> None:
        """Takes the latest edit back."""
        self._go(self.project.before)

    def go_to(self, seq: int) -> None:
        """Shows any kept revision."""
        self._go(lambda: seq)

    def redo(self) -> None:
        """Brings the edit undone last back."""
        self._go(self.project.after)

    def _go(self, where: Callable[[], int | None]) -> None:
        self._ways.append(where)
        self._go_on()

    def _go_on(self) -> None:
        """Goes where it was asked to, in turn; what isn't at hand is read beside the window first."""
        while self._ways and not self._reader.busy:
            try:
                seq = self._ways.popleft()()
                if seq is None:
                    continue
                if not self.project.at_hand(seq) and not self.project.read_only:
                    self._read(seq)
                elif self.project.go_to(seq):
                    self._shown()
            except UmberError as why:
                self._ways.clear()
                self.refused.emit(str(why))

    def _read(self, seq: int) -> None:
        mine, head = self.project, self.project.head

        def work(_: Wanted) -> tuple[int, int, Design | UmberError]:
            try:
                with mine.beside() as project:
                    return seq, head, project.design_at(seq)
            except UmberError as why:
                return seq, head, why

        self._reader.ask(work)

    def _has_read(self, answer: tuple[int, int, Design | UmberError]) -> None:
        seq, head, found = answer
        try:
            if isinstance(found, UmberError):
                raise found
            if head == self.project.head and self.project.go_to(seq, found):  # an edit made meanwhile stands
                self._shown()
        except UmberError as why:
            self._ways.clear()
            self.refused.emit(str(why))
        self._go_on()

    def close(self) -> None:
        """Forgets what is being worked out and closes the file."""
        self._background.drop()
        self._ahead.drop()
        self._looker.drop()
        self._reader.drop()
        self._ways.clear()
        self._look_soon.stop()
        self._soon.stop()
        self._watching.stop()
        self.project.close()

    def _shown(self) -> None:
        self._looker.drop()
        self.states = ()  # of another design
        self.changed.emit()
        self._analyse()

    def _analyse(self) -> None:
        design, shelf, before, stage = self.design, self.shelf, self.results, self.stage
        number = f"revision {self.project.head}"
        self._ahead.drop()
        self._soon.stop()

        def work(wanted: Wanted) -> Results:
            results = analyse(design, shelf, before, wanted)
            results.know(revision_told, number)
            for known in (notices, uses):
                results.once(known)
            return _drawn_from(results, (stage,), wanted)

        self._background.ask(work)

    def _arrived(self, results: Results) -> None:
        self.results = results
        self._soon.start()
        self.analysed.emit(results)

    def _go_ahead(self) -> None:
        """What the other stages draw from, once what is on screen is painted: threads share one interpreter."""
        results = self.now
        if results is not None:
            self._ahead.ask(lambda wanted: _drawn_from(results, STAGES, wanted))


def _drawn_from(results: Results, stages: tuple[Stage, ...], wanted: Wanted) -> Results:
    """Works out what the desks of these stages draw from."""
    for stage in stages:
        for place in stage.shows:
            go_on_if(wanted)
            results.once(fetched(place))
    return results
