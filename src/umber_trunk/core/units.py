"""Parse what people type ("12 ft 3 in", "2,5 mm²", "20s/60s"); print what they read.

Numbers may carry a decimal comma. Every parser raises InputError with a sentence that says what
would be understood. Values inside the program are SI unless the name says otherwise.
"""

from __future__ import annotations

import math
import re
from functools import cache, lru_cache
from typing import TYPE_CHECKING, Any

from umber_trunk.core.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Sequence

NUMBER = r"[-+]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][-+]?\d+)?"
_PART = re.compile(rf"\s*(?P<number>{NUMBER})\s*(?P<unit>[^\d\s.,+\-][^\d\s,+\-]*)?\s*")

_SPELLINGS = {
    "'": "ft", "′": "ft", "feet": "ft", '"': "in", "″": "in", "inches": "in", "''": "in",
    "Ω": "ohm", "\u2126": "ohm", "ohms": "ohm", "R": "ohm", "mΩ": "milliohm", "m\u2126": "milliohm",
    "mohm": "milliohm", "mohms": "milliohm", "uohm": "microohm", "µΩ": "microohm", "µohm": "microohm",
    "kohm": "kiloohm", "kΩ": "kiloohm",
    "A": "ampere", "a": "ampere", "amp": "ampere", "amps": "ampere", "mA": "milliampere", "ma": "milliampere",
    "kA": "kiloampere",
    "V": "volt", "v": "volt", "VDC": "volt", "Vdc": "volt", "mV": "millivolt", "mv": "millivolt",
    "W": "watt", "w": "watt", "watts": "watt", "kW": "kilowatt", "kw": "kilowatt", "hp": "horsepower",
    "s": "second", "sec": "second", "secs": "second", "ms": "millisecond", "min": "minute", "mins": "minute",
    "h": "hour", "hr": "hour", "m": "metre", "M": "metre", "mm": "millimetre", "cm": "centimetre",
    "mtr": "metre", "meters": "metre", "metres": "metre", "yd": "yard",
}  # fmt: skip


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(cache_folder=None)


@lru_cache(maxsize=512)
def _factor(unit: str, base: str) -> float:
    """How many `base` one `unit` is; InputError if they measure different things."""
    name = _SPELLINGS.get(unit, unit)
    try:
        return float(_registry().Quantity(1.0, name).to(base).magnitude)
    except Exception as why:
        raise InputError(f"“{unit}” is not a unit of {_MEASURES.get(base, base)}.") from why


_MEASURES = {
    "metre": "length", "ampere": "current", "volt": "voltage", "watt": "power", "ohm": "resistance",
    "second": "time", "millimetre": "length",
}  # fmt: skip


def parse_number(text: str) -> float:
    """A plain finite number, comma or point; InputError otherwise."""
    cleaned = text.strip().replace(" ", "").replace("−", "-")
    if not re.fullmatch(NUMBER, cleaned):
        raise InputError(f"“{text.strip()}” is not a number.")
    value = float(cleaned.replace(",", "."))
    if not math.isfinite(value):
        raise InputError(f"“{text.strip()}” is too large.")
    return value


def _parts(text: str, what: str) -> list[tuple[float, str]]:
    found, at = [], 0
    stripped = text.strip().replace("−", "-")
    while at < len(stripped):
        match = _PART.match(stripped, at)
        if not match:
            raise InputError(f"“{text.strip()}” can't be read as {what}.")
        found.append((parse_number(match["number"]), match["unit"] or ""))
        at = match.end()
    if not found:
        raise InputError(f"A {what.split()[-1]} is missing.")
    return found


def parse_quantity(text: str, base: str, default: str = "") -> float:
    """A quantity in `base` units; parts add ("12 ft 3 in"), a bare number takes `default`."""
    what = f"a {_MEASURES.get(base, base)}"
    total, sign = 0.0, 1.0
    for position, (number, unit) in enumerate(_parts(text, what)):
        if position == 0 and number < 0:
            sign = -1.0
        if not unit and not default:
            raise InputError(f"“{text.strip()}” needs a unit.")
        total += abs(number) * _factor(unit or default, base)
    if not math.isfinite(total):
        raise InputError(f"“{text.strip()}” is too large.")
    return sign * total


def parse_length_m(text: str, default: str = "m") -> float:
    """A length in metres, not negative and at most 10 km."""
    value = parse_quantity(text, "metre", default)
    if value < 0:
        raise InputError(f"A length can't be negative: “{text.strip()}”.")
    if value > 10_000:
        raise InputError(f"“{text.strip()}” is over 10 km; check the unit.")
    return value


def _positive(text: str, base: str, default: str, most: float) -> float:
    value = parse_quantity(text, base, default)
    if value <= 0 or value > most:
        raise InputError(f"“{text.strip()}” must be above zero and at most {most:g} {base.removesuffix('e')}s.")
    return value


def parse_amps(text: str) -> float:
    """A current in A above zero, up to 100 kA."""
    return _positive(text, "ampere", "A", 1e5)


def parse_volts(text: str) -> float:
    """A voltage in V above zero, up to 1500 V (the low-voltage DC limit of IEC 60364)."""
    return _positive(text, "volt", "V", 1500.0)


def parse_watts(text: str) -> float:
    """A power in W above zero, up to 10 MW."""
    return _positive(text, "watt", "W", 1e7)


def parse_seconds(text: str) -> float:
    """A time in s above zero, up to ten days."""
    return _positive(text, "second", "s", 864_000.0)


def parse_ohms(text: str) -> float:
    """A resistance in Ω, zero allowed, up to 1 MΩ."""
    value = parse_quantity(text, "ohm", "ohm")
    if not 0 <= value <= 1e6:
        raise InputError(f"“{text.strip()}” must be from 0 to 1 megohm.")
    return value


def parse_celsius(text: str) -> float:
    """A temperature in °C from "35", "35C", "35 °C" or "95 F"; −60 to 1000 °C."""
    match = re.fullmatch(rf"\s*({NUMBER})\s*(?:°|deg)?\s*([cCfFkK]?)\s*", text.replace("−", "-"))
    if not match:
        raise InputError(f"“{text.strip()}” can't be read as a temperature, such as 35C or 95F.")
    value, unit = parse_number(match[1]), match[2].upper()
    value = {"F": (value - 32) / 1.8, "K": value - 273.15}.get(unit, value)
    if not -60 <= value <= 1000:
        raise InputError(f"“{text.strip()}” is outside −60 to 1000 °C.")
    return value


def parse_load(text: str) -> tuple[str, float]:
    """("A", amps), ("W", watts) or ("ohm", ohms) from "18A", "430 W", "2.4 ohm"."""
    unit = _parts(text, "a load such as 18 A or 430 W")[0][1]
    for kind, parse, base in (("A", parse_amps, "ampere"), ("W", parse_watts, "watt")):
        try:
            _factor(unit or "A", base)
        except InputError:
            continue
        return kind, parse(text)
    try:
        value = parse_ohms(text)
    except InputError:
        raise InputError(f"“{text.strip()}” can't be read as a load, such as 18 A or 430 W.") from None
    if value <= 0:
        raise InputError(f"A load of “{text.strip()}” would be a short circuit.")
    return "ohm", value


def parse_drop(text: str, supply_volts: float) -> float:
    """The allowed drop in V from "3%" or "0.6V"."""
    stripped = text.strip()
    if stripped.endswith("%"):
        percent = parse_number(stripped[:-1])
        if not 0 < percent < 100:
            raise InputError(f"A drop of “{stripped}” must lie between 0 and 100 %.")
        return percent / 100 * supply_volts
    if re.fullmatch(NUMBER, stripped):
        raise InputError(f"A drop of “{stripped}” needs % or V.")
    volts = parse_volts(stripped)
    if volts >= supply_volts:
        raise InputError(f"A drop of “{stripped}” leaves nothing of {supply_volts:g} V.")
    return volts


def parse_duty(text: str) -> tuple[float, float]:
    """(on seconds, period seconds) from "20s/60s" or "5 min in 30 min"."""
    halves: Sequence[str] = re.split(r"\s*(?:/|\bin\b|\bper\b|\bof\b)\s*", text.strip())
    if len(halves) != 2:
        raise InputError(f"“{text.strip()}” can't be read as a duty, such as 20s/60s.")
    on_s, period_s = (parse_seconds(half) for half in halves)
    if on_s > period_s:
        raise InputError(f"On for {on_s:g} s of every {period_s:g} s is not possible.")
    return on_s, period_s


def parse_surge(text: str) -> tuple[float, float]:
    """(amps, seconds) from "60A/2s" or "60 A for 2 s"."""
    halves = re.split(r"\s*(?:/|\bfor\b|,)\s*", text.strip())
    if len(halves) != 2:
        raise InputError(f"“{text.strip()}” can't be read as a surge, such as 60A/2s.")
    return parse_amps(halves[0]), parse_seconds(halves[1])


def significant(value: float, digits: int = 3) -> str:
    """The value with `digits` significant digits and no exponent in the usual range."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else ("∞" if value > 0 else "−∞" if value < 0 else "?")
    if not 1e-4 <= abs(value) < 1e6:
        return f"{value:.{digits}g}".replace("-", "−")
    decimals = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    return f"{value:.{decimals}f}".replace("-", "−")


def show_length(metres: float) -> str:
    """Metres above one, else millimetres: "4.20 m", "380 mm"."""
    return f"{metres:.2f} m" if abs(metres) >= 1 else f"{metres * 1000:.0f} mm"


def show_ohms(ohms: float) -> str:
    """mΩ below one ohm."""
    return f"{significant(ohms)} Ω" if ohms >= 1 else f"{significant(ohms * 1000)} mΩ"


def show_mass(kg: float) -> str:
    """g below one kilogram."""
    return f"{significant(kg)} kg" if kg >= 1 else f"{kg * 1000:.0f} g"
