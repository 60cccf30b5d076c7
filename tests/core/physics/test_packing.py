"""Packings against the best known, and their own validity."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from long_runs import LONG
from umber_trunk.core.physics.packing import Packing, equal_like, laid, pack

# Enclosing over single diameter of n equal circles, best known (Graham, Lubachevsky, Nurmela, Östergård 1998)
EQUAL = {
    2: 2.0,
    3: 2.1547,
    4: 2.4142,
    5: 2.7013,
    6: 3.0,
    7: 3.0,
    8: 3.3048,
    9: 3.6131,
    10: 3.8130,
    11: 3.9238,
    12: 4.0296,
    13: 4.2361,
    14: 4.3284,
    15: 4.5214,
    16: 4.6154,
    17: 4.7920,
    18: 4.8637,
    19: 4.8637,
    20: 5.1223,
    21: 5.2523,
    22: 5.4397,
    23: 5.5452,
    24: 5.6517,
    25: 5.7528,
    26: 5.8282,
    27: 5.9063,
    28: 6.0149,
    29: 6.1386,
    30: 6.1977,
    31: 6.2915,
    32: 6.4295,
    33: 6.4867,
    34: 6.6110,
    35: 6.6972,
    36: 6.7468,
    37: 6.7588,
}
# Enclosing radius of circles of radii 1 … n, best known (circle packing contest 2005/2006)
RISING = {
    5: 9.0014,
    6: 11.0570,
    7: 13.4621,
    8: 16.2217,
    9: 19.2332,
    10: 22.0002,
    11: 24.9606,
    12: 28.3714,
    13: 31.5459,
    14: 35.0956,
    15: 38.8380,
}


def assert_valid(packing) -> None:
    radii = packing.diameters / 2
    far = np.hypot(*packing.centres.T) + radii
    assert far.max(initial=0.0) <= packing.diameter / 2 + 1e-6
    for i in range(len(radii)):
        apart = np.hypot(*(packing.centres[i + 1 :] - packing.centres[i]).T)
        assert np.all(apart >= radii[i] + radii[i + 1 :] - 1e-6)


@pytest.mark.parametrize("n", EQUAL)
@pytest.mark.share(3)
def test_equal_circles(n: int) -> None:
    packing = pack([1.0] * n)
    assert_valid(packing)
    assert packing.diameter <= 1.01 * EQUAL[n]
    assert packing.diameter >= EQUAL[n] * (1 - 1e-4)


@pytest.mark.parametrize("n", RISING)
@pytest.mark.share(3)
def test_radii_from_one_up(n: int) -> None:
    packing = pack([2.0 * k for k in range(1, n + 1)])
    assert_valid(packing)
    assert packing.diameter / 2 <= 1.03 * RISING[n]


@settings(max_examples=18 if LONG else 6)
@given(st.lists(st.floats(0.5, 20), min_size=1, max_size=14))
def test_any_bundle_is_valid_and_keeps_its_order(diameters: list[float]) -> None:
    packing = pack(diameters)
    assert packing.diameters.tolist() == diameters
    assert_valid(packing)
    least = max(max(diameters), math.sqrt(sum(d * d for d in diameters)))
    assert packing.diameter >= least * (1 - 1e-5)


def test_empty_one_and_many() -> None:
    assert pack([]).diameter == 0
    assert pack([3.2]).diameter == 3.2
    crowd = pack([2.0] * 120)
    assert_valid(crowd)


@pytest.mark.parametrize("n", [3, 4, 6, 7, 9, 12, 19, 25, 37])
def test_laid_bundles_are_little_looser_than_the_tightest(n: int) -> None:
    assert laid(np.full((1, n), 2.0))[1][0] == pytest.approx(2 * EQUAL[n], rel=0.10)


@settings(max_examples=8 if LONG else 2)
@given(st.lists(st.lists(st.floats(0.8, 12), min_size=9, max_size=9), min_size=1, max_size=5))
def test_laid_bundles_do_not_overlap(bundles: list[list[float]]) -> None:
    diameters = np.array(bundles)
    for centres, enclosing, row in zip(*laid(diameters), diameters, strict=True):
        assert_valid(Packing(enclosing, centres, row))
        assert enclosing <= 1.25 * pack(row).diameter


def test_a_bundle_is_laid_alike_whichever_others_are_laid_with_it() -> None:
    draw = np.random.default_rng(1)
    for n in (3, 6, 9, 20):
        bundles = -np.sort(-draw.choice([1.8, 2.2, 3.1, 6.0], size=(7, n)), axis=1)
        together = laid(bundles)
        for number in (0, 3, 6):
            alone = laid(bundles[[number]])
            assert alone[0][0] == pytest.approx(together[0][number], abs=1e-9)
            assert alone[1][0] == pytest.approx(together[1][number], abs=1e-9)


def test_laid_one_and_two() -> None:
    assert laid(np.array([[3.0]]))[1] == [3.0]
    centres, enclosing = laid(np.array([[3.0, 2.0]]))
    assert_valid(Packing(enclosing[0], centres[0], np.array([3.0, 2.0])))
    assert enclosing[0] == 5.0


def test_equal_circles_need_what_is_best_known_for_them() -> None:
    """The published table, and closed forms for some: rings round one or none, and the nineteen."""
    need = {n: float(equal_like(np.ones((1, n)))[0]) for n in EQUAL}
    assert need == pytest.approx(EQUAL, rel=1e-4)
    for n in (3, 4, 5):
        assert need[n] == pytest.approx(1 + 1 / np.sin(np.pi / n), rel=1e-4)
    for n in (7, 8, 9):
        assert need[n] == pytest.approx(1 + 1 / np.sin(np.pi / (n - 1)), rel=1e-4)
    assert need[19] == pytest.approx(1 + np.sqrt(2) + np.sqrt(6), rel=1e-4)
