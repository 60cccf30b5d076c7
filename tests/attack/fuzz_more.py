"""Readers the first fuzzers don't know: catalogues, found lengths, counts of parts, pins to come, photographs; lines
from devices; whole logs of two stations folded into units; ways as they are said."""

from __future__ import annotations

import json
import math
import socket
import threading
from contextlib import suppress
from random import Random
from typing import Any

from attack.fuzz_parts import CELLS, HOSTILE, WORDS, in_file, spoilt
from conftest import design_of
from umber_trunk.core.errors import UmberError
from umber_trunk.core.keep.record import records
from umber_trunk.core.keep.stations import clocks, disputes, station_findings
from umber_trunk.core.language.hear import way_line
from umber_trunk.core.language.records import EXAMPLES
from umber_trunk.core.make.events import event
from umber_trunk.core.make.runs import runs_of
from umber_trunk.core.quantity import Habit
from umber_trunk.store import catalogues
from umber_trunk.store.gauges import MOST, ask_gauge
from umber_trunk.store.history_list import read_history
from umber_trunk.store.meters import parse_answer
from umber_trunk.store.pin_list import read_pins
from umber_trunk.store.stock_list import read_counts

HEADS = (
    "id", "kind", "name", "family", "part", "count", "from", "to", "length", "length_m", "wire", "end", "pin", "cavity", "size", "date", "harness", "",
)  # fmt: skip


def _grid(rng: Random, heads: tuple[str, ...]) -> bytes:
    """A table with these heads, some lost, some cells hostile."""
    first = rng.sample(HEADS, rng.randrange(1, 8)) if rng.random() < 0.25 else list(heads)
    mark = rng.choice(",;\t")
    rows = [
        first,
        *([rng.choice((*CELLS, "1.5", "12 mm", "0", "-3", "x")) for _ in first] for _ in range(rng.randrange(0, 6))),
    ]
    if rng.random() < 0.4:
        row = rng.choice(rows)
        row[rng.randrange(len(row))] = rng.choice(HOSTILE)
    text = "\n".join(mark.join(row) for row in rows)
    return (spoilt(text, rng) if rng.random() < 0.2 else text).encode("utf-8", "replace")


def fuzz_catalogue(rng: Random) -> None:
    """A table or a JSON of parts: parts and faults, each fault with its place, or a sentence."""
    if rng.random() < 0.5:
        data, ending = (
            _grid(
                rng,
                tuple(
                    rng.sample(("id", "kind", "name", "family", "width_mm", "cavities", "sizes", "crimps", "price"), 7)
                ),
            ),
            ".csv",
        )
    else:
        parts = json.loads(catalogues.to_json(list(catalogues.generic().parts.values())[: rng.randrange(1, 5)]))
        part = rng.choice(parts)
        part[rng.choice(list(part))] = rng.choice((None, -1, 1e308, [], {}, "", *HOSTILE))
        text = json.dumps(parts)
        data, ending = (spoilt(text, rng) if rng.random() < 0.5 else text).encode("utf-8", "replace"), ".json"
    with in_file(data, ending) as path, suppress(UmberError):
        found = catalogues.read_catalogue(path)
        assert all(one.message.strip() for one in found.faults)


def fuzz_tables(rng: Random) -> None:
    """Found lengths, counts of parts, pins: read whole, or refused in a sentence."""
    for read, heads in (
        (read_history, ("harness", "from", "to", "length_m")),
        (read_counts, ("part", "count")),
        (read_pins, ("end", "pin", "length")),
    ):
        with in_file(_grid(rng, heads), rng.choice((".csv", ".csv", ".xlsx"))) as path:
            try:
                found: Any = read(path)
            except UmberError as why:
                assert str(why).strip()
                continue
            for value in found.values() if isinstance(found, dict) else ():
                assert math.isfinite(value)


def fuzz_small(rng: Random) -> None:
    """Photographs: what is none is a sentence."""
    from umber_trunk.app.paper.photographs import photograph

    head = rng.choice((b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff\xe0", b"GIF89a", b"<svg xmlns='x'>", b"RIFF1234WEBP", b""))
    with (
        in_file(head + rng.randbytes(rng.randrange(0, 400)), rng.choice((".png", ".jpg", ".svg"))) as path,
        suppress(UmberError),
    ):
        assert photograph(path)


REPLIES = [
    b"1.23 mm",
    b"12 N",
    b"nan",
    b"1e999",
    b"-0",
    b"",
    b"\xff\xfe",
    b"9" * 5000,
    b"1.5 mm\n1.6 mm",
    b"OL",
    b"+9.9E+37",
] + [one.encode("utf-8", "replace") for one in HOSTILE]


def fuzz_device(rng: Random) -> None:
    """What a gauge or a meter says, in pieces: a reading it can have, or a sentence, within its limit."""
    kind = rng.choice(list(MOST))
    said = rng.choice((rng.randbytes(30), *REPLIES))
    listener = socket.create_server(("127.0.0.1", 0))

    def serve() -> None:
        with suppress(OSError), listener, listener.accept()[0] as line:
            line.recv(200)
            for at in range(0, len(said), step):
                line.sendall(said[at : at + step])
            line.sendall(rng.choice((b"\n", b"\r\n", b"")))

    step = rng.choice((1, 7, 10_000))
    server = threading.Thread(target=serve, daemon=True)
    server.start()
    try:
        with suppress(UmberError):
            assert ask_gauge(f"tcp:127.0.0.1:{listener.getsockname()[1]}?wait=0.3", kind).strip()
    finally:
        listener.close()
        server.join(2)
    with suppress(UmberError):
        parse_answer(said.decode("utf-8", "replace"), "x")


KINDS = (
    "done", "undo", "read", "defect", "remake", "scrap", "release", "reset", "sample", "note", "test", "proof", "safe", "proven", "found", "serial", "mended", "strike", "merged", "signed", "upgrade",
    "as_is", "unheard of",
)  # fmt: skip


def fuzz_stations(rng: Random) -> None:
    """Logs of any acts in any order, merged or not: units, contradictions and clocks are said of them without a
    stumble, the same each time."""

    def values() -> dict[str, Any]:
        words = ("a", "e1", "e2", "1|W1 cut", "height", "scrap", "", *WORDS[:6])
        figures = (0, 1, 1.5, -1, 10**9)
        some = {
            "hand", "op", "wire", "what", "unit", "verdict", "says", "who", "why", "of", "a", "b", "kind", "by", "serial", "to", "file", "name", "stands",
        }  # fmt: skip
        plain: dict[str, Any] = {name: rng.choice(words) for name in rng.sample(sorted(some), 9)}
        plain |= {
            name: rng.choice(figures)
            for name in rng.sample(("value", "n", "entries", "unsigned", "low", "high", "eaten_mm", "coil_m"), 4)
        }
        return plain | {
            "ok": rng.random() < 0.5,
            "side": "start",
            "voids": [rng.choice(words)],
            "units": [1, 2],
            "both": ["e1", "e2"],
        }

    rows = [
        event(
            "b",
            "one",
            1_795_000_000_000,
            "begin",
            data={"units": [1, 2], "school": "operation", "hands": 1, "revision": 1},
            n=1,
        )
    ]
    for number in range(2, rng.randrange(3, 24)):
        with suppress(ValueError):
            at_ms, unit = 1_795_000_000_000 + rng.randrange(-(10**9), 10**9), rng.randrange(0, 3)
            build, step = rng.choice(("one", "one", "two", "")), rng.choice(("1|W1 cut", "", "0|x"))
            rows.append(event(f"e{number}", build, at_ms, rng.choice(KINDS), unit, step, values(), number))
    first, again = [one.told for one in disputes(rows)], [one.told for one in disputes(list(rows))]
    assert first == again
    clocks(rows)
    assert all(one.message for one in station_findings(rows))
    assert all(one.state for one in records(rows))
    runs_of(rows)


FORMS = list(EXAMPLES.values())


def fuzz_spoken(rng: Random) -> None:
    """Ways and lengths as they are said: an edit, or a sentence."""
    words = rng.choice(FORMS).split()
    if rng.random() < 0.7:
        words[rng.randrange(len(words))] = rng.choice((*CELLS, *WORDS, *HOSTILE, "S1", "1.2 m", "-3", "1e308"))
    with suppress(UmberError):
        way_line(" ".join(words))(Habit(rng.choice(("", "point", "comma"))))(
            design_of("supply 24 V at battery", "pump 6 A at bilge run 4 m")
        )


MORE = {
    "catalogue": (fuzz_catalogue, 8), "tables": (fuzz_tables, 8), "small": (fuzz_small, 6), "device": (fuzz_device, 2), "stations": (fuzz_stations, 8), "spoken": (fuzz_spoken, 6),
}  # fmt: skip
