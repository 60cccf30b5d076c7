"""Which faults explain the readings: a Bayesian judge over single faults and two or three together.

A hypothesis is a `State`: the harness with faults in it. How likely the readings are in it: what should lead and
doesn't, or the other way round, is as likely as a probe that slipped; the sizes of readings are judged together, since
those along one wire share its uncertainty. Faults of one wire that only change its resistance are looked at along that
one figure, all kinds at once.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.prove.belief import BEAM, NEGLIGIBLE, Belief, weights_of
from umber_trunk.core.prove.fault import LEADS, Fault, within
from umber_trunk.core.prove.faults import IN_LINE, act_of, wires_of, words_of
from umber_trunk.core.prove.gauss import log_each
from umber_trunk.core.prove.in_line import InLine
from umber_trunk.core.prove.meter import DECADES, SLIP, log_insulation, log_stray
from umber_trunk.core.prove.millivolts import test_amps
from umber_trunk.core.prove.netlist import EARTH, Point
from umber_trunk.core.prove.priors import LEAK_OHM, MANY
from umber_trunk.core.prove.probe import at_part
from umber_trunk.core.prove.touching import INSULATION_SHARE, LEAST_LEAK_OHM, Touching
from umber_trunk.core.prove.verdict import Suspect, Verdict
from umber_trunk.core.prove.whole import Whole
from umber_trunk.core.sentences import NOTHING
from umber_trunk.core.units import show_ohms

Floats = NDArray[np.float64]
DEEPEST, WIDEN = 3, 5
"""Faults at once that are looked for, and hypotheses of each depth that go on to the next."""
ALIKE_SD = 3.0
"""Two hypotheses are told apart by a reading that differs by more standard deviations than this."""
ALIKE_SHARE = 0.03
"""How far two figures of a wire may lie apart and still be its own uncertainty: one standard deviation, as a share."""
SHOWN = 0.003
"""Less probable suspects aren't listed."""
UNKNOWN, MOST_ISOLATED = 0.02, 4
"""How many faults are none of the kinds known here, the program’s own guess; how many readings are named
then."""
LEAD_OHM = (0.03, 3.0)
"""What is looked for in the meter's own leads, where readings by two wires are all too high."""


class Judge(InLine, Touching, Whole):
    """Takes readings in, gives verdicts and what it believes."""

    def beliefs(self, wanted: Wanted = always) -> list[Belief]:
        """Sets of faults by weight, the likeliest first, weights not yet made one."""
        if self._beliefs is None:
            self._beliefs = self._search(wanted)
        return self._beliefs

    def _search(self, wanted: Wanted) -> list[Belief]:
        root = Belief(self.sound, math.log(MANY[0]), list(self._base), self._odd(self.sound, self._base, 0.0))
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
        along |= {self.net.edge_of[self.readings[at].probe.wire] for at in belief.odd if self.readings[at].probe.part}
        changed = {one.where[0] for one in belief.state.faults if one.what in IN_LINE}
        for wire in self.priors.wires:
            row = self.net.edge_of[wire]
            if row in along and row in belief.state.edges and wire not in changed:
                found += self._in_line(belief, wire, log_depth)
        found += self._swapped(belief, islands, log_depth)
        found += self._screened(belief, log_depth)
        found += self._shorted(belief, log_depth)
        found += self._bridged(belief, log_depth)
        found += self._leaking(belief, log_depth)
        found += self._leads(belief, log_depth)
        found += self._whole(belief, log_depth)
        found.sort(key=lambda one: -one.log)
        return found[: 6 * BEAM]

    def _odd_islands(self, belief: Belief) -> set[int]:
        return {
            belief.state.island[node] for at in belief.odd if self.readings[at].probe.single for node in self._nodes[at]
        }

    def _swapped(self, belief: Belief, islands: set[int], log_depth: float) -> list[Belief]:
        log_prior = log_depth + math.log(self.priors.shares["swap"] / max(len(self.priors.swaps), 1))
        found = []
        state = belief.state
        used = {wire for one in state.faults for wire in one.where if one.what == "swap"}
        touching = {wire for one in state.faults for wire in one.where if one.what == "short"}
        parted, joined = self._explainable(belief)
        for fault in self.priors.swaps:
            rows = [self.net.edge_of[wire] for wire in fault.where]
            where = {state.island[self.net.edges[row].a] for row in rows} | {
                state.island[self.net.edges[row].b] for row in rows
            }
            if (
                where & islands
                and (
                    (joined and len(where) > 1) or any(sum(one.get(row, 0.0) for row in rows) >= 0.49 for one in parted)
                )
                and touching.isdisjoint(fault.where)
                and not (set(fault.where) & used and fault.end in {one.end for one in state.faults})
            ):
                child = self._child(belief, fault, log_prior, explains=True)
                if child is not None and child.log > belief.log - NEGLIGIBLE:
                    found.append(child)
        return found

    def _explainable(self, belief: Belief) -> tuple[list[Mapping[int, float]], bool]:
        """What a swap could explain: (of each reading that found nothing where metal leads the wires on its way, with
        the square of their share of the current; whether any found metal between islands, or is odd otherwise). A swap
        parts two points only where its two wires together carry all that flows between them, and joins only islands."""
        parted: list[Mapping[int, float]] = []
        joined = False
        for at in belief.odd:
            found, should = math.isfinite(self.readings[at].ohm), math.isfinite(belief.seen[at].ohm)
            if found and not should:
                joined = True
            elif not self.readings[at].probe.single or not should:
                parted.append(defaultdict(lambda: 1.0))  # any wire may be it
            elif found:  # otherwise than it should be: by any wire that carries some of it
                parted.append({edge: 1.0 for edge, share in belief.seen[at].shares if share > 1e-6})
            else:
                parted.append(dict(belief.seen[at].shares))
        return parted, joined

    def _screened(self, belief: Belief, log_depth: float) -> list[Belief]:
        if not self.net.screens or not belief.odd:
            return []
        log_prior = log_depth + math.log(self.priors.shares["shield"] / len(self.net.screens))
        known = {one.where for one in belief.state.faults if one.what == "shield"}
        rows = [
            self._child(belief, Fault("shield", (cable,)), log_prior)
            for cable in self.net.screens
            if (cable,) not in known
        ]
        return [one for one in rows if one is not None and one.log > belief.log - NEGLIGIBLE]

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
            narrowest = min(
                (at for at in low if self._nodes[at] & nodes),
                key=lambda at: (self.readings[at].probe.b != (EARTH,), len(self.readings[at].probe.a)),
            )
            ohm = self.readings[narrowest].ohm
            ohm = max(ohm, 1.0)
            for wire in wires:
                fault = within(Fault("leak", (wire,), ohm=ohm), INSULATION_SHARE)
                log_prior = (
                    log_depth
                    + math.log(self.priors.shares["leak"] / len(self.priors.wires))
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
        unknown = self.unknown(rows)
        weights = weights_of(rows) * (1 - unknown)
        sound = float(sum(w for w, one in zip(weights, rows, strict=True) if not one.state.faults))
        mass: dict[tuple[str, tuple[str, ...], str], float] = {}
        best: dict[tuple[str, tuple[str, ...], str], Fault] = {}
        for weight, one in zip(weights, rows, strict=True):
            for fault in one.state.faults:
                mass[fault.key] = mass.get(fault.key, 0.0) + float(weight)
                best.setdefault(fault.key, fault)
        ranked = sorted((key for key in mass if mass[key] >= SHOWN), key=lambda key: -mass[key])[:BEAM]
        groups = self._groups([best[key] for key in ranked])
        suspects = tuple(self._suspect(best[key], mass[key], groups[n]) for n, key in enumerate(ranked))
        odd = self._odd(self.sound, self._base, 0.0)
        return Verdict(sound, suspects, False, odd, unknown, self._isolated(odd))

    def unknown(self, rows: Sequence[Belief]) -> float:
        """How likely it is that none of the kinds known here is at work: a fault that may read anything, at as many
        readings as call for one."""
        odd = self._odd(self.sound, self._base, 0.0)
        if not odd:
            return 0.0
        log = (
            math.log(MANY[1] * UNKNOWN)
            + sum(self._anything(at) for at in odd)
            - len(odd) * math.log(len(self.readings))
        )
        best = rows[0].log
        known = sum(math.exp(one.log - best) for one in rows)
        other = math.exp(min(log - best, 50.0))
        return other / (known + other)

    def _anything(self, at: int) -> float:
        """By how much a reading is likelier where it may be anything than in a sound harness, in log units."""
        reading, what = self.readings[at], self._base[at]
        kind, single = reading.probe.kind, reading.probe.single
        if kind == "insulation":
            return -math.log(DECADES) - log_insulation(what.ohm, reading.ohm)
        if math.isinf(reading.ohm) or not single:
            return math.log(0.5) - math.log(SLIP)
        if math.isinf(what.ohm):
            return -math.log(SLIP)
        off, spread = self._spread(self.sound, [at], self._base)
        fits = float(log_each(off, np.diag(spread))[0])
        return min(log_stray(reading.ohm) - math.log(SLIP) - fits, -math.log(SLIP))

    def _isolated(self, odd: Sequence[int]) -> tuple[str, ...]:
        """The odd readings between fewest points, in words."""

        def many(at: int) -> int:
            return len(self.readings[at].probe.a) * len(self.readings[at].probe.b)

        told = []
        for at in sorted(odd, key=many)[:MOST_ISOLATED]:
            probe = self.readings[at].probe
            sides = [
                ", ".join(map(self.net.name, side[:4])) + (" …" if len(side) > 4 else "") for side in (probe.a, probe.b)
            ]
            read = "nothing leads" if math.isinf(self.readings[at].ohm) else show_ohms(self.readings[at].ohm)
            if probe.part:
                told.append(f"{probe.wire} {probe.part}: {read}")
                continue
            told.append(f"{sides[0]} to {sides[1]}: {read}")
        return tuple(dict.fromkeys(told))

    def _suspect(self, fault: Fault, share: float, group: int) -> Suspect:
        at = self.net.index.ends[fault.end].name if fault.end else ""
        anywhere = words_of(self.net, replace(fault, end="")) if fault.end else NOTHING
        return Suspect(fault, share, group, words_of(self.net, fault), at, anywhere, act_of(self.net, fault))

    def _groups(self, faults: list[Fault]) -> list[int]:
        """Number of each fault's group: the first that no pair of points tells from it."""
        if not faults:
            return []
        tables = self._tables(faults)
        found: list[int] = []
        for n, one in enumerate(faults):
            same = next(
                (found[m] for m in range(n) if self._alike(faults[m], one, tables[m], tables[n])),
                None,
            )
            found.append(same if same is not None else len(set(found)) + 1)
        return found

    def points_of(self, faults: Sequence[Fault], most: int = 48) -> list[Point]:
        """The points at which these faults could show: those of the nets they touch, and earth."""
        nets: dict[int, None] = {}
        for fault in faults:
            for wire in wires_of(self.net, fault):
                edge = self.net.edges[self.net.edge_of[wire]]
                nets.setdefault(self.net.net_of[edge.a])
        lists = [list(dict.fromkeys(self.net.nets.get(net, []))) for net in nets]
        share = max(most // max(len(lists), 1), 2)
        picked: list[Point] = []
        ends = {place for fault in faults[:12] for wire in wires_of(self.net, fault) for place in self.net.places(wire)}
        for rows in lists:
            rows.sort(key=lambda point: point not in ends)
            first_at: dict[int, Point] = {}
            for point in rows:
                first_at.setdefault(self.net.node(point), point)
            picked += list(first_at.values())[:share]
        if any(fault.what in ("leak", "shield") for fault in faults) and EARTH not in picked:
            picked.append(EARTH)
        return picked

    def _tables(self, faults: Sequence[Fault]) -> list[Floats]:
        points = self.points_of(faults)
        return [self.sound.derive(one).table(points) for one in faults]

    def _alike(self, one: Fault, two: Fault, first: Floats, second: Floats) -> bool:
        """Whether no reading there is parts two faults."""
        if LEADS in (one.what, two.what):
            return one.what == two.what
        if {one.what, two.what} & {"loose", "flicker"}:
            return one.what == two.what and set(wires_of(self.net, one)) == set(wires_of(self.net, two))
        if not (_one_figure(one, two) or self._same(first, second)):
            return False
        if one.where != two.where or not {one.what, two.what} <= set(IN_LINE):
            return True
        read = self.net.parts(one.where[0]) if test_amps(self.net, one.where[0], self.meter) else ()
        return not any(at_part(one.what, one.end, part) != at_part(two.what, two.end, part) for part in read)

    def _same(self, one: Floats, two: Floats) -> bool:
        """Whether two faults look alike between all points: both the same where they lead nowhere, within the errors
        elsewhere."""
        if not (np.isinf(one) == np.isinf(two)).all():
            return False
        both = np.isfinite(one)
        sd = np.hypot(self.meter.floor_ohm, ALIKE_SHARE * np.minimum(one[both], two[both]))
        return bool((np.abs(one[both] - two[both]) <= ALIKE_SD * sd + 1e-12).all())


def _one_figure(one: Fault, two: Fault) -> bool:
    """Whether two faults come to the same thing: more, or less, resistance of one wire."""
    return one.where == two.where and {one.what, two.what} <= set(IN_LINE) - {"open"}
