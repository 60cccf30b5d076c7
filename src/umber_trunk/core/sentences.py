"""What the program says, as values: a code with its figures, names and ids. Its sentence is rendered at the edge, from
one catalogue.

The catalogue is data/sentences: code → template, findings and what else is told in en.json, what is refused in
refused.json; other languages have the same templates under the code as their context (`core/voice`). In a template
`{name}` is a value, `{name:.3g}` one with Python's format, `{name?words}` words said only where the value is neither
empty, 0 nor false, `{name!words}` where it is, `{n|wire|wires}` the one or the many.
"""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property
from importlib import resources
from types import MappingProxyType
from typing import Any

from umber_trunk.core.voice import spoken

_HOLE = re.compile(r"\{(\w+)(?:([:?!|])([^{}]*(?:\{[^{}]*\}[^{}]*)*))?\}")


REFUSED = "refused."
"""How the code of a refusal begins."""


@cache
def catalogue(file: str = "en.json") -> Mapping[str, str]:
    """Code → template, of one file of data/sentences."""
    text = resources.files("umber_trunk").joinpath("data/sentences", file).read_text("utf-8")
    return MappingProxyType(json.loads(text))


def template(code: str) -> str:
    """The English template of a code. KeyError where there is none."""
    return catalogue("refused.json" if code.startswith(REFUSED) else "en.json")[code]


@dataclass(frozen=True)
class Message:
    """Something to say. `values` are plain: texts, numbers, truths, or messages in turn. `as_was` is its sentence as it
    was said when it was frozen, which stays whatever the catalogue says later. One without a code says nothing."""

    code: str
    values: Mapping[str, Any] = field(default_factory=dict, hash=False)
    as_was: str = ""

    @classmethod
    def of(cls, code: str, /, **values: Any) -> Message:
        """Something to say, with its values."""
        return cls(code, values)

    @cached_property
    def text(self) -> str:
        """Its sentence."""
        return self.as_was or (say(self.code, **self.values) if self.code else "")

    @property
    def key(self) -> tuple[str, ...]:
        """What tells it from others, whatever language it is said in."""
        told = ((name, self.values[name]) for name in sorted(self.values))
        return self.code, self.as_was, *(f"{name}={one.key if isinstance(one, Message) else one}" for name, one in told)

    def __str__(self) -> str:
        return self.text

    def __format__(self, spec: str) -> str:
        """As a text is; “begins” has it begin a sentence, “inside” stand within one, without its full stop."""
        if spec == "begins":
            return self.text[:1].upper() + self.text[1:]
        return self.text.rstrip(".") if spec == "inside" else format(self.text, spec)

    def __bool__(self) -> bool:
        return bool(self.code or self.as_was)


NOTHING = Message("")
"""Nothing to say."""


def joined(code: str, rows: Sequence[Message | str]) -> Message:
    """Several things said one after the other, two by two by a code that names `one` and `other`."""
    found = rows[0]
    for row in rows[1:]:
        found = Message.of(code, one=found, other=row)
    return found if isinstance(found, Message) else Message("", as_was=found)


def say(code: str, /, **values: Any) -> str:
    """The sentence of a code. KeyError for a code or a value the catalogue and the caller don't agree on."""
    return filled(spoken(template(code), code), values)


def heads(*keys: str) -> tuple[str, ...]:
    """Heads of a paper's columns by their keys under paper.head; "" stays empty."""
    return tuple(say(f"paper.head.{key}") if key else "" for key in keys)


def filled(text: str, values: Mapping[str, Any]) -> str:
    """A template with its values put in. KeyError where one is missing."""

    def put(hole: re.Match[str]) -> str:
        value, mark, rest = values[hole[1]], hole[2], hole[3]
        if mark == "?":
            return filled(rest, values) if value else ""
        if mark == "!":
            return "" if value else filled(rest, values)
        if mark == "|":
            one, _, many = rest.partition("|")
            return one if value == 1 else many
        return format(value, rest or "")

    return _HOLE.sub(put, text)
