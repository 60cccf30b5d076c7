"""What is read from the lists of other shops, told line by line: wires, questions with what speaks for each answer,
notes, faults, how each sheet was taken. Then the same of each list with one thing in it changed as people change them,
as the lines that this adds (+) and takes away (−)."""

from __future__ import annotations

import re
from dataclasses import MISSING, fields
from difflib import ndiff
from pathlib import Path
from random import Random

import pytest

from golden.test_answers import held
from umber_trunk.core.errors import UmberError
from umber_trunk.store.listing.doubts import Answers
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.reading import read_list
from umber_trunk.store.sheets import delimiter, read_book

LISTS = {path.stem: path for path in sorted((Path(__file__).parents[1] / "store/lists").glob("*.txt"))}
CODINGS = ("utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252", "cp1250", "cp850", "mac_roman")
CELLS = (
    '|?|x|yes|-|"|0|1|16|0.5|1,5|1.234|2 x 1.5|3x2.5+1|AWG 18|red/blk|J1-1|J1:3, J2:4|X2/7|GND|1000|1.2 m|3"|screen|W1'
)
CELLS += "|PE|SP1|n/a|nc|see note"


def text_of(name: str) -> str:
    """A list as its shop wrote it."""
    return re.split(r"^===$", LISTS[name].read_text("utf-8"), flags=re.MULTILINE)[1].strip("\n") + "\n"


def wire_of(wire: ListedWire) -> str:
    """A wire with all that was said of it."""
    said = ((one.name, getattr(wire, one.name), one.default) for one in fields(wire))
    return " | ".join(f"{name} {value}" for name, value, usual in said if usual is MISSING or value != usual)


def told(path: Path) -> list[str]:
    """A file as it is read where each likeliest answer is taken, a line for each thing."""
    try:
        book = read_book(path)
        open_ = read_list(book, taken=("7", "W3")).doubts
        reading = read_list(book, Answers(accept=True), taken=("7", "W3"))
    except UmberError as why:
        return [f"refused: {why}"]
    lines = [*map(wire_of, reading.wires), *(f"fault: {fault}" for fault in reading.faults)]
    lines += [f"asked: {one.id}, column {one.column}, rows {one.rows}: {one}" for one in reading.asked]
    lines += [f"open: {', '.join(one.id for one in open_)}", *(f"note: {note}" for note in reading.notes)]
    for one in reading.sheets:
        layout = one.layout
        lines.append(f"sheet {one.sheet.name}: {dict(layout.columns)} from row {layout.first_row}, {one.length_unit}")
        lines.append(f"titles: {layout.headers}, unused {one.unused}; {layout.notes}; {layout.evidence}")
        lines += [f"no wire: row {row}, {what}" for row, what in one.passed]
    return [*lines, f"splices: {', '.join(sorted(reading.splices))}; parted by {book.delimiter!r}"]


def varied(text: str, draw: Random) -> tuple[str, bytes]:
    """(what was changed, the list with it)."""
    mark = delimiter(text)[0]
    grid = [line.split(mark) for line in text.splitlines()]
    row = draw.randrange(len(grid))
    at = draw.randrange(len(grid[row]))
    below = draw.randrange(len(grid))
    match draw.randrange(9):
        case 0 | 1:
            grid[row][at] = draw.choice(CELLS.split("|"))
            what = f"row {row + 1}, cell {at + 1} says {grid[row][at]}"
        case 2:
            other = draw.choice(grid[below])
            grid[row][at], what = other, f"row {row + 1}, cell {at + 1} is {other}, of row {below + 1}"
        case 3:
            grid.insert(below, grid[row])
            what = f"row {row + 1} is there once more as row {below + 1}"
        case 4:
            grid = [[cell for n, cell in enumerate(cells) if n != at] for cells in grid]
            what = f"column {at + 1} is left out"
        case 5:
            for cells in grid:
                if at < len(cells):
                    cells.append(cells.pop(at))
            what = f"column {at + 1} comes last"
        case 6:
            factor = draw.choice((0.001, 0.0254, 10, 1000))
            for cells in grid[1:]:
                if at < len(cells) and re.fullmatch(r"\d+(\.\d+)?", cells[at]):
                    cells[at] = f"{float(cells[at]) * factor:g}"
            what = f"figures of column {at + 1} times {factor:g}"
        case 7:
            grid, what = [*grid[:row], ["Loom A"], [], *grid[row:]], f"a title and a gap before row {row + 1}"
        case _:
            coding, end = draw.choice(CODINGS), draw.choice(("\r\n", "\r", "\n\n"))
            lines = end.join(mark.join(cells) for cells in grid)
            return f"{coding}, lines end with {end!r}", lines.encode(coding, "replace")
    return what, "\n".join(mark.join(cells) for cells in grid).encode()


@pytest.mark.parametrize("tens", sorted({name[:1] for name in LISTS}))
def test_lists_and_what_a_change_to_them_does(tmp_path: Path, tens: str) -> None:
    path, answers = tmp_path / "list.csv", {}
    for name in (name for name in LISTS if name[:1] == tens):
        text, draw = text_of(name), Random(name)
        path.write_text(text, encoding="utf-8")
        answers[name] = plain = told(path)
        for _ in range(8):
            what, data = varied(text, draw)
            path.write_bytes(data)
            if changes := [line for line in ndiff(plain, told(path)) if line[:1] in "+-"]:
                answers[f"{name}, {what}"] = changes
    held(f"lists-{tens}.json", answers)
