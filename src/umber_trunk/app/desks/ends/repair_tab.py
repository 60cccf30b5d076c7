"""Repair: the old end looked over, its map by function beside the new one, and whether a supply lead suits a device."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from umber_trunk.app import theme
from umber_trunk.app.widgets.desk import Desk, EndPanel, heading, hint, row
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.ends.mate import Crossing
from umber_trunk.core.ends.repair import (
    LOOKS,
    Look,
    inspected,
    matches_of,
    old_and_new,
    read_lead,
    record,
    set_found,
    set_state,
    suits,
    tries_left,
    verdict,
)
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import parse_length_m, show_length


class RepairPanel(EndPanel):
    """Follows the end that is chosen on the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.looks = desk.table("Looked over", "looks", self._look_columns(), lambda r: r.field)
        self.map = desk.table("Old map and new", tr("old map"), self._map_columns(), lambda r: r.label)
        self.verdict = Label()
        self.verdict.setWordWrap(True)
        self.verdict.setMinimumWidth(430)
        self.left = Line()
        self.left.setPlaceholderText(tr("wire left to cut back: 120 mm"))
        self.left.setAccessibleName(tr("Wire left"))
        self.left.editingFinished.connect(self._left_said)
        self.lead = Line()
        self.lead.setPlaceholderText(tr("lead: 12 V 2 A centre +"))
        self.lead.setAccessibleName(tr("Supply lead"))
        self.device = Line()
        self.device.setPlaceholderText(tr("device: 12 V 1.5 A centre +"))
        self.device.setAccessibleName(tr("Device"))
        self.suits = Label()
        self.suits.setWordWrap(True)
        for table in (self.looks, self.map):
            table.setMinimumHeight(90)
        for box in (self.lead, self.device):
            box.textChanged.connect(lambda _: self._judge())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(
            hint("Type ok or replace; in the map what each cavity of the old one was for: colours don’t agree.")
        )
        layout.addLayout(row(self.looks, self.map))
        layout.addLayout(row(self.verdict, None, self.left))
        layout.addWidget(heading("Does this lead suit this device?"))
        layout.addLayout(row(self.lead, self.device))
        layout.addWidget(self.suits)

    def fill(self, end_id: str) -> None:
        design = self.desk.document.design
        self.looks.show_rows(list(LOOKS))
        self.map.show_rows(old_and_new(design, end_id, self.desk.document.shelf))
        seen = inspected(design, end_id)
        told = verdict(seen)
        results = self.desk.document.now
        if seen.left_m is not None and results is not None:
            tries = tries_left(results, end_id, seen.left_m)
            told += (
                tr(" {tries} more tries in {left_m}.", tries=tries, left_m=show_length(seen.left_m))
                if tries is not None
                else ""
            )
        matches = matches_of(design, end_id, self.desk.document.shelf)
        if matches:
            told += tr(" Matches: {matches}.", matches=", ".join(one.name for one in matches[:3]))
        self.verdict.setText(told)
        if not self.left.hasFocus():
            self.left.setText(show_length(seen.left_m) if seen.left_m is not None else "")
        self._judge()

    def _left_said(self) -> None:
        said, end_id = self.left.text().strip(), self.end_id
        known = inspected(self.desk.document.design, end_id).left_m if end_id else None
        if not end_id or (known is not None and said == show_length(known)) or (known is None and not said):
            return

        def make(habit: Habit) -> Edit:
            length = parse_length_m(said, "mm", habit) if said else None
            return lambda design: record(design, end_id, left_m=length)

        self.desk.document.apply(Typed(make), f"wire left at {end_id}")

    def _judge(self) -> None:
        said = self.lead.text().strip(), self.device.text().strip()
        if not all(said):
            self.suits.setText(tr("Say both; nothing is called fine that isn’t known."))
            self.suits.setStyleSheet("")
            return
        try:
            ok, told = suits(read_lead(said[0]), read_lead(said[1]))
        except InputError as why:
            ok, told = False, str(why)
        self.suits.setText(told)
        self.suits.setStyleSheet(f"color: {(theme.GOOD if ok else theme.BROKEN).name()}")

    def _look_columns(self) -> list[Column]:
        def state(look: Look) -> str:
            return (
                dict(inspected(self.desk.document.design, self.end_id).states).get(look.field, "")
                if self.end_id
                else ""
            )

        def edit(look: Look, text: str) -> Edit:
            said = text.strip().lower()
            if said not in ("", "ok", "replace"):
                raise InputError.of("window.say-ok-or-replace", text=text.strip())
            return lambda design: set_state(design, self.end_id, look.field, said)

        return [
            Column("State", state, edit, colour=lambda r: theme.BROKEN if state(r) == "replace" else None, width=64),
            Column("Look at", lambda r: f"{r.name}: {r.look}", width=-1),
        ]

    def _map_columns(self) -> list[Column]:
        def was(crossing: Crossing, text: str) -> Edit:
            return lambda design: set_found(design, self.end_id, crossing.label, text.strip())

        return [
            Column("Cavity", lambda r: r.label),
            Column("Was for", lambda r: r.mine, was, width=96),
            Column("Is for", lambda r: r.theirs, width=96),
            Column(
                "",
                lambda r: str(r.what) if r.mine else "",
                colour=lambda r: theme.BROKEN if r.what and r.mine else None,
                width=-1,
            ),
        ]
