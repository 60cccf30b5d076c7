"""Who is accused: coils made up by another author's geometry and figures, in every combination of readings.

Copper by the handbook (1.7241e-8 Ωm, 8 890 kg/m³ after IEC 60028), lay, packing, walls and jackets drawn here; readings
as a scale, a tape, a calliper, a micrometer and a meter give them. Genuine coils have what their sheet asks for up to 8
% more; short ones 12 % less.
"""

from __future__ import annotations

import itertools
import math
import random

import pytest

from long_runs import LONG
from umber_trunk.core.catalog.conductors import Size, makes, parse_size
from umber_trunk.core.wirecheck.evidence import Evidence, Reading
from umber_trunk.core.wirecheck.judge import judge

MANY = 1000 if LONG else 2
SIZES = tuple(map(parse_size, ("1.5 mm2", "2.5 mm2", "6 mm2", "16 mm2", "35 mm2", "AWG 14", "AWG 8", "AWG 4")))
KINDS = ("mass", "od", "bundle", "strands", "ohm")
COMBINATIONS = [
    (kinds, weighed)
    for n in range(1, 6)
    for kinds in itertools.combinations(KINDS, n)
    for weighed in (("bare", "jacketed", "bare?", "jacketed?") if "mass" in kinds else ("bare",))
]


def asked_mm2(size: Size) -> float:
    """What the sheets ask for: the nominal area, or what the largest resistance a table allows comes to in annealed
    copper."""
    tabled = [
        17.241 * make.lay / table[size.area_mm2]
        for make in makes().values()
        if size.area_mm2 in (table := make.resistance_ohm_km.get("copper", {}))
    ]
    return min([size.area_mm2, *tabled])


def coil(draw: random.Random, size: Size, area: float, kinds: tuple[str, ...], weighed: str) -> Evidence:
    rho, dense, lay = (
        1.7241e-8 * math.exp(draw.gauss(0, 0.006)),
        8890 * math.exp(draw.gauss(0, 0.003)),
        1.02 * math.exp(draw.gauss(0, 0.006)),
    )
    long, fill = draw.uniform(1, 4), 0.72 * math.exp(draw.gauss(0, 0.025))
    wall = (0.35 + 0.4 * math.log10(1 + size.area_mm2)) * math.exp(draw.gauss(0, 0.1))
    bundle = math.sqrt(4 * area / fill / math.pi)
    outer = bundle + 2 * wall
    tape = max(0.002, 0.001 * long)
    said: dict[str, object] = {"sample_m": Reading(long + draw.gauss(0, tape), tape)}
    if "mass" in kinds:
        kg = area * 1e-6 * lay * dense * long
        if weighed.startswith("jacketed"):
            kg += math.pi / 4 * (outer**2 - bundle**2) * 1e-6 * draw.uniform(1150, 1500) * long
        sd = max(0.003 * kg, 0.0005)
        said |= {
            "mass_kg": Reading(max(1e-4, kg + draw.gauss(0, sd)), sd),
            "weighed": "" if weighed.endswith("?") else weighed,
        }
    if "od" in kinds:
        said["outer_mm"] = Reading(outer + draw.gauss(0, 0.1), 0.1)
    if "bundle" in kinds:
        seen = bundle * math.exp(draw.gauss(0, 0.03))
        said["bundle_mm"] = Reading(seen, 0.03 * seen)
    if "strands" in kinds:
        count = max(7, round(area / (math.pi / 4 * 0.04)))
        thick = math.sqrt(4 * area / count / math.pi)
        sd = max(0.003, 0.01 * thick)
        said |= {"strands": count, "strand_mm": Reading(thick + draw.gauss(0, sd), sd)}
    if "ohm" in kinds:
        warm = draw.gauss(20, 4)
        ohm = rho * lay * long / (area * 1e-6) * (1 + 0.00393 * (warm - 20))
        said |= {"ohm": Reading(ohm * math.exp(draw.gauss(0, 0.01)), 0.01 * ohm), "ambient_c": Reading(20, 4)}
    return Evidence(claim=size, claim_metal="copper", **said)  # type: ignore[arg-type]


@pytest.mark.timeout(7200 if LONG else 120)
def test_no_honest_coil_is_accused_and_a_short_one_is_found() -> None:
    """Of honest ones at most 1 in 200 of a combination; of those 12 % short 98 in 100 where ohms were read and whatever
    was weighed was said to be bare or jacketed, or strands were. (Weighed with a jacket nobody knows the density of,
    without ohms: some stay untold.)"""
    found = told = accused = honest = 0
    for number, (kinds, weighed) in list(enumerate(COMBINATIONS))[:: 1 if LONG else 3]:
        wrong = 0
        for seed in range(MANY):
            draw = random.Random(1000 * seed + number)
            size = draw.choice(SIZES)
            wrong += judge(coil(draw, size, asked_mm2(size) * draw.uniform(1.0, 1.08), kinds, weighed)).claimed is False
            if ("ohm" in kinds and not weighed.endswith("?")) or (weighed == "bare" and "mass" in kinds):
                told += 1
                found += judge(coil(draw, size, asked_mm2(size) * 0.88, kinds, weighed)).claimed is False
        assert wrong <= max(MANY // 200, 1), (kinds, weighed)
        accused, honest = accused + wrong, honest + MANY
    assert accused <= max(honest // 200, 1), (accused, honest)
    assert found >= 0.97 * told, (found, told)
