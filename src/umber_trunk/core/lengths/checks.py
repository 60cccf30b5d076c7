"""Findings about the way: the tree, its segments, and lengths."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Method
from umber_trunk.core.lengths.wire_lengths import least_lead_m
from umber_trunk.core.results import Results
from umber_trunk.core.units import show_length

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE


def check_runs(results: Results) -> Iterator[Finding]:
    """Everything to say of segments and of the lengths of wires."""
    design, index = results.design, index_of(results.design)
    yield from _tree(design, index)
    yield from _bends(design)
    yield from _wires(design, index)
    yield from _pinned(design, index)
    yield from _leads(results)
    yield from _side_by_side(results)
    yield from _plausible(design, index)
    yield from _twisted(results, index)


def _tree(design: Design, index: Index) -> Iterator[Finding]:
    parents, loops, points, contents = index.parents, set(index.loops), index.points, index.contents
    for segment in design.segments:
        if segment.a not in points or segment.b not in points:
            gone = [point for point in (segment.a, segment.b) if point not in points]
            yield Finding(
                "segment.open", FAULT, "runs", "segments", segment.id,
                f"Segment {segment.id} ends at “{gone[0]}”, which is not a point.", "Join it to a real point.",
            )  # fmt: skip
        elif segment.a == segment.b:
            yield Finding(
                "tree.loop", FAULT, "runs", "segments", segment.id, f"Segment {segment.id} begins and ends at one point.", "End it elsewhere, or remove it.",
            )  # fmt: skip
        elif segment.id in loops:
            yield Finding(
                "tree.loop", WARNING, "runs", "segments", segment.id,
                f"Segment {segment.id} closes a loop: wires can go either way, and take the shorter.",
                "Pin wires to a way on the Lengths tab, or remove it; the board leaves it out.",
            )  # fmt: skip
        elif segment.measure.length_m == 0:
            yield Finding(
                "segment.no_length", WARNING, "runs", "segments", segment.id,
                f"Segment {segment.id} has no length yet.", "Measure it along the real way.",
            )  # fmt: skip
        elif segment.measure.method is Method.GUESS and contents[segment.id]:
            yield Finding(
                "segment.guess", NOTE, "runs", "segments", segment.id,
                f"Segment {segment.id} is a guess, {show_length(segment.measure.length_m)} "
                f"± {show_length(segment.measure.plus_minus_m)}.", "Measure it before cutting.",
            )  # fmt: skip
    islands = [point for point, (_, segment, _) in parents.items() if not segment and point != index.root]
    for point in islands:
        yield Finding(
            "tree.island", WARNING, "runs", "points", point,
            f"“{index.points[point].name or point}” is not joined to the trunk.", "Join it by a segment.",
        )  # fmt: skip


def _wires(design: Design, index: Index) -> Iterator[Finding]:
    routes, lengths = index.routes, index.lengths
    for wire in design.wires:
        name, route, metres = wire.name or wire.id, routes[wire.id], lengths[wire.id]
        if not route.laid and wire.stated_m:
            yield Finding(
                "wire.provisional", WARNING, "runs", "wires", wire.id,
                f"{name} has only its listed length, {show_length(wire.stated_m)}: it is drawn as a straight run.",
                "Lay it onto the trunk on the Runs desk.",
            )  # fmt: skip
        elif route.segments and wire.stated_m and _differs(metres, wire.stated_m):
            shorter = metres < wire.stated_m  # too short is scrap
            yield Finding(
                "wire.differs", WARNING if shorter else NOTE, "runs", "wires", wire.id,
                f"{name} runs {show_length(metres)} along the trunk; "
                f"its list says {show_length(wire.stated_m)}.", "Measure again, or forget the listed length.",
            )  # fmt: skip
        elif metres == 0 and not (route.laid and wire.start.end == wire.finish.end):
            yield Finding(
                "wire.no_length", FAULT, "runs", "wires", wire.id, f"{name} has no length.",
                "Put both its ends on the trunk, or state its length.",
            )  # fmt: skip


def _bends(design: Design) -> Iterator[Finding]:
    for segment in design.segments:
        length = segment.measure.length_m
        for bend in segment.bends:
            half = math.radians(bend.angle_deg) * bend.radius_mm / 2e3
            if bend.at_m > length:
                yield Finding(
                    "segment.bend", FAULT, "runs", "segments", segment.id,
                    f"A bend of {segment.id} is at {show_length(bend.at_m)}, beyond its {show_length(length)}.", "Say where it is, from the segment’s first point.",
                )  # fmt: skip
            elif 2 * half > length > 0:
                yield Finding(
                    "segment.bend", WARNING, "runs", "segments", segment.id,
                    f"A bend of {bend.angle_deg:g}° to {bend.radius_mm:g} mm takes {show_length(2 * half)}; {segment.id} is {show_length(length)} long.",
                    "Check its radius and the segment’s length.",
                )  # fmt: skip
            if segment.corners and bend.angle_deg >= 180:
                yield Finding(
                    "segment.corner", FAULT, "runs", "segments", segment.id,
                    f"{segment.id} is measured from corner to corner, but turns by {bend.angle_deg:g}°: such a bend has no corner.",
                    "Measure along the bend, or give it as two bends.",
                )  # fmt: skip
        for slack in segment.slack:
            if slack.at_m > length:
                yield Finding(
                    "segment.slack", FAULT, "runs", "segments", segment.id,
                    f"A {slack.kind} loop of {segment.id} is at {show_length(slack.at_m)}, beyond its {show_length(length)}.", "Say where it is, from the segment’s first point.",
                )  # fmt: skip


def _pinned(design: Design, index: Index) -> Iterator[Finding]:
    for wire in design.wires:
        if not wire.via:
            continue
        missed = [name for name in wire.via if name not in index.routes[wire.id].segments]
        if missed:
            yield Finding(
                "wire.via", FAULT, "runs", "wires", wire.id,
                f"{wire.name or wire.id} is pinned to {', '.join(missed)}, where no way between its ends leads.",
                "Pin it to a segment between its ends, or unpin it.",
            )  # fmt: skip


def _leads(results: Results) -> Iterator[Finding]:
    """Short stiff leads: shorter than any way from stud to stud that bends no tighter than the wire stands."""
    for wire in results.design.wires:
        if wire.lead is None or wire.id not in results.figures.solution.plant.row:
            continue
        least = least_lead_m(results, wire)
        run = index_of(results.design).length_m(wire)
        if 0 < run < least - 5e-4:
            yield Finding(
                "wire.stiff_lead", FAULT, "runs", "wires", wire.id,
                f"{wire.name or wire.id} is {show_length(run)} long; between its two clock angles no lead under {1e3 * least:.0f} mm bends wide enough.",
                f"Make the run {1e3 * least:.0f} mm or more, or turn a lug.",
            )  # fmt: skip


def _side_by_side(results: Results) -> Iterator[Finding]:
    design, index = results.design, index_of(results.design)
    for comb in design.combs:
        gone = [wire for wire in comb.wires if wire not in index.wires]
        if gone or len(set(comb.wires)) < len(comb.wires):
            yield Finding(
                "comb.wires", FAULT, "runs", "combs", comb.id, f"Comb {comb.name or comb.id} names {gone[0] + ', which is no wire' if gone else 'a wire twice'}.", "Put its order right.",
            )  # fmt: skip
    for one in design.sets:
        gone = [wire for wire in one.wires if wire not in index.wires]
        if gone:
            yield Finding(
                "set.wires", FAULT, "runs", "sets", one.id, f"Set {one.name or one.id} names {gone[0]}, which is no wire.", "Put its wires right.",
            )  # fmt: skip
            continue
        runs = {wire: index.length_m(index.wires[wire]) for wire in one.wires}
        if len(runs) > 1 and 1e3 * (max(runs.values()) - min(runs.values())) > one.tolerance_mm:
            shortest = min(runs, key=lambda wire: runs[wire])
            slack = 1e3 * (max(runs.values()) - runs[shortest])
            yield Finding(
                "set.uneven", WARNING, "runs", "sets", one.id,
                f"Set {one.name or one.id}: {shortest}’s run is {slack:.0f} mm shorter than the longest; cut alike it hangs loose by that, over the {one.tolerance_mm:g} mm an eye passes.",
                "Move its breakout, or show the slack on purpose.",
            )  # fmt: skip


SHORT_M, LONG_M, APART, ALIKE = 0.02, 100.0, 300.0, 8


def _plausible(design: Design, index: Index) -> Iterator[Finding]:
    """Figures that are possible but seldom meant: a unit misread, a column taken for another."""
    lengths = index.lengths
    known = [length for length in lengths.values() if length > 0]
    usual = float(np.median(known)) if len(known) >= 3 else 0.0
    least, most = (max(SHORT_M, usual / APART), min(LONG_M, usual * APART)) if usual else (SHORT_M, LONG_M)
    for wire in design.wires:
        length = lengths[wire.id]
        if length <= 0 or least <= length <= most:
            continue
        name = wire.name or wire.id
        if not SHORT_M <= length <= LONG_M:
            yield Finding(
                "wire.odd_length", WARNING, "runs", "wires", wire.id, f"{name} is {show_length(length)} long: under 20 mm or over 100 m.",
                "Check the unit of its length.",
            )  # fmt: skip
        elif usual and not usual / APART <= length <= usual * APART:
            yield Finding(
                "wire.odd_length", WARNING, "runs", "wires", wire.id,
                f"{name} is {show_length(length)} long, its neighbours about {show_length(usual)}.", "Check the unit of its length.",
            )  # fmt: skip


def _differs(length_m: float, stated_m: float) -> bool:
    """By more than 5 % and 50 mm."""
    return abs(length_m - stated_m) > max(0.05, 0.05 * stated_m)


def _twisted(results: Results, index: Index) -> Iterator[Finding]:
    """Turns that can't be: a wire would lie in its own next turn."""
    design, plant = results.design, results.figures.solution.plant
    twists = [("segments", one.id, one.id, one.lay_mm, index.contents[one.id]) for one in design.segments if one.lay_mm]
    twists += [
        ("cables", one.id, one.name or one.id, one.lay_mm, [wire.id for wire in design.wires if wire.cable == one.id])
        for one in design.cables
        if one.lay_mm
    ]
    for table, key, name, lay, wires in twists:
        most = max((plant.conductors[plant.row[wire]].outer_mm for wire in wires if wire in plant.row), default=0.0)
        if lay < most:
            yield Finding(
                "lay.short", FAULT, "runs", table, key,
                f"{name} is twisted one turn in {lay:g} mm, but has a wire {most:.1f} mm thick: no turn can be shorter than that, and its lengths are for that turn.",
                "Give the length of one whole turn; ten to twenty times the bundle’s thickness is usual.",
            )  # fmt: skip
