"""What lies on a board as it is laid: the box round it, how near limbs come to one another."""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.board.asked import Asked
from umber_trunk.core.board.grid import Box, Spot
from umber_trunk.core.board.grown import AHEAD, Grown
from umber_trunk.core.board.limbs import Tip

LOOK_MM, FORK_ROOM_MM = 8.0, 110.0
"""How close together places along limbs are looked at, and how far from a fork limbs may be close."""


def tip_outline(tip: Tip, at: Spot, way: Spot) -> tuple[Spot, Spot, Spot, Spot]:
    """The corners of what lies at a limb's end, from its right foot on, in order round it."""
    half = tip.wide_mm / 2
    right, left, far_left, far_right = (
        (at[0] + way[0] * far - way[1] * off, at[1] + way[1] * far + way[0] * off)
        for far, off in ((0.0, -half), (0.0, half), (tip.deep_mm, half), (tip.deep_mm, -half))
    )
    return right, far_right, far_left, left


def extent_of(
    grown: Grown,
    tips: Mapping[str, Tip],
    cards: Mapping[str, Box],
    wide_mm: Mapping[str, float] = MappingProxyType({}),
) -> Box:
    """The box round all that lies: limbs, as thick as `wide_mm` says by segment, what lies at their ends, reels,
    cards."""
    halves = {name: wide_mm.get(name, 0.0) / 2 for name in grown.lines}
    boxes = (
        [
            (x - halves[name], y - halves[name], x + halves[name], y + halves[name])
            for name, line in grown.lines.items()
            for x, y in line
        ]
        + [(x, y, x, y) for x, y in grown.spots.values()]
        + list(cards.values())
    )
    boxes += [
        (r.at[0] - r.radius_mm, r.at[1] - r.radius_mm, r.at[0] + r.radius_mm, r.at[1] + r.radius_mm)
        for r in grown.reels.values()
    ]
    for point, tip in tips.items():
        if point in grown.spots:
            boxes += [(u, v, u, v) for u, v in tip_outline(tip, grown.spots[point], grown.ways.get(point, AHEAD))]
    return (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))


def nearest_mm(grown: Grown, gap: float, asked: Asked) -> float:
    """The least clear space between two limbs away from where limbs part; the gap at most. Looked at once more, by
    places along them."""
    limbs: dict[Spot, int] = {}
    for line in grown.lines.values():
        for end in (line[0], line[-1]):
            limbs[end] = limbs.get(end, 0) + 1
    spots: list[Spot] = []
    owner: list[int] = []
    halves: list[float] = []
    for number, (name, line) in enumerate(grown.lines.items()):
        for a, b in pairwise(line):
            many = max(int(math.dist(a, b) / LOOK_MM), 1)
            spots += [(a[0] + (b[0] - a[0]) * t / many, a[1] + (b[1] - a[1]) * t / many) for t in range(many + 1)]
            owner += [number] * (many + 1)
            halves += [asked.half(name)] * (many + 1)
    forks = [spot for spot, many in limbs.items() if many > 1]
    places, names, half = np.array(spots).reshape(-1, 2), np.array(owner), np.array(halves)
    if forks and len(places):
        away = np.min([np.hypot(*(places - fork).T) for fork in np.array(forks)], axis=0) > FORK_ROOM_MM
        places, names, half = places[away], names[away], half[away]
    if len(places) < 2:
        return gap
    one, two = _neighbours(places, gap + 2 * float(half.max()))
    apart = names[one] != names[two]
    one, two = one[apart], two[apart]
    if not len(one):
        return gap
    clear = np.hypot(*(places[one] - places[two]).T) - half[one] - half[two]
    return min(gap, max(math.floor(float(clear.min()) + 0.6), 0.0))


def _neighbours(places: NDArray[np.float64], reach: float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Pairs of places (n, 2) no further apart than `reach`: in strips as wide as that, each place looks up its own
    strip and along the next one, so that a board is never compared whole with itself."""
    strip = np.floor(places[:, 0] / reach)
    order = np.lexsort((places[:, 1], strip))
    low, high = places[:, 1].min(), places[:, 1].max()
    span = high - low + 3 * reach  # strips end to end in one row, too far apart to be in reach across
    row = strip[order] * span + places[order, 1] - low
    here = np.arange(len(row))
    first = np.concatenate([here + 1, np.searchsorted(row, row + span - reach)])
    many = np.concatenate(
        [np.searchsorted(row, row + reach, "right"), np.searchsorted(row, row + span + reach, "right")]
    )
    many -= first
    one = np.repeat(np.concatenate([here, here]), many)
    two = np.repeat(first, many) + np.arange(len(one)) - np.repeat(np.cumsum(many) - many, many)
    a, b = order[one], order[two]
    near = np.hypot(*(places[a] - places[b]).T) <= reach
    return a[near], b[near]
