"""Dated copies of harness files, kept by the program itself: the last of each day for a month.

They lie in a folder of the program, one folder a harness, so that a file that is overwritten, lost or stolen is not
the end. A copy is a whole harness file with its history; restoring makes a new file and touches no other.
"""

from __future__ import annotations

import hashlib
import re
import sqlite3
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from platformdirs import user_data_path

from umber_trunk.store.database import MOST_BYTES, check, hardened
from umber_trunk.store.files import HARNESS_ENDING, SQLITE_HEAD, StoreError, clear_parts, put_whole, read_whole
from umber_trunk.store.history import History

KEEP_DAYS = 31
_DAY = re.compile(r"(\d{4}-\d\d-\d\d)(?:-(\d+))?")
MOST_A_DAY = 20


@dataclass(frozen=True)
class Copy:
    """One copy: where it lies, the name of its harness file, the day, its size in bytes, which of the day it is, from
    1."""

    path: Path
    name: str
    day: date
    size: int
    number: int = 1


def copies_folder() -> Path:
    """Where copies are kept."""
    return user_data_path("umber-trunk") / "copies"


def folder_of(path: Path, project: str) -> Path:
    """The folder of one harness: files of one name in two places have one each."""
    mark = hashlib.blake2b(f"{project} {path.absolute()}".encode("utf-8", "surrogateescape"), digest_size=5).hexdigest()
    stem = re.sub(r"[^\w .-]", "_", path.stem)[:60].strip(". ") or "harness"
    return copies_folder() / f"{stem} {mark}"


def keep(path: Path, project: str, data: bytes, today: date | None = None) -> bool:
    """Keeps a harness file's bytes as the copy of today and lets those of more than a month before go. Bytes that are
    no whole harness file are never kept, and an earlier copy of the day gives its place only to one that holds all it
    holds: otherwise both are kept. False where nothing was kept, the folder can't be written, say: the harness file
    itself is what counts."""
    day, folder = today or date.today(), folder_of(path, project)
    try:
        holds = revisions_held(data)
        if holds is None:
            return False
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        clear_parts(folder)
        latest = max(
            (copy for copy in copies_in(folder) if copy.day == day), key=lambda copy: copy.number, default=None
        )
        number = 1 if latest is None else latest.number
        before = _held_by(latest) if latest is not None else None
        if before is not None and not before <= holds:
            number = min(number + 1, MOST_A_DAY)
        put_whole(folder / f"{day.isoformat()}{f'-{number}' if number > 1 else ''}{HARNESS_ENDING}", data)
    except (OSError, StoreError):
        return False
    for copy in copies_in(folder):
        if (day - copy.day).days >= KEEP_DAYS:
            with suppress(OSError):
                copy.path.unlink()
    return True


def revisions_held(data: bytes) -> frozenset[tuple[str, int, str]] | None:
    """The seals of a harness file's revisions and log entries, those that are what was written; None where the bytes
    are no sound harness file whose design can be read."""
    if not data.startswith(SQLITE_HEAD):
        return None
    db = sqlite3.connect(":memory:", isolation_level=None)
    try:
        db.deserialize(data)
        check(hardened(db), Path("copy"))
        history = History(db, "copy")
        history.design(history.head)
        log = {("log", int(n), str(seal)) for n, seal in db.execute("SELECT n, seal FROM log")}
        return frozenset(log | {("revision", seq, seal.hex()) for seq, seal in history.sound()})
    except (sqlite3.Error, StoreError, TypeError, ValueError):
        return None
    finally:
        db.close()


def _held_by(copy: Copy) -> frozenset[tuple[str, int, str]] | None:
    try:
        return revisions_held(read_whole(copy.path, MOST_BYTES))
    except StoreError:
        return None


def copies_in(folder: Path) -> list[Copy]:
    """The copies of one harness, newest first."""
    found = []
    with suppress(OSError):
        for path in folder.iterdir():
            named = _DAY.fullmatch(path.stem) if path.suffix == HARNESS_ENDING else None
            if named is not None:
                with suppress(OSError, ValueError):
                    day, number = date.fromisoformat(named[1]), int((named[2] or "1")[:4])
                    found.append(Copy(path, folder.name.rpartition(" ")[0], day, path.stat().st_size, number))
    return sorted(found, key=lambda copy: (copy.day, copy.number), reverse=True)


def all_copies() -> list[Copy]:
    """Every copy there is, harness by harness, newest first."""
    folders: list[Path] = []
    with suppress(OSError):
        folders = sorted(path for path in copies_folder().iterdir() if path.is_dir())
    return [copy for folder in folders for copy in copies_in(folder)]
