"""The expected family of errors: a sentence for the user, with where and what to do."""

from __future__ import annotations

from collections.abc import Callable


class UmberError(Exception):
    """Something the user can mend; its text is shown as it stands."""


class Stopped(Exception):  # noqa: N818 no error: nobody waits for the answer any more
    """Work ended before its answer because it is no longer wanted."""


class InputError(UmberError):
    """What was typed or passed can't be read; the text says what would be."""


class EditError(UmberError):
    """An edit that can't be made to this design; the design is unchanged."""


MOST_QUOTED = 60
"""Letters of what was typed that an error repeats."""


def quoted(text: str) -> str:
    """What somebody typed, in quotation marks, no longer than a sentence bears."""
    text = text.strip()
    return f"“{text if len(text) <= MOST_QUOTED else text[: MOST_QUOTED - 1] + '…'}”"


Wanted = Callable[[], bool]
"""Asked in the middle of long work: whether its answer is still wanted."""


def always() -> bool:
    """The usual answer to `Wanted`."""
    return True


def go_on_if(wanted: Wanted) -> None:
    """Stopped unless the answer is still wanted."""
    if not wanted():
        raise Stopped
