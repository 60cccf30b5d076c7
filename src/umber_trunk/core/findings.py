"""The only way a check speaks: what is wrong, with what, and how to mend it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum


class Severity(IntEnum):
    """Worst first when sorted."""

    FAULT = 0
    WARNING = 1
    NOTE = 2


@dataclass(frozen=True)
class Finding:
    """One finding. stage is the desk that mends it; subject is (table, id) of the part it is about."""

    code: str
    severity: Severity
    stage: str
    table: str
    subject: str
    message: str
    cure: str


STAGES = ("needs", "runs", "sizes", "kit")
