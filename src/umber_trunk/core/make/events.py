"""What is written down in the log of builds, alone in its room: the store reads logs without loading how things are made."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Event:
    """Something that happened: `id` is like no other, `at_ms` since 1970, `step` the key of the step it is about, `data` by kind."""

    id: str
    build: str
    at_ms: int
    kind: str
    unit: int = 0
    step: str = ""
    data: Mapping[str, Any] = field(default_factory=dict)
