"""How often each fault is met, and where: one set of figures for the judge and for the faults that the simulated units
draw.

They are the program's own first guess, stated so that a shop can argue with them; readings soon outweigh them.
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from umber_trunk.core.catalog.conductors import series
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.memo import Memo
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import faulty_ohm
from umber_trunk.core.prove.netlist import JOINING, Netlist, netlist
from umber_trunk.core.results import Results

SHARES = {
    "open": 0.25, "high": 0.37, "flicker": 0.03, "swap": 0.155, "short": 0.08, "leak": 0.045, "size": 0.012, "metal": 0.008, "longer": 0.01, "strands": 0.01, "shield": 0.01,
    "wet": 0.01, "loose": 0.005, "cut": 0.002, "crossed": 0.003,
}  # fmt: skip
"""Of a thousand faults, how many are of each kind. Joints come far before a wire that isn't what the list says: one
reading at a lead's ends can't part them, so these figures say who is looked at first. A joint under a nut or screw is
one of "high"."""
KIND_NAMES = {
    "open": "a wire or contact that is open", "high": "a bad joint", "flicker": "a contact that makes and breaks", "swap": "two wires in each other’s cavities", "short": "wires that touch",
    "leak": "a leak", "size": "a wrong size", "metal": "a wrong metal", "longer": "a wrong length", "strands": "lost strands", "shield": "a screen landed wrongly", "wet": "water in a housing",
    "loose": "a plug not home", "cut": "a cable cut through", "crossed": "two plugs changed over",
}  # fmt: skip
"""Each kind in words."""
PLACED = {"swap": "two wires at one end that would be noticed", "shield": "a screened cable", "wet": "a plug of two nets", "loose": "a plug of two nets", "cut": "a cable of several cores", "crossed": "two plugs that are alike"}  # fmt: skip
"""Kinds that sit elsewhere than in one wire → what a harness needs to have them."""
STUD_SHARE = 0.3
"""Of the bad joints where a wire is under a nut or screw, how many are that nut or screw and not the crimp."""
PRACTICE = 50
"""How many faults found in the shop weigh as much as the program's own first guess."""
MANY = (0.90, 0.09, 0.009, 0.0009)
"""How many units in a thousand have no fault, one, two, three."""
HIGH_TIMES, HIGH_USUAL, HIGH_OHM = (0.1, 30.0), 0.8, 100.0
"""What a bad joint adds: mostly (so much of them) 0.1 to 30 times the ohms of the wire it joins, evenly in its
logarithm; the rest more, up to so many ohms."""
LEAK_OHM = (1e3, 5e5)
"""What a leak or water in a housing leads by, evenly in its logarithm."""
LONGER = (0.1, 0.5)
"""Of its length, how much longer a wire was cut by mistake."""
LOST = (0.3, 0.7)
"""Shares of a wire's length it is cut too long, and of its strands that are lost: nobody hides twice the length, nor
loses all but a few."""
STRETCH = (0.2, 1.0)
"""Of a wire's length, along how much its strands are lost."""
STEPS = {-1: 0.5, -2: 0.1, 1: 0.35, 2: 0.05}
"""Steps of the series a wire was mistaken by → how often."""
OTHER_METALS = {"copper": ("cca10", "cca15", "aluminium"), "tinned": ("cca10", "aluminium")}
BREAKS = (0.1, 0.6)
"""How often a contact that makes and breaks is open."""
FAR_SHARE = 0.02
"""How likely two wires that share no stretch and no end touch, beside two that do."""


def shares_of(found: Mapping[str, int]) -> dict[str, float]:
    """How often each kind is met, by the first guess and by what the shop itself found: kind → faults found of it."""
    whole = PRACTICE + sum(found.get(kind, 0) for kind in SHARES)
    return {kind: (PRACTICE * share + found.get(kind, 0)) / whole for kind, share in SHARES.items()}


def shares_from(said: Mapping[str, float]) -> dict[str, float]:
    """Shares as a log has them, which may come from anywhere: every kind has one above nothing, of a whole."""
    taken = {kind: said.get(kind, share) for kind, share in SHARES.items()}
    known = {kind: share if 1e-6 < share <= 1 else SHARES[kind] for kind, share in taken.items()}
    whole = sum(known.values())
    return {kind: share / whole for kind, share in known.items()}


@dataclass(frozen=True)
class Priors:
    """Where each kind of fault can be in a harness, and how often each is met."""

    net: Netlist
    shares: Mapping[str, float] = field(default_factory=lambda: SHARES)
    along: Memo = field(default_factory=Memo, repr=False, compare=False)
    """What was worked out of these by those who judge readings, for the next of them."""

    @cached_property
    def wires(self) -> list[str]:
        """Wires that lead between two places a probe can reach, in the order of the design."""
        return [edge.wire for edge in self.net.edges if edge.wire and edge.a != edge.b]

    @cached_property
    def swaps(self) -> list[Fault]:
        """Every two wires at an end that can be in each other's cavities and would be noticed."""
        found = []
        for end in self.net.design.ends:
            here = [
                (wire.id, self.net.node_of[pin.end, pin.cavity])
                for wire in self.net.design.wires
                for pin in (wire.start, wire.finish)
                if pin.end == end.id and wire.id in self.net.facts
            ]
            for n, (one, node) in enumerate(here):
                for two, other in here[n + 1 :]:
                    if one != two and node != other and self.net.wire_net(one) != self.net.wire_net(two):
                        found.append(Fault("swap", (one, two), end.id))
        return found

    @cached_property
    def plugs(self) -> list[str]:
        """Ends that can be wet: all but studs, bars and frames at which a probe reaches two nets."""
        net = self.net
        found = []
        for end in net.design.ends:
            reached = {net.net_at(point) for point in net.points if point[0] == end.id}
            if end.kind not in JOINING and not end.frame and len(reached) > 1:
                found.append(end.id)
        return found

    @cached_property
    def pushed(self) -> list[str]:
        """Those of them that are pushed home: plugs, and what hasn't all of its wires under nuts or screws."""
        net = self.net
        return [
            end
            for end in self.plugs
            if net.index.ends[end].kind is EndKind.CONNECTOR
            or not all(net.screwed(wire, end) for wire in net.arriving[end])
        ]

    def _differ(self, one: str, two: str) -> bool:
        """Whether two alike plugs carry different nets anywhere, so that it shows when they change places."""
        nets = [
            {
                cavity.label or cavity.id: self.net.net_of[self.net.node_of[end, cavity.id]]
                for cavity in self.net.index.ends[end].cavities
            }
            for end in (one, two)
        ]
        return nets[0] != nets[1]

    @cached_property
    def crossings(self) -> list[tuple[str, str]]:
        """Every two plugs that go into each other's places."""
        return [
            (one, two)
            for n, one in enumerate(self.pushed)
            for two in self.pushed[n + 1 :]
            if self.net.alike_plugs(one, two) and self._differ(one, two)
        ]

    @cached_property
    def beside(self) -> dict[str, set[str]]:
        """Wire → those it shares a stretch or an end with."""
        groups: dict[str, list[str]] = {}
        for wire in self.wires:
            one = self.net.index.wires[wire]
            for name in {*self.net.index.routes[wire].segments, f"@{one.start.end}", f"@{one.finish.end}"}:
                groups.setdefault(name, []).append(wire)
        found: dict[str, set[str]] = {wire: set() for wire in self.wires}
        for wires in groups.values():
            for wire in wires:
                found[wire].update(wires)
        return found

    @cached_property
    def short_mass(self) -> float:
        """Sum of the weights of all pairs that can touch."""
        nets = {wire: self.net.wire_net(wire) for wire in self.wires}
        total = 0.0
        for n, one in enumerate(self.wires):
            near = self.beside[one]
            for two in self.wires[n + 1 :]:
                if nets[one] != nets[two]:
                    total += 1.0 if two in near else FAR_SHARE
        return max(total, 1e-9)

    def log_short(self, one: str, two: str) -> float:
        """Log prior of two wires touching, given that a fault is there."""
        weight = 1.0 if two in self.beside[one] else FAR_SHARE
        return math.log(self.shares["short"] * weight / self.short_mass)

    def sizes(self, wire: str) -> list[tuple[str, float]]:
        """(size, how often) of what a wire may have been mistaken for."""
        plant = self.net.results.plant
        one = plant.conductors[plant.row[wire]]
        known = series(one.size.series)
        at = min(range(len(known)), key=lambda n: abs(math.log(known[n].area_mm2 / one.size.area_mm2)))
        rows = [(known[at + step].label, share) for step, share in STEPS.items() if 0 <= at + step < len(known)]
        whole = sum(share for _, share in rows)
        return [(label, share / whole) for label, share in rows]

    def metals(self, wire: str) -> list[str]:
        """Metals a wire may be instead of its own."""
        plant = self.net.results.plant
        one = plant.conductors[plant.row[wire]]
        found = []
        for metal in OTHER_METALS.get(one.metal.id, ("copper",)):
            try:
                faulty_ohm(self.net, Fault("metal", (wire,), metal=metal))
            except InputError:
                continue
            found.append(metal)
        return found

    def joint_ohms(self, wire: str) -> tuple[float, float, float]:
        """What a bad joint of a wire adds [Ω]: at least, mostly up to, at most."""
        own = max(self.net.facts[wire].copper_ohm, 1e-4)
        return HIGH_TIMES[0] * own, min(HIGH_TIMES[1] * own, HIGH_OHM / 2), HIGH_OHM

    @cached_property
    def lost(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(share lost, stretch as a share of the length, the share by which the metal's ohms rise) of strands broken,
        on a grid of equal weights."""
        grid = np.meshgrid(np.linspace(*LOST, 25)[:-1] + 0.0125, np.linspace(*STRETCH, 25)[:-1] + 0.0167)
        shares, stretches = grid[0].ravel(), grid[1].ravel()
        return shares, stretches, stretches * shares / (1 - shares)

    def draw(self, random_: random.Random, kind: str = "") -> Fault:
        """A fault as often as it is met, of one kind where that is said. InputError where the harness can't have that
        kind."""
        what = kind or random_.choices(list(self.shares), list(self.shares.values()))[0]
        if what == "short":
            return self._draw_short(random_, kind)
        if what in PLACED:
            fault = self._draw_placed(random_, what)
            return fault or self._none(random_, kind, PLACED[what])
        if not self.wires:
            raise InputError.of("prove.no-wire-to-put-fault")
        wire = random_.choice(self.wires)
        if what == "metal":
            names = self.metals(wire)
            if not names:
                return self._none(random_, kind, "another metal")
            return Fault(what, (wire,), metal=random_.choice(names))
        return self._draw_on_wire(random_, what, wire)

    def _draw_placed(self, random_: random.Random, what: str) -> Fault | None:
        """One that sits at an end, in a cable or between wires of one place; None where there is no such place."""
        if what == "swap":
            return random_.choice(self.swaps) if self.swaps else None
        if what == "crossed":
            return Fault(what, random_.choice(self.crossings)) if self.crossings else None
        homes: dict[str, Iterable[str]] = {
            "shield": self.net.screens,
            "cut": self.net.cores,
            "wet": self.plugs,
            "loose": self.pushed,
        }
        places = list(homes[what])
        if not places:
            return None
        ohm = _log_uniform(random_, *LEAK_OHM) if what == "wet" else 0.0
        return Fault(what, (random_.choice(places),), ohm=ohm)

    def _draw_on_wire(self, random_: random.Random, what: str, wire: str) -> Fault:
        one, long_m = self.net.index.wires[wire], self.net.facts[wire].length_m
        match what:
            case "high":
                low, usual, most = self.joint_ohms(wire)
                span = (low, usual) if random_.random() < HIGH_USUAL else (usual, most)
                end = random_.choice((one.start.end, one.finish.end))
                stud = self.net.screwed(wire, end) and random_.random() < STUD_SHARE
                return Fault("stud" if stud else what, (wire,), end, ohm=_log_uniform(random_, *span))
            case "flicker":
                end = random_.choice((one.start.end, one.finish.end))
                return Fault(what, (wire,), end, share=random_.uniform(*BREAKS))
            case "leak":
                return Fault(what, (wire,), ohm=_log_uniform(random_, *LEAK_OHM))
            case "size":
                labels, often = zip(*self.sizes(wire), strict=True)
                return Fault(what, (wire,), size=random_.choices(labels, often)[0])
            case "longer":
                return Fault(what, (wire,), metres=long_m * random_.uniform(*LONGER))
            case "strands":
                return Fault(what, (wire,), share=random_.uniform(*LOST), metres=long_m * random_.uniform(*STRETCH))
        return Fault("open", (wire,))

    def _draw_short(self, random_: random.Random, kind: str) -> Fault:
        for _ in range(2000 if self.wires else 0):
            one, two = random_.choice(self.wires), random_.choice(self.wires)
            near = two in self.beside[one]
            if self.net.wire_net(one) != self.net.wire_net(two) and (near or random_.random() < FAR_SHARE):
                return Fault("short", (one, two), along=random_.uniform(0.05, 0.95))
        return self._none(random_, kind, "two nets that could touch")

    def _none(self, random_: random.Random, kind: str, wanted: str) -> Fault:
        if kind:
            raise InputError.of("prove.this-harness-cant-have-fault", kind=kind, wanted=wanted)
        return self.draw(random_)


def _log_uniform(random_: random.Random, low: float, high: float) -> float:
    return math.exp(random_.uniform(math.log(low), math.log(high)))


def priors(results: Results) -> Priors:
    """Where faults can be in a harness; for `Results.once`."""
    return Priors(results.once(netlist))
