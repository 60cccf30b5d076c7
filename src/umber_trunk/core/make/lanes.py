"""An order laid out in time: a lane for each pair of hands and each tool, set-ups apart, and the chain that decides how
long it takes.

    hands 1   ▨ strip ▒▒▒▨ crimp ▒▒▒▒▒ look
    hands 2     lay ░░░░░░░│        ▨ strip ▒▒
              0 h                     1 h

The chain is walked back from the step that ends last: what ended just when a step (or its set-up) began is what it
waited for, a step it waits for before one by the same hands, these before one with the same tool or place. With one
pair of hands all steps are such a chain and it says nothing; there it is the longest row of steps that wait for each
other, which no number of hands can shorten.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from umber_trunk.core.make.operation import CUTTER
from umber_trunk.core.make.timed import Order, Timed, set_ups
from umber_trunk.core.make.times import CHANGE_S
from umber_trunk.core.sentences import say

CLOSE_S = 1e-6
"""Where it is no tool's, any longer pause ends a stretch."""
PAUSE_S = 30.0
"""A tool that lies on the bench for so long while its piece is looked at is still in hand."""
BETWEEN = ("look", "tug")
"""What is done between two pieces, the tool in hand."""


@dataclass(frozen=True)
class Bar:
    """Steps that follow one another in a lane, or a set-up before them; `steps` are their numbers, `text` what they
    are."""

    lane: str
    text: str
    op: str
    start_s: float
    end_s: float
    steps: tuple[int, ...]
    set_up: bool = False
    critical: bool = False


@dataclass(frozen=True)
class Lanes:
    """All lanes in the order shown, their bars, and the numbers of the steps of the chain."""

    names: tuple[str, ...]
    bars: tuple[Bar, ...]
    chain: frozenset[int]
    span_s: float
    hands: int

    def of(self, lane: str) -> list[Bar]:
        """A lane's bars from left to right."""
        return [bar for bar in self.bars if bar.lane == lane]


def lanes(order: Order) -> Lanes:
    """An order in lanes; bars of a lane never overlap."""
    steps = sorted(order.steps, key=lambda one: (one.start_s, one.n))
    set_up = set_ups(steps)
    chain = frozenset(_walked_back(steps, set_up) if order.hands > 1 else _longest(order.steps))
    bars: list[Bar] = []
    for hand in range(1, order.hands + 1):
        bars += _bars(say("lane.hands", hand=hand), [one for one in steps if one.hand == hand], set_up, chain)
    tools = list(dict.fromkeys(one.operation.tool for one in steps if one.operation.tool))
    for tool in tools:
        bars += _bars(tool, [one for one in steps if one.operation.tool == tool], set_up, chain)
    names = (*(say("lane.hands", hand=hand) for hand in range(1, order.hands + 1)), *tools)
    return Lanes(names, tuple(bars), chain, max((one.start_s + one.seconds for one in steps), default=0.0), order.hands)


def _bars(lane: str, steps: Sequence[Timed], set_up: set[int], chain: frozenset[int]) -> list[Bar]:
    found: list[Bar] = []
    mine: list[Timed] = []

    def close() -> None:
        if mine:
            one = next((step.operation for step in mine if step.operation.tool), mine[0].operation)
            text = ", ".join(
                part for part in (say(f"op.{one.op}"), one.tool if lane != one.tool else "", one.setting) if part
            )
            critical = any(step.n in chain for step in mine)
            found.append(
                Bar(
                    lane,
                    text,
                    one.op,
                    mine[0].start_s,
                    mine[-1].start_s + mine[-1].seconds,
                    tuple(step.n for step in mine),
                    critical=critical,
                )
            )
        mine.clear()

    kind: object = None
    for step in steps:
        one = step.operation
        like: object = one.state if one.tool else kind if one.op in BETWEEN and mine else one.op
        if one.op == "measure" and one.length_m is not None:
            like = CUTTER, ""  # the stop is set at the cutter
        fresh = step.n in set_up
        apart = bool(mine) and step.start_s - (mine[-1].start_s + mine[-1].seconds) > (
            PAUSE_S if lane == one.tool else CLOSE_S
        )
        if like != kind or fresh or apart:
            close()
        if fresh:
            text = say("lane.set-up", tool=one.tool, setting=one.setting)
            found.append(
                Bar(lane, text, "set up", step.start_s - CHANGE_S, step.start_s, (step.n,), True, step.n in chain)
            )
        kind = like
        mine.append(step)
    close()
    return sorted(found, key=lambda bar: bar.start_s)


def _longest(steps: Sequence[Timed]) -> list[int]:
    """The longest row of steps that wait for each other."""
    ends: dict[int, float] = {}
    before: dict[int, int] = {}
    for step in sorted(steps, key=lambda one: one.n):
        last = max(step.after, key=ends.__getitem__, default=0)
        ends[step.n] = step.seconds + (ends[last] if last else 0.0)
        before[step.n] = last
    here = max(ends, key=ends.__getitem__, default=0)
    found = []
    while here:
        found.append(here)
        here = before[here]
    return found


def _walked_back(steps: Sequence[Timed], set_up: set[int]) -> list[int]:
    """From the step that ends last back to the start: what each one waited for."""
    by_end: dict[int, list[Timed]] = defaultdict(list)
    for step in steps:
        by_end[round((step.start_s + step.seconds) / 1e-3)].append(step)
    here = max(steps, key=lambda one: (one.start_s + one.seconds, one.n), default=None)
    found: list[int] = []
    while here is not None:
        found.append(here.n)
        began = here.start_s - (CHANGE_S if here.n in set_up else 0.0)
        if began <= CLOSE_S:
            break
        at, now = round(began / 1e-3), here
        ended = [
            one
            for key in (at - 1, at, at + 1)
            for one in by_end.get(key, ())
            if one.n != now.n and one.start_s < now.start_s
        ]
        here = min(
            ended,
            key=lambda one: (
                one.n not in now.after,
                one.hand != now.hand,
                one.operation.tool != now.operation.tool,
                one.n,
            ),
            default=None,
        )
    return found
