"""How a line may go on: names and parts where the grammar wants them, else what the line hasn't said yet."""

from __future__ import annotations

import re

from umber_trunk.core.catalog import parts as catalogue
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.hear import Heard
from umber_trunk.core.language.records import EXAMPLES
from umber_trunk.core.needs.line_records import Need
from umber_trunk.core.needs.suggest import suggestions

MOST = 6
"""Lines offered at once."""
_PARTS: dict[str, tuple[type[catalogue.Base], ...]] = {
    "housing": (catalogue.Housing,), "contact": (catalogue.Contact,), "lug": (catalogue.Lug,), "seal": (catalogue.Seal,),
    "ferrule": (catalogue.Ferrule,), "boot": (catalogue.Boot,), "barrel": (catalogue.Splice,), "shrink": (catalogue.Shrink,), "tube": (catalogue.Tube,),
}  # fmt: skip
_WHERE = r"\s(?:on|of|for|with|at)\s+"
_OF_WIRES = frozenset(("size", "keep", "colour", "metal", "make", "jacket"))
_OF_SEGMENTS = frozenset(("sleeve", "tube", "tape", "clamp", "grommet", "bend", "twist", "corners", "drip", "service"))


def next_lines(design: Design, text: str, heard: Heard, shelf: Shelf | None = None) -> list[str]:
    """Whole lines that `text` could go on as, the likeliest first; at most six."""
    words = text.split()
    word = words[0].lower() if words else ""
    if len(words) == 1 and len(word) > 2 and not text.endswith(" "):
        begun = [example for key, example in EXAMPLES.items() if key.startswith(word)]
        if begun:
            return begun[:MOST]
    if word not in EXAMPLES:
        return suggestions(design, text, heard.need or Need())
    if word == "take" and len(words) < 3:
        return _takings(words[1].lower() if len(words) > 1 else "")
    if re.search(_WHERE, text, re.I) is not None:
        return _places(design, text, word)
    if word in _PARTS and len(words) > 1:
        return _parts_on(design, text, words[0], shelf)
    return [EXAMPLES[word]] if not heard.ok else []


def _takings(typed: str) -> list[str]:
    kinds = ("all", "sizes", "ends", "coverings", "fuses")
    return [f"take {what}" for what in kinds if what.startswith(typed) and what != typed]


def _places(design: Design, text: str, word: str) -> list[str]:
    """The text with its last name written out: of what this word is about."""
    tail = re.split(rf"{_WHERE}|,\s*|\s+to\s+", text, flags=re.I)[-1]
    typed = tail.strip().lower()
    fitting = [name for name in _names(design, word) if name.lower().startswith(typed) and name.lower() != typed]
    return [text[: len(text) - len(tail)] + name for name in fitting[:MOST]]


def _parts_on(design: Design, text: str, word: str, shelf: Shelf | None) -> list[str]:
    typed = text.strip()[len(word) :].strip().lower().split()
    kind = _PARTS[word.lower()]
    known = [part for part in shelf_for(design, shelf).parts.values() if isinstance(part, kind)]
    fitting = [part.name for part in known if all(one in f"{part.name} {part.id}".lower() for one in typed)]
    return [f"{word} {name} on " for name in fitting[:MOST]]


def _names(design: Design, word: str) -> list[str]:
    if word in _OF_SEGMENTS:
        return [segment.id for segment in design.segments]
    ends = [end.name for end in design.ends]
    wires = [
        "all",
        *(wire.id for wire in design.wires),
        *dict.fromkeys(wire.circuit for wire in design.wires if wire.circuit),
    ]
    return wires if word in _OF_WIRES else ends
