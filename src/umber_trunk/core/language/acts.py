"""What each line does to a design."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from umber_trunk.core.catalog import parts as catalogue
from umber_trunk.core.catalog.conductors import jackets, makes, metals, parse_spec
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.ends.assign import assign, fill_run, set_fitting, set_housing
from umber_trunk.core.ends.wire_ends import SIDES, Side, places_of
from umber_trunk.core.errors import EditError, InputError, quoted
from umber_trunk.core.harness.edits import change, put, put_all, rename, set_size, verified, with_fuse
from umber_trunk.core.harness.end import End, EndKind, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.remove import remove
from umber_trunk.core.language import records as said
from umber_trunk.core.language.jacketed import earth, jacketed
from umber_trunk.core.language.shared import alike, common
from umber_trunk.core.language.taken import taken
from umber_trunk.core.language.whose import ends_of, part_of, sides_of, wires_of
from umber_trunk.core.lengths.spoken import on_the_way
from umber_trunk.core.quantity import Habit

REMOVABLE = {
    "load": "loads", "supply": "supplies", "end": "ends", "wire": "wires", "fuse": "fuses", "zone": "zones", "case": "cases", "converter": "converters",
    "segment": "segments", "point": "points",
}  # fmt: skip
WORN: dict[str, tuple[str, type[catalogue.Base] | tuple[type[catalogue.Base], ...]]] = {
    "contact": ("part", catalogue.Contact), "lug": ("part", catalogue.Lug), "seal": ("seal", catalogue.Seal),
    "ferrule": ("ferrule", catalogue.Ferrule), "shrink": ("shrink", catalogue.Shrink), "boot": ("boot", catalogue.Boot),
}  # fmt: skip


def do(design: Design, line: said.Said, shelf: Shelf | None = None, habit: Habit | None = None) -> Design:
    """The design with what a line says done; EditError or InputError names what stands in the way."""
    if isinstance(line, said.OnTheWay):
        return verified(design, _way(design, line, shelf, habit or Habit("")))
    made = _ACTS[type(line)](design, line, shelf)
    return verified(design, made) if made is not design else design


def _way(design: Design, line: said.OnTheWay, shelf: Shelf | None, habit: Habit) -> Design:
    """What lies along the way; "shrink PART on W1" is put on a wire's end instead."""
    told = dict(line.said)
    segments = {segment.id.lower() for segment in design.segments}
    if line.form == "cover" and told["kind"].lower() == "shrink" and told["segment"].lower() not in segments:
        where = told["segment"] + (f" at {told['where']}" if "where" in told else "")
        return _worn(design, said.Worn("shrink", told.get("part", ""), where), shelf)
    if "wires" in told and not all(one.lower() in known_wires(design) for one in re.split(r"[\s,]+", told["wires"])):
        told["wires"] = " ".join(wire.id for wire in wires_of(design, told["wires"]))
    if "where" in told:
        raise InputError.of(
            "language.form-without-where",
            form=quoted(line.form),
            where=told["where"],
            example=said.EXAMPLES.get(told.get("kind", ""), said.EXAMPLES["tape"]),
        )
    return on_the_way(line.form, told, habit)(design)


def known_wires(design: Design) -> frozenset[str]:
    """The ids of a design's wires in lower case."""
    return frozenset(wire.id.lower() for wire in design.wires)


def _size(design: Design, line: said.Size, _: Shelf | None) -> Design:
    wires = [wire.id for wire in wires_of(design, line.where)]
    if line.spec.lower() == "free":
        return set_size(design, wires, None)
    spec = parse_spec(
        line.spec, design.project.series if re.fullmatch(r"[\d.,]+", line.spec) else "", design.project.decimal
    )
    index = index_of(design)
    return put_all(design, "wires", [change(index.wires[wire], **spec) for wire in wires])


def _keep(design: Design, line: said.Keep, _: Shelf | None) -> Design:
    wires = wires_of(design, line.where)
    open_ = [wire.id for wire in wires if wire.size is None]
    if open_:
        raise EditError.of("language.no-size-to-keep", unit=open_[0])
    return put_all(design, "wires", [change(wire, locked=True) for wire in wires])


def _colour(design: Design, line: said.Colour, _: Shelf | None) -> Design:
    base, _slash, stripe = line.shade.replace("-", "/").partition("/")
    if len(base.strip()) > 20 or len(stripe.strip()) > 20:
        raise InputError.of("language.no-colour", shade=quoted(line.shade))
    values = {"colour": base.strip().lower(), "stripe": stripe.strip().lower()}
    return put_all(design, "wires", [change(wire, **values) for wire in wires_of(design, line.where)])


def _made(design: Design, line: said.Made, _: Shelf | None) -> Design:
    field, value = line.field.lower(), line.value.lower()
    every: dict[str, Any] = {"metal": metals(), "make": makes(), "jacket": jackets()}
    known = every[field]
    if value not in known:
        raise InputError.of("language.none-in-table", field=field, line=quoted(line.value), known=", ".join(known))
    return put_all(design, "wires", [change(wire, **{field: value}) for wire in wires_of(design, line.where)])


def _housing(design: Design, line: said.Housing, shelf: Shelf | None) -> Design:
    ends = ends_of(design, line.where)
    part = part_of(shelf_for(design, shelf), line.part, (catalogue.Housing, catalogue.Block), "housing")
    for end in ends:
        if len(end.housings) > 1:
            raise EditError.of("language.housings-choose-part-of-each", end=end.name, count=len(end.housings))
        design = set_housing(design, end.id, end.housings[0].id if end.housings else "H1", part.id, shelf)
    return design


def _worn(design: Design, line: said.Worn, shelf: Shelf | None) -> Design:
    field, kind = WORN[line.kind.lower()]
    part = part_of(shelf_for(design, shelf), line.part, kind, line.kind.lower())
    for wire, side in sides_of(design, line.where):
        design = set_fitting(design, wire.id, side, shelf, **{field: part.id})
    return design


def _stud(design: Design, line: said.Stud, _: Shelf | None) -> Design:
    thread = re.fullmatch(r"M?\s*(\d{1,2}(?:[.,]\d)?)\s*(?:mm)?", line.thread, re.I)
    value = float(thread[1].replace(",", ".")) if thread is not None else 0.0
    if not 1.5 <= value <= 30:
        raise InputError.of("language.no-stud-say-its-thread", thread=quoted(line.thread))
    return put_all(design, "ends", [change(end, stud_mm=value) for end in ends_of(design, line.where)])


def _blanks(design: Design, line: said.Blanks, shelf: Shelf | None) -> Design:
    places = places_of(design, shelf)
    for end in ends_of(design, line.where):
        for body in end.housings:
            housing = shelf_for(design, shelf).get(body.part, catalogue.Housing)
            if housing is None:
                raise EditError.of("language.no-housing-yet", end=end.name, example=said.EXAMPLES["housing"])
            every = [place.label for place in housing.cavities]
            full = places.loaded(end, body)
            labels = tuple(label for label in every if label not in full)
            if line.labels.lower() not in ("free", "none"):
                labels = tuple(re.split(r"[\s,/]+", line.labels))
                wrong = [label for label in labels if label not in every or label in full]
                if wrong:
                    there = "" if wrong[0] in full else ", ".join(every[:24])
                    raise EditError.of("language.cavity-fails", wrong=wrong[0], end=end.name, cavities=there)
            fresh = change(body, blanks=() if line.labels.lower() == "none" else labels)
            now = index_of(design).ends[end.id]
            bodies = tuple(fresh if one.id == body.id else one for one in now.housings)
            design = put(design, "ends", change(now, housings=bodies))
        if not end.housings:
            raise EditError.of("language.no-housing-yet", end=end.name, example=said.EXAMPLES["housing"])
    return design


def _one_wire(design: Design, name: str) -> str:
    wires = wires_of(design, name)
    if len(wires) > 1:
        raise InputError.of(
            "language.means-wires-name",
            name=quoted(name),
            count=len(wires),
            wires=", ".join(wire.id for wire in wires[:6]),
        )
    return wires[0].id


def _put(design: Design, line: said.Put, shelf: Shelf | None) -> Design:
    wire = index_of(design).wires[_one_wire(design, line.name)]
    end = ends_of(design, line.where)[0]
    side: Side = "start" if wire.start.end == end.id else "finish"
    if end.id not in (wire.start.end, wire.finish.end):
        raise EditError.of("any.wire-doesnt-go-there", wire=wire.id, end=end.name)
    return assign(design, wire.id, side, line.label, shelf)


def _fill(design: Design, line: said.Fill, shelf: Shelf | None) -> Design:
    end = ends_of(design, line.end)[0]
    return fill_run(design, end.id, [wire.id for wire in wires_of(design, line.where)], line.label, shelf)


def _barrel(design: Design, line: said.Barrel, shelf: Shelf | None) -> Design:
    part = part_of(shelf_for(design, shelf), line.part, catalogue.Splice, "splice barrel")
    for end in ends_of(design, line.where):
        if end.kind is not EndKind.SPLICE:
            raise EditError.of("language.no-splice", end=end.name)
        for wire in design.wires:
            for side in SIDES:
                if getattr(wire, side).end == end.id:
                    design = set_fitting(design, wire.id, side, shelf, part=part.id)
    return design


def _rename(design: Design, line: said.Rename, _: Shelf | None) -> Design:
    wanted, found = " ".join(line.before.lower().split()), False
    for table in ("loads", "ends", "supplies", "converters", "zones", "cases", "points", "wires"):
        for row in getattr(design, table):
            if row.name.lower() == wanted or (not found and row.id.lower() == wanted):
                design, found = rename(design, table, row.id, line.where), True
    if not found:
        raise InputError.of("language.nothing-is-called", before=quoted(line.before))
    return design


def _remove(design: Design, line: said.Remove, _: Shelf | None) -> Design:
    table = REMOVABLE[line.table.lower()]
    if table == "fuses":
        return remove(design, table, line.where)
    rows = getattr(design, table)
    plain = " ".join(line.where.lower().split())
    hits = [row for row in rows if row.id.lower() == plain] or [
        row for row in rows if getattr(row, "name", "").lower() == plain
    ]
    if len(hits) > 1:
        raise InputError.of(
            "language.several-called-so",
            count=len(hits),
            table=table,
            where=quoted(line.where),
            hits=", ".join(row.id for row in hits[:6]),
        )
    return remove(design, table, hits[0].id if hits else line.where)


def _ways(design: Design, line: said.Ways, _: Shelf | None) -> Design:
    for end in ends_of(design, line.where):
        if end.kind is not EndKind.BOX:
            raise EditError.of("language.no-fuse-box", end=end.name)
        count, fuses = int(line.count), [link for link in end.links if link.kind is LinkKind.FUSE]
        used = {pin.cavity for wire in design.wires for pin in (wire.start, wire.finish) if pin.end == end.id}
        taken_ = [link for link in fuses if link.b in used]
        if not 1 <= count <= 200:
            raise InputError.of("language.ways-out-of-range")
        if count < len(taken_):
            raise EditError.of("language.too-few-ways", end=end.name, used=len(taken_), ways=count)
        spare = [link for link in fuses if link.b not in used]
        gone = list(reversed(spare))[: max(0, len(fuses) - count)]
        dropped = {link.b for link in gone}
        box: End = change(
            end,
            links=tuple(link for link in end.links if link not in gone),
            cavities=tuple(cavity for cavity in end.cavities if cavity.id not in dropped),
            ways=count,
        )
        bus = next((group[0] for group in end.bridged), None) or (fuses[0].a if fuses else "in")
        while sum(link.kind is LinkKind.FUSE for link in box.links) < count:
            box = with_fuse(box, bus, None)[0]
        design = put(design, "ends", box)
    return design


_ACTS: dict[type[said.Said], Callable[[Design, Any, Shelf | None], Design]] = {
    said.Size: _size,
    said.Keep: _keep,
    said.Colour: _colour,
    said.Made: _made,
    said.Housing: _housing,
    said.Worn: _worn,
    said.Stud: _stud,
    said.Blanks: _blanks,
    said.Put: _put,
    said.Fill: _fill,
    said.Barrel: _barrel,
    said.Common: common,
    said.Jacketed: jacketed,
    said.Earth: earth,
    said.Alike: alike,
    said.Rename: _rename,
    said.Remove: _remove,
    said.Ways: _ways,
    said.Take: lambda design, line, shelf: taken(design, line.what, shelf).design,
}
