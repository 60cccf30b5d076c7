"""What `coils` and `buy` say of all accepted jobs of a shop."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.cli.quotes import day_of
from umber_trunk.cli.reading import results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, stoppable
from umber_trunk.core.errors import InputError

if TYPE_CHECKING:
    from umber_trunk.core.shop.one_shelf import ShelfPlan, Wants
    from umber_trunk.core.shop.things import Shop


def _planned(path: Path) -> tuple[Shop, list[Wants], ShelfPlan, dict[str, float], list[str]]:
    """(the shop, what each job wants, the plan, counted parts, what can't be read of the jobs' harnesses)."""
    from umber_trunk.store.shop_file import shop_file
    from umber_trunk.store.shop_jobs import ShopSeen, planned

    with shop_file(path) as file:
        shop, coils, parts = file.shop(), [held.now for held in file.coils()], file.floor.parts()
    seen = ShopSeen(path, shop, results_of)
    wants, plan = stoppable(lambda wanted: planned(seen, coils, wanted))
    lost = [f"{job.id}: {told:inside}" for job in shop.jobs if job.open and (told := seen.beside(job).seen.lost)]
    return shop, wants, plan, parts, lost


def coils_of_all(args: argparse.Namespace) -> int:
    """One cutting plan, its pieces named by job; what runs short, and for which job."""
    if args.stock or args.units != 1 or args.usable:
        raise InputError.of("shell.shops-file-says-that")
    _, wants, plan, _, lost = _planned(args.shop)
    if args.json:
        out(
            {
                "jobs": [one.job.id for one in wants],
                "cuts": [
                    {
                        "job": one.job,
                        "wire": one.piece.wire,
                        "unit": one.piece.unit,
                        "coil": one.coil,
                        "at_m": round(one.at_m, 4),
                        "length_m": round(one.piece.length_m, 4),
                        "parallel": one.piece.parallel,
                    }
                    for one in plan.cuts
                ],
                "short": [
                    {"job": s.job, "what": s.what, "metres": round(s.metres, 4), "pieces": s.pieces, "due": s.due}
                    for s in plan.short
                ],
                "short_bound": plan.short_bound,
                "in_turn": plan.in_turn,
                "opened": list(plan.opened),
                "waste_m": round(plan.waste_m, 4),
                "left": [{"coil": coil, "left_m": round(left, 4)} for coil, left in plan.left_m.items()],
                "lost": lost,
            }
        )
    else:
        for coil in plan.opened:
            print(coil)
            for one in (row for row in plan.cuts if row.coil == coil):
                what = f"unit {one.piece.unit}" if one.piece.unit else "a sample"
                print(f"  at {one.at_m:8.3f} m cut {one.piece.length_m:7.3f} m  {one.job}: {one.piece.wire}, {what}")
            print(f"  left {plan.left_m[coil]:.3f} m")
        print(f"{len(wants)} jobs, {len(plan.cuts)} pieces from {len(plan.opened)} coils, waste {plan.waste_m:.3f} m.")
        if plan.in_turn:
            print("The shelf doesn’t reach for all: jobs are cut in the order they are due.")
        for s in plan.short:
            due = f", due {s.due}" if s.due else ""
            print(f"✕ {s.job}{due}: {s.pieces} pieces of {s.what} run short, {s.metres:.3f} m")
        for told in lost:
            print(f"✕ {told}")
    return FAULTS if plan.short or lost else SOUND


def buys_of_all(args: argparse.Namespace) -> int:
    """One list of what to order for all jobs, by the day it has to be on its way."""
    from umber_trunk.core.shop.money import told as money_told
    from umber_trunk.core.shop.one_shelf import order_rows, order_sheet, to_order
    from umber_trunk.core.stages import fetched
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.sheets import table_bytes

    ending = args.output.suffix.lower() if args.output is not None else ""
    if ending not in ("", ".csv", ".xlsx", ".pdf"):
        raise InputError.of("shell.wire-list-endings", output=args.output.name)
    day = day_of(args.now)
    shop, wants, plan, parts, lost = _planned(args.shop)
    rows = to_order(wants, plan, parts, shop, day)
    if ending in (".csv", ".xlsx"):
        write_whole(args.output, table_bytes("to order", order_rows(rows), ending))
    elif ending == ".pdf":
        from umber_trunk.core.harness.model import Design

        sheet = order_sheet(rows, shop.rates.currency, day)
        write_whole(args.output, fetched("app.paper.pdf:pdf_of")(results_of(Design()), [sheet]))
    if args.json:
        out({"orders": [_plain(row) for row in rows], "currency": shop.rates.currency, "lost": lost})
    elif not ending:
        for row in rows:
            by = f"by {row.by.isoformat()}" if row.by else "when it suits"
            cost = "no price" if row.cost is None else money_told(row.cost, shop.rates.currency)
            packs = f" ({row.packs} packs)" if row.packs else ""
            mark = "✕" if row.late else " "
            amount = f"{float(row.amount):g} {row.unit}{packs}"
            print(
                f"{mark} {by:14} {row.supplier or '–':12} {amount:>20}  {row.name}  {cost}  for {', '.join(row.jobs)}"
            )
        for told in lost:
            print(f"✕ {told}")
    return FAULTS if lost or any(row.late for row in rows) else SOUND


def _plain(row: object) -> dict[str, object]:
    from dataclasses import asdict
    from datetime import date
    from decimal import Decimal

    plain = asdict(row)  # type: ignore[call-overload]
    return {
        key: float(value) if isinstance(value, Decimal) else value.isoformat() if isinstance(value, date) else value
        for key, value in plain.items()
    }
