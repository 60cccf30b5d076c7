"""The wires of a solved case as they stand, each where an overload would harm it first."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.bundle import USUAL_FILM_W_M2K, rim_film_w_m2k
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.response import Response, lone_response, section_response
from umber_trunk.core.solve.heat_plan import ThermalPlan
from umber_trunk.core.solve.plant import Plant

if TYPE_CHECKING:
    from umber_trunk.core.solve.solution import CaseSolution

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

_known: dict[tuple[int, ...], tuple[list[Conductor], Response]] = {}
"""Conductors by their identity → those conductors, so that no other takes their identity, and the response."""
OVERLOAD_K = 60.0
"""Rise that tells how a stretch's film compares with another's while something is overloaded."""
NEARLY = 1.05
"""Times the least room: a stretch beyond it has never been where a fuse was worst."""
KNOWN_MOST = 20_000  # responses of whole sections


def standing_in(plant: Plant, heat: ThermalPlan, case: CaseSolution, rows: Ints) -> Standing:
    """The wires of these rows, each in the stretch where the least more heat brings it to its limit."""
    room = _room(plant, heat, case)
    order = np.lexsort((room, heat.wire))
    first = np.append(True, heat.wire[order][1:] != heat.wire[order][:-1]) if len(order) else np.zeros(0, dtype=bool)
    best = np.zeros(heat.wires, dtype=np.intp)
    best[heat.wire[order][first]] = order[first]
    return standing_at(plant, heat, case, best[rows])


def near_tightest(plant: Plant, heat: ThermalPlan, case: CaseSolution, rows: Ints) -> tuple[Ints, Ints]:
    """(number among the rows, pair) of each stretch where nearly the least more heat brings a wire of these rows to its
    limit, row by row: in one of these an overload harms it first."""
    room = _room(plant, heat, case)
    least = np.full(heat.wires, np.inf)
    np.minimum.at(least, heat.wire, room)
    number = np.full(heat.wires, -1, dtype=np.intp)
    number[rows] = np.arange(len(rows))
    near = room <= least[heat.wire] + (NEARLY - 1) * np.abs(least[heat.wire])
    pairs = np.flatnonzero(near & (number[heat.wire] >= 0))
    pairs = pairs[np.argsort(number[heat.wire[pairs]], kind="stable")]
    return number[heat.wire[pairs]], pairs


def standing_at(plant: Plant, heat: ThermalPlan, case: CaseSolution, pairs: Ints) -> Standing:
    """Wires in these stretches."""
    wire, bundle, bundles = heat.wire[pairs], heat.bundle[pairs], heat.bundles
    bodies = plant.bodies.rows(wire)
    lost = np.square(case.warming.near_a[pairs] / plant.parallel[wire]) * bodies.ohm_per_m(
        np.minimum(case.pair_c[pairs], HOTTEST_C)
    )
    everyone = np.square(case.warming.bulk_a / plant.parallel[heat.wire]) * plant.bodies.rows(heat.wire).ohm_per_m(
        np.minimum(case.pair_c, HOTTEST_C)
    )
    total = np.bincount(heat.bundle, everyone, minlength=len(bundles.segment)).astype(float)[bundle]
    air = bundles.ambient_c if case.case.ambient_c is None else np.full_like(bundles.ambient_c, case.case.ambient_c)
    return Standing(
        celsius=np.minimum(case.pair_c[pairs], HOTTEST_C),
        air_c=air[bundle],
        own_km_w=heat.own_km_w[pairs] + bodies.jacket_km_w,
        own_w=np.minimum(lost, total),
        total_w=total,
        alike=plant.parallel[wire],
        radius_m=bundles.radius_m[bundle],
        rim_share=bundles.rim_share[bundle],
        sleeve_m=bundles.sleeve_m[bundle],
        air_m_s=bundles.air_m_s[bundle],
        outside=bundles.outside.at(bundle),
        ohm_20=bodies.ohm_per_m_20,
        alpha=bodies.alpha_per_k,
        amps=case.warming.near_a[pairs] / plant.parallel[wire],
        response=responses(plant, heat, pairs),
    )


def _room(plant: Plant, heat: ThermalPlan, case: CaseSolution) -> Floats:
    """W/m of its own (pairs,) that would bring each pair to its limit, about."""
    bundles = heat.bundles
    lost = 2 * np.pi * bundles.radius_m * USUAL_FILM_W_M2K * OVERLOAD_K
    film = rim_film_w_m2k(
        lost, bundles.radius_m, bundles.ambient_c, bundles.rim_share, bundles.sleeve_m, bundles.air_m_s, bundles.outside
    )
    rim = 1 / (2 * np.pi * bundles.radius_m * film)
    answer = heat.own_km_w + plant.bodies.jacket_km_w[heat.wire] + rim[heat.bundle]
    result: Floats = (plant.limit_c[heat.wire] - case.pair_c) / answer
    return result


def responses(plant: Plant, heat: ThermalPlan, pairs: Ints) -> Response:
    """S(t) of these pairs; sections met before are not worked out again."""
    found: list[Response] = []
    first: dict[int, int] = {}
    picked: list[int] = []
    sections: dict[tuple[int, int], Response] = {}
    count = 0
    for pair, row in zip(pairs.tolist(), heat.wire[pairs].tolist(), strict=True):
        place = heat.places.get(pair)
        if place is None:
            cond = plant.conductors[row]
            one, at = lone_response(cond.size.label, cond.metal.id, cond.make.id, cond.jacket.id), 0
        else:
            batch, section, at = place
            if (batch, section) not in sections:
                sections[batch, section] = _section(plant, heat, batch, section)
            one = sections[batch, section]
        if id(one) not in first:
            first[id(one)] = count
            found.append(one)
            count += len(one.kind)
        picked.append(first[id(one)] + at)
    if not found:
        return Response.of(np.zeros((0, 1)), np.zeros((0, 1)))
    return Response.stacked(found).rows(np.array(picked, dtype=np.intp))


def _section(plant: Plant, heat: ThermalPlan, batch: int, section: int) -> Response:
    part = heat.batches[batch]
    wires = [plant.conductors[row] for row in heat.wire[part.pairs[section]].tolist()]
    key = tuple(map(id, wires))
    known = _known.get(key)
    if known is None:
        assert part.sections is not None
        known = wires, section_response(part.sections.one(section), wires)
        if len(_known) > KNOWN_MOST:
            _known.clear()
        _known[key] = known
    return known[1]


def as_made_of(standing: Standing, steps: list[Conductor], here: list[Conductor], celsius: Floats) -> Standing:
    """The m wires were they made of `steps`, at temperatures they would then run at: their own metal and jacket, their
    place in the bundle as it is."""
    own = standing.own_km_w + np.array(
        [_jacket_km_w(step) - _jacket_km_w(now) for step, now in zip(steps, here, strict=True)]
    )
    ohm, alpha = np.array([step.ohm_per_m_20 for step in steps]), np.array([step.metal.alpha_per_k for step in steps])
    lost = np.square(standing.amps) * ohm * (1 + alpha * (celsius - 20))
    total = np.maximum(standing.total_w + standing.alike * (lost - standing.own_w), lost)
    response = Response.stacked([lone_response(s.size.label, s.metal.id, s.make.id, s.jacket.id) for s in steps])
    return replace(
        standing,
        celsius=celsius,
        own_km_w=np.maximum(own, 1e-3),
        own_w=lost,
        total_w=total,
        ohm_20=ohm,
        alpha=alpha,
        response=response,
    )


def _jacket_km_w(wire: Conductor) -> float:
    return float(np.log(wire.outer_mm / wire.conductor_mm) / (2 * np.pi * wire.jacket.k_w_mk))
