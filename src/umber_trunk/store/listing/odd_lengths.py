"""Lengths of a list out of all proportion to the others: another unit, or a slip."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from umber_trunk.core.errors import InputError
from umber_trunk.store.listing.cells import length_cell
from umber_trunk.store.listing.doubts import Doubt, Option, Questions

FAR = 200
"""How many times the middle of the others a length must be to be asked about: a thousand is a unit mistaken."""

MOST_TOLD = 3
"""Lengths that a question names."""


def odd_lengths(
    cells: Sequence[tuple[str, int]], unit: str, decimal: str, asked: Questions, column: int
) -> dict[tuple[int, str], float]:
    """Lengths out of all proportion to the others: (row, cell) → the factor they are to be taken by, 0 for a fault."""
    found = _metres(cells, unit, decimal)
    if len(found) < 2 or max(found)[0] < FAR * min(found)[0]:
        return {}
    middle = median(sorted(metres for metres, _, _ in found)[: -1 if max(found)[0] > 100 else None])
    odd = [one for one in found if not middle / FAR < one[0] < middle * FAR]
    usual = [one[0] for one in found if one not in odd]
    if not usual or not odd or len(odd) > 0.4 * len(found) + 1:
        return {}
    factor = 0.001 if odd[0][0] > middle else 1000.0
    said = _asked_of(odd, usual, factor, asked, column)
    taken = {"shift": factor, "fault": 0.0}.get(said)
    return {(row, text): taken for _, row, text in odd} if taken is not None else {}


def _metres(cells: Sequence[tuple[str, int]], unit: str, decimal: str) -> list[tuple[float, int, str]]:
    """(metres, row, cell) of all that can be read."""
    found: list[tuple[float, int, str]] = []
    for text, row in cells:
        try:
            metres = length_cell(text, unit, decimal)
        except InputError:
            continue
        if metres:
            found.append((metres, row, text))
    return found


def _asked_of(
    odd: Sequence[tuple[float, int, str]], usual: Sequence[float], factor: float, asked: Questions, column: int
) -> str:
    """What they are: right, a fault, or in another unit where that brings them among the others."""
    fits = all(min(usual) / 20 < one[0] * factor < max(usual) * 20 for one in odd)
    shown = ", ".join(f"“{text}” in row {row}" for _, row, text in odd[:4])
    figures = [one[0] for one in odd]
    others = f"the other is {usual[0]:g} m." if len(usual) == 1 else f"the others are {usual[0]:g} m."
    if max(usual) > min(usual):
        others = f"the others lie between {min(usual):g} and {max(usual):g} m."
    options = [Option("fault", "no: a fault in the list"), Option("as", f"yes, {_told(figures)}")]
    if fits:
        options.insert(0, Option("shift", f"no: {_told([one * factor for one in figures])}, a unit mistaken"))
    return asked.ask(
        Doubt(
            "length-odd",
            f"Is {shown} right?",
            f"{'They are' if len(odd) > 1 else 'It is'} {_told(figures)}, where {others}",
            tuple(options),
            "shift" if fits else "fault",
            "--answer length-odd={}",
            column,
            tuple(row for _, row, _ in odd),
        )
    )


def _told(metres: Sequence[float]) -> str:
    """“1200 and 9900 m”: the first of them that differ."""
    said = list(dict.fromkeys(f"{one:g}" for one in metres))
    return f"{', '.join(said[:MOST_TOLD])} … m" if len(said) > MOST_TOLD else f"{' and '.join(said)} m"
