"""The line that a harness is told in: the lines said before behind the arrow keys, Tab for how it may go on."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent

from umber_trunk.app.widgets.line import Line


class SayingLine(Line):
    """The line, with the last lines said behind the arrow keys. Signals: wants_next() on Tab at its end."""

    wants_next = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.said: list[str] = []
        self._at = 0

    def remember(self) -> None:
        """Keeps the line among the last ones and empties it."""
        self.said = [*[line for line in self.said if line != self.text()][-40:], self.text()]
        self._at = len(self.said)
        self.clear()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            at_end = self.text().strip() and self.cursorPosition() == len(self.text())
            if event.key() == Qt.Key.Key_Tab and at_end:
                self.wants_next.emit()
                return True
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
            if step and self.said:
                self._at = max(0, min(len(self.said), self._at + step))
                self.setText(self.said[self._at] if self._at < len(self.said) else "")
                return True
        return super().event(event)
