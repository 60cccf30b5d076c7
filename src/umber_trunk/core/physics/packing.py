"""Packing circles of any diameters into the smallest enclosing circle: the cross-section of a bundle.

Three steps. Many starts are relaxed at once by gradient descent on the overlaps while the enclosing
radius shrinks; each is made free of overlap by spreading; the best few are then tightened by
successive linear programs. A pair's separation is convex in the positions, so a linear step never
makes circles overlap: every step of the last stage is itself a valid packing.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
SOWN_FROM = 80  # beyond this many circles positions are sown, not optimised


@dataclass(frozen=True)
class Packing:
    """Centres (n, 2) in the order given, about the enclosing circle's centre; same unit throughout."""

    diameter: float
    centres: Floats
    diameters: Floats


PAIRS, STEPS, TIGHTENED, PROGRAMS, UNEQUAL = 8_500, 155, 3, 6, 6
"""How hard to try: pairs relaxed at once (which sets the starts), descent steps, starts tightened, programs for each;
unequal circles have far more arrangements, so they get so many times the starts."""


def pack(diameters: Iterable[float]) -> Packing:
    """The tightest packing found; the same input always gives the same answer.

    Equal circles up to 37 come within 1 % of the best known radius. An empty bundle has diameter 0.
    """
    given = tuple(float(d) for d in diameters)
    order = sorted(range(len(given)), key=lambda i: -given[i])
    found = _pack_sorted(tuple(round(given[i], 6) for i in order))
    centres = np.empty((len(given), 2))
    centres[order] = found.centres
    return Packing(found.diameter, centres, np.array(given))


QUICK_MOST = 60  # more circles than this are sown


@lru_cache(maxsize=4096)
def quick(diameters: tuple[float, ...]) -> Packing:
    """A packing as bundles are laid for their heat: within a few percent of the tightest, in a hundredth of the
    time."""
    if not 0 < len(diameters) <= QUICK_MOST:
        return pack(diameters)
    centres, enclosing = laid(np.array([diameters]))
    return Packing(float(enclosing[0]), centres[0], np.array(diameters))


@lru_cache(maxsize=4096)
def _pack_sorted(diameters: tuple[float, ...]) -> Packing:
    radii = np.array(diameters) / 2
    n = len(radii)
    if n <= 2:
        return _finished(_one_or_two(radii), radii)
    if n > SOWN_FROM:
        return _finished(_spread(_sown(radii), radii), radii)
    many = 1 if radii[0] - radii[-1] < 1e-9 else UNEQUAL
    starts = _starts(radii, int(np.clip(PAIRS / n**2, 6, 40)) * many)
    feasible = [_spread(start, radii) for start in _relaxed(starts, radii)]
    feasible.sort(key=lambda centres: _enclosing(centres, radii))
    tight = [_tightened(c, radii) for c in _distinct(feasible, radii)[: TIGHTENED * many]]
    return _finished(min(tight, key=lambda centres: _enclosing(centres, radii)), radii)


def _one_or_two(radii: Floats) -> Floats:
    if len(radii) < 2:
        return np.zeros((len(radii), 2))
    whole = radii.sum()
    return np.array([[whole - radii[0], 0.0], [radii[1] - whole, 0.0]])


def _finished(centres: Floats, radii: Floats) -> Packing:
    return Packing(2 * _enclosing(centres, radii), centres, 2 * radii)


def _enclosing(centres: Floats, radii: Floats) -> float:
    return float(np.max(np.hypot(centres[:, 0], centres[:, 1]) + radii, initial=0.0))


def _sown(radii: Floats) -> Floats:
    """Seed-head positions, largest in the middle: even density, no optimisation."""
    area = np.cumsum(radii**2)
    middle = np.sqrt((area - radii**2 / 2) / 0.80)
    middle[0] = 0.0
    angle = np.arange(len(radii)) * math.pi * (3 - math.sqrt(5))
    return np.column_stack([middle * np.cos(angle), middle * np.sin(angle)])


def _starts(radii: Floats, count: int) -> Floats:
    """(count, n, 2): sown heads with different jitter and order, rings, and plain random."""
    random = np.random.default_rng(3)
    n = len(radii)
    reach = math.sqrt(float(np.sum(radii**2)) / 0.75)
    starts = np.empty((count, n, 2))
    for k in range(count):
        if k % 3 == 0:
            order = np.argsort(random.permutation(n)) if k else np.arange(n)
            starts[k] = _sown(radii[np.argsort(order)])[order]
        elif k % 3 == 1:
            starts[k] = _rings(n, random) * reach
        else:
            angle, far = random.uniform(0, 2 * math.pi, n), np.sqrt(random.uniform(0, 1, n))
            starts[k] = reach * np.column_stack([far * np.cos(angle), far * np.sin(angle)])
        starts[k] += random.normal(0, 0.05 * float(radii.mean()), (n, 2))
    return starts


def _rings(n: int, random: np.random.Generator) -> Floats:
    """Concentric rings of unit reach, filled from outside in, each turned at random."""
    places: list[tuple[float, float]] = []
    inner = int(random.integers(1, 6))
    rings = [inner]
    while sum(rings) < n:
        rings.append(rings[-1] + int(random.integers(5, 7)))
    rings[-1] -= sum(rings) - n
    for number, many in enumerate(rings):
        turn = random.uniform(0, 2 * math.pi)
        far = 0.0 if many == 1 and number == 0 else (number + 0.5) / len(rings)
        places += [(far, turn + 2 * math.pi * k / max(many, 1)) for k in range(many)]
    table = np.array(places)[random.permutation(n)]
    return np.column_stack([table[:, 0] * np.cos(table[:, 1]), table[:, 0] * np.sin(table[:, 1])])


def _relaxed(starts: Floats, radii: Floats) -> Floats:
    """Momentum descent on squared overlaps of all starts at once while the container closes in."""
    at, speed = starts.copy(), np.zeros_like(starts)
    touch = radii[:, None] + radii[None, :]
    np.fill_diagonal(touch, 0.0)
    wide, tight = (
        math.sqrt(float(np.sum(radii**2)) / 0.60),
        math.sqrt(float(np.sum(radii**2)) / 0.86),
    )
    tight = max(tight, float(radii[0] + radii[1]))
    for step in range(STEPS):
        share = min(1.0, step / (0.7 * STEPS))
        container = wide + (tight - wide) * share
        apart = at[:, :, None, :] - at[:, None, :, :]
        distance = np.sqrt(np.einsum("sijk,sijk->sij", apart, apart)) + 1e-12
        press = np.maximum(touch - distance, 0.0) / distance
        push = np.einsum("sij,sijk->sik", press, apart)
        far = np.hypot(at[..., 0], at[..., 1]) + 1e-12
        push -= (np.maximum(far + radii - container, 0.0) / far)[..., None] * at
        speed = 0.8 * speed + 0.3 * push
        at += speed
    return at


def _spread(centres: Floats, radii: Floats) -> Floats:
    """Scaled out about the centre until nothing overlaps."""
    i, j = np.triu_indices(len(radii), 1)
    distance = np.hypot(*(centres[i] - centres[j]).T)
    need = radii[i] + radii[j]
    result: Floats = centres * max(1e-9, float(np.max(need / np.maximum(distance, 1e-9))))
    return result


def _distinct(ranked: list[Floats], radii: Floats) -> list[Floats]:
    """Drops starts that ended in the same packing (enclosing radii within 0.1 %)."""
    kept: list[Floats] = []
    for centres in ranked:
        size = _enclosing(centres, radii)
        if not kept or size > _enclosing(kept[-1], radii) * 1.001:
            kept.append(centres)
    return kept


def _tightened(centres: Floats, radii: Floats) -> Floats:
    """Successive linear programs: least enclosing radius for small moves of all circles."""
    best, reach = centres, float(radii.max()) * 0.6
    size = _enclosing(best, radii)
    for _ in range(PROGRAMS):
        moved = _linear_step(best, radii, reach)
        if moved is None:
            break
        moved = _spread(moved, radii) if _overlap(moved, radii) > 1e-9 else moved
        moved_size = _enclosing(moved, radii)
        gain = size - moved_size
        if gain <= 0:
            reach *= 0.35
            if reach < 1e-6 * size:
                break
            continue
        best, size = moved, moved_size
        if gain < 1e-7 * size:
            break
        reach *= 0.85
    return best


def _overlap(centres: Floats, radii: Floats) -> float:
    i, j = np.triu_indices(len(radii), 1)
    return float(np.max(radii[i] + radii[j] - np.hypot(*(centres[i] - centres[j]).T), initial=0.0))


def _linear_step(centres: Floats, radii: Floats, reach: float) -> Floats | None:
    from scipy import sparse  # here: a program that packs nothing tightly starts sooner without it
    from scipy.optimize import Bounds, LinearConstraint, milp

    n = len(radii)
    i, j = np.triu_indices(n, 1)
    apart = centres[i] - centres[j]
    distance = np.hypot(apart[:, 0], apart[:, 1])
    near = distance < radii[i] + radii[j] + 2.9 * reach
    i, j, distance = i[near], j[near], np.maximum(distance[near], 1e-12)
    unit = apart[near] / distance[:, None]
    pairs = np.arange(len(i))
    far = np.hypot(centres[:, 0], centres[:, 1])
    # eight tangents bound the containment of each circle near its own direction
    turns = np.radians([-40, -20, -8, 0, 8, 20, 40])
    angle = np.arctan2(centres[:, 1], centres[:, 0])[:, None] + turns
    outer = np.flatnonzero(far + radii > _enclosing(centres, radii) - 2.5 * reach)
    cos, sin = np.cos(angle[outer]).ravel(), np.sin(angle[outer]).ravel()
    own = np.repeat(outer, len(turns))
    walls = len(pairs) + np.arange(len(own))
    rows = np.concatenate([pairs, pairs, pairs, pairs, walls, walls, walls])
    cols = np.concatenate([2 * i, 2 * i + 1, 2 * j, 2 * j + 1, 2 * own, 2 * own + 1, np.full(len(own), 2 * n)])
    values = np.concatenate([-unit[:, 0], -unit[:, 1], unit[:, 0], unit[:, 1], cos, sin, -np.ones(len(own))])
    matrix = sparse.csc_matrix((values, (rows, cols)), shape=(len(pairs) + len(own), 2 * n + 1))
    limit = np.concatenate(
        [
            distance - radii[i] - radii[j],
            -radii[own] - centres[own, 0] * cos - centres[own, 1] * sin,
        ]
    )
    cost = np.zeros(2 * n + 1)
    cost[-1] = 1.0
    move = np.full(2 * n + 1, reach)
    move[-1] = np.inf
    answer = milp(cost, bounds=Bounds(-move, move), constraints=LinearConstraint(matrix, -np.inf, limit))
    if answer.x is None:
        return None
    result: Floats = centres + answer.x[: 2 * n].reshape(n, 2)
    return result


_EQUAL_RATIO = (
    1.0, 2.0, 2.1547, 2.4142, 2.7013, 3.0, 3.0, 3.3048, 3.6131, 3.8130, 3.9238, 4.0296, 4.2361, 4.3284,
    4.5214, 4.6154, 4.7920, 4.8637, 4.8637, 5.1223, 5.2523, 5.4397, 5.5452, 5.6517, 5.7528, 5.8282, 5.9063,
    6.0149, 6.1386, 6.1977, 6.2915, 6.4295, 6.4867, 6.6110, 6.6972, 6.7468, 6.7588,
)  # fmt: skip
"""Enclosing over single diameter of n equal circles, best known (Graham et al. 1998)."""


def equal_like(diameters: Floats) -> Floats:
    """Enclosing diameters (s,) that as many equal circles as the areas of (s, n) amount to would need."""
    square = np.square(diameters)
    alike = np.square(square.sum(1)) / np.square(square).sum(1)
    counts = np.arange(1, len(_EQUAL_RATIO) + 1)
    fill = np.interp(alike, counts, counts / np.square(_EQUAL_RATIO))
    largest = np.sort(diameters, axis=1)[:, -2:].sum(1)
    result: Floats = np.maximum(np.sqrt(square.sum(1) / fill), largest)
    return result


LAID_STEPS = 40
"""Descent steps for a bundle that is only drawn."""


def laid(diameters: Floats) -> tuple[Floats, Floats]:
    """Centres (s, n, 2) and enclosing diameters (s,) of s bundles at once, as a hand lays them: free of
    overlap, a few per cent looser than `pack`, at a small part of its time.

    All bundles, each from a few starts, are relaxed together while their containers close in.
    """
    s, n = diameters.shape
    if n <= 2:
        reach = diameters.sum(1, keepdims=True)
        x = (reach - diameters) / 2 * np.array([1.0, -1.0])[:n] if n == 2 else 0 * diameters
        return np.stack([x, 0 * x], axis=-1), reach[:, 0]
    many = int(np.clip(400 // n**2, 1, 8))
    radii = np.tile(diameters / 2, (many, 1))
    room = np.tile(equal_like(diameters) / 2, many)
    at = _pressed(_laid_starts(diameters, many).reshape(many * s, n, 2), radii, room)
    i, j = np.triu_indices(n, 1)
    distance = np.hypot(*(at[:, i] - at[:, j]).transpose(2, 0, 1))
    at *= np.max((radii[:, i] + radii[:, j]) / np.maximum(distance, 1e-9), axis=1)[:, None, None]
    at = _centred(at, radii)
    enclosing = 2 * (np.hypot(at[..., 0], at[..., 1]) + radii).max(1).reshape(many, s)
    best = enclosing.argmin(0)
    return at.reshape(many, s, n, 2)[best, np.arange(s)], enclosing.min(0)


def _laid_starts(diameters: Floats, many: int) -> Floats:
    """(many, s, n, 2) rings or seed heads: largest inside, smallest inside, then in random orders. Chance is the
    same for every bundle, so that a bundle comes out alike whichever others are laid with it."""
    s, n = diameters.shape
    random = np.random.default_rng(3)
    reach = np.sqrt(np.square(diameters).sum(1)) / 1.7
    turn = 2 * math.pi / n if n <= 7 else math.pi * (3 - math.sqrt(5))
    angle = np.broadcast_to(np.arange(n) * turn, (s, n))
    starts = np.empty((many, s, n, 2))
    for number in range(many):
        key = {0: -diameters, 1: diameters}.get(number, np.broadcast_to(random.random(n), (s, n)))
        order = np.argsort(key, axis=1, kind="stable")
        ranked = np.square(np.take_along_axis(diameters, order, axis=1))
        far = reach[:, None] * np.sqrt((np.cumsum(ranked, axis=1) - ranked / 2) / ranked.sum(1, keepdims=True))
        if n > 7 or number % 2 == 0:
            far[:, 0] = 0.0
        np.put_along_axis(starts[number, ..., 0], order, far * np.cos(angle), axis=1)
        np.put_along_axis(starts[number, ..., 1], order, far * np.sin(angle), axis=1)
    jitter = random.normal(0, 0.03, (many, 1, n, 2))
    result: Floats = starts + jitter * (diameters / 2)[..., None]
    return result


def _pressed(at: Floats, radii: Floats, room: Floats) -> Floats:
    """Momentum descent on overlaps; the container closes in to 0.95 of `room`, then gives a little."""
    n = at.shape[1]
    touch = radii[:, :, None] + radii[:, None, :]
    touch[:, range(n), range(n)] = 0.0
    speed = np.zeros_like(at)
    for step in range(LAID_STEPS):
        share = step / LAID_STEPS
        container = room * (1.15 - 0.20 * min(1.0, share / 0.6) if share < 0.75 else 1.02)
        square = np.square(at).sum(-1)
        apart = square[:, :, None] + square[:, None, :] - 2 * at @ at.swapaxes(1, 2)
        press = np.maximum(touch / np.sqrt(np.maximum(apart, 1e-12)) - 1, 0.0)
        far = np.sqrt(square) + 1e-12
        out = np.maximum(far + radii - container[:, None], 0.0) / far
        push = at * (press.sum(2) - out)[..., None] - press @ at
        speed = 0.8 * speed + 0.3 * push
        at = at + speed
    return at


def _centred(at: Floats, radii: Floats) -> Floats:
    """Moved a few times towards the circle that reaches out furthest: nearly the least enclosing circle."""
    rows = np.arange(len(at))
    for _ in range(10):
        far = np.hypot(at[..., 0], at[..., 1]) + 1e-12
        reach = far + radii
        furthest = reach.argmax(1)
        step = 0.1 * (reach[rows, furthest] - reach.mean(1)) / far[rows, furthest]
        at = at - (step[:, None] * at[rows, furthest])[:, None, :]
    return at
