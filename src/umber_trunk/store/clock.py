"""When an entry is written and what it is called: the one clock and the one maker of names of the log."""

from __future__ import annotations

import time
import uuid


def now_ms() -> int:
    """Milliseconds since 1970."""
    return time.time_ns() // 1_000_000


def new_id() -> str:
    """A name like no other."""
    return uuid.uuid4().hex
