"""The shell commands as a stranger types them: output, exit status, one sentence for wrong input."""

import argparse
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from umber_trunk.cli.main import main
from umber_trunk.core.demo import barge, shop_list
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.sample import generated
from umber_trunk.store.project import ProjectFile

ROOT = Path(__file__).parents[2]
SIZE = ["size", "--load", "18A", "--supply", "24V", "--run", "7.5m"]


def run(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, str, str]:
    try:
        status = main(list(words))
    except SystemExit as stop:
        status = int(stop.code or 0)
    out = capsys.readouterr()
    return status, out.out, out.err


@pytest.fixture
def demo_file(tmp_path: Path) -> Path:
    ProjectFile.create(tmp_path / "d.umber", barge()).close()
    return tmp_path / "d.umber"


def test_size_json(capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, *SIZE, "--json")
    answer = json.loads(out)
    assert status == 0
    assert answer["size"] == "10 mm2"
    assert answer["governs"] == "drop"
    assert set(answer) >= {
        "size",
        "area_mm2",
        "parallel",
        "governs",
        "drop_v",
        "drop_percent",
        "resistance_ohm",
        "conductor_c",
        "ampacity_a",
        "candidates",
        "fuse_a",
        "surge_c",
    }
    assert answer["drop_v"] == pytest.approx(18 * answer["resistance_ohm"], rel=1e-5)
    assert set(answer["candidates"][0]) == {"size", "area_mm2", "drop_percent", "conductor_c", "ampacity_a", "ok"}


@pytest.mark.parametrize(
    ("extra", "key", "value"),
    [
        (["--size", "AWG 8"], "size", "AWG 8"),
        (["--size", "6 mm²"], "ok", False),
        (["--series", "awg"], "size", "AWG 8"),
        (["--return", "ground"], "size", "4 mm2"),
        (["--parallel", "2"], "size", "4 mm2"),
        (["--metal", "aluminium"], "size", "16 mm2"),
        (["--max-drop", "1.5V"], "size", "4 mm2"),
        (["--fuse", "auto"], "fuse_a", 25.0),
        (["--joints", "2x0.3mohm", "--ambient", "35C", "--jacket-limit", "90C"], "size", "10 mm2"),
    ],
)
def test_size_options(capsys: pytest.CaptureFixture[str], extra: list[str], key: str, value: object) -> None:
    status, out, _ = run(capsys, *SIZE, *extra, "--json")
    assert status == 0
    assert json.loads(out)[key] == value


def test_size_in_words_and_why(capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, *SIZE, "--bundle", "6", "--duty", "20s/60s", "--surge", "60A/2s", "--why")
    assert status == 0
    assert "drop governs" in out
    assert "6 equal loaded conductors" in out
    assert "licensed person" in out


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["size", "--load", "430X", "--supply", "24V", "--run", "7.5m"], "such as 18 A or 430 W"),
        (["size", "--load", "18A", "--supply", "0V", "--run", "7.5m"], "above zero"),
        (["size", "--load", "18A", "--supply", "24V", "--run", "0m"], "longer than nothing"),
        (["size", "--load", "18A", "--supply", "24V"], "--run"),
        ([*SIZE, "--max-drop", "3"], "needs % or V"),
        ([*SIZE, "--size", "thick"], "not a size"),
        ([*SIZE, "--metal", "gold"], "invalid choice"),
        ([*SIZE, "--jacket-limit", "20C"], "no room"),
        ([*SIZE, "--joints", "many"], "resistance"),
        (["pack", "big"], "not a number"),
        (["pack", "0"], "above 0"),
        (["fly"], "invalid choice"),
        (["solve", "nowhere.umber"], "does not exist"),
    ],
)
def test_wrong_input_is_one_sentence_and_status_2(
    capsys: pytest.CaptureFixture[str], words: list[str], says: str
) -> None:
    status, out, err = run(capsys, *words)
    assert status == 2
    assert says in err
    assert out == ""
    assert err.count("\n") == 1


def test_nothing_does_it_is_status_1(capsys: pytest.CaptureFixture[str]) -> None:
    status, out, _ = run(capsys, "size", "--load", "18A", "--supply", "24V", "--run", "9000m", "--json")
    assert status == 1
    assert json.loads(out)["size"] is None


def test_pack(capsys: pytest.CaptureFixture[str]) -> None:
    _, out, _ = run(capsys, "pack", "3.2", "3.2", "1.8x4", "--json")
    answer = json.loads(out)
    assert [c["d"] for c in answer["circles"]] == [3.2, 3.2, 1.8, 1.8, 1.8, 1.8]
    assert 6.4 <= answer["diameter"] < 7.0


def test_new_import_check_solve_export(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    (tmp_path / "shop.csv").write_text(shop_list())
    listed, made = str(tmp_path / "shop.csv"), str(tmp_path / "shop.umber")
    status, _, err = run(capsys, "import", listed, "-o", made)
    assert status == 2
    assert "row 17, column D" in err
    assert not (tmp_path / "shop.umber").exists()
    status, out, _ = run(capsys, "import", listed, "-o", made, "--skip-bad")
    assert status == 0
    assert "12 wires imported" in out
    status, out, _ = run(capsys, "check", made, "--json")
    assert status == 1
    assert {f["code"] for f in json.loads(out)} >= {"supply.none", "wire.provisional"}
    assert run(capsys, "import", listed, "-o", made, "--skip-bad")[0] == 2
    assert run(capsys, "new", str(tmp_path / "n.umber"))[0] == 0
    status, out, _ = run(capsys, "solve", str(tmp_path / "n.umber"), "--json")
    assert (status, json.loads(out)) == (
        0,
        {
            "format": 1,
            "loads": [],
            "wires": [],
            "cases": [{"id": "all", "name": "everything on", "settled": True, "loads": [], "wires": []}],
            "twins": [],
        },
    )


def test_solve_names_the_worst_case_of_every_limit(capsys: pytest.CaptureFixture[str], demo_file: Path) -> None:
    answer = json.loads(run(capsys, "solve", str(demo_file), "--json")[1])
    mast = next(w for w in answer["wires"] if w["id"] == "W16")
    assert set(mast["margins"]) == {"drop", "heat", "surge", "dip", "fuse", "handling"}
    assert mast["worst_cases"]["drop"] == "all"
    by_case = {case["name"]: {w["id"]: w for w in case["wires"]} for case in answer["cases"]}
    assert set(by_case) == {"sorting", "under way", "everything at once"}
    # the mast light doesn't run while sorting: nothing of its drop is used then
    assert by_case["sorting"]["W16"]["margins"]["drop"] == 1
    assert by_case["under way"]["W16"]["margins"]["drop"] > mast["margins"]["drop"]
    assert min(case["W16"]["margins"]["heat"] for case in by_case.values()) == mast["margins"]["heat"]
    loads = {entry["id"]: entry for entry in answer["loads"]}
    assert loads["mast"]["margin"] < 0 < loads["conveyor"]["margin"]


def test_solve_json(capsys: pytest.CaptureFixture[str], demo_file: Path) -> None:
    status, out, _ = run(capsys, "solve", str(demo_file), "--json")
    answer = json.loads(out)
    assert status == 0
    assert set(answer["loads"][0]) >= {"id", "volts", "drop_percent", "ok", "case"}
    assert set(answer["wires"][0]) >= {"id", "amps", "size", "conductor_c", "length_m", "governs", "margins"}
    assert [case["name"] for case in answer["cases"]] == ["sorting", "under way", "everything at once"]
    assert not next(load for load in answer["loads"] if load["id"] == "mast")["ok"]
    status, out, _ = run(capsys, "solve", str(demo_file))
    assert "SHORT mast" in out


def test_a_file_open_in_a_window_can_be_read(capsys: pytest.CaptureFixture[str], demo_file: Path) -> None:
    with ProjectFile.open(demo_file):
        assert run(capsys, "check", str(demo_file))[0] == 1


@pytest.mark.parametrize("ending", [".pdf", ".xlsx", ".json", "-cuts.csv", "-wires.csv", ".csv"])
@pytest.mark.share(2)
def test_export_by_ending(demo_file: Path, ending: str) -> None:
    """In a process of its own, as a shell would: PDF needs Qt."""
    out = demo_file.with_name("out" + ending)
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    words = [sys.executable, "-m", "umber_trunk", "export", str(demo_file), "-o", str(out)]
    done = subprocess.run(words, capture_output=True, text=True, env=env)
    assert done.returncode == 0, done.stderr
    assert out.stat().st_size > 1000
    if ending == ".pdf":  # what is there is kept, whatever it is
        again = subprocess.run(words, capture_output=True, text=True, env=env)
        assert again.returncode == 2
        assert "--force" in again.stderr


def test_exported_json_imports_exactly(capsys: pytest.CaptureFixture[str], demo_file: Path, tmp_path: Path) -> None:
    exported, again = str(tmp_path / "x.json"), str(tmp_path / "y.umber")
    assert run(capsys, "export", str(demo_file), "-o", exported)[0] == 0
    assert run(capsys, "import", exported, "-o", again)[0] == 0
    with ProjectFile.open(Path(again)) as file:
        assert file.design == barge()


def test_export_needs_to_know_what(capsys: pytest.CaptureFixture[str], demo_file: Path) -> None:
    assert "Say what to write" in run(capsys, "export", str(demo_file))[2]
    assert "names no format" in run(capsys, "export", str(demo_file), "-o", "x.doc")[2]


def test_without_a_screen_the_window_says_so(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    status, _, err = run(capsys, "demo")
    assert status == 2
    assert "no screen" in err


def test_optimise_json_and_apply(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = tmp_path / "g.umber"
    thin = generated(24)
    thin = set_size(thin, [wire.id for wire in thin.wires], "0.5 mm2")
    ProjectFile.create(path, thin).close()
    assert run(capsys, "check", str(path))[0] == 1
    status, out, _ = run(capsys, "optimise", str(path), "--json", "--apply")
    answer = json.loads(out)
    assert status == 0
    assert answer["estimate_gap"] <= 0.005
    assert answer["bound"] <= answer["copper"] + 1e-6
    assert len(answer["sizes"]) == 24
    assert run(capsys, "check", str(path))[0] == 0


def test_timings_say_where_the_time_goes_and_answer_as_ever(demo_file: Path) -> None:
    plain, timed = (
        subprocess.run(
            [sys.executable, "-m", "umber_trunk", *words, "lengths", str(demo_file), "--json"],
            capture_output=True,
            text=True,
            check=True,
        )
        for words in ([], ["--timings"])
    )
    assert timed.stdout == plain.stdout
    assert "core.lengths.wire_lengths: wire_lengths" in timed.stderr
    assert "umber_trunk.core.harness" in timed.stderr
    loaded = float(re.search(r"loading (\d+) ms", timed.stderr)[1])  # type: ignore[index]
    assert 0 < loaded < float(re.search(r"command (\d+) ms", timed.stderr)[1])  # type: ignore[index]


def test_optimise_refuses_empty_weights(capsys: pytest.CaptureFixture[str], demo_file: Path) -> None:
    assert "above zero" in run(capsys, "optimise", str(demo_file), "--mass", "0")[2]


def test_a_chatty_solver_does_not_spoil_the_answer(tmp_path: Path) -> None:
    """Something written straight to the file descriptor while the solver runs lands on stderr."""
    from umber_trunk.cli.improve import solver_aside

    with (tmp_path / "out").open("w") as out, (tmp_path / "err").open("w") as err:
        kept = os.dup(1), os.dup(2)
        try:
            os.dup2(out.fileno(), 1)
            os.dup2(err.fileno(), 2)
            with solver_aside():
                os.write(1, b"chatter")
            os.write(1, b"answer")
        finally:
            os.dup2(kept[0], 1)
            os.dup2(kept[1], 2)
    assert (tmp_path / "out").read_text() == "answer"
    assert (tmp_path / "err").read_text() == "chatter"


def test_worth(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    from conftest import design_of

    ProjectFile.create(tmp_path / "w.umber", design_of("supply 24 V at battery", "pump 18 A at bow run 7.5 m")).close()
    status, out, _ = run(capsys, "worth", str(tmp_path / "w.umber"), "--volts", "36V", "--json")
    assert status == 0
    assert sorted((one["what"] for one in json.loads(out)), reverse=True) == [
        "supply at 36 V",
        "bow 1 m closer",
        "battery 1 m closer",
    ]
    assert "saves" in run(capsys, "worth", str(tmp_path / "w.umber"))[1]


def test_every_command_is_listed_where_it_is_looked_for() -> None:
    from umber_trunk.cli.main import build_parser, known_commands

    everything = build_parser().format_help()
    for command, (module, told) in known_commands().items():
        assert command in everything, module
        assert told[:20] in everything
        assert "show this help" in _help_of(build_parser(command), command)


def _help_of(parser: argparse.ArgumentParser, command: str) -> str:
    commands = next(a for a in parser._actions if isinstance(a, argparse._SubParsersAction))
    return str(commands.choices[command].format_help())
