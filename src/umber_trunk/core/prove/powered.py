"""A fault found plugged in: a load that doesn't work on a living harness, by volts with the source on.

Current goes through loads and parallel paths too, so what a place should have is solved from the whole harness, sound
and with each suspect in it; the next reading is the one expected to tell most about what has to be mended. Fuse and
ground are suspected first, as is met.

    source +──fuse──wire──┬──load──┬──ground──source −      volts at every place against the source's minus,
                          └─others─┘                        and across whatever lies in the way
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.physics.network import Network, solve_flow
from umber_trunk.core.prove.starved import Suspected, priors, suspected
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message, say

Floats = NDArray[np.float64]
Point = tuple[str, str]
VOLT_SD, VOLT_SHARE, STARVED_SHARE = 0.05, 0.02, 0.12
"""One standard deviation of a reading: of nothing, of a volt read, and of the source's volts where a load is starved:
lamps and electronics are no resistors then."""
LEAST_BITS, SURE, SPOILT = 0.05, 0.97, 1e-3
"""A reading that tells less isn't asked for; a cause this probable is named; how often a reading is spoilt."""
MOST_V = 60.0
"""No plugged-in search for DC above, nor for any AC."""
UNKNOWN = 0.02
"""How often it is none of the causes known here."""
LEAST_SIEMENS, BATH_C, CARRIES = 1e-12, 20.0, 0.1
"""What an open still leads; the metal's temperature; a branch is on a load's way if it carries such a share of its
current."""
AS_READ = 0.85, 1.25
"""A source that reads so many times its stated volts is as it is, charging or resting, and all else is held against
that; lower is flat."""
SECONDS = 12.0
"""One reading takes."""
CAUTIONS = ("source-is-on", "never-bridge", "no-tip-through")
"""What is said before a search plugged in begins, in this order; codes under caution.plugged."""


def cautions() -> tuple[str, ...]:
    """The cautions of a search plugged in, in words."""
    return tuple(say(f"caution.plugged.{one}") for one in CAUTIONS)


@dataclass(frozen=True)
class Ask:
    """A reading: + tip, − tip, what a sound harness has there [V], bits it is expected to tell."""

    a: Point
    b: Point
    expect: float
    bits: float


@dataclass(frozen=True)
class Named:
    """What may be wrong with its probability."""

    kind: str
    where: str
    words: Message
    mend: Message
    probability: float


@dataclass
class Powered:
    """The search at one load. InputError for a load there is none of, one that nothing feeds, or a source this isn't
    for."""

    results: Results
    load_id: str
    readings: list[tuple[Point, Point, float]] = field(default_factory=list)

    def __post_init__(self) -> None:
        plant = self.plant = self.results.plant
        known = [load.id for load in plant.loads]
        if self.load_id not in known:
            raise InputError.of(
                "prove.no-load-that-is-wired", load_id=quoted(self.load_id), known=", ".join(known) or "none"
            )
        self.row = known.index(self.load_id)
        self.load = plant.loads[self.row]
        self.volts = float(plant.nominal_v[self.row])
        if any(supply.ac or supply.volts > MOST_V for supply in plant.supplies):
            raise InputError.of("prove.ac-or-over-nothing-is-read", most=MOST_V)
        ends = plant.terminals
        if int(ends[0][self.row]) < 0 or int(ends[1][self.row]) < 0 or not math.isfinite(self.volts):
            raise InputError.of("prove.nothing-feeds-no-volts", load=self.load.name)
        self.plus, self.minus = int(ends[0][self.row]), int(ends[1][self.row])
        network = plant.network
        self._load_ohm = self._loads()
        self._branch_ohm = np.concatenate([plant.wire_ohm(np.full(len(plant.wires), BATH_C)), plant.link_ohm])
        heads, tails = np.concatenate([network.a, plant.load_plus]), np.concatenate([network.b, plant.load_minus])
        self._living = Network.build(network.nodes, heads, tails, network.plus, network.minus)
        self._twin: dict[frozenset[Point], float] = {}
        self.sound = self._solved(Suspected("sound", "", NOTHING, NOTHING))
        self._way = self._carries()
        self.pins = self._pins()
        self.suspects = list(suspected(plant, self._way, self.load, float(self._load_ohm[self.row])))
        self._at = np.array([self._solved(one) for one in self.suspects])
        self.prior = priors(self.suspects)

    # the living harness

    def _loads(self) -> Floats:
        """Each load as the resistor that draws what it draws at its nominal volts."""
        found = []
        for load, volts in zip(self.plant.loads, self.plant.nominal_v, strict=True):
            amps = (
                load.value
                if load.kind.value == "current"
                else load.value / volts
                if load.kind.value == "power"
                else volts / max(load.value, 1e-6)
            )
            found.append(float(volts) / max(amps, 1e-6))
        return np.array(found)

    def _solved(self, one: Suspected) -> Floats:
        """Volts of every node against the minus this load hangs on, with a suspect in it; loads are branches of the
        network here."""
        plant = self.plant
        ohms = np.concatenate([self._branch_ohm, self._load_ohm])
        for branch, ohm in one.ohms:
            ohms[branch] = ohm
        if one.load_open:
            ohms[len(self._branch_ohm) + self.row] = math.inf
        siemens = np.maximum(1 / ohms, LEAST_SIEMENS)
        nobody = np.zeros(0, dtype=np.intp)
        side = self._living.right_hand(one.source * plant.source_volts[:, None], nobody, nobody, np.zeros((0, 1)))
        volts = np.nan_to_num(solve_flow(self._living, siemens, plant.source_ohm, side).potential)
        found: Floats = volts - volts[self.minus]
        return found

    def _carries(self) -> list[tuple[int, bool]]:
        """(branch, whether it is on the way back) of what carries this load's current."""
        network = self.plant.network
        less = self.sound - self._solved(Suspected("", "", NOTHING, NOTHING, load_open=True))
        amps = (less[network.a] - less[network.b]) / self._branch_ohm
        own = self.volts / self._load_ohm[self.row]
        middle = (self.sound[self.plus] + self.sound[self.minus]) / 2
        return [
            (branch, bool((self.sound[network.a[branch]] + self.sound[network.b[branch]]) / 2 < middle))
            for branch in np.flatnonzero(np.abs(amps) > CARRIES * own).tolist()
        ]

    def _pins(self) -> dict[Point, int]:
        """Places a tip can go along the load's way → node: not splices under their shrink, nor sealed plugs but the
        load's own."""
        plant, index, network = self.plant, index_of(self.results.design), self.plant.network
        own = {self.load.plus.end}
        found: dict[Point, int] = {
            (self.load.plus.end, self.load.plus.cavity): int(plant.load_plus[self.row]),
            (self.load.minus.end, self.load.minus.cavity): int(plant.load_minus[self.row]),
        }
        for branch, _ in self._way:
            if branch < len(plant.wires):
                wire = plant.wires[branch]
                places = [
                    ((wire.start.end, wire.start.cavity), network.a[branch]),
                    ((wire.finish.end, wire.finish.cavity), network.b[branch]),
                ]
            else:
                end, link = plant.links[branch - len(plant.wires)]
                places = [((end, link.a), network.a[branch]), ((end, link.b), network.b[branch])]
            for place, node in places:
                known = index.ends.get(place[0])
                closed = (
                    known is None
                    or known.kind.value == "splice"
                    or place[1] == "frame"
                    or any(body.sealed for body in known.housings)
                )
                if not closed or place[0] in own:
                    found.setdefault(place, int(node))
        for supply, plus, minus in zip(plant.supplies, network.plus.tolist(), network.minus.tolist(), strict=False):
            found.setdefault((supply.plus.end, supply.plus.cavity), plus)
            found.setdefault((supply.minus.end, supply.minus.cavity), minus)
        return found

    # what readings say

    def read(self, a: Point, b: Point, volts: float, twin: float | None = None) -> None:
        """A reading taken; `twin`: what a sound harness of the same make has there, which outweighs what is worked out.
        InputError for a place that isn't on the way, or volts the source can't give."""
        for place in (a, b):
            if place not in self.pins:
                raise InputError.of("prove.no-place-on-way", place=quoted(":".join(place)), load=self.load.name)
        if not abs(volts) <= 1.5 * max(self.plant.source_volts):
            raise InputError.of("prove.more-than-this-source-gives", volts=volts)
        if twin is not None and abs(expected := self.expected(a, b)) > 0.1 * self.volts and twin * expected > 0:
            self._twin[frozenset((a, b))] = twin / expected
        self.readings.append((a, b, volts))

    def at(self, number: int) -> Floats:
        """Volts of every node with one of the suspects in it, by its number."""
        found: Floats = self._at[number]
        return found

    def expected(self, a: Point, b: Point) -> float:
        """What a sound harness has between two places, everything on [V]."""
        return float(self.sound[self.pins[a]] - self.sound[self.pins[b]])

    def _sd(self, volts: Floats) -> Floats:
        whole = self.volts
        starved = (np.abs(volts) > 0.08 * whole) & (np.abs(volts) < 0.92 * whole)
        return np.hypot(VOLT_SD, VOLT_SHARE * np.abs(volts)) + np.where(starved, STARVED_SHARE * whole, 0.0)

    def weights(self) -> tuple[Floats, float]:
        """(probability of each suspect, that of none of them)."""
        log = np.log(self.prior * (1 - UNKNOWN))
        none = math.log(UNKNOWN)
        as_read = np.where([one.kind == "source" for one in self.suspects], 1.0, self._as_read())
        for a, b, volts in self.readings:
            twin = self._twin.get(frozenset((a, b)))
            predicted = (self._at[:, self.pins[a]] - self._at[:, self.pins[b]]) * (as_read if twin is None else twin)
            sd = self._sd(predicted)
            fits = np.exp(-0.5 * ((volts - predicted) / sd) ** 2) / (sd * math.sqrt(2 * math.pi))
            anything = 1 / (2.2 * self.volts)
            log = log + np.log((1 - SPOILT) * fits + SPOILT * anything)
            none += math.log(anything)
        every = np.append(log, none)
        shares = np.exp(every - every.max())
        shares /= shares.sum()
        return shares[:-1], float(shares[-1])

    def _as_read(self) -> float:
        """How many times its stated volts the source has, by its own reading."""
        source = self._source_pins()
        read = next((volts for a, b, volts in self.readings if source == (a, b)), None)
        share = read / self.expected(*source) if read is not None and source is not None else 1.0
        return share if AS_READ[0] <= share <= AS_READ[1] else 1.0

    def named(self) -> list[Named]:
        """What may be wrong, the likeliest first; one place with all that may be bad in it is one."""
        shares, _ = self.weights()
        found: dict[tuple[str, str], float] = {}
        first: dict[tuple[str, str], Suspected] = {}
        for one, share in zip(self.suspects, shares.tolist(), strict=True):
            found[one.kind, one.where] = found.get((one.kind, one.where), 0.0) + share
            first.setdefault((one.kind, one.where), one)
        return [
            Named(kind, where, first[kind, where].words, first[kind, where].mend, share)
            for (kind, where), share in sorted(found.items(), key=lambda row: -row[1])
        ]

    def next(self) -> Ask | None:
        """The source's own volts first, then what tells most per minute about what has to be mended; None when nothing
        does."""
        source = self._source_pins()
        if not self.readings and source is not None:
            return Ask(*source, self.expected(*source), 0.0)
        shares, _ = self.weights()
        named = self.named()
        if named[0].probability > SURE:
            return None
        acts = [(one.kind, one.where) for one in self.suspects]
        had = {frozenset((a, b)) for a, b, _ in self.readings}
        base = source[1] if source is not None else None
        best: tuple[float, Ask] | None = None
        for a, b in self._tips(base):
            if frozenset((a, b)) in had or self.pins[a] == self.pins[b]:
                continue
            bits = self._bits(self._at[:, self.pins[a]] - self._at[:, self.pins[b]], shares, acts)
            walks = {a[0], b[0]} - ({self.readings[-1][0][0], self.readings[-1][1][0]} if self.readings else set())
            pace = bits / (SECONDS + 15.0 * len(walks))
            if bits > LEAST_BITS and (best is None or pace > best[0] + 1e-12):
                best = pace, Ask(a, b, self.expected(a, b), bits)
        return best[1] if best is not None else None

    def _source_pins(self) -> tuple[Point, Point] | None:
        for supply in self.plant.supplies:
            pins = (supply.plus.end, supply.plus.cavity), (supply.minus.end, supply.minus.cavity)
            if self.pins.get(pins[0]) == self.plus:
                return pins
        return None

    def _tips(self, base: Point | None) -> Iterator[tuple[Point, Point]]:
        """The load's own two places, and every place against the source's minus."""
        own = (self.load.plus.end, self.load.plus.cavity), (self.load.minus.end, self.load.minus.cavity)
        yield own
        for place in self.pins:
            if base is not None and place != base:
                yield place, base

    def _bits(self, volts: Floats, shares: Floats, acts: list[tuple[str, str]]) -> float:
        """Mutual information of a reading, in classes its errors part, and what has to be mended."""
        order = np.argsort(volts)
        cuts = np.diff(volts[order]) > 3 * self._sd(volts[order][:-1])
        classes = np.concatenate([[0], np.cumsum(cuts)])
        both: dict[tuple[int, tuple[str, str]], float] = {}
        for place, number in zip(order.tolist(), classes.tolist(), strict=True):
            key = number, acts[place]
            both[key] = both.get(key, 0.0) + float(shares[place])
        return _entropy(both, lambda key: key[0]) + _entropy(both, lambda key: key[1]) - _entropy(both, lambda key: key)


def _entropy(
    mass: dict[tuple[int, tuple[str, str]], float], of: Callable[[tuple[int, tuple[str, str]]], object]
) -> float:
    sums: dict[object, float] = {}
    for key, share in mass.items():
        sums[of(key)] = sums.get(of(key), 0.0) + share
    return -sum(share * math.log2(share) for share in sums.values() if share > 0)
