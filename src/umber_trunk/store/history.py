"""Revisions of a design in the tables of a project file: numbers never used twice, kept by difference, as a tree.

Each revision names the one it was made from. What undo left behind stays until it is pruned as old; frozen revisions,
those a unit is built to, are never pruned.
"""

from __future__ import annotations

import hashlib
import json
import sqlite3
import time
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from umber_trunk.core.errors import clipped
from umber_trunk.core.harness.formats import FORMAT_VERSION
from umber_trunk.core.harness.model import Design
from umber_trunk.core.plain import loaded
from umber_trunk.core.sentences import say
from umber_trunk.core.text import pictured
from umber_trunk.store.difference import Plain, applied, difference
from umber_trunk.store.files import damaged
from umber_trunk.store.jsonfile import design_from

KEEP_REVISIONS = 5000
"""The newest that are kept whatever they are."""
UNDO_STEPS = 1000
"""The least number of steps that undo reaches back."""
SLACK = 200
"""Pruned so many at a time."""
CHAIN = 40
"""A revision is kept whole after so many differences."""
LARGE = 16_384
MOST_UNPACKED = 500_000_000
LAST_NUMBER = 2**62
LAST_MOMENT = 2**34


@dataclass(frozen=True)
class Revision:
    """One step of the history. parent: the one it was made from, None for the first; made: seconds since 1970, 0 where
    nobody noted it; frozen: the name it was frozen by, "" if it wasn't; on_line: it led to the one shown, or redo
    brings it back."""

    seq: int
    label: str
    parent: int | None = None
    made: int = 0
    frozen: str = ""
    on_line: bool = True


def depth_told(steps: int) -> str:
    """How far undo reaches, in a sentence."""
    return say("keep.undo-reaches", steps=steps, least=UNDO_STEPS)


class History:
    """The revisions of an open file. `name` is the file's, for what is said to the user. Writing methods belong inside
    a transaction of the caller's."""

    def __init__(self, db: sqlite3.Connection, name: str) -> None:
        self.db, self.name = db, name
        self.head = self._number("head")
        self.tip = self._number("tip")
        self.next = self._number("next")
        self.count = int(db.execute("SELECT count(*) FROM revision").fetchone()[0])
        self._lengths: dict[int, int] = {}  # revision → differences since the last whole one
        self.ahead: list[int] = self._between(self.head, self.tip)

    def _number(self, name: str) -> int:
        row = self.db.execute("SELECT value FROM state WHERE name = ?", (name,)).fetchone()
        try:
            number = int(str(row[0])[:40])
        except (TypeError, ValueError):
            raise damaged(self.name, "no-newest") from None
        if not 0 < number < LAST_NUMBER:
            raise damaged(self.name, "odd-newest", number=clipped(str(number)))
        return number

    def _between(self, start: int, end: int) -> list[int]:
        """The revisions after `start` on the way to `end`, nearest first; none where `end` didn't come of it."""
        parents = self.parents()
        way: list[int] = []
        at: int | None = end
        while at is not None and at != start and at in parents and len(way) <= len(parents):
            way.append(at)
            at = parents[at]
        return way[::-1] if at == start else []

    def parents(self) -> dict[int, int | None]:
        """Revision → the one it was made from."""
        return dict(self.db.execute("SELECT seq, parent FROM revision"))

    def _line(self) -> set[int]:
        """The revisions that led to head and those that redo brings back."""
        parents = self.parents()
        found = set(self.ahead)
        at: int | None = self.head
        while at is not None and at in parents and at not in found:
            found.add(at)
            at = parents[at]
        return found

    def all(self) -> list[Revision]:
        """Every kept revision, oldest first."""
        rows = self.db.execute(
            "SELECT revision.seq, label, parent, revision.made, frozen.name FROM revision LEFT JOIN frozen "
            "ON frozen.seq = revision.seq ORDER BY revision.seq"
        )
        line = self._line()
        return [
            Revision(
                seq,
                _words(label),
                parent if isinstance(parent, int) else None,
                _moment(made),
                _words(frozen),
                seq in line,
            )
            for seq, label, parent, made, frozen in rows
        ]

    def label(self, seq: int) -> str | None:
        """A revision's label, None where it isn't kept."""
        row = self.db.execute("SELECT label FROM revision WHERE seq = ?", (seq,)).fetchone()
        return None if row is None else _words(row[0])

    def parent(self, seq: int) -> int | None:
        """The kept revision that one was made from, or None."""
        row = self.db.execute("SELECT parent FROM revision WHERE seq = ?", (seq,)).fetchone()
        return row[0] if row and row[0] is not None and self.label(row[0]) is not None else None

    def design(self, seq: int) -> Design:
        """The design of a revision. StoreError where it can't be had."""
        plain, length = self._plain(seq)
        if "format" not in plain:
            raise damaged(self.name, "revision-no-harness", seq=seq)
        found = design_from(plain, f"{self.name}, revision {seq},")
        # a difference can only be taken of plain data of this format
        self._lengths[seq] = length if plain["format"] == FORMAT_VERSION else CHAIN
        return found

    def _plain(self, seq: int) -> tuple[Plain, int]:
        """A revision's plain data and the number of differences it took."""
        bodies: list[Plain] = []
        at: int | None = seq
        while at is not None:
            row = self.db.execute("SELECT base, body, seal FROM revision WHERE seq = ?", (at,)).fetchone()
            if row is None:
                raise damaged(self.name, "revision-missing", seq=at)
            base, body, seal = row
            bodies.append(self._unpacked(at, base, body, seal))
            if (base is not None and not (isinstance(base, int) and base < at)) or len(bodies) > 10 * CHAIN:
                raise damaged(self.name, "revision-on-nothing", seq=at)
            at = base
        plain = bodies[-1]
        try:
            for change in bodies[-2::-1]:
                plain = applied(plain, change)
        except (KeyError, TypeError, AttributeError) as why:
            raise damaged(self.name, "revision-doesnt-fit", seq=seq) from why
        return plain, len(bodies) - 1

    def sound(self) -> Iterator[tuple[int, bytes]]:
        """(number, seal) of every revision whose body is what was written."""
        for seq, base, body, seal in self.db.execute("SELECT seq, base, body, seal FROM revision ORDER BY seq"):
            if isinstance(body, bytes) and seal == seal_of(seq, base, body):
                yield seq, seal

    def _unpacked(self, seq: int, base: int | None, body: object, seal: object) -> Plain:
        if not isinstance(body, bytes) or seal != seal_of(seq, base, body):
            raise damaged(self.name, "revision-changed", seq=seq)
        try:
            unpacker = zlib.decompressobj()
            text = unpacker.decompress(body, MOST_UNPACKED)
            found = loaded(text) if not unpacker.unconsumed_tail else None
        except (zlib.error, ValueError, RecursionError) as why:
            raise damaged(self.name, "revision-packed", seq=seq) from why
        if not isinstance(found, dict):
            raise damaged(self.name, "revision-no-harness", seq=seq)
        return found

    def first(self, design: Design, label: str) -> None:
        """Writes revision 1 of a new file."""
        self.insert(self.db, 1, None, None, label, design.model_dump_json())

    def add(self, before: Design, design: Design, label: str) -> None:
        """Makes `design` the revision after head, which is `before`."""
        seq = self.next
        change = json.dumps(difference(before, design), ensure_ascii=False, separators=(",", ":"))
        whole = self._lengths.get(self.head, CHAIN) >= CHAIN
        if not whole and len(change) > LARGE:
            text = design.model_dump_json()
            whole = len(change) > len(text) / 2
        if whole:
            self.insert(self.db, seq, self.head, None, label, design.model_dump_json())
        else:
            self.insert(self.db, seq, self.head, self.head, label, change)
        self._set(head=seq, tip=seq, next=seq + 1)

    def added(self) -> None:
        """Takes note that `add` is on the disk."""
        row = self.db.execute("SELECT base FROM revision WHERE seq = ?", (self.next,)).fetchone()
        self._lengths[self.next] = 0 if row[0] is None else self._lengths.get(self.head, 0) + 1
        self.head = self.tip = self.next
        self.next, self.count = self.next + 1, self.count + 1
        self.ahead = []

    @staticmethod
    def insert(
        db: sqlite3.Connection,
        seq: int,
        parent: int | None,
        base: int | None,
        label: str,
        text: str,
        made: int | None = None,
    ) -> None:
        """Writes one revision: its design as text, or what it differs from `base` by."""
        body = _packed(text)
        made = int(time.time()) if made is None else made
        db.execute(
            "INSERT INTO revision VALUES (?, ?, ?, ?, ?, ?, ?)",
            (seq, parent, base, made, label, body, seal_of(seq, base, body)),
        )

    def _set(self, **numbers: int) -> None:
        for name, number in numbers.items():
            self.db.execute("UPDATE state SET value = ? WHERE name = ?", (str(number), name))

    def move(self, seq: int) -> None:
        """Makes a kept revision the head; the tip stays where it came of this one."""
        self._set(head=seq, tip=self.tip if self._one_line(seq) or self._between(seq, self.tip) else seq)

    def _one_line(self, seq: int) -> bool:
        """Whether a revision is surely on the way from the first to the tip: a step back, or one ahead."""
        onward = bool(self.ahead) or self.head == self.tip
        return seq == self.tip or seq in self.ahead or (onward and seq == self.parent(self.head))

    def moved(self, seq: int) -> None:
        """Takes note that `move` is on the disk."""
        if seq in self.ahead:
            self.ahead = self.ahead[self.ahead.index(seq) + 1 :]
        elif self._one_line(seq):
            self.ahead.insert(0, self.head)
        else:
            self.tip = self._number("tip")
            self.ahead = self._between(seq, self.tip)
        self.head = seq

    def freeze(self, seq: int, name: str) -> None:
        """A unit may be built to it: it is kept for good. A name given before stays."""
        self.db.execute("INSERT INTO frozen VALUES (?, ?, ?)", (seq, name, int(time.time())))

    def too_many(self) -> bool:
        """Whether it is time to prune."""
        return self.count + 1 > KEEP_REVISIONS + SLACK

    def prune(self) -> int:
        """Lets the oldest revisions go, never a frozen one nor the nearest that undo reaches; returns how many."""
        rows = self.all()
        kept = {row.seq for row in rows[-KEEP_REVISIONS:]} | {row.seq for row in rows if row.frozen}
        kept |= set(self.ahead)
        parents = {row.seq: row.parent for row in rows}
        at: int | None = self.head
        for _ in range(UNDO_STEPS + 1):
            if at is None or at not in parents:
                break
            kept.add(at)
            at = parents[at]
        gone = set(parents) - kept
        for seq, base in self.db.execute("SELECT seq, base FROM revision WHERE base IS NOT NULL").fetchall():
            if seq in kept and base in gone:
                self._make_whole(seq)
        self.db.executemany("DELETE FROM revision WHERE seq = ?", [(seq,) for seq in gone])
        self.count -= len(gone)
        return len(gone)

    def _make_whole(self, seq: int) -> None:
        plain, _ = self._plain(seq)
        body = _packed(json.dumps(plain, ensure_ascii=False, separators=(",", ":")))
        self.db.execute(
            "UPDATE revision SET base = NULL, body = ?, seal = ? WHERE seq = ?", (body, seal_of(seq, None, body), seq)
        )


def _words(value: object) -> str:
    return pictured(value)[:400] if isinstance(value, str) else ""


def _moment(value: object) -> int:
    return value if isinstance(value, int) and 0 <= value < LAST_MOMENT else 0


def _packed(text: str) -> bytes:
    data = text.encode()
    return zlib.compress(data, 6 if len(data) < LARGE * 16 else 1)


def seal_of(seq: int, base: int | None, body: bytes) -> bytes:
    """Tells a revision that isn't what was written."""
    return hashlib.blake2b(f"{seq} {base} ".encode() + body, digest_size=8).digest()


def write_old(db: sqlite3.Connection, rows: Iterable[tuple[int, str, str]], head: int) -> None:
    """Revisions of a file of schema 2 or before, one after the other in a line, into the tables of schema 3."""
    before: int | None = None
    last = head
    for seq, label, text in rows:
        History.insert(db, seq, before, None, str(label), str(text), made=0)
        before = last = seq
    for name, number in (("head", head), ("tip", last), ("next", max(last, head) + 1)):
        db.execute("INSERT INTO state VALUES (?, ?)", (name, str(number)))
