"""Where each end of each wire goes: its cavity, the housing round that, and what is or could be on the wire."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from umber_trunk.core.catalog.parts import CablePart, Contact, Core, Housing, Lug, Splice
from umber_trunk.core.catalog.parts import Cavity as Place
from umber_trunk.core.catalog.shelf import Shelf, shelf_for
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.end import Housing as Body
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design, Fitting, Pin, Wire

Side = Literal["start", "finish"]
SIDES: tuple[Side, Side] = ("start", "finish")
NOTHING = Fitting()
ALIKE = ("ends", "parts", "cables", "zones")
STUDS = (EndKind.STUD, EndKind.BAR)


@dataclass(frozen=True)
class WireEnd:
    """One end of one wire where it arrives. `made` is the kind of part that has to be on it, None where nothing is
    known of the place; `housing` and `place` are from the catalogue."""

    wire: Wire
    side: Side
    end: End
    cavity: Cavity
    body: Body | None
    housing: Housing | None
    place: Place | None
    made: Literal["contact", "lug", "splice", "clamp"] | None

    @property
    def pin(self) -> Pin:
        """The cavity it goes to."""
        return self.wire.start if self.side == "start" else self.wire.finish

    @cached_property
    def fitting(self) -> Fitting:
        """What has been chosen for it."""
        return (self.wire.at_start if self.side == "start" else self.wire.at_finish) or NOTHING

    @cached_property
    def key(self) -> tuple[str, Side]:
        """Wire id and side."""
        return self.wire.id, self.side

    @property
    def label(self) -> str:
        """The cavity as the face shows it."""
        return self.cavity.label or self.cavity.id

    @property
    def name(self) -> str:
        """The place in words."""
        return f"{self.end.name} {self.label}"


class Places:
    """All ends of all wires of a design, in the order of its wires."""

    def __init__(self, design: Design, shelf: Shelf, before: Places | None = None) -> None:
        """With the parts on the shelf of the design. `before`, the places of a design with the same ends, parts and
        cables, lends those of wires that are the same."""
        self.design = design
        self.ends: list[WireEnd] = []
        self.at: dict[tuple[str, str], list[WireEnd]] = {}
        self.shelf = shelf
        like = before
        if before is not None and not (
            before.shelf is self.shelf and all(getattr(before.design, name) is getattr(design, name) for name in ALIKE)
        ):
            like = None
        self.judged: dict[tuple[str, Side], Any] = dict(like.judged) if like is not None else {}
        """What was found of a wire's end before, for `fits`."""
        self.offers: dict[tuple[str, Side], Any] = dict(like.offers) if like is not None else {}
        """Which parts take a wire's end, for `covering`."""
        self.there: dict[tuple[str, Side], Any] = {}
        """The parts that go into a wire's place, for `limits`."""
        self.by_key: dict[tuple[str, Side], WireEnd] = {}
        self.cables = {cable.id: self.shelf.get(cable.part, CablePart) for cable in design.cables}
        index = index_of(design)
        cavities = (
            like.cavities
            if like is not None
            else {(end.id, cavity.id): cavity for end in design.ends for cavity in end.cavities}
        )
        self.cavities: dict[tuple[str, str], Cavity] = cavities
        self._start: list[int] = []
        """Where the ends of each wire begin in `ends`."""
        if like is not None and self._taken_over(like):
            return
        for wire in design.wires:
            self._start.append(len(self.ends))
            for side in SIDES:
                pin = wire.start if side == "start" else wire.finish
                end, cavity = index.ends.get(pin.end), cavities.get((pin.end, pin.cavity))
                if end is None or cavity is None:
                    continue
                one = like.by_key.get((wire.id, side)) if like is not None else None
                if one is None or one.wire is not wire:
                    one = self._wire_end(wire, side, end, cavity)
                self.ends.append(one)
                self.at.setdefault((end.id, cavity.id), []).append(one)
        self.by_key.update({one.key: one for one in self.ends})

    def _taken_over(self, like: Places) -> bool:
        """Takes over the places of a design wired alike and puts the ends of its few changed wires in their place;
        whether it could."""
        old, new = like.design.wires, self.design.wires
        if len(old) != len(new):
            return False
        changed = [(at, a, b) for at, (a, b) in enumerate(zip(old, new, strict=True)) if a is not b]
        if any((a.id, a.start, a.finish) != (b.id, b.start, b.finish) for _, a, b in changed):
            return False
        self._start, self.ends, self.at, self.by_key = like._start, list(like.ends), dict(like.at), dict(like.by_key)
        for at, _, wire in changed:
            place = self._start[at]
            while place < len(self.ends) and self.ends[place].wire.id == wire.id:
                before = self.ends[place]
                one = self._wire_end(wire, before.side, before.end, before.cavity)
                pin = (one.end.id, one.cavity.id)
                self.at[pin] = [one if other is before else other for other in self.at[pin]]
                self.ends[place] = self.by_key[one.key] = one
                place += 1
        return True

    def _wire_end(self, wire: Wire, side: Side, end: End, cavity: Cavity) -> WireEnd:
        body = body_of(end, cavity)
        housing = self.shelf.get(body.part, Housing) if body is not None else None
        place = (
            next((one for one in housing.cavities if one.label == (cavity.label or cavity.id)), None)
            if housing
            else None
        )
        fitting = (wire.at_start if side == "start" else wire.at_finish) or NOTHING
        given = self.shelf.named(fitting.part)
        made: Literal["contact", "lug", "splice", "clamp"] | None = None
        if housing is not None:
            made = "clamp" if housing.contacts == "clamp" else "contact"
        elif isinstance(given, Lug) or end.stud_mm:
            made = "lug"
        elif isinstance(given, Splice) or end.kind is EndKind.SPLICE:
            made = "splice"
        elif isinstance(given, Contact):
            made = "contact"
        return WireEnd(wire, side, end, cavity, body, housing, place, made)

    def together(self, one: WireEnd) -> list[WireEnd]:
        """The wire ends that go into one contact, clamp or barrel with this one; a splice is one barrel."""
        if one.made in ("contact", "clamp"):
            return self.at[one.end.id, one.cavity.id]
        if one.made == "splice":
            return [
                other
                for cavity in one.end.cavities
                for other in self.at.get((one.end.id, cavity.id), [])
                if other.made == "splice"
            ]
        return [one]

    def core(self, wire: Wire) -> Core | None:
        """The catalogue's core of a wire that is one of a known cable."""
        cable = self.cables.get(wire.cable or "")
        return next((core for core in cable.cores if core.mark == wire.core), None) if cable and wire.core else None

    def of_end(self, end_id: str) -> list[WireEnd]:
        """The wire ends at one end of the harness."""
        return self._by_end.get(end_id, [])

    @cached_property
    def _by_end(self) -> dict[str, list[WireEnd]]:
        found: dict[str, list[WireEnd]] = {}
        for one in self.ends:
            found.setdefault(one.end.id, []).append(one)
        return found

    def housings(self, end_id: str | None = None) -> list[tuple[End, Body, Housing]]:
        """Every housing that the catalogue knows, of every end or of one."""
        found = []
        ends = index_of(self.design).ends
        for end in self.design.ends if end_id is None else [ends[end_id]] if end_id in ends else []:
            for body in end.housings:
                housing = self.shelf.get(body.part, Housing)
                if housing is not None:
                    found.append((end, body, housing))
        return found

    def loaded(self, end: End, body: Body) -> dict[str, list[WireEnd]]:
        """Label → the wire ends in that cavity of a housing."""
        found: dict[str, list[WireEnd]] = {}
        for cavity in end.cavities:
            if body_of(end, cavity) is body and (end.id, cavity.id) in self.at:
                found.setdefault(cavity.label or cavity.id, []).extend(self.at[end.id, cavity.id])
        return found


def body_of(end: End, cavity: Cavity) -> Body | None:
    """The housing a cavity is in: the one it names, or the end's only one."""
    if cavity.housing:
        return next((body for body in end.housings if body.id == cavity.housing), None)
    return end.housings[0] if len(end.housings) == 1 else None


def places_of(design: Design, shelf: Shelf | None = None) -> Places:
    """The places of a design with the parts on a shelf, worked out once."""
    index, mine = index_of(design), shelf_for(design, shelf)
    return index.once(("places", mine), lambda: Places(design, mine, index.lent(("places", mine))))
