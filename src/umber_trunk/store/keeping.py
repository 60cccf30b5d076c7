"""Units in a harness file: found by words, compared, brought to another revision, opened for a repair."""

from __future__ import annotations

import time
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.analysis import analyse
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import SIDES, places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.keep.compare import Upgrade, upgrade
from umber_trunk.core.keep.record import UnitRecord, records
from umber_trunk.core.make.bench import Bench
from umber_trunk.core.make.events import Event
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.results import Results
from umber_trunk.core.units import counted
from umber_trunk.store.files import StoreError
from umber_trunk.store.project import ProjectFile


def records_of(project: ProjectFile, words: str = "", begins: bool = False) -> list[UnitRecord]:
    """Every unit, or those that all words lead to: “coil C12 hand Mara” are two questions, both must hold. `begins`: words that begin so do."""
    floor, questions = project.floor, _questions(words)
    wanted: set[tuple[str, int]] | None = None
    for part in questions:
        hits = set(floor.units(part, begins))
        wanted = hits if wanted is None else {one for one in wanted | hits if _in(one, wanted) and _in(one, hits)}
    if wanted is None:
        return records(floor.events())
    by_build: dict[str, set[int]] = {}
    for build, unit in wanted:
        by_build.setdefault(build, set()).add(unit)
    events = [event for build in sorted(by_build) for event in floor.events_of(build, by_build[build])]
    found = [one for one in records(events) if (one.build, one.unit) in wanted or (one.build, 0) in wanted]
    return [one for one in found if all(_holds(one, part, begins) for part in questions)]


def _holds(record: UnitRecord, question: str, begins: bool) -> bool:
    """Whether a question holds by what stands: what was undone, or a proof that a repair took back, doesn't count."""
    said = " ".join(question.lower().split())
    if "proven".startswith(said) if begins else said == "proven":
        return record.proven is not None
    return any(word.startswith(said) if begins else word == said for word in record.words)


def _in(one: tuple[str, int], those: set[tuple[str, int]]) -> bool:
    return one in those or (one[0], 0) in those


ASKED = ("coil", "tool", "hand", "serial", "fault", "remake", "scrap", "revision", "build", "proven", "refused", "deviation")  # fmt: skip


def _questions(words: str) -> list[str]:
    """Words split where a new question begins."""
    found: list[list[str]] = []
    for word in words.split():
        if word.lower() in ASKED or not found:
            found.append([])
        found[-1].append(word)
    return [" ".join(part) for part in found]


def kept_unit(project: ProjectFile, name: str) -> UnitRecord:
    """A unit by BUILD/UNIT or by its serial. StoreError where there is none."""
    build, mark, number = name.rpartition("/")
    unit = counted(number, 10**9) if mark else None
    if unit is not None:
        found = [one for one in records(project.floor.events(build.strip())) if one.unit == unit]
    else:
        hits = project.floor.units(f"serial {name}")
        found = [
            one
            for build, unit in hits
            for one in records(project.floor.events(build))
            if one.unit == unit and one.serial.lower() == name.lower()
        ]
    if not found:
        raise StoreError(f"There is no unit “{name[:80]}”: name it as BUILD/UNIT, or by its serial.")
    last = found[-1]
    while last.moved_to:  # where it goes on
        last = next(one for one in records(project.floor.events(last.moved_to)) if one.unit == last.unit)
    return last


def log_said(project: ProjectFile, name: str, kind: str, data: Mapping[str, Any]) -> None:
    """Adds an entry about a unit. InputError for a serial another unit has."""
    record = kept_unit(project, name)
    if not all(str(value).strip() for value in data.values()):
        raise InputError("Nothing of it may be empty.")
    if kind == "serial":
        others = [
            one
            for one in records_of(project, f"serial {data['serial']}")
            if one.serial == data["serial"]
            and not one.moved_to
            and (one.build, one.unit) != (record.build, record.unit)
        ]
        if others:
            raise InputError(f"{others[0].build} / {others[0].unit} has the serial {data['serial']} already.")
    project.floor.append([_event(record, kind, dict(data))])


def _event(record: UnitRecord, kind: str, data: dict[str, Any]) -> Event:
    return Event(uuid.uuid4().hex, record.build, time.time_ns() // 1_000_000, kind, record.unit, "", data)


def results_of(project: ProjectFile, revision: int, *known: Results | None) -> Results:
    """The figures of a revision, such as a unit's; of those `known`, if they are of that design."""
    design = project.design_at(revision)
    return next((one for one in known if one is not None and one.design == design), None) or analyse(design)


def plan_upgrade(project: ProjectFile, name: str, revision: int, *known: Results | None) -> Upgrade:
    """What turns a unit into one of another revision. StoreError for a revision there is none of, InputError where it is of that one already."""
    record = kept_unit(project, name)
    if revision == record.revision:
        raise InputError(f"{record.name} is of revision {revision} already.")
    old, new = (results_of(project, one, *known) for one in (record.revision, revision))
    return upgrade(record.unit, record.done, operations(old), operations(new))


CARRIED = ("remake", "read", "done", "deviation", "mended", "release", "note")
"""What of a unit's log goes over into the build in which it goes on, in this order: remakes first, since they void steps."""


def take_upgrade(project: ProjectFile, name: str, revision: int, found: Upgrade, who: str) -> str:
    """The decision, noted: the unit goes on in a build of its own, of that revision, which is frozen for it, with the steps that stand done.
    Returns the build's name; the bench and the proof take it up like any other."""
    if not who.strip():
        raise InputError("Say who decides it.")
    record = kept_unit(project, name)
    begun = next(one for one in project.floor.builds() if one.build == record.build)
    taken = {one.build for one in project.floor.builds()}
    base = f"{record.build[:50]} u{record.unit} r{revision}"
    build = next(text for n in range(1, 10_000) if (text := base if n == 1 else f"{base} ({n})") not in taken)
    if not next((row.frozen for row in project.revisions() if row.seq == revision), ""):
        project.freeze(revision, f"upgrade of {record.name}"[:80])
    now = time.time_ns() // 1_000_000
    kept = set(found.kept)
    lists = {"remake": record.remakes, "read": record.readings, "done": list(record.done.values())}
    events = [
        Event(
            uuid.uuid4().hex,
            build,
            now,
            "begin",
            0,
            "",
            {**begun.data, "units": [record.unit], "revision": revision, "hand": who.strip()[:80]},
        )
    ]
    if record.serial:
        events.append(Event(uuid.uuid4().hex, build, now, "serial", record.unit, "", {"serial": record.serial}))
    for kind in CARRIED:
        for one in lists.get(kind, [said for said in record.said if said.kind == kind]):
            if kind in ("done", "read") and one.step.partition("|")[2] not in kept:
                continue
            data = {key: value for key, value in one.data.items() if key != "coil_m"}  # booked off its coil already
            if kind == "remake":
                data["voids"] = []
            events.append(Event(uuid.uuid4().hex, build, one.at_ms, kind, one.unit, one.step, data))
    events.append(
        _event(
            record, "upgrade", {"revision": revision, "voids": list(found.voids), "who": who.strip()[:80], "to": build}
        )
    )
    project.floor.append(events)
    return build


@dataclass(frozen=True)
class EndLeft:
    """An end of a wire as it is: what is left to cut back, for how many more starts, and the parts a start takes."""

    wire: str
    side: str
    place: str
    left_mm: float
    times: int
    parts: tuple[str, ...]


@dataclass(frozen=True)
class Repair:
    """What a repair starts from."""

    ends: tuple[EndLeft, ...]
    buy: tuple[tuple[str, int], ...]
    story: tuple[str, ...]


def repair_of(project: ProjectFile, record: UnitRecord, end: str = "", *known: Results | None) -> Repair:
    """A unit opened for repair: remakes left at each end, the parts those take, and what has happened to it. InputError for an end it doesn't have."""
    results = results_of(project, record.revision, *known)
    if end and end not in index_of(results.design).ends:
        raise InputError(f"There is no end “{end[:40]}” in its revision.")
    begun = next(one for one in project.floor.builds() if one.build == record.build)
    order = plan_order(results, [record.unit], str(begun.data["school"]), 1)
    bench = Bench(
        results,
        order,
        record.build,
        [one for one in project.floor.events(record.build) if one.unit in (0, record.unit)],
    )
    shelf, known_fits = results.shelf, results.once(fitted)
    rows, buy = [], dict[str, int]()
    for one in places_of(results.design, results.shelf).ends:
        if (end and one.end.id != end) or one.side not in SIDES:
            continue
        fitting = known_fits.of(one)
        parts = tuple(
            shelf.name(part)
            for part in (fitting.part, fitting.seal, fitting.ferrule, fitting.shrink, fitting.boot)
            if part and shelf.named(part) is not None
        )
        left = bench.left(one.wire.id, one.side, record.unit)
        rows.append(EndLeft(one.wire.id, one.side, one.name, left.left_mm, left.times, parts))
        for part in parts:
            buy[part] = buy.get(part, 0) + 1
    story = [
        f"{event.data.get('says') or event.data.get('why') or event.kind}{', ' + str(event.data['who']) if event.data.get('who') else ''}"
        for event in (*record.said, *record.found)
    ]
    story += [
        f"{event.data['wire']} {event.data['side']} started over{': ' + str(event.data['why']) if event.data.get('why') else ''}"
        for event in record.remakes
    ]
    return Repair(tuple(rows), tuple(sorted(buy.items())), tuple(story))
