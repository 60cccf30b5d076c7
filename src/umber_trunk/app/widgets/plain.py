"""Words of a file are shown as they stand: no label, tip, box or menu takes them for markup."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QMessageBox, QPushButton, QWidget

from umber_trunk.app import theme


class Label(QLabel):
    """A label of plain text."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


def plain_of(text: str) -> str:
    """A text for a tool tip or a question, which would take some texts for markup."""
    return f"<span>{escape(text)}</span>" if "<" in text or "&" in text else text


def menu_text(text: str, most: int = 90) -> str:
    """A text in a menu or on a button, where & marks a key; shortened in its middle."""
    short = text if len(text) <= most else f"{text[: most // 3]} … {text[-(most - most // 3) :]}"
    return short.replace("&", "&&")


def box(parent: QWidget | None, text: str, detail: str = "", grave: bool = False) -> QMessageBox:
    """A message box of plain text, not shown yet."""
    made = QMessageBox(parent)
    made.setWindowTitle("Umber Trunk")
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setIcon(QMessageBox.Icon.Critical if grave else QMessageBox.Icon.Warning)
    made.setText(text)
    made.setInformativeText(detail)
    if parent is None:
        theme.dress(made)
    return made


def tell(parent: QWidget | None, text: str) -> None:
    """Says a sentence and waits until it is read."""
    box(parent, text).exec()


def choice(made: QMessageBox, text: str, role: QMessageBox.ButtonRole) -> QPushButton:
    """A button of a message box, which keeps it: whoever asks may let go of it."""
    button = QPushButton(text, made)
    made.addButton(button, role)
    return button
