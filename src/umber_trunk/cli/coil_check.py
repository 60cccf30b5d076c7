"""The command wirecheck: whether a coil is the cable it is sold as."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import analysed
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out, stoppable, worded
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.core.wirecheck.built import Built
    from umber_trunk.core.wirecheck.judge import Judged

COMMANDS = {
    "wirecheck": "whether a coil is the cable it is sold as",
}


def add_wirecheck(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    from umber_trunk.core.wirecheck.told_readings import ASKED

    for name, asked in ASKED.items():
        parser.add_argument(f"--{name.replace('_', '-')}", metavar="READING", default="", help=asked)
    parser.add_argument(
        "--weighed", choices=("bare", "jacketed"), default="", help="whether the mass is of the strands alone"
    )
    parser.add_argument("--decimal", choices=("comma", "point"), default="", help="which mark parts decimals")
    parser.add_argument(
        "--in", type=Path, metavar="FILE", dest="harness", help="what this harness would do built with it"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_wirecheck)


def _wirecheck(args: argparse.Namespace) -> int:
    from umber_trunk.core.wirecheck.built import built_with
    from umber_trunk.core.wirecheck.judge import judge
    from umber_trunk.core.wirecheck.told_readings import ASKED, read_evidence

    evidence = read_evidence({name: getattr(args, name) for name in ASKED}, args.weighed, args.decimal)
    found = judge(evidence)
    built = None
    if args.harness is not None and not found.consistent:
        print("umber: the readings contradict each other: no harness is reckoned with them.", file=sys.stderr)
    elif args.harness is not None:
        results = analysed(args.harness)
        built = stoppable(lambda wanted: built_with(results, evidence, found, wanted))
    short = (
        found.consistent
        and evidence.sold_m is not None
        and found.length_m is not None
        and found.length_m + 2 * (found.length_sd_m or 0) < evidence.sold_m
    )
    if args.json:
        out(_found_row(found, built))
    else:
        _say_found(found, built)
    return SOUND if found.claimed and not short and not (built and built.faults) else FAULTS


def _found_row(found: Judged, built: Built | None) -> dict[str, Any]:
    return {
        "area_mm2": round(found.area_mm2, 4),
        "area_sd_mm2": round(found.area_sd_mm2, 4),
        "low_mm2": round(found.low_mm2, 4),
        "high_mm2": round(found.high_mm2, 4),
        "metals": {metal: round(p, 4) for metal, p in found.metals.items()},
        "families": {name: round(p, 4) for name, p in found.families.items()},
        "consistent": found.consistent,
        "odd": found.odd,
        "as_claimed": found.claimed,
        "least_mm2": found.least_mm2,
        **worded(verdict=found.verdict, next_reading=found.next_reading),
        "gains_bits": {kind: round(bits, 3) for kind, bits in found.gains.items()},
        "length_m": found.length_m,
        "length_sd_m": found.length_sd_m,
        **worded(length=found.length_said),
        "readings": [
            {
                "kind": one.kind,
                "read": one.read,
                "expected": one.expected,
                "sigmas": round(one.sigmas, 2),
                "area_mm2": one.area_mm2,
            }
            for one in found.lines
        ],
        "built": None
        if built is None
        else {
            "wires": list(built.wires),
            "metal": built.metal,
            "area_mm2": built.cautious_mm2,
            "faults": [str(one) for one in built.faults],
            "said": [said_out(one) for one in built.faults],
        },
    }


def _say_found(found: Judged, built: Built | None) -> None:
    """The verdict, then reading by reading what it rests on, then what a harness made of it would come to."""
    print(f"{found.verdict:begins}.")
    if found.consistent:
        print(
            "metal: "
            + ", ".join(
                f"{metal} {100 * p:.0f} %"
                for metal, p in sorted(found.metals.items(), key=lambda row: -row[1])
                if p >= 0.005
            )
        )
    for one in found.lines:
        alone = f", alone it says {one.area_mm2:.2f} mm²" if one.area_mm2 is not None else ""
        print(f"  {one.kind:10} {one.sigmas:+.1f} σ from what that would read{alone}")
    if found.length_said:
        print(f"{found.length_said:begins}.")
    if found.next_reading:
        print(say("coil.tells-most", what=found.next_reading))
    if built is not None:
        print(
            f"{len(built.wires)} wires would be of it, reckoned with {built.cautious_mm2:.2f} mm² of "
            f"{built.metal}: {len(built.faults)} new faults."
        )
        for fault in built.faults:
            print(f"  ✕ {fault}")
