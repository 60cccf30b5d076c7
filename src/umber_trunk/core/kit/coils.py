"""The shop's coils and offcuts as values, and what of them suits which wire. Lengths in m."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.catalog.conductors import area_of

USABLE_M = 0.5
"""From this length on an offcut goes back to the shelf instead of into the bin, where the shop says nothing."""
TENTHS = 10_000
"""Lengths count in tenths of a millimetre, so many per metre: sums are exact."""
LIKE_SHARE = 0.005
"""Two names of one size agree in area to this: 0.5 mm² and AWG 20 don't, 1 mm² and 1.0 mm² do."""


@dataclass(frozen=True)
class Coil:
    """A coil or an offcut: `size` as sold ("2.5 mm2", or the id of a cable in the catalogue), metal by its id and
    colour, blank where it doesn't matter."""

    id: str
    size: str
    length_m: float
    metal: str = ""
    colour: str = ""


@dataclass(frozen=True)
class Piece:
    """One length to cut: a wire, or all cores of a jacketed cable at once. `parallel` numbers the conductors of one
    wire."""

    wire: str
    unit: int
    size: str
    metal: str
    colour: str
    length_m: float
    parallel: int = 1


def suits(coil: Coil, piece: Piece) -> bool:
    """Whether a piece may be cut from a coil, its length left aside."""
    return (
        same_size(coil.size, piece.size)
        and coil.metal.lower() in ("", piece.metal.lower())
        and plain_colour(coil.colour) in ("", plain_colour(piece.colour))
    )


def same_size(one: str, other: str) -> bool:
    """Whether two texts name one size or one cable."""
    if one == other:
        return True
    a, b = area_of(one), area_of(other)
    return a > 0 and b > 0 and abs(a / b - 1) <= LIKE_SHARE


def plain_colour(colour: str) -> str:
    """A colour as it is compared: "Red / white" is "red/white"."""
    return "/".join(part.strip().lower() for part in colour.replace("-", "/").split("/") if part.strip())
