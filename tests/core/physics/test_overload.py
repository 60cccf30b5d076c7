"""Heat in time and the fuse before a wire: against runs in time of the same bodies, IEC 60949, and sums by hand."""

import numpy as np
import pytest
from scipy.special import gammaln

from conftest import design_of
from demos import worked_out
from plates import Plate, adiabatic_k, rings_rise_k
from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import conductor, jackets, makes
from umber_trunk.core.explain.about_fuses import why_fuse
from umber_trunk.core.harness.edits import put, set_fuse, set_project, set_size
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.onerun.asked_run import Run
from umber_trunk.core.onerun.run import size_run
from umber_trunk.core.physics import bundle
from umber_trunk.core.physics.damage import allowed_c, anchors
from umber_trunk.core.physics.fuses import opening_s
from umber_trunk.core.physics.heat import HOTTEST_C, WireBodies
from umber_trunk.core.physics.overload import Standing
from umber_trunk.core.physics.packing import laid
from umber_trunk.core.physics.protection import protection
from umber_trunk.core.physics.response import driven, driven_table, fed_back, log_gamma, lone_response, section_response
from umber_trunk.core.physics.surroundings import OPEN_AIR, Outside
from umber_trunk.core.solve.standing import standing_in
from umber_trunk.core.solve.used import Limit


def steady_c(standing: Standing, amps: np.ndarray) -> np.ndarray:
    """Temperature of a current in one conductor held for ever, by halving; the hottest there is where nothing holds
    it."""
    others = np.maximum(standing.total_w - standing.alike * standing.own_w, 0.0)
    base = standing.celsius - standing.rim_k(standing.total_w) - standing.own_km_w * standing.own_w
    low, high = np.minimum(standing.air_c, standing.celsius), np.full_like(base, HOTTEST_C)
    for _ in range(60):
        middle = (low + high) / 2
        lost = np.square(amps) * standing.ohm(middle)
        hotter = base + standing.rim_k(others + standing.alike * lost) + standing.own_km_w * lost > middle
        low, high = np.where(hotter, middle, low), np.where(hotter, high, middle)
    return high


def lone(size: str, jacket: str = "pvc", make: str = "general", start_c: float = 30.0) -> tuple:
    """A wire alone in air of 30 °C, and how it stands."""
    wire = conductor(size, "copper", make, jacket)
    body, one, none = WireBodies.of([wire]), np.ones(1), np.zeros(1)
    standing = Standing(
        np.array([start_c]),
        np.array([start_c]),
        body.jacket_km_w,
        none,
        none,
        one,
        body.outer_m / 2,
        one,
        none,
        none,
        Outside.of([OPEN_AIR]),
        body.ohm_per_m_20,
        body.alpha_per_k,
        none,
        lone_response(size, "copper", make, jacket),
    )
    return wire, standing


@pytest.mark.parametrize("seconds", [0.01, 0.1, 1, 10, 100, 1000, 3600])
@pytest.mark.parametrize(
    ("size", "jacket", "make"),
    [("0.5 mm2", "pvc", "general"), ("4 mm2", "pvc70", "class5"), ("50 mm2", "rubber", "welding")],
)
def test_short_heat_against_rings_in_time(size: str, jacket: str, make: str, seconds: float) -> None:
    """Within 5 % of the rise, from 10 ms to 1 h, at the current that brings the metal to 110 °C."""
    wire, standing = lone(size, jacket, make)
    amps = standing.withstand_a(np.array([[110.0]]), np.array([[float(seconds)]]))
    ours = float(standing.after_c(amps, np.array([[float(seconds)]]))[0, 0]) - 30
    assert ours == pytest.approx(80, rel=0.01)
    assert ours == pytest.approx(rings_rise_k(wire, float(amps[0, 0]), seconds), rel=0.05)


@pytest.mark.parametrize("seconds", [0.1, 1.0, 3.0, 5.0])
@pytest.mark.parametrize(("size", "jacket", "make", "final", "x", "y"), [
    ("2.5 mm2", "pvc70", "class5", 160, 0.29, 0.06), ("16 mm2", "pvc70", "class5", 160, 0.29, 0.06),
    ("95 mm2", "pvc70", "class5", 160, 0.29, 0.06), ("16 mm2", "rubber", "welding", 250, 0.38, 0.10),
    ("10 mm2", "xlpe", "class5", 250, 0.41, 0.12),
])  # fmt: skip
def test_withstand_against_iec_60949(size, jacket, make, final, x, y, seconds) -> None:
    """Non-adiabatic short circuits: ε = √(1 + X√(t/S) + Y·t/S) over k·S/√t, copper's X and Y for each insulation."""
    wire, standing = lone(size, jacket, make, 70.0)
    area = wire.size.area_mm2
    ours = float(standing.withstand_a(np.array([[float(final)]]), np.array([[seconds]]))[0, 0])
    factor = (1 + x * (seconds / area) ** 0.5 + y * seconds / area) ** 0.5
    assert ours == pytest.approx(factor * adiabatic_k(wire.metal, 70, final) * area / seconds**0.5, rel=0.10)


@pytest.mark.parametrize(
    ("size", "n", "row"),
    [("2.5 mm2", 7, 0), ("2.5 mm2", 7, 3), ("2.5 mm2", 19, 12), ("16 mm2", 3, 0), ("1.5 mm2", 12, 1)],
)
@pytest.mark.share(3)
def test_starts_in_bundles_against_a_plate_in_time(size: str, n: int, row: int) -> None:
    """Within 10 % from 1 s to 1 000 s, never under by more than 1 %."""
    wire = conductor(size, "copper", "general", "pvc")
    outer = np.full((1, n), wire.outer_mm / 1e3)
    strands = bundle.Strands(outer, outer * wire.conductor_mm / wire.outer_mm, np.full((1, n), wire.jacket.k_w_mk))
    centres, enclosing = laid(outer)
    section = bundle.Sections.of(centres, strands, enclosing)
    times = [1.0, 5.0, 20.0, 60.0, 200.0, 1000.0]
    ours = section_response(section, [wire] * n).at(np.array(times))[0][row]
    plate = Plate(centres[0], strands, enclosing[0] / 2, float(section.filling_w_mk[0]), 14.0, 130)
    run = plate.step(row, wire.kg_per_m * wire.metal.heat_j_kg_k, times)
    assert np.all(ours >= 0.99 * run)
    assert ours == pytest.approx(run, rel=0.10)


def test_feedback_of_resistance_is_exponential_at_first_and_a_series_at_last() -> None:
    x = np.array([0.01, 0.3, 0.8])
    assert fed_back(x, np.ones(3)) == pytest.approx(np.expm1(x))
    z = np.concatenate([np.linspace(1, 3, 99), np.linspace(3, 60, 99)])
    assert log_gamma(z) == pytest.approx(gammaln(z), rel=2e-14, abs=2e-14)  # SciPy's own
    assert fed_back(x[:2], np.zeros(2)) == pytest.approx(x[:2] / (1 - x[:2]), rel=1e-6)
    y = np.array([0.05, 0.4, 1.5])
    for p in (0.0, 0.4, 1.0):
        assert fed_back(driven(y, np.full(3, p)), np.full(3, p)) == pytest.approx(y, rel=0.01)
    assert np.isinf(fed_back(np.array([1.5]), np.zeros(1)))[0]


def test_the_table_that_ships_is_the_one_worked_out() -> None:
    """At p = 1 the sum is eˣ − 1, at p = 0 x/(1 − x): what brings it to y is ln(1 + y) and y/(1 + y)."""
    y = np.geomspace(1e-3, 20.0, 120)
    table = driven_table()
    assert driven(y[:-1, None], np.linspace(0.0, 0.999, 11)) == pytest.approx(
        y[:-1, None] * table[:-1, [*range(0, 40, 4), 40]], rel=2e-3
    )
    assert driven(y, np.ones(120)) == pytest.approx(np.log1p(y), rel=3e-3)
    assert driven(y[:80], np.zeros(80)) == pytest.approx(y[:80] / (1 + y[:80]), rel=3e-3)  # further on it runs away


def test_what_jackets_stand_for_how_long() -> None:
    """ISO 6722-1 gives road-vehicle jackets their hours; others get their class past the conventional hour."""
    vehicle, other = (
        conductor("2.5 mm2", "copper", "thinwall", "xlpe"),
        conductor("2.5 mm2", "copper", "general", "pvc70"),
    )
    hours = np.array([6.0, 240.0, 3000.0, 1e5]) * 3600
    assert allowed_c(vehicle, hours) == pytest.approx([175, 150, 125, 125])
    assert allowed_c(other, hours) == pytest.approx([70, 70, 70, 70])
    for wire, short in ((vehicle, 250), (other, 160)):
        assert allowed_c(wire, np.array([0.1, 5.0])) == pytest.approx([short, short])
        falling = allowed_c(wire, np.geomspace(1, 1e8, 50))
        assert np.all(np.diff(falling) <= 0)
    assert allowed_c(other, np.array([(5 * 3600) ** 0.5]))[0] == pytest.approx((160 + 70) / 2)
    assert anchors(other.make, other.jacket, 5.0)[-1][1] == 75
    # PVC 105 is of class B, 100 °C: its hours count from there, and never under what it stands for ever
    assert [c for _, c in anchors(makes()["thinwall"], jackets()["pvc"])] == [160, 150, 125, 105]


def judged(size: str, rating: float, jacket: str = "pvc70", rule: str = "curve", **more: object):
    wire, standing = lone(size, jacket)
    return protection(np.array([rating]), standing, [wire], np.ones(1), np.array([2000.0]), rule, **more), standing


def test_what_a_fuse_never_opens_is_held_for_ever() -> None:
    """40 A on 4 mm² PVC 70 holds 44 A for ever: over 70 °C, so it is no fuse for that wire; 25 A is."""
    answer, standing = judged("4 mm2", 40)
    hot = float(steady_c(standing, np.array([44.0]))[0])
    assert hot > 75
    assert answer.used[0] > 1
    assert judged("4 mm2", 25)[0].used[0] < 1
    ampacity = float(answer.ampacity_a[0])
    assert float(steady_c(standing, np.array([ampacity]))[0]) == pytest.approx(70, abs=0.1)
    assert answer.used[0] >= 1.10 * 40 / ampacity
    assert judged("4 mm2", 40, allowance_k=20.0)[0].used[0] < answer.used[0]


@pytest.mark.parametrize("rating", [5.0, 10.0, 20.0, 30.0, 40.0, 60.0, 100.0])
@pytest.mark.parametrize("size", ["0.5 mm2", "2.5 mm2", "16 mm2"])
def test_an_all_clear_holds_at_every_overload_tried(size: str, rating: float) -> None:
    """Any current the fuse may carry, for as long as it may, leaves the wire under what its jacket stands so long."""
    answer, standing = judged(size, rating)
    wire = conductor(size, "copper", "general", "pvc70")
    amps = np.geomspace(1.1, 40, 40) * rating
    times = np.minimum(opening_s(rating, amps)[1], 3600.0)
    over = standing.after_c(amps[None, :], times[None, :])[0] - allowed_c(wire, times)
    if answer.used[0] <= 1:
        assert over.max() < 2.0
    elif answer.used[0] > 1.02:
        assert over.max() > 0.0


@pytest.mark.parametrize(
    ("size", "jacket", "make"),
    [("1.5 mm2", "xlpe", "thinwall"), ("1.5 mm2", "pvc70", "class5"), ("2.5 mm2", "pvc", "general")],
)
def test_the_largest_safe_fuse_is_just_safe(size: str, jacket: str, make: str) -> None:
    """Found by halving; tried at 200 overloads from 1.1 × up, the hottest comes within 3 K of what the jacket
    stands."""
    wire, standing = lone(size, jacket, make)

    def used(rating: float) -> float:
        return float(protection(np.array([rating]), standing, [wire], np.ones(1), np.array([2000.0]), "curve").used[0])

    low, high = 1.0, 40.0
    assert used(high) > 1
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if used(middle) <= 1 else (low, middle)
    amps = np.geomspace(1.1, 30, 200) * low
    last = anchors(wire.make, wire.jacket)[-1][0]
    times = np.minimum(opening_s(low, amps)[1], last)
    over = standing.after_c(amps[None, :], times[None, :])[0] - allowed_c(wire, times)
    assert -3 < over.max() < 3


def test_schools_of_fusing_by_hand() -> None:
    curve, _ = judged("4 mm2", 30)
    iz = float(curve.ampacity_a[0])
    assert judged("4 mm2", 30, rule="iec")[0].used[0] == pytest.approx(max(30 / iz, 1.35 * 30 / 1.45 / iz))
    assert judged("4 mm2", 30, rule="share150")[0].used[0] == pytest.approx(30 / (1.5 * iz))


def bundled(rating: float):
    """A lamp's feed among eight loaded wires, all along one run."""
    design = design_of(
        "supply 12 V 5 mohm at battery",
        "fuse box at box, 6 ways, from battery run 1 m",
        "heater 0 20 A at far from box run 3 m",
        *[f"heater {n} 20 A at far from box" for n in (1, 2, 3)],
    )
    design = set_size(
        set_project(design, max_drop_percent=60), [w.id for w in design.wires if "heater" in w.name], "2.5 mm2"
    )
    for way in ("F1", "F2", "F3", "F4"):
        design = set_fuse(design, "box", way, rating)
    return design


def test_a_wire_in_a_bundle_is_judged_in_its_bundle() -> None:
    """A fuse that is fine for the wire alone is not where its neighbours warm it; another case can be the worst."""
    found = analyse(bundled(25)).figures
    row = next(figure for figure in found.wires.values() if figure.wire.name == "heater 0 feed")
    alone, _ = judged("2.5 mm2", 25, "pvc")
    use = next(use for use in row.uses if use.limit is Limit.FUSE)
    assert alone.used[0] < 1 < use.used
    assert found.protected[row.row].ampacity_a < 0.8 * float(alone.ampacity_a[0])
    assert "may open too late" in str(why_fuse(found.solution.plant.design, found, row).verdict)
    assert "I₂/I_z" in why_fuse(found.solution.plant.design, found, row).as_text()


def test_a_hot_case_derates_fuses_and_worsens_protection() -> None:
    design = design_of("case hot at 60 C: all", start=bundled(15))
    cool, hot = analyse(bundled(15)).figures, analyse(design).figures
    name = next(w.id for w in design.wires if w.name == "heater 0 feed")
    used = [next(u.used for u in f.wires[name].uses if u.limit is Limit.FUSE) for f in (cool, hot)]
    assert used[1] > used[0] * 1.1
    from umber_trunk.core.fuses.fit import fuse_duties

    assert {duty.ambient_c for duty in fuse_duties(hot.solution)} == {60.0}


def test_bare_feeds_in_series_add_up_to_the_first_fuse() -> None:
    design = design_of(
        "supply 12 V 5 mohm at battery", "stud at post from battery run 0.2 m", "lamp 2 A at bow from post run 0.2 m"
    )
    told = {f.subject: f.message for f in analyse(design).findings if f.code == "wire.unprotected"}
    lamp = next(w.id for w in design.wires if w.name == "lamp feed")
    assert lamp in told
    assert "400 mm" in told[lamp]
    assert next(w.id for w in design.wires if w.name == "post feed") not in told


def test_a_weak_fault_counts_the_source_that_feeds_it() -> None:
    """Two supplies: the weak one's own 2 Ω let a short draw under 6 A, whatever the strong one could."""
    design = design_of(
        "supply main 12 V 5 mohm at battery",
        "supply aux 12 V 2 ohm at panel",
        "lamp 0.2 A at tip from panel fused 5 A run 1 m",
        "pump 3 A at well from battery fused 5 A run 1 m",
    )
    weak = {f.subject for f in analyse(design).findings if f.code == "fuse.weak_fault"}
    assert weak == {"lamp"}


def test_a_continuous_and_a_duty_ampacity() -> None:
    steady = size_run(Run(24, 5, amps=10, max_drop_v=5, size="2.5 mm2")).candidates[0]
    duty = size_run(Run(24, 5, amps=10, max_drop_v=5, size="2.5 mm2", duty=(10.0, 60.0))).candidates[0]
    assert duty.continuous_a == pytest.approx(steady.ampacity_a)
    assert duty.ampacity_a > 1.5 * steady.ampacity_a
    at_limit = size_run(Run(24, 5, amps=duty.ampacity_a, max_drop_v=23, size="2.5 mm2", duty=(10.0, 60.0))).candidates[
        0
    ]
    assert at_limit.conductor_c == pytest.approx(105, abs=0.5)


@pytest.mark.parametrize("size", ["0.5 mm2", "10 mm2", "95 mm2"])
def test_duty_tends_to_rms_and_to_continuous(size: str) -> None:
    amps = {"0.5 mm2": 9.0, "10 mm2": 90.0, "95 mm2": 350.0}[size]

    def hottest(current: float, duty: tuple[float, float] | None) -> float:
        return size_run(Run(1000, 1, amps=current, max_drop_v=900, size=size, duty=duty)).candidates[0].conductor_c - 30

    assert hottest(amps, (0.05, 0.15)) == pytest.approx(hottest(amps / 3**0.5, None), rel=0.03)
    assert hottest(amps, (1e5, 3e5)) == pytest.approx(hottest(amps, None), rel=0.02)


def test_joints_warm_the_wire_where_they_sit() -> None:
    """A 10 mΩ contact at 10 A gives off 1 W into a long fin: ΔT = I²R/√(kA/R′)."""
    plain = design_of("supply 12 V 5 mohm at battery", "lamp 10 A at bow run 3 m")
    plain = set_size(set_project(plain, max_drop_percent=30), [w.id for w in plain.wires], "2.5 mm2")
    end = index_of(plain).ends["bow"]
    poor = put(
        plain,
        "ends",
        end.model_copy(update={"cavities": tuple(c.model_copy(update={"joint_ohm": 0.01}) for c in end.cavities)}),
    )
    cool, hot = (analyse(design).figures.wires[plain.wires[0].id] for design in (plain, poor))
    wire = conductor("2.5 mm2", "copper", "general", "pvc")
    lone_km_w = lone_response("2.5 mm2", "copper", "general", "pvc").steady[0]
    by_hand = 10**2 * 0.01 / (390 * wire.size.area_mm2 * 1e-6 / lone_km_w) ** 0.5
    assert hot.conductor_c - cool.conductor_c == pytest.approx(by_hand, rel=0.25)
    assert hot.conductor_c - cool.conductor_c > 15


@pytest.mark.parametrize("name", ["barge", "tractor", "computer"])
def test_what_stands_for_ever_and_what_it_heats_to_are_each_others_inverse(name: str) -> None:
    """At its own current a wire stands at its own temperature; the current that holds it at a limit for ever brings it
    there."""
    solution = worked_out(name).figures.solution
    rows = np.arange(len(solution.plant.wires))
    told = 0
    for case in solution.cases:
        standing = standing_in(solution.plant, solution.heat, case, rows)
        off = steady_c(standing, standing.amps) - standing.celsius
        assert off.min() > -0.3
        assert (off < 0.3).mean() > 0.9  # what rests between whiles runs cooler than its heating current for ever
        for limit in (70.0, 105.0, 200.0):
            amps = standing.ampacity_a(np.full(len(rows), limit))
            held = (amps > 0.01) & (standing.celsius < limit)
            told += int(held.sum())
            assert steady_c(standing, amps)[held] == pytest.approx(np.full(int(held.sum()), limit), abs=0.1)
            assert (
                np.diff([standing.ampacity_a(np.full(len(rows), warm)) for warm in (limit, limit + 10)], axis=0)
                >= -1e-6
            ).all()
    assert told > 50
