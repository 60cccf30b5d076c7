"""The unplugged harness with faults in it, solved island by island; a change works only on the islands it touches.

An island is what metal joins; nothing leads from one to another. Its conductances make a small matrix, whose pseudo-
inverse G gives the ohms between any two nodes: R(a, b) = G[a,a] + G[b,b] − 2·G[a,b] (the resistance distance of a
graph). A fault changes, adds or takes away edges, so the islands it touches are inverted anew and all others are shared
with the state before: thousands of suspicions can be looked at while somebody waits.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.prove.fault import LEADS, SCREEN_OHM, SHORT_OHM, Fault
from umber_trunk.core.prove.faults import IN_LINE, faulty_ohm, wires_of
from umber_trunk.core.prove.meter import SHAKEN
from umber_trunk.core.prove.netlist import LEAST_OHM, Edge, Netlist, Point, between, resistances
from umber_trunk.core.prove.probe import Probe, Seen, at_part

Floats = NDArray[np.float64]
STRAY = "stray"
"""Mark of an edge that a fault made."""


Changes = tuple[dict[int, Edge | None], list[Edge], tuple[int, ...]]
"""(edges changed, edges added, nodes added)."""


class State:
    """Islands of nodes joined by edges. `derive` gives the state with one fault more."""

    def __init__(self, net: Netlist) -> None:
        self.net = net
        self.faults: tuple[Fault, ...] = ()
        self.edges: dict[int, Edge] = dict(enumerate(net.edges))
        self.island: dict[int, int] = dict(net.net_of)
        self.members: dict[int, tuple[list[int], list[int]]] = {}
        for node, number in self.island.items():
            self.members.setdefault(number, ([], []))[0].append(node)
        for at, edge in self.edges.items():
            self.members[self.island[edge.a]][1].append(at)
        self._solved: dict[int, tuple[dict[int, int], Floats]] = {}
        self._columns: dict[int, tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp], Floats]] = {}
        self._fresh = 1 + max(self.members, default=0)
        self.loose: frozenset[str] = frozenset()
        """Ends that aren't home."""
        self.flickers: dict[int, float] = {}
        """Edge → how often it is open, of those that make and break."""
        self.touched: frozenset[int] = frozenset()
        """Nodes of the islands the last fault changed."""

    def derive(self, fault: Fault) -> State:
        """The state with a fault more. What it touches is worked out anew, all else is shared."""
        new = State.__new__(State)
        new.__dict__.update(self.__dict__)
        new.faults = (*self.faults, fault)
        new.touched = frozenset()
        if fault.what == LEADS:
            return new
        if fault.what == "loose":
            new.loose = self.loose | set(fault.where)
            new.touched = frozenset(self.node(point) for point in self.net.points if point[0] in fault.where)
            return new
        if fault.what == "flicker":
            at = self.net.edge_of[fault.where[0]]
            if at in self.edges:
                new.flickers = {**self.flickers, at: fault.share}
                new.touched = frozenset(self.members[self.island[self.edges[at].a]][0])
            return new
        self._put_into(new, *self._changes(fault))
        return new

    def _put_into(self, new: State, changed: dict[int, Edge | None], added: list[Edge], extra: Collection[int]) -> None:
        """Puts changed and added edges, with `extra` nodes, into the islands they touch; `new` shares all else."""
        new_edges = [*added, *(edge for edge in changed.values() if edge)]
        nodes = {node for at in changed for node in (self.edges[at].a, self.edges[at].b)}
        nodes |= {node for edge in new_edges for node in (edge.a, edge.b) if node not in extra}
        islands = {self.island[node] for node in nodes}
        mine = [node for number in islands for node in self.members[number][0]] + list(extra)
        kept = {at: self.edges[at] for number in islands for at in self.members[number][1]}
        for at, edge in changed.items():
            if edge is None:
                kept.pop(at, None)
            else:
                kept[at] = edge
        kept |= dict(enumerate(added, 1 + max(self.edges, default=0)))
        new.edges = {at: edge for at, edge in self.edges.items() if at not in changed} | kept
        new.island, new.members = dict(self.island), {k: v for k, v in self.members.items() if k not in islands}
        new._solved = {k: v for k, v in self._solved.items() if k not in islands}
        new._columns = {k: v for k, v in self._columns.items() if k not in islands}
        new._label(mine, kept)
        new.touched = frozenset(mine)

    def _label(self, nodes: list[int], edges: dict[int, Edge]) -> None:
        beside: dict[int, list[tuple[int, int]]] = {}
        for at, edge in edges.items():
            beside.setdefault(edge.a, []).append((at, edge.b))
            beside.setdefault(edge.b, []).append((at, edge.a))
        left = dict.fromkeys(nodes)
        while left:
            start = next(iter(left))
            found, inner, todo = [], set(), [start]
            del left[start]
            while todo:
                node = todo.pop()
                found.append(node)
                for at, other in beside.get(node, ()):
                    inner.add(at)
                    if other in left:
                        del left[other]
                        todo.append(other)
            for node in found:
                self.island[node] = self._fresh
            self.members[self._fresh] = (found, sorted(inner))
            self._fresh += 1

    def _changes(self, fault: Fault) -> Changes:
        """(edges changed, edges added, nodes added) by a fault."""
        return CHANGES[fault.what](self, fault)

    def _rows(self, fault: Fault) -> tuple[list[int], Edge]:
        """Edges of a fault's wires, and the first as it is now, or was."""
        rows = [self.net.edge_of[wire] for wire in fault.where]
        return rows, self.edges.get(rows[0], self.net.edges[rows[0]])

    def shielded(self, fault: Fault) -> Changes:
        """A screen that doesn't land, or lands where it is cut back."""
        screen = self.net.screens[fault.where[0]]
        at = self.net.edge_of[screen.wire]
        if at not in self.edges:
            return {}, [], ()
        if not screen.taped:
            return {at: None}, [], ()
        taped = next(place for place in self.net.places(screen.wire) if place[0] == screen.taped[0])
        return {at: self.edges[at]}, [Edge(STRAY, self.node(taped), 0, SCREEN_OHM, 0.5 * SCREEN_OHM)], ()

    def in_line(self, fault: Fault) -> Changes:
        """One wire's resistance."""
        rows, first = self._rows(fault)
        if rows[0] not in self.edges:
            return {}, [], ()
        ohm = faulty_ohm(self.net, fault)
        if math.isinf(ohm):
            return {rows[0]: None}, [], ()
        extra = ohm - self.net.facts[fault.where[0]].ohm
        return {rows[0]: replace(first, ohm=max(first.ohm + extra, LEAST_OHM))}, [], ()

    def leaking(self, fault: Fault) -> Changes:
        """A way to earth, or to another wire's net."""
        rows, first = self._rows(fault)
        kept: dict[int, Edge | None] = {row: self.edges[row] for row in rows if row in self.edges}
        other = self.edges.get(rows[1], self.net.edges[rows[1]]).a if len(rows) > 1 else 0
        return kept, [Edge(STRAY, first.a, other, fault.ohm, 0.1 * fault.ohm)], ()

    def swapped(self, fault: Fault) -> Changes:
        """Two wires in each other's cavities; where one is open, the other still lands where it shouldn't."""
        rows, first = self._rows(fault)
        if any(row not in self.edges for row in rows):
            return self._with_open(fault, rows)
        second = self.edges[rows[1]]
        a, b = self._at(fault.where[0], fault.end), self._at(fault.where[1], fault.end)
        here, there = (first.a, first.b)[a], (second.a, second.b)[b]
        return {rows[0]: first.moved(a, there), rows[1]: second.moved(b, here)}, [], ()

    def touching(self, fault: Fault) -> Changes:
        """Two wires that touch somewhere along their way."""
        rows, first = self._rows(fault)
        if any(row not in self.edges for row in rows):
            return {}, [], ()
        second = self.edges[rows[1]]
        along = 0.5 if fault.along is None else min(max(fault.along, 0.01), 0.99)
        other = along if self.alike(*fault.where) else 1 - along
        m1, m2 = -2 * len(self.edges) - 1, -2 * len(self.edges) - 2
        halves = [
            *first.cut(along, m1),
            *second.cut(other, m2),
            Edge(STRAY, m1, m2, fault.ohm or SHORT_OHM, max(0.1 * fault.ohm, SHORT_OHM)),
        ]
        return {rows[0]: None, rows[1]: None}, halves, (m1, m2)

    def wet(self, fault: Fault) -> Changes:
        """Water in a housing: its nets lead to one another through it."""
        middle = -2 * len(self.edges) - 1
        nodes = dict.fromkeys(self.node(point) for point in self.net.points if point[0] in fault.where)
        half = fault.ohm / 2
        kept: dict[int, Edge | None] = {
            at: self.edges[at] for wire in wires_of(self.net, fault) if (at := self.net.edge_of[wire]) in self.edges
        }
        return kept, [Edge(STRAY, node, middle, half, 0.1 * half) for node in nodes], (middle,)

    def cut(self, fault: Fault) -> Changes:
        """A cable cut through: all of its cores."""
        rows = [self.net.edge_of[wire] for wire in wires_of(self.net, fault)]
        return {row: None for row in rows if row in self.edges}, [], ()

    def crossed(self, fault: Fault) -> Changes:
        """Two plugs in each other's places: each cavity's wires are at the cavity of the same name at the other."""
        moved: dict[int, Edge | None] = {}
        labels = [
            {
                cavity.label or cavity.id: self.net.node_of[end, cavity.id]
                for cavity in self.net.index.ends[end].cavities
            }
            for end in fault.where
        ]
        across = {
            node: labels[1 - n][label] for n in (0, 1) for label, node in labels[n].items() if label in labels[1 - n]
        }
        for wire in wires_of(self.net, fault):
            at = self.net.edge_of[wire]
            edge = self.edges.get(at)
            if edge is None:
                continue
            for side, point in enumerate(self.net.places(wire)):
                node = (edge.a, edge.b)[side]
                if point[0] in fault.where and node in across:
                    edge = edge.moved(side, across[node])
            moved[at] = edge
        return moved, [], ()

    def unchanged(self, _: Fault) -> Changes:
        """A fault of the meter's."""
        return {}, [], ()

    def _with_open(self, fault: Fault, rows: list[int]) -> Changes:
        """A swap of wires of which one is open: what is left of it that shows."""
        alive = next(((wire, row) for wire, row in zip(fault.where, rows, strict=True) if row in self.edges), None)
        if alive is None:
            return {}, [], ()
        wire, row = alive
        dead = next(one for one in fault.where if one != wire)
        edge = self.edges[row]
        lost = self.net.edges[self.net.edge_of[dead]]
        side = self._at(dead, fault.end)
        return {row: edge.moved(self._at(wire, fault.end), (lost.a, lost.b)[side])}, [], ()

    def _at(self, wire: str, end: str) -> int:
        """Which side of a wire's edge is at an end: 0 its start, 1 its finish."""
        return 0 if self.net.index.wires[wire].start.end == end else 1

    def alike(self, one: str, two: str) -> bool:
        """Whether two wires lie along each other in the same direction, by the ends or points they share."""
        first, second = self.net.index.wires[one], self.net.index.wires[two]
        if first.start.end == second.start.end or first.finish.end == second.finish.end:
            return True
        if first.start.end == second.finish.end or first.finish.end == second.start.end:
            return False
        ways = [self.net.index.routes[one].segments, self.net.index.routes[two].segments]
        shared = [segment for segment in ways[0] if segment in ways[1]]
        return len(shared) < 2 or ways[1].index(shared[0]) < ways[1].index(shared[-1])

    # what a meter sees

    def node(self, point: Point) -> int:
        """The node of a point."""
        return self.net.node(point)

    def joined(self, probe: Probe) -> bool:
        """Whether any metal leads from one lead to the other."""
        if probe.lift or probe.part:
            return math.isfinite(self.see(probe).ohm)
        here = {self.island[self.node(one)] for one in probe.a}
        return any(self.island[self.node(one)] in here for one in probe.b)

    def see(self, probe: Probe, clipped: bool = False) -> Seen:
        """What a probe reads, without the meter's own faults. Between points clipped together only whether it leads,
        unless `clipped`."""
        if probe.part:
            return self._across(probe)
        if probe.lift:
            at = self.net.edge_of[probe.lift]
            return self._tied(probe, {at})
        if probe.single and (self.loose or self.flickers):
            return self._unsure(probe)
        return self._by_metal(probe, clipped)

    def _unsure(self, probe: Probe) -> Seen:
        """What a probe reads where a plug isn't home or a contact makes and breaks."""
        seen = self._by_metal(probe, False)
        if not self.loose.isdisjoint((probe.a[0][0], probe.b[0][0])) and math.isfinite(seen.ohm):
            return replace(seen, vague=True)
        whole = max((self.flickers.get(edge, 0.0) for edge, share in seen.shares if share > 0.99), default=0.0)
        return (
            replace(seen, breaks=1 - (1 - whole) ** SHAKES if probe.kind in SHAKEN.values() else whole)
            if whole
            else seen
        )

    def _across(self, probe: Probe) -> Seen:
        """Millivolts across a part of a wire, in ohms: the part as it is when sound, and what the faults of that wire
        add there."""
        ohm, sd = self.net.part_ohm(probe.wire, probe.part)
        wanders = 0.0
        for fault in self.faults:
            if fault.what in ("open", "cut") and probe.wire in wires_of(self.net, fault):
                return Seen(math.inf)
            if fault.where[:1] == (probe.wire,) and at_part(fault.what, fault.end, probe.part):
                more = faulty_ohm(self.net, fault) - self.net.facts[probe.wire].ohm
                ohm += more
                wanders = WANDERS * more if probe.part != "along" else 0.0
        return Seen(max(ohm, 0.0), (), sd, abs(wanders))

    def _by_metal(self, probe: Probe, clipped: bool) -> Seen:
        if not self.joined(probe):
            return Seen(math.inf)
        if not probe.single:
            return (
                self._tied(probe, set()) if clipped or probe.kind == "insulation" else Seen(0.0)
            )  # how well clipped points lead says little
        a, b = self.node(probe.a[0]), self.node(probe.b[0])
        if a == b:
            return Seen(0.0)
        rows, inverse = self.solved(self.island[a])
        phi = inverse[:, rows[a]] - inverse[:, rows[b]]
        names, tails, heads, ohms = self._lists(self.island[a])
        current = (phi[tails] - phi[heads]) / ohms
        carrying = np.flatnonzero(np.abs(current) > 1e-6)
        shares = tuple(zip(names[carrying].tolist(), (current[carrying] ** 2).tolist(), strict=True))
        return Seen(max(float(phi[rows[a]] - phi[rows[b]]), 0.0), shares)

    def _lists(self, island: int) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp], Floats]:
        """(number, row of its one end, of its other, ohms) of every edge of an island."""
        if island not in self._columns:
            rows, _ = self.solved(island)
            mine = [(at, self.edges[at]) for at in self.members[island][1]]
            self._columns[island] = (
                np.array([at for at, _ in mine], dtype=np.intp),
                np.array([rows[e.a] for _, e in mine], dtype=np.intp),
                np.array([rows[e.b] for _, e in mine], dtype=np.intp),
                np.array([e.ohm for _, e in mine]),
            )
        return self._columns[island]

    def solved(self, island: int) -> tuple[dict[int, int], Floats]:
        """(node → row, pseudo-inverse) of an island."""
        if island not in self._solved:
            nodes, edges = self.members[island]
            rows, inverse, _ = resistances(nodes, [self.edges[at] for at in edges])
            self._solved[island] = rows, inverse
        return self._solved[island]

    def _tied(self, probe: Probe, lifted: set[int]) -> Seen:
        """A probe with several points on a lead, or with a wire lifted: their islands solved with the points joined."""
        here = {self.node(one) for one in probe.a}
        there = {self.node(one) for one in probe.b}
        if here & there:
            return Seen(0.0)
        islands = {self.island[n] for n in here} & {self.island[n] for n in there}
        if not islands:
            return Seen(math.inf)
        tie = dict.fromkeys(here, "a") | dict.fromkeys(there, "b")

        def name(node: int) -> int:
            mark = tie.get(node)
            return node if mark is None else 10**9 + (mark == "b")

        edges = [
            replace(edge, a=name(edge.a), b=name(edge.b))
            for number in islands
            for at in self.members[number][1]
            if at not in lifted
            for edge in [self.edges[at]]
        ]
        nodes = {10**9, 10**9 + 1} | {node for edge in edges for node in (edge.a, edge.b)}
        rows, inverse, island = resistances(nodes, edges)
        return Seen(between(inverse, island, rows[10**9], rows[10**9 + 1]))

    def table(self, points: Iterable[Point]) -> Floats:
        """Resistance between every two of these points, infinite where nothing leads."""
        nodes = [self.node(point) for point in points]
        found = np.full((len(nodes), len(nodes)), math.inf)
        for number in {self.island[node] for node in nodes}:
            mine = [at for at, node in enumerate(nodes) if self.island[node] == number]
            rows, inverse = self.solved(number)
            at = [rows[nodes[i]] for i in mine]
            diagonal = np.diag(inverse)[at]
            block = np.maximum(diagonal[:, None] + diagonal[None, :] - 2 * inverse[np.ix_(at, at)], 0.0)
            found[np.ix_(mine, mine)] = block
        return found


SHAKES = 30
"""How often a contact that makes and breaks has its chance to while an end is bent and shaken."""


WANDERS = 0.1
"""How far a bad joint reads otherwise under a current than by an ohmmeter, as a share: films give way, metal creeps.
One standard deviation."""


CHANGES: dict[str, Callable[[State, Fault], Changes]] = {
    **dict.fromkeys(IN_LINE, State.in_line), "swap": State.swapped, "short": State.touching, "leak": State.leaking, "shield": State.shielded, "wet": State.wet, "cut": State.cut,
    "crossed": State.crossed, **dict.fromkeys((LEADS, "loose", "flicker"), State.unchanged),
}  # fmt: skip
"""What each kind of fault does to a harness."""
