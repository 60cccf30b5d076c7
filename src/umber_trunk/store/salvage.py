"""A new harness file of all that is whole in a damaged one, and what was lost of it.

Revisions are whole by their seals and those they rest on, frozen inputs by their digests, entries of the log by the
chain; a gap in the log stays a gap, so that nothing is proven across it. Coils, bookings and names of frozen revisions
have no seals: where their pages can't all be reached, that is said.
"""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, NamedTuple

from umber_trunk.core.errors import clipped
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.keep.marks import marks
from umber_trunk.core.keep.seals import FIRST, sealed
from umber_trunk.core.make.events import event
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import digest_of, pictured
from umber_trunk.store import database, schema
from umber_trunk.store.clock import new_id
from umber_trunk.store.entries import add_sealed, read_event
from umber_trunk.store.files import StoreError, is_shop, put_whole, read_whole
from umber_trunk.store.floor import MOST_INPUT
from umber_trunk.store.history import KEEP_REVISIONS, LAST_NUMBER, History, seal_of, write_old
from umber_trunk.store.pages import Pages, Row
from umber_trunk.store.shop_salvage import holds_shop, salvaged_shop

STATES = {"head", "tip", "next", "id", "copies", "shelf", "shelf-waived", "sealed"}
MOST_NAMED = 12
WALKED = ("coil", "booking", "frozen", "input", "state")
"""Tables whose rows don’t number themselves: whether all are here is told by whether all their pages can be reached."""


@dataclass
class Salvaged:
    """What came of a damaged file: a database in memory with all that is whole, how much of each, and what was lost, a
    sentence each."""

    db: sqlite3.Connection
    taken: dict[str, int] = field(default_factory=dict)
    lost: list[Message] = field(default_factory=list)
    head_lost: bool = False
    """Whether the revision shown is lost: another one's answers are never given for it."""


def salvage(path: Path, output: Path) -> Salvaged:
    """Writes all that is whole in a harness or shop's file as a new one. StoreError where nothing of either is in it or
    the name is taken."""
    data = read_whole(path, database.MOST_BYTES)
    found = _of_shop(data, path.name) if is_shop(path) or holds_shop(data) else salvaged_of(data, path.name)
    put_whole(output, found.db.serialize(), fresh=True)
    return found


def _of_shop(data: bytes, name: str) -> Salvaged:
    db, lost = salvaged_shop(data, name)
    taken = {
        what: int(db.execute(f"SELECT count(*) FROM {table}").fetchone()[0])
        for what, table in (("rows of lists", "item"), ("changes of the log", "act"), ("coils", "coil"))
    }
    return Salvaged(db, {what: many for what, many in taken.items() if many}, lost)


def salvaged(path: Path) -> Salvaged:
    """All that is whole in a file, in memory; the file is read as bytes and none of it is run."""
    return salvaged_of(read_whole(path, database.MOST_BYTES), path.name)


def salvaged_of(data: bytes, name: str) -> Salvaged:
    """`salvaged` for the bytes of a file."""
    pages = Pages(data)
    tables = _sorted(pages)
    if not any(tables[table] for table in ("revision", "log", "old", "coil")):
        raise StoreError.of("store.nothing-in-is-part-of-harness", name=name)
    db = sqlite3.connect(":memory:", isolation_level=None)
    database.make_tables(db)
    found = Salvaged(database.hardened(db))
    database.at_ease(db)
    state = {str(row.values[0]): str(row.values[1]) for row in tables["state"]}
    _revisions(found, tables, state)
    _inputs(found, tables["input"])
    _log(found, tables, state, name)
    _plain(found, tables)
    _unreachable(found, pages, tables)
    if "id" not in state:
        found.lost.append(Message.of("lost.own-id"))
    state.setdefault("id", new_id())
    rows = [(key, value) for key, value in state.items() if key in STATES]
    db.executemany("INSERT OR REPLACE INTO state VALUES (?, ?)", rows)
    return found


def _sorted(pages: Pages) -> dict[str, list[Row]]:
    """Rows by the table they are of, told by their shape: which table a page belongs to may be lost."""
    found: dict[str, list[Row]] = {
        name: [] for name in ("revision", "log", "log4", "old", "input", "frozen", "coil", "booking", "state", "master")
    }
    for row in pages.rows():
        table = _table_of(row)
        if table:
            found[table].append(row)
    return found


_SHAPES: dict[str, tuple[tuple[type, ...], ...]] = {
    "revision": ((type(None),), (int, type(None)), (int, type(None)), (int,), (str,), (bytes,), (bytes,)),
    "log": ((type(None),), (str,), (str,), (int,), (str,), (str,), (int,)),
    "log4": ((type(None),), (str,), (str,), (int,), (str,)),
    "old": ((type(None),), (str,), (str,)),
    "frozen": ((type(None),), (str,), (int,)),
    "input": ((str,), (bytes,)),
    "booking": ((str,), (str,), (int,), (str,)),
    "master": ((str,), (str,), (str,), (int,), (str, type(None))),
    "coil": ((str,), (str,)),
}


def _table_of(row: Row) -> str:
    kinds = tuple(type(value) for value in row.values)
    for table, shape in _SHAPES.items():
        if len(kinds) == len(shape) and all(kind in wanted for kind, wanted in zip(kinds, shape, strict=True)):
            if table == "coil" and row.values[0] in STATES:
                return "state"
            return table if table != "coil" or str(row.values[1]).startswith("{") else ""
    return ""


def _revisions(found: Salvaged, tables: dict[str, list[Row]], state: dict[str, str]) -> None:
    rows = {row.rowid: row.values for row in tables["revision"] if _sealed_well(row)}
    whole = _resting_on_whole(rows)
    head, following = _number(state.get("head")), _number(state.get("next"))
    if not whole and tables["old"]:
        _old_revisions(found, tables["old"], head)
        for key in ("head", "tip", "next"):
            state.pop(key, None)
        return
    found.db.executemany(
        "INSERT INTO revision VALUES (?, ?, ?, ?, ?, ?, ?)", [(seq, *rows[seq][1:]) for seq in sorted(whole)]
    )
    found.taken["revisions"] = len(whole)
    known = {row.rowid for row in tables["revision"]} | {head, following - 1}
    newest = max([0, *(seq for seq in known if seq < LAST_NUMBER)])
    if newest < 10 * KEEP_REVISIONS + max(whole, default=0):
        kept = range(max(1, newest - KEEP_REVISIONS + 1), newest + 1)
        if gone := sorted(set(kept) - whole):
            found.lost.append(_numbered("revisions", gone))
    if not whole:
        empty = Design(project=Project(name="salvaged"))
        History.insert(found.db, 1, None, None, "salvaged: no revision was whole", empty.model_dump_json())
        found.lost.append(Message.of("lost.design"))
        whole, head = {1}, 1
        found.head_lost = True
    if head not in whole:
        head = _stands_in(found, whole, head)
    tip = _number(state.get("tip"))
    state |= {"head": str(head), "tip": str(tip if tip in whole else head), "next": str(max(newest, *whole) + 1)}


def _sealed_well(row: Row) -> bool:
    base, body, seal = row.values[2], row.values[5], row.values[6]
    return (
        0 < row.rowid < LAST_NUMBER
        and isinstance(body, bytes)
        and (base is None or isinstance(base, int))
        and seal == seal_of(row.rowid, base, body)
    )


def _resting_on_whole(rows: Mapping[int, Sequence[Any]]) -> set[int]:
    """Revisions whose every base, down to one written out in full, is here."""
    whole: set[int] = set()
    for seq in sorted(rows):
        base = rows[seq][2]
        if base is None or base in whole:
            whole.add(seq)
    return whole


def _old_revisions(found: Salvaged, rows: Iterable[Row], head: int) -> None:
    """Those of a file of the first formats, which have no seals: every text that could be a design."""
    old = [(row.rowid, str(row.values[1]), str(row.values[2])) for row in rows if str(row.values[2]).startswith("{")]
    write_old(found.db, sorted(old), head or max((row[0] for row in old), default=1))
    found.taken["revisions"] = len(old)


def _stands_in(found: Salvaged, whole: set[int], head: int) -> int:
    """The revision shown where the one that was is lost: the last before it, else the last there is."""
    stands_in = max([seq for seq in whole if not head or seq < head] or whole)
    found.lost.append(Message.of("lost.shown", head=head, other=stands_in))
    found.head_lost = True
    return stands_in


def _inputs(found: Salvaged, rows: Iterable[Row]) -> None:
    for row in rows:
        digest, body = row.values[0], row.values[1]
        assert isinstance(body, bytes)
        try:
            text = zlib.decompressobj().decompress(body, MOST_INPUT).decode("utf-8", "surrogatepass")
        except (zlib.error, UnicodeDecodeError):
            text = ""
        if digest_of(text) == digest:
            found.db.execute("INSERT OR IGNORE INTO input VALUES (?, ?)", (digest, body))
            found.taken["inputs"] = found.taken.get("inputs", 0) + 1
        else:
            found.lost.append(Message.of("lost.frozen-with", digest=pictured(str(digest))[:12]))


def _log(found: Salvaged, tables: dict[str, list[Row]], state: dict[str, str], name: str) -> None:
    if not tables["log"]:
        old = sorted(tables["log4"], key=lambda row: row.rowid)
        add_sealed(found.db, name, [(str(v[1]), str(v[2]), _int(v[3]), str(v[4])) for v in (row.values for row in old)])
        found.taken["log"] = len(old)
        held = _number(state.get("sealed", "").partition(" ")[0])
        if held:
            found.lost.append(Message.of("lost.whole-log", many=held))
        return
    rows: dict[int, _Entry] = {}
    for row in tables["log"]:
        if 0 < row.rowid < LAST_NUMBER:
            _, event_id, build, made, body, seal, unit = row.values
            rows.setdefault(row.rowid, _Entry(str(event_id), str(build), _int(made), str(body), str(seal), _int(unit)))
    unsure, whole = _judged(rows)
    for n, entry in sorted(whole.items()):
        try:
            one = read_event(name, *entry[:4], n)
        except StoreError:
            one = event(entry.id, entry.build, entry.made, "note")  # said where the log is read
        found.db.execute("INSERT OR IGNORE INTO log VALUES (?, ?, ?, ?, ?, ?, ?)", (n, *entry[:5], one.unit))
        found.db.executemany(
            "INSERT OR IGNORE INTO mark VALUES (?, ?, ?)", [(word, one.build, one.unit) for word in marks(one)]
        )
    rows = whole
    found.taken["log"] = len(rows)
    held = _number(state.get("sealed", "").partition(" ")[0])
    newest = max([held, *rows])
    gone = sorted(set(range(1, newest + 1)) - set(rows)) if newest <= 10 * len(rows) + 1000 else []
    if gone:
        found.lost.append(_numbered("entries", gone))
    if unsure:
        found.lost.append(_numbered("seals", unsure))
    if not held:
        found.lost.append(Message.of("lost.log-end"))
        state["sealed"] = "lost"  # so that nothing is proven by a log whose end is lost


class _Entry(NamedTuple):
    id: str
    build: str
    made: int
    body: str
    seal: str
    unit: int

    def after(self, before: str) -> str:
        """Its seal on the one before."""
        return sealed(before, self.id, self.build, self.made, self.body)


def _judged(rows: Mapping[int, _Entry]) -> tuple[list[int], dict[int, _Entry]]:
    """(entries nothing shows to be what was written, as the one before them is lost; entries to keep). One that is not
    what was sealed is lost; where the next one rests on its contents, only its seal was damaged, and that is worked out
    anew."""
    unsure, whole, seen = list[int](), dict[int, _Entry](), set[str]()
    before: str | None = FIRST
    for n in sorted(rows):
        entry = rows[n]
        if n > 1 and n - 1 not in rows:
            before = None
        if before is None:
            unsure.append(n)
        elif (mine := entry.after(before)) != entry.seal:
            following = rows.get(n + 1)
            if following is None or following.after(mine) != following.seal:
                before = entry.seal
                continue
            entry = entry._replace(seal=mine)
        before = entry.seal
        if entry.id not in seen:
            whole[n] = entry
        seen.add(entry.id)
    return unsure, whole


def _plain(found: Salvaged, tables: dict[str, list[Row]]) -> None:
    """What has no seals: the first row of a name counts."""
    db = found.db
    unread = sorted(
        {clipped(pictured(str(row.values[0]))) for row in tables["coil"] if not _readable(str(row.values[1]))}
    )
    tables["coil"] = [row for row in tables["coil"] if _readable(str(row.values[1]))]
    if unread:
        found.lost.append(Message.of("lost.coils", names=", ".join(unread[:MOST_NAMED])))
    for table in ("coil", "booking"):
        db.executemany(
            f"INSERT OR IGNORE INTO {table} VALUES ({', '.join('?' * len(_SHAPES[table]))})",
            [row.values for row in tables[table]],
        )
        found.taken[table] = int(db.execute(f"SELECT count(*) FROM {table}").fetchone()[0])
    kept = {int(row[0]) for row in db.execute("SELECT seq FROM revision")}
    for row in tables["frozen"]:
        if row.rowid in kept:
            db.execute("INSERT OR IGNORE INTO frozen VALUES (?, ?, ?)", (row.rowid, *row.values[1:]))
        else:
            name = clipped(pictured(str(row.values[1])))
            found.lost.append(Message.of("lost.frozen-revision", number=row.rowid, name=name))


def _readable(body: str) -> bool:
    try:
        return isinstance(json.loads(body), dict)
    except (ValueError, RecursionError):
        return False


def _unreachable(found: Salvaged, pages: Pages, tables: dict[str, list[Row]]) -> None:
    roots = {str(row.values[1]): _int(row.values[3]) for row in tables["master"] if row.values[0] == "table"}
    foreign = [
        str(row.values[1])
        for row in tables["master"]
        if str(row.values[1]) not in schema.TABLES[schema.SCHEMA_VERSION]
        and not str(row.values[1]).startswith("sqlite_autoindex_")
    ]
    for name in foreign:
        found.lost.append(Message.of("lost.foreign", name=clipped(pictured(name))))
    version = int.from_bytes(pages.data[60:64], "big")
    for table in sorted(set(schema.TABLES.get(version, ())) - set(roots)) if roots else []:
        found.lost.append(Message.of("lost.table", table=table))
    for table in WALKED:
        if table in roots and not pages.whole(roots[table]):
            found.lost.append(Message.of("lost.some", what=Message.of(f"lost.some.{table}")))
    if not roots:
        found.lost.append(Message.of("lost.table-list"))


def _number(text: Any) -> int:
    try:
        number = int(str(text)[:40])
    except ValueError:
        return 0
    return number if 0 < number < LAST_NUMBER else 0


def _int(value: Any) -> int:
    return value if isinstance(value, int) else 0


def _numbered(what: str, numbers: list[int]) -> Message:
    """Things by their numbers: “revisions 3–5, 9”, the first stretches of them."""
    runs: list[list[int]] = []
    for number in numbers:
        if runs and number == runs[-1][1] + 1:
            runs[-1][1] = number
        else:
            runs.append([number, number])
    said = [str(a) if a == b else f"{a}–{b}" for a, b in runs]
    more = f" … (+{len(said) - MOST_NAMED})" if len(said) > MOST_NAMED else ""
    return Message.of(f"lost.{what}", many=len(numbers), numbers=", ".join(said[:MOST_NAMED]) + more)
