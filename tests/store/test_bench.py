"""The bench: a fold over a log that loses nothing, undoes exactly what it says, and outlives a kill."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
from collections.abc import Sequence
from datetime import date
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from demos import worked_out
from long_runs import LONG
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import set_project
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.bench import Bench, BenchError
from umber_trunk.core.make.events import Event, event
from umber_trunk.core.make.frozen import freeze
from umber_trunk.core.make.runs import runs_of
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.timed import Order
from umber_trunk.core.results import Results
from umber_trunk.core.shop.jobs import close
from umber_trunk.core.shop.things import Job
from umber_trunk.store.build import Build
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.facts import facts_of
from umber_trunk.store.files import StoreError
from umber_trunk.store.floor import times_of
from umber_trunk.store.keeping import log_said, take_upgrade
from umber_trunk.store.lines_log import add_line, read_lines, station_path
from umber_trunk.store.merging import merge
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.station import known_stations
from umber_trunk.store.stock import shelf_file
from umber_trunk.store.verifying import note_key
from umber_trunk_helpers import beside, calls_of

RESULTS = worked_out("shore")
ORDER = plan_order(RESULTS, 1)


def bench_of(results: Results, order: Order, events: Sequence[Event] = ()) -> Bench:
    frozen = freeze(results, order, "test")
    return Bench(frozen.making, frozen.shelf, "b", events)


def bench() -> Bench:
    return bench_of(RESULTS, ORDER)


def through(one: Bench, upto: int) -> None:
    """Steps on, releasing what wants a reading."""
    while one.count[0] < upto and one.now is not None:
        step = one.now
        if one.needs_reading(step):
            one.add(event(f"r{step.key}{len(one.history)}", "b", 0, "release", step.unit, step.key, {"who": "test"}))
        one.add(one.advance(f"e{len(one.history)}", 0, 1.0))


def state(one: Bench) -> tuple[object, ...]:
    return (
        sorted(one.done),
        [step.key for step in one.extras],
        dict(one.eaten),
        dict(one.scrapped),
        one.count,
        one.now and one.now.key,
    )


def test_every_step_is_done_once_and_then_all_is_done() -> None:
    one = bench()
    through(one, 10_000)
    assert one.now is None
    assert one.count == (len(ORDER.steps), len(ORDER.steps))
    assert one.left_s() == 0
    with pytest.raises(BenchError, match="nothing is left"):
        one.advance("x", 0)


ACTS = st.lists(st.sampled_from(["done", "done", "done", "back", "remake", "scrap", "read", "again"]), max_size=60)


@settings(max_examples=60 if LONG else 12)
@given(ACTS, st.integers(0, 150))
def test_the_same_log_gives_the_same_state_and_back_takes_exactly_one_act_back(acts: list[str], start: int) -> None:
    one = bench()
    through(one, start)
    for number, act in enumerate(acts):
        before, name, now = state(one), f"a{number}", one.now
        try:
            if act == "done":
                if now is not None and one.needs_reading(now):
                    one.add(event(f"rel{number}", "b", 0, "release", 0, now.key, {"who": "t"}))
                    before = state(one)
                said = one.advance(name, 0)
            elif act == "back":
                (said,) = one.back(lambda name=name: name, 0)
            elif act == "remake":
                last = next(
                    (
                        e
                        for e in reversed(one.history)
                        if e.kind == "done"
                        and e.id not in one.undone
                        and e.step in one.steps
                        and one.steps[e.step].operation.side
                    ),
                    None,
                )
                step = one.steps[last.step] if last else None
                if step is None:
                    continue
                said = one.remake(name, 0, step.operation.wire, step.operation.side, step.unit)
            elif act == "scrap":
                said = one.scrap(name, 0, RESULTS.design.wires[number % 3].id, 1)
            elif act == "again" and one.history:
                one.add(one.history[-1])
                assert state(one) == before  # an event seen before changes nothing
                continue
            else:
                said = event(name, "b", 0, "read", 0, now.key if now else "", {"what": "mass", "value": 1.0})
        except BenchError:
            assert state(one) == before
            continue
        one.add(said)
        if act in ("done", "remake", "scrap"):
            undone = bench_of(RESULTS, ORDER, one.history)
            undone.add(*undone.back(lambda: "undo", 0))
            assert state(undone) == before
    assert state(bench_of(RESULTS, ORDER, one.history)) == state(one)


def test_a_remake_undoes_the_steps_of_that_end_and_what_judges_it_and_counts_down() -> None:
    one = bench()
    through(one, 10_000)
    step = next(s for s in ORDER.steps if s.operation.op == "insert" and s.operation.wire)
    wire, side = step.operation.wire, step.operation.side
    left = one.left(wire, side, 1).times
    assert left >= 1
    for number in range(left - 1):
        one.add(one.remake(f"m{number}", 0, wire, side, 1))
    through(one, 10_000)
    one.add(one.remake("m", 0, wire, side, 1, "strand out"))
    voided = {key for key in one.steps if key not in one.done}
    for key in voided:
        operation = one.steps[key].operation
        same_end = operation.wire == wire and operation.side == side
        closing = operation.op in ("test", "look", "lock", "clamp", "torque") and not operation.wire
        assert same_end or closing, key
    mine = {
        s.key for s in ORDER.steps if s.operation.wire == wire and s.operation.side == side and not s.operation.sample
    }
    assert mine <= voided
    assert "1|test" in voided
    assert [s.operation.op for s in one.extras] == ["extract", "cut"]
    assert one.left(wire, side, 1).times == 0
    with pytest.raises(BenchError, match="scrap the wire"):
        one.remake("n", 0, wire, side, 1)
    one.add(one.scrap("s", 0, wire, 1))
    assert not mine & set(one.done)
    assert one.left(wire, side, 1).times == left


def test_a_scrapped_wire_takes_its_splices_along_and_no_other_wire() -> None:
    results = worked_out("tractor")
    order = plan_order(results, 1)
    one = bench_of(results, order)
    through(one, 10_000)
    said = one.scrap("s", 0, "R09", 1)
    voided = set(said.data["voids"])
    assert "1|R09 cut" in voided
    assert "1|SP1 split" in voided
    assert "1|test" in voided
    beside = {one.steps[key].operation.wire for key in voided} - {"R09", ""}
    assert beside == {"R05", "R11", "R13"}  # in one barrel with it: cut out, bared anew
    assert {one.steps[key].operation.end for key in voided if one.steps[key].operation.wire in beside} == {"SP1"}
    assert not any("SN1" in key or "SP2" in key for key in voided)
    left = one.left("R11", "start", 1)
    one.add(said)
    assert one.left("R11", "start", 1).left_mm == pytest.approx(left.left_mm - left.eaten_mm)
    assert one.left("R11", "finish", 1) == one.left("R11", "finish", 2)
    assert one.now.key == "1|R09 cut"
    assert one.progress().wires["R09"][0] < one.progress().wires["R09"][1]


def test_the_first_crimp_of_a_tool_is_measured_or_released() -> None:
    one = bench()
    while one.now is not None and not one.needs_reading(one.now):
        one.add(one.advance(f"e{len(one.history)}", 0))
    step = one.now
    assert step.operation.sample
    with pytest.raises(BenchError, match="First-off"):
        one.advance("x", 0)
    wanted = one.lacks(step)
    assert "pull" in wanted
    one.add(event("r1", "b", 0, "read", 0, step.key, {"what": "mass", "value": 1.0, "verdict": "note"}))
    assert one.lacks(step) == wanted  # a mass says nothing of a crimp
    one.add(event("r2", "b", 0, "read", 0, step.key, {"what": "pull", "value": 1.0, "verdict": "scrap"}))
    with pytest.raises(BenchError, match="out of its limits"):
        one.advance("x", 0)
    for kind in wanted:
        with pytest.raises(BenchError):
            one.advance("x", 0)
        one.add(event(f"ok {kind}", "b", 0, "read", 0, step.key, {"what": kind, "value": 900.0, "verdict": "accept"}))
    one.add(one.advance("x", 0))
    assert step.key in one.done
    through(one, one.place[next(s.key for s in ORDER.steps if s.operation.op == "crimp" and not s.operation.sample)])
    crimp = one.now
    one.add(event("r9", "b", 0, "read", crimp.unit, crimp.key, {"what": "height", "value": 9.0, "verdict": "rework"}))
    with pytest.raises(BenchError, match="start this end over"):
        one.advance("y", 0)
    one.add(event("rel", "b", 0, "release", crimp.unit, crimp.key, {"who": "Jo"}))
    one.add(one.advance("y", 0))


def test_ten_thousand_steps_stay_quick() -> None:
    """The last thousand of ten thousand events make at most a few times the calls of the first."""
    order = plan_order(RESULTS, 48)
    one = bench_of(RESULTS, order)
    costs = []
    for _ in range(10):
        costs.append(calls_of(lambda: through(one, one.count[0] + 1000)))
    assert len(one.history) > 9000
    assert costs[-1] < 3 * costs[0]


# on disk


@pytest.fixture
def harness(tmp_path: Path) -> Path:
    path = tmp_path / "h.umber"
    ProjectFile.create(path, demo("shore"), copied=False).close()
    return path


def sizes() -> list[Coil]:
    from umber_trunk.core.kit.stock import pieces

    return [Coil(f"C{n}", size, 200.0) for n, size in enumerate(sorted({p.size for p in pieces(RESULTS, 1)}))]


def test_a_build_goes_on_at_the_very_step_and_books_its_coils(harness: Path) -> None:
    with ProjectFile.open(harness) as project:
        project.floor.put_coils(sizes(), 0)
        with begin(project, "one", [1, 2], hand="Mara") as build:
            cut = next(s for s in build.bench.order.steps if s.operation.op == "cut")
            while cut.key not in build.bench.done:
                build.advance()
            here = build.bench.now
            coil = build.bench.done[cut.key].data["coil"]
        left = {held.coil.id: held.left_m for held in project.floor.coils()}
        assert left[coil] == pytest.approx(200 - float(build.bench.done[cut.key].data["coil_m"]), abs=1e-3)
        at_ms = build.bench.history[-1].at_ms
        project.floor.put_coils([one for one in sizes() if one.id == coil], at_ms + 1)
        assert next(held.left_m for held in project.floor.coils() if held.coil.id == coil) == 200  # counted anew since
        assert any(row.frozen == "build one" for row in project.revisions())
        with pytest.raises(StoreError, match="already"):
            begin(project, "one", [1])
    with ProjectFile.open(harness) as project, resume(project) as again:
        assert again.bench.now.key == here.key
        again.back()
        assert {held.coil.id: held.left_m for held in project.floor.coils()}[coil] == 200.0
        again.advance()
        with pytest.raises(StoreError, match="no build"):
            resume(project, "two")
        left = again.pause()  # the bench is left: of the whole build, and the sitting signed
        assert (left.kind, left.unit) == ("pause", 0)
        trust = project.floor.trust()
        assert (str(trust.wrong), trust.signed_to) == ("", trust.entries)
        todo = facts_of(project, RESULTS).todo
        assert {one.unit for one in todo} - {0} == {1, 2}  # unit 0: samples
        assert cut.operation.wire not in {one.wire for one in todo if one.unit == cut.unit}
        while again.bench.now is not None:
            if again.bench.needs_reading(again.bench.now):
                again.release("Mara", "a test")
            again.advance()
        assert facts_of(project, RESULTS).todo == ()


def test_what_comes_off_a_coil_is_what_was_cut(harness: Path) -> None:
    """A sample once, a wire as often as it lies beside itself."""
    with ProjectFile.open(harness) as project:
        project.floor.put_coils(sizes(), 0)
        beside = {wire.id: wire.parallel for wire in project.design.wires}
        with begin(project, "one", [1]) as build:
            seen = set()
            while len(seen) < 2:
                step = build.bench.now
                done = build.advance()
                one = step.operation
                if one.op == "cut" and one.length_m and (one.sample or one.wire in beside):
                    many = 1 if one.sample else beside[one.wire]
                    assert done.data["coil_m"] == pytest.approx(many * one.length_m)
                    seen.add(bool(one.sample))


def test_a_coil_chosen_by_hand_has_to_be_the_right_one_and_long_enough(harness: Path) -> None:
    with ProjectFile.open(harness) as project:
        project.floor.put_coils([*sizes(), Coil("thin", "0.5 mm2", 99.0), Coil("stub", sizes()[-1].size, 0.05)], 0)
        with begin(project, "one", [1]) as build:
            while build.bench.now is not None and build.bench.now.operation.op != "cut":
                build.advance()
            right = build.coil_for(build.bench.now)  # type: ignore[arg-type]
            size = next(coil.size for coil in sizes() if coil.id == right)
            project.floor.put_coils([Coil("stub", size, 0.05), Coil("own", size, 50.0)], 0)
            for name, told in (("thin", "this wire is"), ("stub", "m left"), ("none", "no coil")):
                with pytest.raises(BenchError, match=told):
                    build.advance(name)
            metres = build.bench.now.operation.length_m  # type: ignore[union-attr]
            project.floor.put_coils([Coil("short", size, metres - 0.01)], 0)
            with pytest.raises(BenchError, match="m left"):
                build.advance("short")
            project.floor.put_coils([Coil("just", size, metres), Coil("own", size, 50.0)], 0)
            assert build.advance("just").data["coil"] == "just"  # as long as the wire is long enough
            build.back()
            assert build.advance("own").data["coil"] == "own"


def test_the_order_is_the_same_in_every_run() -> None:
    """Whatever seed strings are hashed by: else a build would not go on at the very step."""
    code = (
        "from umber_trunk.core.analysis import analyse; from umber_trunk.core.demo import demo; from "
        "umber_trunk.core.make.sequence import plan_order; print([s.key for s in "
        "plan_order(analyse(demo('tractor')), 2).steps])"
    )
    env = os.environ | {"PYTHONPATH": str(Path(__file__).parents[2] / "src")}
    said = {
        subprocess.run(
            [sys.executable, "-c", code], env=env | {"PYTHONHASHSEED": seed}, capture_output=True, check=True
        ).stdout
        for seed in "134"
    }
    assert len(said) == 1


def test_what_is_made_anew_is_judged_anew() -> None:
    one = bench()
    step = next(s for s in ORDER.steps if s.operation.op == "crimp" and not s.operation.sample)
    through(one, one.place[step.key])
    for number, kind in enumerate(("read", "release")):
        one.add(
            event(
                f"k{number}",
                "b",
                0,
                kind,
                1,
                step.key,
                {"what": "height", "value": 9.0, "verdict": "rework", "who": "Jo"},
            )
        )
    one.add(one.advance("d", 0))
    one.add(one.remake("m", 0, step.operation.wire, step.operation.side, 1))
    assert step.key not in one.released
    assert not one.fresh(step.key)


def test_the_design_may_change_while_its_frozen_revision_is_built(harness: Path) -> None:
    with ProjectFile.open(harness) as project:
        begin(project, "one", [1]).close()
        project.commit(project.design.model_copy(update={"wires": project.design.wires[1:]}), "fewer")
        with resume(project) as build:
            assert len(build.frozen.design.wires) == len(demo("shore").wires)


def test_another_station_logs_beside_the_file_and_is_merged_by_adding(harness: Path) -> None:
    with ProjectFile.open(harness) as main, begin(main, "one", [1]) as build:
        build.advance()
        with (
            ProjectFile.open(harness, for_writing=False) as reader,
            begin(reader, "two", [2], station="back room") as other,
        ):
            for _ in range(3):
                other.advance()
        path = station_path(harness, "back room")
        assert path.parent == harness.parent
        log = read_lines(path, main.id)
        assert (len(log.events), log.signed, log.faults) == (4, 4, [])
        assert (merge(main, path).added, merge(main, path).added) == (4, 0)
        kinds = [one.kind for one in main.floor.events()]
        assert kinds == ["begin", "done", "begin", "done", "done", "done", "merged", "signed"]
        wrong = '{"id": "z", "build": "two", "at_ms": 1, "kind": "undo", "unit": 1, "step": "", "data": {}}'
        path.write_text(path.read_text() + f"{{broken\n{{}}\n{wrong}\n")
        with pytest.raises(StoreError, match=r"line 8.*line 9.*line 10.*Nothing was merged"):
            merge(main, path)


def test_a_line_cut_off_by_a_power_cut_was_never_logged(tmp_path: Path) -> None:
    path = tmp_path / "s.jsonl"
    add_line(path, event("1", "b", 1, "note", data={"says": "a"}))
    path.write_bytes(path.read_bytes() + b'{"id": "2", "bui')
    found = read_lines(path)
    assert ([one.id for one in found.events], found.faults) == (["1"], [])
    add_line(path, event("3", "b", 1, "note", data={"says": "b\n"}))
    assert [one.id for one in read_lines(path).events] == ["1", "3"]


def test_a_shelf_file_is_shared_and_nothing_else_is_taken_for_one(tmp_path: Path) -> None:
    path = tmp_path / "shop.umbershelf"
    with shelf_file(path, make=True) as shelf:
        shelf.put_coils([Coil("C1", "1 mm2", 10.0), Coil("C2", "1 mm2", 5.0)], 100)
        shelf.book(
            [
                ("e1", "C1", 2.5, 200, "W1"),
                ("e1", "C1", 2.5, 200, "W1"),
                ("e2", "C1", 1.0, 50, "old"),
                ("e3", "gone", 1.0, 200, "x"),
            ]
        )
    with shelf_file(path) as shelf:
        assert {held.coil.id: held.left_m for held in shelf.coils()} == {"C1": 7.5, "C2": 5.0}
        shelf.put_coils([Coil("C1", "1 mm2", 7.0)], 300)  # counted again
        shelf.unbook(["e1"])
        assert shelf.coils()[0].left_m == 7.0
    (tmp_path / "x.umbershelf").write_bytes(b"nothing")
    with pytest.raises(StoreError, match="no shelf file"), shelf_file(tmp_path / "x.umbershelf"):
        pass
    with pytest.raises(StoreError), shelf_file(tmp_path / "missing"):
        pass


def test_readings_are_charted_from_the_log_and_those_taken_back_are_not(harness: Path) -> None:
    with ProjectFile.open(harness) as project, begin(project, "one", [1]) as build:
        while build.bench.now is not None and not build.bench.needs_reading(build.bench.now):
            build.advance()
        build.read("pull", "600 N")
        build.read("pull", "1 N")
        build.back()
        with pytest.raises(BenchError, match="no step"):
            build.read("pull", "5 N", key="nowhere")
        build.release("Jo")
        build.advance()
        events = project.floor.events()
    run = runs_of(events)[0]
    assert run.chart.values == (600.0,)
    assert run.low is not None
    assert "pull force" in run.title
    assert len(times_of(events)) == sum(one.kind == "done" and "seconds" in one.data for one in events) > 3


def test_an_older_file_gets_a_floor_and_a_broken_log_is_told(harness: Path) -> None:
    from umber_trunk.store import database

    with ProjectFile.open(harness) as project:
        assert project.floor.events() == []
        assert project.floor.coils() == []
        beside(project).execute("INSERT INTO log (id, build, made, body, seal, unit) VALUES ('x', 'b', 1, '[]', '', 0)")
        with pytest.raises(StoreError, match="log can't be read"):
            project.floor.events()
        beside(project).execute("DELETE FROM log")
        with database.schema_changes(beside(project)):
            for name in database.FLOOR:
                beside(project).execute(f"DROP TABLE {name}")
        beside(project).execute("PRAGMA user_version = 3")
    with ProjectFile.open(harness) as project:
        assert project.floor.events() == []
    with ProjectFile.open(harness, for_writing=False) as reader, pytest.raises(StoreError, match="can't be changed"):
        reader.floor.append([event("1", "b", 1, "note")])


@pytest.mark.parametrize("kill_after", [1, 7, 23])
def test_a_kill_at_any_step_loses_no_reading_and_doubles_none(harness: Path, kill_after: int) -> None:
    """The bench in the terminal, killed while it works: what it showed as done is logged, once; it goes on at the next
    step."""
    env = os.environ | {"PYTHONPATH": str(Path(__file__).parents[2] / "src")}
    with subprocess.Popen(
        [sys.executable, "-m", "umber_trunk", "make", str(harness), "--units", "1", "--build", "k"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
        env=env,
    ) as told:
        assert told.stdin
        assert told.stdout
        shown = 0
        told.stdin.write("\n" * 400)
        told.stdin.flush()
        for line in told.stdout:
            shown += line.startswith("[")
            if shown > kill_after:
                break
        told.send_signal(signal.SIGKILL)
    with ProjectFile.open(harness) as project, resume(project, "k") as build:
        done = [one.step for one in project.floor.events() if one.kind == "done"]
        assert len(done) == len(set(done)) >= min(kill_after, 5)
        assert [step.key for step in build.bench.order.steps[: len(done)]] == done
        assert build.bench.now is build.bench.order.steps[len(done)]


def test_what_is_said_is_kept_whole_or_refused(harness: Path) -> None:
    """A reason that is cut off in silence says something else on a certificate."""
    whole, more = ("r" * most for most in (1000, 1001))
    with ProjectFile.open(harness) as project:
        build = begin(project, "b", (1,))
        wire = ""
        while not wire:
            one = build.bench.now
            assert one is not None
            wire = one.operation.wire
            if build.bench.needs_reading(one):
                build.release("Mara")
            build.advance()
        doors = {
            "release": lambda text: build.release("Mara", text),
            "note": build.note,
            "defect": lambda text: build.defect("jacket-cut", text),
            "reset": lambda text: build.reset("press 1", "", text),
            "scrap": lambda text: build.scrap(wire, 1, text),
            "deviation": lambda text: log_said(project, "b/1", "deviation", {"says": text, "who": "Mara"}),
            "mended": lambda text: log_said(project, "b/1", "mended", {"says": text, "who": "Mara"}),
        }
        for kind, act in doors.items():
            with pytest.raises(InputError, match="1001 letters, and 1000 are kept"):
                act(more)
            act(f"  {whole} ")
            assert whole in json.dumps(project.floor.events("b")[-1].data), kind
        for longer, act in (
            (81, lambda text: build.release(text)),
            (81, lambda text: log_said(project, "b/1", "serial", {"serial": text})),
            (81, lambda text: project.floor.waive(text, "none here")),
            (1001, lambda text: project.floor.waive("Mara", text)),
        ):
            with pytest.raises(InputError, match=f"{longer} letters"):
                act("w" * longer)
        # what is refused leaves nothing half done
        project.commit(set_project(project.design, name="another"), "renamed")
        held, known = project.revisions(), known_stations()
        with pytest.raises(InputError, match="81 letters"):
            take_upgrade(project, "b/1", held[-1].seq, None, "w" * 81)  # type: ignore[arg-type]
        with pytest.raises(InputError, match="81 letters"):
            note_key(None, "trusted", "0" * 64, "w" * 81, "", "")
        assert (project.revisions(), known_stations()) == (held, known)
        assert not all(row.frozen for row in held)
    job = Job(id="J1", file="h.umber", note="n" * 390)
    assert close(job, date(2026, 12, 2), "by word ").note.endswith("n; by word")
    with pytest.raises(InputError, match="“by a word…” has 9 letters, and 8 are kept"):
        close(job, date(2026, 12, 2), "by a word")


def test_the_log_is_plain_json(harness: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from umber_trunk.cli.main import main

    with ProjectFile.open(harness) as project, begin(project, "one", [1]) as build:
        build.note("a note")
    assert main(["log", str(harness), "--json"]) == 0
    assert [one["kind"] for one in json.loads(capsys.readouterr().out)] == ["begin", "note", "signed"]
    assert isinstance(build, Build)


def test_nothing_is_begun_that_cannot_be_made_and_open_faults_are_said(tmp_path: Path) -> None:
    from umber_trunk.core.harness.edits import put, set_size
    from umber_trunk.core.harness.model import Design

    with ProjectFile.create(tmp_path / "e.umber", Design(), copied=False) as project:
        with pytest.raises(InputError, match="nothing to make"):
            begin(project, "x", [1])
        assert project.floor.builds() == []
    design = demo("barge")
    open_size = put(
        set_size(design, ["W48"], None),
        "wires",
        next(w for w in design.wires if w.id == "W48").model_copy(update={"size": None, "signal": False}),
    )
    sizeless = open_size.model_copy(update={"loads": ()})
    project = ProjectFile.create(tmp_path / "b.umber", sizeless, copied=False)
    with project, pytest.raises(InputError, match="is open"):
        begin(project, "x", [1])
    with ProjectFile.create(tmp_path / "f.umber", design, copied=False) as project, begin(project, "x", [1]) as build:
        assert build.begun.faults > 0
        with pytest.raises(StoreError, match="name"):
            begin(project, " ", [1])
        with pytest.raises(InputError, match="units"):
            begin(project, "y", [])
