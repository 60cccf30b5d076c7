"""What a meter adds to the truth: its error, its leads, its ranges; and how likely a reading is, given what should be
there."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.sentences import Message

INSULATION_LOG10, INSULATION_SD = 9.3, 0.5
"""Sound insulation of a dry harness: the logarithm of its ohms, and one standard deviation of that."""
SLIP = 1e-4
"""How often a reading is spoilt by a probe that didn't touch or touched beside."""
DECADES = 14.0
"""Over so many decades a probe that slipped may read anything."""
MOST_AMPS = 500.0
"""No current-limited bench supply gives more."""
SHAKEN = {"four": "shake", "two": "shake-two"}
"""How a meter measures → the kind of a reading that is its highest while an end is bent."""


@dataclass(frozen=True)
class Meter:
    """An ohmmeter of two wires or four with an insulation tester. Errors are one standard deviation: `two_ohm` is what
    nulled leads still leave, `four_ohm` the same of four wires, shares are of the reading. `amps`: what the supply for
    millivolts gives at most, 0 where there is none; `millivolt` what its millivolts are off, `millivolt_share` its
    clamp. Above `over_ohm` it shows nothing."""

    four_wire: bool = True
    two_ohm: float = 0.006
    two_share: float = 0.004
    four_ohm: float = 2e-5
    four_share: float = 0.002
    insulation_share: float = 0.05
    millivolt: float = 0.02
    millivolt_share: float = 0.01
    amps: float = 20.0
    over_ohm: float = 5e7
    insulation_over_ohm: float = 1e11

    @property
    def kind(self) -> str:
        """How it measures a wire."""
        return "four" if self.four_wire else "two"

    @property
    def floor_ohm(self) -> float:
        """One standard deviation of a reading of nothing, as it measures a wire."""
        return self.four_ohm if self.four_wire else self.two_ohm

    def sd(self, kind: str, ohm: float) -> float:
        """One standard deviation of its error at a reading, in Ω."""
        return float(self.sds(kind, np.array(ohm)))

    def sds(self, kind: str, ohm: NDArray[np.float64]) -> NDArray[np.float64]:
        """`sd` of many readings."""
        if kind == "insulation":
            return self.insulation_share * ohm
        floor, share = (
            (self.four_ohm, self.four_share) if kind in ("four", SHAKEN["four"]) else (self.two_ohm, self.two_share)
        )
        return np.hypot(floor, share * ohm)

    def part_sd(self, amps: float, ohm: float) -> float:
        """One standard deviation of the ohms worked out from millivolts at a current."""
        return float(self.part_sds(amps, np.array(ohm)))

    def part_sds(self, amps: float, ohm: NDArray[np.float64]) -> NDArray[np.float64]:
        """`part_sd` of many readings."""
        return np.hypot(1e-3 * self.millivolt / amps, self.millivolt_share * ohm)

    @property
    def told(self) -> Message:
        """What it can tell, in a sentence: how it is held, and how little it sees."""
        floor, share = (self.four_ohm, self.four_share) if self.four_wire else (self.two_ohm, self.two_share)
        return Message.of(
            "meter.told", four_wire=self.four_wire, amps=self.amps, floor_mohm=1e3 * floor, percent=100 * share
        )

    def over(self, kind: str) -> float:
        """The most it can show."""
        return self.insulation_over_ohm if kind == "insulation" else self.over_ohm


def log_stray(ohm: float) -> float:
    """Log density of a spoilt reading: anything over many decades."""
    return math.log(SLIP) - math.log(max(ohm, 0.01) * DECADES * math.log(10))


def log_anything(ohm: float) -> float:
    """Log density of a reading of which nothing is known but that it leads: from a milliohm to a megohm, evenly in its
    logarithm."""
    return -math.log(max(ohm, 1e-3) * 9 * math.log(10))


def log_insulation(seen_ohm: float, read_ohm: float) -> float:
    """Log likelihood of an insulation reading: what leads there, infinite for sound insulation, and what was read."""
    if math.isinf(seen_ohm):
        if math.isinf(read_ohm):
            return math.log(0.2)
        return _log_normal(math.log10(max(read_ohm, 1e-3)), INSULATION_LOG10, INSULATION_SD) + math.log(0.8)
    if math.isinf(read_ohm):
        return math.log(SLIP)
    return max(_log_normal(math.log10(max(read_ohm, 1e-3)), math.log10(max(seen_ohm, 1e-3)), 0.05), log_stray(1.0))


def _log_normal(value: float, mean: float, sd: float) -> float:
    return -0.5 * ((value - mean) / sd) ** 2 - math.log(sd * math.sqrt(2 * math.pi))
