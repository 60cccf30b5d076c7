"""Fuse bands, protection, ratings."""

import numpy as np
import pytest

from umber_trunk.core.physics import fuses


@pytest.mark.parametrize(
    ("multiple", "fastest", "slowest"),
    # ISO 8820-3 operating times of blade fuses
    [(1.35, 0.75, 600), (2.0, 0.15, 5), (3.5, 0.04, 0.5), (6.0, 0.02, 0.1)],
)
@pytest.mark.parametrize("rating", [3.0, 15.0, 40.0])
def test_band_points(rating: float, multiple: float, fastest: float, slowest: float) -> None:
    low, high = fuses.opening_s(rating, np.array([rating * multiple]))
    assert (low[0], high[0]) == pytest.approx((fastest, slowest))


def test_bands_fall_with_current_and_hold_below_110_percent() -> None:
    for rating in fuses.RATINGS_A:
        amps = np.geomspace(1.1 * rating, 20 * rating, 80)
        fastest, slowest = fuses.opening_s(rating, amps)
        assert np.all(np.diff(fastest) <= 1e-9)
        assert np.all(np.diff(slowest) <= 1e-9)
        assert np.all(fastest <= slowest)
        assert fuses.opening_s(rating, np.array([rating]))[0][0] >= 360_000


@pytest.mark.parametrize(("amps", "rating"), [(0.5, 1), (7.6, 10), (40, 40), (41, 50), (500, 500), (501, None)])
def test_next_rating(amps: float, rating: float | None) -> None:
    assert fuses.next_rating(amps) == rating


def test_continuous_share_falls_with_warmth() -> None:
    assert fuses.continuous_a(10, 25) == pytest.approx(8)
    assert fuses.continuous_a(10, 85) < 7.5


def test_surge_rides_through_or_not() -> None:
    assert fuses.carries_surge(20, 30, 0.2)
    assert not fuses.carries_surge(10, 60, 1.0)
