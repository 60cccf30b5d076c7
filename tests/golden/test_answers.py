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
from demos import worked_out
from umber_trunk.cli.main import main
from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import barge
from umber_trunk.core.ends.faces import faces_in
from umber_trunk.core.ends.fits import fits
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.strip import cable_strips, strip_of, strips
from umber_trunk.core.ends.svg import faces_svg, strips_svg
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.explain.about_fuses import why_fuse, why_start
from umber_trunk.core.explain.about_wires import why_cut, why_heat, why_load, why_size, why_wire_drop
from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Practice
from umber_trunk.core.papers.cut_paper import cut_sheet
from umber_trunk.core.sample import generated
from umber_trunk.core.sentences import Message
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
    "hot-run": "--load 430W --supply 12V --run 3m --ambient 60C --bundle 6 --duty 20s/60s --surge 60A/2s --fuse auto "
    "--why",
    "ground-run": "--load 2.4ohm --supply 12V --run 12ft --return ground --series awg --joints 2x0.3mohm --max-drop "
    "0.6V",
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
@pytest.mark.share(3)
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
        for reason in (why_heat, why_size, why_wire_drop, why_fuse, why_start):
            told[f"{reason.__name__} {key}"] = reason(design, found, wire).as_text()
        told[f"why_cut {key}"] = why_cut(results, key).as_text()
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
        found = worked_out(name).once(fits)
        held(f"{name}.fits.json", {f.id: [f.ok, f.part, f.value, f.low, f.high, f.message] for f in found})
    results = worked_out("shore")
    made = {
        wire.id: [asdict(one, dict_factory=in_words) for one in strips(results, wire.id)]
        for wire in results.design.wires
    }
    order = {end.id: [[step.op, step.text] for step in steps_at(results, end.id)] for end in results.design.ends}
    held("shore.making.json", json.loads(json.dumps({"strips": made, "order": order})))


def bench_of_ends() -> Design:
    """One end of every kind on a bench: screened pairs, supply block, power block, solder tail, turned contacts,
    splices, lugs."""
    ends: list[dict[str, Any]] = [{"id": "src", "name": "source", "point": "A", "cavities": [{"id": "+"}, {"id": "-"}]}]
    wires: list[dict[str, Any]] = []

    def end(name: str, part: str | None, wanted: dict[str, dict[str, Any]], **more: Any) -> None:
        body = [{"id": "A", "part": part}] if part else []
        ends.append(
            {"id": name, "name": name, "point": name, "cavities": [{"id": label} for label in wanted], "housings": body}
            | more
        )
        for number, (label, made) in enumerate(wanted.items()):
            pole = "+" if number % 2 == 0 else "-"
            wires.append(
                {
                    "id": f"{name}{label}",
                    "start": {"end": "src", "cavity": pole},
                    "finish": {"end": name, "cavity": label},
                    "make": "hookup",
                }
                | made
            )

    thin = {"size": "AWG 26", "cable": "fast"}
    end("fast", "sprat-8-plug", {str(n): thin | {"core": str(n)} for n in range(1, 9)})
    end("block", "kelp-8-receptacle", {"1": {"size": "0.5 mm2"}, "5": {"size": "1.5 mm2"}})
    end(
        "power",
        "barnacle-middle",
        {"+": {"size": "25 mm2", "make": "welding"}, "-": {"size": "35 mm2", "make": "welding"}},
    )
    end("tail", "eel-2-plug", {"centre": {"size": "0.5 mm2"}, "sleeve": {"size": "0.5 mm2"}})
    end("round", "limpet-7-plug", {"7": {"size": "0.75 mm2"}, "1": {"size": "2.5 mm2"}})
    end(
        "ring", "winkle-6-receptacle", {"1": {"size": "0.75 mm2"}, "2": {"size": "0.75 mm2"}, "3": {"size": "0.75 mm2"}}
    )
    end(
        "drained",
        "skate-5-plug",
        {"1": {"size": "AWG 22"}, "2": {"size": "AWG 24"}, "5": {"size": "AWG 24", "signal": True}},
    )
    end(
        "stud",
        None,
        {"1": {"size": "16 mm2"}, "2": {"size": "6 mm2", "at_finish": {"part": "anchor-sealed-6-m8"}}},
        stud_mm=8.0,
    )
    end(
        "join",
        None,
        {
            "1": {"size": "1 mm2", "at_finish": {"part": "anchor-butt-2.5"}},
            "2": {"size": "2.5 mm2", "at_finish": {"part": "anchor-parallel-2.5"}},
        },
        kind="splice",
    )
    points = [{"id": one["point"]} for one in ends]
    runs = [
        {"id": f"S{n}", "a": "A", "b": one["point"], "measure": {"length_m": 1.0}} for n, one in enumerate(ends[1:])
    ]
    pins = {"plus": {"end": "src", "cavity": "+"}, "minus": {"end": "src", "cavity": "-"}}
    return Design.model_validate(
        {
            "ends": ends,
            "wires": wires,
            "points": points,
            "segments": runs,
            "supplies": [{"id": "s", "name": "supply", "volts": 12, **pins}],
            "cables": [{"id": "fast", "kind": "multicore", "part": "sheath-fast-8"}],
        }
    )


PRACTICES: dict[str, dict[str, Any]] = {
    "usual": {}, "other": {"twist": "always", "drain": "last", "solder": "flow", "lug_tool": "indent", "instead": "sleeved", "ferrules": "always"},
    "third": {"twist": "never", "drain": "first", "ferrules": "never"},
}  # fmt: skip


@pytest.mark.parametrize("name", PRACTICES)
def test_a_bench_of_ends(name: str) -> None:
    """Fits, strips, order and drawings of an end of every kind, by the schools of three houses."""
    bare = bench_of_ends()
    design = bare.model_copy(
        update={"project": bare.project.model_copy(update={"practice": Practice(**PRACTICES[name])})}
    )
    results = analyse(design)
    places = places_of(design)
    made = {f"{one.wire.id} {one.side}": strip for one in places.ends if (strip := strip_of(results, one))}
    answer = {
        "fits": {
            f.id: [f.ok, f.part, f.value, f.low, f.high, str(f.severity), f.message, f.cure] for f in results.once(fits)
        },
        "strips": {key: asdict(strip, dict_factory=in_words) for key, strip in made.items()},
        "cable": [asdict(one, dict_factory=in_words) for one in cable_strips(results, "fast")],
        "order": {
            end.id: [[step.id, step.op, step.text, step.told, step.after] for step in steps_at(results, end.id)]
            for end in design.ends
        },
        "drawn": strips_svg(list(made.values())).splitlines(),
    }
    if name == "usual":
        known = dict.fromkeys(end.id for end, _, _ in places.housings())
        answer["faces"] = [
            faces_svg(faces_in(results, end, side)).splitlines() for end in known for side in ("wire", "mating")
        ]
        answer["words"] = [
            face.words for end in known for side in ("wire", "mating") for face in faces_in(results, end, side)
        ]
    held(f"ends-{name}.json", json.loads(json.dumps(answer)))


def in_words(fields: list[tuple[str, Any]]) -> Any:
    """For `asdict`: what is said as its sentence."""
    found = dict(fields)
    return str(Message(**found)) if {"code", "values", "as_was"} == set(found) else found


def held(name: str, answer: Any, near: float = NEAR) -> None:
    """Compares an answer with its file, figures within a share of them."""
    path = HERE / name
    if os.environ.get("UMBER_GOLDEN") == "write":
        path.write_text(json.dumps(answer, ensure_ascii=False, indent=1) + "\n", encoding="utf-8")
    differences = list(differing(json.loads(path.read_text("utf-8")), answer, "", near))
    assert not differences, f"{name}: " + "; ".join(differences[:8])


def differing(kept: Any, now: Any, where: str, near: float = NEAR) -> list[str]:
    """Each place where two answers are not alike."""
    if isinstance(kept, dict) and isinstance(now, dict):
        lost = [f"{where}/{key} is new or gone" for key in kept.keys() ^ now.keys()]
        return lost + [
            d for key in kept.keys() & now.keys() for d in differing(kept[key], now[key], f"{where}/{key}", near)
        ]
    if isinstance(kept, list) and isinstance(now, list):
        lost = [f"{where}: {len(kept)} rows became {len(now)}"] if len(kept) != len(now) else []
        return lost + [
            d for at, pair in enumerate(zip(kept, now, strict=False)) for d in differing(*pair, f"{where}/{at}", near)
        ]
    if isinstance(kept, float) or isinstance(now, float):
        same = None not in (kept, now) and abs(kept - now) <= near * max(abs(kept), abs(now), 0.05)
    else:
        same = kept == now
    return [] if same else [f"{where}: {kept!r} became {now!r}"]
