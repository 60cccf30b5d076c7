"""How much more to cut so that a wire seldom comes up short, and what that costs against a scrapped one."""

from __future__ import annotations

import math
from statistics import NormalDist

from umber_trunk.core.harness.way import Prices

NORMAL = NormalDist()


def chance_short(extra_m: float, sd_m: float) -> float:
    """Chance that what is needed turns out longer than cut, for errors that add up to a normal one."""
    if sd_m <= 0:
        return 0.0 if extra_m >= 0 else 1.0
    return NORMAL.cdf(-extra_m / sd_m)


def least_extra_m(sd_m: float, most_chance: float) -> float:
    """The least extra that keeps the chance of coming up short at or under `most_chance`."""
    return max(NORMAL.inv_cdf(1 - most_chance), 0.0) * sd_m


def cheapest_extra_m(sd_m: float, needed_m: float, prices: Prices) -> float:
    """The extra at which copper and scrap together cost least: a millimetre more costs what it saves in chance.

    price·σ = lost·φ(z), lost being the price of a scrapped wire with all its copper; 0 where copper always costs more.
    """
    lost = prices.scrapped + prices.spare_per_m * needed_m
    if sd_m <= 0:
        return 0.0
    ratio = lost / (prices.spare_per_m * sd_m * math.sqrt(math.tau))
    return sd_m * math.sqrt(2 * math.log(ratio)) if ratio > 1 else 0.0


def rounded_up_m(length_m: float, step_m: float) -> float:
    """Up to the shop's next step."""
    return math.ceil(length_m / step_m - 1e-9) * step_m
