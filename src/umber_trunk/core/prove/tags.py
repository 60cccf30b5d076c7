"""Cores told apart by resistors hung on them at the far end: which to hang, and which core each reading means."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from umber_trunk.core.errors import InputError, quoted
from umber_trunk.core.measures import RESISTANCE
from umber_trunk.core.prove.core_scheme import ContradictionError, Scheme, Todo
from umber_trunk.core.quantity import read
from umber_trunk.core.sentences import Message

TAG_SHARE, TAG_LEAD_OHM = 0.01, 2.5
"""A tag's resistor is right to so much, and the cable adds up to so many ohms: two tags have to read apart even so."""
TAG_SPAN = 100.0, 1e6
"""Resistors used as tags [Ω]: less is lost in the cable, more in what a damp cable leaks."""
E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)
"""IEC 60063: the values of 5 % resistors in a decade; those of 1 % are round(10^(k/96), 2)."""


def drawer_of(words: str) -> tuple[float, ...]:
    """The resistors there are, in ohms and rising: "E24", "E96", or values such as "100 220 1k". InputError for what is
    none."""
    plain = words.strip().upper()
    if plain in ("E24", "E96"):
        decade = E24 if plain == "E24" else tuple(round(10 ** (k / 96), 2) for k in range(96))
        values = (float(f"{value * 10**power:.4g}") for power in range(-1, 7) for value in decade)
        return tuple(value for value in values if TAG_SPAN[0] <= value <= TAG_SPAN[1])
    found = set()
    for word in words.replace(",", " ").split():
        ohm = read(word, RESISTANCE, "ohm").value
        if not 1 <= ohm <= 1e7:
            raise InputError.of("prove.no-resistor-for-tag", word=quoted(word))
        found.add(ohm)
    if not found:
        raise InputError.of("prove.say-which-resistors-there")
    return tuple(sorted(found))


def _span(*ohms: float) -> tuple[float, float]:
    """What resistors in a row may read, with the cable before them."""
    return (1 - TAG_SHARE) * sum(ohms), (1 + TAG_SHARE) * sum(ohms) + TAG_LEAD_OHM


def tag_ohms(cores: int, drawer: Sequence[float], common: bool = True) -> list[float]:
    """Resistors for so many cores out of a drawer, or as many as it has that never read alike: the smallest first, each
    next one the first whose reading can't be that of one before. Without a return, readings go through two of them:
    through the smallest or, from the core that has it, the next."""
    chosen: list[float] = []
    for ohm in drawer:
        if len(chosen) == cores:
            break
        if _clear(chosen, ohm, common):
            chosen.append(ohm)
    return chosen


def _clear(chosen: Sequence[float], ohm: float, common: bool) -> bool:
    if not chosen:
        return True
    if common:
        return _span(chosen[-1])[1] < _span(ohm)[0]
    if len(chosen) == 1:  # far enough from the smallest that the next reads otherwise from either
        return _span(chosen[0], 1.1 * ohm)[1] < _span(ohm, 1.1 * ohm)[0]
    if len(chosen) == 2:  # by the second lowest reading one knows which of the two smallest is the base
        return _span(chosen[0], ohm)[1] < _span(chosen[1], ohm)[0] and _span(*chosen)[1] < _span(chosen[0], ohm)[0]
    return all(_span(base, chosen[-1])[1] < _span(base, ohm)[0] for base in chosen[:2])


def tag_scheme(cores: int, common: bool, drawer: Sequence[float]) -> Scheme:
    """The plan with a resistor on every core: read once, or twice where no conductor is known."""
    if cores == 1:
        return Scheme("tags", 1, 0, 0, 0, (), common=common)
    if cores == 2 and not common:
        steps = (
            Todo("far", Message.of("cores.do.diode")),
            Todo("near", Message.of("cores.do.diode-read"), reads=True),
        )
        return Scheme("tags", 2, 1, 0, 2, steps, common=False)
    ohms = tuple(tag_ohms(cores, drawer, common))
    if len(ohms) < cores:
        return Scheme(
            "tags",
            cores,
            0,
            0,
            0,
            (),
            Message.of("cores.too-few-resistors", most=len(ohms), percent=100 * TAG_SHARE, ohm=TAG_LEAD_OHM),
            ohms,
            common,
        )
    hung = Message.of(
        "cores.do.tags-return" if common else "cores.do.tags-joint", least=ohms[0], most=ohms[-1], cores=cores
    )
    read_back = Message.of("cores.do.read-return" if common else "cores.do.read-twice")
    steps = Todo("far", hung), Todo("near", read_back, reads=True)
    return Scheme("tags", cores, 1, 0, cores if common else 2 * (cores - 1), steps, tags_ohm=ohms, common=common)


def from_tags(ohms: Sequence[float], read_ohm: Mapping[int, float], before: tuple[float, ...] = ()) -> dict[int, int]:
    """Near core → far core (whose resistor is `ohms`, from 1), from each core's reading, through the resistors `before`
    it. ContradictionError for a reading that is no resistor's, or twice the same."""
    found: dict[int, int] = {}
    for core, ohm in sorted(read_ohm.items()):
        spans = [_span(*before, one) for one in ohms]
        far = next((n + 1 for n, (low, high) in enumerate(spans) if low <= ohm <= high), None)
        if far is None:
            raise ContradictionError.of("prove.core-reads-no-resistor", core=core, ohm=ohm)
        if far in found.values():
            other = next(near for near, one in found.items() if one == far)
            raise ContradictionError.of("prove.cores-read-alike", other=other, core=core, ohm=ohms[far - 1])
        found[core] = far
    return found


def base_of(first: Mapping[int, float]) -> int:
    """The core all are read from at the second go: the one that read least to core 1."""
    return min(first, key=lambda core: first[core])


def from_joint(ohms: Sequence[float], base: int, second: Mapping[int, float]) -> dict[int, int]:
    """Near core → far core without a return, from the readings of `base` to all others: it has the smallest resistor
    or, where core 1 has that, the next, which the second lowest reading tells. ContradictionError for what can't be."""
    rows = sorted(second.values())
    low, high = _span(ohms[1], ohms[2])
    own = 1 if len(rows) > 1 and low <= rows[1] <= high else 0
    others = [ohm for n, ohm in enumerate(ohms) if n != own]
    found = from_tags(others, second, (ohms[own],))
    return {base: own + 1} | {core: far + (far > own) for core, far in found.items()}
