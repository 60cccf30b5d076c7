"""Devices: known from an end of a harness, compared pin by pin, and held against a harness before it is plugged in.

What is said to agree was measured or traced on both sides; a pin that nobody measured is named, never taken for alike.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from umber_trunk.core.ends.mate import Agreement, agreement
from umber_trunk.core.ends.meaning import BodyHalf, Half, Meaning, half_of, half_of_pins
from umber_trunk.core.errors import InputError
from umber_trunk.core.harness.device import Device, DeviceConnector, DevicePin
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import NOTHING, Message, say

VOLTS_ALIKE, LEAST_VOLTS = 0.05, 0.5
"""Volts of two pins are alike within this share, and within so many volts."""
POLE_WORDS = {"+": "plus", "-": "minus", "earth": "earth", "shield": "shield"}
_POLES = {"+": "+", "−": "-", "-": "-"}


def device_of_end(results: Results, end_id: str, name: str, who: str = "", when: str = "") -> Device:
    """What a harness says of the thing at one of its ends: pins traced through it, with the most current it brings
    there. Nobody measured them. InputError where there is no such end, or nothing leads to it."""
    design = results.design
    end = next((one for one in design.ends if one.id == end_id), None)
    if end is None:
        raise InputError.of("shop.no-end-in-harness", end_id=end_id[:80], project=design.project.name)
    amps = currents_at(results, end_id)
    connectors = []
    for body in half_of(design, end_id, results.shelf).bodies:
        pins = tuple(
            DevicePin(
                label=label,
                function=meaning.says[:400],
                pole=_pole(meaning),
                volts=_volts(meaning),
                most_a=round(amps[label], 3) if amps.get(label, 0) >= 1e-3 else None,
            )
            for label, meaning in body.cavities.items()
        )
        part = body.part
        connectors.append(
            DeviceConnector(
                id=(body.id or "1")[:20],
                part=part.id if part else None,
                form=part.form if part else "",
                contacts=part.contacts if part else "",
                pins=pins,
            )
        )
    if not any(one.pins for one in connectors):
        raise InputError.of("shop.no-wire-leads", end_id=end_id)
    said = say("device.traced", project=design.project.name, end=end.name)
    return Device(id=name, name=end.name, connectors=tuple(connectors), who=who, when=when, source=said[:400])


def device_of_map(learnt: object, name: str, who: str = "", when: str = "") -> Device:
    """A device, or a cable with one, of which its map alone is known: connectors A and B, each pin with the net it is
    on, measured by the readings of the map. `learnt` is the answer of `umber learn --json`; InputError where it is
    none."""
    nets = learnt.get("nets") if isinstance(learnt, dict) else None
    alone = learnt.get("alone", []) if isinstance(learnt, dict) else []
    if not isinstance(nets, list) or not all(isinstance(net, list) for net in nets) or not isinstance(alone, list):
        raise InputError.of("shop.it-is-no-answer-of-umber")
    pins: dict[str, list[DevicePin]] = {}
    for number, net in enumerate([*nets, *([place] for place in alone)], 1):
        for place in net:
            side, colon, label = str(place).partition(":")
            if not colon or not label:
                raise InputError.of("shop.no-place-of-map", place=str(place)[:40])
            others = ", ".join(str(other) for other in net if other != place)
            told = f"joined with {others}" if others else "joined with nothing"
            pin = DevicePin(label=label[:20], function=f"net {number}: {told}"[:400], measured="learnt by readings")
            pins.setdefault(side[:20], []).append(pin)
    if not pins:
        raise InputError.of("shop.map-has-no-pin")
    connectors = tuple(DeviceConnector(id=side, pins=tuple(mine)) for side, mine in sorted(pins.items()))
    return Device(id=name, name=name, connectors=connectors, who=who, when=when, source="learnt by readings")


def _pole(meaning: Meaning) -> str:
    if meaning.kind in ("earth", "shield", "signal"):
        return str(meaning.kind)
    return _POLES.get(meaning.pole, "")


def _volts(meaning: Meaning) -> float | None:
    volts = {source.volts for source, pole in meaning.sources if pole == "+"}
    return next(iter(volts)) if len(volts) == 1 and meaning.pole == "+" else None


def currents_at(results: Results, end_id: str) -> dict[str, float]:
    """The most current in each cavity of an end, in its worst case [A], by the cavity's label."""
    end = next(one for one in results.design.ends if one.id == end_id)
    label = {cavity.id: cavity.label or cavity.id for cavity in end.cavities}
    plant, found = results.plant, dict[str, float]()
    for case in results.figures.solution.cases:
        through = np.abs(case.wire_a)
        here: dict[str, float] = {}
        for wire in results.design.wires:
            row = plant.row.get(wire.id)
            for pin in (wire.start, wire.finish):
                if pin.end == end_id and row is not None and np.isfinite(through[row]):
                    key = label.get(pin.cavity, pin.cavity)
                    here[key] = here.get(key, 0.0) + float(through[row])
        for key, amps in here.items():
            found[key] = max(found.get(key, 0.0), amps)
    return found


@dataclass(frozen=True)
class PinDiffers:
    """One pin of two devices: what is wrong, in words; `open` where it only can't be told."""

    connector: str
    label: str
    mine: str
    theirs: str
    what: Message
    open: bool = False


@dataclass(frozen=True)
class DevicesCompared:
    """Two devices pin by pin: what differs, and what can't be told; the `same` are the other pins."""

    pins: int
    rows: tuple[PinDiffers, ...]
    same: tuple[PinDiffers, ...] = ()

    @property
    def wrong(self) -> tuple[PinDiffers, ...]:
        """What differs for certain."""
        return tuple(row for row in self.rows if not row.open)

    @property
    def alike(self) -> bool | None:
        """Yes, no, or None where something wasn't measured."""
        return False if self.wrong else None if self.rows or not self.pins else True

    @property
    def words(self) -> Message:
        """The answer in a line, with what it rests on."""
        if self.wrong:
            return Message.of("device.differ", many=len(self.wrong), pins=self.pins)
        if not self.pins:
            return Message.of("device.nothing-known")
        if self.rows:
            return Message.of("device.untold", many=len(self.rows), pins=self.pins)
        return Message.of("device.alike", pins=self.pins)


def compared(mine: Device, theirs: Device) -> DevicesCompared:
    """Two devices that look alike, pin by pin: connectors by their name, or in turn where no name is shared."""
    rows: list[PinDiffers] = []
    same: list[PinDiffers] = []
    names = [one.id for one in mine.connectors]
    other = {one.id: one for one in theirs.connectors}
    if not set(names) & set(other) and len(names) == len(other):
        other = dict(zip(names, other.values(), strict=True))
    for connector in mine.connectors:
        twin = other.pop(connector.id, None)
        rows += _of_bodies(connector, twin)
        a = {pin.label: pin for pin in connector.pins}
        b = {pin.label: pin for pin in twin.pins} if twin is not None else {}
        for label in dict.fromkeys([*a, *b]):
            said = _pins(a.get(label), b.get(label))
            (same if said is None else rows).append(
                PinDiffers(connector.id, label, _told(a.get(label)), _told(b.get(label)), *(said or (NOTHING,)))
            )
    rows += [PinDiffers(name, "", "", name, Message.of("device.only-second-connector")) for name in other]
    pins = len(same) + sum(bool(row.label) for row in rows)
    return DevicesCompared(pins, tuple(rows), tuple(same))


def _of_bodies(mine: DeviceConnector, theirs: DeviceConnector | None) -> list[PinDiffers]:
    if theirs is None:
        return [PinDiffers(mine.id, "", mine.id, "", Message.of("device.only-first-connector"))]
    found = []
    for what in ("part", "form", "contacts"):
        a, b = getattr(mine, what) or "", getattr(theirs, what) or ""
        if a and b and a != b:
            found.append(PinDiffers(mine.id, "", a, b, Message.of(f"device.another-{what}")))
    return found


def _pins(a: DevicePin | None, b: DevicePin | None) -> tuple[Message, bool] | None:
    """(what differs, whether it only can't be told) of a pin; None where it is alike, measured on both."""
    one = a or b
    if a is None or b is None:
        assert one is not None
        if one.pole == "none":
            return Message.of("device.unlisted-nothing", second=b is not None), True
        return Message.of("device.only-one-has-pin", second=b is not None), False
    if a.pole and b.pole and a.pole != b.pole:
        swapped = {a.pole, b.pole} == {"+", "-"}
        return (
            Message.of("device.plus-on-minus") if swapped else Message.of("device.pole-on", a=a.pole, b=b.pole)
        ), False
    if a.volts is not None and b.volts is not None and _apart(a.volts, b.volts):
        return Message.of("device.volts-on", a_v=a.volts, b_v=b.volts), False
    if a.most_a is not None and b.most_a is not None and abs(a.most_a - b.most_a) > 0.1 * max(a.most_a, b.most_a):
        return Message.of("device.amps-on", a_a=a.most_a, b_a=b.most_a), False
    if not a.measured or not b.measured:
        return Message.of("device.nobody-measured", first=not a.measured, second=not b.measured), True
    if a.pole != b.pole or (a.volts is None) != (b.volts is None):
        return Message.of("device.stands-for-one"), True
    if a.pole in ("", "signal") and _plain(a.function) != _plain(b.function):
        return Message.of("device.another-function"), not (a.function and b.function)
    return None


def _apart(one: float, other: float) -> bool:
    return abs(one - other) > max(LEAST_VOLTS, VOLTS_ALIKE * max(abs(one), abs(other)))


def _plain(text: str) -> str:
    return " ".join(text.lower().split())


def _told(pin: DevicePin | None) -> str:
    if pin is None:
        return "–"
    volts = "" if pin.volts is None else f"{pin.volts:g} V"
    most = "" if pin.most_a is None else f"{pin.most_a:g} A"
    return ", ".join(part for part in (pin.pole, volts, most, pin.function) if part) or "?"


def half_of_device(device: Device, connector: str = "") -> Half:
    """A device as the half that the harness's half is held against: pins nobody measured say nothing for certain."""
    chosen = [one for one in device.connectors if not connector or one.id == connector]
    if not chosen:
        raise InputError.of("shop.no-connector", device=device.name, connector=connector[:20])
    bodies = []
    for one in chosen:
        pins = [(pin.label, _words(pin), pin.volts) for pin in one.pins if pin.pole != "none"]
        cavities: Mapping[str, Meaning] = half_of_pins(device.name, pins).bodies[0].cavities
        bodies.append(BodyHalf(one.id, None, "", cavities))
    return Half(device.id, device.name, 0, tuple(bodies))


def _words(pin: DevicePin) -> str:
    word = POLE_WORDS.get(pin.pole, "")
    return f"{pin.function} {word}".strip() if word and word not in pin.function.lower().split() else pin.function


@dataclass(frozen=True)
class Plugged:
    """A harness's end held against a device: cavity by cavity, and currents over what a pin bears. `unmeasured` pins
    rest on somebody's word."""

    agreement: Agreement
    over: tuple[tuple[str, float, float], ...]
    unmeasured: tuple[str, ...]

    @property
    def fits(self) -> bool | None:
        """Yes, no, or None where it can't be told: a yes asks that every pin was measured."""
        if self.over or self.agreement.agrees is False:
            return False
        return None if self.unmeasured or self.agreement.agrees is None else True

    @property
    def words(self) -> Message:
        """The answer in a line, with what it rests on."""
        if self.over or self.agreement.wrong:
            return Message.of("device.dont-agree", many=len(self.over) + len(self.agreement.wrong))
        if self.agreement.agrees is None:
            return self.agreement.words
        if self.unmeasured:
            return Message.of("device.unmeasured", pins=", ".join(self.unmeasured[:8]))
        return self.agreement.words


def plugged(results: Results, end_id: str, device: Device, connector: str = "") -> Plugged:
    """Whether the harness's end may be plugged into the device, replacing the one it was made for. InputError where
    there is no such end or connector."""
    if all(end.id != end_id for end in results.design.ends):
        raise InputError.of("shop.no-end-in-harness", end_id=end_id[:80], project=results.design.project.name)
    told = agreement(half_of(results.design, end_id, results.shelf), half_of_device(device, connector), replaces=True)
    amps = currents_at(results, end_id)
    chosen = [one for one in device.connectors if not connector or one.id == connector]
    over = tuple(
        (pin.label, amps[pin.label], pin.most_a)
        for one in chosen
        for pin in one.pins
        if pin.most_a is not None and amps.get(pin.label, 0.0) > pin.most_a * 1.001
    )
    used = set(amps)
    open_ = tuple(
        f"{one.id}:{pin.label}" for one in chosen for pin in one.pins if not pin.measured and pin.label in used
    )
    return Plugged(told, over, open_)


def copied_in(design: Design, end_id: str, device: Device) -> Design:
    """The harness with the device copied into it, named at its end. InputError where there is no such end."""
    from umber_trunk.core.harness.edits import change, put

    end = next((one for one in design.ends if one.id == end_id), None)
    if end is None:
        raise InputError.of("shop.no-end-in-harness", end_id=end_id[:80], project=design.project.name)
    return put(put(design, "devices", device), "ends", change(end, device=device.id))
