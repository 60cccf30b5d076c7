"""Readings of a coil as people write them: "620 g", "11.2 mm ± 0.05 mm", "1100x0.2mm", "35 mm2 copper"."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping

from umber_trunk.core.catalog.conductors import Size, metals, parse_size
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.measures import LENGTH, MASS, RESISTANCE, Measure
from umber_trunk.core.quantity import Habit, read
from umber_trunk.core.units import parse_celsius, parse_share
from umber_trunk.core.wirecheck import evidence
from umber_trunk.core.wirecheck.evidence import Evidence, Reading

ASKED = {
    "claim": "sold as", "length": "length weighed and measured", "mass": "mass of it", "od": "outer diameter", "bundle": "bare bundle’s diameter",
    "strands": "strands × diameter", "resistance": "four-wire resistance of it", "ambient": "air", "sold": "coil sold as", "coil_resistance": "resistance of the coil",
    "coil_mass": "mass of the coil",
}  # fmt: skip
"""What can be said, and how it is asked for."""
BOUNDS = {
    (LENGTH.name, 1.0): (0.01, 10_000.0, "m"), (LENGTH.name, 1e3): (0.01, 500.0, "mm"), (MASS.name, 1.0): (1e-6, 1e5, "kg"), (RESISTANCE.name, 1.0): (1e-7, 1e6, "Ω"),
}  # fmt: skip
"""What readings can be, by their measure and unit."""
_PLUS_MINUS = re.compile(r"\s*(?:±|\+/-|\+-)\s*")
_STRANDS = re.compile(r"\s*(\d{1,6})\s*[x×*]\s*(\S.*)", re.I)
_CLAIM_METALS = {
    "cu": "copper", "bare copper": "copper", "plain copper": "copper", "tinned copper": "tinned", "cca": "cca10", "ccal": "cca10", "copper-clad aluminium": "cca10",
    "copper clad aluminium": "cca10", "al": "aluminium", "aluminum": "aluminium",
}  # fmt: skip


def read_evidence(said: Mapping[str, str], weighed: str = "", decimal: str = "") -> Evidence:
    """The readings by the names of `ASKED`; blank ones are left out. InputError names the one that can't be read."""
    habit = Habit(decimal)
    found = {name: text for name, text in said.items() if text.strip()}
    size = metal = None
    if "claim" in found:
        size, metal = _claim(found["claim"], decimal)
    number = strand = None
    if "strands" in found:
        number, strand = _strands(found["strands"], habit)

    def figure(
        name: str, measure: Measure, unit: str, share: float, least: float, scale: float = 1.0
    ) -> Reading | None:
        return _reading(ASKED[name], found[name], measure, unit, share, least, scale, habit) if name in found else None

    sold = figure("sold", LENGTH, "m", 0, 1e-9)
    length = figure("length", LENGTH, "m", evidence.SAMPLE_SHARE, evidence.SAMPLE_LEAST_M)
    return Evidence(
        sample_m=length,
        mass_kg=figure("mass", MASS, "g", evidence.MASS_SHARE, evidence.MASS_LEAST_KG),
        weighed=weighed,
        outer_mm=figure("od", LENGTH, "mm", 0, evidence.OUTER_MM, 1e3),
        bundle_mm=figure("bundle", LENGTH, "mm", evidence.BUNDLE_SHARE, 0.02, 1e3),
        strands=number,
        strand_mm=strand,
        ohm=figure("resistance", RESISTANCE, "ohm", evidence.OHM_SHARE, 1e-9),
        ambient_c=_air(found.get("ambient", ""), habit),
        claim=size,
        claim_metal=metal or "",
        sold_m=sold.value if sold else None,
        coil_ohm=figure("coil_resistance", RESISTANCE, "ohm", evidence.OHM_SHARE, 1e-9),
        coil_kg=figure("coil_mass", MASS, "kg", evidence.MASS_SHARE, 0.005),
    )


def _claim(text: str, decimal: str) -> tuple[Size, str]:
    """Size and metal of a seller's claim: "35 mm2 copper", "AWG 8 tinned", "16 mm2"."""
    words = text.strip()
    for name in sorted([*metals(), *_CLAIM_METALS], key=len, reverse=True):
        if words.lower().endswith(" " + name):
            return parse_size(words[: -len(name)].strip(), "metric", decimal), _CLAIM_METALS.get(name, name)
    try:
        return parse_size(words, "metric", decimal), "copper"
    except InputError as why:
        raise InputError.of("wirecheck.not-a-claim", words=quoted(words), why=why) from None


def _strands(text: str, habit: Habit) -> tuple[int, Reading]:
    match = _STRANDS.fullmatch(text)
    if match is None or int(match[1]) < 1:
        raise InputError.of("wirecheck.strands-not-readable", text=quoted(text))
    least, share = evidence.STRAND_LEAST_MM, evidence.STRAND_SHARE
    return int(match[1]), _reading("strand", match[2], LENGTH, "mm", share, least, 1e3, habit)


def _reading(
    name: str, text: str, measure: Measure, unit: str, share: float, least: float, scale: float, habit: Habit
) -> Reading:
    """A figure above zero with its ±, two standard deviations where given; else as the instrument usually has it, and
    never finer than the figures written down."""
    parts = _PLUS_MINUS.split(text.strip())
    if len(parts) > 2:
        raise InputError.of("wirecheck.two-plus-minus", name=name, text=quoted(text))
    found = read(parts[0], measure, unit, habit)
    value = found.value * scale
    if value <= 0:
        raise InputError.of("wirecheck.must-be-above-zero", name=name, text=quoted(text))
    low, high, shown = BOUNDS[measure.name, scale]
    if not low <= value <= high:
        raise InputError.of(
            "wirecheck.no-figure-of-cable", name=name, text=quoted(text), low=low, high=high, shown=shown
        )
    if len(parts) == 2:
        if parts[1].endswith("%"):
            sd = value * _share(parts[1], name) / 2
        else:
            sd = read(parts[1], measure, found.unit or unit, habit).value * scale / 2
        if not 0 < 2 * sd < value:
            raise InputError.of("wirecheck.plus-minus-out-of-range", name=name)
        return Reading(value, sd)
    coarse = _last_digit(parts[0]) * (value / _plain(parts[0])) if measure is RESISTANCE and _plain(parts[0]) else 0.0
    return Reading(value, math.hypot(max(share * value, least), min(coarse / math.sqrt(12), 0.05 * value)))


def _share(text: str, name: str) -> float:
    try:
        return parse_share(text, Habit("point"))
    except InputError:
        raise InputError.of("wirecheck.plus-minus-no-percentage", name=name, text=quoted(text)) from None


_FIGURE = re.compile(r"\d+(?:[.,](\d+))?")


def _plain(text: str) -> float:
    match = _FIGURE.match(text.strip())
    return float(match[0].replace(",", ".")) if match else 0.0


def _last_digit(text: str) -> float:
    """Worth of the last digit written: 0.1 of "1.1"."""
    match = _FIGURE.match(text.strip())
    return 10.0 ** -len(match[1] or "") if match else 0.0


def _air(text: str, habit: Habit) -> Reading:
    if not text.strip():
        return Reading(20.0, evidence.GUESSED_K)
    return Reading(parse_celsius(text, habit), evidence.WARMTH_K)
