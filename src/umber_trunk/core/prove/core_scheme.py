"""A plan for finding which core is which: its steps, and what it costs."""

from __future__ import annotations

from dataclasses import dataclass, field

from umber_trunk.core.errors import UmberError
from umber_trunk.core.sentences import NOTHING, Message

Pair = tuple[int, int]


class ContradictionError(UmberError):
    """What was entered can't all be true."""


@dataclass(frozen=True)
class Todo:
    """One step: at which end, what to do, and which cores it joins, by the numbers written on at that end."""

    at: str
    do: Message
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
    why: Message = NOTHING
    tags_ohm: tuple[float, ...] = field(default=())
    common: bool = True
    check: bool = False
    told: Message = NOTHING
    """What the plan leaves open."""

    @property
    def rows(self) -> tuple[Message, ...]:
        """Its steps, and what they cost; why it can't be done."""
        if self.why:
            return (self.why,)
        steps = (
            Message.of("cores.step", number=number, at=Message.of(f"cores.at.{step.at}"), do=step.do)
            for number, step in enumerate(self.steps, 1)
        )
        return *steps, Message.of("cores.cost", walks=self.walks, calls=self.calls, readings=self.readings)
