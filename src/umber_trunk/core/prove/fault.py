"""One fault of a harness, as a value: what, where, and what it does there."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

SHORT_OHM = 0.01
"""What wires that touch have between them."""
SCREEN_OHM = 0.05
"""A screen's way to where it is landed wrongly."""
LEADS = "leads"
"""The fault that is the meter's: its leads."""


@dataclass(frozen=True)
class Fault:
    """One fault. `where` are its wires, or the cable of a screen; `end` where it sits, "" where that isn't said; `ohm`
    what it adds or joins by; `size`, `metal`, `metres`, `share` as its word says; `along` how far along its first wire,
    as a share, None for anywhere; `ohm_low` and `ohm_high` hold nine of ten of what `ohm` may be by the readings, 0
    where nothing was read of it."""

    what: str
    where: tuple[str, ...]
    end: str = ""
    ohm: float = 0.0
    size: str = ""
    metal: str = ""
    metres: float = 0.0
    share: float = 0.0
    along: float | None = None
    ohm_low: float = field(default=0.0, compare=False)
    ohm_high: float = field(default=0.0, compare=False)

    @property
    def key(self) -> tuple[str, tuple[str, ...], str]:
        """What it is told from others by: its kind, its wires, its end, and whether wires that touch do so through a
        resistance; not its figures."""
        through = "Ω" if self.what == "short" and self.ohm else ""
        return self.what, tuple(sorted(self.where)), self.end or through

    @property
    def place(self) -> str:
        """Its wires, cable or ends as written in a fault word."""
        return ",".join(self.where)


def within(fault: Fault, sd_share: float) -> Fault:
    """The fault with what its ohms may be: nine of ten of a normal error that is so much of them."""
    spread = 1.645 * sd_share * fault.ohm
    return replace(fault, ohm_low=fault.ohm - spread, ohm_high=fault.ohm + spread)
