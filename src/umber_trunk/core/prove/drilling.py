"""A drill as a talk: lines in, lines out; the shell and the desk use the same."""

from __future__ import annotations

import math

from umber_trunk.core.errors import InputError
from umber_trunk.core.prove.drills import GIVEN, FaceDrill, FaultDrill, PoweredDrill, Score, ThreadDrill
from umber_trunk.core.prove.faults import WORDS, words_of
from umber_trunk.core.prove.millivolts import millivolt_words
from umber_trunk.core.prove.netlist import EARTH, Netlist, Point, netlist
from umber_trunk.core.prove.powered import cautions
from umber_trunk.core.prove.priors import priors
from umber_trunk.core.prove.probe import Probe
from umber_trunk.core.results import Results
from umber_trunk.core.sentences import say
from umber_trunk.core.units import counted, show_ohms

GIVEN_UP = ("show", "show me", "give up")


class Drilling:
    """One drill. `opening` sets it, `enter` takes a line and gives (what to say, whether it is over); `right` how it
    ended."""

    def __init__(self, results: Results, drill: str, seed: int) -> None:
        self.drill, self.right = drill, False
        self.net: Netlist = results.once(netlist)
        self.fault = FaultDrill(self.net, seed, results.once(priors), drill) if drill in GIVEN else None
        self.powered = PoweredDrill(results, seed) if drill == "powered" else None
        self.face = FaceDrill(results, seed) if drill == "face" else None
        self.thread = ThreadDrill(results, seed) if drill == "thread" else None

    @property
    def ends(self) -> tuple[list[str], tuple[str, str] | None]:
        """(ends at which a tip can be set, the two that the first symptom is between); none where nothing is probed."""
        if self.powered is not None:
            search = self.powered.search
            return list(dict.fromkeys(place[0] for place in search.pins)), (
                search.load.plus.end,
                list(search.pins)[-1][0],
            )
        if self.fault is None:
            return [], None
        ends = list(dict.fromkeys(point[0] for point in self.net.points))
        single = next((one.probe for one in self.fault.symptoms if one.probe.single and not one.probe.part), None)
        return ends, (single.a[0][0], single.b[0][0]) if single is not None and EARTH not in (
            single.a[0],
            single.b[0],
        ) else None

    @property
    def parts(self) -> list[tuple[str, str]]:
        """(words, line) of millivolts that can be read, of the drill that needs them."""
        probes = self.fault.parts if self.fault is not None else []
        return [(str(millivolt_words(self.net, probe)[0]), f"across {probe.wire} {probe.part}") for probe in probes]

    @property
    def answers(self) -> list[tuple[str, str]]:
        """(words, line) of what can be said it is, where the lines are few enough to choose from."""
        if self.powered is not None:
            return [(str(one.words), f"say {one.kind} {one.where}") for one in self.powered.search.named()]
        if self.fault is None:
            return []
        wires = dict.fromkeys(wire for one in self.fault.symptoms for wire in self._near(one.probe))
        ends = self.net.index.ends
        if self.drill == "lug":
            joints = [
                (wire, place[0])
                for wire in wires
                for place in self.net.places(wire)
                if self.net.screwed(wire, place[0])
            ]
            return [
                (f"{wire} at {ends[end].name}: {words}", f"say {what} {wire}@{end}")
                for wire, end in joints
                for what, words in (("high", "the crimp"), ("stud", "the nut"))
            ]
        if self.drill == "loose":
            return [
                (f"{ends[end].name} isn’t home", f"say loose {end}")
                for end in dict.fromkeys(place[0] for wire in wires for place in self.net.places(wire))
            ] + [(f"{wire} is open", f"say open {wire}") for wire in wires]
        rows = [
            (f"{wire} {words}", f"say {what} {wire}")
            for wire in wires
            for what, words in (("open", "is open"), ("high", "has a bad joint"))
        ]
        pairs = [(a, b) for n, a in enumerate(list(wires)[:12]) for b in list(wires)[n + 1 : 12]]
        return rows + [
            (f"{a} and {b} {words}", f"say {what} {a},{b}")
            for what, words in (("swap", "are changed over"), ("short", "touch"))
            for a, b in pairs
        ]

    def _near(self, probe: Probe) -> list[str]:
        """The wires at a reading's places; of one between many points those at its first."""
        places = {*probe.a[:6], *probe.b[:6]}
        return [wire for wire in self.net.facts if places & set(self.net.places(wire))]

    @property
    def last(self) -> tuple[float, float, str] | None:
        """(what was read last, what a sound one reads, both in words), None before the first."""
        if self.powered is not None:
            if not (taken := self.powered.search.readings):
                return None
            a, b, volts = taken[-1]
            sound = self.powered.search.expected(a, b)
            return volts, sound, f"{volts:.2f} V; sound: {sound:.2f} V"
        if self.fault is None or not self.fault.taken:
            return None
        one = self.fault.taken[-1]
        sound = math.inf if one.expect is None else one.expect
        if one.probe.part:
            return (
                one.ohm,
                sound,
                f"{_millivolts(one.ohm, one.probe.amps)}; sound: {_millivolts(sound, one.probe.amps)}",
            )
        return one.ohm, sound, f"{_told(one.ohm)}; sound: {_told(one.expect)}"

    @property
    def opening(self) -> str:
        """What the learner is told first."""
        if self.fault is not None:
            rows = ["A unit failed its list. Find the fault with as few readings as can be."]
            for one in self.fault.symptoms:
                read_, wanted = _told(one.ohm), _told(one.expect)
                a, b = self.net.said(one.probe.a[0]), self.net.said(one.probe.b[0])
                rows.append(
                    f"  {a}{' and others' if len(one.probe.a) > 1 else ''} to "
                    f"{b}{' and others' if len(one.probe.b) > 1 else ''}: {read_}, expected {wanted}"
                )
            if self.drill == "lug":
                rows.append(
                    "across WIRE PART (stud@END, crimp@END, along)   reads millivolts, a current flows;   say high "
                    "WIRE@END for a bad crimp, say stud WIRE@END for a nut."
                )
            else:
                rows.append(
                    "probe END:CAVITY END:CAVITY   reads;   say KIND WIRE[,WIRE]   answers (END for a plug): "
                    + ", ".join(WORDS)
                )
            return "\n".join(rows)
        if self.powered is not None:
            search = self.powered.search
            return "\n".join(
                [
                    say("drill.doesnt-work", load=search.load.name, caution=cautions()[0]),
                    say("drill.volts-help", answers=", ".join(f"{row.kind} {row.where}" for row in search.named())),
                    say("drill.places", places=", ".join(self.net.said(place) for place in search.pins)),
                ]
            )
        if self.face is not None:
            spots = ", ".join(spot.label for spot in self.face.face.spots)
            return f"{self.face.question}\n" + say("drill.cavities", spots=spots)
        assert self.thread is not None
        rows = [say("drill.in-which-order", end=self.net.index.ends[self.thread.end].name)]
        return "\n".join([*rows, *(f"  {n}. {step.text}" for n, step in enumerate(self.thread.steps, 1))])

    def enter(self, line: str) -> tuple[str, bool]:
        """A line of the learner's. InputError where it isn't understood."""
        words = line.split()
        if not words:
            raise InputError.of("prove.nothing-was-said")
        if line.strip().lower() in GIVEN_UP:
            return self.given_up(), True
        if self.fault is not None:
            return self._enter_fault(words)
        if self.powered is not None:
            return self._enter_powered(words)
        if self.face is not None:
            return self._over(self.face.answer(words[0]))
        assert self.thread is not None
        steps = self.thread.steps
        numbers = [number for word in words if (number := counted(word, len(steps))) is not None]
        if len(numbers) != len(words):
            raise InputError.of("prove.answer-with-numbers", count=len(steps))
        return self._over(self.thread.answer([steps[number - 1].id for number in numbers]))

    def given_up(self) -> str:
        """How it is found, reading by reading, and what it was; it counts as not found."""
        rows = [say("drill.given-up")]
        if self.fault is not None:
            for one in self.fault.shown():
                a, b = self.net.said(one.probe.a[0]), self.net.said(one.probe.b[0])
                rows.append("  " + say("drill.shown", a=a, b=b, read=_told(one.ohm), sound=_told(one.expect)))
            if not self.fault.shown():
                rows.append("  " + say("drill.by-millivolts" if self.drill == "lug" else "drill.by-list-alone"))
            rows.append(say("drill.it-was", what=words_of(self.net, self.fault.fault)))
        elif self.powered is not None:
            rows += [
                "  " + say("drill.volts-shown", a=self.net.said(a), b=self.net.said(b), read=read, sound=sound)
                for a, b, read, sound in self.powered.shown()
            ]
            rows.append(say("drill.it-was", what=str(self.powered.truth.words)) + f" {self.powered.truth.mend:begins}.")
        elif self.face is not None:
            rows = [say("drill.given-up-face", wire=self.face.wire, label=self.face.label, face=self.face.face.words)]
        else:
            assert self.thread is not None
            rows += [f"  {n}. {text}" for n, text in enumerate(self.thread.shown(), 1)]
        return "\n".join(rows)

    def _enter_fault(self, words: list[str]) -> tuple[str, bool]:
        assert self.fault is not None
        if words[0] == "probe" and len(words) == 3:
            one = self.fault.probe(self.place(words[1]), self.place(words[2]))
            return say("drill.read", read=_told(one.ohm), sound=_told(one.expect)), False
        if words[0] == "across" and len(words) == 3:
            one = self.fault.across(words[1], words[2])
            read, sound = (_millivolts(ohm, one.probe.amps) for ohm in (one.ohm, one.expect))
            return say("drill.across", read=read, amps=one.probe.amps, sound=sound), False
        if words[0] == "say" and len(words) == 3 and words[1] in WORDS:
            return self._over(self.fault.name(words[1], words[2].split(",")))
        raise InputError.of("prove.probe-usage")

    def _enter_powered(self, words: list[str]) -> tuple[str, bool]:
        assert self.powered is not None
        if words[0] == "volts" and len(words) == 3:
            read, sound = self.powered.volts(*(self._plain(word) for word in words[1:]))
            return say("drill.volts-read", read=read, sound=sound), False
        if words[0] == "say" and len(words) >= 3:
            return self._over(self.powered.name(words[1], " ".join(words[2:])))
        raise InputError.of("prove.volts-usage")

    def _plain(self, text: str) -> Point:
        end, _, cavity = text.rpartition(":")
        return end, cavity

    def place(self, text: str) -> Point:
        """A place from END:CAVITY or earth."""
        if text == "earth":
            return EARTH
        end, _, cavity = text.rpartition(":")
        if (end, cavity) not in self.net.node_of:
            raise InputError.of(
                "prove.no-place-places-are-end", text=text[:60], points=self.net.said(self.net.points[0])
            )
        return end, cavity

    def _over(self, score: Score) -> tuple[str, bool]:
        self.right = score.right
        mark = "✓ Right." if score.right else "✕ Not so."
        return f"{mark} {score.told}", True


def _told(ohm: float | None) -> str:
    return say("drill.nothing") if ohm is None or math.isinf(ohm) else show_ohms(ohm)


def _millivolts(ohm: float | None, amps: float) -> str:
    return say("drill.nothing") if ohm is None or math.isinf(ohm) else f"{1e3 * ohm * amps:.2f} mV"
