"""Heating in time: warm-up under a surge, the hottest instant of a repeated duty, the adiabatic limit."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from umber_trunk.core.catalog.conductors import Conductor, Metal
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


def adiabatic_rise_k(
    extra_a2: Floats, seconds: Floats, celsius: Floats, ohm_per_m_20: Floats, alpha_per_k: Floats, capacity_j_mk: Floats
) -> Floats:
    """Rise in a time without loss, for the square of the current above what is lost already (arrays alike).

    C·dT/dt = r₂₀·(1 + α·(T − 20))·(I² − I₀²) has T − T₀ = (1 + α·(T₀ − 20))/α·(e^(α·r₂₀·(I² − I₀²)·t/C) − 1).
    """
    exponent = np.minimum(alpha_per_k * ohm_per_m_20 * np.maximum(extra_a2, 0.0) * seconds / capacity_j_mk, 20.0)
    result: Floats = (1 + alpha_per_k * (celsius - 20)) / alpha_per_k * np.expm1(exponent)
    return result


class WarmUp:
    """One lone wire's temperature in time: C·dT/dt = I²R(T) − loss(T), loss tabled once."""

    def __init__(self, wire: Conductor, ambient_c: float, air_m_s: float = 0.0) -> None:
        self.capacity = heat_capacity_j_mk(wire)
        self.r20, self.alpha = wire.ohm_per_m_20, wire.metal.alpha_per_k
        self.ambient_c = ambient_c
        body = WireBodies.of([wire])
        watts = np.concatenate([[0.0], np.geomspace(1e-4, 5e4, 400)])
        rise = surface_rise_k(
            watts,
            np.broadcast_to(body.outer_m, watts.shape),
            np.full_like(watts, ambient_c),
            air_m_s,
        )
        self._watts = watts
        self._conductor_c = ambient_c + rise + watts * body.jacket_km_w[0]
        per_watt = self.capacity * (self._conductor_c[1:] - ambient_c) / watts[1:]
        normal = self._conductor_c[1:] < ambient_c + 400
        self._slowest_s, self._quickest_s = float(per_watt.max()), float(per_watt[normal].min())

    def loss_w_m(self, conductor_c: float) -> float:
        """What the wire gives off at a conductor temperature (quasi-steady jacket and film)."""
        return float(np.interp(conductor_c, self._conductor_c, self._watts))

    def settled(self, amps: float) -> float:
        """Steady temperature of a current held for good."""
        low, high = self.ambient_c, 2000.0
        for _ in range(50):
            middle = (low + high) / 2
            low, high = (middle, high) if self._rate(amps, middle) > 0 else (low, middle)
        return low

    def _rate(self, amps: float, temperature: float) -> float:
        made = amps * amps * self.r20 * (1 + self.alpha * (temperature - 20))
        return (made - self.loss_w_m(temperature)) / self.capacity

    def after(self, start_c: float, amps: float, seconds: float) -> float:
        """Temperature after `seconds` of constant current; fourth-order Runge–Kutta, stops at 2000 °C."""
        if seconds <= 0:
            return start_c
        if seconds > 14 * self._slowest_s:
            return self.settled(amps)
        pace = self._steps(amps, seconds)
        dt, now = seconds / pace, start_c
        for _ in range(pace):
            k1 = self._rate(amps, now)
            k2 = self._rate(amps, now + dt / 2 * k1)
            k3 = self._rate(amps, now + dt / 2 * k2)
            k4 = self._rate(amps, now + dt * k3)
            now += dt / 6 * (k1 + 2 * k2 + 2 * k3 + k4)
            if now > 2000:
                return 2000.0
        return now

    def _steps(self, amps: float, seconds: float) -> int:
        """Steps of at most 1/8 of the shortest time constant and 15 K of adiabatic heating."""
        adiabatic = amps * amps * self.r20 * 3 / self.capacity * seconds
        return int(np.clip(max(8 * seconds / self._quickest_s, adiabatic / 15), 6, 2000))

    def hottest_in_duty(self, amps: float, on_s: float, period_s: float, base_a: float = 0.0) -> float:
        """Hottest instant once the cycle repeats itself: the start that one period leads back to."""

        def gain(start: float) -> float:
            on = self.after(start, amps, on_s)
            return self.after(on, base_a, period_s - on_s) - start

        low, high = self.ambient_c, self.settled(max(amps, base_a))
        if gain(low) <= 1e-6 or high - low < 1e-6:
            return self.after(low, amps, on_s)
        start = brentq(gain, low, high + 1e-6, xtol=1e-3) if gain(high + 1e-6) < 0 else high
        return self.after(float(start), amps, on_s)


def adiabatic_k(metal: Metal, start_c: float, final_c: float) -> float:
    """k of S = I·√t/k [A·√s/mm²]; IEC 60724. Copper 70 → 160 °C gives 115, 90 → 250 °C gives 143."""
    volumetric = {"aluminium": 2.5e-3}.get(metal.id, metal.density_kg_m3 * metal.heat_j_kg_k * 1e-9)
    if metal.id in ("copper", "tinned"):
        volumetric = 3.45e-3
    rho_mm = metal.rho20_ohm_m * 1e3
    head = volumetric * (metal.beta_c + 20) / rho_mm
    return float(np.sqrt(head * np.log((final_c + metal.beta_c) / (start_c + metal.beta_c))))
