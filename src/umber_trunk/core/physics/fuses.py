"""Fuses: standard ratings, and the band between fastest and slowest opening.

The bands are generic (ISO 8820-3 style blades, bolt-down links of the usual slower kind); a maker's
curve, where known, replaces them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

BLADE_A = (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0)
"""Ratings of blade fuses that are sold."""
BOLT_A = (
    50.0,
    60.0,
    70.0,
    80.0,
    100.0,
    125.0,
    150.0,
    175.0,
    200.0,
    225.0,
    250.0,
    300.0,
    350.0,
    400.0,
    500.0,
)
"""Ratings of bolt-down fuses that are sold."""
RATINGS_A = BLADE_A + BOLT_A
"""All that is proposed."""
CONTINUOUS_SHARE = 0.8
"""Of its rating a fuse is loaded with for hours, up to 25 °C."""
DERATING_PER_K = 0.0016  # of rating, above 25 °C: the usual slope of blade fuses


@dataclass(frozen=True)
class Band:
    """Opening times [s] at multiples of the rating: the fastest and the slowest fuse of its kind."""

    multiple: tuple[float, ...]
    fastest_s: tuple[float, ...]
    slowest_s: tuple[float, ...]


NEVER_S = 1e9
"""Stands for a fuse that doesn't open."""
CONVENTIONAL_MULTIPLE = 1.35  # the slowest of both bands opens it within half an hour
SURE_MULTIPLE = 2.0  # at twice its rating a blade opens within 5 s (ISO 8820-3)
BLADE = Band(
    (1.10, 1.35, 2.0, 3.5, 6.0),
    (360_000.0, 0.75, 0.15, 0.04, 0.02),
    (NEVER_S, 600.0, 5.0, 0.5, 0.1),
)
"""Blade fuses, in the style of ISO 8820-3."""
BOLT = Band(
    (1.10, 1.35, 2.0, 3.5, 6.0),
    (360_000.0, 60.0, 2.0, 0.2, 0.04),
    (NEVER_S, 1800.0, 60.0, 5.0, 0.5),
)
"""Bolt-down fuses, which take longer."""


def band_of(rating_a: float) -> Band:
    """Blade up to 40 A, bolt-down above."""
    return BLADE if rating_a <= BLADE_A[-1] else BOLT


def next_rating(amps: float) -> float | None:
    """The smallest standard rating at or above a current; None beyond 500 A."""
    return next((rating for rating in RATINGS_A if rating >= amps - 1e-9), None)


def continuous_a(rating_a: float, ambient_c: float) -> float:
    """What a fuse carries all day: 80 % of its rating at 25 °C, less when warmer."""
    warm = max(0.0, ambient_c - 25.0)
    return rating_a * max(0.0, CONTINUOUS_SHARE - DERATING_PER_K * warm)


def opening_s(rating_a: float, amps: Floats) -> tuple[Floats, Floats]:
    """(fastest, slowest) opening times at currents; log–log between band points, I²t constant beyond.

    Under 1.1 × the rating a fuse may never open. Table of NUMBERS: 2 × a blade opens in 0.15 to 5 s.
    """
    band = band_of(rating_a)
    multiple = np.maximum(np.asarray(amps, dtype=float) / rating_a, 1e-6)
    where = np.log(np.array(band.multiple))
    times = []
    for column in (band.fastest_s, band.slowest_s):
        seconds = np.exp(np.interp(np.log(multiple), where, np.log(np.array(column))))
        beyond = multiple > band.multiple[-1]
        seconds = np.where(beyond, column[-1] * (band.multiple[-1] / multiple) ** 2, seconds)
        times.append(np.where(multiple < band.multiple[0], NEVER_S, seconds))
    return times[0], times[1]


def carries_surge(rating_a: float, surge_a: float, surge_s: float) -> bool:
    """Whether even the fastest fuse of the band holds through the surge."""
    fastest, _ = opening_s(rating_a, np.array([surge_a]))
    return bool(fastest[0] > surge_s)


def fitting_rating(amps: float, ambient_c: float, surges: list[tuple[float, float]]) -> float | None:
    """The smallest standard rating whose continuous share at that warmth covers `amps` and that no surge
    (A, s) opens; None beyond the largest."""
    rating = next_rating(max(amps, 1e-6))
    while rating is not None:
        if continuous_a(rating, ambient_c) >= amps and all(carries_surge(rating, a, s) for a, s in surges):
            return rating
        rating = next_rating(rating * 1.001)
    return None
