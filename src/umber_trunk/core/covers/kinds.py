"""Kinds of coverings: the parts each is made of, in which order they are tried, where one lies on its segment."""

from __future__ import annotations

from umber_trunk.core.catalog.parts import Base, Braid, Grommet, Holder, Shrink, Tape, Tube
from umber_trunk.core.harness.model import Segment
from umber_trunk.core.harness.way import Cover, CoverKind
from umber_trunk.core.sentences import Message

KINDS: dict[CoverKind, type[Base]] = {
    CoverKind.SLEEVE: Braid,
    CoverKind.TUBE: Tube,
    CoverKind.TAPE: Tape,
    CoverKind.SHRINK: Shrink,
    CoverKind.GROMMET: Grommet,
    CoverKind.CLAMP: Holder,
}


def place_of(segment: Segment, cover: Cover, point: bool) -> tuple[float, float, list[Message]]:
    """(from, to, what is wrong) of a covering along its segment, in m: what lies beyond it is laid where it ends."""
    length = segment.measure.length_m
    start, stop = cover.from_m, cover.from_m if point else (length if cover.to_m is None else cover.to_m)
    if start <= stop <= length + 1e-9 and start <= length + 1e-9:
        return start, stop, []
    wrong = Message.of("cover.lies", start_m=start, stop_m=stop, length_m=length)
    stop = min(max(stop, start), length)
    return min(start, stop), stop, [wrong]


def wraps(part: Base | None) -> bool:
    """Whether it goes on from the side."""
    return isinstance(part, Tape) or (isinstance(part, Tube) and part.slit)


def size_of(part: Base) -> tuple[float, ...]:
    """What orders parts of a kind: small before large, of one size what goes on most easily first; glue only where
    nothing else fits."""
    if isinstance(part, Braid):
        return (part.bore_mm.high,)
    if isinstance(part, Tube):
        return part.bore_mm, not part.slit
    if isinstance(part, Shrink):
        return part.adhesive, part.supplied_mm
    return (part.bundle_mm.high,) if isinstance(part, Grommet | Holder) else ()
