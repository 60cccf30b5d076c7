"""The shop's file: many hands at once, a kill in the middle, damage, lists in and out."""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from datetime import date, datetime
from functools import partial
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from long_runs import LONG
from umber_trunk.cli.main import main
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import change
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.events import event
from umber_trunk.core.planning.what_if import otherwise
from umber_trunk.core.shop.jobs import accept, close, hand_over, with_build
from umber_trunk.core.shop.lists import columns, read_table, table
from umber_trunk.core.shop.things import KINDS, Delivery, Incoming, Job, Person, Price, Shop, Tool
from umber_trunk.store.demo_shop import put_shop
from umber_trunk.store.files import StoreError
from umber_trunk.store.shop_file import ShopFile, shop_file
from umber_trunk.store.shop_plan import zone_and_now
from umber_trunk.store.stock import PART, keep_booked, shelf_file

WORKER = """
import sys
from pathlib import Path
from umber_trunk.core.harness.edits import change
from umber_trunk.core.shop.things import Tool
from umber_trunk.store.shop_file import shop_file
path, name = Path(sys.argv[1]), sys.argv[2]
with shop_file(path) as shop:
    for number in range(10_000):
        shop.add("tools", Tool(id=f"{name}{number}"), name)
        shop.edit("tools", "count", lambda row: change(row, count=row.count + 1), name)
        print(number, flush=True)
"""


@pytest.fixture
def path(tmp_path: Path) -> Path:
    made = tmp_path / "shop.umber"
    with ShopFile.create(made) as shop:
        shop.put("tools", [Tool(id="count")])
    return made


@pytest.mark.parametrize("seed", range(8 if LONG else 2))
def test_two_stations_killed_lose_nothing_and_do_nothing_twice(path: Path, seed: int) -> None:
    """Each adds rows and counts in one row of both, until it is killed in the middle: what it said was done is there,
    and at most the one under way beside it."""
    draw = random.Random(seed)
    hands = {
        name: subprocess.Popen([sys.executable, "-c", WORKER, str(path), name], stdout=subprocess.PIPE, text=True)
        for name in ("a", "b")
    }
    done = {}
    try:
        with ShopFile.open(path) as window:  # looks on meanwhile
            stamp, until = window.stamp(), time.monotonic() + 30
            while window.stamp() == stamp and time.monotonic() < until:
                time.sleep(0.01)
            assert window.stamp() != stamp
        time.sleep(draw.uniform(0.2, 0.6))
    finally:
        for name, hand in hands.items():
            os.kill(hand.pid, signal.SIGKILL)
            done[name] = len(hand.communicate()[0].splitlines())
    with shop_file(path) as shop:
        assert not shop.wrong()
        rows = {row.id: row for row in shop.shop().tools}
        for name, many in done.items():
            mine = {key for key in rows if key != "count" and key.startswith(name)}
            assert {f"{name}{number}" for number in range(many)} <= mine
            assert len(mine) <= many + 1
        assert sum(done.values()) <= rows["count"].count - 1 <= sum(done.values()) + 2
        acts = [act for act in shop.acts() if act.id == "count"]
        assert [act.row["count"] for act in acts if act.row] == list(range(1, len(acts) + 1))  # none lost, none twice


def test_an_edit_is_made_of_what_stands_then(path: Path) -> None:
    with ShopFile.open(path) as one, ShopFile.open(path) as other:
        before = one.shop().tools[0]
        other.edit("tools", "count", lambda row: change(row, note="other"), "JO")
        one.edit("tools", "count", lambda row: change(row, count=7), "MA")
        row = other.shop().tools[0]
        assert (row.note, row.count, before.note) == ("other", 7, "")
        assert [act.who for act in one.acts()] == ["", "JO", "MA"]
        with pytest.raises(InputError, match="is there already"):
            one.add("tools", Tool(id="count"))
        with pytest.raises(InputError, match="There is no “x”"):
            one.drop("tools", ["x"])
        assert one.put("tools", [row]) == 0  # nothing changed, nothing logged
        gone = len(other.shop().tools) - 1
        assert one.replace("tools", [row, Tool(id="new")], "MA") == gone + 1
        assert [tool.id for tool in other.shop().tools] == ["count", "new"]


def test_a_shelf_file_grows_into_a_shops_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    old = tmp_path / "old.umbershelf"
    with shelf_file(old, make=True) as shelf:
        shelf.put_coils([Coil("C1", "2.5 mm2", 50.0, "copper", "red")], 1)
        shelf.book([("e", "C1", 2.5, 5, "W1")])
    with shop_file(old) as shop:
        shop.put("people", [Person(id="JO")])
        assert [(held.coil.id, held.left_m) for held in shop.coils()] == [("C1", 47.5)]
    with shelf_file(old) as shelf:  # a harness that is cut from it goes on
        assert shelf.coils()[0].left_m == 47.5
    assert list((tmp_path / "data").rglob("* shelf.umber"))


def test_what_is_no_shops_file_is_refused_and_left_alone(path: Path, tmp_path: Path) -> None:
    (tmp_path / "text.umber").write_text("x" * 2000)
    with pytest.raises(StoreError, match="no shop"):
        ShopFile.open(tmp_path / "text.umber")
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE other (a)")
    before = path.read_bytes()
    with pytest.raises(StoreError, match="no part of a shop"):
        ShopFile.open(path)
    assert path.read_bytes() == before
    with sqlite3.connect(path) as db:
        db.execute("DROP TABLE other")
        db.execute("PRAGMA user_version = 9")
    with pytest.raises(StoreError, match="newer"):
        ShopFile.open(path)


def test_what_was_written_past_the_program_shows(path: Path) -> None:
    with sqlite3.connect(path) as db:
        db.execute("UPDATE item SET body = replace(body, '1', '2')")
    with shop_file(path) as shop:
        assert "isn’t what was written" in str(shop.wrong())
        with pytest.raises(StoreError, match="isn't what was written"):
            shop.shop()


@pytest.mark.parametrize("seed", range(40 if LONG else 4))
def test_damage_costs_only_what_lies_there(tmp_path_factory: pytest.TempPathFactory, seed: int) -> None:
    """A page is overwritten: every row that is told is one that was written, and those the log still has come back."""
    draw = random.Random(seed)
    path = tmp_path_factory.mktemp("hurt") / "shop.umber"
    with ShopFile.create(path) as shop:
        shop.put("prices", [Price(id=f"p{n}", part=f"part {n}", each="1.25", since="2026-01-01") for n in range(120)])
        shop.count_coils([Coil(f"C{n}", "2.5 mm2", float(n + 1)) for n in range(60)], "MA")
        whole, coils = shop.shop(), {held.coil for held in shop.coils()}
    data = bytearray(path.read_bytes())
    page = draw.randrange(len(data) // 4096)
    data[page * 4096 : (page + 1) * 4096] = draw.randbytes(4096)
    path.write_bytes(data)
    try:
        opened = ShopFile.open(path)
    except StoreError:
        assert page == 0  # nothing told what it is
        return
    with opened as hurt:
        found = hurt.shop()
        assert set(found.prices) <= set(whole.prices)
        assert {held.coil for held in hurt.coils()} <= coils
        if hurt.lost:
            assert len(found.prices) >= 60
            with pytest.raises(StoreError, match="damaged"):
                hurt.put("people", [Person(id="JO")])
        else:
            assert found == whole


def test_umber_salvage_takes_a_shop_out_whole(path: Path, tmp_path: Path) -> None:
    with shop_file(path) as shop:
        shop.count_coils([Coil("C1", "2.5 mm2", 50.0)], "MA")
        shop.floor.book([("e1", "C1", 2.5, int(time.time() * 1000) + 10, "W01")])
        shop.put("tools", [Tool(id=f"t{n}", note="x" * 300) for n in range(60)])
        long = tuple(f"{n:03} " + "z" * 30 for n in range(300))  # lies over several pages
        shop.put("tools", [Tool(id="long", serves=long)])
    assert main(["salvage", str(path), "-o", str(tmp_path / "same.umber")]) == 0
    with sqlite3.connect(path) as db:  # a row itself is lost: the log has told it; what was taken out stays out
        db.execute("DELETE FROM item WHERE id = 't7'")
    assert main(["salvage", str(path), "-o", str(tmp_path / "told.umber")]) == 1
    with shop_file(tmp_path / "told.umber") as shop:
        assert len(shop.shop().tools) == 62
    with shop_file(path) as shop:
        shop.drop("tools", [f"t{n}" for n in range(10, 60)])
    assert main(["salvage", str(path), "-o", str(tmp_path / "left.umber")]) == 1
    with shop_file(tmp_path / "left.umber") as shop:
        left = {tool.id: tool for tool in shop.shop().tools}
    assert set(left) == {f"t{n}" for n in range(10)} | {"long", "count"}
    assert len(left["long"].serves) == 300
    data = path.read_bytes()
    path.write_bytes(bytes(100) + data[100:])  # its head is gone
    assert main(["salvage", str(path), "-o", str(tmp_path / "found.umber")]) == 1
    for name, many in (("same", 62), ("found", 12)):
        with shop_file(tmp_path / f"{name}.umber") as shop:
            assert len(shop.shop().tools) == many
            assert len(shop.acts()) == (63 if name == "same" else 113)
            assert (shop.floor.booked(), shop.coils()[0].left_m) == ({"e1"}, 47.5)
            assert not shop.wrong()


def test_parts_are_booked_off_as_they_are_crimped_and_back_when_undone(path: Path) -> None:
    def act(key: str, kind: str, at: int, step: str = "", **data: object) -> object:
        return event(key, "b", at, kind, 1, step, data=data)

    with shop_file(path) as shop:
        shop.count_parts({"socket": 10.0, "seal": 4.0}, "MA")
        now = int(time.time() * 1000) + 10
        done = [act(f"d{n}", "done", now, f"1|W{n}", op="crimp") for n in range(3)]
        parts = {f"1|W{n}": "socket" for n in range(3)}
        keep_booked(shop.floor, done, parts)  # type: ignore[arg-type]
        keep_booked(shop.floor, done, parts)  # type: ignore[arg-type]
        assert shop.floor.parts() == {"socket": 7.0, "seal": 4.0}
        keep_booked(shop.floor, [*done, act("u", "undo", now + 1, of="d1")], parts)  # type: ignore[arg-type,list-item]
        assert shop.floor.parts()["socket"] == 8.0
        shop.count_parts({"socket": 20.0}, "JO")  # a count corrects: what was crimped before is in it
        assert shop.floor.parts() == {"socket": 20.0, "seal": 4.0}
        assert [a.who for a in shop.acts() if a.kind == "parts"] == ["MA", "JO"]


def test_what_another_station_did_meanwhile_stays(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What if, a delivery and a count are made of what stands then, each whole or not at all."""
    with shop_file(path) as mine, shop_file(path) as theirs:
        mine.put("jobs", [Job(id="J1", file="a.umber", units=5), Job(id="J2", file="a.umber")])
        mine.put("people", [Person(id="JO")])
        mine.put("incoming", [Incoming(id="D1", part="socket", amount=100, ordered="2026-11-01")])
        mine.count_parts({"socket": 10.0}, "MA")
        was = mine.shop()
        made, _ = otherwise(otherwise(was, "split:J1:2")[0], "hours:JO:tue 18:00-20:00")
        theirs.edit("jobs", "J1", lambda job: change(job, customer="Gull pier"))
        theirs.edit("jobs", "J2", lambda job: change(job, units=3))
        assert mine.take_over(was, made) == 3
        jobs = {job.id: (job.units, job.customer) for job in mine.shop().jobs}
        assert jobs == {"J1": (3, "Gull pier"), "J1-1": (2, ""), "J2": (3, "")}
        assert len(mine.shop().people[0].here) == 6  # the usual days, and an evening
        with pytest.raises(InputError, match="“J1-1” is there already"):
            mine.take_over(was, made)

        day = date(2026, 12, 1)
        for shop, builds, units in ((mine, "b1", (1,)), (theirs, "b2", (2, 3))):
            shop.edit("jobs", "J1", partial(with_build, name=builds))
            shop.edit("jobs", "J1", partial(hand_over, given=Delivery(day="2026-12-01", units=units)))
        with pytest.raises(InputError, match="Unit 1 of J1 was handed over already"):
            theirs.edit("jobs", "J1", partial(hand_over, given=Delivery(day="2026-12-01", units=(1,))))
        mine.edit("jobs", "J1", partial(close, day=day))
        with pytest.raises(InputError, match="J1 is closed already"):
            theirs.edit("jobs", "J1", partial(accept, day=day))
        with pytest.raises(InputError, match="0 of 3 units were handed over"):
            theirs.edit("jobs", "J2", partial(close, day=day, why=" "))
        assert theirs.shop().named("jobs", "J1").builds == ("b1", "b2")

        now = int(time.time() * 1000) + 10
        crimp = event("d", "b", now, "done", 1, "1|W", data={"op": "crimp"})
        keep_booked(theirs.floor, [crimp], {"1|W": "socket"})
        theirs.count_parts({"seal": 5.0}, "JO")
        monkeypatch.setattr(ShopFile, "count_parts", lambda *_, **__: 1 / 0)  # a kill in the middle of it
        with pytest.raises(ZeroDivisionError):
            mine.take_in("D1", "counted", "2026-12-01", None, "JO")
        monkeypatch.undo()
        assert theirs.shop().incoming[0].came is None
        assert mine.take_in("D1", "counted", "2026-12-01", None, "JO") == 109.0
        with pytest.raises(InputError, match="here already"):
            theirs.take_in("D1", "counted", "2026-12-01", None, "MA")
        assert theirs.floor.parts() == {"socket": 109.0, "seal": 5.0}
        assert not theirs.wrong()


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Shop:
    with shop_file(put_shop(tmp_path_factory.mktemp("demo") / "workshop")) as shop:
        assert not shop.wrong()
        return shop.shop()


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind not in ("templates", "stations", "plans", "parts")])
def test_every_list_goes_out_and_comes_back(workshop: Shop, kind: str, tmp_path: Path) -> None:
    rows = workshop.rows(kind)
    assert rows
    if kind == "jobs":
        gone = Delivery(day="2026-11-30", who="JO", units=(1,))
        rows = (change(rows[0], deliveries=(gone,), quote="what was offered"), *rows[1:])
    grid = [["" if cell is None else str(cell) for cell in row] for row in table(kind, rows)]
    found = read_table(kind, grid)
    assert found.faults == ()
    if kind != "jobs":  # what was offered, delivered and mended stays in the file alone
        assert found.rows == rows
    with ShopFile.create(tmp_path / "shop.umber") as shop:
        for replace in (False, True):
            shop.put(kind, rows)
            assert shop.put_told(kind, found, "JO", replace) == 0
            assert shop.shop().rows(kind) == rows
        heads = [at for at, head in enumerate(grid[0]) if head not in ("note", "name")]
        short = read_table(kind, [[row[at] for at in heads] for row in grid])
        assert shop.put_told(kind, short) == 0


def test_the_demo_is_what_it_says(workshop: Shop) -> None:
    counts = {kind: len(workshop.rows(kind)) for kind in ("jobs", "people", "tools", "devices")}
    assert counts == {"jobs": 12, "people": 3, "tools": 9, "devices": 6}


def test_every_fault_of_a_list_is_told_by_row_and_column() -> None:
    grid = [
        ["id", "part", "each", "since", "pack"],
        ["p1", "a", "1.5", "2026-01-05", ""],
        ["p1", "b", "dear", "2026-13-05", "-1"],
        ["", "c", "1", "", ""],
    ]
    found = read_table("prices", grid)
    assert found.rows == ()
    told = " ".join(map(str, found.faults))
    for place in ("row 3, id", "row 3, each", "row 3, since", "row 3, pack", "row 4, id", "row 4, since"):
        assert place in told
    assert "colour" in read_table("tools", [["id", "colour"]]).faults[0].column
    assert str(read_table("people", [["id", "hours"], ["JO", "mon 9 to 5"]]).faults[0]).startswith("row 2, hours")
    assert read_table("devices", [["pin"], ["1"]]).faults
    assert read_table("tools", []).faults


@given(st.lists(st.lists(st.text(max_size=12), max_size=14), max_size=6), st.sampled_from(sorted(KINDS)))
def test_no_table_is_a_bug(grid: list[list[str]], kind: str) -> None:
    found = read_table(kind, [list(columns(kind)), *grid])
    assert not (found.rows and found.faults)
    read_table(kind, grid)


def test_twenty_thousand_rows_and_hostile_names(tmp_path: Path) -> None:
    names = ["'; DROP TABLE item; --", "=cmd()", "\u202ename", "a" * 80, "日本語", "x\ty"]
    with ShopFile.create(tmp_path / "shop.umber") as shop:
        shop.put("tools", [Tool(id=f"t{n}") for n in range(20_000)])
        shop.put("tools", [Tool(id=name) for name in names if len(name) <= 80])
        assert {row.id for row in shop.shop().tools} >= {"日本語", "'; DROP TABLE item; --"}
        assert not shop.wrong()
        with pytest.raises(ValueError, match="id"):
            Job(id="", file="x")
        assert json.loads(Tool(id="t", name="n").model_dump_json())["count"] == 1


@pytest.mark.parametrize("seed", range(200 if LONG else 25))
def test_no_damage_is_a_bug(path: Path, tmp_path: Path, seed: int, capsys: pytest.CaptureFixture[str]) -> None:
    """Bytes changed anywhere: every command answers, or says in a sentence why it can't."""
    draw = random.Random(seed)
    with shop_file(path) as shop:
        shop.put("tools", [Tool(id=f"t{n}", note="x" * draw.randint(1, 200)) for n in range(60)])
    data = bytearray(path.read_bytes())
    for _ in range(draw.choice((1, 3, 40))):
        at = draw.randrange(len(data))
        data[at : at + 1] = draw.randbytes(draw.choice((1, 4, 100)))
    path.write_bytes(data[: draw.choice((len(data), draw.randrange(len(data))))])
    for words in (["shop"], ["shop", "--log"], ["devices", "list"], ["job", "list"]):
        assert main([*words, "--shop", str(path)]) in (0, 1, 2), capsys.readouterr()
    assert main(["salvage", str(path), "-o", str(tmp_path / "out.umber")]) in (0, 1, 2), capsys.readouterr()


def test_a_day_is_planned_from_eight_and_parts_are_never_fewer_than_none(path: Path) -> None:
    with shelf_file(path) as shelf:
        shelf.put_parts({"c1": 3.0, "c2": 5.0})
        shelf.book([("e1", f"{PART}c1", 9.0, 2**50, "more than was counted"), ("e2", f"{PART}c2", 2.0, 2**50, "W1")])
        assert shelf.parts() == {"c1": 0.0, "c2": 3.0}
    with shop_file(path) as shop:
        zone, day = zone_and_now(shop.shop(), "2026-12-01")
        eight = datetime.fromisoformat("2026-12-01T08:00").astimezone().isoformat(timespec="seconds")
        assert day == zone_and_now(shop.shop(), eight)[1]
        assert zone_and_now(shop.shop(), eight.replace("08:00:00", "09:00:00"))[1] == day + 3600
        assert zone is not None
