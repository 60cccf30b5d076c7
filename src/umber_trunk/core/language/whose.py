"""Who a line means: ends, wires and loads by id, name, list, range, circuit, or as all of them."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from umber_trunk.core.catalog.parts import Base
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.wire_ends import Side
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.model import Design, Load, Wire
from umber_trunk.core.needs.outlets import find_end

_TAIL = re.compile(r"(.*?)(\d+)$")


def _split(text: str) -> list[str]:
    return [part.strip() for part in re.split(r"\s*[,;&]\s*|\s+and\s+", text) if part.strip()]


def _plain(text: str) -> str:
    return " ".join(text.lower().split())


def _expanded(text: str) -> list[str]:
    """ "lamp 1 to lamp 6" and "W1 to 4" as their members; a text that is no range alone."""
    both = re.fullmatch(r"(.+?)\s+(?:to|through|until|\.\.)\s+(.+)", text, re.I)
    if both is None:
        return [text]
    first, last = _TAIL.fullmatch(both[1]), _TAIL.fullmatch(both[2])
    if first is None or last is None or (last[1] and _plain(last[1]) != _plain(first[1])):
        return [text]
    low, high = int(first[2]), int(last[2])
    if not low <= high <= low + 400:
        raise InputError.of("language.range-runs", text=quoted(text), low=low, high=high)
    return [f"{first[1]}{str(number).zfill(len(first[2]))}" for number in range(low, high + 1)]


def _named(text: str, rows: Sequence[Any], what: str, more: Callable[[str], Iterable[Any]]) -> list[Any]:
    """The rows a text names, in its order, each once. InputError names what there is none of."""
    found: dict[str, Any] = {}
    for part in _split(text):
        names = [_plain(row.name) for row in rows] + [row.id.lower() for row in rows]
        members = [part] if _plain(part) in names else _expanded(part)
        for name in members:
            plain = _plain(name)
            if plain in ("all", "everything"):
                found |= {row.id: row for row in rows}
                continue
            hits = [row for row in rows if plain == row.id.lower()] or [
                row for row in rows if plain == _plain(row.name)
            ]
            hits = hits or list(more(plain))
            if not hits and plain.endswith("s"):
                hits = [row for row in rows if _plain(row.name).startswith(plain[:-1])]
            if not hits:
                raise InputError.of(
                    "language.none-of-that-kind", what=what, name=quoted(name), known=_known(name, rows)
                )
            found |= {row.id: row for row in hits}
    if not found:
        raise InputError.of("language.say-which-are-meant", what=what)
    return list(found.values())


def _known(name: str, rows: Sequence[Any]) -> str:
    """What there is, the likest first."""
    names = list(dict.fromkeys((row.name or row.id) for row in rows))
    near = difflib.get_close_matches(name, names, 4, 0.4)
    shown = near or names[:6]
    return (
        ("Did you mean: " if near else "There are: " if shown else "There are none yet.")
        + ", ".join(shown)
        + ("." if shown else "")
    )


def ends_of(design: Design, text: str) -> list[End]:
    """The ends a text means: by id or name, in a range, as "fuse box", or those of loads called so."""
    ends = {end.id: end for end in design.ends}

    def more(plain: str) -> list[End]:
        one = find_end(design, plain)
        if one is not None:
            return [one]
        return [
            ends[load.plus.end]
            for load in design.loads
            if plain in (_plain(load.name), load.id.lower()) and load.plus.end in ends
        ]

    return _named(text, design.ends, "end", more)


def loads_of(design: Design, text: str) -> list[Load]:
    """The loads a text means, by id, name, range, or by the end they are at."""

    def more(plain: str) -> list[Load]:
        ends = {end.id for end in design.ends if plain in (_plain(end.name), end.id.lower())}
        return [load for load in design.loads if load.plus.end in ends]

    return _named(text, design.loads, "load", more)


def wires_of(design: Design, text: str) -> list[Wire]:
    """The wires a text means: by id or name, of a circuit, at an end."""

    def more(plain: str) -> list[Wire]:
        circuit = [wire for wire in design.wires if _plain(wire.circuit) == plain]
        if circuit:
            return circuit
        end = find_end(design, plain)
        return [wire for wire in design.wires if end is not None and end.id in (wire.start.end, wire.finish.end)]

    return _named(text, design.wires, "wire", more)


def sides_of(design: Design, text: str) -> list[tuple[Wire, Side]]:
    """The ends of wires a text means: "W1 at battery", all at an end, both of a wire."""
    at = re.fullmatch(r"(.+?)\s+at\s+(.+)", text, re.I)
    if at is not None:
        here = {end.id for end in ends_of(design, at[2])}
        found = [(wire, side) for wire in wires_of(design, at[1]) for side, pin in _pins(wire) if pin in here]
        if not found:
            raise InputError.of("language.no-wire-ends-there", from_=at[1], to=at[2])
        return found
    try:
        wires = _named(
            text, design.wires, "wire", lambda plain: [wire for wire in design.wires if _plain(wire.circuit) == plain]
        )
        return [(wire, side) for wire in wires for side, _ in _pins(wire)]
    except InputError:
        here = {end.id for end in ends_of(design, text)}
        return [(wire, side) for wire in design.wires for side, pin in _pins(wire) if pin in here]


def _pins(wire: Wire) -> tuple[tuple[Side, str], tuple[Side, str]]:
    return ("start", wire.start.end), ("finish", wire.finish.end)


def part_of(shelf: Shelf, text: str, kind: type[Base] | tuple[type[Base], ...], word: str) -> Base:
    """The part of a kind that a text means, by its id or name, or by words that only one has; InputError names the
    likest."""
    plain = re.sub(r"[\s,]+", " ", text.lower()).strip()
    parts = [part for part in shelf.parts.values() if isinstance(part, kind)]
    exact = [part for part in parts if plain in (part.id.lower(), re.sub(r"[\s,]+", " ", part.name.lower()))]
    words = plain.split()
    hits = exact or [
        part for part in parts if all(one in re.split(r"[\s,]+", f"{part.name} {part.id}".lower()) for one in words)
    ]
    if len(hits) == 1:
        return hits[0]
    if hits:
        raise InputError.of(
            "language.one-of-several",
            text=quoted(text),
            count=len(hits),
            word=word,
            hits="; ".join(part.name for part in hits[:6]),
        )
    near = difflib.get_close_matches(plain, [part.name.lower() for part in parts] + [part.id for part in parts], 4, 0.3)
    named = {part.name.lower(): part.name for part in parts} | {part.id: part.name for part in parts}
    shown = list(dict.fromkeys(named[one] for one in near))
    raise InputError.of("language.nothing-like-it-in-catalogue", word=word, text=quoted(text), likest="; ".join(shown))
