"""Sums of what is left, each worked by hand beside it: times learnt, steps of an upgrade, tries an end has left, what a
metre is worth."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from conftest import design_of
from demos import worked_out
from umber_trunk.core.analysis import analyse
from umber_trunk.core.ends.repair import tries_left
from umber_trunk.core.ends.strip import strip_of
from umber_trunk.core.ends.wire_ends import places_of
from umber_trunk.core.harness import edits
from umber_trunk.core.keep.compare import upgrade
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.times import learn
from umber_trunk.core.sentences import Message
from umber_trunk.core.sizes.metre import metre_of


def step(key: str, op: str = "crimp", **more: object) -> Operation:
    return Operation(key, op, Message("make.step", {}), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("seconds", "middle", "sd"),
    [
        ((10, 11, 12, 13, 14), 12, 1.4826 * 1),  # away from 12: 2 1 0 1 2, the middle of them 1
        ((10, 11, 12, 13, 3000), 12, 1.4826 * 1),  # a coffee break: 2 1 0 1 2988
        ((8, 8, 8, 8, 8, 9), 8, 0.0),  # most alike: no spread
        ((4, 6, 8, 10, 12, 14), 9, 1.4826 * 3),  # between 8 and 10; away 5 3 1 1 3 5, between 3 and 3
        ((20, 20, 30, 30, 40, 40, 50), 30, 1.4826 * 10),  # away 10 10 0 0 10 10 20
        ((0.1, 10, 11, 12, 13, 14, 4000), 12, 1.4826 * 1),  # under a fifth of a second and over an hour are no times
    ],
)
def test_times_learnt(seconds: tuple[float, ...], middle: float, sd: float) -> None:
    times = learn([("crimp", "P", one) for one in seconds])
    assert times.of(step("a", tool="P"))[:2] == pytest.approx((middle, sd))  # type: ignore[index]
    assert learn([("crimp", "P", one) for one in seconds[:4]]).of(step("a", tool="P")) is None


def test_the_spread_of_a_sum_of_times() -> None:
    """Four crimps of 12 ± 1.4826 s by five readings: singles 4 × 1.4826² = 8.792; the median itself is off by 1.2533 ×
    1.4826 / √5 =
    0.831 s, four times that is 3.324, squared 11.05; √19.84 = 4.454, times 1.645 = 7.33 s. One strip nobody timed: 0.4
    × 8 × 1.645 = 5.26."""
    times = learn([("crimp", "P", one) for one in (10, 11, 12, 13, 14)])
    four = [step(f"{n}", tool="P") for n in range(4)]
    assert times.spread_s(four) == pytest.approx(7.33, abs=0.01)
    assert times.spread_s([*four, step("s", "strip")]) == pytest.approx(7.33 + 5.26, abs=0.02)


OLD = [
    step("cut|W1", "cut", wire="W1", length_m=2.0),
    step("crimp|W1|start", wire="W1", part="c1", after=("cut|W1",)),
    step("cut|W2", "cut", wire="W2", length_m=1.0),
    step("test", "test", after=("crimp|W1|start",)),
]


@pytest.mark.parametrize(
    ("new", "done", "kept", "voids", "todo", "out"),
    [
        (OLD, 4, 4, 0, 0, ()),  # nothing differs: all stand
        (
            [OLD[0], replace(OLD[1], part="c2"), *OLD[2:]],
            4,
            2,
            2,
            2,
            (),
        ),  # another contact: its crimp and the test anew, both cuts stand
        (
            [replace(OLD[0], length_m=2.5), *OLD[1:]],
            4,
            1,
            3,
            3,
            (),
        ),  # longer than was cut: cut, crimp on it, test; W2 stands
        (
            [replace(OLD[0], length_m=1.5), *OLD[1:]],
            4,
            4,
            0,
            0,
            (),
        ),  # shorter: what is cut is long enough, its cut stands
        (
            [OLD[0], OLD[1], OLD[3]],
            4,
            2,
            2,
            1,
            ("W2",),
        ),  # W2 comes out: its cut and the test are taken back, the test is to do
        (
            [*OLD, step("cut|W3", "cut", wire="W3", length_m=1.0)],
            4,
            3,
            1,
            2,
            (),
        ),  # one more wire: its cut, and the test anew
    ],
)
def test_steps_of_an_upgrade(
    new: list[Operation], done: int, kept: int, voids: int, todo: int, out: tuple[str, ...]
) -> None:
    found = upgrade(1, [f"1|{one.key}" for one in OLD[:done]], OLD, new)
    assert (len(found.kept), len(found.voids), len(found.todo), found.wires_out) == (kept, voids, todo, out)
    other = upgrade(2, [f"1|{one.key}" for one in OLD[:done]], OLD, new)
    assert (len(other.kept), len(other.todo)) == (0, len(new))  # another unit has nothing of it


@pytest.mark.parametrize(("left_mm", "tries"), [(0.0, 0), (0.999, 0), (1.0, 1), (1.999, 1), (2.0, 2), (7.5, 7)])
def test_tries_left(left_mm: float, tries: int) -> None:
    """Whole remakes of the wire that eats most: 2.0 of its bites are two, a thousandth less is one."""
    results = worked_out("shore")
    places = places_of(results.design, results.shelf)
    bite = max(made.eaten_mm for one in places.of_end("winch") if (made := strip_of(results, one)) is not None)
    assert tries_left(results, "winch", left_mm * bite / 1e3) == tries


@pytest.mark.parametrize(("amps", "size", "mm2"), [(10.0, "2.5 mm2", 2.5), (5.0, "2.5 mm2", 2.5), (10.0, "6 mm2", 6.0)])
def test_what_a_metre_is_worth(amps: float, size: str, mm2: float) -> None:
    """A load on two wires: a metre less is two metres of wire. 8 890 kg/m³ × 2.5 mm² × 1.02 × 2 m = 45.3 g; at 20 °C 10
    A through 2 ×
    17.241 × 1.02 / 2.5 mΩ lose 141 mV, and 0.39 % more a kelvin of what the wire runs above that."""
    design = design_of("supply 12 V 5 mohm at battery", f"heater {amps:g} A at stern run 3 m")
    results = analyse(edits.set_size(design, [wire.id for wire in design.wires], size))
    found = results.figures
    (load,) = found.loads
    worth = metre_of(found, load)
    warm = [found.wires[wire.id].mean_c for wire in results.design.wires]
    mean = sum(warm) / len(warm)
    drawn = max(row.amps for row in found.wires.values())
    assert worth.copper_kg == pytest.approx(2 * 8890 * mm2 * 1e-6 * 1.02, rel=0.01)
    assert worth.volts == pytest.approx(drawn * 2 * 17.241e-3 * 1.02 / mm2 * (1 + 0.00393 * (mean - 20)), rel=0.01)
    assert math.isclose(
        worth.cost, worth.copper_kg * found.solution.plant.conductors[0].metal.price_per_kg, rel_tol=1e-9
    )
