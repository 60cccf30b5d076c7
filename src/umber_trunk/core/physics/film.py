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


def air_properties(film_c: Floats) -> tuple[Floats, Floats, Floats]:
    """(conductivity [W/m·K], kinematic viscosity [m²/s], Prandtl number) of dry air at 1 atm.

    Sutherland's law for viscosity (White, Viscous Fluid Flow, table 1-2) and conductivity (table 1-3).
    """
    kelvin = film_c + ZERO_C_K
    shape = (kelvin / 273.0) ** 1.5
    viscosity = 1.716e-5 * (273.0 + 111.0) * shape / (kelvin + 111.0)
    conductivity = 0.0241 * (273.0 + 194.0) * shape / (kelvin + 194.0)
    density = PRESSURE_PA / (GAS_AIR_J_KG_K * kelvin)
    return conductivity, viscosity / density, viscosity * CP_AIR_J_KG_K / conductivity


def nusselt_free(rayleigh: Floats, prandtl: Floats) -> Floats:
    """Free convection round a long horizontal cylinder; Churchill and Chu 1975."""
    shape = (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)
    result: Floats = (0.60 + 0.387 * rayleigh ** (1 / 6) / shape) ** 2
    return result


def nusselt_forced(reynolds: Floats, prandtl: Floats) -> Floats:
    """Cross flow over a cylinder; Churchill and Bernstein 1977, for Re·Pr > 0.2."""
    lead = 0.62 * np.sqrt(reynolds) * np.cbrt(prandtl) / (1 + (0.4 / prandtl) ** (2 / 3)) ** 0.25
    result: Floats = 0.3 + lead * (1 + (reynolds / 282_000) ** 0.625) ** 0.8
    return result


def film_w_m2k(
    diameter_m: Floats, rise_k: Floats, ambient_c: Floats, air_m_s: Floats | float = 0.0, pressure: Floats | float = 1.0
) -> Floats:
    """Total film coefficient: convection (free and forced add as cubes) plus radiation; pressure over that at the
    sea."""
    rise = np.maximum(rise_k, RISE_LEAST_K)
    film = ambient_c + rise / 2
    k, nu, pr = air_properties(film)
    nu = nu / pressure
    rayleigh = G_M_S2 * rise * diameter_m**3 * pr / ((film + ZERO_C_K) * nu**2)
    free = nusselt_free(rayleigh, pr)
    if np.count_nonzero(air_m_s):
        free = np.cbrt(free**3 + nusselt_forced(np.maximum(air_m_s, 1e-9) * diameter_m / nu, pr) ** 3)
    convection = free * k / diameter_m
    hot, cold = ambient_c + rise + ZERO_C_K, ambient_c + ZERO_C_K
    radiation = EMISSIVITY_JACKET * STEFAN_BOLTZMANN * (hot**2 + cold**2) * (hot + cold)
    result: Floats = convection + radiation
    return result


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
    per_k = np.pi * diameter_m

    def given_off(log_rise: Floats) -> Floats:
        rise = np.exp(log_rise)
        result: Floats = np.log(per_k * rise * film_w_m2k(diameter_m, rise, ambient_c, air_m_s, pressure))
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
