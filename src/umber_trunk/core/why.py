"""Why a figure is what it is: formula, inputs with units, result, limit, source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Input:
    """One symbol of a formula."""

    symbol: str
    meaning: str
    value: str


@dataclass(frozen=True)
class Derivation:
    """The answer to "why". `steps` are further formulas worked out; `verdict` says it in one line."""

    title: str
    verdict: str
    formula: str
    inputs: tuple[Input, ...]
    result: str
    limit: str = ""
    source: str = ""
    steps: tuple[str, ...] = ()

    def as_text(self) -> str:
        """Plain text for a shell or the clipboard."""
        lines = [self.title, f"  {self.verdict}", f"  {self.formula}"]
        width = max((len(row.symbol) for row in self.inputs), default=0)
        lines += [f"    {row.symbol:<{width}} = {row.value}  ({row.meaning})" for row in self.inputs]
        lines += [f"  {step}" for step in self.steps]
        lines.append(f"  = {self.result}")
        if self.limit:
            lines.append(f"  limit: {self.limit}")
        if self.source:
            lines.append(f"  source: {self.source}")
        return "\n".join(lines)
