"""The shell of Prove and Keep: keys and statuses other programs rely on."""

from __future__ import annotations

import io
import json
import re
import subprocess
import sys
from pathlib import Path

import pytest

from umber_trunk.cli.main import main
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.meters import MeterLink
from umber_trunk.store.project import ProjectFile
from umber_trunk_helpers import beside

Capture = pytest.CaptureFixture[str]


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("demos")
    for name in ("shore", "loops", "tractor"):
        put_demo(path / f"{name}.umber", name).close()
    return path


def told(capsys: Capture, *words: object) -> tuple[int, dict[str, object]]:
    capsys.readouterr()
    status = main([str(word) for word in words])
    return status, json.loads(capsys.readouterr().out)


def said(capsys: Capture, monkeypatch: pytest.MonkeyPatch, lines: str, *words: object) -> tuple[int, str]:
    """A talk: lines in, what was printed out."""
    monkeypatch.setattr(sys, "stdin", io.StringIO(lines))
    capsys.readouterr()
    status = main([str(word) for word in words])
    return status, "".join(capsys.readouterr())


def test_tests_have_their_keys(folder: Path, capsys: Capture) -> None:
    status, found = told(capsys, "tests", folder / "shore.umber", "--json")
    assert status == 0
    rows = found["tests"]
    assert {"n", "kind", "from", "to", "expect", "low", "high", "unit"} <= set(rows[0])
    assert (found["nets"], found["shorts_tests"], found["shorts_by_hand"], found["pairs"]) == (17, 5, 16, 136)
    for row in rows:
        if row["expect"] is not None and row["low"] is not None and row["kind"] != "load":
            assert row["low"] <= row["expect"]
    _, by_hand = told(capsys, "tests", folder / "shore.umber", "--two-wire", "--by-hand", "--json")
    assert any(row["kind"] == "resistance" for row in by_hand["tests"])  # type: ignore[attr-defined]
    assert main(["tests", str(folder / "shore.umber")]) == 0
    assert "group tests for shorts" in capsys.readouterr().out


def test_proofs_name_the_fault(folder: Path, capsys: Capture) -> None:
    status, found = told(
        capsys,
        "prove",
        folder / "shore.umber",
        "--sim",
        "--fault",
        "open:T4",
        "--fault",
        "swap:D3,D4@probe",
        "--seed",
        "1",
        "--json",
    )
    assert (status, found["verdict"]) == (1, "faulty")
    faults = found["faults"]
    assert {(row["what"], row["where"]) for row in faults[:2]} == {("open", "T4"), ("swap", "D3,D4")}
    assert all(row["probability"] > 0.5 for row in faults[:2])
    assert found["readings"] == len(found["taken"])  # type: ignore[arg-type]
    status, found = told(capsys, "prove", folder / "shore.umber", "--sim", "--json")
    assert (status, found["verdict"], found["faults"]) == (0, "sound", [])
    assert main(["prove", str(folder / "shore.umber"), "--sim", "--fault", "high:T4@lamps:0.05"]) == 1
    out = capsys.readouterr().out
    assert "make T4 anew at lamp box" in out
    assert "can’t tell it from" not in out, "millivolts at its clamps part the two ends"
    assert main(["prove", str(folder / "shore.umber"), "--sim", "--fault", "high:T4@lamps:0.05", "--amps", "0"]) == 1
    assert "can’t tell it from" in capsys.readouterr().out
    for words, why in ((["--fault", "open:T4"], "--sim"), (["--sim", "--fault", "open:T99"], "no wire")):
        assert main(["prove", str(folder / "shore.umber"), *words]) == 2
        assert why in capsys.readouterr().err


def test_a_proof_by_lines_and_into_the_log(
    folder: Path, tmp_path: Path, capsys: Capture, monkeypatch: pytest.MonkeyPatch
) -> None:
    status, text = said(capsys, monkeypatch, "\nwhat\nbad\nq\n", "prove", folder / "shore.umber")
    assert status == 1
    assert "right or not" in text
    assert "seen bad" in text
    status, text = said(capsys, monkeypatch, "off\n" * 1500 + "q\n", "prove", folder / "shore.umber")
    assert (status, "Left here" in text) == (1, True)  # however often it is said
    path = tmp_path / "t.umber"
    path.write_bytes((folder / "tractor.umber").read_bytes())
    status, found = told(capsys, "prove", path, "--unit", "2", "--sim", "--hand", "Ines", "--json")
    assert (status, found["verdict"]) == (0, "sound")
    assert told(capsys, "units", path, "proven", "--json")[1]["units"] == []  # half of it isn't made
    status, found = told(
        capsys,
        "prove",
        path,
        "--unit",
        "2",
        "--sim",
        "--hand",
        "Ines",
        "--as-is",
        "Mara",
        "made by the yard",
        "--anew",
        "--json",
    )
    _, units = told(capsys, "units", path, "proven", "--json")
    assert [(row["unit"], row["state"], row["proven_by"]) for row in units["units"]] == [
        (2, "proven in simulation", "Ines")
    ]  # type: ignore[attr-defined]
    status, text = said(capsys, monkeypatch, "\n\nq\n", "prove", path, "--unit", "3", "--hand", "Jo")
    assert "what was answered is kept" in text
    _, units = told(capsys, "units", path, "hand", "Jo", "--json")
    assert [(row["unit"], row["tests"]) for row in units["units"]] == [(3, 2)]  # type: ignore[attr-defined]
    assert main(["verify", str(path)]) == 0


def test_a_meter_is_served_and_read(folder: Path, capsys: Capture) -> None:
    process = subprocess.Popen(
        [sys.executable, "-m", "umber_trunk", "meter", "--sim", str(folder / "shore.umber"), "--fault", "short:T1,T2", "--noise", "0"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        address = process.stdout.readline().strip()
        assert re.fullmatch(r"tcp:127\.0\.0\.1:\d+", address)
        status, found = told_by_meter(folder, address, capsys)
        assert status == 1
        assert "T1 and T2 touch" in found
        with MeterLink(address) as link:
            link.tell("ROUT:CLOS:A tractor:1")
            link.tell("ROUT:CLOS:B lamps:1")
        assert main(["meter", address]) == 0
        assert capsys.readouterr().out.strip().endswith("ohm")
    finally:
        process.kill()
        process.communicate()
    assert main(["meter"]) == 2
    assert main(["meter", "--sim", str(folder / "shore.umber"), "--noise", "-1"]) == 2


def told_by_meter(folder: Path, address: str, capsys: Capture) -> tuple[int, str]:
    """A proof by the meter, eyes saying yes to everything."""
    capsys.readouterr()
    before = sys.stdin
    sys.stdin = io.StringIO("\n" * 60 + "off\n" * 3)
    try:
        status = main(["prove", str(folder / "shore.umber"), "--meter", address])
    finally:
        sys.stdin = before
    return status, capsys.readouterr().out


def test_identify_in_all_ways(capsys: Capture, monkeypatch: pytest.MonkeyPatch) -> None:
    for way, walks in (("--alone", 2), ("--partner", 0), ("--tags", 1)):
        status, found = told(capsys, "identify", "9", way, "--json")
        assert (status, found["walks"], found["possible"]) == (0, walks, True)
        assert found["steps"]
    status, found = told(capsys, "identify", "2", "--alone", "--json")
    assert (status, found["possible"]) == (1, False)
    status, text = said(capsys, monkeypatch, "1-9\n1-3\n2-3\n1-2\n", "identify", "3", "--enter")
    assert status == 0
    assert "✕" in text
    assert text.count("near") >= 3
    assert main(["identify", "8"]) == 0
    assert "2 walks" in capsys.readouterr().out
    assert main(["identify", "0"]) == 2


def test_learning_a_cable_and_taking_it_over(folder: Path, tmp_path: Path, capsys: Capture) -> None:
    status, found = told(
        capsys, "learn", folder / "shore.umber", "--from", "logger", "--to", "probe", "--sim", "--json"
    )
    assert (status, found["differs"], len(found["nets"])) == (0, [], 5)  # type: ignore[arg-type]
    status, found = told(
        capsys,
        "learn",
        folder / "shore.umber",
        "--from",
        "logger",
        "--to",
        "probe",
        "--sim",
        "--fault",
        "swap:D3,D4@probe",
        "-o",
        tmp_path / "k.umber",
        "--json",
    )
    assert status == 1
    with ProjectFile.open(tmp_path / "k.umber") as project:
        pins = {(wire.start.cavity, wire.finish.cavity) for wire in project.design.wires}
    assert ("2", "2") in pins
    assert main(["learn", str(folder / "shore.umber"), "--from", "logger", "--to", "nowhere", "--sim"]) == 2
    assert main(["learn", str(folder / "shore.umber"), "--from", "logger", "--to", "probe"]) == 2


def test_loops_and_spares(folder: Path, tmp_path: Path, capsys: Capture) -> None:
    status, found = told(capsys, "loops", folder / "loops.umber", "--json")
    assert status == 0
    assert {row["loop"] for row in found["loops"]} == {"LT-101", "LT-102", "AT-103", "TT-104", "FT-105", "FT-106"}
    path = tmp_path / "l.umber"
    path.write_bytes((folder / "loops.umber").read_bytes())
    assert main(["loops", str(path), "--spare", "M1a", "M8a", "--who", "Mara", "--why", "open"]) == 0
    assert "pair 8 takes its place" in capsys.readouterr().out
    assert main(["loops", str(path), "--spare", "M1a", "M8a"]) == 2
    status, found = told(capsys, "diff", f"{path}@1", path, "--json")
    assert status == 1
    assert {row["id"] for row in found["wires"]["changed"]} == {"M1a", "M1b", "M8a", "M8b"}  # type: ignore[index]


def test_units_diff_upgrade_repair_and_verify(folder: Path, tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "t.umber"
    path.write_bytes((folder / "tractor.umber").read_bytes())
    _, found = told(capsys, "units", path, "coil", "C03", "--json")
    assert {"build", "unit", "serial", "revision", "state", "coils"} <= set(found["units"][0])  # type: ignore[index]
    assert main(["units", str(path), "--serial", "lot 1/1", "T-1"]) == 0
    assert main(["units", str(path), "--deviation", "T-1", "longer boot", "Mara"]) == 0
    assert main(["units", str(path), "serial", "T-1"]) == 0
    assert "T-1" in capsys.readouterr().out
    for ending in ("pdf", "csv", "json"):
        assert main(["units", str(path), "--certificate", "T-1", str(tmp_path / f"c.{ending}"), "--book"]) == 0
        assert (tmp_path / f"c.{ending}").stat().st_size > 500
    assert main(["diff", f"{path}#lot 1/1", f"{path}#lot 1/2"]) == 1
    assert "longer boot" in capsys.readouterr().out
    assert main(["diff", str(path), f"{path}#lot 1/2"]) == 2
    assert main(["diff", str(path), f"{path}@x"]) == 2
    assert main(["diff", str(path), str(path)]) == 0
    with ProjectFile.open(path) as project:
        wires = tuple(w.model_copy(update={"colour": "blue"}) if w.id == "R21" else w for w in project.design.wires)
        project.commit(project.design.model_copy(update={"wires": wires}), "R21 blue")
        head = project.head
    status, found = told(capsys, "upgrade", path, "T-1", "--json")
    assert status == 0
    assert set(found) == {"format", "kept", "voids", "todo", "wires_out", "build"}
    assert main(["upgrade", str(path), "T-1", "--who", "Mara"]) == 0
    _, found = told(capsys, "units", path, f"revision {head}", "--json")
    assert [row["unit"] for row in found["units"]] == [1]  # type: ignore[attr-defined]
    _, found = told(capsys, "repair", path, "lot 1/2", "--end", "winch", "--json")
    assert {row["wire"] for row in found["ends"]} == {"R01", "R02"}  # type: ignore[attr-defined]
    assert main(["repair", str(path), "lot 1/2", "--mended", "new lug", "--who", "Jo"]) == 0
    assert main(["repair", str(path), "lot 1/2", "--mended", "new lug"]) == 2
    status, found = told(capsys, "verify", path, "--json")
    assert (status, found["whole"]) == (0, True)
    with ProjectFile.open(path) as project:
        beside(project).execute("UPDATE log SET made = made + 1 WHERE n = 3")
    status, found = told(capsys, "verify", path, "--json")
    assert status == 1
    assert "entry 3" in str(found["told"])


def test_drills_are_talks(folder: Path, capsys: Capture, monkeypatch: pytest.MonkeyPatch) -> None:
    status, text = said(
        capsys,
        monkeypatch,
        "hello\nprobe plug:E coupler:E\nsay leak T1\n",
        "practise",
        "fault",
        "--file",
        folder / "shore.umber",
        "--seed",
        "2",
    )
    assert status == 1
    assert "It was:" in text
    status, text = said(capsys, monkeypatch, "zz\n", "practise", "face", "--file", folder / "shore.umber")
    assert "no cavity" in text
    status, text = said(capsys, monkeypatch, "9 9\n", "practise", "thread", "--file", folder / "shore.umber")
    assert status == 1


def test_a_proof_of_nothing_is_none(tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "empty.umber"
    assert main(["new", str(path)]) == 0
    for words in (["--sim"], ["--sim", "--json"], []):
        assert main(["prove", str(path), *words]) == 2
        assert "nothing to prove" in capsys.readouterr().err
