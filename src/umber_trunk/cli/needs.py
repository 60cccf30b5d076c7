"""The say command: lines into a harness file, as the window's line takes them."""

from __future__ import annotations

import argparse
import re
import sys
from functools import partial
from pathlib import Path
from typing import Any

from umber_trunk.cli.reading import opened, shelf
from umber_trunk.cli.terminal import BAD_INPUT, DOUBTS_LEFT, SOUND, out, stoppable
from umber_trunk.core.errors import InputError, UmberError, Wanted
from umber_trunk.core.fuses.fit import fit_fuses
from umber_trunk.core.fuses.place import place_fuses
from umber_trunk.core.harness.model import Design
from umber_trunk.core.harness.remove import remove
from umber_trunk.core.needs.enter import enter
from umber_trunk.core.needs.line import Need, parse_need
from umber_trunk.core.sizes.propose import propose

MOST_INPUT = 2_000_000


COMMANDS = {
    "say": "lines into a harness, as they are said: supply, boxes, loads, cases",
}


def add_say(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("lines", nargs="+", metavar="LINE", help="one line each; - reads them from standard input")
    parser.add_argument("--decimal", choices=("comma", "point"), help="which mark stands before decimals")
    parser.add_argument("--dry-run", action="store_true", help="say what was understood, change nothing")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_say)


REMOVABLE = {
    "load": "loads", "supply": "supplies", "end": "ends", "wire": "wires", "fuse": "fuses", "zone": "zones", "case": "cases", "converter": "converters",
    "segment": "segments", "point": "points",
}  # fmt: skip
REMOVED = re.compile(rf"remove ({'|'.join(REMOVABLE)}) (\S.*)", re.IGNORECASE)


def lines_of(words: list[str]) -> list[str]:
    """The lines given, those of standard input in place of "-"; blank ones and # remarks are passed over."""
    found: list[str] = []
    for word in words:
        found += _standard_input().splitlines() if word == "-" else [word]
    lines = [line.strip() for line in found if line.strip() and not line.strip().startswith("#")]
    if not lines:
        raise InputError("There is no line to say.")
    return lines


def _standard_input() -> str:
    try:
        text = sys.stdin.read(MOST_INPUT + 1)
    except UnicodeDecodeError:
        raise InputError("Standard input is not text in UTF-8.") from None
    if len(text) > MOST_INPUT:
        raise InputError(f"Standard input is over {MOST_INPUT} characters, the most that is read.")
    return text


def supply_volts(design: Design) -> float:
    """Volts of the first supply, by which drop classes in volts are read."""
    return design.supplies[0].volts if design.supplies else 12.0


def said(design: Design, line: str, decimal: str) -> tuple[Design, Need]:
    """The design with a line in it, and what was understood. "fit fuses", "place fuses" and "remove wire W05" do as their buttons."""
    command = " ".join(line.lower().split())
    if command in ("fit fuses", "place fuses"):
        found = propose(design, shelf=shelf()).figures
        done = fit_fuses(design, found.solution) if command == "fit fuses" else place_fuses(design, found).design
        return done, Need(what=command, name=command)
    gone = REMOVED.fullmatch(" ".join(line.split()))
    if gone is not None:
        table, part = REMOVABLE[gone[1].lower()], gone[2]
        return remove(design, table, part), Need(what="remove", name=part)
    project = design.project
    need = parse_need(line, supply_volts(design), decimal or project.decimal, project.motor_efficiency)
    return (enter(design, need), need) if need.ok else (design, need)


def _said(design: Design, line: str, decimal: str, _: Wanted) -> tuple[Design, Need]:
    return said(design, line, decimal)


def _say(args: argparse.Namespace) -> int:
    lines = lines_of(args.lines)
    with opened(args.file, for_writing=not args.dry_run) as project:
        design, status, told = project.design, SOUND, []
        for line in lines:
            error = ""
            try:
                changed, need = stoppable(partial(_said, design, line, args.decimal or ""))
            except UmberError as why:
                need, changed, error = (
                    parse_need(line, supply_volts(design), args.decimal or design.project.decimal),
                    design,
                    str(why),
                )
            if not need.ok and not error:
                error = "; ".join(fault.rstrip(".") for fault in need.faults) + "."
            told.append(_told(line, need, error))
            if error:
                status = DOUBTS_LEFT if any(piece.doubt for piece in need.pieces) else BAD_INPUT
                break
            if changed != design and not args.dry_run:
                project.commit(changed, f"say {line}"[:200])
            design = changed
    _print(told, args.json, status, len(lines))
    return status


def _told(line: str, need: Need, error: str) -> dict[str, Any]:
    return {
        "line": line, "what": need.what, "name": need.name, "ok": not error, "error": error,
        "understood": [{"kind": p.kind, "meaning": p.meaning, "ok": p.ok, "doubt": p.doubt} for p in need.pieces],
    }  # fmt: skip


def _print(told: list[dict[str, Any]], as_json: bool, status: int, asked: int) -> None:
    if as_json:
        out({"said": told, "status": status})
        return
    for one in told:
        read = (
            ", ".join(f"{piece['kind']}: {piece['meaning']}" for piece in one["understood"] if piece["ok"])
            or one["what"]
        )
        print(f"{'ok   ' if one['ok'] else 'NOT  '}{one['line']}\n     {read}")
        if one["error"]:
            print(f"umber: {one['error']}", file=sys.stderr)
    if status and len(told) < asked:
        print(f"umber: stopped at line {len(told)} of {asked}; the lines before it are in the file.", file=sys.stderr)
