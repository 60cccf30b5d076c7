"""The harness as frozen models with a published JSON schema (docs/schema/harness.schema.json).

Lengths in m, temperatures in °C, everything else SI. A design may be wrong in the builder's sense
(open ends, loops, a load nobody feeds): that is a finding, never a validation error. Validation only
refuses what has no meaning: NaN, negative lengths, ids that occur twice.
"""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, model_validator

FORMAT_VERSION = 1

Id = Annotated[str, Field(min_length=1, max_length=80)]
Text = Annotated[str, Field(max_length=400)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
NotNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Celsius = Annotated[float, Field(ge=-60, le=1000, allow_inf_nan=False)]


class Frozen(BaseModel):
    """Base of all parts: immutable, no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Method(StrEnum):
    """How a length was found; each has its usual ±."""

    TAPE = "tape"
    STRING = "string"
    DRAWN = "drawn"
    STATED = "stated"
    GUESS = "guess"


class EndKind(StrEnum):
    """What sits at an end of the harness."""

    DEVICE = "device"
    BOX = "box"
    STUD = "stud"
    CONNECTOR = "connector"
    SPLICE = "splice"


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


class Zone(Frozen):
    """A place with its own air: ambient, wet, shaking, oily, sunny, flexing, hot metal near."""

    id: Id
    name: Text
    ambient_c: Celsius = 30.0
    wet: bool = False
    vibration: bool = False
    oil: bool = False
    uv: bool = False
    flexing: bool = False
    hot_metal: bool = False
    air_m_s: NotNegative = 0.0


class Measure(Frozen):
    """A length as measured: value, method and ± (two standard deviations)."""

    length_m: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]
    method: Method = Method.TAPE
    plus_minus_m: NotNegative = 0.0


class Point(Frozen):
    """A place on the tree. side and lean are the builder's wish for the picture only."""

    id: Id
    name: Text = ""
    side: Annotated[int, Field(ge=-1, le=1)] = 0
    lean: Finite = 0.0


class Segment(Frozen):
    """A stretch of trunk or branch between two points."""

    id: Id
    a: Id
    b: Id
    measure: Measure
    zone: Id | None = None
    sleeve_mm: NotNegative = 0.0


class Cavity(Frozen):
    """One place for a wire at an end: contact, stud or clamp, with its joint resistance and rating."""

    id: Id
    contact: Text = ""
    joint_ohm: NotNegative = 0.0
    rating_a: Positive | None = None
    housing: Text = ""


class Link(Frozen):
    """A fuse, switch or coupler between two cavities of the same end."""

    id: Id
    kind: LinkKind
    a: Id
    b: Id
    resistance_ohm: NotNegative = 0.0
    rating_a: Positive | None = None


class Housing(Frozen):
    """A connector body; form is plug or receptacle, gender that of its contacts."""

    id: Id
    name: Text = ""
    form: Text = "plug"
    contacts: Text = "socket"
    sealed: bool = False


class End(Frozen):
    """A device, box, stud, connector or splice. `bridged` lists cavities joined inside it."""

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
    volts: Annotated[float, Field(gt=0, le=1500, allow_inf_nan=False)]
    source_ohm: NotNegative = 0.0
    plus: Pin
    minus: Pin


class Load(Frozen):
    """What has to be fed. value is A, W or Ω by kind; limits are checked at its own pins."""

    id: Id
    name: Text
    plus: Pin
    minus: Pin
    kind: LoadKind = LoadKind.CURRENT
    value: Positive
    surge_a: Positive | None = None
    surge_s: Positive | None = None
    on_s: Positive | None = None
    period_s: Positive | None = None
    min_volts: Positive | None = None
    max_drop_percent: Annotated[float, Field(gt=0, lt=100)] | None = None
    max_drop_v: Positive | None = None


class Case(Frozen):
    """Which loads run together; `loads` None means all. ambient_c, if given, replaces every zone's."""

    id: Id
    name: Text
    loads: tuple[Id, ...] | None = None
    ambient_c: Celsius | None = None


class Wire(Frozen):
    """One wire from pin to pin. size None means nobody has chosen yet; metal, make and jacket None
    mean the project's. stated_m is the length on an imported list, used until the wire is laid."""

    id: Id
    start: Pin
    finish: Pin
    name: Text = ""
    circuit: Text = ""
    size: Annotated[str, Field(max_length=20)] | None = None
    locked: bool = False
    parallel: Annotated[int, Field(ge=1, le=12)] = 1
    metal: Id | None = None
    make: Id | None = None
    jacket: Id | None = None
    colour: Annotated[str, Field(max_length=20)] = ""
    stripe: Annotated[str, Field(max_length=20)] = ""
    stated_m: NotNegative | None = None


class Project(Frozen):
    """Defaults and house rules; every figure here can be changed by the shop."""

    name: Text = "Untitled harness"
    series: str = Field(default="metric", pattern="^(metric|awg)$")
    metal: Id = "copper"
    make: Id = "general"
    jacket: Id = "pvc"
    smallest_mm2: NotNegative = 0.5
    max_drop_percent: Annotated[float, Field(gt=0, lt=100)] = 5.0
    ambient_c: Celsius = 30.0
    source_end: Id | None = None
    return_end: Id | None = None
    strip_m: NotNegative = 0.008
    entry_m: NotNegative = 0.05
    remake_m: NotNegative = 0.015
    remakes: Annotated[int, Field(ge=0, le=20)] = 1
    twist_factor: Annotated[float, Field(ge=1, le=2)] = 1.0
    chance_short: Annotated[float, Field(gt=0, lt=0.5)] = 0.02
    joint_ohm: NotNegative = 0.0
    match_pairs: bool = True
    shelf: tuple[Annotated[str, Field(max_length=20)], ...] = ()


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

    @model_validator(mode="after")
    def _unique(self) -> Design:
        for field in ("zones", "points", "segments", "ends", "supplies", "loads", "cases", "wires"):
            _refuse_twice(field, [part.id for part in getattr(self, field)])
        return self


def _refuse_twice(where: str, ids: list[str]) -> None:
    if len(set(ids)) != len(ids):
        twice = next(one for one in ids if ids.count(one) > 1)
        raise ValueError(f"{where}: the id “{twice}” occurs twice")
