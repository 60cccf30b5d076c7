"""Commands of what a job costs."""

from __future__ import annotations

import argparse
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import file_and_variant, is_plain, opened, results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out, stoppable
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from datetime import date

    from umber_trunk.core.results import Results
    from umber_trunk.core.shop.offers import Asked, Quote

COMMANDS = {
    "quote": "what so many units cost and what to ask for them, line by line, with what would be cheaper",
}


def add_quote(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path, help="a harness file, a variant as FILE:VARIANT, or a design as JSON")
    parser.add_argument("--units", default="1", metavar="N,N,…", help="numbers of units, with commas; 1 otherwise")
    parser.add_argument("--now", default="", metavar="DATE", help="the day it is worked out for, as 2026-12-01; today")
    parser.add_argument(
        "--shop", type=Path, metavar="SHOP", help="the shop’s file; the one that is set, or beside FILE"
    )
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--customer", default="", metavar="NAME", help="whom it is for")
    parser.add_argument("--inside", action="store_true", help="as PDF: what it costs line by line, for the shop alone")
    parser.add_argument("--plain", action="store_true", help="without trying what would be cheaper")
    parser.add_argument(
        "--keep", action="store_true", help="copy the prices into the harness: it says the same without its shop"
    )
    parser.add_argument("-o", "--output", type=Path, metavar="OUT", help="quote.pdf, .csv or .xlsx")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_quote)


def day_of(text: str) -> date:
    """A day as ISO 8601 says it; today where none is said."""
    from datetime import date

    if not text:
        return date.today()
    try:
        return date.fromisoformat(text[:10])
    except ValueError as why:
        raise InputError.of("shell.no-day-say", text=quoted(text)) from why


def numbers_of(text: str) -> list[int]:
    """“1,5,20” as numbers of units."""
    found = [counted(part.strip(), 10_000) for part in text.split(",") if part.strip()]
    if not found or None in found or len(found) > 20:
        raise InputError.of("shell.no-numbers-of-units", text=quoted(text))
    return [number for number in found if number is not None]


def shop_path_of(said: Path | None, beside: Path) -> Path | None:
    """The shop's file that is named, set, or beside a harness."""
    from umber_trunk.store.shop_place import shop_beside

    return said or shop_beside(beside)


def asked_of(path: Path, shop_path: Path | None, day: date, own: tuple[str, ...] = ()) -> Asked:
    """What a quote of a harness file is worked out from: the shop's lists, the usual ones where there is no shop; times
    and scrap by the logs of all the shop's harnesses, this one's among them."""
    from umber_trunk.core.shop.offers import Asked
    from umber_trunk.core.shop.things import Shop
    from umber_trunk.store.shop_file import shop_file
    from umber_trunk.store.shop_jobs import logs_of_shop, times_and_scrap

    shop, events = Shop(), []
    if shop_path is not None:
        with shop_file(shop_path) as file:
            shop = file.shop()
        events = logs_of_shop(shop_path, shop)
    if not is_plain(path):
        with opened(path, for_writing=False) as project:
            known = {event.id for event in events}
            events += [event for event in project.floor.events() if event.id not in known]
    times, seen = times_and_scrap(events)
    return Asked(shop, day, times, seen, own)


def quote_of(
    path: Path, numbers: list[int], asked: Asked, revision: int | None = None, plainly: bool = False
) -> tuple[Quote, Results]:
    """A quote of a harness file, and the figures it is of."""
    from umber_trunk.cli.reading import read_design
    from umber_trunk.core.shop.quoting import quote
    from umber_trunk.core.shop.savings import cheaper
    from umber_trunk.core.text import digest_of
    from umber_trunk.store.jsonfile import to_json

    design = read_design(path, revision)
    results = results_of(design, beside=path)
    number = "" if is_plain(path) else str(revision or _head(path))
    variant = file_and_variant(path)[1]
    told = f"{number}:{variant}" if variant else number
    digest = digest_of(to_json(design))
    found = stoppable(lambda wanted: quote(results, numbers, asked, told, digest, wanted))
    if not plainly:
        ways = stoppable(lambda wanted: cheaper(results, numbers[0], asked, results_of, wanted))
        found = replace(found, cheaper=ways)
    return found, results


def _head(path: Path) -> int:
    with opened(path, for_writing=False) as project:
        return project.head


def _in_values(answer: dict[str, Any], quote: Quote) -> dict[str, Any]:
    """A quote as JSON has it, with codes and values beside what it says."""
    for offer, row in zip(quote.offers, answer["offers"], strict=True):
        for line, one in zip(offer.lines, row["lines"], strict=True):
            one["what_said"] = said_out(line.said) if line.said else None
            one["note_said"] = [said_out(note) for note in line.notes]
    for way, row in zip(quote.cheaper, answer["cheaper"], strict=True):
        row["told_said"] = said_out(way.told)
    return answer


def _quote(args: argparse.Namespace) -> int:
    from umber_trunk.core.shop.money import told
    from umber_trunk.core.shop.quote_sheet import offer_words, plain

    if args.output is not None and args.output.suffix.lower() not in (".pdf", ".csv", ".xlsx"):
        raise InputError.of("shell.quote-endings", output=args.output.name)
    day, numbers = day_of(args.now), numbers_of(args.units)
    shop = shop_path_of(args.shop, file_and_variant(args.file)[0])
    asked = asked_of(args.file, shop, day)
    found, results = quote_of(args.file, numbers, asked, args.revision, args.plain)
    if args.keep:
        from umber_trunk.core.shop.price_book import with_prices

        with opened(args.file) as project:
            project.commit(with_prices(project.design, found, asked.shop), "the prices it was offered at")
    if args.output is not None:
        write_quote(found, results, args.output, args.customer, args.inside)
    if args.json:
        out(_in_values(plain(found), found))
    else:
        where = f", revision {found.revision}" if found.revision else ""
        print(f"{found.harness}{where}, valid until {found.until.isoformat()}:")
        for line in offer_words(found):
            print(line)
        for one in found.cheaper:
            print(f"  cheaper by {told(one.saves, found.currency)} a unit: {one.told}")
    return FAULTS if any(one.unpriced for one in found.offers) else SOUND


def write_quote(found: Quote, results: Results, path: Path, customer: str, inside: bool) -> None:
    """The quote as a file, by its ending."""
    from umber_trunk.core.shop.quote_sheet import customer_sheet, inside_sheet, quote_rows
    from umber_trunk.core.stages import fetched
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.sheets import table_bytes

    match path.suffix.lower():
        case ".csv" | ".xlsx" as ending:
            data = table_bytes("quote", quote_rows(found), ending)
        case _:
            sheet = inside_sheet(found, results) if inside else customer_sheet(found, results, customer)
            data = fetched("app.paper.pdf:pdf_of")(results, [sheet])
    write_whole(path, data)
