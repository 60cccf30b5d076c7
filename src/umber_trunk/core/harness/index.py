"""Derived look-ups of one design: parts by id, the tree, routes and nets. Nothing here is stored."""

from __future__ import annotations

import threading
from collections import defaultdict
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import cached_property
from typing import Any, TypeVar

from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.model import Design, Load, Point, Segment, Supply, Wire, Zone
from umber_trunk.core.harness.ways import Ways
from umber_trunk.core.memo import Memo

Answer = TypeVar("Answer")
TREE = {"points", "segments", "ends", "supplies"}
OF_TREE = (
    "ends",
    "supplies",
    "points",
    "segments",
    "ends_at",
    "neighbours",
    "root",
    "parents",
    "nets",
    "loops",
    "ways",
)
OF_WIRING = ("routes", "contents", "lengths", "wires_at")
WIRED = ("id", "start", "finish", "stated_m", "parallel", "cable", "at_start", "at_finish", "via")
WIRING = TREE | {"project", "zones", "loads", "cases", "converters", "cables", "parts"}


@dataclass(frozen=True)
class Route:
    """The way of one wire: segments in order from start to finish. Empty when not on the trunk."""

    segments: tuple[str, ...]
    laid: bool


class Index:
    """Look-ups of one design; build it through `index_of`, which keeps the latest few."""

    def __init__(self, design: Design, like: Index | None = None) -> None:
        self.design = design
        self._shared = Memo()
        """What is worked out once for all designs that are wired alike: see `once_wired`."""
        self._own = Memo()
        self._lent: dict[Hashable, Any] = {}
        """Answers about the design before this one, for what can be taken over of them."""
        if like is not None:
            self._lent = {**like._lent, **like._own.known()}
            self._take(like)

    def _take(self, like: Index) -> None:
        """Takes over what an index of a like design has worked out, as far as this design can't change it."""
        mine, other = self.design, like.design
        same = {name for name in Design.model_fields if getattr(mine, name) is getattr(other, name)}
        if not same >= TREE:
            return
        wired = len(mine.wires) == len(other.wires) and all(
            a is b or all(getattr(a, name) == getattr(b, name) for name in WIRED)
            for a, b in zip(mine.wires, other.wires, strict=True)
        )
        for name in (*OF_TREE, *(OF_WIRING if wired else ())):
            if name in like.__dict__:
                self.__dict__[name] = like.__dict__[name]
        if wired and same >= WIRING:
            self._shared = like._shared

    def lent(self, name: Hashable) -> Any:
        """The answer that was known under a name of the design looked at before, None where there was none."""
        return self._lent.get(name)

    def once(self, name: Hashable, work: Callable[[], Answer]) -> Answer:
        """An answer about this very design, worked out the first time it is wanted."""
        return self._own.once(name, work)

    def once_wired(self, name: Hashable, work: Callable[[], Answer]) -> Answer:
        """An answer that depends on all of the design but names, sizes and stuff of wires; shared by all that are wired
        alike."""
        return self._shared.once(name, work)

    @cached_property
    def ends(self) -> dict[str, End]:
        return {end.id: end for end in self.design.ends}

    @cached_property
    def wires(self) -> dict[str, Wire]:
        return {wire.id: wire for wire in self.design.wires}

    @cached_property
    def loads(self) -> dict[str, Load]:
        return {load.id: load for load in self.design.loads}

    @cached_property
    def supplies(self) -> dict[str, Supply]:
        return {supply.id: supply for supply in self.design.supplies}

    @cached_property
    def points(self) -> dict[str, Point]:
        return {point.id: point for point in self.design.points}

    @cached_property
    def segments(self) -> dict[str, Segment]:
        return {segment.id: segment for segment in self.design.segments}

    @cached_property
    def zones(self) -> dict[str, Zone]:
        return {zone.id: zone for zone in self.design.zones}

    @cached_property
    def ends_at(self) -> dict[str, list[End]]:
        """Ends by the point they sit at."""
        found: dict[str, list[End]] = defaultdict(list)
        for end in self.design.ends:
            if end.point is not None:
                found[end.point].append(end)
        return found

    @cached_property
    def wires_at(self) -> dict[str, list[str]]:
        """Ids of wires by the end they begin or finish at, in list order; one that does both is there once."""
        found: dict[str, list[str]] = {}
        for wire in self.design.wires:
            for end in dict.fromkeys((wire.start.end, wire.finish.end)):
                found.setdefault(end, []).append(wire.id)
        return found

    def point_name(self, point: str) -> str:
        """A point's name, else that of the first end at it, else its id."""
        known = self.points.get(point)
        named = known.name if known else ""
        return named or next((end.name for end in self.ends_at.get(point, [])), point)

    def segment_name(self, segment: str) -> str:
        """A segment by its id and both its points."""
        part = self.segments[segment]
        return f"{segment} {self.point_name(part.a)} – {self.point_name(part.b)}"

    @cached_property
    def neighbours(self) -> dict[str, list[tuple[str, str]]]:
        """point → [(segment, other point)], only for segments whose points exist."""
        found: dict[str, list[tuple[str, str]]] = {point.id: [] for point in self.design.points}
        for segment in self.design.segments:
            if segment.a in found and segment.b in found and segment.a != segment.b:
                found[segment.a].append((segment.id, segment.b))
                found[segment.b].append((segment.id, segment.a))
        return found

    @cached_property
    def root(self) -> str | None:
        """The point the tree hangs from: the first supply's, else the first end's, else the first."""
        for supply in self.design.supplies:
            end = self.ends.get(supply.plus.end)
            if end is not None and end.point in self.points:
                return end.point
        placed = next((end.point for end in self.design.ends if end.point in self.points), None)
        return placed or (self.design.points[0].id if self.design.points else None)

    @cached_property
    def parents(self) -> dict[str, tuple[str, str, int]]:
        """point → (parent point, segment to it, depth) by breadth first search; roots map to ("", "", 0).

        A loop's closing segment is left out (findings name it); each island gets its own root.
        """
        found: dict[str, tuple[str, str, int]] = {}
        order = ([self.root] if self.root else []) + [point.id for point in self.design.points]
        for start in order:
            if start in found:
                continue
            found[start] = ("", "", 0)
            queue = [start]
            for here in queue:
                depth = found[here][2] + 1
                for segment, other in self.neighbours[here]:
                    if other not in found:
                        found[other] = (here, segment, depth)
                        queue.append(other)
        return found

    def path(self, a: str, b: str) -> tuple[str, ...] | None:
        """Segments from point a to point b, or None when they hang on different trees."""
        parents = self.parents
        if a not in parents or b not in parents:
            return None
        up: list[str] = []
        down: list[str] = []
        while a != b:
            if parents[a][2] >= parents[b][2]:
                a, step, _ = parents[a]
                up.append(step)
            else:
                b, step, _ = parents[b]
                down.append(step)
            if not step:
                return None
        return (*up, *reversed(down))

    @cached_property
    def loops(self) -> tuple[str, ...]:
        """Segments that close a loop: what the tree of `parents` leaves out, in the order of the design."""
        used = {segment for _, segment, _ in self.parents.values()}
        return tuple(
            s.id
            for s in self.design.segments
            if s.id not in used and s.a != s.b and s.a in self.points and s.b in self.points
        )

    @cached_property
    def ways(self) -> Ways:
        """All ways along the segments."""
        known = [s for s in self.design.segments if s.a in self.points and s.b in self.points and s.a != s.b]
        return Ways(known, self.points)

    def way(self, a: str, b: str, via: tuple[str, ...] = ()) -> tuple[str, ...] | None:
        """The way a wire takes from point to point: the shortest, or the shortest that takes all of `via`; where none
        does, the shortest (a finding says so). None where there is no way."""
        if via and a != b and (pinned := self.ways.pinned(a, b, via)) is not None:
            return pinned
        return self.ways.shortest(a, b) if self.loops else self.path(a, b)

    @cached_property
    def routes(self) -> dict[str, Route]:
        """wire id → its way along the tree."""
        memo: dict[tuple[str, str, tuple[str, ...]], Route] = {}
        found = {}
        for wire in self.design.wires:
            start, finish = self.ends.get(wire.start.end), self.ends.get(wire.finish.end)
            a, b = start.point if start else None, finish.point if finish else None
            if a is None or b is None:
                found[wire.id] = Route((), False)
                continue
            if (a, b, wire.via) not in memo:
                way = self.way(a, b, wire.via)
                memo[a, b, wire.via] = Route(way or (), way is not None)
            found[wire.id] = memo[a, b, wire.via]
        return found

    @cached_property
    def contents(self) -> dict[str, list[str]]:
        """segment id → ids of the wires in it, in list order."""
        found: dict[str, list[str]] = {segment.id: [] for segment in self.design.segments}
        for wire_id, route in self.routes.items():
            for segment in route.segments:
                found[segment].append(wire_id)
        return found

    @cached_property
    def nets(self) -> dict[tuple[str, str], int]:
        """(end, cavity) → net number: cavities bridged inside an end share one."""
        numbers: dict[tuple[str, str], int] = {}
        for end in self.design.ends:
            groups = [list(group) for group in end.bridged]
            if end.kind in ("stud", "splice", "bar"):
                groups.append([cavity.id for cavity in end.cavities])
            joined = _joined([cavity.id for cavity in end.cavities], groups)
            local: dict[str, int] = {}
            for cavity, group_of in joined.items():
                number = local.setdefault(group_of, len(numbers) + 1)
                numbers[end.id, cavity] = number
        return numbers

    @cached_property
    def lengths(self) -> dict[str, float]:
        """wire id → routed length, from where its splices lie; the stated one while the wire isn't laid or both its
        ends are at one point."""
        long = {segment.id: segment.measure.length_m for segment in self.design.segments}
        joined = {end.id: end.join for end in self.design.ends if end.join is not None and end.join.at_m}
        found = {
            wire.id: sum([long[s] for s in way]) if (way := self.routes[wire.id].segments) else wire.stated_m or 0.0
            for wire in self.design.wires
        }
        for wire in self.design.wires if joined else ():
            way = self.routes[wire.id].segments
            if (
                not way and self.routes[wire.id].laid and wire.start.end != wire.finish.end
            ):  # from splice to splice, or beside one
                both = [joined[end] for end in (wire.start.end, wire.finish.end) if end in joined]
                signs = (1, -1) if len({join.segment for join in both}) < len(both) else (1, 1)
                found[wire.id] = abs(sum(sign * (join.at_m or 0.0) for sign, join in zip(signs, both, strict=False)))
                continue
            for end, first in ((wire.start.end, way[:1]), (wire.finish.end, way[-1:])):
                join = joined.get(end)
                if join is not None and way:
                    found[wire.id] += -(join.at_m or 0.0) if join.segment in first else join.at_m or 0.0
            found[wire.id] = max(found[wire.id], 0.0)
        return found

    def length_m(self, wire: Wire) -> float:
        """Routed or stated length of a wire of this design."""
        return self.lengths[wire.id]

    def ambient_c(self, segment: Segment) -> float:
        """The zone's ambient, or the project's."""
        zone = self.zones.get(segment.zone) if segment.zone else None
        return zone.ambient_c if zone else self.design.project.ambient_c


def _joined(members: list[str], groups: list[list[str]]) -> dict[str, str]:
    """member → its group's first member; groups that overlap become one."""
    leader = {member: member for member in members}

    def find(member: str) -> str:
        while leader[member] != member:
            member = leader[member]
        return member

    for group in groups:
        known = [member for member in group if member in leader]
        for member in known[1:]:
            leader[find(member)] = find(known[0])
    return {member: find(member) for member in members}


class _ById:
    """Keeps the indexes of the latest designs by identity, since hashing a design is slow."""

    def __init__(self, keep: int) -> None:
        self.keep = keep
        self.latest: list[Index] = []
        self._lock = threading.Lock()

    def __call__(self, design: Design) -> Index:
        for index in self.latest:
            if index.design is design:
                return index
        with self._lock:
            for index in self.latest:
                if index.design is design:
                    return index
            index = Index(design, self.latest[0] if self.latest else None)
            self.latest = [index, *self.latest[: self.keep - 1]]
            return index


index_of = _ById(keep=6)
