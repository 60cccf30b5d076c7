"""The command prove: a proof by a meter, a simulated unit or readings typed in, and one plugged in."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.proof_list import add_supply, blind, net_of, ohms, say_blind, supply_a
from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND, out

if TYPE_CHECKING:
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.netlist import Netlist
    from umber_trunk.core.prove.proof import Proof
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
        return _powered(args)
    if args.fault and not args.sim:
        raise InputError("Faults are put into a simulated unit: say --sim too.")
    if args.json and not args.sim:
        raise InputError("--json goes with --sim; a proof by hand or meter is a talk.")
    if args.unit is not None:
        return _prove_logged(args)
    if args.anew or args.as_is:
        raise InputError("--anew and --as-is go with --unit N: a trial keeps nothing.")
    net = net_of(args.file)
    meter = _meter_said(args) or Meter()
    from umber_trunk.core.prove.plan import make_plan
    from umber_trunk.core.prove.test_list import NOTHING

    plan = make_plan(net, meter, not args.by_hand)
    if not plan.measures:
        raise InputError(NOTHING)
    if not args.sim:
        from umber_trunk.core.prove.proof import Proof

        return _dialogue(Proof(net, meter, plan, priors_here(net)), args)
    faults = [parse_fault(net, word) for word in args.fault]
    prover = Prover(net, meter, plan, priors_here(net))
    unit = Unit(net, faults, args.seed, meter)
    verdict = prover.run(unit.measure)
    return _told(net, prover, verdict, args.json)


def _powered(args: argparse.Namespace) -> int:
    """A load that doesn't work, by volts; typed in, or a simulated harness's."""
    import random

    from umber_trunk.cli.reading import analysed
    from umber_trunk.core.errors import InputError, UmberError, quoted
    from umber_trunk.core.prove.powered import CAUTIONS, Powered
    from umber_trunk.core.quantity import VOLTAGE, read

    if args.json and not args.sim:
        raise InputError("--json goes with --sim; a search by hand is a talk.")
    if args.unit is not None or args.meter:
        raise InputError("A search plugged in is typed in, and nothing of it proves a unit: leave --unit and --meter.")
    search = Powered(analysed(args.file), args.powered)
    truth = None
    for word in args.fault:
        kind, _, where = word.partition(":")
        truth = next((n for n, one in enumerate(search.suspects) if (one.kind, one.where) == (kind, where)), None)
        if truth is None:
            known = dict.fromkeys(f"{one.kind}:{one.where}" for one in search.suspects)
            raise InputError(f"{quoted(word)} doesn’t starve {search.load.name}; there are: {', '.join(known)}.")
    if not args.json:
        print(*CAUTIONS, sep="\n")
    draw, lines = random.Random(args.seed), iter(sys.stdin)
    while (ask := search.next()) is not None:
        said = f"+ at {_place(search, ask.a)}, − at {_place(search, ask.b)}: sound {ask.expect:.2f} V"
        if args.sim:
            at = search.sound if truth is None else search.at(truth)
            volts = round(float(at[search.pins[ask.a]] - at[search.pins[ask.b]]) + draw.gauss(0, 0.03), 2) + 0.0
            search.read(ask.a, ask.b, volts)
            if not args.json:
                print(f"{said}; read {volts:.2f} V")
            continue
        print(f"{said}. Volts (or: 11.2 twin 11.6, with what a sound one of the same make has there):", flush=True)
        words = next(lines, "q").strip()
        if words.lower() in ("q", "quit"):
            break
        try:
            mine, _, twin = words.partition("twin")
            search.read(
                ask.a, ask.b, read(mine, VOLTAGE, "V").value, read(twin, VOLTAGE, "V").value if twin.strip() else None
            )
        except UmberError as why:
            print(f"✕ {why}", flush=True)
    named, (_, unknown) = search.named(), search.weights()
    if args.json:
        out(
            {
                "load": args.powered,
                "read": [
                    {"from": ":".join(a), "to": ":".join(b), "volts": volts, "expect": round(search.expected(a, b), 3)}
                    for a, b, volts in search.readings
                ],
                "faults": [
                    {
                        "what": one.kind,
                        "where": one.where,
                        "probability": round(one.probability, 4),
                        "words": one.words,
                        "mend": one.mend,
                    }
                    for one in named
                    if one.probability > 0.003
                ],
                "unknown": {"probability": round(unknown, 4), "nets": []},
            }
        )
        return FAULTS
    for one in named[:4]:
        if one.probability > 0.02:
            print(f"✕ {one.words}: {100 * one.probability:.0f} %. {one.mend[:1].upper()}{one.mend[1:]}.")
    if unknown > 0.05:
        print(f"✕ none of these: {100 * unknown:.0f} %: unplug it and prove it cold (umber prove).")
    return FAULTS


def _place(search: Any, place: tuple[str, str]) -> str:
    from umber_trunk.core.harness.index import index_of

    end = index_of(search.results.design).ends[place[0]]
    label = next((cavity.label for cavity in end.cavities if cavity.id == place[1]), "") or place[1]
    return f"{end.name} {label}"


def _told(net: Netlist, prover: Any, verdict: Any, as_json: bool) -> int:
    word = "sound" if verdict.sound > 0.5 and prover.all_right else "faulty"
    listed = [one for one in prover.taken if one.test]
    if as_json:
        out(
            {
                "readings": len(prover.taken),
                "follow_ups": len(prover.taken) - len(listed),
                "verdict": word,
                "sound": round(verdict.sound, 6),
                "settled": verdict.settled,
                "unreached": list(prover.plan.unreached),
                "faults": _merged(verdict),
                "alike": _alike(verdict),
                "unknown": {
                    "probability": round(verdict.unknown, 4),
                    "nets": list(verdict.isolated) if verdict.unexplained else [],
                },
                "cannot_tell": blind(net, prover.plan),
                "taken": [
                    {
                        "test": t.test,
                        "kind": t.probe.kind,
                        "from": ",".join(map(net.said, t.probe.a)),
                        "to": ",".join(map(net.said, t.probe.b)),
                        "ohm": t.ohm,
                        "ok": t.ok,
                        "expect": t.expect,
                    }
                    for t in prover.taken
                ],
            }
        )
        return SOUND if word == "sound" else FAULTS
    print(f"{len(prover.taken)} readings, {len(prover.taken) - len(listed)} of them to follow up.")
    if word == "sound":
        print("Sound: every reading is in its own band. Power, polarity and load are still to be tried.")
        say_blind(net, prover.plan)
        if prover.plan.unreached:
            print(f"No reading goes over {', '.join(prover.plan.unreached)}: of them it says nothing.")
        return SOUND
    _suspects(verdict)
    return FAULTS


def _merged(verdict: Any) -> list[dict[str, Any]]:
    """Faults by kind and wires, likeliest first, each with its own share; the same at several ends is one, with them
    all."""
    return [
        {
            "what": one.fault.what,
            "where": one.fault.place,
            "probability": round(one.probability, 4),
            "group": one.group,
            "end": one.fault.end if len(one.ends) < 2 else "",
            "fault": one.fault.word,
            "words": one.words,
            "ends": list(one.ends),
            "ohm": one.fault.ohm if one.fault.ohm else None,
            "ohm_low": one.fault.ohm_low if one.fault.ohm_low else None,
            "ohm_high": one.fault.ohm_high if one.fault.ohm_high else None,
            "mend": one.mend,
        }
        for one in verdict.causes
    ]


def _alike(verdict: Any) -> list[list[str]]:
    """Fault words that no reading at the ends parts."""
    return [[one.fault.word for one in group] for group in verdict.alike if len(group) > 1]


def _suspects(verdict: Any) -> None:
    for first, *mates in verdict.alike[:12]:
        print(f"✕ {first.words}: {100 * first.probability:.0f} %. {first.mend[:1].upper()}{first.mend[1:]}.")
        if mates:
            others = "; ".join(f"{mate.words} ({100 * mate.probability:.0f} %)" for mate in mates)
            print(f"    readings at the ends can’t tell it from: {others}")
    if verdict.unexplained:
        print(
            f"✕ none of the faults known here: {100 * verdict.unknown:.0f} %. Look where the readings lie: "
            f"{'; '.join(verdict.isolated)}"
        )
    if not verdict.suspects:
        print("✕ A reading is out of its band and no known fault explains it: read it again.")


def _dialogue(proof: Proof, args: argparse.Namespace, kept: UnitProof | None = None) -> int:
    """The proof line by line: a reading, ok, bad, or off for “electronics are disconnected”."""
    from umber_trunk.core.errors import UmberError
    from umber_trunk.core.prove.proof import read_reading
    from umber_trunk.store.meters import MeterLink

    link = MeterLink(args.meter) if args.meter else None
    try:
        lines = iter(sys.stdin)
        while proof.now is not None:
            task = proof.now
            try:
                if (
                    link is not None
                    and link.box
                    and task.probe is not None
                    and (not task.high_voltage or proof.disconnected)
                ):
                    one = proof.answer(task.value_of(link.measure(task.probe)))
                else:
                    _ask(task)
                    words = next(lines, "q").strip()
                    if words.lower() in ("q", "quit"):
                        break
                    if words.lower() == "off":
                        proof.disconnected = True
                        if kept is not None:
                            kept.safe()
                        continue
                    if task.unit == "":
                        one = proof.answer(ok={"ok": True, "": True, "bad": False}.get(words.lower()))
                    else:
                        value = (
                            task.value_of(link.measure(task.probe))
                            if link is not None and task.probe is not None and not words
                            else read_reading(words, task.unit)
                        )
                        one = proof.answer(value)
                if kept is not None:
                    kept.keep(one, link is not None and link.box)
                if not one.ok:
                    print(f"    ✕ out of its band: {one.value if one.value is not None else 'seen bad'}")
            except UmberError as why:
                print(f"✕ {why}", flush=True)
                if link is not None and link.box:
                    return FAULTS
    finally:
        if link is not None:
            link.close()
    if proof.now is not None:
        print("Left here; what was answered is kept." if kept is not None else "Left here.")
    elif proof.complete:
        if kept is not None:
            return SOUND  # whether the unit is proven is folded from what stands
        print("A trial: everything on the list was right. Nothing is kept of it, and no unit is proven by it.")
        return SOUND
    else:
        _suspects(proof.verdict())
    return FAULTS


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
    from umber_trunk.core.prove.test_list import NOTHING
    from umber_trunk.store.proofs import UnitProof

    if not args.hand.strip():
        raise InputError("Say who proves the unit: --hand NAME. The name stands on its certificate.")
    with opened(args.file) as project:
        kept = UnitProof(
            project,
            args.build,
            args.unit,
            args.hand,
            _meter_said(args),
            False if args.by_hand else None,
            args.anew,
            shelf(),
        )
        if args.as_is:
            kept.take_as_is(*args.as_is)
        proof = kept.load()
        if not proof.plan.measures:
            raise InputError(NOTHING)
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
        status = _told(proof.net, proof.prover, proof.verdict(), args.json)
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
        raise InputError("A meter’s error is over 0 and at most 10 ohm, its share over 0 and at most 0.2.")
    if args.two_wire:
        return Meter(False, two_ohm=ohm, two_share=share, amps=amps)
    return Meter(four_ohm=ohm, four_share=share, amps=amps)
