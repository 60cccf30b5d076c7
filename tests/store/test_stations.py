"""Two stations that knew nothing of each other, with clocks that are wrong: what they say is taken in the order of
their chains, what contradicts is named with both sides, proves nothing, and is chosen between by name."""

from __future__ import annotations

import json
from itertools import pairwise
from pathlib import Path

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import UmberError
from umber_trunk.core.keep.stations import clocks, disputes
from umber_trunk.core.make.events import Event, event
from umber_trunk.store import build as builds
from umber_trunk.store.builds import begin, resume
from umber_trunk.store.facts import facts_of
from umber_trunk.store.found_units import kept_unit
from umber_trunk.store.keeping import choose
from umber_trunk.store.lines_log import station_path
from umber_trunk.store.merging import merge
from umber_trunk.store.project import ProjectFile

DAY_MS = 86_400_000


@pytest.fixture
def twice(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Three steps of one unit done here, and the same three at a station whose clock is a day behind."""
    path = tmp_path / "shore.umber"
    with ProjectFile.create(path, demo("shore"), copied=False) as project:
        begin(project, "one", [1]).close()
        now = builds.now_ms
        with (
            ProjectFile.open(path, for_writing=False) as reader,
            resume(reader, "one", station="back", hand="Ilo") as there,
        ):
            monkeypatch.setattr(builds, "now_ms", lambda: now() - DAY_MS)
            for _ in range(3):
                there.advance()
        monkeypatch.setattr(builds, "now_ms", now)
        with resume(project, "one", hand="Mara") as here:
            for _ in range(3):
                here.advance()
        merge(project, station_path(path, "back"))
    return path


def test_what_two_stations_did_is_asked_about_and_chosen(twice: Path, capfd: pytest.CaptureFixture[str]) -> None:
    with ProjectFile.open(twice) as project:
        open_ = disputes(project.floor.events())
        assert [one.what for one in open_] == ["step"] * 3
        assert all("Mara" in one.told and "Ilo" in one.told and one.one.n < one.other.n for one in open_)
        codes = [one.code for one in facts_of(project, None).findings]
        assert codes.count("make.disputed") == 3
        assert codes.count("make.clock") == 1  # before the build was begun, by a day
        (_, _, _, off), *_ = clocks(project.floor.events())
        assert off == pytest.approx(DAY_MS, rel=0.01)
        assert kept_unit(project, "one/1").disputed
        for who, why in (("", "x"), ("Mara", " ")):
            with pytest.raises(UmberError, match="Say who"):
                choose(project, str(open_[0].one.n), str(open_[0].other.n), who, why)
        with pytest.raises(UmberError, match="don’t contradict"):
            choose(project, str(open_[0].one.n), str(open_[1].other.n), "Mara", "saw it")
    assert main(["disputes", str(twice)]) == 1
    one, two, three = open_
    assert (
        main(
            [
                "disputes",
                str(twice),
                "--stands",
                str(one.other.n),
                "--against",
                str(one.one.n),
                "--who",
                "Mara",
                "--why",
                "his is on it",
            ]
        )
        == 0
    )
    assert (
        main(
            [
                "disputes",
                str(twice),
                "--stands",
                str(two.one.n),
                "--against",
                str(two.other.n),
                "--both",
                "--who",
                "Mara",
                "--why",
                "cut twice",
            ]
        )
        == 0
    )
    assert (
        main(
            [
                "disputes",
                str(twice),
                "--stands",
                str(three.one.n),
                "--against",
                str(three.other.n),
                "--who",
                "Mara",
                "--why",
                "mine",
            ]
        )
        == 0
    )
    capfd.readouterr()
    assert main(["disputes", str(twice), "--json"]) == 0
    said = json.loads(capfd.readouterr().out)
    assert said["disputes"] == []
    assert len(said["clocks"]) == 1
    with ProjectFile.open(twice, for_writing=False) as project:
        record = kept_unit(project, "one/1")
        assert not record.disputed
        assert {struck.id for struck, _, _ in record.struck} == {one.one.id, three.other.id}
        assert not project.floor.trust().wrong
        assert project.floor.trust().signed_to >= three.other.n + 4  # each choice is signed


def log(*rows: Event) -> list[Event]:
    return [
        event(one.id, one.build, one.at_ms, one.kind, one.unit, one.step, one.data, n) for n, one in enumerate(rows, 1)
    ]


def said(id: str, act: str, at_ms: int = 1_795_000_000_000, step: str = "", **data: object) -> Event:
    return event(id, "one", at_ms, act, 1, step, data)


MERGED = event("m", "", 1_795_000_000_000, "merged", data={"file": "b.jsonl", "entries": 1, "name": "back"})
READ = {"what": "height", "unit": "mm", "value": 1.5}
TEST = {"n": 4, "kind": "resistance", "a": "X1 1", "b": "X2 1", "value": 0.1, "unit": "ohm"}
VOIDS = {"wire": "W1", "side": "start", "voids": ["1|crimp W1 start"], "eaten_mm": 5.0}


@pytest.mark.parametrize(("one", "other", "what"), [
    (("read", {**READ, "verdict": "scrap"}), ("read", READ), "reading"), (("test", {**TEST, "ok": False}), ("test", {**TEST, "ok": True}), "test"),
    (("serial", {"serial": "A1"}), ("serial", {"serial": "A2"}), "serial"), (("remake", VOIDS), ("done", {"op": "crimp", "wire": "W1"}), "wire"),
    (("done", {"op": "crimp", "wire": "W1"}), ("scrap", {"wire": "W1", "voids": ["1|crimp W1 start"]}), "wire"),
    (("read", READ), ("read", {**READ, "value": 1.6}), ""), (("test", {**TEST, "ok": True}), ("test", {**TEST, "ok": True}), ""), (("serial", {"serial": "A1"}), ("serial", {"serial": "A1"}), ""),
])  # fmt: skip
def test_every_kind_of_contradiction(
    one: tuple[str, dict[str, object]], other: tuple[str, dict[str, object]], what: str
) -> None:
    step = "1|crimp W1 start"
    a, b = said("a", one[0], step=step, **one[1]), said("b", other[0], step=step, **other[1])
    assert [each.what for each in disputes(log(a, b, MERGED))] == ([what] if what else [])
    assert not disputes(log(a, b))  # of one station
    assert not disputes(log(b, MERGED, a))  # said knowing of the other
    assert not disputes(log(a, b, MERGED, said("c", "undo", of="a")))
    assert not disputes(log(a, b, MERGED, said("c", "strike", of="b", who="Mara", why="no")))
    assert not disputes(log(a, b, MERGED, said("c", "note", says="both", both=["a", "b"])))


def test_an_answer_after_a_repair_there_contradicts_nothing() -> None:
    merged = event("m", "", 1, "merged", data={"file": "b.jsonl", "entries": 2, "name": "back"})
    rows = log(
        said("a", "test", **{**TEST, "ok": False}),
        said("r", "mended", says="crimped anew"),
        said("b", "test", **{**TEST, "ok": True}),
        merged,
    )
    assert not disputes(rows)


def test_clocks_never_order_anything() -> None:
    """The same entries with any clocks make the same record: only the moments in it differ."""
    orders = [(0, 1, 2), (2, 1, 0), (5, 0, 9)]
    found = [
        disputes(
            log(
                said("a", "serial", at_ms=1_795_000_000_000 + DAY_MS * x, serial="A1"),
                said("b", "serial", at_ms=1_795_000_000_000 + DAY_MS * y, serial="A2"),
                MERGED,
            )
        )
        for x, y, _ in orders
    ]
    assert all([each.one.id for each in a] == [each.one.id for each in b] for a, b in pairwise(found))


def test_no_other_stations_log_chooses_or_takes_back_here() -> None:
    merged = event("m", "", 1, "merged", data={"file": "b.jsonl", "entries": 2, "name": "back"})
    a, b = said("a", "serial", serial="A1"), said("b", "serial", serial="A2")
    for word in (said("c", "note", says="both", both=["a", "b"]), said("c", "undo", of="a")):
        assert len(disputes(log(a, b, word, merged))) == 1
    assert (
        len(disputes(log(a, b, MERGED, said("c", "undo", of="a"), said("d", "strike", of="c", who="Mara", why="no"))))
        == 1
    )
