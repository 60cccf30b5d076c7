"""The shop floor on disk: the log of builds and the coils, inside a harness file or in the shop's own shelf file.

The log is sealed entry on entry and only ever added to, each event under an id of its own, so that reading it twice or merging another station's
adds nothing twice. A coil's rest is its length less what is booked on it; each cut books under its event's id, each undo takes
just that booking back.
"""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from umber_trunk.core.keep.record import marks
from umber_trunk.core.keep.seals import FIRST, broken_at, sealed
from umber_trunk.core.kit.coils import TENTHS, Coil
from umber_trunk.core.make.entries import checked
from umber_trunk.core.make.events import Event
from umber_trunk.store import database
from umber_trunk.store.database import Transaction, hardened
from umber_trunk.store.files import SQLITE_HEAD, StoreError, damaged, put_whole, read_text

SHELF_ID = 0x55547368
"""Application id of a shelf file ("UTsh")."""
SHELF_TABLES = {name: database.FLOOR[name] for name in ("coil", "booking")}
PART = "part "
"""Before the id of a part among the coils; no coil's name may begin so."""
MOST_EVENT = 20_000
MOST_LOG = 200_000_000


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


class Floor:
    """Log and coils in an open database. What can't be written is a StoreError with the reason."""

    def __init__(self, db: sqlite3.Connection, path: Path, why_read_only: str = "") -> None:
        self._db, self.path, self.why_read_only = db, path, why_read_only

    # the log

    def events(self, build: str = "") -> list[Event]:
        """Everything logged, of one build or of all, in the order of logging."""
        where, values = ("WHERE build = ?", (build,)) if build else ("", ())
        with self._reading():
            rows = self._db.execute(f"SELECT id, build, made, body FROM log {where} ORDER BY n", values).fetchall()
        return [_event(self.path.name, *row) for row in rows]

    def events_of(self, build: str, units: Collection[int]) -> list[Event]:
        """What was logged of some units of a build, and of all its units together; everything, where 0 is among them."""
        if 0 in units:
            return self.events(build)
        with self._reading():
            rows = [
                row
                for unit in sorted({0, *units})
                for row in self._db.execute(
                    "SELECT n, id, build, made, body FROM log WHERE build = ? AND unit = ?", (build, unit)
                )
            ]
        return [_event(self.path.name, *row[1:]) for row in sorted(rows)]

    def builds(self) -> list[Event]:
        """The event that began each build, oldest first."""
        with self._reading():
            rows = self._db.execute(
                "SELECT id, build, made, body FROM log WHERE n IN (SELECT min(n) FROM log GROUP BY build) ORDER BY n"
            ).fetchall()
        return [one for row in rows if (one := _event(self.path.name, *row)).kind == "begin"]

    def append(self, events: Iterable[Event]) -> int:
        """Adds events, on disk on return; those known already are left out. How many were new."""
        rows = [(one.id, one.build, one.at_ms, _body(one)) for one in events]
        self._may_write()
        with Transaction(self._db, self.path):
            return add_sealed(self._db, self.path.name, rows)

    def seal(self) -> tuple[int, str]:
        """(entries, the last one's seal): what a certificate names, so that a log cut off at its end shows too."""
        with self._reading():
            row = self._db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone()
        return (int(row[0]), str(row[1])) if row else (0, FIRST)

    def broken(self) -> str:
        """What is wrong with the chain of seals, "" while every entry is as it was sealed and none is missing."""
        with self._reading():
            rows = self._db.execute("SELECT id, build, made, body, seal FROM log ORDER BY n").fetchall()
            kept = self._db.execute("SELECT value FROM state WHERE name = 'sealed'").fetchone()
        number = broken_at(tuple(row) for row in rows)
        if number is not None:
            return f"entry {number} of the log isn’t what was written: it or one before it was changed or taken out"
        if kept is not None and str(kept[0]) != _sealed_state(len(rows), str(rows[-1][4]) if rows else FIRST):
            return f"the log doesn’t end as it did: entries were taken from its end or put there by another hand ({len(rows)} are here)"
        return ""

    def units(self, words: str, begins: bool = False) -> list[tuple[str, int]]:
        """(build, unit) of every unit that these words lead to, such as “coil C12”, or that words which begin so do; unit 0 for a whole build. What
        was taken back leads there too: the log is only added to."""
        said = " ".join(words.lower().split())
        question, values = ("word >= ? AND word < ?", (said, said + "\uffff")) if begins else ("word = ?", (said,))
        with self._reading():
            rows = self._db.execute(f"SELECT DISTINCT build, unit FROM mark WHERE {question}", values).fetchall()
        return sorted({(str(build), int(unit)) for build, unit in rows})

    # coils

    def coils(self) -> list[Held]:
        """All coils with what is left of each, in the order of their names."""
        with self._reading():
            rows = self._db.execute(
                "SELECT coil.id, coil.body, (SELECT sum(tenths) FROM booking WHERE booking.coil = coil.id), "
                "(SELECT count(*) FROM booking WHERE booking.coil = coil.id) FROM coil ORDER BY coil.id"
            ).fetchall()
        return [_held(self.path.name, *row) for row in rows if not str(row[0]).startswith(PART)]

    def parts(self) -> dict[str, float]:
        """Parts on the shelf: how many of each, or how many metres, by its id in the catalogue."""
        with self._reading():
            rows = self._db.execute("SELECT id, body FROM coil ORDER BY id").fetchall()
        try:
            return {
                str(name)[len(PART) :]: float(json.loads(body)["count"])
                for name, body in rows
                if str(name).startswith(PART)
            }
        except (ValueError, TypeError, KeyError) as why:
            raise damaged(self.path.name, "a count of parts can't be read") from why

    def put_parts(self, counts: Mapping[str, float]) -> None:
        """Parts as counted just now, in place of all counts before."""
        self._may_write()
        with Transaction(self._db, self.path):
            for name in self._part_names():
                self._db.execute("DELETE FROM coil WHERE id = ?", (name,))
            for name, count in counts.items():
                self._db.execute("INSERT INTO coil VALUES (?, ?)", (f"{PART}{name}", json.dumps({"count": count})))

    def _part_names(self) -> list[str]:
        rows = self._db.execute("SELECT id FROM coil").fetchall()
        return [str(row[0]) for row in rows if str(row[0]).startswith(PART)]

    def put_coils(self, coils: Sequence[Coil], at_ms: int, replace: bool = False) -> None:
        """Coils as counted just now: what was booked on them before is in the count. `replace`: all others are gone."""
        self._may_write()
        with Transaction(self._db, self.path):
            if replace:
                kept = self._part_names()
                for row in self._db.execute("SELECT id FROM coil").fetchall():
                    if str(row[0]) not in kept:
                        self._db.execute("DELETE FROM coil WHERE id = ?", (row[0],))
                self._db.execute("DELETE FROM booking")
            for coil in coils:
                body = {"size": coil.size, "length_m": coil.length_m, "metal": coil.metal, "colour": coil.colour, "since": at_ms}  # fmt: skip
                self._db.execute("DELETE FROM booking WHERE coil = ?", (coil.id,))
                self._db.execute("INSERT OR REPLACE INTO coil VALUES (?, ?)", (coil.id, json.dumps(body)))

    def book(self, cuts: Iterable[tuple[str, str, float, int, str]]) -> None:
        """Cuts off coils: (event id, coil, metres, when, what). One booked already, or from before the coil was counted, or of a
        coil that isn't here, changes nothing."""
        self._may_write()
        with Transaction(self._db, self.path):
            for event_id, coil, metres, at_ms, what in cuts:
                row = self._db.execute("SELECT body FROM coil WHERE id = ?", (coil,)).fetchone()
                if row is None or int(json.loads(row[0]).get("since", 0)) > at_ms:
                    continue
                tenths = -int(-metres * TENTHS // 1)
                self._db.execute("INSERT OR IGNORE INTO booking VALUES (?, ?, ?, ?)", (event_id, coil, tenths, what[:200]))  # fmt: skip

    def unbook(self, event_ids: Iterable[str]) -> None:
        """Cuts that were undone: the length is back on its coil."""
        self._may_write()
        with Transaction(self._db, self.path):
            self._db.executemany("DELETE FROM booking WHERE id = ?", [(one,) for one in event_ids])

    def booked(self) -> set[str]:
        """Ids of all bookings."""
        with self._reading():
            return {str(row[0]) for row in self._db.execute("SELECT id FROM booking")}

    @property
    def shelf_path(self) -> Path | None:
        """The shop's shelf file that this harness is cut from; None while its coils are kept inside."""
        with self._reading():
            row = self._db.execute("SELECT value FROM state WHERE name = 'shelf'").fetchone()
        return (self.path.parent / str(row[0])).resolve() if row and row[0] else None

    def use_shelf(self, path: Path | None) -> None:
        """Another shelf file, or None for the coils inside."""
        self._may_write()
        said = "" if path is None else os.path.relpath(path.resolve(), self.path.resolve().parent)
        with Transaction(self._db, self.path):
            self._db.execute("INSERT OR REPLACE INTO state VALUES ('shelf', ?)", (said,))

    @contextmanager
    def shelf(self) -> Iterator[Floor]:
        """The coils in use: those inside, or those of the shelf file."""
        path = self.shelf_path
        if path is None:
            yield self
        else:
            with shelf_file(path) as other:
                yield other

    def _may_write(self) -> None:
        if self.why_read_only:
            raise StoreError(f"{self.path.name} can't be changed: {self.why_read_only}.")

    @contextmanager
    def _reading(self) -> Iterator[None]:
        try:
            yield
        except sqlite3.Error as why:
            raise StoreError(f"{self.path.name} can't be read just now: {why}.") from why


def add_sealed(db: sqlite3.Connection, name: str, rows: Iterable[tuple[str, str, int, str]]) -> int:
    """Adds entries (id, build, moment, body), each sealed on the one before, with the words their units are found by; those known are left
    out. How many were new. Inside a transaction of the caller's."""
    last = db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone()
    number, before = (int(last[0]), str(last[1])) if last else (0, FIRST)
    added = 0
    for event_id, build, made, body in rows:
        if db.execute("SELECT n FROM log WHERE id = ?", (event_id,)).fetchone() is not None:
            continue
        number, before = number + 1, sealed(before, event_id, build, made, body)
        try:
            event = _event(name, event_id, build, made, body)
        except StoreError:  # of an old file: kept and sealed as it is, told where the log is read
            event = Event(event_id, build, made, "note")
        db.execute(
            "INSERT INTO log VALUES (?, ?, ?, ?, ?, ?, ?)", (number, event_id, build, made, body, before, event.unit)
        )
        db.executemany(
            "INSERT OR IGNORE INTO mark VALUES (?, ?, ?)", [(word, build, event.unit) for word in marks(event)]
        )
        added += 1
    if added:
        db.execute("INSERT OR REPLACE INTO state VALUES ('sealed', ?)", (_sealed_state(number, before),))
    return added


def _sealed_state(entries: int, seal: str) -> str:
    return f"{entries} {seal}"


def keep_booked(floor: Floor, events: Sequence[Event]) -> None:
    """Brings the shelf to what the log says: every cut that stands is booked, every one undone is not. Does no harm twice."""
    undone = {str(one.data.get("of")) for one in events if one.kind == "undo"}
    cuts = [
        (one.id, str(one.data["coil"]), float(one.data["coil_m"]), one.at_ms, f"{one.data.get('wire', '')} unit {one.unit}")
        for one in events if one.kind == "done" and one.data.get("coil") and one.id not in undone
    ]  # fmt: skip
    known = floor.booked()
    if fresh := [cut for cut in cuts if cut[0] not in known]:
        floor.book(fresh)
    if gone := known & undone:
        floor.unbook(gone)


def _body(event: Event) -> str:
    body = json.dumps({"kind": event.kind, "unit": event.unit, "step": event.step, "data": dict(event.data)}, ensure_ascii=False, allow_nan=False)  # fmt: skip
    if len(body) > MOST_EVENT:
        raise StoreError("An entry of the log is longer than one can be; shorten its note.")
    return body


def _event(name: str, event_id: Any, build: Any, made: Any, body: Any) -> Event:
    try:
        plain = json.loads(body)
        checked(plain["kind"], plain["data"])
        return Event(str(event_id), str(build), int(made), plain["kind"], int(plain["unit"]), str(plain["step"]), plain["data"])  # fmt: skip
    except (ValueError, TypeError, KeyError) as why:
        raise damaged(name, f"an entry of its log can't be read ({str(event_id)[:40]})") from why


def _held(name: str, coil: Any, body: Any, tenths: Any, cuts: Any) -> Held:
    try:
        plain = json.loads(body)
        one = Coil(str(coil), str(plain["size"]), float(plain["length_m"]), str(plain["metal"]), str(plain["colour"]))
    except (ValueError, TypeError, KeyError) as why:
        raise damaged(name, f"coil {str(coil)[:40]} can't be read") from why
    return Held(one, max(round(one.length_m - (tenths or 0) / TENTHS, 4), 0.0), int(cuts))


@contextmanager
def shelf_file(path: Path, make: bool = False) -> Iterator[Floor]:
    """The shop's own shelf beside the harness files; made first where asked for and nothing is there. StoreError for what is none."""
    if make and not path.exists():
        put_whole(path, _new_shelf(), fresh=True)
    database_path = path.absolute()
    try:
        with path.open("rb") as handle:
            if not handle.read(16).startswith(SQLITE_HEAD[:16]):
                raise StoreError(f"{path.name} is no shelf file.")
        db = hardened(sqlite3.connect(f"{database_path.as_uri()}?mode=rw", uri=True, isolation_level=None, timeout=database.WAIT_S))  # fmt: skip
    except OSError as why:
        raise StoreError(f"{path} can't be read: {(why.strerror or 'a fault').lower()}.") from why
    except sqlite3.Error as why:
        raise StoreError(f"{path.name} can't be opened: {why}.") from why
    try:
        _check_shelf(db, path)
        yield Floor(db, path)
    except sqlite3.DatabaseError as why:
        raise damaged(path.name, str(why)) from why
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
        raise StoreError(f"{path.name} is no shelf file.")
    if db.execute("PRAGMA user_version").fetchone()[0] != 1:
        raise StoreError(f"{path.name} was made by a newer Umber Trunk; update the program to open it.")
    found = {str(name): str(sql) for kind, name, sql in db.execute("SELECT type, name, sql FROM sqlite_master") if sql is not None}  # fmt: skip
    if found != SHELF_TABLES:
        raise StoreError(f"{path.name} holds what is no part of a shelf file; nothing in it was run.")


# another station's log: one JSON object a line


def station_path(harness: Path, station: str) -> Path:
    """Where a second station logs: beside the harness file, under its own name."""
    safe = "".join(mark for mark in station if mark.isalnum() or mark in "-_")[:40] or "station"
    return harness.with_name(f"{harness.stem}.{safe}.log.jsonl")


def add_line(path: Path, event: Event) -> None:
    """Adds an event to a station's log, on disk on return. A line that a power cut left half is ended first."""
    line = json.dumps({"id": event.id, "build": event.build, "at_ms": event.at_ms, "kind": event.kind, "unit": event.unit, "step": event.step, "data": dict(event.data)}, ensure_ascii=False, allow_nan=False)  # fmt: skip
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


def read_lines(path: Path) -> tuple[list[Event], list[str]]:
    """(events, faults) of a station's log; a last line cut off by a power cut is no fault, it never was logged."""
    lines = read_text(path, MOST_LOG).split("\n")
    found, faults = [], []
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            plain = json.loads(line)
            if not plain["id"] or not plain["build"]:
                raise ValueError("nothing to know it by")
            checked(plain["kind"], plain["data"])
            found.append(Event(str(plain["id"]), str(plain["build"]), int(plain["at_ms"]), plain["kind"], int(plain["unit"]), str(plain["step"]), plain["data"]))  # fmt: skip
        except (ValueError, TypeError, KeyError):
            if number < len(lines):
                faults.append(f"line {number}: not an entry of a log")
    return found, faults


def times_of(events: Iterable[Event]) -> list[tuple[str, str, float]]:
    """(operation, tool, seconds) of steps that were done and not taken back."""
    rows = list(events)
    undone = {str(one.data.get("of")) for one in rows if one.kind == "undo"}
    found = []
    for one in rows:
        if one.kind == "done" and one.id not in undone:
            with suppress(TypeError, ValueError, KeyError):
                found.append((str(one.data["op"]), str(one.data.get("tool", "")), float(one.data["seconds"])))  # fmt: skip
    return found
