"""What people type is read as they mean it; what can't be read is said in a sentence."""

import math

import pytest

from umber_trunk.core import units
from umber_trunk.core.errors import InputError


def test_a_bare_length_takes_the_header_unit() -> None:
    assert units.parse_length_m("1200", "mm") == pytest.approx(1.2)


def test_the_message_for_a_strange_load_says_what_would_do() -> None:
    with pytest.raises(InputError, match="such as 18 A or 430 W"):
        units.parse_load("430X")


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


@pytest.mark.parametrize(
    ("value", "shown"),
    [(0, "0"), (12.345, "12.3"), (0.01234, "0.0123"), (1234.5, "1234"), (-2.5, "−2.50"), (math.inf, "∞")],
)
def test_significant_digits(value: float, shown: str) -> None:
    assert units.significant(value) == shown


def test_constants_are_those_of_codata() -> None:
    """Against SciPy's table of CODATA values."""
    from scipy import constants as table

    from umber_trunk.core.physics import constants

    assert table.g == constants.G_M_S2
    assert pytest.approx(table.sigma, rel=1e-9) == constants.STEFAN_BOLTZMANN
    assert table.zero_Celsius == constants.ZERO_C_K


def test_whole_numbers_are_read_whole_or_not_at_all() -> None:
    assert [units.counted(text, 20) for text in ("1", " 20 ", "07", "٣")] == [1, 20, 7, 3]
    for text in ("", "0", "21", "-1", "+1", "1.0", "1 2", "1_2", "²", "½", "1e1", "9" * 5000, "x"):
        assert units.counted(text, 20) is None
    assert (units.counted("0", 20, 0), units.counted("5", 20, 6)) == (0, None)
