"""Money: decimal sums, rounded half up to what the currency has, never through a float."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import ROUND_CEILING, ROUND_HALF_UP, Decimal, localcontext

CURRENCY = "EUR"
_NO_DIGITS = "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX VND VUV XAF XOF XPF"
_THREE_DIGITS = "BHD IQD JOD KWD LYD OMR TND"
DIGITS = dict.fromkeys(_NO_DIGITS.split(), 0) | dict.fromkeys(_THREE_DIGITS.split(), 3)
"""Digits behind the point of the currencies that haven't two (ISO 4217, minor units)."""


def digits(currency: str) -> int:
    """Digits behind the point of a currency."""
    return DIGITS.get(currency, 2)


def rounded(amount: Decimal, currency: str, step: Decimal = Decimal(0)) -> Decimal:
    """An amount to a multiple of `step`, or to the currency's own digits; halves go up."""
    with localcontext() as context:
        context.prec = 40
        unit = step if step > 0 else Decimal(1).scaleb(-digits(currency))
        return ((amount / unit).quantize(Decimal(1), ROUND_HALF_UP) * unit).quantize(
            Decimal(1).scaleb(-max(digits(currency), -unit.normalize().as_tuple().exponent)),  # type: ignore[operator]
            ROUND_HALF_UP,
        )


def packs(amount: Decimal, pack: Decimal) -> int:
    """How many packs hold an amount: a whole number of them, never too few. (`//` of decimals goes towards zero.)"""
    return int((amount / pack).to_integral_value(ROUND_CEILING))


def of(figure: float | int | str) -> Decimal:
    """A figure that was measured or counted, as a decimal: to a millionth, which no price asks beyond."""
    return Decimal(str(round(float(figure), 6)))


def total(amounts: Iterable[Decimal]) -> Decimal:
    """Their sum."""
    return sum(amounts, Decimal(0))


def told(amount: Decimal, currency: str) -> str:
    """An amount as it is shown, thousands apart: “1 234.50 EUR”."""
    shown = f"{rounded(amount, currency):,.{digits(currency)}f}".replace(",", "\u202f")
    return f"{shown} {currency}"
