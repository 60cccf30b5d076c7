"""What a list leaves open: questions with their evidence and likeliest answer, and the answers given."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from umber_trunk.core.sentences import Message, say

UNITS = {"length": ("mm", "cm", "m", "in", "ft", "yd"), "size": ("awg", "mm2")}
"""Field → the units its bare figures may have."""


@dataclass(frozen=True)
class Fault:
    """What is wrong in one cell; row and column as a spreadsheet counts them, from 1 and A."""

    row: int
    column: str
    said: Message
    sheet: str = ""

    @property
    def message(self) -> str:
        """What is wrong, in words."""
        return str(self.said)

    def __str__(self) -> str:
        return say("list.fault", sheet=self.sheet, row=self.row, column=self.column, what=self.said)


def wrong(key: str, **values: Any) -> Message:
    """What is wrong with a cell, by its code under list.wrong."""
    return Message.of(f"list.wrong.{key}", **values)


@dataclass(frozen=True)
class Option:
    """One possible answer: its key, in words."""

    key: str
    said: Message

    @property
    def words(self) -> str:
        """In words."""
        return str(self.said)


def named(key: str, words: str = "") -> Option:
    """An answer that is called by a name: a unit, a column, a colour."""
    return Option(key, Message.of("any.named", words=words or key))


@dataclass(frozen=True)
class Doubt:
    """A question nobody has answered. `flag` is the shell option that would, with {} for the answer's key;
    `column` the index of the column it is about, −1 for the whole list; `rows` those it touches, from 1, none for
    all."""

    id: str
    asks: Message
    because: Message
    options: tuple[Option, ...]
    likeliest: str
    flag: str
    column: int = -1
    rows: tuple[int, ...] = ()

    @property
    def question(self) -> str:
        """What is asked, in words."""
        return str(self.asks)

    @property
    def evidence(self) -> str:
        """What speaks for an answer, in words."""
        return str(self.because)

    @property
    def likeliest_words(self) -> str:
        """The likeliest answer in words."""
        return next((option.words for option in self.options if option.key == self.likeliest), self.likeliest)

    def __str__(self) -> str:
        others = ", ".join(option.words for option in self.options if option.key != self.likeliest)
        return say(
            "list.doubt",
            asks=self.asks,
            because=self.because,
            likeliest=self.likeliest_words,
            flag=self.flag.format(self.likeliest),
            others=others,
        )


def doubt(
    name: str,
    /,
    options: Iterable[str | Option],
    likeliest: str,
    flag: str,
    column: int = -1,
    rows: Iterable[int] = (),
    about: str = "",
    **values: Any,
) -> Doubt:
    """A question by its id, whose words are under list.ask, list.because and list.answer in the catalogue, by the id
    before its colon or by what it is `about`; `values` are what they name."""
    about = about or name.partition(":")[0]
    answers = tuple(
        Option(one, Message.of(f"list.answer.{about}.{one}", **values)) if isinstance(one, str) else one
        for one in options
    )
    asks, because = (Message.of(f"list.{what}.{about}", **values) for what in ("ask", "because"))
    return Doubt(name, asks, because, answers, likeliest, flag, column, tuple(rows))


@dataclass(frozen=True)
class Answers:
    """What a person has said of a list. `columns` maps a field to a column index (−1: there is none), `units` a
    field to a unit word; `said` a doubt's id to the chosen option. `accept` takes every likeliest answer."""

    sheets: tuple[str, ...] = ()
    header_row: int | None = None
    columns: Mapping[str, int] = field(default_factory=dict)
    units: Mapping[str, str] = field(default_factory=dict)
    said: Mapping[str, str] = field(default_factory=dict)
    accept: bool = False

    def to_json(self) -> dict[str, object]:
        """Plain data for the settings file; sheets and columns go by what the headers are."""
        return {"columns": dict(self.columns), "units": dict(self.units), "said": dict(self.said)}

    @classmethod
    def from_json(cls, data: object) -> Answers:
        """What `to_json` gave; anything unfit is left out."""
        if not isinstance(data, dict):
            return cls()

        def table(key: str, kind: type) -> dict[str, object]:
            rows = data.get(key)
            return {str(k): v for k, v in rows.items() if isinstance(v, kind)} if isinstance(rows, dict) else {}

        units = {name: unit for name, unit in table("units", str).items() if unit in UNITS.get(name, ())}
        said = {
            key: value for key, value in table("said", str).items() if key != "decimal" or value in ("comma", "point")
        }
        return cls(columns=table("columns", int), units=units, said=said)  # type: ignore[arg-type]


class Questions:
    """Gathers doubts while a list is read, and gives the answers already there."""

    def __init__(self, answers: Answers) -> None:
        self.answers = answers
        self.open: list[Doubt] = []
        self.notes: list[Message] = []
        self.asked: list[Doubt] = []

    def ask(self, doubt: Doubt) -> str:
        """The answer's key: as said, else the likeliest, which stays a doubt unless all likeliest are accepted."""
        self.asked.append(doubt)
        said = self.answers.said.get(doubt.id)
        if said is not None and said in {option.key for option in doubt.options}:
            return said
        if self.answers.accept:
            self.note("taken", asks=doubt.asks, answer=doubt.likeliest_words)
        else:
            self.open.append(doubt)
        return doubt.likeliest

    def note(self, key: str, **values: Any) -> None:
        """Something to tell, by its code under list.note, once."""
        said = Message.of(f"list.note.{key}", **values)
        if said not in self.notes:
            self.notes.append(said)
