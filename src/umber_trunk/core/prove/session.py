"""A unit being proven: the list test by test, the follow-ups a bad reading asks for, and the reading that tells most next."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.prove.belief import Belief, weights_of
from umber_trunk.core.prove.clipping import box_readings, by_hand_readings
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point
from umber_trunk.core.prove.plan import OPEN_OHM, SECONDS, WALK_S, Plan, Test, band_of, make_plan
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.state import Probe
from umber_trunk.core.prove.suspicion import ALIKE_SD, ALIKE_SHARE, Judge, Verdict
from umber_trunk.core.prove.touching import LEAST_LEAK_OHM

Measure = Callable[[Probe], float]
LEAST_BITS = 0.03
"""A reading that is expected to tell less than this isn't worth walking for."""
MOST_FOLLOW = 40
LOOKED_AT = 28
SLIPPED = 0.01
"""How likely a reading has to be spoilt by its probe, so that it is read again."""
MOVE_S = 4.0


@dataclass(frozen=True)
class Next:
    """The reading that tells most for its time: expected information in bits, and seconds. `again`: one taken already, whose probe may have slipped."""

    probe: Probe
    bits: float
    seconds: float
    again: bool = False


@dataclass(frozen=True)
class Taken:
    """A reading that was taken: of which test of the list, 0 for one that followed up, and whether it is in its band."""

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
    """Proves one unit. `take` gives a reading; the list goes on until something is odd, then the follow-ups settle what it is."""

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
            expect, low, high, number = test.expect, test.low, test.high, test.n
            ok = test.judged(ohm)
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
        """One reading after another: yields what to measure, is sent what was read. Where a group test leads, halving finds which; shorts
        found put off the high voltage; what is odd at the end is followed up until no reading tells more."""
        tests = self.cold()
        for kind in ("earth", "shorts", "continuity", "shield", "insulation", "resistance"):
            mine = [test for test in tests if test.kind == kind]
            if kind == "shorts":
                yield from self._grouped(mine, "two", [])
            elif kind == "insulation":
                if not self.shorted:  # no high voltage onto nets that are joined: mend that first
                    yield from self._insulation(mine)
            else:
                for test in mine:
                    assert test.probe is not None
                    ohm = yield Step(test.probe, test)
                    self.take(test.probe, ohm, test)
        if not self.odd_left():
            return
        for _ in range(MOST_FOLLOW):
            following = self.next(wanted)
            if following is None:
                return
            ohm = yield Step(following.probe, None, following)
            self.take(following.probe, ohm)

    def _grouped(self, tests: list[Test], kind: str, left_out: list[int]) -> Generator[Step, float, None]:
        """Group tests of all nets; those that follow up are readings like any other."""
        first = [points[0] for net, points in self.net.nets.items() if net not in left_out]
        known = {(test.probe.a, test.probe.b): test for test in tests if test.probe is not None}
        asking = box_readings(len(first)) if self.plan.box else by_hand_readings(len(first))
        with suppress(StopIteration):
            a, b = next(asking)
            while True:
                probe = Probe(kind, tuple(first[n] for n in a), tuple(first[n] for n in b))
                test = known.get((probe.a, probe.b))
                ohm = yield Step(probe, test)
                one = self.take(probe, ohm, test, self._least(kind))
                self.shorted |= kind == "two" and ohm < LEAST_LEAK_OHM
                a, b = asking.send(not one.ok)

    def _insulation(self, tests: list[Test]) -> Generator[Step, float, None]:
        """All nets against earth, halved where they leak; then the same groups as for shorts, those that leak to earth left out."""
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
        """The reading that tells most about what is wrong, per minute, from where the last one left the leads; None when none tells
        anything more."""
        rows = self.judge.beliefs(wanted)
        if not rows[0].state.faults and self.all_right and (len(rows) == 1 or rows[1].log < rows[0].log - 4):
            return None
        again = self._again(rows)
        if again is not None:
            return again
        top = [one for one in rows if one.log > rows[0].log - 6][:LOOKED_AT]
        if len(top) < 2:
            return None
        last = self.taken[-1].probe.a[:1] + self.taken[-1].probe.b[:1] if self.taken else ()
        return best_reading(self.judge, top, last, {(t.probe.kind, t.probe.a, t.probe.b) for t in self.taken})


def _entropy(share: float) -> float:
    return -sum(part * math.log2(part) for part in (share, 1 - share) if part > 0)


def best_reading(
    judge: Judge,
    top: list[Belief],
    held: tuple[Point, ...],
    had: set[tuple[str, tuple[Point, ...], tuple[Point, ...]]],
) -> Next | None:
    """Of all pairs of points where the beliefs differ, the one whose reading is expected to tell most per minute."""
    points = judge.points_of([fault for one in top for fault in one.state.faults])
    if len(points) < 2:
        return None
    weights = weights_of(top)
    tables = np.array([one.state.table(points) for one in top])
    i, j = np.triu_indices(len(points), 1)
    values = tables[:, i, j]
    meter = judge.meter
    order = np.argsort(values, axis=0)
    ranked = np.take_along_axis(values, order, axis=0)
    mass = weights[order]
    with np.errstate(invalid="ignore"):
        gap = np.diff(ranked, axis=0)
        sd = np.hypot(meter.floor_ohm, ALIKE_SHARE * ranked[:-1])
        split = (gap > ALIKE_SD * sd) | (np.isinf(ranked[1:]) & np.isfinite(ranked[:-1]))
    split &= ~np.isnan(gap) | (np.isinf(ranked[1:]) & np.isfinite(ranked[:-1]))
    classes = np.vstack([np.zeros((1, len(i)), dtype=int), np.cumsum(split, axis=0)])
    sums = np.zeros_like(mass)
    for row in range(len(top)):
        np.add.at(sums, (classes[row], np.arange(len(i))), mass[row])
    with np.errstate(divide="ignore", invalid="ignore"):
        bits = -np.where(sums > 0, sums * np.log2(sums), 0.0).sum(axis=0)
    seconds = np.array([_seconds(points[a], points[b], held) for a, b in zip(i, j, strict=True)])
    for n, (a, b) in enumerate(zip(i, j, strict=True)):
        pair = ((points[a],), (points[b],))
        if (meter.kind, *pair) in had or (meter.kind, *pair[::-1]) in had:
            bits[n] = 0.0
    best = int(np.argmax(bits / seconds * (bits > LEAST_BITS)))
    if bits[best] <= LEAST_BITS:
        return None
    close = np.flatnonzero(bits > 0.98 * bits.max())
    best = int(close[np.argmin(seconds[close])]) if bits[best] < 0.6 * bits.max() else best
    a, b = points[i[best]], points[j[best]]
    return Next(Probe(meter.kind, (a,), (b,)), float(bits[best]), float(seconds[best]))


def _seconds(a: Point, b: Point, held: tuple[Point, ...]) -> float:
    """Time for a reading: leads to move, ends to walk to."""
    fresh = [point for point in (a, b) if point not in held]
    ends = {point[0] for point in held}
    return SECONDS["continuity"] + MOVE_S * len(fresh) + WALK_S * len({point[0] for point in fresh} - ends)
