"""What people type is read as they mean it; what can't be read is said in a sentence."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from umber_trunk.core import units
from umber_trunk.core.errors import InputError


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("7.5m", 7.5),
        ("7,5 m", 7.5),
        ("12 ft 3 in", 12 * 0.3048 + 3 * 0.0254),
        ("12' 3\"", 12 * 0.3048 + 3 * 0.0254),
        ("850 mm", 0.85),
        ("38cm", 0.38),
        ("4", 4.0),
        ("2 yd", 1.8288),
        ("0 m", 0.0),
        ("1e3 mm", 1.0),
        ("6 feet", 1.8288),
    ],
)
def test_lengths(text: str, metres: float) -> None:
    assert units.parse_length_m(text) == pytest.approx(metres)


@pytest.mark.parametrize("text", ["", "banana", "-3 m", "3 kg", "20 km", "1..2 m", "m", "1e999 m", "3 m of it"])
def test_bad_lengths_are_refused_in_a_sentence(text: str) -> None:
    with pytest.raises(InputError) as caught:
        units.parse_length_m(text)
    assert str(caught.value).endswith(".")
    assert len(str(caught.value)) > 10


def test_a_bare_length_takes_the_header_unit() -> None:
    assert units.parse_length_m("1200", "mm") == pytest.approx(1.2)


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("18A", "A", 18),
        ("430 W", "W", 430),
        ("2kW", "W", 2000),
        ("2.4 ohm", "ohm", 2.4),
        ("500 mA", "A", 0.5),
        ("1 hp", "W", 745.7),
        ("7", "A", 7),
        ("2,5 A", "A", 2.5),
    ],
)
def test_loads(text: str, kind: str, value: float) -> None:
    found, amount = units.parse_load(text)
    assert found == kind
    assert amount == pytest.approx(value, rel=1e-4)


@pytest.mark.parametrize("text", ["0A", "-4 W", "430X", "nan A", "inf W", "", "0 ohm"])
def test_bad_loads(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_load(text)


def test_the_message_for_a_strange_load_says_what_would_do() -> None:
    with pytest.raises(InputError, match="such as 18 A or 430 W"):
        units.parse_load("430X")


@pytest.mark.parametrize(
    ("text", "celsius"),
    [("35", 35), ("35C", 35), ("35 °C", 35), ("95F", 35), ("-20 C", -20), ("300K", 26.85), ("−5", -5)],
)
def test_temperatures(text: str, celsius: float) -> None:
    assert units.parse_celsius(text) == pytest.approx(celsius)


@pytest.mark.parametrize("text", ["hot", "2000C", "-100", "35 X"])
def test_bad_temperatures(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_celsius(text)


@pytest.mark.parametrize(("text", "volts"), [("3%", 0.72), ("0.6V", 0.6), ("600 mV", 0.6), ("2,5 %", 0.6)])
def test_drops_of_24_volts(text: str, volts: float) -> None:
    assert units.parse_drop(text, 24) == pytest.approx(volts)


@pytest.mark.parametrize("text", ["3", "0%", "120%", "30V", "x%"])
def test_bad_drops(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_drop(text, 24)


@pytest.mark.parametrize(
    ("text", "pair"), [("20s/60s", (20, 60)), ("5 min in 30 min", (300, 1800)), ("1 min per 1 h", (60, 3600))]
)
def test_duties(text: str, pair: tuple[float, float]) -> None:
    assert units.parse_duty(text) == pytest.approx(pair)


@pytest.mark.parametrize("text", ["60s/20s", "20s", "a/b", "0s/10s"])
def test_bad_duties(text: str) -> None:
    with pytest.raises(InputError):
        units.parse_duty(text)


@pytest.mark.parametrize("text", ["60A/2s", "60 A for 2 s", "60A, 2s"])
def test_surges(text: str) -> None:
    assert units.parse_surge(text) == (60, 2)


@given(st.floats(min_value=1e-3, max_value=9999, allow_nan=False))
def test_a_length_printed_is_read_back(metres: float) -> None:
    shown = units.show_length(metres)
    assert units.parse_length_m(shown) == pytest.approx(metres, abs=0.006, rel=1e-3)


@given(st.text(max_size=40))
def test_no_text_breaks_a_parser(text: str) -> None:
    for parse in (units.parse_length_m, units.parse_load, units.parse_celsius, units.parse_duty, units.parse_surge):
        try:
            value = parse(text)
        except InputError:
            continue
        numbers = [part for part in (value if isinstance(value, tuple) else (value,)) if isinstance(part, float)]
        assert all(math.isfinite(number) for number in numbers)


@pytest.mark.parametrize(
    ("value", "shown"),
    [(0, "0"), (12.345, "12.3"), (0.01234, "0.0123"), (1234.5, "1234"), (-2.5, "−2.50"), (math.inf, "∞")],
)
def test_significant_digits(value: float, shown: str) -> None:
    assert units.significant(value) == shown
