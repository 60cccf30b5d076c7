"""4–20 mA loops: whether the instrument still has its volts at 22 mA, hot, through barrier, both legs and receiver; and
its volts as stairs.

supply ──┐barrier                 each tread is what is left against the supply's minus; the tallest step is the
         └──┐out                  instrument's own, and gets lower as the loop carries more
            └──┐instrument
               └─┐back
                 └──┐receiver ── 0 V
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Loop
from umber_trunk.core.kit.tables import decision_tables
from umber_trunk.core.printed import TICK, PaperTable, Printed
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, say
from umber_trunk.core.solve.feeds import Ways

MOST_A = 0.022
"""What an instrument drives to say that it has failed; the loop has to stand it."""
SUPPLY_SHARE = 0.95
"""A supply may be so far under its stated volts; the loop has to work then too."""


STAIR_MA = (4.0, 12.0, 20.0, 22.0)
"""Currents a loop is stepped through: its ends, its middle, and an instrument that says it has failed."""
COLD_C = -20.0
"""A loop is worked out at this cold too: its copper has least resistance then."""
TREADS = ("supply", "barrier", "out", "instrument", "back", "receiver")


@dataclass(frozen=True)
class Stairs:
    """One loop's volts against the supply's minus after each of `TREADS`, at a current [mA], hot or at −20 °C; `left_v`
    is the instrument's step."""

    loop: str
    name: str
    ma: float
    hot: bool
    volts: tuple[float, ...]
    need_v: float

    @property
    def left_v(self) -> float:
        """What stays at the instrument."""
        return self.volts[2] - self.volts[3]

    @property
    def ok(self) -> bool:
        """Whether the instrument works."""
        return self.left_v >= self.need_v


@dataclass(frozen=True)
class Budget:
    """Where a loop's volts go at 22 mA; `left_v` is what stays at the instrument, `run_ohm` both legs of the harness,
    hot."""

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
    def told(self) -> Message:
        """The sum, with its figures."""
        return Message.of(
            "loop.budget",
            supply_v=self.supply_v,
            barrier_ohm=self.barrier_v / MOST_A,
            run_ohm=self.run_ohm,
            receiver_ohm=self.receiver_v / MOST_A,
            left_v=self.left_v,
            need_v=self.need_v,
        )


def budgets(design: Design, results: Results) -> list[Budget]:
    """Every loop's budget, from the solved harness; loops whose instrument nothing feeds have no volts left."""
    found = []
    plant = results.plant
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


def stairs(design: Design, results: Results) -> list[Stairs]:
    """Every fed loop's volts at 4, 12, 20 and 22 mA, hot (as the case solved hottest) and at −20 °C; a supply 5 %
    low."""
    found = []
    loops = {loop.id: loop for loop in design.loops}
    solution = results.figures.solution
    ways = Ways(solution.plant, solution.cases[0])
    for one in budgets(design, results):
        if not one.supply_v:
            continue
        out, cold = _legs(results, ways, loops[one.loop].load)
        for hot in (True, False):
            run = one.run_ohm * (1.0 if hot else cold)
            for ma in STAIR_MA:
                amps = ma / 1e3
                barrier, receiver = amps * one.barrier_v / MOST_A, amps * one.receiver_v / MOST_A
                behind = one.supply_v - barrier
                at_plus, at_receiver = behind - amps * run * out, receiver
                volts = (one.supply_v, behind, at_plus, at_receiver + amps * run * (1 - out), at_receiver, 0.0)
                found.append(Stairs(one.loop, one.name, ma, hot, volts, one.need_v))
    return found


def _legs(results: Results, ways: Ways, load: str) -> tuple[float, float]:
    """(share of the run's ohms on the way out, ohms at −20 °C over those hot) of a loop's two legs."""
    solution = results.figures.solution
    plant, case = solution.plant, solution.cases[0]
    row = next(n for n, one in enumerate(plant.loads) if one.id == load)
    hot = np.concatenate([case.wire_ohm, plant.link_ohm])
    cold = np.concatenate([plant.wire_ohm(np.full(len(plant.wires), COLD_C)), plant.link_ohm])
    branches = [leg.branch for leg in ways.of(row)]
    whole = float(hot[branches].sum()) if branches else 0.0
    if whole <= 0:
        return 0.5, 1.0
    middle = (case.node_v[plant.load_plus[row]] + case.node_v[plant.load_minus[row]]) / 2
    out = [b for b in branches if (case.node_v[plant.network.a[b]] + case.node_v[plant.network.b[b]]) / 2 > middle]
    return float(hot[out].sum()) / whole, float(cold[branches].sum()) / whole


def loop_sheet(results: Results) -> Printed:
    """Each loop's own sheet: its stairs, its cores with their tags, what is bad, what is spare, and places to mark in
    red what is in and tested."""
    design = results.design
    cautions = (
        "Loop work: the control room knows, and the loop is out of automatic, before a core is lifted. In hazardous "
        "areas by its own rules and a licensed person.",
    )
    tables = [PaperTable(("Cautions",), (1.0,), (), tuple((one,) for one in cautions))]
    steps = stairs(design, results)
    for loop in design.loops:
        tables += [_stairs_table(loop, [one for one in steps if one.loop == loop.id]), _cores_table(design, loop)]
    tables += decision_tables(design)
    state = say("paper.loops", many=len(design.loops))
    return Printed(say("paper.loop-sheets", name=design.project.name), state, True, tuple(tables))


def _stairs_table(loop: Loop, stairs: Sequence[Stairs]) -> PaperTable:
    """What a loop loses step by step, at the least and the most current, hot and cold."""
    rows = tuple(
        (
            say("paper.loop-step", ma=one.ma, hot=one.hot),
            *(f"{v:.2f}" for v in one.volts),
            f"{one.left_v:.2f}{'' if one.ok else ' ✕'}",
            f"{one.need_v:g}",
        )
        for one in stairs
    )
    heads = (say("paper.loop-volts", loop=loop.name), *TREADS, say("paper.left"), say("paper.needs"))
    return PaperTable(heads, (0.28, *([0.09] * 6), 0.09, 0.09), tuple(range(1, 9)), rows)


def _cores_table(design: Design, loop: Loop) -> PaperTable:
    """Its cores with their tags: those of cables and circuits that reach its instrument, and what is spare."""
    load = next((load for load in design.loads if load.id == loop.load), None)
    ends = {load.plus.end, load.minus.end} if load is not None else set()
    arriving = [wire for wire in design.wires if ends & {wire.start.end, wire.finish.end}]
    near, circuits = {wire.cable for wire in arriving} - {None}, {wire.circuit for wire in arriving} - {""}
    index = index_of(design)
    rows = tuple(
        (
            wire.id,
            wire.cable,
            f"{wire.pair or ''}{' bad' if wire.bad else ' spare' if wire.spare else ''}".strip(),
            f"{index.ends[wire.start.end].name} {wire.start.cavity}",
            f"{index.ends[wire.finish.end].name} {wire.finish.cavity}",
            wire.circuit or wire.id,
            TICK,
            TICK,
        )
        for wire in design.wires
        if wire.cable and (wire.cable in near or wire.circuit in circuits or wire.spare)
    )
    heads = (f"{loop.name}: cores", "Cable", "Pair", "From", "To", "Tag", "In", "Tested")
    return PaperTable(heads, (0.14, 0.12, 0.1, 0.2, 0.2, 0.12, 0.06, 0.06), (), rows)
