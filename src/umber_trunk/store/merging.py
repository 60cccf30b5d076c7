"""Another station's log taken into the harness file's: looked at whole before anything is added, nothing overwritten,
signed by who takes it in."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import UmberError, clipped
from umber_trunk.core.make.events import Begin, Event, KeyAct, Merged, Planned, Signed, Strike
from umber_trunk.core.make.frozen import Frozen, freeze, thawed
from umber_trunk.core.make.operations import older_names
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.unit_acts import Proof
from umber_trunk.core.make.wordless import wordless
from umber_trunk.core.prove.listed import plan_text
from umber_trunk.core.prove.netlist import netlist
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.row_fault import first_told
from umber_trunk.core.sentences import Message, say
from umber_trunk.store.clock import new_id, now_ms
from umber_trunk.store.files import StoreError
from umber_trunk.store.floor import SHOP
from umber_trunk.store.inputs import frozen_of
from umber_trunk.store.lines_log import StationLog, read_lines
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.proofs import meter_of
from umber_trunk.store.stock import keep_booked

OF_THE_FILE = (Signed, Merged, KeyAct, Strike)
"""Acts about the file's own log: no other station's may say them."""


class BadLinesError(StoreError):
    """Lines of a log are bad; what is before them may be taken."""


@dataclass(frozen=True)
class Taken:
    """What was merged: how many entries were new, how many of those no signature covers, whose it is, what is frozen
    otherwise than here."""

    added: int
    unsigned: int
    key: str
    name: str
    otherwise: int
    held_back: str = ""


def merge(project: ProjectFile, path: Path, parts: Shelf | None = None, without_bad: bool = False) -> Taken:
    """Adds another station's log to the harness file's; nothing is overwritten. StoreError with every fault, and
    nothing is added, where a line of it is no entry, an entry is known with other content, or a signature doesn't hold.
    Builds and proofs that are frozen otherwise than this program plans them of the same revision and the `parts` on the
    shelf are noted as such: they prove nothing. `without_bad`: what stands before the first bad line is taken, it and
    all that is chained behind it is held back and named."""
    log, held_back = read_lines(path, project.id), ""
    faults = sorted([*log.faults, *_refused(project, log)], key=lambda fault: fault[0])
    if faults:
        told = first_told([Message.of("log.line", line=line, what=what) for line, what in faults])
        first, last = faults[0][0], max(log.lines, default=0)
        if not without_bad or not first:
            Error = BadLinesError if first else StoreError  # noqa: N806 a class
            raise Error.of("store.nothing-merged", path=path.name, **told)
        held_back = say("log.held-back", **told, first=first, last=last if last > first else 0)
        log = log.before(first)
    known = {one.id for one in project.floor.events()}
    fresh = [one for one in {one.id: one for one in log.events}.values() if one.id not in known]
    if not fresh:
        return Taken(0, 0, log.key, log.name, 0, held_back)
    signed = {one.id for one in log.events[: log.signed]}
    fresh = [one for one in fresh if one.id in signed] + [one for one in fresh if one.id not in signed]
    unsigned = sum(one.id not in signed for one in fresh)
    otherwise = sorted(_otherwise(project, log, fresh, parts))
    act = Merged(
        file=path.name[:200],
        entries=len(fresh),
        unsigned=unsigned,
        key=log.key,
        name=log.name,
        otherwise=tuple(otherwise),
    )
    noted = Event(new_id(), SHOP, now_ms(), act)
    project.floor.append_with([*fresh, noted], log.inputs.values(), "merge")
    with project.floor.shelf() as shelf:
        keep_booked(shelf, project.floor.events())
    return Taken(len(fresh), unsigned, log.key, log.name, len(otherwise), held_back)


def _refused(project: ProjectFile, log: StationLog) -> list[tuple[int, Message]]:
    """What speaks against taking a log in, by line; line 0 is the whole of it."""
    found = []
    here = {one.id: one for one in project.floor.events()}
    units: dict[str, set[int]] = {}
    for one in here.values():
        if isinstance(one.act, Begin):
            units[one.build] = set(one.act.units)
    for line, one in zip(log.lines, log.events, strict=True):
        act = one.act
        if isinstance(act, Begin):
            if act.harness != project.id:
                return [(0, Message.of("log.another-harness"))]
            units.setdefault(one.build, set(act.units))
        if isinstance(act, OF_THE_FILE):
            found.append((line, Message.of("log.of-the-file", kind=one.kind)))
        elif one.build not in units:
            found.append((line, Message.of("log.no-build", build=clipped(one.build))))
        elif one.unit and one.unit not in units[one.build]:
            found.append((line, Message.of("log.no-unit", build=clipped(one.build), unit=one.unit)))
        before = here.setdefault(one.id, one)
        if before is not one and (before.build, before.at_ms, before.unit, before.step, before.kind, before.data) != (
            one.build,
            one.at_ms,
            one.unit,
            one.step,
            one.kind,
            one.data,
        ):
            found.append((line, Message.of("log.other-content", id=one.id[:12])))
    return found


def _otherwise(project: ProjectFile, log: StationLog, fresh: list[Event], parts: Shelf | None) -> set[str]:
    """Digests of orders and lists that this program makes otherwise."""
    found: set[str] = set()
    frozen: dict[str, Frozen] = {}
    begun = {one.build: act for one in (*project.floor.builds(), *log.events) if isinstance(act := one.act, Begin)}
    for one in fresh:
        act = one.act
        if isinstance(act, Begin | Planned) and act.order:
            build = act if isinstance(act, Begin) else begun.get(one.build)
            try:
                kept = (
                    thawed(log.inputs[act.design], log.inputs[act.order])
                    if act.design in log.inputs and act.order in log.inputs
                    else frozen_of(project.floor, act.design, act.order)
                )
                if build is None or not _alike(
                    _planned(project, build, act.version, isinstance(act, Planned), parts), kept
                ):
                    found.add(act.order)
                frozen[one.build] = kept
            except (UmberError, ValueError):
                found.add(act.order)
    for one in fresh:
        if isinstance(act := one.act, Proof) and act.tests:
            try:
                kept = frozen.get(one.build) or _frozen_here(project, one.build)
                meter = meter_of(act)
                net = analyse(kept.design, kept.shelf).once(netlist)
                listed = log.inputs.get(act.tests) or project.floor.input(act.tests)
                if wordless(plan_text(make_plan(net, meter, act.box))) != wordless(listed):
                    found.add(act.tests)
            except (UmberError, ValueError):
                found.add(act.tests)
    return found


def _alike(mine: Frozen, theirs: Frozen) -> bool:
    """Whether two plan the same, in whatever language; the words themselves only the station's signature answers
    for."""
    return mine.design_text == theirs.design_text and wordless(mine.order_text) == wordless(theirs.order_text)


def _planned(project: ProjectFile, begun: Begin, version: str, later: bool, parts: Shelf | None) -> Frozen:
    """What this program makes of the same revision."""
    results = analyse(project.design_at(begun.revision), parts)
    order = plan_order(results, begun.units, begun.school, begun.hands)
    return freeze(results, order, version, results.once(older_names) if later else None)


def _frozen_here(project: ProjectFile, build: str) -> Frozen:
    for one in project.floor.events(build):
        if isinstance(act := one.act, Begin | Planned) and act.order:
            return frozen_of(project.floor, act.design, act.order)
    raise StoreError.of("store.no-build", name=build)
