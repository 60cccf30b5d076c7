"""Every step of every group in every stretch its wires run through, as columns."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.conductors import Conductor
from umber_trunk.core.physics.heat import WireBodies
from umber_trunk.core.sizes.groups import Group
from umber_trunk.core.solve.used import Figures

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


@dataclass(frozen=True)
class Places:
    """One row for each step of each group in each pair of a wire and a stretch, and what lies in each stretch:
    members[bundle] are the numbers of the groups there, with how many conductors; fixed_mm2 the squares of the widths
    of all others."""

    number: Ints
    step: Ints
    row: Ints
    pair: Ints
    bundle: Ints
    made: list[Conductor]
    outer_mm: Floats
    jacket_km_w: Floats
    ohm_20: Floats
    alpha: Floats
    limit_c: Floats
    members: list[Counter[int]]
    fixed_mm2: Floats

    @classmethod
    def of(cls, found: Figures, groups: Sequence[Group]) -> Places:
        """All places of these groups."""
        plant, heat = found.solution.plant, found.solution.heat
        of_row = {row: number for number, group in enumerate(groups) for row in group.rows}
        members = [Counter[int]() for _ in heat.bundles.segment]
        fixed = np.zeros(len(members))
        rows = []
        for pair, (row, bundle) in enumerate(zip(heat.wire.tolist(), heat.bundle.tolist(), strict=True)):
            number = of_row.get(row)
            if number is None:
                fixed[bundle] += float(plant.bodies.outer_m[row] * 1e3) ** 2
                continue
            members[bundle][number] += 1
            rows += [(number, step, row, pair, bundle) for step in range(len(groups[number].steps))]
        table = np.array(rows, dtype=np.intp).reshape(-1, 5).T
        made = [groups[number].steps[step] for number, step in table[:2].T.tolist()]
        numbers, steps, wires, stretches, bundles = table
        bodies, limit = WireBodies.of(made), np.array([one.jacket.limit_c for one in made])
        return cls(
            numbers,
            steps,
            wires,
            stretches,
            bundles,
            made,
            bodies.outer_m * 1e3,
            bodies.jacket_km_w,
            bodies.ohm_per_m_20,
            bodies.alpha_per_k,
            limit,
            members,
            fixed,
        )
