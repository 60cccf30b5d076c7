"""Commands beside a proof: how often faults are met, the simulated meter or one reading of a real one, drills."""

from __future__ import annotations

import argparse
import math
import sys
from pathlib import Path

from umber_trunk.cli.proof_list import net_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out

COMMANDS = {
    "meter": "the simulated meter with a unit under test, as a server; or one reading of a real one",
    "practise": "drills: find the fault, the cavity on a face, what threads on first",
    "faults": "how often each kind of fault is met: by the first guess, and by what the shop found",
}


def add_faults(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "--found",
        nargs=2,
        action="append",
        default=[],
        metavar=("KIND", "N"),
        help="the shop found N of a kind in all; +1: one more",
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_faults)


def _faults(args: argparse.Namespace) -> int:
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.priors import PRACTICE, SHARES, shares_of
    from umber_trunk.store.found_faults import found_faults, set_found

    for kind, many in args.found:
        if not many.lstrip("+").isdecimal():
            raise InputError.of("shell.no-count-number", many=many)
        had = found_faults().get(kind, 0) if many.startswith("+") else 0
        set_found(kind, had + int(many))
    found = found_faults()
    met = shares_of(found)
    if args.json:
        out(
            {
                "kinds": [
                    {"what": kind, "guess": guess, "found": found.get(kind, 0), "share": round(met[kind], 5)}
                    for kind, guess in SHARES.items()
                ],
                "guess_weighs": PRACTICE,
            }
        )
        return SOUND
    print(f"kind      first guess   found here   used   (the first guess weighs as {PRACTICE} faults found)")
    for kind, guess in SHARES.items():
        print(f"{kind:9} {100 * guess:9.1f} % {found.get(kind, 0):12} {100 * met[kind]:6.1f} %")
    return SOUND


def add_meter(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "--sim", type=Path, metavar="FILE", help="be a meter with a unit of this harness under test, until stopped"
    )
    parser.add_argument("--fault", action="append", default=[], metavar="FAULT", help="hidden in the unit")
    parser.add_argument("--noise", type=float, default=1.0, metavar="X", help="times the meter's usual error")
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    parser.add_argument("--port", type=int, default=0, metavar="N")
    parser.add_argument("--pty", action="store_true", help="on a pseudo-terminal, as on a serial line")
    parser.add_argument(
        "address",
        nargs="?",
        default="",
        help="otherwise: one reading of the meter at tcp:HOST:PORT, /dev/…?baud=9600 or visa:RESOURCE",
    )
    parser.add_argument("kind", nargs="?", default="four", choices=("two", "four", "insulation"))
    parser.set_defaults(run=_meter)


def _meter(args: argparse.Namespace) -> int:
    import threading

    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.faults import parse_fault
    from umber_trunk.store.meters import ASKS, MeterLink, MeterServer, MeterTerminal, parse_answer, simulated

    if args.sim is None:
        if not args.address:
            raise InputError.of("shell.say-sim-file")
        with MeterLink(args.address) as link:
            ohm = parse_answer(link.ask(ASKS[args.kind]), args.address)
        print("OL" if math.isinf(ohm) else f"{ohm:g} ohm")
        return SOUND
    if not 0 <= args.noise <= 1000:
        raise InputError.of("shell.noise-out-of-range")
    net = net_of(args.sim)
    bench = simulated(net, [parse_fault(net, word) for word in args.fault], args.seed, args.noise)
    with MeterTerminal(bench) if args.pty else MeterServer(bench, args.port) as server:
        print(server.address, flush=True)
        threading.Event().wait()
    return SOUND


def add_practise(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "drill", nargs="?", default="fault", choices=("fault", "lug", "loose", "powered", "face", "thread")
    )
    parser.add_argument("--file", type=Path, metavar="FILE", help="on this harness; otherwise on the demo barge")
    parser.add_argument("--seed", type=int, default=1, metavar="N", help="the same seed gives the same drill")
    parser.set_defaults(run=_practise)


def _practise(args: argparse.Namespace) -> int:
    from umber_trunk.core.analysis import analyse
    from umber_trunk.core.demo import barge
    from umber_trunk.core.errors import UmberError
    from umber_trunk.core.prove.drilling import Drilling

    if args.file is not None:
        from umber_trunk.cli.reading import analysed

        results = analysed(args.file, upto="sizes")
    else:
        results = analyse(barge())
    run = Drilling(results, args.drill, args.seed)
    print(run.opening, flush=True)
    for line in sys.stdin:
        try:
            told, over = run.enter(line)
        except UmberError as why:
            print(f"✕ {why}", flush=True)
            continue
        print(told, flush=True)
        if over:
            return SOUND if run.right else FAULTS
    return FAULTS
