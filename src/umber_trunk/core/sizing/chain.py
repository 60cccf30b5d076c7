"""The rating chain: a circuit is as good as its weakest part, from the source to the load and back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.harness.model import LinkKind, Pin
from umber_trunk.core.physics.fuses import continuous_a
from umber_trunk.core.sizing.feeds import Leg, Ways
from umber_trunk.core.sizing.margins import Figures
from umber_trunk.core.sizing.solve import CaseSolution


@dataclass(frozen=True)
class Part:
    """One part of a chain: what it may carry all day, what it does carry."""

    name: str
    kind: str
    rating_a: float
    amps: float

    @property
    def used(self) -> float:
        """Share of its rating in use."""
        return self.amps / self.rating_a if self.rating_a > 0 else float("inf")


def chain_of(found: Figures, load_id: str) -> list[Part]:
    """Every part with a known rating on a load's way, the most used first. Wires count with the current
    that would bring them to their jacket's limit where they lie (rise goes with the current's square)."""
    entry = found.loads[load_id]
    case = next(c for c in found.solution.cases if c.case.name == entry.case)
    parts: list[Part] = []
    for leg in Ways(found.solution.plant, case).of(entry.row):
        parts += (
            _wire_parts(found, case, leg) if leg.branch < len(found.solution.plant.wires) else _link_parts(found, leg)
        )
    return sorted(parts, key=lambda part: -part.used)


def _wire_parts(found: Figures, case: CaseSolution, leg: Leg) -> list[Part]:
    plant = found.solution.plant
    wire = plant.wires[leg.branch]
    size = show_size(plant.conductors[leg.branch].size.label)
    rise = float(case.conductor_c[leg.branch] - case.ambient_c[leg.branch])
    room = float(plant.limit_c[leg.branch] - case.ambient_c[leg.branch])
    parts = []
    if rise > 0.05 and room > 0:
        parts.append(Part(f"{wire.name or wire.id}, {size}", "wire", leg.amps * float(np.sqrt(room / rise)), leg.amps))
    return parts + [part for pin in (wire.start, wire.finish) for part in _contact(found, pin, leg.amps)]


def _contact(found: Figures, pin: Pin, amps: float) -> list[Part]:
    end = found.solution.plant.index.ends[pin.end]
    cavity = next(c for c in end.cavities if c.id == pin.cavity)
    if cavity.rating_a is None:
        return []
    return [Part(f"contact {end.name} {cavity.id}", "contact", cavity.rating_a, amps)]


def _link_parts(found: Figures, leg: Leg) -> list[Part]:
    plant = found.solution.plant
    end_id, link = plant.links[leg.branch - len(plant.wires)]
    end = plant.index.ends[end_id]
    if link.rating_a is None:
        return []
    zone = plant.index.zones.get(end.zone or "")
    ambient = zone.ambient_c if zone else plant.design.project.ambient_c
    most = continuous_a(link.rating_a, ambient) if link.kind is LinkKind.FUSE else link.rating_a
    return [Part(f"{link.kind} {link.id} {link.rating_a:g} A in {end.name}", str(link.kind), most, leg.amps)]


def fault_at_load_a(found: Figures, load_id: str) -> float:
    """Current into a short across the load's terminals: EMF over the whole loop, warm."""
    entry = found.loads[load_id]
    plant = found.solution.plant
    case = next(c for c in found.solution.cases if c.case.name == entry.case)
    legs = Ways(plant, case).of(entry.row)
    loop = sum(leg.volts / leg.amps for leg in legs) + min((s.source_ohm for s in plant.supplies), default=0.0)
    return entry.nominal_v / max(loop, 1e-4)
