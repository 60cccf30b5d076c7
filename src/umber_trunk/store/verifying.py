"""An earlier certificate or seal held against the log as it is, and what was done about a station's key."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from umber_trunk.core.errors import InputError
from umber_trunk.core.keep.seals import FIRST
from umber_trunk.core.kept_words import name_kept, said_kept
from umber_trunk.core.make.events import Event, KeyAct
from umber_trunk.core.moments import moment
from umber_trunk.core.sentences import Message
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.files import StoreError, read_text
from umber_trunk.store.floor import SHOP
from umber_trunk.store.found_units import kept_unit
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.station import know

MOST_CERTIFICATE = 50_000_000
KEPT = ("readings", "tests", "defects", "remakes", "scrapped", "found")


def against_seal(project: ProjectFile, number: int, seal: str) -> list[Message]:
    """What speaks against an entry having had this seal, [] where it still has. A log that was cut has no such
    entry."""
    here = project.floor.said_at(number) if number else (FIRST, None)
    if here is None:
        return [Message.of("trust.then-there", entry=number, seal=seal[:12])]
    if here[0] != seal.lower():
        return [Message.of("trust.then-sealed", entry=number, seal=seal[:12], now=here[0][:12])]
    return []


def against_certificate(project: ProjectFile, path: Path) -> list[Message]:
    """What of a certificate the log doesn't hold any more. StoreError for what is none."""
    try:
        data = json.loads(read_text(path, MOST_CERTIFICATE))
        number, seal, name = int(data["log_entries"]), str(data["seal"]), f"{data['build']}/{int(data['unit'])}"
        held = {kind: list(data[kind]) for kind in KEPT}
    except (ValueError, KeyError, TypeError, RecursionError) as why:
        raise StoreError.of("store.no-certificate-it-is-read", path=path.name) from why
    found = against_seal(project, number, seal)
    try:
        record = kept_unit(project, name)
    except StoreError:
        return [*found, Message.of("trust.then-unit", name=name)]
    events = [one for one in project.floor.events(record.build) if one.unit in (0, record.unit)]
    now = {_key(one.at_ms, one.step, dict(one.data)): one for one in events}
    for kind, rows in held.items():
        for row in rows:
            at, step = row.pop("at_ms", 0), row.pop("step", "")
            if _key(at, step, row) not in now:
                near = next((one for one in events if (one.at_ms, one.step) == (at, step)), None)
                entry, at_then = (near.n, "") if near is not None else (0, moment(int(at)))
                found.append(Message.of("trust.then-entry", entry=entry, moment=at_then, kind=kind, brief=_brief(row)))
    if data.get("proven") and record.proven is None:
        who = str(data["proven"].get("who", "?"))
        found.append(Message.of("trust.then-proven", unit=record.name, who=who, now=record.why or record.state))
    return found


def _key(at_ms: Any, step: Any, data: dict[str, Any]) -> str:
    return json.dumps([at_ms, step, data], sort_keys=True)


def _brief(row: dict[str, Any]) -> str:
    return ", ".join(
        f"{name} {row[name]}"
        for name in ("kind", "what", "n", "value", "unit", "says")
        if row.get(name) not in (None, "")
    )[:120]


def note_key(project: ProjectFile | None, act: str, key: str, name: str, who: str, why: str) -> None:
    """Notes what was done about a station's key, in the file's log where one is named, and among the stations this user
    knows. InputError for what is no key, and for words longer than are kept."""
    if len(key) != 64 or any(mark not in "0123456789abcdef" for mark in key):
        raise InputError.of("store.stations-key-is-letters-and-figures")
    name, who, why = name_kept(name), name_kept(who), said_kept(why)
    if project is None:
        know(key, f"{name} (lost)" if act == "lost" else name)
        return
    said = KeyAct.model_validate({"act": act, "key": key, "name": name, "who": who, "why": why})
    project.floor.append_with([Event(new_id(), SHOP, now_ms(), said)], (), "key")
