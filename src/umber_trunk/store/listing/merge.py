"""A read list into a harness: all new, or as a later revision of what is laid already."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from dataclasses import dataclass

from umber_trunk.core.bulk import many_objects
from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.errors import EditError
from umber_trunk.core.harness.edits import drop, put_all, slug
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Cable, Design, Pin, Wire
from umber_trunk.core.harness.screens import TAPED
from umber_trunk.core.needs.attach import with_fuses
from umber_trunk.core.sentences import say
from umber_trunk.core.units import show_length
from umber_trunk.store.listing.cables import kind_of
from umber_trunk.store.listing.listed import ListedWire
from umber_trunk.store.listing.reading import ListReading


@dataclass(frozen=True)
class Change:
    """One wire that differs between harness and list: "added", "gone" or "changed", and in what."""

    kind: str
    wire: str
    detail: str

    def __str__(self) -> str:
        return f"{self.kind:8}{self.wire}  {self.detail}"


def add_wires(design: Design, reading: ListReading, skip_bad: bool = False) -> Design:
    """The design with the listed wires and the ends they name. EditError while faults or doubts remain, unless
    the good rows alone were asked for."""
    _refuse_open(reading, skip_bad)
    return _Ends(design, reading.splices).put(reading.wires, {})


def _refuse_open(reading: ListReading, skip_bad: bool) -> None:
    if reading.doubts:
        raise EditError.of("listing.list-leaves-doubts", count=len(reading.doubts))
    if reading.faults and not skip_bad:
        raise EditError.of("listing.list-has-faults", count=len(reading.faults))


def differences(design: Design, reading: ListReading) -> list[Change]:
    """What a later list changes in a harness: wires added and changed in the list's order, then those gone."""
    index = index_of(design)
    found = []
    for row in reading.wires:
        wire = index.wires.get(row.wire)
        if wire is None:
            ways = {"start": _place(row.start), "finish": _place(row.finish)}
            found.append(Change("added", row.wire, say("list.change.way", **ways)))
        elif detail := _differs(design, wire, row):
            found.append(Change("changed", row.wire, "; ".join(detail)))
    listed = {row.wire for row in reading.wires}
    for wire in design.wires:
        if wire.id not in listed:
            ways = {"start": _place(_pin(design, wire.start)), "finish": _place(_pin(design, wire.finish))}
            found.append(Change("gone", wire.id, wire.name or wire.circuit or say("list.change.way", **ways)))
    return found


def _place(pin: tuple[str, str]) -> str:
    return " ".join(part for part in pin if part)


def _pin(design: Design, pin: Pin) -> tuple[str, str]:
    """(what an end is called, its cavity), as a list would name them."""
    end = index_of(design).ends.get(pin.end)
    return (end.name if end else pin.end, pin.cavity)


def _differs(design: Design, wire: Wire, row: ListedWire) -> list[str]:
    """What the list says otherwise than the harness; what the list leaves open isn't a difference."""
    found = []
    for word, pin, said in (("from", wire.start, row.start), ("to", wire.finish, row.finish)):
        here = _pin(design, pin)
        same = said[0].lower() in (here[0].lower(), pin.end.lower()) and (not said[1] or said[1] == here[1])
        if not same:
            found.append(say(f"list.change.{word}", was=_place(here), now=_place(said)))
    if row.size and row.size not in (wire.listed_size, wire.size):
        found.append(say("list.change.size", was=show_size(wire.size or "?"), now=show_size(row.size)))
    if row.parallel != wire.parallel and row.parallel > 1:
        found.append(say("list.change.parallel", was=wire.parallel, now=row.parallel))
    for word, old, new in (
        ("colour", wire.colour, row.colour),
        ("stripe", wire.stripe, row.stripe),
        ("name", wire.name, row.name),
        ("circuit", wire.circuit, row.circuit),
    ):
        if new and new != old:
            found.append(say(f"list.change.{word}", was=old or "", now=new))
    if row.length_m is not None and (wire.stated_m is None or abs(wire.stated_m - row.length_m) > 1e-6):
        was = show_length(wire.stated_m) if wire.stated_m else ""
        found.append(say("list.change.length", was=was, now=show_length(row.length_m)))
    return found


def merge(design: Design, reading: ListReading) -> Design:
    """The harness brought to a later list: wires added, changed and taken out; ends, routes, sizes a builder chose
    over an unchanged list, and all else that still holds, are kept."""
    _refuse_open(reading, False)
    listed = {row.wire for row in reading.wires}
    gone = [wire.id for wire in design.wires if wire.id not in listed]
    return _Ends(drop(design, "wires", gone), reading.splices).put(reading.wires, dict(index_of(design).wires))


class _Ends:
    """Finds or makes the ends and cavities that rows name."""

    def __init__(self, design: Design, splices: frozenset[str]) -> None:
        self.design, self.splices = design, splices
        self.by_name = {end.name.lower(): end for end in design.ends} | {end.id.lower(): end for end in design.ends}
        self.ends: dict[str, End] = {}
        self.used = {end.id for end in design.ends}
        self.new: set[str] = set()
        self.free = Counter[str]()
        self.cavities: dict[str, set[str]] = {}
        self.added: dict[str, list[Cavity]] = defaultdict(list)

    def put(self, rows: tuple[ListedWire, ...], known: dict[str, Wire]) -> Design:
        """The design with the rows as wires; `known` are the wires as they were."""
        with many_objects():
            wires = [self._wire(row, known.get(row.wire)) for row in rows]
        whole = [
            end.model_copy(update={"cavities": (*end.cavities, *self.added[end.id])}) if end.id in self.added else end
            for end in self.ends.values()
        ]
        ends = [with_fuses(end) if end.id in self.new else end for end in whole]
        cores: dict[str, list[ListedWire]] = defaultdict(list)
        for row in rows:
            if row.cable:
                cores[row.cable].append(row)
        have = {cable.id for cable in self.design.cables}
        cables = [Cable(id=name, name=name, kind=kind_of(own)) for name, own in cores.items() if name not in have]
        return put_all(put_all(put_all(self.design, "ends", ends), "cables", cables), "wires", wires)

    def _wire(self, row: ListedWire, old: Wire | None) -> Wire:
        start, finish = (
            self._pin(row.start, old.start if old else None),
            self._pin(row.finish, old.finish if old else None),
        )
        if old is None:
            return Wire(
                id=row.wire,
                start=start,
                finish=finish,
                name=row.name,
                circuit=row.circuit,
                size=row.size,
                parallel=row.parallel,
                colour=row.colour,
                stripe=row.stripe,
                stated_m=row.length_m,
                cable=row.cable or None,
                listed_size=row.size,
                core="screen" if row.is_screen else row.core,
                pair=row.pair,
                signal=row.is_screen,
            )
        kept = row.size is None or row.size == old.listed_size
        return old.model_copy(
            update={
                "start": start,
                "finish": finish,
                "name": row.name or old.name,
                "circuit": row.circuit or old.circuit,
                "size": old.size if kept else row.size,
                "locked": old.locked and kept,
                "listed_size": row.size or old.listed_size,
                "parallel": row.parallel if row.parallel > 1 else old.parallel,
                "colour": row.colour or old.colour,
                "stripe": row.stripe or old.stripe,
                "cable": row.cable or old.cable,
                "core": old.core or row.core,
                "pair": row.pair or old.pair,
                "stated_m": old.stated_m if row.length_m is None else row.length_m,
            }
        )

    def _pin(self, place: tuple[str, str], old: Pin | None) -> Pin:
        name, cavity = place
        key = name.lower()
        end = self.by_name.get(key)
        if end is None:
            kind = EndKind.SPLICE if key in self.splices else end_kind(name)
            end = End(id=slug(name, self.used), name=name, kind=kind)
            self.used.add(end.id)
            self.new.add(end.id)
            self.by_name[key] = end
        end = self.ends.get(end.id, end)
        if not cavity and old is not None and old.end == end.id:
            cavity = old.cavity
        if end.kind is EndKind.SPLICE and end.id in self.new:
            cavity = "1"  # what meets at a splice is joined, however its list numbers the wires
        there = self.cavities.setdefault(end.id, {known.id for known in end.cavities})
        if not cavity:
            self.free[end.id] += 1
            while end.id not in self.new and f"{self.free[end.id]}" in there:
                self.free[end.id] += 1
            cavity = "1" if end.kind in (EndKind.SPLICE, EndKind.STUD) else f"{self.free[end.id]}"
        if cavity not in there:
            there.add(cavity)
            self.added[end.id].append(Cavity(id=cavity, contact=TAPED if cavity.startswith(TAPED) else ""))
        self.ends[end.id] = end
        return Pin(end=end.id, cavity=cavity)


def end_kind(name: str) -> EndKind:
    """A guess from the name; the builder can change it."""
    lowered = name.lower()
    kinds = (
        (r"\bsplice|^sp\d|épissure|spleiß|empalme", EndKind.SPLICE),
        (r"\bgnd|ground|earth|stud|frame\b|masse\b|tierra", EndKind.STUD), (r"bus ?bar|sammelschiene", EndKind.BAR),
        ((
    r"fuse ?(?:box|block|panel)|sicherungskasten|boîte à fusibles"
), EndKind.BOX), (r"\brelay|\brelais", EndKind.RELAY),
        (r"\bswitch|schalter\b", EndKind.SWITCH), (r"[xjp]\d+[a-z]?$|^conn\w*", EndKind.CONNECTOR),
    )  # fmt: skip
    return next((kind for pattern, kind in kinds if re.search(pattern, lowered)), EndKind.DEVICE)
