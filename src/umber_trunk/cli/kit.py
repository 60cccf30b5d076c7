"""Commands about what to cut and buy: coils, shopping, decisions in place of what the shelf doesn't have."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import analysed, is_plain, opened
from umber_trunk.cli.terminal import FAULTS, SOUND, Progress, out, said_out, stoppable
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.sentences import NOTHING
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from umber_trunk.core.kit.coilcut import CutPlan
    from umber_trunk.core.kit.coils import Coil

COMMANDS = {
    "coils": "which coil each wire is cut from, with the least waste",
    "labels": "labels of both ends of every wire, for label printers",
    "buy": "what to buy for so many units, with spares, less what is there",
}


def add_coils(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", nargs="?", type=Path)
    add_all_jobs(parser)
    parser.add_argument(
        "--stock", type=Path, metavar="STOCK", help="the shelf as CSV or XLSX: coil, size, metal, colour, length_m"
    )
    parser.add_argument("--units", type=units, default=1, metavar="N", help="how many harnesses to build")
    parser.add_argument(
        "--usable", metavar="LENGTH", help="an offcut this long goes back to the shelf; 0.5 m otherwise"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_coils)


def units(text: str) -> int:
    """A number of harnesses, 1 to 10 000."""
    count = counted(text, 10_000)
    if count is None:
        raise argparse.ArgumentTypeError(f"{quoted(text)} is no number of units from 1 to 10000")
    return count


def kept_coils(path: Path) -> list[Coil]:
    """The coils on the shelf of a harness file, with what is left of them; a design in JSON has none."""

    if is_plain(path):
        return []
    with opened(path, for_writing=False) as project, project.floor.shelf() as shelf:
        return [held.now for held in shelf.coils()]


def kept_parts(path: Path) -> dict[str, float]:
    """The parts on the shelf of a harness file; a design in JSON has none."""

    if is_plain(path):
        return {}
    with opened(path, for_writing=False) as project, project.floor.shelf() as held:
        return held.parts()


def add_all_jobs(parser: argparse.ArgumentParser) -> None:
    """The option that asks for all accepted jobs of a shop instead of one file."""
    parser.add_argument("--shop", type=Path, metavar="SHOP", help="instead of FILE: all accepted jobs of a shop’s file")
    parser.add_argument("--now", default="", metavar="DATE", help="with --shop: the day it is; today")


def one_of(args: argparse.Namespace) -> Path | None:
    """The shop's file where all its jobs are asked for, None where one harness is. InputError for both or neither."""
    if (args.file is None) == (args.shop is None):
        raise InputError.of("shell.say-one-harness-file")
    shop: Path | None = args.shop
    return shop


def _coils(args: argparse.Namespace) -> int:
    if one_of(args) is not None:
        from umber_trunk.cli.all_jobs import coils_of_all

        return coils_of_all(args)
    from umber_trunk.core.kit.coilcut import plan_cuts
    from umber_trunk.core.kit.coils import USABLE_M
    from umber_trunk.core.kit.stock import pieces
    from umber_trunk.core.make.samples import sample_pieces
    from umber_trunk.core.units import parse_length_m
    from umber_trunk.store.stock_list import read_stock

    usable = USABLE_M if args.usable is None else parse_length_m(args.usable)
    results = analysed(args.file, upto="sizes")
    design = results.design
    coils = read_stock(args.stock, results.shelf, design.project.decimal) if args.stock else kept_coils(args.file)
    if not coils:
        raise InputError.of("shell.no-coils-on-shelf")
    todo = [*pieces(results, args.units), *sample_pieces(results)]
    plan = stoppable(lambda wanted: plan_cuts(coils, todo, usable, wanted))
    if args.json:
        out(_plan_row(plan, coils, usable))
    else:
        _say_plan(plan, usable)
    return FAULTS if plan.short else SOUND


def _plan_row(plan: CutPlan, coils: Sequence[Coil], usable: float) -> dict[str, Any]:
    cuts = [
        {
            "wire": cut.piece.wire,
            "unit": cut.piece.unit,
            "coil": cut.coil,
            "at_m": round(cut.at_m, 4),
            "length_m": round(cut.piece.length_m, 4),
            "parallel": cut.piece.parallel,
        }
        for cut in plan.cuts
    ]
    short = [
        {
            "wire": piece.wire,
            "unit": piece.unit,
            "size": piece.size,
            "metal": piece.metal,
            "colour": piece.colour,
            "length_m": round(piece.length_m, 4),
            "why": plan.reasons[piece.wire],
        }
        for piece in plan.short
    ]
    return {
        "cuts": [cut for cut in cuts if cut["unit"]],
        "sample_cuts": [cut for cut in cuts if not cut["unit"]],
        "waste_m": round(plan.waste_m, 4),
        "bound_m": round(plan.bound_m, 4),
        "usable_m": usable,
        "short": list(dict.fromkeys(piece.wire for piece in plan.short)),
        "short_pieces": short,
        "short_bound": plan.short_bound,
        "told_short": plan.told_short,
        "opened": list(plan.opened),
        "opened_bound": plan.opened_bound,
        "left": [{"coil": coil.id, "left_m": round(plan.left_m[coil.id], 4)} for coil in coils],
    }


def _say_plan(plan: CutPlan, usable: float) -> None:
    """Coil by coil what is cut where, and what runs short."""
    for coil in plan.opened:
        print(f"{coil}")
        for cut in (one for one in plan.cuts if one.coil == coil):
            what = f"{cut.piece.wire} of unit {cut.piece.unit}" if cut.piece.unit else f"sample of {cut.piece.wire}"
            print(f"  at {cut.at_m:8.3f} m cut {cut.piece.length_m:7.3f} m  {what}")
        left = plan.left_m[coil]
        print(f"  left {left:.3f} m" + ("" if left >= usable or left == 0 else ", too short to keep"))
    kept = (
        f"{len(plan.opened)} coils opened (at least {plan.opened_bound}), waste {plan.waste_m:.3f} m (no plan that "
        f"leaves as few short wastes less than {plan.bound_m:.3f} m)."
    )
    print(kept if plan.cuts else "Nothing can be cut.")
    if plan.short:
        print(f"✕ {plan.told_short[0].upper()}{plan.told_short[1:]}.")
    by_wire: dict[str, list[Any]] = {}
    for piece in plan.short:
        by_wire.setdefault(piece.wire, []).append(piece)
    for wire, mine in by_wire.items():
        one = mine[0]
        print(
            f"✕ {wire} runs short in {len(mine)} pieces of {one.length_m:.3f} m {one.size} {one.colour}: "
            f"{plan.reasons[wire]}"
        )


def add_buy(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", nargs="?", type=Path)
    add_all_jobs(parser)
    parser.add_argument("--units", type=units, default=1, metavar="N")
    parser.add_argument(
        "--stock", type=Path, metavar="STOCK", help="coils that are there: taken off what is to be bought"
    )
    parser.add_argument("--parts", type=Path, metavar="PARTS", help="parts that are there, a table of part and count")
    parser.add_argument(
        "--percent", type=float, default=3.0, metavar="P", help="spares as a share of what is needed; 3 otherwise"
    )
    parser.add_argument("--least", type=int, default=1, metavar="N", help="spares of each part, at least; 1 otherwise")
    parser.add_argument(
        "--samples", type=int, default=1, metavar="N", help="sample crimps for each set-up of a tool; 1 otherwise"
    )
    parser.add_argument("--json", action="store_true")
    parser.add_argument("-o", "--output", type=Path, metavar="OUT", help="a list: .csv, .xlsx or .pdf")
    parser.set_defaults(run=_buy)


def _buy(args: argparse.Namespace) -> int:
    from dataclasses import asdict, replace

    if one_of(args) is not None:
        from umber_trunk.cli.all_jobs import buys_of_all

        return buys_of_all(args)
    from umber_trunk.core.buy.lines import Spares
    from umber_trunk.core.buy.shopping import shopping, unpriced
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.output import shopping_file
    from umber_trunk.store.stock_list import read_counts, read_stock

    if args.output is not None and args.output.suffix.lower() not in (".csv", ".xlsx", ".pdf"):
        raise InputError.of("shell.shopping-list-endings", output=args.output.name)
    spares = Spares(args.percent, args.least, args.samples)
    results = analysed(args.file, upto="sizes")
    design = results.design
    coils = read_stock(args.stock, results.shelf, design.project.decimal) if args.stock else kept_coils(args.file)
    have = read_counts(args.parts) if args.parts else kept_parts(args.file)
    found = shopping(results, args.units, spares, coils, have)
    if args.output is not None:
        write_whole(args.output, shopping_file(results, found, args.units, args.output.suffix.lower()))
    if args.json:
        out(
            [
                {
                    **asdict(replace(one, note=NOTHING, decided=())),
                    "note": str(one.note),
                    "decided": "; ".join(map(str, one.decided)),
                    "notes_said": [said_out(note) for note in one.notes],
                    "needed": round(one.needed, 4),
                    "test": round(one.test, 4),
                    "spare": round(one.spare, 4),
                    "have": round(one.have, 4),
                    "buy": round(one.buy, 4),
                }
                for one in found
            ]
        )
    elif args.output is None:
        for one in found:
            unit = "" if one.unit == "pcs" else " m"
            packs = f" ({one.packs} packs)" if one.packs else ""
            amount = f"{one.buy:9.3f}{unit:2}" if unit else f"{one.buy:9.0f}{unit:2}"
            print(f"{amount} {one.name}{packs}{f', {one.told}' if one.told else ''}")
        print(f"{sum(one.price for one in found):.2f} in all, {sum(one.mass_kg for one in found):.2f} kg.")
        if open_prices := unpriced(found):
            print(f"The total is of what has a price; {open_prices}.")
    return SOUND


def add_labels(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "-o", "--output", type=Path, metavar="OUT", required=True, help=".csv, or .pdf with a label a page"
    )
    parser.add_argument("--size", default="50x9", metavar="WxH", help="of a plain label in mm; 50x9 otherwise")
    parser.add_argument(
        "--style",
        choices=("plain", "flag", "wrap"),
        help="as it lies on a roll: both leaves of a flag, or wrapped round the wire",
    )
    parser.add_argument(
        "--roll", type=float, default=12.0, metavar="MM", help="width of the roll for --style; 12 otherwise"
    )
    parser.set_defaults(run=_labels)


def _labels(args: argparse.Namespace) -> int:
    import re

    from umber_trunk.core.make.book import labels
    from umber_trunk.core.papers.label_forms import LabelForm, label_forms
    from umber_trunk.core.stages import fetched
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.output import labels_csv

    match = re.fullmatch(r"(\d{1,3}(?:\.\d{1,2})?)\s*[x×]\s*(\d{1,3}(?:\.\d{1,2})?)(?:\s*mm)?", args.size.strip())
    if match is None or not (8 <= float(match[1]) <= 300 and 4 <= float(match[2]) <= 200):
        raise InputError.of("shell.no-size-of-label", size=args.size[:40])
    results = analysed(args.file, upto="sizes")
    ending = args.output.suffix.lower()
    if ending not in (".csv", ".pdf"):
        raise InputError.of("shell.label-endings", output=args.output.name)
    if ending == ".csv":
        write_whole(args.output, labels_csv(results))
        return SOUND
    progress = Progress()
    made = (
        label_forms(results, args.style, args.roll)
        if args.style
        else [
            LabelForm(one, float(match[1]), float(match[2]), ((0.0, 0.0, float(match[1]), float(match[2])),))
            for one in labels(results)
        ]
    )

    def told(number: int) -> None:
        progress(f"{number} of {len(made)} labels drawn", "Ctrl-C stops it")

    drawn = fetched("app.paper.labels:forms_pdf")(made, told)
    write_whole(args.output, drawn)
    return SOUND
