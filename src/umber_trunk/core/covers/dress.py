"""Every covering of a design: what it goes over and grips, how much to cut, how thick and stiff the limb becomes.

    breakout ├──────── braid ────────┤ end      Coverings lie on one another from the inside out: each has the outside
      overhang→│                  │←overhang    of what is under it, from least to most (the packing of the wires, loose
                ══════ wires ══════             as hands lay them, ± their sheet), and gives its own to the next.

It has to pass over the widest thing on its way, grip the least it lies on, and stretch no further than its sheet says;
what it takes to cut follows from that (`recipes.py`).
"""

from __future__ import annotations

import math

from umber_trunk.core.catalog.parts import Base, Braid, Contact, Grommet, Holder, Housing, Lug, Shrink, Tape, Tube
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.covers.dressed_limb import CoverPlan, LimbPlan
from umber_trunk.core.covers.kinds import KINDS, place_of, size_of, wraps
from umber_trunk.core.covers.recipes import braid_cut_m, shrink_cut_m, tape_layers, tape_m
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Segment
from umber_trunk.core.harness.way import Cover, CoverKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.physics.packing import quick
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, say

LOOSE = 1.08
"""A bundle laid by hand over the tightest packing, at most about."""
WIRE_TOLERANCE = 0.03
"""How far outsides of wires are off their sheet, each way."""
INTO_BREAKOUT_M, INTO_END_M, MELTED_M, COLLAR_M = 0.012, 0.015, 0.008, 0.025
"""Overhang into a breakout and into an end; what melting an end back takes; the shrink over a sleeve's end."""
BRAID_BEND = TAPE_BEND = 3.0
"""Braided and taped limbs are bent no tighter than so many times their outside."""
WRAP_M, WRAP_WIDE_MM, WRAP_THICK_MM = 0.06, 19.0, 0.26
"""A wrap over a breakout: how much of the limb it takes, and the usual tape."""


def dressed(results: Results) -> dict[str, LimbPlan]:
    """Every segment with wires or coverings, dressed; for `Results.once`."""
    maker = _Dresser(results)
    return {
        segment.id: maker.limb(segment)
        for segment in results.design.segments
        if segment.covers or maker.index.contents[segment.id]
    }


class _Dresser:
    def __init__(self, results: Results) -> None:
        self.results, self.design = results, results.design
        self.index, self.plant = index_of(results.design), results.plant
        self.shelf: Shelf = results.shelf
        spliced = any(end.join is not None for end in self.design.ends)
        self.joins = results.once(joins) if spliced else []
        self._over_ends: dict[tuple[str, str], tuple[float, str]] = {}
        self.hottest_c = results.figures.solution.hottest_c

    def outers_mm(self, segment: Segment) -> list[float]:
        """Outsides of all conductors of a segment; cores of a known jacketed cable as one."""
        places, found, cables = places_of(self.design, self.shelf), [], set()
        for wire in self.index.contents[segment.id]:
            if wire not in self.plant.row:
                continue
            one = self.index.wires[wire]
            cable = places.cables.get(one.cable or "")
            if cable is not None and one.core:
                if one.cable not in cables:
                    cables.add(one.cable)
                    found.append(cable.jacket_mm)
                continue
            found += [self.plant.conductors[self.plant.row[wire]].outer_mm] * one.parallel
        return found

    def limb(self, segment: Segment) -> LimbPlan:
        """One segment with everything on it, from the inside out."""
        outers = self.outers_mm(segment)
        bundle = quick(tuple(outers)).diameter
        swollen = max([bundle, *(plan.bundle_mm for plan in self.joins if plan.segment == segment.id)])
        low, high = bundle * (1 - WIRE_TOLERANCE), max(bundle * LOOSE, swollen) * (1 + WIRE_TOLERANCE)
        mass = (
            segment.measure.length_m
            * 1e3
            * sum(
                self._kg_per_m(wire) * self.index.wires[wire].parallel
                for wire in self.index.contents[segment.id]
                if wire in self.plant.row
            )
        )
        bend, by = self.design.project.bend_times * max(outers, default=0.0), "the thickest wire"
        plans, here = [], (bundle, low, high)
        bare = max(bundle * LOOSE, bundle) * (1 + WIRE_TOLERANCE)
        for cover in segment.covers:
            held = cover.kind in (CoverKind.CLAMP, CoverKind.GROMMET)  # splices keep clear of these
            plan = self._cover(segment, cover, (here[0], here[1], here[2] - high + bare) if held else here)
            plans.append(plan)
            mass += plan.mass_g
            if plan.bend_mm > bend:
                bend, by = plan.bend_mm, plan.part_name
            if cover.kind not in (CoverKind.CLAMP, CoverKind.GROMMET):
                grown = plan.outside_mm - plan.inside_mm
                here = (here[0] + grown, here[1] + grown, plan.outside_mm + plan.outside_plus_mm)
        middle = min((one.radius_mm for one in segment.bends if one.angle_deg > 0), default=None)
        tightest = None if middle is None else max(middle - here[0] / 2, 0.0)  # sheets mean the inside of a bend
        return LimbPlan(segment.id, bundle, here[0], here[2] - here[0], mass, bend, by, tightest, tuple(plans))

    def _kg_per_m(self, wire: str) -> float:
        """Conductor and jacket; a jacket's density about 1.4 kg/dm³."""
        cond = self.plant.conductors[self.plant.row[wire]]
        ring = math.pi / 4 * (cond.outer_mm**2 - cond.conductor_mm**2)
        return cond.kg_per_m + ring * 1.4e-3

    def _cover(self, segment: Segment, cover: Cover, here: tuple[float, float, float]) -> CoverPlan:
        """One covering on what is there already: where it lies, of which part, what it is cut to, what is wrong."""
        point = cover.kind in (CoverKind.CLAMP, CoverKind.GROMMET)
        inside, low, high = here
        passes, what = self._passes(segment, cover, high)
        if passes == math.inf:
            return self._closed(segment, cover, here)
        part, fits, problems = self._part(segment, cover, low, high, (passes, what))
        start, stop, misplaced = place_of(segment, cover, point)
        problems += misplaced
        overhang, collars, notes = (0.0, 0.0), 0, list[str]()
        if not point:
            overhang, collars, notes = self._overhangs(segment, cover, start, stop, inside)
        covered = stop - start + sum(overhang)
        cut, outside, plus, bend = self._made(part, cover, here, covered, problems)
        ring = self._collar(outside) if collars else None
        if collars:
            notes.append(
                say(
                    "cover.collars", many=collars, mm=1e3 * COLLAR_M, ring=ring.name if ring else say("cover.no-collar")
                )
            )
        if not cover.after and not point and not wraps(part):
            notes.append(say("cover.before-the-ends"))
        if cover.kind is CoverKind.CLAMP:
            notes += self._over_splices(segment, start)
        return CoverPlan(
            segment=segment.id,
            id=cover.id,
            kind=cover.kind,
            part=part.id if part else "",
            part_name=part.name if part else "none fits",
            proposed=cover.part is None,
            from_m=start,
            to_m=stop,
            inside_mm=inside,
            inside_low_mm=low,
            inside_high_mm=high,
            passes_mm=passes,
            passes_what=what,
            outside_mm=outside,
            outside_plus_mm=plus,
            covered_m=covered,
            overhang_m=overhang,
            cut_m=cut,
            collars=collars,
            mass_g=(part.mass_g if part else 0.0) * (1.0 if point else cut),
            bend_mm=bend,
            after=cover.after,
            notes=tuple(notes),
            problems=tuple(problems),
            options=tuple(one.id for one in fits[:4]),
            collar=ring.id if ring else "",
        )

    def _part(
        self, segment: Segment, cover: Cover, low: float, high: float, over: tuple[float, str]
    ) -> tuple[Base | None, list[Base], list[Message]]:
        """(the part chosen or the first that fits, all that fit, what is wrong with it) for a bundle of low to high mm;
        `over`: the widest it has to get over on its way, and what that is."""
        passes, what = over
        fits = [
            part
            for part in self.shelf.of(KINDS[cover.kind])
            if not self._wrong(part, cover, low, high, passes) and not self._too_hot(part, segment)
        ]
        fits.sort(key=lambda part: (size_of(part), part.id))
        part = self.shelf.named(cover.part) if cover.part else next(iter(fits), None)
        if cover.part and not isinstance(part, KINDS[cover.kind]):
            return None, fits, [Message.of("cover.catalogue", kind=str(cover.kind), part=cover.part)]
        if part is None:
            none = Message.of("cover.shelf", kind=str(cover.kind), low_mm=low, high_mm=high, passes_mm=passes)
            return None, fits, [none]
        return part, fits, self._wrong(part, cover, low, high, passes, what) + self._too_hot(part, segment)

    def _over_splices(self, segment: Segment, at_m: float) -> list[str]:
        """The splices that a clamp would sit upon."""
        return [
            say("cover.over-splice", end=plan.end)
            for plan in self.joins
            if plan.segment == segment.id and abs(plan.from_a_m - at_m) * 1e3 < plan.half_mm
        ]

    def _closed(self, segment: Segment, cover: Cover, here: tuple[float, float, float]) -> CoverPlan:
        """A covering that is to go on once everything is made, where there is no open end it could come from."""
        length = segment.measure.length_m
        return CoverPlan(
            segment=segment.id,
            id=cover.id,
            kind=cover.kind,
            part=cover.part or "",
            part_name=self.shelf.name(cover.part),
            proposed=cover.part is None,
            from_m=cover.from_m,
            to_m=length if cover.to_m is None else cover.to_m,
            inside_mm=here[0],
            inside_low_mm=here[1],
            inside_high_mm=here[2],
            passes_mm=here[2],
            passes_what=say("cover.what.splice"),
            outside_mm=here[0],
            outside_plus_mm=0.0,
            covered_m=0.0,
            overhang_m=(0.0, 0.0),
            cut_m=0.0,
            collars=0,
            mass_g=0.0,
            bend_mm=0.0,
            after=True,
            problems=(Message.of("cover.closed"),),
        )

    def _passes(self, segment: Segment, cover: Cover, high: float) -> tuple[float, str]:
        """The widest it has to get over on its way, and what that is."""
        if not cover.after or cover.kind is CoverKind.TAPE or wraps(self.shelf.named(cover.part)):
            return high, say("cover.what.bundle")
        sides = [self._beyond(segment, segment.a), self._beyond(segment, segment.b)]
        least, what = min(sides)
        return (least, what) if least > high else (high, say("cover.what.bundle"))

    def _beyond(self, segment: Segment, point: str) -> tuple[float, str]:
        """The largest end part on one side, beside which the other wires lie."""
        key = (segment.id, point)
        if key not in self._over_ends:
            seen, queue = {point}, [point]
            for here in queue:
                for name, other in self.index.neighbours.get(here, ()):
                    if name != segment.id and other not in seen:
                        seen.add(other)
                        queue.append(other)
            widest, what, lone = 0.0, say("cover.what.bare"), set[str]()
            wires = {wire for wire in self.index.contents[segment.id] if wire in self.plant.row}
            there = [end for at in queue for end in self.index.ends_at.get(at, ())]
            for end in there:  # the nearest first: of ends alike it is named
                mine = {
                    wire
                    for wire in wires
                    if end.id in (self.index.wires[wire].start.end, self.index.wires[wire].finish.end)
                }
                size = self._end_mm(end.id, mine)
                if size > widest:
                    widest, what, lone = size, end.name, mine
            beside = [self.plant.conductors[self.plant.row[wire]].outer_mm for wire in sorted(wires - lone)]
            if 0 < widest < math.inf and beside:
                widest = quick((widest, *beside)).diameter
            self._over_ends[key] = (widest, what)
        return self._over_ends[key]

    def _end_mm(self, end: str, wires: set[str]) -> float:
        """The least hole an end's parts go through: a housing's diagonal, the width of a lug, a contact's seal; none at
        all at a splice, from which other wires go on."""
        if wires and self.index.ends[end].kind is EndKind.SPLICE:
            return math.inf
        found, known, places = [0.0], self.results.once(fitted), places_of(self.design, self.shelf)
        for one in places.ends:
            if one.end.id != end or one.wire.id not in wires:
                continue
            if isinstance(one.housing, Housing):
                body = one.housing
                wide = body.width_mm if body.shape == "round" else math.hypot(body.width_mm, body.height_mm)
                found.append(wide)
                continue
            part = self.shelf.named(known.of(one).part)
            if isinstance(part, Lug):
                found.append(part.width_mm)
            elif isinstance(part, Contact):
                found.append(self.plant.conductors[self.plant.row[one.wire.id]].outer_mm * 1.3)
        return max(found)

    def _wrong(self, part: Base, cover: Cover, low: float, high: float, passes: float, what: str = "") -> list[Message]:
        """What doesn't hold of a part in a place, in words without an end."""
        said = []
        if isinstance(part, Braid):
            if passes > part.bore_mm.high:
                said.append(
                    Message.of("cover.opens", part=part.name, opens_mm=part.bore_mm.high, what=what, needs_mm=passes)
                )
            if low < part.bore_mm.low:
                said.append(Message.of("cover.closes", part=part.name, closes_mm=part.bore_mm.low, bundle_mm=low))
        elif isinstance(part, Tube):
            needs = high if part.slit else max(high, passes)
            if needs > part.bore_mm:
                said.append(Message.of("cover.bore", part=part.name, bore_mm=part.bore_mm, what=what, needs_mm=needs))
        elif isinstance(part, Shrink):
            if passes >= part.supplied_mm:
                said.append(
                    Message.of("cover.wide", part=part.name, wide_mm=part.supplied_mm, what=what, needs_mm=passes)
                )
            if part.recovered_mm >= low:
                said.append(Message.of("cover.grips", part=part.name, shrinks_mm=part.recovered_mm, bundle_mm=low))
        elif isinstance(part, Grommet | Holder):
            if low < part.bundle_mm.low or high > part.bundle_mm.high:
                takes = part.bundle_mm
                said.append(
                    Message.of(
                        "cover.closes.on", part=part.name, low=takes.low, high=takes.high, low_mm=low, high_mm=high
                    )
                )
            if isinstance(part, Grommet) and cover.after and passes > part.bundle_mm.high:
                said.append(Message.of("cover.through", what=what, passes_mm=passes, part=part.name))
        return said

    def _too_hot(self, part: Base, segment: Segment) -> list[Message]:
        """Whether the hottest wire under a covering, in any case, is over what its sheet lets it stand."""
        hot = self.hottest_c.get(segment.id)
        if part.limit_c is None or hot is None or hot <= part.limit_c + 1e-6:
            return []
        return [Message.of("cover.hot", part=part.name, limit_c=part.limit_c, hot_c=hot)]

    def _overhangs(
        self, segment: Segment, cover: Cover, start: float, stop: float, here_mm: float
    ) -> tuple[tuple[float, float], int, list[str]]:
        """(at both ends, shrink collars, notes): into breakouts and ends, and what the house's school for sleeve ends
        takes."""
        found, collars, notes = [], 0, []
        school = self.design.project.practice.sleeve_end
        for at, edge, point in ((start, 0.0, segment.a), (stop, segment.measure.length_m, segment.b)):
            hang = 0.0
            if abs(at - edge) < 1e-6:
                limbs = len(self.index.neighbours.get(point, ()))
                hang = INTO_BREAKOUT_M if limbs > 1 else INTO_END_M
                if limbs > 2:
                    tape = tape_m(WRAP_M, here_mm, WRAP_WIDE_MM, WRAP_THICK_MM, 0.5)
                    where = self.index.point_name(point)
                    notes.append(
                        say("cover.wrap-breakout", where=where, mm=1e3 * WRAP_M, tape_m=tape, wide_mm=WRAP_WIDE_MM)
                    )
            if cover.kind is CoverKind.SLEEVE:
                if school == "melted":
                    hang += MELTED_M
                else:
                    collars += 1
            found.append(hang)
        if not collars and cover.kind is CoverKind.SLEEVE:
            notes.append("ends melted back, no shrink seen")
        return (found[0], found[1]), collars, notes

    def _collar(self, over_mm: float) -> Shrink | None:
        """The smallest shrink that passes over a sleeve's end and grips it."""
        fits = [
            part
            for part in self.shelf.of(Shrink)
            if part.supplied_mm > 1.02 * over_mm and part.recovered_mm < 0.95 * over_mm
        ]
        return min(fits, key=lambda part: (part.adhesive, part.supplied_mm, part.id), default=None)

    def _made(
        self, part: Base | None, cover: Cover, here: tuple[float, float, float], covered: float, problems: list[Message]
    ) -> tuple[float, float, float, float]:
        """(to cut in m, outside in mm, its +, least bend radius in mm)."""
        inside, _, high = here
        if isinstance(part, Braid):
            bore = min(max(inside, part.bore_mm.low), part.bore_mm.high)
            outside = bore + 2 * part.wall_mm
            try:
                cut = braid_cut_m(part, bore, covered)
            except ValueError:
                problems.append(Message.of("cover.angle", part=part.name, bore_mm=bore))
                cut = covered
            return cut, outside, high - inside, BRAID_BEND * outside
        if isinstance(part, Tube):
            return covered, part.outer_mm, 0.0, part.bend_mm
        if isinstance(part, Tape):
            outside = inside + 2 * part.thick_mm * tape_layers(cover.lap)
            long = tape_m(covered, inside, part.width_mm, part.thick_mm, cover.lap)
            return long, outside, high - inside, TAPE_BEND * outside
        if isinstance(part, Shrink):
            outside = max(inside, part.recovered_mm) + 2 * part.wall_mm
            return shrink_cut_m(covered, part.shortens), outside, high - inside, 4 * outside if part.adhesive else 0.0
        return (0.0 if cover.kind in (CoverKind.CLAMP, CoverKind.GROMMET) else covered), inside, high - inside, 0.0
