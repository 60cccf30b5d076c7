"""Where the tips go in a net: along its wires from point to point, and through which wires a pair of points reads.

a ──w1── b ──w2── c        walked: (b, a), (b, c): one lead stays on b while the other goes round
         └──w3── d                 and (b, d)
"""

from __future__ import annotations

from umber_trunk.core.prove.netlist import Netlist, Point
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.prove.state import State

MOST_POINTS = 24
"""Points of a net between which a way for bending is looked for."""


def walked(net: Netlist, points: list[Point]) -> list[tuple[Point, Point]]:
    """Readings that reach every wire of a net and join all its points: a tree along its wires, leaves first, so
    that one lead stays while the other goes round."""
    by_node: dict[int, Point] = {}
    for point in points:
        by_node.setdefault(net.node(point), point)
    if len(by_node) < 2:
        return []
    hub = max(by_node, key=lambda node: len(net.at_node.get(node, [])))
    tree: dict[int, list[int]] = {}
    seen, todo = {hub}, [(hub, hub)]
    while todo:
        node, holder = todo.pop(0)
        for at in net.at_node.get(node, ()):
            edge = net.edges[at]
            other = edge.b if edge.a == node else edge.a
            if other in seen:
                continue
            seen.add(other)
            if other in by_node:
                tree.setdefault(holder, []).append(other)
                todo.append((other, other))
            else:  # a splice under its shrink: its wires are read from the point before it
                todo.append((other, holder))
    found: list[tuple[Point, Point]] = []

    def visit(node: int) -> None:
        for child in sorted(tree.get(node, []), key=lambda one: len(tree.get(one, []))):
            found.append((by_node[node], by_node[child]))  # a bridge in between is proven too
            visit(child)

    visit(hub)
    return found


def passing(
    net: Netlist, state: State, meter: str, points: list[Point], mine: set[str]
) -> dict[tuple[Point, Point], set[str]]:
    """(point, point) → the wires all of its current goes through, of pairs that pass one of these; of many points
    the ends of those wires alone."""
    few = (
        [point for point in points if any(point in net.places(wire) for wire in mine)]
        if len(points) > MOST_POINTS
        else points
    )
    ways = {}
    for n, a in enumerate(few[:MOST_POINTS]):
        for b in few[n + 1 : MOST_POINTS]:
            if net.node(a) == net.node(b):
                continue
            seen = state.see(Probe(meter, (a,), (b,)))
            passed = {net.edges[edge].wire for edge, share in seen.shares if share > 0.99 and net.edges[edge].wire}
            if passed & mine:
                ways[a, b] = passed
    return ways
