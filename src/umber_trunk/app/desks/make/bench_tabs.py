"""Tabs beside the bench: the order it follows, what was measured, what was logged."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QMessageBox

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.card import VERBS
from umber_trunk.app.desks.make.chart_view import ChartView
from umber_trunk.app.desks.make.lanes_view import LanesView, Shown
from umber_trunk.app.widgets.asked import name_and_what, one_of
from umber_trunk.app.widgets.desk import Panel, button, row
from umber_trunk.app.widgets.photo_view import PhotoView
from umber_trunk.app.widgets.plain import Label, box, choice
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.keep.stations import disputes
from umber_trunk.core.make.events import Event, Note
from umber_trunk.core.make.lanes import lanes
from umber_trunk.core.make.runs import Run, runs_of
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import SCHOOLS, Order
from umber_trunk.core.make.times import learn
from umber_trunk.core.make.told import entry_told
from umber_trunk.core.moments import moment
from umber_trunk.core.results import Results
from umber_trunk.store.floor import times_of
from umber_trunk.store.inputs import orders_of
from umber_trunk.store.keeping import choose, strike
from umber_trunk.store.merging import BadLinesError, merge
from umber_trunk.store.photographs import has_photograph, photograph_of

if TYPE_CHECKING:
    from umber_trunk.app.desks.make.desk import MakeDesk

SCHOOL_WORDS = {"operation": word("batch by operation"), "wire": word("wire by wire")}
SHOWN_LOG = 2000
DAY_H = 7.0
"""Hours at the bench in a day."""


class OrderPanel(Panel):
    """The order in lanes, both schools on one scale; every step as a list one click away."""

    def __init__(self, desk: MakeDesk) -> None:
        super().__init__(desk)
        self.make = desk
        self.summary = Label()
        self.summary.setWordWrap(True)
        self.rows = desk.table("Steps", "steps", _step_columns(), lambda r: r.key)
        self.lanes = LanesView()
        self.lanes.chosen.connect(self._light)
        self._order: Order | None = None
        self.listed = button("As a list", self._listed, tip="Every step in words, or the lanes again")
        self.listed.setCheckable(True)
        self.rows.hide()
        self.planner = Background(self)
        self.planner.answered.connect(self._arrived)
        self.planner.crashed.connect(desk.document.crashed)
        self._asked_of: Results | None = None
        self._asked: tuple[object, ...] = ()
        above = row(self.summary, self.listed)
        above.setStretch(0, 1)
        self.column.addLayout(above)
        self.column.addWidget(self.lanes, 1)
        self.column.addWidget(self.rows, 1)

    def _listed(self) -> None:
        self.rows.setVisible(self.listed.isChecked())
        self.lanes.setVisible(not self.listed.isChecked())

    def _light(self, numbers: tuple[int, ...]) -> None:
        """The chosen bar's wires and ends light up on the trunk."""
        order = self._order
        if order is None:
            return
        index = index_of(self.desk.document.design)
        ops = [order.steps[n - 1].operation for n in numbers]
        lit = {("wires", one.wire) for one in ops if one.wire in index.wires}
        lit |= {("ends", one.end) for one in ops if one.end in index.ends}
        self.desk.lit.emit(lit)

    def show_now(self) -> None:
        make = self.make
        if make.build is not None:
            self.planner.drop()
            self._asked_of = None
            self._show(
                make.build.bench.order, None, tr("Build {build}", build=make.build.name)
            )  # frozen: it is not planned again
            return
        results = make.document.now
        if results is None:
            return
        units = tuple(range(1, make.units.value() + 1))
        asked = units, make.school.currentData(), make.hands.value()
        if results is self._asked_of and asked == self._asked:
            return
        self._asked_of, self._asked = results, asked
        times = learn(times_of(make.document.project.floor.events()))
        school, hands = str(make.school.currentData()), make.hands.value()

        def work(wanted: Wanted) -> tuple[Order, Order]:
            other = next(one for one in SCHOOLS if one != school)
            mine = plan_order(results, units, school, hands, times, wanted)
            return mine, plan_order(results, units, other, hands, times, wanted)

        self.planner.ask(work)

    def _arrived(self, both: tuple[Order, Order]) -> None:
        name = (
            tr("Build {build}", build=self.make.build.name)
            if self.make.build is not None
            else tr("As it would be built")
        )
        self._show(both[0], both[1], name)

    def _show(self, order: Order, other: Order | None, name: str) -> None:
        told = tr(
            "{name}: {steps} steps, {school}{several?, {hands} pairs of hands}: {changes} tool changes (no order does "
            "with fewer than {bound}), {time}",
            name=name,
            steps=len(order.steps),
            school=tr(SCHOOL_WORDS[order.school]),
            several=order.hands > 1,
            hands=order.hands,
            changes=order.tool_changes,
            bound=order.bound,
            time=_range(order),
        )
        if other is not None:
            told += tr(
                ".   {school}: {changes} tool changes, {time}",
                school=tr(SCHOOL_WORDS[other.school]).capitalize(),
                changes=other.tool_changes,
                time=_range(other),
            )
        self.summary.setText(told + ".")
        self._order = order
        words = [
            (
                tr(
                    "{school}: {hours:.1f} h by these times, none under {bound_hours:.1f} h",
                    school=tr(SCHOOL_WORDS[one.school]).capitalize(),
                    hours=one.span_s / 3600,
                    bound_hours=one.span_bound_s / 3600,
                )
            )
            for one in (order, other)
            if one is not None
        ]
        self.lanes.show_orders(
            tuple(Shown(said, lanes(one)) for said, one in zip(words, (order, other), strict=False) if one is not None)
        )
        self.rows.show_rows(list(order.steps))


def _range(order: Order) -> str:
    low, high = order.low_s / 3600, order.high_s / 3600
    days = (
        tr(", {low:.1f} to {high:.1f} days of {day_h:g} h", low=low / DAY_H, high=high / DAY_H, day_h=DAY_H)
        if high > DAY_H
        else ""
    )
    return tr("{low:.1f} to {high:.1f} h{days}", low=low, high=high, days=days)


def _step_columns() -> list[Column]:
    return [
        Column("", lambda r: str(r.n), right=True, key=lambda r: r.n, width=50),
        Column("Do", lambda r: VERBS.get(r.operation.op, r.operation.op), width=84),
        Column("Unit", lambda r: str(r.unit) if r.unit else "all", right=True, key=lambda r: r.unit, width=46),
        Column("What", lambda r: r.operation.text, width=-1),
        Column("Tool", lambda r: r.operation.tool, width=130),
        Column("Setting", lambda r: r.operation.setting, width=150),
        Column("Where", lambda r: r.operation.place, width=150),
        Column("Takes", lambda r: f"{r.seconds:.0f} s", right=True, key=lambda r: r.seconds, width=60),
        Column("Hand", lambda r: str(r.hand), right=True, key=lambda r: r.hand, width=50),
        Column("Begins", lambda r: _clock(r.start_s), right=True, key=lambda r: r.start_s, width=80),
    ]


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{int(seconds % 60):02d} min"


class ChartsPanel(Panel):
    """Runs of readings on the left, the chosen one's chart on the right."""

    def __init__(self, desk: MakeDesk) -> None:
        super().__init__(desk)
        self.make = desk
        self.rows = desk.table("Runs", "readings", _run_columns(), lambda r: r.key)
        self.rows.current.connect(lambda _: self._chosen())
        self.chart = ChartView()
        beside = QHBoxLayout()
        beside.addWidget(self.rows, 5)
        beside.addWidget(self.chart, 6)
        anew = button(
            "The die was set anew", self.reset, tip="Its charts begin anew; measure a sample before the batch goes on"
        )
        self.column.addLayout(beside)
        self.column.addLayout(row(None, anew))

    def reset(self) -> None:
        """The chosen run's die was set or changed."""
        run = self.chart.run
        desk = self.make
        if run is None or desk.build is None:
            desk.said.emit(tr("Open a build and choose a run first."))
            return
        desk.set_anew(run.tool, run.setting)
        self.show_now()

    def show_now(self) -> None:
        self.rows.show_rows(runs_of(self.desk.document.project.floor.events()))
        self._chosen()

    def _chosen(self) -> None:
        rows = self.rows.rows_model.rows
        chosen = self.rows.chosen_id()
        self.chart.show_run(
            next((r for r in rows if self.rows.rows_model.identity(r) == chosen), rows[0] if rows else None)
        )


def _run_columns() -> list[Column]:
    def ink(run: Run) -> Any:
        return {"check the die": theme.BROKEN, "few": theme.TIGHT_TEXT, "coarse": theme.TIGHT_TEXT}.get(
            run.chart.verdict, theme.GOOD
        )

    return [
        Column("Part", lambda r: r.part, width=156),
        Column("What", lambda r: r.kind, width=56),
        Column(
            "mm²", lambda r: f"{r.area_mm2:g}" if r.area_mm2 else "", right=True, key=lambda r: r.area_mm2, width=44
        ),
        Column("Setting", lambda r: r.setting, width=104),
        Column("n", lambda r: str(len(r.chart.values)), right=True, key=lambda r: len(r.chart.values), width=36),
        Column(
            "", lambda r: ("✕ " if r.chart.verdict == "check the die" else "") + r.chart.verdict, colour=ink, width=-1
        ),
    ]


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
