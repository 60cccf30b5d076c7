"""Questions to a person whose answer has to have a name: what was typed and refused stays there to be mended."""

from __future__ import annotations

from PySide6.QtWidgets import QInputDialog, QWidget

from umber_trunk.app.widgets.words import tr

TRIES = 3


def name_and_what(parent: QWidget, title: str, question: str) -> tuple[str, str] | None:
    """ "NAME: WHAT" as a pair, both said; None where it was given up. What is refused is shown again, as it was typed."""
    typed, asked = "", question
    for _ in range(TRIES):
        typed, ok = QInputDialog.getText(parent, tr(title), asked, text=typed)
        if not ok:
            return None
        who, _, what = (part.strip() for part in typed.partition(":"))
        if who and what:
            return who[:80], what[:1000]
        asked = f"{question}\n{tr('Both are needed: a name, a colon, and what.')}"
    return None
