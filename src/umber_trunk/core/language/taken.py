"""Proposals made chosen: sizes, parts of ends, parts of coverings, fuses. Each is judged as if taken: where it brings a
finding that wasn't there, wires nobody locked go up in size; what still does is left as it was, and why is said."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from umber_trunk.core.analysis import analyse
from umber_trunk.core.catalog.conductors import parse_size
from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.ends.assign import accept
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.errors import InputError, Wanted, always
from umber_trunk.core.findings import Finding, Severity
from umber_trunk.core.fuses.fit import fit_fuses
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.edits import Table, change, put_all
from umber_trunk.core.harness.index import index_of
from umber_trunk.core.harness.model import Design
from umber_trunk.core.lengths.accept import take_covers
from umber_trunk.core.results import Results

ROUNDS = 20
"""Of raising sizes and leaving parts out before a proposal is given up."""
_TABLES: tuple[Table, ...] = ("wires", "ends", "segments")
Moved = Mapping[Table, set[str]]
"""What is otherwise than before, by table."""


@dataclass(frozen=True)
class Taken:
    """A design with proposals taken: how many parts of it changed, wires whose size had to rise with them, and what was
    left out, with the finding it would have brought."""

    design: Design
    changed: int
    raised: tuple[str, ...] = ()
    left: tuple[tuple[str, str], ...] = ()


def taken(
    design: Design,
    what: str,
    shelf: Shelf | None = None,
    told: Callable[[str], None] = lambda _: None,
    wanted: Wanted = always,
    whole: Callable[[Taken], None] = lambda _: None,
) -> Taken:
    """The design with what is proposed for sizes, ends, coverings or fuses chosen, none of it bringing a new finding.
    InputError for a proposal there is none of, Stopped once not `wanted`. `told` hears how far it is, `whole` of all of
    them what is taken after each."""
    kind = " ".join(what.lower().split())
    if kind == "all":
        return _everything(design, shelf, told, wanted, whole)
    if kind not in _TAKERS:
        raise InputError.of("language.no-proposal", what=what)
    told(kind)
    before = analyse(design, shelf, wanted=wanted)
    proposed = _TAKERS[kind](design, before, shelf)

    def judged(made: Design, round_: int) -> Results:
        told(f"{kind}, round {round_ + 1}")
        return analyse(made, shelf, wanted=wanted)

    return _held(design, proposed, before, shelf, judged)


def _everything(
    design: Design, shelf: Shelf | None, told: Callable[[str], None], wanted: Wanted, whole: Callable[[Taken], None]
) -> Taken:
    """All proposals, fuses first, since sizes follow from them."""
    raised: dict[str, None] = {}
    left: dict[str, str] = {}
    made = design
    for what in ("fuses", "sizes", "ends", "coverings"):
        found = taken(made, what, shelf, told, wanted)
        made = found.design
        raised |= dict.fromkeys(found.raised)
        left |= dict(found.left)
        best = Taken(made, _changed(design, made), tuple(raised), tuple(left.items()))
        whole(best)
    return best


def _changed(before: Design, after: Design) -> int:
    """How many wires, ends and segments differ."""
    many = 0
    for table in _TABLES:
        old = {row.id: row for row in getattr(before, table)}
        many += sum(old.get(row.id) != row for row in getattr(after, table))
    return many


def _held(
    design: Design, made: Design, before: Results, shelf: Shelf | None, judged: Callable[[Design, int], Results]
) -> Taken:
    """What of `made` can be taken without a new finding."""
    known = {finding.id for finding in before.findings}
    first = made
    left: dict[str, str] = {}
    for round_ in range(ROUNDS):
        if made == design:
            break
        fresh = new_findings(known, judged(made, round_))
        if not fresh:
            break
        higher = _risen(made, shelf) if round_ < ROUNDS // 2 else made
        if higher != made and len(new_findings(known, judged(higher, round_))) < len(fresh):
            made = higher
            continue
        less, names = _without(design, made, fresh)
        for name in names:
            left.setdefault(name, _reason(name, fresh))
        made = less
    else:
        made = design
    return Taken(made, _changed(design, made), _raised(design, first, made), tuple(left.items()))


def _raised(design: Design, first: Design, made: Design) -> tuple[str, ...]:
    """Wires that now have more than was proposed for them, or than they had, so that what was taken brings nothing
    new."""
    before, proposed = index_of(design).wires, index_of(first).wires
    return tuple(
        wire.id
        for wire in made.wires
        if wire.id in before and wire.size not in (before[wire.id].size, proposed[wire.id].size)
    )


def _reason(name: str, fresh: list[Finding]) -> str:
    """The finding that kept a part as it was: the one about it, else the first that it has to do with."""
    own = [finding for finding in fresh if name in re.split(r"[ /:]", f"{finding.id} {finding.at}")]
    return (own or fresh)[0].message


def new_findings(known: Iterable[str], after: Results) -> list[Finding]:
    """Faults and warnings that weren't among those `known`."""
    ids = set(known)
    return [finding for finding in after.findings if finding.severity < Severity.NOTE and finding.id not in ids]


def _risen(design: Design, shelf: Shelf | None) -> Design:
    """The design with wires nobody locked at what would be proposed for them now, where that is more."""
    free = put_all(
        design, "wires", [change(wire, size=None) for wire in design.wires if wire.size is not None and not wire.locked]
    )
    proposed = analyse(free, shelf, upto="sizes").sizes
    higher = []
    for wire in design.wires:
        said = proposed.get(wire.id)
        if (
            wire.size is not None
            and not wire.locked
            and said
            and parse_size(said).area_mm2 > parse_size(wire.size).area_mm2 * (1 + 1e-9)
        ):
            higher.append(change(wire, size=said))
    return put_all(design, "wires", higher) if higher else design


def _without(design: Design, made: Design, fresh: list[Finding]) -> tuple[Design, list[str]]:
    """`made` with what touches the new findings as it was before, and the names of that; all as it was where nothing
    touches them."""
    old = {table: {row.id: row for row in getattr(design, table)} for table in _TABLES}
    moved = {table: {row.id for row in getattr(made, table) if old[table].get(row.id) != row} for table in _TABLES}
    wires, ends = _spread(made, moved, *_touched(made, moved, fresh))
    touched: set[tuple[Table, str]] = {
        ("segments", finding.subject) for finding in fresh if finding.table == "segments"
    }
    touched |= {("wires", wire) for wire in wires} | {("ends", end) for end in ends}
    gone = {(table, row) for table, row in touched if row in moved[table] and row in old[table]}
    if not gone:
        return design, [finding.subject for finding in fresh]
    for table in _TABLES:
        back = [old[table][row] for name, row in gone if name == table]
        made = put_all(made, table, back) if back else made
    return made, [row for _, row in sorted(gone)]


def _touched(made: Design, moved: Moved, fresh: Iterable[Finding]) -> tuple[set[str], set[str]]:
    """(wires, ends) that findings are about or name."""
    index = index_of(made)
    wires, ends = set[str](), set[str]()
    for finding in fresh:
        subject = finding.subject.split("/")[0].split(" ")[0].split(":")[0]
        if finding.table == "wires" or subject in index.wires:
            wires.add(subject)
        if finding.table == "ends" or subject in index.ends:
            ends.add(subject)
        if load := index.loads.get(subject):
            ends |= {load.plus.end, load.minus.end}
        wires |= {wire for wire in moved["wires"] if wire in finding.at.split() or f" {wire} " in f" {finding.id} "}
    return wires, ends


def _spread(made: Design, moved: Moved, wires: set[str], ends: set[str]) -> tuple[set[str], set[str]]:
    """The same with all that was proposed with them: a wire's ends that moved, and all wires at these."""
    index = index_of(made)
    while True:
        pins = [pin for wire in wires if (one := index.wires.get(wire)) for pin in (one.start, one.finish)]
        more_ends = {pin.end for pin in pins} & moved["ends"]
        more_wires = {wire.id for wire in made.wires if {wire.start.end, wire.finish.end} & ends & moved["ends"]}
        if more_wires <= wires and more_ends <= ends:
            return wires, ends
        wires, ends = wires | more_wires, ends | more_ends


def _sizes(design: Design, found: Results, _: Shelf | None) -> Design:
    wires = index_of(design).wires
    return put_all(
        design, "wires", [change(wires[key], size=size) for key, size in found.sizes.items() if wires[key].size is None]
    )


def _ends(design: Design, found: Results, shelf: Shelf | None) -> Design:
    return accept(design, found.once(fitted), None, shelf)


def _coverings(design: Design, found: Results, _: Shelf | None) -> Design:
    return take_covers(design, found)


def _fit(design: Design, found: Results, _: Shelf | None) -> Design:
    return fit_fuses(design, found.figures.solution)


def _place(design: Design, found: Results, _: Shelf | None) -> Design:
    return place_fuses(design, found.figures).design


def _fuses(design: Design, found: Results, shelf: Shelf | None) -> Design:
    """Fuses placed where there is none, those without a rating fitted, until nothing changes any more."""
    for _ in range(ROUNDS):
        before = design
        placed = _place(design, found, shelf)
        design = _fit(placed, analyse(placed, shelf), shelf)
        if design == before:
            break
        found = analyse(design, shelf)
    return design


_TAKERS: dict[str, Callable[[Design, Results, Shelf | None], Design]] = {
    "sizes": _sizes, "ends": _ends, "coverings": _coverings, "fuses": _fuses, "fit fuses": _fit, "place fuses": _place,
}  # fmt: skip
