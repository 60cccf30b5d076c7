"""Cells of a list as values: sizes with their cores, lengths, pins and colours, each column as a whole first."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

from umber_trunk.core.catalog.conductors import parse_size, series
from umber_trunk.core.errors import InputError
from umber_trunk.core.quantity import DoubtfulError, Habit
from umber_trunk.core.sentences import Message
from umber_trunk.core.units import parse_length_m
from umber_trunk.store.listing.colours import NOTHING
from umber_trunk.store.listing.doubts import Questions, doubt, named
from umber_trunk.store.listing.specs import Spec

LARGE = 60  # lengths without a unit are likelier millimetres above this
_BARE = re.compile(r"\d+(?:[.,]\d+)?")
_INSIDE = re.compile(
    r"(?:\b(?:\d/0|\d{1,2})\s*-?\s*(?:awg|ga|gauge|gage)\b|\bawg\s*(?:\d/0|\d{1,2})\b|\b[1-4]/0\b|"
    r"(?<![\d.,])\d+(?:[.,]\d+)?\s*(?:mm2|mm²|mm\^2|sqmm)(?!\w))",
    re.I,
)
_GAUGE = r"awg|\bga\b|gauge"
_STEPS_MM2 = frozenset((0.05, 0.08, 0.13, 0.14, 0.22, 0.25, 0.34, 0.35, 0.5, 0.75, 0.85, 1.5, 2.5))
_FEET = re.compile(r"\b(?:ft|feet|foot|in|inch|inches)\b|[\"'′″]", re.I)


@dataclass(frozen=True)
class SizeRules:
    """How a column's sizes are read: series of bare numbers ("" while nobody knows), whether “mm” stands for mm²,
    what “3x1.5” stands for, whether words after a size may go, and the mark of decimals."""

    bare: str
    mm_area: bool
    many: str
    words: str
    decimal: str


@dataclass(frozen=True)
class SizeCell:
    """A size as read: its label, conductors side by side, and wires that the row stands for."""

    label: str | None
    parallel: int = 1
    wires: int = 1


def decimal_of(columns: Mapping[str, Sequence[str]], habit: str, delimiter: str, unit: str, asked: Questions) -> str:
    """Which mark parts decimals in the columns of figures: as said, by the habit, by the figures themselves, or
    asked. "" where no figure needs it."""
    said = asked.answers.said.get("decimal")
    doubtful = [cell for cells in columns.values() for cell in cells if _is_doubtful(cell)]
    if not doubtful:
        return said or habit
    if said:
        return said
    if habit:
        asked.note("decimal-habit", cell=doubtful[0], mark=Message.of(f"list.mark.{habit}"))
        return habit
    marks = {mark for name, cells in columns.items() if any(map(_is_doubtful, cells)) for mark in _evidence(cells)}
    lengths = [cell for cell in columns.get("length", ()) if _is_doubtful(cell)]
    plausible = _plausible(lengths, unit or _usual_unit(columns.get("length", ())))
    if len(marks) == 1 and plausible in ("", *marks):
        decimal = next(iter(marks))
        asked.note("decimal-column", cell=doubtful[0], mark=Message.of(f"list.mark.{decimal}"))
        return decimal
    others = {mark for cells in columns.values() for mark in _evidence(cells)}
    likeliest = (
        plausible or (next(iter(others)) if len(others) == 1 else "") or ("comma" if delimiter == ";" else "point")
    )
    point, comma = (_shown(doubtful[0], mark) for mark in ("point", "comma"))
    return asked.ask(
        doubt(
            "decimal",
            ("point", "comma"),
            likeliest,
            "--decimal {}",
            cell=doubtful[0],
            point=point,
            comma=comma,
            both=len(others) == 2,
        )
    )


@lru_cache(maxsize=20_000)
def _is_doubtful(cell: str) -> bool:
    return re.search(r"(?<![\d.,])[1-9]\d{0,2}[.,]\d{3}(?![\d.,])", cell) is not None


def _evidence(cells: Sequence[str]) -> set[str]:
    """The marks that must stand before decimals, judged by cells that have but one reading."""
    found = set()
    for cell in cells:
        for match in re.finditer(r"(?<![\d.,])(\d+)([.,])(\d+)(?![\d.,])", cell):
            if len(match[3]) != 3 or match[1].startswith("0") or len(match[1]) > 3:
                found.add("point" if match[2] == "." else "comma")
        if re.search(r"\d[,]\d{3}\.\d|\d,\d{3},\d{3}", cell):
            found.add("point")
        if re.search(r"\d\.\d{3},\d|\d\.\d{3}\.\d{3}", cell):
            found.add("comma")
    return found


def _usual_unit(cells: Sequence[str]) -> str:
    """The unit that bare figures with but one reading suggest by their size."""
    sure = [float(cell.replace(",", ".")) for cell in cells if _BARE.fullmatch(cell) and not _is_doubtful(cell)]
    return "mm" if sure and median(sure) > LARGE else ""


def _plausible(cells: Sequence[str], unit: str) -> str:
    """The mark that gives lengths a wire may have."""
    fitting = []
    for mark in ("point", "comma"):
        lengths = []
        for cell in cells:
            try:
                lengths.append(parse_length_m(cell, unit or "m", Habit(mark)))
            except InputError:
                continue
        if lengths and 0.02 <= median(lengths) <= 100:
            fitting.append(mark)
    return fitting[0] if len(fitting) == 1 else ""


def _shown(cell: str, mark: str) -> str:
    match = re.search(r"[1-9]\d{0,2}[.,]\d{3}", cell)
    assert match is not None
    thousands = "," if mark == "point" else "."
    return f"{float(match[0].replace(thousands, '').replace(',', '.')):g}"


def length_unit(
    cells: Sequence[str], note: str, decimal: str, asked: Questions, column: int, gauges: bool = False
) -> str:
    """The unit of lengths without one; asked when some are bare and nobody says. `gauges` where sizes are AWG."""
    said = asked.answers.units.get("length") or note
    bare = [cell for cell in cells if re.fullmatch(r"[\d., \u00a0\u2009\u202f/½¼¾-]+|\d{1,3}(?:['’]\d{3})+", cell)]
    if said or not bare:
        return said
    numbers = []
    for cell in bare:
        try:
            numbers.append(parse_length_m(cell, "mm", Habit(decimal or "point")) * 1000)
        except InputError:
            continue
    middle = median(numbers) if numbers else 0.0
    elsewhere = [cell for cell in cells if cell not in bare]
    feet = any(_FEET.search(cell) for cell in elsewhere)
    inches = gauges and 6 < middle < 400
    likeliest = "in" if inches and not feet else "mm" if middle > LARGE else "ft" if feet else "m"
    return asked.ask(
        doubt(
            "unit:length",
            map(named, ("mm", "cm", "m", "in", "ft")),
            likeliest,
            "--unit length={}",
            column,
            count=len(bare),
            first=bare[0],
            middle=middle,
        )
    )


def size_rules(
    specs: Sequence[Spec],
    cells: Sequence[tuple[str, int]],
    note: str,
    lengths: Sequence[str],
    decimal: str,
    pinned: bool,
    evident: str,
    asked: Questions,
    column: int,
) -> SizeRules:
    """How the sizes of a column are to be read, each cell with its row and what it was taken apart into; what the
    column itself doesn't settle is asked. `evident` is what “3x1.5” stands for where the list shows it."""
    plain = [spec.size for spec in specs]
    kinds = dict.fromkeys(spec.kind for spec in specs if spec.kind)
    if kinds:
        asked.note("kinds", kinds="”, “".join(list(kinds)[:6]))
    return SizeRules(
        _bare_series(plain, note, lengths, asked, column),
        _mm_area(plain, note, asked, column),
        evident or _many(cells, specs, pinned, asked, column),
        _words(plain, asked, column),
        decimal,
    )


def _bare_series(cells: Sequence[str], note: str, lengths: Sequence[str], asked: Questions, column: int) -> str:
    said = asked.answers.units.get("size") or asked.answers.said.get("bare-size") or ""
    if said:
        return "awg" if said.lower().startswith(("awg", "ga")) else "metric"
    bare = [cell for cell in cells if _BARE.fullmatch(cell)]
    if not bare or note in ("awg", "kcmil"):
        return "awg" if note == "awg" else ""
    values = {float(cell.replace(",", ".")) for cell in bare}
    if note in ("mm2", "mm²", "mm^2", "sqmm", "sq mm") or _metric_only(values):
        return "metric"
    worded = " ".join(cell.lower() for cell in cells if not _BARE.fullmatch(cell))
    gauges = all(value == int(value) and value <= 40 for value in values)
    telling = list(_telling_gauges(values if gauges else set(), worded, note, lengths))
    others_say_mm2 = "mm" in worded and not re.search(_GAUGE, worded)
    likeliest = "awg" if telling and not others_say_mm2 and gauges else "metric"
    evidence = "others-mm2" if others_say_mm2 else "nothing"
    if likeliest == "awg":
        evidence = telling[0]
    elif not gauges:
        evidence = "no-gauge"
    return asked.ask(
        doubt(
            "bare-size",
            ("awg", "metric"),
            likeliest,
            "--bare-size {}",
            column,
            cells=", ".join(dict.fromkeys(bare[:40]))[:60],
            why=Message.of(f"list.size.{evidence}"),
        )
    )


def _metric_only(values: set[float]) -> bool:
    """Whether these are areas that are sold, one of them broken: no gauge is."""
    known = _STEPS_MM2 | {size.area_mm2 for size in series("metric")}
    return any(value != int(value) for value in values) and values <= known


def _telling_gauges(values: set[float], worded: str, note: str, lengths: Sequence[str]) -> Iterator[str]:
    """What speaks for AWG, by its code, the clearest first; `values` are empty where they could be no gauges."""
    if re.search(_GAUGE, worded):
        yield "others-awg"
    if note in ("gauge", "gage", "ga"):
        yield "title"
    if values and any(_FEET.search(cell) for cell in lengths):
        yield "feet"
    if values and max(values) > 10 and all(value % 2 == 0 for value in values) and not values <= {10, 16}:
        yield "even"


def _mm_area(cells: Sequence[str], note: str, asked: Questions, column: int) -> bool:
    written = [cell for cell in cells if re.fullmatch(r"\d+(?:[.,]\d+)?\s*mm", cell, re.I)]
    if not written and not (note == "mm" and any(_BARE.fullmatch(cell) for cell in cells)):
        return True
    return (
        asked.ask(
            doubt(
                "mm-size",
                ("area", "diameter"),
                "area",
                "--answer mm-size={}",
                column,
                cell=written[0] if written else "",
            )
        )
        == "area"
    )


def _many(cells: Sequence[tuple[str, int]], specs: Sequence[Spec], pinned: bool, asked: Questions, column: int) -> str:
    """What “3x1.5” stands for: a core of such a cable, conductors side by side, or as many wires."""
    found = [(cell, row) for (cell, row), spec in zip(cells, specs, strict=True) if spec.count > 1 or spec.mark]
    if not found:
        return "core"
    areas = [
        float(spec.size.split()[0].replace(",", "."))
        for spec in specs
        if spec.mark == "x" and re.match(r"\d+(?:[.,]\d+)?(?:\s|mm|$)", spec.size)
    ]
    heavy = bool(areas) and min(areas) >= 16  # thick wires lie side by side; cables have thin cores
    return asked.ask(
        doubt(
            "multicore",
            ("core", "parallel", "each"),
            "parallel" if heavy else "core" if pinned else "each",
            "--answer multicore={}",
            column,
            [row for _, row in found],
            cell=found[0][0],
            count=len(found),
        )
    )


def _words(cells: Sequence[str], asked: Questions, column: int) -> str:
    """Words that stand beside a size: whether they may be left out."""
    rests = Counter[str]()
    for cell in cells:
        inside = _INSIDE.search(cell)
        rest = (cell[: inside.start()] + " " + cell[inside.end() :]).strip(" ,;/()") if inside else ""
        if inside and re.search(r"[^\W\d_]", rest) and not re.search(r"(?<!\w)\d", rest):
            rests[" ".join(rest.split())] += 1
    if not rests:
        return "refuse"
    return asked.ask(
        doubt(
            "size-words",
            ("drop", "refuse"),
            "drop",
            "--answer size-words={}",
            column,
            words="”, “".join(list(rests)[:4]),
        )
    )


def size_cell(spec: Spec, rules: SizeRules) -> SizeCell:
    """A size by the column's rules; InputError says what can't be read."""
    if spec.size in NOTHING:
        return SizeCell(None)
    label = _core_size(spec.size, rules)
    if not spec.mark or spec.count == 1:
        return SizeCell(label)
    if rules.many == "parallel":
        if spec.count > 12:
            raise InputError.of("listing.too-many-parallel", count=spec.count, size=spec.size)
        return SizeCell(label, parallel=spec.count)
    return SizeCell(label, wires=spec.count if rules.many == "each" else 1)


@lru_cache(maxsize=20_000)
def _core_size(text: str, rules: SizeRules) -> str:
    if re.fullmatch(r"\d+(?:[.,]\d+)?\s*mm", text, re.I) and rules.mm_area:
        text += "2"
    try:
        return parse_size(text, rules.bare, rules.decimal, foreign=True).label
    except DoubtfulError:
        raise
    except InputError:
        inside = _INSIDE.search(text) if rules.words == "drop" else None
        if inside is None or re.search(r"(?<!\w)\d", text[: inside.start()] + text[inside.end() :]):
            raise
        return parse_size(inside[0], rules.bare, rules.decimal, foreign=True).label


@lru_cache(maxsize=20_000)
def length_cell(text: str, unit: str, decimal: str) -> float | None:
    """A length in m; InputError says what can't be read."""
    if text in NOTHING:
        return None
    return parse_length_m(ABOUT.sub("", text), unit or "m", Habit(decimal, foreign=True))


ABOUT = re.compile(
    r"^(?:ca\.?|circa|approx\.?|about|abt\.?|etwa|ungefähr|env\.?|environ|aprox\.?|cca\.?|ok\.?|~|≈)\s*(?=\d)", re.I
)
"""Words for “about”: the length is taken as it stands."""
