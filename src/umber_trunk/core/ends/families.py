"""What can be on a wire's end, one entry a family: which parts of it go there, which of those take the wire, how its
current is split. A new family is an entry here, in `strip.DRAWS` and in `wire_rules.JUDGES` and `RUNS`; a test asks for
all of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from umber_trunk.core.catalog.parts import Contact, Crimped, Lug, Splice
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.reach import Stuff, contacts_for, hole_fits, lugs_for, splices_for
from umber_trunk.core.ends.wire_ends import WireEnd


@dataclass(frozen=True)
class Family:
    """One family. `kind` is its parts' model, None where the place itself holds the wire. `there` are all parts that go
    into a place, None where nothing limits them; `takes` those of them that take the wire, whatever current runs.
    `shared`: wires of one place share one part."""

    kind: type[Crimped] | None
    there: Callable[[Shelf, WireEnd], Iterable[Crimped] | None]
    takes: Callable[[Shelf, WireEnd, Stuff], Iterable[Crimped]]
    shared: bool = False


def _contacts(shelf: Shelf, one: WireEnd) -> Iterable[Crimped] | None:
    if one.housing is None or one.place is None:
        return None
    return shelf.contacts(one.housing.family, one.place.size, one.housing.contacts)


FAMILIES: dict[str, Family] = {
    "contact": Family(Contact, _contacts, contacts_for, shared=True),
    "lug": Family(
        Lug,
        lambda shelf, one: [lug for lug in shelf.of(Lug) if hole_fits(lug, one.end.stud_mm)],
        lambda shelf, one, stuff: lugs_for(shelf, one, stuff) if one.end.stud_mm else (),
    ),
    "splice": Family(Splice, lambda _, __: None, lambda shelf, _, stuff: splices_for(shelf, stuff), shared=True),
    "clamp": Family(None, lambda _, __: None, lambda _, __, ___: ()),
}
"""By what `WireEnd.made` says."""


def family_of(part: object) -> str:
    """The family a part is of, "" for one that is of none."""
    return next((name for name, one in FAMILIES.items() if one.kind is not None and isinstance(part, one.kind)), "")
