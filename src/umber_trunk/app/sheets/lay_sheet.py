"""The sheet that lays listed wires onto a trunk: where each end leaves it, and how long its branch is."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.lengths.laying import LayPlan, lay, provisional, suggest
from umber_trunk.core.units import parse_length_m, show_length


class LayDialog(QDialog):
    """Shows a plan, lets every length be corrected, and lays it as one edit."""

    def __init__(self, document: Document, plan: LayPlan, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.plan = plan
        self.setWindowTitle(tr("Lay onto trunk"))
        self.resize(760, 460)
        self.start = QComboBox()
        for end in document.design.ends:
            self.start.addItem(end.name, end.id)
        self.start.setCurrentIndex(self.start.findData(plan.start))
        self.start.currentIndexChanged.connect(self._restart)
        self.table = QTableWidget(0, 4)
        self.table.setHorizontalHeaderLabels([tr("End"), tr("Leaves"), tr("Breakout from start"), tr("Branch")])
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.itemChanged.connect(self._corrected)
        self.message = Label()
        self.message.setProperty("role", "fault")
        self.message.setWordWrap(True)
        self.go = QPushButton(tr("Lay them"))
        self.go.setProperty("primary", True)
        self.go.setDefault(True)
        self.go.clicked.connect(self.accept_plan)
        cancel = QPushButton(tr("Cancel"))
        cancel.clicked.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Lay onto trunk"))
        layout.addLayout(row(Label(tr("The trunk starts at")), self.start, None))
        layout.addWidget(
            hint(
                "Proposed from the listed lengths; correct any breakout or branch. Ends with the same breakout leave "
                "together."
            )
        )
        layout.addWidget(self.table)
        layout.addWidget(self.message)
        layout.addLayout(row(None, cancel, self.go))
        self._fill()

    def _fill(self) -> None:
        index = index_of(self.document.design)
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.plan.rows))
        for at, one in enumerate(self.plan.rows):
            on_trunk = one.via == self.plan.start
            cells = (
                index.ends[one.end].name,
                tr("the trunk") if on_trunk else index.ends[one.via].name,
                show_length(one.at_m) if on_trunk else "–",
                show_length(one.branch_m),
            )
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if column < 2 or (column == 2 and not on_trunk):
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                self.table.setItem(at, column, item)
        self.table.blockSignals(False)
        unlaid = len(provisional(self.document.design))
        self.go.setText(tr("Lay {count} ends ({unlaid} wires wait)", count=len(self.plan.rows), unlaid=unlaid))

    def _restart(self) -> None:
        """Another start: propose again from there."""
        wires = [wire.id for wire in provisional(self.document.design)]
        self.plan = suggest(self.document.design, wires, str(self.start.currentData()))
        self._fill()

    def _corrected(self, item: QTableWidgetItem) -> None:
        one = self.plan.rows[item.row()]
        try:
            length = parse_length_m(item.text())
        except UmberError as why:
            self.message.setText(str(why))
            self._fill()
            return
        self.message.setText("")
        changed = replace(one, at_m=length) if item.column() == 2 else replace(one, branch_m=length)
        rows = list(self.plan.rows)
        rows[item.row()] = changed
        self.plan = LayPlan(self.plan.start, tuple(rows))
        self._fill()

    def accept_plan(self) -> None:
        """Lays the plan; the dialog stays when it can't be."""
        refused: list[str] = []
        self.document.refused.connect(refused.append)
        plan = self.plan
        done = self.document.apply(lambda design: lay(design, plan), f"lay {len(plan.rows)} ends")
        self.document.refused.disconnect(refused.append)
        if done:
            self.accept()
        else:
            self.message.setText(" ".join(refused))
