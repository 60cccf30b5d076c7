"""Edits as pure functions design → design. Each raises EditError and leaves nothing half done."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Any, Literal

from pydantic import ValidationError

from umber_trunk.core.errors import EditError
from umber_trunk.core.field_fault import field_fault
from umber_trunk.core.harness.end import Cavity, End, EndKind, Link, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import TABLES, Design, Pin, Point, Segment
from umber_trunk.core.harness.way import Measure, Method

Table = Literal[
    "zones",
    "points",
    "segments",
    "ends",
    "supplies",
    "loads",
    "cases",
    "wires",
    "converters",
    "cables",
    "parts",
    "combs",
    "sets",
    "decisions",
    "loops",
    "options",
    "variants",
    "devices",
    "prices",
]
Edit = Callable[[Design], Design]
USUAL_PLUS_MINUS = {
    Method.TAPE: 0.005, Method.STRING: 0.015, Method.DRAWN: 0.02, Method.STATED: 0.03, Method.GUESS: 0.15,
}  # fmt: skip
"""Usual ± as a share of the length, for lengths given without one."""


def measured(length_m: float, method: Method, plus_minus_m: float | None = None) -> Measure:
    """A measure; without a stated ± the method's usual share of the length, at least 5 mm."""
    if plus_minus_m is None:
        plus_minus_m = max(0.005, USUAL_PLUS_MINUS[method] * length_m)
    return Measure(length_m=length_m, method=method, plus_minus_m=plus_minus_m)


def put(design: Design, table: Table, part: Any) -> Design:
    """Adds the part, or replaces the one with its id in place."""
    rows = getattr(design, table)
    at = next((i for i, row in enumerate(rows) if row.id == part.id), None)
    new = (*rows, part) if at is None else (*rows[:at], part, *rows[at + 1 :])
    return design.model_copy(update={table: new})


def put_all(design: Design, table: Table, parts: Iterable[Any]) -> Design:
    """Adds or replaces several parts of one table in a single pass."""
    fresh = {part.id: part for part in parts}
    kept = [fresh.pop(row.id, row) for row in getattr(design, table)]
    return design.model_copy(update={table: (*kept, *fresh.values())})


def drop(design: Design, table: Table, ids: Iterable[str]) -> Design:
    """Removes parts by id; unknown ids are no error."""
    gone = set(ids)
    return design.model_copy(update={table: tuple(row for row in getattr(design, table) if row.id not in gone)})


def change(part: Any, /, **values: Any) -> Any:
    """A copy of a part with validated new values; EditError names the field that won't do."""
    try:
        return type(part).model_validate({**dict(part), **values})
    except ValueError as why:
        raise refused(why) from None


def refused(why: ValueError) -> EditError:
    """What a model says of values it doesn't take, as a sentence."""
    place: tuple[str, ...] = ("value",)
    said = str(why)
    if isinstance(why, ValidationError):
        first = why.errors()[0]
        place, said = tuple(map(str, first["loc"])), str(field_fault(first))
    return EditError.of("harness.value-not-taken", place=".".join(place).replace("_", " ") or "it", said=said)


def verified(before: Design, after: Design) -> Design:
    """`after` with everything that isn't the same as in `before` read anew by its model; edits that copy parts can't
    slip a figure past its bounds. EditError names what won't do; `after` itself where all of it does."""
    changed: dict[str, Any] = {}
    for name in Design.model_fields:
        old, new = getattr(before, name), getattr(after, name)
        if new is old:
            continue
        if name == "project":
            fresh: Any = _anew(new)
        elif name in TABLES:
            known = {part.id: part for part in old}
            fresh = tuple(part if known.get(part.id) is part else _anew(part) for part in new)
            if len({part.id for part in fresh}) < len(fresh):
                raise EditError.of("harness.id-occurs-twice", name=name)
        else:
            continue
        if fresh != new:
            changed[name] = fresh
    return after.model_copy(update=changed) if changed else after


def _anew(part: Any) -> Any:
    try:
        return type(part).model_validate(part.model_dump())
    except ValueError as why:
        raise refused(why) from None


def set_project(design: Design, **values: Any) -> Design:
    """Changes house rules and defaults."""
    return design.model_copy(update={"project": change(design.project, **values)})


def new_id(design: Design, table: Table, stem: str) -> str:
    """The first free id stem + number."""
    used = {row.id for row in getattr(design, table)}
    number = 1
    while f"{stem}{number}" in used:
        number += 1
    return f"{stem}{number}"


def slug(name: str, used: Iterable[str], fallback: str = "end") -> str:
    """An id from a name, unique among `used`."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or fallback
    taken, found, number = set(used), base, 2
    while found in taken:
        found, number = f"{base}-{number}", number + 1
    return found


def set_length(design: Design, segment_id: str, measure: Measure) -> Design:
    """Puts a measured length on a segment."""
    segment = index_of(design).segments.get(segment_id)
    if segment is None:
        raise EditError.of("any.no-segment", segment=segment_id)
    return put(design, "segments", change(segment, measure=measure))


def set_size(design: Design, wire_ids: Iterable[str], size: str | None, locked: bool = False) -> Design:
    """Chooses (None: unchooses) the size of wires."""
    index = index_of(design)
    try:
        wires = [index.wires[wire_id] for wire_id in wire_ids]
    except KeyError as why:
        raise EditError.of("any.no-wire", wire=why.args[0]) from None
    return put_all(design, "wires", [change(w, size=size, locked=locked) for w in wires])


def split_segment(design: Design, segment_id: str, at_m: float, name: str = "") -> tuple[Design, str]:
    """Puts a breakout into a segment, `at_m` from its a-side; returns the design and the new point."""
    segment = index_of(design).segments.get(segment_id)
    if segment is None:
        raise EditError.of("any.no-segment", segment=segment_id)
    whole = segment.measure.length_m
    if not 0 < at_m < whole:
        raise EditError.of("harness.breakout-must-lie-inside", whole=whole, segment_id=segment_id)
    point = Point(id=new_id(design, "points", "B"), name=name)
    share = at_m / whole
    near = segment.model_copy(update={"b": point.id, "measure": _part(segment.measure, share)})
    far = segment.model_copy(
        update={
            "id": new_id(design, "segments", "S"),
            "a": point.id,
            "measure": _part(segment.measure, 1 - share),
        }
    )
    design = put(put(put(design, "points", point), "segments", near), "segments", far)
    return design, point.id


def _part(measure: Measure, share: float) -> Measure:
    """± of parts adds as root sum square, so each part has √share of it."""
    return measure.model_copy(
        update={
            "length_m": measure.length_m * share,
            "plus_minus_m": measure.plus_minus_m * share**0.5,
        }
    )


def branch(
    design: Design, from_point: str, measure: Measure, name: str = "", zone: str | None = None
) -> tuple[Design, str]:
    """A new limb from a point; returns the design and the limb's tip."""
    point = Point(id=new_id(design, "points", "B"), name=name)
    segment = Segment(id=new_id(design, "segments", "S"), a=from_point, b=point.id, measure=measure, zone=zone)
    return put(put(design, "points", point), "segments", segment), point.id


def ensure_cavity(design: Design, end_id: str, cavity_id: str) -> Design:
    """The end with that cavity, added if it lacks it."""
    end = index_of(design).ends[end_id]
    if any(cavity.id == cavity_id for cavity in end.cavities):
        return design
    return put(design, "ends", end.model_copy(update={"cavities": (*end.cavities, Cavity(id=cavity_id))}))


def free_fuse_way(design: Design, box: End, rating_a: float | None) -> tuple[Design, str]:
    """An output cavity of a fuse box that no wire uses. made with its fuse if all are taken. EditError where it
    has no more than somebody said."""
    used = {p.cavity for w in design.wires for p in (w.start, w.finish) if p.end == box.id}
    for link in box.links:
        if link.kind is LinkKind.FUSE and link.b not in used:
            fused = link.model_copy(update={"rating_a": rating_a or link.rating_a})
            links = tuple(fused if other.id == link.id else other for other in box.links)
            return put(design, "ends", box.model_copy(update={"links": links})), link.b
    count = sum(link.kind is LinkKind.FUSE for link in box.links)
    if box.ways is not None and count >= box.ways:
        raise EditError.of("harness.all-ways-taken", box=box.name, ways=box.ways, ways_after=box.ways + 2)
    way = _free_way(box, 1 + count)
    bus = next((group[0] for group in box.bridged), None) or box.cavities[0].id
    link = Link(id=way, kind=LinkKind.FUSE, a=bus, b=way, resistance_ohm=0.002, rating_a=rating_a)
    cavities = (*box.cavities, Cavity(id=way))
    return put(design, "ends", box.model_copy(update={"cavities": cavities, "links": (*box.links, link)})), way


def _free_way(end: End, number: int) -> str:
    """The first of F<number>, F<number + 1> … that names no cavity or link of an end."""
    taken = {cavity.id for cavity in end.cavities} | {link.id for link in end.links}
    while f"F{number}" in taken:
        number += 1
    return f"F{number}"


def fuse_at_head(design: Design, wire_id: str, head: Pin, rating_a: float | None = None) -> Design:
    """A new fuse between a wire and the pin it starts at; a stud becomes a box whose old cavities stay one."""
    index = index_of(design)
    end, wire = index.ends[head.end], index.wires[wire_id]
    if end.kind in (EndKind.STUD, EndKind.SPLICE):
        end = change(end, kind=EndKind.BOX, bridged=(tuple(cavity.id for cavity in end.cavities),))
    end, way = with_fuse(end, head.cavity, rating_a)
    fused = Pin(end=end.id, cavity=way)
    moved = {"start": fused} if wire.start == head else {"finish": fused}
    return put(put(design, "ends", end), "wires", wire.model_copy(update=moved))


def with_fuse(end: End, cavity: str, rating_a: float | None, style: str = "") -> tuple[End, str]:
    """The end with a fuse from a cavity to a new one, and that one's id."""
    way = _free_way(end, 1)
    link = Link(
        id=way,
        kind=LinkKind.FUSE,
        a=cavity,
        b=way,
        resistance_ohm=usual_fuse_ohm(rating_a),
        rating_a=rating_a,
        style=style,
    )
    return change(end, cavities=(*end.cavities, Cavity(id=way)), links=(*end.links, link)), way


def usual_fuse_ohm(rating_a: float | None) -> float:
    """Resistance of a usual fuse: about 0.1 V at its rating; 2 mΩ while nobody has rated it."""
    return 0.1 / rating_a if rating_a else 0.002


def set_fuse(design: Design, end_id: str, link_id: str, rating_a: float | None) -> Design:
    """Changes a fuse's rating."""
    end = index_of(design).ends.get(end_id)
    link = next((link for link in end.links if link.id == link_id), None) if end else None
    if end is None or link is None:
        raise EditError.of("harness.no-fuse", link_id=link_id, end_id=end_id)
    rated = change(link, rating_a=rating_a)
    links = tuple(rated if row.id == link_id else row for row in end.links)
    return put(design, "ends", end.model_copy(update={"links": links}))


def rename(design: Design, table: Table, part_id: str, name: str) -> Design:
    """Gives a part another name; ids stay."""
    part = next((row for row in getattr(design, table) if row.id == part_id), None)
    if part is None:
        raise EditError.of("harness.nothing-to-rename", part_id=part_id)
    if not name.strip():
        raise EditError.of("harness.name-cant-be-empty")
    return put(design, table, change(part, name=name.strip()))
