"""Another station's log: one JSON object a line, beside the harness file; merged by adding.

Lines are events, texts that builds were frozen with, and signatures over all lines before.
"""

from __future__ import annotations

import base64
import hashlib
import json
import os
import zlib
from dataclasses import dataclass, field
from pathlib import Path

from umber_trunk.core.keep.seals import FIRST
from umber_trunk.core.make.events import Event, event
from umber_trunk.core.text import digest_of
from umber_trunk.store.files import StoreError, read_text
from umber_trunk.store.floor import MOST_INPUT

MOST_LOG = 200_000_000


@dataclass
class StationLog:
    """What a station logged: events; texts by digest; `signed` of the events are covered by a signature, the last by `key` of a station that
    calls itself `name`. `faults` say which lines are none."""

    events: list[Event] = field(default_factory=list)
    inputs: dict[str, str] = field(default_factory=dict)
    signed: int = 0
    key: str = ""
    name: str = ""
    faults: list[str] = field(default_factory=list)


def station_path(harness: Path, station: str) -> Path:
    """Where a second station logs: beside the harness file, under its own name."""
    safe = "".join(mark for mark in station if mark.isalnum() or mark in "-_")[:40] or "station"
    return harness.with_name(f"{harness.stem}.{safe}.log.jsonl")


def add_line(path: Path, one: Event) -> None:
    """Adds an event to a station's log, on disk on return. A line that a power cut left half is ended first."""
    _add(path, {"id": one.id, "build": one.build, "at_ms": one.at_ms, "kind": one.kind, "unit": one.unit, "step": one.step, "data": dict(one.data)})  # fmt: skip


def add_input(path: Path, text: str) -> None:
    """Adds a text that a build is frozen with."""
    packed = base64.b64encode(zlib.compress(text.encode("utf-8", "surrogatepass"), 6)).decode()
    _add(path, {"input": digest_of(text), "body": packed})


def sign_lines(path: Path, harness: str) -> None:
    """This station's signature over all lines so far."""
    from umber_trunk.store.station import this_station

    station, (entries, seal) = this_station(), _chain(read_text(path, MOST_LOG).split("\n"))
    _add(path, {"signed": {"key": station.key, "name": station.name, "entries": entries, "seal": seal, "signature": station.sign(harness, entries, seal, "sitting")}})  # fmt: skip


def _chain(lines: list[str]) -> tuple[int, str]:
    """(lines, the last one's seal) of lines that aren't blank."""
    count, before = 0, FIRST
    for line in lines:
        if line.strip():
            count, before = count + 1, _sealed(before, line)
    return count, before


def _sealed(before: str, line: str) -> str:
    return hashlib.sha256(f"{before}\n{line}".encode("utf-8", "surrogatepass")).hexdigest()


def _add(path: Path, data: object) -> None:
    line = json.dumps(data, ensure_ascii=False, allow_nan=False)
    try:
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o644)
        try:
            size = os.fstat(handle).st_size
            whole = size == 0 or os.pread(handle, 1, size - 1) == b"\n"
            os.write(handle, (b"" if whole else b"\n") + line.encode() + b"\n")
            os.fsync(handle)
        finally:
            os.close(handle)
    except OSError as why:
        raise StoreError(f"{path.name} can't be written: {(why.strerror or 'a fault').lower()}.") from why


def read_lines(path: Path, harness: str = "") -> StationLog:
    """A station's log; a last line cut off by a power cut is no fault, it never was logged. Signatures are looked at where the harness they are
    over is said."""
    lines = read_text(path, MOST_LOG).split("\n")
    found = StationLog()
    count, before = 0, FIRST
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            plain = json.loads(line)
            if "input" in plain:
                _take_input(found, plain)
            elif "signed" in plain:
                if harness:
                    _take_signature(found, plain["signed"], harness, count, before)
            else:
                if not plain["id"] or not plain["build"]:
                    raise ValueError("nothing to know it by")
                found.events.append(event(str(plain["id"]), str(plain["build"]), int(plain["at_ms"]), plain["kind"], int(plain["unit"]), str(plain["step"]), plain["data"]))  # fmt: skip
        except _BadSignatureError:
            found.faults.append(f"line {number}: a signature that doesn’t hold: what is before it was written anew")
        except (ValueError, TypeError, KeyError, AttributeError, zlib.error, RecursionError):
            if number < len(lines):
                found.faults.append(f"line {number}: not an entry of a log")
        count, before = count + 1, _sealed(before, line)
    return found


class _BadSignatureError(Exception):
    """A signature that isn't that key's over what is before it."""


def _take_input(found: StationLog, plain: dict[str, str]) -> None:
    text = zlib.decompressobj().decompress(base64.b64decode(plain["body"], validate=True), MOST_INPUT)
    said = text.decode("utf-8", "surrogatepass")
    if digest_of(said) != plain["input"]:
        raise ValueError("not the text of this digest")
    found.inputs[plain["input"]] = said


def _take_signature(found: StationLog, said: dict[str, object], harness: str, count: int, before: str) -> None:
    from umber_trunk.store.station import signed_well

    key, entries, seal, signature = str(said["key"]), int(str(said["entries"])), str(said["seal"]), str(said["signature"])  # fmt: skip
    if (entries, seal) != (count, before) or not signed_well(key, harness, entries, seal, "sitting", signature):
        raise _BadSignatureError
    found.signed, found.key, found.name = len(found.events), key, str(said.get("name", ""))[:80]
