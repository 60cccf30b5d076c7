"""The coupled solution of one case: currents, voltages and temperatures of the whole harness.

Resistance follows temperature, temperature follows loss, power loads follow voltage: all are passed
round until nothing moves.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.harness.model import Case, Design
from umber_trunk.core.physics.heat import HOTTEST_C
from umber_trunk.core.physics.network import Flow, solve_flow
from umber_trunk.core.physics.transient import (
    adiabatic_rise_k,
    duty_factor,
    heat_capacity_j_mk,
    thermal_resistance_km_w,
)
from umber_trunk.core.sizing.plant import Plant, build_plant, load_amps
from umber_trunk.core.sizing.thermal import ThermalPlan, Warming, pair_temperatures, plan_heat, times_of, warming

Floats = NDArray[np.float64]
ALL_ON = Case(id="all", name="everything on")
MOST_PASSES = 60
STILL_C, STILL_V = 0.03, 5e-5  # each pass moves a third or less of the one before


@dataclass(frozen=True)
class CaseSolution:
    """One case solved. Wire columns follow plant.wires, load columns plant.loads; NaN where unfed.

    wire_a is signed from start to finish; heat_a is the current that heats a wire alone in air like the worst
    instant of the duties, warming the same for every pair of the thermal plan where it lies; surge_v and surge_a are the lowest and highest during any surge (NaN and 0 without one).
    """

    case: Case
    running: NDArray[np.bool_]
    wire_a: Floats
    heat_a: Floats
    warming: Warming
    link_a: Floats
    wire_ohm: Floats
    conductor_c: Floats
    mean_c: Floats
    ambient_c: Floats
    pair_c: Floats
    node_v: Floats
    load_v: Floats
    load_a: Floats
    surge_v: Floats
    surge_a: Floats
    surge_c: Floats
    settled: bool

    @property
    def wire_drop_v(self) -> Floats:
        """Voltage lost along each wire and its joints, without sign."""
        result: Floats = np.abs(self.wire_a) * self.wire_ohm
        return result


@dataclass(frozen=True)
class Solution:
    """All cases of one design with the sizes they were solved for."""

    plant: Plant
    heat: ThermalPlan
    cases: list[CaseSolution]


def solve(
    design: Design,
    sizes: Mapping[str, str] | None = None,
    warm: Solution | None = None,
) -> Solution:
    """Solves every case; a design without cases is solved with everything on. `warm` is the solution of a
    like harness (other sizes), from which the passes start: fewer of them, the same answer."""
    plant = build_plant(design, sizes)
    heat = plan_heat(plant)
    known = {case.case.id: case for case in warm.cases} if warm else {}
    cases = [solve_case(plant, heat, case, known.get(case.id)) for case in design.cases or (ALL_ON,)]
    return Solution(plant, heat, cases)


@dataclass
class _State:
    load_v: Floats
    pair_c: Floats
    mean_c: Floats


def solve_case(plant: Plant, heat: ThermalPlan, case: Case, warm: CaseSolution | None = None) -> CaseSolution:
    """Fixed point of network, losses and temperatures for the loads of one case."""
    running = np.array([case.loads is None or load.id in case.loads for load in plant.loads], dtype=bool)
    ambient = heat.ambient_c if case.ambient_c is None else np.full_like(heat.ambient_c, case.ambient_c)
    _, ambient_mean = heat.by_wire(ambient)
    classes, members = _duty_classes(plant, running)
    tau = _time_constants(plant, ambient_mean)
    factors = np.array([np.ones(len(tau)), *(duty_factor(on, period, tau) for on, period in classes)])
    times = times_of(heat, plant) if classes else None
    state = _State(plant.nominal_v.copy(), ambient.copy(), ambient_mean)
    if warm is not None and len(warm.pair_c) == len(ambient) and len(warm.load_v) == len(plant.loads):
        state = _State(np.nan_to_num(warm.load_v), warm.pair_c, heat.by_wire(np.minimum(warm.pair_c, HOTTEST_C))[1])
    settled, trail = False, [state.pair_c]
    for _ in range(MOST_PASSES):
        amps = load_amps(plant, state.load_v, running)
        flow = _flow(plant, state.mean_c, amps, members)
        shares = np.abs(flow.branch_a[: len(plant.wires), 1:])
        warm_a = warming(heat, shares, classes, times)
        pair_c = pair_temperatures(heat, plant, warm_a, state.pair_c, case.ambient_c)
        load_v = flow.volts[plant.load_plus, 0] - flow.volts[plant.load_minus, 0]
        moved_c = float(np.max(np.abs(pair_c - state.pair_c), initial=0.0))
        moved_v = float(np.max(np.abs(np.nan_to_num(load_v - state.load_v)), initial=0.0))
        trail.append(pair_c)
        settled = moved_c < STILL_C and moved_v < STILL_V
        if len(trail) == 3 and not settled:
            pair_c = _strided(trail[0], trail[1], trail[2], ambient)
            trail = [pair_c]
        state = _State(np.nan_to_num(load_v), pair_c, heat.by_wire(np.minimum(pair_c, HOTTEST_C))[1])
        if settled:
            break
    heat_a = np.einsum("kw,wk->w", factors, shares) if classes else shares[:, 0]
    return _finished(plant, heat, case, running, flow, (heat_a, warm_a), state, ambient_mean, settled)


def _strided(first: Floats, second: Floats, third: Floats, ambient_c: Floats) -> Floats:
    """Aitken's step for each temperature whose changes shrink steadily; the others stay as they are."""
    step, next_step = second - first, third - second
    bend = next_step - step
    ratio = next_step / np.where(np.abs(step) > 1e-9, step, 1.0)
    steady = (np.abs(bend) > 1e-9) & (ratio > 0) & (ratio < 0.9)
    better = first - np.square(step) / np.where(steady, bend, 1.0)
    result: Floats = np.where(steady, np.clip(better, ambient_c, HOTTEST_C), third)
    return result


def _duty_classes(plant: Plant, running: NDArray[np.bool_]) -> tuple[list[tuple[float, float]], NDArray[np.intp]]:
    """The distinct duties among running loads, and each load's class: 0 continuous, k the k-th duty."""
    kinds = [(load.on_s, load.period_s) for load in plant.loads]
    classes = sorted(
        {(on, period) for (on, period), runs in zip(kinds, running, strict=True)
         if runs and on is not None and period is not None and on < period}
    )  # fmt: skip
    order: dict[tuple[float | None, float | None], int] = {
        (on, period): number + 1 for number, (on, period) in enumerate(classes)
    }
    return classes, np.array([order.get(kind, 0) for kind in kinds], dtype=np.intp)


def _time_constants(plant: Plant, ambient_c: Floats) -> Floats:
    """Thermal time constant [s] of each wire as if alone: the shortest it can have, so the safe side."""
    capacity = np.array([heat_capacity_j_mk(c) for c in plant.conductors])
    result: Floats = capacity * thermal_resistance_km_w(np.full(len(capacity), 3.0), plant.bodies, ambient_c)
    return result


def _flow(plant: Plant, mean_c: Floats, amps: Floats, members: NDArray[np.intp]) -> Flow:
    """Column 0: all loads; columns 1…: the continuous loads with the sources, then each duty alone."""
    classes = int(members.max(initial=0)) + 1
    split = [np.where(members == k, amps, 0.0) for k in range(classes)]
    columns = np.column_stack([amps, *split]) if len(amps) else np.zeros((0, 1 + classes))
    emf = plant.source_volts
    volts = np.column_stack([emf, emf, *([np.zeros_like(emf)] * (classes - 1))])
    siemens = np.concatenate([1 / plant.wire_ohm(mean_c), 1 / plant.link_ohm])
    side = plant.network.right_hand(volts, plant.load_plus, plant.load_minus, columns)
    return solve_flow(plant.network, siemens, plant.source_ohm, side)


def _finished(
    plant: Plant, heat: ThermalPlan, case: Case, running: NDArray[np.bool_], flow: Flow,
    heating: tuple[Floats, Warming], state: _State, ambient_mean: Floats, settled: bool,
) -> CaseSolution:  # fmt: skip
    heat_a, warm_a = heating
    hottest, mean = heat.by_wire(state.pair_c)
    amps = load_amps(plant, state.load_v, running)
    surge_v, surge_a, surge_c = _surges(plant, heat, running, amps, hottest, mean, heat_a)
    wires = len(plant.wires)
    return CaseSolution(
        case=case, running=running, wire_a=flow.branch_a[:wires, 0], heat_a=heat_a, warming=warm_a,
        link_a=flow.branch_a[wires:, 0], wire_ohm=plant.wire_ohm(mean), conductor_c=hottest, mean_c=mean,
        ambient_c=ambient_mean, pair_c=state.pair_c, node_v=flow.volts[:, 0],
        load_v=flow.volts[plant.load_plus, 0] - flow.volts[plant.load_minus, 0], load_a=amps,
        surge_v=surge_v, surge_a=surge_a, surge_c=surge_c, settled=settled,
    )  # fmt: skip


def _surges(
    plant: Plant,
    heat: ThermalPlan,
    running: NDArray[np.bool_],
    amps: Floats,
    hottest: Floats,
    mean_c: Floats,
    heat_a: Floats,
) -> tuple[Floats, Floats, Floats]:
    """Each surging load in turn on top of all others running: worst voltage, current, temperature."""
    rows = [
        row for row, load in enumerate(plant.loads)
        if running[row] and load.surge_a is not None and load.surge_a > amps[row]
    ]  # fmt: skip
    if not rows or not plant.supplies:
        return np.full(len(plant.loads), np.nan), np.zeros(len(plant.wires)), hottest.copy()
    columns = np.tile(amps[:, None], (1, len(rows)))
    for column, row in enumerate(rows):
        columns[row, column] = plant.loads[row].surge_a or 0.0
    siemens = np.concatenate([1 / plant.wire_ohm(mean_c), 1 / plant.link_ohm])
    volts = np.tile(plant.source_volts[:, None], (1, len(rows)))
    side = plant.network.right_hand(volts, plant.load_plus, plant.load_minus, columns)
    flow = solve_flow(plant.network, siemens, plant.source_ohm, side)
    across = flow.volts[plant.load_plus] - flow.volts[plant.load_minus]
    surge_v = np.where(running, across.min(axis=1), np.nan)
    through = np.abs(flow.branch_a[: len(plant.wires)])
    seconds = np.array([plant.loads[row].surge_s or 1.0 for row in rows])
    rise = surge_rise_k(plant, through, heat_a, hottest, counted_seconds(heat, plant, seconds))
    return surge_v, through.max(axis=1), hottest + rise.max(axis=1)


def counted_seconds(heat: ThermalPlan, plant: Plant, seconds: Floats) -> Floats:
    """(wires, starts): how many seconds of each start count for each wire, where most do."""
    found = np.zeros((len(plant.wires), len(seconds)))
    np.maximum.at(found, heat.wire, times_of(heat, plant).counted_s(seconds))
    return found


def surge_rise_k(plant: Plant, through: Floats, heat_a: Floats, hottest: Floats, counted_s: Floats) -> Floats:
    """Rise above the running temperature (wires, starts): adiabatic over the seconds that count."""
    extra = (np.square(through) - np.square(heat_a)[:, None]) / np.square(plant.parallel)[:, None]
    capacity = np.array([heat_capacity_j_mk(c) for c in plant.conductors])[:, None]
    bodies, celsius = plant.bodies, np.minimum(hottest, HOTTEST_C)[:, None]
    rise = adiabatic_rise_k(
        extra, counted_s, celsius, bodies.ohm_per_m_20[:, None], bodies.alpha_per_k[:, None], capacity
    )
    result: Floats = np.minimum(rise, HOTTEST_C)
    return result
