"""The network of a whole harness as one sparse linear system (modified nodal analysis); complex numbers for AC."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.sparse import components, solved

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Numbers = NDArray[np.float64] | NDArray[np.complex128]
LEAST_OHM = 1e-7  # a joint better than 0.1 µΩ is a short piece of bus bar
LEAST_A = 1e-9  # less is the rounding of an idle wire


@dataclass(frozen=True)
class Network:
    """Topology: nodes 0…n−1, branches between `a` and `b`, sources from `plus` to `minus`.

    `live` marks nodes joined to a source; the others have no potential.
    """

    nodes: int
    a: Ints
    b: Ints
    plus: Ints
    minus: Ints
    live: NDArray[np.bool_]
    grounds: Ints
    island: Ints

    @classmethod
    def build(cls, nodes: int, a: Ints, b: Ints, plus: Ints, minus: Ints) -> Network:
        """Finds the islands: each that holds a source is grounded at that source's minus."""
        heads, tails = np.concatenate([a, plus]), np.concatenate([b, minus])
        _, island = components(heads, tails, nodes)
        fed, first = np.unique(island[plus], return_index=True)
        return cls(nodes, a, b, plus, minus, np.isin(island, fed), minus[first], island)

    def entries(self, siemens: Numbers, source_ohm: Floats) -> tuple[Numbers, tuple[Ints, Ints]]:
        """(values, (rows, columns)) of the system for branch conductances: node rows, then one row for each source."""
        n, m = self.nodes, len(self.plus)
        dead = np.flatnonzero(~self.live)
        rows_of_sources = n + np.arange(m)
        rows = [
            self.a,
            self.b,
            self.a,
            self.b,
            self.plus,
            self.minus,
            rows_of_sources,
            rows_of_sources,
        ]
        cols = [
            self.a,
            self.b,
            self.b,
            self.a,
            rows_of_sources,
            rows_of_sources,
            self.plus,
            self.minus,
        ]
        ones = np.ones(m)
        values: list[Numbers] = [siemens, siemens, -siemens, -siemens, -ones, ones, ones, -ones]
        rows += [rows_of_sources, dead, self.grounds]
        cols += [rows_of_sources, dead, self.grounds]
        values += [
            source_ohm,
            np.ones(len(dead)),
            np.full(len(self.grounds), self._anchor(siemens)),
        ]
        whole: Any = np.concatenate(values)
        return whole, (np.concatenate(rows), np.concatenate(cols))

    @staticmethod
    def _anchor(siemens: Numbers) -> float:
        """Conductance that pins a source's minus to zero; no net current flows through it."""
        return float(np.max(np.abs(siemens), initial=1.0))

    def right_hand(self, volts: Numbers, load_from: Ints, load_to: Ints, amps: Numbers) -> Numbers:
        """Source voltages and the currents that loads take from one node and give to another.

        volts (sources, k) and amps (loads, k) for k situations; the result is (rows, k).
        """
        rows = self.nodes + len(self.plus)
        side: Any = np.zeros((rows, amps.shape[1]), dtype=np.result_type(amps, volts))
        np.subtract.at(side, load_from, amps)
        np.add.at(side, load_to, amps)
        side[: self.nodes][~self.live] = 0.0
        side[self.nodes :] = volts
        filled: Numbers = side
        return filled


@dataclass(frozen=True)
class Flow:
    """Potentials [V] of all nodes (NaN where dead), complex where it is AC; current [A] of each branch a → b and
    source: its size, with the sign of the part in phase.

    Each has a trailing axis for the situations that were solved together.
    """

    volts: Numbers
    branch_a: Floats
    source_a: Floats

    @property
    def potential(self) -> Floats:
        """Potential of each node in phase with the source, first situation."""
        result: Floats = np.real(self.volts[:, 0])
        return result

    def across(self, plus: Ints, minus: Ints) -> Floats:
        """Volts between pairs of nodes (pairs, k): with sign for DC, their size for AC."""
        apart = self.volts[plus] - self.volts[minus]
        result: Floats = np.abs(apart) if np.iscomplexobj(apart) else np.real(apart)
        return result


def _in_phase(amps: Numbers) -> Floats:
    result: Floats = np.where(amps.real < 0, -1.0, 1.0) * np.abs(amps) if np.iscomplexobj(amps) else amps.real
    return result


def solve_flow(network: Network, siemens: Numbers, source_ohm: Floats, side: Numbers) -> Flow:
    """One system, solved for every column of `side`. With no source every node is dead."""
    if not len(network.plus):
        k = side.shape[1]
        return Flow(np.full((network.nodes, k), np.nan), np.zeros((len(siemens), k)), np.zeros((0, k)))
    found = solved(network.entries(siemens, source_ohm), len(side), side)
    potentials = found[: network.nodes].copy()
    potentials[~network.live] = np.nan
    across = potentials[network.a] - potentials[network.b]
    through = np.nan_to_num(siemens[:, None] * across)
    through[np.abs(through) < LEAST_A] = 0.0
    return Flow(potentials, _in_phase(through), _in_phase(found[network.nodes :]))
