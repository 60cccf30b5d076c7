"""The order of work: batch by operation with few tool changes, or wire by wire; its bound; and who does what when.

A tool change is a change of tool or setting between two steps that have a tool. No order can do with fewer than the
bound: every tool and setting has to be taken up once, again where a chain of "before" leaves it and comes back, and
once more in every ring of tools that each wait for another.
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.make.operations import CUTTER, OPS, Operation, operations
from umber_trunk.core.make.times import CHANGE_S, Times
from umber_trunk.core.results import Results

State = tuple[str, str]
SCHOOLS = ("operation", "wire")
TRIES = 6
MOST_STEPS = 400_000
RANK = {
    op: at
    for at, op in enumerate(
        (
            "measure",
            "cut",
            "label",
            "twist",
            "thread",
            "fold",
            "strip",
            "crimp",
            "look",
            "solder",
            "lay",
            "split",
            "sleeve",
            "tie",
            "insert",
            "tug",
            "torque",
            "plug",
            "test",
            "lock",
            "clamp",
            "tape",
            "shrink",
            "extract",
        )
    )
}
"""Which comes first where nothing else decides."""


@dataclass(frozen=True)
class Timed:
    """One step of the order: `n` from 1 in the order of doing, an operation for a unit (0: once for all), the numbers
    of the steps it waits for, which hand does it and when it starts."""

    n: int
    operation: Operation
    unit: int
    after: tuple[int, ...]
    seconds: float
    hand: int
    start_s: float

    @property
    def key(self) -> str:
        """The same step in every order of this design."""
        return f"{self.unit}|{self.operation.key}"


@dataclass(frozen=True)
class Order:
    """A whole order. `work_s` is all handling, `change_s` all tool changes, `span_s` from first to last with these
    hands, which no order can get under `span_bound_s`; with more hands than one, `bound` counts each tool and setting
    once; `low_s` and `high_s` hold the span in 9 of 10 cases by what the log says of times."""

    school: str
    units: tuple[int, ...]
    hands: int
    steps: tuple[Timed, ...]
    tool_changes: int
    bound: int
    walks: int
    work_s: float
    change_s: float
    span_s: float
    span_bound_s: float
    low_s: float
    high_s: float
    learned: int


def plan_order(
    results: Results,
    units: int | Sequence[int] = 1,
    school: str = "",
    hands: int = 1,
    times: Times | None = None,
    wanted: Wanted = always,
) -> Order:
    """The order for so many units, or for units of these numbers. `school` "" is the project's. InputError for what
    can't be planned."""
    numbers = tuple(range(1, units + 1)) if isinstance(units, int) else tuple(dict.fromkeys(units))
    if not numbers or min(numbers) < 1 or max(numbers) > 10_000:
        raise InputError("A number of units from 1 to 10 000 can be planned.")
    if not 1 <= hands <= 20:
        raise InputError("One to twenty pairs of hands can be planned.")
    school = school or results.design.project.practice.batch
    if school not in SCHOOLS:
        raise InputError(f"“{school}” is no way to batch: {' or '.join(SCHOOLS)}.")
    ops = results.once(operations)
    if len(ops) * len(numbers) > MOST_STEPS:
        raise InputError(f"{len(ops) * len(numbers)} steps are too many to plan in one: build in lots.")
    times = times or Times()
    graph = results.once(_graph)
    bound = graph.bound
    if school == "operation":
        line = []
        for block in graph.blocks(graph.sequence(bound, wanted)):
            line += [(at, numbers[0]) for at in block if _once(ops[at], school)]
            line += [(at, unit) for unit in numbers for at in block if not _once(ops[at], school)]
    else:
        line = graph.by_wire(numbers)
    go_on_if(wanted)
    return _timed(results, graph, line, numbers, school, hands, times, bound)


def _graph(results: Results) -> _Graph:
    return _Graph(results.once(operations))


def _once(one: Operation, school: str) -> bool:
    """Whether it is done once for all units: sample crimps are; the stop is where each wire is cut for all of them in
    one go."""
    return one.sample or (one.shared and school == "operation")


class _Graph:
    """The operations of one unit as numbers, with what waits for what."""

    def __init__(self, ops: Sequence[Operation]) -> None:
        self.ops = ops
        number = {one.key: at for at, one in enumerate(ops)}
        self.before = [[number[key] for key in one.after] for one in ops]
        self.next: list[list[int]] = [[] for _ in ops]
        for at, others in enumerate(self.before):
            for other in others:
                self.next[other].append(at)
        names = sorted({one.state for one in ops if one.tool})
        at_state = {state: n for n, state in enumerate(names)}
        self.states = names
        self.state = [at_state[one.state] if one.tool else -1 for one in ops]
        self.rank = [(RANK.get(one.op, len(OPS)), one.place, one.tool, one.setting, at) for at, one in enumerate(ops)]
        self.topological = self._topological()

    def _topological(self) -> list[int]:
        waits = [len(others) for others in self.before]
        queue = [at for at, many in enumerate(waits) if not many]
        for at in queue:
            for other in self.next[at]:
                waits[other] -= 1
                if not waits[other]:
                    queue.append(other)
        if len(queue) < len(self.ops):
            stuck = next(one.key for at, one in enumerate(self.ops) if waits[at])
            raise InputError(
                f"“{stuck}” waits for itself: a covering or comb asks for what can't be done in any order."
            )
        return queue

    @cached_property
    def bound(self) -> int:
        """Tool changes that no order can do without."""
        visits = self._visits()
        rings = self._rings([one == 1 for one in visits])
        return max(sum(visits) + rings - 1, 0)

    def _visits(self) -> list[int]:
        """How often each state has to be taken up: the most returns to it along any chain. A row for each operation, a
        column for each
        state: visits on the way here, the last of the chain in the state (`inside`), or the state left since
        (`outside`)."""
        many = len(self.states)
        inside, outside = (
            np.zeros((len(self.ops), many), dtype=np.int32),
            np.zeros((len(self.ops), many), dtype=np.int32),
        )
        most = np.ones(many, dtype=np.int32)
        for at in self.topological:
            rows = self.before[at]
            if rows:
                within, left = inside[rows].max(axis=0), outside[rows].max(axis=0)
            else:
                within = left = np.zeros(many, dtype=np.int32)
            mine = self.state[at]
            if mine < 0:
                inside[at], outside[at] = within, left
                continue
            outside[at] = np.maximum(within, left)
            inside[at, mine] = max(within[mine], left[mine] + 1, 1)
            outside[at, mine] = left[mine]
            most[mine] = max(most[mine], inside[at, mine])
        return [int(one) for one in most]

    def _rings(self, once: Sequence[bool]) -> int:
        """States that have to be taken up again though no chain says so: one in each ring of states that wait for each
        other, rings that share none."""
        waits_for: list[set[int]] = [set() for _ in self.states]
        above: list[int] = [0] * len(self.ops)
        for at in self.topological:
            mask = 0
            for other in self.before[at]:
                mask |= above[other] | (1 << self.state[other] if self.state[other] >= 0 else 0)
            above[at] = mask
            mine = self.state[at]
            if mine >= 0 and once[mine]:
                waits_for[mine] |= {s for s in range(len(self.states)) if mask >> s & 1 and s != mine and once[s]}
        free, found = {s for s, single in enumerate(once) if single}, 0
        while True:
            ring = _shortest_ring(waits_for, free)
            if not ring:
                return found
            found += 1
            free -= set(ring)

    def sequence(self, bound: int, wanted: Wanted = always) -> list[int]:
        """One unit's operations by tool: the best of some tries."""
        best: list[int] = []
        least = 10**9
        for number in range(TRIES):
            go_on_if(wanted)
            line, changes = self._by_tool(number)
            if changes < least:
                best, least = line, changes
            if least <= bound:
                break
        return best

    def blocks(self, line: Sequence[int]) -> list[list[int]]:
        """The line in blocks that one does in one go: the stop set and the wire cut; a crimp looked at; a contact
        tugged."""
        spot = {at: n for n, at in enumerate(line)}
        lead = {}
        for at in line:
            if self.ops[at].shared and self.next[at]:
                lead[min(self.next[at], key=spot.__getitem__)] = at
        led = set(lead.values())
        follows: dict[int, list[int]] = defaultdict(list)
        followers = set()
        for at in line:
            if self.ops[at].op in ("look", "tug") and self.ops[at].wire and self.before[at]:
                last = max(self.before[at], key=spot.__getitem__)
                follows[last].append(at)
                followers.add(at)
        found = []
        for at in line:
            if at in led or at in followers:
                continue
            block = [lead[at], at] if at in lead else [at]
            for one in block:
                block += follows.get(one, [])
            found.append(block)
        return found

    def _by_tool(self, number: int) -> tuple[list[int], int]:
        """Stay with a tool and setting as long as anything can be done with it; then take up one that can be
        finished."""
        waits = [len(others) for others in self.before]
        ready: dict[int, list[tuple[Any, int]]] = defaultdict(list)
        left = [0] * len(self.states)
        for state in self.state:
            if state >= 0:
                left[state] += 1
        for at, many in enumerate(waits):
            if not many:
                heapq.heappush(ready[self.state[at]], (self.rank[at], at))
        line: list[int] = []
        changes, state = -1, -1

        def done(at: int) -> None:
            line.append(at)
            if self.state[at] >= 0:
                left[self.state[at]] -= 1
            for other in self.next[at]:
                waits[other] -= 1
                if not waits[other]:
                    heapq.heappush(ready[self.state[other]], (self.rank[other], other))

        while len(line) < len(self.ops):
            if state >= 0 and ready[state]:
                done(heapq.heappop(ready[state])[1])
            elif ready[-1] and (self._early(ready[-1][0][1]) or not self._at_the_bench(ready, waits, left)):
                op = self.ops[ready[-1][0][1]].op  # all of one kind, one after another
                while ready[-1] and self.ops[ready[-1][0][1]].op == op:
                    done(heapq.heappop(ready[-1])[1])
            else:
                options = [s for s in range(len(self.states)) if ready[s]]
                bench = [s for s in options if self._undone(s, ready, waits, left, bench=True)[0] == 0]
                state = self._take_up(bench or options, ready, waits, left, number)
                changes += 1
        return line, max(changes, 0)

    def _take_up(
        self,
        options: list[int],
        ready: dict[int, list[tuple[Any, int]]],
        waits: list[int],
        left: list[int],
        number: int,
    ) -> int:
        """The tool to take up next: one whose work can be finished now, in the order of the work; else the one that
        lets most go on."""
        scored: list[tuple[tuple[Any, ...], int]] = []
        for state in options:
            undone, freed = self._undone(state, ready, waits, left)
            first = min(self.rank[at] for _, at in ready[state])
            finished = undone == 0
            if number % 3 == 0:
                scored.append(
                    ((not finished, first if finished else (undone / max(left[state], 1), -freed), state), state)
                )
            elif number % 3 == 1:
                scored.append(((not finished, -freed if finished else undone, state), state))
            else:
                scored.append(((not finished, -freed, undone, (state * 7919 + number) % 101), state))
        return min(scored, key=lambda row: row[0])[1]  # those finished are compared among themselves alone

    def _early(self, at: int) -> bool:
        """Whether an operation without a tool is done before anything is laid on the board."""
        return self.rank[at][0] < RANK["lay"]

    def _at_the_bench(self, ready: dict[int, list[tuple[Any, int]]], waits: list[int], left: list[int]) -> bool:
        """Whether some tool's work can be finished with nothing laid on the board yet."""
        return any(
            ready[s] and self._undone(s, ready, waits, left, bench=True)[0] == 0 for s in range(len(self.states))
        )

    def _undone(
        self,
        state: int,
        ready: dict[int, list[tuple[Any, int]]],
        waits: list[int],
        left: list[int],
        bench: bool = False,
    ) -> tuple[int, int]:
        """(operations of a state that would have to wait for another visit, states that could be taken up after it).
        `bench`: with nothing laid on the board."""
        queue = [at for _, at in ready[state]]
        gone: dict[int, int] = {}
        doing, freed = 0, set()
        for at in queue:
            doing += self.state[at] == state
            for other in self.next[at]:
                gone[other] = gone.get(other, 0) + 1
                if gone[other] == waits[other]:
                    if self.state[other] == state or (self.state[other] < 0 and (not bench or self._early(other))):
                        queue.append(other)
                    else:
                        freed.add(self.state[other])
        return left[state] - doing, len(freed)

    def by_wire(self, units: Sequence[int]) -> list[tuple[int, int]]:
        """Unit by unit, wire by wire: all of a wire that can be done, then the next; what belongs to no wire as soon as
        it can be."""
        line: list[tuple[int, int]] = []
        shared_done: set[int] = set()
        order = list(dict.fromkeys(one.wire for one in self.ops))
        rank = {wire: at for at, wire in enumerate(order)}
        for unit in units:
            waits = [len(others) for others in self.before]
            heap: list[tuple[Any, int]] = []

            def key(at: int) -> tuple[Any, ...]:
                one = self.ops[at]
                return (rank[one.wire] if one.wire else len(rank), *self.rank[at])

            for at, many in enumerate(waits):
                if not many:
                    heapq.heappush(heap, (key(at), at))
            mine: list[int] = []
            while heap:
                _, at = heapq.heappop(heap)
                mine.append(at)
                for other in self.next[at]:
                    waits[other] -= 1
                    if not waits[other]:
                        heapq.heappush(heap, (key(other), other))
            for at in (one for block in self.blocks(mine) for one in block):
                if not (_once(self.ops[at], "wire") and at in shared_done):
                    line.append((at, unit))
                    if _once(self.ops[at], "wire"):
                        shared_done.add(at)
        return line


def _shortest_ring(arrows: Sequence[set[int]], free: set[int]) -> list[int]:
    """The shortest ring among the free ones, [] where there is none."""
    best: list[int] = []
    for start in sorted(free):
        before: dict[int, int] = {start: start}
        queue = [start]
        for here in queue:
            for other in sorted(arrows[here] & free):
                if other == start:
                    ring = [here]
                    while ring[-1] != start:
                        ring.append(before[ring[-1]])
                    if not best or len(ring) < len(best):
                        best = ring
                    queue = []
                    break
                if other not in before:
                    before[other] = here
                    queue.append(other)
            if not queue or len(best) == 2:
                break
        if len(best) == 2:
            break
    return best


def _timed(
    results: Results,
    graph: _Graph,
    line: list[tuple[int, int]],
    numbers: tuple[int, ...],
    school: str,
    hands: int,
    times: Times,
    bound: int,
) -> Order:
    """The line dealt to the hands: each takes the first step that can be done, staying with the tool it holds."""
    ops = graph.ops
    unit_of = [0 if _once(ops[at], school) else unit for at, unit in line]
    place = {(at, unit_of[spot]): spot for spot, (at, _) in enumerate(line)}
    waits_for = [[place[b, 0 if _once(ops[b], school) else unit] for b in graph.before[at]] for at, unit in line]
    seconds = [times.seconds(ops[at]) for at, _ in line]
    schedule = (
        _one_hand(graph, line, seconds) if hands == 1 else Dealing(graph, line, waits_for, seconds, hands).schedule()
    )
    order = sorted(range(len(line)), key=lambda spot: (schedule[spot][1], schedule[spot][0], spot))
    number = {spot: n for n, spot in enumerate(order, 1)}
    steps = tuple(
        Timed(
            number[spot],
            ops[line[spot][0]],
            unit_of[spot],
            tuple(sorted(number[w] for w in waits_for[spot])),
            seconds[spot],
            *schedule[spot],
        )
        for spot in order
    )
    changes, walks = len(set_ups(steps)), _walks(steps)
    work, span = sum(seconds), max((s.start_s + s.seconds for s in steps), default=0.0)
    spread = times.spread_s([ops[at] for at, _ in line])
    return Order(
        school,
        numbers,
        hands,
        steps,
        changes,
        bound if hands == 1 else max(len(graph.states) - hands, 0),
        walks,
        work,
        changes * CHANGE_S,
        span,
        _span_bound(graph, line, waits_for, seconds, hands),
        max(span - spread, 0.5 * span),
        span + spread,
        times.learned([ops[at] for at, _ in line]),
    )


def _one_hand(graph: _Graph, line: list[tuple[int, int]], seconds: list[float]) -> list[tuple[int, float]]:
    found, clock, state = [], 0.0, -1
    for (at, _), long in zip(line, seconds, strict=True):
        mine = graph.state[at]
        if mine >= 0:
            clock += CHANGE_S if state not in (-1, mine) else 0.0
            state = mine
        found.append((1, clock))
        clock += long
    return found


class Dealing:
    """Steps dealt to several hands in time. Resources are taken by one step at a time: a hand; a tool, there is one of
    each; the length stop, which stands where it was set until every cut at that length is done; a place at the board. A
    hand stays with its tool and setting while anything can be done with them; a tool nobody is working with may be
    taken by another, and costs a change to whoever takes it up again."""

    def __init__(
        self, graph: _Graph, line: list[tuple[int, int]], waits_for: list[list[int]], seconds: list[float], hands: int
    ) -> None:
        self.seconds, self.hands = seconds, hands
        self.ops = [graph.ops[at] for at, _ in line]
        self.state = [graph.states[s] if (s := graph.state[at]) >= 0 else None for at, _ in line]
        self.waiting = [len(others) for others in waits_for]
        self.then: list[list[int]] = [[] for _ in line]
        for spot, others in enumerate(waits_for):
            for other in others:
                self.then[other].append(spot)
        self.ready: dict[tuple[State | None, str, bool], list[int]] = defaultdict(list)
        """Steps that can be done, in lots that need the same: state, place at the board, whether it sets the stop."""
        self.cuts_left: set[int] = set()
        """Cuts still to be done at the length the stop stands at."""
        self.busy: dict[str, int] = {}
        """Tool or place → the hand working with it now."""
        self.taken: dict[str, tuple[int, State]] = {}
        """Tool → who set it last, to what."""
        self.holds: list[State | None] = [None] * hands
        for spot, many in enumerate(self.waiting):
            if not many:
                self._let(spot)

    def _lot(self, spot: int) -> tuple[State | None, str, bool]:
        place = self.ops[spot].place
        return self.state[spot], place if place.startswith("board") else "", self.ops[spot].shared

    def _let(self, spot: int) -> None:
        heapq.heappush(self.ready[self._lot(spot)], spot)

    def _needs(self, spot: int) -> list[str]:
        """What a step takes for itself while it is done; who sets the stop is at the cutter."""
        state, place, stop = self._lot(spot)
        return [name for name in (state[0] if state else CUTTER if stop else "", place) if name]

    def _first(self, lot: tuple[State | None, str, bool]) -> int | None:
        """The first step of a lot if its resources are free; while the stop stands at a length, only its cuts are
        made."""
        heap = self.ready[lot]
        if not heap or any(name in self.busy for name in self._needs(heap[0])):
            return None
        state, _, stop = lot
        if self.cuts_left and (stop or (state is not None and state[0] == CUTTER)):
            return min(
                (spot for spot in self.cuts_left if not self.waiting[spot] and self._lot(spot) == lot), default=None
            )
        return heap[0]

    def _choice(self, hand: int, own_only: bool) -> int | None:
        """What a hand does next: the first step with the tool and setting it holds, else the first of all."""
        mine = [lot for lot in self.ready if lot[0] == self.holds[hand]] if self.holds[hand] is not None else []
        for lots in (mine,) if own_only else (mine, list(self.ready)):
            found = min((spot for lot in lots if (spot := self._first(lot)) is not None), default=None)
            if found is not None:
                return found
        return None

    def schedule(self) -> list[tuple[int, float]]:
        """(hand, start in s) of every step of the line."""
        found: list[tuple[int, float]] = [(0, 0.0)] * len(self.ops)
        running: list[tuple[float, int, int]] = []
        idle, clock, done = set(range(self.hands)), 0.0, 0
        while done < len(self.ops):
            for own_only in (True, False):
                for hand in sorted(idle):
                    spot = self._choice(hand, own_only)
                    if spot is not None:
                        start = self._begin(spot, hand, clock)
                        found[spot] = (hand + 1, start)
                        heapq.heappush(running, (start + self.seconds[spot], spot, hand))
                        idle.discard(hand)
            clock, spot, hand = heapq.heappop(running)
            done += 1
            idle.add(hand)
            self._end(spot)
        return found

    def _begin(self, spot: int, hand: int, clock: float) -> float:
        """Takes what the step needs; when it starts, after a change of tool."""
        state, heap = self.state[spot], self.ready[self._lot(spot)]
        if heap[0] == spot:
            heapq.heappop(heap)
        else:
            heap.remove(spot)
            heapq.heapify(heap)
        if not heap:
            del self.ready[self._lot(spot)]
        for name in self._needs(spot):
            self.busy[name] = hand
        if self.ops[spot].shared:
            self.cuts_left = set(self.then[spot])
        if state is None:
            return clock
        tool = state[0]
        fresh = self.holds[hand] is not None and self.holds[hand] != state
        lent = tool in self.taken and self.taken[tool] != (hand, state)
        self.holds[hand] = state
        self.taken[tool] = (hand, state)
        return clock + (CHANGE_S if fresh or lent else 0.0)

    def _end(self, spot: int) -> None:
        for name in self._needs(spot):
            self.busy.pop(name, None)
        self.cuts_left.discard(spot)
        self.waiting[spot] = -1
        for other in self.then[spot]:
            self.waiting[other] -= 1
            if not self.waiting[other]:
                self._let(other)


def set_ups(steps: Sequence[Timed]) -> set[int]:
    """Numbers of the steps before which a tool is set up anew: another one than these hands hold, or one that others
    had meanwhile."""
    held: dict[int, State] = {}
    last: dict[str, tuple[int, State]] = {}
    found = set()
    for step in sorted(steps, key=lambda one: one.start_s):
        one, hand = step.operation, step.hand
        if one.tool:
            lent = last.get(one.tool, (hand, one.state)) != (hand, one.state)
            if lent or held.get(hand, one.state) != one.state:
                found.add(step.n)
            held[hand], last[one.tool] = one.state, (hand, one.state)
    return found


def _walks(steps: Sequence[Timed]) -> int:
    """How often hands go to another place."""
    walks = 0
    spots: dict[int, str] = {}
    for step in sorted(steps, key=lambda one: one.start_s):
        walks += step.hand in spots and spots[step.hand] != step.operation.place
        spots[step.hand] = step.operation.place
    return walks


def _span_bound(
    graph: _Graph, line: list[tuple[int, int]], waits_for: list[list[int]], seconds: list[float], hands: int
) -> float:
    """No order is done sooner: all work shared out evenly, the longest chain of "before", the busiest tool."""
    ends = [0.0] * len(line)
    left = [len(others) for others in waits_for]
    then: list[list[int]] = [[] for _ in line]
    for spot, others in enumerate(waits_for):
        for other in others:
            then[other].append(spot)
    queue = [spot for spot, many in enumerate(left) if not many]
    for spot in queue:
        ends[spot] = max((ends[w] for w in waits_for[spot]), default=0.0) + seconds[spot]
        for other in then[spot]:
            left[other] -= 1
            if not left[other]:
                queue.append(other)
    by_tool: dict[str, float] = defaultdict(float)
    for (at, _), long in zip(line, seconds, strict=True):
        if graph.state[at] >= 0:
            by_tool[graph.states[graph.state[at]][0]] += long
    return max([sum(seconds) / hands, *ends, *by_tool.values()], default=0.0)
