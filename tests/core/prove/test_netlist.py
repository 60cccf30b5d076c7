"""The unplugged harness: which places are joined, what each reading should be."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.prove.prove_kit import pairs, subject, subject_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.model import Pin, Wire
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import faulty_ohm, parse_fault, word_of, words_of
from umber_trunk.core.prove.netlist import EARTH, Edge, Netlist, between, resistances
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.state import State


def faulty(net: Netlist, faults: list[Fault]) -> State:
    """The harness with these faults in it."""
    state = State(net)
    for fault in faults:
        state = state.derive(fault)
    return state


def test_what_a_device_joins_inside_is_gone_when_it_is_unplugged() -> None:
    net = subject("barge").net
    assert net.net_at(("j1", "11")) != net.net_at(("j1", "12"))  # bridged in the controller, not in the harness
    assert net.net_at(("bar", "1")) == net.net_at(("conveyor", "-"))
    assert net.net_at(("box", "in")) != net.net_at(("box", "F1"))  # fuses are out


def test_splices_join_and_no_probe_reaches_them() -> None:
    net = subject("tractor").net
    assert net.net_at(("lamp1", "+")) == net.net_at(("lamp2", "+")) == net.net_at(("box", "F1"))
    assert not any(point[0].startswith(("SP", "SN")) for point in net.points)


def test_a_terminal_block_keeps_its_bridges_and_earths_are_one() -> None:
    net = subject("loops").net
    assert net.net_at(("jb", "C1")) == net.net_at(("jb", "C5")) == net.net_of[0]  # screens, on to the earth bar
    assert net.net_at(("tb1", "A1")) != net.net_at(("tb1", "A2"))


def test_a_wire_reads_its_metal_and_its_joints() -> None:
    # IEC 60228 class 5, 1 mm²: at most 19.5 Ω/km at 20 °C; sound wire 2 % under that
    design = pairs(2, 10.0)
    wires = tuple(wire.model_copy(update={"make": "class5"}) for wire in design.wires)
    one = subject_of(design.model_copy(update={"wires": wires}))
    facts = one.net.facts["W1"]
    assert facts.ohm == pytest.approx(0.98 * facts.length_m * 19.5e-3 + 0.002, rel=1e-3)
    seen = State(one.net).see(Probe("four", (("A", "1"),), (("B", "1"),)))
    assert seen.ohm == pytest.approx(facts.ohm, rel=1e-9)
    assert seen.shares[0][1] == pytest.approx(1.0)


def test_two_ways_side_by_side_halve() -> None:
    design = pairs(2)
    joined = tuple(end.model_copy(update={"kind": EndKind.BAR}) for end in design.ends)
    one = subject_of(design.model_copy(update={"ends": joined}))
    seen = State(one.net).see(Probe("four", (("A", "1"),), (("B", "2"),)))
    assert seen.ohm == pytest.approx(one.net.facts["W1"].ohm / 2, rel=1e-6)
    assert [share for _, share in seen.shares] == pytest.approx([0.25, 0.25])


@given(st.lists(st.floats(0.001, 100), min_size=1, max_size=12))
def test_resistances_in_a_row_add(ohms: list[float]) -> None:
    edges = [Edge("", n, n + 1, ohm, 0.0) for n, ohm in enumerate(ohms)]
    rows, inverse, island = resistances(range(len(ohms) + 1), edges)
    assert between(inverse, island, rows[0], rows[len(ohms)]) == pytest.approx(sum(ohms), rel=1e-6)


def test_a_bridge_of_five_resistors_agrees_with_kirchhoff() -> None:
    # Wheatstone's bridge, solved by hand for R = 1, 2, 3, 4 Ω and 5 Ω across: 2.3077… Ω is from solving the three node
    # equations with numpy
    edges = [
        Edge("", 0, 1, 1.0, 0),
        Edge("", 0, 2, 2.0, 0),
        Edge("", 1, 3, 3.0, 0),
        Edge("", 2, 3, 4.0, 0),
        Edge("", 1, 2, 5.0, 0),
    ]
    rows, inverse, island = resistances(range(4), edges)
    matrix = np.array(
        [[1 + 1 / 3 + 1 / 5, -1 / 5, -1 / 3], [-1 / 5, 1 / 2 + 1 / 4 + 1 / 5, -1 / 4], [-1 / 3, -1 / 4, 1 / 3 + 1 / 4]]
    )
    volts = np.linalg.solve(matrix, [0.0, 0.0, 1.0])  # node 0 at 0 V, one ampere into node 3
    assert between(inverse, island, rows[0], rows[3]) == pytest.approx(volts[2], rel=1e-9)
    assert math.isinf(between(*resistances([0, 1], [])[1:], 0, 1))


class TestFaults:
    """Faults as words, and what they do to readings."""

    def test_words_come_back_as_they_were_said(self) -> None:
        net = subject("barge").net
        for word in (
            "open:W08",
            "high:W08@box:0.5",
            "swap:W10,W12@box",
            "short:W08,W09",
            "leak:W08:50000",
            "size:W08:1 mm2",
            "metal:W08:aluminium",
            "longer:W08:1.5",
            "strands:W08:0.4:1",
        ):
            assert word_of(parse_fault(net, word)) == word

    @pytest.mark.parametrize(
        ("word", "told"),
        [
            ("open", "is no fault"), ("burnt:W08", "is no fault"), ("open:W99", "no wire"), ("high:W08:0.5", "isn’t high"), ("high:W08@mast:0.5", "doesn’t go to"), ("high:W08@box:-1", "no resistance"),
            ("swap:W10@box", "isn’t swap"), ("swap:W10,W10@box", "isn’t swap"), ("short:W08,W09@box", "isn’t short"), ("strands:W08:2:1", "100 %"), ("strands:W08:0.5:900", "only"),
            ("longer:W08:0", "length"), ("metal:W08:gold", "no metal"), ("size:W08:big", "not a size"), ("shield:W08", "no cable with a screen"), ("open:W08:3", "isn’t open"), ("high:W08@nowhere:1", "no end"),
        ],
    )  # fmt: skip
    def test_what_is_no_fault_is_told(self, word: str, told: str) -> None:
        with pytest.raises(InputError, match=told):
            parse_fault(subject("barge").net, word)

    def test_each_changes_its_wire_as_physics_has_it(self) -> None:
        net = subject("barge").net
        facts = net.facts["W08"]
        joints = sum(facts.joints)
        assert math.isinf(faulty_ohm(net, Fault("open", ("W08",))))
        assert faulty_ohm(net, Fault("high", ("W08",), "box", ohm=0.4)) == pytest.approx(facts.ohm + 0.4)
        longer = faulty_ohm(net, Fault("longer", ("W08",), metres=facts.length_m))
        assert longer == pytest.approx(2 * facts.copper_ohm + joints)
        # half of the strands gone along half of the way: half of it has twice the resistance
        strands = faulty_ohm(net, Fault("strands", ("W08",), share=0.5, metres=facts.length_m / 2))
        assert strands == pytest.approx(1.5 * facts.copper_ohm + joints)
        # IEC 60228 class 5, tinned: 2.5 mm² has 8.21, 1.5 mm² 13.7 Ω/km; the barge is of another make, the ratio of
        # areas is near
        size = faulty_ohm(net, Fault("size", ("W08",), size="2.5 mm2"))
        assert (size - joints) / facts.copper_ohm == pytest.approx(1.5 / 2.5, rel=0.05)
        metal = faulty_ohm(net, Fault("metal", ("W08",), metal="aluminium"))
        assert (metal - joints) / facts.copper_ohm == pytest.approx(2.8264 / 1.767, rel=1e-3)

    def test_a_swap_leads_across_and_no_longer_straight(self) -> None:
        net = subject("barge").net
        state = faulty(net, [Fault("swap", ("W10", "W12"), "box")])
        across, straight = (
            Probe("four", (("box", "F5"),), (("bilge", "+"),)),
            Probe("four", (("box", "F4"),), (("bilge", "+"),)),
        )
        assert state.see(across).ohm == pytest.approx(net.facts["W10"].ohm)
        assert math.isinf(state.see(straight).ohm)
        assert math.isinf(State(net).see(across).ohm)  # the sound one is untouched

    def test_a_short_in_the_middle_reads_half_of_each_wire(self) -> None:
        one = subject_of(pairs(3))
        state = faulty(one.net, [Fault("short", ("W1", "W2"), along=0.25)])
        ohm = one.net.facts["W1"].ohm
        assert state.see(Probe("four", (("A", "1"),), (("A", "2"),))).ohm == pytest.approx(
            2 * 0.25 * ohm + 0.01, rel=1e-6
        )
        assert state.see(Probe("four", (("A", "1"),), (("B", "2"),))).ohm == pytest.approx(ohm + 0.01, rel=1e-6)
        assert state.see(Probe("four", (("A", "1"),), (("B", "1"),))).ohm == pytest.approx(ohm, rel=1e-6)
        assert math.isinf(state.see(Probe("four", (("A", "1"),), (("B", "3"),))).ohm)

    def test_a_leak_goes_to_earth(self) -> None:
        one = subject_of(pairs(2))
        state = faulty(one.net, [Fault("leak", ("W1",), ohm=5e4)])
        assert state.see(Probe("insulation", (("B", "1"),), (EARTH,))).ohm == pytest.approx(5e4, rel=1e-3)
        assert math.isinf(state.see(Probe("insulation", (("B", "2"),), (EARTH,))).ohm)

    def test_several_faults_stand_together(self) -> None:
        net = subject("barge").net
        state = faulty(net, [Fault("open", ("W08",)), Fault("swap", ("W08", "W10"), "box")])
        assert math.isinf(state.see(Probe("four", (("box", "F4"),), (("wash", "+"),))).ohm)
        assert state.see(Probe("four", (("box", "F3"),), (("bilge", "+"),))).ohm == pytest.approx(net.facts["W10"].ohm)

    def test_screens_say_where_they_land(self) -> None:
        loops = subject("loops").net.screens
        assert loops["c3"].taped == ("i3",)
        assert loops["c3"].landed == ("jb",)
        assert loops["trunk"].taped == ()
        assert subject("shore").net.screens["data"].landed == ("logger", "probe")
        net = subject("loops").net
        lifted = Probe("two", (("i3", "A3"),), (EARTH,), "AT-103s")
        assert math.isinf(State(net).see(lifted).ohm)
        assert faulty(net, [Fault("shield", ("c3",))]).see(lifted).ohm == pytest.approx(0.05, rel=0.1)
        assert math.isinf(
            faulty(subject("shore").net, [Fault("shield", ("data",))])
            .see(Probe("four", (("logger", "5"),), (("probe", "5"),)))
            .ohm
        )

    def test_they_are_said_as_at_the_bench(self) -> None:
        net = subject("barge").net
        assert "reversed at wash pump" in str(words_of(net, Fault("swap", ("W08", "W09"), "wash")))
        assert "not crimped through" in str(words_of(net, Fault("open", ("W08",))))
        assert "fuse box has 400 mΩ too much" in str(words_of(net, Fault("high", ("W08",), "box", ohm=0.4)))
        assert "crossed pair" in str(words_of(subject("shore").net, Fault("swap", ("D3", "D4"), "probe")))
        assert "cut back and taped" in str(words_of(subject("loops").net, Fault("shield", ("c3",))))
        assert "both its ends" in str(words_of(subject("shore").net, Fault("shield", ("data",))))
        for what, more in (
            ("leak", {"ohm": 2e5}),
            ("size", {"size": "1 mm2"}),
            ("metal", {"metal": "aluminium"}),
            ("longer", {"metres": 1.0}),
            ("strands", {"share": 0.5, "metres": 1.0}),
            ("short", {}),
        ):
            assert "W08" in str(words_of(net, Fault(what, ("W08", "W09") if what == "short" else ("W08",), **more)))


def test_wires_in_one_cavity_are_one_place() -> None:
    design = pairs(2)
    extra = End(id="C", name="C", point="PB", cavities=(Cavity(id="1"),))
    wire = Wire(id="W3", start=Pin(end="A", cavity="1"), finish=Pin(end="C", cavity="1"), size="1 mm2", signal=True)
    one = subject_of(design.model_copy(update={"ends": (*design.ends, extra), "wires": (*design.wires, wire)}))
    assert one.net.net_at(("C", "1")) == one.net.net_at(("B", "1"))
    assert one.net.wire_net("W1") == one.net.wire_net("W3") == one.net.net_at(("A", "1")) != one.net.wire_net("W2")
