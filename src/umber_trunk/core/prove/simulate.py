"""A simulated unit under test: the harness as somebody built it, with hidden faults, and a meter with noise."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import replace

from umber_trunk.core.prove.faults import LEADS, Fault
from umber_trunk.core.prove.meter import INSULATION_LOG10, INSULATION_SD, Meter
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.state import Probe, State


class Unit:
    """One unit. Its sound wires differ from the plan as sound wires do; the same seed gives the same unit and the same readings
    in the same order."""

    def __init__(
        self, net: Netlist, faults: Sequence[Fault] = (), seed: int = 1, meter: Meter | None = None, noise: float = 1.0
    ) -> None:
        self.net, self.faults, self.meter, self.noise = net, tuple(faults), meter or Meter(), noise
        self._random = random.Random(seed)
        state = State(net)
        for at, edge in list(state.edges.items()):
            true = edge.ohm * math.exp(self._random.gauss(0, noise * min(edge.sd_ohm / edge.ohm, 0.3)))
            state.edges[at] = replace(edge, ohm=true)
        for fault in self.faults:
            anywhere = fault.what == "short" and fault.along is None
            state = state.derive(replace(fault, along=self._random.uniform(0.05, 0.95)) if anywhere else fault)
        self.state = state
        self.leads = sum(fault.ohm for fault in self.faults if fault.what == LEADS)
        self.readings = 0

    def measure(self, probe: Probe) -> float:
        """What the meter shows, in Ω, infinite for nothing."""
        self.readings += 1
        ohm = self.state.see(probe, clipped=True).ohm
        if probe.kind == "insulation" and math.isinf(ohm):
            ohm = 10 ** self._random.gauss(INSULATION_LOG10, self.noise * INSULATION_SD)
        if probe.kind == "two":
            ohm += self.leads
        if math.isfinite(ohm):
            ohm = max(ohm + self.noise * self._random.gauss(0, self.meter.sd(probe.kind, ohm)), 0.0)
        return ohm if ohm <= self.meter.over(probe.kind) else math.inf
