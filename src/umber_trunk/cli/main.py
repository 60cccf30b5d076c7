"""Command line: one parser, one place where errors become a sentence and an exit status."""

from __future__ import annotations

import argparse
import signal
import sys
import threading
from collections.abc import Sequence
from importlib import import_module
from typing import NoReturn

from umber_trunk import __version__
from umber_trunk.cli.terminal import BAD_INPUT, LOST_OUTPUT, STOPPED, output_lost, plain_streams, report_bug
from umber_trunk.core.errors import UmberError


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence instead of printing the usage."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message[:1].upper()}{message[1:].rstrip('.')}.\n")


COMMANDS = {
    "windows": ("open", "demo", "shots", "bench"),
    "files": ("new", "import", "check", "solve", "export", "schema"),
    "sizes": ("size", "pack"),
    "improve": ("optimise", "worth"),
    "saying": ("say",),
    "keeping": ("history", "freeze", "copies", "restore"),
}
"""Module → its commands. Only the module asked for is imported: the libraries behind the others take time."""


def build_parser(command: str = "") -> argparse.ArgumentParser:
    """The command line for one command, or for all when the command is unknown or none."""
    parser = _Parser(prog="umber", description="Thinks a wiring harness through with its builder.")
    parser.add_argument("--version", action="version", version=f"umber {__version__}")
    if command == "--version":
        return parser
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)
    asked = [name for name, known in COMMANDS.items() if command in known]
    for name in asked or COMMANDS:
        import_module(f"umber_trunk.cli.{name}").add_commands(commands)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command; returns its exit status. Without a command the window opens."""
    words = list(sys.argv[1:] if argv is None else argv)
    with plain_streams():
        try:
            status = _run(words or ["open"])
            sys.stdout.flush()
        except OSError as why:
            return output_lost(why)
        except KeyboardInterrupt:
            print("umber: stopped.", file=sys.stderr)
            return STOPPED
        return status


def _run(words: list[str]) -> int:
    try:
        args = build_parser(words[0]).parse_args(words)
        if words[0] not in COMMANDS["windows"] and threading.current_thread() is threading.main_thread():
            # only now: an interrupt in the middle of an import comes out as any error
            signal.signal(signal.SIGINT, signal.default_int_handler)
        return int(args.run(args))
    except UmberError as why:
        print(f"umber: {why}", file=sys.stderr)
        return BAD_INPUT
    except OSError as why:
        if why.filename is not None or why.errno not in LOST_OUTPUT:
            return report_bug(why)  # every file is meant to be opened where its errors become sentences
        raise
    except Exception as why:  # noqa: BLE001 the one end of all bugs
        return report_bug(why)
