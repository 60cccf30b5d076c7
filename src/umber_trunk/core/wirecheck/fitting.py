"""Every metal in every make fitted to the readings of a coil, weighed by how well it explains them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from umber_trunk.core.wirecheck.evidence import (
    Evidence,
    Floats,
    Guess,
    guesses,
    predicted,
    priors,
    readings,
)


@dataclass(frozen=True)
class Fitted:
    """One guess fitted: probability, area and its share ± (one standard deviation), χ² of the readings."""

    guess: Guess
    probability: float
    area_mm2: float
    sd_share: float
    chi2: float
    unknown: Floats


def all_fits(evidence: Evidence) -> list[Fitted]:
    """Every make of every metal fitted to the readings, the likeliest first, each with its probability."""
    kinds = guesses(evidence)
    seen = readings(evidence)
    unknown, chi, logs, sds = least_squares(kinds, seen)
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    order = np.argsort(-weights, kind="stable")
    return [
        Fitted(
            kinds[at], float(weights[at]), float(math.exp(unknown[at, 0])), float(sds[at]), float(chi[at]), unknown[at]
        )
        for at in order
    ]


def least_squares(kinds: list[Guess], seen: dict[str, tuple[float, float]]) -> tuple[Floats, Floats, Floats, Floats]:
    """(unknowns, χ² with soft readings, log evidence, standard deviation of ln area), a row per guess."""
    start = _start_mm2(seen)
    means, sds = (
        np.array(part)
        for part in zip(*(priors(guess, area) for guess, area in zip(kinds, start(kinds), strict=True)), strict=True)
    )
    jacketed = np.array([guess.weighed == "jacketed" for guess in kinds])
    names = list(seen)
    read, noise = np.array([seen[n][0] for n in names]), np.array([seen[n][1] for n in names])
    weight = np.where(np.isfinite(sds), 1 / np.where(np.isfinite(sds), sds, 1.0), 0.0)
    x = means.copy()
    h, p = x.shape
    for _ in range(30):
        # the wall of a make follows the area
        means[:, 3] = [
            math.log(guess.make.wall_mm(float(np.exp(min(a, 7.0))))) for guess, a in zip(kinds, x[:, 0], strict=True)
        ]
        y = predicted(x, jacketed)
        residual = np.stack([(read[at] - y[name]) / noise[at] for at, name in enumerate(names)], axis=1)
        slope = np.zeros((h, len(names), p))
        for col in range(p):
            moved = x.copy()
            moved[:, col] += 1e-6
            z = predicted(moved, jacketed)
            for at, name in enumerate(names):
                slope[:, at, col] = (z[name] - y[name]) / 1e-6 / noise[at]
        soft = (means - x) * weight
        normal = np.einsum("hrp,hrq->hpq", slope, slope) + np.einsum("hp,pq->hpq", weight**2, np.eye(p))
        normal[:, 0, 0] += 1e-9  # nothing but a diameter: the area is next to free
        right = np.einsum("hrp,hr->hp", slope, residual) + soft * weight
        step = np.linalg.solve(normal, right[..., None])[..., 0]
        x = x + np.clip(step, -0.7, 0.7)
        if float(np.abs(step).max()) < 1e-7:
            break
    chi = (residual**2).sum(axis=1) + (soft**2).sum(axis=1)
    _, logdet = np.linalg.slogdet(normal)
    evidence = -0.5 * chi - 0.5 * logdet + np.log(np.where(weight > 0, weight, 1.0)).sum(axis=1)
    spread = np.sqrt(np.linalg.inv(normal)[:, 0, 0])
    return x, chi, evidence, spread


def _start_mm2(seen: dict[str, tuple[float, float]]):  # type: ignore[no-untyped-def]
    """A first area for each guess, from the reading that says most of it."""

    def start(kinds: list[Guess]) -> list[float]:
        found = []
        for guess in kinds:
            if "strands" in seen:
                area = math.exp(seen["strands"][0])
            elif "resistance" in seen:
                area = guess.metal.rho20_ohm_m * guess.make.lay * 1e6 / math.exp(seen["resistance"][0])
            elif "mass" in seen:
                area = math.exp(seen["mass"][0]) / (guess.metal.density_kg_m3 * guess.make.lay) * 1e6
            elif "bundle" in seen:
                area = math.exp(seen["bundle"][0]) ** 2 * math.pi / 4 * guess.make.fill
            else:
                area = (0.7 * math.exp(seen["od"][0])) ** 2 * math.pi / 4 * guess.make.fill
            found.append(min(max(area, 1e-4), 1e4))
        return found

    return start


def mixed(fits: list[Fitted]) -> tuple[float, float]:
    """Mean and standard deviation of the area over all guesses."""
    mean = sum(f.probability * f.area_mm2 for f in fits)
    square = sum(f.probability * (f.area_mm2**2 * (1 + f.sd_share**2)) for f in fits)
    return mean, math.sqrt(max(square - mean**2, 0.0))


def below(fits: list[Fitted], area: float) -> float:
    """Probability that the area is under this."""
    return float(sum(f.probability * ndtr((math.log(area / f.area_mm2)) / max(f.sd_share, 1e-9)) for f in fits))


def between(fits: list[Fitted], share: float = 0.95) -> tuple[float, float]:
    """The areas between which it lies with this probability, as much out below as above."""
    some = [f for f in fits if f.probability > 1e-6]
    reach = float(ndtri(1 - (1 - share) / 2)) + 3
    most = 300.0  # a spread that says nothing is no overflow
    low = min(f.area_mm2 * math.exp(-min(reach * f.sd_share, most)) for f in some)
    high = max(f.area_mm2 * math.exp(min(reach * f.sd_share, most)) for f in some)
    return _quantile(some, (1 - share) / 2, low, high), _quantile(some, (1 + share) / 2, low, high)


def _quantile(fits: list[Fitted], share: float, low: float, high: float) -> float:
    for _ in range(60):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if below(fits, middle) < share else (low, middle)
    return math.sqrt(low * high)
