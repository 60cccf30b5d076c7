"""What somebody says that is kept: names, reasons, notes. As it was said, or refused: nothing is cut off in silence,
since it stands in logs and on papers as their word."""

from __future__ import annotations

from umber_trunk.core.errors import InputError

MOST_NAME = 80
"""Letters of a name, of who decides or what something is called."""
MOST_TEXT = 400
"""Letters of a reason or note in a design or a shop's list."""
MOST_SAID = 1000
"""Letters of a reason or note in a log."""
MOST_BEGUN = 30
"""So many letters of it are repeated where it is refused."""


def name_kept(text: str) -> str:
    """A name without the blanks about it. InputError where it is longer than one is kept."""
    return said_kept(text, MOST_NAME)


def said_kept(text: str, most: int = MOST_SAID) -> str:
    """A reason or note without the blanks about it. InputError where it is longer than one is kept."""
    tidy = text.strip()
    if len(tidy) > most:
        raise InputError.of("any.more-than-is-kept", count=len(tidy), most=most, begins=tidy[:MOST_BEGUN])
    return tidy
