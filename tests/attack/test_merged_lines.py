"""Lines of another station's log that no bench can have written: each is named, nothing is merged, and the log can be
read ever after."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo
from umber_trunk.store.builds import begin
from umber_trunk.store.files import StoreError
from umber_trunk.store.lines_log import read_lines, station_path
from umber_trunk.store.merging import BadLinesError, merge
from umber_trunk.store.project import ProjectFile


def nested(depth: int) -> Any:
    found: Any = 1
    for _ in range(depth):
        found = {"a": found}
    return found


FIELDS: list[dict[str, Any]] = (
    [
        {"at_ms": value}
        for value in (1_795_000_000_000_000, -1, 2**63, 10**40, 1e308, 4_102_444_800_000, "now", None, True, 1.5, [1])
    ]
    + [{"unit": value} for value in (-1, 2, 10_001, 2**70, "1", None, True, 1.0)]
    + [
        {name: value}
        for name in ("id", "build")
        for value in ("", "x" * 501, "a\0b", "a\nb", "half \ud800", 7, None, ["a"])
    ]
    + [
        {"build": "never begun"},
        {"step": "x" * 501},
        {"step": None},
        {"step": "\ud800"},
        {"kind": ""},
        {"kind": 7},
        {"kind": "x" * 41},
        {"kind": None},
        {"data": None},
        {"data": []},
        {"data": {"says": "x" * 30_000}},
        {"data": {"says": 7}},
        {"data": {"says": "half \ud800"}},
        {"kind": "unheard of", "data": nested(40)},
        {"kind": "unheard of", "data": {"a": 10**30}},
        {"kind": "unheard of", "data": {"\ud800": 1}},
        {"kind": "read", "data": {"what": "height", "value": float("inf")}},
        {"kind": "signed", "data": {}},
        {"kind": "begin", "data": {"units": []}},
        {
            "kind": "begin",
            "data": {"units": [1], "school": "operation", "hands": 1, "revision": 1, "harness": "another"},
        },
        {"kind": "done", "data": {"coil_m": -5}},
        {"kind": "done", "data": {"coil_m": "NaN"}},
        {"kind": "undo", "data": {}},
    ]
)
RAW = ["{", "[]", "7", "null", '"x"', "{}", "\ufeff{}", '{"id": NaN}', "[" * 5000, '{"input": "00", "body": "!"}', '{"input": "00", "body": "eJwDAAAAAAE="}', '{"signed": {}}', '{"signed": {"key": "00", "entries": 1, "seal": "", "signature": ""}}',
       '{"id": "n", "build": "one", "at_ms": 1, "kind": "note", "unit": 1, "step": "", "data": {"says": "a", "x": Infinity}}', "x" * 100_000]  # fmt: skip
GOOD = {
    "id": "good",
    "build": "one",
    "at_ms": 1_795_000_000_000,
    "kind": "note",
    "unit": 1,
    "step": "",
    "data": {"says": "so"},
}


@pytest.fixture
def harness(tmp_path: Path) -> Path:
    path = tmp_path / "shore.umber"
    with ProjectFile.create(path, demo("shore"), copied=False) as project:
        begin(project, "one", [1]).close()
    return path


def hostile() -> list[str]:
    return [json.dumps(GOOD | {"id": f"bad {n}"} | field) for n, field in enumerate(FIELDS)] + RAW


def test_every_bad_line_is_named_and_poisons_nothing(harness: Path, capfd: pytest.CaptureFixture[str]) -> None:
    path = harness.with_name("other.jsonl")
    with ProjectFile.open(harness) as project:
        before = project.floor.seal()
        for line in hostile():
            path.write_text(
                f"{json.dumps(GOOD)}\n{line}\n{json.dumps(GOOD | {'id': 'after'})}\n",
                encoding="utf-8",
                errors="surrogatepass",
            )
            with pytest.raises(StoreError, match=r"line 2|another harness|UTF-8") as told:
                merge(project, path)
            assert "Nothing was merged" in str(told.value) or "UTF-8" in str(told.value), line[:80]
            assert len(str(told.value)) < 3000
            assert project.floor.seal() == before
    assert main(["log", str(harness), "--merge", str(path)]) == 2
    capfd.readouterr()
    for words in ("log", "units", "verify", "status", "charts"):
        assert main([words, str(harness)]) in (0, 1)


def test_what_is_before_a_bad_line_is_taken_where_it_is_asked_for(
    harness: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    with (
        ProjectFile.open(harness) as project,
        ProjectFile.open(harness, for_writing=False) as reader,
        begin(reader, "two", [2], station="back") as other,
    ):
        for _ in range(3):
            other.advance()
        other.close()
        path = station_path(harness, "back")
        lines = path.read_text().splitlines()
        for bad in random.Random(3).sample(hostile(), 6):
            if "another" in bad:
                continue
            path.write_text(
                "\n".join([*lines, bad, *(json.dumps(GOOD | {"id": f"more {n}"}) for n in range(3))]) + "\n",
                errors="surrogatepass",
            )
            with pytest.raises(BadLinesError):
                merge(project, path)
        taken = merge(project, path, without_bad=True)
        assert (taken.added, taken.unsigned) == (4, 0)
        assert f"Held back: lines {len(lines) + 1} to {len(lines) + 4}" in taken.held_back
        assert merge(project, path, without_bad=True).added == 0
        assert not project.floor.trust().wrong
    assert main(["log", str(harness), "--merge", str(path), "--without-bad"]) == 1
    assert "Held back" in capfd.readouterr().err


def test_a_log_that_holds_such_a_time_already_can_be_read(harness: Path, capfd: pytest.CaptureFixture[str]) -> None:
    """Merged by an earlier version: a time in microseconds made reading it a bug report for ever."""
    from umber_trunk.core.make.events import event

    with ProjectFile.open(harness) as project:
        for n, at_ms in enumerate((1_795_000_000_000_000, -(10**17), 10**18)):
            project.floor.append([event(f"x{n}", "one", at_ms, "note", 1, data={"says": "x"})])
    for words in (["log"], ["units"], ["units", "--json"], ["verify"], ["status"], ["log", "--json"]):
        assert main([words[0], str(harness), *words[1:]]) in (0, 1)
    assert "no such time" in capfd.readouterr().out
    assert read_lines.__doc__
