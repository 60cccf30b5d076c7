"""A shop's history of lengths as a CSV: method, planned_m, found_m, one pair a row; every fault is told with its
row."""

from __future__ import annotations

import csv
import io
from pathlib import Path

from pydantic import ValidationError

from umber_trunk.core.errors import clipped
from umber_trunk.core.harness.way import FoundLength, Method
from umber_trunk.core.row_fault import RowFault, row_fault
from umber_trunk.store.files import StoreError, read_text

COLUMNS = ("method", "planned_m", "found_m")
MOST_BYTES, MOST_PAIRS = 5_000_000, 20_000


def read_history(path: Path) -> tuple[list[FoundLength], list[RowFault]]:
    """(pairs, faults); no pair is worth anything while there is a fault. StoreError where it can't be read at all."""
    text = read_text(path, MOST_BYTES).lstrip("\ufeff")
    try:
        rows = list(csv.reader(io.StringIO(text, newline="")))
    except csv.Error as why:
        raise StoreError.of("store.cant-be-read-as-text-table", path=path.name, why=why) from why
    if not rows or [cell.strip().lower() for cell in rows[0]] != list(COLUMNS):
        return [], [row_fault(1, "", "heading", columns=",".join(COLUMNS))]
    pairs, faults = list[FoundLength](), list[RowFault]()
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(COLUMNS):
            faults.append(row_fault(number, "", "cells", count=len(row), wanted=len(COLUMNS)))
            continue
        try:
            pairs.append(FoundLength.model_validate(dict(zip(COLUMNS, (cell.strip() for cell in row), strict=True))))
        except ValidationError as why:
            place = str(why.errors()[0]["loc"][0])
            said = clipped(row[COLUMNS.index(place)])
            if place == "method":
                known = ", ".join(method.value for method in Method)
                faults.append(row_fault(number, place, "no-method", text=said, known=known))
            else:
                faults.append(row_fault(number, place, "no-length", text=said))
    if len(pairs) > MOST_PAIRS:
        faults.append(row_fault(MOST_PAIRS + 2, "", "over-pairs", most=MOST_PAIRS))
    return pairs, faults
