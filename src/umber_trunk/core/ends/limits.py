"""Which sizes the ends of a wire can take: proposals and the optimiser choose among those alone."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import Cavity, Clamp, Contact, Crimped, Housing, Lug
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
    if one.made == "clamp" and one.housing is not None:
        clamp = shelf.get(one.housing.clamp, Clamp)
        return clamp is None or clamp.area_mm2.holds(area)
    options = _crimped(places, one)
    if options is None:
        return True
    if not any(part.area_mm2.holds(area) and _holds(part, outer) and has_die(part, area) for part in options):
        return False
    if one.made == "contact" and one.housing is not None and one.place is not None:
        return _sealed(shelf, one.housing, one.place, outer)
    return True


def _crimped(places: Places, one: WireEnd) -> Sequence[Crimped] | None:
    """What may be crimped on: the part that is chosen, else all that go there; None where nothing is known of that."""
    assert one.made is not None
    chosen = places.shelf.named(one.fitting.part)
    if isinstance(chosen, Crimped):
        return (chosen,)
    if one.key not in places.there:
        found = FAMILIES[one.made].there(places.shelf, one)
        places.there[one.key] = None if found is None else tuple(found)
    there: Sequence[Crimped] | None = places.there[one.key]
    return there


def _sealed(shelf: Shelf, housing: Housing, place: Cavity, outer: float) -> bool:
    """Whether there is a wire seal for such an outside diameter, or the housing's grommet takes it."""
    if housing.seal == "wire seals":
        return any(seal.wire_mm.holds(outer) for seal in shelf.seals(housing.family, place.size))
    return housing.seal != "grommet" or housing.wire_mm is None or housing.wire_mm.holds(outer)


def _holds(part: Crimped, outer_mm: float) -> bool:
    band = part.insulation_mm if isinstance(part, Contact | Lug) else None
    return band is None or band.holds(outer_mm)
