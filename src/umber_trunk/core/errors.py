"""The expected family of errors: a sentence for the user, with where and what to do."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Self

from umber_trunk.core.sentences import REFUSED, Message


def refusal_of(code: str, /, **values: Any) -> Message:
    """Why something can't be, by its code in data/sentences/refused.json, without "refused.", with what its sentence
    names. Values that are neither texts nor numbers are kept as their texts."""
    return Message(f"{REFUSED}{code}", {name: _plain(one) for name, one in values.items()})


def _plain(value: Any) -> str | float:
    """A number of an array is a plain one; what is neither text nor number is told as a text."""
    one = value.item() if hasattr(value, "item") else value
    return one if isinstance(one, (bool, int, float)) else str(one)


class UmberError(Exception):
    """Something the user can mend; its text is shown as it stands."""

    @classmethod
    def of(cls, code: str, /, **values: Any) -> Self:
        """`refusal_of` these, to be raised."""
        return cls(refusal_of(code, **values))

    @property
    def message(self) -> Message:
        """What it says, as a value; where it repeats with a word before it what another said, that one's code and
        values, and no code where nobody gave one."""
        said = self.args[0] if self.args else ""
        if isinstance(said, Message):
            return said
        cause = self.__cause__.message if isinstance(self.__cause__, UmberError) else Message("")
        return Message(cause.code, cause.values, as_was=str(said))


class Stopped(Exception):  # noqa: N818 no error: nobody waits for the answer any more
    """Work ended before its answer because it is no longer wanted."""


class InputError(UmberError):
    """What was typed or passed can't be read; the text says what would be."""


class EditError(UmberError):
    """An edit that can't be made to this design; the design is unchanged."""


MOST_QUOTED = 60
"""Letters of what was typed that an error repeats."""


def clipped(text: str) -> str:
    """What somebody typed, no longer than a sentence bears; what was cut off shows."""
    text = text.strip()
    return text if len(text) <= MOST_QUOTED else text[: MOST_QUOTED - 1] + "…"


def quoted(text: str) -> str:
    """The same in quotation marks."""
    return f"“{clipped(text)}”"


Wanted = Callable[[], bool]
"""Asked in the middle of long work: whether its answer is still wanted."""


def always() -> bool:
    """The usual answer to `Wanted`."""
    return True


def go_on_if(wanted: Wanted) -> None:
    """Stopped unless the answer is still wanted."""
    if not wanted():
        raise Stopped
