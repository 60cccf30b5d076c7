"""Commands of the stage Prove: the test list, a proof by a meter, a simulated one or by hand, plugged in, how often
faults are met, drills."""

from __future__ import annotations

import argparse
import math
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import FAULTS, SOUND, out

if TYPE_CHECKING:
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.netlist import Netlist
    from umber_trunk.core.prove.proof import Proof
    from umber_trunk.store.proofs import UnitProof

COMMANDS = {
    "tests": "what to test, in which order, and what each reading should be",
    "prove": "prove a unit: by a simulated one, by a meter, or by readings typed in; names the fault",
    "meter": "the simulated meter with a unit under test, as a server; or one reading of a real one",
    "practise": "drills: find the fault, the cavity on a face, what threads on first",
    "faults": "how often each kind of fault is met: by the first guess, and by what the shop found",
}


def net_of(path: Path) -> Netlist:
    """A harness file unplugged, with the shop's parts."""
    from umber_trunk.cli.reading import analysed
    from umber_trunk.core.prove.netlist import netlist

    return analysed(path, upto="sizes").once(netlist)


def finite(value: float | None) -> float | None:
    """A figure, or None for what JSON has no number for."""
    return value if value is not None and math.isfinite(value) else None


def add_tests(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--two-wire", action="store_true", help="a hand meter without four-wire leads")
    parser.add_argument("--by-hand", action="store_true", help="without a switch box")
    _add_amps(parser)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_tests)


def _add_amps(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--amps",
        metavar="A",
        help="what the current-limited supply for millivolts gives, 20 where nothing is said; 0: there is none",
    )


def _amps(args: argparse.Namespace) -> float:
    """The supply's amperes. InputError for what no bench has."""
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.meter import MOST_AMPS, Meter
    from umber_trunk.core.units import parse_number

    if args.amps is None:
        return Meter().amps
    amps = parse_number(args.amps.strip().removesuffix("A").strip())
    if not 0 <= amps <= MOST_AMPS:
        raise InputError(f"{args.amps} is no current for millivolts: 0 (no supply) to {MOST_AMPS:g} A.")
    return amps


def _tests(args: argparse.Namespace) -> int:
    from umber_trunk.core.prove.meter import Meter
    from umber_trunk.core.prove.plan import make_plan, test_volts

    net = net_of(args.file)
    plan = make_plan(net, Meter(four_wire=not args.two_wire, amps=_amps(args)), not args.by_hand)
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
                        "text": t.text,
                        "told": t.told,
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
                "cannot_tell": _blind(net, plan),
            }
        )
        return SOUND
    for t in plan.tests:
        band = f"  {_ohms(t.expect)}, {_ohms(t.low)} to {_ohms(t.high)} {t.unit}" if t.unit else ""
        print(f"{t.n:4} {t.kind:11} {t.text}{band}")
        if t.told and t.kind in ("insulation", "load", "shield", "earth"):
            print(f"     {t.told}")
    print(
        f"{len(plan.tests)} tests, {plan.nets} nets: {plan.shorts_box} group tests for shorts with a switch box, "
        f"{plan.shorts_hand} by hand, not {plan.pairs} pairs."
    )
    print(f"Leads are placed {plan.moves} times ({plan.moves_bound} at least); about {plan.seconds / 60:.0f} minutes.")
    _say_blind(net, plan)
    print(Meter(four_wire=not args.two_wire, amps=_amps(args)).told)
    print("High voltage and power only once all before was sound; the local code and a licensed person decide.")
    return SOUND


def _blind(net: Netlist, plan: Any) -> list[dict[str, str]]:
    """What the list's readings can't tell."""
    from umber_trunk.core.prove.blind import cannot_tell

    return [{"wire": one.wire, "why": one.why, "would": one.would} for one in cannot_tell(net, plan)]


def _say_blind(net: Netlist, plan: Any) -> None:
    together: dict[tuple[str, str], list[str]] = {}
    for one in _blind(net, plan):
        together.setdefault((one["why"], one["would"]), []).append(one["wire"])
    for (why, would), wires in together.items():
        print(f"{', '.join(wires[:12])}{' …' if len(wires) > 12 else ''}: {why}. To tell: {would}.")


def _ohms(value: float | None) -> str:
    return "–" if value is None else f"{value:.4g}"


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
    _add_amps(parser)
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
    from umber_trunk.core.prove.plan import NOTHING, make_plan

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
                "cannot_tell": _blind(net, prover.plan),
                "taken": [
                    {
                        "test": t.test,
                        "kind": t.probe.kind,
                        "from": ",".join(map(net.said, t.probe.a)),
                        "to": ",".join(map(net.said, t.probe.b)),
                        "ohm": finite(t.ohm),
                        "ok": t.ok,
                        "expect": finite(t.expect),
                    }
                    for t in prover.taken
                ],
            }
        )
        return SOUND if word == "sound" else FAULTS
    print(f"{len(prover.taken)} readings, {len(prover.taken) - len(listed)} of them to follow up.")
    if word == "sound":
        print("Sound: every reading is in its own band. Power, polarity and load are still to be tried.")
        _say_blind(net, prover.plan)
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
            "ohm": finite(one.fault.ohm) if one.fault.ohm else None,
            "ohm_low": finite(one.fault.ohm_low) if one.fault.ohm_low else None,
            "ohm_high": finite(one.fault.ohm_high) if one.fault.ohm_high else None,
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
    band = f"  ({_ohms(task.low)} to {_ohms(task.high)} {task.unit})" if task.unit else ""
    print(f"{number}{task.kind}: {task.text}{band}")
    if task.told:
        print(f"    {task.told}")
    print(end="", flush=True)


def _prove_logged(args: argparse.Namespace) -> int:
    from umber_trunk.core.errors import InputError
    from umber_trunk.core.prove.faults import parse_fault
    from umber_trunk.core.prove.plan import NOTHING
    from umber_trunk.core.prove.simulate import Unit
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
    amps = _amps(args)
    if not args.meter_error:
        return Meter(four_wire=not args.two_wire, amps=amps)
    ohm, share = (parse_number(one.removesuffix("%").strip()) for one in args.meter_error)
    share = share / 100 if args.meter_error[1].strip().endswith("%") else share
    if not (0 < ohm <= 10 and 0 < share <= 0.2):
        raise InputError("A meter’s error is over 0 and at most 10 ohm, its share over 0 and at most 0.2.")
    if args.two_wire:
        return Meter(False, two_ohm=ohm, two_share=share, amps=amps)
    return Meter(four_ohm=ohm, four_share=share, amps=amps)


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
            raise InputError(f"“{many}” is no count: a number, or +1 for one more.")
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
            raise InputError("Say --sim FILE, or which meter to read: tcp:HOST:PORT, /dev/… or visa:RESOURCE.")
        with MeterLink(args.address) as link:
            ohm = parse_answer(link.ask(ASKS[args.kind]), args.address)
        print("OL" if math.isinf(ohm) else f"{ohm:g} ohm")
        return SOUND
    if not 0 <= args.noise <= 1000:
        raise InputError("The noise is from 0 to 1000 times the meter's usual error.")
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
