"""One line under the rail: the worst thing open at this stage, and what would mend it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QWidget

from umber_trunk.app import theme
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.status import StageState

MARKS = {Severity.FAULT: "✕", Severity.WARNING: "△", Severity.NOTE: "i"}


class WorstLine(QWidget):
    """Signals: chosen(Finding) when its part is asked for, mending(Finding) when its cures are. F8 steps through what
    is open."""

    chosen = Signal(object)
    mending = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.findings: list[Finding] = []
        self.at = 0
        self.state: StageState | None = None
        self.setObjectName("worst")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.text = Label()
        self.text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.text.setWordWrap(True)
        self.show_button = QPushButton(tr("Show it"))
        self.show_button.clicked.connect(self._show)
        self.mend_button = QPushButton(tr("Mend  F5"))
        self.mend_button.setToolTip(tr("Edits that were tried and mend it, each with its before and after"))
        self.mend_button.clicked.connect(self.mend)
        self.next_button = QPushButton(tr("Next  F8"))
        self.next_button.clicked.connect(self.step)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 4, 12, 4)
        layout.addWidget(self.text, 1)
        layout.addWidget(self.mend_button)
        layout.addWidget(self.show_button)
        layout.addWidget(self.next_button)
        self._paint()

    def show_findings(self, findings: list[Finding], stage: str, state: StageState | None = None) -> None:
        """Takes the findings of a stage and what it is at; keeps its place where the same finding is still open."""
        self.state = state
        now = self.findings[self.at] if self.findings else None
        self.findings = [finding for finding in findings if finding.stage == stage]
        self.at = self.findings.index(now) if now in self.findings else 0
        self._paint()

    def step(self) -> None:
        """The next finding, and its part on screen."""
        if self.findings:
            self.at = (self.at + 1) % len(self.findings)
            self._paint()
            self._show()

    def _show(self) -> None:
        if self.findings and self.findings[self.at].subject:
            self.chosen.emit(self.findings[self.at])

    def mend(self) -> None:
        """Asks for what mends the finding in view."""
        if self.findings and self.findings[self.at].severity < Severity.NOTE:
            self.mending.emit(self.findings[self.at])

    def _paint(self) -> None:
        finding = self.findings[self.at] if self.findings else None
        self.setProperty("severity", finding.severity.name.lower() if finding else _tone(self.state))
        theme.restyle(self)
        self.show_button.setVisible(bool(finding and finding.subject))
        self.mend_button.setVisible(bool(finding and finding.severity < Severity.NOTE))
        self.next_button.setVisible(len(self.findings) > 1)
        if finding is None:
            self.text.setText(_words(self.state))
            return
        place = tr("{at} of {count}:  ", at=self.at + 1, count=len(self.findings)) if len(self.findings) > 1 else ""
        untried = tr("may help: ") if finding.severity < Severity.NOTE else ""  # what was tried is behind Mend
        self.text.setText(f"{MARKS[finding.severity]} {place}{finding.message}  →  {untried}{finding.cure}")


def _tone(state: StageState | None) -> str:
    """The colour of the line where no finding is open: good for done alone."""
    if state is None:
        return "note"
    return {"done": "none", "faults": "fault", "open": "warning"}.get(state.state, "note")


def _words(state: StageState | None) -> str:
    """What a stage without findings is at, and what to do next. The tick is for done alone, with what it rests on."""
    if state is None:
        return tr("Looking at what is open …")
    if state.state == "done":
        return f"✓ {state.why}."
    mark = {"faults": "✕ ", "open": "△ "}.get(state.state, "")
    return f"{mark}{state.why:inside}  →  {state.next}"
