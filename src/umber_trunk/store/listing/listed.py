"""A wire as a list has it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class ListedWire:
    """One good row, or one core of it. `cable` names the cable whose `core` it is, `pair` what it is twisted with as
    the list says it; `screened` and `twisted` speak of its cable, `is_screen` of the wire itself; `screen` names a
    screen it shares."""

    row: int
    wire: str
    name: str
    circuit: str
    start: tuple[str, str]
    finish: tuple[str, str]
    size: str | None
    parallel: int
    colour: str
    stripe: str
    length_m: float | None
    sheet: str = ""
    cable: str = ""
    core: str = ""
    pair: str = ""
    screened: bool = False
    twisted: bool = False
    is_screen: bool = False
    screen: str = ""
