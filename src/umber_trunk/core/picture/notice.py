"""What on the picture deserves a look: open findings by the point they are at, and how interesting each point is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.harness.index import Index, index_of
from umber_trunk.core.results import Results

WEIGHTS = {Severity.FAULT: 1e4, Severity.WARNING: 1e3, Severity.NOTE: 10.0}
"""How much a finding draws the eye."""
CHOSEN = 1e6
"""What is chosen comes before all else …"""
NEAR = 1e5
"""… then what lies beside it …"""
SOURCE = 50.0
"""… and where nothing is wrong, where the current comes from."""


def points_of(index: Index, table: str, part: str) -> list[str]:
    """The points of the tree where a part is: a wire's both ends, the farther first; none where it is nowhere."""
    ends: list[str] = []
    if table == "points":
        return [part] if part in index.points else []
    if table == "segments":
        segment = index.segments.get(part)
        found = [point for point in (segment.a, segment.b) if point in index.parents] if segment else []
        return sorted(found, key=lambda point: -index.parents[point][2])
    if table == "ends":
        ends = [part]
    elif table == "fuses":
        ends = [part.rsplit(" ", 1)[0]]
    elif table == "loads" and part in index.loads:
        ends = [index.loads[part].plus.end]
    elif table == "supplies" and part in index.supplies:
        ends = [index.supplies[part].plus.end]
    elif table == "converters":
        ends = [one.plus.end for one in index.design.converters if one.id == part]
    elif table == "wires" and part in index.wires:
        ends = [index.wires[part].finish.end, index.wires[part].start.end]
    placed = [index.ends[end].point for end in ends if end in index.ends]
    known = [point for point in placed if point is not None and point in index.parents]
    return sorted(known, key=lambda point: -index.parents[point][2])


def notices(results: Results) -> dict[str, list[Finding]]:
    """Point → what is open there, for `Results.once`. A finding about a wire counts at its farther end alone."""
    index = index_of(results.design)
    found: dict[str, list[Finding]] = defaultdict(list)
    for finding in results.findings:
        point = _counted_at(index, finding.table, finding.subject)
        if point is not None:
            found[point].append(finding)
    return dict(found)


def uses(results: Results) -> dict[str, float]:
    """Point → how much the most used wire that ends there uses of its worst limit, for `Results.once`."""
    index = index_of(results.design)
    found: dict[str, float] = {}
    for name, figure in results.figures.wires.items():
        point = _counted_at(index, "wires", name)
        if point is not None:
            found[point] = max(found.get(point, 0.0), figure.guilt)
    return found


def _counted_at(index: Index, table: str, part: str) -> str | None:
    """The point at which a part counts: the farther one of a wire, which is known for all that are wired alike."""
    if table != "wires":
        return next(iter(points_of(index, table, part)), None)
    known: dict[str, str | None] = index.once_wired("farther ends", dict)
    if part not in known:
        known[part] = next(iter(points_of(index, table, part)), None)
    return known[part]


def interest(
    index: Index, results: Results | None, chosen: Iterable[str] = (), near: Iterable[str] = ()
) -> dict[str, float]:
    """Point → how much it deserves a place: chosen, near the pointer, at fault, nearly used up, the source."""
    found: dict[str, float] = defaultdict(float)
    for supply in index.design.supplies:
        for point in points_of(index, "supplies", supply.id):
            found[point] = SOURCE
    if results is not None:
        for point, used in results.once(uses).items():
            found[point] = max(found[point], round(100 * min(used, 50.0), 1))  # nothing moves for less than shows
        for point, open_there in results.once(notices).items():
            found[point] = max(found[point], max(WEIGHTS[one.severity] for one in open_there) + found[point])
    for point in near:
        found[point] = max(found[point], NEAR)
    for point in chosen:
        found[point] = CHOSEN
    return found
