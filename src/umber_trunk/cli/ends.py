"""Commands about ends: fits, pin maps, mating halves, strip drawings, the catalogue."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import analysed, read_design, shelf
from umber_trunk.cli.terminal import BAD_INPUT, FAULTS, FAULTS_SHOWN, SOUND, out, rounded, said_out, worded
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.sentences import NOTHING, say
from umber_trunk.store.files import write_whole

if TYPE_CHECKING:
    from umber_trunk.core.catalog.parts import Part
    from umber_trunk.core.catalog.shelf import Shelf
    from umber_trunk.core.ends.faces import Face
    from umber_trunk.core.ends.mate import Agreement
    from umber_trunk.core.ends.meaning import Half
    from umber_trunk.core.ends.strip import Strip
    from umber_trunk.core.harness.model import Design

COMMANDS = {
    "fit": "whether every wire fits its contact, seal, stud and cavity",
    "pinmap": "a connector's face with its wires, from either side",
    "mate": "the half an end plugs into, derived",
    "strip": "how both ends of a wire are stripped and made",
    "catalogue": "list, check or import parts",
}


def add_fit(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_fit)


def add_pinmap(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--end", required=True, metavar="ID")
    parser.add_argument("--side", required=True, choices=("wire", "mating"))
    parser.add_argument("--svg", type=Path, metavar="OUT", help="write a drawing at true scale; - for standard output")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_pinmap)


def add_mate(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--end", required=True, metavar="ID")
    parser.add_argument(
        "--with",
        dest="other",
        metavar="ID",
        help="compare with this end, with FILE:END of another harness, or with a measured pin list (CSV)",
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_mate)


def add_strip(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--wire", required=True, metavar="ID")
    parser.add_argument("--svg", type=Path, metavar="OUT", help="write a drawing at true scale; - for standard output")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_strip)


def add_catalogue(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("act", choices=("list", "check", "import"))
    parser.add_argument("file", nargs="?", type=Path, help="a catalogue as JSON or CSV")
    parser.add_argument("--kind", help="only parts of this kind")
    parser.add_argument("--shop", type=Path, metavar="SHOP", help="with import: into a shop’s file, for its harnesses")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_catalogue)


def _fit(args: argparse.Namespace) -> int:
    from umber_trunk.core.ends.fits import fits

    found = analysed(args.file, args.revision).once(fits)
    if args.json:
        out(
            [
                {
                    "end": f.end,
                    "cavity": f.cavity,
                    "wire": f.wire,
                    "part": f.part,
                    "rule": f.rule,
                    "ok": f.ok,
                    "value": rounded(f.value),
                    "low": rounded(f.low),
                    "high": rounded(f.high),
                    "unit": f.unit,
                    "message": f.message,
                    "cure": f.cure,
                    "options": list(f.options),
                    "proposed": f.proposed,
                    "severity": f.severity.name.lower(),
                    "said": said_out(f.said),
                    "mend": said_out(f.mend) if f.mend else None,
                }
                for f in found
            ]
        )
    else:
        wrong = [f for f in found if not f.ok]
        for f in wrong:
            print(f"✕ {f.message} {f.cure}" + (f" Would do: {', '.join(f.options)}." if f.options else ""))
        print(
            f"{len(found)} fits judged, {len(wrong)} not met."
            if found
            else "Nothing is known of any end: choose housings, studs or parts on the Ends desk."
        )
    return FAULTS if any(not f.ok for f in found) else SOUND


def _pinmap(args: argparse.Namespace) -> int:
    from umber_trunk.core.ends.faces import plugged_faces

    found = plugged_faces(read_design(args.file), args.end, args.side, shelf(args.file))
    if args.svg is not None:
        from umber_trunk.core.ends.svg import faces_svg

        write_whole(args.svg, faces_svg(found).encode())
    if args.json:
        out(
            {
                "end": args.end,
                "side": args.side,
                "housings": [
                    {
                        "housing": face.housing,
                        "part": face.part,
                        "name": face.name,
                        "form": face.form,
                        "contacts": face.contacts,
                        "key": face.key,
                        "seen": face.words,
                        "said": said_out(face.seen),
                    }
                    for face in found
                ],
                "cavities": [
                    {
                        "housing": spot.housing,
                        "label": spot.label,
                        "x_mm": round(spot.x_mm, 4),
                        "y_mm": round(spot.y_mm, 4),
                        "wire": spot.wires[0] if spot.wires else None,
                        "colour": _colour(spot.colour, spot.stripe),
                        "wires": list(spot.wires),
                        "state": spot.state,
                        "function": spot.function,
                    }
                    for face in found
                    for spot in face.spots
                ],
            }
        )
    elif args.svg is None:
        for face in found:
            print(f"{face.name}, {face.words}")
            for spot in face.spots:
                print(
                    f"  {spot.label:>6}  {spot.x_mm:7.2f} {spot.y_mm:7.2f}  {' '.join(spot.wires) or spot.state:12} "
                    f"{_colour(spot.colour, spot.stripe):16} {spot.function}"
                )
    return SOUND


def _colour(colour: str, stripe: str) -> str:
    return f"{colour}/{stripe}" if stripe else colour


def _mate(args: argparse.Namespace) -> int:
    from umber_trunk.core.ends.faces import faces_of
    from umber_trunk.core.ends.mate import Agreement, agreement, mate_of
    from umber_trunk.core.ends.meaning import half_of
    from umber_trunk.core.harness.index import index_of

    design = read_design(args.file)
    other = args.other or (index_of(design).ends[args.end].mates if args.end in index_of(design).ends else None)
    parts = shelf(args.file)
    theirs = _other_half(design, parts, args.file, other) if other else None
    try:
        found = [(face, mate_of(face, design, parts)) for face in faces_of(design, args.end, "wire", None, parts)]
    except InputError:
        if theirs is None or args.end not in index_of(design).ends:
            raise
        found = []
    told = agreement(half_of(design, args.end, parts), theirs) if theirs is not None else Agreement(())
    if args.json:
        row = {"end": args.end, "with": other} | _agreement_row(told, theirs is not None)
        out(row | {"housings": [_mate_row(face, mate) for face, mate in found]})
    else:
        _say_mates([mate for _, mate in found], told)
        if theirs is not None and not told.wrong:
            print(f"{args.end} and {theirs.name} {told.words}.")
    return SOUND if theirs is None or told.agrees else FAULTS


def _agreement_row(told: Agreement, compared: bool) -> dict[str, Any]:
    return {
        "agrees": told.agrees,
        "differences": [
            {
                "label": row.label,
                "mine": row.mine,
                "theirs": row.theirs,
                "what": row.what,
                "housing": row.housing,
                "said": said_out(row.what),
            }
            for row in told.wrong
        ],
        "missing": list(told.missing) if compared else [],
        "rests_on": list(told.rests_on) if told.agrees else [],
    }


def _mate_row(face: Face, mate: Face) -> dict[str, Any]:
    return {
        "housing": face.housing,
        "part": face.part,
        "mate": mate.part,
        "name": mate.name,
        "form": mate.form,
        "contacts": mate.contacts,
        "key": mate.key,
        "turned_deg": mate.turned_deg,
        "cavities": [
            {
                "housing": spot.housing,
                "label": spot.label,
                "x_mm": round(spot.x_mm, 4),
                "y_mm": round(spot.y_mm, 4),
                "meets": list(spot.wires),
                "wire": spot.wires[0] if spot.wires else None,
                "colour": _colour(spot.colour, spot.stripe),
                "function": spot.function,
            }
            for spot in mate.spots
        ],
    }


def _say_mates(mates: Sequence[Face], told: Agreement) -> None:
    """The halves that end plugs into, and where they differ from what is there."""
    for mate in mates:
        turned = f"; it plugs in turned by {mate.turned_deg:g}°" if mate.turned_deg else ""
        print(
            f"{mate.name}: {mate.form} with {mate.contacts}s, key {mate.key or 'none'}, seen from its own wire "
            f"side{turned}"
        )
        for spot in mate.spots:
            print(f"  {spot.label:>6}  {spot.x_mm:7.2f} {spot.y_mm:7.2f}  {spot.function}")
    for row in told.wrong:
        print(f"✕ {row.label}: {row.what}" if row.label else f"✕ {row.what}")


def _other_half(design: Design, parts: Shelf, path: Path, said: str) -> Half:
    """What an end is compared with: an end of this harness, FILE:END of another, or a measured pin list."""
    from umber_trunk.core.ends.faces import ends_known
    from umber_trunk.core.ends.meaning import half_of, half_of_pins
    from umber_trunk.core.harness.index import index_of
    from umber_trunk.store.pin_list import read_pins

    if said in index_of(design).ends:
        return half_of(design, said, parts)
    file, mark, end = said.rpartition(":")
    if mark and Path(file).is_file():
        there = design if Path(file).resolve() == path.resolve() else read_design(Path(file))
        if end not in index_of(there).ends:
            raise InputError.of("shell.no-end", name=Path(file).name, end=quoted(end), known=ends_known(there))
        return half_of(there, end, parts)
    if Path(said).is_file():
        if Path(said).suffix.lower() in (".umber", ".json"):
            raise InputError.of("shell.say-which-of-its-ends", said=said)
        return half_of_pins(Path(said).name, read_pins(Path(said)))
    raise InputError.of("shell.no-end-nor-file", said=quoted(said), known=ends_known(design))


def _strip(args: argparse.Namespace) -> int:
    from umber_trunk.core.ends.strip import cable_strips, clock_mark, strips, tenths
    from umber_trunk.core.ends.svg import strips_svg

    results = analysed(args.file, upto="sizes")
    found = strips(results, args.wire)
    wire = next(wire for wire in results.design.wires if wire.id == args.wire)
    cables = cable_strips(results, wire.cable) if wire.cable else []
    mark = clock_mark(results, args.wire)
    if args.svg is not None:
        write_whole(args.svg, strips_svg(found).encode())
    if args.json:
        out(
            {
                "wire": args.wire,
                **worded(clock=mark),
                "ends": [_end_out(one) for one in found],
                "cable": [asdict(replace(one, notes=())) | worded(notes=one.notes) for one in cables],
            }
        )
    elif args.svg is None:
        for one in found:
            print(f"{one.end} {one.cavity}: {one.part_name}")
            lengths = {"strip": one.strip_mm, "entry": one.entry_mm, "eaten": one.eaten_mm}
            print(f"  {say('strip.cut', **{name: tenths(mm) for name, mm in lengths.items()})}")
            if one.crimp_height_mm:
                pressed = {"height_mm": one.crimp_height_mm, "off_mm": one.crimp_plus_minus_mm}
                print(f"  {say('strip.crimp', **pressed, tool=one.tool, die=one.die)}")
            for piece in one.pieces:
                place = {"from_mm": piece.from_mm, "to_mm": piece.to_mm}
                print(f"  {say('strip.piece', what=piece.name, **place, note=piece.note)}".rstrip())
            for note in one.notes:
                print(f"  {note}")
        if mark:
            print(mark)
    return SOUND


def _end_out(one: Strip) -> dict[str, Any]:
    """One end of a wire as JSON has it."""
    pieces = [asdict(replace(piece, note=NOTHING)) | worded(note=piece.note) for piece in one.pieces]
    return asdict(replace(one, pieces=(), notes=())) | {"pieces": pieces} | worded(notes=one.notes)


def _taken_over(parts: tuple[Part, ...], shop: Path | None) -> int:
    """Parts come into the shop's catalogue, in its file where one is named; how many it holds then."""
    from umber_trunk.core.shop.things import StockPart
    from umber_trunk.store.catalogues import add_to_shop
    from umber_trunk.store.shop_file import shop_file

    if shop is None:
        return add_to_shop(parts)
    with shop_file(shop) as file:
        file.put("parts", [StockPart(id=part.id, part=part) for part in parts])
        return len(file.rows_of("parts"))


def _catalogue(args: argparse.Namespace) -> int:
    from umber_trunk.core.catalog.parts import PART
    from umber_trunk.store.catalogues import read_catalogue, stocked_shelf

    if args.act != "list" and args.file is None:
        raise InputError.of("shell.which-catalogue", act=args.act)
    parts: tuple[Part, ...]
    if args.file is None:
        stock, wrong = stocked_shelf(None, args.shop.with_name("harness") if args.shop else None)
        if wrong:
            raise InputError(wrong)
        parts = tuple(stock.parts.values())
    else:
        reading = read_catalogue(args.file)
        if reading.faults:
            if args.json:
                told = [{"row": one.row, "column": one.column, **said_out(one.said)} for one in reading.faults]
                out({"faults": told})
            else:
                for fault in reading.faults[:FAULTS_SHOWN]:
                    print(f"{args.file.name}, {fault}")
                print(f"{len(reading.faults)} faults; nothing was taken over.")
            return BAD_INPUT
        parts = reading.parts
    rows = [part for part in parts if args.kind in (None, part.kind)]
    held = _taken_over(parts, args.shop) if args.act == "import" else None
    if args.json:
        out([PART.dump_python(part, mode="json") for part in rows])
    elif args.act == "list":
        for part in rows:
            print(f"{part.kind:15} {part.id:28} {part.name}")
    elif held is None:
        print(f"{len(parts)} parts, nothing wrong.")
    else:
        print(f"{len(parts)} parts taken over; the shop’s catalogue holds {held}.")
    return SOUND
