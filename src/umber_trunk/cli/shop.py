"""Commands of the shop: its file and lists, what is learnt."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from umber_trunk.cli.quotes import day_of
from umber_trunk.cli.reading import results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.kept_words import MOST_TEXT, said_kept
from umber_trunk.core.row_fault import faults_told
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.store.shop_file import ShopFile

COMMANDS = {
    "shop": "the shop’s own file: tools, people, prices, rates, devices, jobs, what is to come; lists in and out",
    "lessons": "what the shop’s logs teach: times, scrap, faults, lengths, prices",
}
LISTS = ("tools", "people", "prices", "suppliers", "rates", "devices", "templates", "jobs", "incoming", "stations")


def add_shop(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_where(parser)
    parser.add_argument("--new", action="store_true", help="make the file; a shelf file grows into one by itself")
    parser.add_argument("--list", choices=LISTS, metavar="KIND", help=f"one of its lists: {', '.join(LISTS)}")
    parser.add_argument("--read", nargs=2, metavar=("KIND", "LIST"), help="rows of a CSV or XLSX table come in")
    parser.add_argument("--replace", action="store_true", help="with --read: rows that the table doesn’t have are gone")
    parser.add_argument("--drop", nargs=2, metavar=("KIND", "ID"), help="take a row out")
    parser.add_argument("--write", nargs=2, metavar=("KIND", "OUT"), help="a list as .csv or .xlsx")
    parser.add_argument(
        "--came", nargs=2, metavar=("ID", "JUDGED"), help="what was to come is here, and what the judge found of it"
    )
    parser.add_argument("--coil", metavar="NAME", help="with --came: the coil’s name on the shelf")
    parser.add_argument("--count", nargs=2, metavar=("PART", "N"), help="a part was counted: so many are there")
    parser.add_argument("--who", default="", metavar="WHO", help="who does it")
    parser.add_argument(
        "--template", nargs=2, metavar=("NAME", "FILE"), help="a harness to begin from is kept; umber new --template"
    )
    parser.add_argument(
        "--ask", action="append", default=[], metavar="WHAT", help="with --template: a question it leaves open"
    )
    parser.add_argument("--log", action="store_true", help="every change of the shop’s lists, by whom")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_shop)


def add_where(parser: argparse.ArgumentParser) -> None:
    """The option that says whose shop's file a command is about."""
    parser.add_argument(
        "--shop", type=Path, metavar="SHOP", help="the shop’s file; the one that is set, or shop.umber in this folder"
    )


def where_of(args: argparse.Namespace) -> Path:
    """The shop's file a command is about."""
    from umber_trunk.store.shop_place import ASKED, SHOP_NAME, shop_beside

    path: Path | None = args.shop or shop_beside(Path(SHOP_NAME))
    if path is None:
        raise InputError.of("shell.no-shop-here", shop=SHOP_NAME, asked=ASKED)
    return path


def _shop(args: argparse.Namespace) -> int:
    from umber_trunk.store.shop_file import ShopFile, shop_file
    from umber_trunk.store.shop_place import SHOP_NAME

    if args.new:
        ShopFile.create(args.shop or Path(SHOP_NAME)).close()
        print(f"{args.shop or SHOP_NAME} made.")
        return SOUND
    with shop_file(where_of(args)) as file:
        for lost in file.lost:
            print(f"✕ {say('lost.line', what=lost)}.")
        if args.read:
            return read_list(file, args.read[0], args.read[1], args.replace, args.who)
        if args.drop:
            _known_list(args.drop[0])
            file.drop(args.drop[0], [args.drop[1]], args.who)
            print(f"{args.drop[1]} is taken out of the {args.drop[0]}.")
            return SOUND
        if args.write:
            return _write(file, *args.write)
        if args.came:
            return _came(file, args.came[0], args.came[1], args.coil, args.who)
        if args.count:
            return _count(file, args.count[0], args.count[1], args.who)
        if args.template:
            return _template(file, args.template[0], Path(args.template[1]), args.ask, args.who)
        if args.log:
            return _log(file, args.json)
        return _shown(file, args.list, args.json)


def _known_list(kind: str) -> None:
    if kind not in LISTS:
        raise InputError.of("shell.none-of-shops-lists", kind=quoted(kind), known=", ".join(LISTS))


def read_list(file: ShopFile, kind: str, name: str, replace: bool, who: str) -> int:
    """Rows of a table come in, all of them or none; InputError with every fault."""
    from umber_trunk.core.shop.lists import read_table
    from umber_trunk.store.sheets import read_book

    _known_list(kind)
    found = read_table(kind, read_book(Path(name)).sheets[0].grid)
    if found.faults:
        raise InputError.of("store.faults-in-list", path=name, **faults_told(found.faults))
    changed = file.put_told(kind, found, who, replace)
    print(f"{len(found.rows)} rows of {kind}, {changed} of them new or changed.")
    return SOUND


def _write(file: ShopFile, kind: str, name: str) -> int:
    from umber_trunk.core.shop.lists import table
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.sheets import table_bytes

    _known_list(kind)
    rows = table(kind, file.shop().rows(kind))
    path = Path(name)
    if path.suffix.lower() not in (".csv", ".xlsx"):
        raise InputError.of("shell.shop-list-endings", path=path.name)
    write_whole(path, table_bytes(kind, rows, path.suffix))
    print(f"{len(rows) - 1} rows written to {path}.")
    return SOUND


def _came(file: ShopFile, name: str, judged: str, coil: str | None, who: str) -> int:
    """A delivery is booked in: a conductor as a coil, a part into its count."""
    from datetime import date

    from umber_trunk.core.catalog.conductors import area_of
    from umber_trunk.core.kit.coils import Coil
    from umber_trunk.core.shop.price_book import size_and_words

    if not judged.strip():
        raise InputError.of("shell.say-what-judge-found")
    shop = file.shop()
    one = shop.named("incoming", name)
    if one is None or one.came is not None:
        raise InputError.of("shell.not-to-come", name=quoted(name), here=one is not None)
    size, words = size_and_words(one.part)
    if area_of(size) > 0 and not coil:
        raise InputError.of("shell.wire-say-coil-name", part=one.part)
    made = Coil(coil, size, one.amount, "", "/".join(words)) if coil else None
    there = file.take_in(name, said_kept(judged, MOST_TEXT), date.today().isoformat(), made, who)
    print(f"{one.part}: {there:g} " + (f"m are on the shelf as {coil}." if coil else "are there."))
    return SOUND


def _count(file: ShopFile, part: str, many: str, who: str) -> int:
    from umber_trunk.core.quantity import read_number

    number = read_number(many)
    if not 0 <= number <= 1e9 or not who.strip():
        raise InputError.of("shell.say-how-many-there")
    before = file.floor.parts().get(part)
    file.count_parts({part: number}, who)
    print(f"{part}: {number:g} are there{'' if before is None else f', {before:g} were expected'}.")
    return SOUND


def _template(file: ShopFile, name: str, path: Path, asks: list[str], who: str) -> int:
    """A harness is kept to begin others from: its limbs, ends and wires, with what is to be asked each time."""
    from umber_trunk.cli.reading import read_design
    from umber_trunk.core.shop.things import Template
    from umber_trunk.store.jsonfile import to_json

    design = read_design(path)
    row = Template(id=name, name=design.project.name, design=to_json(design), questions=tuple(asks))
    file.put("templates", [row], who, "kept to begin from")
    print(f"{name}: {len(design.wires)} wires, {len(asks)} questions.")
    return SOUND


def _log(file: ShopFile, plainly: bool) -> int:
    from umber_trunk.core.moments import iso

    wrong = file.wrong()
    acts = file.acts()
    if plainly:
        rows = [
            {"n": a.n, "at": iso(a.at_ms), "who": a.who, "list": a.kind, "id": a.id, "row": a.row, "why": a.why}
            for a in acts
        ]
        told = said_out(wrong) if wrong else None
        out({"whole": not wrong, "told": str(wrong), "told_said": told, "changes": rows})
    else:
        for act in acts:
            what = act.why if not act.id else f"{act.id} {'taken out' if act.row is None else 'put'} {act.why}".strip()
            print(f"{act.n:5} {iso(act.at_ms)[:16]} {act.who or '–':10} {act.kind:10} {what}")
        print(f"✕ {wrong}." if wrong else f"{len(acts)} changes, each as it was written.")
    return FAULTS if wrong else SOUND


def _shown(file: ShopFile, kind: str | None, plainly: bool) -> int:
    from umber_trunk.core.shop.lists import columns, table

    shop = file.shop()
    if kind is not None:
        rows = shop.rows(kind)
        if plainly:
            out({"list": kind, "rows": [row.model_dump(mode="json") for row in rows]})
        else:
            for cells in table(kind, rows)[1:]:
                told = [f"{h} {c}" for h, c in zip(columns(kind), cells, strict=True) if c not in ("", None)]
                print(", ".join(told)[:200])
        return SOUND
    coils = file.coils()
    counts = {name: len(shop.rows(name)) for name in LISTS}
    if plainly:
        out({"lists": counts, "coils": len(coils), "parts": len(file.floor.parts()), "whole": not file.wrong()})
    else:
        for name, count in counts.items():
            print(f"{name:10} {count:5}")
        print(f"{'coils':10} {len(coils):5}, {sum(one.left_m for one in coils):.1f} m left on them")
        print(f"{'parts':10} {len(file.floor.parts()):5} counted")
    return SOUND


def add_lessons(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_where(parser)
    parser.add_argument("--by-name", action="store_true", help="by the names of those who agreed to it")
    parser.add_argument("--now", default="", metavar="DATE", help="the day it is; today")
    parser.add_argument("-o", "--output", type=Path, metavar="OUT", help="the page of pictures: .pdf or .csv")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_lessons)


def _lessons(args: argparse.Namespace) -> int:
    from umber_trunk.core.shop.lessons import lesson_rows, lessons, lessons_sheet
    from umber_trunk.core.stages import fetched
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.sheets import csv_bytes
    from umber_trunk.store.shop_file import shop_file
    from umber_trunk.store.shop_jobs import ShopSeen, history_of, shop_events, times_and_scrap

    path = where_of(args)
    with shop_file(path) as file:
        seen = ShopSeen(path, file.shop(), results_of)
        events = shop_events(seen)
        times, _ = times_and_scrap(events)
        found = lessons(seen.shop, events, day_of(args.now), times, history_of(seen), args.by_name)
    if args.output is not None:
        ending = args.output.suffix.lower()
        if ending == ".csv":
            write_whole(args.output, csv_bytes(lesson_rows(found)))
        elif ending == ".pdf":
            from umber_trunk.core.harness.model import Design

            write_whole(args.output, fetched("app.paper.pdf:pdf_of")(results_of(Design()), [lessons_sheet(found)]))
        else:
            raise InputError.of("shell.lesson-endings", output=args.output.name)
    if args.json:
        said = [said_out(row.told) if row.told else None for row in found.rows]
        plain = found.plain()
        rows = [row | {"told_said": told} for row, told in zip(plain["lessons"], said, strict=True)]
        out(plain | {"lessons": rows})
    elif args.output is None:
        for row in lesson_rows(found)[1:]:
            print(f"{row[0]:10} {row[1]:32} {'  '.join(str(cell) for cell in row[2:] if cell not in ('', None))}")
    return SOUND
