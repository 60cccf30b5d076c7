"""The desks of a window: each is made when it is first shown, or ahead of that while nothing is done."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from umber_trunk.app.background import Background
from umber_trunk.app.document import Document
from umber_trunk.app.widgets.desk import Desk
from umber_trunk.core.stages import STAGES, fetched, stage_of

SOON_MS, QUIET_S = 200, 0.7
"""How often the next desk may be made ahead, and for how long nothing was done before."""


class Desks(dict[str, Desk]):
    """The desks by stage, each made when it is first asked for and given to `adopt`; KeyError for a stage there is none
    of."""

    def __init__(self, document: Document, adopt: Callable[[Desk], None]) -> None:
        super().__init__()
        self.document, self.adopt = document, adopt

    def __missing__(self, stage: str) -> Desk:
        desk: Desk = fetched(stage_of(stage).desk)(self.document)
        self[stage] = desk
        self.adopt(desk)
        return desk


class MadeAhead(QObject):
    """Makes the desks that weren't shown yet, one at a time while nothing else is done: what is made is shown at once.
    What they are made of is loaded beside the window first."""

    def __init__(self, desks: Desks, parent: QObject) -> None:
        super().__init__(parent)
        self.desks = desks
        self._loading = Background(self)
        self._soon = QTimer(self, interval=SOON_MS)
        self._soon.timeout.connect(self._next)
        self._loading.answered.connect(lambda _: self._soon.start())
        self._loading.crashed.connect(desks.document.crashed)
        self._touched_at = time.monotonic()

    def begin(self) -> None:
        """Begins, or goes on."""
        if len(self.desks) < len(STAGES) and not self._loading.busy and not self._soon.isActive():
            self._loading.ask(lambda _: [fetched(stage.desk) for stage in STAGES])

    def touch(self, *_: object) -> None:
        """Something was done in the window: it waits."""
        self._touched_at = time.monotonic()

    def stop(self) -> None:
        """Makes no more."""
        self._loading.drop()
        self._soon.stop()

    def _next(self) -> None:
        left = next((stage.id for stage in STAGES if stage.id not in self.desks), None)
        if left is None:
            self._soon.stop()
        elif not self.desks.document.ahead and time.monotonic() - self._touched_at > QUIET_S:
            _ = self.desks[left]
