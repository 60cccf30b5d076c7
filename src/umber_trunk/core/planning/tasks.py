"""What a plan is made of: tasks, hands with their hours, tools, days promised. Moments are seconds since 1970, work is
seconds of somebody's working time, over breaks and nights where it is longer than what is left of a day."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

NEVER = 1 << 50
"""Later than any plan: there are no hours left for it."""
SET_UP_S = 60
"""Another tool or setting taken up, set and tried."""


@dataclass(frozen=True)
class Task:
    """A handful of a job's frozen order, or what stands for one. `tool` and `setting` are what has to be set up;
    `needs` are things it takes for itself while it lasts (a press, a die, a board), by name; `may` are the hands that
    can, all where none is said. It waits for those `after`, a delivery `not_before`, and whoever follows it for
    `wait_s` more (glue, paint). Begun by somebody, it stays theirs."""

    id: str
    job: str
    work_s: float
    build: str = ""
    what: str = ""
    op: str = ""
    steps: tuple[str, ...] = ()
    tool: str = ""
    setting: str = ""
    needs: tuple[str, ...] = ()
    may: tuple[str, ...] = ()
    after: tuple[str, ...] = ()
    not_before: int = 0
    wait_s: int = 0
    begun_by: str = ""

    @property
    def state(self) -> tuple[str, str] | None:
        """What has to be set up for it; None for bare hands."""
        return (self.tool, self.setting) if self.tool else None


@dataclass(frozen=True)
class Hand:
    """Somebody, and the hours they are here: (start, end), in order, apart."""

    id: str
    spans: tuple[tuple[int, int], ...]

    @cached_property
    def starts(self) -> list[int]:
        """When each begins."""
        return [start for start, _ in self.spans]

    @cached_property
    def ends(self) -> list[int]:
        """When each is over."""
        return [end for _, end in self.spans]

    @cached_property
    def done(self) -> list[int]:
        """Seconds worked when each is over, from the first on."""
        found, total = [], 0
        for start, end in self.spans:
            total += end - start
            found.append(total)
        return found

    def through(self, earliest: int, work_s: float) -> tuple[int, int]:
        """(when work that may begin from then on begins, when it is done)."""
        at = bisect_right(self.ends, earliest)
        if at == len(self.ends):
            return NEVER, NEVER
        begin = max(earliest, self.starts[at])
        over = work_s - (self.ends[at] - begin)
        if over <= 0:
            return begin, begin + round(work_s)
        target = self.done[at] + over
        at = bisect_left(self.done, target - 1e-6, at)
        if at == len(self.ends):
            return begin, NEVER
        return begin, round(self.ends[at] - (self.done[at] - target))

    def begin(self, earliest: int) -> int:
        """The first moment from then on at which they are here."""
        return self.through(earliest, 0.0)[0]

    def finish(self, begin: int, work_s: float) -> int:
        """When work begun then is done."""
        return self.through(begin, work_s)[1]


@dataclass(frozen=True)
class Promise:
    """A job's promise: by when, and how much it weighs. One that goes `ahead` of others is wanted now."""

    job: str
    due: int | None = None
    weight: float = 1.0
    ahead: bool = False


@dataclass(frozen=True)
class Shopfloor:
    """All there is to plan from `now` on. `many` says how many there are of a thing that tasks need, one where nothing
    is said; `held` what each hand has set up now. `luck90` is how much longer than planned nine weeks of ten take."""

    now: int
    tasks: tuple[Task, ...]
    hands: tuple[Hand, ...]
    promises: tuple[Promise, ...] = ()
    many: Mapping[str, int] = field(default_factory=dict)
    held: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    set_up_s: int = SET_UP_S
    luck90: float = 1.2

    @cached_property
    def number(self) -> dict[str, int]:
        """Task → its place."""
        return {task.id: at for at, task in enumerate(self.tasks)}

    @cached_property
    def before(self) -> list[list[int]]:
        """For each task those it waits for, by place; what isn't among the tasks is done."""
        return [[self.number[one] for one in task.after if one in self.number] for task in self.tasks]

    @cached_property
    def able(self) -> list[list[int]]:
        """For each task the hands that can, by place."""
        known = {hand.id: at for at, hand in enumerate(self.hands)}
        found = []
        for task in self.tasks:
            mine = [known[name] for name in task.may if name in known] if task.may else list(range(len(self.hands)))
            begun = known.get(task.begun_by)
            found.append([begun] if begun is not None else mine)
        return found

    @cached_property
    def of_job(self) -> dict[str, Promise]:
        """Job → its promise; one that weighs one and is due never for others."""
        found = {promise.job: promise for promise in self.promises}
        for task in self.tasks:
            found.setdefault(task.job, Promise(task.job))
        return found

    @cached_property
    def work_of(self) -> dict[str, float]:
        """Job → seconds of work in it."""
        found: dict[str, float] = {}
        for task in self.tasks:
            found[task.job] = found.get(task.job, 0.0) + task.work_s
        return found

    def wanted_by(self, job: str) -> int | None:
        """By when a plan is to have a job ready; None where that is all the same."""
        promise = self.of_job[job]
        return self.now if promise.ahead else promise.due

    def ready_late(self, job: str, ready: float) -> float:
        """When a job that is planned to be ready then is, in nine weeks of ten: its work takes longer, three hours by
        the clock for one at work; deliveries it waits for don't."""
        return ready + (self.luck90 - 1) * min(ready - self.now, 3 * self.work_of.get(job, 0.0))


@dataclass(frozen=True)
class Placed:
    """A task with who does it and when; `set_up`: its tool is set up first."""

    task: Task
    who: str
    start: int
    end: int
    set_up: bool = False


@dataclass(frozen=True, order=True)
class Worth:
    """What a plan is worth, the first thing first: weighted days late at the promised quantile, tools set up, days that
    jobs lie about begun."""

    late: float
    set_ups: int
    lying: float


def worth_of(floor: Shopfloor, placed: Sequence[Placed]) -> Worth:
    """The objective of a plan. A job that can't be made at all is a hundred years late."""
    first: dict[str, int] = {}
    last: dict[str, int] = {}
    for one in placed:
        job = one.task.job
        first[job] = min(first.get(job, NEVER), one.start)
        last[job] = max(last.get(job, 0), one.end)
    late = lying = 0.0
    for job, ready in last.items():
        promise = floor.of_job[job]
        if ready >= NEVER:
            late += 36_500 * promise.weight
            continue
        lying += (ready - first[job]) / 86_400
        if (due := floor.wanted_by(job)) is not None:
            late += promise.weight * max(floor.ready_late(job, ready) - due, 0.0) / 86_400
    return Worth(round(late, 6), sum(one.set_up for one in placed), round(lying, 6))


def late_of(floor: Shopfloor, placed: Sequence[Placed]) -> float:
    """Weighted days late as promised, whoever goes ahead."""
    promises = tuple(replace(promise, ahead=False) for promise in floor.promises)
    return worth_of(replace(floor, promises=promises), placed).late
