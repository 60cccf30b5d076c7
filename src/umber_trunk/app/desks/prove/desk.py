"""Prove: the reading to take now, the list, loops and pairs, which core is which, drills."""

from __future__ import annotations

from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QInputDialog, QLineEdit, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.cards import card_of
from umber_trunk.app.desks.prove.panels import CoresPanel, DrillPanel, ListPanel, LoopsPanel
from umber_trunk.app.desks.prove.probe_view import ProbeView
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import Panel, TabbedDesk, button, column, heading, hint, row, tabbed
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.prove.faults import parse_fault
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.proof import EYE, Answer, Proof, read_reading
from umber_trunk.core.prove.redline import Redline
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.suspicion import Verdict
from umber_trunk.core.quantity import Habit
from umber_trunk.core.results import Results
from umber_trunk.store.meters import MeterLink
from umber_trunk.store.proofs import UnitProof

TRIAL = "trial"
"""A proof that isn't kept: no unit is being built."""


class ProveDesk(TabbedDesk):
    """Five tabs: now, list, loops, cores, practice. One proof is open at a time; with a build, every answer is logged."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.proof: Proof | None = None
        self.kept: UnitProof | None = None
        self.verdict: Verdict | None = None
        self.unit: Unit | None = None
        self.link: MeterLink | None = None
        self._of: Results | None = None
        self._said, self._wrong = "", False
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
        self.hand = QLineEdit()
        self.hand.setAccessibleName(tr("Who tests"))
        self.hand.setPlaceholderText(tr("who tests"))
        self.meter = QLineEdit()
        self.meter.setAccessibleName(tr("Meter"))
        self.meter.setPlaceholderText("tcp:HOST:PORT, visa:…")
        connect = button(
            "Connect",
            self.connect_meter,
            tip="SCPI over a socket or VISA; without one, type readings or let the keyboard wedge type",
        )
        self.hidden = QLineEdit()
        self.hidden.setAccessibleName(tr("Hidden faults"))
        self.hidden.setPlaceholderText(tr("faults, e.g. open:W08"))
        simulate = button(
            "Simulated unit",
            self.simulate,
            tip="A made-up unit under test with these faults hidden in it, for trying the desk",
        )
        self.safe = QCheckBox(tr("electronics are disconnected"))
        self.safe.setToolTip(plain_of(tr("High voltage waits for it; discharge before you touch the harness.")))
        self.safe.toggled.connect(self._safe)
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
        mended = button("Mended…", self.mended, tip="Notes what was done; the unit is proven anew")
        self.keys = hint("Space accepts, or reads the meter. Type or wedge a reading such as 12.4 mohm or OL; Enter.")
        made = column(
            row(heading("Unit"), self.units),
            self.hand,
            row(self.meter, connect),
            row(self.hidden, simulate),
            self.safe,
            Flow(self.run, self.bad, back, mended),
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
            for unit in begun.data["units"]:
                self.units.addItem(f"{begun.build} / {unit}", (begun.build, int(unit)))
        at = self.units.findData(chosen) if chosen is not None else (1 if self.units.count() > 1 else 0)
        self.units.setCurrentIndex(max(at, 0))
        if self.proof is None or (self.kept is None and self._of is not results):
            self.open_unit()
        self._show()
        self.show_panel()

    def begin(self) -> None:
        self.view.setFocus()

    def reveal(self, part: str, part_id: str) -> bool:
        if part == "loops":
            self.tab(2)
        elif part == "tests":
            self.tab(1)
        return super().reveal(part, part_id)

    def close_background(self) -> None:
        self.worker.drop()
        if self.link is not None:
            self.link.close()
            self.link = None

    @property
    def busy(self) -> bool:
        return self.worker.busy

    def _show(self) -> None:
        card = card_of(self.proof, self.verdict, self._said, self._wrong) if self.proof is not None else None
        self.view.show_card(card)
        if self.proof is None:
            return
        states = self.proof.wires(self.verdict)
        if self.kept is not None and self.document.progress is not None:
            made = self.document.progress.wires
            states = {
                wire: "in" if state == "left" and wire in made and made[wire][0] == made[wire][1] else state
                for wire, state in states.items()
            }
        ends = (
            tuple(dict.fromkeys(point[0] for point in self.proof.now.points if point[0]))
            if self.proof.now is not None
            else ()
        )
        self.document.is_proving(Redline(states, ends))

    # what is done

    def open_unit(self) -> None:
        """Goes on with a unit's proof where it was left, or begins a trial."""
        results = self.document.now
        if results is None or self.worker.busy:
            return
        self.kept, self.verdict, self._said, self._wrong = None, None, "", False
        chosen = self.units.currentData()
        self._of = results
        if chosen in (TRIAL, None):
            self.proof = Proof(results.once(netlist)) if results.design.wires else None
        else:
            try:
                self.kept = UnitProof(self.document.project, chosen[0], chosen[1], self.hand.text(), results)
                self.proof = self.kept.proof
            except UmberError as why:
                self._tell(str(why), True)
                return
        if self.proof is not None:
            self.proof.disconnected = self.safe.isChecked()
            if not self.proof.sound_so_far:
                self.worker.ask(lambda wanted: (None, self._judged(wanted)))
        self._show()

    def _judged(self, wanted: Wanted) -> Verdict | None:
        return self.proof.prover.judge.verdict(wanted) if self.proof is not None and self.proof.prover.taken else None

    def accept(self) -> None:
        """Eyes say it is right; or the meter, or the simulated unit, is read."""
        task = self.proof.now if self.proof is not None else None
        if task is None or self.worker.busy:
            return
        if task.kind in EYE:
            self._answer(None, True)
        elif self.unit is not None and task.probe is not None:
            self._answer(self.unit.measure(task.probe), None)
        elif self.unit is not None and task.unit == "V":
            self._answer(task.expect, None)
        elif self.link is not None and task.probe is not None:
            link, probe, proof = self.link, task.probe, self.proof
            if task.high_voltage and proof is not None and not proof.disconnected:
                self._answer(0.0, None)  # says that it is locked out
                return
            self.worker.ask(lambda wanted: self._taken(link.measure(probe), None, wanted))
        else:
            self._tell("Type the reading, or connect a meter.", True)

    def enter(self, text: str) -> None:
        """A reading, typed or by a keyboard wedge; “bad” and “ok” where eyes judge."""
        task = self.proof.now if self.proof is not None else None
        if task is None or self.worker.busy:
            return
        if task.unit == "":
            if text.lower() in ("ok", "bad"):
                self._answer(None, text.lower() == "ok")
            else:
                self._tell("Eyes judge this: Space for right, F3 for not right.", True)
            return
        try:
            self._answer(read_reading(text, task.unit, Habit(self.document.design.project.decimal)), None)
        except UmberError as why:
            self._tell(str(why), True)

    def not_right(self) -> None:
        """What eyes saw isn't right."""
        if self.proof is not None and self.proof.now is not None and self.proof.now.unit == "" and not self.worker.busy:
            self._answer(None, False)

    def back(self) -> None:
        """The last answer is taken back."""
        if self.worker.busy or self.proof is None:
            return
        try:
            if self.kept is not None:
                self.kept.back()
                self.proof = self.kept.proof
            elif self.proof.answers:
                entries = [self.proof.entry(one) for one in self.proof.answers[:-1]]
                fresh = Proof(self.proof.net, self.proof.meter, self.proof.plan, self.proof.prover.judge.priors)
                fresh.replay(entries)
                fresh.disconnected = self.proof.disconnected
                self.proof = fresh
        except UmberError as why:
            self._tell(str(why), True)
            return
        self.verdict = None
        self._tell(tr("taken back"), False)

    def run_on(self) -> None:
        """Reads on by meter or simulated unit as long as all is right and no eyes are needed."""
        self._running = self.unit is not None or (self.link is not None and self.link.box)
        if not self._running:
            self._tell("Connect a meter with a switch box, or take the simulated unit.", True)
            return
        self.accept()

    def _answer(self, value: float | None, ok: bool | None) -> None:
        self.worker.ask(lambda wanted: self._taken(value, ok, wanted))

    def _taken(self, value: float | None, ok: bool | None, wanted: Wanted) -> tuple[Answer, Verdict | None]:
        """The answer and what all answers come to; off the window's thread, since a bad reading asks for a search."""
        assert self.proof is not None
        one = self.proof.answer(value, ok)
        return one, None if self.proof.sound_so_far else self._judged(wanted)

    def _answered(self, answer: tuple[Answer | None, Verdict | None]) -> None:
        one, verdict = answer
        self.verdict = verdict
        self._said, self._wrong = "", False
        if one is not None:
            if self.kept is not None:
                try:
                    self.kept.hand = self.hand.text()
                    self.kept.keep(one)
                    self.kept.close_with(self.hand.text())
                except UmberError as why:
                    self._tell(str(why), True)
                    return
            if not one.ok:
                self._running = False
                self._said, self._wrong = "out of its band" if one.task.unit else "noted as not right", True
        self._show()
        if self.stack.currentWidget() is not None and self.stack.currentIndex() == 1:
            self.list.show_now()
        task = self.proof.now if self.proof is not None else None
        if self._running and task is not None and task.kind not in EYE:
            self.accept()
        else:
            self._running = False

    def _failed(self, why: Exception) -> None:
        self._running = False
        if isinstance(why, UmberError):
            self._tell(str(why), True)
        else:
            self.document.crashed.emit(why)

    def _safe(self, on: bool) -> None:
        if self.proof is not None:
            self.proof.disconnected = on
            self._show()

    def connect_meter(self) -> None:
        """Opens the meter at the address."""
        if self.link is not None:
            self.link.close()
            self.link = None
        try:
            self.link = MeterLink(self.meter.text().strip())
            self.unit = None
            self._tell(f"{self.link.name.split(',')[1] if ',' in self.link.name else self.link.name} answers.", False)
        except UmberError as why:
            self._tell(str(why), True)

    def simulate(self) -> None:
        """A made-up unit with the faults named."""
        if self.proof is None:
            return
        try:
            faults = [parse_fault(self.proof.net, word) for word in self.hidden.text().split()]
        except UmberError as why:
            self._tell(str(why), True)
            return
        self.unit = Unit(self.proof.net, faults, 1)
        self._tell("A simulated unit is under test: Space reads it, F4 runs on.", False)
        self.view.setFocus()

    def mended(self) -> None:
        """A repair is noted; the proof begins anew."""
        if self.kept is None:
            self._tell("A trial has no record: choose a unit of a build.", True)
            return
        what, ok = QInputDialog.getText(self, tr("Mended"), tr("What was done?"))
        if not ok or not what.strip():
            return
        try:
            self.kept.mended(what, self.hand.text())
        except UmberError as why:
            self._tell(str(why), True)
            return
        self.proof = None
        self.open_unit()

    def _tell(self, words: str, wrong: bool) -> None:
        self._said, self._wrong = words, wrong
        self.said.emit(words)
        self._show()
