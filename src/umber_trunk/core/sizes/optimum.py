"""The sizes an optimiser chose, and how close to the least they are proven to be."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.harness.edits import set_size
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sentences import say
from umber_trunk.core.solve.used import Figures


@dataclass(frozen=True)
class Change:
    """One wire's size before and after; before is None where nobody had chosen."""

    wire_id: str
    before: str | None
    after: str


@dataclass(frozen=True)
class Optimum:
    """Sizes of all free wires. objective, bound and floor are in the weights' unit; gap is a share of the
    objective. met: every limit holds when the harness is solved with these sizes."""

    sizes: dict[str, str]
    changes: tuple[Change, ...]
    copper_kg: float
    copper_before_kg: float
    objective: float
    estimate: float
    floor: float | None
    rounds: int
    met: bool
    figures: Figures

    @property
    def bound(self) -> float:
        """What no sizes that hold are under: the floor, 0 where none was found."""
        return min(self.floor or 0.0, self.objective)

    @property
    def gap(self) -> float:
        """Share of the objective that the bound leaves open."""
        return max(0.0, (self.objective - self.bound) / self.objective) if self.objective > 0 else 0.0

    @property
    def estimate_gap(self) -> float:
        """Share left open by the estimate, which rests on the temperatures and currents of these very sizes."""
        return max(0.0, (self.objective - self.estimate) / self.objective) if self.objective > 0 else 0.0

    @property
    def proof(self) -> str:
        """How close to the least these sizes are, in words: what is proven, then what is estimated."""
        if not self.floor and self.estimate <= 0:
            return say("optimum.not-worked-out")
        proven = say("optimum.proven", percent=100 * self.gap) + " " if self.floor else ""
        return proven + say("optimum.estimated", percent=100 * self.estimate_gap)

    def apply(self, design: Design) -> Design:
        """The design with these sizes chosen, as one edit."""
        for change in self.changes:
            design = set_size(design, [change.wire_id], change.after)
        return design
