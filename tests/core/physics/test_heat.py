"""Film, single wire, bundle and time against published tables and independent solvers."""

import ht
import numpy as np
import pytest

from plates import Plate, adiabatic_k
from umber_trunk.core.catalog.conductors import awg, conductor, metals
from umber_trunk.core.physics import bundle, film, heat
from umber_trunk.core.physics.packing import laid, pack
from umber_trunk.core.physics.transient import duty_factor, heat_capacity_j_mk

# NFPA 70 (NEC) 2011, table 310.15(B)(17): single insulated copper conductors in free air, 30 °C, 60/75/90 °C
NEC_FREE_AIR = {
    "14": (25, 30, 35),
    "12": (30, 35, 40),
    "10": (40, 50, 55),
    "8": (60, 70, 80),
    "6": (80, 95, 105),
    "4": (105, 125, 140),
    "3": (120, 145, 165),
    "2": (140, 170, 190),
    "1": (165, 195, 220),
    "1/0": (195, 230, 260),
    "2/0": (225, 265, 300),
    "3/0": (260, 310, 350),
    "4/0": (300, 360, 405),
}
# IEC 60364-5-52 tables B.52.10 and B.52.12, method G horizontal spaced, copper, 30 °C: PVC 70 °C, XLPE 90 °C
IEC_FREE_AIR = {25: (146, 182), 35: (181, 226), 50: (219, 275), 70: (281, 353), 95: (341, 430), 120: (396, 500)}
# IEC 60364-5-52 table B.52.17, bunched in air: n → factor
GROUPING = {2: 0.80, 3: 0.70, 4: 0.65, 5: 0.60, 6: 0.57, 7: 0.54, 8: 0.52, 9: 0.50, 12: 0.45, 16: 0.41, 20: 0.38}


def lone_ampacity(size: str, limit_c: float) -> float:
    wires = heat.WireBodies.of([conductor(size, "copper", "general", "pvc")])
    return float(heat.ampacity_a(np.array([limit_c]), wires, np.array([30.0]))[0])


@pytest.mark.parametrize("gauge", NEC_FREE_AIR)
@pytest.mark.parametrize(("column", "limit"), [(0, 60.0), (1, 75.0), (2, 90.0)])
def test_free_air_ampacity_awg(gauge: str, column: int, limit: float) -> None:
    assert lone_ampacity(awg(gauge).label, limit) == pytest.approx(NEC_FREE_AIR[gauge][column], rel=0.10)


@pytest.mark.parametrize("area", IEC_FREE_AIR)
@pytest.mark.parametrize(("column", "limit"), [(0, 70.0), (1, 90.0)])
def test_free_air_ampacity_metric(area: int, column: int, limit: float) -> None:
    assert lone_ampacity(f"{area} mm2", limit) == pytest.approx(IEC_FREE_AIR[area][column], rel=0.10)


def test_free_convection_agrees_with_an_independent_correlation() -> None:
    for pr, gr in ((0.69, 900.0), (0.70, 1e5), (0.71, 3e6)):
        ours = float(film.nusselt_free(np.array(pr * gr), np.array(pr)))
        assert ours == pytest.approx(ht.conv_free_immersed.Nu_horizontal_cylinder_Churchill_Chu(pr, gr), rel=1e-3)


def test_cross_flow_agrees_with_an_independent_correlation() -> None:
    for reynolds in (50.0, 1000.0, 2e4):
        ours = float(film.nusselt_forced(np.array(reynolds), np.array(0.71)))
        assert ours == pytest.approx(ht.conv_external.Nu_cylinder_Churchill_Bernstein(reynolds, 0.71), rel=0.02)


@pytest.mark.parametrize(
    ("celsius", "k", "nu", "pr"),
    # VDI Heat Atlas, dry air at 1 bar: 20, 60 and 100 °C
    [(20, 0.02587, 15.35e-6, 0.7148), (60, 0.02880, 19.27e-6, 0.7111), (100, 0.03162, 23.54e-6, 0.7070)],
)
def test_air_properties(celsius: float, k: float, nu: float, pr: float) -> None:
    found = [float(value) for value in film.air_at(np.array(celsius + 273.15))]
    assert found == pytest.approx([k, nu, pr], rel=0.03)


def test_surface_gives_off_what_it_is_fed() -> None:
    watts = np.geomspace(1e-3, 1e4, 60)
    diameter, ambient = np.full(60, 0.006), np.full(60, 35.0)
    rise = film.surface_rise_k(watts, diameter, ambient)
    given_off = np.pi * diameter * rise * film.film_w_m2k(diameter, rise, ambient)
    assert given_off == pytest.approx(watts, rel=1e-6)
    assert np.all(np.diff(rise) > 0)


def test_ampacity_and_temperature_are_inverse() -> None:
    wires = heat.WireBodies.of([conductor(s, "copper", "class5", "xlpe") for s in ("0.5 mm2", "6 mm2", "95 mm2")])
    limit, ambient = np.array([60.0, 90.0, 125.0]), np.array([20.0, 40.0, 55.0])
    amps = heat.ampacity_a(limit, wires, ambient)
    assert heat.conductor_c(amps, wires, ambient) == pytest.approx(limit, abs=1e-3)


def test_wind_cools_and_no_room_means_no_current() -> None:
    wires = heat.WireBodies.of([conductor("10 mm2", "copper", "general", "pvc")])
    amps, ambient = np.array([80.0]), np.array([30.0])
    assert heat.conductor_c(amps, wires, ambient, 3.0)[0] < heat.conductor_c(amps, wires, ambient)[0] - 10
    assert heat.ampacity_a(np.array([30.0]), wires, ambient)[0] == 0


def strands(outer_m: np.ndarray, share: float = 0.64, jacket_w_mk: float = 0.17) -> bundle.Strands:
    """Wires (s, n) whose metal is that share of their outside diameter."""
    return bundle.Strands(outer_m, share * outer_m, np.full_like(outer_m, jacket_w_mk))


def grouped(size: str, make: str, limit: float, n: int, packer: str) -> float:
    """Share of the lone current that n bundled wires carry at the same temperature."""
    wire = conductor(size, "copper", make, "pvc")
    body = heat.WireBodies.of([wire])
    outer = np.full((1, n), wire.outer_mm / 1e3)
    if packer == "laid":
        centres, enclosing = laid(outer)
    else:
        packed = pack(outer[0])
        centres, enclosing = packed.centres[None], np.array([packed.diameter])
    section = bundle.Sections.of(centres, strands(outer, wire.conductor_mm / wire.outer_mm), enclosing)
    ohm = float(body.ohm_per_m(np.array([limit]))[0])
    lone = float(heat.ampacity_a(np.array([limit]), body, np.array([30.0]))[0])
    low, high = 0.0, lone
    for _ in range(30):
        amps = (low + high) / 2
        watts = np.full((1, n), amps**2 * ohm)
        hottest = 30 + bundle.bundle_rise_k(section, watts, np.array([30.0])).max() + watts[0, 0] * body.jacket_km_w[0]
        low, high = (low, amps) if hottest > limit else (amps, high)
    return low / lone


@pytest.mark.parametrize("n", GROUPING)
@pytest.mark.parametrize("packer", ["laid", "tightest"])
@pytest.mark.parametrize(("size", "make", "limit"), [
    ("1 mm2", "thinwall", 90.0), ("2.5 mm2", "class5", 70.0), ("6 mm2", "general", 105.0),
    ("16 mm2", "class5", 90.0), ("95 mm2", "general", 70.0),
])  # fmt: skip
@pytest.mark.share(6)
def test_grouping_factors(n: int, packer: str, size: str, make: str, limit: float) -> None:
    assert grouped(size, make, limit, n, packer) == pytest.approx(GROUPING[n], abs=0.04)


SEVEN = np.array([[6.0, 4.0, 4.0, 3.0, 2.5, 2.5, 2.0]]) / 1e3


@pytest.mark.parametrize(("outer", "share", "watts"), [
    (np.full((1, 7), 0.003), 0.64, [7, 0, 0, 0, 0, 0, 0]),  # one loaded among six idle ones
    (np.full((1, 7), 0.003), 0.64, [1, 1, 1, 1, 1, 1, 1]),
    (SEVEN, 0.64, [4, 0, 2, 1, 0, 3, 0.5]),
    (SEVEN, 0.40, [0, 3, 0, 0, 2, 0, 1]),
    (np.array([[8.0, 2.0, 2.0, 2.0, 2.0]]) / 1e3, 0.75, [0, 1, 1, 1, 1]),
])  # fmt: skip
@pytest.mark.share(3)
def test_cross_section_against_a_finite_volume_solve(outer: np.ndarray, share: float, watts: list[float]) -> None:
    """Temperatures within 10 % of the rise, most within 3; all heat leaves at the rim."""
    wires, losses = strands(outer, share), np.array([watts], dtype=float)
    centres, enclosing = laid(outer)
    section = bundle.Sections.of(centres, wires, enclosing)
    film_w = 15.0
    jacket = losses[0] * np.log(1 / share) / (2 * np.pi * 0.17)
    ours = section.rise_k(losses, np.array([film_w]))[0] + jacket
    plate = Plate(centres[0], wires, enclosing[0] / 2, float(section.filling_w_mk[0]), film_w)
    theirs, given_off = plate.rises(losses[0])
    assert given_off == pytest.approx(losses.sum(), rel=1e-3)
    assert ours == pytest.approx(theirs, rel=0.10)
    assert np.median(np.abs(ours / theirs - 1)) < 0.03


@pytest.mark.parametrize(("size", "n", "loaded", "duty"), [
    ("2.5 mm2", 7, 7, (20, 60)), ("2.5 mm2", 7, 1, (20, 60)), ("2.5 mm2", 7, 7, (120, 900)),
    ("1.5 mm2", 12, 2, (60, 300)), ("16 mm2", 3, 3, (20, 60)), ("2.5 mm2", 19, 6, (120, 600)),
])  # fmt: skip
@pytest.mark.share(3)
def test_duties_in_bundles_against_a_finite_volume_run_in_time(
    size: str, n: int, loaded: int, duty: tuple[float, float]
) -> None:
    """The hottest instant is never under the run's, and nearer to it than the steady temperature is by far."""
    wire = conductor(size, "copper", "general", "pvc")
    body = heat.WireBodies.of([wire])
    outer = np.full((1, n), wire.outer_mm / 1e3)
    centres, enclosing = laid(outer)
    wires = strands(outer, wire.conductor_mm / wire.outer_mm)
    section = bundle.Sections.of(centres, wires, enclosing)
    watts = np.where(np.arange(n) < loaded, 10.0, 0.0)
    plate = Plate(centres[0], wires, enclosing[0] / 2, float(section.filling_w_mk[0]), 14.0, 120)
    run = plate.peak(watts, wire.kg_per_m * 385, *duty, 0)
    jacket, own = float(body.jacket_km_w[0]), float(section.own_km_w()[0, 0])
    film = 1 / (2 * np.pi * enclosing[0] / 2 * 14.0)
    near, bulk = (
        duty_factor(
            *duty, np.array([heat_capacity_j_mk(wire) * (own + jacket), n * heat_capacity_j_mk(wire, 1.0) * film])
        )
        ** 2
    )
    slow = section.rise_k(watts[None] * bulk, np.array([14.0]))[0, 0]
    ours = slow + watts[0] * (near - bulk) * own + watts[0] * near * jacket
    steady = section.rise_k(watts[None], np.array([14.0]))[0, 0] + watts[0] * jacket
    assert ours >= run * 0.99
    assert ours - run < 0.2 * (steady - run)


def test_cross_section_gives_off_all_its_heat() -> None:
    """The rim's own temperature, read by a thin idle probe laid round it, carries off what was put in."""
    outer = np.append(SEVEN, np.full((1, 24), 1e-6), axis=1)
    packed = pack(SEVEN[0] * 1e3)
    turns = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    radius = packed.diameter / 2e3
    probes = 0.9999 * radius * np.column_stack([np.cos(turns), np.sin(turns)])
    centres = np.append(packed.centres / 1e3, probes, axis=0)[None]
    section = bundle.Sections.of(centres, strands(outer), np.array([2 * radius]))
    watts = np.append([[4.0, 0.0, 2.0, 1.0, 0.0, 3.0, 0.5]], np.zeros((1, 24)), axis=1)
    rim = section.rise_k(watts, np.array([15.0]))[0][7:]
    assert 15.0 * 2 * np.pi * radius * rim.mean() == pytest.approx(watts.sum(), rel=1e-3)


def test_metal_spreads_heat_and_plastic_does_not() -> None:
    """One loaded wire among six idle ones: cooler among thick copper than among thin copper in thick plastic,
    and the bundle's even load is cooler than the same watts in one wire."""
    outer = np.full((1, 7), 0.003)
    one, every = np.zeros((1, 7)), np.full((1, 7), 1.0)
    one[0, 0] = 7.0
    ambient = np.array([30.0])

    def hottest(share: float, watts: np.ndarray) -> float:
        centres, enclosing = laid(outer)
        return float(
            bundle.bundle_rise_k(bundle.Sections.of(centres, strands(outer, share), enclosing), watts, ambient).max()
        )

    assert hottest(0.8, one) < hottest(0.5, one) - 1
    assert hottest(0.64, one) > hottest(0.64, every)


@pytest.mark.parametrize("wall", [0.0, 0.0005, 0.006])
def test_sleeves_lie_in_series_with_the_film(wall: float) -> None:
    """Rise at the packed rim = that of the sleeve's surface, and q·ln(D/d)/2πk across its wall."""
    watts, radius, ambient = 7.0, 0.0045, np.array([30.0])
    film_w = float(bundle.rim_film_w_m2k(np.array([watts]), np.array([radius]), ambient, 1.0, wall)[0])
    surface = float(film.surface_rise_k(np.array([watts]), np.array([2 * (radius + wall)]), ambient)[0])
    across = watts * np.log((radius + wall) / radius) / (2 * np.pi * 0.2)
    assert watts / (2 * np.pi * radius * film_w) == pytest.approx(surface + across, rel=1e-5)


def test_large_bundles_join_on_to_resolved_ones() -> None:
    outer, watts = np.full((1, 150), 0.003), np.full((1, 150), 0.2)
    centres, enclosing = laid(outer)
    section = bundle.Sections.of(centres, strands(outer), enclosing)
    film_w = bundle.rim_film_w_m2k(watts.sum(axis=1), enclosing / 2, np.array([30.0]))
    resolved = section.rise_k(watts, film_w).max()
    radii = bundle.smeared_radii_m(outer[0])
    stuff = bundle.smeared_w_mk(strands(outer), float(radii[-1]))
    smeared = bundle.smeared_rise_k(watts[0], radii, float(film_w[0]), stuff).max()
    assert smeared == pytest.approx(resolved, rel=0.08)


@pytest.mark.parametrize(("start", "final", "k"), [(70, 160, 115), (90, 250, 143), (70, 140, 103)])
def test_adiabatic_k_of_copper(start: float, final: float, k: float) -> None:
    """IEC 60364-5-54 table A.54.4 (PVC 115, XLPE 143, PVC over 300 mm² 103)."""
    assert adiabatic_k(metals()["copper"], start, final) == pytest.approx(k, rel=0.01)


@pytest.mark.parametrize(("start", "final", "k"), [(70, 160, 76), (90, 250, 94)])
def test_adiabatic_k_of_aluminium(start: float, final: float, k: float) -> None:
    """The same table, aluminium."""
    assert adiabatic_k(metals()["aluminium"], start, final) == pytest.approx(k, rel=0.01)


def test_duty_factor_limits() -> None:
    tau = np.array([200.0])
    assert duty_factor(0.1, 0.4, tau)[0] == pytest.approx(0.5, rel=1e-3)
    assert duty_factor(5000, 20000, tau)[0] == pytest.approx(1.0, rel=1e-3)
