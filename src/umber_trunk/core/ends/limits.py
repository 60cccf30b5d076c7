"""Which sizes the ends of a wire can take: proposals and the optimiser choose among those alone."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import Clamp, Contact, Crimped, Lug
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.families import FAMILIES
from umber_trunk.core.ends.reach import has_die
from umber_trunk.core.ends.wire_ends import SIDES, Places, WireEnd, places_of
from umber_trunk.core.harness.model import Design, Wire


def takes(design: Design, wire: Wire, made: Conductor, shelf: Shelf | None = None) -> bool:
    """Whether both ends of a wire would take it made of this: contact, seal, stud or clamp. Ends of which nothing is
    known, and places that several wires share, take anything."""
    places = places_of(design, shelf)
    return all(
        _end_takes(places, one, made) for side in SIDES if (one := places.by_key.get((wire.id, side))) is not None
    )


def _end_takes(places: Places, one: WireEnd, made: Conductor) -> bool:
    many = 1 if one.made == "lug" else one.wire.parallel
    shelf, area, outer = places.shelf, many * made.size.area_mm2, made.outer_mm
    if one.made is None or (len(places.at[one.end.id, one.cavity.id]) > 1 and one.made != "lug"):
        return True
    chosen = shelf.named(one.fitting.part)
    if one.made == "clamp" and one.housing is not None:
        clamp = shelf.get(one.housing.clamp, Clamp)
        return clamp is None or clamp.area_mm2.holds(area)
    options: Sequence[Crimped]
    if isinstance(chosen, Crimped):
        options = (chosen,)
    else:
        if one.key not in places.there:
            found = FAMILIES[one.made].there(shelf, one)
            places.there[one.key] = None if found is None else tuple(found)
        there: Sequence[Crimped] | None = places.there[one.key]
        if there is None:
            return True
        options = there
    if not any(part.area_mm2.holds(area) and _holds(part, outer) and has_die(part, area) for part in options):
        return False
    if one.made == "contact" and one.housing is not None and one.place is not None:
        if one.housing.seal == "wire seals":
            return any(seal.wire_mm.holds(outer) for seal in shelf.seals(one.housing.family, one.place.size))
        if one.housing.seal == "grommet" and one.housing.wire_mm is not None:
            return one.housing.wire_mm.holds(outer)
    return True


def _holds(part: Crimped, outer_mm: float) -> bool:
    band = part.insulation_mm if isinstance(part, Contact | Lug) else None
    return band is None or band.holds(outer_mm)
