"""The answers of the program on known harnesses, kept as files: what moves them is seen, and meant.

`UMBER_GOLDEN=write ./umber test tests/golden` writes them anew; read the difference before it is committed.
"""

from __future__ import annotations

import csv
import io
import json
import os
from collections.abc import Callable
from dataclasses import asdict
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from openpyxl import load_workbook

from conftest import design_of
from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import barge, demo
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.strip import strips
from umber_trunk.core.explain.about_fuses import why_fuse, why_start
from umber_trunk.core.explain.about_wires import why_cut, why_heat, why_load, why_size, why_wire_drop
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.printed import cut_sheet
from umber_trunk.core.sample import generated
from umber_trunk.store.jsonfile import to_json

HERE = Path(__file__).parent
NEAR = 2e-4
"""Share by which a figure may differ: solvers end within it, machines round differently."""


def shed() -> Design:
    """Lines of every kind: duty, surge, fuses, a converter, hot and wet zones, a motor, an AC load, signals."""
    return design_of(
        "supply 12 V 8 mohm at battery",
        "winch 1.2 kW surge 160A/0.5s duty 30s/120s at bow in deck run 4.2 m",
        "pump 9 A at bilge in bilge 45C wet run 3.1 m",
        "lamp 24 W at mast run 9 m min 11 V",
        "heater 2.4 ohm at cabin run 6 m off mast",
        "fan 3.5 A at engine in engine 70C hot run 2.2 m",
    )


@cache
def designs() -> dict[str, Design]:
    """Known harnesses by name."""
    whole = barge()
    return {
        "barge": whole,
        "barge-unsized": set_size(whole, [wire.id for wire in whole.wires], None),
        "generated": generated(60),
        "shed": shed(),
    }


RUNS = {
    "one-run": "--load 18A --supply 24V --run 7.5m --fuse auto --why",
    "hot-run": "--load 430W --supply 12V --run 3m --ambient 60C --bundle 6 --duty 20s/60s --surge 60A/2s --fuse auto --why",
    "ground-run": "--load 2.4ohm --supply 12V --run 12ft --return ground --series awg --joints 2x0.3mohm --max-drop 0.6V",
    "judged-run": "--load 25A --supply 24V --run 5m --size 2.5mm2 --parallel 2 --enclosed --altitude 2000m --why",
}


def _said(capsys: pytest.CaptureFixture[str], *words: str) -> str:
    main(words)
    return capsys.readouterr().out


def _workbook(path: Path) -> list[list[list[str]]]:
    return [
        [["" if cell is None else str(cell) for cell in row] for row in sheet.iter_rows(values_only=True)]
        for sheet in load_workbook(path)
    ]


def _file(tmp_path: Path, name: str) -> str:
    path = tmp_path / f"{name}.json"
    path.write_text(to_json(designs()[name]), encoding="utf-8")
    return str(path)


@pytest.mark.parametrize("command", ["check", "solve"])
@pytest.mark.parametrize("name", ["barge", "barge-unsized", "generated", "shed"])
def test_findings_and_figures(capsys: pytest.CaptureFixture[str], tmp_path: Path, name: str, command: str) -> None:
    held(f"{name}.{command}.json", json.loads(_said(capsys, command, _file(tmp_path, name), "--json")))


@pytest.mark.parametrize("kind", ["wires-csv", "cuts-csv", "json"])
@pytest.mark.parametrize("name", ["barge", "shed"])
def test_exports(capsys: pytest.CaptureFixture[str], tmp_path: Path, name: str, kind: str) -> None:
    text = _said(capsys, "export", _file(tmp_path, name), "--format", kind, "-o", "-")
    read: Callable[[str], Any] = json.loads if kind == "json" else lambda text: list(csv.reader(io.StringIO(text)))
    held(f"{name}.{kind}.json", read(text))


def test_workbook(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    out = tmp_path / "out.xlsx"
    _said(capsys, "export", _file(tmp_path, "barge"), "-o", str(out))
    held("barge.xlsx.json", _workbook(out))


@pytest.mark.parametrize("name", ["barge", "shed"])
def test_cut_sheet(name: str) -> None:
    sheet = cut_sheet(analyse(designs()[name]))
    held(f"{name}.sheet.json", json.loads(json.dumps(asdict(sheet))))


def test_why_of_everything() -> None:
    """Every reason the desks give of the barge, as text."""
    results = analyse(designs()["barge"])
    design, found = results.design, results.figures
    told = {f"load {key}": why_load(design, found, entry).as_text() for key, entry in found.loads.items()}
    for key, wire in found.wires.items():
        for reason in (why_heat, why_size, why_wire_drop, why_cut, why_fuse, why_start):
            told[f"{reason.__name__} {key}"] = reason(design, found, wire).as_text()
    held("barge.why.json", {key: text.splitlines() for key, text in told.items()})


@pytest.mark.parametrize("name", RUNS)
def test_single_runs(capsys: pytest.CaptureFixture[str], name: str) -> None:
    held(f"{name}.size.json", json.loads(_said(capsys, "size", *RUNS[name].split(), "--json")))


def test_least_copper_and_worth(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = _file(tmp_path, "shed")
    held("shed.optimise.json", json.loads(_said(capsys, "optimise", path, "--json")))
    held("shed.worth.json", json.loads(_said(capsys, "worth", path, "--json")))


def test_ends() -> None:
    """Every fit of both demos, every strip and every step of the shore leads."""
    for name in ("barge", "shore"):
        found = analyse(demo(name)).once(fits)
        held(f"{name}.fits.json", {f.id: [f.ok, f.part, f.value, f.low, f.high, f.message] for f in found})
    results = analyse(demo("shore"))
    made = {wire.id: [asdict(one) for one in strips(results, wire.id)] for wire in results.design.wires}
    order = {end.id: [[step.op, step.text] for step in steps_at(results, end.id)] for end in results.design.ends}
    held("shore.making.json", json.loads(json.dumps({"strips": made, "order": order})))


def held(name: str, answer: Any) -> None:
    """Compares an answer with its file, figures within `NEAR`."""
    path = HERE / name
    if os.environ.get("UMBER_GOLDEN") == "write":
        path.write_text(json.dumps(answer, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    differences = list(differing(json.loads(path.read_text("utf-8")), answer, ""))
    assert not differences, f"{name}: " + "; ".join(differences[:8])


def differing(kept: Any, now: Any, where: str) -> list[str]:
    """Each place where two answers are not alike."""
    if isinstance(kept, dict) and isinstance(now, dict):
        lost = [f"{where}/{key} is new or gone" for key in kept.keys() ^ now.keys()]
        return lost + [d for key in kept.keys() & now.keys() for d in differing(kept[key], now[key], f"{where}/{key}")]
    if isinstance(kept, list) and isinstance(now, list):
        lost = [f"{where}: {len(kept)} rows became {len(now)}"] if len(kept) != len(now) else []
        return lost + [
            d for at, pair in enumerate(zip(kept, now, strict=False)) for d in differing(*pair, f"{where}/{at}")
        ]
    if isinstance(kept, float) or isinstance(now, float):
        same = None not in (kept, now) and abs(kept - now) <= NEAR * max(abs(kept), abs(now), 0.05)
    else:
        same = kept == now
    return [] if same else [f"{where}: {kept!r} became {now!r}"]
