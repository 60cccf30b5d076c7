"""How a label lies on its roll: plain, as a flag that is folded round the wire, or wrapped round it.

plain   ┌────────────┐    flag  ┌──────┬──┬──────┐    wrap  ┌──┐  along the wire: the roll's width
        │▦ R01  box 3│          │▦ R01 │  │▦ R01 │          │▦ │  round it: the text again and again,
        └────────────┘          └──────┴──┴──────┘          │R0│  then a clear tail over it
                                  folded here, round the wire└──┘
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from umber_trunk.core.errors import InputError
from umber_trunk.core.make.book import LABEL_MM, WireLabel, labels
from umber_trunk.core.results import Results
from umber_trunk.core.strokes import Box

ROLLS_MM = (9.0, 12.0, 18.0)
"""Usual widths of label rolls."""
STYLES = ("plain", "flag", "wrap")
FLAG_MM, GLUE_MM, ROW_MM, TAIL = 30.0, 1.0, 4.6, 1.2
"""Length of one leaf of a flag; what is added round the wire; height of a line on a wrap; how often a wrap's clear tail
goes round."""
USUAL_OUTER_MM = 2.5
"""Of a wire nobody has sized."""


@dataclass(frozen=True)
class LabelForm:
    """One label: what is on it, how long and wide it is on its roll, where its texts lie from its upper left corner,
    whether they are turned by a quarter to run along the wire."""

    label: WireLabel
    long_mm: float
    roll_mm: float
    prints: tuple[Box, ...]
    turned: bool = False


def label_forms(results: Results, style: str = "plain", roll_mm: float = LABEL_MM[1]) -> list[LabelForm]:
    """Both ends of every wire, each label as long as its wire's thickness asks for. InputError for a style or roll
    there is none of."""
    if style not in STYLES:
        raise InputError.of("papers.no-kind-of-label", style=style, known=", ".join(STYLES))
    if not 4.0 <= roll_mm <= 100.0:
        raise InputError.of("papers.no-such-roll", roll_mm=roll_mm, known=", ".join(f"{one:g}" for one in ROLLS_MM))
    plant = results.plant
    outer = {wire.id: cond.outer_mm for wire, cond in zip(plant.wires, plant.conductors, strict=True)}
    return [_form(one, style, roll_mm, outer.get(one.wire, USUAL_OUTER_MM)) for one in labels(results)]


def _form(one: WireLabel, style: str, roll: float, outer_mm: float) -> LabelForm:
    round_mm = math.pi * outer_mm
    if style == "plain":
        return LabelForm(one, LABEL_MM[0], roll, ((0.0, 0.0, LABEL_MM[0], roll),))
    if style == "flag":
        gap = round_mm + GLUE_MM
        return LabelForm(
            one, 2 * FLAG_MM + gap, roll, ((0.0, 0.0, FLAG_MM, roll), (FLAG_MM + gap, 0.0, 2 * FLAG_MM + gap, roll))
        )
    printed = max(round_mm, roll)  # the code wants a square
    rows = max(int((printed - roll) / ROW_MM), 0)
    prints = [(0.0, 0.0, roll, roll)]
    prints += [(roll + ROW_MM * row, 0.0, roll + ROW_MM * (row + 1), roll) for row in range(max(rows, 1))]
    return LabelForm(one, prints[-1][2] + TAIL * round_mm + GLUE_MM, roll, tuple(prints), True)
