"""Where a list's header is and what its columns hold, each with its evidence."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from umber_trunk.store.listing.doubts import Doubt, Option, Questions
from umber_trunk.store.listing.words import FIELDS, LENGTH_WORDS, SIZE_WORDS, TITLES

HEADER_WITHIN = 40
_NOTE = re.compile(
    rf"[\[(]\s*([^\])]*?)\s*[\])]|\bin ({LENGTH_WORDS}|{SIZE_WORDS})\b|[/,;]\s*({LENGTH_WORDS}|{SIZE_WORDS})\s*$|"
    rf"(?<=\w)\s({LENGTH_WORDS}|{SIZE_WORDS})$",
    re.I,
)
_UNIT_WORD = re.compile(rf"[\[(]?\s*(?:{LENGTH_WORDS}|{SIZE_WORDS}|a|v|kg|g|€|\$|pcs|stk|-|–)\.?\s*[\])]?", re.I)


@dataclass(frozen=True)
class Layout:
    """Which column of a grid holds what. first_row is the index of the first row below the header; `notes` the unit
    each header or units row gives a field, `evidence` why a column was taken."""

    columns: Mapping[str, int]
    first_row: int
    headers: tuple[str, ...]
    notes: Mapping[str, str] = field(default_factory=dict)
    evidence: Mapping[str, str] = field(default_factory=dict)
    units_row: int | None = None

    def unused(self, grid: Sequence[Sequence[str]]) -> list[int]:
        """Columns with something in them that nothing takes."""
        open_ = set(range(max((len(row) for row in grid[self.first_row :]), default=0))) - set(self.columns.values())
        found: set[int] = set()
        for row in grid[self.first_row :]:
            if not open_:
                break
            filled = {at for at in open_ if at < len(row) and row[at]}
            found |= filled
            open_ -= filled
        return sorted(found)


def column_letter(index: int) -> str:
    """0 → A, 25 → Z, 26 → AA."""
    letters = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def column_index(letters: str) -> int | None:
    """A → 0, AA → 26; None for anything else."""
    if not re.fullmatch(r"[A-Za-z]{1,2}", letters):
        return None
    total = 0
    for letter in letters.upper():
        total = 26 * total + ord(letter) - 64
    return total - 1


def _plain(label: str) -> str:
    return " ".join(re.sub(r"[_.:\[\]()]", " ", label.lower()).split())


@lru_cache(maxsize=4096)
def meaning_of(label: str) -> str | None:
    """The field a title names, or "pin" for a pin column that doesn't say whose; None for an unknown title."""
    tidy = " ".join(label[:200].replace("_", " ").split())
    whole = _plain(tidy)
    without = _plain(_NOTE.sub(" ", tidy))
    for text in (whole, without, re.sub(rf"^(?:{SIZE_WORDS}) |[ ,/]+(?:{SIZE_WORDS}|{LENGTH_WORDS})$", "", whole)):
        found = next((name for name, words in TITLES.items() if text and re.fullmatch(words, text)), None)
        if found:
            return found
    return None


def unit_of(name: str, label: str) -> str:
    """The unit a title gives a field, "" for none or one that isn't the field's."""
    note = unit_note(label)
    return note if re.fullmatch(LENGTH_WORDS if name == "length" else SIZE_WORDS, note, re.I) else ""


@lru_cache(maxsize=4096)
def unit_note(label: str) -> str:
    """The unit a title gives, "" for none."""
    tidy = " ".join(label[:200].replace("_", " ").split())
    for match in _NOTE.finditer(tidy):
        said = next((part for part in match.groups() if part), "").strip(" .").lower()
        if re.fullmatch(rf"{LENGTH_WORDS}|{SIZE_WORDS}", said):
            return said
    lone = re.search(r"\b(awg|gauge|gage|mm2|mm²|kcmil)(?!\w)", tidy, re.I)
    return lone[1].lower() if lone else ""


def find_layout(grid: Sequence[Sequence[str]], header_row: int | None, asked: Questions, sheet: str) -> Layout | None:
    """The likeliest header and its columns; None when no row names where wires go from and to. `header_row` counts
    from 1 and 0 says there is none."""
    given = asked.answers.columns
    if header_row == 0:
        width = max((len(row) for row in grid), default=0)
        return _with_given(Layout({}, 0, ("",) * width), given)
    rows = range(min(HEADER_WITHIN, len(grid))) if header_row is None else range(header_row - 1, header_row)
    best: tuple[int, Layout] | None = None
    for row in rows:
        if row >= len(grid):
            continue
        for labels in _labels(grid, row):
            layout, score = _assigned(labels, row)
            if best is None or score > best[0]:
                best = (score, layout)
    if best is None:
        return None
    layout = _with_given(best[1], given)
    if not {"from", "to"} <= set(layout.columns):
        return None if header_row is None and not given else layout
    layout = _with_units_row(layout, grid)
    return _asked_about(layout, asked, sheet)


def _labels(grid: Sequence[Sequence[str]], row: int) -> list[list[str]]:
    """A row's labels alone, and with a header row above spread over them."""
    alone = list(grid[row])
    if row == 0:
        return [alone]
    above, last = [], ""
    for at in range(len(alone)):
        last = (grid[row - 1][at] if at < len(grid[row - 1]) else "") or last
        above.append(last)
    spread = [f"{a} {b}".strip() if a != b else b for a, b in zip(above, alone, strict=True)]
    return [alone, [_better(a, s) for a, s in zip(alone, spread, strict=True)]]


def _better(alone: str, spread: str) -> str:
    """A title with the one above it, where by itself it says nothing or only that it is a pin."""
    known = meaning_of(alone) if alone else None
    return spread if known in (None, "pin") and meaning_of(spread) not in (None, "pin") else alone


def _assigned(labels: Sequence[str], row: int) -> tuple[Layout, int]:
    columns: dict[str, int] = {}
    extra: dict[str, list[int]] = defaultdict(list)
    evidence: dict[str, str] = {}
    loose: list[int] = []
    for at, label in enumerate(labels):
        found = meaning_of(label) if label else None
        if found == "pin":
            loose.append(at)
        elif found in ("description", "remark"):
            extra[found].append(at)
        elif found and found not in columns:
            columns[found] = at
            evidence[found] = f"titled “{label}”"
        elif found:
            extra[found].append(at)
    for at in loose:
        owner = _owner(at, columns)
        if owner is None and re.fullmatch(TITLES["wire"], _plain(labels[at])):
            columns["wire"], evidence["wire"] = at, f"titled “{labels[at]}”"
        if owner:
            columns[owner] = at
            evidence[owner] = f"titled “{labels[at]}”, beside “{labels[columns[owner.removesuffix('-pin')]]}”"
    if "name" not in columns and extra["description"]:
        columns["name"] = extra["description"][0]
        evidence["name"] = f"titled “{labels[extra['description'][0]]}”"
    notes = {name: unit_of(name, labels[at]) for name, at in columns.items() if name in ("size", "length")}
    score = len(columns) + 3 * ("from" in columns and "to" in columns)
    return Layout(columns, row + 1, tuple(labels), {k: v for k, v in notes.items() if v}, evidence), score


def _owner(at: int, columns: Mapping[str, int]) -> str | None:
    """Whose pin a column titled just “Pin” gives: the end before it, else the end right after it."""
    ends = {columns[name]: f"{name}-pin" for name in ("from", "to") if name in columns}
    before = [place for place in ends if place < at and ends[place] not in columns]
    if before:
        return ends[max(before)]
    after = [place for place in ends if place == at + 1 and ends[place] not in columns]
    return ends[after[0]] if after else None


def _with_given(layout: Layout, given: Mapping[str, int]) -> Layout:
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
    return Layout(columns, layout.first_row, layout.headers, notes, evidence)


def _with_units_row(layout: Layout, grid: Sequence[Sequence[str]]) -> Layout:
    """A row under the header that holds nothing but units gives them to its columns."""
    row = grid[layout.first_row] if layout.first_row < len(grid) else []
    cells = [cell for cell in row if cell]
    if not cells or not all(_UNIT_WORD.fullmatch(cell) for cell in cells):
        return layout
    notes = dict(layout.notes)
    for name in ("size", "length"):
        at = layout.columns.get(name, -1)
        said = re.sub(r"[\[\]().\s]", "", row[at]).lower() if 0 <= at < len(row) else ""
        if said and name not in notes and unit_of(name, f"({said})"):
            notes[name] = said
    return Layout(
        layout.columns, layout.first_row, layout.headers, notes, layout.evidence, units_row=layout.first_row
    )  # fmt: skip


def _asked_about(layout: Layout, asked: Questions, sheet: str) -> Layout:
    """Two columns with titles for one meaning: which one counts is asked."""
    columns, same = dict(layout.columns), defaultdict(list)
    for at, label in enumerate(layout.headers):
        found = meaning_of(label) if label else None
        if found in ("from", "to", "size", "colour", "length", "wire"):
            same[found].append(at)
    for name, places in same.items():
        if len(places) < 2 or name in asked.answers.columns or columns.get(name) not in places:
            continue
        options = tuple(Option(column_letter(at), f"{column_letter(at)} “{layout.headers[at]}”") for at in places)
        said = asked.ask(
            Doubt(
                f"column:{name}", f"Which column is the {FIELDS[name]}?", f"{len(places)} titles say so{f' on “{sheet}”' if sheet else ''}.",
                options, column_letter(columns[name]), f"--column {name}={{}}", columns[name],
            )
        )  # fmt: skip
        columns[name] = column_index(said) or 0
    notes = dict(layout.notes)
    for name in ("size", "length"):
        if name in columns and columns[name] != layout.columns.get(name):
            notes[name] = unit_of(name, layout.headers[columns[name]])
    return Layout(columns, layout.first_row, layout.headers, notes, layout.evidence, layout.units_row)
