"""Start of the program: the shell commands, or the window."""

from __future__ import annotations

import os
import signal
import sys
import threading

STOPPED = 130


def _stopped(*_: object) -> None:
    os._exit(STOPPED)


def run() -> int:
    """Runs the command line; Ctrl-C ends it quietly from the first moment, and work left behind can't hold it up."""
    if signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, _stopped)
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
