"""The program's own words, ready for other languages: every fixed text on screen passes through `tr`."""

from __future__ import annotations

from umber_trunk.core.voice import spoken


def tr(text: str) -> str:
    """The text in the language spoken, as it is where nobody has translated it."""
    return spoken(text) if text else text


def word(text: str) -> str:
    """Marks a text of a table as one to translate: it is as it stands until `tr` is asked for it."""
    return text
