"""The shop floor on disk: the log of builds in a harness file, beside the coils it is cut from (`stock.py`).

    entry n:  what was done, when, in which build and unit ─┐
    seal n  = digest(seal n−1, its id, where, when, what) ←─┘      a signature covers all entries up to its own

The log is sealed entry on entry and only ever added to, each event under an id of its own, so that reading it twice or
merging another station's adds nothing twice.
"""

from __future__ import annotations

import os
import sqlite3
import time
import uuid
import zlib
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.core.keep.marks import marks
from umber_trunk.core.keep.seals import FIRST, broken_at
from umber_trunk.core.kept_words import name_kept, said_kept
from umber_trunk.core.make.events import (
    Begin,
    Done,
    Event,
    Signed,
    Undo,
    event,
)
from umber_trunk.core.memo import Memo
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.text import digest_of
from umber_trunk.store import database
from umber_trunk.store.database import Transaction
from umber_trunk.store.entries import add_sealed, body_of, read_event, sealed_state, texts_named
from umber_trunk.store.files import StoreError, damaged
from umber_trunk.store.stock import Stock, shelf_file

if TYPE_CHECKING:
    from umber_trunk.store.station import Station

SHOP = ""
"""Build of entries that are about the whole log: signatures, keys, merges."""
MOST_INPUT = 100_000_000


@dataclass(frozen=True)
class Trust:
    """A look at the whole log: `wrong` says nothing while every entry is as it was written; `signed_to` is the
    last entry a signature covers; `by` the keys that signed, with the name each gave itself."""

    wrong: Message
    entries: int
    seal: str
    signed_to: int
    by: Mapping[str, str]


@dataclass(frozen=True)
class Looked:
    """The last look at a log: `at` which (entries, seal, others' writes, own writes), what was found, the words and
    texts that were seen."""

    at: tuple[int, str, int, int]
    trust: Trust
    words: frozenset[tuple[str, str, int]]
    inputs: frozenset[str]


@dataclass
class _Look:
    """Goes from entry to entry: what was met so far, and the seal of the entry before."""

    file: str
    harness: str
    inputs: frozenset[str]
    before: str
    words: set[tuple[str, str, int]]
    signed_to: int
    by: dict[str, str]

    def wrong(self, place: int, row: Sequence[Any]) -> Message:
        """What is wrong with the entry at this place, its seal apart; nothing where nothing is."""
        try:
            one = read_event(self.file, row[0], row[1], row[2], row[3], row[5])
        except StoreError:
            one = event(str(row[0]), str(row[1]), int(row[2]), "note")
        if row[5] != place or row[6] != one.unit:
            return Message.of("trust.unit", entry=place)
        self.words |= {(word, one.build, one.unit) for word in marks(one)}
        if missing := next((name for name in texts_named(one.act) if name not in self.inputs), ""):
            return Message.of("trust.text", entry=place, digest=missing[:12])
        if isinstance(one.act, Signed) and (said := self._signature_wrong(place, one.act)):
            return said
        self.before = str(row[4])
        return NOTHING

    def _signature_wrong(self, place: int, act: Signed) -> Message:
        from umber_trunk.store.station import signed_well

        if (act.entries, act.seal) != (place - 1, self.before) or not signed_well(
            act.key, self.harness, act.entries, act.seal, act.what, act.signature
        ):
            return Message.of("trust.signature", entry=place, name=act.name)
        self.signed_to = place
        self.by[act.key] = act.name
        return NOTHING


def _chain_wrong(rows: Sequence[Sequence[Any]], held: Sequence[Any] | None, start: int, before: str) -> Message:
    """What is wrong with the seals of these entries, or with the end of the log as it is `held`."""
    number = broken_at((tuple(row[:5]) for row in rows), before)
    if number is not None:
        return Message.of("trust.entry", entry=start + number)
    entries, seal = start + len(rows), str(rows[-1][4]) if rows else before
    if held is not None and str(held[0]) != sealed_state(entries, seal):
        return Message.of("trust.end", entries=entries)
    return NOTHING


@dataclass
class Kept:
    """What one open file was worked out to hold, for as long as it is open: texts by their digest, and the last look at
    the log."""

    made: Memo = field(default_factory=Memo)
    looked: Looked | None = None


class Floor(Stock):
    """Log and coils in an open database. What can't be written is a StoreError with the reason."""

    def __init__(
        self,
        db: sqlite3.Connection,
        path: Path,
        why_read_only: str = "",
        harness: str = "",
        kept: Kept | None = None,
        guard: database.Guard | None = None,
    ) -> None:
        super().__init__(db, path, why_read_only, guard)
        self.harness = harness
        self.kept = kept or Kept()

    def events(self, build: str = "") -> list[Event]:
        """Everything logged, of one build or of all, in the order of logging."""
        where, values = ("WHERE build = ?", (build,)) if build else ("", ())
        with self._reading():
            rows = self._db.execute(f"SELECT id, build, made, body, n FROM log {where} ORDER BY n", values).fetchall()
        return [read_event(self.path.name, *row) for row in rows]

    def events_of(self, build: str, units: Collection[int]) -> list[Event]:
        """What was logged of some units of a build, of all its units together, and of the whole log; everything of it,
        where 0 is among the units."""
        if 0 in units:
            return self.events_of_build(build)
        with self._reading():
            rows = [
                row
                for name, unit in [(build, unit) for unit in sorted({0, *units})] + [(SHOP, 0)]
                for row in self._db.execute(
                    "SELECT n, id, build, made, body, n FROM log WHERE build = ? AND unit = ?", (name, unit)
                )
            ]
        return [read_event(self.path.name, *row[1:]) for row in sorted(rows)]

    def events_of_build(self, build: str) -> list[Event]:
        """What was logged of a build, and of the whole log."""
        with self._reading():
            rows = self._db.execute(
                "SELECT id, build, made, body, n FROM log WHERE build = ? OR build = ? ORDER BY n", (build, SHOP)
            ).fetchall()
        return [read_event(self.path.name, *row) for row in rows]

    def builds(self) -> list[Event]:
        """The event that began each build, oldest first."""
        with self._reading():
            rows = self._db.execute(
                "SELECT id, build, made, body, n FROM log WHERE n IN (SELECT min(n) FROM log GROUP BY build) ORDER BY n"
            ).fetchall()
        return [one for row in rows if isinstance((one := read_event(self.path.name, *row)).act, Begin)]

    def append(self, events: Iterable[Event]) -> int:
        """Adds events, on disk on return; those known already are left out. How many were new."""
        return self.append_with(events, ())

    def append_with(
        self, events: Iterable[Event], inputs: Iterable[str], signed: str = "", station: Station | None = None
    ) -> int:
        """Adds events, the texts they name by their digests, and, where `signed` says at the close of what, this
        station's signature over all so far: all of it or nothing. How many events were new."""
        from umber_trunk.store.station import this_station  # here: logs are read without it

        rows = [(one.id, one.build, one.at_ms, body_of(one)) for one in events]
        texts = [(digest_of(text), zlib.compress(text.encode("utf-8", "surrogatepass"), 6)) for text in inputs]
        self._may_write()
        by = (station or this_station()) if signed else None
        with Transaction(self._db, self.path, self._guard):
            self._db.executemany("INSERT OR IGNORE INTO input VALUES (?, ?)", texts)
            added = add_sealed(self._db, self.path.name, rows)
            if by is not None:
                self._sign(by, signed)
            return added

    def _sign(self, station: Station, what: str) -> None:
        """This station's signature over the chain, inside a transaction; none where nothing was added since its
        last."""
        entries, seal = self.seal()
        last = self.said_at(entries)
        if last is None or isinstance(last[1].act, Signed):
            return
        act = {"what": what, "key": station.key, "name": station.name, "entries": entries, "seal": seal, "signature": station.sign(self.harness, entries, seal, what)}  # fmt: skip
        at_ms = time.time_ns() // 1_000_000
        add_sealed(
            self._db,
            self.path.name,
            [(uuid.uuid4().hex, SHOP, at_ms, body_of(event("", SHOP, at_ms, "signed", data=act)))],
        )

    def sign(self, what: str) -> None:
        """Signs all that was logged so far."""
        self.append_with((), (), what)

    def input(self, digest: str) -> str:
        """The text that was kept under its digest. StoreError where it isn't here, or isn't what it was."""
        with self._reading():
            row = self._db.execute("SELECT body FROM input WHERE digest = ?", (digest,)).fetchone()
        if row is None:
            raise StoreError.of("store.frozen-inputs-missing", path=self.path.name, digest=digest[:12])
        try:
            inflated = zlib.decompressobj()
            data = inflated.decompress(row[0], MOST_INPUT)
            text = data.decode("utf-8", "surrogatepass")
        except (zlib.error, UnicodeDecodeError, TypeError) as why:
            raise damaged(self.path.name, "inputs-unread") from why
        if digest_of(text) != digest:
            raise damaged(self.path.name, "inputs-changed")
        return text

    def trust(self) -> Trust:
        """A look at the whole log: every seal, every column read beside it, every text that was frozen, every
        signature. Kept while the log stays as it is."""
        with self._reading():
            last = self._db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone() or (0, FIRST)
            version = int(self._db.execute("PRAGMA data_version").fetchone()[0])
        at = int(last[0]), str(last[1]), version, self._db.total_changes
        known = self.kept.looked
        if known is None or known.at != at:
            guarded = self._guard is not None and self._guard.only_ours
            known = self.kept.looked = self._looked_at(at, known if guarded else None)
            if self._guard is not None:
                self._guard.looked()
        return known.trust

    def _looked_at(self, at: tuple[int, str, int, int], known: Looked | None) -> Looked:
        """A look at what is new, where only this program wrote since the last and that found nothing wrong; else at
        everything."""
        if known is None or known.trust.wrong or known.at[2] != at[2] or (self.seal_at(known.at[0]) != known.at[1]):
            known = Looked((0, FIRST, 0, 0), Trust(NOTHING, 0, FIRST, 0, {}), frozenset(), frozenset())
        start, before = known.at[:2]
        with self._reading():
            rows = self._db.execute(
                "SELECT id, build, made, body, seal, n, unit FROM log WHERE n > ? ORDER BY n", (start,)
            ).fetchall()
            held = self._db.execute("SELECT value FROM state WHERE name = 'sealed'").fetchone()
            inputs = frozenset(str(row[0]) for row in self._db.execute("SELECT digest FROM input"))
            many = int(self._db.execute("SELECT count(*) FROM mark").fetchone()[0])
        trust = known.trust
        look = _Look(self.path.name, self.harness, inputs, before, set(known.words), trust.signed_to, dict(trust.by))
        seal = str(rows[-1][4]) if rows else before
        wrong = (
            _chain_wrong(rows, held, start, before)
            or next((said for place, row in enumerate(rows, start + 1) if (said := look.wrong(place, row))), NOTHING)
            or self._beside_wrong(look, many, not start, known.inputs)
        )
        found = Trust(wrong, start + len(rows), seal, look.signed_to, look.by)
        return Looked(at, found, frozenset(look.words), inputs)

    def _beside_wrong(self, look: _Look, many: int, whole: bool, known: frozenset[str]) -> Message:
        """What is wrong with what stands beside the entries: words that lead to units, texts that were frozen."""
        if many != len(look.words) or (whole and self._words() != look.words):
            return Message.of("trust.words")
        for digest in sorted(look.inputs - known):
            try:
                self.input(digest)
            except StoreError as why:
                return why.message
        return NOTHING

    def _words(self) -> set[tuple[str, str, int]]:
        with self._reading():
            return {(str(w), str(b), int(u)) for w, b, u in self._db.execute("SELECT word, build, unit FROM mark")}

    def seal_at(self, number: int) -> str:
        """The seal of an entry by its number, that before the first for 0, "" where there is none."""
        with self._reading():
            row = self._db.execute("SELECT seal FROM log WHERE n = ?", (number,)).fetchone()
        return str(row[0]) if row else "" if number else FIRST

    def seal(self) -> tuple[int, str]:
        """(entries, the last one's seal): what a certificate names, so that a log cut off at its end shows too."""
        with self._reading():
            row = self._db.execute("SELECT n, seal FROM log ORDER BY n DESC LIMIT 1").fetchone()
        return (int(row[0]), str(row[1])) if row else (0, FIRST)

    def broken(self) -> Message:
        """What is wrong with the chain of seals, nothing while every entry is as it was sealed and none is missing."""
        return self.trust().wrong

    def said_at(self, number: int) -> tuple[str, Event] | None:
        """(seal, entry) of a place in the log, None where it has none."""
        with self._reading():
            row = self._db.execute("SELECT seal, id, build, made, body, n FROM log WHERE n = ?", (number,)).fetchone()
        return (str(row[0]), read_event(self.path.name, *row[1:])) if row is not None else None

    def units(self, words: str, begins: bool = False) -> list[tuple[str, int]]:
        """(build, unit) of every unit that these words lead to, such as “coil C12”, or that words which begin so do;
        unit 0 for a whole build. What was taken back leads there too: the log is only added to."""
        said = " ".join(words.lower().split())
        question, values = ("word >= ? AND word < ?", (said, said + "\uffff")) if begins else ("word = ?", (said,))
        with self._reading():
            rows = self._db.execute(f"SELECT DISTINCT build, unit FROM mark WHERE {question}", values).fetchall()
        return sorted({(str(build), int(unit)) for build, unit in rows})

    @property
    def shelf_path(self) -> Path | None:
        """The shop's shelf file that this harness is cut from; None while its coils are kept inside."""
        with self._reading():
            row = self._db.execute("SELECT value FROM state WHERE name = 'shelf'").fetchone()
        return (self.path.parent / str(row[0])).resolve() if row and row[0] else None

    @property
    def waived(self) -> str:
        """Who goes without a shelf, and why; "" where nobody said so."""
        with self._reading():
            row = self._db.execute("SELECT value FROM state WHERE name = 'shelf-waived'").fetchone()
        return str(row[0]) if row else ""

    def waive(self, who: str, why: str) -> None:
        """Somebody says that this harness is made without a shelf being read. StoreError where the file can't be
        changed."""
        said = f"{name_kept(who)}: {said_kept(why)}"
        self._may_write()
        with Transaction(self._db, self.path, self._guard):
            self._db.execute("INSERT OR REPLACE INTO state VALUES ('shelf-waived', ?)", (said,))

    def use_shelf(self, path: Path | None) -> None:
        """Another shelf file, or None for the coils inside."""
        self._may_write()
        said = "" if path is None else os.path.relpath(path.resolve(), self.path.resolve().parent)
        with Transaction(self._db, self.path, self._guard):
            self._db.execute("INSERT OR REPLACE INTO state VALUES ('shelf', ?)", (said,))

    @contextmanager
    def shelf(self) -> Iterator[Stock]:
        """The coils in use: those inside, or those of the shelf file."""
        path = self.shelf_path
        if path is None:
            yield self
        else:
            with shelf_file(path) as other:
                yield other


def times_of(events: Iterable[Event]) -> list[tuple[str, str, float, int]]:
    """(operation, tool, seconds a piece, pieces) of what was done and not taken back; a handful attested at once is one
    time, the mean of its pieces."""
    rows = list(events)
    undone = {act.of for one in rows if isinstance(act := one.act, Undo)}
    found: dict[object, list[tuple[str, str, float]]] = {}
    for one in rows:
        act = one.act
        if isinstance(act, Done) and act.seconds is not None and act.op and one.id not in undone:
            found.setdefault((act.handful, act.op, act.tool) if act.handful else one.id, []).append(
                (act.op, act.tool, act.seconds)
            )
    return [(*some[0][:2], sum(row[2] for row in some) / len(some), len(some)) for some in found.values()]
