"""What is whole of a damaged shop's file, read off its pages without SQLite: rows whose seal holds, and those of the
log of changes where a row itself is lost."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

from umber_trunk.core.sentences import Message
from umber_trunk.core.shop.things import KINDS
from umber_trunk.store import database
from umber_trunk.store.database import hardened
from umber_trunk.store.files import SHELF_ID, StoreError
from umber_trunk.store.pages import Pages, Row
from umber_trunk.store.stock import SHOP_TABLES, SHOP_VERSION

_ITEM, _ACT = (str, str, str, str), (type(None), str, int, str, str, str)
_BOOKING, _COIL = (str, str, int, str), (str, str)


def seal_of(kind: str, name: str, body: str) -> str:
    """What tells a row that is whole from one that isn't."""
    return hashlib.blake2b("\0".join((kind, name, body)).encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()


def holds_shop(data: bytes) -> bool:
    """Whether a row of a shop's list is in a file, whatever its head says."""
    return any(
        tuple(map(type, row.values)) == _ITEM and seal_of(*map(str, row.values[:3])) == row.values[3]
        for row in Pages(data).rows()
    )


def _sound(data: bytes) -> bool:
    db = sqlite3.connect(":memory:")
    try:
        db.deserialize(data)
        return bool(hardened(db).execute("PRAGMA quick_check(1)").fetchone()[0] == "ok")
    except (sqlite3.Error, UnicodeDecodeError, TypeError):
        return False
    finally:
        db.close()


def salvaged_shop(data: bytes, name: str) -> tuple[sqlite3.Connection, list[Message]]:
    """(a database in memory with all that is whole, what is lost). StoreError where nothing of it is a
    shop's."""
    rows = _by_shape(data)
    acts = {row.rowid: row.values for row in rows[_ACT]}
    latest, lost = _told_by_log(acts)
    items = {
        (str(kind), str(key)): str(body)
        for kind, key, body, seal in (row.values for row in rows[_ITEM])
        if kind in KINDS and seal_of(str(kind), str(key), str(body)) == seal
    }
    from_log = [key for key, row in latest.items() if row is not None and key not in items and key[0] in KINDS]
    items |= {key: json.dumps(latest[key], ensure_ascii=False) for key in from_log}
    coils = {str(row.values[0]): str(row.values[1]) for row in rows[_COIL] if str(row.values[1]).startswith("{")}
    if not items and not coils:
        raise StoreError.of("store.nothing-in-is-part-of-shops", name=name)
    if gaps := sorted(set(range(1, max(acts, default=0) + 1)) - set(acts)):
        lost.append(Message.of("lost.changes", many=len(gaps), first=gaps[0]))
    if from_log:
        lost.append(Message.of("lost.rows", many=len(from_log)))
    if not _sound(data):
        lost.append(Message.of("lost.damaged"))
    db = sqlite3.connect(":memory:", isolation_level=None)
    for statement in SHOP_TABLES.values():
        db.execute(statement)
    db.execute(f"PRAGMA application_id = {SHELF_ID}")
    db.execute(f"PRAGMA user_version = {SHOP_VERSION}")
    db.executemany(
        "INSERT INTO item VALUES (?, ?, ?, ?)", [(*key, body, seal_of(*key, body)) for key, body in items.items()]
    )
    db.executemany("INSERT OR IGNORE INTO act VALUES (?, ?, ?, ?, ?, ?)", [(n, *acts[n][1:]) for n in sorted(acts)])
    db.executemany("INSERT INTO coil VALUES (?, ?)", coils.items())
    db.executemany("INSERT OR IGNORE INTO booking VALUES (?, ?, ?, ?)", [row.values for row in rows[_BOOKING]])
    found = hardened(db)
    database.at_ease(found)
    return found, lost


def _by_shape(data: bytes) -> dict[tuple[type, ...], list[Row]]:
    """Rows by the table they are of, which their shape tells."""
    shapes: dict[tuple[type, ...], list[Row]] = {_ITEM: [], _ACT: [], _BOOKING: [], _COIL: []}
    for row in Pages(data).rows():
        kinds = tuple(type(value) for value in row.values)
        if kinds in shapes:
            shapes[kinds].append(row)
    return shapes


def _told_by_log(acts: Mapping[int, Sequence[Any]]) -> tuple[dict[tuple[str, str], Any], list[Message]]:
    """(each row as the last change of it that can be read left it, None where it was taken out; what can't be)."""
    latest: dict[tuple[str, str], Any] = {}
    lost = list[Message]()
    for number in sorted(acts):
        try:
            plain = json.loads(str(acts[number][4]))
            latest[str(plain["kind"]), str(plain["id"])] = plain["row"]
        except (ValueError, KeyError, TypeError):
            lost.append(Message.of("lost.change", number=number))
    return latest, lost
