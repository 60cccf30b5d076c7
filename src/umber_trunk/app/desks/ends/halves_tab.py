"""Both halves, or both ends of a lead, side by side: cavity by cavity, crossed, missing and wrong poles named."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QVBoxLayout

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import Desk, EndPanel, row
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.ends.faces import faces_of
from umber_trunk.core.ends.mate import Crossing, ends_agree, mate_of, through
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of

DERIVED = ""


class HalvesPanel(EndPanel):
    """Follows the end that is chosen on the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._filled = ""
        self.other = QComboBox()
        self.other.setAccessibleName(tr("Other end"))
        self.other.currentIndexChanged.connect(lambda _: self._show())
        self.told = Label()
        self.told.setWordWrap(True)
        self.face = FaceView()
        self.rows = desk.table("Cavity by cavity", "halves", _columns(), lambda r: r.label)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(row(self.other, None))
        layout.addWidget(self.told)
        beside = row(self.face, self.rows)
        beside.setStretch(0, 2)
        beside.setStretch(1, 5)
        layout.addLayout(beside)

    def fill(self, end_id: str) -> None:
        """Beside it the one it plugs into, else the far end of its cable, else the derived half."""
        design, kept = self.desk.document.design, self.other.currentData()
        fresh, self._filled = end_id != self._filled, end_id
        mine = {wire.id for wire in design.wires if end_id in (wire.start.end, wire.finish.end)}
        far = sorted(
            {pin.end for wire in design.wires if wire.id in mine for pin in (wire.start, wire.finish)} - {end_id}
        )
        end = index_of(design).ends[end_id]
        cabled = {
            pin.end for wire in design.wires if wire.id in mine and wire.cable for pin in (wire.start, wire.finish)
        } - {end_id}
        if end.mates and end.mates not in far:
            far.insert(0, end.mates)
        self.other.blockSignals(True)
        self.other.clear()
        self.other.addItem(tr("the half it plugs into, derived"), DERIVED)
        for one in far:
            self.other.addItem(index_of(design).ends[one].name, one)
        wanted = (end.mates or next(iter(sorted(cabled)), DERIVED)) if fresh else kept
        self.other.setCurrentIndex(max(self.other.findData(wanted), 0))
        self.other.blockSignals(False)
        self._show()

    def _show(self) -> None:
        design, shelf = self.desk.document.design, self.desk.document.shelf
        other = self.other.currentData()
        self.rows.setVisible(bool(other))
        try:
            shown = faces_of(design, other or self.end_id, "wire", None, shelf)[0]
            face = shown if other else mate_of(shown, design, shelf)
        except InputError:
            face = None
        rows: list[Crossing] = []
        told, bad = face.name if face is not None else "", False
        if face is not None and face.turned_deg:
            told += tr("; it plugs in turned by {turned_deg:g}°", turned_deg=face.turned_deg)
        if other and index_of(design).ends[self.end_id].mates == other:
            found = ends_agree(design, self.end_id, other, shelf)
            rows, bad = [*(row for row in found.wrong if not row.label), *found.rows], found.agrees is not True
            told = f"{found.words}: {found.wrong[0].what}" if found.wrong else str(found.words)
        elif other:
            rows = through(design, self.end_id, other, shelf)
            many = sum(bool(row.what) for row in rows)
            bad = many > 0
            told = (
                tr("{many} not straight through", many=many)
                if many
                else tr("straight through: like cavities have the same wire")
                if rows
                else tr("nothing to compare: no wire goes to either")
            )
        self.face.show_face(face, {row.label: str(row.what) for row in rows if row.what}, "")
        self.rows.show_rows(rows)
        self.told.setText(told)
        self.told.setStyleSheet(f"color: {theme.BROKEN.name()}" if bad else "")


def _columns() -> list[Column]:
    return [
        Column("Cavity", lambda r: f"{r.housing} {r.label}".strip(), width=70),
        Column("Here", lambda r: r.mine, width=110),
        Column("There", lambda r: r.theirs, width=110),
        Column("", lambda r: str(r.what), colour=lambda r: theme.BROKEN if r.what else None, width=-1),
    ]
