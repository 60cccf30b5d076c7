"""A list read into wires with its faults, its open questions, and everything it was taken for.

`read_list` never touches a design: a person sees the reading, answers what is open, and `merge` does the rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from umber_trunk.core.bulk import many_objects
from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.cables import cables_of, splices_of
from umber_trunk.store.listing.columns import find_layout
from umber_trunk.store.listing.doubts import Answers, Doubt, Fault, Option, Questions, doubt, wrong
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.sheet_reader import SheetReader
from umber_trunk.store.listing.titles import Layout
from umber_trunk.store.sheets import Book, Sheet


@dataclass(frozen=True)
class SheetReading:
    """How one sheet was taken. `passed` names rows that are no wires, with what they are."""

    sheet: Sheet
    layout: Layout
    length_unit: str
    passed: tuple[tuple[int, Message], ...]
    unused: tuple[int, ...]


@dataclass(frozen=True)
class ListReading:
    """All good rows, all faults, all open doubts and the notes of a list. `asked` are all questions, answered or not;
    `splices` the names of ends that are splices, in lower case."""

    wires: tuple[ListedWire, ...]
    faults: tuple[Fault, ...] = ()
    doubts: tuple[Doubt, ...] = ()
    notes: tuple[Message, ...] = ()
    sheets: tuple[SheetReading, ...] = ()
    asked: tuple[Doubt, ...] = ()
    splices: frozenset[str] = frozenset()

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
    used, seen = set(taken), dict[str, Message]()
    for sheet, layout in layouts:
        go_on_if(wanted)
        reader = SheetReader(sheet, layout, asked, book.delimiter, decimal, len(layouts) > 1)
        found = reader.read(used, seen, wanted)
        rows += found
        faults += reader.faults
        sheets.append(
            SheetReading(
                sheet, reader.layout, reader.unit, tuple(reader.passed), tuple(reader.layout.unused(sheet.grid))
            )
        )
        reader.tell()
    if not rows and not faults:
        first = layouts[0]
        faults.append(Fault(first[1].first_row + 1, "", wrong("no-wire")))
    rows = cables_of(rows, asked)
    splices = splices_of(rows, asked)
    return ListReading(
        tuple(rows), tuple(faults), tuple(asked.open), tuple(asked.notes), tuple(sheets), tuple(asked.asked), splices
    )


def _layouts(book: Book, asked: Questions) -> list[tuple[Sheet, Layout]]:
    """The sheets to read, each with its layout; sheets left out are named."""
    filled = [sheet for sheet in book.sheets if any(any(row) for row in sheet.grid)]
    found = _holding_wires(book, filled, asked.answers)
    if len(found) > 1 and not asked.answers.sheets:
        found = _chosen_sheets(found, asked)
    kept = {sheet.name for sheet in found}
    for sheet in book.sheets:
        if sheet.name not in kept:
            asked.note("sheet-left", sheet=sheet.name, empty=sheet not in filled)
    layouts = []
    for sheet in found:
        layout = find_layout(sheet.grid, asked.answers.header_row, asked, sheet.name if len(found) > 1 else "")
        assert layout is not None
        layouts.append((sheet, layout))
    return layouts


def _holding_wires(book: Book, filled: Sequence[Sheet], answers: Answers) -> list[Sheet]:
    """Of the sheets that are wanted those whose titles name where wires go. InputError where there is none."""
    names = [sheet.name for sheet in book.sheets]
    lost = [name for name in answers.sheets if name not in names]
    if lost:
        raise InputError.of("listing.no-sheet-sheets", lost=lost[0], names=", ".join(names))
    wanted = [sheet for sheet in filled if not answers.sheets or sheet.name in answers.sheets]
    if not wanted:
        raise InputError.of("listing.holds-nothing", book=book.name)
    trial = Questions(replace(answers, accept=True))
    found = []
    for sheet in wanted:
        layout = find_layout(sheet.grid, answers.header_row, trial, sheet.name)
        if layout is not None and layout.whole:
            found.append(sheet)
    if not found:
        raise InputError.of("listing.no-header-row-names-where-wires")
    return found


def _chosen_sheets(found: list[Sheet], asked: Questions) -> list[Sheet]:
    """All of them or one, which is asked."""
    shown = [Message.of("list.sheet", name=sheet.name, hidden=sheet.hidden) for sheet in found]
    said = asked.ask(
        doubt(
            "sheet",
            ("all", *(Option(one.name, Message.of("list.answer.sheet.only", name=one.name)) for one in found)),
            "all",
            "--sheet {}",
            count=len(found),
            sheets=joined("any.list", shown),
        )
    )
    return [sheet for sheet in found if said in ("all", sheet.name)]
