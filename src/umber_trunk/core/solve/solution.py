"""The coupled solution of one case: currents, voltages and temperatures of the whole harness.

Resistance follows temperature, temperature follows loss, power loads follow voltage: all are passed
round until nothing moves.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.harness.model import Case, Design, LoadKind
from umber_trunk.core.physics.heat import HOTTEST_C, fin_rise_k
from umber_trunk.core.physics.network import Flow, solve_flow
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk, thermal_resistance_km_w
from umber_trunk.core.solve.heat_plan import ThermalPlan, plan_heat
from umber_trunk.core.solve.plant import HELD_SHARE, Plant, build_plant, load_amps
from umber_trunk.core.solve.standing import standing_in
from umber_trunk.core.solve.thermal import Times, Warming, pair_temperatures, warming

Floats = NDArray[np.float64]
ALL_ON = Case(id="all", name="everything on")
MOST_PASSES = 60
"""Rounds of network and temperatures."""
MOST_A = 1e6  # as in the model: no current of a harness is above it
STILL_C, STILL_V, STILL_A = 0.03, 5e-5, 1e-4  # each pass moves a third or less of the one before


@dataclass(frozen=True)
class CaseSolution:
    """One case solved. Wire columns follow plant.wires, load columns plant.loads; NaN where unfed.

    wire_a is signed from start to finish; heat_a is the current that heats a wire alone in air like the worst
    instant of the duties, warming the same for every pair of the thermal plan where it lies; surge_v and surge_a are
    the lowest and highest during any surge (NaN and 0 without one). conductor_c counts the heat of a wire's own joints.
    sag_v is what each load's source loses inside; collapsed marks loads that no voltage can feed.
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
    sag_v: Floats
    collapsed: NDArray[np.bool_]

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

    @property
    def worst_amps(self) -> dict[str, float]:
        """The largest current of each wire over all cases, by its id."""
        most = np.abs([case.wire_a for case in self.cases]).max(axis=0).tolist()
        return dict(zip([wire.id for wire in self.plant.wires], most, strict=True))

    @property
    def hottest_c(self) -> dict[str, float]:
        """Segment → the hottest conductor in it in any case, the warmest first."""
        heat = self.heat
        most = np.full(len(heat.bundles.segment), -np.inf)
        for case in self.cases:
            np.maximum.at(most, heat.bundle, case.pair_c)
        table = {name: hot for name, hot in zip(heat.bundles.segment, most.tolist(), strict=True) if name}
        return dict(sorted(table.items(), key=lambda entry: -entry[1]))


def solve(
    design: Design,
    sizes: Mapping[str, str] | None = None,
    warm: Solution | None = None,
    shelf: Shelf | None = None,
) -> Solution:
    """Solves every case; a design without cases is solved with everything on. `warm` is the solution of a
    like harness (other sizes), from which the passes start: fewer of them, the same answer."""
    plant = build_plant(design, sizes, shelf)
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
    times = Times(heat, plant) if classes else None
    state = _State(plant.nominal_v.copy(), ambient.copy(), ambient_mean)
    drawn = np.zeros(len(plant.converters))
    if warm is not None and len(warm.pair_c) == len(ambient) and len(warm.load_v) == len(plant.loads):
        state = _State(np.nan_to_num(warm.load_v), warm.pair_c, heat.by_wire(np.minimum(warm.pair_c, HOTTEST_C))[1])
    settled, trail, amps = False, [state.pair_c], None
    for _ in range(MOST_PASSES):
        amps = load_amps(plant, state.load_v, running, amps)
        flow = _flow(plant, state.mean_c, amps, members, drawn)
        shares = np.abs(flow.branch_a[: len(plant.wires), 1:])
        warm_a = warming(heat, shares, classes, times)
        pair_c = pair_temperatures(heat, plant, warm_a, state.pair_c, case.ambient_c)
        if times is not None:
            times.follow(warm_a.bulk_a, state.pair_c, case.ambient_c)
        load_v = flow.across(plant.load_plus, plant.load_minus)[:, 0]
        before, drawn = drawn, _converter_amps(plant, flow)
        moved_c = float(np.max(np.abs(pair_c - state.pair_c), initial=0.0))
        moved_v = float(np.max(np.abs(np.nan_to_num(load_v - state.load_v)), initial=0.0))
        trail.append(pair_c)
        moved_a = float(np.max(np.abs(drawn - before), initial=0.0))
        settled = moved_c < STILL_C and moved_v < STILL_V and moved_a < STILL_A
        if len(trail) == 3 and not settled:
            pair_c = _strided(trail[0], trail[1], trail[2], ambient)
            trail = [pair_c]
        state = _State(np.nan_to_num(load_v), pair_c, heat.by_wire(np.minimum(pair_c, HOTTEST_C))[1])
        if settled:
            break
    heat_a = np.einsum("kw,wk->w", factors, shares) if classes else shares[:, 0]
    return _finished(plant, heat, case, running, flow, (heat_a, warm_a), state, ambient_mean, settled, drawn, amps)


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
        {
            (on, period)
            for (on, period), runs in zip(kinds, running, strict=True)
            if runs and on is not None and period is not None and on < period
        }
    )
    order: dict[tuple[float | None, float | None], int] = {
        (on, period): number + 1 for number, (on, period) in enumerate(classes)
    }
    return classes, np.array([order.get(kind, 0) for kind in kinds], dtype=np.intp)


def _time_constants(plant: Plant, ambient_c: Floats) -> Floats:
    """Thermal time constant [s] of each wire as if alone: the shortest it can have, so the safe side."""
    capacity = np.array([heat_capacity_j_mk(c) for c in plant.conductors])
    result: Floats = capacity * thermal_resistance_km_w(np.full(len(capacity), 3.0), plant.bodies, ambient_c)
    return result


def _converter_amps(plant: Plant, flow: Flow) -> Floats:
    """What each converter takes in for what it gives out; held where its input collapses."""
    if not plant.converters:
        return np.zeros(0)
    given = np.maximum(flow.source_a[len(plant.supplies) :, 0], 0.0)
    volts = np.array([c.volts for c in plant.converters])
    share = np.array([c.efficiency for c in plant.converters])
    across = flow.across(plant.input_plus, plant.input_minus)[:, 0]
    least = HELD_SHARE * max(float(plant.source_volts[: len(plant.supplies)].max(initial=0.0)), 1.0)
    taken = np.nan_to_num(volts * given / share) / np.maximum(np.nan_to_num(across), least)
    result: Floats = np.minimum(taken, MOST_A)  # beyond it nothing settles, and is said not to
    return result


def _flow(plant: Plant, mean_c: Floats, amps: Floats, members: NDArray[np.intp], drawn: Floats) -> Flow:
    """Column 0: all loads; columns 1…: the continuous loads with the sources, then each duty alone."""
    classes = int(members.max(initial=0)) + 1
    split = [np.where(members == k, amps, 0.0) for k in range(classes)]
    columns = np.column_stack([amps, *split]) if len(amps) else np.zeros((0, 1 + classes))
    emf = plant.source_volts
    volts = np.column_stack([emf, emf, *([np.zeros_like(emf)] * (classes - 1))])
    inputs = np.zeros((len(drawn), 1 + classes))
    inputs[:, :2] = drawn[:, None]
    return _solved(plant, mean_c, volts, columns, inputs)


def _solved(plant: Plant, mean_c: Floats, volts: Floats, amps: Floats, inputs: Floats) -> Flow:
    """The network for load currents (loads, k) and converter inputs; by complex numbers where it is AC, in which a
    load's current lags by its power factor."""
    siemens = np.concatenate([1 / plant.wire_ohm(mean_c), 1 / plant.link_ohm])
    plus, minus = (
        np.concatenate([plant.load_plus, plant.input_plus]),
        np.concatenate([plant.load_minus, plant.input_minus]),
    )
    taken = np.concatenate([amps, inputs])
    if not plant.ac:
        return solve_flow(plant.network, siemens, plant.source_ohm, plant.network.right_hand(volts, plus, minus, taken))
    ways = len(plant.wires)
    siemens = siemens.astype(complex)
    siemens[:ways] = 1 / (1 / siemens[:ways] + 1j * plant.reactance_ohm)
    factor = np.concatenate([plant.power_factor, np.ones(len(inputs))])[:, None]
    lagging = taken * (factor - 1j * np.sqrt(1 - factor**2))
    side = plant.network.right_hand(volts.astype(complex), plus, minus, lagging)
    return solve_flow(plant.network, siemens, plant.source_ohm, side)


def _finished(
    plant: Plant,
    heat: ThermalPlan,
    case: Case,
    running: NDArray[np.bool_],
    flow: Flow,
    heating: tuple[Floats, Warming],
    state: _State,
    ambient_mean: Floats,
    settled: bool,
    drawn: Floats,
    amps: Floats | None,
) -> CaseSolution:
    heat_a, warm_a = heating
    hottest, mean = heat.by_wire(state.pair_c)
    amps = load_amps(plant, state.load_v, running, amps)
    wires, through = len(plant.wires), flow.branch_a[:, 0]
    at_joints = mean + joint_rises_k(plant, through[:wires], mean).max(axis=1)
    power = np.array([load.kind is LoadKind.POWER for load in plant.loads], dtype=bool)
    load_v = flow.across(plant.load_plus, plant.load_minus)[:, 0]
    low = np.nan_to_num(load_v, nan=np.inf) < np.where(settled, HELD_SHARE, 0.6) * np.nan_to_num(plant.nominal_v)
    found = CaseSolution(
        case=case,
        running=running,
        wire_a=through[:wires],
        heat_a=heat_a,
        warming=warm_a,
        link_a=through[wires:],
        wire_ohm=plant.wire_ohm(mean),
        conductor_c=np.minimum(np.maximum(hottest, at_joints), HOTTEST_C),
        mean_c=mean,
        ambient_c=ambient_mean,
        pair_c=state.pair_c,
        node_v=flow.potential,
        load_v=load_v,
        load_a=amps,
        surge_v=np.full(len(plant.loads), np.nan),
        surge_a=np.zeros(wires),
        surge_c=hottest.copy(),
        settled=settled,
        sag_v=plant.sag_v(flow.potential),
        collapsed=running & ((power & low) | _impossible(plant, load_v)),
    )
    return _with_surges(plant, heat, found, drawn)


def _impossible(plant: Plant, volts: Floats) -> NDArray[np.bool_]:
    """Where a load would see far more, of either sign, than all sources in a row could give: a figure that says nothing
    any more. Somewhat below zero is an overload or swapped poles, and is told as such."""
    result: NDArray[np.bool_] = np.abs(np.nan_to_num(volts)) > ABSURD * plant.source_volts.sum()
    return result


ABSURD = 100.0
"""Volts over so many times all sources together are no answer: it ran away."""
SLIGHT_K = 1.0
"""Starts that even without any loss warm a wire less than this are counted without any loss."""


def joint_rises_k(plant: Plant, amps: Floats, mean_c: Floats) -> Floats:
    """(wires, 2): rise of a wire's contact, lug or clamp at its start and finish over the wire's own mean, alone in
    air: what the joint loses flows off along the metal (`heat.fin_rise_k`); its own surface is left out, so that it is
    on the safe side."""
    per_metre = thermal_resistance_km_w(np.full(len(amps), 3.0), plant.bodies, np.minimum(mean_c, 200.0))
    rises = [
        fin_rise_k(np.square(amps) * plant.end_ohm[:, side], plant.conductors, per_metre) / plant.parallel
        for side in (0, 1)
    ]
    result: Floats = np.stack(rises, axis=1)
    return result


def joints_c(plant: Plant, case: CaseSolution) -> Floats:
    """(wires, 2) temperature of the joint at each start and finish."""
    result: Floats = case.mean_c[:, None] + joint_rises_k(plant, case.wire_a, case.mean_c)
    return result


def _with_surges(plant: Plant, heat: ThermalPlan, case: CaseSolution, drawn: Floats) -> CaseSolution:
    """Each surging load in turn on top of all others running: worst voltage, current, temperature."""
    rows = [
        row
        for row, load in enumerate(plant.loads)
        if case.running[row] and load.surge_a is not None and load.surge_a > case.load_a[row]
    ]
    if not rows or not len(plant.source_volts):
        return case
    columns = np.tile(case.load_a[:, None], (1, len(rows)))
    for column, row in enumerate(rows):
        columns[row, column] = plant.loads[row].surge_a or 0.0
    volts = np.tile(plant.source_volts[:, None], (1, len(rows)))
    flow = _solved(plant, case.mean_c, volts, columns, np.tile(drawn[:, None], (1, len(rows))))
    most = plant.source_volts.sum()
    across = np.clip(flow.across(plant.load_plus, plant.load_minus), -most, most)
    through = np.abs(flow.branch_a[: len(plant.wires)])
    seconds = np.array([plant.loads[row].surge_s or 1.0 for row in rows])
    surge_c = start_temperatures(plant, heat, case, through, seconds).max(axis=1)
    return replace(
        case,
        surge_v=np.where(case.running, across.min(axis=1), np.nan),
        surge_a=through.max(axis=1),
        surge_c=np.maximum(surge_c, case.conductor_c),
    )


def start_temperatures(plant: Plant, heat: ThermalPlan, case: CaseSolution, through: Floats, seconds: Floats) -> Floats:
    """(wires, starts): temperature of each wire after each start's current (wires, starts) has run for its seconds,
    where it lies tightest."""
    stored = np.array([c.kg_per_m * c.metal.heat_j_kg_k for c in plant.conductors])
    ohm = plant.bodies.ohm_per_m(np.minimum(case.conductor_c, HOTTEST_C))
    extra = np.maximum(np.square(through) - np.square(case.heat_a)[:, None], 0.0) / np.square(plant.parallel)[:, None]
    most = extra * (ohm / stored)[:, None] * seconds
    found: Floats = case.conductor_c[:, None] + np.minimum(most, SLIGHT_K)
    hit = np.flatnonzero((most > SLIGHT_K).any(axis=1))
    if len(hit):
        standing = standing_in(plant, heat, case, hit)
        found[hit] = standing.after_c(through[hit] / plant.parallel[hit][:, None], seconds)
    return found
