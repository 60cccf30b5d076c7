"""An inferred trunk laid out in the plane: equal angles (J. Felsenstein 2004).

Each branch gets an angle by the number of ends in it, so that no two segments cross; lengths are to scale.
"""

from __future__ import annotations

import math

from umber_trunk.core.lengths.infer import Inferred


def equal_angles(found: Inferred) -> dict[str, tuple[float, float]]:
    """point → place [m]; parts of the list that nothing joins stand side by side."""
    near: dict[str, list[tuple[str, float]]] = {point: [] for point in found.points}
    for one in found.segments:
        near[one.a].append((one.b, one.length_m))
        near[one.b].append((one.a, one.length_m))
    spots: dict[str, tuple[float, float]] = {}
    left = 0.0
    for start in found.points:
        if start in spots:
            continue
        order, above = [start], {start: ""}
        for here in order:
            for other, _ in near[here]:
                if other not in above:
                    above[other] = here
                    order.append(other)
        tips = dict.fromkeys(order, 0)
        for here in reversed(order):
            tips[here] = max(tips[here], 1)
            if above[here]:
                tips[above[here]] += tips[here]
        placed, turned = {start: (0.0, 0.0)}, {start: 0.0}
        for here in order:
            wide = 2 * math.pi / tips[start]
            angle = turned[here]
            for other, long in near[here]:
                if above[other] != here:
                    continue
                middle = angle + 0.5 * wide * tips[other]
                placed[other] = (placed[here][0] + long * math.cos(middle), placed[here][1] + long * math.sin(middle))
                turned[other] = angle
                angle += wide * tips[other]
        first = min(x for x, _ in placed.values())
        spots |= {point: (x - first + left, y) for point, (x, y) in placed.items()}
        left = max(x for x, _ in spots.values()) + 0.3
    return spots
