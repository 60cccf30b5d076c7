"""The answers of what came after the figures, kept as files: lengths, coverings, boards, orders of work, shopping,
tests, proofs, loops."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import pytest

from demos import worked_out
from golden.test_answers import held
from umber_trunk.cli.main import main
from umber_trunk.core.demo import DEMOS, demo
from umber_trunk.core.prove.faults import parse_fault
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.store.demo_file import put_demo
from umber_trunk.store.proofs import fresh_proof

FAULTS = {
    "barge": ["open:W08", "swap:W10,W12@box", "strands:W05:0.6:1.5"],
    "computer": ["short:G01,G02", "size:G05:0.14 mm2"],
    "tractor": ["high:R05@SP1:0.4", "longer:R11:2"],
    "shore": ["swap:T4,T6@lamps", "leak:T5:200000"],
    "loops": ["open:M1a", "metal:M3b:aluminium"],
}
LISTED = "from,to,length\n" + "".join(
    f"{a},{b},{metres}\n"
    for a, b, metres in (
        ("box", "lamp", 2.4),
        ("box", "pump", 3.1),
        ("lamp", "pump", 2.1),
        ("box", "horn", 1.2),
        ("horn", "lamp", 2.0),
        ("horn", "pump", 2.7),
        ("pump", "mast", 4.0),
        ("box", "mast", 6.3),
    )
)


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demos")
    for name in DEMOS:
        put_demo(folder / f"{name}.umber", name).close()
    (folder / "listed.csv").write_text(LISTED, encoding="utf-8")
    return folder


def said(capsys: pytest.CaptureFixture[str], *words: object) -> Any:
    """Status and what a command says, JSON where it is."""
    status = main([str(word) for word in words])
    told = capsys.readouterr()
    try:
        return [status, without_values(json.loads(told.out))]
    except ValueError:
        return [
            status,
            told.out.splitlines(),
            [line for line in told.err.splitlines() if "still at it after" not in line],
        ]


def without_values(answer: Any) -> Any:
    """An answer without the codes and values beside what it says, which the schema of answers describes."""
    if isinstance(answer, dict):
        return {key: without_values(one) for key, one in answer.items() if not key.endswith("_said")}
    return [without_values(one) for one in answer] if isinstance(answer, list) else answer


@pytest.mark.parametrize("name", DEMOS)
@pytest.mark.share(6)
def test_findings_lengths_coverings_and_shopping(capsys: pytest.CaptureFixture[str], folder: Path, name: str) -> None:
    file = folder / f"{name}.umber"
    answers = {
        words: said(capsys, *words.split(), file, "--json")
        for words in ("check", "lengths", "cover", "loops", "buy --units 3 --percent 10 --samples 2")
    }
    out = folder / f"{name}.csv"
    for kind in ("buy", "labels"):
        said(capsys, kind, file, "-o", out, *(["--units", 2] if kind == "buy" else ()))
        answers[f"{kind} sheet"] = out.read_text("utf-8").splitlines()
        out.unlink()
    held(f"{name}.shop.json", answers)


@pytest.mark.parametrize("name", DEMOS)
def test_sections(capsys: pytest.CaptureFixture[str], folder: Path, name: str) -> None:
    out, drawn = folder / "section.svg", {}
    for segment in [one.id for one in demo(name).segments][:4]:
        answer = said(capsys, "section", folder / f"{name}.umber", segment, "--svg", out)
        drawn[segment] = [answer[0], out.read_text("utf-8").replace("><", ">\n<").splitlines()]
        out.unlink()
    held(f"{name}.sections.json", drawn)


@pytest.mark.parametrize("name", DEMOS)
@pytest.mark.share(3)
def test_boards(capsys: pytest.CaptureFixture[str], folder: Path, name: str) -> None:
    drawn = {}
    for size in ("2440x1220", "1200x600")[
        : 1 if name in ("barge", "loops") else 2
    ]:  # they take long, and trees are laid at random elsewhere
        out = folder / f"{name}-{size}.svg"
        drawn[size] = [*said(capsys, "board", folder / f"{name}.umber", "--board", size, "-o", out), out.read_text("utf-8").replace("><", ">\n<").splitlines() if size[0] == "2" else ""]  # fmt: skip
    held(f"{name}.board.json", json.loads(json.dumps(drawn).replace(str(folder), "")))


@pytest.mark.parametrize("name", DEMOS)
@pytest.mark.share(3)
def test_faces_of_every_end(capsys: pytest.CaptureFixture[str], folder: Path, name: str) -> None:
    file, out = folder / f"{name}.umber", folder / "face.svg"
    ends = [end.id for end in demo(name).ends if any(body.part for body in end.housings)]
    faces = {}
    for end in ends:
        answer = said(capsys, "pinmap", file, "--end", end, "--side", "mating", "--svg", out, "--json")
        faces[end] = [answer, said(capsys, "mate", file, "--end", end, "--json"), out.read_text("utf-8").replace("><", ">\n<").splitlines()]  # fmt: skip
        out.unlink()
    held(f"{name}.faces.json", json.loads(json.dumps(faces).replace(str(folder), "")))


def in_words(answer: Any) -> Any:
    """An answer without the codes and values of what it has as words too."""
    if isinstance(answer, dict):
        return {key: in_words(one) for key, one in answer.items() if key not in ("said", "minds", "to_tell", "mended")}
    return [in_words(one) for one in answer] if isinstance(answer, list | tuple) else answer


@pytest.mark.parametrize(
    ("name", "units", "more"), [("shore", 2, ()), ("shore", 3, ("--school", "wire", "--hands", "2")), ("tractor", 2, ()), ("loops", 1, ()), ("computer", 1, ("--hands", "3"))]
)  # fmt: skip
def test_orders_of_work(
    capsys: pytest.CaptureFixture[str], folder: Path, name: str, units: int, more: Sequence[str]
) -> None:
    status, answer = said(capsys, "order", folder / f"{name}.umber", "--units", units, *more, "--json")
    steps = answer.pop("steps")
    held(f"{name}-{units}.order.json", [status, answer, [list(step.values()) for step in in_words(steps)]])


@pytest.mark.parametrize("name", DEMOS)
@pytest.mark.share(3)
def test_tests_and_proofs(capsys: pytest.CaptureFixture[str], folder: Path, name: str) -> None:
    file = folder / f"{name}.umber"
    answers = {"box": said(capsys, "tests", file, "--json"), "hand": said(capsys, "tests", file, "--two-wire", "--by-hand", "--json")}  # fmt: skip
    for fault in FAULTS[name]:
        answers[fault] = said(capsys, "prove", file, "--sim", "--fault", fault, "--seed", 4, "--json")
        answers[f"{fault} task by task"] = dialogue(name, fault)
    held(f"{name}.tests.json", in_words(answers))


def dialogue(name: str, fault: str) -> list[list[Any]]:
    """Everything a proof asks of a simulated unit with a fault, and what it says of it."""
    proof = fresh_proof(worked_out(name))
    unit, asked = Unit(proof.net, [parse_fault(proof.net, fault)], 4), []
    proof.disconnected = True
    while (task := proof.now) is not None:
        value = (
            task.value_of(unit.measure(task.probe)) if task.probe is not None else task.expect if task.unit else None
        )
        one = proof.answer(value, None if task.unit else True)
        asked.append(
            [
                task.kind,
                task.text,
                task.told,
                task.expect,
                task.low,
                task.high,
                one.ok,
                [":".join(point) for point in task.points],
            ]
        )
    return [
        [str(cell) if isinstance(cell, float) and not math.isfinite(cell) else cell for cell in row] for row in asked
    ]


def test_inferring_checking_and_telling_cores_apart(capsys: pytest.CaptureFixture[str], folder: Path) -> None:
    held(
        "shop.json",
        {
            "infer": said(capsys, "infer", folder / "listed.csv", "--accept-doubts", "--json"),
            **{
                f"identify {words}": said(capsys, "identify", *words.split(), "--json")
                for words in ("5 --alone", "9 --partner", "12 --tags", "6 --alone --no-return")
            },
            **{
                f"wirecheck {words}": said(capsys, "wirecheck", *words.split(), "--json")
                for words in (
                    "--claim 2.5mm2 --od 3.0mm --mass 290g --length 10m",
                    "--claim 10mm2 --resistance 19mohm --length 10m --od 6.1mm",
                    "--claim 1mm2 --strands 32x0.2mm",
                    "--claim 6mm2 --mass 20g --length 0.5m --weighed bare --sold 100m --coil-mass 5kg",
                )
            },
            "charts": said(capsys, "charts", folder / "tractor.umber", "--json"),
            "units": said(capsys, "units", folder / "loops.umber", "--json")[1]["units"],
            "repair": said(capsys, "repair", folder / "tractor.umber", "lot 1/2", "--json"),
            "learn": said(
                capsys, "learn", folder / "shore.umber", "--from", "logger", "--to", "probe", "--sim", "--json"
            ),
        },
    )
