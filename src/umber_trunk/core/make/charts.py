"""Control charts: individuals and moving range with run rules, CUSUM, capability with its interval, a bound for pull forces.

Individuals: limits at 2.66 times the mean moving range (3 / 1.128). CUSUM: k = 0.5 σ, h = 5 σ, a false alarm about every 465
readings. Too few readings say nothing, and the answer says that.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import ArrayLike

MOVING_TIMES, RANGE_TIMES, D2 = 2.659574, 3.267, 1.128379
FEW, ENOUGH, CAPABLE_FROM = 8, 20, 30
"""Under the first nothing is said, under the second limits are for now, from the third on capability is told."""
CUSUM_K, CUSUM_H = 0.5, 5.0
NORMAL = NormalDist()
RULES = {
    "beyond": "one beyond three σ", "two-of-three": "two of three beyond two σ on one side", "four-of-five": "four of five beyond one σ on one side",
    "run": "eight in a row on one side of the middle", "drift": "a small shift has added up (CUSUM)",
}  # fmt: skip


@dataclass(frozen=True)
class Alarm:
    """A rule that was broken, at the reading of that number (from 0)."""

    rule: str
    at: int


@dataclass(frozen=True)
class Chart:
    """A chart over readings in their order. `base` of them set the limits; `high_sum` and `low_sum` are the CUSUM's two sides in σ.
    `capability` is Cpk with its 95 % interval, None while there are too few; `pull_bound` the force that 99 of 100 crimps hold with
    95 % confidence."""

    values: tuple[float, ...]
    base: int
    mean: float
    sigma: float
    low: float
    high: float
    range_mean: float
    range_high: float
    high_sum: tuple[float, ...]
    low_sum: tuple[float, ...]
    alarms: tuple[Alarm, ...]
    capability: tuple[float, float, float] | None
    pull_bound: float | None
    verdict: str
    told: str


def chart(values: Sequence[float], low: float | None = None, high: float | None = None, base: int = ENOUGH) -> Chart:
    """The chart of readings; `low` and `high` are the part's limits. Its own limits come from the first `base` readings. verdict: "few",
    "steady" or "check the die"."""
    rows = np.asarray(values, dtype=float)
    n = len(rows)
    first = rows[: max(min(base, n), 0)]
    moves = np.abs(np.diff(first))
    mean = float(first.mean()) if n else math.nan
    moving = float(moves.mean()) if len(moves) else 0.0
    sigma = moving / D2
    if n < FEW or sigma == 0:
        told = (
            f"{n} readings: too few to say anything, {FEW} are the least" if n < FEW
            else "all readings are alike: the gauge reads too coarsely to chart them"
        )  # fmt: skip
        verdict = "few"
        out = [v for v in rows if (low is not None and v < low) or (high is not None and v > high)]
        if out:
            told, verdict = f"{len(out)} of {n} readings are out of the part’s limits: check the die", "check the die"
        return Chart(tuple(rows), len(first), mean, sigma, math.nan, math.nan, moving, math.nan, (0.0,) * n, (0.0,) * n, (), None, None, verdict, told)  # fmt: skip
    up, down = cusum((rows - mean) / sigma)
    alarms = _alarms(rows, mean, sigma, up, down)
    capable = capability(rows, low, high) if n >= CAPABLE_FROM else None
    bound = pull_bound(rows) if low is not None and high is None and n >= FEW else None
    verdict, told = _told(rows, alarms, capable, bound, low, high, n)
    return Chart(
        tuple(rows), len(first), mean, sigma, mean - MOVING_TIMES * moving, mean + MOVING_TIMES * moving, moving, RANGE_TIMES * moving, up, down,
        alarms, capable, bound, verdict, told,
    )  # fmt: skip


def cusum(z: Iterable[float], k: float = CUSUM_K) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Both sides of a tabular CUSUM of standardised readings."""
    up, down, high, low = [], [], 0.0, 0.0
    for value in z:
        high, low = max(0.0, high + value - k), max(0.0, low - value - k)
        up.append(high)
        down.append(low)
    return tuple(up), tuple(down)


def _alarms(rows: np.ndarray, mean: float, sigma: float, up: Sequence[float], down: Sequence[float]) -> tuple[Alarm, ...]:  # fmt: skip
    z = (rows - mean) / sigma
    found = []
    for at in range(len(z)):
        if abs(z[at]) > 3:
            found.append(Alarm("beyond", at))
        for side in (1, -1):
            s = side * z
            if at >= 2 and s[at] > 2 and (s[at - 2 : at + 1] > 2).sum() >= 2:
                found.append(Alarm("two-of-three", at))
            if at >= 4 and s[at] > 1 and (s[at - 4 : at + 1] > 1).sum() >= 4:
                found.append(Alarm("four-of-five", at))
            if at >= 7 and (s[at - 7 : at + 1] > 0).all():
                found.append(Alarm("run", at))
        if up[at] > CUSUM_H or down[at] > CUSUM_H:
            found.append(Alarm("drift", at))
    return tuple(found)


def capability(rows: ArrayLike, low: float | None, high: float | None) -> tuple[float, float, float] | None:
    """(Cpk, lower, upper) with a 95 % interval (Bissell's approximation); None without limits or scatter."""
    values = np.asarray(rows, dtype=float)
    sd = float(values.std(ddof=1)) if len(values) > 1 else 0.0
    sides = [(values.mean() - low) / 3 if low is not None else math.inf, (high - values.mean()) / 3 if high is not None else math.inf]  # fmt: skip
    if sd == 0 or min(sides) == math.inf:
        return None
    cpk = float(min(sides)) / sd
    n = len(values)
    reach = NORMAL.inv_cdf(0.975) * math.sqrt(1 / (9 * n) + cpk**2 / (2 * (n - 1)))
    return cpk, cpk - reach, cpk + reach


def pull_bound(rows: ArrayLike, share: float = 0.99, confidence: float = 0.95) -> float:
    """The force that this share of all crimps exceeds, with this confidence: a one-sided tolerance bound of a normal spread (the factor
    by the noncentral t)."""
    values = np.asarray(rows, dtype=float)
    return float(values.mean() - tolerance_factor(len(values), share, confidence) * values.std(ddof=1))


def tolerance_factor(n: int, share: float = 0.99, confidence: float = 0.95) -> float:
    """How many standard deviations under the mean the bound lies."""
    from scipy.special import nctdtrit  # here: the window starts without it

    root = math.sqrt(n)
    return float(nctdtrit(n - 1, NORMAL.inv_cdf(share) * root, confidence)) / root


def _told(
    rows: np.ndarray, alarms: Sequence[Alarm], capable: tuple[float, float, float] | None, bound: float | None, low: float | None, high: float | None, n: int,
) -> tuple[str, str]:  # fmt: skip
    out = int(sum((low is not None and v < low) or (high is not None and v > high) for v in rows))
    fresh = [alarm for alarm in alarms if alarm.at >= n - 8]
    if out or fresh:
        why = (
            f"{out} readings are out of the part’s limits"
            if out
            else f"{RULES[fresh[-1].rule]}, at reading {fresh[-1].at + 1}"
        )
        return "check the die", f"{why}: check the die"
    if bound is not None and low is not None and bound < low:
        return (
            "check the die",
            f"by this scatter 1 of 100 crimps may hold less than {bound:.0f} N, under {low:g} N: check the die",
        )
    if capable is not None and capable[1] < 1:
        return "check the die", f"Cpk {capable[0]:.2f} ({capable[1]:.2f} to {capable[2]:.2f}): it can’t be relied on to stay within limits: check the die"  # fmt: skip
    told = f"steady over {n} readings" + (", limits for now" if n < ENOUGH else "")
    if capable is not None:
        told += f"; Cpk {capable[0]:.2f} ({capable[1]:.2f} to {capable[2]:.2f})"
    elif low is not None or high is not None:
        told += f"; {CAPABLE_FROM} are wanted before its capability is told"
    return "steady", told
