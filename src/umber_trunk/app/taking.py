"""Proposals taken from a desk: judged beside the window as if taken, then one edit; what was left out is said."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.core.errors import UmberError, Wanted
from umber_trunk.core.harness.model import Design
from umber_trunk.core.language.taken import Taken, taken
from umber_trunk.core.sentences import say


class Taking(QObject):
    """Signals: said(str), what came of it."""

    said = Signal(str)

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self._asked: tuple[Design, str, str | Callable[[Design], str], str] | None = None
        self._beside = Background(self)
        self._beside.answered.connect(self._came)
        self._beside.crashed.connect(document.crashed)

    @property
    def busy(self) -> bool:
        """Whether proposals are being judged."""
        return self._beside.busy

    def drop(self) -> None:
        """Forgets what is under way."""
        self._beside.drop()

    def take(self, what: str, label: str, told: str | Callable[[Design], str], nothing: str) -> None:
        """Takes proposals of a kind as one edit called `label`. `told`, or what it makes of the new design, is said
        when they are in, `nothing` where there are none."""
        design, shelf = self.document.design, self.document.shelf
        self._asked = design, label, told, nothing

        def judged(_: Wanted) -> Taken | UmberError:
            try:
                return taken(design, what, shelf)
            except UmberError as why:
                return why

        self._beside.ask(judged)

    def _came(self, found: Taken | UmberError) -> None:
        assert self._asked is not None
        design, label, told, nothing = self._asked
        if isinstance(found, UmberError):
            self.said.emit(str(found))
        elif self.document.design is not design:
            self.said.emit(say("window.take.changed"))
        elif not found.changed:
            self.said.emit(" ".join([nothing, *_left(found)]))
        elif self.document.apply(lambda _: found.design, label):
            rose = [say("window.take.rose", wires=", ".join(found.raised[:8]))] if found.raised else []
            said = told if isinstance(told, str) else told(found.design)
            self.said.emit(" ".join([said, *rose, *_left(found)]))


def _left(found: Taken) -> list[str]:
    """What was left as it was, and for which finding's sake."""
    if not found.left:
        return []
    part, why = found.left[0]
    return [say("window.take.left", part=part, more=len(found.left) - 1, why=why)]
