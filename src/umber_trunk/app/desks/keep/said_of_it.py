"""What is said of a unit after it was built, each with a name to it, and the papers it goes out with."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog

from umber_trunk.app.background import Background
from umber_trunk.app.widgets.asked import name_and_what, text_asked
from umber_trunk.app.widgets.desk import Desk
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.keep.compare import Upgrade
from umber_trunk.core.keep.unit_record import UnitRecord
from umber_trunk.store.inputs import figures_of
from umber_trunk.store.keeping import frozen_unit, log_said, take_upgrade
from umber_trunk.store.project import ProjectFile


class SaidOfIt(Desk):
    """Serial, deviation, repair, upgrade, certificate and book of the unit in hand."""

    record: UnitRecord | None
    writer: Background
    _plan: tuple[int, Upgrade] | None

    def search(self) -> None:
        """The units are looked up anew."""
        raise NotImplementedError

    def _beside(self, worker: Background, work: Callable[[ProjectFile], Any]) -> None:
        """Asks a worker, on a connection of its own."""
        mine = self.document.project

        def ask(_: object) -> Any:
            with mine.beside() as project:
                return work(project)

        worker.ask(ask)

    def _name(self) -> str:
        return f"{self.record.build}/{self.record.unit}" if self.record is not None else ""

    def _log(self, kind: str, data: dict[str, str]) -> None:
        try:
            log_said(self.document.project, self._name(), kind, data)
        except UmberError as why:
            self.document.refused.emit(str(why))
        self.document.look()
        self.search()

    def give_serial(self) -> None:
        """The number on the unit."""
        if self.record is not None:
            text, ok = text_asked(self, tr("Serial"), tr("Serial of this unit:"))
            if ok:
                self._log("serial", {"serial": text.strip()})

    def deviate(self) -> None:
        """Something that is otherwise than planned."""
        if self.record is not None:
            said = name_and_what(self, tr("Deviation"), tr("Who decided, and what (name: what)?"))
            if said is not None:
                self._log("deviation", {"says": said[1], "who": said[0]})

    def mended(self) -> None:
        """A repair; the proof begins anew."""
        if self.record is None:
            return
        said = name_and_what(self, tr("Mended"), tr("Who mended, and what (name: what)?"))
        if said is not None:
            self._log("mended", {"says": said[1], "who": said[0]})

    def upgrade(self) -> None:
        """The unit is of another revision from now on."""
        if self.record is None or self._plan is None:
            return
        revision, found = self._plan
        who, ok = text_asked(self, tr("Upgrade"), tr("Who decides it?"))
        if ok:
            try:
                take_upgrade(
                    self.document.project, self._name(), revision, found, who, self.document.shelf, self.document.now
                )
                self.said.emit(found.told)
            except UmberError as why:
                self.document.refused.emit(str(why))
            self.search()

    def write(self, whole: bool) -> None:
        """The certificate, or the whole as-built book."""
        if self.record is None:
            return
        safe = "".join(mark if mark.isalnum() or mark in "-_" else "-" for mark in self.record.name)
        name, _ = QFileDialog.getSaveFileName(
            self,
            tr("As it was built"),
            str(self.document.path.with_name(f"{self.document.path.stem}-{safe}.pdf")),
            tr("PDF, CSV, JSON (*.pdf *.csv *.json)"),
        )
        if name:
            record, parts = self.record, self.document.project.floor.kept

            def work(project: ProjectFile) -> tuple[UnitRecord, Path, bool]:
                figures_of(parts, frozen_unit(project, record).design_text)  # what paper is drawn from
                return record, Path(name), whole

            self._beside(self.writer, work)

    def _write(self, answer: tuple[UnitRecord, Path, bool]) -> None:
        from umber_trunk.app.paper.as_built import write_as_built

        record, path, whole = answer
        try:
            write_as_built(self.document.project, record, path, whole)
            told = (
                ""
                if record.certain or whole
                else tr(" It is a test record, no certificate: not proven, {why}.", why=record.why or record.state_told)
            )
            self.said.emit(tr("{path} written.{told}", path=path.name, told=told))
        except UmberError as why:
            self.document.refused.emit(str(why))
