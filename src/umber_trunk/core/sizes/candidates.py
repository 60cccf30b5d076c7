"""What one size up or down would do: the neighbours of a wire's size, each solved in the whole harness."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sizes.groups import groups_of
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.plant import build_plant
from umber_trunk.core.solve.solution import solve
from umber_trunk.core.solve.used import Figures, Limit, WireFigures

AROUND = (-2, 3)
"""Steps below and above the size at hand in a wire's ladder."""


@dataclass(frozen=True)
class Candidate:
    """One step of the ladder: figures of the wire and its worst load, and copper against now."""

    size: str
    step: int
    wire: WireFigures
    load_name: str
    load_volts: float
    load_used: float
    copper_kg: float
    ok: bool


@dataclass(frozen=True)
class Ladder:
    """The steps round a wire's size, smallest first; `members` are the wires sized together."""

    wire_id: str
    members: tuple[str, ...]
    candidates: tuple[Candidate, ...]


def ladder(
    design: Design, sizes: dict[str, str], wire_id: str, shelf: Shelf | None = None, wanted: Wanted = always
) -> Ladder:
    """Solves the harness once for each step; `sizes` are those proposed for wires nobody sized. Stopped once the answer
    isn't `wanted`."""
    fixed = design
    for other, size in sizes.items():
        fixed = set_size(fixed, [other], size)
    plant = build_plant(fixed, shelf=shelf)
    row = plant.row.get(wire_id, -1)
    group = next((g for g in groups_of(plant, frozenset(), any_end=True) if row in g.rows), None)
    if group is None:
        return Ladder(wire_id, (wire_id,), ())
    members = tuple(plant.wires[row].id for row in group.rows)
    area = plant.area_mm2[row]
    here = min(range(len(group.steps)), key=lambda i: abs(group.areas[i] - area))
    base = solve(fixed, shelf=plant.shelf)
    now_kg = sum(plant.conductors[r].kg_per_m * float(plant.length_m[r] * plant.parallel[r]) for r in group.rows)
    found = []
    for step in range(AROUND[0], AROUND[1] + 1):
        go_on_if(wanted)
        at = here + step
        if 0 <= at < len(group.steps):
            label = group.steps[at].size.label
            # the step "now" is the harness as it stands, even where the members differ
            tried = figures(solve(set_size(fixed, members, label), warm=base, shelf=plant.shelf) if step else base)
            copper = float(group.masses[at]) - now_kg
            found.append(_candidate(tried, wire_id, members, label, step, copper))
    return Ladder(wire_id, members, tuple(found))


def _candidate(
    tried: Figures, wire_id: str, members: tuple[str, ...], label: str, step: int, copper_kg: float
) -> Candidate:
    wire = tried.wires[wire_id]
    subject = next((use.subject for use in wire.uses if use.limit is Limit.DROP), "")
    load = tried.loads.get(subject)
    return Candidate(
        size=label,
        step=step,
        wire=wire,
        load_name=load.load.name if load else "",
        load_volts=load.volts if load else float("nan"),
        load_used=load.used if load else 0.0,
        copper_kg=copper_kg,
        ok=all(tried.wires[member].ok for member in members),
    )
