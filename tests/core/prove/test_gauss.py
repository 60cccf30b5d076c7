"""Densities of readings against SciPy's, and which readings are left out as spoilt."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.stats import multivariate_normal, norm

from umber_trunk.core.prove.gauss import log_each, log_normal, log_normals, log_sound


def vectors(seed: int, k: int) -> tuple[np.ndarray, np.ndarray]:
    """(a vector, a covariance) with readings that lean on one another."""
    draw = np.random.default_rng(seed)
    root = draw.normal(size=(k, k)) * 0.3 + np.eye(k)
    spread = root @ root.T * 0.01
    return draw.multivariate_normal(np.zeros(k), spread), spread


@pytest.mark.parametrize("k", [1, 2, 5, 9])
def test_densities_agree_with_another_library(k: int) -> None:
    many = [vectors(seed, k) for seed in range(6)]
    there = [multivariate_normal(np.zeros(k), spread).logpdf(off) for off, spread in many]
    assert [log_normal(off, spread) for off, spread in many] == pytest.approx(there, rel=1e-9)
    assert log_normals(np.array([one[0] for one in many]), np.array([one[1] for one in many])) == pytest.approx(
        there, rel=1e-9
    )
    off = np.linspace(-3, 3, k)
    assert log_each(off, np.full(k, 0.49)) == pytest.approx(norm(0, 0.7).logpdf(off))


@pytest.mark.parametrize("seed", range(8))
def test_what_the_others_speak_against_is_left_out(seed: int) -> None:
    """Sound readings count together; one or two far off count as spoilt, where that costs less; never where it costs
    more."""
    off, spread = vectors(seed, 6)
    stray = np.full(6, -8.0)
    assert log_sound(off, spread, stray) == pytest.approx(log_normal(off, spread))
    for spoilt in ([seed % 6], [seed % 6, (seed + 2) % 6]):
        far = off.copy()
        far[spoilt] += 9.0
        kept = [at for at in range(6) if at not in spoilt]
        rest = log_normal(far[kept], spread[np.ix_(kept, kept)])
        assert log_sound(far, spread, stray) == pytest.approx(-8.0 * len(spoilt) + rest)
        dear = np.full(6, -1e9)
        assert log_sound(far, spread, dear) == pytest.approx(log_normal(far, spread))
    assert log_sound(np.zeros(0), np.zeros((0, 0)), np.zeros(0)) == 0.0
