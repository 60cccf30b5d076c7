"""CSV and XLSX as plain grids of text, in and out."""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import ParseError

from openpyxl import Workbook, load_workbook
from openpyxl.styles import Font
from openpyxl.utils.exceptions import InvalidFileException

from umber_trunk.store.project import StoreError

Cell = str | int | float | None
MOST_ROWS = 20_000
MOST_COLUMNS = 200
MOST_BYTES = 50_000_000


def read_grid(path: Path) -> list[list[str]]:
    """All cells as text, rows as in the file (blank ones too, so that row numbers agree); merged cells
    carry their text in the first cell only. StoreError if it isn't a readable CSV or XLSX."""
    try:
        data = path.read_bytes()
    except OSError as why:
        raise StoreError(f"{path} can't be read: {why.strerror}.") from why
    if len(data) > MOST_BYTES:
        raise StoreError(f"{path.name} is over 50 MB; that is no wire list.")
    grid = _xlsx_grid(data, path.name) if data[:2] == b"PK" else _csv_grid(data, path.name)
    if len(grid) > MOST_ROWS:
        raise StoreError(f"{path.name} has over {MOST_ROWS} rows; split it.")
    return [row[:MOST_COLUMNS] for row in grid]


def _csv_grid(data: bytes, name: str) -> list[list[str]]:
    text = _decoded(data, name)
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(text), strict=False))
    except csv.Error as why:
        raise StoreError(f"{name} can't be read as CSV: {why}.") from why
    return [[cell.strip() for cell in row] for row in rows]


def _decoded(data: bytes, name: str) -> str:
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        codings: tuple[str, ...] = ("utf-16",)
    else:
        codings = ("utf-8-sig", "cp1252")
    if b"\0" in data and codings[0] != "utf-16":
        raise StoreError(f"{name} is not a text table.")
    for coding in codings:
        try:
            return data.decode(coding)
        except UnicodeDecodeError:
            continue
    raise StoreError(f"{name} is in an unknown text coding; save it as UTF-8.")


def _delimiter(text: str) -> str:
    """The separator that cuts the most lines into the same number of cells."""
    lines = [line for line in text.splitlines() if line.strip()][:60]

    def score(mark: str) -> tuple[int, int]:
        widths = [len(row) for row in csv.reader(lines, delimiter=mark)]
        usual = max(set(widths), key=widths.count) if widths else 1
        return (widths.count(usual) * (usual > 1), usual)

    return max((",", ";", "\t", "|"), key=score)


def _xlsx_grid(data: bytes, name: str) -> list[list[str]]:
    try:
        book = load_workbook(io.BytesIO(data), read_only=False, data_only=True)
    except (
        InvalidFileException,
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        OSError,
        ParseError,
        TypeError,
    ) as why:
        raise StoreError(f"{name} can't be read as XLSX: {why}.") from why
    except Exception as why:
        raise StoreError(f"{name} is not a sound workbook ({type(why).__name__}).") from why
    sheets = [sheet for sheet in book.worksheets if sheet.sheet_state == "visible"] or book.worksheets
    if not sheets:
        raise StoreError(f"{name} has no sheet.")
    sheet = max(sheets, key=lambda one: (one.max_row or 0) * (one.max_column or 0))
    if (sheet.max_row or 0) > MOST_ROWS:
        raise StoreError(f"{name} has over {MOST_ROWS} rows; split it.")
    return [[_text(value) for value in row[:MOST_COLUMNS]] for row in sheet.iter_rows(values_only=True)]


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value).strip()


def safe_cell(value: Cell) -> Cell:
    """Text that a spreadsheet would take for a formula gets a leading apostrophe; numbers stay numbers."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + value
    return value


def csv_text(rows: Sequence[Sequence[Cell]]) -> str:
    """The rows as CSV with a comma and a point, formulas neutralised."""
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerows(
        [["" if (safe := safe_cell(cell)) is None else safe for cell in row] for row in rows]
    )
    return out.getvalue()


def xlsx_bytes(sheets: Sequence[tuple[str, Sequence[Sequence[Cell]]]]) -> bytes:
    """A workbook of named sheets; first row bold and frozen, columns as wide as their text."""
    book = Workbook()
    book.remove(book.active)
    for title, rows in sheets:
        sheet = book.create_sheet(title[:31])
        for row in rows:
            sheet.append([safe_cell(cell) for cell in row])
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A2"
        for column in sheet.columns:
            width = max(len(str(cell.value or "")) for cell in column)
            sheet.column_dimensions[column[0].column_letter].width = min(max(width + 2, 8), 48)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
