"""What a model has against a value, in the builder's words: models say it in those of a programmer."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from umber_trunk.core.errors import clipped
from umber_trunk.core.sentences import Message

_CHOICE = re.compile(r"\^\(([\w|+\-.\\ ]*)\)\$")
_NUMBERS = ("float_type", "float_parsing", "decimal_type", "decimal_parsing", "finite_number")
_KINDS = (
    dict.fromkeys(_NUMBERS, "no-number")
    | dict.fromkeys(("int_type", "int_parsing", "int_from_float", "int_parsing_size"), "no-whole-number")
    | dict.fromkeys(("bool_type", "bool_parsing"), "neither")
    | dict.fromkeys(("list_type", "tuple_type", "set_type", "iterable_type"), "no-list")
    | dict.fromkeys(("dict_type", "model_type", "model_attributes_type", "mapping_type"), "no-object")
    | {"missing": "missing", "extra_forbidden": "extra", "string_type": "no-text"}
)
"""How the models' library calls a fault → its code under field."""
_BOUNDS = {"greater_than": "gt", "greater_than_equal": "ge", "less_than": "lt", "less_than_equal": "le"}
_LENGTHS = {
    "string_too_long": "max_length",
    "string_too_short": "min_length",
    "too_long": "max_length",
    "too_short": "min_length",
}


def field_fault(error: Mapping[str, Any]) -> Message:
    """One error of pydantic's ValidationError.errors(), as said to who typed it; what isn't known here in its own
    words."""
    kind, bounds, given = str(error["type"]), error.get("ctx", {}), error.get("input")
    text = clipped(str(given)) if isinstance(given, str | int | float) else ""
    if key := _KINDS.get(kind):
        return Message.of(f"field.{key}") if key in ("missing", "extra") else Message.of(f"field.{key}", text=text)
    if kind in _BOUNDS:
        return Message.of(f"field.{kind.replace('_', '-')}", text=text, bound=float(bounds[_BOUNDS[kind]]))
    if kind == "string_too_short" and not given:
        return Message.of("field.empty")
    if kind in _LENGTHS:
        return Message.of(f"field.{kind.replace('_', '-')}", bound=bounds[_LENGTHS[kind]])
    if kind in ("enum", "literal_error"):
        return Message.of("field.none-of", text=text, known=str(bounds["expected"]).replace("'", ""))
    if kind == "string_pattern_mismatch" and (choice := _CHOICE.fullmatch(str(bounds["pattern"]))):
        known = ", ".join(filter(None, choice[1].replace("\\", "").split("|")))
        return Message.of("field.none-of", text=text, known=known)
    return Message("", as_was=str(error["msg"]).removeprefix("Value error, "))
