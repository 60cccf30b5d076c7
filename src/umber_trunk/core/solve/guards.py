"""Which fuse guards each wire, found by walking out from the sources."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.solve.feeds import Edges
from umber_trunk.core.solve.plant import Plant
from umber_trunk.core.solve.solution import Solution

Floats = NDArray[np.float64]
Rows = NDArray[np.intp]


class Guard(NamedTuple):  # one a wire at every edit: a tuple is the quickest
    """The fuse a wire relies on, the row of the source behind it, and the current a short at the wire's far end would
    draw through it."""

    end_id: str
    link_id: str
    rating_a: float
    fault_a: float
    link_row: int
    source: int


def guards(solution: Solution) -> tuple[list[Guard | None], dict[int, float]]:
    """(the guarding fuse of each wire row, rows of bare feeds with how far they reach from the source).

    On the feed the nearest fuse towards the source guards; on the return the largest among the circuits it
    serves (that one decides what a short inside a load can draw). A bare feed can be reached from a source's
    plus without passing a fuse.
    """
    plant = solution.plant
    feed, reach, source = plant.index.once_wired("feeds", lambda: _feeds(plant))
    returns = _returns(solution, feed)
    found: list[Guard | None] = [None] * len(plant.wires)
    keys = [feed.get(row, returns.get(row, -1)) for row in range(len(plant.wires))]
    rated = [link.rating_a is not None for _, link in plant.links]
    rows = [row for row, key in enumerate(keys) if key >= 0 and rated[key]]
    behind = [source.get(keys[row], 0) for row in rows]
    shorts = fault_a(
        plant, np.array(rows, dtype=np.intp), plant.bodies.ohm_per_m_20[rows], np.array(behind, dtype=np.intp)
    )
    for row, origin, short in zip(rows, behind, shorts.tolist(), strict=True):
        end_id, link = plant.links[keys[row]]
        found[row] = Guard(end_id, link.id, link.rating_a or 0.0, short, keys[row], origin)
    return found, {row: reach[row] for row, key in feed.items() if key == -1}


def _fuse_rows(plant: Plant) -> dict[int, float]:
    """Link row of every fuse → its rating; 0 while that is open, which another finding names."""
    return {row: link.rating_a or 0.0 for row, (_, link) in enumerate(plant.links) if link.kind is LinkKind.FUSE}


def _feeds(plant: Plant) -> tuple[dict[int, int], dict[int, float], dict[int, int]]:
    """(wire row → link row of its nearest fuse, −1 for none before it; bare wire row → metres from the source to its
    far end; fuse's link row → row of the source behind it), walking from each source's plus.

    The walk stops at the sources' minus poles and doesn't cross loads, so it stays on the feed side. Wires in series
    before the first fuse add up.
    """
    wires = len(plant.wires)
    beside: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for branch, (a, b) in enumerate(zip(plant.network.a.tolist(), plant.network.b.tolist(), strict=True)):
        beside[a].append((branch, b))
        beside[b].append((branch, a))
    metre = plant.length_m.tolist()
    ratings = _fuse_rows(plant)
    minus = {int(node) for node in plant.network.minus}
    found: dict[int, int] = {}
    reach: dict[int, float] = {}
    behind: dict[int, int] = {}
    state = {int(node): -1 for node in plant.network.plus}
    origin = {int(node): row for row, node in reversed(list(enumerate(plant.network.plus)))}
    metres = dict.fromkeys(state, 0.0)
    queue = list(state)
    for node in queue:
        for branch, other in beside[node]:
            key, run = state[node], metres[node]
            if branch < wires:
                run += metre[branch]
                if branch not in found or found[branch] != -1:
                    found[branch] = key
                if key == -1:
                    reach.setdefault(branch, run)
            elif branch - wires in ratings:
                key = branch - wires
                behind.setdefault(key, origin[node])
            if other in minus or (other in state and not (key == -1 and state[other] != -1)):
                continue
            state[other], origin[other], metres[other] = key, origin[node], run
            queue.append(other)
    return found, reach, behind


def _returns(solution: Solution, feed: dict[int, int]) -> dict[int, int]:
    """wire row → link row of the largest fuse among the loads whose return it carries."""
    plant, wires = solution.plant, len(solution.plant.wires)
    ratings = _fuse_rows(plant)
    arriving: dict[int, int] = {}
    for row, key in feed.items():
        for node in (int(plant.network.a[row]), int(plant.network.b[row])):
            arriving[node] = key
    best: dict[int, int] = {}
    for case in solution.cases:
        edges = Edges.of(plant, case)
        level: dict[int, int] = {}
        for load in np.flatnonzero(case.running):
            key = arriving.get(int(plant.load_plus[load]), -1)
            node = int(plant.load_minus[load])
            if key >= 0 and ratings[key] > ratings.get(level.get(node, -1), 0.0):
                level[node] = key
        order = np.argsort(case.node_v[edges.high], kind="stable")[::-1]
        sweep = zip(edges.branch[order].tolist(), edges.high[order].tolist(), edges.low[order].tolist(), strict=True)
        for branch, high, low in sweep:
            key = level.get(high, -1)
            if key < 0:
                continue
            if ratings[key] > ratings.get(level.get(low, -1), 0.0):
                level[low] = key
            if branch < wires and branch not in feed and ratings[key] > ratings.get(best.get(branch, -1), 0.0):
                best[branch] = key
    return best


def fault_a(plant: Plant, rows: Rows, ohm_per_m_20: Floats, sources: Rows) -> Floats:
    """A simple upper estimate of the currents (m,) into shorts at the far ends of wire rows (m,) of these resistances:
    the EMF of the source behind each over its own resistance and twice the wire's own cold loop."""
    own = ohm_per_m_20 * plant.length_m[rows] / plant.parallel[rows]
    result: Floats = plant.source_volts[sources] / np.maximum(plant.source_ohm[sources] + 2 * own, 1e-4)
    return result
