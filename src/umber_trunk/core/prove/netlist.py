"""A harness as it lies on the bench to be tested: devices unplugged, fuses out, source off; only its own metal is left.

Plugs are open, so what a device joins inside itself is not there; bars, studs, splices and the bridges of boxes and
terminal blocks are. Places of a frame and what is earthed are one node, EARTH.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.ends.wire_ends import STUDS, Side, places_of
from umber_trunk.core.harness.end import End, EndKind, LinkKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Pin
from umber_trunk.core.harness.screens import Screen, screens_of
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.results import Results

Floats = NDArray[np.float64]
Point = tuple[str, str]
EARTH: Point = ("", "earth")
JOINING = (EndKind.SPLICE, EndKind.STUD, EndKind.BAR)
UNPLUGGED = (EndKind.DEVICE, EndKind.CONNECTOR, EndKind.CONVERTER, EndKind.SWITCH, EndKind.RELAY)
TYPICAL_SHARE = 0.98
"""A table gives the most a conductor may have; sound wire lies a little under it."""
TABLED_SD, COMPUTED_SD, BATH_SD_K, JOINT_SD_SHARE = 0.02, 0.03, 3.0, 0.5
"""One standard deviation: of a conductor's resistance by a table, or worked out from its nominal area; of its
temperature in K, of a joint's resistance as a share of it."""
TEST_C = 20.0
"""Temperature of a harness on the bench where none is said."""
LEAST_OHM = 2e-5
"""No wire with its joints is predicted better than this."""
BRIDGE_OHM = 1e-4
"""A link of no resistance, as the network has it."""


def point_of(pin: Pin) -> Point:
    """A pin as a point."""
    return pin.end, pin.cavity


@dataclass(frozen=True)
class Edge:
    """One piece of metal between two nodes; `wire` is "" for a coupler or bridge. `sd_ohm` is one standard deviation of
    a sound one."""

    wire: str
    a: int
    b: int
    ohm: float
    sd_ohm: float

    def cut(self, along: float, middle: int) -> tuple[Edge, Edge]:
        """Its two parts beside a node so far along it, as a share; where exactly that is, is never known better than to
        a hundredth."""

        def part(share: float) -> float:
            return math.hypot(self.sd_ohm * share, 0.01 * self.ohm)

        return (
            replace(self, b=middle, ohm=self.ohm * along, sd_ohm=part(along)),
            replace(self, a=middle, ohm=self.ohm * (1 - along), sd_ohm=part(1 - along)),
        )

    def moved(self, side: int, node: int) -> Edge:
        """The same with its start (0) or finish (1) at another node."""
        return replace(self, a=node) if side == 0 else replace(self, b=node)


@dataclass(frozen=True)
class WireFacts:
    """What a fault of a wire is worked out from: its metal alone, in Ω, and how long it is."""

    copper_ohm: float
    length_m: float
    joints: tuple[float, float]

    @property
    def ohm(self) -> float:
        """From cavity to cavity."""
        return max(self.copper_ohm + sum(self.joints), LEAST_OHM)


class Netlist:
    """Nodes and edges of the unplugged harness. `points` are the cavities a probe can reach that a wire goes to;
    splices under their shrink are none."""

    def __init__(self, results: Results, test_c: float = TEST_C) -> None:
        self.results, self.design, self.test_c = results, results.design, test_c
        self.index = index_of(results.design)
        self.shelf = results.shelf
        self.node_of: dict[Point, int] = {}
        self._joined()
        self.facts: dict[str, WireFacts] = {}
        self._wired_points: set[Point] = set()
        self.edges: list[Edge] = []
        self._wired()
        self.edge_of = {edge.wire: number for number, edge in enumerate(self.edges) if edge.wire}
        self.at_node: dict[int, list[int]] = {}
        for number, edge in enumerate(self.edges):
            self.at_node.setdefault(edge.a, []).append(number)
            self.at_node.setdefault(edge.b, []).append(number)
        self.net_of = self._nets()
        self.points: list[Point] = [
            (end.id, cavity.id)
            for end in self.design.ends
            if end.kind is not EndKind.SPLICE
            for cavity in end.cavities
            if (end.id, cavity.id) in self._wired_points
        ]
        self._reach = set(self.points)

    def unplugs(self, end: End) -> bool:
        """Whether an end's own joints are on the other side of a plug, so that they are gone when it is pulled or its
        lugs are off."""
        if end.kind in JOINING or end.frame:
            return False
        bodies = [housing for body in end.housings if (housing := self.shelf.get(body.part, Housing)) is not None]
        return end.kind in UNPLUGGED or any(housing.contacts in ("pin", "socket") for housing in bodies)

    def _joined(self) -> None:
        for end in self.design.ends:
            names = [cavity.id for cavity in end.cavities]
            groups: list[list[str]] = []
            if end.kind in JOINING:
                groups = [names]
            elif not self.unplugs(end):
                groups = [list(group) for group in end.bridged]
            local: dict[str, int] = {}
            for cavity in names:
                if end.frame:
                    self.node_of[end.id, cavity] = 0
                    continue
                if cavity in local:
                    self.node_of[end.id, cavity] = local[cavity]
                    continue
                number = len(self.node_of) + 1
                reached, todo = {cavity}, [cavity]
                while todo:
                    one = todo.pop()
                    for group in groups:
                        if one in group:
                            todo += [other for other in group if other not in reached]
                            reached |= set(group)
                for other in reached:
                    local[other] = number
                self.node_of[end.id, cavity] = number

    def _wired(self) -> None:
        plant, lengths = self.results.plant, self.results.once(wire_lengths)
        ohm_per_m = plant.bodies.ohm_per_m(np.full(len(plant.wires), self.test_c)) if plant.wires else np.zeros(0)
        for row, wire in enumerate(plant.wires):
            a, b = self.places(wire.id)
            if a not in self.node_of or b not in self.node_of:
                continue
            metres = lengths[wire.id].finished_m if wire.id in lengths else float(plant.length_m[row])
            cond = plant.conductors[row]
            tabled = cond.ohm_source == cond.make.source
            copper = (TYPICAL_SHARE if tabled else 1.0) * float(ohm_per_m[row]) * metres / wire.parallel
            joints = float(plant.end_ohm[row, 0]), float(plant.end_ohm[row, 1])
            one = self.facts[wire.id] = WireFacts(copper, metres, joints)
            sd_m = lengths[wire.id].sd_m if wire.id in lengths else 0.03 * metres
            alpha = cond.metal.alpha_per_k
            sd = math.hypot(
                copper * (TABLED_SD if tabled else COMPUTED_SD),
                copper * alpha * BATH_SD_K,
                copper * (sd_m / metres if metres else 0.0),
                JOINT_SD_SHARE * math.hypot(*joints),
            )
            self.edges.append(Edge(wire.id, self.node_of[a], self.node_of[b], one.ohm, max(sd, 0.01 * one.ohm)))
            self._wired_points |= {a, b}
        for end in self.design.ends:
            for link in end.links:
                a, b = (end.id, link.a), (end.id, link.b)
                if (
                    link.kind is LinkKind.COUPLER
                    and a in self.node_of
                    and b in self.node_of
                    and self.node_of[a] != self.node_of[b]
                ):
                    ohm = max(link.resistance_ohm, BRIDGE_OHM)
                    self.edges.append(Edge("", self.node_of[a], self.node_of[b], ohm, 0.3 * ohm))

    @cached_property
    def screens(self) -> dict[str, Screen]:
        """Cable → its screen, of those that lead from place to place."""
        return {cable: screen for cable, screen in screens_of(self.index).items() if screen.wire in self.facts}

    @cached_property
    def arriving(self) -> dict[str, tuple[str, ...]]:
        """End → its wires, of those that lead from place to place."""
        found: dict[str, list[str]] = {}
        for wire in self.facts:
            for point in self.places(wire):
                found.setdefault(point[0], []).append(wire)
        return {end: tuple(dict.fromkeys(wires)) for end, wires in found.items()}

    @cached_property
    def cores(self) -> dict[str, tuple[str, ...]]:
        """Cable → its wires that lead from place to place; of jacketed cables and pairs with at least two such."""
        found: dict[str, list[str]] = {}
        for wire in self.design.wires:
            if wire.cable and wire.id in self.facts:
                found.setdefault(wire.cable, []).append(wire.id)
        return {cable: tuple(wires) for cable, wires in found.items() if len(wires) > 1}

    def alike_plugs(self, one: str, two: str) -> bool:
        """Whether what belongs at one end goes into the other's place: the same housings, or the same cavities where no
        part is chosen."""
        a, b = self.index.ends[one], self.index.ends[two]
        if a.kind is not b.kind or a.kind not in UNPLUGGED:
            return False
        labels = [sorted(cavity.label or cavity.id for cavity in end.cavities) for end in (a, b)]
        parts = [sorted(body.part or "" for body in end.housings) for end in (a, b)]
        return labels[0] == labels[1] and parts[0] == parts[1] and len(labels[0]) > 1

    def screwed(self, wire: str, end: str) -> bool:
        """Whether a wire is under a nut or screw at an end, by its lug, its clamp or the place alone."""
        one = self.index.wires[wire]
        return any(self._screws[wire][side] for side, pin in enumerate((one.start, one.finish)) if pin.end == end)

    def parts(self, wire: str) -> tuple[str, ...]:
        """What of a wire millivolts can be read across without piercing it: "stud@END" and "crimp@END" at each end
        under a nut or screw, and "along" it where both its ends are."""
        ends = [point[0] for side, point in enumerate(self.places(wire)) if self._screws[wire][side]]
        joints = [f"{part}@{end}" for end in ends for part in ("stud", "crimp")]
        return (*joints, "along") if len(set(ends)) == 2 else tuple(joints)

    def part_ohm(self, wire: str, part: str) -> tuple[float, float]:
        """(ohms, one standard deviation) of a part of a sound wire."""
        facts = self.facts[wire]
        if part == "along":
            row = self.edges[self.edge_of[wire]]
            return facts.copper_ohm, math.sqrt(
                max(row.sd_ohm**2 - (JOINT_SD_SHARE * math.hypot(*facts.joints)) ** 2, (0.01 * facts.copper_ohm) ** 2)
            )
        side = 0 if self.places(wire)[0][0] == part.partition("@")[2] else 1
        return facts.joints[side] / 2, JOINT_SD_SHARE * facts.joints[side] / math.sqrt(2)

    @cached_property
    def _screws(self) -> dict[str, tuple[bool, bool]]:
        places = places_of(self.design, self.shelf)

        def screws(wire: str, side: Side) -> bool:
            one = places.by_key.get((wire, side))
            return one is not None and (one.made in ("lug", "clamp") or (one.made is None and one.end.kind in STUDS))

        return {wire: (screws(wire, "start"), screws(wire, "finish")) for wire in self.facts}

    def places(self, wire: str) -> tuple[Point, Point]:
        """Where a wire goes from and to."""
        one = self.index.wires[wire]
        return point_of(one.start), point_of(one.finish)

    def reached(self, wire: str) -> bool:
        """Whether a probe can be put to both its ends."""
        return wire in self.facts and all(place in self._reach for place in self.places(wire))

    def _nets(self) -> dict[int, int]:
        """Node → net, numbered in the order of the design; the earth's node is there always."""
        found: dict[int, int] = {}
        many = 0
        for start in [0, *self.node_of.values()]:
            if start in found:
                continue
            found[start] = number = many
            many += 1
            todo = [start]
            while todo:
                for edge in self.at_node.get(todo.pop(), ()):
                    for other in (self.edges[edge].a, self.edges[edge].b):
                        if other not in found:
                            found[other] = number
                            todo.append(other)
        return found

    @cached_property
    def nets(self) -> dict[int, list[Point]]:
        """Net → the points of it that a probe can reach, in the order of the design; nets without any are left out."""
        found: dict[int, list[Point]] = {}
        for point in self.points:
            found.setdefault(self.net_of[self.node_of[point]], []).append(point)
        return found

    def net_at(self, point: Point) -> int:
        """The net a point belongs to."""
        return self.net_of[self.node_of[point]]

    def wire_net(self, wire: str) -> int:
        """The net a wire belongs to."""
        return self.net_of[self.edges[self.edge_of[wire]].a]

    def name(self, point: Point) -> str:
        """A point in words."""
        if point == EARTH:
            return "earth"
        end = self.index.ends[point[0]]
        label = next((cavity.label for cavity in end.cavities if cavity.id == point[1]), "") or point[1]
        return f"{end.name} {label}"

    def said(self, point: Point) -> str:
        """A point as it is written in lists and logs: END:CAVITY, or earth."""
        return "earth" if point == EARTH else f"{point[0]}:{point[1]}"

    def node(self, point: Point) -> int:
        """The node of a point; KeyError for one there is none of."""
        return 0 if point == EARTH else self.node_of[point]


def netlist(results: Results) -> Netlist:
    """The harness unplugged; for `Results.once`."""
    return Netlist(results)


def resistances(nodes: Iterable[int], edges: Iterable[Edge]) -> tuple[dict[int, int], Floats, NDArray[np.int_]]:
    """(node → row, pseudo-inverse of the Laplacian, island of each row): the resistance between rows i and j of one
    island is P[i,i] + P[j,j] − 2 P[i,j]."""
    rows = {node: row for row, node in enumerate(dict.fromkeys(nodes))}
    n = len(rows)
    matrix = np.zeros((n, n))
    island = np.arange(n)
    for edge in edges:
        i, j, g = rows[edge.a], rows[edge.b], 1.0 / max(edge.ohm, LEAST_OHM)
        if i == j:
            continue
        matrix[i, i] += g
        matrix[j, j] += g
        matrix[i, j] -= g
        matrix[j, i] -= g
        if island[i] != island[j]:
            island[island == island[j]] = island[i]
    pinned = matrix.copy()
    for number in np.unique(island):
        mine = np.flatnonzero(island == number)
        scale = max(float(matrix[mine, mine].mean()), 1.0)
        pinned[np.ix_(mine, mine)] += scale / len(mine)  # the constant vector, so that it can be inverted
    inverse: Floats = np.array(np.linalg.inv(pinned) if n else pinned)
    return rows, inverse, island


def between(inverse: Floats, island: NDArray[np.int_], i: int, j: int) -> float:
    """Resistance between two rows, infinite between two islands."""
    if island[i] != island[j]:
        return math.inf
    return float(max(inverse[i, i] + inverse[j, j] - 2 * inverse[i, j], 0.0))
