"""Entries of the log as rows: how each is written, sealed on the one before, and read."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import Any

from umber_trunk.core.errors import clipped
from umber_trunk.core.keep.marks import marks
from umber_trunk.core.keep.seals import FIRST, sealed
from umber_trunk.core.make.events import Act, Begin, Event, Note, Planned, act_of, event
from umber_trunk.core.make.unit_acts import Proof
from umber_trunk.store.files import StoreError, damaged

MOST_EVENT = 20_000


def add_sealed(db: sqlite3.Connection, name: str, rows: Iterable[tuple[str, str, int, str]]) -> int:
    """Adds entries (id, build, moment, body), each sealed on the one before, with the words their units are found by;
    those known are left out. How many were new. Inside a transaction of the caller's."""
    last = db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone()
    number, before = (int(last[0]), str(last[1])) if last else (0, FIRST)
    added = 0
    for event_id, build, made, body in rows:
        if db.execute("SELECT n FROM log WHERE id = ?", (event_id,)).fetchone() is not None:
            continue
        number, before = number + 1, sealed(before, event_id, build, made, body)
        try:
            one = read_event(name, event_id, build, made, body)
        except StoreError:  # of an old file: kept and sealed as it is, told where the log is read
            one = event(event_id, build, made, "note")
        db.execute(
            "INSERT INTO log VALUES (?, ?, ?, ?, ?, ?, ?)", (number, event_id, build, made, body, before, one.unit)
        )
        db.executemany("INSERT OR IGNORE INTO mark VALUES (?, ?, ?)", [(word, build, one.unit) for word in marks(one)])
        added += 1
    if added:
        db.execute("INSERT OR REPLACE INTO state VALUES ('sealed', ?)", (sealed_state(number, before),))
    return added


def texts_named(act: Act) -> list[str]:
    """Digests of the texts that an act names."""
    match act:
        case Begin() | Planned():
            found = [act.design, act.order]
        case Proof():
            found = [act.tests]
        case Note():
            found = [act.picture]
        case _:
            found = []
    return [one for one in found if one]


def sealed_state(entries: int, seal: str) -> str:
    """How far the log is sealed, as the state of a file keeps it."""
    return f"{entries} {seal}"


def body_of(event: Event) -> str:
    """What is written of an entry; StoreError for one that is too long."""
    body = json.dumps({"kind": event.kind, "unit": event.unit, "step": event.step, "data": dict(event.data)}, ensure_ascii=False, allow_nan=False)  # fmt: skip
    if len(body) > MOST_EVENT:
        raise StoreError.of("store.entry-of-log-is-longer")
    return body


def read_event(name: str, event_id: Any, build: Any, made: Any, body: Any, n: int = 0) -> Event:
    """An entry of the log from its columns. StoreError, with the name of the file, for one that can't be read."""
    try:
        plain = json.loads(body)
        return Event(
            str(event_id),
            str(build),
            int(made),
            act_of(plain["kind"], plain["data"]),
            int(plain["unit"]),
            str(plain["step"]),
            n,
        )
    except (ValueError, TypeError, KeyError) as why:
        raise damaged(name, "entry", id=clipped(str(event_id))) from why
