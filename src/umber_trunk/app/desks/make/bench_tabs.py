"""Tabs beside the bench: the order it follows, and what was measured."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QHBoxLayout

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.card import VERBS
from umber_trunk.app.desks.make.chart_view import ChartView
from umber_trunk.app.desks.make.lanes_view import LanesView, Shown
from umber_trunk.app.widgets.desk import Panel, button, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.errors import Wanted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.make.charts import verdict_said
from umber_trunk.core.make.lanes import lanes
from umber_trunk.core.make.runs import Run, runs_of
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import SCHOOLS, Order
from umber_trunk.core.make.times import learn
from umber_trunk.core.results import Results
from umber_trunk.store.floor import times_of

if TYPE_CHECKING:
    from umber_trunk.app.desks.make.desk import MakeDesk

SCHOOL_WORDS = {"operation": word("batch by operation"), "wire": word("wire by wire")}
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
            "",
            lambda r: ("✕ " if r.chart.verdict == "check the die" else "") + str(verdict_said(r.chart.verdict)),
            colour=ink,
            width=-1,
        ),
    ]
