"""The trunk that a list of end-to-end lengths speaks of: the tree whose path lengths fit the list best.

What the list leaves out is filled in where four ends decide it (of three sums of opposite lengths the two larger are
equal in a tree: P. Buneman 1971), else taken as far as the ends it hangs between allow. Neighbour joining (N. Saitou,
M. Nei 1987) finds the shape, least squares without negative lengths the segments, exchanges of neighbouring branches
mend what noise spoilt. What the list doesn't determine is said.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if

Floats = NDArray[np.float64]
MOST_ENDS = 300
SAME_M = 5e-4
"""Shorter segments are none: their points are one."""
EXCHANGES = 250
"""So many exchanges of neighbouring branches are tried."""
DERIVED = 0.05
"""What a length that only follows from the list weighs beside one that is listed."""
ANCHORS, WITNESSES = 12, 40
"""So many ends are asked about a segment, and about a distance that isn't listed."""
NOISE_FOURS, PRECISE, EXACT = 600, 0.02, 1e-5


@dataclass(frozen=True)
class Listed:
    """One listed length between two ends."""

    wire: str
    a: str
    b: str
    length_m: float


@dataclass(frozen=True)
class InferredSegment:
    """A segment between two points; `sure`: the list determines its length."""

    a: str
    b: str
    length_m: float
    sure: bool


@dataclass(frozen=True)
class Inferred:
    """A proposed trunk. `points`: point → ends at it; `misfits`: wire → metres by which the tree is longer than its list
    says; `open_pairs` of ends whose distance the list leaves open; `left_out` are wires that say nothing, with why."""

    points: dict[str, tuple[str, ...]]
    segments: tuple[InferredSegment, ...]
    misfits: dict[str, float]
    open_pairs: tuple[tuple[str, str], ...]
    left_out: dict[str, str]
    rms_m: float
    notes: tuple[str, ...] = ()
    ways: dict[str, tuple[int, ...]] = field(default_factory=dict)
    """wire → the numbers of the segments on its way."""

    def with_length(self, number: int, length_m: float) -> Inferred:
        """With another length for one segment, sure from now on, and the misfits that follow."""
        more = length_m - self.segments[number].length_m
        rows = list(self.segments)
        rows[number] = replace(rows[number], length_m=length_m, sure=True)
        misfits = {wire: off + more * (number in self.ways.get(wire, ())) for wire, off in self.misfits.items()}
        rms = float(np.sqrt(np.mean(np.square(list(misfits.values())))))
        return replace(self, segments=tuple(rows), misfits=misfits, rms_m=rms)


@dataclass
class _Tree:
    """An unrooted tree while it is worked on: leaves are 0…n−1, further nodes come after; `near` are neighbours."""

    leaves: int
    near: dict[int, set[int]] = field(default_factory=lambda: defaultdict(set))

    def join(self, a: int, b: int) -> None:
        self.near[a].add(b)
        self.near[b].add(a)

    def part(self, a: int, b: int) -> None:
        self.near[a].discard(b)
        self.near[b].discard(a)

    @property
    def edges(self) -> list[tuple[int, int]]:
        return sorted((a, b) for a, others in self.near.items() for b in others if a < b)


def infer(listed: Iterable[Listed], wanted: Wanted = always) -> Inferred:
    """The tree of a list; InputError where it says nothing of any tree."""
    rows, left_out = _sound(list(listed))
    if not rows:
        raise InputError("No wire of this list has two different ends and a length over 0: nothing can be inferred.")
    ends = list(dict.fromkeys(end for row in rows for end in (row.a, row.b)))
    if len(ends) > MOST_ENDS:
        raise InputError(f"{len(ends)} ends: more than {MOST_ENDS} can’t be inferred at once; split the list.")
    pieces = _pieces(ends, rows)
    made = [_Piece([row for row in rows if row.a in piece], wanted) for piece in pieces]
    points: dict[str, tuple[str, ...]] = {}
    segments: list[InferredSegment] = []
    misfits: dict[str, float] = {}
    ways: dict[str, tuple[int, ...]] = {}
    open_pairs: list[tuple[str, str]] = []
    for one in made:
        ways |= one.ways(len(segments))
        one.named(points, segments)
        misfits |= one.misfits()
        open_pairs += one.open_pairs()
    notes = []
    if len(pieces) > 1:
        notes.append(f"The list falls into {len(pieces)} parts that no wire joins: each is a tree of its own.")
    unsure = sum(not one.sure for one in segments)
    if unsure:
        notes.append(f"{unsure} of {len(segments)} segments are not determined by the list: measure them, or list more wires between their ends.")  # fmt: skip
    rms = float(np.sqrt(np.mean(np.square(list(misfits.values())))))
    return Inferred(points, tuple(segments), misfits, tuple(open_pairs), left_out, rms, tuple(notes), ways)


def _sound(rows: list[Listed]) -> tuple[list[Listed], dict[str, str]]:
    """Rows that say something, and why the others don't."""
    good, out = [], {}
    for row in rows:
        if row.a == row.b:
            out[row.wire] = "both its ends are the same"
        elif not 0 < row.length_m <= 10_000:
            out[row.wire] = "it has no length" if row.length_m == 0 else f"{row.length_m:g} m is no length of a wire"
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
        self.rows, self.wanted = rows, wanted
        self.ends = list(dict.fromkeys(end for row in rows for end in (row.a, row.b)))
        self.number = {end: at for at, end in enumerate(self.ends)}
        n = len(self.ends)
        total, count = np.zeros((n, n)), np.zeros((n, n))
        for row in rows:
            a, b = self.number[row.a], self.number[row.b]
            for i, j in ((a, b), (b, a)):
                total[i, j] += row.length_m
                count[i, j] += 1
        listed = np.where(count > 0, total / np.maximum(count, 1), np.nan)
        np.fill_diagonal(listed, 0.0)
        whole, self.known = _completed(listed, wanted)
        self.pairs = [(i, j) for i in range(n) for j in range(i + 1, n) if self.known[i, j]]
        self.lengths_m = np.array([whole[i, j] for i, j in self.pairs])
        sure = np.array([1.0 if count[i, j] else DERIVED for i, j in self.pairs])
        self.weight = sure / np.maximum(self.lengths_m, np.max(self.lengths_m) * 1e-3)
        self.tree = _joined(whole, wanted)
        self.edges, self.long, self.wrong = self._fit()
        self._exchange()
        self._merge()

    def _fit(self) -> tuple[list[tuple[int, int]], Floats, float]:
        """(edges, their lengths, sum of squared misfits, each as a share of its length)."""
        edges = self.tree.edges
        table = _incidence(self.tree, edges, self.pairs) * self.weight[:, None]
        found = _least_squares(table, self.lengths_m * self.weight)
        return edges, found, float(np.sum(np.square(table @ found - self.lengths_m * self.weight)))

    def _exchange(self) -> None:
        """Swaps neighbouring branches across a segment, the shortest first, as long as the list fits better for it."""
        tried, better = 0, True
        while better and tried < EXCHANGES and self.wrong > 1e-12:
            better = False
            inner = sorted(
                (float(long), a, b)
                for (a, b), long in zip(self.edges, self.long, strict=True)
                if min(a, b) >= self.tree.leaves
            )
            for _, a, b in inner:
                one = min(self.tree.near[a] - {b})
                for other in sorted(self.tree.near[b] - {a}):
                    go_on_if(self.wanted)
                    tried += 1
                    _swapped(self.tree, a, one, b, other)
                    fit = self._fit()
                    if fit[2] < self.wrong * (1 - 1e-6):
                        self.edges, self.long, self.wrong = fit
                        better = True
                        break
                    _swapped(self.tree, a, other, b, one)
                if better or tried >= EXCHANGES:
                    break

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
        self.merged = _Tree(self.tree.leaves)
        for a, b in self.edges:
            if self.at[a] != self.at[b]:
                self.merged.join(self.at[a], self.at[b])
        self.merged_edges = self.merged.edges
        table = _incidence(self.merged, self.merged_edges, self._met(self.pairs)) * self.weight[:, None]
        self.found = _least_squares(table, self.lengths_m * self.weight)

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
            segments.append(InferredSegment(names[a], names[b], float(long), self._sure(a, b)))

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
        """Whether ends of known distance pin a segment: two that part at each of its points, or the end that is there."""
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
        table = _incidence(self.merged, self.merged_edges, pairs)
        return {row.wire: float(made - row.length_m) for row, made in zip(self.rows, table @ self.found, strict=True)}

    def ways(self, before: int) -> dict[str, tuple[int, ...]]:
        """wire → which segments it runs through, counted on from those before."""
        pairs = self._met([(self.number[row.a], self.number[row.b]) for row in self.rows])
        table = _incidence(self.merged, self.merged_edges, pairs)
        return {
            row.wire: tuple(before + int(at) for at in np.flatnonzero(line))
            for row, line in zip(self.rows, table, strict=True)
        }

    def open_pairs(self) -> list[tuple[str, str]]:
        """Pairs of ends that the list neither names nor determines."""
        return [(self.ends[i], self.ends[j]) for i, j in np.argwhere(np.triu(~self.known, 1)).tolist()]


def _completed(listed: Floats, wanted: Wanted) -> tuple[Floats, NDArray[np.bool_]]:
    """(the table of distances with its gaps filled, which of them are listed or follow from the list). Gaps are filled by four
    ends where those decide, else by the middle of what the ends between allow."""
    table, noise = listed.copy(), _noise(listed)
    known = ~np.isnan(table)
    for turn in range(len(table)):
        go_on_if(wanted)
        gaps = np.argwhere(np.triu(np.isnan(table), 1)).tolist()
        found = [(i, j, value) for i, j in gaps if (value := _by_four(table, i, j, noise)) is not None]
        if not found:
            break
        for i, j, value in found:
            table[i, j] = table[j, i] = value
        if noise < EXACT or turn == 0:  # what follows from what follows carries too much noise to be called known
            known = ~np.isnan(table)
    while np.isnan(table).any():
        go_on_if(wanted)
        i, j = _likeliest_gap(table)
        both = ~np.isnan(table[i]) & ~np.isnan(table[j])
        if both.any():
            most, least = float(np.min((table[i] + table[j])[both])), float(np.max(np.abs(table[i] - table[j])[both]))
            table[i, j] = table[j, i] = max(least, 0.5 * (most + least))
        else:
            table[i, j] = table[j, i] = _through(table, i)[j]
    return table, known


def _noise(listed: Floats) -> float:
    """How far the list is from any tree: of fours of ends it knows whole, the median share by which the two larger sums
    differ; 0 where it knows none."""
    known = ~np.isnan(listed)
    pairs = np.argwhere(np.triu(known, 1))
    draw = np.random.default_rng(5)
    off = []
    for i, j in pairs[draw.permutation(len(pairs))[:NOISE_FOURS]].tolist():
        both = np.flatnonzero(known[i] & known[j])
        both = both[(both != i) & (both != j)]
        if len(both) < 2:
            continue
        for k, m in ((a, b) for a, b in draw.choice(both, (4, 2)).tolist() if a != b and known[a, b]):
            sums = sorted((listed[i, j] + listed[k, m], listed[i, k] + listed[j, m], listed[i, m] + listed[j, k]))
            off.append((sums[2] - sums[1]) / sums[2])
    return float(np.median(off)) if off else 0.0


def _by_four(table: Floats, i: int, j: int, noise: float) -> float | None:
    """d(i, j) where two other ends k, l decide it: of the three sums the two larger are equal. Told by the median of all that
    decide clearly; None where noise could have decided, or be more than PRECISE of it."""
    known = np.flatnonzero(~np.isnan(table[i]) & ~np.isnan(table[j]))
    known = known[(known != i) & (known != j)]
    if len(known) < 2:
        return None
    if len(known) > WITNESSES:
        known = known[np.linspace(0, len(known) - 1, WITNESSES).astype(int)]
    between = table[np.ix_(known, known)]
    one = table[i, known][:, None] + table[j, known][None, :]
    other = one.T
    larger = np.maximum(one, other)
    apart = np.abs(one - other)
    size = np.nanmax(np.where(np.isnan(between), 0, between)) + 1e-9
    clear = (apart > np.maximum(1e-4 * size, 8 * noise * larger)) & ~np.isnan(between) & (between > 0)
    if not clear.any():
        return None
    value = max(float(np.median((larger - between)[clear])), 0.0)
    return value if noise * float(np.median(larger[clear])) <= PRECISE * value + 1e-9 else None


def _likeliest_gap(table: Floats) -> tuple[int, int]:
    """The gap with the most ends known to both."""
    known = ~np.isnan(table)
    common = (known.astype(float) @ known.astype(float)) * ~known
    i, j = (int(at) for at in np.unravel_index(int(np.argmax(common - known)), common.shape))
    if known[i, j]:
        i, j = (int(x) for x in np.argwhere(~known)[0])
    return i, j


def _through(table: Floats, start: int) -> Floats:
    """Shortest ways along known lengths from one end."""
    from scipy.sparse.csgraph import dijkstra

    found: Floats = dijkstra(np.where(np.isnan(table), 0, table), directed=False, indices=start)
    return found


def _joined(table: Floats, wanted: Wanted) -> _Tree:
    """Neighbour joining on a whole table of distances."""
    n = len(table)
    tree = _Tree(n)
    if n == 1:
        return tree
    active, far = list(range(n)), table.astype(float)
    names = list(range(n))
    fresh = n
    while len(active) > 3:
        go_on_if(wanted)
        m = len(active)
        d = far[np.ix_(active, active)]
        total = d.sum(axis=1)
        score = (m - 2) * d - total[:, None] - total[None, :]
        np.fill_diagonal(score, np.inf)
        i, j = np.unravel_index(int(np.argmin(score)), score.shape)
        a, b = active[i], active[j]
        tree.join(names[a], fresh)
        tree.join(names[b], fresh)
        row = 0.5 * (far[a] + far[b] - far[a, b])
        far[a], far[:, a] = row, row
        far[a, a] = 0.0
        names[a] = fresh
        active.remove(b)
        fresh += 1
    if len(active) == 3:
        for one in active:
            tree.join(names[one], fresh)
    elif len(active) == 2:
        tree.join(names[active[0]], names[active[1]])
    return tree


def _swapped(tree: _Tree, a: int, one: int, b: int, other: int) -> None:
    """`one`, hung on a, and `other`, hung on b, change places."""
    tree.part(a, one)
    tree.part(b, other)
    tree.join(a, other)
    tree.join(b, one)


def _incidence(tree: _Tree, edges: Sequence[tuple[int, int]], pairs: Sequence[tuple[int, int]]) -> Floats:
    """(pairs, edges): which edges lie on the way of each pair."""
    number = {edge: at for at, edge in enumerate(edges)}
    if not edges:
        return np.zeros((len(pairs), 0))
    root = edges[0][0]
    above: dict[int, tuple[int, int]] = {}
    order, seen = [root], {root}
    for node in order:
        for other in tree.near[node]:
            if other not in seen:
                seen.add(other)
                above[other] = (node, number[min(node, other), max(node, other)])
                order.append(other)
    ways = np.zeros((max(order) + 1, len(edges)))
    for node in order[1:]:
        parent, edge = above[node]
        ways[node] = ways[parent]
        ways[node, edge] = 1.0
    found: Floats = np.array([np.abs(ways[i] - ways[j]) for i, j in pairs]) if pairs else np.zeros((0, len(edges)))
    return found


def _least_squares(table: Floats, lengths: Floats) -> Floats:
    """Lengths of the edges, none negative; of many answers the one with the least lengths."""
    if not table.shape[1]:
        return np.zeros(0)
    square, right = table.T @ table, table.T @ lengths
    scale = float(np.trace(square)) / len(square)
    from scipy.linalg import LinAlgError, cho_factor, cho_solve

    try:
        free = cho_solve(cho_factor(square + 1e-13 * scale * np.eye(len(square))), right)
        free += cho_solve(cho_factor(square + 1e-13 * scale * np.eye(len(square))), right - square @ free)
    except LinAlgError:
        free = np.linalg.lstsq(table, lengths, rcond=None)[0]
    if free.min() >= -1e-7:
        result: Floats = np.maximum(free, 0.0)
        return result
    from scipy.optimize import nnls

    gram = 1e-7 * np.sqrt(scale) * np.eye(len(square))
    many = np.vstack([table, gram])
    found: Floats = nnls(many, np.concatenate([lengths, np.zeros(len(square))]), maxiter=50 * len(square))[0]
    return found
