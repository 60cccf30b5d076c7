"""Temperatures of all wires of a harness: each in every bundle it runs through.

Segments with the same number of conductors are solved as one batch of arrays, lone wires as one column.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.bundle import (
    DENSE_MOST,
    Sections,
    Strands,
    rim_film_w_m2k,
    smeared_radii_m,
    smeared_rise_k,
    smeared_w_mk,
)
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.packing import laid
from umber_trunk.core.sizing.plant import Plant

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


def plan_heat(plant: Plant) -> ThermalPlan:
    """Lays out pairs and bundles, and the wires in every bundle."""
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
        if n == 1:
            bundles.radius_m[members] = plant.bodies.outer_m[wire[pairs[:, 0]]] / 2
            continue
        batches.append(_batch(plant, wire, members, pairs, bundles))
    weight = _whole(wire, length[bundle], len(plant.wires))
    lone = first[:-1][np.array(counts, dtype=int) == 1]
    return ThermalPlan(wire, bundle, weight, lone, bundles, batches, len(plant.wires))


def _batch(plant: Plant, wire: Ints, members: Ints, pairs: Ints, bundles: Bundles) -> Batch:
    """Bundles of one wire count; fills in their radii and rim shares. Thickest wires stand first in each."""
    bodies = plant.bodies
    order = np.lexsort(
        (bodies.jacket_w_mk[wire[pairs]], -bodies.conductor_m[wire[pairs]], -bodies.outer_m[wire[pairs]])
    )
    pairs = np.take_along_axis(pairs, order, axis=1)
    rows = wire[pairs]
    strands = Strands(bodies.outer_m[rows], bodies.conductor_m[rows], bodies.jacket_w_mk[rows])
    if pairs.shape[1] <= DENSE_MOST:
        sections = sections_of(strands, bundles.sleeve_m[members] > 0)
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


_known: dict[bytes, Sections] = {}
"""Sections worked out before, by what is in them: one edit lays out only the bundles it touches."""
KNOWN_MOST = 3_000_000  # numbers kept, about 24 MB


def sections_of(strands: Strands, sleeved: NDArray[np.bool_]) -> Sections:
    """The laid sections of s bundles (s, n); those met before are not laid again."""
    table = np.stack([strands.outer_m, strands.conductor_m, strands.jacket_w_mk], axis=1)
    keys = [row.tobytes() + (b"s" if flag else b"") for row, flag in zip(table, sleeved, strict=True)]
    fresh = list({key: at for at, key in enumerate(keys) if key not in _known}.values())
    found = {key: _known[key] for key in keys if key in _known}
    together = max(1, 60_000 // (strands.outer_m.shape[1] ** 2 + 96 * strands.outer_m.shape[1]))
    for start in range(0, len(fresh), together):
        rows = fresh[start : start + together]
        part = Strands(strands.outer_m[rows], strands.conductor_m[rows], strands.jacket_w_mk[rows])
        centres, enclosing = laid(part.outer_m)
        made = Sections.of(centres, part, enclosing, sleeved[rows])
        found |= {keys[row]: made.one(at) for at, row in enumerate(rows)}
    if sum(one.near.size + one.waves.size for one in list(_known.values())) > KNOWN_MOST:
        _known.clear()
    _known.update(found)
    return Sections.stacked([found[key] for key in keys])


def _whole(wire: Ints, weight: Floats, wires: int) -> Floats:
    """Weights made to sum to one for each wire; equal shares where all lengths are zero."""
    total = np.bincount(wire, weight, minlength=wires)[wire]
    count = np.bincount(wire, minlength=wires)[wire]
    result: Floats = np.where(total > 0, weight / np.where(total > 0, total, 1.0), 1.0 / count)
    return result


@dataclass(frozen=True)
class _Losses:
    """Air of each bundle, losses of each pair [W/m], and the film at each bundle's rim."""

    air_c: Floats
    watts: Floats
    film: Floats


def _losses(plan: ThermalPlan, plant: Plant, heat_a: Floats, pair_c: Floats, ambient_c: float | None) -> _Losses:
    bodies, wire, bundles = plant.bodies, plan.wire, plan.bundles
    air = bundles.ambient_c if ambient_c is None else np.full_like(bundles.ambient_c, ambient_c)
    ohm = bodies.ohm_per_m_20[wire] * (1 + bodies.alpha_per_k[wire] * (np.minimum(pair_c, HOTTEST_C) - 20))
    watts = np.square(heat_a[wire] / plant.parallel[wire]) * ohm
    total: Floats = np.bincount(plan.bundle, watts, minlength=len(air)).astype(float)
    film = rim_film_w_m2k(total, bundles.radius_m, air, bundles.rim_share, bundles.sleeve_m, bundles.air_m_s)
    return _Losses(air, watts, film)


def pair_temperatures(
    plan: ThermalPlan, plant: Plant, heat_a: Floats, pair_c: Floats, ambient_c: float | None
) -> Floats:
    """One pass: losses at the temperatures `pair_c`, then the temperatures those losses give.

    heat_a is (wires,), the current that heats each whole wire; the result is (pairs,).
    """
    lost = _losses(plan, plant, heat_a, pair_c, ambient_c)
    watts, film = lost.watts, lost.film
    rise = np.zeros(len(watts))
    alone = plan.bundle[plan.lone]
    rise[plan.lone] = watts[plan.lone] / (2 * np.pi * plan.bundles.radius_m[alone] * film[alone])
    for batch in plan.batches:
        if batch.sections is not None:
            rise[batch.pairs] = batch.sections.rise_k(watts[batch.pairs], film[batch.bundles])
            continue
        for pairs, number, radii, stuff in zip(
            batch.pairs, batch.bundles, batch.radii_m, batch.stuff_w_mk, strict=True
        ):
            rise[pairs] = smeared_rise_k(watts[pairs], radii, float(film[number]), float(stuff))
    jacket = watts * plant.bodies.jacket_km_w[plan.wire]
    result: Floats = np.minimum(lost.air_c[plan.bundle] + rise + jacket, HOTTEST_C)
    return result


@dataclass(frozen=True)
class Shares:
    """Who heats whom at a solved state: for each pair the pairs beside it and the kelvin each gives it, its
    own jacket counted with its own."""

    beside: dict[int, Ints]
    kelvin: dict[int, Floats]


def heat_shares(
    plan: ThermalPlan, plant: Plant, heat_a: Floats, pair_c: Floats, ambient_c: float | None, wanted: Ints
) -> Shares:
    """The shares of the `wanted` pairs; those in bundles too large to resolve are left out."""
    lost = _losses(plan, plant, heat_a, pair_c, ambient_c)
    jacket = lost.watts * plant.bodies.jacket_km_w[plan.wire]
    shares = Shares({}, {})
    for pair in np.intersect1d(wanted, plan.lone).tolist():
        bundle = plan.bundle[pair]
        film = lost.watts[pair] / (2 * np.pi * plan.bundles.radius_m[bundle] * lost.film[bundle])
        shares.beside[pair], shares.kelvin[pair] = np.array([pair]), np.array([film + jacket[pair]])
    for batch in plan.batches:
        if batch.sections is None:
            continue
        at, place = np.nonzero(np.isin(batch.pairs, wanted))
        response = batch.sections.response_km_w(lost.film[batch.bundles]) if len(at) else np.zeros(0)
        for section, row in zip(at.tolist(), place.tolist(), strict=True):
            pairs = batch.pairs[section]
            kelvin = response[section, row] * lost.watts[pairs]
            kelvin[row] += jacket[pairs[row]]
            shares.beside[int(pairs[row])], shares.kelvin[int(pairs[row])] = pairs, kelvin
    return shares
