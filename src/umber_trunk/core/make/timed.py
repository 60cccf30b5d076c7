"""An order of work as a value: each operation with its hand and its time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.make.operation import Operation

State = tuple[str, str]
"""A tool and its setting."""
SCHOOLS = ("operation", "wire")


@dataclass(frozen=True)
class Timed:
    """One step of the order: `n` from 1 in the order of doing, an operation for a unit (0: once for all), the numbers
    of the steps it waits for, which hand does it and when it starts."""

    n: int
    operation: Operation
    unit: int
    after: tuple[int, ...]
    seconds: float
    hand: int
    start_s: float

    @property
    def key(self) -> str:
        """The same step in every order of this design."""
        return f"{self.unit}|{self.operation.key}"


@dataclass(frozen=True)
class Order:
    """A whole order. `work_s` is all handling, `change_s` all tool changes, `span_s` from first to last with these
    hands, which no order can get under `span_bound_s`; with more hands than one, `bound` counts each tool and setting
    once; `low_s` and `high_s` hold the span in 9 of 10 cases by what the log says of times."""

    school: str
    units: tuple[int, ...]
    hands: int
    steps: tuple[Timed, ...]
    tool_changes: int
    bound: int
    walks: int
    work_s: float
    change_s: float
    span_s: float
    span_bound_s: float
    low_s: float
    high_s: float
    learned: int


def set_ups(steps: Sequence[Timed]) -> set[int]:
    """Numbers of the steps before which a tool is set up anew: another one than these hands hold, or one that others
    had meanwhile."""
    held: dict[int, State] = {}
    last: dict[str, tuple[int, State]] = {}
    found = set()
    for step in sorted(steps, key=lambda one: one.start_s):
        one, hand = step.operation, step.hand
        if one.tool:
            lent = last.get(one.tool, (hand, one.state)) != (hand, one.state)
            if lent or held.get(hand, one.state) != one.state:
                found.add(step.n)
            held[hand], last[one.tool] = one.state, (hand, one.state)
    return found
