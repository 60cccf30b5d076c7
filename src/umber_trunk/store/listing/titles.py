"""What the title of a column says, and which column of a grid holds what."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from umber_trunk.store.listing.words import LENGTH_WORDS, SIZE_WORDS, TITLES, folded

_NOTE = re.compile(
    rf"[\[(]\s*([^\])]*?)\s*[\])]|\bin ({LENGTH_WORDS}|{SIZE_WORDS})\b|[/,;]\s*({LENGTH_WORDS}|{SIZE_WORDS})\s*$|"
    rf"(?<=\w)\s({LENGTH_WORDS}|{SIZE_WORDS})$",
    re.I,
)
UNIT_WORD = re.compile(rf"[\[(]?\s*(?:{LENGTH_WORDS}|{SIZE_WORDS}|a|v|kg|g|€|\$|pcs|stk|-|–)\.?\s*[\])]?", re.I)


@dataclass(frozen=True)
class Layout:
    """Which column of a grid holds what. first_row is the index of the first row below the header; `notes` the unit
    each header or units row gives a field, `evidence` why a column was taken; `conductors` are those each row has, by
    mark, with the columns that are their own. `by_pin` where each row is a pin and `matrix` where ends stand down and
    across; `blocks` are the columns of further lists that stand beside the first."""

    columns: Mapping[str, int]
    first_row: int
    headers: tuple[str, ...]
    notes: Mapping[str, str] = field(default_factory=dict)
    evidence: Mapping[str, str] = field(default_factory=dict)
    units_row: int | None = None
    conductors: tuple[tuple[str, Mapping[str, int]], ...] = ()
    by_pin: bool = False
    matrix: bool = False
    blocks: tuple[Mapping[str, int], ...] = ()

    @property
    def whole(self) -> bool:
        """Whether it says where wires go from and to."""
        have = set(self.columns)
        return {"from", "to"} <= have or "both" in have or self.by_pin or self.matrix or {"to", "from-pin"} <= have

    def above(self, grid: Sequence[Sequence[str]]) -> list[int]:
        """Rows above the titles that are filled where wires go from and to and hold no title: they could be wires."""
        ends = [at for name, at in self.columns.items() if name in ("from", "to", "from-pin", "to-pin", "both")]
        titles = max(self.first_row - 1, 0)
        return [
            at
            for at, row in enumerate(grid[:titles])
            if ends
            and all(place < len(row) and row[place] for place in ends)
            and sum(map(bool, row)) > 2
            and not any(cell and meaning_of(cell) for cell in row)
        ]

    def unused(self, grid: Sequence[Sequence[str]]) -> list[int]:
        """Columns with something in them that nothing takes."""
        if self.matrix:
            return []
        taken = {at for _, columns in self.conductors for at in columns.values()} | set(self.columns.values())
        taken |= {at for block in self.blocks for at in block.values()}
        open_ = set(range(max((len(row) for row in grid[self.first_row :]), default=0))) - taken
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


def plain_title(label: str) -> str:
    """A title without its punctuation, folded."""
    return " ".join(re.sub(r"[_.:\[\]()]", " ", folded(label)).split())


@lru_cache(maxsize=4096)
def meaning_of(label: str) -> str | None:
    """The field a title names, or "pin" for a pin column that doesn't say whose; None for an unknown title."""
    tidy = " ".join(label[:200].replace("_", " ").split())
    whole = plain_title(tidy)
    without = plain_title(_NOTE.sub(" ", tidy))
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
    if re.fullmatch(r"feet|ft|m|cm|inches|metres|meters", tidy, re.I):
        return tidy.lower()
    lone = re.search(r"\b(awg|gauge|gage|mm2|mm²|kcmil)(?!\w)", tidy, re.I)
    return lone[1].lower() if lone else ""
