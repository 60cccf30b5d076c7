"""One key for a handful: every piece has its own entry, one can be taken out, and nothing is attested that has to be
measured or looked at singly."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from umber_trunk.core.demo import demo
from umber_trunk.core.harness.edits import change, set_project
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.bench import BenchError
from umber_trunk.core.make.events import Defect, Done, Undo
from umber_trunk.core.make.handfuls import Handful
from umber_trunk.core.make.measuring import limits_of
from umber_trunk.core.make.times import learn
from umber_trunk.store.build import Build
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.floor import times_of
from umber_trunk.store.found_units import records_of
from umber_trunk.store.lines_log import station_path
from umber_trunk.store.merging import merge
from umber_trunk.store.project import ProjectFile

Begun = Callable[..., Build]


@pytest.fixture
def begun(tmp_path: Path) -> Iterator[Begun]:
    files: list[ProjectFile] = []

    def make(name: str = "tractor", units: int = 2, looks: str = "lamp", **more: str) -> Build:
        design = demo(name)
        design = set_project(design, practice=change(design.project.practice, looks=looks))
        files.append(ProjectFile.create(tmp_path / f"{name}{len(files)}.umber", design, copied=False))
        return begin(files[-1], "b", range(1, units + 1), **more)

    yield make
    for one in files:
        one.close()


def press(build: Build) -> int:
    """One press, and the readings a first-off asks for before it; how many."""
    step, presses = build.bench.now, 1
    assert step is not None
    for kind in build.bench.lacks(step):
        limits = limits_of(build.frozen.shelf, step.operation, kind)
        middle = (limits.low + limits.high) / 2 if limits.low and limits.high else 1.1 * (limits.low or 1.0)
        build.read(kind, f"{middle:.4f}", decimal="point")
        presses += 1
    build.attest(build.bench.together())
    return presses


def to(build: Build, wanted: Callable[[Handful], bool]) -> Handful:
    for _ in range(1000):
        here = build.bench.handful
        assert here is not None
        if wanted(here):
            return here
        press(build)
    raise AssertionError("no such handful")


def row_of(op: str) -> Callable[[Handful], bool]:
    return lambda here: here.first.op == op and not here.first.sample and len(here.pieces) > 3


def test_six_tractors_take_few_presses_and_every_step_is_traced(begun: Begun) -> None:
    build, presses = begun(units=6), 0
    while build.bench.now is not None:
        presses += press(build)
    events = build.project.floor.events()
    done = [one for one in events if isinstance(one.act, Done)]
    assert presses <= 250
    assert Counter(one.step for one in done) == Counter(step.key for step in build.bench.order.steps)
    marks: dict[str, list[Done]] = {}
    for one in done:
        assert isinstance(one.act, Done)
        if one.act.handful:
            marks.setdefault(one.act.handful, []).append(one.act)
    assert all(len(rows) > 1 and len({act.hand for act in rows}) == 1 for rows in marks.values())
    kinds = {act.op for rows in marks.values() for act in rows}
    assert not kinds & {"torque", "test", "extract"}
    singles = {one.step for one in done if isinstance(one.act, Done) and not one.act.handful}
    assert {s.key for s in build.bench.order.steps if s.operation.sample or s.operation.key == "last look"} <= singles
    for record in records_of(build.project, ""):
        assert set(record.done) >= build.frozen.making.steps_of(record.unit)


def test_looks_the_practice_wants_singly_are_attested_singly(begun: Begun) -> None:
    build = begun(units=1, looks="each")
    here = to(build, row_of("look"))
    assert here.singly
    before = build.bench.count[0]
    press(build)
    assert build.bench.count[0] == before + 1


def test_one_piece_is_taken_out_without_the_rest(begun: Begun) -> None:
    build = begun()
    here = to(build, row_of("strip"))
    press(build)
    done = set(build.bench.done)
    piece = here.pieces[2]
    assert [one.step for one in build.back(piece)] == [piece[0].key]
    assert done - set(build.bench.done) == {piece[0].key}
    assert build.bench.now is piece[0]
    build.attest(build.bench.together())  # what is left of it
    last = build.project.floor.events()[-1]
    assert last.step == piece[0].key
    assert isinstance(last.act, Done)
    assert not last.act.handful
    build.back()
    build.back()  # the handful, all at once
    assert not any(step.key in build.bench.done for step in here.steps if step is not piece[0])
    press(build)
    row = to(build, row_of("crimp"))
    build.defect("nicked", at=row.pieces[1][0])  # seen before it is crimped
    press(build)
    assert [step.key in build.bench.done for (step,) in row.pieces[:3]] == [True, False, True]
    assert isinstance(build.project.floor.events()[-1].act, Done | Defect)
    with pytest.raises(BenchError, match="start this end over"):
        build.attest([row.pieces[1][0]])
    wire = row.pieces[1][0].operation
    build.remake(wire.wire, wire.side, row.pieces[1][0].unit)
    assert build.bench.now is not None
    assert build.bench.now.operation.op == "cut"
    stripped = next(
        s
        for s in build.bench.order.steps
        if s.operation.op == "strip"
        and s.key in build.bench.done
        and s.operation.wire
        and s.operation.wire != wire.wire
    )
    crimped = [s for s in build.bench.order.steps if stripped.n in s.after and s.key in build.bench.done]
    if crimped:
        with pytest.raises(BenchError, match="done already"):
            build.back([stripped])


def test_a_piece_waits_for_what_comes_before_it(begun: Begun) -> None:
    """A look at what isn't crimped yet is refused; a cut taken by itself brings the stop that is set for it; nothing is
    logged of what is refused."""
    build = begun(units=3)
    here = build.bench.handful
    assert here is not None
    with pytest.raises(BenchError, match="set the stop"):
        build.attest([here.pieces[2][-1]])
    build.attest(build.bench.alone(here.pieces[2]))
    assert [all(s.key in build.bench.done for s in one) for one in here.pieces] == [False, False, True]
    assert [one.kind for one in build.project.floor.events()] == ["begin", "done", "done"]
    to(build, row_of("crimp"))
    build.advance()  # one crimp alone: its look is next
    looks = build.bench.handful
    assert looks is not None
    assert looks.first.op == "look"
    entries = len(build.project.floor.events())
    with pytest.raises(BenchError, match="comes first"):
        build.attest(build.bench.alone(looks.pieces[3]))
    assert len(build.bench.together()) == 1
    assert len(build.project.floor.events()) == entries


def test_a_coil_gives_what_it_has_and_the_rest_waits(begun: Begun) -> None:
    build = begun(units=3)
    here = build.bench.handful
    assert here is not None
    long = here.first.length_m or 0.0
    piece = build.frozen.making.pieces[0]
    build.project.floor.put_coils(
        [Coil("K1", piece.size, 2.4 * long, piece.metal), Coil("K2", piece.size, 9 * long, piece.metal)], 0
    )
    build.attest(build.bench.together(), "K1")
    assert [all(s.key in build.bench.done for s in one) for one in here.pieces] == [True, True, False]
    with pytest.raises(BenchError, match="left"):
        build.attest(build.bench.together(), "K1")
    build.attest(build.bench.together(), "K2")
    left = {held.coil.id: held.left_m for held in build.project.floor.coils()}
    assert left == {"K1": pytest.approx(0.4 * long, abs=1e-3), "K2": pytest.approx(8 * long, abs=1e-3)}
    build.back()
    assert {held.coil.id: held.left_m for held in build.project.floor.coils()}["K2"] == pytest.approx(9 * long)


def test_what_a_handful_took_is_shared_as_it_was_planned(begun: Begun, monkeypatch: pytest.MonkeyPatch) -> None:
    """Twice the time planned is twice the time of each step; what took far too long is nobody's time, nor is that of a
    bench just opened."""
    clock = [100.0]
    monkeypatch.setattr("umber_trunk.store.build.time.monotonic", lambda: clock[0])
    build = begun(units=3)
    press(build)
    to(build, row_of("crimp"))
    steps = build.bench.together()
    clock[0] += 2.0 * sum(step.seconds for step in steps)
    told = build.attest(steps)
    assert [one.data["seconds"] for one in told] == [pytest.approx(2.0 * step.seconds, abs=0.01) for step in steps]
    mixed = build.bench.together()
    while len({step.seconds for step in mixed}) == 1:
        press(build)
        mixed = build.bench.together()
    clock[0] += 3.0 * sum(step.seconds for step in mixed)
    assert [one.data["seconds"] for one in build.attest(mixed)] == [
        pytest.approx(3.0 * step.seconds, abs=0.01) for step in mixed
    ]
    clock[0] += 86_400.0
    assert all("seconds" not in one.data for one in build.attest(build.bench.together()))


def test_another_sample_before_the_batch_goes_on(begun: Begun) -> None:
    build = begun(units=1)
    row = to(build, row_of("crimp"))
    build.another_sample()
    now = build.bench.now
    assert now is not None
    assert now.operation.sample
    to(build, lambda here: here is row)  # made and measured again
    build.another_sample()
    build.back()
    assert build.bench.handful is row


def test_a_handful_is_one_time_not_many() -> None:
    """A handful's mean scatters √n less than a piece: with n times the same shop, spread and median come out alike."""
    single = [10.0, 12.0, 9.0, 11.0, 14.0, 8.0, 10.0]
    one = learn([("strip", "x", value) for value in single]).known["strip", "x"]
    means = learn([("strip", "x", 10.0 + (value - 10.0) / 2, 4) for value in single]).known["strip", "x"]
    assert means == pytest.approx(one)


def test_a_station_logs_its_handfuls_in_one_write(begun: Begun) -> None:
    build = begun(units=2, station="loft")
    press(build)
    path = station_path(build.project.path, "loft")
    lines = [json.loads(line) for line in path.read_text().splitlines()]
    assert sum(line.get("kind") == "done" for line in lines) == len(build.bench.done) > 1
    build.back()
    assert len(build.bench.done) == 0
    build.close()
    merge(build.project, path)
    again = resume(build.project, "b")
    assert again.bench.count == (0, build.bench.count[1])
    assert sum(isinstance(one.act, Undo) for one in again.bench.history) == sum(
        line.get("kind") == "done" for line in lines
    )
    assert times_of(build.project.floor.events()) == []
