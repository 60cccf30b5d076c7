"""A layout amended: by what a person named, a row of units, lists side by side, two titles for one meaning."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

from umber_trunk.store.listing.doubts import Questions, doubt, named
from umber_trunk.store.listing.titles import (
    UNIT_WORD,
    Layout,
    column_index,
    column_letter,
    meaning_of,
    plain_title,
    unit_of,
)
from umber_trunk.store.listing.words import field_said


def with_given(layout: Layout, given: Mapping[str, int]) -> Layout:
    """The layout with the columns a person named; a column said to be something is nothing else."""
    if not given:
        return layout
    taken = set(given.values())
    columns = {name: at for name, at in layout.columns.items() if name not in given and at not in taken}
    columns |= {name: at for name, at in given.items() if at >= 0}
    notes = {}
    for name in ("size", "length"):
        at = columns.get(name, -1)
        note = unit_of(name, layout.headers[at]) if 0 <= at < len(layout.headers) else ""
        if note:
            notes[name] = note
    evidence = {**layout.evidence, **dict.fromkeys(given, "as you said")}
    by_pin = layout.by_pin and "to" not in columns and "both" not in columns
    return replace(layout, columns=columns, notes=notes, evidence=evidence, by_pin=by_pin)


def with_units_row(layout: Layout, grid: Sequence[Sequence[str]]) -> Layout:
    """A row under the header that holds nothing but units gives them to its columns."""
    row = grid[layout.first_row] if layout.first_row < len(grid) else []
    cells = [cell for cell in row if cell]
    if not cells or not all(UNIT_WORD.fullmatch(cell) for cell in cells):
        return layout
    notes = dict(layout.notes)
    for name in ("size", "length"):
        at = layout.columns.get(name, -1)
        said = re.sub(r"[\[\]().\s]", "", row[at]).lower() if 0 <= at < len(row) else ""
        if said and name not in notes and unit_of(name, f"({said})"):
            notes[name] = said
    return replace(layout, notes=notes, units_row=layout.first_row)


def side_by_side(layout: Layout, asked: Questions) -> Layout:
    """Lists that stand side by side: the titles of the first repeat, in their order."""
    titles = [plain_title(title) for title in layout.headers]
    places = sorted(set(layout.columns.values()))
    if len(places) < 2 or not {"from", "to"} <= set(layout.columns):
        return layout
    first = [titles[at] for at in places if at < len(titles)]
    blocks = []
    for shift in range(places[-1] - places[0] + 1, len(titles) - places[0]):
        if [titles[at + shift] for at in places if at + shift < len(titles)] == first and all(first):
            blocks.append({name: at + shift for name, at in layout.columns.items()})
    if blocks:
        asked.note("side-by-side", count=len(blocks) + 1)
    return replace(layout, blocks=tuple(blocks))


def asked_about(layout: Layout, asked: Questions, sheet: str) -> Layout:
    """Two columns with titles for one meaning: which one counts is asked."""
    columns = dict(layout.columns)
    for name, places in _same_meaning(layout).items():
        if len(places) < 2 or name in asked.answers.columns or columns.get(name) not in places:
            continue
        if name == "size" and _two_series([unit_of(name, layout.headers[at]) for at in places]):
            columns["size-also"] = next(at for at in places if at != columns["size"])
            asked.note("two-sizes", one=column_letter(places[0]), other=column_letter(places[1]))
            continue
        options = tuple(named(column_letter(at), f"{column_letter(at)} “{layout.headers[at]}”") for at in places)
        said = asked.ask(
            doubt(
                f"column:{name}",
                options,
                column_letter(columns[name]),
                f"--column {name}={{}}",
                columns[name],
                field=field_said(name),
                count=len(places),
                sheet=sheet,
            )
        )
        columns[name] = column_index(said) or 0
    notes = dict(layout.notes)
    for name in ("size", "length"):
        if name in columns and columns[name] != layout.columns.get(name):
            notes[name] = unit_of(name, layout.headers[columns[name]])
    return replace(layout, columns=columns, notes=notes)


def _same_meaning(layout: Layout) -> dict[str, list[int]]:
    """Meaning → the columns whose titles say it, but for those that have been taken for something else."""
    same = defaultdict(list)
    for at, label in enumerate(layout.headers):
        found = meaning_of(label) if label else None
        otherwise = any(place == at and name != found for name, place in layout.columns.items())
        if otherwise or any(at in block.values() for block in layout.blocks):
            continue
        if found in ("from", "to", "size", "colour", "length", "wire"):
            same[found].append(at)
    return same


def _two_series(units: Sequence[str]) -> bool:
    """Whether two columns of sizes say one the gauge, one the area."""
    return len(units) == 2 and all(units) and len({unit.startswith(("awg", "ga")) for unit in units}) == 2
