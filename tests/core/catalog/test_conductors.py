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


@pytest.mark.parametrize(
    ("make", "metal", "area", "ohm_km"),
    # IEC 60228 class 5 and ISO 6722-1, maximum resistance at 20 °C
    [
        ("class5", "copper", "10", 1.91),
        ("class5", "tinned", "2.5", 8.21),
        ("marine", "tinned", "0.75", 26.7),
        ("thinwall", "copper", "0.35", 52.0),
        ("thinwall", "copper", "50", 0.368),
        ("welding", "copper", "70", 0.272),
    ],
)
def test_tabled_resistance_wins_over_the_formula(make: str, metal: str, area: str, ohm_km: float) -> None:
    assert conductor(f"{area} mm2", metal, make, "pvc").ohm_per_m_20 * 1000 == pytest.approx(ohm_km)


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
