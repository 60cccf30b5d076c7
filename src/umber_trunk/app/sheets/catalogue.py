"""The catalogue: search as one types, a form for a part off a data sheet, files in and out."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QFileDialog,
    QHeaderView,
    QSplitter,
    QTableView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import button, column, heading, hint, row
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.parts import KINDS, Part
from umber_trunk.core.errors import UmberError
from umber_trunk.core.row_fault import RowFault
from umber_trunk.store.catalogues import (
    Reading,
    add_to_shop,
    as_row,
    catalogue_path,
    one_row,
    read_catalogue,
    shop_parts,
    stocked_shelf,
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
        self.search = Line()
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
        self.form = QTableWidget(0, 2)
        self.form.setAccessibleName(tr("Part as a form"))
        self.form.setHorizontalHeaderLabels([tr("Field"), tr("As its sheet has it")])
        self.form.verticalHeader().hide()
        self.form.horizontalHeader().setStretchLastSection(True)
        self.form.setColumnWidth(0, 150)
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
            "Ranges as 0.5-1.0, crimps as 0.5:1.15 ± 0.03; …, cavities as 1@-3.5,0/M; … "
            "What its sheet leaves out stays empty, and isn’t judged."
        )
        right = column(heading("Part"), note, self.form, self.said, row(new, None, keep))
        for side, margins in ((left, (0, 0, 8, 0)), (right, (8, 0, 0, 0))):
            inner = side.layout()
            if inner is not None:
                inner.setContentsMargins(*margins)
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
        shelf = self.document.shelf
        found = [
            part
            for part in shelf.parts.values()
            if (not kind or part.kind == kind)
            and all(word in f"{part.kind} {part.id} {part.name} {part.family}".lower() for word in words)
        ]
        self.model.show_parts(found)
        self.count.setText(tr("{count} of {whole} parts", count=len(found), whole=len(shelf.parts)))

    def _chosen(self, at: int) -> None:
        if 0 <= at < len(self.model.parts):
            self._fill(json.loads(to_json([self.model.parts[at]]))[0])

    def _fill(self, values: dict[str, Any]) -> None:
        """All fields of the part's kind, those that are needed first."""
        model = KINDS[values["kind"]]
        needed = [name for name, field in model.model_fields.items() if field.is_required()]
        rest = [name for name in model.model_fields if name not in (*needed, "kind")]
        cells = as_row(values)
        self.form.setRowCount(0)
        for name in ("kind", *needed, *rest):
            at = self.form.rowCount()
            self.form.insertRow(at)
            field = QTableWidgetItem(f"{name} *" if name in needed else name)
            field.setFlags(field.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.form.setItem(at, 0, field)
            self.form.setItem(at, 1, QTableWidgetItem(cells.get(name, "")))
        self.said.setText("")

    def set_field(self, name: str, text: str) -> None:
        """Writes one field of the form."""
        for field, value in self._fields():
            if field == name:
                value.setText(text)

    def _fields(self) -> Iterator[tuple[str, QTableWidgetItem]]:
        for at in range(self.form.rowCount()):
            field, value = self.form.item(at, 0), self.form.item(at, 1)
            if field is not None and value is not None:
                yield field.text().removesuffix(" *"), value

    def start_new(self) -> None:
        """A form of the chosen kind with the fields it needs."""
        kind = self.kind.currentData() or "contact"
        self._fill({"kind": kind, **STARTS.get(kind, {}), "source": "its data sheet"})

    def reading(self) -> Reading:
        """What the form says, with every fault by field."""
        said = {name: value.text().strip() for name, value in self._fields()}
        cells = {name: text for name, text in said.items() if text or name in ("kind", "id", "name")}
        return one_row(cells)

    def keep(self) -> None:
        """Takes the part into the shop's catalogue, if nothing is wrong with it."""
        self._take(self.reading, lambda fault: f"{fault.column}: {fault.message}", "", lambda _: tr("Kept"))

    def import_file(self) -> None:
        """Asks for a catalogue and takes it over."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Import a catalogue"), "", tr("Catalogue (*.json *.csv)"))
        if name:
            self.take_over(Path(name))

    def take_over(self, path: Path) -> None:
        """All parts of a file, or none and every fault."""
        self._take(
            lambda: read_catalogue(path),
            str,
            tr("{path}: nothing was taken over.\n", path=path.name),
            lambda many: tr("{parts} parts taken over", parts=many),
        )

    def _take(
        self, read: Callable[[], Reading], say: Callable[[RowFault], str], refused: str, taken: Callable[[int], str]
    ) -> None:
        """What was read goes into the shop's catalogue whole, or its faults are said."""
        try:
            reading = read()
            if reading.faults:
                more = len(reading.faults) - SHOWN_FAULTS
                told = [
                    *map(say, reading.faults[:SHOWN_FAULTS]),
                    *([tr("… and {more} more", more=more)] if more > 0 else []),
                ]
                self.said.setText(refused + "\n".join(told))
                return
            held = add_to_shop(reading.parts, self.path)
        except UmberError as why:
            self.said.setText(str(why))
            return
        self.document.restock(stocked_shelf(self.path, self.document.path)[0])
        self._find()
        self.said.setText(tr("{taken}; the shop’s catalogue holds {held}.", taken=taken(len(reading.parts)), held=held))

    def share(self) -> None:
        """Writes the shop's own parts to a file for others."""
        name, _ = QFileDialog.getSaveFileName(self, tr("Share the shop’s catalogue"), "catalogue.json", "JSON (*.json)")
        if not name:
            return
        try:
            write_whole(Path(name), to_json(shop_parts(self.path)).encode())
            self.said.setText(tr("{name} written.", name=name))
        except UmberError as why:
            self.said.setText(str(why))
