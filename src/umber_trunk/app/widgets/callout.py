"""What was refused, said where the hands are: under the cell, field or button it is about, until something else is
done."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, Qt, QTimer
from PySide6.QtGui import QHideEvent, QMouseEvent
from PySide6.QtWidgets import QAbstractItemView, QApplication, QFrame, QHBoxLayout, QMainWindow, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr

STAYS_MS = 15_000
WIDEST = 460


class Callout(QFrame):
    """A note over a window. A key that does something, a click, an edit that is taken or some seconds let it go."""

    def __init__(self, window: QMainWindow) -> None:
        super().__init__(window)
        self._window = window
        self.label = Label()
        self.label.setWordWrap(True)
        self.label.setAccessibleName(tr("Refused"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 7, 10, 7)
        layout.addWidget(self.label)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._gone = QTimer(self, singleShot=True, interval=STAYS_MS)
        self._gone.timeout.connect(self.hide)
        self.hide()

    def show_text(self, text: str) -> None:
        """Says it under whatever has the keyboard, wholly inside of the window."""
        place = _place(self._window)
        if place is None:
            self.hide()  # nothing has the keyboard here: the line at the bottom says it
            return
        self.setStyleSheet(
            f"Callout {{ background: {theme.BROKEN_PALE.name()}; border: 1px solid {theme.BROKEN.name()}; "
            f"border-radius: 4px; }}"
            f"Callout QLabel {{ color: {theme.INK.name()}; }}"
        )
        self.label.setText(f"✕ {text}")
        wide = min(WIDEST, self._window.width() - 40)
        self.label.setFixedWidth(min(wide, self.label.fontMetrics().horizontalAdvance(self.label.text()) + 4))
        self.adjustSize()
        below = place.bottom() + 6 + self.height() <= self._window.height() - 4
        top = place.bottom() + 6 if below else max(place.top() - 6 - self.height(), 4)
        left = min(max(place.left(), 8), max(self._window.width() - self.width() - 8, 8))
        self.move(left, top)
        self.show()
        self.raise_()
        self._gone.start()
        app = QApplication.instance()
        if app is not None:
            app.installEventFilter(self)

    def hideEvent(self, event: QHideEvent) -> None:
        self._gone.stop()
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
        super().hideEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() in (QEvent.Type.KeyPress, QEvent.Type.MouseButtonPress)
            and isinstance(watched, QWidget)
            and watched.window() is self._window
        ):
            self.hide()
        return False


def _place(window: QMainWindow) -> QRect | None:
    """Where in the window the keyboard is: the current cell of a list, else the whole of what has it; None where
    nothing small has."""
    here = window.focusWidget()
    if here is None or not here.isVisible():
        return None
    view = here if isinstance(here, QAbstractItemView) else here.parent()
    while view is not None and not isinstance(view, QAbstractItemView):
        view = view.parent()
    if isinstance(view, QAbstractItemView):
        cell = view.visualRect(view.currentIndex())
        port = view.viewport()
        if cell.isEmpty() or not port.rect().intersects(cell):
            return None
        return QRect(port.mapTo(window, cell.topLeft()), cell.size())
    if here.height() > window.height() // 3:
        return None
    return QRect(here.mapTo(window, QPoint(0, 0)), here.size())
