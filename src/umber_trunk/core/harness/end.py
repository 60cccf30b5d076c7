"""An end of a harness: what sits there, its cavities, what joins them inside, how it was found before a repair."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field, model_validator

from umber_trunk.core.fields import (
    Allowance,
    Amps,
    Frozen,
    Id,
    Label,
    Metres,
    Millimetres,
    Ohms,
    Text,
)
from umber_trunk.core.harness.way import (
    Join,
)


class EndKind(StrEnum):
    """What sits at an end of the harness."""

    DEVICE = "device"
    BOX = "box"
    STUD = "stud"
    CONNECTOR = "connector"
    SPLICE = "splice"
    BAR = "bar"
    SWITCH = "switch"
    RELAY = "relay"
    CONVERTER = "converter"


class LinkKind(StrEnum):
    """What joins two cavities inside one end."""

    FUSE = "fuse"
    SWITCH = "switch"
    COUPLER = "coupler"
    FRAME = "frame"


class Cavity(Frozen):
    """One place for a wire at an end: contact, stud or clamp, with its joint resistance and rating. `label` is its
    place on the housing's face where that isn't its id; `row` and `column` where it is found in a terminal block. A
    `contact` that begins with "taped" says that what arrives, a screen, is cut back there and not landed."""

    id: Id
    contact: Text = ""
    joint_ohm: Ohms = 0.0
    rating_a: Amps | None = None
    housing: Text = ""
    label: Label = ""
    row: Label = ""
    column: Label = ""


class Link(Frozen):
    """A fuse, switch or coupler between two cavities of the same end; style says which kind of fuse, in words."""

    id: Id
    kind: LinkKind
    a: Id
    b: Id
    style: Text = ""
    resistance_ohm: Ohms = 0.0
    rating_a: Amps | None = None


class Housing(Frozen):
    """A connector body; form is plug or receptacle, gender that of its contacts. `part` is its id in the catalogue,
    `other` that of the half it plugs into; `blanks` are the labels of the cavities closed by blanking plugs, None while
    nobody has said."""

    id: Id
    name: Text = ""
    form: Text = "plug"
    contacts: Text = "socket"
    sealed: bool = False
    part: Id | None = None
    other: Id | None = None
    blanks: tuple[Label, ...] | None = None


class FoundPin(Frozen):
    """What an old connector had in one cavity: what it was for, by function, since colours of two makers don't
    agree."""

    label: Label
    function: Text = ""
    colour: Label = ""
    stripe: Label = ""


class Inspection(Frozen):
    """An end looked over before a repair: state of each thing to check ("ok", "replace"), what was in which cavity,
    gender and form of what is there, and how much wire is left to cut back."""

    states: tuple[tuple[Label, Annotated[str, Field(pattern="^(ok|replace)$")]], ...] = ()
    found: tuple[FoundPin, ...] = ()
    form: Label = ""
    contacts: Label = ""
    left_m: Metres | None = None


class End(Frozen):
    """A device, box, stud, bar, connector, splice, switch, relay or converter. `bridged` lists cavities joined inside
    it; a `frame` end is bolted to the frame, which has frame_ohm from there to all other frame ends. `stud_mm` is the
    thread lugs go on, `room_mm` the space behind it; `mates` is the end of this harness it plugs into. A
    splice has its `join`; slack_m is the loop left at this end. `cabinet` and `block` are where a terminal block is
    found. `device` is what the shop knows of the thing that is plugged in there, copied into the harness. `ways` is how
    many fuses a box has room for, None where nobody said: it has one more whenever one is wanted."""

    id: Id
    name: Text
    kind: EndKind = EndKind.DEVICE
    point: Id | None = None
    zone: Id | None = None
    cavities: tuple[Cavity, ...] = ()
    housings: tuple[Housing, ...] = ()
    bridged: tuple[tuple[Id, ...], ...] = ()
    links: tuple[Link, ...] = ()
    frame: bool = False
    frame_ohm: Ohms = 0.0
    stud_mm: Millimetres = 0.0
    room_mm: Millimetres = 0.0
    mates: Id | None = None
    inspection: Inspection | None = None
    join: Join | None = None
    slack_m: Allowance = 0.0
    cabinet: Text = ""
    block: Text = ""
    device: Id | None = None
    ways: Annotated[int, Field(ge=1, le=200)] | None = None

    @model_validator(mode="after")
    def _unique(self) -> End:
        refuse_twice(f"end {self.id}: cavity", [c.id for c in self.cavities])
        refuse_twice(f"end {self.id}: link", [link.id for link in self.links])
        return self


def refuse_twice(where: str, ids: list[str]) -> None:
    """ValueError where an id occurs twice."""
    if len(set(ids)) != len(ids):
        seen: set[str] = set()
        twice = next(one for one in ids if one in seen or seen.add(one))  # type: ignore[func-returns-value]
        raise ValueError(f"{where}: the id “{twice}” occurs twice")
