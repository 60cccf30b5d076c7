"""Closed forms of coverings: braid that shortens as it widens, tape wound with a lap, shrink that passes and grips."""

from __future__ import annotations

import math

from umber_trunk.core.catalog.parts import Braid

WIDEST_DEG = 75.0
"""Strand angle at a braid's widest bore where its sheet gives no angle."""


def braid_angle_deg(part: Braid, bore_mm: float) -> float:
    """Angle of the strands to the axis at a bore: D = D₀·sinθ/sinθ₀. ValueError beyond the widest the strands allow."""
    sold = part.sold_bore_mm or part.bore_mm.low
    start = part.sold_angle_deg
    sine = math.sin(math.radians(start)) if start else sold / part.bore_mm.high * math.sin(math.radians(WIDEST_DEG))
    at = bore_mm / sold * sine
    if at > 1:
        raise ValueError("wider than its strands allow")
    return math.degrees(math.asin(at))


def braid_cut_m(part: Braid, bore_mm: float, covered_m: float) -> float:
    """How much braid, as it is sold, covers a length at a bore: L₀ = L·cosθ₀/cosθ."""
    sold = braid_angle_deg(part, part.sold_bore_mm or part.bore_mm.low)
    return covered_m * math.cos(math.radians(sold)) / math.cos(math.radians(braid_angle_deg(part, bore_mm)))


def tape_m(covered_m: float, over_mm: float, width_mm: float, thick_mm: float, lap: float) -> float:
    """Tape wound over a length: each turn moves on by width·(1 − lap) and is as long as its helix, one turn more to
    end."""
    step = width_mm * (1 - lap) / 1e3
    around = math.pi * (over_mm + thick_mm) / 1e3
    turns = covered_m / step + 1
    return turns * math.hypot(around, step)


def tape_layers(lap: float) -> float:
    """How many layers lie over each other on average."""
    return 1 / (1 - lap)


def shrink_cut_m(covered_m: float, shortens: float) -> float:
    """Shrink to cut so that it still covers a length once recovered."""
    return covered_m / (1 - shortens)
