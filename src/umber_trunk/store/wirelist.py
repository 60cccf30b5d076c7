"""Reads a wire list as builders keep them: finds the header, guesses the columns, collects every fault.

Two steps, so that a person can correct the guess in between: `guess_layout` looks at a grid,
`read_wires` reads it by a layout. Nothing reaches a design before `add_wires` is called.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from statistics import median

from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.errors import EditError, InputError
from umber_trunk.core.harness.edits import put_all, slug
from umber_trunk.core.harness.model import Cavity, Design, End, EndKind, Pin, Wire
from umber_trunk.core.needs.attach import with_fuses
from umber_trunk.core.units import NUMBER, parse_length_m, parse_number

FIELDS = {
    "wire": "wire number", "name": "name or signal", "circuit": "circuit", "from": "from", "from_pin": "from pin",
    "to": "to", "to_pin": "to pin", "size": "size", "colour": "colour", "stripe": "stripe", "length": "length",
}  # fmt: skip
"""What a column can hold → how it is called on screen."""

_WORDS = {
    "wire": r"wire (?:no|nr|number|id|name|label|tag|#)|wire|no|nr|number|id|#|item|pos|tag|label|cable (?:no|id)|lead",
    "name": r"signal|function|description|desc|name|purpose|net|net name|signal name|remarks?",
    "circuit": r"circuit|circuit (?:no|id|name)|group|system",
    "from_pin": r"(?:from|source|start|end 1|end a|a|side a|origin)[ -](?:pin|cavity|terminal|term|pos|position|way|contact|terminal no)|pin (?:a|1|from)|cavity (?:a|1)",
    "to_pin": r"(?:to|dest|destination|target|finish|end 2|end b|b|side b)[ -](?:pin|cavity|terminal|term|pos|position|way|contact|terminal no)|pin (?:b|2|to)|cavity (?:b|2)",
    "from": r"from|source|start|origin|end 1|end a|side a|a|from (?:device|connector|conn|end|component|location|unit)|(?:device|connector|conn|component) (?:a|1|from)|(?:source|start|end a|end 1|side a) (?:device|connector|conn|component)",
    "to": r"to|dest|destination|target|finish|end 2|end b|side b|b|to (?:device|connector|conn|end|component|location|unit)|(?:device|connector|conn|component) (?:b|2|to)|(?:destination|target|end b|end 2|side b) (?:device|connector|conn|component)",
    "size": r"size|wire size|gauge|wire gauge|awg|csa|cross section|cross-section|section|area|mm2|mm²|conductor|sqmm",
    "colour": r"colou?r|wire colou?r|base colou?r|col|clr|main colou?r",
    "stripe": r"stripe|tracer|stripe colou?r|second colou?r|trace",
    "length": r"length|wire length|len|cut length|run|run length|distance",
}  # fmt: skip
_UNIT_NOTE = re.compile(
    r"[\[(]\s*([^\])]*)\s*[\])]|\bin (mm|cm|m|ft|inch(?:es)?)\b|[/,]\s*(mm|cm|m|ft|in)$|(?<=\w)\s(mm|cm|m|ft|inch|inches|feet)$",
    re.I,
)
_SIZE_INSIDE = re.compile(r"(?:\d/0|\d{1,2})\s*awg\b|\bawg\s*(?:\d/0|\d{1,2})\b|\d+(?:[.,]\d+)?\s*mm(?:2|²|\^2)", re.I)
"""A size with its unit somewhere in a cell that says more: "18 AWG thin wall", "3 x 1,5 mm²"."""
_LENGTH_UNITS = {"mm", "cm", "m", "ft", "in", "inch", "inches", "feet", "yd"}
COLOURS = {
    "BK": "black", "BN": "brown", "RD": "red", "OG": "orange", "YE": "yellow", "GN": "green", "BU": "blue",
    "VT": "violet", "GY": "grey", "WH": "white", "PK": "pink", "TQ": "turquoise", "BLK": "black", "BLU": "blue",
    "BRN": "brown", "GRN": "green", "GRY": "grey", "ORG": "orange", "ORN": "orange", "PNK": "pink", "VIO": "violet",
    "PUR": "violet", "PURPLE": "violet", "WHT": "white", "YEL": "yellow", "GRAY": "grey", "B": "black", "R": "red",
    "W": "white", "G": "green", "Y": "yellow", "O": "orange", "P": "pink", "L": "blue", "BL": "blue", "BR": "brown",
    "GR": "green", "OR": "orange", "YL": "yellow", "VI": "violet", "TAN": "tan", "BEIGE": "tan",
}  # fmt: skip
"""Colour codes of IEC 60757 and the usual short forms → words."""


@dataclass(frozen=True)
class Fault:
    """What is wrong in one cell; row and column as a spreadsheet counts them, from 1 and A."""

    row: int
    column: str
    message: str

    def __str__(self) -> str:
        where = f"row {self.row}" + (f", column {self.column}" if self.column else "")
        return f"{where}: {self.message}"


@dataclass(frozen=True)
class Layout:
    """Which column holds what. first_row is the index of the first wire's row; units where a header gives them."""

    columns: Mapping[str, int]
    first_row: int
    headers: tuple[str, ...]
    length_unit: str = "m"
    unit_from: str = ""
    size_awg: bool = False


@dataclass(frozen=True)
class ListedWire:
    """One good row."""

    row: int
    wire: str
    name: str
    circuit: str
    start: tuple[str, str]
    finish: tuple[str, str]
    size: str | None
    colour: str
    stripe: str
    length_m: float | None


@dataclass(frozen=True)
class Reading:
    """All good rows and all faults of a list."""

    wires: tuple[ListedWire, ...]
    faults: tuple[Fault, ...] = field(default=())


def column_letter(index: int) -> str:
    """0 → A, 25 → Z, 26 → AA."""
    letters = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def _plain(label: str) -> str:
    text = _UNIT_NOTE.sub(" ", label.lower().replace("_", " ")).replace(".", " ").replace(":", " ")
    return re.sub(r"\b(size|gauge|section|area|csa|conductor) (?:awg|mm2|mm²|sqmm)$", r"\1", " ".join(text.split()))


def _field_of(label: str) -> str | None:
    plain = _plain(label)
    if not plain and label.strip("()[] ").lower() in ("mm2", "mm²", "awg"):
        return "size"
    return next((name for name, words in _WORDS.items() if re.fullmatch(words, plain)), None)


def _header_labels(grid: Sequence[Sequence[str]], row: int) -> tuple[list[str], list[str]]:
    """(labels of the row alone, labels with a merged header row above spread over them)."""
    alone = list(grid[row])
    if row == 0:
        return alone, alone
    above: list[str] = []
    last = ""
    for at in range(len(alone)):
        last = (grid[row - 1][at] if at < len(grid[row - 1]) else "") or last
        above.append(last)
    return alone, [f"{a} {b}".strip() for a, b in zip(above, alone, strict=True)]


def _assign(labels: Sequence[str]) -> dict[str, int]:
    columns: dict[str, int] = {}
    for at, label in enumerate(labels):
        found = _field_of(label) if label else None
        if found and found not in columns:
            columns[found] = at
    return columns


def guess_layout(grid: Sequence[Sequence[str]]) -> Layout:
    """The most likely header among the first 20 rows and what its columns hold.

    InputError when no row names at least "from" and "to".
    """
    best: tuple[int, dict[str, int], int, list[str]] | None = None
    for row in range(min(20, len(grid))):
        alone, spread = _header_labels(grid, row)
        merged = [(_field_of(s) and s) or a for a, s in zip(alone, spread, strict=True)]
        for labels in (alone, merged):
            columns = _assign(labels)
            score = len(columns) + 3 * ("from" in columns and "to" in columns)
            if best is None or score > best[0]:
                best = (score, columns, row, labels)
    if best is None or not {"from", "to"} <= set(best[1]):
        raise InputError(
            "No header row names where wires go from and to. Name the columns, such as: wire, from, to, size, "
            "colour, length."
        )
    _, columns, row, labels = best
    layout = Layout(columns, row + 1, tuple(labels))
    return _with_units(layout, grid)


def _with_units(layout: Layout, grid: Sequence[Sequence[str]]) -> Layout:
    label = layout.headers[layout.columns["size"]].lower() if "size" in layout.columns else ""
    awg = "awg" in label or "gauge" in label or _column_says_awg(layout, grid)
    if "length" not in layout.columns:
        return replace(layout, size_awg=awg)
    at = layout.columns["length"]
    note = _UNIT_NOTE.search(layout.headers[at].replace("_", " "))
    unit = next((part for part in note.groups() if part), "").strip(" .").lower() if note else ""
    if unit in _LENGTH_UNITS:
        return replace(layout, length_unit=unit, unit_from="header", size_awg=awg)
    bare = [
        parse_number(row[at]) for row in grid[layout.first_row :]
        if at < len(row) and re.fullmatch(NUMBER, row[at].strip())
    ]  # fmt: skip
    if bare and median(bare) > 60:
        return replace(layout, length_unit="mm", unit_from="guess: the numbers are large", size_awg=awg)
    return replace(layout, unit_from="guess: the numbers are small" if bare else "cells", size_awg=awg)


def _column_says_awg(layout: Layout, grid: Sequence[Sequence[str]]) -> bool:
    """Bare sizes are AWG when others in their column say so and none says mm²."""
    at = layout.columns.get("size", 10**6)
    cells = " ".join(row[at].lower() for row in grid[layout.first_row :] if at < len(row))
    return ("awg" in cells or re.search(r"\d\s*ga\b", cells) is not None) and "mm" not in cells


class _Row:
    """One row being read: gives cells by field and keeps its faults."""

    def __init__(self, layout: Layout, number: int, cells: Sequence[str], faults: list[Fault]) -> None:
        self.layout, self.number, self.cells, self.faults = layout, number, cells, faults
        self.bad = False

    def text(self, name: str) -> str:
        at = self.layout.columns.get(name)
        cell = self.cells[at].strip() if at is not None and at < len(self.cells) else ""
        return cell[1:] if cell[:1] == "'" and cell[1:2] in ("=", "+", "-", "@") else cell

    def fault(self, name: str, message: str) -> None:
        at = self.layout.columns.get(name)
        self.bad = True
        self.faults.append(Fault(self.number, column_letter(at) if at is not None else "", message))


def read_wires(grid: Sequence[Sequence[str]], layout: Layout, taken: Sequence[str] = ()) -> Reading:
    """Every row below the header; blank rows are passed over, each fault names its cell.

    `taken` are wire ids the design has already; a row that repeats one is a fault.
    """
    faults: list[Fault] = []
    wires: list[ListedWire] = []
    seen: dict[str, int] = {}
    used = set(taken)
    for at in range(layout.first_row, len(grid)):
        if not any(cell.strip() for cell in grid[at]):
            continue
        row = _Row(layout, at + 1, grid[at], faults)
        wire = _read_row(row, len(wires) + 1, used | set(seen))
        if wire is None:
            continue
        if wire.wire in seen:
            row.fault("wire", f"wire {wire.wire} is in row {seen[wire.wire]} already.")
        elif wire.wire in used:
            row.fault("wire", f"the harness has a wire {wire.wire} already.")
        else:
            seen[wire.wire] = row.number
            wires.append(wire)
    if not wires and not faults:
        faults.append(Fault(layout.first_row + 1, "", "there is no wire below the header."))
    return Reading(tuple(wires), tuple(faults))


def _read_row(row: _Row, count: int, used: set[str]) -> ListedWire | None:
    start, finish = _pin(row, "from", "from_pin"), _pin(row, "to", "to_pin")
    size, length = _size(row), _length(row)
    colour, stripe = split_colour(row.text("colour"))
    wire_id = row.text("wire")
    if not wire_id:
        while f"W{count}" in used:
            count += 1
        wire_id = f"W{count}"
    if len(wire_id) > 80:
        row.fault("wire", "a wire number has at most 80 characters.")
    if start and finish and start == finish and all(start):
        row.fault("to", "the wire ends where it starts.")
    if row.bad:
        return None
    second = split_colour(row.text("stripe"))[0]
    return ListedWire(
        row.number, wire_id, row.text("name")[:400], row.text("circuit")[:400], start, finish, size,
        colour[:20], (stripe or second)[:20], length,
    )  # fmt: skip


def _pin(row: _Row, place: str, pin: str) -> tuple[str, str]:
    name, cavity = row.text(place), row.text(pin)
    if not name:
        row.fault(place, f"“{FIELDS[place]}” is empty.")
        return "", ""
    if not cavity:
        name, cavity = split_pin(name)
    if len(name) > 80 or len(cavity) > 80:
        row.fault(place, "an end or pin has at most 80 characters.")
    return name, cavity


def split_pin(text: str) -> tuple[str, str]:
    """ "X1:3" → ("X1", "3"), "battery +" → ("battery", "+"), "X1 pin 4" → ("X1", "4"); no pin → ""."""
    for pattern in (r"(.+?)\s*[:/]\s*([^:/]{1,12})", r"(.+?)[\s,]+(?:pin|term(?:inal)?|cav(?:ity)?)\s*(\S{1,12})",
                    r"(.+?)\.([A-Za-z]?\d{1,3})", r"(.+?)\s*([+−-])"):  # fmt: skip
        match = re.fullmatch(pattern, text.strip(), re.I)
        if match:
            return match[1].strip(), match[2].strip().replace("−", "-")
    return text.strip(), ""


def _size(row: _Row) -> str | None:
    text = row.text("size")
    if not text or text in ("-", "–", "?"):
        return None
    try:
        if row.layout.size_awg and re.fullmatch(r"\d{1,2}|\d/0", text):
            return parse_size(f"AWG {text}").label
        return parse_size(text).label
    except InputError as why:
        inside = _SIZE_INSIDE.search(text)
        if inside is None:
            row.fault("size", str(why))
            return None
        return parse_size(inside[0]).label


def _length(row: _Row) -> float | None:
    text = row.text("length")
    if not text or text in ("-", "–", "?"):
        return None
    try:
        return parse_length_m(text, row.layout.length_unit)
    except InputError as why:
        row.fault("length", str(why))
        return None


def split_colour(text: str) -> tuple[str, str]:
    """(colour, stripe) in words from "RD/WH", "red-white", "BK"; unknown words stay as they are."""
    parts = [part for part in re.split(r"\s*[/\-,+|]\s*|\s+with\s+|\s+stripe\b", text.strip()) if part]
    if len(parts) == 1 and re.fullmatch(r"[A-Z]{4}", parts[0]) and {parts[0][:2], parts[0][2:]} <= set(COLOURS):
        parts = [parts[0][:2], parts[0][2:]]
    if len(parts) == 1 and " " in parts[0]:
        words = parts[0].split()
        if all(word.upper() in COLOURS or word.lower() in COLOURS.values() for word in words):
            parts = words
    named = [COLOURS.get(part.upper(), part.lower()) for part in parts]
    return (named[0] if named else "", named[1] if len(named) > 1 else "")


def add_wires(design: Design, reading: Reading, skip_bad: bool = False) -> Design:
    """The design with the listed wires and the ends they name. EditError while faults remain, unless
    the good rows alone were asked for."""
    if reading.faults and not skip_bad:
        raise EditError(f"The list has {len(reading.faults)} faults; nothing was imported.")
    by_name = {end.name.lower(): end for end in design.ends} | {end.id.lower(): end for end in design.ends}
    ends: dict[str, End] = {}
    used = [end.id for end in design.ends]
    free = Counter[str]()

    def pin(place: tuple[str, str]) -> Pin:
        name, cavity = place
        key = name.lower()
        end = ends.get(by_name[key].id, by_name[key]) if key in by_name else None
        if end is None:
            end = End(id=slug(name, used), name=name, kind=_kind(name))
            used.append(end.id)
        if not cavity:
            free[end.id] += 1
            cavity = "1" if end.kind in (EndKind.SPLICE, EndKind.STUD) else f"{free[end.id]}"
        if all(known.id != cavity for known in end.cavities):
            end = end.model_copy(update={"cavities": (*end.cavities, Cavity(id=cavity))})
        ends[end.id] = by_name[key] = end
        return Pin(end=end.id, cavity=cavity)

    wires = [
        Wire(
            id=row.wire, start=pin(row.start), finish=pin(row.finish), name=row.name, circuit=row.circuit,
            size=row.size, colour=row.colour, stripe=row.stripe, stated_m=row.length_m,
        )
        for row in reading.wires
    ]  # fmt: skip
    return put_all(put_all(design, "ends", [with_fuses(end) for end in ends.values()]), "wires", wires)


def _kind(name: str) -> EndKind:
    """A guess from the name; the builder can change it."""
    lowered = name.lower()
    if re.search(r"\bsplice|^sp\d|^s\d+$", lowered):
        return EndKind.SPLICE
    if re.search(r"\bgnd|ground|earth|stud|bus ?bar|frame\b", lowered):
        return EndKind.STUD
    if re.search(r"fuse ?(?:box|block|panel)", lowered):
        return EndKind.BOX
    if re.fullmatch(r"[xjp]\d+[a-z]?|conn\w*.*", lowered):
        return EndKind.CONNECTOR
    return EndKind.DEVICE
