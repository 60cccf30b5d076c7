"""Resistance of contacts nobody has chosen yet: the highest of those that would be proposed, so that taking them
worsens nothing."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import Contact, Housing
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.index import Index
from umber_trunk.core.harness.model import Pin, Wire

Floats = NDArray[np.float64]
Offers = list[tuple[int, int, tuple[Contact, ...]]]


def expected_ohm(
    index: Index, shelf: Shelf, wires: Sequence[Wire], conductors: Sequence[Conductor], known: Floats
) -> Floats:
    """`known` (wires, 2) joint resistances [Ω], with those of the likeliest contacts where the housing says which go
    into it and nobody has chosen: the highest of those that take the wire's area, since any of them may be proposed."""
    offers: Offers = index.once(("offered contacts", shelf), lambda: _offers(index, shelf, wires))
    if not offers:
        return known
    found = known.copy()
    for row, side, contacts in offers:
        area = conductors[row].size.area_mm2 * wires[row].parallel
        ohms = [
            one.resistance_mohm / 1e3
            for one in contacts
            if one.resistance_mohm is not None and one.area_mm2.holds(area)
        ]
        if ohms:
            found[row, side] = max(ohms)
    return found


def _offers(index: Index, shelf: Shelf, wires: Sequence[Wire]) -> Offers:
    """(row, side, contacts) of the ends of wires that lie in a known housing without a contact chosen for them."""
    housed = {end.id for end in index.design.ends if any(body.part for body in end.housings)}
    if not housed:
        return []
    found = []
    for row, wire in enumerate(wires):
        for side, (pin, fitting) in enumerate(((wire.start, wire.at_start), (wire.finish, wire.at_finish))):
            if pin.end in housed and (fitting is None or fitting.part is None):
                contacts = _contacts(index, shelf, pin)
                if contacts:
                    found.append((row, side, contacts))
    return found


def _contacts(index: Index, shelf: Shelf, pin: Pin) -> tuple[Contact, ...]:
    end = index.ends[pin.end]
    cavity = next((one for one in end.cavities if one.id == pin.cavity), None)
    if cavity is None or cavity.joint_ohm:
        return ()
    body = next((one for one in end.housings if one.id == cavity.housing), None) or (
        end.housings[0] if len(end.housings) == 1 else None
    )
    housing = shelf.get(body.part, Housing) if body is not None else None
    if body is None or housing is None:
        return ()
    label = cavity.label or cavity.id
    place = next((one for one in housing.cavities if one.label == label), None)
    return tuple(shelf.contacts(housing.family, place.size, body.contacts)) if place is not None else ()
