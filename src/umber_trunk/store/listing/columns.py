"""Where a list's header is and what its columns hold, each with its evidence."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from umber_trunk.core.errors import clipped
from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.amended import asked_about, side_by_side, with_given, with_units_row
from umber_trunk.store.listing.both_ends import parted
from umber_trunk.store.listing.cells import ABOUT
from umber_trunk.store.listing.colours import is_colour
from umber_trunk.store.listing.doubts import Answers, Questions, doubt
from umber_trunk.store.listing.matrix import matrix_layout
from umber_trunk.store.listing.pins import like_a_pin
from umber_trunk.store.listing.specs import is_spec
from umber_trunk.store.listing.titles import Layout, column_letter, meaning_of, plain_title, unit_of
from umber_trunk.store.listing.words import (
    A_LENGTH,
    CABLE_TITLE,
    CONDUCTOR_TITLE,
    CORE_TITLE,
    DITTO,
    TITLES,
    WIRE_TITLE,
    folded,
)

HEADER_WITHIN = 40


def find_layout(grid: Sequence[Sequence[str]], header_row: int | None, asked: Questions, sheet: str) -> Layout | None:
    """The likeliest header and its columns; None when nothing says where wires go from and to. `header_row` counts
    from 1 and 0 says there is none."""
    given = asked.answers.columns
    if header_row == 0:
        width = max((len(row) for row in grid), default=0)
        return with_given(Layout({}, 0, ("",) * width), given)
    rows = range(min(HEADER_WITHIN, len(grid))) if header_row is None else range(header_row - 1, header_row)
    best: tuple[int, Layout] | None = None
    for row in rows:
        if row >= len(grid):
            continue
        for labels in _labels(grid, row):
            layout, score = _assigned(labels, row)
            if best is None or score > best[0]:
                best = (score, layout)
    if best is None:
        return None
    layout = with_given(_by_content(best[1], grid, asked), given)
    if "both" not in given and (not layout.whole or _one_place_each(best[1], grid)):
        other = matrix_layout(grid, rows, asked) or (None if layout.whole else _arrows(grid, given))
        layout = with_given(other, given) if other else layout
    if not layout.whole:
        return None if header_row is None and not given else layout
    layout = with_units_row(side_by_side(layout, asked), grid)
    return asked_about(layout, asked, sheet)


def _one_place_each(layout: Layout, grid: Sequence[Sequence[str]]) -> bool:
    """Whether a title says from and to at once, “from/to”, over cells that name one place each and nothing else is
    titled: the corner of a table of ends down and ends across."""
    return set(layout.columns) == {"both"} and not parted(_cells(grid, layout.first_row, layout.columns["both"]))[1]


def _cells(grid: Sequence[Sequence[str]], first: int, at: int, most: int = 400) -> list[str]:
    """The telling cells of a column below its title."""
    found = [row[at] for row in grid[first : first + most] if at < len(row) and row[at]]
    return [cell for cell in found if len(cell) <= 80 and folded(cell) not in DITTO and cell not in ("-", "?")]


def _share(cells: Sequence[str], fits: Callable[[str], object]) -> float:
    return sum(bool(fits(cell)) for cell in cells) / len(cells) if cells else 0.0


class _Content:
    """A layout amended by what the cells of its columns are; `free` columns are those whose title says nothing."""

    def __init__(self, layout: Layout, grid: Sequence[Sequence[str]]) -> None:
        self.layout = layout
        self.columns, self.evidence = dict(layout.columns), dict(layout.evidence)
        width = max((len(row) for row in grid[layout.first_row : layout.first_row + 400]), default=0)
        own = {at for _, own in layout.conductors for at in own.values()}
        self.cells = {at: _cells(grid, layout.first_row, at) for at in range(min(width, 60)) if at not in own}

    def title(self, at: int | None) -> str:
        """The plain title of a column, "" for none."""
        headers = self.layout.headers
        return plain_title(headers[at]) if at is not None and 0 <= at < len(headers) else ""

    def mostly(self, at: int, fits: Callable[[str], object], share: float = 0.7) -> bool:
        """Whether more than such a share of a column's cells fit."""
        return at in self.cells and _share(self.cells[at], fits) > share

    def take(self, name: str, at: int, why: str = "as its cells say") -> None:
        """A column is this and nothing else."""
        self.columns = {known: place for known, place in self.columns.items() if place != at or known == name}
        self.columns[name], self.evidence[name] = at, why

    def sizes_named(self) -> None:
        """“Cable” that says which, and a name that is always a size."""
        called = next((at for at in self._free() if re.fullmatch(CABLE_TITLE, self.title(at))), -1)
        for at in (called, self.columns.get("name", -1)):
            if "size" not in self.columns and self.mostly(at, is_spec):
                self.take("size", at)

    def by_cells(self) -> None:
        """Sizes, colours and lengths that no title tells of; “Run” names runs as often as it says how long they are."""
        runs = self.columns.get("length", -1)
        named = len(self.cells.get(runs, ())) > 1 and not any(ABOUT.sub("", c)[0].isdigit() for c in self.cells[runs])
        if named:
            del self.columns["length"]
        self.sizes_named()
        free = [at for at in self._free() if not named or at != runs]
        for name, fits in (("size", is_spec), ("colour", is_colour), ("length", _A_LENGTH.fullmatch)):
            places = [at for at in free if name not in self.columns and self.mostly(at, fits)]
            if places:
                self.take(name, places[0])
        if named and "wire" not in self.columns:
            self.take("wire", runs, "no lengths, as its cells say")
        colour = self.columns.get("colour", -1)
        if "size" not in self.columns and self.mostly(colour, is_spec, 0.6):
            self.columns["size"], self.evidence["size"] = colour, "beside the colours"

    def pins_beside(self, asked: Questions) -> None:
        """Columns of pins right after both ends, under one title."""
        free = [at for at in self.cells if at not in self.columns.values()]
        pins = [at for at in free if self.mostly(at, like_a_pin, 0.5) and self.layout.headers[at : at + 1] != ("",)]
        ends = {one: self.columns[one] for one in ("from", "to") if one in self.columns}
        beside = {
            f"{one}-pin": at + 1 for one, at in ends.items() if f"{one}-pin" not in self.columns and at + 1 in pins
        }
        titles = [self.title(at) for at in beside.values()]
        if len(beside) < 2 or len({re.sub(r" ?(?:a|b|1|2)$", "", title) for title in titles}) != 1:
            return
        letters = joined("any.and", [column_letter(at) for at in beside.values()])
        odd = [cell for at in beside.values() for cell in self.cells[at] if not like_a_pin(cell)]
        if all(self.mostly(at, like_a_pin, 0.8) for at in beside.values()):
            asked.note("pin-columns", columns=letters, title=titles[0])
        elif not self._are_pins(letters, titles[0], odd, asked):
            return
        self.columns |= beside
        self.evidence |= dict.fromkeys(beside, "beside its end, as its cells say")

    def _are_pins(self, letters: Message | str, title: str, odd: Sequence[str], asked: Questions) -> bool:
        """Asked where a few cells are no pins: without the columns every pin of the list would be lost."""
        said = asked.ask(
            doubt(
                "pins-beside",
                ("pin", "other"),
                "pin",
                "--answer pins-beside={}",
                columns=letters,
                title=title,
                cell=clipped(odd[0]),
                more=len(odd) - 1,
            )
        )
        return said == "pin"

    def _free(self) -> list[int]:
        """Columns no title takes, and the one of the wire's number, which may be something else."""
        return [at for at in self.cells if at not in self.columns.values() or at == self.columns.get("wire")]


_A_LENGTH = re.compile(A_LENGTH, re.I)


def _by_content(layout: Layout, grid: Sequence[Sequence[str]], asked: Questions) -> Layout:
    """Columns whose title says nothing, or something their cells are not, by what the cells are."""
    content = _Content(layout, grid)
    content.by_cells()
    content.pins_beside(asked)
    return replace(layout, columns=content.columns, evidence=content.evidence)


def _arrows(grid: Sequence[Sequence[str]], given: Mapping[str, int]) -> Layout | None:
    """A list whose cells hold both ends of each wire, whether or not a title says so."""
    width = min(max((len(row) for row in grid[:400]), default=0), 60)
    for at in range(width):
        cells = _cells(grid, 0, at)
        rows = [row for row in range(len(grid)) if at < len(grid[row]) and _ARROW.search(grid[row][at])]
        if not rows or len(rows) < 0.5 * len(cells):
            continue
        first = rows[0]
        labels = grid[first - 1] if first and sum(map(bool, grid[first - 1])) > 1 else [""] * width
        layout, _ = _assigned(list(labels) + [""] * (width - len(labels)), first - 1)
        columns = {
            name: place for name, place in layout.columns.items() if place != at and name not in ("from", "to")
        } | {"both": at}
        layout = replace(layout, columns=columns, first_row=first)
        return _by_content(layout, grid, Questions(Answers()))
    return None


_ARROW = re.compile(r"\S\s*(?:<?[-=–]{1,2}>|→|⇒|↔)\s*\S")


def _labels(grid: Sequence[Sequence[str]], row: int) -> list[list[str]]:
    """A row's labels alone, and with a header row above spread over them."""
    alone = list(grid[row])
    if row == 0:
        return [alone]
    above, last = [], ""
    for at in range(len(alone)):
        last = (grid[row - 1][at] if at < len(grid[row - 1]) else "") or last
        above.append(last)
    spread = [f"{a} {b}".strip() if a != b else b for a, b in zip(above, alone, strict=True)]
    return [alone, [_better(a, s) for a, s in zip(alone, spread, strict=True)]]


def _better(alone: str, spread: str) -> str:
    """A title with the one above it, where by itself it says nothing or only that it is a pin."""
    known = meaning_of(alone) if alone else None
    return spread if known in (None, "pin") and meaning_of(spread) not in (None, "pin") else alone


class _Titles:
    """Columns by their titles, with what each is taken on. `extra` are further columns of one meaning."""

    def __init__(self, labels: Sequence[str]) -> None:
        self.labels = labels
        self.columns: dict[str, int] = {}
        self.evidence: dict[str, str] = {}
        self.extra: dict[str, list[int]] = defaultdict(list)
        self.conductors = _conductors(labels)

    def take(self, name: str, at: int, more: str = "") -> None:
        """A column is this, by its title."""
        self.columns[name], self.evidence[name] = at, f"titled “{self.labels[at]}”{more}"

    def by_meaning(self) -> None:
        """What each title says by itself; then what can be told only beside others: things that are ends, a cable with
        its core, whose pins a column has, descriptions where nothing else names the wire."""
        own = {at for _, places in self.conductors for at in places.values()}
        loose: list[int] = []
        things: list[int] = []
        for at, label in enumerate(self.labels):
            found = meaning_of(label) if label and at not in own else None
            if found == "from" and "from" in self.columns and "to" not in self.columns and plain_title(label) == "a":
                found = "to"  # “da, a” and “de, a”
            if found == "pin":
                loose.append(at)
            elif found == "thing":
                things.append(at)
            elif found and found not in self.columns and found not in ("description", "remark"):
                self.take(found, at)
            elif found:
                self.extra[found].append(at)
        ends = [name for name in ("from", "to") if name not in self.columns]
        for at, name in zip(things, ends, strict=False):
            self.take(name, at)
        _cable_and_core(self.labels, self.columns, self.extra)
        self._pins(loose)
        if "name" not in self.columns and self.extra["description"]:
            self.take("name", self.extra["description"][0])

    def _pins(self, loose: Sequence[int]) -> None:
        """Whose pins the columns titled just “Pin” give; what could be a wire's number too is that."""
        for at in loose:
            known = self.columns
            first = "from-pin" if not {"from", "from-pin"} & set(known) else None
            owner = _owner(at, known) or first
            if owner not in ("from-pin", "to-pin") and re.fullmatch(TITLES["wire"], plain_title(self.labels[at])):
                self.take("wire", at)
            if owner:
                beside = known.get(owner.removesuffix("-pin"))
                self.take(owner, at, f", beside “{self.labels[beside]}”" if beside is not None else "")
        columns = self.columns
        if not {"from", "from-pin"} & set(columns) and columns.get("to-pin", 99) < columns.get("to", -1):
            columns["from-pin"] = columns.pop("to-pin")
            self.evidence["from-pin"] = self.evidence.pop("to-pin")

    @property
    def by_pin(self) -> bool:
        """Whether each row is a pin: its end and its pin stand there, what it is, and nothing of another end."""
        pin, columns = self.columns.get("from-pin", -1), set(self.columns)
        named = "from" in columns or (pin >= 0 and not re.search(r"pos|way|no\b", plain_title(self.labels[pin])))
        return pin >= 0 and named and not {"to", "both"} & columns and bool({"name", "wire"} & columns)

    @property
    def worth(self) -> int:
        """How much a row of titles tells: the likeliest header tells most."""
        ends = {"from", "to"} <= set(self.columns) or "both" in self.columns
        return len(self.columns) + 3 * ends + len(self.conductors)


def _assigned(labels: Sequence[str], row: int) -> tuple[Layout, int]:
    """(what the titles of a row give, how much they tell)."""
    titles = _Titles(labels)
    titles.by_meaning()
    columns = titles.columns
    notes = {name: unit_of(name, labels[at]) for name, at in columns.items() if name in ("size", "length")}
    layout = Layout(
        columns,
        row + 1,
        tuple(labels),
        {name: unit for name, unit in notes.items() if unit},
        titles.evidence,
        conductors=titles.conductors,
        by_pin=titles.by_pin,
    )
    return layout, titles.worth


def _cable_and_core(labels: Sequence[str], columns: dict[str, int], extra: Mapping[str, list[int]]) -> None:
    """Two columns that could each be the wire's number: a cable and its core."""
    places = [columns["wire"], *extra["wire"]] if "wire" in columns else []
    places += [
        at
        for at, label in enumerate(labels)
        if label and at not in places and re.fullmatch(CORE_TITLE, plain_title(label))
    ]
    cable = next((at for at in places if re.fullmatch(CABLE_TITLE, plain_title(labels[at]))), None)
    cores = [at for at in places if at != cable and re.fullmatch(CORE_TITLE, plain_title(labels[at]))]
    core = min(cores, key=lambda at: bool(re.fullmatch(WIRE_TITLE, plain_title(labels[at]))), default=None)
    if cable is None or core is None:
        return
    number = next((at for at in places if at not in (cable, core)), None)
    for name in [name for name, at in columns.items() if at in (cable, core)]:
        del columns[name]
    columns |= {"cable": cable, "core": core} | ({"wire": number} if number is not None else {})


def _conductors(labels: Sequence[str]) -> tuple[tuple[str, Mapping[str, int]], ...]:
    """Columns that repeat for the conductors of a row: “Wire A”, “Wire B”; “Colour +”, “Colour -”."""
    marks: dict[str, dict[str, int]] = defaultdict(dict)
    for at, label in enumerate(labels):
        match = re.fullmatch(CONDUCTOR_TITLE, plain_title(label)) if label else None
        if match is None:
            continue
        colour = re.match(r"colou?r|farbe|couleur", plain_title(label))
        if not (colour and match[1] in "12"):
            marks[match[1]].setdefault("colour" if colour else "wire", at)
    return tuple((mark.upper(), places) for mark, places in marks.items()) if len(marks) > 1 else ()


def _owner(at: int, columns: Mapping[str, int]) -> str | None:
    """Whose pin a column titled just “Pin” gives: the end before it, else the end right after it."""
    ends = {columns[name]: f"{name}-pin" for name in ("from", "to") if name in columns}
    before = [place for place in ends if place < at and ends[place] not in columns]
    if before:
        return ends[max(before)]
    after = [place for place in ends if place == at + 1 and ends[place] not in columns]
    return ends[after[0]] if after else None
