"""Normal densities of readings: one, many, and together with those left out that the others speak against."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def log_normal(off: Floats, spread: Floats) -> float:
    """Log density of a normal vector."""
    if len(off) == 1:
        variance = max(float(spread[0, 0]), 1e-18)
        return -0.5 * float(off[0]) ** 2 / variance - 0.5 * math.log(2 * math.pi * variance)
    lower = np.linalg.cholesky(spread + 1e-16 * np.eye(len(off)))
    z = np.linalg.solve(lower, off)
    return float(-0.5 * z @ z - np.log(np.diag(lower)).sum() - 0.5 * len(off) * math.log(2 * math.pi))


def log_normals(off: Floats, spread: Floats) -> Floats:
    """Log densities of normal vectors, (n, k) with covariances (n, k, k)."""
    lower = np.linalg.cholesky(spread)
    z = np.linalg.solve(lower, off[:, :, None])[:, :, 0]
    logs: Floats = (
        -0.5 * (z**2).sum(axis=1)
        - np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
        - 0.5 * off.shape[1] * math.log(2 * math.pi)
    )
    return logs


def log_each(off: Floats, variance: Floats) -> Floats:
    """Log density of each of many normal figures."""
    logs: Floats = -0.5 * off**2 / variance - 0.5 * np.log(2 * math.pi * variance)
    return logs


def log_sound(off: Floats, spread: Floats, stray: Floats) -> float:
    """Log density of readings together, those left out, one after another, that the others speak against more than
    being spoilt costs."""
    total = 0.0
    while len(off) > 1:
        together = log_normal(off, spread)
        if together > stray.sum() / 2 or together > -2.0 * len(off):
            return total + together
        precise = np.linalg.inv(spread + 1e-16 * np.eye(len(off)))
        diagonal = np.diag(precise)
        alone = log_each((precise @ off) / diagonal, 1 / diagonal)
        worst = int(np.argmax(stray - alone))
        if stray[worst] <= alone[worst]:
            return total + together
        total += float(stray[worst])
        kept = np.arange(len(off)) != worst
        off, spread, stray = off[kept], spread[np.ix_(kept, kept)], stray[kept]
    return total + (log_normal(off, spread) if len(off) else 0.0)
