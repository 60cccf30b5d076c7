"""Another station's log: one JSON object a line, beside the harness file; merged by adding.

Lines are events, texts that builds were frozen with, and signatures over all lines before.
"""

from __future__ import annotations

import base64
import hashlib
import json
import math
import os
import zlib
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from umber_trunk.core.errors import clipped
from umber_trunk.core.keep.seals import FIRST
from umber_trunk.core.make.events import Event, event
from umber_trunk.core.moments import possible
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import digest_of, pictured
from umber_trunk.store.entries import MOST_EVENT
from umber_trunk.store.files import StoreError, read_text
from umber_trunk.store.floor import MOST_INPUT

MOST_LOG = 200_000_000
MOST_LINE = 150_000_000
MOST_UNITS, MOST_WORD, MOST_DEPTH, MOST_INTEGER = 10_000, 500, 12, 2**53


@dataclass
class StationLog:
    """What a station logged: events and the lines they stand on; texts by digest; `signed` of the events are covered by
    a signature, the last by `key` of a station that calls itself `name`. `faults` say which lines are none, the number
    of the line first."""

    events: list[Event] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    inputs: dict[str, str] = field(default_factory=dict)
    signatures: list[tuple[int, int, str, str]] = field(default_factory=list)
    """(line, events it covers, key, name) of each that holds."""
    faults: list[tuple[int, Message]] = field(default_factory=list)

    @property
    def signed(self) -> int:
        """How many of the events a signature covers."""
        return self.signatures[-1][1] if self.signatures else 0

    @property
    def key(self) -> str:
        """The key that signed last, "" for none."""
        return self.signatures[-1][2] if self.signatures else ""

    @property
    def name(self) -> str:
        """What the station that signed last calls itself."""
        return self.signatures[-1][3] if self.signatures else ""

    def before(self, line: int) -> StationLog:
        """What was logged before a line."""
        many = sum(number < line for number in self.lines)
        return StationLog(
            self.events[:many], self.lines[:many], self.inputs, [one for one in self.signatures if one[0] < line]
        )


def station_path(harness: Path, station: str) -> Path:
    """Where a second station logs: beside the harness file, under its own name."""
    safe = "".join(mark for mark in station if mark.isalnum() or mark in "-_")[:40] or "station"
    return harness.with_name(f"{harness.stem}.{safe}.log.jsonl")


def plain_entry(one: Event) -> dict[str, Any]:
    """An entry of the log as JSON has it."""
    return {
        "id": one.id,
        "build": one.build,
        "at_ms": one.at_ms,
        "kind": one.kind,
        "unit": one.unit,
        "step": one.step,
        "data": dict(one.data),
    }


def add_line(path: Path, *events: Event) -> None:
    """Adds events to a station's log, on disk on return. A line that a power cut left half is ended first."""
    _add(path, *map(plain_entry, events))


def add_input(path: Path, text: str) -> None:
    """Adds a text that a build is frozen with."""
    packed = base64.b64encode(zlib.compress(text.encode("utf-8", "surrogatepass"), 6)).decode()
    _add(path, {"input": digest_of(text), "body": packed})


def sign_lines(path: Path, harness: str) -> None:
    """This station's signature over all lines so far."""
    from umber_trunk.store.station import this_station

    station, (entries, seal) = this_station(), _chain(read_text(path, MOST_LOG).split("\n"))
    _add(
        path,
        {
            "signed": {
                "key": station.key,
                "name": station.name,
                "entries": entries,
                "seal": seal,
                "signature": station.sign(harness, entries, seal, "sitting"),
            }
        },
    )


def _chain(lines: list[str]) -> tuple[int, str]:
    """(lines, the last one's seal) of lines that aren't blank."""
    count, before = 0, FIRST
    for line in lines:
        if line.strip():
            count, before = count + 1, _sealed(before, line)
    return count, before


def _sealed(before: str, line: str) -> str:
    return hashlib.sha256(f"{before}\n{line}".encode("utf-8", "surrogatepass")).hexdigest()


def _written(handle: int, data: bytes) -> None:
    """All of it: the system may take less at a time."""
    while data:
        data = data[os.write(handle, data) :]


def _add(path: Path, *rows: object) -> None:
    lines = "\n".join(json.dumps(data, ensure_ascii=False, allow_nan=False) for data in rows)
    try:
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o644)
        try:
            size = os.fstat(handle).st_size
            whole = size == 0 or os.pread(handle, 1, size - 1) == b"\n"
            try:
                _written(handle, (b"" if whole else b"\n") + lines.encode() + b"\n")
                os.fsync(handle)
            except OSError:
                with suppress(OSError):  # nothing half said stays
                    os.ftruncate(handle, size)
                raise
        finally:
            os.close(handle)
    except OSError as why:
        raise StoreError.of("any.cant-be-written", path=path.name, why=(why.strerror or "a fault").lower()) from why


def read_lines(path: Path, harness: str = "") -> StationLog:
    """A station's log; a last line cut off by a power cut is no fault, it never was logged. Signatures are looked at
    where the harness they are over is said."""
    lines = read_text(path, MOST_LOG).split("\n")
    found = StationLog()
    count, before = 0, FIRST
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            if len(line) > MOST_LINE:
                raise ValueError("longer than a line can be")
            plain = json.loads(line, parse_constant=_no_figure)
            if "input" in plain:
                _take_input(found, plain)
            elif "signed" in plain:
                if harness:
                    _take_signature(found, plain["signed"], harness, count, before, number)
            else:
                found.events.append(_entry(plain))
                found.lines.append(number)
        except _BadSignatureError:
            found.faults.append((number, Message.of("log.bad-signature")))
        except _BadEntryError as why:
            found.faults.append((number, why.said))
        except (ValueError, TypeError, KeyError, AttributeError, zlib.error, RecursionError):
            if number < len(lines):
                found.faults.append((number, Message.of("log.no-entry")))
        count, before = count + 1, _sealed(before, line)
    return found


class _BadEntryError(Exception):
    """An entry with something that no entry can have: what, by its code under log.bad."""

    def __init__(self, key: str, /, **values: Any) -> None:
        super().__init__(key)
        self.said = Message.of(f"log.bad.{key}", **values)


def _no_figure(text: str) -> float:
    raise ValueError(f"{text} is no figure")


def _entry(plain: dict[str, Any]) -> Event:
    """An entry, each field of its type and within its bounds; what a bench can't have written is never merged."""
    at_ms, unit = plain["at_ms"], plain["unit"]
    if type(at_ms) is not int or not possible(at_ms):
        raise _BadEntryError("time", time=clipped(str(at_ms)))
    if type(unit) is not int or not 0 <= unit <= MOST_UNITS:
        raise _BadEntryError("unit", unit=clipped(str(unit)), most=MOST_UNITS)
    for name, least in (("id", 1), ("build", 1), ("step", 0)):
        word = plain[name]
        if not isinstance(word, str) or not least <= len(word) <= MOST_WORD or not word.isprintable():
            raise _BadEntryError("word", name=name, least=least, most=MOST_WORD)
    if not isinstance(plain["data"], dict):
        raise _BadEntryError("nothing")
    if len(json.dumps(plain["data"])) > MOST_EVENT:
        raise _BadEntryError("long")
    _whole(plain["data"], 0)
    return event(plain["id"], plain["build"], at_ms, plain["kind"], unit, plain["step"], plain["data"])


def _whole(value: object, depth: int) -> None:
    """That every figure is finite, every text can be written down, and nothing is nested deeper than an act is."""
    if depth > MOST_DEPTH:
        raise _BadEntryError("deep")
    if isinstance(value, float) and not math.isfinite(value):
        raise _BadEntryError("figure")
    if isinstance(value, int) and abs(value) > MOST_INTEGER:
        raise _BadEntryError("beyond")
    if isinstance(value, str):
        try:
            value.encode("utf-8")
        except UnicodeEncodeError:
            raise _BadEntryError("letter") from None
    for one in [*value, *value.values()] if isinstance(value, dict) else value if isinstance(value, list) else []:
        _whole(one, depth + 1)


class _BadSignatureError(Exception):
    """A signature that isn't that key's over what is before it."""


def _take_input(found: StationLog, plain: dict[str, str]) -> None:
    text = zlib.decompressobj().decompress(base64.b64decode(plain["body"], validate=True), MOST_INPUT)
    said = text.decode("utf-8", "surrogatepass")
    if digest_of(said) != plain["input"]:
        raise ValueError("not the text of this digest")
    found.inputs[plain["input"]] = said


def _take_signature(
    found: StationLog, said: dict[str, object], harness: str, count: int, before: str, line: int
) -> None:
    from umber_trunk.store.station import signed_well

    key, entries, seal, signature = str(said["key"]), int(str(said["entries"])), str(said["seal"]), str(said["signature"])  # fmt: skip
    if (entries, seal) != (count, before) or not signed_well(key, harness, entries, seal, "sitting", signature):
        raise _BadSignatureError
    found.signatures.append((line, len(found.events), key, pictured(str(said.get("name", "")))[:80]))
