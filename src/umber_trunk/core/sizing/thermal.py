"""Temperatures of all wires of a harness: each in every bundle it runs through.

Segments with the same number of conductors are solved as one batch of arrays, lone wires as one column.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import (
    DENSE_MOST,
    Sections,
    rim_film_w_m2k,
    smeared_radii_m,
    smeared_rise_k,
)
from umber_trunk.core.physics.constants import BUNDLE_W_MK
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.packing import QUICK, Packing, pack, sketched
from umber_trunk.core.sizing.plant import Plant

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Packer = Callable[[Floats], tuple[Floats, Floats]]
"""Bundles (s, n) of diameters → centres (s, n, 2) and enclosing diameters (s,), as `sketched` does."""


@dataclass(frozen=True)
class Batch:
    """s bundles of n conductors: their rows among the pairs (s, n) and among the bundles (s,).

    `sections` is None for bundles too large to resolve; `radii_m` (s, n) then places the wires on rings.
    """

    pairs: Ints
    bundles: Ints
    sections: Sections | None
    radii_m: Floats


@dataclass(frozen=True)
class Bundles:
    """Columns over all stretches with wires, lone ones too: what the rim of each needs."""

    segment: list[str]
    ambient_c: Floats
    radius_m: Floats
    rim_share: Floats
    sleeve_m: Floats
    air_m_s: Floats


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

    def by_wire(self, pair_c: Floats) -> tuple[Floats, Floats]:
        """(hottest, length-weighted mean) conductor temperature of each wire."""
        hottest = np.full(self.wires, -np.inf)
        np.maximum.at(hottest, self.wire, pair_c)
        mean: Floats = np.bincount(self.wire, self.weight * pair_c, minlength=self.wires).astype(float)
        return hottest, mean


def section_of(plant: Plant, segment: str) -> tuple[list[int], Packing]:
    """Rows of the wires in a segment (one for each parallel conductor) and their packing in mm."""
    rows = [
        plant.row[wire]
        for wire in plant.index.contents[segment] if wire in plant.row
        for _ in range(plant.index.wires[wire].parallel)
    ]  # fmt: skip
    return rows, pack((round(plant.conductors[row].outer_mm, 2) for row in rows), QUICK)


@dataclass(frozen=True)
class _Stretch:
    """A segment with the wire rows in it, one for each parallel conductor; "" for a wire not laid."""

    segment: str
    rows: list[int]
    length_m: float
    ambient_c: float
    sleeve_m: float
    air_m_s: float


def _stretches(plant: Plant) -> list[_Stretch]:
    index, project = plant.index, plant.design.project
    found = []
    for segment in plant.design.segments:
        inside = [plant.row[wire] for wire in index.contents[segment.id] if wire in plant.row]
        rows = [row for row in inside for _ in range(plant.wires[row].parallel)]
        zone = index.zones.get(segment.zone or "")
        if rows:
            length = segment.measure.length_m
            air = zone.air_m_s if zone else 0.0
            found.append(_Stretch(segment.id, rows, length, index.ambient_c(segment), segment.sleeve_mm / 1e3, air))
    for row, wire in enumerate(plant.wires):
        if not index.routes[wire.id].segments:
            found.append(_Stretch("", [row] * wire.parallel, 1.0, project.ambient_c, 0.0, 0.0))
    return found


def plan_heat(plant: Plant, packer: Packer = sketched) -> ThermalPlan:
    """Lays out pairs and bundles; `packer` places the wires of every bundle."""
    stretches = _stretches(plant)
    counts = [len(stretch.rows) for stretch in stretches]
    wire = np.array([row for stretch in stretches for row in stretch.rows], dtype=np.intp)
    bundle = np.repeat(np.arange(len(stretches)), counts)
    length = np.array([stretch.length_m for stretch in stretches])
    bundles = Bundles(
        [stretch.segment for stretch in stretches],
        np.array([stretch.ambient_c for stretch in stretches]),
        np.ones(len(stretches)),
        np.ones(len(stretches)),
        np.array([stretch.sleeve_m for stretch in stretches]),
        np.array([stretch.air_m_s for stretch in stretches]),
    )
    first = np.concatenate([[0], np.cumsum(counts)]).astype(np.intp)
    batches = []
    for n in sorted(set(counts)):
        members = np.flatnonzero(np.array(counts) == n)
        pairs = first[members][:, None] + np.arange(n)
        outer = plant.bodies.outer_m[wire[pairs]]
        if n == 1:
            bundles.radius_m[members] = outer[:, 0] / 2
            continue
        batches += _batches(members, pairs, outer, bundles, packer)
    weight = _whole(wire, length[bundle], len(plant.wires))
    lone = first[:-1][np.array(counts, dtype=int) == 1]
    return ThermalPlan(wire, bundle, weight, lone, bundles, batches, len(plant.wires))


def _batches(members: Ints, pairs: Ints, outer_m: Floats, bundles: Bundles, packer: Packer) -> list[Batch]:
    """Batches small enough that no array grows large; fills in the bundles' radii and rim shares."""
    n = pairs.shape[1]
    together = max(1, 60_000 // (n * n + 96 * n))
    found = []
    for at in range(0, len(members), together):
        part = slice(at, at + together)
        sections, radii = None, np.zeros((0, n))
        if n <= DENSE_MOST:
            centres, enclosing = packer(outer_m[part] * 1e3)
            sections = Sections.of(centres / 1e3, outer_m[part], enclosing / 1e3)
            bundles.radius_m[members[part]] = sections.radius_m
            bundles.rim_share[members[part]] = sections.rim_share
        else:
            radii = np.array([smeared_radii_m(row) for row in outer_m[part]])
            bundles.radius_m[members[part]] = radii[:, -1]
        found.append(Batch(pairs[part], members[part], sections, radii))
    return found


def _whole(wire: Ints, weight: Floats, wires: int) -> Floats:
    """Weights made to sum to one for each wire; equal shares where all lengths are zero."""
    total = np.bincount(wire, weight, minlength=wires)[wire]
    count = np.bincount(wire, minlength=wires)[wire]
    result: Floats = np.where(total > 0, weight / np.where(total > 0, total, 1.0), 1.0 / count)
    return result


def pair_temperatures(
    plan: ThermalPlan, plant: Plant, heat_a: Floats, pair_c: Floats, ambient_c: float | None
) -> Floats:
    """One pass: losses at the temperatures `pair_c`, then the temperatures those losses give.

    heat_a is (wires,), the current that heats each whole wire; the result is (pairs,).
    """
    bodies, wire, bundles = plant.bodies, plan.wire, plan.bundles
    air = bundles.ambient_c if ambient_c is None else np.full_like(bundles.ambient_c, ambient_c)
    ohm = bodies.ohm_per_m_20[wire] * (1 + bodies.alpha_per_k[wire] * (np.minimum(pair_c, HOTTEST_C) - 20))
    watts = np.square(heat_a[wire] / plant.parallel[wire]) * ohm
    total: Floats = np.bincount(plan.bundle, watts, minlength=len(air)).astype(float)
    film = rim_film_w_m2k(total, bundles.radius_m, air, bundles.rim_share, bundles.sleeve_m, bundles.air_m_s)
    rise = np.zeros(len(wire))
    alone = plan.bundle[plan.lone]
    rise[plan.lone] = watts[plan.lone] / (2 * np.pi * bundles.radius_m[alone] * film[alone])
    for batch in plan.batches:
        if batch.sections is not None:
            biot = film[batch.bundles] * batch.sections.radius_m / BUNDLE_W_MK
            rise[batch.pairs] = batch.sections.rise_k(watts[batch.pairs], biot)
            continue
        for pairs, number, radii in zip(batch.pairs, batch.bundles, batch.radii_m, strict=True):
            rise[pairs] = smeared_rise_k(watts[pairs], radii, float(film[number]))
    result: Floats = np.minimum(air[plan.bundle] + rise + watts * bodies.jacket_km_w[wire], HOTTEST_C)
    return result
