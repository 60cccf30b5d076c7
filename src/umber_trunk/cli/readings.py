"""Commands of what was done and measured: log, charts, one reading of a gauge."""

from __future__ import annotations

import argparse
from pathlib import Path

from umber_trunk.cli.make import logged
from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out
from umber_trunk.core.errors import InputError

COMMANDS = {
    "log": "what was done and measured at the bench",
    "charts": "control charts of what was measured, by tool and contact",
    "gauge": "asks a gauge for a reading, or is the simulated press",
}


def add_log(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--build", default="", metavar="NAME", help="of this build alone")
    parser.add_argument("--merge", type=Path, metavar="LOG", help="add another station's log")
    parser.add_argument(
        "--photos", type=Path, metavar="FOLDER", help="write the photographs kept with it into a folder"
    )
    parser.add_argument("--without-bad", action="store_true", help="take what is before the first bad line of it")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_log)


def _log(args: argparse.Namespace) -> int:
    import sys

    from umber_trunk.core.make.told import entry_told
    from umber_trunk.core.moments import moment
    from umber_trunk.store.inputs import orders_of
    from umber_trunk.store.lines_log import plain_entry
    from umber_trunk.store.merging import merge

    if args.merge is not None:
        with opened(args.file) as project:
            if project.read_only:
                project.floor.append([])  # says why
            taken = merge(project, args.merge, shelf(args.file), without_bad=args.without_bad)
        print(f"{taken.added} entries of {args.merge.name} added.")
        if taken.held_back:
            print(f"umber: {args.merge.name}: {taken.held_back}.", file=sys.stderr)
        if taken.added:
            by = f"signed by {taken.name} ({taken.key[:16]} …)" if taken.key else "signed by nobody"
            print(
                f"They are {by}"
                + (f"; the last {taken.unsigned} no signature covers: they prove nothing." if taken.unsigned else ".")
            )
        if taken.otherwise:
            print(
                f"△ {taken.otherwise} orders or lists in it aren’t those this program makes of the same revision: "
                "units built or proven by them aren’t proven by it."
            )
        return FAULTS if taken.held_back else SOUND
    if args.photos is not None:
        from umber_trunk.store.photographs import write_photographs

        with opened(args.file, for_writing=False) as project:
            print(f"{write_photographs(project.floor, args.photos)} photographs written.")
        return SOUND
    events, orders = logged(args.file, args.build), {}
    if args.file.suffix.lower() != ".json":
        with opened(args.file, for_writing=False) as project:
            orders = orders_of(project.floor)
    if args.json:
        out(
            [
                {
                    **plain_entry(one),
                    "n": one.n,
                    "told": str(told),
                    "said": said_out(told),
                }
                for one in events
                for told in [entry_told(one, orders.get(one.build))]
            ]
        )
        return SOUND
    for one in events:
        when = moment(one.at_ms, seconds=True)
        print(f"{one.n:6}  {when}  {one.build}  {entry_told(one, orders.get(one.build))}".rstrip())
    return SOUND


def add_charts(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_charts)


def _charts(args: argparse.Namespace) -> int:
    from umber_trunk.core.make.runs import runs_of

    found = runs_of(logged(args.file))
    if args.json:
        out(
            [
                {
                    **run.said,
                    "values": list(run.chart.values),
                    "mean": run.chart.mean,
                    "low": run.chart.low,
                    "high": run.chart.high,
                    "alarms": [{"rule": alarm.rule, "at": alarm.at} for alarm in run.chart.alarms],
                    "capability": run.chart.capability,
                    "pull_bound": run.chart.pull_bound,
                    "verdict": run.chart.verdict,
                    "told": run.chart.told,
                    "why": said_out(run.chart.said),
                    "base": run.chart.base,
                    "gauge": {
                        "step": run.chart.gauge.step,
                        "share": run.chart.gauge.share,
                        "repeats": run.chart.gauge.repeats,
                    },
                }
                for run in found
            ]
        )
    else:
        for run in found:
            print(f"{run.title}: {run.chart.told}")
        if not found:
            print("Nothing was measured yet.")
    return FAULTS if any(run.chart.verdict == "check the die" for run in found) else SOUND


def add_gauge(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("address", nargs="?", default="", help="tcp:HOST:PORT, /dev/… or visa:RESOURCE")
    parser.add_argument("kind", nargs="?", default="height", help="height, width, pull, torque or mass")
    parser.add_argument("--say", metavar="LINE", help="say this line to it instead, such as CRIMP")
    parser.add_argument("--sim", action="store_true", help="be the simulated press, until stopped")
    parser.add_argument("--pty", action="store_true", help="on a pseudo-terminal instead of a port")
    parser.add_argument("--port", type=int, default=0, metavar="N")
    parser.add_argument("--height", type=float, default=1.5, metavar="MM")
    parser.add_argument("--wear", type=float, default=0.0, metavar="MM", help="higher with every crimp")
    parser.add_argument("--scatter", type=float, default=0.005, metavar="MM")
    parser.add_argument("--pull", type=float, default=200.0, metavar="N", help="what a sound crimp holds")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    parser.set_defaults(run=_gauge)


def _gauge(args: argparse.Namespace) -> int:
    import threading

    from umber_trunk.core.make.press import Press
    from umber_trunk.store.gauges import PressServer, PressTerminal, ask_gauge, tell_gauge

    if not args.sim:
        if not args.address:
            raise InputError.of("shell.say-which-gauge")
        print(tell_gauge(args.address, args.say) if args.say else ask_gauge(args.address, args.kind))
        return SOUND
    for value in (args.height, args.wear, args.scatter, args.pull):
        if not -1e6 < value < 1e6:
            raise InputError.of("shell.press-out-of-range")
    press = Press(args.height, args.wear, abs(args.scatter), args.pull, seed=args.seed)
    with PressTerminal(press) if args.pty else PressServer(press, args.port) as served:
        print(served.address, flush=True)
        threading.Event().wait()
    return SOUND
