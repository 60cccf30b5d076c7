"""Keep: every unit as it was built; compared, brought to another revision, opened for a repair; its certificate and
book."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QPlainTextEdit, QSplitter, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.keep.said_of_it import SaidOfIt
from umber_trunk.app.desks.keep.told import (
    ahead,
    record_told,
    repair_told,
    states_of,
    tests_told,
    unit_columns,
)
from umber_trunk.app.desks.keep.unit_view import Small, UnitView
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import beside, button, column, heading, row, scrolling
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.keep.compare import Upgrade, compare_units
from umber_trunk.core.keep.portrait import Portrait, of_coil, places, portrait, texts_at
from umber_trunk.core.keep.unit_record import UnitRecord
from umber_trunk.core.prove.redline import Redline
from umber_trunk.store.found_units import records_of
from umber_trunk.store.keeping import frozen_unit, repair_of
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.station import known_stations, this_station


@dataclass(frozen=True)
class Page:
    """What was worked out beside the window of a unit's page: its words, "" where they stand already; how its wires
    are; the way to another revision."""

    record: UnitRecord
    page: str
    text: str = ""
    states: dict[str, str] = field(default_factory=dict)
    plan: tuple[int, Upgrade] | None = None
    seen: Portrait | None = None


class KeepDesk(SaidOfIt):
    """Units on the left, the chosen one's record on the right."""

    reads_log = True

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.record: UnitRecord | None = None
        self._plan: tuple[int, Upgrade] | None = None
        self._wanted = ""
        """A unit to show once it is found."""
        self.words = Line()
        self.words.setAccessibleName(tr("Find units"))
        self.words.setPlaceholderText(tr("coil C12, hand Mara, serial …, tool …, fault …, proven"))
        self.words.textChanged.connect(lambda _: self.search())
        self.rows = self.table("Units", "units", unit_columns(), lambda r: f"{r.build}/{r.unit}")
        self.rows.current.connect(self._choose)
        self.log = Label()
        self.log.setProperty("role", "hint")
        self.log.setWordWrap(True)
        verify = button("Check the log", self.verify, tip="Whether every entry is as it was written")
        left = column(row(self.words), self.rows, beside(self.log, verify))
        splitter = QSplitter(Qt.Orientation.Horizontal)
        for widget in (left, self._of_the_unit()):
            splitter.addWidget(scrolling(widget))
        splitter.setSizes([460, 740])
        splitter.setChildrenCollapsible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addWidget(splitter)
        self.worker, self.seeker, self.writer = Background(self), Background(self), Background(self)
        self.worker.answered.connect(self._worked)
        self.seeker.answered.connect(self._found)
        self.writer.answered.connect(self._write)
        for one in (self.worker, self.seeker, self.writer):
            one.crashed.connect(self._failed)
        self.catch_up()

    def _of_the_unit(self) -> QWidget:
        """The chosen unit: its record as a picture or in words, and what can be said of it."""
        self.page = QComboBox()
        self.page.setAccessibleName(tr("What of the unit"))
        for name, words in (
            ("record", tr("as it was built")),
            ("tests", tr("its proof")),
            ("repair", tr("for a repair")),
            ("compare", tr("beside another unit")),
            ("upgrade", tr("to another revision")),
        ):
            self.page.addItem(tr(words), name)
        self.page.currentIndexChanged.connect(lambda _: self._show_record())
        self.other = QComboBox()
        self.other.setAccessibleName(tr("Other unit or revision"))
        self.other.currentIndexChanged.connect(lambda _: self._show_page())
        self.title = heading("")
        self.view = UnitView()
        self.view.wants_unit.connect(self._choose_row)
        self.view.wants_coil.connect(self.light)
        self.view.wants_end.connect(lambda end: self.lit.emit({("ends", end)}))
        self.in_words = button("In words", self._show_page, tip="The unit's record as text, or its picture again")
        self.in_words.setCheckable(True)
        self._seen: Portrait | None = None
        self._coil = ""
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setStyleSheet(f"font-family: '{theme.MONO}'")
        self.text.setAccessibleName(tr("The unit's record"))
        serial = button("Serial…", self.give_serial)
        deviation = button("Deviation…", self.deviate, tip="What is otherwise than planned, and who decided it")
        mended = button("Mended…", self.mended, tip="A repair: the unit is to be proven anew")
        self.take = button(
            "Upgrade…", self.upgrade, tip="By a named decision: just the steps that differ are done anew"
        )
        certificate = button("Certificate…", lambda: self.write(False), primary=True)
        book = button("As-built book…", lambda: self.write(True))
        return column(
            row(self.title),
            row(self.page, self.other, self.in_words),
            self.view,
            self.text,
            Flow(serial, deviation, mended, self.take, None, certificate, book),
        )

    def refresh(self) -> None:
        self.search()

    def begin(self) -> None:
        self.words.setFocus()

    def reveal(self, part: str, part_id: str) -> bool:
        """A unit is found among all before it is shown."""
        if part != "units" or self.rows.rows_model.row_of(part_id) >= 0:
            return super().reveal(part, part_id)
        self._wanted = part_id
        self.words.setText("")
        self.search()
        return True

    def close_background(self) -> None:
        for one in (self.worker, self.seeker, self.writer):
            one.drop()

    @property
    def busy(self) -> bool:
        return self.worker.busy or self.seeker.busy or self.writer.busy

    def _failed(self, why: Exception) -> None:
        if isinstance(why, UmberError):
            self.document.refused.emit(str(why))
        else:
            self.document.crashed.emit(why)

    # which units

    def search(self) -> None:
        """The units that the words lead to; all, without words."""
        words = self.words.text()
        self._beside(self.seeker, lambda project: (records_of(project, words, begins=True), project.floor.seal()))

    def _found(self, answer: tuple[list[UnitRecord], tuple[int, str]]) -> None:
        found, (entries, seal) = answer
        self.rows.show_rows(found)
        self.log.setText(
            tr(
                "{count} {count|unit|units}. The log has {entries} entries, seal {seal} …",
                count=len(found),
                entries=entries,
                seal=seal[:12],
            )
            if entries
            else tr(
                "Nothing was built yet: begin a build on the Make desk; every step and reading is kept from then on."
            )
        )
        if self._wanted:
            self.rows.choose(self._wanted, quiet=True)
        chosen, self._wanted = self._wanted or self.rows.chosen_id(), ""
        self.record = next((one for one in found if f"{one.build}/{one.unit}" == chosen), found[0] if found else None)
        self.view.nothing = (
            tr("No unit fits these words: {words}", words=self.words.text().strip())
            if entries
            else tr("Nothing was built yet. Units stand here once a build is begun on the Make desk.")
        )
        self._show_record()

    def _choose(self, key: str) -> None:
        self.record = next((one for one in self.rows.rows_model.rows if f"{one.build}/{one.unit}" == key), self.record)
        self._show_record()

    def verify(self) -> None:
        """Looks at every seal of the log."""
        try:
            trust = self.document.project.floor.trust()
            known = known_stations() | {(own := this_station()).key: own.name}
        except UmberError as why:
            self.log.setText(f"✕ {why}")
            return
        by = ", ".join(
            f"{known.get(key) or name}{'' if key in known else tr(' (new here)')}" for key, name in trust.by.items()
        )
        tail = trust.entries - trust.signed_to
        told = tr("Every entry is as it was written; signed by {by}.", by=by or "nobody") + (
            tr(" The last {tail} no signature covers yet.", tail=tail) if tail > 0 else ""
        )
        self.log.setText(f"✕ {trust.wrong}" if trust.wrong else told)

    # the chosen one

    def _show_record(self) -> None:
        page = self.page.currentData()
        self.other.blockSignals(True)
        self.other.clear()
        if page == "compare":
            for one in self.rows.rows_model.rows:
                if one is not self.record:
                    self.other.addItem(one.name, f"{one.build}/{one.unit}")
        elif page == "upgrade":
            for revision in reversed(self.document.project.revisions()[-200:]):
                if self.record is None or revision.seq != self.record.revision:
                    self.other.addItem(f"revision {revision.seq}: {revision.label}"[:60], revision.seq)
        self.other.setVisible(page in ("compare", "upgrade"))
        self.take.setEnabled(False)
        self.other.blockSignals(False)
        self._show_page()

    def _show_page(self) -> None:
        record = self.record
        pictured = self.page.currentData() == "record" and not self.in_words.isChecked()
        self.view.setVisible(pictured)
        self.text.setVisible(not pictured)
        self.in_words.setVisible(self.page.currentData() == "record")
        if record is None:
            self.view.show_unit(None)
            self.title.setText("")
            self.text.setPlainText(self.view.nothing)
            self.document.is_proving("keep", None)
            return
        self.title.setText(
            tr(
                "{record}  ·  revision {revision}  ·  {state}",
                record=record.name,
                revision=record.revision,
                state=record.state_told,
            )
        )
        page = self.page.currentData()
        if page == "record":
            self.text.setPlainText(record_told(record))
        elif page == "tests":
            self.text.setPlainText(tests_told(record))
        elif page == "compare":
            self._compare(record)
        else:
            self.text.setPlainText(tr("working it out …"))
        self._work(page, record)

    def _compare(self, record: UnitRecord) -> None:
        other = next(
            (one for one in self.rows.rows_model.rows if f"{one.build}/{one.unit}" == self.other.currentData()), None
        )
        if other is None:
            self.text.setPlainText(tr("There is no other unit."))
            return
        rows = compare_units(record, other)
        self.text.setPlainText(
            "\n".join(f"{what}\n    {record.name}: {a}\n    {other.name}: {b}" for what, a, b in rows)
            or tr("Nothing differs.")
        )

    def _work(self, page: str, record: UnitRecord) -> None:
        """How the unit's wires are, and what repairs and upgrades need: the figures of its revision."""
        shown, revision = self.document.design, self.other.currentData()
        parts, known = self.document.shelf, self.document.now

        def work(project: ProjectFile) -> Page:
            text, plan = "", None
            try:
                frozen = frozen_unit(project, record)
                seen = portrait(record, frozen.making)
                if page == "repair":
                    text = repair_told(repair_of(project, record))
                elif page == "upgrade":
                    text, plan = ahead(project, record, revision, parts, known)
                mine = {wire.id: wire for wire in project.design_at(record.revision).wires}
            except UmberError as why:
                return Page(
                    record, page, str(why) if page in ("repair", "upgrade") else "", seen=portrait(record, None)
                )
            alike = {wire.id for wire in shown.wires if mine.get(wire.id) == wire}
            states = states_of(record, frozen)
            return Page(
                record, page, text, {wire: state for wire, state in states.items() if wire in alike}, plan, seen
            )

        self._plan = None
        self._beside(self.worker, work)

    def _worked(self, answer: Page) -> None:
        if answer.record is not self.record or answer.page != self.page.currentData():
            return
        if answer.text:
            self.text.setPlainText(answer.text)
        self._plan = answer.plan
        self._seen = answer.seen
        self.take.setEnabled(answer.plan is not None)
        self._show_unit()
        said = texts_at(answer.seen) if answer.seen is not None else {}
        self.document.is_proving("keep", Redline(answer.states, said=said))

    def _show_unit(self) -> None:
        """The unit's picture, with its lot beside it."""
        record = self.record
        if record is None:
            return
        lot = [one for one in self.rows.rows_model.rows if one.build == record.build]
        lit = of_coil(lot, self._coil)
        small = tuple(
            Small(
                key,
                f"{one.unit}" if not one.serial else one.serial,
                one.state,
                places(one),
                len(one.remakes),
                len(lit.get(key, ())),
            )
            for one in lot
            for key in (f"{one.build}/{one.unit}",)
        )
        self.view.show_unit(self._seen, small, f"{record.build}/{record.unit}", self._coil)

    def _choose_row(self, key: str) -> None:
        self.rows.choose(key)
        self._choose(key)

    def light(self, coil: str) -> None:
        """What came from a coil is lit, on the trunk and across the lot; chosen once more, no longer."""
        self._coil = "" if coil == self._coil else coil
        self._show_unit()
        wires = self.record.coils.get(self._coil, set()) if self.record is not None else set()
        known = index_of(self.document.design).wires
        self.lit.emit({("wires", wire) for wire in wires if wire in known})

    # what is said of it
