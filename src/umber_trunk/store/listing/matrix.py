"""A table of ends down and ends across as lines: each filled cell is a wire, or says how many there are."""

from __future__ import annotations

import re

from umber_trunk.store.listing.colours import is_colour
from umber_trunk.store.listing.doubts import Doubt, Option, Questions
from umber_trunk.store.listing.lines import Line
from umber_trunk.store.listing.specs import is_spec
from umber_trunk.store.listing.titles import Layout
from umber_trunk.store.listing.words import TOTALS, folded
from umber_trunk.store.sheets import Sheet

_FIGURE = re.compile(r"\d+(?:[.,]\d+)?")
_NUMBER = re.compile(r"[A-Za-z]{0,4}[-_ .]?\d+\w{0,4}")
_TICK = re.compile(r"[xX✓✔•●]|yes|ja|oui")
_TOTAL = re.compile(rf"{TOTALS}\b")


def matrix_lines(sheet: Sheet, layout: Layout, asked: Questions) -> list[Line]:
    """The wires of a table read across."""
    across = {at: name for at, name in enumerate(layout.headers) if at and name and not _TOTAL.match(folded(name))}
    rows = [
        at
        for at in range(layout.first_row, len(sheet.grid))
        if sheet.grid[at] and sheet.grid[at][0] and not _TOTAL.match(folded(sheet.grid[at][0]))
    ]
    filled = {
        (row, at): sheet.grid[row][at]
        for row in rows
        for at in across
        if at < len(sheet.grid[row]) and sheet.grid[row][at] not in ("", "-", "–", "0")
    }
    figures = [place for place, text in filled.items() if _FIGURE.fullmatch(text)]
    mean = "size"
    if figures and not any("." in filled[place] or "," in filled[place] for place in figures):
        mean = asked.ask(
            Doubt(
                "matrix-figures",
                f"What does “{filled[figures[0]]}” say where two ends meet?",
                f"Cells that hold a bare figure: {len(figures)}.",
                (
                    Option("size", "the size of the wire"),
                    Option("count", "how many wires there are"),
                    Option("number", "the number of the wire"),
                ),
                "count" if all(int(filled[place]) <= 3 for place in figures) else "size",
                "--answer matrix-figures={}",
                rows=tuple(sorted({row + 1 for row, _ in figures})),
            )
        )
    names = {sheet.grid[row][0]: row for row in rows}
    twice = [
        (row, at)
        for (row, at), text in filled.items()
        if across[at] in names
        and sheet.grid[row][0] in across.values()
        and names[across[at]] < row
        and any(
            filled.get((names[across[at]], place)) == text and across[place] == sheet.grid[row][0] for place in across
        )
    ]
    once = (
        bool(twice)
        and asked.ask(
            Doubt(
                "matrix-twice",
                "Is a wire that stands on both sides of the table one wire?",
                f"{len(twice)} cells say the same as their mirror.",
                (Option("once", "yes, one wire"), Option("two", "no, two wires")),
                "once",
                "--answer matrix-twice={}",
                rows=tuple(sorted({row + 1 for row, _ in twice})),
            )
        )
        == "once"
    )
    found = []
    for (row, at), text in filled.items():
        if once and (row, at) in twice:
            continue
        for part in re.split(r"\s*[;&+]\s*|\s*,\s+", text) if not _FIGURE.fullmatch(text) else [text]:
            wrong: list[tuple[str, str]] = []
            cells = {"from": sheet.grid[row][0], "to": across[at]}
            many = 1
            figure = bool(_FIGURE.fullmatch(part))
            if _TICK.fullmatch(part):
                pass
            elif figure and mean == "count":
                many = int(part)
            elif (figure and mean == "size") or is_spec(part):
                cells["size"] = part
            elif is_colour(part):
                cells["colour"] = part
            elif _NUMBER.fullmatch(part):
                cells["wire"] = part
            else:
                wrong.append(("size", f"“{part}” is no size, no colour and no wire’s number."))
            where = {"from": 0, "to": at, "size": at, "wire": at, "colour": at}
            found += [Line(row, dict(cells), where, wrong=list(wrong)) for _ in range(min(many, 60))]
    return found
