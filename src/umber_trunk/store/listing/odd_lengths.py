"""Lengths of a list out of all proportion to the others: another unit, or a slip."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from umber_trunk.core.errors import InputError
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.cells import length_cell
from umber_trunk.store.listing.doubts import Questions, doubt

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
    cells = [Message.of("list.odd.cell", cell=text, row=row) for _, row, text in odd[:4]]
    return asked.ask(
        doubt(
            "length-odd",
            [*(["shift"] if fits else []), "fault", "as"],
            "shift" if fits else "fault",
            "--answer length-odd={}",
            column,
            [row for _, row, _ in odd],
            shown=joined("any.list", cells),
            count=len(odd),
            metres=_told([one[0] for one in odd]),
            shifted=_told([one[0] * factor for one in odd]),
            others=len(usual),
            alone=max(usual) <= min(usual),
            least=min(usual),
            most=max(usual),
        )
    )


def _told(metres: Sequence[float]) -> Message | str:
    """“1200 and 9900”: the first of them that differ."""
    said = list(dict.fromkeys(f"{one:g}" for one in metres))
    return f"{', '.join(said[:MOST_TOLD])} …" if len(said) > MOST_TOLD else joined("any.and", said)
