"""Which loads each wire serves, and the way each load's current takes, from the direction of flow."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import CaseSolution

Floats = NDArray[np.float64]
LEAST_A = 1e-6


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
    worst, which = np.full(wires, -np.inf), np.full(wires, -1, dtype=np.intp)
    potential = case.node_v
    for pins, ends, starts, rising in (
        (plant.load_plus, edges.low, edges.high, True),
        (plant.load_minus, edges.high, edges.low, False),
    ):
        level = [-np.inf] * nodes
        owner = [-1] * nodes
        for row in np.flatnonzero(case.running & np.isfinite(case.load_v)):
            node = int(pins[row])
            if used[row] > level[node]:
                level[node], owner[node] = float(used[row]), int(row)
        order = np.argsort(potential[ends], kind="stable")
        for edge in order if rising else order[::-1]:
            near, far, branch = int(ends[edge]), int(starts[edge]), int(edges.branch[edge])
            if level[near] > level[far]:
                level[far], owner[far] = level[near], owner[near]
            if branch < wires and level[near] > worst[branch]:
                worst[branch], which[branch] = level[near], owner[near]
    return worst, which


@dataclass(frozen=True)
class Leg:
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
        self.ohm = np.concatenate([case.wire_ohm, plant.link_ohm])
        self.into: dict[int, int] = {}
        self.out_of: dict[int, int] = {}
        for edge in np.argsort(self.edges.amps, kind="stable").tolist():
            self.into[int(self.edges.low[edge])] = edge
            self.out_of[int(self.edges.high[edge])] = edge

    def of(self, load: int) -> list[Leg]:
        """Legs of a load row in the order current flows."""
        there = self._walk(int(self.plant.load_plus[load]), self.into, self.edges.high, False)
        back = self._walk(int(self.plant.load_minus[load]), self.out_of, self.edges.low, True)
        return [*reversed(there), *back]

    def _walk(self, node: int, table: dict[int, int], ends: NDArray[np.intp], returning: bool) -> list[Leg]:
        legs, seen = [], {node}
        while node in table:
            edge = table[node]
            branch, amps = int(self.edges.branch[edge]), float(self.edges.amps[edge])
            legs.append(Leg(branch, amps, amps * float(self.ohm[branch]), returning))
            node = int(ends[edge])
            if node in seen:
                break
            seen.add(node)
        return legs
