"""Commands that judge a whole harness: check, mend, status."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from umber_trunk.cli.reading import add_reading, analysed, opened, results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, said_out, stoppable, value_out, worded
from umber_trunk.core.errors import InputError, Wanted
from umber_trunk.core.sentences import Message, say

if TYPE_CHECKING:
    from umber_trunk.core.findings import Finding
    from umber_trunk.core.mend.cures import Cure
    from umber_trunk.core.results import Results
    from umber_trunk.core.status import StageState

COMMANDS = {
    "check": "findings of a harness",
    "mend": "one of a finding’s cures, tried first, as one step to undo",
    "status": "what each stage of the work is at, and what to do next",
}


def add_check(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    add_reading(parser)
    parser.set_defaults(run=_check)


def add_mend(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("finding", metavar="CODE:SUBJECT", help="as `umber check --json` names it")
    parser.add_argument("--which", type=int, default=1, metavar="N", help="which of its edits, from 1")
    parser.add_argument("--dry-run", action="store_true", help="say what mends it, change nothing")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_mend)


def add_status(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_status)


def _check(args: argparse.Namespace) -> int:
    from umber_trunk.core.findings import Severity

    results = analysed(args.file, args.revision, upto="findings")
    findings = results.findings
    if args.json:
        from umber_trunk.core.mend.cures import cures_of_all

        cures, tried = stoppable(lambda wanted: cures_of_all(results, wanted))
        out(
            [
                {
                    "code": f.code,
                    "severity": f.severity.name.lower(),
                    "stage": f.stage,
                    "subject": f.subject,
                    "message": f.message,
                    "cure": f.cure,
                    "id": f.id,
                    "values": {name: value_out(value) for name, value in f.values.items()},
                    "told": {name: said_out(one) for name, one in f.values.items() if isinstance(one, Message)},
                    "cures": [_cure_out(cure) for cure in cures.get(f.id, ())],
                    "cures_tried": f.id in tried or f.id not in cures,
                }
                for f in findings
            ]
        )
    else:
        for f in findings:
            cure = say("check.may-help", cure=f.cure) if f.severity < Severity.NOTE else f.cure  # `umber mend` tries
            print(f"{say(f'check.{f.severity.name.lower()}'):8}{f.message} {cure}")
        if not findings:
            print(say("check.nothing"))
    return FAULTS if any(f.severity is Severity.FAULT for f in findings) else SOUND


def _cure_out(cure: Cure) -> dict[str, Any]:
    """One way to mend a finding as JSON has it; for advice nothing stands before and after."""
    return {
        **worded(text=cure.text),
        "edit": cure.edit is not None,
        "leaves": list(cure.leaves),
        **worded(was=cure.was, then=cure.then),
    }


def _mend(args: argparse.Namespace) -> int:
    from umber_trunk.core.mend.cures import cures_of

    with opened(args.file, for_writing=not args.dry_run) as project:
        results = results_of(project.design, upto="findings")
        finding = _finding_meant(results, args.finding)
        cures = stoppable(lambda wanted: cures_of(results, finding, wanted))
        edits = [cure for cure in cures if cure.edit is not None]
        if args.which < 1 or args.which > max(1, len(edits)):
            raise InputError.of("shell.several-edits-mend", finding=finding.id, count=len(edits))
        chosen = edits[args.which - 1] if edits else None
        done = chosen is not None and not args.dry_run
        if done and chosen is not None and chosen.edit is not None:
            project.commit(chosen.edit(project.design), f"mend {finding.id}: {chosen.text}"[:200])
    if args.json:
        out(
            {
                "finding": finding.id,
                "message": finding.message,
                "said": said_out(finding.says),
                "mends": said_out(finding.mends),
                "mended": done,
                "chosen": str(chosen.text) if chosen else "",
                "cures": [_cure_out(cure) for cure in cures],
            }
        )
        return SOUND if chosen else FAULTS
    print(finding.message)
    for number, cure in enumerate(edits, 1):
        print(f"{'→' if cure is chosen else ' '} {number}  {cure.text}  ({cure.was} → {cure.then})")
    for cure in cures:
        if cure.edit is None:
            print(f"   {say('mend.by-hand', text=cure.text)}")
    if chosen is None:
        print(f"umber: {say('mend.none')}", file=sys.stderr)
        return FAULTS
    print(say("mend.would" if args.dry_run else "mend.done", text=chosen.text))
    return SOUND


def _finding_meant(results: Results, name: str) -> Finding:
    from umber_trunk.core.mend.cures import finding_of

    finding = finding_of(results, name)
    if finding is not None:
        return finding
    like = [row.id for row in results.findings if row.id.split(":")[0] == name.split(":")[0]]
    told = f" There are: {', '.join(like[:6])}." if like else " umber check names those there are."
    raise InputError.of("shell.no-finding", name=name, told=told)


STATUS_FORMAT = 1


def _status(args: argparse.Namespace) -> int:
    from umber_trunk.core.status import Facts, next_of, stage_states
    from umber_trunk.store.facts import facts_of

    results = analysed(args.file, upto="findings")

    def work(wanted: Wanted) -> tuple[StageState, ...]:
        facts = Facts()
        if args.file.suffix.lower() != ".json":
            with opened(args.file, for_writing=False) as project:
                facts = facts_of(project, results, wanted)
        return stage_states(results, facts)

    states = stoppable(work)
    coming = next_of(states)
    if args.json:
        out(
            {
                "format": STATUS_FORMAT,
                "stages": [
                    {
                        "stage": s.stage,
                        "state": s.state,
                        "done": s.done,
                        "of": s.of,
                        "why": str(s.why),
                        "said": said_out(s.why),
                    }
                    for s in states
                ],
                "next": {"stage": coming.stage, "text": str(coming.next), "said": said_out(coming.next)},
            }
        )
    else:
        for s in states:
            print(f"{s.stage:6} {s.badge:9} {s.why}")
        print(f"Next, {coming.stage}: {coming.next}")
    return FAULTS if any(s.state == "faults" for s in states) else SOUND
