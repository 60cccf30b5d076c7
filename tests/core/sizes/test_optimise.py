"""The optimiser against brute force and its own bound; chains, close-ups and worths."""

import itertools

import numpy as np
import pytest

from conftest import design_of
from long_runs import LONG
from umber_trunk.core.analysis import analyse
from umber_trunk.core.explain.about_wires import why_rating
from umber_trunk.core.explain.closeup import closeup, section_at
from umber_trunk.core.fuses.chain import Chains
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness import edits
from umber_trunk.core.harness.end import Cavity
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.physics.constants import FILLING_W_MK
from umber_trunk.core.physics.film import film_w_m2k
from umber_trunk.core.sample import generated
from umber_trunk.core.sizes import floor
from umber_trunk.core.sizes.floor import Best, Floor
from umber_trunk.core.sizes.groups import Group, groups_of
from umber_trunk.core.sizes.metre import metre_of
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.program import Program, Weights
from umber_trunk.core.sizes.propose import all_met, propose
from umber_trunk.core.sizes.tried import least_share
from umber_trunk.core.sizes.worth import moves, worths
from umber_trunk.core.solve.margins import figures, figures_of_case
from umber_trunk.core.solve.solution import solve

STEPS = ["0.5 mm2", "0.75 mm2", "1 mm2", "1.5 mm2", "2.5 mm2", "4 mm2", "6 mm2", "10 mm2", "16 mm2"]


@pytest.fixture(autouse=True)
def _short_proofs(monkeypatch: pytest.MonkeyPatch) -> None:
    """One branching of the floor in the normal run, all by --long."""
    if not LONG:
        monkeypatch.setattr(floor, "BRANCHES", 1)
        monkeypatch.setattr(floor, "PATIENT_BRANCHES", 1)


def small(*lines: str, **rules: object) -> Design:
    return edits.set_project(design_of("supply 24 V 2 mohm at battery", *lines), **rules)


def brute_force(design: Design, groups: list[list[str]], price) -> float:
    """The least price over every combination of steps that the full solve accepts."""
    best = float("inf")
    for combination in itertools.product(STEPS, repeat=len(groups)):
        sizes = {wire: size for group, size in zip(groups, combination, strict=True) for wire in group}
        found = figures(solve(design, sizes))
        value = price(found, combination)
        if value < best and all_met(found):
            best = value
    return best


def copper(found, _) -> float:
    plant = found.solution.plant
    return sum(c.kg_per_m * m for c, m in zip(plant.conductors, plant.length_m, strict=True))


@pytest.mark.parametrize(
    ("lines", "groups", "rules"),
    [
        (["pump 18 A at bow run 7.5 m"], [["W1", "W2"]], {"max_drop_percent": 3}),
        (
            ["pump 12 A at bow run 5 m", "lamp 6 A at mast run 6 m off bow"],
            [["W1", "W2"], ["W3", "W4"]],
            {"max_drop_percent": 4},
        ),
        (["heater 200 W at bow run 5 m min 23 V"], [["W1"], ["W2"]], {"match_pairs": False}),
        (["fan 4 A surge 20A/1s at bow run 4 m min 22.5 V"], [["W1", "W2"]], {}),
        # heat decides: both pairs share a warm bundle, so what one pair may be hangs on the other
        (
            ["pump 30 A at bow in well 70C run 2 m", "winch 22 A duty 20s/60s at stem run 0.2 m off bow"],
            [["W1", "W2"], ["W3", "W4"]],
            {"max_drop_percent": 12},
        ),
        (["oven 1.1 ohm at bow run 3 m"], [["W1", "W2"]], {"max_drop_percent": 6}),
    ],
)
@pytest.mark.share(3)
def test_agrees_with_brute_force(lines: list[str], groups: list[list[str]], rules: dict[str, object]) -> None:
    design = small(*lines, **rules)
    found = optimise(design)
    assert found.met
    least = brute_force(design, groups, copper)
    assert found.copper_kg == pytest.approx(least, rel=5e-3)
    assert found.floor is not None
    assert 0 < found.floor <= least * (1 + 1e-9)
    assert found.bound <= found.objective * (1 + 1e-9)
    assert found.estimate_gap <= 0.005
    assert found.bound == pytest.approx(min(found.floor or 0.0, found.objective))


def test_fuses_decide_as_brute_force_has_it() -> None:
    """A coarse fuse before a small load, on a long run whose thin wires let little into a short."""
    bare = small("lamp 3 A at mast run 12 m", "pump 9 A at bow run 3 m", max_drop_percent=12)
    design = place_fuses(bare, analyse(bare).figures).design
    design = edits.set_fuse(edits.set_fuse(design, "battery", "F1", 40), "battery", "F2", 60)
    found = optimise(design)
    least = brute_force(design, [["W1", "W2"], ["W3", "W4"]], copper)
    assert found.met
    assert found.copper_kg == pytest.approx(least, rel=5e-3)
    assert found.floor is not None
    assert found.floor <= least * (1 + 1e-9)


@pytest.mark.long
def test_the_floor_is_near_where_drops_decide(demo: Design) -> None:
    found = optimise(demo)
    assert found.floor is not None
    assert 0.9 * found.objective < found.floor <= found.objective
    assert f"more than {100 * (found.objective - found.floor) / found.objective:.1f} %" in found.proof
    assert f"within {100 * (found.objective - found.estimate) / found.objective:.2f} %" in found.proof
    # whatever the search started from, and whatever is tried by hand, nothing that holds lies under it
    lighter = set_down(found.apply(demo), found.sizes)
    assert all(copper(trial, None) >= found.floor for trial in lighter if all_met(trial))


def set_down(design: Design, sizes: dict[str, str]) -> list:  # type: ignore[type-arg]
    """Figures with each chosen wire one step thinner in turn."""
    found = []
    for wire, size in sizes.items():
        at = STEPS.index(size) if size in STEPS else 0
        if at:
            found.append(figures(solve(edits.set_size(design, [wire], STEPS[at - 1]))))
    return found


def test_fewer_different_sizes_when_they_cost() -> None:
    design = small("pump 12 A at bow run 5 m", "lamp 1 A at mast run 2 m", max_drop_percent=4)
    free, few = optimise(design), optimise(design, Weights(mass=1.0, sizes=5.0))
    assert len(set(free.sizes.values())) == 2
    assert len(set(few.sizes.values())) == 1
    assert few.met
    assert few.copper_kg >= free.copper_kg

    def price(found, combination) -> float:
        return copper(found, combination) + 5.0 * len(set(combination))

    assert few.objective == pytest.approx(brute_force(design, [["W1", "W2"], ["W3", "W4"]], price), rel=5e-3)


def test_locked_wires_and_the_shelf_are_respected() -> None:
    design = small("pump 12 A at bow run 5 m", "lamp 6 A at mast run 6 m", max_drop_percent=4)
    locked = edits.set_size(design, ["W1", "W2"], "16 mm2", locked=True)
    found = optimise(locked)
    assert set(found.sizes) == {"W3", "W4"}
    shelf = edits.set_project(design, shelf=("1 mm2", "6 mm2", "25 mm2"))
    found = optimise(shelf)
    assert found.met
    assert set(found.sizes.values()) <= {"1 mm2", "6 mm2", "25 mm2"}


@pytest.mark.long
def test_mended_demo_costs_the_least(demo: Design) -> None:
    found = optimise(demo)
    assert found.met
    assert found.estimate_gap <= 0.005
    assert found.bound == pytest.approx(min(found.floor or 0.0, found.objective))
    mended = found.apply(demo)
    assert not any(f.severity == 0 for f in analyse(mended).findings)
    assert {change.wire_id for change in found.changes} >= {"W08", "W16", "W17"}
    assert optimise(mended).copper_kg <= found.copper_kg * 1.0001


@pytest.mark.long
def test_three_hundred_wires_are_proven() -> None:
    found = optimise(generated(300))
    assert found.met
    assert found.gap <= 0.05
    assert found.estimate_gap <= 0.005
    assert found.bound == pytest.approx(min(found.floor or 0.0, found.objective))
    assert len(found.sizes) == 300


@pytest.mark.long
def test_a_hot_crowded_harness_is_proven_too() -> None:
    """105 °C jackets in 88 °C air: every wire's size hangs on its neighbours' heat, and far less copper holds
    than a climb finds."""
    design = edits.set_project(generated(40), ambient_c=88.0)
    quick = copper(propose(design).figures, None)
    found = optimise(design)
    assert found.met
    assert found.estimate_gap <= 0.1  # fuses hang on neighbours too, which the program only learns by cuts and trials
    assert found.bound == pytest.approx(min(found.floor or 0.0, found.objective))
    assert found.copper_kg < 0.97 * quick


def test_the_search_can_be_stopped_and_told_its_progress() -> None:
    shares: list[float] = []

    def stop(share: float) -> bool:
        shares.append(share)
        return False

    found = optimise(generated(12), keep_going=stop)
    assert shares == [0.0]
    assert found.met
    assert found.rounds == 0


def test_hopeless_harness_says_so() -> None:
    assert not optimise(small("monster 90 A at bow run 900 m")).met
    assert optimise(Design()).sizes == {}


def test_a_circuit_is_as_good_as_its_weakest_part(demo: Design) -> None:
    found = figures(solve(demo))
    parts = Chains(found).parts("conveyor")
    assert {part.kind for part in parts} == {"wire", "contact", "fuse"}
    used = [round(part.used, 9) for part in parts]
    assert used == sorted(used, reverse=True)
    contact = next(part for part in parts if part.kind == "contact")
    assert (contact.rating_a, contact.amps) == (25, pytest.approx(19))
    fuse = next(part for part in parts if part.name.startswith("fuse F1 "))
    assert fuse.rating_a == pytest.approx(30 * (0.8 - 0.0016 * 5))
    assert parts[0].name in str(why_rating(found, found.loads["conveyor"]).verdict)


def test_weak_contacts_and_weak_faults_are_findings(demo: Design) -> None:
    end = index_of(demo).ends["conveyor"]
    thin = end.model_copy(update={"cavities": (Cavity(id="+", rating_a=13), Cavity(id="-", rating_a=25))})
    codes = [f.code for f in analyse(edits.put(demo, "ends", thin)).findings]
    assert "contact.overload" in codes
    far = edits.set_size(demo, ["W18", "W19"], "0.75 mm2")
    far = edits.set_fuse(far, "box", "F8", 40)
    assert any(f.code == "fuse.weak_fault" and f.subject == "horn" for f in analyse(far).findings)


def test_fault_current_by_hand() -> None:
    design = edits.set_size(small("pump 18 A at bow run 7.5 m"), ["W1", "W2"], "10 mm2")
    found = figures(solve(design))
    ohm = sum(float(found.solution.cases[0].wire_ohm[row]) for row in (0, 1)) + 0.002
    assert Chains(found).fault_a("pump") == pytest.approx(24 / ohm, rel=1e-6)


def test_closeup_adds_up(demo: Design) -> None:
    found = analyse(demo).figures
    one = closeup(demo, found, "W16")
    assert one.section is not None
    assert one.fuse is not None
    assert sum(step.volts for step in one.volts.steps) == pytest.approx(24 - one.volts.load_v, abs=1e-3)
    assert sum(step.mine for step in one.volts.steps) == 1
    hottest = max(w.celsius for w in one.section.wires if w.wire_id == "W16")
    assert hottest == pytest.approx(found.wires["W16"].conductor_c, abs=0.05)
    assert np.all(one.fuse.fastest_s <= one.fuse.slowest_s)
    for a, b in itertools.combinations(one.section.wires, 2):
        assert np.hypot(a.x - b.x, a.y - b.y) >= (a.outer_mm + b.outer_mm) / 2 - 1e-5
    assert closeup(demo, found, "ghost").volts is None


def test_any_segment_can_be_cut_open(demo: Design) -> None:
    found = analyse(demo).figures
    hottest = found.solution.hottest_c
    assert list(hottest.values()) == sorted(hottest.values(), reverse=True)
    assert set(hottest) == {segment for segment, wires in index_of(demo).contents.items() if wires}
    for segment, celsius in hottest.items():
        section = section_at(found, segment)
        assert sorted(wire.wire_id for wire in section.wires) == sorted(index_of(demo).contents[segment])
        assert max(wire.celsius for wire in section.wires) == pytest.approx(celsius)
        for wire in section.wires:
            assert np.hypot(wire.x, wire.y) + wire.outer_mm / 2 <= section.diameter_mm / 2 + 1e-6
    assert section_at(found, "ghost") is None


def test_figures_of_one_case(demo: Design) -> None:
    found = analyse(demo).figures
    way = figures_of_case(found, 1)
    assert "conveyor" not in way.loads
    assert way.wires["W01"].amps < found.wires["W01"].amps


def test_worth_of_a_metre_and_of_volts() -> None:
    design = small("pump 18 A at bow run 7.5 m", "lamp 4 A at mast run 3 m")
    analysis = analyse(design)
    found = {resized.what: (kept, resized) for kept, resized in worths(design, analysis.figures, analysis.sizes)}
    assert set(found) == {
        "bow 1 m closer",
        "mast 1 m closer",
        "supply at 48 V",
        "battery towards bow: 1 m closer",
        "battery towards mast: 1 m closer",
    }
    assert found["supply at 48 V"][1].copper_kg < found["bow 1 m closer"][1].copper_kg <= 0
    # two wires a metre shorter each, at the size they have or a step less
    wire = figures(solve(optimise(design).apply(design))).solution.plant.conductors[0]
    assert found["bow 1 m closer"][1].copper_kg <= -2 * wire.kg_per_m * 0.999
    assert all(resized.met for _, resized in found.values())
    # at the sizes of now: exactly a metre there and back, and the drop it cost
    kept, now = found["bow 1 m closer"][0], analysis.figures
    conductor = now.solution.plant.conductors[0]
    assert kept.copper_kg == pytest.approx(-2 * conductor.kg_per_m)
    assert kept.load == "pump"
    share = 2 * 18 * now.solution.plant.bodies.ohm_per_m(now.solution.cases[0].mean_c)[0] / 24 * 100
    assert kept.gain_percent == pytest.approx(share, rel=0.01)
    metre = metre_of(now, "pump")
    assert metre.volts / 24 * 100 == pytest.approx(kept.gain_percent, rel=0.01)
    assert (metre.copper_kg, metre.cost) == pytest.approx((-kept.copper_kg, -kept.cost))


def test_worth_of_splitting_a_circuit(demo: Design) -> None:
    found = analyse(demo).figures
    splits = [move for move in moves(demo, found) if "split" in move.what]
    assert [move.what for move in splits][:2] == [
        "split off wash pump, from battery",
        "split off conveyor motor, from battery",
    ]
    changed = splits[0].make(demo)
    then = analyse(changed)
    assert not {f.code for f in then.findings} & {"load.unfed", "wire.open", "wire.unprotected"}
    # the shared feed is rid of the pump's current, the pump of the others' drop, and its fuse went along
    assert then.figures.wires["W01"].amps < found.wires["W01"].amps - 20
    assert then.figures.guards[then.figures.wires["W08"].row].rating_a == 30
    assert then.figures.loads["conveyor"].volts > found.loads["conveyor"].volts
    # a load with its wires to itself has nothing to split off
    alone = small("pump 18 A at bow run 7.5 m")
    assert not [move for move in moves(alone, analyse(alone).figures) if "split" in move.what]


def test_the_least_a_neighbour_is_felt_is_the_series_at_the_far_side() -> None:
    """1 + 2·Σ (−1)ⁿ·Bi/(n + Bi), summed term by term and averaged; Bi from the film and the filling's conductivity."""
    width, rise, air, wind = (
        np.array([0.01, 0.04]),
        np.array([40.0, 60.0]),
        np.array([20.0, 40.0]),
        np.array([0.0, 0.0]),
    )
    for share, biot in zip(
        least_share(width, rise, air, wind), film_w_m2k(width, rise, air, wind) * width / 2 / FILLING_W_MK, strict=True
    ):
        terms = 2 * biot * np.cumsum([(-1) ** n / (n + biot) for n in range(1, 40_001)])
        assert share == pytest.approx(1 + (terms[-1] + terms[-2]) / 2, abs=1e-6)
        assert 0 < share < 1


@pytest.mark.long
def test_what_two_abreast_rule_out_is_what_breaks_when_solved() -> None:
    """A feed and its return, by heat alone and with a fuse before them: the first step left is the first that the whole
    solve accepts."""
    seen = set()
    for amps, fuse in [(a, None) for a in np.geomspace(6, 150, 14)] + [(6.0, 10), (6.0, 30), (9.0, 40), (20.0, 80)]:
        design = small(f"lamp {amps:.2f} A at mast run 0.3 m", max_drop_percent=90)
        if fuse:
            design = edits.set_fuse(place_fuses(design, analyse(design).figures).design, "battery", "F1", fuse)
        plant = analyse(design).figures.solution.plant
        groups = groups_of(plant, frozenset())
        (group,) = groups

        def at(levels, design=design, group=group, plant=plant):
            return solve(design, {plant.wires[row].id: group.steps[levels[0]].size.label for row in group.rows})

        holds = [all_met(figures(at([step]))) for step in range(len(group.steps))]
        under = Floor(groups, Program(groups, Weights()), at, 300)
        last = len(group.steps) - 1
        under.close_in(Best(figures(at([last])), [last], 1e9, False))
        assert under.least == [holds.index(True)]
        seen.add((under.least[0], fuse is None))
    assert len(seen) > 8


def test_the_dearest_step_a_choice_can_have() -> None:
    """Against every choice there is: the highest step of each group in any that costs no more."""
    design = design_of("supply 24 V 1 mohm at battery", "lamp 9 A at mast run 2 m", "pump 5 A at well run 5 m")
    groups = [
        Group(group.rows, group.steps[:5], group.metre_conductors)
        for group in groups_of(analyse(design).figures.solution.plant, frozenset())
    ]
    for weights in (Weights(), Weights(0.5, 2.0)):
        program = Program(groups, weights)
        least = [1, *[0] * (len(groups) - 1)]
        every = [
            levels
            for levels in itertools.product(range(5), repeat=len(groups))
            if all(a >= b for a, b in zip(levels, least, strict=True))
        ]
        worth = {levels: program.objective(levels) for levels in every}
        for value in sorted(worth.values())[:: max(len(every) // 9, 1)]:
            inside = [levels for levels in every if worth[levels] <= value * (1 + 1e-9)]
            assert program.dearest(value, least) == [max(levels[at] for levels in inside) for at in range(len(groups))]


def test_a_start_is_in_the_floor_too() -> None:
    """A winch that draws 150 A when it starts and must keep 9 of 12 V: 0.75 V go in the source, 2.25 V are left for 150
    A through 7 m, so no wire under 150 × 7 × 17.241e-3 × 1.02 / 2.25 = 8.2 mm² will do. Nothing smaller is in the floor
    either."""
    design = design_of("supply 12 V 5 mohm at battery", "winch 40 A at bow run 3.5 m")
    (load,) = design.loads
    design = edits.put(
        design, "loads", edits.change(load, surge_a=150.0, surge_s=1.0, min_volts=9.0, max_drop_percent=20.0)
    )
    found = optimise(design)
    assert found.met
    assert found.floor is not None
    assert {found.sizes[wire.id] for wire in design.wires} == {"10 mm2"}
    assert found.floor <= found.objective * (1 + 1e-9)
    assert found.gap < 0.01
