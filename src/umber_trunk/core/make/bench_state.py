"""What stands at the bench, folded from what was logged: what is done, measured, at fault, started over; how much wire
is left.

An event says what somebody did, and none is ever taken out. Done adds a step; a remake or a scrap voids exactly the
steps it names, with what was read at them; an undo of one of these is told by folding all the others anew:

    done a    done b     read b      remake, voids b    undo of the remake
    {a}       {a, b}     b: 1.32     {a}, first out b   {a, b}, b: 1.32

The same order and the same events give the same state, so that a power cut costs nothing but the step in hand.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import assert_never

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.strip import CUT_BEHIND_MM
from umber_trunk.core.make.events import (
    Act,
    Begin,
    Defect,
    Done,
    Event,
    KeyAct,
    Merged,
    Note,
    Pause,
    Planned,
    Read,
    Release,
    Remake,
    Reset,
    Sample,
    Scrap,
    Signed,
    Strike,
    Undo,
    Unknown,
)
from umber_trunk.core.make.frozen import Making
from umber_trunk.core.make.measuring import wanted_readings
from umber_trunk.core.make.operation import CUTTER, Operation
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.make.unit_acts import AsIs, Deviation, Found, Mended, Proof, Proven, Safe, Serial, Test, Upgrade
from umber_trunk.core.sentences import Message, say

CURED = ("rework", "scrap")
"""What a fault comes to that holds its step: the end starts over, the wire is scrapped."""
EXTRA = tuple(f" {what} {n}" for what in ("out", "off") for n in range(1, 100))
"""How the steps end that a remake adds."""
OUT = ("scrap", "rework")
"""Verdicts of readings that don't let a step be left."""


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


class BenchState:
    """One build: its frozen order, the parts it carries, and what was logged of it. `add` takes an event in; questions
    cost little at any number of them. What it says of a step that the order doesn't have, or is of no kind it knows,
    stands in `strange`."""

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

    def done_steps(self) -> Iterable[Timed]:
        """The order's own steps that are done, in no order."""
        return (self.steps[key] for key in self.done if key in self.steps)

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
                if act.comes_to in CURED:
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
            told = say("note.lock-open-first")
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
        fresh = BenchState(self.making, self.shelf, self.build, kept)
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
