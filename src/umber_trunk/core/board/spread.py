"""A layout that always exists: every limb straight, each branch in a wedge of its own, on as large a board as that
takes.

From the point that halves the leaves every branch gets a share of the full turn by its leaves, and each segment goes
along the middle of its wedge. A wedge of half a turn or less holds all that starts inside it, so that no two limbs meet
(the equal-angle drawing of trees, C. Meacham, in J. Felsenstein, Inferring Phylogenies, 2004).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from umber_trunk.core.board.grid import Spot
from umber_trunk.core.board.grown import Grown
from umber_trunk.core.board.limbs import Branch


def spread(branches: Sequence[Branch], at: Spot) -> Grown:
    """All segments of one tree, straight, its middle at a place."""
    grown = Grown()
    near: dict[str, list[tuple[Branch, str]]] = {}
    for one in branches:
        near.setdefault(one.start, []).append((one, one.end))
        near.setdefault(one.end, []).append((one, one.start))
    if not near:
        return grown
    root, leaves = _middle(near, branches[0].start)
    grown.spots[root], grown.ways[root] = at, (1.0, 0.0)
    queue: list[tuple[str, str, float, float]] = [(root, "", 0.0, 2 * math.pi)]
    for here, before, low, wide in queue:
        onward = [(one, other) for one, other in near[here] if other != before]
        whole = sum(leaves[here, other] for _, other in onward)
        for one, other in onward:
            share = wide * leaves[here, other] / whole
            angle = low + share / 2
            way = (math.cos(angle), math.sin(angle))
            start = grown.spots[here]
            end = (start[0] + way[0] * one.long_mm, start[1] + way[1] * one.long_mm)
            grown.spots[other], grown.ways[other], grown.lines[one.segment] = end, way, [start, end]
            queue.append((other, here, low, share))
            low += share
    return grown


def _middle(near: dict[str, list[tuple[Branch, str]]], start: str) -> tuple[str, dict[tuple[str, str], int]]:
    """(the point beside which no branch has more than half of the leaves, leaves beyond each (point, neighbour))."""
    order, before = [start], {start: ""}
    for here in order:
        for _, other in near[here]:
            if other not in before:
                before[other] = here
                order.append(other)
    down: dict[str, int] = {}
    for here in reversed(order):
        down[here] = sum(down[other] for _, other in near[here] if before[other] == here) or 1
    whole = down[start] + (len(near[start]) == 1)
    leaves: dict[tuple[str, str], int] = {}
    for here in order:
        for _, other in near[here]:
            leaves[here, other] = down[other] if before[other] == here else max(whole - down[here], 1)
    root = min(order, key=lambda here: (max(leaves[here, other] for _, other in near[here]), order.index(here)))
    return root, leaves
