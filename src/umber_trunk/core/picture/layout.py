"""Where the trunk picture puts every point: a drawing by rule, not to scale, that never overlaps itself.

The spine, the way that carries most wires, lies level from the supply on the left. Branches hang above or below it;
every leaf gets its own slot along the outer edge, so tags can't collide. Where there are more leaves than slots, what
is of least interest is folded: a branch, or a run of neighbours, becomes one tag. The builder's wishes (`Point.side`,
`Point.lean`) move whole branches.
"""

from __future__ import annotations

import heapq
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.picture.knots import Kind, Knot, Tree, in_runs

SLOT = 1.0
"""Room a leaf takes."""
STEP = 0.55
"""Between neighbouring stations along the trunk, at least [slots]."""
EDGE = 0.62
"""How far from the trunk tags lie, of the room to either side."""
TRIES = 12
"""Smaller knots that are tried for what room is left."""
DEEPEST = 80  # branches on branches; what lies deeper stays folded


@dataclass(frozen=True)
class Tag:
    """A label for the ends at one point: at (x, y), on side −1 (above), +1 (below) or 0 (on the spine). `fold` names
    the knot it stands for, "" where nothing is folded."""

    point: str
    ends: tuple[str, ...]
    x: float
    y: float
    side: int
    fold: str = ""


@dataclass(frozen=True)
class Stray:
    """Wires between two ends that aren't laid yet: drawn as one straight run."""

    a: str
    b: str
    wires: tuple[str, ...]
    length_m: float


@dataclass(frozen=True)
class Layout:
    """Positions in slots across and −1…1 up and down, of folded points that of their tag. `branch_of`: point → first
    point of its branch; `fold_of`: point → the knot it is folded into; `inside`: knot → its points; `loops`: segments
    that close a loop; `trees`: where each tree that stands apart begins across."""

    at: dict[str, tuple[float, float]]
    tags: tuple[Tag, ...]
    strays: tuple[Stray, ...]
    width: float
    spine: tuple[str, ...]
    branch_of: dict[str, str]
    fold_of: dict[str, str]
    inside: dict[str, tuple[str, ...]]
    loops: tuple[str, ...]
    trees: tuple[float, ...] = (0.0,)

    def rows(self, most: int) -> tuple[float, ...]:
        """Where rows begin across, so that trees that stand apart fill at most so many, none of them wider than it has
        to be."""
        starts = [*self.trees, self.width]
        best: tuple[float, ...] = (0.0,)
        for many in range(2, min(most, len(self.trees)) + 1):
            rows, widest = [0.0], self.width / many
            while True:  # the narrowest that still takes all
                rows = [0.0]
                for start, stop in pairwise(starts):
                    if stop - rows[-1] > widest + 1e-9 and start > rows[-1]:
                        rows.append(start)
                if len(rows) <= many:
                    break
                widest *= 1.05
            best = tuple(rows)
        return best


class Picture:
    """The tree of one design as knots, with the side of every branch; lays out any choice of what is open."""

    def __init__(self, design: Design) -> None:
        self.index = index_of(design)
        self.tree = Tree(self.index)
        self.branch_of: dict[str, str] = {}
        trees = [self._tree_knot(root) for root in self.tree.roots]
        self.top = in_runs(trees)
        self.knots = {knot.key: knot for top in self.top for knot in top.walk()}
        self.spine = tuple(self.tree.spine(self.tree.roots[0])) if self.tree.roots else ()
        self.strays = _strays(self.index)
        self.loops = self.index.loops
        self._laid: tuple[tuple[float, list[str]], Layout] | None = None

    def lay_out(
        self,
        room: float = float("inf"),
        interest: Mapping[str, float] | None = None,
        kept: Mapping[str, bool] | None = None,
    ) -> Layout:
        """The picture in `room` slots. `interest` of points decides what is open where not all can be; `kept` are knots
        the builder wants open (True) or folded (False)."""
        wanted = self._wanted(interest or {}, kept or {})
        asked = room, [knot.key for knot in wanted]
        if self._laid is None or self._laid[0] != asked:  # figures move a little with every edit, their order seldom
            self._laid = asked, self._laid_out(room, wanted)
        return self._laid[1]

    def _laid_out(self, room: float, wanted: list[Knot]) -> Layout:
        known: dict[int, _Drawing] = {}

        def drawn(count: int) -> _Drawing:
            if count not in known:
                known[count] = _Drawing(self, {knot.key for knot in wanted[:count]})
            return known[count]

        low, high = (len(wanted), 1) if room == float("inf") else (0, 1)
        while low < len(wanted) and drawn(min(high, len(wanted))).right <= room:
            low, high = min(high, len(wanted)), 2 * high
        high = min(high, len(wanted))
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if drawn(middle).right <= room else (low, middle)
        return self._filled(drawn(low), wanted[low + 1 :], room).layout()

    def _filled(self, drawing: _Drawing, rest: list[Knot], room: float) -> _Drawing:
        """Smaller knots may still find room where a larger one of more interest didn't."""
        for knot in rest[:TRIES]:
            if knot.key in drawing.foldable:
                tried = _Drawing(self, drawing.opened | {knot.key})
                drawing = tried if tried.right <= room else drawing
        return drawing

    def _wanted(self, interest: Mapping[str, float], kept: Mapping[str, bool]) -> list[Knot]:
        """Knots in the order they are to be opened: the most interesting first, none before the one it lies in."""
        worth: dict[Knot, float] = {}

        def settle(knot: Knot) -> float:
            own = interest.get(knot.point, 0.0) if knot.kind in (Kind.STATION, Kind.LIMB) else 0.0
            worth[knot] = max([own, *(worth[child] for child in knot.children)])
            if kept.get(knot.key):
                worth[knot] = max(worth[knot], 1e9)
            return worth[knot]

        for top in self.top:
            for knot in reversed(list(top.walk())):
                settle(knot)
        count, found = 0, []
        heap: list[tuple[float, int, int, Knot]] = []

        def offer(knots: Collection[Knot], level: int) -> None:
            nonlocal count
            for knot in knots if level < DEEPEST else ():
                if knot.foldable and kept.get(knot.key) is not False:
                    count += 1
                    heapq.heappush(heap, (-worth[knot], count, level, knot))

        offer(self.top, 0)
        while heap:
            _, _, level, knot = heapq.heappop(heap)
            found.append(knot)
            offer(knot.children, level + 1)
        return found

    def _tree_knot(self, root: str) -> Knot:
        """A tree's stations along its spine, every branch on the side it has when all is open."""
        spine = self.tree.spine(root)
        first_free = len(spine) > 1 and len(self.tree.children[root]) == 1
        fill = dict.fromkeys((-1, 1), SLOT * (root in self.index.ends_at and first_free))
        stations, x = [], SLOT / 2
        for number, point in enumerate(spine):
            onward = spine[number + 1] if number + 1 < len(spine) else ""
            station = Knot(Kind.STATION, point, own=point in self.index.ends_at)
            limbs: dict[int, list[Knot]] = {-1: [], 1: []}
            level = dict(fill)
            hung = [self.tree.limb(child) for child in self.tree.children[point] if child != onward]
            for limb in sorted(hung, key=lambda one: -one.slots):
                side = self.index.points[limb.point].side or (-1 if level[-1] <= level[1] else 1)
                for knot in limb.walk():
                    knot.side = side
                limbs[side].append(limb)
                level[side] += limb.slots
                self.branch_of.update(dict.fromkeys(limb.points, limb.point))
            station.side = -1 if level[-1] <= level[1] else 1
            if station.own and (hung or 0 < number < len(spine) - 1):
                level[station.side] += SLOT
            added = {side: level[side] - fill[side] for side in (-1, 1)}
            x = max(
                x + (STEP if number else 0.0), *(fill[side] + added[side] / 2 for side in (-1, 1) if added[side]), 0.0
            )
            fill = {side: x + added[side] / 2 if added[side] else fill[side] for side in (-1, 1)}
            station.children = [*in_runs(limbs[-1]), *in_runs(limbs[1])]
            stations.append(station.settle())
        return Knot(Kind.TREE, root, in_runs(stations)).settle()


class _Drawing:
    """One choice of open knots, drawn. Attributes: right, its width; foldable, the keys of what is folded in it."""

    def __init__(self, picture: Picture, opened: set[str]) -> None:
        self.picture, self.index, self.opened = picture, picture.index, opened
        self.at: dict[str, tuple[float, float]] = {}
        self.tags: list[Tag] = []
        self.fold_of: dict[str, str] = {}
        self.inside: dict[str, tuple[str, ...]] = {}
        self.foldable: set[str] = set()
        self.cursor: dict[int, float] = {}
        self.right = 0.0
        self._widths: dict[Knot, float] = {}
        self.trees: list[float] = []
        for top in picture.top:
            for knot in self._shown([top], Kind.TREE):
                self.trees.append(self.right)
                self.right = self._tree(knot, self.right) + SLOT * 0.3

    def layout(self) -> Layout:
        """What the painter needs."""
        picture = self.picture
        if any(point.lean for point in self.index.points.values()):
            self._spread()
        return Layout(
            self.at,
            tuple(self.tags),
            picture.strays,
            max(self.right, SLOT),
            picture.spine,
            picture.branch_of,
            self.fold_of,
            self.inside,
            picture.loops,
            tuple(self.trees) or (0.0,),
        )

    def _spread(self) -> None:
        """Tags that leaning branches brought together are moved apart again, in the order they lie."""
        for side in (-1, 1):
            mine = sorted((tag for tag in self.tags if tag.side == side), key=lambda tag: tag.x)
            xs = [tag.x for tag in mine]
            for at in range(1, len(xs)):
                xs[at] = max(xs[at], xs[at - 1] + SLOT)
            for at in reversed(range(len(xs))):
                xs[at] = min(xs[at], (xs[at + 1] - SLOT) if at + 1 < len(xs) else max(self.right - SLOT / 2, SLOT / 2))
            for tag, x in zip(mine, xs, strict=True):
                if x != tag.x:
                    self.tags[self.tags.index(tag)] = replace(tag, x=x)
                    if self.at[tag.point] == (tag.x, tag.y):
                        self.at[tag.point] = (x, tag.y)

    def _is_open(self, knot: Knot) -> bool:
        return not knot.foldable or knot.key in self.opened

    def _shown(self, knots: list[Knot], kind: Kind) -> list[Knot]:
        """The knots of a kind among these, runs opened into what is in them; folded runs stay."""
        found = []
        for knot in knots:
            if knot.kind is Kind.RUN and self._is_open(knot):
                found += self._shown(knot.children, kind)
            else:
                found.append(knot)
        return found

    def _width(self, knot: Knot) -> float:
        """Slots a limb or a run of limbs takes as it is drawn."""
        if knot not in self._widths:
            wide = SLOT
            if self._is_open(knot):
                own = SLOT * (knot.own and bool(knot.children) and knot.kind is Kind.LIMB)
                wide = max(sum(self._width(child) for child in self._shown(knot.children, Kind.LIMB)) + own, SLOT)
            self._widths[knot] = wide
        return self._widths[knot]

    def _tree(self, tree: Knot, left: float) -> float:
        """Places a tree, no part of it left of `left`; returns its right edge."""
        if not self._is_open(tree) or tree.kind is Kind.RUN:
            x = left + SLOT / 2
            self._fold(tree, x, 0.0, 0)
            return left + SLOT
        stations = self._shown(tree.children, Kind.STATION)
        first = stations[0]
        tagged = first.kind is Kind.STATION and first.own and not first.children and len(stations) > 1
        x = left + SLOT / 2
        self.cursor = dict.fromkeys((-1, 1), left + SLOT * tagged)
        for number, station in enumerate(stations):
            folded = station.kind is Kind.RUN or not self._is_open(station)
            # a tag lies on the spine itself only at a bare end of it
            inner = 0 < number < len(stations) - 1 or bool(station.children)
            sides: dict[int, list[tuple[Knot, float]]] = {-1: [], 1: []}
            if folded:
                sides[station.side].append((station, SLOT))
            else:
                for limb in self._shown(station.children, Kind.LIMB):
                    sides[limb.side].append((limb, self._width(limb)))
                if station.own and inner:
                    sides[station.side].append((station, SLOT))
            x = self._station(station, sides, x + (STEP if number else 0.0), folded)
            if station.own and not inner and not folded:
                if number:  # the tip's tag has its place to itself, as the root's
                    x = max(x, *(edge + SLOT / 2 for edge in self.cursor.values()))
                    self.at[station.point] = (x, 0.0)
                self._tag(station.point, x, 0.0, 0)
        return max(self.cursor[-1], self.cursor[1], x + SLOT / 2)

    def _station(self, station: Knot, sides: dict[int, list[tuple[Knot, float]]], least: float, folded: bool) -> float:
        widths = {side: sum(wide for _, wide in members) for side, members in sides.items()}
        x = max(least, *(self.cursor[side] + widths[side] / 2 for side in (-1, 1) if widths[side]), least)
        if folded:
            self.at.update(dict.fromkeys(station.points, (x, 0.0)))
        else:
            self.at[station.point] = (x, 0.0)
        for side, members in sides.items():
            at = x - widths[side] / 2
            for knot, wide in members:
                if knot is not station:
                    self._hang(knot, at, side, 1, self._depth(knot))
                elif folded:
                    self._fold(station, at + wide / 2, EDGE * side, side, placed=True)
                else:
                    self._tag(station.point, at + wide / 2, EDGE * side, side)
                at += wide
            if members:
                self.cursor[side] = at
        return x

    def _depth(self, knot: Knot) -> int:
        if not self._is_open(knot) or knot.kind is Kind.RUN:
            return 1
        if knot.slots == 1:
            return knot.count
        return 1 + max((self._depth(child) for child in self._shown(knot.children, Kind.LIMB)), default=0)

    def _hang(self, limb: Knot, left: float, side: int, level: int, depth: int) -> None:
        """Places a limb in its slots; leaves lie on the outer edge, inner points in between."""
        if limb.kind is Kind.RUN or not self._is_open(limb):
            self._fold(limb, left + SLOT / 2, side * EDGE, side)
            return
        while limb.slots == 1 and limb.children:  # one point after another, however many
            self.at[limb.point] = (left + SLOT / 2 + self.index.points[limb.point].lean, side * EDGE * level / depth)
            limb, level = limb.children[0], level + 1
        at = left
        children = self._shown(limb.children, Kind.LIMB)
        for child in children:
            self._hang(child, at, side, level + 1, depth)
            at += self._width(child)
        lean = self.index.points[limb.point].lean
        edge = EDGE if not children else EDGE * level / depth
        x = left + self._width(limb) / 2 + lean
        self.at[limb.point] = (x, side * edge)
        if limb.own:
            self._tag(limb.point, x if not children else at + SLOT / 2, side * EDGE, side)

    def _fold(self, knot: Knot, x: float, y: float, side: int, placed: bool = False) -> None:
        """One tag in place of a knot; its points lie where the tag hangs, unless they are placed already."""
        if not placed:
            self.at.update(dict.fromkeys(knot.points, (x, y)))
        self.fold_of.update(dict.fromkeys(knot.points, knot.key))
        self.inside[knot.key] = knot.points
        self.foldable.add(knot.key)
        ends = tuple(end.id for point in knot.points for end in self.index.ends_at.get(point, ()))
        self.tags.append(Tag(knot.point, ends, x, y, side, knot.key))

    def _tag(self, point: str, x: float, y: float, side: int) -> None:
        ends = tuple(end.id for end in self.index.ends_at[point])
        self.tags.append(Tag(point, ends, x, y, side))


def lay_out(design: Design) -> Layout:
    """The whole picture with nothing folded."""
    return Picture(design).lay_out()


def _strays(index: Index) -> tuple[Stray, ...]:
    groups: dict[tuple[str, str], list[str]] = {}
    for wire in index.design.wires:
        if not index.routes[wire.id].laid:
            a, b = sorted((wire.start.end, wire.finish.end))
            groups.setdefault((a, b), []).append(wire.id)
    return tuple(
        Stray(a, b, tuple(ids), max(index.length_m(index.wires[w]) for w in ids)) for (a, b), ids in groups.items()
    )
