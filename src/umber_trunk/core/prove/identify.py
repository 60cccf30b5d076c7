"""Which core is which, of many that look alike.

Alone: two walks do for any number but two. Here, cores are joined in pairs, one left free, or two where the number is even; there, the pairs are
found, joined on to a chain, and walked back to, where the chain gives each core's number from the one before it.
With a partner, who joins the cores of a word's turn to the return: as many calls as the numbers have digits. With a different resistor on each far
end: one walk, and a diode does where there are two cores alone.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from umber_trunk.core.errors import InputError, UmberError, quoted

WAYS = ("alone", "partner", "tags")
MOST = 1000
TAG_OHM, TAG_STEP = 100.0, 1.047
"""Resistors for tagging: the smallest, and how much larger the next one is; ± 1 % ones are told apart."""
TAG_SHARE = 0.015
Pair = tuple[int, int]


class ContradictionError(UmberError):
    """What was entered can't all be true."""


@dataclass(frozen=True)
class Todo:
    """One step: at which end, what to do, and which cores it joins, by the numbers written on at that end."""

    at: str
    do: str
    joins: tuple[tuple[int, ...], ...] = ()
    reads: bool = False


@dataclass(frozen=True)
class Scheme:
    """A whole plan. `walks` from end to end, `calls` to a partner, `readings` at most; `why` where it can't be done so."""

    way: str
    cores: int
    walks: int
    calls: int
    readings: int
    steps: tuple[Todo, ...]
    why: str = ""
    tags_ohm: tuple[float, ...] = field(default=())


def scheme(cores: int, way: str, common: bool = True) -> Scheme:
    """How to find which of so many cores is which. `common`: there is a conductor known at both ends, such as a screen or an earth. InputError
    for a number or way there is none of."""
    if not 1 <= cores <= MOST:
        raise InputError(f"From 1 to {MOST} cores can be told apart, not {cores}.")
    if way not in WAYS:
        raise InputError(f"{quoted(way)} is no way: {', '.join(WAYS)}.")
    if way == "alone":
        return _alone(cores)
    if way == "partner":
        return _partner(cores, common)
    return _tags(cores, common)


# alone


def near_pairs(cores: int) -> list[Pair]:
    """The joins at the near end, by the numbers written there: pairs from the second core on, and the last left free where the number is even."""
    return [(k, k + 1) for k in range(2, cores + cores % 2, 2)]


def _alone(cores: int) -> Scheme:
    if cores == 2:
        return Scheme("alone", 2, 0, 0, 0, (), "Two alike can’t be told apart by one person joining them: each joins only the other. Use a resistor or a diode on one (tags), a partner, or a conductor that is known.")  # fmt: skip
    if cores == 1:
        return Scheme("alone", 1, 0, 0, 0, ())
    pairs = near_pairs(cores)
    free = "1 is left free" if cores % 2 else f"1 and {cores} are left free"
    count = cores * (cores - 1) // 2
    steps = (
        Todo("near", f"Number the cores as you please; join {_said(pairs)}; {free}.", tuple(pairs)),
        Todo("far", "Walk over. Find which cores lead to one another; the others are free.", reads=True),
        Todo(
            "far",
            "Number them: a free one a, the pairs b c, d e, … ; join a to b, c to d, e to f and so on; what is left stays free.",
        ),
        Todo("near", "Walk back. Open the joins you made first.", ()),
        Todo("near", "Find what leads to what: the chain gives each number from the one before.", reads=True),
    )
    return Scheme("alone", cores, 2, 0, 2 * count, steps)


@dataclass
class Alone:
    """The plan alone, entered as it goes. Far cores are named 1…n as they lie there. `tag_far` and then `names` give the answer."""

    cores: int
    chain: list[int] = field(default_factory=list)
    """Far cores in the order of the chain: a, b, c, …; then the free one of an even number."""

    def far(self, joined: Iterable[Pair]) -> list[Pair]:
        """What was found to lead to what at the far end, at the first visit; gives the joins to make there. ContradictionError for what the joins
        at the near end can't have made."""
        found = [(min(pair), max(pair)) for pair in joined]
        _within(found, self.cores)
        flat = [core for pair in found for core in pair]
        expect = len(near_pairs(self.cores))
        if len(set(found)) != len(found) or len(set(flat)) != len(flat) or len(found) != expect:
            twice = next((core for core in flat if flat.count(core) > 1), None)
            told = (
                f"core {twice} leads to two others"
                if twice
                else f"{len(found)} pairs lead to one another, {expect} were joined"
            )
            raise ContradictionError(
                f"That can’t be: {told}. Look at the joins at the near end again, and for cores that touch."
            )
        free = [core for core in range(1, self.cores + 1) if core not in flat]
        self.chain = [free[0], *flat, *free[1:]]
        return [(self.chain[k], self.chain[k + 1]) for k in range(0, self.cores - 1 - (self.cores % 2 == 0), 2)]

    def near(self, joined: Iterable[Pair]) -> dict[int, int]:
        """What was found to lead to what back at the near end; gives near number → far core."""
        if not self.chain:
            raise ContradictionError("The far end comes first: enter what leads to what there.")
        found = [(min(pair), max(pair)) for pair in joined]
        _within(found, self.cores)
        mate: dict[int, int] = {}
        for one, two in found:
            if one in mate or two in mate:
                raise ContradictionError(
                    f"That can’t be: core {one if one in mate else two} leads to two others. Were the first joins opened?"
                )
            mate[one], mate[two] = two, one
        partner = {one: two for pair in near_pairs(self.cores) for one, two in (pair, pair[::-1])}
        singles = [core for core in range(1, self.cores + 1) if core not in partner]
        starts = [core for core in singles if core in mate]
        expect = (self.cores - (self.cores % 2 == 0)) // 2
        if len(starts) != 1 or len(found) != expect:
            raise ContradictionError(
                f"That can’t be: {len(found)} pairs lead to one another here, {expect} were joined at the far end. Look again before anything is labelled."
            )
        order = [starts[0]]
        while order[-1] in mate:
            order.append(mate[order[-1]])
            if order[-1] in order[:-1]:
                raise ContradictionError("That can’t be: the chain comes back to itself.")
            if order[-1] not in partner:
                break
            order.append(partner[order[-1]])
        order += [core for core in singles if core not in order]
        if sorted(order) != list(range(1, self.cores + 1)):
            raise ContradictionError("That can’t be: the chain doesn’t pass every core. Read it again.")
        return dict(zip(order, self.chain, strict=True))


# with a partner


def _partner(cores: int, common: bool) -> Scheme:
    if not common:
        if cores < 3:
            return Scheme("partner", cores, 0, 0, 0, (), "Without a conductor known at both ends two cores give no return; use the ground, a screen, or a resistor.")  # fmt: skip
        steps = (Todo("far", "The partner joins core 1 to core 2, then 1 to 3."), Todo("near", "The one in both pairs is 1: from here it is the return.", reads=True), *_calls(cores - 1, 2))  # fmt: skip
        return Scheme(
            "partner", cores, 0, 2 + _digits(cores - 1), cores * (cores - 1) + _digits(cores - 1) * (cores - 1), steps
        )
    return Scheme("partner", cores, 0, _digits(cores), cores * _digits(cores), _calls(cores, 1))


def _digits(cores: int) -> int:
    return cores.bit_length()


def called(cores: int, call: int) -> list[int]:
    """The far cores the partner makes to the return at a call, from 0: those whose number has that binary digit."""
    return [core for core in range(1, cores + 1) if core >> call & 1]


def _calls(cores: int, first: int) -> tuple[Todo, ...]:
    rows = []
    for call in range(_digits(cores)):
        named = [core + first - 1 for core in called(cores, call)]
        rows.append(
            Todo(
                "far",
                f"Call {call + 1}: the partner makes {_list(named)} to the return, breaks all others.",
                (tuple(named),),
            )
        )
        rows.append(Todo("near", f"Note for each core whether it leads: digit {call + 1} of its number.", reads=True))
    return tuple(rows)


def from_calls(cores: int, led: list[list[bool]]) -> dict[int, int]:
    """Near core → far core, from what led at each call (calls × near cores). ContradictionError where two have the same number or one has none."""
    found: dict[int, int] = {}
    for core in range(1, cores + 1):
        number = sum(1 << call for call, row in enumerate(led) if row[core - 1])
        if not 1 <= number <= cores:
            raise ContradictionError(
                f"Core {core} led at no call or at too many ({number}): it is broken, or a call was missed."
            )
        if number in found.values():
            other = next(near for near, far in found.items() if far == number)
            raise ContradictionError(
                f"Cores {other} and {core} both come to {number}: they touch, or a reading is wrong."
            )
        found[core] = number
    return found


# with tags


def tag_ohms(cores: int) -> list[float]:
    """A resistor for each far core, far enough apart for ± 1 % ones."""
    return [float(f"{TAG_OHM * TAG_STEP**k:.4g}") for k in range(cores)]


def _tags(cores: int, common: bool) -> Scheme:
    ohms = tuple(tag_ohms(cores))
    if cores == 1:
        return Scheme("tags", 1, 0, 0, 0, ())
    if cores == 2 and not common:
        steps = (Todo("far", "A diode from core 1 to core 2, its ring (cathode) at 2."), Todo("near", "Walk back. The lead on which + makes it lead is core 1.", reads=True))  # fmt: skip
        return Scheme("tags", 2, 1, 0, 2, steps)
    where = "the return" if common else "one joint of all of them"
    steps = (
        Todo("far", f"On each core its resistor ({ohms[0]:g} Ω on 1 up to {ohms[-1]:g} Ω on {cores}), all other ends to {where}."),
        Todo("near", "Walk back. Read each core to the return." if common else "Walk back. Read one core to all others, then, from the one that read least, all again.", reads=True),
    )  # fmt: skip
    return Scheme("tags", cores, 1, 0, cores if common else 2 * (cores - 1), steps, tags_ohm=ohms)


def from_tags(cores: int, read: dict[int, float], loop_ohm: float = 0.0) -> dict[int, int]:
    """Near core → far core, from each core's reading to the return. ContradictionError for a reading that is no resistor's, or twice the same."""
    ohms = tag_ohms(cores)
    found: dict[int, int] = {}
    for core, ohm in sorted(read.items()):
        likely = min(range(cores), key=lambda k: abs(ohms[k] - (ohm - loop_ohm)))
        if (
            abs(ohms[likely] - (ohm - loop_ohm))
            > TAG_SHARE * ohms[likely] + 2.0 * (ohms[likely] < 200) * TAG_SHARE * 50
        ):
            raise ContradictionError(
                f"Core {core} reads {ohm:g} Ω, which is none of the resistors: is it broken, or is its clip off?"
            )
        if likely + 1 in found.values():
            other = next(near for near, far in found.items() if far == likely + 1)
            raise ContradictionError(
                f"Cores {other} and {core} both read {ohms[likely]:g} Ω: they touch at the far end, or one was read twice."
            )
        found[core] = likely + 1
    if len(found) != cores:
        raise ContradictionError(f"{len(found)} of {cores} cores are read; read the others too.")
    return found


def from_joint(cores: int, read: Callable[[int, int], float]) -> dict[int, int]:
    """The same without a return: `read` gives the ohms between two near cores. First one core to all others, then from the one that read least,
    which has the smallest resistor, or the next."""
    first = {core: read(1, core) for core in range(2, cores + 1)}
    base = min(first, key=lambda core: first[core])
    second = {core: read(base, core) for core in range(1, cores + 1) if core != base}
    ohms = tag_ohms(cores)
    for low in (0, 1):  # the base has the smallest resistor, or, where core 1 had that, the next
        try:
            return from_tags(cores, {base: ohms[low], **{core: ohm - ohms[low] for core, ohm in second.items()}})
        except ContradictionError as why:
            fault = why
    raise fault


def _within(pairs: Iterable[Pair], cores: int) -> None:
    for one, two in pairs:
        if not (1 <= one <= cores and 1 <= two <= cores) or one == two:
            raise ContradictionError(f"“{one}-{two}” is no pair of cores from 1 to {cores}.")


def _said(pairs: Iterable[Pair]) -> str:
    rows = [f"{one} to {two}" for one, two in pairs]
    return ", ".join(rows[:12]) + (" …" if len(rows) > 12 else "")


def _list(cores: list[int]) -> str:
    return ", ".join(map(str, cores[:24])) + (" …" if len(cores) > 24 else "")
