"""Plain pieces of a drawing on named layers, in mm, y up: boards, cards and labels are made of them; screen, paper, SVG
and DXF draw the same ones."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

Spot = tuple[float, float]
Box = tuple[float, float, float, float]
"""Left, bottom, right, top."""
WIDE = 0.62
"""Width of a letter over its height, about."""


@dataclass(frozen=True)
class Line:
    """A line of a width over points, filled where it is `closed` and has a `fill`; `name` is what it stands for, inks
    are hues as #rrggbb."""

    layer: str
    spots: tuple[Spot, ...]
    wide_mm: float = 0.25
    name: str = ""
    closed: bool = False
    ink: str = ""
    fill: str = ""


@dataclass(frozen=True)
class Ring:
    """A circle, filled where it has a `fill`."""

    layer: str
    at: Spot
    radius_mm: float
    name: str = ""
    ink: str = ""
    fill: str = ""


@dataclass(frozen=True)
class Words:
    """Text with its lower left corner at a place."""

    layer: str
    at: Spot
    text: str
    tall_mm: float = 4.0
    ink: str = ""


Shape = Line | Ring | Words


def moved(shapes: Iterable[Shape], dx: float, dy: float) -> list[Shape]:
    """The same elsewhere."""
    found: list[Shape] = []
    for one in shapes:
        if isinstance(one, Line):
            found.append(replace(one, spots=tuple((x + dx, y + dy) for x, y in one.spots)))
        else:
            found.append(replace(one, at=(one.at[0] + dx, one.at[1] + dy)))
    return found


def wide_of(text: str, tall_mm: float) -> float:
    """About how wide a text is."""
    return WIDE * tall_mm * len(text)


def frame(layer: str, box: Box, wide_mm: float = 0.25, name: str = "", fill: str = "", ink: str = "") -> Line:
    """A rectangle."""
    left, low, right, high = box
    return Line(layer, ((left, low), (right, low), (right, high), (left, high)), wide_mm, name, True, ink, fill)
