"""A panel that works something out while it is looked at."""

from __future__ import annotations

from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import QWidget

from umber_trunk.app.background import Background
from umber_trunk.app.widgets.desk import Desk
from umber_trunk.core.results import Results


class WhileShown(QWidget):
    """Another design starts it over; hidden it stops. Whoever derives says what to forget and what to ask next."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.analysis: Results | None = None
        self._work = Background(self)
        self._work.crashed.connect(desk.document.crashed)

    @property
    def busy(self) -> bool:
        """Whether there is something still to be worked out."""
        return self._work.busy

    @property
    def idle(self) -> bool:
        """Whether it is looked at, on a design, with nothing asked."""
        return self.analysis is not None and self.isVisible() and not self._work.busy

    def close_background(self) -> None:
        """Forgets what is under way."""
        self._work.drop()

    def show_analysis(self, analysis: Results) -> None:
        """Starts over for another design."""
        if analysis is not self.analysis:
            self.analysis = analysis
            self._work.drop()
            self.forget()
            self.go_on()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.go_on()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._work.drop()

    def forget(self) -> None:
        """What was found was of another design."""
        raise NotImplementedError

    def go_on(self) -> None:
        """Asks for the next thing not known yet."""
        raise NotImplementedError
