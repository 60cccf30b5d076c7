"""The shell's words about the way: the keys other programs rely on, statuses, and what is refused."""

import json
from pathlib import Path
from xml.etree import ElementTree

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.demo import demo, shop_list
from umber_trunk.store.files import write_whole
from umber_trunk.store.project import ProjectFile

PARTS = ("path_m", "bends_m", "twist_m", "loops_m", "entry_m", "strip_m", "remakes_m", "extra_m")


@pytest.fixture(scope="module")
def computer(tmp_path_factory: pytest.TempPathFactory) -> str:
    path = tmp_path_factory.mktemp("runs") / "computer.umber"
    ProjectFile.create(path, demo("computer")).close()
    return str(path)


def said(capsys: pytest.CaptureFixture[str], *words: str, status: int = 0) -> str:
    assert main(list(words)) == status, capsys.readouterr().err
    return capsys.readouterr().out


def test_lengths(capsys: pytest.CaptureFixture[str], computer: str) -> None:
    rows = json.loads(said(capsys, "lengths", computer, "--json"))
    assert len(rows) == 43
    for row in rows:
        assert list(row)[:12] == ["id", *PARTS, "cut_m", "sd_m", "chance_short"]
        assert sum(row[part] for part in PARTS) == pytest.approx(row["cut_m"], abs=1e-6)
        assert 0 <= row["chance_short"] <= 0.02
    lines = said(capsys, "lengths", computer, "--csv").splitlines()
    assert lines[0] == "id," + ",".join([*PARTS, "cut_m", "sd_m", "chance_short"])
    assert len(lines) == 44
    assert "G05" in said(capsys, "lengths", computer)


def test_history(capsys: pytest.CaptureFixture[str], computer: str, tmp_path: Path) -> None:
    good = tmp_path / "pairs.csv"
    good.write_text(
        "method,planned_m,found_m\n" + "".join(f"string,2.0,{2.02 + 0.002 * n}\n" for n in range(6)) + "tape,1,1.0\n"
    )
    rows = json.loads(said(capsys, "lengths", computer, "--learn", str(good), "--json"))
    assert [(row["method"], row["pairs"], row["enough"]) for row in rows] == [("tape", 1, False), ("string", 6, True)]
    assert rows[1]["bias"] == pytest.approx(0.0125)
    assert "6 pairs" in said(capsys, "lengths", computer, "--learn", str(good))
    bad = tmp_path / "bad.csv"
    bad.write_text('method,planned_m,found_m\nrope,1,1\nstring,1\ntape,-1,2\ntape,"1,200",2\ntape,nan,2\n')
    assert main(["lengths", computer, "--learn", str(bad)]) == 2
    told = capsys.readouterr().err
    for row in (
        "row 2, method",
        "row 3",
        "row 4, planned_m",
        "row 5, planned_m",
        "row 6, planned_m",
        "nothing was learned",
    ):
        assert row in told
    bad.write_text("what,is,this\n")
    assert main(["lengths", computer, "--learn", str(bad)]) == 2


def test_board(capsys: pytest.CaptureFixture[str], computer: str, tmp_path: Path) -> None:
    made = json.loads(said(capsys, "board", computer, "--board", "1200x800", "--json"))
    assert (made["scale"], made["fits"]) == (1, True)
    assert made["folds"] <= 6  # a turn of each limb that leaves the trunk
    assert {node["id"] for node in made["nodes"]} == {"P1", "P2", "P3", "P4", "P5", "P6", "B1", "B2"}
    assert set(made["nodes"][0]) == {"id", "x_mm", "y_mm"}
    assert all(len(segment["points"]) >= 2 and len(segment["points"][0]) == 2 for segment in made["segments"])
    small = json.loads(said(capsys, "board", computer, "--board", "210 x 210 mm", "--json", status=1))
    assert not small["fits"]
    assert small["needed"]["width_mm"] > 210
    assert "would do" in small["findings"][0]
    assert "pegs" in made
    assert "fork" in said(capsys, "board", computer)
    for ending in ("svg", "dxf"):
        out = tmp_path / f"b.{ending}"
        said(capsys, "board", computer, "-o", str(out))
        assert out.stat().st_size > 3000


@pytest.mark.parametrize(
    "words",
    [
        ("board", "FILE", "--board", "2440"), ("board", "FILE", "--board", "0x0"), ("board", "FILE", "--board", "1,200x800"), ("board", "FILE", "--board", "1e308x5"),
        ("board", "FILE", "--sheet", "A9"), ("board", "FILE", "-o", "x.png"), ("section", "FILE", "S99", "--svg", "-"), ("lengths", "nothing.umber"),
        ("cover", "nothing.umber", "--json"), ("infer", "nothing.csv"),
    ],
)  # fmt: skip
def test_refused_with_one_sentence(capsys: pytest.CaptureFixture[str], computer: str, words: tuple[str, ...]) -> None:
    assert main([computer if word == "FILE" else word for word in words]) == 2
    told = capsys.readouterr().err
    assert told.startswith("umber: ")
    assert told.count("\n") == 1


def test_section_and_cover(capsys: pytest.CaptureFixture[str], computer: str, tmp_path: Path) -> None:
    out = tmp_path / "s.svg"
    said(capsys, "section", computer, "S3", "--svg", str(out))
    svg = ElementTree.parse(out).getroot()
    assert len([one for one in svg.iter() if one.get("class") == "wire"]) == 3
    made = json.loads(said(capsys, "cover", computer, "--json", status=1))
    assert {one["id"] for one in made["segments"]} == {f"S{n}" for n in range(1, 8)}
    wrong = [one for one in made["covers"] if not one["ok"]]
    assert [(one["segment"], one["kind"]) for one in wrong] == [("S5", "sleeve")]
    assert len(made["joins"]) == 3
    assert "✕" in said(capsys, "cover", computer, status=1)


def test_infer(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    """From a list with units in its heading; then taken into a file whose wires are as long as listed."""
    rows = [
        ("a", "b", 3000),
        ("a", "c", 9000),
        ("a", "d", 10000),
        ("b", "c", 10000),
        ("b", "d", 11000),
        ("c", "d", 7000),
    ]
    path = tmp_path / "list.csv"
    path.write_text(
        "wire,from,to,length (mm)\n" + "".join(f"W{n},box {a},box {b},{m}\n" for n, (a, b, m) in enumerate(rows))
    )
    made = json.loads(said(capsys, "infer", str(path), "--accept-doubts", "--json"))
    assert sorted(round(one["length_m"], 6) for one in made["segments"]) == [1, 2, 3, 4, 5]
    assert {"a", "b", "length_m"} <= set(made["segments"][0])
    assert [one["wire"] for one in made["misfits"]] == [f"W{n}" for n in range(6)]
    assert max(abs(one["m"]) for one in made["misfits"]) < 1e-6
    assert {"id", "ends"} == set(made["points"][0])
    assert {end for point in made["points"] for end in point["ends"]} == {f"box {name}" for name in "abcd"}
    places = {point["id"] for point in made["points"]}
    assert all({one["a"], one["b"]} <= places for one in made["segments"])
    out = tmp_path / "made.umber"
    assert "–" in said(capsys, "infer", str(path), "--accept-doubts", "-o", str(out))
    lengths = {row["id"]: row["path_m"] for row in json.loads(said(capsys, "lengths", str(out), "--json"))}
    assert lengths == {f"W{n}": pytest.approx(m / 1e3) for n, (_, _, m) in enumerate(rows)}
    assert main(["infer", str(out), "-o", str(tmp_path / "again.umber")]) == 2
    assert "already" in capsys.readouterr().err
    assert not (tmp_path / "again.umber").exists()
    shop = tmp_path / "shop.csv"
    write_whole(shop, shop_list().encode())
    capsys.readouterr()
    assert main(["infer", str(shop), "--accept-doubts"]) == 2
    assert "row 17" in capsys.readouterr().err
    doubtful = tmp_path / "doubt.csv"
    doubtful.write_text("wire,from,to,length\nW1,a,b,3000\nW2,a,c,400\n")
    assert main(["infer", str(doubtful), "--json"]) == 3
