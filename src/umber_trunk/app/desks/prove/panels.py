"""The other tabs of Prove: the list, loops and pairs, which core is which, practice."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPlainTextEdit

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.cores_view import CoresView
from umber_trunk.app.desks.prove.drill_bench import DrillBench, dial
from umber_trunk.app.desks.prove.left_view import Cell, Field, LeftView
from umber_trunk.app.desks.prove.probe_view import shown_value
from umber_trunk.app.widgets.asked import one_of, text_asked
from umber_trunk.app.widgets.desk import Panel, beside, button, heading, hint, row
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.stairs_view import StairsView
from umber_trunk.app.widgets.table import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.model import Design, Wire
from umber_trunk.core.prove.drilling import Drilling
from umber_trunk.core.prove.entering import Entering
from umber_trunk.core.prove.identify import scheme
from umber_trunk.core.prove.loops import Budget, Stairs, budgets, stairs
from umber_trunk.core.prove.netlist import EARTH, Point
from umber_trunk.core.prove.plan import Test
from umber_trunk.core.prove.proof import Proof
from umber_trunk.core.prove.spare_pair import take_spare
from umber_trunk.core.prove.testsheet import band_text, show

if TYPE_CHECKING:
    from umber_trunk.app.desks.prove.desk import ProveDesk

WAY_WORDS = {
    "alone": "alone, joining cores",
    "partner": "with a partner at the far end",
    "tags": "resistors on the far ends",
}
DRILL_WORDS = {
    "fault": "find the fault",
    "lug": "a bad lug on a heavy lead",
    "loose": "a plug not home",
    "powered": "found plugged in",
    "face": "find the cavity",
    "thread": "what threads on first",
}


class ListPanel(Panel):
    """What is left, a column a net and a row a kind of test; the whole list with bands and what was read one click
    away."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.prove = desk
        self.counts = Label()
        self.counts.setProperty("role", "hint")
        self.counts.setWordWrap(True)
        self.rows = desk.table("Tests", "tests", self._columns(), lambda r: str(r.n))
        self.left = LeftView()
        self.left.chosen.connect(self._chosen)
        self.listed = button(
            "As a list", self._listed, tip="Every test with its band and what was read, or the picture again"
        )
        self.listed.setCheckable(True)
        self.rows.hide()
        paper = button(
            "Test sheet…",
            lambda: desk.wants_papers.emit("tests"),
            tip="The list on paper, with a place for each reading",
        )
        self.column.addLayout(beside(self.counts, self.listed, paper))
        self.column.addWidget(self.left, 1)
        self.column.addWidget(self.rows, 1)

    def _listed(self) -> None:
        self.rows.setVisible(self.listed.isChecked())
        self.left.setVisible(not self.listed.isChecked())

    def show_list(self) -> None:
        """The list itself: a test was asked for."""
        if not self.listed.isChecked():
            self.listed.setChecked(True)
            self._listed()

    def _chosen(self, numbers: tuple[int, ...]) -> None:
        """The wires of a cell's tests light up on the trunk, and the first of them is chosen in the list."""
        proof = self.prove.proof
        if proof is None:
            return
        mine = [test for test in proof.plan.tests if test.n in numbers]
        self.prove.lit.emit({("wires", wire) for test in mine for wire in test.wires})
        if mine:
            self.rows.choose(str(mine[0].n), quiet=True)

    def _field(self, proof: Proof) -> Field:
        """Every test on the nets it says something of."""
        net, answers = proof.net, {one.task.test.n: one.ok for one in proof.standing if one.task.test is not None}
        first: dict[int, str] = {}
        for wire in net.facts:
            first.setdefault(net.wire_net(wire), wire)
        mine: dict[tuple[str, str], list[Test]] = {}
        whole: dict[str, list[Test]] = {}
        for test in proof.plan.tests:
            probe = test.probe
            points = [point for point in (*probe.a, *probe.b) if point != EARTH] if probe is not None else []
            nets = {net.net_at(point) for point in points} or {
                net.wire_net(wire) for wire in test.wires if wire in net.facts
            }
            named = [first[one] for one in nets if one in first]
            for name in named:
                mine.setdefault((name, test.kind), []).append(test)
            if not named:
                whole.setdefault(test.kind, []).append(test)

        def cell(tests: list[Test]) -> Cell:
            told = [answers[test.n] for test in tests if test.n in answers]
            return Cell(len(tests), sum(told), len(told) - sum(told), tuple(test.n for test in tests))

        kinds = tuple(dict.fromkeys(test.kind for test in proof.plan.tests))
        return Field(
            tuple(first.values()),
            kinds,
            {key: cell(rows) for key, rows in mine.items()},
            {kind: cell(rows) for kind, rows in whole.items()},
        )

    def _answer(self, test: Test) -> Any:
        proof = self.prove.proof
        return (
            next(
                (one for one in reversed(proof.answers) if one.task.test is not None and one.task.test.n == test.n),
                None,
            )
            if proof is not None
            else None
        )

    def _columns(self) -> list[Column]:
        def read(test: Test) -> str:
            one = self._answer(test)
            return "" if one is None else shown_value(one.value, test.unit) or ("right" if one.ok else "not right")

        def state(test: Test) -> str:
            one = self._answer(test)
            return "" if one is None else "✓" if one.ok else "✕"

        def ink(test: Test) -> QColor | None:
            one = self._answer(test)
            return None if one is None else theme.GOOD if one.ok else theme.BROKEN

        return [
            Column("No", lambda t: str(t.n), right=True, key=lambda t: t.n, width=40),
            Column("Test", lambda t: t.kind, width=92),
            Column("What", lambda t: t.text, width=-1),
            Column(
                "Expected",
                lambda t: show(t.expect, t.unit) if t.expect is not None else "nothing" if t.unit == "Ω" else "",
                right=True,
                key=lambda t: t.expect or 0.0,
                width=84,
            ),
            Column("Band", band_text, width=150),
            Column("Read", read, right=True, width=84),
            Column("", state, colour=ink, width=28),
        ]

    def show_now(self) -> None:
        proof = self.prove.proof
        if proof is None:
            self.rows.show_rows([])
            self.left.show_field(None)
            return
        plan = proof.plan
        self.left.show_field(self._field(proof))
        self.counts.setText(
            f"{len(plan.tests)} tests, {plan.nets} nets. Shorts: {plan.shorts_box} group tests with a switch box, "
            f"{plan.shorts_hand} by hand, not {plan.pairs} pairs. Leads placed {plan.moves} times, at least "
            f"{plan.moves_bound}."
        )
        self.rows.show_rows(list(plan.tests))


class LoopsPanel(Panel):
    """Loops with their budgets, and the pairs of each cable with what they serve."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.prove = desk
        self._steps: list[Stairs] = []
        self.loops = desk.table("Loops", "loops", _loop_columns(), lambda r: r.loop)
        self.pairs = desk.table("Pairs", "wires", _pair_columns(), lambda r: r.id)
        spare = button(
            "Take a spare pair…",
            self.take,
            tip="The chosen wire's pair is bad; its circuit takes a spare pair of the same cable, by a named decision",
        )
        self.stairs = StairsView()
        self.loops.current.connect(lambda _: self._show_stairs())
        sheets = button(
            "Loop sheets…",
            lambda: desk.wants_papers.emit("loops"),
            tip="A sheet for each loop: its stairs, cores, tags, spares, and places to mark in red",
        )
        self.column.addLayout(row(heading("Loops at 22 mA, hot"), None, sheets))
        upper = QHBoxLayout()
        upper.addWidget(self.loops, 1)
        upper.addWidget(self.stairs, 1)
        self.column.addLayout(upper, 3)
        self.column.addLayout(row(heading("Cores and pairs"), None, spare))
        self.column.addWidget(self.pairs, 2)

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None:
            return
        self.loops.show_rows(budgets(results.design, results))
        self._steps = stairs(results.design, results)
        self._show_stairs()
        self.pairs.show_rows([wire for wire in results.design.wires if wire.cable])

    def _show_stairs(self) -> None:
        """Those of the loop that is chosen, else of the one with least to spare."""
        chosen = self.loops.chosen_id()
        if not chosen and self._steps:
            chosen = min(self._steps, key=lambda one: one.left_v - one.need_v).loop
        self.stairs.setVisible(bool(self._steps))
        self.stairs.show_rows([one for one in self._steps if one.loop == chosen])

    def take(self) -> None:
        """A bad pair's circuit goes over to a spare one."""
        design = self.desk.document.design
        chosen = next((wire for wire in design.wires if wire.id == self.pairs.chosen_id()), None)
        if chosen is None or chosen.spare:
            self.desk.said.emit(tr("Choose a core of the bad pair first."))
            return
        free = [wire for wire in design.wires if wire.cable == chosen.cable and wire.spare and not wire.bad]
        names = list(dict.fromkeys(f"pair {wire.pair}" if wire.pair else wire.id for wire in free))
        if not names:
            self.desk.document.refused.emit(f"{chosen.cable} has no spare pair left.")
            return
        pair, ok = one_of(self, tr("Spare pair"), f"{chosen.id} of {chosen.cable}:", names)
        if not ok:
            return
        who, ok = text_asked(self, tr("Spare pair"), tr("Who decides it, and why (name: reason)?"))
        if ok:
            name, _, why = who.partition(":")
            spare = next(wire for wire in free if pair in (f"pair {wire.pair}", wire.id))
            self.desk.document.apply(
                _taking(chosen.id, spare.id, name, why), f"{chosen.circuit or chosen.id} on {pair}"
            )


def _taking(bad: str, spare: str, who: str, why: str) -> Edit:
    def edit(design: Design) -> Design:
        return take_spare(design, bad, spare, who, why)[0]

    return edit


def _loop_columns() -> list[Column]:
    def ink(one: Budget) -> QColor:
        return theme.GOOD if one.ok else theme.BROKEN

    return [
        Column("Loop", lambda b: b.name, width=-1),
        Column(
            "Left",
            lambda b: f"{b.left_v:.2f} V{'' if b.ok else ' ✕'}",
            right=True,
            colour=ink,
            key=lambda b: b.left_v,
            width=76,
        ),
        Column("Needs", lambda b: f"{b.need_v:g} V", right=True, key=lambda b: b.need_v, width=64),
        Column("Supply", lambda b: f"{b.supply_v:.1f} V", right=True, width=64),
        Column("Barrier", lambda b: f"{b.barrier_v:.2f} V", right=True, width=68),
        Column("Run", lambda b: f"{b.run_v:.3f} V", right=True, width=68),
        Column("Receiver", lambda b: f"{b.receiver_v:.2f} V", right=True, width=72),
    ]


def _pair_columns() -> list[Column]:
    def state(wire: Wire) -> str:
        return "✕ bad" if wire.bad else "spare" if wire.spare else "in use"

    def ink(wire: Wire) -> QColor | None:
        return theme.BROKEN if wire.bad else theme.INK_SOFT if wire.spare else None

    return [
        Column("Cable", lambda w: w.cable or "", width=80),
        Column("Pair", lambda w: w.pair, width=44),
        Column("Core", lambda w: w.core or "screen", width=60),
        Column("Wire", lambda w: w.id, width=90),
        Column(
            "Colour",
            lambda w: "/".join(filter(None, (w.colour, w.stripe))),
            swatch=lambda w: (w.colour, w.stripe),
            width=130,
        ),
        Column("Serves", lambda w: w.circuit, width=100),
        Column("From", lambda w: str(w.start), width=90),
        Column("To", lambda w: str(w.finish), width=90),
        Column("", state, colour=ink, width=-1),
    ]


class CoresPanel(Panel):
    """Which core is which: the plan, then what is found, entered step by step; tags at the end."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.run: Entering | None = None
        self.cores = Count()
        self.cores.setRange(1, 200)
        self.cores.setValue(8)
        self.cores.setPrefix(tr("cores: "))
        self.cores.setAccessibleName(tr("How many cores"))
        self.way = QComboBox()
        self.way.setAccessibleName(tr("How"))
        for way, words in WAY_WORDS.items():
            self.way.addItem(tr(words), way)
        self.common = QCheckBox(tr("a conductor is known at both ends"))
        self.common.setChecked(True)
        plan = button("Make the plan", self.plan, primary=True)
        self.words = QPlainTextEdit()
        self.words.setReadOnly(True)
        self.words.setAccessibleName(tr("The plan"))
        self.found = Line()
        self.found.setAccessibleName(tr("What was found"))
        self.found.returnPressed.connect(self.enter)
        self.told = Label()
        self.told.setWordWrap(True)
        self.view = CoresView()
        self.column.addLayout(Flow(self.cores, self.way, self.common, plan))
        shown = QHBoxLayout()
        shown.addWidget(self.words, 2)
        shown.addWidget(self.view, 3)
        self.column.addLayout(shown, 1)
        self.column.addWidget(self.told)
        self.column.addWidget(self.found)
        self.column.addWidget(
            hint(
                "Two walks do for any number but two. Enter pairs such as 1-4 2-3, cores that lead, or readings such "
                "as 3=220."
            )
        )

    def show_now(self) -> None:
        if self.run is None:
            self.plan()

    def plan(self) -> None:
        """The plan for so many cores."""
        made = scheme(self.cores.value(), self.way.currentData(), self.common.isChecked())
        rows = [made.why] if made.why else [f"{n}. {step.at}: {step.do}" for n, step in enumerate(made.steps, 1)]
        if not made.why:
            rows.append(f"\n{made.walks} walks, {made.calls} calls to the partner, at most {made.readings} readings.")
        self.words.setPlainText("\n".join(rows))
        self.run = Entering(made)
        self._ask()

    def _ask(self, said: str = "") -> None:
        assert self.run is not None
        question = self.run.question
        self.view.show_seen(self.run.seen)
        self.found.setEnabled(question is not None)
        if self.run.names:
            rows = [f"near {near} is far {far}" for near, far in sorted(self.run.names.items())]
            self.words.setPlainText("Tags, one for each end:\n" + "\n".join(rows))
            self.told.setText(said or tr("Found: every core has its number."))
        else:
            self.told.setText(" ".join(filter(None, (said, (question or "").splitlines()[-1] if question else ""))))

    def enter(self) -> None:
        """What was found at an end."""
        if self.run is None or self.run.question is None:
            return
        try:
            said = self.run.enter(self.found.text())
            self.found.clear()
        except UmberError as why:
            said = f"✕ {why}"
        self._ask(said)


class DrillPanel(Panel):
    """Drills: a hidden fault, a cavity on a face, an order."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.prove = desk
        self.worker = Background(self)
        self.worker.answered.connect(self._begun)
        self.worker.crashed.connect(self._failed)
        self.drill: Drilling | None = None
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("Drill"))
        for kind, words in DRILL_WORDS.items():
            self.kind.addItem(tr(words), kind)
        self.seed = Count()
        self.seed.setRange(1, 100_000)
        self.seed.setPrefix(tr("number "))
        self.seed.setAccessibleName(tr("Which drill"))
        start = button("Begin", self.start, primary=True)
        self.face = FaceView()
        self.face.wants.connect(self._pointed)
        self.face.setVisible(False)
        self.bench = DrillBench()
        self.bench.probed.connect(self._probed)
        self.bench.setVisible(False)
        self.choices = QComboBox()
        self.choices.setAccessibleName(tr("What it is"))
        self.say = button("That is it", self._say)
        self.gives_up = button(
            "Give up, show me", self.give_up, tip="How it is found, reading by reading, and what it was"
        )
        self.parts = QComboBox()
        self.parts.setAccessibleName(tr("Millivolts across"))
        self.parts.activated.connect(lambda _: self._across())
        self.words = QPlainTextEdit()
        self.words.setReadOnly(True)
        self.words.setAccessibleName(tr("The drill"))
        self.line = Line()
        self.line.setAccessibleName(tr("Your turn"))
        self.line.returnPressed.connect(self.enter)
        self.column.addLayout(Flow(self.kind, self.seed, start, self.parts, self.choices, self.say, self.gives_up))
        self.column.addWidget(self.face, 2)
        self.column.addWidget(self.bench, 3)
        self.column.addWidget(self.words, 2)
        self.column.addWidget(self.line)
        self.column.addWidget(
            hint(
                "Each drill counts your readings against the fewest that would do, and says why. The same number "
                "gives the same drill."
            )
        )

    def show_now(self) -> None:
        if self.drill is None and not self.worker.busy:
            self.start()

    def start(self) -> None:
        """A fresh drill."""
        results = self.prove.document.now
        if results is None:
            return
        kind, number = self.kind.currentData(), self.seed.value()
        self.drill = None
        self.words.setPlainText(tr("working it out …"))
        self.line.setEnabled(False)
        self.worker.ask(lambda _: Drilling(results, kind, number))

    def _failed(self, why: Exception) -> None:
        if isinstance(why, UmberError):
            self.words.setPlainText(str(why))
        else:
            self.prove.document.crashed.emit(why)

    def _begun(self, drill: Drilling) -> None:
        self.drill = drill
        self.words.setPlainText(self.drill.opening)
        self.line.setEnabled(True)
        face = self.drill.face
        self._offer(drill)
        self.face.setVisible(face is not None)
        if face is not None:
            self.face.show_face(_unnamed(face.face), {}, "")

    def _offer(self, drill: Drilling) -> None:
        """What a drill is done with: two ends and a needle, millivolts across parts, and the answers there are."""
        ends, first = drill.ends
        self.bench.setVisible(bool(ends))
        if ends:
            only = frozenset(drill.powered.search.pins) if drill.powered is not None else frozenset[Point]()
            self.bench.offer(drill.net, ends, first, only)
        for box, rows in ((self.parts, drill.parts), (self.choices, drill.answers)):
            box.clear()
            box.setVisible(bool(rows))
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            for words, line in rows:
                box.addItem(words, line)
        self.say.setVisible(bool(drill.answers))

    def _probed(self, a: Point, b: Point) -> None:
        if self.drill is not None and self.line.isEnabled():
            self.line.setText(f"{'volts' if self.drill.powered is not None else 'probe'} {':'.join(a)} {':'.join(b)}")
            self.enter()

    def _across(self) -> None:
        self.line.setText(str(self.parts.currentData()))
        self.enter()

    def give_up(self) -> None:
        """The drill's own way is shown."""
        if self.line.isEnabled():
            self.line.setText("show me")
            self.enter()
            if self.drill is not None and self.drill.face is not None:
                self.face.show_face(self.face.face, {}, self.drill.face.label)

    def _say(self) -> None:
        self.line.setText(str(self.choices.currentData()))
        self.enter()

    def _moved(self) -> None:
        """The needle where the last reading stands."""
        if self.drill is not None and (last := self.drill.last) is not None:
            read, sound, words = last
            if self.drill.powered is not None:
                whole = 1.1 * self.drill.powered.search.volts
                self.bench.needle.show_reading(abs(read) / whole, abs(sound) / whole, words)
            elif self.drill.drill == "lug":
                most = max(4 * sound, 1.2 * read, 1e-6)
                self.bench.needle.show_reading(read / most, sound / most, words)
            else:
                self.bench.needle.show_reading(dial(read), dial(sound), words)

    def _pointed(self, label: str) -> None:
        self.line.setText(label)
        self.enter()

    def enter(self) -> None:
        """The learner's turn."""
        text = self.line.text().strip()
        if self.drill is None or not text:
            return
        try:
            told, over = self.drill.enter(text)
        except UmberError as why:
            told, over = f"✕ {why}", False
        self.words.appendPlainText(f"\n> {text}\n{told}")
        self._moved()
        self.line.clear()
        if over:
            self.line.setEnabled(False)
            self.seed.setValue(self.seed.value() + 1)


def _unnamed(face: Any) -> Any:
    """A face without its wires: where they sit is the question."""
    from dataclasses import replace

    return replace(
        face,
        spots=tuple(replace(spot, wires=(), function="", colour="", stripe="", plugged=False) for spot in face.spots),
    )
