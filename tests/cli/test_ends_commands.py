"""fit, pinmap, mate, strip, demo and schema in the shell: contracts other programs rely on."""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ElementTree
from pathlib import Path
from typing import Any

import pytest

from umber_trunk.cli.main import main
from umber_trunk.store.catalogues import catalogue_path


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    folder = tmp_path_factory.mktemp("demos")
    made = {}
    for name, ending in (("barge", "umber"), ("shore", "json")):
        made[name] = str(folder / f"{name}.{ending}")
        assert main(["demo", name, "--save", made[name]]) == 0
    return made


def said(capsys: pytest.CaptureFixture[str], *words: str, status: int = 0) -> Any:
    capsys.readouterr()
    assert main([*words, "--json"]) == status
    return json.loads(capsys.readouterr().out)


def test_demos_are_listed_and_saved(files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert main(["demo", "--list"]) == 0
    assert [line.split()[0] for line in capsys.readouterr().out.splitlines()] == [
        "barge",
        "shore",
        "computer",
        "loops",
        "tractor",
        "shop",
    ]
    assert main(["demo", "nowhere", "--save", str(tmp_path / "x.json")]) == 2
    assert main(["demo", "barge", "--save", files["barge"]]) != 0  # never over a file


def test_fit(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    rows = said(capsys, "fit", files["shore"], status=1)
    assert {"end", "cavity", "wire", "part", "rule", "ok", "value", "low", "high", "unit", "message", "cure"} <= set(
        rows[0]
    )
    wrong = [row for row in rows if not row["ok"]]
    assert {(row["rule"], row["wire"]) for row in wrong} == {
        ("stud.hole", "B1"),
        ("cavity.role", "D3"),
        ("cavity.role", "D4"),
    }
    lug = next(row for row in wrong if row["rule"] == "stud.hole")
    assert (lug["value"], lug["low"], lug["high"], lug["unit"]) == (8.0, 8.4, 10.0, "mm")
    assert lug["cure"]
    assert "anchor-35-m8" in lug["options"]
    assert len([row for row in rows if row["ok"]]) > 100  # good ones too
    assert main(["fit", files["shore"]]) == 1
    assert "slip winch" in capsys.readouterr().out


def test_pinmap_and_its_mirror(files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    wire = said(capsys, "pinmap", files["barge"], "--end", "j1", "--side", "wire")["cavities"]
    mating = said(capsys, "pinmap", files["barge"], "--end", "j1", "--side", "mating")["cavities"]
    assert len(wire) == 24
    assert {"housing", "label", "x_mm", "y_mm", "wire", "colour"} <= set(wire[0])
    assert [(one["label"], -one["x_mm"], one["y_mm"], one["wire"]) for one in wire] == [
        (one["label"], one["x_mm"], one["y_mm"], one["wire"]) for one in mating
    ]
    assert {one["label"]: one["wire"] for one in wire}["15"] == "W35"
    out = tmp_path / "face.svg"
    assert main(["pinmap", files["barge"], "--end", "j1", "--side", "wire", "--svg", str(out)]) == 0
    assert ElementTree.parse(out).getroot().tag.endswith("svg")
    assert main(["pinmap", files["barge"], "--end", "nowhere", "--side", "wire"]) == 2


def test_mate(files: dict[str, str], capsys: pytest.CaptureFixture[str]) -> None:
    found = said(capsys, "mate", files["barge"], "--end", "j1")["housings"][0]
    face = said(capsys, "pinmap", files["barge"], "--end", "j1", "--side", "wire")
    assert (found["mate"], found["form"], found["contacts"]) == ("cockle-s24-plug", "plug", "socket")
    assert [(c["label"], -c["x_mm"]) for c in found["cavities"]] == [(c["label"], c["x_mm"]) for c in face["cavities"]]
    crossed = said(capsys, "mate", files["shore"], "--end", "logger", "--with", "probe", status=1)
    assert {row["label"] for row in crossed["differences"]} == {"2", "4"}
    assert crossed["agrees"] is False
    pins = Path(files["shore"]).with_name("pins.csv")
    for rows, status, agrees in (("1,24.1\n2,0\n", 0, True), ("1,0\n2,24.1\n", 1, False), ("1,\n2,\n", 1, False)):
        pins.write_text(f"pin,volts\n{rows}")
        assert (
            said(capsys, "mate", files["barge"], "--end", "conveyor", "--with", str(pins), status=status)["agrees"]
            is agrees
        )
    pins.write_text("pin,volts\n1,dear\n,3\n")
    assert main(["mate", files["barge"], "--end", "conveyor", "--with", str(pins)]) == 2
    assert "row 2, volts" in (told := capsys.readouterr().err)
    assert "row 3" in told
    plug = said(capsys, "mate", files["barge"], "--end", "conveyor", "--with", f"{files['barge']}:drum", status=1)
    assert "plug meets plug." in {row["what"] for row in plug["differences"]}
    for wrong in (f"{files['barge']}:nowhere", files["barge"], "nowhere"):
        assert main(["mate", files["barge"], "--end", "conveyor", "--with", wrong]) == 2


def test_strip(files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    lug = said(capsys, "strip", files["shore"], "--wire", "B2")
    assert [one["part"] for one in lug["ends"]] == ["anchor-35-m8", "anchor-35-m8"]
    assert "o’clock" in lug["clock"]
    assert lug["ends"][0]["strip_mm"] > 10
    cord = said(capsys, "strip", files["shore"], "--wire", "C3")
    earth, line = ({core["mark"]: core["free_mm"] for core in end["cores"]} for end in cord["cable"])
    assert earth["E"] > earth["L"]
    assert line["E"] > line["L"]
    out = tmp_path / "strip.svg"
    assert main(["strip", files["barge"], "--wire", "W04", "--svg", str(out)]) == 0
    assert ElementTree.parse(out)
    assert main(["strip", files["barge"], "--wire", "W99"]) == 2
    assert main(["strip", files["barge"], "--wire", "W04"]) == 0


def test_the_shops_own_parts_are_proposed(
    files: dict[str, str], capsys: pytest.CaptureFixture[str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A contact of the shop's own for 1.5 mm² in the pump's plug: the misfit is gone, and back without it."""
    own = tmp_path / "own.json"
    part = {
        "kind": "contact", "id": "shop-l", "name": "Shop L", "family": "cockle", "gender": "socket", "size": "L", "area_mm2": {"low": 1.0, "high": 2.0},
        "strip_mm": 6.5, "rated_a": 60.0,
    }  # fmt: skip
    own.write_text(json.dumps([part]))
    assert "part.fits" in {row["rule"] for row in said(capsys, "fit", files["barge"], status=1) if not row["ok"]}
    assert [row["id"] for row in said(capsys, "catalogue", "import", str(own))] == ["shop-l"]
    rows = said(capsys, "fit", files["barge"], status=1)
    assert "part.fits" not in {row["rule"] for row in rows if not row["ok"]}
    assert {row["part"] for row in rows if row["wire"] == "W08" and row["rule"] == "barrel.area"} >= {"shop-l"}
    for words in (("make", "--units", "1"), ("order",), ("buy",), ("strip", "--wire", "W08")):
        monkeypatch.setattr("sys.stdin", io.StringIO("q\n"))
        main([words[0], files["barge"], *words[1:]])
    catalogue_path().write_text("[")
    said(capsys, "fit", files["barge"], status=1)
    assert "broken" in _told(capsys, "check", files["barge"])


def _told(capsys: pytest.CaptureFixture[str], *words: str) -> str:
    main(list(words))
    return capsys.readouterr().err
