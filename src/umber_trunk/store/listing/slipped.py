"""Cells that read as another column's: a row whose cells have slipped aside, or a figure that was typed one cell off.

Wire  From   To       Size
W1    J1:1   J2:1     1.5 mm²
W2    J1:2   1.5 mm²                 the end is missing, and the size stands in its place
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from umber_trunk.core.errors import clipped
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.doubts import Questions, doubt
from umber_trunk.store.listing.lines import Line
from umber_trunk.store.listing.words import A_LENGTH, FIGURE, field_said

_SIZE = rf"(?:\d+\s*[x×]\s*)?{FIGURE}\s*(?:mm2|mm²|mm\^2|sqmm)|awg\s*(?:\d/0|\d{{1,2}})|(?:\d/0|\d{{1,2}})\s*awg"
"""Narrower than what may stand in a column of sizes (`specs`): “#12” is a pin, and “12 ga” a wire’s name."""
_ELSEWHERE = {
    name: re.compile(kind, re.IGNORECASE)
    for name, kind in {
        "wire": _SIZE,
        "from": rf"{_SIZE}|{A_LENGTH}",
        "to": rf"{_SIZE}|{A_LENGTH}",
        "from-pin": _SIZE,
        "to-pin": _SIZE,
        "colour": rf"{_SIZE}|{A_LENGTH}|\d+[.,]\d+",
    }.items()
}
"""Field → what belongs in another column. A wire may be called “12M” and a colour “1000”, of a table of colours."""
FEW = 0.35
"""Share of a column's cells up to which they are the odd ones; where more read so, that is how they are called."""

Place = tuple[int, str]


def slipped(lines: Sequence[Line], columns: Sequence[str], asked: Questions) -> frozenset[Place]:
    """(row from 0, field) of the cells that are faults, asked once."""
    found = [one for name in _ELSEWHERE if name in columns for one in _odd(lines, name)]
    if not found:
        return frozenset()
    cells = [
        Message.of("list.slipped.cell", cell=clipped(text), row=at + 1, field=field_said(name))
        for at, name, text in found
    ]
    said = asked.ask(
        doubt(
            "slipped",
            ("fault", "as"),
            "fault",
            "--answer slipped={}",
            rows=dict.fromkeys(at + 1 for at, _, _ in found),
            shown=joined("any.list", cells[:4]),
            count=len(found),
        )
    )
    return frozenset((at, name) for at, name, _ in found) if said == "fault" else frozenset()


def _odd(lines: Sequence[Line], name: str) -> Iterator[tuple[int, str, str]]:
    cells = [(line.at, name, text) for line in lines if (text := line.says(name))]
    odd = [one for one in cells if _ELSEWHERE[name].fullmatch(one[2])]
    if len(odd) <= FEW * len(cells):
        yield from odd
