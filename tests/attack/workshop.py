"""Units as a workshop would make them, and the meter on its bench: another author's physics for trials of the judge.

Of the program it knows the harness (which wires, what size, how long, how good a joint is planned) and how a probe is
written; nothing of what the judge takes a fault, a meter or a chance to be. Each wire is a chain of resistors:

    stud ──nut── lug ──crimp── copper ── copper ──crimp── lug ──nut── stud

solved with all others by nodal analysis, the second lead held at zero. Copper is by the tables of IEC 60228 and ISO
6722-1, where a size is in them.
"""

from __future__ import annotations

import math
import random
from collections.abc import Sequence, Set
from dataclasses import dataclass, field

import numpy as np
from scipy.sparse import csc_matrix
from scipy.sparse.csgraph import connected_components

from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.model import Design
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.results import Results

IEC_60228 = {0.5: 39.0, 0.75: 26.0, 1.0: 19.5, 1.5: 13.3, 2.5: 7.98, 4.0: 4.95, 6.0: 3.30, 10.0: 1.91, 16.0: 1.21, 25.0: 0.780, 35.0: 0.554, 50.0: 0.386, 70.0: 0.272, 95.0: 0.206}  # fmt: skip
"""mm² → the most that class 5 of plain copper may have at 20 °C [Ω/km], table 5."""
ALPHA = 0.00393
STEPS = (0.22, 0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0)
"""What lies on a shelf [mm²]."""
Place = tuple[str, str]


@dataclass
class Chain:
    """One wire as built: ohms of its parts, and how it is spoilt. `share` is how often it is open; `open` always."""

    a: Place
    b: Place
    parts: list[float]
    open: bool = False
    share: float = 0.0
    film: int = -1
    """Which part is a film that a current breaks through, −1 for none."""


@dataclass
class Made:
    """One unit on the bench: chains, what leads besides, and what somebody did wrong, as (kind, wires or ends or cable,
    end)."""

    chains: dict[str, Chain]
    strays: list[tuple[Place, Place, float]] = field(default_factory=list)
    touching: list[tuple[str, float, str, float, float]] = field(default_factory=list)
    loose: dict[Place, float] = field(default_factory=dict)
    truth: list[tuple[str, frozenset[str], str]] = field(default_factory=list)


class Workshop:
    """Makes units of one harness. `lengths` are planned metres, `joints` planned ohms at start and finish of each wire,
    `screws` (wire, end) of what is under a nut or screw."""

    def __init__(
        self,
        results: Results,
        lengths: dict[str, float],
        joints: dict[str, tuple[float, float]],
        screws: Set[tuple[str, str]],
    ) -> None:
        self.screws = screws
        self.design: Design = results.design
        plant = results.figures.solution.plant
        self.plans = {}
        for row, wire in enumerate(plant.wires):
            made = plant.conductors[row]
            known = IEC_60228.get(made.size.area_mm2) if made.make.source.startswith("IEC 60228") else None
            per_m = (known or 1e3 * made.ohm_per_m_20) / 1e3
            self.plans[wire.id] = (
                per_m * 0.98 / wire.parallel,
                lengths.get(wire.id, float(plant.length_m[row])),
                joints[wire.id],
            )
        self.sizes = {wire.id: plant.conductors[row].size.area_mm2 for row, wire in enumerate(plant.wires)}
        self.wires = {wire.id: wire for wire in self.design.wires if wire.id in self.plans}
        self.root = self._joined_places()

    def _joined_places(self) -> dict[Place, Place]:
        """Place → the one that stands for all it is one with: bars, studs and splices, bridges of boxes, the frame."""
        root = {}
        for end in self.design.ends:
            whole = end.kind in (EndKind.BAR, EndKind.STUD, EndKind.SPLICE)
            for cavity in end.cavities:
                mates = next(
                    (
                        group
                        for group in end.bridged
                        if cavity.id in group and end.kind is EndKind.BOX and not end.housings
                    ),
                    None,
                )
                first = (
                    ("", "frame")
                    if end.frame
                    else (end.id, end.cavities[0].id if whole else mates[0] if mates else cavity.id)
                )
                root[end.id, cavity.id] = first
        return root

    def sound(self, draw: random.Random, spread: float = 1.0) -> Made:
        """A unit as a good hand makes it: metal a little under its table, lengths a percent off, crimps each for
        itself."""
        kelvin = draw.gauss(0, 3 * spread)
        chains = {}
        for name, (per_m, metres, joints) in self.plans.items():
            copper = (
                per_m
                * metres
                * (1 + ALPHA * kelvin)
                * (1 + spread * draw.gauss(0, 0.012))
                * (1 + spread * draw.gauss(0, 0.01))
            )
            halves = [
                joint / 2 * math.exp(spread * draw.gauss(0, 0.3) - 0.045 * spread**2) for joint in joints for _ in "12"
            ]
            one = self.wires[name]
            chains[name] = Chain(
                (one.start.end, one.start.cavity),
                (one.finish.end, one.finish.cavity),
                [halves[0], halves[1], copper, halves[2], halves[3]],
            )
        return Made(chains)

    def spoil(self, made: Made, kind: str, draw: random.Random) -> bool:
        """Puts a fault of a kind in; whether the harness can have it."""
        work = getattr(self, f"_{kind}")
        done: bool = work(made, draw)
        return done

    def _wire(self, made: Made, draw: random.Random) -> str:
        return draw.choice(sorted(made.chains))

    def _open(self, made: Made, draw: random.Random) -> bool:
        name = self._wire(made, draw)
        made.chains[name].open = True
        made.truth.append(("open", frozenset([name]), ""))
        return True

    def _bad_joint(self, made: Made, draw: random.Random, film: bool) -> bool:
        name, side = self._wire(made, draw), draw.randrange(2)
        if film and (name, (made.chains[name].a, made.chains[name].b)[side][0]) not in self.screws:
            return False
        chain, (per_m, metres, _) = made.chains[name], self.plans[name]
        own = max(per_m * metres, 1e-4)
        more = (
            own * 10 ** draw.uniform(-1, 1.4771)
            if draw.random() < 0.8
            else min(30 * own, 50.0) * (100 / min(30 * own, 50.0)) ** draw.random()
        )
        part = (0, 4)[side] if film else (1, 3)[side]
        chain.parts[part] += more
        chain.film = part if film else -1
        made.truth.append(("stud" if film else "high", frozenset([name]), (chain.a, chain.b)[side][0]))
        return True

    def _high(self, made: Made, draw: random.Random) -> bool:
        return self._bad_joint(made, draw, film=False)

    def _stud(self, made: Made, draw: random.Random) -> bool:
        return self._bad_joint(made, draw, film=True)

    def _flicker(self, made: Made, draw: random.Random) -> bool:
        name = self._wire(made, draw)
        made.chains[name].share = draw.uniform(0.1, 0.6)
        made.truth.append(("flicker", frozenset([name]), draw.choice((made.chains[name].a, made.chains[name].b))[0]))
        return True

    def _swap(self, made: Made, draw: random.Random) -> bool:
        name = self._wire(made, draw)
        side = draw.randrange(2)
        end = (made.chains[name].a, made.chains[name].b)[side][0]
        others = [
            (other, s)
            for other, chain in made.chains.items()
            for s in (0, 1)
            if (chain.a, chain.b)[s][0] == end and other != name
        ]
        others = [row for row in others if self.root[self._at(made, *row)] != self.root[self._at(made, name, side)]]
        if not others:
            return False
        other, its = draw.choice(others)
        here, there = self._at(made, name, side), self._at(made, other, its)
        self._move(made, name, side, there)
        self._move(made, other, its, here)
        made.truth.append(("swap", frozenset([name, other]), end))
        return True

    def _at(self, made: Made, name: str, side: int) -> Place:
        chain = made.chains[name]
        return (chain.a, chain.b)[side]

    def _move(self, made: Made, name: str, side: int, to: Place) -> None:
        setattr(made.chains[name], "ab"[side], to)

    def _short(self, made: Made, draw: random.Random) -> bool:
        one, two = draw.sample(sorted(made.chains), 2)
        if self.root[made.chains[one].a] == self.root[made.chains[two].a] or not self._near(one, two):
            return False
        along = draw.uniform(0.05, 0.95)
        alike = (
            self.wires[one].start.end == self.wires[two].start.end
            or self.wires[one].finish.end == self.wires[two].finish.end
        )
        made.touching.append((one, along, two, along if alike else 1 - along, draw.uniform(0.002, 0.03)))
        made.truth.append(("short", frozenset([one, two]), ""))
        return True

    def _near(self, one: str, two: str) -> bool:
        a, b = self.wires[one], self.wires[two]
        return bool({a.start.end, a.finish.end} & {b.start.end, b.finish.end})

    def _leak(self, made: Made, draw: random.Random) -> bool:
        name = self._wire(made, draw)
        made.strays.append((made.chains[name].a, ("", "frame"), 1e3 * 500 ** draw.random()))
        made.truth.append(("leak", frozenset([name]), ""))
        return True

    def _lead(self, made: Made, draw: random.Random, kind: str, times: float) -> bool:
        name = self._wire(made, draw)
        made.chains[name].parts[2] *= times
        made.truth.append((kind, frozenset([name]), ""))
        return True

    def _size(self, made: Made, draw: random.Random) -> bool:
        name = self._wire(made, draw)
        plan = self.sizes[name]
        others = (
            [area for area in STEPS if area < 0.99 * plan][-2:][::-1],
            [area for area in STEPS if area > 1.01 * plan][:2],
        )
        below = draw.random() < 0.6
        if not (mine := others[0 if below else 1]):
            return False
        made.chains[name].parts[2] *= plan / mine[draw.random() < 0.15 and len(mine) > 1]
        made.truth.append(("size", frozenset([name]), ""))
        return True

    def _metal(self, made: Made, draw: random.Random) -> bool:
        return self._lead(made, draw, "metal", draw.choice((1.591, 1.552, 1.639)))

    def _longer(self, made: Made, draw: random.Random) -> bool:
        return self._lead(made, draw, "longer", 1 + draw.uniform(0.1, 0.5))

    def _strands(self, made: Made, draw: random.Random) -> bool:
        share, stretch = draw.uniform(0.3, 0.7), draw.uniform(0.2, 1.0)
        return self._lead(made, draw, "strands", 1 + stretch * share / (1 - share))

    def _ends(self, many: int) -> list[str]:
        return [
            end.id
            for end in self.design.ends
            if end.kind is EndKind.CONNECTOR
            and sum(end.id in (w.start.end, w.finish.end) for w in self.wires.values()) >= many
        ]

    def _wet(self, made: Made, draw: random.Random) -> bool:
        """Water lies lowest: neighbours lead best, those further apart less."""
        if not (ends := self._ends(2)):
            return False
        end, ohm = draw.choice(ends), 2e3 * 200 ** draw.random()
        here = sorted({place for chain in made.chains.values() for place in (chain.a, chain.b) if place[0] == end})
        for n, a in enumerate(here):
            made.strays += [
                (a, b, ohm * (1 + 0.15 * (m - n - 1)) * draw.uniform(0.85, 1.2)) for m, b in enumerate(here) if m > n
            ]
        made.truth.append(("wet", frozenset([end]), ""))
        return True

    def _loose(self, made: Made, draw: random.Random) -> bool:
        if not (ends := self._ends(3)):
            return False
        end = draw.choice(ends)
        here = sorted({place for chain in made.chains.values() for place in (chain.a, chain.b) if place[0] == end})
        tilt = draw.uniform(-1, 1)
        for n, place in enumerate(here):
            home = 0.35 + 0.4 * tilt * (2 * n / max(len(here) - 1, 1) - 1) + draw.gauss(0, 0.15)
            made.loose[place] = math.inf if home < 0.25 else 10 ** draw.uniform(-1.3, 1.3) if home < 0.6 else 0.0
        if sum(ohm > 0 for ohm in made.loose.values()) < 2:
            return False
        made.truth.append(("loose", frozenset([end]), ""))
        return True

    def _cut(self, made: Made, draw: random.Random) -> bool:
        cables: dict[str, list[str]] = {}
        for name in made.chains:
            if self.wires[name].cable:
                cables.setdefault(str(self.wires[name].cable), []).append(name)
        cables = {cable: names for cable, names in cables.items() if len(names) > 1}
        if not cables:
            return False
        cable = draw.choice(sorted(cables))
        for name in cables[cable]:
            made.chains[name].open = True
        made.truth.append(("cut", frozenset([cable]), ""))
        return True

    def _crossed(self, made: Made, draw: random.Random) -> bool:
        """Two plugs of one shape, each where the other belongs."""
        shapes: dict[tuple[object, ...], list[str]] = {}
        for end in self.design.ends:
            if end.id in self._ends(2):
                shape = (
                    tuple(sorted(cavity.label or cavity.id for cavity in end.cavities)),
                    tuple(sorted(body.part or "" for body in end.housings)),
                )
                shapes.setdefault(shape, []).append(end.id)
        twins = [
            pair
            for ends in shapes.values()
            for n, one in enumerate(ends)
            for two in ends[n + 1 :]
            if self._other_nets(pair := (one, two))
        ]
        if not twins:
            return False
        pair = draw.choice(twins)
        over = {}
        for one, two in (pair, pair[::-1]):
            mine, its = (
                {
                    cavity.label or cavity.id: (end.id, cavity.id)
                    for end in self.design.ends
                    if end.id == e
                    for cavity in end.cavities
                }
                for e in (one, two)
            )
            over |= {place: its[label] for label, place in mine.items()}
        for name, chain in made.chains.items():
            for side, place in ((0, chain.a), (1, chain.b)):
                if place in over:
                    self._move(made, name, side, over[place])
        made.truth.append(("crossed", frozenset(pair), ""))
        return True

    def _other_nets(self, pair: tuple[str, str]) -> bool:
        far = [
            sorted(
                str(self.root[(w.finish.end, w.finish.cavity) if w.start.end == end else (w.start.end, w.start.cavity)])
                for w in self.wires.values()
                if end in (w.start.end, w.finish.end)
            )
            for end in pair
        ]
        return far[0] != far[1]

    def _bent(self, made: Made, draw: random.Random) -> bool:
        """A pin that bent aside and lies against its neighbour: none of the kinds anybody listed."""
        if not (ends := self._ends(3)):
            return False
        end = draw.choice(ends)
        here = sorted({place for chain in made.chains.values() for place in (chain.a, chain.b) if place[0] == end})
        n = draw.randrange(len(here) - 1)
        made.loose[here[n]] = math.inf
        inner = next(chain for chain in made.chains.values() if here[n] in (chain.a, chain.b))
        made.strays.append((here[n + 1], inner.a if inner.b == here[n] else inner.b, draw.uniform(0.05, 3)))
        made.truth.append(("bent", frozenset([end]), ""))
        made.truth.append(("open", frozenset(name for name, chain in made.chains.items() if chain is inner), ""))
        return True


class Bench:
    """A meter of its own faults on a unit: offset, gain, digits, and a first reading that hasn't settled."""

    def __init__(self, shop: Workshop, made: Made, draw: random.Random, noise: float = 1.0) -> None:
        self.shop, self.made, self.draw, self.noise = shop, made, draw, noise
        self.gain = 1 + noise * draw.gauss(0, 0.0012)
        self.offset = noise * draw.gauss(0, 1e-5)
        self._known: dict[frozenset[str], _Solved] = {}

    def measure(self, probe: Probe) -> float:
        """What it shows, in ohms, infinite for nothing."""
        if probe.part:
            return self._millivolts(probe)
        if probe.kind in ("shake", "shake-two"):
            return max(self._once(probe) for _ in range(30))
        return self._once(probe)

    def _once(self, probe: Probe) -> float:
        gone = frozenset(
            name for name, chain in self.made.chains.items() if chain.open or self.draw.random() < chain.share
        )
        if probe.lift:
            gone |= {probe.lift}
        if gone not in self._known:
            self._known[gone] = _Solved(self.shop, self.made, gone)
        ohm = self._known[gone].between(self._led(probe.a), self._led(probe.b))
        if probe.kind == "insulation":
            return self._insulation(ohm)
        if len(probe.a) == len(probe.b) == 1:
            ohm += sum(self.made.loose.get(place, 0.0) for place in (*probe.a, *probe.b)) * self.draw.uniform(0.7, 1.5)
        if not ohm < 4.5e7:
            return math.inf
        settled = 1 + self.noise * abs(self.draw.gauss(0, 0.0006))
        read = ohm * self.gain * settled + self.offset + self.noise * self.draw.gauss(0, 8e-6)
        return max(float(f"{read:.4g}"), 0.0)

    def _led(self, places: Sequence[Place]) -> list[Place]:
        return [
            ("", "frame") if place == ("", "earth") else self.shop.root[place]
            for place in places
            if not (len(places) > 1 and math.isinf(self.made.loose.get(place, 0.0)))
        ]

    def _insulation(self, ohm: float) -> float:
        dry = 10 ** self.draw.gauss(9.3, 0.5 * self.noise)
        led = 1 / (1 / ohm + 1 / dry) if ohm else 0.0
        return min(led * (1 + self.noise * self.draw.gauss(0, 0.04)), 1e11) if led < 1e11 else math.inf

    def _millivolts(self, probe: Probe) -> float:
        chain = self.made.chains[probe.wire]
        if chain.open:
            return math.inf
        what, _, end = probe.part.partition("@")
        first = self.shop.wires[probe.wire].start.end == end
        at = (
            2
            if what == "along"
            else {("stud", True): 0, ("crimp", True): 1, ("crimp", False): 3, ("stud", False): 4}[what, first]
        )
        ohm = chain.parts[at] * (0.9 if chain.film == at else 1.0)  # a film gives way a little under the current
        shown_mv = 1e3 * ohm * probe.amps * (1 + self.noise * self.draw.gauss(0, 0.007)) + self.noise * self.draw.gauss(
            0, 0.015
        )
        return max(round(shown_mv, 2), 0.0) / 1e3 / probe.amps


class _Solved:
    """The unit's metal as one network, factorised: nodes are places, ends of chains' parts, and where wires touch."""

    def __init__(self, shop: Workshop, made: Made, gone: frozenset[str]) -> None:
        self.number: dict[object, int] = {("", "frame"): 0}
        rows: list[tuple[int, int, float]] = []
        touched = {
            name: (share, n)
            for n, (one, x, two, y, _) in enumerate(made.touching)
            for name, share in ((one, x), (two, y))
        }
        for name, chain in made.chains.items():
            if name in gone and name not in touched:
                continue
            a, b = self._node(shop.root[chain.a]), self._node(shop.root[chain.b])
            whole = max(sum(chain.parts), 1e-6)
            if name in touched:
                middle = self._node(("touch", name))
                rows += [(a, middle, whole * touched[name][0]), (middle, b, whole * (1 - touched[name][0]))]
            else:
                rows.append((a, b, whole))
        rows += [(self._node(("touch", one)), self._node(("touch", two)), ohm) for one, _, two, _, ohm in made.touching]
        rows += [(self._node(shop.root.get(a, a)), self._node(shop.root.get(b, b)), ohm) for a, b, ohm in made.strays]
        self.i, self.j = np.array([r[0] for r in rows]), np.array([r[1] for r in rows])
        self.g = 1 / np.array([r[2] for r in rows])

    def _node(self, place: object) -> int:
        return self.number.setdefault(place, len(self.number))

    def between(self, ones: list[Place], twos: list[Place]) -> float:
        """Ohms between two sets of places, each clipped together: one ampere in at the one, the other held at zero."""
        a, b = ([self.number[p] for p in side if p in self.number] for side in (ones, twos))
        if not a or not b:
            return math.inf
        if set(a) & set(b):
            return 0.0
        one = np.arange(len(self.number))
        one[a], one[b] = a[0], b[0]
        i, j = one[self.i], one[self.j]
        n = len(one)
        _, island = connected_components(csc_matrix((self.g, (i, j)), shape=(n, n)), directed=False)
        if island[a[0]] != island[b[0]]:
            return math.inf
        inside = np.flatnonzero((island == island[b[0]]) & (one == np.arange(n)) & (np.arange(n) != b[0]))
        row = np.full(n, -1)
        row[inside] = np.arange(len(inside))
        whole = np.zeros((len(inside), len(inside)))
        here = (island[i] == island[b[0]]) & (i != j)
        for x, y, g in zip(row[i[here]], row[j[here]], self.g[here], strict=True):
            for p, q in ((x, y), (y, x)):
                if p >= 0:
                    whole[p, p] += g
                    if q >= 0:
                        whole[p, q] -= g
        sent = np.zeros(len(inside))
        sent[row[a[0]]] = 1.0
        return float(np.linalg.solve(whole, sent)[row[a[0]]])
