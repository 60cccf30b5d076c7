"""What to buy for so many units: conductors, cables, parts, coverings, labels and test pieces, with spares, less what
is there.

Spares by rule: a share of what is needed, at least so many, and the sample pieces that each tool's set-up takes. Bought
in whole packs where a part is sold in packs.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from umber_trunk.core.buy.lines import Buy, Spares
from umber_trunk.core.buy.packs import in_packs
from umber_trunk.core.catalog.conductors import Conductor, area_of, conductor, show_size
from umber_trunk.core.catalog.parts import Base, Ferrule, Lug, Shrink, Tape
from umber_trunk.core.covers.dress import COLLAR_M, dressed
from umber_trunk.core.ends.covering import fitted
from umber_trunk.core.ends.lug_rules import shrink_on
from umber_trunk.core.ends.wire_ends import WireEnd, places_of
from umber_trunk.core.errors import Wanted, always
from umber_trunk.core.harness.end import LinkKind
from umber_trunk.core.joins.join_plans import joins
from umber_trunk.core.kit.coilcut import plan_cuts
from umber_trunk.core.kit.coils import Coil, Piece, suits
from umber_trunk.core.kit.stock import pieces
from umber_trunk.core.make.operations import operations
from umber_trunk.core.make.samples import sample_pieces
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, say

Row = list[str | int | float | None]
LABELS_PER_WIRE = 2
"""One at each end."""
NOBODY = "supplier open"


def shopping(
    results: Results,
    units: int,
    spares: Spares | None = None,
    coils: Sequence[Coil] = (),
    have: Mapping[str, float] | None = None,
    wanted: Wanted = always,
) -> list[Buy]:
    """All there is to buy, by supplier, then kind. `coils` are on the shelf, `have` counts of parts by their id there.
    InputError while a wire's size is open."""
    rule = spares or Spares()
    counted, metres, tests = _parts(results, units, rule)
    shelf = results.shelf
    held = dict(have or {})
    rows = []
    for part_id, count in {**dict.fromkeys(tests, 0.0), **counted}.items():
        if part_id not in metres:
            rows.append(
                _line(
                    shelf.named(part_id), part_id, "pcs", count, tests.get(part_id, 0.0), rule, held.get(part_id, 0.0)
                )
            )
    for part_id, lengths in metres.items():
        rows.append(_lengths(shelf.named(part_id), part_id, lengths, rule, held.get(part_id, 0.0)))
    rows += _fuses(results, units, rule, held)
    rows += _wires(results, units, rule, coils, wanted)
    many = float(units * LABELS_PER_WIRE * len({piece.wire for piece in pieces(results, 1)}))
    spare = float(max(math.ceil(many * rule.percent / 100), rule.least))
    labelled = min(held.get("label", 0.0), many + spare)
    rows.append(
        Buy(
            "label",
            "label",
            "printed label",
            "pcs",
            many,
            0.0,
            spare,
            labelled,
            many + spare - labelled,
            0.0,
            0,
            0.0,
            0.0,
            NOBODY,
            priced=False,
        )
    )
    return sorted(rows, key=lambda row: (row.supplier == NOBODY, row.supplier, row.what, -area_of(row.id), row.name))


def _parts(
    results: Results, units: int, rule: Spares
) -> tuple[dict[str, float], dict[str, list[float]], dict[str, float]]:
    """(pieces, lengths to cut in m, test pieces) of every part, by its id."""
    counted: dict[str, float] = defaultdict(float)
    metres: dict[str, list[float]] = defaultdict(list)
    _at_wires(results, units, counted, metres)
    known = results.once(fitted)
    for end, body, housing in places_of(results.design, results.shelf).housings():
        counted[housing.id] += units
        closed = known.blanks.get((end.id, body.id), ())
        if closed and housing.plug:
            counted[housing.plug] += units * len(closed)
    for plan in results.once(joins):
        if plan.shrink:
            metres[plan.shrink] += units * [plan.shrink_cut_mm / 1e3]
    for limb in results.once(dressed).values():
        for cover in limb.covers:
            if cover.part and cover.cut_m > 0:
                metres[cover.part] += units * [cover.cut_m]
            elif cover.part:
                counted[cover.part] += units
            if cover.collar:
                metres[cover.collar] += units * cover.collars * [COLLAR_M]
    return dict(counted), dict(metres), _samples(results, rule)


def _at_wires(results: Results, units: int, counted: dict[str, float], metres: dict[str, list[float]]) -> None:
    """Adds what the wires' ends wear. A contact or splice is there once for all wires in it, a ferrule for two too; a
    lug, its shrink are there for each conductor of a wire."""
    places, known, shelf = places_of(results.design, results.shelf), results.once(fitted), results.shelf
    plant = results.plant
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
        shrink, lug = shelf.get(fitting.shrink, Shrink), shelf.get(fitting.part, Lug)
        if shrink is not None and lug is not None:
            outer = plant.conductors[plant.row[one.wire.id]].outer_mm
            metres[shrink.id] += units * one.wire.parallel * [shrink_on(lug, shrink, outer)[2] / 1e3]
        seen.add(group)


def _fuses(results: Results, units: int, rule: Spares, held: Mapping[str, float]) -> list[Buy]:
    """Fuses by kind and rating, of every way a wire uses: no catalogue has them, and no lead is whole without."""
    design = results.design
    used = {(pin.end, pin.cavity) for wire in design.wires for pin in (wire.start, wire.finish)}
    counted: dict[str, float] = defaultdict(float)
    for end in design.ends:
        for link in end.links:
            if link.kind is LinkKind.FUSE and link.rating_a and {(end.id, link.a), (end.id, link.b)} & used:
                style = f" {link.style}" if link.style and link.style != "main" else ""
                counted[f"fuse{style}, {link.rating_a:g} A"] += units
    lines = [_line(None, name, "pcs", count, 0.0, rule, held.get(name, 0.0)) for name, count in counted.items()]
    return [replace(line, what="fuse") for line in lines]


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
    spare = float(max(math.ceil((needed + test) * rule.percent / 100 - 1e-9), rule.least))
    total = needed + test + spare
    used = min(have, total)
    buy = total - used
    pack = part.pack if part is not None else 0.0
    packs = math.ceil(buy / pack - 1e-9) if pack else 0
    return _bought(part, part_id, name, unit, needed, test, spare, used, packs * pack if pack else buy, pack, packs)


def _bought(
    part: Base | None,
    part_id: str,
    name: str,
    unit: str,
    needed: float,
    test: float,
    spare: float,
    have: float,
    buy: float,
    pack: float,
    packs: int,
    **more: Any,
) -> Buy:
    price, mass = (part.price, part.mass_g) if part is not None else (0.0, 0.0)
    kind = str(getattr(part, "kind", "part"))
    return Buy(
        kind,
        part_id,
        name,
        unit,
        needed,
        test,
        spare,
        have,
        buy,
        pack,
        packs,
        buy * price,
        buy * mass / 1e3,
        (part.supplier if part else "") or NOBODY,
        priced=price > 0,
        **more,
    )


def _lengths(part: Base | None, part_id: str, lengths: Sequence[float], rule: Spares, have: float) -> Buy:
    """What is cut from a length: shrink, braid, tube, tape. The shelf's metres are taken for one piece; packs are
    filled piece by piece, except with tape, which may be joined."""
    name = part.name if part is not None else part_id
    pack = part.pack if part is not None else 0.0
    joined = isinstance(part, Tape)
    if isinstance(part, Tape) and not pack:
        pack = part.roll_m
    needed = sum(lengths)
    spare = needed * rule.percent / 100
    if joined:
        used = min(have, needed + spare)
        buy = needed + spare - used
        packs = math.ceil(buy / pack - 1e-9) if pack else 0
        return _bought(part, part_id, name, "m", needed, 0.0, spare, used, packs * pack if pack else buy, pack, packs)
    left, open_lengths = have, []
    for length in sorted(lengths, reverse=True):
        if length <= left + 1e-9:
            left -= length
        else:
            open_lengths.append(length)
    more = max(spare - left, 0.0)
    longest = max(open_lengths, default=0.0)
    buy, packs, note = in_packs(open_lengths, more, pack)
    used = needed + spare - sum(open_lengths) - more
    return _bought(part, part_id, name, "m", needed, 0.0, spare, used, buy, pack, packs, longest_m=longest, note=note)


def _wires(results: Results, units: int, rule: Spares, coils: Sequence[Coil], wanted: Wanted) -> list[Buy]:
    """Conductors by size, metal and colour and cables by part, sample pieces counted in. What the shelf has is cut as
    the coils are planned: each wire in one piece; what runs short is bought whole."""
    by, tested = _by_kind(pieces(results, units)), _by_kind(sample_pieces(results, rule.samples))
    cut = [*(p for mine in by.values() for p in mine), *(p for mine in tested.values() for p in mine)]
    plan = plan_cuts(coils, cut, wanted=wanted) if coils else None
    left = dict(plan.left_m) if plan is not None else {}
    short = set(map(id, plan.short)) if plan is not None else set(map(id, cut))
    names = {
        one.wire: Message.of("buy.in-place", wire=one.wire, was=one.was, who=one.who)
        for one in results.design.decisions
    }
    rows = []
    for (size, metal, colour), mine in by.items():
        tests = tested[size, metal, colour]
        needed, test = sum(piece.length_m for piece in mine), sum(piece.length_m for piece in tests)
        spare = needed * rule.percent / 100
        missing = [piece.length_m for piece in (*mine, *tests) if id(piece) in short]
        more = spare - _taken([coil for coil in coils if suits(coil, mine[0])], left, spare)
        decided = tuple(names[wire] for wire in dict.fromkeys(piece.wire for piece in mine) if wire in names)
        longest, buy = max(missing, default=0.0), sum(missing) + more
        amounts = ("m", needed, test, spare, needed + test + spare - buy)
        cable = results.shelf.named(size)
        if cable is not None:
            bought, packs, note = in_packs(missing, more, cable.pack)
            told: dict[str, Any] = {"decided": decided, "longest_m": longest, "note": note}
            rows.append(_bought(cable, size, cable.name, *amounts, bought, cable.pack, packs, **told))
            continue
        made = _made_of(results, size, metal)
        name = f"{show_size(size)} {made.metal.name}, {made.make.name}, {made.jacket.name}, {colour or 'any colour'}"
        mass, price = buy * made.kg_per_m, made.metal.price_per_kg
        rows.append(
            Buy("wire", size, name, *amounts, buy, 0.0, 0, mass * price, mass, NOBODY, decided, longest, price > 0)
        )
    return rows


def _by_kind(wanted: Iterable[Piece]) -> dict[tuple[str, str, str], list[Piece]]:
    """(size, metal, colour) → its pieces."""
    found: dict[tuple[str, str, str], list[Piece]] = defaultdict(list)
    for piece in wanted:
        found[piece.size, piece.metal, piece.colour].append(piece)
    return found


def _taken(coils: Iterable[Coil], left: dict[str, float], most: float) -> float:
    """Metres taken from what is left of these coils, which is brought down by them."""
    taken = 0.0
    for coil in coils:
        some = min(max(left.get(coil.id, 0.0), 0.0), most - taken)
        if some > 0:
            left[coil.id] -= some
            taken += some
    return taken


def _made_of(results: Results, size: str, metal: str) -> Conductor:
    """The conductor of the last wire in this size and metal; else as the project makes it."""
    plant, project = results.plant, results.design.project
    for wire in reversed(results.figures.wires.values()):
        made = plant.conductors[wire.row]
        if (wire.shown_size, made.metal.id) == (size, metal):
            return made
    return conductor(size, metal, project.make, project.jacket)


def unpriced(buys: Iterable[Buy]) -> str:
    """What is bought without a price, named; "" for nothing."""
    names = list(dict.fromkeys(one.name for one in buys if not one.priced and one.buy > 0))
    return say("buy.without-a-price", names=", ".join(names)) if names else ""


def shopping_rows(buys: Sequence[Buy]) -> list[Row]:
    """The list as a table, with a total under each supplier."""
    rows: list[Row] = [["supplier", "what", "id", "name", "unit", "needed", "for set-up", "spare", "on the shelf", "buy", "packs", "price", "mass (kg)", "note"]]  # fmt: skip
    for at, one in enumerate(buys):
        rows.append(
            [
                one.supplier,
                one.what,
                one.id,
                one.name,
                one.unit,
                _neat(one, one.needed),
                _neat(one, one.test),
                _neat(one, one.spare),
                _neat(one, one.have),
                _neat(one, one.buy),
                one.packs or None,
                round(one.price, 2) if one.priced or one.buy <= 0 else None,
                round(one.mass_kg, 3),
                one.told,
            ]
        )
        if at + 1 == len(buys) or buys[at + 1].supplier != one.supplier:
            mine = [row for row in buys if row.supplier == one.supplier]
            rows.append(
                [
                    one.supplier,
                    "total",
                    "",
                    "",
                    "",
                    None,
                    None,
                    None,
                    None,
                    None,
                    None,
                    round(sum(row.price for row in mine), 2),
                    round(sum(row.mass_kg for row in mine), 3),
                    unpriced(mine),
                ]
            )
    return rows


def _neat(one: Buy, value: float) -> int | float:
    return round(value) if one.unit == "pcs" else round(value, 3)
