"""The wire list itself: names, circuits, pins, colours and listed lengths, corrected cell by cell."""

from __future__ import annotations

from typing import Any

from umber_trunk.app.document import Document
from umber_trunk.app.widgets.rows_model import Column
from umber_trunk.app.widgets.typed import parsed, set_field
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.edits import Edit
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Wire
from umber_trunk.core.harness.typed import Typed
from umber_trunk.core.units import counted, parse_length_m, show_length


def pin_named(design: Design, text: str) -> Pin:
    """The pin that "bow 3" or "bow:3" names: the end's name, then the pin; InputError says which part isn't there."""
    said = " ".join(text.replace(":", " ").split())
    fitting = [end for end in design.ends if said.lower().startswith(f"{end.name.lower()} ")]
    if not fitting:
        raise InputError.of("window.begins-with-no-end", text=text.strip(), example=_example(design))
    end = max(fitting, key=lambda one: len(one.name))
    cavity = said[len(end.name) :].strip()
    known = {one.id.lower(): one.id for one in end.cavities}
    if cavity.lower() not in known:
        raise InputError.of(
            "window.no-pin", end=end.name, cavity=cavity, cavities=", ".join(one.id for one in end.cavities) or "none"
        )
    return Pin(end=end.id, cavity=known[cavity.lower()])


def _example(design: Design) -> str:
    end = next((one for one in design.ends if one.cavities), None)
    return f"{end.name} {end.cavities[0].id}" if end else "battery +"


def wire_columns(document: Document) -> list[Column]:
    """Columns over the wires of the design shown."""

    def pin_text(pin: Pin) -> str:
        end = index_of(document.design).ends.get(pin.end)
        return f"{end.name if end else pin.end + '?'} {pin.cavity}"

    def pin_edit(side: str) -> Any:
        def edit(wire: Wire, text: str) -> Edit:
            return lambda design: set_field("wires", **{side: pin_named(design, text)})(wire)(design)

        return edit

    def word(field: str) -> Any:
        return lambda wire, text: set_field("wires", **{field: text.strip()})(wire)

    def listed(wire: Wire, text: str) -> Edit:
        if not text.strip():
            return set_field("wires", stated_m=None)(wire)
        return Typed(lambda habit: set_field("wires", stated_m=parse_length_m(text, habit=habit))(wire))

    return [
        Column("Wire", lambda r: r.id, width=60),
        Column("Name", lambda r: r.name, word("name"), width=140),
        Column("Circuit", lambda r: r.circuit, word("circuit"), width=110),
        Column("From", lambda r: pin_text(r.start), pin_edit("start"), width=160),
        Column("To", lambda r: pin_text(r.finish), pin_edit("finish"), width=160),
        Column("Colour", lambda r: r.colour, word("colour"), swatch=lambda r: (r.colour, r.stripe), width=110),
        Column("Stripe", lambda r: r.stripe, word("stripe"), width=90),
        Column(
            "In parallel",
            lambda r: str(r.parallel),
            parsed("wires", "parallel", _count),
            right=True,
            key=lambda r: r.parallel,
        ),
        Column(
            "Listed length",
            lambda r: show_length(r.stated_m) if r.stated_m else "",
            listed,
            right=True,
            key=lambda r: r.stated_m or 0.0,
        ),
    ]


def _count(text: str, _: object) -> int:
    count = counted(text, 10_000, 0)
    if count is None:
        raise InputError.of("window.no-number-of-conductors", text=quoted(text))
    return count
