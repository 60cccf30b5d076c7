"""Whether a harness file on disk still is the one that was opened: what a copy, a sync or a restore puts over it is
told, never written into."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from umber_trunk.core.errors import refusal_of
from umber_trunk.core.sentences import say
from umber_trunk.store.database import WAIT_S, hardened
from umber_trunk.store.files import StoreError, reason


class MovedError(StoreError):
    """Another program changed the file while it was open; the text says how it was told."""


@dataclass(frozen=True)
class Stand:
    """What a harness file says it is at: its id, the revision shown, the next number, the newest revision and its seal,
    the log's end, and the version of the program's tables it has."""

    id: str
    head: str
    next: str
    newest: tuple[object, ...]
    log: tuple[object, ...]
    version: int

    @classmethod
    def of(cls, db: sqlite3.Connection) -> Stand:
        """sqlite3.Error where it can't be read."""
        said = {str(name): str(value) for name, value in db.execute("SELECT name, value FROM state")}
        newest = db.execute("SELECT seq, seal FROM revision ORDER BY seq DESC LIMIT 1").fetchone()
        log = db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone()
        return cls(
            said.get("id", ""),
            said.get("head", ""),
            said.get("next", ""),
            newest or (),
            log or (),
            int(db.execute("PRAGMA user_version").fetchone()[0]),
        )


class Watch:
    """Compares a file with what was opened, before and after each change of ours. Whoever writes holds the lock, so
    whatever else changed the file knows nothing of us. `db` is the connection that writes."""

    def __init__(self, path: Path, db: sqlite3.Connection) -> None:
        self.path, self._db = path, db
        self._at = _identity(path)
        self._stand = self._coming = Stand.of(db)
        self._ours, self._was_ours = db.total_changes, True

    def moved(self) -> str:
        """How the file is other than it was left, as a sentence; "" while it is as it was. Reads it only where the
        system says it changed."""
        try:
            at = _identity(self.path)
        except OSError as why:
            return refusal_of("store.file-is-gone", path=self.path.name, why=reason(why)).text
        if at == self._at:
            return ""
        if at[:2] != self._at[:2]:
            return refusal_of("store.file-was-replaced", path=self.path.name, told=self._told()).text
        if self._on_disk() != self._stand:
            return refusal_of("store.file-was-overwritten", path=self.path.name, told=self._told()).text
        self._at = at  # touched, no more
        return ""

    @property
    def replaced(self) -> bool:
        """Whether another file has its name, or none: what was opened is whole still, without a name."""
        try:
            return _identity(self.path)[:2] != self._at[:2]
        except OSError:
            return True

    def before(self) -> None:
        """MovedError if the file isn't as it was left."""
        if said := self.moved():
            raise MovedError.of("store.moved", said=said)
        self._was_ours = self.only_ours

    def untouched(self) -> None:
        """`before` once more inside a transaction, by the file's own name; keeps what the file must say once it is
        committed."""
        try:
            same = _identity(self.path)[:2] == self._at[:2]
        except OSError:
            same = False
        if not same:
            raise MovedError.of("store.another-file-was-put-in-place", path=self.path.name)
        self._coming = Stand.of(self._db)

    def after(self) -> None:
        """That what was committed is what the file on disk says now; MovedError otherwise."""
        try:
            at = _identity(self.path)
            same = at[:2] == self._at[:2] and self._on_disk() == self._coming
        except OSError:
            same = False
        if not same:
            raise MovedError.of("store.overwritten-just-now", path=self.path.name)
        self._at, self._stand = at, self._coming
        if self._was_ours:
            self._ours = self._db.total_changes

    @property
    def only_ours(self) -> bool:
        """Whether all that this connection wrote since `looked` was written inside guarded transactions."""
        return self._db.total_changes == self._ours

    def looked(self) -> None:
        """All that is in the file was looked at."""
        self._ours = self._db.total_changes

    def _on_disk(self) -> Stand | None:
        """What another reader finds; None where it can't be read."""
        try:
            uri = f"{self.path.absolute().as_uri()}?mode=ro"
            with closing(sqlite3.connect(uri, uri=True, isolation_level=None, timeout=WAIT_S)) as other:
                return Stand.of(hardened(other))
        except (sqlite3.Error, UnicodeDecodeError):
            return None

    def _told(self) -> str:
        other = self._on_disk()
        if other is None:
            return say("watch.unread")
        if other.id != self._stand.id:
            return say("watch.another")
        return say("watch.revision", other=other.head, mine=self._stand.head)


def _identity(path: Path) -> tuple[int, int, int, int]:
    """(device, inode, bytes, last written in ns); the first two are the file's own."""
    at = os.stat(path)
    return at.st_dev, at.st_ino, at.st_size, at.st_mtime_ns
