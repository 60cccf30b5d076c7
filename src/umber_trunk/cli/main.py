"""Command line: one parser, one place where expected errors become a sentence and exit status 2."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from typing import NoReturn

from umber_trunk import __version__
from umber_trunk.core.errors import UmberError


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence instead of printing the usage."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message[:1].upper()}{message[1:].rstrip('.')}.\n")


def build_parser() -> argparse.ArgumentParser:
    """The whole command line."""
    from umber_trunk.cli import files, improve, sizes, windows

    parser = _Parser(prog="umber", description="Thinks a wiring harness through with its builder.")
    parser.add_argument("--version", action="version", version=f"umber {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)
    for module in (windows, files, sizes, improve):
        module.add_commands(commands)
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Runs one command; returns its exit status. Without a command the window opens."""
    words = list(sys.argv[1:] if argv is None else argv)
    args = build_parser().parse_args(words or ["open"])
    try:
        return int(args.run(args))
    except UmberError as why:
        print(f"umber: {why}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        sys.stderr.close()
        return 0
