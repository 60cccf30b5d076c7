"""Loads and supplies at ends that have wires already: which of their pins is plus, which is minus."""

from __future__ import annotations

import re

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import put
from umber_trunk.core.harness.end import End, EndKind, Link, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Pin, Wire

PLUS = re.compile(r"\+\d*|b\+|v\+|vcc|vdd|pos(itive)?|plus|hot|live|feed|supply|pwr|power|86|30|87", re.I)
MINUS = re.compile(r"[-−]\d*|b-|v-|0v|gnd|ground|neg(ative)?|minus|earth|return|ret|com(mon)?|85|31", re.I)
PLUS_COLOURS = {"red", "orange", "yellow", "violet", "white"}
MINUS_COLOURS = {"black", "brown", "blue"}
GROUND_ENDS = re.compile(r"gnd|ground|earth|frame|chassis|neg|return|minus|bus ?bar", re.I)
INPUTS = re.compile(r"in(put)?|\+|b\+|bat(tery)?|feed|supply|main|bus|30", re.I)


def wired_pins(design: Design, end: End) -> dict[str, list[Wire]]:
    """cavity → wires at it, for the cavities of an end that have any."""
    found: dict[str, list[Wire]] = {}
    for wire in design.wires:
        for pin in (wire.start, wire.finish):
            if pin.end == end.id:
                found.setdefault(pin.cavity, []).append(wire)
    return found


def _leaning(design: Design, end: End, cavity: str, wires: list[Wire]) -> int:
    """Positive for plus, negative for minus: the pin's name counts most, then where its wires go, then colour."""
    score = 4 * bool(PLUS.fullmatch(cavity)) - 4 * bool(MINUS.fullmatch(cavity))
    index = index_of(design)
    for wire in wires:
        far = wire.finish if wire.start.end == end.id else wire.start
        other = index.ends.get(far.end)
        if other is not None and GROUND_ENDS.search(other.name):
            score -= 2
        if other is not None and other.kind is EndKind.BOX:
            score += 2
        score += (wire.colour in PLUS_COLOURS) - (wire.colour in MINUS_COLOURS)
    return score


def poles(design: Design, end: End, named: tuple[str, ...]) -> tuple[str, str] | None:
    """(plus, minus) cavities at an end with wires: as named, else told apart by name, way and colour.

    None when the end has no wires to join to. EditError when they can't be told apart.
    """
    known = {cavity.id.lower(): cavity.id for cavity in end.cavities}
    if named:
        lost = [pin for pin in named if pin.lower() not in known]
        if lost or len(named) != 2:
            pins = ", ".join(known.values()) or "none"
            raise EditError.of("needs.no-such-pin", end=end.name, lost=(lost or named)[0], pins=pins)
        return known[named[0].lower()], known[named[1].lower()]
    used = {p.cavity for load in design.loads for p in (load.plus, load.minus) if p.end == end.id}
    free = {cavity: wires for cavity, wires in wired_pins(design, end).items() if cavity not in used}
    if not free:
        return None
    ranked = sorted(free, key=lambda cavity: _leaning(design, end, cavity, free[cavity]))
    low, high = (_leaning(design, end, cavity, free[cavity]) for cavity in (ranked[0], ranked[-1]))
    if len(free) >= 2 and high > low and high > 0 > low - 1:
        return ranked[-1], ranked[0]
    pins = ", ".join(free)
    raise EditError.of(
        "needs.say-which-pins-are-plus", end=end.name, pins=pins, thickest=ranked[-1], thinnest=ranked[0]
    )


def join(design: Design, end_id: str, cavities: tuple[str, ...]) -> Design:
    """Joins cavities inside an end: a closed switch, a bus bar, a coupler."""
    end = index_of(design).ends[end_id]
    known = {cavity.id.lower(): cavity.id for cavity in end.cavities}
    lost = [pin for pin in cavities if pin.lower() not in known]
    if lost or len(cavities) < 2:
        raise EditError.of("needs.name-pins-to-join", end=end.name, lost=lost[0] if lost else "")
    group = tuple(known[pin.lower()] for pin in cavities)
    return put(design, "ends", end.model_copy(update={"bridged": (*end.bridged, group)}))


def with_fuses(end: End) -> End:
    """A fuse box that names its input gets a fuse, rating still open, to each of its other cavities."""
    inputs = [cavity.id for cavity in end.cavities if INPUTS.fullmatch(cavity.id)]
    if end.kind is not EndKind.BOX or len(inputs) != 1 or end.links:
        return end
    links = tuple(
        Link(id=cavity.id, kind=LinkKind.FUSE, a=inputs[0], b=cavity.id, resistance_ohm=0.002)
        for cavity in end.cavities
        if cavity.id != inputs[0] and not MINUS.fullmatch(cavity.id)
    )
    return end.model_copy(update={"links": links, "bridged": (*end.bridged, (inputs[0],))})


def pins_of(end: End, pair: tuple[str, str]) -> tuple[Pin, Pin]:
    """The two poles as pins."""
    return Pin(end=end.id, cavity=pair[0]), Pin(end=end.id, cavity=pair[1])
