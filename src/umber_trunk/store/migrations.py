"""A file of an earlier version brought to this one, inside one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.store import database, schema
from umber_trunk.store.clock import new_id
from umber_trunk.store.database import Transaction
from umber_trunk.store.files import damaged
from umber_trunk.store.history import write_old
from umber_trunk.store.schema import SCHEMA_VERSION, TABLES

if TYPE_CHECKING:
    pass


def _to_history(db: sqlite3.Connection, name: str) -> None:
    """1 or 2 → 3: revisions by difference, as a tree, with numbers that are never used twice."""
    rows = db.execute("SELECT seq, label, design FROM revision ORDER BY seq").fetchall()
    states = db.execute("SELECT value FROM state WHERE name = 'head'").fetchall() if version_of(db) == 2 else []
    newest = rows[-1][0] if rows else 0
    try:
        head = int(str(states[0][0])[:40]) if states else newest
    except ValueError:
        head = 0
    if not 0 < head <= newest:
        raise damaged(name, "no-newest")
    with database.schema_changes(db):
        for table in TABLES[version_of(db)]:
            db.execute(f"DROP TABLE {table}")
        for statement in TABLES[SCHEMA_VERSION].values():
            db.execute(statement)
    write_old(db, rows, head)
    db.execute("INSERT INTO state VALUES ('id', ?)", (new_id(),))


def _to_floor(db: sqlite3.Connection, name: str) -> None:
    """3 → 6: the log of builds, the coils inside the file."""
    with database.schema_changes(db):
        for statement in schema.FLOOR.values():
            db.execute(statement)


def _to_sealed(db: sqlite3.Connection, name: str) -> None:
    """4 → 6: entries of the log are sealed in the order they stand, and units are found by words."""
    rows = db.execute("SELECT id, build, made, body FROM log ORDER BY n").fetchall()
    with database.schema_changes(db):
        db.execute("DROP TABLE log")
        for table in ("log", "mark", "input"):
            db.execute(schema.FLOOR[table])
    from umber_trunk.store.entries import add_sealed

    add_sealed(db, name, rows)


def _to_inputs(db: sqlite3.Connection, name: str) -> None:
    """5 → 6: what builds and proofs are frozen with."""
    with database.schema_changes(db):
        db.execute(schema.FLOOR["input"])


def version_of(db: sqlite3.Connection) -> int:
    """The version of a file’s tables."""
    return int(db.execute("PRAGMA user_version").fetchone()[0])


MIGRATIONS: dict[int, Callable[[sqlite3.Connection, str], None]] = {
    1: _to_history,
    2: _to_history,
    3: _to_floor,
    4: _to_sealed,
    5: _to_inputs,
}
"""Schema version → the step to this one."""


def migrated(db: sqlite3.Connection, path: Path) -> None:
    """Brings a file to the version of now, where it isn’t; inside one transaction."""
    version = version_of(db)
    if version == SCHEMA_VERSION:
        return
    with Transaction(db, path):
        MIGRATIONS[version](db, path.name)
        db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")
