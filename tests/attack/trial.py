"""A long trial of the judge: every kind of fault on all demos and on generated harnesses, calibration, false alarms. `./umber trial`.

Prints what it measured; it isn't part of the test run.
"""

from __future__ import annotations

import argparse
import time

from core.prove.prove_kit import Tally, subject, trial
from umber_trunk.core.demo import DEMOS
from umber_trunk.core.errors import InputError
from umber_trunk.core.prove.priors import SHARES


def main() -> None:
    """All of it, or what is asked for."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--cases", type=int, default=10, help="of each kind on each demo")
    parser.add_argument("--generated", type=int, default=50, help="generated harnesses")
    parser.add_argument("--double", type=int, default=60, help="units with two faults on each demo")
    parser.add_argument("--sound", type=int, default=100, help="sound units of each demo")
    parser.add_argument("--seed", type=int, default=101)
    args = parser.parse_args()
    began = time.monotonic()
    stated: list[tuple[float, bool]] = []
    for kind in SHARES:
        whole = Tally()
        for name in DEMOS:
            try:
                one = trial(subject(name), args.cases, args.seed, kind)
            except InputError:
                continue
            _add(whole, one)
        print(
            f"{kind:8} {whole.cases:4} cases: right in the first group {whole.in_group / max(whole.cases, 1):.1%}, itself first {whole.first / max(whole.cases, 1):.1%}, {whole.followed / max(whole.cases, 1):.2f} follow-ups",
            *whole.missed[:3],
            sep="\n    ",
            flush=True,
        )
        stated += whole.stated
    mixed = Tally()
    for name in DEMOS:
        _add(mixed, trial(subject(name), 12 * args.cases, args.seed + 1))
    for number in range(args.generated):
        _add(mixed, trial(subject(str(10 + number), number), 4, args.seed + number))
    print(f"as met   {mixed.cases:4} cases: right in the first group {mixed.in_group / mixed.cases:.1%}", *mixed.missed[:8], sep="\n    ", flush=True)
    stated += mixed.stated
    for low, high in ((0.003, 0.1), (0.1, 0.3), (0.3, 0.5), (0.5, 0.7), (0.7, 0.9), (0.9, 0.97), (0.97, 1.01)):
        mine = [(share, right) for share, right in mixed.stated if low <= share < high]
        if mine:
            print(f"stated {sum(s for s, _ in mine) / len(mine):.1%}, right {sum(r for _, r in mine) / len(mine):.1%} of {len(mine)}", flush=True)
    for name in DEMOS:
        two = trial(subject(name), args.double, args.seed, many=2)
        alarms = 0
        for seed in range(args.sound):
            verdict, prover = subject(name).verdict(seed=seed)
            alarms += not verdict.ok or not prover.all_right
        print(
            f"{name:9} two faults: {two.in_group}/{two.cases} both; {alarms} alarms on {args.sound} sound units",
            *two.missed[:3],
            sep="\n    ",
            flush=True,
        )
    print(f"{time.monotonic() - began:.0f} s")


def _add(whole: Tally, one: Tally) -> None:
    for name in ("cases", "first", "in_group", "followed"):
        setattr(whole, name, getattr(whole, name) + getattr(one, name))
    whole.stated += one.stated
    whole.missed += one.missed


if __name__ == "__main__":
    main()
