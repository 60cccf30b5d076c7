"""Parts that ends are made of, as data with a published JSON schema (docs/schema/catalogue.schema.json).

Every dimension is in mm, areas in mm², forces in N, torques in N·m. Places on a face are seen from the wire side,
x to the right and y up from the face's centre. A data sheet's figures go in as they stand; what it doesn't give
is left out, and what is left out is not judged.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import ConfigDict, Field, TypeAdapter, field_validator, model_validator

from umber_trunk.core.fields import Amps, Celsius, Frozen, Id, Label, Millimetres, Share, Text, between

Area = Annotated[float, between(0.01, 1000)]
Length = Annotated[float, between(0.01, 10_000)]
Place_mm = Annotated[float, between(-1000, 1000)]
Newton_metres = Annotated[float, between(0.01, 500)]
Milliohms = Annotated[float, between(0, 1000)]
Plating = Literal["tin", "silver", "gold", "nickel", "copper"]


class Between(Frozen):
    """What a part takes: from `low` to `high`, both included."""

    low: Annotated[float, between(0, 10_000)]
    high: Annotated[float, between(0, 10_000)]

    @model_validator(mode="after")
    def _ordered(self) -> Between:
        if self.low > self.high:
            raise ValueError(f"the least, {self.low:g}, is over the most, {self.high:g}")
        return self

    def holds(self, value: float) -> bool:
        """Whether a value lies within, to a part in a million."""
        return self.low * (1 - 1e-6) <= value <= self.high * (1 + 1e-6)


class Base(Frozen):
    """What every part has. `source` says where its figures come from; `pack` is how many, or how many metres, are sold
    together, 0 for any number; `supplier` who sells it."""

    id: Id
    name: Text
    family: Label = ""
    source: Text = ""
    supplier: Text = ""
    pack: Annotated[float, between(0, 1e6)] = 0.0
    price: Annotated[float, between(0, 1e6)] = 0.0
    mass_g: Annotated[float, between(0, 1e6)] = 0.0
    limit_c: Celsius | None = None


class Crimp(Frozen):
    """Height over the wire barrel for one conductor area, and how far it may be off."""

    area_mm2: Area
    height_mm: Length
    plus_minus_mm: Length = 0.05


class Crimped(Base):
    """What is crimped on a conductor: areas it takes, how far to strip, with what it is closed. `crimps` are kept by
    their area."""

    area_mm2: Between
    strip_mm: Length
    tool: Id | None = None
    die: Label = ""
    crimps: tuple[Crimp, ...] = ()
    pull_n: Annotated[float, between(0, 1e5)] | None = None

    @field_validator("crimps")
    @classmethod
    def _by_area(cls, rows: tuple[Crimp, ...]) -> tuple[Crimp, ...]:
        return tuple(sorted(rows, key=lambda row: row.area_mm2))


class Contact(Crimped):
    """A pin, a socket, or one that is both; `size` is that of the cavity it clips into."""

    kind: Literal["contact"] = "contact"
    gender: Literal["pin", "socket", "genderless"]
    size: Label
    insulation_mm: Between | None = None
    barrel: Literal["open", "closed", "solder"] = "open"
    inspection_hole: bool = False
    rated_a: Amps | None = None
    resistance_mohm: Milliohms | None = None
    plating: Plating = "tin"
    depth_mm: Length = 10.0
    extraction: Id | None = None


class Cavity(Frozen):
    """One place on a face: where it is, which contact size it takes, how that is turned, what it is for."""

    label: Label
    x_mm: Place_mm
    y_mm: Place_mm
    size: Label = ""
    turn_deg: Annotated[float, between(-360, 360)] = 0.0
    pair: Label = ""
    role: Label = ""


class Housing(Base):
    """A connector body. `contacts` are what goes into it; with screw or spring clamps `clamp` names them. `wire_mm` is
    what its rear grommet's bores or its gland seal on. `derating` is (share of cavities loaded, share of the rated
    current) as its sheet has it. `mates` are the ids it plugs into; an empty tuple means any of its family with its
    key. `assembly` is how its own parts go together once all wires are in."""

    kind: Literal["housing"] = "housing"
    form: Literal["plug", "receptacle", "genderless"]
    contacts: Literal["pin", "socket", "genderless", "clamp"]
    shape: Literal["rectangular", "round"] = "rectangular"
    width_mm: Length
    height_mm: Length
    cavities: Annotated[tuple[Cavity, ...], Field(min_length=1, max_length=400)]
    key: Label = ""
    keyed: bool = True
    seal: Literal["wire seals", "grommet", "gland", "none"] = "none"
    wire_mm: Between | None = None
    clamp: Id | None = None
    lock: bool = False
    plug: Id | None = None
    mates: tuple[Id, ...] = ()
    derating: tuple[tuple[Share, Share], ...] = ()
    ingress: Label = ""
    depth_mm: Length = 25.0
    bend_mm: Millimetres = 0.0
    assembly: tuple[Text, ...] = ()

    @model_validator(mode="after")
    def _sound(self) -> Housing:
        labels = [cavity.label for cavity in self.cavities]
        if len(set(labels)) < len(labels):
            raise ValueError("a cavity's label occurs twice")
        if self.contacts == "clamp" and self.clamp is None:
            raise ValueError("cavities with clamps need the clamp's id")
        return self


class Seal(Base):
    """A wire seal: the insulation it is tight on, the cavity size it fits."""

    kind: Literal["seal"] = "seal"
    size: Label
    wire_mm: Between
    length_mm: Length = 7.0


class Blank(Base):
    """A blanking plug for an empty cavity."""

    kind: Literal["blanking plug"] = "blanking plug"
    size: Label


class Lug(Crimped):
    """A ring lug: the stud it is for, its tongue's width, the flat that bolts down, its barrel. How it is lined says
    whether shrink or solder is part of it; an adhesive lining is never pierced."""

    kind: Literal["lug"] = "lug"
    stud_mm: Length
    width_mm: Length
    pad_mm: Length
    barrel_mm: Length
    barrel_od_mm: Length
    lining: Literal["bare", "insulated", "adhesive", "solder"] = "bare"
    insulation_mm: Between | None = None
    plating: Plating = "tin"
    rated_a: Amps | None = None


class Splice(Crimped):
    """A butt or parallel barrel; its areas are of all conductors in it together."""

    kind: Literal["splice"] = "splice"
    form: Literal["butt", "parallel"] = "butt"
    barrel_mm: Length = 12.0
    lining: Literal["bare", "insulated", "adhesive", "solder"] = "bare"


class Ferrule(Crimped):
    """A ferrule for a clamp; the collar takes the insulation, of two wires side by side where `twin`. One for a cable's
    `braid` goes on no conductor."""

    kind: Literal["ferrule"] = "ferrule"
    collar_mm: Length
    twin: bool = False
    braid: bool = False


class Clamp(Base):
    """A screw or spring clamp: areas it holds, strip, torque; `fine` strands may go in bare."""

    kind: Literal["clamp"] = "clamp"
    form: Literal["screw", "spring"] = "screw"
    area_mm2: Between
    strip_mm: Length
    torque_nm: Newton_metres | None = None
    rated_a: Amps | None = None
    fine: bool = False
    depth_mm: Length = 10.0


class Block(Base):
    """A row of terminals, found by cabinet, block, row and column."""

    kind: Literal["terminal block"] = "terminal block"
    clamp: Id
    rows: Annotated[int, Field(ge=1, le=20)] = 1
    columns: Annotated[int, Field(ge=1, le=200)] = 1
    pitch_mm: Length = 6.0


class Gland(Base):
    """A gland or backshell clamp: the jacket it seals on, the hole it sits in."""

    kind: Literal["gland"] = "gland"
    jacket_mm: Between
    hole_mm: Length
    length_mm: Length = 20.0


class Boot(Base):
    """A boot that slides over a wire or jacket."""

    kind: Literal["boot"] = "boot"
    wire_mm: Between
    length_mm: Length = 25.0


class Shrink(Base):
    """Heat-shrink: bore as supplied and recovered, wall once recovered, how much shorter it gets, how much of it has to
    lie on what it grips. Sold by length: mass and price are of a metre, as of braid, tube and tape."""

    kind: Literal["shrink"] = "shrink"
    supplied_mm: Length
    recovered_mm: Length
    wall_mm: Length = 0.6
    adhesive: bool = False
    shortens: Annotated[float, between(0, 0.5)] = 0.05
    grip_mm: Length = 10.0

    @model_validator(mode="after")
    def _shrinks(self) -> Shrink:
        if self.recovered_mm >= self.supplied_mm:
            raise ValueError("its recovered bore isn't smaller than the supplied one")
        return self


class Braid(Base):
    """Expanding braid: the bores it takes, its wall, and the bore and strand angle at which its length is sold. An
    angle left out is the one at which the widest bore brings the strands to 75°."""

    kind: Literal["braid"] = "braid"
    bore_mm: Between
    wall_mm: Length = 0.6
    sold_bore_mm: Length | None = None
    sold_angle_deg: Annotated[float, between(5, 80)] | None = None


class Tube(Base):
    """Corrugated tube: what it takes, its outside, the least radius it bends to; one with a slit goes on from the
    side."""

    kind: Literal["tube"] = "tube"
    bore_mm: Length
    outer_mm: Length
    bend_mm: Length
    slit: bool = True


class Tape(Base):
    """Tape to wind: its width, its thickness, how much is on a roll."""

    kind: Literal["tape"] = "tape"
    width_mm: Length
    thick_mm: Length = 0.2
    roll_m: Annotated[float, between(0.1, 1000)] = 20.0


class Grommet(Base):
    """A grommet for a bundle through a hole: the bundle it closes on, the hole, the panel."""

    kind: Literal["grommet"] = "grommet"
    bundle_mm: Between
    hole_mm: Length
    length_mm: Length = 10.0


class Holder(Base):
    """A clamp or clip that holds a bundle down."""

    kind: Literal["bundle clamp"] = "bundle clamp"
    bundle_mm: Between
    width_mm: Length = 12.0


class Core(Frozen):
    """One core of a cable, and how it is told apart: by colour, number, stripe or ridge."""

    mark: Label
    told_by: Literal["colour", "number", "stripe", "ridge"] = "colour"
    colour: Label = ""
    stripe: Label = ""
    area_mm2: Area
    outer_mm: Length
    pair: Label = ""
    role: Label = ""


class CablePart(Base):
    """A cable: its cores in their jacket, and what else is in it."""

    kind: Literal["cable"] = "cable"
    cores: Annotated[tuple[Core, ...], Field(min_length=1, max_length=200)]
    jacket_mm: Length
    jacket_wall_mm: Length = 0.8
    screen: Literal["none", "braid", "spiral"] = "none"
    foil: bool = False
    drain_mm2: Annotated[float, between(0, 10)] = 0.0
    filler: bool = False
    volts: Annotated[float, between(0, 10_000)] = 0.0
    rated_a: Amps | None = None


class Tool(Base):
    """A tool and what it does: crimp, strip, extract, shrink, torque."""

    kind: Literal["tool"] = "tool"
    does: Literal["crimp", "strip", "extract", "shrink", "torque", "solder"]
    way: Literal["", "hex", "indent", "rolled", "square"] = ""


Part = Annotated[
    Contact
    | Housing
    | Seal
    | Blank
    | Lug
    | Splice
    | Ferrule
    | Clamp
    | Block
    | Gland
    | Boot
    | Shrink
    | Braid
    | Tube
    | Tape
    | Grommet
    | Holder
    | CablePart
    | Tool,
    Field(discriminator="kind"),
]
PART: TypeAdapter[Part] = TypeAdapter(Part, config=ConfigDict(defer_build=True))
KINDS: dict[str, type[Base]] = {
    model.model_fields["kind"].default: model
    for model in (
        Contact,
        Housing,
        Seal,
        Blank,
        Lug,
        Splice,
        Ferrule,
        Clamp,
        Block,
        Gland,
        Boot,
        Shrink,
        Braid,
        Tube,
        Tape,
        Grommet,
        Holder,
        CablePart,
        Tool,
    )
}
"""Kind → its model."""
for _model in KINDS.values():
    _model.model_rebuild()  # once for the shelf and for designs, which would build each for themselves
