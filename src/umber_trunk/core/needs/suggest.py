"""What may come next in a line: names after "at", "from", "off" and "in", otherwise what the line hasn't said yet."""

from __future__ import annotations

import re

from umber_trunk.core.harness.end import EndKind
from umber_trunk.core.harness.model import Design
from umber_trunk.core.needs.line_records import Need

MOST = 6
"""Lines offered at once."""
_NAMED = re.compile(r".*(?:^|\s)(at|from|off|in|by)\s+([^,;]*)$", re.I)
_NEXT = {
    "load": (
        ("amount", "6 A"), ("where", "at "), ("from", "from "), ("run", "run 3 m"), ("zone", "in "), ("least", "min 21 V"),
        ("surge", "surge 20 A/1 s"), ("duty", "duty 20 s/60 s"), ("drop", "drop 3%"), ("fused", "fused 10 A"), ("frame", "frame return"),
        ("cable", "by screened pair"),
    ),
    "supply": (("volts", "24 V"), ("inside", "5 mohm"), ("where", "at ")),
    "box": (("where", "at "), ("ways", "6 ways"), ("from", "from "), ("run", "run 2 m"), ("zone", "in ")),
    "converter": (("volts", "24 to 12 V"), ("efficiency", "90%"), ("where", "at "), ("from", "from "), ("run", "run 2 m")),
    "fuse": (("amount", "250 A"), ("where", "at "), ("style", "class T")),
    "connector": (("where", "at "), ("pins", "pins 1 2 3"), ("run", "run 1 m")),
}  # fmt: skip
_PLACE = (("where", "at "), ("from", "from "), ("run", "run 2 m"), ("zone", "in "))
FIRST = (
    "supply 24 V 5 mohm at battery",
    "fuse box at bulkhead, 6 ways, from battery run 2 m",
    "pump 6 A at bilge from bulkhead run 4 m",
)


def suggestions(design: Design, text: str, need: Need) -> list[str]:
    """Whole lines that `text` could go on as, the likeliest first; at most six."""
    if not text.strip():
        return list(FIRST[:1] if not design.supplies else FIRST[1:])
    named = _NAMED.match(text)
    if named is not None and named[1].lower() != "by":
        known = _names(design, named[1].lower())
        typed = named[2].lower()
        fitting = [name for name in known if name.lower().startswith(typed) and name.lower() != typed]
        if fitting:
            return [text[: named.start(2)] + name for name in fitting[:MOST]]
    said = {piece.kind for piece in need.pieces if piece.ok}
    open_ = [words for kind, words in _NEXT.get(need.what, _PLACE) if kind not in said]
    base = text.rstrip()
    return [f"{base} {words}" for words in open_[:MOST]]


def _names(design: Design, word: str) -> list[str]:
    """Names that may follow a word; boxes first after "from"."""
    if word == "in":
        return [zone.name for zone in design.zones]
    feeds = (EndKind.BOX, EndKind.BAR, EndKind.CONVERTER, EndKind.SWITCH, EndKind.RELAY, EndKind.STUD)
    sources = {supply.plus.end for supply in design.supplies}
    ends = (
        sorted(design.ends, key=lambda end: not (end.kind in feeds or end.id in sources))
        if word == "from"
        else design.ends
    )
    return [end.name for end in ends]
