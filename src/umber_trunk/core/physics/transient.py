"""Heating in time, in its simplest forms: stored heat and the hottest instant of a repeated duty."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.constants import JACKET_DENSITY_KG_M3, JACKET_HEAT_J_KG_K
from umber_trunk.core.physics.film import surface_rise_k
from umber_trunk.core.physics.heat import WireBodies

Floats = NDArray[np.float64]


def heat_capacity_j_mk(wire: Conductor, jacket_share: float = 0.5) -> float:
    """Heat stored per metre and kelvin: conductor plus half the jacket, which runs cooler; inside a bundle the
    whole jacket warms along."""
    metal = wire.kg_per_m * wire.metal.heat_j_kg_k
    ring_m2 = np.pi / 4 * (wire.outer_mm**2 - wire.conductor_mm**2) * 1e-6
    return float(metal + jacket_share * ring_m2 * JACKET_DENSITY_KG_M3 * JACKET_HEAT_J_KG_K)


def thermal_resistance_km_w(watts_per_m: Floats, wires: WireBodies, ambient_c: Floats) -> Floats:
    """Rise per W/m of a lone wire at that loss; the loss is floored at 0.1 W/m."""
    watts = np.maximum(watts_per_m, 0.1)
    rise = surface_rise_k(watts, wires.outer_m, ambient_c)
    result: Floats = rise / watts + wires.jacket_km_w
    return result


def duty_factor(on_s: float, period_s: float, tau_s: Floats) -> Floats:
    """Continuous current that heats like the hottest instant of a duty, over the duty's own current.

    A first-order body's periodic peak is (1 − e^(−on/τ))/(1 − e^(−period/τ)) of its full rise, and the
    rise goes with the current's square. Tends to √(on/period) for short periods, to 1 for long ones.
    """
    peak = np.expm1(-on_s / tau_s) / np.expm1(-period_s / tau_s)
    result: Floats = np.sqrt(peak)
    return result


def rms_factor(on_s: float | None, period_s: float | None) -> float:
    """√(on/period), the least a duty can heat; 1 for a load without one."""
    if on_s is None or period_s is None or on_s >= period_s:
        return 1.0
    return float((on_s / period_s) ** 0.5)
