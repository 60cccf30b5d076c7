"""A made-up harness of any size for benchmarks and tests: boxes along a trunk, loads on branches."""

from __future__ import annotations

import random

from umber_trunk.core.harness.edits import measured
from umber_trunk.core.harness.end import Cavity, End, EndKind, Link, LinkKind
from umber_trunk.core.harness.model import Design, Load, Pin, Point, Segment, Supply, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Method


def generated(wires: int, seed: int = 7) -> Design:
    """A radial harness of about `wires` wires: a box and its shared return every 40 wires, fed by a
    pair from the battery; each load has its own pair. The same seed gives the same harness."""
    draw = random.Random(seed)
    points = [Point(id="P0")]
    segments: list[Segment] = []
    ends = [
        End(id="battery", name="battery", point="P0", cavities=(Cavity(id="+"), Cavity(id="-"))),
    ]
    made: list[Wire] = []
    loads: list[Load] = []

    def limb(start: str, low: float, high: float) -> str:
        point = f"P{len(points)}"
        points.append(Point(id=point))
        length = measured(round(draw.uniform(low, high), 2), Method.TAPE)
        segments.append(Segment(id=f"S{len(segments)}", a=start, b=point, measure=length))
        return point

    def wire(start: Pin, finish: Pin, circuit: str, colour: str) -> None:
        made.append(Wire(id=f"W{len(made) + 1}", start=start, finish=finish, circuit=circuit, colour=colour))

    while len(made) < wires:
        box = f"box{len(points)}"
        here = limb("P0", 1.0, 4.0)
        pairs = max(1, min(19, (wires - len(made) - 2) // 2))
        ways = tuple(Cavity(id=f"F{n}") for n in range(pairs))
        fuses = tuple(
            Link(id=f"F{n}", kind=LinkKind.FUSE, a="in", b=f"F{n}", resistance_ohm=0.002, rating_a=20)
            for n in range(pairs)
        )
        ends.append(
            End(
                id=box,
                name=box,
                kind=EndKind.BOX,
                point=here,
                links=fuses,
                bridged=(("in",),),
                cavities=(Cavity(id="in"), Cavity(id="back"), *ways),
            )
        )
        wire(Pin(end="battery", cavity="+"), Pin(end=box, cavity="in"), box, "red")
        wire(Pin(end=box, cavity="back"), Pin(end="battery", cavity="-"), box, "black")
        for number in range(pairs):
            if number % 6 == 0:
                here = limb(here, 0.4, 1.5)
            name = f"{box}-{number}"
            tip = limb(here, 0.3, 2.0)
            ends.append(End(id=name, name=name, point=tip, cavities=(Cavity(id="+"), Cavity(id="-"))))
            plus, minus = Pin(end=name, cavity="+"), Pin(end=name, cavity="-")
            wire(Pin(end=box, cavity=f"F{number}"), plus, name, "red")
            wire(minus, Pin(end=box, cavity="back"), name, "black")
            loads.append(Load(id=name, name=name, plus=plus, minus=minus, value=round(draw.uniform(0.5, 9), 1)))
    supply = Supply(
        id="PS",
        name="battery",
        volts=24,
        source_ohm=round(0.02 / wires, 7),
        plus=Pin(end="battery", cavity="+"),
        minus=Pin(end="battery", cavity="-"),
    )
    return Design(
        project=Project(name=f"generated, {len(made)} wires", max_drop_percent=8),
        points=tuple(points),
        segments=tuple(segments),
        ends=tuple(ends),
        supplies=(supply,),
        loads=tuple(loads),
        wires=tuple(made),
    )
