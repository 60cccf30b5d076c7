"""One call from a design to everything the desks and the shell show of it."""

from __future__ import annotations

from dataclasses import dataclass

from umber_trunk.core.checks import check
from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.findings import Finding
from umber_trunk.core.harness.model import Design
from umber_trunk.core.sizes.propose import propose
from umber_trunk.core.solve.margins import Figures


@dataclass(frozen=True)
class Analysis:
    """A design with its proposed sizes, figures and findings."""

    design: Design
    sizes: dict[str, str]
    figures: Figures
    findings: list[Finding]


def analyse(design: Design, before: Analysis | None = None, wanted: Wanted = always) -> Analysis:
    """Sizes what nobody sized, solves every case, checks everything. `before`, an analysis of a like design,
    is where the passes start: the same figures sooner. Stopped once the answer isn't `wanted`."""
    proposal = propose(design, before.figures.solution if before else None, wanted)
    go_on_if(wanted)
    return Analysis(design, proposal.sizes, proposal.figures, check(design, proposal.figures))
