"""Which parts of the shelf would take a wire's end: what the covering chooses from and cures name."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import (
    Blank,
    Clamp,
    Contact,
    Crimp,
    Crimped,
    Ferrule,
    Housing,
    Lug,
    Seal,
    Shrink,
    Splice,
)
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.wire_ends import Places, WireEnd
from umber_trunk.core.harness.project import Practice

FINE_STRAND_MM = 0.31
"""Strands up to this, those of flexible wire up to 6 mm² (class 5 of IEC 60228), want a ferrule under a screw."""
CRIMP_REACH = 0.15
"""How far, as a share, an area may lie from one the sheet gives a crimp height for."""
STUD_SLACK_MM = 1.6
"""How much larger than the stud a lug's hole may be: beyond, the nut bears on too little."""


@dataclass(frozen=True)
class Stuff:
    """What arrives at an end: conductor area and outside of each wire there, all that share the place together, its
    worst current, whether its strands are fine."""

    area_mm2: float
    each_mm: tuple[float, ...]
    amps: float
    fine: bool
    each_mm2: tuple[float, ...] = ()

    @property
    def butt_mm2(self) -> float:
        """The fuller half of a butt barrel: the thickest conductor comes in from one side, all others from the
        other."""
        most = max(self.each_mm2, default=self.area_mm2)
        return max(most, self.area_mm2 - most)


def stuff_at(places: Places, ends: list[WireEnd], made: dict[str, Conductor], amps: dict[str, float]) -> Stuff:
    """What these wire ends are together, from each wire's conductor and current by its id. Conductors side by side all
    go into one contact, barrel or clamp; each has a lug of its own."""
    areas, outsides, fine, most = [], [], False, 0.0
    for one in ends:
        core, conductor = places.core(one.wire), made[one.wire.id]
        many = 1 if one.made == "lug" else one.wire.parallel
        areas += many * [core.area_mm2 if core else conductor.size.area_mm2]
        outsides += many * [core.outer_mm if core else conductor.outer_mm]
        fine = fine or conductor.strand_mm <= FINE_STRAND_MM
        most = max(most, amps.get(one.wire.id, 0.0) * many / one.wire.parallel)
    return Stuff(sum(areas), tuple(outsides), most, fine, tuple(areas))


def crimp_for(part: Crimped, area_mm2: float, folded: bool = False) -> Crimp | None:
    """The crimp of a part's sheet for conductors of an area, twice that where the wire is folded double: the nearest
    row, as long as the area lies between the sheet's first and last or within CRIMP_REACH of one. None beyond: no limit
    is known there."""
    area = area_mm2 * (2 if folded else 1)
    if not part.crimps or area <= 0:
        return None
    near = min(part.crimps, key=lambda row: abs(math.log(row.area_mm2 / area)))
    inside = part.crimps[0].area_mm2 <= area <= part.crimps[-1].area_mm2
    return near if inside or abs(near.area_mm2 / area - 1) <= CRIMP_REACH else None


def has_die(part: Crimped, area_mm2: float) -> bool:
    """Whether its sheet gives a crimp for this area; one that gives none at all isn't judged."""
    return not part.crimps or crimp_for(part, area_mm2) is not None


def is_folded(one: WireEnd, practice: Practice, stuff: Stuff) -> bool:
    """Whether a thin wire is folded double in its barrel: by a house that does so, and a wire alone."""
    return practice.thin == "fold" and one.fitting.folded and (one.made == "lug" or len(stuff.each_mm) == 1)


def derated(housing: Housing, loaded: int) -> float:
    """Share of its rated current a contact may carry while so many cavities are loaded; the next row of the sheet
    up."""
    share = loaded / len(housing.cavities)
    rows = sorted(housing.derating)
    return next((factor for most, factor in rows if share <= most + 1e-9), rows[-1][1] if rows else 1.0)


def contacts_for(shelf: Shelf, one: WireEnd, stuff: Stuff, share: float = 1.0) -> Iterator[Contact]:
    """Contacts that clip into the cavity and take these wires and this current."""
    housing, place = one.housing, one.place
    if housing is None or place is None:
        return
    for part in shelf.contacts(housing.family, place.size, housing.contacts):
        if (
            part.area_mm2.holds(stuff.area_mm2)
            and has_die(part, stuff.area_mm2)
            and all(part.insulation_mm is None or part.insulation_mm.holds(mm) for mm in stuff.each_mm)
            and (part.rated_a is None or stuff.amps <= share * part.rated_a)
        ):
            yield part


def seals_for(shelf: Shelf, one: WireEnd, stuff: Stuff) -> Iterator[Seal]:
    """Wire seals for the cavity that are tight on the wire."""
    if one.housing is None or one.place is None or one.housing.seal != "wire seals":
        return
    for part in shelf.seals(one.housing.family, one.place.size):
        if len(stuff.each_mm) == 1 and part.wire_mm.holds(stuff.each_mm[0]):
            yield part


def lugs_for(shelf: Shelf, one: WireEnd, stuff: Stuff) -> Iterator[Lug]:
    """Lugs for the stud that take the wire."""
    for part in shelf.of(Lug):
        if (
            hole_fits(part, one.end.stud_mm)
            and part.area_mm2.holds(stuff.area_mm2)
            and has_die(part, stuff.area_mm2)
            and all(part.insulation_mm is None or part.insulation_mm.holds(mm) for mm in stuff.each_mm)
            and (part.rated_a is None or stuff.amps <= part.rated_a)
        ):
            yield part


def hole_fits(part: Lug, stud_mm: float) -> bool:
    """Whether its hole goes over the stud and isn't so large that the nut bears on nothing."""
    return not stud_mm or part.stud_mm - STUD_SLACK_MM <= stud_mm <= part.stud_mm + 1e-9


def splices_for(shelf: Shelf, stuff: Stuff, form: str = "parallel") -> Iterator[Splice]:
    """Barrels that take all these conductors together."""
    for part in shelf.of(Splice):
        area = barrel_mm2(part, stuff)
        if part.form == form and part.area_mm2.holds(area) and has_die(part, area):
            yield part


def barrel_mm2(part: Crimped, stuff: Stuff) -> float:
    """The conductor area one barrel of a part has to hold."""
    return stuff.butt_mm2 if isinstance(part, Splice) and part.form == "butt" else stuff.area_mm2


def ferrules_for(shelf: Shelf, stuff: Stuff) -> Iterator[Ferrule]:
    """Ferrules for the conductor, collar over its insulation."""
    for part in shelf.of(Ferrule):
        if not part.braid and part.area_mm2.holds(stuff.area_mm2) and collar_takes(part, stuff):
            yield part


def collar_takes(part: Ferrule, stuff: Stuff) -> bool:
    """Whether the insulation goes into the collar: one wire's, or two where it is made for two."""
    return len(stuff.each_mm) <= (2 if part.twin else 1) and all(mm <= part.collar_mm for mm in stuff.each_mm)


def shrinks_for(shelf: Shelf, lug: Lug, outer_mm: float, adhesive: bool) -> Iterator[Shrink]:
    """Shrink that slides over wire and barrel, and grips both once recovered."""
    for part in shelf.of(Shrink):
        widest, least = max(outer_mm, lug.barrel_od_mm), min(outer_mm, lug.barrel_od_mm)
        if part.supplied_mm > widest and part.recovered_mm < least and part.adhesive >= adhesive:
            yield part


def clamp_of(shelf: Shelf, one: WireEnd) -> Clamp | None:
    """The clamp in a housing's cavities."""
    return shelf.get(one.housing.clamp, Clamp) if one.housing is not None else None


def blank_for(shelf: Shelf, housing: Housing) -> Blank | None:
    """The plug that closes a housing's empty cavities."""
    return shelf.get(housing.plug, Blank)


def ranked(found: Iterator[Crimped] | Iterator[Seal] | Iterator[Ferrule], near: float) -> tuple[str, ...]:
    """Ids of the parts that would do, the one whose range has the value most in its middle first."""

    def off(part: Crimped | Seal | Ferrule) -> float:
        band = part.wire_mm if isinstance(part, Seal) else part.area_mm2
        return abs(near - (band.low + band.high) / 2) / max(band.high - band.low, 1e-9)

    return tuple(part.id for part in sorted(found, key=lambda part: (off(part), part.id))[:4])
