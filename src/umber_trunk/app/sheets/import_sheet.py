"""The sheet that brings a wire list in: the list as it stands, what each column is taken for at its head, every open
question in its place above the rows it touches, every fault with its cell; nothing imported until all is answered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QListWidget,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.background import Background, Question
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import button, heading, row
from umber_trunk.app.widgets.line import Count
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError, UmberError, Wanted, always
from umber_trunk.core.harness.model import Design
from umber_trunk.store.listing.doubts import UNITS, Answers, Doubt
from umber_trunk.store.listing.memory import read_with_memory, remember
from umber_trunk.store.listing.merge import add_wires, differences, merge
from umber_trunk.store.listing.reading import ListReading
from umber_trunk.store.listing.titles import column_letter
from umber_trunk.store.listing.words import FIELDS
from umber_trunk.store.sheets import Book, Sheet, is_short, read_book

PREVIEW_ROWS = 60
AT_ONCE = 600  # rows that are read without a wait anyone would notice
HEADS = 2  # rows of choices above the list's own
ROWS_A_QUESTION = 30  # that are shown though they stand further down


class ImportDialog(QDialog):
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
        self.header.setSpecialValueText("none")
        self.mode = QComboBox()
        self.mode.addItems(["as new wires", "as a later revision of the wires here"])
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
        self.accept_all.setText("Import")
        for widget in (self.sheet, self.faults, self.likeliest, self.accept_good):
            widget.hide()  # they have nothing to say before the list is read
        self._do(lambda wanted: read_book(path, wanted), self._opened, is_short(path), "Reading the file …")

    def _laid_out(self) -> None:
        """How it is to be read on top, the rows as they are, what is doubtful or wrong below."""
        layout = QVBoxLayout(self)
        layout.addLayout(
            row(
                heading(tr("Wires from {path}", path=self.path.name)),
                None,
                self.mode,
                self.sheet,
                Label("titles in row"),
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
        self.sheet.addItem("all sheets with wires", "")
        for one in book.sheets:
            self.sheet.addItem(f"{one.name}{' (hidden)' if one.hidden else ''}", one.name)
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

        self._do(read, self._reread, self._short, "Reading the rows …")

    def _reread(self, found: tuple[ListReading, Answers, str]) -> None:
        self.reading, self.answers, wrong = found
        usual = "Check what each column holds; change it at its head."
        self.note.setText(wrong or "  ·  ".join(self.reading.notes) or usual)
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
        told = [tr("{good} wires can be read", good=good)]
        if self.merging and self.reading.sound:
            kinds = [f"{sum(c.kind == kind for c in changes)} {kind}" for kind in ("added", "changed", "gone")]
            told = [
                ", ".join(kinds)
                + (": " + "; ".join(f"{c.wire} {c.kind} {c.detail}" for c in changes[:6]) if changes else "")
            ]
        told += [tr("{open} question{open||s} open", open=open_)] if open_ else []
        told += [tr("{bad} fault{bad||s}", bad=bad)] if bad else []
        self.verdict.setText(", ".join(told) + (". Nothing is imported until you accept." if bad or open_ else "."))
        self.verdict.setProperty("role", "fault" if bad else "")
        self.verdict.style().polish(self.verdict)
        self.accept_all.setText("Merge as one edit" if self.merging else tr("Import {good} wires", good=good))
        self.accept_all.setEnabled(good > 0 and not bad and not open_)
        self.accept_good.setText(tr("Import the {good} good rows only", good=good))
        self.accept_good.setVisible(bad > 0 and good > 0 and not open_ and not self.merging)

    def _shown_sheet(self) -> Sheet:
        if self.reading.sheets:
            return self.reading.sheets[0].sheet
        wanted = self.answers.sheets[0] if self.answers.sheets else ""
        return next((one for one in self.book.sheets if one.name == wanted), self.book.sheets[0])

    def _show_preview(self) -> None:
        grid = self._shown_sheet().grid
        layout = self.reading.sheets[0].layout if self.reading.sheets else None
        first = layout.first_row if layout else 0
        used = {at: name for name, at in layout.columns.items()} if layout else {}
        width = max((len(line) for line in grid), default=0)
        lines = self._rows_shown(grid, first)
        self.preview.clear()
        self.preview.clearSpans()
        self.preview.setColumnCount(width)
        self.preview.setRowCount(len(lines) + HEADS)
        titles = [layout.headers[at] if layout and at < len(layout.headers) else "" for at in range(width)]
        self.preview.setHorizontalHeaderLabels(
            [f"{column_letter(at)}  {title}".strip() for at, title in enumerate(titles)]
        )
        self.preview.setVerticalHeaderLabels(
            ["holds", "unit", *("?" if isinstance(row, Doubt) else str(row + 1) for row in lines)]
        )
        for at in range(width):
            self.preview.setCellWidget(0, at, self._meaning_box(at, used.get(at, "")))
            if used.get(at) in UNITS:
                self.preview.setCellWidget(1, at, self._unit_box(used[at]))
        self._fill(lines, first, used)
        self.preview.resizeColumnsToContents()
        for at in range(width):
            self.preview.setColumnWidth(at, max(self.preview.columnWidth(at), round(118 * theme.text_scale())))
        first_asked = next((place for place, row in enumerate(lines, HEADS) if isinstance(row, Doubt)), None)
        if first_asked is not None:
            self.preview.scrollTo(
                self.preview.model().index(max(0, first_asked - 3), 0), QTableWidget.ScrollHint.PositionAtTop
            )

    def _rows_shown(self, grid: list[list[str]], first: int) -> list[int | Doubt]:
        """The rows of the list that are shown, from 0, with each open question above the first row it touches: the head
        of the list, and some rows round each question further down."""
        near = set(range(max(0, first - 2), min(len(grid), first + PREVIEW_ROWS)))
        places: dict[int, list[Doubt]] = {}
        for doubt in self.reading.doubts:
            place = min(doubt.rows, default=first + 1) - 1
            places.setdefault(place, []).append(doubt)
            for touched in doubt.rows[:ROWS_A_QUESTION]:
                near |= set(range(max(0, touched - 2), min(len(grid), touched + 1)))
        shown: list[int | Doubt] = []
        for at in sorted(near):
            shown += [*places.pop(at, ()), at]
        return [*shown, *(doubt for left in places.values() for doubt in left)]

    def _fill(self, lines: list[int | Doubt], first: int, used: dict[int, str]) -> None:
        grid = self._shown_sheet().grid
        wrong = {(fault.row, fault.column) for fault in self.reading.faults}
        passed = {at for one in self.reading.sheets[:1] for at, _ in one.passed}
        asked = {doubt.column for doubt in self.reading.doubts if not doubt.rows}
        lit = {row - 1 for doubt in self.reading.doubts for row in doubt.rows}
        self.asking = {}
        for place, at in enumerate(lines, HEADS):
            if isinstance(at, Doubt):
                self._ask_at(place, at)
                continue
            cells = grid[at]
            for column in range(self.preview.columnCount()):
                item = QTableWidgetItem(cells[column] if column < len(cells) else "")
                if at < first or column not in used or at + 1 in passed:
                    item.setForeground(theme.INK_SOFT)
                if at in lit or (column in asked and at >= first and at + 1 not in passed):
                    item.setBackground(QColor(theme.TIGHT_PALE))
                if (at + 1, column_letter(column)) in wrong:
                    item.setBackground(QColor(theme.BROKEN_PALE))
                    item.setText(f"✕ {item.text()}")
                self.preview.setItem(place, column, item)

    def _ask_at(self, place: int, doubt: Doubt) -> None:
        """A question across a row of the list, with the box of its answers."""
        text = Label(f"{doubt.question}  {doubt.evidence}")
        text.setWordWrap(True)
        text.setToolTip(plain_of(doubt.evidence))
        box = QComboBox()
        box.addItem("answer …", "")
        for option in sorted(doubt.options, key=lambda one: one.key != doubt.likeliest):
            box.addItem(option.words + ("   (likeliest)" if option.key == doubt.likeliest else ""), option.key)
        box.setMinimumContentsLength(30)
        box.setFixedWidth(round(330 * theme.text_scale()))  # first, where the narrowest window shows it
        box.setAccessibleName(doubt.question)
        box.activated.connect(lambda _: self._answered(doubt.id, str(box.currentData())) if box.currentData() else None)
        line = QWidget()
        inside = row(box, text)
        inside.setContentsMargins(8, 3, 8, 3)
        inside.setStretch(1, 1)
        line.setLayout(inside)
        self.preview.setSpan(place, 0, 1, max(1, self.preview.columnCount()))
        self.preview.setCellWidget(place, 0, line)
        self.preview.setRowHeight(place, round(54 * theme.text_scale()))
        self.asking[doubt.id] = box

    def _meaning_box(self, at: int, now: str) -> QComboBox:
        """At a column's head: what it holds."""
        box = QComboBox()
        box.addItem("not used", "")
        for name, words in FIELDS.items():
            box.addItem(words, name)
        box.setCurrentIndex(box.findData(now))
        box.setAccessibleName(tr("What column {at} holds", at=column_letter(at)))
        box.activated.connect(lambda _: self.say_column(at, str(box.currentData())))
        return box

    def _unit_box(self, name: str) -> QComboBox:
        """At a column's head: the unit of its bare figures."""
        box = QComboBox()
        layout = self.reading.sheets[0].layout
        note = self.answers.units.get(name) or layout.notes.get(name, "")
        box.addItem("as written" if not note else "as the title says", "")
        for unit in UNITS[name]:
            box.addItem({"mm2": "mm²", "awg": "AWG"}.get(unit, unit), unit)
        box.setCurrentIndex(
            max(0, box.findData({"mm²": "mm2", "feet": "ft", "inch": "in", "inches": "in"}.get(note, note)))
        )
        box.setAccessibleName(tr("Unit of the {fields}", fields=FIELDS[name]))
        box.activated.connect(lambda _: self.say_unit(name, str(box.currentData())))
        return box

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

    def _answered(self, doubt_id: str, key: str) -> None:
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
            self._do(made, take, self._short, "Bringing the wires in …")
        except UmberError as why:
            self.document.refused.emit(str(why))
