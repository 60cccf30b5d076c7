"""Film, single wire, bundle and time against published tables and independent solvers."""

import ht
import numpy as np
import pytest
from scipy.integrate import solve_ivp

from umber_trunk.core.catalog.conductors import awg, conductor, metals
from umber_trunk.core.physics import bundle, film, heat
from umber_trunk.core.physics.constants import BUNDLE_W_MK
from umber_trunk.core.physics.packing import BEST, pack, sketched
from umber_trunk.core.physics.transient import WarmUp, adiabatic_k, duty_factor

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
IEC_FREE_AIR = {
    25: (146, 182),
    35: (181, 226),
    50: (219, 275),
    70: (281, 353),
    95: (341, 430),
    120: (396, 500),
}
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
    found = [float(value) for value in film.air_properties(np.array(float(celsius)))]
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


def grouped(size: str, limit: float, n: int, packer: str) -> float:
    """Share of the lone current that n bundled wires carry at the same temperature."""
    wire = conductor(size, "copper", "class5", "pvc")
    body = heat.WireBodies.of([wire])
    outer = np.full((1, n), wire.outer_mm / 1e3)
    if packer == "sketched":
        centres, enclosing = sketched(outer)
    else:
        packed = pack(outer[0], BEST)
        centres, enclosing = packed.centres[None], np.array([packed.diameter])
    section = bundle.Sections.of(centres, outer, enclosing)
    ohm = float(body.ohm_per_m(np.array([limit]))[0])
    lone = float(heat.ampacity_a(np.array([limit]), body, np.array([30.0]))[0])
    low, high = 0.0, lone
    for _ in range(40):
        amps = (low + high) / 2
        watts = np.full((1, n), amps**2 * ohm)
        hottest = 30 + bundle.bundle_rise_k(section, watts, np.array([30.0])).max() + watts[0, 0] * body.jacket_km_w[0]
        low, high = (low, amps) if hottest > limit else (amps, high)
    return low / lone


@pytest.mark.parametrize("n", GROUPING)
@pytest.mark.parametrize(
    ("size", "limit", "packer"),
    [("2.5 mm2", 70.0, "sketched"), ("16 mm2", 70.0, "sketched"), ("2.5 mm2", 90.0, "pack")],
)
def test_grouping_factors(n: int, size: str, limit: float, packer: str) -> None:
    assert grouped(size, limit, n, packer) == pytest.approx(GROUPING[n], abs=0.04)


def test_cross_section_gives_off_all_its_heat() -> None:
    """Flux through the rim, from the series' own gradient by differences, against the losses put in."""
    diameters = np.array([6.0, 4.0, 4.0, 3.0, 2.5, 2.5, 2.0])
    packed = pack(diameters)
    section = bundle.Sections.of(packed.centres[None] / 1e3, diameters[None] / 1e3, np.array([packed.diameter / 1e3]))
    watts, biot = np.array([4.0, 0.0, 2.0, 1.0, 0.0, 3.0, 0.5]), 0.4
    radius = packed.diameter / 2e3
    turns = np.linspace(0, 2 * np.pi, 720, endpoint=False)

    def field(r: float) -> np.ndarray:
        """θ at reduced radius r for all turns, straight from the formula in the module's docstring."""
        total = np.zeros_like(turns)
        for (x, y), q in zip(packed.centres / 1e3, watts, strict=True):
            s, psi = np.hypot(x, y) / radius, np.arctan2(y, x)
            direct = -np.log(np.sqrt(r**2 + s**2 - 2 * r * s * np.cos(turns - psi)))
            m = np.arange(1, 200)[:, None]
            waves = ((m - biot) / (m * (m + biot)) * (r * s) ** m * np.cos(m * (turns - psi))).sum(0)
            total += q / (2 * np.pi * BUNDLE_W_MK) * (direct + waves + 1 / biot)
        return total

    rim_w_mk = biot * BUNDLE_W_MK  # h·R
    assert 2 * np.pi * rim_w_mk * field(1.0).mean() == pytest.approx(watts.sum(), rel=1e-3)
    step = 1e-4
    slope = (field(1.0) - field(1.0 - step)) / step
    assert slope == pytest.approx(-biot * field(1.0 - step / 2), rel=0.02)
    # and the module's own numbers are that field at the wires' skins
    idle = section.rise_k(watts[None], np.array([biot]))[0][1]
    x, y = packed.centres[1] / 1e3 / radius
    near = np.argmin(np.abs(turns - np.arctan2(y, x) % (2 * np.pi)))
    assert idle == pytest.approx(field(float(np.hypot(x, y)))[near], rel=0.01)


def test_idle_neighbours_spread_heat_and_sleeves_hold_it() -> None:
    wire = conductor("2.5 mm2", "copper", "general", "pvc").outer_mm / 1e3
    outer = np.full((1, 7), wire)
    section = bundle.Sections.of(*_placed(outer))
    one = np.zeros((1, 7))
    one[0, 0] = 7.0
    every = np.full((1, 7), 1.0)
    ambient = np.array([30.0])
    assert bundle.bundle_rise_k(section, one, ambient)[0, 0] > bundle.bundle_rise_k(section, every, ambient).max()
    bare, sleeved = (bundle.bundle_rise_k(section, every, ambient, s).max() for s in (0.0, 0.002))
    assert sleeved != pytest.approx(bare, rel=1e-3)


def _placed(outer: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    centres, enclosing = sketched(outer)
    return centres, outer, enclosing


def test_large_bundles_join_on_to_resolved_ones() -> None:
    n = 150
    outer = np.full(n, 0.003)
    watts = np.full(n, 0.2)
    centres, enclosing = sketched(outer[None])
    section = bundle.Sections.of(centres, outer[None], enclosing)
    film_w = bundle.rim_film_w_m2k(np.array([watts.sum()]), enclosing / 2, np.array([30.0]))
    resolved = section.rise_k(watts[None], film_w * enclosing / 2 / BUNDLE_W_MK).max()
    smeared = bundle.smeared_rise_k(watts, bundle.smeared_radii_m(outer), float(film_w[0])).max()
    assert smeared == pytest.approx(resolved, rel=0.06)


@pytest.mark.parametrize(("start", "final", "k"), [(70, 160, 115), (90, 250, 143), (70, 140, 103)])
def test_adiabatic_k_of_copper(start: float, final: float, k: float) -> None:
    """IEC 60364-5-54 table A.54.4 (PVC 115, XLPE 143, PVC over 300 mm² 103)."""
    assert adiabatic_k(metals()["copper"], start, final) == pytest.approx(k, rel=0.01)


@pytest.mark.parametrize(("start", "final", "k"), [(70, 160, 76), (90, 250, 94)])
def test_adiabatic_k_of_aluminium(start: float, final: float, k: float) -> None:
    """The same table, aluminium."""
    assert adiabatic_k(metals()["aluminium"], start, final) == pytest.approx(k, rel=0.01)


@pytest.mark.parametrize(("size", "amps", "seconds"), [("0.35 mm2", 8, 120), ("10 mm2", 120, 300), ("70 mm2", 900, 60)])
def test_warm_up_against_an_independent_integrator(size: str, amps: float, seconds: float) -> None:
    body = WarmUp(conductor(size, "copper", "general", "pvc"), 30.0)

    def rate(_: float, c: np.ndarray) -> list[float]:
        made = amps**2 * body.r20 * (1 + body.alpha * (c[0] - 20))
        return [(made - body.loss_w_m(c[0])) / body.capacity]

    exact = solve_ivp(rate, (0, seconds), [30.0], rtol=1e-9, atol=1e-7, method="LSODA").y[0, -1]
    assert body.after(30.0, amps, seconds) == pytest.approx(exact, abs=1.0)


@pytest.mark.parametrize("size", ["0.5 mm2", "10 mm2", "95 mm2"])
def test_duty_tends_to_rms_and_to_continuous(size: str) -> None:
    body = WarmUp(conductor(size, "copper", "general", "pvc"), 30.0)
    amps = {"0.5 mm2": 9.0, "10 mm2": 90.0, "95 mm2": 350.0}[size]
    rms = body.settled(amps / 3**0.5)
    assert body.hottest_in_duty(amps, 0.5, 1.5) - 30 == pytest.approx(rms - 30, rel=0.02)
    assert body.hottest_in_duty(amps, 1e5, 3e5) - 30 == pytest.approx(body.settled(amps) - 30, rel=0.02)


def test_duty_factor_limits() -> None:
    tau = np.array([200.0])
    assert duty_factor(0.1, 0.4, tau)[0] == pytest.approx(0.5, rel=1e-3)
    assert duty_factor(5000, 20000, tau)[0] == pytest.approx(1.0, rel=1e-3)


def test_very_short_bursts_are_adiabatic() -> None:
    wire = conductor("10 mm2", "copper", "general", "pvc")
    body = WarmUp(wire, 30.0)
    rise = body.after(30.0, 1000, 0.01) - 30
    assert rise == pytest.approx(1000**2 * wire.ohm_per_m_20 * 1.04 * 0.01 / body.capacity, rel=0.01)
