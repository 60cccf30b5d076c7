"""Handfuls: like steps that follow one another, done and looked at together.

Hands cut twenty, strip twenty, crimp twenty, look at all of them under the lamp. The frozen order stays as it is, and
so do the keys of its steps; a handful only says which of them go together:

    order     crimp A  look A  crimp B  look B  crimp C  look C │ strip …
    handfuls  ╰─ crimp A B C ─╯ ╰─ look A B C ─╯                │

Steps go together while nothing is set up anew between them, by one hand, and none stands before one it waits for. The
split is worked out of the order alone, so that a row of pieces fills up and never changes under the hands.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.timed import Order, Timed
from umber_trunk.core.sentences import say

MOST = 24
"""Pieces a hand can lay out in a row and look over at a glance."""
BY_PART = ("crimp", "thread", "shrink", "sleeve", "tape", "clamp", "split")
"""Operations that are alike only with the same part."""
AT_A_FACE = ("insert", "tug", "plug", "torque")
"""Operations at one face, of as many units as come one after another."""
READ = ("measure", "torque", "test")
"""Operations that are read one by one."""


@dataclass(frozen=True)
class Handful:
    """Up to `MOST` pieces in the order of doing, `n` of all handfuls from 0. With a reason in `singly` each is attested
    by itself."""

    n: int
    steps: tuple[Timed, ...]
    singly: str = ""

    @property
    def first(self) -> Operation:
        """What is done to each of them: the cut, not the stop that is set for it."""
        return self.pieces[0][-1].operation if is_stop(self.steps[0].operation) else self.steps[0].operation

    @cached_property
    def pieces(self) -> tuple[tuple[Timed, ...], ...]:
        """What is counted, each with its steps: a cut with the stop before the first of them, an insertion with its
        tug."""
        found: dict[object, list[Timed]] = {}
        waiting: list[Timed] = []
        for step in self.steps:
            one = step.operation
            if is_stop(one):
                waiting.append(step)
                continue
            name = (step.unit, one.wire, one.side, one.cavity) if one.op in ("insert", "tug") and one.wire else step.n
            found.setdefault(name, []).extend([*waiting, step])
            waiting = []
        return tuple(map(tuple, found.values())) or (self.steps,)


def handfuls(order: Order, looks: str = "lamp") -> tuple[Handful, ...]:
    """The order in handfuls, each step in just one of them. `looks` is what the practice asks for: with “lamp” looks
    are attested together, with “each” singly. No handful has a step that waits for one of a later handful."""
    groups: list[list[Timed]] = []
    group_of: dict[int, int] = {}
    runs: dict[int, tuple[tuple[str, str], dict[tuple[object, ...], int]]] = {}
    for step in order.steps:
        one = step.operation
        state, open_ = runs.get(step.hand, (("", ""), {}))
        if one.tool and one.state != state:  # the stop is set before the cutter is taken up: it stays with its cuts
            stops = {key: at for key, at in open_.items() if key[0] == "cut"} if one.op == "cut" else {}
            state, open_ = one.state, stops
        runs[step.hand] = state, open_
        key = _likeness(step)
        at, waits = open_.get(key, -1), max((group_of[n] for n in step.after), default=-1)
        if at < waits or at < 0:
            at = open_[key] = len(groups)
            groups.append([])
        groups[at].append(step)
        group_of[step.n] = at
    parts = [part for steps in groups for part in _parted(steps)]
    return tuple(Handful(n, tuple(steps), _singly(steps[-1].operation, looks)) for n, steps in enumerate(parts))


def is_stop(one: Operation) -> bool:
    """Whether a step sets the length for cuts: it is no reading, and goes with them."""
    return one.op == "measure" and not one.sample and one.length_m is not None


def _likeness(step: Timed) -> tuple[object, ...]:
    """What steps have in common that go together."""
    one = step.operation
    if one.sample:
        return "sample", step.n
    if is_stop(one) or (one.op == "cut" and one.length_m is not None):
        return "cut", one.wire, one.length_m  # one length: the stop is set once
    op = "insert" if one.op == "tug" and one.wire else one.op
    place = (one.end, one.housing) if one.op in AT_A_FACE and one.wire else ()
    whole = not one.wire and not one.end  # a look at the whole is no look at a crimp
    tool = one.state if op != "insert" else ()
    return op, tool, one.part if one.op in BY_PART else "", place, whole


def _parted(steps: Sequence[Timed]) -> list[list[Timed]]:
    """A long row in rows of `MOST` pieces at most: unit by unit where whole units fit, as the order has them where
    not."""
    pieces = Handful(0, tuple(steps)).pieces
    by_unit: dict[int, list[tuple[Timed, ...]]] = {}
    for piece in pieces:
        by_unit.setdefault(piece[-1].unit, []).append(piece)
    whole = max(map(len, by_unit.values())) <= MOST // 2
    found: list[list[tuple[Timed, ...]]] = [[]]
    for row in by_unit.values() if whole else ([piece] for piece in pieces):
        if len(found[-1]) + len(row) > MOST:
            found.append([])
        found[-1] += row
    return [sorted((step for piece in row for step in piece), key=lambda step: step.n) for row in found]


def _singly(one: Operation, looks: str) -> str:
    """Why steps like this are attested one by one, "" where they aren't."""
    if one.sample:
        return "a first-off"
    if one.op in READ and not is_stop(one):
        return say("note.each-is-read-by-itself")
    if one.op == "look" and not one.wire and not one.end:
        return say("note.look-at-whole")
    return say("note.practice-asks-for-each-look-singly") if one.op == "look" and looks == "each" else ""
