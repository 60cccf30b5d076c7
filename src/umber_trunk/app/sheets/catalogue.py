"""The catalogue: search as one types, a form for a part off a data sheet, files in and out."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QFileDialog,
    QHeaderView,
    QLineEdit,
    QPlainTextEdit,
    QSplitter,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import button, column, heading, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.parts import KINDS, Part
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import UmberError
from umber_trunk.store.catalogues import (
    Reading,
    add_to_shop,
    catalogue_path,
    from_json,
    read_catalogue,
    shop_parts,
    to_json,
)
from umber_trunk.store.files import write_whole

Index = QModelIndex | QPersistentModelIndex
HEADS = ("Kind", "Id", "Name", "Family")
SHOWN_FAULTS = 12
STARTS: dict[str, dict[str, Any]] = {
    "contact": {"gender": "socket", "size": "", "area_mm2": {"low": 0.5, "high": 1.0}, "insulation_mm": {"low": 1.4, "high": 2.4}, "strip_mm": 4.5, "rated_a": 10.0},
    "seal": {"size": "", "wire_mm": {"low": 1.4, "high": 2.4}},
    "lug": {"area_mm2": {"low": 10.0, "high": 16.0}, "stud_mm": 8.0, "width_mm": 15.0, "pad_mm": 15.0, "barrel_mm": 12.0, "barrel_od_mm": 8.0, "strip_mm": 13.0},
    "housing": {"form": "plug", "contacts": "socket", "width_mm": 20.0, "height_mm": 10.0, "cavities": [{"label": "1", "x_mm": -3.5, "y_mm": 0.0, "size": ""}]},
}  # fmt: skip
"""What a new part's form starts with, for the kinds asked for most."""


class _Rows(QAbstractTableModel):
    """The parts that are found."""

    def __init__(self) -> None:
        super().__init__()
        self.parts: list[Part] = []

    def show_parts(self, parts: list[Part]) -> None:
        self.beginResetModel()
        self.parts = parts
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 Qt's signature
        return 0 if parent.isValid() else len(self.parts)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 Qt's signature
        return 0 if parent.isValid() else len(HEADS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        return (
            tr(HEADS[section])
            if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole
            else None
        )

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        part = self.parts[index.row()]
        return (part.kind, part.id, part.name, part.family)[index.column()]


class CatalogueSheet(QDialog):
    """All parts this harness can be made of on the left; the chosen one, or a new one, as a form on the right."""

    def __init__(self, document: Document, parent: QWidget | None = None, path: Path | None = None) -> None:
        super().__init__(parent)
        self.document, self.path = document, path or catalogue_path()
        self.setWindowTitle(tr("Catalogue"))
        self.resize(1060, 620)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("words of its name, id, kind or family"))
        self.search.textChanged.connect(lambda _: self._find())
        self.kind = QComboBox()
        self.kind.addItem(tr("every kind"), "")
        for kind in KINDS:
            self.kind.addItem(kind, kind)
        self.kind.currentIndexChanged.connect(lambda _: self._find())
        self.model = _Rows()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.verticalHeader().hide()
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.table.setColumnWidth(1, 170)
        self.table.selectionModel().currentRowChanged.connect(lambda now, _: self._chosen(now.row()))
        self.form = QPlainTextEdit()
        self.form.setAccessibleName(tr("Part as a form"))
        self.count, self.said = Label(), Label()
        self.said.setWordWrap(True)
        new = button("New part", self.start_new, tip="Starts a form of the kind chosen on the left")
        keep = button("Keep in the shop’s catalogue", self.keep, primary=True)
        left = column(
            row(self.search, self.kind),
            self.table,
            row(self.count, None, button("Import…", self.import_file), button("Share…", self.share)),
        )
        note = hint(
            "One field a line, as the part’s sheet has it; what the sheet leaves out is left out, and isn’t judged."
        )
        right = column(heading("Part"), note, self.form, self.said, row(new, None, keep))
        split = QSplitter()
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([600, 440])
        whole = QVBoxLayout(self)
        whole.addWidget(split)
        self._find()

    def _find(self) -> None:
        words = self.search.text().lower().split()
        kind = self.kind.currentData()
        shelf = Shelf(self.document.design.parts)
        found = [
            part for part in shelf.parts.values()
            if (not kind or part.kind == kind) and all(word in f"{part.kind} {part.id} {part.name} {part.family}".lower() for word in words)
        ]  # fmt: skip
        self.model.show_parts(found)
        self.count.setText(f"{len(found)} of {len(shelf.parts)} parts")

    def _chosen(self, at: int) -> None:
        if 0 <= at < len(self.model.parts):
            self._fill(json.loads(to_json([self.model.parts[at]]))[0])

    def _fill(self, values: dict[str, Any]) -> None:
        lines = [f"{name}: {json.dumps(value, ensure_ascii=False)}" for name, value in values.items()]
        self.form.setPlainText("\n".join(lines))
        self.said.setText("")

    def start_new(self) -> None:
        """A form of the chosen kind with the fields it needs."""
        kind = self.kind.currentData() or "contact"
        model = KINDS[kind]
        needed = {name: None for name, field in model.model_fields.items() if field.is_required()}
        self._fill(
            {"kind": kind, "id": "", "name": "", **needed, **STARTS.get(kind, {}), "source": "its data sheet"}
            | {"id": "", "name": ""}
        )

    def reading(self) -> Reading:
        """What the form says, with every fault by field."""
        values: dict[str, Any] = {}
        for number, line in enumerate(self.form.toPlainText().splitlines(), 1):
            if not line.strip():
                continue
            name, colon, value = line.partition(":")
            if not colon:
                raise UmberError(f"Line {number}: write it as field: value.")
            try:
                values[name.strip()] = json.loads(value)
            except ValueError:
                raise UmberError(
                    f"Line {number}, {name.strip()}: “{value.strip()[:40]}” can’t be read; text stands in quotes, decimals have a point."
                ) from None
        return from_json(json.dumps([values]))

    def keep(self) -> None:
        """Takes the part into the shop's catalogue, if nothing is wrong with it."""
        try:
            reading = self.reading()
            if reading.faults:
                self.said.setText(
                    "\n".join(f"{fault.column}: {fault.message}" for fault in reading.faults[:SHOWN_FAULTS])
                )
                return
            held = add_to_shop(reading.parts, self.path)
        except UmberError as why:
            self.said.setText(str(why))
            return
        self._find()
        self.said.setText(f"Kept; the shop’s catalogue holds {held}.")

    def import_file(self) -> None:
        """Asks for a catalogue and takes it over."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Import a catalogue"), "", "Catalogue (*.json *.csv)")
        if name:
            self.take_over(Path(name))

    def take_over(self, path: Path) -> None:
        """All parts of a file, or none and every fault."""
        try:
            reading = read_catalogue(path)
            if reading.faults:
                rest = (
                    f"\n… and {len(reading.faults) - SHOWN_FAULTS} more" if len(reading.faults) > SHOWN_FAULTS else ""
                )
                self.said.setText(
                    f"{path.name}: nothing was taken over.\n"
                    + "\n".join(map(str, reading.faults[:SHOWN_FAULTS]))
                    + rest
                )
                return
            held = add_to_shop(reading.parts, self.path)
        except UmberError as why:
            self.said.setText(str(why))
            return
        self._find()
        self.said.setText(f"{len(reading.parts)} parts taken over; the shop’s catalogue holds {held}.")

    def share(self) -> None:
        """Writes the shop's own parts to a file for others."""
        name, _ = QFileDialog.getSaveFileName(self, tr("Share the shop’s catalogue"), "catalogue.json", "JSON (*.json)")
        if not name:
            return
        try:
            write_whole(Path(name), to_json(shop_parts(self.path)).encode())
            self.said.setText(f"{name} written.")
        except UmberError as why:
            self.said.setText(str(why))
