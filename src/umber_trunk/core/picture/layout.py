"""Where the trunk picture puts every point: a drawing by rule, not to scale, that never overlaps itself.

The spine, the way that carries most wires, lies level from the supply on the left. Branches hang above
or below it; every leaf gets its own slot along the outer edge, so labels can't collide. The builder's
wishes (`Point.side`, `Point.lean`) move whole branches.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design

SLOT = 1.0
STEP = 0.55


@dataclass(frozen=True)
class Tag:
    """A label for the ends at one point: at (x, y), on side −1 (above), +1 (below) or 0 (on the spine)."""

    point: str
    ends: tuple[str, ...]
    x: float
    y: float
    side: int


@dataclass(frozen=True)
class Stray:
    """Wires between two ends that aren't laid yet: drawn as one straight run."""

    a: str
    b: str
    wires: tuple[str, ...]
    length_m: float


@dataclass(frozen=True)
class Layout:
    """Positions in slots across and −1…1 up and down. `branch_of`: point → first point of its branch."""

    at: dict[str, tuple[float, float]]
    tags: tuple[Tag, ...]
    strays: tuple[Stray, ...]
    width: float
    spine: tuple[str, ...]
    branch_of: dict[str, str]


@dataclass
class _Limb:
    """A subtree off the spine: its width in slots and children."""

    point: str
    children: list[_Limb] = field(default_factory=list)
    own_slot: bool = False

    @property
    def width(self) -> float:
        return max(sum(child.width for child in self.children) + SLOT * self.own_slot, SLOT)

    @property
    def depth(self) -> int:
        return 1 + max((child.depth for child in self.children), default=0)


class _Drawing:
    def __init__(self, index: Index) -> None:
        self.index = index
        self.children: dict[str, list[str]] = {point: [] for point in index.parents}
        self.load: dict[str, int] = dict.fromkeys(index.parents, 0)
        for point, (parent, segment, _) in index.parents.items():
            if segment:
                self.children[parent].append(point)
                self.load[point] = len(index.contents[segment])
        self.at: dict[str, tuple[float, float]] = {}
        self.tags: list[Tag] = []
        self.branch_of: dict[str, str] = {}
        self.cursor = {-1: 0.0, 1: 0.0}

    def spine(self, root: str) -> list[str]:
        """From the root along the child with most wires, then most points below it."""
        way = [root]
        while self.children[way[-1]]:
            way.append(
                max(
                    self.children[way[-1]],
                    key=lambda p: (self._below(p) > 0, self.load[p], self._below(p)),
                )
            )
        return way

    def _below(self, point: str) -> int:
        return sum(1 + self._below(child) for child in self.children[point])

    def limb(self, point: str, top: str) -> _Limb:
        self.branch_of[point] = top
        limb = _Limb(point, [self.limb(child, top) for child in self.children[point]])
        limb.own_slot = bool(limb.children) and point in self.index.ends_at
        return limb

    def draw(self, root: str, left: float) -> float:
        """Places the tree of `root`, no part of it left of `left`; returns its right edge."""
        spine = self.spine(root)
        tagged = root in self.index.ends_at and len(spine) > 1
        x = left + SLOT / 2
        self.cursor = dict.fromkeys((-1, 1), left + SLOT * tagged)
        for number, point in enumerate(spine):
            onward = spine[number + 1] if number + 1 < len(spine) else ""
            limbs = [self.limb(child, child) for child in self.children[point] if child != onward]
            inner = 0 < number < len(spine) - 1
            sides = self._sides(limbs, point if inner and point in self.index.ends_at else None)
            widths = {side: sum(w for _, w in members) for side, members in sides.items()}
            least = x + (STEP if number else 0.0)
            x = max(least, *(self.cursor[s] + widths[s] / 2 for s in (-1, 1) if widths[s]), least)
            self.at[point] = (x, 0.0)
            for side, members in sides.items():
                at = x - widths[side] / 2
                for limb, width in members:
                    if limb is None:
                        self._tag(point, at + width / 2, 0.62 * side, side)
                    else:
                        self._hang(limb, at, side, 1, limb.depth)
                    at += width
                if members:
                    self.cursor[side] = at
            if not inner and point in self.index.ends_at:
                self._tag(point, x, 0.0, 0)
        return max(self.cursor[-1], self.cursor[1], x + SLOT / 2)

    def _sides(self, limbs: list[_Limb], own: str | None) -> dict[int, list[tuple[_Limb | None, float]]]:
        """Limbs by side: as wished, else to the side that is least full."""
        sides: dict[int, list[tuple[_Limb | None, float]]] = {-1: [], 1: []}
        fill = dict(self.cursor)
        for limb in sorted(limbs, key=lambda one: -one.width):
            wish = self.index.points[limb.point].side
            side = wish or (-1 if fill[-1] <= fill[1] else 1)
            sides[side].append((limb, limb.width))
            fill[side] += limb.width
        if own:
            side = -1 if fill[-1] <= fill[1] else 1
            sides[side].append((None, SLOT))
        return sides

    def _hang(self, limb: _Limb, left: float, side: int, level: int, depth: int) -> None:
        """Places a limb in its slots; leaves lie on the outer edge, inner points in between."""
        at = left
        for child in limb.children:
            self._hang(child, at, side, level + 1, depth)
            at += child.width
        lean = self.index.points[limb.point].lean
        edge = 0.62 if not limb.children else 0.62 * level / depth
        x = left + limb.width / 2 + lean
        self.at[limb.point] = (x, side * edge)
        if limb.point in self.index.ends_at:
            tag_x = x if not limb.children else at + SLOT / 2
            self._tag(limb.point, tag_x, side * 0.62, side)

    def _tag(self, point: str, x: float, y: float, side: int) -> None:
        ends = tuple(end.id for end in self.index.ends_at[point])
        self.tags.append(Tag(point, ends, x, y, side))


def lay_out(design: Design) -> Layout:
    """Positions of all points, tags and strays of a design."""
    index = index_of(design)
    drawing = _Drawing(index)
    right = 0.0
    roots = [point for point, (_, segment, _) in index.parents.items() if not segment]
    spine: list[str] = []
    for root in roots:
        if root in index.ends_at or drawing.children[root]:
            spine = spine or drawing.spine(root)
            right = drawing.draw(root, right) + SLOT * 0.3
    return Layout(
        drawing.at,
        tuple(drawing.tags),
        _strays(index),
        max(right, SLOT),
        tuple(spine),
        drawing.branch_of,
    )


def _strays(index: Index) -> tuple[Stray, ...]:
    groups: dict[tuple[str, str], list[str]] = {}
    for wire in index.design.wires:
        if not index.routes[wire.id].laid:
            a, b = sorted((wire.start.end, wire.finish.end))
            groups.setdefault((a, b), []).append(wire.id)
    return tuple(
        Stray(a, b, tuple(ids), max(index.length_m(index.wires[w]) for w in ids)) for (a, b), ids in groups.items()
    )
