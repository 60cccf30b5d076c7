"""What differs: two revisions of a harness, two units as they were built."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass, field
from enum import Enum
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from umber_trunk.core.harness.model import TABLES, Design, Pin
from umber_trunk.core.keep.unit_record import UnitRecord, said_of
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.core.make.operation import Operation

MOST_SAID = 4
"""Of a field with so many values each is said, of one with more how many there are."""


@dataclass(frozen=True)
class Changed:
    """One part that is in both and differs: what of it, before and after."""

    id: str
    what: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class Table:
    """The differences of one table of parts."""

    added: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    changed: tuple[Changed, ...] = ()


@dataclass(frozen=True)
class Difference:
    """Tables that differ by their name; `project` the house rules that do."""

    tables: dict[str, Table] = field(default_factory=dict)
    project: tuple[tuple[str, str, str], ...] = ()

    @property
    def none(self) -> bool:
        """Whether nothing differs."""
        return not self.tables and not self.project

    @property
    def wires(self) -> Table:
        """The wires' differences."""
        return self.tables.get("wires", Table())


def compare(old: Design, new: Design) -> Difference:
    """What one design changes in another, part by part and field by field."""
    tables = {}
    for name in TABLES:
        before, after = ({part.id: part for part in getattr(one, name)} for one in (old, new))
        added, gone = [key for key in after if key not in before], [key for key in before if key not in after]
        changed = [
            Changed(key, _fields(before[key], after[key]))
            for key in after
            if key in before and before[key] != after[key]
        ]
        if added or gone or changed:
            tables[name] = Table(tuple(added), tuple(gone), tuple(changed))
    return Difference(tables, _fields(old.project, new.project))


def _fields(one: BaseModel, two: BaseModel, within: str = "") -> tuple[tuple[str, str, str], ...]:
    """(field, before, after) of all that differ; of what has fields of its own, those of them that do: “covers tube
    part”."""
    found: list[tuple[str, str, str]] = []
    for name in type(one).model_fields:
        before, after = getattr(one, name), getattr(two, name)
        if before != after:
            found += _differs(f"{within}{name}", before, after)
    return tuple(found)


def _differs(name: str, one: Any, two: Any) -> Sequence[tuple[str, str, str]]:
    if isinstance(one, BaseModel) and type(one) is type(two) and not isinstance(one, Pin):
        return _fields(one, two, f"{name} ")
    if isinstance(one, tuple) and isinstance(two, tuple) and all(hasattr(part, "id") for part in (*one, *two)):
        before, after = ({part.id: part for part in parts} for parts in (one, two))
        keys = [key for key in {**before, **after} if before.get(key) != after.get(key)]
        if keys:  # else only their order differs
            return [row for key in keys for row in _differs(f"{name} {key}", before.get(key), after.get(key))]
    return [(name, _said(one), _said(two))]


def _said(value: Any) -> str:
    """A value in words: of a part of a part what isn't as usual."""
    match value:
        case None | "" | ():
            return "none"
        case tuple():
            return f"{len(value)} of them" if len(value) > MOST_SAID else ", ".join(map(_said, value))
        case Enum():
            return str(value.value)
        case BaseModel() if not isinstance(value, Pin):
            own = ((name, getattr(value, name), row) for name, row in type(value).model_fields.items())
            return ", ".join(
                f"{name} {_said(one)}" for name, one, row in own if one != row.get_default(call_default_factory=True)
            )
    return str(value)


def compare_units(one: UnitRecord, two: UnitRecord) -> list[tuple[str, str, str]]:
    """(what, in the one, in the other) for everything that differs between two units."""
    rows = [
        ("revision", str(one.revision), str(two.revision)),
        ("state", one.state, two.state),
        ("coils", _list(one.coils), _list(two.coils)),
        ("tools", _list(f"{t} {s}".strip() for t, s in one.tools), _list(f"{t} {s}".strip() for t, s in two.tools)),
        ("hands", _list(one.hands), _list(two.hands)),
        ("remakes", _list(_ends(one)), _list(_ends(two))),
        ("faults seen", _list(act.code for _, act in one.defects), _list(act.code for _, act in two.defects)),
        ("deviations", _list(said_of(act) for _, act in one.said), _list(said_of(act) for _, act in two.said)),
    ]
    mine, theirs = ({str(act.n): act for _, act in record.tests} for record in (one, two))
    for number in sorted(mine.keys() & theirs.keys(), key=lambda n: (len(n), n)):
        a, b = mine[number], theirs[number]
        if a.ok != b.ok or _apart(a.value, b.value):
            rows.append((f"test {number}, {a.a} to {a.b}", f"{a.value} {a.unit}", f"{b.value} {b.unit}"))
    return [row for row in rows if row[1] != row[2]]


def _apart(a: Any, b: Any) -> bool:
    """Whether two readings differ by more than 10 %."""
    if not isinstance(a, int | float) or not isinstance(b, int | float):
        return bool(a != b)
    return bool(abs(a - b) > 0.1 * max(abs(a), abs(b)))


def _ends(record: UnitRecord) -> list[str]:
    return [f"{act.wire} {act.side}" for _, act in record.remakes]


def _list(values: Iterable[str]) -> str:
    return ", ".join(sorted(str(one) for one in values)) or "none"


@dataclass(frozen=True)
class Upgrade:
    """What turns a unit begun to one revision into one of another: steps that stand, those to be taken back with the
    wires they are about, and those to do."""

    kept: tuple[str, ...]
    voids: tuple[str, ...]
    todo: tuple[str, ...]
    wires_out: tuple[str, ...]

    @property
    def told(self) -> str:
        """In a sentence."""
        out, alone = ", ".join(self.wires_out), len(self.wires_out) == 1
        counts = {"kept": len(self.kept), "voids": len(self.voids), "todo": len(self.todo)}
        return say("upgrade.steps", **counts, one=out if alone else "", several="" if alone else out)


def upgrade(unit: int, done: Iterable[str], old: Sequence[Operation], new: Sequence[Operation]) -> Upgrade:
    """The steps that differ, by unit: a step stands where the new order has it with the same tool, part, length and
    place, and everything it waits for stands too. Proof and closing are done anew wherever anything is."""
    before, after = {one.key: one for one in old}, {one.key: one for one in new}
    finished = {key.partition("|")[2] for key in done if key.partition("|")[0] in (str(unit), "0")}
    same = {key for key, one in after.items() if key in finished and key in before and _alike(before[key], one)}
    over_all = {key for key, one in after.items() if _over_all(one)}
    standing = _standing(after, same, finished, over_all)
    if finished - standing or set(after) - finished:
        standing -= {key for key in over_all if not after[key].sample}
    todo = [key for key in after if key not in standing]
    samples = _samples_of(after, todo)
    alive = {one.wire for one in new if one.wire}
    gone = {one.wire for one in old if one.wire and one.wire not in alive and one.key in finished}
    return Upgrade(
        tuple(sorted(standing)),
        tuple(f"{unit}|{key}" for key in sorted(finished - standing)),
        tuple(key for key in todo if not after[key].sample or key in samples),
        tuple(sorted(gone)),
    )


def _over_all(one: Operation) -> bool:
    """Whether a step is of the whole unit, or a sample: done anew without undoing anything."""
    return one.sample or (one.op in ("test", "look") and not one.wire and not one.end)


def _standing(after: Mapping[str, Operation], same: Set[str], finished: Set[str], over_all: Set[str]) -> set[str]:
    """The steps that stand: done, the same as before, and waiting for nothing that is made anew. What they wait for is
    looked at first, however the order lists them."""
    standing: set[str] = set()

    def holds(key: str) -> bool:
        return key in standing or key in over_all or (key not in finished and key not in after)

    moved = True
    while moved:
        fresh = {key for key in same - standing if all(map(holds, after[key].after))}
        standing |= fresh
        moved = bool(fresh)
    return standing


def _samples_of(after: Mapping[str, Operation], todo: Sequence[str]) -> set[str]:
    """The sample steps of the tools that are taken up again."""
    needed = {one for key in todo if not after[key].sample for one in after[key].after}
    for key in reversed(todo):
        if after[key].sample and key in needed:
            needed |= set(after[key].after)
    return {key for key in needed if key in after and after[key].sample}


def _alike(one: Operation, two: Operation) -> bool:
    names = ("op", "wire", "end", "side", "cavity", "housing", "part", "tool", "setting", "area_mm2")
    lengths = (one.length_m or 0.0, two.length_m or 0.0)
    return all(getattr(one, name) == getattr(two, name) for name in names) and lengths[0] >= lengths[1] - 5e-4
