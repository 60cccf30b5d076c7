"""A long trial of the judge on units it knows nothing of: `./umber trial`. Faults as often as they are met, sound
units, and how far what is stated holds.

The units are `workshop`'s: another author's physics. Prints what it measured; a short form is in the test run.
"""

from __future__ import annotations

import argparse
import math
import random
import time
from collections import Counter, defaultdict
from dataclasses import dataclass, field

from attack.workshop import Bench, Made, Workshop
from core.prove.prove_kit import Subject, subject
from umber_trunk.core.lengths.wire_lengths import wire_lengths
from umber_trunk.core.prove.fault import Fault
from umber_trunk.core.prove.faults import word_of
from umber_trunk.core.prove.priors import SHARES

OUTSIDE = 0.02
"""How many faults are none of the kinds the judge knows: bent pins."""
NUTS = 0.15
"""Of the bad joints of the draw, how many are nuts and screws; those that hit no such place are drawn again."""


@dataclass
class Outcome:
    """Counts by kind: n, untellable (no reading of the list leaves its band, noise aside), passed though tellable,
    first, group; what was stated and whether it held; what was missed."""

    kinds: dict[str, Counter[str]] = field(default_factory=lambda: defaultdict(Counter))
    stated: list[tuple[float, bool]] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    readings: int = 0

    def all(self, what: str) -> int:
        """A count over all kinds the judge knows."""
        return sum(count[what] for kind, count in self.kinds.items() if kind != "bent")


def workshop_of(one: Subject) -> Workshop:
    """The workshop that makes units of a harness: it is told what is planned."""
    plant = one.results.figures.solution.plant
    lengths = {wire: found.finished_m for wire, found in one.results.once(wire_lengths).items()}
    joints = {
        wire.id: (float(plant.end_ohm[row, 0]), float(plant.end_ohm[row, 1])) for row, wire in enumerate(plant.wires)
    }
    screws = {(wire, end) for end, wires in one.net.arriving.items() for wire in wires if one.net.screwed(wire, end)}
    return Workshop(one.results, lengths, joints, screws)


def spoilt(shop: Workshop, draw: random.Random) -> tuple[Made, str]:
    """A unit with one fault, as often as each kind is met."""
    kinds = {kind: share for kind, share in SHARES.items() if kind != "shield"} | {"bent": OUTSIDE}
    while True:
        made = shop.sound(draw)
        kind = draw.choices(list(kinds), list(kinds.values()))[0]
        if kind == "high" and draw.random() < NUTS:
            kind = "stud"
        if shop.spoil(made, kind, draw):
            return made, kind


def tellable(one: Subject, shop: Workshop, made: Made) -> bool:
    """Whether a reading of the list leaves its band by a quarter, the meter's errors aside."""
    bench = Bench(shop, made, random.Random(1), 1e-9)
    for test in one.plan.tests:
        if test.probe is None:
            continue
        value = test.value_of(bench.measure(test.probe))
        slack = (test.high - test.expect) / 4 if test.high is not None and test.expect is not None else 0.0
        if (test.low is not None and value < test.low - slack) or (test.high is not None and value > test.high + slack):
            return True
    return False


def is_right(named: Fault, truth: tuple[str, frozenset[str], str]) -> bool:
    """Whether a fault named is the one that is there."""
    what, where, end = truth
    return named.what == what and frozenset(named.where) == where and (not end or named.end == end)


def hidden(one: Subject, cases: int, seed: int, found: Outcome) -> None:
    """Units with one hidden fault each, proven to the end."""
    shop = workshop_of(one)
    for number in range(cases):
        draw = random.Random(f"{one.results.design.project.name} {seed} {number}")
        made, kind = spoilt(shop, draw)
        verdict = (prover := one.prover()).run(Bench(shop, made, draw).measure)
        count = found.kinds[kind]
        count["n"] += 1
        found.readings += len(prover.taken)
        if verdict.ok and prover.all_right:
            told = (
                tellable(one, shop, made)
                if kind != "flicker"
                else any(test.kind == "shake" and made.truth[0][1] <= set(test.wires) for test in one.plan.tests)
            )
            count["passed" if told else "untellable"] += 1
            if told:
                found.missed.append(f"{kind} {made.truth} passed")
            continue
        group = [suspect.fault for suspect in verdict.suspects if suspect.group == verdict.suspects[0].group]
        right = any(is_right(fault, truth) for fault in group for truth in made.truth) or (
            kind == "bent" and verdict.unknown > 0.5
        )
        count["group"] += right
        count["first"] += bool(group) and any(is_right(group[0], truth) for truth in made.truth)
        if not right:
            found.missed.append(
                f"{kind} {made.truth}: "
                f"{[(word_of(one.fault), round(one.probability, 2)) for one in verdict.causes[:2]]}, none "
                f"of these {verdict.unknown:.2f}"
            )
        if kind != "bent":
            found.stated += [
                (s.probability, any(is_right(s.fault, truth) for truth in made.truth)) for s in verdict.suspects
            ]


def alarms(one: Subject, units: int, noise: float) -> int:
    """Sound units that are accused of anything."""
    shop, many = workshop_of(one), 0
    for number in range(units):
        draw = random.Random(f"sound {one.results.design.project.name} {number}")
        verdict = (prover := one.prover()).run(Bench(shop, shop.sound(draw, noise), draw, noise).measure)
        many += not verdict.ok or not prover.all_right
    return many


def tenths(stated: list[tuple[float, bool]], least: int) -> list[tuple[float, float, int]]:
    """(mean stated, share right, count) by tenths; a tenth with fewer than `least` is pooled with the next."""
    rows, pool = [], list[tuple[float, bool]]()
    for tenth in range(10):
        pool += [pair for pair in stated if tenth <= 10 * pair[0] < tenth + 1 + (tenth == 9)]
        if len(pool) >= least or (tenth == 9 and pool):
            rows.append(
                (sum(share for share, _ in pool) / len(pool), sum(right for _, right in pool) / len(pool), len(pool))
            )
            pool = []
    return rows


def main() -> None:
    """All of it, or what is asked for."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=1000, help="units with a fault, of each harness")
    parser.add_argument(
        "--sound", type=int, default=1000, help="sound units of each harness, at the stated noise and at a tenth of it"
    )
    parser.add_argument("--harness", action="append", default=[])
    parser.add_argument("--seed", type=int, default=101)
    args = parser.parse_args()
    began, found = time.monotonic(), Outcome()
    names = args.harness or ["shore", "tractor", "computer"]
    for name in names:
        hidden(subject(name), args.cases, args.seed, found)
    for kind, count in sorted(found.kinds.items(), key=lambda row: -row[1]["n"]):
        print(f"{kind:8} {dict(count)}", flush=True)
    told = found.all("n") - found.all("untellable")
    print(
        f"{found.all('n')} faults of known kinds, {found.all('untellable')} untellable by the list, "
        f"{found.all('passed')} tellable passed"
    )
    print(
        f"of {told} tellable: right among those alike {found.all('group') / max(told, 1):.1%}, itself first "
        f"{found.all('first') / max(told, 1):.1%}; {found.readings / max(found.all('n'), 1):.1f} readings"
    )
    for mean, right, count in tenths(found.stated, 400):
        off = math.sqrt(max(right * (1 - right), 1e-9) / count)
        print(f"stated {mean:.1%}, right {right:.1%} ± {off:.1%} of {count}")
    for noise in (1.0, 0.1):
        rows = {name: alarms(subject(name), args.sound, noise) for name in names}
        print(
            f"sound units accused at {noise:g} of the noise: {sum(rows.values())} of {args.sound * len(names)} {rows}",
            flush=True,
        )
    print(*found.missed[:30], sep="\n    ")
    print(f"{time.monotonic() - began:.0f} s")


if __name__ == "__main__":
    main()
