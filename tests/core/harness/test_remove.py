"""Parts taken out: whatever is taken out of whichever demo, nothing speaks of what is gone and everything is still
worked out."""

import pytest

from long_runs import LONG
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.model import Cable, CableKind, Design
from umber_trunk.core.harness.remove import WAYS, remove
from umber_trunk.core.harness.way import Alike, Comb
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.store.jsonfile import design_from, to_json


def spoken_of(design: Design) -> set[tuple[str, str]]:
    """(table, id) of every part that another part names."""
    ends = {pin.end for wire in design.wires for pin in (wire.start, wire.finish)}
    ends |= {pin.end for one in (*design.loads, *design.supplies) for pin in (one.plus, one.minus)}
    ends |= {pin.end for one in design.converters for pin in (one.plus, one.minus, one.out_plus, one.out_minus)}
    ends |= {one for end in design.ends for one in (end.mates, end.join.dull if end.join else None) if one}
    wires = {wire for one in (*design.combs, *design.sets) for wire in one.wires} | {
        one.wire for one in design.decisions
    }
    loads = {load for case in design.cases for load in case.loads or ()} | {loop.load for loop in design.loops}
    zones = {one.zone for one in (*design.segments, *design.ends) if one.zone}
    points = {point for one in design.segments for point in (one.a, one.b)} | {
        end.point for end in design.ends if end.point
    }
    segments = {via for wire in design.wires for via in wire.via} | {
        end.join.segment for end in design.ends if end.join
    }
    cables = {wire.cable for wire in design.wires if wire.cable}
    named = {
        "ends": ends,
        "wires": wires,
        "loads": loads,
        "zones": zones,
        "points": points,
        "segments": segments,
        "cables": cables,
    }
    return {(table, one) for table, ids in named.items() for one in ids}


@pytest.mark.parametrize("name", DEMOS)
@pytest.mark.share(3)
def test_nothing_speaks_of_what_is_gone(name: str) -> None:
    design = demo(name)
    known = {(table, one) for table, one in spoken_of(design) if any(part.id == one for part in getattr(design, table))}
    for table in WAYS:
        for number, part in enumerate(getattr(design, table)):
            if table == "points" and ("points", part.id) in known:
                with pytest.raises(EditError, match="still meet"):
                    remove(design, table, part.id)
                continue
            less = remove(design, table, part.id)
            assert all(one.id != part.id for one in getattr(less, table))
            left = {
                (t, one.id)
                for t in ("ends", "wires", "loads", "zones", "points", "segments", "cables")
                for one in getattr(less, t)
            }
            assert (spoken_of(less) & known) <= left, (table, part.id)
            if number % (7 if LONG else 28) == 0:  # some of them worked out whole, and through a file
                assert design_from(json_of(less), "x") == less
                analysis = analyse(less)
                assert len(analysis.once(cuts)) <= len(less.wires)
                assert all(finding.message for finding in analysis.findings)


def json_of(design: Design) -> dict[str, object]:
    import json

    data: dict[str, object] = json.loads(to_json(design))
    return data


def test_what_goes_along_and_what_stays() -> None:
    barge = demo("barge")
    end = next(end for end in barge.ends if end.links)
    link = end.links[0]
    less = remove(barge, "fuses", f"{end.id} {link.id}")
    assert [one.id for one in next(e for e in less.ends if e.id == end.id).links] == [one.id for one in end.links[1:]]
    three = [wire.id for wire in barge.wires[:3]]
    tied = barge.model_copy(
        update={
            "combs": (Comb(id="c", wires=tuple(three), pitch_mm=3.0),),
            "sets": (Alike(id="s", wires=tuple(three[:2])),),
        }
    )
    two = remove(tied, "wires", three[0])
    assert two.combs[0].wires == tuple(three[1:])
    assert two.sets == ()
    spare = barge.model_copy(update={"cables": (*barge.cables, Cable(id="spare", kind=CableKind.PAIR))})
    assert any(cable.id == "spare" for cable in remove(spare, "wires", three[0]).cables)  # it had no core before either
    zone = next(zone for zone in barge.zones if any(one.zone == zone.id for one in barge.segments))
    assert not any(
        one.zone == zone.id
        for one in (*remove(barge, "zones", zone.id).segments, *remove(barge, "zones", zone.id).ends)
    )
    leaf = next(one for one in barge.segments if sum(one.b in (other.a, other.b) for other in barge.segments) == 1)
    bare = remove(barge, "segments", leaf.id)
    assert any(point.id == leaf.b for point in bare.points)  # its end still lies there
    lone = edits.put_all(bare, "ends", [edits.change(one, point=None) for one in bare.ends if one.point == leaf.b])
    assert not any(point.id == leaf.b for point in remove(lone, "points", leaf.b).points)
    for table, part in (("fuses", "nobody F1"), ("fuses", f"{end.id} F99"), ("wires", "W99"), ("project", "x")):
        with pytest.raises(EditError):
            remove(barge, table, part)
