"""Commands on harness files: new, export; import is in lists. And what is published of the program: its formats, and
what it takes for granted."""

from __future__ import annotations

import argparse
import sys
from dataclasses import asdict
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.cli.reading import analysed
from umber_trunk.cli.terminal import SOUND, out
from umber_trunk.core.errors import InputError, UmberError, quoted
from umber_trunk.core.stages import exports

if TYPE_CHECKING:
    from umber_trunk.core.harness.model import Design

COMMANDS = {
    "new": "make an empty harness file",
    "export": "a harness file to a wire list, cut list, workbook, cut sheet or JSON",
    "assumed": "every figure the program takes for granted, with what it means; of those that words are in",
    "schema": "the JSON schema of a design, a catalogue, a log’s entries, a shop’s lists, or all JSON answers",
}


def add_new(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--name", default="")
    parser.add_argument(
        "--template", metavar="NAME", help="begin from a template of the shop, and be told what is open"
    )
    parser.add_argument(
        "--shop", type=Path, metavar="SHOP", help="the shop’s file; the one that is set, or beside FILE"
    )
    parser.set_defaults(run=_new)


def add_export(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help="name of the file to write; - for standard output"
    )
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--format", choices=sorted(exports()), help="otherwise by the name's ending")
    parser.add_argument("--force", action="store_true", help="replace what is there")
    parser.set_defaults(run=_export)


def add_assumed(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("words", nargs="*", help="in its name, its module or what is said of it, such as: earth")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_assumed)


def add_schema(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("of", nargs="?", default="design", choices=("design", "catalogue", "log", "shop", "answers"))
    parser.set_defaults(run=_schema)


def _new(args: argparse.Namespace) -> int:
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.harness.project import Project
    from umber_trunk.store.project import ProjectFile

    design = Design(project=Project(name=args.name or "Untitled harness"))
    questions: tuple[str, ...] = ()
    if args.template:
        design, questions = _from_template(args)
    ProjectFile.create(args.file, design).close()
    print(f"{args.file} made.")
    for question in questions:
        print(f"open: {question}")
    return 0


def _from_template(args: argparse.Namespace) -> tuple[Design, tuple[str, ...]]:
    """(the design of a template, what is still to be asked)."""
    import json

    from umber_trunk.core.harness.edits import set_project
    from umber_trunk.store.jsonfile import design_from
    from umber_trunk.store.shop_file import shop_file
    from umber_trunk.store.shop_place import shop_beside

    path = args.shop or shop_beside(args.file)
    if path is None:
        raise InputError.of("shell.no-shops-file-beside")
    with shop_file(path) as file:
        templates = file.shop().templates
    found = next((one for one in templates if one.id == args.template), None)
    if found is None:
        there = ", ".join(one.id for one in templates) or "none so far"
        raise InputError.of("shell.no-template", template=quoted(args.template), there=there)
    design = design_from(json.loads(found.design), found.id)
    return set_project(design, name=args.name or found.name or found.id), found.questions


def _export(args: argparse.Namespace) -> int:
    from umber_trunk.store.files import STREAMS, StoreError, target_of
    from umber_trunk.store.output import write_export

    kinds = exports()
    if args.format is None and args.output is None:
        raise UmberError.of("shell.say-what-to-write", known=", ".join(kinds))
    if args.format is None:
        # -wires.csv before .csv; any other .csv is the wire list
        endings = {export.ending: kind for kind, export in kinds.items()} | {".csv": "csv"}
        matches = [ending for ending in endings if str(args.output).lower().endswith(ending)]
        if not matches:
            raise UmberError.of("shell.ending-names-no-format", output=args.output.name)
        args.format = endings[max(matches, key=len)]
    out = args.output or args.file.with_name(args.file.stem + kinds[args.format].ending)
    streamed = str(out) in STREAMS
    if not streamed and target_of(out).exists() and not args.force:
        raise StoreError.of("shell.exists-already-use-force-to-replace", out=out)
    write_export(analysed(args.file, args.revision, upto="findings"), args.format, out)
    print(f"{out} written.", file=sys.stderr if streamed else sys.stdout)
    return SOUND


def _assumed(args: argparse.Namespace) -> int:
    from umber_trunk.store.assumed import assumed

    words = [word.lower() for word in args.words]
    rows = [one for one in assumed() if all(word in f"{one.module} {one.name} {one.says}".lower() for word in words)]
    if args.json:
        out({"figures": [asdict(one) for one in rows]})
        return SOUND
    for module, own in groupby(rows, key=lambda one: one.module):
        print(module.replace(".", "/"))
        for one in own:
            print(f"  {one.name} = {one.value}" + (f"\n      {one.says}" if one.says else ""))
    if not rows:
        raise InputError.of("shell.nothing-that-is-taken-for-granted", words=" and ".join(map(quoted, args.words)))
    return SOUND


def _schema(args: argparse.Namespace) -> int:
    from umber_trunk.store.published import SCHEMAS

    print(SCHEMAS[args.of](), end="")
    return 0
