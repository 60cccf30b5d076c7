"""A table over records: columns are data, edits go through the document, any cell may be asked why."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from PySide6.QtCore import QModelIndex, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QWidget

from umber_trunk.app import theme
from umber_trunk.app.typed_wire import is_typed_at
from umber_trunk.app.widgets.rows_model import RowsModel
from umber_trunk.app.widgets.words import tr

HOLDS = ("?", "+", "-", "−")  # keys of the window and its desks, not of the table
SAMPLE, FEWER = 60, 16
"""Rows looked at for the width of columns: the first time from all over, after an edit those on screen, at most so
many."""
SWATCH = 34.0
WIDEST = 340.0


class RowsView(QTableView):
    """Signals: why(Derivation) when a cell is asked; current(str) with the record's id."""

    why = Signal(object)
    current = Signal(str)

    def __init__(self, model: RowsModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows_model = model
        self._natural: list[float] = []
        self._least: list[float] = []
        self._waits = False
        self._catch_up = QTimer(self, singleShot=True, interval=0)
        self._catch_up.timeout.connect(self.restyle)
        self.setModel(model)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setWordWrap(False)
        self.setMinimumHeight(110)  # a head and three rows
        self.setTabKeyNavigation(False)  # Tab goes on to what comes after the list; arrows go from cell to cell
        self.setTabKeyNavigation(False)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setSectionsClickable(True)
        header.sectionClicked.connect(self._sort)
        self._by: tuple[int, bool] | None = None
        self.selectionModel().currentRowChanged.connect(self._moved)

    def show_rows(self, rows: list[Any]) -> None:
        """Fills the table and keeps the chosen record."""
        chosen, known = self.chosen_id(), len(self.rows_model.rows)
        last = self.rowAt(self.viewport().height() - 1)
        self.rows_model.set_rows(rows, range(max(self.rowAt(0), 0), last + 1 if last >= 0 else known))
        self.fit_columns(anew=not known, more=range(len(rows))[: max(last + 1, FEWER)][-FEWER:])
        if chosen:
            self.choose(chosen, quiet=True)

    def fit_columns(self, anew: bool = True, more: range = range(0)) -> None:
        """Columns as wide as their text. Not `anew`, they only grow, by what these rows want."""
        model = self.rows_model
        if not model.columns:
            return
        anew |= not self._natural
        if anew:
            self._natural, self._least = [0.0] * len(model.columns), [0.0] * len(model.columns)
        scale = theme.text_scale()
        rows = range(0, len(model.rows), -(-len(model.rows) // SAMPLE) or 1) if anew else more
        for number, column in enumerate(model.columns):
            title = advance(tr(column.title), scale, bold=True) + 16 * scale
            wide = max(
                title,
                column.width * scale if column.bar else text_width(model, number, rows, WIDEST * scale) + 20 * scale,
            )
            self._natural[number] = max(self._natural[number], wide)
            soft = column.bar is not None or not column.right
            small = max(title, min(wide, (84.0 if column.bar else 76.0) * scale)) if soft else wide
            self._least[number] = max(self._least[number], small)
        self._spread()

    def _spread(self) -> None:
        """Columns together as wide as the table. What is too much is taken from bars and words, what is left goes to
        the column that asks for it, else to the last of words."""
        model, least = self.rows_model, self._least
        last = len(model.columns) - 1
        fill = next((at for at, one in enumerate(model.columns) if one.width < 0), None)
        if fill is None:  # figures stay by each other
            fill = next((at for at in range(last, -1, -1) if not model.columns[at].right), last)
        widths = list(self._natural)
        over = sum(widths) - self.viewport().width()
        spare = sum(wide - small for wide, small in zip(widths, least, strict=True))
        if over > 0:
            share = min(over / spare, 1.0) if spare > 0 else 0.0
            widths = [wide - share * (wide - small) for wide, small in zip(widths, least, strict=True)]
        else:
            widths[fill] -= over
        whole = [int(wide) for wide in widths]
        whole[fill] += max(self.viewport().width() - sum(whole), 0) if over <= 0 or spare >= over else 0
        for number, wide in enumerate(whole):
            self.setColumnWidth(number, wide)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if not self.isVisible():
            self._waits = True
            return
        if self._natural:
            self._spread()
        else:
            self.fit_columns()
        self._whole_rows()

    def _whole_rows(self) -> None:
        """Rows a little higher or lower, so that the last one in view isn't cut."""
        ideal, room = QFontMetricsF(theme.font()).height() * 1.55, self.viewport().height()
        heights = range(int(ideal * 0.9), int(ideal * 1.16) + 1)
        high = min(heights, key=lambda one: (room % one, abs(one - ideal))) if room > ideal else int(ideal)
        self.verticalHeader().setDefaultSectionSize(high)

    def restyle(self) -> None:
        """Another text size. Rows of a hidden table may be of parts that are gone by now: it waits until it is shown
        and has caught up."""
        if not self.isVisible():
            self._waits = True
            return
        self._waits = False
        self.rows_model.forget()
        self.fit_columns()
        self._whole_rows()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._waits:
            self._catch_up.start()

    def chosen_id(self) -> str:
        """Id of the current record, or ""."""
        index = self.currentIndex()
        rows = self.rows_model.rows
        return self.rows_model.identity(rows[index.row()]) if index.isValid() and index.row() < len(rows) else ""

    def chosen_ids(self) -> list[str]:
        """Ids of all selected records."""
        rows = sorted({index.row() for index in self.selectionModel().selectedRows()})
        return [self.rows_model.identity(self.rows_model.rows[row]) for row in rows]

    def choose(self, part_id: str, quiet: bool = False) -> bool:
        """Makes a record current and scrolls to it; False if it isn't here."""
        row = self.rows_model.row_of(part_id)
        if row < 0:
            return False
        now = self.currentIndex()
        if quiet and now.isValid() and now.row() == row:
            return True
        if quiet:
            self.selectionModel().blockSignals(True)
        self.setCurrentIndex(self.rows_model.index(row, max(now.column(), 0)))
        self.selectionModel().blockSignals(False)
        self.scrollTo(self.currentIndex())
        self.viewport().update()
        return True

    def ask_why(self) -> bool:
        """Asks about the current cell, or the first in its row that knows an answer."""
        index = self.currentIndex()
        if not index.isValid():
            return False
        record = self.rows_model.rows[index.row()]
        columns = [self.rows_model.columns[index.column()], *self.rows_model.columns]
        asked = next((column.why for column in columns if column.why), None)
        if asked is None:
            return False
        self.why.emit(asked(record))
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        plain = not event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if plain and (event.text().isalnum() or event.text() in HOLDS or (enter and is_typed_at(self))):
            event.ignore()  # a wire's number, typed or scanned, or the key list: the window takes it
        elif enter and self.state() != QAbstractItemView.State.EditingState:
            self.edit(self.currentIndex())
        else:
            super().keyPressEvent(event)

    def _moved(self, now: QModelIndex, _: QModelIndex) -> None:
        if now.isValid():
            self.current.emit(self.rows_model.identity(self.rows_model.rows[now.row()]))

    def _sort(self, section: int) -> None:
        """Up, down, then back to worst first."""
        down = self._by is not None and self._by[0] == section
        if down and self._by and self._by[1]:
            self._by = None
            self.rows_model.sort(-1)
            self.horizontalHeader().setSortIndicatorShown(False)
            return
        self._by = (section, down)
        order = Qt.SortOrder.DescendingOrder if down else Qt.SortOrder.AscendingOrder
        self.horizontalHeader().setSortIndicatorShown(True)
        self.horizontalHeader().setSortIndicator(section, order)
        self.rows_model.sort(section, order)


@lru_cache(20_000)
def advance(text: str, _scale: float, bold: bool = False) -> float:
    """How wide a text is in the table's face at the text size of now, which the scale stands for."""
    return QFontMetricsF(theme.font(bold=bold)).horizontalAdvance(text)


def text_width(model: RowsModel, column: int, rows: range, most: float) -> float:
    """Width of the widest text of a column, colour and its swatch counted, at most `most`."""
    scale = theme.text_scale()
    if model.columns[column].swatch is not None:
        words = ["/".join(filter(None, model.told(row, column)[2] or ())) for row in rows]
        return SWATCH + max((advance(word, scale) for word in words), default=0.0)
    return min(max((advance(model.told(row, column)[0], scale) for row in rows), default=0.0), most)
