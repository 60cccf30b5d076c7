"""Files written beside the window, one after another; what was asked for is written even when the window is closed."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from umber_trunk.app.background import Background
from umber_trunk.core.errors import UmberError, Wanted, always


class Writer(QObject):
    """Signals: wrote(what was said, whether it failed); crashed(exception)."""

    wrote = Signal(str, bool)
    crashed = Signal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._at_work = Background(self)
        self._at_work.answered.connect(self._done)
        self._at_work.crashed.connect(self.crashed)
        self._waiting: deque[Callable[[Wanted], tuple[str, bool]]] = deque()

    def write(self, work: Callable[[], str]) -> None:
        """After what waits already; `work` says what it wrote. `wrote` tells it."""

        def whole(_: Wanted = always) -> tuple[str, bool]:
            try:
                return work(), False
            except UmberError as why:
                return str(why), True

        self._waiting.append(whole)
        self._go_on()

    @property
    def busy(self) -> bool:
        """Whether anything is still to be written."""
        return self._at_work.busy or bool(self._waiting)

    def finish(self) -> None:
        """Writes all that waits, here and now."""
        self._at_work.finish()
        while self._waiting:
            self._waiting.popleft()(always)

    def _go_on(self) -> None:
        if self._waiting and not self._at_work.busy:
            self._at_work.ask(self._waiting.popleft())

    def _done(self, what: tuple[str, bool]) -> None:
        self.wrote.emit(*what)
        self._go_on()
