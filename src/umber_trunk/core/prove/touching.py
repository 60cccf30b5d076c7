"""Wires that touch: islands that lead to one another and shouldn't, then which of their wires, and where along them.

     A ──────┬─────── B       The ohms from A to C are those to the place on the one wire, the touch, and those from
             ⌇ touch          there on along the other: several such readings say where. Two wires of one jacket or
     C ──────┴─────── D       bundle touch at the same place along both; which way round is looked at where they run
                              opposite ways.

Two islands that any reading showed apart never touch. A joint error of the touch itself beside each reading's own is
taken together in closed form (Sherman and Morrison).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.belief import BEAM, NEGLIGIBLE, Belief, Evidence
from umber_trunk.core.prove.fault import SHORT_OHM, Fault, within
from umber_trunk.core.prove.meter import SLIP
from umber_trunk.core.prove.priors import LEAK_OHM
from umber_trunk.core.prove.state import State

Floats = NDArray[np.float64]
ALONG = tuple(np.linspace(0.02, 0.98, 49))
"""Where along them two wires may touch, as shares of the way they run together."""
LEAST_RESISTIVE_OHM = 20 * SHORT_OHM
"""More between two nets is a resistance and no metal."""
RESISTIVE, PER_OHM = 0.4, 0.05
"""Of the shorts and leaks, how many are a resistance between two nets; and of those, how many lie within a tenth of the
ohms read."""
CLIPPED_OHM, CLIPPED_HIGH = 2.0, math.log(0.01)
"""Wires that touch read more than so much between points clipped together as seldom as that."""
READ_SHARE, INSULATION_SHARE = 0.03, 0.12
"""One standard deviation of the ohms between two nets, as a share: read by an ohmmeter, or by an insulation tester."""
LEAST_LEAK_OHM = 0.5 * LEAK_OHM[0]
"""What an ohmmeter reads between nets is a short below this, a leak above."""


class Touching(Evidence):
    """The search for wires that touch."""

    def _shorted(self, belief: Belief, log_depth: float) -> list[Belief]:
        """Every two islands that lead to one another in a reading and were never shown apart; then every two of their
        wires, at places along them."""
        found: list[Belief] = []
        for islands, ones, twos, ohm in self._joined(belief, 0.0, LEAST_LEAK_OHM):
            found += self._touch(belief, islands, ones, twos, log_depth)
            if ohm > LEAST_RESISTIVE_OHM:
                fault = within(Fault("short", (ones[0], twos[0]), ohm=ohm, along=0.5), READ_SHARE)
                share = self.priors.shares["short"] * RESISTIVE / max(self._pairs, 1) * PER_OHM
                found += self._if_likely(belief, self._child(belief, fault, log_depth + math.log(share)))
        return found

    def _bridged(self, belief: Belief, log_depth: float) -> list[Belief]:
        """Every two islands between which an ohmmeter reads thousands of ohms: a leak of one to the other."""
        found: list[Belief] = []
        for _, ones, twos, ohm in self._joined(belief, LEAST_LEAK_OHM, self.meter.over_ohm):
            share = self.priors.shares["leak"] * RESISTIVE / max(self._pairs, 1) * PER_OHM
            fault = within(Fault("leak", (ones[0], twos[0]), ohm=ohm), READ_SHARE)
            child = self._child(belief, fault, log_depth + math.log(share))
            found += self._if_likely(belief, child)
        return found

    def _if_likely(self, belief: Belief, child: Belief | None) -> list[Belief]:
        return [child] if child is not None and child.log > belief.log - NEGLIGIBLE else []

    @property
    def _pairs(self) -> int:
        """How many pairs of nets there are."""
        nets = len(self.net.nets)
        return nets * (nets - 1) // 2

    def _joined(
        self, belief: Belief, least: float, most: float
    ) -> list[tuple[tuple[int, int], list[str], list[str], float]]:
        """(islands, wires of the one, of the other, ohms read) of every two islands that lead to one another in a
        reading of so many ohms, and were never shown apart; what is read by fewest points first."""
        state = belief.state
        positive = [
            at
            for at in belief.odd
            if least <= self.readings[at].ohm < most
            and self.readings[at].probe.kind != "insulation"
            and math.isinf(belief.seen[at].ohm)
        ]
        if not positive:
            return []
        numbers = sorted(set(state.island.values()))
        place = {number: n for n, number in enumerate(numbers)}
        apart = np.zeros((len(numbers), len(numbers)), dtype=bool)
        votes = np.zeros((len(numbers), len(numbers)), dtype=int)
        ohms: dict[tuple[int, int], tuple[int, float]] = {}
        for at, reading in enumerate(self.readings):
            if reading.probe.kind == "insulation" or reading.probe.lift:
                continue
            a = np.array(sorted({place[state.island[state.node(p)]] for p in reading.probe.a}))
            b = np.array(sorted({place[state.island[state.node(p)]] for p in reading.probe.b}))
            if math.isinf(reading.ohm):
                apart[np.ix_(a, b)] = True
                apart[np.ix_(b, a)] = True
            elif at in positive:
                votes[np.ix_(a, b)] += 1
                votes[np.ix_(b, a)] += 1
                said = (len(a) * len(b), reading.ohm)
                for i in a.tolist():
                    for j in b.tolist():
                        pair = (min(i, j), max(i, j))
                        ohms[pair] = min(ohms.get(pair, said), said)
        wires: dict[int, list[str]] = {}
        for wire in self.priors.wires:
            row = self.net.edge_of[wire]
            if row in state.edges:
                wires.setdefault(place[state.island[state.edges[row].a]], []).append(wire)
        pairs = [
            (int(i), int(j))
            for i, j in zip(*np.nonzero(np.triu(votes > 0, 1) & ~np.triu(apart, 1)), strict=True)
            if i in wires and j in wires
        ]
        pairs.sort(key=lambda pair: -votes[pair])
        return [((numbers[i], numbers[j]), wires[i], wires[j], ohms[i, j][1]) for i, j in pairs[: 4 * BEAM]]

    def _touch(
        self, belief: Belief, islands: tuple[int, int], ones: list[str], twos: list[str], log_depth: float
    ) -> list[Belief]:
        """Two islands joined at one place: from the resistances between their points, which wires and where."""
        state = belief.state
        example = state.derive(Fault("short", (ones[0], twos[0])))
        which = self._touching(example.touched)
        seen = {at: example.see(self.readings[at].probe) for at in which}
        cross = [at for at in which if self._crosses(state, at, islands)]
        others = [at for at in which if at not in cross]
        filled = [seen.get(at, belief.seen[at]) for at in range(len(self.readings))]
        gain = self._log(example, others, filled) - self._log(state, which, belief.seen)
        gain += math.log(SLIP) * sum(math.isinf(self.readings[at].ohm) for at in cross)
        gain += CLIPPED_HIGH * sum(
            CLIPPED_OHM < self.readings[at].ohm < math.inf and not self.readings[at].probe.single for at in others
        )
        cross = [at for at in cross if math.isfinite(self.readings[at].ohm)]
        if gain + log_depth < -NEGLIGIBLE - 20:
            return []
        logs = self._places(state, islands, ones, twos, cross)
        prior = np.array([[self.priors.log_short(one, two) for two in twos] for one in ones])
        whole = np.logaddexp.reduce(logs, axis=2) - math.log(len(ALONG)) + prior + gain + log_depth
        best = float(whole.max())
        found = []
        order = np.argsort(-whole, axis=None)[: BEAM // 2]
        for i, j in zip(*np.unravel_index(order, whole.shape), strict=True):
            if whole[i, j] < max(best - 6, -NEGLIGIBLE):
                break
            fault = Fault("short", (ones[int(i)], twos[int(j)]), along=float(ALONG[int(np.argmax(logs[i, j]))]))
            found.append(self._resolved(belief, fault, belief.log + float(whole[i, j]), cross))
        found.sort(key=lambda one: -one.log)
        return found[:BEAM]

    def _places(
        self, state: State, islands: tuple[int, int], ones: list[str], twos: list[str], cross: list[int]
    ) -> Floats:
        """log p of the readings across, (ones, twos, ALONG): for each two wires, touching at each place along them."""
        if not cross:
            return np.zeros((len(ones), len(twos), len(ALONG)))
        left, right = self._away(state, islands[0], ones, cross), self._away(state, islands[1], twos, cross)
        alike = np.array([[state.alike(one, two) for two in twos] for one in ones])
        second = np.where(alike[:, :, None, None], right[None, :, :, :], right[None, :, ::-1, :])
        predicted = left[:, None, :, :] + second + SHORT_OHM
        ohms = [np.array([state.edges[self.net.edge_of[wire]].ohm for wire in wires]) for wires in (ones, twos)]
        width = ohms[0][:, None] + ohms[1][None, :]
        meter = np.array([self._meter_sd(self.readings[at].probe, float(self.readings[at].ohm)) for at in cross])
        shared = np.full(predicted.shape[:3], SHORT_OHM**2)
        own = meter**2 + (0.025 * predicted) ** 2 + (0.01 * width[:, :, None, None]) ** 2
        off = np.array([self.readings[at].ohm for at in cross]) - predicted
        weight = 1 / own
        # a common error of variance s beside independent ones: Sherman and Morrison
        sums, squares, crossed = weight.sum(-1), (weight * off**2).sum(-1), (weight * off).sum(-1)
        logs: Floats = (
            -0.5 * (squares - shared * crossed**2 / (1 + shared * sums))
            - 0.5 * (np.log(own).sum(-1) + np.log1p(shared * sums))
            - 0.5 * len(cross) * math.log(2 * math.pi)
        )
        return logs

    def _crosses(self, state: State, at: int, islands: tuple[int, int]) -> bool:
        """Whether a reading is between one point of each of two islands."""
        probe = self.readings[at].probe
        if not probe.single or probe.lift or probe.kind == "insulation":
            return False
        return {state.island[state.node(probe.a[0])], state.island[state.node(probe.b[0])]} == set(islands)

    def _away(self, state: State, island: int, wires: list[str], cross: list[int]) -> Floats:
        """(wires, places along them, readings): resistance from the probe in this island to a place along a wire of
        it."""
        rows, inverse = state.solved(island)
        diagonal = np.diag(inverse)
        found = np.zeros((len(wires), len(ALONG), len(cross)))
        x = np.array(ALONG)[:, None]
        for k, at in enumerate(cross):
            probe = self.readings[at].probe
            nodes = [state.node(p) for p in (*probe.a, *probe.b) if state.island[state.node(p)] == island]
            p = rows[nodes[0]]
            to = diagonal + diagonal[p] - 2 * inverse[p]
            for n, wire in enumerate(wires):
                edge = state.edges[self.net.edge_of[wire]]
                u, v = rows[edge.a], rows[edge.b]
                straight = diagonal[u] + diagonal[v] - 2 * inverse[u, v]
                found[n, :, k] = ((1 - x) * to[u] + x * to[v] + x * (1 - x) * (edge.ohm - straight))[:, 0]
        return found
