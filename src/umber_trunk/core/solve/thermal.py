"""Temperatures of all wires of a harness: each in every bundle it runs through.

Segments with the same number of conductors are solved as one batch of arrays, lone wires as one column.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, rim_film_w_m2k, smeared_rise_k
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.response import Response, lone_response
from umber_trunk.core.physics.surroundings import sun_rise_k
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk
from umber_trunk.core.solve.heat_plan import ThermalPlan
from umber_trunk.core.solve.plant import Plant

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class Times:
    """How a plan's wires follow a duty: time constants [s] of each pair above its rim and of the bundle round it. Their
    film is a lively one, so both come out short and peaks on the safe side. Lone wires follow their own answer in time,
    with the film they really have."""

    def __init__(self, plan: ThermalPlan, plant: Plant) -> None:
        wire, bundles = plan.wire, plan.bundles
        capacity, whole = (
            np.array([heat_capacity_j_mk(c, share) for c in plant.conductors])[wire] for share in (0.5, 1.0)
        )
        self.plan, self.plant = plan, plant
        self.jacket = plant.bodies.jacket_km_w[wire]
        film = 1 / (2 * np.pi * bundles.radius_m * USUAL_FILM_W_M2K)
        stored = np.bincount(plan.bundle, whole, minlength=len(film))
        self.bulk_s = (stored * film)[plan.bundle]
        self.own_s = capacity * (self.jacket + plan.own_km_w)
        made = [plant.conductors[row] for row in wire[plan.lone].tolist()]
        self.lone = (
            Response.stacked([lone_response(c.size.label, c.metal.id, c.make.id, c.jacket.id) for c in made])
            if made
            else None
        )
        self.outside = film[plan.bundle[plan.lone]]

    def factors(self, on_s: float, period_s: float) -> tuple[Floats, Floats]:
        """(near, bulk) of every pair for one duty."""
        near, bulk = duty_factor(on_s, period_s, self.own_s), duty_factor(on_s, period_s, self.bulk_s)
        if self.lone is not None:
            lone = self.plan.lone
            near[lone], bulk[lone] = self.lone.lone_duty(self.jacket[lone], self.outside, on_s, period_s)
        return near, bulk

    def follow(self, bulk_a: Floats, pair_c: Floats, ambient_c: float | None) -> None:
        """Takes the film of lone wires at the loss they now have."""
        lone, bundles = self.plan.lone, self.plan.bundles
        if self.lone is None:
            return
        at, rows = self.plan.bundle[lone], self.plan.wire[lone]
        lost = np.square(bulk_a[lone] / self.plant.parallel[rows]) * self.plant.bodies.rows(rows).ohm_per_m(
            np.minimum(pair_c[lone], HOTTEST_C)
        )
        air = bundles.ambient_c[at] if ambient_c is None else np.full(len(at), ambient_c)
        radius, sleeve = bundles.radius_m[at], bundles.sleeve_m[at]
        film = rim_film_w_m2k(
            np.maximum(lost, 1e-6),
            radius,
            air,
            bundles.rim_share[at],
            sleeve,
            bundles.air_m_s[at],
            bundles.outside.at(at),
        )
        self.outside = 1 / (2 * np.pi * radius * film)


@dataclass(frozen=True)
class Warming:
    """Currents that heat like the hottest instant (pairs,): a wire's own heat near it, and all heat elsewhere,
    where the bundle's slower time constant evens it out. The same array where no duty runs."""

    near_a: Floats
    bulk_a: Floats


def warming(plan: ThermalPlan, shares_a: Floats, classes: list[tuple[float, float]], times: Times | None) -> Warming:
    """From each wire's current by duty class (wires, 1 + classes), the first column continuous. All duties are
    taken to peak together. A finite-volume run in time of the same section stays under this."""
    near = bulk = shares_a[plan.wire, 0]
    for number, (on_s, period_s) in enumerate(classes, 1):
        assert times is not None
        amps = shares_a[plan.wire, number]
        own, all_ = times.factors(on_s, period_s)
        near, bulk = near + amps * own, bulk + amps * all_
    return Warming(near, bulk)


@dataclass(frozen=True)
class _Losses:
    """Air of each bundle; losses of each pair [W/m] as they count in its bundle, and what its own loss is above
    that at its hottest instant; film of each rim."""

    air_c: Floats
    bulk: Floats
    swing: Floats
    film: Floats


def _losses(plan: ThermalPlan, plant: Plant, heat: Warming, pair_c: Floats, ambient_c: float | None) -> _Losses:
    bodies, wire, bundles = plant.bodies, plan.wire, plan.bundles
    air = bundles.ambient_c if ambient_c is None else np.full_like(bundles.ambient_c, ambient_c)
    ohm = bodies.ohm_per_m_20[wire] * (1 + bodies.alpha_per_k[wire] * (np.minimum(pair_c, HOTTEST_C) - 20))
    per_a2 = ohm / np.square(plant.parallel[wire])
    bulk = np.square(heat.bulk_a) * per_a2
    swing = np.square(heat.near_a) * per_a2 - bulk
    total: Floats = np.bincount(plan.bundle, bulk, minlength=len(air)).astype(float)
    rim = (bundles.radius_m + bundles.sleeve_m, air, bundles.rim_share, bundles.air_m_s, bundles.outside)
    film = rim_film_w_m2k(
        total, bundles.radius_m, air, bundles.rim_share, bundles.sleeve_m, bundles.air_m_s, bundles.outside
    )
    return _Losses(air + sun_rise_k(total, *rim), bulk, swing, film)


def pair_temperatures(
    plan: ThermalPlan, plant: Plant, heat: Warming, pair_c: Floats, ambient_c: float | None
) -> Floats:
    """One pass: losses at the temperatures `pair_c`, then the temperatures those losses give (pairs,)."""
    lost = _losses(plan, plant, heat, pair_c, ambient_c)
    rise = np.zeros(len(lost.bulk))
    alone = plan.bundle[plan.lone]
    rise[plan.lone] = lost.bulk[plan.lone] / (2 * np.pi * plan.bundles.radius_m[alone] * lost.film[alone])
    for batch in plan.batches:
        film = lost.film[batch.bundles]
        if batch.sections is not None:
            rise[batch.pairs] = batch.sections.rise_k(lost.bulk[batch.pairs], film)
            continue
        for pairs, one, radii, stuff in zip(batch.pairs, film, batch.radii_m, batch.stuff_w_mk, strict=True):
            rise[pairs] = smeared_rise_k(lost.bulk[pairs], radii, float(one), float(stuff))
    if heat.near_a is not heat.bulk_a:
        rise += lost.swing * plan.own_km_w
    jacket = (lost.bulk + lost.swing) * plant.bodies.jacket_km_w[plan.wire]
    air = lost.air_c[plan.bundle]
    result: Floats = np.clip(air + rise + jacket, air, HOTTEST_C)
    return result


@dataclass(frozen=True)
class Shares:
    """Who heats whom at a solved state: for each pair the pairs beside it and the kelvin each gives it, its
    own jacket counted with its own."""

    beside: dict[int, Ints]
    kelvin: dict[int, Floats]


def heat_shares(
    plan: ThermalPlan, plant: Plant, heat: Warming, pair_c: Floats, ambient_c: float | None, wanted: Ints
) -> Shares:
    """The shares of the `wanted` pairs; those in bundles too large to resolve are left out."""
    lost = _losses(plan, plant, heat, pair_c, ambient_c)
    alone = (lost.bulk + lost.swing) * plant.bodies.jacket_km_w[plan.wire] + lost.swing * plan.own_km_w
    rim_km_w = 1 / (2 * np.pi * plan.bundles.radius_m * lost.film)
    shares = Shares({}, {})
    for pair in np.intersect1d(wanted, plan.lone).tolist():
        own = lost.bulk[pair] * rim_km_w[plan.bundle[pair]] + alone[pair]
        shares.beside[pair], shares.kelvin[pair] = np.array([pair]), np.array([own])
    for batch in plan.batches:
        if batch.sections is None:
            continue
        at, place = np.nonzero(np.isin(batch.pairs, wanted))
        response = batch.sections.response_km_w(lost.film[batch.bundles]) if len(at) else np.zeros(0)
        for section, row in zip(at.tolist(), place.tolist(), strict=True):
            pairs = batch.pairs[section]
            kelvin = (response[section, row] + rim_km_w[batch.bundles[section]]) * lost.bulk[pairs]
            kelvin[row] += alone[pairs[row]]
            shares.beside[int(pairs[row])], shares.kelvin[int(pairs[row])] = pairs, kelvin
    return shares
