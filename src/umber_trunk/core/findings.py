"""The only way a check speaks: what is wrong, with what, and how to mend it. A finding is a code with its values; its
sentences are rendered at the edge from the catalogue of sentences."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any

from umber_trunk.core.sentences import Message
from umber_trunk.core.stages import stage_of


class Severity(IntEnum):
    """Worst first when sorted."""

    FAULT = 0
    WARNING = 1
    NOTE = 2


@dataclass(frozen=True)
class Finding:
    """One finding. stage is the desk that mends it, KeyError for one there is none of; subject is the id, in `table`,
    of the part it is about, "" for the whole harness; `at` tells findings of one code about one part from each other.
    `form` names the sentences in the catalogue, `values` what they say."""

    code: str
    severity: Severity
    stage: str
    table: str
    subject: str
    form: str
    values: Mapping[str, Any] = field(default_factory=dict)
    at: str = ""

    def __post_init__(self) -> None:
        stage_of(self.stage)

    @classmethod
    def of(
        cls,
        code: str,
        severity: Severity,
        stage: str,
        table: str,
        subject: str,
        /,
        *,
        form: str = "",
        at: str = "",
        **values: Any,
    ) -> Finding:
        """A finding with its values; `form` where its sentences aren't those of its code."""
        return cls(code, severity, stage, table, subject, form or code, values, at)

    def __hash__(self) -> int:
        return hash((self.code, self.severity, self.subject, self.at))

    @property
    def id(self) -> str:
        """CODE:SUBJECT: like no other in a harness, the same as long as what it is about stays."""
        return f"{self.code}:{self.subject}" + (f"/{self.at}" if self.at else "")

    @property
    def says(self) -> Message:
        """What is wrong."""
        return Message(f"{self.form}.says", self.values)

    @property
    def mends(self) -> Message:
        """How to mend it."""
        return Message(f"{self.form}.cure", self.values)

    @property
    def message(self) -> str:
        """What is wrong, in a sentence."""
        return str(self.says)

    @property
    def cure(self) -> str:
        """How to mend it, in a sentence."""
        return str(self.mends)
