"""Proposals made chosen: sizes, parts of ends, parts of coverings, fuses."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.assign import accept
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.errors import InputError
from umber_trunk.core.fuses.fit import fit_fuses
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.edits import change, put_all
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.accept import take_covers
from umber_trunk.core.results import Results

ROUNDS = 20


@dataclass(frozen=True)
class Taken:
    """A design with proposals taken, and how many parts of it changed."""

    design: Design
    changed: int


def taken(design: Design, what: str, shelf: Shelf | None = None) -> Taken:
    """The design with what is proposed for sizes, ends, coverings or fuses chosen. InputError for anything else."""
    kind = " ".join(what.lower().split())
    if kind not in _TAKERS:
        raise InputError(f"There is no proposal of “{what}”; there are sizes, ends, coverings and fuses.")
    made = _TAKERS[kind](design, shelf)
    return Taken(made, _differences(design, made))


def _differences(before: Design, after: Design) -> int:
    found = 0
    for table in ("wires", "ends", "segments"):
        old = {row.id: row for row in getattr(before, table)}
        found += sum(old.get(row.id) != row for row in getattr(after, table))
    return found


def with_sizes(design: Design, results: Results) -> Design:
    """The sizes proposed for wires nobody sized, as chosen ones."""
    wires = index_of(design).wires
    return put_all(
        design,
        "wires",
        [change(wires[key], size=size) for key, size in results.sizes.items() if wires[key].size is None],
    )


def _sizes(design: Design, shelf: Shelf | None) -> Design:
    return with_sizes(design, analyse(design, shelf))


def _ends(design: Design, shelf: Shelf | None) -> Design:
    results = analyse(design, shelf)
    return accept(design, results.once(fitted), None, shelf)


def _coverings(design: Design, shelf: Shelf | None) -> Design:
    return take_covers(design, analyse(design, shelf))


def _fit(design: Design, shelf: Shelf | None) -> Design:
    return fit_fuses(design, analyse(design, shelf).figures.solution)


def _place(design: Design, shelf: Shelf | None) -> Design:
    return place_fuses(design, analyse(design, shelf).figures).design


def _fuses(design: Design, shelf: Shelf | None) -> Design:
    """Fuses placed where there is none, those without a rating fitted, until nothing changes any more."""
    for _ in range(ROUNDS):
        before = design
        design = _fit(_place(design, shelf), shelf)
        if design == before:
            break
    return design


_TAKERS: dict[str, Callable[[Design, Shelf | None], Design]] = {
    "sizes": _sizes, "ends": _ends, "coverings": _coverings, "fuses": _fuses, "fit fuses": _fit, "place fuses": _place,
}  # fmt: skip
