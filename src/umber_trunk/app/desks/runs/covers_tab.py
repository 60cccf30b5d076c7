"""The Runs desk's coverings: what lies round each stretch, where it begins and ends, what it is cut to."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from umber_trunk.app import theme
from umber_trunk.app.desks.runs.way_tabs import show_limb
from umber_trunk.app.desks.runs.way_views import LimbView
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.covers.dress import dressed
from umber_trunk.core.covers.dressed_limb import CoverPlan
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, change, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.lengths.accept import take_covers
from umber_trunk.core.quantity import Habit as Separators
from umber_trunk.core.units import parse_length_m


class CoversPanel(Panel):
    """Every covering: what it goes over, what it takes, what doesn't hold."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.told = Label()
        self.rows = desk.table("Coverings", "covers", self._columns(), lambda r: f"{r.segment} {r.id}")
        self.rows.current.connect(self._moved)
        self.cure = hint("")
        take = button(
            "Take proposed parts", self.take, primary=True, tip="Makes every proposed covering the chosen one"
        )
        gone = button("Take it off", self.remove, tip="Removes the chosen covering")
        self.limb = LimbView()
        self.column.addWidget(self.told)
        self.column.addWidget(self.rows, 3)
        self.column.addWidget(self.limb, 2)
        self.column.addWidget(self.cure)
        self.column.addLayout(row(None, gone, take))

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None or not results.has(dressed):
            return
        limbs = results.once(dressed).values()
        plans = sorted((plan for limb in limbs for plan in limb.covers), key=lambda plan: plan.ok)
        self.rows.show_rows(plans)
        wrong = sum(not plan.ok for plan in plans)
        mass = sum(limb.mass_g for limb in limbs)
        said = (
            tr("No covering yet. Say in the line above: sleeve on S4")
            if not plans
            else tr("{count} coverings, {wrong} don’t hold", count=len(plans), wrong=wrong)
            if wrong
            else tr("{count} coverings, all hold", count=len(plans))
        )
        self.told.setText(tr("{said}; the harness weighs {mass:.2f} kg.", said=said, mass=mass / 1000.0))
        self._moved(self.rows.chosen_id())

    def _plan(self, key: str) -> CoverPlan | None:
        return next((one for one in self.rows.rows_model.rows if f"{one.segment} {one.id}" == key), None)

    def _moved(self, key: str) -> None:
        plan = self._plan(key)
        shelf = self.desk.document.shelf
        shown = plan or next(iter(self.rows.rows_model.rows), None)
        show_limb(self.limb, self.desk, shown.segment if shown is not None else "")
        if plan is None:
            self.cure.setText("")
            return
        would = (
            tr("  Would do: {options}.", options=", ".join(shelf.name(one) for one in plan.options))
            if plan.options
            else ""
        )
        told = [f"✕ {said}." for said in plan.problems] or [
            (
                tr(
                    "On {inside_low_mm:.1f} to {inside_high_mm:.1f} mm, over {passes_what} {passes_mm:.1f} mm; "
                    "bends to {bend_mm:.0f} mm.",
                    inside_low_mm=plan.inside_low_mm,
                    inside_high_mm=plan.inside_high_mm,
                    passes_what=plan.passes_what,
                    passes_mm=plan.passes_mm,
                    bend_mm=plan.bend_mm,
                )
            )
        ]
        self.cure.setText(" ".join([*told, *(f"{note}." for note in plan.notes)]) + would)

    def take(self) -> None:
        """Proposed parts become the chosen ones."""
        results = self.desk.document.now
        if results is not None:
            self.desk.document.apply(lambda design: take_covers(design, results), "take proposed coverings")

    def remove(self) -> None:
        """Takes the chosen covering off."""
        plan = self._plan(self.rows.chosen_id())
        if plan is None:
            self.desk.said.emit(tr("Choose a covering first."))
            return

        def edit(design: Design) -> Design:
            segment = index_of(design).segments[plan.segment]
            return put(
                design, "segments", change(segment, covers=tuple(one for one in segment.covers if one.id != plan.id))
            )

        self.desk.document.apply(edit, f"take {plan.id} off {plan.segment}")

    def _columns(self) -> list[Column]:
        def placed(field: str) -> Callable[[CoverPlan, str], Edit]:
            def edit(plan: CoverPlan, text: str) -> Edit:
                def make(habit: Separators) -> Edit:
                    value = parse_length_m(text, "mm", habit) if text.strip() else (None if field == "to_m" else 0.0)
                    return cover_edit(plan, **{field: value})

                return Typed(make)

            return edit

        def part(plan: CoverPlan, text: str) -> Edit:
            return cover_edit(plan, part=part_named(self.desk.document.shelf, text))

        def after(plan: CoverPlan, text: str) -> Edit:
            words = {"after": True, "before": False, "": False}
            if text.strip().lower() not in words:
                raise InputError.of("window.before-or-after-ends-are-made", text=text.strip())
            return cover_edit(plan, after=words[text.strip().lower()])

        return [
            Column("", lambda r: "✓" if r.ok else "✕", colour=lambda r: theme.GOOD if r.ok else theme.BROKEN, width=26),
            Column("Segment", lambda r: r.segment, width=70),
            Column("What", lambda r: r.kind.value, width=72),
            Column("Part", lambda r: r.part_name + (" ?" if r.proposed and r.part else ""), part, width=190),
            Column("From", lambda r: f"{1e3 * r.from_m:.0f}", placed("from_m"), right=True, width=52),
            Column("To", lambda r: f"{1e3 * r.to_m:.0f}", placed("to_m"), right=True, width=52),
            Column("Goes on", lambda r: "after" if r.after else "before", after, width=68),
            Column("Outside", lambda r: f"{r.outside_mm:.1f} mm", right=True, key=lambda r: r.outside_mm, width=76),
            Column(
                "Cut",
                lambda r: f"{1e3 * r.cut_m:.0f} mm" if r.cut_m else "–",
                right=True,
                key=lambda r: r.cut_m,
                width=80,
            ),
            Column(
                "Mass",
                lambda r: f"{r.mass_g:.1f} g" if r.mass_g else tr("not given"),
                right=True,
                key=lambda r: r.mass_g,
                width=84,
            ),
            Column(
                "",
                lambda r: "; ".join(map(str, r.problems or r.notes)),
                colour=lambda r: None if r.ok else theme.BROKEN,
                width=-1,
            ),
        ]


def part_named(shelf: Shelf, text: str) -> str | None:
    """The id of the part called so, by id or name; None for no name, which leaves it to the program."""
    said = text.strip().removesuffix("?").strip().lower()
    if not said:
        return None
    found = [part for part in shelf.parts.values() if said in (part.id.lower(), part.name.lower())]
    if not found:
        raise InputError.of("window.no-catalogue-has-part", text=text.strip())
    return found[0].id


def cover_edit(plan: CoverPlan, **values: Any) -> Edit:
    """An edit of one covering."""

    def act(design: Design) -> Design:
        segment = index_of(design).segments[plan.segment]
        covers = tuple(change(one, **values) if one.id == plan.id else one for one in segment.covers)
        return put(design, "segments", change(segment, covers=covers))

    return act
