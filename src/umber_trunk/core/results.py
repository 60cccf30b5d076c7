"""What is worked out of one design: the figures at once, everything else when it is first asked for, once for all."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any, TypeVar

from umber_trunk.core.catalog.shelf import Shelf
from umber_trunk.core.findings import Finding
from umber_trunk.core.harness.model import Design
from umber_trunk.core.memo import Memo
from umber_trunk.core.stages import STAGES, fetched
from umber_trunk.core.text import digest_of

if TYPE_CHECKING:
    from umber_trunk.core.solve.plant import Plant
    from umber_trunk.core.solve.solution import Solution
    from umber_trunk.core.solve.used import Figures

Answer = TypeVar("Answer")


@dataclass(frozen=True, eq=False)
class Results:
    """A design with its proposed sizes, its figures and the shelf it was worked out with. Desks, shell, paper and
    exports share one object; it may be asked from any thread."""

    design: Design
    sizes: dict[str, str]
    _figures: Figures | None
    shelf: Shelf
    _known: Memo = field(default_factory=Memo, repr=False)

    @property
    def figures(self) -> Figures:
        """The figures; where nobody asked for them before, they are worked out now."""
        return self._figures if self._figures is not None else self.once(solved)

    @property
    def plant(self) -> Plant:
        """The design as columns, with its proposed sizes: nothing in it was solved."""
        if self._figures is not None:
            return self._figures.solution.plant
        return self.once(currents).plant if self.has(currents) else self.once(columns_of)

    @property
    def amps(self) -> dict[str, float]:
        """The worst current of each wire over all cases, by its id. Less is worked out for it than for the figures."""
        solution = self._figures.solution if self._figures is not None else self.once(currents)
        return solution.worst_amps

    def once(self, work: Callable[[Results], Answer]) -> Answer:
        """The answer of a function of these results, worked out once however many threads ask."""
        return self._known.once(work, lambda: work(self))

    def know(self, work: Callable[[Results], Answer], answer: Answer) -> Answer:
        """Keeps an answer that was worked out elsewhere, where it could be stopped."""
        return self._known.once(work, lambda: answer)

    def has(self, work: Callable[[Results], Any]) -> bool:
        """Whether an answer is worked out already."""
        return work in self._known

    def with_figures(self, figures: Figures) -> Results:
        """The same design with other figures, such as those of one case; nothing else is known of it yet."""
        return replace(self, _figures=figures, _known=Memo())

    def told_of(self, design: Design) -> Results:
        """The same answers told of a design that differs only in how it is shown, and what is asked of either is known
        to both: no answer that is kept has anything of how it is told (a test asks all of them)."""
        return replace(self, design=design)

    def known(self) -> dict[Hashable, Any]:
        """What is worked out by now, by the function that did."""
        return self._known.known()

    @cached_property
    def findings(self) -> list[Finding]:
        """Everything the stages' checks have to say, faults first."""
        rows = [row for stage in STAGES for place in stage.checks for row in fetched(place)(self)]
        return sorted(rows, key=lambda row: row.severity)


def columns_of(results: Results) -> Plant:
    """The design as columns."""
    from umber_trunk.core.solve.plant import build_plant

    return build_plant(results.design, shelf=results.shelf)


def currents(results: Results) -> Solution:
    """Currents and temperatures in every case of a design all of whose sizes are chosen."""
    from umber_trunk.core.solve.solution import solve

    return solve(results.design, shelf=results.shelf)


def solved(results: Results) -> Figures:
    """The figures of a design all of whose sizes are chosen."""
    from umber_trunk.core.solve.margins import figures

    return figures(results.once(currents))


def revision_told(_: Results) -> str:
    """Which revision of its file a design is, told by who opened the file (`Results.know`); "" where nobody did."""
    return ""


def stamp(results: Results) -> str:
    """Revision and digest of a design: what makes a board, a paper and a build of the same drawing; for
    `Results.once`."""
    told = f"design {digest_of(results.design.model_dump_json())[:12]}"
    number = results.once(revision_told)
    return f"{number} · {told}" if number else told
