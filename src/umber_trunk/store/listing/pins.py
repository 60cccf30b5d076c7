"""Pins in lists: beside their end, stuck to it, several in a cell; what shows a habit is read, what could be a name is
asked."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from functools import lru_cache

from umber_trunk.core.sentences import Message, joined
from umber_trunk.store.listing.doubts import Option, Questions, doubt

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


Group = list[tuple[str, str, int]]
"""(pin, cell, row) of all that have one name before a mark."""


def pin_habit(cells: Sequence[str], rows: Sequence[int], asked: Questions) -> PinHabit:
    """Where these cells name ends, how they part them from their pins. `rows` are their rows, from 1.

    Mark by mark, the surest first. What shows by itself that it has pins is parted (`_Marked.sure`); of what only looks
    so, one question is asked, and the marks after it are left alone."""
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
    for mark in PIN_MARKS:
        marked = _Marked(mark, open_, parted)
        parted |= {(mark, name.lower()) for name in marked.sure}
        if marked.doubtful:
            if marked.asked(asked):
                parted |= {(mark, name.lower()) for name in marked.doubtful}
                _others(mark, marked.groups, parted, marked.whole, asked)
            break
    return PinHabit("", frozenset(parted))


class _Marked:
    """What one mark would part in these cells: names that surely have pins, and those that only look so."""

    def __init__(self, mark: str, open_: Sequence[tuple[str, int]], parted: Set[tuple[str, str]]) -> None:
        self.mark, self.open, self.whole = mark, open_, {cell.lower() for cell, _ in open_}
        self.groups: dict[str, Group] = defaultdict(list)
        for cell, row in open_:
            match = _PINNED[mark].fullmatch(cell)
            if match and not any(_of(cell, other, parted) for other in PIN_MARKS):
                self.groups[match[1].strip()].append((match[2], cell, row))
        self.codes = any(_CODE.fullmatch(one) and _pins(group) > 1 for one, group in self.groups.items())
        """Whether a code such as X1 or P3 comes with several pins."""
        self.sure: list[str] = []
        self.doubtful: list[str] = []
        self._parted()
        if not self.doubtful and self._most_look_so():
            self.doubtful = list(self.groups)

    def _parted(self) -> None:
        """Sorts the names, those of units such as a fuse box first: once one of these surely has pins, others do."""
        shown = False
        for name, group in sorted(self.groups.items(), key=lambda one: not _UNIT.fullmatch(one[0])):
            alone = name.lower() not in self.whole
            if self.mark == " " and len({row for _, _, row in group}) < len(group):
                continue  # “box a” to “box b”: no wire goes from one thing to itself
            if (self.codes and _CODE.fullmatch(name)) or (alone and self._unit_with_pins(name, group)):
                self.sure.append(name)
                shown = True
            elif shown and self.mark not in " /" and alone:
                self.sure.append(name)
            elif _pins(group) > 1 and (
                (_UNIT.fullmatch(name) and alone) or (self.mark != " " and len(group) >= 0.3 * len(self.open))
            ):
                self.doubtful.append(name)

    def _unit_with_pins(self, name: str, group: Group) -> bool:
        """Whether a unit comes with several pins, by a mark that parts nothing else, or by its capitals."""
        if _pins(group) < 2 or not _UNIT.fullmatch(name):
            return False
        figures = any(pin[-1].isdigit() for pin, _, _ in group)
        return self.mark in "/." or (name.isupper() and (_pins(group) > 2 or not figures))

    def _most_look_so(self) -> bool:
        """Whether nothing is sure and half of all cells look so."""
        if self.mark == " " or self.codes or self.sure or len(self.groups) < 2:
            return False
        return sum(map(len, self.groups.values())) >= 0.5 * len(self.open) > 0

    def asked(self, asked: Questions) -> bool:
        """Whether somebody says that the mark parts ends from pins; likely where a unit does, or where most are codes
        with numbers."""
        name = self.doubtful[0]
        pin, cell, _ = self.groups[name][0]
        rows = [(one, row) for name in self.doubtful for one, _, row in self.groups[name]]
        numbered = sum(one[-1].isdigit() for one, _ in rows)
        mostly = len(rows) > 0.6 * len(self.open) and numbered > 0.6 * len(rows)
        likely = bool(_UNIT.fullmatch(name)) or (mostly and bool(_CODE.fullmatch(name)))
        answer = asked.ask(
            doubt(
                "split",
                (Option(self.mark, Message.of("list.answer.split.parts", name=name, pin=pin)), "none"),
                self.mark if likely else "none",
                "--split '{}'",
                rows=[row for _, row in rows],
                mark=self.mark.strip(),
                cell=cell,
                count=len(rows),
                of=len(self.open),
            )
        )
        return answer != "none"


def _pins(group: Group) -> int:
    """How many pins a name comes with."""
    return len({pin for pin, _, _ in group})


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
        cells = list(dict.fromkeys(cell for _, cell, _ in group))[:2]
        answer = asked.ask(
            doubt(
                f"split:{name}",
                ("pins", "names"),
                "names" if "1" in pins else "pins",
                f"--answer 'split:{name}={{}}'",
                rows=[row for _, _, row in group],
                about="split-of",
                shown=joined("any.and", [f"“{cell}”" for cell in cells]),
                name=name,
                count=len(group),
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


_SEVERAL_ENDS = re.compile(
    r"\s*[,;&]\s*|\s+\+\s+|\s+(?:and|und|et|y)\s+|\s+/\s+|(?<=\d)/(?=[A-Z]+\d+\W)",
)


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
    for mark in PIN_MARKS if habit.parted else ():
        name, _, pins = text.rpartition(mark) if mark != "/" else text.partition(mark)
        if (mark, name.strip().lower()) in habit.parted and several(pins.strip()):
            return tuple((name.strip(), pin) for pin in several(pins.strip()))
    parts = [part for part in _SEVERAL_ENDS.split(text) if part]
    if len(parts) < 2:
        return ()
    found = [split_pin(part, habit) for part in parts]
    name = found[0][0]
    whole = [(end, pin) if pin else (name, end) for end, pin in found]
    return tuple(whole) if found[0][1] and all(pin or _CELL_PIN.fullmatch(end) for end, pin in found) else ()
