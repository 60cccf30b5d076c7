"""The bench as a fold over what was logged: which step is now, what is done, how much wire is left to start over with.

Events are only ever added. Undoing adds one that takes another back; a remake adds one that voids exactly the steps it undoes.
The same order and the same events give the same state, so that a power cut costs nothing but the step in hand.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
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
from umber_trunk.core.make.measuring import wanted_readings
from umber_trunk.core.make.operations import CUTTER, Operation
from umber_trunk.core.make.sequence import Timed
from umber_trunk.core.sentences import Message

CURES = {"rework": "start this end over", "scrap": "scrap this wire"}
"""What mends a fault that was seen, by what it comes to."""
TAKEN_BACK = (Done, Read, Defect, Remake, Scrap, Release, Reset)
"""Kinds of acts at the bench that one step back takes back."""
EXTRA = tuple(f" {what} {n}" for what in ("out", "off") for n in range(1, 100))
"""How the steps end that a remake adds."""
OUT = ("scrap", "rework")
"""Verdicts of readings that don't let a step be left."""


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
    """One build: its frozen order, the parts it carries, and what was logged of it. `add` takes an event in; questions cost little at any
    number of them. What it says of a step that the order doesn't have, or is of no kind it knows, stands in `strange`."""

    def __init__(self, making: Making, shelf: Shelf, build: str, events: Iterable[Event] = ()) -> None:
        self.making, self.order, self.shelf, self.build = making, making.order, shelf, build
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

    def coming(self, many: int) -> list[Timed]:
        """The next steps after the one now."""
        now, found = self.now, list(self.extras[1 : many + 1])
        for step in islice(self.order.steps, self._from, None):
            if len(found) >= many:
                break
            if step is not now and step.key not in self.done:
                found.append(step)
        return found

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
        """What has to be measured, and within its limits, before a first-off step can be left; [] for others and for those released."""
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
        """Keys of the steps that starting an end over undoes: all on that wire at that end, and what closes or judges it after:
        locks, the connector's own parts, the test, the last look. Other wires in the housing stay; those in one barrel with it, once that
        is closed, are cut out of it too."""
        mine = {key for key, s in self.steps.items() if s.unit == unit and s.operation.wire == wire and s.operation.side == side and s.operation.op not in ("measure", "cut")}  # fmt: skip
        end = next((self.steps[key].operation.end for key in mine), "")
        return self._with_closing(mine | self._barrels({end}, unit), {end}, unit)

    def voided_by_scrap(self, wire: str, unit: int) -> list[str]:
        """Keys of the steps that have to be done anew when a wire is scrapped: every one about it, and what closes its ends."""
        mine = {key for key, s in self.steps.items() if s.operation.wire == wire and s.unit == unit}
        ends = {self.steps[key].operation.end for key in mine} - {""}
        return self._with_closing(mine | self._barrels(ends, unit), ends, unit)

    def _barrels(self, ends: set[str], unit: int) -> set[str]:
        """Everything done at those of these ends that are splices closed already: one barrel holds all its wires."""
        closed = {end for end in ends if f"{unit}|{end} split" in self.done}
        return {key for key, s in self.steps.items() if s.unit == unit and s.operation.end in closed}

    def _with_closing(self, mine: set[str], ends: set[str], unit: int) -> list[str]:
        closing = {
            key for key, s in self.steps.items()
            if s.unit == unit and (key.endswith(("|test", "|last look")) or (s.operation.end in ends and not s.operation.wire and s.operation.op in ("lock", "clamp", "torque")))
        }  # fmt: skip
        begun = self.done.keys() | self.readings.keys() | self.released.keys() | self.faulty.keys()
        return sorted((key for key in mine | closing if key in begun), key=self.place.__getitem__)

    # acts: each gives the event that would say it, to be logged and then added

    def advance(self, event_id: str, at_ms: int, seconds: float | None = None, **data: Any) -> Event:
        """The step now is done. BenchError while it has to be measured first, or when all is done."""
        step = self.now
        if step is None:
            raise BenchError("Everything is done: nothing is left to step through.")
        if fault := self.holds(step):
            raise BenchError(f"{(fault.says or 'a fault').capitalize()}: {CURES[fault.comes_to]}, or let somebody release it.")  # fmt: skip
        if out := self.out_of_limits(step):
            cure = "set the tool, measure another sample" if step.operation.sample else "start this end over"
            raise BenchError(
                f"The last reading ({', '.join(out)}) is out of its limits: {cure}, or let somebody release it."
            )
        if lacking := self.lacks(step):
            raise BenchError(
                f"First-off: measure {' and '.join(lacking)} of this crimp, or let somebody release it, before the batch goes on."
            )
        one = step.operation
        told = {"op": one.op, "tool": one.tool, "setting": one.setting, "wire": one.wire, **data}
        if seconds is not None:
            told["seconds"] = round(seconds, 2)
        return Event(event_id, self.build, at_ms, Done(**told), step.unit, step.key)

    def back(self, event_id: str, at_ms: int) -> Event:
        """Takes the last step, reading, defect, remake or scrap back. BenchError where there is none."""
        last = next((one for one in reversed(self.history) if one.id not in self.undone and isinstance(one.act, TAKEN_BACK)), None)  # fmt: skip
        if last is None:
            raise BenchError("Nothing is done yet, so nothing can be taken back.")
        return Event(event_id, self.build, at_ms, Undo(of=last.id), last.unit, last.step)

    def remake(self, event_id: str, at_ms: int, wire: str, side: str, unit: int, why: str = "") -> Event:
        """An end started over. BenchError when too little wire is left: then it is scrap."""
        left = self.left(wire, side, unit)
        if left.eaten_mm == 0:
            raise BenchError(f"Nothing is known of the {side} of {wire}.")
        if left.times < 1:
            raise BenchError(f"{wire} has {left.left_mm:.0f} mm left at its {side}, {left.eaten_mm:.0f} mm are needed: scrap the wire and cut another.")  # fmt: skip
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
        """A tool or die set anew: the samples of its set-ups are made and measured once more. With no setting said, those of all its own."""
        begun = self.done.keys() | self.readings.keys()
        crimps = [
            s for s in self.steps.values()
            if s.operation.sample and s.operation.op == "crimp" and s.operation.tool == tool and setting in ("", s.operation.setting)
        ]  # fmt: skip
        names = [s.key.removesuffix(" crimp") for s in crimps if self._used(s)]
        voids = [f"{name} {op}" for name in names for op in ("cut", "strip", "crimp", "measure") if f"{name} {op}" in begun]  # fmt: skip
        now = self.now
        act = Reset(tool=tool, setting=setting, why=why, voids=tuple(voids))
        return Event(event_id, self.build, at_ms, act, 0, now.key if now else "")

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
            case Reset():  # its samples are made and measured again before anything else is crimped with it
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
        inserted = [key for key in voids if key in self.steps and self.steps[key].operation.op == "insert" and self.steps[key].operation.wire == wire]  # fmt: skip
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
                self.eaten[unit, one.wire, one.side] = self.eaten.get((unit, one.wire, one.side), 0.0) + self.left(one.wire, one.side, unit).eaten_mm  # fmt: skip

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
            found.append(Operation(f"{wire} {side} out {number}", "extract", text, wire, one.end, side, one.label, tool=one.takes_out, part=one.part, place="board", told=told))  # fmt: skip
        eaten = self.left(wire, side, unit).eaten_mm
        text = Message("step.cut.off", {"wire": wire, "eaten": eaten, "side": side, "behind": CUT_BEHIND_MM})
        found.append(Operation(f"{wire} {side} off {number}", "cut", text, wire, one.end, side, one.label, tool=CUTTER, place="press bench", cautions=("eyes",)))  # fmt: skip
        return [Timed(0, operation, unit, (), 10.0, 1, 0.0) for operation in found]

    def _undo(self, act: Undo) -> None:
        """Takes one event back. What only added itself is taken out; a remake or scrap is undone by folding all again without it."""
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
        elif isinstance(known.act, Remake | Scrap | Done | Reset):
            self._again_from_scratch()

    def _again_from_scratch(self) -> None:
        kept = [one for one in self.history if one.id not in self.undone and not isinstance(one.act, Undo)]
        history, undone, seen = self.history, self.undone, self.seen
        fresh = Bench(self.making, self.shelf, self.build, kept)
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
