"""The sheet that mends a finding: edits that were tried, each with its before and after, and what only hands can do."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QFrame, QProgressBar, QPushButton, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import button, heading, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import Wanted
from umber_trunk.core.findings import Finding
from umber_trunk.core.mend.cures import Cure, cures_of
from umber_trunk.core.results import Results


class MendSheet(QDialog):
    """Tries the edits that may mend a finding of these results, and does the one that is clicked as one edit."""

    def __init__(self, document: Document, results: Results, finding: Finding, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.results, self.finding = document, results, finding
        self.cures: list[Cure] = []
        self.buttons: list[QPushButton] = []
        self.setWindowTitle(tr("Mend"))
        self.resize(760, 330)
        self.said = Label(finding.message)
        self.said.setWordWrap(True)
        self.said.setFont(theme.font(11.5))
        self.bar = QProgressBar()
        self.bar.setRange(0, 0)
        self.bar.setTextVisible(False)
        self.note = hint(
            tr("Edits are tried on a copy: what doesn’t mend this, or brings something new, isn’t offered.")
        )
        self.body = QVBoxLayout()
        layout = QVBoxLayout(self)
        layout.addWidget(heading(tr("What mends it")))
        layout.addWidget(self.said)
        layout.addWidget(self.note)
        layout.addWidget(self.bar)
        layout.addLayout(self.body, 1)
        layout.addLayout(row(None, button(tr("Close"), self.reject)))
        self._search = Background(self)
        self._search.answered.connect(self._show)
        self._search.crashed.connect(document.crashed)
        self._search.ask(self._tried)

    @property
    def busy(self) -> bool:
        """Whether edits are still being tried."""
        return self._search.busy

    def _tried(self, wanted: Wanted) -> list[Cure]:
        return cures_of(self.results, self.finding, wanted)

    def done(self, result: int) -> None:
        self._search.drop()
        super().done(result)

    def _show(self, cures: list[Cure]) -> None:
        self.bar.hide()
        self.cures = [cure for cure in cures if cure.edit is not None]
        for cure in self.cures:
            self.body.addWidget(self._card(cure))
        if not self.cures:
            self.body.addWidget(Label(tr("No edit mends it without bringing something new.")))
        for cure in cures:
            if cure.edit is None:
                line = Label(f"{tr('By hand')}:  {cure.text}")
                line.setWordWrap(True)
                self.body.addWidget(line)
        self.body.addStretch()
        if self.buttons:
            self.buttons[0].setFocus()

    def _card(self, cure: Cure) -> QWidget:
        """An edit with its before and after."""
        frame = QFrame()
        frame.setProperty("role", "card")
        text = Label(str(cure.text))
        text.setWordWrap(True)
        text.setFont(theme.font(10.5, bold=True))
        figures = Label(f"{cure.was}   →   {cure.then}")
        figures.setWordWrap(True)
        act = button(tr("Do it"), lambda cure=cure: self.mend(cure), primary=not self.buttons)
        self.buttons.append(act)
        words = QVBoxLayout()
        words.addWidget(text)
        words.addWidget(figures)
        line = row()
        line.addLayout(words, 1)
        line.addWidget(act)
        frame.setLayout(line)
        line.setContentsMargins(10, 6, 10, 6)
        return frame

    def mend(self, cure: Cure) -> None:
        """Does an edit; where the harness has changed meanwhile, what was tried no longer holds and is tried again."""
        if self.document.design is not self.results.design:
            self.note.setText(tr("The harness has changed since these were tried; open this once more."))
            return
        assert cure.edit is not None
        if self.document.apply(cure.edit, f"mend: {cure.text}"[:120]):
            self.accept()
