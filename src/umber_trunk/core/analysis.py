"""One call from a design to everything the desks and the shell show of it."""

from __future__ import annotations

from umber_trunk.core.errors import Wanted, always, go_on_if
from umber_trunk.core.harness.model import Design
from umber_trunk.core.results import Results
from umber_trunk.core.sizes.propose import propose


def analyse(design: Design, before: Results | None = None, wanted: Wanted = always) -> Results:
    """Sizes what nobody sized, solves every case, checks everything. `before`, results of a like design,
    is where the passes start: the same figures sooner. Stopped once the answer isn't `wanted`."""
    proposal = propose(design, before.figures.solution if before else None, wanted)
    go_on_if(wanted)
    results = Results(design, proposal.sizes, proposal.figures)
    _ = results.findings
    return results
