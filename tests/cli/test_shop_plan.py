"""The workshop's plan from the shell: promises, hours, clock changes, people who leave, jobs cancelled, what if."""

from __future__ import annotations

import csv
import itertools
import json
import shutil
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from icalendar import Calendar

from umber_trunk.cli.main import main
from umber_trunk.core.harness.edits import change
from umber_trunk.core.moments import day_from, end_of, seconds_of, told_in, working_spans, zone_of
from umber_trunk.core.planning.tasks import Hand
from umber_trunk.core.shop.things import Hours, Person
from umber_trunk.store.demo_shop import put_shop
from umber_trunk.store.shop_file import shop_file

NOW = "2026-12-01T08:00+01:00"
WEEK = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return put_shop(tmp_path_factory.mktemp("demo") / "workshop").parent


@pytest.fixture
def shop(workshop: Path, tmp_path: Path) -> Path:
    """The workshop with its small jobs alone: they are planned in a moment."""
    shutil.copytree(workshop, tmp_path / "shop")
    with shop_file(tmp_path / "shop" / "shop.umber") as file:
        file.drop("jobs", ["J103", "J104", "J107", "J109"])
        file.edit("jobs", "J105", lambda job: change(job, units=4))
    return tmp_path / "shop" / "shop.umber"


@pytest.fixture
def plan(capsys: pytest.CaptureFixture[str]) -> Any:
    def run(path: Path, *words: str, now: str = NOW, status: int | None = None) -> Any:
        code = main(["plan", str(path), "--now", now, "--json", *words])
        said = capsys.readouterr()
        assert code in ((0, 1) if status is None else (status,)), said
        return json.loads(said.out) if code < 2 else said.err

    return run


def at(text: str) -> datetime:
    return datetime.fromisoformat(text)


def test_the_plan_says_all_it_is_asked_for(workshop: Path, plan: Any) -> None:
    shop = workshop / "shop.umber"
    found = plan(shop)
    assert {"format", "jobs", "tasks", "bound", "objective"} <= found.keys()
    jobs = {row["job"]: row for row in found["jobs"]}
    assert {"J103", "J105", "J106"} <= jobs.keys()
    assert not {"J104", "J108", "J111", "J112", "J110"} & jobs.keys()  # not accepted, cancelled, closed, a repair
    for row in jobs.values():
        assert at(NOW) < at(row["ready_p50"]) <= at(row["ready_p90"])
        assert row["late"] is None or 0 <= row["late"] <= 1
        assert row["holds"]
    assert jobs["J106"]["late"] > 0.9  # what it lacks can't be here in time
    assert at(jobs["J106"]["ready_p50"]) > at("2026-12-08T00:00+01:00")
    with shop_file(shop) as file:
        people = {person.id: person for person in file.shop().people}
    by_hand: dict[str, list[dict[str, Any]]] = {}
    for row in found["tasks"]:
        start, person = at(row["start"]), people[row["who"]]
        assert start >= at(NOW)
        hours = [hour for hour in person.hours if hour.day == WEEK[start.weekday()]]
        assert any(hour.start <= f"{start:%H:%M}" < hour.end for hour in hours), row
        assert f"{start:%Y-%m-%d}" not in person.off
        op = row["what"].split()[0]
        assert (
            not person.may or op in person.may or not any(op in other.may or not other.may for other in people.values())
        )
        by_hand.setdefault(row["who"], []).append(row)
    for rows in by_hand.values():
        assert all(at(a["end"]) <= at(b["start"]) for a, b in itertools.pairwise(rows))
    assert found["bound"]["late_days"] <= found["objective"]["late_days"]
    assert found["bound"]["set_ups"] <= found["objective"]["set_ups"]
    assert {row["who"] for row in found["today"]} == set(people)
    assert plan(shop)["tasks"] == found["tasks"]  # the same answer twice


def test_a_plan_that_is_kept_stays_and_what_moved_is_said(shop: Path, plan: Any) -> None:
    first = plan(shop, "--keep")
    again = plan(shop)
    assert again["moved"] == []
    assert again["tasks"] == first["tasks"]
    with shop_file(shop) as file:  # somebody leaves
        file.put("people", [change(file.shop().named("people", "IN"), off=("2026-12-01", "2026-12-02"))])
    moved = plan(shop)
    assert moved["moved"]
    with shop_file(shop) as file:
        file.drop("people", ["IN"])
    gone = plan(shop)
    assert "IN" not in {row["who"] for row in gone["tasks"]}
    with shop_file(shop) as file:  # a job is cancelled half made, the plan is older than that
        file.edit("jobs", "J101", lambda job: change(job, cancelled="the boat sank"))
    assert "J101" not in {row["job"] for row in plan(shop)["jobs"]}
    with shop_file(shop) as file:
        file.edit("jobs", "J105", lambda job: change(job, file="gone.umber"))
    lost = plan(shop)
    assert [row["job"] for row in lost["lost"]] == ["J105"]
    with shop_file(shop) as file:
        file.replace("people", [])
    assert {row["who"] for row in plan(shop)["tasks"]} == {"somebody"}


def test_what_if_is_planned_beside_it_and_taken(shop: Path, plan: Any) -> None:
    whole = plan(shop, "--if", "first:J101")
    found = whole["instead"]
    assert found["told"] == ["J101 goes first"]
    was, then = ({row["job"]: at(row["planned"]) for row in one["jobs"]} for one in (whole, found))
    assert then["J101"] <= was["J101"]  # it is ready sooner, though it wasn't late
    later = plan(shop, "--if", "later:D1:7", "--if", "hours:JO:fri 08:00-16:00", "--if", "tool:hex-50")
    assert len(later["instead"]["told"]) == 3
    parts = plan(shop, "--if", "split:J105:2")["instead"]["jobs"]
    assert {"J105", "J105-1"} <= {row["job"] for row in parts}
    with shop_file(shop) as file:
        before = file.shop()
    plan(shop, "--if", "tool:hex-50", "--take", "--keep")
    with shop_file(shop) as file:
        assert file.shop().named("tools", "hex-50").count == before.named("tools", "hex-50").count + 1
        assert file.shop().jobs == before.jobs
        assert file.acts()[-1].kind == "plans"
    for said in (
        "first:J999",
        "tool",
        "later:D1:soon",
        "hours:JO:some day",
        "split:J101:9",
        "paint:x",
        "hours:XX:mon 08:00-09:00",
    ):
        assert plan(shop, "--if", said, status=2)
    assert "--take" in plan(shop, "--take", status=2)
    for now in ("tomorrow", "2026-12-01T08:00", "2026-13-01T08:00+01:00"):
        assert "no moment" in plan(shop, now=now, status=2)


def test_calendar_and_table(shop: Path, plan: Any, tmp_path: Path) -> None:
    found = plan(shop, "-o", str(tmp_path / "p.csv"))
    plan(shop, "-o", str(tmp_path / "p.ics"), "--who", "MA")
    with (tmp_path / "p.csv").open(encoding="utf-8-sig") as file:
        assert len(list(csv.reader(file))) == len(found["tasks"]) + 1
    entries = list(Calendar.from_ical((tmp_path / "p.ics").read_bytes()).walk("VEVENT"))
    work = [one for one in entries if "ready" not in str(one["summary"])]
    assert all(str(one["summary"]).startswith("MA: ") for one in work)
    assert min(one.decoded("dtstart") for one in work) == at(NOW)
    ready = {str(one["summary"]).split()[0] for one in entries if "ready" in str(one["summary"])}
    assert ready == {row["job"] for row in found["jobs"]}
    assert "written as .ics" in plan(shop, "-o", str(tmp_path / "p.doc"), status=2)


def test_clock_changes_and_leap_days(shop: Path, plan: Any) -> None:
    """29 March 2026: 02:00 is 03:00 in central Europe; 28 February 2028 is followed by the 29th."""
    zone = zone_of("Europe/Berlin", "")
    night = working_spans(((5, "22:00", "24:00"), (6, "00:00", "06:00")), (), zone, day_from("2026-03-28"), 2)
    assert sum(end - start for start, end in night) == (2 + 5) * 3600  # an hour of the night isn't there
    autumn = working_spans(((6, "00:00", "06:00"),), (), zone, day_from("2026-10-25"), 1)
    assert autumn[0][1] - autumn[0][0] == 7 * 3600
    assert told_in(end_of(day_from("2028-02-28"), zone), zone) == "2028-02-29T00:00:00+01:00"
    assert seconds_of("2026-07-01T08:00", zone) == seconds_of("2026-07-01T06:00+00:00", zone)
    with pytest.raises(ValueError, match="no time zone"):
        zone_of("Nowhere/Town", "")
    morning = working_spans(((5, "08:00", "12:00"), (6, "08:00", "12:00")), (), zone, day_from("2026-03-28"), 2)
    begin, end = Hand("MA", tuple(morning)).through(seconds_of("2026-03-28T11:30", zone), 3600)
    assert (told_in(begin, zone), told_in(end, zone)) == ("2026-03-28T11:30:00+01:00", "2026-03-29T08:30:00+02:00")
    with shop_file(shop) as file:
        file.edit("rates", "rates", lambda rates: change(rates, zone="Europe/Berlin"))
        hours = tuple(Hours(day=day, start="08:00", end="12:00") for day in WEEK)
        file.replace("people", [Person(id="MA", hours=hours)])
    for now in ("2026-03-28T11:30+01:00", "2028-02-28T11:30+01:00"):
        rows = plan(shop, now=now)["tasks"]
        assert rows
        assert all(8 <= at(row["start"]).hour < 12 for row in rows)
