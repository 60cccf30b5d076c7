"""Parts taken out of a design with what can't be without them. What still stands and lacks something then is named by
findings."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import change, drop, put, put_all, set_project
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design


def remove(design: Design, table: str, part_id: str) -> Design:
    """The design without a part: a row of a table, or a fuse or link as "END LINK" of “fuses”. EditError for one there
    is none of, and for a point that limbs or ends still meet at."""
    if table == "fuses":
        return _without_link(design, part_id)
    if table not in WAYS:
        raise EditError.of("harness.nothing-is-taken-out", table=table)
    if all(part.id != part_id for part in getattr(design, table)):
        raise EditError.of("harness.no-such-part", part_id=part_id, table=table)
    return WAYS[table](design, part_id)


def _without_wires(design: Design, wires: Iterable[str]) -> Design:
    """Without wires, and without what is left of combs, sets and cables when they are gone; what was decided about them
    too."""
    gone = set(wires)
    cored = {wire.cable for wire in design.wires}
    design = drop(design, "wires", gone)
    for table in ("combs", "sets"):
        for one in getattr(design, table):
            left = tuple(wire for wire in one.wires if wire not in gone)
            if len(left) < len(one.wires):
                design = put(design, table, change(one, wires=left)) if len(left) > 1 else drop(design, table, [one.id])
    design = drop(design, "decisions", [one.id for one in design.decisions if one.wire in gone])
    bare = cored - {wire.cable for wire in design.wires}
    return drop(design, "cables", [cable.id for cable in design.cables if cable.id in bare])


def _without_load(design: Design, load_id: str) -> Design:
    """Without a load, its loop, and the wires that served nothing else at its pins."""
    load = index_of(design).loads[load_id]
    pins = {load.plus, load.minus}
    still_used = {pin for other in design.loads if other.id != load_id for pin in (other.plus, other.minus)}
    supply_pins = {pin for s in design.supplies for pin in (s.plus, s.minus)}
    lone = {
        pin for pin in pins - still_used - supply_pins if sum(pin in (w.start, w.finish) for w in design.wires) == 1
    }
    wires = [w.id for w in design.wires if w.start in lone or w.finish in lone]
    cases = [
        change(case, loads=tuple(i for i in case.loads if i != load_id))
        for case in design.cases
        if case.loads is not None and load_id in case.loads
    ]
    design = drop(design, "loops", [loop.id for loop in design.loops if loop.load == load_id])
    return put_all(_without_wires(drop(design, "loads", [load_id]), wires), "cases", cases)


def _without_end(design: Design, end_id: str) -> Design:
    """Without an end, the wires, loads, supplies and converters at it, and what other ends say of it."""
    for load in design.loads:
        if end_id in (load.plus.end, load.minus.end):
            design = _without_load(design, load.id)
    design = _without_wires(design, [w.id for w in design.wires if end_id in (w.start.end, w.finish.end)])
    design = drop(design, "supplies", [s.id for s in design.supplies if end_id in (s.plus.end, s.minus.end)])
    fed = [c.id for c in design.converters if end_id in (c.plus.end, c.minus.end, c.out_plus.end, c.out_minus.end)]
    design = drop(drop(design, "converters", fed), "ends", [end_id])
    for end in design.ends:
        if end.mates == end_id:
            design = put(design, "ends", change(end, mates=None))
        if end.join is not None and end.join.dull == end_id:
            design = put(design, "ends", change(end, join=change(end.join, dull=None)))
    project = design.project
    named = {name: None for name in ("source_end", "return_end") if getattr(project, name) == end_id}
    return set_project(design, **named) if named else design


def _without_link(design: Design, part_id: str) -> Design:
    end_id, _, link_id = part_id.rpartition(" ")
    end = index_of(design).ends.get(end_id)
    if end is None or all(link.id != link_id for link in end.links):
        raise EditError.of("harness.no-fuse-or-link", part_id=part_id)
    return put(design, "ends", change(end, links=tuple(link for link in end.links if link.id != link_id)))


def _without_zone(design: Design, zone_id: str) -> Design:
    """What lay in the zone lies in the project's usual air then."""
    for table in ("segments", "ends"):
        inside = [change(part, zone=None) for part in getattr(design, table) if part.zone == zone_id]
        design = put_all(design, table, inside)
    return drop(design, "zones", [zone_id])


def _without_segment(design: Design, segment_id: str) -> Design:
    """Without a limb; wires pinned to it and splices placed on it find their own way again, points nothing meets at go
    along."""
    segment = index_of(design).segments[segment_id]
    pinned = [
        change(wire, via=tuple(s for s in wire.via if s != segment_id))
        for wire in design.wires
        if segment_id in wire.via
    ]
    placed = [change(end, join=None) for end in design.ends if end.join is not None and end.join.segment == segment_id]
    design = put_all(put_all(drop(design, "segments", [segment_id]), "wires", pinned), "ends", placed)
    met = {point for one in design.segments for point in (one.a, one.b)} | {end.point for end in design.ends}
    return drop(design, "points", [point for point in (segment.a, segment.b) if point not in met])


def _without_point(design: Design, point_id: str) -> Design:
    limbs = [one.id for one in design.segments if point_id in (one.a, one.b)]
    ends = [end.name for end in design.ends if end.point == point_id]
    if limbs or ends:
        raise EditError.of("harness.limbs-still-meet", limbs=", ".join([*limbs, *ends][:4]), point_id=point_id)
    return drop(design, "points", [point_id])


def _plainly(table: Any) -> Callable[[Design, str], Design]:
    return lambda design, part_id: drop(design, table, [part_id])


WAYS: dict[str, Callable[[Design, str], Design]] = {
    "loads": _without_load,
    "ends": _without_end,
    "wires": lambda design, part_id: _without_wires(design, [part_id]),
    "zones": _without_zone,
    "segments": _without_segment,
    "points": _without_point,
    **{table: _plainly(table) for table in ("supplies", "converters", "cases", "combs", "sets", "loops")},
}
"""How a part of each table is taken out."""
