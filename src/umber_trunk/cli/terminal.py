"""What the shell sees: plain text on any terminal, one table of exit statuses, and a way to stop long work.

Control characters never reach a terminal but as pictures of themselves; a terminal without the letters gets others in
their place; a reader that goes away or a disk that is full ends the command quietly, with a status of its own.
"""

from __future__ import annotations

import codecs
import errno
import json
import math
import os
import sys
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from typing import Any, TextIO, TypeVar

from umber_trunk.core.errors import UmberError
from umber_trunk.core.sentences import Message
from umber_trunk.core.text import pictured_lines

T = TypeVar("T")

SOUND = 0
FAULTS = 1
BAD_INPUT = 2
DOUBTS_LEFT = 3
NOT_WRITTEN = 4
BUG = 70
STOPPED = 130
READER_GONE = 141
FAULTS_SHOWN = 200
"""Faults of a list that are printed, each on a line; JSON has them all."""
"""Exit statuses of every command; docs/cli.md has the table."""

LOST_OUTPUT = {errno.EPIPE, errno.ESHUTDOWN, errno.ENOSPC, errno.EDQUOT, errno.EFBIG, errno.EIO, errno.EBADF}
PATIENCE_S = 0.06  # how long stopped work may take to end by itself
_IN_ASCII = {
    "→": "->", "–": "-", "—": "-", "−": "-", "…": "...", "“": '"', "”": '"', "‘": "'", "’": "'", "°": "deg ", "²": "2", "³": "3",
    "·": "*", "×": "x", "±": "+-", "≤": "<=", "≥": ">=", "µ": "u", "μ": "u", "Ω": "ohm", "ρ": "rho", "α": "alpha", "θ": "theta",
    "Δ": "delta ", "√": "sqrt", "✕": "x", "½": "1/2", "ß": "ss", "ä": "ae", "ö": "oe", "ü": "ue", "é": "e", "\u00a0": " ",
}  # fmt: skip


def _in_ascii(error: UnicodeError) -> tuple[str, int]:
    assert isinstance(error, UnicodeEncodeError)
    lost = error.object[error.start : error.end]
    return "".join(_IN_ASCII.get(mark, "?") for mark in lost), error.end


codecs.register_error("umber", _in_ascii)


class PlainText:
    """A text stream that shows control characters as pictures. All else is the stream's own."""

    def __init__(self, stream: Any) -> None:
        self.stream = stream

    def write(self, text: str) -> int:
        """Writes the text, made plain."""
        return int(self.stream.write(pictured_lines(text)))

    def __getattr__(self, name: str) -> Any:
        return getattr(self.stream, name)


@contextmanager
def plain_streams() -> Iterator[None]:
    """Standard output and error show plain text meanwhile."""
    before = sys.stdout, sys.stderr
    for stream in before:
        if hasattr(stream, "reconfigure"):
            with suppress(ValueError, OSError):
                stream.reconfigure(errors="umber")
    sys.stdout, sys.stderr = PlainText(before[0]), PlainText(before[1])
    try:
        yield
    finally:
        sys.stdout, sys.stderr = before


def output_lost(why: OSError) -> int:
    """The status when standard output can't be written any more; what is left of it goes nowhere."""
    with suppress(OSError, ValueError):
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.__stdout__.fileno() if sys.__stdout__ else 1)
        os.close(nowhere)
    if why.errno in (errno.EPIPE, errno.ESHUTDOWN):
        return READER_GONE
    with suppress(OSError):
        print(f"umber: the answer could not be written: {(why.strerror or 'a fault').lower()}.", file=sys.stderr)
    return NOT_WRITTEN


def stoppable(
    work: Callable[[Callable[[], bool]], T],
    last_words: Callable[[], None] | None = None,
    at_what: Callable[[], str] | None = None,
) -> T:
    """Does the work on a thread of its own, so that Ctrl-C is heard at once. `work` gets a question it may ask to learn
    whether it is still wanted. On Ctrl-C it has a moment to end by itself; then `last_words` are said and
    KeyboardInterrupt goes on, whatever the work is at. Long work that says nothing itself is told of now and then, with
    `at_what` it is."""
    wanted, ended = threading.Event(), threading.Event()
    answer: list[T] = []
    error: list[BaseException] = []
    wanted.set()

    def run() -> None:
        try:
            answer.append(work(wanted.is_set))
        except BaseException as why:  # noqa: BLE001 raised again by whoever waits
            error.append(why)
        finally:
            ended.set()

    threading.Thread(target=run, daemon=True, name="work").start()
    progress, since = Progress(), time.monotonic()
    try:
        if at_what is None and last_words is not None:  # what can say what it has says how far it is, too
            ended.wait()
        while not ended.wait(PROGRESS_S[0]):
            at = f" ({at_what()})" if at_what is not None else ""
            progress(
                f"still at it after {time.monotonic() - since:.0f} s{at}",
                f"Ctrl-C stops it{' and keeps what is whole' if last_words else ''}",
            )
    except KeyboardInterrupt:
        wanted.clear()
        ended.wait(PATIENCE_S)
        if last_words is not None:
            last_words()
        raise
    if error:
        raise error[0]
    return answer[0]


class Progress:
    """Says on the standard error how far long work is: the first time after some seconds, then now and then. Callable
    with what is to be said."""

    def __init__(self) -> None:
        self._next = time.monotonic() + PROGRESS_S[0]

    def __call__(self, told: str, way_out: str = "Ctrl-C ends it with what there is") -> None:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + PROGRESS_S[1]
            print(f"umber: {told}; {way_out}", file=sys.stderr, flush=True)


PROGRESS_S = 5.0, 10.0
ANSWERS = 1
"""Format of all JSON answers that are objects. Keys are added, none renamed or dropped; `umber schema answers`
describes them."""


def finite(value: Any) -> Any:
    """A value with null for every number that isn't finite: JSON has none such (RFC 8259). What is said is its
    sentence."""
    if isinstance(value, Message):
        return str(value)
    if isinstance(value, dict):
        return {key: finite(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [finite(one) for one in value]
    return None if isinstance(value, float) and not math.isfinite(value) else value


def rounded(value: float | None) -> float | None:
    """A figure to six decimals, as a plain number; None where there is none: an unfed load has no volts."""
    return None if value is None or not math.isfinite(value) else round(float(value), 6)


def out(value: Any, to: TextIO | None = None) -> None:
    """A value as JSON, each row of a list on a line of its own: forty thousand steps are written in a second. An object
    says its format; a list stays a list."""
    value = finite({"format": ANSWERS, **value} if isinstance(value, dict) else value)

    def plain(one: Any) -> str:
        return json.dumps(one, ensure_ascii=False, allow_nan=False)

    def rows(many: list[Any]) -> str:
        return "[" + ",".join(f"\n  {plain(one)}" for one in many) + ("\n ]" if many else "]")

    if isinstance(value, dict):
        parts = [f" {plain(key)}: {rows(one) if isinstance(one, list) else plain(one)}" for key, one in value.items()]
        print("{\n" + ",\n".join(parts) + "\n}", file=to)
    else:
        print(rows(value) if isinstance(value, list) else plain(value), file=to)


def refusal_out(why: UmberError | None) -> dict[str, Any] | None:
    """What was refused as every JSON answer has it: code, sentence, values; None where nothing was."""
    return None if why is None else {**said_out(why.message), "message": str(why)}


def said_out(said: Message) -> dict[str, Any]:
    """What is said as every JSON answer has it: code, sentence, values; what is said within it likewise."""
    return {
        "code": said.code,
        "message": str(said),
        "values": {
            name: said_out(one) if isinstance(one, Message) else value_out(one) for name, one in said.values.items()
        },
    }


def worded(**said: Message | Sequence[Message]) -> dict[str, Any]:
    """What is said as every JSON answer has it: under its key in words, under KEY_said as `said_out` has it; null where
    nothing is said."""
    answer: dict[str, Any] = {}
    for key, one in said.items():
        if isinstance(one, Message):
            answer |= {key: str(one), f"{key}_said": said_out(one) if one else None}
        else:
            answer |= {key: list(map(str, one)), f"{key}_said": list(map(said_out, one))}
    return answer


def value_out(value: object) -> object:
    """A value as JSON has it: no NaN, no numbers of NumPy's; what is neither text nor number as its text."""
    if isinstance(value, int | str) or value is None:
        return value
    try:
        figure = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        return str(value)
    return rounded(figure)


def report_bug(error: BaseException) -> int:
    """A bug of the program: its report, a sentence, and the status for it."""
    from umber_trunk.store.report import write_report

    try:
        where = f"A report is in {write_report(error)}"
    except UmberError as why:
        where = f"{why} It begins: {type(error).__name__}: {str(error)[:200]}"
    print(f"umber: the program met a bug of its own; nothing more was changed. {where}", file=sys.stderr)
    return BUG
