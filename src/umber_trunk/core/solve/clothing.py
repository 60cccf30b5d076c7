"""What coverings mean for heat: how thick a wall they are, and whether they shut the air in."""

from __future__ import annotations

from umber_trunk.core.catalog.parts import Braid, Shrink, Tape, Tube
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.model import Segment
from umber_trunk.core.harness.way import CoverKind

USUAL_WALL_MM = {CoverKind.SLEEVE: 0.6, CoverKind.TUBE: 0.8, CoverKind.TAPE: 0.5, CoverKind.SHRINK: 0.8}
"""Walls of coverings nobody has chosen a part for."""


def clothed(segment: Segment, shelf: Shelf) -> tuple[float, bool]:
    """(wall in m, whether air is shut in as in a conduit) over a segment. A covering of a part of it counts as if it went all
    along: the hottest place decides."""
    wall, shut = 0.0, False
    for cover in segment.covers:
        if cover.kind not in USUAL_WALL_MM:
            continue
        part = shelf.named(cover.part)
        if isinstance(part, Braid | Shrink):
            wall += part.wall_mm
        elif isinstance(part, Tape):
            wall += part.thick_mm / (1 - cover.lap)
        elif isinstance(part, Tube):
            wall += (part.outer_mm - part.bore_mm) / 2
        else:
            wall += USUAL_WALL_MM[cover.kind]
        shut = shut or cover.kind is CoverKind.TUBE
    return max(wall, segment.sleeve_mm) / 1e3, shut
