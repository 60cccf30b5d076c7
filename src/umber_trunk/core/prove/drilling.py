"""A drill as a talk: lines in, lines out; the shell and the desk use the same."""

from __future__ import annotations

import math

from umber_trunk.core.errors import InputError
from umber_trunk.core.prove.drills import FaceDrill, FaultDrill, Score, ThreadDrill
from umber_trunk.core.prove.faults import WORDS
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point, netlist
from umber_trunk.core.prove.priors import priors
from umber_trunk.core.results import Results
from umber_trunk.core.units import counted, show_ohms


class Drilling:
    """One drill. `opening` sets it, `enter` takes a line and gives (what to say, whether it is over); `right` how it ended."""

    def __init__(self, results: Results, drill: str, seed: int) -> None:
        self.drill, self.right = drill, False
        self.net: Netlist = results.once(netlist)
        self.fault = FaultDrill(self.net, seed, results.once(priors)) if drill == "fault" else None
        self.face = FaceDrill(results, seed) if drill == "face" else None
        self.thread = ThreadDrill(results, seed) if drill == "thread" else None

    @property
    def opening(self) -> str:
        """What the learner is told first."""
        if self.fault is not None:
            rows = ["A unit failed its list. Find the fault with as few readings as can be."]
            for one in self.fault.symptoms:
                read_, wanted = _told(one.ohm), _told(one.expect)
                a, b = self.net.said(one.probe.a[0]), self.net.said(one.probe.b[0])
                rows.append(
                    f"  {a}{' and others' if len(one.probe.a) > 1 else ''} to {b}{' and others' if len(one.probe.b) > 1 else ''}: {read_}, expected {wanted}"
                )
            rows.append("probe END:CAVITY END:CAVITY   reads;   say KIND WIRE[,WIRE]   answers: " + ", ".join(WORDS))
            return "\n".join(rows)
        if self.face is not None:
            spots = ", ".join(spot.label for spot in self.face.face.spots)
            return f"{self.face.question}\nCavities: {spots}"
        assert self.thread is not None
        rows = [f"{self.net.index.ends[self.thread.end].name}: in which order? Answer with the numbers."]
        return "\n".join([*rows, *(f"  {n}. {step.text}" for n, step in enumerate(self.thread.steps, 1))])

    def enter(self, line: str) -> tuple[str, bool]:
        """A line of the learner's. InputError where it isn't understood."""
        words = line.split()
        if not words:
            raise InputError("Nothing was said.")
        if self.fault is not None:
            return self._enter_fault(words)
        if self.face is not None:
            return self._over(self.face.answer(words[0]))
        assert self.thread is not None
        steps = self.thread.steps
        numbers = [number for word in words if (number := counted(word, len(steps))) is not None]
        if len(numbers) != len(words):
            raise InputError(f"Answer with the numbers from 1 to {len(steps)} in order.")
        return self._over(self.thread.answer([steps[number - 1].id for number in numbers]))

    def _enter_fault(self, words: list[str]) -> tuple[str, bool]:
        assert self.fault is not None
        if words[0] == "probe" and len(words) == 3:
            one = self.fault.probe(self.place(words[1]), self.place(words[2]))
            return f"{_told(one.ohm)}; a sound unit: {_told(one.expect)}", False
        if words[0] == "say" and len(words) == 3 and words[1] in WORDS:
            return self._over(self.fault.name(words[1], words[2].split(",")))
        raise InputError("probe END:CAVITY END:CAVITY, or say KIND WIRE[,WIRE].")

    def place(self, text: str) -> Point:
        """A place from END:CAVITY or earth."""
        if text == "earth":
            return EARTH
        end, _, cavity = text.rpartition(":")
        if (end, cavity) not in self.net.node_of:
            raise InputError(
                f"There is no place {text[:60]}; places are END:CAVITY, such as {self.net.said(self.net.points[0])}."
            )
        return end, cavity

    def _over(self, score: Score) -> tuple[str, bool]:
        self.right = score.right
        mark = "✓ Right." if score.right else "✕ Not so."
        return f"{mark} {score.told}", True


def _told(ohm: float | None) -> str:
    return "nothing" if ohm is None or math.isinf(ohm) else show_ohms(ohm)
