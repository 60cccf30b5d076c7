"""Series, areas and resistances against published tables."""

import pytest

from umber_trunk.core.catalog.conductors import awg, conductor, jackets, makes, metals, parse_size, series
from umber_trunk.core.errors import InputError


@pytest.mark.parametrize(
    ("gauge", "area"),
    # ASTM B258 table 1, mm², solid round conductors
    [
        ("24", 0.205),
        ("20", 0.519),
        ("18", 0.823),
        ("14", 2.08),
        ("12", 3.31),
        ("10", 5.26),
        ("8", 8.37),
        ("6", 13.3),
        ("4", 21.2),
        ("2", 33.6),
        ("1", 42.4),
        ("1/0", 53.5),
        ("2/0", 67.4),
        ("3/0", 85.0),
        ("4/0", 107.2),
    ],
)
def test_awg_areas(gauge: str, area: float) -> None:
    assert awg(gauge).area_mm2 == pytest.approx(area, rel=5e-3)


@pytest.mark.parametrize(
    ("text", "label"),
    [
        ("AWG 8", "AWG 8"),
        ("8 AWG", "AWG 8"),
        ("#8", "AWG 8"),
        ("8ga", "AWG 8"),
        ("2/0", "AWG 2/0"),
        ("00", "AWG 2/0"),
        ("awg 1/0", "AWG 1/0"),
        ("10 mm2", "10 mm2"),
        ("10 mm²", "10 mm2"),
        ("2,5 mm²", "2.5 mm2"),
        ("16 sqmm", "16 mm2"),
    ],
)
def test_sizes_as_people_write_them(text: str, label: str) -> None:
    assert parse_size(text).label == label


@pytest.mark.parametrize("text", ["", "thin", "AWG 99", "0 mm2", "5000 mm2", "AWG", "10 kg", "5/0"])
def test_what_is_no_size(text: str) -> None:
    with pytest.raises(InputError):
        parse_size(text)


AREAS = (0.35, 0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120)
LAWS = {
    ("class5", "copper"): (
        0,
        39.0,
        26.0,
        19.5,
        13.3,
        7.98,
        4.95,
        3.30,
        1.91,
        1.21,
        0.780,
        0.554,
        0.386,
        0.272,
        0.206,
        0.161,
    ),
    ("class5", "tinned"): (
        0,
        40.1,
        26.7,
        20.0,
        13.7,
        8.21,
        5.09,
        3.39,
        1.95,
        1.24,
        0.795,
        0.565,
        0.393,
        0.277,
        0.210,
        0.164,
    ),
    ("thinwall", "copper"): (52.0, 37.1, 24.7, 18.5, 12.7, 7.60, 4.71, 3.14, 1.82, 1.16, 0.743, 0.527, 0.368, 0, 0, 0),
}
LAWS[("marine", "tinned")] = LAWS[("class5", "tinned")]
LAWS[("welding", "copper")] = (*[0] * 8, *LAWS[("class5", "copper")][8:])


def test_tables_are_the_standards() -> None:
    """Most ohms a kilometre at 20 °C, IEC 60228 class 5 (class 6 is alike from 10 mm²) and ISO 6722-1, every cell typed
    once more; they win over the formula."""
    for name, make in makes().items():
        for metal, table in make.resistance_ohm_km.items():
            assert table == {area: most for area, most in zip(AREAS, LAWS[name, metal], strict=True) if most}, (
                name,
                metal,
            )
            for area, most in table.items():
                assert conductor(f"{area:g} mm2", metal, name, "pvc").ohm_per_m_20 * 1000 == pytest.approx(most)
    assert {(name, metal) for name, make in makes().items() for metal in make.resistance_ohm_km} == LAWS.keys()


def test_plain_resistance_by_hand() -> None:
    # 1.7241e-8 Ω·m × 1.02 / 10 mm²
    assert conductor("10 mm2", "copper", "general", "pvc").ohm_per_m_20 == pytest.approx(1.75858e-3, rel=1e-5)


def test_formula_stays_under_the_standards_maximum() -> None:
    for area, most in makes()["class5"].resistance_ohm_km["copper"].items():
        plain = conductor(f"{area:g} mm2", "copper", "general", "pvc").ohm_per_m_20 * 1000
        assert 0.85 * most < plain <= most * 1.001


def test_clad_aluminium_needs_more_area() -> None:
    copper = conductor("10 mm2", "copper", "general", "pvc")
    clad = conductor("16 mm2", "cca10", "general", "pvc")
    assert clad.ohm_per_m_20 == pytest.approx(copper.ohm_per_m_20, rel=0.01)
    assert clad.kg_per_m < copper.kg_per_m


def test_every_combination_has_sound_figures() -> None:
    for metal in metals():
        for make in makes():
            for jacket in jackets():
                steps = [conductor(size.label, metal, make, jacket) for size in series("metric")]
                assert all(step.outer_mm > step.conductor_mm > 0 for step in steps)
                ohms = [step.ohm_per_m_20 for step in steps]
                assert ohms == sorted(ohms, reverse=True)
                masses = [step.kg_per_m for step in steps]
                assert masses == sorted(masses)


def test_unknown_parts_are_named() -> None:
    with pytest.raises(InputError, match="unobtainium"):
        conductor("10 mm2", "unobtainium", "general", "pvc")
    with pytest.raises(InputError, match="no size series"):
        series("imperial")


def test_metals_and_jackets_are_as_published() -> None:
    """Typed once more: resistivity at 20 °C, its coefficient, density (IEC 60028, IEC 60889, ASTM B566 classes 10A and
    15A, CRC Handbook), most degrees at work and in a short of up to 5 s (IEC 60724: PVC 160, EPR and XLPE 250, silicone
    350), least while flexed (makers' general figures)."""
    assert {
        name: (m.rho20_ohm_m, m.alpha_per_k, m.density_kg_m3, m.heat_j_kg_k, m.beta_c) for name, m in metals().items()
    } == {
        "copper": (1.7241e-8, 0.00393, 8890, 385, 234.5),
        "tinned": (1.767e-8, 0.00393, 8890, 385, 234.5),
        "cca10": (2.743e-8, 0.00401, 3320, 760, 229.5),
        "cca15": (2.676e-8, 0.004, 3630, 709, 230),
        "aluminium": (2.8264e-8, 0.00403, 2703, 897, 228),
    }
    assert {name: (j.limit_c, j.short_c, j.cold_flex_c, j.k_w_mk) for name, j in jackets().items()} == {
        "pvc70": (70, 160, -5, 0.17),
        "pvc": (105, 160, -20, 0.17),
        "rubber": (90, 250, -40, 0.22),
        "xlpe": (125, 250, -40, 0.29),
        "silicone": (175, 350, -60, 0.25),
        "fluoro": (200, 300, -60, 0.24),
    }
