"""Which core is which, of many that look alike.

Alone: two walks do for any number but two. Here, cores are joined in pairs, one left free, or two where the number is
even; there, the pairs are found, joined on to a chain, and walked back to, where the chain gives each core's number
from the one before it. With a partner, who joins the cores of a call's turn to the return: ⌈log₂ n⌉ calls, by the
binary digits of the cores' numbers less one; one more, with all made, shows that none is broken. With a different
resistor on each far end: one walk, and a diode does where there are two cores alone.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence, Set
from dataclasses import dataclass, field

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.prove.core_scheme import ContradictionError, Pair, Scheme, Todo
from umber_trunk.core.prove.tags import drawer_of, tag_scheme
from umber_trunk.core.sentences import NOTHING, Message

WAYS = ("alone", "partner", "tags")
MOST = 1000
"""Cores of a cable."""


def scheme(cores: int, way: str, common: bool = True, check: bool = False, drawer: str = "E24") -> Scheme:
    """How to find which of so many cores is which. `common`: there is a conductor known at both ends, such as a screen
    or an earth; `check`: a partner makes all cores once, so that a broken one shows; `drawer`: the resistors there are
    for tags (see `drawer_of`). InputError for a number, way or drawer there is none of."""
    if not 1 <= cores <= MOST:
        raise InputError.of("prove.cores-out-of-range", most=MOST, cores=cores)
    if way not in WAYS:
        raise InputError.of("prove.no-way", way=quoted(way), known=", ".join(WAYS))
    if way == "alone":
        return _alone(cores)
    if way == "partner":
        return _partner(cores, common, check)
    return tag_scheme(cores, common, drawer_of(drawer))


# alone


def near_pairs(cores: int) -> list[Pair]:
    """The joins at the near end, by the numbers written there: pairs from the second core on, and the last left free
    where the number is even."""
    return [(k, k + 1) for k in range(2, cores + cores % 2, 2)]


def _alone(cores: int) -> Scheme:
    if cores == 2:
        return Scheme("alone", 2, 0, 0, 0, (), Message.of("cores.two-alone"))
    if cores == 1:
        return Scheme("alone", 1, 0, 0, 0, ())
    pairs = near_pairs(cores)
    free = 1 if cores % 2 else Message.of("any.and", one=1, other=cores)
    count = cores * (cores - 1) // 2
    steps = (
        Todo(
            "near",
            Message.of("cores.do.join-pairs", pairs=_pairs_said(pairs), free=free, many=2 - cores % 2),
            tuple(pairs),
        ),
        Todo("far", Message.of("cores.do.walk-over"), reads=True),
        Todo("far", Message.of("cores.do.number-far")),
        Todo("near", Message.of("cores.do.walk-back")),
        Todo("near", Message.of("cores.do.find-chain"), reads=True),
    )
    return Scheme("alone", cores, 2, 0, 2 * count, steps)


@dataclass
class Alone:
    """The plan alone, entered as it goes. Far cores are named 1…n as they lie there. `tag_far` and then `names` give
    the answer."""

    cores: int
    chain: list[int] = field(default_factory=list)
    """Far cores in the order of the chain: a, b, c, …; then the free one of an even number."""

    def far(self, joined: Iterable[Pair]) -> list[Pair]:
        """What was found to lead to what at the far end, at the first visit; gives the joins to make there.
        ContradictionError for what the joins at the near end can't have made."""
        found = [(min(pair), max(pair)) for pair in joined]
        _within(found, self.cores)
        flat = [core for pair in found for core in pair]
        expect = len(near_pairs(self.cores))
        if len(set(found)) != len(found) or len(set(flat)) != len(flat) or len(found) != expect:
            twice = next((core for core in flat if flat.count(core) > 1), None)
            raise ContradictionError.of("prove.joins-contradict", twice=twice or 0, found=len(found), expect=expect)
        free = [core for core in range(1, self.cores + 1) if core not in flat]
        self.chain = [free[0], *flat, *free[1:]]
        return [(self.chain[k], self.chain[k + 1]) for k in range(0, self.cores - 1 - (self.cores % 2 == 0), 2)]

    def near(self, joined: Iterable[Pair]) -> dict[int, int]:
        """What was found to lead to what back at the near end; gives near number → far core."""
        if not self.chain:
            raise ContradictionError.of("prove.far-end-comes-first")
        found = [(min(pair), max(pair)) for pair in joined]
        _within(found, self.cores)
        mate: dict[int, int] = {}
        for one, two in found:
            if one in mate or two in mate:
                raise ContradictionError.of("prove.core-leads-to-two", one=one if one in mate else two)
            mate[one], mate[two] = two, one
        partner = {one: two for pair in near_pairs(self.cores) for one, two in (pair, pair[::-1])}
        singles = [core for core in range(1, self.cores + 1) if core not in partner]
        starts = [core for core in singles if core in mate]
        expect = (self.cores - (self.cores % 2 == 0)) // 2
        if len(starts) != 1 or len(found) != expect:
            raise ContradictionError.of("prove.too-many-pairs", count=len(found), expect=expect)
        order = [starts[0]]
        while order[-1] in mate:
            order.append(mate[order[-1]])
            if order[-1] in order[:-1]:
                raise ContradictionError.of("prove.chain-closes-early")
            if order[-1] not in partner:
                break
            order.append(partner[order[-1]])
        order += [core for core in singles if core not in order]
        if sorted(order) != list(range(1, self.cores + 1)):
            raise ContradictionError.of("prove.chain-misses-cores")
        return dict(zip(order, self.chain, strict=True))


# with a partner


def calls_for(cores: int) -> int:
    """⌈log₂ n⌉: fewer calls can't give n cores a pattern each."""
    return (cores - 1).bit_length()


def _partner(cores: int, common: bool, check: bool) -> Scheme:
    named = list(range(1, cores + 1))
    before: tuple[Todo, ...] = ()
    if not common:
        if cores < 3:
            return Scheme("partner", cores, 0, 0, 0, (), Message.of("cores.two-without-return"), common=False)
        named = named[1:]
        before = (
            Todo("far", Message.of("cores.do.partner-first", other=2)),
            Todo("near", Message.of("cores.do.find-pair"), reads=True),
            Todo("far", Message.of("cores.do.partner-instead", other=3)),
            Todo("near", Message.of("cores.do.find-return"), reads=True),
        )
    calls = calls_for(len(named)) + check
    count = calls * len(named) + (cores * (cores - 1) if before else 0)
    told = NOTHING if check or cores == 1 else Message.of("cores.not-checked")
    return Scheme(
        "partner",
        cores,
        0,
        calls + 2 * bool(before),
        count,
        (*before, *_calls(named, check)),
        common=common,
        check=check,
        told=told,
    )


def called(named: Sequence[int], call: int) -> list[int]:
    """The far cores the partner makes to the return at a call, from 0: those whose place in the row, from 0, has that
    binary digit; at the call after the last digit all."""
    if call >= calls_for(len(named)):
        return list(named)
    return [core for n, core in enumerate(named) if n >> call & 1]


def _calls(named: Sequence[int], check: bool) -> tuple[Todo, ...]:
    rows = []
    digits = calls_for(len(named))
    for call in range(digits + check):
        made = called(named, call)
        note = Message.of("cores.do.note-all") if call == digits else Message.of("cores.do.note-digit", digit=call + 1)
        rows += [
            Todo("far", Message.of("cores.do.call", call=call + 1, cores=_list(made)), (tuple(made),)),
            Todo("near", note, reads=True),
        ]
    return tuple(rows)


def from_calls(near: Sequence[int], named: Sequence[int], led: Sequence[Set[int]]) -> dict[int, int]:
    """Near core → far core, from which of the `near` cores led at each call. ContradictionError where two have the same
    pattern, one's is nobody's, or one didn't lead when all were made."""
    found: dict[int, int] = {}
    digits = calls_for(len(named))
    for core in near:
        if len(led) > digits and core not in led[digits]:
            raise ContradictionError.of("prove.core-is-broken", core=core)
        number = sum(1 << call for call in range(digits) if core in led[call])
        if number >= len(named):
            raise ContradictionError.of("prove.core-led-at-too-many-calls", core=core)
        if named[number] in found.values():
            other = next(one for one, far in found.items() if far == named[number])
            raise ContradictionError.of("prove.cores-come-to-one-name", other=other, core=core, named=named[number])
        found[core] = named[number]
    return found


def _within(pairs: Iterable[Pair], cores: int) -> None:
    for one, two in pairs:
        if not (1 <= one <= cores and 1 <= two <= cores) or one == two:
            raise ContradictionError.of("prove.no-pair-of-cores", one=one, two=two, cores=cores)


def _pairs_said(pairs: Iterable[Pair]) -> str:
    """Pairs as they are entered, the first twelve."""
    rows = [f"{one}-{two}" for one, two in pairs]
    return ", ".join(rows[:12]) + (" …" if len(rows) > 12 else "")


def _list(cores: list[int]) -> str:
    return ", ".join(map(str, cores[:24])) + (" …" if len(cores) > 24 else "")
