"""A plan for finding which core is which: its steps, and what it costs."""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.errors import UmberError

Pair = tuple[int, int]


class ContradictionError(UmberError):
    """What was entered can't all be true."""


@dataclass(frozen=True)
class Todo:
    """One step: at which end, what to do, and which cores it joins, by the numbers written on at that end."""

    at: str
    do: str
    joins: tuple[tuple[int, ...], ...] = ()
    reads: bool = False


@dataclass(frozen=True)
class Scheme:
    """A whole plan. `walks` from end to end, `calls` to a partner, `readings` at most; `why` where it can't be done so.
    `common`: there is a conductor known at both ends; `check`: a call shows that no core is broken."""

    way: str
    cores: int
    walks: int
    calls: int
    readings: int
    steps: tuple[Todo, ...]
    why: str = ""
    tags_ohm: tuple[float, ...] = field(default=())
    common: bool = True
    check: bool = False
    told: str = ""
    """What the plan leaves open."""
