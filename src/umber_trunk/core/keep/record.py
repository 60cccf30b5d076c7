"""Units as they were built: revision, serial, coils, tools, hands, readings, deviations, who decided; and whether each
is proven, by what stands. The log is gone through once, in its own order, without what was taken back or struck; each
unit is folded by itself (`unit_fold`).
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from typing import TYPE_CHECKING

from umber_trunk.core.keep.stations import Dispute, disputes
from umber_trunk.core.keep.unit_fold import FOR, UnitFold
from umber_trunk.core.keep.unit_record import Inputs, UnitRecord
from umber_trunk.core.make.events import Begin, Event, Merged, Planned, Strike, Undo

if TYPE_CHECKING:
    from umber_trunk.core.make.frozen import Making


NO_INPUTS = Inputs(lambda _: None, lambda _: None, 0)
"""For entries read without what was frozen with them: nothing is proven then."""


def records(
    events: Iterable[Event], inputs: Inputs = NO_INPUTS, only: Collection[tuple[str, int]] | None = None
) -> list[UnitRecord]:
    """Every unit of every build, or `only` these, in the order they were begun. What is about all units of a build
    stands in each of them."""
    rows = list(events)
    struck = {act.of: (one, act) for one in rows if isinstance(act := one.act, Strike)}
    planned = {one.build: act for one in reversed(rows) if isinstance(act := one.act, Planned)}
    otherwise = {digest for one in rows if isinstance(act := one.act, Merged) for digest in act.otherwise}
    merged = _merged(rows)
    open_: dict[tuple[str, int], list[Dispute]] = {}
    for each in disputes(rows):
        open_.setdefault((each.build, each.unit), []).append(each)
    undone = _undone(rows, struck, merged)
    folds: dict[tuple[str, int], UnitFold] = {}
    builds: dict[str, list[UnitFold]] = {}
    for one in rows:
        act = one.act
        if isinstance(act, Begin) and one.build not in builds:
            whole = only is None or (one.build, 0) in only
            wanted = [n for n in dict.fromkeys(act.units) if whole or (only and (one.build, n) in only)]
            begun = [_begun(one, act, planned.get(one.build), n) for n in wanted]
            builds[one.build] = [UnitFold(record, inputs, otherwise) for record in begun]
            folds |= {(one.build, fold.record.unit): fold for fold in builds[one.build]}
        own = folds.get((one.build, one.unit))
        mine = [own] if own is not None else builds.get(one.build, []) if one.unit == 0 else []
        for fold in mine:
            fold.take(one, one.id in undone, struck.get(one.id), merged.get(one.id))
    for (build, unit), fold in folds.items():
        fold.close(open_.get((build, unit), []) + open_.get((build, 0), []))
    return [fold.record for fold in folds.values()]


def _begun(one: Event, act: Begin, planned: Planned | None, unit: int) -> UnitRecord:
    """The record of a unit nothing is done to yet; a build of an earlier format has what it was planned with later."""
    frozen = act if act.order else planned or act
    return UnitRecord(
        one.build, unit, act.revision, one.at_ms, order=frozen.order, design=frozen.design, earlier=not act.order
    )


def _merged(rows: list[Event]) -> dict[str, bool]:
    """Ids of entries that came with another station's log, and whether its signature covers them."""
    merges = [(one.n - act.entries, one.n - act.unsigned, one.n) for one in rows if isinstance(act := one.act, Merged)]
    return {one.id: one.n < unsigned for first, unsigned, last in merges for one in rows if first <= one.n < last}


def _undone(rows: list[Event], struck: Mapping[str, object], merged: Mapping[str, bool]) -> set[str]:
    """Ids of entries taken back. An entry that another station's log takes back without being of that log stays: who
    wasn't there can't take a fault back. Nor does an entry that is struck itself take back anything but what spoke for
    the unit: striking makes nothing more proven."""
    speaks_for = {one.id for one in rows if isinstance(one.act, FOR)}
    return {
        act.of
        for one in rows
        if isinstance(act := one.act, Undo)
        and not (one.id in merged and act.of not in merged)
        and (one.id not in struck or act.of in speaks_for)
    }


def made_wires(record: UnitRecord, making: Making | None) -> set[str]:
    """Wires of a unit with every step about them done."""
    about, open_ = set[str](), set[str]()
    for one in making.operations if making is not None else ():
        if one.wire and not one.sample:
            about.add(one.wire)
            if f"{record.unit}|{one.key}" not in record.done and f"0|{one.key}" not in record.done:
                open_.add(one.wire)
    return about - open_
