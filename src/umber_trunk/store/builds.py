"""Builds begun, gone on with, planned once more: what each is frozen with is on disk before anything is done to it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from umber_trunk import __version__
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.findings import Severity
from umber_trunk.core.make.events import Begin, Event, Planned
from umber_trunk.core.make.frozen import Frozen, freeze, thawed
from umber_trunk.core.make.operations import older_names
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.results import Results
from umber_trunk.store.build import Build
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.files import StoreError
from umber_trunk.store.inputs import frozen_of
from umber_trunk.store.lines_log import add_input, add_line, read_lines, station_path
from umber_trunk.store.project import ProjectFile


def begin(
    project: ProjectFile,
    name: str,
    units: Sequence[int],
    school: str = "",
    hands: int = 1,
    station: str = "",
    hand: str = "",
    shelf: Path | None = None,
    wanted: Wanted = always,
    known: Results | None = None,
    parts: Shelf | None = None,
) -> Build:
    """A new build of the revision shown, frozen for it with all that is proposed for it now, of the `parts` on the
    shelf; `known` are results that will do if they are of its design. StoreError for a name that is taken, InputError
    while a wire's size is open. Faults that are open stand in `faults` of its first entry: what is built with them is
    the builder's decision."""
    if not name.strip() or len(name) > 80:
        raise StoreError.of("store.build-needs-name-of-at-most")
    if any(one.build == name for one in _all_events(project, station)):
        raise StoreError.of("store.build-already-go", name=name)
    results = (
        known if known is not None and known.design == project.design else analyse(project.design, parts, wanted=wanted)
    )
    faults = sum(one.severity is Severity.FAULT for one in results.findings)
    frozen = freeze(results, plan_order(results, units, school, hands, wanted=wanted), __version__)
    if not frozen.making.pieces:
        raise InputError.of("store.nothing-to-make-yet")
    design, order = frozen.digests
    act = Begin.model_validate(
        {"units": frozen.making.order.units, "school": frozen.making.order.school, "hands": hands, "revision": project.head, "harness": project.id, "hand": hand, "faults": faults,
         "version": __version__, "design": design, "order": order, "station": station}
    )  # fmt: skip
    event = Event(new_id(), name, now_ms(), act)
    _keep(project, station, event, frozen)
    if not station and not next((row.frozen for row in project.revisions() if row.seq == project.head), ""):
        project.freeze(project.head, f"build {name}")
    build = Build(project, event, [event], frozen, station, hand, shelf, results)
    build._logged = True
    return build


def _keep(project: ProjectFile, station: str, event: Event, frozen: Frozen) -> None:
    """An entry with what it was frozen with, on disk on return."""
    texts = (frozen.design_text, frozen.order_text)
    if station:
        path = station_path(project.path, station)
        for text in texts:
            add_input(path, text)
        add_line(path, event)
    else:
        project.floor.append_with([event], texts)


def resume(
    project: ProjectFile,
    name: str = "",
    station: str = "",
    hand: str = "",
    shelf: Path | None = None,
    wanted: Wanted = always,
    parts: Shelf | None = None,
) -> Build:
    """Goes on with a build, the newest where none is named, at the very step, by what it was frozen with: nothing is
    planned. One begun by an earlier format is planned once more, of the `parts` on the shelf, and frozen. StoreError
    where there is none."""
    events = _all_events(project, station)
    begun: dict[str, Event] = {}
    for one in events:
        if isinstance(one.act, Begin) and name in ("", one.build):
            begun.setdefault(one.build, one)
    if not begun:
        raise (
            StoreError.of("store.no-build", name=name) if name else StoreError.of("store.nothing-is-being-built-yet")
        )
    last = begun[name] if name else list(begun.values())[-1]
    mine = [one for one in events if one.build == last.build]
    return Build(project, last, mine, _inputs(project, last, mine, station, wanted, parts), station, hand, shelf)


def plan_once_more(project: ProjectFile, build: str, parts: Shelf | None = None) -> None:
    """Plans a build of an earlier format once more, and freezes it, if that wasn't done yet and the file may be
    written."""
    mine = project.floor.events(build)
    begun = next((one for one in mine if isinstance(one.act, Begin)), None)
    if begun is not None and not project.read_only:
        _inputs(project, begun, mine, "", always, parts)


def _inputs(
    project: ProjectFile, begun: Event, mine: Sequence[Event], station: str, wanted: Wanted, parts: Shelf | None
) -> Frozen:
    """What a build was frozen with."""
    act = begun.act
    assert isinstance(act, Begin)
    kept = act if act.order else next((one.act for one in mine if isinstance(one.act, Planned)), None)
    if kept is not None:
        beside = (
            read_lines(station_path(project.path, station)).inputs
            if station and station_path(project.path, station).exists()
            else {}
        )
        if kept.design in beside and kept.order in beside:
            return thawed(beside[kept.design], beside[kept.order])
        return frozen_of(project.floor, kept.design, kept.order)
    results = analyse(project.design_at(act.revision), parts, wanted=wanted)
    order = plan_order(results, act.units, act.school, act.hands, wanted=wanted)
    frozen = freeze(results, order, __version__, results.once(older_names))
    design, digest = frozen.digests
    planned = Event(new_id(), begun.build, now_ms(), Planned(design=design, order=digest, version=__version__))
    if station or not project.read_only:
        _keep(project, station, planned, frozen)
    return frozen


def _all_events(project: ProjectFile, station: str) -> list[Event]:
    events = project.floor.events()
    path = station_path(project.path, station) if station else None
    if path is not None and path.exists():
        known = {one.id for one in events}
        events += [one for one in read_lines(path).events if one.id not in known]
    return events
