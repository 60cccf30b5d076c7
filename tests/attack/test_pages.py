"""Rows read page by page are those that SQLite reads, whatever the size of pages, of rows and of what was deleted; a
table whose pages can't all be reached is said to be none."""

from __future__ import annotations

import math
import random
import sqlite3

import pytest

from umber_trunk.store.pages import Pages

NUMBERS = [
    sign * (1 << bits) + off
    for bits in (0, 7, 8, 15, 16, 23, 31, 40, 47, 55, 62)
    for sign in (1, -1)
    for off in (-1, 0, 1)
]


def filled(size: int, rng: random.Random) -> sqlite3.Connection:
    """Tables of every kind of value and every length up to several pages; every third row is deleted again."""
    db = sqlite3.connect(":memory:", isolation_level=None)
    db.execute(f"PRAGMA page_size = {size}")
    db.execute("PRAGMA auto_vacuum = NONE")
    db.execute("CREATE TABLE a (n INTEGER PRIMARY KEY, i, f, t, b)")
    db.execute("CREATE TABLE c (" + ", ".join(f"c{n}" for n in range(20)) + ")")
    lengths = [rng.randrange(size // 8) for _ in range(150)]
    lengths += [near + off for near in (size - 35, size, 2 * size) for off in range(-14, 15)]
    least = (size - 12) * 32 // 255 - 23
    lengths += [max(least + k * (size - 4) + off, 0) for k in (1, 2) for off in range(-12, 4)]
    numbers = [rng.choice((1, -1)) * rng.randrange(1 << rng.randrange(1, 64)) for _ in range(3 * len(lengths))]
    numbers = list(dict.fromkeys(numbers))[: len(lengths)]  # of every width a row's number may have
    rows = [
        (
            number,
            rng.choice([*NUMBERS, None]),
            rng.choice([rng.gauss(0, 1e9), math.inf, 0.5]),
            "ä" * (length % 7),
            rng.randbytes(length),
        )
        for number, length in zip(numbers, lengths, strict=True)
    ]
    db.executemany("INSERT INTO a VALUES (?, ?, ?, ?, ?)", rows)
    db.executemany("INSERT INTO c VALUES (" + ", ".join("?" * 20) + ")", [range(n, n + 20) for n in range(-5, 30)])
    db.execute("CREATE TABLE d (x)")
    db.executemany("INSERT INTO d VALUES (?)", [(n,) for n in range(700)])
    db.execute("DELETE FROM a WHERE n % 3 = 0")
    return db


@pytest.mark.parametrize("size", [512, 1024, 2048, 4096, 8192, 16384, 32768, 65536])
def test_rows_are_those_that_sqlite_reads(size: int) -> None:
    db = filled(size, random.Random(size))
    data = db.serialize()
    pages = Pages(data)
    wanted = {table: {tuple(row) for row in db.execute(f"SELECT rowid, * FROM {table}")} for table in ("a", "c")}
    found = [(row.rowid, *row.values) for row in pages.rows()]
    assert {
        (row[0], row[0], *row[2:]) for row in found if len(row) == 6 and row[1] is None and isinstance(row[-1], bytes)
    } == wanted["a"]
    assert {row for row in found if len(row) == 21} == wanted["c"]
    assert {row[1] for row in found if len(row) == 2} == set(range(700))
    assert (pages.size, pages.count, pages.bad) == (size, db.execute("PRAGMA page_count").fetchone()[0], set())
    assert len(pages.free) == db.execute("PRAGMA freelist_count").fetchone()[0] > 0
    assert not pages.free & {row.page for row in pages.rows()}
    roots = [row[0] for row in db.execute("SELECT rootpage FROM sqlite_master")]
    assert all(map(pages.whole, [1, *roots]))
    inner = next(root for root in roots if data[(root - 1) * size] == 5)
    start = (inner - 1) * size
    below = [
        int.from_bytes(data[start + at : start + at + 4], "big")
        for at in (8, int.from_bytes(data[start + 12 : start + 14], "big"))
    ]
    for page in (inner, *below):  # the table's own, its first and its last
        hurt = bytearray(data)
        hurt[(page - 1) * size] = 2
        assert not Pages(bytes(hurt)).whole(inner), page
    assert not Pages(data[: size + 1]).whole(inner)
    for cut in (data[:-1], data[: len(data) // 2]):
        assert all((row.rowid, *row.values) in found for row in Pages(cut).rows())
    circle = bytearray(data)
    circle[start + 8 : start + 12] = inner.to_bytes(4, "big")
    assert not Pages(bytes(circle)).whole(inner)
