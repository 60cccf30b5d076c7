"""An order dealt out in time: to hands, tools, the length stop and places at the board, one step at a time.

hand 1  ▐ strip ▐ strip ▐ strip ▐chg▐ crimp ▐ crimp ▐      A step begins once what it waits for is done and its
hand 2  ▐ lay ▐   lay   ▐ walk ▐ insert ▐ insert ▐         hand, tool and place are free; who comes free takes
        0 s ─────────────────────────────────────→ t       the first step that can begin, its own tool’s before.
"""

from __future__ import annotations

import heapq
from collections import defaultdict

from umber_trunk.core.make.graph import Graph, once, walks_of
from umber_trunk.core.make.operation import CUTTER
from umber_trunk.core.make.timed import Order, State, Timed, set_ups
from umber_trunk.core.make.times import CHANGE_S, Times
from umber_trunk.core.results import Results


def timed(
    results: Results,
    graph: Graph,
    line: list[tuple[int, int]],
    numbers: tuple[int, ...],
    school: str,
    hands: int,
    times: Times,
    bound: int,
) -> Order:
    """The line dealt to the hands: each takes the first step that can be done, staying with the tool it holds."""
    ops = graph.ops
    unit_of = [0 if once(ops[at], school) else unit for at, unit in line]
    place = {(at, unit_of[spot]): spot for spot, (at, _) in enumerate(line)}
    waits_for = [[place[b, 0 if once(ops[b], school) else unit] for b in graph.before[at]] for at, unit in line]
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
    changes, walks = len(set_ups(steps)), walks_of(steps)
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


def _one_hand(graph: Graph, line: list[tuple[int, int]], seconds: list[float]) -> list[tuple[int, float]]:
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
        self, graph: Graph, line: list[tuple[int, int]], waits_for: list[list[int]], seconds: list[float], hands: int
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


def _span_bound(
    graph: Graph, line: list[tuple[int, int]], waits_for: list[list[int]], seconds: list[float], hands: int
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
