"""Kinds of quantities with the words of their units, as factors to a base unit; inch and pound by their agreement
of 1959."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Measure:
    """A kind of quantity: unit word → factor to its base unit. `strict` words are told apart by upper and lower
    case ("mW", "MW"); `letters` are those that stand for the decimal point, with their factor."""

    name: str
    base: str
    units: dict[str, float]
    strict: frozenset[str] = frozenset()
    letters: tuple[tuple[str, float], ...] = ()

    def factor(self, word: str) -> float | None:
        """Factor of a unit word, None when it isn't one of this kind."""
        for candidate in (word, word.rstrip(".")):
            if candidate in self.units:
                return self.units[candidate]
            folded = candidate.lower()
            if folded in self.units and folded not in self.strict:
                return self.units[folded]
        return None


def _words(*groups: tuple[float, str]) -> dict[str, float]:
    return {word: factor for factor, words in groups for word in words.split()}


INCH_M = 0.0254
"""International inch, exactly."""
FOOT_M = 0.3048
"""International foot, exactly."""
LENGTH = Measure(
    "length",
    "m",
    _words(
        (1.0, "m metre metres meter meters mtr mtrs metro metros mètre mètres"),
        (0.01, "cm centimetre centimetres"),
        (0.001, "mm millimetre millimetres millimeter millimeters"),
        (0.1, "dm"),
        (1000.0, "km"),
        (1e-6, "µm μm um"),
        (FOOT_M, "ft foot feet ' ′ ’ fuß fuss pied pieds"),
        (INCH_M, "in inch inches \" ″ ” '' ′′ ’’ zoll pouce pouces pulgada pulgadas"),
        (0.9144, "yd yard yards"),
    ),
)
"""Lengths, in metres."""
CURRENT = Measure(
    "current",
    "A",
    _words(
        (1.0, "a amp amps ampere amperes ampère ampères amperio amperios"),
        (0.001, "mA ma milliamp milliamps"),
        (1000.0, "kA ka"),
        (1e-6, "µA μA uA"),
    ),
    frozenset({"ma"}),
    (("A", 1.0),),
)
"""Currents, in amperes."""
VOLTAGE = Measure(
    "voltage",
    "V",
    _words((1.0, "v volt volts vdc vac v= v~ voltios"), (0.001, "mV mv millivolt millivolts"), (1000.0, "kV kv")),
    frozenset({"mv"}),
    (("V", 1.0), ("v", 1.0)),
)
"""Volts, whether DC or AC."""
POWER = Measure(
    "power",
    "W",
    _words((1.0, "w watt watts va watios"), (1000.0, "kw kva kilowatt kilowatts"), (0.001, "mW"), (1e6, "MW")),
    frozenset({"mw"}),
    (("k", 1000.0), ("K", 1000.0)),
)
"""Electric power, in watts; volt-amperes are taken as such."""
SHAFT = Measure("shaft power", "W", _words((745.699872, "hp h.p horsepower bhp"), (735.49875, "ps cv ch")))
"""What a motor gives off, in watts."""
RESISTANCE = Measure(
    "resistance",
    "Ω",
    _words(
        (1.0, "ohm ohms Ω \u2126 ω R r"),
        (0.001, "mΩ m\u2126 mohm mohms milliohm milliohms"),
        (1e-6, "µΩ μΩ µ\u2126 uohm µohm μohm microohm"),
        (1000.0, "kΩ k\u2126 kohm kohms kiloohm k K"),
        (1e6, "MΩ M\u2126 Mohm Mohms megohm megohms M"),
    ),
    frozenset({"mω", "mohm", "mohms", "m"}),
    (("R", 1.0), ("r", 1.0), ("k", 1e3), ("K", 1e3), ("M", 1e6), ("L", 1e-3)),
)
"""Resistances, in ohms."""
TIME = Measure(
    "time",
    "s",
    _words(
        (1.0, "s sec secs second seconds"),
        (0.001, "ms msec"),
        (60.0, "min mins minute minutes"),
        (3600.0, "h hr hrs hour hours"),
        (86400.0, "d day days"),
    ),
)
"""Times, in seconds."""
MASS = Measure(
    "mass",
    "kg",
    _words(
        (1.0, "kg kilo kilos kilogram kilograms"),
        (0.001, "g gr gram grams gramme grammes"),
        (1e-6, "mg"),
        (0.028349523125, "oz ounce ounces"),
        (0.45359237, "lb lbs pound pounds"),
    ),
)
"""Masses, in kilograms."""
AREA = Measure(
    "cross-section",
    "mm²",
    _words(
        (1.0, "mm2 mm² mm^2 sqmm qmm mm\u00b2"),
        (0.5067074790974978e-3, "cmil"),
        (0.5067074790974978, "kcmil mcm"),
        (645.16, "in2 in² sqin"),
    ),
)
"""Cross-sections, in square millimetres."""
