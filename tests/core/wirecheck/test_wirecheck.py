"""Coils made up from the laws they are judged by, each with its own quirks and noisy readings: the answer has to know
how sure it is."""

from __future__ import annotations

import math
import re
from dataclasses import replace

import numpy as np
import pytest

from demos import worked_out
from umber_trunk.core.catalog.conductors import makes, metals, parse_size
from umber_trunk.core.errors import InputError
from umber_trunk.core.wirecheck.built import built_with
from umber_trunk.core.wirecheck.evidence import DENSITY_SHARE, Evidence, Reading
from umber_trunk.core.wirecheck.judge import FAMILIES, judge
from umber_trunk.core.wirecheck.told_readings import read_evidence

SIZES = (0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70)


def coil(seed: int, kinds: tuple[str, ...], weighed: str = "bare") -> tuple[str, float, Evidence]:
    """(metal, area, readings) of a made-up coil; its readings by plain geometry, in its own code."""
    draw = np.random.default_rng(seed)
    metal, make = list(metals().values())[draw.integers(5)], list(makes().values())[draw.integers(5)]
    area = float(draw.choice(SIZES)) * math.exp(draw.normal(0, 0.15))
    lay, fill = make.lay * (1 + 0.008 * draw.normal()), make.fill * (1 + 0.03 * draw.normal())
    wall, jacket = make.wall_mm(area) * math.exp(0.2 * draw.normal()), 1350 * math.exp(0.15 * draw.normal())
    rho = metal.rho20_ohm_m * (1 + 0.01 * draw.normal())
    dense = metal.density_kg_m3 * (1 + DENSITY_SHARE.get(metal.id, 0.005) * draw.normal())
    bundle = 2 * math.sqrt(area / fill / math.pi)
    outer = bundle + 2 * wall
    length = 2.0 if area > 8 else 10.0
    kg = dense * area * 1e-6 * lay * length
    if weighed == "jacketed":
        kg += jacket * math.pi * (outer**2 - bundle**2) / 4e6 * length
    ohm = rho * lay * length / area * 1e6 * (1 + metal.alpha_per_k * 3)
    strands = max(7, round(area / 0.05))

    def read(value: float, sd: float) -> Reading:
        return Reading(value + sd * draw.normal(), sd)

    all_of_them = {
        "mass": {"mass_kg": read(kg, max(0.003 * kg, 0.0005)), "weighed": weighed}, "od": {"outer_mm": read(outer, 0.1)},
        "bundle": {"bundle_mm": read(bundle, 0.03 * bundle)}, "strands": {"strands": strands, "strand_mm": read(2 * math.sqrt(area / strands / math.pi), 0.003)},
        "resistance": {"ohm": read(ohm, 0.01 * ohm)},
    }  # fmt: skip
    values = {key: value for kind in kinds for key, value in all_of_them[kind].items()}
    return metal.id, area, Evidence(sample_m=read(length, 0.002), ambient_c=read(23, 0.5), **values)


MANY = 120


@pytest.mark.parametrize(
    ("kinds", "weighed"),
    [(("mass", "od", "resistance"), "bare"), (("mass", "od", "resistance"), "jacketed"), (("resistance", "bundle"), ""), (("mass", "strands"), "bare")],
)  # fmt: skip
@pytest.mark.share(2)
def test_the_area_is_as_sure_as_it_says(kinds: tuple[str, ...], weighed: str) -> None:
    """95 of 100, give or take the chance of so few coils (three standard deviations of a binomial)."""
    inside, right, sure, agree = 0, 0, 0.0, 0
    for seed in range(MANY):
        metal, area, evidence = coil(seed, kinds, weighed)
        found = judge(evidence)
        inside += found.low_mm2 <= area <= found.high_mm2
        family = max(found.families, key=lambda one: found.families[one])
        right += family == FAMILIES[metal]
        sure += found.families[family]
        agree += found.consistent
    reach = 3 * math.sqrt(0.95 * 0.05 / MANY)
    assert 0.95 - reach <= inside / MANY <= 0.95 + reach
    assert abs(right - sure) / MANY < 0.08  # probabilities are calibrated
    assert agree / MANY > 0.97
    if kinds == ("mass", "od", "resistance") and weighed == "bare":
        assert right / MANY >= 0.98


def test_what_cannot_be_told_is_not_told() -> None:
    found = judge(Evidence(outer_mm=Reading(9.0, 0.1), claim=parse_size("16 mm2")))
    assert found.claimed is None
    assert "can’t tell" in str(found.verdict)
    assert found.high_mm2 > 2 * found.low_mm2
    assert found.next_reading
    with pytest.raises(InputError, match="Nothing was read"):
        judge(Evidence())
    with pytest.raises(InputError, match="how long"):
        Evidence(ohm=Reading(1e-3, 1e-5))


HONEST = {"claim": "35 mm2 copper", "length": "2m", "mass": "620g", "od": "11.2mm", "strands": "1100x0.2mm", "resistance": "1.1mohm", "ambient": "20C"}  # fmt: skip


def test_an_honest_coil_and_three_that_are_not() -> None:
    assert judge(read_evidence(HONEST)).claimed is True
    thin = judge(
        read_evidence(
            {"claim": "35 mm2 copper", "length": "2m", "mass": "435g", "resistance": "1.47mohm", "ambient": "20C"},
            "bare",
        )
    )
    assert thin.claimed is False
    assert "sold as 35 mm² copper: it is 24" in str(thin.verdict)
    assert thin.families["copper"] > 0.99
    clad = judge(
        read_evidence(
            {"claim": "16 mm2 copper", "length": "2m", "mass": "108g", "resistance": "3.49mohm", "ambient": "20C"},
            "bare",
        )
    )
    assert clad.claimed is False
    assert clad.families["copper-clad aluminium"] > 0.95
    odd = judge(read_evidence({**HONEST, "resistance": "2.2mohm"}, "bare"))
    assert not odd.consistent
    assert odd.odd == "resistance"
    assert odd.claimed is None
    assert str(odd.next_reading) == "read the ohms again"


SLIPS = {"resistance": (0.1, 10.0), "mass": (0.1, 10.0), "od": (0.1, 10.0), "bundle": (0.1, 10.0)}


@pytest.mark.parametrize(
    "pair",
    [
        ("mass", "resistance"),
        ("mass", "od", "resistance"),
        ("strands", "resistance"),
        ("bundle", "resistance"),
        ("od", "mass"),
        ("mass", "strands"),
    ],
)
def test_a_slipped_decimal_accuses_nobody(pair: tuple[str, ...]) -> None:
    """Honest copper with one decimal point in the wrong place, either way: no coil is called false, and what can't be
    is named."""
    honest = {**HONEST, "bundle": "7.8 mm"}
    for kind in pair:
        for factor in SLIPS.get(kind, ()):
            figure, unit = re.match(r"([\d.]+)(.*)", honest[kind]).groups()  # type: ignore[union-attr]
            said = {
                "claim": "35 mm2 copper",
                "length": "2m",
                **{one: honest[one] for one in pair},
                kind: f"{float(figure) * factor:g}{unit}",
            }
            for weighed in ("", "bare"):
                if (weighed == "bare") and "mass" not in pair:
                    continue
                found = judge(read_evidence(said, weighed))
                assert found.claimed is not True, said
                if not found.consistent:
                    assert (
                        found.claimed,
                        "can’t tell: " in str(found.verdict),
                        "again" in str(found.next_reading),
                    ) == (None, True, True), said
                if pair == ("mass", "resistance") and weighed == "bare":
                    assert not found.consistent
                    assert "mass and ohms can’t both be right" in str(found.verdict)


def test_a_mass_alone_whose_jacket_isnt_said_accuses_nobody() -> None:
    for grams in ("60 g", "300 g", "620 g", "900 g"):
        found = judge(read_evidence({"claim": "35 mm2 copper", "length": "2m", "mass": grams}))
        assert found.claimed is None
    assert judge(read_evidence({"claim": "35 mm2 copper", "length": "2m", "mass": "60 g"}, "bare")).claimed is False
    coil = {**HONEST, "sold": "100 m", "coil_resistance": "49.5 mohm", "coil_mass": "3.1 kg"}
    found = judge(read_evidence(coil, "bare"))
    assert (found.length_m, "can’t both be right" in str(found.length_said)) == (None, True)


def test_jacket_thickness_alone_never_makes_a_claim_good() -> None:
    """A fat jacket sold as gauge: the diameter fits, the ohms don't."""
    found = judge(read_evidence({"claim": "AWG 4 copper", "length": "1 m", "od": "9.5 mm", "resistance": "2.6 mohm"}))
    assert found.claimed is False
    assert found.high_mm2 < 12


def test_a_coil_is_as_long_as_its_ohms_say() -> None:
    evidence = read_evidence({**HONEST, "sold": "100 m", "coil_resistance": "49.5 mohm ± 0.2 mohm"})
    found = judge(evidence)
    assert found.length_m == pytest.approx(90, rel=0.01)
    assert "short" in str(found.length_said)
    weighed = judge(replace(evidence, coil_ohm=None, coil_kg=Reading(31.0, 0.01)))
    assert weighed.length_m == pytest.approx(100, rel=0.01)
    assert "can be so" in str(weighed.length_said)


@pytest.mark.parametrize(
    ("said", "told"),
    [({"mass": "1,200 g"}, "can mean"), ({"strands": "many"}, "number of strands"), ({"claim": "fat"}, "no claim"), ({"od": "0 mm"}, "above zero"),
     ({"od": "9 mm ± 9 mm"}, "under the figure"), ({"mass": "3 m"}, "3 m"), ({"od": "9 ± 1 ± 1 mm"}, "two ±"), ({"ambient": "hot"}, "hot"), ({"mass": "1e308 g"}, "no figure of a cable"), ({"bundle": "1e-9 mm"}, "no figure"), ({"resistance": "1e-30 ohm"}, "no figure"), ({"strands": "9x9 m"}, "no figure")],
)  # fmt: skip
def test_readings_are_read_whole_or_refused(said: dict[str, str], told: str) -> None:
    with pytest.raises(InputError, match=told):
        read_evidence({"length": "2 m", **said})


def test_the_digits_written_say_how_fine_a_reading_is() -> None:
    rough, fine = (read_evidence({"length": "2 m", "resistance": text}).ohm for text in ("1.1 mohm", "1.1000 mohm"))
    assert rough.sd > 2 * fine.sd
    stated = read_evidence({"od": "11.2 mm ± 0.4 mm"}).outer_mm
    assert stated == Reading(pytest.approx(11.2), pytest.approx(0.2))  # ± is two standard deviations
    assert read_evidence({"od": "10 mm ± 2 %"}).outer_mm == Reading(10.0, pytest.approx(0.1))


def test_the_harness_is_solved_again_with_what_the_coil_really_is() -> None:
    results = worked_out("barge")
    size = next(row.shown_size for row in results.figures.wires.values() if row.amps > 20)
    area = parse_size(size).area_mm2
    per_m = 1.7241e-8 * 1.03 / (0.35 * area * 1e-6)
    evidence = read_evidence({"claim": f"{size} copper", "length": "2 m", "resistance": f"{2e3 * per_m:.4f} mohm", "bundle": f"{math.sqrt(4 * 0.35 * area / 0.74 / math.pi):.2f} mm"})  # fmt: skip
    built = built_with(results, evidence, judge(evidence))
    assert built.wires
    assert built.faults
    with pytest.raises(InputError, match="sold as"):
        built_with(results, replace(evidence, claim=None), judge(evidence))
    with pytest.raises(InputError, match="No wire"):
        built_with(results, replace(evidence, claim=parse_size("95 mm2")), judge(evidence))


def test_what_cannot_be_told_is_reckoned_at_its_worst() -> None:
    """By its diameter alone it may be any metal: the harness is solved with the one of most ohms, at the least area it
    can have."""
    results = worked_out("barge")
    size = next(row.shown_size for row in results.figures.wires.values() if row.amps > 12)
    area = parse_size(size).area_mm2
    outer = 2 * math.sqrt(area / 0.74 / math.pi) + 2.0
    evidence = read_evidence({"claim": f"{size} copper", "od": f"{outer:.1f} mm"})
    judged = judge(evidence)
    assert judged.claimed is None
    built = built_with(results, evidence, judged)
    assert built.metal == "aluminium"
    assert built.cautious_mm2 < area
    assert built.faults
    sure = read_evidence(
        {
            "claim": f"{size} copper",
            "length": "10 m",
            "mass": f"{8.89 * area * 1.03 * 10:.1f} g",
            "resistance": f"{1.7241e-8 * 1.03 * 10 / area * 1e9:.3f} mohm",
        },
        "bare",
        "point",
    )
    again = built_with(results, sure, judge(sure))
    assert again.metal in ("copper", "tinned")
    assert again.cautious_mm2 == pytest.approx(area, rel=0.06)
