"""The reader of quantities: whole texts or a refusal with its reason. Figures by hand from the units' definitions
(inch 25.4 mm, ASTM B258 for gauges, 1 hp = 550 ft·lbf/s); what the program prints, it reads back."""

import contextlib
import math
from functools import cache

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from umber_trunk.core import measures, units
from umber_trunk.core.catalog.conductors import awg_area_mm2, parse_size, parse_spec
from umber_trunk.core.errors import InputError
from umber_trunk.core.make import measuring
from umber_trunk.core.measures import LENGTH, RESISTANCE, VOLTAGE, Measure
from umber_trunk.core.quantity import DoubtfulError, Habit, exact, read, read_number

LENGTHS = {
    "7.5m": 7.5, "7,5 m": 7.5, "850 mm": 0.85, "38cm": 0.38, "4": 4.0, "2 yd": 1.8288, "0 m": 0.0, "1e3 mm": 1.0,
    "6 feet": 1.8288, "1 250 mm": 1.25, "1\u2009250 mm": 1.25, "1\u202f250 mm": 1.25, "1\u00a0250 mm": 1.25,
    "1'250 mm": 1.25, "1’250 mm": 1.25, "1,250.5 mm": 1.2505, "1.250,5 mm": 1.2505, "1 250,5 mm": 1.2505,
    "1,234,567 mm": 1234.567, "1.234.567 mm": 1234.567, "0.375": 0.375, "0,375 m": 0.375, "1,20 m": 1.2, "1.2345": 1.2345,
    "1234.567 mm": 1.234567, ".5 m": 0.5, ",5 m": 0.5, "1/2 in": 0.0127, "3 1/2 in": 0.0889, "3-1/2 in": 0.0889,
    "3½ in": 0.0889, "½ in": 0.0127, "¾″": 0.01905, "19-1/2 ft": 5.9436, "19 1/2 ft": 5.9436, "3'6": 1.0668, "3'6\"": 1.0668,
    "3' 6\"": 1.0668, "3'-6\"": 1.0668, "3’6”": 1.0668, "3′6″": 1.0668, "6'-3 1/2\"": 1.9177, "6' 3-1/2\"": 1.9177, "3ft6in": 1.0668,
    "3 ft 6": 1.0668, "12 ft 3 in": 3.7338, "12' 3\"": 3.7338, "12''": 0.3048, "12'": 3.6576, "5 ft.": 1.524, "9 in.": 0.2286,
    "2 m 30 cm": 2.3, "1 m 250 mm": 1.25, "10 MM": 0.01, "7.5 M": 7.5, "4 Zoll": 0.1016, "3 pieds 2 pouces": 0.9652,
    "2.5 meters": 2.5, "+3 m": 3.0, "4 000 mm": 4.0, "12 FT": 3.6576,
}  # fmt: skip


@pytest.mark.parametrize(("text", "metres"), LENGTHS.items())
def test_lengths(text: str, metres: float) -> None:
    assert units.parse_length_m(text) == pytest.approx(metres, rel=1e-9)


REFUSED = {
    "": "missing", "banana": "can't be read", "-3 m": "negative", "3 kg": "not understood", "20 km": "10 km", "1..2 m": "range",
    "m": "can't be read", "3 m of it": "of it", "3-4 m": "range", "3 – 4 m": "range", "3 to 4 m": "range", "3 m - 4 m": "range",
    "3 ft - 4 ft": "range", "3 m / 4 m": "two values", "2m50": "50", "1 25": "25", "4 0000": "0000", "12/24": "two values",
    "5 ft 13 in": "13 in", "2 m 3 m": "3 m", "1.2.3 m": "separators", "1,2,3 m": "separators", "1,23,456 m": "separators",
    "3 m ± 2 cm": "± 2 cm", "~3 m": "can't be read", "1e999 m": "too large", "3 m²": "²", "1 1/0 in": "two values",
    "1 234 56 mm": "56 mm", "0x12 m": "x", "4/2 in": "two values", "2/4 in": "two values", "3/2 in": "two values", "3'6'9": "not understood", "2,5;3 m": "two values",
}  # fmt: skip


@pytest.mark.parametrize(("text", "reason"), REFUSED.items())
def test_what_is_not_one_length_is_refused_with_its_reason(text: str, reason: str) -> None:
    with pytest.raises(InputError) as caught:
        units.parse_length_m(text)
    assert reason in str(caught.value)
    assert str(caught.value).endswith(".")


LOADS = {
    "18A": ("A", 18), "430 W": ("W", 430), "2kW": ("W", 2000), "2.4 ohm": ("ohm", 2.4), "500 mA": ("A", 0.5), "7": ("A", 7),
    "2,5 A": ("A", 2.5), "5 Amps": ("A", 5), "60 Watts": ("W", 60), "4R7": ("ohm", 4.7), "R47": ("ohm", 0.47), "2k2": ("ohm", 2200),
    "2k2 W": ("W", 2200), "1 kVA": ("W", 1000), "1.5 KW": ("W", 1500), "3 amperes": ("A", 3), "4M7 ohm": None, "1/2 A": ("A", 0.5),
    "1 200 W": ("W", 1200), "1'200 W": ("W", 1200), "10 µA": ("A", 1e-5), "10 Ω": ("ohm", 10), "10 \u2126": ("ohm", 10),
    "3 mΩ": ("ohm", 0.003), "20-30 A": None, "20–30A": None, "20 to 30 A": None, "20/30 A": None, "12/24 W": None, "4-20 mA": None,
    "10 MA": None, "10 mw": None, "5 V 0.7 A": None, "0A": None, "-4 W": None, "430X": None, "nan A": None, "inf W": None,
    "0 ohm": None, "3 A or 4 A": None, "20 A max": None, "5 A, 6 A": None,
}  # fmt: skip


@pytest.mark.parametrize(("text", "found"), LOADS.items())
def test_loads(text: str, found: tuple[str, float] | None) -> None:
    if found is None:
        with pytest.raises(InputError):
            units.parse_load(text)
        return
    load = units.parse_load(text)
    assert (load.kind, load.value) == (found[0], pytest.approx(found[1]))
    assert not load.note


@pytest.mark.parametrize(
    ("text", "shaft_w"),
    [("1 hp", 745.7), ("1/2 hp", 372.85), ("1/2 HP", 372.85), ("0.5 H.P.", 372.85), ("1 PS", 735.5)],
)
def test_horsepower_is_what_the_shaft_gives_not_what_the_motor_draws(text: str, shaft_w: float) -> None:
    load = units.parse_load(text)
    assert load.value == pytest.approx(shaft_w / 0.7, rel=1e-4)
    assert "assumed" in load.note
    assert "70 %" in load.note
    assert units.parse_load(text, efficiency=0.5).value == pytest.approx(shaft_w / 0.5, rel=1e-4)


SIZES = {
    "AWG 8": "AWG 8", "8 AWG": "AWG 8", "8awg": "AWG 8", "AWG8": "AWG 8", "8 ga": "AWG 8", "8 gage": "AWG 8", "#12": "AWG 12",
    "gauge 10": "AWG 10", "2/0": "AWG 2/0", "00": "AWG 2/0", "2/0 AWG": "AWG 2/0", "250 kcmil": "250 kcmil", "250 MCM": "250 kcmil",
    "10 mm2": "10 mm2", "2,5 mm²": "2.5 mm2", "6 mm^2": "6 mm2", "0.5 sq mm": "0.5 mm2", "35 qmm": "35 mm2", "1.5 sqmm": "1.5 mm2",
    "10": None, "2.5mm": None, "3x1.5 mm²": None, "1.5/2.5 mm²": None, "14-16 AWG": None, "AWG 14.5": None, "5000 mm2": None,
    "AWG 60": None, "thin": None, "1,500 mm2": None, "-2 mm2": None, "16 AWG/2": None, "": None,
}  # fmt: skip


@pytest.mark.parametrize(("text", "label"), SIZES.items())
def test_sizes(text: str, label: str | None) -> None:
    if label is None:
        with pytest.raises(InputError):
            parse_size(text)
    else:
        assert parse_size(text).label == label


def test_bare_sizes_are_of_the_series_asked_for() -> None:
    assert parse_size("14", "awg").area_mm2 == pytest.approx(awg_area_mm2(14))
    assert parse_size("2.5", "metric").label == "2.5 mm2"
    assert parse_size("250 kcmil").area_mm2 == pytest.approx(126.68, abs=0.01)  # ASTM B258: 127 mm²
    assert parse_spec("2 x 16 tinned", "metric") == {"parallel": 2, "metal": "tinned", "size": "16 mm2"}


@pytest.mark.parametrize(
    ("text", "celsius"),
    [
        ("35", 35),
        ("35C", 35),
        ("35 ℃", 35),
        ("35°", 35),
        ("95°F", 35),
        ("95 ℉", 35),
        ("−20 C", -20),
        ("300 K", 26.85),
        ("1.5 deg C", 1.5),
    ],
)
def test_temperatures(text: str, celsius: float) -> None:
    assert units.parse_celsius(text) == pytest.approx(celsius)


@pytest.mark.parametrize("text", ["hot", "2000C", "-100", "35 X", "20..30 C", "35 C 40 C", ""])
def test_bad_temperatures(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_celsius(text)


@pytest.mark.parametrize(
    ("text", "volts"),
    [("3V3", 3.3), ("24 V DC", 24), ("24VDC", 24), ("230 VAC", 230), ("12 Volts", 12), ("600 mV", 0.6), ("12V5", 12.5)],
)
def test_volts(text: str, volts: float) -> None:
    assert units.parse_volts(text) == pytest.approx(volts)


@pytest.mark.parametrize("text", ["12-24 V", "12/24 V", "24V/GND", "1,500 V", "2 kV", "0 V"])
def test_bad_volts(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_volts(text)


@pytest.mark.parametrize(
    ("text", "point", "comma"),
    [("1,200", 1200, 1.2), ("1.200", 1.2, 1200), ("12,500", 12500, 12.5), ("999.999", 999.999, 999999)],
)
def test_three_digits_behind_one_mark_are_doubtful_until_a_habit_decides(text: str, point: float, comma: float) -> None:
    for habit in (Habit(foreign=True), *([Habit()] if "," in text else [])):
        with pytest.raises(DoubtfulError) as caught:
            read_number(text, habit)
    if "." in text:  # typed, by a device, or our own: the point is the decimal mark
        assert read_number(text) == pytest.approx(point)
    assert set(caught.value.readings) == {exact(point), exact(comma)}
    for decimal, value in (("point", point), ("comma", comma)):
        habit = Habit(decimal)
        assert read_number(text, habit) == pytest.approx(value)
        assert decimal in habit.notes[0]
        assert read_number("2,5", habit) == 2.5
        assert len(habit.notes) == 1


MEASURES = [one for module in (measures, measuring) for one in vars(module).values() if isinstance(one, Measure)]
PINT = {
    "m": "metre", "dm": "decimetre", "cm": "centimetre", "mm": "millimetre", "km": "kilometre", "um": "micrometre", "ft": "foot", "in": "inch", "yd": "yard",
    "a": "ampere", "mA": "milliampere", "kA": "kiloampere", "uA": "microampere", "v": "volt", "mV": "millivolt", "kV": "kilovolt",
    "w": "watt", "kw": "kilowatt", "MW": "megawatt", "mW": "milliwatt", "hp": "horsepower", "ps": "metric_horsepower",
    "ohm": "ohm", "mohm": "milliohm", "uohm": "microohm", "kohm": "kiloohm", "Mohm": "megaohm", "s": "second", "ms": "millisecond", "min": "minute", "h": "hour", "d": "day",
    "kg": "kilogram", "g": "gram", "mg": "milligram", "oz": "ounce", "lb": "pound", "mm2": "millimetre**2", "kcmil": "1000*circular_mil", "cmil": "circular_mil", "in2": "inch**2",
    "n": "newton", "kn": "kilonewton", "lbf": "force_pound", "kgf": "force_kilogram", "nm": "newton*metre", "cnm": "centinewton*metre", "lbfin": "force_pound*inch",
}  # fmt: skip
BASES = {"m": "metre", "A": "ampere", "V": "volt", "W": "watt", "Ω": "ohm", "s": "second", "kg": "kilogram", "mm²": "millimetre**2", "N": "newton", "N·m": "newton*metre"}  # fmt: skip


@cache
def units_library() -> pint.UnitRegistry[float]:
    return pint.UnitRegistry(cache_folder=None)


@pytest.mark.parametrize("measure", MEASURES, ids=lambda m: m.name)
def test_unit_factors_agree_with_a_units_library(measure: Measure) -> None:
    registry = units_library()
    left = set(measure.units.values())
    for word in measure.units.keys() & PINT.keys():
        wanted = registry.parse_expression(PINT[word]).to(BASES[measure.base]).magnitude
        assert measure.units[word] == pytest.approx(wanted, rel=1e-6), word
        left.discard(measure.units[word])
    assert not left, "a unit that nothing was held against"


@given(st.floats(min_value=1e-9, max_value=1e9))
def test_exact_numbers_read_back_with_any_habit(value: float) -> None:
    for decimal in ("", "point", "comma"):
        habit = Habit(decimal)
        assert read_number(exact(value), habit) == pytest.approx(value, rel=1e-11)
        assert not habit.notes


@given(st.floats(min_value=1e-3, max_value=9999), st.sampled_from(["", "point", "comma"]))
def test_lengths_and_figures_printed_are_read_back(value: float, decimal: str) -> None:
    assert units.parse_length_m(units.show_length(value), habit=Habit(decimal)) == pytest.approx(
        value, abs=0.006, rel=1e-3
    )
    assert units.parse_ohms(units.show_ohms(value), Habit(decimal)) == pytest.approx(value, rel=6e-3)
    assert units.parse_amps(f"{units.significant(value)} A", Habit(decimal)) == pytest.approx(value, rel=6e-3)


@given(st.text(alphabet="0123456789.,'/- \u2009½xmftin\"AWVkRΩ", max_size=14))
def test_no_text_breaks_a_reader_and_none_is_read_in_part(text: str) -> None:
    for parse in (
        units.parse_length_m,
        units.parse_load,
        units.parse_celsius,
        units.parse_duty,
        units.parse_surge,
        parse_size,
    ):
        try:
            value = parse(text)
        except InputError:
            continue
        if isinstance(value, float):
            assert math.isfinite(value)
            # every digit written has to count: one more before it makes another figure or none
            digit = next((at for at, sign in enumerate(text) if sign.isdigit()), None)
            if digit is not None and value:
                with contextlib.suppress(InputError):
                    assert parse(text[:digit] + "9" + text[digit:]) != value


@pytest.mark.parametrize(
    ("text", "value", "unit", "measure"),
    [("4R7", 4.7, "R", "resistance"), ("4R7 ohm", 4.7, "ohm", "resistance"), ("2k2", 2200, "k", "resistance"), ("2k2 Ω", 2200, "Ω", "resistance"), ("4M7", 4.7e6, "M", "resistance"), ("R47", 0.47, "R", "resistance"), ("3K3", 3300, "K", "resistance"), ("2V5", 2.5, "V", "voltage"), ("2V5 V", 2.5, "V", "voltage")],
)  # fmt: skip
def test_letters_for_the_point_tell_the_unit_that_is_written(text: str, value: float, unit: str, measure: str) -> None:
    found = read(text, RESISTANCE if measure == "resistance" else VOLTAGE)
    assert (found.value, found.unit, found.end) == (pytest.approx(value), unit, len(text))


def test_every_part_of_an_inch_is_read_and_no_other() -> None:
    for part in range(2, 65):
        text = f"1/{part} in"
        if part in (2, 3, 4, 8, 16, 32, 64):
            assert read(text, LENGTH).value == pytest.approx(0.0254 / part)
        else:
            with pytest.raises(InputError):
                read(text, LENGTH)
