"""The command prove: a proof by a meter, a simulated unit or readings typed in, and one plugged in."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.proof_list import add_supply, net_of, ohms, supply_a
from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND
from umber_trunk.cli.verdicts import suspects_told, verdict_told

if TYPE_CHECKING:
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.proof import Answer, Proof, Task
    from umber_trunk.store.meters import MeterLink
    from umber_trunk.store.proofs import UnitProof

COMMANDS = {
    "prove": "prove a unit: by a simulated one, by a meter, or by readings typed in; names the fault",
}


def add_prove(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--sim", action="store_true", help="against a simulated unit")
    parser.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="FAULT",
        help="of the simulated unit: open:W08, high:W08@END:OHM, stud:W08@END:OHM, flicker:W08@END:SHARE, "
        "swap:W10,W11@END, short:W1,W2[:OHM], leak:W1[,W2]:OHM, size:W1:SIZE, metal:W1:METAL, longer:W1:M, "
        "strands:W1:SHARE:M, shield:CABLE, wet:END:OHM, loose:END, cut:CABLE, crossed:END,END",
    )
    parser.add_argument("--seed", type=int, default=1, metavar="N")
    parser.add_argument(
        "--meter", metavar="ADDRESS", help="tcp:HOST:PORT or visa:RESOURCE; otherwise readings are typed"
    )
    parser.add_argument("--two-wire", action="store_true", help="a hand meter without four-wire leads")
    parser.add_argument("--by-hand", action="store_true", help="without a switch box")
    parser.add_argument(
        "--build", default="", metavar="NAME", help="log it for this build, the newest where none is named"
    )
    parser.add_argument("--unit", type=int, metavar="N", help="log it for this unit")
    parser.add_argument("--hand", default="", metavar="WHO")
    parser.add_argument(
        "--meter-error",
        nargs=2,
        metavar=("OHM", "SHARE"),
        help="one standard deviation of the meter’s own error: what it still reads of nothing, and its share of a "
        "reading",
    )
    add_supply(parser)
    parser.add_argument(
        "--powered",
        metavar="LOAD",
        default="",
        help="found plugged in: this load doesn’t work; by volts with the source on. With --sim, --fault fuse:ID, "
        "wire:ID, ground:ID, switch:ID, load:ID or source:ID",
    )
    parser.add_argument(
        "--anew", action="store_true", help="with --unit: begin the proof anew, with another list or meter"
    )
    parser.add_argument(
        "--as-is",
        nargs=2,
        metavar=("WHO", "WHY"),
        help="with --unit: a unit somebody else made, whose steps aren’t in the log; stands first on its papers",
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_prove)


def _prove(args: argparse.Namespace) -> int:
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.faults import parse_fault
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.session import Prover
    from umber_trunk.core.prove.simulate import Unit
    from umber_trunk.store.found_faults import priors_here

    if args.powered:
        from umber_trunk.cli.plugged_in import find_plugged_in

        return find_plugged_in(args)
    if args.fault and not args.sim:
        raise InputError.of("shell.faults-are-put-into-simulated-unit")
    if args.json and not args.sim:
        raise InputError.of("shell.proof-json-goes-with-sim")
    if args.unit is not None:
        return _prove_logged(args)
    if args.anew or args.as_is:
        raise InputError.of("shell.anew-and-as-is-go")
    net = net_of(args.file)
    meter = _meter_said(args) or Meter()
    from umber_trunk.core.prove.plan import make_plan

    plan = make_plan(net, meter, not args.by_hand)
    if not plan.measures:
        raise InputError.of("prove.nothing-to-prove")
    if not args.sim:
        from umber_trunk.core.prove.proof import Proof

        return _dialogue(Proof(net, meter, plan, priors_here(net)), args)
    faults = [parse_fault(net, word) for word in args.fault]
    prover = Prover(net, meter, plan, priors_here(net))
    unit = Unit(net, faults, args.seed, meter)
    verdict = prover.run(unit.measure)
    return verdict_told(net, prover, verdict, args.json)


def _dialogue(proof: Proof, args: argparse.Namespace, kept: UnitProof | None = None) -> int:
    """The proof line by line: a reading, ok, bad, or off for “electronics are disconnected”."""
    from umber_trunk.core.errors import UmberError
    from umber_trunk.store.meters import MeterLink

    link = MeterLink(args.meter) if args.meter else None
    boxed = link is not None and link.box
    lines = iter(sys.stdin)
    try:
        while (task := proof.now) is not None:
            try:
                one = _answered(proof, task, link, lines, kept)
                if one is None:
                    break
                if kept is not None:
                    kept.keep(one, boxed)
                if not one.ok:
                    print(f"    ✕ out of its band: {one.value if one.value is not None else 'seen bad'}")
            except UmberError as why:
                print(f"✕ {why}", flush=True)
                if boxed:
                    return FAULTS
    finally:
        if link is not None:
            link.close()
    return _left(proof, kept)


def _answered(
    proof: Proof, task: Task, link: MeterLink | None, lines: Iterator[str], kept: UnitProof | None
) -> Answer | None:
    """What a task came to: read by the meter through its switch box, or what the next line says; None for good-bye."""
    from umber_trunk.core.prove.proof import read_reading

    while True:
        if link is not None and link.box and task.probe is not None and (not task.high_voltage or proof.disconnected):
            return proof.answer(task.value_of(link.measure(task.probe)))
        _ask(task)
        words = next(lines, "q").strip()
        if words.lower() != "off":
            break
        proof.disconnected = True  # a meter with a switch box may go on by itself now
        if kept is not None:
            kept.safe()
    if words.lower() in ("q", "quit"):
        return None
    if task.unit == "":
        return proof.answer(ok={"ok": True, "": True, "bad": False}.get(words.lower()))
    if link is not None and task.probe is not None and not words:
        return proof.answer(task.value_of(link.measure(task.probe)))
    return proof.answer(read_reading(words, task.unit))


def _left(proof: Proof, kept: UnitProof | None) -> int:
    """What is said at the end, and the status."""
    if proof.now is not None:
        print("Left here; what was answered is kept." if kept is not None else "Left here.")
        return FAULTS
    if not proof.complete:
        suspects_told(proof.verdict())
        return FAULTS
    if kept is None:
        print("A trial: everything on the list was right. Nothing is kept of it, and no unit is proven by it.")
    return SOUND  # whether a unit is proven is folded from what stands


def _ask(task: Any) -> None:
    number = f"[{task.test.n}] " if task.test is not None else "[+] "
    band = f"  ({ohms(task.low)} to {ohms(task.high)} {task.unit})" if task.unit else ""
    print(f"{number}{task.kind}: {task.text}{band}")
    if task.told:
        print(f"    {task.told}")
    print(end="", flush=True)


def _prove_logged(args: argparse.Namespace) -> int:
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.faults import parse_fault
    from umber_trunk.core.prove.simulate import Unit
    from umber_trunk.store.proofs import UnitProof

    if not args.hand.strip():
        raise InputError.of("shell.say-who-proves-unit")
    with opened(args.file) as project:
        kept = UnitProof(
            project,
            args.build,
            args.unit,
            args.hand,
            _meter_said(args),
            False if args.by_hand else None,
            args.anew,
            shelf(args.file),
        )
        if args.as_is:
            kept.take_as_is(*args.as_is)
        proof = kept.load()
        if not proof.plan.measures:
            raise InputError.of("prove.nothing-to-prove")
        if not args.sim:
            status = _dialogue(proof, args, kept)
            kept.close_with(args.hand)
            kept.read()
            return _closed(kept, status)
        unit = Unit(proof.net, [parse_fault(proof.net, word) for word in args.fault], args.seed, kept.meter)
        kept.safe()
        while proof.now is not None:
            task = proof.now
            value = (
                task.value_of(unit.measure(task.probe))
                if task.probe is not None
                else task.expect
                if task.unit
                else None
            )
            kept.answer(value, True if not task.unit else None, simulated=True)
        kept.close_with(args.hand)
        kept.read()
        status = verdict_told(proof.net, proof.prover, proof.verdict(), args.json)
        return status if args.json else _closed(kept, status)


def _closed(kept: UnitProof, status: int) -> int:
    """What the unit is now, by what stands in the log."""
    record = kept.record
    if record.certain:
        print(f"Proven: {record.why}.")
        return SOUND
    if record.proven is not None:
        print(f"Proven in simulation: {record.why}. It certifies nothing of a real unit.")
        return status
    print(f"Not proven: {record.why or record.state}.")
    return FAULTS


def _meter_said(args: argparse.Namespace) -> Meter | None:
    """The meter that the options say, None where they say nothing of it."""
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.units import parse_number

    if not args.two_wire and not args.meter_error and args.amps is None:
        return None
    amps = supply_a(args)
    if not args.meter_error:
        return Meter(four_wire=not args.two_wire, amps=amps)
    ohm, share = (parse_number(one.removesuffix("%").strip()) for one in args.meter_error)
    share = share / 100 if args.meter_error[1].strip().endswith("%") else share
    if not (0 < ohm <= 10 and 0 < share <= 0.2):
        raise InputError.of("shell.meters-error-is-over")
    if args.two_wire:
        return Meter(False, two_ohm=ohm, two_share=share, amps=amps)
    return Meter(four_ohm=ohm, four_share=share, amps=amps)
