"""A learned cable as a design, and a design's two ends as what should be learned of them."""

from __future__ import annotations

from collections.abc import Sequence

from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.model import Design, Pin, Point, Segment, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Measure, Method
from umber_trunk.core.prove.learn import Map, Place
from umber_trunk.core.prove.netlist import Netlist


def wanted_nets(net: Netlist, a: str, b: str) -> list[tuple[Place, ...]]:
    """The nets between two ends as the design has them."""
    names = {a: "A", b: "B"}
    found: dict[int, list[Place]] = {}
    for end, cavity in net.points:
        if end in names:
            found.setdefault(net.net_at((end, cavity)), []).append((names[end], cavity))
    return [tuple(sorted(places)) for places in found.values() if len(places) > 1]


def design_of(found: Map, net: Netlist, a: str, b: str) -> Design:
    """A harness of two ends with a wire for each link that was found: from a net's first place to each other. Diodes
    are named, not wired. Its length is to be measured."""
    names = {"A": a, "B": b}
    cavities: dict[str, list[str]] = {"A": [], "B": []}
    for places in (*found.nets, tuple(found.alone)):
        for mark, cavity in places:
            cavities[mark].append(cavity)
    ends = tuple(
        End(
            id=mark,
            name=net.index.ends[names[mark]].name,
            kind=EndKind.CONNECTOR,
            point=f"P{mark}",
            cavities=tuple(Cavity(id=one) for one in _in_order(net, names[mark], cavities[mark])),
            housings=net.index.ends[names[mark]].housings,
        )
        for mark in "AB"
    )
    wires: list[Wire] = []
    for number, places in enumerate(found.nets, 1):
        first = next((place for place in places if place[0] == "A"), places[0])
        for place in places:
            if place != first:
                start, finish = (Pin(end=mark, cavity=cavity) for mark, cavity in (first, place))
                wires.append(
                    Wire(id=f"K{len(wires) + 1}", start=start, finish=finish, circuit=f"net {number}", signal=True)
                )
    way = Segment(id="S1", a="PA", b="PB", measure=Measure(length_m=0.0, method=Method.GUESS))
    return Design(
        project=Project(name="learned cable"),
        points=(Point(id="PA"), Point(id="PB")),
        segments=(way,),
        ends=ends,
        wires=tuple(wires),
    )


def _in_order(net: Netlist, end: str, cavities: Sequence[str]) -> list[str]:
    return [cavity.id for cavity in net.index.ends[end].cavities if cavity.id in cavities]
