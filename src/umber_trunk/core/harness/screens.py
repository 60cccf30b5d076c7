"""Screens of cables: which wire stands for each, where it lands, where it is cut back and taped."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.harness.index import Index
from umber_trunk.core.harness.model import CableKind, Pin, Wire

TAPED = "taped"
"""How the note on a cavity begins where a screen is cut back and taped, not landed."""


@dataclass(frozen=True)
class Screen:
    """A cable's screen: its wire, the ends it lands at, and those where it is taped."""

    cable: str
    wire: str
    landed: tuple[str, ...]
    taped: tuple[str, ...]


def screens_of(index: Index) -> dict[str, Screen]:
    """Cable → its screen, where that is a wire of the harness: a core of no mark, or marked as such."""
    cables = {cable.id: cable for cable in index.design.cables}
    found = {}
    for wire in index.design.wires if cables else ():
        cable = cables.get(wire.cable or "")
        if cable is not None and is_screen(wire, cable.kind):
            pins = [pin for pin in (wire.start, wire.finish) if pin.end in index.ends]
            taped = tuple(pin.end for pin in pins if is_taped(index, pin))
            found[cable.id] = Screen(cable.id, wire.id, tuple(pin.end for pin in pins if pin.end not in taped), taped)
    return found


def is_screen(wire: Wire, kind: CableKind) -> bool:
    """Whether a wire stands for its cable's screen."""
    mark = (wire.core or wire.name).lower()
    return wire.signal and (mark in ("drain", "screen", "shield") or (kind is CableKind.SCREENED and not wire.core))


def is_taped(index: Index, pin: Pin) -> bool:
    """Whether a place says that what arrives there is cut back and taped."""
    end = index.ends.get(pin.end)
    return end is not None and any(c.id == pin.cavity and c.contact.lower().startswith(TAPED) for c in end.cavities)
