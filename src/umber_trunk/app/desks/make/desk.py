"""Make: the bench step by step, the order it follows, what was measured, what was logged."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.bench_tabs import SCHOOL_WORDS, ChartsPanel, OrderPanel
from umber_trunk.app.desks.make.bench_view import BenchView
from umber_trunk.app.desks.make.build_in_hand import BuildInHand
from umber_trunk.app.desks.make.card import card_of
from umber_trunk.app.desks.make.log_tab import LogPanel
from umber_trunk.app.desks.make.mishaps import Mishaps
from umber_trunk.app.desks.make.stepping import Stepping
from umber_trunk.app.desks.make.taken_in import TakenIn
from umber_trunk.app.document import Document
from umber_trunk.app.settings import BenchHabits
from umber_trunk.app.widgets.desk import Panel, button, column, heading, hint, row, scrolling, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.coilcut import CutPlan
from umber_trunk.core.make.timed import SCHOOLS
from umber_trunk.core.results import Results
from umber_trunk.store.build import Build

FOLLOW_MS = 2000
"""How often a station that only reads looks for what was done."""
TELL_MS = 250
"""How long after a step the trunk follows."""


class MakeDesk(BuildInHand, Stepping, TakenIn, Mishaps):
    """Four tabs: bench, order, charts, log. One build is open at a time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.build: Build | None = None
        self.large: QDialog | None = None
        self.said_last, self.wrong_last = "", False
        self.chosen = -1
        self.habits = BenchHabits()
        self.bench = BenchView()
        self.far = BenchView()
        for view in (self.bench, self.far):
            view.forward.connect(self.forward)
            view.backward.connect(self.backward)
            view.entered.connect(self.enter)
            view.moved.connect(self.step_along)
        self.order = OrderPanel(self)
        self.charts = ChartsPanel(self)
        self.log = LogPanel(self)
        self.panels: tuple[Panel, ...] = (self.order, self.charts, self.log)
        bench = QWidget()
        beside = QHBoxLayout(bench)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.bench, 1)
        beside.addWidget(self._side())
        self._workers()
        large = button(
            "Read at two metres  F9", self.show_large, tip="The step alone, over the whole screen; Esc comes back"
        )
        self.board: QPushButton = button(
            "Board  F7",
            lambda: self.boarded.emit(self.board.isChecked()),
            tip="The board in place of the trunk: what the step touches is lit on it",
        )
        self.board.setCheckable(True)
        pages = (
            ("Bench", bench),
            ("Order", self.order),
            ("Charts", self.charts),
            ("Log", self.log),
        )
        self.tabs, line, self.stack = tabbed(self, pages, None, self.board, large)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addLayout(line)
        layout.addWidget(self.stack, 1)
        self._listens()
        if self.document.project.read_only:
            watch = QTimer(self, interval=FOLLOW_MS)
            watch.timeout.connect(self.follow)
            watch.start()
        self.catch_up()

    def _listens(self) -> None:
        """To keys, and to what is asked of the order."""
        for key, act in (
            ("F7", self.board.click),
            ("F9", self.show_large),
            ("F3", self.change_habit),
            ("F4", self.change_hands),
        ):
            QShortcut(QKeySequence(key), self, act)
        self.tabs[0].clicked.connect(lambda _: self.bench.setFocus())  # Space and the foot switch are for the step
        for changed in (
            self.stack.currentChanged,
            self.units.valueChanged,
            self.hands.valueChanged,
            self.school.activated,
        ):
            changed.connect(lambda _: self.show_panel())

    def _asked(self) -> QWidget:
        """Which build, and what is asked of the next one: units, hands, how to batch, who works."""
        self.builds = QComboBox()
        self.builds.setAccessibleName(tr("Build"))
        self.builds.activated.connect(lambda _: self.open_build(self.builds.currentData()))
        self.builds.activated.connect(lambda _: self.to_bench())
        self.units = Count()
        self.units.setRange(1, 1000)
        self.units.setAccessibleName(tr("Units"))
        self.units.setPrefix(tr("units: "))
        self.hands = Count()
        self.hands.setRange(1, 20)
        self.hands.setAccessibleName(tr("Pairs of hands"))
        self.hands.setPrefix(tr("hands: "))
        self.school = QComboBox()
        self.school.setAccessibleName(tr("How to batch"))
        for school in SCHOOLS:
            self.school.addItem(tr(SCHOOL_WORDS[school]), school)
        self.hand = Line()
        self.hand.setAccessibleName(tr("Who works"))
        self.hand.setPlaceholderText(tr("who works"))
        self.other_hand = button(
            "next  F4", self.change_hands, tip="Who worked here before works now; a name is typed below once"
        )
        start = button(
            "Begin a build",
            self.begin_build,
            primary=True,
            tip="Freezes this revision; everything is logged against it",
        )
        return column(self.builds, row(self.units, self.hands), self.school, row(self.hand, self.other_hand), start)

    def _side(self) -> QWidget:
        """Builds, and what else can be done at a step."""
        self.again = button(
            "Start over", self.remake, tip="This end: undoes exactly its steps and counts the wire down"
        )
        self.scrapped = button("Scrap wire", self.scrap, tip="The wire is cut and made anew")
        self.fault = button("A fault seen…", self.defect, tip="From drawings of what can be wrong")
        self.photo = button(
            "Photograph…",
            self.link_photo,
            tip="Keeps a picture with this step, inside the harness file, without where it was taken",
        )
        self.release = button(
            "Release…", self.let_go, tip="Without a reading, or in spite of it; with a name that stays in the log"
        )
        self.sample = button(
            "Another sample", self.another_sample, tip="Made and measured once more before the batch goes on"
        )
        self.habit = button("", self.change_habit, tip="What Space attests at this operation, in this shop")
        self.gauge = Line()
        self.gauge.setAccessibleName(tr("Gauge"))
        self.gauge.setPlaceholderText("tcp:HOST:PORT, /dev/…, visa:…")
        self.ask = button("Read it  F2", self.read_gauge, tip="Asks the gauge at this address for what is wanted here")
        QShortcut(QKeySequence("F2"), self, self.read_gauge)
        self.keys = hint(
            "Space, foot switch: done. ← →: one piece. Backspace: back. Type or scan a reading, coil, label, serial; "
            "Enter."
        )
        made = column(
            self._asked(),
            heading("At this step"),
            self.habit,
            Flow(self.again, self.scrapped, self.release, self.fault, self.photo, self.sample),
            row(self.gauge, self.ask),
            self.keys,
        )
        layout = made.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch()
        whole = scrolling(made)  # by itself: the step is never cut off for it
        whole.setFixedWidth(round(300 * max(0.85 * theme.text_scale(), 1.0)))
        return whole

    def _workers(self) -> None:
        """What works beside the window: coils, drawings, photographs, the gauge; and who tells the trunk."""
        self._soon = QTimer(self, singleShot=True, interval=TELL_MS)
        self._soon.timeout.connect(self._tell)
        self.coiler = Background(self)
        self.coiler.answered.connect(self._planned)
        self.coiler.crashed.connect(self.document.crashed)
        self.drawer = Background(self)
        self.drawer.answered.connect(self._drawn)
        self.drawer.crashed.connect(self.document.crashed)
        self.developer = Background(self)
        self.developer.answered.connect(self._developed)
        self.developer.crashed.connect(self.document.crashed)
        self.reader = Background(self)
        self.reader.answered.connect(self._heard)
        self.reader.crashed.connect(self.document.crashed)

    # what is shown

    def refresh(self) -> None:
        names = [one.build for one in self.document.project.floor.builds()]
        chosen = self.build.name if self.build is not None else ""
        self.builds.clear()
        if not names:
            self.builds.addItem(tr("nothing is being built yet"), "")
        for name in reversed(names):
            self.builds.addItem(name, name)
        if self.build is None and names:
            self.open_build(names[-1])
        elif chosen:
            self.builds.setCurrentIndex(max(self.builds.findData(chosen), 0))
        self.show_card()
        self.show_panel()

    def begin(self) -> None:
        self.bench.setFocus()

    def reveal(self, part: str, part_id: str) -> bool:
        if part == "readings":
            self.tab(2)
        elif part == "log":
            self.tab(3)
        return super().reveal(part, part_id)

    def close_background(self) -> None:
        self._soon.stop()  # it would tell a trunk that is gone
        self.order.planner.drop()
        self.log.seeing.drop()
        self.reader.drop()
        self.coiler.drop()
        self.drawer.drop()
        if self.build is not None:
            self._closed(self.build)
            self.build = None
        if self.large is not None:
            self.large.close()

    @property
    def busy(self) -> bool:
        return (
            self.order.planner.busy
            or self.log.seeing.busy
            or self.reader.busy
            or self.coiler.busy
            or self.drawer.busy
            or self.developer.busy
            or self._soon.isActive()
        )

    def _plan_coils(self) -> None:
        """Works out which coil each wire comes from, off the window's thread."""
        build = self.build
        if build is not None and not build.planned and not self.coiler.busy:
            work = build.planning()
            self.coiler.ask(lambda wanted: (build, work(wanted)))

    def _tell(self) -> None:
        """The trunk is told how far the build is, once the builder has stopped for a moment."""
        self.document.is_at(self.build.bench.progress() if self.build is not None else None)

    def _planned(self, answer: tuple[Build, CutPlan]) -> None:
        build, plan = answer
        if build is self.build:
            build.take_plan(plan)
            self.show_card()

    def show_card(self) -> None:
        self._plan_coils()
        self._soon.start()
        here = self.build.bench.handful if self.build is not None else None
        if here is None or self.chosen >= len(here.pieces):
            self.chosen = -1
        whole = here is None or self.habits.whole(here.first.op)
        card = (
            card_of(self.build, self.said_last, self.wrong_last, self.chosen, whole) if self.build is not None else None
        )
        for view in (self.bench, self.far):
            view.show_card(card)
        self.habit.setText(tr("Space: the whole handful  F3") if whole else tr("Space: piece by piece  F3"))
        self.habit.setEnabled(here is not None and not here.singly)
        self.sample.setEnabled(here is not None and here.first.op in ("crimp", "split") and not here.first.sample)
        step = self.here()
        ended = step is not None and bool(step.operation.wire)
        self.again.setEnabled(ended and bool(step and step.operation.side))
        self.scrapped.setEnabled(ended and bool(step and step.unit))
        self.release.setEnabled(self.build is not None and step is not None)
        self.fault.setEnabled(step is not None)
        if step is not None and self.isVisible():
            one = step.operation
            if one.wire:
                self.picked.emit("wires", one.wire)
            index = index_of(self.document.design)
            touched = [done.operation for done in here.steps] if here is not None and self.chosen < 0 else [one]
            lit = {("wires", each.wire) for each in touched if each.wire in index.wires} | {
                ("ends", each.end) for each in touched if each.end in index.ends
            }
            self.lit.emit(lit)

    @property
    def on_board(self) -> bool:
        """Whether it shows the board in place of the trunk."""
        return self.board.isChecked()

    def show_large(self) -> None:
        """The step alone over the whole screen."""
        if self.large is None:
            self.large = QDialog(self)
            self.large.setWindowTitle(tr("Bench"))
            whole = QVBoxLayout(self.large)
            whole.setContentsMargins(0, 0, 0, 0)
            whole.addWidget(self.far)
        self.large.showMaximized()
        self.far.setFocus()

    # what is done

    def _drawn(self, answer: tuple[Build, Results]) -> None:
        if answer[0] is self.build:
            self.show_card()

    def follow(self) -> None:
        """What another station has logged meanwhile is shown."""
        build = self.build
        if build is None or not self.isVisible():
            return
        try:
            fresh = [one for one in self.document.project.floor.events(build.name) if one.id not in build.bench.seen]
        except UmberError:
            return  # the other station is just writing; the next time will do
        for event in fresh:
            build.bench.add(event)
        if fresh:
            self.document.measured()
            self.show_card()
