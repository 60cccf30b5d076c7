"""The harness as frozen models with a published JSON schema (docs/schema/harness.schema.json).

Lengths in m, temperatures in °C, everything else SI. A design may be wrong in the builder's sense
(open ends, loops, a load nobody feeds): that is a finding, never a validation error. Validation only
refuses what has no meaning: NaN, negative lengths, ids that occur twice, figures no harness has, beyond
which arithmetic itself would fail.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

from pydantic import Field, field_validator, model_validator

from umber_trunk.core.catalog.parts import Part
from umber_trunk.core.fields import (
    Amps,
    Celsius,
    Frozen,
    Id,
    Label,
    Metres,
    Millimetres,
    Ohms,
    Percent,
    Seconds,
    Share,
    Text,
    Volts,
    VoltsLost,
    between,
)
from umber_trunk.core.harness.device import Device
from umber_trunk.core.harness.end import End, refuse_twice
from umber_trunk.core.harness.formats import FORMAT_VERSION, brought_up
from umber_trunk.core.harness.option import Option, Variant
from umber_trunk.core.harness.price import Price
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Alike, Bend, Comb, Cover, Lead, Measure, Slack


class LoadKind(StrEnum):
    """How a load answers a falling voltage."""

    CURRENT = "current"
    POWER = "power"
    RESISTANCE = "resistance"


class Zone(Frozen):
    """A place with its own air: ambient, wet, shaking, oily, sunny, flexing, hot metal near. enclosed: wires run in
    conduit or a closed duct; sun_w_m2 falls on the jackets; altitude thins the air."""

    id: Id
    name: Text
    ambient_c: Celsius = 30.0
    wet: bool = False
    vibration: bool = False
    oil: bool = False
    uv: bool = False
    flexing: bool = False
    hot_metal: bool = False
    air_m_s: Annotated[float, between(0, 100)] = 0.0
    enclosed: bool = False
    sun_w_m2: Annotated[float, Field(ge=0, le=1400, allow_inf_nan=False)] = 0.0
    altitude_m: Annotated[float, Field(ge=-500, le=9000, allow_inf_nan=False)] = 0.0


class Point(Frozen):
    """A place on the tree. side and lean are the builder's wish for the picture only."""

    id: Id
    name: Text = ""
    side: Annotated[int, Field(ge=-1, le=1)] = 0
    lean: Annotated[float, between(-1e4, 1e4)] = 0.0


class Segment(Frozen):
    """A stretch of trunk or branch between two points; coiled_layers: left on a reel, so many layers deep. `corners`:
    measured from corner to corner, not along its bends. lay_mm: its wires are twisted together, one turn in so much; 0
    for none. turn_deg is the builder's wish for the board: the angle to the limb it leaves, + to the left."""

    id: Id
    a: Id
    b: Id
    measure: Measure
    zone: Id | None = None
    sleeve_mm: Millimetres = 0.0
    coiled_layers: Annotated[int, Field(ge=0, le=4)] = 0
    corners: bool = False
    bends: tuple[Bend, ...] = ()
    slack: tuple[Slack, ...] = ()
    lay_mm: Millimetres = 0.0
    covers: tuple[Cover, ...] = ()
    turn_deg: Annotated[float, between(-180, 180)] | None = None


class Pin(Frozen):
    """A cavity of an end: what a wire or load is joined to."""

    end: Id
    cavity: Id

    def __str__(self) -> str:
        return f"{self.end}:{self.cavity}"


class Supply(Frozen):
    """A source: volts at rest, internal resistance, and the pins of its two poles."""

    id: Id
    name: Text
    volts: Volts
    source_ohm: Ohms = 0.0
    plus: Pin
    minus: Pin
    ac: bool = False


class Converter(Frozen):
    """Makes other volts from its input: what it gives out it takes in, over its efficiency; minus is common."""

    id: Id
    name: Text
    plus: Pin
    minus: Pin
    out_plus: Pin
    out_minus: Pin
    volts: Volts
    efficiency: Share = 0.9
    out_ohm: Ohms = 0.0


class Load(Frozen):
    """What has to be fed. value is A, W or Ω by kind; limits are checked at its own pins."""

    id: Id
    name: Text
    plus: Pin
    minus: Pin
    kind: LoadKind = LoadKind.CURRENT
    value: Annotated[float, between(1e-6, 1e6)]
    surge_a: Amps | None = None
    surge_s: Seconds | None = None
    on_s: Seconds | None = None
    period_s: Seconds | None = None
    min_volts: Volts | None = None
    max_drop_percent: Percent | None = None
    max_drop_v: VoltsLost | None = None
    power_factor: Share = 1.0


class CableKind(StrEnum):
    """How the cores of a cable lie."""

    PAIR = "twisted pair"
    SCREENED = "screened pair"
    MULTICORE = "multicore"


class Cable(Frozen):
    """Wires in one jacket or twisted together; lay_mm is the length of one turn, 0 for none; `part` its id in the
    catalogue."""

    id: Id
    name: Text = ""
    kind: CableKind = CableKind.PAIR
    lay_mm: Millimetres = 0.0
    part: Id | None = None


class Fitting(Frozen):
    """What is on one end of a wire: the contact, lug, splice or nothing but its strands (`part`), and what is threaded
    on. None means that nobody has chosen; clock_deg is the angle a stiff lead's lug must stand at, seen along the wire
    from its start. `locked` keeps it from the proposals. `remakes` None: as many as the project allows."""

    part: Id | None = None
    seal: Id | None = None
    ferrule: Id | None = None
    shrink: Id | None = None
    boot: Id | None = None
    clock_deg: Annotated[float, between(-360, 360)] | None = None
    folded: bool = False
    locked: bool = False
    remakes: Annotated[int, Field(ge=0, le=20)] | None = None


class Case(Frozen):
    """Which loads run together; `loads` None means all. ambient_c, if given, replaces every zone's."""

    id: Id
    name: Text
    loads: tuple[Id, ...] | None = None
    ambient_c: Celsius | None = None


class Wire(Frozen):
    """One wire from pin to pin. size None means nobody has chosen yet; metal, make and jacket None
    mean the project's. stated_m is the length on an imported list, used until the wire is laid; listed_size is the
    size that list gave. A `signal` wire carries no load to size it by: screen, drain, sense or spare. `core` is its
    mark in its cable, `pair` the pair it belongs to there; `spare`: it serves nothing yet, `bad`: it was found faulty
    and nothing may use it. `via` are segments its way has to take; `lead` where it is a short stiff one."""

    id: Id
    start: Pin
    finish: Pin
    name: Text = ""
    circuit: Text = ""
    size: Label | None = None
    locked: bool = False
    parallel: Annotated[int, Field(ge=1, le=12)] = 1
    metal: Id | None = None
    make: Id | None = None
    jacket: Id | None = None
    colour: Label = ""
    stripe: Label = ""
    stated_m: Metres | None = None
    cable: Id | None = None
    signal: bool = False
    listed_size: Label | None = None
    core: Label = ""
    pair: Label = ""
    spare: bool = False
    bad: bool = False
    at_start: Fitting | None = None
    at_finish: Fitting | None = None
    via: tuple[Id, ...] = ()
    lead: Lead | None = None

    @field_validator("size", "listed_size", mode="before")
    @classmethod
    def _nobody_chose(cls, size: Any) -> Any:
        """A size of no letters, as other programs write it, is none: it would be taken for the smallest."""
        return None if size == "" else size


class Decision(Frozen):
    """A wire made of something else than was planned, because the shelf had nothing better: what it `was`, who decided,
    why. The wire itself has the size and colour it is made of."""

    id: Id
    wire: Id
    was: Text
    now: Text
    who: Text
    why: Text = ""


class Loop(Frozen):
    """A 4–20 mA loop: its `load` is the instrument, drawing the loop's current; `need_v` are the volts it needs to
    work, `barrier_ohm` and `receiver_ohm` what is in the loop beside the harness."""

    id: Id
    name: Text
    load: Id
    need_v: Volts = 10.5
    barrier_ohm: Ohms = 0.0
    receiver_ohm: Ohms = 250.0


TABLES = (
    "zones",
    "points",
    "segments",
    "ends",
    "supplies",
    "loads",
    "cases",
    "wires",
    "converters",
    "cables",
    "parts",
    "combs",
    "sets",
    "decisions",
    "loops",
    "options",
    "variants",
    "devices",
    "prices",
)
"""Names of a design's tables of parts."""


class Design(Frozen):
    """One harness, whole."""

    format: int = FORMAT_VERSION
    project: Project = Project()
    zones: tuple[Zone, ...] = ()
    points: tuple[Point, ...] = ()
    segments: tuple[Segment, ...] = ()
    ends: tuple[End, ...] = ()
    supplies: tuple[Supply, ...] = ()
    loads: tuple[Load, ...] = ()
    cases: tuple[Case, ...] = ()
    wires: tuple[Wire, ...] = ()
    converters: tuple[Converter, ...] = ()
    cables: tuple[Cable, ...] = ()
    parts: tuple[Part, ...] = ()
    combs: tuple[Comb, ...] = ()
    sets: tuple[Alike, ...] = ()
    decisions: tuple[Decision, ...] = ()
    loops: tuple[Loop, ...] = ()
    options: tuple[Option, ...] = ()
    variants: tuple[Variant, ...] = ()
    devices: tuple[Device, ...] = ()
    prices: tuple[Price, ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _brought_up(cls, data: Any) -> Any:
        return brought_up(data) if isinstance(data, dict) else data

    @model_validator(mode="after")
    def _unique(self) -> Design:
        for field in TABLES:
            refuse_twice(field, [part.id for part in getattr(self, field)])
        return self
