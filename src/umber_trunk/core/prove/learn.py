"""A cable nobody knows: its map from the fewest readings, splits, shorts and the parts across its nets among them.

Each place of the one end is looked for among those of the other still unclaimed, by halving: who leads to half of them
leads to one of that half. Then one reading a digit of the nets' numbers, both ways round, shows whether anything else
leads; where it does, halving finds between which two. What leads by less than `METAL_OHM` is metal, more is a part: one
way a diode, both ways a lamp, a coil or a resistor.

    A1 ───── B3        net 1, its number 0 0          digit 1: nets 1, 3 against 2, 4
    A2 ──┬── B1        net 2, its number 0 1          digit 2: nets 1, 2 against 3, 4
         └─⊗── A3      a lamp from net 2 to net 3
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from umber_trunk.core.sentences import say

Place = tuple[str, str]
"""("A" or "B", cavity): a place at one of the two ends."""
Ohms = Callable[[Sequence[Place], Sequence[Place]], float]
"""What an ohmmeter reads from the places on the plus lead to those on the minus lead, infinite for nothing."""
METAL_OHM, SURE_OHM = 3.0, 0.5
"""What leads by less is metal; between the two it is read alone, since many parts side by side read like it."""
PART_OHM = 1e6
"""What reads more than this is no part between two pins: it is apart."""
ALIKE, THROUGH = 0.2, 0.1
"""Both ways round within such a share a part is no diode; a reading within such a share of other parts in a row is
theirs."""


@dataclass(frozen=True)
class Part:
    """What leads between two nets (by number) otherwise than metal: ohms from the first to the second and back, and
    what it may be."""

    a: int
    b: int
    ohm: float
    back_ohm: float

    @property
    def one_way(self) -> bool:
        """Whether it leads from the first to the second alone."""
        return math.isinf(self.back_ohm)

    @property
    def told(self) -> str:
        """What it may be, with its doubt."""
        if self.one_way:
            return "a diode, or electronics that lead one way"
        if max(self.ohm, self.back_ohm) > (1 + ALIKE) * min(self.ohm, self.back_ohm):
            return "a part with a diode beside it, or electronics"
        if self.ohm < 30:
            return "a lamp, a small coil, or a long thin wire"
        return "a coil or a resistor" if self.ohm < 2000 else "a resistor, or dirt"


@dataclass
class Map:
    """What was learned. `nets` are places joined by metal, `parts` what leads between nets otherwise, `diodes` (plus
    side, minus side) those of them that lead one way only; `readings`, and the fewest that could find this map among
    all of its shape, on average."""

    nets: list[tuple[Place, ...]] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    alone: list[Place] = field(default_factory=list)
    readings: int = 0
    bound: int = 0

    @property
    def diodes(self) -> list[tuple[int, int]]:
        """(plus side, minus side) of parts that lead one way."""
        return [(part.a, part.b) for part in self.parts if part.one_way]


def learn(ends: tuple[Sequence[str], Sequence[str]], ohms: Ohms, parts: bool = True) -> Map:
    """The map of a cable with these cavities at its ends; `parts`: look both ways round for what isn't metal too."""
    found = _Learning(ohms, parts)
    here, there = ([(mark, cavity) for cavity in cavities] for mark, cavities in zip("AB", ends, strict=True))
    found.pair_up(here, there)
    found.look_between()
    return found.map(len(here), len(there))


class _Learning:
    def __init__(self, ohms: Ohms, parts: bool) -> None:
        self._ohms, self.parts = ohms, parts
        self.readings = 0
        self.nets: list[list[Place]] = []
        self._gone: set[int] = set()
        self.edges: dict[tuple[int, int], float] = {}
        """(net on plus, net on minus) → ohms, of nets that lead to one another."""

    def read(self, plus: Sequence[Place], minus: Sequence[Place]) -> float:
        self.readings += 1
        return self._ohms(plus, minus)

    def pair_up(self, here: Sequence[Place], there: Sequence[Place]) -> None:
        """Each place of the one end with the one of the other that it leads to by metal."""
        free = list(there)
        for place in here:
            mate = self._mate(place, free)
            if mate is not None:
                free.remove(mate)
            self.nets.append([place] if mate is None else [place, mate])
        self.nets += [[place] for place in free]

    def _mate(self, place: Place, free: list[Place]) -> Place | None:
        """Halving; that it is there at all is read only where every answer was no."""
        some, sure = list(free), False
        while len(some) > 1:
            half = some[: len(some) // 2]
            ohm = self.read([place], half)
            sure = ohm < SURE_OHM or (sure and ohm >= METAL_OHM)
            some = half if ohm < METAL_OHM else some[len(some) // 2 :]
        return some[0] if some and (sure or self.read([place], some) < METAL_OHM) else None

    def look_between(self) -> None:
        """Whatever else leads between nets, metal or a part."""
        most = PART_OHM if self.parts else METAL_OHM
        for bit in range((len(self.nets) - 1).bit_length()):
            ones = [n for n in range(len(self.nets)) if n >> bit & 1]
            zeros = [n for n in range(len(self.nets)) if not n >> bit & 1]
            for plus, minus in ((ones, zeros), (zeros, ones)) if self.parts else ((ones, zeros),):
                self._between(plus, minus, most)

    def _between(self, plus: list[int], minus: list[int], most: float) -> None:
        todo = [(plus, minus)]
        while todo:
            ones, twos = ([n for n in side if n not in self._gone] for side in todo.pop())
            if not ones or not twos:
                continue
            pair = next(((a, b) for a, b in self.edges if a in ones and b in twos), None)
            if pair is None:
                if self._led(ones, twos) >= most:
                    continue
                pair = self._one_pair(ones, twos, most)
                self.edges[pair] = self._led([pair[0]], [pair[1]])
                if self.edges[pair] < METAL_OHM:  # one net from here: what leads to the one leads to the other
                    self._gone.add(max(pair))
                    todo.append((ones, twos))
                    continue
                self.edges[pair[::-1]] = self._led([pair[1]], [pair[0]])
            todo += [([a for a in ones if a != pair[0]], twos), ([pair[0]], [b for b in twos if b != pair[1]])]

    def _one_pair(self, ones: list[int], twos: list[int], most: float) -> tuple[int, int]:
        """One net of each that lead to one another, known that some do."""
        while len(ones) > 1:
            half = ones[: len(ones) // 2]
            ones = half if self._led(half, twos) < most else ones[len(ones) // 2 :]
        while len(twos) > 1:
            half = twos[: len(twos) // 2]
            twos = half if self._led(ones, half) < most else twos[len(twos) // 2 :]
        return ones[0], twos[0]

    def _led(self, plus: Sequence[int], minus: Sequence[int]) -> float:
        return self.read([self.nets[n][0] for n in plus], [self.nets[n][0] for n in minus])

    def map(self, here: int, there: int) -> Map:
        """Nets that metal joins are one; a part that others in a row explain is none."""
        root = list(range(len(self.nets)))
        for (a, b), ohm in self.edges.items():
            if ohm < METAL_OHM:
                one, two = sorted((_root(root, a), _root(root, b)))
                root[two] = one
        joined: dict[int, list[Place]] = {}
        for n, places in enumerate(self.nets):
            joined.setdefault(_root(root, n), []).extend(places)
        ways: dict[tuple[int, int], float] = {}
        for (a, b), ohm in self.edges.items():
            pair = _root(root, a), _root(root, b)
            if METAL_OHM <= ohm < PART_OHM and pair[0] != pair[1]:
                ways[pair] = min(ways.get(pair, math.inf), ohm)
        own = {pair: ohm for pair, ohm in ways.items() if not _in_a_row(ways, pair)}
        pairs = sorted({(min(pair), max(pair)) for pair in own})
        order = [n for n in sorted(joined) if len(joined[n]) > 1 or any(n in pair for pair in pairs)]
        place = {n: at for at, n in enumerate(order)}
        made = []
        for a, b in pairs:
            way, back = own.get((a, b), math.inf), own.get((b, a), math.inf)
            a, b, way, back = (b, a, back, way) if math.isinf(way) else (a, b, way, back)
            made.append(Part(place[a], place[b], way, back))
        nets = [tuple(sorted(joined[n])) for n in order]
        alone = sorted(joined[n][0] for n in joined if n not in place)
        return Map(nets, made, alone, self.readings, _fewest(here, there, nets, made))


def _root(root: list[int], n: int) -> int:
    while root[n] != n:
        n = root[n]
    return n


def _in_a_row(ways: dict[tuple[int, int], float], pair: tuple[int, int]) -> bool:
    """Whether what leads from one net to another does so through others in between: it is as much as theirs
    together."""
    a, b = pair
    between = (ways[a, m] + ways[m, b] for m in {x for way in ways for x in way} if (a, m) in ways and (m, b) in ways)
    return any(abs(row - ways[pair]) < THROUGH * ways[pair] for row in between)


def _fewest(here: int, there: int, nets: Sequence[tuple[Place, ...]], parts: Sequence[Part]) -> int:
    """⌈log₂⌉ of how many cables of this shape there are: places put to it in every way, less those that come to the
    same."""
    touched: list[list[tuple[int, bool]]] = [[] for _ in nets]
    for number, part in enumerate(parts):
        touched[part.a].append((number, True))
        touched[part.b].append((number, False))
    shapes = Counter(
        (sum(m == "A" for m, _ in net), sum(m == "B" for m, _ in net), tuple(touched[n])) for n, net in enumerate(nets)
    )
    log = math.lgamma(here + 1) + math.lgamma(there + 1)
    placed = [0, 0]
    for (a, b, _), many in shapes.items():
        log -= math.lgamma(many + 1) + many * (math.lgamma(a + 1) + math.lgamma(b + 1))
        placed = [placed[0] + many * a, placed[1] + many * b]
    log -= math.lgamma(here - placed[0] + 1) + math.lgamma(there - placed[1] + 1)
    return math.ceil(log / math.log(2) - 1e-9)


def compared(found: Map, wanted: Sequence[tuple[Place, ...]]) -> list[str]:
    """How a map differs from a design's nets, in words; none where it doesn't."""
    mine, theirs = {frozenset(net) for net in found.nets}, {frozenset(net) for net in wanted if len(net) > 1}
    rows = [say("learn.should-be", net=_said(net)) for net in sorted(theirs - mine, key=sorted)]
    rows += [say("learn.should-not", net=_said(net)) for net in sorted(mine - theirs, key=sorted)]
    return rows


def _said(net: frozenset[Place]) -> str:
    return ", ".join(f"{mark} {cavity}" for mark, cavity in sorted(net))
