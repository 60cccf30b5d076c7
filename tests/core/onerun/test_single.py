"""The single run, by hand and at its edges."""

import os
import random

import pytest

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_size, series
from umber_trunk.core.errors import InputError
from umber_trunk.core.explain.about_run import why_run
from umber_trunk.core.harness.model import Design
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.onerun.run import judge, size_run
from umber_trunk.core.physics.surroundings import Surroundings


def run(**values: object) -> Run:
    return Run(**{"volts": 24.0, "run_m": 7.5, "amps": 18.0, "max_drop_v": 0.72, **values})  # type: ignore[arg-type]


def test_drop_by_hand() -> None:
    one = judge(run(), parse_size("10 mm2"))
    loop = 15 * 1.75858e-3 * (1 + 0.00393 * (one.conductor_c - 20))
    assert one.resistance_ohm == pytest.approx(loop, rel=1e-5)
    assert one.drop_v == pytest.approx(18 * loop, rel=1e-5)


def test_smallest_that_holds_is_chosen_and_drop_governs() -> None:
    answer = size_run(run())
    assert answer.chosen.size.label == "10 mm2"
    assert answer.governs == "drop"
    at = answer.candidates.index(answer.chosen)
    assert not any(one.ok for one in answer.candidates[:at])


def test_short_runs_are_governed_by_heat() -> None:
    answer = size_run(run(run_m=0.3, amps=60.0))
    assert answer.governs == "heat"


def test_ground_return_halves_the_way() -> None:
    wire, ground = (judge(run(ground_return=g, apart=True), parse_size("10 mm2")) for g in (False, True))
    assert ground.drop_v == pytest.approx(wire.drop_v / 2, rel=1e-3)


def test_parallel_joints_and_awg() -> None:
    twin = judge(run(parallel=2, apart=True), parse_size("AWG 8"))
    one = judge(run(apart=True), parse_size("AWG 8"))
    assert twin.drop_v == pytest.approx(one.drop_v / 2, rel=0.03)
    assert twin.ampacity_a == pytest.approx(2 * one.ampacity_a, rel=1e-6)
    assert judge(run(joint_ohm=0.0006, apart=True), parse_size("AWG 8")).drop_v == pytest.approx(
        one.drop_v + 18 * 0.0006, rel=1e-3
    )
    assert size_run(run(series="awg")).chosen.size.series == "awg"  # type: ignore[union-attr]


def test_power_is_drawn_at_the_loads_own_voltage() -> None:
    one = judge(run(amps=None, watts=430.0), parse_size("10 mm2"))
    assert one.amps * (24 - one.drop_v) == pytest.approx(430, rel=1e-4)
    starved = judge(run(amps=None, watts=430.0, run_m=200), parse_size("0.35 mm2"))
    assert not starved.ok
    assert starved.drop_v == 24


def test_bundle_duty_surge_and_fuse() -> None:
    lone, six = (judge(run(bundle=n, apart=True), parse_size("10 mm2")) for n in (1, 6))
    assert six.ampacity_a / lone.ampacity_a == pytest.approx(0.57, abs=0.06)
    duty = judge(run(amps=60.0, duty=(20, 60)), parse_size("6 mm2"))
    always = judge(run(amps=60.0), parse_size("6 mm2"))
    assert 30 < duty.conductor_c < always.conductor_c
    surged = judge(run(surge=(60, 2)), parse_size("1.5 mm2"))
    assert surged.surge_c is not None
    assert surged.surge_c > surged.conductor_c
    fused = size_run(run(fuse="auto", surge=(40.0, 0.3)))
    assert fused.chosen.fuse_a == 25  # 18 A ≤ 79 % of 25 A at 30 °C
    assert "fuse" in judge(run(fuse=10.0), parse_size("10 mm2")).broken
    assert "fuse" in judge(run(fuse=200.0), parse_size("2.5 mm2")).broken


def test_a_surge_in_a_bundle_warms_its_neighbours_too() -> None:
    """Neighbours are colder sinks for a while: the rise is under that without any loss, and under that alone."""
    alone, among = (judge(run(bundle=n, apart=True, surge=(60.0, 20.0)), parse_size("4 mm2")) for n in (1, 12))
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
@pytest.mark.share(3)
def test_duties_tend_to_rms_and_to_continuous_in_any_bundle(bundle: int) -> None:
    def rise(amps: float, duty: tuple[float, float] | None) -> float:
        return (
            judge(
                run(amps=amps, bundle=bundle, apart=True, duty=duty, max_drop_v=24.0), parse_size("6 mm2")
            ).conductor_c
            - 30
        )

    assert rise(24.0, (0.1, 0.4)) == pytest.approx(rise(12.0, None), rel=0.02)
    assert rise(24.0, (4e4, 16e4)) == pytest.approx(rise(24.0, None), rel=0.02)
    middle = [rise(24.0, (period / 4, period)) for period in (1, 20, 100, 500, 2000, 20_000)]
    assert middle == sorted(middle)


def harness_of(one: Run, size: str) -> Design:
    """The same run as a harness: supply, load, feed and return (or the frame) in one segment."""
    around = one.surroundings
    zone = {"id": "z", "name": "z", "ambient_c": one.ambient_c, "enclosed": around.enclosed, "sun_w_m2": around.sun_w_m2, "altitude_m": around.altitude_m, "air_m_s": one.air_m_s}  # fmt: skip
    frame = one.ground_return
    pins = {"plus": {"end": "d", "cavity": "1"}, "minus": {"end": "f2" if frame else "d", "cavity": "2"}}
    load = {
        "id": "l",
        "name": "l",
        **pins,
        "power_factor": one.power_factor,
        "kind": "power" if one.watts else "current",
        "value": one.watts or one.amps,
    }
    load |= dict(zip(("surge_a", "surge_s"), one.surge or (), strict=False)) | dict(
        zip(("on_s", "period_s"), one.duty or (), strict=False)
    )
    made = {"size": size, "jacket": one.jacket, "parallel": one.parallel, "locked": True}
    minus = {"end": "f1" if frame else "s", "cavity": "-"}
    wires = [{"id": "W1", "start": {"end": "s", "cavity": "+"}, "finish": pins["plus"], **made}]
    wires += [] if frame else [{"id": "W2", "start": pins["minus"], "finish": minus, **made}]
    ends = [
        {
            "id": end,
            "name": end,
            "kind": "stud" if end[0] == "f" else "device",
            "frame": end[0] == "f",
            "point": point,
            "cavities": [{"id": c} for c in cavities],
        }
        for end, point, cavities in (("s", "A", "+-"), ("d", "B", "12"), ("f1", "A", "-"), ("f2", "B", "2"))
    ]
    return Design.model_validate(
        {
            "project": {"ambient_c": one.ambient_c},
            "zones": [zone],
            "points": [{"id": "A"}, {"id": "B"}],
            "ends": ends,
            "wires": wires,
            "loads": [load],
            "segments": [
                {
                    "id": "S",
                    "a": "A",
                    "b": "B",
                    "zone": "z",
                    "coiled_layers": around.coiled_layers,
                    "measure": {"length_m": one.run_m},
                }
            ],
            "supplies": [
                {
                    "id": "p",
                    "name": "p",
                    "volts": one.volts,
                    "plus": {"end": "s", "cavity": "+"},
                    "minus": minus,
                    "ac": one.power_factor < 1,
                }
            ],
        }
    )


RUNS = int(os.environ.get("UMBER_KILL_ROUNDS", 20)) * 3 // 2
"""30 in the normal run, 300 with --long."""


def test_size_and_solve_say_the_same() -> None:
    """Runs at random, AC, duty, surge, parallel, frame return, conduit, sun, reel, altitude: the whole harness solved
    is another program, written for trees."""
    draw = random.Random(22)
    for _ in range(RUNS):
        ac, amps = draw.random() < 0.25, draw.uniform(5, 60)
        on = draw.uniform(1, 200)
        one = run(
            volts=230.0 if ac else draw.choice([12.0, 24.0, 48.0]),
            run_m=draw.uniform(1, 8),
            amps=None if ac else amps,
            watts=20 * amps if ac else None,
            max_drop_v=99.0,
            ambient_c=draw.uniform(0, 45),
            parallel=draw.choice([1, 1, 2, 3]),
            ground_return=not ac and draw.random() < 0.3,
            power_factor=draw.uniform(0.7, 0.95) if ac else 1.0,
            surroundings=Surroundings(
                draw.random() < 0.2,
                draw.choice([0, 0, 0, 1, 3]),
                draw.choice([0.0, 0.0, 800.0]),
                draw.choice([0.0, 3000.0]),
            ),
            duty=(on, on * draw.uniform(1.2, 8)) if draw.random() < 0.3 else None,
            surge=(amps * draw.uniform(1.2, 3), draw.uniform(0.2, 10)) if draw.random() < 0.3 else None,
        )
        size = draw.choice(series("metric")[5:14])
        mine, case = judge(one, size), analyse(harness_of(one, size.label)).figures.solution.cases[0]
        near = max(1.0, 0.005 * (case.conductor_c.max() - 300))  # far beyond every jacket: half a per cent
        assert mine.conductor_c == pytest.approx(case.conductor_c.max(), abs=near), one
        assert mine.amps == pytest.approx(abs(case.wire_a[0]), rel=2e-3), one
        if mine.surge_c is not None:
            assert mine.surge_c == pytest.approx(case.surge_c.max(), abs=max(near, 0.005 * case.surge_c.max())), one


def test_conductors_of_a_run_lie_together_unless_said() -> None:
    """2 × 10 mm² and back at 200 A: four lie together and are far too hot; each alone in air they would do. What runs
    away isn't led back."""
    many = {"amps": 200.0, "parallel": 2, "max_drop_v": 9.0}
    near, apart = (judge(run(**many, apart=a), parse_size("10 mm2")) for a in (False, True))
    assert near.conductor_c > 200 > 110 > apart.conductor_c
    assert (near.ok, apart.ok) == (False, True)
    assert near.continuous_a < 200 < apart.continuous_a
    assert [str(run(**many, apart=a).lie) for a in (False, True)] == [
        "4 conductors of this run, there and back: 4 equal loaded conductors lie together",
        "4 conductors of this run, each alone, apart from the others",
    ]
    assert run(bundle=6).together == 6
    assert str(run(ground_return=True).lie) == "one conductor, alone"
    edge = judge(run(amps=near.continuous_a, parallel=2, max_drop_v=9.0), parse_size("10 mm2"))
    assert edge.conductor_c == pytest.approx(105, abs=0.6)
    away = judge(run(amps=78.0, ground_return=True, surroundings=Surroundings(coiled_layers=3)), parse_size("4 mm2"))
    assert away.conductor_c > 1000


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
    titles = {str(reason.title): reason for reason in why_run(answer, answer.chosen)}
    fuse = titles["Fuse of 25 A"]
    assert "every overload" in str(fuse.verdict)
    assert any("40.0 A for 0.3 s" in str(step) for step in fuse.steps)
    surge = titles["Surge of 40.0 A for 0.3 s"]
    assert f"{answer.chosen.surge_c:.1f} °C" in str(surge.result)
    late = judge(run(fuse=200.0), parse_size("2.5 mm2"))
    assert "may open too late" in str(why_run(size_run(run(fuse=200.0, size="2.5 mm2")), late)[-1].verdict)


def test_reasons_carry_the_figures() -> None:
    answer = size_run(run())
    drop, warm = why_run(answer, answer.chosen)
    assert f"{answer.chosen.drop_v:.3f} V" in str(drop.result)
    assert "18.00 A" in drop.as_text()
    assert f"{answer.chosen.conductor_c:.1f} °C" in str(warm.result)
