"""Commands of the log itself: whether it is whole and signed, what is struck, what stations say differently, their
keys."""

from __future__ import annotations

import argparse
from pathlib import Path

from umber_trunk.cli.reading import opened
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.units import counted

COMMANDS = {
    "verify": "whether every entry of the log is as it was written, and signed by whom",
    "disputes": "what two stations say differently of one unit, and which stands",
    "strike": "an entry found wrong: it is kept, shown as struck, and counts no more",
    "station": "this station's key: its name, which others are known, what was done about a key",
}


def add_verify(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--seal", nargs=2, metavar=("N", "HEX"), help="an earlier seal, kept elsewhere: is it still entry N’s?"
    )
    parser.add_argument(
        "--certificate",
        type=Path,
        metavar="OUT",
        help="an earlier certificate as .json: does the log still hold what it says?",
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_verify)


def _verify(args: argparse.Namespace) -> int:
    from umber_trunk.store.station import SHORT, known_stations, this_station
    from umber_trunk.store.verifying import against_certificate, against_seal

    with opened(args.file, for_writing=False) as project:
        found = project.floor.trust()
        said = [found.wrong] if found.wrong else []
        if args.seal:
            number = counted(args.seal[0], 10**12)
            if number is None:
                raise InputError.of("shell.no-number-of-entry", entry=quoted(args.seal[0]))
            said += against_seal(project, number, args.seal[1])
        if args.certificate is not None:
            said += against_certificate(project, args.certificate)
    known = _of_the_shop(args.file) | known_stations() | {(own := this_station()).key: own.name}
    by = [
        {"key": key, "name": name, "known": key in known, "known_as": known.get(key, "")}
        for key, name in found.by.items()
    ]
    unsigned = max(found.entries - found.signed_to, 0)
    if args.json:
        out(
            {
                "whole": not said,
                "entries": found.entries,
                "seal": found.seal,
                "told": "; ".join(map(str, said)),
                "told_said": [said_out(one) for one in said],
                "signed_to": found.signed_to,
                "unsigned": unsigned,
                "stations": by,
            }
        )
    else:
        for one in said:
            print(f"✕ {one}.")
        if not found.wrong:
            print(f"{found.entries} entries, each as it was written. Seal {found.seal}.")
        for row in by:
            print(
                f"Signed by {row['known_as'] or row['name']}, {str(row['key'])[:SHORT]} …: "
                f"{'known here' if row['known'] else 'a station new here'}."
            )
        if unsigned:
            print(f"The last {unsigned} entries no signature covers yet.")
    return FAULTS if said else SOUND


def _of_the_shop(path: Path) -> dict[str, str]:
    """The stations that the shop's file knows, where there is one."""
    from umber_trunk.store.shop_place import shop_beside

    shop = shop_beside(path)
    if shop is None:
        return {}
    from umber_trunk.store.shop_file import shop_file

    with shop_file(shop) as file:
        return {one.id: one.name for one in file.shop().stations}


def add_strike(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("entry", metavar="N", help="its number in the log, as umber log says it")
    parser.add_argument("who", metavar="WHO")
    parser.add_argument("why", metavar="WHY")
    parser.set_defaults(run=_strike)


def _strike(args: argparse.Namespace) -> int:
    from umber_trunk.store.keeping import strike

    with opened(args.file) as project:
        told = strike(project, args.entry, args.who, args.why)
    print(f"{told}, is struck by {args.who}: {args.why}.")
    return SOUND


def add_disputes(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--stands", metavar="N", help="the entry that stands, by its number in the log")
    parser.add_argument("--against", metavar="N", help="the other one")
    parser.add_argument("--both", action="store_true", help="both stand")
    parser.add_argument("--who", default="", metavar="WHO")
    parser.add_argument("--why", default="", metavar="WHY")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_disputes)


def _disputes(args: argparse.Namespace) -> int:
    from umber_trunk.core.keep.stations import clocks, disputes
    from umber_trunk.store.keeping import choose

    if args.stands or args.against:
        if not (args.stands and args.against):
            raise InputError.of("shell.say-both-entries")
        with opened(args.file) as project:
            told = choose(project, args.stands, args.against, args.who, args.why, args.both)
        print(f"{told}, says {args.who}: {args.why}.")
        return SOUND
    with opened(args.file, for_writing=False) as project:
        rows = project.floor.events()
    open_, off = disputes(rows), clocks(rows)
    if args.json:
        out(
            {
                "disputes": [
                    {
                        "build": one.build,
                        "unit": one.unit,
                        "what": one.what,
                        "about": one.about,
                        "entry": one.one.n,
                        "other": one.other.n,
                        "station": one.by,
                        "told": one.told,
                    }
                    for one in open_
                ],
                "clocks": [
                    {"station": by, "entry": one.n, "other": two.n, "minutes": round(ms / 60_000)}
                    for one, two, by, ms in off
                ],
            }
        )
        return FAULTS if open_ else SOUND
    for one in open_:
        print(f"{one.build} / {one.unit or 'all units'}: {one.told}")
    for _, two, by, ms in off:
        print(f"The clock of {by or 'this station'} is off by {round(ms / 60_000)} min at entry {two.n}.")
    print(f"{len(open_)} contradictions are open." + (" Choose: --stands N --against N, or --both." if open_ else ""))
    return FAULTS if open_ else SOUND


def add_station(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", nargs="?", type=Path, help="the harness file in whose log it is noted")
    parser.add_argument("--name", default="", metavar="NAME", help="what this station is called from now on")
    parser.add_argument(
        "--know", nargs=2, metavar=("KEY", "NAME"), help="a station whose signatures are known from now on"
    )
    parser.add_argument("--new", action="store_true", help="a new key: the old one was lost, or somebody else has it")
    parser.add_argument(
        "--lost", metavar="KEY", help="a key that was lost: what it signs after this is not to be trusted"
    )
    parser.add_argument("--who", default="", metavar="WHO")
    parser.add_argument("--why", default="", metavar="WHY")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_station)


def _station(args: argparse.Namespace) -> int:
    from umber_trunk.store.station import known_stations, new_key, this_station
    from umber_trunk.store.verifying import note_key

    acts: list[tuple[str, str, str]] = []
    own = this_station()
    if (args.new or args.lost or args.know) and not (args.who.strip() and args.why.strip()):
        raise InputError.of("shell.what-is-done-about-key")
    if args.new:
        own = new_key()
        acts.append(("new", own.key, args.name or own.name))
    if args.name:
        acts.append(("trusted", own.key, args.name))
    if args.know:
        acts.append(("trusted", args.know[0].lower(), args.know[1]))
    if args.lost:
        acts.append(("lost", args.lost.lower(), known_stations().get(args.lost.lower(), "")))
    for act, key, name in acts:
        note_key(None, act, key, name, args.who, args.why)
    if args.file is not None and acts:
        with opened(args.file) as project:
            for act, key, name in acts:
                note_key(project, act, key, name, args.who, args.why)
    own, known = this_station(), known_stations()
    if args.json:
        out({"name": own.name, "key": own.key, "known": known})
        return SOUND
    print(f"{own.name}  {own.key}")
    for key, name in known.items():
        if key != own.key:
            print(f"{name}  {key}")
    return SOUND
