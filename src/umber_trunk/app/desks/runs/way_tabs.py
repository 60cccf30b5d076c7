"""The tabs of the Runs desk beside its segments: lengths, coverings, splices, what lies side by side, what the shop has
learned."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from umber_trunk.app import theme
from umber_trunk.app.desks.runs.way_views import CombView, LearntView, LimbView, Piece, Ribbon
from umber_trunk.app.widgets.desk import Desk, Panel, button, hint, row
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.table import Column
from umber_trunk.app.widgets.typed import Typed
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.covers.dress import CoverPlan, dressed
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.explain.about_wires import why_cut
from umber_trunk.core.harness.edits import Edit, change, drop, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Fitting, Wire
from umber_trunk.core.harness.way import Alike, Comb
from umber_trunk.core.joins.join_plans import JoinPlan, joins
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.lengths.accept import learn, take_covers, take_places, unlearn
from umber_trunk.core.lengths.arcs import comb_extras_m
from umber_trunk.core.lengths.history import LEAST_PAIRS, Habit, habits
from umber_trunk.core.lengths.wire_lengths import PARTS, WireLength, least_lead_m, wire_lengths
from umber_trunk.core.quantity import Habit as Separators
from umber_trunk.core.quantity import exact
from umber_trunk.core.units import counted, parse_length_m, show_length
from umber_trunk.core.why import Derivation

SHADES = ("#6d503d", "#c58a17", "#a58a6e", "#22665c", "#5d6a70", "#bf8f6a", "#a83520", "#8fb8ae")
NIGHT_SHADES = ("#c79a6b", "#dca63c", "#a58a6e", "#62bdac", "#9fb0b8", "#8a6a50", "#ff9479", "#4f7f76")
"""Path, bends, twist, loops, entry, strip, remakes, extra: by day and by night."""


def shades() -> tuple[QColor, ...]:
    """The colours of the parts of a length, in their order."""
    return tuple(QColor(name) for name in (NIGHT_SHADES if theme.is_dark() else SHADES))


class LengthsPanel(Panel):
    """Every wire: its bar of parts, what to cut, how sure; below it the reasons of the chosen one."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.told = Label()
        self.longest = 1.0
        self.rows = desk.table("Lengths", "lengths", self._columns(), lambda r: r.wire)
        self.rows.current.connect(self._moved)
        self.reasons = hint("")
        self.key = Bars(self)
        self.column.addWidget(self.told)
        self.column.addWidget(self.key)
        self.column.addWidget(self.rows)
        self.column.addWidget(self.reasons)

    def show_now(self) -> None:
        results = self.desk.document.now
        if results is None or not results.has(wire_lengths):
            return
        found = list(results.once(wire_lengths).values())
        self.longest = max((one.cut_m for one in found), default=1.0) or 1.0
        self.rows.show_rows(found)
        worst = max(found, key=lambda one: one.chance_short, default=None)
        spare = sum(one.extra_m for one in found)
        self.told.setText(
            (
                f"{len(found)} wires, {sum(one.cut_m for one in found):.1f} m to cut, {spare:.2f} m of it against "
                "coming "
                "up short"
            )
            + (f"; {worst.wire} likeliest to, {_chance(worst.chance_short)}." if worst else ".")
        )
        self._moved(self.rows.chosen_id())

    def _moved(self, wire: str) -> None:
        results = self.desk.document.now
        one = results.once(wire_lengths).get(wire) if results is not None and results.has(wire_lengths) else None
        if one is None:
            self.reasons.setText(tr("Choose a wire: its length part by part, with why."))
            return
        told = [
            f"{share.what} {1e3 * share.metres:.1f} mm: {share.why}" for share in one.shares if abs(share.metres) > 5e-5
        ]
        index = index_of(self.desk.document.design)
        if index.wires[wire].lead is not None and results is not None:
            least = least_lead_m(results, index.wires[wire])
            told.append(f"stiff lead: no run under {1e3 * least:.0f} mm bends wide enough between its clock angles")
        if index.loops:
            part = index.wires[wire]
            a, b = index.ends[part.start.end].point, index.ends[part.finish.end].point
            ways = index.ways.alternatives(a, b, 3) if a and b else []
            told += [
                "way " + " ".join(way) + f" {show_length(sum(index.segments[name].measure.length_m for name in way))}"
                for way in ways
            ]
        self.reasons.setText("   ·   ".join(told).replace(" -", " −"))

    def _why(self, one: WireLength) -> Derivation:
        results = self.desk.document.results
        assert results is not None
        return why_cut(results, one.wire)

    def _bar(self, one: WireLength) -> list[tuple[QColor, float]]:
        """Parts as shares of the longest cut. What a bend saves is taken off the path, so that the bar is as long as
        the cut."""
        metres = [share.metres for share in one.shares]
        saved = sum(min(part, 0.0) for part in metres[1:])
        shown = [max(metres[0] + saved, 0.0), *(max(part, 0.0) for part in metres[1:])]
        return [(shade, part / self.longest) for shade, part in zip(shades(), shown, strict=True)]

    def _columns(self) -> list[Column]:
        def wire_of(one: WireLength) -> Wire:
            return index_of(self.desk.document.design).wires[one.wire]

        def via(one: WireLength, text: str) -> Edit:
            words = text.split()
            return way_line(f"pin {one.wire} to {' '.join(words)}" if words else f"unpin {one.wire}")(Separators(""))

        def remakes(one: WireLength, text: str) -> Edit:
            return remakes_edit(wire_of(one), text)

        def times(one: WireLength) -> str:
            usual = self.desk.document.design.project.remakes
            wire = wire_of(one)
            sides = [(side or Fitting()).remakes for side in (wire.at_start, wire.at_finish)]
            return " / ".join(str(usual if side is None else side) for side in sides)

        return [
            Column("Wire", lambda r: r.wire, width=58),
            Column(
                "Cut", lambda r: f"{1e3 * r.cut_m:.0f} mm", right=True, why=self._why, key=lambda r: r.cut_m, width=86
            ),
            Column(
                "Finished",
                lambda r: f"{1e3 * r.finished_m:.0f} mm",
                right=True,
                why=self._why,
                key=lambda r: r.finished_m,
                width=86,
            ),
            Column("σ", lambda r: f"{1e3 * r.sd_m:.1f}", right=True, why=self._why, key=lambda r: r.sd_m, width=52),
            Column(
                "Short",
                lambda r: _chance(r.chance_short),
                right=True,
                why=self._why,
                key=lambda r: r.chance_short,
                width=66,
            ),
            Column("Remakes", times, remakes, right=True, width=76),
            Column("Pinned to", lambda r: " ".join(wire_of(r).via), via, width=84),
            Column("Parts of it", lambda r: "", stack=self._bar, why=self._why, width=-1),
        ]


class Bars(QWidget):
    """The key to the colours of the bars."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAccessibleName(", ".join(PARTS))
        self.setMinimumHeight(18)

    def sizeHint(self) -> QSize:
        return QSize(400, int(theme.text_scale() * 20))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        try:
            painter.setFont(theme.font(9))
            metrics, x = QFontMetricsF(painter.font()), 0.0
            for part, shade in zip(PARTS, shades(), strict=True):
                painter.fillRect(QRectF(x, self.height() / 2 - 5, 12, 10), shade)
                painter.setPen(theme.INK_SOFT)
                wide = metrics.horizontalAdvance(part)
                painter.drawText(QRectF(x + 17, 0, wide + 4, self.height()), int(Qt.AlignmentFlag.AlignVCenter), part)
                x += 17 + wide + 18
        finally:
            painter.end()


def _chance(chance: float) -> str:
    return f"{100 * chance:.1f} %" if chance >= 5e-4 else "< 0.05 %"


def remakes_edit(wire: Wire, text: str) -> Edit:
    """ "2" or "1 / 3" into how often each end may be made again; empty for the project's number."""
    parts = [part.strip() for part in text.replace("/", " ").split()]
    numbers = [counted(part, 20, 0) for part in parts]
    if len(parts) > 2 or None in numbers:
        raise InputError(f"{quoted(text)}: say how often an end may be made again, 0 to 20, or both as 1 / 3.")
    numbers = numbers or [None]
    start, finish = numbers[0], numbers[-1]

    def act(design: Design) -> Design:
        values = {
            "at_start": change(wire.at_start or Fitting(), remakes=start),
            "at_finish": change(wire.at_finish or Fitting(), remakes=finish),
        }
        return put(design, "wires", change(wire, **values))

    return act


def _two(left: QWidget, right: QWidget) -> QHBoxLayout:
    """A list with its picture beside it."""
    both = QHBoxLayout()
    both.addWidget(left, 4)
    both.addWidget(right, 3)
    return both


def show_limb(view: LimbView, desk: Desk, segment: str) -> None:
    """A segment with its coverings and splices, from its a-side."""
    results, index = desk.document.now, index_of(desk.document.design)
    here = index.segments.get(segment)
    if results is None or here is None or not (results.has(dressed) and results.has(joins)):
        view.show_limb("", 0.0, ("", ""), ())
        return
    limb = results.once(dressed).get(segment)
    covers = [
        Piece(
            one.part_name or one.kind.value,
            1e3 * (one.from_m - one.overhang_m[0]),
            1e3 * (max(one.to_m, one.from_m + 0.012) + one.overhang_m[1]),
            one.kind,
            one.ok,
        )
        for one in (limb.covers if limb is not None else ())
    ]
    splices = [
        Piece(
            index.ends[one.end].name,
            1e3 * one.from_a_m - one.half_mm,
            1e3 * one.from_a_m + one.half_mm,
            None,
            not (one.crowded or one.stacked or one.in_the_way or one.over),
        )
        for one in results.once(joins)
        if one.segment == segment
    ]
    names = {point.id: point.name or point.id for point in desk.document.design.points}
    ends = (names.get(here.a, here.a), names.get(here.b, here.b))
    view.show_limb(segment, 1e3 * here.measure.length_m, ends, [*covers, *splices])


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
            else f"{len(plans)} coverings, {wrong} don’t hold"
            if wrong
            else f"{len(plans)} coverings, all hold"
        )
        self.told.setText(f"{said}; the harness weighs {mass / 1e3:.2f} kg.")
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
        would = f"  Would do: {', '.join(shelf.name(one) for one in plan.options)}." if plan.options else ""
        told = [f"✕ {said}." for said in plan.problems] or [
            (
                f"On {plan.inside_low_mm:.1f} to {plan.inside_high_mm:.1f} mm, over {plan.passes_what} "
                f"{plan.passes_mm:.1f} mm; bends to {plan.bend_mm:.0f} mm."
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
                raise InputError(f"“{text.strip()}”: before or after the ends are made?")
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
                lambda r: f"{r.mass_g:.1f} g" if r.mass_g else "not given",
                right=True,
                key=lambda r: r.mass_g,
                width=84,
            ),
            Column(
                "",
                lambda r: "; ".join(r.problems or r.notes),
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
        raise InputError(f"No catalogue has a part “{text.strip()}”. Look it up in the catalogue (Ctrl+K).")
    return found[0].id


def cover_edit(plan: CoverPlan, **values: Any) -> Edit:
    """An edit of one covering."""

    def act(design: Design) -> Design:
        segment = index_of(design).segments[plan.segment]
        covers = tuple(change(one, **values) if one.id == plan.id else one for one in segment.covers)
        return put(design, "segments", change(segment, covers=covers))

    return act


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
            f"{len(plans)} splices, {wrong} in the way"
            if wrong
            else f"{len(plans)} splices, none stacked, none in a bend, clamp or low point"
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
                return "no free place"
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
                lambda r: f"{shelf.name(r.shrink)}, {r.shrink_cut_mm:.0f} mm" if r.shrink else "none fits",
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
        note = (
            "Ribbons round bends, and legs that have to end alike. Say: comb G01 G02 G03 pitch 2.6 mm turns 90 "
            "last 30 mm, or: set G25 G26 within 2 mm"
        )
        self.rows = desk.table("Side by side", "sets", self._columns(), lambda r: r.id)
        self.comb = CombView()
        self.rows.current.connect(lambda _: self._moved())
        self.column.addWidget(hint(note))
        self.column.addLayout(_two(self.rows, self.comb))
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
            told = f"{1e3 * min(cuts):.0f} to {1e3 * max(cuts):.0f} mm" if cuts else ""
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
                return f"comb, pitch {exact(one.part.pitch_mm)} mm, turns {turns}"
            return f"alike within {exact(one.part.tolerance_mm)} mm"

        def last(one: Beside) -> str:
            return (
                f"second ends at the comb, {show_length(one.part.allowance_m)} to cut off"
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


class LearningPanel(Panel):
    """What found lengths say of each way of measuring."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        note = (
            "Planned and found lengths of built harnesses correct how you measure. Say: string 2.40 m found 2.43 "
            f"m. From {LEAST_PAIRS} pairs on a way of measuring can be taken over."
        )
        self.rows = desk.table("Ways of measuring", "learning", self._columns(), lambda r: r.method.value)
        self.learnt = LearntView()
        self.rows.current.connect(lambda _: self._moved())
        self.column.addWidget(hint(note))
        self.column.addLayout(_two(self.rows, self.learnt))
        keep = button(
            "Measure so from now on",
            self.take,
            primary=True,
            tip="Its bias counts in every cut, its ± goes onto every segment measured so",
        )
        back = button("As it stands again", self.back, tip="Forgets the bias; ± of segments stay")
        self.column.addLayout(row(None, back, keep))

    def show_now(self) -> None:
        self.rows.show_rows(habits(self.desk.document.design.project.history))
        self._moved()

    def _moved(self) -> None:
        """The pairs of the chosen way of measuring, the first where none is chosen."""
        rows, chosen = self.rows.rows_model.rows, self.rows.chosen_id()
        one = next((row for row in rows if row.method.value == chosen), rows[0] if rows else None)
        history = self.desk.document.design.project.history
        pairs = [(pair.planned_m, pair.found_m) for pair in history if one is not None and pair.method is one.method]
        self.learnt.setVisible(bool(pairs))
        self.learnt.show_pairs(
            pairs, one.bias if one else 0.0, one.share if one else 0.0, one is not None and one.enough
        )

    def _chosen(self) -> Habit | None:
        chosen = self.rows.chosen_id()
        found = next((one for one in self.rows.rows_model.rows if one.method.value == chosen), None)
        if found is None:
            self.desk.said.emit(tr("Choose a way of measuring first."))
        return found

    def take(self) -> None:
        """What the history says of the chosen way is taken over."""
        found = self._chosen()
        if found is not None:
            self.desk.document.apply(
                lambda design: learn(design, found.method), f"learn how {found.method.value} is off"
            )

    def back(self) -> None:
        """The chosen way counts as it stands."""
        found = self._chosen()
        if found is not None:
            self.desk.document.apply(lambda design: unlearn(design, found.method), f"{found.method.value} as it stands")

    def _columns(self) -> list[Column]:
        def kept(one: Habit) -> str:
            learned = {row.method for row in self.desk.document.design.project.learned}
            return "taken over" if one.method in learned else "" if one.enough else "too few pairs"

        return [
            Column("Measured by", lambda r: r.method.value, width=110),
            Column("Pairs", lambda r: str(r.pairs), right=True, width=60),
            Column("Found, of planned", lambda r: f"{100 * r.bias:+.2f} %", right=True, width=140),
            Column("± from now on", lambda r: f"{100 * r.share:.2f} %" if r.pairs > 1 else "–", right=True, width=120),
            Column("", lambda r: "off for sure" if r.biased else "not surely off", width=120),
            Column("", kept, width=-1),
        ]
