"""The harness's language at a desk: one line, what was understood below it, Tab for how it may go on, Enter to do
it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.saying import SayingLine
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.language.grammar import MOST_SAID
from umber_trunk.core.language.hear import Heard, Listener, way_line
from umber_trunk.core.language.next_words import next_lines


class Telling(QWidget):
    """Takes any line of the language. Signals: told(str), the line that was done."""

    told = Signal(str)

    def __init__(self, document: Document, name: str, example: str) -> None:
        super().__init__()
        self.document = document
        self.suggested: list[str] = []
        self.line = SayingLine()
        self.line.setAccessibleName(tr(name))
        self.line.setPlaceholderText(tr(example))
        self.line.wants_next.connect(self._go_on)
        self.line.returnPressed.connect(self.enter)
        self.line.textChanged.connect(self._read)
        self.reading = Label()
        self.reading.setProperty("role", "hint")
        self.reading.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.line)
        layout.addWidget(self.reading)
        self._read("")

    def _heard(self, text: str) -> Heard:
        return Listener(self.document.shelf).hear(self.document.design, text)

    def _read(self, text: str) -> None:
        """Whether the line is read, while it is typed."""
        self.reading.setVisible(bool(text.strip()))
        self.suggested = []
        if not text.strip():
            return
        if len(text) > MOST_SAID:
            self.reading.setText(tr("That is too long to be one line; a list is imported with Ctrl+I."))
            return
        heard = self._heard(text)
        self.suggested = next_lines(self.document.design, text, heard, self.document.shelf)
        said = tr("✓ Enter puts it in") if heard.ok else heard.wrong
        said += tr("   Tab: {suggested}", suggested=self.suggested[0]) if self.suggested else ""
        self.reading.setText(said)

    def _go_on(self) -> None:
        """Tab: the line goes on as first suggested."""
        if self.suggested:
            self.line.setText(self.suggested[0])

    def enter(self) -> None:
        """Does what the line says; what can't be done stays there to be mended."""
        text = self.line.text()
        if not text.strip() or len(text) > MOST_SAID:
            return
        heard = self._heard(text)
        if not heard.ok:
            self.reading.setText(heard.wrong)
            return
        listener = Listener(self.document.shelf)
        act = (
            Typed(way_line(text, self.document.shelf))
            if heard.said is not None
            else partial(listener.done, heard=heard)
        )
        if self.document.apply(act, " ".join(text.split())[:80]):
            self.line.remember()
            self.told.emit(text)
