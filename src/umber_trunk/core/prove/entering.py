"""A plan to tell cores apart, gone through step by step: what was found is entered as text, contradictions are refused,
names come out."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from umber_trunk.core.errors import quoted
from umber_trunk.core.measures import RESISTANCE
from umber_trunk.core.prove.core_scheme import ContradictionError, Pair, Scheme
from umber_trunk.core.prove.identify import Alone, called, calls_for, from_calls, near_pairs
from umber_trunk.core.prove.tags import base_of, from_joint, from_tags
from umber_trunk.core.quantity import read
from umber_trunk.core.sentences import NOTHING, Message
from umber_trunk.core.units import counted


@dataclass(frozen=True)
class CoresSeen:
    """How far it is known which core is which, to be drawn: `near` and `far` cores that are joined now, `may`: near
    core → the far ones it may still be, `names`: near core → the far one it is."""

    cores: int
    near: tuple[Pair, ...] = ()
    far: tuple[Pair, ...] = ()
    may: Mapping[int, frozenset[int]] = field(default_factory=dict)
    names: Mapping[int, int] = field(default_factory=dict)


class Entering:
    """`question` is what is wanted now, None at the end, when `names` gives near core → far core. It keeps to the plan
    it was given: its return, its check, its resistors."""

    def __init__(self, plan: Scheme) -> None:
        self.plan = plan
        self.names: Mapping[int, int] = {1: 1} if plan.cores == 1 else {}
        self._alone = Alone(plan.cores)
        self._pairs: list[Pair] = []
        self._led: list[set[int]] = []
        self._base = 0
        self._stage = 0
        self._joined: tuple[Pair, ...] = ()

    @property
    def seen(self) -> CoresSeen:
        """What is joined and what is known now."""
        cores = self.plan.cores
        if self.names:
            return CoresSeen(cores, names=dict(self.names))
        if self.plan.way == "alone" and not self.plan.why:
            return CoresSeen(cores, tuple(near_pairs(cores)) if self._stage == 0 else (), self._joined)
        if self.plan.way != "partner":
            return CoresSeen(cores)
        all_ = frozenset(self._named)
        far = ((1, len(self._pairs) + 2),) if not self.plan.common and len(self._pairs) < 2 else ()
        may = {}
        for core in range(1, cores + 1):
            left = all_
            for call, led in enumerate(self._led):
                made = frozenset(called(self._named, call))
                left &= made if core in led else all_ - made
            may[core] = left
        if self._return:
            may[self._return] = frozenset({1})
        names = {core: next(iter(left)) for core, left in may.items() if len(left) == 1}
        return CoresSeen(cores, (), far, may if self._led else {}, names if self._led else {})

    @property
    def _named(self) -> list[int]:
        """The far cores that calls tell apart: all, or all but the one that became the return."""
        return list(range(1 if self.plan.common else 2, self.plan.cores + 1))

    @property
    def _return(self) -> int:
        """The near core found to be far core 1, 0 while it isn't known or isn't needed."""
        if self.plan.common or len(self._pairs) < 2:
            return 0
        return (set(self._pairs[0]) & set(self._pairs[1])).pop()

    @property
    def question(self) -> Message | None:
        """What to enter now; where something is to be done first, its last line."""
        if self.names or self.plan.why:
            return None
        if self.plan.way == "alone":
            if self._stage == 0:
                return Message.of("cores.ask.pairs-far", first=self.plan.steps[0].do)
            return Message.of("cores.ask.pairs-near")
        if self.plan.way == "partner":
            return self._call_question()
        if not self.plan.common and self.plan.cores == 2:
            return Message.of("cores.ask.diode")
        if self.plan.common:
            return Message.of("cores.ask.to-return")
        base = self._base or 1
        return Message.of("cores.ask.to-others", base=base, other=2 if base == 1 else 1)

    def _call_question(self) -> Message:
        if not self.plan.common and len(self._pairs) < 2:
            return Message.of("cores.ask.return", other=len(self._pairs) + 2)
        call = len(self._led)
        made = ", ".join(map(str, called(self._named, call)))
        return Message.of("cores.ask.call", call=call + 1, cores=made, near=self._return)

    def enter(self, text: str) -> Message:
        """What was found. ContradictionError for what can't be true or read; it is asked again then."""
        if self.plan.way == "alone":
            return self._enter_alone(text)
        if self.plan.way == "partner":
            return self._enter_pair(text) if not self.plan.common and len(self._pairs) < 2 else self._enter_call(text)
        return self._enter_tags(text)

    def _enter_alone(self, text: str) -> Message:
        pairs = pairs_in(text)
        if self._stage == 0:
            joins = self._alone.far(pairs)
            self._stage = 1
            self._joined = tuple(joins)
            taken = {core for pair in joins for core in pair}
            free = ", ".join(str(core) for core in self._alone.chain if core not in taken)
            return Message.of("cores.said.joins", pairs=", ".join(f"{one}-{two}" for one, two in joins), free=free)
        self.names = self._alone.near(pairs)
        return NOTHING

    def _enter_pair(self, text: str) -> Message:
        found = pairs_in(text)
        if len(found) != 1 or not all(1 <= core <= self.plan.cores for core in found[0]) or found[0][0] == found[0][1]:
            raise ContradictionError.of("prove.one-pair-leads-while-two-cores", cores=self.plan.cores)
        if self._pairs and len(set(self._pairs[0]) & set(found[0])) != 1:
            self._pairs = []
            raise ContradictionError.of("prove.core-is-in-both-pairs")
        self._pairs.append(found[0])
        return Message.of("cores.said.return", core=self._return) if self._return else NOTHING

    def _enter_call(self, text: str) -> Message:
        near = [core for core in range(1, self.plan.cores + 1) if core != self._return]
        words = text.replace(",", " ").split()
        led = {counted(word, self.plan.cores) for word in words}
        if None in led or not led <= set(near):
            raise ContradictionError.of(
                "prove.enter-numbers-of-cores-that-lead", near=", ".join(map(str, near[:12])), more=len(near) > 12
            )
        expect = len(called(self._named, len(self._led)))
        if len(led) != expect:
            raise ContradictionError.of("prove.other-number-of-cores-leads", count=len(led), expect=expect)
        self._led.append({core for core in led if core is not None})
        if len(self._led) < calls_for(len(self._named)) + self.plan.check:
            return NOTHING
        try:
            found = from_calls(near, self._named, self._led)
        except ContradictionError:
            self._led = []
            raise
        self.names = ({self._return: 1} if self._return else {}) | found
        return self.plan.told

    def _enter_tags(self, text: str) -> Message:
        if not self.plan.common and self.plan.cores == 2:
            core = counted(text.strip(), 2)
            if core is None:
                raise ContradictionError.of("prove.which-near-core")
            self.names = {core: 1, 3 - core: 2}
            return NOTHING
        rows = self._readings(text)
        if self.plan.common:
            self.names = from_tags(self.plan.tags_ohm, rows)
        elif not self._base:
            self._base = base_of(rows)
            return Message.of("cores.said.base", core=self._base)
        else:
            self.names = from_joint(self.plan.tags_ohm, self._base, rows)
        return NOTHING

    def _readings(self, text: str) -> dict[int, float]:
        rows: dict[int, float] = {}
        for word in text.split():
            said, mark, ohm = word.partition("=")
            core = counted(said, self.plan.cores) if mark else None
            if core is None or core in rows:
                raise ContradictionError.of("prove.not-a-reading", word=quoted(word))
            rows[core] = read(ohm, RESISTANCE, "ohm").value
        from_core = 0 if self.plan.common else self._base or 1
        left = [core for core in range(1, self.plan.cores + 1) if core not in rows and core != from_core]
        if left or from_core in rows:
            raise (
                ContradictionError.of("prove.core-is-one-that-is-read", from_core=from_core)
                if from_core in rows
                else ContradictionError.of("prove.cores-are-read", count=len(rows), left=", ".join(map(str, left[:12])))
            )
        return rows


def pairs_in(text: str) -> list[Pair]:
    """Pairs from "1-4 2-3" or "1-4, 2-3". ContradictionError for anything else."""
    found = []
    for word in text.replace(",", " ").split():
        match = re.fullmatch(r"(\d{1,4})[-–](\d{1,4})", word)
        if match is None:
            raise ContradictionError.of("prove.not-a-pair", word=quoted(word))
        found.append((int(match[1]), int(match[2])))
    return found
