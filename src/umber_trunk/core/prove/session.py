"""A unit being proven: the list test by test, and the follow-ups a bad reading asks for."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.prove.belief import Belief, weights_of
from umber_trunk.core.prove.checklist import OPEN_OHM, READS, SECONDS, Plan, Test, band_of
from umber_trunk.core.prove.clipping import box_readings, by_hand_readings
from umber_trunk.core.prove.meter import SHAKEN, Meter
from umber_trunk.core.prove.netlist import EARTH, Netlist
from umber_trunk.core.prove.next_reading import MOVE_S, Next, acts_of, best_reading
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.suspicion import Judge
from umber_trunk.core.prove.touching import LEAST_LEAK_OHM
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.core.prove.whole import LEAST_SIGNS

Floats = NDArray[np.float64]
Measure = Callable[[Probe], float]
MOST_FOLLOW = 40
"""Readings beyond the list in one proof."""
LOOKED_AT = 28
"""Hypotheses that a next reading is chosen to part."""
SURE = 0.95
"""How likely one act of repair has to be, so that leads aren't placed for more."""
SLIPPED = 0.01
"""How likely a reading has to be spoilt by its probe, so that it is read again."""


@dataclass(frozen=True)
class Taken:
    """A reading that was taken: of which test of the list, 0 for one that followed up, and whether it is in its
    band."""

    test: int
    probe: Probe
    ohm: float
    ok: bool
    expect: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Step:
    """What to measure now: a test of the list, or a reading that follows up, with what it is expected to tell."""

    probe: Probe
    test: Test | None
    following: Next | None = None


class Prover:
    """Proves one unit. `take` gives a reading; the list goes on until something is odd, then the follow-ups settle what
    it is."""

    def __init__(
        self, net: Netlist, meter: Meter | None = None, plan: Plan | None = None, priors: Priors | None = None
    ) -> None:
        self.net, self.meter = net, meter or Meter()
        self.plan = plan or make_plan(net, self.meter)
        self.judge = Judge(net, self.meter, priors)
        self.taken: list[Taken] = []
        self.shorted = False
        """Whether nets that should be apart lead to one another."""

    def take(self, probe: Probe, ohm: float, test: Test | None = None, least: float = OPEN_OHM) -> Taken:
        """A reading, judged against its own band."""
        if test is not None:
            number, per = test.n, test.value_of(1.0)
            expect, low, high = (None if one is None else one / per for one in (test.expect, test.low, test.high))
            ok = test.judged(test.value_of(ohm))
        else:
            number = 0
            expect, low, high = band_of(self.judge.sound, self.meter, probe)
            if expect is None:
                low = least
            ok = (low is None or ohm >= low) and (high is None or ohm <= high)
        self.judge.add(probe, ohm)
        one = Taken(number, probe, ohm, ok, expect, low, high)
        self.taken.append(one)
        return one

    def cold(self) -> list[Test]:
        """Tests of the list that are readings of a meter with the source off."""
        return [test for test in self.plan.tests if test.probe is not None]

    def run(self, measure: Measure, wanted: Wanted = always) -> Verdict:
        """The whole list, then follow-ups until nothing more can be told."""
        asking = self.steps(wanted)
        with suppress(StopIteration):
            step = next(asking)
            while True:
                step = asking.send(measure(step.probe))
        return self.verdict(wanted)

    def steps(self, wanted: Wanted = always) -> Generator[Step, float, None]:
        """One reading after another: yields what to measure, is sent what was read. Where a group test leads, halving
        finds which; shorts found put off the high voltage; what is odd at the end is followed up until no reading tells
        more."""
        tests = self.cold()
        for kind in ("earth", "shorts", "continuity", "shield", "insulation", "resistance", "millivolt", "shake"):
            mine = [test for test in tests if test.kind == kind]
            gone = self._open()
            if kind == "shorts":
                yield from self._grouped(mine, "two", [])
            elif kind == "insulation":
                if not self.shorted:  # no high voltage onto nets that are joined: mend that first
                    yield from self._insulation(mine)
            else:
                for test in mine:
                    assert test.probe is not None
                    if kind in ("millivolt", "shake") and not gone.isdisjoint(test.wires):
                        continue  # no current goes through what is open, and bending it tells nothing more
                    ohm = yield Step(test.probe, test)
                    self.take(test.probe, ohm, test)
        for _ in range(MOST_FOLLOW):
            following = self.next(wanted) if self.odd_left() else None
            if following is None:
                break
            ohm = yield Step(following.probe, None, following)
            self.take(following.probe, ohm)
        for probe in self.jumped:
            held = replace(probe, kind=SHAKEN.get(probe.kind, ""))
            if held.kind and not any(one.probe == held for one in self.taken):
                self.take(held, (yield Step(held, None)))

    def _grouped(self, tests: list[Test], kind: str, left_out: list[int]) -> Generator[Step, float, None]:
        """Group tests of all nets; those that follow up are readings like any other."""
        first = [points[0] for net, points in self.net.nets.items() if net not in left_out]
        known = {(test.probe.a, test.probe.b): test for test in tests if test.probe is not None}
        asking = box_readings(len(first)) if self.plan.box else by_hand_readings(len(first))
        leaking = 0
        with suppress(StopIteration):
            a, b = next(asking)
            while True:
                probe = Probe(kind, tuple(first[n] for n in a), tuple(first[n] for n in b))
                test = known.get((probe.a, probe.b))
                ohm = yield Step(probe, test)
                one = self.take(probe, ohm, test, self._least(kind))
                self.shorted |= kind == "two" and ohm < LEAST_LEAK_OHM
                leaking += not one.ok and min(len(a), len(b)) == 1
                if leaking >= LEAST_SIGNS and not one.ok and min(len(a), len(b)) == 1 and self._one_cause():
                    self.shorted = True  # no high voltage onto what is known to lead
                    return
                a, b = asking.send(not one.ok)

    def _open(self) -> set[str]:
        """Wires over which an ohmmeter found nothing."""
        wires = {one.n: one.wires for one in self.plan.tests if one.kind in READS}
        return {wire for one in self.standing if one.test in wires and math.isinf(one.ohm) for wire in wires[one.test]}

    def _one_cause(self) -> bool:
        """Whether one fault, or those no reading parts from it, explains all that was read so far, beyond doubt."""
        best = self.judge.beliefs()[0]
        if best.odd or len(best.state.faults) != 1:
            return False
        return sum(cause.probability for cause in self.judge.verdict().alike[0]) > SURE

    def _insulation(self, tests: list[Test]) -> Generator[Step, float, None]:
        """All nets against earth, halved where they leak; then the same groups as for shorts, those that leak to earth
        left out."""
        leaking: list[int] = []
        for test in tests:
            if test.probe is None or test.probe.b != (EARTH,):
                continue
            ohm = yield Step(test.probe, test)
            if self.take(test.probe, ohm, test).ok:
                continue
            left = list(test.probe.a)
            while left:
                some = left
                while len(some) > 1:
                    half = some[: len(some) // 2]
                    probe = Probe("insulation", tuple(half), (EARTH,))
                    ohm = yield Step(probe, None)
                    some = some[len(some) // 2 :] if self.take(probe, ohm, None, self._least("insulation")).ok else half
                leaking.append(self.net.net_at(some[0]))
                left = [point for point in left if point != some[0]]
                if not left:
                    break
                probe = Probe("insulation", tuple(left), (EARTH,))
                ohm = yield Step(probe, None)
                if self.take(probe, ohm, None, self._least("insulation")).ok:
                    break
        yield from self._grouped(
            [test for test in tests if test.probe is not None and test.probe.b != (EARTH,)], "insulation", leaking
        )

    def _least(self, kind: str) -> float:
        return self.net.design.project.insulation_ohm if kind == "insulation" else OPEN_OHM

    @property
    def standing(self) -> list[Taken]:
        """The readings that stand: of those taken twice the last."""
        return list({one.probe: one for one in self.taken}.values())

    @property
    def all_right(self) -> bool:
        """Whether every reading that stands is in its band."""
        return all(one.ok for one in self.standing)

    @property
    def jumped(self) -> list[Probe]:
        """Probes that read wrong once and right the last time."""
        right = {one.probe for one in self.standing if one.ok}
        return list(dict.fromkeys(one.probe for one in self.taken if not one.ok and one.probe in right))

    def odd_left(self) -> bool:
        """Whether any reading isn't as a sound unit would give it."""
        return not self.all_right or bool(self.judge.beliefs()[0].state.faults)

    def verdict(self, wanted: Wanted = always) -> Verdict:
        """What all readings so far come to."""
        found = self.judge.verdict(wanted)
        return replace(found, settled=self.next(wanted) is None)

    def _again(self, rows: list[Belief]) -> Next | None:
        """The same reading once more, where a probe that slipped may be all there is to it."""
        weights = weights_of(rows)
        for at, one in enumerate(self.taken):
            if one.ok or not one.probe.single or sum(other.probe == one.probe for other in self.taken) > 1:
                continue
            slipped = float(sum(weight for weight, belief in zip(weights, rows, strict=True) if at in belief.odd))
            if slipped > SLIPPED:
                return Next(one.probe, _entropy(min(slipped, 0.5)), SECONDS["continuity"] + 2 * MOVE_S, again=True)
        return None

    def next(self, wanted: Wanted = always) -> Next | None:
        """The reading that tells most about what is wrong, per minute, from where the last one left the leads; None
        when none tells anything more."""
        rows = self.judge.beliefs(wanted)
        if not rows[0].state.faults and self.all_right and (len(rows) == 1 or rows[1].log < rows[0].log - 4):
            return None
        again = self._again(rows)
        if again is not None:
            return again
        if self.judge.unknown(rows) > SURE:
            return None  # no reading tells more of what no kind known here explains
        top = [one for one in rows if one.log > rows[0].log - 6][:LOOKED_AT]
        if len({acts_of(self.net, one) for one in top}) < 2:
            return None  # one act mends all that is left
        last = self.taken[-1].probe.a[:1] + self.taken[-1].probe.b[:1] if self.taken else ()
        return best_reading(self.judge, top, last, {t.probe for t in self.taken})


def _entropy(share: float) -> float:
    return -sum(part * math.log2(part) for part in (share, 1 - share) if part > 0)
