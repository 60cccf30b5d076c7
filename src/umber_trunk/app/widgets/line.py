"""A line to type in that takes as much as anybody types."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit, QSpinBox, QToolTip, QWidget

from umber_trunk.app.widgets.words import tr

MOST = 2000
"""Letters a line holds: more is a list or a mistake, and laying it out would hold the window."""

MOST_DIGITS = 24


class Line(QLineEdit):
    """A line of at most `MOST` letters; what is cut off is said."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMaxLength(MOST)
        self.setText(text)
        self.inputRejected.connect(self._say)

    def _say(self) -> None:
        if len(self.text()) >= MOST:
            told = tr("A line holds 2 000 letters; the rest was left out. A list is imported with Ctrl+I.")
            QToolTip.showText(self.mapToGlobal(QPoint(0, self.height())), told, self)


class Count(QSpinBox):
    """A box for a count."""

    def __init__(self) -> None:
        super().__init__()
        self.lineEdit().setMaxLength(MOST_DIGITS)


class Figure(QDoubleSpinBox):
    """A box for a figure."""

    def __init__(self) -> None:
        super().__init__()
        self.lineEdit().setMaxLength(MOST_DIGITS)
