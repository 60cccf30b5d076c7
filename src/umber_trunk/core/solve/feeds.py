"""Which loads each wire serves, and the way each load's current takes, from the direction of flow."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import CaseSolution

Floats = NDArray[np.float64]
LEAST_A = 1e-6
"""Less is the rounding of an idle wire."""


@dataclass(frozen=True)
class Edges:
    """Branches that carry current, from high to low potential; `branch` is their row."""

    branch: NDArray[np.intp]
    high: NDArray[np.intp]
    low: NDArray[np.intp]
    amps: Floats

    @classmethod
    def of(cls, plant: Plant, case: CaseSolution) -> Edges:
        """The flowing branches of a solved case, wires and links alike."""
        amps = np.concatenate([case.wire_a, case.link_a])
        network = plant.network
        flowing = np.flatnonzero(np.abs(amps) > LEAST_A)
        forward = amps[flowing] > 0
        high = np.where(forward, network.a[flowing], network.b[flowing])
        low = np.where(forward, network.b[flowing], network.a[flowing])
        return cls(flowing, high, low, np.abs(amps[flowing]))


def worst_served(plant: Plant, case: CaseSolution, used: Floats) -> tuple[Floats, NDArray[np.intp]]:
    """For each wire the highest `used` (loads,) among the loads it serves, and that load's row (−1: none).

    Upstream of a load's plus, current comes down to it; downstream of its minus, it goes on to the
    source: two sweeps over the edges in order of potential.
    """
    edges = Edges.of(plant, case)
    nodes, wires = plant.network.nodes, len(plant.wires)
    worst, which = [-np.inf] * wires, [-1] * wires
    potential = case.node_v
    for pins, ends, starts, rising in (
        (plant.load_plus, edges.low, edges.high, True),
        (plant.load_minus, edges.high, edges.low, False),
    ):
        level = [-np.inf] * nodes
        owner = [-1] * nodes
        for row in np.flatnonzero(case.running & np.isfinite(case.load_v)).tolist():
            node = int(pins[row])
            if used[row] > level[node]:
                level[node], owner[node] = float(used[row]), row
        order = np.argsort(potential[ends], kind="stable")
        order = order if rising else order[::-1]
        sweep = zip(ends[order].tolist(), starts[order].tolist(), edges.branch[order].tolist(), strict=True)
        for near, far, branch in sweep:
            here = level[near]
            if here > level[far]:
                level[far], owner[far] = here, owner[near]
            if branch < wires and here > worst[branch]:
                worst[branch], which[branch] = here, owner[near]
    return np.array(worst), np.array(which, dtype=np.intp)


class Leg(NamedTuple):
    """One step of a load's way: a wire or link row, the current in it, the volts it costs."""

    branch: int
    amps: float
    volts: float
    returning: bool


class Ways:
    """The way of any load's current from source to load and back, along the largest current at each
    node. In a radial harness that is every leg of the loop; where currents share, the main way."""

    def __init__(self, plant: Plant, case: CaseSolution) -> None:
        self.plant = plant
        self.edges = Edges.of(plant, case)
        ohm = np.concatenate([case.wire_ohm, plant.link_ohm])[self.edges.branch]
        order = np.argsort(self.edges.amps, kind="stable")
        self._low, self._high = self.edges.low.tolist(), self.edges.high.tolist()
        self._branch, self._amps, self._ohm = self.edges.branch.tolist(), self.edges.amps.tolist(), ohm.tolist()
        self.into = dict(zip(self.edges.low[order].tolist(), order.tolist(), strict=True))
        self.out_of = dict(zip(self.edges.high[order].tolist(), order.tolist(), strict=True))
        self._ohm_to: tuple[dict[int, float], dict[int, float]] = ({}, {})
        self._pins: tuple[list[int], list[int]] = plant.load_plus.tolist(), plant.load_minus.tolist()

    def of(self, load: int) -> list[Leg]:
        """Legs of a load row in the order current flows."""
        there = self._walk(int(self.plant.load_plus[load]), self.into, self._high, False)
        back = self._walk(int(self.plant.load_minus[load]), self.out_of, self._low, True)
        return [*reversed(there), *back]

    def loop_ohm(self, load: int) -> float:
        """Resistance of a load row's whole way, there and back; what many loads share is summed once."""
        plus, minus = self._pins
        there = self._ohm_from(plus[load], self.into, self._high, self._ohm_to[0])
        return there + self._ohm_from(minus[load], self.out_of, self._low, self._ohm_to[1])

    def _ohm_from(self, node: int, table: dict[int, int], far: list[int], known: dict[int, float]) -> float:
        passed, at = [], node
        while at not in known and at in table:
            edge = table[at]
            known[at] = 0.0  # where currents run in a ring, it ends here
            passed.append((at, self._ohm[edge]))
            at = far[edge]
        total = known.get(at, 0.0)
        for at, ohm in reversed(passed):
            total = known[at] = total + ohm
        return total

    def _walk(self, node: int, table: dict[int, int], far: list[int], returning: bool) -> list[Leg]:
        legs, seen = [], {node}
        while node in table:
            edge = table[node]
            amps = self._amps[edge]
            legs.append(Leg(self._branch[edge], amps, amps * self._ohm[edge], returning))
            node = far[edge]
            if node in seen:
                break
            seen.add(node)
        return legs
