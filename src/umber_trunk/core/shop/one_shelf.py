"""One cutting plan, and one list of what to order, over all jobs.

All pieces are planned together; where the shelf doesn't reach for all, jobs are cut in the order they are due, so that
what runs short is the last one's. What is ordered is ordered by the day it has to be on its way.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from umber_trunk.core.catalog.conductors import show_size
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.price import plain_part
from umber_trunk.core.kit.coilcut import CutPlan, plan_cuts
from umber_trunk.core.kit.coils import USABLE_M, Coil, Piece
from umber_trunk.core.moments import Day, day_from, days_on
from umber_trunk.core.printed import TICK, PaperTable, Printed
from umber_trunk.core.sentences import say
from umber_trunk.core.shop import money
from umber_trunk.core.shop.price_book import PriceBook
from umber_trunk.core.shop.things import Job, Shop

FAR = "9999-12-31"
WORK_DAYS = 5
"""Material is here so many days before the job is due."""


@dataclass(frozen=True)
class Wants:
    """What a job still needs: lengths to cut, and parts by their id."""

    job: Job
    pieces: tuple[Piece, ...] = ()
    parts: Mapping[str, float] | None = None
    names: Mapping[str, str] | None = None


@dataclass(frozen=True)
class Reserved:
    """A piece of a job on its coil."""

    job: str
    piece: Piece
    coil: str
    at_m: float


@dataclass(frozen=True)
class RunsShort:
    """What a job lacks: of which size and colour how many metres, in how many pieces, and when it is due."""

    job: str
    what: str
    metres: float
    pieces: int
    due: str | None
    wires: tuple[str, ...] = ()


@dataclass(frozen=True)
class ShelfPlan:
    """All accepted jobs on one shelf. `in_turn`: it doesn't reach for all, and they were cut as they are due."""

    cuts: tuple[Reserved, ...]
    short: tuple[RunsShort, ...]
    left_m: Mapping[str, float]
    opened: tuple[str, ...]
    waste_m: float
    bound_m: float
    short_bound: int
    in_turn: bool


def in_due_order(wants: Sequence[Wants]) -> list[Wants]:
    """Jobs by the day they are due, then by weight and name."""
    return sorted(wants, key=lambda one: (one.job.due or FAR, -one.job.weight, one.job.id))


def shelf_plan(
    wants: Sequence[Wants], coils: Sequence[Coil], usable_m: float = USABLE_M, wanted: Wanted = always
) -> ShelfPlan:
    """The plan; pieces keep their job."""
    ordered = in_due_order(wants)
    named = [(one.job, _named(one.job, piece)) for one in ordered for piece in one.pieces]
    whole = plan_cuts(coils, [piece for _, piece in named], usable_m, wanted)
    if not whole.short:
        return _told(ordered, [whole], whole, False, usable_m)
    plans, left = [], list(coils)
    for one in ordered:
        go_on_if(wanted)
        plan = plan_cuts(left, [_named(one.job, piece) for piece in one.pieces], usable_m, wanted)
        plans.append(plan)
        left = [replace(coil, length_m=plan.left_m[coil.id]) for coil in left]
    return _told(ordered, plans, whole, True, usable_m)


def _named(job: Job, piece: Piece) -> Piece:
    return replace(piece, wire=f"{job.id}\0{piece.wire}")


def _plain(piece: Piece) -> tuple[str, Piece]:
    job, _, wire = piece.wire.partition("\0")
    return job, replace(piece, wire=wire)


def _told(
    ordered: Sequence[Wants], plans: Sequence[CutPlan], whole: CutPlan, in_turn: bool, usable_m: float
) -> ShelfPlan:
    due = {one.job.id: one.job.due for one in ordered}
    cuts: list[Reserved] = []
    used: dict[str, float] = defaultdict(float)
    lacking: dict[tuple[str, str], list[Piece]] = defaultdict(list)
    for plan in plans:
        for cut in plan.cuts:
            job, piece = _plain(cut.piece)
            at = used[cut.coil] if in_turn else cut.at_m
            used[cut.coil] += piece.length_m
            cuts.append(Reserved(job, piece, cut.coil, at))
        for short in plan.short:
            job, piece = _plain(short)
            lacking[job, f"{show_size(piece.size)} {piece.colour}".strip()].append(piece)
    runs_short = tuple(
        RunsShort(
            job,
            what,
            sum(piece.length_m for piece in mine),
            len(mine),
            due.get(job),
            tuple(dict.fromkeys(piece.wire for piece in mine)),
        )
        for (job, what), mine in lacking.items()
    )
    opened = tuple(dict.fromkeys(coil for plan in plans for coil in plan.opened))
    waste = sum(left for coil in opened if 0 < (left := plans[-1].left_m[coil]) < usable_m)
    return ShelfPlan(
        tuple(cuts),
        runs_short,
        plans[-1].left_m,
        opened,
        waste,
        whole.bound_m,
        whole.short_bound,
        in_turn,
    )


@dataclass(frozen=True)
class ToOrder:
    """One thing to order: for which jobs, how much is lacking, what is ordered in packs, at which price, by which day
    it has to be on its way; `late` where that day is over."""

    what: str
    name: str
    unit: str
    lacking: float
    amount: Decimal
    packs: int
    supplier: str
    each: Decimal | None
    cost: Decimal | None
    by: Day | None
    late: bool
    jobs: tuple[str, ...]


def parts_lacking(wants: Sequence[Wants], have: Mapping[str, float]) -> dict[str, list[tuple[Job, float]]]:
    """Part → how many of it each job lacks: what is there goes to the jobs as they are due."""
    left, lacks = dict(have), defaultdict[str, list[tuple[Job, float]]](list)
    for one in in_due_order(wants):
        for part, count in (one.parts or {}).items():
            taken = min(left.get(part, 0.0), count)
            left[part] = left.get(part, 0.0) - taken
            if count - taken > 1e-9:
                lacks[part].append((one.job, count - taken))
    return dict(lacks)


def to_order(wants: Sequence[Wants], plan: ShelfPlan, have: Mapping[str, float], shop: Shop, day: Day) -> list[ToOrder]:
    """What is ordered for all jobs: what no coil gives, and parts beyond those counted and those that are to come.
    Parts go to the jobs as they are due."""
    ordered = in_due_order(wants)
    coming: dict[str, float] = defaultdict(float)
    for order in shop.incoming:
        if order.came is None:
            coming[plain_part(order.part)] += order.amount
    book = PriceBook(shop.prices, day)
    lead = {one.id: one.lead_days for one in shop.suppliers}
    names: dict[str, str] = {}
    for one in ordered:
        names |= one.names or {}
    lacks = parts_lacking(ordered, have)
    jobs = {one.job.id: one.job for one in ordered}
    wires: dict[str, list[tuple[Job, float]]] = defaultdict(list)
    for short in plan.short:
        wires[short.what].append((jobs[short.job], short.metres))
    rows = [_row(part, names.get(part, part), "pcs", mine, coming, book, lead, day) for part, mine in lacks.items()]
    rows += [_row(what, names.get(what, what), "m", mine, coming, book, lead, day) for what, mine in wires.items()]
    found = [row for row in rows if row is not None]
    return sorted(found, key=lambda row: (row.by is None, row.by or day, row.supplier, row.name))


def _row(
    what: str,
    name: str,
    unit: str,
    mine: Sequence[tuple[Job, float]],
    coming: dict[str, float],
    book: PriceBook,
    lead: Mapping[str, int],
    day: Day,
) -> ToOrder | None:
    lacking = sum(amount for _, amount in mine)
    part = plain_part(what)
    comes = min(coming.get(part, 0.0), lacking)
    coming[part] = coming.get(part, 0.0) - comes
    if lacking - comes < 1e-9:
        return None
    amount = money.of(lacking - comes)
    price = book.of_named(what, amount)
    packs = 0
    if price is not None and price.pack > 0:
        packs = money.packs(amount, price.pack)
        amount = price.pack * packs
        better = book.of_named(what, amount)  # a whole pack may reach the next price break
        price = better if better is not None and better.pack == price.pack else price
    elif unit == "pcs":
        amount = Decimal(money.packs(amount, Decimal(1)))
    dues = [day_from(job.due) for job, _ in mine if job.due is not None]
    supplier = price.supplier if price is not None else ""
    by = days_on(min(dues), -lead.get(supplier, 7) - WORK_DAYS) if dues else None
    each = price.each if price is not None else None
    return ToOrder(
        what,
        name,
        unit,
        lacking - comes,
        amount,
        packs,
        supplier,
        each,
        each * amount if each is not None else None,
        by,
        by is not None and by < day,
        tuple(dict.fromkeys(job.id for job, _ in mine)),
    )


def order_rows(rows: Sequence[ToOrder]) -> list[list[str | int | float | None]]:
    """The list as a table."""
    found: list[list[str | int | float | None]] = [
        ["by", "supplier", "what", "name", "lacking", "unit", "order", "packs", "each", "cost", "jobs", "late"]
    ]
    for row in rows:
        each = None if row.each is None else float(row.each)
        cost = None if row.cost is None else float(row.cost)
        by = row.by.isoformat() if row.by else ""
        jobs, late = ", ".join(row.jobs), "yes" if row.late else ""
        amounts: list[str | int | float | None] = [
            round(row.lacking, 4),
            row.unit,
            float(row.amount),
            row.packs or None,
        ]
        found.append([by, row.supplier, row.what, row.name, *amounts, each, cost, jobs, late])
    return found


def order_sheet(rows: Sequence[ToOrder], currency: str, day: Day) -> Printed:
    """The list on paper."""
    cells = tuple(
        (
            row.by.isoformat() if row.by else "–",
            row.supplier or "open",
            row.name,
            f"{float(row.amount):g} {row.unit}",
            str(row.packs or ""),
            "open" if row.cost is None else money.told(row.cost, currency),
            ", ".join(row.jobs),
            TICK,
        )
        for row in rows
    )
    titles = ("On its way by", "Supplier", "What", "Order", "Packs", "Cost", "For", "")
    table = PaperTable(titles, (0.12, 0.12, 0.34, 0.1, 0.06, 0.11, 0.11, 0.04), (3, 4, 5), cells)
    late = sum(row.late for row in rows)
    state = say("paper.all-jobs", day=day.isoformat(), late=late)
    return Printed(say("paper.to-order"), state, not late, (table,) if cells else (), say("paper.as-the-shop-has"))
