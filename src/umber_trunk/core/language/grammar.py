"""Lines read by the grammar in data/said.lark into their records."""

from __future__ import annotations

from functools import cache, lru_cache
from importlib import resources
from typing import TYPE_CHECKING

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.language.records import EXAMPLES, KINDS, OnTheWay, Said

if TYPE_CHECKING:
    from lark import Lark, Tree

MOST_SAID = 600
"""Letters that are read as one line."""
_WAY_NAMES = {
    "wrap": "kind",
    "holder": "kind",
    "slackness": "kind",
    "one": "part",
    "measured": "found",
    "to_length": "end",
    "name": "wire",
}


_NAMES = {"cable_name": "name"}


@cache
def _grammar() -> Lark:
    from lark import Lark  # half the library is parsers that aren't used: it is read when a line is

    text = resources.files("umber_trunk").joinpath("data/said.lark").read_text("utf-8")
    return Lark(text, parser="lalr", lexer="contextual", maybe_placeholders=False)


@lru_cache(maxsize=256)
def read_line(text: str) -> Said | None:
    """What a line says; None where it is none of the grammar's lines, such as one that tells of a load."""
    said = " ".join(text.split())
    if not said or len(said) > MOST_SAID:
        return None
    from lark import UnexpectedInput

    try:
        form = _grammar().parse(said).children[0]
    except UnexpectedInput:
        return None
    return _record(form)  # type: ignore[arg-type]


def _record(form: Tree) -> Said:  # type: ignore[type-arg]
    from lark import Tree

    rule = str(form.data)
    values = {
        str(part.data): " ".join(str(word) for word in part.children).strip()
        for part in form.children
        if isinstance(part, Tree)
    }
    if rule == "take":
        return KINDS["take"](**(values or {"what": " ".join(str(form.children[0]).lower().split())}))
    if rule in KINDS:
        return KINDS[rule](**{_NAMES.get(name, name): value for name, value in values.items()})
    return OnTheWay(*_on_the_way(rule, values))


def _on_the_way(rule: str, values: dict[str, str]) -> tuple[str, dict[str, str]]:
    """The form of `core/lengths/spoken` and what it is told."""
    said = {_WAY_NAMES.get(name, name): text for name, text in values.items()}
    if rule == "lead":
        said["apart"] = said.pop("long")
    elif rule == "lay":
        said["lay"] = said.pop("long")
    elif rule == "join":
        said["end"] = said.pop("wire")
    return rule, said


def refusal(text: str) -> InputError:
    """Why a line that begins like one of the grammar's isn't read: how such a line is said."""
    said = " ".join(text.split())
    word = said.split(" ")[0].lower() if said else ""
    like = [example for key, example in EXAMPLES.items() if key == word] or [
        example for key, example in EXAMPLES.items() if key.startswith(word[:3])
    ]
    if not like:
        return InputError.of("language.line-not-read-here", said=quoted(said))
    return InputError.of("language.line-not-read", said=quoted(said), like="; ".join(like[:3]))


def begins_like_one(text: str) -> bool:
    """Whether a line's first word is one of the grammar's."""
    words = text.split()
    return bool(words) and words[0].lower() in EXAMPLES and words[0].lower() != "like"
