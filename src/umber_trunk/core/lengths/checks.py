"""Findings about the way: the tree, its segments, and lengths."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.way import Method
from umber_trunk.core.results import Results
from umber_trunk.core.units import show_length

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE


def check_runs(results: Results) -> Iterator[Finding]:
    """Everything to say of segments and of the lengths of wires."""
    design, index = results.design, index_of(results.design)
    yield from _tree(design, index)
    yield from _wires(design, index)
    yield from _plausible(design, index)


def _tree(design: Design, index: Index) -> Iterator[Finding]:
    parents = index.parents
    used = {segment for _, segment, _ in parents.values() if segment}
    for segment in design.segments:
        gone = [point for point in (segment.a, segment.b) if point not in index.points]
        if gone:
            yield Finding(
                "segment.open", FAULT, "runs", "segments", segment.id,
                f"Segment {segment.id} ends at “{gone[0]}”, which is not a point.", "Join it to a real point.",
            )  # fmt: skip
        elif segment.id not in used:
            yield Finding(
                "tree.loop", FAULT, "runs", "segments", segment.id,
                f"Segment {segment.id} closes a loop; a harness is a tree.", "Remove it, or end it elsewhere.",
            )  # fmt: skip
        elif segment.measure.length_m == 0:
            yield Finding(
                "segment.no_length", WARNING, "runs", "segments", segment.id,
                f"Segment {segment.id} has no length yet.", "Measure it along the real way.",
            )  # fmt: skip
        elif segment.measure.method is Method.GUESS and index.contents[segment.id]:
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
    for wire in design.wires:
        name = wire.name or wire.id
        route = index.routes[wire.id]
        if not route.laid and wire.stated_m:
            yield Finding(
                "wire.provisional", WARNING, "runs", "wires", wire.id,
                f"{name} has only its listed length, {show_length(wire.stated_m)}: it is drawn as a straight run.",
                "Lay it onto the trunk on the Runs desk.",
            )  # fmt: skip
        elif route.segments and wire.stated_m and _differs(index.length_m(wire), wire.stated_m):
            yield Finding(
                "wire.differs", NOTE, "runs", "wires", wire.id,
                f"{name} runs {show_length(index.length_m(wire))} along the trunk; "
                f"its list says {show_length(wire.stated_m)}.", "Measure again, or forget the listed length.",
            )  # fmt: skip
        elif index.length_m(wire) == 0 and not (route.laid and wire.start.end == wire.finish.end):
            yield Finding(
                "wire.no_length", FAULT, "runs", "wires", wire.id, f"{name} has no length.",
                "Put both its ends on the trunk, or state its length.",
            )  # fmt: skip


SHORT_M, LONG_M, APART, ALIKE = 0.02, 100.0, 300.0, 8


def _plausible(design: Design, index: Index) -> Iterator[Finding]:
    """Figures that are possible but seldom meant: a unit misread, a column taken for another."""
    lengths = {wire.id: index.length_m(wire) for wire in design.wires if index.length_m(wire) > 0}
    usual = float(np.median(list(lengths.values()))) if len(lengths) >= 3 else 0.0
    for wire in design.wires:
        name, length = wire.name or wire.id, lengths.get(wire.id)
        if length is None:
            continue
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
