"""What two stations say of one unit without knowing of each other: in the order of the chains, never by a clock. What
contradicts stays open until somebody says which stands."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.make.events import (
    Begin,
    Done,
    Event,
    KeyAct,
    Merged,
    Note,
    Read,
    Remake,
    Scrap,
    Signed,
    Strike,
    Undo,
)
from umber_trunk.core.make.unit_acts import Mended, Proof, Serial, Test
from umber_trunk.core.moments import moment
from umber_trunk.core.sentences import say

HERE = ""
"""The station whose log the file's own is."""
CLOCK_MS = 600_000
"""Clocks that differ by less are the same."""
OUT = ("rework", "scrap")


@dataclass(frozen=True)
class Dispute:
    """Two entries that can't both be so: `one` came first in the chain, `other` with the log of the station `by`.
    `what`: step, reading, test, serial or wire; `about`: which."""

    what: str
    about: str
    one: Event
    other: Event
    by: str

    @property
    def build(self) -> str:
        """Whose."""
        return self.other.build

    @property
    def unit(self) -> int:
        """Which of its units, 0 for all."""
        return self.other.unit

    @property
    def told(self) -> str:
        """Both sides in a line."""
        return say(
            "dispute.both",
            what=say(f"dispute.what.{self.what}"),
            about=self.about,
            one=self.one.n,
            first=_side(self.one),
            other=self.other.n,
            second=_side(self.other),
            by=self.by,
        )


def _side(one: Event) -> str:
    match one.act:
        case Done(hand=hand):
            said = say("dispute.done", hand=hand)
        case Read() as act:
            said = say("dispute.read", value=act.value, unit=act.unit, verdict=act.verdict)
        case Test(ok=ok):
            said = say("dispute.test", ok=ok)
        case Serial(serial=serial):
            said = f"“{serial}”"
        case Remake():
            said = say("dispute.remake")
        case Scrap():
            said = say("dispute.scrap")
        case _:
            said = one.kind
    return f"{said}, {moment(one.at_ms)}"


def disputes(events: Iterable[Event]) -> list[Dispute]:
    """All that is open, in the order of the log. An entry that was struck or taken back says nothing; where somebody
    said that both stand, they do."""
    rows = list(events)
    chains = _Chains(rows)
    if not chains.merges:
        return []
    gone = _gone(rows, chains)
    agreed = {
        frozenset(act.both)
        for one in rows
        if isinstance(act := one.act, Note) and act.both and one.id not in gone and chains.of[one.id] == OWN
    }  # no other station's log chooses here
    by_topic: dict[tuple[str, ...], list[Event]] = {}
    for one in rows:
        for topic in _topics(one) if one.id not in gone else ():
            by_topic.setdefault(topic, []).append(one)
    found = [
        Dispute(topic[0], topic[-1], one, other, chains.named(other))
        for topic, said in by_topic.items()
        if len({chains.of[one.id] for one in said}) > 1
        for one, other in combinations(said, 2)
        if not chains.knew(one, other)
        and not _both_may_be(topic[0], one, other, chains)
        and _contradicts(one, other)
        and frozenset((one.id, other.id)) not in agreed
    ]
    return sorted(found, key=lambda each: (each.other.n, each.one.n))


OWN = -1
"""The chain of what was logged here."""


class _Chains:
    """Whose log each entry came with: the entries just before a merge are the other station's."""

    def __init__(self, rows: Sequence[Event]) -> None:
        self.merges = [(one.n - act.entries, one.n, act) for one in rows if isinstance(act := one.act, Merged)]
        self.of = {
            one.id: next((number for number, (first, last, _) in enumerate(self.merges) if first <= one.n < last), OWN)
            for one in rows
        }
        self._begun_anew: dict[tuple[int, str, int], int] = {}
        for one in rows:
            if isinstance(one.act, Mended | Remake | Scrap | Proof):
                self._begun_anew.setdefault((self.of[one.id], one.build, one.unit), one.n)

    def named(self, one: Event) -> str:
        """The name of the station an entry came from."""
        act = self.merges[self.of[one.id]][2]
        return act.name or act.file

    def knew(self, one: Event, other: Event) -> bool:
        """Whether the later of two entries was made by who knew of the earlier: both here, or both of one station."""
        mine, its = self.of[one.id], self.of[other.id]
        if its == OWN or mine == its:
            return True
        return mine != OWN and self._station(mine) == self._station(its)

    def anew_before(self, one: Event) -> bool:
        """Whether the unit was begun anew in this entry's chain before it."""
        return self._begun_anew.get((self.of[one.id], one.build, one.unit), one.n) < one.n

    def _station(self, chain: int) -> str:
        act = self.merges[chain][2]
        return act.key or act.file


def _gone(rows: Sequence[Event], chains: _Chains) -> set[str]:
    """Ids of entries that were struck or taken back. As for a unit, who wasn't there takes nothing back."""
    struck = {act.of for one in rows if isinstance(act := one.act, Strike)}
    undone = {
        act.of
        for one in rows
        if isinstance(act := one.act, Undo)
        and one.id not in struck
        and chains.of[one.id] in (OWN, chains.of.get(act.of))
    }
    return struck | undone


def _both_may_be(topic: str, one: Event, other: Event, chains: _Chains) -> bool:
    """Whether two entries about one thing are no contradiction: the same wire's steps done, or an answer after the unit
    was begun anew."""
    if topic == "wire" and isinstance(one.act, Done) and isinstance(other.act, Done):
        return True
    return topic in ("test", "reading") and chains.anew_before(other)


def _topics(one: Event) -> Iterator[tuple[str, ...]]:
    """What an entry speaks of, so that only those of the same are compared."""
    unit, act = str(one.unit), one.act
    match act:
        case Done():
            yield "step", one.build, unit, one.step.partition("|")[2] or one.step
            if act.wire and one.unit:
                yield "wire", one.build, unit, act.wire
        case Read():
            yield "reading", one.build, unit, one.step, f"{act.what} at {one.step.partition('|')[2] or one.step}"
        case Test():
            if act.n:
                yield "test", one.build, unit, f"{act.n} {act.a} {act.b}".strip()
        case Serial():
            yield "serial", one.build, unit, f"of {one.build} / {one.unit}"
        case Remake() | Scrap():
            yield "wire", one.build, unit, act.wire
        case _:
            return


def _contradicts(one: Event, other: Event) -> bool:
    match one.act, other.act:
        case Done(), Done():
            return one.step == other.step
        case Read() as a, Read() as b:
            return (a.verdict in OUT) != (b.verdict in OUT)
        case Test() as a, Test() as b:
            return a.ok != b.ok
        case Serial() as a, Serial() as b:
            return a.serial != b.serial
        case (Remake() | Scrap() as a, Done()) | (Done(), Remake() | Scrap() as a):
            done = other if isinstance(other.act, Done) else one
            return done.step in a.voids
        case Remake() | Scrap(), Remake() | Scrap():
            return True
    return False


def clocks(events: Iterable[Event]) -> list[tuple[Event, Event, str, int]]:
    """(earlier entry, later entry, station, ms) where a chain's clock went back, or a station's ran before a build was
    begun or beyond the moment its log was taken in; the first of each kind and station."""
    rows = list(events)
    merges = [
        (one.n - act.entries, one.n, act.name or act.file, one) for one in rows if isinstance(act := one.act, Merged)
    ]
    begun: Mapping[str, Event] = {one.build: one for one in reversed(rows) if isinstance(one.act, Begin)}
    found: dict[tuple[str, str], tuple[Event, Event, str, int]] = {}
    last: dict[str, Event] = {}
    for one in rows:
        by, taken = next(((name, merge) for first, end, name, merge in merges if first <= one.n < end), (HERE, None))
        before = last.get(by) if not isinstance(one.act, Signed | Merged | KeyAct) else None
        if before is not None and before.at_ms - one.at_ms > CLOCK_MS:
            found.setdefault((by, "back"), (before, one, by, before.at_ms - one.at_ms))
        if taken is not None and one.at_ms - taken.at_ms > CLOCK_MS:
            found.setdefault((by, "ahead"), (one, taken, by, one.at_ms - taken.at_ms))
        start = begun.get(one.build)
        if taken is not None and start is not None and start.n < one.n and start.at_ms - one.at_ms > CLOCK_MS:
            found.setdefault((by, "behind"), (start, one, by, start.at_ms - one.at_ms))
        if not isinstance(one.act, Signed | Merged | KeyAct):  # about the file, not about what was done
            last[by] = one
    return list(found.values())


def station_findings(events: Iterable[Event]) -> list[Finding]:
    """A finding for every contradiction that is open, and for every clock that can't be right."""
    rows = list(events)
    said = [
        Finding.of(
            "make.disputed",
            Severity.FAULT,
            "make",
            "log",
            each.other.id,
            build=each.build,
            unit=each.unit or "all units",
            told=each.told,
        )
        for each in disputes(rows)
    ]
    return said + [
        Finding.of(
            "make.clock",
            Severity.WARNING,
            "make",
            "log",
            two.id,
            station=by or "this station",
            minutes=round(ms / 60_000),
            one=one.n,
            other=two.n,
        )
        for one, two, by, ms in clocks(rows)
    ]
