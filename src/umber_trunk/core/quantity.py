"""The one reader of quantities: a text is read whole, or refused with the reason.

Understood: decimals with point or comma, thousands parted by a space, thin space, apostrophe, comma or point,
fractions ("1/2", "3 1/2", "19-1/2", "3½"), exponents, letters in place of the point ("4R7", "2k2", "3V3"), feet
and inches in every usual form, and sums of falling units ("2 m 30 cm", "1 h 15 min"). Ranges and double values
are refused as such. One separator before exactly three digits ("1,200") has two readings: a habit decides between
them and the doubt is kept in `Habit.notes`; without a habit a comma is a `DoubtfulError`, and a point in a foreign
list.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

from umber_trunk.core.errors import InputError, clipped, quoted, refusal_of
from umber_trunk.core.measures import FOOT_M, INCH_M, LENGTH, POWER, TIME, Measure
from umber_trunk.core.sentences import say


class UnreadableError(InputError):
    """A text that is no quantity of the kind asked for: another reader may know better."""


class SeveralError(InputError):
    """A range or two values where one figure is asked for: any reader has to ask which."""


class DoubtfulError(InputError):
    """A text with two readings that nobody has decided between. Attributes: readings, both as shown."""

    def __init__(self, text: str, readings: tuple[str, ...]) -> None:
        self.readings = readings
        super().__init__(refusal_of("quantity.doubtful", text=quoted(text), first=readings[0], other=readings[1]))


@dataclass
class Habit:
    """Which mark parts decimals: "comma", "point", or "" while nobody has said: then the point does in whatever is
    typed, said by a device or written by this program, and a comma before three digits is asked. In a `foreign` list
    either is asked. `notes` gathers what it decided."""

    decimal: str = ""
    notes: list[str] = field(default_factory=list)
    foreign: bool = False

    def decide(self, text: str, point: float, comma: float) -> float:
        """The reading of a doubtful number: `point` if the point parts decimals. DoubtfulError without a habit."""
        readings = (exact(point), exact(comma))
        if not self.decimal:
            if point < comma and not self.foreign:  # the mark is a point
                return point
            raise DoubtfulError(text, readings)
        chosen = point if self.decimal == "point" else comma
        note = say("read.doubtful", text=clipped(text), chosen=exact(chosen), comma=self.decimal == "comma")
        if note not in self.notes:
            self.notes.append(note)
        return chosen


_SPACES = " \u00a0\u2009\u202f"
_QUARTERS = {
    "½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 0.125, "⅜": 0.375, "⅝": 0.625, "⅞": 0.875,
}  # fmt: skip
_VULGAR = "".join(_QUARTERS)
_PARTS_OF = (2, 3, 4, 8, 16, 32, 64)
_MIXED = re.compile(rf"(\d+)(?:[{_SPACES}]+|-)(\d+)/(\d+)(?![\d/.,])|(\d+)[{_SPACES}]?([{_VULGAR}])|([{_VULGAR}])")
_FRACTION = re.compile(r"(\d+)/(\d+)(?![\d/.,])")
_PLAIN = re.compile(
    rf"(?:\d+(?:(?:[.,]|['’](?=\d\d\d(?!\d))|[{_SPACES}](?=\d\d\d(?!\d)))\d+)*|[.,]\d+)(?:[eE][-+]?\d+(?![\d.,]))?"
)
_LEAD = re.compile(r"\s*([-+−]?)\s*")
_UNIT = re.compile(r"\s*([^\d\s.,;+\-/–()]+\.?(?:\^2|2(?!\d))?)")
_RANGE = re.compile(r"\s*(?:-|–|—|−|…|\.\.+|~|to\b|bis\b|up\s+to\b|\bà\b)\s*[-+]?[\d.,]*\d", re.I)
_DOUBLE = re.compile(r"\s*(?:/|,|;|\+|&|\||or\b|and\b|oder\b|ou\b)\s*\d", re.I)


@dataclass(frozen=True)
class Number:
    """One number in a text: where it ends, its reading with a decimal point and with a decimal comma, whether a
    plain space parts its thousands. Both readings are alike unless it is doubtful."""

    end: int
    point: float
    comma: float
    spaced: bool = False
    fraction: bool = False

    def value(self, text: str, habit: Habit) -> float:
        """The number by a habit."""
        return self.point if self.point == self.comma else habit.decide(text, self.point, self.comma)


def scan_number(text: str, at: int) -> Number | None:
    """The number that starts at `at` (no sign), or None; InputError where digits are there but make no number."""
    mixed = _MIXED.match(text, at)
    if mixed:
        if mixed[6] or mixed[5]:
            value = float(mixed[4] or 0) + _QUARTERS[mixed[5] or mixed[6]]
        else:
            value = float(mixed[1]) + _share(mixed[2], mixed[3], mixed[0])
        return Number(mixed.end(), value, value, fraction=True)
    fraction = _FRACTION.match(text, at)
    if fraction:
        value = _share(fraction[1], fraction[2], fraction[0])
        return Number(fraction.end(), value, value, fraction=True)
    plain = _PLAIN.match(text, at)
    if plain is None:
        return None
    return _grouped(plain[0], plain.end())


def _share(top: str, bottom: str, text: str) -> float:
    """A fraction of the kind a rule or a motor plate has; "12/24" is two values, not a half."""
    a, b = int(top), int(bottom)
    if b not in _PARTS_OF or not 0 < a < b or math.gcd(a, b) != 1:
        raise SeveralError.of("quantity.two-values-no-fraction", text=quoted(text))
    return a / b


def _grouped(token: str, end: int) -> Number:
    """A run of digits with separators, read both ways."""
    mantissa, _, exponent = token.partition("e") if "e" in token else token.partition("E")
    power = int(exponent) if exponent else 0
    pieces = re.split(rf"([.,'’{_SPACES}])", mantissa)
    digits, marks = pieces[::2], pieces[1::2]
    soft = [mark for mark in marks if mark not in ".,"]
    hard = [mark for mark in marks if mark in ".,"]
    fault = InputError.of("quantity.separators", text=quoted(token))
    spaced = " " in soft

    def number(whole: list[str], part: str) -> float:
        value = float(f"{''.join(whole) or '0'}.{part or '0'}e{power}")
        if not math.isfinite(value):
            raise InputError.of("quantity.too-large", text=quoted(token))
        return value

    def thousands(groups: list[str]) -> bool:
        return 1 <= len(groups[0]) <= 3 and not groups[0].startswith("0") and all(len(g) == 3 for g in groups[1:])

    def sure(value: float) -> Number:
        return Number(end, value, value, spaced)

    if not marks:
        return sure(number(digits, ""))
    if soft:
        if len(set(soft)) > 1 or len(hard) > 1 or (hard and marks[-1] not in ".,"):
            raise fault
        whole = digits[:-1] if hard else digits
        if not thousands(whole):
            raise fault
        return sure(number(whole, digits[-1] if hard else ""))
    if len(set(hard)) == 2:
        if hard.count(hard[-1]) != 1 or not thousands(digits[:-1]):
            raise fault
        return sure(number(digits[:-1], digits[-1]))
    if len(hard) > 1:
        if not thousands(digits):
            raise fault
        return sure(number(digits, ""))
    decimal = number(digits[:1], digits[1])
    if len(digits[1]) == 3 and thousands(digits):
        joined = number(digits, "")
        return Number(end, *((decimal, joined) if hard[0] == "." else (joined, decimal)))
    return sure(decimal)


@dataclass(frozen=True)
class Read:
    """A quantity found in a text: its value in the measure's base unit, what it measures, the unit word as written
    ("" for none), where it ends."""

    value: float
    measure: Measure
    unit: str
    end: int
    spaced: bool = False


def read(text: str, measures: Measure | tuple[Measure, ...], default: str = "", habit: Habit | None = None) -> Read:
    """The whole text as one quantity of one of the measures; a bare number takes `default`, a unit of the first.

    InputError says what is in the way, DoubtfulError names both readings.
    """
    kinds = measures if isinstance(measures, tuple) else (measures,)
    stripped = _clean(text)
    what = f"a {kinds[0].name}"
    if not stripped:
        raise InputError.of("quantity.nothing-said", name=kinds[0].name)
    found = scan(stripped, 0, kinds, default, habit)
    if found is None:
        number = scan_number(stripped, 0)
        if number is not None and stripped[number.end :].strip():
            raise _leftover(text, stripped[number.end :])
        if number:
            raise InputError.of("quantity.needs-unit", text=quoted(text))
        raise UnreadableError.of("quantity.cant-be-read", text=quoted(text), what=what)
    rest = stripped[found.end :]
    if rest.strip():
        raise _leftover(text, rest)
    if not found.unit and not default:
        raise InputError.of("quantity.needs-unit", text=quoted(text))
    return found


def _clean(text: str) -> str:
    return text.strip().replace("\u200b", "").replace("“", "”")


def _leftover(text: str, rest: str) -> InputError:
    if _RANGE.match(rest):
        return SeveralError.of("quantity.range", text=quoted(text))
    if _DOUBLE.match(rest):
        return SeveralError.of("quantity.two-values", text=quoted(text))
    return UnreadableError.of("quantity.rest-not-understood", rest=quoted(rest), text=quoted(text))


def scan(text: str, at: int, kinds: tuple[Measure, ...], default: str = "", habit: Habit | None = None) -> Read | None:
    """The longest quantity that starts at `at`; None when none does. A bare number counts only with a default."""
    habit = habit or Habit()
    lead = _LEAD.match(text, at)
    assert lead is not None
    sign = -1.0 if lead[1] in ("-", "−") else 1.0
    lettered = _lettered(text, lead.end(), kinds)
    if lettered is not None:
        return Read(sign * lettered.value, lettered.measure, lettered.unit, lettered.end)
    number = scan_number(text, lead.end())
    if number is None:
        return None
    unit = _unit_at(text, number.end, kinds)
    if unit is None:
        if not default:
            after = _UNIT.match(text, number.end)
            if after and text[number.end :].strip():
                raise UnreadableError.of(
                    "quantity.not-unit", after=after[1], kinds=" or ".join(kind.name for kind in kinds)
                )
            return None
        factor = kinds[0].factor(default)
        assert factor is not None, default
        return Read(sign * _finite(number.value(text, habit) * factor, text), kinds[0], "", number.end, number.spaced)
    measure, word, end = unit
    total = number.value(text[lead.end() : end], habit) * (measure.factor(word) or 0.0)
    smallest = measure.factor(word) or 0.0
    while measure in (LENGTH, TIME):
        more = _next_part(text, end, measure, smallest, habit)
        if more is None:
            break
        extra, smallest, end = more
        total += extra
    return Read(sign * _finite(total, text), measure, word, end, number.spaced)


def _finite(value: float, text: str) -> float:
    if not math.isfinite(value):
        raise InputError.of("quantity.too-large", text=quoted(text))
    return value


def _unit_at(text: str, at: int, kinds: tuple[Measure, ...]) -> tuple[Measure, str, int] | None:
    """The unit word at a place: what it measures, the word, its end. The longest run that is a unit counts."""
    match = _UNIT.match(text, at)
    if match is None:
        return None
    word = match[1]
    for stop in range(len(word), 0, -1):
        short = word[:stop]
        glued = stop < len(word) and (word[stop].isalpha() and short[-1].isalpha())
        if glued:
            continue
        for kind in kinds:
            if kind.factor(short) is not None:
                end = match.start(1) + stop
                if short.lower() == "v":
                    kindness = re.compile(r"\s*(?:dc|ac)\b", re.I).match(text, end)
                    end = kindness.end() if kindness else end
                return kind, short, end
    return None


def _next_part(text: str, at: int, measure: Measure, above: float, habit: Habit) -> tuple[float, float, int] | None:
    """A further, smaller part of a sum: its value, its unit's factor, its end. After feet a bare number is inches."""
    match = re.compile(r"\s*(?:-\s*)?").match(text, at)
    assert match is not None
    place = match.end()
    if "-" in match[0] and above != FOOT_M:
        return None
    number = (
        scan_number(text, place) if text[place : place + 1].isdigit() or text[place : place + 1] in _QUARTERS else None
    )
    if number is None:
        return None
    unit = _unit_at(text, number.end, (measure,))
    if unit is None:
        if above != FOOT_M or text[number.end : number.end + 1].isalpha():
            return None
        factor, end = INCH_M, number.end
    else:
        factor, end = measure.factor(unit[1]) or 0.0, unit[2]
    value = number.value(text[place:end], habit) * factor
    if factor >= above * (1 - 1e-9) or value >= above * (1 - 1e-9):
        return None
    return value, factor, end


def _lettered(text: str, at: int, kinds: tuple[Measure, ...]) -> Read | None:
    """ "4R7", "2k2", "3V3": a letter in place of the point, with or without its unit after it."""
    match = re.compile(r"(\d*)([RrkKMLVvA])(\d{1,4})(?![\d.,])").match(text, at)
    if match is None or not (match[1] or match[2] in "Rr"):
        return None
    after = _unit_at(text, match.end(), kinds)
    for kind in kinds:
        factor = dict(kind.letters).get(match[2])
        if factor is None or (after is not None and after[0] is not kind):
            continue
        if after is not None and kind.factor(after[1]) != 1.0:
            continue
        if after is None and kind is POWER:
            continue
        value = float(f"{match[1] or '0'}.{match[3]}") * factor
        return Read(value, kind, after[1] if after else match[2], after[2] if after else match.end())
    return None


def read_number(text: str, habit: Habit | None = None) -> float:
    """A plain finite number with its sign; InputError otherwise."""
    stripped = text.strip()
    lead = _LEAD.match(stripped)
    assert lead is not None
    number = scan_number(stripped, lead.end())
    if number is None:
        raise InputError.of("quantity.not-number", text=quoted(stripped))
    if stripped[number.end :].strip():
        raise _leftover(text, stripped[number.end :])
    return (-1.0 if lead[1] in ("-", "−") else 1.0) * number.value(stripped, habit or Habit())


def exact(value: float, digits: int = 12) -> str:
    """The shortest text of a number that reads back as it: never three decimals alone, which a comma's habit would
    take for thousands."""
    if not math.isfinite(value):
        return "?"
    shown = f"{value:.{digits}g}"
    mantissa, mark, exponent = shown.partition("e")
    if re.fullmatch(r"-?[1-9]\d{0,2}\.\d{3}", mantissa):
        mantissa += "0"
    return mantissa + mark + exponent
