"""Taking a line apart: pieces are claimed one after another, wherever they stand; what is left is the name.

bilge pump 4 A surge 12A/1s at bow in bilge run 4,2 m
           └1┘ └────2────┘ └─3──┘ └──4───┘ └───5────┘      each piece claimed is blotted out, so that no other
└─ name ──┘                                                piece can claim a part of it
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from umber_trunk.core.errors import InputError
from umber_trunk.core.measures import CURRENT, LENGTH, TIME, Measure
from umber_trunk.core.needs.line_records import Piece
from umber_trunk.core.quantity import DoubtfulError, Habit, scan

KEYWORDS = (
    r"at|in|run|length|off|from|min|minimum|drop|max|surge|start|starts|peak|inrush|duty|return|pins?|"
    r"on frame|by|fused|pf|efficiency|eff|through|with"
)
STOP = rf"(?=\s+(?:{KEYWORDS})\b|[,;]|\x00|$)"
"""What ends a name: a word that begins the next piece, a comma, what was claimed before, the end."""


class Reader:
    """Takes pieces out of the line one after another; what is left is the name."""

    def __init__(self, text: str, habit: Habit) -> None:
        self.text = text
        self.rest = text
        self.habit = habit
        self.pieces: list[Piece] = []

    def take(self, kind: str, pattern: str, use: Callable[[re.Match[str]], str]) -> bool:
        """A piece that a pattern finds; `use` keeps it and says what was understood."""
        match = re.search(pattern, self.rest, re.I)
        if not match:
            return False
        self.keep(kind, match.start(), match.end(), lambda: use(match))
        return True

    def take_quantity(self, kind: str, keyword: str, measures: tuple[Measure, ...], use: Callable[[str], str]) -> bool:
        """A keyword and the quantity right after it; a keyword with something else after it is a fault."""
        match = re.search(keyword, self.rest, re.I)
        if not match:
            return False
        stop = re.compile(rf".*?{STOP}", re.I).match(self.rest, match.end())
        words = stop.end() if stop else len(self.rest)
        try:
            found = scan(self.rest, match.end(), measures, _default(measures), Habit(self.habit.decimal or "point"))
        except InputError:
            found = None
        end = max(found.end, match.end()) if found else max(words, match.end())
        if re.match(r"\s*[-–…/]\s*\d|\s*to\s+\d", self.rest[end:]):
            end = words
        self.keep(kind, match.start(), end, lambda: use(self.rest_at(match.end(), end)))
        return True

    def rest_at(self, start: int, end: int) -> str:
        """The text of a piece, as typed."""
        return self.text[start:end].strip(" ,;")

    def keep(self, kind: str, start: int, end: int, said: Callable[[], str]) -> None:
        """A piece from here to there is claimed; where `said` refuses it, with why."""
        notes = len(self.habit.notes)
        try:
            meaning = said()
            piece = Piece(kind, start, end, " ".join([meaning, *(f"({note})" for note in self.habit.notes[notes:])]))
        except InputError as why:
            piece = Piece(kind, start, end, str(why), ok=False, doubt=isinstance(why, DoubtfulError))
        self.pieces.append(piece)
        self.rest = self.rest[:start] + "\x00" * (end - start) + self.rest[end:]


def _default(measures: tuple[Measure, ...]) -> str:
    return {LENGTH.name: "m", CURRENT.name: "a", TIME.name: "s"}.get(measures[0].name, "")


def take_amount(reader: Reader, kind: str, measures: tuple[Measure, ...], use: Callable[[str], str]) -> bool:
    """The first quantity of these measures in what is left of the line, wherever it stands."""
    for match in re.finditer(r"(?<![\w.,'’/\-–½¼¾])(?=[\d.,½¼¾R])", reader.rest):
        at = match.start()
        try:
            found = scan(reader.rest, at, measures, "", Habit(reader.habit.decimal or "point"))
            span = _Span(found.end, found.unit) if found else None
        except InputError:
            span = _refused(reader.rest, at, measures)
        if span is None or not span.unit:
            continue
        follows = re.compile(r"[\w²]").match(reader.rest, span.end)
        if follows and reader.rest[span.end - 1 : span.end].isalpha():
            continue
        start, end = _whole_start(reader, at), span.end
        reader.keep(kind, start, end, partial(_used, reader, use, start, end))
        return True
    return False


def _used(reader: Reader, use: Callable[[str], str], start: int, end: int) -> str:
    return use(reader.rest_at(start, end))


@dataclass(frozen=True)
class _Span:
    end: int
    unit: str


def _refused(text: str, at: int, measures: tuple[Measure, ...]) -> _Span | None:
    """A figure with a unit that can't be read, so that the reason is said rather than the figure overlooked."""
    match = re.compile(r"[\d.,'’/\-–… ½¼¾]*\d\s*([^\d\s,;.\x00]+)").match(text, at)
    if match is None or all(measure.factor(match[1]) is None for measure in measures):
        return None
    return _Span(match.end(), match[1])


def _whole_start(reader: Reader, at: int) -> int:
    """Where the quantity starts with what may belong to it: a range's or a double value's first figure."""
    before = re.compile(r"(?<![\w.])[\d.,½¼¾]+\s*(?:-|–|…|\.\.|/|to)\s*$").search(reader.rest[:at])
    return before.start() if before else at
