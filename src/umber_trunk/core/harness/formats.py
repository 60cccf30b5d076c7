"""Designs of older format numbers brought up to this one, step by step, wherever they come in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

FORMAT_VERSION = 8
"""The format designs are written in; earlier ones are migrated when they are read."""


class NewerFormatError(ValueError):
    """A design of a format this program doesn't know yet."""


def _nothing_to_move(data: dict[str, Any]) -> dict[str, Any]:
    """1 → 2: converters, cables and house rules came; 2 → 3: parts, fittings, house practice; 3 → 4: bends, loops,
    coverings, joins, combs, sets, the board; 4 → 5: decisions; 5 → 6: loops, terminal blocks, pairs; 6 → 7: the ways a
    box has; 7 → 8: options, variants, devices, prices. An old design says nothing of them."""
    return data


STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: _nothing_to_move,
    2: _nothing_to_move,
    3: _nothing_to_move,
    4: _nothing_to_move,
    5: _nothing_to_move,
    6: _nothing_to_move,
    7: _nothing_to_move,
}
"""Format number → the step to the next one."""


def brought_up(data: dict[str, Any]) -> dict[str, Any]:
    """A design's plain data in this format; one without a number is of this format. NewerFormatError for a newer one,
    ValueError for a number that is none."""
    number = data.get("format", FORMAT_VERSION)
    if isinstance(number, bool) or not isinstance(number, int) or number < 1:
        raise ValueError(f"the format is a whole number from 1, not {str(number)[:40]}")
    if number > FORMAT_VERSION:
        raise NewerFormatError(
            f"it is of format {str(number)[:20]}, made by a newer Umber Trunk; update the program to read it"
        )
    for step in range(number, FORMAT_VERSION):
        data = STEPS[step](data)
    return {**data, "format": FORMAT_VERSION}
