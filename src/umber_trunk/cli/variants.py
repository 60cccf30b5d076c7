"""Command of variants: one harness with options."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import opened, read_design
from umber_trunk.cli.terminal import SOUND, out
from umber_trunk.core.errors import InputError, quoted

if TYPE_CHECKING:
    from umber_trunk.core.harness.model import Design
    from umber_trunk.core.harness.option import Option

COMMANDS = {
    "variants": "one harness with options: what is there with each, variants by name; FILE:VARIANT anywhere",
}


def add_variants(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--option", metavar="NAME", help="make an option, or another of this name")
    parser.add_argument("--only", nargs="+", default=[], metavar="TABLE:ID", help="parts that are there only with it")
    parser.add_argument(
        "--without", nargs="+", default=[], metavar="TABLE:ID", help="parts that are there only without it"
    )
    parser.add_argument(
        "--change", nargs="+", default=[], metavar="TABLE:ID:FIELD=JSON", help="values that are others with it"
    )
    parser.add_argument("--variant", nargs="+", metavar="NAME", help="make a variant: its name, then its options")
    parser.add_argument("--told", default="", metavar="WORDS", help="with --option or --variant: what it is, in words")
    parser.add_argument("--remove", metavar="NAME", help="an option or variant is none any more; its parts stay")
    parser.add_argument(
        "--differs", nargs=2, metavar="VARIANT", help="what differs between two; “-” is without options"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_variants)


def _variants(args: argparse.Namespace) -> int:
    from umber_trunk.core.harness.option import Variant
    from umber_trunk.core.harness.variants import put_option, put_variant, without_option

    if args.option or args.variant or args.remove:
        with opened(args.file) as project:
            design = project.design
            if args.option:
                design = put_option(design, _option(args))
            if args.variant:
                name, *options = args.variant
                design = put_variant(design, Variant(id=name, name=args.told, options=tuple(options)))
            if args.remove:
                design = without_option(design, args.remove)
            project.commit(design, f"{args.option or (args.variant or [''])[0] or args.remove}: options and variants")
    design = read_design(args.file)
    if args.differs:
        return _differs(args, design)
    if args.json:
        out(
            {
                "options": [one.model_dump(mode="json") for one in design.options],
                "variants": [one.model_dump(mode="json") for one in design.variants],
            }
        )
        return SOUND
    for option in design.options:
        told = [f"{one.table} {one.id}" for one in option.only]
        told += [f"without {one.table} {one.id}" for one in option.without]
        told += [f"{one.table} {one.id} {one.field} {one.to}" for one in option.changes]
        print(f"option  {option.id:16} {option.name} {', '.join(told)[:160]}".rstrip())
    for variant in design.variants:
        print(f"variant {variant.id:16} {variant.name} {' + '.join(variant.options) or 'without options'}")
    if not design.options:
        print("It has no options yet.")
    return SOUND


def _differs(args: argparse.Namespace, design: Design) -> int:
    from umber_trunk.core.harness.variants import variant_of, with_options
    from umber_trunk.core.keep.compare import compare

    one, other = (with_options(design, ()) if name == "-" else variant_of(design, name) for name in args.differs)
    found = compare(one, other)
    if args.json:
        tables: dict[str, Any] = {
            name: {
                "added": list(table.added),
                "gone": list(table.gone),
                "changed": [{"id": row.id, "fields": [list(field) for field in row.what]} for row in table.changed],
            }
            for name, table in found.tables.items()
        }
        out({"first": args.differs[0], "second": args.differs[1], "tables": tables})
        return SOUND
    for name, table in found.tables.items():
        for key in table.added:
            print(f"+ {name} {key}")
        for key in table.gone:
            print(f"- {name} {key}")
        for row in table.changed:
            print(f"~ {name} {row.id}: " + ", ".join(f"{field} {was} → {now}" for field, was, now in row.what)[:160])
    return SOUND


def _option(args: argparse.Namespace) -> Option:
    from umber_trunk.core.harness.option import Changed, Only, Option

    def only(text: str) -> Only:
        table, colon, part = text.partition(":")
        if not colon:
            raise InputError.of("shell.names-no-part", text=quoted(text))
        return Only(table=table, id=part)

    def changed(text: str) -> Changed:
        where, equals, value = text.partition("=")
        parts = where.split(":")
        if not equals or len(parts) != 3:
            raise InputError.of("shell.changes-nothing-say-it-as-segments", text=quoted(text))
        try:
            json.loads(value)
        except ValueError:
            value = json.dumps(value)  # a plain word is a text
        return Changed(table=parts[0], id=parts[1], field=parts[2], to=value)

    try:
        return Option(
            id=args.option,
            name=args.told,
            only=tuple(map(only, args.only)),
            without=tuple(map(only, args.without)),
            changes=tuple(map(changed, args.change)),
        )
    except ValueError as why:
        from umber_trunk.core.harness.edits import refused

        raise refused(why) from None
