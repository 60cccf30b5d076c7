"""Commands that look for something better: optimise, worth."""

from __future__ import annotations

import argparse
import ctypes
import math
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TextIO

from umber_trunk.cli.reading import analysed, opened, read_design, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND, Progress, out, stoppable
from umber_trunk.core.errors import InputError
from umber_trunk.core.sizes.optimise import optimise
from umber_trunk.core.sizes.optimum import Optimum
from umber_trunk.core.sizes.program import Weights
from umber_trunk.core.sizes.worth import Kept, Worth, worths
from umber_trunk.core.units import parse_number, parse_volts, show_mass


@contextmanager
def solver_aside() -> Iterator[None]:
    """What the solver's library prints of its own accord goes to stderr: standard output is the answer's."""
    library = ctypes.CDLL(None)
    sys.stdout.flush()
    library.fflush(None)
    kept = os.dup(1)
    os.dup2(2, 1)
    try:
        yield
    finally:
        library.fflush(None)
        os.dup2(kept, 1)
        os.close(kept)


COMMANDS = {
    "optimise": "least copper for the whole harness, with its bound",
    "worth": "what moving an end by a metre or raising the voltage is worth",
}


def add_optimise(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--mass", default="1", help="weight of a kilogram of conductor")
    parser.add_argument("--cost", default="0", help="weight of its price")
    parser.add_argument("--sizes", default="0", help="weight of one more different size")
    parser.add_argument("--apply", action="store_true", help="choose these sizes in the file, as one edit")
    parser.add_argument(
        "--patient", action="store_true", help="go on closing the bound of a small harness, for a minute or two"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_optimise)


def add_worth(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--volts", help="supply voltage to compare with, such as 48V")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_worth)


def _weight(text: str) -> float:
    value = parse_number(text)
    if value < 0:
        raise InputError.of("shell.weight-cant-be-negative", text=text)
    return value


def _optimise(args: argparse.Namespace) -> int:
    weights = Weights(_weight(args.mass), _weight(args.cost), _weight(args.sizes))
    if weights == Weights(0, 0, 0):
        raise InputError.of("shell.give-at-least-one-weight-above")
    design, parts = read_design(args.file), shelf(args.file)
    kept: list[Optimum] = []
    progress = Progress()

    def wanted_still(share: float, wanted: Callable[[], bool]) -> bool:
        progress(
            f"{100 * share:.0f} % of the search, as far as can be said"
            + (f"; {show_mass(kept[-1].copper_kg)} so far" if kept else "")
        )
        return wanted()

    with solver_aside():
        found = stoppable(
            lambda wanted: optimise(
                design,
                weights,
                lambda share: wanted_still(share, wanted),
                better=kept.append,
                shelf=parts,
                patient=args.patient,
            ),
            lambda: _last_good(kept, args.json),
        )
    if args.apply and found.changes:
        with opened(args.file) as file:
            file.commit(found.apply(file.design), f"least copper: {len(found.changes)} sizes")
    _print_optimum(found, args.json)
    return SOUND if found.met else FAULTS


def _last_good(kept: list[Optimum], as_json: bool) -> None:
    """What was found before the search was stopped; it is shown and not applied."""
    if kept:
        print("umber: stopped; the best found until then, not applied:", file=sys.stderr)
        _print_optimum(kept[-1], as_json, sys.stderr)


def _print_optimum(found: Optimum, as_json: bool, to: TextIO | None = None) -> None:
    if as_json:
        out(optimum_json(found), to)
        return
    for change in found.changes:
        print(f"{change.wire_id:12} {change.before or 'not chosen':12} → {change.after}", file=to)
    state = (
        "there is nothing to size"
        if not found.sizes
        else "every limit holds"
        if found.met
        else "NOT every limit can be met"
    )
    print(f"{show_mass(found.copper_kg)} of conductor, {state}. {found.proof}", file=to)


def optimum_json(found: Optimum) -> dict[str, Any]:
    """Sizes by wire, copper, bound and gap."""
    return {
        "sizes": found.sizes,
        "copper_kg": round(found.copper_kg, 6),
        "copper": round(found.copper_kg, 6),
        "objective": round(found.objective, 6),
        "bound": round(found.bound, 6),
        "gap": round(found.gap, 8),
        "estimate": round(found.estimate, 6),
        "estimate_gap": round(found.estimate_gap, 8),
        "floor": None if found.floor is None else round(found.floor, 6),
        "rounds": found.rounds,
        "ok": found.met,
        "changes": [{"id": c.wire_id, "before": c.before, "after": c.after} for c in found.changes],
    }


def _worth(args: argparse.Namespace) -> int:
    analysis = analysed(args.file)
    volts = parse_volts(args.volts) if args.volts else None
    progress, so_far = Progress(), list[tuple[Kept, Worth]]()

    def looked(number: int, many: int, row: tuple[Kept, Worth]) -> None:
        so_far.append(row)
        progress(f"{number} of {many} moves looked at")

    def until_then() -> None:
        print(f"umber: stopped; what the {len(so_far)} moves looked at until then are worth:", file=sys.stderr)
        for one in sorted(so_far, key=lambda one: one[1].copper_kg):
            print(_worth_line(*one), file=sys.stderr)

    with solver_aside():
        found = stoppable(
            lambda wanted: worths(
                analysis.design, analysis.figures, analysis.sizes, volts, lambda _: wanted(), analysis.shelf, looked
            ),
            until_then,
        )
    if args.json:
        out([_worth_json(*row) for row in found])
        return 0
    for kept, resized in found:
        print(_worth_line(kept, resized))
    if not found:
        print("There is nothing to move: no end hangs on a measured limb.")
    return 0


def _worth_json(kept: Kept, resized: Worth) -> dict[str, Any]:
    return vars(resized) | {"sizes_kept": {k: v for k, v in vars(kept).items() if k != "what"}}


def _worth_line(kept: Kept, one: Worth) -> str:
    gain = (
        f"; at the sizes of now {kept.load} gains {kept.gain_percent:.1f} %"
        if math.isfinite(kept.gain_percent) and kept.gain_percent > 0.05
        else ""
    )
    sign = "saves" if one.copper_kg <= 0 else "costs"
    held = "" if one.met else ", NOT every limit can be met"
    drop = (
        f"worst drop {one.worst_drop_percent:.1f} %"
        if math.isfinite(one.worst_drop_percent)
        else "nothing feeds a load: no drop to tell"
    )
    return (
        f"{one.what}: {sign} {show_mass(abs(one.copper_kg))} of conductor, {abs(one.cost):.2f} in metal; "
        f"{drop}{held}{gain}"
    )
