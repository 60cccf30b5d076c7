"""Tasks put one after another onto hands, tools and boards: each as early as can be, after what is there already.

    JO    ▐ set up ▐ crimp 12 ▐ set up ▐ lug 3 ▐──night──▐ lug 3, on ▐
    board          ▐·············· harness 4 on it ···············▐
                                       dries: waits ≥ 5 min after its end, nobody's time

A task begins when all it waits for is done and dry, its hand is free, and one of each thing it needs is; it goes on
through the hours of its hand, stopping where they stop. A set-up is paid where the hand held another tool or setting.
The order the tasks are put in is all that a search changes (`plan_search.py`).
"""

from __future__ import annotations

from collections.abc import Sequence
from heapq import heappop, heappush

from umber_trunk.core.planning.tasks import NEVER, Placed, Shopfloor


class Placing:
    """A plan while it is made. Tasks are put in any order in which what they wait for comes first."""

    def __init__(self, floor: Shopfloor) -> None:
        self.floor = floor
        self.free = [max(floor.now, 0)] * len(floor.hands)
        self.held = [floor.held.get(hand.id) for hand in floor.hands]
        self.things: dict[str, list[int]] = {}
        self.last_on: dict[tuple[str, str], int] = {}
        self.ended = [0] * len(floor.tasks)
        self.placed: list[Placed] = []

    def ready(self, at: int) -> int:
        """When a task may begin, for all it waits for."""
        floor, task = self.floor, self.floor.tasks[at]
        found = max(floor.now, task.not_before)
        for one in floor.before[at]:
            end = self.ended[one] + floor.tasks[one].wait_s
            found = max(found, end)
        return found

    def when(self, at: int, hand: int, ready: int) -> tuple[int, int, bool]:
        """(start, end, whether a tool is set up) of a task in a hand's line."""
        floor, task = self.floor, self.floor.tasks[at]
        free = self.free[hand]
        earliest = ready if ready > free else free
        for thing in task.needs:
            line = self.things.get(thing) or self._thing(thing)
            if line[0] > earliest:
                earliest = line[0]
        sets = bool(task.tool) and (task.tool, task.setting) != self.held[hand]
        begin, end = floor.hands[hand].through(earliest, task.work_s + (floor.set_up_s if sets else 0))
        return begin, end, sets

    def _thing(self, name: str) -> list[int]:
        if name not in self.things:
            self.things[name] = [0] * max(self.floor.many.get(name, 1), 1)
        return self.things[name]

    def put(self, at: int, hand: int, start: int, end: int, sets: bool) -> None:
        """A task is placed."""
        floor, task = self.floor, self.floor.tasks[at]
        self.free[hand] = end
        for thing in task.needs:
            line = self._thing(thing)
            heappop(line)  # the one free first; a line is a heap from the start
            heappush(line, end)
        if task.state is not None:
            self.held[hand] = task.state
        self.ended[at] = end
        self.placed.append(Placed(task, floor.hands[hand].id, start, end, sets))

    def put_best(self, at: int) -> None:
        """A task goes to the hand that has it done first; one that nobody can do is never done."""
        ready = self.ready(at)
        best: tuple[int, bool, int, int] | None = None
        for hand in self.floor.able[at]:
            start, end, sets = self.when(at, hand, ready)
            key = (end, sets, hand, start)
            if best is None or key < best:
                best = key
        if best is None:
            self.ended[at] = NEVER
            self.placed.append(Placed(self.floor.tasks[at], "", NEVER, NEVER))
            return
        end, sets, hand, start = best
        self.put(at, hand, start, end, sets)


def dispatched(floor: Shopfloor, ranks: Sequence[float], sharing: int) -> list[Placed]:
    """Hands take up tasks as they come free: of what can begin by then the one of the best rank, but what needs what
    they hold already before that, among so many (`sharing`) jobs."""
    placing = Placing(floor)
    waits = [len(mine) for mine in floor.before]
    after: list[list[int]] = [[] for _ in floor.tasks]
    for at, mine in enumerate(floor.before):
        for one in mine:
            after[one].append(at)
    open_: list[list[tuple[float, int, int]]] = [[] for _ in floor.hands]
    """For each hand the tasks it may do next: (rank, place, ready)."""
    left = len(floor.tasks)
    taken = [False] * left

    def opens(at: int) -> None:
        if not floor.able[at]:
            placing.put_best(at)
            done(at)
            return
        row = (ranks[at], at, placing.ready(at))
        for hand in floor.able[at]:
            heappush(open_[hand], row)

    def done(at: int) -> None:
        nonlocal left
        taken[at] = True
        left -= 1
        for one in after[at]:
            waits[one] -= 1
            if not waits[one]:
                opens(one)

    for at, many in enumerate(waits):
        if not many:
            opens(at)
    while left > 0:
        hand = min(
            (hand for hand in range(len(floor.hands)) if _has(open_[hand], taken)),
            key=lambda one: (placing.free[one], one),
            default=None,
        )
        if hand is None:
            break
        at, start, end, sets = _chosen(placing, open_[hand], taken, hand, sharing)
        placing.put(at, hand, start, end, sets)
        done(at)
    for at, gone in enumerate(taken):
        if not gone:
            placing.placed.append(Placed(floor.tasks[at], "", NEVER, NEVER))  # waits for itself, or for nobody
    return placing.placed


def _has(line: list[tuple[float, int, int]], taken: Sequence[bool]) -> bool:
    while line and taken[line[0][1]]:
        heappop(line)
    return bool(line)


LOOKED = 12
"""Of so many tasks the one that can begin first is taken, where none can begin at once."""


def _chosen(
    placing: Placing, line: list[tuple[float, int, int]], taken: Sequence[bool], hand: int, sharing: int
) -> tuple[int, int, int, bool]:
    """(task, start, end, whether a tool is set up) of what a hand that is free takes up."""
    held, here = placing.held[hand], placing.floor.hands[hand].begin(placing.free[hand])
    looked: list[tuple[float, int, int]] = []
    best: tuple[int, bool, float, int, int] | None = None
    while line and len(looked) < max(LOOKED, sharing):
        row = heappop(line)
        if taken[row[1]]:
            continue
        looked.append(row)
        rank, at, ready = row
        start, end, sets = placing.when(at, hand, ready)
        key = (start, sets, rank, at, end)
        if start <= here and (not sets or held is None or len(looked) >= sharing):
            if best is None or best[0] > start or (not sets and best[1]):
                best = key
            break
        if best is None or key < best:
            best = key
    for row in looked:
        heappush(line, row)
    assert best is not None
    start, sets, _, at, end = best
    return at, start, end, sets
