"""A load that doesn't work, found plugged in: volts against dividers worked by hand, and every suspect of the demos
named."""

from __future__ import annotations

import random

import numpy as np
import pytest

from core.prove.prove_kit import subject
from umber_trunk.core.analysis import analyse
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.model import Design, Load, LoadKind, Pin, Point, Segment, Supply, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Measure
from umber_trunk.core.prove.powered import Powered


def lamp(lamps: int = 1) -> Design:
    """A battery of 12 V without a resistance of its own and lamps of 2.4 Ω (5 A), two wires each of next to nothing."""
    ends = tuple(
        End(id=name, name=name, point=name, kind=EndKind.DEVICE, cavities=(Cavity(id="+"), Cavity(id="-")))
        for name in ("battery", *(f"lamp{n}" for n in range(lamps)))
    )
    wires, loads = [], []
    for n in range(lamps):
        wires += [
            Wire(id=f"P{n}", start=Pin(end="battery", cavity="+"), finish=Pin(end=f"lamp{n}", cavity="+"), size="6 mm2")
        ]
        wires += [
            Wire(id=f"M{n}", start=Pin(end=f"lamp{n}", cavity="-"), finish=Pin(end="battery", cavity="-"), size="6 mm2")
        ]
        loads.append(
            Load(
                id=f"L{n}",
                name=f"lamp {n}",
                kind=LoadKind.RESISTANCE,
                value=2.4,
                plus=Pin(end=f"lamp{n}", cavity="+"),
                minus=Pin(end=f"lamp{n}", cavity="-"),
            )
        )
    points = tuple(Point(id=end.id) for end in ends)
    ways = tuple(Segment(id=f"S{n}", a="battery", b=f"lamp{n}", measure=Measure(length_m=0.001)) for n in range(lamps))
    supply = Supply(
        id="B",
        name="battery",
        volts=12.0,
        source_ohm=0.0,
        plus=Pin(end="battery", cavity="+"),
        minus=Pin(end="battery", cavity="-"),
    )
    return Design(
        project=Project(joint_ohm=1e-6, entry_m=0.0, strip_m=0.0),
        points=points,
        segments=ways,
        ends=ends,
        wires=tuple(wires),
        loads=tuple(loads),
        supplies=(supply,),
    )


@pytest.mark.parametrize("times", [0.3, 1.0, 3.0])
def test_volts_are_those_of_a_divider(times: float) -> None:
    """A bad joint of k × 2.4 Ω before the lamp leaves it 12 / (1 + k); behind it, its minus lifts to 12 k / (1 + k);
    the other lamp has all 12."""
    search = Powered(analyse(lamp(2)), "L0")
    for n, one in enumerate(search.suspects):
        if one.kind in ("wire", "ground") and one.ohms[0][1] == pytest.approx(times * 2.4):
            at = search.at(n)
            plus, minus = at[search.pins["lamp0", "+"]], at[search.pins["lamp0", "-"]]
            assert plus == pytest.approx(12 / (1 + times) if one.kind == "wire" else 12, abs=0.02)
            assert minus == pytest.approx(0 if one.kind == "wire" else 12 * times / (1 + times), abs=0.02)
    assert {one.where for one in search.suspects if one.kind == "wire"} == {"P0"}, (
        "the other lamp's wires don't starve this one"
    )
    search.read(("lamp0", "+"), ("lamp0", "-"), 10.0, twin=10.1)
    twin = {one.kind: one.probability for one in search.named()}
    search.readings.clear()
    search._twin.clear()
    search.read(("lamp0", "+"), ("lamp0", "-"), 10.0)
    alone = {one.kind: one.probability for one in search.named()}
    assert twin["load"] > 5 * alone["load"], "10 V is what a sound twin has there: the lamp itself is dead"
    search.readings.clear()
    assert search.next() is not None
    assert search.next().expect == pytest.approx(12, abs=0.01)  # type: ignore[union-attr]


@pytest.mark.parametrize("name", ["tractor", "barge"])
def test_every_suspect_of_every_load_is_named(name: str) -> None:
    """Volts of the harness solved with each suspect in it, read to 30 mV: named first, or among what no place to probe
    tells from it."""
    results, draw, right, cases, readings = subject(name).results, random.Random(2), 0, 0, 0
    for load in results.design.loads:
        search = Powered(results, load.id)
        for n, one in enumerate(search.suspects):
            if n % 3 and one.kind in ("wire", "ground", "switch"):
                continue
            search.readings.clear()
            at = search.at(n)
            while (ask := search.next()) is not None:
                search.read(ask.a, ask.b, float(at[search.pins[ask.a]] - at[search.pins[ask.b]]) + draw.gauss(0, 0.03))
            named = {(row.kind, row.where): row.probability for row in search.named()}
            best = max(named.values())
            cases, readings = cases + 1, readings + len(search.readings)
            alike = [
                m
                for m, other in enumerate(search.suspects)
                if np.allclose(search.at(m)[list(search.pins.values())], at[list(search.pins.values())], atol=0.15)
            ]
            right += any(named[search.suspects[m].kind, search.suspects[m].where] >= 0.4 * best for m in {n, *alike})
    assert cases > 60
    assert right >= 0.95 * cases
    assert readings / cases < 8


@pytest.mark.parametrize("times", [0.93, 1.0, 1.15])
def test_a_source_that_charges_or_rests_is_taken_as_it_reads(times: float) -> None:
    """A blown fuse on a vehicle at 11.2, 12 or 13.8 V: the same fault, by the same readings times so much."""
    search = Powered(subject("tractor").results, "beacon")
    at = times * search.at(next(n for n, one in enumerate(search.suspects) if (one.kind, one.where) == ("fuse", "F5")))
    while (ask := search.next()) is not None:
        search.read(ask.a, ask.b, float(at[search.pins[ask.a]] - at[search.pins[ask.b]]))
    first = search.named()[0]
    assert (first.kind, first.where, first.probability > 0.9) == ("fuse", "F5", True)
    assert search.weights()[1] < 0.05


def test_what_is_dangerous_or_not_there_is_refused() -> None:
    design = lamp()
    mains = design.model_copy(
        update={"supplies": (design.supplies[0].model_copy(update={"volts": 230.0, "ac": True}),)}
    )
    with pytest.raises(InputError, match="qualified person"):
        Powered(analyse(mains), "L0")
    with pytest.raises(InputError, match="no load"):
        Powered(analyse(design), "L9")
    search = Powered(analyse(design), "L0")
    with pytest.raises(InputError, match="more than this source gives"):
        search.read(("battery", "+"), ("battery", "-"), 400.0)
    with pytest.raises(InputError, match="isn’t a place"):
        search.read(("moon", "+"), ("battery", "-"), 12.0)
    fused = analyse(design.model_copy(update={"wires": (), "segments": ()}))
    with pytest.raises(InputError):
        Powered(fused, "L0")
