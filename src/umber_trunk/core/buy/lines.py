"""A line of the shopping list, and how much more than needed is bought."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.errors import InputError
from umber_trunk.core.sentences import NOTHING, Message


@dataclass(frozen=True)
class Spares:
    """How much more than needed: a share, and at least so many of what is counted. `samples` crimps are pulled apart at
    each set-up."""

    percent: float = 3.0
    least: int = 1
    samples: int = 1

    def __post_init__(self) -> None:
        if not 0 <= self.percent <= 200 or not 0 <= self.least <= 1000 or not 0 <= self.samples <= 20:
            raise InputError.of("buy.spares-out-of-range")


@dataclass(frozen=True)
class Buy:
    """One line: `needed` with `test` for set-ups, `spare` on top, `have` on the shelf, `buy` in whole packs. Counts in
    pieces, lengths in m by `unit`; price and mass of what is bought. A length has to be had in one piece: `longest_m`
    is the longest that is bought, and what is on the shelf in shorter ones isn't counted. `priced` is False where
    nobody has said what it costs."""

    what: str
    id: str
    name: str
    unit: str
    needed: float
    test: float
    spare: float
    have: float
    buy: float
    pack: float
    packs: int
    price: float
    mass_kg: float
    supplier: str
    decided: tuple[Message, ...] = ()
    longest_m: float = 0.0
    priced: bool = True
    note: Message = NOTHING

    @property
    def notes(self) -> tuple[Message, ...]:
        """What stands beside it."""
        whole = self.longest_m > 0 and self.buy > 0
        piece = (Message.of("buy.pieces-up-to", longest=self.longest_m),) if whole else ()
        return (*piece, *((self.note,) if self.note else ()), *self.decided)

    @property
    def told(self) -> str:
        """That in words."""
        return "; ".join(map(str, self.notes))
