"""Pins in lists: beside their end, stuck to it, several in a cell; what shows a habit is read, what could be a name is
asked."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from functools import lru_cache

from umber_trunk.store.listing.doubts import Doubt, Option, Questions

PIN_MARKS = ("/", ".", "-", " ")
_PIN = r"[A-Za-z]{0,3}\d{1,3}[a-z]?|[A-Za-z]|[+−-]|PE"
_WORD_PIN = rf"{_PIN}|IN|OUT|COM|N[OC]|IGN|ACC|POS|NEG|SIG|[BL]\+|GND"
_PINNED = {
    mark: re.compile(
        rf"(.*[^\s{re.escape(mark)}])\s*{re.escape(mark)}\s*({_PIN})" if mark != " " else rf"(.*\S)\s+({_WORD_PIN})"
    )
    for mark in PIN_MARKS
}
_SURE = (
    re.compile(r"(.+?)\s*:\s*([^:/,;&\s]{1,12})"),
    re.compile((
    r"(.+?)[\s,]+(?:pin|term(?:inal)?|cav(?:ity)?|klemme|borne|morsetto|pino|klem|zacisk|stift|"
    r"svorka)\s*(\S{1,12})"
), re.I),
    re.compile(r"(.+?)\s*\(\s*(?:pin\s*)?([A-Za-z]{0,3}\d{1,3}|[A-Za-z]|[+−-])\s*\)"), re.compile(r"(.+?)\s+([+−-])"), re.compile(r"(.*\w)([+−-])"),
)  # fmt: skip
_CODE = re.compile(r"\d{0,2}[A-Z]{1,4}\d{1,3}[A-Z]?|=?[-+][A-Z]{1,3}\d{1,3}")
_UNIT = re.compile(
    r"(?:.*\b)?(?:ECU|ECM|PCM|BCM|TCU|PLC|PDM|VCU|BMS|MCU|CPU|TB|TB\d+|DASH|controller|control unit|module|"
    r"fuse ?(?:box|block|panel)|box|block|panel|bus|busbar|bar|plug|socket|connector|conn|"
    r"terminal(?: (?:strip|block))?|header|relay|switch panel|stecker|klemmleiste|sicherungskasten|"
    r"steuergerät|bornier|calculateur|boîte(?: à fusibles)?|regleta|caja|morsettiera|centralina|régua|"
    r"kroonsteen|listwa|plint|svorkovnice)",
    re.I,
)
_CELL_PIN = re.compile(
    r"[A-Za-z]{0,3}\d{1,3}[A-Za-z]?|[A-Za-z]{1,2}|[+−-]|[A-Za-z]\+|PE|GND|COM|IN|OUT|N[OC]|L[123]|POS|NEG|SIG|IGN"
)
_MANY = re.compile(r"\s*[/,;&]\s*|\s+and\s+|\s+\+\s+|\s+(?:und|et|y)\s+")


def like_a_pin(text: str) -> bool:
    """Whether a cell could name a pin, or several."""
    parts = [one for part in _MANY.split(text) for one in _ranged(part)]
    return len(text) <= 24 and all(_CELL_PIN.fullmatch(part) for part in parts)


@dataclass(frozen=True)
class PinHabit:
    """How ends and pins are parted in one cell: by a mark everywhere, as somebody said, or for the ends that show
    it."""

    mark: str = ""
    parted: Set[tuple[str, str]] = frozenset()

    @property
    def any(self) -> bool:
        """Whether anything beside the certain marks is parted."""
        return bool(self.mark or self.parted)


def pin_habit(cells: Sequence[str], rows: Sequence[int], asked: Questions) -> PinHabit:
    """Where these cells name ends, how they part them from their pins. `rows` are their rows, from 1."""
    said = asked.answers.said.get("split")
    if said is not None:
        return PinHabit("" if said == "none" else said)
    single = [(part, row) for cell, row in zip(cells, rows, strict=True) for part in re.split(r"\s*[,;&]\s*", cell)]
    open_ = [
        (cell, row)
        for cell, row in single
        if cell and not any(p.fullmatch(cell) for p in _SURE) and not several_ends(cell, PinHabit())
    ]
    parted = set[tuple[str, str]]()
    whole = {cell.lower() for cell, _ in open_}
    for mark in PIN_MARKS:
        groups: dict[str, list[tuple[str, str, int]]] = defaultdict(list)
        for cell, row in open_:
            match = _PINNED[mark].fullmatch(cell)
            if match and not any(_of(cell, other, parted) for other in PIN_MARKS):
                groups[match[1].strip()].append((match[2], cell, row))
        habit = any(_CODE.fullmatch(name) and len({pin for pin, _, _ in group}) > 1 for name, group in groups.items())
        doubtful: list[str] = []
        shown = False  # whether a unit of this list surely has pins so
        for name, group in sorted(groups.items(), key=lambda one: not _UNIT.fullmatch(one[0])):
            many = len({pin for pin, _, _ in group})
            if mark == " " and len({row for _, _, row in group}) < len(group):
                continue  # “box a” to “box b”: no wire goes from one thing to itself
            if (habit and _CODE.fullmatch(name)) or (
                many > 1
                and name.lower() not in whole
                and _UNIT.fullmatch(name)
                and (
                    mark in "/." or (name.isupper() and (many > 2 or not any(pin[-1].isdigit() for pin, _, _ in group)))
                )
            ):
                parted.add((mark, name.lower()))
                shown = True
            elif shown and mark not in " /" and name.lower() not in whole:
                parted.add((mark, name.lower()))
            elif (many > 1 and _UNIT.fullmatch(name) and name.lower() not in whole) or (
                mark != " " and many > 1 and len(group) >= 0.3 * len(open_)
            ):
                doubtful.append(name)
        hits = sum(len(groups[name]) for name in doubtful)
        if (
            mark != " "
            and not habit
            and not shown
            and len(groups) > 1
            and sum(map(len, groups.values())) >= 0.5 * len(open_) > 0
            and not doubtful
        ):
            doubtful = list(groups)
            hits = sum(map(len, groups.values()))
        if not doubtful:
            continue
        name = doubtful[0]
        pin, cell, _ = groups[name][0]
        numbered = [one for one in doubtful for pin_, _, _ in groups[one] if pin_[-1].isdigit()]
        likely = bool(_UNIT.fullmatch(name)) or (
            hits > 0.6 * len(open_) and len(numbered) > 0.6 * hits and bool(_CODE.fullmatch(name))
        )
        looks = "a space" if mark == " " else f"“{mark}”"
        answer = asked.ask(
            Doubt(
                "split",
                f"Does {looks} part an end from its pin?",
                f"{hits} of {len(open_)} ends look so, “{cell}” the first.",
                (Option(mark, f"yes: “{name}”, pin {pin}"), Option("none", f"no: “{cell}” is one name")),
                mark if likely else "none",
                "--split '{}'",
                rows=tuple(row for one in doubtful for _, _, row in groups[one]),
            )
        )
        if answer != "none":
            parted |= {(mark, one.lower()) for one in doubtful}
            _others(mark, groups, parted, whole, asked)
        break
    return PinHabit("", frozenset(parted))


def _others(
    mark: str,
    groups: Mapping[str, list[tuple[str, str, int]]],
    parted: set[tuple[str, str]],
    whole: set[str],
    asked: Questions,
) -> None:
    """Names that come with several numbers in a list that parts others so: each is asked about."""
    for name, group in groups.items():
        pins = list(dict.fromkeys(pin for pin, _, _ in group))
        if (mark, name.lower()) in parted or len(pins) < 2 or name.lower() in whole:
            continue
        shown = " and ".join(f"“{cell}”" for cell in list(dict.fromkeys(cell for _, cell, _ in group))[:2])
        answer = asked.ask(
            Doubt(
                f"split:{name}",
                f"Are {shown} pins of one {name}?",
                f"Ends that look so: {len(group)}.",
                (Option("pins", "yes, pins of one"), Option("names", "no, each is one by itself")),
                "names" if "1" in pins else "pins",
                f"--answer 'split:{name}={{}}'",
                rows=tuple(row for _, _, row in group),
            )
        )
        if answer == "pins":
            parted.add((mark, name.lower()))


def _of(cell: str, mark: str, parted: Set[tuple[str, str]]) -> re.Match[str] | None:
    match = _PINNED[mark].fullmatch(cell)
    return match if match and (mark, match[1].strip().lower()) in parted else None


def split_pin(text: str, habit: PinHabit | None = None) -> tuple[str, str]:
    """ "X1:3" → ("X1", "3"), "battery +" → ("battery", "+"), "X1 pin 4" → ("X1", "4"); no pin → ""."""
    tidy = text.strip()
    habit = habit or PinHabit()
    found = next((match for pattern in _SURE if (match := pattern.fullmatch(tidy))), None)
    if found is None and habit.mark:
        found = _PINNED[habit.mark].fullmatch(tidy) if habit.mark in _PINNED else None
        if found is None and habit.mark.strip():  # said to part them: “BATT.POS” too
            found = re.fullmatch(rf"(.+?)\s*{re.escape(habit.mark)}\s*([^\s{re.escape(habit.mark)}]{{1,12}})", tidy)
    if found is None and habit.parted:
        found = next((match for mark in PIN_MARKS if (match := _of(tidy, mark, habit.parted))), None)
    if found is None:
        return tidy, ""
    return found[1].strip(), found[2].strip().replace("−", "-")


def several_places(text: str) -> tuple[str, ...]:
    """The places of a cell that may name several, without pins: "lamp 1, lamp 2"; none for one."""
    parts = tuple(part for part in re.split(r"\s*[,;]\s*|\s+(?:&|\+|and|und|et|y|e|en|och|i)\s+", text) if part)
    return parts if len(parts) > 1 and all(re.search(r"[^\W\d]", part) for part in parts) else ()


_RANGE = re.compile(
    r"([A-Za-z]{0,3}?)(\d{1,3})\s*(?:-|–|\.\.)\s*([A-Za-z]{0,3}?)(\d{1,3})|([A-Za-z])\s*(?:-|–)\s*([A-Za-z])"
)


def _ranged(text: str) -> list[str]:
    """ "1-4" and "U-W" as their members; what is no range that rises alone."""
    match = _RANGE.fullmatch(text)
    if match is None:
        return [text]
    if match[5]:
        low, high = ord(match[5]), ord(match[6])
        return [chr(one) for one in range(low, high + 1)] if low < high else [text]
    low, high = int(match[2]), int(match[4])
    if match[3] not in ("", match[1]) or not low < high <= low + 60:
        return [text]
    return [f"{match[1]}{one}" for one in range(low, high + 1)]


@lru_cache(maxsize=20_000)
def several(text: str) -> tuple[str, ...]:
    """The pins of a pin's cell that names several: "3/4" → ("3", "4"); a cell with one pin gives none."""
    parts = tuple(one for part in _MANY.split(text) if part for one in _ranged(part))
    return parts if len(parts) > 1 and all(_CELL_PIN.fullmatch(part) for part in parts) else ()


def several_ends(text: str, habit: PinHabit) -> tuple[tuple[str, str], ...]:
    """The ends with their pins of a cell that names several: "P3-1, P3-2", "X1:3/4", "X1:3,4"; none for one."""
    stuck = re.fullmatch(r"(.+?)\s*:\s*(\S.*)", text)
    if stuck and several(stuck[2]):
        return tuple((stuck[1].strip(), pin) for pin in several(stuck[2]))
    for mark in PIN_MARKS:
        name, _, pins = text.rpartition(mark) if mark != "/" else text.partition(mark)
        if (mark, name.strip().lower()) in habit.parted and several(pins.strip()):
            return tuple((name.strip(), pin) for pin in several(pins.strip()))
    parts = [
        part
        for part in re.split(r"\s*[,;&]\s*|\s+\+\s+|\s+(?:and|und|et|y)\s+|\s+/\s+|(?<=\d)/(?=[A-Z]+\d+\W)", text)
        if part
    ]
    if len(parts) < 2:
        return ()
    found = [split_pin(part, habit) for part in parts]
    name = found[0][0]
    whole = [(end, pin) if pin else (name, end) for end, pin in found]
    return tuple(whole) if found[0][1] and all(pin or _CELL_PIN.fullmatch(end) for end, pin in found) else ()
