"""The first screen when no harness is open: what people come with, and what they had open lately."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QCloseEvent, QShowEvent
from PySide6.QtWidgets import QDialog, QFileDialog, QGridLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.glances import of_demo, of_file
from umber_trunk.app.settings import Settings
from umber_trunk.app.widgets.desk import button, heading, hint, row
from umber_trunk.app.widgets.glance import Glance, GlanceCard
from umber_trunk.app.widgets.lists import list_asked
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.demo import DEMOS

HARNESS = "Harness (*.umber);;Any file (*)"


class Welcome(QWidget):
    """Signals: wants_file(object): a path, or None for a new harness; wants(path, what): open it, then "repair",
    "unit", "practice" or a list to import."""

    wants_file = Signal(object)
    wants = Signal(object, str)

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.setWindowTitle("Umber Trunk")
        self.setObjectName("welcome")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.resize(980, 760)
        title = Label("Umber Trunk")
        title.setFont(theme.font(24, bold=True))
        inner = QWidget()
        layout = QVBoxLayout(inner)
        inner.setMaximumWidth(round(110 * theme.font().pointSizeF()))
        layout.setContentsMargins(48, 20, 48, 20)
        layout.addWidget(title)
        layout.addWidget(
            hint("From the list of loads to the wires to cut, with the reason for every size. What do you have?")
        )
        layout.addSpacing(8)
        layout.addLayout(self._ways())
        layout.addSpacing(12)
        recent = settings.recent()
        layout.addWidget(heading("Lately"))
        self._todo: list[tuple[GlanceCard, Callable[[], Glance]]] = []
        self._reader = Background(self)
        self._reader.answered.connect(self._read)
        self._reader.crashed.connect(lambda _: self._read(None))
        ratio = self.devicePixelRatioF()
        cards = []
        for path in recent:
            card = GlanceCard(str(path))
            card.show_glance(Glance(path.stem, str(path.parent)))
            card.clicked.connect(lambda _=False, path=path: self.wants_file.emit(path))
            self._todo.append((card, lambda path=path: of_file(path, settings, ratio)))  # type: ignore[misc]
            cards.append(card)
        layout.addLayout(_grid(cards))
        if not recent:
            layout.addWidget(hint("Nothing yet."))
        layout.addLayout(row(button("Open a harness…", self._open), button("Copies kept by day…", self._copies), None))
        layout.addSpacing(12)
        layout.addWidget(heading("To look at and try things on: made-up harnesses"))
        cards = []
        for name, (_, told) in DEMOS.items():
            card = GlanceCard(told.partition(":")[0])
            card.clicked.connect(lambda _=False, name=name: self.wants_file.emit(demo_copy(name)))
            self._todo.append((card, lambda name=name: of_demo(name, ratio)))  # type: ignore[misc]
            cards.append(card)
        layout.addLayout(_grid(cards))
        layout.addStretch()
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setWidget(inner)
        scroll.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)
        theme.dress(self)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._reader.busy:
            self._next()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._todo = []
        self._reader.drop()
        super().closeEvent(event)

    @property
    def busy(self) -> bool:
        """Whether harnesses are still being looked at."""
        return bool(self._todo)

    def _next(self) -> None:
        """The next harness is looked at beside the window."""
        if self._todo:
            work = self._todo[0][1]
            self._reader.ask(lambda _: work())

    def _read(self, glance: Glance | None) -> None:
        if self._todo:
            card, _ = self._todo.pop(0)
            if glance is not None:  # one that couldn't be drawn is opened all the same
                card.show_glance(glance)
            self._next()

    def _ways(self) -> QGridLayout:
        ways = (
            (tr("A loom to make"), tr("Say what it feeds, line by line."), lambda: self.wants_file.emit(None)),
            (tr("One lead"), tr("Its size, drop, heat and fuse, without a file."), self.one_lead),
            (tr("A wire list"), tr("A shop's list, read with its doubts, into a new harness."), self._list),
            (
                tr("A plug to replace"),
                tr("Look it over, note what was where, see what matches."),
                lambda: self._open("repair"),
            ),
            (
                tr("A cable to judge"),
                tr("Is it what it is sold as? By mass, ohms, diameters, strands."),
                self.judge_cable,
            ),
            (
                tr("A built unit"),
                tr("As it was built: coils, tools, hands, readings, what is left."),
                lambda: self._open("unit"),
            ),
            (
                tr("Practice"),
                tr("Find faults hidden in a finished harness, with as few readings as can be."),
                self.practice,
            ),
        )
        grid = QGridLayout()
        grid.setSpacing(10)
        self.cards: dict[str, QPushButton] = {}
        for number, (name, told, act) in enumerate(ways):
            card = button(name, act, primary=number == 0)
            card.setAccessibleDescription(tr(told))
            card.setFont(theme.font(12, bold=True))
            card.setMinimumHeight(round(4.4 * theme.font().pointSizeF()))
            card.setMinimumWidth(round(17 * theme.font().pointSizeF()))
            grid.addWidget(card, number // 2, 2 * (number % 2))
            grid.addWidget(hint(told), number // 2, 2 * (number % 2) + 1)
            self.cards[name] = card
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        return grid

    def _shown(self, sheet: QDialog) -> QDialog:
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()
        return sheet

    def one_lead(self) -> QDialog:
        """One run worked out on a sheet."""
        from umber_trunk.app.sheets.one_lead import OneLead

        return self._shown(OneLead(self))

    def judge_cable(self) -> QDialog:
        """A cable judged by what can be read off it, without a harness."""
        from umber_trunk.app.sheets.cable import CableSheet

        return self._shown(CableSheet(self))

    def practice(self) -> None:
        """The drills, on a fresh copy of the demo harness."""
        self.wants.emit(demo_copy(), "practice")

    def _copies(self) -> None:
        from umber_trunk.app.sheets.kept import CopiesSheet

        sheet = CopiesSheet("", self)
        sheet.restored.connect(self.wants_file)
        self._shown(sheet)

    def _open(self, what: str = "") -> None:
        name, _ = QFileDialog.getOpenFileName(self, tr("Open a harness"), "", HARNESS)
        if name:
            self.wants.emit(Path(name), what)

    def _list(self) -> None:
        path = list_asked(self)
        if path is not None:
            self.wants.emit(path, "list")


def _grid(cards: Sequence[GlanceCard]) -> QGridLayout:
    """Cards two beside each other."""
    grid = QGridLayout()
    grid.setSpacing(8)
    for number, card in enumerate(cards):
        grid.addWidget(card, number // 2, number % 2)
    grid.setColumnStretch(0, 1)
    grid.setColumnStretch(1, 1)
    return grid


def demo_copy(name: str = "barge") -> Path:
    """A fresh copy of a demo harness in a folder of its own; InputError for a name there is none of."""
    from umber_trunk.store.demo_file import put_demo

    path = Path(tempfile.mkdtemp(prefix="umber-demo-")) / f"{DEMOS[name][0]}.umber"
    put_demo(path, name).close()
    return path
