"""Make: the bench step by step, the order it follows, what was measured, what was logged."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from PySide6.QtCore import QTimer
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.make.bench_tabs import SCHOOL_WORDS, ChartsPanel, LogPanel, OrderPanel
from umber_trunk.app.desks.make.bench_view import BenchView
from umber_trunk.app.desks.make.card import card_of, open_step
from umber_trunk.app.desks.make.defect_sheet import COMES_TO, DefectSheet
from umber_trunk.app.document import Document
from umber_trunk.app.paper.photographs import MOST_PX, photograph, size_of
from umber_trunk.app.settings import BenchHabits
from umber_trunk.app.widgets.asked import one_of, text_asked
from umber_trunk.app.widgets.desk import Panel, TabbedDesk, button, column, heading, hint, row, scrolling, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.kit.coilcut import CutPlan
from umber_trunk.core.make.events import Read, Reset, Undo
from umber_trunk.core.make.measuring import DEFECTS, KINDS, kind_said, wanted_readings
from umber_trunk.core.make.timed import SCHOOLS, Timed
from umber_trunk.core.results import Results
from umber_trunk.store.build import Build, begin, resume
from umber_trunk.store.found_units import kept_unit
from umber_trunk.store.gauges import ask_gauge

FOLLOW_MS = 2000
"""How often a station that only reads looks for what was done."""
SCRAP_REASONS = [
    "insulation or jacket cut",
    "too short",
    "strands lost",
    "spoiled at the crimp",
    "wrong wire",
    "otherwise…",
]
"""Why a wire is given up, the usual ones."""
TELL_MS = 250
"""How long after a step the trunk follows."""


@dataclass(frozen=True)
class Developed:
    """A photograph for a step: its file, what it is kept as or why it can't be, and how large the file's is [px]."""

    build: Build
    step: Timed | None
    name: str
    text: str | UmberError = ""
    size: tuple[int, int] = (0, 0)


class MakeDesk(TabbedDesk):
    """Four tabs: bench, order, charts, log. One build is open at a time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.build: Build | None = None
        self._large: QDialog | None = None
        self._said, self._wrong = "", False
        self._chosen = -1
        """A piece of the handful that is taken by itself, -1 for none."""
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
        for key, act in (
            ("F7", self.board.click),
            ("F9", self.show_large),
            ("F3", self.change_habit),
            ("F4", self.change_hands),
        ):
            QShortcut(QKeySequence(key), self, act)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addLayout(line)
        layout.addWidget(self.stack, 1)
        self.tabs[0].clicked.connect(lambda _: self.bench.setFocus())  # Space and the foot switch are for the step
        for changed in (
            self.stack.currentChanged,
            self.units.valueChanged,
            self.hands.valueChanged,
            self.school.activated,
        ):
            changed.connect(lambda _: self.show_panel())
        if self.document.project.read_only:
            watch = QTimer(self, interval=FOLLOW_MS)
            watch.timeout.connect(self.follow)
            watch.start()
        self.catch_up()

    def _side(self) -> QWidget:
        """Builds, and what else can be done at a step."""
        self.builds = QComboBox()
        self.builds.setAccessibleName(tr("Build"))
        self.builds.activated.connect(lambda _: self.open_build(self.builds.currentData()))
        self.builds.activated.connect(lambda _: self._to_bench())
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
        start = button(
            "Begin a build",
            self.begin_build,
            primary=True,
            tip="Freezes this revision; everything is logged against it",
        )
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
        self.other_hand = button(
            "next  F4", self.change_hands, tip="Who worked here before works now; a name is typed below once"
        )
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
            self.builds,
            row(self.units, self.hands),
            self.school,
            row(self.hand, self.other_hand),
            start,
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
        self._show_card()
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
        self.order.planner.drop()
        self.log.seeing.drop()
        self.reader.drop()
        self.coiler.drop()
        self.drawer.drop()
        if self.build is not None:
            self._closed(self.build)
            self.build = None
        if self._large is not None:
            self._large.close()

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
            self._show_card()

    def _show_card(self) -> None:
        self._plan_coils()
        self._soon.start()
        here = self.build.bench.handful if self.build is not None else None
        if here is None or self._chosen >= len(here.pieces):
            self._chosen = -1
        whole = here is None or self.habits.whole(here.first.op)
        card = card_of(self.build, self._said, self._wrong, self._chosen, whole) if self.build is not None else None
        for view in (self.bench, self.far):
            view.show_card(card)
        self.habit.setText(tr("Space: the whole handful  F3") if whole else tr("Space: piece by piece  F3"))
        self.habit.setEnabled(here is not None and not here.singly)
        self.sample.setEnabled(here is not None and here.first.op in ("crimp", "split") and not here.first.sample)
        step = self._here()
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
            touched = [done.operation for done in here.steps] if here is not None and self._chosen < 0 else [one]
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
        if self._large is None:
            self._large = QDialog(self)
            self._large.setWindowTitle(tr("Bench"))
            whole = QVBoxLayout(self._large)
            whole.setContentsMargins(0, 0, 0, 0)
            whole.addWidget(self.far)
        self._large.showMaximized()
        self.far.setFocus()

    # what is done

    def open_build(self, name: str) -> None:
        """Goes on with a build, at the very step it was left."""
        if not name or (self.build is not None and self.build.name == name):
            return
        self._act(
            lambda: self._swap(resume(self.document.project, name, hand=self.hand.text(), parts=self.document.shelf))
        )

    def begin_build(self) -> None:
        """Begins a build of the design shown."""
        taken = {one.build for one in self.document.project.floor.builds()}
        station = ""
        if self.document.project.read_only:
            station, ok = text_asked(
                self,
                tr("Second station"),
                tr(
                    "This file is open elsewhere. A name for this station: its log is kept beside the file, to be "
                    "merged."
                ),
            )
            if not ok or not station.strip():
                return
        day = datetime.now().strftime("%Y-%m-%d")
        name = next(n for n in (f"{day}{f'-{k}' if k > 1 else ''}" for k in range(1, 10_000)) if n not in taken)
        if self._act(
            lambda: self._swap(
                begin(
                    self.document.project,
                    name,
                    range(1, self.units.value() + 1),
                    self.school.currentData(),
                    self.hands.value(),
                    station=station,
                    hand=self.hand.text(),
                    known=self.document.now,
                    parts=self.document.shelf,
                )
            )
        ):
            self._behind = True
            self.catch_up()
            if self.build is not None and self.build.begun.faults:
                self._say_wrong(
                    f"{self.build.begun.faults} faults are open: mend them before cutting, or know why not."
                )
            self.bench.setFocus()

    def _swap(self, build: Build) -> None:
        self.coiler.drop()
        self.drawer.drop()
        if self.build is not None:
            self._closed(self.build)
        self.build = build
        if build.earlier:
            self.said.emit(tr("Begun by an earlier format: planned once more, and frozen from now on."))
        if build.bench.strange:
            self.said.emit(
                f"△ {len(build.bench.strange)} entries of the log are about what isn’t known here: see the log."
            )
        if build.drawing is None:
            self.drawer.ask(lambda wanted: (build, build.figures()))
        self.document.measured()

    def _closed(self, build: Build) -> None:
        """A sitting ends: it is signed."""
        try:
            build.close()
        except UmberError as why:
            self.document.refused.emit(str(why))

    def _drawn(self, answer: tuple[Build, Results]) -> None:
        if answer[0] is self.build:
            self._show_card()

    def _act(self, act: Any, said: str = "") -> bool:
        """Does something, shows what came of it; a refusal is a sentence on the card."""
        before = len(self.build.bench.history) if self.build is not None else 0
        if self.build is not None:
            self.build.hand = self.hand.text().strip()
        try:
            act()
            self._said, self._wrong = said, False
            self.said.emit(said)
        except UmberError as why:
            self._said, self._wrong = str(why), True
            self.said.emit(str(why))
        fresh = self.build.bench.history[before:] if self.build is not None else []
        if any(isinstance(event.act, Read | Undo | Reset) for event in fresh):
            self.document.measured()
        self._show_card()
        return not self._wrong

    def forward(self) -> None:
        """The handful is done, or the piece that was chosen of it, or the step now: as the shop has it."""
        build = self.build
        if build is not None:
            steps = self._in_hand(build)
            self._chosen = -1
            self._act((lambda: build.attest(steps)) if steps else build.advance)

    def _in_hand(self, build: Build) -> tuple[Timed, ...]:
        """The steps that one key attests, none where it is the step now."""
        here, bench = build.bench.handful, build.bench
        if here is None:
            return ()
        if 0 <= self._chosen < len(here.pieces):
            open_ = bench.alone(here.pieces[self._chosen])
            if not open_:
                self._chosen = -1
                return ()
            return open_ if self.habits.whole(here.first.op) and not here.singly else open_[:1]
        return bench.together() if self.habits.whole(here.first.op) and not here.singly else ()

    def _here(self) -> Timed | None:
        """The step in hand: of the piece that was chosen, or the step now."""
        here = self.build.bench.handful if self.build is not None else None
        if self.build is None or here is None or not 0 <= self._chosen < len(here.pieces):
            return self.build.bench.now if self.build is not None else None
        return open_step(self.build, here.pieces[self._chosen])

    def step_along(self, by: int) -> None:
        """Left and Right choose a piece of the handful, Escape none."""
        here = self.build.bench.handful if self.build is not None else None
        if here is None or len(here.pieces) < 2:
            return
        many = len(here.pieces)
        self._chosen = -1 if not by else (self._chosen + by) % many if self._chosen >= 0 else 0 if by > 0 else many - 1
        self._show_card()

    def change_habit(self) -> None:
        """One key attests a whole handful of this operation, or each piece, from now on."""
        here = self.build.bench.handful if self.build is not None else None
        if here is not None:
            self.habits.change(here.first.op)
            self._show_card()
        self._to_bench()

    def change_hands(self) -> None:
        """The next of those who worked on this build works now."""
        build = self.build
        if build is not None:
            names = list(
                dict.fromkeys(name for event in build.bench.history if (name := str(getattr(event.act, "hand", ""))))
            )
            mine = self.hand.text().strip()
            names += [mine] if mine and mine not in names else []
            others = names[names.index(mine) + 1 :] + names[: names.index(mine)] if mine in names else names
            if others:
                self.hand.setText(others[0])
                self._say_right(f"{others[0]} works now")
            else:
                self._say_wrong(tr("Nobody else worked on this build yet: type a name below the builds once."))
        self._to_bench()

    def another_sample(self) -> None:
        """The tool's sample is made and measured once more."""
        if self.build is not None:
            self._act(self.build.another_sample, tr("a sample first, then the batch goes on"))
        self._to_bench()

    def _to_bench(self) -> None:
        """After any act the next key is the bench's."""
        (self.far if self._large is not None and self._large.isVisible() else self.bench).setFocus()

    def backward(self) -> None:
        """The last act is taken back; what was done to the chosen piece alone, where one is chosen."""
        build = self.build
        here = build.bench.handful if build is not None else None
        if build is not None:
            piece = here.pieces[self._chosen] if here is not None and 0 <= self._chosen < len(here.pieces) else ()
            self._act(lambda: build.back(piece), tr("taken back"))

    def enter(self, text: str) -> None:
        """What was typed or scanned: a coil, the label of the wire, a reading."""
        build = self.build
        step = build.bench.now if build is not None else None
        if build is None or step is None:
            return
        wires = {wire.lower() for wire in build.frozen.making.wires}
        coils = {held.coil.id.lower(): held.coil.id for held in build.coils_held()}
        here = self._here() or step
        if text.lower() in coils and step.operation.op in ("cut", "measure") and here.operation.length_m is not None:
            steps, coil = self._in_hand(build) or (here,), coils[text.lower()]
            if any(one.operation.op == "cut" for one in steps):
                self._act(lambda: build.attest(steps, coil), f"from {coil}")
            else:
                self._say_wrong(tr("Set the stop first: then scan the coil."))
        elif text.lower() in wires:
            self._scanned(build, step, text)
        elif wanted_readings(build.frozen.shelf, here.operation) or not self._is_unit(text):
            self._act(lambda: self._read(build, here, text))

    def _scanned(self, build: Build, step: Timed, text: str) -> None:
        """The label of a wire: its open piece in this handful is done."""
        handful = build.bench.handful
        pieces = handful.pieces if handful is not None else ()
        mine = [n for n, piece in enumerate(pieces) if piece[-1].operation.wire.lower() == text.lower()]
        left = next((n for n in mine if any(one.key not in build.bench.done for one in pieces[n])), None)
        if left is None:
            many = (
                "no piece here is left to do of it"
                if mine
                else f"this step wants {step.operation.wire or 'no single wire'}"
            )
            self._say_wrong(f"That is {text}; {many}.")
            return
        self._chosen = left
        steps = self._in_hand(build)
        self._chosen = -1
        self._act(lambda: build.attest(steps))

    def _is_unit(self, text: str) -> bool:
        """Whether a text is a unit's serial: its page is opened."""
        try:
            found = kept_unit(self.document.project, text)
        except UmberError:
            return False
        self.wants_part.emit("units", f"{found.build}/{found.unit}")
        return True

    def _read(self, build: Build, step: Timed, text: str, gauge: str = "") -> None:
        """A reading, its kind said in front ("pull 180") or the first one wanted here."""
        asked = wanted_readings(build.frozen.shelf, step.operation)
        kind, figure = kind_said(text, asked, {read.what for read in build.bench.fresh(step.key)})
        read = build.read(
            kind, figure, gauge, step.key if step.key in build.bench.steps else "", decimal="point" if gauge else ""
        )
        if read.verdict in ("rework", "scrap"):
            left = (
                build.bench.left(step.operation.wire, step.operation.side, step.unit) if step.operation.side else None
            )
            do = (
                "check the die, measure again"
                if step.operation.sample
                else f"start this end over, {left.times if left else 0} remakes left"
                if left and left.times
                else "scrap this wire"
            )
            raise UmberError(f"{KINDS[kind][0]} {read.value:g} {read.unit} is out of its limits: {do}.")

    def read_gauge(self) -> None:
        """Asks the gauge for the first reading wanted here, off the window's thread."""
        step = self._here()
        address = self.gauge.text().strip()
        if step is None or self.build is None or not address:
            self._say_wrong(tr("Say the gauge’s address first, and be at a step that is measured."))
            return
        asked = wanted_readings(self.build.frozen.shelf, step.operation)
        known = {read.what for read in self.build.bench.fresh(step.key)}
        kind = next((one for one in asked if one not in known), asked[0] if asked else "mass")

        def work(_: Wanted) -> tuple[str, str, str]:
            try:
                return step.key, kind, ask_gauge(address, kind)
            except UmberError as why:
                return step.key, "", str(why)

        self.reader.ask(work)

    def _heard(self, answer: tuple[str, str, str]) -> None:
        key, kind, text = answer
        build = self.build
        step = self._here()
        if not kind:
            self._say_wrong(text)
        elif build is not None and step is not None and step.key == key:
            self._act(lambda: self._read(build, step, f"{kind} {text}", "gauge"), f"the gauge says {text}")

    def _say_right(self, text: str) -> None:
        self._said, self._wrong = text, False
        self._show_card()

    def _say_wrong(self, text: str) -> None:
        self._said, self._wrong = text, True
        self._show_card()

    def remake(self) -> None:
        """This end is started over."""
        build, step = self.build, self._here()
        if build is not None and step is not None and step.operation.side:
            one = step.operation
            self._act(lambda: build.remake(one.wire, one.side, step.unit))
        self._to_bench()

    def scrap(self) -> None:
        """This wire is given up."""
        build, step = self.build, self._here()
        if build is not None and step is not None and step.operation.wire:
            why, ok = one_of(
                self, tr("Scrap wire"), f"{step.operation.wire}: {tr('why is it given up?')}", SCRAP_REASONS
            )
            if ok and why == SCRAP_REASONS[-1]:
                why, ok = text_asked(self, tr("Scrap wire"), tr("Why is it given up?"))
            if ok and why.strip():
                self._act(lambda: build.scrap(step.operation.wire, step.unit, why.strip()))
            elif ok:
                self._say_wrong(tr("Say why it is scrapped: the reason stays in the log."))
        self._to_bench()

    def defect(self) -> None:
        """A fault is chosen from its drawing."""
        sheet = DefectSheet(self)
        sheet.accepted.connect(lambda: self.found(sheet.code))
        sheet.rejected.connect(self._to_bench)
        sheet.open()

    def found(self, code: str) -> None:
        """A fault seen goes into the log, and what it comes to is said."""
        build = self.build
        if code and build is not None:
            told, comes_to = DEFECTS[code]
            here = self._here()
            self._act(lambda: build.defect(code, at=here), f"{told}: {COMES_TO[comes_to]}")
        self._to_bench()

    def link_photo(self) -> None:
        """A picture is kept with the step now, inside the harness file."""
        build = self.build
        name, _ = QFileDialog.getOpenFileName(self, tr("Photograph"), "", tr("Pictures (*.png *.jpg *.jpeg *.webp)"))
        if name and build is not None:
            self._develop(Developed(build, self._here(), name), whole=False)
        self._to_bench()

    def _develop(self, one: Developed, whole: bool) -> None:
        def work(_: Wanted) -> Developed:
            try:
                path = Path(one.name)
                return replace(one, text=photograph(path, whole), size=(0, 0) if whole else size_of(path))
            except UmberError as why:
                return replace(one, text=why)

        self.developer.ask(work)

    def _developed(self, one: Developed) -> None:
        """A photograph is drawn: it is kept with the step at which it was taken; a large one as large as is said."""
        build = one.build
        if isinstance(one.text, UmberError):
            self._say_wrong(str(one.text))
            return
        if build is not self.build:
            return
        if max(one.size) > MOST_PX:
            whole = f"whole, {one.size[0]} × {one.size[1]} px: some MB in the file"
            sizes = [f"{MOST_PX} px: a strand outside its barrel is seen well", whole]
            chosen, ok = one_of(self, tr("Photograph"), tr("How large is it kept?"), sizes)
            if not ok:
                return
            if chosen == whole:
                self._develop(one, whole=True)
                return
        text = one.text
        self._act(lambda: build.photograph(one.name, text, one.step), f"kept {Path(one.name).name}")
        self._to_bench()

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
            self._show_card()

    def set_anew(self, tool: str, setting: str) -> None:
        """A die was set or changed: its charts begin anew."""
        build = self.build
        if build is not None:
            self._act(
                lambda: build.reset(tool, setting), f"{tool} {setting} set anew: measure a sample before going on"
            )

    def let_go(self) -> None:
        """Somebody releases the step."""
        build = self.build
        if build is None:
            return
        who, ok = text_asked(
            self, tr("Release"), tr("Who lets this go on without a good reading?"), text=self.hand.text()
        )
        if ok:
            here = self._here()
            self._act(lambda: build.release(who, at=here), f"released by {who}")
        self._to_bench()
