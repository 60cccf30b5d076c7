"""One line of plain words into a load: "bilge pump 4 A surge 12A/1s at bow in bilge run 4,2 m min 21 V".

The parser never fails: it returns what it understood, where in the line, and what is missing, so that
the screen can show it while it is typed.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import LoadKind
from umber_trunk.core.units import (
    NUMBER,
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_duty,
    parse_length_m,
    parse_load,
    parse_ohms,
    parse_surge,
    parse_volts,
    show_length,
    show_ohms,
    significant,
)

ZONE_WORDS = {
    "wet": "wet", "damp": "wet", "shaking": "vibration", "vibration": "vibration", "vibrating": "vibration",
    "oily": "oil", "oil": "oil", "sun": "uv", "sunny": "uv", "uv": "uv", "flexing": "flexing", "flexed": "flexing",
    "hot": "hot_metal",
}  # fmt: skip


@dataclass(frozen=True)
class Piece:
    """A part of the line that was read: what it is, where it stands, what was understood."""

    kind: str
    start: int
    end: int
    meaning: str
    ok: bool = True


@dataclass
class Need:
    """What one line says: a supply, pins of an end joined (`join_end`, `pins`), or else a load."""

    supply: bool = False
    name: str = ""
    kind: LoadKind = LoadKind.CURRENT
    value: float | None = None
    volts: float | None = None
    source_ohm: float = 0.0
    surge_a: float | None = None
    surge_s: float | None = None
    on_s: float | None = None
    period_s: float | None = None
    where: str = ""
    zone: str = ""
    zone_c: float | None = None
    zone_flags: tuple[str, ...] = ()
    run_m: float | None = None
    off: str = ""
    source: str = ""
    min_volts: float | None = None
    max_drop_percent: float | None = None
    max_drop_v: float | None = None
    frame: bool = False
    pins: tuple[str, ...] = ()
    join_end: str = ""
    case_loads: str | None = None
    pieces: list[Piece] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)

    @property
    def ok(self) -> bool:
        """Whether the line can be entered."""
        return not self.missing and all(piece.ok for piece in self.pieces)


_Q = rf"{NUMBER}\s*[a-zA-ZΩµ]+"
_STOP = r"(?=\s+(?:at|in|run|off|from|min|drop|surge|start|duty|return|pins?|on frame)\b|[,;]|\x00|$)"
_SURGE = (
    rf"\b(?:surge|start(?:s|ing)?|peak|inrush)\s+({NUMBER}\s*k?A)\s*(?:/|for|,)?\s*({NUMBER}\s*(?:ms|s|sec|min)\b)?"
)
_DUTY = rf"\bduty\s+({_Q}\s*(?:/|in|of|per|every)\s*{_Q})"
_AMOUNT = rf"(?<![\w.,])(?:(\d+)\s*[x×*]\s*)?({NUMBER}\s*(?:k?W|m?A|hp|ohms?|m?Ω|mohm|watts?|amps?|V)(?![\w²]))"


class _Reader:
    """Takes pieces out of the line one after another; what is left is the name."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.rest = text
        self.need = Need()

    def take(self, kind: str, pattern: str, use: Callable[[re.Match[str]], str]) -> bool:
        match = re.search(pattern, self.rest, re.I)
        if not match:
            return False
        try:
            piece = Piece(kind, match.start(), match.end(), use(match))
        except InputError as why:
            piece = Piece(kind, match.start(), match.end(), str(why), ok=False)
        self.need.pieces.append(piece)
        blank = "\x00" * (match.end() - match.start())
        self.rest = self.rest[: match.start()] + blank + self.rest[match.end() :]
        return True


def parse_need(text: str, supply_volts: float = 12.0) -> Need:
    """Reads one line; `supply_volts` turns a drop class in volts into its share."""
    reader = _Reader(text)
    need = reader.need
    if reader.take("join", r"^\s*join\s+(.+?)\s*:\s*(.+?)\s*$", lambda m: _join(need, m)):
        return need
    if reader.take("case", r"^\s*case\s+(.+?)\s*:\s*(.+?)\s*$", lambda m: _case(need, m)):
        return need
    need.supply = bool(re.match(r"\s*(?:supply|source)\b", text, re.I))
    if need.supply:
        _read_supply(reader)
    else:
        _read_limits(reader, supply_volts)
    _read_places(reader)
    if not need.supply:
        reader.take("amount", _AMOUNT, lambda m: _amount(need, m))
    _read_name(reader)
    need.pieces.sort(key=lambda piece: piece.start)
    if need.supply and need.volts is None:
        need.missing.append("how many volts, such as 24 V")
    if not need.supply and need.value is None and not any(p.kind == "amount" for p in need.pieces):
        need.missing.append("how much it draws, such as 18 A or 430 W")
    if not need.name:
        need.missing.append("what it is")
    return need


def _case(need: Need, match: re.Match[str]) -> str:
    need.name, need.case_loads = match[1], match[2]
    return f"{match[1]} runs {match[2]}"


def _join(need: Need, match: re.Match[str]) -> str:
    need.join_end = need.name = match[1]
    need.pins = tuple(part for part in re.split(r"[\s,;/&]+|\band\b", match[2]) if part)
    if len(need.pins) < 2:
        raise InputError("Name two or more pins to join.")
    return f"{', '.join(need.pins)} joined inside {match[1]}"


def _amount(need: Need, match: re.Match[str]) -> str:
    kind, value = parse_load(match[2])
    count = int(match[1] or 1)
    need.kind = {"A": LoadKind.CURRENT, "W": LoadKind.POWER, "ohm": LoadKind.RESISTANCE}[kind]
    need.value = value / count if kind == "ohm" else value * count
    return f"{significant(need.value)} {'Ω' if kind == 'ohm' else kind}"


def _read_supply(reader: _Reader) -> None:
    need = reader.need

    def volts(match: re.Match[str]) -> str:
        need.volts = parse_volts(match[1])
        return f"{need.volts:g} V"

    def ohms(match: re.Match[str]) -> str:
        need.source_ohm = parse_ohms(match[1])
        return f"{show_ohms(need.source_ohm)} inside"

    reader.take("source", r"^\s*(?:supply|source)\b", lambda m: "a supply")
    reader.take("volts", rf"({NUMBER}\s*(?:mV|V))\b", volts)
    reader.take("inside", rf"({NUMBER}\s*(?:mohm|mΩ|ohm|Ω))", ohms)


def _read_limits(reader: _Reader, supply_volts: float) -> None:
    need = reader.need

    def duty(match: re.Match[str]) -> str:
        need.on_s, need.period_s = parse_duty(match[1].replace("every", "/"))
        return f"{need.on_s:g} s of every {need.period_s:g} s"

    def surge(match: re.Match[str]) -> str:
        if match[2]:
            need.surge_a, need.surge_s = parse_surge(f"{match[1]}/{match[2]}")
        else:
            need.surge_a, need.surge_s = parse_amps(match[1]), 1.0
        return f"{need.surge_a:g} A for {need.surge_s:g} s"

    def least(match: re.Match[str]) -> str:
        need.min_volts = parse_volts(match[1])
        if need.min_volts >= supply_volts:
            raise InputError(f"At least {need.min_volts:g} V can't come from {supply_volts:g} V.")
        return f"works down to {need.min_volts:g} V"

    def most(match: re.Match[str]) -> str:
        volts = parse_drop(match[1], supply_volts)
        if match[1].strip().endswith("%"):
            need.max_drop_percent = round(volts / supply_volts * 100, 6)
            return f"at most {need.max_drop_percent:g} % drop"
        need.max_drop_v = volts
        return f"at most {volts:g} V drop"

    reader.take("duty", _DUTY, duty)
    reader.take("surge", _SURGE, surge)
    reader.take("least", rf"\bmin(?:imum)?\s+({NUMBER}\s*m?V)\b", least)
    reader.take("drop", rf"\b(?:max\s+)?drop\s+({NUMBER}\s*(?:%|m?V))", most)


def _read_places(reader: _Reader) -> None:
    need = reader.need

    def run(match: re.Match[str]) -> str:
        need.run_m = parse_length_m(match[1])
        return f"{show_length(need.run_m)} along the way"

    def named(attribute: str, words: str) -> Callable[[re.Match[str]], str]:
        def use(match: re.Match[str]) -> str:
            name = match[1].strip(" ,;")
            setattr(need, attribute, name)
            return f"{words} {name}"

        return use

    def frame(_: re.Match[str]) -> str:
        need.frame = True
        return "returns through the frame"

    def pins(match: re.Match[str]) -> str:
        need.pins = (match[1], match[2])
        return f"plus on {match[1]}, minus on {match[2]}"

    reader.take("pins", r"\bpins?\s+([^\s,/]+)\s*(?:[,/]|and)?\s*([^\s,/]+)", pins)
    length = (
        rf"\b(?:run|length)\s+((?:{NUMBER}\s*(?:m{{1,2}}\b|cm\b|ft\b|feet\b|in\b|inch(?:es)?\b|yd\b|['\"′″])?\s*)+)"
    )
    reader.take("run", length, run)
    reader.take(
        "frame",
        r"\b(?:return\s+(?:by\s+)?)?(?:frame|chassis|ground)\s+return\b|\breturn\s+(?:by\s+|through\s+)?(?:the\s+)?(?:frame|ground)\b",
        frame,
    )
    reader.take("off", rf"\boff\s+(\S.*?){_STOP}", named("off", "branching off"))
    reader.take("from", rf"\bfrom\s+(\S.*?){_STOP}", named("source", "from"))
    reader.take("where", rf"\bat\s+(\S.*?){_STOP}", named("where", "at"))
    reader.take("zone", rf"\bin\s+(\S.*?){_STOP}", lambda m: _zone(need, m[1]))


def _zone(need: Need, text: str) -> str:
    warm = re.search(rf"({NUMBER})\s*°?\s*([CF])\b", text)
    if warm:
        need.zone_c = parse_celsius(warm[0])
        text = text.replace(warm[0], " ")
    words = re.split(r"[\s,]+", text.strip())
    flags = [ZONE_WORDS[word.lower()] for word in words[1:] if word.lower() in ZONE_WORDS]
    kept = [word for at, word in enumerate(words) if at == 0 or word.lower() not in ZONE_WORDS]
    need.zone, need.zone_flags = " ".join(kept), tuple(dict.fromkeys(flags))
    detail = [f"{need.zone_c:g} °C"] if need.zone_c is not None else []
    return " ".join(["in", need.zone, *detail, *(flag.replace("_", " ") for flag in need.zone_flags)])


def _read_name(reader: _Reader) -> None:
    need = reader.need
    words: list[tuple[int, int]] = [m.span() for m in re.finditer(r"[^\x00\s,;]+(?:[\s]+[^\x00\s,;]+)*", reader.rest)]
    if not words:
        if need.supply and need.where:
            need.name = need.where
        return
    start, end = words[0]
    need.name = " ".join(reader.rest[start:end].split())
    need.pieces.append(Piece("what", start, end, need.name))
    for start, end in words[1:]:
        stray: Any = reader.rest[start:end]
        need.pieces.append(Piece("stray", start, end, f"“{stray}” was not understood", ok=False))
