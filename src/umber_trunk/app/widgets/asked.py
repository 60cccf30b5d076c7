"""Questions to a person, in plain text: the one door to them. What was typed and refused stays there to be mended."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog, QWidget

from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.errors import InputError
from umber_trunk.core.kept_words import name_kept, said_kept

TRIES = 3


def text_asked(parent: QWidget, title: str, question: str, text: str = "") -> tuple[str, bool]:
    """(what was typed, whether it was meant)."""
    return QInputDialog.getText(parent, title, plain_of(question), text=text)


def one_of(parent: QWidget, title: str, question: str, names: list[str]) -> tuple[str, bool]:
    """(the one chosen, whether it was meant)."""
    return QInputDialog.getItem(parent, title, plain_of(question), names, 0, False)


def name_and_what(parent: QWidget, title: str, question: str) -> tuple[str, str] | None:
    """ "NAME: WHAT" as a pair, both said; None where it was given up. What is refused is shown again, as it was
    typed."""
    typed, asked = "", question
    for _ in range(TRIES):
        typed, ok = text_asked(parent, tr(title), asked, typed)
        if not ok:
            return None
        who, _, what = (part.strip() for part in typed.partition(":"))
        try:
            if who and what:
                return name_kept(who), said_kept(what)
            asked = f"{question}\n{tr('Both are needed: a name, a colon, and what.')}"
        except InputError as why:
            asked = f"{question}\n{why}"
    return None
