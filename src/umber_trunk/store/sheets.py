"""CSV, XLSX, XLS and ODS as plain grids of text in; CSV and XLSX out."""

from __future__ import annotations

import csv
import io
import json
import re
import stat
import subprocess
import sys
import tempfile
import unicodedata
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, TYPE_CHECKING

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.row_fault import RowFault, faults_told, row_fault
from umber_trunk.core.sentences import say
from umber_trunk.core.text import pictured
from umber_trunk.store import workbook
from umber_trunk.store.files import StoreError, read_whole

if TYPE_CHECKING:
    from openpyxl.worksheet.worksheet import Worksheet

Cell = str | int | float | None
MOST_ROWS, MOST_COLUMNS = workbook.MOST_ROWS, workbook.MOST_COLUMNS
MOST_BYTES = 50_000_000
MOST_CELL = 2_000
MOST_XLSX_CELL = 32_767
SHORT_BYTES = 100_000
AT_FIRST = 60
"""Lines by which it is found what parts the cells of a text."""


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


def read_book(path: Path, wanted: Wanted = always) -> Book:
    """All sheets as text, rows as in the file (blank ones too, so that row numbers agree); a merged block carries
    its text in all its cells. StoreError if it isn't a readable table; Stopped once it isn't `wanted`."""
    data = read_whole(path, MOST_BYTES)
    if data[:2] == b"PK" or data[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        return Book(path.name, tuple(_workbook(data, path.name, wanted)))
    return text_book(_decoded(data, path.name), path.name, wanted)


def text_book(text: str, name: str, wanted: Wanted = always) -> Book:
    """A text table, by the mark that parts its cells or by the spaces that set out its columns."""
    mark, (many, wide) = delimiter(text)
    spaced = spaced_grid(text, name, more_than=many, wider_than=wide)
    if spaced:
        return Book(name, (Sheet("", spaced),))
    return Book(name, (Sheet("", csv_grid(text, mark, name, wanted)),), mark)


def is_short(path: Path) -> bool:
    """Whether reading a file is a matter of an instant: a short text table, or nothing that can be read."""
    try:
        kind = path.stat()
        if not stat.S_ISREG(kind.st_mode) or kind.st_size > SHORT_BYTES:
            return not stat.S_ISREG(kind.st_mode)
        with path.open("rb") as file:
            return file.read(2) not in (b"PK", b"\xd0\xcf")
    except (OSError, ValueError):
        return True


def csv_grid(text: str, mark: str, name: str, wanted: Wanted = always) -> list[list[str]]:
    """The cells of a text table. A cell that is one quote alone, typed for “as above”, is read as such where the table
    only comes out even so."""
    alone = re.compile(rf'(?:^|(?<=[{re.escape(mark)}]))[ ]?"[ ]?(?=[{re.escape(mark)}]|\r?$)', re.MULTILINE)
    if '"' not in text or not alone.search(text):
        return _cells(text, mark, name, wanted)
    doubled = alone.sub('""""', text)
    try:
        plain = _cells(text, mark, name, wanted)
    except StoreError:
        return _cells(doubled, mark, name, wanted)
    with suppress(StoreError):
        other = _cells(doubled, mark, name, wanted)
        if len({len(row) for row in other if any(row)}) == 1 < len({len(row) for row in plain if any(row)}):
            return other
    return plain


def _cells(text: str, mark: str, name: str, wanted: Wanted = always) -> list[list[str]]:
    raw: list[list[str]] = []
    lines: list[tuple[int, bool]] = []  # where a row begins, and whether it goes on in the line after
    faults: list[RowFault] = []
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True)
    begins = 1
    while True:
        try:
            row = next(reader, None)
        except csv.Error as why:
            if "field larger" in str(why):
                raise StoreError.of("store.cant-be-read-as-text-table", path=name, why=why) from why
            faults.append(row_fault(begins, "", "open-quote"))
            break
        if row is None:
            break
        raw.append(row[:MOST_COLUMNS])
        lines.append((begins, reader.line_num > begins))
        begins = reader.line_num + 1
        if len(raw) > MOST_ROWS:
            raise StoreError.of("store.over-rows-split", name=name, most=MOST_ROWS)
        if len(raw) % 1000 == 0:
            go_on_if(wanted)
    widths = [len(row) for row in raw if len(row) > 1]
    usual = max(set(widths), key=lambda width: (widths.count(width), width)) if widths else 1
    for row, (line, longer) in zip(raw, lines, strict=True):
        for cell in row if longer else ():
            if ("\n" in cell or "\r" in cell) and mark in cell and (cell.count(mark) >= usual - 1 or len(row) != usual):
                faults.append(row_fault(line, "", "quote-over-rows"))
    if faults:
        told = {one.row: one for one in reversed(faults)}  # one of a row is enough
        raise StoreError.of("store.faults-in-list", path=name, **faults_told([told[row] for row in sorted(told)]))
    return _bounded([[_tidy(cell, name) for cell in row] for row in raw], name)


def _tidy(cell: str, name: str) -> str:
    tidy = " ".join(cell.split()) if not cell.isalnum() else cell
    if len(tidy) > MOST_CELL:
        raise StoreError.of("store.cell-of-over-characters", name=name, most=MOST_CELL)
    return tidy


def _bounded(grid: list[list[str]], name: str) -> list[list[str]]:
    while grid and not any(grid[-1]):
        grid.pop()
    if len(grid) > MOST_ROWS:
        raise StoreError.of("store.over-rows-split", name=name, most=MOST_ROWS)
    return grid


def _decoded(data: bytes, name: str) -> str:
    for mark, coding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            try:
                return data.decode(coding)
            except UnicodeDecodeError as why:
                raise StoreError.of("store.not-in-its-coding", name=name, coding=coding) from why
    if b"\0" in data:
        even, odd = data[:2000:2].count(0), data[1:2000:2].count(0)
        for zeros, coding in ((odd, "utf-16-le"), (even, "utf-16-be")):
            if zeros > 0.3 * min(len(data), 2000) / 2:
                try:
                    return data.decode(coding)
                except UnicodeDecodeError:
                    continue
        raise StoreError.of("store.not-text-table", name=name)
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        pass
    if not re.search(rb"[\x80-\x9f]", data):
        return data.decode("latin-1")
    from charset_normalizer import from_bytes  # here: who writes a table guesses no encoding

    best = from_bytes(data[:60_000], cp_isolation=["cp1252", "cp1250", "mac_roman", "cp850"]).best()
    try:
        return data.decode(best.encoding if best else "cp1252")
    except UnicodeDecodeError as why:
        raise StoreError.of("store.unknown-text-coding", name=name) from why


def spaced_grid(text: str, name: str, more_than: int = 0, wider_than: int = 2) -> list[list[str]]:
    """The cells of a table set out by spaces, as pasted from a page; [] for a text that is none, or with no more such
    lines and columns than these. Columns are parted where no line has a letter, two spaces wide at least; a line of one
    piece is a cell.

        Wire  From   To     Size
        W1    J1-1   J2-1   1.5 mm2
        W2    J1-2          1.5 mm2
            ^^     ^^     ^^              what parts them
    """
    lines = text.splitlines()
    if not 2 <= len(lines) <= MOST_ROWS or max(map(len, lines)) > MOST_CELL:
        return []
    lines = [line.expandtabs().rstrip() for line in lines]
    pieces = [re.split(r" {2,}", line.strip()) for line in lines]
    if sum([len(row) > 2 for row in pieces if row != [""]][:AT_FIRST]) <= max(more_than, 1):
        return []
    rows = [row for row in pieces if len(row) > 2]
    if len(set(map(len, rows))) > 1:  # some say nothing of a column
        rows = _by_gutters([line for line, row in zip(lines, pieces, strict=True) if len(row) > 2])
    if len(rows[0]) <= max(wider_than, 2):
        return []
    cut = iter(rows)
    grid = [next(cut) if len(row) > 2 else row if row != [""] else [] for row in pieces]
    return _bounded([[_tidy(cell, name) for cell in row] for row in grid], name)


def _by_gutters(lines: Sequence[str]) -> list[list[str]]:
    """Lines cut where none of them has a letter, two spaces wide at least."""
    inked = 0
    for line in lines:
        inked |= int("".join("0" if mark == " " else "1" for mark in reversed(line)), 2)
    parts = [match.span() for match in re.finditer(r"1(?:0?1)*", "".join(reversed(f"{inked:b}")))]
    return [[line[start:end].strip() for start, end in parts] for line in lines]


def delimiter(text: str) -> tuple[str, tuple[int, int]]:
    """The separator that cuts the most lines into the same number of cells: how many of the first lines, and that
    number."""
    lines = [line[:5000] for line in text[:200_000].splitlines() if line.strip()][:AT_FIRST]
    if lines and (said := re.fullmatch(r"sep=(.)", lines[0].strip())):
        return said[1], (len(lines), MOST_COLUMNS)

    def score(mark: str) -> tuple[int, int]:
        widths = [len(row) for row in csv.reader(lines, delimiter=mark) if len(row) > 1]
        usual = max(set(widths), key=lambda width: (widths.count(width), width)) if widths else 1
        return widths.count(usual), usual

    try:
        return max(((mark, score(mark)) for mark in (",", ";", "\t", "|")), key=lambda one: one[1])
    except csv.Error:
        return ",", (0, 1)


def _kept_aside(data: bytes, name: str) -> IO[bytes]:
    try:
        given = tempfile.TemporaryFile()  # noqa: SIM115 handed to the child, closed by whoever asked
        given.write(data)
        given.seek(0)
    except OSError as why:
        raise StoreError.of("store.no-room-to-read", name=name, why=why.strerror) from why
    return given


def _workbook(data: bytes, name: str, wanted: Wanted) -> list[Sheet]:
    """The sheets of a workbook, read by a process of its own. What bounds it is the work and memory it may use itself;
    how long that takes on a busy machine is no fault of the list."""
    script = str(Path(workbook.__file__).absolute())
    with _kept_aside(data, name) as given:  # a pipe that is fed in pieces is fed no more after the first time-out
        child = subprocess.Popen(
            [sys.executable, "-I", script], stdin=given, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        )
        said = b""
        try:
            while True:
                try:
                    said, _ = child.communicate(timeout=0.1)
                    break
                except subprocess.TimeoutExpired:
                    go_on_if(wanted)
        finally:
            child.kill()
            with suppress(OSError):
                child.stdout.close()  # type: ignore[union-attr]
            child.wait()
    if child.returncode != 0:
        raise StoreError.of(
            "store.asks-for-more-than-wire-list",
            name=name,
            most_s=workbook.MOST_SECONDS,
            most_mb=workbook.MOST_MEMORY // 1000000,
        )
    answer = json.loads(said)
    if "refused" in answer:
        why = say(f"workbook.{answer['refused']}", **answer["values"])
        raise StoreError.of("store.workbook-cant-be-read", name=name, why=why)
    return [
        Sheet(
            one["name"],
            _bounded([[_tidy(cell, name) for cell in row] for row in one["grid"]], name),
            one["hidden"],
            {(row, column): say(f"workbook.odd.{what}") for row, column, what in one["odd"]},
        )
        for one in answer["sheets"]
    ]


def safe_cell(value: Cell) -> Cell:
    """Text that a spreadsheet would take for a formula gets a leading apostrophe in a text table; numbers, and signs
    that stand alone, stay as they are."""
    if not isinstance(value, str):
        return value
    lead = unicodedata.normalize("NFKC", value.lstrip()[:1])
    if value[:1] in ("\t", "\r", "\n") or (len(value.strip()) > 1 and lead in ("=", "+", "-", "@")):
        return "'" + value
    return value


def unquoted(cell: str) -> str:
    """A cell of a text table without the apostrophe that `safe_cell` put before it."""
    return cell[1:] if cell[:1] == "'" and safe_cell(cell[1:]) == cell else cell


def csv_text(rows: Sequence[Sequence[Cell]]) -> str:
    """The rows as CSV with a comma and a point, formulas neutralised."""
    out = io.StringIO(newline="")
    csv.writer(out, lineterminator="\r\n").writerows(
        [["" if (safe := safe_cell(cell)) is None else safe for cell in row] for row in rows]
    )
    return out.getvalue()


def csv_bytes(rows: Sequence[Sequence[Cell]]) -> bytes:
    """The rows as a CSV file, with the mark by which other programs know its letters."""
    return b"\xef\xbb\xbf" + csv_text(rows).encode()


def table_bytes(name: str, rows: Sequence[Sequence[Cell]], ending: str) -> bytes:
    """The rows as a file by its ending, .csv or .xlsx; StoreError for another."""
    if ending.lower() == ".xlsx":
        return xlsx_bytes([(name, rows)])
    if ending.lower() == ".csv":
        return csv_bytes(rows)
    raise StoreError.of("store.sheet-endings", name=name)


@dataclass(frozen=True)
class Page:
    """How sheets are printed: "a4" or "letter", landscape or not."""

    paper: str = "a4"
    landscape: bool = True


def xlsx_bytes(sheets: Sequence[tuple[str, Sequence[Sequence[Cell]]]], page: Page | None = None) -> bytes:
    """A workbook of named sheets: first row bold, frozen and repeated on every printed page, columns as wide as their
    text, paper set. Text stays text, "0001" and "=1" too: no cell is a formula."""
    from openpyxl import Workbook  # here: reading lists and starting up need none of it
    from openpyxl.styles import Font

    page = page or Page()
    book = Workbook()
    book.remove(book.active)
    for title, rows in sheets:
        sheet = book.create_sheet(title[:31])
        for at, row in enumerate(rows, 1):
            for column, value in enumerate(row, 1):
                cell = sheet.cell(at, column)
                if isinstance(value, str):
                    cell.value = pictured(value)[:MOST_XLSX_CELL]
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
    from openpyxl.utils import get_column_letter

    sheet.print_area = f"A1:{get_column_letter(columns)}{max(sheet.max_row, 1)}"
    sheet.oddFooter.center.text = "&P / &N"
