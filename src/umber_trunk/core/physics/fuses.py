"""Fuses: standard ratings, the band between fastest and slowest opening, and what they protect.

The bands are generic (ISO 8820-3 style blades, bolt-down links of the usual slower kind); a maker's
curve, where known, replaces them.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.physics.heat import WireBodies
from umber_trunk.core.physics.transient import heat_capacity_j_mk, thermal_resistance_km_w

Floats = NDArray[np.float64]

BLADE_A = (1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0)
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
RATINGS_A = BLADE_A + BOLT_A
CONTINUOUS_SHARE = 0.8
DERATING_PER_K = 0.0016  # of rating, above 25 °C: the usual slope of blade fuses


@dataclass(frozen=True)
class Band:
    """Opening times [s] at multiples of the rating: the fastest and the slowest fuse of its kind."""

    multiple: tuple[float, ...]
    fastest_s: tuple[float, ...]
    slowest_s: tuple[float, ...]


NEVER_S = 1e9
SURE_MULTIPLE = 2.0  # at twice its rating a blade opens within 5 s (ISO 8820-3)
BLADE = Band(
    (1.10, 1.35, 2.0, 3.5, 6.0),
    (360_000.0, 0.75, 0.15, 0.04, 0.02),
    (NEVER_S, 600.0, 5.0, 0.5, 0.1),
)
BOLT = Band(
    (1.10, 1.35, 2.0, 3.5, 6.0),
    (360_000.0, 60.0, 2.0, 0.2, 0.04),
    (NEVER_S, 1800.0, 60.0, 5.0, 0.5),
)


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


@dataclass(frozen=True)
class _Body:
    """A lone wire as a first-order body whose high-current end is the adiabatic law: final temperature is
    ambient + k_per_a2 · I², reached with time constant tau_s."""

    limit_c: float
    tau_s: float
    k_per_a2: float

    @classmethod
    def of(cls, wire: Conductor, start_c: float, ambient_c: float) -> _Body:
        """Resistance at the middle of the way from start_c to the jacket's short-time limit."""
        limit = wire.jacket.short_c
        ohm = wire.ohm_per_m_20 * (1 + wire.metal.alpha_per_k * ((start_c + limit) / 2 - 20))
        resistance = _lone_km_w(wire.size.label, wire.metal.id, wire.make.id, wire.jacket.id, ambient_c)
        return cls(limit, heat_capacity_j_mk(wire) * resistance, ohm * resistance)


@lru_cache(maxsize=4096)
def _lone_km_w(size: str, metal: str, make: str, jacket: str, ambient_c: float) -> float:
    """Thermal resistance [K·m/W] of a lone wire halfway to its short-time limit."""
    wire = conductor(size, metal, make, jacket)
    hold = np.array([max(wire.jacket.short_c - ambient_c, 1.0) * 0.5])
    return float(thermal_resistance_km_w(hold, WireBodies.of([wire]), np.array([ambient_c]))[0])


def damage_s(wire: Conductor, amps: Floats, start_c: float, ambient_c: float, parallel: int = 1) -> Floats:
    """Time for each current to bring a wire from start_c to its jacket's short-time limit; NEVER_S if
    it never gets there."""
    body = _Body.of(wire, start_c, ambient_c)
    final = ambient_c + np.square(np.asarray(amps, dtype=float) / parallel) * body.k_per_a2
    reach = np.clip((body.limit_c - start_c) / np.maximum(final - start_c, 1e-9), 0.0, None)
    with np.errstate(divide="ignore"):
        seconds = np.where(reach < 1.0, -body.tau_s * np.log1p(-np.minimum(reach, 1.0 - 1e-12)), NEVER_S)
    result: Floats = np.maximum(seconds, 1e-6)
    return result


def withstand_a(wire: Conductor, seconds: Floats, start_c: float, ambient_c: float, parallel: int = 1) -> Floats:
    """Current that brings a wire to its jacket's short-time limit in just these times: `damage_s` turned round."""
    body = _Body.of(wire, start_c, ambient_c)
    grown = -np.expm1(-np.asarray(seconds, dtype=float) / body.tau_s)
    square = np.maximum((body.limit_c - start_c) / grown + start_c - ambient_c, 1e-9) / body.k_per_a2
    result: Floats = parallel * np.sqrt(square)
    return result


@dataclass(frozen=True)
class Protection:
    """Whether a fuse protects a wire: the worst overload, and that current over the one the wire withstands
    for as long as the slowest fuse takes to open."""

    rating_a: float
    worst_a: float
    used: float

    @property
    def ok(self) -> bool:
        """Every overload is cleared before damage."""
        return self.used <= 1.0


def protects(
    rating_a: float,
    wire: Conductor,
    start_c: float,
    ambient_c: float,
    parallel: int = 1,
    fault_a: float = 1e5,
) -> Protection:
    """Slowest opening against damage at every overload from 1.1 × rating to the fault current.

    The fuse opens before the wire is damaged just where the current is below the one the wire withstands
    for the opening time, since damage comes sooner with more current.
    """
    top = max(fault_a, 1.36 * rating_a)
    amps = np.geomspace(1.1 * rating_a, top, 160)
    _, slowest = opening_s(rating_a, amps)
    used = amps / withstand_a(wire, slowest, start_c, ambient_c, parallel)
    at = int(np.argmax(used))
    return Protection(rating_a, float(amps[at]), float(used[at]))


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
