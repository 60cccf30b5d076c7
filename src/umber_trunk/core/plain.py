"""JSON texts as plain data, an entry of their tables at a time: a large one is read beside the window, which has to
breathe meanwhile."""

from __future__ import annotations

import json
import re
from typing import Any

SHORT = 50_000
"""Letters read in one go: a ms or less."""
DEEP = 2
"""How deep tables lie that are read entry by entry."""
_SPACE = re.compile(r"[ \t\n\r]*")
_decoder = json.JSONDecoder()


def loaded(text: str | bytes) -> Any:
    """What `json.loads` gives, and its errors."""
    if len(text) < SHORT:
        return json.loads(text)
    said = text if isinstance(text, str) else text.decode(json.detect_encoding(text), "surrogatepass")
    try:
        value, at = _value(said, _after(said, 0), 0)
        if _after(said, at) == len(said):
            return value
    except (ValueError, IndexError, RecursionError):
        pass
    return json.loads(text)  # it says what is wrong, and where


def _after(text: str, at: int) -> int:
    found = _SPACE.match(text, at)
    return found.end() if found else at


def _value(text: str, at: int, deep: int) -> tuple[Any, int]:
    if deep >= DEEP or text[at] not in "{[":
        return _decoder.raw_decode(text, at)
    named, end = text[at] == "{", "}" if text[at] == "{" else "]"
    names: list[str] = []
    values: list[Any] = []
    at = _after(text, at + 1)
    while text[at] != end:
        if values:
            at = _after(text, _past(text, at, ","))
        if named:
            name, at = _decoder.raw_decode(text, at)
            if not isinstance(name, str):
                raise ValueError(name)
            names.append(name)
            at = _after(text, _past(text, _after(text, at), ":"))
        value, at = _value(text, at, deep + 1)
        values.append(value)
        at = _after(text, at)
    return (dict(zip(names, values, strict=True)) if named else values), at + 1


def _past(text: str, at: int, mark: str) -> int:
    if text[at] != mark:
        raise ValueError(at)
    return at + 1
