"""What stands on paper, as values: sheets of tables and figures. One renderer draws them all (`app/paper/pages`)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from umber_trunk.core.strokes import Shape

NOTE = (
    "Engineering estimates: the applicable code, class or vehicle rule and a licensed person decide. Disconnect "
    "the source first."
)
TICK = "☐"
"""A box to tick: a cell by itself, or before each piece of a cell of pieces."""


@dataclass(frozen=True)
class PaperTable:
    """One table: titles, shares of the width, the columns set to the right, rows of text. A cell with several ticks is
    a row of pieces that wraps between them."""

    titles: tuple[str, ...]
    shares: tuple[float, ...]
    right: tuple[int, ...]
    rows: tuple[tuple[str, ...], ...]
    name: str = ""


@dataclass(frozen=True)
class Drawn:
    """One drawing in mm at true scale, smaller where it wouldn't fit: shapes, or an SVG document; what is said under
    it."""

    wide_mm: float
    tall_mm: float
    shapes: tuple[Shape, ...] = ()
    svg: str = ""
    caption: str = ""


@dataclass(frozen=True)
class Figure:
    """Drawings beside and under one another, as they fit, under a title; as many `across` as asked where that isn't
    0."""

    title: str
    drawings: tuple[Drawn, ...]
    across: int = 0
    name: str = ""


@dataclass(frozen=True)
class Trunk:
    """The picture of the trunk, so tall; wires that are lit in it."""

    tall_mm: float = 80.0
    lit: tuple[str, ...] = ()
    title: str = ""
    name: str = ""


@dataclass(frozen=True)
class Contents:
    """Where each part that has a name begins."""

    title: str = "Contents"


Part = PaperTable | Figure | Trunk | Contents


@dataclass(frozen=True)
class Printed:
    """A sheet: its head, the state of the work and whether it is sound, its parts in their order, the note on every
    page; `code` is drawn beside the head, to be scanned. `of_harness`: its design's digest stands under the head."""

    title: str
    state: str
    sound: bool
    parts: tuple[Part, ...]
    note: str = NOTE
    code: str = ""
    of_harness: bool = True

    @property
    def tables(self) -> tuple[PaperTable, ...]:
        """Its tables alone."""
        return tuple(part for part in self.parts if isinstance(part, PaperTable))


def tight(text: str) -> str:
    """A figure in two series that breaks only between them."""
    return re.sub(r" (?!= |\()(?<!= )", "\u00a0", text).replace("=\u00a0", "= ")


def table_of(
    rows: Iterable[Iterable[object]], shares: tuple[float, ...], right: tuple[int, ...] = (), name: str = ""
) -> PaperTable | None:
    """Rows whose first has the titles, as a table; None where there is nothing but titles."""
    texts = [tuple("" if cell is None else str(cell) for cell in row) for row in rows]
    if len(texts) < 2:
        return None
    return PaperTable(tuple(title[:1].upper() + title[1:] for title in texts[0]), shares, right, tuple(texts[1:]), name)
