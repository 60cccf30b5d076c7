"""Drills: a unit with a hidden fault to be found, cavities to be found on faces from both sides, and what threads on in
which order.

The same seed gives the same drill. Each scores what was done against the least there is, and explains.
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Sequence
from dataclasses import dataclass, field

from umber_trunk.core.ends.faces import Face, View, faces_in
from umber_trunk.core.ends.order import Step as EndStep
from umber_trunk.core.ends.order import steps_at
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import words_of
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.millivolts import part_probe, test_amps
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.prove.powered import Powered
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.session import Prover, Taken
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say

DRILLS = ("fault", "lug", "loose", "powered", "face", "thread")
FOR_BEGINNERS = ("open", "swap", "high", "short")
"""Faults a beginner is given: those that show plainly."""
GIVEN = {"fault": FOR_BEGINNERS, "lug": ("high",), "loose": ("loose",)}
"""Drill → the kinds of fault it hides."""


MOST_SYMPTOMS = 12
"""Readings a drill begins with."""


@dataclass(frozen=True)
class Score:
    """What came of a drill: right or not, how many readings or tries against the least, and why."""

    right: bool
    used: int
    least: int
    told: str


class FaultDrill:
    """A unit that failed its list: the symptom is known, the fault is to be named with as few readings more as can be.
    Of the drill "lug" it is a bad lug or nut on a heavy lead, of "loose" a plug that isn't home."""

    def __init__(self, net: Netlist, seed: int, priors: Priors | None = None, drill: str = "fault") -> None:
        self.net, self.seed, self.drill = net, seed, drill
        draw = random.Random(seed)
        self.priors = priors or Priors(net)
        self.parts = (
            [test.probe for test in make_plan(net, Meter()).of("millivolt") if test.probe is not None]
            if drill == "lug"
            else []
        )
        """Where millivolts can be read, of the drill that needs them."""
        for _ in range(50):
            kind = draw.choice(GIVEN[drill])
            try:
                self.fault: Fault = self._heavy(draw) if drill == "lug" else self.priors.draw(draw, kind)
            except InputError:
                continue
            meter = (
                Meter(amps=0.0) if drill == "lug" else Meter()
            )  # by ohms alone it failed: millivolts are the learner's
            self._expert = Prover(net, meter, make_plan(net, meter), self.priors)
            verdict = self._expert.run(Unit(net, [self.fault], seed).measure)
            if verdict.suspects:
                break
        else:
            raise InputError.of("prove.this-harness-has-nothing-fault-could")
        self.symptoms = [one for one in self._expert.taken if one.test and not one.ok][:MOST_SYMPTOMS]
        self.least = sum(not one.test for one in self._expert.taken)
        self.unit = Unit(net, [self.fault], seed + 1)
        self.taken: list[Taken] = []
        self._mine = Prover(net, priors=self.priors)

    def _heavy(self, draw: random.Random) -> Fault:
        """A bad lug or nut on a heavy lead. InputError where there is none."""
        heavy = [probe for probe in self.parts if probe.part != "along"]
        if not heavy:
            raise InputError.of("prove.this-harness-has-no-heavy-lead")
        probe = draw.choice(heavy)
        what, _, end = probe.part.partition("@")
        ohm = self.net.facts[probe.wire].copper_ohm * draw.uniform(1.0, 4.0) + 4 * sum(
            self.net.facts[probe.wire].joints
        )
        return Fault("stud" if what == "stud" else "high", (probe.wire,), end, ohm=ohm)

    def across(self, wire: str, part: str) -> Taken:
        """Millivolts of the learner's across a part of a lead, in ohms. InputError for a part it hasn't."""
        amps = test_amps(self.net, wire, Meter()) if wire in self.net.facts else 0.0
        if not amps or part not in self.net.parts(wire):
            known = ", ".join(
                f"{one} {name}"
                for one in self.net.facts
                for name in self.net.parts(one)
                if test_amps(self.net, one, Meter())
            )
            raise InputError.of("prove.millivolts-cant-be-read-there", known=known[:400] or "none")
        probe = part_probe(self.net, wire, part, amps)
        one = self._mine.take(probe, self.unit.measure(probe))
        self.taken.append(one)
        return one

    def probe(self, a: Point, b: Point) -> Taken:
        """A reading of the learner's."""
        for point in (a, b):
            if point != EARTH and point not in self.net.node_of:
                raise InputError.of("prove.no-place", amps=point[0], volts=point[1])
        probe = Probe("four", (a,), (b,))
        one = self._mine.take(probe, self.unit.measure(probe))
        self.taken.append(one)
        return one

    def shown(self) -> list[Taken]:
        """The readings that the judge took after the list, in their order."""
        return [one for one in self._expert.taken if not one.test]

    def name(self, what: str, wires: Sequence[str]) -> Score:
        """The learner's answer: the kind of fault and its wires, WIRE@END where the end counts."""
        named, ends = {one.partition("@")[0] for one in wires}, {one.partition("@")[2] for one in wires} - {""}
        asked = self.drill == "lug"
        right = what == self.fault.what and named == set(self.fault.where) and (not asked or ends == {self.fault.end})
        told = say("drill.it-was", what=words_of(self.net, self.fault))
        used = len(self.taken)
        if asked and named == set(self.fault.where) and not right:
            told += say("drill.wire-is-right")
        elif used > self.least:
            told += say("drill.judge-took", used=used, least=self.least)
        elif right:
            told += say("drill.one-needed") if used == 1 else say("drill.no-more", used=used, least=self.least)
        return Score(right, used, self.least, told)


class PoweredDrill:
    """A load that doesn't work on a living harness: by volts with the source on."""

    def __init__(self, results: Results, seed: int) -> None:
        self.draw = random.Random(seed)
        loads = [load.id for load in results.plant.loads]
        self.draw.shuffle(loads)
        for load in loads:
            try:
                self.search = Powered(results, load)
            except InputError:
                continue
            break
        else:
            raise InputError.of("prove.this-harness-has-no-load")
        dead = [n for n, one in enumerate(self.search.suspects) if one.kind not in ("sound", "source")]
        self.truth = self.search.suspects[number := self.draw.choice(dead)]
        self._volts = self.search.at(number)

    def volts(self, a: Point, b: Point) -> tuple[float, float]:
        """(volts read, volts of a sound harness) between two places on the way."""
        for place in (a, b):
            if place not in self.search.pins:
                raise InputError.of(
                    "prove.place-not-on-way",
                    place=":".join(place),
                    load=self.search.load.name,
                    pins=", ".join(":".join(one) for one in self.search.pins),
                )
        read = float(self._volts[self.search.pins[a]] - self._volts[self.search.pins[b]]) + self.draw.gauss(0, 0.02)
        self.search.read(a, b, read)
        return read, self.search.expected(a, b)

    def shown(self) -> list[tuple[Point, Point, float, float]]:
        """(place, place, volts read, volts of a sound harness) down the way from the source to the load and back, over
        each piece of it."""
        pins = list(self.search.pins)
        read = [
            float(self._volts[self.search.pins[a]] - self._volts[self.search.pins[b]])
            for a, b in itertools.pairwise(pins)
        ]
        return [
            (a, b, volts, self.search.expected(a, b))
            for (a, b), volts in zip(itertools.pairwise(pins), read, strict=True)
        ]

    def name(self, kind: str, where: str) -> Score:
        """The learner's answer."""
        right = (kind, where) == (self.truth.kind, self.truth.where)
        used = len(self.search.readings)
        return Score(
            right,
            used,
            used,
            f"It was: {self.truth.words}. {self.truth.mend:begins}. {used} readings.",
        )


@dataclass
class FaceDrill:
    """Where on a face a wire sits, seen from the wire side or from the mating side in turn."""

    results: Results
    seed: int
    face: Face = field(init=False)
    label: str = field(init=False)
    wire: str = field(init=False)
    mating: bool = field(init=False)

    def __post_init__(self) -> None:
        draw = random.Random(self.seed)
        self.mating = draw.random() < 0.5
        side: View = "mating" if self.mating else "wire"
        places = places_of(self.results.design, self.results.shelf)
        ends = dict.fromkeys(end.id for end, _, _ in places.housings())
        faces = [
            face
            for end in ends
            for face in faces_in(self.results, end, side)
            if sum(bool(spot.wires) for spot in face.spots) > 1
        ]
        if not faces:
            raise InputError.of("prove.no-connector-of-this-harness")
        self.face = draw.choice(faces)
        spot = draw.choice([spot for spot in self.face.spots if spot.wires])
        self.label, self.wire = spot.label, spot.wires[0]

    @property
    def question(self) -> str:
        """What is asked."""
        name = index_of(self.results.design).ends[self.face.end].name
        return say("drill.where", end=name, face=self.face.name, words=self.face.words, wire=self.wire)

    def answer(self, label: str) -> Score:
        """The cavity pointed at."""
        if label not in {spot.label for spot in self.face.spots}:
            raise InputError.of("prove.this-face-has-no-cavity", label=label)
        right = label == self.label
        told = f"{self.wire} is in {self.label}."
        if not right and label == opposite(self.face, self.label):
            told += " What you named is its mirror image: from the other side left and right change places."
        return Score(right, 1, 1, told)


def opposite(face: Face, label: str) -> str:
    """The cavity that lies where this one does on the other side's picture."""
    here = next(spot for spot in face.spots if spot.label == label)
    return min(face.spots, key=lambda spot: (spot.x_mm + here.x_mm) ** 2 + (spot.y_mm - here.y_mm) ** 2).label


@dataclass
class ThreadDrill:
    """Steps at an end, shuffled: in which order are they done? What can't go on later has to come first."""

    results: Results
    seed: int
    end: str = field(init=False)
    steps: list[EndStep] = field(init=False)

    def __post_init__(self) -> None:
        draw = random.Random(self.seed)
        rows = {end.id: steps_at(self.results, end.id) for end in self.results.design.ends}
        good = [end for end, steps in rows.items() if any(step.op == "thread" for step in steps) and len(steps) > 3]
        if not good:
            raise InputError.of("prove.nothing-of-this-harness-threads")
        self.end = draw.choice(good)
        wires = [step.wire for step in rows[self.end] if step.op == "thread" and step.wire]
        mine = [step for step in rows[self.end] if not wires or step.wire == wires[0]]
        self.steps = draw.sample(mine, len(mine))

    def shown(self) -> list[str]:
        """The steps in an order that can be done."""
        left, found = list(self.steps), list[EndStep]()
        while left:
            step = next(one for one in left if not any(other.id in one.after for other in left))
            left.remove(step)
            found.append(step)
        return [step.text for step in found]

    def answer(self, order: Sequence[str]) -> Score:
        """The ids of the steps in the learner's order; the score counts what was out of place."""
        known = {step.id: step for step in self.steps}
        if sorted(order) != sorted(known):
            raise InputError.of("prove.name-each-step-once")
        place = {name: at for at, name in enumerate(order)}
        wrong = [
            (before, step)
            for step in self.steps
            for before in step.after
            if before in place and place[before] > place[step.id]
        ]
        if not wrong:
            return Score(True, 0, 0, "Right: what threads on went on first.")
        first = wrong[0]
        return Score(
            False,
            len(wrong),
            0,
            (
                f"“{known[first[0]].text}” comes before “{first[1].text}”: "
                f"{known[first[0]].told or 'later it can’t be done any more'}"
            ),
        )
