"""Commands of the shelf: what coils there are, a wire made of another."""

from __future__ import annotations

import argparse
import sys
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import analysed, opened, shelf
from umber_trunk.cli.terminal import SOUND, out
from umber_trunk.core.errors import InputError

if TYPE_CHECKING:
    from umber_trunk.core.catalog.shelf import Shelf
    from umber_trunk.store.stock import Held, Stock

COMMANDS = {
    "shelf": "the coils there are: a stock list in and out, a shelf file for all harnesses",
    "instead": "a wire made in another size or colour, with who decided it",
}


def add_shelf(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path, help="a harness file, a shop’s file, or a shelf file (.umbershelf)")
    parser.add_argument("--read", type=Path, metavar="LIST", help="a stock list is the shelf from now on")
    parser.add_argument(
        "--replace",
        action="store_true",
        help="coils that the list doesn't have are gone; the shelf as it was is kept as a list",
    )
    parser.add_argument("--add", action="store_true", help="coils that the list doesn't have stay")
    parser.add_argument("--parts", type=Path, metavar="LIST", help="parts that are there, a table of part and count")
    parser.add_argument("--write", type=Path, metavar="OUT", help="the shelf as it is now: .csv or .xlsx")
    parser.add_argument(
        "--use",
        metavar="SHELF",
        help="cut this harness from that shelf file, made where it isn't there; “inside” for its own",
    )
    parser.add_argument(
        "--waive", nargs=2, metavar=("WHO", "WHY"), help="this harness is made without a shelf being read"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_shelf)


def _shelf(args: argparse.Namespace) -> int:
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.stock_list import read_counts, stock_bytes

    with ExitStack() as stack:
        floor, parts, decimal = _opened_shelf(args, stack)
        if args.read is not None:
            _count_coils(args, floor, parts, decimal)
        if args.parts is not None:
            floor.put_parts(read_counts(args.parts))
        held, counts = floor.coils(), floor.parts()
    if args.write is not None:
        write_whole(args.write, stock_bytes([one.now for one in held], args.write.suffix.lower()))
    if args.json:
        out([_held_as_data(one) for one in held])
    elif args.write is None:
        for one in held:
            print(
                f"{one.coil.id:12} {one.coil.size:10} {one.coil.metal or 'any':9} {one.coil.colour or 'any':14} "
                f"{one.left_m:9.3f} m left of {one.coil.length_m:.3f}"
            )
        for name, count in counts.items():
            print(f"{name:34} {count:g}")
        if not held and not counts:
            print("Nothing is on the shelf.")
    return SOUND


def _opened_shelf(args: argparse.Namespace, stack: ExitStack) -> tuple[Stock, Shelf, str]:
    """(the shelf of a shelf file, or the one a harness uses, changed to another or waived as asked; the parts there
    are; the decimal mark of its lists)."""
    from umber_trunk.store.files import is_shop
    from umber_trunk.store.stock import shelf_file

    changes = args.read is not None or args.parts is not None
    if args.file.suffix.lower() == ".umbershelf" or is_shop(args.file):
        if args.use is not None:
            raise InputError.of("shell.shelf-file-uses-no-other")
        return stack.enter_context(shelf_file(args.file, make=changes)), shelf(args.file), ""
    changes = changes or args.use is not None or args.waive is not None
    project = stack.enter_context(opened(args.file, for_writing=changes))
    if args.use is not None:
        other = None if args.use == "inside" else Path(args.use)
        if other is not None:
            stack.enter_context(shelf_file(other, make=True))
        project.floor.use_shelf(other)
    if args.waive is not None:
        if not all(one.strip() for one in args.waive):
            raise InputError.of("shell.say-who-goes-without-shelf")
        project.floor.waive(*args.waive)
    parts = shelf(args.file).carrying(project.design.parts)
    return stack.enter_context(project.floor.shelf()), parts, project.design.project.decimal


def _count_coils(args: argparse.Namespace, floor: Stock, parts: Shelf, decimal: str) -> None:
    """Coils as a list has them. InputError where some would be gone and nobody said whether they are."""
    from umber_trunk.store.clock import now_ms
    from umber_trunk.store.stock_list import gone_with, keep_before, read_stock

    listed, before = read_stock(args.read, parts, decimal), floor.coils()
    gone = gone_with(before, listed)
    if gone and not (args.replace or args.add):
        raise InputError.of(
            "shell.coils-on-shelf-not-in-list",
            count=len(gone),
            read=args.read.name,
            gone=", ".join(gone[:5]),
            more=len(gone) > 5,
        )
    if gone and args.replace:
        print(f"umber: the shelf as it was is kept in {keep_before(before)}.", file=sys.stderr)
    floor.put_coils(listed, now_ms(), replace=not args.add)


def _held_as_data(one: Held) -> dict[str, Any]:
    return {
        "coil": one.coil.id,
        "size": one.coil.size,
        "metal": one.coil.metal,
        "colour": one.coil.colour,
        "length_m": one.coil.length_m,
        "left_m": one.left_m,
        "cuts": one.cuts,
    }


def add_instead(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("wire")
    parser.add_argument("--size", default="", help="a size up")
    parser.add_argument("--colour", default="", help="another colour, with its stripe as red/white")
    parser.add_argument("--who", default="", required=True, help="who decides it")
    parser.add_argument("--why", default="")
    parser.set_defaults(run=_instead)


def _instead(args: argparse.Namespace) -> int:
    from umber_trunk.core.kit.substitute import decided, substitute

    results = analysed(args.file, upto="sizes")
    planned = next((row.shown_size for row in results.figures.wires.values() if row.wire.id == args.wire), "?")
    if planned == "?" and not args.size:
        raise InputError.of("shell.size-of-is-open", wire=args.wire)
    with opened(args.file) as project:
        design = substitute(project.design, args.wire, planned, args.size, args.colour, args.who, args.why)
        project.commit(design, f"{args.wire} made of something else")
    print(f"{args.wire}: {decided(design, args.wire)}.")
    return SOUND
