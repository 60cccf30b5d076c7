"""Reads a workbook (XLSX, XLS, ODS) as text, in a process of its own with little time and memory.

Started by `store/sheets.py` as a script: the workbook on standard input, JSON on standard output. A workbook that
claims more than any list needs, or breaks the library that reads it, costs this process and nothing else.
"""

import io
import json
import re
import resource
import sys
import zipfile
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any
from xml.etree.ElementTree import ParseError

if __name__ == "__main__":  # started as a script, away from the environment's paths
    sys.path.insert(0, str(Path(__file__).parents[2]))

from umber_trunk.core.quantity import exact

MOST_SECONDS = 20
"""Of its own work; 20 000 rows take about two on a slow machine."""
MOST_MEMORY = 1_000_000_000
MOST_UNPACKED = 200_000_000
MOST_CELLS = 4_000_000
MOST_ROWS = 21_000
MOST_COLUMNS = 200
MOST_SHEETS = 100
_CELL = re.compile(rb'<(?:\w+:)?c\b[^>]*?\br="([A-Z]+)(\d+)"')
_REPEATED = re.compile(rb'number-(?:rows|columns)-repeated="(\d+)"')
_FORMULA = re.compile(rb"<c\b([^>]*[^/>])>((?:(?!</c>).)*?<f\b(?:(?!</c>).)*)</c>", re.S)


class Refused(Exception):  # noqa: N818 what is said to the user
    """Why, by its code under workbook, and what its sentence names."""

    def __init__(self, key: str, **values: Any) -> None:
        super().__init__(key)
        self.answer = {"refused": key, "values": values}


def looked_at(data: bytes) -> None:
    """Refuses a packed workbook that unpacks to too much, or has cells beyond all use."""
    with zipfile.ZipFile(io.BytesIO(data)) as pack:
        parts = pack.infolist()
        if sum(part.file_size for part in parts) > MOST_UNPACKED:
            raise Refused("unpacks-to", mb=MOST_UNPACKED // 1_000_000)
        names = [part.filename for part in parts]
        if not any(name.startswith("xl/workbook") or name == "content.xml" for name in names):
            raise Refused("archive")
        for name in names:
            if name.startswith("xl/worksheets/") and name.endswith(".xml"):
                _cells_bounded(unpacked(pack, name))
            elif name == "content.xml":
                _ods_bounded(unpacked(pack, name))


def unpacked(pack: zipfile.ZipFile, name: str) -> bytes:
    """A part of a packed workbook, whatever size it claims to have."""
    with pack.open(name) as part:
        data = part.read(MOST_UNPACKED + 1)
    if len(data) > MOST_UNPACKED:
        raise Refused("unpacks-to", mb=MOST_UNPACKED // 1_000_000)
    return data


def _number(letters: bytes) -> int:
    total = 0
    for letter in letters[:4]:
        total = 26 * total + letter - 64
    return total


def _cells_bounded(page: bytes) -> None:
    rows, columns = 1, 1
    for letters, row in _CELL.findall(page):
        rows, columns = max(rows, int(row[:9])), max(columns, _number(letters))
    if rows > MOST_ROWS:
        raise Refused("rows", most=MOST_ROWS)
    if columns > 702:
        raise Refused("columns")
    if rows * columns > MOST_CELLS:
        raise Refused("cells", most=MOST_CELLS)


def _ods_bounded(page: bytes) -> None:
    # office programs repeat the empty rows below a list up to the sheet's end; a row with something in it never so
    # often
    for row in re.finditer(
        rb'<table:table-row\b[^>]*number-rows-repeated="(\d+)"[^>]*[^/]>(.*?)</table:table-row>', page, re.S
    ):
        if int(row[1][:9]) > MOST_ROWS and re.search(rb"office:value|<text:p>.", row[2]):
            raise Refused("rows", most=MOST_ROWS)
    for cell in re.finditer(rb'<table:table-cell\b([^>]*)number-columns-repeated="(\d+)"([^>]*)', page):
        if int(cell[2][:9]) > 702 and b"office:value" in cell[1] + cell[3]:
            raise Refused("columns")


def text_of(value: Any) -> str:
    """A cell as text that reads back as the same number."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return str(int(value)) if float(value).is_integer() and abs(value) < 1e15 else exact(float(value))
    if isinstance(value, datetime | date | time):
        return value.isoformat()
    return str(value)


DATE, EMPTY_FORMULA = "date", "empty-formula"
"""What is odd of a cell, by its code under workbook.odd."""


def sheets_of(data: bytes) -> list[dict[str, Any]]:
    """Every sheet: name, grid, hidden, and odd cells as [row, column, what is odd]."""
    from python_calamine import CalamineWorkbook, SheetTypeEnum, SheetVisibleEnum

    book = CalamineWorkbook.from_filelike(io.BytesIO(data))
    found = []
    for meta in book.sheets_metadata[:MOST_SHEETS]:
        if meta.typ is not SheetTypeEnum.WorkSheet:
            continue
        page = book.get_sheet_by_name(meta.name)
        if page.total_height * page.total_width > MOST_CELLS:
            raise Refused("cells", most=MOST_CELLS, sheet=meta.name)
        rows = page.to_python(skip_empty_area=False, nrows=MOST_ROWS + 1)
        grid = [[text_of(value) for value in row[:MOST_COLUMNS]] for row in rows]
        odd = [
            [at, column, DATE]
            for at, row in enumerate(rows)
            for column, value in enumerate(row[:MOST_COLUMNS])
            if isinstance(value, date | datetime | time | timedelta)
        ]
        spread_merged(grid, page.merged_cell_ranges or [])
        found.append(
            {"name": meta.name, "grid": grid, "hidden": meta.visible is not SheetVisibleEnum.Visible, "odd": odd}
        )
    return found


def spread_merged(grid: list[list[str]], ranges: Any) -> None:
    """A merged block's text into all its cells, within reason."""
    for (top, left), (bottom, right) in ranges[:5000]:
        if top >= len(grid) or left >= len(grid[top]) or (bottom - top) * (right - left + 1) > 50_000:
            continue
        for row in grid[top : bottom + 1]:
            for at in range(left, min(right + 1, len(row))):
                row[at] = row[at] or grid[top][left]


def mark_formulas(data: bytes, sheets: list[dict[str, Any]]) -> None:
    """Finds formulas that have no stored result, which a reader of values takes for blanks."""
    from defusedxml.ElementTree import fromstring

    with zipfile.ZipFile(io.BytesIO(data)) as pack:
        names = set(pack.namelist())
        if not {"xl/workbook.xml", "xl/_rels/workbook.xml.rels"} <= names:
            return
        places = {
            one.get("Id"): one.get("Target", "") for one in fromstring(unpacked(pack, "xl/_rels/workbook.xml.rels"))
        }
        of_name = {}
        for one in fromstring(unpacked(pack, "xl/workbook.xml")).iter():
            if one.tag.endswith("}sheet"):
                key = next((value for name, value in one.attrib.items() if name.endswith("}id")), "")
                of_name[one.get("name")] = "xl/" + places.get(key, "").removeprefix("/xl/").removeprefix("/")
        for sheet in sheets:
            part = of_name.get(sheet["name"], "")
            page = unpacked(pack, part) if part in names else b""
            for match in _FORMULA.finditer(page) if b"<f" in page else ():
                place = re.search(rb'\br="([A-Z]+)(\d+)"', match[1])
                if place is None:
                    continue
                at, column = int(place[2]) - 1, _number(place[1]) - 1
                if at >= len(sheet["grid"]) or column >= MOST_COLUMNS:
                    continue
                row = sheet["grid"][at]
                if column >= len(row) or not row[column]:
                    sheet["odd"].append([at, column, EMPTY_FORMULA])


def answer(data: bytes) -> dict[str, Any]:
    """{"sheets": …} or {"refused": a code under workbook, "values": what its sentence names}."""
    try:
        if data[:2] == b"PK":
            looked_at(data)
        sheets = sheets_of(data)
        if data[:2] == b"PK":
            mark_formulas(data, sheets)
    except Refused as why:
        return why.answer
    except MemoryError:
        return Refused("memory", mb=MOST_MEMORY // 1_000_000).answer
    except (OSError, ValueError, EOFError, RuntimeError, NotImplementedError, zipfile.BadZipFile, ParseError) as why:
        return Refused("unread", why=str(why).rstrip(".")).answer
    except BaseException as why:  # noqa: BLE001 a panic of the library is none of its errors
        kind = type(why).__name__
        if kind == "PasswordError":
            return Refused("locked").answer
        if kind in ("CalamineError", "WorkbookClosed", "WorksheetNotFound", "ZipError", "XmlError"):
            return Refused("unread", why=str(why).rstrip(".")).answer
        return Refused("unsound").answer
    return {"sheets": sheets} if sheets else Refused("no-sheet").answer


def main() -> None:
    """Reads standard input within the limits and answers on standard output."""
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS + 1))
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    sys.stdout.write(json.dumps(answer(sys.stdin.buffer.read())))


if __name__ == "__main__":
    main()
