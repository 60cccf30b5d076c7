"""How long an operation takes: the shop's own times from the log where there are enough, usual ones else.

The median of what was logged, for each operation and tool; its spread by the median absolute deviation, so that a
coffee break left on the clock spoils neither.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from umber_trunk.core.make.operation import Operation

USUAL_S = {
    "measure": 10.0, "cut": 6.0, "label": 15.0, "lay": 12.0, "thread": 6.0, "strip": 8.0, "fold": 20.0, "crimp": 10.0, "solder": 40.0, "insert": 8.0,
    "plug": 5.0, "lock": 5.0, "sleeve": 60.0, "shrink": 25.0, "twist": 40.0, "split": 45.0, "tape": 60.0, "clamp": 15.0, "torque": 15.0, "tie": 10.0,
    "look": 4.0, "tug": 3.0, "extract": 20.0, "test": 180.0,
}  # fmt: skip
"""First guesses in seconds, of this program; the log replaces them."""
CHANGE_S = 60.0
"""Another tool or setting taken up, set and tried."""
USUAL_SHARE = 0.4
"""How far first guesses may be off, as a standard deviation of all of them together."""
ENOUGH = 5
"""Times of one's own from which on they count alone."""
NINE_OF_TEN = 1.645
"""Nine of ten of a normal distribution lie within so many standard deviations."""
MAD_TO_SD = 1.4826
"""Of a normal spread."""


@dataclass(frozen=True)
class Times:
    """Medians and spreads by (operation, tool), and by operation alone, from the log."""

    known: dict[tuple[str, str], tuple[float, float, int]] = field(default_factory=dict)

    def of(self, one: Operation) -> tuple[float, float, int] | None:
        """(median, standard deviation, readings) of an operation with its tool, else of the operation with any; None if
        too few."""
        return self.known.get((one.op, one.tool)) or self.known.get((one.op, "*"))

    def seconds(self, one: Operation) -> float:
        """How long an operation takes."""
        found = self.of(one)
        return found[0] if found is not None else USUAL_S.get(one.op, 10.0)

    def learned(self, ops: Iterable[Operation]) -> int:
        """How many of these are timed by the log."""
        return sum(self.of(one) is not None for one in ops)

    def spread_s(self, ops: Iterable[Operation]) -> float:
        """Half of the range that holds the sum of these in nine cases of ten: single times scatter, medians are off
        together."""
        single = common = guessed = 0.0
        many: dict[tuple[str, str], int] = defaultdict(int)
        for one in ops:
            found = self.of(one)
            if found is None:
                guessed += USUAL_SHARE * USUAL_S.get(one.op, 10.0)
            else:
                single += found[1] ** 2
                many[one.op, one.tool] += 1
        for (op, tool), count in many.items():
            _, sd, readings = self.known.get((op, tool)) or self.known[op, "*"]
            common += (count * 1.2533 * sd / math.sqrt(readings)) ** 2  # the standard error of a median
        return NINE_OF_TEN * math.sqrt(single + common) + NINE_OF_TEN * guessed


def learn(logged: Iterable[tuple[str, str, float] | tuple[str, str, float, int]]) -> Times:
    """Times from (operation, tool, seconds, pieces they are the mean of) of the log; what isn't a time above zero and
    under an hour is left out. A mean of n pieces scatters √n less than one piece does: its distance counts so much
    more."""
    by: dict[tuple[str, str], list[tuple[float, int]]] = defaultdict(list)
    for op, tool, seconds, *pieces in logged:
        if 0.2 <= seconds <= 3600:
            by[op, tool].append((seconds, pieces[0] if pieces else 1))
            by[op, "*"].append((seconds, pieces[0] if pieces else 1))
    found = {}
    for key, rows in by.items():
        if len(rows) >= ENOUGH:
            seconds_of, pieces_of = np.array(rows, dtype=float).T
            middle = float(np.median(seconds_of))
            away = np.abs(seconds_of - middle) * np.sqrt(pieces_of)
            found[key] = (middle, MAD_TO_SD * float(np.median(away)), len(rows))
    return Times(found)
