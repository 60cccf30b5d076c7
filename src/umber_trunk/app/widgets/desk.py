"""What all desks share: they follow the document, ask why, point at parts and can be pointed at."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.document import Document
from umber_trunk.app.taking import Taking
from umber_trunk.app.widgets.cells import PaintedCell
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.plain import Label, plain_of
from umber_trunk.app.widgets.rows_model import Column, RowsModel
from umber_trunk.app.widgets.table import RowsView
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.remove import remove


class Desk(QWidget):
    """What a stage's desk is made of. While it is hidden it follows nothing; it catches up when it is shown.

    Signals: why(Derivation); picked(table, id); said(str) for the status line; looked_at(Figures) when the picture is
    to show one case; painted(str), another of the stage's paintings, "" for its own; wants_export(kind);
    wants_papers(kind); boarded(bool): the board in place of the trunk, or back.
    """

    why = Signal(object)
    picked = Signal(str, str)
    said = Signal(str)
    looked_at = Signal(object)
    painted = Signal(str)
    wants_export = Signal(str)
    wants_papers = Signal(str)
    boarded = Signal(bool)
    wants_part = Signal(str, str)
    lit = Signal(object)
    reads_log = False
    """Whether it shows what other desks log: it then looks again each time it is shown."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.views: list[tuple[str, RowsView]] = []
        self._behind = True
        self.taking = Taking(document, self)
        self.taking.said.connect(self.said)
        document.changed.connect(self._follow)
        document.analysed.connect(self._follow)
        document.prepared.connect(self._follow)

    def _follow(self, _: object = None) -> None:
        self._behind = True
        if self.isVisible():
            self.catch_up()

    def catch_up(self) -> None:
        """Shows the document as it is now, if that isn't shown yet."""
        if self._behind:
            self._behind = False
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        self._behind |= self.reads_log
        self.catch_up()
        super().showEvent(event)

    def heightForWidth(self, width: int) -> int:
        """The least height: what holds the desk scrolls it only where that isn't there."""
        layout = self.layout()
        return layout.minimumHeightForWidth(width) if layout is not None and layout.hasHeightForWidth() else -1

    def refresh(self) -> None:
        """Shows the document as it is now."""
        raise NotImplementedError

    def remove_rows(self, table: str, view: RowsView) -> None:
        """Takes the chosen rows of a table out of the harness, with what can't be without them, as one edit."""
        chosen = view.chosen_ids() or [one for one in (view.chosen_id(),) if one]
        if not chosen:
            self.said.emit(tr("Choose a row first."))
            return
        some = ", ".join(chosen[:3]) + (" …" if len(chosen) > 3 else "")
        if self.document.apply(
            lambda design: reduce(lambda now, one: remove(now, table, one), chosen, design), f"remove {some}"
        ):
            self.said.emit(tr("{some} removed. Ctrl+Z brings it back, and what went along.", some=some))

    def begin(self) -> None:
        """Puts the keyboard where work on this desk begins."""
        if self.views:
            self.views[0][1].setFocus()

    def close_background(self) -> None:
        """Forgets work under way for this desk alone."""
        self.taking.drop()

    @property
    def on_board(self) -> bool:
        """Whether the board stands in place of the trunk while this desk is shown."""
        return False

    @property
    def busy(self) -> bool:
        """Whether such work is under way."""
        return self.taking.busy

    def table(self, name: str, part: str, columns: list[Column], identity: object = None) -> RowsView:
        """A table over parts of the design's table `part`, wired to this desk."""
        model = RowsModel(self.document, columns, identity or (lambda row: row.id), self)  # type: ignore[arg-type]
        view = RowsView(model)
        view.setAccessibleName(tr(name))
        painted = PaintedCell(view)
        for number, one in enumerate(columns):
            if (
                one.bar is not None or one.swatch is not None or one.stack is not None
            ):  # all other cells are painted by Qt alone
                view.setItemDelegateForColumn(number, painted)
        view.why.connect(self.why)
        view.current.connect(lambda part_id: self.picked.emit(part, part_id))
        self.views.append((part, view))
        return view

    def side_by_side(
        self, left: QWidget, right: QWidget, widths: tuple[int, int], above: QWidget | None = None
    ) -> None:
        """Fills the desk with two parts and a bar between them to drag, below what stands above both."""
        splitter = QSplitter(Qt.Orientation.Horizontal)
        for widget, margins in ((left, (0, 0, 8, 0)), (right, (8, 0, 0, 0))):
            layout = widget.layout()
            if layout is not None:
                layout.setContentsMargins(*margins)
            splitter.addWidget(scrolling(widget))
        splitter.setSizes(list(widths))
        splitter.setChildrenCollapsible(False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 8, 12, 8)
        if above is not None:
            whole.addWidget(above)
        whole.addWidget(splitter, 1)

    def reveal(self, part: str, part_id: str) -> bool:
        """Chooses a part in whichever table of this desk has it."""
        self.catch_up()
        return any(view.choose(part_id) for table, view in self.views if table == part)

    def in_view(self, part: str) -> bool:
        """Whether a table of these parts is on screen."""
        return any(table == part and view.isVisible() for table, view in self.views)

    def ask_why(self) -> bool:
        """Asks about the current cell of the table in use, else of the first with an answer."""
        ordered = sorted(
            (view for _, view in self.views if view.isVisible()),
            key=lambda view: not view.hasFocus(),
        )
        return any(view.ask_why() for view in ordered)


class TabbedDesk(Desk):
    """A desk of panels behind tabs; `tabs`, `stack` and `panels` are set while it is made. Only the panel on top is
    kept up."""

    tabs: list[QPushButton]
    stack: QStackedWidget
    panels: tuple[Panel, ...]

    def tab(self, number: int) -> None:
        """Brings a tab up."""
        self.tabs[number].click()

    def show_panel(self) -> None:
        """Shows the panel on top as it is now."""
        shown = self.stack.currentWidget()
        for panel in self.panels:
            if panel is shown:
                panel.show_now()


class Panel(QWidget):
    """A tab that works on the desk's document; one that can do without stands on a sheet too, where `desk` isn't
    set."""

    desk: Desk

    def __init__(self, desk: Desk | None) -> None:
        super().__init__()
        if desk is not None:
            self.desk = desk
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)

    def show_now(self) -> None:
        """Shows the document as it is now."""
        raise NotImplementedError


class EndPanel(QWidget):
    """A tab about one end. It is filled while it is seen, and catches up when it comes into sight: what nobody looks at
    takes no time."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.end_id = desk, ""
        self._behind = False

    def show_end(self, end_id: str) -> None:
        """Another end, or the same after an edit."""
        self.end_id, self._behind = end_id, True
        if self.isVisible():
            self._catch_up()

    def _catch_up(self) -> None:
        if self._behind and self.end_id in index_of(self.desk.document.design).ends:
            self._behind = False
            self.fill(self.end_id)

    def showEvent(self, event: QShowEvent) -> None:
        self._catch_up()
        super().showEvent(event)

    def fill(self, end_id: str) -> None:
        """Shows an end of the design as it is now."""
        raise NotImplementedError


def scrolling(widget: QWidget) -> QScrollArea:
    """A frame in which a widget scrolls where text is large and the window small, so that nothing is cut off below."""
    frame = QScrollArea()
    frame.setWidgetResizable(True)
    frame.setFrameShape(QScrollArea.Shape.NoFrame)
    frame.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    frame.setProperty("role", "clear")
    frame.setWidget(widget)
    return frame


def heading(text: str) -> Label:
    """A desk's or panel's heading."""
    label = Label(tr(text))
    label.setProperty("role", "heading")
    return label


def hint(text: str) -> Label:
    """Quiet text that says what to do."""
    label = Label(tr(text))
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


def beside(words: QWidget, *buttons: QWidget) -> QHBoxLayout:
    """Words that take the room there is, and buttons no wider than they need."""
    layout = row(words, *buttons)
    layout.setStretch(0, 1)
    for one in buttons:
        one.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    return layout


def column(*items: QWidget | QLayout) -> QWidget:
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


class Pages(QStackedWidget):
    """Pages of which only the one on top asks for room: a tall one elsewhere makes none scroll."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.currentChanged.connect(lambda _: self.updateGeometry())

    def sizeHint(self) -> QSize:
        return QSize(super().sizeHint().width(), self.minimumSizeHint().height())

    def hasHeightForWidth(self) -> bool:
        return False

    def minimumSizeHint(self) -> QSize:
        """That of the page on top, lines of buttons that go on in another line counted at this width."""
        shown = self.currentWidget()
        if shown is None:
            return super().minimumSizeHint()
        least, layout = shown.minimumSizeHint(), shown.layout()
        if layout is not None and layout.hasHeightForWidth():
            least.setHeight(max(least.height(), layout.minimumHeightForWidth(self.width())))
        return least

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.size().width() != event.oldSize().width():
            self.updateGeometry()


def tabbed(
    parent: QWidget, pages: Sequence[tuple[str, QWidget]], *beside: QWidget | None
) -> tuple[list[QPushButton], Flow, QStackedWidget]:
    """Named tabs, their line with what stands `beside` them, and the pages they bring up."""
    stack, group = Pages(), QButtonGroup(parent)
    tabs: list[QPushButton] = []
    for name, page in pages:
        stack.addWidget(page)
        tab = QPushButton(tr(name))
        tab.setCheckable(True)
        tab.setChecked(not tabs)
        tab.setProperty("role", "tab")
        tab.clicked.connect(lambda _=False, page=page: stack.setCurrentWidget(page))
        group.addButton(tab)
        tabs.append(tab)
    return tabs, Flow(*tabs, *beside), stack


def button(text: str, act: object, primary: bool = False, tip: str = "") -> QPushButton:
    """A button that says what it does."""
    made = QPushButton(tr(text))
    made.setProperty("primary", primary)
    made.setToolTip(plain_of(tr(tip)))
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.clicked.connect(lambda: act())  # type: ignore[operator]
    return made
