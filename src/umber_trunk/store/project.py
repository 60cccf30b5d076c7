"""The project file: one SQLite database with every revision of the design.

An edit is committed before it is shown. Undo and redo move the head along the revisions and are as durable as edits.
One writer holds an advisory lock on the file; others are refused or read only.
"""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from umber_trunk.core.harness.edits import verified
from umber_trunk.core.harness.model import Design
from umber_trunk.core.kept_words import MOST_TEXT, said_kept
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store import copies, database
from umber_trunk.store.clock import new_id
from umber_trunk.store.database import Transaction, at_ease, locked, opened, refuse_foreign, unlocked
from umber_trunk.store.files import DamagedError, StoreError, clear_parts, damaged, put_whole, read_whole
from umber_trunk.store.history import History, Revision
from umber_trunk.store.migrations import migrated, version_of
from umber_trunk.store.schema import SCHEMA_VERSION
from umber_trunk.store.watch import Watch

if TYPE_CHECKING:
    from umber_trunk.store.floor import Floor, Kept

T = TypeVar("T")
COPY_EVERY_S = 600.0
MOST_LOST = 4
"""So much of what a damaged file lost is told at once."""


RECENT = 24
"""Designs kept at hand for undo and redo: they share what they have in common."""


class ProjectFile:
    """An open project file. Use `create` or `open`; close it, or use it in a with statement.

    Attributes:
        path: where it is.
        head, design: the revision shown and its design.
        id: what tells this project from others, whatever its name.
        read_only: whether edits are refused, and if so `why_read_only` says why.
    """

    def __init__(
        self, path: Path, db: sqlite3.Connection, lock: int | None, why_read_only: str, known: Design | None = None
    ) -> None:
        self.path = path
        self._db = db
        self._lock = lock
        self.why_read_only = why_read_only
        self._copied_at = -COPY_EVERY_S
        self._head_lost = False
        self.lost: tuple[Message, ...] = ()
        """What of a damaged file couldn't be read, a sentence each; it is read only then."""
        try:
            self._history = History(db, path.name)
            self._design = known or self._history.design(self.head)
            self._recent: dict[int, Design] = {self.head: self._design}
            self._keeping: threading.Thread | None = None
            row = db.execute("SELECT value FROM state WHERE name = 'id'").fetchone()
        except sqlite3.DatabaseError as why:
            raise damaged(path.name, "as-told", why=str(why)) from why
        self.id = str(row[0]) if row else ""
        self._changed = False
        self._variant = ""
        self._kept: Kept | None = None
        self._watch = Watch(path, db) if lock is not None else None

    @property
    def design(self) -> Design:
        """The design shown. StoreError where its revision is not whole."""
        if self._head_lost:
            raise damaged(self.path.name, "which-revision", lost=joined("row.next", self.lost[:MOST_LOST]))
        return self._of_variant(self._design)

    def shows_variant(self, name: str) -> None:
        """From now on its design is that of a variant, and every revision's too; the log is the harness's. InputError
        for one there is none of."""
        self._variant = name
        self._of_variant(self._design)

    def _of_variant(self, design: Design) -> Design:
        if not self._variant:
            return design
        from umber_trunk.core.harness.variants import variant_of  # here: few harnesses have any

        return variant_of(design, self._variant)

    @property
    def head(self) -> int:
        """Number of the revision shown."""
        return self._history.head

    @property
    def read_only(self) -> bool:
        """Whether edits are refused."""
        return bool(self.why_read_only)

    @classmethod
    def create(cls, path: Path, design: Design, label: str = "new harness", copied: bool = True) -> ProjectFile:
        """A new file with one revision, which is there whole or not at all; StoreError if something is there already.
        `copied`: whether copies are kept by day."""
        put_whole(path, _new_file(design, label, copied), fresh=True)
        return cls._opened(path, True, design)

    @classmethod
    def restored(cls, copy: Path, path: Path) -> ProjectFile:
        """A copy as a new file, open; StoreError if something is there already or the copy isn't sound."""
        refuse_foreign(copy)
        cls._whole(copy, False, None).close()
        put_whole(path, read_whole(copy, database.MOST_BYTES), fresh=True)
        return cls.open(path)

    @classmethod
    def open(cls, path: Path, for_writing: bool = True) -> ProjectFile:
        """Opens and checks a file; an old one is migrated. StoreError says what is wrong; the file stays
        as it was. A file that can't be written, or that another window holds, opens read only."""
        return cls._opened(path, for_writing, None)

    @classmethod
    def _opened(cls, path: Path, for_writing: bool, known: Design | None) -> ProjectFile:
        refuse_foreign(path)
        try:
            return cls._whole(path, for_writing, known)
        except DamagedError:
            if for_writing:
                raise
            return cls._in_parts(path)

    @classmethod
    def _in_parts(cls, path: Path) -> ProjectFile:
        """What is whole of a damaged file, to be read."""
        from umber_trunk.store.salvage import salvaged  # here: wanted in need alone

        found = salvaged(path)
        project = cls(path, found.db, None, "it is damaged", None)
        project.lost, project._head_lost = tuple(found.lost), found.head_lost
        return project

    @classmethod
    def _whole(cls, path: Path, for_writing: bool, known: Design | None) -> ProjectFile:
        lock, reason = None, "opened for reading only"
        if for_writing:
            clear_parts(path.absolute().parent)
            lock, reason = locked(path)
        try:
            db = opened(path, writable=not reason)
        except BaseException:
            unlocked(lock)
            raise
        try:
            if reason and version_of(db) != SCHEMA_VERSION:
                stored, db = db, database.in_memory(db)
                stored.close()
            migrated(db, path)
            project = cls(path, db, lock, reason, known)
            at_ease(db)
        except BaseException:
            db.close()
            unlocked(lock)
            raise
        return project

    def __enter__(self) -> ProjectFile:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Keeps the day's copy if anything changed, closes the file and gives up the lock; closing twice does no
        harm."""
        if self._lock is not None:
            self.keep_copy()
            self.copies_kept()
        self._db.close()
        unlocked(self._lock)
        self._lock = None

    def keep_copy(self) -> None:
        """Puts the file as it is among the copies of the day, if it changed since; a folder that can't be written is no
        matter here."""
        if self._changed and not self.moved() and self.copied:
            self.copies_kept()
            keeping = threading.Thread(target=copies.keep, args=(self.path, self.id, self._db.serialize()), name="copy")
            keeping.start()  # whoever edits doesn't wait until a copy is looked through
            self._keeping = keeping
        self._changed, self._copied_at = False, time.monotonic()

    def copies_kept(self) -> None:
        """Waits until the latest copy is kept."""
        if self._keeping is not None:
            self._keeping.join()
            self._keeping = None

    def moved(self) -> str:
        """How another program changed the file since it was opened for writing or last written, as a sentence; "" if
        none did."""
        return self._watch.moved() if self._watch is not None else ""

    def kept_as(self, path: Path, design: Design | None = None) -> None:
        """What was opened as a new file, with `design` as its newest revision: with all its revisions and its log where
        they can still be had, which is where another file took its place; the design alone where its bytes were
        overwritten. StoreError if the name is taken."""
        wanted = self.design if design is None else design
        if self._watch is not None and self._watch.replaced:
            put_whole(path, self._db.serialize(), fresh=True)
            with ProjectFile.open(path) as kept:
                if kept.design != wanted:
                    kept.commit(wanted, "kept as a new file")
        else:
            ProjectFile.create(path, wanted, f"kept: {self.path.name} was overwritten").close()

    @property
    def copied(self) -> bool:
        """Whether copies are kept by day."""
        return self._db.execute("SELECT value FROM state WHERE name = 'copies'").fetchone() is None

    def commit(self, design: Design, label: str) -> None:
        """Makes `design` the next revision. On return it is on disk; what undo left behind stays reachable. EditError
        for a design with a figure beyond its bounds."""
        self._refuse_read_only()
        design = verified(self.design, design)
        with Transaction(self._db, self.path, self._watch):
            self._history.add(self.design, design, label)
            if self._history.too_many():
                self._history.prune()
        self._history.added()
        self._shows(design)
        if time.monotonic() - self._copied_at > COPY_EVERY_S:
            self.keep_copy()

    def history(self) -> list[Revision]:
        """The revisions that led here and those that redo brings back, oldest first."""
        return [row for row in self.revisions() if row.on_line]

    @property
    def undo_steps(self) -> int:
        """How many steps undo reaches back."""
        return sum(row.seq < self.head for row in self.history())

    def revisions(self) -> list[Revision]:
        """All kept revisions by number, those that undo left behind too."""
        return self._read(self._history.all)

    def design_at(self, seq: int) -> Design:
        """The design of a kept revision; StoreError for a number there is none of."""
        if self._read(lambda: self._history.label(seq)) is None:
            raise StoreError.of("store.no-revision", path=self.path.name, seq=seq)
        return self._of_variant(self._read(lambda: self._history.design(seq)))

    def can_undo(self) -> str:
        """Label of the edit that undo would take back, or ""."""
        return (self._history.label(self.head) or "") if self._history.parent(self.head) is not None else ""

    def can_redo(self) -> str:
        """Label of the edit that redo would bring back, or ""."""
        return (self._history.label(self._history.ahead[0]) or "") if self._history.ahead else ""

    def before(self) -> int | None:
        """The revision undo goes to, None at the oldest."""
        self._still_ours()
        return self._read(lambda: self._history.parent(self.head))

    def after(self) -> int | None:
        """The revision redo goes to, None at the newest."""
        self._still_ours()
        return self._history.ahead[0] if self._history.ahead else None

    def undo(self) -> bool:
        """Steps head back; False at the oldest revision."""
        return (parent := self.before()) is not None and self.go_to(parent)

    def redo(self) -> bool:
        """Steps head forward; False at the newest revision."""
        return (ahead := self.after()) is not None and self.go_to(ahead)

    def go_to(self, seq: int, known: Design | None = None) -> bool:
        """Makes any kept revision the one shown; `known` is its design, where that was read beside. StoreError where it
        can't be had."""
        self._refuse_read_only()
        self._still_ours()
        design = self._recent.get(seq) or known or self.design_at(seq)
        with Transaction(self._db, self.path, self._watch):
            self._history.move(seq)
        self._history.moved(seq)
        self._shows(design)
        return True

    def _shows(self, design: Design) -> None:
        self._design, self._changed = design, True
        self._recent.pop(self.head, None)
        self._recent[self.head] = design
        while len(self._recent) > RECENT:
            del self._recent[next(iter(self._recent))]

    def at_hand(self, seq: int) -> bool:
        """Whether a revision's design needs no reading: it was shown a while ago."""
        return seq in self._recent

    def freeze(self, seq: int, name: str) -> None:
        """Marks a revision as one that units are built to: it is kept for good. StoreError if it is frozen already."""
        self._refuse_read_only()
        self._still_ours()
        known = next((row for row in self.revisions() if row.seq == seq), None)
        if known is None:
            raise StoreError.of("store.no-revision", path=self.path.name, seq=seq)
        if known.frozen:
            raise StoreError.of("store.revision-is-frozen-already", seq=seq, frozen=known.frozen)
        if not name.strip():
            raise StoreError.of("store.frozen-revision-needs-name")
        named = said_kept(name, MOST_TEXT)
        with Transaction(self._db, self.path, self._watch):
            self._history.freeze(seq, named)
        self._changed = True

    def beside(self) -> ProjectFile:
        """The same file, open for reading on another thread; what its log was worked out to hold is known to both."""
        other = ProjectFile.open(self.path, for_writing=False)
        other.kept.made = self.kept.made
        return other

    @property
    def floor(self) -> Floor:
        """The log of builds and the coils kept inside the file."""
        from umber_trunk.store.floor import Floor

        return Floor(self._db, self.path, self.why_read_only, self.id, self.kept, self._watch)

    @property
    def kept(self) -> Kept:
        """What the log was worked out to hold, as long as the file is open. Here, since most commands never ask: what a
        log is made of takes longer to load than a design."""
        if self._kept is None:
            from umber_trunk.store.floor import Kept

            self._kept = Kept()
        return self._kept

    def _read(self, question: Callable[[], T]) -> T:
        try:
            return question()
        except sqlite3.Error as why:
            raise StoreError.of("store.cant-be-read-just-now", path=self.path.name, why=why) from why

    def _still_ours(self) -> None:
        if self._watch is not None:
            self._watch.before()

    def _refuse_read_only(self) -> None:
        if self._variant:
            raise StoreError.of("store.variant-not-changed", path=self.path.name, variant=self._variant)
        if self.why_read_only:
            raise StoreError.of("store.cant-be-changed", path=self.path.name, why_read_only=self.why_read_only)


def _new_file(design: Design, label: str, copied: bool) -> bytes:
    """A whole new project file."""
    db = sqlite3.connect(":memory:", isolation_level=None)
    try:
        database.make_tables(db)
        for name, value in (("head", "1"), ("tip", "1"), ("next", "2"), ("id", new_id())):
            db.execute("INSERT INTO state VALUES (?, ?)", (name, value))
        if not copied:
            db.execute("INSERT INTO state VALUES ('copies', 'none')")
        History(db, "").first(design, label)
        return db.serialize()
    finally:
        db.close()
