"""The program's own words, ready for other languages: every fixed text on screen passes through `tr`."""

from __future__ import annotations

from typing import Any

from umber_trunk.core.sentences import filled
from umber_trunk.core.voice import spoken


def tr(text: str, /, **values: Any) -> str:
    """The text in the language spoken, as it is where nobody has translated it; with `values`, those it names put in
    as in a sentence of the catalogue (`core/sentences`)."""
    said = spoken(text) if text else text
    return filled(said, values) if values else said


def word(text: str) -> str:
    """Marks a text of a table as one to translate: it is as it stands until `tr` is asked for it."""
    return text
