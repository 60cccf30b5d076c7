"""A shop's history of lengths as a CSV: method, planned_m, found_m, one pair a row; every fault is told with its
row."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from pydantic import ValidationError

from umber_trunk.core.harness.way import FoundLength, Method
from umber_trunk.store.files import StoreError, read_text

COLUMNS = ("method", "planned_m", "found_m")
MOST_BYTES, MOST_PAIRS = 5_000_000, 20_000


def read_history(path: Path) -> tuple[list[FoundLength], list[str]]:
    """(pairs, faults); no pair is worth anything while there is a fault. StoreError where it can't be read at all."""
    text = read_text(path, MOST_BYTES).lstrip("\ufeff")
    try:
        rows = list(csv.reader(io.StringIO(text, newline="")))
    except csv.Error as why:
        raise StoreError.of("store.cant-be-read-as-text-table", path=path.name, why=why) from why
    if not rows or [cell.strip().lower() for cell in rows[0]] != list(COLUMNS):
        return [], [f"row 1: its heading is to be {','.join(COLUMNS)}"]
    pairs, faults = [], []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(COLUMNS):
            faults.append(f"row {number}: {len(row)} cells, {len(COLUMNS)} are wanted")
            continue
        try:
            pairs.append(FoundLength.model_validate(dict(zip(COLUMNS, (cell.strip() for cell in row), strict=True))))
        except ValidationError as why:
            place = str(why.errors()[0]["loc"][0])
            known = (
                f"one of {', '.join(method.value for method in Method)}"
                if place == "method"
                else "a length in m over 0"
            )
            faults.append(f"row {number}, {place}: “{row[COLUMNS.index(place)].strip()[:40]}” is not {known}")
    if len(pairs) > MOST_PAIRS:
        faults.append(f"row {MOST_PAIRS + 2}: more than {MOST_PAIRS} pairs")
    return pairs, faults[:200]
