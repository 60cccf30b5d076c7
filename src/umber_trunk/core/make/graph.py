"""What must come before what, as a graph: orders that keep to it with few tool changes, and a bound for those.

    strip A ──→ crimp A ──→ insert          a state is a tool with its setting; each change of it costs
       strip B ──→ crimp B ──→ insert       a tool change, and so does each return to it

Orders: a tool stays in hand as long as anything can be done with it, then one is taken up whose work can be finished
(several ways of choosing are tried), or wire by wire. The bound holds for any order: along a chain that leaves a state
and comes back, each visit counts; and of states that wait for one another in a ring, one has to be taken up twice.
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Sequence
from functools import cached_property
from typing import Any

import numpy as np

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.make.operation import OPS, Operation
from umber_trunk.core.make.timed import Timed

TRIES = 6
"""Orders that are tried; the one of fewest tool changes is taken."""
MOST_STEPS = 400_000
"""Steps of an order, over all its units."""
IN_TURN = (
    "measure", "cut", "label", "twist", "thread", "fold", "strip", "crimp",
    "look", "solder", "lay", "split", "sleeve", "tie", "insert", "tug",
    "torque", "plug", "test", "lock", "clamp", "tape", "shrink", "extract",
)  # fmt: skip
RANK = {op: at for at, op in enumerate(IN_TURN)}
"""Which comes first where nothing else decides."""


class Graph:
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
            raise InputError.of("make.waits-for-itself", stuck=stuck)
        return queue

    @cached_property
    def bound(self) -> int:
        """Tool changes that no order can do without."""
        visits = self._visits()
        rings = self._rings([one == 1 for one in visits])
        return max(sum(visits) + rings - 1, 0)

    def _visits(self) -> list[int]:
        """How often each state has to be taken up: the most returns to it along any chain. A row for each operation, a
        column for each state: visits on the way here, the last of the chain in the state (`inside`), or the state left
        since (`outside`)."""
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
            line, changes = self.by_tool(number)
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

    def by_tool(self, number: int) -> tuple[list[int], int]:
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
                if not (once(self.ops[at], "wire") and at in shared_done):
                    line.append((at, unit))
                    if once(self.ops[at], "wire"):
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


def walks_of(steps: Sequence[Timed]) -> int:
    """How often hands go to another place."""
    walks = 0
    spots: dict[int, str] = {}
    for step in sorted(steps, key=lambda one: one.start_s):
        walks += step.hand in spots and spots[step.hand] != step.operation.place
        spots[step.hand] = step.operation.place
    return walks


def once(one: Operation, school: str) -> bool:
    """Whether it is done once for all units: sample crimps are; the stop is where each wire is cut for all of them in
    one go."""
    return one.sample or (one.shared and school == "operation")
