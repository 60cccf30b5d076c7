"""The shop's file: its lists, coils and counted parts, for several windows and stations at once.

Every change is one transaction, which waits for another's and is on disk on return; it stands in a sealed log too, with
who made it, so that a list can be told from its log when its rows are lost. A shelf file of before is one whose lists
are empty: the first change makes it a shop's file, and a harness that is cut from it goes on as it did.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic import ValidationError

from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.harness.edits import change
from umber_trunk.core.keep.seals import FIRST, broken_at, sealed
from umber_trunk.core.kept_words import MOST_TEXT, name_kept, said_kept
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.shop.things import KINDS, Shop
from umber_trunk.store import database
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.database import Transaction
from umber_trunk.store.files import StoreError, damaged, ordinary, put_whole, read_whole
from umber_trunk.store.floor import Floor
from umber_trunk.store.shop_opening import checked_version, connected, grown, keep_day, new_shop
from umber_trunk.store.shop_salvage import salvaged_shop, seal_of
from umber_trunk.store.stock import SHOP_VERSION, Held

if TYPE_CHECKING:
    from umber_trunk.core.shop.lists import ListRead

MOST_ROW = 8_000_000


@dataclass(frozen=True)
class ShopAct:
    """One change of the shop's lists: which row of which list, what it was made (None: taken out), by whom, when."""

    n: int
    at_ms: int
    who: str
    kind: str
    id: str
    row: dict[str, Any] | None
    why: str


class ShopFile:
    """An open shop's file. Use `create`, `open` or `opened`; close it, or use it in a with statement. What can't be
    written is a StoreError with the reason, and nothing is changed."""

    def __init__(self, path: Path, db: sqlite3.Connection, lost: Sequence[Message] = ()) -> None:
        self.path, self._db = path, db
        self.lost = tuple(lost)
        """What of a damaged file couldn't be read, a sentence each; it is read only then."""
        self._changed = False

    @classmethod
    def create(cls, path: Path) -> ShopFile:
        """A new one, empty; StoreError where something is there already."""
        put_whole(path, new_shop(), fresh=True)
        return cls.open(path)

    @classmethod
    def open(cls, path: Path) -> ShopFile:
        """An existing one, or a shelf file, which grows into one: the shelf as it was is kept among the copies first.
        StoreError for what is neither. A damaged one is opened in parts, to be read."""
        if ordinary(path) < database.SMALLEST:
            raise StoreError.of("store.no-shops-file", path=path.name)
        db = connected(path)
        try:
            version = checked_version(db, path)
            if version < SHOP_VERSION:
                grown(db, path)
            database.at_ease(db)
        except sqlite3.OperationalError as why:
            db.close()
            raise StoreError.of("store.cant-be-opened-just-now", path=path.name, why=why) from why
        except (sqlite3.DatabaseError, UnicodeDecodeError):
            db.close()
            return cls._in_parts(path)
        except BaseException:
            db.close()
            raise
        return cls(path, db)

    @classmethod
    def _in_parts(cls, path: Path) -> ShopFile:
        db, lost = salvaged_shop(read_whole(path, database.MOST_BYTES), path.name)
        return cls(path, db, lost)

    def __enter__(self) -> ShopFile:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Keeps the day's copy where this changed anything; closing twice does no harm."""
        if self._changed:
            self._changed = False
            keep_day(self.path, self._db.serialize())
        self._db.close()

    @property
    def floor(self) -> Floor:
        """Its coils, counted parts and what is booked on them."""
        return Floor(self._db, self.path, "it is damaged" if self.lost else "")

    def shop(self) -> Shop:
        """All lists as they stand. StoreError where a row can't be read."""
        found: dict[str, list[Any]] = {kind: [] for kind in KINDS}
        for kind, name, body, seal in self._rows("SELECT kind, id, body, seal FROM item ORDER BY kind, rowid"):
            if kind in found:
                found[kind].append(_row(self.path.name, kind, name, body, seal))
        rates = found.pop("rates")
        lists: dict[str, Any] = {kind: tuple(rows) for kind, rows in found.items()}
        return Shop(**lists, **({"rates": rates[-1]} if rates else {}))

    def rows_of(self, kind: str) -> list[Any]:
        """The rows of one list."""
        found = self._rows("SELECT kind, id, body, seal FROM item ORDER BY kind, rowid")
        return [_row(self.path.name, *row) for row in found if row[0] == kind]

    def put(self, kind: str, rows: Iterable[Any], who: str = "", why: str = "") -> int:
        """Puts rows of a list, each in place of the one of its id. How many were new or changed."""
        return self._write([(kind, row.id, row) for row in rows], who, why)

    def drop(self, kind: str, ids: Iterable[str], who: str = "", why: str = "") -> int:
        """Takes rows out of a list. InputError for one there is none of."""
        gone = list(ids)
        shop = self.shop()
        for name in gone:
            if shop.named(kind, name) is None:
                raise InputError.of("store.no-row-of-kind", name=clipped(name), kind=kind)
        return self._write([(kind, name, None) for name in gone], who, why)

    def replace(self, kind: str, rows: Sequence[Any], who: str = "", why: str = "") -> int:
        """The list is these rows from now on. How many were new, changed or taken out."""
        with self._changing():
            there = {str(row[0]) for row in self._db.execute("SELECT id FROM item WHERE kind = ?", (kind,))}
            gone = there - {row.id for row in rows}
            changes = [(kind, name, None) for name in sorted(gone)] + [(kind, row.id, row) for row in rows]
            return self._written(changes, who, why)

    def put_told(self, kind: str, told: ListRead, who: str = "", replace: bool = False) -> int:
        """Rows of a table: what it has no column for (a job's deliveries, its repair, what was offered) stays as it
        stands in rows that are there. How many were new or changed; with `replace`, or taken out."""
        with self._changing():
            here = {row.id: row for row in self.rows_of(kind)}
            rows = []
            for row in told.rows:
                known = {name: getattr(row, name) for name in told.fields if name in type(row).model_fields}
                rows.append(change(here[row.id], **known) if row.id in here else row)
            return self.replace(kind, rows, who) if replace else self.put(kind, rows, who)

    def edit(self, kind: str, name: str, made: Callable[[Any], Any], who: str = "", why: str = "") -> Any:
        """Changes a row as it stands at that moment, so that nothing of another station's is undone; the row made. It
        is made inside the transaction. InputError where there is no such row."""
        with self._changing():
            row = self._db.execute("SELECT body, seal FROM item WHERE kind = ? AND id = ?", (kind, name)).fetchone()
            if row is None:
                raise InputError.of("store.no-row-in-file", name=clipped(name), kind=kind, path=self.path.name)
            fresh = made(_row(self.path.name, kind, name, *row))
            self._written([(kind, name, fresh)], who, why)
            return fresh

    def add(self, kind: str, row: Any, who: str = "", why: str = "") -> None:
        """Adds a row. InputError where one of its id is there already, whoever put it."""
        with self._changing():
            there = self._db.execute("SELECT id FROM item WHERE kind = ? AND id = ?", (kind, row.id)).fetchone()
            if there is not None:
                raise InputError.of("store.there-already-among", row=row.id, kind=kind, path=self.path.name)
            self._written([(kind, row.id, row)], who, why)

    def _write(self, changes: Sequence[tuple[str, str, Any]], who: str, why: str) -> int:
        with self._changing():
            return self._written(changes, who, why)

    @contextmanager
    def _changing(self) -> Iterator[None]:
        if self.lost:
            raise StoreError.of("store.damaged-not-changed", path=self.path.name)
        with Transaction(self._db, self.path):
            yield
        self._changed = True

    def _written(self, changes: Sequence[tuple[str, str, Any]], who: str, why: str) -> int:
        """Rows and their acts, inside a transaction; what is as it was already is left alone."""
        at_ms, made = now_ms(), 0
        for kind, name, row in changes:
            body = "" if row is None else json.dumps(row.model_dump(mode="json"), ensure_ascii=False)
            if len(body) > MOST_ROW:
                raise StoreError.of("store.longer-than-row", kind=kind, name=clipped(name))
            known = self._db.execute("SELECT body FROM item WHERE kind = ? AND id = ?", (kind, name)).fetchone()
            if (str(known[0]) if known else "") == body:
                continue
            act = {
                "kind": kind,
                "id": name,
                "row": json.loads(body) if body else None,
                "why": said_kept(why, MOST_TEXT),
            }
            self._log(act, who, at_ms)
            if not body:
                self._db.execute("DELETE FROM item WHERE kind = ? AND id = ?", (kind, name))
            elif known:
                values = (body, seal_of(kind, name, body), kind, name)
                self._db.execute("UPDATE item SET body = ?, seal = ? WHERE kind = ? AND id = ?", values)
            else:
                self._db.execute("INSERT INTO item VALUES (?, ?, ?, ?)", (kind, name, body, seal_of(kind, name, body)))
            made += 1
        return made

    def count_coils(self, coils: Sequence[Coil], who: str, replace: bool = False) -> None:
        """Coils as somebody counted them just now; it stands in the log by whom."""
        with self._changing():
            self.floor.put_coils(coils, now_ms(), replace)
            self._note("coils", f"{len(coils)} coils counted", who)

    def count_parts(self, counts: dict[str, float], who: str, more: bool = False) -> dict[str, float]:
        """Parts as somebody counted them just now, in place of the counts there were of these, or what came to them
        (`more`); how many there are."""
        with self._changing():
            made = self.floor.count_parts(counts, more)
            self._note("parts", ", ".join(f"{name} {count:g}" for name, count in made.items())[:300], who)
            return made

    def take_in(self, name: str, judged: str, day: str, coil: Coil | None, who: str) -> float:
        """What was to come is here, once whoever asks: a coil on the shelf, else so many parts more; how much there is
        of it. InputError where it is here already, or a coil of that name is."""
        with self._changing():
            there = {held.coil.id for held in self.coils()}
            if coil is not None and coil.id in there:
                raise InputError.of("store.coil-on-shelf-already", coil=clipped(coil.id))

            def here(one: Any) -> Any:
                if one.came is not None:
                    raise InputError.of("store.here-already", name=clipped(name))
                return change(one, came=day, judged=judged)

            one = self.edit("incoming", name, here, who, "it came")
            if coil is None:
                return self.count_parts({one.part: one.amount}, who, more=True)[one.part]
            self.count_coils([coil], who)
            return coil.length_m

    def take_over(self, was: Shop, now: Shop, who: str = "", why: str = "") -> int:
        """What differs between two shops is so in this one from now on, field by field, in rows as they stand: what
        another station changed meanwhile stays, and so do rows that `now` hasn't. How many rows were changed.
        InputError where a new row's name is taken, or a row is gone."""
        changes: list[tuple[str, str, Any]] = []
        with self._changing():
            for kind in KINDS:
                before = {row.id: row for row in was.rows(kind)}
                here = {row.id: row for row in self.rows_of(kind)}
                for row in now.rows(kind):
                    old, stands = before.get(row.id), here.get(row.id)
                    if row == old:
                        continue
                    if (old is None) != (stands is None):
                        told = "is there already" if old is None else "isn’t there any more"
                        raise InputError.of(
                            "store.row-not-among", row=row.id, told=told, kind=kind, path=self.path.name
                        )
                    if old is not None:
                        fields = type(row).model_fields
                        differs = {one: getattr(row, one) for one in fields if getattr(row, one) != getattr(old, one)}
                        row = change(stands, **differs)
                    changes.append((kind, row.id, row))
            return self._written(changes, who, why)

    def _note(self, kind: str, what: str, who: str) -> None:
        """Something done to the shelf, in the log, inside a transaction."""
        self._log({"kind": kind, "id": "", "row": None, "why": what}, who, now_ms())

    def _log(self, act: dict[str, Any], who: str, at_ms: int) -> None:
        last = self._db.execute("SELECT n, seal FROM act ORDER BY n DESC LIMIT 1").fetchone()
        number, before = (int(last[0]), str(last[1])) if last else (0, FIRST)
        told, act_id, who = json.dumps(act, ensure_ascii=False), new_id(), name_kept(who)
        seal = sealed(before, act_id, who, at_ms, told)
        self._db.execute("INSERT INTO act VALUES (?, ?, ?, ?, ?, ?)", (number + 1, act_id, at_ms, who, told, seal))

    def coils(self) -> list[Held]:
        """Its coils, with what is left of each."""
        return self.floor.coils()

    def acts(self) -> list[ShopAct]:
        """Every change, oldest first."""
        found = []
        for n, made, who, body in self._rows("SELECT n, made, who, body FROM act ORDER BY n"):
            try:
                plain = json.loads(body)
                act = ShopAct(
                    n, made, who, str(plain["kind"]), str(plain["id"]), plain["row"], str(plain.get("why", ""))
                )
            except (ValueError, KeyError, TypeError, AttributeError):
                act = ShopAct(n, made, who, "?", "", None, "this change can’t be read")
            found.append(act)
        return found

    def wrong(self) -> Message:
        """What isn't as it was written, nothing while all is: the chain of changes, and every row."""
        rows = self._rows("SELECT id, who, made, body, seal FROM act ORDER BY n")
        number = broken_at((str(a), str(who), int(made), str(body), str(seal)) for a, who, made, body, seal in rows)
        if number is not None:
            return Message.of("trust.change", number=number)
        for kind, name, body, seal in self._rows("SELECT kind, id, body, seal FROM item"):
            if seal_of(kind, name, body) != seal:
                return Message.of("trust.row", kind=kind, name=name)
        return NOTHING

    def stamp(self) -> tuple[int, int]:
        """Another after anybody changed the file."""
        return int(self._rows("PRAGMA data_version")[0][0]), self._db.total_changes

    def _rows(self, question: str) -> list[Any]:
        try:
            return self._db.execute(question).fetchall()
        except sqlite3.Error as why:
            raise StoreError.of("store.cant-be-read-just-now", path=self.path.name, why=why) from why


def _row(file: str, kind: str, name: str, body: str, seal: str) -> Any:
    if seal_of(kind, name, body) != seal:
        raise damaged(file, "row-changed", kind=kind, name=clipped(name))
    try:
        return KINDS[kind].model.model_validate_json(body)
    except ValidationError as why:
        raise damaged(file, "row-unread", kind=kind, name=clipped(name)) from why


@contextmanager
def shop_file(path: Path, make: bool = False) -> Iterator[ShopFile]:
    """An open shop's file; made first where asked for and nothing is there."""
    shop = ShopFile.create(path) if make and not path.exists() else ShopFile.open(path)
    try:
        yield shop
    finally:
        shop.close()
