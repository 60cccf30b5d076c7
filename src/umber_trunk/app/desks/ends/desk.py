"""Ends: the chosen end's face, pin map and strip drawing, and every fit, the worst first."""

from __future__ import annotations

from math import isfinite

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QCompleter

from umber_trunk.app.desks.ends.columns import (
    cavity_told,
    fit_columns,
    known_fittings,
    pin_columns,
    school_columns,
    step_columns,
)
from umber_trunk.app.desks.ends.halves_tab import HalvesPanel
from umber_trunk.app.desks.ends.place_tab import PlacePanel
from umber_trunk.app.desks.ends.repair_tab import RepairPanel
from umber_trunk.app.desks.ends.studs import PART, lugs_on_studs
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.asked import text_asked
from umber_trunk.app.widgets.desk import Desk, button, column, hint, tabbed
from umber_trunk.app.widgets.face_view import FaceView
from umber_trunk.app.widgets.flow import Flow
from umber_trunk.app.widgets.line import Line
from umber_trunk.app.widgets.plain import Label
from umber_trunk.app.widgets.strip_view import StripView
from umber_trunk.app.widgets.telling import Telling
from umber_trunk.app.widgets.words import tr, word
from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.ends.assign import WORN, assign, fill_run, set_fitting, set_housing, swap
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.faces import Face, View, faces_of
from umber_trunk.core.ends.fits import fits, worst_first
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.practice import MATTERS, WEIGHTS
from umber_trunk.core.ends.strip import cable_strips, clock_mark, strip_of
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of

NO_PART = word("no catalogue part")
FITS, REPAIR = 2, 5


class EndsDesk(Desk):
    """On the left the end's face. On the right its pin map and strip drawing, every fit, the order of work, house
    practice."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.side: View = "wire"
        self._label = ""
        self._told_ends: list[tuple[str, str]] = []
        self.end = QComboBox()
        self.end.setAccessibleName(tr("End"))
        self.end.currentIndexChanged.connect(lambda _: self._end_chosen())
        self.housing = QComboBox()
        self.housing.setEditable(True)
        self.housing.setLineEdit(Line())
        self.housing.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.housing.setAccessibleName(tr("Housing from the catalogue"))
        self.housing.activated.connect(lambda _: self._housing_chosen())
        for box, letters in ((self.end, 14), (self.housing, 23)):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(letters)
        self.turn = button("Mating side  ␣", self.turn_over, tip="Looks at the face from the other side")
        self.face = FaceView()
        self.face.chosen.connect(self._cavity_chosen)
        self.face.wants.connect(self._put_here)
        self.face.turned.connect(self.turn_over)
        self.pins = self.table("Pin map", "pins", pin_columns(document), lambda r: f"{r.wire.id} {r.side}")
        self.pins.current.connect(self._pin_moved)
        self.pins.setMinimumHeight(120)
        take = button(
            "Take proposals  ⏎", self.take, primary=True, tip="Makes every proposed part of the harness the chosen one"
        )
        self.told = hint("")
        left = column(Flow(self.end, self.housing, self.turn), self.face, self.told)
        self.fits = self.table("Fits, worst first", "fits", fit_columns(document), lambda r: r.id)
        self.fits.current.connect(self._fit_moved)
        self.summary = Label()
        self.cure = hint("")
        self.strip = StripView()
        self.steps = self.table("Order at this end", "steps", step_columns(), lambda r: r.id)
        self.reasons = hint("")
        self.schools = self.table("House practice", "practice", school_columns(document), lambda r: r.field)
        self.schools.current.connect(self._school_moved)
        before = tr("What must be done before what, at the chosen end: shrink, seals and nuts go on before the strip.")
        schools = tr(
            "Where good builders disagree. Type the number of a school to keep it; fits, strips and order follow."
        )
        self.repair, self.halves, self.place = RepairPanel(self), HalvesPanel(self), PlacePanel(self)
        swap_two = button("Swap two", self.swap_chosen, tip="Changes the wires of two chosen rows")
        fill = button(
            "Fill from…", self.fill_chosen, tip="Puts the chosen rows' wires into the cavities from a label on"
        )
        lock = button("Lock ■", self.lock_chosen, tip="Keeps this end's parts whatever is proposed; again to free them")
        pages = (
            ("Pin map", column(self.pins, Flow(hint("A “?” is proposed."), None, swap_two, fill, lock, take))),
            ("Strip", self.strip),
            ("Fits", column(self.summary, self.fits, self.cure)),
            ("Halves", self.halves),
            ("Order", column(hint(before), self.steps)),
            ("Repair", self.repair),
            ("Place", self.place),
            ("Practice", column(hint(schools), self.schools, self.reasons)),
        )
        self._tabs, line, self._stack = tabbed(self, pages)
        right = column(line, self._stack)
        self.telling = Telling(
            document,
            "What the ends get",
            "Say what they get:  housing Cockle 2-way M, plug on lamp 1 to lamp 6   ·   blanks free on ecu   ·   "
            "contact … on all   ·   take ends",
        )
        self.telling.told.connect(self.said)
        self.side_by_side(left, right, (520, 740), self.telling)
        self.catch_up()

    # what is shown

    def refresh(self) -> None:
        results = self.document.now
        if results is None or not (results.has(fits) and results.has(fitted)):
            return
        self._fill_ends()
        found = results.once(fits)
        self.fits.show_rows(results.once(worst_first))
        wrong = sum(not fit.ok for fit in found)
        known = results.once(fitted)
        mend = (
            tr("{wrong} not met", wrong=wrong)
            if wrong
            else tr("all met")
            if found
            else tr("nothing known of any end yet: choose a housing, a stud or a part")
        )
        parts = {part for one in known.fittings.values() for part in (one.part, one.seal, one.ferrule) if part}
        told = tr("{count} fits judged, {mend}", count=len(found), mend=mend)
        if parts:
            told += tr("; {count} different parts on the wires", count=len(parts))
            if isfinite(known.cost) and known.cost:
                over = 100 * max(known.cost - known.bound, 0.0) / known.cost
                told += (
                    tr(", no fewer would do")
                    if over < 0.5
                    else tr(", at most {over:.0f} % over the fewest possible", over=over)
                )
        self.summary.setText(told + ".")
        self.schools.show_rows([*MATTERS, *WEIGHTS])
        if not self.schools.chosen_id():
            self.schools.choose(MATTERS[0].field, quiet=True)
            self._school_moved(MATTERS[0].field)
        self._show_end()

    def begin(self) -> None:
        self.face.setFocus()

    def _fill_ends(self) -> None:
        design, chosen = self.document.design, self.end.currentData()
        results = self.document.now
        open_at: dict[str, int] = {}
        for fit in results.once(fits) if results else ():
            open_at[fit.end] = open_at.get(fit.end, 0) + (not fit.ok)
        ranked = sorted(
            design.ends,
            key=lambda end: (-open_at.get(end.id, 0), not any(body.part for body in end.housings) and not end.stud_mm),
        )
        told = [(f"{end.name}  ✕ {open_at[end.id]}" if open_at.get(end.id) else end.name, end.id) for end in ranked]
        if told != self._told_ends:
            self._told_ends = told
            self.end.blockSignals(True)
            self.end.clear()
            for text, end_id in told:
                self.end.addItem(text, end_id)
            self.end.setCurrentIndex(max(self.end.findData(chosen), 0))
            self.end.blockSignals(False)
        if self.housing.count() == 0:
            shelf = self.document.shelf
            self.housing.addItem(tr(NO_PART), None)
            for part in shelf.of(Housing):
                self.housing.addItem(part.name, part.id)
            words = QCompleter(self.housing.model(), self.housing)
            words.setFilterMode(Qt.MatchFlag.MatchContains)
            words.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            self.housing.setCompleter(words)

    def _show_end(self) -> None:
        end_id, places = self.end.currentData(), places_of(self.document.design, self.document.shelf)
        here = [one for one in places.ends if one.end.id == end_id]
        self.pins.show_rows(here)
        face = self._face()
        if face is not None and self._label not in {spot.label for spot in face.spots}:
            self._label = here[0].label if here else face.spots[0].label
        elif face is None and self._label not in {one.label for one in here}:
            self._label = here[0].label if here else ""
        body = (
            next((one for one in index_of(self.document.design).ends[end_id].housings if one.part), None)
            if end_id
            else None
        )
        self.housing.setCurrentIndex(max(self.housing.findData(body.part if body else None), 0))
        line = self.housing.lineEdit()
        if line is not None:
            line.setCursorPosition(0)
        self._show_cavity()
        results = self.document.now
        self.steps.show_rows(steps_at(results, end_id) if results is not None and end_id else [])
        self.repair.show_end(end_id or "")
        self.halves.show_end(end_id or "")

    def _face(self) -> Face | None:
        end_id, results = self.end.currentData(), self.document.now
        if not end_id:
            return None
        try:
            blanks = results.once(fitted).blanks if results is not None and results.has(fitted) else None
            return faces_of(self.document.design, end_id, self.side, blanks, self.document.shelf)[0]
        except InputError:
            return None

    def _show_cavity(self) -> None:
        results, end_id = self.document.now, self.end.currentData()
        wrong: dict[str, str] = {}
        for fit in results.once(fits) if results is not None and results.has(fits) else ():
            if fit.end == end_id and not fit.ok and fit.cavity:
                wrong.setdefault(fit.cavity, fit.message)
        face, stacks = self._face(), lugs_on_studs(self.document, self.end.currentData())
        if face is None and stacks:
            self.face.show_stack(
                stacks, self._label, "bar" if len(stacks) and any(PART in label for label in stacks) else "stud"
            )
        else:
            self.face.show_face(face, wrong, self._label)
        one = self._chosen()
        self.told.setText(cavity_told(self.document, one))
        self.place.show_place(end_id or "", one)
        if results is None or not results.has(fitted) or one is None:
            self.strip.show_strip(None)
            return
        cable = (
            next((cut for cut in cable_strips(results, one.wire.cable) if cut.end == end_id), None)
            if one.wire.cable
            else None
        )
        made = strip_of(results, one)
        self.strip.show_strip(made, cable, str(clock_mark(results, one.wire.id)) if made else "")

    def _chosen(self) -> WireEnd | None:
        places, end_id = places_of(self.document.design, self.document.shelf), self.end.currentData()
        return next((one for one in places.ends if one.end.id == end_id and one.label == self._label), None)

    # what the builder does

    def tab(self, number: int) -> None:
        """Brings up a page: pin map, strip, fits, halves, order, repair, place, practice."""
        self._tabs[number].click()

    def turn_over(self) -> None:
        """Looks at the face from the other side."""
        self.side = "mating" if self.side == "wire" else "wire"
        self.turn.setText(tr("Wire side  ␣") if self.side == "mating" else tr("Mating side  ␣"))
        self._show_cavity()

    def take(self) -> None:
        """Makes all proposals the chosen parts."""
        self.taking.take(
            "ends", "parts as proposed", tr("The proposed parts are chosen."), tr("Every end has its parts.")
        )

    def _rows_chosen(self) -> list[WireEnd]:
        known = {f"{one.wire.id} {one.side}": one for one in places_of(self.document.design, self.document.shelf).ends}
        return [known[key] for key in self.pins.chosen_ids() if key in known]

    def swap_chosen(self) -> None:
        """Two chosen rows of the pin map change their cavities."""
        rows, end_id = self._rows_chosen(), self.end.currentData()
        if len(rows) != 2:
            self.said.emit(tr("Choose two rows of the pin map to swap (Ctrl + click)."))
            return
        a, b = (one.label for one in rows)
        self.document.apply(lambda design: swap(design, end_id, a, b, self.document.shelf), f"swap {a} and {b}")

    def fill_chosen(self) -> None:
        """The chosen rows' wires go into the cavities from a label on."""
        wires, end_id = [one.wire.id for one in self._rows_chosen()], self.end.currentData()
        if not wires:
            self.said.emit(tr("Choose rows of the pin map to fill with (Shift + ↓)."))
            return
        label, ok = text_asked(self, tr("Fill from"), tr("From which cavity on?"))
        if ok and label.strip():
            self.document.apply(
                lambda design: fill_run(design, end_id, wires, label.strip(), self.document.shelf),
                f"fill from {label.strip()}",
            )

    def lock_chosen(self) -> None:
        """Keeps what is on the chosen wire's end, or frees it again."""
        one, known = self._chosen(), known_fittings(self.document)
        if one is None or known is None:
            return
        locked, fitting = not one.fitting.locked, known.of(one)
        worn = {field: getattr(fitting, field) for field in WORN} if locked else {}
        self.document.apply(
            lambda design: set_fitting(design, one.wire.id, one.side, self.document.shelf, locked=locked, **worn),
            f"lock {one.wire.id}",
        )

    def _put_here(self, label: str) -> None:
        """Double click or Enter on a cavity: the wire chosen in the pin map goes there."""
        rows = self._rows_chosen()
        if len(rows) == 1 and rows[0].label != label:
            one = rows[0]
            self.document.apply(
                lambda design: assign(design, one.wire.id, one.side, label, self.document.shelf),
                f"{one.wire.id} to {label}",
            )

    def _housing_chosen(self) -> None:
        end_id, part = self.end.currentData(), self.housing.currentData()
        end = index_of(self.document.design).ends.get(end_id)
        if end is None:
            return
        body = next((one.id for one in end.housings), "A")
        self.document.apply(
            lambda design: set_housing(design, end_id, body, part, self.document.shelf), f"housing of {end.name}"
        )

    def _end_chosen(self) -> None:
        self._label = ""
        self._show_end()
        if self.end.currentData():
            self.picked.emit("ends", self.end.currentData())

    def _cavity_chosen(self, label: str) -> None:
        self._label = label.split(PART)[0]
        one = self._chosen()
        if one is not None:
            if len(self._rows_chosen()) < 2:
                self.pins.choose(f"{one.wire.id} {one.side}", quiet=True)
            self.said.emit(f"{one.name}: {one.wire.id} {one.wire.name}")
        self._show_cavity()

    def _pin_moved(self, key: str) -> None:
        one = next(
            (
                row
                for row in places_of(self.document.design, self.document.shelf).ends
                if f"{row.wire.id} {row.side}" == key
            ),
            None,
        )
        if one is not None and one.label != self._label:
            self._label = one.label
            self._show_cavity()

    def _fit_moved(self, key: str) -> None:
        results = self.document.now
        fit = next((row for row in results.once(fits) if row.id == key), None) if results else None
        if fit is None:
            return
        would = tr("  Would do: {options}.", options=", ".join(fit.options)) if fit.options else ""
        self.cure.setText(f"{fit.message} {fit.cure}{would}")
        self._go_to(fit.end, fit.cavity)

    def _go_to(self, end_id: str, label: str) -> None:
        at = self.end.findData(end_id)
        if at >= 0 and end_id != self.end.currentData():
            self.end.blockSignals(True)
            self.end.setCurrentIndex(at)
            self.end.blockSignals(False)
            self._label = label
            self._show_end()
        elif label and label != self._label:
            self._label = label
            self._show_cavity()

    def reveal(self, part: str, part_id: str) -> bool:
        """An end is shown by its face, a fit by its row and its cavity."""
        if part == "ends":
            self.catch_up()
            known = self.end.findData(part_id) >= 0
            self._go_to(part_id, "")
            return known
        if part == "looks":
            self.tab(REPAIR)
            return True
        found = super().reveal(part, part_id)
        if part == "fits" and found:
            self.tab(FITS)
            self._fit_moved(part_id)
        return found

    def in_view(self, part: str) -> bool:
        return part == "ends" or super().in_view(part)

    def _school_moved(self, field: str) -> None:
        matter = next((one for one in (*MATTERS, *WEIGHTS) if one.field == field), None)
        if matter is not None:
            self.reasons.setText("  ".join(f"{school.says.capitalize()}: {school.why}" for school in matter.schools))
