"""What people type as figures of one kind, within bounds ("12 ft 3 in", "2,5 mm²", "20s/60s"), and back as text.

The reading itself is `quantity.read`. Every parser raises InputError with a sentence that says what would be
understood; a `Habit` decides doubtful separators and gathers what it decided. Values inside the program are SI
unless the name says otherwise.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.measures import CURRENT, LENGTH, POWER, RESISTANCE, SHAFT, TIME, VOLTAGE, Measure
from umber_trunk.core.quantity import Habit, UnreadableError, read, read_number
from umber_trunk.core.sentences import say

MOTOR_EFFICIENCY = 0.7
"""Shaft power over electrical power of a small motor, where nobody has said: 60 to 80 % is usual."""


def parse_number(text: str, habit: Habit | None = None) -> float:
    """A plain finite number, comma or point; InputError otherwise."""
    return read_number(text, habit)


def parse_length_m(text: str, default: str = "m", habit: Habit | None = None) -> float:
    """A length in metres, not negative and at most 10 km; a bare number takes the unit `default`."""
    value = read(text, LENGTH, default, habit).value
    if value < 0:
        raise InputError.of("units.length-cant-be-negative", text=quoted(text))
    if value > 10_000:
        raise InputError.of("units.over-km-check-unit", text=quoted(text))
    return value


def _positive(text: str, measure: Measure, default: str, most: float, habit: Habit | None) -> float:
    value = read(text, measure, default, habit).value
    if not 0 < value <= most:
        raise InputError.of("units.out-of-range", text=quoted(text), most=most, base=measure.base)
    return value


def parse_amps(text: str, habit: Habit | None = None) -> float:
    """A current in A above zero, up to 100 kA."""
    return _positive(text, CURRENT, "A", 1e5, habit)


def parse_volts(text: str, habit: Habit | None = None) -> float:
    """A voltage in V above zero, up to 1500 V (the low-voltage DC limit of IEC 60364)."""
    return _positive(text, VOLTAGE, "V", 1500.0, habit)


def parse_seconds(text: str, habit: Habit | None = None) -> float:
    """A time in s above zero, up to ten days."""
    return _positive(text, TIME, "s", 864_000.0, habit)


def parse_ohms(text: str, habit: Habit | None = None) -> float:
    """A resistance in Ω, zero allowed, up to 1 MΩ."""
    value = read(text, RESISTANCE, "ohm", habit).value
    if not 0 <= value <= 1e6:
        raise InputError.of("units.resistance-out-of-range", text=quoted(text))
    return value


def counted(text: str, most: int, least: int = 1) -> int | None:
    """A whole number from `least` to `most`; None for any other text."""
    plain = text.strip()
    value = int(plain) if plain.isdecimal() and len(plain) < 12 else -1
    return value if least <= value <= most else None


def parse_share(text: str, habit: Habit | None = None) -> float:
    """A share of one from "85 %" or "0.85"; above 0 and at most 1."""
    stripped = text.strip()
    value = parse_number(stripped.removesuffix("%"), habit) / (100 if stripped.endswith("%") else 1)
    if not 0 < value <= 1:
        raise InputError.of("units.share-out-of-range", text=quoted(stripped))
    return value


_CELSIUS = re.compile(r"\s*(?:(°|deg\.?|degrees?)?\s*(C|F|K|celsius|fahrenheit|kelvin)|(℃)|(℉)|°)?\s*", re.I)


def parse_celsius(text: str, habit: Habit | None = None) -> float:
    """A temperature in °C from "35", "35C", "35 ℃" or "95 F"; −60 to 1000 °C."""
    stripped = text.strip()
    match = re.match(r"[-+−]?\s*[\d.,'’\u2009\u202f]+", stripped)
    unit = _CELSIUS.fullmatch(stripped, match.end()) if match else None
    if match is None or unit is None:
        raise InputError.of("units.cant-be-read-as-temperature", text=quoted(stripped))
    value, letter = parse_number(match[0], habit), "F" if unit[4] else (unit[2] or "C")[0].upper()
    value = {"F": (value - 32) / 1.8, "K": value - 273.15}.get(letter, value)
    if not -60 <= value <= 1000:
        raise InputError.of("units.temperature-out-of-range", text=quoted(stripped))
    return value


@dataclass(frozen=True)
class LoadRead:
    """A load as read: kind "A", "W" or "ohm", its value in that, and what was assumed on the way."""

    kind: str
    value: float
    note: str = ""


def parse_load(
    text: str, habit: Habit | None = None, efficiency: float | None = None, usual: float | None = None
) -> LoadRead:
    """A load from "18A", "430 W", "2.4 ohm" or "1/2 hp". Horsepower is shaft power: the motor draws more, by its
    `efficiency`, else by the `usual` one, 70 %."""
    text = re.sub(r"\bh\.\s?p\.?(?!\w)", "hp", text, flags=re.I)
    try:
        found = read(text, (CURRENT, POWER, SHAFT, RESISTANCE), "A", habit)
    except UnreadableError:
        raise InputError.of("units.cant-be-read-as-load", text=quoted(text)) from None
    most = {CURRENT.name: 1e5, RESISTANCE.name: 1e6}.get(found.measure.name, 1e7)
    if not 0 < found.value <= most:
        short = " a short circuit" if found.measure is RESISTANCE and found.value == 0 else ""
        raise (
            InputError.of("units.load-short", text=quoted(text), short=short)
            if short
            else InputError.of("units.out-of-range", text=quoted(text), most=most, base=found.measure.base)
        )
    if found.measure is SHAFT:
        share = efficiency or usual or MOTOR_EFFICIENCY
        watts = significant(found.value / share)
        note = say("read.shaft", text=text.strip(), watts=watts, percent=100 * share, assumed=not efficiency)
        return LoadRead("W", found.value / share, note)
    return LoadRead({CURRENT.name: "A", POWER.name: "W"}.get(found.measure.name, "ohm"), found.value)


def parse_drop(text: str, supply_volts: float, habit: Habit | None = None) -> float:
    """The allowed drop in V from "3%" or "0.6V"."""
    stripped = text.strip()
    if stripped.endswith("%"):
        percent = parse_number(stripped[:-1], habit)
        if not 0 < percent < 100:
            raise InputError.of("units.drop-of-must-lie-between", text=quoted(stripped))
        return percent / 100 * supply_volts
    found = read(stripped, VOLTAGE, "V", habit)
    if not found.unit:
        raise InputError.of("units.drop-of-needs", text=quoted(stripped))
    volts = parse_volts(stripped, habit)
    if volts >= supply_volts:
        raise InputError.of("units.drop-of-leaves-nothing", text=quoted(stripped), supply_volts=supply_volts)
    return volts


def parse_duty(text: str, habit: Habit | None = None) -> tuple[float, float]:
    """(on seconds, period seconds) from "20s/60s" or "5 min in 30 min"."""
    halves = re.split(r"\s*(?:/|\bin\b|\bper\b|\bof\b|\bevery\b)\s*", text.strip())
    if len(halves) != 2:
        raise InputError.of("units.cant-be-read-as-duty", text=quoted(text))
    on_s, period_s = (parse_seconds(half, habit) for half in halves)
    if on_s > period_s:
        raise InputError.of("units.duty-not-possible", on_s=on_s, period_s=period_s)
    return on_s, period_s


def parse_surge(text: str, habit: Habit | None = None) -> tuple[float, float]:
    """(amps, seconds) from "60A/2s" or "60 A for 2 s"."""
    halves = re.split(r"\s*(?:/|\bfor\b|,(?=\s)|(?<=[A-Za-z]),)\s*", text.strip())
    if len(halves) != 2:
        raise InputError.of("units.cant-be-read-as-surge", text=quoted(text))
    return parse_amps(halves[0], habit), parse_seconds(halves[1], habit)


def significant(value: float, digits: int = 3) -> str:
    """The value with `digits` significant digits and no exponent in the usual range."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else ("∞" if value > 0 else "−∞" if value < 0 else "?")
    if not 1e-4 <= abs(value) < 1e6:
        return f"{value:.{digits}g}".replace("-", "−")
    rounded = float(f"{value:.{digits - 1}e}")
    decimals = max(0, digits - 1 - math.floor(math.log10(abs(rounded))))
    # three decimals alone could be read as thousands
    decimals += decimals == 3 and abs(rounded) >= 1
    return f"{value:.{decimals}f}".replace("-", "−")


def show_length(metres: float) -> str:
    """Metres above one, else millimetres: "4.20 m", "380 mm"."""
    return f"{metres:.2f} m" if abs(metres) >= 0.9995 else f"{metres * 1000:.0f} mm"


def show_ohms(ohms: float, said: Callable[[float], str] = significant) -> str:
    """mΩ below one ohm, kΩ and MΩ above a thousand of each; `said` tells with how many figures."""
    for factor, unit in ((1e6, "MΩ"), (1e3, "kΩ"), (1.0, "Ω")):
        if ohms >= factor:
            return f"{said(ohms / factor)} {unit}"
    return f"{said(ohms * 1000)} mΩ"


def show_volts(volts: float) -> str:
    """Millivolts told; a half is rounded up however the last bit of a solved figure fell."""
    if not abs(volts) < 1e12:
        return f"{volts:.3f} V"
    return f"{Decimal(f'{volts:.9g}').quantize(Decimal('0.001'), ROUND_HALF_UP):f} V"


def show_mass(kg: float) -> str:
    """g below one kilogram."""
    return f"{significant(kg)} kg" if kg >= 1 else f"{kg * 1000:.0f} g"


def show_seconds(seconds: float) -> str:
    """A time in words a builder reads: ms, s, min or h; "never" beyond three years."""
    if seconds >= 1e8:
        return "never"
    for limit, divisor, unit in ((1.0, 1e-3, "ms"), (120.0, 1.0, "s"), (7200.0, 60.0, "min")):
        if seconds < limit:
            return f"{significant(seconds / divisor, 2)} {unit}"
    return f"{significant(seconds / 3600, 2)} h"
