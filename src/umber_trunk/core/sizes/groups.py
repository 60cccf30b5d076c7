"""Wires that are sized together, and the steps each group may take."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor, Size, series
from umber_trunk.core.ends.limits import takes
from umber_trunk.core.solve.plant import Plant, can_be_made, spec_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Group:
    """Wires that take one size: the feed and return of one load, or a single wire.

    steps: the conductors it may be made of, smallest first; areas and weights follow them.
    """

    rows: tuple[int, ...]
    steps: tuple[Conductor, ...]
    metre_conductors: float

    @cached_property
    def areas(self) -> Floats:
        """Conductor areas of the steps [mm²]."""
        return np.array([step.size.area_mm2 for step in self.steps])

    @cached_property
    def masses(self) -> Floats:
        """Conductor mass of the whole group at each step [kg]."""
        return np.array([step.kg_per_m * self.metre_conductors for step in self.steps])


def allowed_sizes(plant: Plant) -> tuple[Size, ...]:
    """The project's series from its smallest allowed size up."""
    project = plant.design.project
    sizes = series(project.series)
    return tuple(s for s in sizes if s.area_mm2 >= project.smallest_mm2 - 1e-9) or sizes[-1:]


def groups_of(plant: Plant, keep: frozenset[str], any_end: bool = False) -> list[Group]:
    """Groups over the wires that are free to change; `keep` are wire ids whose size stays. A wire whose
    metal, make or jacket isn't in the catalogue is in no group; a finding names it. Steps are those that the parts at
    both ends take, all where none is, or where the builder may take `any_end`."""
    design = plant.design
    pins = {}
    if design.project.match_pairs:
        for load in design.loads:
            pins[load.plus], pins[load.minus] = load.id, load.id
    members: dict[tuple[str, ...], list[int]] = defaultdict(list)
    for row, wire in enumerate(plant.wires):
        if wire.id in keep or not can_be_made(design, wire):
            continue
        load_id = pins.get(wire.finish) or pins.get(wire.start)
        paired = load_id is not None and wire.circuit
        spec = (wire.metal or "", wire.make or "", wire.jacket or "", str(wire.parallel))
        members[(wire.circuit, load_id or "", *spec) if paired else (wire.id,)].append(row)
    sizes = allowed_sizes(plant)
    found = []
    for rows in members.values():
        wire = plant.wires[rows[0]]
        steps = tuple(spec_of(design, wire, size.label) for size in sizes)
        if not any_end:
            fitting = tuple(
                step for step in steps if all(takes(design, plant.wires[row], step, plant.shelf) for row in rows)
            )
            steps = fitting or steps  # where no end takes any, the fits say so
        metres = float(sum(plant.length_m[row] * plant.parallel[row] for row in rows))
        found.append(Group(tuple(rows), steps, metres))
    return found
