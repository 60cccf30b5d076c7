"""The command tests: what to test, in which order, what each reading should be, and what these readings can't tell."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.terminal import SOUND, out, said_out

if TYPE_CHECKING:
    from umber_trunk.core.prove.netlist import Netlist

COMMANDS = {
    "tests": "what to test, in which order, and what each reading should be",
}


def net_of(path: Path) -> Netlist:
    """A harness file unplugged, with the shop's parts."""
    from umber_trunk.cli.reading import analysed
    from umber_trunk.core.prove.netlist import netlist

    return analysed(path, upto="sizes").once(netlist)


def add_tests(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--two-wire", action="store_true", help="a hand meter without four-wire leads")
    parser.add_argument("--by-hand", action="store_true", help="without a switch box")
    add_supply(parser)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_tests)


def add_supply(parser: argparse.ArgumentParser) -> None:
    """The option that says what the supply for millivolts gives."""
    parser.add_argument(
        "--amps",
        metavar="A",
        help="what the current-limited supply for millivolts gives, 20 where nothing is said; 0: there is none",
    )


def supply_a(args: argparse.Namespace) -> float:
    """The supply's amperes. InputError for what no bench has."""
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.meter import MOST_AMPS, Meter
    from umber_trunk.core.units import parse_number

    if args.amps is None:
        return Meter().amps
    amps = parse_number(args.amps.strip().removesuffix("A").strip())
    if not 0 <= amps <= MOST_AMPS:
        raise InputError.of("shell.no-current-for-millivolts", amps=args.amps, most=MOST_AMPS)
    return amps


def _tests(args: argparse.Namespace) -> int:
    from umber_trunk.core.prove.checklist import test_volts
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.plan import make_plan

    net = net_of(args.file)
    plan = make_plan(net, Meter(four_wire=not args.two_wire, amps=supply_a(args)), not args.by_hand)
    if args.json:
        out(
            {
                "tests": [
                    {
                        "n": t.n,
                        "kind": t.kind,
                        "from": t.a,
                        "to": t.b,
                        "expect": t.expect,
                        "low": t.low,
                        "high": t.high,
                        "unit": t.unit,
                        "wires": list(t.wires),
                        "text": str(t.text),
                        "said": said_out(t.text),
                        "told": str(t.told),
                        "minds": said_out(t.told) if t.told else None,
                    }
                    for t in plan.tests
                ],
                "shorts_tests": plan.shorts_box,
                "nets": plan.nets,
                "shorts_by_hand": plan.shorts_hand,
                "pairs": plan.pairs,
                "moves": plan.moves,
                "moves_bound": plan.moves_bound,
                "seconds": round(plan.seconds),
                "insulation_v": test_volts(net),
                "unreached": list(plan.unreached),
                "cannot_tell": blind(net, plan),
            }
        )
        return SOUND
    for t in plan.tests:
        band = f"  {ohms(t.expect)}, {ohms(t.low)} to {ohms(t.high)} {t.unit}" if t.unit else ""
        print(f"{t.n:4} {t.kind:11} {t.text}{band}")
        if t.told and t.kind in ("insulation", "load", "shield", "earth"):
            print(f"     {t.told}")
    print(
        f"{len(plan.tests)} tests, {plan.nets} nets: {plan.shorts_box} group tests for shorts with a switch box, "
        f"{plan.shorts_hand} by hand, not {plan.pairs} pairs."
    )
    print(f"Leads are placed {plan.moves} times ({plan.moves_bound} at least); about {plan.seconds / 60:.0f} minutes.")
    say_blind(net, plan)
    print(Meter(four_wire=not args.two_wire, amps=supply_a(args)).told)
    print("High voltage and power only once all before was sound; the local code and a licensed person decide.")
    return SOUND


def blind(net: Netlist, plan: Any) -> list[dict[str, Any]]:
    """What the list's readings can't tell."""
    from umber_trunk.core.prove.blind import cannot_tell

    return [
        {
            "wire": one.wire,
            "why": str(one.why),
            "would": str(one.would),
            "said": said_out(one.why),
            "to_tell": said_out(one.would),
        }
        for one in cannot_tell(net, plan)
    ]


def say_blind(net: Netlist, plan: Any) -> None:
    """Says what these readings can't tell, and what would."""
    together: dict[tuple[str, str], list[str]] = {}
    for one in blind(net, plan):
        together.setdefault((one["why"], one["would"]), []).append(one["wire"])
    for (why, would), wires in together.items():
        print(f"{', '.join(wires[:12])}{' …' if len(wires) > 12 else ''}: {why}. To tell: {would}.")


def ohms(value: float | None) -> str:
    """A figure in ohms in words, – where nothing leads."""
    return "–" if value is None else f"{value:.4g}"
