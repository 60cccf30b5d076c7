"""Sizes and lengths as papers show them: metric, in inches and gauges, or both."""

from __future__ import annotations

import math
from fractions import Fraction

from umber_trunk.core.catalog.conductors import awg_area_mm2, parse_size, show_size
from umber_trunk.core.measures import FOOT_M, INCH_M

SIXTEENTHS = 16
"""What a tape in inches is read to."""


def gauge_near(area_mm2: float) -> str:
    """The gauge whose area is nearest in ratio, such as "AWG 14"; from AWG 40 to 4/0."""
    gauge = min(range(-3, 41), key=lambda n: abs(awg_area_mm2(n) / area_mm2 - 1))
    return f"AWG {1 - gauge}/0" if gauge <= 0 else f"AWG {gauge}"


def size_text(label: str, units: str) -> str:
    """A size for paper: as it is called, with the other series' figure beside it where asked for."""
    if label in ("", "?"):
        return "?"
    size = parse_size(label)
    if size.series == "awg":
        return (
            size.label
            if units == "inch"
            else f"{size.label} ({size.area_mm2:.3g} mm²)"
            if units == "both"
            else f"{size.area_mm2:.3g} mm² ({size.label})"
        )
    return show_size(label) if units == "metric" else f"{show_size(label)} (≈ {gauge_near(size.area_mm2)})"


def inches_text(metres: float) -> str:
    """Feet, inches and sixteenths, rounded up so that nothing comes up short: "4' 1 3/16\\""."""
    sixteenths = max(math.ceil(metres / INCH_M * SIXTEENTHS - 1e-9), 0)
    feet, rest = divmod(sixteenths, round(FOOT_M / INCH_M) * SIXTEENTHS)
    whole, part = divmod(rest, SIXTEENTHS)
    fraction = f" {Fraction(part, SIXTEENTHS)}" if part else ""
    return (f"{feet}' " if feet else "") + f'{whole}{fraction}"'


def length_text(metres: float, units: str) -> str:
    """A length for paper in the project's units; millimetres, which no separator can make ambiguous."""
    metric = f"{1000 * metres:.0f} mm"
    return (
        metric if units == "metric" else inches_text(metres) if units == "inch" else f"{metric} = {inches_text(metres)}"
    )
