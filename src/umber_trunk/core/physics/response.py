"""How a wire warms in time: its rise per watt lost in it, S(t) [K·m/W], as a sum of exponentials.

A wire is its metal and shells of its jacket, thin ones next to the metal, so that the jacket stores no heat it hasn't
had time to take (depth about √(αt)). Alone it gives off heat through its film. In a bundle the shells end at the
wire's surface, and the surfaces exchange heat as the steady response matrix of the section says: its inverse is the
conductance between them, every wire's own capacity sits behind its jacket. Eigenvalues of that network give S(t)
exactly.

Resistance rises with temperature. For S growing like t^p about the time asked for, I²r(1 + αθ) driving θ has the
solution θ = (1/α)·Σ (α·I²r·S)^k Γ(1+p)^k/Γ(1+kp): the exponential law where nothing escapes (p = 1), the geometric
series where all is steady (p = 0).
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import lru_cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, conductor
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, Sections
from umber_trunk.core.physics.constants import JACKET_DENSITY_KG_M3, JACKET_HEAT_J_KG_K

Floats = NDArray[np.float64]
SHELLS, GROWTH = 9, 1.5
"""Shells a lone wire's insulation is cut into, each so many times thicker than the one inside it."""
BUNDLED_SHELLS = 3
"""The same for a wire among others, whose own insulation matters less."""
TERMS = 48
"""Terms of the sum in `fed_back`."""
KEPT_MODES = 20
"""Modes of a wire that are kept by themselves; the rest is one."""


def shells_of(wire: Conductor, count: int) -> tuple[Floats, Floats]:
    """(capacities [J/m·K] of metal and shells, resistances [K·m/W] between them and to the surface), inside out."""
    core, outer = wire.conductor_mm / 2e3, wire.outer_mm / 2e3
    thick = GROWTH ** np.arange(count)
    edges = core + (outer - core) * np.concatenate([[0.0], np.cumsum(thick)]) / thick.sum()
    middle = np.sqrt(edges[:-1] * edges[1:])
    stored = np.pi * (edges[1:] ** 2 - edges[:-1] ** 2) * JACKET_DENSITY_KG_M3 * JACKET_HEAT_J_KG_K
    places = np.concatenate([[core], middle, [outer]])
    between = np.log(places[1:] / places[:-1]) / (2 * np.pi * wire.jacket.k_w_mk)
    return np.concatenate([[wire.kg_per_m * wire.metal.heat_j_kg_k], stored]), between


def _chain(wire: Conductor, count: int, film_w_mk: float) -> tuple[Floats, Floats]:
    """(conductance matrix, capacities) of one wire from metal to air, film_w_mk its film per metre and kelvin."""
    stored, between = shells_of(wire, count)
    n = len(stored)
    matrix = np.zeros((n, n))
    for at in range(n - 1):
        siemens = 1 / between[at]
        matrix[at : at + 2, at : at + 2] += siemens * np.array([[1, -1], [-1, 1]])
    matrix[-1, -1] += 1 / (between[-1] + 1 / film_w_mk)
    return matrix, stored


@dataclass(frozen=True)
class Response:
    """S(t) of m wires as sums of modes, rates [1/s] and parts [K·m/W]. The slowest, that of the whole bundle's or lone
    wire's film, is each wire's own, (m,); the faster ones are those of its `kind` (m,), a row of (d, N): most wires are
    like many others."""

    slow_rate: Floats
    slow_part: Floats
    kind: NDArray[np.intp]
    rate: Floats
    part: Floats

    @classmethod
    def of(cls, rate: Floats, part: Floats) -> Response:
        """From the modes of d wires (d, 1 + N), the slowest first."""
        return cls(rate[:, 0], part[:, 0], np.arange(len(rate)), rate[:, 1:], part[:, 1:])

    @property
    def steady(self) -> Floats:
        """S after a long time (m,)."""
        result: Floats = self.slow_part + self.part.sum(axis=1)[self.kind]
        return result

    def with_steady(self, steady: Floats) -> Response:
        """The same with another film: the slowest part grows or shrinks, its first seconds stay."""
        slow = np.maximum(self.slow_part + steady - self.steady, 0.05 * self.slow_part)
        return replace(self, slow_rate=self.slow_rate * self.slow_part / slow, slow_part=slow)

    def at(self, seconds: Floats) -> tuple[Floats, Floats]:
        """(S, p) at times (k,) or (m, k): the rise per watt, and its growth as a power of time. Like wires at like
        times are worked out once; in the last column every wire may have a time of its own."""
        times = np.asarray(seconds, dtype=float)
        times = np.broadcast_to(times, (len(self.kind), times.shape[-1]))
        grown, slope = _grown(self.slow_rate[:, None], self.slow_part[:, None], times)
        for columns in (slice(None, -1), slice(-1, None)) if times.shape[1] > 1 else (slice(None),):
            first, like = self._alike(times[:, columns])
            rises, slopes = _grown(self.rate[self.kind[first]], self.part[self.kind[first]], times[first, columns])
            grown[:, columns] += rises[like]
            slope[:, columns] += slopes[like]
        return grown, np.clip(slope / np.maximum(grown, 1e-12), 0.0, 1.0)

    def _alike(self, times: Floats) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """(a wire of each kind and row of times that there is (r,), which of those each wire is like (m,))."""
        everyone = np.arange(len(times))
        mixed = times @ np.sqrt(np.arange(2.0, 2.0 + times.shape[1]))
        _, first, like = np.unique(self.kind + 1j * mixed, return_index=True, return_inverse=True)
        return (first, like) if np.array_equal(times[first[like]], times) else (everyone, everyone)

    def periodic(self, on_s: float, period_s: float) -> Floats:
        """Hottest instant of a repeated duty, per watt of its on-time (m,)."""
        fast = (self.part * _duty(self.rate, on_s, period_s)).sum(axis=1)
        result: Floats = self.slow_part * _duty(self.slow_rate, on_s, period_s) + fast[self.kind]
        return result

    def lone_duty(
        self, jacket_km_w: Floats, outside_km_w: Floats, on_s: float, period_s: float
    ) -> tuple[Floats, Floats]:
        """(near, bulk) of lone wires (m,): continuous currents over the duty's own that heat a wire above its surface,
        and its surface above the air, as the hottest instant does; outside_km_w is the film's resistance at that
        loss."""
        now = self.with_steady(jacket_km_w + outside_km_w)
        slow = _duty(now.slow_rate, on_s, period_s)
        near = np.maximum(now.periodic(on_s, period_s) - slow * outside_km_w, 0.0) / jacket_km_w
        return np.sqrt(near), np.sqrt(slow)

    @classmethod
    def stacked(cls, parts: list[Response]) -> Response:
        """Several as one; all have the same number of modes."""
        before = np.cumsum([0, *(len(one.rate) for one in parts[:-1])])
        moved = [replace(one, kind=one.kind + offset) for one, offset in zip(parts, before, strict=True)]
        return cls(*(np.concatenate([getattr(one, field.name) for one in moved]) for field in fields(cls)))

    def rows(self, at: NDArray[np.intp]) -> Response:
        """Some of the wires."""
        return replace(self, slow_rate=self.slow_rate[at], slow_part=self.slow_part[at], kind=self.kind[at])


def _grown(rate: Floats, part: Floats, times: Floats) -> tuple[Floats, Floats]:
    """(rise per watt, its slope over the logarithm of time), (m, k), of modes (m, n) at times (m, k)."""
    passed = np.minimum(rate[:, :, None] * times[:, None, :], 700.0)
    gone = -np.expm1(-passed)
    return np.einsum("mn,mnk->mk", part, gone), np.einsum("mn,mnk->mk", part, passed * (1.0 - gone))


def _duty(rate: Floats, on_s: float, period_s: float) -> Floats:
    result: Floats = np.expm1(-np.minimum(rate * on_s, 700.0)) / np.expm1(-np.minimum(rate * period_s, 700.0))
    return result


@lru_cache(maxsize=4096)
def lone_response(size: str, metal: str, make: str, jacket: str) -> Response:
    """S(t) of a wire alone in air, one row."""
    wire = conductor(size, metal, make, jacket)
    matrix, stored = _chain(wire, SHELLS, np.pi * wire.outer_mm / 1e3 * USUAL_FILM_W_M2K)
    return _modes(matrix, stored, np.array([0]))


def _modes(matrix: Floats, stored: Floats, wanted: NDArray[np.intp]) -> Response:
    root = np.sqrt(stored)
    rates, shapes = np.linalg.eigh(matrix / root[:, None] / root[None, :])
    rates = np.maximum(rates, 1e-9)
    part = np.square(shapes[wanted] / root[wanted, None]) / rates
    return _trimmed(np.broadcast_to(rates, part.shape), part)


def section_response(sections: Sections, wires: list[Conductor]) -> Response:
    """S(t) of every wire of one section (its first), in the section's order; (n, N)."""
    n = len(wires)
    rim = 1 / (2 * np.pi * float(sections.radius_m[0]) * USUAL_FILM_W_M2K)
    steady = sections.one(0).response_km_w(np.array([USUAL_FILM_W_M2K]))[0] + rim
    steady = (steady + steady.T) / 2
    values, vectors = np.linalg.eigh(steady)
    between = (vectors / np.maximum(values, 1e-3 * values[-1] / n)) @ vectors.T
    each = BUNDLED_SHELLS + 1
    size = n * (each + 1)
    matrix, stored = np.zeros((size, size)), np.full(size, 1e-3)
    surface = np.arange(n) * (each + 1) + each
    for at, wire in enumerate(wires):
        capacity, resistance = shells_of(wire, BUNDLED_SHELLS)
        first = at * (each + 1)
        stored[first : first + each] = capacity
        for step in range(each):
            place = first + step
            matrix[place : place + 2, place : place + 2] += np.array([[1, -1], [-1, 1]]) / resistance[step]
    matrix[np.ix_(surface, surface)] += between
    return _modes(matrix, stored, surface - each)


def log_gamma(z: Floats) -> Floats:
    """ln Γ(z) for z ≥ 1, by Stirling's series at z + 7 (within 1e-14; Abramowitz & Stegun 6.1.15, 6.1.40).
    SciPy has it too, but loading that is a good part of what a command takes."""
    up = z + 7
    below = z * (z + 1) * (z + 2) * (z + 3) * (z + 4) * (z + 5) * (z + 6)
    square = 1 / (up * up)
    series = 1 / 1680 - square * (1 / 1188 - square * (691 / 360_360))
    series = (1 / 12 - square * (1 / 360 - square * (1 / 1260 - square * series))) / up
    result: Floats = (up - 0.5) * np.log(up) - up + 0.5 * np.log(2 * np.pi) + series - np.log(below)
    return result


def fed_back(x: Floats, p: Floats) -> Floats:
    """Σ_{k ≥ 1} x^k Γ(1+p)^k/Γ(1+kp): α times the rise for x = α·q·S; infinite where it runs away."""
    x, p = np.asarray(x, dtype=float), np.asarray(p, dtype=float)
    k = np.arange(1, TERMS + 1)
    with np.errstate(divide="ignore"):
        terms = k * (np.log(np.maximum(x, 1e-300))[..., None] + log_gamma(1 + p)[..., None])
        terms -= log_gamma(1 + k * p[..., None])
    total = np.exp(np.minimum(terms, 60.0)).sum(axis=-1)
    result: Floats = np.where(x <= 0, x, np.where(terms[..., -1] > np.log(1e-3), np.inf, total))
    return result


def rise_k(
    extra_a2: Floats, amps2: Floats, ohm_per_m: Floats, alpha_per_k: Floats, grown: Floats, power: Floats
) -> Floats:
    """Rise after a step to a current: amps2 its square, extra_a2 that above what ran before; ohm_per_m and
    alpha_per_k at the starting temperature; S and p from `Response.at`."""
    x = alpha_per_k * ohm_per_m * amps2 * grown
    with np.errstate(invalid="ignore", divide="ignore"):
        factor = np.where(x > 1e-9, fed_back(x, power) / np.maximum(x, 1e-12), 1.0)
        # a step to no more than ran before adds nothing, even where what ran has no bound
        result: Floats = np.where(extra_a2 > 0, extra_a2 * ohm_per_m * grown * factor, 0.0)
    return result


_GRID_Y, _GRID_P = np.geomspace(1e-3, 20.0, 120), np.linspace(0.0, 1.0, 41)


def driven_table() -> Floats:
    """x/y on a grid of y and p, by bisection of `fed_back`: the table that ships is made by this."""
    y = np.broadcast_to(_GRID_Y[:, None], (len(_GRID_Y), len(_GRID_P)))
    low, high = np.zeros_like(y), y.copy()
    for _ in range(30):  # to a thousand-millionth
        middle = (low + high) / 2
        over = fed_back(middle, _GRID_P) > y
        low, high = np.where(over, low, middle), np.where(over, middle, high)
    result: Floats = high / y
    return result


@lru_cache(maxsize=1)
def _shipped_table() -> Floats:
    """The same, ready-made: working it out takes as long as solving a small harness."""
    with resources.files("umber_trunk").joinpath("data/figures/driven.npy").open("rb") as file:
        table: Floats = np.load(file, allow_pickle=False)
    return table


def driven(y: Floats, p: Floats) -> Floats:
    """The x that `fed_back` brings to y: ln(1 + y) at p = 1, y/(1 + y) at p = 0; from a table within 0.3 %."""
    y, p = np.broadcast_arrays(np.asarray(y, dtype=float), np.asarray(p, dtype=float))
    table = _shipped_table()
    across = np.clip(
        np.log(np.clip(y, _GRID_Y[0], _GRID_Y[-1]) / _GRID_Y[0]) / np.log(_GRID_Y[1] / _GRID_Y[0]),
        0,
        len(_GRID_Y) - 1.001,
    )
    along = np.clip(p, 0, 1) * (len(_GRID_P) - 1.001)
    i, j = across.astype(int), along.astype(int)
    u, v = across - i, along - j
    share = (1 - u) * ((1 - v) * table[i, j] + v * table[i, j + 1]) + u * (
        (1 - v) * table[i + 1, j] + v * table[i + 1, j + 1]
    )
    result: Floats = y * share
    return result


def _trimmed(rate: Floats, part: Floats) -> Response:
    """KEPT_MODES of each wire's largest parts, the slowest first, and the rest as one: sums and first slopes stay."""
    m, count = part.shape
    kept_rate, kept_part = np.ones((m, KEPT_MODES + 2)), np.zeros((m, KEPT_MODES + 2))
    kept_rate[:, 0], kept_part[:, 0] = rate[:, 0], part[:, 0]
    if count > 1:
        order = np.argsort(-part[:, 1:], axis=1) + 1
        most = order[:, : min(KEPT_MODES, count - 1)]
        kept_rate[:, 1 : 1 + most.shape[1]] = np.take_along_axis(rate, most, axis=1)
        kept_part[:, 1 : 1 + most.shape[1]] = np.take_along_axis(part, most, axis=1)
        rest = order[:, KEPT_MODES:]
        if rest.shape[1]:
            left = np.take_along_axis(part, rest, axis=1)
            total = left.sum(axis=1)
            kept_part[:, -1] = total
            kept_rate[:, -1] = (left * np.take_along_axis(rate, rest, axis=1)).sum(axis=1) / np.maximum(total, 1e-15)
    return Response.of(kept_rate, kept_part)
