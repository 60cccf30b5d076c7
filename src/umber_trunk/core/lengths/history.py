"""What a shop's own history says of its ways of measuring: how far off, and how widely, found lengths are from planned
ones."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.harness.way import FoundLength, Learned, Method

LEAST_PAIRS = 5
"""Fewer pairs tell nothing worth taking over."""


@dataclass(frozen=True)
class Habit:
    """One way of measuring: how many pairs, mean and standard deviation of found ÷ planned − 1, and the ± to use from
    now on as a share of the length, two standard deviations of the next one. `told`: pairs enough, and what stands
    out."""

    method: Method
    pairs: int
    bias: float
    spread: float
    share: float
    enough: bool
    biased: bool

    @property
    def learned(self) -> Learned:
        """What a project takes over of it; a bias within its own doubt is left out."""
        return Learned(method=self.method, bias=self.bias if self.biased else 0.0, share=min(self.share, 1.0))


def habits(history: Iterable[FoundLength]) -> list[Habit]:
    """Each way of measuring that the history has, in the order of `Method`. The next length's ± is Student's t for
    95.45 % on n − 1 degrees of freedom times s·√(1 + 1/n), so that few pairs don't pass for many."""
    by_method: dict[Method, list[float]] = {}
    for one in history:
        by_method.setdefault(one.method, []).append(one.found_m / one.planned_m - 1)
    found = []
    for method in Method:
        ratios = np.array(by_method.get(method, []))
        n = len(ratios)
        if not n:
            continue
        bias = float(ratios.mean())
        if n < 2:
            found.append(Habit(method, n, bias, math.nan, math.nan, False, False))
            continue
        from scipy.stats import t  # here: a program that asks for no history doesn't load it

        spread = float(ratios.std(ddof=1))
        wide = float(t.ppf(0.97725, n - 1))
        share = wide * spread * math.sqrt(1 + 1 / n)
        found.append(Habit(method, n, bias, spread, share, n >= LEAST_PAIRS, abs(bias) > wide * spread / math.sqrt(n)))
    return found
