"""What hands may do at the bench: the step now, what goes with it in one go, and each act as the event that says it.

An act is refused, in words, while what stands at the bench hinders it (`BenchState`). Events are only ever added, by
who asked for the act, once they are in the log.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from functools import cached_property
from typing import Any

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import UmberError, refusal_of
from umber_trunk.core.make.bench_state import BenchState
from umber_trunk.core.make.events import Defect, Done, Event, Read, Release, Remake, Reset, Sample, Scrap, Undo
from umber_trunk.core.make.frozen import Making
from umber_trunk.core.make.handfuls import Handful, handfuls, is_stop
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.timed import Timed
from umber_trunk.core.sentences import Message, say

TAKEN_BACK = (Done, Read, Defect, Remake, Scrap, Release, Reset, Sample)
"""Kinds of acts at the bench that one step back takes back."""


class BenchError(UmberError):
    """A step that can't be done now; the text says what first."""


class Bench(BenchState):
    """A build at the bench. `looks`: whether the practice asks for each look singly."""

    def __init__(
        self, making: Making, shelf: Shelf, build: str, events: Iterable[Event] = (), looks: str = "lamp"
    ) -> None:
        self.looks = looks
        super().__init__(making, shelf, build, events)

    # what goes together

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

    # what has to be done anew

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
            raise BenchError.of("make.everything-is-done")
        return self.attested(event_id, at_ms, step, seconds, **data)

    def _hindered(self, step: Timed) -> Message | None:
        """Why a step can't be left as it is, None where it can."""
        if fault := self.holds(step):
            return refusal_of(
                "make.piece-has-a-fault",
                fault=(fault.says or say("fault.unnamed")).capitalize(),
                rework=fault.comes_to == "rework",
            )
        if out := self.out_of_limits(step):
            sample = bool(step.operation.sample)
            return refusal_of("make.last-reading-out-of-limits", out=", ".join(out), sample=sample)
        if lacking := self.lacks(step):
            return refusal_of("make.first-off-to-be-measured", lacking=" and ".join(lacking))
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
            raise BenchError.of("make.it-waits-for-another-step", operation=first.operation.text)
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
                raise BenchError.of("make.nothing-is-done-to-that-piece")
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
                raise BenchError.of("make.later-step-is-done", operation=on_it.operation.text.rstrip("."))
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
                raise BenchError.of("make.nothing-is-done-yet")
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
            raise BenchError.of("make.end-unknown", side=side, wire=wire)
        if left.times < 1:
            raise BenchError.of(
                "make.too-short-to-start-over", wire=wire, left_mm=left.left_mm, side=side, eaten_mm=left.eaten_mm
            )
        voids = self.voided_by(wire, side, unit)
        act = Remake.model_validate({"wire": wire, "side": side, "why": why, "voids": voids, "eaten_mm": left.eaten_mm})
        return Event(event_id, self.build, at_ms, act, unit)

    def scrap(self, event_id: str, at_ms: int, wire: str, unit: int, why: str = "") -> Event:
        """A wire given up: it is cut and made anew."""
        voids = self.voided_by_scrap(wire, unit)
        if not voids:
            raise BenchError.of("make.unit-isnt-begun", wire=wire, unit=unit)
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
            raise BenchError.of("make.no-sample-for-this-step")
        one = step.operation
        return Event(
            event_id, self.build, at_ms, Sample(tool=one.tool, setting=one.setting, voids=tuple(voids)), 0, step.key
        )

    def _used(self, sample: Timed) -> bool:
        """Whether anything is still to be crimped as a sample was."""
        measure = sample.operation.key.removesuffix(" crimp") + " measure"
        return any(measure in s.operation.after and s.key not in self.done for s in self.steps.values())
