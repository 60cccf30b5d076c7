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
    """`wall_m` lies on the wires; `shut`: a tube goes round it, of `bore_m` (0 where nobody chose one) and `tube_wall_m`."""

    wall_m: float = 0.0
    shut: bool = False
    bore_m: float = 0.0
    tube_wall_m: float = 0.0


def clothed(segment: Segment, shelf: Shelf) -> Clothing:
    """What a segment wears. A covering of a part of it counts as if it went all along: the hottest place decides. Of tubes in one
    another the innermost has the gap, the walls add."""
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
    return Clothing(max(wall, segment.sleeve_mm) / 1e3, shut, bore / 1e3, round_it / 1e3)
