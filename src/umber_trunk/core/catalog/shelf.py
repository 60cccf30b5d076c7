"""Which parts there are: the bundled families, the shop's own, and the copies a design carries. The nearest wins."""

from __future__ import annotations

import json
import threading
from collections.abc import Iterable, Mapping
from functools import cache, lru_cache
from importlib import resources
from types import MappingProxyType
from typing import Protocol, TypeVar

from umber_trunk.core.catalog.parts import PART, Base, Block, Cavity, Contact, Housing, Part, Seal

P = TypeVar("P", bound=Base)


class Carries(Protocol):
    """A design, as far as a shelf knows it."""

    @property
    def parts(self) -> tuple[Part, ...]:
        """Copies of the parts it uses."""


@cache
def bundled() -> Mapping[str, Part]:
    """The generic parts that ship, all of them invented, by id."""
    folder = resources.files("umber_trunk").joinpath("data/catalog/parts")
    rows = [
        row
        for file in sorted(folder.iterdir(), key=lambda one: one.name)
        if file.name.endswith(".json")
        for row in json.loads(file.read_text("utf-8"))
    ]
    return MappingProxyType({row["id"]: PART.validate_python(row) for row in rows})


BLOCK_ROW_MM = 12.0
"""Between rows of a terminal block whose sheet doesn't say."""
CARRYINGS = 8
"""How many designs' shelves a shelf keeps ready."""


class Shelf:
    """The parts a design can be made of, a value: nothing is put on it once it is made. `carrying` gives another, with
    the copies a design carries in front; what was made of a shelf stays as it was when the shop's catalogue changes."""

    def __init__(self, parts: Iterable[Part], carried: Iterable[Part] = (), under: Shelf | None = None) -> None:
        """`parts`, the `carried` in front of them. `under` is the shelf this one was made of."""
        self.carried = tuple(carried)
        self.parts: Mapping[str, Part] = MappingProxyType({part.id: part for part in (*parts, *self.carried)})
        self._under = under
        self._ready: list[Shelf] = []
        self._asked_last: tuple[tuple[Part, ...], Shelf] | None = None
        self._lock = threading.Lock()
        by_kind: dict[type[Base], list[Base]] = {}
        for part in self.parts.values():
            for kind in type(part).__mro__:
                if issubclass(kind, Base):
                    by_kind.setdefault(kind, []).append(part)
            if isinstance(part, Block):
                by_kind.setdefault(Housing, []).append(face_of_block(part))
        self._of_kind = {kind: tuple(sorted(found, key=lambda one: one.id)) for kind, found in by_kind.items()}
        self._contacts: dict[tuple[str, str, str], list[Contact]] = {}
        for contact in self.of(Contact):
            self._contacts.setdefault((contact.family, contact.size, contact.gender), []).append(contact)
        self._seals: dict[tuple[str, str], list[Seal]] = {}
        for seal in self.of(Seal):
            self._seals.setdefault((seal.family, seal.size), []).append(seal)

    def carrying(self, parts: tuple[Part, ...]) -> Shelf:
        """This shelf with these parts in front, in place of those it carried before."""
        last = self._asked_last
        if last is None or last[0] is not parts:  # to compare parts by their values takes longer than all the rest
            last = self._asked_last = parts, self._with_in_front(parts)
        return last[1]

    def _with_in_front(self, parts: tuple[Part, ...]) -> Shelf:
        if parts == self.carried:
            return self
        base = self._under or self
        if not parts:
            return base
        with base._lock:
            for known in base._ready:
                if known.carried == parts:
                    return known
            made = Shelf(base.parts.values(), parts, base)
            base._ready = [made, *base._ready[: CARRYINGS - 1]]
            return made

    def get(self, part_id: str | None, kind: type[P]) -> P | None:
        """The part with an id if it is of that kind."""
        part = self.parts.get(part_id) if part_id else None
        if isinstance(part, Block) and kind is Housing:
            part = face_of_block(part)
        return part if isinstance(part, kind) else None

    def named(self, part_id: str | None) -> Base | None:
        """The part with an id, of whatever kind."""
        return self.parts.get(part_id) if part_id else None

    def of(self, kind: type[P]) -> list[P]:
        """All parts of a kind, in the order of their ids."""
        return list(self._of_kind.get(kind, ()))  # type: ignore[arg-type]

    def contacts(self, family: str, size: str, gender: str) -> list[Contact]:
        """Contacts of a family that clip into cavities of a size."""
        return self._contacts.get((family, size, gender), [])

    def seals(self, family: str, size: str) -> list[Seal]:
        """Wire seals of a family for cavities of a size."""
        return self._seals.get((family, size), [])

    def name(self, part_id: str | None) -> str:
        """A part's name, its id where it isn't known."""
        part = self.named(part_id)
        return part.name if part is not None else part_id or "nothing"

    def mate_of(self, housing: Housing) -> Housing | None:
        """The half that a housing plugs into, the first its sheet names."""
        return next((found for one in housing.mates if (found := self.get(one, Housing)) is not None), None)


@lru_cache(maxsize=64)
def face_of_block(block: Block) -> Housing:
    """A terminal block as the face it has: rows by letter from the top, columns by number from the left: A1, A2 …
    B1."""
    pitch = block.pitch_mm
    places = [
        Cavity(
            label=f"{chr(ord('A') + row)}{column + 1}",
            x_mm=(column - (block.columns - 1) / 2) * pitch,
            y_mm=((block.rows - 1) / 2 - row) * BLOCK_ROW_MM,
        )
        for row in range(block.rows)
        for column in range(block.columns)
    ]
    return Housing(
        id=block.id,
        name=block.name,
        family=block.family,
        source=block.source,
        price=block.price,
        mass_g=block.mass_g,
        limit_c=block.limit_c,
        form="genderless",
        contacts="clamp",
        clamp=block.clamp,
        width_mm=block.columns * pitch + 4,
        height_mm=block.rows * BLOCK_ROW_MM + 6,
        cavities=tuple(places),
        keyed=False,
    )


@cache
def generic() -> Shelf:
    """The shelf of the parts that ship, with nothing of a shop's on it."""
    return Shelf(bundled().values())


def shop_shelf(parts: Iterable[Part]) -> Shelf:
    """The parts that ship with a shop's own in front."""
    own = tuple(parts)
    return Shelf((*bundled().values(), *own)) if own else generic()


def shelf_for(design: Carries, shelf: Shelf | None) -> Shelf:
    """What a design is made of: the copies it carries, then what is on this shelf, the parts that ship where none is
    given."""
    return (shelf or generic()).carrying(design.parts)
