"""The single run, by hand and at its edges."""

import pytest

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.explain.about_run import why_run
from umber_trunk.core.onerun.run import Run, judge, size_run


def run(**values: object) -> Run:
    return Run(**{"volts": 24.0, "run_m": 7.5, "amps": 18.0, "max_drop_v": 0.72, **values})  # type: ignore[arg-type]


def test_drop_by_hand() -> None:
    one = judge(run(), parse_size("10 mm2"))
    loop = 15 * 1.75858e-3 * (1 + 0.00393 * (one.conductor_c - 20))
    assert one.resistance_ohm == pytest.approx(loop, rel=1e-5)
    assert one.drop_v == pytest.approx(18 * loop, rel=1e-5)


def test_smallest_that_holds_is_chosen_and_drop_governs() -> None:
    answer = size_run(run())
    assert answer.chosen is not None
    assert answer.chosen.size.label == "10 mm2"
    assert answer.governs == "drop"
    at = answer.candidates.index(answer.chosen)
    assert not any(one.ok for one in answer.candidates[:at])


def test_short_runs_are_governed_by_heat() -> None:
    answer = size_run(run(run_m=0.3, amps=60.0))
    assert answer.governs == "heat"


def test_ground_return_halves_the_way() -> None:
    wire, ground = (judge(run(ground_return=g), parse_size("10 mm2")) for g in (False, True))
    assert ground.drop_v == pytest.approx(wire.drop_v / 2, rel=1e-3)


def test_parallel_joints_and_awg() -> None:
    twin = judge(run(parallel=2), parse_size("AWG 8"))
    one = judge(run(), parse_size("AWG 8"))
    assert twin.drop_v == pytest.approx(one.drop_v / 2, rel=0.03)
    assert twin.ampacity_a == pytest.approx(2 * one.ampacity_a, rel=1e-6)
    assert judge(run(joint_ohm=0.0006), parse_size("AWG 8")).drop_v == pytest.approx(one.drop_v + 18 * 0.0006, rel=1e-3)
    assert size_run(run(series="awg")).chosen.size.series == "awg"  # type: ignore[union-attr]


def test_power_is_drawn_at_the_loads_own_voltage() -> None:
    one = judge(run(amps=None, watts=430.0), parse_size("10 mm2"))
    assert one.amps * (24 - one.drop_v) == pytest.approx(430, rel=1e-4)
    starved = judge(run(amps=None, watts=430.0, run_m=200), parse_size("0.35 mm2"))
    assert not starved.ok
    assert starved.drop_v == 24


def test_bundle_duty_surge_and_fuse() -> None:
    lone, six = (judge(run(bundle=n), parse_size("10 mm2")) for n in (1, 6))
    assert six.ampacity_a / lone.ampacity_a == pytest.approx(0.57, abs=0.06)
    duty = judge(run(amps=60.0, duty=(20, 60)), parse_size("6 mm2"))
    always = judge(run(amps=60.0), parse_size("6 mm2"))
    assert 30 < duty.conductor_c < always.conductor_c
    surged = judge(run(surge=(60, 2)), parse_size("1.5 mm2"))
    assert surged.surge_c is not None
    assert surged.surge_c > surged.conductor_c
    fused = size_run(run(fuse="auto", surge=(40.0, 0.3)))
    assert fused.chosen is not None
    assert fused.chosen.fuse_a == 25  # 18 A ≤ 79 % of 25 A at 30 °C
    assert "fuse" in judge(run(fuse=10.0), parse_size("10 mm2")).broken
    assert "fuse" in judge(run(fuse=200.0), parse_size("2.5 mm2")).broken


def test_a_surge_in_a_bundle_warms_its_neighbours_too() -> None:
    """Neighbours are colder sinks for a while: the rise is under that without any loss, and under that alone."""
    alone, among = (judge(run(bundle=n, surge=(60.0, 20.0)), parse_size("4 mm2")) for n in (1, 12))
    assert alone.surge_c is not None
    assert among.surge_c is not None
    wire, rise = among.wire, among.surge_c - among.conductor_c
    ohm = wire.ohm_per_m_20 * (1 + 0.00393 * (among.surge_c - 20))
    assert 5 < rise < alone.surge_c - alone.conductor_c
    assert rise < 60.0**2 * ohm * 20.0 / (wire.kg_per_m * 385)
    # hot among its neighbours, a little more current still warms it, however much it would cool alone
    hot = judge(run(bundle=12, surge=(20.0, 20.0)), parse_size("1.5 mm2"))
    assert hot.surge_c is not None
    assert hot.surge_c > hot.conductor_c


@pytest.mark.parametrize("bundle", [1, 6, 20])
def test_duties_tend_to_rms_and_to_continuous_in_any_bundle(bundle: int) -> None:
    def rise(amps: float, duty: tuple[float, float] | None) -> float:
        return judge(run(amps=amps, bundle=bundle, duty=duty, max_drop_v=24.0), parse_size("6 mm2")).conductor_c - 30

    assert rise(24.0, (0.1, 0.4)) == pytest.approx(rise(12.0, None), rel=0.02)
    assert rise(24.0, (4e4, 16e4)) == pytest.approx(rise(24.0, None), rel=0.02)
    middle = [rise(24.0, (period / 4, period)) for period in (1, 20, 100, 500, 2000, 20_000)]
    assert middle == sorted(middle)


def test_a_short_must_open_the_fuse() -> None:
    far = run(run_m=80.0, max_drop_v=20.0, fuse=25.0)
    assert "fuse" in judge(far, parse_size("6 mm2")).broken  # 24 V over 0.5 Ω is 48 A, under 2 × 25
    assert "fuse" not in judge(far, parse_size("10 mm2")).broken


def test_nothing_does_it() -> None:
    answer = size_run(run(run_m=9000.0))
    assert answer.chosen is None
    assert answer.governs == "drop"
    assert len(answer.candidates) == 19


@pytest.mark.parametrize(
    "values", [{"amps": None}, {"watts": 5.0}, {"limit_c": 30.0}, {"parallel": 0}, {"bundle": 0}, {"run_m": 0.0}]
)
def test_nonsense_is_refused(values: dict[str, float]) -> None:
    with pytest.raises(InputError):
        size_run(run(**values))


def test_fuse_and_surge_have_their_reasons() -> None:
    answer = size_run(run(fuse="auto", surge=(40.0, 0.3)))
    assert answer.chosen is not None
    titles = {reason.title: reason for reason in why_run(answer, answer.chosen)}
    fuse = titles["Fuse of 25 A"]
    assert "every overload" in fuse.verdict
    assert any("40.0 A for 0.3 s" in step for step in fuse.steps)
    surge = titles["Surge of 40.0 A for 0.3 s"]
    assert f"{answer.chosen.surge_c:.1f} °C" in surge.result
    late = judge(run(fuse=200.0), parse_size("2.5 mm2"))
    assert "may open too late" in why_run(size_run(run(fuse=200.0, size="2.5 mm2")), late)[-1].verdict


def test_reasons_carry_the_figures() -> None:
    answer = size_run(run())
    assert answer.chosen is not None
    drop, warm = why_run(answer, answer.chosen)
    assert f"{answer.chosen.drop_v:.3f} V" in drop.result
    assert "18.00 A" in drop.as_text()
    assert f"{answer.chosen.conductor_c:.1f} °C" in warm.result
