"""One insulated conductor in air: its temperature for a current and its current for a temperature."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.film import surface_rise_k

Floats = NDArray[np.float64]
HOTTEST_C = 2000.0  # beyond this the wire has long melted; figures stop here


@dataclass(frozen=True)
class WireBodies:
    """Columns of equal length n: what heat needs to know of n wires.

    ohm_per_m_20 and alpha give R(T); conductor and outer diameters in m; k of the jacket in W/m·K.
    """

    ohm_per_m_20: Floats
    alpha_per_k: Floats
    conductor_m: Floats
    outer_m: Floats
    jacket_w_mk: Floats

    @classmethod
    def of(cls, wires: list[Conductor]) -> WireBodies:
        """The columns for these conductors."""
        rows = [
            (
                w.ohm_per_m_20,
                w.metal.alpha_per_k,
                w.conductor_mm / 1e3,
                w.outer_mm / 1e3,
                w.jacket.k_w_mk,
            )
            for w in wires
        ]
        table = np.array(rows, dtype=float).reshape(len(rows), 5)
        return cls(*(np.ascontiguousarray(table[:, column]) for column in range(5)))

    def rows(self, at: NDArray[np.intp]) -> WireBodies:
        """The columns of some wires."""
        return WireBodies(
            self.ohm_per_m_20[at], self.alpha_per_k[at], self.conductor_m[at], self.outer_m[at], self.jacket_w_mk[at]
        )

    def ohm_per_m(self, conductor_c: Floats) -> Floats:
        """Resistance per metre at a temperature [°C]."""
        result: Floats = self.ohm_per_m_20 * (1 + self.alpha_per_k * (conductor_c - 20.0))
        return result

    @property
    def jacket_km_w(self) -> Floats:
        """Thermal resistance of each wire's own jacket, ln(D/d)/2πk [K·m/W]."""
        result: Floats = np.log(self.outer_m / self.conductor_m) / (2 * np.pi * self.jacket_w_mk)
        return result


def conductor_c(amps: Floats, wires: WireBodies, ambient_c: Floats, air_m_s: Floats | float = 0.0) -> Floats:
    """Steady temperature [°C] of each conductor alone in still (or moving) air, shape (n,).

    I²R(Tc) = π·D·h(Ts)·(Ts − Ta); Tc − Ts = q·ln(D/d)/2πk. Fixed point with Aitken's step: each pass
    lets the loss follow the resistance, a contraction for every physical case.
    """
    ambient = np.broadcast_to(np.asarray(ambient_c, dtype=float), np.shape(amps)).astype(float)
    temperature = ambient.copy()

    def passed(now: Floats) -> Floats:
        watts = np.square(amps) * wires.ohm_per_m(np.minimum(now, HOTTEST_C))
        surface = surface_rise_k(watts, wires.outer_m, ambient, air_m_s)
        result: Floats = np.minimum(ambient + surface + watts * wires.jacket_km_w, HOTTEST_C)
        return result

    for _ in range(40):
        first = passed(temperature)
        second = passed(first)
        bend = second - 2 * first + temperature
        safe = np.abs(bend) > 1e-9
        step = np.where(safe, np.square(first - temperature) / np.where(safe, bend, 1.0), 0.0)
        better = np.where(safe, temperature - step, second)
        better = np.clip(better, ambient, HOTTEST_C)
        change = float(np.max(np.abs(better - temperature), initial=0.0))
        temperature = better
        if change < 1e-4:
            break
    return temperature


def watts_at(limit_c: Floats, wires: WireBodies, ambient_c: Floats, air_m_s: Floats | float = 0.0) -> Floats:
    """Loss per metre [W/m] that holds each lone wire's conductor at `limit_c`; 0 at or under ambient."""
    headroom = np.asarray(limit_c, dtype=float) - ambient_c
    low, high = np.zeros_like(headroom), np.maximum(headroom, 0) / wires.jacket_km_w
    for _ in range(60):
        middle = (low + high) / 2
        rise = surface_rise_k(middle, wires.outer_m, ambient_c, air_m_s) + middle * wires.jacket_km_w
        low, high = np.where(rise < headroom, middle, low), np.where(rise < headroom, high, middle)
        if float(np.max(high - low, initial=0.0)) < 1e-9:
            break
    result: Floats = np.where(headroom > 0, (low + high) / 2, 0.0)
    return result


def ampacity_a(limit_c: Floats, wires: WireBodies, ambient_c: Floats, air_m_s: Floats | float = 0.0) -> Floats:
    """Current [A] that holds each lone conductor at `limit_c`, shape (n,)."""
    watts = watts_at(limit_c, wires, ambient_c, air_m_s)
    result: Floats = np.sqrt(watts / wires.ohm_per_m(np.asarray(limit_c, dtype=float)))
    return result


METAL_W_MK = {"copper": 390.0, "tinned": 390.0, "aluminium": 230.0, "cca10": 240.0, "cca15": 245.0}
"""Heat conducted along the metal, at 20 °C."""


def fin_rise_k(watts: Floats, wires: list[Conductor], thermal_km_w: Floats) -> Floats:
    """Rise of each wire where a joint loses `watts` into it: the heat flows off along the metal, which gives it to the
    air on its way, a long fin: ΔT = P/√(kA/R′), R′ the wire's thermal resistance per metre (arrays (n,))."""
    metal = np.array([METAL_W_MK.get(wire.metal.id, 230.0) * wire.size.area_mm2 * 1e-6 for wire in wires])
    result: Floats = watts / np.sqrt(metal / thermal_km_w)
    return result
