"""A cable nobody knows: its map from the fewest group readings, shorts, splits and diodes among them.

First what is joined at the one end, then at the other, by the bits of the cavities' numbers; what is joined counts as one. Then each group of the one
end is looked for among those of the other still unclaimed, by halving, both ways round where a diode may be.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from umber_trunk.core.prove.clipping import find_joined

Place = tuple[str, str]
"""("A" or "B", cavity): a place at one of the two ends."""
Leads = Callable[[Sequence[Place], Sequence[Place]], bool]
"""Whether current goes from the places on the plus lead to those on the minus lead."""


@dataclass
class Map:
    """What was learned. `nets` are places joined by metal, `diodes` (plus side, minus side) nets that lead one way only; `readings` and the
    fewest any plan could do with, by the number of maps there can be."""

    nets: list[tuple[Place, ...]] = field(default_factory=list)
    diodes: list[tuple[int, int]] = field(default_factory=list)
    alone: list[Place] = field(default_factory=list)
    readings: int = 0
    bound: int = 0


def learn(ends: tuple[Sequence[str], Sequence[str]], leads: Leads, diodes: bool = True) -> Map:
    """The map of a cable with these cavities at its ends; `diodes`: look the other way round too."""
    found = Map()

    def asked(plus: Sequence[Place], minus: Sequence[Place]) -> bool:
        found.readings += 1
        return leads(plus, minus)

    def both(plus: Sequence[Place], minus: Sequence[Place]) -> bool:
        return asked(plus, minus) and (not diodes or asked(minus, plus))

    sides: list[list[list[Place]]] = []
    for mark, cavities in zip("AB", ends, strict=True):
        places = [(mark, cavity) for cavity in cavities]

        def inside_leads(a: tuple[int, ...], b: tuple[int, ...], places: list[Place] = places) -> bool:
            return both([places[i] for i in a], [places[i] for i in b])

        joined = find_joined(len(places), inside_leads).groups
        joined = [
            g for g in joined if not diodes or all(both([places[g[0]]], [places[i]]) for i in g[1:])
        ]  # two diodes can look like a joint
        inside = {i for group in joined for i in group}
        sides.append(
            [[places[i] for i in group] for group in joined]
            + [[place] for i, place in enumerate(places) if i not in inside]
        )
    left, right = sides
    free = list(range(len(right)))
    nets: list[list[Place]] = []
    for group in left:
        mine, rest = list(group), list(free)
        while rest and asked(group[:1], [right[k][0] for k in rest]):
            some = rest
            while len(some) > 1:  # one way round is enough to find it; the other tells metal from a diode
                half = some[: len(some) // 2]
                some = half if asked(group[:1], [right[k][0] for k in half]) else some[len(some) // 2 :]
            there = some[0]
            rest.remove(there)
            if not diodes or asked(right[there][:1], group[:1]):
                mine += right[there]
                free.remove(there)
                break  # a group of the one end is one group of the other, all its splits in it
        nets.append(mine)
    nets += [right[n] for n in free]
    if diodes:
        found.diodes = _one_way(nets, asked)
    linked = {n for pair in found.diodes for n in pair}
    order = [n for n in range(len(nets)) if len(nets[n]) > 1 or n in linked]
    place = {n: at for at, n in enumerate(order)}
    found.nets = [tuple(sorted(nets[n])) for n in order]
    found.diodes = sorted((place[a], place[b]) for a, b in found.diodes)
    found.alone = sorted(net[0] for n, net in enumerate(nets) if n not in place)
    few, many = sorted((len(ends[0]), len(ends[1])))
    found.bound = math.ceil(math.log2(math.perm(many, few))) if few else 0
    return found


def _one_way(
    nets: list[list[Place]], asked: Callable[[Sequence[Place], Sequence[Place]], bool]
) -> list[tuple[int, int]]:
    """Nets that lead to one another one way round: by the bits of their numbers whether there are any, then each against all others
    together, and by halving."""

    def split(bit: int, one: bool) -> list[Place]:
        return [net[0] for n, net in enumerate(nets) if bool(n >> bit & 1) is one]

    bits = range(len(nets).bit_length())
    if not any(
        asked(split(bit, one), split(bit, not one))
        for bit in bits
        for one in (False, True)
        if split(bit, one) and split(bit, not one)
    ):
        return []
    found = []
    for n, net in enumerate(nets):
        todo = [[k for k in range(len(nets)) if k != n]]
        while todo:
            some = todo.pop()
            if not some or not asked(net[:1], [nets[k][0] for k in some]):
                continue
            if len(some) == 1:
                found.append((n, some[0]))
            else:
                todo += [some[: len(some) // 2], some[len(some) // 2 :]]
    return found


def compared(found: Map, wanted: Sequence[tuple[Place, ...]]) -> list[str]:
    """How a map differs from a design's nets, in words; none where it doesn't."""
    mine, theirs = {frozenset(net) for net in found.nets}, {frozenset(net) for net in wanted if len(net) > 1}
    rows = [f"{_said(net)} should be joined and aren’t all" for net in sorted(theirs - mine, key=sorted)]
    rows += [f"{_said(net)} are joined and shouldn’t be so" for net in sorted(mine - theirs, key=sorted)]
    return rows


def _said(net: frozenset[Place]) -> str:
    return ", ".join(f"{mark} {cavity}" for mark, cavity in sorted(net))
