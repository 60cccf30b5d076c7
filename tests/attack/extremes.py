"""Extreme values for every field of the design's schema, read from the schema itself: a new field is covered
unnamed."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

from conftest import design_of
from umber_trunk.core.harness.model import Design

Plain = dict[str, Any]
BEYOND = (1e308, -1e308, 1e-300, -1e-300, 5e-324, float("nan"), float("inf"), float("-inf"), 2**70, -1, 0, True, None)
TEXTS = ("", "\x1b[31mred\x07", "a\nb\tc", "‮abc", "\ud800", "<b>&amp;</b>", "=1+1", "x" * 401, "\u2028", "٣", "é" * 20)


@dataclass(frozen=True)
class Field:
    """One leaf of the schema: the way to it in plain data (0 for the first of a list), and its schema."""

    way: tuple[str | int, ...]
    schema: Plain

    def __str__(self) -> str:
        return ".".join(map(str, self.way))

    @property
    def numbers(self) -> list[Plain]:
        """The kinds of number it may be."""
        kinds = [self.schema, *self.schema.get("anyOf", ())]
        kinds += [inner for kind in kinds for inner in kind.get("anyOf", ())]
        return [kind for kind in kinds if kind.get("type") in ("number", "integer")]

    @property
    def text(self) -> bool:
        """Whether it may be any text."""
        kinds = [self.schema, *self.schema.get("anyOf", ())]
        return any(kind.get("type") == "string" and "enum" not in kind and "pattern" not in kind for kind in kinds)

    def edges(self) -> list[float]:
        """The least and the most it may be, and what lies just inside."""
        found: list[float] = []
        for kind in self.numbers:
            whole = kind["type"] == "integer"
            for bound, inward in (("minimum", math.inf), ("maximum", -math.inf)):
                if bound in kind:
                    found += [
                        kind[bound],
                        kind[bound] + math.copysign(1, inward) if whole else math.nextafter(kind[bound], inward),
                    ]
            for bound, inward in (("exclusiveMinimum", math.inf), ("exclusiveMaximum", -math.inf)):
                if bound in kind:
                    found.append(math.nextafter(kind[bound], inward))
        return list(dict.fromkeys(found))


def fields() -> list[Field]:
    """Every leaf that can be reached in the plain data of `whole`."""
    schema = Design.model_json_schema()
    data = whole()
    return [field for field in _leaves(schema, schema["$defs"], ()) if _reach(data, field.way)]


def _leaves(schema: Plain, known: Plain, way: tuple[str | int, ...]) -> Iterator[Field]:
    if "$ref" in schema:
        schema = known[schema["$ref"].rsplit("/", 1)[1]]
    options = [one for one in schema.get("anyOf", ()) if one.get("type") != "null"]
    if (
        len(options) == 1
        and len(schema.get("anyOf", ())) == 2
        and ("$ref" in options[0] or options[0].get("type") == "array")
    ):
        yield from _leaves(options[0], known, way)
    elif schema.get("type") == "object" and len(way) < 8:
        for name, inner in schema.get("properties", {}).items():
            yield from _leaves(inner, known, (*way, name))
    elif schema.get("type") == "array":
        yield from _leaves(schema.get("items", {}), known, (*way, 0))
    else:
        yield Field(way, schema)


def _reach(data: Any, way: tuple[str | int, ...]) -> bool:
    for step in way[:-1]:
        try:
            data = data[step]
        except (KeyError, IndexError, TypeError):
            return False
    return isinstance(data, dict) or (isinstance(data, list) and bool(data))


@cache
def _text() -> str:
    return json.dumps(_whole())


def whole() -> Plain:
    """A small harness with a part in every table and something in every list, to be changed at will."""
    found: Plain = json.loads(_text())
    return found


def _whole() -> Plain:
    """A small harness with a part in every table and something in every list."""
    design = design_of(
        "supply 24 V 5 mohm at battery",
        "fuse box at bulkhead, 4 ways, from battery run 2 m",
        "pump 6 A surge 20 A/0.5s duty 20s/60s at bilge from bulkhead run 4 m min 21 V",
        "lamp 60 W at mast from bulkhead run 9 m",
        "heater 4 ohm at cabin from bulkhead run 3 m by twisted pair",
        "converter 24 to 12 V 90% at panel from battery run 2 m",
        "disk 12 V 2 A at desk from panel run 1 m",
        "case night at 10 C: lamp, heater",
        "connector at plug, pins 1 2 3",
    )
    data = design.model_dump(mode="json")
    data["zones"] = [{"id": "z", "name": "deck", "ambient_c": 35.0}]
    data["segments"][0]["zone"] = "z"
    data["project"]["shelf"] = ["1.5"]
    data["ends"][0]["bridged"] = data["ends"][0]["bridged"] or [[data["ends"][0]["cavities"][0]["id"]]]
    data["ends"][0]["housings"] = [{"id": "h", "name": "plug"}]
    boxed = next(end for end in data["ends"] if end["links"])
    data["ends"].remove(boxed)
    boxed["housings"], boxed["bridged"] = (
        data["ends"][0]["housings"],
        boxed["bridged"] or [[boxed["cavities"][0]["id"]]],
    )
    data["ends"].insert(0, boxed)
    boxed["frame"] = data["ends"][-1]["frame"] = True
    return data


def with_value(way: tuple[str | int, ...], value: Any) -> Plain:
    """The small harness with one field set."""
    return put(whole(), way, value)


def put(data: Plain, way: tuple[str | int, ...], value: Any) -> Plain:
    """The data with one field set in place."""
    at: Any = data
    for step in way[:-1]:
        at = at[step]
    at[way[-1]] = value
    return data
