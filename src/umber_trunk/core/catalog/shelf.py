"""Which parts there are: the bundled families, the shop's own, and the copies a design carries. The nearest wins."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from functools import cache, lru_cache
from importlib import resources
from typing import TypeVar

from umber_trunk.core.catalog.parts import PART, Base, Block, Cavity, Contact, Housing, Part, Seal

P = TypeVar("P", bound=Base)


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
    return {row["id"]: PART.validate_python(row) for row in rows}


BLOCK_ROW_MM = 12.0
_SHOP: dict[str, Part] = {}


def keep_in_shop(parts: Iterable[Part]) -> None:
    """What the shop's own catalogue holds from now on, for every design this program has open."""
    fresh = {part.id: part for part in parts}
    if fresh != _SHOP:
        _SHOP.clear()
        _SHOP.update(fresh)
        shelf_of.cache_clear()


class Shelf:
    """All parts that a design can be made of: those it carries, then the shop's own, then the bundled ones."""

    def __init__(self, carried: Iterable[Part] = ()) -> None:
        self.parts: dict[str, Part] = {**bundled(), **_SHOP, **{part.id: part for part in carried}}
        self._of_kind: dict[type[Base], list[Base]] = {}
        self._contacts: dict[tuple[str, str, str], list[Contact]] = {}
        self._seals: dict[tuple[str, str], list[Seal]] = {}

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
        if kind not in self._of_kind:
            found: list[Base] = [part for part in self.parts.values() if isinstance(part, kind)]
            if kind is Housing:
                found += [face_of_block(part) for part in self.parts.values() if isinstance(part, Block)]
            self._of_kind[kind] = sorted(found, key=lambda part: part.id)
        return self._of_kind[kind]  # type: ignore[return-value]

    def contacts(self, family: str, size: str, gender: str) -> list[Contact]:
        """Contacts of a family that clip into cavities of a size."""
        if not self._contacts:
            for one in self.of(Contact):
                self._contacts.setdefault((one.family, one.size, one.gender), []).append(one)
        return self._contacts.get((family, size, gender), [])

    def seals(self, family: str, size: str) -> list[Seal]:
        """Wire seals of a family for cavities of a size."""
        if not self._seals:
            for one in self.of(Seal):
                self._seals.setdefault((one.family, one.size), []).append(one)
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
    """A terminal block as the face it has: rows by letter from the top, columns by number from the left: A1, A2 … B1."""
    pitch = block.pitch_mm
    places = [
        Cavity(
            label=f"{chr(ord('A') + row)}{column + 1}", x_mm=(column - (block.columns - 1) / 2) * pitch,
            y_mm=((block.rows - 1) / 2 - row) * BLOCK_ROW_MM,
        )
        for row in range(block.rows)
        for column in range(block.columns)
    ]  # fmt: skip
    return Housing(
        id=block.id, name=block.name, family=block.family, source=block.source, price=block.price, mass_g=block.mass_g, limit_c=block.limit_c,
        form="genderless", contacts="clamp", clamp=block.clamp, width_mm=block.columns * pitch + 4, height_mm=block.rows * BLOCK_ROW_MM + 6,
        cavities=tuple(places), keyed=False,
    )  # fmt: skip


@lru_cache(maxsize=8)
def shelf_of(carried: tuple[Part, ...]) -> Shelf:
    """The shelf of a design that carries these parts."""
    return Shelf(carried)
