"""Commands of the shop: its file and lists, devices, jobs, what is learnt."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.quotes import asked_of, day_of, quote_of
from umber_trunk.cli.reading import analysed, file_and_variant, opened, results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, stoppable
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from umber_trunk.core.shop.jobs import JobState
    from umber_trunk.core.shop.things import Delivery, Job, Shop
    from umber_trunk.store.shop_file import ShopFile
    from umber_trunk.store.shop_jobs import ShopSeen

COMMANDS = {
    "shop": "the shop’s own file: tools, people, prices, rates, devices, jobs, what is to come; lists in and out",
    "devices": "what harnesses are plugged into: known once, compared pin by pin, checked before it is plugged in",
    "job": "what was ordered: new, offered, accepted, made, handed over, closed; what holds each up",
    "lessons": "what the shop’s logs teach: times, scrap, faults, lengths, prices",
}
LISTS = ("tools", "people", "prices", "suppliers", "rates", "devices", "templates", "jobs", "incoming", "stations")


def add_shop(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    _add_where(parser)
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


def _add_where(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--shop", type=Path, metavar="SHOP", help="the shop’s file; the one that is set, or shop.umber in this folder"
    )


def where_of(args: argparse.Namespace) -> Path:
    """The shop's file a command is about."""
    from umber_trunk.store.shop_file import ASKED, SHOP_NAME, shop_beside

    path: Path | None = args.shop or shop_beside(Path(SHOP_NAME))
    if path is None:
        raise InputError(f"There is no {SHOP_NAME} here: say --shop SHOP, or set {ASKED}; umber shop --new makes one.")
    return path


def _shop(args: argparse.Namespace) -> int:
    from umber_trunk.store.shop_file import SHOP_NAME, ShopFile, shop_file

    if args.new:
        ShopFile.create(args.shop or Path(SHOP_NAME)).close()
        print(f"{args.shop or SHOP_NAME} made.")
        return SOUND
    with shop_file(where_of(args)) as file:
        for lost in file.lost:
            print(f"✕ lost: {lost}.")
        if args.read:
            return _read(file, args.read[0], args.read[1], args.replace, args.who)
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
        raise InputError(f"{quoted(kind)} is none of the shop’s lists: {', '.join(LISTS)}.")


def _read(file: ShopFile, kind: str, name: str, replace: bool, who: str) -> int:
    from umber_trunk.core.shop.lists import read_table
    from umber_trunk.store.sheets import read_book

    _known_list(kind)
    found = read_table(kind, read_book(Path(name)).sheets[0].grid)
    if found.faults:
        more = f" and {len(found.faults) - 20} more" if len(found.faults) > 20 else ""
        raise InputError(f"{name}: {'; '.join(found.faults[:20])}{more}. Nothing was taken over.")
    changed = file.replace(kind, found.rows, who) if replace else file.put(kind, found.rows, who)
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
        raise InputError(f"{path.name}: a list is written as .csv or .xlsx.")
    write_whole(path, table_bytes(kind, rows, path.suffix))
    print(f"{len(rows) - 1} rows written to {path}.")
    return SOUND


def _came(file: ShopFile, name: str, judged: str, coil: str | None, who: str) -> int:
    """A delivery is booked in: a conductor as a coil, a part into its count."""
    from datetime import date

    from umber_trunk.core.catalog.conductors import area_of
    from umber_trunk.core.kit.coils import Coil
    from umber_trunk.core.shop.quoting import size_and_words

    if not judged.strip():
        raise InputError("Say what the judge found of it: umber wirecheck tells a coil from what it is sold as.")
    shop = file.shop()
    one = shop.named("incoming", name)
    if one is None or one.came is not None:
        raise InputError(f"{quoted(name)} is " + ("here already." if one is not None else "nothing that is to come."))
    size, words = size_and_words(one.part)
    if area_of(size) > 0 and not coil:
        raise InputError(f"{one.part} is wire: say --coil NAME, what its coil is called on the shelf.")
    made = Coil(coil, size, one.amount, "", "/".join(words)) if coil else None
    there = file.take_in(name, judged.strip()[:400], date.today().isoformat(), made, who)
    print(f"{one.part}: {there:g} " + (f"m are on the shelf as {coil}." if coil else "are there."))
    return SOUND


def _count(file: ShopFile, part: str, many: str, who: str) -> int:
    from umber_trunk.core.quantity import read_number

    number = read_number(many)
    if not 0 <= number <= 1e9 or not who.strip():
        raise InputError("Say how many there are, from 0 on, and --who counted them.")
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
        out({"whole": not wrong, "told": wrong, "changes": rows})
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


def add_devices(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "act",
        choices=("list", "show", "check", "import", "compare", "take", "learn"),
        help="list; show DEVICE; check FILE END DEVICE: before it is plugged in; import LIST; compare DEVICE DEVICE; "
        "take FILE END DEVICE: known from a harness from now on; learn MAP DEVICE: of umber learn --json",
    )
    parser.add_argument("words", nargs="*", metavar="WORD", help="what it is about, as above")
    _add_where(parser)
    parser.add_argument(
        "--connector", default="", metavar="NAME", help="with check: that connector of the device alone"
    )
    parser.add_argument("--keep", action="store_true", help="with check: copy the device into the harness, at that end")
    parser.add_argument("--who", default="", metavar="WHO", help="who measured it, or takes it in")
    parser.add_argument("--now", default="", metavar="DATE", help="the day it was measured; today")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_devices)


def _devices(args: argparse.Namespace) -> int:
    from umber_trunk.store.shop_file import shop_file

    needs = {"list": 0, "show": 1, "check": 3, "import": 1, "compare": 2, "take": 3, "learn": 2}[args.act]
    if len(args.words) != needs:
        raise InputError(f"umber devices {args.act} takes {needs} words: umber devices --help says which.")
    with shop_file(where_of(args)) as file:
        act = {"list": _devices_list, "show": _devices_list, "check": _device_check, "compare": _devices_compared}
        if args.act in act:
            return act[args.act](args, file.shop())
        if args.act == "import":
            return _read(file, "devices", args.words[0], False, args.who)
        return _device_in(args, file)


def _device(shop: Shop, name: str) -> Any:
    found = shop.named("devices", name)
    if found is None:
        there = ", ".join(one.id for one in shop.devices) or "none so far"
        raise InputError(f"There is no device {quoted(name)}: {there}.")
    return found


def _devices_list(args: argparse.Namespace, shop: Shop) -> int:
    chosen = [_device(shop, args.words[0])] if args.words else list(shop.devices)
    if args.json:
        out({"devices": [{**one.model_dump(mode="json"), "unmeasured": list(one.unmeasured)} for one in chosen]})
        return SOUND
    for one in chosen:
        pins = sum(len(connector.pins) for connector in one.connectors)
        by = f"by {one.who}" if one.who else "by nobody named"
        open_ = f", {len(one.unmeasured)} not measured" if one.unmeasured else ""
        print(f"{one.id:20} {one.name}: {pins} pins{open_}; {by} {one.when} {one.source}".rstrip())
        if args.words:
            for connector in one.connectors:
                for pin in connector.pins:
                    volts = "" if pin.volts is None else f"{pin.volts:g} V"
                    most = "" if pin.most_a is None else f"{pin.most_a:g} A"
                    how = pin.measured or "not measured"
                    print(f"  {connector.id}:{pin.label:6} {pin.pole:7} {volts:8} {most:8} {pin.function} ({how})")
    return SOUND


def _devices_compared(args: argparse.Namespace, shop: Shop) -> int:
    from umber_trunk.core.shop.devices import compared

    one, other = _device(shop, args.words[0]), _device(shop, args.words[1])
    found = compared(one, other)
    if args.json:
        rows = [
            {
                "connector": r.connector,
                "pin": r.label,
                "first": r.mine,
                "second": r.theirs,
                "what": r.what,
                "open": r.open,
            }
            for r in found.rows
        ]
        out(
            {
                "first": one.id,
                "second": other.id,
                "alike": found.alike,
                "pins": found.pins,
                "told": found.words,
                "rows": rows,
            }
        )
    else:
        for row in found.rows:
            mark = "?" if row.open else "✕"
            print(f"{mark} {row.connector}:{row.label:6} {row.mine} | {row.theirs}: {row.what}")
        print(f"{found.words[0].upper()}{found.words[1:]}.")
    return SOUND if found.alike else FAULTS


def _device_check(args: argparse.Namespace, shop: Shop) -> int:
    from umber_trunk.core.shop.devices import copied_in, plugged

    path, end, name = Path(args.words[0]), args.words[1], args.words[2]
    device, results = _device(shop, name), analysed(path)
    found = plugged(results, end, device, args.connector)
    if args.keep:
        with opened(path) as project:
            project.commit(copied_in(project.design, end, device), f"{device.name} is plugged in at {end}")
    if args.json:
        out(
            {
                "end": end,
                "device": device.id,
                "fits": found.fits,
                "told": found.words,
                "differences": [
                    {"label": r.label, "mine": r.mine, "theirs": r.theirs, "what": r.what}
                    for r in found.agreement.wrong
                ],
                "over": [{"pin": pin, "amps": round(a, 3), "most_a": most} for pin, a, most in found.over],
                "unmeasured": list(found.unmeasured),
            }
        )
    else:
        for row in found.agreement.wrong:
            print(f"✕ {row.label}: {row.what} (the harness: {row.mine or '–'}; the device: {row.theirs or '–'})")
        for pin, amps, most in found.over:
            print(f"✕ {pin}: {amps:.2f} A, it bears {most:g} A")
        print(f"{found.words[0].upper()}{found.words[1:]}.")
    return SOUND if found.fits else FAULTS


def _device_in(args: argparse.Namespace, file: ShopFile) -> int:
    """A device from an end of a harness, or from what umber learn found."""
    from umber_trunk.core.shop.devices import device_of_end, device_of_map
    from umber_trunk.store.files import read_text

    day = day_of(args.now).isoformat()
    if args.act == "take":
        path, end, name = args.words
        made = device_of_end(analysed(Path(path)), end, name, args.who, day)
    else:
        path, name = args.words
        try:
            learnt = json.loads(read_text(Path(path)))
        except ValueError as why:
            raise InputError(f"{path} is no answer of umber learn --json: {why}.") from why
        made = device_of_map(learnt, name, args.who, day)
    file.add("devices", made, args.who, "taken in")
    open_ = f"; {len(made.unmeasured)} of its pins nobody measured" if made.unmeasured else ""
    print(f"{made.name} is known as {made.id}{open_}.")
    return SOUND


def add_job(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "act",
        choices=("new", "list", "show", "quote", "accept", "build", "deliver", "repair", "cancel", "close"),
        help="new FILE; list; then each with the JOB it is about: show, quote, accept, build NAME: a build of the log "
        "is this job’s, deliver UNIT,UNIT, repair, cancel, close",
    )
    parser.add_argument("words", nargs="*", metavar="WORD", help="what it is about, as above")
    _add_where(parser)
    parser.add_argument("--id", default="", metavar="NAME", help="with new: what the job is called")
    parser.add_argument("--units", type=_units, default=1, metavar="N", help="how many")
    parser.add_argument("--customer", default="", metavar="NAME")
    parser.add_argument("--due", default="", metavar="DATE", help="when it is due")
    parser.add_argument(
        "--build", action="append", default=[], metavar="NAME", help="a build of it in the harness’s log"
    )
    parser.add_argument("--own", action="append", default=[], metavar="PART", help="material the customer brings")
    parser.add_argument("--unit", default="", metavar="BUILD/UNIT", help="with repair: the unit that came back")
    parser.add_argument("--found", default="", metavar="WHAT", help="with repair: what was found")
    parser.add_argument("--done", default="", metavar="WHAT", help="with repair: what was done")
    parser.add_argument("--who", default="", metavar="WHO")
    parser.add_argument("--why", default="", metavar="WHY", help="with cancel: why")
    parser.add_argument("--now", default="", metavar="DATE", help="the day it is; today")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_job)


def _units(text: str) -> int:
    count = counted(text, 10_000)
    if count is None:
        raise argparse.ArgumentTypeError(f"{quoted(text)} is no number of units from 1 to 10000")
    return count


def _job(args: argparse.Namespace) -> int:
    from umber_trunk.store.shop_file import shop_file

    if args.act != "list" and not args.words:
        raise InputError(f"umber job {args.act} takes {'a harness FILE' if args.act == 'new' else 'the JOB’s name'}.")
    path = where_of(args)
    with shop_file(path) as file:
        if args.act == "new":
            return _job_new(args, file, path)
        if args.act in ("list", "show"):
            return _job_told(args, file, path)
        return _job_goes_on(args, file, path)


def _job_new(args: argparse.Namespace, file: ShopFile, shop: Path) -> int:
    from umber_trunk.store.shop_jobs import new_job

    harness, variant = file_and_variant(Path(args.words[0]))
    due = day_of(args.due).isoformat() if args.due else ""
    said = {"id": args.id, "units": args.units, "customer": args.customer, "due": due}
    taken = {one.id for one in file.shop().jobs}
    job, told = new_job(shop, harness, variant, taken, **said, builds=tuple(args.build), own=tuple(args.own))
    file.add("jobs", job, args.who, "new")
    print(f"{job.id}: {job.units} of {job.harness}, revision {job.revision}.")
    if told:
        print(told)
    return SOUND


def _job_of(file: ShopFile, name: str) -> Job:
    found: Job | None = file.shop().named("jobs", name)
    if found is None:
        there = ", ".join(one.id for one in file.shop().jobs[:20]) or "none so far"
        raise InputError(f"There is no job {quoted(name)}: {there}.")
    return found


def _job_goes_on(args: argparse.Namespace, file: ShopFile, path: Path) -> int:
    """What somebody does with a job; each is made of the row as it stands then."""
    from umber_trunk.core.shop.jobs import accept, cancel, close, hand_over, repaired, with_build
    from umber_trunk.core.shop.things import Repair

    job, day = _job_of(file, args.words[0]), day_of(args.now)
    if args.act == "quote":
        return _job_quote(args, file, path, job)
    made: Callable[[Job], Job]
    match args.act:
        case "accept":
            made = partial(accept, day=day)
        case "build":
            made = partial(with_build, name="".join(args.words[1:2]))
        case "cancel":
            if not args.why.strip():
                raise InputError(f"Say --why {job.id} is cancelled.")
            made = partial(cancel, why=args.why)
        case "repair":
            if not args.unit or not args.found:
                raise InputError("Say which --unit BUILD/UNIT came back, and what was --found.")
            made = partial(repaired, what=Repair(unit=args.unit, found=args.found, done=args.done))
        case "deliver":
            made = partial(hand_over, given=_delivered(args, file, path, job, day.isoformat()))
        case _:
            made = partial(close, day=day, why=args.why)
    file.edit("jobs", job.id, made, args.who, args.act)
    print(f"{job.id}: {args.act} noted.")
    return SOUND


def _delivered(args: argparse.Namespace, file: ShopFile, path: Path, job: Job, day: str) -> Delivery:
    """Units handed over: each is proven, or somebody says who lets it go."""
    if len(args.words) < 2:
        raise InputError("Say which units are handed over, as 1,2,3.")
    units = [counted(part.strip(), 10_000) for part in args.words[1].split(",") if part.strip()]
    if not units or None in units:
        raise InputError(f"{quoted(args.words[1])} are no units of {job.id}.")
    from umber_trunk.core.shop.things import Delivery

    proven = _seen(file, path).beside(job).seen.proven
    open_ = [str(unit) for unit in units if unit not in proven]
    if open_ and not args.why.strip():
        raise InputError(
            f"Units {', '.join(open_)} aren’t proven: say --why they are handed over so, and --who lets them go."
        )
    return Delivery(day=day, units=tuple(unit for unit in units if unit is not None), who=args.who)


def _job_quote(args: argparse.Namespace, file: ShopFile, path: Path, job: Job) -> int:
    """Works the offer out and keeps it with the job, as it was told."""
    from umber_trunk.core.harness.edits import change
    from umber_trunk.core.shop.quote_sheet import offer_words, plain

    day = day_of(args.now)
    harness = path.absolute().parent / job.harness
    asked = asked_of(harness, path, day, job.own)
    found, _ = quote_of(harness, [job.units], asked, job.revision or None, plainly=True)
    kept = json.dumps(plain(found), ensure_ascii=False)
    file.edit("jobs", job.id, lambda row: change(row, quote=kept, quoted=day.isoformat()), args.who, "quote")
    if args.json:
        out(plain(found))
    else:
        for line in offer_words(found):
            print(line)
    return FAULTS if any(one.unpriced for one in found.offers) else SOUND


def _seen(file: ShopFile, path: Path) -> ShopSeen:
    from umber_trunk.store.shop_jobs import ShopSeen

    return ShopSeen(path, file.shop(), results_of)


def _job_told(args: argparse.Namespace, file: ShopFile, path: Path) -> int:
    from umber_trunk.core.shop.actual import actual_lines
    from umber_trunk.store.shop_jobs import builds_of, planned, states

    day, seen = day_of(args.now), _seen(file, path)
    if args.act == "show":
        _job_of(file, args.words[0])
    held = [one.now for one in file.coils()]
    _, plan = stoppable(lambda wanted: planned(seen, held, wanted))
    found = [one for one in states(seen, day, plan) if args.act == "list" or one.job.id == args.words[0]]
    rows = [_plain_state(one, one.late(day)) for one in found]
    if args.act == "show":
        job = found[0].job
        events = [event for event in seen.file(job.file).events if event.build in builds_of(job)]
        rows[0]["quote"] = json.loads(job.quote) if job.quote else None
        crimped = seen.file(job.file).crimped or {}
        parts: dict[str, float] = {}
        for build in builds_of(job):
            for part, many in crimped.get(build, {}).items():
                parts[part] = parts.get(part, 0.0) + many
        coils = [held.coil for held in file.coils()]
        rows[0]["actual"] = actual_lines(job.quote, events, coils, parts)
        rows[0]["deliveries"] = [one.model_dump(mode="json") for one in job.deliveries]
        rows[0]["repair"] = job.repair.model_dump(mode="json") if job.repair else None
    if args.json:
        out({"jobs": rows} if args.act == "list" else rows[0])
        return SOUND
    for one in found:
        due = f"due {one.job.due}" if one.job.due else "no day promised"
        print(f"{one.job.id:8} {one.told:20} {one.job.units:4} × {one.job.harness:28} {one.job.customer:20} {due}")
        for what in one.holds:
            print(f"         {what}")
        if args.act == "show":
            for line in rows[0]["actual"]:
                print(
                    f"         {line['what']}: planned {line['planned']:.4g} {line['unit']}, {line['actual']:.4g} used"
                )
    return SOUND


def _plain_state(one: JobState, late: int) -> dict[str, Any]:
    job = one.job
    return {
        "job": job.id,
        "file": job.file,
        "variant": job.variant,
        "revision": job.revision,
        "units": job.units,
        "customer": job.customer,
        "due": job.due,
        "state": one.state,
        "told": one.told,
        "begun": one.begun,
        "cut": one.cut,
        "made": one.made,
        "proven": one.proven,
        "handed": one.handed,
        "late_days": late,
        "holds": list(one.holds),
    }


def add_lessons(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    _add_where(parser)
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
    from umber_trunk.store.shop_jobs import history_of, shop_events, times_and_scrap

    path = where_of(args)
    with shop_file(path) as file:
        seen = _seen(file, path)
        events = shop_events(seen)
        times, _ = times_and_scrap(events)
        found = lessons(seen.shop, events, day_of(args.now), times, history_of(seen), args.by_name)
    if args.output is not None:
        ending = args.output.suffix.lower()
        if ending == ".csv":
            write_whole(args.output, csv_bytes(lesson_rows(found)))
        elif ending == ".pdf":
            from umber_trunk.core.harness.model import Design

            write_whole(args.output, fetched("app.paper.pages:pdf_of")(results_of(Design()), [lessons_sheet(found)]))
        else:
            raise InputError(f"{args.output.name}: lessons are written as .pdf or .csv.")
    if args.json:
        out(found.plain())
    elif args.output is None:
        for row in lesson_rows(found)[1:]:
            print(f"{row[0]:10} {row[1]:32} {'  '.join(str(cell) for cell in row[2:] if cell not in ('', None))}")
    return SOUND
