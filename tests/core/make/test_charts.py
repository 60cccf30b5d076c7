"""Charts against textbook constants, simulated run lengths, and tables of tolerance factors."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest

from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.errors import InputError
from umber_trunk.core.make.charts import MOVING_TIMES, RANGE_TIMES, capability, chart, cusum, pull_bound, tolerance_factor
from umber_trunk.core.make.measuring import DEFECTS, KINDS, Limits, judge_reading, least_pull_n, limits_of, read_figure, reading_data, wanted_readings
from umber_trunk.core.make.operations import Operation, operations
from umber_trunk.core.sentences import Message


def test_individuals_have_the_textbook_constants() -> None:
    """E2 = 2.660 and D4 = 3.267 for ranges of two (ASTM E2587)."""
    assert pytest.approx(2.660, abs=5e-4) == MOVING_TIMES
    assert pytest.approx(3.267, abs=5e-4) == RANGE_TIMES
    rows = [10.0, 10.2, 9.9, 10.1, 10.0, 10.3, 9.8, 10.1, 10.0, 10.2]
    found = chart(rows)
    moving = sum(abs(a - b) for a, b in itertools.pairwise(rows)) / 9
    assert found.mean == pytest.approx(sum(rows) / 10)
    assert found.high == pytest.approx(found.mean + 2.66 * moving, rel=1e-3)
    assert found.range_high == pytest.approx(3.267 * moving, rel=1e-3)


@pytest.mark.parametrize(("h", "shift", "length"), [(4.0, 0.0, 168), (5.0, 0.0, 465), (4.0, 1.0, 8.38), (5.0, 1.0, 10.4)])  # fmt: skip
def test_cusum_runs_as_long_as_the_tables_say(h: float, shift: float, length: float) -> None:
    """Two-sided average run lengths at k = 0.5 (Montgomery, table of tabular CUSUM)."""
    draw = np.random.default_rng(4)
    runs = []
    for _ in range(400 if shift == 0 else 1200):
        z = draw.normal(shift, 1, 3000 if shift == 0 else 120)
        up, down = cusum(z)
        out = np.flatnonzero((np.array(up) > h) | (np.array(down) > h))
        runs.append(out[0] + 1 if len(out) else len(z))
    assert np.mean(runs) == pytest.approx(length, rel=0.13)


@pytest.mark.parametrize(("n", "factor"), [(5, 5.741), (10, 3.981), (20, 3.295), (30, 3.064), (50, 2.862)])
def test_tolerance_factors_are_those_of_the_tables(n: int, factor: float) -> None:
    """One-sided, 99 % with 95 % confidence (NIST/SEMATECH handbook, Natrella)."""
    assert tolerance_factor(n) == pytest.approx(factor, abs=2e-3)


def test_the_bound_of_pull_forces_holds_as_often_as_it_says() -> None:
    draw = np.random.default_rng(2)
    truth = 200 - 2.3263 * 12
    held = sum(pull_bound(draw.normal(200, 12, 15)) <= truth for _ in range(1500))
    assert held / 1500 == pytest.approx(0.95, abs=0.02)


def test_capability_has_an_interval_that_covers() -> None:
    draw = np.random.default_rng(3)
    inside = 0
    for _ in range(800):
        rows = draw.normal(1.5, 0.01, 40)
        low, high = capability(rows, 1.46, 1.54)[1:]  # type: ignore[index]
        inside += low <= 0.04 / 0.03 <= high
    assert inside / 800 == pytest.approx(0.95, abs=0.03)
    assert capability([1.0, 1.0], None, None) is None
    assert capability([1.0, 1.0], 0, 2) is None


def test_too_few_readings_say_nothing_and_alike_ones_neither() -> None:
    assert chart([1.5] * 7).verdict == "few"
    assert "too few" in chart([1.5, 1.6]).told
    assert "alike" in chart([1.5] * 12).told
    assert math.isnan(chart([]).mean)
    assert chart([]).verdict == "few"
    assert chart([1.5, 2.0], 1.4, 1.6).verdict == "check the die"  # out of the part's limits is out, however few
    steady = chart(list(np.random.default_rng(1).normal(1.5, 0.005, 12)), 1.45, 1.55)
    assert steady.verdict == "steady"
    assert steady.capability is None
    assert "30 are wanted" in steady.told


def rows(*values: float) -> list[float]:
    """Twenty steady readings about 0 with σ 1 by their moving range, then these."""
    base = [0.564, -0.564] * 10
    return [*base, *values]


@pytest.mark.parametrize(
    ("tail", "rule"),
    [((3.4,), "beyond"), ((2.3, 0.1, 2.4), "two-of-three"), ((1.3, 1.2, 0.2, 1.4, 1.3), "four-of-five"), ((0.3,) * 8, "run"), ((1.4, 1.9, -0.1, 1.9, 1.9, 0.9, 1.9), "drift")],
)  # fmt: skip
def test_each_run_rule_fires(tail: tuple[float, ...], rule: str) -> None:
    found = chart([100 + v for v in rows(*tail)])
    assert found.sigma == pytest.approx(1, rel=1e-3)
    assert rule in {alarm.rule for alarm in found.alarms if alarm.at >= 20}
    assert found.verdict == "check the die"
    assert not chart([100 + v for v in rows(0.2, -0.3, 0.1)]).alarms


def test_a_worn_die_is_noticed_before_it_leaves_the_limits() -> None:
    draw = np.random.default_rng(8)
    heights = [1.50 + draw.normal(0, 0.006) for _ in range(20)] + [1.50 + 0.0015 * n + draw.normal(0, 0.006) for n in range(15)]  # fmt: skip
    found = chart(heights, 1.45, 1.55)
    assert found.verdict == "check the die"
    assert max(heights) < 1.55


def test_pull_forces_are_those_of_the_standards() -> None:
    assert least_pull_n(1.5, False)[0] == pytest.approx(150)
    assert least_pull_n(2.5, False)[1] == "IEC 60352-2"
    assert 150 < (least_pull_n(2.0, False)[0] or 0) < 230
    assert least_pull_n(8.366, True)[0] == pytest.approx(90 * 4.448, rel=1e-3)
    assert least_pull_n(95.0, False)[0] is None
    assert least_pull_n(10.2, False)[0] == 380
    assert least_pull_n(10.5, False)[0] is None
    assert least_pull_n(0.2, False)[0] is None


def test_limits_are_those_of_the_sheets_row_for_the_conductor() -> None:
    """Height less and more its tolerance, from the row of the nearest area; none for an area far from every row."""
    results = analyse(demo("barge"))
    shelf = results.shelf
    seen = 0
    for one in results.once(operations):
        part = shelf.named(one.part)
        if one.op == "crimp" and getattr(part, "crimps", ()):
            row = min(part.crimps, key=lambda crimp: abs(crimp.area_mm2 - one.area_mm2))  # type: ignore[union-attr]
            limits = limits_of(shelf, one, "height")
            assert limits.low == pytest.approx(row.height_mm - row.plus_minus_mm)
            assert limits.high == pytest.approx(row.height_mm + row.plus_minus_mm)
            seen += 1
            assert limits_of(shelf, replace(one, area_mm2=40 * one.area_mm2), "height").low is None
    assert seen > 50


def test_readings_are_judged_by_the_part_and_never_pulled_off_a_harness() -> None:
    results = analyse(demo("barge"))
    shelf = results.shelf
    sample = next(one for one in results.once(operations) if one.sample and one.op == "measure" and limits_of(shelf, one, "height").low)  # fmt: skip
    limits = limits_of(shelf, sample, "height")
    assert limits.low is not None
    assert limits.high is not None
    assert "height" in wanted_readings(shelf, sample)
    assert "pull" in wanted_readings(shelf, sample)
    for value, verdict in ((limits.low, "accept"), (limits.high, "accept"), (limits.low - 0.01, "scrap"), (limits.high + 0.01, "scrap")):  # fmt: skip
        assert reading_data(shelf, sample, "height", value)["verdict"] == verdict
    crimp = next(one for one in results.once(operations) if one.op == "crimp" and not one.sample)
    with pytest.raises(InputError, match="sample pieces alone"):
        reading_data(shelf, crimp, "pull", 100.0)
    with pytest.raises(InputError, match="taken at"):
        reading_data(shelf, Operation("x", "cut", Message("x")), "height", 1.0)
    assert judge_reading(Limits(None, None, ""), 1.0) == "note"
    assert judge_reading(Limits(2.0, None, ""), 1.0) == "rework"
    assert {comes_to for _, comes_to in DEFECTS.values()} == {"again", "rework", "scrap"}


@pytest.mark.parametrize(
    ("kind", "text", "value"),
    [("height", "1.52", 1.52), ("height", "1.412", 1.412), ("height", "1,412 mm", 1.412), ("height", "0.06 in", 1.524), ("pull", "40 lbf", 177.93), ("torque", "0.5 N·m", 0.5), ("torque", "50 cNm", 0.5), ("mass", "12", 12.0)],
)  # fmt: skip
def test_readings_in_every_unit(kind: str, text: str, value: float) -> None:
    assert read_figure(kind, text) == pytest.approx(value, rel=1e-3)


@pytest.mark.parametrize(("kind", "text"), [("height", "1.5 N"), ("height", "-1"), ("pull", "1,200 N"), ("height", "nan"), ("smell", "1"), ("height", "")])  # fmt: skip
def test_readings_that_are_none_are_refused(kind: str, text: str) -> None:
    assert len(KINDS) == 5
    with pytest.raises(InputError):
        read_figure(kind, text)
