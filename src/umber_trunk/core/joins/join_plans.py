"""Every splice of a design as it is to be made: where, which way, with which barrel and shrink, what to open.

        breakout      at_m        ┌─ half ─┬─ half ─┐
    ────────●─────────────────────┤▒ grip ▒│▒ grip ▒├────── wires on, under the cover
                                  └ barrel + shrink ┘

It is wanted where somebody said or a little off its breakout, keeps clear of bends, clamps and wet low points, and is
moved apart from the others on its segment (`stagger.py`). How thick it makes the bundle says what fits over it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.catalog.parts import Braid, Grommet, Holder, Shrink, Splice, Tube
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.harness.end import End, EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Segment
from umber_trunk.core.harness.way import CoverKind
from umber_trunk.core.joins.stagger import Piece, Stretch, stagger
from umber_trunk.core.physics.packing import quick
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say

FIRST_M = 0.04
"""How far from its breakout a splice is wanted where nobody says."""
LOW_POINT_M = 0.06
"""Kept free to each side of a drip loop in the wet."""
CLAMP_CLEAR_M = 0.005
"""A splice keeps so far from a clamp."""
USUAL_BARREL_MM, USUAL_GRIP_MM = 12.0, 10.0
"""Lengths of a barrel, and of shrink past each of its ends, where no part is chosen."""
BARREL_TIMES = 1.6
"""Outside of a closed barrel over the diameter of the copper in it, about."""


@dataclass(frozen=True)
class JoinPlan:
    """One splice. `at_m` from its point, `from_a_m` from the segment's a-side; it takes up `half_mm` to each side and
    is `joint_mm` thick under its shrink. `legs` leave away from the dull end. `crowded`: no place is free for it;
    `stacked` names those it would lie over; `over` says what it is too thick for."""

    end: str
    segment: str
    at_m: float
    from_a_m: float
    half_mm: float
    joint_mm: float
    bundle_mm: float
    barrel: str
    shrink: str
    shrink_cut_mm: float
    grip_mm: float
    open_mm: float
    dull: str
    legs: tuple[str, ...]
    moved: bool
    held: bool
    crowded: bool
    stacked: tuple[str, ...] = ()
    in_the_way: tuple[str, ...] = ()
    over: str = ""


def joins(results: Results) -> list[JoinPlan]:
    """Every splice that lies on a segment; for `Results.once`."""
    design, index = results.design, index_of(results.design)
    by_segment: dict[str, list[End]] = {}
    for end in design.ends:
        if end.kind is EndKind.SPLICE and end.join is not None and end.join.segment in index.segments:
            segment = index.segments[end.join.segment]
            if end.point in (segment.a, segment.b):
                by_segment.setdefault(segment.id, []).append(end)
    found: list[JoinPlan] = []
    for name, ends in by_segment.items():
        found += _on_segment(results, index.segments[name], ends)
    return found


def _on_segment(results: Results, segment: Segment, ends: list[End]) -> list[JoinPlan]:
    length = segment.measure.length_m
    taken = [(low, high) for low, high, _ in obstacles(results.design, segment, results.shelf)]
    drafts = [_draft(results, segment, end) for end in ends]
    pieces = [Piece(one.end, one.half_mm / 1e3, one.from_a_m, one.held) for one in drafts]
    placed = stagger(length, pieces, taken)
    made = []
    for one, end in zip(drafts, ends, strict=True):
        assert end.join is not None
        middle = placed.at_m[one.end]
        at = middle if end.point == segment.a else length - middle
        said = end.join.at_m
        made.append(
            replace(
                one,
                at_m=at,
                from_a_m=middle,
                moved=said is not None and abs(said - at) > 5e-4,
                crowded=one.end in placed.crowded,
            )
        )
    return [_judged(results, segment, one, made) for one in made]


def obstacles(design: Design, segment: Segment, shelf: Shelf | None = None) -> list[tuple[float, float, str]]:
    """Stretches of a segment where no join may lie, from its a-side, and why: bends, clamps, grommets, wet low
    points."""
    shelf, index = shelf_for(design, shelf), index_of(design)
    found = []
    for bend in segment.bends:
        half = math.radians(bend.angle_deg) * bend.radius_mm / 2e3
        found.append((bend.at_m - half, bend.at_m + half, "bend"))
    for cover in segment.covers:
        if cover.kind in (CoverKind.CLAMP, CoverKind.GROMMET):
            holder, grommet = shelf.get(cover.part, Holder), shelf.get(cover.part, Grommet)
            wide = holder.width_mm if holder else grommet.length_mm if grommet else 15.0
            half = wide / 2e3 + CLAMP_CLEAR_M
            found.append((cover.from_m - half, cover.from_m + half, cover.kind.value))
    zone = index.zones.get(segment.zone or "")
    for slack in segment.slack:
        if slack.kind == "drip" and zone is not None and zone.wet:
            found.append((slack.at_m - LOW_POINT_M, slack.at_m + LOW_POINT_M, "wet low point"))
    return found


def _draft(results: Results, segment: Segment, end: End) -> JoinPlan:
    """A splice where it is wanted, with its barrel and shrink."""
    join = end.join
    assert join is not None
    index, places = index_of(results.design), places_of(results.design, results.shelf)
    shelf, known = places.shelf, results.once(fitted)
    plant = results.plant
    here = [one for one in places.ends if one.end.id == end.id and one.wire.id in plant.row]
    made = {one.wire.id: plant.conductors[plant.row[one.wire.id]] for one in here}
    dull, legs = _sides(end, here)
    away = [made[one.wire.id] for one in here if one.wire.id in legs]
    back = [made[one.wire.id] for one in here if one.wire.id not in legs]
    widest, thinnest = _thick(away, back)
    barrel = next((part for one in here if (part := shelf.get(known.of(one).part, Splice))), None)
    zone = index.zones.get(segment.zone or "")
    given = next((own for one in here if (own := shelf.get(known.of(one).shrink, Shrink))), None)
    shrink = given or _shrink(shelf, widest, thinnest, bool(zone and zone.wet))
    grip = shrink.grip_mm if shrink else USUAL_GRIP_MM
    covered = (barrel.barrel_mm if barrel else USUAL_BARREL_MM) + 2 * grip
    cabled = any(one.wire.cable for one in here)
    length = segment.measure.length_m
    wish = join.at_m if join.at_m is not None else min(FIRST_M + covered / 2e3, length / 2)
    joint = widest + (2 * shrink.wall_mm if shrink else 0.0)
    others = [wire for wire in index.contents[segment.id] if wire in plant.row and wire not in made]
    rest = [plant.conductors[plant.row[wire]].outer_mm for wire in others for _ in range(index.wires[wire].parallel)]
    return JoinPlan(
        end.id,
        segment.id,
        wish,
        wish if end.point == segment.a else length - wish,
        covered / 2,
        joint,
        quick((joint, *rest)).diameter,
        barrel.id if barrel else "",
        shrink.id if shrink else "",
        covered / (1 - shrink.shortens) if shrink else covered,
        grip,
        max(join.open_mm, covered + 20.0 if cabled else 0.0),
        dull,
        legs,
        False,
        join.held,
        False,
    )


def _thick(away: Sequence[Conductor], back: Sequence[Conductor]) -> tuple[float, float]:
    """(widest, thinnest) that a splice's shrink lies on [mm]: the barrel's copper, the wires to either side."""
    copper = BARREL_TIMES * math.sqrt(sum(one.conductor_mm**2 for one in (*away, *back)))
    sides = [quick(tuple([one.outer_mm for one in ones])).diameter for ones in (away, back) if ones]
    return max([copper, *sides]), min(sides, default=copper)


def _sides(end: End, here: list[WireEnd]) -> tuple[str, tuple[str, ...]]:
    """(end the back points to, wires that are legs). Where nobody says, the back points to where the first wire
    goes."""
    assert end.join is not None
    far = {one.wire.id: (one.wire.finish if one.side == "start" else one.wire.start).end for one in here}
    dull = end.join.dull or next((far[one.wire.id] for one in here), "")
    legs = tuple(one.wire.id for one in here if far[one.wire.id] != dull)
    return dull, legs


def _shrink(shelf: Shelf, widest: float, thinnest: float, wet: bool) -> Shrink | None:
    """The smallest shrink that passes over the widest and grips the thinnest, adhesive in the wet."""
    fits = [
        part
        for part in shelf.of(Shrink)
        if part.supplied_mm > widest * 1.02 and part.recovered_mm < thinnest and (part.adhesive or not wet)
    ]
    return min(fits, key=lambda part: (part.adhesive != wet, part.supplied_mm, part.id), default=None)


def _judged(results: Results, segment: Segment, one: JoinPlan, others: list[JoinPlan]) -> JoinPlan:
    """What a join lies over, lies in, or is too thick for."""
    low, high = one.from_a_m - one.half_mm / 1e3, one.from_a_m + one.half_mm / 1e3

    def meets(stretch: Stretch) -> bool:
        return low < stretch[1] - 1e-9 and stretch[0] < high - 1e-9

    stacked = tuple(
        other.end
        for other in others
        if other is not one and meets((other.from_a_m - other.half_mm / 1e3, other.from_a_m + other.half_mm / 1e3))
    )
    blocked = tuple(why for a, b, why in obstacles(results.design, segment, results.shelf) if meets((a, b)))
    if low < -1e-9 or high > segment.measure.length_m + 1e-9:
        blocked += ("the segment’s end",)
    shelf = results.shelf
    over = ""
    for cover in segment.covers:
        upto = segment.measure.length_m if cover.to_m is None else cover.to_m
        if cover.kind not in (CoverKind.SLEEVE, CoverKind.TUBE) or not meets((cover.from_m, upto)):
            continue
        part = shelf.named(cover.part)
        bore = part.bore_mm.high if isinstance(part, Braid) else part.bore_mm if isinstance(part, Tube) else math.inf
        if one.bundle_mm > bore:
            over = say("cover.takes", part=part.name if part else str(cover.kind), bore_mm=bore)
    return replace(one, stacked=stacked, in_the_way=tuple(dict.fromkeys(blocked)), over=over)
