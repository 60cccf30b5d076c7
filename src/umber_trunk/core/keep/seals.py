"""The chain that makes tampering show: each entry of the log is sealed over itself and the seal before it."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

FIRST = "0" * 64
Entry = tuple[str, str, int, str, str]
"""(id, build, moment, body, seal) of an entry as it is kept."""


def sealed(before: str, event_id: str, build: str, at_ms: int, body: str) -> str:
    """The seal of an entry: SHA-256 over the seal before it and every byte of it, lengths in front so that nothing can
    move across."""
    digest = hashlib.sha256(before.encode())
    for part in (event_id, build, str(at_ms), body):
        data = part.encode("utf-8", "surrogatepass")
        digest.update(len(data).to_bytes(8, "big"))
        digest.update(data)
    return digest.hexdigest()


def broken_at(entries: Iterable[Entry], before: str = FIRST) -> int | None:
    """The first entry, from 1, that isn't what was sealed; None where all are. `before` is the seal they go on from."""
    for number, (event_id, build, at_ms, body, seal) in enumerate(entries, 1):
        if sealed(before, event_id, build, at_ms, body) != seal:
            return number
        before = seal
    return None
