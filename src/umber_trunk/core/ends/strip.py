"""Strip drawings: at each end of a wire what is cut back, what sits where, how far it goes in, how much length it eats.

Distances are in mm from the tip of the bare conductor back along the wire. All come from the parts.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.catalog.parts import (
    Boot,
    CablePart,
    Clamp,
    Contact,
    Crimped,
    Ferrule,
    Housing,
    Lug,
    Seal,
    Shrink,
    Splice,
    Tool,
)
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.covering import fitted_at
from umber_trunk.core.ends.families import family_of
from umber_trunk.core.ends.lug_rules import shrink_on
from umber_trunk.core.ends.reach import Stuff, barrel_mm2, clamp_of, crimp_for, is_folded
from umber_trunk.core.ends.wire_ends import SIDES, Side, WireEnd, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message

EARTH_LONGER_MM = 10.0
"""How much longer the earth core of a cord is than the others, so that it lets go last (usual practice; local code
wins)."""
SCREEN_FOLD_MM = 8.0
"""Screen folded back over the jacket."""
SLEEVE_OVER_MM = 3.0
"""A drain's sleeve ends so far from the place the drain goes to."""
COLLAR_MM = 5.0
"""Of a ferrule's collar, drawn over the insulation."""
CUT_BEHIND_MM = 2.0
"""How far behind a crimp one cuts to start over."""


@dataclass(frozen=True)
class Piece:
    """Something on the end: from and to in mm from the tip, and its width."""

    what: str
    from_mm: float
    to_mm: float
    width_mm: float
    note: Message = NOTHING

    @property
    def name(self) -> Message:
        """What it is, in words."""
        return Message.of(f"strip.piece.{self.what.replace(' ', '-')}")


@dataclass(frozen=True)
class Strip:
    """One end of one wire as it is to be made. `entry_mm` is how far it goes in, `eaten_mm` the length that
    starting over costs: what the part holds, and a little behind it; `crimps` how many presses and where their middles
    are."""

    wire: str
    side: Side
    end: str
    cavity: str
    part: str
    part_name: str
    conductor_mm: float
    outer_mm: float
    strip_mm: float
    entry_mm: float
    eaten_mm: float
    pieces: tuple[Piece, ...]
    crimps_at_mm: tuple[float, ...] = ()
    crimp_height_mm: float | None = None
    crimp_plus_minus_mm: float | None = None
    tool: str = ""
    die: str = ""
    colour: str = ""
    stripe: str = ""
    clock_deg: float | None = None
    notes: tuple[Message, ...] = ()


@dataclass(frozen=True)
class CoreCut:
    """One core of a cable at its end: how far its insulation reaches past the jacket, and where it goes."""

    wire: str
    mark: str
    cavity: str
    free_mm: float
    strip_mm: float
    colour: str
    stripe: str
    role: str


@dataclass(frozen=True)
class CableStrip:
    """The stepped strip of a jacketed cable at one end: distances from the jacket's edge forward. `jacket_back_mm` is
    how much jacket comes off, measured from the longest core's tip."""

    cable: str
    end: str
    jacket_mm: float
    jacket_back_mm: float
    screen: str
    screen_mm: float
    foil: bool
    drain_mm: float
    filler: bool
    cores: tuple[CoreCut, ...]
    notes: tuple[Message, ...]


def strips(results: Results, wire_id: str) -> list[Strip]:
    """Both ends of a wire; InputError for a wire there is none of or one whose ends say nothing."""
    places = places_of(results.design, results.shelf)
    if wire_id not in {wire.id for wire in results.design.wires}:
        raise InputError.of("any.no-wire", wire=wire_id)
    found = [made for side in SIDES if (one := places.by_key.get((wire_id, side))) and (made := strip_of(results, one))]
    if not found:
        raise InputError.of("ends.nothing-is-known-of-ends", wire_id=wire_id)
    return found


def strip_of(results: Results, one: WireEnd) -> Strip | None:
    """One end, None while no part is known there."""
    found = fitted_at(results, one)
    if found is None:
        return None
    end = _End(results, one, *found)
    if one.made == "clamp":
        clamp = clamp_of(end.shelf, one)
        return end.clamped(clamp) if clamp is not None else None
    part = end.shelf.named(end.fitting.part)
    draws = DRAWS.get(family_of(part))
    return draws(end, part) if draws is not None else None


class _End:
    """Makes the drawing of one end, by the kind of part that is on it."""

    def __init__(self, results: Results, one: WireEnd, fitting: Fitting, stuff: Stuff) -> None:
        places, plant = places_of(results.design, results.shelf), results.plant
        self.one, self.fitting, self.stuff, self.shelf = one, fitting, stuff, places.shelf
        self.practice = results.design.project.practice
        conductor, core = plant.conductors[plant.row[one.wire.id]], places.core(one.wire)
        self.outer_mm = core.outer_mm if core else conductor.outer_mm
        self.bare_mm = (
            conductor.conductor_mm if core is None else math.sqrt(4 * core.area_mm2 / (math.pi * conductor.make.fill))
        )

    def _made(
        self, part: Clamp | Crimped, tool: str | None, pieces: list[Piece], notes: list[Message], **more: Any
    ) -> Strip:
        one = self.one
        boot = self.shelf.get(self.fitting.boot, Boot)
        if boot is not None:
            back = max((piece.to_mm for piece in pieces), default=0.0)
            pieces = [
                *pieces,
                Piece("boot", back - boot.length_mm, back, boot.wire_mm.high + 3.0, _note("boot")),
            ]
        return Strip(
            wire=one.wire.id,
            side=one.side,
            end=one.end.id,
            cavity=one.label,
            part=part.id,
            part_name=part.name,
            conductor_mm=self.bare_mm,
            outer_mm=self.outer_mm,
            colour=one.wire.colour,
            stripe=one.wire.stripe,
            clock_deg=self.fitting.clock_deg,
            pieces=tuple(pieces),
            notes=tuple(notes),
            tool=self.shelf.name(tool) if tool else "",
            **more,
        )

    def _height(self, part: Crimped) -> dict[str, float]:
        """The crimp of the sheet for what is in the barrel."""
        row = crimp_for(part, barrel_mm2(part, self.stuff), is_folded(self.one, self.practice, self.stuff))
        return {} if row is None else {"crimp_height_mm": row.height_mm, "crimp_plus_minus_mm": row.plus_minus_mm}

    def clamped(self, clamp: Clamp) -> Strip:
        """Strands, or a ferrule on them, in a clamp."""
        ferrule = self.shelf.get(self.fitting.ferrule, Ferrule)
        notes = [_note("every-strand")]
        if ferrule is None:
            if self.practice.twist != "never":
                notes.append(_note("twist"))
            return self._made(
                clamp, None, [], notes, strip_mm=clamp.strip_mm, entry_mm=clamp.depth_mm, eaten_mm=clamp.strip_mm
            )
        pieces = [
            Piece("ferrule", 0.0, ferrule.strip_mm, self.bare_mm * 1.25, Message.of("any.named", words=ferrule.name)),
            Piece("collar", ferrule.strip_mm, ferrule.strip_mm + COLLAR_MM, ferrule.collar_mm),
        ]
        return self._made(
            clamp,
            ferrule.tool,
            pieces,
            notes,
            strip_mm=ferrule.strip_mm,
            entry_mm=clamp.depth_mm,
            eaten_mm=ferrule.strip_mm + COLLAR_MM,
            die=ferrule.die,
        )

    def contact(self, part: Contact) -> Strip:
        """A contact: barrel, wings, seal."""
        strip, seen = part.strip_mm, NOTHING
        if part.barrel == "open":
            seen = _note("bell-mouth")
        elif part.inspection_hole:
            seen = _note("inspection-hole")
        pieces, held = [Piece("wire barrel", 0.0, strip, self.bare_mm * 1.3, seen)], strip
        if part.insulation_mm is not None:
            held = strip + 0.6 + max(2.0, 0.6 * strip)
            pieces.append(Piece("insulation wings", strip + 0.6, held, self.outer_mm * 1.08, _note("wings")))
        seal = self.shelf.get(self.fitting.seal, Seal)
        if seal is not None:
            back = strip + 1.0 + seal.length_mm
            pieces.append(Piece("seal", strip + 1.0, back, self.outer_mm + 2.2, _note("seal")))
        notes = [_note("twist")] if self.practice.twist == "always" else []
        soldered = part.barrel == "solder"
        return self._made(
            part,
            part.tool,
            pieces,
            notes,
            strip_mm=strip,
            entry_mm=part.depth_mm,
            eaten_mm=held + CUT_BEHIND_MM,
            die=part.die,
            crimps_at_mm=() if soldered else (strip / 2,),
            **({} if soldered else self._height(part)),
        )

    def lug(self, part: Lug) -> Strip:
        """A lug: tongue, barrel with its presses, shrink that stays off the flat."""
        presses = 1 + (self.stuff.area_mm2 >= 10) + (self.stuff.area_mm2 >= 50)
        pieces = [
            Piece("barrel", 0.0, part.barrel_mm, part.barrel_od_mm),
            Piece("tongue", -part.pad_mm, 0.0, part.width_mm, _note("stud", stud_mm=part.stud_mm)),
        ]
        shrink = self.shelf.get(self.fitting.shrink, Shrink)
        if shrink is not None:
            covered, over, cut = shrink_on(part, shrink, self.outer_mm)
            wide = max(self.outer_mm, part.barrel_od_mm) + 2 * shrink.wall_mm
            told = _note("shrink", cut_mm=cut, part=shrink.name)
            pieces.append(Piece("shrink", part.barrel_mm - covered, part.barrel_mm + over, wide, told))
        notes = [_note("smooth-jaws")] if part.lining == "adhesive" else []
        tool, die, height = part.tool, part.die, self._height(part)
        if self.practice.lug_tool == "indent" and (indenter := _indenter(self.shelf, part)):
            tool, die, height = indenter, "", {}
            notes.append(_note("indented"))
        return self._made(
            part,
            tool,
            pieces,
            notes,
            strip_mm=part.strip_mm,
            entry_mm=part.barrel_mm,
            eaten_mm=part.strip_mm + CUT_BEHIND_MM,
            die=die,
            crimps_at_mm=tuple(part.barrel_mm * (number + 0.5) / presses for number in range(presses)),
            **height,
        )

    def splice(self, part: Splice) -> Strip:
        """One conductor's part of a barrel."""
        half = part.barrel_mm / 2 if part.form == "butt" else part.barrel_mm
        return self._made(
            part,
            part.tool,
            [Piece("barrel", half - part.barrel_mm, half, self.bare_mm * 1.6)],
            [],
            strip_mm=part.strip_mm,
            entry_mm=half,
            eaten_mm=part.strip_mm + CUT_BEHIND_MM,
            crimps_at_mm=(half / 2,),
            die=part.die,
        )


DRAWS: dict[str, Callable[[_End, Any], Strip | None]] = {
    "contact": _End.contact,
    "lug": _End.lug,
    "splice": _End.splice,
}
"""Who draws the end of a wire with a part of each family on it; what the place itself holds is drawn by its clamp."""


def _note(key: str, **values: Any) -> Message:
    """What is said of an end or of a piece on it."""
    return Message.of(f"strip.note.{key}", **values)


def tenths(mm: float) -> str:
    """A length as finely as a rule can be read."""
    return f"{mm:.1f}".removesuffix(".0")


def _indenter(shelf: Shelf, lug: Lug) -> str | None:
    """The indenting tool of a lug's family, for one that a hex press would close."""
    usual = shelf.get(lug.tool, Tool)
    if usual is None or usual.way != "hex":
        return None
    return next((one.id for one in shelf.of(Tool) if one.way == "indent" and one.family == lug.family), None)


def cable_strips(results: Results, cable_id: str) -> list[CableStrip]:
    """The stepped strip of a cable at every end its cores go to; empty where the catalogue doesn't know it."""
    places = places_of(results.design, results.shelf)
    cable = places.cables.get(cable_id)
    if cable is None:
        return []
    found = []
    by_end: dict[str, list[WireEnd]] = {}
    for one in places.ends:
        if one.wire.cable == cable_id:
            by_end.setdefault(one.end.id, []).append(one)
    for end_id, ends in by_end.items():
        found.append(_cable_strip(results, cable, cable_id, end_id, ends))
    return found


def _cable_strip(results: Results, cable: CablePart, cable_id: str, end_id: str, ends: list[WireEnd]) -> CableStrip:
    """Each core reaches its own cavity from the middle of the jacket's edge: the depth behind the face and the way out
    to the cavity, by Pythagoras; the earth's a little more."""
    cores: list[CoreCut] = []
    drains: list[CoreCut] = []
    for one in ends:
        made, core = strip_of(results, one), places_of(results.design, results.shelf).core(one.wire)
        depth = one.housing.depth_mm * 0.5 if isinstance(one.housing, Housing) else 20.0
        sideways = math.hypot(one.place.x_mm, one.place.y_mm) if one.place is not None else 0.0
        role = (core.role if core else "") or (one.place.role if one.place else "")
        free = math.hypot(depth, sideways) + (EARTH_LONGER_MM if role == "earth" else 0.0)
        strip = made.strip_mm if made else results.design.project.strip_m * 1e3
        cut = CoreCut(
            one.wire.id, one.wire.core, one.label, round(free, 1), strip, one.wire.colour, one.wire.stripe, role
        )
        (drains if role == "drain" and not one.wire.core else cores).append(cut)
    longest = max((core.free_mm + core.strip_mm for core in cores), default=0.0)
    notes = []
    drain = 0.0
    if cable.drain_mm2:
        drain = round(max((core.free_mm + core.strip_mm for core in drains or cores), default=0.0), 1)
        notes.append(_note("sleeve-drain", short_mm=SLEEVE_OVER_MM))
    if cable.screen != "none":
        notes.append(_note(f"fold-{cable.screen}", fold_mm=SCREEN_FOLD_MM))
    if any(core.role == "earth" for core in cores):
        notes.append(_note("earth-longer", longer_mm=EARTH_LONGER_MM))
    return CableStrip(
        cable_id,
        end_id,
        cable.jacket_mm,
        round(longest, 1),
        cable.screen,
        SCREEN_FOLD_MM if cable.screen != "none" else 0.0,
        cable.foil,
        drain,
        cable.filler,
        tuple(cores),
        tuple(notes),
    )


def clock_mark(results: Results, wire_id: str) -> Message:
    """What to draw on both ends of a stiff lead whose lugs must stand at given angles; nothing where none are given."""
    known = {one.side: one.clock_deg for one in strips(results, wire_id)}
    start, finish = known.get("start"), known.get("finish")
    if start is None or finish is None:
        return NOTHING
    turn = (finish - start) % 360
    hours = round(turn / 30) % 12 or 12
    return Message.of("note.draw-one-line-along-lead", start=start, finish=finish, hours=hours)
