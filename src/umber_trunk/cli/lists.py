"""The import command: a shop's list read into a harness file, its doubts answered by options."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from umber_trunk.cli.reading import opened
from umber_trunk.cli.terminal import BAD_INPUT, DOUBTS_LEFT, SOUND, out, said_out, stoppable, worded
from umber_trunk.core.errors import InputError, UmberError
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.project import Project
from umber_trunk.core.sentences import Message
from umber_trunk.store.jsonfile import read_json
from umber_trunk.store.listing.doubts import UNITS, Answers
from umber_trunk.store.listing.memory import read_with_memory, remember
from umber_trunk.store.listing.merge import Change, add_wires, differences, merge
from umber_trunk.store.listing.reading import ListReading
from umber_trunk.store.listing.titles import column_index, column_letter
from umber_trunk.store.listing.words import FIELDS, field_said
from umber_trunk.store.project import ProjectFile
from umber_trunk.store.sheets import Book, read_book

COMMANDS = {
    "import": "a wire list (CSV, XLSX, XLS, ODS) or a design (JSON) into a harness file",
}


def add_import(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("list", type=Path, metavar="LIST")
    parser.add_argument("-o", "--output", type=Path, metavar="FILE", help="a new harness file")
    parser.add_argument(
        "--into", type=Path, metavar="FILE", help="bring a later revision of its list into this harness"
    )
    parser.add_argument("--dry-run", action="store_true", help="say what would happen, change nothing")
    add_answers(parser)
    parser.add_argument("--skip-bad", action="store_true", help="import the good rows and leave the faulty ones out")
    parser.add_argument("--json", action="store_true", help="doubts, faults and notes as JSON")
    parser.set_defaults(run=_import)


def add_answers(parser: argparse.ArgumentParser) -> None:
    """Options that answer what is doubtful in a list."""
    parser.add_argument(
        "--sheet", action="append", default=[], metavar="NAME", help="read this sheet (may be repeated)"
    )
    parser.add_argument("--header-row", type=int, metavar="N", help="row of the header, counted from 1; 0 for none")
    parser.add_argument(
        "--column",
        action="append",
        default=[],
        metavar="FIELD=LETTER",
        help="what a column holds: " + ", ".join(FIELDS) + "; =none for no column",
    )
    parser.add_argument("--unit", action="append", default=[], metavar="FIELD=UNIT", help="length=mm, size=awg")
    parser.add_argument("--bare-size", choices=("awg", "metric", "mm2"), help="what sizes without a unit are")
    parser.add_argument("--decimal", choices=("comma", "point"), help="which mark stands before decimals")
    parser.add_argument("--split", metavar="MARK", help="the mark that parts end and pin in one cell, or none")
    parser.add_argument("--answer", action="append", default=[], metavar="DOUBT=KEY", help="answer any other doubt")
    parser.add_argument("--accept-doubts", action="store_true", help="take every likeliest answer")


def _pairs(texts: list[str], option: str) -> dict[str, str]:
    found = {}
    for text in texts:
        key, mark, value = text.partition("=")
        if not mark or not key or not value:
            raise InputError.of("shell.wants-name-value", option=option, text=text)
        found[key.strip()] = value.strip()
    return found


def _columns(texts: list[str]) -> dict[str, int]:
    found = {}
    for name, letters in _pairs(texts, "--column").items():
        if name not in FIELDS:
            raise InputError.of("shell.no-field-fields", name=name, known=", ".join(FIELDS))
        at = -1 if letters.lower() == "none" else column_index(letters)
        if at is None:
            raise InputError.of("shell.column-by-letter", name=name, letters=letters)
        found[name] = at
    return found


def answers_of(args: argparse.Namespace) -> Answers:
    """The answers the options give; InputError for what none can mean."""
    units = _pairs(args.unit, "--unit")
    for name, unit in units.items():
        if name not in UNITS:
            raise InputError.of("shell.unit-only-length-and-size", name=name, unit=unit)
        if unit.lower() not in UNITS[name]:
            raise InputError.of("shell.no-unit", unit=unit, name=name, known=", ".join(UNITS[name]))
    said = _pairs(args.answer, "--answer")
    if args.bare_size:
        said["bare-size"] = "awg" if args.bare_size == "awg" else "metric"
    if args.decimal:
        said["decimal"] = args.decimal
    if args.split is not None:
        said["split"] = args.split
    if args.header_row is not None and args.header_row < 0:
        raise InputError.of("shell.header-row-counts-from-one")
    return Answers(
        tuple(args.sheet),
        args.header_row,
        _columns(args.column),
        {k: v.lower() for k, v in units.items()},
        said,
        args.accept_doubts,
    )


def _import(args: argparse.Namespace) -> int:
    if (args.output is None) == (args.into is None) and not (args.dry_run and args.into is None):
        raise InputError.of("shell.say-where-it-goes")
    if args.list.suffix.lower() == ".json":
        if args.output is None:
            raise InputError.of("shell.design-in-json-makes-new-file")
        ProjectFile.create(args.output, read_json(args.list), "imported design").close()
        print(f"{args.output} made.")
        return SOUND
    answers = answers_of(args)
    book = stoppable(lambda wanted: read_book(args.list, wanted))
    if args.into is not None:
        with opened(args.into, for_writing=not args.dry_run) as project:
            return _into(args, project, book, answers)
    reading, used = stoppable(lambda wanted: read_with_memory(book, answers, wanted=wanted))
    status = _status(reading, args.skip_bad)
    if status == SOUND and not args.dry_run:
        design = add_wires(Design(project=Project(name=args.list.stem[:400])), reading, args.skip_bad)
        ProjectFile.create(args.output, design, f"imported {args.list.name}").close()
        remember(reading, used)
    return _told(args, reading, status, f"{len(reading.wires)} wires imported into {args.output}", [])


def _into(args: argparse.Namespace, project: ProjectFile, book: Book, answers: Answers) -> int:
    decimal = project.design.project.decimal
    reading, used = stoppable(lambda wanted: read_with_memory(book, answers, decimal=decimal, wanted=wanted))
    status = _status(reading, False)
    changes = differences(project.design, reading) if status == SOUND else []
    if changes and not args.dry_run:
        project.commit(merge(project.design, reading), f"merged {args.list.name}")
        remember(reading, used)
    kinds = ", ".join(f"{sum(c.kind == kind for c in changes)} {kind}" for kind in ("added", "changed", "gone"))
    return _told(args, reading, status, f"{kinds} in {args.into}", changes)


def said_of(path: Path, reading: ListReading) -> None:
    """Tells what is wrong and what is doubtful in a list."""
    for fault in reading.faults:
        print(f"umber: {path.name}, {fault}", file=sys.stderr)
    for doubt in reading.doubts:
        print(f"umber: doubt: {doubt}", file=sys.stderr)


def _status(reading: ListReading, skip_bad: bool) -> int:
    if reading.doubts:
        return DOUBTS_LEFT
    return BAD_INPUT if reading.faults and not (skip_bad and reading.wires) else SOUND


def _columns_told(reading: ListReading) -> list[Message]:
    told = []
    for one in reading.sheets:
        layout = one.layout
        for name, at in layout.columns.items():
            title = layout.headers[at] if at < len(layout.headers) else ""
            told.append(Message.of("list.columns", field=field_said(name), column=column_letter(at), title=title))
    return told


def _told(args: argparse.Namespace, reading: ListReading, status: int, done: str, changes: list[Change]) -> int:
    """Prints the whole reading and gives the exit status."""
    if args.json:
        out(
            {
                "imported": status == SOUND and not args.dry_run,
                "wires": len(reading.wires),
                **worded(columns=_columns_told(reading)),
                "doubts": [
                    {
                        "id": d.id,
                        **worded(question=d.asks, evidence=d.because),
                        "likeliest": d.likeliest,
                        "options": {o.key: o.words for o in d.options},
                        "options_said": [said_out(o.said) for o in d.options],
                        "flag": d.flag.format(d.likeliest),
                        "rows": list(d.rows),
                    }
                    for d in reading.doubts
                ],
                "faults": [
                    {"sheet": f.sheet, "row": f.row, "column": f.column, "message": f.message, "said": said_out(f.said)}
                    for f in reading.faults
                ],
                **worded(notes=reading.notes),
                "changes": [{"kind": c.kind, "wire": c.wire, "detail": c.detail} for c in changes],
            }
        )
        return status
    for note in reading.notes:
        print(note)
    said_of(args.list, reading)
    if status == DOUBTS_LEFT:
        many = f"{len(reading.doubts)} doubts" if len(reading.doubts) > 1 else "One doubt"
        print(
            f"umber: {many}; nothing was imported. Answer them, or take the likeliest answers with --accept-doubts.",
            file=sys.stderr,
        )
        return status
    if status == BAD_INPUT:
        raise UmberError.of("shell.faults-nothing-was-imported", count=len(reading.faults))
    for change in changes:
        print(change)
    print(f"{'Nothing changed yet: ' if args.dry_run else ''}{done}: {', '.join(map(str, _columns_told(reading)))}.")
    return SOUND
