"""Small hands for window tests."""

from __future__ import annotations

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QLineEdit

from umber_trunk.app.table import RowsView
from umber_trunk.app.window import Window


def type_in(qtbot, line: QLineEdit, text: str) -> None:  # type: ignore[no-untyped-def]
    """Types a text key by key into an emptied line."""
    line.clear()
    qtbot.keyClicks(line, text)


def press(window: Window, keys: str) -> None:
    """Triggers the command that has this shortcut; fails when none has."""
    wanted = QKeySequence(keys)
    action = next(a for a in window.actions() if isinstance(a, QAction) and wanted in a.shortcuts())
    action.trigger()


def column_of(table: RowsView, title: str) -> int:
    """Number of a column by its title."""
    return [column.title for column in table.rows_model.columns].index(title)


def cell(table: RowsView, title: str, row: int) -> str:
    """Text of a cell."""
    return str(table.rows_model.index(row, column_of(table, title)).data())
