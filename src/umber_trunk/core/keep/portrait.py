"""A unit as a picture shows it: what was measured at each end within its limits, what its proof read within its bands,
what happened to it when.

    |low ·· ·•· ·    high|   a reading at (value − low) / (high − low) of its band, 0 and 1 at its limits

A band open above, as that of a pull force, ends at the right where the value is without end: 1 − low / value. What has
no figure, as a look, has no
place: it is counted beside the band.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.errors import clipped
from umber_trunk.core.keep.unit_record import UnitRecord, said_of
from umber_trunk.core.make.events import Done, Note, Read, Release
from umber_trunk.core.make.frozen import Making
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.unit_acts import Mended
from umber_trunk.core.sentences import say

FAR = 1.6
"""How far outside of its band a reading is still drawn to scale; beyond it lies at this edge."""


@dataclass(frozen=True)
class Spot:
    """A reading within its band: `at` is 0 at the low limit, 1 at the high one, held to `FAR` outside; `ok` as it was
    judged, `told` in words."""

    at: float
    ok: bool
    told: str


@dataclass(frozen=True)
class Row:
    """The readings of one end, or of one kind of test; `marks` are what else happened there, in words; `good` and `bad`
    of what has no figure."""

    name: str
    end: str
    spots: tuple[Spot, ...]
    marks: tuple[str, ...] = ()
    good: int = 0
    bad: int = 0


@dataclass(frozen=True)
class Moment:
    """Something in a unit's life: `kind` is begun, made, proven, ended, mended, or a smaller mark."""

    at_ms: int
    kind: str
    told: str


@dataclass(frozen=True)
class Portrait:
    """A unit to look at. `crimps` by end, `tests` by kind, `life` in the order of time."""

    name: str
    crimps: tuple[Row, ...]
    tests: tuple[Row, ...]
    life: tuple[Moment, ...]
    coils: tuple[tuple[str, tuple[str, ...]], ...]

    @property
    def outside(self) -> int:
        """Readings that were judged out of their bands, and looks that weren't as they should be."""
        return sum(row.bad + sum(not spot.ok for spot in row.spots) for row in (*self.crimps, *self.tests))


def in_band(value: float | None, low: float | None, high: float | None) -> float | None:
    """Where a value lies in its band, None where it has none; one open below begins at nothing."""
    if value is None or (low is None and high is None):
        return None
    if low is None:
        assert high is not None
        at = value / high if high > 0 else None
    elif high is None:
        at = 1.0 - low / value if low > 0 and value > 0 else 1.0 - FAR if low > 0 else None
    else:
        at = (value - low) / (high - low) if high > low else None
    return None if at is None else min(max(at, 1.0 - FAR), FAR)


def placed(read: Read) -> tuple[float, bool] | None:
    """(where a reading at the bench lies in its band, whether it was judged good), None for a sample and for what has
    no band."""
    at = None if read.sample else in_band(read.value, read.low, read.high)
    return None if at is None else (at, read.verdict in ("accept", "note"))


def places(record: UnitRecord) -> tuple[tuple[float, bool], ...]:
    """All of a unit's readings so."""
    return tuple(one for _, read in record.readings if (one := placed(read)) is not None)


def portrait(record: UnitRecord, making: Making | None) -> Portrait:
    """What there is to see of a unit; ends are told apart by the order it was made by."""
    names = {**(making.names if making is not None else {}), "": "the whole"}
    spots, marks = _spots(record, making), _marks(record, making)
    crimps = tuple(
        Row(name, end, tuple(spots.get(end, ())), tuple(marks.get(end, ())))
        for end, name in names.items()
        if end in spots or end in marks
    )
    coils = tuple((coil, tuple(sorted(wires))) for coil, wires in sorted(record.coils.items()))
    return Portrait(record.name, crimps, _tests(record), tuple(_life(record)), coils)


def _operations(making: Making | None) -> dict[str, Operation]:
    """Step → its operation."""
    return {step.key: step.operation for step in making.order.steps} if making is not None else {}


def _spots(record: UnitRecord, making: Making | None) -> dict[str, list[Spot]]:
    """End → the readings of its crimps, each where it lies in its band."""
    steps, found = _operations(making), dict[str, list[Spot]]()
    for event, read in record.readings:
        one = steps.get(event.step)
        if (seen := placed(read)) is not None:
            told = f"{one.wire if one else event.step}: {read.what} {read.value:g} {read.unit}, {read.verdict}"
            found.setdefault(one.end if one else "", []).append(Spot(*seen, told))
    return found


def _marks(record: UnitRecord, making: Making | None) -> dict[str, list[str]]:
    """End → what happened there beside the plan: started over, released, photographed, at fault."""
    steps, found = _operations(making), dict[str, list[str]]()
    by_side = {(one.wire, one.side): one.end for one in making.ends} if making is not None else {}

    def at_step(step: str) -> list[str]:
        return found.setdefault(steps[step].end if step in steps else "", [])

    for _, again in record.remakes:
        why = f": {again.why}" if again.why else ""
        found.setdefault(by_side.get((again.wire, again.side), ""), []).append(f"{again.wire} started over{why}")
    for event, said in record.said:
        what = said.kind
        if isinstance(said, Note) and said.photo:
            what = "photograph"
        elif isinstance(said, Release):
            what = f"released by {said.who}" if said.who else "released"
        at_step(event.step).append(": ".join(filter(None, (what, said_of(said)))))
    for event, fault in record.open_defects:
        at_step(event.step).append(f"fault: {fault.says or fault.code}")
    return found


def _tests(record: UnitRecord) -> tuple[Row, ...]:
    """A row for each kind of test: readings where they lie in their bands, of all others how many are right and not."""
    kinds: dict[str, tuple[list[Spot], list[bool]]] = {}
    for _, test in record.tests:
        banded, plain = kinds.setdefault(test.test, ([], []))
        at = None if test.over else in_band(test.value, test.low, test.high)
        if at is None:
            plain.append(test.ok)
            continue
        read = f"{test.value:.4g} {test.unit}"
        banded.append(Spot(at, test.ok, say("portrait.read", a=clipped(test.a), b=clipped(test.b), read=read)))
    return tuple(
        Row(kind, "", tuple(banded), (), sum(plain), len(plain) - sum(plain)) for kind, (banded, plain) in kinds.items()
    )


def _life(record: UnitRecord) -> list[Moment]:
    found = [Moment(record.begun_ms, "begun", say("portrait.begun", revision=record.revision))]
    made = [event.at_ms for event in record.done.values() if isinstance(event.act, Done)]
    if record.steps and not record.left and made:
        found.append(Moment(max(made), "made", say("portrait.made", steps=record.steps)))
    found += [
        Moment(event.at_ms, "again", say("portrait.again", wire=act.wire, side=act.side))
        for event, act in record.remakes
    ]
    found += [
        Moment(event.at_ms, "scrapped", say("portrait.scrapped", wire=act.wire, why=act.why))
        for event, act in record.scrapped
    ]
    found += [Moment(event.at_ms, "fault", act.says or act.code) for event, act in record.defects]
    found += [
        Moment(event.at_ms, "mended" if isinstance(act, Mended) else "said", f"{act.kind}: {said_of(act)}")
        for event, act in record.said
    ]
    for passed in (record.proven, record.was if record.proven is None else None):
        if passed is not None:
            found.append(Moment(passed.at_ms, "proven", say("portrait.proven", tests=passed.tests, who=passed.who)))
    if record.ended and record.proven is None:
        found.append(Moment(record.ended_ms, "ended", say("portrait.ended", why=str(record.ended))))
    return sorted(found, key=lambda one: one.at_ms)


def texts_at(found: Portrait) -> dict[str, tuple[str, bool]]:
    """End → (what is said of it on the trunk, whether it calls for a look)."""
    told = {}
    for row in found.crimps:
        out = sum(not spot.ok for spot in row.spots)
        parts = []
        if row.spots:
            many = len(row.spots)
            parts.append(say("portrait.out", out=out, of=many) if out else say("portrait.in-limits", many=many))
        if row.marks:
            parts.append(say("portrait.marks", many=len(row.marks)))
        if row.end:
            told[row.end] = (", ".join(parts), bool(out or row.marks))
    return told


def of_coil(records: Sequence[UnitRecord], coil: str) -> dict[str, tuple[str, ...]]:
    """Unit (BUILD/UNIT) → its wires that came from a coil."""
    return {f"{one.build}/{one.unit}": tuple(sorted(one.coils[coil])) for one in records if coil in one.coils}
