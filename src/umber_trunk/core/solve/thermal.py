"""Temperatures of all wires of a harness: each in every bundle it runs through.

Segments with the same number of conductors are solved as one batch of arrays, lone wires as one column.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import (
    DENSE_MOST,
    USUAL_FILM_W_M2K,
    Sections,
    Strands,
    rim_film_w_m2k,
    smeared_radii_m,
    smeared_rise_k,
    smeared_w_mk,
)
from umber_trunk.core.physics.constants import FILLING_W_MK, ZERO_C_K
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.response import Response, lone_response
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.physics.surroundings import OPEN_AIR, Outside, Surroundings, sun_rise_k
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk
from umber_trunk.core.solve.clothing import clothed
from umber_trunk.core.solve.plant import Plant

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Batch:
    """s bundles of n conductors: their rows among the pairs (s, n) and among the bundles (s,).

    `sections` is None for bundles too large to resolve; `radii_m` (s, n) then places the wires on rings
    in a stuff of conductivity `stuff_w_mk` (s,).
    """

    pairs: Ints
    bundles: Ints
    sections: Sections | None
    radii_m: Floats
    stuff_w_mk: Floats


@dataclass(frozen=True)
class Bundles:
    """Columns over all stretches with wires, lone ones too: what the rim of each needs."""

    segment: list[str]
    ambient_c: Floats
    radius_m: Floats
    rim_share: Floats
    sleeve_m: Floats
    air_m_s: Floats
    outside: Outside


@dataclass(frozen=True)
class ThermalPlan:
    """Pairs: one row for each conductor in each stretch, with its wire, its bundle and its share of the
    wire's length. `lone` are the pairs with a stretch to themselves."""

    wire: Ints
    bundle: Ints
    weight: Floats
    lone: Ints
    bundles: Bundles
    batches: list[Batch]
    wires: int

    @property
    def ambient_c(self) -> Floats:
        """Ambient of each pair."""
        return self.bundles.ambient_c[self.bundle]

    @cached_property
    def places(self) -> dict[int, tuple[int, int, int]]:
        """Pair → (batch, section, place in it), for pairs in bundles that are resolved."""
        return {
            int(pair): (number, section, at)
            for number, batch in enumerate(self.batches)
            if batch.sections is not None
            for section, row in enumerate(batch.pairs.tolist())
            for at, pair in enumerate(row)
        }

    @cached_property
    def own_km_w(self) -> Floats:
        """Rise of each pair's surface over its rim per W/m of its own (pairs,); 0 for lone ones."""
        found = np.full(len(self.wire), 0.25 / (2 * np.pi * FILLING_W_MK))
        found[self.lone] = 0.0
        for batch in self.batches:
            if batch.sections is not None:
                found[batch.pairs] = np.maximum(batch.sections.own_km_w(), 0.0)
        return found

    def centres_m(self, bundle: int) -> tuple[Ints, Floats] | None:
        """Pairs in a bundle (n,) and where they lie in it (n, 2); None when it is too large to resolve."""
        alone = self.lone[self.bundle[self.lone] == bundle]
        if len(alone):
            return alone, np.zeros((1, 2))
        for batch in self.batches:
            at = np.flatnonzero(batch.bundles == bundle)
            if len(at):
                found = batch.sections
                return None if found is None else (batch.pairs[at[0]], found.centres_m[at[0]])
        return None

    def by_wire(self, pair_c: Floats) -> tuple[Floats, Floats]:
        """(hottest, length-weighted mean) conductor temperature of each wire."""
        hottest = np.full(self.wires, -np.inf)
        np.maximum.at(hottest, self.wire, pair_c)
        mean: Floats = np.bincount(self.wire, self.weight * pair_c, minlength=self.wires).astype(float)
        return hottest, mean


@dataclass(frozen=True)
class _Stretch:
    """A segment with the wire rows in it, one for each parallel conductor; "" for a wire not laid."""

    segment: str
    rows: list[int]
    length_m: float
    ambient_c: float
    sleeve_m: float
    air_m_s: float
    around: Surroundings = OPEN_AIR


def _stretches(plant: Plant) -> list[_Stretch]:
    index, project, shelf = plant.index, plant.design.project, plant.shelf
    found = []
    for segment in plant.design.segments:
        inside = [plant.row[wire] for wire in index.contents[segment.id] if wire in plant.row]
        rows = [row for row in inside for _ in range(plant.wires[row].parallel)]
        zone = index.zones.get(segment.zone or "")
        if rows:
            length = segment.measure.length_m
            air = zone.air_m_s if zone else 0.0
            worn = clothed(segment, shelf)
            before, covered, after = worn.part or (0.0, 0.0, 0.0)
            around = Surroundings(
                bool(zone and zone.enclosed) or worn.shut,
                segment.coiled_layers,
                zone.sun_w_m2 if zone else 0.0,
                zone.altitude_m if zone else 0.0,
                worn.bore_m,
                worn.tube_wall_m,
                covered,
                before,
                after,
                bool(zone and zone.enclosed),
            )
            found.append(_Stretch(segment.id, rows, length, index.ambient_c(segment), worn.wall_m, air, around))
    for row, wire in enumerate(plant.wires):
        if not index.routes[wire.id].segments:
            found.append(_Stretch("", [row] * wire.parallel, 1.0, project.ambient_c, 0.0, 0.0))
    return found


@dataclass(frozen=True)
class _Spread:
    """The stretches of a plant as columns: what doesn't change with sizes."""

    stretches: list[_Stretch]
    counts: list[int]
    wire: Ints
    bundle: Ints
    length: Floats
    first: Ints
    segment: list[str]
    ambient_c: Floats
    sleeve_m: Floats
    air_m_s: Floats
    outside: Outside

    @classmethod
    def of(cls, plant: Plant) -> _Spread:
        """Lays out pairs: one for each conductor in each stretch."""
        stretches = _stretches(plant)
        counts = [len(stretch.rows) for stretch in stretches]
        return cls(
            stretches,
            counts,
            np.array([row for stretch in stretches for row in stretch.rows], dtype=np.intp),
            np.repeat(np.arange(len(stretches)), counts),
            np.array([stretch.length_m for stretch in stretches]),
            np.concatenate([[0], np.cumsum(counts)]).astype(np.intp),
            [stretch.segment for stretch in stretches],
            np.array([stretch.ambient_c for stretch in stretches]),
            np.array([stretch.sleeve_m for stretch in stretches]),
            np.array([stretch.air_m_s for stretch in stretches]),
            Outside.of([stretch.around for stretch in stretches]),
        )


def plan_heat(plant: Plant) -> ThermalPlan:
    """Lays out pairs and bundles, and the wires in every bundle."""
    spread: _Spread = plant.index.once_wired(("stretches", plant.shelf), lambda: _Spread.of(plant))
    stretches, counts, wire, bundle, length, first = (
        spread.stretches,
        spread.counts,
        spread.wire,
        spread.bundle,
        spread.length,
        spread.first,
    )
    bundles = Bundles(
        spread.segment,
        spread.ambient_c,
        np.ones(len(stretches)),
        np.ones(len(stretches)),
        spread.sleeve_m,
        spread.air_m_s,
        _led(plant, wire, bundle, spread.outside),
    )
    batches = []
    for n in sorted(set(counts)):
        members = np.flatnonzero(np.array(counts) == n)
        pairs = first[members][:, None] + np.arange(n)
        if n == 1:
            bundles.radius_m[members] = plant.bodies.outer_m[wire[pairs[:, 0]]] / 2
            continue
        batches.append(_batch(plant, wire, members, pairs, bundles))
    weight = _whole(wire, length[bundle], len(plant.wires))
    lone = first[:-1][np.array(counts, dtype=int) == 1]
    return ThermalPlan(wire, bundle, weight, lone, bundles, batches, len(plant.wires))


LORENZ_W_OHM_K2 = 2.23e-8
"""Of copper at 0 °C (Kittel, Introduction to Solid State Physics, ch. 6; 2.33e-8 at 100 °C): a metal leads heat as it
leads current."""
LEADING_C = 50.0


def led_w_m_k(ohm_per_m_20: Floats, alpha_per_k: Floats) -> Floats:
    """What conductors lead along, conductivity times area: L·T over the resistance of a metre."""
    result: Floats = LORENZ_W_OHM_K2 * (LEADING_C + ZERO_C_K) / (ohm_per_m_20 * (1 + alpha_per_k * (LEADING_C - 20)))
    return result


def _led(plant: Plant, wire: Ints, bundle: Ints, outside: Outside) -> Outside:
    """With what the metal of every stretch leads along."""
    if not outside.covered_m.any():
        return outside
    led = led_w_m_k(plant.bodies.ohm_per_m_20, plant.bodies.alpha_per_k)[wire]
    return replace(outside, led_w_m_k=np.bincount(bundle, led, minlength=len(outside.bore_m)).astype(float))


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


def _batch(plant: Plant, wire: Ints, members: Ints, pairs: Ints, bundles: Bundles) -> Batch:
    """Bundles of one wire count; fills in their radii and rim shares. Thickest wires stand first in each, like
    ones by their ids, so that the list's order changes nothing."""
    bodies = plant.bodies
    rows, named = wire[pairs], np.argsort(np.argsort([one.id for one in plant.wires]))
    order = np.lexsort((named[rows], bodies.jacket_w_mk[rows], -bodies.conductor_m[rows], -bodies.outer_m[rows]))
    pairs = np.take_along_axis(pairs, order, axis=1)
    rows = wire[pairs]
    strands = Strands(bodies.outer_m[rows], bodies.conductor_m[rows], bodies.jacket_w_mk[rows])
    if pairs.shape[1] <= DENSE_MOST:
        sections = sections_of(strands)
        bundles.radius_m[members] = sections.radius_m
        bundles.rim_share[members] = sections.rim_share
        return Batch(pairs, members, sections, np.zeros((0, 0)), np.zeros(0))
    radii = np.array([smeared_radii_m(row) for row in strands.outer_m])
    bundles.radius_m[members] = radii[:, -1]
    stuff = [
        smeared_w_mk(
            Strands(strands.outer_m[[at]], strands.conductor_m[[at]], strands.jacket_w_mk[[at]]), radii[at, -1]
        )
        for at in range(len(members))
    ]
    return Batch(pairs, members, None, radii, np.array(stuff))


"""Sections worked out before, by what is in them: one edit lays out only the bundles it touches."""


def _whole(wire: Ints, weight: Floats, wires: int) -> Floats:
    """Weights made to sum to one for each wire; equal shares where all lengths are zero."""
    total = np.bincount(wire, weight, minlength=wires)[wire]
    count = np.bincount(wire, minlength=wires)[wire]
    result: Floats = np.where(total > 0, weight / np.where(total > 0, total, 1.0), 1.0 / count)
    return result


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
