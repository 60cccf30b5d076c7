"""The list that is brought in, as it stands: what each column is taken for at its head, each open question above the
first row it touches, each fault in its cell."""

from __future__ import annotations

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QComboBox, QDialog, QTableWidget, QTableWidgetItem, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import row
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.store.listing.doubts import UNITS, Answers, Doubt
from umber_trunk.store.listing.reading import ListReading
from umber_trunk.store.listing.titles import column_letter
from umber_trunk.store.listing.words import FIELDS, field_said
from umber_trunk.store.sheets import Book, Sheet

PREVIEW_ROWS = 60
HEADS = 2  # rows of choices above the list's own
ROWS_A_QUESTION = 30  # that are shown though they stand further down


class ListPreview(QDialog):
    """The rows of a list, with what is asked of them in its place."""

    book: Book
    answers: Answers
    reading: ListReading
    preview: QTableWidget
    asking: dict[str, QComboBox]

    def say_column(self, at: int, name: str) -> None:
        """A column holds this; "" for nothing."""
        raise NotImplementedError

    def say_unit(self, name: str, unit: str) -> None:
        """Bare figures of a field have this unit; "" takes that back."""
        raise NotImplementedError

    def answered(self, doubt_id: str, key: str) -> None:
        """One of the open questions is answered."""
        raise NotImplementedError

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
            [tr("holds"), tr("unit"), *("?" if isinstance(row, Doubt) else str(row + 1) for row in lines)]
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
        box.addItem(tr("answer …"), "")
        for option in sorted(doubt.options, key=lambda one: one.key != doubt.likeliest):
            box.addItem(option.words + (tr("   (likeliest)") if option.key == doubt.likeliest else ""), option.key)
        box.setMinimumContentsLength(30)
        box.setFixedWidth(round(330 * theme.text_scale()))  # first, where the narrowest window shows it
        box.setAccessibleName(doubt.question)
        box.activated.connect(lambda _: self.answered(doubt.id, str(box.currentData())) if box.currentData() else None)
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
        box.addItem(tr("not used"), "")
        for name in FIELDS:
            box.addItem(str(field_said(name)), name)
        box.setCurrentIndex(box.findData(now))
        box.setAccessibleName(tr("What column {at} holds", at=column_letter(at)))
        box.activated.connect(lambda _: self.say_column(at, str(box.currentData())))
        return box

    def _unit_box(self, name: str) -> QComboBox:
        """At a column's head: the unit of its bare figures."""
        box = QComboBox()
        layout = self.reading.sheets[0].layout
        note = self.answers.units.get(name) or layout.notes.get(name, "")
        box.addItem(tr("as written") if not note else tr("as the title says"), "")
        for unit in UNITS[name]:
            box.addItem({"mm2": "mm²", "awg": "AWG"}.get(unit, unit), unit)
        box.setCurrentIndex(
            max(0, box.findData({"mm²": "mm2", "feet": "ft", "inch": "in", "inches": "in"}.get(note, note)))
        )
        box.setAccessibleName(tr("Unit of the {fields}", fields=field_said(name)))
        box.activated.connect(lambda _: self.say_unit(name, str(box.currentData())))
        return box
