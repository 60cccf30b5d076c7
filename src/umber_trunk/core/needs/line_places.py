"""Where a line’s thing is: at which place, in which air, how far along which way, on which pins, in which cable."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import CableKind
from umber_trunk.core.measures import CURRENT, LENGTH
from umber_trunk.core.needs.line_reader import KEYWORDS, STOP, Reader
from umber_trunk.core.needs.line_records import LoadLine, PlaceLine, RelayLine, SitedLine, SupplyLine
from umber_trunk.core.sentences import say
from umber_trunk.core.units import parse_amps, parse_celsius, parse_length_m, show_length

ZONE_WORDS = {
    "wet": "wet", "damp": "wet", "shaking": "vibration", "vibration": "vibration", "vibrating": "vibration",
    "oily": "oil", "oil": "oil", "sun": "uv", "sunny": "uv", "uv": "uv", "flexing": "flexing", "flexed": "flexing",
    "hot": "hot_metal", "enclosed": "enclosed", "conduit": "enclosed", "duct": "enclosed",
}  # fmt: skip


def read_places(reader: Reader, need: SitedLine) -> None:
    """Where it is, how far along which way, on which pins, in what air."""

    def run(text: str) -> str:
        need.run_m = parse_length_m(text, "m", reader.habit)
        return say("read.along", metres=show_length(need.run_m))

    def frame(_: re.Match[str]) -> str:
        need.frame = True
        return say("read.through-frame")

    def named(attribute: str, words: str) -> Callable[[re.Match[str]], str]:
        def use(match: re.Match[str]) -> str:
            name = plain_name(match[1].strip(" ,;"))
            setattr(need, attribute, name)
            return f"{words} {name}"

        return use

    if isinstance(need, PlaceLine) and need.what in ("box", "connector", "bar"):
        reader.take("ways", r"\b(\d{1,4})[- ]*(?:ways?|pins?|poles?)\b", partial(_ways, need))
    _read_pins(reader, need)
    if isinstance(need, LoadLine):
        _read_wiring(reader, need)
    reader.take_quantity("run", r"\b(?:run|length)\s+(?=\S)", (LENGTH,), run)
    reader.take(
        "frame",
        r"\b(?:return\s+(?:by\s+)?)?(?:frame|chassis|ground)\s+return\b"
        r"|\breturn\s+(?:by\s+|through\s+)?(?:the\s+)?(?:frame|chassis|ground)\b",
        frame,
    )
    reader.take("off", rf"\boff\s+(\S.*?){STOP}", named("off", "branching off"))
    reader.take("from", rf"\bfrom\s+(\S.*?){STOP}", named("source", "from"))
    if isinstance(need, RelayLine):
        reader.take("by", rf"\bby\s+(\S.*?){STOP}", named("by", "its coil fed from"))
    reader.take("where", rf"\bat\s+(\S.*?){STOP}", named("where", "at"))
    reader.take("zone", rf"\bin\s+(\S.*?){STOP}", lambda m: _zone(need, m[1]))


def _ways(need: PlaceLine, match: re.Match[str]) -> str:
    need.ways = int(match[1])
    if not 1 <= need.ways <= 200:
        raise InputError.of("needs.ways-out-of-range")
    return f"{need.ways} ways"


def _read_pins(reader: Reader, need: SitedLine) -> None:
    """Two pins of what has two poles, any number of a place."""
    listed, two = r"[^\s,;/]+", isinstance(need, LoadLine | SupplyLine)
    few = rf"({listed}\s*(?:[,/]|and)?\s*{listed})" if two else rf"({listed}(?:[\s,/]+(?!(?:{KEYWORDS})\b){listed})*)"

    def pins(match: re.Match[str]) -> str:
        need.pins = tuple(part for part in re.split(r"[\s,/]+|\band\b", match[1].strip()) if part)
        if not isinstance(need, LoadLine):
            return "pins " + ", ".join(need.pins)
        if len(need.pins) != 2:
            raise InputError.of("needs.name-two-pins")
        return say("read.plus-minus", plus=need.pins[0], minus=need.pins[1])

    reader.take("pins", rf"(?<![\d-])\bpins?\s+{few}", pins)


def _read_wiring(reader: Reader, need: LoadLine) -> None:
    """In which cable a load's wires run, and the fuse they have for themselves."""

    def fused(text: str) -> str:
        need.fused_a = parse_amps(text, reader.habit)
        return say("read.own-fuse", amps=need.fused_a)

    def cable(match: re.Match[str]) -> str:
        need.cable = CableKind.SCREENED if re.match(r"s", match[1], re.I) else CableKind.PAIR
        return f"by {need.cable}"

    reader.take(
        "cable",
        r"\b(?:by|in|on|through|with)\s+(?:a\s+)?(twisted|screened|shielded)(?:\s+(?:pair|cable))?\b",
        cable,
    )
    reader.take_quantity("fused", r"\bfused(?:\s+(?:at|with|by))?\s+(?=[\d.,])", (CURRENT,), fused)


_TAIL = re.compile(
    r"(?:^|\s)([-−]?[\d.,/½¼¾]*\d\s*(?:mm|cm|m|ft|feet|in|yd|k?A|mA|m?V|k?W|hp|m?ohm|Ω|°?[CF]|s|min|%|"
    r"['\"′″]))$",
    re.I,
)


def plain_name(name: str) -> str:
    """A name that doesn't end in a figure with its unit, which would be lost in it."""
    tail = _TAIL.search(name)
    if tail is not None:
        raise InputError.of("needs.not-understood-say-what", tail=tail[1], name=name)
    return name


def _zone(need: SitedLine, text: str) -> str:
    warm = re.search(r"([-−]?[\d.,]+)\s*°?\s*([CF])\b", text)
    if warm:
        need.zone_c = parse_celsius(warm[0])
        text = text.replace(warm[0], " ")
    words = re.split(r"[\s,]+", text.strip())
    flags = [ZONE_WORDS[word.lower()] for word in words[1:] if word.lower() in ZONE_WORDS]
    kept = [word for at, word in enumerate(words) if at == 0 or word.lower() not in ZONE_WORDS]
    need.zone, need.zone_flags = plain_name(" ".join(kept)), tuple(dict.fromkeys(flags))
    detail = [f"{need.zone_c:g} °C"] if need.zone_c is not None else []
    return " ".join(["in", need.zone, *detail, *(flag.replace("_", " ") for flag in need.zone_flags)])
