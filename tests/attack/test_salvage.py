"""Damage is local: what is whole of a harness file is read and taken out, what is not is named, and nothing is proven
across a gap.

What was whole before is read by SQLite from the file as it was; what is taken out of the damaged one is read without
it.
"""

from __future__ import annotations

import gzip
import json
import os
import random
import re
import sqlite3
from collections.abc import Callable
from difflib import ndiff
from pathlib import Path

import pytest

from golden.test_answers import held
from umber_trunk.cli.main import main
from umber_trunk.core.harness.model import Design, Point
from umber_trunk.core.harness.project import Project
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.events import event
from umber_trunk.store.files import DamagedError, StoreError
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.salvage import salvaged_of

PAGE = 4096
FILES = int(os.environ.get("UMBER_KILL_ROUNDS", 20)) * 5 // 2
"""50 in the normal run, 500 with --long."""
TABLES = {
    "revision": "revision",
    "log": "the log",
    "coil": "coils",
    "booking": "booked",
    "frozen": "frozen",
    "input": "frozen with",
}
Hurt = Callable[[random.Random, bytearray], bytearray]


def bulky(number: int) -> Design:
    """So large that revisions fill pages, and every ninth overflows."""
    rng = random.Random(number)
    points = tuple(Point(id=f"p{n}", name=rng.randbytes(40).hex()) for n in range(20 if number % 9 else 200))
    return Design(project=Project(name=f"r{number}"), points=points)


def built(path: Path, revisions: int = 60) -> bytes:
    with ProjectFile.create(path, Design(project=Project(name="r1"))) as project:
        for number in range(2, revisions + 1):
            project.commit(bulky(number), f"edit {number}")
        project.freeze(3, "as sold")
        project.floor.append(
            event(f"e{n}", "B", n, "note", 1 + n % 3, data={"says": f"word {n} " * 20}) for n in range(1, 90)
        )
        project.floor.put_coils([Coil(f"C{n}", "1 mm²", 9.0) for n in range(40)], 1)
        project.floor.book((f"e{n}", "C1", 0.1, 5, "W01") for n in range(1, 60))
        project.floor.append_with((), [random.Random(n).randbytes(300 * n).hex() for n in range(9)])
    return path.read_bytes()


def at_page(rng: random.Random, data: bytearray, bytes_: bytes) -> bytearray:
    start = rng.randrange(len(data) // PAGE) * PAGE
    data[start : start + PAGE] = bytes_
    return data


def flipped(rng: random.Random, data: bytearray) -> bytearray:
    data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
    return data


def swapped(rng: random.Random, data: bytearray) -> bytearray:
    a, b = (page * PAGE for page in rng.sample(range(len(data) // PAGE), 2))
    data[a : a + PAGE], data[b : b + PAGE] = data[b : b + PAGE], data[a : a + PAGE]
    return data


def many(rng: random.Random, data: bytearray) -> bytearray:
    for _ in range(len(data) // PAGE // 5 + 1):
        data = at_page(rng, data, bytes(PAGE))
    return data


HURTS: tuple[Hurt, ...] = (
    flipped,
    swapped,
    many,
    lambda rng, data: at_page(rng, data, rng.randbytes(PAGE)),
    lambda rng, data: at_page(rng, data, bytes(PAGE)),
    lambda rng, data: data[: rng.randrange(len(data) // 3, len(data))],
    lambda rng, data: bytearray(PAGE) + data[PAGE:],
)


def test_what_is_whole_is_taken_and_what_is_lost_is_named(tmp_path: Path) -> None:
    data, rng = built(tmp_path / "loom.umber"), random.Random(12)
    held = sqlite3.connect(":memory:")
    held.deserialize(data)
    whole = {table: {row[0]: row for row in held.execute(f"SELECT * FROM {table}")} for table in TABLES}
    assert all(whole.values())
    for turn in range(FILES):
        hurt = HURTS[turn % len(HURTS)]
        found = salvaged_of(bytes(hurt(rng, bytearray(data))), "loom")
        told = " ".join(map(str, found.lost))
        for table, word in TABLES.items():
            rows = {row[0]: row for row in found.db.execute(f"SELECT * FROM {table}")}
            if "no revision of it is whole" not in told or table != "revision":
                wrong = [key for key in rows if whole[table].get(key) != rows[key]]
                # coils and bookings have no seals: one flipped bit of theirs that still reads well can't be told
                assert not wrong or (hurt is flipped and table in ("coil", "booking", "frozen") and len(wrong) == 1), (
                    turn,
                    table,
                    wrong,
                )
            assert word in told or word[:4] in told or set(whole[table]) == set(rows), (turn, table, told)
        found.db.close()


def test_commands_answer_for_what_is_whole_of_a_damaged_file(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    path, new = tmp_path / "loom.umber", tmp_path / "new.umber"
    built(path, revisions=30)
    with sqlite3.connect(path) as db:  # one bad byte in the newest, one in an older one that a few rest on
        for seq in (30, 12):
            body = bytearray(db.execute("SELECT body FROM revision WHERE seq = ?", (seq,)).fetchone()[0])
            body[20] ^= 1
            db.execute("UPDATE revision SET body = ? WHERE seq = ?", (bytes(body), seq))
    db.close()
    damaged = path.read_bytes()

    def said(*words: str) -> tuple[int, str, str]:
        status = main([str(word) for word in words])
        captured = capfd.readouterr()
        return status, captured.out, captured.err

    with pytest.raises(DamagedError, match="umber salvage"):
        ProjectFile.open(path)
    status, out, err = said("history", str(path), "--json")
    kept = [row["revision"] for row in json.loads(out)["revisions"]]
    assert status == 0
    assert 30 not in kept
    assert 11 in kept
    assert "revisions 12" in err
    assert json.loads(out)["lost"]
    assert said("check", str(path))[0] == 2  # the revision shown is lost: never another one's answer
    assert "say which revision" in said("export", str(path), "-o", str(tmp_path / "x.json"))[2]
    assert said("check", str(path), "--revision", "11")[0] in (0, 1)
    assert said("export", str(path), "--revision", "11", "-o", str(tmp_path / "x.json"))[0] == 0
    assert said("restore", str(path), "--revision", "11", "-o", str(tmp_path / "r11.umber"))[0] == 0
    with ProjectFile.open(tmp_path / "r11.umber") as project:
        assert project.design.project.name == "r11"
    assert said("restore", str(path), "-o", str(tmp_path / "bad.umber"))[0] == 2  # a damaged copy isn't a restored one
    for words in (("units", str(path)), ("log", str(path)), ("verify", str(path))):
        assert said(*words)[0] == 0
    status, out, _ = said("salvage", str(path), "-o", str(new), "--json")
    assert status == 1
    assert json.loads(out)["taken"]["log"] == 89
    assert path.read_bytes() == damaged
    assert said("salvage", str(path), "-o", str(new))[0] == 2  # never over another file
    with ProjectFile.open(new) as project:
        assert project.design.project.name == f"r{kept[-1]}"
        assert not project.floor.trust().wrong
        project.commit(Design(project=Project(name="on")), "on")
        assert project.head == 31  # a number is never used twice


def test_the_end_of_a_log_that_is_lost_proves_nothing_and_planted_things_stay_behind(tmp_path: Path) -> None:
    path = tmp_path / "loom.umber"
    built(path, revisions=3)
    with sqlite3.connect(path) as db:
        db.execute("DELETE FROM log WHERE n > 80")
        db.execute("DELETE FROM state WHERE name = 'sealed'")
        db.execute("CREATE TRIGGER t AFTER INSERT ON log BEGIN DELETE FROM revision; END")
        db.execute("CREATE VIEW v AS SELECT * FROM revision")
        db.execute("CREATE TABLE other (a, b, c)")
        db.execute("INSERT INTO other VALUES (1e308, 'x', zeroblob(100000))")
        db.execute("INSERT INTO coil VALUES ('C-1e9', 1e308)")
        db.execute("PRAGMA user_version = 99")
    db.close()
    with pytest.raises(StoreError):
        ProjectFile.open(path, for_writing=False)
    found = salvaged_of(path.read_bytes(), "loom")
    told = " ".join(map(str, found.lost))
    assert "where the log ended" in told
    for name in ("“t”", "“v”", "“other”"):
        assert f"{name}, which is no part of a harness file" in told
    (tmp_path / "new.umber").write_bytes(found.db.serialize())
    with ProjectFile.open(tmp_path / "new.umber") as project:
        assert "doesn’t end as it did" in str(project.floor.trust().wrong)
        assert project.floor.parts() == {}
        assert [row.seq for row in project.revisions()] == [1, 2, 3]
    for nothing in (b"", b"SQLite format 3\0", random.Random(1).randbytes(40_000), bytes(40_000)):
        with pytest.raises(StoreError, match="Nothing in"):
            salvaged_of(nothing, "x")


def test_revisions_that_are_lost_are_named_in_runs(tmp_path: Path) -> None:
    """Each is written as what it changes in the one before, every ninth whole: what rests on a lost one is lost too."""
    path = tmp_path / "loom.umber"
    built(path, revisions=30)
    with sqlite3.connect(path) as db:
        db.execute("DELETE FROM revision WHERE seq IN (9, 26)")
    db.close()
    assert "revisions 9–17, 26" in map(str, salvaged_of(path.read_bytes(), "loom").lost)


KEPT = sorted((Path(__file__).parents[1] / "store/kept").glob("*.gz"))


def taken_out(data: bytes) -> list[str]:
    """What is taken out of a file, what is said to be lost of it, and how it stands then."""
    try:
        found = salvaged_of(data, "loom")
    except StoreError as why:
        return [f"refused: {why}"]
    state = {str(name): str(said) for name, said in found.db.execute("SELECT * FROM state ORDER BY name")}
    state.pop("id")
    rows = [str(row)[:60] for row in found.db.execute("SELECT seq, base, label FROM revision LIMIT 3")]
    rows += [
        str(row)[:90] for row in found.db.execute("SELECT n, build, made, body, unit FROM log ORDER BY n DESC LIMIT 2")
    ]
    rows += [f"{name}: {len(body)} bytes" for name, body in found.db.execute("SELECT digest, body FROM input LIMIT 2")]
    rows += [
        str(found.db.execute(f"SELECT count(*), min({by}) FROM {table}").fetchone())
        for table, by in (("coil", "id"), ("mark", "word"), ("frozen", "seq"))
    ]
    found.db.close()
    return [f"{found.taken}, head lost {found.head_lost}, {state}", *map(str, found.lost), *rows]


@pytest.mark.parametrize("kept", KEPT, ids=lambda path: path.name.partition(".")[0])
def test_what_is_taken_out_of_files_of_earlier_versions(kept: Path) -> None:
    data, told = gzip.decompress(kept.read_bytes()), {}
    whole = told["whole"] = taken_out(data)
    pages = range(0, len(data), PAGE)
    for start in random.Random(kept.name).sample(pages, min(14, len(pages))):
        for what, hurt in ((f"page {start // PAGE + 1} is nothing", bytes(PAGE)), ("one byte", b"?")):
            at = start if len(hurt) > 1 else start + 999
            rows = taken_out(data[:at] + hurt + data[at + len(hurt) :])
            told[f"{what} at {at}"] = [row for row in ndiff(whole, rows) if row[:1] in "+-"]
    name = f"salvage-{kept.name.partition('.')[0]}.json"
    held(name, {what: [re.sub(r"[0-9a-f]{12,}", "#", one) for one in rows] for what, rows in told.items()})
