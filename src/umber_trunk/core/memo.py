"""Answers kept under names: each is worked out once, however many threads ask for it at the same time."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

Answer = TypeVar("Answer")


class Memo:
    """Asked for a name again while its answer is being worked out, a thread waits for it; work that fails is not kept,
    and who waited does it anew. Work may ask for other names."""

    def __init__(self) -> None:
        self._known: dict[Hashable, Any] = {}
        self._doing: dict[Hashable, threading.RLock] = {}
        self._lock = threading.Lock()

    def __contains__(self, name: Hashable) -> bool:
        return name in self._known

    def once(self, name: Hashable, work: Callable[[], Answer]) -> Answer:
        """The answer under a name."""
        if name in self._known:
            answer: Answer = self._known[name]
            return answer
        with self._lock:
            doing = self._doing.setdefault(name, threading.RLock())
        with doing:
            if name not in self._known:
                made = work()
                self._known.setdefault(name, made)
        with self._lock:
            self._doing.pop(name, None)
        found: Answer = self._known[name]
        return found

    def known(self) -> dict[Hashable, Any]:
        """What is known now."""
        return dict(self._known)
