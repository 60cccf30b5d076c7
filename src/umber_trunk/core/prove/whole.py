"""Faults of a whole plug or cable, and contacts that make and break: one cause with many signs."""

from __future__ import annotations

import math
from collections.abc import Iterable

from umber_trunk.core.prove.belief import NEGLIGIBLE, Belief, Evidence
from umber_trunk.core.prove.fault import Fault, within
from umber_trunk.core.prove.meter import SHAKEN
from umber_trunk.core.prove.netlist import EARTH
from umber_trunk.core.prove.priors import BREAKS
from umber_trunk.core.prove.touching import INSULATION_SHARE, LEAST_LEAK_OHM, PER_OHM

LEAST_SIGNS = 2
"""So many readings have to speak for a fault of a whole plug or cable; a single one has nearer causes."""


class Whole(Evidence):
    """The search for faults that show in many readings at once."""

    def _whole(self, belief: Belief, log_depth: float) -> list[Belief]:
        """A belief with one such fault more, for every one that explains some of what it doesn't."""
        candidates = (
            *self._breaking(belief),
            *self._loose(belief),
            *self._cut(belief),
            *self._crossed(belief),
            *self._wet(belief),
        )
        grown = [self._child(belief, fault, log_depth + log_prior) for fault, log_prior in candidates]
        return [one for one in grown if one is not None and one.log > belief.log - NEGLIGIBLE]

    def _at_points(self, belief: Belief, end: str) -> list[int]:
        """Odd readings between single points of which one is at an end."""
        return [
            at
            for at in belief.odd
            if (probe := self.readings[at].probe).single
            and not probe.part
            and probe.kind != "insulation"
            and end in (probe.a[0][0], probe.b[0][0])
        ]

    def _breaking(self, belief: Belief) -> Iterable[tuple[Fault, float]]:
        """Contacts of wires without which an odd reading finds nothing: as often open as its readings say."""
        log_prior = math.log(self.priors.shares["flicker"] / max(len(self.priors.wires), 1) / 2)
        rows: dict[int, None] = {}
        for at in belief.odd:
            if math.isinf(self.readings[at].ohm) and self.readings[at].probe.single:
                rows.update(dict.fromkeys(edge for edge, share in belief.seen[at].shares if share > 0.99))
        for row in rows:
            wire = self.net.edges[row].wire if row < len(self.net.edges) else ""
            if not wire or row in belief.state.flickers:
                continue
            reads = [
                at
                for at, seen in enumerate(belief.seen)
                if any(edge == row and share > 0.99 for edge, share in seen.shares)
            ]
            still = [at for at in reads if self.readings[at].probe.kind not in SHAKEN.values()]
            gone = sum(math.isinf(self.readings[at].ohm) for at in still)
            share = min(max((gone + 0.5) / (len(still) + 1), BREAKS[0]), BREAKS[1])
            one = self.net.index.wires[wire]
            for end in dict.fromkeys((one.start.end, one.finish.end)):
                yield Fault("flicker", (wire,), end, share=share), log_prior

    def _loose(self, belief: Belief) -> Iterable[tuple[Fault, float]]:
        for end in self.priors.pushed:
            if end not in belief.state.loose and len(self._at_points(belief, end)) >= LEAST_SIGNS:
                yield Fault("loose", (end,)), math.log(self.priors.shares["loose"] / len(self.priors.pushed))

    def _cut(self, belief: Belief) -> Iterable[tuple[Fault, float]]:
        gone = {
            edge
            for at in belief.odd
            if math.isinf(self.readings[at].ohm)
            for edge, share in belief.seen[at].shares
            if share > 0.3
        }
        for cable, wires in self.net.cores.items():
            if sum(self.net.edge_of[wire] in gone for wire in wires) >= LEAST_SIGNS:
                yield Fault("cut", (cable,)), math.log(self.priors.shares["cut"] / len(self.net.cores))

    def _crossed(self, belief: Belief) -> Iterable[tuple[Fault, float]]:
        for pair in self.priors.crossings:
            if sum(len(self._at_points(belief, end)) for end in pair) >= LEAST_SIGNS:
                yield Fault("crossed", pair), math.log(self.priors.shares["crossed"] / len(self.priors.crossings))

    def _wet(self, belief: Belief) -> Iterable[tuple[Fault, float]]:
        """Plugs between whose nets an odd reading leads by thousands of ohms."""
        led = [
            at
            for at in belief.odd
            if LEAST_LEAK_OHM <= self.readings[at].ohm < math.inf
            and math.isinf(belief.seen[at].ohm)
            and EARTH not in self.readings[at].probe.b
        ]
        if not led:
            return
        log_prior = math.log(self.priors.shares["wet"] / max(len(self.priors.plugs), 1) * PER_OHM)
        for end in self.priors.plugs:
            nodes = {self.net.node(point) for point in self.net.points if point[0] == end}
            islands = {belief.state.island[node] for node in nodes}
            across = [at for at in led if self._reaches(belief, at, islands)]
            if across:
                # what is read between points clipped together is less than between two cavities: two that are alone say
                # it best
                fewest = min(across, key=lambda at: len(self.readings[at].probe.a) * len(self.readings[at].probe.b))
                yield (
                    within(Fault("wet", (end,), ohm=self._per_pair(belief, fewest, islands)), INSULATION_SHARE),
                    log_prior,
                )

    def _reaches(self, belief: Belief, at: int, islands: set[int]) -> bool:
        probe = self.readings[at].probe
        return all(
            any(belief.state.island[self.net.node(point)] in islands for point in side) for side in (probe.a, probe.b)
        )

    def _per_pair(self, belief: Belief, at: int, islands: set[int]) -> float:
        """The ohms between two cavities, of what was read between m and n of them: through the middle of a star, half
        of it from each."""
        probe = self.readings[at].probe
        many = [
            len({belief.state.island[self.net.node(point)] for point in side} & islands) for side in (probe.a, probe.b)
        ]
        return self.readings[at].ohm * 2 / (1 / many[0] + 1 / many[1])
