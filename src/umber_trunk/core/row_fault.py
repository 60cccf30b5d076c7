"""What is wrong in a table that was read, by its row and column, as a value. Readers gather all of it, and take nothing
over while there is any."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from umber_trunk.core.sentences import Message, joined

MOST_TOLD = 20
"""So many are told in one sentence; then how many more there are."""


@dataclass(frozen=True)
class RowFault:
    """One thing wrong: the row (1 is the heading's in a table, the first part's in JSON), the column or field, "" where
    it is the whole row's, what and how to mend it."""

    row: int
    column: str
    said: Message

    @property
    def message(self) -> str:
        """What is wrong, in words."""
        return str(self.said)

    @property
    def placed(self) -> Message:
        """The same after where it is."""
        return Message.of("row.fault", row=self.row, column=self.column, what=self.said)

    def __str__(self) -> str:
        return str(self.placed)


def row_fault(row: int, column: str, key: str, /, **values: Any) -> RowFault:
    """One thing wrong, by its code under row."""
    return RowFault(row, column, Message.of(f"row.{key}", **values))


def faults_told(faults: Sequence[RowFault]) -> dict[str, Any]:
    """`first_told` of some faults, each after where it is."""
    return first_told([one.placed for one in faults])


def first_told(rows: Sequence[Message]) -> dict[str, Any]:
    """The first of what is wrong one after the other, and how many more there are: what a refusal names."""
    return {"faults": joined("row.next", rows[:MOST_TOLD]), "more": max(len(rows) - MOST_TOLD, 0)}
