"""Gauges on the bench, by plain words over TCP or a serial line, by SCPI over PyVISA, and the simulated press that
ships.

A keyboard wedge needs no address: it types.
"""

from __future__ import annotations

import math

from umber_trunk.core.errors import InputError, UmberError, clipped
from umber_trunk.core.make.measuring import KINDS, read_figure
from umber_trunk.core.make.press import Press
from umber_trunk.core.text import pictured
from umber_trunk.store.device import Device, UnpluggedError
from umber_trunk.store.files import StoreError
from umber_trunk.store.lines import LineServer, LineTerminal

WORDS = {"height": ("HEIGHT?", "MEAS:LENG?", "m"), "width": ("WIDTH?", "MEAS:LENG?", "m"), "pull": ("PULL?", "MEAS:FORC?", "N"), "torque": ("TORQUE?", "MEAS:TORQ?", "N·m"), "mass": ("MASS?", "MEAS:MASS?", "kg")}  # fmt: skip
"""Kind of reading → the line that asks for it, in plain words and in SCPI, and the base unit SCPI answers in."""


MOST = {"height": 200.0, "width": 200.0, "pull": 50_000.0, "torque": 1000.0, "mass": 500_000.0}
"""The most an instrument of the kind can show, in the unit that the kind is said in."""


def ask_gauge(address: str, kind: str) -> str:
    """One reading as the gauge says it, with its unit. StoreError where the gauge can't be reached, says nothing in
    time, or what it says is no reading of this kind; InputError for an address that is none."""
    if kind not in WORDS:
        raise InputError.of("store.nothing-gauge-is-asked", kind=kind, known=", ".join(WORDS))
    plain, scpi, unit = WORDS[kind]
    visa = address.startswith("visa:")
    said = _asked(address, scpi if visa else plain)
    text = f"{said} {unit}" if visa else said
    _checked(text, kind, address)
    return text


def _asked(address: str, line: str) -> str:
    """The answer to a line; where the gauge was unplugged in the middle of it, it is asked once more."""
    with Device(address) as gauge:
        try:
            return gauge.ask(line)
        except UnpluggedError:
            pass
    with Device(address) as gauge:
        return gauge.ask(line)


def _checked(text: str, kind: str, address: str) -> None:
    """That what it says is a figure of its kind, within what such a gauge can show."""
    unit = KINDS[kind][1]
    try:
        value = read_figure(kind, text, decimal="point")
    except UmberError:
        value = math.inf
    if not value <= MOST[kind]:
        raise StoreError.of(
            "store.gauge-gave-no-reading",
            address=address,
            kind=kind,
            text=clipped(pictured(text)),
            most=MOST[kind],
            unit=unit,
        )


def tell_gauge(address: str, line: str) -> str:
    """Says a line to a gauge, such as CRIMP to the simulated press, and gives what it answers."""
    with Device(address) as gauge:
        return gauge.ask(line)


class PressServer(LineServer):
    """The simulated press, listening on a port of this machine (0: any free one) until closed."""

    def __init__(self, press: Press, port: int = 0) -> None:
        super().__init__(press.answer, port, "press")


class PressTerminal(LineTerminal):
    """The simulated press on a pseudo-terminal, as a serial gauge would be."""

    def __init__(self, press: Press) -> None:
        super().__init__(press.answer)
