"""Strip drawings: at each end of a wire what is cut back, what sits where, how far it goes in, how much length it eats.

Distances are in mm from the tip of the bare conductor back along the wire. All come from the parts.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.catalog.parts import CablePart, Contact, Ferrule, Housing, Lug, Seal, Shrink, Splice, Tool
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.reach import clamp_of
from umber_trunk.core.ends.wire_ends import SIDES, Side, WireEnd, places_of
from umber_trunk.core.ends.wire_rules import shrink_on
from umber_trunk.core.errors import InputError
from umber_trunk.core.results import Results

EARTH_LONGER_MM = 10.0
"""How much longer the earth core of a cord is than the others, so that it lets go last (usual practice; local code wins)."""
SCREEN_FOLD_MM = 8.0
SLEEVE_OVER_MM = 3.0


@dataclass(frozen=True)
class Piece:
    """Something on the end: from and to in mm from the tip, and its width."""

    what: str
    from_mm: float
    to_mm: float
    width_mm: float
    note: str = ""


@dataclass(frozen=True)
class Strip:
    """One end of one wire as it is to be made. `eaten_mm` is the length one try costs: the bare end and what stays inside
    the part; `crimps` how many presses and where their middles are."""

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
    notes: tuple[str, ...] = ()


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
    """The stepped strip of a jacketed cable at one end: distances from the jacket's edge forward. `jacket_back_mm` is how much
    jacket comes off, measured from the longest core's tip."""

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
    notes: tuple[str, ...]


def strips(results: Results, wire_id: str) -> list[Strip]:
    """Both ends of a wire; InputError for a wire there is none of or one whose ends say nothing."""
    places = places_of(results.design)
    if wire_id not in {wire.id for wire in results.design.wires}:
        raise InputError(f"There is no wire “{wire_id}”.")
    found = [made for side in SIDES if (one := places.by_key.get((wire_id, side))) and (made := strip_of(results, one))]
    if not found:
        raise InputError(
            f"Nothing is known of the ends of {wire_id}: choose a housing, a stud or a part for them on the Ends desk."
        )
    return found


def strip_of(results: Results, one: WireEnd) -> Strip | None:
    """One end, None while no part is known there."""
    places, known = places_of(results.design), results.once(fitted)
    stuff, fitting = known.stuff.get(one.key), known.of(one)
    if stuff is None:
        return None
    shelf, plant = places.shelf, results.figures.solution.plant
    cond = plant.conductors[plant.row[one.wire.id]]
    core = places.core(one.wire)
    outer = core.outer_mm if core else cond.outer_mm
    bare = cond.conductor_mm if core is None else math.sqrt(4 * core.area_mm2 / (math.pi * cond.make.fill))
    part = shelf.named(fitting.part)
    pieces: list[Piece] = []
    notes: list[str] = []
    common: dict[str, Any] = {"wire": one.wire.id, "side": one.side, "end": one.end.id, "cavity": one.label, "conductor_mm": bare, "outer_mm": outer, "colour": one.wire.colour, "stripe": one.wire.stripe, "clock_deg": fitting.clock_deg}  # fmt: skip
    area = stuff.area_mm2
    clamp = clamp_of(shelf, one) if one.made == "clamp" else None
    if clamp is not None:
        ferrule = shelf.get(fitting.ferrule, Ferrule)
        strip = ferrule.strip_mm if ferrule else clamp.strip_mm
        if ferrule:
            pieces.append(Piece("ferrule", 0.0, strip, bare * 1.25, ferrule.name))
            pieces.append(Piece("collar", strip, strip + 5.0, ferrule.collar_mm))
        notes.append("Every strand in; no insulation under the clamp; strain relief on the jacket.")
        if results.design.project.practice.twist in ("clamps", "always") and not ferrule:
            notes.append("Twist the strands.")
        tool, die = (ferrule.tool or "", ferrule.die) if ferrule else ("", "")
        return Strip(
            part=clamp.id, part_name=clamp.name, strip_mm=strip, entry_mm=clamp.depth_mm, eaten_mm=strip, pieces=tuple(pieces), tool=shelf.name(tool) if tool else "",
            die=die, notes=tuple(notes), **common,
        )  # fmt: skip
    if isinstance(part, Contact):
        strip = part.strip_mm
        if results.design.project.practice.twist == "always":
            notes.append("Twist the strands.")
        pieces.append(
            Piece(
                "wire barrel",
                0.0,
                strip,
                bare * 1.3,
                "conductor just seen past it: bell-mouth both sides"
                if part.barrel == "open"
                else "wire seen in the inspection hole"
                if part.inspection_hole
                else "",
            )
        )
        if part.insulation_mm is not None:
            pieces.append(
                Piece(
                    "insulation wings",
                    strip + 0.6,
                    strip + 0.6 + max(2.0, 0.6 * strip),
                    outer * 1.08,
                    "hold, don’t pierce",
                )
            )
        seal = shelf.get(fitting.seal, Seal)
        if seal is not None:
            at = strip + 1.0
            pieces.append(Piece("seal", at, at + seal.length_mm, outer + 2.2, "before strip; its neck in the wings"))
        row = min(part.crimps, key=lambda crimp: abs(crimp.area_mm2 - area)) if part.crimps else None
        return Strip(
            part=part.id, part_name=part.name, strip_mm=strip, entry_mm=part.depth_mm, eaten_mm=strip + part.depth_mm, pieces=tuple(pieces),
            crimps_at_mm=(strip / 2,) if part.barrel != "solder" else (), crimp_height_mm=row.height_mm if row else None, crimp_plus_minus_mm=row.plus_minus_mm if row else None,
            tool=shelf.name(part.tool) if part.tool else "", die=part.die, notes=tuple(notes), **common,
        )  # fmt: skip
    if isinstance(part, Lug):
        presses = 1 if area < 10 else 2 if area < 50 else 3
        places_mm = tuple(part.barrel_mm * (number + 0.5) / presses for number in range(presses))
        pieces.append(Piece("barrel", 0.0, part.barrel_mm, part.barrel_od_mm))
        pieces.append(Piece("tongue", -part.pad_mm, 0.0, part.width_mm, f"stud {part.stud_mm:g} mm"))
        shrink = shelf.get(fitting.shrink, Shrink)
        if shrink is not None:
            covered, over, cut = shrink_on(part, shrink, outer)
            pieces.append(
                Piece(
                    "shrink",
                    part.barrel_mm - covered,
                    part.barrel_mm + over,
                    max(outer, part.barrel_od_mm) + 2 * shrink.wall_mm,
                    f"cut {cut:.0f} mm of {shrink.name}; nothing under the flat",
                )
            )
        if part.lining == "adhesive":
            notes.append("Smooth jaws only: the die must not pierce the lining.")
        row = min(part.crimps, key=lambda crimp: abs(crimp.area_mm2 - area)) if part.crimps else None
        press, die = part.tool, part.die
        if results.design.project.practice.lug_tool == "indent" and (indenter := _indenter(shelf, part)):
            press, die, row = indenter, "", None
            notes.append("Indented: look at how deep; a height over it tells nothing.")
        return Strip(
            part=part.id, part_name=part.name, strip_mm=part.strip_mm, entry_mm=part.barrel_mm, eaten_mm=part.strip_mm + part.barrel_mm, pieces=tuple(pieces),
            crimps_at_mm=places_mm, crimp_height_mm=row.height_mm if row else None, crimp_plus_minus_mm=row.plus_minus_mm if row else None,
            tool=shelf.name(press) if press else "", die=die, notes=tuple(notes), **common,
        )  # fmt: skip
    if isinstance(part, Splice):
        half = part.barrel_mm / 2 if part.form == "butt" else part.barrel_mm
        pieces.append(Piece("barrel", -(part.barrel_mm - half), half, bare * 1.6))
        return Strip(
            part=part.id, part_name=part.name, strip_mm=part.strip_mm, entry_mm=half, eaten_mm=part.strip_mm + half, pieces=tuple(pieces), crimps_at_mm=(half / 2,),
            tool=shelf.name(part.tool) if part.tool else "", die=part.die, notes=tuple(notes), **common,
        )  # fmt: skip
    return None


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
    places = places_of(results.design)
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
    """Each core reaches its own cavity from the middle of the jacket's edge: the depth behind the face and the way out to
    the cavity, by Pythagoras; the earth's a little more."""
    cores: list[CoreCut] = []
    drains: list[CoreCut] = []
    for one in ends:
        made, core = strip_of(results, one), places_of(results.design).core(one.wire)
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
        notes.append(f"Sleeve the bare drain to {SLEEVE_OVER_MM:g} mm short of its place.")
    if cable.screen != "none":
        notes.append(
            f"Fold the {cable.screen} back {SCREEN_FOLD_MM:g} mm over the jacket, or trim it where it doesn’t land."
        )
    if any(core.role == "earth" for core in cores):
        notes.append(f"The earth core is {EARTH_LONGER_MM:g} mm longer: it lets go last.")
    return CableStrip(
        cable_id, end_id, cable.jacket_mm, round(longest, 1), cable.screen, SCREEN_FOLD_MM if cable.screen != "none" else 0.0, cable.foil, drain, cable.filler, tuple(cores), tuple(notes),
    )  # fmt: skip


def clock_mark(results: Results, wire_id: str) -> str:
    """What to draw on both ends of a stiff lead whose lugs must stand at given angles; "" where none are given."""
    known = {one.side: one.clock_deg for one in strips(results, wire_id)}
    start, finish = known.get("start"), known.get("finish")
    if start is None or finish is None:
        return ""
    turn = (finish - start) % 360
    hours = round(turn / 30) % 12 or 12
    return (
        f"Draw one line along the lead: lugs at {start:g}° and {finish:g}°, {hours} o’clock apart, seen from its start."
    )
