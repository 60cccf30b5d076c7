"""The log of the open builds as a tab: what was done and measured, who of two stations is believed, photographs."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QMessageBox

from umber_trunk.app.background import Background
from umber_trunk.app.widgets.asked import name_and_what, one_of
from umber_trunk.app.widgets.desk import Panel, button, row
from umber_trunk.app.widgets.photo_view import PhotoView
from umber_trunk.app.widgets.plain import box, choice
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.keep.stations import disputes
from umber_trunk.core.make.events import Event, Note
from umber_trunk.core.make.told import entry_told
from umber_trunk.core.moments import moment
from umber_trunk.store.inputs import orders_of
from umber_trunk.store.keeping import choose, strike
from umber_trunk.store.merging import BadLinesError, merge
from umber_trunk.store.photographs import has_photograph, photograph_of

if TYPE_CHECKING:
    from umber_trunk.app.desks.make.desk import MakeDesk


SHOWN_LOG = 2000


class LogPanel(Panel):
    """What was logged, newest first."""

    def __init__(self, desk: MakeDesk) -> None:
        super().__init__(desk)
        self.rows = desk.table("Log", "log", _log_columns(), lambda r: r.id)
        merging = button(
            "Merge another station’s log…", self.merge, tip="Adds what isn’t here yet; nothing is overwritten"
        )
        striking = button(
            "Strike…",
            self.strike,
            tip="The chosen entry was found wrong: it is kept, shown as struck, and counts no more",
        )
        choosing = button(
            "Which stands…",
            self.choose,
            tip="Two stations say different things of one step, reading, test or serial: choose by name",
        )
        self.photo = PhotoView()
        self.photo.hide()
        self.rows.current.connect(self._look_at)
        self.seeing = Background(self)
        self.seeing.answered.connect(lambda seen: self.photo.show_photo(*seen))
        self.seeing.crashed.connect(desk.document.crashed)
        beside = row(self.rows, self.photo)
        beside.setStretch(0, 3)
        beside.setStretch(1, 2)
        self.column.addLayout(row(None, choosing, striking, merging))
        self.column.addLayout(beside)

    def _look_at(self, entry_id: str) -> None:
        """The photograph kept with the chosen entry, read beside the window."""
        said = next((one for one in self.rows.rows_model.rows if one.id == entry_id), None)
        self.seeing.drop()
        self.photo.setVisible(said is not None and has_photograph(said.event))
        if said is None or not has_photograph(said.event):
            return
        self.photo.show_photo(QImage(), tr("…"))
        document, event = self.desk.document, said.event

        def work(_: Wanted) -> tuple[QImage, str]:
            try:
                with document.project.beside() as project:
                    image = QImage.fromData(photograph_of(project.floor, event))
            except UmberError as why:
                return QImage(), str(why)
            unit = tr(", unit {unit}", unit=event.unit) if event.unit else ""
            return image, f"{event.build}{unit}: {event.act.photo}" if isinstance(event.act, Note) else ""

        self.seeing.ask(work)

    def merge(self) -> None:
        """Another station's log is added to this one."""
        name, _ = QFileDialog.getOpenFileName(
            self, tr("A station’s log"), str(self.desk.document.path.parent), tr("Logs (*.jsonl)")
        )
        if name:
            document = self.desk.document
            try:
                try:
                    taken = merge(document.project, Path(name), document.shelf)
                except BadLinesError as why:
                    if not self._without(str(why)):
                        return
                    taken = merge(document.project, Path(name), document.shelf, without_bad=True)
                by = tr("signed by {taken}", taken=taken.name) if taken.key else tr("signed by nobody")
                left = (
                    tr("; the last {unsigned} no signature covers: they prove nothing", unsigned=taken.unsigned)
                    if taken.unsigned
                    else ""
                )
                other = (
                    tr("; {otherwise} planned otherwise than here", otherwise=taken.otherwise)
                    if taken.otherwise
                    else ""
                )
                held = f"; {taken.held_back}" if taken.held_back else ""
                self.desk.said.emit(
                    tr(
                        "{added} entries added, {by}{left}{other}{held}.",
                        added=taken.added,
                        by=by,
                        left=left,
                        other=other,
                        held=held,
                    )
                )
                self.desk.document.measured()
            except UmberError as why:
                self.desk.document.refused.emit(str(why))
            self.show_now()

    def _without(self, said: str) -> bool:
        """Whether what is before the first bad line is wanted."""
        asked = box(self, said, tr("What stands before the first bad line can be taken; the rest is held back."))
        take = choice(asked, tr("Take what is before it"), QMessageBox.ButtonRole.AcceptRole)
        choice(asked, tr("Take nothing"), QMessageBox.ButtonRole.RejectRole)
        asked.exec()
        return asked.clickedButton() is take

    def choose(self) -> None:
        """Of two entries that contradict, the chosen one or else the first that is open: which stands, by name."""
        project, chosen = self.desk.document.project, self.rows.chosen_id()
        open_ = disputes(project.floor.events())
        found = next((one for one in open_ if chosen in (one.one.id, one.other.id)), open_[0] if open_ else None)
        if found is None:
            self.desk.said.emit(tr("No two entries contradict."))
            return
        ways = {
            tr("entry {n}", n=found.one.n): (found.one, found.other),
            tr("entry {n}", n=found.other.n): (found.other, found.one),
            tr("both stand"): (found.one, found.other),
        }
        way, ok = one_of(self, tr("Which stands"), found.told, list(ways))
        said = name_and_what(self, tr("Which stands"), tr("Who chooses, and why (name: why)?")) if ok else None
        if said is not None:
            stands, other = ways[way]
            try:
                self.desk.said.emit(f"{choose(project, stands.id, other.id, *said, both=way == tr('both stand'))}.")
                self.desk.document.measured()
            except UmberError as why:
                self.desk.document.refused.emit(str(why))
            self.show_now()

    def strike(self) -> None:
        """The chosen entry is struck, by name."""
        said = (
            name_and_what(self, tr("Strike"), tr("Who strikes the chosen entry, and why (name: why)?"))
            if self.rows.chosen_id()
            else None
        )
        if said is not None:
            try:
                self.desk.said.emit(
                    tr(
                        "{entry}, is struck.",
                        entry=strike(self.desk.document.project, self.rows.chosen_id(), *said),
                    )
                )
                self.desk.document.measured()
            except UmberError as why:
                self.desk.document.refused.emit(str(why))
            self.show_now()

    def show_now(self) -> None:
        floor = self.desk.document.project.floor
        events = floor.events()[::-1][:SHOWN_LOG]
        orders = orders_of(floor)
        self.rows.show_rows([Said(one, str(entry_told(one, orders.get(one.build)))) for one in events])


@dataclass(frozen=True)
class Said:
    """An entry as it is shown."""

    event: Event
    told: str

    @property
    def id(self) -> str:
        """The entry's own."""
        return self.event.id


def _log_columns() -> list[Column]:
    return [
        Column("No", lambda r: str(r.event.n), right=True, key=lambda r: r.event.n, width=52),
        Column("When", lambda r: moment(r.event.at_ms, seconds=True), key=lambda r: r.event.at_ms, width=150),
        Column("Build", lambda r: r.event.build, width=110),
        Column("Hand", lambda r: r.event.act.hand, width=80),
        Column("What", lambda r: r.told, width=-1),
    ]
