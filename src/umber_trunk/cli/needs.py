"""The say command: lines into a harness file, as the window's line takes them."""

from __future__ import annotations

import argparse
import sys
from functools import partial
from pathlib import Path
from typing import Any

from umber_trunk.cli.reading import opened, read_design, shelf
from umber_trunk.cli.terminal import BAD_INPUT, DOUBTS_LEFT, SOUND, out, refusal_out, stoppable
from umber_trunk.core.errors import InputError, UmberError, Wanted
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.hear import Heard, Listener
from umber_trunk.core.language.next_words import next_lines

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
    parser.add_argument(
        "--next", action="store_true", help="print how the last line may go on, as Tab does; change nothing"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_say)


def lines_of(words: list[str]) -> list[str]:
    """The lines given, those of standard input in place of "-"; blank ones and # remarks are passed over."""
    found: list[str] = []
    for word in words:
        found += _standard_input().splitlines() if word == "-" else [word]
    lines = [line.strip() for line in found if line.strip() and not line.strip().startswith("#")]
    if not lines:
        raise InputError.of("shell.no-line-to-say")
    return lines


def _standard_input() -> str:
    try:
        text = sys.stdin.read(MOST_INPUT + 1)
    except UnicodeDecodeError:
        raise InputError.of("shell.standard-input-is-not-text") from None
    if len(text) > MOST_INPUT:
        raise InputError.of("shell.standard-input-is-over-characters", most=MOST_INPUT)
    return text


def _said(design: Design, line: str, listener: Listener, _: Wanted) -> tuple[Design, Heard]:
    heard = listener.hear(design, line)
    return (listener.done(design, heard) if heard.ok else design), heard


def _say(args: argparse.Namespace) -> int:
    lines = lines_of(args.lines) if not args.next else args.lines
    if args.next:
        design, listener = read_design(args.file), Listener(shelf(args.file), args.decimal or "")
        found = next_lines(design, lines[-1], listener.hear(design, lines[-1]), shelf(args.file))
        if args.json:
            out({"said": [], "status": SOUND, "next": found})
        else:
            print("\n".join(found))
        return SOUND
    with opened(args.file, for_writing=not args.dry_run) as project:
        design, status, told = project.design, SOUND, []
        listener = Listener(shelf(args.file), args.decimal or "")
        for line in lines:
            no: UmberError | None = None
            try:
                changed, heard = stoppable(partial(_said, design, line, listener))
                if heard.wrong:
                    no = InputError.of("language.line-not-understood", why=heard.wrong)
            except UmberError as why:
                heard, changed, no = listener.hear(design, line), design, why
            told.append(_told(line, heard, no))
            if no is not None:
                status = DOUBTS_LEFT if any(piece.doubt for piece in heard.pieces) else BAD_INPUT
                break
            if changed != design and not args.dry_run:
                project.commit(changed, f"say {line}"[:200])
            design = changed
    _print(told, args.json, status, len(lines))
    return status


def _told(line: str, heard: Heard, no: UmberError | None) -> dict[str, Any]:
    return {
        "line": line,
        "what": heard.what,
        "name": heard.name,
        "ok": no is None,
        "error": "" if no is None else str(no),
        "refused": refusal_out(no),
        "understood": [{"kind": p.kind, "meaning": p.meaning, "ok": p.ok, "doubt": p.doubt} for p in heard.pieces],
    }


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
