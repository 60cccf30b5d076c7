"""A wire's number typed or scanned where no text is entered: it is gone to, as soon as it is whole."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

from umber_trunk.app.document import Document

SCAN_MS = 1200
"""After so long without another letter the number is whole, or is forgotten."""
MODIFIERS = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier
"""With these a letter is still a letter."""


class TypedWire(QObject):
    """Signals: found(wire), none(number): no wire has it; told(text so far), "" once it is done with."""

    found = Signal(str)
    none = Signal(str)
    told = Signal(str)

    def __init__(self, document: Document, parent: QObject) -> None:
        super().__init__(parent)
        self.document, self.text = document, ""
        self._soon = QTimer(self, singleShot=True, interval=SCAN_MS)
        self._soon.timeout.connect(self._over)

    def takes(self, event: QKeyEvent) -> bool:
        """Whether a key is one of the number, or ends it."""
        text = event.text()
        if not event.modifiers() & ~MODIFIERS and text and (text.isalnum() or (self.text and text in "-_.:/")):
            self.text += text
            self._soon.start()
            self.told.emit(self.text)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.text:
            self._land()
        elif event.key() == Qt.Key.Key_Escape and self.text:
            self._forget()
        else:
            return False
        return True

    def _over(self) -> None:
        """Nothing more was typed: a number that is whole is gone to, any other is forgotten."""
        if self.text.lower() in {wire.id.lower() for wire in self.document.design.wires}:
            self._land()
        elif self.text:
            self._forget()

    def _forget(self) -> None:
        self.text = ""
        self.told.emit("")

    def _land(self) -> None:
        number, self.text = self.text, ""
        self._soon.stop()
        wire = next((w.id for w in self.document.design.wires if w.id.lower() == number.lower()), None)
        if wire is None:
            self.none.emit(number)
        else:
            self.found.emit(wire)


def is_typed_at(widget: QWidget) -> bool:
    """Whether a number is being typed in the window that a widget is in: Enter ends it, whoever has the keyboard."""
    typed = widget.window().findChild(TypedWire)
    return typed is not None and bool(typed.text)
