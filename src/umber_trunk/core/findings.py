"""The only way a check speaks: what is wrong, with what, and how to mend it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

from umber_trunk.core.stages import stage_of


class Severity(IntEnum):
    """Worst first when sorted."""

    FAULT = 0
    WARNING = 1
    NOTE = 2


@dataclass(frozen=True)
class Finding:
    """One finding. stage is the desk that mends it, KeyError for one there is none of; subject is the id, in `table`, of
    the part it is about, "" for the whole harness."""

    code: str
    severity: Severity
    stage: str
    table: str
    subject: str
    message: str
    cure: str

    def __post_init__(self) -> None:
        stage_of(self.stage)
