"""What to buy for so many units: conductors, cables, parts, coverings, labels and test pieces, with spares, less what is there.

Spares by rule: a share of what is needed, at least so many, and the sample pieces that each tool's set-up takes. Bought in whole
packs where a part is sold in packs.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from umber_trunk.core.buy.samples import sample_pieces
from umber_trunk.core.catalog.conductors import area_of, conductor, show_size
from umber_trunk.core.catalog.parts import Base, Ferrule, Lug, Shrink, Tape
from umber_trunk.core.catalog.shelf import shelf_of
from umber_trunk.core.covers.dress import COLLAR_M, dressed
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.ends.wire_rules import shrink_on
from umber_trunk.core.errors import InputError
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.kit.coils import Coil, Piece, suits
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.operations import operations
from umber_trunk.core.results import Results

Row = list[str | int | float | None]
LABELS_PER_WIRE = 2
NOBODY = "supplier open"


@dataclass(frozen=True)
class Spares:
    """How much more than needed: a share, and at least so many of what is counted. `samples` crimps are pulled apart at each set-up."""

    percent: float = 3.0
    least: int = 1
    samples: int = 1

    def __post_init__(self) -> None:
        if not 0 <= self.percent <= 200 or not 0 <= self.least <= 1000 or not 0 <= self.samples <= 20:
            raise InputError("Spares are 0 to 200 %, at least 0 to 1000, with 0 to 20 samples for each set-up.")


@dataclass(frozen=True)
class Buy:
    """One line: `needed` with `test` for set-ups, `spare` on top, `have` on the shelf, `buy` in whole packs. Counts in pieces, lengths in
    m by `unit`; price and mass of what is bought."""

    what: str
    id: str
    name: str
    unit: str
    needed: float
    test: float
    spare: float
    have: float
    buy: float
    pack: float
    packs: int
    price: float
    mass_kg: float
    supplier: str
    decided: str = ""


def shopping(
    results: Results,
    units: int,
    spares: Spares | None = None,
    coils: Sequence[Coil] = (),
    have: Mapping[str, float] | None = None,
) -> list[Buy]:
    """All there is to buy, by supplier, then kind. `coils` are on the shelf, `have` counts of parts by their id there. InputError while a
    wire's size is open."""
    rule = spares or Spares()
    counted, metres, tests = _parts(results, units, rule)
    shelf = shelf_of(results.design.parts)
    held = dict(have or {})
    rows = []
    for part_id, count in {**dict.fromkeys(tests, 0.0), **counted}.items():
        if part_id not in metres:
            rows.append(_line(shelf.named(part_id), part_id, "pcs", count, tests.get(part_id, 0.0), rule, held.get(part_id, 0.0)))  # fmt: skip
    for part_id, length in metres.items():
        rows.append(_line(shelf.named(part_id), part_id, "m", length, 0.0, rule, held.get(part_id, 0.0)))
    rows += _wires(results, units, rule, coils)
    many = float(units * LABELS_PER_WIRE * len({piece.wire for piece in pieces(results, 1)}))
    spare = float(max(math.ceil(many * rule.percent / 100), rule.least))
    labelled = min(held.get("label", 0.0), many + spare)
    rows.append(Buy("label", "label", "printed label", "pcs", many, 0.0, spare, labelled, many + spare - labelled, 0.0, 0, 0.0, 0.0, NOBODY))  # fmt: skip
    return sorted(rows, key=lambda row: (row.supplier == NOBODY, row.supplier, row.what, -area_of(row.id), row.name))


def _parts(results: Results, units: int, rule: Spares) -> tuple[dict[str, float], dict[str, float], dict[str, float]]:
    """(pieces, metres, test pieces) of every part, by its id."""
    places, known, shelf = places_of(results.design), results.once(fitted), shelf_of(results.design.parts)
    plant = results.figures.solution.plant
    counted: dict[str, float] = defaultdict(float)
    metres: dict[str, float] = defaultdict(float)
    seen: set[str] = set()
    for one in places.ends:
        if one.wire.id not in plant.row:
            continue
        fitting = known.of(one)
        group = _group(places.together(one))
        shared = one.made in ("contact", "splice")
        if fitting.part and shelf.named(fitting.part) is not None and not (shared and group in seen):
            counted[fitting.part] += units * (one.wire.parallel if one.made == "lug" else 1)
        ferrule = shelf.get(fitting.ferrule, Ferrule)
        if ferrule is not None and not (ferrule.twin and f"f {group}" in seen):
            counted[ferrule.id] += units
            seen.add(f"f {group}")
        for worn in (fitting.seal, fitting.boot):
            if worn and shelf.named(worn) is not None:
                counted[worn] += units
        shrink = shelf.get(fitting.shrink, Shrink)
        lug = shelf.get(fitting.part, Lug)
        if shrink is not None and lug is not None:
            outer = plant.conductors[plant.row[one.wire.id]].outer_mm
            metres[shrink.id] += units * one.wire.parallel * shrink_on(lug, shrink, outer)[2] / 1e3
        seen.add(group)
    for end, body, housing in places.housings():
        counted[housing.id] += units
        closed = known.blanks.get((end.id, body.id), ())
        if closed and housing.plug:
            counted[housing.plug] += units * len(closed)
    for plan in results.once(joins):
        if plan.shrink:
            metres[plan.shrink] += units * plan.shrink_cut_mm / 1e3
    for limb in results.once(dressed).values():
        for cover in limb.covers:
            if cover.part and cover.cut_m > 0:
                metres[cover.part] += units * cover.cut_m
            elif cover.part:
                counted[cover.part] += units
            if cover.collar:
                metres[cover.collar] += units * cover.collars * COLLAR_M
    return dict(counted), dict(metres), _samples(results, rule)


def _group(together: Iterable[WireEnd]) -> str:
    """One name for the wire ends that share a contact or barrel."""
    return " ".join(sorted(f"{one.wire.id}/{one.side}" for one in together))


def _samples(results: Results, rule: Spares) -> dict[str, float]:
    """Contacts, lugs and barrels crimped on sample pieces, once for each set-up of a run."""
    found: dict[str, float] = defaultdict(float)
    for one in results.once(operations):
        if one.sample and one.op == "crimp" and one.part:
            found[one.part] += rule.samples
    return dict(found)


def _line(part: Base | None, part_id: str, unit: str, needed: float, test: float, rule: Spares, have: float) -> Buy:
    name = part.name if part is not None else part_id
    spare = (needed + test) * rule.percent / 100
    if unit == "pcs":
        spare = float(max(math.ceil(spare - 1e-9), rule.least))
    total = needed + test + spare
    used = min(have, total)
    buy = total - used
    pack = part.pack if part is not None else 0.0
    if isinstance(part, Tape) and not pack:
        pack = part.roll_m
    packs = math.ceil(buy / pack - 1e-9) if pack else 0
    bought = packs * pack if pack else buy
    price, mass = (part.price, part.mass_g) if part is not None else (0.0, 0.0)
    kind = str(getattr(part, "kind", "part"))
    return Buy(kind, part_id, name, unit, needed, test, spare, used, bought, pack, packs, bought * price, bought * mass / 1e3, (part.supplier if part else "") or NOBODY)  # fmt: skip


def _wires(results: Results, units: int, rule: Spares, coils: Sequence[Coil]) -> list[Buy]:
    """Conductors by size, metal and colour and cables by part, sample pieces counted in, what the shelf has taken off."""
    plant, shelf = results.figures.solution.plant, shelf_of(results.design.parts)
    by: dict[tuple[str, str, str], list[Piece]] = defaultdict(list)
    for piece in pieces(results, units):
        by[piece.size, piece.metal, piece.colour].append(piece)
    specs = {(f.shown_size, plant.conductors[f.row].metal.id): plant.conductors[f.row] for f in results.figures.wires.values()}  # fmt: skip
    tested: dict[tuple[str, str, str], float] = defaultdict(float)
    for piece in sample_pieces(results, rule.samples):
        tested[piece.size, piece.metal, piece.colour] += piece.length_m
    left = {coil.id: coil.length_m for coil in coils}
    names = {decision.wire: f"{decision.wire} in place of {decision.was} ({decision.who})" for decision in results.design.decisions}  # fmt: skip
    rows = []
    for (size, metal, colour), mine in by.items():
        needed = sum(piece.length_m for piece in mine)
        test = tested[size, metal, colour]
        total = needed + test + needed * rule.percent / 100
        have = 0.0
        for coil in coils:
            if suits(coil, mine[0]) and left[coil.id] > 0 and have < total:
                taken = min(left[coil.id], total - have)
                left[coil.id] -= taken
                have += taken
        decided = "; ".join(dict.fromkeys(names[piece.wire] for piece in mine if piece.wire in names))
        cable = shelf.named(size)
        buy = total - have
        if cable is not None:
            packs = math.ceil(buy / cable.pack - 1e-9) if cable.pack else 0
            bought = packs * cable.pack if cable.pack else buy
            rows.append(Buy("cable", size, cable.name, "m", needed, test, total - needed - test, have, bought, cable.pack, packs, bought * cable.price, bought * cable.mass_g / 1e3, cable.supplier or NOBODY, decided))  # fmt: skip
            continue
        made = specs.get((size, metal)) or conductor(size, metal, results.design.project.make, results.design.project.jacket)  # fmt: skip
        mass = buy * made.kg_per_m
        name = f"{show_size(size)} {made.metal.name}, {made.make.name}, {made.jacket.name}, {colour or 'any colour'}"
        rows.append(Buy("wire", size, name, "m", needed, test, total - needed - test, have, buy, 0.0, 0, mass * made.metal.price_per_kg, mass, NOBODY, decided))  # fmt: skip
    return rows


def shopping_rows(buys: Sequence[Buy]) -> list[Row]:
    """The list as a table, with a total under each supplier."""
    rows: list[Row] = [["supplier", "what", "id", "name", "unit", "needed", "for set-up", "spare", "on the shelf", "buy", "packs", "price", "mass (kg)", "note"]]  # fmt: skip
    for at, one in enumerate(buys):
        rows.append([one.supplier, one.what, one.id, one.name, one.unit, _neat(one, one.needed), _neat(one, one.test), _neat(one, one.spare), _neat(one, one.have), _neat(one, one.buy), one.packs or None, round(one.price, 2), round(one.mass_kg, 3), one.decided])  # fmt: skip
        if at + 1 == len(buys) or buys[at + 1].supplier != one.supplier:
            mine = [row for row in buys if row.supplier == one.supplier]
            rows.append([one.supplier, "total", "", "", "", None, None, None, None, None, None, round(sum(row.price for row in mine), 2), round(sum(row.mass_kg for row in mine), 3), ""])  # fmt: skip
    return rows


def _neat(one: Buy, value: float) -> int | float:
    return round(value) if one.unit == "pcs" else round(value, 3)
