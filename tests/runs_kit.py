"""Small harnesses for what lies along the way: a lead of one segment, a trunk with branches, trees at random."""

import random

from umber_trunk.core.harness.edits import measured
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.model import Design, Pin, Point, Segment, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Join, Measure, Method


def lead(count: int = 1, length_m: float = 2.0, size: str = "2.5 mm2", **segment: object) -> Design:
    """So many wires side by side in one segment of a length, ± 10 mm, between two boxes nobody knows the parts of."""
    names = [str(number + 1) for number in range(count)]
    ends = tuple(
        End(id=e, name=e, point=p, cavities=tuple(Cavity(id=name) for name in names))
        for e, p in (("a", "A"), ("b", "B"))
    )
    wires = tuple(
        Wire(id=f"W{name}", start=Pin(end="a", cavity=name), finish=Pin(end="b", cavity=name), size=size, signal=True)
        for name in names
    )
    one = Segment(
        id="S1", a="A", b="B", measure=Measure(length_m=length_m, method=Method.TAPE, plus_minus_m=0.010), **segment
    )
    return Design(
        project=Project(cutting_m=0.0), points=(Point(id="A"), Point(id="B")), segments=(one,), ends=ends, wires=wires
    )


def spliced(places: list[tuple[float | None, bool]], length_m: float = 0.5, **segment: object) -> Design:
    """A trunk A–B of a length with splices at B that lie on it, each (at_m from B or None, held): one wire in, two
    out."""
    points = tuple(Point(id=p) for p in ("A", "B", "C", "D"))
    ends = [
        End(id=e, name=e, point=p, cavities=tuple(Cavity(id=str(n)) for n in range(len(places))))
        for e, p in (("box", "A"), ("left", "C"), ("right", "D"))
    ]
    wires = []
    for n, (at, held) in enumerate(places):
        join = Join(segment="S1", at_m=at, held=held, dull="box")
        ends.append(
            End(
                id=f"s{n}",
                name=f"splice {n}",
                kind=EndKind.SPLICE,
                point="B",
                join=join,
                cavities=tuple(Cavity(id=c) for c in "iab"),
            )
        )
        for name, here, there in (("i", "box", None), ("a", None, "left"), ("b", None, "right")):
            pins = [Pin(end=e, cavity=str(n)) if e else Pin(end=f"s{n}", cavity=name) for e in (here, there)]
            wires.append(Wire(id=f"W{n}{name}", start=pins[0], finish=pins[1], size="1 mm2", signal=True))
    segments = (
        Segment(id="S1", a="A", b="B", measure=measured(length_m, Method.TAPE), **segment),
        Segment(id="S2", a="B", b="C", measure=measured(0.4, Method.TAPE)),
        Segment(id="S3", a="B", b="D", measure=measured(0.4, Method.TAPE)),
    )
    return Design(points=points, segments=segments, ends=tuple(ends), wires=tuple(wires))


def random_tree(seed: int, ends: int, low: float = 0.08, high: float = 0.9) -> Design:
    """A trunk with branches on branches: lengths from low to high m, nothing but the tree and its ends."""
    draw = random.Random(seed)
    points, segments = [Point(id="P0")], []

    def limb(start: str, least: float, most: float) -> str:
        point = f"P{len(points)}"
        points.append(Point(id=point))
        length = Measure(length_m=round(draw.uniform(least, most), 3), method=Method.TAPE)
        segments.append(Segment(id=f"S{len(segments) + 1}", a=start, b=point, measure=length))
        return point

    trunk = ["P0"]
    for _ in range(max(2, ends // 5)):
        trunk.append(limb(trunk[-1], 2 * low, high))
    hosts, tips = list(trunk), [trunk[0], trunk[-1]]
    while len(tips) < ends:
        point = limb(draw.choice(hosts), low, high)
        (hosts if draw.random() < 0.25 else tips).append(point)
    made = tuple(End(id=f"E{n}", name=f"end {n}", point=point) for n, point in enumerate(tips))
    return Design(points=tuple(points), segments=tuple(segments), ends=made)
