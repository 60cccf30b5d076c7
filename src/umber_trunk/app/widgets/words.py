"""The program's own words, ready for other languages: every fixed text on screen passes through `tr`.

`tools/words.py` collects them into data/i18n/umber_trunk.ts; a .qm beside it, named after a language, is used.
"""

from __future__ import annotations

from importlib import resources

from PySide6.QtCore import QCoreApplication, QLocale, QTranslator
from PySide6.QtWidgets import QApplication

CONTEXT = "umber"


def tr(text: str) -> str:
    """The text in the user's language, as it is where nobody has translated it."""
    return QCoreApplication.translate(CONTEXT, text) if text else text


def load_language(app: QApplication) -> bool:
    """Installs the translation for the user's locale, if one ships."""
    name = QLocale().name().split("_")[0]
    path = resources.files("umber_trunk").joinpath("data/i18n", f"{name}.qm")
    if not path.is_file():
        return False
    translator = QTranslator(app)
    return bool(translator.load(str(path)) and app.installTranslator(translator))
