"""The sheet that proposes a trunk from end-to-end lengths: its segments, what each wire is off by, what the list leaves
open."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHeaderView, QPushButton, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import heading, hint, row
from umber_trunk.app.widgets.doubts_view import DoubtsView
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError, UmberError, Wanted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.lengths.adopt import adopt, inferred_trunk
from umber_trunk.core.lengths.infer import Inferred
from umber_trunk.core.units import parse_length_m, show_length


class TreeDialog(QDialog):
    """Shows the tree that fits the list best; lengths can be corrected before it is taken."""

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.proposal: Inferred | None = None
        self.setWindowTitle(tr("Infer the tree"))
        self.resize(960, 720)
        self.picture = DoubtsView()
        self.told = Label(tr("Looking for the tree that fits the list …"))
        self.told.setWordWrap(True)
        self.segments = _table([tr("From"), tr("To"), tr("Length"), "±", ""])
        self.segments.itemChanged.connect(self._corrected)
        self.misfits = _table([tr("Wire"), tr("Listed"), tr("Off by")])
        self.message = Label()
        self.message.setProperty("role", "fault")
        self.message.setWordWrap(True)
        self.go = QPushButton(tr("Take this trunk"))
        self.go.setProperty("primary", True)
        self.go.setEnabled(False)
        self.go.clicked.connect(self.accept_tree)
        cancel = QPushButton(tr("Cancel"))
        cancel.clicked.connect(self.reject)
        tables = row(self.segments, self.misfits)
        tables.setStretch(0, 3)
        tables.setStretch(1, 2)
        layout = QVBoxLayout(self)
        layout.addWidget(heading("Infer the tree"))
        layout.addWidget(
            hint(
                "The tree whose ways fit all listed lengths best, and how far other trees that fit as well differ "
                "from it."
            )
        )
        layout.addWidget(self.told)
        layout.addWidget(self.picture, 3)
        layout.addLayout(tables, 2)
        layout.addWidget(self.message)
        layout.addLayout(row(None, cancel, self.go))
        self._background = Background(self)
        self._background.answered.connect(self._arrived)
        self._background.crashed.connect(document.crashed)
        design = document.design

        def work(wanted: Wanted) -> Inferred | str:
            try:
                return inferred_trunk(design, wanted)
            except UmberError as why:
                return str(why)

        self._background.ask(work)

    @property
    def busy(self) -> bool:
        """Whether the tree is still looked for."""
        return self._background.busy

    def reject(self) -> None:
        self._background.drop()
        super().reject()

    def _arrived(self, found: Inferred | str) -> None:
        if isinstance(found, str):
            self.told.setText(found)
            return
        self.proposal = found
        self.go.setEnabled(True)
        self._fill()

    def _fill(self) -> None:
        found = self.proposal
        assert found is not None
        index = index_of(self.document.design)
        said = [
            tr(
                "{count} segments; wires are off by {rms_m:.0f} mm on average.",
                count=len(found.segments),
                rms_m=1000.0 * found.rms_m,
            )
        ]
        self.told.setText(
            " ".join([*said, *found.notes, *(f"{wire}: {why}." for wire, why in list(found.left_out.items())[:4])])
        )

        def name(point: str) -> str:
            at_it = found.points[point]
            return ", ".join(index.ends[end].name for end in at_it) or point

        self.picture.show_tree(found, name)
        self.segments.blockSignals(True)
        self.segments.setRowCount(len(found.segments))
        for at, one in enumerate(found.segments):
            cells = (
                name(one.a),
                name(one.b),
                show_length(one.length_m),
                f"{1e3 * one.sd_m:.0f} mm",
                "" if one.sure else tr("measure it"),
            )
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                if column != 2:
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                if not one.sure:
                    item.setForeground(theme.TIGHT_TEXT)
                self.segments.setItem(at, column, item)
        self.segments.blockSignals(False)
        rows = sorted(found.misfits.items(), key=lambda entry: -abs(entry[1]))
        self.misfits.setRowCount(len(rows))
        for at, (wire, off) in enumerate(rows):
            listed = index.wires[wire].stated_m or 0.0
            for column, text in enumerate((wire, show_length(listed), _off(off))):
                item = QTableWidgetItem(text)
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                if abs(off) > max(0.02, 2 * found.noise) * listed:
                    item.setForeground(theme.BROKEN)
                self.misfits.setItem(at, column, item)

    def _corrected(self, item: QTableWidgetItem) -> None:
        """A length typed over; misfits are those of the list against it."""
        found = self.proposal
        assert found is not None
        try:
            length = parse_length_m(item.text())
            if length <= 0:
                raise InputError.of("window.segment-is-longer-than-nothing")
        except UmberError as why:
            self.message.setText(str(why))
            self._fill()
            return
        self.message.setText("")
        self.proposal = found.with_length(item.row(), length)
        self._fill()

    def accept_tree(self) -> None:
        """Puts the ends onto the proposed trunk as one edit; the sheet stays where it can't be."""
        proposal = self.proposal
        if proposal is None:
            return
        refused: list[str] = []
        self.document.refused.connect(refused.append)
        done = self.document.apply(
            lambda design: adopt(design, proposal), f"trunk of {len(proposal.segments)} segments inferred"
        )
        self.document.refused.disconnect(refused.append)
        if done:
            self.accept()
        else:
            self.message.setText(" ".join(refused))


def _off(metres: float) -> str:
    """How far a wire is off, in whole millimetres, with its sign."""
    whole = round(1e3 * metres)
    return f"{whole:+d} mm".replace("-", "−") if whole else "0"


def _table(titles: list[str]) -> QTableWidget:
    made = QTableWidget(0, len(titles))
    made.setHorizontalHeaderLabels([tr(title) for title in titles])
    made.verticalHeader().hide()
    made.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
    return made
