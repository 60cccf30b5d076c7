"""The harness as frozen models with a published JSON schema (docs/schema/harness.schema.json).

Lengths in m, temperatures in °C, everything else SI. A design may be wrong in the builder's sense
(open ends, loops, a load nobody feeds): that is a finding, never a validation error. Validation only
refuses what has no meaning: NaN, negative lengths, ids that occur twice, figures no harness has, beyond
which arithmetic itself would fail.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

from pydantic import Field, model_validator

from umber_trunk.core.catalog.parts import Part
from umber_trunk.core.fields import (
    Allowance,
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
from umber_trunk.core.harness.formats import FORMAT_VERSION, brought_up
from umber_trunk.core.harness.option import Option, Variant
from umber_trunk.core.harness.price import Price
from umber_trunk.core.harness.way import (
    Alike,
    Bend,
    Board,
    Comb,
    Cover,
    FoundLength,
    Join,
    Lead,
    Learned,
    Measure,
    Prices,
    Slack,
)
from umber_trunk.core.usual import USUAL_DROP_PERCENT


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


class LoadKind(StrEnum):
    """How a load answers a falling voltage."""

    CURRENT = "current"
    POWER = "power"
    RESISTANCE = "resistance"


class LinkKind(StrEnum):
    """What joins two cavities inside one end."""

    FUSE = "fuse"
    SWITCH = "switch"
    COUPLER = "coupler"
    FRAME = "frame"


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
        _refuse_twice(f"end {self.id}: cavity", [c.id for c in self.cavities])
        _refuse_twice(f"end {self.id}: link", [link.id for link in self.links])
        return self


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


class Practice(Frozen):
    """Where good builders disagree: which school this shop keeps; core/ends/practice.py has both sides' reasons."""

    solder: str = Field(default="crimp", pattern="^(crimp|flow)$")
    instead: str = Field(default="never", pattern="^(never|sleeved)$")
    lug_tool: str = Field(default="hex", pattern="^(hex|indent)$")
    twist: str = Field(default="clamps", pattern="^(clamps|always|never)$")
    wings: str = Field(default="contact", pattern="^(contact|remove)$")
    thin: str = Field(default="contact", pattern="^(contact|fold)$")
    batch: str = Field(default="operation", pattern="^(operation|wire)$")
    looks: str = Field(default="lamp", pattern="^(lamp|each)$")
    drain: str = Field(default="reach", pattern="^(reach|first|last)$")
    split: str = Field(default="barrel", pattern="^(barrel|solder)$")
    sharing: str = Field(default="fits", pattern="^(fits|never)$")
    tinned: str = Field(default="sealed", pattern="^(sealed|always)$")
    ferrules: str = Field(default="fine", pattern="^(fine|always|never)$")
    sleeve_end: str = Field(default="shrink", pattern="^(shrink|melted)$")
    least_tools: Annotated[float, between(0, 100)] = 3.0
    least_parts: Annotated[float, between(0, 100)] = 1.0
    solder_most_a: Annotated[float, between(0, 1000)] = 5.0


class Project(Frozen):
    """Defaults and house rules; every figure here can be changed by the shop."""

    name: Text = "Untitled harness"
    series: str = Field(default="metric", pattern="^(metric|awg)$")
    metal: Id = "copper"
    make: Id = "general"
    jacket: Id = "pvc"
    smallest_mm2: Annotated[float, between(0, 1000)] = 0.5
    max_drop_percent: Percent = USUAL_DROP_PERCENT
    ambient_c: Celsius = 30.0
    source_end: Id | None = None
    return_end: Id | None = None
    strip_m: Allowance = 0.008
    entry_m: Allowance = 0.05
    remake_m: Allowance = 0.015
    remakes: Annotated[int, Field(ge=0, le=20)] = 1
    twist_factor: Annotated[float, Field(ge=1, le=2)] = 1.0
    chance_short: Annotated[float, Field(ge=1e-6, lt=0.5, allow_inf_nan=False)] = 0.02
    joint_ohm: Ohms = 0.0
    match_pairs: bool = True
    frame_ohm: Ohms = 0.0
    shelf: tuple[Label, ...] = ()
    decimal: str = Field(default="", pattern="^(|comma|point)$")
    fuse_rule: str = Field(default="curve", pattern="^(curve|iec|share150)$")
    fuse_allowance_k: Annotated[float, Field(ge=0, le=30, allow_inf_nan=False)] = 0.0
    motor_efficiency: Share = 0.7
    paper: str = Field(default="a4", pattern="^(a4|letter)$")
    landscape: bool = True
    units: str = Field(default="metric", pattern="^(metric|inch|both)$")
    practice: Practice = Practice()
    cut_step_m: Annotated[float, between(0.0005, 1)] = 0.005
    cutting_m: Allowance = 0.002
    prices: Prices | None = None
    learned: tuple[Learned, ...] = ()
    history: Annotated[tuple[FoundLength, ...], Field(max_length=20_000)] = ()
    board: Board = Board()
    bend_times: Annotated[float, between(1, 50)] = 4.0
    insulation_v: Annotated[float, between(0, 1000)] = 0.0
    insulation_ohm: Annotated[float, between(1e3, 1e12)] = 1e6


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
            _refuse_twice(field, [part.id for part in getattr(self, field)])
        return self


def _refuse_twice(where: str, ids: list[str]) -> None:
    if len(set(ids)) != len(ids):
        seen: set[str] = set()
        twice = next(one for one in ids if one in seen or seen.add(one))  # type: ignore[func-returns-value]
        raise ValueError(f"{where}: the id “{twice}” occurs twice")
