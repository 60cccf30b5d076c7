"""Commands about the way: lengths part by part, sections, coverings, the board at 1:1, trunks inferred from lists."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Mapping
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import analysed, read_design
from umber_trunk.cli.terminal import BAD_INPUT, DOUBTS_LEFT, FAULTS, FAULTS_SHOWN, SOUND, out, said_out, stoppable
from umber_trunk.core.errors import InputError
from umber_trunk.store.files import write_whole

if TYPE_CHECKING:
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.harness.way import Board
    from umber_trunk.core.lengths.infer import Inferred
    from umber_trunk.core.lengths.wire_length import WireLength

COMMANDS = {
    "lengths": "every wire's length to cut, part by part, with its chance of coming up short",
    "board": "the whole harness at true scale on a board, folded to fit",
    "section": "the cross-section of a segment as a drawing",
    "cover": "coverings: what passes, what grips, what to cut",
    "infer": "the trunk that a list of end-to-end lengths speaks of",
}


def add_lengths(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true")
    how.add_argument("--csv", action="store_true")
    parser.add_argument(
        "--learn",
        type=Path,
        metavar="CSV",
        help="pairs of method, planned_m, found_m: what they say of each way of measuring",
    )
    parser.set_defaults(run=_lengths)


def add_board(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--board", metavar="WxH", help="its size in mm, such as 2440x1220; the project's otherwise")
    parser.add_argument("--sheet", metavar="SHEET", help="A4, A3, Letter or roll, for a PDF")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("-o", "--output", type=Path, metavar="OUT", help="a drawing: .pdf, .svg or .dxf")
    parser.set_defaults(run=_board)


def add_section(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("segment")
    parser.add_argument("--svg", type=Path, metavar="OUT", required=True, help="write it here; - for standard output")
    parser.set_defaults(run=_section)


def add_cover(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_cover)


def add_infer(parser: argparse.ArgumentParser) -> None:
    """Its options: those of `import` that answer doubts of a list."""
    from umber_trunk.cli.lists import add_answers

    parser.add_argument(
        "list", type=Path, metavar="LIST", help="a wire list with lengths, or a harness whose wires aren't laid"
    )
    parser.add_argument(
        "-o", "--output", type=Path, metavar="FILE", help="a new harness file with the list and its trunk"
    )
    add_answers(parser)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_infer)


def _reasons_out(one: WireLength) -> dict[str, Any]:
    """Why each part of a length is so long, as values."""
    return {share.what: [said_out(reason) for reason in share.reasons] for share in one.shares}


def _lengths(args: argparse.Namespace) -> int:
    from umber_trunk.core.lengths.sheet import length_dict
    from umber_trunk.core.lengths.wire_lengths import wire_lengths

    if args.learn is not None:
        return _learned(args.learn, args.json)
    results = analysed(args.file, args.revision, upto="sizes")
    if args.csv:
        from umber_trunk.store.output import lengths_csv

        print(lengths_csv(results).decode("utf-8-sig").replace("\r\n", "\n"), end="")
        return SOUND
    found = results.once(wire_lengths)
    if args.json:
        out([length_dict(one) | {"why_said": _reasons_out(one)} for one in found.values()])
        return SOUND
    for one in found.values():
        print(
            f"{one.wire:8} cut {one.cut_m:8.3f} m  finished {one.finished_m:8.3f} m  σ {1e3 * one.sd_m:5.1f} mm  "
            f"short {100 * one.chance_short:.2f} %"
        )
        print(
            "         "
            + ", ".join(f"{share.what} {1e3 * share.metres:.1f}" for share in one.shares if abs(share.metres) > 5e-5)
            + " mm"
        )
    return SOUND


def _learned(path: Path, as_json: bool) -> int:
    from umber_trunk.core.lengths.history import LEAST_PAIRS, habits
    from umber_trunk.store.history_list import read_history

    pairs, faults = read_history(path)
    if faults:
        for fault in faults[:FAULTS_SHOWN]:
            print(f"umber: {path.name}, {fault}", file=sys.stderr)
        print(f"umber: {len(faults)} faults; nothing was learned.", file=sys.stderr)
        return BAD_INPUT
    found = habits(pairs)
    if as_json:
        out(
            [
                {
                    "method": one.method.value,
                    "pairs": one.pairs,
                    "bias": round(one.bias, 6),
                    "spread": None if one.spread != one.spread else round(one.spread, 6),
                    "plus_minus_share": None if one.share != one.share else round(one.share, 6),
                    "enough": one.enough,
                    "biased": one.biased,
                }
                for one in found
            ]
        )
        return SOUND
    for one in found:
        told = f"± {100 * one.share:.1f} %" if one.enough else f"too few to take over, {LEAST_PAIRS} are needed"
        print(f"{one.method.value:7} {one.pairs} pairs: found {100 * one.bias:+.2f} % of planned, {told}")
    return SOUND


def _size_of(text: str, board: Board) -> Board:
    """ "2440x1220" as a board."""
    from umber_trunk.core.harness.edits import change

    match = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*[xX×]\s*(\d+(?:\.\d+)?)\s*(?:mm)?\s*", text)
    if match is None:
        raise InputError.of("shell.no-size-of-board", text=text)
    made: Board = change(board, width_mm=float(match[1]), height_mm=float(match[2]))
    return made


def _board(args: argparse.Namespace) -> int:
    from umber_trunk.core.board.drawing import draw_board, laid_out
    from umber_trunk.core.board.sheets import SHEET_NAMES

    results = analysed(args.file, upto="sizes")
    board = results.design.project.board
    if args.board is not None:
        board = _size_of(args.board, board)
    sheet = (args.sheet or board.sheet).lower()
    if sheet not in SHEET_NAMES:
        raise InputError.of("any.no-sheet-known-here", sheet=args.sheet, known=", ".join(SHEET_NAMES))
    if args.output is not None and args.output.suffix.lower() not in (".pdf", ".svg", ".dxf"):
        raise InputError.of("shell.board-endings", output=args.output.name)
    laid = stoppable(lambda wanted: laid_out(results, board, wanted))
    made = draw_board(results, laid)
    if args.output is not None:
        write_whole(args.output, _drawn(made, args.output.suffix.lower(), sheet, board.overlap_mm))
    if args.json:
        out(
            {
                "scale": 1,
                "folds": len(laid.folds),
                "board": {"width_mm": board.width_mm, "height_mm": board.height_mm},
                "fits": laid.fits,
                "needed": {"width_mm": laid.size[0], "height_mm": laid.size[1]},
                "gap_mm": round(laid.gap_mm, 3),
                "findings": list(made.notes),
                "nodes": [
                    {"id": point, "x_mm": round(x, 4), "y_mm": round(y, 4)} for point, (x, y) in laid.spots.items()
                ],
                "segments": [
                    {"id": name, "points": [[round(x, 4), round(y, 4)] for x, y in line]}
                    for name, line in laid.lines.items()
                ],
                "pegs": [
                    {
                        "what": peg.what,
                        "name": peg.name,
                        "x_mm": round(peg.x_mm, 1),
                        "y_mm": round(peg.y_mm, 1),
                        "along_mm": None if peg.along_mm is None else round(peg.along_mm, 1),
                    }
                    for peg in made.pegs
                ],
            }
        )
    elif args.output is None:
        print(f"{len(laid.lines)} segments on {laid.size[0]:g} × {laid.size[1]:g} mm, {len(laid.folds)} folds.")
        for peg in made.pegs:
            along = "" if peg.along_mm is None else f"  {peg.along_mm:.0f} mm along"
            print(f"  {peg.what:5} {peg.x_mm:8.0f} {peg.y_mm:8.0f}  {peg.name}{along}")
    for note in made.notes:
        print(f"umber: {note}", file=sys.stderr)
    return SOUND if laid.fits else FAULTS


def _drawn(made: Any, ending: str, sheet: str, overlap_mm: float) -> bytes:
    if ending == ".svg":
        from umber_trunk.core.board.svg_board import board_svg

        return board_svg(made).encode()
    if ending == ".dxf":
        from umber_trunk.store.board_dxf import board_dxf

        return board_dxf(made)
    from umber_trunk.core.stages import fetched

    drawn: bytes = fetched("app.paper.board:pdf_of")(made, sheet, overlap_mm)
    return drawn


def _section(args: argparse.Namespace) -> int:
    from umber_trunk.core.covers.section_svg import section_svg

    write_whole(args.svg, section_svg(analysed(args.file), args.segment).encode())
    return SOUND


def _cover(args: argparse.Namespace) -> int:
    from umber_trunk.core.covers.dress import dressed
    from umber_trunk.core.joins.join_plans import joins

    results = analysed(args.file, upto="sizes")
    limbs, spliced = results.once(dressed), results.once(joins)
    wrong = [plan for limb in limbs.values() for plan in limb.covers if not plan.ok]
    if args.json:
        out(
            {
                "segments": [
                    {
                        "id": limb.segment,
                        "bundle_mm": round(limb.bundle_mm, 3),
                        "outside_mm": round(limb.outside_mm, 3),
                        "outside_plus_mm": round(limb.outside_plus_mm, 3),
                        "mass_g": round(limb.mass_g, 2),
                        "least_bend_mm": round(limb.least_bend_mm, 1),
                        "bend_by": limb.bend_by,
                        "tightest_mm": limb.tightest_mm,
                    }
                    for limb in limbs.values()
                ],
                "covers": [
                    {**asdict(plan), "kind": plan.kind.value, "ok": plan.ok}
                    for limb in limbs.values()
                    for plan in limb.covers
                ],
                "joins": [asdict(plan) for plan in spliced],
            }
        )
    else:
        for limb in limbs.values():
            print(
                f"{limb.segment:6} bundle {limb.bundle_mm:5.1f} mm, outside {limb.outside_mm:5.1f} (to "
                f"{limb.outside_mm + limb.outside_plus_mm:.1f}) mm, {limb.mass_g:.0f} g, bends to "
                f"{limb.least_bend_mm:.0f} mm"
            )
            for plan in limb.covers:
                print(
                    f"       {plan.kind.value}: {plan.part_name}, cut {plan.cut_m:.3f} m for {plan.covered_m:.3f} m"
                    + "".join(f"; {note}" for note in plan.notes)
                )
                for said in plan.problems:
                    print(f"       ✕ {said}")
        for one in spliced:
            print(
                f"splice {one.end} in {one.segment}, {1e3 * one.at_m:.0f} mm from its point, {2 * one.half_mm:.0f} mm "
                f"long, shrink {one.shrink or 'none fits'} {one.shrink_cut_mm:.0f} mm, back to {one.dull}"
            )
    return FAULTS if wrong or any(one.crowded or one.stacked or one.in_the_way for one in spliced) else SOUND


def _infer(args: argparse.Namespace) -> int:
    from umber_trunk.core.lengths.adopt import adopt, inferred_trunk

    design, status = _listed(args)
    if design is None:
        return status
    found = stoppable(lambda wanted: inferred_trunk(design, wanted))
    if args.output is not None:
        from umber_trunk.store.project import ProjectFile

        ProjectFile.create(args.output, adopt(design, found), f"trunk inferred from {args.list.name}").close()
    called = {end.id: end.name for end in design.ends}
    if len(set(called.values())) < len(called):
        called = {end.id: end.id for end in design.ends}
    places = {point: called[ends[0]] if ends else point for point, ends in found.points.items()}
    if args.json:
        out(_inferred_plain(found, called, places))
    else:
        _inferred_said(found, called, places)
    return SOUND


def _inferred_plain(found: Inferred, called: Mapping[str, str], places: Mapping[str, str]) -> dict[str, Any]:
    return {
        "points": [
            {"id": places[point], "ends": [called[end] for end in ends]} for point, ends in found.points.items()
        ],
        "segments": [
            {
                "a": places[one.a],
                "b": places[one.b],
                "length_m": round(one.length_m, 6),
                "sure": one.sure,
                "sd_m": round(one.sd_m, 6),
            }
            for one in found.segments
        ],
        "misfits": [{"wire": wire, "m": round(off, 6)} for wire, off in found.misfits.items()],
        "open_pairs": [[called[end] for end in pair] for pair in found.open_pairs],
        "left_out": found.left_out,
        "rms_m": round(found.rms_m, 6),
        "notes": list(found.notes),
        "unlisted": [
            {"a": called[one.a], "b": called[one.b], "length_m": round(one.length_m, 6), "sd_m": round(one.sd_m, 6)}
            for one in found.unlisted
        ],
        "next": found.next
        and {"a": called[found.next.a], "b": called[found.next.b], "bits": round(found.next.bits, 3)},
        "suspect": found.suspect,
        "noise": round(found.noise, 6),
    }


def _inferred_said(found: Inferred, called: Mapping[str, str], places: Mapping[str, str]) -> None:
    for one in found.segments:
        sure = "" if one.sure else "  not determined by the list"
        print(f"{places[one.a]} – {places[one.b]}: {one.length_m:.3f} m ± {1e3 * one.sd_m:.0f} mm{sure}")
    for wire, off in sorted(found.misfits.items(), key=lambda entry: -abs(entry[1])):
        if abs(off) > 5e-4:
            print(f"  {wire}: {1e3 * off:+.0f} mm by this trunk")
    for wire, why in found.left_out.items():
        print(f"  {wire} is left out: {why}")
    for note in found.notes:
        print(note)
    if found.next is not None:
        print(
            f"Measure from {called[found.next.a]} to {called[found.next.b]} next: it tells most "
            f"({found.next.bits:.1f} bits)."
        )


def _listed(args: argparse.Namespace) -> tuple[Design | None, int]:
    """The design a list makes, or None and the status where it can't be read without answers."""
    from umber_trunk.cli.lists import answers_of, said_of
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.harness.project import Project
    from umber_trunk.store.listing.memory import read_with_memory
    from umber_trunk.store.listing.merge import add_wires
    from umber_trunk.store.sheets import read_book

    if args.list.suffix.lower() in (".umber", ".json"):
        return read_design(args.list), SOUND
    answers = answers_of(args)
    book = stoppable(lambda wanted: read_book(args.list, wanted))
    reading, _ = stoppable(lambda wanted: read_with_memory(book, answers, wanted=wanted))
    if reading.doubts or reading.faults:
        said_of(args.list, reading)
        return None, DOUBTS_LEFT if reading.doubts else BAD_INPUT
    return add_wires(Design(project=Project(name=args.list.stem[:400])), reading, False), SOUND
