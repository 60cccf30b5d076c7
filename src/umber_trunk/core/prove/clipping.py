"""Group tests: which of many nets are joined, from far fewer readings than there are pairs.

With a switch box the nets are numbered and split by each bit of their number: ⌈log₂ n⌉ readings show that nothing is
joined. Where one leads, halving either side finds two that are; they count as one from then on, and the same bit is
read again. By hand, each net is read against all before it, clipped together: n − 1 readings.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field

Joined = Callable[[tuple[int, ...], tuple[int, ...]], bool]
"""Whether anything leads from the one set of nets to the other."""


@dataclass
class Found:
    """Groups of nets that are joined (those of two or more), and what it took: readings that cleared, and those that
    followed up."""

    groups: list[tuple[int, ...]] = field(default_factory=list)
    clearing: int = 0
    following: int = 0

    @property
    def readings(self) -> int:
        """All of them."""
        return self.clearing + self.following


def least_tests(nets: int) -> int:
    """⌈log₂ n⌉: fewer readings cannot show n nets apart from one another, since two nets would never be on different
    leads."""
    return (nets - 1).bit_length() if nets > 1 else 0


def hand_tests(nets: int) -> int:
    """Readings by hand, each net against all before it."""
    return max(nets - 1, 0)


Asked = Generator[tuple[tuple[int, ...], tuple[int, ...]], bool, Found]
"""Asks for a reading between two sets of nets, is told whether it leads, and ends with what was found."""


def find_joined(nets: int, joined: Joined, by_hand: bool = False) -> Found:
    """All nets that are joined, by a switch box or by hand."""
    asking = by_hand_readings(nets) if by_hand else box_readings(nets)
    try:
        question = next(asking)
        while True:
            question = asking.send(joined(*question))
    except StopIteration as end:
        found: Found = end.value
        return found


def box_readings(nets: int) -> Asked:
    """The readings by a switch box, one after another."""
    found = Found()
    parts: dict[int, list[int]] = {net: [net] for net in range(nets)}  # first of a group → all of it
    for bit in range(least_tests(nets)):
        while True:
            ones = [net for net in parts if net >> bit & 1]
            zeros = [net for net in parts if not net >> bit & 1]
            if not ones or not zeros:
                break
            if not (yield _all(parts, zeros), _all(parts, ones)):
                found.clearing += 1
                break
            found.following += 1
            a = yield from _halve(parts, zeros, _all(parts, ones), found)
            b = yield from _halve(parts, ones, _all(parts, [a]), found)
            parts[a] += parts.pop(b)
    return _grouped(found, parts)


def clear_readings(nets: int, by_hand: bool = False) -> list[tuple[tuple[int, ...], tuple[int, ...]]]:
    """The readings there are while nothing leads: the list to be gone through."""
    found = []
    asking = by_hand_readings(nets) if by_hand else box_readings(nets)
    with suppress(StopIteration):
        question = next(asking)
        while True:
            found.append(question)
            question = asking.send(False)
    return found


def by_hand_readings(nets: int) -> Asked:
    """The readings by hand: each net against all before it, clipped together once they are clear of one another."""
    found = Found()
    parts: dict[int, list[int]] = {}
    for net in range(nets):
        if not parts or not (yield _all(parts, list(parts)), (net,)):
            found.clearing += bool(parts)
            parts[net] = [net]
            continue
        found.following += 1
        a = yield from _halve(parts, list(parts), (net,), found)
        parts[a].append(net)
        rest = [other for other in parts if other != a]
        while rest and (yield _all(parts, rest), (net,)):  # it may join several that stood apart before
            found.following += 1
            b = yield from _halve(parts, rest, (net,), found)
            parts[a] += parts.pop(b)
            rest.remove(b)
        found.following += bool(rest)
    return _grouped(found, parts)


def _grouped(found: Found, parts: dict[int, list[int]]) -> Found:
    found.groups = sorted(tuple(sorted(group)) for group in parts.values() if len(group) > 1)
    return found


def _all(parts: dict[int, list[int]], some: Sequence[int]) -> tuple[int, ...]:
    return tuple(net for first in some for net in parts[first])


def _halve(
    parts: dict[int, list[int]], some: list[int], against: tuple[int, ...], found: Found
) -> Generator[tuple[tuple[int, ...], tuple[int, ...]], bool, int]:
    """One of these groups that leads to `against`, known that they do all together."""
    while len(some) > 1:
        half = some[: len(some) // 2]
        found.following += 1
        some = half if (yield _all(parts, half), against) else some[len(some) // 2 :]
    return some[0]
