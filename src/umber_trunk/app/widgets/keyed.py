"""A view that is worked by one key, a foot switch, a scanner or a keyboard wedge: it paints a card and listens."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy

from umber_trunk.app import theme
from umber_trunk.app.widgets.plot import invite
from umber_trunk.app.widgets.readable import DrawnPane, Part

MOST_TYPED = 80
MOVES = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Escape: 0}


class KeyedView(DrawnPane):
    """Space, Enter and a foot switch that sends either: `forward`; Backspace: `backward`; Left and Right: `moved(-1 or
    1)`, Escape: `moved(0)`; what is typed or scanned and ended with Enter: `entered(text)`. A subclass paints its card
    in `draw`, and notes in `drawn` where each part of it is."""

    forward = Signal()
    backward = Signal()
    entered = Signal(str)
    moved = Signal(int)

    def __init__(self, name: str, empty: str) -> None:
        super().__init__()
        self.card: Any = None
        self.typed = ""
        self.empty = empty
        self.drawn: dict[str, QRectF] = {}
        """Where each part of the card was painted, for those who look after it."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(420, 240)
        self.setAccessibleName(name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, text = event.key(), event.text()
        if event.isAutoRepeat() and key in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return  # a foot left on the switch does one step, not many
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            said, self.typed = self.typed.strip(), ""
            self.entered.emit(said) if said else self.forward.emit()
        elif key == Qt.Key.Key_Space and not self.typed:
            self.forward.emit()
        elif key == Qt.Key.Key_Backspace:
            if self.typed:
                self.typed = self.typed[:-1]
            else:
                self.backward.emit()
        elif key == Qt.Key.Key_Escape and self.typed:
            self.typed = ""
        elif key in MOVES and not self.typed:
            self.moved.emit(MOVES[Qt.Key(key)])
            if key == Qt.Key.Key_Escape:
                super().keyPressEvent(event)
        elif text and text.isprintable() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.typed = (self.typed + text)[:MOST_TYPED]
        else:
            super().keyPressEvent(event)
            return
        self.update()

    def parts_told(self) -> list[Part]:
        return [(box, name, self.accessibleDescription()) for name, box in self.drawn.items()]

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAPER_BRIGHT)
        self.drawn = {}
        if self.card is None:
            invite(painter, self, self.empty)
        else:
            self.draw(painter, self.card)
        painter.end()
        self.heard()

    def draw(self, painter: QPainter, card: Any) -> None:
        """Paints the card."""
        raise NotImplementedError
