"""Lays wires that have only a listed length onto a trunk: breakouts along it, branches to the ends."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import median

from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import branch, measured, new_id, put
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Point, Wire
from umber_trunk.core.harness.way import Method

TRUNK_SHARE = 0.7
"""An end leaves the trunk after this share of its wires' length."""
TOGETHER_SHARE = 0.12
"""Ends leave it at one point where the next would be less than this share further on."""


@dataclass(frozen=True)
class LayRow:
    """One end to place: it leaves `via` at `at_m` along the new trunk (0 unless via is the start) and
    hangs on a branch of branch_m."""

    end: str
    via: str
    at_m: float
    branch_m: float


@dataclass(frozen=True)
class LayPlan:
    """Where the trunk starts and every end it will reach, nearest breakout first."""

    start: str
    rows: tuple[LayRow, ...]


def provisional(design: Design) -> list[Wire]:
    """Wires whose ends aren't both on the trunk."""
    index = index_of(design)
    return [wire for wire in design.wires if not index.routes[wire.id].laid]


def suggest(design: Design, wire_ids: Iterable[str], start: str = "") -> LayPlan:
    """A plan for these wires: the trunk starts at `start`, else at the end most of them share (one on
    the trunk already goes first); ends of nearly the same reach share a breakout."""
    index = index_of(design)
    wires = [index.wires[w] for w in wire_ids if not index.routes[w].laid]
    reach = _reach(wires)
    if not reach:
        raise EditError.of("lengths.none-of-these-wires-waits")
    on_trunk = {end for end in reach if index.ends[end].point is not None}
    start = start or max(on_trunk or reach, key=lambda end: (len(reach[end]), -list(reach).index(end)))
    rows = _direct_rows(start, reach, on_trunk - {start})
    placed = {start, *on_trunk, *(row.end for row in rows)}
    queue = [start, *on_trunk - {start}, *(row.end for row in rows)]
    for via in queue:
        for end, lengths in reach[via].items():
            if end not in placed:
                rows.append(LayRow(end, via, 0.0, round(median(lengths), 3)))
                placed.add(end)
                queue.append(end)
    return LayPlan(start, tuple(rows))


def _reach(wires: list[Wire]) -> dict[str, dict[str, list[float]]]:
    """end → neighbour → listed lengths."""
    reach: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for wire in wires:
        a, b = wire.start.end, wire.finish.end
        if a != b:
            for here, there in ((a, b), (b, a)):
                reach[here][there].append(wire.stated_m or 0.0)
    return reach


def _direct_rows(start: str, reach: dict[str, dict[str, list[float]]], on_trunk: set[str]) -> list[LayRow]:
    rows: list[LayRow] = []
    at = 0.0
    direct = sorted(((median(lengths), end) for end, lengths in reach[start].items() if end not in on_trunk))
    for length, end in direct:
        wanted = length * TRUNK_SHARE
        if not rows or wanted > at * (1 + TOGETHER_SHARE):
            at = round(wanted, 2)
        rows.append(LayRow(end, start, at, round(length - at, 3)))
    return rows


def lay(design: Design, plan: LayPlan) -> Design:
    """Makes the trunk of a plan: one line from its start with a breakout at each distinct at_m."""
    index = index_of(design)
    start = index.ends.get(plan.start)
    if start is None:
        raise EditError.of("any.no-end", text=plan.start)
    for row in plan.rows:
        if row.at_m < 0 or row.branch_m < 0:
            raise EditError.of("lengths.lengths-cant-be-negative", name=index.ends[row.end].name)
    here = start.point
    if here is None:
        point = Point(id=new_id(design, "points", "P"), name=start.name)
        design, here = put(design, "points", point), point.id
        design = put(design, "ends", start.model_copy(update={"point": here}))
    places, at = {0.0: here}, 0.0
    for stop in sorted({row.at_m for row in plan.rows if row.via == plan.start and row.at_m > 0}):
        design, here = branch(design, here, measured(stop - at, Method.STATED))
        places[stop], at = here, stop
    for row in plan.rows:
        design = _hang(design, plan, row, places)
    return design


def _hang(design: Design, plan: LayPlan, row: LayRow, places: dict[float, str]) -> Design:
    index = index_of(design)
    end = index.ends[row.end]
    point = places[row.at_m] if row.via == plan.start else index.ends[row.via].point
    if point is None:
        raise EditError.of("lengths.must-be-on-trunk-before", splice=index.ends[row.via].name, end=end.name)
    if row.branch_m > 0:
        design, point = branch(design, point, measured(row.branch_m, Method.STATED), end.name, end.zone)
    return put(design, "ends", end.model_copy(update={"point": point}))
