"""Faces of connectors: every cavity in its place, seen from the wire side or from the mating side, and who is in it.

A catalogue's places are those of the wire side. The mating side is the same face looked at from in front: left and
right change places, up stays up. The half it plugs into, seen from *its* wire side, is that mirror too.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from umber_trunk.core.catalog.parts import Housing
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.covering import closed_cavities
from umber_trunk.core.ends.wire_ends import Places, body_of, places_of
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.harness.end import End
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, joined, say

View = Literal["wire", "mating"]


@dataclass(frozen=True)
class Spot:
    """One cavity of a face as it is seen: place in mm from the middle, how the contact in it is turned, the wires in it
    with their colours, whether a blanking plug closes it, and what it is for."""

    housing: str
    label: str
    x_mm: float
    y_mm: float
    size: str = ""
    turn_deg: float = 0.0
    wires: tuple[str, ...] = ()
    colour: str = ""
    stripe: str = ""
    plugged: bool = False
    function: str = ""
    pair: str = ""

    @property
    def state(self) -> str:
        """loaded, plugged or empty."""
        return "loaded" if self.wires else "plugged" if self.plugged else "empty"


@dataclass(frozen=True)
class Face:
    """One housing's face, its cavities as seen from `side`; without a key it has no way up, and its order runs the
    other way round on the other half."""

    end: str
    housing: str
    part: str
    name: str
    side: View
    form: str
    contacts: str
    shape: str
    width_mm: float
    height_mm: float
    key: str
    keyed: bool
    spots: tuple[Spot, ...]
    turned_deg: float = 0.0
    """How far this half is turned about the axis of mating when it plugs in; genderless ones go in upside down."""

    @property
    def seen(self) -> Message:
        """From which side; on a round face without a key also which way the order runs."""
        told = [Message.of(f"face.{self.side}")]
        if self.shape == "round" and not self.keyed and len(self.spots) > 2:
            told.append(Message.of("face.order", order=turning(self.spots)))
        if self.turned_deg:
            told.append(Message.of("face.turned", turned_deg=self.turned_deg))
        return joined("any.then", told)

    @property
    def words(self) -> str:
        """The same in words."""
        return str(self.seen)

    @property
    def kind_told(self) -> str:
        """Which half it is and what is in it, in words."""
        return f"{say(f'face.form.{self.form}')}, {say(f'face.contact.{self.contacts}')}"

    def seen_from(self, side: View) -> Face:
        """The same face from that side."""
        return self if side == self.side else replace(self, side=side, spots=tuple(map(mirrored, self.spots)))


def mirrored(spot: Spot) -> Spot:
    """A cavity seen from the other side: x and the turn change sign."""
    return replace(spot, x_mm=_flip(spot.x_mm), turn_deg=_flip(spot.turn_deg))


def _flip(value: float) -> float:
    return -value if value else 0.0


def turning(spots: tuple[Spot, ...]) -> str:
    """Which way the first cavities run round the face: clockwise or anticlockwise, from the sign of the area they
    enclose."""
    ring = [spot for spot in spots if abs(spot.x_mm) + abs(spot.y_mm) > 1e-6]
    area = sum(a.x_mm * b.y_mm - b.x_mm * a.y_mm for a, b in zip(ring, [*ring[1:], *ring[:1]], strict=True))
    return "anticlockwise" if area > 0 else "clockwise"


def face_of_part(housing: Housing, side: View = "wire", end: str = "", body: str = "") -> Face:
    """The bare face of a catalogue's housing."""
    spots = tuple(
        Spot(body, c.label, c.x_mm, c.y_mm, c.size, c.turn_deg, function=c.role, pair=c.pair) for c in housing.cavities
    )
    face = Face(
        end,
        body,
        housing.id,
        housing.name,
        "wire",
        housing.form,
        housing.contacts,
        housing.shape,
        housing.width_mm,
        housing.height_mm,
        housing.key,
        housing.keyed,
        spots,
    )
    return face.seen_from(side)


def faces_of(
    design: Design,
    end_id: str,
    side: View,
    blanks: dict[tuple[str, str], tuple[str, ...]] | None = None,
    shelf: Shelf | None = None,
) -> list[Face]:
    """The faces of an end's housings with the wires in them; InputError where there is no such end or nothing is known
    of its housings."""
    places = places_of(design, shelf)
    end = index_of(design).ends.get(end_id)
    if end is None:
        raise InputError.of("ends.no-end", end_id=quoted(end_id), known=ends_known(design))
    found = [_loaded(places, end, body, housing, side, blanks) for _, body, housing in places.housings(end_id)]
    if not found:
        raise InputError.of("ends.no-catalogue-part-is-chosen", end=end.name)
    return found


def ends_known(design: Design) -> str:
    """Which ends there are, in a sentence."""
    known = ", ".join(one.id for one in design.ends[:12])
    return f"There are: {known}{' …' if len(design.ends) > 12 else ''}." if known else "It has no ends yet."


def faces_in(results: Results, end_id: str, side: View) -> list[Face]:
    """The same, with the plugs that are proposed."""
    return plugged_faces(results.design, end_id, side, results.shelf)


def plugged_faces(design: Design, end_id: str, side: View, shelf: Shelf) -> list[Face]:
    """The same of a design nothing is worked out of: which cavities are closed hangs on no current."""
    return faces_of(design, end_id, side, closed_cavities(places_of(design, shelf)), shelf)


def _loaded(
    places: Places,
    end: End,
    body: Body,
    housing: Housing,
    side: View,
    blanks: dict[tuple[str, str], tuple[str, ...]] | None,
) -> Face:
    inside = places.loaded(end, body)
    closed = (blanks or {}).get((end.id, body.id), body.blanks or ())
    bare = face_of_part(housing, "wire", end.id, body.id)
    spots = []
    for spot in bare.spots:
        ends = inside.get(spot.label, [])
        wire = ends[0].wire if ends else None
        spots.append(
            replace(
                spot,
                wires=tuple(one.wire.id for one in ends),
                colour=wire.colour if wire else "",
                stripe=wire.stripe if wire else "",
                plugged=not ends and spot.label in closed,
                function=function_at(places, end, body, spot.label) or spot.function,
            )
        )
    return replace(bare, spots=tuple(spots)).seen_from(side)


def function_at(places: Places, end: End, body: Body, label: str) -> str:
    """What a cavity of a housing is for: the load or supply pole at it, else the circuit of its wire. Other housings of
    the end may have a cavity of that label too."""
    ids = [
        cavity.id for cavity in end.cavities if (cavity.label or cavity.id) == label and body_of(end, cavity) is body
    ]
    for load in places.design.loads:
        for pin, pole in ((load.plus, "+"), (load.minus, "−")):
            if pin.end == end.id and pin.cavity in ids:
                return f"{load.name} {pole}"
    for supply in places.design.supplies:
        for pin, pole in ((supply.plus, "+"), (supply.minus, "−")):
            if pin.end == end.id and pin.cavity in ids:
                return f"{supply.name} {pole}"
    wires = [one.wire for cavity in ids for one in places.at.get((end.id, cavity), [])]
    return next((wire.name or wire.circuit for wire in wires if wire.name or wire.circuit), "")
