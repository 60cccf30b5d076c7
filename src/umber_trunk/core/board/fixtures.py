"""What is screwed to the board, and what stands at its ends: forks with angles, posts, clips; outlines at tips."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from umber_trunk.core.board.along_limbs import label_flag
from umber_trunk.core.board.draft import Draft, Peg, along_line
from umber_trunk.core.board.lying import tip_outline
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness.model import Fitting
from umber_trunk.core.strokes import Line, Ring

FORK_MM, POST_MM, CLIP_MM = 7.0, 4.0, 3.0
"""Diameters of the marks for a fork, a post, a clip."""
MOST_POSTS = 300
"""Folds of one limb beyond which nobody would set its posts."""


def fixtures(draft: Draft, along: dict[str, float]) -> None:
    """Forks at breakouts with the angles of what leaves there, posts where a limb turns, clips along it."""
    for point, at in draft.laid.spots.items():
        limbs = [segment for segment, _ in draft.index.neighbours[point] if segment in draft.laid.lines]
        if len(limbs) > 2:
            draft.peg(
                "fork", draft.index.point_name(point), at, along.get(point), FORK_MM, _angles(draft, point, limbs)
            )
    turns: dict[str, int] = {}
    for segment, _ in draft.laid.corners:
        turns[segment] = turns.get(segment, 0) + 1
    counted: dict[str, int] = {}
    for segment, spot in draft.laid.corners:
        counted[segment] = counted.get(segment, 0) + 1
        if turns[segment] <= MOST_POSTS:
            draft.peg("post", f"{segment}.{counted[segment]}", spot, None, POST_MM)
    clip = draft.laid.board.clip_mm
    for segment, line in draft.laid.lines.items():
        whole = sum(math.dist(a, b) for a, b in pairwise(line))
        for number in range(1, min(int(whole / clip) + 1, 400)):
            if 40.0 < number * clip < whole - 40.0:
                spot = along_line(line, number * clip)
                draft.shapes.append(Ring("fixtures", spot, CLIP_MM, f"clip {segment} at {number * clip:.0f}"))
                draft.pegs.append(Peg("clip", f"{segment} at {number * clip:.0f}", *spot, None))


def _angles(draft: Draft, point: str, limbs: Sequence[str]) -> str:
    """At which angle each limb leaves a fork, against the limb that comes to it."""
    back = draft.laid.ways.get(point, (1.0, 0.0))
    told = []
    for segment in limbs:
        line = draft.laid.lines[segment]
        line = line if math.dist(line[0], draft.laid.spots[point]) < 1e-6 else line[::-1]
        onward = next((spot for spot in line[1:] if math.dist(spot, line[0]) > 8.0), line[-1])
        way = (onward[0] - line[0][0], onward[1] - line[0][1])
        angle = math.degrees(math.atan2(way[1], way[0]) - math.atan2(back[1], back[0]))
        angle = (angle + 180.0) % 360.0 - 180.0
        if abs(abs(angle) - 180.0) > 1.0 and abs(angle) > 1.0:
            told.append(f"{segment} {angle:+.0f}°")
    return ", ".join(told)


def end_outlines(draft: Draft) -> None:
    """Outlines at tips, in the direction their limb ends in, and the marks of labels."""
    for point, tip in draft.laid.tips.items():
        at, way = draft.laid.spots.get(point), draft.laid.ways.get(point, (1.0, 0.0))
        if at is None:
            continue
        names = ", ".join(end.id for end in draft.index.ends_at.get(point, ()))
        draft.pegs.append(Peg("end", draft.index.point_name(point), at[0], at[1], None))
        if len(draft.index.neighbours[point]) > 1:
            draft.shapes.append(Ring("ends", at, min(tip.wide_mm, 24.0) / 2, names))
            continue
        draft.shapes.append(Line("ends", tip_outline(tip, at, way), 0.4, names, True))
        clock = next(
            (
                fit.clock_deg
                for end in draft.index.ends_at.get(point, ())
                for fit in _lugs(draft, end.id)
                if fit.clock_deg
            ),
            None,
        )
        if clock is not None:  # how its lug is turned about the wire, 0 up
            middle = (at[0] + way[0] * tip.deep_mm / 2, at[1] + way[1] * tip.deep_mm / 2)
            hand = (
                middle[0] + 7.0 * math.sin(math.radians(clock)),
                middle[1] + 7.0 * math.cos(math.radians(clock)),
            )
            draft.shapes += [
                Ring("ends", middle, 7.0, "clock"),
                Line("ends", (middle, hand), 0.6, f"clock {clock:g}"),
            ]
    for point in draft.laid.tips:
        for segment, _ in draft.index.neighbours.get(point, ()):
            label_flag(draft, segment, point)


def _lugs(draft: Draft, end: str) -> list[Fitting]:
    """The fittings of an end's lugs."""
    known = draft.results.once(fitted)
    return [
        known.of(one)
        for one in places_of(draft.design, draft.results.shelf).ends
        if one.end.id == end and one.made == "lug"
    ]
