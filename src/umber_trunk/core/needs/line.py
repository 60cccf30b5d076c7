"""One line of plain words into what it says: "bilge pump 4 A surge 12A/1s at bow in bilge run 4,2 m min 21 V".

The reader never fails: it returns what it understood, where in the line, and what is missing, so that the screen can
show it while it is typed. What nothing claims is said to be not understood; it never slips into a name.
"""

from __future__ import annotations

import re
from functools import partial

from umber_trunk.core.errors import InputError
from umber_trunk.core.measures import CURRENT, RESISTANCE, VOLTAGE
from umber_trunk.core.needs.line_loads import read_amount, read_limits
from umber_trunk.core.needs.line_places import read_places
from umber_trunk.core.needs.line_reader import Reader, take_amount
from umber_trunk.core.needs.line_records import (
    CaseLine,
    ConverterLine,
    FrameLine,
    FuseLine,
    JoinLine,
    LoadLine,
    Need,
    Piece,
    PlaceLine,
    RelayLine,
    SitedLine,
    SupplyLine,
)
from umber_trunk.core.quantity import Habit
from umber_trunk.core.sentences import say
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_ohms,
    parse_share,
    parse_volts,
    show_ohms,
)

NEXT = r"(?=\s*(?:$|[,;]|at\b|in\b|from\b|run\b|off\b|with\b|pins?\b|\d))"
_HEADS = (
    ("supply", r"(?:supply|source|rail)\b"),
    ("box", rf"(?:fuse|distribution|junction)\s*(?:box|block|panel)\b{NEXT}"),
    ("connector", rf"(?:(\d{{1,3}})[- ]?(?:pin|way|pole)\s+)?connector\b{NEXT}"),
    ("bar", rf"(?:(negative|minus|positive|plus|ground|return)\s+)?(?:bus\s*)?bar\b{NEXT}"), ("stud", rf"stud\b{NEXT}"), ("splice", rf"splice\b{NEXT}"),
    ("switch", rf"switch\b{NEXT}"), ("relay", rf"relay\b{NEXT}"), ("converter", rf"(?:dc[- ]?dc\s+)?converter\b{NEXT}"),
    ("fuse", r"(?:(class\s+\w+|\w+)\s+)?fuse\s+(?=\d)"), ("frame", r"(?:frame|chassis)\s+(?:return\s+)?(?=[\d.,]+\s*\S*(?:ohm|Ω))"),
)  # fmt: skip


def parse_need(text: str, supply_volts: float, decimal: str = "", efficiency: float | None = None) -> Need:
    """Reads one line. `supply_volts` turns a drop class in volts into its share, `decimal` is the project's habit,
    `efficiency` what its motors are taken to have where the line doesn't say."""
    reader = Reader(text.replace("\x00", " "), Habit(decimal))
    need = _read(reader, supply_volts, efficiency)
    need.pieces = sorted(reader.pieces, key=lambda piece: piece.start)
    return need


def _read(reader: Reader, supply_volts: float, efficiency: float | None) -> Need:
    """The record that the line's first words ask for, filled."""
    join, case = JoinLine(), CaseLine()
    if reader.take("join", r"^\s*join\s+(.+?)\s*:\s*(.+?)\s*$", lambda m: _join(join, m)):
        return join
    if reader.take("case", r"^\s*case\s+(.+?)\s*:\s*(.+?)\s*$", lambda m: _case(case, m)):
        return case
    need = _read_head(reader)
    match need:
        case SupplyLine():
            _read_supply(reader, need)
        case ConverterLine():
            _read_converter(reader, need)
        case FuseLine():
            _read_fuse(reader, need)
        case FrameLine():
            _read_frame(reader, need)
        case LoadLine():
            read_limits(reader, need, supply_volts)
    read_places(reader, need)
    if isinstance(need, LoadLine) or (isinstance(need, RelayLine) and re.search(r"\d\s*m?A\b", reader.rest)):
        read_amount(reader, need, efficiency)
    _read_name(reader, need)
    _name_missing(reader, need)
    return need


def _name_missing(reader: Reader, need: SitedLine) -> None:
    tried = {piece.kind for piece in reader.pieces}
    match need:
        case SupplyLine(volts=None) if "volts" not in tried:
            need.missing.append("how many volts, such as 24 V")
        case LoadLine(value=None) if "amount" not in tried:
            need.missing.append("how much it draws, such as 18 A or 430 W")
        case ConverterLine(out_volts=None) if "volts" not in tried:
            need.missing.append("what it makes, such as 24 to 12 V")
        case FuseLine(rating_a=None) if "amount" not in tried:
            need.missing.append("its rating, such as 250 A")
    if not need.name:
        need.missing.append("what it is" if isinstance(need, LoadLine) else "where it is, such as at bulkhead")


def _case(need: CaseLine, match: re.Match[str]) -> str:
    need.name, need.loads = match[1], match[2]
    warm = re.fullmatch(r"(.+?)\s+at\s+([-−+\d.,]+\s*°?\s*[CF])", match[1], re.I)
    if warm:
        need.name, need.air_c = warm[1], parse_celsius(warm[2])
    air = "" if need.air_c is None else f" in air of {need.air_c:g} °C"
    return f"{need.name} runs {match[2]}{air}"


def _join(need: JoinLine, match: re.Match[str]) -> str:
    need.name = need.end = match[1]
    need.pins = tuple(part for part in re.split(r"[\s,;/&]+|\band\b", match[2]) if part)
    if len(need.pins) < 2:
        raise InputError.of("needs.name-two-or-more-pins")
    return f"{', '.join(need.pins)} joined inside {match[1]}"


_HEAD_WORDS = {
    "supply": "a supply", "box": "a fuse box with a negative bar", "connector": "a connector", "bar": "a bar", "stud": "a stud",
    "splice": "a splice", "switch": "a switch", "relay": "a relay", "converter": "a converter", "fuse": "a fuse", "frame": "the frame",
}  # fmt: skip


def _read_head(reader: Reader) -> SitedLine:
    """What kind of line it is, from its first words."""
    for what, pattern in _HEADS:
        match = re.match(rf"\s*{pattern}", reader.rest, re.I)
        if match is None:
            continue
        word = next((part for part in match.groups() if part), "")
        if (
            what == "fuse"
            and re.search(r"\b(?:run|from)\b", reader.rest, re.I)
            and not re.search(r"\bat\b", reader.rest, re.I)
        ):
            continue
        need = _begun(what, word)
        reader.take("what", rf"^\s*{pattern}", partial(_head_told, need))
        return need
    return LoadLine()


def _begun(what: str, word: str) -> SitedLine:
    """The record of a kind of line; `word` is what its head says more, such as how many ways or of which kind."""
    plain: dict[str, type[SitedLine]] = {"supply": SupplyLine, "converter": ConverterLine, "relay": RelayLine, "frame": FrameLine}  # fmt: skip
    if what in plain:
        return plain[what](name="")
    if what == "fuse":
        return FuseLine(style=word)
    if what == "connector" and word:
        return PlaceLine(what=what, ways=int(word))
    return PlaceLine(what=what, negative=what == "bar" and word.lower() in ("negative", "minus", "ground", "return"))


def _head_told(need: SitedLine, _: re.Match[str]) -> str:
    more = " for returns" if isinstance(need, PlaceLine) and need.negative else ""
    style = f", {need.style}" if isinstance(need, FuseLine) and need.style else ""
    return _HEAD_WORDS[need.what] + more + style


def _read_supply(reader: Reader, need: SupplyLine) -> None:

    def volts(text: str) -> str:
        need.volts = parse_volts(text, reader.habit)
        need.ac = bool(re.search(r"ac$", text.strip(), re.I))
        return f"{need.volts:g} V{' AC' if need.ac else ''}"

    def ohms(text: str) -> str:
        need.source_ohm = parse_ohms(text, reader.habit)
        return say("read.inside", ohm=show_ohms(need.source_ohm))

    take_amount(reader, "volts", (VOLTAGE,), volts)
    take_amount(reader, "inside", (RESISTANCE,), ohms)


def _read_converter(reader: Reader, need: ConverterLine) -> None:

    def volts(match: re.Match[str]) -> str:
        need.volts = parse_volts(match[1], reader.habit) if match[1] else None
        need.out_volts = parse_volts(match[2], reader.habit)
        return f"makes {need.out_volts:g} V" + (f" of {need.volts:g} V" if need.volts else "")

    def share(match: re.Match[str]) -> str:
        need.efficiency = parse_share(match[1], reader.habit)
        return say("read.efficiency", percent=100 * need.efficiency)

    reader.take("volts", r"(?:([\d.,]+\s*V?)\s*(?:to|/|->|→)\s*)?([\d.,]+\s*V)\b", volts)
    reader.take("efficiency", r"([\d.,]+\s*%)(?:\s*efficien\w+)?", share)


def _read_fuse(reader: Reader, need: FuseLine) -> None:

    def amps(text: str) -> str:
        need.rating_a = parse_amps(text, reader.habit)
        return f"{need.rating_a:g} A"

    def style(match: re.Match[str]) -> str:
        need.style = match[0].strip()
        return need.style

    take_amount(reader, "amount", (CURRENT,), amps)
    reader.take("style", r"\bclass\s+\w+", style)


def _read_frame(reader: Reader, need: FrameLine) -> None:

    def ohms(text: str) -> str:
        need.source_ohm, need.name = parse_ohms(text, reader.habit), "frame"
        return say("read.frame-ohm", ohm=show_ohms(need.source_ohm))

    take_amount(reader, "inside", (RESISTANCE,), ohms)


def _read_name(reader: Reader, need: SitedLine) -> None:
    words = [m.span() for m in re.finditer(r"[^\x00\s,;]+(?:[\s]+[^\x00\s,;]+)*", reader.rest)]
    if isinstance(need, FrameLine):
        pass
    elif words and isinstance(need, LoadLine | SupplyLine):
        start, end = words.pop(0)
        need.name = " ".join(reader.rest[start:end].split())
        strange = re.search(
            r"(?<![\w-])[-+]?\d+(?:[.,]\d+)?\s*(?:[A-Za-zµΩ°%²/]{1,4}\d?)(?![\w-])|[%=<>±~]|\d\s*[-–]\s*\d", need.name
        )
        ok = strange is None or re.fullmatch(r"\d+(?:st|nd|rd|th|way|pin)", strange[0]) is not None
        text = need.name if ok else say("read.figure-left", name=need.name)
        reader.pieces.append(Piece("what", start, end, text, ok))
    elif need.where:
        need.name = need.where
    if not need.name:
        need.name = "" if isinstance(need, LoadLine) else need.where
    for start, end in words:
        reader.pieces.append(Piece("stray", start, end, say("read.stray", text=reader.rest[start:end]), ok=False))
