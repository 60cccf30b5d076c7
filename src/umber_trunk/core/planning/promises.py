"""When jobs are ready, with 50 and with 90 %: the plan's own order walked through many times, with times as they
scatter, the luck a shop shares, hands that stay away and tools that break.

    a step's time    = planned × the shop's luck that time × its operation's × its own
    the shop's luck  one for all of it: a slow week, a new batch of wire (log-normal, its spread by the log's weeks)
    an operation's   one for all its steps: what is learnt of few readings, or a first guess, may be off as a whole
    its own          what a piece differs from the next one

All worlds are walked at once, as arrays. Drawn by a fixed seed: the same plan, the same promise.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.planning.plan_search import Plan
from umber_trunk.core.planning.tasks import NEVER, Hand, Placed
from umber_trunk.core.sentences import Message

Floats = NDArray[np.float64]
WORLDS, LEAST_WORLDS, WALKED = 400, 100, 800_000
"""So many worlds, fewer where tasks are many."""
SEED = 7
"""Of the worlds a promise is walked in: the same every time."""
WEEK_SD = 0.12
"""How far a shop's weeks differ, as a share, until its log tells."""
ENOUGH_WEEKS, ENOUGH_STEPS = 4, 10
"""Weeks and steps of one's own log from which on it counts."""
PRIOR_WEEKS, PRIOR_SD = 4, 0.18
"""What is known of shops before one's own log is read counts like so many weeks."""
WEEK_S = 7 * 86_400
"""A week."""
AWAY_A_DAY, BREAKS_A_TASK = 0.025, 0.0005
"""How often a hand stays away for a day, and a tool breaks and is out for some hours, until somebody says otherwise."""
BROKEN_S = 4 * 3600
"""How long a tool that breaks is away."""


@dataclass(frozen=True)
class Luck:
    """What a shop's times do: `week_sd` is shared by everything, `op_sd` by all steps of one operation, `own_sd` is a
    step's own; shares, as standard deviations of logarithms."""

    week_sd: float = WEEK_SD
    op_sd: Mapping[str, float] = field(default_factory=dict)
    own_sd: float = 0.25
    usual_op_sd: float = 0.2
    away_a_day: float = AWAY_A_DAY
    breaks_a_task: float = BREAKS_A_TASK

    @property
    def longer90(self) -> float:
        """How much longer than planned nine weeks of ten take, for the objective."""
        return math.exp(1.2816 * self.week_sd)


def luck_of(rows: Iterable[tuple[str, float, int]]) -> Luck:
    """The luck of a shop from its log: (operation, seconds, moment in s) of each step. Weeks are told by the mean of
    what their steps took over the median of their operation; fewer than a few weeks tell nothing."""
    by_op: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for op, seconds, moment in rows:
        if seconds > 0.2:
            by_op[op].append((seconds, moment))
    weeks: dict[int, list[float]] = defaultdict(list)
    op_sd: dict[str, float] = {}
    own: list[float] = []
    for op, mine in by_op.items():
        if len(mine) < ENOUGH_STEPS:
            continue
        middle = float(np.median([seconds for seconds, _ in mine]))
        logs = [math.log(seconds / middle) for seconds, _ in mine]
        spread = 1.4826 * float(np.median(np.abs(np.array(logs) - np.median(logs))))
        own.append(spread)
        op_sd[op] = min(1.2533 * spread / math.sqrt(len(mine)), 0.5)
        for log, (_, moment) in zip(logs, mine, strict=True):
            weeks[moment // WEEK_S].append(log)
    told = {week: logs for week, logs in weeks.items() if len(logs) >= ENOUGH_STEPS}
    week_sd = WEEK_SD
    if len(told) >= ENOUGH_WEEKS:
        means = np.array([np.mean(logs) for logs in told.values()])
        noise = float(np.mean([np.var(logs) / len(logs) for logs in told.values()]))
        # few weeks tell too little of a spread, and their own luck is in every time that was learnt of them
        few = math.sqrt((len(means) + 1) / max(len(means) - 1, 1)) * math.sqrt(1 + 1 / len(means))
        seen = max(float(np.var(means, ddof=1)) - noise, 0.0)
        week_sd = few * math.sqrt((len(means) * seen + PRIOR_WEEKS * PRIOR_SD**2) / (len(means) + PRIOR_WEEKS))
    return Luck(week_sd=min(week_sd, 0.6), op_sd=op_sd, own_sd=float(np.median(own)) if own else 0.25)


@dataclass(frozen=True)
class Ready:
    """When a job is ready: planned, with 50 and 90 %, the chance that it is later than promised, what holds it up."""

    job: str
    planned: int
    p50: int
    p90: int
    late: float | None
    holds: Message


def promised(plan: Plan, luck: Luck, worlds: int = 0) -> list[Ready]:
    """Every job's promise. Its chance to be late is None where nobody promised a day."""
    draw = np.random.default_rng(SEED)
    worlds = worlds or max(LEAST_WORLDS, min(WORLDS, WALKED // max(len(plan.placed), 1)))
    ends = walked(plan, luck, draw, worlds)
    found = []
    for job, promise in plan.floor.of_job.items():
        mine = [at for at, one in enumerate(plan.placed) if one.task.job == job]
        ready = np.max([ends[at] for at in mine], axis=0)
        at = max(mine, key=lambda one: plan.placed[one].end)
        late = None if promise.due is None else float(np.mean(ready > promise.due))
        p50, p90 = (int(np.quantile(ready, share)) for share in (0.5, 0.9))
        found.append(Ready(job, plan.placed[at].end, p50, p90, late, held_up(plan, at)))
    return found


def walked(plan: Plan, luck: Luck, draw: np.random.Generator, worlds: int) -> list[Floats]:
    """When each placed task ends in every world: the plan's order kept on each hand, nothing begun before it may
    be."""
    floor, drawn = plan.floor, _Drawn.of(plan, luck, draw, worlds)
    free = {hand.id: np.full(worlds, float(floor.now)) for hand in floor.hands}
    hours = {hand.id: _Hours(hand) for hand in floor.hands}
    lost = {hand.id: np.where(drawn.away[hand.id], hours[hand.id].day_s, 0.0) for hand in floor.hands}
    things: dict[str, list[Floats]] = {}
    ended: dict[str, Floats] = {}
    found: list[Floats] = []
    never = np.full(worlds, float(NEVER))
    for number, one in enumerate(plan.placed):
        task = one.task
        if one.start >= NEVER:
            found.append(never)
            ended[task.id] = never
            continue
        work = drawn.work_s(one, number)
        if (away := lost.pop(one.who, None)) is not None:  # a day away falls on the first that is to be done
            work += away
        start = free[one.who]
        if task.not_before > floor.now:
            start = np.maximum(start, task.not_before)
        for before in task.after:
            end = ended.get(before)
            if end is not None:
                start = np.maximum(start, end + floor.tasks[floor.number[before]].wait_s)
        lines = []
        for thing in task.needs:
            line = things.setdefault(thing, [np.zeros(worlds) for _ in range(max(floor.many.get(thing, 1), 1))])
            if len(line) > 1:
                line.sort(key=lambda row: float(row.mean()))
            start = np.maximum(start, line[0])
            lines.append(line)
        end = hours[one.who].finish(start, work)
        free[one.who] = end
        for line in lines:
            line[0] = end
        ended[task.id] = end
        found.append(end)
    return found


@dataclass(frozen=True)
class _Drawn:
    """The luck of every world: `week` and `ops`, how much longer all takes and each operation; `away`, in which a hand
    stays away for a day; `broken`, at which placed tasks a tool breaks."""

    plan: Plan
    luck: Luck
    draw: np.random.Generator
    worlds: int
    week: Floats
    ops: Mapping[str, Floats]
    away: Mapping[str, NDArray[np.bool_]]
    broken: NDArray[np.bool_]

    @classmethod
    def of(cls, plan: Plan, luck: Luck, draw: np.random.Generator, worlds: int) -> _Drawn:
        floor = plan.floor
        week = np.exp(luck.week_sd * draw.standard_normal(worlds))
        ops: dict[str, Floats] = {}
        for task in floor.tasks:
            if task.op not in ops:
                sd = luck.op_sd.get(task.op, luck.usual_op_sd)
                ops[task.op] = week * np.exp(sd * draw.standard_normal(worlds))
        days = max((one.end for one in plan.placed if one.end < NEVER), default=floor.now) - floor.now
        stays = luck.away_a_day * max(days / 86_400, 1.0)
        away = {hand.id: draw.random(worlds) < stays for hand in floor.hands}
        broken = draw.random(len(plan.placed)) < luck.breaks_a_task * worlds  # rare: one world of those it may strike
        return cls(plan, luck, draw, worlds, week, ops, away, broken)

    def work_s(self, one: Placed, number: int) -> Floats:
        """Seconds a placed task takes in each world, with its own luck."""
        # times learnt are medians: a sum of many comes to their means
        many, mean = max(len(one.task.steps), 1), self.luck.own_sd**2 / 2
        own = np.exp(
            self.luck.own_sd / math.sqrt(many) * self.draw.standard_normal(self.worlds) + mean * (1 - 1 / many)
        )
        work: Floats = one.task.work_s * self.ops[one.task.op] * own
        if one.set_up:
            work += self.plan.floor.set_up_s * self.week
        if one.task.tool and self.broken[number]:
            work[self.draw.integers(self.worlds)] += BROKEN_S
        return work


class _Hours:
    """A hand's hours as arrays."""

    def __init__(self, hand: Hand) -> None:
        self.starts = np.array(hand.starts, dtype=float)
        self.ends = np.array(hand.ends, dtype=float)
        self.done = np.array(hand.done, dtype=float)
        self.day_s = float(np.median(self.ends - self.starts)) if len(self.starts) else 0.0

    def finish(self, earliest: Floats, work_s: Floats) -> Floats:
        """When work that may begin then is done, in every world."""
        if not len(self.ends):
            return np.full(len(earliest), float(NEVER))
        last = len(self.ends) - 1
        at = np.minimum(np.searchsorted(self.ends, earliest, side="right"), last)
        begin = np.maximum(earliest, self.starts[at])
        target = self.done[at] - np.maximum(self.ends[at] - begin, 0.0) + work_s
        to = np.searchsorted(self.done, target - 1e-6)
        inside = np.minimum(to, last)
        result: Floats = np.where(to > last, float(NEVER), self.ends[inside] - (self.done[inside] - target))
        return result


def held_up(plan: Plan, at: int) -> Message:
    """What a task, the last of its job, waits for, back to what could begin at once: the hand, tool or delivery that
    is on the way most often."""
    by_id = {one.task.id: one for one in plan.placed}
    by_hand: dict[str, list[int]] = defaultdict(list)
    for number, one in enumerate(plan.placed):
        by_hand[one.who].append(number)
    waits: dict[tuple[str, str], float] = defaultdict(float)  # code under plan.holds, whose or what → seconds
    seen: set[int] = set()
    index = {one.task.id: number for number, one in enumerate(plan.placed)}
    while at not in seen and plan.placed[at].start < NEVER:
        seen.add(at)
        one = plan.placed[at]
        line = by_hand[one.who]
        place = line.index(at)
        before = [by_id[name] for name in one.task.after if name in by_id]
        last = max(before, key=lambda other: other.end + other.task.wait_s, default=None)
        own = plan.placed[line[place - 1]] if place else None
        if (
            one.task.not_before > plan.floor.now
            and one.start <= one.task.not_before + 86_400
            and (last is None or last.end < one.task.not_before)
        ):
            waits["delivery", ""] += one.task.not_before - plan.floor.now
            break
        if own is not None and (last is None or own.end >= last.end):
            waits["hands" if own.task.job != one.task.job else "own-by", one.who] += own.end - own.start
            at = line[place - 1]
        elif last is not None:
            own_work = "own", last.task.what or last.task.op or last.task.id
            waits[("cools", "") if last.task.wait_s > 0 else own_work] += last.end - last.start
            at = index[last.task.id]
        else:
            break
    why, whose = max(waits, key=lambda key: (waits[key], key), default=("nothing", ""))
    return Message.of(f"plan.holds.{why}", who=whose, what=whose)
