"""What lies along the way of wires: how it was measured, bends, loops, coverings, joins, combs, sets and the board."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from umber_trunk.core.fields import Allowance, Frozen, Id, Metres, Text, between

Wide_mm = Annotated[float, between(0.1, 10_000)]
Degrees = Annotated[float, between(-360, 360)]


class Method(StrEnum):
    """How a length was found; each has its usual ±."""

    TAPE = "tape"
    STRING = "string"
    DRAWN = "drawn"
    STATED = "stated"
    GUESS = "guess"


class Measure(Frozen):
    """A length as measured: value, method and ± (two standard deviations)."""

    length_m: Metres
    method: Method = Method.TAPE
    plus_minus_m: Metres = 0.0


class Learned(Frozen):
    """What the shop's history says of a way of measuring: found lengths are 1 + `bias` times the planned ones, ±
    `share` of the length (two standard deviations)."""

    method: Method
    bias: Annotated[float, between(-0.5, 0.5)] = 0.0
    share: Annotated[float, between(0, 1)] = 0.0


class FoundLength(Frozen):
    """One pair of the shop's history: what was planned from a measure, what it was found to be in the built unit."""

    method: Method
    planned_m: Annotated[float, between(0.001, 10_000)]
    found_m: Annotated[float, between(0.001, 10_000)]


class Bend(Frozen):
    """A bend: where, to which radius of the bundle's middle, by how much, and which way in the section (0 right, 90
    up). With `toward_deg` None nobody knows which wires lie inside."""

    at_m: Metres = 0.0
    radius_mm: Wide_mm
    angle_deg: Annotated[float, between(0, 720)]
    toward_deg: Degrees | None = None


class Slack(Frozen):
    """A loop left on purpose: a drip loop keeps water out at the lowest place, a service loop lets an end be made
    again."""

    kind: Literal["drip", "service"] = "service"
    length_m: Allowance
    at_m: Metres = 0.0


class CoverKind(StrEnum):
    """What goes over or round a bundle."""

    SLEEVE = "sleeve"
    TUBE = "tube"
    TAPE = "tape"
    SHRINK = "shrink"
    GROMMET = "grommet"
    CLAMP = "clamp"


class Cover(Frozen):
    """A covering of a stretch of a segment, all of it where `to_m` is None; a grommet or clamp sits at `from_m`.
    `after`: it goes on once the ends are made, over the largest of them. `lap`: the share of a tape's width that each
    turn covers again."""

    id: Id
    kind: CoverKind
    part: Id | None = None
    from_m: Metres = 0.0
    to_m: Metres | None = None
    after: bool = False
    lap: Annotated[float, between(0, 0.9)] = 0.5


class Join(Frozen):
    """Where a splice lies: in a segment at its point, `at_m` from there (None: the program places it). `dull` names the
    end its back points to; `equal`: its legs are cut alike; `held`: the program doesn't move it."""

    segment: Id
    at_m: Metres | None = None
    dull: Id | None = None
    open_mm: Annotated[float, between(0, 1000)] = 0.0
    equal: bool = False
    held: bool = False


class Comb(Frozen):
    """Wires side by side in a flat ribbon, in order, `pitch_mm` apart. `turns_deg` are its bends edgewise, + towards
    the first wire. `cut_last`: second ends are cut at the comb, with `allowance_m` to cut off."""

    id: Id
    name: Text = ""
    wires: tuple[Id, ...]
    pitch_mm: Wide_mm
    turns_deg: tuple[Degrees, ...] = ()
    cut_last: bool = False
    allowance_m: Allowance = 0.03


class Alike(Frozen):
    """A set seen side by side: its wires end up alike to a tolerance."""

    id: Id
    name: Text = ""
    wires: tuple[Id, ...]
    tolerance_mm: Wide_mm = 2.0


class Lead(Frozen):
    """A short stiff lead between two studs in one plane, `apart_mm` from the mouth of one barrel to that of the other.
    Angles go clockwise from up: where the second lies, where the lead leaves the first, where it comes from at the
    second. `radius_mm` None: as its size allows."""

    apart_mm: Wide_mm
    toward_deg: Degrees = 90.0
    leave_deg: Degrees = 90.0
    arrive_deg: Degrees = 270.0
    radius_mm: Wide_mm | None = None


OnBoard_mm = Annotated[float, between(-1e6, 1e6)]


class Wound(Frozen):
    """Whole turns of a limb on a peg of its board: the peg, the turns' radius, how many."""

    x_mm: OnBoard_mm
    y_mm: OnBoard_mm
    radius_mm: Annotated[float, between(1, 1000)]
    turns: Annotated[int, Field(ge=1, le=100_000)]
    from_mm: Annotated[float, between(0, 1e7)] = 0.0


class Pinned(Frozen):
    """A limb that stays where it lies on the board, since it is screwed together: its line from its segment's
    a-side."""

    segment: Id
    spots: Annotated[tuple[tuple[OnBoard_mm, OnBoard_mm], ...], Field(min_length=2, max_length=20_000)]
    wound: Wound | None = None


class Board(Frozen):
    """The board harnesses are laid out on, the clear space kept between limbs, a clip every so far, the sheet it prints
    on, and limbs that stay where they lie."""

    width_mm: Annotated[float, between(200, 20_000)] = 2440.0
    height_mm: Annotated[float, between(200, 20_000)] = 1220.0
    gap_mm: Annotated[float, between(5, 500)] = 25.0
    clip_mm: Annotated[float, between(50, 5000)] = 300.0
    sheet: str = Field(default="a3", pattern="^(a4|a3|a2|a1|a0|letter|roll|single)$")
    overlap_mm: Annotated[float, between(0, 50)] = 10.0
    pins: tuple[Pinned, ...] = ()


class Prices(Frozen):
    """What a wire that came up short costs beyond its copper, and what a metre of spare wire costs; both or nothing."""

    scrapped: Annotated[float, between(0.01, 1e6)]
    spare_per_m: Annotated[float, between(0.001, 1e5)]
