"""A table of ends down and ends across: each filled cell is a wire, or says how many there are.

From the left to the top:

    ↓ →        lamp   horn
    battery           2.5           battery → horn, 2.5 mm²
    horn       BK                   horn → lamp, black
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from umber_trunk.core.sentences import Message
from umber_trunk.store.listing.colours import is_colour
from umber_trunk.store.listing.doubts import Questions, doubt, wrong
from umber_trunk.store.listing.lines import Line
from umber_trunk.store.listing.specs import is_spec
from umber_trunk.store.listing.titles import Layout, meaning_of
from umber_trunk.store.listing.words import TOTALS, folded
from umber_trunk.store.sheets import Sheet

_FIGURE = re.compile(r"\d+(?:[.,]\d+)?")
_NUMBER = re.compile(r"[A-Za-z]{0,4}[-_ .]?\d+\w{0,4}")
_TICK = re.compile(r"[xX✓✔•●]|yes|ja|oui")
MOST_ALIKE = 60
"""Wires between two ends that a figure may stand for."""
_TOTAL = re.compile(rf"{TOTALS}\b")


_CORNER = re.compile(r"(?:from|von|de|da|van|od|z|fran)\W+(?:to|nach|a|vers|para|naar|do|till)|[↓→\\/|x]+", re.I)
_INSIDE = re.compile(r"[xX✓•]|\d+(?:[.,]\d+)?|[A-Z]{1,3}\d+|-")


def matrix_layout(grid: Sequence[Sequence[str]], rows: Sequence[int], asked: Questions) -> Layout | None:
    """A table of ends down and ends across, with what joins them where they meet; None where none of these rows heads
    one. Where its corner doesn't say so it is asked."""
    for row in rows:
        if row + 2 > len(grid) or len(grid[row]) < 3:
            continue
        corner = bool(grid[row][0]) and bool(_CORNER.fullmatch(folded(grid[row][0])))
        if not _may_be(grid, row, corner):
            continue
        if corner or _asked_whether(grid, row, asked):
            asked.note("matrix")
            return Layout({"from": 0}, row + 1, tuple(grid[row]), matrix=True)
    return None


def _may_be(grid: Sequence[Sequence[str]], row: int, corner: bool) -> bool:
    """Whether names stand across and down, each once, and inside mostly what wires are told by; where the corner says
    nothing, it mustn't be as full as a list is."""
    across = [cell for cell in grid[row][1:] if cell]
    down = [line[0] for line in grid[row + 1 :] if line and line[0]]
    inside = [cell for line in grid[row + 1 :] for cell in line[1:] if cell]
    named_once = len(set(across)) == len(across) and len(set(down)) == len(down)
    if len(across) < 2 or len(down) < 2 or not named_once or not inside or any(meaning_of(cell) for cell in across):
        return False
    fitting = sum(bool(is_spec(cell) or _INSIDE.fullmatch(cell)) for cell in inside) / len(inside)
    return corner or (fitting >= 0.8 and len(inside) <= 0.8 * len(across) * len(down))


def _asked_whether(grid: Sequence[Sequence[str]], row: int, asked: Questions) -> bool:
    across = [cell for cell in grid[row][1:] if cell]
    down = [line[0] for line in grid[row + 1 :] if line and line[0]]
    said = asked.ask(
        doubt(
            "matrix",
            ("yes", "no"),
            "yes",
            "--answer matrix={}",
            down=down[0],
            next_down=down[1],
            across=across[0],
            next_across=across[1],
        )
    )
    return said == "yes"


Cells = dict[tuple[int, int], str]
"""(row, column) → what stands there, where anything does."""


def matrix_lines(sheet: Sheet, layout: Layout, asked: Questions) -> list[Line]:
    """The wires of a table read across."""
    across = {at: name for at, name in enumerate(layout.headers) if at and name and not _TOTAL.match(folded(name))}
    filled = _filled(sheet, layout, across)
    figures_are = _figures_are(filled, asked)
    twice = _told_twice(sheet, across, filled)
    if twice and _asked_once(twice, asked):
        filled = {place: text for place, text in filled.items() if place not in twice}
    found = []
    for (row, at), text in filled.items():
        for part in re.split(r"\s*[;&+]\s*|\s*,\s+", text) if not _FIGURE.fullmatch(text) else [text]:
            many, says, faults = _read_part(part, figures_are)
            cells = {"from": sheet.grid[row][0], "to": across[at], **says}
            where = {"from": 0, "to": at, "size": at, "wire": at, "colour": at}
            found += [Line(row, dict(cells), where, wrong=list(faults)) for _ in range(min(many, MOST_ALIKE))]
    return found


def _filled(sheet: Sheet, layout: Layout, across: dict[int, str]) -> Cells:
    """The cells in which something joins two ends, rows and columns of totals left out."""
    rows = [
        at
        for at in range(layout.first_row, len(sheet.grid))
        if sheet.grid[at] and sheet.grid[at][0] and not _TOTAL.match(folded(sheet.grid[at][0]))
    ]
    return {
        (row, at): sheet.grid[row][at]
        for row in rows
        for at in across
        if at < len(sheet.grid[row]) and sheet.grid[row][at] not in ("", "-", "–", "0")
    }


def _figures_are(filled: Cells, asked: Questions) -> str:
    """What bare figures say: "size", "count" or "number" of wires. Those with decimals are sizes; else it is asked."""
    figures = [place for place, text in filled.items() if _FIGURE.fullmatch(text)]
    if not figures or any("." in filled[place] or "," in filled[place] for place in figures):
        return "size"
    return asked.ask(
        doubt(
            "matrix-figures",
            ("size", "count", "number"),
            "count" if all(int(filled[place]) <= 3 for place in figures) else "size",
            "--answer matrix-figures={}",
            rows=sorted({row + 1 for row, _ in figures}),
            cell=filled[figures[0]],
            count=len(figures),
        )
    )


def _told_twice(sheet: Sheet, across: dict[int, str], filled: Cells) -> set[tuple[int, int]]:
    """Cells below the table's diagonal that say the same as their mirror above it."""
    rows = {sheet.grid[row][0]: row for row, _ in filled}
    columns = {name: at for at, name in across.items()}
    found = set()
    for (row, at), text in filled.items():
        mirror = rows.get(across[at], row), columns.get(sheet.grid[row][0], -1)
        if mirror[0] < row and filled.get(mirror) == text:
            found.add((row, at))
    return found


def _asked_once(twice: set[tuple[int, int]], asked: Questions) -> bool:
    """Whether what stands on both sides of the table is one wire."""
    said = asked.ask(
        doubt(
            "matrix-twice",
            ("once", "two"),
            "once",
            "--answer matrix-twice={}",
            rows=sorted({row + 1 for row, _ in twice}),
            count=len(twice),
        )
    )
    return said == "once"


def _read_part(part: str, figures_are: str) -> tuple[int, dict[str, str], list[tuple[str, Message]]]:
    """(how many wires alike, what it says of them, what is wrong with it) of one thing in a cell."""
    figure = bool(_FIGURE.fullmatch(part))
    if _TICK.fullmatch(part):
        return 1, {}, []
    if figure and figures_are == "count":
        return int(part), {}, []
    if (figure and figures_are == "size") or is_spec(part):
        return 1, {"size": part}, []
    if is_colour(part):
        return 1, {"colour": part}, []
    if _NUMBER.fullmatch(part):
        return 1, {"wire": part}, []
    return 1, {}, [("size", wrong("no-figure", text=part))]
