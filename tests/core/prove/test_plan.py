"""The test list, the proof as a run of tasks, loops, pairs, drills."""

from __future__ import annotations

import itertools
import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.prove.prove_kit import pairs, subject, subject_of
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.harness.edits import set_project
from umber_trunk.core.harness.model import Loop
from umber_trunk.core.make.unit_acts import Test as Answered
from umber_trunk.core.prove.checklist import KINDS, OPEN_OHM
from umber_trunk.core.prove.checklist import test_volts as volts_of
from umber_trunk.core.prove.drilling import Drilling
from umber_trunk.core.prove.drills import DRILLS, FaultDrill, opposite
from umber_trunk.core.prove.faults import WORDS, parse_fault, word_of
from umber_trunk.core.prove.listed import plan_from, plan_text
from umber_trunk.core.prove.loops import budgets, loop_sheet, stairs
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.prove.plan import test_plan as plan_of
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.proof import POWERED, Proof, read_reading
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.spare_pair import take_spare
from umber_trunk.core.prove.testsheet import band_text
from umber_trunk.core.prove.testsheet import test_rows as rows_of
from umber_trunk.core.prove.testsheet import test_sheet as sheet_of


class TestList:
    """What is tested, in which order."""

    @pytest.mark.parametrize("name", ["barge", "shore", "computer", "tractor", "loops"])
    def test_every_wire_is_read_and_kinds_keep_their_order(self, name: str) -> None:
        one = subject(name)
        assert one.plan.unreached == ()
        order = [KINDS.index(test.kind) for test in one.plan.tests]
        assert order == sorted(order)
        covered = {wire for test in one.plan.tests if test.unit == "Ω" for wire in test.wires}
        assert covered == set(one.net.facts)
        assert [test.n for test in one.plan.tests] == list(range(1, len(one.plan.tests) + 1))
        assert one.plan.moves_bound <= one.plan.moves <= 1.1 * one.plan.moves_bound
        assert one.plan.shorts_box == math.ceil(math.log2(one.plan.nets))

    def test_continuity_joins_each_net_with_the_fewest_readings(self) -> None:
        one = subject("tractor")
        count = sum(len({one.net.node(p) for p in points}) - 1 for points in one.net.nets.values())
        assert len(one.plan.of("continuity")) == count

    def test_an_earth_comes_before_all_other_readings_and_keeps_a_tenth_of_an_ohm(self) -> None:
        one = subject("shore")
        earth = one.plan.of("earth")
        assert [test.wires for test in earth] == [("C3",)]
        first = next(test for test in one.plan.tests if test.unit == "Ω")
        assert first is earth[0]
        assert earth[0].high == pytest.approx(1.15 * one.net.facts["C3"].copper_ohm + 0.1, rel=1e-4)

    def test_screens_are_tested_where_their_cable_says(self) -> None:
        loops, shore = subject("loops").plan.of("shield"), subject("shore").plan.of("shield")
        assert len([test for test in loops if test.b == "earth" and test.expect is None]) == 6
        assert all(test.probe is not None and test.probe.lift for test in loops if test.b == "earth")
        assert [(test.a, test.b) for test in shore] == [("logger:5", "probe:5")]

    def test_power_is_predicted_by_the_solved_harness(self) -> None:
        one = subject("barge")
        for test, load in zip(one.plan.of("load"), one.net.design.loads, strict=True):
            assert test.expect == pytest.approx(one.results.figures.loads[load.id].volts, rel=1e-5)
            assert test.low is not None
            assert "mend the design" in str(test.told) or test.low >= (load.min_volts or 0.0)
        assert {test.expect for test in one.plan.of("polarity")} == {24.0}

    def test_by_hand_with_two_wires_heavy_paths_get_four(self) -> None:
        one = subject("barge")
        plan = make_plan(one.net, Meter(four_wire=False), box=False)
        heavy = {test.wires for test in plan.of("resistance")}
        assert {("W01",), ("W04",)} <= heavy
        assert len(plan.of("shorts")) == plan.shorts_hand == plan.nets - 1
        assert all(test.probe is not None and test.probe.kind == "two" for test in plan.of("continuity"))

    def test_test_volts_are_the_projects_or_by_the_supply(self) -> None:
        assert volts_of(subject("shore").net) == 500  # 230 V cord among them
        assert volts_of(subject("barge").net) == 250
        one = subject_of(
            pairs(2).model_copy(update={"project": pairs(2).project.model_copy(update={"insulation_v": 100.0})})
        )
        assert volts_of(one.net) == 100

    def test_paper_has_every_test_and_its_cautions(self) -> None:
        results = subject("loops").results
        sheet = sheet_of(results)
        assert len(sheet.tables[-1].rows) == len(results.once(plan_of).tests) == len(rows_of(results)) - 1
        assert any("250 V" in row[0] for row in sheet.tables[0].rows)
        assert any("Ines" in " ".join(row) for row in sheet.tables[1].rows)  # the decision on the spare pair
        assert band_text(results.once(plan_of).of("shield")[-1]) == "at least 1.00 MΩ"

    def test_an_empty_harness_has_an_empty_list(self) -> None:
        from umber_trunk.core.harness.model import Design

        empty = subject_of(Design())
        assert empty.plan.tests == ()
        assert not empty.plan.measures
        assert not Proof(empty.net, plan=empty.plan, priors=empty.priors).complete  # a proof of nothing is none

    @pytest.mark.parametrize("name", ["barge", "shore", "computer", "loops", "tractor"])
    def test_what_is_expected_lies_in_its_own_band(self, name: str) -> None:
        """Of every test, on the demo as it is and with every load and loop asking for more volts than the design leaves
        it: then the test says so, and judges the unit by what the design gives."""
        design = demo(name)
        greedy = design.model_copy(
            update={
                "loads": tuple(load.model_copy(update={"min_volts": 900.0}) for load in design.loads),
                "loops": tuple(loop.model_copy(update={"need_v": 90.0}) for loop in design.loops),
            }
        )
        for number, one in enumerate((design, greedy)):
            tests = subject_of(one).plan.tests
            for test in tests:
                if test.expect is not None:
                    assert test.judged(test.expect), (test.kind, test.text, test.low, test.expect, test.high)
            told = [test for test in tests if "mend the design" in str(test.told)]
            assert len(told) >= number * len([t for t in tests if t.kind in ("load", "loop")])


def test_a_loops_volts_come_down_to_nothing_by_stairs() -> None:
    """Ohm's and Kirchhoff's: each step is the current through its ohms, all of them together the supply; copper at −20
    °C has 0.8428 of its ohms at 20 °C (IEC 60028: 0.00393 a kelvin)."""
    results = subject("loops").results
    known = {one.loop: one for one in budgets(results.design, results)}
    rows = stairs(results.design, results)
    assert len(rows) == 8 * len(known)
    for one in rows:
        budget, amps = known[one.loop], one.ma / 1e3
        assert one.volts[0] - one.volts[1] == pytest.approx(amps * budget.barrier_v / 0.022)
        assert one.volts[4] == pytest.approx(amps * budget.receiver_v / 0.022)
        run = one.volts[1] - one.volts[2] + one.volts[3] - one.volts[4]
        assert (
            run == pytest.approx(amps * budget.run_ohm)
            if one.hot
            else 0.75 * amps * budget.run_ohm < run < 0.95 * amps * budget.run_ohm
        )
        assert one.left_v + run + one.volts[4] + one.volts[0] - one.volts[1] == pytest.approx(budget.supply_v)
        if one.hot and one.ma == 22:
            assert (one.left_v, one.ok) == (pytest.approx(budget.left_v), budget.ok)
    assert len(loop_sheet(results).tables) >= 1 + 2 * len(results.design.loops)


class TestProof:
    """One unit's proof as a run of tasks."""

    def _through(self, proof: Proof, unit: Unit, most: int = 10_000) -> None:
        proof.disconnected = True
        while proof.now is not None and len(proof.answers) < most:
            task = proof.now
            proof.answer(
                task.value_of(unit.measure(task.probe)) if task.probe else task.expect if task.unit else None,
                None if task.unit else True,
            )

    def test_a_sound_unit_is_proven_to_the_last_test(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        self._through(proof, Unit(one.net, seed=2))
        assert proof.complete
        assert set(proof.wires().values()) == {"tested"}
        assert [a.task.kind for a in proof.answers if a.task.kind in POWERED]
        with pytest.raises(InputError, match="at its end"):
            proof.answer(1.0)

    def test_power_stays_off_for_a_faulty_one(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        self._through(proof, Unit(one.net, [parse_fault(one.net, "open:T4")], 2))
        assert not proof.complete
        assert not any(a.task.kind in POWERED for a in proof.answers)
        assert proof.wires(proof.verdict())["T4"] == "failed"
        assert word_of(proof.verdict().suspects[0].fault) == "open:T4"

    def test_high_voltage_is_locked_out_until_somebody_says_so(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        proof.disconnected = True
        unit = Unit(one.net)
        while proof.now is not None and not proof.now.high_voltage:
            proof.answer(
                proof.now.value_of(unit.measure(proof.now.probe)) if proof.now.probe else None,
                None if proof.now.unit else True,
            )
        assert proof.now is not None
        proof.disconnected = False
        with pytest.raises(InputError, match="locked out"):
            proof.answer(1e9)
        proof.disconnected = True
        assert proof.answer(1e9).ok

    def test_what_eyes_refuse_keeps_a_unit_from_being_proven(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        with pytest.raises(InputError, match="right or not"):
            proof.answer(1.0)
        proof.answer(ok=False)
        self._through(proof, Unit(one.net))
        assert not proof.complete
        assert not any(a.task.kind in POWERED for a in proof.answers)

    @given(st.integers(0, 40), st.sampled_from(["", "open:T4", "swap:D3,D4@probe", "short:T1,T2"]))
    def test_it_goes_on_where_it_was_left(self, after: int, word: str) -> None:
        one = subject("shore")
        faults = [parse_fault(one.net, word)] if word else []
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        self._through(proof, Unit(one.net, faults, 5), after)
        again = Proof(one.net, plan=one.plan, priors=one.priors)
        entries = [proof.entry(answer) for answer in proof.answers]
        assert again.replay(entries) == len(entries)
        assert (again.now and again.now.text) == (proof.now and proof.now.text)
        assert again.wires() == proof.wires()

    def test_a_reading_that_jumps_is_shaken_before_the_unit_is_proven(self) -> None:
        one = subject("shore")
        target = next(test.probe for test in one.plan.of("continuity") if test.wires == ("T4",))
        for steady in (True, False):
            proof = Proof(one.net, plan=one.plan, priors=one.priors)
            proof.disconnected = True
            unit, times = Unit(one.net, seed=2), 0
            while proof.now is not None:
                task = proof.now
                times += task.probe == target
                value = task.value_of(unit.measure(task.probe)) if task.probe else task.expect
                if task.probe == target and times == 1:
                    value = math.inf
                if task.kind == "shake" and "second time" in task.text:
                    proof.answer(value if steady else math.inf)
                else:
                    proof.answer(value if task.unit else None, None if task.unit else True)
            assert times == 2
            assert any("second time" in answer.task.text for answer in proof.answers)
            assert proof.complete is steady  # one that makes and breaks isn't proven

    def test_a_reading_read_again_is_held_to_its_own_band(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        self._through(proof, Unit(one.net, [parse_fault(one.net, "high:T4@lamps:5")], 2))
        again = [
            answer for answer in proof.answers if answer.task.following is not None and answer.task.following.again
        ]
        assert again
        assert not any(answer.ok for answer in again)
        assert not proof.sound_so_far

    def test_entries_of_another_place_are_not_taken(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        self._through(proof, Unit(one.net), 30)
        entries = [proof.entry(answer) for answer in proof.answers]
        entries[20] = entries[20].model_copy(update={"a": "elsewhere"})
        assert Proof(one.net, plan=one.plan, priors=one.priors).replay(entries) == 20

    def test_entries_of_another_list_are_not_taken(self) -> None:
        one = subject("shore")
        proof = Proof(one.net, plan=one.plan, priors=one.priors)
        assert proof.replay([Answered.model_validate({"kind": "load", "n": 1, "ok": True})]) == 0

    @pytest.mark.parametrize(
        ("text", "ohm"),
        [
            ("12.4 mohm", 0.0124),
            ("OL", math.inf),
            ("1.2 Mohm", 1.2e6),
            ("0.5", 0.5),
            ("4.7k", 4700.0),
            ("over", math.inf),
        ],
    )
    def test_readings_as_they_are_typed(self, text: str, ohm: float) -> None:
        assert read_reading(text, "Ω") == pytest.approx(ohm)

    @pytest.mark.parametrize("text", ["1", "", "12 V", "abc", "1,200", "-3", "1e400", "12 mohm 5"])
    def test_what_can_not_be_read_whole_is_refused(self, text: str) -> None:
        with pytest.raises(InputError):
            read_reading(text, "Ω")


class TestLoops:
    """4–20 mA."""

    def test_the_sum_at_22_milliamperes(self) -> None:
        # by hand: 24 V · 0.95 − 0.022 · (300 + 250 + run); run of AT-103: 2 · 59 m of 0.75 mm² and the supply's own
        # half ohm shared by six
        results = subject("loops").results
        found = {one.loop: one for one in budgets(results.design, results)}
        one = found["AT-103"]
        assert one.left_v == pytest.approx(0.95 * 24 - 0.022 * (300 + 250 + one.run_ohm), abs=1e-9)
        assert one.run_ohm == pytest.approx(2 * 59 * 26.7e-3 * 0.92 + 6 * 0.5 + 0.21, rel=0.2)
        assert all(one.ok for one in found.values())
        assert "10.5" in str(found["LT-101"].told)

    def test_a_barrier_too_much_is_a_fault_with_its_figures(self) -> None:
        design = demo("loops")
        loops = tuple(
            loop.model_copy(update={"barrier_ohm": 400.0}) if loop.id == "AT-103" else loop for loop in design.loops
        )
        results = analyse(design.model_copy(update={"loops": loops}))
        rows = [row for row in results.findings if row.code == "loop-volts"]
        assert [row.subject for row in rows] == ["AT-103"]
        assert "needs 10.5 V" in rows[0].message

    def test_a_loop_without_its_instrument_and_screens_in_two_places(self) -> None:
        design = demo("loops")
        lost = design.model_copy(update={"loops": (*design.loops, Loop(id="X", name="X", load="nobody"))})
        assert any(row.code == "loop-no-load" for row in analyse(lost).findings)
        ends = tuple(
            end.model_copy(update={"cavities": tuple(c.model_copy(update={"contact": ""}) for c in end.cavities)})
            if end.id == "i2"
            else end
            for end in design.ends
        )
        rows = [
            row
            for row in analyse(design.model_copy(update={"ends": ends})).findings
            if row.code == "screen-two-grounds"
        ]
        assert [row.subject for row in rows] == ["LT-102s"]
        shore = demo("shore")
        taped = tuple(
            end.model_copy(
                update={
                    "cavities": tuple(
                        c.model_copy(update={"contact": "taped"}) if c.id == "5" else c for c in end.cavities
                    )
                }
            )
            if end.id == "probe"
            else end
            for end in shore.ends
        )
        assert any(row.code == "screen-one-end" for row in analyse(shore.model_copy(update={"ends": taped})).findings)
        plain = shore.model_copy(
            update={"ends": taped, "wires": tuple(w.model_copy(update={"signal": False}) for w in shore.wires)}
        )
        assert not any(row.code == "screen-one-end" for row in analyse(plain).findings)  # it shields no data
        bad = tuple(wire.model_copy(update={"bad": True}) if wire.id == "M1a" else wire for wire in design.wires)
        assert any(row.code == "bad-core-used" for row in analyse(design.model_copy(update={"wires": bad})).findings)

    def test_a_spare_pair_takes_the_place_of_a_bad_one_on_every_paper(self) -> None:
        design = demo("loops")
        new, told = take_spare(design, "M1a", "M8b", "Mara", "core 1b open")
        wires = {wire.id: wire for wire in new.wires}
        assert (wires["M1a"].core, wires["M1b"].core, wires["M1a"].start.cavity) == ("8a", "8b", "A1")
        assert wires["M8a"].bad
        assert wires["M8b"].spare
        assert [one.who for one in new.decisions[-2:]] == ["Mara", "Mara"]
        assert told == "LT-101: pair 1 of trunk is bad, pair 8 takes its place, decided by Mara"
        assert {one.why for one in new.decisions[-2:]} == {"core 1b open"}
        assert {one.why for one in take_spare(design, "M1a", "M8b", " Mara ")[0].decisions[-2:]} == {"core found bad"}
        first, second = new.decisions[-2:]
        assert (first.wire, second.wire) == ("M1a", "M1b")
        assert (first.was.split(" core ")[1].split(" ")[0], first.now.split(" core ")[1].split(" ")[0]) == ("1a", "8a")
        assert len({one.id for one in new.decisions}) == len(new.decisions)
        sheet = sheet_of(analyse(new))
        assert any("Mara" in " ".join(row) for row in sheet.tables[1].rows)
        for many in (0, 1):
            tables = sheet_of(analyse(new.model_copy(update={"decisions": new.decisions[-1:] if many else ()}))).tables
            assert len(tables) == 2 + many
            assert len(tables[1].rows) == 1 or not many

    @pytest.mark.parametrize(
        ("bad", "spare", "who", "told"),
        [("M1a", "M8a", " ", "who decides"), ("M1a", "M2a", "Mara", "is no spare"), ("M1a", "LT-101+", "Mara", "same one"), ("M9a", "M8a", "Mara", "no wire"), ("M1a", "M7a", "Mara", "bad itself"), ("MS", "M8a", "Mara", "pair takes")],
    )  # fmt: skip
    def test_what_can_not_be_a_spare_is_told(self, bad: str, spare: str, who: str, told: str) -> None:
        with pytest.raises(EditError, match=told):
            take_spare(demo("loops"), bad, spare, who)


def test_what_should_lead_nowhere_is_followed_up_by_what_its_kind_asks_for() -> None:
    """Insulation against the megohms the project wants, anything else against what a meter shows as open."""
    one = subject_of(set_project(demo("shore"), insulation_ohm=2e7))
    proof = Proof(one.net, plan=one.plan, priors=one.priors)
    apart = next((a, b) for a in one.net.points for b in one.net.points if one.net.net_at(a) != one.net.net_at(b))
    wanted = one.net.design.project.insulation_ohm
    assert wanted != OPEN_OHM
    for kind, low in (("insulation", wanted), ("two", OPEN_OHM)):
        task = proof.follow(Probe(kind, (apart[0],), (apart[1],)), None)
        assert (task.expect, task.low, task.kind == "insulation") == (None, low, kind == "insulation")
        assert task.fits(low)
        assert not task.fits(0.99 * low)


class TestDrills:
    """Practice."""

    def test_the_fault_found_with_as_few_readings_as_an_expert(self) -> None:
        one = subject("shore")
        drill = FaultDrill(one.net, 4, one.priors)
        again = FaultDrill(one.net, 4, one.priors)
        assert drill.fault == again.fault
        assert drill.symptoms
        score = drill.name(drill.fault.what, drill.fault.where)
        assert score.right
        assert not drill.name("leak", ("T1",)).right
        taken = drill.probe(("plug", "E"), ("coupler", "E"))
        assert math.isfinite(taken.ohm)
        with pytest.raises(InputError, match="no place"):
            drill.probe(("plug", "Z"), ("coupler", "E"))

    def test_the_talk_of_each_drill(self) -> None:
        results = subject("shore").results
        run = Drilling(results, "fault", 2)
        assert "failed its list" in run.opening
        assert "a sound unit" in run.enter("probe plug:E coupler:E")[0]
        with pytest.raises(InputError, match="END:CAVITY"):
            run.enter("hello")
        with pytest.raises(InputError, match="no place"):
            run.enter("probe a:b c:d")
        told, over = run.enter(f"say {run.fault.fault.what} {run.fault.fault.place}")
        assert over
        assert run.right
        assert "Right" in told
        assert run.fault.fault.what in WORDS

    def test_giving_up_shows_a_way_that_is_right(self) -> None:
        for drill in DRILLS:
            run = Drilling(subject("barge" if drill != "thread" else "shore").results, drill, 3)
            told, over = run.enter("show me")
            assert (over, run.right) == (True, False)
            assert told.startswith("Given up")
            if run.thread is not None:
                ids = {step.text: step.id for step in run.thread.steps}
                assert run.thread.answer([ids[line.split(". ", 1)[1]] for line in told.splitlines()[1:]]).right
            elif run.face is not None:
                assert f"in {run.face.label}," in told
            else:
                assert "It was: " in told
            if run.powered is not None:  # a reading that isn't a sound one's stands there
                assert any(abs(read - sound) > 0.5 for _, _, read, sound in run.powered.shown())

    def test_a_cavity_named_from_the_wrong_side_is_explained(self) -> None:
        results = subject("barge").results
        sides = set()
        for seed in range(12):
            run = Drilling(results, "face", seed)
            sides.add(run.face.mating)
            assert ("mating side" in run.opening) is run.face.mating
            assert run.face.answer(run.face.label).right
            wrong = next(spot.label for spot in run.face.face.spots if spot.label != run.face.label)
            assert not run.face.answer(wrong).right
            with pytest.raises(InputError, match="no cavity"):
                run.face.answer("zz")
        assert sides == {True, False}

    @pytest.mark.parametrize("name", ["barge", "computer", "tractor"])
    def test_the_mirror_image_is_what_lies_there_on_the_other_sides_picture(self, name: str) -> None:
        results, told = subject(name).results, 0
        for end in dict.fromkeys(end.id for end, _, _ in places_of(results.design).housings()):
            for mine, theirs in zip(faces_in(results, end, "wire"), faces_in(results, end, "mating"), strict=True):
                for spot in mine.spots:
                    there = [
                        one.label
                        for one in theirs.spots
                        if math.dist((one.x_mm, one.y_mm), (spot.x_mm, spot.y_mm)) < 0.01
                    ]
                    if there:
                        told += there != [spot.label]
                        assert opposite(mine, spot.label) == there[0]
        assert told > 10
        for seed in range(30):
            run = Drilling(results, "face", seed)
            mirrored = opposite(run.face.face, run.face.label)
            for label in [spot.label for spot in run.face.face.spots]:
                said = run.face.answer(label)
                assert said.right is (label == run.face.label)
                assert ("mirror image" in said.told) is (not said.right and label == mirrored)

    def test_threading_on_is_judged_by_what_waits_for_what(self) -> None:
        results = subject("shore").results
        run = Drilling(results, "thread", 3)
        steps = {step.id: step for step in run.thread.steps}
        order: list[str] = []
        while len(order) < len(steps):
            order.append(
                next(
                    name
                    for name, step in steps.items()
                    if name not in order and all(a in order or a not in steps for a in step.after)
                )
            )
        assert run.thread.answer(order).right
        backwards = run.thread.answer(order[::-1])
        waits = sum(a in steps for step in steps.values() for a in step.after)
        assert (backwards.right, backwards.used, backwards.least) == (False, waits, 0)
        with pytest.raises(InputError, match="once"):
            run.thread.answer(order[:-1])


def test_a_list_that_is_kept_says_what_it_said_and_one_without_sentences_is_none() -> None:
    text = plan_text(subject("shore").plan)
    assert plan_text(plan_from(json.loads(text))) == text
    for key, odd in itertools.product(("text", "told"), (5, None, ["a"], {"code": "x"})):
        data = json.loads(text)
        data["tests"][0][key] = odd
        with pytest.raises(ValueError, match="no list of tests"):
            plan_from(data)
