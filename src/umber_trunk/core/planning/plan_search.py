"""A plan looked for by counted search: the same answer twice, and a bound beside it.

Few tasks are tried in every order and by every hand, cut off by what is known already. Many are dispatched by rank,
rules of rank and of sharing set-ups tried one after another, then jobs are exchanged. What was planned before is one of
the starts, and wins where nothing is better, so that a plan stays as it is unless it pays to move.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.planning.placing import Placing, dispatched
from umber_trunk.core.planning.tasks import NEVER, Hand, Placed, Shopfloor, Worth, worth_of

FEW_TASKS, NODES = 9, 60_000
"""Tasks up to which every order is tried, within so many looks."""
PLACEMENTS, LEAST_TRIES = 40_000, 4
"""So many tasks are placed in all while plans are tried, but so many plans at least."""
MOVED_S = 900
"""A task that begins so much earlier or later was moved."""
FAR = 1 << 40
"""Later than any plan reaches: the rank of what was not planned before."""


@dataclass(frozen=True)
class Plan:
    """A plan: its tasks as they begin, what it is worth, what none can be better than, and what moved since the plan
    before."""

    floor: Shopfloor
    placed: tuple[Placed, ...]
    worth: Worth
    bound: Worth
    moved: tuple[str, ...] = ()
    proven: bool = False
    """Whether every order was tried."""

    def ready(self) -> dict[str, int]:
        """Job → when it is planned to be ready."""
        found: dict[str, int] = {}
        for one in self.placed:
            found[one.task.job] = max(found.get(one.task.job, 0), one.end)
        return found


def planned(
    floor: Shopfloor, before: Mapping[str, tuple[str, int]] | None = None, wanted: Wanted = always, tries: int = 0
) -> Plan:
    """The plan. `before` is the last one's: task → (hand, start). `tries` how many plans are looked at, as many as the
    search counts where 0."""
    bound = bound_of(floor)
    best: list[Placed] = []
    worth: Worth | None = None
    proven = False

    def look(placed: list[Placed]) -> bool:
        nonlocal best, worth
        go_on_if(wanted)
        mine = worth_of(floor, placed)
        if worth is None or mine < worth:
            best, worth = placed, mine
            return True
        return False

    if before:
        look(as_before(floor, before))
    ranks = _ranks(floor)
    many = tries or max(LEAST_TRIES, PLACEMENTS // max(len(floor.tasks), 1))
    tried = 0
    for rule in ranks:
        for sharing in (1, 8, 40):
            if tried < many and (worth is None or worth > bound):
                look(dispatched(floor, rule, sharing))
                tried += 1
    if worth is not None and worth > bound and len(floor.tasks) <= FEW_TASKS:
        every = _Every(floor, best, worth)
        best, worth, proven = every.search()
    elif worth is not None and worth > bound:
        tried = _exchanged(floor, look, many, tried, ranks[0])
    assert worth is not None
    line = tuple(sorted(best, key=lambda one: (one.start, one.who, one.task.id)))
    moved = _moved(line, before or {})
    return Plan(floor, line, worth, bound, moved, proven or worth == bound)


def as_before(floor: Shopfloor, before: Mapping[str, tuple[str, int]]) -> list[Placed]:
    """What is left of a plan, in its own order and by its hands; what is new comes after, by its promise."""
    ranks = _ranks(floor)[0]
    key = [(before[task.id][1] if task.id in before else FAR, ranks[at]) for at, task in enumerate(floor.tasks)]
    order = _by(floor, key)
    known = {hand.id: at for at, hand in enumerate(floor.hands)}
    placing = Placing(floor)
    for at in order:
        hand = known.get(before.get(floor.tasks[at].id, ("", 0))[0])
        if hand is not None and hand in floor.able[at]:
            placing.put(at, hand, *placing.when(at, hand, placing.ready(at)))
        else:
            placing.put_best(at)
    return placing.placed


def _by(floor: Shopfloor, key: Sequence[tuple[float, float]]) -> list[int]:
    """Tasks by a key, each after those it waits for."""
    from heapq import heapify, heappop, heappush

    waits = [len(mine) for mine in floor.before]
    after: dict[int, list[int]] = defaultdict(list)
    for at, mine in enumerate(floor.before):
        for one in mine:
            after[one].append(at)
    line = [(key[at], at) for at, many in enumerate(waits) if not many]
    heapify(line)
    found = []
    while line:
        _, at = heappop(line)
        found.append(at)
        for one in after[at]:
            waits[one] -= 1
            if not waits[one]:
                heappush(line, (key[one], one))
    return found


def _ranks(floor: Shopfloor) -> list[list[float]]:
    """Rules of rank, lower first: by the day promised; by what is left until then; by weight over work; each job's own
    tasks in their order."""
    work: dict[str, float] = defaultdict(float)
    for task in floor.tasks:
        work[task.job] += task.work_s
    tail = _tails(floor)
    due = {job: FAR if (by := floor.wanted_by(job)) is None else by for job in floor.of_job}
    weight = {job: promise.weight for job, promise in floor.of_job.items()}
    begun = {task.job for task in floor.tasks if task.begun_by}
    jobs = list(floor.of_job)
    rules: list[Callable[[str], float]] = [
        lambda job: due[job] / weight[job] ** 0.05,
        lambda job: due[job] - work[job],
        lambda job: work[job] / weight[job],
        lambda job: due[job] - 3 * work[job],
    ]
    found = []
    for rule in rules:
        place = {job: at for at, job in enumerate(sorted(jobs, key=lambda job: (job not in begun, rule(job), job)))}
        found.append([place[task.job] + at / (len(floor.tasks) + 1) for at, task in enumerate(floor.tasks)])
    found.append([due[task.job] - tail[at] for at, task in enumerate(floor.tasks)])
    return found


def _tails(floor: Shopfloor) -> list[float]:
    """Seconds of work and waits from a task's beginning to the end of the longest line behind it; a wait that nobody
    waits for isn't in it."""
    found = [task.work_s for task in floor.tasks]
    order = _by(floor, [(0.0, float(at)) for at in range(len(floor.tasks))])
    for at in reversed(order):
        for one in floor.before[at]:
            own = floor.tasks[one].work_s + floor.tasks[one].wait_s
            found[one] = max(found[one], own + found[at])
    return found


def _exchanged(
    floor: Shopfloor, look: Callable[[list[Placed]], bool], many: int, tried: int, rank: Sequence[float]
) -> int:
    """Jobs that follow one another by rank are exchanged, as long as that is better and may be tried."""
    jobs = sorted(
        {task.job for task in floor.tasks},
        key=lambda job: min(rank[at] for at, task in enumerate(floor.tasks) if task.job == job),
    )
    better = True
    while better and tried < many:
        better = False
        for at in range(len(jobs) - 1):
            if tried >= many:
                break
            other = [*jobs[:at], jobs[at + 1], jobs[at], *jobs[at + 2 :]]
            place = {job: number for number, job in enumerate(other)}
            ranks = [place[task.job] + number / (len(floor.tasks) + 1) for number, task in enumerate(floor.tasks)]
            tried += 1
            if look(dispatched(floor, ranks, 8)):
                jobs, better = other, True
    return tried


class _Every:
    """Every order of few tasks, by every hand, in the order in which they begin; cut off once worse than what is
    known."""

    def __init__(self, floor: Shopfloor, best: list[Placed], worth: Worth) -> None:
        self.floor, self.best, self.worth, self.nodes = floor, best, worth, 0
        self.tails = _tails(floor)

    def search(self) -> tuple[list[Placed], Worth, bool]:
        """(the best plan, its worth, whether every order was tried)."""
        self._go([], frozenset())
        return self.best, self.worth, self.nodes <= NODES

    def _go(self, line: list[tuple[int, int]], gone: frozenset[int]) -> None:
        self.nodes += 1
        if self.nodes > NODES:
            return
        placing = Placing(self.floor)
        for at, hand in line:
            placing.put(at, hand, *placing.when(at, hand, placing.ready(at)))
        if len(gone) == len(self.floor.tasks):
            mine = worth_of(self.floor, placing.placed)
            if mine < self.worth:
                self.best, self.worth = placing.placed, mine
            return
        if self._least(placing, gone) >= self.worth:
            return
        last = placing.placed[-1].start if placing.placed else 0
        options = []
        for at in range(len(self.floor.tasks)):
            if at in gone or not gone.issuperset(self.floor.before[at]):
                continue
            ready = placing.ready(at)
            for hand in self.floor.able[at]:
                start, end, sets = placing.when(at, hand, ready)
                if start >= last:
                    options.append((end, sets, at, hand))
        for _, _, at, hand in sorted(options):
            self._go([*line, (at, hand)], gone | {at})

    def _least(self, placing: Placing, gone: frozenset[int]) -> Worth:
        """What no plan that goes on from here is better than."""
        floor, late, lying = self.floor, 0.0, 0.0
        ready: dict[str, float] = defaultdict(float)
        first: dict[str, float] = {}
        for one in placing.placed:
            ready[one.task.job] = max(ready[one.task.job], one.end)
            first[one.task.job] = min(first.get(one.task.job, NEVER), one.start)
        for at, task in enumerate(floor.tasks):
            if at not in gone and all(one in gone for one in floor.before[at]):
                hands = floor.able[at]
                begin = min(
                    (floor.hands[hand].begin(max(placing.ready(at), placing.free[hand])) for hand in hands),
                    default=NEVER,
                )
                ready[task.job] = max(ready[task.job], begin + self.tails[at])
        for job, end in ready.items():
            promise = floor.of_job[job]
            if (due := floor.wanted_by(job)) is not None:
                late += promise.weight * max(floor.ready_late(job, end) - due, 0.0) / 86_400
            if job in first:
                lying += (end - first[job]) / 86_400
        sets = sum(one.set_up for one in placing.placed)
        states = (
            {floor.tasks[at].state for at in range(len(floor.tasks)) if at not in gone} - {None} - set(placing.held)
        )
        return Worth(round(late - 1e-6, 6), sets + len(states), round(lying - 1e-6, 6))


def bound_of(floor: Shopfloor) -> Worth:
    """What no plan is better than: no job is ready before any of its tasks, begun when it may be, and the longest line
    behind it are done, by whoever is here; every tool and setting is set up once; no job lies about shorter than its
    longest line takes."""
    tails = _tails(floor)
    held = set(floor.held.values())
    sets = len({task.state for task in floor.tasks if task.state is not None} - held)
    longest: dict[str, float] = defaultdict(float)
    ready: dict[str, int] = defaultdict(int)
    all_hours = _together(floor.hands)
    drying = {task.job for task in floor.tasks if task.wait_s}
    for at, task in enumerate(floor.tasks):
        longest[task.job] = max(longest[task.job], tails[at])
        if all_hours is not None and (task.not_before > floor.now or not floor.before[at]):
            begin = all_hours.begin(max(floor.now, task.not_before))
            # what dries goes on over nights: its line isn't work alone
            end = begin + int(tails[at]) if task.job in drying else all_hours.finish(begin, tails[at])
            ready[task.job] = max(ready[task.job], end)
    late = 0.0
    for job, end in ready.items():
        promise = floor.of_job[job]
        if (due := floor.wanted_by(job)) is not None and end < NEVER:
            late += promise.weight * max(floor.ready_late(job, end) - due, 0.0) / 86_400
    lying = sum(longest.values()) / 86_400
    return Worth(round(max(late - 1e-5, 0.0), 6), sets, round(max(lying - 1e-5, 0.0), 6))


def _together(hands: Sequence[Hand]) -> Hand | None:
    """The hours at which anybody is here."""
    spans = sorted(span for hand in hands for span in hand.spans)
    found: list[tuple[int, int]] = []
    for start, end in spans:
        if found and start <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((start, end))
    return Hand("all", tuple(found)) if found else None


def _moved(placed: Sequence[Placed], before: Mapping[str, tuple[str, int]]) -> tuple[str, ...]:
    """Tasks that another hand does now, or at another time."""
    return tuple(
        one.task.id
        for one in placed
        if one.task.id in before
        and (one.who != before[one.task.id][0] or abs(one.start - before[one.task.id][1]) > MOVED_S)
    )
