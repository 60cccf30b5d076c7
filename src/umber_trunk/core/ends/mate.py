"""The mating half, derived and not retyped; and two ends compared cavity by cavity, by what each cavity is for."""

from __future__ import annotations

from dataclasses import dataclass, replace

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import shelf_of
from umber_trunk.core.ends.faces import Face, faces_of, mirrored
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design

OTHER_FORM = {"plug": "receptacle", "receptacle": "plug"}
OTHER_GENDER = {"pin": "socket", "socket": "pin"}


def mate_of(face: Face, design: Design) -> Face:
    """The half that a face plugs into, from that half's own side of the same name: form and gender change, each cavity
    meets the one with its label. The mate of the mate is the face again."""
    shelf = shelf_of(design.parts)
    mine = shelf.get(face.part, Housing)
    other = shelf.mate_of(mine) if mine is not None else None
    spots = tuple(map(mirrored, face.spots))
    named = replace(face, part=other.id, name=other.name) if other is not None else face
    return replace(
        named,
        form=OTHER_FORM.get(face.form, face.form),
        contacts=OTHER_GENDER.get(face.contacts, face.contacts),
        spots=spots,
    )


@dataclass(frozen=True)
class Crossing:
    """Two ends compared at one label: what each has there, and in words what is wrong."""

    label: str
    mine: str
    theirs: str
    what: str


def differences(design: Design, end_id: str, other_id: str) -> list[tuple[str, str]]:
    """(label, what is wrong) where two ends that are to plug into one another don't agree: a conductor on one side alone,
    crossed with another, or plus on minus."""
    mine, theirs = functions(design, end_id), functions(design, other_id)
    return [(row.label, row.what) for row in compared(mine, theirs) if row.what]


def compared(mine: dict[str, str], theirs: dict[str, str]) -> list[Crossing]:
    """Two pin maps, label → function, side by side in the order of the labels."""
    at_theirs = {function: label for label, function in theirs.items() if function}
    rows = []
    for label in dict.fromkeys([*mine, *theirs]):
        a, b = mine.get(label, ""), theirs.get(label, "")
        what = ""
        if a != b:
            if not b:
                what = f"{a} has nothing to meet."
            elif not a:
                what = f"nothing meets {b}."
            elif _pole(a) and _pole(b) and _pole(a) != _pole(b):
                what = f"wrong polarity: {a} meets {b}."
            elif a in at_theirs:
                what = f"crossed with {b}: {a} is at {at_theirs[a]} there."
            else:
                what = f"{a} meets {b}."
        rows.append(Crossing(label, a, b, what))
    return rows


def _pole(function: str) -> str:
    last = function.rsplit(" ", 1)[-1].lower()
    return {
        "+": "+",
        "−": "−",
        "-": "−",
        "plus": "+",
        "minus": "−",
        "line": "line",
        "neutral": "neutral",
        "earth": "earth",
    }.get(last, "")


def functions(design: Design, end_id: str) -> dict[str, str]:
    """Label → what the cavity is for, of all cavities of an end that anything goes to. A wire's circuit names it, since
    colours of two makers don't agree; without one, the wire's name."""
    places, end = places_of(design), index_of(design).ends[end_id]
    found = {}
    for cavity in end.cavities:
        wires = [one.wire for one in places.at.get((end.id, cavity.id), [])]
        core = places.core(wires[0]) if wires else None
        if wires:
            found[cavity.label or cavity.id] = (
                (core.role if core and core.role else "") or wires[0].circuit or wires[0].name or wires[0].id
            )
    return found


def through(design: Design, end_id: str, other_id: str) -> list[Crossing]:
    """Both ends of a cable side by side: for each label of the first, what arrives at the same label of the other. A straight
    lead has the same wire at both; what is crossed, missing or on the wrong pole is named."""
    places = places_of(design)
    mine: dict[str, str] = {}
    theirs: dict[str, str] = {}
    for wire in design.wires:
        ends = {
            wire.start.end: places.by_key.get((wire.id, "start")),
            wire.finish.end: places.by_key.get((wire.id, "finish")),
        }
        here, there = ends.get(end_id), ends.get(other_id)
        if here is not None and there is not None:
            mine[here.label] = f"{wire.id}"
            theirs[there.label] = f"{wire.id}"
    roles = {}
    for one in (end_id, other_id):
        for face in _faces(design, one):
            roles[one] = {spot.label: spot.function for spot in face.spots}
    rows = []
    for row in compared(mine, theirs):
        what = row.what
        a = roles.get(end_id, {}).get(row.label, "")
        wrong = next((spot for spot, wire in theirs.items() if wire == row.mine), "")
        b = roles.get(other_id, {}).get(wrong, "")
        if what and _pole(a) and _pole(b) and _pole(a) != _pole(b):
            what = f"wrong polarity: {row.mine} goes from {a} ({row.label}) to {b} ({wrong})."
        rows.append(replace(row, what=what))
    return rows


def _faces(design: Design, end_id: str) -> list[Face]:
    try:
        return faces_of(design, end_id, "wire")
    except InputError:
        return []
