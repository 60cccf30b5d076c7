"""Charts against textbook constants, simulated run lengths, and tables of tolerance factors."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from scipy import stats

from demos import worked_out
from long_runs import LONG
from umber_trunk.core.errors import InputError
from umber_trunk.core.findings import Severity
from umber_trunk.core.make.alarms import alarms
from umber_trunk.core.make.charts import capability, chart, cusum, pull_bound, scores, tolerance_factor
from umber_trunk.core.make.events import Event, Read
from umber_trunk.core.make.measuring import (
    DEFECTS,
    KINDS,
    Limits,
    judge_reading,
    least_pull_n,
    limits_of,
    read_figure,
    reading_data,
    wanted_readings,
)
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.runs import runs_of
from umber_trunk.core.sentences import Message


def test_a_reading_is_judged_by_those_before_it() -> None:
    """Student's t of the next reading, by SciPy's own distributions, one by one."""
    draw = np.random.default_rng(6)
    rows = draw.normal(1.5, 0.01, 40)
    found = scores(rows)
    for at in (2, 7, 19, 20, 30, 39):
        before = rows[: at if at <= 20 else max(20, at - 8)]
        t = (rows[at] - before.mean()) / (before.std(ddof=1) * math.sqrt(1 + 1 / len(before)))
        assert found[at] == pytest.approx(stats.norm.ppf(stats.t.cdf(t, len(before) - 1)), abs=1e-6)
    made = chart(list(rows))
    base = rows[:32]
    reach = stats.t.ppf(stats.norm.cdf(3.6), 31) * base.std(ddof=1) * math.sqrt(1 + 1 / 32)
    assert (made.base, made.low, made.high) == (
        32,
        pytest.approx(base.mean() - reach),
        pytest.approx(base.mean() + reach),
    )
    shifted = scores(rows + 1e6)
    assert shifted == pytest.approx(found, abs=1e-3)


def first_alarms(shift: float, dies: int, after: int = 20, most: int = 120) -> list[int]:
    """Readings after `after` sound ones until any rule asks for a look, of dies that were not accused before."""
    draw = np.random.default_rng(int(10 * shift) + after)
    found = []
    for _ in range(dies):
        rows = draw.normal(0, 1, after + most)
        rows[after:] += shift
        alarms = [alarm.at for alarm in chart(list(rows)).alarms]
        if not alarms or alarms[0] >= after:
            found.append(alarms[0] - after + 1 if alarms else most + 1)
    return found


def test_no_wolf_is_cried_and_a_shift_is_found() -> None:
    """All rules together, over dies made up here: run lengths counted, nothing of the chart's own figures used."""
    dies = 2000 if LONG else 250
    sound = [
        min((alarm.at for alarm in chart(list(rows)).alarms), default=10_000) + 1
        for rows in np.random.default_rng(3).normal(0, 1, (dies, 600))
    ]
    assert np.median(sound) >= 250
    assert np.mean([run <= 30 for run in sound]) <= 0.12
    after = first_alarms(0, dies, 20, 320)
    assert np.median(after) >= 250
    assert np.mean([run <= 30 for run in after]) <= 0.13
    for learnt in (20, 60):
        assert np.median(first_alarms(1, dies, learnt)) <= 12
        assert np.median(first_alarms(2, dies, learnt)) <= 4


def test_rounded_readings_cry_no_oftener() -> None:
    """A gauge that shows hundredths over a scatter of a hundredth or two is fine; over half a hundredth it is too
    coarse, and that is said first."""
    draw = np.random.default_rng(5)
    runs = [chart(list(np.round(draw.normal(1.5, sigma, 40), 2))) for sigma in (0.012, 0.02) for _ in range(100)]
    assert sum(bool(one.alarms) for one in runs) <= 0.13 * len(runs)
    assert sum(one.verdict == "coarse" for one in runs) <= 0.12 * len(runs)
    coarse = [chart(list(np.round(draw.normal(1.502, 0.004, 40), 2))) for _ in range(60)]
    assert all(one.verdict == "coarse" and "coarse" in one.told for one in coarse)
    moved = chart([*np.round(draw.normal(1.502, 0.004, 30), 2), *[1.56] * 4])
    assert moved.verdict == "check the die"
    assert moved.told.startswith("the gauge’s step")


def test_repeats_of_a_piece_tell_the_gauges_share() -> None:
    """Pieces scatter 0.010, the gauge 0.010 or 0.001: by the sum of squares its share of σ is 0.707, or 0.0995."""
    draw = np.random.default_rng(8)
    for own, share in ((0.010, 0.7071), (0.001, 0.0995)):
        pieces = draw.normal(1.5, 0.010, 400)
        again = [list(piece + draw.normal(0, own, 3)) for piece in pieces[:300]]
        made = chart(
            [some[0] for some in again] + list(pieces[300:] + draw.normal(0, own, 100)),
            1.3,
            1.7,
            dict(enumerate(again)),
        )
        assert made.gauge.repeats == 600
        assert made.gauge.share == pytest.approx(share, rel=0.08)
        assert (made.verdict == "coarse") == (own == 0.010)
    events = [
        Event(
            f"e{n}",
            "b",
            n,
            Read(what="height", value=1.5 + 0.01 * (n % 3) + 0.001 * n, tool="P", setting="5"),
            1,
            f"crimp|W{n // 3}|start",
        )
        for n in range(18)
    ]
    assert not alarms(events)
    twice = [
        *events,
        Event(
            "f1", "b", 90, Read(what="height", value=2.4, low=1.4, high=1.8, tool="P", setting="5"), 1, "crimp|W1|start"
        ),
    ]
    (found,) = alarms(twice)  # one reading of a piece is out, though their mean is not
    assert found.severity is Severity.FAULT
    assert "1 reading is out" in found.message
    (run,) = runs_of(events)
    assert len(run.chart.values) == 6
    assert run.chart.gauge.repeats == 12


def test_capability_is_good_and_bad_by_its_lower_bound() -> None:
    draw = np.random.default_rng(4)
    rows = draw.normal(1.5, 0.01, 40)
    wide, near = chart(list(rows), 1.42, 1.58), chart(list(rows), 1.465, 1.535)
    assert wide.verdict == "steady"
    assert "by its lower bound too" in wide.told
    assert near.capability is not None
    assert near.capability[0] > 1 > near.capability[1]
    assert "can’t be relied on" in near.told


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
    assert chart([1.5] * 12).verdict == "coarse"
    assert math.isnan(chart([]).mean)
    assert chart([]).verdict == "few"
    assert chart([1.5, 2.0], 1.4, 1.6).verdict == "check the die"  # out of the part's limits is out, however few
    steady = chart(list(np.random.default_rng(1).normal(1.5, 0.005, 12)), 1.45, 1.55)
    assert steady.verdict == "steady"
    assert steady.capability is None
    assert "30 are wanted" in steady.told


@pytest.mark.parametrize(("tail", "rule"), [((4.6,), "beyond"), ((2.9, 2.9, 2.9), "jump"), ((1.6,) * 7, "drift")])
def test_each_rule_fires(tail: tuple[float, ...], rule: str) -> None:
    base = [0.564, -0.564] * 10
    found = chart([100 + 1.7 * v for v in (*base, *tail)])
    assert {alarm.rule for alarm in found.alarms if alarm.at >= 20} >= {rule}
    assert found.verdict == "check the die"
    assert not chart([100 + v for v in (*base, 0.2, -0.3, 0.1)]).alarms


def test_a_worn_die_is_noticed_before_it_leaves_the_limits() -> None:
    draw = np.random.default_rng(8)
    heights = [1.50 + draw.normal(0, 0.006) for _ in range(20)] + [
        1.50 + 0.0015 * n + draw.normal(0, 0.006) for n in range(15)
    ]
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
    results = worked_out("barge")
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
    results = worked_out("barge")
    shelf = results.shelf
    sample = next(
        one
        for one in results.once(operations)
        if one.sample and one.op == "measure" and limits_of(shelf, one, "height").low
    )
    limits = limits_of(shelf, sample, "height")
    assert limits.low is not None
    assert limits.high is not None
    assert "height" in wanted_readings(shelf, sample)
    assert "pull" in wanted_readings(shelf, sample)
    for value, verdict in (
        (limits.low, "accept"),
        (limits.high, "accept"),
        (limits.low - 0.01, "scrap"),
        (limits.high + 0.01, "scrap"),
    ):
        assert reading_data(shelf, sample, "height", value)["verdict"] == verdict
    crimp = next(one for one in results.once(operations) if one.op == "crimp" and not one.sample)
    with pytest.raises(InputError, match="sample pieces alone"):
        reading_data(shelf, crimp, "pull", 100.0)
    with pytest.raises(InputError, match="taken at"):
        reading_data(shelf, Operation("x", "cut", Message("x")), "height", 1.0)
    assert judge_reading(Limits(None, None, ""), 1.0) == "note"
    assert judge_reading(Limits(2.0, None, ""), 1.0) == "rework"
    assert set(DEFECTS.values()) == {"again", "rework", "scrap"}


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
