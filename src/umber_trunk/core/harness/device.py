"""What is known of a thing a harness is plugged into: its connectors and what each of their pins is, who measured it
and when, and what nobody measured. Pins are named as they stand on the half that the harness carries, seen from the
wire side, so that what is typed off a plug in the hand is right.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from umber_trunk.core.fields import Amps, Frozen, Id, Label, Text, between

POLES = ("", "+", "-", "signal", "shield", "earth", "none")
"""What a pin may be; "" while nobody knows, "none" where nothing is there."""


class DevicePin(Frozen):
    """One pin: its `label` on the connector, what it is for in the maker's or the measurer's words, its `pole` at rest,
    `volts` to the common pole, and the most current through it. `measured` with how; "" where nobody did."""

    label: Label
    function: Text = ""
    pole: Annotated[str, Field(pattern=r"^(|\+|-|signal|shield|earth|none)$")] = ""
    volts: Annotated[float, between(-1500, 1500)] | None = None
    most_a: Amps | None = None
    measured: Text = ""


class DeviceConnector(Frozen):
    """One connector of a device: `part` is the half in the catalogue that the harness carries there."""

    id: Label
    part: Id | None = None
    form: Text = ""
    contacts: Text = ""
    pins: tuple[DevicePin, ...] = ()

    @model_validator(mode="after")
    def _unique(self) -> DeviceConnector:
        labels = [pin.label for pin in self.pins]
        if len(set(labels)) < len(labels):
            raise ValueError(f"connector {self.id}: a pin occurs twice")
        return self


class Device(Frozen):
    """A supply unit, a controller, a lamp: known once. `who` measured or copied it, `when` (a day, ISO 8601), `source`
    where it is from."""

    id: Id
    name: Text
    connectors: tuple[DeviceConnector, ...] = ()
    who: Text = ""
    when: Annotated[str, Field(pattern=r"^(|\d{4}-\d{2}-\d{2})$")] = ""
    source: Text = ""
    note: Text = ""

    @model_validator(mode="after")
    def _unique(self) -> Device:
        names = [one.id for one in self.connectors]
        if len(set(names)) < len(names):
            raise ValueError(f"device {self.id}: a connector occurs twice")
        return self

    @property
    def unmeasured(self) -> tuple[str, ...]:
        """The pins that nobody measured, as CONNECTOR:PIN."""
        return tuple(f"{one.id}:{pin.label}" for one in self.connectors for pin in one.pins if not pin.measured)
