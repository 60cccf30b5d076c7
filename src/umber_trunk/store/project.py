"""The project file: one SQLite database with every revision of the design as JSON.

An edit is committed before it is shown. Undo and redo move `head` along the revisions and are as
durable as edits. One writer holds an advisory lock on the file; others are refused or read only.
"""

from __future__ import annotations

import fcntl
import os
import sqlite3
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError

from umber_trunk.core.errors import UmberError
from umber_trunk.core.harness.model import Design

APPLICATION_ID = 0x554D4254  # "UMBT"
SCHEMA_VERSION = 2
KEEP_REVISIONS = 200


class StoreError(UmberError):
    """The file can't be opened, read or written; the text says why and what to do."""


@dataclass(frozen=True)
class Revision:
    """One step of the history."""

    seq: int
    label: str


def _make_schema(db: sqlite3.Connection) -> None:
    db.execute("CREATE TABLE revision (seq INTEGER PRIMARY KEY, label TEXT NOT NULL, design TEXT NOT NULL)")
    db.execute("CREATE TABLE state (name TEXT PRIMARY KEY, value TEXT NOT NULL)")


def _add_state(db: sqlite3.Connection) -> None:
    """1 → 2: which revision is shown is stored, so that undo is as durable as an edit."""
    db.execute("CREATE TABLE state (name TEXT PRIMARY KEY, value TEXT NOT NULL)")
    db.execute("INSERT INTO state SELECT 'head', max(seq) FROM revision")


MIGRATIONS: dict[int, Callable[[sqlite3.Connection], None]] = {1: _add_state}
"""Schema version → the step to the next one."""


class ProjectFile:
    """An open project file. Use `create` or `open`; close it, or use it in a with statement.

    Attributes:
        path: where it is.
        design: the design at head.
        read_only: whether edits are refused, and if so `why_read_only` says why.
    """

    def __init__(self, path: Path, db: sqlite3.Connection, lock: int | None, why_read_only: str) -> None:
        self.path = path
        self._db = db
        self._lock = lock
        self.why_read_only = why_read_only
        self.head, self.design = self._load()

    @property
    def read_only(self) -> bool:
        """Whether edits are refused."""
        return bool(self.why_read_only)

    @classmethod
    def create(cls, path: Path, design: Design, label: str = "new harness") -> ProjectFile:
        """A new file with one revision; StoreError if something is there already."""
        if path.exists():
            raise StoreError(f"{path} exists already; choose another name.")
        try:
            os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o644))
        except OSError as why:
            raise StoreError(f"{path} can't be made: {why.strerror}.") from why
        lock, _ = _locked(path)
        db = _connected(path, writable=True)
        with _transaction(db):
            _make_schema(db)
            db.execute("INSERT INTO revision VALUES (1, ?, ?)", (label, design.model_dump_json()))
            db.execute("INSERT INTO state VALUES ('head', '1')")
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
        return cls(path, db, lock, "")

    @classmethod
    def open(cls, path: Path, for_writing: bool = True) -> ProjectFile:
        """Opens and checks a file; an old one is migrated. StoreError says what is wrong; the file stays
        as it was. A file that can't be written, or that another window holds, opens read only."""
        _refuse_foreign(path)
        lock, reason = None, "opened for reading only"
        if for_writing:
            lock, reason = _locked(path)
        try:
            db = _connected(path, writable=not reason)
        except StoreError:
            _unlocked(lock)
            raise
        try:
            _checked(db, path)
            if not reason:
                _migrated(db)
            return cls(path, db, lock, reason)
        except BaseException:
            db.close()
            _unlocked(lock)
            raise

    def __enter__(self) -> ProjectFile:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Closes the file and gives up the lock; closing twice does no harm."""
        self._db.close()
        _unlocked(self._lock)
        self._lock = None

    def commit(self, design: Design, label: str) -> None:
        """Makes `design` the next revision. On return it is on disk; revisions undone before are gone."""
        self._refuse_read_only()
        text = design.model_dump_json()
        with self._writing():
            self._db.execute("DELETE FROM revision WHERE seq > ?", (self.head,))
            self._db.execute("INSERT INTO revision VALUES (?, ?, ?)", (self.head + 1, label, text))
            self._db.execute("DELETE FROM revision WHERE seq <= ?", (self.head + 1 - KEEP_REVISIONS,))
            self._set_head(self.head + 1)
        self.head, self.design = self.head + 1, design

    def history(self) -> list[Revision]:
        """All kept revisions, oldest first; those after head can be redone."""
        return [Revision(*row) for row in self._db.execute("SELECT seq, label FROM revision ORDER BY seq")]

    def can_undo(self) -> str:
        """Label of the edit that undo would take back, or ""."""
        rows = [row for row in self.history() if row.seq <= self.head]
        return rows[-1].label if len(rows) > 1 else ""

    def can_redo(self) -> str:
        """Label of the edit that redo would bring back, or ""."""
        return next((row.label for row in self.history() if row.seq > self.head), "")

    def undo(self) -> bool:
        """Steps head back; False at the oldest revision."""
        return self._move(-1) if self.can_undo() else False

    def redo(self) -> bool:
        """Steps head forward; False at the newest revision."""
        return self._move(1) if self.can_redo() else False

    def _move(self, step: int) -> bool:
        self._refuse_read_only()
        design = self._design_at(self.head + step)
        with self._writing():
            self._set_head(self.head + step)
        self.head, self.design = self.head + step, design
        return True

    def _set_head(self, seq: int) -> None:
        self._db.execute("UPDATE state SET value = ? WHERE name = 'head'", (str(seq),))

    def _writing(self) -> _Transaction:
        return _Transaction(self._db, self.path)

    def _refuse_read_only(self) -> None:
        if self.why_read_only:
            raise StoreError(f"{self.path.name} can't be changed: {self.why_read_only}.")

    def _load(self) -> tuple[int, Design]:
        try:
            tables = {row[0] for row in self._db.execute("SELECT name FROM sqlite_master")}
            source = (
                "SELECT value FROM state WHERE name = 'head'" if "state" in tables else "SELECT max(seq) FROM revision"
            )
            head = int(self._db.execute(source).fetchone()[0])
            return head, self._design_at(head)
        except (sqlite3.DatabaseError, TypeError, ValueError) as why:
            raise StoreError(f"{self.path.name} is damaged: its newest revision can't be found.") from why

    def _design_at(self, seq: int) -> Design:
        row = self._db.execute("SELECT design FROM revision WHERE seq = ?", (seq,)).fetchone()
        if row is None:
            raise StoreError(f"{self.path.name} is damaged: revision {seq} is missing.")
        try:
            return Design.model_validate_json(row[0])
        except ValidationError as why:
            raise StoreError(
                f"{self.path.name} is damaged: revision {seq} is not a harness ({why.errors()[0]['msg']})."
            ) from why


class _Transaction:
    """All or nothing; environment errors become a StoreError and leave the file as it was."""

    def __init__(self, db: sqlite3.Connection, path: Path | None = None) -> None:
        self.db = db
        self.path = path

    def __enter__(self) -> None:
        try:
            self.db.execute("BEGIN IMMEDIATE")
        except sqlite3.Error as why:
            raise StoreError(self._sentence(why)) from why

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, _: object) -> None:
        try:
            self.db.execute("COMMIT" if kind is None else "ROLLBACK")
        except sqlite3.Error as why:
            with suppress(sqlite3.Error):
                self.db.execute("ROLLBACK")
            raise StoreError(self._sentence(why)) from why
        if isinstance(error, sqlite3.Error):
            raise StoreError(self._sentence(error)) from error

    def _sentence(self, why: sqlite3.Error) -> str:
        name = self.path.name if self.path else "the file"
        return f"{name} could not be written ({why}); the last change is not in it. Free the disk or save elsewhere."


def _transaction(db: sqlite3.Connection) -> _Transaction:
    return _Transaction(db)


def _locked(path: Path) -> tuple[int | None, str]:
    """(lock, "") for the one writer, or (None, reason) when the file is read only or held by another."""
    try:
        handle = os.open(path, os.O_RDWR)
    except OSError:
        return None, "the file is write-protected"
    if not os.access(path.parent, os.W_OK):
        os.close(handle)
        return None, "its folder is write-protected"
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None, "another window has it open"
    return handle, ""


def _unlocked(lock: int | None) -> None:
    if lock is not None:
        os.close(lock)


def _connected(path: Path, writable: bool) -> sqlite3.Connection:
    mode = "rw" if writable else "ro"
    db = sqlite3.connect(f"{path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, timeout=2)
    try:
        db.execute("PRAGMA synchronous = FULL")
    except sqlite3.DatabaseError as why:
        db.close()
        raise StoreError(f"{path.name} is damaged ({why}); restore it from a copy.") from why
    return db


def _refuse_foreign(path: Path) -> None:
    if path.is_dir():
        raise StoreError(f"{path} is a folder, not a harness file.")
    try:
        with path.open("rb") as handle:
            head = handle.read(100)
    except FileNotFoundError:
        raise StoreError(f"{path} does not exist.") from None
    except OSError as why:
        raise StoreError(f"{path} can't be read: {why.strerror}.") from why
    if not head.startswith(b"SQLite format 3\0"):
        raise StoreError(f"{path.name} is not an Umber Trunk harness file.")


def _checked(db: sqlite3.Connection, path: Path) -> None:
    try:
        app_id = db.execute("PRAGMA application_id").fetchone()[0]
        version = db.execute("PRAGMA user_version").fetchone()[0]
        if app_id != APPLICATION_ID:
            raise StoreError(f"{path.name} is a database of another program, not an Umber Trunk harness file.")
        if version > SCHEMA_VERSION:
            raise StoreError(f"{path.name} was made by a newer Umber Trunk; update the program to open it.")
        state = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    except sqlite3.OperationalError as why:
        raise StoreError(f"{path.name} can't be opened just now: {why}.") from why
    except sqlite3.DatabaseError as why:
        raise StoreError(f"{path.name} is damaged ({why}); restore it from a copy.") from why
    if state != "ok":
        raise StoreError(f"{path.name} is damaged ({state}); restore it from a copy.")


def _migrated(db: sqlite3.Connection) -> None:
    version = db.execute("PRAGMA user_version").fetchone()[0]
    while version < SCHEMA_VERSION:
        with _transaction(db):
            MIGRATIONS[version](db)
            version += 1
            db.execute(f"PRAGMA user_version = {version}")
