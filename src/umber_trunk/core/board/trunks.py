"""The trees of a harness: ways through each that can be its trunk, and what hangs beside.

a ═══●═════════●════════ b      The trunk is a way from leaf to leaf; every other segment hangs on it or on one that
     └── c     ├── d            does. A few of the longest ways are offered: which folds best, the search finds out.
               └── e
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from umber_trunk.core.board.limbs import LEAST_RADIUS_MM, NOTHING, Branch, Tip
from umber_trunk.core.harness.index import Index

LEAST_MM = 1e-3
"""Length of a limb that has none, so that ways can be compared."""
MOST_TRUNKS = 5
"""Other trunks than the longest way that are tried."""


@dataclass(frozen=True)
class Tree:
    """One tree: ways that can be its trunk, for each what lies at its beginning, and the segments beside it in an order
    in which each hangs on what is laid; `lone`: a point without segments."""

    trunks: list[list[Branch]]
    firsts: list[Tip]
    beside: list[list[Branch]]
    lone: str = ""

    @property
    def all(self) -> list[Branch]:
        """Every segment."""
        return [*self.trunks[0], *self.beside[0]]

    @property
    def points(self) -> set[str]:
        """Every point."""
        return {point for one in self.all for point in (one.start, one.end)} | ({self.lone} if self.lone else set())


def trees_in(
    index: Index, tips: Mapping[str, Tip], spine: Sequence[str], wide_mm: Mapping[str, float], bend_times: float
) -> list[Tree]:
    """Every tree of a harness, its `spine` (points) among its trunks; `wide_mm`: how thick limbs are, by segment; bent
    no tighter than `bend_times` that."""
    near = _near_in(index)
    found = []
    for root in [point for point, (_, segment, _) in index.parents.items() if not segment]:
        if not near[root]:
            if root in index.ends_at:
                found.append(Tree([[]], [tips.get(root, NOTHING)], [[]], root))
            continue
        ways = [_longest(index, near, root)]
        if len(spine) > 1 and spine[0] == root and list(spine) != ways[0]:
            ways.append(list(spine))
        ways += [way for way in _other_ways(index, near, ways[0]) if way not in ways][:MOST_TRUNKS]
        # what is wanted at an angle is no part of a trunk, if that can be
        ways = [
            way for way in ways if not any(index.segments[name].turn_deg is not None for name in _along_way(near, way))
        ] or ways
        made = [_branches(index, near, way, tips, wide_mm, bend_times) for way in ways]
        firsts = [tips.get(way[0], NOTHING) for way in ways]
        found.append(Tree([trunk for trunk, _ in made], firsts, [beside for _, beside in made]))
    return found


def rooted(
    index: Index, root: str, tips: Mapping[str, Tip], wide_mm: Mapping[str, float], bend_times: float
) -> list[Branch]:
    """All segments of the tree a point is in, each from the side that is nearer to it, in an order in which each hangs
    on those before."""
    return _branches(index, _near_in(index), [root], tips, wide_mm, bend_times)[1]


Near = dict[str, list[tuple[str, str]]]


def _near_in(index: Index) -> Near:
    """Point → what hangs on it: (segment, other point), of those that are laid."""
    used = {segment for _, segment, _ in index.parents.values() if segment}
    return {
        point: [(segment, other) for segment, other in others if segment in used]
        for point, others in index.neighbours.items()
    }


def _mm(index: Index, segment: str) -> float:
    return 1e3 * index.segments[segment].measure.length_m


def _far_from(index: Index, near: Near, start: str) -> dict[str, tuple[float, str]]:
    """Point → (mm from the start, the point before), nearer forks first."""
    far: dict[str, tuple[float, str]] = {start: (0.0, "")}
    order = [start]
    for here in order:
        for segment, other in near[here]:
            if other not in far:
                far[other] = (far[here][0] + _mm(index, segment), here)
                order.append(other)
    return far


def _way_to(far: Mapping[str, tuple[float, str]], point: str) -> list[str]:
    """The points from where distances were taken to one of them."""
    way = [point]
    while far[way[-1]][1]:
        way.append(far[way[-1]][1])
    return way[::-1]


def _longest(index: Index, near: Near, root: str) -> list[str]:
    """Points of the longest way through a tree, from the end nearer to its root."""

    def furthest(start: str) -> list[str]:
        far = _far_from(index, near, start)
        order = list(far)
        last = max(range(len(order)), key=lambda at: (far[order[at]][0], at))  # of equals the one most points on
        return _way_to(far, order[last])

    way = furthest(furthest(root)[-1])
    return way if index.parents[way[0]][2] <= index.parents[way[-1]][2] else way[::-1]


def _along_way(near: Near, way: Sequence[str]) -> list[str]:
    """The segments of a way."""
    return [next(name for name, other in near[a] if other == b) for a, b in pairwise(way)]


def _other_ways(index: Index, near: Near, longest: Sequence[str]) -> list[list[str]]:
    """Other ways from end to end that could be the trunk, the longest first: from both ends of the longest to every
    other, if they aren't short."""
    found: list[tuple[float, list[str]]] = []
    for start in (longest[0], longest[-1]):
        far = _far_from(index, near, start)
        for point in far:
            if len(near[point]) == 1 and point not in (longest[0], longest[-1]):
                found.append((far[point][0], _way_to(far, point)))
    most = max((long for long, _ in found), default=0.0)
    return [way for long, way in sorted(found, key=lambda one: (-one[0], one[1])) if long > 0.4 * most]


def _branches(
    index: Index,
    near: Near,
    way: Sequence[str],
    tips: Mapping[str, Tip],
    wide_mm: Mapping[str, float],
    bend_times: float,
) -> tuple[list[Branch], list[Branch]]:
    """(the trunk's segments in order, the others: what carries more before what carries less, leaves last)."""
    before: dict[str, tuple[str, str]] = {}
    order, seen = list(way), set(way)
    for here in order:
        for segment, other in near[here]:
            if other not in seen:
                seen.add(other)
                before[other] = (here, segment)
                order.append(other)
    weight = dict.fromkeys(order, 0.0)
    for point in reversed(order):
        if point in before:
            start, segment = before[point]
            weight[start] += weight[point] + max(
                _mm(index, segment), LEAST_MM
            )  # what carries anything weighs something

    def branch(segment: str, start: str, end: str, carried: float) -> Branch:
        part = index.segments[segment]
        return Branch(
            segment,
            start,
            end,
            _mm(index, segment),
            carried,
            part.turn_deg,
            tips.get(end, NOTHING),
            wide_mm.get(segment, 0.0) / 2,
            max(LEAST_RADIUS_MM, bend_times * wide_mm.get(segment, 0.0)),
        )

    trunk = []
    for segment, (here, onward) in zip(_along_way(near, way), pairwise(way), strict=True):
        trunk.append(branch(segment, here, onward, max(weight[onward], 1.0)))
    beside = [branch(before[point][1], before[point][0], point, weight[point]) for point in order if point in before]
    return trunk, beside
