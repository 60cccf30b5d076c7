"""Commands of the bench: the order of work, the steps one by one, the log of what was done and measured."""

from __future__ import annotations

import argparse
from pathlib import Path

from umber_trunk.cli.kit import out, units
from umber_trunk.cli.reading import analysed
from umber_trunk.cli.terminal import SOUND, stoppable

COMMANDS = {
    "order": "every operation of a build in an order with few tool changes",
}


def add_order(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--units", type=units, default=1, metavar="N", help="how many harnesses to build")
    parser.add_argument("--hands", type=_hands, default=1, metavar="N", help="pairs of hands")
    parser.add_argument("--school", choices=("operation", "wire"), help="batch by operation or finish each wire; the project's otherwise")  # fmt: skip
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_order)


def _hands(text: str) -> int:
    if not text.isascii() or not text.isdigit() or not 1 <= int(text) <= 20:
        raise argparse.ArgumentTypeError(f"“{text[:40]}” is no number of pairs of hands from 1 to 20")
    return int(text)


def clock(seconds: float) -> str:
    """Hours and minutes."""
    minutes = round(seconds / 60)
    return f"{minutes // 60} h {minutes % 60:02d} min" if minutes >= 60 else f"{minutes} min"


def _order(args: argparse.Namespace) -> int:
    from umber_trunk.core.make.sequence import SCHOOLS, plan_order
    from umber_trunk.core.make.times import learn
    from umber_trunk.store.floor import times_logged

    results = analysed(args.file)
    times = learn(times_logged(args.file))
    made = stoppable(lambda wanted: plan_order(results, args.units, args.school or "", args.hands, times, wanted))
    other = next(school for school in SCHOOLS if school != made.school)
    beside = plan_order(results, args.units, other, args.hands, times)
    if args.json:
        out({
            "steps": [
                {"n": s.n, "op": s.operation.op, "wire": s.operation.wire, "end": s.operation.end, "unit": s.unit, "tool": s.operation.tool, "setting": s.operation.setting,
                 "part": s.operation.part, "housing": s.operation.housing, "cavity": s.operation.cavity, "place": s.operation.place, "after": list(s.after),
                 "seconds": round(s.seconds, 2), "hand": s.hand, "start_s": round(s.start_s, 2), "cautions": list(s.operation.cautions), "key": s.key, "text": s.operation.text}
                for s in made.steps
            ],
            "tool_changes": made.tool_changes, "bound": made.bound, "walks": made.walks, "school": made.school, "hands": made.hands, "span_s": round(made.span_s, 1),
            "span_bound_s": round(made.span_bound_s, 1), "low_s": round(made.low_s, 1), "high_s": round(made.high_s, 1),
            "other_school": {"school": other, "tool_changes": beside.tool_changes, "span_s": round(beside.span_s, 1)},
        })  # fmt: skip
        return SOUND
    for s in made.steps:
        tool = f"  [{s.operation.tool}{', ' + s.operation.setting if s.operation.setting else ''}]" if s.operation.tool else ""  # fmt: skip
        unit = f"unit {s.unit}: " if s.unit and len(made.units) > 1 else ""
        print(f"{s.n:5} {s.operation.op:8} {unit}{s.operation.text}{tool}")
    print(f"{made.tool_changes} tool changes (no order does with fewer than {made.bound}), {made.walks} walks, {clock(made.low_s)} to {clock(made.high_s)}.")  # fmt: skip
    told = "wire by wire" if other == "wire" else "batch by operation"
    print(f"{told}: {beside.tool_changes} tool changes, {clock(beside.low_s)} to {clock(beside.high_s)}.")
    return SOUND
