"""Which coil each wire is cut from: fewest wires left short, then least waste, then fewest coils opened, offcuts first.

Waste is what is left of an opened coil and too short to use again. Groups of coils and pieces that can't meet are
solved apart. A search by hand's rules comes first; where its answer isn't proven best by a simple bound, the whole
puzzle goes to HiGHS, whose dual bound says how near the best it is. Lengths count in tenths of a millimetre, so that
sums are exact.
"""

from __future__ import annotations

import math
import random
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.kit.coil_program import CoilProgram, Fill
from umber_trunk.core.kit.coils import TENTHS, USABLE_M, Coil, Piece, suits

NODES = 600
"""What the exact search may look at in all: counted, so that no clock chooses the plan."""
TRIES, REFILLS, MANY = 32, 250, 600
PACKINGS, PACKED_COILS, PACKING_NODES = 12, 4, 40
"""So many times, so many coils are filled anew exactly, within so many nodes, where pieces are left short."""
MOST_BITS, MOST_PIECES, MOST_COILS = 400_000, 20_000, 100


@dataclass(frozen=True)
class Cut:
    """A piece on its coil, from `at_m`."""

    piece: Piece
    coil: str
    at_m: float


@dataclass(frozen=True)
class CutPlan:
    """All pieces: cut in the order of `cuts`, coil by coil, or short. `waste_m` is of offcuts under the usable length;
    `left_m` by coil, opened ones in `opened`. Bounds, each of plans that are as good in what counts before it:
    `short_bound` the fewest pieces that any leaves short, `bound_m` the least waste of those that leave no more short
    than this one, `opened_bound` the fewest coils of those that waste no more either."""

    cuts: tuple[Cut, ...]
    short: tuple[Piece, ...]
    waste_m: float
    bound_m: float
    short_bound: int
    opened: tuple[str, ...]
    opened_bound: int
    left_m: dict[str, float]
    usable_m: float
    reasons: dict[str, str] = field(default_factory=dict)

    @property
    def told_short(self) -> str:
        """What can be said of the pieces left short; empty where none is."""
        many, least = len(self.short), self.short_bound
        if not many:
            return ""
        if many == least:
            return f"the shelf doesn’t reach: {many} {'piece is' if many == 1 else 'pieces are'} left short by any plan"
        return f"this plan leaves {many} short, at least {least} can’t be helped"

    @property
    def proven(self) -> bool:
        """Whether nothing better exists, to a hundredth of the waste."""
        return len(self.short) == self.short_bound and self.waste_m <= 1.01 * self.bound_m + 1e-3


def plan_cuts(
    coils: Sequence[Coil],
    wanted_pieces: Sequence[Piece],
    usable_m: float = USABLE_M,
    wanted: Wanted = always,
    nodes: int = NODES,
) -> CutPlan:
    """The plan. Stopped once it isn't `wanted`; `nodes` is the most the exact search may look at in all. InputError for
    more pieces than can be planned at once."""
    if len(wanted_pieces) > MOST_PIECES:
        raise InputError(
            f"{len(wanted_pieces)} pieces are too many to plan at once, {MOST_PIECES} are the most: plan fewer units."
        )
    given, listed = coils, wanted_pieces
    coils = sorted(coils, key=lambda c: (c.size, c.metal, c.colour, c.length_m, c.id))  # the same shelf, the same plan
    wanted_pieces = sorted(
        wanted_pieces, key=lambda p: (p.size, p.metal, p.colour, -p.length_m, p.wire, p.unit, p.parallel)
    )
    allowed = _allowed(coils, wanted_pieces)
    need = [tenths_up(piece.length_m) for piece in wanted_pieces]
    room = [int(coil.length_m * TENTHS + 1e-6) for coil in coils]
    usable = tenths_up(usable_m)
    groups = _apart(allowed, len(coils))
    where: dict[int, int] = {}
    waste_bound, short_bound, opened_bound = 0.0, 0, 0
    unsure: set[int] = set()
    for number, (mine, theirs) in enumerate(groups):
        go_on_if(wanted)
        least = min(need[p] for p in theirs)
        every, mine = [c for c in mine if room[c] >= least], enough_coils(mine, coils, room, least)
        number_of = {coil: at for at, coil in enumerate(mine)}
        options = [[number_of[c] for c in allowed[p] if c in number_of] for p in theirs]
        puzzle = _Puzzle([need[p] for p in theirs], [room[c] for c in mine], options, usable)
        fill, bounds = puzzle.solve(wanted, nodes // max(len(groups) - number, 1))
        if len(mine) < len(every):  # some were left aside: only what holds for all of them is a bound
            longest = max(room[c] for c in every)
            bounds = (sum(need[p] > longest for p in theirs), 0.0, min(bounds[2], 1))
        if (
            puzzle.value(fill)[0] > bounds[0]
        ):  # another group may leave one more, this one fewer: no bound holds for both
            unsure.update(theirs)
        where.update({theirs[p]: mine[c] for c, held in fill.items() for p in held})
        short_bound, waste_bound, opened_bound = (
            short_bound + bounds[0],
            waste_bound + bounds[1],
            opened_bound + bounds[2],
        )
    hopeless = sum(not options for options in allowed)
    if unsure:
        waste_bound, opened_bound = 0.0, min(opened_bound, 1)
    made = _told(
        coils, wanted_pieces, where, usable_m, waste_bound / TENTHS, short_bound + hopeless, opened_bound, unsure
    )
    short = Counter(made.short)
    in_order = []
    for piece in listed:
        if short[piece] > 0:
            short[piece] -= 1
            in_order.append(piece)
    return replace(made, short=tuple(in_order), left_m={coil.id: made.left_m[coil.id] for coil in given})


def _allowed(coils: Sequence[Coil], wanted_pieces: Sequence[Piece]) -> list[list[int]]:
    """For each piece the coils it may come from; alike pieces share one list."""
    known: dict[tuple[str, str, str], list[int]] = {}
    by_spec: dict[tuple[str, str, str], list[int]] = defaultdict(list)
    for at, coil in enumerate(coils):
        by_spec[coil.size, coil.metal, coil.colour].append(at)
    found = []
    for piece in wanted_pieces:
        spec = piece.size, piece.metal, piece.colour
        if spec not in known:
            known[spec] = sorted(at for mine in by_spec.values() if suits(coils[mine[0]], piece) for at in mine)
        found.append(known[spec])
    return found


def enough_coils(mine: list[int], coils: Sequence[Coil], room: list[int], least: int) -> list[int]:
    """Of very many coils alike, the longest, and the shortest that are of any use."""
    alike: dict[tuple[str, str, str], list[int]] = defaultdict(list)
    for at in mine:
        if room[at] >= least:
            alike[coils[at].size, coils[at].metal, coils[at].colour].append(at)
    kept: set[int] = set()
    for some in alike.values():
        some.sort(key=lambda c: (room[c], c))
        kept |= {*some[:MOST_COILS], *some[-MOST_COILS:]}
    return sorted(kept) or mine[:1]


def tenths_up(metres: float) -> int:
    """Tenths of a millimetre, never fewer than a length has."""
    return -int(-metres * TENTHS // 1) if metres * TENTHS % 1 > 1e-6 else int(metres * TENTHS + 1e-6)


def _apart(allowed: Sequence[Sequence[int]], coils: int) -> list[tuple[list[int], list[int]]]:
    """(coils, pieces) of each group in which no piece can come from a coil of another; coils nobody wants are left
    out."""
    root = list(range(coils))

    def top(one: int) -> int:
        while root[one] != one:
            root[one] = root[root[one]]
            one = root[one]
        return one

    for options in allowed:
        for other in options[1:]:
            root[top(other)] = top(options[0])
    by_root: dict[int, tuple[list[int], list[int]]] = defaultdict(lambda: ([], []))
    for piece, options in enumerate(allowed):
        if options:
            by_root[top(options[0])][1].append(piece)
    for coil in range(coils):
        if top(coil) in by_root:
            by_root[top(coil)][0].append(coil)
    return [by_root[one] for one in sorted(by_root)]


def _told(
    coils: Sequence[Coil],
    wanted_pieces: Sequence[Piece],
    where: dict[int, int],
    usable_m: float,
    bound_m: float,
    short_bound: int,
    opened_bound: int,
    unsure: set[int],
) -> CutPlan:
    """A plan in words and metres, coil by coil, longest pieces first."""
    on: dict[int, list[int]] = defaultdict(list)
    for piece, coil in where.items():
        on[coil].append(piece)
    done, left, waste = [], {coil.id: coil.length_m for coil in coils}, 0.0
    for coil in sorted(on):
        at = 0
        for piece in sorted(on[coil], key=lambda p: (-wanted_pieces[p].length_m, p)):
            done.append(Cut(wanted_pieces[piece], coils[coil].id, at / TENTHS))
            at += tenths_up(wanted_pieces[piece].length_m)
        rest = max(coils[coil].length_m - at / TENTHS, 0.0)
        left[coils[coil].id] = rest
        waste += rest if rest < usable_m - 1e-9 else 0.0
    short = [piece for at, piece in enumerate(wanted_pieces) if at not in where]
    reasons = {
        piece.wire: _why_short(piece, coils, at not in unsure)
        for at, piece in enumerate(wanted_pieces)
        if at not in where
    }
    return CutPlan(
        tuple(done),
        tuple(short),
        waste,
        min(bound_m, waste),
        short_bound,
        tuple(coils[c].id for c in sorted(on)),
        opened_bound,
        left,
        usable_m,
        reasons,
    )


def _why_short(piece: Piece, coils: Iterable[Coil], proven: bool) -> str:
    like = [coil for coil in coils if suits(coil, piece)]
    if not like:
        what = " ".join(filter(None, (piece.size, piece.metal, piece.colour)))
        return f"no coil of {what} is on the shelf"
    longest = max(coil.length_m for coil in like)
    if longest < piece.length_m:
        return f"the longest coil has {longest:.3f} m, {piece.length_m:.3f} m are wanted in one"
    return "what is on the shelf doesn’t reach for all" if proven else "this plan leaves it short, another may not"


class _Puzzle:
    """One group: whole-number lengths, which coils each piece may come from."""

    def __init__(self, need: list[int], room: list[int], allowed: list[list[int]], usable: int) -> None:
        self.need, self.room, self.usable = need, room, usable
        self.fits = [[c for c in options if room[c] >= length] for options, length in zip(allowed, need, strict=True)]
        self.grain = math.gcd(*need) or 1
        few = min(1.0, MANY / max(len(need), 1))
        self.tries, self.refills = max(round(TRIES * few), 6), max(round(REFILLS * few), 20)

    def value(self, fill: Fill) -> tuple[int, int, int, int]:
        """(pieces short, waste, coils opened, metres of coils opened): less is better, in this order."""
        waste = opened = metres = served = 0
        for coil, held in fill.items():
            if held:
                rest = self.room[coil] - sum(self.need[p] for p in held)
                waste += rest if rest < self.usable else 0
                opened, metres, served = opened + 1, metres + self.room[coil], served + len(held)
        return len(self.need) - served, waste, opened, metres

    def simple_bounds(self) -> tuple[int, int, int]:
        """What no plan can go below, by sums alone: pieces short, waste, coils opened."""
        can = sorted(self.need[p] for p, options in enumerate(self.fits) if options)
        total, served = 0, 0
        for length in can:
            if total + length > sum(self.room):
                break
            total, served = total + length, served + 1
        short = len(self.need) - served
        return short, 0, self.opened_at_least(short)

    def opened_at_least(self, short: int) -> int:
        """The coils that any plan opens which leaves no more than `short`: the shortest pieces, on the longest
        coils."""
        total = sum(
            sorted(self.need[p] for p, options in enumerate(self.fits) if options)[: max(len(self.need) - short, 0)]
        )
        opened, filled = 0, 0
        for room in sorted(self.room, reverse=True):
            if filled >= total:
                break
            opened, filled = opened + 1, filled + room
        return opened

    def solve(self, wanted: Wanted, nodes: int) -> tuple[Fill, tuple[int, float, int]]:
        """The best filling found, and bounds on (short, waste, opened)."""
        short, waste, opened = self.simple_bounds()
        best = self.by_hand(wanted)
        if self.value(best)[:3] == (short, waste, opened):
            return best, (short, float(waste), opened)
        best, bounds = self.exactly(best, wanted, nodes)
        value = self.value(best)
        if value[0] > bounds[0] or value[1] > bounds[1]:
            best = self.refilled(best, bounds, wanted, 12 * self.refills)
        return best, bounds

    def by_hand(self, wanted: Wanted) -> Fill:
        """Longest first into the coil it fills best, and coil after coil as full as it goes, over some orders; then the
        best is taken apart and put together again, a few coils at a time."""
        draw = random.Random(17)
        by_length = sorted(range(len(self.need)), key=lambda p: (-self.need[p], p))
        smallest = sorted(range(len(self.room)), key=lambda c: (self.room[c], c))
        bounds = self.simple_bounds()
        best: Fill = {}
        best_value = self.value(best)
        for number in range(self.tries):
            go_on_if(wanted)
            order, coils = list(by_length), list(smallest)
            if number % 4 == 1:
                coils.reverse()
            elif number >= 4:
                order.sort(key=lambda p: -self.need[p] * draw.uniform(0.75, 1.25))
                if number % 4 == 3:
                    draw.shuffle(coils)
            if best and best_value[0]:  # some stay short anyway: the longest
                order = order[best_value[0] - 1 :]
            fill = (
                self._coil_by_coil(order, coils, number % 8 > 4) if number % 2 else self._piece_by_piece(order, coils)
            )
            value = self.value(fill)
            if value < best_value:
                best, best_value = fill, value
            if best_value[:3] == bounds:
                return best
        return self.refilled(best, (bounds[0], float(bounds[1]), bounds[2]), wanted, self.refills)

    def refilled(self, fill: Fill, bounds: tuple[int, float, int], wanted: Wanted, times: int) -> Fill:
        """A filling bettered by emptying one to three coils and filling them again, as long as it pays."""
        draw = random.Random(5)
        best, value = fill, self.value(fill)
        for _ in range(times):
            go_on_if(wanted)
            if value[0] <= bounds[0] and value[1] <= bounds[1] and value[2] <= bounds[2]:
                break
            held_by = {p: c for c, held in best.items() for p in held}
            chosen = self._worst_coils(best, draw)
            pool = [p for p in range(len(self.need)) if held_by.get(p, -1) in chosen or p not in held_by]
            pool = [p for p in pool if any(c in self.fits[p] for c in chosen)]
            pool.sort(key=lambda p: self.need[p] * draw.uniform(0.8, 1.2))
            space, some = sum(self.room[c] for c in chosen), []
            for piece in pool:  # the shortest that may go in together: as many as can be
                if self.need[piece] <= space:
                    some.append(piece)
                    space -= self.need[piece]
            if draw.random() < 0.5:
                some.sort(key=lambda p: -self.need[p])
            part = self._coil_by_coil(some, chosen, draw.random() < (0.5 if value[0] > bounds[0] else 0.15))
            other = {**{c: held for c, held in best.items() if c not in chosen}, **part}
            new = self.value(other)
            if new <= value:
                best, value = other, new
        return best

    def _worst_coils(self, fill: Fill, draw: random.Random) -> list[int]:
        """Coils to fill anew: one with waste, or one little used, and one or two others."""
        rest = {c: self.room[c] - sum(self.need[p] for p in fill.get(c, ())) for c in range(len(self.room))}
        wasteful = [c for c, over in rest.items() if c in fill and 0 < over < self.usable]
        first = draw.choice(wasteful) if wasteful and draw.random() < 0.7 else draw.randrange(len(self.room))
        others = [c for c in rest if c != first]
        chosen = [first, *draw.sample(others, min(draw.randint(0, 2), len(others)))]
        draw.shuffle(chosen)
        return chosen

    def _piece_by_piece(self, order: Sequence[int], coils: Sequence[int]) -> Fill:
        """Each piece into an opened coil where it leaves least over, else into the first that suits; where that would
        leave an offcut too short to keep, the next is tried first."""
        rest, fill = list(self.room), defaultdict(list)
        rank = {coil: at for at, coil in enumerate(coils)}
        for piece in order:
            length = self.need[piece]
            options = [c for c in self.fits[piece] if rest[c] >= length]
            if not options:
                continue

            def key(coil: int, length: int = length) -> tuple[bool, bool, int, int]:
                over = rest[coil] - length
                return 0 < over < self.usable, coil not in fill, over if coil in fill else 0, rank[coil]

            coil = min(options, key=key)
            fill[coil].append(piece)
            rest[coil] -= length
        return dict(fill)

    def _coil_by_coil(self, order: Sequence[int], coils: Sequence[int], full: bool = False) -> Fill:
        """Coil after coil, filled to nothing or to a usable rest by sums of lengths; `full`: as full as it goes,
        whatever is over."""
        open_pieces, fill = list(order), {}
        for coil in coils:
            mine = [p for p in open_pieces if coil in self.fits[p]]
            if not mine:
                continue
            held = mine if self._good(sum(self.need[p] for p in mine), coil) else self._fullest(mine, coil, full)
            if held:
                fill[coil] = held
                gone = set(held)
                open_pieces = [p for p in open_pieces if p not in gone]
        return fill

    def _good(self, filled: int, coil: int) -> bool:
        return filled == self.room[coil] or filled <= self.room[coil] - self.usable

    def _fullest(self, mine: Sequence[int], coil: int, full: bool) -> list[int]:
        """Pieces whose sum leaves nothing or, else, the least of waste or a usable rest. The sums that can be reached
        are bits of one number, in the coarsest steps all lengths share; a very long coil counts in coarser ones, pieces
        rounded up."""
        room = self.room[coil]
        step = self.grain * max(1, -(-room // (self.grain * MOST_BITS)))
        size = room // step
        mask = (1 << (size + 1)) - 1
        reach = [1]
        for piece in mine:
            length = -(-self.need[piece] // step)
            reach.append(reach[-1] | (reach[-1] << length) & mask)
        top = reach[-1].bit_length() - 1
        low = (room - self.usable) // step
        kept = (reach[-1] & ((1 << (low + 1)) - 1)).bit_length() - 1 if low >= 0 else -1
        target = top if full or top == size or kept <= 0 else kept
        if top * step > room - max(self.usable // 50, 1):  # all but full: a sliver is less than what is lost elsewhere
            target = top
        held = []
        for at in range(len(mine), 0, -1):
            if not reach[at - 1] >> target & 1:
                held.append(mine[at - 1])
                target -= -(-self.need[mine[at - 1]] // step)
        return held

    def exactly(self, start: Fill, wanted: Wanted, nodes: int) -> tuple[Fill, tuple[int, float, int]]:
        """The whole puzzle as a mixed-integer program, in three steps: short, waste, coils opened."""
        program = CoilProgram(self)
        best, value = start, self.value(start)
        short_bound, waste_bound = self.simple_bounds()[0], 0.0
        if value[0] > short_bound:
            go_on_if(wanted)
            found, bound = program.fewest_short(nodes)
            short_bound = max(short_bound, bound)
            best, value = self._better(best, value, found)
            if value[0] > short_bound:
                best = self.refilled(best, (short_bound, 0.0, 0), wanted, 12 * self.refills)
                best = self.packed(best, short_bound, wanted)
                value = self.value(best)
        if value[1] > 0:
            go_on_if(wanted)
            found, waste_bound = program.least_waste(value[0], nodes // 2)
            best, value = self._better(best, value, found)
        opened_bound: int = self.opened_at_least(value[0])
        if value[2] > opened_bound:
            go_on_if(wanted)
            found, least = program.fewest_opened(value[0], value[1], nodes // 4)
            opened_bound = max(opened_bound, math.ceil(least - 1e-6))
            best, value = self._better(best, value, found)
        return best, (short_bound, waste_bound, opened_bound)

    def packed(self, fill: Fill, bound: int, wanted: Wanted) -> Fill:
        """A filling that leaves fewer short: a few coils at a time are filled anew with what they hold and what lies
        beside them, as many pieces as can be and of these the shortest, so that room gathers where a further piece may
        go in."""
        draw = random.Random(9)
        best = {c: list(held) for c, held in fill.items() if held}
        for _ in range(PACKINGS):
            go_on_if(wanted)
            held_by = {p: c for c, held in best.items() for p in held}
            if len(self.need) - len(held_by) <= bound:
                break
            coils = sorted(draw.sample(range(len(self.room)), min(PACKED_COILS, len(self.room))))
            pool = [
                p for p, fits in enumerate(self.fits) if held_by.get(p, coils[0]) in coils and set(fits) & set(coils)
            ]
            number = {c: at for at, c in enumerate(coils)}
            allowed = [[number[c] for c in self.fits[p] if c in number] for p in pool]
            part = _Puzzle([self.need[p] for p in pool], [self.room[c] for c in coils], allowed, self.usable)
            found, _ = CoilProgram(part).fewest_short(PACKING_NODES, shortest=True)
            before = [p for p in pool if p in held_by]
            if found is None:
                continue
            after = [pool[p] for held in found.values() for p in held]
            if (-len(after), sum(self.need[p] for p in after)) <= (-len(before), sum(self.need[p] for p in before)):
                best = {c: held for c, held in best.items() if c not in number}
                best |= {coils[at]: [pool[p] for p in held] for at, held in found.items() if held}
        return best

    def _better(self, best: Fill, value: tuple[int, int, int, int], found: Fill | None) -> tuple[Fill, Any]:
        if found is None:
            return best, value
        other = self.value(found)
        return (found, other) if other < value else (best, value)
