"""Why a figure is what it is: formula, inputs with units, result, limit, source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from umber_trunk.core.sentences import Message

Said = Message | str
"""What is said, or the name of a thing, a figure, a standard."""


def why(key: str, **values: Any) -> Message:
    """What a derivation says, by its code under why."""
    return Message.of(f"why.{key}", **values)


def estimated(source: Said) -> Message:
    """A source, and that it is an estimate."""
    return why("sources", first=source, estimate=why("estimate"))


@dataclass(frozen=True)
class Input:
    """One symbol of a formula."""

    symbol: str
    meaning: Said
    value: Said


@dataclass(frozen=True)
class Derivation:
    """The answer to "why". `steps` are further formulas worked out; `verdict` says it in one line."""

    title: Said
    verdict: Said
    formula: Said
    inputs: tuple[Input, ...]
    result: Said
    limit: Said = ""
    source: Said = ""
    steps: tuple[Said, ...] = ()

    def as_text(self) -> str:
        """Plain text for a shell or the clipboard."""
        lines = [str(self.title), f"  {self.verdict}", f"  {self.formula}"]
        width = max((len(row.symbol) for row in self.inputs), default=0)
        lines += [f"    {row.symbol:<{width}} = {row.value}  ({row.meaning})" for row in self.inputs]
        lines += [f"  {step}" for step in self.steps]
        lines.append(f"  = {self.result}")
        if self.limit:
            lines.append(f"  {why('limit', limit=self.limit)}")
        if self.source:
            lines.append(f"  {why('source', source=self.source)}")
        return "\n".join(lines)
