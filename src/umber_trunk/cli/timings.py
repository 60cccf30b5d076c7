"""Where the time of a command goes: `umber --timings COMMAND …` answers as the command does, and says on stderr what
was loaded and what was worked out, in CPU time of this process.

Loading is each library's own, what it loads in turn counted there; working out is by function with all that it calls,
so that one stands within another. Looking takes time itself: the shares tell, not the sums.
"""

from __future__ import annotations

import builtins
import cProfile
import pstats
import sys
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from umber_trunk.cli import terminal

SHOWN, LEAST_SHARE = 14, 0.02


@contextmanager
def loading_timed(seconds: dict[str, float]) -> Iterator[None]:
    """Adds up what loading each library takes, in seconds of CPU."""
    plain, inside = builtins.__import__, [0.0]

    def timed(name: str, *args: Any, **kwargs: Any) -> Any:
        if name in sys.modules and not (args and len(args) > 2 and args[2]):
            return plain(name, *args, **kwargs)
        begun = time.process_time()
        inside.append(0.0)
        try:
            return plain(name, *args, **kwargs)
        finally:
            whole = time.process_time() - begun
            seconds[_library(name, *args)] += whole - inside.pop()
            inside[-1] += whole

    builtins.__import__ = timed
    try:
        yield
    finally:
        builtins.__import__ = plain


def _library(name: str, names: dict[str, Any] | None = None, *rest: Any) -> str:
    """Whose module is loaded: a room of this program, or another library."""
    inside = len(rest) > 2 and rest[2] > 0 and names
    whole = str(names["__name__"]) if inside and names else name
    return ".".join(whole.split(".")[: 3 if whole.startswith("umber") else 1])


def timed(run: Callable[[], int]) -> int:
    """Runs a command with its time laid open on stderr; its own exit status."""
    plain, terminal.stoppable = terminal.stoppable, _at_once  # a profile sees one thread
    seconds, profile = defaultdict[str, float](float), cProfile.Profile(time.process_time)
    before = time.process_time()
    try:
        with loading_timed(seconds):
            status = profile.runcall(run)
    finally:
        terminal.stoppable = plain
    whole = time.process_time() - before
    told = sys.stderr
    print(f"start {1e3 * before:.0f} ms, command {1e3 * whole:.0f} ms of CPU", file=told)
    print(f"loading {1e3 * sum(seconds.values()):.0f} ms:", file=told)
    for name, span in sorted(seconds.items(), key=lambda row: -row[1])[:SHOWN]:
        print(f"  {1e3 * span:6.0f} ms  {name}", file=told)
    print("worked out, each with all that it asks for:", file=told)
    rows = [
        (spans[3], file.partition("umber_trunk/")[2][:-3].replace("/", "."), function)
        for (file, _, function), spans in pstats.Stats(profile).stats.items()  # type: ignore[attr-defined]
        if "umber_trunk/core/" in file and not function.startswith("<")
    ]
    for span, module, function in sorted(rows, reverse=True)[:SHOWN]:
        if span >= LEAST_SHARE * whole:
            print(f"  {1e3 * span:6.0f} ms  {module}: {function}", file=told)
    return status


def _at_once(work: Callable[..., Any], *_: Any, **__: Any) -> Any:
    return work(lambda: True)
