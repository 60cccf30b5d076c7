"""4–20 mA loops: whether the instrument still has its volts at 22 mA, hot, through barrier, both legs and receiver."""

from __future__ import annotations

import math
from dataclasses import dataclass

from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results

MOST_A = 0.022
"""What an instrument drives to say that it has failed; the loop has to stand it."""
SUPPLY_SHARE = 0.95
"""A supply may be so far under its stated volts; the loop has to work then too."""


@dataclass(frozen=True)
class Budget:
    """Where a loop's volts go at 22 mA; `left_v` is what stays at the instrument, `run_ohm` both legs of the harness, hot."""

    loop: str
    name: str
    plus: str
    minus: str
    supply_v: float
    barrier_v: float
    run_ohm: float
    run_v: float
    receiver_v: float
    left_v: float
    need_v: float

    @property
    def ok(self) -> bool:
        """Whether the instrument works at 22 mA."""
        return self.left_v >= self.need_v

    @property
    def told(self) -> str:
        """The sum, with its figures."""
        return (
            f"{self.supply_v:.2f} V (5 % low) − 22 mA · (barrier {self.barrier_v / MOST_A:.0f} Ω + run {self.run_ohm:.1f} Ω + receiver {self.receiver_v / MOST_A:.0f} Ω) = "
            f"{self.left_v:.2f} V, needs {self.need_v:g} V"
        )


def budgets(design: Design, results: Results) -> list[Budget]:
    """Every loop's budget, from the solved harness; loops whose instrument nothing feeds have no volts left."""
    found = []
    plant = results.figures.solution.plant
    nominal = {load.id: float(volts) for load, volts in zip(plant.loads, plant.nominal_v, strict=True)}
    loads = {load.id: load for load in design.loads}
    for loop in design.loops:
        load, known = loads.get(loop.load), results.figures.loads.get(loop.load)
        if load is None:
            continue
        volts = SUPPLY_SHARE * nominal.get(load.id, math.nan)
        at_load = known.volts if known is not None else math.nan
        fed = math.isfinite(volts) and math.isfinite(at_load) and load.value > 0
        run_ohm = max((nominal[load.id] - at_load) / load.value, 0.0) if fed else math.inf
        run, barrier, receiver = MOST_A * run_ohm, MOST_A * loop.barrier_ohm, MOST_A * loop.receiver_ohm
        left = volts - run - barrier - receiver if fed else 0.0
        found.append(
            Budget(
                loop.id,
                loop.name,
                str(load.plus),
                str(load.minus),
                volts if fed else 0.0,
                barrier,
                run_ohm,
                run if fed else 0.0,
                receiver,
                left,
                loop.need_v,
            )
        )
    return found
