"""What a proof came to, in words or as JSON."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from umber_trunk.cli.proof_list import blind, say_blind
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out

if TYPE_CHECKING:
    from umber_trunk.core.prove.netlist import Netlist
    from umber_trunk.core.prove.session import Prover
    from umber_trunk.core.prove.verdict import Verdict


def verdict_told(net: Netlist, prover: Prover, verdict: Verdict, as_json: bool) -> int:
    """Prints what a proof came to; its exit status."""
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
    suspects_told(verdict)
    return FAULTS


def _merged(verdict: Verdict) -> list[dict[str, Any]]:
    """Faults by kind and wires, likeliest first, each with its own share; the same at several ends is one, with them
    all."""
    from umber_trunk.core.prove.faults import word_of

    return [
        {
            "what": one.fault.what,
            "where": one.fault.place,
            "probability": round(one.probability, 4),
            "group": one.group,
            "end": one.fault.end if len(one.ends) < 2 else "",
            "fault": word_of(one.fault),
            "words": str(one.words),
            "said": said_out(one.words),
            "ends": list(one.ends),
            "ohm": one.fault.ohm if one.fault.ohm else None,
            "ohm_low": one.fault.ohm_low if one.fault.ohm_low else None,
            "ohm_high": one.fault.ohm_high if one.fault.ohm_high else None,
            "mend": str(one.mend),
            "mended": said_out(one.mend),
        }
        for one in verdict.causes
    ]


def _alike(verdict: Verdict) -> list[list[str]]:
    """Fault words that no reading at the ends parts."""
    from umber_trunk.core.prove.faults import word_of

    return [[word_of(one.fault) for one in group] for group in verdict.alike if len(group) > 1]


def suspects_told(verdict: Verdict) -> None:
    """Prints who is suspected, likeliest first, and what the readings can’t part."""
    for first, *mates in verdict.alike[:12]:
        print(f"✕ {first.words}: {100 * first.probability:.0f} %. {first.mend:begins}.")
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
