"""What a surface in air gives off: free and forced convection and radiation.

All functions take and return arrays of one shape (or scalars), D in metres, temperatures in °C.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.constants import (
    CP_AIR_J_KG_K,
    EMISSIVITY_JACKET,
    G_M_S2,
    GAS_AIR_J_KG_K,
    PRESSURE_PA,
    STEFAN_BOLTZMANN,
    ZERO_C_K,
)

Floats = NDArray[np.float64]
RISE_LEAST_K = 1e-6
"""Rises of a surface are looked for from here …"""
RISE_MOST_K = 3000.0
"""… to here: beyond it nothing is left of a wire."""
LOG_LEAST, LOG_MOST = math.log(RISE_LEAST_K), math.log(RISE_MOST_K)
"""The same as logarithms, which the search goes by."""
SMALL_STEP = 1e-4
"""Steps of the search, in logarithms, under which the next one no longer shows."""

STILL_K, THICK_K = 194.0, 111.0
"""Sutherland's own temperatures of dry air: of its conductivity and its viscosity (White, tables 1-3 and 1-2)."""
CONDUCTIVITY = 0.0241 * (273.0 + STILL_K) / 273.0**1.5
"""Sutherland's law of conductivity: over K^1.5 / (K + 194) [W/m·K], 0.0241 at 273 K."""
VISCOSITY = 1.716e-5 * (273.0 + THICK_K) / 273.0**1.5
"""His law of viscosity: over K^1.5 / (K + 111) [Pa·s], 1.716e-5 at 273 K."""


def air_at(kelvin: Floats) -> tuple[Floats, Floats, Floats]:
    """(conductivity [W/m·K], kinematic viscosity [m²/s], Prandtl number) of dry air at 1 atm.

    Sutherland's laws for viscosity (White, Viscous Fluid Flow, table 1-2) and conductivity (table 1-3). Both go with
    K^1.5, so that it falls out of the Prandtl number. A search for a rise spends most of its time here, on a few
    numbers at once, where each step of arithmetic counts.
    """
    still, thick, swift = kelvin + STILL_K, kelvin + THICK_K, kelvin * np.sqrt(kelvin)
    return (
        CONDUCTIVITY * swift / still,
        VISCOSITY * GAS_AIR_J_KG_K / PRESSURE_PA * swift * kelvin / thick,
        VISCOSITY * CP_AIR_J_KG_K / CONDUCTIVITY * still / thick,
    )


def nusselt_free(rayleigh: Floats, prandtl: Floats) -> Floats:
    """Free convection round a long horizontal cylinder; Churchill and Chu 1975."""
    shape = (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)
    result: Floats = np.square(0.60 + 0.387 * rayleigh ** (1 / 6) / shape)
    return result


def nusselt_forced(reynolds: Floats, prandtl: Floats) -> Floats:
    """Cross flow over a cylinder; Churchill and Bernstein 1977, for Re·Pr > 0.2."""
    lead = 0.62 * np.sqrt(reynolds) * np.cbrt(prandtl) / (1 + (0.4 / prandtl) ** (2 / 3)) ** 0.25
    result: Floats = 0.3 + lead * (1 + (reynolds / 282_000) ** 0.625) ** 0.8
    return result


class Film:
    """The film round cylinders of width D [m] in air at `ambient_c`, for many rises of their surface: what doesn't
    change with the rise is worked out once. `pressure` is over that at the sea."""

    def __init__(
        self, diameter_m: Floats, ambient_c: Floats, air_m_s: Floats | float = 0.0, pressure: Floats | float = 1.0
    ) -> None:
        self.diameter_m, self.air_m_s, self.pressure = diameter_m, air_m_s, pressure
        self._windy = bool(np.count_nonzero(air_m_s))
        self._cold = ambient_c + ZERO_C_K
        self._cold_2 = self._cold * self._cold
        self._lift = G_M_S2 * diameter_m * diameter_m * diameter_m

    def w_m2k(self, rise_k: Floats) -> Floats:
        """The coefficient at these rises: convection, free and forced added as cubes, plus radiation."""
        kelvin = self._cold + 0.5 * rise_k
        k, nu, pr = air_at(kelvin)
        nu = nu / self.pressure
        free = nusselt_free(self._lift * rise_k * pr / (kelvin * nu * nu), pr)
        if self._windy:
            free = np.cbrt(free**3 + nusselt_forced(np.maximum(self.air_m_s, 1e-9) * self.diameter_m / nu, pr) ** 3)
        hot = self._cold + rise_k
        radiation = EMISSIVITY_JACKET * STEFAN_BOLTZMANN * (hot * hot + self._cold_2) * (hot + self._cold)
        result: Floats = free * k / self.diameter_m + radiation
        return result


def film_w_m2k(
    diameter_m: Floats, rise_k: Floats, ambient_c: Floats, air_m_s: Floats | float = 0.0, pressure: Floats | float = 1.0
) -> Floats:
    """Total film coefficient at one rise each: convection plus radiation; pressure over that at the sea."""
    return Film(diameter_m, ambient_c, air_m_s, pressure).w_m2k(np.maximum(rise_k, RISE_LEAST_K))


def surface_rise_k(
    watts_per_m: Floats,
    diameter_m: Floats,
    ambient_c: Floats,
    air_m_s: Floats | float = 0.0,
    pressure: Floats | float = 1.0,
) -> Floats:
    """Rise of a cylinder's surface over ambient that gives off `watts_per_m`.

    Secant steps in log–log, where the law is nearly a straight line of slope 1.0 to 3.
    """
    watts = np.maximum(np.asarray(watts_per_m, dtype=float), 1e-12)
    per_k, film = np.pi * diameter_m, Film(diameter_m, ambient_c, air_m_s, pressure)

    def given_off(log_rise: Floats) -> Floats:
        rise = np.exp(log_rise)
        result: Floats = np.log(per_k * rise * film.w_m2k(rise))
        return result

    target, low, high = np.log(watts), LOG_LEAST, LOG_MOST
    # first by a plain law of still air, h = 1.32·(ΔT/D)^¼ + 6 W/m²K, which is within a few per cent
    guess = watts / (per_k * 10.0)
    for _ in range(4):
        convection = 1.32 * (guess / diameter_m) ** 0.25
        guess = watts / (per_k * (convection + 6.0))
    here = np.minimum(np.maximum(np.log(guess), low), high)  # np.clip takes twice as long on a few numbers
    slope = 1 + 0.25 * convection / (convection + 6.0) + np.zeros_like(here)
    value = given_off(here)
    for _ in range(25):
        step = (target - value) / slope
        there = np.minimum(np.maximum(here + step, low), high)
        run = there - here
        far = np.abs(run)
        if not far.size or far.max() < SMALL_STEP:
            here = there  # what is left is the square of a step of the secant, under 1e-7
            break
        value_there = given_off(there)
        moved = far > 1e-12
        steep = (value_there - value) / np.where(moved, run, 1.0)
        slope = np.where(moved, np.minimum(np.maximum(steep, 0.9), 4.0), slope)
        here, value = there, value_there
    result: Floats = np.where(np.asarray(watts_per_m) > 0, np.exp(here), 0.0)
    return result
