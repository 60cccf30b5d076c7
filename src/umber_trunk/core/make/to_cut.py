"""What is still to cut of a build, and what of it no coil gives."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.make.events import Done, Event
from umber_trunk.core.make.frozen import Making


def to_cut(making: Making, units: Iterable[int], done: Mapping[str, Event]) -> list[Piece]:
    """The pieces of these units, samples first, that no step that is `done` (by its key) has cut yet."""
    cuts = [
        (key, one.unit, act) for key, one in done.items() if key.endswith(" cut") and isinstance(act := one.act, Done)
    ]
    cut = {(act.wire, unit) for _, unit, act in cuts if act.op == "cut"}
    tried = [act.wire for key, _, act in cuts if key.startswith("0|sample")]
    samples = []
    for piece in making.samples:
        if piece.wire in tried:
            tried.remove(piece.wire)
        else:
            samples.append(piece)
    return samples + [
        replace(piece, unit=unit) for unit in units for piece in making.pieces if (piece.wire, unit) not in cut
    ]


@dataclass(frozen=True)
class Short:
    """What of one size and colour no coil gives: how many metres, for which wires."""

    what: str
    metres: float
    wires: tuple[str, ...]


def short_of(pieces: Iterable[Piece]) -> list[Short]:
    """Pieces no coil gives, by size and colour."""
    by: dict[str, list[Piece]] = {}
    for piece in pieces:
        by.setdefault(f"{show_size(piece.size)} {piece.colour}".strip(), []).append(piece)
    return [
        Short(what, sum(p.length_m for p in mine), tuple(dict.fromkeys(p.wire for p in mine)))
        for what, mine in by.items()
    ]
