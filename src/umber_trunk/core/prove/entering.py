"""A plan to tell cores apart, gone through step by step: what was found is entered as text, contradictions are refused, names come out."""

from __future__ import annotations

import re
from collections.abc import Mapping

from umber_trunk.core.errors import quoted
from umber_trunk.core.prove.identify import (
    Alone,
    ContradictionError,
    Pair,
    Scheme,
    called,
    from_calls,
    from_tags,
)
from umber_trunk.core.quantity import RESISTANCE, read
from umber_trunk.core.units import counted


class Entering:
    """`question` is what is wanted now, None at the end, when `names` gives near core → far core."""

    def __init__(self, plan: Scheme) -> None:
        self.plan = plan
        self.names: Mapping[int, int] = {1: 1} if plan.cores == 1 else {}
        self._alone = Alone(plan.cores)
        self._led: list[list[bool]] = []
        self._stage = 0

    @property
    def question(self) -> str | None:
        """What to enter now."""
        if self.names or self.plan.why:
            return None
        if self.plan.way == "alone":
            first = self.plan.steps[0].do + " Walk over.\n" if self._stage == 0 else ""
            where = "far" if self._stage == 0 else "near"
            return f"{first}Which cores lead to one another at the {where} end? Pairs such as 1-4 2-3:"
        if self.plan.way == "partner":
            call = len(self._led)
            return f"Call {call + 1}: the partner makes {', '.join(map(str, called(self.plan.cores, call)))} to the return. Which cores lead here?"
        return "Each core's reading to the return, such as 1=220 2=104.7:"

    def enter(self, text: str) -> str:
        """What was found. ContradictionError for what can't be true or read; it is asked again then."""
        if self.plan.way == "alone":
            return self._enter_alone(text)
        if self.plan.way == "partner":
            return self._enter_call(text)
        rows = {}
        for word in text.split():
            said, mark, ohm = word.partition("=")
            core = counted(said, self.plan.cores) if mark else None
            if core is None or core in rows:
                raise ContradictionError(f"{quoted(word)} is no reading such as 3=220.")
            rows[core] = read(ohm, RESISTANCE, "ohm").value
        self.names = from_tags(self.plan.cores, rows)
        return ""

    def _enter_alone(self, text: str) -> str:
        pairs = pairs_in(text)
        if self._stage == 0:
            joins = self._alone.far(pairs)
            self._stage = 1
            chain = self._alone.chain
            return f"Join {', '.join(f'{one} to {two}' for one, two in joins)}; leave {', '.join(str(c) for c in chain if c not in {x for p in joins for x in p}) or 'none'} free. Walk back, open the first joins."
        self.names = self._alone.near(pairs)
        return ""

    def _enter_call(self, text: str) -> str:
        words = text.replace(",", " ").split()
        led = {counted(word, self.plan.cores) for word in words}
        if None in led:
            raise ContradictionError(f"Enter the numbers of the cores that lead, from 1 to {self.plan.cores}.")
        expect = len(called(self.plan.cores, len(self._led)))
        if len(led) != expect:
            raise ContradictionError(
                f"{len(led)} cores lead, {expect} were made: one is broken, two touch, or a core was missed."
            )
        self._led.append([core in led for core in range(1, self.plan.cores + 1)])
        if len(self._led) == self.plan.cores.bit_length():
            try:
                self.names = from_calls(self.plan.cores, self._led)
            except ContradictionError:
                self._led = []
                raise
        return ""


def pairs_in(text: str) -> list[Pair]:
    """Pairs from "1-4 2-3" or "1-4, 2-3". ContradictionError for anything else."""
    found = []
    for word in text.replace(",", " ").split():
        match = re.fullmatch(r"(\d{1,4})[-–](\d{1,4})", word)
        if match is None:
            raise ContradictionError(f"{quoted(word)} is no pair such as 1-4.")
        found.append((int(match[1]), int(match[2])))
    return found
