"""How far a unit's proof is, for the picture of it."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class Redline:
    """Each wire's state ("tested", "failed", "in", "left"), the ends the next probes go to, and what is said at an end,
    with whether it calls for a look."""

    states: dict[str, str]
    ends: tuple[str, ...] = ()
    said: dict[str, tuple[str, bool]] = field(default_factory=dict)
