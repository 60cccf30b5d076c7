"""From the run along the trunk to the finished length, and to the length to cut."""

from __future__ import annotations

import math
from statistics import NormalDist

from umber_trunk.core.harness.model import Design

ROUND_UP_M = 0.005


def cut_length_m(finished_m: float, sigma_m: float, design: Design) -> float:
    """Finished length plus both strips, the remakes allowed, and enough not to come up short.

    The last is the normal quantile of the project's chance times the standard deviation; the sum is
    rounded up to 5 mm.
    """
    project = design.project
    reserve = NormalDist().inv_cdf(1 - project.chance_short) * sigma_m
    total = finished_m + 2 * project.strip_m + project.remakes * project.remake_m + reserve
    return math.ceil(total / ROUND_UP_M - 1e-9) * ROUND_UP_M


def finished_length_m(run_m: float, design: Design) -> float:
    """Run with its twist take-up, plus the entry into the end at both sides."""
    return run_m * design.project.twist_factor + 2 * design.project.entry_m
