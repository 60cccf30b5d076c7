"""Start of the program: the shell commands, or the window."""

from __future__ import annotations

import os
import signal
import sys
import threading

STOPPED = 130


def _stopped(*_: object) -> None:
    os._exit(STOPPED)


def _in_utf8() -> None:
    """Begins anew where the locale has no letters for files' names and words: both are UTF-8 here; what is printed
    stays as the terminal has it."""
    if sys.getfilesystemencoding() != "utf-8" and not sys.flags.utf8_mode:
        env = {"PYTHONIOENCODING": sys.stdout.encoding or "ascii", **os.environ, "PYTHONUTF8": "1"}
        os.execve(sys.executable, [sys.executable, "-m", "umber_trunk", *sys.argv[1:]], env)


def run() -> int:
    """Runs the command line; Ctrl-C ends it quietly from the first moment, and work left behind can't hold it up."""
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, _stopped)
    _in_utf8()
    from umber_trunk.cli.main import main

    status = main()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the answer is out; nothing is left to stop
    if status == STOPPED or threading.active_count() > 1:
        # an interrupt in the middle of an import would end the process by the signal itself, whatever is returned here
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
    return status


if __name__ == "__main__":
    raise SystemExit(run())
