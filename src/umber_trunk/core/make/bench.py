"""The bench as a fold over what was logged: which step is now, what is done, how much wire is left to start over with.

Events are only ever added. Undoing adds one that takes another back; a remake adds one that voids exactly the steps it
undoes. The same order and the same events give the same state, so that a power cut costs nothing but the step in hand.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, assert_never

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.strip import CUT_BEHIND_MM
from umber_trunk.core.errors import UmberError
from umber_trunk.core.make.events import (
    Act,
    AsIs,
    Begin,
    Defect,
    Deviation,
    Done,
    Event,
    Found,
    KeyAct,
    Mended,
    Merged,
    Note,
    Pause,
    Planned,
    Proof,
    Proven,
    Read,
    Release,
    Remake,
    Reset,
    Safe,
    Sample,
    Scrap,
    Serial,
    Signed,
    Strike,
    Test,
    Undo,
    Unknown,
    Upgrade,
)
from umber_trunk.core.make.frozen import Making
from umber_trunk.core.make.handfuls import Handful, handfuls, is_stop
from umber_trunk.core.make.measuring import wanted_readings
from umber_trunk.core.make.operation import CUTTER, Operation
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.sentences import Message

CURES = {"rework": "start this end over", "scrap": "scrap this wire"}
"""What mends a fault that was seen, by what it comes to."""
TAKEN_BACK = (Done, Read, Defect, Remake, Scrap, Release, Reset, Sample)
"""Kinds of acts at the bench that one step back takes back."""
EXTRA = tuple(f" {what} {n}" for what in ("out", "off") for n in range(1, 100))
"""How the steps end that a remake adds."""
OUT = ("scrap", "rework")
"""Verdicts of readings that don't let a step be left."""


ALL_DONE = "Everything is done: nothing is left to step through."


class BenchError(UmberError):
    """A step that can't be done now; the text says what first."""


@dataclass(frozen=True)
class Left:
    """Wire left to start over with at an end: how much, how much one more start takes."""

    left_mm: float
    eaten_mm: float

    @property
    def times(self) -> int:
        """How many remakes are left."""
        return int((self.left_mm + 1e-6) // self.eaten_mm) if self.eaten_mm > 0 else 0


@dataclass(frozen=True)
class Progress:
    """How far a build is: (steps done, steps in all) by wire or jacketed cable, and by end, over all its units."""

    wires: Mapping[str, tuple[int, int]]
    ends: Mapping[str, tuple[int, int]]


class Bench:
    """One build: its frozen order, the parts it carries, and what was logged of it. `add` takes an event in; questions
    cost little at any number of them. What it says of a step that the order doesn't have, or is of no kind it knows,
    stands in `strange`. `looks`: whether the practice asks for each look singly."""

    def __init__(
        self, making: Making, shelf: Shelf, build: str, events: Iterable[Event] = (), looks: str = "lamp"
    ) -> None:
        self.making, self.order, self.shelf, self.build, self.looks = making, making.order, shelf, build, looks
        order = making.order
        self.strange: list[Event] = []
        self.steps: dict[str, Timed] = {step.key: step for step in order.steps}
        self.place = {step.key: at for at, step in enumerate(order.steps)}
        self.done: dict[str, Event] = {}
        self.extras: list[Timed] = []
        """What a remake adds: taken out, cut off; before anything else."""
        self.readings: dict[str, list[tuple[Event, Read]]] = {}
        self.released: dict[str, Event] = {}
        self.faulty: dict[str, tuple[Event, Defect]] = {}
        """Steps at which a fault was seen that has to be mended before anything goes on there."""
        self.eaten: dict[tuple[int, str, str], float] = {}
        self.remakes: dict[tuple[int, str, str], int] = {}
        self.scrapped: dict[tuple[int, str], int] = {}
        self.history: list[Event] = []
        self.undone: set[str] = set()
        self.seen: set[str] = set()
        self._from = 0
        self._own = 0
        """How many of the order's own steps are done."""
        for event in events:
            self.add(event)

    # questions

    @property
    def now(self) -> Timed | None:
        """The step to do, None when all is done."""
        if self.extras:
            return self.extras[0]
        steps = self.order.steps
        while self._from < len(steps) and steps[self._from].key in self.done:
            self._from += 1
        return steps[self._from] if self._from < len(steps) else None

    def done_steps(self) -> Iterable[Timed]:
        """The order's own steps that are done, in no order."""
        return (self.steps[key] for key in self.done if key in self.steps)

    @cached_property
    def handfuls(self) -> tuple[Handful, ...]:
        """The order in handfuls."""
        return handfuls(self.order, self.looks)

    @cached_property
    def _handful_of(self) -> dict[str, Handful]:
        return {step.key: one for one in self.handfuls for step in one.steps}

    @property
    def handful(self) -> Handful | None:
        """The handful of the step now, one by itself where a remake added it; None when all is done."""
        now = self.now
        if now is None:
            return None
        return self._handful_of.get(now.key) or Handful(-1, (now,), "it comes before anything else")

    def next_set_up(self) -> Operation | None:
        """What is set up after the tool now, None where nothing else is."""
        here = self.handful
        tool = here.first.state if here is not None else ("", "")
        rest = self.handfuls[here.n + 1 :] if here is not None else ()
        found = (one.first for one in rest if one.first.tool and one.first.state != tool)
        return next((one for one in found if not one.sample or one.op != "cut"), None)

    def together(self) -> tuple[Timed, ...]:
        """The open steps of the handful now that can be attested at once, without those that have to be mended or
        measured first, and what waits for them; the step now alone where its handful is attested singly. Empty when
        nothing can be."""
        here, now = self.handful, self.now
        if here is None or now is None:
            return ()
        if here.singly:
            return (now,)
        mine: dict[int, Timed] = {}
        for step in here.steps:
            open_ = step.key not in self.done and self._hindered(step) is None
            if open_ and all(n in mine or self.order.steps[n - 1].key in self.done for n in step.after):
                mine[step.n] = step
        return tuple(mine.values())

    def alone(self, piece: Sequence[Timed]) -> tuple[Timed, ...]:
        """The open steps of one piece of the handful now, before a cut the stop that is set for it: what it takes to
        attest it by itself."""
        open_ = [step for step in piece if step.key not in self.done]
        stops = {n for step in open_ for n in step.after if is_stop(self.order.steps[n - 1].operation)}
        first = [self.order.steps[n - 1] for n in sorted(stops - {step.n for step in open_})]
        return (*(step for step in first if step.key not in self.done), *open_)

    @property
    def count(self) -> tuple[int, int]:
        """(steps done, steps in all)."""
        return self._own, len(self.order.steps)

    def progress(self) -> Progress:
        """How far each wire and each end is."""
        wires: dict[str, tuple[int, int]] = {}
        ends: dict[str, tuple[int, int]] = {}
        for step in self.order.steps:
            one, done = step.operation, int(step.key in self.done)
            if one.sample:
                continue
            for name, counts in ((one.wire, wires), (one.end, ends)):
                if name:
                    before = counts.get(name, (0, 0))
                    counts[name] = before[0] + done, before[1] + 1
        return Progress(wires, ends)

    def left_s(self) -> float:
        """Handling still to do."""
        return sum(s.seconds for s in self.extras) + sum(s.seconds for s in self.order.steps if s.key not in self.done)

    def lacks(self, step: Timed) -> list[str]:
        """What has to be measured, and within its limits, before a first-off step can be left; [] for others and for
        those released."""
        if step.operation.op != "measure" or not step.operation.sample or step.key in self.released:
            return []
        last = self.verdicts(step.key)
        return [kind for kind in wanted_readings(self.shelf, step.operation) if last.get(kind) in (None, *OUT)]

    def needs_reading(self, step: Timed) -> bool:
        """Whether a step can't be left before something is measured or somebody releases it."""
        return bool(self.lacks(step))

    def holds(self, step: Timed) -> Defect | None:
        """The fault seen at a step that isn't mended yet."""
        seen = self.faulty.get(step.key)
        return None if seen is None or seen[0].id in self.undone or step.key in self.released else seen[1]

    def out_of_limits(self, step: Timed) -> list[str]:
        """Kinds of readings at a step whose last is out of its limits, unless somebody released it."""
        if step.key in self.released:
            return []
        return [kind for kind, verdict in self.verdicts(step.key).items() if verdict in OUT]

    def verdicts(self, key: str) -> dict[str, str]:
        """Kind of reading → what the last of it at a step came to."""
        return {one.what: one.verdict for one in self.fresh(key)}

    def fresh(self, key: str) -> list[Read]:
        """Readings of a step since it was last voided, those taken back left out."""
        return [read for one, read in self.readings.get(key, []) if one.id not in self.undone]

    def left(self, wire: str, side: str, unit: int) -> Left:
        """Wire left at an end: the remakes its cut length allows for, less what was cut off."""
        one = self.making.by_end.get((wire, side))
        if one is None:
            return Left(0.0, 0.0)
        return Left(max(one.remakes * one.eaten_mm - self.eaten.get((unit, wire, side), 0.0), 0.0), one.eaten_mm)

    def voided_by(self, wire: str, side: str, unit: int) -> list[str]:
        """Keys of the steps that starting an end over undoes: all on that wire at that end, and what closes or judges
        it after: locks, the connector's own parts, the test, the last look. Other wires in the housing stay; those in
        one barrel with it, once that is closed, are cut out of it too."""
        mine = {
            key
            for key, s in self.steps.items()
            if s.unit == unit
            and s.operation.wire == wire
            and s.operation.side == side
            and s.operation.op not in ("measure", "cut")
        }
        end = next((self.steps[key].operation.end for key in mine), "")
        return self._with_closing(mine | self._barrels({end}, unit), {end}, unit)

    def voided_by_scrap(self, wire: str, unit: int) -> list[str]:
        """Keys of the steps that have to be done anew when a wire is scrapped: every one about it, and what closes its
        ends."""
        mine = {key for key, s in self.steps.items() if s.operation.wire == wire and s.unit == unit}
        ends = {self.steps[key].operation.end for key in mine} - {""}
        return self._with_closing(mine | self._barrels(ends, unit), ends, unit)

    def _barrels(self, ends: set[str], unit: int) -> set[str]:
        """Everything done at those of these ends that are splices closed already: one barrel holds all its wires."""
        closed = {end for end in ends if f"{unit}|{end} split" in self.done}
        return {key for key, s in self.steps.items() if s.unit == unit and s.operation.end in closed}

    def _with_closing(self, mine: set[str], ends: set[str], unit: int) -> list[str]:
        closing = {
            key
            for key, s in self.steps.items()
            if s.unit == unit
            and (
                key.endswith(("|test", "|last look"))
                or (s.operation.end in ends and not s.operation.wire and s.operation.op in ("lock", "clamp", "torque"))
            )
        }
        begun = self.done.keys() | self.readings.keys() | self.released.keys() | self.faulty.keys()
        return sorted((key for key in mine | closing if key in begun), key=self.place.__getitem__)

    # acts: each gives the event that would say it, to be logged and then added

    def advance(self, event_id: str, at_ms: int, seconds: float | None = None, **data: Any) -> Event:
        """The step now is done. BenchError while it has to be measured first, or when all is done."""
        step = self.now
        if step is None:
            raise BenchError(ALL_DONE)
        return self.attested(event_id, at_ms, step, seconds, **data)

    def _hindered(self, step: Timed) -> str | None:
        """Why a step can't be left as it is, None where it can."""
        if fault := self.holds(step):
            return f"{(fault.says or 'a fault').capitalize()}: {CURES[fault.comes_to]}, or let somebody release it."
        if out := self.out_of_limits(step):
            cure = "set the tool, measure another sample" if step.operation.sample else "start this end over"
            return f"The last reading ({', '.join(out)}) is out of its limits: {cure}, or let somebody release it."
        if lacking := self.lacks(step):
            return (
                f"First-off: measure {' and '.join(lacking)} of this crimp, or let somebody release it, before the "
                "batch goes on."
            )
        return None

    def attested(
        self,
        event_id: str,
        at_ms: int,
        step: Timed,
        seconds: float | None = None,
        beside: Collection[int] = (),
        **data: Any,
    ) -> Event:
        """A step is done, in a handful or by itself; `beside`: numbers of the steps attested with it. BenchError while
        it has to be measured or mended first, or waits for another."""
        if why := self._hindered(step):
            raise BenchError(why)
        waits = (self.order.steps[n - 1] for n in step.after if n not in beside)
        if (first := next((other for other in waits if other.key not in self.done), None)) is not None:
            raise BenchError(f"It waits for another step, which comes first: {first.operation.text}")
        one = step.operation
        told = {"op": one.op, "tool": one.tool, "setting": one.setting, "wire": one.wire, **data}
        if seconds is not None:
            told["seconds"] = round(seconds, 2)
        return Event(event_id, self.build, at_ms, Done(**told), step.unit, step.key)

    def back(self, new_id: Callable[[], str], at_ms: int, piece: Sequence[Timed] = ()) -> list[Event]:
        """Takes the last act back, all of it where a handful was attested at once; or what was done to one `piece` of
        it alone. BenchError where there is nothing to take back, or where something was done since that rests on it."""
        if piece:
            rows = [self.done[step.key] for step in reversed(piece) if step.key in self.done]
            if not rows:
                raise BenchError("Nothing is done to that piece yet.")
            numbers = {step.n for step in piece}
            on_it = next(
                (
                    s
                    for s in self.order.steps
                    if s.n not in numbers and s.key in self.done and not numbers.isdisjoint(s.after)
                ),
                None,
            )
            if on_it is not None:
                raise BenchError(
                    f"What came after it is done already ({on_it.operation.text.rstrip('.')}): start the end "
                    "over, or "
                    "take that back first."
                )
        else:
            last = next(
                (
                    one
                    for one in reversed(self.history)
                    if one.id not in self.undone and isinstance(one.act, TAKEN_BACK)
                ),
                None,
            )
            if last is None:
                raise BenchError("Nothing is done yet, so nothing can be taken back.")
            mark = last.act.handful if isinstance(last.act, Done) else ""
            rows = [last]
            if mark:
                rows = [
                    one
                    for one in reversed(self.history)
                    if isinstance(one.act, Done) and one.act.handful == mark and one.id not in self.undone
                ]
        return [Event(new_id(), self.build, at_ms, Undo(of=one.id), one.unit, one.step) for one in rows]

    def remake(self, event_id: str, at_ms: int, wire: str, side: str, unit: int, why: str = "") -> Event:
        """An end started over. BenchError when too little wire is left: then it is scrap."""
        left = self.left(wire, side, unit)
        if left.eaten_mm == 0:
            raise BenchError(f"Nothing is known of the {side} of {wire}.")
        if left.times < 1:
            raise BenchError(
                f"{wire} has {left.left_mm:.0f} mm left at its {side}, {left.eaten_mm:.0f} mm are needed: scrap "
                "the "
                "wire and cut another."
            )
        voids = self.voided_by(wire, side, unit)
        act = Remake.model_validate({"wire": wire, "side": side, "why": why, "voids": voids, "eaten_mm": left.eaten_mm})
        return Event(event_id, self.build, at_ms, act, unit)

    def scrap(self, event_id: str, at_ms: int, wire: str, unit: int, why: str = "") -> Event:
        """A wire given up: it is cut and made anew."""
        voids = self.voided_by_scrap(wire, unit)
        if not voids:
            raise BenchError(f"{wire} of unit {unit} isn't begun: there is nothing to scrap.")
        return Event(event_id, self.build, at_ms, Scrap(wire=wire, why=why, voids=tuple(voids)), unit)

    def set_anew(self, event_id: str, at_ms: int, tool: str, setting: str, why: str = "") -> Event:
        """A tool or die set anew: the samples of its set-ups are made and measured once more. With no setting said,
        those of all its own."""
        begun = self.done.keys() | self.readings.keys()
        crimps = [
            s
            for s in self.steps.values()
            if s.operation.sample
            and s.operation.op == "crimp"
            and s.operation.tool == tool
            and setting in ("", s.operation.setting)
        ]
        names = [s.key.removesuffix(" crimp") for s in crimps if self._used(s)]
        voids = [
            f"{name} {op}" for name in names for op in ("cut", "strip", "crimp", "measure") if f"{name} {op}" in begun
        ]
        now = self.now
        act = Reset(tool=tool, setting=setting, why=why, voids=tuple(voids))
        return Event(event_id, self.build, at_ms, act, 0, now.key if now else "")

    def another_sample(self, event_id: str, at_ms: int, step: Timed) -> Event:
        """A sample with the tool, setting, part and conductor of a step, asked for in the middle of a batch. BenchError
        where none is made for it."""
        numbers = {step.n, *step.after}
        mine = [s for s in self.order.steps if s.operation.sample and s.operation.op == "measure" and (s.n in numbers)]
        names = [s.key.removesuffix(" measure") for s in mine]
        voids = [
            key for name in names for op in ("cut", "strip", "crimp", "measure") if (key := f"{name} {op}") in self.done
        ]
        if not voids:
            raise BenchError("No sample is made for this step: ask for one at a crimp, once its first was measured.")
        one = step.operation
        return Event(
            event_id, self.build, at_ms, Sample(tool=one.tool, setting=one.setting, voids=tuple(voids)), 0, step.key
        )

    def _used(self, sample: Timed) -> bool:
        """Whether anything is still to be crimped as a sample was."""
        measure = sample.operation.key.removesuffix(" crimp") + " measure"
        return any(measure in s.operation.after and s.key not in self.done for s in self.steps.values())

    # the fold

    def add(self, event: Event) -> None:
        """Takes an event in, once: one seen before changes nothing."""
        if event.id in self.seen or event.build != self.build:
            return
        self.seen.add(event.id)
        self.history.append(event)
        self._take(event.act, event)

    def _take(self, act: Act, event: Event) -> None:
        step = self.making.older.get(event.step, event.step)
        match act:
            case Done():
                self._done(step, event)
            case Read():
                self.readings.setdefault(step, []).append((event, act))
                self._known(step, event)
            case Defect():
                if act.comes_to in CURES:
                    self.faulty[step] = event, act
                self._known(step, event)
            case Release():
                self.released[step] = event
                self._known(step, event)
            case Reset() | Sample():  # its samples are made and measured again before anything else is crimped with it
                self._void([key for key in self._named(act.voids) if key in self.steps])
            case Remake():
                self._remake(act, event)
            case Scrap():
                self._scrap(act, event)
            case Undo():
                self._undo(act)
            case Strike():
                self._undo(Undo(of=act.of))
            case Unknown():
                self.strange.append(event)
            case (
                Begin()
                | Planned()
                | Pause()
                | Note()
                | Proof()
                | Safe()
                | Test()
                | Proven()
                | Found()
                | AsIs()
                | Serial()
                | Upgrade()
                | Deviation()
                | Mended()
                | Merged()
                | Signed()
                | KeyAct()
            ):
                pass  # of the whole build, or of a unit once it is made
            case _:
                assert_never(act)

    def _named(self, keys: Sequence[str]) -> list[str]:
        return [self.making.older.get(key, key) for key in keys]

    def _known(self, step: str, event: Event) -> bool:
        """Whether the order has a step; one it hasn't is said, never dropped."""
        if not step or step in self.steps or any(one.key == step for one in self.extras):
            return True
        if not step.endswith(EXTRA):
            self.strange.append(event)
        return False

    def _done(self, step: str, event: Event) -> None:
        if self._known(step, event):
            self._own += step in self.steps and step not in self.done
            self.done[step] = event
            self.extras = [one for one in self.extras if one.key != step]

    def _remake(self, act: Remake, event: Event) -> None:
        wire, side, unit, voids = act.wire, act.side, event.unit, self._named(act.voids)
        if (wire, side) not in self.making.by_end:
            self.strange.append(event)  # of a wire this design doesn't have
            return
        inserted = [
            key
            for key in voids
            if key in self.steps and self.steps[key].operation.op == "insert" and self.steps[key].operation.wire == wire
        ]
        number = self.remakes[unit, wire, side] = self.remakes.get((unit, wire, side), 0) + 1
        self.eaten[unit, wire, side] = self.eaten.get((unit, wire, side), 0.0) + act.eaten_mm
        self._void(voids)
        self._eat_beside(wire, unit, voids)
        self.extras = [*self.extras, *self._again(wire, side, unit, number, bool(inserted))]

    def _scrap(self, act: Scrap, event: Event) -> None:
        wire, unit, voids = act.wire, event.unit, self._named(act.voids)
        self.scrapped[unit, wire] = self.scrapped.get((unit, wire), 0) + 1
        self._void(voids)
        self._eat_beside(wire, unit, voids)
        for side in ("start", "finish"):
            self.eaten.pop((unit, wire, side), None)

    def _eat_beside(self, wire: str, unit: int, voids: Sequence[str]) -> None:
        """Other wires that were cut out of a barrel with this one lose length too."""
        for key in voids:
            one = self.steps[key].operation if key in self.steps else None
            if one is not None and one.op == "strip" and one.wire not in ("", wire) and one.side:
                self.eaten[unit, one.wire, one.side] = (
                    self.eaten.get((unit, one.wire, one.side), 0.0) + self.left(one.wire, one.side, unit).eaten_mm
                )

    def _void(self, keys: Sequence[str]) -> None:
        for key in keys:
            if self.done.pop(key, None) is not None:
                self._own -= key in self.steps
            self.readings.pop(key, None)
            self.faulty.pop(key, None)
            self.released.pop(key, None)  # what is made anew is judged anew
            self._from = min(self._from, self.place.get(key, self._from))

    def _again(self, wire: str, side: str, unit: int, number: int, inserted: bool) -> list[Timed]:
        """The steps a remake adds: out of the housing where it sat in one, then cut off."""
        one = self.making.by_end[wire, side]
        found = []
        if inserted:
            told = "Lock open first; never pull on a wire that is still held."
            text = Message("step.extract", {"wire": wire, "name": one.name, "tool": one.takes_out})
            found.append(
                Operation(
                    f"{wire} {side} out {number}",
                    "extract",
                    text,
                    wire,
                    one.end,
                    side,
                    one.label,
                    tool=one.takes_out,
                    part=one.part,
                    place="board",
                    told=told,
                )
            )
        eaten = self.left(wire, side, unit).eaten_mm
        text = Message("step.cut.off", {"wire": wire, "eaten": eaten, "side": side, "behind": CUT_BEHIND_MM})
        found.append(
            Operation(
                f"{wire} {side} off {number}",
                "cut",
                text,
                wire,
                one.end,
                side,
                one.label,
                tool=CUTTER,
                place="press bench",
                cautions=("eyes",),
            )
        )
        return [Timed(0, operation, unit, (), 10.0, 1, 0.0) for operation in found]

    def _undo(self, act: Undo) -> None:
        """Takes one event back. What only added itself is taken out; a remake or scrap is undone by folding all again
        without it."""
        self.undone.add(act.of)
        known = next((one for one in reversed(self.history) if one.id == act.of), None)
        if known is None:
            return
        step = self.making.older.get(known.step, known.step)
        if isinstance(known.act, Done) and step in self.steps and self.done.get(step) is known:
            del self.done[step]
            self._own -= 1
            self._from = min(self._from, self.place[step])
        elif isinstance(known.act, Release):
            self.released.pop(step, None)
        elif isinstance(known.act, Remake | Scrap | Done | Reset | Sample):
            self._again_from_scratch()

    def _again_from_scratch(self) -> None:
        kept = [one for one in self.history if one.id not in self.undone and not isinstance(one.act, Undo)]
        history, undone, seen = self.history, self.undone, self.seen
        fresh = Bench(self.making, self.shelf, self.build, kept, self.looks)
        for name in (
            "done",
            "extras",
            "readings",
            "released",
            "faulty",
            "eaten",
            "remakes",
            "scrapped",
            "strange",
            "_from",
            "_own",
        ):
            setattr(self, name, getattr(fresh, name))
        self.history, self.undone, self.seen = history, undone, seen
