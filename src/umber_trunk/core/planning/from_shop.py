"""A shop's jobs as tasks for a plan: their frozen orders in handfuls, with who may do what, what each takes for itself,
what it waits for."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from umber_trunk.core.harness.price import plain_part
from umber_trunk.core.make.handfuls import Handful, handfuls
from umber_trunk.core.make.operation import Operation
from umber_trunk.core.make.timed import Order
from umber_trunk.core.make.times import Times
from umber_trunk.core.moments import Zone, day_at, day_from, days_on, end_of, working_spans
from umber_trunk.core.planning.tasks import SET_UP_S, Hand, Promise, Shopfloor, Task
from umber_trunk.core.sentences import Message
from umber_trunk.core.shop import money
from umber_trunk.core.shop.jobs import Lack
from umber_trunk.core.shop.one_shelf import RunsShort
from umber_trunk.core.shop.price_book import PriceBook
from umber_trunk.core.shop.things import USUAL_HOURS, WEEK, Hours, Job, Shop, Tool

DAYS = 800
"""So far a plan reaches; what has no hours within it is never done."""
LEAD_DAYS = 7
"""Until what nobody sells yet is here."""
ENOUGH = 1e-9
"""Missing metres or pieces that are rounding."""
USUAL_HAND = "somebody"
DRIES_S = {"shrink": 300, "solder": 60}
"""What has to cool or dry before it is touched again."""


@dataclass(frozen=True)
class JobOrder:
    """What is left to do of a job: an order, the keys of its steps that are done, who did the last of each handful.
    `build` is its name in the log, "" for what isn't begun."""

    job: Job
    order: Order
    build: str = ""
    done: Collection[str] = ()
    hands: Mapping[str, str] = field(default_factory=dict)


def floor_of(
    shop: Shop,
    orders: Sequence[JobOrder],
    times: Times,
    now: int,
    zone: Zone,
    lacking: Sequence[Lacking] = (),
    luck90: float = 1.2,
) -> Shopfloor:
    """All there is to plan from now on: jobs with anything left to make. Those that are cancelled, closed or not
    accepted are left out."""
    hands = hands_of(shop, now, zone)
    many = {tool.id: tool.count for tool in shop.tools}
    tasks: list[Task] = []
    for one in orders:
        if one.job.open:
            mine = [row for row in lacking if row.job == one.job.id]
            tasks += _tasks(shop, one, times, mine, {hand.id for hand in hands})
    left = {task.job for task in tasks}
    promises = tuple(
        Promise(job.id, end_of(day_from(job.due), zone) if job.due else None, job.weight, job.ahead)
        for job in shop.jobs
        if job.id in left
    )
    return Shopfloor(now, tuple(tasks), hands, promises, many, {}, SET_UP_S, luck90)


def hands_of(shop: Shop, now: int, zone: Zone) -> tuple[Hand, ...]:
    """Everybody with their hours from today on; one hand with the usual hours where the shop names nobody."""
    today = day_at(now, zone)
    if not shop.people:
        return (Hand(USUAL_HAND, tuple(working_spans(_week(USUAL_HOURS), (), zone, today, DAYS))),)
    return tuple(
        Hand(one.id, _apart(working_spans(_week(one.here), one.off, zone, today, DAYS))) for one in shop.people
    )


def _apart(spans: Sequence[tuple[int, int]]) -> tuple[tuple[int, int], ...]:
    """Spans that overlap, as somebody typed them, are one."""
    found: list[tuple[int, int]] = []
    for start, end in spans:
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(end, found[-1][1]))
        else:
            found.append((start, end))
    return tuple(found)


def _week(hours: Sequence[Hours]) -> tuple[tuple[int, str, str], ...]:
    return tuple((WEEK.index(hour.day), hour.start, hour.end) for hour in hours)


@dataclass(frozen=True)
class Lacking:
    """What a job waits for: wires that nothing is there to cut from, or a part; when it is here, and in words."""

    job: str
    here: int
    told: Message
    wires: frozenset[str] = frozenset()
    part: str = ""


def lacking_of(
    shop: Shop, short: Sequence[RunsShort], parts: Mapping[str, Sequence[tuple[Job, float]]], now: int, zone: Zone
) -> list[Lacking]:
    """What is lacking with the day it is here: that of its delivery, or its supplier's usual one if it is ordered
    today."""
    book = PriceBook(shop.prices, day_at(now, zone))
    lead = {one.id: one.lead_days for one in shop.suppliers}

    coming: dict[str, list[list[Any]]] = defaultdict(list)
    for order in sorted(shop.incoming, key=lambda one: (one.due or "", one.id)):
        if order.came is None and order.due is not None:
            coming[plain_part(order.part)].append([order.due, order.amount])

    def here(what: str, amount: float) -> tuple[int, Message]:
        """Of what is to come each takes its share, in turn; a delivery too small for all isn't all of it."""
        missing = amount
        for row in coming[plain_part(what)]:
            taken = min(row[1], missing)
            row[1], missing = row[1] - taken, missing - taken
            if taken > 0 and missing <= ENOUGH:
                return end_of(day_from(row[0]), zone), Message.of("shop.lack.to-come", day=row[0])
        price = book.of_named(what, money.of(missing))
        days = lead.get(price.supplier, LEAD_DAYS) if price is not None else LEAD_DAYS
        day = days_on(day_at(now, zone), days)
        return end_of(day, zone), Message.of("shop.lack.if-ordered", day=day.isoformat())

    found = []
    for one in short:
        when, told = here(one.what, one.metres)
        lack = Message.of("shop.lack.when", lack=Lack(one.what, one.metres, metres=True).said, when=told)
        found.append(Lacking(one.job, when, lack, frozenset(one.wires)))
    for part, jobs in parts.items():
        for job, many in jobs:
            when, told = here(part, many)
            lack = Message.of("shop.lack.when", lack=Lack(part, many).said, when=told)
            found.append(Lacking(job.id, when, lack, part=part))
    return found


def _tasks(shop: Shop, one: JobOrder, times: Times, lacking: Sequence[Lacking], known: Collection[str]) -> list[Task]:
    wires = {wire: row.here for row in lacking for wire in row.wires}
    parts = {row.part: row.here for row in lacking if row.part}
    done = set(one.done)
    rows = handfuls(one.order)
    of_step = {step.n: row.n for row in rows for step in row.steps}
    name = one.build or "new"
    found = []
    for row in rows:
        left = [step for step in row.steps if step.key not in done]
        if not left:
            continue
        first, begun = row.first, len(left) < len(row.steps)
        after = {of_step[n] for step in left for n in step.after if n in of_step} - {row.n}
        thing, things = _things(shop, first, one.job)
        hand = next((one.hands[step.key] for step in row.steps if step.key in one.hands), "") if begun else ""
        found.append(
            Task(
                id=f"{one.job.id}|{name}|{row.n}",
                job=one.job.id,
                build=one.build,
                what=_what(row, len(left)),
                op=first.op,
                steps=tuple(step.key for step in left),
                work_s=sum(times.seconds(step.operation) for step in left),
                tool=thing,
                setting=first.setting if thing else "",
                needs=things,
                may=_may(shop, first.op),
                after=tuple(f"{one.job.id}|{name}|{n}" for n in sorted(after)),
                not_before=max(
                    max(
                        wires.get(step.operation.wire, 0) if first.op == "cut" else 0, parts.get(step.operation.part, 0)
                    )
                    for step in left
                ),
                wait_s=DRIES_S.get(first.op, 0),
                begun_by=hand if hand in known else "",
            )
        )
    return found


def _what(row: Handful, left: int) -> str:
    one = row.first
    where = f" at {one.end}" if one.end and one.op in ("insert", "tug", "plug", "torque") else ""
    return f"{one.op}{f' × {left}' if left > 1 else ''}{where}"


def _may(shop: Shop, op: str) -> tuple[str, ...]:
    """Who may do it; nobody in particular where all may. One that nobody may do is left to all: somebody has to."""
    mine = tuple(one.id for one in shop.people if not one.may or op in one.may)
    return () if len(mine) == len(shop.people) else mine


def _things(shop: Shop, one: Operation, job: Job) -> tuple[str, tuple[str, ...]]:
    """(the tool that is set up, what the step takes for itself): the shop's tool that the order's stands for, the die
    in it, the board it is laid on."""
    found: list[str] = []
    tool = tool_for(shop, one.tool) if one.tool else None
    name = tool.id if tool is not None else one.tool
    if name:
        found.append(name)
    if tool is not None:
        found += [f"die {die}" for die in tool.dies if one.setting.startswith(die)][:1]
    if one.place == "board":
        found.append(f"board {job.file}")
    return name, tuple(found)


def tool_for(shop: Shop, name: str) -> Tool | None:
    """The shop's tool that one of an order stands for, by its id, its name or what it serves."""
    said = name.lower()
    for tool in shop.tools:
        if said in (tool.id.lower(), tool.name.lower()) or any(one.lower() in said for one in tool.serves):
            return tool
    return None
