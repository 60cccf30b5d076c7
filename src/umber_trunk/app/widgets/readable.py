"""A drawn pane for those who hear it: each part of it with role, name and state, where it is drawn."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QAccessible, QMouseEvent, QPaintEvent
from PySide6.QtWidgets import QApplication, QPushButton, QWidget

from umber_trunk.app.widgets.plain import Label

MOST_PARTS = 400
"""Parts of one pane that are told: who listens goes through them one by one."""
Part = tuple[QRectF, str, str]
"""Where a part is drawn, its name, its state."""


class _Words(Label):
    """A part that is only read: its role is that of a text."""


class _Pressed(QPushButton):
    """A part that can be chosen: its role is that of a button, and whoever presses it there clicks on the pane. It
    paints nothing."""

    def paintEvent(self, _: QPaintEvent) -> None:
        pass


class PartsForReaders:
    """Transparent children of a pane, one for each part; sight and mouse pass through. `pressed`: whether a click on a
    part does something."""

    def __init__(self, canvas: QWidget, pressed: bool) -> None:
        self.canvas, self.pressed = canvas, pressed
        self.parts: list[QWidget] = []

    def _made(self) -> QWidget:
        part: QWidget
        if self.pressed:
            part = button = _Pressed(self.canvas)
            button.clicked.connect(lambda: self._click(button))
        else:
            part = _Words("", self.canvas)
        part.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        part.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        return part

    def _click(self, part: QWidget) -> None:
        """What a click with the mouse on that place does."""
        at = QPointF(part.geometry().center())
        left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        for kind, held in (
            (QEvent.Type.MouseButtonPress, left),
            (QEvent.Type.MouseButtonRelease, Qt.MouseButton.NoButton),
        ):
            QApplication.sendEvent(self.canvas, QMouseEvent(kind, at, self.canvas.mapToGlobal(at), left, held, none))

    def show_parts(self, told: Iterable[Part]) -> None:
        """Names, states and places as the pane is now."""
        rows = list(told)[:MOST_PARTS]
        for number, (box, name, state) in enumerate(rows):
            if number == len(self.parts):
                self.parts.append(self._made())
            part = self.parts[number]
            part.setAccessibleName(name)
            part.setAccessibleDescription(state)
            part.setGeometry(box.toAlignedRect())
            part.show()
        for part in self.parts[len(rows) :]:
            part.hide()


class DrawnPane(QWidget):
    """A pane that is painted, whose parts a screen reader finds. A subclass names them in `parts_told`, and calls
    `heard` once it painted."""

    def __init__(self) -> None:
        super().__init__()
        self._readers: PartsForReaders | None = None

    def parts_told(self) -> Iterable[Part]:
        """Every part as it was painted last."""
        raise NotImplementedError

    def heard(self) -> None:
        """Has the parts told where somebody listens: in a turn of its own, since it makes widgets."""
        if QAccessible.isActive():
            QTimer.singleShot(0, self, self.tell_readers)

    def tell_readers(self) -> None:
        """Brings what a screen reader finds up to date."""
        self._readers = self._readers or PartsForReaders(
            self, type(self).mousePressEvent is not QWidget.mousePressEvent
        )
        self._readers.show_parts(self.parts_told())
