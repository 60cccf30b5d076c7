"""Lines that make several parts at once: loads that share a return, a feed or a ground, and loads made like others."""

from __future__ import annotations

import re

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import branch, change, ensure_cavity, measured, new_id, put, put_all, slug
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Load, Pin, Point, Wire
from umber_trunk.core.harness.way import Method
from umber_trunk.core.language.records import Alike, Common
from umber_trunk.core.language.whose import loads_of
from umber_trunk.core.needs.enter import on_frame
from umber_trunk.core.needs.outlets import feed_pin, find_end, find_point, return_pin
from umber_trunk.core.units import parse_length_m


def common(design: Design, line: Common, _: Shelf | None) -> Design:
    """Loads whose returns or feeds meet at a splice; one wire goes on from there to the place. EditError where a load
    has no wire to move, or the place isn't there."""
    feed = line.pole.lower() == "feed"
    loads = loads_of(design, line.where)
    if len(loads) < 2:
        raise EditError.of("language.two-loads-or-more-meet")
    place = find_end(design, line.place)
    if not feed and _is_frame(line.place, place):
        design, place = on_frame(design, place or index_of(design).ends[loads[0].minus.end])
    if place is None:
        raise EditError.of("language.no-end-called-to-go", place=line.place)
    if any(line.name.lower() in (end.id.lower(), end.name.lower()) for end in design.ends):
        raise EditError.of("language.end-called-already", line=line.name)
    moved = [_wire_of(design, load, feed) for load in loads]
    splice = End(
        id=slug(line.name, [end.id for end in design.ends]),
        name=line.name,
        kind=EndKind.SPLICE,
        point=place.point,
        zone=place.zone,
        cavities=(Cavity(id="1"),),
    )
    pin = Pin(end=splice.id, cavity="1")
    if feed:
        go_on = _fed_from({_far(wire, load, feed) for wire, load in zip(moved, loads, strict=True)})
    else:
        design, go_on = _led_back_to(design, place)
    design = put(design, "ends", splice)
    changed = [_moved(wire, load, feed, pin) for wire, load in zip(moved, loads, strict=True)]
    design = put_all(design, "wires", changed)
    trunk = Wire(
        id=new_id(design, "wires", "W"),
        start=go_on if feed else pin,
        finish=pin if feed else go_on,
        name=f"{line.name} {'feed' if feed else 'return'}",
        circuit=line.name,
        colour=moved[0].colour or ("red" if feed else "black"),
        stated_m=0.1,
    )
    return put(design, "wires", trunk)


def _fed_from(fars: set[Pin]) -> Pin:
    """The one place that loads are fed from. EditError where there are several."""
    if len(fars) > 1:
        raise EditError.of("language.loads-are-fed-from-different-places")
    return next(iter(fars))


def _led_back_to(design: Design, place: End) -> tuple[Design, Pin]:
    """Where a shared return ends: on a stud, splice, bar or the frame, else in a cavity of its own. EditError where
    nothing leads on from there."""
    if not (place.frame or place.kind in (EndKind.STUD, EndKind.SPLICE, EndKind.BAR)):
        return return_pin(design, place)
    leads = any(place.id in (wire.start.end, wire.finish.end) for wire in design.wires)
    supplied = any(place.id in (one.minus.end, one.plus.end) for one in design.supplies)
    if not (leads or supplied or place.frame):
        raise EditError.of("language.nothing-leads-to-supply", place=place.name)
    return ensure_cavity(design, place.id, "1"), Pin(end=place.id, cavity="1")


def _is_frame(name: str, place: End | None) -> bool:
    plain = name.lower().removeprefix("the ")
    return plain in ("frame", "chassis") or (
        place is not None and (place.frame or place.name.lower() in ("frame", "chassis"))
    )


def _wire_of(design: Design, load: Load, feed: bool) -> Wire:
    pin = load.plus if feed else load.minus
    wires = [wire for wire in design.wires if pin in (wire.start, wire.finish)]
    if len(wires) != 1:
        raise EditError.of("language.one-wire-to-move", load=load.name, count=len(wires), feed=bool(feed))
    return wires[0]


def _far(wire: Wire, load: Load, feed: bool) -> Pin:
    pin = load.plus if feed else load.minus
    return wire.finish if wire.start == pin else wire.start


def _moved(wire: Wire, load: Load, feed: bool, pin: Pin) -> Wire:
    own = load.plus if feed else load.minus
    made: Wire = change(
        wire, **({"finish": pin} if wire.start == own else {"start": pin}), via=(), at_finish=None, at_start=None
    )
    return made


def alike(design: Design, line: Alike, shelf: Shelf | None) -> Design:
    """Loads made after others, with the same wires, parts and limits; on limbs as long as theirs, or all at the end of
    a limb of their own. EditError where a new name is taken."""
    olds = loads_of(design, line.old)
    index = index_of(design)
    tip: str | None = None
    if line.long:
        start = find_point(design, line.where)
        if start is None:
            raise EditError.of("any.not-on-trunk", where=line.where)
        metres = parse_length_m(line.long, "m")
        design, tip = branch(design, start, measured(metres, Method.TAPE), line.new, None)
    stem, like = _stem(line.new), _stem(line.old)
    taken = {end.name.lower() for end in design.ends} | {load.name.lower() for load in design.loads}
    for number, old in enumerate(olds, 1):
        name = (
            re.sub(re.escape(like), stem, old.name, flags=re.I)
            if like.lower() in old.name.lower()
            else f"{stem} {number}"
        )
        if name.lower() in taken:
            raise EditError.of("language.name-taken", name=name)
        taken.add(name.lower())
        old_end = index.ends[old.plus.end]
        if old_end.point is None and tip is None:
            raise EditError.of("language.isnt-on-trunk", old=old.name, new=line.new, said=line.old)
        design, point = (design, tip) if tip is not None else _own_limb(design, old_end, name)
        design = _copied(design, old, old_end, name, point)
    return design


def _stem(text: str) -> str:
    return text[:-1] if text.lower().endswith("s") and not text.lower().endswith("ss") else text


def _own_limb(design: Design, end: End, name: str) -> tuple[Design, str]:
    """A limb as long as the one that carries an end, from the same place."""
    index = index_of(design)
    start, segment, _ = index.parents.get(end.point or "", ("", "", 0))
    if not segment:
        point = Point(id=new_id(design, "points", "P"), name=name)
        return put(design, "points", point), point.id
    limb = index.segments[segment]
    return branch(design, start, limb.measure, name, limb.zone)


def _copied(design: Design, old: Load, old_end: End, name: str, point: str | None) -> Design:
    own = {old.plus.cavity, old.minus.cavity}
    end: End = change(
        old_end,
        id=slug(name, [one.id for one in design.ends]),
        name=name,
        point=point,
        cavities=tuple(c for c in old_end.cavities if c.id in own),
        links=(),
        bridged=(),
        mates=None,
        inspection=None,
    )
    design = put(design, "ends", end)
    pins = {"plus": Pin(end=end.id, cavity=old.plus.cavity), "minus": Pin(end=end.id, cavity=old.minus.cavity)}
    for wire in design.wires:
        for role, pin in (("plus", old.plus), ("minus", old.minus)):
            if pin not in (wire.start, wire.finish):
                continue
            far = wire.finish if wire.start == pin else wire.start
            far_end = index_of(design).ends[far.end]
            if role == "plus":
                amps = old.value if old.kind.value == "A" else 0.0
                link = next((one for one in far_end.links if one.b == far.cavity), None)
                design, far = feed_pin(design, far_end, amps, None, link.rating_a if link is not None else None)
            made = change(
                wire,
                id=new_id(design, "wires", "W"),
                name=re.sub(re.escape(old.name), name, wire.name, flags=re.I),
                circuit=name,
                cable=None,
                via=(),
                stated_m=None,
                **({"start": pins[role], "finish": far} if wire.start == pin else {"start": far, "finish": pins[role]}),
            )
            design = put(design, "wires", made)
    load = change(
        old, id=slug(name, [row.id for row in design.loads], "load"), name=name, plus=pins["plus"], minus=pins["minus"]
    )
    return put(design, "loads", load)
