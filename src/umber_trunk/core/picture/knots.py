"""What of a tree can be folded: branches, and runs of neighbours where many hang side by side.

A knot is a part of the tree that one tag can stand for. Trees hold stations (the points of the spine), stations hold
limbs, limbs hold limbs; wherever more than `RUN` lie side by side, runs of them come in between, so that opening a
knot never asks for more than a few places more.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from umber_trunk.core.harness.index import Index

RUN = 2
"""Neighbours up to which a run isn't folded away by itself."""


class Kind(StrEnum):
    """What a knot stands for."""

    TREE = "tree"
    STATION = "station"
    LIMB = "limb"
    RUN = "run"


@dataclass(eq=False)
class Knot:
    """A part that may be folded into one tag. `own`: ends sit at its own point besides those of its children; `side`:
    the side its tag hangs on, −1 above, 1 below; `slots`: places it takes when all of it is open."""

    kind: Kind
    point: str
    children: list[Knot] = field(default_factory=list)
    own: bool = False
    side: int = 1
    slots: int = 1
    count: int = 1
    holder: Knot | None = None

    @cached_property
    def key(self) -> str:
        """What names it from one picture to the next."""
        return f"{self.kind}:{self.point}" if self.kind is not Kind.RUN else f"run:{self.point}+{self.count}"

    @cached_property
    def points(self) -> tuple[str, ...]:
        """All points in it."""
        return tuple(knot.point for knot in self.walk() if knot.kind in (Kind.STATION, Kind.LIMB))

    @property
    def foldable(self) -> bool:
        """Whether folding it saves any room."""
        return self.slots > 1

    def walk(self) -> Iterator[Knot]:
        """Itself and everything below, what holds before what is held."""
        stack = [self]
        while stack:
            knot = stack.pop()
            yield knot
            stack += reversed(knot.children)

    def holders(self) -> Iterator[Knot]:
        """What it lies in, the nearest first."""
        knot = self.holder
        while knot is not None:
            yield knot
            knot = knot.holder

    def settle(self) -> Knot:
        """Counts places and points from its children."""
        inner = sum(child.slots for child in self.children)
        real = self.kind in (Kind.STATION, Kind.LIMB)
        own = real and self.own and (self.kind is Kind.STATION or bool(self.children))
        self.slots = max(inner + own, 1)
        self.count = real + sum(child.count for child in self.children)
        for child in self.children:
            child.holder = self
        return self


def in_runs(knots: list[Knot]) -> list[Knot]:
    """Neighbours in runs of `RUN`, runs of runs where those are many."""
    while len(knots) > RUN:
        knots = [
            knots[at]
            if len(knots[at : at + RUN]) == 1
            else Knot(Kind.RUN, knots[at].point, knots[at : at + RUN], side=knots[at].side).settle()
            for at in range(0, len(knots), RUN)
        ]
    return knots


class Tree:
    """The tree below every root, as children by point, with how many wires lead to each."""

    def __init__(self, index: Index) -> None:
        self.index = index
        self.children: dict[str, list[str]] = {point: [] for point in index.parents}
        load: dict[str, int] = dict.fromkeys(index.parents, 0)
        for point, (parent, segment, _) in index.parents.items():
            if segment:
                self.children[parent].append(point)
                load[point] = len(index.contents[segment])
        self.below: dict[str, int] = {}
        for point in reversed(list(index.parents)):  # children come after their parents
            self.below[point] = sum(1 + self.below[child] for child in self.children[point])
        self._load = load

    @property
    def roots(self) -> list[str]:
        """The points trees hang from; a bare point without ends or branches is none."""
        parents = self.index.parents
        return [
            point
            for point, (_, segment, _) in parents.items()
            if not segment and (point in self.index.ends_at or self.children[point])
        ]

    def spine(self, root: str) -> list[str]:
        """From the root along the child with most wires, then most points below it."""
        way = [root]
        while self.children[way[-1]]:
            way.append(max(self.children[way[-1]], key=lambda p: (self.below[p] > 0, self._load[p], self.below[p])))
        return way

    def limb(self, point: str) -> Knot:
        """The branch that begins at a point. Deep trees are walked without recursion."""
        order, queue = [], [point]
        while queue:
            here = queue.pop()
            order.append(here)
            queue += self.children[here]
        made: dict[str, Knot] = {}
        for here in reversed(order):
            knot = Knot(Kind.LIMB, here, own=here in self.index.ends_at)
            knot.children = in_runs([made[child] for child in self.children[here]])
            made[here] = knot.settle()
        return made[point]
