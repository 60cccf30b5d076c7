"""What stays where it lies: a board that is screwed together isn't laid anew since a length changed.

A limb that is pinned keeps its line. Where its length changed, its last piece is longer or shorter by that, and what
hangs beyond it is moved along; what isn't pinned is laid into what is free round it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING

from umber_trunk.core.board.grid import Spot
from umber_trunk.core.board.grown import Grown
from umber_trunk.core.board.limbs import Branch, Laid, Reel
from umber_trunk.core.harness.index import Index
from umber_trunk.core.harness.way import Pinned, Wound
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.core.board.fold import Folded

SAME_MM = 0.05
"""A limb that is drawn so much longer or shorter than it is still fits where it was kept."""
MOVED_MM = 1.0
"""A limb whose pegs have to be set anew by more than this is said to be moved."""


@dataclass(frozen=True)
class Kept:
    """What is kept: where it lies now, where it lay, pins that nothing is left of."""

    grown: Grown = field(default_factory=Grown)
    was: Mapping[str, Sequence[Spot]] = field(default_factory=dict)
    gone: tuple[str, ...] = ()

    def moved_in(self, lines: Mapping[str, Sequence[Spot]]) -> dict[str, list[Spot]]:
        """Segment → where it lay, of those that lie elsewhere now."""
        return {
            name: list(old) for name, old in self.was.items() if name in lines and _apart(old, lines[name]) > MOVED_MM
        }

    def told(self, lines: Mapping[str, Sequence[Spot]]) -> tuple[str, ...]:
        """What changed on the board that is screwed together."""
        if not self.was and not self.gone:
            return ()
        moved = {name: _apart(old, lines[name]) for name, old in self.was.items() if name in lines}
        rows = [say("board.by", name=name, mm=far) for name, far in moved.items() if far > MOVED_MM]
        new = [name for name in lines if name not in self.was]
        found = []
        if rows:
            found.append(say("board.moved", rows=", ".join(rows)))
        if new and self.was:
            found.append(say("board.laid-round", names=", ".join(new)))
        if self.gone:
            found.append(say("board.gone", names=", ".join(self.gone)))
        return tuple(found)


NOTHING_KEPT = Kept()


def keep_pins(index: Index, pins: Sequence[Pinned], rooted: Callable[[str], list[Branch]]) -> Kept:
    """Pinned limbs laid as they lay, tree by tree from each one's first pin on; one that hangs on something that isn't
    pinned is laid anew."""
    here = {pin.segment: pin for pin in pins if pin.segment in index.segments and pin.segment not in index.loops}
    gone = tuple(pin.segment for pin in pins if pin.segment not in index.segments)
    grown = Grown()
    for name, pin in here.items():
        root = index.segments[name].a
        if name in grown.lines or root in grown.spots:
            continue
        order = rooted(root)
        if any(one.segment in grown.lines for one in order):
            continue  # the tree is begun from another pin
        grown.spots[root] = pin.spots[0]
        for one in order:
            if one.segment in here and one.start in grown.spots:
                _lay(grown, one, here[one.segment], index)
        first = next((one for one in order if one.segment in grown.lines), None)
        if first is not None:
            a, b = grown.lines[first.segment][:2]
            far = math.dist(a, b) or 1.0
            grown.ways.setdefault(root, ((a[0] - b[0]) / far, (a[1] - b[1]) / far))
    return Kept(grown, {name: pin.spots for name, pin in here.items()}, gone)


def _lay(grown: Grown, one: Branch, pin: Pinned, index: Index) -> None:
    """One pinned limb from where it hangs now, as long as it is now."""
    line = list(pin.spots) if index.segments[one.segment].a == one.start else list(pin.spots[::-1])
    start = grown.spots[one.start]
    dx, dy = start[0] - line[0][0], start[1] - line[0][1]
    line = [(x + dx, y + dy) for x, y in line]
    reel = pin.wound and Reel(
        (pin.wound.x_mm + dx, pin.wound.y_mm + dy), pin.wound.radius_mm, pin.wound.turns, pin.wound.from_mm
    )
    line = as_long(line, one.long_mm - (reel.long_mm if reel else 0.0))
    (ax, ay), (bx, by) = line[-2], line[-1]
    far = math.dist(line[-2], line[-1]) or 1.0
    grown.put(
        one, Laid(tuple(line), tuple(_corners(line)), ((bx - ax) / far, (by - ay) / far), (), reel or None), one.half_mm
    )


def as_long(line: Sequence[Spot], long: float) -> list[Spot]:
    """A line cut off at its end, or with a longer last piece, so that it is so long."""
    have = sum(math.dist(a, b) for a, b in pairwise(line))
    made = list(line)
    if abs(have - long) <= SAME_MM:
        return made
    long = max(long, 1.0)
    while len(made) > 2 and have - math.dist(made[-2], made[-1]) >= long:
        have -= math.dist(made[-2], made[-1])
        made.pop()
    (ax, ay), (bx, by) = made[-2], made[-1]
    step = math.dist(made[-2], made[-1])
    rest = long - (have - step)
    way = ((bx - ax) / step, (by - ay) / step) if step > 1e-9 else (1.0, 0.0)
    made[-1] = (ax + way[0] * rest, ay + way[1] * rest)
    return made


def _corners(line: Sequence[Spot]) -> list[Spot]:
    """Where a line turns by a quarter or more within a few pieces: the middles of its arcs."""
    found, turned, begun = list[Spot](), 0.0, 0
    for at in range(1, len(line) - 1):
        (ax, ay), (bx, by), (cx, cy) = line[at - 1], line[at], line[at + 1]
        angle = math.atan2((bx - ax) * (cy - by) - (by - ay) * (cx - bx), (bx - ax) * (cx - bx) + (by - ay) * (cy - by))
        if abs(angle) < 1e-3:
            turned = 0.0
            continue
        begun = at if turned == 0.0 else begun
        turned += angle
        if abs(turned) > math.radians(80):
            found.append(line[(begun + at) // 2])
            turned = 0.0
    return found


def _apart(one: Sequence[Spot], other: Sequence[Spot]) -> float:
    """How far the corners of two lines are apart, at most."""
    if len(one) != len(other):
        return max(math.dist(one[0], other[0]), math.dist(one[-1], other[-1]), 2 * MOVED_MM)
    return max(math.dist(a, b) for a, b in zip(one, other, strict=True))


def pins_of(laid: Folded) -> tuple[Pinned, ...]:
    """Every limb of a board, to be kept where it lies."""
    return tuple(pin_of(laid, name) for name in laid.lines)


def pin_of(laid: Folded, name: str) -> Pinned:
    """One limb of a board, to be kept where it lies, in hundredths of a millimetre."""
    reel = laid.reels.get(name)
    wound = reel and Wound(
        x_mm=round(reel.at[0], 2),
        y_mm=round(reel.at[1], 2),
        radius_mm=reel.radius_mm,
        turns=reel.turns,
        from_mm=reel.from_mm,
    )
    return Pinned(
        segment=name, spots=tuple((round(x, 2), round(y, 2)) for x, y in laid.lines[name]), wound=wound or None
    )
