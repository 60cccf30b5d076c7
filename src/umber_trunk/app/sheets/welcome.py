"""The first screen when no harness is open: what to do next."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.settings import Settings
from umber_trunk.app.sheets.kept import CopiesSheet
from umber_trunk.app.widgets.desk import button, heading, hint
from umber_trunk.app.widgets.plain import Label, menu_text


class Welcome(QWidget):
    """Signals: wants_file(object): a path, or None for a new harness."""

    wants_file = Signal(object)

    def __init__(self, settings: Settings) -> None:
        super().__init__()
        self.setWindowTitle("Umber Trunk")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(f"Welcome {{ background: {theme.CHALK.name()}; }}")
        self.resize(720, 480)
        title = Label("Umber Trunk")
        title.setFont(theme.font(24, bold=True))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(60, 40, 60, 40)
        layout.addWidget(title)
        layout.addWidget(hint("From the list of loads to the wires to cut, with the reason for every size."))
        layout.addSpacing(16)
        layout.addWidget(button("New harness…", lambda: self.wants_file.emit(None), primary=True))
        layout.addWidget(button("Open a harness…", self._open))
        layout.addWidget(button("Copies kept by day…", self._copies))
        layout.addSpacing(16)
        recent = settings.recent()
        layout.addWidget(heading("Lately"))
        for path in recent:
            entry = QPushButton(menu_text(str(path)))
            entry.setStyleSheet("text-align: left;")
            entry.clicked.connect(lambda _=False, path=path: self.wants_file.emit(path))
            layout.addWidget(entry)
        if not recent:
            layout.addWidget(hint("Nothing yet. For a look round with a finished harness, start with:  ./umber demo"))
        layout.addStretch()

    def _copies(self) -> None:
        sheet = CopiesSheet("", self)
        sheet.restored.connect(self.wants_file)
        sheet.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        sheet.open()

    def _open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a harness", "", "Harness (*.umber);;Any file (*)")
        if name:
            self.wants_file.emit(Path(name))
