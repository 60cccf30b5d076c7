"""What things cost, as the shop was told; a harness may carry the prices it was offered at, so that it says the same
without its shop. Money is decimal, written as text; days are ISO 8601."""

from __future__ import annotations

from decimal import Decimal
from typing import Annotated

from pydantic import AfterValidator, Field

from umber_trunk.core.fields import Frozen, Id, Text
from umber_trunk.core.moments import day_from

MOST_MONEY = 10**10
"""No price is above it, in any currency."""
Money = Annotated[Decimal, Field(ge=0, le=MOST_MONEY, allow_inf_nan=False, max_digits=20, decimal_places=8)]


def _real_day(text: str) -> str:
    try:
        day_from(text)
    except ValueError as why:
        raise ValueError(f"“{text}” is no day of the calendar") from why
    return text


DayText = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$"), AfterValidator(_real_day)]


class Price(Frozen):
    """What one thing costs: `part` is its id in the catalogue, or a conductor as “2.5 mm2” or “2.5 mm2 red”; a piece or
    a metre, from `least` of them on. Sold in packs or coils of `pack`. `since` the day it was told."""

    id: Id
    part: Text
    each: Money
    supplier: Text = ""
    since: DayText
    least: Annotated[Decimal, Field(ge=0, le=10**9, allow_inf_nan=False, decimal_places=6)] = Decimal(0)
    pack: Annotated[Decimal, Field(ge=0, le=10**6, allow_inf_nan=False, decimal_places=6)] = Decimal(0)


def plain_part(text: str) -> str:
    """A part as all lists of a shop mean it: “2.5 mm² red” is “2.5 mm2 red”."""
    return " ".join(text.lower().replace("mm²", "mm2").split())
