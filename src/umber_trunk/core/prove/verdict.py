"""What readings come to: faults with their probabilities, and what they cannot part."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.sentences import NOTHING, Message, joined, say

UNKNOWN_TOLD = 0.05
"""So likely it has to be that none of the kinds known is at work before it is said."""


@dataclass(frozen=True)
class Suspect:
    """A fault with its probability. `group` numbers the faults that no further reading at the ends can tell from it."""

    fault: Fault
    probability: float
    group: int
    words: Message
    at: str = ""
    """The name of the end it is at, where it is at one."""
    anywhere: Message = NOTHING
    """The same in words that name no end."""
    mend: Message = NOTHING
    """The act of repair."""


@dataclass(frozen=True)
class Cause:
    """What may be wrong, with its own probability: the same at several ends is one, and names them all. `group` as of a
    suspect."""

    fault: Fault
    probability: float
    group: int
    words: Message
    ends: tuple[str, ...] = ()
    mend: Message = NOTHING
    """The act of repair."""


@dataclass(frozen=True)
class Verdict:
    """What the readings come to. `sound` is the probability that nothing is wrong; suspects are likeliest first;
    `settled` when no reading would tell more."""

    sound: float
    suspects: tuple[Suspect, ...]
    settled: bool
    odd: tuple[int, ...]
    unknown: float = 0.0
    """The probability that it is none of the kinds known here."""
    isolated: tuple[str, ...] = ()
    """Where the readings that call for an explanation lie, the narrowest first, with what was read."""

    @property
    def ok(self) -> bool:
        """Whether no fault is likelier than none."""
        return self.sound > 0.5

    def group(self, number: int) -> list[Suspect]:
        """Suspects of one group."""
        return [one for one in self.suspects if one.group == number]

    @property
    def unexplained(self) -> bool:
        """Whether it is worth saying that none of the kinds known here may be at work."""
        return self.unknown > UNKNOWN_TOLD

    @property
    def causes(self) -> list[Cause]:
        """What may be wrong, the likeliest first, each with its own share: what reads alike isn't added up under one
        name."""
        same: dict[tuple[str, str, int, str], list[Suspect]] = {}
        for one in self.suspects:
            through = "" if one.anywhere else one.fault.key[2]  # ends are one; a dead short and a resistance aren't
            same.setdefault((one.fault.what, one.fault.place, one.group, through), []).append(one)
        found = []
        for mates in same.values():
            first = mates[0]
            words = (
                first.words
                if len(mates) == 1
                else Message.of(
                    "fault.anywhere", words=first.anywhere, places=say("fault.or-at").join(mate.at for mate in mates)
                )
            )
            share = min(sum(mate.probability for mate in mates), 1.0)
            found.append(
                Cause(
                    first.fault,
                    share,
                    first.group,
                    words,
                    tuple(m.fault.end for m in mates if m.fault.end),
                    joined("fault.or-mend", list({m.mend.key: m.mend for m in mates}.values())),
                )
            )
        return sorted(found, key=lambda cause: -cause.probability)

    @property
    def alike(self) -> list[list[Cause]]:
        """Causes that no further reading at the ends parts, the likeliest first, group by group; those of their own
        stand alone."""
        groups: dict[int, list[Cause]] = {}
        for cause in self.causes:
            groups.setdefault(cause.group, []).append(cause)
        return list(groups.values())
