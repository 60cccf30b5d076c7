"""Command line: one parser, one place where errors become a sentence and an exit status."""

from __future__ import annotations

import argparse
import ast
import gc
import os
import re
import signal
import sys
import threading
from collections.abc import Sequence
from contextlib import suppress
from functools import cache, partial
from importlib import import_module
from pathlib import Path
from typing import NoReturn

from umber_trunk import __version__
from umber_trunk.cli.terminal import (
    BAD_INPUT,
    LOST_OUTPUT,
    STOPPED,
    out,
    output_lost,
    plain_streams,
    refusal_out,
    report_bug,
)
from umber_trunk.core.errors import UmberError
from umber_trunk.core.stages import OTHER_COMMANDS, STAGES
from umber_trunk.core.voice import LANGUAGE_ASKED, speak


class UsageError(UmberError):
    """A command line that can't be read: an option or a word there isn't. Its sentence begins with the command."""


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence instead of printing the usage."""

    def error(self, message: str) -> NoReturn:
        why = f"{message[:1].upper()}{message[1:].rstrip('.')}."
        raise UsageError.of("shell.command-line", command=self.prog, why=why)


@cache
def known_commands() -> dict[str, tuple[str, str]]:
    """Command → its module and what it does, by the `COMMANDS` each module of the shell declares. They are read, not
    run: the libraries behind them take time."""
    found, folder = {}, Path(__file__).parent
    for module in (*(name for stage in STAGES for name in stage.commands), *OTHER_COMMANDS):
        text = (folder / f"{module}.py").read_text("utf-8")
        declared = re.search(r"^COMMANDS = (\{.*?^\})", text, re.MULTILINE | re.DOTALL)
        assert declared is not None, module
        found.update({name: (module, told) for name, told in ast.literal_eval(declared[1]).items()})
    return found


USUAL_HELP = {
    "act": "what to do with it", "ambient": "air round it", "b": "what the first is held against", "copy": "a copy, or a harness file", "cores": "how many there are",
    "csv": "the same as CSV", "drill": "which one", "end": "an end of the harness, by its id", "fault": "a fault of the simulated unit: KIND:WIRE[@END][:OHM]",
    "file": "a harness file, or a design as JSON", "hand": "who does it", "hands": "how many work at it", "height": "the crimp height to come back to, in mm",
    "jacket": "of its insulation", "json": "the answer as JSON", "kind": "what it measures", "list": "a wire list or a design", "make": "how the conductor is made",
    "metal": "of the conductor", "name": "what it is called", "of": "of what", "parallel": "conductors side by side", "port": "the port to listen at; 0 takes a free one",
    "return": "its way back", "scatter": "how much its readings scatter", "school": "everything of one operation first, or wire by wire", "script": "a file of lines and commands",
    "seed": "the same seed, the same readings", "segment": "a segment, by its id", "series": "conductors one after another", "side": "from which it is seen", "unit": "BUILD/UNIT, as `units` lists them",
    "units": "how many are built", "what": "what to take", "who": "whose decision it is", "why": "the reason, in words", "wire": "a wire, by its id", "wires": "how many wires the made-up harness has",
}  # fmt: skip
"""What arguments are that mean the same wherever nothing else is said of them."""


def build_parser(command: str = "") -> argparse.ArgumentParser:
    """The command line; once one command is named, that alone is there, with its options."""
    parser = _Parser(prog="umber", description="Thinks a wiring harness through with its builder.")
    parser.add_argument("--version", action="version", version=f"umber {__version__}")
    parser.add_argument("--timings", action="store_true", help="before a command: where its time goes, on stderr")
    if command == "--version":
        return parser
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)
    known = known_commands()
    for name, (module, told) in {command: known[command]}.items() if command in known else known.items():
        one = commands.add_parser(name, help=told.replace("%", "%%"))
        if name == command:
            getattr(import_module(f"umber_trunk.cli.{module}"), f"add_{name}")(one)
            for action in one._actions:
                action.help = action.help or USUAL_HELP.get(action.dest)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command; returns its exit status. Without a command the window opens."""
    words = list(sys.argv[1:] if argv is None else argv)
    speak(os.environ.get(LANGUAGE_ASKED, ""))
    gc.set_threshold(50_000, 20, 100)  # figures are values without cycles: looking for those took a sixth of an edit
    with plain_streams():
        try:
            if words[:1] == ["--timings"]:
                from umber_trunk.cli.timings import timed

                status = timed(partial(_run, words[1:] or ["--help"]))
            else:
                status = _run(words or ["open"])
            sys.stdout.flush()
        except OSError as why:
            return output_lost(why)
        except KeyboardInterrupt:
            print("umber: stopped.", file=sys.stderr)
            return STOPPED
        return status


WRITTEN = ("output", "svg", "write", "save")
"""The options that name a file to write."""


def _refuse_own_input(args: argparse.Namespace) -> None:
    """UmberError where what a command reads is also what it would write: a shelf, a list, a catalogue."""
    paths = {name: path for name, path in vars(args).items() if isinstance(path, Path)}
    for name in paths.keys() & set(WRITTEN):
        for other in paths.keys() - set(WRITTEN):
            with suppress(OSError, ValueError):
                if paths[name].samefile(paths[other]):
                    raise UmberError.of("shell.never-written-onto-what-is-read", name=paths[name].name)


def _run(words: list[str]) -> int:
    if words[0] not in known_commands() and not words[0].startswith("-") and Path(words[0]).suffix:
        words = ["open", *words]  # a file alone opens it, as a double click does
    try:
        args = build_parser(words[0]).parse_args(words)
        if (
            known_commands().get(words[0], ("",))[0] != "windows"
            and threading.current_thread() is threading.main_thread()
        ):
            # only now: an interrupt in the middle of an import comes out as any error
            signal.signal(signal.SIGINT, signal.default_int_handler)
        _refuse_own_input(args)
        return int(args.run(args))
    except UmberError as why:
        print(why if isinstance(why, UsageError) else f"umber: {why}", file=sys.stderr)
        if "--json" in words:
            out({"refused": refusal_out(why)})
        return BAD_INPUT
    except OSError as why:
        if why.filename is not None or why.errno not in LOST_OUTPUT:
            return report_bug(why)  # every file is meant to be opened where its errors become sentences
        raise
    except Exception as why:  # noqa: BLE001 the one end of all bugs
        return report_bug(why)
