"""The plan of a shop: its jobs' orders read, planned, promised; kept in the shop's file; as a calendar and a table."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from umber_trunk.core.errors import InputError, UmberError, Wanted, always, go_on_if, quoted
from umber_trunk.core.kit.coils import Coil
from umber_trunk.core.make.events import Done, Event
from umber_trunk.core.make.sequence import plan_order
from umber_trunk.core.make.times import Times, learn
from umber_trunk.core.moments import Zone, seconds_of, told_in, zone_of
from umber_trunk.core.planning.from_shop import JobOrder, floor_of, lacking_of
from umber_trunk.core.planning.plan_search import Plan, planned
from umber_trunk.core.planning.promises import Luck, Ready, luck_of, promised
from umber_trunk.core.planning.tasks import NEVER, Placed, Worth
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import Message, say
from umber_trunk.core.shop.one_shelf import RunsShort, parts_lacking
from umber_trunk.core.shop.things import Job, KeptPlan, Shop
from umber_trunk.store.floor import times_of
from umber_trunk.store.shop_file import ShopFile
from umber_trunk.store.shop_jobs import HarnessSeen, ShopSeen, builds_of, shop_events
from umber_trunk.store.shop_jobs import planned as cut_plan

Cell = str | int | float | None


@dataclass(frozen=True)
class ShopPlan:
    """A plan with its promises, in the shop's zone. `lacks` what the shelf lacks, by job; `lost` jobs that couldn't be
    planned, with why."""

    plan: Plan
    ready: tuple[Ready, ...]
    zone: Zone
    lacks: dict[str, list[Message]]
    lost: dict[str, Message]

    def told(self, seconds: int) -> str | None:
        """A moment as ISO 8601 in the shop's zone, None for never."""
        return None if seconds >= NEVER else told_in(seconds, self.zone)

    def holds(self, one: Ready) -> Message:
        """What holds a job up: what is lacking first."""
        lacking = self.lacks.get(one.job, [])
        if not lacking:
            return one.holds
        return Message.of("plan.holds.lacks", what=lacking[0], more=len(lacking) - 1)


@dataclass(frozen=True)
class Ahead:
    """What a shop's plan is made of, read once: orders, times, luck, what runs short. Another shop, as it might be, is
    planned of the same."""

    orders: tuple[JobOrder, ...]
    times: Times
    luck: Luck
    short: tuple[RunsShort, ...]
    parts: dict[str, list[tuple[Job, float]]]
    lost: dict[str, Message]


def ahead(seen: ShopSeen, coils: Sequence[Coil], counts: Mapping[str, float], wanted: Wanted = always) -> Ahead:
    """Reads all open jobs: the frozen orders of their builds, an order for what isn't begun."""
    events = shop_events(seen)
    times = learn(times_of(events))
    orders: list[JobOrder] = []
    lost: dict[str, Message] = {}
    for job in seen.shop.jobs:
        if not job.open or job.repair is not None:
            continue
        go_on_if(wanted)
        found = seen.file(job.file)
        results = seen.results(job) if not found.lost else found.lost
        if not isinstance(results, Results):
            lost[job.id] = results
            continue
        try:
            mine = _begun(found, job)
            units = {unit for one in mine for unit in one.order.units}
            orders += mine
            fresh = max(job.units - len(units), 0)
            if fresh:
                order = plan_order(results, range(len(units) + 1, len(units) + fresh + 1), times=times, wanted=wanted)
                if order.steps:
                    orders.append(JobOrder(job, order))
                else:
                    lost[job.id] = Message.of("plan.lost.nothing-to-make")
        except UmberError as why:
            lost[job.id] = why.message
    wants, plan = cut_plan(seen, coils, wanted)
    return Ahead(tuple(orders), times, luck_of(_readings(events)), plan.short, parts_lacking(wants, counts), lost)


def _begun(found: HarnessSeen, job: Job) -> list[JobOrder]:
    """The builds of a job as they were begun, with what is done of each."""
    of_job = [one for one in found.units if one.build in builds_of(job) and not one.moved_to]
    made = []
    for build in dict.fromkeys(one.build for one in of_job):
        mine = [one for one in found.units if one.build == build]
        order = (found.orders or {}).get(mine[0].order)
        if order is None:
            continue
        done = {key: event for one in mine for key, event in one.done.items()}
        hands = {key: event.act.hand for key, event in done.items() if isinstance(event.act, Done)}
        made.append(JobOrder(job, order, build, frozenset(done), hands))
    return made


def _readings(events: Sequence[Event]) -> list[tuple[str, float, int]]:
    """(operation, seconds, moment) of each step that was timed."""
    return [
        (act.op, act.seconds, one.at_ms // 1000)
        for one in events
        if isinstance(act := one.act, Done) and act.seconds is not None and act.op
    ]


def shop_plan(
    shop: Shop, known: Ahead, now: int, zone: Zone, wanted: Wanted = always, before: KeptPlan | None = None
) -> ShopPlan:
    """The plan of a shop from now on. One that was kept before is gone on with, and bettered a little where that pays;
    without one it is looked for at length."""
    orders = _as_split(shop, known.orders)
    lacking = lacking_of(shop, known.short, known.parts, now, zone)
    floor = floor_of(shop, orders, known.times, now, zone, lacking, known.luck.longer90)
    kept = {name: (who, start) for name, who, start in before.tasks} if before is not None else None
    plan = planned(floor, kept, wanted, tries=1 if kept else 0)
    lacks: dict[str, list[Message]] = {}
    for one in sorted(lacking, key=lambda row: -row.here):
        lacks.setdefault(one.job, []).append(one.told)
    return ShopPlan(plan, tuple(promised(plan, known.luck)), zone, lacks, known.lost)


def _as_split(shop: Shop, orders: Sequence[JobOrder]) -> list[JobOrder]:
    """Orders of jobs as the shop has them now: another weight or day, or a part of the units as a job of its own."""
    jobs = {job.id: job for job in shop.jobs}
    found = []
    for one in orders:
        job = jobs.get(one.job.id)
        if job is None:
            continue
        first = jobs.get(f"{job.id}-1")
        if first is None or one.build or job.units == one.job.units:
            found.append(replace(one, job=job))
            continue
        units = one.order.units
        for part, mine in ((first, units[: first.units]), (job, units[first.units :])):
            chosen = [step for step in one.order.steps if step.unit in mine or (step.unit == 0 and part is first)]
            here = {step.n for step in chosen}  # what is done once for all is done with the first part
            steps = tuple(replace(step, after=tuple(n for n in step.after if n in here)) for step in chosen)
            found.append(replace(one, job=part, order=replace(one.order, units=mine, steps=steps)))
    return found


def keep_plan(file: ShopFile, made: ShopPlan, who: str = "") -> None:
    """The plan is the shop's from now on: what is planned next leaves it as it is where it can."""
    tasks = tuple((one.task.id, one.who, one.start) for one in made.plan.placed if one.start < NEVER)
    file.put("plans", [KeptPlan(made=made.told(made.plan.floor.now) or "", tasks=tasks)], who, "kept")


def plain(made: ShopPlan) -> dict[str, object]:
    """A plan as JSON has it; moments are ISO 8601 with their offset."""
    plan = made.plan

    def worth(one: Worth) -> dict[str, object]:
        return {"late_days": one.late, "set_ups": one.set_ups, "lying_days": one.lying}

    return {
        "now": made.told(plan.floor.now),
        "jobs": [
            {
                "job": one.job,
                "planned": made.told(one.planned),
                "ready_p50": made.told(one.p50),
                "ready_p90": made.told(one.p90),
                "due": made.told(due) if (due := plan.floor.of_job[one.job].due) is not None else None,
                "late": None if one.late is None else round(one.late, 4),
                "holds": str(made.holds(one)),
            }
            for one in made.ready
        ],
        "tasks": [
            {
                "task": one.task.id,
                "job": one.task.job,
                "build": one.task.build,
                "what": one.task.what,
                "steps": list(one.task.steps),
                "who": one.who,
                "tool": one.task.tool,
                "setting": one.task.setting,
                "set_up": one.set_up,
                "start": made.told(one.start),
                "end": made.told(one.end),
            }
            for one in plan.placed
        ],
        "today": [
            {
                "who": who,
                "now": now.task.id if now else None,
                "next": then.task.id if then else None,
                "tool": _tool(now),
            }
            for who, now, then in today(plan)
        ],
        "moved": list(plan.moved),
        "lost": [{"job": job, "why": str(why)} for job, why in made.lost.items()],
        "bound": worth(plan.bound),
        "objective": worth(plan.worth),
        "proven": plan.proven,
    }


def _tool(one: Placed | None) -> str:
    return f"{one.task.tool} {one.task.setting}".strip() if one is not None else ""


def today(plan: Plan) -> list[tuple[str, Placed | None, Placed | None]]:
    """For each hand what to do now and next."""
    found = []
    for hand in plan.floor.hands:
        mine = [one for one in plan.placed if one.who == hand.id and one.end > plan.floor.now]
        found.append((hand.id, mine[0] if mine else None, mine[1] if len(mine) > 1 else None))
    return found


def calendar(made: ShopPlan, name: str, lines: Callable[[str], bool] = lambda _: True) -> bytes:
    """The plan as iCalendar (RFC 5545): a run of each hand at one job with its tool is an event, a promise a day's."""
    from icalendar import Calendar
    from icalendar import Event as Entry

    found = Calendar()
    found.add("prodid", "-//Umber Trunk//plan//EN")
    found.add("version", "2.0")
    found.add("x-wr-calname", name)
    stamp = datetime.fromtimestamp(made.plan.floor.now, UTC)
    for number, run in enumerate(runs(made.plan)):
        first, last = run[0], run[-1]
        if not lines(first.who):
            continue
        entry = Entry()
        entry.add("uid", f"{first.task.id}-{number}@umber-trunk")
        entry.add("dtstamp", stamp)
        entry.add("dtstart", datetime.fromtimestamp(first.start, UTC))
        entry.add("dtend", datetime.fromtimestamp(last.end, UTC))
        entry.add("summary", f"{first.who}: {first.task.job} {first.task.op} {_tool(first)}".strip())
        entry.add("description", "\n".join(one.task.what for one in run[:40]))
        found.add_component(entry)
    for one in made.ready:
        if one.p90 < NEVER:
            entry = Entry()
            entry.add("uid", f"ready-{one.job}@umber-trunk")
            entry.add("dtstamp", stamp)
            entry.add("dtstart", datetime.fromtimestamp(one.p90, made.zone).date())
            entry.add("summary", say("plan.ready", job=one.job))
            found.add_component(entry)
    return bytes(found.to_ical())


RUN_GAP_S = 1800


def runs(plan: Plan) -> list[list[Placed]]:
    """Tasks of one hand at one job with one tool that follow one another, as one run."""
    found: list[list[Placed]] = []
    for hand in plan.floor.hands:
        before: Placed | None = None
        for one in (row for row in plan.placed if row.who == hand.id and row.start < NEVER):
            same = (
                before is not None
                and (before.task.job, before.task.op, before.task.state) == (one.task.job, one.task.op, one.task.state)
                and one.start - before.end <= RUN_GAP_S
            )
            if same:
                found[-1].append(one)
            else:
                found.append([one])
            before = one
    return found


def plan_rows(made: ShopPlan) -> list[list[Cell]]:
    """The plan as a table."""
    rows: list[list[Cell]] = [["start", "end", "who", "job", "build", "what", "tool", "setting", "set up", "task"]]
    for one in made.plan.placed:
        task = one.task
        sets = "yes" if one.set_up else ""
        who = [made.told(one.start), made.told(one.end), one.who, task.job, task.build]
        rows.append([*who, task.what, task.tool, task.setting, sets, task.id])
    return rows


def zone_and_now(shop: Shop, said: str) -> tuple[Zone, int]:
    """(the shop's zone, now in seconds): the moment as it was said, or by the clock. InputError for what is none."""
    text = said or datetime.now().astimezone().isoformat(timespec="seconds")
    with suppress(ValueError):
        if len(text) == 10:
            text = datetime.fromisoformat(f"{text}T08:00").astimezone().isoformat(timespec="seconds")
    try:
        zone = zone_of(shop.rates.zone, text)
        return zone, seconds_of(text, zone)
    except ValueError as why:
        raise InputError.of("store.not-a-moment", text=quoted(text), why=why) from why
