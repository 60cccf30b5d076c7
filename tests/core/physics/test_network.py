"""Networks against hand calculation, another solver and conservation laws."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import coo_matrix, csc_matrix
from scipy.sparse.csgraph import connected_components
from scipy.sparse.linalg import spsolve

from conftest import design_of
from plates import rings_rise_k
from umber_trunk.core.catalog.conductors import conductor
from umber_trunk.core.harness.edits import put, set_project, set_size
from umber_trunk.core.harness.end import Cavity, End
from umber_trunk.core.harness.model import Case, Design, Load, LoadKind, Pin, Supply, Wire
from umber_trunk.core.physics.network import Network, solve_flow
from umber_trunk.core.physics.sparse import MOST_WHOLE, components, solved
from umber_trunk.core.sample import generated
from umber_trunk.core.solve.feeds import Ways
from umber_trunk.core.solve.margins import figures
from umber_trunk.core.solve.solution import solve

A20 = 0.00393


def ints(*values: int) -> np.ndarray:
    return np.array(values, dtype=np.intp)


def test_divider_by_hand() -> None:
    network = Network.build(3, ints(0, 1), ints(1, 2), ints(0), ints(2))
    side = network.right_hand(np.array([[12.0]]), ints(), ints(), np.zeros((0, 1)))
    flow = solve_flow(network, np.array([1 / 2.0, 1 / 4.0]), np.array([0.0]), side)
    assert flow.volts[:, 0] == pytest.approx([12, 8, 0])
    assert flow.branch_a[:, 0] == pytest.approx([2, 2])
    assert flow.source_a[0, 0] == pytest.approx(2)


def test_source_resistance_and_an_island_without_source() -> None:
    network = Network.build(4, ints(0, 2), ints(1, 3), ints(0), ints(1))
    side = network.right_hand(np.array([[10.0]]), ints(2), ints(3), np.array([[5.0]]))
    flow = solve_flow(network, np.array([1.0, 1.0]), np.array([1.0]), side)
    assert flow.volts[0, 0] == pytest.approx(5)
    assert np.isnan(flow.volts[2:, 0]).all()
    assert flow.branch_a[1, 0] == 0


@given(st.integers(1, 40), st.randoms(use_true_random=False))
def test_what_hangs_together_and_what_is_solved_whole_against_scipy(nodes: int, draw) -> None:
    heads, tails = (ints(*(draw.randrange(nodes) for _ in range(nodes * 2 // 3))) for _ in "ab")
    count, side = components(heads, tails, nodes)
    graph = coo_matrix((np.ones(len(heads)), (heads, tails)), shape=(nodes, nodes))
    theirs = connected_components(graph, directed=False)
    assert (count, len(set(zip(side.tolist(), theirs[1].tolist(), strict=True)))) == (theirs[0], theirs[0])
    values = np.concatenate([-np.ones(2 * len(heads)), np.full(nodes, nodes + 1.0)])
    at = np.concatenate([heads, tails, np.arange(nodes)]), np.concatenate([tails, heads, np.arange(nodes)])
    wanted = np.array([[draw.uniform(-9, 9)] for _ in range(nodes)])
    found = solved((values, at), nodes, wanted)
    assert found[:, 0] == pytest.approx(spsolve(csc_matrix((values, at), shape=(nodes, nodes)), wanted))


def test_large_systems_are_solved_sparse_and_alike() -> None:
    rows = MOST_WHOLE + 1
    chain = ints(*range(rows - 1))
    values = np.concatenate([-np.ones(2 * rows - 2), np.full(rows, 2.1)])
    at = np.concatenate([chain, chain + 1, np.arange(rows)]), np.concatenate([chain + 1, chain, np.arange(rows)])
    found = solved((values, at), rows, np.ones((rows, 1)))
    beside = np.pad(found[:, 0], 1)
    assert 2.1 * found[:, 0] - beside[:-2] - beside[2:] == pytest.approx(np.ones(rows))


@given(st.integers(2, 30), st.randoms(use_true_random=False))
def test_random_trees_obey_kirchhoff(n: int, draw) -> None:
    a = ints(*(draw.randrange(i) for i in range(1, n)))
    b = ints(*range(1, n))
    siemens = np.array([1 / draw.uniform(1e-4, 2.0) for _ in b])
    network = Network.build(n, a, b, ints(0), ints(n - 1))
    amps = np.array([[draw.uniform(0, 20)] for _ in range(3)])
    taken, given_back = ints(*(draw.randrange(n) for _ in range(3))), ints(*(draw.randrange(n) for _ in range(3)))
    flow = solve_flow(
        network, siemens, np.array([0.01]), network.right_hand(np.array([[24.0]]), taken, given_back, amps)
    )
    net = np.zeros(n)
    np.subtract.at(net, a, flow.branch_a[:, 0])
    np.add.at(net, b, flow.branch_a[:, 0])
    np.subtract.at(net, taken, amps[:, 0])
    np.add.at(net, given_back, amps[:, 0])
    net[0] += flow.source_a[0, 0]
    net[n - 1] -= flow.source_a[0, 0]
    assert net == pytest.approx(np.zeros(n), abs=1e-6)


def hot_ohm(size: str, metres: float, celsius: float) -> float:
    """r20·(1 + α·(T − 20))·L, the formula of every wire chart."""
    return conductor(size, "copper", "general", "pvc").ohm_per_m_20 * (1 + A20 * (celsius - 20)) * metres


def test_radial_drop_by_hand() -> None:
    design = design_of("supply 24 V at battery", "pump 18 A at bow run 7.5 m")
    design = set_size(design, ["W1", "W2"], "10 mm2")
    found = figures(solve(design))
    loop = 2 * hot_ohm("10 mm2", 7.5, found.wires["W1"].conductor_c)
    assert found.loads["pump"].drop_v == pytest.approx(18 * loop, rel=1e-3)


def test_power_load_by_the_quadratic() -> None:
    """U = (U0 + √(U0² − 4·P·R))/2 for constant power behind a resistance."""
    design = design_of("supply 24 V at battery", "heater 430 W at bow run 7.5 m")
    design = set_size(design, ["W1", "W2"], "4 mm2")
    found = figures(solve(design))
    loop = 2 * hot_ohm("4 mm2", 7.5, found.wires["W1"].conductor_c)
    exact = (24 + (24**2 - 4 * 430 * loop) ** 0.5) / 2
    assert found.loads["heater"].volts == pytest.approx(exact, rel=1e-3)


def test_resistive_load_is_a_divider() -> None:
    design = set_size(design_of("supply 12 V at battery", "lamp 2 ohm at bow run 5 m"), ["W1", "W2"], "2.5 mm2")
    found = figures(solve(design))
    loop = 2 * hot_ohm("2.5 mm2", 5, found.wires["W1"].conductor_c)
    assert found.loads["lamp"].volts == pytest.approx(12 * 2 / (2 + loop), rel=1e-3)


def shared_return() -> Design:
    """Two loads with own feeds of 4 m and one return of 3 m that both share; all 4 mm²."""
    ends = (
        End(id="bat", name="bat", cavities=(Cavity(id="+"), Cavity(id="-"))),
        End(id="bar", name="bar", kind="stud", cavities=(Cavity(id="1"),)),
        End(id="a", name="a", cavities=(Cavity(id="+"),)),
        End(id="b", name="b", cavities=(Cavity(id="+"),)),
    )
    bar = Pin(end="bar", cavity="1")
    wires = (
        Wire(id="fa", start=Pin(end="bat", cavity="+"), finish=Pin(end="a", cavity="+"), size="4 mm2", stated_m=4),
        Wire(id="fb", start=Pin(end="bat", cavity="+"), finish=Pin(end="b", cavity="+"), size="4 mm2", stated_m=4),
        Wire(id="r", start=bar, finish=Pin(end="bat", cavity="-"), size="4 mm2", stated_m=3),
    )
    loads = (
        Load(id="a", name="a", plus=Pin(end="a", cavity="+"), minus=bar, value=10),
        Load(id="b", name="b", plus=Pin(end="b", cavity="+"), minus=bar, value=6),
    )
    supply = Supply(id="s", name="s", volts=24, plus=Pin(end="bat", cavity="+"), minus=Pin(end="bat", cavity="-"))
    return Design(ends=ends, wires=wires, loads=loads, supplies=(supply,))


def test_a_shared_return_lifts_everybodys_ground() -> None:
    found = figures(solve(shared_return()))
    t = {key: wire.conductor_c for key, wire in found.wires.items()}
    back = 16 * hot_ohm("4 mm2", 3, t["r"])
    assert found.wires["r"].amps == pytest.approx(16)
    assert found.loads["a"].volts == pytest.approx(24 - 10 * hot_ohm("4 mm2", 4, t["fa"]) - back, rel=1e-4)
    assert found.loads["b"].volts == pytest.approx(24 - 6 * hot_ohm("4 mm2", 4, t["fb"]) - back, rel=1e-4)


def test_joints_count_at_both_ends() -> None:
    plain, jointed = (figures(solve(set_project(shared_return(), joint_ohm=j))) for j in (0.0, 0.001))
    # 10 A through two joints of the feed, 16 A through two of the return
    more = plain.loads["a"].volts - jointed.loads["a"].volts
    assert more == pytest.approx(10 * 0.002 + 16 * 0.002, rel=0.02)


def test_unequal_parallel_wires_share_unequally() -> None:
    design = shared_return()
    twin = Wire(id="fa2", start=Pin(end="bat", cavity="+"), finish=Pin(end="a", cavity="+"), size="4 mm2", stated_m=8)
    found = figures(solve(put(design, "wires", twin)))
    assert found.wires["fa"].amps + found.wires["fa2"].amps == pytest.approx(10)
    assert found.wires["fa"].amps == pytest.approx(2 * found.wires["fa2"].amps, rel=0.02)


def test_parallel_count_halves_resistance() -> None:
    design = design_of("supply 24 V at battery", "pump 18 A at bow run 7.5 m")
    one = figures(solve(set_size(design, ["W1", "W2"], "10 mm2")))
    two = set_size(design, ["W1", "W2"], "10 mm2")
    for wire in two.wires:
        two = put(two, "wires", wire.model_copy(update={"parallel": 2}))
    assert figures(solve(two)).loads["pump"].drop_v == pytest.approx(one.loads["pump"].drop_v / 2, rel=0.02)


def test_frame_return_closes_the_loop() -> None:
    design = design_of("supply 24 V at battery", "lamp 5 A at mast run 6 m frame return")
    found = figures(solve(set_size(design, [w.id for w in design.wires], "2.5 mm2")))
    feed = next(w for w in found.wires.values() if "feed" in w.wire.name)
    bond = next(w for w in found.wires.values() if "bond" in w.wire.name)
    assert bond.amps == pytest.approx(5)
    assert found.loads["lamp"].drop_v == pytest.approx(feed.drop_v + bond.drop_v, rel=1e-3)


def test_way_of_a_load_adds_up_to_its_drop(demo: Design) -> None:
    solution = solve(demo)
    case = solution.cases[-1]
    ways = Ways(solution.plant, case)
    source = 84.0 * 0.003
    for row in range(len(solution.plant.loads)):
        told = sum(leg.volts for leg in ways.of(row))
        assert told + source == pytest.approx(24 - case.load_v[row], abs=0.02)


def test_cases_choose_loads_and_ambient() -> None:
    design = shared_return()
    cases = (Case(id="a", name="a only", loads=("a",)), Case(id="hot", name="hot", ambient_c=60))
    solution = solve(design.model_copy(update={"cases": cases}))
    assert abs(solution.cases[0].wire_a[solution.plant.row["fb"]]) < 1e-9
    assert solution.cases[1].conductor_c.min() >= 60
    found = figures(solution)
    assert found.wires["r"].case == "hot"
    assert set(found.by_case["a"]) == {"a"}


def test_short_duty_heats_by_its_rms() -> None:
    design = shared_return()
    load = design.loads[0]
    always = figures(solve(design)).wires["fa"].conductor_c
    often = put(design, "loads", load.model_copy(update={"on_s": 1.0, "period_s": 4.0}))
    solution = solve(often)
    row = solution.plant.row["fa"]
    assert solution.cases[0].heat_a[row] == pytest.approx(5.0, rel=0.02)
    assert figures(solution).wires["fa"].conductor_c < always
    assert abs(solution.cases[0].wire_a[row]) == pytest.approx(10)


def test_surge_dips_the_others_too() -> None:
    design = shared_return()
    load = design.loads[0].model_copy(update={"surge_a": 60.0, "surge_s": 0.5})
    case = solve(put(design, "loads", load)).cases[0]
    b = next(row for row, one in enumerate(design.loads) if one.id == "b")
    assert case.surge_v[b] < case.load_v[b]
    assert case.surge_a.max() == pytest.approx(66, rel=1e-3)


def test_impossible_power_is_numbers_and_unsettled_or_low() -> None:
    design = design_of("supply 12 V at battery", "monster 20 kW at bow run 30 m")
    solution = solve(set_size(design, ["W1", "W2"], "0.5 mm2"))
    assert np.isfinite(solution.cases[0].load_v).all()
    assert not figures(solution).loads["monster"].ok


def test_generated_harness_agrees_with_superposed_hand_sums() -> None:
    """Radial: a load's drop is Σ (current of all loads beyond) × resistance, leg by leg."""
    solution = solve(generated(120))
    case, plant = solution.cases[0], solution.plant
    amps = {load.id: load.value for load in plant.loads}
    for row, wire in enumerate(plant.wires):
        beyond = amps.get(wire.circuit)
        if beyond is None:
            beyond = sum(a for key, a in amps.items() if key.startswith(f"{wire.circuit}-"))
        assert abs(case.wire_a[row]) == pytest.approx(beyond, rel=1e-6)


def test_load_kinds_follow_the_voltage() -> None:
    for kind, value in ((LoadKind.CURRENT, 10.0), (LoadKind.POWER, 240.0), (LoadKind.RESISTANCE, 2.4)):
        design = shared_return()
        load = design.loads[0].model_copy(update={"kind": kind, "value": value})
        case = solve(put(design, "loads", load)).cases[0]
        expected = {"current": 10.0, "power": 240 / case.load_v[0], "resistance": case.load_v[0] / 2.4}[kind]
        assert case.load_a[0] == pytest.approx(expected, rel=1e-6)


@pytest.mark.parametrize("seconds", [0.2, 5.0, 60.0, 600.0])
def test_starts_warm_a_lone_wire_like_a_run_in_time_of_its_rings(seconds: float) -> None:
    design = design_of(
        "supply 24 V 1 mohm at battery", f"winch 0.5 A surge 60A/{seconds:g}s at bow run 3 m frame return"
    )
    found = figures(solve(set_size(design, ["W1"], "6 mm2")))
    case, row = found.solution.cases[0], found.wires["W1"].row
    exact = rings_rise_k(found.solution.plant.conductors[row], 60.0, seconds)
    assert float(case.surge_c[row] - case.conductor_c[row]) == pytest.approx(exact, rel=0.05, abs=0.3)
