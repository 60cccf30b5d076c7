"""Work off the window's thread: the latest question wins, answers to older ones are dropped.

Work is asked in its middle whether it is still wanted; what can't answer at once is left to end by itself, and nothing
waits for it.
"""

from __future__ import annotations

import _thread
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from PySide6.QtCore import QObject, Signal

from umber_trunk.core.errors import Stopped, Wanted

Question = Callable[[Wanted], Any]


class _Relay(QObject):
    """Brings a worker's result to the window's thread."""

    done = Signal(int, object)
    failed = Signal(int, object)


class Background(QObject):
    """One line of questions; each gets `wanted`, which turns false once another takes its place.

    Signals:
        answered(object): the answer to the latest question.
        crashed(Exception): the latest question met a bug.
    """

    answered = Signal(object)
    crashed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._relay = _Relay(self)
        self._relay.done.connect(self._done)
        self._relay.failed.connect(self._failed)
        self._latest = 0
        self._ended = threading.Event()
        self._turn, self._saying = threading.Lock(), threading.Lock()
        self.busy = False

    def ask(self, question: Question) -> None:
        """Puts a question; whatever is still waiting is dropped, what is under way is told to stop."""
        self._latest += 1
        self.busy = True
        self._ended = threading.Event()
        # not Thread.start(): that waits until the new thread had a turn, 30 ms and more while others work
        _thread.start_new_thread(self._begin, (self._latest, question, self._ended))

    def _begin(self, number: int, question: Question, ended: threading.Event) -> None:
        try:
            self._work(number, question)
        finally:
            ended.set()

    def _work(self, number: int, question: Question) -> None:
        def wanted() -> bool:
            return number == self._latest

        with self._turn:  # one at a time: two halves of a machine's cores help nobody
            if not wanted():
                return
            signal, said = self._relay.done, None
            try:
                said = question(wanted)
            except Stopped:
                return
            except Exception as why:  # noqa: BLE001 handed to the one handler on the window's thread
                signal, said = self._relay.failed, why
            with self._saying, suppress(RuntimeError):  # the window may be gone
                if wanted():
                    signal.emit(number, said)

    def drop(self) -> None:
        """Forgets the question under way: from here on it says nothing more."""
        with self._saying:
            self._latest += 1
        self.busy = False

    def finish(self) -> None:
        """Waits for what is under way, and says nothing of it any more: a file somebody asked for is written before the
        window goes."""
        if self.busy:
            self._ended.wait()
        self.drop()

    def _done(self, number: int, answer: Any) -> None:
        if number == self._latest:
            self.busy = False
            self.answered.emit(answer)

    def _failed(self, number: int, why: Exception) -> None:
        if number == self._latest:
            self.busy = False
            self.crashed.emit(why)
