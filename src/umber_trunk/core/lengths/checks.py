"""Findings about the way: the tree, its segments, and lengths."""

from __future__ import annotations

import math
from collections.abc import Iterator
from statistics import median

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
            yield Finding.of("segment.open", FAULT, "runs", "segments", segment.id, id=segment.id, gone=gone[0])
        elif segment.a == segment.b:
            yield Finding.of("tree.loop", FAULT, "runs", "segments", segment.id, form="tree.loop.2", id=segment.id)
        elif segment.id in loops:
            yield Finding.of("tree.loop", WARNING, "runs", "segments", segment.id, id=segment.id)
        elif segment.measure.length_m == 0:
            yield Finding.of("segment.no_length", WARNING, "runs", "segments", segment.id, id=segment.id)
        elif segment.measure.method is Method.GUESS and contents[segment.id]:
            yield Finding.of(
                "segment.guess",
                NOTE,
                "runs",
                "segments",
                segment.id,
                id=segment.id,
                length_m=show_length(segment.measure.length_m),
                plus_minus_m=show_length(segment.measure.plus_minus_m),
            )
    islands = [point for point, (_, segment, _) in parents.items() if not segment and point != index.root]
    for point in islands:
        yield Finding.of("tree.island", WARNING, "runs", "points", point, value=index.points[point].name or point)


def _wires(design: Design, index: Index) -> Iterator[Finding]:
    routes, lengths = index.routes, index.lengths
    for wire in design.wires:
        name, route, metres = wire.name or wire.id, routes[wire.id], lengths[wire.id]
        if not route.laid and wire.stated_m:
            yield Finding.of(
                "wire.provisional", WARNING, "runs", "wires", wire.id, name=name, stated_m=show_length(wire.stated_m)
            )
        elif route.segments and wire.stated_m and _differs(metres, wire.stated_m):
            shorter = metres < wire.stated_m  # too short is scrap
            yield Finding.of(
                "wire.differs",
                WARNING if shorter else NOTE,
                "runs",
                "wires",
                wire.id,
                name=name,
                metres=show_length(metres),
                stated_m=show_length(wire.stated_m),
            )
        elif metres == 0 and not (route.laid and wire.start.end == wire.finish.end):
            yield Finding.of("wire.no_length", FAULT, "runs", "wires", wire.id, name=name)


def _bends(design: Design) -> Iterator[Finding]:
    for segment in design.segments:
        length = segment.measure.length_m
        for bend in segment.bends:
            half = math.radians(bend.angle_deg) * bend.radius_mm / 2e3
            if bend.at_m > length:
                yield Finding.of(
                    "segment.bend",
                    FAULT,
                    "runs",
                    "segments",
                    segment.id,
                    form="segment.bend.2",
                    id=segment.id,
                    at_m=show_length(bend.at_m),
                    length=show_length(length),
                )
            elif 2 * half > length > 0:
                yield Finding.of(
                    "segment.bend",
                    WARNING,
                    "runs",
                    "segments",
                    segment.id,
                    angle_deg=bend.angle_deg,
                    radius_mm=bend.radius_mm,
                    value=show_length(2 * half),
                    id=segment.id,
                    length=show_length(length),
                )
            if segment.corners and bend.angle_deg >= 180:
                yield Finding.of(
                    "segment.corner", FAULT, "runs", "segments", segment.id, id=segment.id, angle_deg=bend.angle_deg
                )
        for slack in segment.slack:
            if slack.at_m > length:
                yield Finding.of(
                    "segment.slack",
                    FAULT,
                    "runs",
                    "segments",
                    segment.id,
                    kind=slack.kind,
                    id=segment.id,
                    at_m=show_length(slack.at_m),
                    length=show_length(length),
                )


def _pinned(design: Design, index: Index) -> Iterator[Finding]:
    for wire in design.wires:
        if not wire.via:
            continue
        missed = [name for name in wire.via if name not in index.routes[wire.id].segments]
        if missed:
            yield Finding.of(
                "wire.via", FAULT, "runs", "wires", wire.id, value=wire.name or wire.id, missed=", ".join(missed)
            )


def _leads(results: Results) -> Iterator[Finding]:
    """Short stiff leads: shorter than any way from stud to stud that bends no tighter than the wire stands."""
    for wire in results.design.wires:
        if wire.lead is None or wire.id not in results.plant.row:
            continue
        least = least_lead_m(results, wire)
        run = index_of(results.design).length_m(wire)
        if 0 < run < least - 5e-4:
            yield Finding.of(
                "wire.stiff_lead",
                FAULT,
                "runs",
                "wires",
                wire.id,
                value=wire.name or wire.id,
                run=show_length(run),
                value2=1000.0 * least,
            )


def _side_by_side(results: Results) -> Iterator[Finding]:
    design, index = results.design, index_of(results.design)
    for comb in design.combs:
        gone = [wire for wire in comb.wires if wire not in index.wires]
        if gone or len(set(comb.wires)) < len(comb.wires):
            yield Finding.of(
                "comb.wires",
                FAULT,
                "runs",
                "combs",
                comb.id,
                value=comb.name or comb.id,
                value2=gone[0] + ", which is no wire" if gone else "a wire twice",
            )
    for one in design.sets:
        gone = [wire for wire in one.wires if wire not in index.wires]
        if gone:
            yield Finding.of("set.wires", FAULT, "runs", "sets", one.id, value=one.name or one.id, gone=gone[0])
            continue
        runs = {wire: index.length_m(index.wires[wire]) for wire in one.wires}
        if len(runs) > 1 and 1e3 * (max(runs.values()) - min(runs.values())) > one.tolerance_mm:
            shortest = min(runs, key=lambda wire: runs[wire])
            slack = 1e3 * (max(runs.values()) - runs[shortest])
            yield Finding.of(
                "set.uneven",
                WARNING,
                "runs",
                "sets",
                one.id,
                value=one.name or one.id,
                shortest=shortest,
                slack=slack,
                tolerance_mm=one.tolerance_mm,
            )


SHORT_M, LONG_M, APART, ALIKE = 0.02, 100.0, 300.0, 8
"""Typing slips in lengths: shorter or longer than these, so many times off the middle one, so many exactly alike."""


def _plausible(design: Design, index: Index) -> Iterator[Finding]:
    """Figures that are possible but seldom meant: a unit misread, a column taken for another."""
    lengths = index.lengths
    known = [length for length in lengths.values() if length > 0]
    usual = median(known) if len(known) >= 3 else 0.0
    least, most = (max(SHORT_M, usual / APART), min(LONG_M, usual * APART)) if usual else (SHORT_M, LONG_M)
    for wire in design.wires:
        length = lengths[wire.id]
        if length <= 0 or least <= length <= most:
            continue
        name = wire.name or wire.id
        if not SHORT_M <= length <= LONG_M:
            yield Finding.of(
                "wire.odd_length",
                WARNING,
                "runs",
                "wires",
                wire.id,
                form="wire.odd_length.2",
                name=name,
                length=show_length(length),
            )
        elif usual and not usual / APART <= length <= usual * APART:
            yield Finding.of(
                "wire.odd_length",
                WARNING,
                "runs",
                "wires",
                wire.id,
                name=name,
                length=show_length(length),
                usual=show_length(usual),
            )


def _differs(length_m: float, stated_m: float) -> bool:
    """By more than 5 % and 50 mm."""
    return abs(length_m - stated_m) > max(0.05, 0.05 * stated_m)


def _twisted(results: Results, index: Index) -> Iterator[Finding]:
    """Turns that can't be: a wire would lie in its own next turn."""
    design, plant = results.design, results.plant
    twists = [("segments", one.id, one.id, one.lay_mm, index.contents[one.id]) for one in design.segments if one.lay_mm]
    twists += [
        ("cables", one.id, one.name or one.id, one.lay_mm, [wire.id for wire in design.wires if wire.cable == one.id])
        for one in design.cables
        if one.lay_mm
    ]
    for table, key, name, lay, wires in twists:
        most = max((plant.conductors[plant.row[wire]].outer_mm for wire in wires if wire in plant.row), default=0.0)
        if lay < most:
            yield Finding.of("lay.short", FAULT, "runs", table, key, name=name, lay=lay, most=most)
