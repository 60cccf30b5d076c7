"""How far a unit's proof is, for the picture of it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Redline:
    """Each wire's state ("tested", "failed", "in", "left"), and the ends the next probes go to."""

    states: dict[str, str]
    ends: tuple[str, ...] = ()
