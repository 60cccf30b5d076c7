"""The plan of a shop: who does what when, when each job is ready, what if."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out, stoppable
from umber_trunk.core.errors import InputError

if TYPE_CHECKING:
    from umber_trunk.store.shop_plan import ShopPlan

COMMANDS = {
    "plan": "one plan for hands, tools and boards over all jobs: promises with 50 and 90 %, today, what if",
}


def add_plan(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("shop", type=Path, metavar="SHOP", help="a shop’s file")
    parser.add_argument("--now", default="", metavar="MOMENT", help="as 2026-12-01T08:00+01:00; the clock’s otherwise")
    parser.add_argument(
        "--if",
        dest="instead",
        action="append",
        default=[],
        metavar="WHAT",
        help="what if: hours:WHO:tue 18:00-20:00, tool:ID, first:JOB, later:DELIVERY:DAYS, split:JOB:UNITS",
    )
    parser.add_argument("--take", action="store_true", help="with --if: it is so from now on")
    parser.add_argument("--keep", action="store_true", help="this is the plan: the next one leaves it where it can")
    parser.add_argument("--anew", action="store_true", help="looked for at length, whatever was kept before")
    parser.add_argument("--today", action="store_true", help="for each hand what to do now and next")
    parser.add_argument("-o", "--output", type=Path, metavar="OUT", help="the plan as .ics or .csv")
    parser.add_argument(
        "--who", default="", metavar="WHO", help="with -o OUT.ics: that hand’s alone; with --keep: by whom"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_plan)


def _plan(args: argparse.Namespace) -> int:
    from umber_trunk.core.planning.what_if import otherwise
    from umber_trunk.store.shop_file import shop_file
    from umber_trunk.store.shop_jobs import ShopSeen
    from umber_trunk.store.shop_plan import ahead, keep_plan, shop_plan, zone_and_now

    if args.take and not args.instead:
        raise InputError.of("shell.say-what-is-to-be-taken")
    with shop_file(args.shop) as file:
        shop, coils, counts = file.shop(), [held.now for held in file.coils()], file.floor.parts()
    zone, now = zone_and_now(shop, args.now)
    told, changed = [], shop
    for said in args.instead:
        changed, words = otherwise(changed, said)
        told.append(words)
    seen = ShopSeen(args.shop, shop, results_of)
    known = stoppable(lambda wanted: ahead(seen, coils, counts, wanted))
    before = shop.plans[-1] if shop.plans and not args.anew else None
    made = stoppable(lambda wanted: shop_plan(shop, known, now, zone, wanted, before))
    other = None
    if args.instead:
        other = stoppable(lambda wanted: shop_plan(changed, known, now, zone, wanted, before))
    if args.take or args.keep:
        with shop_file(args.shop) as file:
            if args.take:
                file.take_over(shop, changed, args.who, f"what if: {'; '.join(told)}")
            if args.keep:
                keep_plan(file, other if args.take and other is not None else made, args.who)
    if args.output is not None:
        _written(made, args.output, args.shop.absolute().parent.name, args.who)
    if args.json:
        out(_planned_plain(made, other, told))
    elif args.output is None:
        _said(made, other, told, args.today)
    late = any(one.late is not None and one.late > 0.5 for one in made.ready)
    return FAULTS if late or made.lost or any(made.told(one.planned) is None for one in made.ready) else SOUND


def _planned_plain(made: ShopPlan, other: ShopPlan | None, told: list[str]) -> dict[str, Any]:
    from umber_trunk.store.shop_plan import plain

    def in_values(one: ShopPlan) -> dict[str, Any]:
        """What holds each job up, and why one isn't planned, as values too."""
        answer: dict[str, Any] = plain(one)
        for row, ready in zip(answer["jobs"], one.ready, strict=True):
            row["holds_said"] = said_out(one.holds(ready))
        for row, why in zip(answer["lost"], one.lost.values(), strict=True):
            row["why_said"] = said_out(why)
        return answer

    answer = in_values(made)
    if other is not None:
        instead = in_values(other)
        answer["instead"] = {"told": told, **{key: instead[key] for key in ("jobs", "objective", "bound", "moved")}}
    return answer


def _written(made: ShopPlan, path: Path, name: str, who: str) -> None:
    from umber_trunk.store.files import write_whole
    from umber_trunk.store.sheets import csv_bytes
    from umber_trunk.store.shop_plan import calendar, plan_rows

    ending = path.suffix.lower()
    if ending == ".csv":
        write_whole(path, csv_bytes(plan_rows(made)))
    elif ending == ".ics":
        write_whole(path, calendar(made, name, (lambda one: one == who) if who else lambda _: True))
    else:
        raise InputError.of("shell.plan-endings", path=path.name)


def _said(made: ShopPlan, other: ShopPlan | None, told: list[str], today_alone: bool) -> None:
    from umber_trunk.core.planning.tasks import late_of
    from umber_trunk.store.shop_plan import today

    if today_alone:
        for who, now, then in today(made.plan):
            doing = f"{now.task.job} {now.task.what} [{now.task.tool} {now.task.setting}]" if now else "nothing"
            print(f"{who:8} now: {doing}; then: {f'{then.task.job} {then.task.what}' if then else 'nothing'}")
        return
    beside = {one.job: one for one in other.ready} if other is not None else {}
    for one in made.ready:
        late = "" if one.late is None else f", late in {100 * one.late:.0f} of 100"
        print(f"{one.job:8} ready {_day(made, one.p50)}, with 90 % {_day(made, one.p90)}{late}: {made.holds(one)}")
        if one.job in beside and beside[one.job].p90 != one.p90 and other is not None:
            print(f"         instead {_day(other, beside[one.job].p50)}, with 90 % {_day(other, beside[one.job].p90)}")
    for job, why in made.lost.items():
        print(f"✕ {job}: {why}")
    plan = made.plan
    print(
        f"{plan.worth.late:.2f} weighted days late (no plan under {plan.bound.late:.2f}), {plan.worth.set_ups} set-ups "
        f"(at least {plan.bound.set_ups}), {len(plan.moved)} tasks moved since the plan kept."
    )
    if other is not None:
        days = late_of(other.plan.floor, other.plan.placed)
        print(f"If {' and '.join(told)}: {days:.2f} weighted days late, {other.plan.worth.set_ups} set-ups.")


def _day(made: ShopPlan, seconds: int) -> str:
    return (made.told(seconds) or "never")[:16].replace("T", " ")
