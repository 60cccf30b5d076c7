"""The shop's stock as a table: coil, size, metal, colour, length_m; every fault is told with its row and column."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from pathlib import Path

from umber_trunk.core.catalog.conductors import area_of, metals
from umber_trunk.core.catalog.parts import CablePart
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.errors import InputError, clipped
from umber_trunk.core.kept_words import MOST_NAME
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.kit.stock import read_size
from umber_trunk.core.quantity import Habit, read_number
from umber_trunk.core.row_fault import RowFault, faults_told, row_fault
from umber_trunk.core.units import parse_length_m
from umber_trunk.store.copies import copies_folder
from umber_trunk.store.files import StoreError, put_whole
from umber_trunk.store.sheets import Cell, read_book, table_bytes
from umber_trunk.store.stock import Held

COLUMNS = ("coil", "size", "metal", "colour", "length_m")
MOST_COILS = 20_000
MOST_COIL_M = 10_000.0


def read_stock(path: Path, shelf: Shelf | None = None, decimal: str = "") -> list[Coil]:
    """The coils of a CSV, XLSX, XLS or ODS file. StoreError with every fault in it, row and column: nothing is taken
    over then."""
    book = read_book(path)
    grid = book.sheets[0].grid if book.sheets else []
    heads = [cell.strip().lower().replace(" ", "_") for cell in grid[0]] if grid else []
    missing = [name for name in ("coil", "size", "length_m") if name not in heads]
    twice = [name for name in COLUMNS if heads.count(name) > 1]
    if missing or twice:
        raise StoreError.of(
            "store.first-row-columns",
            path=path.name,
            missing=", ".join(missing),
            twice=", ".join(twice),
            columns=",".join(COLUMNS),
        )
    coils, faults = list[Coil](), list[RowFault]()
    seen: set[str] = set()
    for number, row in enumerate(grid[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        cells = {
            name: row[heads.index(name)].strip() if name in heads and heads.index(name) < len(row) else ""
            for name in COLUMNS
        }
        wrong = _faults(number, cells, seen, shelf, decimal)
        faults += wrong
        seen.add(cells["coil"])
        if not wrong:
            coils.append(
                Coil(
                    cells["coil"],
                    read_size(cells["size"]),
                    _length(cells["length_m"], decimal),
                    cells["metal"].lower(),
                    cells["colour"],
                )
            )
    if len(coils) > MOST_COILS:
        faults.append(row_fault(MOST_COILS + 2, "", "over-coils", most=MOST_COILS))
    if faults:
        raise StoreError.of("store.faults-in-list", path=path.name, **faults_told(faults))
    return coils


def read_counts(path: Path) -> dict[str, float]:
    """Parts that are there: a table of `part` (its id in the catalogue) and `count`. StoreError with every fault in
    it."""
    book = read_book(path)
    grid = book.sheets[0].grid if book.sheets else []
    heads = [cell.strip().lower() for cell in grid[0]] if grid else []
    if "part" not in heads or "count" not in heads:
        raise StoreError.of("store.first-row-part-and-count", path=path.name)
    found: dict[str, float] = {}
    faults = list[RowFault]()
    for number, row in enumerate(grid[1:], 2):
        cells = [row[heads.index(name)].strip() if heads.index(name) < len(row) else "" for name in ("part", "count")]
        if not any(cells):
            continue
        try:
            count = read_number(cells[1])
            if not cells[0] or cells[0] in found or not 0 <= count <= 1e9:
                raise InputError.of("store.each-part-once")
            found[cells[0]] = count
        except InputError as why:
            faults.append(RowFault(number, "", why.message))
    if faults:
        raise StoreError.of("store.faults-in-list", path=path.name, **faults_told(faults))
    return found


def _length(text: str, decimal: str) -> float:
    """A length in m. The list is one of the program's own, with a decimal point; only a comma is read by the shop's
    habit."""
    return parse_length_m(text, "m", Habit(decimal if "," in text else ""))


def _faults(number: int, cells: dict[str, str], seen: set[str], shelf: Shelf | None, decimal: str) -> list[RowFault]:
    """What is wrong with the coil of a row."""
    wrong = list[RowFault]()
    if not cells["coil"]:
        wrong.append(row_fault(number, "coil", "coil-without-name"))
    elif cells["coil"].lower().startswith("part "):
        wrong.append(row_fault(number, "coil", "coil-named-part"))
    elif len(cells["coil"]) > MOST_NAME:
        wrong.append(row_fault(number, "coil", "long-name", most=MOST_NAME))
    elif cells["coil"] in seen:
        wrong.append(row_fault(number, "coil", "twice", text=cells["coil"]))
    size = read_size(cells["size"])
    if area_of(size) == 0 and (shelf is None or shelf.get(size, CablePart) is None):
        wrong.append(row_fault(number, "size", "no-size", text=clipped(cells["size"])))
    if cells["metal"] and cells["metal"].lower() not in metals():
        wrong.append(row_fault(number, "metal", "no-metal", text=clipped(cells["metal"]), known=", ".join(metals())))
    try:
        length = _length(cells["length_m"], decimal)
        if not 0 < length <= MOST_COIL_M:
            wrong.append(row_fault(number, "length_m", "coil-length", most=MOST_COIL_M))
    except InputError as why:
        wrong.append(RowFault(number, "length_m", why.message))
    return wrong


def stock_rows(coils: Iterable[Coil]) -> list[list[Cell]]:
    """The table as it is read."""
    rows: list[list[Cell]] = [list(COLUMNS)]
    rows += [[one.id, one.size, one.metal, one.colour, f"{round(one.length_m, 4):.4f}"] for one in coils]
    return rows


def gone_with(held: Sequence[Held], coils: Sequence[Coil]) -> list[str]:
    """Coils with anything left on them that a list doesn't have."""
    listed = {one.id for one in coils}
    return [one.coil.id for one in held if one.coil.id not in listed and one.left_m > 0]


def keep_before(held: Sequence[Held]) -> Path:
    """Keeps the shelf as it was as a stock list among the copies, since a list is about to replace it; where."""
    folder = copies_folder() / "shelves"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as why:
        raise StoreError.of("store.cant-be-made", folder=folder, why=why.strerror) from why
    path = folder / f"stock {datetime.now():%Y-%m-%d %H-%M-%S %f}.csv"
    put_whole(path, stock_bytes([one.now for one in held], ".csv"))
    return path


def stock_bytes(coils: Sequence[Coil], ending: str) -> bytes:
    """A stock list as .csv or .xlsx; StoreError for another ending."""
    return table_bytes("stock", stock_rows(coils), ending)
