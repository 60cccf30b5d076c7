"""Command line: one parser, one place where expected errors become a sentence and exit status 2."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module
from typing import NoReturn

from umber_trunk import __version__
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
    words = words or ["open"]
    args = build_parser(words[0]).parse_args(words)
    try:
        return int(args.run(args))
    except UmberError as why:
        print(f"umber: {why}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        sys.stderr.close()
        return 0
