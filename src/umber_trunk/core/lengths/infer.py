"""The trunk that a list of end-to-end lengths speaks of: the tree whose path lengths fit the list best, and how sure
that is.

Gaps of the list are filled (`gaps`) to find a first shape (`trees`), exchanges of neighbouring branches mend what noise
spoilt, and `shapes` asks every tree that fits as well within the noise: a segment is sure, and a pair of ends not open,
only if all of them agree. A length that all others contradict is named and left out (`suspects`).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.lengths.best_tree import Rows
from umber_trunk.core.lengths.shapes import Shapes
from umber_trunk.core.lengths.suspects import suspect_of
from umber_trunk.core.lengths.trees import Tree, incidence, least_squares
from umber_trunk.core.sentences import say

MOST_ENDS = 300
"""Ends whose trunk is inferred at once."""
SAME_M = 5e-4
"""Shorter segments are none: their points are one."""
BoolArray = NDArray[np.bool_]
ANCHORS = 12
"""So many ends are asked about a segment."""


@dataclass(frozen=True)
class Listed:
    """One listed length between two ends."""

    wire: str
    a: str
    b: str
    length_m: float


@dataclass(frozen=True)
class InferredSegment:
    """A segment between two points; `sure`: every tree that fits the list within its noise has it, within ± `sd_m` (one
    σ)."""

    a: str
    b: str
    length_m: float
    sure: bool
    sd_m: float = 0.0


@dataclass(frozen=True)
class Unlisted:
    """How far two ends are from each other that no wire of the list joins."""

    a: str
    b: str
    length_m: float
    sd_m: float


@dataclass(frozen=True)
class NextMeasured:
    """The pair of ends whose length would tell most of what is still open."""

    a: str
    b: str
    bits: float


@dataclass(frozen=True)
class Inferred:
    """A proposed trunk. `points`: point → ends at it; `misfits`: wire → metres by which the tree is longer than its
    list says; `open_pairs` of ends whose distance the list leaves open; `left_out` are wires that say nothing, with
    why."""

    points: dict[str, tuple[str, ...]]
    segments: tuple[InferredSegment, ...]
    misfits: dict[str, float]
    open_pairs: tuple[tuple[str, str], ...]
    left_out: dict[str, str]
    rms_m: float
    notes: tuple[str, ...] = ()
    ways: dict[str, tuple[int, ...]] = field(default_factory=dict)
    """wire → the numbers of the segments on its way."""
    unlisted: tuple[Unlisted, ...] = ()
    next: NextMeasured | None = None
    suspect: str | None = None
    """The wire whose length all others contradict: it is left out of the fit."""
    noise: float = 0.0
    """What a listed length is off by, as a share of it (one σ)."""

    def with_length(self, number: int, length_m: float) -> Inferred:
        """With another length for one segment, sure from now on, and the misfits that follow."""
        more = length_m - self.segments[number].length_m
        rows = list(self.segments)
        rows[number] = replace(rows[number], length_m=length_m, sure=True, sd_m=0.0)
        misfits = {wire: off + more * (number in self.ways.get(wire, ())) for wire, off in self.misfits.items()}
        rms = float(np.sqrt(np.mean(np.square(list(misfits.values())))))
        return replace(self, segments=tuple(rows), misfits=misfits, rms_m=rms)


def infer(listed: Iterable[Listed], wanted: Wanted = always) -> Inferred:
    """The tree of a list; InputError where it says nothing of any tree."""
    rows, left_out = _sound(list(listed))
    if not rows:
        raise InputError.of("lengths.no-wire-of-this-list")
    ends = list(dict.fromkeys(end for row in rows for end in (row.a, row.b)))
    if len(ends) > MOST_ENDS:
        raise InputError.of("lengths.too-many-ends", count=len(ends), most=MOST_ENDS)
    pieces = _pieces(ends, rows)
    made = [_Piece([row for row in rows if row.a in piece], wanted) for piece in pieces]
    points: dict[str, tuple[str, ...]] = {}
    segments: list[InferredSegment] = []
    misfits: dict[str, float] = {}
    ways: dict[str, tuple[int, ...]] = {}
    for one in made:
        ways |= one.ways(len(segments))
        one.named(points, segments)
        misfits |= one.misfits()
    suspect = max((one for one in made if one.suspect), key=lambda one: abs(misfits[one.suspect or ""]), default=None)
    asked = [found for one in made if (found := one.next_measured()) is not None]
    counted = [off for wire, off in misfits.items() if all(wire != one.suspect for one in made)]
    return Inferred(
        points,
        tuple(segments),
        misfits,
        tuple(pair for one in made for pair in one.open_pairs()),
        left_out,
        float(np.sqrt(np.mean(np.square(counted)))),
        tuple(_notes(made, segments, misfits)),
        ways,
        tuple(pair for one in made for pair in one.unlisted()),
        max(asked, key=lambda one: one.bits, default=None),
        None if suspect is None else suspect.suspect,
        max(one.shapes.noise.share for one in made),
    )


def _notes(made: Sequence[_Piece], segments: Sequence[InferredSegment], misfits: dict[str, float]) -> list[str]:
    """What has to be said of the whole."""
    notes = []
    if len(made) > 1:
        notes.append(say("infer.parts", many=len(made)))
    listed = {row.wire: row.length_m for one in made for row in one.rows}
    for one in made:
        if one.suspect:
            says, off = listed[one.suspect], misfits[one.suspect]
            notes.append(say("infer.left-out", wire=one.suspect, says_m=says, others_m=says + off))
        elif one.either:
            notes.append(say("infer.either", wires=", ".join(one.either)))
    unsure = sum(not one.sure for one in segments)
    if unsure:
        notes.append(say("infer.not-determined", unsure=unsure, of=len(segments)))
    return notes


def _sound(rows: list[Listed]) -> tuple[list[Listed], dict[str, str]]:
    """Rows that say something, and why the others don't."""
    good, out = [], {}
    for row in rows:
        if row.a == row.b:
            out[row.wire] = say("infer.same-ends")
        elif not 0 < row.length_m <= 10_000:
            out[row.wire] = say("infer.no-length", metres=row.length_m)
        else:
            good.append(row)
    return good, out


def _pieces(ends: list[str], rows: list[Listed]) -> list[set[str]]:
    """Ends that wires join, directly or through others."""
    leader = {end: end for end in ends}

    def find(end: str) -> str:
        while leader[end] != end:
            leader[end] = leader[leader[end]]
            end = leader[end]
        return end

    for row in rows:
        leader[find(row.a)] = find(row.b)
    groups: dict[str, set[str]] = defaultdict(set)
    for end in ends:
        groups[find(end)].add(end)
    return list(groups.values())


class _Piece:
    """One tree: its shape, its lengths, and what of them the list determines."""

    def __init__(self, rows: list[Listed], wanted: Wanted) -> None:
        self.rows = rows
        self.ends = list(dict.fromkeys(end for row in rows for end in (row.a, row.b)))
        self.number = {end: at for at, end in enumerate(self.ends)}
        every = Rows(
            len(self.ends),
            np.array([(self.number[row.a], self.number[row.b]) for row in rows]),
            np.array([row.length_m for row in rows]),
            np.ones(len(rows)),
        )
        found = suspect_of(every, wanted)
        self.suspect = None if found.row is None else rows[found.row].wire
        self.either = [rows[at].wire for at in found.either]
        self.listed, self.known = found.rows, found.known
        self.shapes = Shapes(found.fit, self.listed, wanted)
        best = self.shapes.best
        self.tree, self.edges, self.long = best.tree, best.edges, best.long
        self._merge()

    def _merge(self) -> None:
        """Points that nothing lies between become one."""
        leader = {node: node for node in self.tree.near}

        def find(node: int) -> int:
            while leader[node] != node:
                node = leader[node]
            return node

        for (a, b), long in zip(self.edges, self.long, strict=True):
            if long < SAME_M and not (find(a) < self.tree.leaves and find(b) < self.tree.leaves):
                low, high = sorted((find(a), find(b)))
                leader[high] = low
        self.at = {node: find(node) for node in self.tree.near}
        self.merged = Tree(self.tree.leaves)
        for a, b in self.edges:
            if self.at[a] != self.at[b]:
                self.merged.join(self.at[a], self.at[b])
        self.merged_edges = self.merged.edges
        weight = self.listed.weight
        table = incidence(self.merged, self.merged_edges, self._met(self.listed.pairs.tolist())) * weight[:, None]
        self.found = least_squares(table, self.listed.lengths_m * weight)
        self.split: dict[tuple[int, int], bytes] = {}
        for split, at in self.shapes.best.splits(self.listed.ends).items():
            a, b = self.at[self.edges[at][0]], self.at[self.edges[at][1]]
            self.split[min(a, b), max(a, b)] = split

    def _met(self, pairs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
        """Pairs of ends as pairs of the points they are at."""
        return [(self.at[a], self.at[b]) for a, b in pairs]

    def named(self, points: dict[str, tuple[str, ...]], segments: list[InferredSegment]) -> None:
        """Adds its points, those with an end by its name, and its segments."""
        names: dict[int, str] = {}
        for node in sorted({node for edge in self.merged_edges for node in edge}):
            at_it = tuple(end for end, leaf in self.number.items() if self.at[leaf] == node)
            number, name = 1, at_it[0] if at_it else "B1"
            while name in points:
                number += 1
                name = f"{at_it[0]}-{number}" if at_it else f"B{number}"
            points[name], names[node] = at_it, name
        for (a, b), long in zip(self.merged_edges, self.found, strict=True):
            sd, agreed = self.shapes.segment(self.split[min(a, b), max(a, b)])
            segments.append(InferredSegment(names[a], names[b], float(long), agreed and self._sure(a, b), sd))

    def _beyond(self, node: int, before: int) -> list[list[int]]:
        """The ends in each branch at a node but the one towards `before`; an end at the node itself is a branch too."""
        own = [leaf for leaf in self.number.values() if self.at[leaf] == node]
        branches = [own] if own else []
        for first in self.merged.near[node] - {before}:
            seen, queue = {node, first}, [first]
            for here in queue:
                queue += self.merged.near[here] - seen
                seen |= self.merged.near[here]
            inside = seen - {node}
            branches.append([leaf for leaf in self.number.values() if self.at[leaf] in inside])
        return branches

    def _sure(self, a: int, b: int) -> bool:
        """Whether ends of known distance pin a segment: two that part at each of its points, or the end that is there.
        Asked of sampled trees only, since a walk may have missed the one that says otherwise."""
        if self.shapes.exact:
            return True
        sides = [self._anchors(a, b), self._anchors(b, a)]
        for i, j in sides[0]:
            for k, m in sides[1]:
                if self.known[i, k] and self.known[i, m] and self.known[j, k] and self.known[j, m]:
                    return True
        return False

    def _anchors(self, node: int, before: int) -> list[tuple[int, int]]:
        """Pairs of ends of known distance that part at a node; an end at the node is both."""
        branches = self._beyond(node, before)
        own = [leaf for leaf in self.number.values() if self.at[leaf] == node]
        if own:
            return [(leaf, leaf) for leaf in own]
        found = []
        for at, one in enumerate(branches):
            for other in branches[at + 1 :]:
                known = np.argwhere(self.known[np.ix_(one, other)])[:ANCHORS]
                found += [(one[i], other[j]) for i, j in known.tolist()]
        return found[: 4 * ANCHORS]

    def misfits(self) -> dict[str, float]:
        """wire → how much longer the tree makes it."""
        pairs = self._met([(self.number[row.a], self.number[row.b]) for row in self.rows])
        table = incidence(self.merged, self.merged_edges, pairs)
        return {row.wire: float(made - row.length_m) for row, made in zip(self.rows, table @ self.found, strict=True)}

    def ways(self, before: int) -> dict[str, tuple[int, ...]]:
        """wire → which segments it runs through, counted on from those before."""
        pairs = self._met([(self.number[row.a], self.number[row.b]) for row in self.rows])
        table = incidence(self.merged, self.merged_edges, pairs)
        return {
            row.wire: tuple(before + int(at) for at in np.flatnonzero(line))
            for row, line in zip(self.rows, table, strict=True)
        }

    @cached_property
    def _is_listed(self) -> BoolArray:
        """(pairs,): whether a wire joins the two ends, condensed as the shapes' pairs."""
        table = np.zeros((len(self.ends), len(self.ends)), dtype=bool)
        i, j = self.listed.pairs.T
        table[i, j] = table[j, i] = True
        return table[self.shapes.one, self.shapes.other]

    def _pair(self, at: int) -> tuple[str, str]:
        return self.ends[int(self.shapes.one[at])], self.ends[int(self.shapes.other[at])]

    def open_pairs(self) -> list[tuple[str, str]]:
        """Pairs of ends that no wire joins, and that fitting trees don't agree on or the list leaves free."""
        left = self.shapes.between.open_.copy()
        if not self.shapes.exact:
            left |= ~self.known[self.shapes.one, self.shapes.other]
        return [self._pair(at) for at in np.flatnonzero(left & ~self._is_listed).tolist()]

    def unlisted(self) -> list[Unlisted]:
        """How far apart all others are, by all trees that fit."""
        told = self.shapes.between
        return [
            Unlisted(*self._pair(at), float(told.mean_m[at]), float(told.sd_m[at]))
            for at in np.flatnonzero(~self._is_listed).tolist()
        ]

    def next_measured(self) -> NextMeasured | None:
        """What to measure next; None where every pair is listed."""
        found = self.shapes.next_measured(self._is_listed)
        return None if found is None else NextMeasured(*self._pair(found[0]), found[1])
