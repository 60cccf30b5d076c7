"""Commands about what to cut and buy: coils, shopping, decisions in place of what the shelf doesn't have."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from umber_trunk.cli.reading import analysed
from umber_trunk.cli.terminal import FAULTS, SOUND, stoppable
from umber_trunk.core.errors import InputError

COMMANDS = {
    "coils": "which coil each wire is cut from, with the least waste",
}


def add_coils(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--stock", type=Path, metavar="STOCK", help="the shelf as CSV or XLSX: coil, size, metal, colour, length_m")  # fmt: skip
    parser.add_argument("--units", type=units, default=1, metavar="N", help="how many harnesses to build")
    parser.add_argument("--usable", metavar="LENGTH", help="an offcut this long goes back to the shelf; 0.5 m otherwise")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_coils)


def units(text: str) -> int:
    """A number of harnesses, 1 to 10 000."""
    if not text.strip().isascii() or not text.strip().isdigit() or not 1 <= int(text) <= 10_000:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is no number of units from 1 to 10000")
    return int(text)


def out(value: Any) -> None:
    """A value as JSON."""
    print(json.dumps(value, ensure_ascii=False, indent=1, allow_nan=False))


def _coils(args: argparse.Namespace) -> int:
    from umber_trunk.core.catalog.shelf import shelf_of
    from umber_trunk.core.kit.coilcut import plan_cuts
    from umber_trunk.core.kit.stock import USABLE_M, pieces
    from umber_trunk.core.units import parse_length_m
    from umber_trunk.store.stock_list import read_stock

    usable = USABLE_M if args.usable is None else parse_length_m(args.usable)
    results = analysed(args.file)
    design = results.design
    if args.stock is None:
        raise InputError("Say which shelf: --stock STOCK.csv.")
    coils = read_stock(args.stock, shelf_of(design.parts), design.project.decimal)
    todo = pieces(results, args.units)
    plan = stoppable(lambda wanted: plan_cuts(coils, todo, usable, wanted))
    if args.json:
        out({
            "cuts": [{"wire": c.piece.wire, "unit": c.piece.unit, "coil": c.coil, "at_m": round(c.at_m, 4), "length_m": round(c.piece.length_m, 4), "parallel": c.piece.parallel}
                     for c in plan.cuts],
            "waste_m": round(plan.waste_m, 4), "bound_m": round(plan.bound_m, 4), "usable_m": usable,
            "short": list(dict.fromkeys(piece.wire for piece in plan.short)),
            "short_pieces": [{"wire": p.wire, "unit": p.unit, "size": p.size, "metal": p.metal, "colour": p.colour, "length_m": round(p.length_m, 4), "why": plan.reasons[p.wire]}
                             for p in plan.short],
            "short_bound": plan.short_bound, "opened": list(plan.opened), "opened_bound": plan.opened_bound,
            "left": [{"coil": coil.id, "left_m": round(plan.left_m[coil.id], 4)} for coil in coils],
        })  # fmt: skip
        return FAULTS if plan.short else SOUND
    for coil in plan.opened:
        print(f"{coil}")
        for cut in (one for one in plan.cuts if one.coil == coil):
            print(f"  at {cut.at_m:8.3f} m cut {cut.piece.length_m:7.3f} m  {cut.piece.wire} of unit {cut.piece.unit}")
        left = plan.left_m[coil]
        print(f"  left {left:.3f} m" + ("" if left >= usable or left == 0 else ", too short to keep"))
    kept = f"{len(plan.opened)} coils opened, waste {plan.waste_m:.3f} m (no plan wastes less than {plan.bound_m:.3f} m)."
    print(kept if plan.cuts else "Nothing can be cut.")
    for piece in plan.short:
        print(f"✕ {piece.wire} of unit {piece.unit} runs short, {piece.length_m:.3f} m of {piece.size} {piece.colour}: {plan.reasons[piece.wire]}")  # fmt: skip
    return FAULTS if plan.short else SOUND
