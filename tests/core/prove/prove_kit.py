"""What the tests of Prove share: the demos analysed once, small harnesses, a trial of units with hidden faults."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from functools import cache

from umber_trunk.core.analysis import analyse
from umber_trunk.core.demo import demo
from umber_trunk.core.harness.end import Cavity, End, EndKind
from umber_trunk.core.harness.model import Design, Pin, Point, Segment, Wire
from umber_trunk.core.harness.project import Project
from umber_trunk.core.harness.way import Measure
from umber_trunk.core.prove.checklist import Plan
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import word_of
from umber_trunk.core.prove.meter import Meter
from umber_trunk.core.prove.netlist import Netlist
from umber_trunk.core.prove.plan import make_plan
from umber_trunk.core.prove.priors import Priors
from umber_trunk.core.prove.session import Prover
from umber_trunk.core.prove.simulate import Unit
from umber_trunk.core.prove.verdict import Verdict
from umber_trunk.core.results import Results
from umber_trunk.core.sample import generated


@dataclass(frozen=True)
class Subject:
    """A harness ready to be proven."""

    results: Results
    net: Netlist
    plan: Plan
    priors: Priors

    def prover(self) -> Prover:
        """A fresh proof."""
        return Prover(self.net, plan=self.plan, priors=self.priors)

    def verdict(self, *faults: Fault, seed: int = 1) -> tuple[Verdict, Prover]:
        """What a whole proof of a unit with these faults comes to."""
        prover = self.prover()
        return prover.run(Unit(self.net, faults, seed).measure), prover


@cache
def subject(name: str, seed: int = 7) -> Subject:
    """A demo by its name, or a generated harness by its number of wires."""
    return subject_of(generated(int(name), seed) if name.isdigit() else demo(name))


def subject_of(design: Design) -> Subject:
    """Any design."""
    results = analyse(design)
    net = Netlist(results)
    return Subject(results, net, make_plan(net, Meter()), Priors(net))


def pairs(count: int, length_m: float = 4.0, **more: object) -> Design:
    """So many wires of 1 mm² from one connector to another, pin to pin."""
    ends = tuple(
        End(
            id=name,
            name=name,
            kind=EndKind.CONNECTOR,
            point=f"P{name}",
            cavities=tuple(Cavity(id=str(n)) for n in range(1, count + 1)),
        )
        for name in "AB"
    )
    wires = tuple(
        Wire(
            id=f"W{n}", start=Pin(end="A", cavity=str(n)), finish=Pin(end="B", cavity=str(n)), size="1 mm2", signal=True
        )
        for n in range(1, count + 1)
    )
    way = Segment(id="S1", a="PA", b="PB", measure=Measure(length_m=length_m))
    project = Project(joint_ohm=0.001, entry_m=0.0, strip_m=0.0)
    return Design(
        project=project, points=(Point(id="PA"), Point(id="PB")), segments=(way,), ends=ends, wires=wires
    ).model_copy(update=more)


@dataclass
class Tally:
    """What came of a trial: cases, the right fault first, the right one in the first group, stated probabilities and
    whether they held."""

    cases: int = 0
    first: int = 0
    in_group: int = 0
    stated: list[tuple[float, bool]] = field(default_factory=list)
    followed: int = 0
    missed: list[str] = field(default_factory=list)


def key_of(fault: Fault) -> tuple[str, frozenset[str]]:
    """What a fault is told by: its kind and its wires."""
    return fault.what, frozenset(fault.where)


def shows(one: Subject, fault: Fault) -> bool:
    """Whether a fault changes any reading of the list by more than seven standard deviations: less is beyond any
    meter."""
    state = one.prover().judge.sound
    other = state.derive(fault)
    for test in one.plan.tests:
        if test.probe is None:
            continue
        before, seen = state.see(test.probe).ohm, other.see(test.probe)
        after = seen.ohm
        if seen.vague or (seen.breaks and test.kind == "shake"):
            return True
        if (before > 1e7) != (after > 1e7):
            return True
        if test.kind == "insulation" and after < 5e5:
            return True
        if before < 1e7 and test.expect is not None and test.high is not None:
            sd = (test.high - test.expect) / 4
            if abs(after - before) > 7 * sd:
                return True
    return False


def trial(one: Subject, cases: int, seed: int, kind: str = "", many: int = 1) -> Tally:
    """Units with faults drawn as they are met; those that no reading could show are drawn again."""
    found = Tally()
    for number in range(cases):
        draw = random.Random(1_000_003 * seed + number)
        faults: list[Fault] = []
        while len(faults) < many:
            fault = one.priors.draw(draw, kind)
            if shows(one, fault) and all(set(fault.where).isdisjoint(other.where) for other in faults):
                faults.append(fault)
        verdict, prover = one.verdict(*faults, seed=number + seed)
        found.cases += 1
        found.followed += sum(not taken.test for taken in prover.taken)
        groups: dict[int, list[tuple[str, frozenset[str]]]] = {}
        share: dict[int, float] = {}
        for suspect in verdict.suspects:
            groups.setdefault(suspect.group, []).append(key_of(suspect.fault))
            share[suspect.group] = share.get(suspect.group, 0.0) + suspect.probability
            found.stated.append(
                (
                    suspect.probability,
                    key_of(suspect.fault) in {key_of(fault) for fault in faults} and _end_fits(suspect.fault, faults),
                )
            )
        best = sorted(groups, key=lambda group: -share[group])[:many]
        hits = [any(key_of(fault) in groups[group] for group in best) for fault in faults]
        found.in_group += all(hits)
        found.first += bool(verdict.suspects) and key_of(verdict.suspects[0].fault) in {
            key_of(fault) for fault in faults
        }
        if not all(hits):
            found.missed.append(
                f"{[word_of(fault) for fault in faults]} seed {number}: "
                f"{[word_of(s.fault) for s in verdict.suspects[:3]]}"
            )
    return found


def _end_fits(named: Fault, faults: list[Fault]) -> bool:
    """A high joint or a swap at one of two ends stands for half of its probability: of both halves one is right."""
    return any(
        key_of(named) == key_of(fault) and (named.what not in ("high", "swap") or named.end == fault.end)
        for fault in faults
    )
