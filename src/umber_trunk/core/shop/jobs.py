"""A job's state, folded from what stands: what was offered and accepted, what its builds' logs say, what was handed
over; and what holds it up.

A unit counts as proven only while its record does, so a job that was proven may be made again.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from typing import Any

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.edits import change
from umber_trunk.core.harness.price import plain_part
from umber_trunk.core.kept_words import MOST_TEXT, name_kept, said_kept
from umber_trunk.core.moments import Day, day_from
from umber_trunk.core.sentences import NOTHING, Message, say
from umber_trunk.core.shop.things import Delivery, Job, Repair, Shop

ASKED, QUOTED, ACCEPTED, CUT, MADE = "asked", "quoted", "accepted", "cut", "made"
PROVEN, HANDED, CLOSED, CANCELLED = "proven", "handed over", "closed", "cancelled"
STATES = (ASKED, QUOTED, ACCEPTED, CUT, MADE, PROVEN, HANDED, CLOSED, CANCELLED)
SOON_DAYS = 7
"""A day that is due sooner is said."""
MOST_TOLD = 3
"""So many units with something against them, and lengths that are lacking, are said of a job."""


@dataclass(frozen=True)
class UnitSeen:
    """A unit of the job's builds: what is cut, made, proven of it, and why it isn't proven where something speaks
    against it."""

    build: str
    unit: int
    cut: bool
    left: int
    of: int
    proven: bool
    wrong: Message = NOTHING

    @property
    def made(self) -> bool:
        """Whether nothing is left to make."""
        return self.left == 0 and self.of > 0


@dataclass(frozen=True)
class JobSeen:
    """What a job's harness file says: `lost` why it can't be read; its newest revision; its units; wires and ends that
    something is wrong with."""

    lost: Message = NOTHING
    revision: int = 0
    digest: str = ""
    units: tuple[UnitSeen, ...] = ()
    faults: int = 0
    waits: tuple[Message, ...] = ()

    @property
    def proven(self) -> frozenset[int]:
        """Numbers of the units that are proven, in each of the job's builds that has one of that number."""
        open_ = {unit.unit for unit in self.units if not unit.proven}
        return frozenset(unit.unit for unit in self.units) - open_


@dataclass(frozen=True)
class JobState:
    """How a job stands: its state, how many units are begun, cut, made, proven and handed over, what holds it up."""

    job: Job
    state: str
    begun: int
    cut: int
    made: int
    proven: int
    handed: int
    holds: tuple[Message, ...] = field(default=())

    @property
    def told(self) -> str:
        """The state in a few words."""
        of = self.job.units
        match self.state:
            case "made":
                return say("job.of-made", many=min(self.made, of), of=of)
            case "proven" if self.proven < of:
                return say("job.of-proven", many=self.proven, of=of)
            case "handed over" if self.handed < of:
                return say("job.of-handed", many=self.handed, of=of)
        return self.state

    def late(self, day: Day) -> int:
        """Days a promise is over on a day; 0 where it isn't, or nothing was promised."""
        due = self.job.due
        done = self.state in (CLOSED, CANCELLED) or self.handed >= self.job.units
        return 0 if due is None or done else max((day - day_from(due)).days, 0)


@dataclass(frozen=True)
class Lack:
    """What a shelf lacks for a job: so many metres of a wire, or pieces of a part."""

    what: str
    amount: float
    metres: bool = False

    @property
    def said(self) -> Message:
        """In words."""
        return Message.of(f"shop.lack.{'metres' if self.metres else 'pieces'}", amount=self.amount, what=self.what)


def state_of(job: Job, seen: JobSeen, shop: Shop, day: Day, short: Sequence[Lack] = ()) -> JobState:
    """The state of a job on a day; `short` is what the shelf lacks for it."""
    begun, cut = len(seen.units), sum(unit.cut for unit in seen.units)
    made, proven = sum(unit.made for unit in seen.units), sum(unit.proven for unit in seen.units)
    handed = len(job.handed)
    state = _state(job, begun, cut, made, proven, handed)
    holds = () if state in (CLOSED, CANCELLED) else tuple(_holds(job, seen, shop, day, short, state))
    return JobState(job, state, begun, cut, made, proven, handed, holds)


def _state(job: Job, begun: int, cut: int, made: int, proven: int, handed: int) -> str:
    if job.cancelled:
        return CANCELLED
    if job.closed is not None:
        return CLOSED
    if handed:
        return HANDED
    if job.accepted is None:
        return QUOTED if job.quoted is not None else ASKED
    if proven:
        return PROVEN
    if made:
        return MADE
    return CUT if begun >= job.units and cut >= job.units else ACCEPTED


def _holds(job: Job, seen: JobSeen, shop: Shop, day: Day, short: Sequence[Lack], state: str) -> list[Message]:
    """What holds a job up, in sentences without their dots: what nobody but somebody at the shop can settle first."""
    found = list[Message]()
    if seen.lost:
        found.append(Message.of("hold.harness-lost", why=seen.lost))
    elif job.accepted is None:
        found.append(Message.of("hold.not-accepted" if job.quoted is not None else "hold.not-offered"))
    changed = job.digest and job.digest != seen.digest and job.revision != seen.revision
    if changed and not seen.lost and not seen.units:
        found.append(Message.of("hold.changed-since", revision=job.revision))
    if seen.faults and not seen.units:
        found.append(Message.of("hold.faults", count=seen.faults))
    wrong = [one for one in seen.units if one.wrong.text][:MOST_TOLD]
    found += [Message.of("hold.unit", unit=one.unit, build=one.build, why=one.wrong) for one in wrong]
    if job.accepted is not None and state in (ACCEPTED, CUT):
        found += [Message.of("hold.lacks", what=one.said) for one in short[:MOST_TOLD]]
    lacking = {plain_part(one.what) for one in short}
    found += [
        Message.of("hold.to-come", part=one.part, supplier=one.supplier, due=one.due)
        for one in shop.incoming
        if one.came is None and plain_part(one.part) in lacking
    ]
    found += [Message.of("hold.alarm", says=says) for says in seen.waits]
    if job.due is not None and state not in (HANDED,):
        days = (day_from(job.due) - day).days
        if days < 0:
            found.append(Message.of("hold.overdue", days=-days))
        elif days <= SOON_DAYS and job.accepted is not None:
            found.append(Message.of("hold.due-soon", days=days))
    return found


def accept(job: Job, day: Day) -> Job:
    """The customer has accepted; the first day counts. InputError where nothing more is done for it."""
    return _with(job, accepted=job.accepted or day.isoformat())


def with_build(job: Job, name: str) -> Job:
    """A build of its harness's log is the job's. InputError where it is already."""
    if not name or name in job.builds:
        raise InputError.of("shop.say-which-build", job=job.id)
    return _with(job, builds=(*job.builds, name_kept(name)))


def hand_over(job: Job, given: Delivery, begun: Collection[int] = ()) -> Job:
    """Units went out. InputError where one of them has already, and for one that is neither of the job's number nor
    `begun` in its builds."""
    known = {*range(1, job.units + 1), *begun}
    for at, unit in enumerate(given.units):
        if unit in (*job.handed, *given.units[:at]):
            raise InputError.of("shop.unit-handed-over-already", gone=unit, job=job.id)
        if unit not in known:
            raise InputError.of("shop.job-has-no-unit", unit=unit, job=job.id, units=job.units)
    return _with(job, deliveries=(*job.deliveries, given))


def close(job: Job, day: Day, why: str = "") -> Job:
    """Nothing more is done for it. InputError where not all of it went out and nobody says why."""
    if len(job.handed) < job.units and not why.strip():
        raise InputError.of("shop.units-were-handed-over", count=len(job.handed), units=job.units, job=job.id)
    room = MOST_TEXT - len(job.note) - len("; ") if job.note else MOST_TEXT
    note = "; ".join(part for part in (job.note, said_kept(why, max(room, 0))) if part)
    return _with(job, closed=day.isoformat(), note=note)


def cancel(job: Job, why: str) -> Job:
    """It is given up, with why. InputError where nothing more is done for it anyway."""
    return _with(job, cancelled=said_kept(why, MOST_TEXT))


def repaired(job: Job, what: Repair) -> Job:
    """It is about a unit that came back. InputError where nothing more is done for it."""
    return _with(job, repair=what)


def _with(job: Job, **values: Any) -> Job:
    if job.closed is not None or job.cancelled:
        raise InputError.of("shop.job-ended-already", job=job.id, cancelled=bool(job.cancelled))
    made: Job = change(job, **values)
    return made


def due_tools(shop: Shop, day: Day) -> list[Message]:
    """Tools whose calibration is over or soon due."""
    found = []
    for tool in shop.tools:
        if tool.due is not None:
            days = (day_from(tool.due) - day).days
            if days < 0:
                found.append(Message.of("shop.tool.overdue", tool=tool.name or tool.id, days=-days))
            elif days <= SOON_DAYS:
                found.append(Message.of("shop.tool.due", tool=tool.name or tool.id, days=days))
    return found
