"""What a unit's papers say, as certificate, book, rows and plain data: of units that are proven, faulty, taken as they
are, simulated, half made, each with all that can be said of one."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import pytest

from demos import worked_out
from golden.test_answers import held
from umber_trunk.core.keep.unit_record import Passed, UnitRecord
from umber_trunk.core.make.events import Event, event
from umber_trunk.core.sentences import Message
from umber_trunk.store.certificates import certificate, plain, rows

DAY = 86_400_000
SEAL = (812, "ab" * 32)
TESTS = (
    {"n": 1, "kind": "continuity", "a": "box:1", "b": "lamp:1", "value": 0.01234, "unit": "Ω", "low": 0.01, "high": 0.02, "ok": True, "by": "Ines"},
    {"n": 2, "kind": "leak", "a": "box:2", "value": 5e6, "unit": "Ω", "low": 1e6, "ok": True, "source": "simulated"},
    {"n": 3, "kind": "short", "a": "p" * 61, "b": "q" * 60, "over": True, "unit": "Ω", "high": 3.0, "ok": False},
    {"n": 0, "kind": "look", "a": "box", "ok": True, "by": "Mara"},
)  # fmt: skip
READS = (
    {"what": "height", "value": 1.31, "unit": "mm", "low": 1.27, "high": 1.33, "verdict": "accept", "by": "Jo"},
    {"what": "pull", "value": 88.0, "unit": "N", "low": 90.0, "verdict": "scrap"},
    {"what": "mass", "value": 12.5, "unit": "g"},
)  # fmt: skip
count = iter(range(1, 10_000))


def pair(what: str, step: str = "", /, **data: Any) -> tuple[Event, Any]:
    """An entry of the log and its act; each a day and an hour after the one before."""
    n = next(count)
    one = replace(event(f"e{n}", "lot 7", n * (DAY + 3_600_000), what, 2, step, data), n=n)
    return one, one.act


def a_unit() -> UnitRecord:
    """A unit of which everything was said that can be."""
    strike, act = pair("strike", of="e1", who="Ada", why="typed twice")
    struck, _ = pair("read", "2|W1 crimp", what="pull", value=9.0)
    step = {"tool": "press", "setting": "die B", "coil": "C1", "hand": "Jo", "op": "crimp", "wire": "W1"}
    return UnitRecord(
        "lot 7",
        2,
        4,
        DAY,
        "S-2",
        "0d" * 32,
        "de" * 32,
        hands={"Jo", "Ada"},
        tools={("press", "die B"), ("cutter", "")},
        coils={"C2": {"W2", "W1"}, "C1": {"W1"}},
        done={"2|W1 cut": pair("done", "2|W1 cut", **step)[0], "2|W1 strip": pair("done", "2|W1 strip", op="strip")[0]},
        readings=[pair("read", "2|W1 crimp", **one) for one in READS],
        tests=[pair("test", **one) for one in TESTS],
        before=[pair("test", **TESTS[1])],
        defects=[pair("defect", "2|W1 crimp", code="B2", says="nicked")],
        remakes=[pair("remake", wire="W1", side="start", voids=["2|W1 strip"], eaten_mm=9.0, why="strand out")],
        scrapped=[pair("scrap", wire="W2", voids=[], why="too short")],
        said=[
            pair("deviation", says="longer boot", who="Mara"),
            pair("release", "2|W1 crimp", who="Jo", why="gauge broken"),
            pair("mended", says="T4 anew", who="Jo"),
        ],
        found=[
            pair("found", what="open", where="W7", says="W7 is open", probability=0.804),
            pair("found", says="W8 leaks"),
        ],
        struck=[(struck, strike, act)],
        untold=("a swap of W3 and W4", "a short behind the relay"),
        untold_by="Ines",
        steps=50,
        left=3,
        out_of_band=1,
        lacks=Message.of("proven.was", day="1 May", who="Jo", since="a repair"),
    )


def told(record: UnitRecord) -> dict[str, Any]:
    """All its papers, a line for each row."""
    papers = {}
    for whole in (False, True):
        sheet = certificate(worked_out("shore"), record, SEAL, whole)
        lines = [sheet.title, f"{sheet.state}, {'sound' if sheet.sound else 'not sound'}", str(sheet.note)]
        for table in sheet.tables:
            lines.append(f"{' | '.join(map(str, table.titles))}: widths {table.shares}, figures in {table.right}")
            lines += [" | ".join(map(str, row)) for row in table.rows]
        papers["book" if whole else "sheet"] = lines
    return papers | {"rows": [" | ".join(map(str, row)) for row in rows(record)], "plain": plain(record, SEAL)}


def test_a_units_papers_say_what_is_in_its_log(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("TZ", "UTC")
    time.tzset()
    whole = a_unit()
    passed = Passed("Ines", 30 * DAY, 4)
    as_is = pair("as-is", who="Mara", why="made by the yard")
    bare = UnitRecord("lot 7", 1, 4, DAY)
    ended = Message.of("proven.why", tests=4, who="Jo", day="1 May")
    units = {
        "faulty": whole,
        "proven": replace(whole, proven=passed, left=0, untold_by="", earlier=True),
        "simulated": replace(whole, proven=passed, simulated=True),
        "as it came": replace(whole, as_is=as_is, serial="", was=passed, ended=ended, scrapped=[]),
        "bare": bare,
        "proven half made": replace(bare, proven=passed, left=1, remakes=whole.remakes),
    }
    held("units.json", {name: told(one) for name, one in units.items()})
