"""The choice of sizes as a mixed-integer linear program (HiGHS through SciPy): group g takes step s.

    least  Σ price[g,s]·x[g,s] + w·Σ y[k]         x[g,s] ∈ {0, 1}: g is made at step s;  y[k]: size k is on the shelf
    with   Σ_s x[g,s] = 1                         each group has one step
           Σ volts[r,g,s]·x[g,s] ≤ left[r]        each load in each case loses no more than it may; heat likewise
           x[g,s] ≤ y[size of s]                  only where a further size costs anything
           Σ_{s > cut} x[g,s] ≥ 1 over a cut      what was solved and didn't hold isn't offered again

Steps that can't hold are barred by bounds. The dual bound of the search says how much less copper any choice could do
with at most; what the rows leave out (`bars`) only makes it lower, so it stays a bound.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_trunk.core.physics.sparse import columns
from umber_trunk.core.sizes.groups import Group

Floats = NDArray[np.float64]
Constraint = tuple[Any, float, float | Floats]


NO_CHOICE = 2
"""What SciPy's `milp` and `linprog` say of a program that nothing meets."""


@dataclass(frozen=True)
class Weights:
    """What counts: 1 kg of conductor, 1 of its price, one more different size on the shelf."""

    mass: float = 1.0
    cost: float = 0.0
    sizes: float = 0.0


LIGHTEST = Weights()
"""Copper alone counts."""


@dataclass
class Rows:
    """Drop constraints: the volts each group costs at every one of its steps, and what is left for them."""

    volts: list[dict[int, Floats]] = field(default_factory=list)
    left: list[float] = field(default_factory=list)

    def add(self, volts: dict[int, Floats], left: float) -> None:
        """One load in one case."""
        self.volts.append(volts)
        self.left.append(left)

    def extend(self, other: Rows) -> None:
        """All rows of another."""
        self.volts += other.volts
        self.left += other.left


@dataclass(frozen=True)
class Answer:
    """Steps chosen (None: none was found, by `nothing` since no choice meets the rows) and the proven bound."""

    levels: list[int] | None
    bound: float
    nothing: bool = False


class Program:
    """The parts of the program that don't change from round to round."""

    def __init__(self, groups: Sequence[Group], weights: Weights) -> None:
        self.groups, self.weights = groups, weights
        self._starts = np.concatenate([[0], np.cumsum([len(group.steps) for group in groups])]).astype(int)
        labels = {step.size.label: step.size.area_mm2 for group in groups for step in group.steps}
        self._labels = sorted(labels, key=lambda label: labels[label])
        self._choices = int(self._starts[-1])
        self._kinds = len(self._labels) if weights.sizes > 0 else 0
        self._prices = [self._price(group) for group in groups]

    def _price(self, group: Group) -> Floats:
        result: Floats = group.masses * (self.weights.mass + group.steps[0].metal.price_per_kg * self.weights.cost)
        return result

    def objective(self, levels: Sequence[int]) -> float:
        """Worth of a choice in the weights' unit."""
        total = sum(float(prices[level]) for prices, level in zip(self._prices, levels, strict=True))
        kinds = {group.steps[level].size.label for group, level in zip(self.groups, levels, strict=True)}
        return total + self.weights.sizes * len(kinds)

    def dearest(self, value: float, least: Sequence[int]) -> list[int]:
        """The highest step each group can have in any choice worth no more than `value` whose steps are at least
        these."""
        spare = value - sum(float(prices[level]) for prices, level in zip(self._prices, least, strict=True))
        found = []
        for prices, level in zip(self._prices, least, strict=True):
            within = np.flatnonzero(prices <= prices[level] + max(spare, 0.0) * (1 + 1e-9) + 1e-12)
            found.append(int(within[-1]) if len(within) else level)
        return found

    def solve(
        self,
        rows: Rows,
        least: Sequence[int],
        nodes: int,
        gap: float,
        cuts: Sequence[dict[int, int]] = (),
        most: Sequence[int] | None = None,
    ) -> Answer:
        """The best choice from `least` to `most` that meets the rows, within a share `gap` of the optimum. Each
        cut (group → step) asks for at least one of its groups above its step."""
        from scipy.optimize import (  # here: it takes longer to load than most commands run
            Bounds,
            LinearConstraint,
            milp,
        )

        if not self.groups:
            return Answer([], 0.0)
        cost, upper, constraints = self._stated(rows, least, cuts, most)
        found = milp(
            cost,
            integrality=np.ones(len(cost)),
            bounds=Bounds(0, upper),
            constraints=[LinearConstraint(*one) for one in constraints],
            options={"node_limit": nodes, "mip_rel_gap": gap},
        )
        bound = 0.0 if found.mip_dual_bound is None else float(found.mip_dual_bound)
        if found.x is None:
            return Answer(None, bound, nothing=found.status == NO_CHOICE)
        spans = zip(self._starts, self._starts[1:], strict=False)
        return Answer([int(np.argmax(found.x[a:b])) for a, b in spans], bound)

    def reduced(self, value: float, rows: Rows, least: Sequence[int], most: Sequence[int]) -> list[int]:
        """The highest step each group can have in any choice from `least` to `most` that meets the rows and is worth no
        more than `value`: in the program without whole numbers, a step's reduced cost is what taking it costs at
        least."""
        from scipy.optimize import linprog
        from scipy.sparse import vstack

        last = list(most)
        if not self.groups:
            return last
        cost, upper, constraints = self._stated(rows, least, (), most)
        (ones, _, _), *above = constraints
        inequalities = (
            {
                "A_ub": vstack([t for t, _, _ in above]),
                "b_ub": np.concatenate([np.broadcast_to(b, t.shape[0]) for t, _, b in above]),
            }
            if above
            else {}
        )
        found = linprog(
            cost, A_eq=ones, b_eq=np.ones(len(self.groups)), bounds=np.stack([0 * upper, upper], axis=1), **inequalities
        )
        if found.status != 0:
            return last
        dearer = found.lower.marginals[: self._choices] * (1 - 1e-6) > value - found.fun + 1e-9 * abs(value)
        spans = zip(self._starts, self._starts[1:], strict=False)
        free = ~dearer & (upper[: self._choices] > 0)
        return [
            int(np.flatnonzero(free[a:b])[-1]) if free[a:b].any() else top
            for (a, b), top in zip(spans, last, strict=True)
        ]

    def _stated(
        self, rows: Rows, least: Sequence[int], cuts: Sequence[dict[int, int]], most: Sequence[int] | None
    ) -> tuple[Floats, Floats, list[Constraint]]:
        """(cost and upper bound of every variable, constraints: one step a group first, then all that have but an upper
        side)."""
        width = self._choices + self._kinds
        cost = np.concatenate([*self._prices, np.full(self._kinds, self.weights.sizes)])
        constraints = [self._one_each(width)]
        if rows.left:
            constraints.append(self._drops(rows, width))
        if self._kinds:
            constraints.append(self._on_list(width))
        if cuts:
            constraints.append(self._above(cuts, width))
        upper = np.ones(width)
        for start, lowest in zip(self._starts, least, strict=False):
            upper[start : start + lowest] = 0
        for start, end, highest in zip(self._starts, self._starts[1:], most or (), strict=False):
            upper[start + highest + 1 : end] = 0
        return cost, upper, constraints

    def _one_each(self, width: int) -> Constraint:
        rows = np.repeat(np.arange(len(self.groups)), np.diff(self._starts))
        ones = columns((np.ones(len(rows)), (rows, np.arange(len(rows)))), (len(self.groups), width))
        return ones, 1, 1

    def _drops(self, rows: Rows, width: int) -> Constraint:
        entries = [(row, number, steps) for row, volts in enumerate(rows.volts) for number, steps in volts.items()]
        at = np.repeat([row for row, _, _ in entries], [len(steps) for _, _, steps in entries])
        col = np.concatenate([self._starts[number] + np.arange(len(steps)) for _, number, steps in entries])
        value = np.concatenate([steps for _, _, steps in entries])
        table = columns((value, (at, col)), (len(rows.left), width))
        return table, -np.inf, np.array(rows.left)

    def _above(self, cuts: Sequence[dict[int, int]], width: int) -> Constraint:
        entries = [
            (row, int(self._starts[number]) + step)
            for row, cut in enumerate(cuts)
            for number, level in cut.items()
            for step in range(level + 1, len(self.groups[number].steps))
        ]
        at, col = np.array(entries, dtype=int).reshape(-1, 2).T
        return columns((np.ones(len(at)), (at, col)), (len(cuts), width)), 1, np.inf

    def _on_list(self, width: int) -> Constraint:
        """A step may be taken only if its size is on the list of sizes used."""
        labels = [step.size.label for group in self.groups for step in group.steps]
        rows = np.arange(self._choices)
        cols = self._choices + np.array([self._labels.index(label) for label in labels])
        values = np.concatenate([np.ones(self._choices), -np.ones(self._choices)])
        shape = (self._choices, width)
        table = columns((values, (np.concatenate([rows, rows]), np.concatenate([rows, cols]))), shape)
        return table, -np.inf, 0
