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
_PARTS: dict[str, tuple[type[catalogue.Base], ...]] = {
    "housing": (catalogue.Housing,), "contact": (catalogue.Contact,), "lug": (catalogue.Lug,), "seal": (catalogue.Seal,),
    "ferrule": (catalogue.Ferrule,), "boot": (catalogue.Boot,), "barrel": (catalogue.Splice,), "shrink": (catalogue.Shrink,), "tube": (catalogue.Tube,),
}  # fmt: skip
_OF_WIRES = frozenset(("size", "keep", "colour", "metal", "make", "jacket"))
_OF_SEGMENTS = frozenset(("sleeve", "tube", "tape", "clamp", "grommet", "bend", "twist", "corners", "drip", "service"))


def next_lines(design: Design, text: str, heard: Heard, shelf: Shelf | None = None) -> list[str]:
    """Whole lines that `text` could go on as, the likeliest first; at most six."""
    words = text.split()
    word = words[0].lower() if words else ""
    if word and len(words) == 1 and not text.endswith(" "):
        begun = [example for key, example in EXAMPLES.items() if key.startswith(word)]
        if begun and len(word) > 2:
            return begun[:MOST]
    if word not in EXAMPLES:
        return suggestions(design, text, heard.need or Need())
    if word == "take" and len(words) < 3:
        typed = words[1].lower() if len(words) > 1 else ""
        return [
            f"take {what}"
            for what in ("all", "sizes", "ends", "coverings", "fuses")
            if what.startswith(typed) and what != typed
        ]
    on = re.search(r"\s(?:on|of|for|with|at)\s+", text, re.I)
    if on is not None:
        tail = re.split(r"\s(?:on|of|for|with|at)\s+|,\s*|\s+to\s+", text)[-1]
        typed = tail.strip().lower()
        fitting = [name for name in _names(design, word) if name.lower().startswith(typed) and name.lower() != typed]
        return [text[: len(text) - len(tail)] + name for name in fitting[:MOST]]
    if word in _PARTS and len(words) > 1:
        typed = text.strip()[len(word) :].strip().lower()
        known = [part for part in shelf_for(design, shelf).parts.values() if isinstance(part, _PARTS[word])]
        fitting = [part.name for part in known if all(one in f"{part.name} {part.id}".lower() for one in typed.split())]
        return [f"{words[0]} {name} on " for name in fitting[:MOST]]
    return [EXAMPLES[word]] if not heard.ok else []


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
