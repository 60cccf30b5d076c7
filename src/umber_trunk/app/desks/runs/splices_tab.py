"""The Runs desk's splices: where each lies, and what lies side by side."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtGui import QColor

from umber_trunk.app import theme
from umber_trunk.app.desks.runs.way_tabs import show_limb, two
from umber_trunk.app.desks.runs.way_views import CombView, LimbView, Ribbon
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.harness.edits import Edit, change, drop, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.harness.way import Alike, Comb
from umber_trunk.core.joins.join_plans import JoinPlan, joins
from umber_trunk.core.lengths.accept import take_places
from umber_trunk.core.lengths.arcs import comb_extras_m
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.quantity import Habit as Separators
from umber_trunk.core.quantity import exact
from umber_trunk.core.units import parse_length_m, show_length


class SplicesPanel(Panel):
    """Every splice on a segment: where it lies, which way, what holds it."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.told = Label()
        self.rows = desk.table("Splices", "joins", self._columns(), lambda r: r.end)
        take = button(
            "Take these places",
            self.take,
            primary=True,
            tip="Each splice that isn't held lies where the program put it",
        )
        self.limb = LimbView()
        self.rows.current.connect(lambda _: self._moved())
        self.column.addWidget(self.told)
        self.column.addWidget(self.rows, 3)
        self.column.addWidget(self.limb, 2)
        self.column.addLayout(row(None, take))

    def _moved(self) -> None:
        rows, chosen = self.rows.rows_model.rows, self.rows.chosen_id()
        one = next((plan for plan in rows if plan.end == chosen), rows[0] if rows else None)
        show_limb(self.limb, self.desk, one.segment if one is not None else "")

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None or not results.has(joins):
            return
        plans = results.once(joins)
        self.rows.show_rows(plans)
        self._moved()
        wrong = sum(bool(plan.crowded or plan.stacked or plan.in_the_way or plan.over) for plan in plans)
        said = (
            tr("{count} splices, {wrong} in the way", count=len(plans), wrong=wrong)
            if wrong
            else tr("{count} splices, none stacked, none in a bend, clamp or low point", count=len(plans))
        )
        self.told.setText(
            f"{said}."
            if plans
            else tr("No splice lies on a segment yet. Say in the line above: splice s1 on S3 at 60 mm")
        )

    def take(self) -> None:
        """The program's places become the chosen ones."""
        results = self.desk.document.now
        if results is not None:
            self.desk.document.apply(lambda design: take_places(design, results), "take places of splices")

    def _columns(self) -> list[Column]:
        def name(plan: JoinPlan) -> str:
            return index_of(self.desk.document.design).ends[plan.end].name

        def at(plan: JoinPlan, text: str) -> Edit:
            def make(habit: Separators) -> Edit:
                said = text.lower().replace("held", "").strip()
                value = parse_length_m(said, "mm", habit) if said else None
                return join_edit(plan.end, at_m=value, held="held" in text.lower())

            return Typed(make)

        def state(plan: JoinPlan) -> str:
            if plan.crowded:
                return tr("no free place")
            if plan.stacked:
                return "over " + ", ".join(plan.stacked)
            if plan.in_the_way:
                return "in a " + ", ".join(plan.in_the_way)
            return plan.over or ("held" if plan.held else "moved" if plan.moved else "clear")

        def bad(plan: JoinPlan) -> QColor | None:
            return theme.BROKEN if plan.crowded or plan.stacked or plan.in_the_way or plan.over else None

        shelf = self.desk.document.shelf
        return [
            Column("Splice", name, width=110),
            Column("In", lambda r: r.segment, width=46),
            Column("At, mm", lambda r: f"{1e3 * r.at_m:.0f}", at, right=True, key=lambda r: r.at_m, width=66),
            Column(
                "Back to",
                lambda r: (
                    index_of(self.desk.document.design).ends[r.dull].name
                    if r.dull in index_of(self.desk.document.design).ends
                    else ""
                ),
                width=110,
            ),
            Column("Legs", lambda r: " ".join(r.legs), width=86),
            Column("Barrel", lambda r: shelf.name(r.barrel) if r.barrel else "none", width=170),
            Column(
                "Shrink",
                lambda r: f"{shelf.name(r.shrink)}, {r.shrink_cut_mm:.0f} mm" if r.shrink else tr("none fits"),
                width=190,
            ),
            Column("Open", lambda r: f"{r.open_mm:.0f} mm" if r.open_mm else "", right=True, width=60),
            Column("", state, colour=bad, width=-1),
        ]


def join_edit(end_id: str, **values: Any) -> Edit:
    """An edit of where a splice lies."""

    def act(design: Design) -> Design:
        end = index_of(design).ends[end_id]
        assert end.join is not None
        return put(design, "ends", change(end, join=change(end.join, **values)))

    return act


@dataclass(frozen=True)
class Beside:
    """A comb or a set as a row."""

    id: str
    part: Comb | Alike
    spread_mm: float
    ends: str


class SidesPanel(Panel):
    """Combs and sets: what is seen side by side."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        note = tr(
            "Ribbons round bends, and legs that have to end alike. Say: comb G01 G02 G03 pitch 2.6 mm turns 90 "
            "last 30 mm, or: set G25 G26 within 2 mm"
        )
        self.rows = desk.table("Side by side", "sets", self._columns(), lambda r: r.id)
        self.comb = CombView()
        self.rows.current.connect(lambda _: self._moved())
        self.column.addWidget(hint(note))
        self.column.addLayout(two(self.rows, self.comb))
        self.column.addLayout(row(None, button("Take it apart", self.remove, tip="Removes the chosen comb or set")))

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None or not results.has(wire_lengths):
            return
        found, rows = results.once(wire_lengths), []
        parts: list[Comb | Alike] = [*results.design.combs, *results.design.sets]
        for part in parts:
            cuts = [found[wire].cut_m for wire in part.wires if wire in found]
            spread = 1e3 * (max(cuts) - min(cuts)) if cuts else 0.0
            told = tr("{least:.0f} to {most:.0f} mm", least=1000.0 * min(cuts), most=1000.0 * max(cuts)) if cuts else ""
            rows.append(Beside(part.id, part, spread, told))
        self.rows.show_rows(rows)
        self._moved()

    def _moved(self) -> None:
        """The chosen comb round its bends, the first where none is chosen."""
        chosen = self.rows.chosen_id()
        combs = [one.part for one in self.rows.rows_model.rows if isinstance(one.part, Comb) and chosen in ("", one.id)]
        self.comb.setVisible(bool(combs))
        if not combs:
            self.comb.show_comb((), ())
            return
        comb, wires = combs[0], index_of(self.desk.document.design).wires
        extras = comb_extras_m(len(comb.wires), comb.pitch_mm / 1e3, comb.turns_deg)
        self.comb.show_comb(
            [
                Ribbon(name, wires[name].colour, wires[name].stripe, 1e3 * extra)
                for name, extra in zip(comb.wires, extras, strict=True)
                if name in wires
            ],
            comb.turns_deg,
        )

    def remove(self) -> None:
        """Takes the chosen comb or set apart."""
        chosen = self.rows.chosen_id()
        if chosen:
            self.desk.document.apply(
                lambda design: drop(drop(design, "combs", [chosen]), "sets", [chosen]), f"take {chosen} apart"
            )

    def _columns(self) -> list[Column]:
        def what(one: Beside) -> str:
            if isinstance(one.part, Comb):
                turns = ", ".join(f"{turn:+g}°" for turn in one.part.turns_deg) or "straight"
                return tr("comb, pitch {pitch_mm} mm, turns {turns}", pitch_mm=exact(one.part.pitch_mm), turns=turns)
            return tr("alike within {tolerance_mm} mm", tolerance_mm=exact(one.part.tolerance_mm))

        def last(one: Beside) -> str:
            return (
                tr("second ends at the comb, {allowance_m} to cut off", allowance_m=show_length(one.part.allowance_m))
                if isinstance(one.part, Comb) and one.part.cut_last
                else ""
            )

        return [
            Column("Name", lambda r: r.part.name or r.id, width=130),
            Column("What", what, width=230),
            Column("Wires", lambda r: str(len(r.part.wires)), right=True, width=56),
            Column("Cut", lambda r: r.ends, width=150),
            Column("Apart", lambda r: f"{r.spread_mm:.0f} mm", right=True, width=70),
            Column("", last, width=-1),
        ]
