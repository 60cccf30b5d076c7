"""The Prove desk's drills."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtWidgets import QComboBox, QPlainTextEdit

from umber_trunk.app.background import Background
from umber_trunk.app.desks.prove.drill_bench import DrillBench, dial
from umber_trunk.app.widgets.desk import Panel, button, hint
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Line
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.prove.drilling import Drilling
from umber_trunk.core.prove.netlist import Point

if TYPE_CHECKING:
    from umber_trunk.app.desks.prove.desk import ProveDesk
from umber_trunk.app.desks.prove.panels import DRILL_WORDS


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
            self.line.setText(tr("show me"))
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
