"""Which coil each wire is cut from: fewest wires left short, then least waste, then fewest coils opened, offcuts first.

Waste is what is left of an opened coil and too short to use again. Groups of coils and pieces that can't meet are
solved apart. A search by hand's rules comes first; where its answer isn't proven best by a simple bound, the whole
puzzle goes to HiGHS, whose dual bound says how near the best it is. Lengths count in tenths of a millimetre, so that
sums are exact.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

from umber_trunk.core.errors import InputError, Wanted, always, go_on_if
from umber_trunk.core.kit.coils import TENTHS, USABLE_M, Coil, Piece, suits
from umber_trunk.core.kit.filling import Filling
from umber_trunk.core.sentences import say

NODES = 600
"""What the exact search may look at in all: counted, so that no clock chooses the plan."""
MOST_PIECES, MOST_COILS = 20_000, 100
"""Pieces planned at once; of coils alike, so many of the shortest that are of use and of the longest are looked at."""


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
        return say("coilcut.short-by-any" if many == least else "coilcut.short", many=many, least=least)

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
        raise InputError.of("kit.pieces-are-too-many-to-plan", count=len(wanted_pieces), most=MOST_PIECES)
    given, listed = coils, wanted_pieces
    coils = sorted(coils, key=lambda c: (c.size, c.metal, c.colour, c.length_m, c.id))  # the same shelf, the same plan
    wanted_pieces = sorted(
        wanted_pieces, key=lambda p: (p.size, p.metal, p.colour, -p.length_m, p.wire, p.unit, p.parallel)
    )
    allowed = _allowed(coils, wanted_pieces)
    need = [tenths_up(piece.length_m) for piece in wanted_pieces]
    room = [int(coil.length_m * TENTHS + 1e-6) for coil in coils]
    groups = _apart(allowed, len(coils))
    where: dict[int, int] = {}
    waste_bound, short_bound, opened_bound = 0.0, 0, 0
    unsure: set[int] = set()
    for number, (mine, theirs) in enumerate(groups):
        go_on_if(wanted)
        share = nodes // max(len(groups) - number, 1)
        group = _Group(coils, mine, theirs, need, room, allowed)
        filled, bounds, sure = group.solved(tenths_up(usable_m), share, wanted)
        if not sure:  # another group may leave one more, this one fewer: no bound holds for both
            unsure.update(theirs)
        where.update(filled)
        short_bound += bounds[0]
        waste_bound += bounds[1]
        opened_bound += bounds[2]
    hopeless = sum(not options for options in allowed)
    if unsure:
        waste_bound, opened_bound = 0.0, min(opened_bound, 1)
    made = _told(
        coils, wanted_pieces, where, usable_m, waste_bound / TENTHS, short_bound + hopeless, opened_bound, unsure
    )
    left = {coil.id: made.left_m[coil.id] for coil in given}
    return replace(made, short=_in_order(made.short, listed), left_m=left)


def _in_order(short: Sequence[Piece], listed: Iterable[Piece]) -> tuple[Piece, ...]:
    """The pieces left short, as they were listed."""
    left, found = Counter(short), []
    for piece in listed:
        if left[piece] > 0:
            left[piece] -= 1
            found.append(piece)
    return tuple(found)


@dataclass(frozen=True)
class _Group:
    """Coils that suit some of these pieces and no others: `need` and `room` of all, in tenths of a millimetre;
    `allowed`, the coils that suit each piece."""

    given: Sequence[Coil]
    coils: Sequence[int]
    pieces: Sequence[int]
    need: Sequence[int]
    room: Sequence[int]
    allowed: Sequence[Sequence[int]]

    def solved(self, usable: int, nodes: int, wanted: Wanted) -> tuple[dict[int, int], tuple[int, float, int], bool]:
        """(piece → coil, bounds on pieces short, waste and coils opened, whether no plan leaves fewer short)."""
        least = min(self.need[p] for p in self.pieces)
        every = [c for c in self.coils if self.room[c] >= least]
        mine = enough_coils(self.coils, self.given, self.room, least)
        number_of = {coil: at for at, coil in enumerate(mine)}
        options = [[number_of[c] for c in self.allowed[p] if c in number_of] for p in self.pieces]
        puzzle = Filling([self.need[p] for p in self.pieces], [self.room[c] for c in mine], options, usable)
        fill, bounds = puzzle.solve(wanted, nodes)
        if len(mine) < len(every):  # some were left aside: only what holds for all of them is a bound
            longest = max(self.room[c] for c in every)
            bounds = (sum(self.need[p] > longest for p in self.pieces), 0.0, min(bounds[2], 1))
        where = {self.pieces[p]: mine[c] for c, held in fill.items() for p in held}
        return where, bounds, puzzle.value(fill)[0] <= bounds[0]


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


def enough_coils(mine: Sequence[int], coils: Sequence[Coil], room: Sequence[int], least: int) -> list[int]:
    """Of very many coils alike, the longest, and the shortest that are of any use."""
    alike: dict[tuple[str, str, str], list[int]] = defaultdict(list)
    for at in mine:
        if room[at] >= least:
            alike[coils[at].size, coils[at].metal, coils[at].colour].append(at)
    kept: set[int] = set()
    for some in alike.values():
        some.sort(key=lambda c: (room[c], c))
        kept |= {*some[:MOST_COILS], *some[-MOST_COILS:]}
    return sorted(kept) or list(mine[:1])


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
        return say("coilcut.no-coil", what=what)
    longest = max(coil.length_m for coil in like)
    if longest < piece.length_m:
        return say("coilcut.longest", has_m=longest, wants_m=piece.length_m)
    return say("coilcut.doesnt-reach" if proven else "coilcut.another-may")
