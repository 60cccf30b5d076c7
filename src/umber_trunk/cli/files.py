"""Commands on harness files: new, check, solve, export, schema; import is in lists."""

from __future__ import annotations

import argparse
import sys
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np

from umber_trunk.cli.reading import analysed, opened, results_of
from umber_trunk.cli.terminal import FAULTS, SOUND, out, stoppable
from umber_trunk.core.errors import InputError, UmberError, Wanted
from umber_trunk.core.findings import Severity
from umber_trunk.core.harness.model import Design, Project
from umber_trunk.core.mend.cures import cures_of, cures_of_all, finding_of
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.sure import LOAD_SHARE, how_sure, of_hundred
from umber_trunk.core.sizes.twins import BAD_LUG_OHM, twins
from umber_trunk.core.solve.margins import LoadFigures, WireFigures, figures_of_case
from umber_trunk.core.solve.solution import joints_c
from umber_trunk.core.stages import exports
from umber_trunk.store.files import STREAMS, StoreError, target_of
from umber_trunk.store.jsonfile import schema_text
from umber_trunk.store.output import write_export
from umber_trunk.store.project import ProjectFile

COMMANDS = {
    "new": "make an empty harness file",
    "check": "findings of a harness",
    "mend": "one of a finding’s cures, tried first, as one step to undo",
    "status": "what each stage of the work is at, and what to do next",
    "solve": "voltages, currents and temperatures",
    "export": "a harness file to a wire list, cut list, workbook, cut sheet or JSON",
    "schema": "the JSON schema of a design, of a catalogue, or of all JSON answers",
}


def add_new(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--name", default="Untitled harness")
    parser.set_defaults(run=_new)


def add_check(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    _add_reading(parser)
    parser.set_defaults(run=_check)


def add_status(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_status)


STATUS_FORMAT = 1


def _status(args: argparse.Namespace) -> int:
    from umber_trunk.core.status import Facts, StageState, next_of, stage_states
    from umber_trunk.store.facts import facts_of

    results = analysed(args.file)

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
                    {"stage": s.stage, "state": s.state, "done": s.done, "of": s.of, "why": s.why} for s in states
                ],
                "next": {"stage": coming.stage, "text": coming.next},
            }
        )
    else:
        for s in states:
            print(f"{s.stage:6} {s.badge:9} {s.why}")
        print(f"Next, {coming.stage}: {coming.next}")
    return FAULTS if any(s.state == "faults" for s in states) else SOUND


def add_solve(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    _add_reading(parser)
    parser.add_argument(
        "--sure", action="store_true", help="how sure each verdict is, by the ± of lengths, loads and joints"
    )
    parser.set_defaults(run=_solve)


def _add_reading(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path)
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--json", action="store_true")


def add_export(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help="name of the file to write; - for standard output"
    )
    parser.add_argument("--revision", type=int, metavar="N", help="as it was at this revision")
    parser.add_argument("--format", choices=sorted(exports()), help="otherwise by the name's ending")
    parser.add_argument("--force", action="store_true", help="replace what is there")
    parser.set_defaults(run=_export)


def add_schema(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("of", nargs="?", default="design", choices=("design", "catalogue", "answers"))
    parser.set_defaults(run=_schema)


def _new(args: argparse.Namespace) -> int:
    ProjectFile.create(args.file, Design(project=Project(name=args.name))).close()
    print(f"{args.file} made.")
    return 0


def _check(args: argparse.Namespace) -> int:
    results = analysed(args.file, args.revision)
    findings = results.findings
    if args.json:
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
                    "values": {name: _plain(value) for name, value in f.values.items()},
                    "cures": [
                        {
                            "text": c.text,
                            "edit": c.edit is not None,
                            "leaves": list(c.leaves),
                            "was": c.was,
                            "then": c.then,
                        }
                        for c in cures.get(f.id, ())
                    ],
                    "cures_tried": f.id in tried or f.id not in cures,
                }
                for f in findings
            ]
        )
    else:
        for f in findings:
            untried = "May help: " if f.severity < Severity.NOTE else ""  # `umber mend` tries
            print(f"{f.severity.name.lower():8}{f.message} {untried}{f.cure}")
        if not findings:
            print("Nothing found.")
    return FAULTS if any(f.severity is Severity.FAULT for f in findings) else SOUND


def add_mend(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("finding", metavar="CODE:SUBJECT", help="as `umber check --json` names it")
    parser.add_argument("--which", type=int, default=1, metavar="N", help="which of its edits, from 1")
    parser.add_argument("--dry-run", action="store_true", help="say what mends it, change nothing")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_mend)


def _mend(args: argparse.Namespace) -> int:
    with opened(args.file, for_writing=not args.dry_run) as project:
        results = results_of(project.design)
        finding = finding_of(results, args.finding)
        if finding is None:
            like = [row.id for row in results.findings if row.id.split(":")[0] == args.finding.split(":")[0]]
            raise InputError(
                f"There is no finding “{args.finding}”."
                + (f" There are: {', '.join(like[:6])}." if like else " umber check names those there are.")
            )
        cures = stoppable(lambda wanted: cures_of(results, finding, wanted))
        edits = [cure for cure in cures if cure.edit is not None]
        if args.which < 1 or args.which > max(1, len(edits)):
            raise InputError(f"{finding.id} has {len(edits)} edits that mend it.")
        chosen = edits[args.which - 1] if edits else None
        if chosen is not None and chosen.edit is not None and not args.dry_run:
            project.commit(chosen.edit(project.design), f"mend {finding.id}: {chosen.text}"[:200])
    done = chosen is not None and not args.dry_run
    if args.json:
        out(
            {
                "finding": finding.id,
                "message": finding.message,
                "mended": done,
                "chosen": chosen.text if chosen else "",
                "cures": [
                    {"text": c.text, "edit": c.edit is not None, "leaves": list(c.leaves), "was": c.was, "then": c.then}
                    for c in cures
                ],
            }
        )
        return SOUND if chosen else FAULTS
    print(finding.message)
    for number, cure in enumerate(edits, 1):
        print(f"{'→' if cure is chosen else ' '} {number}  {cure.text}  ({cure.was} → {cure.then})")
    for cure in cures:
        if cure.edit is None:
            print(f"   by hand: {cure.text}")
    if chosen is None:
        print("umber: no edit mends it without bringing something new.", file=sys.stderr)
        return FAULTS
    print(f"{'Would mend it' if args.dry_run else 'Mended'}: {chosen.text}.")
    return SOUND


def _plain(value: object) -> object:
    """A value of a finding as JSON has it."""
    if isinstance(value, bool | str) or value is None:
        return value
    if isinstance(value, int | float | np.floating | np.integer):
        return _number(float(value))
    return str(value)


def _number(value: float) -> float | None:
    """JSON has no NaN: an unfed load has no volts."""
    return round(float(value), 6) if np.isfinite(value) else None


def _load_json(entry: LoadFigures) -> dict[str, Any]:
    return {
        "id": entry.load.id,
        "volts": _number(entry.volts),
        "drop_percent": _number(entry.drop_percent),
        "ok": entry.ok,
        "margin": _number(1 - entry.used),
        "surge_volts": None if entry.surge_v is None else _number(entry.surge_v),
        "sag_volts": _number(entry.sag_v),
        "wiring_drop_v": _number(entry.wiring_v),
        "limit": entry.rule,
        "collapsed": entry.collapsed,
    }


def _wire_json(figure: WireFigures) -> dict[str, Any]:
    return {
        "id": figure.wire.id,
        "amps": _number(figure.amps),
        "size": figure.shown_size,
        "conductor_c": _number(figure.conductor_c),
        "mean_c": _number(figure.mean_c),
        "length_m": _number(figure.length_m),
        "drop_v": _number(figure.drop_v),
        "governs": str(figure.worst.limit),
        "margins": {str(use.limit): _number(use.margin) for use in figure.uses},
        "ok": figure.ok,
    }


def solve_json(analysis: Results) -> dict[str, Any]:
    """Worst over all cases at the top, with the case that is worst for each limit; then each case on its own."""
    found = analysis.figures
    joints = {number: joints_c(found.solution.plant, case) for number, case in found.cases.items()}
    wires = [
        {
            **_wire_json(figure),
            "joints_c": [_number(one) for one in joints[figure.case][figure.row].tolist()],
            "case": figure.case,
            "worst_cases": {str(use.limit): use.case for use in figure.uses if use.case},
        }
        for figure in found.wires.values()
    ]
    loads = [{**_load_json(entry), "case": entry.case} for entry in found.loads.values()]
    cases = []
    for number, case in enumerate(found.solution.cases):
        alone = figures_of_case(found, number)
        cases.append(
            {
                "id": case.case.id,
                "name": case.case.name,
                "settled": case.settled,
                "loads": [_load_json(entry) for entry in alone.loads.values()],
                "wires": [_wire_json(figure) for figure in alone.wires.values()],
            }
        )
    pairs = [
        {
            "wires": list(one.wires),
            "conductors": one.conductors,
            "worst": one.worst,
            "amps": _number(one.amps),
            "conductor_c": _number(one.conductor_c),
            "limit_c": _number(one.limit_c),
            "one_opens": {"amps": _number(one.open_amps), "conductor_c": _number(one.open_c), "ok": one.ok},
            "bad_lug": {
                "ohm": BAD_LUG_OHM,
                "amps": _number(one.bad_amps),
                "conductor_c": _number(one.bad_c),
                "ok": one.bad_c <= one.limit_c,
            },
        }
        for one in analysis.once(twins)
    ]
    return {"loads": loads, "wires": wires, "cases": cases, "twins": pairs}


def _solve(args: argparse.Namespace) -> int:
    analysis = analysed(args.file, args.revision)
    answer = solve_json(analysis)
    doubts = stoppable(lambda wanted: how_sure(analysis, wanted)) if args.sure else ()
    if args.json:
        if args.sure:
            answer["sure"] = [
                {
                    "kind": one.kind,
                    "id": one.id,
                    "used": _number(one.used),
                    "sd": _number(one.sd),
                    "chance_ok": _number(one.chance),
                    "because": one.because,
                }
                for one in doubts
            ]
        out(answer)
        return 0
    for load in answer["loads"]:
        volts = (
            "has no solution"
            if load["collapsed"]
            else "unfed"
            if load["volts"] is None
            else f"{load['volts']:.2f} V {load['drop_percent']:.1f} % down"
        )
        print(f"{'ok  ' if load['ok'] else 'SHORT'} {load['id']:24} {volts} ({load['case']})")
    for wire in sorted(analysis.figures.wires.values(), key=lambda w: w.rank):
        print(
            f"{'ok  ' if wire.ok else 'LOOK'} {wire.wire.id:10} {wire.shown_size:10} {wire.amps:8.2f} A "
            f"{wire.conductor_c:6.0f} °C {wire.length_m:7.2f} m  {wire.worst.limit} {wire.worst.margin:+.0%}"
        )
    for one in analysis.once(twins):
        print(f"{'ok  ' if one.ok else 'NOTE'} {', '.join(one.wires)}: {one.told}")
    for doubt in doubts:
        if 0.005 < doubt.chance < 0.995:
            print(f"     {doubt.kind} {doubt.id}: {of_hundred(doubt.chance)}; most of the doubt is {doubt.because}")
    if doubts:
        print(
            f"     All others in more than 99 of 100 as said, by the ± of lengths, {200 * LOAD_SHARE:.0f} % of each "
            "load and the joints nobody measured."
        )
    return 0


def _export(args: argparse.Namespace) -> int:
    kinds = exports()
    if args.format is None and args.output is None:
        raise UmberError("Say what to write: -o NAME.pdf, or --format with one of " + ", ".join(kinds) + ".")
    if args.format is None:
        # -wires.csv before .csv; any other .csv is the wire list
        endings = {export.ending: kind for kind, export in kinds.items()} | {".csv": "csv"}
        matches = [ending for ending in endings if str(args.output).lower().endswith(ending)]
        if not matches:
            raise UmberError(f"{args.output.name}: the ending names no format; use --format.")
        args.format = endings[max(matches, key=len)]
    out = args.output or args.file.with_name(args.file.stem + kinds[args.format].ending)
    streamed = str(out) in STREAMS
    if not streamed and target_of(out).exists() and not args.force:
        raise StoreError(f"{out} exists already; use --force to replace it.")
    write_export(analysed(args.file, args.revision), args.format, out)
    print(f"{out} written.", file=sys.stderr if streamed else sys.stdout)
    return SOUND


def _schema(args: argparse.Namespace) -> int:
    if args.of == "catalogue":
        from umber_trunk.store.catalogues import catalogue_schema

        print(catalogue_schema(), end="")
    elif args.of == "answers":
        print(resources.files("umber_trunk").joinpath("data/schema/answers.json").read_text("utf-8"), end="")
    else:
        print(schema_text(), end="")
    return 0
