"""Opens the SQLite file of a project and trusts nothing in it: its tables are ours to the letter or it is refused.

No schema of a file is run: trusted_schema is off, an authorizer lets only our own tables and statements through, and
whatever takes longer than a harness file can need is stopped. What a kill left half written is rolled back.
"""

from __future__ import annotations

import fcntl
import os
import shutil
import sqlite3
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Protocol

from umber_trunk.core.errors import clipped
from umber_trunk.store.files import APPLICATION_ID, StoreError, damaged, ordinary, put_aside, reason
from umber_trunk.store.schema import FLOOR, SCHEMA_VERSION, SHOP, TABLES

MOST_SECONDS = 10.0
MOST_BYTES = 2_000_000_000
WAIT_S = 2.0
SMALLEST = 512
"""Bytes of the smallest database there can be."""

_ALLOWED = {
    sqlite3.SQLITE_SELECT,
    sqlite3.SQLITE_READ,
    sqlite3.SQLITE_INSERT,
    sqlite3.SQLITE_UPDATE,
    sqlite3.SQLITE_DELETE,
    sqlite3.SQLITE_TRANSACTION,
    sqlite3.SQLITE_FUNCTION,
    sqlite3.SQLITE_PRAGMA,
}
_SCHEMA_CHANGES = {
    sqlite3.SQLITE_CREATE_TABLE,
    sqlite3.SQLITE_DROP_TABLE,
    sqlite3.SQLITE_CREATE_INDEX,
    sqlite3.SQLITE_DROP_INDEX,
}
_MAY_NOT_ROLL_BACK = (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN)
_FUNCTIONS = {"max", "min", "count", "sum"}
_NAMES = {"revision", "state", "frozen", *FLOOR, *SHOP, "sqlite_master", "sqlite_schema"}


def make_tables(db: sqlite3.Connection) -> None:
    """The tables and marks of a new file, inside a transaction of the caller's."""
    with schema_changes(db):
        for statement in TABLES[SCHEMA_VERSION].values():
            db.execute(statement)
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")


def _authorize(*, schema: bool) -> Callable[..., int]:
    allowed = _ALLOWED | (_SCHEMA_CHANGES if schema else set())

    def allow(action: int, first: str | None, second: str | None, database: str | None, inner: str | None) -> int:
        if inner is not None or action not in allowed:
            return sqlite3.SQLITE_DENY  # inner: a trigger or a view asks
        if action == sqlite3.SQLITE_FUNCTION and second not in _FUNCTIONS:
            return sqlite3.SQLITE_DENY
        if action in (sqlite3.SQLITE_READ, sqlite3.SQLITE_INSERT, sqlite3.SQLITE_UPDATE, sqlite3.SQLITE_DELETE):
            return sqlite3.SQLITE_OK if first in _NAMES else sqlite3.SQLITE_DENY
        return sqlite3.SQLITE_OK

    return allow


@contextmanager
def schema_changes(db: sqlite3.Connection) -> Iterator[None]:
    """Tables may be made and dropped meanwhile."""
    db.set_authorizer(_authorize(schema=True))
    try:
        yield
    finally:
        db.set_authorizer(_authorize(schema=False))


def hardened(db: sqlite3.Connection) -> sqlite3.Connection:
    """A connection by which a file can make nothing happen. Statements that take too long are stopped."""
    db.text_factory = lambda data: data.decode("utf-8", "replace")
    until = time.monotonic() + MOST_SECONDS
    db.set_progress_handler(lambda: int(time.monotonic() > until), 100_000)
    for limit, most in (
        (sqlite3.SQLITE_LIMIT_ATTACHED, 0),
        (sqlite3.SQLITE_LIMIT_TRIGGER_DEPTH, 0),
        (sqlite3.SQLITE_LIMIT_EXPR_DEPTH, 100),
        (sqlite3.SQLITE_LIMIT_LENGTH, MOST_BYTES),
    ):
        db.setlimit(limit, most)
    for pragma in ("trusted_schema = OFF", "cell_size_check = ON", "mmap_size = 0", "synchronous = FULL"):
        db.execute(f"PRAGMA {pragma}")
    db.set_authorizer(_authorize(schema=False))
    return db


def at_ease(db: sqlite3.Connection) -> None:
    """Lifts the limit of time once a file is known to hold our tables and nothing else."""
    db.set_progress_handler(None, 0)


def opened(path: Path, writable: bool) -> sqlite3.Connection:
    """A checked connection to a harness file of any schema version; StoreError says what is wrong, and the file stays
    as it was but for what a kill left half written."""
    try:
        return _opened(path, writable)
    except _HotJournalError:
        pass
    if _rolled_back(path):
        with suppress(_HotJournalError):
            return _opened(path, writable)
    return _from_copy(path)


class _HotJournalError(Exception):
    """A kill left a change half written, and this connection may not roll it back."""


def _opened(path: Path, writable: bool) -> sqlite3.Connection:
    mode = "rw" if writable else "ro"
    if writable and _journal(path):
        _put_aside_foreign(path)
    try:
        db = sqlite3.connect(f"{path.absolute().as_uri()}?mode={mode}", uri=True, isolation_level=None, timeout=WAIT_S)
    except sqlite3.Error as why:
        raise StoreError.of("store.cant-be-opened", path=path.name, why=why) from why
    try:
        check(hardened(db), path)
    except sqlite3.OperationalError as why:
        db.close()
        if not writable and _journal(path) and why.sqlite_errorcode & 0xFF in _MAY_NOT_ROLL_BACK:
            raise _HotJournalError from why
        raise _not_now(path, why) from why
    except (sqlite3.DatabaseError, UnicodeDecodeError) as why:
        db.close()
        if getattr(why, "sqlite_errorcode", 0) == sqlite3.SQLITE_NOTADB:
            raise StoreError.of("store.not-umber-trunk-harness-file", path=path.name) from why
        if isinstance(why, UnicodeDecodeError):
            raise damaged(path.name, "no-text") from why
        raise damaged(path.name, "as-told", why=str(why)) from why
    except BaseException:
        db.close()
        raise
    return db


def _not_now(path: Path, why: sqlite3.OperationalError) -> StoreError:
    if "interrupted" in str(why):
        return StoreError.of("store.asks-for-more-than-a-harness", path=path.name)
    if "locked" in str(why) or "busy" in str(why):
        return StoreError.of("store.being-written", path=path.name)
    return StoreError.of("store.cant-be-opened-just-now", path=path.name, why=why)


def check(db: sqlite3.Connection, path: Path) -> None:
    """That a database is a harness file of a version known here, sound, with our tables and nothing else."""
    version = db.execute("PRAGMA user_version").fetchone()[0]
    if db.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        raise StoreError.of("store.database-of-another-program", path=path.name)
    if version > SCHEMA_VERSION:
        raise StoreError.of("store.was-made-by-newer-umber-trunk", path=path.name)
    if version not in TABLES:
        raise StoreError.of("store.says-it-is-of-version", path=path.name, version=version)
    state = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    if state != "ok":
        raise damaged(path.name, "as-told", why=" ".join(str(state).split()))
    found = {}
    for kind, name, statement in db.execute("SELECT type, name, sql FROM sqlite_master LIMIT 20"):
        if statement is not None or not str(name).startswith("sqlite_autoindex_"):
            found[str(name)] = str(statement) if kind == "table" else f"a {kind}"
    for name, statement in found.items():
        if TABLES[version].get(name) != statement:
            raise StoreError.of("store.strange-table", path=path.name, name=clipped(name))
    missing = set(TABLES[version]) - set(found)
    if missing:
        raise damaged(path.name, "no-table", table=min(missing))


def _journal(path: Path) -> bool:
    with suppress(OSError):
        return os.stat(f"{os.path.realpath(path)}-journal").st_size > 0
    return False


def _put_aside_foreign(path: Path) -> None:
    """A journal that a kill left may be of the file that was here before: rolled back into another it would spoil that.
    Where a copy is whole without it and isn't with it, it is put aside. Asked by the writer alone, who holds the
    lock."""
    real = Path(os.path.realpath(path))
    with suppress(OSError):
        if not _whole_copy(real, True) and _whole_copy(real, False):
            put_aside(Path(f"{real}-journal"), f"{real.name}-journal.foreign")


def _whole_copy(real: Path, rolled_back: bool) -> bool:
    """Whether a copy of a file is whole, with its journal rolled back or without."""
    from umber_trunk.store.history import History  # here: it rests on this module

    with tempfile.TemporaryDirectory(prefix="umber-") as folder:
        copy = Path(folder) / "copy"
        shutil.copyfile(real, copy)
        if rolled_back:
            shutil.copyfile(f"{real}-journal", f"{copy}-journal")
        try:
            with closing(sqlite3.connect(copy, isolation_level=None)) as db:
                check(hardened(db), copy)
                history = History(db, "copy")
                history.design(history.head)
                return len(list(history.sound())) == len(history.all())
        except (sqlite3.Error, StoreError, ValueError, TypeError):
            return False


def _rolled_back(path: Path) -> bool:
    """Rolls back what a kill left half written, briefly as the writer; False where that can't be."""
    lock, reason_ = locked(path)
    if reason_ and not os.access(path, os.W_OK):
        return False
    try:
        _opened(path, writable=True).close()
    except (StoreError, sqlite3.Error):
        return False
    finally:
        unlocked(lock)
    return True


def _from_copy(path: Path) -> sqlite3.Connection:
    """In memory, from a copy that was rolled back: for a file that can't be written."""
    real = Path(os.path.realpath(path))
    try:
        with tempfile.TemporaryDirectory(prefix="umber-") as folder:
            for ending in ("", "-journal"):
                with suppress(FileNotFoundError):
                    shutil.copyfile(f"{real}{ending}", Path(folder) / f"copy{ending}")
            db = _opened(Path(folder) / "copy", writable=True)
            memory = in_memory(db)
            db.close()
            return memory
    except OSError as why:
        raise StoreError.of("store.cant-be-read", path=path, why=reason(why)) from why
    except StoreError as why:
        raise StoreError(str(why).replace("copy ", f"{path.name} ", 1)) from why


def in_memory(db: sqlite3.Connection) -> sqlite3.Connection:
    """A database of its own in memory with the same content."""
    memory = sqlite3.connect(":memory:", isolation_level=None)
    db.set_authorizer(None)
    memory.deserialize(db.serialize())
    return hardened(memory)


def refuse_foreign(path: Path) -> None:
    """StoreError for what is no harness file at first sight. Nothing is opened: another thread may be writing it just
    now."""
    if ordinary(path) < SMALLEST:
        raise StoreError.of("store.not-umber-trunk-harness-file", path=path.name)


def locked(path: Path) -> tuple[int | None, str]:
    """(lock, "") for the one writer, or (None, reason) when the file is read only or held by another."""
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return None, "the file is write-protected"
    if not os.access(os.path.dirname(os.path.realpath(path)), os.W_OK):
        os.close(handle)
        return None, "its folder is write-protected"
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None, HELD
    return handle, ""


HELD = "another window has it open"


def unlocked(lock: int | None) -> None:
    """Gives the lock up."""
    if lock is not None:
        os.close(lock)


class Guard(Protocol):
    """Whoever knows whether a file still is the one that was opened; each may raise a StoreError."""

    def before(self) -> None:
        """Asked before anything is written."""

    def untouched(self) -> None:
        """Asked when all is ready to be committed."""

    def after(self) -> None:
        """Asked when it is committed."""

    @property
    def only_ours(self) -> bool:
        """Whether nothing was written past it since `looked`."""

    def looked(self) -> None:
        """Told when all that is in the file was looked at."""


class Transaction:
    """All or nothing; environment errors become a StoreError and leave the file as it was. A file that a guard doesn't
    know again is left alone. One inside another is part of that one."""

    def __init__(self, db: sqlite3.Connection, path: Path, guard: Guard | None = None) -> None:
        self.db = db
        self.path = path
        self.guard = guard
        self.inside = db.in_transaction

    def __enter__(self) -> None:
        if self.inside:
            return
        if self.guard is not None:
            self.guard.before()
        try:
            self.db.execute("BEGIN IMMEDIATE")
        except sqlite3.Error as why:
            raise self._not_written(why) from why

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, _: object) -> None:
        if self.inside:
            return
        if kind is None:
            try:
                if self.guard is not None:
                    self.guard.untouched()
                self.db.execute("COMMIT")
            except (sqlite3.Error, StoreError) as why:
                error = why
        if error is not None:
            with suppress(sqlite3.Error):  # SQLite may have rolled back by itself
                self.db.execute("ROLLBACK")
        if isinstance(error, sqlite3.Error):
            raise self._not_written(error) from error
        if kind is None:
            if error is not None:
                raise error
            if self.guard is not None:
                self.guard.after()

    def _not_written(self, why: sqlite3.Error) -> StoreError:
        return StoreError.of("store.last-change-not-written", path=self.path.name, why=why)
