"""A drawn pane for those who hear it: each part of it with name and state, where it is drawn."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QWidget

MOST_PARTS = 400
"""Parts of one pane that are told: who listens goes through them one by one."""
Part = tuple[QRectF, str, str]
"""Where a part is drawn, its name, its state."""


class PartsForReaders:
    """Transparent children of a pane, one for each part; sight and mouse pass through."""

    def __init__(self, canvas: QWidget) -> None:
        self.canvas = canvas
        self.parts: list[QWidget] = []

    def show_parts(self, told: Iterable[Part]) -> None:
        """Names, states and places as the pane is now."""
        rows = list(told)[:MOST_PARTS]
        for number, (box, name, state) in enumerate(rows):
            if number == len(self.parts):
                part = QWidget(self.canvas)
                part.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
                part.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
                self.parts.append(part)
            part = self.parts[number]
            part.setAccessibleName(name)
            part.setAccessibleDescription(state)
            part.setGeometry(box.toAlignedRect())
            part.show()
        for part in self.parts[len(rows) :]:
            part.hide()


class DrawnPane(QWidget):
    """A pane that is painted, whose parts a screen reader finds. A subclass names them in `parts_told`, and calls `heard` once it painted."""

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
        self._readers = self._readers or PartsForReaders(self)
        self._readers.show_parts(self.parts_told())
