"""One wire’s length: its shares, each with its why."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.sentences import Message, say


@dataclass(frozen=True)
class Share:
    """One part of a wire's length and why it is so long."""

    what: str
    metres: float
    reasons: tuple[Message, ...] = ()

    @property
    def why(self) -> str:
        """Its reasons in a row, "" for none."""
        return "; ".join(map(str, self.reasons))

    @property
    def said(self) -> str:
        """What it is, how long, and why."""
        return say("length.part.why", part=Message.of(f"length.part.{self.what}"), mm=1e3 * self.metres, why=self.why)


@dataclass(frozen=True)
class WireLength:
    """One wire's length; `cut_m` is the sum of its parts. `finished_m` is what lies in the harness once it is made,
    `sd_m` the standard deviation of all that is uncertain, `chance_short` that of coming up short. `extra_m` holds
    `rounding_m`."""

    wire: str
    path_m: float
    bends_m: float
    twist_m: float
    loops_m: float
    entry_m: float
    strip_m: float
    remakes_m: float
    extra_m: float
    rounding_m: float
    cut_m: float
    sd_m: float
    chance_short: float
    shares: tuple[Share, ...]
    comb: str = ""
    alike: str = ""

    @property
    def finished_m(self) -> float:
        """What lies in the harness: everything but bared tips' spares, remakes and extra."""
        return self.path_m + self.bends_m + self.twist_m + self.loops_m + self.entry_m + self.strip_m

    @property
    def needed_m(self) -> float:
        """What has to be there with all remakes still to come."""
        return self.finished_m + self.remakes_m
