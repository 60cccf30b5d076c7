"""What coverings mean for heat: how thick they lie on the wires, and the tube round them with its air."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.catalog.parts import Braid, Shrink, Tape, Tube
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.model import Segment
from umber_trunk.core.harness.way import CoverKind

USUAL_WALL_MM = {CoverKind.SLEEVE: 0.6, CoverKind.TUBE: 0.8, CoverKind.TAPE: 0.5, CoverKind.SHRINK: 0.8}
"""Walls of coverings nobody has chosen a part for."""


@dataclass(frozen=True)
class Clothing:
    """`wall_m` lies on the wires; `shut`: a tube goes round it, of `bore_m` (0 where nobody chose one) and
    `tube_wall_m`. `part`: metres bare before it, covered and bare after it, where that isn't all of the segment."""

    wall_m: float = 0.0
    shut: bool = False
    bore_m: float = 0.0
    tube_wall_m: float = 0.0
    part: tuple[float, float, float] | None = None


def clothed(segment: Segment, shelf: Shelf) -> Clothing:
    """What a segment wears: all of it, over the longest stretch that anything covers. Of tubes in one another the
    innermost has the gap, the walls add."""
    wall, shut, bore, round_it = 0.0, False, 0.0, 0.0
    for cover in segment.covers:
        if cover.kind not in USUAL_WALL_MM:
            continue
        part = shelf.named(cover.part)
        if isinstance(part, Tube):
            round_it += (part.outer_mm - part.bore_mm) / 2
            bore = min(bore, part.bore_mm) if bore else part.bore_mm
        elif cover.kind is CoverKind.TUBE:
            round_it += USUAL_WALL_MM[cover.kind]
        elif isinstance(part, Braid | Shrink):
            wall += part.wall_mm
        elif isinstance(part, Tape):
            wall += part.thick_mm / (1 - cover.lap)
        else:
            wall += USUAL_WALL_MM[cover.kind]
        shut = shut or cover.kind is CoverKind.TUBE
    reach = None if segment.sleeve_mm else _longest(segment)
    return Clothing(max(wall, segment.sleeve_mm) / 1e3, shut, bore / 1e3, round_it / 1e3, reach)


def _longest(segment: Segment) -> tuple[float, float, float] | None:
    """(bare before, covered, bare after) [m] of the longest stretch that is covered without a break; halves of what is
    bare between two belong to each. None where it is all of the segment, or where nothing is known of its length."""
    length = segment.measure.length_m
    spans = sorted(
        (min(max(one.from_m, 0.0), length), length if one.to_m is None else min(max(one.to_m, 0.0), length))
        for one in segment.covers
        if one.kind in USUAL_WALL_MM
    )
    runs: list[tuple[float, float]] = []
    for start, end in spans:
        if runs and start <= runs[-1][1]:
            runs[-1] = runs[-1][0], max(runs[-1][1], end)
        elif end > start:
            runs.append((start, end))
    if not runs or length <= 0:
        return None
    at = max(range(len(runs)), key=lambda number: runs[number][1] - runs[number][0])
    start, end = runs[at]
    if end - start >= length:
        return None
    before = start - runs[at - 1][1] if at else 2 * start
    after = runs[at + 1][0] - end if at + 1 < len(runs) else 2 * (length - end)
    return before / 2, end - start, after / 2
