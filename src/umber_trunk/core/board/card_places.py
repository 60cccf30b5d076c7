"""Where cards lie: beside the ends they tell of, in what limbs leave free."""

from __future__ import annotations

import math

import numpy as np

from umber_trunk.core.board.asked import Asked, Card
from umber_trunk.core.board.grid import MOST_SQUARES, Box, Grid, Spot, boxes_of
from umber_trunk.core.board.grown import AHEAD, Grown, tip_boxes

CARD_GAP_MM, CARD_CLEAR_MM = 6.0, 5.0
"""Between cards in a row; round limbs and reels."""
CARD_STEP_MM = 20.0
"""Steps in which free room for a card is looked for."""
CARD_REACHES = (12.0, 30.0, 55.0, 90.0, 140.0, 200.0, 280.0)
"""How far from its end a card may lie, tried one after another; then wherever there is room, looked at every so far."""


def place_cards(grown: Grown, asked: Asked, wide: float, tall: float) -> dict[str, Box]:
    """End → its card's box: as near to its end as there is room inside of what lies, what has none in rows above."""
    if not asked.cards:
        return {}
    grid = Grid(wide, tall, max(10.0, max(wide, tall) / MOST_SQUARES))
    for name, line in grown.lines.items():
        for box in boxes_of(line, CARD_CLEAR_MM + asked.half(name), grid.cell):
            grid.take(box)
    for box in tip_boxes(grown, asked.tips, 2.0, grid.cell):
        grid.take(box)
    for reel in grown.reels.values():
        (x, y), r = reel.at, reel.radius_mm + CARD_CLEAR_MM
        grid.take((x - r, y - r, x + r, y + r))
    found: dict[str, Box] = {}
    left: list[tuple[str, Card]] = []
    for end, card in sorted(asked.cards.items(), key=lambda one: (-one[1].wide_mm * one[1].tall_mm, one[0])):
        at = grown.spots.get(card.point)
        spot = None if at is None else _place_near(grid, at, grown.ways.get(card.point, AHEAD), card)
        if spot is None:
            left.append((end, card))
            continue
        found[end] = (spot[0], spot[1], spot[0] + card.wide_mm, spot[1] + card.tall_mm)
        grid.take(found[end])
    widest = max([wide, *(card.wide_mm for _, card in left)])
    x, y, row = 0.0, tall + 2 * CARD_GAP_MM, 0.0
    for end, card in sorted(left, key=lambda one: (-one[1].tall_mm, one[0])):
        if x and x + card.wide_mm > widest:
            x, y, row = 0.0, y + row + CARD_GAP_MM, 0.0
        found[end] = (x, y, x + card.wide_mm, y + card.tall_mm)
        x, row = x + card.wide_mm + CARD_GAP_MM, max(row, card.tall_mm)
    return found


def _place_near(grid: Grid, at: Spot, way: Spot, card: Card) -> Spot | None:
    """The place for a card next to a limb's end: ahead of it first, then round it, further and further, then the
    nearest there is."""
    ahead = math.atan2(way[1], way[0])
    for reach in CARD_REACHES:
        for turn in range(12):
            angle = ahead + (turn + 1) // 2 * (math.pi / 6) * (1 if turn % 2 else -1)
            x = at[0] + math.cos(angle) * (reach + card.wide_mm / 2) - card.wide_mm / 2
            y = at[1] + math.sin(angle) * (reach + card.tall_mm / 2) - card.tall_mm / 2
            x, y = max(0.0, min(x, grid.width - card.wide_mm)), max(0.0, min(y, grid.height - card.tall_mm))
            if grid.clear((x, y, x + card.wide_mm, y + card.tall_mm)):
                return x, y
    free = [
        (math.hypot(x + card.wide_mm / 2 - at[0], y + card.tall_mm / 2 - at[1]), x, y)
        for x in np.arange(0.0, grid.width - card.wide_mm, CARD_STEP_MM).tolist()
        for y in np.arange(0.0, grid.height - card.tall_mm, CARD_STEP_MM).tolist()
        if grid.clear((x, y, x + card.wide_mm, y + card.tall_mm))
    ]
    return min(free)[1:] if free else None
