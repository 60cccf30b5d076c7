"""Commands of the stage Prove about cables and their cores: told apart, learned, and as loops."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.proof_list import net_of
from umber_trunk.cli.reading import opened
from umber_trunk.cli.terminal import FAULTS, SOUND, out, worded
from umber_trunk.core.sentences import say

if TYPE_CHECKING:
    from umber_trunk.core.prove.learn import Map
    from umber_trunk.core.prove.netlist import Netlist
    from umber_trunk.core.prove.probe import Probe

COMMANDS = {
    "identify": "which core is which, of many alike: alone, with a partner, or by tags on the far ends",
    "learn": "the map of a cable nobody knows, from the fewest readings",
    "loops": "4–20 mA loops: whether the instrument has its volts at 22 mA; a spare pair for a bad one",
}


def add_identify(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("cores", type=int, metavar="N")
    group = parser.add_mutually_exclusive_group()
    group.add_argument("--alone", dest="way", action="store_const", const="alone", help="one person, joining cores")
    group.add_argument(
        "--partner", dest="way", action="store_const", const="partner", help="a partner makes and breaks the far end"
    )
    group.add_argument(
        "--tags", dest="way", action="store_const", const="tags", help="a different resistor on each far end"
    )
    parser.add_argument("--no-return", action="store_true", help="no conductor is known at both ends")
    parser.add_argument(
        "--check", action="store_true", help="with a partner: one call more, so that a broken core shows"
    )
    parser.add_argument(
        "--drawer",
        default="E24",
        metavar="VALUES",
        help='the resistors there are for tags: E24, E96, or values such as "100 220 1k"',
    )
    parser.add_argument(
        "--enter", action="store_true", help="go through it, entering what is found; tags are printed at the end"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_identify, way="alone")


def _identify(args: argparse.Namespace) -> int:
    from umber_trunk.core.prove.identify import scheme

    plan = scheme(args.cores, args.way, not args.no_return, args.check, args.drawer)
    if args.enter and not plan.why:
        return _entered(plan)
    if args.json:
        out(
            {
                "n": plan.cores,
                "way": plan.way,
                "walks": plan.walks,
                "calls": plan.calls,
                "readings": plan.readings,
                "possible": not plan.why,
                **worded(why=plan.why),
                "tags_ohm": list(plan.tags_ohm),
                **worded(told=plan.told),
                "steps": [
                    {
                        "at": step.at,
                        **worded(do=step.do),
                        "joins": [list(cores) for cores in step.joins],
                        "reads": step.reads,
                    }
                    for step in plan.steps
                ],
            }
        )
        return SOUND if not plan.why else FAULTS
    if plan.why:
        print(f"✕ {plan.why}")
        return FAULTS
    for row in plan.rows:
        print(row)
    if plan.told:
        print(plan.told)
    return SOUND


def _entered(plan: Any) -> int:
    """The plan gone through by lines: pairs such as “1-4 2-3”, cores that led, or CORE=OHM."""
    from umber_trunk.core.errors import UmberError
    from umber_trunk.core.prove.entering import Entering

    run = Entering(plan)
    lines = iter(sys.stdin)
    while (question := run.question) is not None:
        print(question, flush=True)
        words = next(lines, None)
        if words is None:
            return FAULTS
        try:
            told = run.enter(words)
        except UmberError as why:
            print(f"✕ {why}", flush=True)
            continue
        if told:
            print(told, flush=True)
    for near, far in sorted(run.names.items()):
        print(say("cores.found", near=near, far=far))
    return SOUND


def add_learn(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--from", dest="a", required=True, metavar="END", help="the one end")
    parser.add_argument("--to", dest="b", required=True, metavar="END", help="the other end")
    parser.add_argument(
        "--sim", action="store_true", help="a simulated cable, built like the harness but for its faults"
    )
    parser.add_argument("--meter", metavar="ADDRESS", help="a meter with a switch box")
    parser.add_argument("--fault", action="append", default=[], metavar="FAULT")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("-o", "--output", type=Path, metavar="FILE", help="take it over as a new harness")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_learn)


def _learn(args: argparse.Namespace) -> int:
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.learn import compared, learn
    from umber_trunk.core.prove.probe import Probe
    from umber_trunk.core.prove.taken_over import design_of, wanted_nets

    net = net_of(args.file)
    for end in (args.a, args.b):
        if end not in net.index.ends:
            raise InputError.of("any.no-end", text=end)
    cavities = [[cavity for where, cavity in net.points if where == end] for end in (args.a, args.b)]
    names = {"A": args.a, "B": args.b}
    measure = _measuring(args, net)

    def ohms(plus: Any, minus: Any) -> float:
        return measure(Probe("two", tuple((names[m], c) for m, c in plus), tuple((names[m], c) for m, c in minus)))

    found = learn((cavities[0], cavities[1]), ohms)
    differs = compared(found, wanted_nets(net, args.a, args.b))
    if args.output is not None:
        from umber_trunk.store.project import ProjectFile

        ProjectFile.create(args.output, design_of(found, net, args.a, args.b), "learned from a cable").close()
    if args.json:
        out(_learned_plain(found) | {"differs": differs})
    else:
        _learned_said(found, names)
        print("As the design has it." if not differs else "\n".join(f"✕ {row}" for row in differs))
    return FAULTS if differs else SOUND


def _measuring(args: argparse.Namespace, net: Netlist) -> Callable[[Probe], float]:
    """What reads a probe: the meter, or a simulated cable."""
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.faults import parse_fault
    from umber_trunk.core.prove.simulate import Unit

    if args.meter:
        from umber_trunk.store.meters import MeterLink

        return MeterLink(args.meter).measure
    if not args.sim:
        raise InputError.of("shell.say-sim-or-meter-address")
    return Unit(net, [parse_fault(net, word) for word in args.fault], args.seed).measure


def _learned_plain(found: Map) -> dict[str, Any]:
    return {
        "nets": [[f"{mark}:{cavity}" for mark, cavity in net] for net in found.nets],
        "diodes": [list(pair) for pair in found.diodes],
        "parts": [
            {"a": part.a, "b": part.b, "ohm": part.ohm, "back_ohm": part.back_ohm, "told": part.told}
            for part in found.parts
        ],
        "alone": [f"{mark}:{cavity}" for mark, cavity in found.alone],
        "readings": found.readings,
        "bound": found.bound,
    }


def _learned_said(found: Map, names: Mapping[str, str]) -> None:
    for row in found.nets:
        print("  ".join(f"{names[mark]} {cavity}" for mark, cavity in row))
    for part in found.parts:
        way = "to" if part.one_way else "and"
        at = [f"{names[mark]} {cavity}" for mark, cavity in (found.nets[part.a][0], found.nets[part.b][0])]
        print(f"{at[0]} {way} {at[1]}: {part.ohm:.3g} Ω, {part.told}")
    print(f"{found.readings} readings; no plan finds a cable of this shape with fewer than {found.bound} on average.")


def add_loops(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--spare",
        nargs=2,
        metavar=("WIRE", "SPARE"),
        help="the pair of WIRE is bad: its circuit takes the pair of SPARE, in the same cable",
    )
    parser.add_argument("--who", default="", help="who decided it")
    parser.add_argument("--why", default="", help="and why")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_loops)


def _loops(args: argparse.Namespace) -> int:
    from umber_trunk.cli.reading import analysed
    from umber_trunk.core.prove.loops import TREADS, budgets, stairs
    from umber_trunk.core.prove.spare_pair import take_spare

    if args.spare:
        with opened(args.file) as project:
            design, told = take_spare(project.design, args.spare[0], args.spare[1], args.who, args.why)
            project.commit(design, told)
        print(told)
        return SOUND
    results = analysed(args.file)
    found, steps = budgets(results.design, results), stairs(results.design, results)
    if args.json:
        out(
            {
                "loops": [
                    {
                        "loop": b.loop,
                        "name": b.name,
                        "left_v": round(b.left_v, 3),
                        "need_v": b.need_v,
                        "supply_v": b.supply_v,
                        "barrier_v": round(b.barrier_v, 3),
                        "run_v": round(b.run_v, 4),
                        "receiver_v": round(b.receiver_v, 3),
                        "ok": b.ok,
                        "stairs": [
                            {
                                "ma": s.ma,
                                "hot": s.hot,
                                "volts": dict(zip(TREADS, (round(v, 3) for v in s.volts), strict=True)),
                                "left_v": round(s.left_v, 3),
                                "ok": s.ok,
                            }
                            for s in steps
                            if s.loop == b.loop
                        ],
                    }
                    for b in found
                ]
            }
        )
    for b in found if not args.json else ():
        print(f"{'✓' if b.ok else '✕'} {b.name}: {b.told}")
    return SOUND if all(b.ok for b in found) else FAULTS
