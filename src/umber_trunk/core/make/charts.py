"""Control charts for individual readings that learn as they go, capability with its interval, a bound for pull forces.

Limits learnt from twenty readings are themselves off by a quarter σ, and rules that take them for the truth cry wolf.
So each reading is judged by those before it alone (self-starting chart, D. M. Hawkins 1987): (x − mean) / (s √(1 +
1/n)) is Student's t and becomes a normal score z by its distribution, whatever the die's own level and scatter. From
the twentieth on the latest LAG readings are left out of what a reading is judged by, lest a die that has shifted
becomes its own measure.

    readings  · · · · · · · · · · · · · · · · [· · · · · · · ·] x      x is judged by what stands before the bracket

Rules on z: one beyond 3.6; a jump that adds up (CUSUM, k = 1); a small shift that adds up (CUSUM, k = 0.5, E. S. Page
1954). Their heights were set by simulation for all rules together and are a little lower while little is known, when a
bad set-up is likeliest; `tests/core/make/test_charts.py` repeats it: median run to a false alarm over 250, one σ found
within 12 and two within 4.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import NormalDist
from types import MappingProxyType

import numpy as np
from numpy.typing import ArrayLike, NDArray

from umber_trunk.core.sentences import Message, say

Floats = NDArray[np.float64]
FEW, ENOUGH, CAPABLE_FROM = 8, 20, 30
"""Under the first nothing is said, under the second limits are for now, from the third on capability is told."""
LAG = 8
"""Latest readings that limits are not learnt from, lest a die that has begun to wear teaches its own limits."""
BEYOND = 3.6
"""Sigmas beyond which one reading alone is an alarm, one in some 3000 by chance."""
DRIFT_K, DRIFT_H = 0.5, (5.6, 6.5)
"""CUSUM for slow wear (E. S. Page 1954): its slack in σ, its heights early and late, set so that a steady die is seldom
accused."""
JUMP_K, JUMP_H = 1.0, (2.9, 3.2)
"""The same for a jump."""
EARLY, LATE = 50, 120
"""Heights rise from their first value to their second between these readings."""
COARSE = 1.0
"""A gauge whose step is over so many σ of the readings is too coarse for them (D. J. Wheeler's rule for the measurement
increment)."""
REPEATS, GAUGE_SHARE = 5, 0.3
"""From so many repeats on the gauge's own share is told; over so much of σ it hides the die (the usual 30 % of gauge
studies)."""
CAPABLE = 1.0
"""The least capability index (Cpk) that goes unremarked."""
FRESH = 8
"""An alarm asks for a look at the die for so many readings."""
NORMAL = NormalDist()
RULES = ("beyond", "jump", "drift")
"""What an alarm can be of; in words under chart.rule."""


@dataclass(frozen=True)
class Alarm:
    """A rule that was broken, at the reading of that number (from 0)."""

    rule: str
    at: int


@dataclass(frozen=True)
class Gauge:
    """What the readings say of the gauge: `step` is the least difference it shows, 0 unknown; `share` of the readings'
    σ that is its own by `repeats` second looks at a piece, None while there are too few."""

    step: float
    share: float | None
    repeats: int


@dataclass(frozen=True)
class Chart:
    """A chart over readings in their order. `mean`, `sigma`, `low`, `high`: what the next reading is judged by, learnt
    from `base` readings, or what the first alarm was judged by; `high_sum` and `low_sum` are the drift CUSUM's two
    sides in σ, `heights` what they may reach. `capability` is Cpk with its 95 % interval, None while there are too few;
    `pull_bound` the force that 99 of 100 crimps hold with 95 % confidence; `out` readings lie outside the part's
    limits. verdict: "few", "coarse", "steady" or "check the die"."""

    values: tuple[float, ...]
    base: int
    mean: float
    sigma: float
    low: float
    high: float
    high_sum: tuple[float, ...]
    low_sum: tuple[float, ...]
    heights: tuple[float, ...]
    alarms: tuple[Alarm, ...]
    capability: tuple[float, float, float] | None
    pull_bound: float | None
    gauge: Gauge
    out: int
    verdict: str
    said: Message

    @property
    def told(self) -> str:
        """Why it has that verdict, in words."""
        return str(self.said)


def chart(
    values: Sequence[float],
    low: float | None = None,
    high: float | None = None,
    repeated: Mapping[int, Sequence[float]] = MappingProxyType({}),
) -> Chart:
    """The chart of readings, one a piece; `low` and `high` are the part's limits, `repeated` all readings of pieces
    that were read more than once, by their number."""
    rows = np.asarray(values, dtype=float)
    n = len(rows)
    base, mean, sigma = _learnt(rows, _base(n))
    gauge = gauge_of(rows, repeated.values())
    every = [v for at, value in enumerate(values) for v in repeated.get(at, (value,))]
    out = sum((low is not None and v < low) or (high is not None and v > high) for v in every)
    verdict, told = _says_nothing(n, out)
    nothing = Chart(
        values=tuple(rows),
        base=base,
        mean=mean,
        sigma=sigma,
        low=math.nan,
        high=math.nan,
        high_sum=(0.0,) * n,
        low_sum=(0.0,) * n,
        heights=(0.0,) * n,
        alarms=(),
        capability=None,
        pull_bound=None,
        gauge=gauge,
        out=out,
        verdict=verdict,
        said=told,
    )
    return nothing if n < FEW or sigma == 0 else _with_alarms(nothing, rows, low, high)


def _with_alarms(made: Chart, rows: Floats, low: float | None, high: float | None) -> Chart:
    """The chart with what enough readings tell: alarms, limits for the next one, capability, a bound for pulls."""
    n, gauge = len(rows), made.gauge
    blind = gauge.step > COARSE * made.sigma
    z = scores(rows, gauge.step if blind else gauge.step / math.sqrt(12))
    up, down = cusum(z, DRIFT_K)
    heights = _height(DRIFT_H, np.arange(n))
    alarms = _alarms(z, up, down, heights)
    capable = capability(rows, low, high) if n >= CAPABLE_FROM else None
    bound = pull_bound(rows) if low is not None and high is None else None
    verdict, told = _told(n, made.out, alarms, capable, bound, low, low is not None or high is not None)
    if blind or (gauge.share or 0) > GAUGE_SHARE:
        verdict, told = (
            "coarse" if verdict == "steady" else verdict,
            Message.of("chart.with", first=_coarse(gauge), told=told),
        )
    base, mean, sigma = made.base, made.mean, made.sigma
    if alarms and alarms[0].at >= FEW:  # what stood before anything was broken
        base, mean, sigma = _learnt(rows, _base(alarms[0].at))
    reach = _student(NORMAL.cdf(BEYOND), base - 1) * sigma * math.sqrt(1 + 1 / base)
    return replace(
        made,
        base=base,
        mean=mean,
        sigma=sigma,
        low=mean - reach,
        high=mean + reach,
        high_sum=up,
        low_sum=down,
        heights=tuple(heights.tolist()),
        alarms=alarms,
        capability=capable,
        pull_bound=bound,
        verdict=verdict,
        said=told,
    )


def _says_nothing(n: int, out: int) -> tuple[str, Message]:
    """(verdict, in words) of readings that are too few, or too much alike, to chart: what is out of the limits is told
    all the same."""
    if out:
        return "check the die", Message.of("chart.check-the-die", why=_outside(out))
    if n < FEW:
        return "few", Message.of("chart.few", n=n, least=FEW)
    return "coarse", Message.of("chart.coarse")


def _learnt(rows: Floats, base: int) -> tuple[int, float, float]:
    """(so many, their mean, their σ)."""
    some = rows[:base]
    return base, float(some.mean()) if base else math.nan, float(some.std(ddof=1)) if base > 1 else 0.0


def _base(at: int) -> int:
    """How many readings the one of that number is judged by."""
    return at if at <= ENOUGH else max(ENOUGH, at - LAG)


def scores(rows: Floats, least: float = 0.0) -> Floats:
    """(n,): each reading as a normal score by those before it; 0 for the first two. No scatter is less than `least`:
    what rounding to the gauge's step makes (step / √12), or the step itself where it hides the scatter."""
    from scipy.special import ndtri, stdtr  # here: the window starts without it

    n = len(rows)
    found = np.zeros(n)
    if n < 3:
        return found
    origin = rows - rows[0]
    count = np.array([_base(at) for at in range(2, n)])
    total, square = np.cumsum(origin), np.cumsum(origin**2)
    mean = total[count - 1] / count
    spread = np.maximum(square[count - 1] - count * mean**2, 0.0) / (count - 1)
    spread = np.maximum(spread, max(least**2, 1e-18 * float(np.max(np.abs(rows))) ** 2))
    t = (origin[2:] - mean) / np.sqrt(spread * (1 + 1 / count))
    tail = np.maximum(stdtr(count - 1, -np.abs(t)), 1e-15)
    found[2:] = -np.sign(t) * ndtri(tail)
    return found


def _student(share: float, free: int) -> float:
    from scipy.special import stdtrit

    return float(stdtrit(free, share))


def cusum(z: Iterable[float], k: float = DRIFT_K) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Both sides of a tabular CUSUM of standardised readings."""
    up, down, high, low = [], [], 0.0, 0.0
    for value in z:
        high, low = max(0.0, high + value - k), max(0.0, low - value - k)
        up.append(high)
        down.append(low)
    return tuple(up), tuple(down)


def _height(between: tuple[float, float], at: NDArray[np.int_]) -> Floats:
    """What a CUSUM may reach at each reading."""
    return between[0] + (between[1] - between[0]) * np.clip((at - EARLY) / (LATE - EARLY), 0.0, 1.0)


def _alarms(z: Floats, up: Sequence[float], down: Sequence[float], heights: Floats) -> tuple[Alarm, ...]:
    jumps = np.maximum(*(np.array(side) for side in cusum(z, JUMP_K)))
    broken = {
        "beyond": np.abs(z) > BEYOND,
        "jump": jumps > _height(JUMP_H, np.arange(len(z))),
        "drift": np.maximum(np.array(up), np.array(down)) > heights,
    }
    return tuple(Alarm(rule, at) for at in range(len(z)) for rule, rows in broken.items() if rows[at])


def gauge_of(rows: Floats, repeated: Iterable[Sequence[float]] = ()) -> Gauge:
    """The step of a gauge and its own share of the readings' σ."""
    apart = np.diff(np.unique(np.round(rows, 9)))
    step = float(apart.min()) if len(apart) and len(apart) < len(rows) - 1 else 0.0
    if step and np.any(np.abs(apart / step - np.round(apart / step)) > 0.02):
        step = 0.0  # no grid: readings that happen to lie near each other
    again = [np.asarray(some, dtype=float) for some in repeated if len(some) > 1]
    repeats = sum(len(some) - 1 for some in again)
    every = float(rows.std(ddof=1)) if len(rows) > 1 else 0.0
    if repeats < REPEATS or every == 0:
        return Gauge(step, None, repeats)
    own = math.sqrt(sum(float(((some - some.mean()) ** 2).sum()) for some in again) / repeats)
    return Gauge(step, min(own / every, 1.0), repeats)


def _outside(out: int) -> Message:
    return Message.of("chart.outside", out=out)


def _coarse(gauge: Gauge) -> Message:
    if (gauge.share or 0) > GAUGE_SHARE:
        return Message.of("chart.gauge-scatter", share=100 * (gauge.share or 0), repeats=gauge.repeats)
    return Message.of("chart.gauge-step", step=gauge.step)


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
    """The force that this share of all crimps exceeds, with this confidence: a one-sided tolerance bound of a normal
    spread (the factor by the noncentral t)."""
    values = np.asarray(rows, dtype=float)
    return float(values.mean() - tolerance_factor(len(values), share, confidence) * values.std(ddof=1))


def tolerance_factor(n: int, share: float = 0.99, confidence: float = 0.95) -> float:
    """How many standard deviations under the mean the bound lies."""
    from scipy.special import nctdtrit  # here: the window starts without it

    root = math.sqrt(n)
    return float(nctdtrit(n - 1, NORMAL.inv_cdf(share) * root, confidence)) / root


def _told(
    n: int,
    out: int,
    alarms: Sequence[Alarm],
    capable: tuple[float, float, float] | None,
    bound: float | None,
    low: float | None,
    limited: bool,
) -> tuple[str, Message]:
    """(verdict, why). Capability is called bad, or good, by its lower bound alone."""
    fresh = [alarm for alarm in alarms if alarm.at >= n - FRESH]
    if out or fresh:
        why = _outside(out) if out else Message.of("chart.rule-at", rule=rule_told(fresh[-1].rule), at=fresh[-1].at + 1)
        return "check the die", Message.of("chart.check-the-die", why=why)
    if bound is not None and low is not None and bound < low:
        return "check the die", Message.of(
            "chart.check-the-die", why=Message.of("chart.pull-bound", bound=bound, low=low)
        )
    told = Message.of("chart.steady", n=n, few=n < ENOUGH)
    if capable is None:
        wanted = limited and n < CAPABLE_FROM
        return "steady", Message.of("chart.wanted", told=told, least=CAPABLE_FROM) if wanted else told
    figures = Message.of("chart.cpk", cpk=capable[0], low=capable[1], high=capable[2])
    if capable[1] < CAPABLE:
        return "check the die", Message.of(
            "chart.check-the-die", why=Message.of("chart.not-relied-on", figures=figures)
        )
    return "steady", Message.of("chart.capable", told=told, figures=figures)


def verdict_said(verdict: str) -> Message:
    """A chart's verdict in words."""
    return Message.of(f"chart.verdict.{verdict.replace(' ', '-')}")


def rule_told(rule: str) -> str:
    """What an alarm is of, in words."""
    return say(f"chart.rule.{rule}")
