"""Sheets on what is kept: the revisions of a harness, and the copies kept by day of every harness."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Signal
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHeaderView,
    QPushButton,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.desk import button, heading, hint, row
from umber_trunk.app.widgets.plain import Label, tell
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.store.copies import KEEP_DAYS, Copy, all_copies, copies_folder
from umber_trunk.store.history import Revision, depth_told
from umber_trunk.store.project import ProjectFile

MOST_SHOWN = 6000


class _WholeRow(QStyledItemDelegate):
    """The chosen row is marked whole: no box round one of its cells, which would look like a button."""

    def initStyleOption(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        super().initStyleOption(option, index)
        option.state &= ~QStyle.StateFlag.State_HasFocus


def _table(columns: list[str], wide: int) -> QTableWidget:
    made = QTableWidget(0, len(columns))
    made.setHorizontalHeaderLabels(columns)
    made.verticalHeader().hide()
    made.setItemDelegate(_WholeRow(made))
    made.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    made.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    made.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
    made.horizontalHeader().setResizeContentsPrecision(40)  # the rows in sight tell enough
    for at in range(len(columns)):
        how = QHeaderView.ResizeMode.Stretch if at == wide else QHeaderView.ResizeMode.ResizeToContents
        made.horizontalHeader().setSectionResizeMode(at, how)
    return made


def _fill(table: QTableWidget, rows: list[tuple[str, ...]]) -> None:
    table.setRowCount(len(rows))
    for at, cells in enumerate(rows):
        for column, text in enumerate(cells):
            table.setItem(at, column, QTableWidgetItem(text))


def _when(seconds: int) -> str:
    return f"{datetime.fromtimestamp(seconds):%d %b %Y  %H:%M}" if seconds else ""


class RevisionsSheet(QDialog):
    """Every kept revision, newest first: the line that led here, and what undo left behind. Any can be gone to; one can
    be frozen, so that units can be built to it."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.rows: list[Revision] = []
        self.setWindowTitle(tr("Revisions"))
        self.resize(860, 560)
        self.told = Label()
        self.told.setWordWrap(True)
        self.table = _table(["", tr("No."), tr("Edit"), tr("Made"), tr("From"), tr("Frozen as")], 2)
        self.table.itemSelectionChanged.connect(self._chosen)
        self.table.doubleClicked.connect(lambda _: self.go())
        self.go_button = button("Go to this one", self.go, primary=True)
        self.freeze_button = button("Freeze it…", self.freeze)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Revisions of this harness"))
        layout.addWidget(self.told)
        layout.addWidget(self.table)
        layout.addLayout(row(self.freeze_button, None, button("Close", self.reject), self.go_button))
        document.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows the history as it is now."""
        project = self.document.project
        try:
            self.rows = project.revisions()[::-1][:MOST_SHOWN]
        except UmberError as why:
            self.told.setText(str(why))
            return
        self.told.setText(
            tr("{undo_steps} What undo left behind can still be gone to.", undo_steps=depth_told(project.undo_steps))
        )
        _fill(
            self.table,
            [
                (
                    "▶ now" if one.seq == project.head else "" if one.on_line else "left",
                    f"{one.seq}",
                    one.label,
                    _when(one.made),
                    "" if one.parent is None else f"{one.parent}",
                    f"❄ {one.frozen}" if one.frozen else "",
                )
                for one in self.rows
            ],
        )
        for at, one in enumerate(self.rows):
            if not one.on_line:
                for column in range(self.table.columnCount()):
                    item = self.table.item(at, column)
                    if item is not None:
                        item.setForeground(theme.INK_SOFT)
            if one.seq == project.head:
                self.table.selectRow(at)
        self._chosen()

    def chosen(self) -> Revision | None:
        """The revision chosen in the table."""
        at = self.table.currentRow()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    def _chosen(self) -> None:
        one, project = self.chosen(), self.document.project
        self.go_button.setEnabled(one is not None and one.seq != project.head and not project.read_only)
        self.freeze_button.setEnabled(one is not None and not one.frozen and not project.read_only)

    def go(self) -> None:
        """Makes the chosen revision the one shown."""
        one = self.chosen()
        if one is not None and self.go_button.isEnabled():
            self.document.go_to(one.seq)

    def freeze(self) -> None:
        """Asks what it is built as, and keeps it for good."""
        one = self.chosen()
        if one is None:
            return
        name, said = text_asked(
            self, tr("Freeze a revision"), tr("Revision {seq} is built as:", seq=one.seq), text="rev A"
        )
        if said:
            try:
                self.document.project.freeze(one.seq, name)
            except UmberError as why:
                tell(self, str(why))
            self.refresh()


class CopiesSheet(QDialog):
    """The copies kept by day. Signals: restored(Path), a new harness file made of one."""

    restored = Signal(object)

    def __init__(self, first: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Copies kept by day"))
        self.resize(760, 460)
        copies = all_copies()
        self.copies: list[Copy] = sorted(copies, key=lambda copy: copy.name != first)
        total = sum(copy.size for copy in copies)
        told = Label(
            tr(
                "The last of each day is kept for {keep_days} days, {count} {count|copy|copies} of {total:.2f} "
                "MB in all, in {copies_folder}",
                keep_days=KEEP_DAYS,
                count=len(copies),
                total=total / 1000000.0,
                copies_folder=copies_folder(),
            )
        )
        told.setWordWrap(True)
        self.table = _table([tr("Harness"), tr("Day"), tr("Size")], 0)
        _fill(self.table, [(c.name, f"{c.day:%A %d %b %Y}", f"{c.size / 1e6:.2f} MB") for c in self.copies])
        self.table.doubleClicked.connect(lambda _: self.restore())
        restore = QPushButton(tr("Restore as a new file…"))
        restore.setProperty("primary", True)
        restore.clicked.connect(self.restore)
        restore.setEnabled(bool(copies))
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Copies kept by day"))
        layout.addWidget(told)
        if not copies:
            layout.addWidget(hint("None yet. A copy is made at the first edit of a day and when a harness is closed."))
        layout.addWidget(self.table)
        layout.addLayout(
            row(hint("Restoring makes a new file; no other is touched."), None, button("Close", self.reject), restore)
        )
        if copies:
            self.table.selectRow(0)

    def restore(self) -> None:
        """Asks for a name and makes a new harness file of the chosen copy."""
        at = self.table.currentRow()
        if not 0 <= at < len(self.copies):
            return
        copy = self.copies[at]
        name, _ = QFileDialog.getSaveFileName(
            self,
            tr("Restore as a new harness"),
            f"{copy.name} of {copy.day}.umber",
            "Harness (*.umber)",
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if name:
            self.restore_to(copy, Path(name if name.endswith(".umber") else f"{name}.umber"))

    def restore_to(self, copy: Copy, path: Path) -> None:
        """Makes the file and asks for it to be opened; says why it can't be."""
        try:
            ProjectFile.restored(copy.path, path).close()
        except UmberError as why:
            tell(self, str(why))
            return
        self.accept()
        self.restored.emit(path)
