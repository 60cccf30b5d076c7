"""One line of plain words into what it says: "bilge pump 4 A surge 12A/1s at bow in bilge run 4,2 m min 21 V".

The reader never fails: it returns what it understood, where in the line, and what is missing, so that the screen can
show it while it is typed. What nothing claims is said to be not understood; it never slips into a name.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.model import CableKind, LoadKind
from umber_trunk.core.needs.line_records import (
    CaseLine,
    ConverterLine,
    DrawingLine,
    FrameLine,
    FuseLine,
    JoinLine,
    LoadLine,
    LoopSaid,
    Need,
    Piece,
    PlaceLine,
    RelayLine,
    SitedLine,
    SupplyLine,
)
from umber_trunk.core.quantity import (
    CURRENT,
    LENGTH,
    POWER,
    RESISTANCE,
    SHAFT,
    TIME,
    VOLTAGE,
    DoubtfulError,
    Habit,
    Measure,
    exact,
    scan,
)
from umber_trunk.core.units import (
    parse_amps,
    parse_celsius,
    parse_drop,
    parse_duty,
    parse_length_m,
    parse_load,
    parse_ohms,
    parse_share,
    parse_surge,
    parse_volts,
    show_length,
    show_ohms,
    significant,
)

ZONE_WORDS = {
    "wet": "wet", "damp": "wet", "shaking": "vibration", "vibration": "vibration", "vibrating": "vibration",
    "oily": "oil", "oil": "oil", "sun": "uv", "sunny": "uv", "uv": "uv", "flexing": "flexing", "flexed": "flexing",
    "hot": "hot_metal", "enclosed": "enclosed", "conduit": "enclosed", "duct": "enclosed",
}  # fmt: skip
LOOP_WORST_A = 0.022  # what a 4–20 mA transmitter draws when it reports its own failure upwards (NAMUR NE 43)


_KEYWORDS = (
    r"at|in|run|length|off|from|min|minimum|drop|max|surge|start|starts|peak|inrush|duty|return|pins?|"
    r"on frame|by|fused|pf|efficiency|eff|through|with"
)
_STOP = rf"(?=\s+(?:{_KEYWORDS})\b|[,;]|\x00|$)"
_NEXT = r"(?=\s*(?:$|[,;]|at\b|in\b|from\b|run\b|off\b|with\b|pins?\b|\d))"
_HEADS = (
    ("supply", r"(?:supply|source|rail)\b"),
    ("box", rf"(?:fuse|distribution|junction)\s*(?:box|block|panel)\b{_NEXT}"),
    ("connector", rf"(?:(\d{{1,3}})[- ]?(?:pin|way|pole)\s+)?connector\b{_NEXT}"),
    ("bar", rf"(?:(negative|minus|positive|plus|ground|return)\s+)?(?:bus\s*)?bar\b{_NEXT}"), ("stud", rf"stud\b{_NEXT}"), ("splice", rf"splice\b{_NEXT}"),
    ("switch", rf"switch\b{_NEXT}"), ("relay", rf"relay\b{_NEXT}"), ("converter", rf"(?:dc[- ]?dc\s+)?converter\b{_NEXT}"),
    ("fuse", r"(?:(class\s+\w+|\w+)\s+)?fuse\s+(?=\d)"), ("frame", r"(?:frame|chassis)\s+(?:return\s+)?(?=[\d.,]+\s*\S*(?:ohm|Ω))"),
)  # fmt: skip
_AMOUNTS = (CURRENT, POWER, SHAFT, RESISTANCE)


class _Reader:
    """Takes pieces out of the line one after another; what is left is the name."""

    def __init__(self, text: str, habit: Habit) -> None:
        self.text = text
        self.rest = text
        self.habit = habit
        self.pieces: list[Piece] = []

    def take(self, kind: str, pattern: str, use: Callable[[re.Match[str]], str]) -> bool:
        """A piece that a pattern finds; `use` keeps it and says what was understood."""
        match = re.search(pattern, self.rest, re.I)
        if not match:
            return False
        self._keep(kind, match.start(), match.end(), lambda: use(match))
        return True

    def take_quantity(self, kind: str, keyword: str, measures: tuple[Measure, ...], use: Callable[[str], str]) -> bool:
        """A keyword and the quantity right after it; a keyword with something else after it is a fault."""
        match = re.search(keyword, self.rest, re.I)
        if not match:
            return False
        stop = re.compile(rf".*?{_STOP}", re.I).match(self.rest, match.end())
        words = stop.end() if stop else len(self.rest)
        try:
            found = scan(self.rest, match.end(), measures, _default(measures), Habit(self.habit.decimal or "point"))
        except InputError:
            found = None
        end = max(found.end, match.end()) if found else max(words, match.end())
        if re.match(r"\s*[-–…/]\s*\d|\s*to\s+\d", self.rest[end:]):
            end = words
        self._keep(kind, match.start(), end, lambda: use(self.rest_at(match.end(), end)))
        return True

    def rest_at(self, start: int, end: int) -> str:
        """The text of a piece, as typed."""
        return self.text[start:end].strip(" ,;")

    def _keep(self, kind: str, start: int, end: int, said: Callable[[], str]) -> None:
        notes = len(self.habit.notes)
        try:
            meaning = said()
            piece = Piece(kind, start, end, " ".join([meaning, *(f"({note})" for note in self.habit.notes[notes:])]))
        except InputError as why:
            piece = Piece(kind, start, end, str(why), ok=False, doubt=isinstance(why, DoubtfulError))
        self.pieces.append(piece)
        self.rest = self.rest[:start] + "\x00" * (end - start) + self.rest[end:]


def _default(measures: tuple[Measure, ...]) -> str:
    return {LENGTH.name: "m", CURRENT.name: "a", TIME.name: "s"}.get(measures[0].name, "")


def parse_need(text: str, supply_volts: float = 12.0, decimal: str = "", efficiency: float | None = None) -> Need:
    """Reads one line. `supply_volts` turns a drop class in volts into its share, `decimal` is the project's habit,
    `efficiency` what its motors are taken to have where the line doesn't say."""
    reader = _Reader(text.replace("\x00", " "), Habit(decimal))
    need = _read(reader, supply_volts, efficiency)
    need.pieces = sorted(reader.pieces, key=lambda piece: piece.start)
    return need


def _read(reader: _Reader, supply_volts: float, efficiency: float | None) -> Need:
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
            _read_limits(reader, need, supply_volts)
    _read_places(reader, need)
    if isinstance(need, LoadLine) or (isinstance(need, RelayLine) and re.search(r"\d\s*m?A\b", reader.rest)):
        _read_amount(reader, need, efficiency)
    _read_name(reader, need)
    _name_missing(reader, need)
    return need


def _name_missing(reader: _Reader, need: SitedLine) -> None:
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
        raise InputError("Name two or more pins to join.")
    return f"{', '.join(need.pins)} joined inside {match[1]}"


_HEAD_WORDS = {
    "supply": "a supply", "box": "a fuse box with a negative bar", "connector": "a connector", "bar": "a bar", "stud": "a stud",
    "splice": "a splice", "switch": "a switch", "relay": "a relay", "converter": "a converter", "fuse": "a fuse", "frame": "the frame",
}  # fmt: skip


def _read_head(reader: _Reader) -> SitedLine:
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


def _read_supply(reader: _Reader, need: SupplyLine) -> None:

    def volts(text: str) -> str:
        need.volts = parse_volts(text, reader.habit)
        need.ac = bool(re.search(r"ac$", text.strip(), re.I))
        return f"{need.volts:g} V{' AC' if need.ac else ''}"

    def ohms(text: str) -> str:
        need.source_ohm = parse_ohms(text, reader.habit)
        return f"{show_ohms(need.source_ohm)} inside"

    _take_amount(reader, "volts", (VOLTAGE,), volts)
    _take_amount(reader, "inside", (RESISTANCE,), ohms)


def _read_converter(reader: _Reader, need: ConverterLine) -> None:

    def volts(match: re.Match[str]) -> str:
        need.volts = parse_volts(match[1], reader.habit) if match[1] else None
        need.out_volts = parse_volts(match[2], reader.habit)
        return f"makes {need.out_volts:g} V" + (f" of {need.volts:g} V" if need.volts else "")

    def share(match: re.Match[str]) -> str:
        need.efficiency = parse_share(match[1], reader.habit)
        return f"{100 * need.efficiency:g} % efficiency"

    reader.take("volts", r"(?:([\d.,]+\s*V?)\s*(?:to|/|->|→)\s*)?([\d.,]+\s*V)\b", volts)
    reader.take("efficiency", r"([\d.,]+\s*%)(?:\s*efficien\w+)?", share)


def _read_fuse(reader: _Reader, need: FuseLine) -> None:

    def amps(text: str) -> str:
        need.rating_a = parse_amps(text, reader.habit)
        return f"{need.rating_a:g} A"

    def style(match: re.Match[str]) -> str:
        need.style = match[0].strip()
        return need.style

    _take_amount(reader, "amount", (CURRENT,), amps)
    reader.take("style", r"\bclass\s+\w+", style)


def _read_frame(reader: _Reader, need: FrameLine) -> None:

    def ohms(text: str) -> str:
        need.source_ohm, need.name = parse_ohms(text, reader.habit), "frame"
        return f"{show_ohms(need.source_ohm)} from a load's place to the source"

    _take_amount(reader, "inside", (RESISTANCE,), ohms)


def _read_limits(reader: _Reader, need: LoadLine, supply_volts: float) -> None:
    habit = reader.habit

    def duty(match: re.Match[str]) -> str:
        need.on_s, need.period_s = parse_duty(match[1], habit)
        return f"{need.on_s:g} s of every {need.period_s:g} s"

    def surge(match: re.Match[str]) -> str:
        if match[2]:
            need.surge_a, need.surge_s = parse_surge(f"{match[1]}/{match[2]}", habit)
        else:
            need.surge_a, need.surge_s = parse_amps(match[1], habit), 1.0
        return f"{need.surge_a:g} A for {need.surge_s:g} s"

    def least(text: str) -> str:
        need.min_volts = parse_volts(text, habit)
        rail = re.search(r"\bfrom\b", reader.text, re.I) or re.search(r"\d\s*V\b", reader.text.replace(text, " "), re.I)
        if need.min_volts >= supply_volts and not rail:
            raise InputError(f"At least {need.min_volts:g} V can't come from {supply_volts:g} V.")
        return f"works down to {need.min_volts:g} V"

    def most(match: re.Match[str]) -> str:
        volts = parse_drop(match[1], supply_volts, habit)
        if match[1].strip().endswith("%"):
            need.max_drop_percent = round(volts / supply_volts * 100, 6)
            return f"at most {need.max_drop_percent:g} % drop"
        need.max_drop_v = volts
        return f"at most {volts:g} V drop"

    def factor(match: re.Match[str]) -> str:
        need.power_factor = parse_share(match[1], habit)
        return f"power factor {need.power_factor:g}"

    def share(match: re.Match[str]) -> str:
        need.efficiency = parse_share(match[1], habit)
        return f"{100 * need.efficiency:g} % efficiency"

    number = r"[\d.,'’\u2009\u202f/½¼¾]*\d(?:\s\d{3}(?!\d))*"
    time = rf"{number}\s*(?:ms|secs?|s|mins?|min|h|hours?|seconds?|minutes?)\b"
    reader.take("duty", rf"\bduty\s+({time}\s*(?:/|in|of|per|every)\s*{time})", duty)
    reader.take(
        "surge", rf"\b(?:surge|start(?:s|ing)?|peak|inrush)\s+({number}\s*k?A)\b\s*(?:/|for|,)?\s*({time})?", surge
    )
    reader.take_quantity("least", r"\bmin(?:imum)?\s+(?=[\d.,])", (VOLTAGE,), least)
    reader.take("drop", rf"\b(?:max\s+)?drop\s+({number}\s*(?:%|m?V\b))", most)
    reader.take("factor", r"\b(?:pf|power\s+factor|cos\s*φ)\s*([\d.,]+)", factor)
    if not reader.take("efficiency", r"\b(?:efficiency|eff)\s+([\d.,]+\s*%?)", share):
        reader.take("efficiency", r"([\d.,]+\s*%)\s+efficien\w+", share)


def _read_places(reader: _Reader, need: SitedLine) -> None:
    """Where it is, how far along which way, on which pins, in what air."""

    def run(text: str) -> str:
        need.run_m = parse_length_m(text, "m", reader.habit)
        return f"{show_length(need.run_m)} along the way"

    def frame(_: re.Match[str]) -> str:
        need.frame = True
        return "returns through the frame"

    def named(attribute: str, words: str) -> Callable[[re.Match[str]], str]:
        def use(match: re.Match[str]) -> str:
            name = _plain_name(match[1].strip(" ,;"))
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
    reader.take("off", rf"\boff\s+(\S.*?){_STOP}", named("off", "branching off"))
    reader.take("from", rf"\bfrom\s+(\S.*?){_STOP}", named("source", "from"))
    if isinstance(need, RelayLine):
        reader.take("by", rf"\bby\s+(\S.*?){_STOP}", named("by", "its coil fed from"))
    reader.take("where", rf"\bat\s+(\S.*?){_STOP}", named("where", "at"))
    reader.take("zone", rf"\bin\s+(\S.*?){_STOP}", lambda m: _zone(need, m[1]))


def _ways(need: PlaceLine, match: re.Match[str]) -> str:
    need.ways = int(match[1])
    if not 1 <= need.ways <= 200:
        raise InputError("A box or connector has 1 to 200 ways.")
    return f"{need.ways} ways"


def _read_pins(reader: _Reader, need: SitedLine) -> None:
    """Two pins of what has two poles, any number of a place."""
    listed, two = r"[^\s,;/]+", isinstance(need, LoadLine | SupplyLine)
    few = rf"({listed}\s*(?:[,/]|and)?\s*{listed})" if two else rf"({listed}(?:[\s,/]+(?!(?:{_KEYWORDS})\b){listed})*)"

    def pins(match: re.Match[str]) -> str:
        need.pins = tuple(part for part in re.split(r"[\s,/]+|\band\b", match[1].strip()) if part)
        if not isinstance(need, LoadLine):
            return "pins " + ", ".join(need.pins)
        if len(need.pins) != 2:
            raise InputError("Name two pins, plus first, such as: pins 4 3.")
        return f"plus on {need.pins[0]}, minus on {need.pins[1]}"

    reader.take("pins", rf"(?<![\d-])\bpins?\s+{few}", pins)


def _read_wiring(reader: _Reader, need: LoadLine) -> None:
    """In which cable a load's wires run, and the fuse they have for themselves."""

    def fused(text: str) -> str:
        need.fused_a = parse_amps(text, reader.habit)
        return f"its own fuse of {need.fused_a:g} A where it starts"

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


def _plain_name(name: str) -> str:
    """A name that doesn't end in a figure with its unit, which would be lost in it."""
    tail = _TAIL.search(name)
    if tail is not None:
        raise InputError(f"“{tail[1]}” in “{name}” is not understood; say what it is, such as: run {tail[1]}.")
    return name


def _zone(need: SitedLine, text: str) -> str:
    warm = re.search(r"([-−]?[\d.,]+)\s*°?\s*([CF])\b", text)
    if warm:
        need.zone_c = parse_celsius(warm[0])
        text = text.replace(warm[0], " ")
    words = re.split(r"[\s,]+", text.strip())
    flags = [ZONE_WORDS[word.lower()] for word in words[1:] if word.lower() in ZONE_WORDS]
    kept = [word for at, word in enumerate(words) if at == 0 or word.lower() not in ZONE_WORDS]
    need.zone, need.zone_flags = _plain_name(" ".join(kept)), tuple(dict.fromkeys(flags))
    detail = [f"{need.zone_c:g} °C"] if need.zone_c is not None else []
    return " ".join(["in", need.zone, *detail, *(flag.replace("_", " ") for flag in need.zone_flags)])


def _take_amount(reader: _Reader, kind: str, measures: tuple[Measure, ...], use: Callable[[str], str]) -> bool:
    """The first quantity of these measures in what is left of the line, wherever it stands."""
    for match in re.finditer(r"(?<![\w.,'’/\-–½¼¾])(?=[\d.,½¼¾R])", reader.rest):
        at = match.start()
        try:
            found = scan(reader.rest, at, measures, "", Habit(reader.habit.decimal or "point"))
            span = _Span(found.end, found.unit) if found else None
        except InputError:
            span = _refused(reader.rest, at, measures)
        if span is None or not span.unit:
            continue
        follows = re.compile(r"[\w²]").match(reader.rest, span.end)
        if follows and reader.rest[span.end - 1 : span.end].isalpha():
            continue
        start, end = _whole_start(reader, at), span.end
        reader._keep(kind, start, end, partial(_used, reader, use, start, end))
        return True
    return False


def _used(reader: _Reader, use: Callable[[str], str], start: int, end: int) -> str:
    return use(reader.rest_at(start, end))


@dataclass(frozen=True)
class _Span:
    end: int
    unit: str


def _refused(text: str, at: int, measures: tuple[Measure, ...]) -> _Span | None:
    """A figure with a unit that can't be read, so that the reason is said rather than the figure overlooked."""
    match = re.compile(r"[\d.,'’/\-–… ½¼¾]*\d\s*([^\d\s,;.\x00]+)").match(text, at)
    if match is None or all(measure.factor(match[1]) is None for measure in measures):
        return None
    return _Span(match.end(), match[1])


def _whole_start(reader: _Reader, at: int) -> int:
    """Where the quantity starts with what may belong to it: a range's or a double value's first figure."""
    before = re.compile(r"(?<![\w.])[\d.,½¼¾]+\s*(?:-|–|…|\.\.|/|to)\s*$").search(reader.rest[:at])
    return before.start() if before else at


def _read_amount(reader: _Reader, need: DrawingLine, usual: float | None) -> None:
    """What the load draws; several of it count together, and its rail's volts may stand before."""
    if isinstance(need, LoadLine) and reader.take(
        "amount", r"(?<![\w.,])4\s*(?:-|–|…|to)\s*20\s*mA\b(?:\s+loop)?", lambda _: _loop(need)
    ):
        for part in ("barrier", "receiver"):
            reader.take(
                "inside", rf"\b({part})\s+({_FIGURE}\s*(?:k?ohm|k?Ω))", lambda m: _in_loop(need, m, reader.habit)
            )
        return

    def volts(text: str) -> str:
        need.volts = parse_volts(text, reader.habit)
        return f"from {need.volts:g} V"

    def amount(text: str) -> str:
        spaced = re.fullmatch(r"(\d{1,3}) (\d{3}\b.*)", text)
        before = reader.text[: reader.text.find(text)].strip()
        if spaced and before and before[-1].isalpha():
            raise DoubtfulError(
                text,
                (
                    f"{spaced[1]}{spaced[2]}",
                    f"{spaced[2]} of something called “{before.split(',')[-1].strip()} {spaced[1]}”",
                ),
            )
        many = re.match(r"(\d{1,3})\s*[x×*]\s*", text)
        read = parse_load(text[many.end() :] if many else text, reader.habit, need.efficiency, usual)
        count = int(many[1]) if many else 1
        need.kind = {"A": LoadKind.CURRENT, "W": LoadKind.POWER, "ohm": LoadKind.RESISTANCE}[read.kind]
        need.value = read.value / count if read.kind == "ohm" else read.value * count
        shown = f"{significant(need.value)} {'Ω' if read.kind == 'ohm' else read.kind}"
        return f"{shown} ({read.note})" if read.note else shown

    multiple = re.search(r"(?<![\w.,])\d{1,3}\s*[x×*]\s*(?=[\d.,])", reader.rest)
    if multiple:
        try:
            found = scan(reader.rest, multiple.end(), _AMOUNTS, "", Habit(reader.habit.decimal or "point"))
        except InputError:
            found = None
        if found is not None and found.unit:
            reader._keep(
                "amount", multiple.start(), found.end, lambda: amount(reader.rest_at(multiple.start(), found.end))
            )
    if not any(piece.kind == "amount" for piece in reader.pieces):
        _take_amount(reader, "amount", _AMOUNTS, amount)
    _take_amount(reader, "volts", (VOLTAGE,), volts)


_FIGURE = r"\d[\d.,]*"


def _in_loop(need: LoadLine, match: re.Match[str], habit: Habit) -> str:
    """What is in a loop beside its wires."""
    ohms, part = parse_ohms(match[2], habit), match[1].lower()
    known = need.loop or LoopSaid()
    need.loop = replace(known, barrier_ohm=ohms) if part == "barrier" else replace(known, receiver_ohm=ohms)
    return f"{part} of {show_ohms(ohms)}"


def _loop(need: LoadLine) -> str:
    need.kind, need.value, need.loop = LoadKind.CURRENT, LOOP_WORST_A, LoopSaid()
    return f"a 4–20 mA loop, at most {exact(1000 * LOOP_WORST_A)} mA"


def _read_name(reader: _Reader, need: SitedLine) -> None:
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
        text = need.name if ok else f"“{need.name}” has a figure in it that was not understood"
        reader.pieces.append(Piece("what", start, end, text, ok))
    elif need.where:
        need.name = need.where
    if not need.name:
        need.name = "" if isinstance(need, LoadLine) else need.where
    for start, end in words:
        reader.pieces.append(Piece("stray", start, end, f"“{reader.rest[start:end]}” was not understood", ok=False))
