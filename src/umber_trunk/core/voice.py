"""The language the program speaks. English stands in the sources and in data/sentences; what else there is are gettext
catalogues in data/i18n, LANGUAGE/LC_MESSAGES/umber_trunk.mo.

A process speaks one language: it is chosen once, before anything is said, since what is worked out keeps its sentences.
What a catalogue hasn't translated yet is said in English.
"""

from __future__ import annotations

import gettext
from importlib import resources

DOMAIN = "umber_trunk"
LANGUAGE_ASKED = "UMBER_LANGUAGE"
"""The environment's word for the language, before what is set in the window."""
ENGLISH = "en"
NAMES = {"en": "English", "de": "German"}
"""Each language, as the menu has it."""


_voice: list[gettext.NullTranslations] = [gettext.NullTranslations()]
"""The catalogue of the language spoken, set by `speak` alone."""


def speak(language: str) -> bool:
    """Chooses the language, such as "de" or "de_AT"; English where no catalogue has it, and then False."""
    code = language.replace("-", "_").split("_")[0].split(".")[0].lower() or ENGLISH
    if code == ENGLISH:
        _voice[0] = gettext.NullTranslations()
        return True
    folder = str(resources.files("umber_trunk").joinpath("data/i18n"))
    _voice[0] = gettext.translation(DOMAIN, folder, [code], fallback=True)
    return isinstance(_voice[0], gettext.GNUTranslations)


def spoken(text: str, context: str = "") -> str:
    """A text in the language spoken; `context` is the code of a sentence, "" for words of the window."""
    return _voice[0].pgettext(context, text) if context else _voice[0].gettext(text)
