"""Cells of a list as values: sizes with their cores, lengths, pins and colours, each column as a whole first."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

from umber_trunk.core.catalog.conductors import parse_size, series
from umber_trunk.core.errors import InputError
from umber_trunk.core.quantity import DoubtfulError, Habit
from umber_trunk.core.units import parse_length_m
from umber_trunk.store.listing.doubts import Doubt, Option, Questions
from umber_trunk.store.listing.words import COLOUR_WORDS, COLOURS

LARGE = 60  # lengths without a unit are likelier millimetres above this
NOTHING = ("", "-", "–", "—", "?", "n/a", "N/A", "tbd", "TBD")
_BARE = re.compile(r"\d+(?:[.,]\d+)?")
_MANY = re.compile(r"(\d{1,2})\s*([x×*](?=\s*[\d#aA])|[Gg](?=\s*\d))\s*(?:(\d)\s*[x×*]\s*)?(.+)")
_INSIDE = re.compile(
    r"(?:\b(?:\d/0|\d{1,2})\s*-?\s*(?:awg|ga|gauge|gage)\b|\bawg\s*(?:\d/0|\d{1,2})\b|(?<![\d.,])\d+(?:[.,]\d+)?\s*(?:mm2|mm²|mm\^2|sqmm)(?!\w))",
    re.I,
)
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
        asked.note(f"“{doubtful[0]}” and its like were read with the {habit} before decimals, as the project has it.")
        return habit
    marks = {mark for name, cells in columns.items() if any(map(_is_doubtful, cells)) for mark in _evidence(cells)}
    lengths = [cell for cell in columns.get("length", ()) if _is_doubtful(cell)]
    plausible = _plausible(lengths, unit or _usual_unit(columns.get("length", ())))
    if len(marks) == 1 and plausible in ("", *marks):
        decimal = next(iter(marks))
        asked.note(
            f"“{doubtful[0]}” and its like were read with the {decimal} before decimals, as other figures of that column show."
        )
        return decimal
    others = {mark for cells in columns.values() for mark in _evidence(cells)}
    likeliest = (
        plausible or (next(iter(others)) if len(others) == 1 else "") or ("comma" if delimiter == ";" else "point")
    )
    point, comma = (_shown(doubtful[0], mark) for mark in ("point", "comma"))
    evidence = f"“{doubtful[0]}” is {point} or {comma}."
    if len(others) == 2:
        evidence += " Other figures show both marks."
    return asked.ask(
        Doubt(
            "decimal", "Which mark stands before decimals?", evidence,
            (Option("point", f"the point, so that it is {point}"), Option("comma", f"the comma, so that it is {comma}")),
            likeliest, "--decimal {}",
        )
    )  # fmt: skip


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


def length_unit(cells: Sequence[str], note: str, decimal: str, asked: Questions, column: int) -> str:
    """The unit of lengths without one; asked when some are bare and nobody says."""
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
    likeliest = "mm" if middle > LARGE else "ft" if feet else "m"
    return asked.ask(
        Doubt(
            "unit:length", "Which unit have the lengths without one?",
            f"{len(bare)} bare figures, “{bare[0]}” the first, {middle:g} in the middle.",
            tuple(Option(unit, unit) for unit in ("mm", "cm", "m", "in", "ft")), likeliest, "--unit length={}", column,
        )
    )  # fmt: skip


def size_rules(
    cells: Sequence[str], note: str, lengths: Sequence[str], decimal: str, pinned: bool, asked: Questions, column: int
) -> SizeRules:
    """How the sizes of a column are to be read; what the column itself doesn't settle is asked."""
    parts = [_split(cell) for cell in cells]
    plain = [core for _, _, core in parts]
    return SizeRules(
        _bare_series(plain, note, lengths, asked, column), _mm_area(plain, note, asked, column),
        _many(cells, parts, pinned, asked, column), _words(plain, asked, column), decimal,
    )  # fmt: skip


def _split(cell: str) -> tuple[int, str, str]:
    """(cores, "x" or "g" or "", size of one core) of a cell."""
    match = _MANY.fullmatch(cell)
    if match is None:
        return 1, "", cell
    return int(match[1]) * int(match[3] or 1), match[2].lower().replace("×", "x").replace("*", "x"), match[4].strip()


def _bare_series(cells: Sequence[str], note: str, lengths: Sequence[str], asked: Questions, column: int) -> str:
    said = asked.answers.units.get("size") or asked.answers.said.get("bare-size") or ""
    if said:
        return "awg" if said.lower().startswith(("awg", "ga")) else "metric"
    bare = [cell for cell in cells if _BARE.fullmatch(cell)]
    if not bare or note in ("awg", "kcmil"):
        return "awg" if note == "awg" else ""
    if note in ("mm2", "mm²", "mm^2", "sqmm", "sq mm"):
        return "metric"
    values = {float(cell.replace(",", ".")) for cell in bare}
    steps = {0.05, 0.08, 0.13, 0.14, 0.22, 0.25, 0.34, 0.35, 0.5, 0.75, 0.85, 1.5, 2.5}
    broken = {value for value in values if value != int(value)}
    known = steps | {size.area_mm2 for size in series("metric")}
    if broken and values <= known:
        return "metric"
    worded = " ".join(cell.lower() for cell in cells if not _BARE.fullmatch(cell))
    gauges = values <= {float(n) for n in range(41)} and not broken
    feet = any(_FEET.search(cell) for cell in lengths)
    telling = [
        "others in the column say AWG" if re.search(r"awg|\bga\b|gauge", worded) else "",
        "the title says gauge" if note in ("gauge", "gage", "ga") else "",
        "whole even numbers beside feet or inches" if gauges and feet else "",
        "even numbers over 10"
        if gauges and all(v % 2 == 0 for v in values) and max(values) > 10 and not values <= {10, 16}
        else "",
    ]
    metric = "mm" in worded and not telling[0]
    likeliest = "awg" if any(telling) and not metric and gauges else "metric"
    evidence = next(
        (text for text in telling if text), "others in the column say mm²" if metric else "nothing else tells"
    )
    return asked.ask(
        Doubt(
            "bare-size", "Are the sizes without a unit AWG or mm²?",
            f"{', '.join(dict.fromkeys(bare[:40]))[:60]}: {evidence}.", (Option("awg", "AWG"), Option("metric", "mm²")),
            likeliest, "--bare-size {}", column,
        )
    )  # fmt: skip


def _mm_area(cells: Sequence[str], note: str, asked: Questions, column: int) -> bool:
    written = [cell for cell in cells if re.fullmatch(r"\d+(?:[.,]\d+)?\s*mm", cell, re.I)]
    if not written and not (note == "mm" and any(_BARE.fullmatch(cell) for cell in cells)):
        return True
    return asked.ask(
        Doubt(
            "mm-size", "Does “mm” stand for mm² of conductor?", f"“{written[0] if written else 'mm in the title'}” names a diameter as it stands.",
            (Option("area", "yes, mm²"), Option("diameter", "no, a diameter: the row is a fault")), "area", "--answer mm-size={}", column,
        )
    ) == "area"  # fmt: skip


def _many(
    cells: Sequence[str], parts: Sequence[tuple[int, str, str]], pinned: bool, asked: Questions, column: int
) -> str:
    """What “3x1.5” stands for: a core of such a cable, conductors side by side, or as many wires."""
    found = [(cell, kind) for cell, (count, kind, _) in zip(cells, parts, strict=True) if count > 1 or kind]
    if not found:
        return "core"
    return asked.ask(
        Doubt(
            "multicore", f"What does “{found[0][0]}” stand for?", f"{len(found)} rows are written so.",
            (
                Option("core", "the row is one core of such a cable"), Option("parallel", "conductors side by side for one wire"),
                Option("each", "the row stands for all its cores: one wire each"),
            ),
            "core" if pinned else "each", "--answer multicore={}", column,
        )
    )  # fmt: skip


def _words(cells: Sequence[str], asked: Questions, column: int) -> str:
    """Words that stand beside a size: whether they may be left out."""
    rests = Counter[str]()
    for cell in cells:
        inside = _INSIDE.search(cell)
        rest = (cell[: inside.start()] + " " + cell[inside.end() :]).strip(" ,;/()") if inside else ""
        if inside and rest and not re.search(r"\d", rest):
            rests[" ".join(rest.split())] += 1
    if not rests:
        return "refuse"
    return asked.ask(
        Doubt(
            "size-words", "May the words beside the sizes be left out?", f"“{'”, “'.join(list(rests)[:4])}”.",
            (Option("drop", "yes, the size alone counts"), Option("refuse", "no, such rows are faults")), "drop", "--answer size-words={}", column,
        )
    )  # fmt: skip


def size_cell(text: str, rules: SizeRules) -> SizeCell:
    """A size by the column's rules; InputError says what can't be read."""
    if text in NOTHING:
        return SizeCell(None)
    count, kind, core = _split(text)
    label = _core_size(core, rules)
    if not kind or count == 1:
        return SizeCell(label)
    if rules.many == "parallel":
        if count > 12:
            raise InputError(f"“{text}”: at most 12 conductors lie side by side.")
        return SizeCell(label, parallel=count)
    return SizeCell(label, wires=count if rules.many == "each" else 1)


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
        if inside is None or re.search(r"\d", text[: inside.start()] + text[inside.end() :]):
            raise
        return parse_size(inside[0], rules.bare, rules.decimal, foreign=True).label


@lru_cache(maxsize=20_000)
def length_cell(text: str, unit: str, decimal: str) -> float | None:
    """A length in m; InputError says what can't be read."""
    if text in NOTHING:
        return None
    return parse_length_m(text, unit or "m", Habit(decimal, foreign=True))


PIN_MARKS = ("/", ".", "-")
_PINNED = {
    mark: re.compile(rf"(.*[^\s{re.escape(mark)}])\s*{re.escape(mark)}\s*([A-Za-z]{{0,4}}\d{{1,3}}[a-z]?|[A-Za-z]|[+−-])")
    for mark in PIN_MARKS
}  # fmt: skip
_SURE_PINS = (
    re.compile(r"(.+?)\s*:\s*([^:/]{1,12})"), re.compile(r"(.+?)[\s,]+(?:pin|term(?:inal)?|cav(?:ity)?|klemme|borne)\s*(\S{1,12})", re.I),
    re.compile(r"(.+?)\s+([+−-])"), re.compile(r"(.*\w)([+−])"),
)  # fmt: skip


def pin_mark(cells: Sequence[str], asked: Questions) -> str:
    """The mark that parts end and pin in one cell, or "": "X1:3" and "battery +" need no asking, "24V/GND" does."""
    said = asked.answers.said.get("split")
    if said is not None:
        return "" if said == "none" else said
    open_ = [cell for cell in cells if cell and not any(p.fullmatch(cell) for p in _SURE_PINS)]
    for mark in PIN_MARKS:
        hits = [cell for cell in open_ if _PINNED[mark].fullmatch(cell)]
        if not hits or (mark != "/" and len(hits) < 0.5 * len(open_)):
            continue
        numbered = [cell for cell in hits if re.search(r"\d{1,3}$", cell)]
        likeliest = mark if len(hits) > 0.6 * len(open_) and len(numbered) > 0.6 * len(hits) else "none"
        match = _PINNED[mark].fullmatch(hits[0])
        assert match is not None
        return {"none": ""}.get(
            said := asked.ask(
                Doubt(
                    "split", f"Does “{mark}” part an end from its pin?", f"{len(hits)} of {len(open_)} ends look so, “{hits[0]}” the first.",
                    (Option(mark, f"yes: “{match[1]}”, pin {match[2]}"), Option("none", f"no: “{hits[0]}” is one name")),
                    likeliest, "--split '{}'",
                )
            ), said,
        )  # fmt: skip
    return ""


def split_pin(text: str, mark: str = "") -> tuple[str, str]:
    """ "X1:3" → ("X1", "3"), "battery +" → ("battery", "+"), "X1 pin 4" → ("X1", "4"); no pin → ""."""
    patterns = (
        *_SURE_PINS,
        *((_PINNED[mark] if mark in _PINNED else re.compile(rf"(.+?){re.escape(mark)}(.{{1,12}})"),) if mark else ()),
    )
    for pattern in patterns:
        match = pattern.fullmatch(text.strip())
        if match:
            return match[1].strip(), match[2].strip().replace("−", "-")
    return text.strip(), ""


@dataclass(frozen=True)
class ColourRules:
    """Languages whose codes the column may use, the likeliest first, and what was said of codes with two meanings."""

    languages: tuple[str, ...]
    chosen: Mapping[str, str]


def colour_rules(cells: Sequence[str], headers: Sequence[str], asked: Questions, column: int) -> ColourRules:
    """Which language a column's colour codes are in; a code that means two colours is asked about."""
    codes = {part.upper() for cell in set(cells) for part in _colour_parts(cell) if part.lower() not in COLOUR_WORDS}
    known = {code for code in codes if any(code in table for table in COLOURS.values())}
    rank = sorted(
        COLOURS,
        key=lambda lang: (-len([c for c in known if c in COLOURS[lang]]), -_speaks(headers, cells, lang), lang != "en"),
    )
    best = len([c for c in known if c in COLOURS[rank[0]]])
    fitting = tuple(lang for lang in rank if len([c for c in known if c in COLOURS[lang]]) == best)
    chosen = {}
    for code in sorted(known):
        means = {COLOURS[lang][code]: lang for lang in reversed(fitting) if code in COLOURS[lang]}
        if len(means) < 2 and not (code in ("GR", "BL", "MA") and fitting == ("en",)):
            continue
        options = {**{COLOURS[lang][code]: lang for lang in COLOURS if code in COLOURS[lang]}, **means}
        if len(options) < 2:
            continue
        likeliest = COLOURS[fitting[0]].get(code) or next(iter(options))
        chosen[code] = asked.ask(
            Doubt(
                f"colour:{code}", f"Which colour is “{code}”?", "Lists use it for " + " and ".join(options) + ".",
                tuple(Option(word, word) for word in options), likeliest, f"--answer colour:{code}={{}}", column,
            )
        )  # fmt: skip
    return ColourRules(
        tuple(rank) if not fitting else (*fitting, *(lang for lang in rank if lang not in fitting)), chosen
    )


_TONGUE = {
    "de": r"\b(?:von|nach|farbe|länge|laenge|querschnitt|klemme|ader|kabel|stecker)\b",
    "fr": r"\b(?:de|vers|couleur|longueur|fil|repère|borne|section)\b", "es": r"\b(?:desde|hasta|hacia|longitud|hilo|sección|borna)\b",
    "en": r"\b(?:from|to|colou?r|length|wire|size|gauge)\b",
}  # fmt: skip


def _speaks(headers: Sequence[str], cells: Sequence[str], language: str) -> int:
    return len(re.findall(_TONGUE[language], " ".join(headers).lower()))


_CODES = frozenset(code for table in COLOURS.values() for code in table)


def _colour_parts(text: str) -> list[str]:
    """The colours of a cell, base first."""
    tidy = text.strip()
    if tidy.lower() in COLOUR_WORDS:
        return [tidy]
    parts = [
        part for part in re.split(r"\s*[/\-,+|]\s*|\s+(?:with|mit|avec|con)\s+|\s+(?:stripe|streifen)\b", tidy) if part
    ]
    every = _CODES
    if len(parts) == 1 and re.fullmatch(r"[A-Z]{4}", parts[0]) and {parts[0][:2], parts[0][2:]} <= every:
        parts = [parts[0][:2], parts[0][2:]]
    if len(parts) == 1 and " " in parts[0]:
        words = parts[0].split()
        if all(word.upper() in every or word.lower() in COLOUR_WORDS for word in words):
            parts = words
    return parts


def colour_cell(text: str, rules: ColourRules) -> tuple[str, str]:
    """(colour, stripe) in words from "RD/WH", "rot-weiß", "BK"; words nobody knows stay as they are."""
    if text in NOTHING:
        return "", ""
    words = []
    for part in _colour_parts(text):
        code = part.upper()
        word = COLOUR_WORDS.get(part.lower()) or rules.chosen.get(code)
        word = word or next((COLOURS[lang][code] for lang in rules.languages if code in COLOURS[lang]), None)
        words.append(word or part.lower())
    if len(words) == 1 and "/" in words[0]:
        words = words[0].split("/")
    if len(words) > 2:
        return text.lower(), ""
    return (words[0] if words else "", words[1] if len(words) > 1 else "")
