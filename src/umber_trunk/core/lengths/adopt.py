"""From a design's listed lengths to an inferred trunk, and from an accepted proposal to a design that has it."""

from __future__ import annotations

from umber_trunk.core.errors import EditError, Wanted, always
from umber_trunk.core.harness.edits import measured, new_id, put, put_all
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Point, Segment
from umber_trunk.core.harness.way import Method
from umber_trunk.core.lengths.infer import Inferred, Listed, infer


def listed_of(design: Design) -> list[Listed]:
    """Every wire with a listed length."""
    return [
        Listed(wire.id, wire.start.end, wire.finish.end, wire.stated_m or 0.0)
        for wire in design.wires
        if wire.stated_m is not None
    ]


def inferred_trunk(design: Design, wanted: Wanted = always) -> Inferred:
    """The tree that the design's listed lengths speak of; InputError where they speak of none."""
    return infer(listed_of(design), wanted)


def adopt(design: Design, proposal: Inferred) -> Design:
    """The design with a proposed trunk in place of none. EditError where one of its ends is on a trunk already, or
    gone."""
    index = index_of(design)
    ids: dict[str, str] = {}
    ends = []
    for name, at_it in proposal.points.items():
        for end in at_it:
            if end not in index.ends:
                raise EditError.of("lengths.no-end-any-more", end=end)
            if index.ends[end].point is not None:
                raise EditError.of("lengths.on-trunk-already", name=index.ends[end].name)
        point = Point(
            id=new_id(design, "points", "P" if at_it else "B"), name=index.ends[at_it[0]].name if at_it else ""
        )
        design = put(design, "points", point)
        ids[name] = point.id
        ends += [index.ends[end].model_copy(update={"point": point.id}) for end in at_it]
    segments = []
    taken = {segment.id for segment in design.segments}
    number = 0
    for one in proposal.segments:
        number += 1
        while f"S{number}" in taken:
            number += 1
        measure = measured(round(one.length_m, 4), Method.STATED if one.sure else Method.GUESS)
        segments.append(Segment(id=f"S{number}", a=ids[one.a], b=ids[one.b], measure=measure))
    return put_all(put_all(design, "ends", ends), "segments", segments)
