"""Findings about sizes: limits broken, fuses, ratings, metals and jackets, and the cautions that go with power."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from umber_trunk.core.catalog.conductors import Conductor, Jacket, area_of, series, show_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.earths import is_earth, least_earth_mm2
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design, Wire, Zone
from umber_trunk.core.physics.fuses import next_rating
from umber_trunk.core.physics.protection import Protected
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, joined
from umber_trunk.core.sizes.twins import endangered, side_by_side
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.plant import SMALLEST_STAND_IN, spec_of
from umber_trunk.core.solve.used import Figures, Limit, LoadFigures, WireFigures
from umber_trunk.core.units import show_length, show_seconds, significant
from umber_trunk.core.usual import MET

FAULT, WARNING, NOTE = Severity.FAULT, Severity.WARNING, Severity.NOTE
CLAD_LEAST_MM2 = 10.0
"""Copper-clad aluminium under it breaks at the crimp."""
CLAD = ("cca10", "cca15", "aluminium")
STIFF_STRAND_MM = 0.35  # few and thick enough to fatigue
UNEVEN = 0.1
"""Of parallel wires one that carries by a larger share over its part of the copper is told."""


def check_sizes(results: Results) -> Iterator[Finding]:
    """Everything to say of a design's sizes."""
    design, found = results.design, results.figures
    yield from _wires(design, found)
    yield from _odd(design)
    yield from _limits(design, found)
    yield from _materials(design, index_of(design))
    yield from _side_by_side(found)
    yield from _twins(results)
    yield from _earths(design)


def _earths(design: Design) -> Iterator[Finding]:
    """Protective earths thinner than what lies beside them asks for."""
    for wire in design.wires:
        if wire.size is None or not is_earth(wire.name, wire.core, wire.circuit):
            continue
        ends = {wire.start.end, wire.finish.end}
        beside = [
            other
            for other in design.wires
            if other.size
            and {other.start.end, other.finish.end} == ends
            and (other.cable == wire.cable if wire.cable else other.circuit == wire.circuit)
        ]
        least, mine = max(least_earth_mm2(area_of(other.size or "")) for other in beside), area_of(wire.size)
        if 0 < mine < 0.99 * least:  # a size nobody can read is told of its own
            name = wire.name or wire.id
            yield Finding.of(
                "wire.earth",
                FAULT,
                "sizes",
                "wires",
                wire.id,
                name=name,
                value=show_size(wire.size),
                least=f"{least:g} mm²",
            )


_BROKEN = {
    Limit.HEAT: "wire.hot",
    Limit.FUSE: "wire.fuse",
    Limit.SURGE: "wire.surge",
    Limit.HANDLING: "wire.handling",
}


def _limits(design: Design, found: Figures) -> Iterator[Finding]:
    for case in found.solution.cases:
        if not case.settled:
            yield Finding.of("case.unsettled", FAULT, "needs", "cases", case.case.id, name=case.case.name)
    for entry in found.loads.values():
        if np.isfinite(entry.volts) and entry.used > MET:
            yield Finding.of(
                "load.drop",
                FAULT,
                "sizes",
                "loads",
                entry.load.id,
                name=entry.load.name,
                volts=entry.volts,
                nominal_v=entry.nominal_v,
                sag_v=entry.sag_v if entry.sag_v > 0.005 * entry.nominal_v else 0.0,
                wiring_v=entry.wiring_v,
                allowed_v=entry.allowed_v,
                rule=entry.rule,
                drop_cure=drop_cure(found, entry),
            )
        if not entry.surge_ok:
            yield Finding.of(
                "load.dip",
                FAULT,
                "sizes",
                "loads",
                entry.load.id,
                name=entry.load.name,
                surge_v=entry.surge_v,
                least_v=entry.load.min_volts or 0.0,
                dip_cure=_dip_cure(found, entry),
            )
    for row in found.wires.values():
        for use in row.uses:
            if use.used > MET and use.limit in _BROKEN:
                code, form = _BROKEN[use.limit], ""
                values: dict[str, Any] = {
                    "name": row.wire.name or row.wire.id,
                    "size": show_size(row.size),
                    "hot_c": row.conductor_c,
                    "limit_c": row.limit_c,
                    "smallest_mm2": design.project.smallest_mm2,
                }
                if use.limit is Limit.FUSE:
                    form, more = _fuse_told(found, row)
                    values |= more
                yield Finding.of(code, FAULT, "sizes", "wires", row.wire.id, form=form, **values)


def _own_fuse(judged: Protected, row: WireFigures) -> float:
    """The rating to say where the fuse before a wire is for far more than the wire carries: its own fuse comes before a
    larger size; else 0."""
    rating = next_rating(1.25 * row.amps) if row.amps > 0 else None
    return 0.0 if rating is None or rating > judged.rating_a / 3 else rating


def drop_cure(found: Figures, entry: LoadFigures) -> Message:
    """What mends a load's drop; a size is named only where one can help."""
    plant = found.solution.plant
    legs = Ways(plant, found.cases[entry.case]).of(entry.row)
    copper = sum(
        leg.volts - leg.amps * float(plant.joint_ohm[leg.branch]) for leg in legs if leg.branch < len(plant.wires)
    )
    fixed = max(entry.wiring_v - copper, 0.0)
    if entry.allowed_v <= 1e-5:
        return Message.of("load.drop.sags")
    if fixed >= entry.allowed_v:
        return Message.of("load.drop.joints")
    return Message.of("load.drop.size")


def _dip_cure(found: Figures, entry: LoadFigures) -> Message:
    """A size helps a dip only as far as the source's own dip under that surge leaves room."""
    plant, load = found.solution.plant, entry.load
    plus = int(plant.terminals[0][entry.row])
    rows = np.flatnonzero(plant.network.plus == plus)
    inside = float(plant.source_ohm[rows[0]]) * max(load.surge_a or 0.0, entry.amps) if len(rows) else 0.0
    if load.min_volts is not None and entry.nominal_v - inside < load.min_volts:
        return Message.of("load.dip.source")
    return Message.of("load.dip.size")


def _fuse_told(found: Figures, row: WireFigures) -> tuple[str, dict[str, Any]]:
    """(form, values) of a fuse that a wire doesn't stand: by the house rule, or by what it lets through for how
    long."""
    judged = found.protected[row.row]  # where a fuse is used up, one was judged
    values = {"rating_a": judged.rating_a, "own_a": _own_fuse(judged, row)}
    if found.solution.plant.design.project.fuse_rule != "curve":
        return "wire.fuse.rule", values | {"ampacity_a": significant(judged.ampacity_a)}
    return "wire.fuse", values | {
        "amps": significant(judged.worst_a),
        "long": show_seconds(judged.seconds) if np.isfinite(judged.seconds) else "",
        "stands_a": significant(judged.withstand_a),
        "allowed_c": judged.allowed_c,
    }


def _materials(design: Design, index: Index) -> Iterator[Finding]:
    zoned = bool(design.zones)
    for wire in design.wires:
        if not zoned and (wire.metal or design.project.metal) not in CLAD:
            continue  # nothing round it to suit or not
        for idea in _bad_ideas(design, index, wire):
            yield Finding.of(
                "wire.material",
                idea.severity,
                "sizes",
                "wires",
                wire.id,
                form=f"wire.material.{idea.about}",
                at=idea.about,
                name=wire.name or wire.id,
                **idea.values,
            )


def _twins(results: Results) -> Iterator[Finding]:
    """Conductors in parallel whose twins wouldn't stand it if one opened."""
    for one in results.once(endangered):
        if not one.ok:
            yield Finding.of(
                "wire.twin",
                NOTE,
                "sizes",
                "wires",
                one.worst,
                value=", ".join(one.wires),
                count=one.conductors,
                amps=significant(one.open_amps),
                warm=f"{one.open_c:.0f}",
                limit=f"{one.limit_c:.0f}",
                bad=f"{one.bad_c:.0f}",
            )


def _side_by_side(found: Figures) -> Iterator[Finding]:
    """Wires between the same two places that don't share as their areas would have them."""
    plant = found.solution.plant
    for rows in side_by_side(plant):
        if len(rows) < 2:
            continue
        amps = np.array([found.wires[plant.wires[row].id].amps for row in rows])
        area = plant.area_mm2[rows] * plant.parallel[rows]
        if amps.sum() < 1e-3:
            continue
        extra = amps / amps.sum() - area / area.sum()
        worst = int(np.argmax(extra))
        if extra[worst] > UNEVEN * area[worst] / area.sum():
            wire = plant.wires[rows[worst]]
            made = [plant.conductors[row] for row in rows]
            alike = [
                Message.of(
                    "wire.uneven.one",
                    length=show_length(float(plant.length_m[row])),
                    size=show_size(one.size.label),
                    metal=one.metal.name,
                )
                for row, one in zip(rows, made, strict=True)
            ]
            yield Finding.of(
                "wire.uneven",
                WARNING,
                "sizes",
                "wires",
                wire.id,
                value=wire.name or wire.id,
                value2=100 * amps[worst] / amps.sum(),
                value3=significant(amps.sum()),
                rows=len(rows),
                alike=joined("any.and", alike),
            )


@dataclass(frozen=True)
class _Idea:
    """What doesn't suit the zones a wire runs through: what it is about, which names its sentences too."""

    about: str
    severity: Severity
    values: Mapping[str, Any]


def _bad_ideas(design: Design, index: Index, wire: Wire) -> Iterator[_Idea]:
    """What doesn't suit the zones a wire runs through."""
    try:
        cond = spec_of(design, wire, wire.size or SMALLEST_STAND_IN)
    except InputError:
        return
    segments = [index.segments[name] for name in index.routes[wire.id].segments]
    zones = [zone for segment in segments if (zone := index.zones.get(segment.zone or "")) is not None]
    if cond.metal.id in CLAD and wire.size and cond.size.area_mm2 < CLAD_LEAST_MM2:
        yield _Idea("thin", WARNING, {"metal": cond.metal.name, "least_mm2": CLAD_LEAST_MM2})
    if any(zone.vibration or zone.flexing for zone in zones):
        yield from _moved_about(cond, bool(wire.size))
    yield from _ill_jacketed(cond.jacket, zones)
    if cond.metal.id == "copper" and any(zone.wet for zone in zones):
        always = design.project.practice.tinned == "always"
        yield _Idea("wet", WARNING if always else NOTE, {"always": always})


def _moved_about(cond: Conductor, sized: bool) -> Iterator[_Idea]:
    """What doesn't stand shaking or flexing."""
    if cond.metal.id in CLAD:
        yield _Idea("clad", WARNING, {"metal": cond.metal.name})
    elif cond.make.strand_mm >= STIFF_STRAND_MM:
        yield _Idea("stiff", WARNING, {"strands": cond.strands if sized else 0, "strand_mm": cond.strand_mm})


def _ill_jacketed(jacket: Jacket, zones: Sequence[Zone]) -> Iterator[_Idea]:
    """What a jacket doesn't stand of the zones it lies in."""
    if any(zone.flexing and zone.ambient_c < jacket.cold_flex_c for zone in zones):
        yield _Idea("cold", WARNING, {"jacket": jacket.name, "cold_c": jacket.cold_flex_c})
    if not jacket.hot_metal and any(zone.hot_metal for zone in zones):
        yield _Idea("hot", WARNING, {"jacket": jacket.name})
    if not jacket.uv and any(zone.uv for zone in zones):
        yield _Idea("sun", WARNING, {"jacket": jacket.name})
    if not jacket.oil and any(zone.oil for zone in zones):
        yield _Idea("oil", WARNING, {"jacket": jacket.name})


def _wires(design: Design, found: Figures) -> Iterator[Finding]:
    """Wires that nothing loads, and those of stuff the catalogue doesn't know."""
    for wire in design.wires:
        name, figure = wire.name or wire.id, found.wires.get(wire.id)
        if figure is not None and figure.idle and not wire.signal and design.loads and design.supplies:
            yield Finding.of("wire.idle", FAULT, "sizes", "wires", wire.id, name=name)
        try:
            spec_of(design, wire, wire.size or SMALLEST_STAND_IN)
        except InputError as why:
            yield Finding.of("wire.spec", FAULT, "sizes", "wires", wire.id, name=name, why=why.message)


ALIKE = 8
"""So many wires of one stated length and all of them: nobody measured."""


def _odd(design: Design) -> Iterator[Finding]:
    """Sizes that are possible but seldom meant."""
    steps = {size.label for name in ("metric", "awg") for size in series(name)}
    for wire in design.wires:
        if wire.size and wire.size not in steps and not wire.size.endswith("kcmil"):
            yield Finding.of(
                "wire.odd_size",
                WARNING,
                "sizes",
                "wires",
                wire.id,
                value=wire.name or wire.id,
                size=show_size(wire.size),
            )
    listed = [wire.listed_size for wire in design.wires if wire.listed_size]
    if len(listed) >= ALIKE and len(listed) == len(design.wires) and len(set(listed)) == 1:
        yield Finding.of(
            "wires.one_size",
            WARNING,
            "sizes",
            "wires",
            design.wires[0].id,
            value=show_size(listed[0]),
            listed=len(listed),
        )
