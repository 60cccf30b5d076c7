"""A measured pin list: what somebody found in each cavity of a connector, as a text table or workbook.

Columns by their heads: the cavity (`label`, `pin`, `cavity`, `contact`), what it is for (`function`, `what`, `signal`,
`name`), the volts measured to the common pole (`volts`, `v`, `measured`).
"""

from __future__ import annotations

from pathlib import Path

from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.measures import VOLTAGE
from umber_trunk.core.quantity import Habit, read
from umber_trunk.core.row_fault import RowFault, faults_told, row_fault
from umber_trunk.store.files import StoreError
from umber_trunk.store.sheets import read_book

HEADS = {
    "label": ("label", "pin", "cavity", "contact", "terminal"),
    "function": ("function", "what", "signal", "name", "for", "role"),
    "volts": ("volts", "volt", "v", "measured", "voltage", "u"),
}  # fmt: skip


def read_pins(path: Path) -> list[tuple[str, str, float | None]]:
    """(label, function, volts) row by row. StoreError with every fault by row and column."""
    grid = next((sheet.grid for sheet in read_book(path).sheets if sheet.grid), [])
    heads = [cell.lower().strip() for cell in grid[0]] if grid else []
    at = {field: next((n for n, head in enumerate(heads) if head in words), None) for field, words in HEADS.items()}
    label_at = at["label"]
    if label_at is None or (at["function"] is None and at["volts"] is None):
        raise StoreError.of("store.pin-list-columns", path=path.name)
    found: list[tuple[str, str, float | None]] = []
    faults: list[RowFault] = []
    for number, row in enumerate(grid[1:], 2):

        def cell(field: str, row: list[str] = row) -> str:
            n = at[field]
            return row[n].strip() if n is not None and n < len(row) else ""

        label, volts = cell("label"), None
        if not any(row):
            continue
        if not label:
            faults.append(row_fault(number, heads[label_at], "no-cavity"))
        elif any(label == known for known, _, _ in found):
            faults.append(row_fault(number, heads[label_at], "twice", text=clipped(label)))
        if said := cell("volts"):
            try:
                volts = read(said, (VOLTAGE,), "V", Habit("point")).value
            except InputError as why:
                faults.append(RowFault(number, heads[at["volts"] or 0], why.message))
        found.append((label, cell("function"), volts))
    if faults:
        raise StoreError.of("store.faults-in-list", path=path.name, **faults_told(faults))
    return found
