"""All the trees that fit a list of lengths about as well as the best one, and what they agree on.

A length is sure only if every tree that fits within the list's noise says the same. Small lists are tried out: ends are
put into a tree one by one at every place, and a beginning that fits worse than the best whole tree is given up, since
further lengths never make it fit better. Larger ones are sampled by a walk over trees (branches exchanged across a
segment, ends hung elsewhere) that takes a step with the chance exp(−Δ / 2σ²), Δ being how much worse the squares fit
(N. Metropolis 1953). Trees weigh by the same figure.

Within one tree, lengths spread by the covariance of least squares, and along what the list leaves free as far as no
segment gets shorter than nothing (hit and run, R. L. Smith 1984). σ, the noise of one listed length as a share of it,
is what the best tree leaves over, by its degrees of freedom; with fewer than four it leans on TAPE.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.lengths.best_tree import Fit, Rows, fitted
from umber_trunk.core.lengths.trees import Floats, Tree, incidence, swapped

TAPE, LEAN_ON = 0.03, 4
"""What a list is taken to be off by where it has nothing to check itself with, as though so many lengths had shown
it."""
FINEST_M = 3e-4
"""No list is finer than a millimetre: its rounding has this spread."""
SMALL, TRIED_OUT, WALKED, WORK = 24, 700, 240, 5e9
"""A list of so few ends is tried out, in so many fits at most; so many steps sample a large one, fewer where each takes
long [multiplications]."""
WITHIN = 12.0
"""Trees whose squares are worse by more than this many σ² don't count: under 0.3 % of the best one's weight."""
KEPT, DRAWS, RUNS = 60, 240, 24
"""Trees that are kept, lengths drawn of them by weight, lengths run along what is left free."""
DOUBT = 0.01
"""What trees of less weight than this say is no objection."""
APART = 2.0
"""Trees disagree where they lie further apart than this many times what noise alone spreads one of them."""
ASKED = 40
"""Pairs that are weighed when what to measure next is asked."""


@dataclass(frozen=True)
class Noise:
    """What one listed length is off by, as a share of it (one σ), and how much wider ± are for how little showed it."""

    share: float
    widened: float


def noise_of(best: Fit, rows: Rows) -> Noise:
    """From what the best tree leaves over."""
    from scipy.special import gammaincinv, stdtrit

    ends = rows.ends
    left = len(rows.pairs) - (2 * ends - 3)
    free = max(0, rows.left_over)
    lean = max(0, LEAN_ON - free)
    square = (best.wrong + lean * TAPE**2) / (free + lean)
    if lean and left > 0:  # so good a fit is no luck of the best of all shapes, however few lengths are left over
        shapes = float(np.prod(np.arange(1.0, 2 * ends - 4, 2)))
        luck = 2 * float(gammaincinv(left / 2, 0.5 / shapes))  # the least of so many chi-squares
        square = min(square, best.wrong / luck if luck > 0 else square)
    finest = FINEST_M / float(np.median(rows.lengths_m))
    return Noise(max(float(np.sqrt(square)), finest), float(stdtrit(free + lean, 0.975)) / 1.959964)


@dataclass(frozen=True)
class Between:
    """What all fitting trees say of each pair of ends, condensed by `numpy.triu_indices`: `mean_m`, `sd_m`, `open_`:
    they don't agree or leave it free."""

    mean_m: Floats
    sd_m: Floats
    open_: NDArray[np.bool_]


class Shapes:
    """The trees that fit a list within its noise. `exact`: all there are; otherwise those that a walk met."""

    def __init__(self, best: Fit, rows: Rows, wanted: Wanted) -> None:
        self.rows, self.wanted = rows, wanted
        self.exact, fits, self.noise = _near(best, rows, wanted)
        fits.sort(key=lambda fit: fit.wrong)
        self.best = fits[0]
        share = np.array([np.exp(-0.5 * (fit.wrong - fits[0].wrong) / self.noise.share**2) for fit in fits])
        kept = min(KEPT, int((share > 1e-3).sum())) if rows.ends <= 80 else 1
        self.weights: Floats = share[:kept] / share[:kept].sum()
        self.trees = [_Spread(fit, rows, self.noise.share) for fit in fits[:kept]]
        self.one, self.other = np.triu_indices(rows.ends, 1)

    @cached_property
    def between(self) -> Between:
        """Of every pair of ends."""
        count = len(self.one)
        mean, square, within, free = (np.zeros(count) for _ in range(4))
        pairs = np.column_stack([self.one, self.other])
        for weight, spread in zip(self.weights, self.trees, strict=True):
            go_on_if(self.wanted)
            ways = incidence(spread.fit.tree, spread.fit.edges, pairs)
            far, varies = ways @ spread.fit.long, spread.variance(ways)
            mean += weight * far
            square += weight * far**2
            within += weight * varies
            free += weight * spread.left_free(ways)
        apart = np.maximum(square - mean**2, 0.0)
        open_ = (free > DOUBT) | (np.sqrt(apart) > np.maximum(APART * np.sqrt(within), 5e-3))
        sd = np.sqrt(within + apart)
        if open_.any():
            drawn = self.draws[:, open_]
            mean[open_], sd[open_] = drawn.mean(axis=0), np.maximum(drawn.std(axis=0), sd[open_])
        return Between(mean, np.maximum(sd * self.noise.widened, FINEST_M), open_)

    def segment(self, split: bytes) -> tuple[float, bool]:
        """(± of a segment's length [m], whether every fitting tree has it and the list settles it)."""
        has = [
            (w, s, at) for w, s in zip(self.weights, self.trees, strict=True) if (at := s.splits.get(split)) is not None
        ]
        if not has:
            return float(np.max(self.rows.lengths_m)), False
        total = sum(weight for weight, _, _ in has)
        mean = sum(weight * spread.fit.long[at] for weight, spread, at in has) / total
        varies = sum(w * (s.edge_variance(at) + (s.fit.long[at] - mean) ** 2) for w, s, at in has) / total
        free = sum(weight for weight, spread, at in has if spread.edge_free(at))
        sd = float(np.sqrt(varies)) * self.noise.widened
        sure = 1 - total <= DOUBT and free <= DOUBT and 2 * sd < max(float(mean), FINEST_M * 4)
        if free > DOUBT:
            runs = np.concatenate([s.lengths[:, at] for _, s, at in has])
            sd = max(sd, float(runs.std()))
        return max(sd, FINEST_M), bool(sure)

    @cached_property
    def draws(self) -> Floats:
        """(about DRAWS, pairs): distances of all pairs in trees and lengths drawn by their weight."""
        draw = np.random.default_rng(11)
        pairs = np.column_stack([self.one, self.other])
        made = []
        for weight, spread in zip(self.weights, self.trees, strict=True):
            go_on_if(self.wanted)
            count = int(np.floor(weight * DRAWS + draw.random()))
            if count:
                ways = incidence(spread.fit.tree, spread.fit.edges, pairs)
                made.append(spread.drawn(draw, count) @ ways.T)
        return np.vstack(made)

    def next_measured(self, listed: NDArray[np.bool_]) -> tuple[int, float] | None:
        """(number of the pair not `listed` whose length tells most, in bits): what a reading's own spread over all
        fitting trees holds beyond its noise. None where all are listed."""
        spare = np.flatnonzero(~listed)
        if not len(spare):
            return None
        drawn = self.draws
        means: Floats = drawn.mean(axis=0)
        off = np.maximum(self.noise.share * means, FINEST_M)
        wide = (np.maximum(drawn.std(axis=0), self.between.sd_m) / off)[spare]
        asked = spare[np.argsort(-wide, kind="stable")[:ASKED]]
        bits = [_bits(drawn[:, at], float(off[at])) for at in asked]
        best = int(np.argmax(bits))
        return int(asked[best]), bits[best]


def _bits(drawn: Floats, off_m: float) -> float:
    """The entropy of a reading over the draws less that of its noise, in bits."""
    apart = (drawn[:, None] - drawn[None, :]) / off_m
    density = np.exp(-0.5 * apart**2).mean(axis=1)
    return max(0.0, float(-np.mean(np.log2(density)) - 0.5 * np.log2(np.e)))


class _Spread:
    """One fitting tree: how its lengths spread by the list's noise, and which the list leaves free."""

    def __init__(self, fit: Fit, rows: Rows, share: float) -> None:
        self.fit = fit
        table = incidence(fit.tree, fit.edges, rows.pairs) * rows.weight[:, None]
        values, self.vectors = np.linalg.eigh(table.T @ table)
        held = values > 1e-9 * max(float(values[-1]), 1e-30)
        self.free = self.vectors[:, ~held]
        self.root = self.vectors[:, held] * (share / np.sqrt(values[held]))
        self.splits = fit.splits(rows.ends)

    def variance(self, ways: Floats) -> Floats:
        """(pairs,) [m²] of what isn't left free."""
        found: Floats = np.square(ways @ self.root).sum(axis=1)
        return found

    def left_free(self, ways: Floats) -> Floats:
        """(pairs,): one where the list leaves a way free."""
        found: Floats = (np.square(ways @ self.free).sum(axis=1) > 1e-8).astype(float)
        return found

    def edge_variance(self, at: int) -> float:
        """[m²] of one segment."""
        return float(np.square(self.root[at]).sum())

    def edge_free(self, at: int) -> bool:
        """Whether the list leaves it free."""
        return float(np.square(self.free[at]).sum()) > 1e-8

    @cached_property
    def lengths(self) -> Floats:
        """(RUNS, edges): lengths along what is left free."""
        return self.drawn(np.random.default_rng(3), RUNS)

    def drawn(self, draw: np.random.Generator, count: int) -> Floats:
        """(count, edges): lengths within the noise, none negative."""
        noisy = self.fit.long + draw.standard_normal((count, self.root.shape[1])) @ self.root.T
        made: Floats = np.maximum(noisy, 0.0)
        if not self.free.shape[1]:
            return made
        for _ in range(RUNS):
            way = draw.standard_normal((count, self.free.shape[1])) @ self.free.T
            steep = np.where(np.abs(way) > 1e-9, way, np.nan)
            ends = -made / steep
            low = np.nanmax(np.where(steep > 0, ends, -np.inf), axis=1)
            high = np.nanmin(np.where(steep < 0, ends, np.inf), axis=1)
            room = np.isfinite(low) & np.isfinite(high) & (high > low)
            along = np.where(room, low + (high - low) * draw.random(count), 0.0)
            made = np.maximum(made + np.where(room, along, 0.0)[:, None] * way, 0.0)
        return made


def _near(best: Fit, rows: Rows, wanted: Wanted) -> tuple[bool, list[Fit], Noise]:
    """(whether these are all, the trees that fit within the noise, the noise by the best of them)."""
    noise = noise_of(best, rows)
    tried = _tried_out(rows, best, noise, wanted)
    fits = [best, *(tried if tried is not None else _walked(rows, best, noise, wanted))]
    least = min(fits, key=lambda fit: fit.wrong)
    if least.wrong < best.wrong:
        noise = noise_of(least, rows)
    most = least.wrong + WITHIN * noise.share**2
    met: dict[frozenset[bytes], Fit] = {}
    for fit in fits:
        if fit.wrong <= most:
            met.setdefault(
                frozenset(split for split, at in fit.splits(rows.ends).items() if fit.long[at] > FINEST_M), fit
            )
    return tried is not None, list(met.values()), noise


def _tried_out(rows: Rows, best: Fit, noise: Noise, wanted: Wanted) -> list[Fit] | None:
    """Every tree that fits within the noise; None where that takes more than TRIED_OUT fits."""
    order = _order(rows)
    most, left = best.wrong + WITHIN * noise.share**2, TRIED_OUT
    if rows.ends <= 3:
        return []
    if rows.ends > SMALL:
        return None
    begun = Tree(rows.ends)
    for leaf in order[:3]:
        begun.join(leaf, rows.ends)
    queue = [(begun, 3)]
    whole: list[Fit] = []
    while queue:
        tree, placed = queue.pop()
        leaf = order[placed]
        inside = set(order[: placed + 1])
        told = np.array([i in inside and j in inside for i, j in rows.pairs.tolist()])
        some = rows.where(told)
        for a, b in tree.edges:
            go_on_if(wanted)
            left -= 1
            if left < 0:
                return None
            grown = _hung(tree, leaf, a, b)
            fit = fitted(grown, some)
            if fit.wrong > most * (1 + 1e-9) + 1e-15:
                continue
            if placed + 1 == rows.ends:
                whole.append(fit)
            else:
                queue.append((grown, placed + 1))
    return whole


def _order(rows: Rows) -> list[int]:
    """Ends so that each has as many listed lengths as can be to those before it."""
    count = np.zeros((rows.ends, rows.ends))
    for i, j in rows.pairs.tolist():
        count[i, j] = count[j, i] = 1
    order = [int(np.argmax(count.sum(axis=1)))]
    while len(order) < rows.ends:
        told = count[order].sum(axis=0) + 1e-3 * count.sum(axis=0)
        told[order] = -1
        order.append(int(np.argmax(told)))
    return order


def _copied(tree: Tree) -> Tree:
    made = Tree(tree.leaves)
    for node, others in tree.near.items():
        made.near[node] = set(others)
    return made


def _hung(tree: Tree, leaf: int, a: int, b: int) -> Tree:
    """With one more leaf, on a segment."""
    made = _copied(tree)
    fresh = max(max(made.near), made.leaves) + 1
    made.part(a, b)
    for other in (a, b, leaf):
        made.join(fresh, other)
    return made


def _rehung(tree: Tree, leaf: int, draw: np.random.Generator) -> Tree | None:
    """A leaf taken off and put onto another segment."""
    made = _copied(tree)
    (hub,) = made.near[leaf]
    if hub < made.leaves or len(made.near[hub]) != 3:
        return None
    made.part(leaf, hub)
    a, b = made.near[hub]
    made.part(a, hub)
    made.part(b, hub)
    made.join(a, b)
    del made.near[hub], made.near[leaf]
    edges = [edge for edge in made.edges if edge != (min(a, b), max(a, b))]
    if not edges:
        return None
    c, d = edges[int(draw.integers(len(edges)))]
    return _hung(made, leaf, c, d)


def _walked(rows: Rows, best: Fit, noise: Noise, wanted: Wanted) -> Iterator[Fit]:
    """Trees near the best, met by a walk from it."""
    edges = len(best.edges)
    steps = int(min(WALKED, WORK / (len(rows.pairs) * edges**2 + edges**3 / 3 + 1e7)))
    draw = np.random.default_rng(7)
    here = best
    for step in range(steps):
        go_on_if(wanted)
        made = (
            _rehung(here.tree, int(draw.integers(rows.ends)), draw) if step % 2 else _exchanged(here, rows, noise, draw)
        )
        if made is None:
            continue
        fit = fitted(made, rows)
        if fit.wrong - here.wrong <= -2 * noise.share**2 * np.log(max(float(draw.random()), 1e-300)):
            here = fit
        yield fit
        if step % 100 == 99:
            here = best


def _exchanged(here: Fit, rows: Rows, noise: Noise, draw: np.random.Generator) -> Tree | None:
    """Two branches exchanged across a segment, oftener across a short one."""
    inner = [(float(long), a, b) for (a, b), long in zip(here.edges, here.long, strict=True) if min(a, b) >= rows.ends]
    if not inner:
        return None
    typical = noise.share * float(np.median(rows.lengths_m)) + FINEST_M
    odds = np.array([1 / (0.05 + min(long / typical, 20.0)) for long, _, _ in inner])
    _, a, b = inner[int(draw.choice(len(inner), p=odds / odds.sum()))]
    made = _copied(here.tree)
    one, other = _any(sorted(made.near[a] - {b}), draw), _any(sorted(made.near[b] - {a}), draw)
    swapped(made, a, one, b, other)
    return made


def _any(of: Sequence[int], draw: np.random.Generator) -> int:
    return of[int(draw.integers(len(of)))]
