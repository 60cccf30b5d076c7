"""What readings say of a harness with faults in it: how likely they are together, and which of them it doesn't
explain."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.gauss import log_each, log_sound
from umber_trunk.core.prove.meter import INSULATION_LOG10, SLIP, Meter, log_anything, log_insulation, log_stray
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.probe import Probe, Seen, error_of
from umber_trunk.core.prove.state import State

Floats = NDArray[np.float64]
ODD = 3.5
"""Standard deviations from which on a reading calls for an explanation."""
NEGLIGIBLE = 12.0
"""Log units below the best at which a hypothesis is dropped."""
BEAM = 40
"""Hypotheses that are kept."""
EXPLAINS = 3.0
"""Log units a fault has to explain, so that it is looked at more closely."""
CLIPPED = math.log(0.1)
"""Log likelihood of what leads between points clipped together, where it should: how well it leads says little."""


VAGUE = (0.35, 0.35, 0.3)
"""At a plug that isn't home, how often a contact reads nothing, anything, or what it should."""


@dataclass(frozen=True)
class Reading:
    """A probe and what the meter said, infinite for nothing."""

    probe: Probe
    ohm: float


@dataclass
class Belief:
    """One set of faults with its log weight, what each reading would be in it, and which of them it doesn't explain."""

    state: State
    log: float
    seen: list[Seen]
    odd: tuple[int, ...] = ()

    @property
    def key(self) -> frozenset[tuple[str, tuple[str, ...], str]]:
        """What is wrong in it, figures aside."""
        return frozenset(one.key for one in self.state.faults)


def weights_of(beliefs: Sequence[Belief]) -> Floats:
    """Probabilities of beliefs, the likeliest first, among one another."""
    weights = np.exp(np.array([one.log for one in beliefs]) - beliefs[0].log)
    shares: Floats = weights / weights.sum()
    return shares


class Evidence:
    """Readings taken of one unit. The harness and its priors are shared by many units."""

    def __init__(self, net: Netlist, meter: Meter | None = None, priors: Priors | None = None) -> None:
        self.net, self.meter = net, meter or Meter()
        self.priors = priors or Priors(net)
        self.sound = State(net)
        self.readings: list[Reading] = []
        self._base: list[Seen] = []
        self._nodes: list[frozenset[int]] = []
        self._beliefs: list[Belief] | None = None

    def add(self, probe: Probe, ohm: float) -> None:
        """A reading more. ValueError for one that is no resistance."""
        if math.isnan(ohm) or (ohm < 0 and probe.kind != "two"):
            raise ValueError("a reading is a resistance")
        self.readings.append(Reading(probe, max(ohm, 0.0)))
        self._base.append(self.sound.see(probe))
        self._nodes.append(frozenset(self.net.node(point) for point in (*probe.a, *probe.b)) | self._lifted(probe))
        self._beliefs = None

    def drop(self) -> None:
        """Takes the last reading back."""
        for rows in (self.readings, self._base, self._nodes):
            rows.pop()
        self._beliefs = None

    def _lifted(self, probe: Probe) -> frozenset[int]:
        if not probe.lift:
            return frozenset()
        edge = self.net.edges[self.net.edge_of[probe.lift]]
        return frozenset((edge.a, edge.b))

    # how likely the readings are

    def _log(self, state: State, which: Iterable[int], seen: Sequence[Seen], leads: float = 0.0) -> float:
        """Log likelihood of some readings together in a state."""
        total, sized = 0.0, []
        for at in which:
            reading, what = self.readings[at], seen[at]
            kind = reading.probe.kind
            if kind == "insulation":
                total += log_insulation(what.ohm, reading.ohm)
            elif what.vague:
                total += self._log_vague(state, at, seen)
            elif what.breaks and math.isinf(reading.ohm):
                total += math.log(what.breaks)
            elif math.isinf(reading.ohm) != (what.ohm > self.meter.over(kind)):
                total += (
                    math.log(SLIP)
                    if math.isinf(reading.ohm)
                    else log_stray(reading.ohm)
                    if reading.probe.single
                    else math.log(SLIP) + CLIPPED
                )
            elif not math.isinf(reading.ohm):
                if reading.probe.single:
                    sized.append(at)
                    total += math.log1p(-what.breaks)
                else:
                    total += CLIPPED
        if sized:
            off, spread = self._spread(state, sized, seen, leads)
            stray = np.array([log_stray(self.readings[at].ohm) for at in sized])
            spoilt = stray > log_each(off, np.diag(spread))
            total += float(stray[spoilt].sum())
            total += log_sound(off[~spoilt], spread[np.ix_(~spoilt, ~spoilt)], stray[~spoilt])
        return total

    def _log_vague(self, state: State, at: int, seen: Sequence[Seen]) -> float:
        """Log likelihood of a reading at a plug that isn't home: nothing, too much, or as it should be."""
        ohm = self.readings[at].ohm
        if math.isinf(ohm):
            return math.log(VAGUE[0])
        off, spread = self._spread(state, [at], seen)
        usual = float(log_each(off, np.diag(spread))[0])
        return float(np.logaddexp(math.log(VAGUE[1]) + log_anything(ohm), math.log(VAGUE[2]) + usual))

    def _spread(
        self, state: State, which: Sequence[int], seen: Sequence[Seen], leads: float = 0.0
    ) -> tuple[Floats, Floats]:
        """(readings less what they should be, their covariance): the meter's error of each, the wires' shared."""
        off = np.array(
            [
                self.readings[at].ohm - seen[at].ohm - (leads if self.readings[at].probe.kind == "two" else 0.0)
                for at in which
            ]
        )
        edges = sorted({edge for at in which for edge, _ in seen[at].shares})
        place = {edge: n for n, edge in enumerate(edges)}
        share = np.zeros((len(which), len(edges)))
        for row, at in enumerate(which):
            for edge, part in seen[at].shares:
                share[row, place[edge]] = part
        sd = np.array([state.edges[edge].sd_ohm for edge in edges])
        meter = np.array(
            [
                math.hypot(self._meter_sd(self.readings[at].probe, seen[at].ohm), seen[at].sd_ohm, seen[at].wander_ohm)
                for at in which
            ]
        )
        spread = (share * sd**2) @ share.T + np.diag(meter**2)
        for row, at in enumerate(which):
            if self.readings[at].probe.part:  # what a part of a wire is off by, the whole wire is off by too
                column = place.get(self.net.edge_of[self.readings[at].probe.wire])
                common = share[:, column] * seen[at].sd_ohm ** 2 if column is not None else 0.0
                spread[row] += common
                spread[:, row] += common
                same = [
                    other
                    for other, second in enumerate(which)
                    if other != row and self.readings[second].probe == self.readings[at].probe
                ]
                spread[row, same] = seen[at].sd_ohm ** 2
        return off, spread

    def _meter_sd(self, probe: Probe, ohm: float) -> float:
        sd = float(error_of(self.meter, probe, np.array(ohm)))
        return sd if probe.single else math.hypot(sd, 0.1 * ohm, 0.005)

    def _odd(
        self,
        state: State,
        seen: Sequence[Seen],
        leads: float,
        which: Iterable[int] | None = None,
        before: Iterable[int] = (),
    ) -> tuple[int, ...]:
        """Readings that a state doesn't explain; only those of `which` are looked at anew, of the others it is
        `before`."""
        looked = range(len(self.readings)) if which is None else which
        fresh = set(looked)
        found = [at for at in before if at not in fresh]
        for at in looked:
            reading = self.readings[at]
            what, kind = seen[at], reading.probe.kind
            if kind == "insulation":
                dry = 10**INSULATION_LOG10
                usual = log_insulation(what.ohm, dry if math.isinf(what.ohm) else what.ohm)
                bad = log_insulation(what.ohm, reading.ohm) < usual - 0.5 * ODD**2 - 2
                bad = bad and not (math.isinf(what.ohm) and reading.ohm > dry)
            elif what.vague or (what.breaks and math.isinf(reading.ohm)):
                bad = False
            elif math.isinf(reading.ohm) != (what.ohm > self.meter.over(kind)):
                bad = True
            elif math.isinf(reading.ohm) or not reading.probe.single:
                bad = False
            else:
                off, spread = self._spread(state, [at], seen, leads)
                bad = abs(float(off[0])) > ODD * math.sqrt(float(spread[0, 0]))
            if bad:
                found.append(at)
        return tuple(sorted(found))

    def _touching(self, nodes: frozenset[int]) -> list[int]:
        return [at for at, mine in enumerate(self._nodes) if not nodes.isdisjoint(mine)]

    def _child(self, belief: Belief, fault: Fault, log_prior: float, explains: bool = False) -> Belief | None:
        """A belief with a fault more, all it changes judged anew; None, if it has to explain something, where it
        explains nothing."""
        state = belief.state.derive(fault)
        which = self._touching(state.touched)
        seen = list(belief.seen)
        if explains:
            odd = set(belief.odd).intersection(which)
            bar = EXPLAINS + sum(math.log(SLIP) if math.isinf(self.readings[at].ohm) else -12.0 for at in odd)
            if self._contradicts(state, sorted(which, key=lambda at: at not in odd), bar):
                return None
        for at in which:
            seen[at] = state.see(self.readings[at].probe)
        gain = self._log(state, which, seen) - self._log(belief.state, which, belief.seen)
        return Belief(state, belief.log + log_prior + gain, seen, self._odd(state, seen, 0.0, which, belief.odd))

    def _contradicts(self, state: State, which: Sequence[int], bar: float) -> bool:
        """Whether readings say otherwise than metal leads in a state, so much that it falls under the bar: that is
        quick, and refutes most."""
        lost = 0.0
        for at in which:
            reading = self.readings[at]
            if (
                reading.probe.kind != "insulation"
                and not reading.probe.lift
                and not reading.probe.part
                and math.isinf(reading.ohm) == state.joined(reading.probe)
            ):
                lost += math.log(SLIP)
                if lost < bar:
                    return True
        return lost < bar

    def _resolved(self, belief: Belief, fault: Fault, log: float, explained: Collection[int] = ()) -> Belief:
        """A belief with a fault more whose weight is known already; `explained` are readings it was weighed by."""
        state = belief.state.derive(fault)
        which = self._touching(state.touched)
        seen = list(belief.seen)
        for at in which:
            seen[at] = state.see(self.readings[at].probe)
        odd = self._odd(state, seen, 0.0, which, belief.odd)
        return Belief(state, log, seen, tuple(at for at in odd if at not in explained))
