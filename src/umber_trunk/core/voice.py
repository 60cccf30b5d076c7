"""The language the program speaks. English stands in the sources and in data/sentences; what else there is are gettext
catalogues in data/i18n, LANGUAGE/LC_MESSAGES/umber_trunk.mo.

A process speaks one language: it is chosen once, before anything is said, since what is worked out keeps its sentences.
What a catalogue hasn't translated yet is said in English.
"""

from __future__ import annotations

import gettext
from functools import cache
from importlib import resources
from typing import Any

DOMAIN = "umber_trunk"
LANGUAGE_ASKED = "UMBER_LANGUAGE"
"""The environment's word for the language, before what is set in the window."""
ENGLISH = "en"
NAMES = {"en": "English", "de": "German"}
"""Each language, as the menu has it."""


@cache
def _voice() -> dict[str, Any]:
    return {"language": ENGLISH, "catalogue": gettext.NullTranslations()}


def speak(language: str) -> bool:
    """Chooses the language, such as "de" or "de_AT"; English where no catalogue has it, and then False."""
    code = language.replace("-", "_").split("_")[0].split(".")[0].lower() or ENGLISH
    folder = str(resources.files("umber_trunk").joinpath("data/i18n"))
    found = gettext.translation(DOMAIN, folder, [code], fallback=True)
    known = isinstance(found, gettext.GNUTranslations)
    _voice().update(language=code if known else ENGLISH, catalogue=found)
    return known or code == ENGLISH


def language() -> str:
    """The language spoken."""
    return str(_voice()["language"])


def spoken(text: str, context: str = "") -> str:
    """A text in the language spoken; `context` is the code of a sentence, "" for words of the window."""
    catalogue: gettext.NullTranslations = _voice()["catalogue"]
    return catalogue.pgettext(context, text) if context else catalogue.gettext(text)
