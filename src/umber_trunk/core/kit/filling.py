"""How pieces fill coils: by hand’s rules first, bettered a few coils at a time, then exactly."""

from __future__ import annotations

import math
import random
from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from umber_trunk.core.errors import Wanted, go_on_if
from umber_trunk.core.kit.coil_program import CoilProgram, Fill

TRIES, REFILLS, MANY = 32, 250, 600
"""Orders of filling and fillings bettered that are tried, fewer in proportion where there are more pieces than the
third."""
PACKINGS, PACKED_COILS, PACKING_NODES = 12, 4, 40
"""So many times, so many coils are filled anew exactly, within so many nodes, where pieces are left short."""
MOST_BITS = 400_000
"""Steps a coil's length is counted in, at most: sums beyond would be slow."""


class Filling:
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
            part = Filling([self.need[p] for p in pool], [self.room[c] for c in coils], allowed, self.usable)
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
