"""A list read into wires with its faults, its open questions, and everything it was taken for.

`read_list` never touches a design: a person sees the reading, answers what is open, and `merge` does the rest.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from umber_trunk.core.bulk import many_objects
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.store.listing.cells import (
    NOTHING,
    ColourRules,
    SizeCell,
    SizeRules,
    colour_cell,
    colour_rules,
    decimal_of,
    length_cell,
    length_unit,
    pin_mark,
    size_cell,
    size_rules,
    split_pin,
)
from umber_trunk.store.listing.columns import Layout, column_letter, find_layout
from umber_trunk.store.listing.doubts import Answers, Doubt, Fault, Option, Questions
from umber_trunk.store.listing.words import FIELDS, TOTALS
from umber_trunk.store.sheets import Book, Sheet, unquoted

TELLING = 200  # characters of a cell that may tell something
_TOTAL = re.compile(rf"{TOTALS}\b", re.I)
_FIGURES = re.compile(r"[-+\d.,\s]*(?:mm|m|ft|kg)?")


@dataclass(frozen=True)
class ListedWire:
    """One good row, or one core of it. `cable` names the cable whose core it is."""

    row: int
    wire: str
    name: str
    circuit: str
    start: tuple[str, str]
    finish: tuple[str, str]
    size: str | None
    parallel: int
    colour: str
    stripe: str
    length_m: float | None
    sheet: str = ""
    cable: str = ""


@dataclass(frozen=True)
class SheetReading:
    """How one sheet was taken. `passed` names rows that are no wires, with what they are."""

    sheet: Sheet
    layout: Layout
    length_unit: str
    passed: tuple[tuple[int, str], ...]
    unused: tuple[int, ...]


@dataclass(frozen=True)
class ListReading:
    """All good rows, all faults, all open doubts and the notes of a list. `asked` are all questions, answered or not."""

    wires: tuple[ListedWire, ...]
    faults: tuple[Fault, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    notes: tuple[str, ...] = ()
    sheets: tuple[SheetReading, ...] = ()
    asked: tuple[Doubt, ...] = ()

    @property
    def sound(self) -> bool:
        """Nothing open and nothing wrong."""
        return not self.faults and not self.doubts

    @property
    def headers(self) -> str:
        """What lists like this one have in common: their headers."""
        return "\n".join("\t".join(one.layout.headers) for one in self.sheets)


def read_list(
    book: Book,
    answers: Answers | None = None,
    taken: Sequence[str] = (),
    decimal: str = "",
    wanted: Wanted = always,
) -> ListReading:
    """Reads every sheet that holds wires. `taken` are wire numbers the harness has, which make a row a fault;
    `decimal` is the project's habit. InputError when nothing in the file names where wires go from and to; Stopped
    once the answer isn't `wanted`."""
    with many_objects():
        return _read(book, Questions(answers or Answers()), taken, decimal, wanted)


def _read(book: Book, asked: Questions, taken: Sequence[str], decimal: str, wanted: Wanted) -> ListReading:
    layouts = _layouts(book, asked)
    rows: list[ListedWire] = []
    faults: list[Fault] = []
    sheets = []
    used, seen = set(taken), dict[str, str]()
    for sheet, layout in layouts:
        go_on_if(wanted)
        reader = _SheetReader(sheet, layout, asked, book.delimiter, decimal, len(layouts) > 1)
        found = reader.read(used, seen, wanted)
        rows += found
        faults += reader.faults
        sheets.append(SheetReading(sheet, layout, reader.unit, tuple(reader.passed), tuple(layout.unused(sheet.grid))))
        reader.tell()
    if not rows and not faults:
        first = layouts[0]
        faults.append(Fault(first[1].first_row + 1, "", "there is no wire below the header."))
    return ListReading(
        tuple(rows), tuple(faults), tuple(asked.open), tuple(asked.notes), tuple(sheets), tuple(asked.asked)
    )


def _layouts(book: Book, asked: Questions) -> list[tuple[Sheet, Layout]]:
    """The sheets to read, each with its layout; sheets left out are named."""
    answers = asked.answers
    names = [sheet.name for sheet in book.sheets]
    lost = [name for name in answers.sheets if name not in names]
    if lost:
        raise InputError(f"There is no sheet “{lost[0]}”; the sheets are: {', '.join(names)}.")
    filled = [sheet for sheet in book.sheets if any(any(row) for row in sheet.grid)]
    wanted = [sheet for sheet in filled if not answers.sheets or sheet.name in answers.sheets]
    if not wanted:
        raise InputError(f"{book.name} holds nothing.")
    trial = Questions(replace(answers, accept=True))
    found = [
        (sheet, layout)
        for sheet in wanted
        if (layout := find_layout(sheet.grid, answers.header_row, trial, sheet.name))
    ]
    found = [(sheet, layout) for sheet, layout in found if {"from", "to"} <= set(layout.columns)]
    if not found:
        raise InputError(
            "No header row names where wires go from and to. Name the columns in the list, such as: wire, from, to, size, "
            "colour, length; or say which they are (--header-row 1 --column from=B --column to=C)."
        )
    if len(found) > 1 and not answers.sheets:
        listed = [sheet.name for sheet, _ in found]
        options = (Option("all", "all of them"), *(Option(name, f"only “{name}”") for name in listed))
        shown = [f"“{sheet.name}”{' (hidden)' if sheet.hidden else ''}" for sheet, _ in found]
        said = asked.ask(
            Doubt(
                "sheet",
                "Which sheets are to be read?",
                f"{len(found)} hold wires: {', '.join(shown)}.",
                options,
                "all",
                "--sheet {}",
            )
        )
        if said != "all":
            found = [(sheet, layout) for sheet, layout in found if sheet.name == said]
    kept = {sheet.name for sheet, _ in found}
    for sheet in book.sheets:
        if sheet.name not in kept:
            why = "" if sheet in filled else ": it is empty"
            asked.note(f"Sheet “{sheet.name}” is left out{why}.")
    layouts = []
    for sheet, _ in found:
        layout = find_layout(sheet.grid, answers.header_row, asked, sheet.name if len(found) > 1 else "")
        assert layout is not None
        layouts.append((sheet, layout))
    return layouts


class _SheetReader:
    """Reads one sheet by its layout. Attributes: faults, passed rows, unit of bare lengths."""

    def __init__(self, sheet: Sheet, layout: Layout, asked: Questions, delimiter: str, habit: str, named: bool) -> None:
        self.sheet, self.layout, self.asked, self.named = sheet, layout, asked, named
        self.faults: list[Fault] = []
        self.passed: list[tuple[int, str]] = []
        self._colour_of: dict[str, tuple[str, str]] = {}
        self._pin_of: dict[str, tuple[str, str]] = {}
        self._cells = {
            name: [unquoted(row[at]) if 0 <= at < len(row) else "" for row in sheet.grid]
            for name, at in layout.columns.items()
        }
        self._titles = self._header("from"), self._header("to")
        self._labelled = sum(bool(label) for label in layout.headers)
        self.data = self._data_rows()
        cells = {name: self._column(name) for name in ("size", "length", "colour", "stripe")}
        self.decimal = decimal_of(
            {"length": cells["length"], "size": cells["size"]}, habit, delimiter, asked.answers.units.get("length") or layout.notes.get("length", ""), asked
        )  # fmt: skip
        self.unit = length_unit(
            cells["length"], layout.notes.get("length", ""), self.decimal, asked, self._at("length")
        )
        pins = {"from-pin", "to-pin"} <= set(layout.columns)
        ends = [] if pins else [cell for name in ("from", "to") for cell in self._column(name)]
        self.mark = pin_mark(ends, asked) if ends else ""
        self.pinned = pins or bool(self.mark) or any(split_pin(cell)[1] for cell in ends)
        self.sizes: SizeRules = size_rules(
            cells["size"], layout.notes.get("size", ""), [*cells["length"], layout.notes.get("length", "")], self.decimal, self.pinned,
            asked, self._at("size"),
        )  # fmt: skip
        self.colours: ColourRules = colour_rules(
            cells["colour"] + cells["stripe"], layout.headers, asked, self._at("colour")
        )
        self.numbered = False

    def _at(self, name: str) -> int:
        return self.layout.columns.get(name, -1)

    def _text(self, row: int, name: str) -> str:
        cells = self._cells.get(name)
        return cells[row] if cells is not None else ""

    def _column(self, name: str) -> list[str]:
        """The cells of a field by which its rules are found; what is far too long for one tells nothing."""
        cells = self._cells.get(name, [])
        return [text for row in self.data if cells and len(text := cells[row]) <= TELLING and text not in NOTHING]

    def _data_rows(self) -> list[int]:
        """Rows that should be wires; all others below the header are passed over and named."""
        found = []
        for at in range(self.layout.first_row, len(self.sheet.grid)):
            kind = self._kind(at)
            if kind is None:
                found.append(at)
            elif kind:
                self.passed.append((at + 1, kind))
        return found

    def _kind(self, at: int) -> str | None:
        """None for a wire's row, "" for a blank one, else what it is."""
        cells = [cell for cell in self.sheet.grid[at] if cell]
        if not cells:
            return ""
        if at == self.layout.units_row:
            return "the units"
        start, finish = self._text(at, "from"), self._text(at, "to")
        if start and start == self._titles[0] and finish == self._titles[1] and len(cells) > 1:
            return "the header once more"
        if not (start and finish) and any(_TOTAL.match(cell[:TELLING]) for cell in cells[:4]):
            return "a total"
        if not start and not finish and all(_FIGURES.fullmatch(cell[:TELLING]) for cell in cells):
            return "figures without a wire"
        if len(set(cells)) == 1 and self._labelled > 2 and not (start and finish and len(cells) == 2):
            return f"a title, “{cells[0][:60]}”"
        return None

    def _header(self, name: str) -> str:
        at = self._at(name)
        return self.layout.headers[at] if 0 <= at < len(self.layout.headers) else ""

    def _fault(self, row: int, name: str, message: str) -> None:
        at = self._at(name)
        self.faults.append(
            Fault(row + 1, column_letter(at) if at >= 0 else "", message, self.sheet.name if self.named else "")
        )

    def read(self, used: set[str], seen: dict[str, str], wanted: Wanted) -> list[ListedWire]:
        """All good rows; `seen` maps the wire numbers met to where they stand."""
        found: list[ListedWire] = []
        count = 1
        for at in self.data:
            if at % 256 == 0:
                go_on_if(wanted)
            before = len(self.faults)
            self._odd_cells(at)
            number = self._text(at, "wire")
            if not number or number in NOTHING:
                self.numbered = True
                while f"W{count}" in used or f"W{count}" in seen:
                    count += 1
                number = f"W{count}"
            wires = self._row(at, number)
            where = f"row {at + 1}" + (f" of “{self.sheet.name}”" if self.named else "")
            for wire in wires:
                if wire.wire in seen:
                    self._fault(at, "wire", f"wire {wire.wire} is in {seen[wire.wire]} already.")
                elif wire.wire in used:
                    self._fault(at, "wire", f"the harness has a wire {wire.wire} already.")
                seen.setdefault(wire.wire, where)
            if len(self.faults) == before:
                found += wires
        return found

    def _odd_cells(self, at: int) -> None:
        if not self.sheet.odd:
            return
        for name in self.layout.columns:
            said = self.sheet.odd.get((at, self._at(name)))
            if said:
                self._fault(
                    at, name, f"“{self._text(at, name)}” {said}." if self._text(at, name) else f"the cell {said}."
                )

    def _row(self, at: int, number: str) -> list[ListedWire]:
        start, finish = self._pin(at, "from"), self._pin(at, "to")
        size, length = self._size(at), self._length(at)
        colour, stripe = self._colour(at, "colour")
        second = self._colour(at, "stripe")[0]
        for name, text, most in (("wire", number, 80), ("colour", colour, 20), ("stripe", stripe or second, 20),
                                 ("name", self._text(at, "name"), 400), ("circuit", self._text(at, "circuit"), 400)):  # fmt: skip
            if len(text) > most:
                self._fault(at, name, f"“{text[:30]}…” has over {most} characters.")
        if all(start) and start == finish:
            self._fault(at, "to", "the wire ends where it starts.")
        one = ListedWire(
            at + 1, number, self._text(at, "name"), self._text(at, "circuit"), start, finish, size.label, size.parallel, colour,
            stripe or second, length, self.sheet.name if self.named else "",
        )  # fmt: skip
        if size.wires == 1:
            return [one]
        return [
            replace(one, wire=f"{number}.{core}", colour="", stripe="", cable=number)
            for core in range(1, size.wires + 1)
        ]

    def _colour(self, at: int, name: str) -> tuple[str, str]:
        text = self._text(at, name)
        if text not in self._colour_of:
            # what is over the most characters stays as it is and is a fault
            self._colour_of[text] = colour_cell(text, self.colours) if len(text) <= TELLING else (text, "")
        return self._colour_of[text]

    def _split(self, name: str) -> tuple[str, str]:
        if name not in self._pin_of:
            self._pin_of[name] = split_pin(name, self.mark) if len(name) <= TELLING else (name, "")
        return self._pin_of[name]

    def _pin(self, at: int, place: str) -> tuple[str, str]:
        name, cavity = self._text(at, place), self._text(at, f"{place}-pin")
        if not name or name in NOTHING:
            self._fault(at, place, f"“{FIELDS[place]}” is empty.")
            return "", ""
        if not cavity:
            name, cavity = self._split(name)
        if len(name) > 80 or len(cavity) > 80:
            self._fault(at, place, "an end or pin has at most 80 characters.")
        return name, "" if cavity in NOTHING[3:] else cavity

    def _short(self, at: int, name: str) -> str:
        text = self._text(at, name)
        if len(text) > TELLING:
            raise InputError(f"“{text[:30]}…” has over {TELLING} characters; that is no {FIELDS[name]}.")
        return text

    def _size(self, at: int) -> SizeCell:
        try:
            return size_cell(self._short(at, "size"), self.sizes)
        except InputError as why:
            self._fault(at, "size", str(why))
            return SizeCell(None)

    def _length(self, at: int) -> float | None:
        try:
            return length_cell(self._short(at, "length"), self.unit, self.decimal)
        except InputError as why:
            self._fault(at, "length", str(why))
            return None

    def tell(self) -> None:
        """Notes on what was passed over, left out or made up."""
        where = f" on “{self.sheet.name}”" if self.named else ""
        kinds = Counter(kind for _, kind in self.passed)
        for kind in kinds:
            rows = [str(row) for row, what in self.passed if what == kind]
            many = (
                f"rows {', '.join(rows[:12])}" + ("…" if len(rows) > 12 else "") if len(rows) > 1 else f"row {rows[0]}"
            )
            self.asked.note(f"Passed over{where}: {many}, {kind}.")
        left = [f"{column_letter(at)} “{self._title(at)}”" for at in self.layout.unused(self.sheet.grid)]
        if left:
            self.asked.note(f"Not used{where}: column {', '.join(left)}.")
        if self.numbered:
            self.asked.note(f"Wires without a number{where} were numbered W1, W2 …")
        if not self.pinned and self.data:
            self.asked.note(f"The list{where} names no pins: they are numbered as they come.")

    def _title(self, at: int) -> str:
        return (self.layout.headers[at] if at < len(self.layout.headers) else "") or "no title"
