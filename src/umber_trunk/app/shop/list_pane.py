"""The shop's lists, one at a time: looked at, read from a table, written as one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from umber_trunk.app.widgets.desk import button, heading, hint, row
from umber_trunk.app.widgets.plain import plain_of, tell
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.row_fault import MOST_TOLD
from umber_trunk.core.shop.lists import columns, read_table, table
from umber_trunk.core.shop.things import KINDS
from umber_trunk.store.files import write_whole
from umber_trunk.store.sheets import read_book, table_bytes
from umber_trunk.store.shop_file import ShopFile

if TYPE_CHECKING:
    from umber_trunk.app.shop.shop_look import ShopLook

TABLES = "Tables (*.csv *.xlsx *.xls *.ods)"
SHOWN = [kind for kind in KINDS if kind not in ("templates", "plans", "parts")]


class ListPane(QWidget):
    """Chooses a list and shows its rows.

    Signals: changed(): rows came in.
    """

    changed = Signal()

    def __init__(self, file: Callable[[], ShopFile], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._file = file
        self._look: ShopLook | None = None
        self.kind = QComboBox()
        self.kind.setAccessibleName(tr("List"))
        for kind in SHOWN:
            self.kind.addItem(kind.capitalize(), kind)
        self.told = hint("")
        self.table = QTableWidget()
        self.table.setAccessibleName(tr("Rows of the list"))
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setStretchLastSection(True)
        layout = QVBoxLayout(self)
        layout.addLayout(
            row(
                heading("List"),
                self.kind,
                button(
                    "Read a table…", self.read, primary=True, tip="Rows come in, each in place of the one of its name"
                ),
                button("Write it…", self.write, tip="As CSV or XLSX: mended there, it is read again"),
                None,
            )
        )
        layout.addWidget(self.told)
        layout.addWidget(self.table, 1)
        self.kind.currentIndexChanged.connect(lambda _: self.refresh())

    def show_look(self, shown: ShopLook) -> None:
        """The lists as they stand."""
        self._look = shown
        self.refresh()

    def refresh(self) -> None:
        """The chosen list."""
        if self._look is None:
            return
        kind = self.kind.currentData()
        cells = table(kind, self._look.shop.rows(kind))
        self.told.setText(
            tr(
                "{what}. {count} rows.",
                what=KINDS[kind].told[0].upper() + KINDS[kind].told[1:],
                count=len(cells) - 1,
            )
        )
        self.table.setColumnCount(len(columns(kind)))
        self.table.setHorizontalHeaderLabels([name.replace("_", " ") for name in columns(kind)])
        self.table.setRowCount(len(cells) - 1)
        for at, line in enumerate(cells[1:]):
            for column, value in enumerate(line):
                item = QTableWidgetItem("" if value is None else str(value))
                item.setToolTip(plain_of(item.text()))
                if isinstance(value, int | float):
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(at, column, item)

    def read(self) -> None:
        """Rows of a table, all of them or none."""
        name, _ = QFileDialog.getOpenFileName(self, tr("Rows from which table?"), "", TABLES)
        if name:
            self.read_from(Path(name))

    def read_from(self, path: Path) -> None:
        """Rows of a file come in, all of them or none; every fault is told."""
        kind = self.kind.currentData()
        try:
            found = read_table(kind, read_book(path).sheets[0].grid)
            if found.faults:
                many = len(found.faults) - MOST_TOLD
                more = tr("\n… and {count} more", count=many) if many > 0 else ""
                told = "\n".join(map(str, found.faults[:MOST_TOLD]))
                tell(self, tr("{path}: nothing was taken over.\n", path=path.name) + told + more)
                return
            self._file().put_told(kind, found)
        except UmberError as why:
            tell(self, str(why))
            return
        self.changed.emit()

    def write(self) -> None:
        """The list as a table."""
        kind = self.kind.currentData()
        name, _ = QFileDialog.getSaveFileName(self, tr("The list as a table"), f"{kind}.xlsx", "Tables (*.xlsx *.csv)")
        if not name or self._look is None:
            return
        rows = table(kind, self._look.shop.rows(kind))
        try:
            write_whole(Path(name), table_bytes(kind, rows, Path(name).suffix))
        except UmberError as why:
            tell(self, str(why))
