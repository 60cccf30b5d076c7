"""What a line says, a record for each kind. `where` names ends, wires or loads as the line does; `whose` finds them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Said:
    """A line read by the grammar."""


@dataclass(frozen=True)
class Size(Said):
    """`spec` of wires, such as "2.5 mm2 tinned"; "free" gives them back to the proposals."""

    spec: str
    where: str


@dataclass(frozen=True)
class Keep(Said):
    """Sizes of wires as they are, out of reach of the optimiser."""

    where: str


@dataclass(frozen=True)
class Colour(Said):
    """A colour with its stripe: red/white."""

    shade: str
    where: str


@dataclass(frozen=True)
class Made(Said):
    """The metal, make or jacket of wires."""

    field: str
    value: str
    where: str


@dataclass(frozen=True)
class Housing(Said):
    """A connector body on ends."""

    part: str
    where: str


@dataclass(frozen=True)
class Worn(Said):
    """A contact, lug, seal, ferrule, shrink or boot on the ends of wires."""

    kind: str
    part: str
    where: str


@dataclass(frozen=True)
class Stud(Said):
    """The thread of a stud: M8."""

    thread: str
    where: str


@dataclass(frozen=True)
class Blanks(Said):
    """Cavities closed by blanking plugs; "free" are all without a wire, "none" forgets them."""

    labels: str
    where: str


@dataclass(frozen=True)
class Put(Said):
    """A wire in a cavity, by its label."""

    name: str
    label: str
    where: str


@dataclass(frozen=True)
class Fill(Said):
    """Wires into the cavities of an end from a label on."""

    end: str
    label: str
    where: str


@dataclass(frozen=True)
class Barrel(Said):
    """What a splice is crimped with."""

    part: str
    where: str


@dataclass(frozen=True)
class Common(Said):
    """Loads whose returns (ground, return) or feeds meet at one splice, from where one wire goes on."""

    pole: str
    name: str
    place: str
    where: str


@dataclass(frozen=True)
class Jacketed(Said):
    """Wires in one cable; `name` with, behind a comma, its kind or its part."""

    name: str
    where: str


@dataclass(frozen=True)
class Earth(Said):
    """A protective earth beside loads' wires."""

    where: str


@dataclass(frozen=True)
class Alike(Said):
    """Loads made after others: the same, on a limb of their own where `long` says how far."""

    new: str
    old: str
    long: str = ""
    off: str = ""
    where: str = ""


@dataclass(frozen=True)
class Rename(Said):
    """A part's new name, `where`."""

    before: str
    where: str


@dataclass(frozen=True)
class Remove(Said):
    """A part taken out with what can't be without it."""

    table: str
    where: str


@dataclass(frozen=True)
class Ways(Said):
    """How many fuses a box has room for."""

    count: str
    where: str


@dataclass(frozen=True)
class Take(Said):
    """Proposals made chosen: sizes, ends, coverings, fuses; "fit fuses" and "place fuses" are the halves of the
    last."""

    what: str


@dataclass(frozen=True)
class OnTheWay(Said):
    """What lies along the way, read by the grammar and made by `core/lengths/spoken`: the form and what it says."""

    form: str
    said: Mapping[str, str] = field(default_factory=dict)


KINDS: dict[str, type[Said]] = {
    "size": Size, "keep": Keep, "colour": Colour, "made": Made, "housing": Housing, "worn": Worn, "stud": Stud, "blanks": Blanks, "put": Put,
    "fill": Fill, "barrel": Barrel, "common": Common, "jacketed": Jacketed, "earth": Earth, "alike": Alike, "rename": Rename, "remove": Remove, "ways": Ways, "take": Take,
}  # fmt: skip
"""Rule of the grammar → its record; the others are on the way."""

EXAMPLES: dict[str, str] = {
    "size": "size 2.5 mm2 on pump feed", "keep": "keep W1, W2", "colour": "colour red/white on W3", "metal": "metal tinned on all", "make": "make marine on all",
    "jacket": "jacket rubber on W1 to W4", "housing": "housing Cockle 2-way M, plug on lamp 1 to lamp 6", "contact": "contact cockle-m-pin-1 on lamp 1",
    "lug": "lug anchor-16-m8 on W1 at battery", "seal": "seal cockle-seal-m-2 on lamp 1", "ferrule": "ferrule anchor-ferrule-1.5 on W4",
    "boot": "boot sheath-boot-8 on battery", "stud": "stud M8 on battery", "blanks": "blanks free on ecu", "put": "put W3 in 4 of ecu",
    "fill": "fill ecu from 1 with W1, W2, W3", "barrel": "barrel anchor-butt-6 on SP1", "ground": "ground splice G1 at frame for lamp left, lamp right",
    "return": "return splice R1 at battery for lamp left, lamp right", "feed": "feed splice F1 at battery for lamp left, lamp right",
    "cable": "cable pump cord, multicore for pump", "earth": "earth for pump",
    "like": "aft lamps like bow lamps, 4 m off the trunk at hatch", "rename": "rename lamp 1 to bow lamp", "remove": "remove wire W05",
    "ways": "12 ways in fuse box", "take": "take sizes", "fit": "fit fuses", "place": "place fuses",
    "sleeve": "sleeve on S4 from 30 mm to 300 mm after", "tube": "tube rind-tube-8.5 on S1", "tape": "tape on S3 lap 50 %", "shrink": "shrink sheath-2-9.5 on W1 at battery",
    "clamp": "clamp on S4 at 260 mm", "grommet": "grommet on S4 at 1 m", "bend": "bend on S1 at 120 mm radius 60 mm by 90 toward 90",
    "drip": "drip loop on S5 80 mm at 1.2 m", "service": "service loop on S5 80 mm", "loop": "loop at processor 50 mm", "twist": "twist on S3 40 mm", "corners": "corners on S1",
    "comb": "comb G01 G02 G03 pitch 2.6 mm turns 90 -90 last 30 mm", "set": "set G25 G26 within 2 mm", "splice": "splice split12 on S3 at 60 mm back to psu equal held",
    "pin": "pin W1 to S1 S2", "unpin": "unpin W1", "lead": "lead B1 apart 180 mm toward 90 leaves 0 arrives 180",
    "string": "string 2.40 m found 2.43 m", "drawn": "drawn 1.2 m found 1.25 m", "stated": "stated 1 m found 1.1 m", "guess": "guess 2 m found 2.3 m", "board": "board S4 at 60",
}  # fmt: skip
"""First word of a line → how it is said."""
