"""A simulated unit under test: the harness as somebody built it, with hidden faults, and a meter with noise."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import replace

from umber_trunk.core.prove.fault import LEADS, Fault
from umber_trunk.core.prove.meter import INSULATION_LOG10, INSULATION_SD, SHAKEN, Meter
from umber_trunk.core.prove.netlist import Netlist, Point
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.state import SHAKES, State


class Unit:
    """One unit. Its sound wires differ from the plan as sound wires do; the same seed gives the same unit and the same
    readings in the same order."""

    def __init__(
        self, net: Netlist, faults: Sequence[Fault] = (), seed: int = 1, meter: Meter | None = None, noise: float = 1.0
    ) -> None:
        self.net, self.faults, self.meter, self.noise = net, tuple(faults), meter or Meter(), noise
        self._random, self._seed = random.Random(seed), seed
        self._off: dict[int, float] = {}
        self._parts: dict[str, dict[str, float]] = {}
        state = State(net)
        for at, edge in list(state.edges.items()):
            true = edge.ohm * math.exp(self._random.gauss(0, noise * min(edge.sd_ohm / edge.ohm, 0.3)))
            state.edges[at] = replace(edge, ohm=true)
            self._off[at] = true - edge.ohm
        for fault in self.faults:
            anywhere = fault.what == "short" and fault.along is None
            state = state.derive(replace(fault, along=self._random.uniform(0.05, 0.95)) if anywhere else fault)
        self.state = state
        self._at_loose: dict[Point, float] = {}
        """What each contact of a plug that isn't home adds, infinite where it touches nothing."""
        for end in sorted(state.loose):
            mine = [point for point in net.points if point[0] == end]
            for number, point in enumerate(mine):
                draw = self._random.random() * (
                    1.0 if number > 1 else 0.8
                )  # two of them at least, else it is a contact's own fault
                self._at_loose[point] = (
                    math.inf if draw < 0.4 else 0.05 * 1000 ** self._random.random() if draw < 0.8 else 0.0
                )
        self.leads = sum(fault.ohm for fault in self.faults if fault.what == LEADS)
        self.readings = 0

    def measure(self, probe: Probe) -> float:
        """What the meter shows, in Ω, infinite for nothing."""
        self.readings += 1
        if probe.kind in SHAKEN.values():
            return max(self._once(probe) for _ in range(SHAKES))
        return self._once(probe)

    def _once(self, probe: Probe) -> float:
        seen = self.state.see(probe, clipped=True)
        ohm = seen.ohm
        if probe.part:
            return self._part(probe, ohm)
        if seen.vague:
            ohm += sum(self._at_loose.get(point, 0.0) for point in (*probe.a, *probe.b)) * self._random.uniform(
                0.7, 1.4
            )
        flicker = max((self.state.flickers.get(edge, 0.0) for edge, share in seen.shares if share > 0.99), default=0.0)
        if flicker and self._random.random() < flicker:
            ohm = math.inf
        if probe.kind == "insulation" and math.isinf(ohm):
            ohm = 10 ** self._random.gauss(INSULATION_LOG10, self.noise * INSULATION_SD)
        if probe.kind == "two":
            ohm += self.leads
        if math.isfinite(ohm):
            ohm = max(ohm + self.noise * self._random.gauss(0, self.meter.sd(probe.kind, ohm)), 0.0)
        return ohm if ohm <= self.meter.over(probe.kind) else math.inf

    def _part(self, probe: Probe, ohm: float) -> float:
        """Millivolts across a part of a wire, in ohms: it is off by what the whole wire of this unit is."""
        if math.isinf(ohm):
            return math.inf
        true = ohm + self._own_parts(probe.wire).get(probe.part, 0.0)
        return max(true + self.noise * self._random.gauss(0, self.meter.part_sd(probe.amps, true)), 0.0)

    def _own_parts(self, wire: str) -> dict[str, float]:
        """What each part of a wire of this unit is off by: drawn part by part, then brought to what the whole wire is
        off by."""
        if wire not in self._parts:
            names = self.net.parts(wire)
            sds = [self.net.part_ohm(wire, part)[1] for part in names]
            draw = random.Random(f"{self._seed} {wire}")
            off = [self.noise * draw.gauss(0, sd) for sd in sds]
            rest, whole = self._off[self.net.edge_of[wire]] - sum(off), sum(sd**2 for sd in sds)
            if "along" in names:
                off = [one + rest * sd**2 / whole for one, sd in zip(off, sds, strict=True)]
            self._parts[wire] = dict(zip(names, off, strict=True))
        return self._parts[wire]
