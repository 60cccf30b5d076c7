"""Which conductors lie together where: a row for each conductor in each stretch, a bundle for each stretch."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import DENSE_MOST, Sections, Strands, smeared_radii_m, smeared_w_mk
from umber_trunk.core.physics.constants import FILLING_W_MK, ZERO_C_K
from umber_trunk.core.physics.sections import sections_of
from umber_trunk.core.physics.surroundings import OPEN_AIR, Outside, Surroundings
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
"""Metal's warmth at which its conduction of heat is taken."""


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


def _whole(wire: Ints, weight: Floats, wires: int) -> Floats:
    """Weights made to sum to one for each wire; equal shares where all lengths are zero."""
    total = np.bincount(wire, weight, minlength=wires)[wire]
    count = np.bincount(wire, minlength=wires)[wire]
    result: Floats = np.where(total > 0, weight / np.where(total > 0, total, 1.0), 1.0 / count)
    return result
