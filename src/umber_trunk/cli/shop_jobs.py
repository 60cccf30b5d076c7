"""Commands of jobs: what was ordered, and what is done with it."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.quotes import asked_of, day_of, quote_of
from umber_trunk.cli.reading import file_and_variant, results_of
from umber_trunk.cli.shop import add_where, where_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, stoppable, worded
from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.kept_words import MOST_TEXT, said_kept
from umber_trunk.core.units import counted

if TYPE_CHECKING:
    from umber_trunk.core.shop.jobs import JobSeen, JobState
    from umber_trunk.core.shop.things import Delivery, Job
    from umber_trunk.store.shop_file import ShopFile
    from umber_trunk.store.shop_jobs import ShopSeen

COMMANDS = {
    "job": "what was ordered: new, offered, accepted, made, handed over, closed; what holds each up",
}


def add_job(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "act",
        choices=("new", "list", "show", "quote", "accept", "build", "deliver", "repair", "cancel", "close"),
        help="new FILE; list; then each with the JOB it is about: show, quote, accept, build NAME: a build of the log "
        "is this job’s, deliver UNIT,UNIT, repair, cancel, close",
    )
    parser.add_argument("words", nargs="*", metavar="WORD", help="what it is about, as above")
    add_where(parser)
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
        raise InputError.of("shell.job-act-takes", act=args.act, new=args.act == "new")
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
        raise InputError.of("shell.no-job", name=quoted(name), there=there)
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
                raise InputError.of("shell.say-why-is-cancelled", job=job.id)
            made = partial(cancel, why=args.why)
        case "repair":
            if not args.unit or not args.found:
                raise InputError.of("shell.say-which-unit-came-back")
            made = partial(repaired, what=Repair(unit=args.unit, found=args.found, done=args.done))
        case "deliver":
            seen = _seen(file, path).beside(job).seen
            given, begun = _delivered(args, seen, job, day.isoformat()), {one.unit for one in seen.units}
            made = partial(hand_over, given=given, begun=begun)
        case _:
            made = partial(close, day=day, why=args.why)
    file.edit("jobs", job.id, made, args.who, args.act)
    print(f"{job.id}: {args.act} noted.")
    return SOUND


def _delivered(args: argparse.Namespace, seen: JobSeen, job: Job, day: str) -> Delivery:
    """Units handed over: each is proven, or somebody says who lets it go."""
    if len(args.words) < 2:
        raise InputError.of("shell.say-which-units-are-handed-over")
    units = [counted(part.strip(), 10_000) for part in args.words[1].split(",") if part.strip()]
    if not units or None in units:
        raise InputError.of("shell.no-units", words=quoted(args.words[1]), job=job.id)
    from umber_trunk.core.shop.things import Delivery

    open_ = [str(unit) for unit in units if unit not in seen.proven]
    if open_ and not (args.why.strip() and args.who.strip()):
        raise InputError.of("shell.units-arent-proven", units=", ".join(open_))
    gone = tuple(unit for unit in units if unit is not None)
    return Delivery(day=day, units=gone, who=said_kept(args.who, MOST_TEXT), why=said_kept(args.why, MOST_TEXT))


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
        **worded(holds=one.holds),
    }
