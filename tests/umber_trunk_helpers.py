"""Small hands for tests of lists and windows."""

from __future__ import annotations

import sqlite3
import sys
from collections.abc import Callable

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QLineEdit

from umber_trunk.app.widgets.table import RowsView
from umber_trunk.app.window import Window
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.reading import ListReading, read_list
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.sheets import text_book


def list_of(text: str, habit: str = "", taken: tuple[str, ...] = (), **answers: object) -> ListReading:
    """A text table read as a wire list, with these answers."""
    book = text_book(text, "list.csv")
    return read_list(book, Answers(**answers), taken, habit)  # type: ignore[arg-type]


def type_in(qtbot, line: QLineEdit, text: str) -> None:
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


def calls_of(work: Callable[[], object]) -> int:
    """Calls a piece of work makes: how it grows is seen the same on a machine that has other work to do."""
    count = 0

    def counted(*_: object) -> None:
        nonlocal count
        count += 1

    sys.setprofile(counted)
    try:
        work()
    finally:
        sys.setprofile(None)
    return count


def beside(project: ProjectFile) -> sqlite3.Connection:
    """A harness file as another program opens it: nothing of ours guards it."""
    return sqlite3.connect(project.path, isolation_level=None)
