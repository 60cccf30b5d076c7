"""CSV, XLSX, XLS and ODS as plain grids of text in; CSV and XLSX out."""

from __future__ import annotations

import csv
import io
import re
import stat
import unicodedata
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from charset_normalizer import from_bytes
from openpyxl import Workbook, load_workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet
from python_calamine import CalamineError, CalamineWorkbook, PasswordError, SheetTypeEnum, SheetVisibleEnum

from umber_trunk.core.quantity import exact
from umber_trunk.store.project import StoreError

Cell = str | int | float | None
MOST_ROWS = 20_000
MOST_COLUMNS = 200
MOST_BYTES = 50_000_000
MOST_UNPACKED = 300_000_000
MOST_CELL = 2_000
MOST_CELLS = 4_000_000


@dataclass(frozen=True)
class Sheet:
    """One table of a file. `odd` says of cells (row, column, from 0) that aren't what they look like: dates and
    formulas without a stored result."""

    name: str
    grid: list[list[str]]
    hidden: bool = False
    odd: dict[tuple[int, int], str] = field(default_factory=dict)


@dataclass(frozen=True)
class Book:
    """A file's sheets; `delimiter` is the mark between the cells of a text table, "" for a workbook."""

    name: str
    sheets: tuple[Sheet, ...]
    delimiter: str = ""


def read_book(path: Path) -> Book:
    """All sheets as text, rows as in the file (blank ones too, so that row numbers agree); a merged block carries
    its text in all its cells. StoreError if it isn't a readable table."""
    data = _bytes(path)
    if data[:2] == b"PK" or data[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        return Book(path.name, tuple(_workbook(data, path.name)))
    text = _decoded(data, path.name)
    mark = _delimiter(text)
    return Book(path.name, (Sheet("", _csv_grid(text, mark, path.name)),), mark)


def _bytes(path: Path) -> bytes:
    """The whole of an ordinary file of bearable size."""
    try:
        kind = path.stat()
        if not stat.S_ISREG(kind.st_mode):
            raise StoreError(f"{path} is no ordinary file.")
        if kind.st_size > MOST_BYTES:
            raise StoreError(f"{path.name} is over 50 MB; that is no wire list.")
        return path.read_bytes()
    except OSError as why:
        raise StoreError(f"{path} can't be read: {why.strerror}.") from why


def _csv_grid(text: str, mark: str, name: str) -> list[list[str]]:
    grid: list[list[str]] = []
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=False):
            grid.append([_tidy(cell, name) for cell in row[:MOST_COLUMNS]])
            if len(grid) > MOST_ROWS + 1000:
                raise StoreError(f"{name} has over {MOST_ROWS} rows; split it.")
    except csv.Error as why:
        raise StoreError(f"{name} can't be read as a text table: {why}.") from why
    return _bounded(grid, name)


def _tidy(cell: str, name: str) -> str:
    tidy = cell.strip()
    if len(tidy) > MOST_CELL:
        raise StoreError(f"{name} has a cell of over {MOST_CELL} characters; that is no wire list.")
    return tidy


def _bounded(grid: list[list[str]], name: str) -> list[list[str]]:
    while grid and not any(grid[-1]):
        grid.pop()
    if len(grid) > MOST_ROWS:
        raise StoreError(f"{name} has over {MOST_ROWS} rows; split it.")
    return grid


def _decoded(data: bytes, name: str) -> str:
    for mark, coding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return data.decode(coding)
            except UnicodeDecodeError as why:
                raise StoreError(f"{name} is damaged: it isn't the {coding} it says it is.") from why
    if b"\0" in data:
        even, odd = data[:2000:2].count(0), data[1:2000:2].count(0)
        for zeros, coding in ((odd, "utf-16-le"), (even, "utf-16-be")):
            if zeros > 0.3 * min(len(data), 2000) / 2:
                try:
                    return data.decode(coding)
                except UnicodeDecodeError:
                    continue
        raise StoreError(f"{name} is not a text table.")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        pass
    if not any(0x80 <= byte < 0xA0 for byte in data):
        return data.decode("latin-1")
    best = from_bytes(data[:200_000], cp_isolation=["cp1252", "cp1250", "mac_roman", "cp850"]).best()
    try:
        return data.decode(best.encoding if best else "cp1252")
    except UnicodeDecodeError as why:
        raise StoreError(f"{name} is in an unknown text coding; save it as UTF-8.") from why


def _delimiter(text: str) -> str:
    """The separator that cuts the most lines into the same number of cells."""
    lines = [line[:5000] for line in text[:200_000].splitlines() if line.strip()][:60]
    if lines and (said := re.fullmatch(r"sep=(.)", lines[0].strip())):
        return said[1]

    def score(mark: str) -> tuple[int, int]:
        widths = [len(row) for row in csv.reader(lines, delimiter=mark)]
        usual = max(set(widths), key=widths.count) if widths else 1
        return (widths.count(usual) * (usual > 1), usual)

    try:
        return max((",", ";", "\t", "|"), key=score)
    except csv.Error:
        return ","


def _workbook(data: bytes, name: str) -> list[Sheet]:
    if data[:2] == b"PK":
        _refuse_bomb(data, name)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        sheets = []
        for meta in book.sheets_metadata:
            if meta.typ is not SheetTypeEnum.WorkSheet:
                continue
            page = book.get_sheet_by_name(meta.name)
            if page.total_height * page.total_width > MOST_CELLS:
                raise StoreError(f"{name}, sheet “{meta.name}”, claims over {MOST_CELLS} cells; that is no wire list.")
            rows = page.to_python(skip_empty_area=False, nrows=MOST_ROWS + 1)
            grid, odd = [], {}
            for at, row in enumerate(rows):
                grid.append([_tidy(_text(value), name) for value in row[:MOST_COLUMNS]])
                for column, value in enumerate(row[:MOST_COLUMNS]):
                    if isinstance(value, date | datetime | time | timedelta):
                        odd[at, column] = (
                            "is a date to the spreadsheet; if it meant a pin or a size, make it text there"
                        )
            _spread_merged(grid, page.merged_cell_ranges or [])
            sheets.append(Sheet(meta.name, _bounded(grid, name), meta.visible is not SheetVisibleEnum.Visible, odd))
    except PasswordError as why:
        raise StoreError(f"{name} is locked with a password; save it without one.") from why
    except StoreError:
        raise
    except (CalamineError, zipfile.BadZipFile, ValueError, OSError) as why:
        raise StoreError(f"{name} can't be read as a workbook: {why}.") from why
    except BaseException as why:
        if type(why).__name__ != "PanicException":
            raise
        raise StoreError(f"{name} is not a sound workbook.") from why
    if not sheets:
        raise StoreError(f"{name} has no sheet.")
    if data[:2] == b"PK":
        _mark_formulas(data, sheets)
    return sheets


def _refuse_bomb(data: bytes, name: str) -> None:
    """A workbook that unpacks to more than any list needs, or says it has cells beyond all use."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as pack:
            if sum(part.file_size for part in pack.infolist()) > MOST_UNPACKED:
                raise StoreError(f"{name} unpacks to over {MOST_UNPACKED // 1_000_000} MB; that is no wire list.")
            names = pack.namelist()
            if not any(part.startswith("xl/workbook") or part == "content.xml" for part in names):
                raise StoreError(f"{name} is an archive, not a workbook.")
            for part in names:
                if part.startswith("xl/worksheets/") and part.endswith(".xml"):
                    places = re.findall(rb'<c r="([A-Z]+)(\d+)"', pack.read(part))
                    if places and max(int(row) for _, row in places) > MOST_ROWS:
                        raise StoreError(f"{name} has over {MOST_ROWS} rows; split it.")
                    if any(len(column) > 2 for column, _ in places):
                        raise StoreError(f"{name} has cells beyond column ZZ; that is no wire list.")
    except (zipfile.BadZipFile, OSError, ValueError, EOFError, RuntimeError, NotImplementedError) as why:
        raise StoreError(f"{name} can't be read as a workbook: {why}.") from why


def _spread_merged(grid: list[list[str]], ranges: Sequence[tuple[tuple[int, int], tuple[int, int]]]) -> None:
    """A merged block's text into all its cells, within reason."""
    for (top, left), (bottom, right) in ranges:
        if top >= len(grid) or left >= len(grid[top]) or (bottom - top) * (right - left + 1) > 50_000:
            continue
        for row in grid[top : bottom + 1]:
            for at in range(left, min(right + 1, len(row))):
                row[at] = row[at] or grid[top][left]


def _mark_formulas(data: bytes, sheets: list[Sheet]) -> None:
    """Finds formulas that have no stored result, which a reader of values takes for blanks."""
    with zipfile.ZipFile(io.BytesIO(data)) as pack:
        if not any(
            b"<f" in pack.read(part) for part in pack.namelist() if part.startswith("xl/worksheets/") and part.endswith(".xml")
        ):  # fmt: skip
            return
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=False)
    except Exception as why:
        raise StoreError(f"The workbook's formulas can't be looked at ({type(why).__name__}).") from why
    for sheet in sheets:
        for at, row in enumerate(book[sheet.name].iter_rows(max_row=len(sheet.grid), max_col=MOST_COLUMNS)):
            for column, cell in enumerate(row):
                place = (at, column)
                known = sheet.grid[at][place[1]] if at < len(sheet.grid) and place[1] < len(sheet.grid[at]) else ""
                if cell.data_type == "f" and not known:
                    sheet.odd[place] = (
                        "is a formula without a stored result; open and save the list in a spreadsheet first"
                    )


def _text(value: Any) -> str:
    """A cell as text that reads back as the same number."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return str(int(value)) if float(value).is_integer() and abs(value) < 1e15 else exact(float(value))
    if isinstance(value, datetime | date | time):
        return value.isoformat()
    return str(value).strip()


def safe_cell(value: Cell) -> Cell:
    """Text that a spreadsheet would take for a formula gets a leading apostrophe in a text table; numbers, and signs
    that stand alone, stay as they are."""
    if (
        isinstance(value, str)
        and len(value) > 1
        and unicodedata.normalize("NFKC", value[:1]) in ("=", "+", "-", "@", "\t", "\r")
    ):
        return "'" + value
    return value


def csv_text(rows: Sequence[Sequence[Cell]]) -> str:
    """The rows as CSV with a comma and a point, formulas neutralised."""
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerows(
        [["" if (safe := safe_cell(cell)) is None else safe for cell in row] for row in rows]
    )
    return out.getvalue()


@dataclass(frozen=True)
class Page:
    """How sheets are printed: "a4" or "letter", landscape or not."""

    paper: str = "a4"
    landscape: bool = True


def xlsx_bytes(sheets: Sequence[tuple[str, Sequence[Sequence[Cell]]]], page: Page | None = None) -> bytes:
    """A workbook of named sheets: first row bold, frozen and repeated on every printed page, columns as wide as their
    text, paper set. Text stays text, "0001" and "=1" too: no cell is a formula."""
    page = page or Page()
    book = Workbook()
    book.remove(book.active)
    for title, rows in sheets:
        sheet = book.create_sheet(title[:31])
        for at, row in enumerate(rows, 1):
            for column, value in enumerate(row, 1):
                cell = sheet.cell(at, column)
                if isinstance(value, str):
                    cell.value = ILLEGAL_CHARACTERS_RE.sub("�", value)
                    cell.data_type = "s"
                    cell.number_format = "@"
                elif value is not None:
                    cell.value = value
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        sheet.freeze_panes = "A2"
        _print_set_up(sheet, page, max((len(row) for row in rows), default=1))
        for column in sheet.columns:
            width = max(len(str(cell.value or "")) for cell in column)
            sheet.column_dimensions[column[0].column_letter].width = min(max(width + 2, 8), 60)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _print_set_up(sheet: Worksheet, page: Page, columns: int) -> None:
    sheet.print_title_rows = "1:1"
    sheet.page_setup.paperSize = sheet.PAPERSIZE_A4 if page.paper == "a4" else sheet.PAPERSIZE_LETTER
    sheet.page_setup.orientation = "landscape" if page.landscape else "portrait"
    sheet.page_setup.fitToWidth, sheet.page_setup.fitToHeight = 1, 0
    sheet.sheet_properties.pageSetUpPr.fitToPage = True
    sheet.print_area = f"A1:{get_column_letter(columns)}{max(sheet.max_row, 1)}"
    sheet.oddFooter.center.text = "&P / &N"
