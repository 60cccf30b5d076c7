"""A shop’s file opened, checked and grown from a shelf file; the day’s copy."""

from __future__ import annotations

import hashlib
import sqlite3
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.store import database
from umber_trunk.store.copies import copies_folder
from umber_trunk.store.database import Transaction, hardened
from umber_trunk.store.files import SHELF_ID, StoreError, put_whole
from umber_trunk.store.schema import SHOP
from umber_trunk.store.stock import SHELF_TABLES, SHOP_TABLES, SHOP_VERSION

if TYPE_CHECKING:
    pass

WAIT_S = 15.0
"""So long a change waits for another station's."""


def connected(path: Path) -> sqlite3.Connection:
    """By which the file can make nothing happen. StoreError for what is no database."""
    try:
        return hardened(
            sqlite3.connect(f"{path.absolute().as_uri()}?mode=rw", uri=True, isolation_level=None, timeout=WAIT_S)
        )
    except (sqlite3.Error, UnicodeDecodeError) as why:
        if getattr(why, "sqlite_errorcode", 0) == sqlite3.SQLITE_NOTADB:
            raise StoreError.of("store.no-shops-file", path=path.name) from why
        raise StoreError.of("store.cant-be-opened-salvage", path=path.name, why=why) from why


def checked_version(db: sqlite3.Connection, path: Path) -> int:
    """Its version. StoreError for what is no shop's or shelf file, or holds more than one."""
    if db.execute("PRAGMA application_id").fetchone()[0] != SHELF_ID:
        raise StoreError.of("store.no-shops-file", path=path.name)
    version = int(db.execute("PRAGMA user_version").fetchone()[0])
    if version > SHOP_VERSION:
        raise StoreError.of("store.was-made-by-newer-umber-trunk", path=path.name)
    if db.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok":
        raise sqlite3.DatabaseError("it isn't sound")
    found = {str(n): str(sql) for n, sql in db.execute("SELECT name, sql FROM sqlite_master") if sql is not None}
    if found != (SHOP_TABLES if version == SHOP_VERSION else SHELF_TABLES):
        raise StoreError.of("store.strange-table-in-shop", path=path.name)
    return version


def grown(db: sqlite3.Connection, path: Path) -> None:
    """1 → 2: a shelf file gets the shop's lists, empty; the shelf as it was is kept."""
    keep_day(path, db.serialize(), before=True)
    with Transaction(db, path):
        if db.execute("PRAGMA user_version").fetchone()[0] == SHOP_VERSION:
            return  # another station did it meanwhile
        with database.schema_changes(db):
            for statement in SHOP.values():
                db.execute(statement)
        db.execute(f"PRAGMA user_version = {SHOP_VERSION}")


def new_shop() -> bytes:
    """An empty one."""
    db = sqlite3.connect(":memory:", isolation_level=None)
    try:
        for statement in SHOP_TABLES.values():
            db.execute(statement)
        db.execute(f"PRAGMA application_id = {SHELF_ID}")
        db.execute(f"PRAGMA user_version = {SHOP_VERSION}")
        return db.serialize()
    finally:
        db.close()


def keep_day(path: Path, data: bytes, before: bool = False) -> None:
    """The day's copy, in a folder of the program; one that can't be written is no matter: the file itself counts."""
    where = hashlib.blake2b(str(path.absolute()).encode("utf-8", "surrogateescape"), digest_size=5).hexdigest()
    folder = copies_folder() / f"shop {where}"
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        name = f"{date.today().isoformat()}{' shelf' if before else ''}.umber"
        put_whole(folder / name, data)
    except (OSError, StoreError):
        return
