"""Units in a harness file: found by words, compared, brought to another revision, opened for a repair."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from umber_trunk import __version__
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.keep.compare import Upgrade, upgrade
from umber_trunk.core.keep.stations import disputes
from umber_trunk.core.keep.unit_record import UnitRecord, said_of
from umber_trunk.core.kept_words import name_kept, said_kept
from umber_trunk.core.make.bench import Bench
from umber_trunk.core.make.events import Act, Begin, Event, KeyAct, Merged, Note, Planned, Signed, Strike, event
from umber_trunk.core.make.frozen import Frozen, freeze
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.units import counted
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.files import StoreError
from umber_trunk.store.found_units import kept_unit, records_of
from umber_trunk.store.inputs import figures_of, frozen_of
from umber_trunk.store.project import ProjectFile


def strike(project: ProjectFile, entry: str, who: str, why: str) -> str:
    """Strikes an entry found wrong, by its number in the log or its id: it is kept, shown as struck, and counts no
    more; signed. What was struck, in words. StoreError for an entry there is none of, InputError for one that can't be
    struck."""
    if not who.strip() or not why.strip():
        raise InputError.of("store.say-who-strikes-entry")
    number = counted(entry, 10**12)
    rows = project.floor.events()
    found = next((one for one in rows if one.n == number or one.id == entry), None)
    if found is None:
        raise StoreError.of("store.log-has-no-entry", entry=clipped(entry))
    if isinstance(found.act, Strike | Signed | Merged | KeyAct | Begin | Planned):
        raise InputError.of("store.entry-holds-log-together", n=found.n, found=found.kind)
    if any(isinstance(one.act, Strike) and one.act.of == found.id for one in rows):
        raise InputError.of("store.entry-is-struck-already", n=found.n)
    act = Strike(of=found.id, who=name_kept(who), why=said_kept(why))
    said = Event(new_id(), found.build, now_ms(), act, found.unit, found.step)
    project.floor.append_with([said], (), "strike")
    return say("keep.entry", n=found.n, kind=found.kind, build=found.build, unit=found.unit)


def choose(project: ProjectFile, stands: str, other: str, who: str, why: str, both: bool = False) -> str:
    """Says of two entries that contradict which stands, each by its number or id: the other is struck; `both`: neither
    is. Signed. StoreError where the two don't contradict."""
    if not who.strip() or not why.strip():
        raise InputError.of("store.say-who-chooses")
    rows = project.floor.events()
    wanted = {stands, other}
    found = next(
        (
            one
            for one in disputes(rows)
            if {str(one.one.n), str(one.other.n)} == wanted or {one.one.id, one.other.id} == wanted
        ),
        None,
    )
    if found is None:
        raise StoreError.of("store.entries-and-dont-contradict", stands=clipped(stands), other=clipped(other))
    one = next(each for each in (found.one, found.other) if stands in (each.id, str(each.n)))
    gone = found.other if one is found.one else found.one
    said = {"who": name_kept(who), "why": said_kept(why)}
    act: Act = (
        Note(says="both stand", both=(one.id, gone.id), **said) if both else Strike(of=gone.id, stands=one.id, **said)
    )
    event = Event(new_id(), gone.build, now_ms(), act, gone.unit, gone.step)
    project.floor.append_with([event], (), "strike")
    return say("keep.chosen", told=found.told, stands=one.n, struck=0 if both else gone.n)


def log_said(project: ProjectFile, name: str, kind: str, data: Mapping[str, str]) -> None:
    """Adds an entry about a unit. InputError for a serial another unit has, and for words longer than are kept."""
    record = kept_unit(project, name)
    if not all(str(value).strip() for value in data.values()):
        raise InputError.of("store.field-empty")
    data = {key: name_kept(said) if key in ("who", "serial") else said_kept(said) for key, said in data.items()}
    if kind == "serial":
        others = [
            one
            for one in records_of(project, f"serial {data['serial']}")
            if one.serial == data["serial"]
            and not one.moved_to
            and (one.build, one.unit) != (record.build, record.unit)
        ]
        if others:
            raise InputError.of(
                "store.serial-already", build=others[0].build, unit=others[0].unit, serial=data["serial"]
            )
    project.floor.append([_event(record, kind, dict(data))])


def _event(record: UnitRecord, kind: str, data: dict[str, Any]) -> Event:
    return event(new_id(), record.build, now_ms(), kind, record.unit, "", data)


def frozen_unit(project: ProjectFile, record: UnitRecord) -> Frozen:
    """What a unit was begun with. StoreError where it isn't kept."""
    return frozen_of(project.floor, record.design, record.order)


def unit_figures(project: ProjectFile, record: UnitRecord) -> Results:
    """The figures of what a unit was begun with. StoreError where that isn't kept: it is of an earlier format, and was
    never gone on with."""
    return figures_of(project.floor.kept, frozen_unit(project, record).design_text)


def results_at(project: ProjectFile, revision: int, parts: Shelf | None = None, *known: Results | None) -> Results:
    """The figures of a revision as it would be made now; of those `known`, if they are of that design."""
    design = project.design_at(revision)
    return next((one for one in known if one is not None and one.design == design), None) or analyse(design, parts)


def plan_upgrade(
    project: ProjectFile, name: str, revision: int, parts: Shelf | None = None, *known: Results | None
) -> Upgrade:
    """What turns a unit into one of another revision, made of the `parts` on the shelf. StoreError for a revision there
    is none of, InputError where it is of that one already."""
    record = kept_unit(project, name)
    if revision == record.revision:
        raise InputError.of("store.revision-already", record=record.name, revision=revision)
    new = results_at(project, revision, parts, *known)
    return upgrade(record.unit, record.done, frozen_unit(project, record).making.operations, new.once(operations))


CARRIED = ("remake", "read", "done", "deviation", "mended", "release", "note")
"""What of a unit's log goes over into the build in which it goes on, in this order: remakes first, since they void
steps."""


def take_upgrade(
    project: ProjectFile,
    name: str,
    revision: int,
    found: Upgrade,
    who: str,
    parts: Shelf | None = None,
    *known: Results | None,
) -> str:
    """The decision, noted: the unit goes on in a build of its own, of that revision, which is frozen for it, with the
    steps that stand done. Returns the build's name; the bench and the proof take it up like any other."""
    if not who.strip():
        raise InputError.of("store.say-who-decides")
    who = name_kept(who)
    record = kept_unit(project, name)
    begun = next(one for one in project.floor.builds() if one.build == record.build)
    taken = {one.build for one in project.floor.builds()}
    base = f"{record.build[:50]} u{record.unit} r{revision}"
    build = next(text for n in range(1, 10_000) if (text := base if n == 1 else f"{base} ({n})") not in taken)
    if not next((row.frozen for row in project.revisions() if row.seq == revision), ""):
        project.freeze(revision, f"upgrade of {record.name}"[:80])
    now = now_ms()
    kept = set(found.kept)
    results = results_at(project, revision, parts, *known)
    assert isinstance(begun.act, Begin)
    frozen = freeze(results, plan_order(results, [record.unit], begun.act.school, begun.act.hands), __version__)
    design, order = frozen.digests
    rows: list[Event] = [one for one, _ in (*record.remakes, *record.readings)]
    rows += [*record.done.values(), *(one for one, _ in record.said)]
    fresh = {
        "units": [record.unit],
        "revision": revision,
        "hand": who,
        "version": __version__,
        "design": design,
        "order": order,
    }
    events = [event(new_id(), build, now, "begin", 0, "", {**begun.data, **fresh})]
    if record.serial:
        events.append(event(new_id(), build, now, "serial", record.unit, "", {"serial": record.serial}))
    for kind in CARRIED:
        for one in (row for row in rows if row.kind == kind):
            step = frozen.making.older.get(one.step, one.step)
            if kind in ("done", "read") and step.partition("|")[2] not in kept:
                continue
            data = {key: value for key, value in one.data.items() if key != "coil_m"}  # booked off its coil already
            if kind == "remake":
                data["voids"] = []
            events.append(event(new_id(), build, one.at_ms, kind, one.unit, step, data))
    events.append(
        _event(record, "upgrade", {"revision": revision, "voids": list(found.voids), "who": who, "to": build})
    )
    project.floor.append_with(events, (frozen.design_text, frozen.order_text), "sitting")
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


def repair_of(project: ProjectFile, record: UnitRecord, end: str = "") -> Repair:
    """A unit opened for repair: remakes left at each end, the parts those take, and what has happened to it. InputError
    for an end it doesn't have."""
    frozen = frozen_unit(project, record)
    making = frozen.making
    if end and end not in making.names:
        raise InputError.of("store.no-end-in-its-revision", end=clipped(end))
    bench = Bench(
        making,
        frozen.shelf,
        record.build,
        [one for one in project.floor.events(record.build) if one.unit in (0, record.unit)],
    )
    rows, buy = [], dict[str, int]()
    for one in making.ends:
        if end and one.end != end:
            continue
        left = bench.left(one.wire, one.side, record.unit)
        rows.append(EndLeft(one.wire, one.side, one.name, left.left_mm, left.times, one.parts))
        for part in one.parts:
            buy[part] = buy.get(part, 0) + 1
    story = [f"{said_of(act) or event.kind}{f', {act.who}' if act.who else ''}" for event, act in record.said]
    story += [act.says or event.kind for event, act in record.found]
    story += [
        say("portrait.again", wire=act.wire, side=act.side) + (f": {act.why}" if act.why else "")
        for _, act in record.remakes
    ]
    return Repair(tuple(rows), tuple(sorted(buy.items())), tuple(story))
