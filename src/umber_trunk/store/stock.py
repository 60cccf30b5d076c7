"""Coils and counted parts on disk, inside a harness file or in the shop's own shelf file, and what is booked on them.

    coil C12   ├───────── length as counted ─────────┤
               ├─ booked ─┼─ booked ─┼──── left ─────┤      each booking under the id of the event that took it

What is left is the length less all that is booked. An undo takes just its own booking back; counting anew begins with
none. Lengths are booked in tenths of a millimetre, rounded up, so that no coil is ever longer on paper.
"""

from __future__ import annotations

import json
import sqlite3
import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from umber_trunk.core.errors import clipped
from umber_trunk.core.kit.coils import TENTHS, Coil
from umber_trunk.core.make.events import Done, Event, Undo
from umber_trunk.store import database, schema
from umber_trunk.store.database import Transaction, hardened
from umber_trunk.store.files import SHELF_ID, StoreError, damaged, ordinary, put_whole

SHELF_TABLES = {name: schema.FLOOR[name] for name in ("coil", "booking")}
SHOP_VERSION = 2
SHOP_TABLES = SHELF_TABLES | schema.SHOP
"""A shelf file of version 2 is the shop's file, with its lists."""
PART = "part "
"""Before the id of a part among the coils; no coil's name may begin so."""


@dataclass(frozen=True)
class Held:
    """A coil as it lies on the shelf: as it was listed, and what is left of it."""

    coil: Coil
    left_m: float
    cuts: int

    @property
    def now(self) -> Coil:
        """The coil with what is left."""
        return Coil(self.coil.id, self.coil.size, self.left_m, self.coil.metal, self.coil.colour)


class Stock:
    """Coils and parts in an open database. What can't be written is a StoreError with the reason."""

    def __init__(
        self, db: sqlite3.Connection, path: Path, why_read_only: str = "", guard: database.Guard | None = None
    ) -> None:
        self._db, self.path, self.why_read_only, self._guard = db, path, why_read_only, guard

    def coils(self) -> list[Held]:
        """All coils with what is left of each, in the order of their names."""
        with self._reading():
            rows = self._db.execute(
                "SELECT coil.id, coil.body, (SELECT sum(tenths) FROM booking WHERE booking.coil = coil.id), "
                "(SELECT count(*) FROM booking WHERE booking.coil = coil.id) FROM coil ORDER BY coil.id"
            ).fetchall()
        return [_held(self.path.name, *row) for row in rows if not str(row[0]).startswith(PART)]

    def parts(self) -> dict[str, float]:
        """Parts on the shelf: how many of each, or how many metres, by its id in the catalogue; those crimped since
        they were counted are gone."""
        with self._reading():
            rows = self._db.execute("SELECT id, body FROM coil ORDER BY id").fetchall()
            used = dict(self._db.execute("SELECT coil, sum(tenths) FROM booking GROUP BY coil").fetchall())
        try:
            return {
                str(name)[len(PART) :]: max(float(json.loads(body)["count"]) - used.get(name, 0) / TENTHS, 0.0)
                for name, body in rows
                if str(name).startswith(PART)
            }
        except (ValueError, TypeError, KeyError) as why:
            raise damaged(self.path.name, "parts") from why

    def put_parts(self, counts: Mapping[str, float]) -> None:
        """Parts as counted just now, in place of all counts before: what was booked on them is in the count."""
        self._may_write()
        since = time.time_ns() // 1_000_000
        with Transaction(self._db, self.path, self._guard):
            for name in self._part_names():
                self._db.execute("DELETE FROM coil WHERE id = ?", (name,))
                self._db.execute("DELETE FROM booking WHERE coil = ?", (name,))
            for name, count in counts.items():
                body = json.dumps({"count": count, "since": since})
                self._db.execute("INSERT INTO coil VALUES (?, ?)", (f"{PART}{name}", body))

    def count_parts(self, counts: Mapping[str, float], more: bool = False) -> dict[str, float]:
        """These parts as counted just now, all others left as they are; `more`: so many came to those that are there.
        How many of each there are."""
        self._may_write()
        fresh: dict[str, float] = {"count": 0.0, "since": time.time_ns() // 1_000_000}
        with Transaction(self._db, self.path, self._guard):
            for name, count in counts.items():
                row = self._db.execute("SELECT body FROM coil WHERE id = ?", (f"{PART}{name}",)).fetchone()
                body = json.loads(row[0]) if more and row is not None else fresh
                if body is fresh:  # what was booked before is in the count; what comes leaves it as it is
                    self._db.execute("DELETE FROM booking WHERE coil = ?", (f"{PART}{name}",))
                told = json.dumps(body | {"count": float(body["count"]) + count})
                self._db.execute("INSERT OR REPLACE INTO coil VALUES (?, ?)", (f"{PART}{name}", told))
            there = self.parts()
        return {name: there[name] for name in counts}

    def _part_names(self) -> list[str]:
        rows = self._db.execute("SELECT id FROM coil").fetchall()
        return [str(row[0]) for row in rows if str(row[0]).startswith(PART)]

    def put_coils(self, coils: Sequence[Coil], at_ms: int, replace: bool = False) -> None:
        """Coils as counted just now: what was booked on them before is in the count. `replace`: all others are gone."""
        self._may_write()
        with Transaction(self._db, self.path, self._guard):
            if replace:
                kept = self._part_names()
                for row in self._db.execute("SELECT id FROM coil").fetchall():
                    if str(row[0]) not in kept:
                        self._db.execute("DELETE FROM coil WHERE id = ?", (row[0],))
                        self._db.execute("DELETE FROM booking WHERE coil = ?", (row[0],))
            for coil in coils:
                body = {"size": coil.size, "length_m": coil.length_m, "metal": coil.metal, "colour": coil.colour, "since": at_ms}  # fmt: skip
                self._db.execute("DELETE FROM booking WHERE coil = ?", (coil.id,))
                self._db.execute("INSERT OR REPLACE INTO coil VALUES (?, ?)", (coil.id, json.dumps(body)))

    def book(self, cuts: Iterable[tuple[str, str, float, int, str]]) -> None:
        """Cuts off coils: (event id, coil, metres, when, what). One booked already, or from before the coil was
        counted, or of a coil that isn't here, changes nothing."""
        self._may_write()
        with Transaction(self._db, self.path, self._guard):
            for event_id, coil, metres, at_ms, what in cuts:
                row = self._db.execute("SELECT body FROM coil WHERE id = ?", (coil,)).fetchone()
                if row is None or int(json.loads(row[0]).get("since", 0)) > at_ms:
                    continue
                tenths = -int(-metres * TENTHS // 1)
                self._db.execute(
                    "INSERT OR IGNORE INTO booking VALUES (?, ?, ?, ?)", (event_id, coil, tenths, what[:200])
                )

    def unbook(self, event_ids: Iterable[str]) -> None:
        """Cuts that were undone: the length is back on its coil."""
        self._may_write()
        with Transaction(self._db, self.path, self._guard):
            self._db.executemany("DELETE FROM booking WHERE id = ?", [(one,) for one in event_ids])

    def booked(self) -> set[str]:
        """Ids of all bookings."""
        with self._reading():
            return {str(row[0]) for row in self._db.execute("SELECT id FROM booking")}

    def _may_write(self) -> None:
        if self.why_read_only:
            raise StoreError.of("store.cant-be-changed", path=self.path.name, why_read_only=self.why_read_only)

    @contextmanager
    def _reading(self) -> Iterator[None]:
        try:
            yield
        except sqlite3.Error as why:
            raise StoreError.of("store.cant-be-read-just-now", path=self.path.name, why=why) from why


def keep_booked(stock: Stock, events: Sequence[Event], parts: Mapping[str, str] | None = None) -> None:
    """Brings the shelf to what the log says: every cut that stands is booked, and every one of the `parts` that a step,
    by its key, takes off the shelf; what was undone is not. Does no harm twice."""
    undone = {act.of for one in events if isinstance(act := one.act, Undo)}
    cuts = [cut for cut in taken_off(events, parts or {}) if cut[0] not in undone]
    known = stock.booked()
    if fresh := [cut for cut in cuts if cut[0] not in known]:
        stock.book(fresh)
    if gone := known & undone:
        stock.unbook(gone)


def taken_off(events: Iterable[Event], parts: Mapping[str, str]) -> list[tuple[str, str, float, int, str]]:
    """(event id, coil or part, metres or pieces, when, what) of all that steps took off the shelf."""
    found = []
    for one in events:
        if isinstance(act := one.act, Done):
            if act.coil:
                found.append((one.id, act.coil, act.coil_m, one.at_ms, f"{act.wire} unit {one.unit}"))
            elif one.step in parts:
                found.append((one.id, f"{PART}{parts[one.step]}", 1.0, one.at_ms, f"{one.step} of {one.build}"))
    return found


def _held(name: str, coil: Any, body: Any, tenths: Any, cuts: Any) -> Held:
    try:
        plain = json.loads(body)
        one = Coil(str(coil), str(plain["size"]), float(plain["length_m"]), str(plain["metal"]), str(plain["colour"]))
    except (ValueError, TypeError, KeyError) as why:
        raise damaged(name, "coil", coil=clipped(str(coil))) from why
    return Held(one, max(round(one.length_m - (tenths or 0) / TENTHS, 4), 0.0), int(cuts))


@contextmanager
def shelf_file(path: Path, make: bool = False) -> Iterator[Stock]:
    """The shop's own shelf beside the harness files; made first where asked for and nothing is there. StoreError for
    what is none."""
    if make and not path.exists():
        put_whole(path, _new_shelf(), fresh=True)
    database_path = path.absolute()
    try:
        if ordinary(path) < database.SMALLEST:  # not opened: this process may be writing it just now
            raise StoreError.of("store.no-shelf-file", path=path.name)
        db = hardened(
            sqlite3.connect(
                f"{database_path.as_uri()}?mode=rw", uri=True, isolation_level=None, timeout=database.WAIT_S
            )
        )
    except (sqlite3.Error, UnicodeDecodeError) as why:
        if getattr(why, "sqlite_errorcode", 0) == sqlite3.SQLITE_NOTADB:
            raise StoreError.of("store.no-shelf-file", path=path.name) from why
        raise StoreError.of("store.cant-be-opened", path=path.name, why=why) from why
    try:
        _check_shelf(db, path)
        yield Stock(db, path)
    except (sqlite3.DatabaseError, UnicodeDecodeError) as why:
        raise damaged(path.name, "as-told", why=str(why)) from why
    finally:
        db.close()


def _new_shelf() -> bytes:
    db = sqlite3.connect(":memory:", isolation_level=None)
    try:
        for statement in SHELF_TABLES.values():
            db.execute(statement)
        db.execute(f"PRAGMA application_id = {SHELF_ID}")
        db.execute("PRAGMA user_version = 1")
        return db.serialize()
    finally:
        db.close()


def _check_shelf(db: sqlite3.Connection, path: Path) -> None:
    if db.execute("PRAGMA application_id").fetchone()[0] != SHELF_ID:
        raise StoreError.of("store.no-shelf-file", path=path.name)
    version = db.execute("PRAGMA user_version").fetchone()[0]
    if version not in (1, SHOP_VERSION):
        raise StoreError.of("store.was-made-by-newer-umber-trunk", path=path.name)
    found = {
        str(name): str(sql)
        for kind, name, sql in db.execute("SELECT type, name, sql FROM sqlite_master")
        if sql is not None
    }
    if found != (SHELF_TABLES if version == 1 else SHOP_TABLES):
        raise StoreError.of("store.strange-table-on-shelf", path=path.name)
