"""The sheet that brings a wire list in: the columns as guessed, every fault with its cell, nothing
imported until it is accepted."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QGridLayout,
    QLabel,
    QListWidget,
    QPushButton,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.desks.base import heading, row
from umber_trunk.app.document import Document
from umber_trunk.core.errors import InputError
from umber_trunk.store.sheets import read_grid
from umber_trunk.store.wirelist import (
    FIELDS,
    Layout,
    Reading,
    add_wires,
    column_letter,
    guess_layout,
    read_wires,
)

PREVIEW_ROWS = 60


class ImportDialog(QDialog):
    """Reads `path`, shows the guess, and imports as one edit on acceptance. StoreError if unreadable."""

    def __init__(self, document: Document, path: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.path = path
        self.grid = read_grid(path)
        self.reading = Reading(())
        self.setWindowTitle(f"Import {path.name}")
        self.resize(1080, 660)
        try:
            self.layout_read = guess_layout(self.grid)
            note = "The header was found. Check what each column holds."
        except InputError as why:
            width = max((len(line) for line in self.grid), default=0)
            self.layout_read = Layout({}, 0, tuple("" for _ in range(width)))
            note = str(why)
        self.note = QLabel(note)
        self.note.setWordWrap(True)
        self.first_row = QSpinBox()
        self.first_row.setRange(1, max(1, len(self.grid)))
        self.first_row.setValue(self.layout_read.first_row + 1)
        self.unit = QComboBox()
        self.unit.addItems(["m", "cm", "mm", "ft", "in"])
        self.unit.setCurrentText(
            {"feet": "ft", "inch": "in", "inches": "in"}.get(self.layout_read.length_unit, self.layout_read.length_unit)
        )
        self.pickers = self._pickers()
        self.preview = QTableWidget()
        self.preview.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.faults = QListWidget()
        self.faults.setMaximumHeight(150)
        self.verdict = QLabel()
        self.accept_all = QPushButton()
        self.accept_all.setProperty("primary", True)
        self.accept_all.clicked.connect(lambda: self.finish(False))
        self.accept_good = QPushButton()
        self.accept_good.clicked.connect(lambda: self.finish(True))
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(heading(f"Wires from {path.name}"))
        layout.addWidget(self.note)
        layout.addWidget(self._picker_box())
        layout.addWidget(self.preview, 1)
        layout.addWidget(self.verdict)
        layout.addWidget(self.faults)
        layout.addLayout(row(None, cancel, self.accept_good, self.accept_all))
        for picker in [*self.pickers.values(), self.unit]:
            picker.currentIndexChanged.connect(lambda _: self._reread())
        self.first_row.valueChanged.connect(lambda _: self._reread())
        self._reread()

    def _pickers(self) -> dict[str, QComboBox]:
        """One box for each field: which column holds it."""
        width = max((len(line) for line in self.grid), default=0)
        headers = self.layout_read.headers
        found = {}
        for name in FIELDS:
            box = QComboBox()
            box.addItem("–", -1)
            for at in range(width):
                title = headers[at] if at < len(headers) and headers[at] else "no title"
                box.addItem(f"{column_letter(at)}  {title}"[:34], at)
            box.setCurrentIndex(self.layout_read.columns.get(name, -1) + 1)
            box.setAccessibleName(f"Column of {FIELDS[name]}")
            found[name] = box
        return found

    def _picker_box(self) -> QWidget:
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        across = 4
        for number, (name, picker) in enumerate(self.pickers.items()):
            line, place = divmod(number, across)
            label = QLabel(FIELDS[name] + (" *" if name in ("from", "to") else ""))
            label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(label, line, 2 * place)
            grid.addWidget(picker, line, 2 * place + 1)
        line = (len(self.pickers) - 1) // across + 1
        source = f" ({self.layout_read.unit_from})" if self.layout_read.unit_from else ""
        for place, (text, widget) in enumerate(
            ((f"lengths without unit{source}", self.unit), ("first wire in row", self.first_row))
        ):
            label = QLabel(text)
            label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(label, line, 4 * place, 1, 1 + 2 * (place == 0))
            grid.addWidget(widget, line, 4 * place + 1 + 2 * (place == 0))
        return box

    def chosen_layout(self) -> Layout:
        """The layout as the boxes stand."""
        columns = {name: int(box.currentData()) for name, box in self.pickers.items() if int(box.currentData()) >= 0}
        return replace(
            self.layout_read,
            columns=columns,
            first_row=self.first_row.value() - 1,
            length_unit=self.unit.currentText(),
        )

    def _reread(self) -> None:
        layout = self.chosen_layout()
        self.reading = read_wires(self.grid, layout, [wire.id for wire in self.document.design.wires])
        self.faults.clear()
        self.faults.addItems([str(fault) for fault in self.reading.faults])
        self.faults.setVisible(bool(self.reading.faults))
        good, bad = len(self.reading.wires), len(self.reading.faults)
        self.verdict.setText(
            f"{good} wires can be read"
            + (f", {bad} faults. Nothing is imported until you accept." if bad else ". Every row is sound.")
        )
        self.verdict.setProperty("role", "fault" if bad else "")
        self.verdict.style().polish(self.verdict)
        self.accept_all.setText(f"Import {good} wires")
        self.accept_all.setEnabled(good > 0 and not bad)
        self.accept_good.setText(f"Import the {good} good rows only")
        self.accept_good.setVisible(bad > 0 and good > 0)
        self._show_preview(layout)

    def _show_preview(self, layout: Layout) -> None:
        used = {at: name for name, at in layout.columns.items()}
        width = max((len(line) for line in self.grid), default=0)
        lines = list(enumerate(self.grid))[max(0, layout.first_row - 2) : layout.first_row + PREVIEW_ROWS]
        self.preview.setColumnCount(width)
        self.preview.setRowCount(len(lines))
        self.preview.setHorizontalHeaderLabels(
            [f"{column_letter(at)}\n{FIELDS[used[at]] if at in used else 'not used'}" for at in range(width)]
        )
        self.preview.setVerticalHeaderLabels([str(at + 1) for at, _ in lines])
        wrong = {(fault.row, fault.column) for fault in self.reading.faults}
        for place, (at, cells) in enumerate(lines):
            for column in range(width):
                item = QTableWidgetItem(cells[column] if column < len(cells) else "")
                if at < layout.first_row or column not in used:
                    item.setForeground(theme.UMBER_SOFT)
                if (at + 1, column_letter(column)) in wrong:
                    item.setBackground(QColor(theme.OXIDE_PALE))
                    item.setText(f"✕ {item.text()}")
                self.preview.setItem(place, column, item)
        self.preview.resizeColumnsToContents()

    def finish(self, skip_bad: bool) -> None:
        """Imports what was read as one edit."""
        reading = self.reading
        label = f"import {len(reading.wires)} wires of {self.path.name}"
        if self.document.apply(lambda design: add_wires(design, reading, skip_bad), label):
            self.accept()
