"""What a board is asked to hold."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from umber_trunk.core.board.limbs import Tip
from umber_trunk.core.errors import Wanted
from umber_trunk.core.harness.way import Board


@dataclass(frozen=True)
class Card:
    """What is told beside an end: its face and table, so wide and so tall."""

    point: str
    wide_mm: float
    tall_mm: float


@dataclass(frozen=True)
class Asked:
    """What a board is to hold: its size, cards by end, what lies at points, and whether it is still wanted."""

    board: Board
    cards: Mapping[str, Card]
    tips: Mapping[str, Tip]
    wanted: Wanted
    wide_mm: Mapping[str, float]

    def half(self, segment: str) -> float:
        """Half of how thick a limb is."""
        return self.wide_mm.get(segment, 0.0) / 2

    @property
    def overlong_mm(self) -> float:
        """A limb longer than this is wound up on a peg."""
        return 2 * max(self.board.width_mm, self.board.height_mm)
