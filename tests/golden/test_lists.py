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


def told(path: Path, **said: str) -> list[str]:
    """A file as it is read where each likeliest answer is taken but for what is `said`, a line for each thing."""
    try:
        book = read_book(path)
        open_ = read_list(book, taken=("7", "W3")).doubts
        reading = read_list(book, Answers(said=said, accept=True), taken=("7", "W3"))
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


def changes(plain: list[str], now: list[str]) -> list[str]:
    """What one reading has that another hasn't."""
    return [line for line in ndiff(plain, now) if line[:1] in "+-"]


def with_answers(path: Path, name: str) -> dict[str, list[str]]:
    """A file as it is read, and what each other answer to each of its questions changes."""
    answers = {name: (plain := told(path))}
    try:
        open_ = read_list(read_book(path), taken=("7", "W3")).doubts
    except UmberError:
        return answers
    for doubt in open_:
        for option in doubt.options:
            if option.key != doubt.likeliest:
                answers[f"{name}, {doubt.id} is {option.key}"] = changes(plain, told(path, **{doubt.id: option.key}))
    return answers


@pytest.mark.parametrize("tens", sorted({name[:1] for name in LISTS}))
def test_lists_and_what_a_change_to_them_does(tmp_path: Path, tens: str) -> None:
    path, answers = tmp_path / "list.csv", dict[str, list[str]]()
    for name in (name for name in LISTS if name[:1] == tens):
        text, draw = text_of(name), Random(name)
        path.write_text(text, encoding="utf-8")
        answers |= with_answers(path, name)
        for _ in range(8):
            what, data = varied(text, draw)
            path.write_bytes(data)
            if other := changes(answers[name], told(path)):
                answers[f"{name}, {what}"] = other
    held(f"lists-{tens}.json", answers)


ENDS = (
    (("from", "to"), lambda n: (f"J1-{n}", f"J2-{n}")),
    (("from", "from pin", "to", "to pin"), lambda n: ("box", f"{n}", "lamp", f"{n + 1}")),
    (("Start", "Ziel"), lambda n: (f"X1:{n}", f"X2:{n}")),
    (("from connector", "pin", "to connector", "pin"), lambda n: ("P1", f"A{n}", "P2", f"B{n}")),
    (("connector", "pin", "to"), lambda n: ("P1" if n < 4 else "P2", f"{n}", f"P9-{n}")),
    (("from", "to"), lambda n: (f"J1 pin {n}", "SP1" if n % 2 else f"J3 pin {n}, J4 pin {n}")),
    (("from", "to"), lambda n: (f"ECU.{n}", "GND" if n > 4 else f"FAN.{n}")),
)
SIZES = (
    ("size", lambda n: f"{(0.5, 0.75, 1.5)[n % 3]:g} mm2"),
    ("AWG", lambda n: f"{(16, 18, 20)[n % 3]}"),
    ("size", lambda n: f"{(16, 18, 20)[n % 3]}"),
    ("Querschnitt", lambda n: f"{('0,5', '1,5', '2,5')[n % 3]}"),
    ("cable", lambda n: ("2x0.75", "2x0.75 sh", "4x0.5+0.5")[n % 3]),
    ("type", lambda n: ("FLRY 1.5 rd", "18 AWG red", "3 core 1.5")[n % 3]),
    ("gauge", lambda n: ("1/0", "2/0 AWG", "10 mm²")[n % 3]),
)
COLOURS = (
    (("colour",), lambda n: (("RD/BK", "GN", "YE")[n % 3],)),
    (("colour",), lambda n: (("rt", "sw/ws", "br")[n % 3],)),
    (("colour", "stripe"), lambda n: (("red", "blue", "white")[n % 3], "black" if n % 2 else "")),
    (("colour",), lambda n: (str(n),)),
    (("col",), lambda n: (("R", "BR", "BRN/WHT")[n % 3],)),
    ((), lambda n: ()),
)
LENGTHS = (
    (("length",), lambda n: (f"{0.8 + n / 4:g} m",)),
    (("length [mm]",), lambda n: (f"{800 + 250 * n}",)),
    (("length",), lambda n: (f"{800 + 250 * n}" if n != 3 else "2,5",)),
    (("Länge",), lambda n: (f"{0.8 + n / 4:.2f}".replace(".", ","),)),
    (("length",), lambda n: (f"{n + 1}' 6\"" if n % 2 else f"{n + 2} ft",)),
    (("length", "cut"), lambda n: (f"{1 + n / 10:g} m", f"{1.1 + n / 10:g} m")),
    (("length",), lambda n: ("" if n == 2 else "'" if n == 4 else f"{n}.250 m",)),
    ((), lambda n: ()),
)
MORE = (
    ((), lambda n: ()),
    (("cable", "core"), lambda n: ("W50" if n < 4 else "", ("1", "2", "screen")[n % 3])),
    (("shield",), lambda n: ("yes" if n == 2 else "",)),
    (("signal", "remarks"), lambda n: (("lamp feed", "GND", "CAN H")[n % 3], "twisted with above" if n == 3 else "")),
    (("qty",), lambda n: ("2" if n == 1 else "1",)),
    (("pair", "circuit"), lambda n: (f"{n // 2}", f"C{n}")),
)
NAMED = (lambda n: f"W{n}", lambda n: f"{n:03}", lambda n: f"5.{n}", lambda n: "" if n == 3 else f"L{n}", None)
ODD = (
    lambda rows, mark: rows,
    lambda rows, mark: [*rows[:4], "Loom B", *rows[4:], f"Total{mark}{mark}12"],
    lambda rows, mark: ["Bus 7 main loom", "rev C", "", *rows],
    lambda rows, mark: [*rows, "", *rows[1:3]],
    lambda rows, mark: [mark.join("ABCDEFGHIJKL"[: rows[0].count(mark) + 1]), *rows],
    lambda rows, mark: [row + mark for row in rows],
    lambda rows, mark: rows[1:],
)


def in_quotes(cell: str, mark: str) -> str:
    """A cell as a text table has it."""
    return '"' + cell.replace('"', '""') + '"' if mark in cell or '"' in cell else cell


def made_up(draw: Random) -> str:
    """A list as some shop may write it: every habit with every other."""
    mark = draw.choice((",", ";", "\t", ";", "|"))
    (ends, end), (size, sized), (colours, coloured) = draw.choice(ENDS), draw.choice(SIZES), draw.choice(COLOURS)
    (lengths, long), (more, other), named = draw.choice(LENGTHS), draw.choice(MORE), draw.choice(NAMED)
    heads = [*(["wire"] if named else []), *ends, size, *colours, *lengths, *more]
    rows = [heads]
    rows += [
        [*([named(n)] if named else []), *end(n), sized(n), *coloured(n), *long(n), *other(n)] for n in range(1, 8)
    ]
    lines = [mark.join(in_quotes(cell, mark) for cell in row) for row in rows]
    return "\n".join(draw.choice(ODD)(lines, mark)) + "\n"


@pytest.mark.parametrize("dozen", range(8))
def test_lists_nobody_wrote(tmp_path: Path, dozen: int) -> None:
    path, answers = tmp_path / "list.csv", dict[str, list[str]]()
    for number in range(12 * dozen, 12 * dozen + 12):
        text = made_up(Random(f"shop {number}"))
        path.write_text(text, encoding="utf-8")
        answers |= with_answers(path, f"{number}: {text.splitlines()[0]}")
    held(f"lists-made-up-{dozen}.json", answers)
