"""From the run along the trunk to the length to cut: every wire's length as a sum of parts, each with its reason.

A run ends where a wire enters the part at its end: the back of a housing, the mouth of a barrel, the edge of a clamp.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from umber_trunk.core.ends.strip import Strip, cable_strips, strip_of
from umber_trunk.core.ends.wire_ends import SIDES, places_of
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import CableKind, Design, Fitting, Segment, Wire
from umber_trunk.core.harness.way import Learned, Measure, Method
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.lengths.arcs import arc_extra_m, comb_extras_m, corner_extra_m, helix_factor, least_lead_mm
from umber_trunk.core.lengths.reserve import chance_short, cheapest_extra_m, least_extra_m, rounded_up_m
from umber_trunk.core.lengths.wire_length import Share, WireLength
from umber_trunk.core.physics.packing import quick
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import show_length, significant

STATED_SHARE = 0.03
"""Usual ± of a length that stands on a list, as a share of it."""
PARTS = ("path", "bends", "twist", "loops", "entry", "strip", "remakes", "extra")
"""The parts of a length, in the order of the stacked bar."""


def wire_lengths(results: Results) -> dict[str, WireLength]:
    """Every wire's length by its id, in the order of the design; for `Results.once`."""
    maker = _Maker(results)
    found = {wire.id: maker.length(wire) for wire in results.design.wires if wire.id in maker.plant.row}
    for name, wires in alike_wires(results):
        found |= _evened(results, name, [found[wire] for wire in wires if wire in found])
    for cable in results.design.cables:
        if cable.part is not None or cable.kind is not CableKind.PAIR:  # cores come off the reel together
            cores = [found[wire.id] for wire in results.design.wires if wire.cable == cable.id and wire.id in found]
            most = max((one.cut_m for one in cores), default=0.0)
            found |= {one.wire: maker.cut(one, most) for one in cores}
    return found


def alike_wires(results: Results) -> Iterable[tuple[str, tuple[str, ...]]]:
    """(name, wires) of every set whose wires are cut alike: those stated, and the legs of splices that ask for it."""
    for one in results.design.sets:
        yield one.name or one.id, one.wires
    asked = {end.id for end in results.design.ends if end.join is not None and end.join.equal}
    if asked:
        for plan in results.once(joins):
            if plan.end in asked and len(plan.legs) > 1:
                yield f"legs of {index_of(results.design).ends[plan.end].name}", plan.legs


def least_lead_m(results: Results, wire: Wire) -> float:
    """The shortest run of a stiff lead between its studs, from barrel to barrel of its lugs; 0 for a wire that is
    none."""
    lead, plant = wire.lead, results.plant
    if lead is None:
        return 0.0
    outer = plant.conductors[plant.row[wire.id]].outer_mm
    radius = lead.radius_mm or results.design.project.bend_times * outer
    return least_lead_mm(lead.apart_mm, lead.toward_deg, lead.leave_deg, lead.arrive_deg, radius) / 1e3


def learned_of(design: Design, method: Method) -> Learned:
    """What the project has taken over of a way of measuring."""
    return next((one for one in design.project.learned if one.method is method), Learned(method=method))


def _legs_m(index: Index, wire: Wire, places: dict[str, tuple[str, float]]) -> list[tuple[str, float]]:
    """(segment, metres in it) of a wire's way, splices where they lie."""
    route = index.routes[wire.id].segments
    if not route and index.routes[wire.id].laid and wire.start.end != wire.finish.end:
        both = [places[end] for end in (wire.start.end, wire.finish.end) if end in places]
        if len(both) == 2 and both[0][0] == both[1][0]:
            return [(both[0][0], abs(both[0][1] - both[1][1]))]
        return both
    legs = [(name, index.segments[name].measure.length_m) for name in route]
    for end, at in ((wire.start.end, 0), (wire.finish.end, -1)):
        place = places.get(end)
        if place is None or not legs:
            continue
        name, metres = legs[at]
        if name == place[0]:
            legs[at] = (name, max(metres - place[1], 0.0))
        else:
            legs.insert(0 if at == 0 else len(legs), place)
    return legs


class _Maker:
    """Works out wire after wire of one design."""

    def __init__(self, results: Results) -> None:
        self.results, self.design = results, results.design
        self.project = results.design.project
        self.index, self.plant = index_of(results.design), results.plant
        spliced = any(end.join is not None for end in self.design.ends)
        self.joined = {plan.end: (plan.segment, plan.at_m) for plan in results.once(joins)} if spliced else {}
        self.combs = {
            wire: (comb, extra)
            for comb in self.design.combs
            for wire, extra in zip(
                comb.wires, comb_extras_m(len(comb.wires), comb.pitch_mm / 1e3, comb.turns_deg), strict=True
            )
        }
        self._sections: dict[str, tuple[dict[str, list[tuple[float, float]]], float]] = {}
        self._cable_mm: dict[str, float] = {}
        self._free: dict[str, dict[tuple[str, str], float]] = {}
        self._said: dict[tuple[Any, ...], Message] = {}
        """Most reasons are those of other wires too: each is kept once."""

    def why(self, key: str, **values: Any) -> Message:
        """A reason for a part of a length."""
        return self._said.setdefault((key, *values.values()), Message.of(f"length.why.{key}", **values))

    def length(self, wire: Wire) -> WireLength:
        """All parts of one wire's length."""
        legs = _legs_m(self.index, wire, self.joined)
        why: dict[str, list[Message]] = {part: [] for part in PARTS}
        if legs:
            path, variance = self._path(legs, why["path"])
        else:
            said = self.index.length_m(wire)
            path, variance = said, (STATED_SHARE * said / 2) ** 2
            why["path"].append(self.why("stated", length=show_length(said), percent=100 * STATED_SHARE))
        bends, doubt = self._bends(wire, legs, why["bends"])
        variance += doubt
        loops = self._loops(wire, legs, why["loops"])
        twist = self._twist(wire, legs, path + bends + loops, why["twist"])
        entry, strip, remakes = self._ends(wire, why)
        sd = math.sqrt(variance + (self.project.cutting_m / 2) ** 2)
        made = WireLength(
            wire.id,
            path,
            bends,
            twist,
            loops,
            entry,
            strip,
            remakes,
            0.0,
            0.0,
            0.0,
            sd,
            0.0,
            tuple(Share(part, 0.0, tuple(why[part])) for part in PARTS),
            self.combs[wire.id][0].id if wire.id in self.combs else "",
        )
        return self.cut(made)

    def cut(self, one: WireLength, at_least_m: float = 0.0) -> WireLength:
        """With its extra, rounded up, and its bar."""
        extra, reason = self._extra(one)
        cut = max(rounded_up_m(one.needed_m + extra, self.project.cut_step_m), at_least_m)
        whole = cut - one.needed_m
        why = reason, self.why("step", step=show_length(self.project.cut_step_m))
        metres = (
            one.path_m,
            one.bends_m,
            one.twist_m,
            one.loops_m,
            one.entry_m,
            one.strip_m,
            one.remakes_m,
            whole,
        )
        reasons = {share.what: share.reasons for share in one.shares} | {"extra": why}
        shares = tuple(Share(part, length, reasons[part]) for part, length in zip(PARTS, metres, strict=True))
        return replace(
            one,
            extra_m=whole,
            rounding_m=whole - extra,
            cut_m=cut,
            chance_short=chance_short(whole, one.sd_m),
            shares=shares,
        )

    def _path(self, legs: list[tuple[str, float]], why: list[Message]) -> tuple[float, float]:
        """(metres, variance): each measure corrected by what its way of measuring is known to be off."""
        path = variance = 0.0
        for name, metres in legs:
            measure: Measure = self.index.segments[name].measure
            bias = learned_of(self.design, measure.method).bias
            path += metres * (1 + bias)
            variance += (measure.plus_minus_m / 2) ** 2
            why.append(
                self.why(
                    "segment",
                    segment=name,
                    length=show_length(metres),
                    off=show_length(measure.plus_minus_m),
                    method=Message.of(f"length.method.{measure.method}"),
                    bias=100 * bias,
                )
            )
        return path, variance

    def _bends(self, wire: Wire, legs: list[tuple[str, float]], why: list[Message]) -> tuple[float, float]:
        """(metres, variance) that bends and the comb add: a wire on the outside is longer; where nobody says which way
        a bend turns, its place makes a doubt, not a length."""
        total = variance = 0.0
        for name, _ in legs:
            segment = self.index.segments[name]
            for bend in segment.bends:
                if segment.corners and bend.angle_deg < 180:
                    saved = corner_extra_m(bend.angle_deg, bend.radius_mm / 1e3)
                    total += saved
                    round_ = {"angle": bend.angle_deg, "radius_mm": bend.radius_mm}
                    why.append(self.why("corner", segment=name, **round_, extra=_mm(saved)))
                if wire.id in self.combs:
                    continue
                places, radius = self._section(segment)
                spots = places.get(wire.id, [])
                if bend.toward_deg is not None and spots:
                    way = math.radians(bend.toward_deg)
                    offset = max(-(x * math.cos(way) + y * math.sin(way)) for x, y in spots)
                    extra = arc_extra_m(bend.angle_deg, offset)
                    total += extra
                    out = significant(1e3 * offset)
                    why.append(self.why("bend", segment=name, angle=bend.angle_deg, out_mm=out, extra=_mm(extra)))
                else:
                    far = max((math.hypot(x, y) for x, y in spots), default=radius)
                    variance += arc_extra_m(bend.angle_deg, far) ** 2 / 2
                    if far > 0:
                        most = _mm(arc_extra_m(bend.angle_deg, far))
                        why.append(self.why("bend-unsaid", segment=name, angle=bend.angle_deg, extra=most))
        if wire.id in self.combs:
            comb, extra = self.combs[wire.id]
            total += extra
            place = comb.wires.index(wire.id) + 1
            bent = {"pitch_mm": comb.pitch_mm, "turned": sum(comb.turns_deg), "extra": _mm(extra)}
            why.append(self.why("comb", place=place, wires=len(comb.wires), **bent))
        return total, variance

    def _section(self, segment: Segment) -> tuple[dict[str, list[tuple[float, float]]], float]:
        """(wire → where its conductors lie from the middle, in m; how far out the outermost lies)."""
        if segment.id not in self._sections:
            rows = [self.plant.row[wire] for wire in self.index.contents[segment.id] if wire in self.plant.row]
            rows = [row for row in rows for _ in range(self.plant.wires[row].parallel)]
            packed = quick(tuple([self.plant.conductors[row].outer_mm for row in rows]))
            found: dict[str, list[tuple[float, float]]] = {}
            for row, centre in zip(rows, packed.centres.tolist(), strict=True):
                found.setdefault(self.plant.wires[row].id, []).append((centre[0] / 1e3, centre[1] / 1e3))
            out = max((math.hypot(*spot) for spots in found.values() for spot in spots), default=0.0)
            self._sections[segment.id] = found, out
        return self._sections[segment.id]

    def _loops(self, wire: Wire, legs: list[tuple[str, float]], why: list[Message]) -> float:
        total = 0.0
        for name, _ in legs:
            for slack in self.index.segments[name].slack:
                total += slack.length_m
                why.append(self.why(f"loop.{slack.kind}", segment=name, extra=_mm(slack.length_m)))
        for pin in (wire.start, wire.finish):
            end = self.index.ends.get(pin.end)
            if end is not None and end.slack_m:
                total += end.slack_m
                why.append(self.why("loop-at", end=end.name, extra=_mm(end.slack_m)))
        return total

    def _twist(self, wire: Wire, legs: list[tuple[str, float]], run_m: float, why: list[Message]) -> float:
        """What twists take up: the bundle's lay segment by segment, the cable's and the project's factor over all."""
        extra = 0.0
        for name, metres in legs:
            segment = self.index.segments[name]
            if segment.lay_mm:
                places, _ = self._section(segment)
                far = max((math.hypot(x, y) for x, y in places.get(wire.id, [])), default=0.0)
                turn = max(segment.lay_mm, self._thick_mm(wire))
                gain = metres * (helix_factor(2 * far, turn / 1e3) - 1)
                extra += gain
                out = significant(1e3 * far)
                why.append(self.why("twisted", segment=name, lay_mm=turn, out_mm=out, extra=_mm(gain)))
        cable = next((one for one in self.design.cables if one.id == wire.cable), None)
        factor = self.project.twist_factor
        if cable is not None and cable.lay_mm:
            turn = max(cable.lay_mm, self._thick_mm(wire))
            turned = helix_factor(self._lay_mm(wire, cable.id) / 1e3, turn / 1e3)
            factor *= turned
            why.append(self.why("core", cable=cable.name or cable.id, lay_mm=turn, factor=turned))
        if self.project.twist_factor != 1:
            why.append(self.why("take-up", factor=self.project.twist_factor))
        return extra * factor + run_m * (factor - 1)

    def _lay_mm(self, wire: Wire, cable: str) -> float:
        """Diameter of the circle on which the middles of a cable's cores turn: their packing's less one core."""
        if cable not in self._cable_mm:
            cores = [
                self.plant.conductors[self.plant.row[one.id]].outer_mm
                for one in self.design.wires
                if one.cable == cable and one.id in self.plant.row
            ]
            self._cable_mm[cable] = quick(tuple(cores)).diameter
        return max(self._cable_mm[cable] - self._thick_mm(wire), 0.0)

    def _thick_mm(self, wire: Wire) -> float:
        """Outer diameter of a wire: no turn can be shorter, since its next turn would lie in itself (`lay.short` says
        so)."""
        return self.plant.conductors[self.plant.row[wire.id]].outer_mm

    def _ends(self, wire: Wire, why: dict[str, list[Message]]) -> tuple[float, float, float]:
        """(entry, strip, remakes) of both ends: from the parts where they are known, else the project's."""
        project, places = self.project, places_of(self.design, self.results.shelf)
        entry = strip = remakes = 0.0
        for side in SIDES:
            one = places.by_key.get((wire.id, side))
            made: Strip | None = strip_of(self.results, one) if one is not None else None
            bare = made.strip_mm / 1e3 if made else project.strip_m
            into = max(made.entry_mm / 1e3 - bare, 0.0) if made else project.entry_m
            free = self._free_m(wire).get((one.end.id, wire.id)) if one is not None else None
            into = into if free is None else free
            eaten = made.eaten_mm / 1e3 if made else project.remake_m
            fitting = (wire.at_start if side == "start" else wire.at_finish) or Fitting()
            times = project.remakes if fitting.remakes is None else fitting.remakes
            entry, strip, remakes = entry + into, strip + bare, remakes + times * eaten
            name = made.part_name if made else self.why("usual")
            at = Message.of(f"length.side.{side}")
            why["entry"].append(self.why("entry", side=at, length=_mm(into), part=name))
            why["strip"].append(self.why("strip", side=at, length=_mm(bare), part=name))
            why["remakes"].append(self.why("remakes", side=at, times=times, length=_mm(eaten)))
        return entry, strip, remakes

    def _free_m(self, wire: Wire) -> dict[tuple[str, str], float]:
        """(end, wire) → how far a core reaches from its jacket's edge; none for a wire without a known jacket."""
        if not wire.cable:
            return {}
        if wire.cable not in self._free:
            self._free[wire.cable] = {
                (one.end, core.wire): core.free_mm / 1e3
                for one in cable_strips(self.results, wire.cable)
                for core in one.cores
            }
        return self._free[wire.cable]

    def _extra(self, one: WireLength) -> tuple[float, Message]:
        """The least extra, and why."""
        project = self.project
        extra = least_extra_m(one.sd_m, project.chance_short)
        why = self.why("chance", extra=_mm(extra), percent=100 * project.chance_short, sd=_mm(one.sd_m))
        if project.prices is not None:
            priced = cheapest_extra_m(one.sd_m, one.needed_m, project.prices)
            if priced > extra:
                extra, why = priced, self.why("scrap", extra=_mm(priced))
        comb = self.combs.get(one.wire, (None,))[0]
        if comb is not None and comb.cut_last and comb.allowance_m > extra:
            extra, why = comb.allowance_m, self.why("comb-cut", extra=_mm(comb.allowance_m))
        return extra, why


def _evened(results: Results, name: str, ones: list[WireLength]) -> dict[str, WireLength]:
    """A set made alike: the shorter ones get slack, and all the same cut."""
    if len(ones) < 2:
        return {}
    maker, most = _Maker(results), max(one.finished_m for one in ones)
    longer = []
    for one in ones:
        slack = most - one.finished_m
        told = (maker.why("alike", extra=_mm(slack), name=name),) if slack > 5e-5 else ()
        shares = tuple(
            replace(share, reasons=(*share.reasons, *told)) if share.what == "loops" else share for share in one.shares
        )
        longer.append(maker.cut(replace(one, loops_m=one.loops_m + slack, shares=shares, alike=name)))
    cut = max(one.cut_m for one in longer)
    return {one.wire: maker.cut(one, cut) for one in longer}


def _mm(metres: float) -> str:
    return f"{1e3 * metres:.1f} mm".replace(".0 mm", " mm").replace("-", "−")
