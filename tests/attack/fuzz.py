"""Structure-aware fuzzers for everything that reads. Each takes a random source and either passes or raises what no
reader may raise. `./umber fuzz --cases 100000 --seed 1` runs them all; tests run some of each."""

from __future__ import annotations

import argparse
import io
import json
import math
import sqlite3
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from contextlib import redirect_stderr, redirect_stdout, suppress
from datetime import datetime
from functools import cache
from pathlib import Path
from random import Random
from typing import Any

from attack.extremes import BEYOND, TEXTS, fields, put, whole
from attack.fuzz_more import MORE
from attack.fuzz_parts import CELLS, HOSTILE, WORDS, in_file, spoilt
from umber_trunk.cli.main import main as shell
from umber_trunk.cli.solving import solve_json
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_size, parse_spec
from umber_trunk.core.demo import demo, shop_list
from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Piece
from umber_trunk.core.make.alarms import alarms
from umber_trunk.core.make.bench import Bench
from umber_trunk.core.make.frozen import freeze
from umber_trunk.core.make.measuring import KINDS, read_figure
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.needs.enter import enter
from umber_trunk.core.needs.line import parse_need
from umber_trunk.core.quantity import Habit
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_duty,
    parse_length_m,
    parse_load,
    parse_ohms,
    parse_seconds,
    parse_share,
    parse_surge,
    parse_volts,
)
from umber_trunk.core.wirecheck.judge import judge
from umber_trunk.core.wirecheck.told_readings import ASKED, read_evidence
from umber_trunk.store import workbook
from umber_trunk.store.floor import times_of
from umber_trunk.store.jsonfile import from_json, to_json
from umber_trunk.store.lines_log import read_lines
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.merge import add_wires
from umber_trunk.store.listing.reading import read_list
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.sheets import Book, read_book, xlsx_bytes
from umber_trunk.store.state import read_state
from umber_trunk.store.stock_list import read_stock

HEADS = ("wire", "from", "to", "from pin", "to pin", "size", "size (awg)", "colour", "stripe", "length", "length (mm)", "Länge [m]", "de", "vers",
         "Querschnitt", "name", "circuit", "pin", "remark", "", "n°", "hilo")  # fmt: skip


@cache
def _leaves() -> tuple[Any, ...]:
    return tuple(fields())


def spoilt_design(rng: Random) -> Any:
    """Plain data of a harness with some fields, keys or rows that don't belong."""
    data = whole()
    for _ in range(rng.randrange(1, 5)):
        field = rng.choice(_leaves())
        try:
            put(data, field.way, rng.choice((*field.edges(), *BEYOND, *TEXTS, {}, [], [[]], {"id": "x"})))
            if rng.random() < 0.2:
                table = rng.choice([key for key, value in data.items() if isinstance(value, list) and value])
                rng.choice((data[table].append, data[table].remove))(rng.choice(data[table]))
            if rng.random() < 0.1:
                data[rng.choice(HOSTILE)] = 1
        except (KeyError, IndexError, TypeError, ValueError):
            continue
    return data


def fuzz_json(rng: Random) -> None:
    """A design in JSON."""
    text = json.dumps(spoilt_design(rng))
    if rng.random() < 0.3:
        text = spoilt(text, rng)
    try:
        design = from_json(text, "x.json")
    except UmberError:
        return
    assert from_json(to_json(design)) == design


def _table(rng: Random) -> list[list[str]]:
    heads = (
        rng.choices(HEADS, k=rng.randrange(2, 9))
        if rng.random() < 0.5
        else ["wire", "from", "to", *rng.sample(HEADS, 4)]
    )
    rows = [rng.choices(CELLS, k=len(heads)) for _ in range(rng.randrange(0, 8))]
    grid = [rng.choices(CELLS, k=3) for _ in range(rng.randrange(0, 2))] + [heads, *rows]
    for _ in range(rng.randrange(0, 3)):
        row = rng.choice(grid)
        row[rng.randrange(len(row))] = rng.choice(HOSTILE)
    return grid


def _taken(path: Path, rng: Random) -> None:
    """Reads a list, answers whatever it asks, and lays it in."""
    try:
        book = read_book(path)
        columns = {rng.choice(("from", "to", "size", "length")): rng.randrange(-1, 6)} if rng.random() < 0.2 else {}
        header = rng.choice((None, None, None, 0, 1, 99))
        reading = read_list(book, Answers(accept=rng.random() < 0.7, columns=columns, header_row=header))
        if not reading.doubts:
            add_wires(Design(), reading, skip_bad=True)
    except UmberError as why:
        assert str(why).strip()


def fuzz_text_list(rng: Random) -> None:
    """A list as a text table in any dialect and coding."""
    if rng.random() < 0.2:
        text = spoilt(shop_list(), rng)
    else:
        mark = rng.choice(",;\t|")
        text = "\n".join(mark.join(f'"{cell}"' if rng.random() < 0.2 else cell for cell in row) for row in _table(rng))
    data = text.encode(rng.choice(("utf-8", "utf-8", "utf-16", "cp1252", "utf-8-sig")), "replace")
    if rng.random() < 0.2:
        data = bytes(rng.choice((byte, byte, byte, rng.randrange(256))) for byte in data)
    with in_file(data, ".csv") as path:
        _taken(path, rng)


def fuzz_workbook(rng: Random) -> None:
    """A workbook with bytes or parts that don't belong; in this process, where a test can see what happens."""
    rows = [[int(c) if c.isdigit() and len(c) < 9 else c.replace("\0", "") for c in row] for row in _table(rng)]
    data = xlsx_bytes([(rng.choice(("wires", "x", "très long")), rows)])
    if rng.random() < 0.5:
        data = _spoilt_pack(data, rng)
    else:
        at = rng.randrange(len(data))
        data = (
            data[:at]
            + bytes(rng.randrange(256) for _ in range(rng.randrange(1, 20)))
            + data[at + rng.randrange(0, 20) :]
        )
    answer = workbook.answer(data)
    assert set(answer) in ({"sheets"}, {"refused"})
    json.dumps(answer)


def _spoilt_pack(data: bytes, rng: Random) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        names = old.namelist()
        hurt = rng.choice(names)
        for name in names:
            part = old.read(name).decode("utf-8", "replace")
            if name == hurt:
                part = rng.choice(
                    (spoilt(part, rng), part.replace('r="A1"', 'r="XFD1048576"'), part.replace("<v>", "<v>9e999"), "")
                )
            new.writestr(name, part.encode("utf-8", "replace"))
    return out.getvalue()


@cache
def _project() -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.umber"
        with ProjectFile.create(path, Design(), copied=False) as file:
            for number in range(3):
                file.commit(
                    file.design.model_copy(
                        update={"project": file.design.project.model_copy(update={"name": f"n{number}"})}
                    ),
                    "x",
                )
        return path.read_bytes()


TAMPERING = (
    "UPDATE state SET value = '{n}' WHERE name = 'head'", "UPDATE state SET value = '{n}'", "DELETE FROM state", "DELETE FROM revision WHERE seq = 2",
    "UPDATE revision SET body = '{{}}'", "UPDATE revision SET base = {n}", "UPDATE revision SET parent = seq", "UPDATE revision SET label = x'ff'",
    "PRAGMA user_version = {n}", "PRAGMA application_id = {n}", "DROP TABLE frozen", "CREATE VIEW v AS SELECT * FROM revision",
    "CREATE TRIGGER t AFTER UPDATE ON state BEGIN DELETE FROM revision; END", "ALTER TABLE state RENAME TO other", "CREATE INDEX i ON revision (label)",
    "UPDATE revision SET seal = x'00'", "UPDATE revision SET made = {n}, label = 'a' || char(27)", "UPDATE revision SET parent = 'x'", "INSERT INTO revision VALUES ({n}, 1, 1, 0, '', x'', x'')", "INSERT INTO frozen VALUES ({n}, 'x', 0)",
)  # fmt: skip


def fuzz_project(rng: Random) -> None:
    """A harness file with bytes or rows that don't belong."""
    data = _project()
    with in_file(data, ".umber") as path:
        if rng.random() < 0.5:
            db = sqlite3.connect(path)
            for _ in range(rng.randrange(1, 3)):
                number = rng.choice((0, -1, 2, 99, 2**31 - 1, 2**63 - 1, -(2**31)))
                try:
                    db.execute(rng.choice(TAMPERING).format(n=number))
                    db.commit()
                except sqlite3.Error:
                    continue
            db.close()
        else:
            at = rng.randrange(len(data))
            how = rng.choice((0, 1, 2))
            noise = bytes(rng.randrange(256) for _ in range(rng.choice((1, 4, 100))))
            path.write_bytes(
                data[:at]
                if how == 0
                else data[:at] + noise + data[at + len(noise) :]
                if how == 1
                else data[:at] + noise + data[at:]
            )
        before = path.read_bytes()
        try:
            with ProjectFile.open(path, for_writing=False) as file:
                for row in (*file.revisions(), *file.history()):
                    datetime.fromtimestamp(row.made)
                    assert row.label.isprintable()
                assert isinstance(file.design, Design)
        except UmberError as why:
            assert str(why).endswith(".")
        assert path.read_bytes() == before


PARSERS: tuple[Callable[[str], object], ...] = (
    parse_amps,
    parse_volts,
    parse_seconds,
    parse_ohms,
    parse_share,
    parse_celsius,
    parse_length_m,
    parse_size,
    parse_spec,
    parse_duty,
    parse_surge,
    lambda text: parse_drop(text, 24.0),
    parse_load,
    lambda text: parse_length_m(text, "mm", Habit("comma")),
)


def fuzz_quantity(rng: Random) -> None:
    """Figures with units, as people write them and as they don't."""
    text = "".join(
        rng.choice((*"0123456789.,'/- ", "mm", "m", "A", "V", "W", "ohm", "s", "%", "½", "°C", "AWG", "e9", *HOSTILE))
        for _ in range(rng.randrange(9))
    )
    for parse in PARSERS:
        try:
            found = parse(text)
        except UmberError:
            continue
        for value in found if isinstance(found, tuple) else (found,):
            assert not isinstance(value, float) or math.isfinite(value), (text, value)


@cache
def _begun() -> Design:
    return Design.model_validate(whole())


def fuzz_line(rng: Random) -> None:
    """A line as it is said."""
    text = " ".join(rng.choices((*WORDS, *WORDS, *WORDS, *HOSTILE), k=rng.randrange(1, 10)))
    design = rng.choice((Design(), _begun()))
    try:
        need = parse_need(text, 24.0, rng.choice(("", "comma", "point")))
        if need.ok:
            design = enter(design, need)
    except UmberError as why:
        assert str(why).strip()
    assert from_json(to_json(design)) == design


def a_network(rng: Random) -> Any:
    """A small harness joined anyhow: loops, shorts, islands, poles swapped, converters that feed each other."""
    kinds = ("device", "box", "stud", "bar", "splice", "switch", "relay", "connector", "converter")
    ends: list[Any] = []
    for number in range(rng.randrange(2, 6)):
        cavities = [
            {"id": str(at), "joint_ohm": rng.choice((0, 0, 0.001, 1e-9, 1e6))} for at in range(rng.randrange(1, 4))
        ]
        end = {"id": f"e{number}", "name": f"end {number}", "kind": rng.choice(kinds), "cavities": cavities, "frame": rng.random() < 0.2,
               "frame_ohm": rng.choice((0, 0.01)), "point": rng.choice((None, "p0", "p1", "p2"))}  # fmt: skip
        if len(cavities) > 1 and rng.random() < 0.4:
            end["links"] = [
                {
                    "id": "F",
                    "kind": rng.choice(("fuse", "switch", "coupler")),
                    "a": "0",
                    "b": "1",
                    "rating_a": rng.choice((None, 10, 0.001)),
                }
            ]
        if rng.random() < 0.2:
            end["bridged"] = [[cavity["id"] for cavity in cavities]]
        ends.append(end)

    def pin() -> Any:
        end = rng.choice(ends)
        return {"end": end["id"], "cavity": rng.choice(end["cavities"])["id"] if rng.random() < 0.97 else "none"}

    def many(most: int) -> range:
        return range(rng.randrange(0, most))

    volts = (0.01, 12, 12, 24, 1500)
    return {
        "format": 2,
        "ends": ends,
        "points": [{"id": f"p{n}"} for n in range(3)],
        "segments": [
            {
                "id": f"s{n}",
                "a": f"p{rng.randrange(3)}",
                "b": f"p{rng.randrange(3)}",
                "measure": {"length_m": rng.choice((0, 2.0, 1e4))},
            }
            for n in many(4)
        ],
        "supplies": [
            {
                "id": f"u{n}",
                "name": "u",
                "volts": rng.choice(volts),
                "plus": pin(),
                "minus": pin(),
                "ac": rng.random() < 0.15,
                "source_ohm": rng.choice((0, 0.01)),
            }
            for n in range(rng.randrange(0, 3))
        ],
        "loads": [
            {
                "id": f"l{n}",
                "name": f"l{n}",
                "plus": pin(),
                "minus": pin(),
                "kind": rng.choice(("current", "power", "resistance")),
                "value": rng.choice((1e-6, 1, 10, 1e6)),
                "surge_a": rng.choice((None, 1e6)),
                "min_volts": rng.choice((None, 11)),
            }
            for n in many(4)
        ],
        "converters": [
            {
                "id": f"c{n}",
                "name": "c",
                "volts": rng.choice(volts),
                "plus": pin(),
                "minus": pin(),
                "out_plus": pin(),
                "out_minus": pin(),
                "efficiency": rng.choice((0.01, 0.9, 1)),
            }
            for n in many(3)
        ],
        "wires": [
            {
                "id": f"w{n}",
                "start": pin(),
                "finish": pin(),
                "stated_m": rng.choice((None, 0, 1.0, 1e4)),
                "size": rng.choice((None, None, "1.5", "banana")),
            }
            for n in many(7)
        ],
        "cases": [{"id": f"k{n}", "name": "k", "loads": rng.choice((None, ["l0"], []))} for n in many(3)],
    }


def fuzz_network(rng: Random) -> None:
    """What is worked out of a harness joined anyhow: figures that are finite, or said to be missing."""
    analysis = analyse(Design.model_validate(a_network(rng)))
    answer = solve_json(analysis)
    json.dumps(answer, allow_nan=False)
    for load in answer["loads"]:
        assert load["volts"] is None or abs(load["volts"]) < 1e9, load
        assert not load["ok"] or load["volts"] is not None, load
    for wire in answer["wires"]:
        assert abs(wire["amps"]) < 1e12, wire
        assert not wire["ok"] or wire["size"] != "?", wire


OPTIONS = ("--load", "--supply", "--run", "--max-drop", "--ambient", "--series", "--size", "--parallel", "--joints", "--bundle", "--air", "--duty", "--surge",
           "--fuse", "--json", "--why", "--enclosed", "--coiled", "--sun", "--altitude", "--decimal", "--efficiency", "--nonsense")  # fmt: skip


def fuzz_shell(rng: Random) -> None:
    """Words on the command line."""
    command = rng.choice(
        ("size", "pack", "say", "import", "check", "freeze", "restore", "export", "nonsense", "history")
    )
    words = [
        command,
        *rng.choices(
            (*OPTIONS, *CELLS, *WORDS, *HOSTILE, "/dev/zero", "/", "/nowhere/x.umber", "-o", "a.json"),
            k=rng.randrange(0, 7),
        ),
    ]
    if command == "size" and rng.random() < 0.5:
        words = ["size", "--load", rng.choice(WORDS), "--supply", "24V", "--run", rng.choice(CELLS), *words[1:3]]
    if command == "say":
        words = ["say", "/nowhere/x.umber", *words[1:]]
    said, told = io.StringIO(), io.StringIO()
    with redirect_stdout(said), redirect_stderr(told):
        try:
            status = shell(words)
        except SystemExit as end:
            status = int(end.code or 0)
    assert status in (0, 1, 2, 3), (words, status, told.getvalue())
    assert "Traceback" not in told.getvalue()
    assert "\x1b" not in said.getvalue() + told.getvalue()


def fuzz_memory(rng: Random) -> None:
    """What the program remembers of its user."""
    text = rng.choice(
        (
            "{",
            "[" * 5000,
            '{"scale": NaN}',
            "null",
            '{"recent": [1, null, "\\u0000"]}',
            spoilt('{"recent": ["a"], "scale": 1.1}', rng),
        )
    )
    with in_file(text.encode("utf-8", "surrogatepass"), ".json") as path:
        values, _ = read_state(path)
        assert isinstance(values, dict)
    pool = (
        *HOSTILE,
        "length",
        "size",
        "awg",
        "mm",
        "decimal",
        "comma",
        "split",
        "from",
        "to",
        -1,
        10**9,
        2,
        None,
        True,
    )
    kept = {
        name: {str(rng.choice(pool)): rng.choice(pool) for _ in range(rng.randrange(4))}
        for name in ("columns", "units", "said")
    }
    try:
        reading = read_list(_book(), Answers.from_json(kept))
        if not reading.doubts:
            add_wires(Design(), reading, skip_bad=True)
    except UmberError as why:
        assert str(why).strip()


@cache
def _book() -> Book:
    with in_file(shop_list().encode(), ".csv") as path:
        return read_book(path)


STOCK_HEADS = ("coil", "size", "metal", "colour", "length_m", "note", "LENGTH M", "")
STOCK_CELLS = (
    "C1",
    "C2",
    "2.5 mm2",
    "AWG 14",
    "1,5 mm²",
    "copper",
    "tinned",
    "red",
    "red/white",
    "100",
    "12,5",
    "3 m",
    "0.0001",
    "1e4",
    "gold",
)
LOG_KINDS = ("begin", "done", "undo", "read", "defect", "remake", "scrap", "release", "reset", "sample", "note", "fly")


def fuzz_stock(rng: Random) -> None:
    """A shelf as a table: read whole and cut from without a piece longer than its coil, or refused in a sentence."""
    heads = rng.choices(STOCK_HEADS, k=6) if rng.random() < 0.3 else ["coil", "size", "metal", "colour", "length_m"]
    grid = [heads, *([f"C{n}", *rng.choices(STOCK_CELLS, k=len(heads) - 1)] for n in range(rng.randrange(0, 6)))]
    if rng.random() < 0.3:
        row = rng.choice(grid)
        row[rng.randrange(len(row))] = rng.choice(HOSTILE)
    text = "\n".join(rng.choice(",;\t").join(row) for row in grid)
    with in_file(text.encode("utf-8", "replace"), ".csv") as path:
        try:
            coils = read_stock(path)
        except UmberError as why:
            assert str(why).strip()
            return
    assert all(0 < coil.length_m <= 10_000 for coil in coils)
    wanted = [
        Piece(f"W{n}", 1, rng.choice(("2.5 mm2", "AWG 14")), "copper", "red", rng.choice((0.1, 3.0, 99.0)))
        for n in range(8)
    ]
    plan = plan_cuts(coils, wanted, nodes=60)
    assert len(plan.cuts) + len(plan.short) == len(wanted)
    assert all(left >= 0 for left in plan.left_m.values())


def fuzz_log(rng: Random) -> None:
    """Another station's log, spoilt: every line an event or a fault; what is read folds and charts without a
    stumble."""

    def value() -> Any:
        return rng.choice((1.5, 0, -1, 1e308, None, "", "height", "pull", "1|W1 cut", [], {}, True, *HOSTILE))

    lines = []
    for number in range(rng.randrange(0, 8)):
        data = {
            key: value()
            for key in rng.sample(
                (
                    "what",
                    "value",
                    "tool",
                    "setting",
                    "part",
                    "area_mm2",
                    "of",
                    "voids",
                    "wire",
                    "side",
                    "eaten_mm",
                    "op",
                    "seconds",
                    "verdict",
                    "low",
                    "high",
                    "coil",
                    "coil_m",
                ),
                6,
            )
        }
        plain: dict[str, Any] = {
            "id": f"e{number}", "build": "b", "at_ms": 1, "kind": rng.choice(LOG_KINDS), "unit": 1, "step": "1|W1 cut", "data": data,
        }  # fmt: skip
        if rng.random() < 0.3:
            plain[rng.choice(list(plain))] = value()
        lines.append(spoilt(json.dumps(plain), rng) if rng.random() < 0.2 else json.dumps(plain))
    with in_file("\n".join(lines).encode("utf-8", "replace"), ".jsonl") as path:
        try:
            found = read_lines(path)
        except UmberError as why:
            assert str(why).strip()
            return
    events = found.events
    assert len(events) + len(found.faults) <= len(lines)
    times_of(events)
    alarms(events)
    Bench(*_bench(), "b", events)


@cache
def _bench() -> tuple[Any, Any]:
    results = analyse(demo("shore"))
    frozen = freeze(results, plan_order(results, 1), "test")
    return frozen.making, frozen.shelf


def fuzz_cable(rng: Random) -> None:
    """Readings of a cable and figures of a gauge: judged with finite figures, or refused in a sentence."""
    cells = (
        "2 m", "620 g", "11.2 mm", "1100x0.2mm", "1.1 mohm", "20 C", "35 mm2 copper", "AWG 8 cca", "7.7 ± 0.2 mm", "1 kg ± 2 %", "0.001 ohm", "5 kg",
    )  # fmt: skip
    said = {
        name: rng.choice((*cells, "", "", rng.choice(HOSTILE)))
        for name in rng.sample(list(ASKED), rng.randrange(0, len(ASKED)))
    }
    try:
        found = judge(read_evidence(said, rng.choice(("", "bare", "jacketed")), rng.choice(("", "point", "comma"))))
        assert math.isfinite(found.area_mm2)
        assert found.low_mm2 <= found.high_mm2
        assert abs(sum(found.metals.values()) - 1) < 1e-6
    except UmberError as why:
        assert str(why).strip()
    with suppress(UmberError):
        assert read_figure(rng.choice(list(KINDS)), rng.choice((*cells, *HOSTILE))) > 0


FUZZERS: dict[str, tuple[Callable[[Random], None], int]] = {
    "json": (fuzz_json, 20), "text-list": (fuzz_text_list, 25), "workbook": (fuzz_workbook, 4), "project": (fuzz_project, 6), "quantity": (fuzz_quantity, 25),
    "line": (fuzz_line, 15), "shell": (fuzz_shell, 4), "network": (fuzz_network, 2), "memory": (fuzz_memory, 3), "stock": (fuzz_stock, 8), "log": (fuzz_log, 8),
    "cable": (fuzz_cable, 8), **MORE,
}  # fmt: skip
"""Name → fuzzer and its share of all cases."""


def run(cases: int, seed: int, names: tuple[str, ...] = tuple(FUZZERS)) -> list[str]:
    """Runs that many cases; what broke, each with the words to run it again."""
    broken = []
    total = sum(FUZZERS[name][1] for name in names)
    for name in names:
        fuzzer, share = FUZZERS[name]
        start, many = time.monotonic(), max(1, cases * share // total)
        for number in range(many):
            try:
                fuzzer(Random(f"{name} {seed} {number}"))
            except Exception as why:  # noqa: BLE001 every kind is what is looked for
                broken.append(f"{name}, seed {seed}, case {number}: {type(why).__name__}: {str(why)[:300]}")
        sys.stderr.write(f"{name:10} {many:7} cases, {time.monotonic() - start:6.1f} s\n")
    return broken


def main() -> int:
    """./umber fuzz"""
    parser = argparse.ArgumentParser(prog="umber fuzz", description="Feeds every reader what it can't expect.")
    parser.add_argument("--cases", type=int, default=100_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", choices=sorted(FUZZERS), action="append")
    args = parser.parse_args()
    broken = run(args.cases, args.seed, tuple(args.only or FUZZERS))
    for line in broken[:40]:
        sys.stdout.write(f"{line}\n")
    sys.stdout.write(f"{len(broken)} of {args.cases} cases broke something.\n")
    return 1 if broken else 0


if __name__ == "__main__":
    raise SystemExit(main())
