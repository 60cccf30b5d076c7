"""The Prove desk's way to tell like cores apart."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QPlainTextEdit

from umber_trunk.app.desks.prove.cores_view import CoresView
from umber_trunk.app.widgets.desk import Panel, button, hint
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Count, Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.prove.entering import Entering
from umber_trunk.core.prove.identify import scheme
from umber_trunk.core.sentences import Message, say

if TYPE_CHECKING:
    from umber_trunk.app.desks.prove.desk import ProveDesk
from umber_trunk.app.desks.prove.panels import WAY_WORDS


class CoresPanel(Panel):
    """Which core is which: the plan, then what is found, entered step by step; tags at the end."""

    def __init__(self, desk: ProveDesk) -> None:
        super().__init__(desk)
        self.run: Entering | None = None
        self.cores = Count()
        self.cores.setRange(1, 200)
        self.cores.setValue(8)
        self.cores.setPrefix(tr("cores: "))
        self.cores.setAccessibleName(tr("How many cores"))
        self.way = QComboBox()
        self.way.setAccessibleName(tr("How"))
        for way, words in WAY_WORDS.items():
            self.way.addItem(tr(words), way)
        self.common = QCheckBox(tr("a conductor is known at both ends"))
        self.common.setChecked(True)
        plan = button("Make the plan", self.plan, primary=True)
        self.words = QPlainTextEdit()
        self.words.setReadOnly(True)
        self.words.setAccessibleName(tr("The plan"))
        self.found = Line()
        self.found.setAccessibleName(tr("What was found"))
        self.found.returnPressed.connect(self.enter)
        self.told = Label()
        self.told.setWordWrap(True)
        self.view = CoresView()
        self.column.addLayout(Flow(self.cores, self.way, self.common, plan))
        shown = QHBoxLayout()
        shown.addWidget(self.words, 2)
        shown.addWidget(self.view, 3)
        self.column.addLayout(shown, 1)
        self.column.addWidget(self.told)
        self.column.addWidget(self.found)
        self.column.addWidget(
            hint(
                "Two walks do for any number but two. Enter pairs such as 1-4 2-3, cores that lead, or readings such "
                "as 3=220."
            )
        )

    def show_now(self) -> None:
        if self.run is None:
            self.plan()

    def plan(self) -> None:
        """The plan for so many cores."""
        made = scheme(self.cores.value(), self.way.currentData(), self.common.isChecked())
        self.words.setPlainText("\n".join(map(str, made.rows)))
        self.run = Entering(made)
        self._ask()

    def _ask(self, said: Message | str = "") -> None:
        assert self.run is not None
        question = self.run.question
        self.view.show_seen(self.run.seen)
        self.found.setEnabled(question is not None)
        if self.run.names:
            rows = [say("cores.found", near=near, far=far) for near, far in sorted(self.run.names.items())]
            self.words.setPlainText(tr("Tags, one for each end:") + "\n" + "\n".join(rows))
            self.told.setText(str(said) or tr("Found: every core has its number."))
        else:
            asked = str(question).splitlines()[-1] if question else ""
            self.told.setText(" ".join(filter(None, (str(said), asked))))

    def enter(self) -> None:
        """What was found at an end."""
        if self.run is None or self.run.question is None:
            return
        try:
            said: Message | str = self.run.enter(self.found.text())
            self.found.clear()
        except UmberError as why:
            said = f"✕ {why}"
        self._ask(said)
