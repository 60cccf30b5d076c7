"""Where a metal, make or jacket is a bad idea, the program says so and why."""

import numpy as np
import pytest

from conftest import design_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import jackets, makes, metals, parse_spec
from umber_trunk.core.catalog.words import wire_words
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Case, Design
from umber_trunk.core.kit.cutlist import cuts
from umber_trunk.core.sizes.twins import endangered, twin_of, twins
from umber_trunk.core.solve.solution import joints_c
from umber_trunk.store.listing.merge import add_wires
from umber_trunk_helpers import list_of


def in_zone(traits: str, **wire: object) -> Design:
    design = design_of("supply 24 V at battery", f"pump 18 A at bow in place {traits} run 3 m")
    first = design.wires[0]
    return edits.put(design, "wires", edits.change(first, **{"size": "6 mm2", **wire}))


@pytest.mark.parametrize(
    ("traits", "wire", "says"),
    [
        ("shaking", {"make": "hookup"}, "fatigue"),
        ("flexing", {"make": "hookup"}, "fatigue"),
        ("shaking", {"metal": "aluminium", "size": "16 mm2"}, "fatigue"),
        ("hot", {"jacket": "pvc"}, "melts"),
        ("sunny", {"jacket": "pvc70"}, "sun"),
        ("oily", {"jacket": "rubber"}, "oil"),
        ("30C", {"metal": "cca15", "size": "4 mm2"}, "creeps"),
        ("shaking", {"make": "hookup", "size": "1.5 mm2"}, "(12 of 0.40 mm)"),
        ("flexing -30C", {"jacket": "pvc"}, "cracks when flexed under -20 °C"),
        ("wet", {"metal": "copper"}, "bare copper in the wet"),
    ],
)
def test_bad_ideas(traits: str, wire: dict[str, object], says: str) -> None:
    messages = [
        f.message for f in analyse(in_zone(traits, **wire)).findings if f.code == "wire.material" and f.subject == "W1"
    ]
    assert any(says in message for message in messages)


@pytest.mark.parametrize(
    ("traits", "wire"),
    [
        ("shaking", {"make": "class5"}),
        ("hot", {"jacket": "silicone"}),
        ("sunny", {"jacket": "xlpe"}),
        ("oily", {"jacket": "fluoro"}),
        ("30C", {"metal": "cca15", "size": "16 mm2"}),
        ("flexing -30C", {"jacket": "rubber", "make": "welding", "size": "16 mm2"}),
        ("wet", {"metal": "tinned", "make": "marine"}),
    ],
)
def test_good_ideas_are_left_alone(traits: str, wire: dict[str, object]) -> None:
    assert not [f for f in analyse(in_zone(traits, **wire)).findings if f.code == "wire.material" and f.subject == "W1"]


def test_hot_zones_take_headroom_and_metals_differ() -> None:
    cool, hot = (analyse(in_zone(t)).figures.wires["W1"] for t in ("30C", "80C"))
    assert hot.conductor_c - cool.conductor_c > 40  # a hotter wire gives off heat more easily
    copper, clad = (analyse(in_zone("30C", metal=m)).figures.wires["W1"] for m in ("copper", "cca10"))
    assert clad.drop_v / copper.drop_v == pytest.approx(2.743 / 1.7241, rel=0.03)


def test_parallel_wires_share_by_their_length_and_say_so() -> None:
    design = design_of("supply 24 V at battery", "pump 60 A at bow run 4 m")
    twin = edits.change(design.wires[0], id="W9", name="second feed", size="10 mm2", stated_m=4.0)
    design = edits.put(edits.set_size(design, ["W1", "W2"], "10 mm2"), "wires", twin)
    assert not [f for f in analyse(design).findings if f.code == "wire.uneven"]
    # a detour of its own doubles one of them: conductances share 2 to 1
    ends = edits.put(design, "ends", edits.change(index_of(design).ends["bow"], id="loose", name="loose", point=None))
    detour = edits.put(ends, "wires", edits.change(twin, finish={"end": "loose", "cavity": "+"}, stated_m=8.0))
    joined = edits.put(
        detour, "wires", edits.change(twin, id="W8", name="jumper", start={"end": "loose", "cavity": "+"}, stated_m=0.0)
    )
    found = analyse(joined).figures
    assert found.wires["W1"].amps == pytest.approx(40, rel=0.05)
    assert found.wires["W9"].amps == pytest.approx(20, rel=0.08)
    thin = edits.set_size(design, ["W9"], "10 mm2")
    short = edits.put(thin, "wires", edits.change(twin, metal="aluminium"))
    uneven = next(f for f in analyse(short).findings if f.code == "wire.uneven")
    # 2.8264 / 1.7241: copper takes 62 % of what both share
    assert uneven.subject == "W1"
    assert "carries 62 % of the 60.0 A that 2 wires share" in uneven.message


def test_a_pair_is_told_what_one_bad_lug_does_to_the_other() -> None:
    """Two alike on 60 A: one opens, the other carries all of it, as hot as it would be there alone; with a milliohm
    more in one lug the currents go by conductances: 4 m of 10 mm² are 4 × 1.72e-8 × 1.02 / 1e-5 = 7.0 mΩ warm 8, so of
    60 A about 60 × 9 / 17 stay in the sound one."""
    one = edits.set_size(design_of("supply 24 V at battery", "pump 60 A at bow run 4 m"), ["W1", "W2"], "10 mm2")
    twin = edits.change(one.wires[0], id="W9", name="second feed", size="10 mm2", stated_m=4.0)
    results = analyse(edits.put(one, "wires", twin))
    (pair,) = results.once(twins)
    assert set(pair.wires) == {"W1", "W9"}
    alone = analyse(one).figures.wires["W1"]
    assert (pair.open_amps, pair.open_c) == (
        pytest.approx(alone.amps, rel=1e-3),
        pytest.approx(alone.conductor_c, abs=0.5),
    )
    assert pair.amps == pytest.approx(alone.amps / 2, rel=0.02)
    ohm = float(results.figures.solution.cases[0].wire_ohm[0])
    assert pair.bad_amps == pytest.approx(2 * pair.amps * (ohm + 1e-3) / (2 * ohm + 1e-3), rel=0.01)
    assert pair.conductor_c < pair.bad_c < pair.open_c
    hot = analyse(edits.set_size(edits.put(one, "wires", twin), ["W1", "W9"], "4 mm2"))
    assert "wire.twin" in {row.code for row in hot.findings}
    assert "wire.twin" not in {
        row.code for row in analyse(edits.set_size(edits.put(one, "wires", twin), ["W1", "W9"], "25 mm2")).findings
    }
    doubled = analyse(
        edits.put(one, "wires", edits.change(one.wires[0], parallel=2))
    )  # one record of two conductors says the same
    (record,) = doubled.once(twins)
    assert record.conductors == 2
    assert record.open_c == pytest.approx(alone.conductor_c, abs=0.5)
    assert not analyse(one).once(twins)
    # what isn't solved anew for a finding is what stands it: at every size and warmth the two agree
    for size in ("4 mm2", "6 mm2", "10 mm2", "16 mm2"):
        for ambient in (20.0, 45.0, 60.0):
            there = analyse(
                edits.set_project(edits.set_size(edits.put(one, "wires", twin), ["W1", "W9"], size), ambient_c=ambient)
            )
            assert [each for each in there.once(twins) if not each.ok] == [
                each for each in there.once(endangered) if not each.ok
            ]
    assert twin_of(results, "W9") == pair
    assert twin_of(results, "W2") is None


def test_a_bad_contact_has_a_temperature_of_its_own() -> None:
    """A long fin (Incropera, table 3.4): P / √(k A / R′). 20 A through 2 mΩ are 0.8 W; copper of 2.5 mm² leads 390 ×
    2.5e-6, and the wire gives off what its own losses warm it by: R′ = ΔT / (I² R per metre), read off the solution
    itself where no joint is. (The two wires lie together there and warm each other; the joint stands alone, so its rise
    is somewhat less.)"""
    design = edits.set_size(design_of("supply 24 V at battery", "pump 20 A at bow run 4 m"), ["W1", "W2"], "2.5 mm2")
    bow = index_of(design).ends["bow"]
    bad = edits.put(
        design, "ends", edits.change(bow, cavities=[edits.change(one, joint_ohm=2e-3) for one in bow.cavities])
    )
    solution = analyse(bad).figures.solution
    (joints,) = (joints_c(solution.plant, case) for case in solution.cases)
    mean, wire = float(solution.cases[0].mean_c[0]), analyse(bad).figures.wires["W1"]
    per_m = wire.amps**2 * solution.plant.conductors[0].ohm_per_m_20 * (1 + 0.00393 * (mean - 20))
    film = (mean - 30) / per_m
    rises = sorted(float(one) - mean for one in joints[0])
    by_hand = wire.amps**2 * 2e-3 / (390 * 2.5e-6 / film) ** 0.5
    assert 0.7 * by_hand < rises[1] < by_hand
    assert rises[0] < 0.4 * rises[1]
    assert wire.conductor_c == pytest.approx(max(joints[0]), abs=0.5)


@pytest.mark.parametrize(("volts", "codes"), [
    (12, set()), (48, set()), (80, {"caution.high_voltage"}), (230, {"caution.high_voltage", "caution.mains"}),
    (400, {"caution.high_voltage"}),
])  # fmt: skip
def test_cautions_by_voltage(volts: float, codes: set[str]) -> None:
    found = analyse(design_of(f"supply {volts} V 2 ohm at battery", "heater 1 A at bow run 3 m")).findings
    assert {f.code for f in found if f.code.startswith("caution")} == codes


def test_every_word_says_what_it_stands() -> None:
    words = {word.word: word for word in wire_words()}
    assert set(words) == {*metals(), *makes(), *jackets()}
    assert words["cca10"].stands.startswith("159 %")  # ASTM B566 class 10A: 2.743e-8 against 1.7241e-8
    assert "shaking" in words["hookup"].weak
    assert "hot metal" in words["pvc"].weak
    assert "hot metal" in words["silicone"].stands
    assert all(word.source and word.name and word.stands for word in words.values())
    assert parse_spec("16 mm2 tinned marine rubber") == {
        "size": "16 mm2",
        "metal": "tinned",
        "make": "marine",
        "jacket": "rubber",
    }


@pytest.mark.parametrize(
    ("rows", "code"),
    [
        ("1,a:1,b:1,2.5 mm2,5\n2,a:2,b:2,2.5 mm2,900\n", "wire.odd_length"),
        ("1,a:1,b:1,2.5 mm2,900\n2,a:2,b:2,2.5 mm2,800\n3,a:3,b:3,1 mm2,1 m\n4,a:4,b:4,1 mm2,90000\n", None),
        ("1,a:1,b:1,2.5 mm2,900000\n", "wire.odd_length"),
        ("1,a:1,b:1,14 mm2,900\n", "wire.odd_size"),
        ("".join(f"{n},a:{n},b:{n},1 mm2,900\n" for n in range(9)), "wires.one_size"),
        ("1,a:1,b:1,AWG 7,900\n", "wire.odd_size"),
    ],
)
def test_lists_that_are_possible_but_seldom_meant(rows: str, code: str | None) -> None:
    design = add_wires(Design(), list_of(f"wire,from,to,size,length (mm)\n{rows}"))
    found = {f.code for f in analyse(design).findings if f.code.startswith(("wire.odd", "wires.one"))}
    assert found == ({code} if code else set())


@pytest.mark.parametrize(
    ("lines", "code", "says"),
    [
        (
            ["lamp 2 A at bow run 3 m", "fan 12 A at stern run 3 m", "case night: lamp"],
            "load.left_out",
            "runs in no case",
        ),
        (["lamp 2 A at bow run 3 m", "fan 12 A at stern run 3 m", "case night: lamp"], "wire.idle", "fan feed"),
        (["heater 900 W at bow run 40 m"], "load.no_solution", "no voltage feeds 900 W"),
    ],
)
def test_nothing_is_called_sound_that_nothing_was_worked_out_for(lines: list[str], code: str, says: str) -> None:
    design = design_of("supply 12 V 5 mohm at battery", *lines)
    if code == "load.no_solution":
        design = edits.set_size(design, [w.id for w in design.wires], "0.5 mm2")
    found = analyse(design)
    told = [f for f in found.findings if f.code == code]
    assert told
    assert told[0].severity == 0
    assert says in told[0].message
    if code == "wire.idle":
        idle = found.figures.wires[told[0].subject]
        assert idle.shown_size == "?"
        assert told[0].subject not in found.sizes
        assert {row.size for row in found.once(cuts) if row.wire.id == told[0].subject} == {"?"}
    if code == "load.no_solution":
        assert np.isnan(found.figures.loads["heater"].volts)


def test_a_cure_names_a_size_only_where_one_can_help() -> None:
    weak = design_of("supply 12 V 400 mohm at battery", "pump 10 A at bow run 1 m min 11 V")
    told = next(f for f in analyse(weak).findings if f.code == "load.drop")
    assert "No size can help: the source sags" in told.cure
    assert "sag inside the source" in told.message
    joints = design_of("supply 12 V 5 mohm at battery", "pump 10 A at bow run 1 m")
    joints = edits.set_project(joints, joint_ohm=0.02)
    assert "joints, fuses and frame alone" in next(f for f in analyse(joints).findings if f.code == "load.drop").cure
    thin = design_of("supply 12 V 5 mohm at battery", "pump 10 A at bow run 8 m")
    thin = edits.set_size(thin, [w.id for w in thin.wires], "1 mm2")
    assert next(f for f in analyse(thin).findings if f.code == "load.drop").cure.startswith("Go up a size")


def test_a_load_is_shown_in_the_case_that_is_worst_for_it() -> None:
    design = design_of(
        "supply 12 V 50 mohm at battery",
        "lamp 2 A at bow run 3 m min 11 V",
        "fan 9 A at bow",
        "case night: lamp",
        "case day: all",
    )
    found = analyse(design).figures
    assert found.loads["lamp"].case == "day"
    assert found.loads["lamp"].volts == min(table["lamp"].volts for table in found.by_case.values())
    assert found.loads["lamp"].used == max(table["lamp"].used for table in found.by_case.values())


def test_cases_of_one_name_are_told_apart() -> None:
    design = design_of("supply 12 V 5 mohm at battery", "lamp 2 A at bow run 3 m", "fan 9 A at bow")
    cases = (
        Case(id="a", name="night", loads=("lamp",)),
        Case(id="b", name="night", loads=("lamp", "fan"), ambient_c=60),
    )
    found = analyse(design.model_copy(update={"cases": cases})).figures
    assert found.loads["fan"].case == "b"
    assert {figure.case for figure in found.wires.values() if "fan" in figure.wire.name} == {"b"}
    assert found.cases["b"].case.ambient_c == 60
