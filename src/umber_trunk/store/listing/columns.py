"""Where a list's header is and what its columns hold, each with its evidence."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from umber_trunk.store.listing.amended import asked_about, side_by_side, with_given, with_units_row
from umber_trunk.store.listing.cells import ABOUT
from umber_trunk.store.listing.colours import is_colour
from umber_trunk.store.listing.doubts import Answers, Doubt, Option, Questions
from umber_trunk.store.listing.pins import like_a_pin
from umber_trunk.store.listing.specs import is_spec
from umber_trunk.store.listing.titles import Layout, column_letter, meaning_of, plain_title, unit_of
from umber_trunk.store.listing.words import (
    CABLE_TITLE,
    CONDUCTOR_TITLE,
    CORE_TITLE,
    DITTO,
    LENGTH_WORDS,
    TITLES,
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
    if not layout.whole and "both" not in given:
        other = _matrix(grid, rows, asked) or _arrows(grid, given)
        layout = with_given(other, given) if other else layout
    if not layout.whole:
        return None if header_row is None and not given else layout
    layout = with_units_row(side_by_side(layout, asked), grid)
    return asked_about(layout, asked, sheet)


def _cells(grid: Sequence[Sequence[str]], first: int, at: int, most: int = 400) -> list[str]:
    """The telling cells of a column below its title."""
    found = [row[at] for row in grid[first : first + most] if at < len(row) and row[at]]
    return [cell for cell in found if len(cell) <= 80 and folded(cell) not in DITTO and cell not in ("-", "?")]


def _share(cells: Sequence[str], fits: Callable[[str], object]) -> float:
    return sum(bool(fits(cell)) for cell in cells) / len(cells) if cells else 0.0


def _by_content(layout: Layout, grid: Sequence[Sequence[str]], asked: Questions) -> Layout:
    """Columns whose title says nothing, or something their cells are not, by what the cells are."""
    columns, evidence = dict(layout.columns), dict(layout.evidence)
    width = max((len(row) for row in grid[layout.first_row : layout.first_row + 400]), default=0)
    taken = {at for _, own in layout.conductors for at in own.values()}
    cells = {at: _cells(grid, layout.first_row, at) for at in range(min(width, 60)) if at not in taken}
    free = [at for at in cells if at not in columns.values() or at == columns.get("wire")]

    def take(name: str, at: int) -> None:
        if columns.get("wire") == at:
            del columns["wire"]
        columns[name], evidence[name] = at, "as its cells say"

    tests: tuple[tuple[str, Callable[[str], object]], ...] = (
        ("size", is_spec), ("colour", is_colour), ("length", re.compile(rf"\d+(?:[.,]\d+)?\s*(?:{LENGTH_WORDS})", re.I).fullmatch)
    )  # fmt: skip
    runs = columns.get("length", -1)
    if runs in cells and len(cells[runs]) > 1 and not any(ABOUT.sub("", cell)[0].isdigit() for cell in cells[runs]):
        del columns["length"]  # “Run” names runs as often as it says how long they are
    else:
        runs = -1
    called = next(
        (
            at
            for at in free
            if re.fullmatch(CABLE_TITLE, plain_title(layout.headers[at] if at < len(layout.headers) else ""))
        ),
        -1,
    )
    if "size" not in columns and called in cells and _share(cells[called], is_spec) > 0.7:
        take("size", called)  # “Cable” says which
    told = columns.get("name", -1)
    if "size" not in columns and told in cells and _share(cells[told], is_spec) > 0.7:
        del columns["name"]
        take("size", told)
    for name, fits in tests:
        places = [at for at in free if name not in columns and _share(cells[at], fits) > 0.7]
        if places:
            take(name, places[0])
    if runs >= 0 and "wire" not in columns:
        columns["wire"], evidence["wire"] = runs, "no lengths, as its cells say"
    colour = columns.get("colour", -1)
    if "size" not in columns and colour in cells and _share(cells[colour], is_spec) > 0.6:
        columns["size"], evidence["size"] = colour, "beside the colours"
    free = [at for at in cells if at not in columns.values()]
    ends = {name: columns[name] for name in ("from", "to") if name in columns and f"{name}-pin" not in columns}
    pins = [at for at in free if _share(cells[at], like_a_pin) > 0.8 and layout.headers[at : at + 1] != ("",)]
    beside = {name: next((pin for pin in pins if pin == at + 1), None) for name, at in ends.items()}
    titles = [
        plain_title(layout.headers[pin]) if pin is not None and pin < len(layout.headers) else ""
        for pin in beside.values()
    ]
    if (
        len(ends) == 2
        and None not in beside.values()
        and len({re.sub(r" ?(?:a|b|1|2)$", "", title) for title in titles}) == 1
    ):
        columns |= {f"{name}-pin": pin for name, pin in beside.items() if pin is not None}
        evidence |= {f"{name}-pin": "beside its end, as its cells say" for name in beside}
        asked.note(
            f"Columns {' and '.join(column_letter(pin) for pin in beside.values() if pin is not None)}, "
            f"“{titles[0]}”, hold the pins."
        )
    return replace(layout, columns=columns, evidence=evidence)


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
_CORNER = re.compile(r"(?:from|von|de|da|van|od|z|fran)\W+(?:to|nach|a|vers|para|naar|do|till)|[↓→\\/|x]+", re.I)


def _matrix(grid: Sequence[Sequence[str]], rows: Sequence[int], asked: Questions) -> Layout | None:
    """A table of ends down and ends across, with what joins them where they meet."""
    for row in rows:
        if row + 2 > len(grid) or len(grid[row]) < 3:
            continue
        across = [cell for cell in grid[row][1:] if cell]
        down = [line[0] for line in grid[row + 1 :] if line and line[0]]
        inside = [cell for line in grid[row + 1 :] for cell in line[1:] if cell]
        if (
            len(across) < 2
            or len(down) < 2
            or len(set(across)) < len(across)
            or len(set(down)) < len(down)
            or not inside
        ):
            continue
        sure = bool(_CORNER.fullmatch(folded(grid[row][0]))) and bool(grid[row][0])
        fitting = _share(
            inside, lambda cell: is_spec(cell) or re.fullmatch(r"[xX✓•]|\d+(?:[.,]\d+)?|[A-Z]{1,3}\d+|-", cell)
        )
        if (
            any(meaning_of(cell) for cell in across)
            or (fitting < 0.8 and not sure)
            or (not sure and len(inside) > 0.8 * len(across) * len(down))
        ):
            continue
        said = (
            "yes"
            if sure
            else asked.ask(
                Doubt(
                    "matrix",
                    "Do ends stand down and across, with their wires where they meet?",
                    f"“{down[0]}”, “{down[1]}” … down and “{across[0]}”, “{across[1]}” … across.",
                    (Option("yes", "yes: each filled cell is a wire"), Option("no", "no")),
                    "yes",
                    "--answer matrix={}",
                )
            )
        )
        if said == "yes":
            asked.note("Ends stand down and across; each filled cell is a wire from its row to its column.")
            return Layout({"from": 0}, row + 1, tuple(grid[row]), matrix=True)
    return None


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


def _assigned(labels: Sequence[str], row: int) -> tuple[Layout, int]:
    columns: dict[str, int] = {}
    extra: dict[str, list[int]] = defaultdict(list)
    evidence: dict[str, str] = {}
    loose: list[int] = []
    things: list[int] = []
    conductors = _conductors(labels)
    own = {at for _, places in conductors for at in places.values()}
    for at, label in enumerate(labels):
        found = meaning_of(label) if label and at not in own else None
        if found == "from" and "from" in columns and "to" not in columns and plain_title(label) == "a":
            found = "to"  # “da, a” and “de, a”
        if found == "pin":
            loose.append(at)
        elif found == "thing":
            things.append(at)
        elif found in ("description", "remark"):
            extra[found].append(at)
        elif found and found not in columns:
            columns[found] = at
            evidence[found] = f"titled “{label}”"
        elif found:
            extra[found].append(at)
    for at, name in zip(things, [name for name in ("from", "to") if name not in columns], strict=False):
        columns[name], evidence[name] = at, f"titled “{labels[at]}”"
    _cable_and_core(labels, columns, extra)
    for at in loose:
        owner = _owner(at, columns) or ("from-pin" if "from" not in columns and "from-pin" not in columns else None)
        if owner != "from-pin" and owner != "to-pin" and re.fullmatch(TITLES["wire"], plain_title(labels[at])):
            columns["wire"], evidence["wire"] = at, f"titled “{labels[at]}”"
        if owner:
            columns[owner] = at
            beside = columns.get(owner.removesuffix("-pin"))
            evidence[owner] = f"titled “{labels[at]}”" + (f", beside “{labels[beside]}”" if beside is not None else "")
    if "from" not in columns and "from-pin" not in columns and columns.get("to-pin", 99) < columns.get("to", -1):
        columns["from-pin"] = columns.pop("to-pin")
        evidence["from-pin"] = evidence.pop("to-pin")
    if "name" not in columns and extra["description"]:
        columns["name"] = extra["description"][0]
        evidence["name"] = f"titled “{labels[extra['description'][0]]}”"
    notes = {name: unit_of(name, labels[at]) for name, at in columns.items() if name in ("size", "length")}
    pin = columns.get("from-pin", -1)
    named = "from" in columns or (pin >= 0 and not re.search(r"pos|way|no\b", plain_title(labels[pin])))
    other = {"to", "both"} & set(columns)
    by_pin = pin >= 0 and named and not other and bool({"name", "wire"} & set(columns))
    layout = Layout(
        columns,
        row + 1,
        tuple(labels),
        {k: v for k, v in notes.items() if v},
        evidence,
        conductors=conductors,
        by_pin=by_pin,
    )
    return layout, len(columns) + 3 * (("from" in columns and "to" in columns) or "both" in columns) + len(conductors)


def _cable_and_core(labels: Sequence[str], columns: dict[str, int], extra: Mapping[str, list[int]]) -> None:
    """Two columns that could each be the wire's number: a cable and its core."""
    places = [columns["wire"], *extra["wire"]] if "wire" in columns else []
    places += [
        at
        for at, label in enumerate(labels)
        if label and at not in places and re.fullmatch(CORE_TITLE, plain_title(label))
    ]
    cable = next((at for at in places if re.fullmatch(CABLE_TITLE, plain_title(labels[at]))), None)
    core = next((at for at in places if at != cable and re.fullmatch(CORE_TITLE, plain_title(labels[at]))), None)
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
