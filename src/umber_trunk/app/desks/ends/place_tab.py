"""All that can be said of an end and of the chosen wire there: stud, room, the other half, cable, what is threaded on,
angle."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QVBoxLayout, QWidget

from umber_trunk.app.widgets.desk import Desk, hint
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.catalog.parts import Base, Boot, CablePart, Ferrule, Housing, Shrink
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.assign import carrying, set_cable, set_fitting
from umber_trunk.core.ends.wire_ends import WireEnd
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import Edit, change, put
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.quantity import Habit, exact
from umber_trunk.core.units import parse_length_m, parse_number


@dataclass(frozen=True)
class Fact:
    """One thing that can be said: what it is, what is said now, an example, and the edit that a text makes."""

    id: str
    name: str
    value: str
    example: str
    edit: Callable[[str], Edit]


class PlacePanel(QWidget):
    """Follows the end and the wire that are chosen on the desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.facts = desk.table("About this end", "facts", _columns(), lambda r: r.id)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(
            hint("Type over a value; empty forgets it. Parts go by their name or id in the catalogue (Ctrl+K).")
        )
        layout.addWidget(self.facts)

    def show_place(self, end_id: str, one: WireEnd | None) -> None:
        """Another end, another wire."""
        design, shelf = self.desk.document.design, self.desk.document.shelf
        end = index_of(design).ends.get(end_id)
        self.facts.show_rows(
            [] if end is None else [*_of_end(design, end, shelf), *(_of_wire(design, one, shelf) if one else ())]
        )


def _columns() -> list[Column]:
    return [
        Column("What", lambda r: r.name, width=230),
        Column("Is", lambda r: r.value, lambda r, text: r.edit(text.strip()), width=230),
        Column("Such as", lambda r: r.example, width=-1),
    ]


def _of_end(design: Design, end: End, shelf: Shelf) -> list[Fact]:
    def length(field: str) -> Callable[[str], Edit]:
        def make(text: str) -> Edit:
            def typed(habit: Habit) -> Edit:
                mm = 1e3 * parse_length_m(text, "mm", habit) if text else 0.0
                return lambda now: put(now, "ends", change(index_of(now).ends[end.id], **{field: mm}))

            return Typed(typed)

        return make

    def mates(text: str) -> Edit:
        known = {one.id.lower(): one.id for one in design.ends} | {one.name.lower(): one.id for one in design.ends}
        if text and text.lower() not in known:
            raise InputError.of("any.no-end", text=text)
        other = known.get(text.lower()) if text else None
        return lambda now: put(now, "ends", change(index_of(now).ends[end.id], mates=other))

    found = [
        Fact(
            "stud",
            tr("Stud its lugs go on"),
            f"{exact(end.stud_mm)} mm" if end.stud_mm else "",
            "8 mm",
            length("stud_mm"),
        ),
        Fact(
            "room", tr("Room behind it"), f"{exact(end.room_mm)} mm" if end.room_mm else "", "60 mm", length("room_mm")
        ),
        Fact("mates", tr("End of this harness it plugs into"), _end_name(design, end.mates), "tide logger", mates),
    ]
    for body in end.housings:

        def other(text: str, body_id: str = body.id) -> Edit:
            part = _named(shelf, text, Housing)

            def act(now: Design) -> Design:
                here = index_of(now).ends[end.id]
                bodies = tuple(change(one, other=part) if one.id == body_id else one for one in here.housings)
                return carrying(put(now, "ends", change(here, housings=bodies)), [part], shelf)

            return act

        if body.part:
            found.append(
                Fact(
                    f"other {body.id}",
                    tr("Half it plugs into"),
                    shelf.name(body.other) if body.other else "",
                    tr("its mate from the catalogue"),
                    other,
                )
            )
    return found


def _of_wire(design: Design, one: WireEnd, shelf: Shelf) -> list[Fact]:
    fitting, wire = one.fitting, one.wire
    kinds: tuple[tuple[str, str, type[Base], str], ...] = (
        ("ferrule", tr("Ferrule"), Ferrule, "Anchor ferrule 1.5 mm²"),
        ("shrink", tr("Shrink"), Shrink, "Sheath shrink 2:1, 9.5 mm"),
        ("boot", tr("Boot"), Boot, tr("a battery boot")),
    )

    def worn(field: str, kind: type[Base]) -> Callable[[str], Edit]:
        def make(text: str) -> Edit:
            part = _named(shelf, text, kind)
            return lambda now: set_fitting(now, wire.id, one.side, shelf, **{field: part})

        return make

    def clock(text: str) -> Edit:
        angle = parse_number(text.removesuffix("°")) if text else None
        return lambda now: set_fitting(now, wire.id, one.side, shelf, clock_deg=angle)

    def folded(text: str) -> Edit:
        if text.lower() not in ("", "yes", "no"):
            raise InputError.of("window.say-yes-or-no", text=text)
        return lambda now: set_fitting(now, wire.id, one.side, shelf, folded=text.lower() == "yes")

    found = []
    for field, name, kind, example in kinds:
        part = getattr(fitting, field)
        found.append(
            Fact(
                field,
                tr("{what} on {wire}", what=name, wire=wire.id),
                shelf.name(part) if part else "",
                example,
                worn(field, kind),
            )
        )
    angle = "" if fitting.clock_deg is None else f"{fitting.clock_deg:g}°"
    found.append(Fact("clock", tr("Angle of {wire}’s lug, seen from its start", wire=wire.id), angle, "90", clock))
    found.append(
        Fact("folded", tr("{wire} folded double", wire=wire.id), "yes" if fitting.folded else "", "yes", folded)
    )
    if wire.cable:
        cable = next((row for row in design.cables if row.id == wire.cable), None)

        def cabled(text: str) -> Edit:
            part = _named(shelf, text, CablePart)
            return lambda now: set_cable(now, wire.cable or "", part, shelf)

        found.append(
            Fact(
                "cable",
                tr("Cable {cable}", cable=wire.cable),
                shelf.name(cable.part) if cable and cable.part else "",
                "Heron rubber cord A, 3 × 1.5 mm²",
                cabled,
            )
        )
    return found


def _end_name(design: Design, end_id: str | None) -> str:
    end = index_of(design).ends.get(end_id or "")
    return end.name if end else ""


def _named(shelf: Shelf, text: str, kind: type[Base]) -> str | None:
    """The part of a kind with that name or id; None for no text."""
    if not text:
        return None
    found = [part.id for part in shelf.of(kind) if text.lower() in (part.id.lower(), part.name.lower())]
    if not found:
        raise InputError.of("window.no-catalogue-has-for-this", text=text)
    return found[0]
