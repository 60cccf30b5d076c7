"""Which faults explain the readings: a Bayesian judge over single faults and two or three together.

A hypothesis is a `State`: the harness with faults in it. How likely the readings are in it: what should lead and doesn't, or the other way round,
is as likely as a probe that slipped; the sizes of readings are judged together, since those along one wire share its uncertainty.
Faults of one wire that only change its resistance are looked at along that one figure, all kinds at once.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.prove.faults import IN_LINE, LEADS, SHORT_OHM, Fault, faulty_ohm, screens, words_of
from umber_trunk.core.prove.meter import SLIP, Meter, log_insulation, log_stray
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point
from umber_trunk.core.prove.priors import HIGH_OHM, LEAK_OHM, LONGER, MANY, SHARES, Priors
from umber_trunk.core.prove.state import Probe, Seen, State

Floats = NDArray[np.float64]
ODD = 3.5
"""Standard deviations from which on a reading calls for an explanation."""
BEAM, DEEPEST, WIDEN = 40, 3, 5
NEGLIGIBLE = 12.0
"""Log units below the best at which a hypothesis is dropped."""
ALIKE_SD = 3.0
"""Two hypotheses are told apart by a reading that differs by more standard deviations than this."""
ALONG = tuple(np.linspace(0.02, 0.98, 49))
BROADEN = 0.03
SHOWN = 0.003
LEAD_OHM = (0.03, 3.0)
LEAST_LEAK_OHM = 0.5 * LEAK_OHM[0]
"""What an ohmmeter reads between nets is a short below this, a leak above."""
EXPLAINS = 3.0
"""Log units a fault has to explain, so that it is looked at more closely."""
CLIPPED = math.log(0.1)
"""Log likelihood of what leads between points clipped together, where it should: how well it leads says little."""


@dataclass(frozen=True)
class Reading:
    """A probe and what the meter said, infinite for nothing."""

    probe: Probe
    ohm: float


@dataclass(frozen=True)
class Suspect:
    """A fault with its probability. `group` numbers the faults that no further reading at the ends can tell from it."""

    fault: Fault
    probability: float
    group: int
    words: str


@dataclass(frozen=True)
class Verdict:
    """What the readings come to. `sound` is the probability that nothing is wrong; suspects are likeliest first; `settled` when
    no reading would tell more."""

    sound: float
    suspects: tuple[Suspect, ...]
    settled: bool
    odd: tuple[int, ...]

    @property
    def ok(self) -> bool:
        """Whether no fault is likelier than none."""
        return self.sound > 0.5

    def group(self, number: int) -> list[Suspect]:
        """Suspects of one group."""
        return [one for one in self.suspects if one.group == number]


@dataclass
class Belief:
    """One set of faults with its log weight, what each reading would be in it, and which of them it doesn't explain."""

    state: State
    log: float
    seen: list[Seen]
    odd: tuple[int, ...] = ()
    extra: float = 0.0
    grown: bool = field(default=False, repr=False)

    @property
    def key(self) -> frozenset[tuple[str, tuple[str, ...], str]]:
        """What is wrong in it, figures aside."""
        return frozenset((one.what, tuple(sorted(one.where)), one.end) for one in self.state.faults)


@dataclass(frozen=True)
class _Along:
    """What is needed to look along one wire's resistance: the readings its island has, how much of each one's volts lies across it per
    ampere, and the resistance across it."""

    belief: Belief
    mine: list[int]
    carries: Floats
    across: float
    ohm: float


class Judge:
    """Takes readings in, gives verdicts and the next reading. The harness and its priors are shared by many units."""

    def __init__(self, net: Netlist, meter: Meter | None = None, priors: Priors | None = None) -> None:
        self.net, self.meter = net, meter or Meter()
        self.priors = priors or Priors(net)
        self.sound = State(net)
        self.readings: list[Reading] = []
        self._base: list[Seen] = []
        self._nodes: list[frozenset[int]] = []
        self._beliefs: list[Belief] | None = None
        self.screens = screens(net)
        self.swaps = self.priors.swaps

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
                else:
                    total += CLIPPED
        if sized:
            off, spread = self._spread(state, sized, seen, leads)
            stray = np.array([log_stray(self.readings[at].ohm) for at in sized])
            spoilt = stray > _log_each(off, np.diag(spread))
            total += float(stray[spoilt].sum())
            total += _log_sound(off[~spoilt], spread[np.ix_(~spoilt, ~spoilt)], stray[~spoilt])
        return total

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
        meter = np.array([self._meter_sd(self.readings[at].probe, seen[at].ohm) for at in which])
        return off, (share * sd**2) @ share.T + np.diag(meter**2)

    def _meter_sd(self, probe: Probe, ohm: float) -> float:
        sd = self.meter.sd(probe.kind, ohm)
        return sd if probe.single else math.hypot(sd, 0.1 * ohm, 0.005)

    def _odd(
        self,
        state: State,
        seen: Sequence[Seen],
        leads: float = 0.0,
        which: Iterable[int] | None = None,
        before: Iterable[int] = (),
    ) -> tuple[int, ...]:
        """Readings that a state doesn't explain; only those of `which` are looked at anew, of the others it is `before`."""
        looked = range(len(self.readings)) if which is None else which
        fresh = set(looked)
        found = [at for at in before if at not in fresh]
        for at in looked:
            reading = self.readings[at]
            what, kind = seen[at], reading.probe.kind
            if kind == "insulation":
                usual = log_insulation(what.ohm, 10**9.3 if math.isinf(what.ohm) else what.ohm)
                bad = log_insulation(what.ohm, reading.ohm) < usual - 0.5 * ODD**2 - 2
                bad = bad and not (math.isinf(what.ohm) and reading.ohm > 10**9.3)
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

    # the search

    def beliefs(self, wanted: Wanted = always) -> list[Belief]:
        """Sets of faults by weight, the likeliest first, weights not yet made one."""
        if self._beliefs is None:
            self._beliefs = self._search(wanted)
        return self._beliefs

    def _search(self, wanted: Wanted) -> list[Belief]:
        root = Belief(self.sound, math.log(MANY[0]), list(self._base), self._odd(self.sound, self._base))
        known: dict[frozenset[tuple[str, tuple[str, ...], str]], Belief] = {root.key: root}
        todo = [root]
        for depth in range(1, DEEPEST + 1):
            fresh: list[Belief] = []
            for belief in todo:
                go_on_if(wanted)
                if not belief.odd:
                    continue
                for child in self._grow(belief, depth):
                    had = known.get(child.key)
                    if had is None or child.log > had.log:
                        known[child.key] = child
                        fresh.append(child)
            ranked = sorted(known.values(), key=lambda one: -one.log)
            best = ranked[0].log
            least = best - NEGLIGIBLE if not ranked[0].odd else -math.inf
            todo = [
                one
                for one in sorted(fresh, key=lambda one: -one.log)
                if one.odd and one.log > least and known.get(one.key) is one
            ][:WIDEN]
            if not todo:
                break
        best = max(one.log for one in known.values())
        kept = sorted((one for one in known.values() if one.log > best - NEGLIGIBLE), key=lambda one: -one.log)
        return kept[: 12 * BEAM]

    def _grow(self, belief: Belief, depth: int) -> list[Belief]:
        """A belief with one fault more, for every fault that explains some of what it doesn't."""
        log_depth = math.log(MANY[depth]) - math.log(MANY[depth - 1])
        found: list[Belief] = []
        islands = self._odd_islands(belief)
        along = {edge for at in belief.odd for edge, share in belief.seen[at].shares if share > 1e-6}
        changed = {one.where[0] for one in belief.state.faults if one.what in IN_LINE}
        for wire in self.priors.wires:
            row = self.net.edge_of[wire]
            if row in along and row in belief.state.edges and wire not in changed:
                found += self._in_line(belief, wire, log_depth)
        found += self._swapped(belief, islands, log_depth)
        found += self._screened(belief, log_depth)
        found += self._shorted(belief, log_depth)
        found += self._leaking(belief, log_depth)
        found += self._leads(belief, log_depth)
        found.sort(key=lambda one: -one.log)
        return found[: 6 * BEAM]

    def _odd_islands(self, belief: Belief) -> set[int]:
        return {
            belief.state.island[node] for at in belief.odd if self.readings[at].probe.single for node in self._nodes[at]
        }

    def _touching(self, nodes: frozenset[int]) -> list[int]:
        return [at for at, mine in enumerate(self._nodes) if not nodes.isdisjoint(mine)]

    def _child(
        self, belief: Belief, fault: Fault, log_prior: float, extra: float = 0.0, explains: bool = False
    ) -> Belief | None:
        """A belief with a fault more, all it changes judged anew; None, if it has to explain something, where it explains nothing."""
        state = belief.state.derive(fault)
        which = self._touching(state.touched)
        seen = list(belief.seen)
        lost = 0.0
        for at in which:  # first whether metal leads there at all: that is quick, and refutes most
            reading = self.readings[at]
            if (
                reading.probe.kind != "insulation"
                and not reading.probe.lift
                and math.isinf(reading.ohm) == state.joined(reading.probe)
            ):
                lost += math.log(SLIP)
        if explains and lost < EXPLAINS + sum(
            math.log(SLIP) if math.isinf(self.readings[at].ohm) else -12.0 for at in belief.odd if at in set(which)
        ):
            return None
        for at in which:
            seen[at] = state.see(self.readings[at].probe)
        gain = self._log(state, which, seen) - self._log(belief.state, which, belief.seen)
        return Belief(
            state, belief.log + log_prior + gain + extra, seen, self._odd(state, seen, 0.0, which, belief.odd)
        )

    def _in_line(self, belief: Belief, wire: str, log_depth: float) -> list[Belief]:
        """All faults that change a wire's resistance: the likelihood along that one figure, then each kind's share of it."""
        state, row = belief.state, self.net.edge_of[wire]
        edge = state.edges[row]
        island = state.island[edge.a]
        rows, inverse = state.solved(island)
        u, v = rows[edge.a], rows[edge.b]
        across = float(inverse[u, u] + inverse[v, v] - 2 * inverse[u, v])
        mine = [at for at in range(len(self.readings)) if self.readings[at].probe.single and self.readings[at].probe.kind != "insulation" and not self.readings[at].probe.lift
                and state.island[state.node(self.readings[at].probe.a[0])] == island == state.island[state.node(self.readings[at].probe.b[0])]]  # fmt: skip
        if not mine:
            return []
        carries = np.array(
            [
                float(
                    (inverse[u] - inverse[v])[rows[state.node(self.readings[at].probe.a[0])]]
                    - (inverse[u] - inverse[v])[rows[state.node(self.readings[at].probe.b[0])]]
                )
                for at in mine
            ]
        )
        carries[np.abs(carries) < 1e-6 * edge.ohm] = 0.0
        if not carries.any():
            return []
        kinds, extras, weights, faults = self._grid(wire)
        known = _Along(belief, mine, carries, across, edge.ohm)
        before = self._log(state, mine, belief.seen)
        gain = self._figures(known, extras, BROADEN) - before + np.log(weights) - math.log(len(self.priors.wires))
        found = []
        for kind in IN_LINE:
            chosen = np.flatnonzero(kinds == kind)
            if not len(chosen):
                continue
            best = int(chosen[np.argmax(gain[chosen])])
            total = float(np.logaddexp.reduce(gain[chosen]))
            if total + log_depth < -NEGLIGIBLE:
                continue
            for fault, log_share in self._named(wire, self._refined(known, faults[best], float(extras[best])), kind):
                new = state.derive(fault)
                seen = list(belief.seen)
                which = self._touching(new.touched)
                for at in which:
                    seen[at] = new.see(self.readings[at].probe)
                found.append(
                    Belief(
                        new,
                        belief.log + log_depth + total + log_share,
                        seen,
                        self._odd(new, seen, 0.0, which, belief.odd),
                    )
                )
        return found

    def _figures(self, known: _Along, extras: Floats, broaden: float) -> Floats:
        """Log likelihood of the readings along a wire for each figure of its resistance."""
        belief, mine, carries = known.belief, known.mine, known.carries
        base = np.array([belief.seen[at].ohm for at in mine])
        read_ = np.array([self.readings[at].ohm for at in mine])
        after = np.maximum(known.ohm + extras, 1e-9)
        with np.errstate(divide="ignore", invalid="ignore"):
            less = np.where(np.isinf(after), -1 / known.ohm, 1 / after - 1 / known.ohm)
            whole = 1 + less * known.across
            change = np.where(np.abs(whole) < 1e-6, np.inf, -less / np.where(np.abs(whole) < 1e-6, 1.0, whole))
            predicted = base[:, None] + np.where(
                carries[:, None] == 0, 0.0, carries[:, None] ** 2 * np.where(np.isinf(change), 1.0, change)[None, :]
            )
        predicted = np.where(np.isinf(change)[None, :] & (carries[:, None] != 0), np.inf, predicted)
        over = np.array([self.meter.over(self.readings[at].probe.kind) for at in mine])[:, None]
        gone = np.isinf(read_)[:, None]
        mismatch = gone != (predicted > over)
        log: Floats = np.where(mismatch & gone, math.log(SLIP), 0.0).sum(axis=0)
        log = log + np.where(
            mismatch & ~gone, np.array([log_stray(one) if math.isfinite(one) else 0.0 for one in read_])[:, None], 0.0
        ).sum(axis=0)
        return log + self._sized(
            belief.state, belief.seen, mine, read_, predicted, mismatch, extras, carries, known.ohm, broaden
        )

    def _refined(self, known: _Along, fault: Fault, extra: float) -> Fault:
        """A fault whose figure is any, brought from the grid's nearest to what the readings say."""
        if fault.what not in ("high", "longer", "strands"):
            return fault
        scale = 1 + np.linspace(-0.06, 0.06, 49)
        by = float(scale[int(np.argmax(self._figures(known, extra * scale, 0.0)))])
        length = self.net.facts[fault.where[0]].length_m
        return replace(
            fault,
            ohm=fault.ohm * by,
            metres=min(fault.metres * by, length) if fault.what == "strands" else fault.metres * by,
        )

    def _named(self, wire: str, best: Fault, kind: str) -> list[tuple[Fault, float]]:
        """A kind's likeliest figures; a high joint at either end alike."""
        if kind != "high":
            return [(best, 0.0)]
        one = self.net.index.wires[wire]
        return [(replace(best, end=end), math.log(0.5)) for end in (one.start.end, one.finish.end)]

    def _grid(self, wire: str) -> tuple[NDArray[np.str_], Floats, Floats, list[Fault]]:
        """(kind, ohms added, prior, fault) of every in-line fault of a wire that is looked at."""
        if wire in self._grids:
            return self._grids[wire]
        facts = self.net.facts[wire]
        rows: list[tuple[str, float, float, Fault]] = [("open", math.inf, SHARES["open"], Fault("open", (wire,)))]
        ohms = np.geomspace(*HIGH_OHM, 170)
        rows += [
            ("high", float(ohm), SHARES["high"] / len(ohms), Fault("high", (wire,), ohm=float(ohm))) for ohm in ohms
        ]
        for label, share in self.priors.sizes(wire):
            fault = Fault("size", (wire,), size=label)
            rows.append(("size", faulty_ohm(self.net, fault) - facts.ohm, SHARES["size"] * share, fault))
        names = self.priors.metals(wire)
        for name in names:
            fault = Fault("metal", (wire,), metal=name)
            rows.append(("metal", faulty_ohm(self.net, fault) - facts.ohm, SHARES["metal"] / len(names), fault))
        for share in np.linspace(*LONGER, 60):
            rows.append(
                (
                    "longer",
                    facts.copper_ohm * float(share),
                    SHARES["longer"] / 60,
                    Fault("longer", (wire,), metres=facts.length_m * float(share)),
                )
            )
        shares, stretches, rises = self.priors.lost
        order = np.argsort(rises)
        for group in np.array_split(order, 60):  # those that come to the same ohms together
            middle = int(group[len(group) // 2])
            fault = Fault(
                "strands", (wire,), share=float(shares[middle]), metres=facts.length_m * float(stretches[middle])
            )
            rows.append(
                (
                    "strands",
                    facts.copper_ohm * float(rises[group].mean()),
                    SHARES["strands"] * len(group) / len(rises),
                    fault,
                )
            )
        made = (
            np.array([row[0] for row in rows]),
            np.array([row[1] for row in rows]),
            np.array([row[2] for row in rows]),
            [row[3] for row in rows],
        )
        self._grids[wire] = made
        return made

    @cached_property
    def _grids(self) -> dict[str, tuple[NDArray[np.str_], Floats, Floats, list[Fault]]]:
        return self.priors.__dict__.setdefault("_grids", {})  # type: ignore[no-any-return]

    def _sized(
        self,
        state: State,
        seen: Sequence[Seen],
        mine: list[int],
        read_: Floats,
        predicted: Floats,
        mismatch: NDArray[np.bool_],
        extras: Floats,
        carries: Floats,
        ohm: float,
        broaden: float,
    ) -> Floats:
        """Log likelihood of the sizes of readings for each figure of the grid: the covariance of the state, widened by the grid's
        own steps."""
        log = np.zeros(len(extras))
        _, spread = self._spread(state, mine, seen)
        relative = carries / max(ohm, 1e-12)
        kinds = [self.readings[at].probe.kind for at in mine]
        before = np.array(
            [
                self.meter.sd(kind, seen[at].ohm) if math.isfinite(seen[at].ohm) else 0.0
                for kind, at in zip(kinds, mine, strict=True)
            ]
        )
        after = np.array(
            [
                self.meter.sds(kind, np.where(np.isfinite(row), row, 0.0))
                for kind, row in zip(kinds, predicted, strict=True)
            ]
        )
        added = np.where(np.isfinite(extras), extras, 0.0)
        step = broaden * np.abs(added)[:, None] * relative[None, :] ** 2
        own = np.diag(spread)[:, None] + after**2 - before[:, None] ** 2 + (step**2).T + 1e-18
        sized = np.isfinite(read_)[:, None] & ~mismatch
        stray = np.array([log_stray(one) if math.isfinite(one) else 0.0 for one in read_])[:, None]
        with np.errstate(invalid="ignore"):
            spoilt = sized & (stray > _log_each(read_[:, None] - predicted, own))
        log += np.where(spoilt, stray, 0.0).sum(axis=0)
        sized &= ~spoilt
        for pattern in np.unique(sized, axis=1).T:
            rows = np.flatnonzero(pattern)
            columns = np.flatnonzero((sized == pattern[:, None]).all(axis=0))
            if not len(rows):
                continue
            whole = np.broadcast_to(spread[np.ix_(rows, rows)], (len(columns), len(rows), len(rows))).copy()
            mine_step = step[np.ix_(columns, rows)]
            whole += mine_step[:, :, None] * mine_step[:, None, :]
            diagonal = np.arange(len(rows))
            whole[:, diagonal, diagonal] += (after[np.ix_(rows, columns)] ** 2 - before[rows][:, None] ** 2).T + 1e-16
            values = predicted[np.ix_(rows, columns)]
            log[columns] += _log_normals((read_[rows][:, None] - values).T, whole)
        return log

    def _swapped(self, belief: Belief, islands: set[int], log_depth: float) -> list[Belief]:
        log_prior = log_depth + math.log(SHARES["swap"] / max(len(self.swaps), 1))
        found = []
        state = belief.state
        used = {wire for one in state.faults for wire in one.where if one.what == "swap"}
        touching = {wire for one in state.faults for wire in one.where if one.what == "short"}
        for fault in self.swaps:
            rows = [self.net.edge_of[wire] for wire in fault.where]
            where = {state.island[self.net.edges[row].a] for row in rows} | {
                state.island[self.net.edges[row].b] for row in rows
            }
            if (
                where & islands
                and touching.isdisjoint(fault.where)
                and not (set(fault.where) & used and fault.end in {one.end for one in state.faults})
            ):
                child = self._child(belief, fault, log_prior, explains=True)
                if child is not None and child.log > belief.log - NEGLIGIBLE:
                    found.append(child)
        return found

    def _screened(self, belief: Belief, log_depth: float) -> list[Belief]:
        if not self.screens or not belief.odd:
            return []
        log_prior = log_depth + math.log(SHARES["shield"] / len(self.screens))
        known = {one.where for one in belief.state.faults if one.what == "shield"}
        rows = [
            self._child(belief, Fault("shield", (cable,)), log_prior) for cable in self.screens if (cable,) not in known
        ]
        return [one for one in rows if one is not None and one.log > belief.log - NEGLIGIBLE]

    def _shorted(self, belief: Belief, log_depth: float) -> list[Belief]:
        """Every two islands that lead to one another in a reading and were never shown apart; then every two of their wires, at
        places along them."""
        state = belief.state
        positive = [
            at
            for at in belief.odd
            if math.isfinite(self.readings[at].ohm)
            and self.readings[at].probe.kind != "insulation"
            and math.isinf(belief.seen[at].ohm)
            and self.readings[at].ohm < LEAST_LEAK_OHM
        ]
        if not positive:
            return []
        numbers = sorted(set(state.island.values()))
        place = {number: n for n, number in enumerate(numbers)}
        apart = np.zeros((len(numbers), len(numbers)), dtype=bool)
        votes = np.zeros((len(numbers), len(numbers)), dtype=int)
        for at, reading in enumerate(self.readings):
            if reading.probe.kind == "insulation" or reading.probe.lift:
                continue
            a = np.array(sorted({place[state.island[state.node(p)]] for p in reading.probe.a}))
            b = np.array(sorted({place[state.island[state.node(p)]] for p in reading.probe.b}))
            if math.isinf(reading.ohm):
                apart[np.ix_(a, b)] = True
                apart[np.ix_(b, a)] = True
            elif at in positive:
                votes[np.ix_(a, b)] += 1
                votes[np.ix_(b, a)] += 1
        wires: dict[int, list[str]] = {}
        for wire in self.priors.wires:
            row = self.net.edge_of[wire]
            if row in state.edges:
                wires.setdefault(place[state.island[state.edges[row].a]], []).append(wire)
        pairs = [
            (int(i), int(j))
            for i, j in zip(*np.nonzero(np.triu(votes > 0, 1) & ~np.triu(apart, 1)), strict=True)
            if i in wires and j in wires
        ]
        pairs.sort(key=lambda pair: -votes[pair])
        found: list[Belief] = []
        for i, j in pairs[: 4 * BEAM]:
            found += self._touch(belief, (numbers[i], numbers[j]), wires[i], wires[j], log_depth)
        return found

    def _touch(
        self, belief: Belief, islands: tuple[int, int], ones: list[str], twos: list[str], log_depth: float
    ) -> list[Belief]:
        """Two islands joined at one place: from the resistances between their points, which wires and where."""
        state = belief.state
        example = state.derive(Fault("short", (ones[0], twos[0])))
        which = self._touching(example.touched)
        seen = {at: example.see(self.readings[at].probe) for at in which}
        cross = [at for at in which if self._crosses(state, at, islands)]
        others = [at for at in which if at not in cross]
        filled = [seen.get(at, belief.seen[at]) for at in range(len(self.readings))]
        gain = self._log(example, others, filled) - self._log(state, which, belief.seen)
        gain += math.log(SLIP) * sum(math.isinf(self.readings[at].ohm) for at in cross)
        cross = [at for at in cross if math.isfinite(self.readings[at].ohm)]
        if gain + log_depth < -NEGLIGIBLE - 20:
            return []
        left, right = self._away(state, islands[0], ones, cross), self._away(state, islands[1], twos, cross)
        logs = np.zeros((len(ones), len(twos), len(ALONG)))
        alike = np.array([[state._alike(one, two) for two in twos] for one in ones])
        if cross:
            read_ = np.array([self.readings[at].ohm for at in cross])
            second = np.where(alike[:, :, None, None], right[None, :, :, :], right[None, :, ::-1, :])
            predicted = left[:, None, :, :] + second + SHORT_OHM
            width = (
                np.array([state.edges[self.net.edge_of[w]].ohm for w in ones])[:, None]
                + np.array([state.edges[self.net.edge_of[w]].ohm for w in twos])[None, :]
            )
            meter = np.array([self._meter_sd(self.readings[at].probe, float(self.readings[at].ohm)) for at in cross])
            shared = np.full(predicted.shape[:3], SHORT_OHM**2)
            own = meter**2 + (0.025 * predicted) ** 2 + (0.01 * width[:, :, None, None]) ** 2
            off = read_ - predicted
            weight = 1 / own
            # a common error of variance s beside independent ones: Sherman and Morrison
            sums, squares, crossed = weight.sum(-1), (weight * off**2).sum(-1), (weight * off).sum(-1)
            logs = (
                -0.5 * (squares - shared * crossed**2 / (1 + shared * sums))
                - 0.5 * (np.log(own).sum(-1) + np.log1p(shared * sums))
                - 0.5 * len(cross) * math.log(2 * math.pi)
            )
        prior = np.array([[self.priors.log_short(one, two) for two in twos] for one in ones])
        whole = np.logaddexp.reduce(logs, axis=2) - math.log(len(ALONG)) + prior + gain + log_depth
        best = float(whole.max())
        found = []
        order = np.argsort(-whole, axis=None)[: BEAM // 2]
        for i, j in zip(*np.unravel_index(order, whole.shape), strict=True):
            if whole[i, j] < max(best - 6, -NEGLIGIBLE):
                break
            fault = Fault("short", (ones[int(i)], twos[int(j)]), along=float(ALONG[int(np.argmax(logs[i, j]))]))
            new = state.derive(fault)
            mine = list(belief.seen)
            for at in self._touching(new.touched):
                mine[at] = new.see(self.readings[at].probe)
            odd = tuple(at for at in self._odd(new, mine, 0.0, which, belief.odd) if at not in cross)
            found.append(Belief(new, belief.log + float(whole[i, j]), mine, odd))
        found.sort(key=lambda one: -one.log)
        return found[:BEAM]

    def _crosses(self, state: State, at: int, islands: tuple[int, int]) -> bool:
        """Whether a reading is between one point of each of two islands."""
        probe = self.readings[at].probe
        if not probe.single or probe.lift or probe.kind == "insulation":
            return False
        return {state.island[state.node(probe.a[0])], state.island[state.node(probe.b[0])]} == set(islands)

    def _away(self, state: State, island: int, wires: list[str], cross: list[int]) -> Floats:
        """(wires, places along them, readings): resistance from the probe in this island to a place along a wire of it."""
        rows, inverse = state.solved(island)
        diagonal = np.diag(inverse)
        found = np.zeros((len(wires), len(ALONG), len(cross)))
        x = np.array(ALONG)[:, None]
        for k, at in enumerate(cross):
            probe = self.readings[at].probe
            nodes = [state.node(p) for p in (*probe.a, *probe.b) if state.island[state.node(p)] == island]
            p = rows[nodes[0]]
            to = diagonal + diagonal[p] - 2 * inverse[p]
            for n, wire in enumerate(wires):
                edge = state.edges[self.net.edge_of[wire]]
                u, v = rows[edge.a], rows[edge.b]
                straight = diagonal[u] + diagonal[v] - 2 * inverse[u, v]
                found[n, :, k] = ((1 - x) * to[u] + x * to[v] + x * (1 - x) * (edge.ohm - straight))[:, 0]
        return found

    def _leaking(self, belief: Belief, log_depth: float) -> list[Belief]:
        """Leaks of whole islands to earth: where along an island the damage is, no reading at its ends can say."""
        low = [
            at
            for at in belief.odd
            if math.isinf(belief.seen[at].ohm)
            and (self.readings[at].probe.kind == "insulation" or self.readings[at].ohm > LEAST_LEAK_OHM)
            and math.isfinite(self.readings[at].ohm)
        ]
        if not low:
            return []
        found = []
        state = belief.state
        for number in {
            state.island[state.edges[self.net.edge_of[w]].a]
            for w in self.priors.wires
            if self.net.edge_of[w] in state.edges
        }:
            if number == state.island[0]:
                continue
            wires = [
                w
                for w in self.priors.wires
                if self.net.edge_of[w] in state.edges and state.island[state.edges[self.net.edge_of[w]].a] == number
            ]
            nodes = {node for node, island in state.island.items() if island == number}
            if not any(self._nodes[at] & nodes for at in low):
                continue
            ohm = min(self.readings[at].ohm for at in low if self._nodes[at] & nodes)
            ohm = max(ohm, 1.0)
            for wire in wires:
                fault = Fault("leak", (wire,), ohm=ohm)
                log_prior = (
                    log_depth
                    + math.log(SHARES["leak"] / len(self.priors.wires))
                    + math.log(0.05 * math.sqrt(2 * math.pi) / math.log10(LEAK_OHM[1] / LEAK_OHM[0]))
                )
                child = self._child(belief, fault, log_prior)
                if child is not None and child.log > belief.log - NEGLIGIBLE:
                    found.append(child)
                else:
                    break  # the same for every wire of the island
        return found

    def _leads(self, belief: Belief, log_depth: float) -> list[Belief]:
        """The meter's own leads: the same ohms more in every reading of two wires."""
        if any(one.what == LEADS for one in belief.state.faults):
            return []
        two = [
            at
            for at, r in enumerate(self.readings)
            if r.probe.kind == "two" and math.isfinite(r.ohm) and math.isfinite(belief.seen[at].ohm)
        ]
        if len(two) < 2 or not any(at in belief.odd for at in two):
            return []
        before = self._log(belief.state, two, belief.seen)
        best = max(np.geomspace(*LEAD_OHM, 120), key=lambda ohm: self._log(belief.state, two, belief.seen, float(ohm)))
        gain = self._log(belief.state, two, belief.seen, float(best)) - before
        log = belief.log + log_depth + math.log(0.05) + gain - math.log(120 / 6)
        state = belief.state.derive(Fault(LEADS, (), ohm=float(best)))
        return [Belief(state, log, list(belief.seen), self._odd(state, belief.seen, float(best)))]

    # what it comes to

    def verdict(self, wanted: Wanted = always) -> Verdict:
        """Probabilities from all readings so far. Faults that no reading at the ends tells apart share a group."""
        rows = self.beliefs(wanted)
        weights = np.exp(np.array([one.log for one in rows]) - rows[0].log)
        weights /= weights.sum()
        sound = float(sum(w for w, one in zip(weights, rows, strict=True) if not one.state.faults))
        mass: dict[tuple[str, tuple[str, ...], str], float] = {}
        best: dict[tuple[str, tuple[str, ...], str], Fault] = {}
        for weight, one in zip(weights, rows, strict=True):
            for fault in one.state.faults:
                key = (fault.what, tuple(sorted(fault.where)), fault.end)
                mass[key] = mass.get(key, 0.0) + float(weight)
                best.setdefault(key, fault)
        ranked = sorted((key for key in mass if mass[key] >= SHOWN), key=lambda key: -mass[key])[:BEAM]
        groups = self._groups([best[key] for key in ranked])
        suspects = tuple(
            Suspect(best[key], mass[key], groups[n], words_of(self.net, best[key])) for n, key in enumerate(ranked)
        )
        odd = self._odd(self.sound, self._base)
        return Verdict(sound, suspects, False, odd)

    def _groups(self, faults: list[Fault]) -> list[int]:
        """Number of each fault's group: the first that no pair of points tells from it."""
        if not faults:
            return []
        tables = self._tables(faults)
        found: list[int] = []
        for n, one in enumerate(faults):
            same = next(
                (
                    found[m]
                    for m in range(n)
                    if _one_figure(faults[m], one)
                    or faults[m].what == one.what == LEADS
                    or (LEADS not in (one.what, faults[m].what) and self._same(tables[n], tables[m]))
                ),
                None,
            )
            found.append(same if same is not None else len(set(found)) + 1)
        return found

    def points_of(self, faults: Sequence[Fault], most: int = 48) -> list[Point]:
        """The points at which these faults could show: those of the nets they touch, and earth."""
        nets: dict[int, None] = {}
        for fault in faults:
            for wire in (
                fault.where
                if fault.what != "shield"
                else (self.screens[fault.where[0]].wire,)
                if fault.where[0] in self.screens
                else ()
            ):
                edge = self.net.edges[self.net.edge_of[wire]]
                nets.setdefault(self.net.net_of[edge.a])
        lists = [list(dict.fromkeys(self.net.nets.get(net, []))) for net in nets]
        share = max(most // max(len(lists), 1), 2)
        picked: list[Point] = []
        ends = {
            pin for fault in faults[:12] if fault.what != "shield" for wire in fault.where for pin in self._pins(wire)
        }
        for rows in lists:
            rows.sort(key=lambda point: point not in ends)
            seen: set[int] = set()
            mine = [p for p in rows if not (self.net.node(p) in seen or seen.add(self.net.node(p)))]  # type: ignore[func-returns-value]
            picked += mine[:share]
        if any(fault.what in ("leak", "shield") for fault in faults) and EARTH not in picked:
            picked.append(EARTH)
        return picked

    def _pins(self, wire: str) -> tuple[Point, Point]:
        one = self.net.index.wires[wire]
        return (one.start.end, one.start.cavity), (one.finish.end, one.finish.cavity)

    def _tables(self, faults: Sequence[Fault]) -> list[Floats]:
        points = self.points_of(faults)
        return [self.sound.derive(one).table(points) for one in faults]

    def _same(self, one: Floats, two: Floats) -> bool:
        """Whether two faults look alike between all points: both the same where they lead nowhere, within the errors elsewhere."""
        if not (np.isinf(one) == np.isinf(two)).all():
            return False
        both = np.isfinite(one)
        sd = np.sqrt(
            self.meter.four_ohm**2 + (0.03 * np.minimum(one[both], two[both])) ** 2
            if self.meter.four_wire
            else self.meter.two_ohm**2 + (0.03 * np.minimum(one[both], two[both])) ** 2
        )
        return bool((np.abs(one[both] - two[both]) <= ALIKE_SD * sd + 1e-12).all())


def _one_figure(one: Fault, two: Fault) -> bool:
    """Whether two faults come to the same thing: more, or less, resistance of one wire."""
    return one.where == two.where and {one.what, two.what} <= set(IN_LINE) - {"open"}


def _log_sound(off: Floats, spread: Floats, stray: Floats) -> float:
    """Log density of readings together, those left out, one after another, that the others speak against more than being spoilt costs."""
    total = 0.0
    while len(off) > 1:
        together = _log_normal(off, spread)
        if together > stray.sum() / 2 or together > -2.0 * len(off):
            return total + together
        precise = np.linalg.inv(spread + 1e-16 * np.eye(len(off)))
        diagonal = np.diag(precise)
        alone = _log_each((precise @ off) / diagonal, 1 / diagonal)
        worst = int(np.argmax(stray - alone))
        if stray[worst] <= alone[worst]:
            return total + together
        total += float(stray[worst])
        kept = np.arange(len(off)) != worst
        off, spread, stray = off[kept], spread[np.ix_(kept, kept)], stray[kept]
    return total + (_log_normal(off, spread) if len(off) else 0.0)


def _log_each(off: Floats, variance: Floats) -> Floats:
    """Log density of each of many normal figures."""
    logs: Floats = -0.5 * off**2 / variance - 0.5 * np.log(2 * math.pi * variance)
    return logs


def _log_normals(off: Floats, spread: Floats) -> Floats:
    """Log densities of normal vectors, (n, k) with covariances (n, k, k)."""
    lower = np.linalg.cholesky(spread)
    z = np.linalg.solve(lower, off[:, :, None])[:, :, 0]
    logs: Floats = (
        -0.5 * (z**2).sum(axis=1)
        - np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
        - 0.5 * off.shape[1] * math.log(2 * math.pi)
    )
    return logs


def _log_normal(off: Floats, spread: Floats) -> float:
    """Log density of a normal vector."""
    if len(off) == 1:
        variance = max(float(spread[0, 0]), 1e-18)
        return -0.5 * float(off[0]) ** 2 / variance - 0.5 * math.log(2 * math.pi * variance)
    lower = np.linalg.cholesky(spread + 1e-16 * np.eye(len(off)))
    z = np.linalg.solve(lower, off)
    return float(-0.5 * z @ z - np.log(np.diag(lower)).sum() - 0.5 * len(off) * math.log(2 * math.pi))
