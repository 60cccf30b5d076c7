"""Work off the window's thread: the latest question wins, answers to older ones are dropped."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal


class _Relay(QObject):
    """Brings a worker's result to the window's thread."""

    done = Signal(int, object)
    failed = Signal(int, object)


class _Work(QRunnable):
    def __init__(self, number: int, question: Callable[[], Any], relay: _Relay) -> None:
        super().__init__()
        self.number = number
        self.question = question
        self.relay = relay

    def run(self) -> None:
        try:
            self.relay.done.emit(self.number, self.question())
        except Exception as why:  # noqa: BLE001 handed to the one handler on the window's thread
            self.relay.failed.emit(self.number, why)


class Background(QObject):
    """One line of questions, one worker.

    Signals:
        answered(object): the answer to the latest question.
        crashed(Exception): the latest question met a bug.
    """

    answered = Signal(object)
    crashed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._relay = _Relay(self)
        self._relay.done.connect(self._done)
        self._relay.failed.connect(self._failed)
        self._latest = 0
        self.busy = False

    def ask(self, question: Callable[[], Any]) -> None:
        """Puts a question; whatever is still waiting is dropped."""
        self._pool.clear()
        self._latest += 1
        self.busy = True
        self._pool.start(_Work(self._latest, question, self._relay))

    def drop(self) -> None:
        """Forgets the question under way."""
        self._latest += 1
        self.busy = False
        self._pool.clear()

    def close(self) -> None:
        """Waits until no work is under way."""
        self.drop()
        self._pool.waitForDone()

    def _done(self, number: int, answer: Any) -> None:
        if number == self._latest:
            self.busy = False
            self.answered.emit(answer)

    def _failed(self, number: int, why: Exception) -> None:
        if number == self._latest:
            self.busy = False
            self.crashed.emit(why)
