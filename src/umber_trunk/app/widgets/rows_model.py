"""Records in rows: what each column shows, how it is corrected, why it is so."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QWidget

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.why import Derivation

Index = QModelIndex | QPersistentModelIndex
TEXTS = (int(Qt.ItemDataRole.DisplayRole), int(Qt.ItemDataRole.EditRole))
ALIGNMENT, FOREGROUND, TOOLTIP = (
    int(role)
    for role in (Qt.ItemDataRole.TextAlignmentRole, Qt.ItemDataRole.ForegroundRole, Qt.ItemDataRole.ToolTipRole)
)
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
SHOWN = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
EDITABLE = SHOWN | Qt.ItemFlag.ItemIsEditable
"""Roles and flags as plain values: a table asks for them a thousand times whenever it is painted."""
Said = tuple[str, QColor | None, Any]
"""What a cell says: its text, the colour of it, and what is drawn there."""


@dataclass(frozen=True)
class Column:
    """One column: what it shows of a record, how it is corrected, why it is so.

    `stack` are the parts of a bar, each a colour and its share of the widest bar. edit takes the record and the typed
    text and returns an edit; it raises InputError for bad text.
    """

    title: str
    text: Callable[[Any], str]
    edit: Callable[[Any, str], Edit] | None = None
    right: bool = False
    colour: Callable[[Any], QColor | None] | None = None
    why: Callable[[Any], Derivation] | None = None
    key: Callable[[Any], Any] | None = None
    swatch: Callable[[Any], tuple[str, str]] | None = None
    bar: Callable[[Any], float | None] | None = None
    stack: Callable[[Any], Sequence[tuple[QColor, float]]] | None = None
    width: int = 0


class RowsModel(QAbstractTableModel):
    """Records in rows, columns as given. `identity` gives a record's id, so that a selection survives."""

    def __init__(
        self,
        document: Document,
        columns: list[Column],
        identity: Callable[[Any], str],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.document = document
        self.columns = columns
        self.identity = identity
        self.rows: list[Any] = []
        self._ids: list[str] = []
        self._sorted: tuple[int, Qt.SortOrder] | None = None
        self._of = document.design
        """The design the rows are of: asked before they are shown anew, what is gone from it says nothing."""
        self._told: dict[tuple[int, int], Said] = {}
        self._before: dict[tuple[int, int], Said] = {}
        """What cells say, worked out once each, and what is still painted of what they said."""
        for signal in (document.changed, document.analysed, document.prepared):
            signal.connect(self.forget)

    def forget(self, *_: object) -> None:
        """What cells said may not hold any more; it is asked anew when they are painted."""
        if self._told:
            self._before |= self._told
            self._told = {}

    def told(self, row: int, column: int) -> Said:
        """What a cell says."""
        known = self._told.get((row, column))
        if known is None:
            one, record = self.columns[column], self.rows[row]
            drawn = one.bar or one.stack or one.swatch
            known = self._told[row, column] = (
                self.asked(one.text, record, ""),
                self.asked(one.colour, record, None) if one.colour else None,
                self.asked(drawn, record, None) if drawn else None,
            )
        return known

    def asked(self, of: Callable[[Any], Any], record: Any, nothing: Any) -> Any:
        """What a column says of a record; `nothing` of one that is gone from the design since the rows were shown."""
        try:
            return of(record)
        except LookupError:
            if self._of is self.document.design:
                raise
            return nothing

    def set_rows(self, rows: list[Any], seen: range) -> None:
        """Shows these records in this order, or in the order of the column sorted by; `seen` are the rows on screen."""
        self._of = self.document.design
        ids = [self.identity(row) for row in rows]
        if self._sorted is None and ids == self._ids:
            self.forget()
            self.rows = list(rows)
            self._tell_changed(seen)
            return
        self.beginResetModel()
        self.rows, self._ids = list(rows), ids
        self._order()
        self.endResetModel()

    def _tell_changed(self, seen: range) -> None:
        """Cells that say something else than what is painted, column by column: painting is what an edit takes longest
        for."""
        before, self._before = self._before, {}
        for column in range(len(self.columns)):
            rows = [row for row in seen if (row, column) in before and self.told(row, column) != before[row, column]]
            if rows:
                self.dataChanged.emit(self.index(rows[0], column), self.index(rows[-1], column))

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self._sorted = (column, order) if column >= 0 else None
        self.beginResetModel()
        self._order()
        self.endResetModel()

    def _order(self) -> None:
        self._told, self._before = {}, {}
        if self._sorted is None:
            return
        column, order = self._sorted
        key = self.columns[column].key or self.columns[column].text
        self.rows.sort(key=key, reverse=order == Qt.SortOrder.DescendingOrder)
        self._ids = [self.identity(row) for row in self.rows]

    def row_of(self, part_id: str) -> int:
        """Row of a record's id, −1 if it isn't shown."""
        return self._ids.index(part_id) if part_id in self._ids else -1

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 Qt's signature
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 Qt's signature
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return tr(self.columns[section].title)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.NoItemFlags
        editable = self.columns[index.column()].edit and not self.document.project.read_only
        return EDITABLE if editable else SHOWN

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid():
            return None
        row, at = index.row(), index.column()
        column = self.columns[at]
        if role in TEXTS:
            return self.told(row, at)[0]
        if role == ALIGNMENT:
            return RIGHT if column.right else LEFT
        if role == FOREGROUND and column.colour:
            return self.told(row, at)[1]
        if role == TOOLTIP:
            tips = [self.told(row, at)[0]]
            tips += [tr("Double-click or press F2 to correct it.")] if column.edit else []
            tips += [tr("Press F1 to see why.")] if column.why else []
            return plain_of("\n".join(tips))
        return None

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        column = self.columns[index.column()]
        if role != Qt.ItemDataRole.EditRole or column.edit is None or value == column.text(self.rows[index.row()]):
            return False
        record = self.rows[index.row()]
        try:
            edit = column.edit(record, str(value))
        except UmberError as why:
            self.document.refused.emit(str(why))
            return False
        return self.document.apply(edit, f"{column.title} {self.identity(record)}")
