"""The sheet that brings a wire list in: the list as it stands, what each column is taken for at its head, every open
question in its place above the rows it touches, every fault with its cell; nothing imported until all is answered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QComboBox,
    QListWidget,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.background import Background, Question
from umber_trunk.app.document import Document
from umber_trunk.app.sheets.list_preview import ListPreview
from umber_trunk.app.widgets.desk import button, heading, row
from umber_trunk.app.widgets.line import Count
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.errors import InputError, UmberError, Wanted, always
from umber_trunk.core.harness.model import Design
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.memory import read_with_memory, remember
from umber_trunk.store.listing.merge import add_wires, differences, merge
from umber_trunk.store.listing.reading import ListReading
from umber_trunk.store.sheets import Book, Sheet, is_short, read_book

AT_ONCE = 600  # rows that are read without a wait anyone would notice
CHANGES = {"added": word("added"), "changed": word("changed"), "gone": word("gone")}
"""What a later revision does to a wire, as it is called."""


class ImportDialog(ListPreview):
    """Reads `path`, shows the proposed reading, and imports as one edit on acceptance. What takes long is done in the
    background and can be cancelled. StoreError if a short list is unreadable.

    Signals: unread(str), why a list that was read in the background can't be.
    """

    unread = Signal(str)

    def __init__(self, document: Document, path: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.path = path
        self.book = Book(path.name, (Sheet("", []),))
        self.answers = Answers()
        self.reading = ListReading(())
        self._take: Callable[[Any], None] = lambda _: None
        self._background = Background(self)
        self._background.answered.connect(self._came)
        self._background.crashed.connect(document.crashed)
        self.bar = QProgressBar()
        self.bar.setRange(0, 0)
        self.bar.setTextVisible(False)
        self.bar.hide()
        self.setWindowTitle(tr("Import {path}", path=path.name))
        self.resize(1160, 720)
        self.note = Label()
        self.note.setWordWrap(True)
        self.sheet = QComboBox()
        self.header = Count()
        self.header.setSpecialValueText(tr("none"))
        self.mode = QComboBox()
        self.mode.addItems([tr("as new wires"), tr("as a later revision of the wires here")])
        self.mode.setVisible(bool(document.design.wires))
        self.preview = QTableWidget()
        self.preview.horizontalHeader().setStretchLastSection(True)
        self.preview.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.asking: dict[str, QComboBox] = {}
        self.faults = QListWidget()
        self.faults.setMaximumHeight(110)
        self.verdict = Label()
        self.verdict.setWordWrap(True)
        self.accept_all = QPushButton()
        self.accept_all.setProperty("primary", True)
        self.accept_all.clicked.connect(lambda: self.finish(False))
        self.accept_good = QPushButton()
        self.accept_good.clicked.connect(lambda: self.finish(True))
        self.likeliest = button("Take every likeliest answer", self.take_likeliest)
        self._laid_out()
        self.sheet.currentIndexChanged.connect(self._sheet_chosen)
        self.header.valueChanged.connect(self._header_chosen)
        self.mode.currentIndexChanged.connect(lambda _: self.reread())
        self.accept_all.setText(tr("Import"))
        for widget in (self.sheet, self.faults, self.likeliest, self.accept_good):
            widget.hide()  # they have nothing to say before the list is read
        self._do(lambda wanted: read_book(path, wanted), self._opened, is_short(path), tr("Reading the file …"))

    def _laid_out(self) -> None:
        """How it is to be read on top, the rows as they are, what is doubtful or wrong below."""
        layout = QVBoxLayout(self)
        layout.addLayout(
            row(
                heading(tr("Wires from {path}", path=self.path.name)),
                None,
                self.mode,
                self.sheet,
                Label(tr("titles in row")),
                self.header,
            )
        )
        layout.addWidget(self.note)
        layout.addWidget(self.bar)
        layout.addWidget(self.preview, 1)
        layout.addWidget(self.verdict)
        layout.addWidget(self.faults)
        layout.addLayout(row(self.likeliest, None, button("Cancel", self.reject), self.accept_good, self.accept_all))

    @property
    def merging(self) -> bool:
        """Whether the list is a later revision of what is there."""
        return self.mode.currentIndex() == 1

    @property
    def busy(self) -> bool:
        """Whether something is being read in the background."""
        return self._background.busy

    def _do(self, question: Question, take: Callable[[Any], None], at_once: bool, words: str) -> None:
        """Asks at once, or in the background with everything but Cancel at rest meanwhile."""
        if at_once:
            take(question(always))
            return

        def said(wanted: Wanted) -> Any:
            try:
                return question(wanted)
            except UmberError as why:
                return why

        self.note.setText(words)
        self._take = take
        self._rest(True)
        self._background.ask(said)

    def _rest(self, resting: bool) -> None:
        self.bar.setVisible(resting)
        for widget in (self.mode, self.sheet, self.header, self.preview, self.likeliest):
            widget.setEnabled(not resting)
        if resting:
            self.accept_all.setEnabled(False)
            self.accept_good.setEnabled(False)

    def _came(self, answer: Any) -> None:
        self._rest(False)
        self.accept_good.setEnabled(True)
        if isinstance(answer, UmberError):
            self.unread.emit(str(answer))
            self.reject()
        else:
            self._take(answer)

    def _opened(self, book: Book) -> None:
        self.book = book
        self.sheet.blockSignals(True)
        self.sheet.addItem(tr("all sheets with wires"), "")
        for one in book.sheets:
            self.sheet.addItem(one.name + (tr(" (hidden)") if one.hidden else ""), one.name)
        self.sheet.setVisible(len(book.sheets) > 1)
        self.sheet.blockSignals(False)
        self.header.blockSignals(True)
        self.header.setRange(0, max((len(one.grid) for one in book.sheets), default=1))
        self.header.blockSignals(False)
        self.reread()

    def done(self, result: int) -> None:
        self._background.drop()
        super().done(result)

    @property
    def _short(self) -> bool:
        return sum(len(one.grid) for one in self.book.sheets) <= AT_ONCE

    def reread(self) -> None:
        """Reads the list by the answers so far and shows everything anew."""
        design, book, answers = self.document.design, self.book, self.answers
        taken = () if self.merging else tuple(wire.id for wire in design.wires)

        def read(wanted: Wanted) -> tuple[ListReading, Answers, str]:
            try:
                return *read_with_memory(book, answers, taken, design.project.decimal, wanted=wanted), ""
            except InputError as why:
                return ListReading(()), answers, str(why)

        self._do(read, self._reread, self._short, tr("Reading the rows …"))

    def _reread(self, found: tuple[ListReading, Answers, str]) -> None:
        self.reading, self.answers, wrong = found
        usual = tr("Check what each column holds; change it at its head.")
        self.note.setText(wrong or "  ·  ".join(map(str, self.reading.notes)) or usual)
        shown = self.reading.sheets[0].layout if self.reading.sheets else None
        self.header.blockSignals(True)
        self.header.setValue(shown.first_row if shown else self.answers.header_row or 0)
        self.header.blockSignals(False)
        self.likeliest.setVisible(bool(self.reading.doubts))
        self.faults.clear()
        self.faults.addItems([str(fault) for fault in self.reading.faults])
        self.faults.setVisible(bool(self.reading.faults))
        self._tell()
        self._show_preview()

    def _tell(self) -> None:
        good, bad, open_ = len(self.reading.wires), len(self.reading.faults), len(self.reading.doubts)
        changes = differences(self.document.design, self.reading) if self.merging and self.reading.sound else []
        told = [tr("{good} {good|wire|wires} can be read", good=good)]
        if self.merging and self.reading.sound:
            kinds = [f"{sum(c.kind == kind for c in changes)} {tr(words)}" for kind, words in CHANGES.items()]
            told = [
                ", ".join(kinds)
                + (
                    ": " + "; ".join(f"{c.wire} {tr(CHANGES[c.kind])} {c.detail}" for c in changes[:6])
                    if changes
                    else ""
                )
            ]
        told += [tr("{open} question{open||s} open", open=open_)] if open_ else []
        told += [tr("{bad} fault{bad||s}", bad=bad)] if bad else []
        self.verdict.setText(", ".join(told) + (tr(". Nothing is imported until you accept.") if bad or open_ else "."))
        self.verdict.setProperty("role", "fault" if bad else "")
        self.verdict.style().polish(self.verdict)
        self.accept_all.setText(
            tr("Merge as one edit") if self.merging else tr("Import {good} {good|wire|wires}", good=good)
        )
        self.accept_all.setEnabled(good > 0 and not bad and not open_)
        self.accept_good.setText(tr("Import the {good} good {good|row|rows} only", good=good))
        self.accept_good.setVisible(bad > 0 and good > 0 and not open_ and not self.merging)

    def say_column(self, at: int, name: str) -> None:
        """A column holds this; "" for nothing."""
        columns = {field: place for field, place in self.answers.columns.items() if place != at}
        layout = self.reading.sheets[0].layout if self.reading.sheets else None
        before = next((field for field, place in (layout.columns if layout else {}).items() if place == at), "")
        if before and before != name:
            columns[before] = -1
        if name:
            columns[name] = at
        self._with(columns=columns)

    def say_unit(self, name: str, unit: str) -> None:
        """Bare figures of a field have this unit; "" takes that back."""
        units = {field: known for field, known in self.answers.units.items() if field != name}
        self._with(units=units | ({name: unit} if unit else {}))

    def answered(self, doubt_id: str, key: str) -> None:
        if doubt_id == "sheet":
            self._with(sheets=() if key == "all" else (key,), said={**self.answers.said, doubt_id: key})
        elif doubt_id == "unit:length":
            self._with(units={**self.answers.units, "length": key})
        else:
            self._with(said={**self.answers.said, doubt_id: key})

    def take_likeliest(self) -> None:
        """Answers every open question the likeliest way, and those that follow."""
        for _ in range(8):
            if not self.reading.doubts:
                return
            said = {doubt.id: doubt.likeliest for doubt in self.reading.doubts}
            self._with(said={**self.answers.said, **said})

    def _sheet_chosen(self) -> None:
        name = str(self.sheet.currentData())
        self._with(sheets=(name,) if name else ())

    def _header_chosen(self, value: int) -> None:
        self._with(header_row=value)

    def _with(self, **values: object) -> None:
        now = {
            name: getattr(self.answers, name) for name in ("sheets", "header_row", "columns", "units", "said", "accept")
        }
        self.answers = Answers(**{**now, **values})
        self.reread()

    def finish(self, skip_bad: bool) -> None:
        """Imports or merges what was read as one edit."""
        reading, merging = self.reading, self.merging
        label = f"{'merge' if merging else 'import'} {len(reading.wires)} wires of {self.path.name}"
        before = self.document.design

        def made(_: Wanted) -> Design:
            return merge(before, reading) if merging else add_wires(before, reading, skip_bad)

        def take(design: Design) -> None:
            if self.document.apply(lambda _: design, label):
                remember(reading, self.answers)
                self.accept()

        try:
            self._do(made, take, self._short, tr("Bringing the wires in …"))
        except UmberError as why:
            self.document.refused.emit(str(why))
