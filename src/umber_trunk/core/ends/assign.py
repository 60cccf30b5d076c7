"""Edits of ends: which wire in which cavity, which part on which wire. A design keeps copies of the parts it uses."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from umber_trunk.core.catalog.parts import CablePart, Housing
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.ends.covering import Fitted
from umber_trunk.core.ends.wire_ends import NOTHING, Side, WireEnd, body_of, places_of
from umber_trunk.core.errors import EditError, quoted
from umber_trunk.core.harness.edits import change, put, put_all
from umber_trunk.core.harness.end import Cavity, End
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Fitting, Pin, Wire

WORN = ("part", "seal", "ferrule", "shrink", "boot")
"""Fields of a fitting that name parts."""


def carrying(design: Design, ids: Iterable[str | None], shelf: Shelf | None = None) -> Design:
    """The design with copies of these parts, and of the clamps, plugs and tools they name."""
    mine, own = shelf_for(design, shelf), {part.id for part in design.parts}
    wanted, fresh = [one for one in ids if one], {}
    while wanted:
        part = mine.parts.get(wanted.pop())
        if part is None or part.id in own or part.id in fresh:
            continue
        fresh[part.id] = part
        wanted += [named for field in ("clamp", "plug", "tool", "extraction") if (named := getattr(part, field, None))]
    return put_all(design, "parts", fresh.values()) if fresh else design


def set_fitting(design: Design, wire_id: str, side: Side, shelf: Shelf | None = None, **values: Any) -> Design:
    """Puts parts on a wire's end: part, seal, ferrule, shrink, boot, clock_deg, folded, locked. EditError for a wire
    there is none of or a part that no catalogue has."""
    wire = _wire(design, wire_id)
    known = shelf_for(design, shelf)
    for field in WORN:
        named = values.get(field)
        if named is not None and known.named(named) is None:
            raise EditError.of("any.no-catalogue", text=named)
    field = "at_start" if side == "start" else "at_finish"
    fitting: Fitting = change(getattr(wire, field) or NOTHING, **values)
    changed = put(design, "wires", change(wire, **{field: None if fitting == NOTHING else fitting}))
    return carrying(changed, [getattr(fitting, field) for field in WORN], shelf)


def set_housing(design: Design, end_id: str, body_id: str, part: str | None, shelf: Shelf | None = None) -> Design:
    """Makes an end's housing that catalogue part, an end without one gets it; None forgets the part. Cavities whose ids
    the face doesn't have go to its labels in their order."""
    end = _end(design, end_id)
    housing = shelf_for(design, shelf).get(part, Housing)
    if part is not None and housing is None:
        raise EditError.of("ends.no-catalogue-has-housing", part=part)
    body = next((one for one in end.housings if one.id == body_id), Body(id=body_id))
    if housing is None:
        changed = change(body, part=None, other=None, blanks=None)
    else:
        changed = change(
            body,
            part=housing.id,
            name=housing.name,
            form=housing.form,
            contacts=housing.contacts,
            sealed=housing.seal != "none",
            blanks=None,
        )
    fresh = not any(one.id == body_id for one in end.housings)
    bodies = (*end.housings, changed) if fresh else tuple(changed if one.id == body_id else one for one in end.housings)
    made: End = change(end, housings=bodies)
    if housing is not None:
        made = change(made, cavities=_labelled(made, changed, housing))
    return carrying(put(design, "ends", made), [part], shelf)


def _labelled(end: End, body: Body, housing: Housing) -> tuple[Cavity, ...]:
    """The cavities of an end with labels that the face has."""
    labels = [place.label for place in housing.cavities]
    mine = [
        cavity
        for cavity in end.cavities
        if body_of(end, cavity) is not None and (body_of(end, cavity) or body).id == body.id
    ]
    taken = {cavity.label or cavity.id for cavity in mine} & set(labels)
    free = iter(label for label in labels if label not in taken)
    new = {}
    for cavity in mine:
        if (cavity.label or cavity.id) not in labels:
            label = next(free, None)
            if label is None:
                raise EditError.of(
                    "ends.too-few-cavities", housing=housing.name, cavities=len(labels), end=end.name, needed=len(mine)
                )
            new[cavity.id] = label
    return tuple(change(cavity, label=new[cavity.id]) if cavity.id in new else cavity for cavity in end.cavities)


def assign(design: Design, wire_id: str, side: Side, label: str, shelf: Shelf | None = None) -> Design:
    """Moves a wire's end to another cavity of its housing, by the label on the face; the wire that is there takes its
    place. EditError where the face has no such cavity."""
    one = places_of(design, shelf).by_key.get((wire_id, side))
    if one is None:
        raise EditError.of("ends.no-wire-with-cavity-there", wire_id=wire_id)
    labels = (
        [place.label for place in one.housing.cavities] if one.housing else [c.label or c.id for c in one.end.cavities]
    )
    said = next((known for known in labels if known.lower() == label.strip().lower()), None)
    if said is None:
        raise EditError.of("ends.no-cavity", end=one.end.name, label=quoted(label), labels=", ".join(labels[:24]))
    if said == one.label:
        return design
    design, cavity = _cavity_for(design, one, said)
    there = list(places_of(design, shelf).at.get((one.end.id, cavity.id), []))
    if len(there) > 1:
        raise EditError.of("ends.cavities-in-use", end=one.end.name, said=said, count=len(there))
    moved = [_moved(design, wire_id, side, cavity.id)]
    if there and there[0].wire.id != wire_id:
        moved.append(_moved(design, there[0].wire.id, there[0].side, one.cavity.id))
    return put_all(design, "wires", moved)


def _moved(design: Design, wire_id: str, side: Side, cavity: str) -> Wire:
    wire = _wire(design, wire_id)
    pin = Pin(end=(wire.start if side == "start" else wire.finish).end, cavity=cavity)
    made: Wire = change(wire, **({"start": pin} if side == "start" else {"finish": pin}))
    return made


def _cavity_for(design: Design, one: WireEnd, label: str) -> tuple[Design, Cavity]:
    """The design's cavity at a label of the face, made where it has none yet."""
    body = one.body
    for cavity in one.end.cavities:
        if (cavity.label or cavity.id) == label and body_of(one.end, cavity) is body:
            return design, cavity
    used = {cavity.id for cavity in one.end.cavities}
    name = label if label not in used else f"{body.id if body else ''}{label}"
    fresh = Cavity(id=name, label="" if name == label else label, housing=body.id if body else "")
    return put(design, "ends", change(one.end, cavities=(*one.end.cavities, fresh))), fresh


def swap(design: Design, end_id: str, label: str, other: str, shelf: Shelf | None = None) -> Design:
    """Two cavities of an end change their wires."""
    places = places_of(design, shelf)
    here = next((one for one in places.ends if one.end.id == end_id and one.label == label), None)
    there = next((one for one in places.ends if one.end.id == end_id and one.label == other), None)
    if here is None and there is None:
        raise EditError.of("ends.neither-has-wire", label=label, other=other)
    if here is not None:
        return assign(design, here.wire.id, here.side, other, shelf)
    assert there is not None
    return assign(design, there.wire.id, there.side, label, shelf)


def fill_run(design: Design, end_id: str, wires: Sequence[str], first: str, shelf: Shelf | None = None) -> Design:
    """Puts wires, in this order, into the cavities from a label on, as the face counts them."""
    places = places_of(design, shelf)
    ends = {one.wire.id: one for one in places.ends if one.end.id == end_id}
    missing = [wire for wire in wires if wire not in ends]
    if missing:
        raise EditError.of("any.wire-doesnt-go-there", wire=missing[0], end=end_id)
    if not wires:
        return design
    housing = ends[wires[0]].housing
    labels = [place.label for place in housing.cavities] if housing else []
    if first not in labels:
        raise EditError.of("ends.no-first-cavity", end_id=end_id, first=first)
    run = labels[labels.index(first) : labels.index(first) + len(wires)]
    if len(run) < len(wires):
        raise EditError.of("ends.too-few-cavities-from-there", first=first, left=len(run), wires=len(wires))
    for wire, label in zip(wires, run, strict=True):
        design = assign(design, wire, ends[wire].side, label, shelf)
    return design


def accept(
    design: Design, known: Fitted, keys: Iterable[tuple[str, Side]] | None = None, shelf: Shelf | None = None
) -> Design:
    """Makes the proposed parts the chosen ones, of these wire ends or of all, and says which empty cavities are
    plugged."""
    places = places_of(design, shelf)
    wires: dict[str, Wire] = {}
    ids: list[str | None] = []
    for key in known.fittings if keys is None else keys:
        one, fitting = places.by_key.get(key), known.fittings.get(key)
        if one is None or fitting is None or fitting == one.fitting:
            continue
        wire = wires.get(key[0], one.wire)
        wires[key[0]] = change(wire, **{"at_start" if key[1] == "start" else "at_finish": fitting})
        ids += [getattr(fitting, field) for field in WORN]
    design = put_all(design, "wires", wires.values()) if wires else design
    if keys is None:
        for end in design.ends:
            bodies = tuple(
                change(body, blanks=known.blanks[end.id, body.id])
                if body.blanks is None and (end.id, body.id) in known.blanks
                else body
                for body in end.housings
            )
            if bodies != end.housings:
                design = put(design, "ends", change(end, housings=bodies))
    return carrying(design, ids, shelf)


def set_cable(design: Design, cable_id: str, part: str | None, shelf: Shelf | None = None) -> Design:
    """Makes a cable that catalogue part; its wires become its cores by their colours, in list order where those say
    nothing."""
    cable = next((one for one in design.cables if one.id == cable_id), None)
    known = shelf_for(design, shelf).get(part, CablePart)
    if cable is None or (part is not None and known is None):
        raise (
            EditError.of("ends.no-cable", cable_id=cable_id)
            if cable is None
            else EditError.of("ends.no-catalogue-has-cable", part=part)
        )
    design = put(design, "cables", change(cable, part=part))
    wires = [wire for wire in design.wires if wire.cable == cable_id]
    free = list(known.cores) if known else []
    new = []
    for wire in wires:
        fits = next(
            (core for core in free if core.colour == wire.colour and core.stripe == wire.stripe),
            free[0] if free else None,
        )
        if fits is not None:
            free.remove(fits)
        new.append(change(wire, core=fits.mark if fits else ""))
    return carrying(put_all(design, "wires", new), [part], shelf)


def _wire(design: Design, wire_id: str) -> Wire:
    wire = index_of(design).wires.get(wire_id)
    if wire is None:
        raise EditError.of("any.no-wire", wire=wire_id)
    return wire


def _end(design: Design, end_id: str) -> End:
    end = index_of(design).ends.get(end_id)
    if end is None:
        raise EditError.of("any.no-end", text=end_id)
    return end
