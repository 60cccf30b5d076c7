"""One interpreter for the window's thread and what works beside it: nobody keeps it long, and rubbish is looked for
when nobody waits."""

from __future__ import annotations

import ctypes
import gc
import sys
import time
from contextlib import suppress

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QApplication

TURN_S = 0.0001
"""How long a thread keeps the interpreter while another waits for it: the window's thread gives it up and wants it back
a hundred times while it paints."""
YOUNG, YOUNGER = 5_000, 4
"""Objects made between two looks at the young ones, and such looks before those that outlived one are looked at: some
ms each."""
NEVER = 1_000_000
IDLE_S, LOOK_MS = 20.0, 2000
WORTH = 100
"""Looks at those that outlived one, before it is worth while to look at all: at most this many hundred thousand objects
more."""


M_ARENA_MAX, ARENAS = -8, 1
"""Parts of memory that threads take theirs from (mallopt(3)): with one for each thread that ever worked, what is free
in one is no use to the others, and threads take turns here anyway. Giving large pieces back at once would save 20 MB
more at 3 000 wires, and make each edit a sixth slower."""


def few_arenas() -> None:
    """Lets the threads share memory that was given back; a library without that is no matter."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(M_ARENA_MAX, ARENAS)


def give_back() -> None:
    """Gives memory that nothing uses any more back to the system."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Sharing(QObject):
    """Looking at all objects for circles nobody holds takes half a second with a large harness, whichever thread does
    it: that waits until nothing was done (`touch`) and the pointer lay still for a while."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self.touched, self._gone = time.monotonic(), False
        few_arenas()
        sys.setswitchinterval(TURN_S)
        gc.set_threshold(YOUNG, YOUNGER, NEVER)
        self.pointer = QCursor.pos()
        self.timer = QTimer(self, interval=LOOK_MS)
        self.timer.timeout.connect(self.look)
        self.timer.start()

    def gone(self, *_: object) -> None:
        """A window is gone: what was put aside may be rubbish now."""
        self._gone = True

    def touch(self, *_: object) -> None:
        """Something was done."""
        self.touched = time.monotonic()

    def look(self) -> None:
        if QCursor.pos() != self.pointer:
            self.pointer = QCursor.pos()
            self.touch()
        if gc.get_count()[2] >= WORTH and time.monotonic() - self.touched > IDLE_S:
            if self._gone:
                gc.unfreeze()
            self._gone = False
            gc.collect()
            give_back()
            gc.freeze()  # what is still held then isn't looked at again, until a window is gone
