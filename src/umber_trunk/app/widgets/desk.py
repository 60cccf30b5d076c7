"""What all desks share: they follow the document, ask why, point at parts and can be pointed at."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app import theme
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.cells import PaintedCell
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.table import Column, RowsModel, RowsView


class Desk(QWidget):
    """Signals: why(Derivation), picked(table, id), said(str) for the status line."""

    why = Signal(object)
    picked = Signal(str, str)
    said = Signal(str)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.views: list[tuple[str, RowsView]] = []
        document.changed.connect(self.refresh)
        document.analysed.connect(lambda _: self.refresh())

    def refresh(self) -> None:
        """Shows the document as it is now."""
        raise NotImplementedError

    def table(self, name: str, part: str, columns: list[Column], identity: object = None) -> RowsView:
        """A table over parts of the design's table `part`, wired to this desk."""
        model = RowsModel(self.document, columns, identity or (lambda row: row.id), self)  # type: ignore[arg-type]
        view = RowsView(model)
        view.setAccessibleName(name)
        view.setItemDelegate(PaintedCell(view))
        view.why.connect(self.why)
        view.current.connect(lambda part_id: self.picked.emit(part, part_id))
        view.fit_columns()
        self.views.append((part, view))
        return view

    def side_by_side(self, left: QWidget, right: QWidget, widths: tuple[int, int]) -> None:
        """Fills the desk with two parts and a bar between them to drag."""
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(left)
        splitter.addWidget(right)
        splitter.setSizes(list(widths))
        splitter.setChildrenCollapsible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.addWidget(splitter)

    def reveal(self, part: str, part_id: str) -> bool:
        """Chooses a part in whichever table of this desk has it."""
        return any(view.choose(part_id) for table, view in self.views if table == part)

    def ask_why(self) -> bool:
        """Asks about the current cell of the table in use, else of the first with an answer."""
        ordered = sorted(
            (view for _, view in self.views if view.isVisible()),
            key=lambda view: not view.hasFocus(),
        )
        return any(view.ask_why() for view in ordered)


def heading(text: str) -> Label:
    """A desk's or panel's heading."""
    label = Label(text)
    label.setProperty("role", "heading")
    return label


def hint(text: str) -> Label:
    """Quiet text that says what to do."""
    label = Label(text)
    label.setProperty("role", "hint")
    label.setWordWrap(True)
    return label


def row(*widgets: QWidget | None) -> QHBoxLayout:
    """Widgets side by side; None is a stretch."""
    layout = QHBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    for widget in widgets:
        if widget is None:
            layout.addStretch()
        else:
            layout.addWidget(widget)
    return layout


def column(*items: QWidget | QHBoxLayout) -> QWidget:
    """Items one under another."""
    box = QWidget()
    layout = QVBoxLayout(box)
    layout.setContentsMargins(0, 0, 0, 0)
    for item in items:
        if isinstance(item, QWidget):
            layout.addWidget(item)
        else:
            layout.addLayout(item)
    return box


def tabbed(parent: QWidget, pages: Sequence[tuple[str, QWidget]]) -> tuple[QHBoxLayout, QStackedWidget]:
    """A line of named tabs and the pages they bring up."""
    stack, group = QStackedWidget(), QButtonGroup(parent)
    tabs: list[QPushButton] = []
    for name, page in pages:
        stack.addWidget(page)
        tab = QPushButton(name)
        tab.setCheckable(True)
        tab.setChecked(not tabs)
        tab.setStyleSheet(f"QPushButton:checked {{ background: {theme.UMBER.name()}; color: {theme.CHALK.name()}; }}")
        tab.clicked.connect(lambda _=False, page=page: stack.setCurrentWidget(page))
        group.addButton(tab)
        tabs.append(tab)
    return row(*tabs, None), stack


def button(text: str, act: object, primary: bool = False, tip: str = "") -> QPushButton:
    """A button that says what it does."""
    made = QPushButton(text)
    made.setProperty("primary", primary)
    made.setToolTip(plain_of(tip))
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.clicked.connect(lambda: act())  # type: ignore[operator]
    return made
