"""The proof of one unit as a run of tasks: by eye, then by meter, then under power if all before was sound; a fold over
its answers.

The same answers give the same state, so that a proof left half way goes on where it was.
"""

from __future__ import annotations

import math
from collections.abc import Generator, Iterable
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.make.unit_acts import Test as Answered
from umber_trunk.core.measures import RESISTANCE, VOLTAGE
from umber_trunk.core.prove.checklist import OPEN_OHM, SECONDS, Plan, Test, band_of
from umber_trunk.core.prove.meter import SHAKEN, Meter
from umber_trunk.core.prove.millivolts import millivolt_words
from umber_trunk.core.prove.netlist import Netlist, Point
from umber_trunk.core.prove.next_reading import Next
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.session import Prover
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.core.quantity import Habit, read
from umber_trunk.core.sentences import say

POWERED = ("polarity", "load", "loop")
NOTHING = ("ol", "o.l", "o.l.", "over", "open", "inf", "∞", "nothing")
"""What a meter shows, or a builder types, for nothing at all."""
LIKELY = 0.1
"""How likely a fault has to be, so that its wires are redlined."""


@dataclass(frozen=True)
class Task:
    """What to do now. `test` is its place on the list, None for a reading that follows up (`following` says what it
    tells). `unit` is "" where eyes judge."""

    kind: str
    text: str
    told: str
    unit: str
    expect: float | None
    low: float | None
    high: float | None
    points: tuple[Point, ...]
    test: Test | None = None
    probe: Probe | None = None
    following: Next | None = None

    @property
    def high_voltage(self) -> bool:
        """Whether it energises the harness by the insulation tester."""
        return self.probe is not None and self.probe.kind == "insulation"

    def ohm_of(self, value: float) -> float:
        """A reading in ohms: of millivolts at the current that flows."""
        return 1e-3 * value / self.probe.amps if self.unit == "mV" and self.probe is not None else value

    def value_of(self, ohm: float) -> float:
        """A reading in ohms as the task asks for it."""
        return 1e3 * ohm * self.probe.amps if self.unit == "mV" and self.probe is not None else ohm

    def fits(self, value: float) -> bool:
        """Whether a reading is in its band."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)


@dataclass(frozen=True)
class Answer:
    """What came of a task: a reading, infinite for nothing, or what eyes said."""

    task: Task
    value: float | None
    ok: bool


class Proof:
    """One unit's proof. `now` is the task, None at the end; `answer` takes what came of it."""

    def __init__(
        self, net: Netlist, meter: Meter | None = None, plan: Plan | None = None, priors: Priors | None = None
    ) -> None:
        self.net, self.meter = net, meter or Meter()
        self.prover = Prover(net, self.meter, plan, priors)
        self.plan = self.prover.plan
        self.answers: list[Answer] = []
        self.disconnected = False
        """Whether somebody said that the electronics are off and nobody touches the harness; high voltage waits for
        it."""
        self._asking = self._tasks()
        self.now: Task | None = next(self._asking, None)

    def _tasks(self) -> Generator[Task, tuple[float | None, bool], None]:
        for test in self.plan.tests:
            if test.kind in ("look", "tug"):
                yield _task(test)
        steps = self.prover.steps()
        step = next(steps, None)
        while step is not None:
            task = _task(step.test) if step.test is not None else self.follow(step.probe, step.following)
            value, _ = yield task
            assert value is not None
            try:
                step = steps.send(task.ohm_of(value))
            except StopIteration:
                step = None
        for test in self.plan.of("shake"):
            if test.probe is None:  # of a list frozen when bending was judged by eye
                yield _task(test)
        if not self.sound_so_far:
            return  # power stays off
        for kind in POWERED:
            for test in self.plan.of(kind):
                yield _task(test)

    def follow(self, probe: Probe, following: Next | None) -> Task:
        """A reading asked for beside the list, with the band it is to lie in."""
        expect, low, high = band_of(self.prover.judge.sound, self.meter, probe)
        if probe.part:
            return self._across(probe, (expect, low, high), following)
        if probe.kind in SHAKEN.values():
            return self._bent(probe, (expect, low, high))
        insulation = probe.kind == "insulation"
        if expect is None:
            low = self.net.design.project.insulation_ohm if insulation else OPEN_OHM
        told = say("test.halving-which-of-them-leads")
        if following is not None and following.again:
            told = say("test.again-place-wiped-and-probe-set")
        elif following is not None:
            told = say("test.tells-most-in-time", bits=following.bits, seconds=following.seconds)
        kind = "insulation" if insulation else "follow" if probe.single else "shorts"
        a, b = self._several(probe.a), self._several(probe.b)
        return Task(
            kind,
            f"{say('test.from-to', a=a, b=b)}.",
            told,
            "Ω",
            expect,
            low,
            high,
            (*probe.a[:1], *probe.b[:1]),
            None,
            probe,
            following,
        )

    def _across(
        self, probe: Probe, band: tuple[float | None, float | None, float | None], following: Next | None
    ) -> Task:
        """Millivolts across a part of a wire that follow up."""
        text, told = millivolt_words(self.net, probe)
        most = say("test.this-tells-most", bits=following.bits) if following is not None else ""
        expect, low, high = (None if ohm is None else 1e3 * ohm * probe.amps for ohm in band)
        points = tuple(dict.fromkeys((*probe.a, *probe.b)))
        return Task("millivolt", str(text), f"{most}{told}", "mV", expect, low, high, points, None, probe, following)

    def _bent(self, probe: Probe, band: tuple[float | None, float | None, float | None]) -> Task:
        """A reading that was bad once and right the second time: a probe that slipped, or a contact that makes and
        breaks."""
        a, b = self._several(probe.a), self._several(probe.b)
        text = say("test.read-wrong-once-and-right-second", a=a, b=b)
        told = say("test.write-down-highest-it-shows")
        return Task("shake", text, told, "Ω", *band, (*probe.a[:1], *probe.b[:1]), None, probe)

    def _several(self, points: tuple[Point, ...]) -> str:
        return ", ".join(map(self.net.name, points[:3])) + (" …" if len(points) > 3 else "")

    def answer(self, value: float | None = None, ok: bool | None = None) -> Answer:
        """A reading, or what eyes said. InputError where there is nothing to answer, or not so."""
        task = self.now
        if task is None:
            raise InputError.of("prove.proof-is-at-its-end")
        if task.unit and value is None:
            raise InputError.of("prove.this-wants-reading")
        if task.high_voltage and not self.disconnected:
            raise InputError.of("prove.high-voltage-is-locked-out")
        if task.unit == "" and ok is None:
            raise InputError.of("prove.say-whether-it-is-right")
        good = bool(ok) if value is None else task.fits(value)
        one = Answer(task, value, good)
        self.answers.append(one)
        try:
            self.now = self._asking.send((value, good))
        except StopIteration:
            self.now = None
        return one

    @property
    def sound_so_far(self) -> bool:
        """Whether nothing that was answered is out of its band, and no fault is likelier than none."""
        return all(one.ok for one in self.standing) and not self.prover.judge.beliefs()[0].state.faults

    @property
    def standing(self) -> list[Answer]:
        """The answers that stand: of a probe read twice the last."""
        return list({one.task.probe or one.task.text: one for one in self.answers}.values())

    @property
    def complete(self) -> bool:
        """Whether everything on the list was asked and was right, and a meter read some of it."""
        return (
            self.now is None
            and self.plan.measures
            and self.sound_so_far
            and len({one.task.test.n for one in self.answers if one.task.test}) == len(self.plan.tests)
        )

    def verdict(self) -> Verdict:
        """What the meter's readings come to."""
        return self.prover.verdict()

    def left_s(self) -> float:
        """Time the rest of the list takes, by first guesses."""
        done = {one.task.test.n for one in self.answers if one.task.test is not None}
        return sum(SECONDS[test.kind] for test in self.plan.tests if test.n not in done)

    def wires(self, verdict: Verdict | None = None) -> dict[str, str]:
        """Each wire's state: "failed" where a reading over it is out of its band or a likely fault of the verdict names
        it, "tested", "left"."""
        state = dict.fromkeys(self.net.facts, "left")
        over = {one.task.probe: one.task.test.wires for one in self.answers if one.task.test is not None}
        for one in self.standing:
            if not one.task.unit:
                continue
            for wire in one.task.test.wires if one.task.test is not None else over.get(one.task.probe, ()):
                if wire in state:
                    state[wire] = "failed" if not one.ok or state[wire] == "failed" else "tested"
        for suspect in verdict.suspects if verdict is not None and not self.sound_so_far else ():
            if suspect.probability > LIKELY:
                state |= {wire: "failed" for wire in suspect.fault.where if wire in state}
        return state

    # what the log keeps

    def entry(self, one: Answer) -> Answered:
        """An answer as the log keeps it."""
        task = one.task
        n, a, b = self._where(task)
        data: dict[str, Any] = {"kind": task.kind, "ok": one.ok, "unit": task.unit, "low": task.low, "high": task.high, "n": n, "a": a, "b": b}  # fmt: skip
        if task.unit:
            over = one.value is None or math.isinf(one.value)
            data |= {"value": None if over else one.value, "over": over}
        return Answered.model_validate(data)

    def _where(self, task: Task) -> tuple[int, str, str]:
        """What tells a task from others in the log: its number and places."""
        if task.test is not None:
            return task.test.n, task.test.a, task.test.b
        if task.probe is not None and task.probe.part:
            return 0, task.probe.wire, task.probe.part
        a, b = (task.probe.a, task.probe.b) if task.probe is not None else (task.points[:1], task.points[1:])
        return 0, ",".join(map(self.net.said, a)), ",".join(map(self.net.said, b))

    def replay(self, entries: Iterable[Answered]) -> int:
        """Takes logged answers in as long as each answers just what is asked then; how many did."""
        before, self.disconnected = self.disconnected, True
        count = 0
        for one in entries:
            task = self.now
            if task is None or (one.test, one.n, one.a, one.b) != (task.kind, *self._where(task)):
                break
            if not task.unit:
                self.answer(ok=one.ok)
            elif one.over:
                self.answer(math.inf)
            elif one.value is not None:
                self.answer(one.value)
            else:
                break  # a reading that says nothing
            count += 1
        self.disconnected = before
        return count


def _task(test: Test) -> Task:
    return Task(
        test.kind,
        str(test.text),
        str(test.told),
        test.unit,
        test.expect,
        test.low,
        test.high,
        test.points,
        test,
        test.probe,
    )


def read_reading(text: str, unit: str, habit: Habit | None = None) -> float:
    """A reading as it is typed or as a meter's display shows it: "12.4 mohm", "OL". A number alone is in the base unit.
    InputError for what can't be read whole, and for a bare 1, which small meters show for nothing."""
    plain = text.strip().lower()
    if plain == "1":
        raise InputError.of("prove.how-some-meters-show-nothing")
    if plain in NOTHING and unit == "Ω":
        return math.inf
    measure, base = (RESISTANCE, "ohm") if unit == "Ω" else (VOLTAGE, "mV" if unit == "mV" else "v")
    value = read(text, measure, base, habit).value * (1e3 if unit == "mV" else 1.0)
    if unit == "Ω" and not 0 <= value < 1e15:
        raise InputError.of("prove.no-resistance-harness", text=quoted(text))
    return value
