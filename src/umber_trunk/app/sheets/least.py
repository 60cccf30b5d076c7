"""The sheet that chooses all sizes together: weights, progress, the change shown, one edit to apply it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QDialog,
    QDoubleSpinBox,
    QHeaderView,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.gap_view import GapView
from umber_trunk.app.widgets.line import Figure
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.optimum import Optimum
from umber_trunk.core.sizes.program import Weights
from umber_trunk.core.units import show_mass


class LeastCopper(QDialog):
    """Signals: progressed(float), the share done, told from the worker."""

    progressed = Signal(float)
    _better = Signal(int, object)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.found: Optimum | None = None
        self.setWindowTitle(tr("Least copper"))
        self.resize(760, 620)
        self._number = 0
        self.kept: Optimum | None = None
        self._search = Background(self)
        self._better.connect(self._keep)
        self._search.answered.connect(self._show)
        self._search.crashed.connect(document.crashed)
        self.mass, self.cost, self.sizes = self._weight(1.0), self._weight(0.0), self._weight(0.0)
        for box in (self.mass, self.cost, self.sizes):
            box.valueChanged.connect(lambda _: self.search())
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.progressed.connect(lambda share: self.bar.setValue(round(100 * share)))
        self.closing = GapView(self._say)
        self.verdict = Label()
        self.verdict.setWordWrap(True)
        self.table = QTableWidget(0, 4)
        self.table.setHorizontalHeaderLabels([tr("Wire"), tr("Name"), tr("Now"), tr("Then")])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.go = QPushButton(tr("Apply as one edit"))
        self.go.setProperty("primary", True)
        self.go.clicked.connect(self.apply)
        self.stop = QPushButton(tr("Stop searching"))
        self.stop.clicked.connect(self._stop)
        cancel = QPushButton(tr("Close"))
        cancel.clicked.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Least copper for the whole harness"))
        layout.addWidget(hint("All free sizes are chosen together; locked wires stay. Weights say what counts."))
        layout.addLayout(
            row(
                Label(tr("kilogram")),
                self.mass,
                Label(tr("its price")),
                self.cost,
                Label(tr("one more size")),
                self.sizes,
                None,
            )
        )
        layout.addLayout(row(self.bar, self.stop))
        layout.addWidget(self.closing)
        layout.addWidget(self.verdict)
        layout.addWidget(self.table)
        layout.addLayout(row(None, cancel, self.go))
        self.search()

    @staticmethod
    def _weight(value: float) -> QDoubleSpinBox:
        box = Figure()
        box.setRange(0, 1000)
        box.setDecimals(2)
        box.setValue(value)
        return box

    @property
    def busy(self) -> bool:
        """Whether the search is under way."""
        return self._search.busy

    def search(self) -> None:
        """Starts over with the weights as they stand."""
        weights = Weights(self.mass.value(), self.cost.value(), self.sizes.value())
        self.go.setEnabled(False)
        if weights == Weights(0, 0, 0):
            self.verdict.setText(tr("Give at least one weight above zero."))
            self._search.drop()
            return
        design, shelf = self.document.design, self.document.shelf
        self._number += 1
        number, self.kept = self._number, None
        self.closing.clear()
        self.stop.setEnabled(True)
        self.verdict.setText(tr("Searching …"))

        def search(wanted: Wanted) -> Optimum:
            def on(share: float) -> bool:
                go_on_if(wanted)
                self.progressed.emit(share)
                return True

            def better(found: Optimum) -> None:
                go_on_if(wanted)
                self._better.emit(number, found)

            return optimise(design, weights, on, better=better, shelf=shelf, patient=True)

        self._search.ask(search)

    def _keep(self, number: int, found: Optimum) -> None:
        """The best so far, which stays when the search is stopped."""
        if number == self._number:
            self.kept = found
            self._tell(found, tr("So far: ") if found.met else "")
            self.go.setEnabled(bool(found.changes) and found.met)

    def _stop(self) -> None:
        """Ends the search at once; the best so far is shown."""
        self._search.drop()
        if self.kept is None:
            self.stop.setEnabled(False)
            self.verdict.setText(tr("Stopped before anything was found; the sizes are as they were."))
        else:
            self._show(self.kept, "Stopped. ")

    def _show(self, found: Optimum, lead: str = "") -> None:
        self.bar.setValue(100)
        self.stop.setEnabled(False)
        self._tell(found, lead)
        self.go.setEnabled(bool(found.changes))

    def _say(self, value: float) -> str:
        """What is weighed, in words: a mass where nothing else counts."""
        return show_mass(value) if self._plain else tr("{value:.4g} by your weights", value=value)

    @property
    def _plain(self) -> bool:
        return (self.mass.value(), self.cost.value(), self.sizes.value()) == (1.0, 0.0, 0.0)

    def _tell(self, found: Optimum, lead: str) -> None:
        self.found = found
        if found.met and found.sizes:
            self.closing.add(found.objective, found.floor and found.bound)
        index = index_of(self.document.design)
        self.table.setRowCount(len(found.changes))
        for at, change in enumerate(found.changes):
            before = show_size(change.before) if change.before else tr("not chosen")
            cells = (change.wire_id, index.wires[change.wire_id].name, before, show_size(change.after))
            for place, text in enumerate(cells):
                self.table.setItem(at, place, QTableWidgetItem(text))
        state = (
            tr("there is nothing to size")
            if not found.sizes
            else tr("every limit holds")
            if found.met
            else tr("but not every limit can be met")
        )
        self.verdict.setText(
            tr(
                "{lead}{copper_kg} of conductor, now {copper_before_kg}; {state}. {proof}",
                lead=lead,
                copper_kg=show_mass(found.copper_kg),
                copper_before_kg=show_mass(found.copper_before_kg),
                state=state,
                proof=found.proof,
            )
        )

    def apply(self) -> None:
        """Chooses the sizes shown."""
        if self.found and self.document.apply(self.found.apply, f"least copper: {len(self.found.changes)} sizes"):
            self.accept()

    def done(self, result: int) -> None:
        self._number += 1
        self._search.drop()
        super().done(result)
