"""Prove: the reading to take now, the list, loops and pairs, which core is which, drills."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.at_proof import Heard
from umber_trunk.app.desks.prove.cards import card_of
from umber_trunk.app.desks.prove.cores_panel import CoresPanel
from umber_trunk.app.desks.prove.drill_panel import DrillPanel
from umber_trunk.app.desks.prove.loops_panel import LoopsPanel
from umber_trunk.app.desks.prove.meter_line import MeterLine
from umber_trunk.app.desks.prove.panels import ListPanel
from umber_trunk.app.desks.prove.probe_view import ProbeView
from umber_trunk.app.desks.prove.repairs import Repairs
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import Panel, button, column, heading, hint, row, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.make.events import Begin
from umber_trunk.core.prove.proof import Proof, read_reading
from umber_trunk.core.prove.redline import Redline
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.core.quantity import Habit
from umber_trunk.core.results import Results
from umber_trunk.store.proofs import UnitProof, fresh_proof

TRIAL = "trial"
"""A proof that isn't kept: no unit is being built."""


class ProveDesk(MeterLine, Repairs):
    """Five tabs: now, list, loops, cores, practice. One proof is open at a time; with a build, every answer is
    logged."""

    reads_log = True

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.proof: Proof | None = None
        self.kept: UnitProof | None = None
        self.verdict: Verdict | None = None
        self.unit: Unit | None = None
        self._opened: object = None
        self.said_last, self.wrong_last = "", False
        self._running = False
        self.view = ProbeView()
        self.view.forward.connect(self.accept)
        self.view.backward.connect(self.back)
        self.view.entered.connect(self.enter)
        self.list = ListPanel(self)
        self.loops = LoopsPanel(self)
        self.cores = CoresPanel(self)
        self.drills = DrillPanel(self)
        self.panels: tuple[Panel, ...] = (self.list, self.loops, self.cores, self.drills)
        self.worker = Background(self)
        self.worker.answered.connect(self._answered)
        self.worker.crashed.connect(self._failed)
        self.lay_line(self._failed)
        now = QWidget()
        beside = QHBoxLayout(now)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.addWidget(self.view, 1)
        beside.addWidget(self._side())
        pages = (
            ("Now", now),
            ("List", self.list),
            ("Loops and pairs", self.loops),
            ("Which is which", self.cores),
            ("Practice", self.drills),
        )
        self.tabs, line, self.stack = tabbed(self, pages)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addLayout(line)
        layout.addWidget(self.stack, 1)
        self.stack.currentChanged.connect(lambda _: self.show_panel())
        self.catch_up()

    def _side(self) -> QWidget:
        """Which unit, which meter, what else can be said."""
        self.units = QComboBox()
        self.units.setAccessibleName(tr("Unit to prove"))
        self.units.activated.connect(lambda _: self.open_unit())
        self.hand = Line()
        self.hand.setAccessibleName(tr("Who tests"))
        self.hand.setPlaceholderText(tr("who tests"))
        self.meter = Line()
        self.meter.setAccessibleName(tr("Meter"))
        self.meter.setPlaceholderText("tcp:HOST:PORT, visa:…")
        connect = button(
            "Connect",
            self.connect_meter,
            tip="SCPI over a socket or VISA; without one, type readings or let the keyboard wedge type",
        )
        self.hidden = Line()
        self.hidden.setAccessibleName(tr("Hidden faults"))
        self.hidden.setPlaceholderText(tr("faults, e.g. open:W08"))
        simulate = button(
            "Simulated unit",
            self.simulate,
            tip="A made-up unit under test with these faults hidden in it, for trying the desk",
        )
        self.safe = QCheckBox(tr("electronics are disconnected"))
        self.safe.setToolTip(plain_of(tr("High voltage waits for it; discharge before you touch the harness.")))
        self.safe.toggled.connect(self.cut_off)
        self.bad = button("Not right  F3", self.not_right, tip="What was looked at, tugged or shaken isn't right")
        back = button("Take back", self.back, tip="Backspace")
        self.run = button(
            "Run on  F4",
            self.run_on,
            primary=True,
            tip="Reads on by the meter's switch box until something is out of its band or eyes are needed",
        )
        QShortcut(QKeySequence("F3"), self, self.not_right)
        QShortcut(QKeySequence("F4"), self, self.run_on)
        as_is = button(
            "As it is…",
            self.as_is,
            tip="A unit somebody else made: who answers for proving it without its steps in the log, and why",
        )
        mended = button("Mended…", self.mended, tip="Notes what was done; the unit is proven anew")
        self.keys = hint("Space accepts, or reads the meter. Type or wedge a reading such as 12.4 mohm or OL; Enter.")
        made = column(
            row(heading("Unit"), self.units),
            self.hand,
            row(self.meter, connect),
            row(self.hidden, simulate),
            self.safe,
            Flow(self.run, self.bad, back, mended, as_is),
            self.keys,
        )
        layout = made.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addStretch()
        made.setFixedWidth(round(300 * max(0.85 * theme.text_scale(), 1.0)))
        return made

    # what is shown

    def refresh(self) -> None:
        results = self.document.now
        if results is None:
            return
        chosen = self.units.currentData()
        self.units.clear()
        self.units.addItem(tr("a trial, nothing is kept"), TRIAL)
        for begun in reversed(self.document.project.floor.builds()):
            for unit in begun.act.units if isinstance(begun.act, Begin) else ():
                self.units.addItem(f"{begun.build} / {unit}", (begun.build, int(unit)))
        held = [self.units.itemData(row) for row in range(self.units.count())]  # Qt itself finds no tuples
        self.units.setCurrentIndex(held.index(chosen) if chosen in held else min(1, len(held) - 1))
        if self._opened != self._chosen() or (self.kept is not None and self.kept.moved_on()):
            self.open_unit()
        self.show_card()
        self.show_panel()

    def begin(self) -> None:
        self.view.setFocus()

    def reveal(self, part: str, part_id: str) -> bool:
        if part == "loops":
            self.tab(2)
        elif part == "tests":
            self.tab(1)
            self.list.show_list()
        elif part == "drills":
            self.tab(4)
        elif part == "ends" and self.stack.currentIndex() == 4:
            return self.drills.bench.take_end(part_id)
        return super().reveal(part, part_id)

    def close_background(self) -> None:
        self.hang_up()
        for work in (self.worker, self.drills.worker):
            work.drop()

    @property
    def busy(self) -> bool:
        return self.worker.busy or self.dialling.busy or self.drills.worker.busy

    def show_card(self) -> None:
        self.view.empty = tr("working it out …") if self.worker.busy else self.said_last
        self.view.show_card(
            card_of(
                self.proof,
                self.verdict,
                self.said_last,
                self.wrong_last,
                self.made_up or (self.kept is not None and self.kept.simulated),
                self.kept.record if self.kept is not None else None,
            )
            if self.proof is not None
            else None
        )
        if self.proof is None:
            self.document.is_proving("prove", None)
            return
        states = self.proof.wires(self.verdict)
        if self.kept is not None:
            made = self.kept.made
            states = {wire: "in" if state == "left" and wire in made else state for wire, state in states.items()}
        ends = (
            tuple(dict.fromkeys(point[0] for point in self.proof.now.points if point[0]))
            if self.proof.now is not None
            else ()
        )
        self.document.is_proving("prove", Redline(states, ends))

    # what is done

    def _chosen(self) -> object:
        """What is to be proven: a unit, or the harness as it is now where nothing is kept."""
        unit = self.units.currentData()
        return self.document.now if unit in (TRIAL, None) else tuple(unit)

    def open_unit(self, said: str = "") -> None:
        """Goes on with a unit's proof where it was left, or begins a trial."""
        results = self.document.now
        if results is None or self.worker.busy:
            return  # what is chosen is looked at again when the answer is there
        self.proof, self.kept, self.verdict, self.said_last, self.wrong_last = None, None, None, "", False
        self.unit = None  # what was simulated was another harness or unit
        opened = self._opened = self._chosen()
        if isinstance(opened, tuple):
            try:
                kept = self.kept = UnitProof(
                    self.document.project, str(opened[0]), int(opened[1]), self.hand.text(), parts=self.document.shelf
                )
            except UmberError as why:
                self.tell(str(why), True)
                return
            self._begin(lambda wanted: kept.load(wanted), said, bool(said))
        elif results.design.wires:
            self._begin(lambda _: fresh_proof(results), said, bool(said))
        else:
            self.tell(tr("There is no wire to prove yet."), False)

    def _begin(self, load: Callable[[Wanted], Proof], said: str = "", wrong: bool = False) -> None:
        """Loads a proof beside the window: large harnesses take a while."""

        def work(wanted: Wanted) -> Heard:
            proof = load(wanted)
            return Heard(proof, None, _judged(proof, wanted), said, wrong)

        self.worker.ask(work)
        self.show_card()

    def accept(self) -> None:
        """Eyes say it is right; or the meter, or the simulated unit, is read."""
        task = self.proof.now if self.proof is not None else None
        if task is None or self.worker.busy or self.dialling.busy:  # a line is opened or read, never both at once
            return
        if not task.unit:  # eyes judge
            self._answer(lambda: None, True)
        elif self.unit is not None and task.probe is not None:
            unit, at = self.unit, task.probe
            self._answer(lambda: task.value_of(unit.measure(at)), None)
        elif self.unit is not None and task.unit == "V":
            self._answer(lambda: task.expect, None)
        elif self.link is not None and task.probe is not None:
            link, probe = self.link, task.probe
            locked = task.high_voltage and self.proof is not None and not self.proof.disconnected
            self._answer(
                lambda: 0.0 if locked else task.value_of(link.measure(probe)), None
            )  # the proof says that it is locked out
        else:
            self.tell(tr("Type the reading, or connect a meter."), True)

    def enter(self, text: str) -> None:
        """A reading, typed or by a keyboard wedge; “bad” and “ok” where eyes judge."""
        task = self.proof.now if self.proof is not None else None
        if task is None or self.worker.busy:
            return
        if task.unit == "":
            if text.lower() in ("ok", "bad"):
                self._answer(lambda: None, text.lower() == "ok")
            else:
                self.tell(tr("Eyes judge this: Space for right, F3 for not right."), True)
            return
        try:
            value = read_reading(text, task.unit, Habit(self.document.design.project.decimal))
        except UmberError as why:
            self.tell(str(why), True)
            return
        self._answer(lambda: value, None)

    def not_right(self) -> None:
        """What eyes saw isn't right."""
        if self.proof is not None and self.proof.now is not None and self.proof.now.unit == "" and not self.worker.busy:
            self._answer(lambda: None, False)

    def back(self) -> None:
        """The last answer is taken back, and what closed the proof after it."""
        if self.worker.busy or self.proof is None:
            return
        kept, results = self.kept, self._opened
        said = tr("taken back")
        if kept is not None:
            try:
                kept.take_back()
            except UmberError as why:
                self.tell(str(why), True)
                return
            self._begin(lambda wanted: kept.load(wanted), said)
        elif self.proof.answers and isinstance(results, Results):
            entries = [self.proof.entry(one) for one in self.proof.answers[:-1]]

            def again(_: Wanted) -> Proof:
                fresh = fresh_proof(results)
                fresh.replay(entries)
                return fresh

            self._begin(again, said)
        self.said.emit(said)

    def run_on(self) -> None:
        """Reads on by meter or simulated unit as long as all is right and no eyes are needed."""
        self._running = self.unit is not None or (self.link is not None and self.link.box)
        if not self._running:
            self.tell(tr("Connect a meter with a switch box, or take the simulated unit."), True)
            return
        self.accept()

    def _answer(self, read: Callable[[], float | None], ok: bool | None) -> None:
        """Reads, answers, and judges: beside the window, since a meter waits and a bad reading asks for a search."""
        proof = self.proof
        assert proof is not None
        if self.kept is not None and not self.hand.text().strip():
            self._running = False
            self.tell(tr("Say who tests first: the name stands in the log and on the certificate."), True)
            self.hand.setFocus()
            return

        def work(wanted: Wanted) -> Heard:
            one = proof.answer(read(), ok)
            if one.ok:
                return Heard(proof, one, _judged(proof, wanted))
            said = tr("out of its band") if one.task.unit else tr("noted as not right")
            return Heard(proof, one, _judged(proof, wanted), said, True)

        self.worker.ask(work)

    def _answered(self, heard: Heard) -> None:
        self.proof, self.verdict, self.said_last, self.wrong_last = heard.proof, heard.verdict, heard.said, heard.wrong
        self.proof.disconnected = self.safe.isChecked()
        if self.kept is not None:
            try:
                self.kept.hand = self.hand.text()
                if heard.one is not None:
                    self.kept.keep(heard.one, self.made_up)
                self.document.look()
                if lacking := self.kept.close_with(self.hand.text(), heard.verdict):
                    self.said_last, self.wrong_last = tr("not proven: {lacking}", lacking=lacking), True
            except UmberError as why:
                self._running = False
                self.open_unit(str(why))
                return
        if heard.one is not None and not heard.one.ok:
            self._running = False
        if self._opened != self._chosen():
            self.open_unit()
            return
        self.show_card()
        if self.stack.currentWidget() is not None and self.stack.currentIndex() == 1:
            self.list.show_now()
        task = self.proof.now if self.proof is not None else None
        if self._running and task is not None and task.unit:
            self.accept()
        else:
            self._running = False

    def _failed(self, why: Exception) -> None:
        self._running = False
        if not isinstance(why, UmberError):
            self.document.crashed.emit(why)
            return
        said = str(why)
        if self.comes_back(why):
            said += tr(" It is tried again by itself.")
        self.tell(said, True)


def _judged(proof: Proof, wanted: Wanted) -> Verdict | None:
    """What the answers come to, where any was out of its band."""
    return proof.prover.judge.verdict(wanted) if proof.prover.taken and not proof.sound_so_far else None
